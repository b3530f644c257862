package intake

import (
	"fmt"
	"slices"
	"strings"
	"unicode"

	"jollydrawer/core/cabinet"
	"jollydrawer/core/crosswalk"
	"jollydrawer/core/finding"
	"jollydrawer/core/measure"
)

// Mend is one way to settle all findings of a cause. Exactly one of its members says how.
type Mend struct {
	Label    string            `json:"label"`
	Name     string            `json:"name" doc:"A short name, to be typed: one for each way to mend the cause"`
	Change   *crosswalk.Change `json:"change,omitempty" doc:"Of the crosswalk"`
	Needs    string            `json:"needs,omitempty" enum:"drawer,word,text" doc:"What a person still has to say: a drawer for the kind, the word that stands for a text, a text for all rows"`
	LeaveOut bool              `json:"leaveOut,omitempty" doc:"Leave out the rows of the cause"`
	Known    string            `json:"known,omitempty" doc:"Settle all rows that the library has with other values: replace, fill or keep"`
	Like     string            `json:"like,omitempty" doc:"Settle all rows that are like a part: alternate or keep"`
	Choice   *NewChoice        `json:"choice,omitempty" doc:"Add a choice to the template"`
	Waive    bool              `json:"waive,omitempty" doc:"Accept the findings, with a reason"`
	Stated   string            `json:"stated,omitempty" doc:"Move the parts that the rows stand for to this standing, with a note; done at once, not when the intake is taken in"`
	Numbers  bool              `json:"numbers,omitempty" doc:"Keep the numbers that the rows bring as former numbers of the parts that they stand for; done at once, not when the intake is taken in"`
	Decided  string            `json:"decided,omitempty" enum:"again,withdraw" doc:"Of corrections whose cells say something else by now: correct them again, or take the corrections back"`
}

// NewChoice is a choice to be added to a parameter.
type NewChoice struct {
	Parameter string   `json:"parameter"`
	Choice    string   `json:"choice"`
	Drawers   []string `json:"drawers,omitempty" maxItems:"500" doc:"Drawers that narrow the choices and take it in as well"`
}

// Mends offers ways to settle a cause, the best first. Each was tried on the cause's examples where it can be.
func (r *Result) Mends(c finding.Cause) []Mend {
	out := []Mend{}
	check, rest, _ := strings.Cut(c.Cause, ":")
	switch check {
	case "no-drawer":
		out = append(out, r.drawerMends(rest)...)
	case "maker-spelling":
		out = append(out, r.makerMends(c)...)
	case "library-differs", "supplier-number":
		out = append(out, Mend{Name: "fill", Label: "Fill only blanks of the parts in the library", Known: Fill}, Mend{Name: "replace", Label: "Let the file’s values win", Known: Replace}, Mend{Name: "keep", Label: "Leave these rows out", Known: Keep})
	case "like-row", "like-library":
		out = append(out, Mend{Name: "alternate", Label: "Take them as other sources of the part they are like", Like: AsSource}, Mend{Name: "leave-alike", Label: "Leave these rows out", Like: Keep})
	case "required":
		out = append(out, r.requiredMends(rest)...)
	case "former-number":
		out = append(out, Mend{Name: "keep-numbers", Label: "Keep these numbers as former numbers of the parts, at once", Numbers: true})
	case "stated":
		if r.standFor(c.Cause) {
			out = append(out, Mend{Name: "move", Label: "Move the parts that the library has to " + rest + ", at once…", Stated: rest})
		}
		out = append(out, Mend{Name: "leave-out", Label: "Leave these rows out", LeaveOut: true})
	case "decided":
		out = append(out, Mend{Name: "again", Label: "Correct the cells again, to what was decided", Decided: "again"}, Mend{Name: "withdraw", Label: "Take the earlier corrections back: the file is right", Decided: "withdraw"})
	default:
		if i := r.ruleOf(c); i >= 0 {
			out = append(out, r.valueMends(c, r.in.Crosswalk.Fields[i])...)
		}
	}
	if c.Severity == finding.Error && check != "no-drawer" {
		out = append(out, Mend{Name: "leave-out", Label: "Leave these rows out", LeaveOut: true})
	}
	if c.Severity != finding.Error {
		out = append(out, Mend{Name: "accept", Label: "Accept as it is…", Waive: true})
	}
	taken := map[string]int{}
	for i := range out {
		if taken[out[i].Name]++; taken[out[i].Name] > 1 {
			out[i].Name += fmt.Sprintf("-%d", taken[out[i].Name])
		}
	}
	return out
}

