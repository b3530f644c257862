package model

import (
	"fmt"
	"regexp"
	"strings"
)

// Range is a dimension of a package as its drawing gives it: from the least to the greatest. Text says both as the drawing does, in their place.
type Range struct {
	Min  Length `json:"min,omitzero"`
	Max  Length `json:"max,omitzero"`
	Text string `json:"text,omitempty" maxLength:"100" doc:"Both, as the drawing says them: 6 ± 0.2, 5.8 .. 6.2, 6 +0.2/-0.1; one figure alone is both"`
}

func (r Range) tolerance() Length { return r.Max - r.Min }

func (r Range) some() bool { return r.Max > 0 }

func (r Range) check(what string) error {
	switch {
	case r.Min <= 0 || r.Max <= 0:
		return fmt.Errorf("the %s needs a least and a greatest figure above zero", what)
	case r.Min > r.Max:
		return fmt.Errorf("the least %s of %s mm is above the greatest of %s mm", what, r.Min, r.Max)
	case r.Max > 200*MM:
		return fmt.Errorf("the %s of %s mm is more than 200 mm", what, r.Max)
	}
	return nil
}

// read is the range with what its text says.
func (r Range) read(what string) (Range, error) {
	if r.Text == "" {
		return r, nil
	}
	if r.Min != 0 || r.Max != 0 {
		return r, fmt.Errorf("the %s is given twice: as %q, and as figures", what, clip(r.Text))
	}
	out, err := ParseRange(r.Text)
	if err != nil {
		return r, fmt.Errorf("the %s: %w", what, err)
	}
	return out, nil
}

// number is a figure of a drawing, with its unit or without.
const number = `([0-9]+(?:[.,][0-9]+)?|[.,][0-9]+)\s*(mm|mil|mils|thou|µm|um|cm|inch|in|")?`

// The forms in which drawings give a dimension with its limits (ISO 129-1 clauses 9 and 10, ASME Y14.5 clause 5.1).
var (
	oneFigure    = regexp.MustCompile(`^` + number + `(?:\s*(?:bsc|basic)\.?)?$`)
	plusMinus    = regexp.MustCompile(`^` + number + `\s*±\s*` + number + `$`)
	plusAndOff   = regexp.MustCompile(`^` + number + `\s*\+\s*` + number + `\s*(?:/|,\s)?\s*-\s*` + number + `$`)
	offAndPlus   = regexp.MustCompile(`^` + number + `\s*-\s*` + number + `\s*(?:/|,\s)?\s*\+\s*` + number + `$`)
	inBrackets   = regexp.MustCompile(`^([^()]*[0-9][^()]*)\(([±+-][^()]*)\)$`)
	twoLimits    = regexp.MustCompile(`^(?:from|von|de)?\s*` + number + `\s*(?:\.\.+|-|~|÷|to|bis|à|/)\s*` + number + `$`)
	threeFigures = regexp.MustCompile(`^` + number + `\s*(\.\.+|-|/|\s)\s*` + number + `\s*(\.\.+|-|/|\s)\s*` + number + `$`)
	minAndMax    = regexp.MustCompile(`^min\.?\s*:?\s*` + number + `\s*[,;/]?\s*max\.?\s*:?\s*` + number + `$`)
	maxAndMin    = regexp.MustCompile(`^max\.?\s*:?\s*` + number + `\s*[,;/]?\s*min\.?\s*:?\s*` + number + `$`)
	figureMax    = regexp.MustCompile(`^` + number + `\s*\(?max\.?\)?\s*[,;/]?\s*` + number + `\s*\(?min\.?\)?$`)
	figureMin    = regexp.MustCompile(`^` + number + `\s*\(?min\.?\)?\s*(?:\.\.+|-|to|[,;/])?\s*` + number + `\s*\(?max\.?\)?$`)
	thousands    = regexp.MustCompile(`^[0-9]{1,3},[0-9]{3}$`)
)

