package intakes

import (
	"slices"
	"strings"

	"jollydrawer/core/cabinet"
	"jollydrawer/core/crosswalk"
	"jollydrawer/core/intake"
	"jollydrawer/core/origin"
)

// pin keeps one thing about a row that somebody settled as it is, where an edit would change it: a cell at a text, or the row in a drawer,
// where field is blank.
type pin struct {
	row   int
	field string
	text  string
}

// pins are what keeps the settled rows of a preview as they are, those apart that may change. What cannot be kept by a text in a cell has none:
// whoever looks at the outcome finds it changed.
func pins(was *evaluation, moved []intake.Moved, may []int) (out []pin) {
	for _, m := range moved {
		if m.Settled == "" || slices.Contains(may, m.Row) {
			continue
		}
		now := map[string]pin{}
		if at := was.result.At(m.Row); at >= 0 {
			was.result.EachValue(at, func(key string, v cabinet.Value, o origin.Origin, _ *cabinet.Problem) {
				if o.Field != "" && v.Type != cabinet.Raw {
					now[key] = pin{m.Row, o.Field, asWritten(v, was.cw, o.Field)}
				}
			})
		}
		for _, v := range m.Moves {
			if v.Settled == "" {
				continue
			}
			p, ok := now[v.What]
			if v.What == "drawer" && v.From != "" {
				p, ok = pin{m.Row, "", v.From}, true
			}
			if ok && !slices.Contains(out, p) {
				out = append(out, p)
			}
		}
	}
	return out
}

// asWritten is a value as a cell of a field says it, with the decimal mark that the field is read with.
func asWritten(v cabinet.Value, cw crosswalk.Crosswalk, field string) string {
	mark := cw.DecimalMark
	for _, r := range cw.Fields {
		if r.From == field && r.Mark != "" {
			mark = r.Mark
		}
	}
	if mark == "comma" && (v.Type == cabinet.Measure || v.Type == cabinet.Number) {
		return strings.ReplaceAll(v.String(), ".", ",")
	}
	return v.String()
}
