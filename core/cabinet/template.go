package cabinet

import (
	"fmt"
	"slices"
	"strings"

	"jollydrawer/core/measure"
)

// Template is a drawer with everything it inherits, ready to check parts against.
type Template struct {
	Drawer
	Path   []string // keys from the outermost drawer to this one
	Slots  []Slot   // inherited first
	Leaf   bool     // no drawer lies inside it: only leaves hold parts
	byKey  map[string]int
	phrase *Pattern
	naming *Pattern
	models map[string]*Pattern // names of models by kind
}

// Slot is one parameter of a template, with what the drawers said about it.
type Slot struct {
	Parameter
	Required bool
	ByHand   bool
	Default  string
	// Preferred: values come in preferred numbers (IEC 60063).
	Preferred bool
	// UsualIn holds, by the code of a case, the range that values lie in there.
	UsualIn  map[string]measure.Usual
	From     string // key of the drawer that brought it in
	Narrowed string // key of the drawer that last said more about it, or ""
}

// use adds a parameter or narrows an inherited one; a child may not loosen what its parent demands.
func (t *Template) use(c *Cabinet, u Use) error {
	i, inherited := t.byKey[u.Key]
	if !inherited {
		p, ok := c.parameters[u.Key]
		if !ok {
			return fmt.Errorf("the drawer %q uses the parameter %q, which the dictionary lacks", t.Key, u.Key)
		}
		i = len(t.Slots)
		t.byKey[u.Key] = i
		t.Slots = append(t.Slots, Slot{Parameter: p, From: t.Key})
	}
	s := &t.Slots[i]
	if inherited {
		s.Narrowed = t.Key
	}
	s.Required = s.Required || u.Required
	s.ByHand = s.ByHand || u.ByHand
	s.Preferred = s.Preferred || u.Preferred
	if u.Preferred && s.Type != Measure {
		return fmt.Errorf("the drawer %q wants preferred numbers for %q, which is a %s", t.Key, u.Key, s.Type)
	}
	if len(u.Choices) > 0 {
		if s.Type != Choice {
			return fmt.Errorf("the drawer %q gives choices for %q, which is a %s", t.Key, u.Key, s.Type)
		}
		for _, want := range u.Choices {
			if !slices.Contains(s.Choices, want) {
				return fmt.Errorf("the drawer %q allows %q for %q, but %s (from %q) does not: a drawer may only narrow what it inherits",
					t.Key, want, u.Key, strings.Join(s.Choices, ", "), s.From)
			}
		}
		s.Choices = u.Choices
	}
	if u.Usual != "" {
		r, ok := s.usualRange(u.Usual)
		if !ok {
			return fmt.Errorf("the drawer %q gives %q the usual range %q: write two values of %s", t.Key, u.Key, u.Usual, s.Of)
		}
		s.Usual, s.usual = u.Usual, r
	}
	if len(u.UsualIn) > 0 {
		s.UsualIn = map[string]measure.Usual{}
		for code, text := range u.UsualIn {
			r, ok := s.usualRange(text)
			if !ok {
				return fmt.Errorf("the drawer %q gives %q the usual range %q in %s: write two values of %s", t.Key, u.Key, text, code, s.Of)
			}
			s.UsualIn[strings.ToUpper(code)] = r
		}
	}
	if u.Default != "" {
		s.Default = u.Default
	}
	if s.Default != "" && s.ByHand {
		return fmt.Errorf("the drawer %q gives %q the default %q, though it is to be filled by hand", t.Key, u.Key, s.Default)
	}
	if s.Default != "" {
		if _, problem := s.Read(s.Default, measure.Options{}); problem != nil {
			return fmt.Errorf("the drawer %q: the default of %q (from %q) does not fit: %s; %s", t.Key, u.Key, s.From, problem.Why, problem.Mend)
		}
	}
	return nil
}

func (t *Template) checkReferences() error {
	if t.Leading != "" && !t.Has(t.Leading) {
		return fmt.Errorf("the drawer %q has the leading parameter %q, which is not in its template", t.Key, t.Leading)
	}
	if t.Case != "" && !t.Has(t.Case) {
		return fmt.Errorf("the drawer %q names its case by %q, which is not in its template", t.Key, t.Case)
	}
	for what, keys := range map[string][]string{"identifies parts by": t.Identity, "shows on a drawing": t.Drawing, "lets a designer change": t.Designer, "lists the column": t.Columns} {
		for _, k := range keys {
			if !t.Has(k) && !(what == "lists the column" && slices.Contains(ownColumns, k)) {
				return fmt.Errorf("the drawer %q %s %q, which is not in its template", t.Key, what, k)
			}
		}
	}
	for _, k := range t.Designer {
		if !slices.Contains(t.Drawing, k) {
			return fmt.Errorf("the drawer %q lets a designer change %q, which its drawing does not show: add it to drawing", t.Key, k)
		}
	}
	switch {
	case t.Prefix == "":
	case !prefixForm.MatchString(t.Prefix):
		return fmt.Errorf("the drawer %q has the prefix %q: use capitals, digits and dashes, beginning with a capital, at most 16", t.Key, t.Prefix)
	case t.Digits == 0:
		return fmt.Errorf("the drawer %q has the prefix %q and says not of how many digits its counter is: add digits: 5", t.Key, t.Prefix)
	case t.Digits < 0 || t.Digits > 12:
		return fmt.Errorf("the drawer %q has a counter of %d digits: use 1 to 12", t.Key, t.Digits)
	}
	var err error
	if t.phrase, err = t.pattern("description", t.Description); err == nil {
		t.naming, err = t.pattern("name", t.Name)
	}
	t.models = map[string]*Pattern{}
	for kind, text := range t.Models.Names.Patterns() {
		if err == nil {
			t.models[kind], err = t.pattern("name of the "+kind, *text)
		}
	}
	return err
}