// ParseRange reads a dimension as a drawing gives it: "6", "5.8 .. 6.2", "6 ± 0.2", "6 +0.2/-0.1", "min 5.8 max 6.2", "5.8 / 6 / 6.2" for the least, nominal and greatest; with a
// comma for the decimal mark too, and with its unit, which is millimetres where none is said. One figure alone is both limits. It refuses what names one limit only, a typical or reference figure, which has none, and "1,270", which may be
// a thousand.
func ParseRange(text string) (Range, error) {
	t := strings.ToLower(strings.Join(strings.Fields(text), " ")) // the blanks of every kind that a copied text has
	t = strings.NewReplacer("−", "-", "–", "-", "—", "-", "…", "..", "+/-", "±", "+-", "±", "ø", "", "⌀", "", "×", "x").Replace(t)
	t = strings.TrimSpace(inBrackets.ReplaceAllString(t, "$1$2")) // "6.0 (±0.2)"
	no := func(why string) (Range, error) {
		return Range{}, fmt.Errorf("%q %s: write 5.8 .. 6.2, 6 ± 0.2, 6 +0.2/-0.1, or one figure", clip(strings.TrimSpace(text)), why)
	}
	switch m := []string(nil); {
	case match(oneFigure, t, &m):
		return figures(text, m, func(l []Length) Range { return Range{Min: l[0], Max: l[0]} })
	case match(plusMinus, t, &m):
		return figures(text, m, func(l []Length) Range { return Range{Min: l[0] - l[1], Max: l[0] + l[1]} })
	case match(plusAndOff, t, &m):
		return figures(text, m, func(l []Length) Range { return Range{Min: l[0] - l[2], Max: l[0] + l[1]} })
	case match(offAndPlus, t, &m):
		return figures(text, m, func(l []Length) Range { return Range{Min: l[0] - l[1], Max: l[0] + l[2]} })
	case match(minAndMax, t, &m), match(figureMin, t, &m), match(twoLimits, t, &m):
		return figures(text, m, func(l []Length) Range { return Range{Min: l[0], Max: l[1]} })
	case match(maxAndMin, t, &m), match(figureMax, t, &m):
		return figures(text, m, func(l []Length) Range { return Range{Min: l[1], Max: l[0]} })
	case match(threeFigures, t, &m):
		if strings.TrimSpace(m[3]) != strings.TrimSpace(m[6]) {
			return no("is no dimension that is known")
		}
		m = []string{m[0], m[1], m[2], m[4], m[5], m[7], m[8]}
		r, err := figures(text, m, func(l []Length) Range {
			if l[1] < l[0] || l[1] > l[2] {
				return Range{Min: 1, Max: 0}
			}
			return Range{Min: l[0], Max: l[2]}
		})
		return r, err
	}
	switch {
	case strings.Contains(t, "typ") || strings.Contains(t, "ref") || strings.Contains(t, "nom") || strings.HasPrefix(t, "("):
		return no("is a figure without limits")
	case strings.Contains(t, "min") || strings.Contains(t, "max") || strings.ContainsAny(t, "<>≤≥"):
		return no("names one limit and not the other")
	}
	return no("is no dimension that is known")
}

func match(of *regexp.Regexp, t string, m *[]string) bool {
	*m = of.FindStringSubmatch(t)
	return *m != nil
}

// figures reads the figures of a form. A unit that stands behind one of them is that of all.
func figures(text string, m []string, of func([]Length) Range) (Range, error) {
	unit := ""
	for i := 2; i < len(m); i += 2 {
		if u := strings.TrimSuffix(strings.ReplaceAll(m[i], "mils", "mil"), " "); u != "" {
			if unit != "" && unit != u {
				return Range{}, fmt.Errorf("%q is in two units", clip(text))
			}
			unit = u
		}
	}
	bare := MM
	for _, u := range unitsOfLength {
		if u.name == unit {
			bare = u.of
		}
	}
	var all []Length
	for i := 1; i < len(m); i += 2 {
		if thousands.MatchString(m[i]) {
			return Range{}, fmt.Errorf("%q: %s may be a thousand or a decimal: write it with a point", clip(text), m[i])
		}
		l, err := ParseLengthIn(strings.ReplaceAll(m[i], ",", "."), bare)
		if err != nil {
			return Range{}, err
		}
		all = append(all, l)
	}
	r := of(all)
	if r.Min < 0 {
		return Range{}, fmt.Errorf("%q may be less than nothing: its tolerance is greater than its figure", clip(text))
	}
	if r.Min > r.Max {
		return Range{}, fmt.Errorf("%q begins with the greater figure: write the least first, or a tolerance with its sign, such as 6 +0.2/-0.1", clip(text))
	}
	return r, nil
}
