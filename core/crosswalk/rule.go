package crosswalk

import (
	"errors"
	"fmt"
	"strings"

	"jollydrawer/core/cabinet"
	"jollydrawer/core/described"
	"jollydrawer/core/measure"
)

// Rule fills one parameter from one field, from several, or with a constant. What it does to the text happens in the
// order of its members: combine, piece, words, case system; then the text is read as a value.
type Rule struct {
	From     string            `json:"from,omitempty" yaml:"from,omitempty"`         // the field
	Combine  string            `json:"combine,omitempty" yaml:"combine,omitempty"`   // instead of from: fields in braces and words between, "{L} x {W}"
	Constant string            `json:"constant,omitempty" yaml:"constant,omitempty"` // instead of from: the same text for every row
	To       string            `json:"to" yaml:"to"`                                 // a parameter key, or @leading
	Drawers  []string          `json:"drawers,omitempty" yaml:"drawers,omitempty"`   // only there and inside; blank: wherever the template has it
	Piece    *Piece            `json:"piece,omitempty" yaml:"piece,omitempty"`       // a part of the text
	Words    map[string]string `json:"words,omitempty" yaml:"words,omitempty"`       // whole texts to replace
	System   string            `json:"caseSystem,omitempty" yaml:"caseSystem,omitempty"`
	Unit     string            `json:"unit,omitempty" yaml:"unit,omitempty"`               // of values that carry none
	Mark     string            `json:"decimalMark,omitempty" yaml:"decimalMark,omitempty"` // "comma" or "point", for this field alone
	Memory   string            `json:"memory,omitempty" yaml:"memory,omitempty"`           // "binary" or "decimal": whether a k of memory is 1024 or 1000
	Doubt    string            `json:"doubt,omitempty" yaml:"doubt,omitempty"`             // which reading is meant where there are several: its "if"
	End      string            `json:"end,omitempty" yaml:"end,omitempty"`                 // "low" or "high": one end of a range
}

// Piece is a part of a text: what stands after one mark and before another, a word by its place, or the one value in
// the text that fits the parameter. One of the three ways is used.
type Piece struct {
	After  string `json:"after,omitempty" yaml:"after,omitempty"`
	Before string `json:"before,omitempty" yaml:"before,omitempty"`
	Word   int    `json:"word,omitempty" yaml:"word,omitempty"` // from 1; from the end where negative
	Fact   bool   `json:"fact,omitempty" yaml:"fact,omitempty"`
}

func (r Rule) check() error {
	sources := 0
	for _, s := range []string{r.From, r.Combine, r.Constant} {
		if s != "" {
			sources++
		}
	}
	switch {
	case r.To == "" || sources == 0:
		return errors.New("lacks its from or its to")
	case sources > 1:
		return errors.New("has more than one of from, combine and constant")
	case r.System != "" && r.System != "inch" && r.System != "metric":
		return fmt.Errorf("has the case system %q: use inch or metric", r.System)
	case r.Mark != "" && r.Mark != "comma" && r.Mark != "point":
		return fmt.Errorf("has the decimal mark %q: use comma or point", r.Mark)
	case r.Memory != "" && r.Memory != "binary" && r.Memory != "decimal":
		return fmt.Errorf("counts memory %q: use binary or decimal", r.Memory)
	case r.End != "" && r.End != "low" && r.End != "high":
		return fmt.Errorf("takes the end %q of a range: use low or high", r.End)
	case r.Combine != "" && len(r.Inputs()) == 0:
		return fmt.Errorf("combines no field: write fields in braces, such as {Length} x {Width}")
	}
	if p := r.Piece; p != nil {
		ways := 0
		for _, set := range []bool{p.After != "" || p.Before != "", p.Word != 0, p.Fact} {
			if set {
				ways++
			}
		}
		if ways != 1 {
			return errors.New("takes a piece: give after and before, or a word, or fact")
		}
	}
	return nil
}

