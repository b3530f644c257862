package cabinet

import (
	"encoding/json"
	"fmt"
	"net/url"
	"slices"
	"strconv"
	"strings"
	"time"

	"jollydrawer/core/measure"
	"jollydrawer/core/quick"
)

// Type is the type of a parameter.
type Type string

// The parameter types.
const (
	Measure Type = "measure"
	Text    Type = "text"
	Choice  Type = "choice"
	Number  Type = "number" // a whole number
	YesNo   Type = "yes-no"
	Link    Type = "link"
	Date    Type = "date" // a day, ISO 8601
	Raw     Type = "raw"  // not a parameter type: text that could not be read as what its parameter wants
)

// Value is the value of one parameter. It is comparable: values written alike are ==, those that mean the same are so by Meant. The zero value means "blank".
type Value struct {
	Type    Type
	Measure measure.Measure
	Text    string // Text, Choice, Link, Date and Raw
	Number  int64
	Yes     bool
}

// Meant returns the value as it is compared: values that are written in two ways but are one, ±20 ppm and ±0.002 %, are ==.
func (v Value) Meant() Value {
	v.Measure = v.Measure.InPercent()
	return v
}

// IsBlank says whether there is no value.
func (v Value) IsBlank() bool { return v.Type == "" }

// String shows the value as people write it.
func (v Value) String() string {
	switch v.Type {
	case Measure:
		return v.Measure.String()
	case Number:
		return strconv.FormatInt(v.Number, 10)
	case YesNo:
		if v.Yes {
			return "yes"
		}
		return "no"
	}
	return v.Text
}

// MarshalJSON writes an object with one key, the type: {"measure":{…}}, {"text":"X7R"}, {"number":"8"}, {"yes-no":true}.
func (v Value) MarshalJSON() ([]byte, error) { return v.AppendJSON(nil), nil }

// AppendJSON appends what MarshalJSON writes.
func (v Value) AppendJSON(b []byte) []byte { return v.append(b, quick.AppendText) }

// AppendCanonical appends the value as a canonical document writes it (see package document); what is no UTF-8 stays as it is.
func (v Value) AppendCanonical(b []byte) []byte { return v.append(b, quick.AppendBare) }

func (v Value) append(b []byte, text func([]byte, string) []byte) []byte {
	if v.Type == "" {
		return append(b, "null"...)
	}
	b = text(append(b, '{'), string(v.Type))
	b = append(b, ':')
	switch v.Type {
	case Measure:
		b = v.Measure.AppendWith(b, text)
	case Number:
		b = append(strconv.AppendInt(append(b, '"'), v.Number, 10), '"')
	case YesNo:
		b = strconv.AppendBool(b, v.Yes)
	default:
		b = text(b, v.Text)
	}
	return append(b, '}')
}

// plainTypes are the types that plain knows.
var plainTypes = [...]Type{Measure, Text, Choice, Number, YesNo, Link, Date, Raw}

// plain reads the form that MarshalJSON writes; it is false for any other, such as one with two types.
func (v *Value) plain(b []byte) bool {
	*v = Value{}
	return quick.Members(b, func(key, raw []byte) (ok bool) {
		if v.Type != "" {
			return false
		}
		for _, t := range plainTypes { // whose name is a constant, so that none is kept per value
			if string(key) == string(t) {
				v.Type = t
			}
		}
		switch v.Type {
		case Measure:
			return v.Measure.UnmarshalJSON(raw) == nil
		case Text, Choice, Link, Date, Raw:
			v.Text, ok = quick.Text(raw)
		case Number:
			var s string
			if s, ok = quick.Text(raw); ok {
				var err error
				v.Number, err = strconv.ParseInt(s, 10, 64)
				ok = err == nil
			}
		case YesNo:
			v.Yes = string(raw) == "true"
			ok = v.Yes || string(raw) == "false"
		}
		return ok
	}) && v.Type != ""
}