// plainly writes a text as part of a name.
func plainly(s string) string {
	return strings.Trim(strings.Map(func(r rune) rune {
		if unicode.IsLetter(r) || unicode.IsDigit(r) || strings.ContainsRune("%°²", r) {
			return unicode.ToLower(r)
		}
		return '-'
	}, s), "-")
}

// ruleOf finds the rule whose values a cause is about; -1 where there is none.
func (r *Result) ruleOf(c finding.Cause) int {
	return slices.IndexFunc(r.in.Crosswalk.Fields, func(x crosswalk.Rule) bool {
		return (x.To == c.Param || x.To == crosswalk.Leading) && strings.HasSuffix(c.Cause, ":"+x.From+x.Combine+"→"+c.Param)
	})
}

func (r *Result) drawerMends(kind string) (out []Mend) {
	if kind == "" {
		none := ""
		return []Mend{{Name: "drawer", Label: "Put all rows that nothing else sorts into a drawer…", Needs: "drawer", Change: &crosswalk.Change{Drawer: &none}}}
	}
	s := newSorter(r.in.Cabinet)
	if drawer, _ := s.drawer(kind, nil); drawer != "" {
		t, _ := r.in.Cabinet.Template(drawer)
		out = append(out, Mend{Name: "put", Label: fmt.Sprintf("Put the kind %q into %s", kind, t.Label), Change: &crosswalk.Change{Kinds: map[string]string{kind: drawer}}})
	}
	return append(out, Mend{Name: "drawer", Label: fmt.Sprintf("Put the kind %q into a drawer…", kind), Needs: "drawer", Change: &crosswalk.Change{Kinds: map[string]string{kind: ""}}},
		Mend{Name: "leave-kind", Label: fmt.Sprintf("Leave out the kind %q", kind), Change: &crosswalk.Change{Leave: &crosswalk.Condition{Field: r.in.Crosswalk.Take.Kind, Is: kind}}})
}

func (r *Result) makerMends(c finding.Cause) (out []Mend) {
	for _, written := range c.Examples {
		if near := r.makers.near(r.makers.normalise(written)); near != "" {
			out = append(out, Mend{Name: "maker", Label: fmt.Sprintf("%q is %s", written, near), Change: &crosswalk.Change{Makers: map[string]string{written: near}}})
		}
	}
	return out
}

// requiredMends offers fields of the file that may fill a required parameter, and a text for all rows.
func (r *Result) requiredMends(place string) (out []Mend) {
	drawer, key, _ := strings.Cut(place, ".")
	t, ok := r.in.Cabinet.Template(drawer)
	if !ok {
		return nil
	}
	slot, _ := t.Slot(key)
	for _, g := range Suggest(r.in.Table, r.in.Crosswalk, crosswalk.Known{Cabinet: r.in.Cabinet, Drawers: []string{drawer}}) {
		if rule, ok := g.Rule(); ok && !g.Fact && (g.To == key || g.To == crosswalk.Leading && key == t.Leading) {
			out = append(out, Mend{Name: "field-" + plainly(g.From), Label: fmt.Sprintf("Fill it from the field %q", g.From), Change: &crosswalk.Change{Rule: &rule}})
		}
	}
	if field := r.in.Crosswalk.Take.Description; field != "" {
		rule := crosswalk.Rule{From: field, To: key, Drawers: []string{drawer}, Piece: &crosswalk.Piece{Fact: true}}
		if good, all := r.tryFact(rule, slot.Parameter, drawer); good > 0 {
			out = append(out, Mend{Name: "fact-" + plainly(field), Label: fmt.Sprintf("Take it out of the field %q, where %d of %d rows say it", field, good, all), Change: &crosswalk.Change{Rule: &rule}})
		}
	}
	return append(out, Mend{Name: "text", Label: fmt.Sprintf("The same for all rows in %s…", t.Label), Needs: "text", Change: &crosswalk.Change{Rule: &crosswalk.Rule{To: key, Drawers: []string{drawer}}}})
}