// Inputs lists the fields that the rule reads.
func (r Rule) Inputs() (fields []string) {
	if r.From != "" {
		return []string{r.From}
	}
	rest := r.Combine
	for {
		_, after, ok := strings.Cut(rest, "{")
		if !ok {
			return fields
		}
		name, left, ok := strings.Cut(after, "}")
		if !ok {
			return fields
		}
		fields, rest = append(fields, name), left
	}
}

// Written is the text that the rule begins with; blank where none of its fields is filled.
func (r Rule) Written(cell func(field string) string) string {
	switch {
	case r.From != "":
		return cell(r.From)
	case r.Constant != "":
		return r.Constant
	}
	var out strings.Builder
	rest, any := r.Combine, false
	for _, f := range r.Inputs() {
		before, after, _ := strings.Cut(rest, "{"+f+"}")
		c := strings.TrimSpace(cell(f))
		any = any || c != ""
		out.WriteString(before + c) // what a cell holds is never taken for a field in braces
		rest = after
	}
	if !any {
		return ""
	}
	return strings.Join(strings.Fields(out.String()+rest), " ")
}

// Same says whether two rules fill the same from the same, so that one takes the other's place.
func (r Rule) Same(o Rule) bool {
	return r.From == o.From && r.Combine == o.Combine && (r.Constant == "") == (o.Constant == "") && r.To == o.To && strings.Join(r.Drawers, ",") == strings.Join(o.Drawers, ",")
}

// Applies says whether the rule holds for rows in a drawer, and which parameter it fills there.
func (r Rule) Applies(t *cabinet.Template) (key string, ok bool) {
	if len(r.Drawers) > 0 {
		in := false
		for _, d := range r.Drawers {
			in = in || t.Inside(d)
		}
		if !in {
			return "", false
		}
	}
	key = r.To
	if key == Leading {
		key = t.Leading
	}
	return key, t.Has(key)
}

// Options are how the rule reads a text; mark is the decimal mark where the rule itself says none.
func (r Rule) Options(mark measure.Mark) measure.Options {
	o := measure.Options{Unit: r.Unit, Mark: mark, Choose: r.Doubt}
	switch r.Memory {
	case "binary":
		o.Binary = measure.BinaryPowers
	case "decimal":
		o.Binary = measure.DecimalPowers
	}
	if r.Mark != "" {
		o.Mark = Crosswalk{DecimalMark: r.Mark}.Mark()
	}
	return o
}

// Read turns a written text into a value of p by the rule. note says what was done to the text, for the value's
// origin.
func (r Rule) Read(p cabinet.Parameter, written string, mark measure.Mark) (v cabinet.Value, note string, problem *cabinet.Problem) {
	o := r.Options(mark)
	text := strings.TrimSpace(written)
	var notes []string
	if r.Piece != nil {
		if piece := r.Piece.of(text); piece != text {
			notes, text = append(notes, fmt.Sprintf("%q is a piece of %q", piece, text)), piece
		}
	}
	if w, ok := r.Words[text]; ok {
		notes, text = append(notes, fmt.Sprintf("%q stands for %q", text, w)), w
	}
	if r.System == "metric" {
		if inch, ok := measure.CaseFromMetric(strings.TrimSuffix(strings.TrimSuffix(strings.ToUpper(text), "M"), " METRIC")); ok {
			notes, text = append(notes, "metric "+text+" is inch "+inch), inch
		}
	}
	if r.Constant != "" {
		notes = append(notes, "a constant of the crosswalk")
	}
	if r.Piece != nil && r.Piece.Fact {
		var fact string
		if fact, problem = factIn(text, p, o); problem != nil {
			return cabinet.Value{Type: cabinet.Raw, Text: text}, strings.Join(notes, "; "), problem
		}
		if fact != text {
			notes, text = append(notes, fmt.Sprintf("%q is the %s in %q", fact, p.Label, text)), fact
		}
	}
	v, problem = p.Read(text, o)
	if problem == nil && v.Type == cabinet.Measure {
		if r.End != "" && v.Measure.Shape == measure.Range {
			n := v.Measure.High
			if r.End == "low" {
				n = v.Measure.Low
			}
			notes, v.Measure = append(notes, "the "+r.End+" end of "+v.Measure.String()), measure.Of(v.Measure.Of, n)
		}
		if r.Unit != "" {
			notes = append(notes, "without a unit, "+r.Unit+" is meant")
		}
		if r.Doubt != "" {
			notes = append(notes, "read as though "+r.Doubt)
		}
	}
	return v, strings.Join(notes, "; "), problem
}

