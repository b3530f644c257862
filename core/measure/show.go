package measure

import (
	"encoding/json"
	"fmt"
	"strconv"
	"strings"

	"jollydrawer/core/quick"
)

// String shows m the way engineers write it: "4.7 kΩ", "100 nF ±10 %", "-40 to 85 °C", "≤ 50 mΩ".
// Parsing the result gives m again.
func (m Measure) String() string {
	if m.IsZero() {
		return ""
	}
	var b strings.Builder
	switch m.Shape {
	case Nominal:
		b.WriteString(show(m.Of, m.High))
	case Range:
		b.WriteString(showRange(m.Of, m.Low, m.High))
	case Ranges:
		for i, ends := 0, m.Each(); i+1 < len(ends); i += 2 {
			if i > 0 {
				b.WriteString(", ")
			}
			b.WriteString(showRange(m.Of, ends[i], ends[i+1]))
		}
	case Sizes:
		all := m.Each()
		exp, unit := prefixFor(m.Of, all[0])
		for i, v := range all {
			if i > 0 {
				b.WriteString(" × ")
			}
			b.WriteString(shifted(v, exp))
		}
		b.WriteString(" " + unit)
	case List:
		exp, unit := prefixFor(m.Of, m.Low)
		for i, v := range m.Each() {
			if i > 0 {
				b.WriteString(", ")
			}
			b.WriteString(shifted(v, exp))
		}
		b.WriteString(" " + unit)
	case AtMost:
		b.WriteString("≤ " + show(m.Of, m.High))
	case AtLeast:
		b.WriteString("≥ " + show(m.Of, m.Low))
	case Below:
		b.WriteString("< " + show(m.Of, m.High))
	case Above:
		b.WriteString("> " + show(m.Of, m.Low))
	}
	if m.Tol != NoTol {
		if m.Shape != Deviation {
			b.WriteByte(' ')
		}
		unit := " " + tolNames[m.Tol]
		minus, plus := m.Minus.String(), m.Plus.String()
		if m.Tol == Absolute {
			larger := m.Plus
			if m.Minus.Cmp(larger) > 0 {
				larger = m.Minus
			}
			var exp int32
			exp, unit = prefixFor(m.Of, larger)
			unit = " " + unit
			minus, plus = shifted(m.Minus, exp), shifted(m.Plus, exp)
		}
		if minus == plus {
			b.WriteString("±" + plus + unit)
		} else {
			b.WriteString("+" + plus + "/-" + minus + unit)
		}
	}
	if m.Of == None {
		return strings.TrimSpace(b.String())
	}
	if m.HasTyp {
		b.WriteString(" typ " + show(m.Of, m.Typ))
	}
	if m.Note != "" {
		for _, n := range strings.Split(m.Note, "; ") {
			b.WriteString(" " + n)
		}
	}
	if m.Cond != "" {
		b.WriteString(" @ " + m.Cond)
	}
	return b.String()
}

func showRange(d Dimension, low, high Number) string {
	lo, unitLo := split(d, low)
	hi, unitHi := split(d, high)
	if unitLo != unitHi && low.Sign() != 0 || d == WireGauge && low.Sign() <= 0 {
		lo += " " + unitLo
	} else if unitLo == unitHi && low.Cmp(high) < 0 && low.Sign() < 0 && high.Sign() < 0 && prefixFactor(d, high) != 0 {
		lo += " " + unitLo // "-20 to -10 mA": nothing is left to the reader
	}
	return lo + " to " + hi + " " + unitHi
}

// Span writes a range without what else a measure has: "1 mΩ to 100 GΩ".
func Span(d Dimension, low, high Number) string {
	return show(d, low) + " to " + show(d, high)
}

func prefixFactor(d Dimension, n Number) int32 {
	exp, _ := prefixFor(d, n)
	return exp
}

// Short is String without blanks and tolerance, for descriptions and search: "4.7kΩ".
func (m Measure) Short() string {
	if m.Shape == Deviation {
		return strings.ReplaceAll(m.String(), " ", "")
	}
	return strings.ReplaceAll(m.Bare().String(), " ", "")
}