// tried is how many rows a mend is tried on.
const tried = 300

// tryFact counts the rows of a drawer that lack a parameter and whose text holds it.
func (r *Result) tryFact(rule crosswalk.Rule, p cabinet.Parameter, drawer string) (good, all int) {
	col, mark := slices.Index(r.in.Table.Header, rule.From), r.mark(rule)
	for i := range r.Candidates {
		c := &r.Candidates[i]
		if col < 0 || all >= tried {
			break
		}
		if c.Drawer != drawer || !r.Value(i, p.Key).IsBlank() {
			continue
		}
		all++
		if v, _, problem := rule.Read(p, r.in.Table.texts[r.in.Table.cell(c.at, col)], mark); problem == nil && !v.IsBlank() {
			good++
		}
	}
	return good, all
}

// valueMends offers other ways to read a field: a unit, one of several readings, one value out of a text, the nearest
// choice, one end of a range. A way is offered where it settles at least one of the examples.
func (r *Result) valueMends(c finding.Cause, rule crosswalk.Rule) (out []Mend) {
	p, ok := r.in.Cabinet.Parameter(c.Param)
	if !ok {
		return nil
	}
	mark := r.mark(rule)
	slots := r.slotsOf(c)
	try := func(name, label string, with crosswalk.Rule) {
		good, shown := 0, ""
		for _, e := range c.Examples {
			if v := agreed(with, slots[e], e, mark); !v.IsBlank() {
				if good++; shown == "" {
					shown = fmt.Sprintf(": %q becomes %s", e, v)
				}
			}
		}
		if good > 0 && !slices.ContainsFunc(out, func(m Mend) bool { return m.Label == label+shown }) {
			out = append(out, Mend{Name: name, Label: label + shown, Change: &crosswalk.Change{Rule: &with}})
		}
	}
	units := func(all []string) {
		if p.Type != cabinet.Measure || rule.Unit != "" {
			return
		}
		for _, u := range all {
			with := rule
			with.Unit = u
			try("unit-"+u, "Without a unit, "+u+" is meant", with)
		}
	}
	units(unitsNamed(c.Field, p)) // what the heading says goes before all that the texts might mean
	for _, e := range c.Examples {
		for _, slot := range slots[e] {
			if slot.Type != cabinet.Measure {
				continue
			}
			for _, w := range slot.Parse(e, rule.Options(mark)).Possible {
				with := rule
				with.Doubt = w.If
				try("as-"+plainly(w.If), "Read the field as though "+w.If, with)
			}
		}
		if len(out) > 4 {
			break
		}
	}
	units(unitsIn(c.Field, p))
	if rule.Piece == nil {
		with := rule
		with.Piece = &crosswalk.Piece{Fact: true}
		try("fact", fmt.Sprintf("Take the one value out of the text that can be %s", p.Label), with)
	}
	if p.Type == cabinet.Choice && len(c.Examples) > 0 {
		for _, e := range c.Examples[:min(3, len(c.Examples))] {
			if near := nearestChoice(e, p.Choices); near != "" {
				with := rule
				with.Words = withWord(rule.Words, e, near)
				out = append(out, Mend{Name: "stands-" + plainly(near), Label: fmt.Sprintf("%q stands for %q", e, near), Change: &crosswalk.Change{Rule: &with}})
			}
			out = append(out, Mend{Name: "choice-" + plainly(e), Label: fmt.Sprintf("Add the choice %q to %s", e, p.Label), Choice: &NewChoice{p.Key, e, r.drawersOf(c, e)}})
		}
	}
	if len(c.Examples) > 0 {
		with := rule
		with.Words = withWord(rule.Words, c.Examples[0], "")
		out = append(out, Mend{Name: "word", Label: fmt.Sprintf("Replace %q by…", c.Examples[0]), Needs: "word", Change: &crosswalk.Change{Rule: &with}})
	}
	drop := rule
	return append(out, Mend{Name: "no-field", Label: "Leave the field out", Change: &crosswalk.Change{Drop: &drop, Unused: rule.Inputs()}})
}