// UnmarshalJSON reads what MarshalJSON writes.
func (v *Value) UnmarshalJSON(b []byte) error {
	if v.plain(b) {
		return nil
	}
	var m map[Type]json.RawMessage
	if err := json.Unmarshal(b, &m); err != nil {
		return fmt.Errorf("cabinet: a value is an object with its type as the only key: %w", err)
	}
	*v = Value{}
	if len(m) == 0 {
		return nil
	}
	for t, raw := range m {
		v.Type = t
		var err error
		switch t {
		case Measure:
			err = json.Unmarshal(raw, &v.Measure)
		case Number:
			var s string
			if err = json.Unmarshal(raw, &s); err == nil {
				v.Number, err = strconv.ParseInt(s, 10, 64)
			}
		case YesNo:
			err = json.Unmarshal(raw, &v.Yes)
		case Text, Choice, Link, Date, Raw:
			err = json.Unmarshal(raw, &v.Text)
		default:
			err = fmt.Errorf("%q is no type of value", t)
		}
		if err != nil {
			return fmt.Errorf("cabinet: %w", err)
		}
	}
	if len(m) != 1 {
		return fmt.Errorf("cabinet: a value has one type, not %d", len(m))
	}
	return nil
}

// Problem says why a text did not become a clean value, and what would mend it. Kind groups problems by cause.
type Problem struct{ Kind, Why, Mend string }

// Read turns text into a value of p. Blank and absent texts give a blank value. A text that cannot be read, or has
// more than one reading, gives a Raw value that keeps it, and the problem.
func (p Parameter) Read(text string, o measure.Options) (Value, *Problem) {
	text = strings.TrimSpace(text)
	if text == "" {
		return Value{}, nil
	}
	raw := Value{Type: Raw, Text: text}
	if p.Type != Measure {
		if r := measure.Parse(text, measure.Options{}); r.Outcome == measure.Absent {
			return Value{}, nil
		}
	}
	switch p.Type {
	case Measure:
		return p.readMeasure(text, o)
	case Choice:
		if c, ok := p.Choice(text); ok {
			return Value{Type: Choice, Text: c}, nil
		}
		return raw, &Problem{"not-a-choice", fmt.Sprintf("%q is not among the choices of %s", text, p.Label),
			"choose one of " + strings.Join(p.Choices, ", ") + ", or add it to the template"}
	case Number:
		n, err := measure.ParseNumber(text)
		i, whole := n.Int64()
		if err != nil || !whole {
			return raw, &Problem{"not-a-number", fmt.Sprintf("%q is no whole number", text), "write digits only"}
		}
		return Value{Type: Number, Number: i}, nil
	case YesNo:
		switch strings.ToLower(text) {
		case "yes", "y", "true", "1", "x", "ja", "j", "oui", "sí", "sì", "si":
			return Value{Type: YesNo, Yes: true}, nil
		case "no", "n", "false", "0", "nein", "non":
			return Value{Type: YesNo}, nil
		}
		return raw, &Problem{"not-yes-no", fmt.Sprintf("%q is neither yes nor no", text), "write yes or no"}
	case Date:
		for _, form := range []string{"2006-01-02", "2006-01-02 15:04:05", "02.01.2006", "2 Jan 2006", "2 January 2006", "20060102"} {
			if d, err := time.Parse(form, text); err == nil {
				return Value{Type: Date, Text: d.Format(time.DateOnly)}, nil
			}
		}
		return raw, &Problem{"not-a-date", fmt.Sprintf("%q is no day that can be read one way only", text), "write it as 2026-11-23"}
	case Link:
		u, err := url.Parse(text)
		if err != nil || u.Scheme != "https" && u.Scheme != "http" || u.Host == "" {
			return raw, &Problem{"not-a-link", fmt.Sprintf("%q is no web address", text), "write an address that begins with https://"}
		}
		return Value{Type: Link, Text: text}, nil
	}
	if p.ChipCode != "" {
		text = p.chipCode(text)
	}
	return Value{Type: Text, Text: text}, nil
}

// chipCode takes from a text that gives a chip case by name of its system, or by both codes, the one that p is of:
// "0603 (1608 Metric)" is 0603 inch, and 1608 metric. A bare code stays as it was written.
func (p Parameter) chipCode(text string) string {
	cases, _, ok := measure.ReadCase(text)
	if !ok || len(cases) != 1 || strings.Trim(text, "0123456789") == "" {
		return text
	}
	if p.ChipCode == "metric" {
		return cases[0].Metric
	}
	return cases[0].Inch
}

// Parse reads a text as a measure of p's kind, in the unit that p assumes where o names none, and beside what is usual for p.
func (p Parameter) Parse(text string, o measure.Options) measure.Reading {
	o.Of, _ = measure.ParseDimension(p.Of)
	if o.Unit == "" {
		o.Unit = p.AssumeUnit
	}
	o.Usual = p.usual
	return measure.Parse(text, o)
}

