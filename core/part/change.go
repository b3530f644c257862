package part

import (
	"maps"
	"slices"
	"strings"

	"jollydrawer/core/cabinet"
	"jollydrawer/core/measure"
)

// Loss is a value that a change of templates cannot carry over.
type Loss struct {
	Parameter string `json:"parameter"`
	Text      string `json:"text"` // the value as it was shown
	Why       string `json:"why"`
	Kept      bool   `json:"kept"` // it stays on the part as text that is still to be read
}

// Change carries a part's content over to changed templates and says what is lost on the way. number is the part's;
// from and to are the cabinets before and after the steps. c itself is not changed; same is true where nothing is.
func Change(c Content, number string, steps []cabinet.Step, from, to *cabinet.Cabinet) (out Content, losses []Loss, same bool) {
	out = c
	out.Values = maps.Clone(c.Values)
	if out.Values == nil {
		out.Values = map[string]cabinet.Value{}
	}
	// Values first, then drawers, then texts: a part is moved with the keys that its values have in the end.
	for _, pass := range [][]string{{cabinet.Rename, cabinet.Retype, cabinet.Unit, cabinet.Split, cabinet.Retire}, {cabinet.Move}, {cabinet.Redescribe}} {
		for i, s := range steps {
			if slices.Contains(pass, s.Do) {
				losses = append(losses, out.step(s, number, from, to, func(key string) string { return lastName(key, steps[i+1:]) })...)
			}
		}
	}
	if before, ok := from.Template(c.Drawer); ok {
		if after, ok := to.Template(out.Drawer); ok {
			out.follow(c, before, after)
		}
	}
	return out, losses, out.Drawer == c.Drawer && out.Description == c.Description && out.Name == c.Name && maps.Equal(out.Values, c.Values)
}

// Renamed lists the parameters that get another key where steps do nothing but give names; ok says whether that is so. Then every
// part says under the new keys what it said under the old ones: nothing is lost, nothing becomes incomplete, and no text is built
// otherwise.
func Renamed(steps []cabinet.Step, from *cabinet.Cabinet) (keys []string, ok bool) {
	if slices.ContainsFunc(steps, func(s cabinet.Step) bool { return s.Do != cabinet.Rename }) {
		return nil, false
	}
	for _, p := range from.Document.Parameters {
		if lastName(p.Key, steps) != p.Key {
			keys = append(keys, p.Key)
		}
	}
	return keys, true
}

// lastName is the key that a parameter has after the steps that follow.
func lastName(key string, steps []cabinet.Step) string {
	for _, s := range steps {
		if s.Do == cabinet.Rename && s.Parameter == key && s.To != "" {
			key = s.To
		}
	}
	return key
}

// follow builds description and name anew where they were built before.
func (c *Content) follow(was Content, before, after *cabinet.Template) {
	if was.Description == before.Describe(was.Values) {
		if d := after.Describe(c.Values); d != "" {
			c.Description = d
		}
	}
	if was.Name == was.NameBy(before) {
		if n := c.NameBy(after); n != "" {
			c.Name = n
		}
	}
}

// NameBy builds the part's name by a drawer's rule; "" where it has none.
func (c *Content) NameBy(t *cabinet.Template) string {
	if len(c.Sources) == 0 {
		return t.NameOf(c.Values, "", "")
	}
	return t.NameOf(c.Values, c.Sources[0].Manufacturer, c.Sources[0].MPN)
}