// slotsOf are what a cause's examples are read as: its parameter in the drawers of their rows, which narrow it.
func (r *Result) slotsOf(c finding.Cause) map[string][]cabinet.Parameter {
	out := map[string][]cabinet.Parameter{}
	for _, e := range c.Examples {
		for _, d := range r.drawersOf(c, e) {
			if p := r.templates[d]; p != nil {
				if slot, ok := p.t.Slot(c.Param); ok {
					out[e] = append(out[e], slot.Parameter)
				}
			}
		}
	}
	return out
}

// agreed is what a rule makes of a text as each of some parameters; blank where it cannot be read as one of them, or they are not the same.
func agreed(rule crosswalk.Rule, slots []cabinet.Parameter, text string, mark measure.Mark) (out cabinet.Value) {
	for i, slot := range slots {
		v, _, problem := rule.Read(slot, text, mark)
		if problem != nil || i > 0 && v != out {
			return cabinet.Value{}
		}
		out = v
	}
	return out
}

// drawersOf lists the drawers of the rows in which a cause is about a text.
func (r *Result) drawersOf(c finding.Cause, text string) (out []string) {
	for i := range r.Findings {
		if f := &r.Findings[i]; f.Cause == c.Cause && f.Text == text && f.Row > 0 {
			if d := r.Candidates[r.At(f.Row)].Drawer; d != "" && !slices.Contains(out, d) {
				out = append(out, d)
			}
		}
	}
	slices.Sort(out)
	return out
}

// standFor says whether some row of a cause stands for a part of the library.
func (r *Result) standFor(cause string) bool {
	return slices.ContainsFunc(r.Findings, func(f finding.Finding) bool {
		return f.Cause == cause && f.Row > 0 && r.Candidates[r.At(f.Row)].Part != ""
	})
}

func withWord(words map[string]string, text, stands string) map[string]string {
	out := map[string]string{text: stands}
	for k, v := range words {
		if k != text {
			out[k] = v
		}
	}
	return out
}

// unitsNamed lists the units of a parameter's kind that a field's name holds, the last first: mm of "Length/mm". R is no unit there but
// the sign of what is measured.
func unitsNamed(field string, p cabinet.Parameter) (out []string) {
	words := strings.FieldsFunc(field, func(r rune) bool { return strings.ContainsRune(" ()[]{}/,;:.", r) })
	for _, w := range slices.Backward(words) {
		if w != "R" && !slices.Contains(out, w) && measure.UnitOf(w, p.Of) {
			out = append(out, w)
		}
	}
	return out
}

// unitsIn lists units that a field may mean: the one that its name holds, the one that its parameter is shown in, and
// the plain unit with its usual prefixes.
func unitsIn(field string, p cabinet.Parameter) []string {
	out := unitsNamed(field, p)
	put := func(u string) {
		if u != "" && !slices.Contains(out, u) && measure.UnitOf(u, p.Of) {
			out = append(out, u)
		}
	}
	put(p.Show)
	put(p.AssumeUnit)
	dim, _ := measure.ParseDimension(p.Of)
	if one, err := measure.NewNumber(1, 0); err == nil {
		_, unit, _ := strings.Cut(measure.Of(dim, one).String(), " ")
		put(unit)
		for _, prefix := range []string{"m", "µ", "k", "n", "p"} {
			put(prefix + unit)
		}
	}
	return out[:min(len(out), 6)]
}

func nearestChoice(text string, choices []string) string {
	best, found, twice := 3, "", false
	fold := func(s string) string {
		return strings.Join(strings.FieldsFunc(strings.ToLower(s), func(r rune) bool { return r == ' ' || r == '-' || r == '_' || r == '/' }), "")
	}
	t := fold(text)
	for _, c := range choices {
		f := fold(c)
		d := distance(t, f)
		if len(t) >= 3 && len(f) >= 3 && (strings.HasPrefix(t, f) || strings.HasPrefix(f, t)) {
			d = min(d, 1)
		}
		if d*3 > max(len(t), len(f)) && d > 0 {
			continue
		}
		if d == best {
			twice = true
		}
		if d < best {
			best, found, twice = d, c, false
		}
	}
	if twice {
		return ""
	}
	return found
}
