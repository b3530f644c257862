package part

import (
	"fmt"
	"maps"
	"slices"
	"strings"

	"jollydrawer/core/cabinet"
	"jollydrawer/core/measure"
)

// Alternates are equal in form, fit and function: all sources of a part share its parameters. Where the record of a source said
// otherwise of a parameter that tells the drawer's parts apart, the source keeps what it said (Source.Unlike), whoever attached it.

// Unlike says of a source in which identifying parameters its own values differ from those of a part; what it does not say differs
// in nothing. It is nil where nothing differs.
func Unlike(t *cabinet.Template, says map[string]cabinet.Value, of map[string]cabinet.Value) map[string]string {
	var out map[string]string
	for _, key := range t.Identity {
		slot, ok := t.Slot(key)
		if v := says[key]; ok && !v.IsBlank() && !of[key].IsBlank() && v.Meant() != of[key].Meant() {
			if out == nil {
				out = map[string]string{}
			}
			out[key] = slot.Shown(v)
		}
	}
	return out
}

// KeepUnlike carries over from an earlier content what its sources said otherwise, where c names the same sources, and leaves out what
// differs no more: the parameter is not identifying, or the part says the same by now.
func (c *Content) KeepUnlike(t *cabinet.Template, before *Content) {
	for i := range c.Sources {
		s := &c.Sources[i]
		said := maps.Clone(s.Unlike)
		for _, b := range before.Sources {
			if b.Key() != s.Key() {
				continue
			}
			for key, text := range b.Unlike {
				if _, ok := said[key]; !ok {
					if said == nil {
						said = map[string]string{}
					}
					said[key] = text
				}
			}
		}
		maps.DeleteFunc(said, func(key, text string) bool { return !c.unlike(t, key, text) })
		if s.Unlike = said; len(said) == 0 {
			s.Unlike = nil
		}
	}
}

// unlike says whether what a source said of a parameter is otherwise than what the part says.
func (c *Content) unlike(t *cabinet.Template, key, text string) bool {
	slot, ok := t.Slot(key)
	if !ok || !slices.Contains(t.Identity, key) || strings.TrimSpace(text) == "" || len(text) > MaxText {
		return false
	}
	have := c.Values[key]
	if slot.Shown(have) == text {
		return false
	}
	v, problem := slot.Read(text, measure.Options{})
	return problem != nil || v.Meant() != have.Meant()
}

// Unequal lists in words which sources are no alternates in the full sense, and why: "Kelpline KL-1: Tolerance ±5 %, not ±1 %".
func (c *Content) Unequal(t *cabinet.Template) (out []string) {
	for _, s := range c.Sources {
		var why []string
		for _, key := range slices.Sorted(maps.Keys(s.Unlike)) {
			if slot, ok := t.Slot(key); ok && c.unlike(t, key, s.Unlike[key]) {
				have := slot.Shown(c.Values[key])
				if have == "" {
					have = "blank"
				}
				why = append(why, fmt.Sprintf("%s %s, not %s", slot.Label, s.Unlike[key], have))
			}
		}
		if len(why) > 0 {
			out = append(out, fmt.Sprintf("%s %s: %s", s.Manufacturer, s.MPN, strings.Join(why, ", ")))
		}
	}
	return out
}
