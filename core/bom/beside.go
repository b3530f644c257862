package bom

import (
	"slices"
	"strings"

	"jollydrawer/core/cabinet"
	"jollydrawer/core/lookup"
	"jollydrawer/core/measure"
	"jollydrawer/core/part"
)

// Says is what a record says of one piece of a line.
type Says string

// What a record may say. Better agrees, and is said: the record is rated higher than the line asks.
const (
	Agrees        Says = "agrees"
	Better        Says = "better"
	Contradicts   Says = "contradicts"
	Silent        Says = "record is silent"
	NotUnderstood Says = "not understood"
	Unused        Says = "not used"
)

// Beside is one piece of a line laid beside a record: the tally of a line is the list of them.
type Beside struct {
	Column string `json:"column"`
	From   int    `json:"from" doc:"Where it stands in the cell, in bytes"`
	To     int    `json:"to"`
	Text   string `json:"text" doc:"As it was written"`
	Says   Says   `json:"says" enum:"agrees,better,contradicts,record is silent,not understood,not used"`
	Param  string `json:"param,omitempty" doc:"The parameter it was compared with, or number, mpn, manufacturer, supplierNumber, drawer"`
	Record string `json:"record,omitempty" doc:"What the record has"`
	Why    string `json:"why,omitempty"`
}

// judge lays facts beside records of one cabinet.
type judge struct {
	cab     *cabinet.Cabinet
	drawers map[string]map[string]bool
	choices map[string]bool // every choice of every parameter, in small letters
	leading map[string]bool // the kinds of value that lead in some drawer
	memo    map[readKey]measure.Reading
}

type readKey struct {
	text string
	of   measure.Dimension
	unit string
}

func newJudge(cab *cabinet.Cabinet) *judge {
	j := &judge{cab: cab, drawers: kinds(cab), choices: map[string]bool{}, leading: map[string]bool{}, memo: map[readKey]measure.Reading{}}
	for _, p := range cab.Document.Parameters {
		for _, c := range p.Choices {
			j.choices[strings.ToLower(c)] = true
		}
		for also := range p.Also {
			j.choices[strings.ToLower(also)] = true
		}
	}
	for _, t := range cab.Templates() {
		if s, ok := t.Slot(t.Leading); ok && s.Type == cabinet.Measure {
			j.leading[s.Of] = true
		}
	}
	return j
}

func (j *judge) parse(text string, of measure.Dimension, unit string) measure.Reading {
	k := readKey{text, of, unit}
	r, ok := j.memo[k]
	if !ok {
		r = measure.Parse(text, measure.Options{Of: of, Unit: unit})
		j.memo[k] = r
	}
	return r
}

// beside says what a record says of one fact. That a value lies inside one of the record's ranges is no agreement where
// the record's words name another value of its kind: "5 V" of a "reference 2.5 V" that is supplied from 2.7 to 12 V. Nor is it
// silent about a nameless value where its words name another: "1 V" of it is no offset voltage that nobody wrote down.
func (j *judge) beside(f fact, e *lookup.Entry, t *cabinet.Template) Beside {
	b := j.besideAny(f, e, t)
	inside := b.Says == Agrees && e.Value(b.Param).Measure.Shape == measure.Range
	if len(f.readings) == 0 || !inside && (b.Says != Silent || b.Param == "" || f.param != "") {
		return b
	}
	for i := range t.Slots {
		if s := &t.Slots[i]; s.Type == cabinet.Text && s.Key != t.Case {
			if other, ok := j.anotherIn(e.Value(s.Key).Text, f.readings); ok {
				b.Says, b.Why = NotUnderstood, "the record's words say "+other
			}
		}
	}
	return b
}