func show(d Dimension, n Number) string {
	s, unit := split(d, n)
	return s + " " + unit
}

// split chooses the prefix that leaves one to three digits before the point and returns number and unit.
func split(d Dimension, n Number) (string, string) {
	if d == WireGauge && n.Sign() <= 0 && n.exp >= 0 && n.exp < 4 {
		return strconv.FormatInt(1-n.coef*pow10[max(n.exp, 0)], 10) + "/0", "AWG"
	}
	if d == Time && n.Cmp(hour) >= 0 {
		if h, err := n.Quo(hour); err == nil && h.exp >= 0 {
			return h.String(), "h" // a life of 2000 h, not of 7200000 s
		}
	}
	if d == Data {
		if text, unit := powersOfTwo(n); unit != "" {
			return text, unit
		}
	}
	exp, unit := prefixFor(d, n)
	return shifted(n, exp), unit
}

// powersOfTwo writes a size of memory that is a whole number of KiB or more, and no round one of ten's powers, by the
// prefixes of IEC 80000-13: 64 KiB, not 524.288 kbit.
func powersOfTwo(n Number) (text, unit string) {
	bits, ok := n.Int64()
	if !ok || bits <= 0 || bits%1000 == 0 {
		return "", ""
	}
	for _, u := range []struct {
		bits int64
		unit string
	}{{8 << 40, "TiB"}, {8 << 30, "GiB"}, {8 << 20, "MiB"}, {8 << 10, "KiB"}} {
		if bits%u.bits == 0 {
			return strconv.FormatInt(bits/u.bits, 10), u.unit
		}
	}
	return "", ""
}

var hour = Whole(3600)

// prefixFor chooses the prefix for showing n: its power of ten, and the unit with it.
func prefixFor(d Dimension, n Number) (int32, string) {
	best, bestExp := byte(' '), int32(0)
	if d == SlewRate && n.Sign() != 0 { // nobody writes MV/s
		switch mag := n.magnitude(); {
		case mag >= 9:
			return 9, "kV/µs"
		case mag >= 3:
			return 6, "V/µs"
		}
	}
	if n.Sign() != 0 {
		mag := int32(n.magnitude())
		found := false
		for i := range len(dims[d].show) {
			p := dims[d].show[i]
			if p == 'h' {
				continue
			}
			e := prefixExp[p]
			if !found || e <= mag || d == Length && p == 'm' && mag >= -5 { // 0.25 mm rather than 250 µm
				best, bestExp, found = p, e, true
			}
		}
	}
	switch best {
	case ' ':
		return bestExp, dims[d].base
	case 'u':
		return bestExp, "µ" + dims[d].base
	}
	return bestExp, string(best) + dims[d].base
}

// shifted writes n ÷ 10^exp.
func shifted(n Number, exp int32) string {
	return string(Number{n.coef, n.exp - exp}.appendTo(nil))
}

// In writes a measure in a unit of one's own choice, "0.1 µF" or "50 mil". ok is false where the unit is unknown, of
// another dimension, or does not come out even.
func (m Measure) In(unit string) (text string, ok bool) {
	us := unitsFor(foldSigns(unit), m.Of)
	if len(us) != 1 || us[0].dim != m.Of || us[0].shift.coef != 0 || m.Shape == Deviation || m.Tol == Absolute || m.HasTyp {
		return "", false
	}
	in := func(n Number) string {
		q, err := n.Quo(us[0].factor)
		ok = ok && err == nil
		return q.String()
	}
	ok = true
	bare := m
	bare.Note, bare.Cond, bare.Tol = "", "", NoTol
	switch m.Shape {
	case Nominal:
		text = in(m.High)
	case Range:
		text = in(m.Low) + " to " + in(m.High)
	case List, Sizes:
		for i, v := range m.Each() {
			if i > 0 {
				text += map[Shape]string{List: ", ", Sizes: " × "}[m.Shape]
			}
			text += in(v)
		}
	case Ranges:
		return "", false
	case AtMost, Below:
		text = map[Shape]string{AtMost: "≤ ", Below: "< "}[m.Shape] + in(m.High)
	case AtLeast, Above:
		text = map[Shape]string{AtLeast: "≥ ", Above: "> "}[m.Shape] + in(m.Low)
	}
	if rest, had := strings.CutPrefix(m.String(), bare.String()); had && ok {
		return text + " " + unit + rest, true
	}
	return "", false
}