func (p Parameter) readMeasure(text string, o measure.Options) (Value, *Problem) {
	r := p.Parse(text, o)
	switch r.Outcome {
	case measure.Absent:
		return Value{}, nil
	case measure.Read:
		m := r.Measure
		if p.Deviation {
			m = m.AsDeviation()
		}
		if p.Under != "" && m.Cond == p.Under {
			m.Cond = "" // the parameter's name says it
		} else if p.Under != "" && m.Cond != "" {
			return Value{Type: Raw, Text: text}, &Problem{"other-condition", fmt.Sprintf("%q is %s @ %s, and %s is at %s", text, p.Label, m.Cond, p.Label, p.Under), "leave the field out, or map it to a parameter of its own"}
		}
		return Value{Type: Measure, Measure: m}, nil
	case measure.Doubt:
		var ways []string
		for _, w := range r.Possible {
			ways = append(ways, fmt.Sprintf("%s if %s", w.Measure, w.If))
		}
		mend := "say which in the crosswalk, or correct the value"
		if len(ways) > 0 {
			mend = "it may be " + strings.Join(ways, ", or ") + ": " + mend
		}
		return Value{Type: Raw, Text: text}, &Problem{"doubt (" + r.Why + ")", fmt.Sprintf("%q is doubtful as %s: %s", text, p.Label, r.Why), mend}
	}
	return Value{Type: Raw, Text: text}, &Problem{"unreadable", fmt.Sprintf("%q cannot be read as %s: %s", text, p.Label, r.Why),
		"correct the value, or leave the field out"}
}

// Shown writes a value of p as p wants it shown.
func (p Parameter) Shown(v Value) string {
	if v.Type == Measure && p.Show != "" {
		if s, ok := v.Measure.In(p.Show); ok {
			return s
		}
	}
	return v.String()
}

// usualRange reads a range that sensible values of p lie in, such as "1 mΩ to 100 GΩ"; a range of tolerances is written in
// their unit. ok is false where it cannot be read.
func (p Parameter) usualRange(text string) (u measure.Usual, ok bool) {
	if p.Type != Measure || text == "" {
		return u, false
	}
	dim, _ := measure.ParseDimension(p.Of)
	r := measure.Parse(text, measure.Options{Of: dim, Mark: measure.MarkPoint})
	return measure.Usual{Low: r.Measure.Low, High: r.Measure.High, Size: p.Signless, Set: true}, r.Outcome == measure.Read && r.Measure.Shape == measure.Range
}

// Unusual says why a value lies outside of what is usual for p; "" where it does not.
func (p Parameter) Unusual(v Value) string {
	if v.Type != Measure || !p.usual.Set {
		return ""
	}
	return outside(p.usual, v.Measure, p.Label)
}

func outside(u measure.Usual, m measure.Measure, label string) string {
	for _, n := range m.Numbers() {
		if !u.Holds(n) {
			return fmt.Sprintf("%s as %s lies outside of what is usual (%s)", m, label,
				measure.Span(m.Of, u.Low, u.High))
		}
	}
	return ""
}

// OfType says whether v is a clean value for p.
func (p Parameter) OfType(v Value) error {
	if v.Type != p.Type {
		if v.Type == Raw {
			return fmt.Errorf("%s holds %q, which could not be read", p.Label, v.Text)
		}
		return fmt.Errorf("%s is a %s, not a %s", p.Label, p.Type, v.Type)
	}
	if p.Type == Measure && v.Measure.Of.String() != p.Of {
		return fmt.Errorf("%s is a %s, and %s is a %s", p.Label, p.Of, v.Measure, v.Measure.Of)
	}
	if p.Type == Choice {
		for _, c := range p.Choices {
			if c == v.Text {
				return nil
			}
		}
		return fmt.Errorf("%q is not among the choices of %s", v.Text, p.Label)
	}
	return nil
}

// Choice finds the choice that a text means, whatever its case, by its own or by another spelling.
func (p *Parameter) Choice(text string) (string, bool) {
	for _, c := range p.Choices {
		if strings.EqualFold(c, text) {
			return c, true
		}
	}
	for also, c := range p.Also {
		if strings.EqualFold(also, text) && slices.Contains(p.Choices, c) {
			return c, true
		}
	}
	return "", false
}