func (j *judge) besideAny(f fact, e *lookup.Entry, t *cabinet.Template) Beside {
	b := Beside{Column: f.column, From: f.from, To: f.to, Text: f.text}
	switch {
	case f.skip != "":
		b.Says, b.Why = Unused, f.skip
		return b
	case sells(e, f.text):
		b.Says, b.Param, b.Record = Agrees, "mpn", spelling(e, f.text)
		return b
	case f.role == Fact || f.param != "" && f.param != unknownName:
		return j.besideNamed(b, f, e, t)
	case f.param == unknownName:
		b.Says, b.Why = NotUnderstood, "nothing is known by the name that stands before it"
		return b
	case f.role == Package:
		return j.besidePackage(b, f, e, t)
	case f.role == Value:
		if v, done := j.besideValue(b, f, e, t); done {
			if text, ok := j.inText(b, f, e, t); ok && v.Says == Contradicts {
				return text // "2V5" of a reference, which its record says in words
			}
			return v
		}
	}
	if text, ok := j.inText(b, f, e, t); ok {
		return text
	}
	switch {
	case len(f.cases) > 0 && len(f.readings) == 0:
		return j.besidePackage(b, f, e, t)
	case f.number:
		return j.besideNumber(b, f, e, t)
	case f.word:
		return j.besideWord(b, f, e, t)
	}
	m := j.besideMeasure(b, f, e, t)
	if len(f.cases) > 0 && m.Says != Agrees { // "R0805" is a case before it is 80.5 mΩ
		return j.besidePackage(b, f, e, t)
	}
	return m
}

// compare says how a record's value stands to a reading of the line. A rating may be better than the line asks where
// the dictionary says that more is better.
func compare(s *cabinet.Slot, said measure.Measure, v cabinet.Value) Says {
	have := v.Measure
	if s.Deviation {
		said = said.AsDeviation()
	}
	if said.Of != have.Of || (said.Shape == measure.Deviation) != (have.Shape == measure.Deviation) {
		return NotUnderstood
	}
	switch {
	case said.Same(have), sameBound(said, have):
		return Agrees
	case said.Cond != "" && have.Cond != "" && said.Cond != have.Cond:
		return Contradicts
	case said.Shape == measure.Nominal && have.Items != "" && have.Shape == measure.List:
		for _, n := range have.Each() {
			if n == said.High {
				return Agrees
			}
		}
	case said.Shape == measure.Nominal && have.Shape == measure.Range && have.Low.Cmp(said.High) <= 0 && have.High.Cmp(said.High) >= 0:
		return Agrees
	}
	if s.Signless && said.Shape == measure.Nominal && have.Shape == measure.Nominal && size(said.High) == size(have.High) {
		return Agrees
	}
	if s.Better == "more" && said.Shape != measure.Deviation && size(have.Value()).Cmp(size(said.Value())) > 0 {
		return Better
	}
	return Contradicts
}

func size(n measure.Number) measure.Number {
	if n.Sign() < 0 {
		return n.Neg()
	}
	return n
}

// sameBound says whether a limit and a plain value name the same number: "50 mΩ" of a line and "≤ 50 mΩ" of a record.
func sameBound(a, b measure.Measure) bool {
	limit := func(m measure.Measure) bool { return m.Shape == measure.AtMost || m.Shape == measure.AtLeast }
	return a.Of == b.Of && (limit(a) && b.Shape == measure.Nominal || limit(b) && a.Shape == measure.Nominal) && a.Value() == b.Value()
}

// besideNamed compares a fact with the one parameter that it is of.
func (j *judge) besideNamed(b Beside, f fact, e *lookup.Entry, t *cabinet.Template) Beside {
	b.Param = f.param
	s, ok := t.Slot(f.param)
	switch {
	case !ok && f.role != Fact && len(f.readings) > 0:
		b.Param = ""
		return j.besideMeasure(b, f, e, t)
	case !ok:
		b.Says = Silent
		b.Why = "parts of " + t.Label + " have no such parameter"
		return b
	}
	one := j.besideOne(f, &s, e.Value(f.param), t)
	one.Column, one.From, one.To, one.Text = b.Column, b.From, b.To, b.Text
	return one
}

