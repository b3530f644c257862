package intakes

import (
	"slices"

	"jollydrawer/core/cabinet"
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
func pins(was *intake.Result, moved []intake.Moved, may []int) (out []pin) {
	for _, m := range moved {
		if m.Settled == "" || slices.Contains(may, m.Row) {
			continue
		}
		now := map[string]pin{}
		if at := was.At(m.Row); at >= 0 {
			was.EachValue(at, func(key string, v cabinet.Value, o origin.Origin, _ *cabinet.Problem) {
				if o.Field != "" && v.Type != cabinet.Raw {
					now[key] = pin{m.Row, o.Field, v.String()}
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