func (c *Content) step(s cabinet.Step, number string, from, to *cabinet.Cabinet, last func(string) string) (losses []Loss) {
	v, has := c.Values[s.Parameter]
	switch s.Do {
	case cabinet.Rename:
		if has && s.To != "" && s.To != s.Parameter {
			c.Values[s.To] = v
			delete(c.Values, s.Parameter)
		}
	case cabinet.Retype:
		p, ok := to.Parameter(last(s.Parameter))
		if !has || !ok || p.OfType(v) == nil {
			return nil
		}
		now, problem := p.Read(v.String(), measure.Options{})
		if problem != nil {
			losses = append(losses, Loss{s.Parameter, v.String(), problem.Why, true})
		}
		c.Values[s.Parameter] = now
	case cabinet.Split:
		for _, into := range s.Into {
			if have := c.Values[into.Parameter]; !has || !have.IsBlank() {
				continue
			}
			text, ok := take(v, into)
			p, known := to.Parameter(last(into.Parameter))
			if !ok || !known {
				if ok {
					continue
				}
				losses = append(losses, Loss{into.Parameter, v.String(), "it has no part that could be taken as " + into.Take, false})
				continue
			}
			now, problem := p.Read(text, measure.Options{Mark: measure.MarkPoint})
			if problem != nil {
				losses = append(losses, Loss{into.Parameter, text, problem.Why, true})
			}
			if !now.IsBlank() {
				c.Values[into.Parameter] = now
			}
		}
	case cabinet.Retire:
		if t, ok := from.Template(c.Drawer); has && (s.Drawer == "" || ok && t.Inside(s.Drawer)) {
			losses = append(losses, Loss{s.Parameter, v.String(), "the parameter is retired; earlier revisions keep the value", false})
			delete(c.Values, s.Parameter)
		}
	case cabinet.Move:
		t, ok := from.Template(c.Drawer)
		if len(s.Parts) > 0 && !slices.Contains(s.Parts, number) || s.Drawer != "" && (!ok || !t.Inside(s.Drawer)) {
			return nil
		}
		return c.moveTo(s.To, to)
	case cabinet.Redescribe:
		if t, ok := to.Template(c.Drawer); ok && t.Inside(s.Drawer) {
			if d := t.Describe(c.Values); d != "" {
				c.Description = d
			}
			if n := c.NameBy(t); n != "" {
				c.Name = n
			}
		}
	}
	return losses
}

// moveTo puts the part into another drawer; values that its template lacks are lost.
func (c *Content) moveTo(drawer string, to *cabinet.Cabinet) (losses []Loss) {
	c.Drawer = drawer
	t, ok := to.Template(drawer)
	if !ok {
		return nil
	}
	for _, key := range slices.Sorted(maps.Keys(c.Values)) {
		if slot, ok := t.Slot(key); !ok {
			losses = append(losses, Loss{key, c.Values[key].String(), "the template of " + t.Label + " has no such parameter", false})
			delete(c.Values, key)
		} else if err := slot.OfType(c.Values[key]); err != nil && c.Values[key].Type != cabinet.Raw {
			losses = append(losses, Loss{key, c.Values[key].String(), err.Error(), true})
		}
	}
	return losses
}

// take returns the part of a value that a split wants, as text.
func take(v cabinet.Value, into cabinet.SplitOff) (string, bool) {
	if into.Mark != "" {
		before, after, ok := strings.Cut(v.String(), into.Mark)
		if into.Take == "after" {
			before = after
		}
		return strings.TrimSpace(before), ok
	}
	m := v.Measure
	if v.Type != cabinet.Measure {
		return "", false
	}
	switch into.Take {
	case "low":
		return measure.Of(m.Of, m.Low).String(), m.Shape == measure.Range || m.Shape == measure.List || m.Shape == measure.AtLeast
	case "high":
		return measure.Of(m.Of, m.High).String(), m.Shape == measure.Range || m.Shape == measure.List || m.Shape == measure.AtMost
	case "nominal":
		return measure.Of(m.Of, m.High).String(), m.Shape == measure.Nominal
	case "tolerance":
		d := measure.Measure{Of: measure.Ratio, Shape: measure.Deviation, Minus: m.Minus, Plus: m.Plus, Tol: m.Tol}
		if m.Tol == measure.Absolute {
			d.Of = m.Of
		}
		return d.String(), m.Tol != measure.NoTol
	case "condition":
		return m.Cond, m.Cond != ""
	}
	return "", false
}