// besideOne compares a fact with one value of the parameter that it is of.
func (j *judge) besideOne(f fact, s *cabinet.Slot, have cabinet.Value, t *cabinet.Template) (b Beside) {
	b.Param = s.Key
	if s.Key == t.Case && s.ChipCode != "" {
		f.role = Package
		f.cases, f.inchOnly, _ = caseWords(f.text)
		return j.besideCase(b, f, have, t)
	}
	if have.IsBlank() {
		b.Says = Silent
		return b
	}
	b.Record = s.Shown(have)
	if s.Type != cabinet.Measure {
		return j.besideText(b, f.text, s, have)
	}
	readings := f.readings
	if len(readings) == 0 {
		of, _ := measure.ParseDimension(s.Of)
		unit := s.AssumeUnit
		if f.unit != "" {
			unit = f.unit
		}
		switch r := j.parse(f.text, of, unit); r.Outcome {
		case measure.Read:
			readings = []measure.Measure{r.Measure}
		case measure.Doubt:
			for _, w := range r.Possible {
				readings = append(readings, w.Measure)
			}
		case measure.Absent:
			b.Says, b.Why = Unused, "it says that there is none"
			return b
		default:
			b.Says, b.Why = NotUnderstood, r.Why
			return b
		}
	}
	return j.any(b, s, readings, have)
}

// any compares all readings of a doubtful fact: one that agrees is taken, and none of them is a contradiction.
func (j *judge) any(b Beside, s *cabinet.Slot, readings []measure.Measure, have cabinet.Value) Beside {
	b.Param, b.Record = s.Key, s.Shown(have)
	if have.Type != cabinet.Measure {
		b.Says, b.Why = NotUnderstood, "the record's value was never read"
		return b
	}
	b.Says = NotUnderstood
	for _, m := range readings {
		switch says := compare(s, m, have); {
		case says == Agrees:
			b.Says = Agrees
			return b
		case says == Better && len(readings) == 1:
			b.Says = Better
		case says == Contradicts && b.Says != Better:
			b.Says = Contradicts
		}
	}
	return b
}

// besideValue compares the value column with the leading parameter, as drawings write it: a bare number on a resistor
// is ohms. done is false where the text must be taken apart.
func (j *judge) besideValue(b Beside, f fact, e *lookup.Entry, t *cabinet.Template) (Beside, bool) {
	s, ok := t.Slot(t.Leading)
	if !ok {
		return b, false
	}
	have := e.Value(t.Leading)
	if s.Type != cabinet.Measure {
		if f.word && (s.Type == cabinet.Choice || s.Type == cabinet.Text) && !have.IsBlank() {
			v := j.besideText(b, f.text, &s, have)
			v.Param, v.Record = s.Key, s.Shown(have)
			return v, v.Says == Agrees
		}
		return b, false
	}
	readings := j.valueReadings(f, &s)
	if len(readings) == 0 {
		return b, false
	}
	if (readings[0].Shape == measure.Deviation) != s.Deviation && readings[0].Shape == measure.Deviation {
		return b, false
	}
	b.Param = s.Key
	if have.IsBlank() {
		if b.Says = Silent; f.number {
			b.Says, b.Why = NotUnderstood, "it has no unit"
		}
		return b, true
	}
	if len(readings) == 1 && readings[0].Tol != measure.NoTol {
		readings[0].Tol, readings[0].Minus, readings[0].Plus = measure.NoTol, measure.Number{}, measure.Number{}
	}
	v := j.any(b, &s, readings, have)
	if v.Says == Better || v.Says == Contradicts { // "25 V" of a diode may be another of its voltages
		if others := j.besideMeasure(b, f, e, t); others.Says == Agrees {
			return others, true
		}
	}
	if v.Says == Better && (s.Better != "more" || slices.Contains(t.Identity, s.Key)) { // it is what is asked for, and no rating
		v.Says = Contradicts
	}
	return v, true
}

// valueReadings reads a piece of the value column as the leading parameter.
func (j *judge) valueReadings(f fact, s *cabinet.Slot) (readings []measure.Measure) {
	of, _ := measure.ParseDimension(s.Of)
	if f.certain {
		if f.readings[0].Of == of {
			return f.readings
		}
		return nil
	}
	if f.word && !strings.ContainsAny(f.text, "0123456789") {
		return nil
	}
	unit := s.AssumeUnit
	if of == measure.Resistance && unit == "" {
		unit = "ohm"
	}
	switch r := j.parse(f.text, of, unit); r.Outcome {
	case measure.Read:
		readings = []measure.Measure{r.Measure}
	case measure.Doubt:
		for _, w := range r.Possible {
			if w.Measure.Of == of {
				readings = append(readings, w.Measure)
			}
		}
	}
	return readings
}

// describes says whether a parameter is one of those that a drawer's parts are told apart and named by: a nameless value
// means one of these first.
func describes(t *cabinet.Template, key string) bool {
	return key == t.Leading || slices.Contains(t.Identity, key) || strings.Contains(t.Description, "{"+key)
}