// Marking writes a nominal resistance, capacitance or inductance with the prefix in place of the decimal point
// (IEC 60062, clause 4): "4k7", "100n", "0R05". Other measures give "".
func (m Measure) Marking() string {
	if m.Shape != Nominal || m.High.Sign() < 0 || m.Of != Resistance && m.Of != Capacitance && m.Of != Inductance {
		return ""
	}
	s, unit := split(m.Of, m.High)
	letter := strings.TrimSuffix(unit, m.Of.Base())
	switch {
	case m.Of == Resistance && (letter == "" || letter == "m" || letter == "µ"):
		s, letter = m.High.String(), "R"
	case letter == "µ":
		letter = "u"
	case letter == "":
		return ""
	}
	if whole, frac, ok := strings.Cut(s, "."); ok {
		return whole + letter + frac
	}
	return s + letter
}

// jsonMeasure is the JSON form: numbers are decimal strings in base units, the unit is a UCUM code.
type jsonMeasure struct {
	Of    string   `json:"of"`
	Shape string   `json:"shape"`
	Low   *Number  `json:"low,omitempty"`
	High  *Number  `json:"high,omitempty"`
	Items []Number `json:"items,omitempty"`
	Minus *Number  `json:"minus,omitempty"`
	Cond  string   `json:"condition,omitempty"`
	Note  string   `json:"note,omitempty"`
	Plus  *Number  `json:"plus,omitempty"`
	Tol   string   `json:"tolerance,omitempty"`
	Typ   *Number  `json:"typical,omitempty"`
	Unit  string   `json:"unit"`
}

// MarshalJSON writes {"condition","high","items","low","minus","note","of","plus","shape","tolerance","typical","unit"}, in this order:
// decimals as strings in base units, "tolerance" one of "%", "ppm", "absolute", "unit" the UCUM code. A nominal has only
// "low"; a list, several ranges (low, high, low, high) and the sizes of a body have only "items".
func (m Measure) MarshalJSON() ([]byte, error) { return m.AppendJSON(nil), nil }

// AppendJSON appends what MarshalJSON writes.
func (m Measure) AppendJSON(b []byte) []byte { return m.AppendWith(b, quick.AppendText) }

// AppendWith is AppendJSON with another way to append texts.
func (m Measure) AppendWith(b []byte, appendText func([]byte, string) []byte) []byte {
	name := func(key string) { b = append(append(append(b, '"'), key...), '"', ':') }
	text := func(key, s string) {
		name(key)
		b = append(appendText(b, s), ',')
	}
	number := func(key string, n Number) {
		name(key)
		b = append(n.appendTo(append(b, '"')), '"', ',')
	}
	b = append(b, '{')
	if m.Cond != "" {
		text("condition", m.Cond)
	}
	switch m.Shape {
	case Range, AtMost, Below:
		number("high", m.High)
	case List, Ranges, Sizes:
		b = append(b, `"items":[`...)
		for i, n := range m.Each() {
			if i > 0 {
				b = append(b, ',')
			}
			b = append(n.appendTo(append(b, '"')), '"')
		}
		b = append(b, ']', ',')
	}
	switch m.Shape {
	case Nominal, AtLeast, Above, Range:
		number("low", m.Low)
	}
	if m.Tol != NoTol {
		number("minus", m.Minus)
	}
	if m.Note != "" {
		text("note", m.Note)
	}
	text("of", m.Of.String())
	if m.Tol != NoTol {
		number("plus", m.Plus)
	}
	text("shape", m.Shape.String())
	if m.Tol != NoTol {
		text("tolerance", tolNames[m.Tol])
	}
	if m.HasTyp {
		number("typical", m.Typ)
	}
	text("unit", m.Of.UCUM())
	b[len(b)-1] = '}'
	return b
}