// of cuts the piece out of a text; blank where the marks or the word are not there.
func (p *Piece) of(text string) string {
	if p.Fact {
		return text
	}
	if p.Word != 0 {
		words := strings.Fields(text)
		at := p.Word - 1
		if p.Word < 0 {
			at = len(words) + p.Word
		}
		if at < 0 || at >= len(words) {
			return ""
		}
		return words[at]
	}
	if p.After != "" {
		_, rest, ok := strings.Cut(text, p.After)
		if !ok {
			return ""
		}
		text = rest
	}
	if p.Before != "" {
		first, _, ok := strings.Cut(text, p.Before)
		if !ok && p.After == "" {
			return ""
		}
		text = first
	}
	return strings.TrimSpace(text)
}

// factIn finds the one value in a text that fits a parameter: a measure of its dimension, one of its choices, a chip
// case. Where two fit that differ, it is a doubt; where none does, the text says nothing of the parameter.
func factIn(text string, p cabinet.Parameter, o measure.Options) (string, *cabinet.Problem) {
	var found []string
	put := func(s string) {
		for _, have := range found {
			if strings.EqualFold(have, s) {
				return
			}
		}
		found = append(found, s)
	}
	switch {
	case p.ChipCode != "":
		for _, f := range measure.Facts(text, o) {
			if f.Case != (measure.Case{}) {
				code := f.Case.Inch
				if p.ChipCode == "metric" {
					code = f.Case.Metric
				}
				put(code)
			} else if poss := f.Reading.Possible; len(poss) == 2 && p.ChipCode == "inch" && poss[0].Case.Inch != "" {
				put(poss[0].Case.Inch) // a bare code is the inch one unless something says metric, as in a field of cases
			}
		}
	case p.Type == cabinet.Measure:
		dim, _ := measure.ParseDimension(p.Of)
		named := false
		for _, f := range described.For(p).Read(text, o) { // a name before a value decides
			if f.Count || f.Name != "" && len(f.Keys) == 0 || f.Fact.Case != (measure.Case{}) || !fits(f.Fact.Reading, dim, p.Deviation) {
				continue
			}
			if f.Name != "" && !named {
				named, found = true, nil
			}
			if named == (f.Name != "") {
				put(f.Text)
			}
		}
	case p.Type == cabinet.Choice:
		for _, c := range p.Choices {
			if strings.Contains(" "+words(text)+" ", " "+words(c)+" ") {
				put(c)
			}
		}
	default:
		return text, nil
	}
	switch len(found) {
	case 0:
		return "", nil
	case 1:
		return found[0], nil
	}
	return "", &cabinet.Problem{Kind: "several-values", Why: fmt.Sprintf("%q holds several values that could be %s: %s", text, p.Label, strings.Join(found, ", ")),
		Mend: "take the piece by its marks or its place"}
}

func fits(r measure.Reading, dim measure.Dimension, deviation bool) bool {
	if r.Outcome == measure.Doubt {
		for _, w := range r.Possible {
			if w.Measure.Of == dim && (w.Measure.Shape == measure.Deviation) == deviation {
				return true
			}
		}
		return false
	}
	return r.Outcome == measure.Read && r.Measure.Of == dim && (deviation || r.Measure.Shape != measure.Deviation)
}