// besideMeasure compares a nameless value with every parameter of its kind: it agrees with any of them that says the same.
// That it lies inside a range ("5 V" in an input range of 4 to 6 V) agrees only where the leading parameter does not say
// something else ("3.3 V" of output). It contradicts only where all of them are filled with something else.
func (j *judge) besideMeasure(b Beside, f fact, e *lookup.Entry, t *cabinet.Template) Beside {
	var blank, against, better, inside *Beside
	for i := range t.Slots {
		s := &t.Slots[i]
		if s.Type != cabinet.Measure {
			continue
		}
		var fit []measure.Measure
		for _, m := range f.readings {
			if m.Of.String() == s.Of && (s.Deviation || m.Shape != measure.Deviation) {
				fit = append(fit, m)
			}
		}
		have := e.Value(s.Key)
		one := b
		one.Param = s.Key
		if around := e.Value(t.Leading).Measure; s.Deviation && absolute(f) && !have.IsBlank() && around.Of == f.readings[0].Of && around.Shape == measure.Nominal { // "±0.5 pF" beside ±5 % of 10 pF
			if one.Says, one.Record = Contradicts, s.Shown(have); have.Measure.Around(around.Value(), around.Of) == f.readings[0] {
				one.Says = Agrees
			}
			return one
		}
		if len(fit) == 0 { // "32M" may be a size of memory all the same
			if of, _ := measure.ParseDimension(s.Of); !f.certain && !f.number && !have.IsBlank() && have.Measure.Shape != measure.Range && !s.Deviation {
				for _, w := range j.parse(f.text, of, "").Possible {
					if w.Measure.Of == of && compare(s, w.Measure, have) == Agrees {
						one.Says, one.Record = Agrees, s.Shown(have)
						return one
					}
				}
			}
			continue
		}
		if have.IsBlank() {
			one.Says = Silent
			if _, problem := s.Read(f.text, measure.Options{}); (blank == nil || describes(t, s.Key) && !describes(t, blank.Param)) && (problem == nil || !f.certain) { // 20 V are no offset
				blank = &one
			}
			continue
		}
		switch one = j.any(one, s, fit, have); one.Says {
		case Agrees:
			if have.Measure.Shape != measure.Range || slices.ContainsFunc(fit, func(m measure.Measure) bool { return m.Same(have.Measure) }) {
				return one
			}
			if inside == nil {
				inside = &one
			}
		case Better:
			if better == nil {
				better = &one
			}
		case Contradicts:
			if against == nil || s.Key == t.Leading || describes(t, s.Key) && !describes(t, against.Param) {
				against = &one
			}
		}
	}
	switch {
	case inside != nil && (against == nil || against.Param != t.Leading):
		return *inside
	case better != nil:
		return *better
	case blank != nil && (against == nil || !describes(t, against.Param) || describes(t, blank.Param)):
		return *blank
	case against != nil:
		return *against
	}
	b.Says = Silent
	b.Why = "parts of " + t.Label + " have no parameter of that kind"
	if f.role == Value && len(f.readings) > 0 { // "100 nF" is no resistor
		b.Says = Contradicts
		for _, r := range f.readings {
			if !j.leading[r.Of.String()] || r.Shape == measure.Deviation {
				b.Says = Silent
			}
		}
		if b.Says == Contradicts && !f.certain {
			b.Says = NotUnderstood
		}
	}
	return b
}

// absolute says whether a fact is a tolerance in the unit of what it is around.
func absolute(f fact) bool {
	return len(f.readings) == 1 && f.readings[0].Shape == measure.Deviation && f.readings[0].Tol == measure.Absolute
}

// sells says whether a record is bought under an MPN that is long enough to be one.
func sells(e *lookup.Entry, mpn string) bool {
	return len(part.NormaliseMPN(mpn)) >= 4 && spelling(e, mpn) != ""
}

// spelling returns how a record spells an MPN.
func spelling(e *lookup.Entry, mpn string) string {
	for _, s := range e.Sources {
		if part.NormaliseMPN(s.MPN) == part.NormaliseMPN(mpn) {
			return s.MPN
		}
	}
	return ""
}
