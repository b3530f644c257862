package lookup

import (
	"slices"
	"strings"

	"jollydrawer/core/cabinet"
	"jollydrawer/core/measure"
)

// Told is a fact of a question as somebody else can be asked for it.
type Told struct {
	Words   string // as words; blank for what no words of a product say: a comparison, an alternative, what must not be
	Param   string // the one parameter that is meant; blank where it is not certain
	Dim     measure.Dimension
	From    measure.Measure // ends, the same for a plain value; zero: open
	To      measure.Measure
	Text    string   // of a text
	Drawers []string // of the name of a kind of part
}

// Measured says whether the fact is a value or a range of values.
func (t Told) Measured() bool { return !t.From.IsZero() || !t.To.IsZero() }

// Tell takes a question apart for others to be asked, by the cabinet alone: the same question is the same to them whatever the library has. What it
// does not say of a fact it leaves to the reader of their answers.
func Tell(cab *cabinet.Cabinet, text string) (out []Told) {
	x := New()
	x.SetCabinet(cab)
	for _, c := range x.read(text) {
		if c.fact.Kind == "skipped" || c.fact.Kind == "state" || c.not {
			continue
		}
		t := Told{Words: c.fact.Text, Dim: c.dim, Param: c.param}
		doubtful := len(c.fact.Options) > 0 // it may be a value of several kinds: its word is asked for
		several := strings.Contains(strings.ToLower(c.fact.Text), " or ") || strings.Contains(c.fact.Text, "|")
		switch {
		case several:
			t.Words, t.Param = "", ""
		case doubtful && !c.compared:
			t.Param = ""
		case c.compared && doubtful:
			t.Words, t.Param = "", ""
		case c.compared:
			t.Words, t.From, t.To = "", c.from, c.to
		case !c.value.IsZero():
			if t.From, t.To = c.value, c.value; c.param != "" { // "resistance 4k7"
				t.Words = c.value.Short()
			}
		case len(c.drawers) > 0:
			for d := range c.drawers {
				t.Drawers = append(t.Drawers, d)
			}
			slices.Sort(t.Drawers)
		default:
			word := strings.Trim(c.fact.Text, "\"“”")
			if c.textOp != "" { // "dielectric:x7r"
				_, word, _ = strings.Cut(word, c.textOp)
				word = strings.TrimSpace(word)
			}
			if key, said := certain(x.cab, word); key != "" && (c.param == "" || c.param == key) {
				t.Param, t.Text = key, said
			}
		}
		if t.Param == "" && len(c.leads) > 0 && t.Measured() {
			t.Param = only(c.leads)
		}
		out = append(out, t)
	}
	return out
}

// only is the value that all have; blank where they differ.
func only(m map[string]string) (v string) {
	for _, x := range m {
		if v != "" && x != v {
			return ""
		}
		v = x
	}
	return v
}

// certain is the one parameter that a word can be a value of, by the cabinet alone, and the value: one of its choices, or a chip code of one system.
func certain(cab *cabinet.Cabinet, word string) (key, value string) {
	if cab == nil {
		return "", ""
	}
	size := ""
	if cases, _, ok := measure.ReadCase(word); ok && len(cases) == 1 {
		size = cases[0].Inch
	}
	for i := range cab.Document.Parameters {
		p := &cab.Document.Parameters[i]
		said, ok := p.Choice(word)
		if !ok && size != "" && p.ChipCode == "inch" {
			said, ok = size, true
		}
		if !ok {
			continue
		}
		if key != "" {
			return "", ""
		}
		key, value = p.Key, said
	}
	return key, value
}