// ownColumns are the columns of a list that are no parameters.
var ownColumns = []string{"number", "description", "manufacturer", "mpn", "drawer", "status", "standing"}

// pattern reads one of the drawer's patterns and checks what it names.
func (t *Template) pattern(what, text string) (*Pattern, error) {
	if text == "" {
		return nil, nil
	}
	p, err := ParsePattern(text)
	if err == nil {
		for _, k := range p.Keys() {
			if s, ok := t.Slot(k.Key); !ok && k.Key != KeyMPN && k.Key != KeyManufacturer {
				err = fmt.Errorf("it names {%s} at character %d, which is not in the template", k.Key, k.At)
			} else if k.Unit != "" && k.Unit != "marking" && (s.Type != Measure || !measure.UnitOf(k.Unit, s.Of)) {
				err = fmt.Errorf("it shows {%s} in %q at character %d, which is no unit of it", k.Key, k.Unit, k.At)
			}
		}
	}
	if err != nil {
		return nil, fmt.Errorf("the %s pattern of the drawer %q: %w", what, t.Key, err)
	}
	return p, nil
}

// Has says whether the template has a parameter.
func (t *Template) Has(key string) bool { _, ok := t.byKey[key]; return ok }

// Slot returns a parameter of the template.
func (t *Template) Slot(key string) (Slot, bool) {
	i, ok := t.byKey[key]
	if !ok {
		return Slot{}, false
	}
	return t.Slots[i], true
}

// Describe builds a part's description from its values; "" where the drawer has no pattern.
func (t *Template) Describe(values map[string]Value) string {
	return t.DescribeFrom(func(key string) Value { return values[key] })
}

// DescribeFrom is Describe for values that lie elsewhere than in a map.
func (t *Template) DescribeFrom(value func(key string) Value) string {
	if t.phrase == nil {
		return ""
	}
	return t.phrase.FillFrom(value)
}

// NameOf builds a part's name from its values and its first source; "" where the drawer has no rule for names.
func (t *Template) NameOf(values map[string]Value, manufacturer, mpn string) string {
	return t.NameFrom(func(key string) Value { return values[key] }, manufacturer, mpn)
}

// NameFrom is NameOf for values that lie elsewhere than in a map.
func (t *Template) NameFrom(value func(key string) Value, manufacturer, mpn string) string {
	return name(t.naming, value, manufacturer, mpn)
}

// ModelName is the house's name for a model of a kind that arrives for a part with these values; "" where the drawer has
// no pattern for it.
func (t *Template) ModelName(kind string, values map[string]Value, manufacturer, mpn string) string {
	return name(t.models[kind], func(key string) Value { return values[key] }, manufacturer, mpn)
}

func name(p *Pattern, value func(key string) Value, manufacturer, mpn string) string {
	if p == nil {
		return ""
	}
	return p.FillFrom(func(key string) Value {
		switch key {
		case KeyManufacturer:
			return Value{Type: Text, Text: manufacturer}
		case KeyMPN:
			return Value{Type: Text, Text: mpn}
		}
		return value(key)
	})
}

// Derive returns what the values say of blank ones: the metric code of a chip case from the inch code and back. A
// difference between two that are filled is the error.
func (t *Template) Derive(values map[string]Value) (more map[string]Value, err error) {
	var inch, metric string
	for _, s := range t.Slots {
		switch s.ChipCode {
		case "inch":
			inch = s.Key
		case "metric":
			metric = s.Key
		}
	}
	if inch == "" || metric == "" {
		return nil, nil
	}
	vi, vm := values[inch], values[metric]
	fromInch, okInch := measure.CaseToMetric(vi.Text)
	fromMetric, okMetric := measure.CaseFromMetric(vm.Text)
	fill := func(key, code string) map[string]Value {
		s, _ := t.Slot(key)
		if v, problem := s.Read(code, measure.Options{}); problem == nil {
			return map[string]Value{key: v}
		}
		return nil
	}
	switch {
	case vi.IsBlank() && okMetric:
		return fill(inch, fromMetric), nil
	case vm.IsBlank() && okInch:
		return fill(metric, fromInch), nil
	case okInch && !vm.IsBlank() && vm.Text != fromInch:
		return nil, fmt.Errorf("%s inch is %s metric, and not %s", vi.Text, fromInch, vm.Text)
	case okMetric && !vi.IsBlank() && vi.Text != fromMetric:
		return nil, fmt.Errorf("%s metric is %s inch, and not %s", vm.Text, fromMetric, vi.Text)
	}
	return nil, nil
}

// UnusualInCase says why a value does not go into the case that a part has: 471 µF in 0402. It is "" where it does, or
// where nobody said what goes there.
func (t *Template) UnusualInCase(s *Slot, v, in Value) string {
	u, ok := s.UsualIn[strings.ToUpper(in.Text)]
	if !ok || v.Type != Measure {
		return ""
	}
	if why := outside(u, v.Measure, s.Label); why != "" {
		return why + " in " + in.Text
	}
	return ""
}

// Inside says whether the drawer is another or lies in it.
func (t *Template) Inside(drawer string) bool { return slices.Contains(t.Path, drawer) }

// PartNumber writes the n-th number of the drawer's counter.
func (t *Template) PartNumber(n int64) string { return fmt.Sprintf("%s-%0*d", t.Prefix, t.Digits, n) }
