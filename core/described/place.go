package described

import (
	"fmt"
	"slices"
	"strings"
	"unicode"

	"jollydrawer/core/cabinet"
	"jollydrawer/core/measure"
)

// Placed is a piece of a text that fills a parameter, with the reason.
type Placed struct {
	Key   string
	Piece Piece
	Why   string
}

// Left is a piece of a text that fills nothing, with the reason where there is one.
type Left struct {
	Piece Piece
	Why   string
}

// Place says which parameters of a template a text fills: what a name says, and of what has no name that which can be
// one parameter only. A parameter of text takes no piece of a text, and two pieces for one parameter fill neither.
func (l *Lexicon) Place(t *cabinet.Template, text string, o measure.Options) (placed []Placed, left []Left) {
	says := map[string][]cabinet.Value{} // what the text says for each parameter, each value once
	for _, p := range l.Read(text, o) {
		key, why := l.keyOf(t, p)
		if key == "" {
			left = append(left, Left{p, why})
			continue
		}
		slot, _ := t.Slot(key)
		value := p.Text
		if p.Fact.Word {
			value = strings.Trim(value, ".,;:()[]")
		}
		v, _ := slot.Read(value, o)
		if !slices.Contains(says[key], v) || v.Type == cabinet.Raw {
			says[key] = append(says[key], v)
			placed = append(placed, Placed{key, p, why})
		}
	}
	var once []Placed
	for _, p := range placed {
		slot, _ := t.Slot(p.Key)
		if len(says[p.Key]) > 1 {
			left = append(left, Left{p.Piece, "the text says it twice for " + slot.Label})
			continue
		}
		if in := says[t.Case]; len(in) == 1 {
			if why := t.UnusualInCase(&slot, says[p.Key][0], in[0]); why != "" {
				left = append(left, Left{p.Piece, why})
				continue
			}
		}
		once = append(once, p)
	}
	return once, left
}

// keyOf says which parameter of a template a piece fills; why says the reason, or why none.
func (l *Lexicon) keyOf(t *cabinet.Template, p Piece) (key, why string) {
	switch {
	case p.Count:
		return "", "how many"
	case p.Each:
		return "", "it is what each of several is"
	case p.Name != "" && len(p.Keys) == 0:
		return "", fmt.Sprintf("nothing is known by the name %q", p.Name)
	case p.Name != "":
		var fits []string
		for _, k := range p.Keys {
			if s, ok := t.Slot(k); ok && takes(&s, p) {
				fits = append(fits, k)
			}
		}
		if len(fits) == 1 {
			return fits[0], fmt.Sprintf("%q stands before it", p.Name)
		}
		if len(fits) == 0 {
			return "", fmt.Sprintf("parts of %s have no %q", t.Label, p.Name)
		}
		return "", fmt.Sprintf("%q may be %s", p.Name, strings.Join(labels(t, fits), " or "))
	}
	var fits []string
	for i := range t.Slots {
		if s := &t.Slots[i]; takes(s, p) {
			fits = append(fits, s.Key)
		}
	}
	switch len(fits) {
	case 0:
		return "", ""
	case 1:
		return fits[0], fmt.Sprintf("%q can only be %s", p.Text, strings.Join(labels(t, fits), ""))
	}
	return "", "could be " + strings.Join(labels(t, fits), " or ")
}

func labels(t *cabinet.Template, keys []string) (out []string) {
	for _, k := range keys {
		s, _ := t.Slot(k)
		out = append(out, s.Label)
	}
	return out
}

// takes says whether a piece can be a value of a parameter.
func takes(s *cabinet.Slot, p Piece) bool {
	f := p.Fact
	isCase := f.Case != (measure.Case{}) || len(f.Reading.Possible) > 0 && f.Reading.Possible[0].Case != (measure.Case{})
	switch {
	case s.ChipCode == "inch":
		return isCase
	case s.ChipCode != "":
		return false // it follows the inch code
	case isCase:
		return false
	}
	switch s.Type {
	case cabinet.Measure:
		if f.Word {
			return false
		}
		deviation := false
		fits := f.Reading.Outcome == measure.Read && f.Reading.Measure.Of.String() == s.Of
		if fits {
			deviation = f.Reading.Measure.Shape == measure.Deviation
		}
		for _, w := range f.Reading.Possible {
			if w.Measure.Of.String() == s.Of {
				fits, deviation = true, w.Measure.Shape == measure.Deviation
			}
		}
		if !fits || deviation && !s.Deviation {
			return false
		}
		_, problem := s.Read(p.Text, measure.Options{})
		return problem == nil || strings.HasPrefix(problem.Kind, "doubt")
	case cabinet.Choice:
		w := strings.Trim(p.Text, ".,;:()[]")
		if f.Word && len(w) > 1 {
			_, ok := s.Choice(w)
			return ok
		}
	case cabinet.Number:
		return p.Name != "" && bare(f)
	}
	return false
}

// Numbers lists the words of a text that may be manufacturer part numbers: letters and digits in one word that is no
// value, case or name of a package.
func (l *Lexicon) Numbers(text string) (out []string) {
	for _, p := range l.Read(text, measure.Options{}) {
		w := strings.Trim(p.Text, ".,;:()[]\"'")
		if !p.Fact.Word || len(w) < 5 || strings.ContainsAny(w, " ,:@%=") {
			continue
		}
		digits, capitals, other := 0, 0, false
		for _, r := range w {
			switch {
			case unicode.IsDigit(r):
				digits++
			case unicode.IsUpper(r):
				capitals++
			case r == '-' || r == '/' || r == '+' || r == '.' || r == '_' || r == '#' || unicode.IsLower(r):
			default:
				other = true
			}
		}
		if other || digits < 2 || capitals < 1 || packageWord(w) {
			continue
		}
		out = append(out, w)
	}
	return out
}

// packageWord says whether a word is the name of a package: its letters, then its pins.
func packageWord(w string) bool {
	up := strings.ToUpper(w)
	for _, p := range [...]string{"SOT", "SOIC", "SO-", "SOP", "TSSOP", "SSOP", "MSOP", "VSSOP", "QFN", "DFN", "TQFP", "LQFP", "QFP", "BGA", "TO-", "TO2", "DO-", "SOD", "DIP", "SIP", "SC-", "SC7", "DPAK", "D2PAK", "WSON", "VSON", "USON", "LGA", "CSP", "WLCSP", "PLCC", "HC-49", "HC49", "IP6", "M12", "EIA"} {
		if strings.HasPrefix(up, p) {
			return true
		}
	}
	return false
}