// plain reads the form that MarshalJSON writes; ok is false for any other.
func (j *jsonMeasure) plain(b []byte) bool {
	number := func(v []byte) (*Number, bool) {
		s, ok := quick.Text(v)
		if !ok {
			return nil, false
		}
		n, err := ParseNumber(s)
		return &n, err == nil
	}
	return quick.Members(b, func(key, v []byte) (ok bool) {
		switch string(key) {
		case "of":
			j.Of, ok = quick.Text(v)
		case "shape":
			j.Shape, ok = quick.Text(v)
		case "unit":
			j.Unit, ok = quick.Text(v)
		case "low":
			j.Low, ok = number(v)
		case "high":
			j.High, ok = number(v)
		case "minus":
			j.Minus, ok = number(v)
		case "plus":
			j.Plus, ok = number(v)
		case "typical":
			j.Typ, ok = number(v)
		case "tolerance":
			j.Tol, ok = quick.Text(v)
		case "condition":
			j.Cond, ok = quick.Text(v)
		case "note":
			j.Note, ok = quick.Text(v)
		case "items":
			ok = quick.Items(v, func(item []byte) bool {
				n, ok := number(item)
				if ok {
					j.Items = append(j.Items, *n)
				}
				return ok
			})
		}
		return ok
	})
}

// UnmarshalJSON reads what MarshalJSON writes and refuses anything that is not a whole measure.
func (m *Measure) UnmarshalJSON(b []byte) error {
	var j jsonMeasure
	if !j.plain(b) {
		j = jsonMeasure{}
		if err := json.Unmarshal(b, &j); err != nil {
			return fmt.Errorf("measure: %w", err)
		}
	}
	d, ok := ParseDimension(j.Of)
	shape, tol := -1, -1
	for k, n := range shapeNames {
		if n == j.Shape {
			shape = k
		}
	}
	for k, n := range tolNames {
		if n == j.Tol {
			tol = k
		}
	}
	if !ok || shape < 0 || tol < 0 || j.Unit != "" && j.Unit != d.UCUM() {
		return fmt.Errorf("measure: %q with shape %q, tolerance %q and unit %q is not a measure", j.Of, j.Shape, j.Tol, j.Unit)
	}
	r := Measure{Of: d, Shape: Shape(shape), Tol: TolUnit(tol), Cond: j.Cond, Note: j.Note}
	if j.Cond == "" && strings.Contains(j.Note, "@ ") {
		r.Note, r.Cond = oldNote(j.Note)
	}
	if j.Typ != nil {
		r.Typ, r.HasTyp = *j.Typ, true
	}
	several := r.Shape == List || r.Shape == Ranges || r.Shape == Sizes
	needLow := r.Shape == Nominal || r.Shape == AtLeast || r.Shape == Above || r.Shape == Range
	needHigh := r.Shape == AtMost || r.Shape == Below || r.Shape == Range
	if several != (len(j.Items) > 1) || r.Shape == Ranges && len(j.Items)%2 != 0 || needLow != (j.Low != nil) || needHigh != (j.High != nil) || (r.Tol != NoTol) != (j.Plus != nil && j.Minus != nil) {
		return fmt.Errorf("measure: a %s has other numbers than those given", shapeNames[r.Shape])
	}
	if several {
		l := map[Shape]func(Dimension, []Number) Measure{List: list, Ranges: ranges, Sizes: sizes}[r.Shape](d, j.Items)
		r.Shape, r.Low, r.High, r.Items = l.Shape, l.Low, l.High, l.Items
	}
	if needLow {
		r.Low = *j.Low
	}
	if needHigh {
		r.High = *j.High
	}
	if r.Shape == Nominal {
		r.High = r.Low
	}
	if r.Tol != NoTol {
		r.Minus, r.Plus = *j.Minus, *j.Plus
	}
	*m = r
	return nil
}

// oldNote parts a note of documents written before conditions had a place of their own: "typ; @ 25 °C".
func oldNote(note string) (rest, cond string) {
	for _, n := range strings.Split(note, "; ") {
		if c, is := strings.CutPrefix(n, "@ "); is && cond == "" {
			cond = c
		} else {
			rest = join(rest, n)
		}
	}
	return rest, cond
}
