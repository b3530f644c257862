package bom

import (
	"fmt"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jollydrawer/core/cabinet"
	"jollydrawer/core/decision"
	"jollydrawer/core/lifecycle"
	"jollydrawer/core/lookup"
	"jollydrawer/core/measure"
	"jollydrawer/core/part"
)

// houseWord is what a house calls a part, in no dictionary.
func houseWord(n int) string { return fmt.Sprintf("Zq%dwombat", n) }

// spoken is a line that calls a part by a house's word, beside a package or not.
func (w *world) spoken(p *madePart, n int, packaged bool) Line {
	l := Line{Row: n + 2, Written: fmt.Sprintf("%s%d", p.t.Designator, n+1), Quantity: 1, Value: houseWord(n)}
	if packaged {
		l.Package = p.values[p.t.Case].String()
	}
	l.Designators = []string{l.Written}
	return l
}

func (w *world) teach(l Line, p *madePart, links bool) decision.Record {
	e, _ := w.index.ByNumber(p.number)
	r := Learn(l, e, Lay(l, e, w.index, w.cab, Known{Columns: madeColumns}), links, w.cab)
	r.By, r.At = "Tide", time.Date(2026, 11, 1, 8, 0, 0, 0, time.UTC)
	return r
}

// changed puts a part into the index anew, with another value of a parameter.
func (w *world) changed(p *madePart, key string, v cabinet.Value) {
	was, _ := w.index.ByNumber(p.number)
	values := map[string]cabinet.Value{}
	for k, o := range p.values {
		values[k] = o
	}
	values[key] = v
	e := lookup.NewEntry(part.Content{Drawer: p.t.Key, Values: values, Sources: was.Sources})
	e.ID, e.Number, e.Standing, e.Revision, e.Version = was.ID, was.Number, was.Standing, was.Revision+1, was.Version+1
	w.index.Put(e)
}

// What was taught comes back for every line that says the same, and for none that says anything else, whatever happened to the part meanwhile.
func TestReadingsAreUsedWhereTheyWereTaughtAndNowhereElse(t *testing.T) {
	w := newWorld(t, 23, 8)
	linked, asked := 0, map[string]int{}
	for n := range 500 {
		p := w.parts[n%len(w.parts)]
		e, _ := w.index.ByNumber(p.number)
		if e.Revision != 1 || e.Gone { // an earlier turn changed it
			continue
		}
		packaged := w.IntN(4) > 0 && !p.values[p.t.Case].IsBlank()
		links := w.IntN(3) > 0
		l := w.spoken(p, n, packaged)
		known := Known{Columns: madeColumns, Readings: []decision.Record{w.teach(l, p, links)}}
		again := l
		again.Written = fmt.Sprintf("%s%d", p.t.Designator, 9000+n)
		again.Designators = []string{again.Written}
		plain := Reconcile([]Line{again}, w.index, w.cab, Known{Columns: madeColumns})[0]
		if plain.Kind == Linked {
			continue
		}
		how, want := "as it was taught", Proposed
		if links && packaged {
			want = Linked
		}
		mayLead := true // whether the reading may lead to the part at all
		switch w.IntN(8) {
		case 0:
			if packaged {
				again.Package, how, want, mayLead = "LQFP-144", "another package", Proposed, false
			}
		case 1:
			again.Description, how, want, mayLead = "see Zqnote", "another word", Proposed, false
		case 2:
			again.Designators, how, want, mayLead = []string{"XX7"}, "other letters", Proposed, false
		case 3:
			again.Value, how, mayLead, want = houseWord(n)+"x", "another name", false, Proposed
		case 4:
			if s, ok := p.t.Slot(p.t.Leading); ok && s.Type == cabinet.Measure {
				if v := w.value(&s, p.t); !v.IsBlank() && v.Meant() != p.values[p.t.Leading].Meant() {
					w.changed(p, p.t.Leading, v)
					how, want = "the part is another", Proposed
				}
			}
		case 5:
			w.changed(p, "remark", cabinet.Value{Type: cabinet.Text, Text: "looked at"})
			how = "the part has a remark more"
		case 6:
			e := *e
			e.Use, e.Revision = lifecycle.UseNo, 2
			w.index.Put(&e)
			how = "the part is not to be used" // it is found on its boards, and a finding there
		}
		v := Reconcile([]Line{again}, w.index, w.cab, known)[0]
		led := v.Part != nil && v.Part.Number == p.number && v.Reading != nil
		assert.Equal(t, mayLead, led, "%s: %+v: %v %v", how, again, v.Kind, v.Evidence)
		if mayLead {
			assert.Equal(t, want, v.Kind, "%s (links %v, packaged %v): %+v is %s: %v %v", how, links, packaged, again, p.number, v.Tally, v.Findings)
		} else {
			assert.NotEqual(t, Linked, v.Kind, how)
		}
		if v.Kind == Linked {
			linked++
		}
		asked[how]++
	}
	t.Logf("%d linked; %v", linked, asked)
	assert.Greater(t, linked, 60)
	assert.GreaterOrEqual(t, len(asked), 7)
}

func TestAReadingExplainsTheWordsThatItWasTaughtFor(t *testing.T) {
	w := newWorld(t, 5, 3)
	p := w.parts[0]
	l := w.spoken(p, 1, true)
	r := w.teach(l, p, true)
	require.NotEmpty(t, r.Explained)
	v := Reconcile([]Line{l}, w.index, w.cab, Known{Columns: madeColumns, Readings: []decision.Record{r}})[0]
	require.Equal(t, Linked, v.Kind)
	assert.Contains(t, strings.Join(v.Evidence, "\n"), "Tide on 2026-11-01 took such lines for "+p.number)
	for _, b := range v.Tally {
		assert.NotEqual(t, NotUnderstood, b.Says)
		if b.Text == l.Value {
			assert.Equal(t, "so Tide on 2026-11-01", b.Why)
		}
	}
	assert.Equal(t, "Tide", PinAll([]Verdict{v})[0].By)
	r.Explained = nil // as a later reader might part the words otherwise
	assert.Equal(t, Proposed, Reconcile([]Line{l}, w.index, w.cab, Known{Columns: madeColumns, Readings: []decision.Record{r}})[0].Kind)
	r.Withdrawn = "Tide"
	assert.Nil(t, Reconcile([]Line{l}, w.index, w.cab, Known{Columns: madeColumns, Readings: []decision.Record{r}})[0].Reading)
}

func causesOf(v Verdict) (out []string) {
	for _, f := range v.Findings {
		out = append(out, f.Cause)
	}
	return out
}

// A word beside the part's own MPN keeps a line from being linked, until somebody says what it means; a maker alone is no evidence.
func TestAReadingExplainsAWordBesideAnMPN(t *testing.T) {
	w := newWorld(t, 5, 3)
	p := w.parts[0]
	l := Line{Row: 2, Designators: []string{p.t.Designator + "1"}, MPN: p.mpn, Manufacturer: p.maker, Value: houseWord(1)}
	require.Equal(t, Proposed, Reconcile([]Line{l}, w.index, w.cab, Known{Columns: madeColumns})[0].Kind)
	assert.Equal(t, Linked, Reconcile([]Line{l}, w.index, w.cab, Known{Columns: madeColumns, Readings: []decision.Record{w.teach(l, p, true)}})[0].Kind)
	l.MPN = ""
	assert.Equal(t, Proposed, Reconcile([]Line{l}, w.index, w.cab, Known{Columns: madeColumns, Readings: []decision.Record{w.teach(l, p, true)}})[0].Kind)
}

// An identity is not overruled by a reading: where the two lead to two parts, somebody is asked, and sees both.
func TestAReadingAgainstAnIdentityAsks(t *testing.T) {
	w := newWorld(t, 5, 3)
	p, other := w.parts[0], w.parts[1]
	l := Line{Row: 2, Designators: []string{p.t.Designator + "1"}, MPN: p.mpn, Manufacturer: p.maker}
	v := Reconcile([]Line{l}, w.index, w.cab, Known{Columns: madeColumns, Readings: []decision.Record{w.teach(l, other, true)}})[0]
	assert.Equal(t, Proposed, v.Kind)
	assert.Equal(t, p.number, v.Part.Number)
	require.Len(t, v.Options, 1)
	assert.Equal(t, other.number, v.Options[0].Number)
	assert.Contains(t, causesOf(v), "reading-against")
	same := Reconcile([]Line{l}, w.index, w.cab, Known{Columns: madeColumns, Readings: []decision.Record{w.teach(l, p, false)}})[0]
	assert.Equal(t, Linked, same.Kind, "what is exact needs no reading")
}

func TestAReadingOfAPartThatIsGone(t *testing.T) {
	w := newWorld(t, 5, 3)
	p := w.parts[0]
	l := w.spoken(p, 1, true)
	r := w.teach(l, p, true)
	r.Outcome = "nobody"
	v := Reconcile([]Line{l}, w.index, w.cab, Known{Columns: madeColumns, Readings: []decision.Record{r}})[0]
	assert.NotEqual(t, Linked, v.Kind)
	assert.Nil(t, v.Reading)
	assert.Contains(t, causesOf(v), "reading-void")
}

// What contradicted the part when a person took it all the same is accepted in that BOM; elsewhere it proposes only.
func TestAReadingThatWasTaughtAgainstAFactProposes(t *testing.T) {
	w := newWorld(t, 5, 6)
	tried := 0
	for n, p := range w.parts {
		if p.values["tolerance"].IsBlank() || !w.sole(p.t, "tolerance") || p.values[p.t.Case].IsBlank() {
			continue
		}
		l := w.spoken(p, n, true)
		l.Description = "7 %"
		r := w.teach(l, p, true)
		v := Reconcile([]Line{l}, w.index, w.cab, Known{Columns: madeColumns, Readings: []decision.Record{r}})[0]
		require.NotNil(t, v.Reading)
		assert.NotEmpty(t, r.Against)
		assert.Equal(t, Proposed, v.Kind, "%v", v.Tally)
		tried++
	}
	assert.Greater(t, tried, 5)
}

func TestWhatMattersIsWhatIdentifies(t *testing.T) {
	w := newWorld(t, 5, 3)
	p := w.parts[0]
	e, _ := w.index.ByNumber(p.number)
	before := Matters(e, w.cab)
	assert.Contains(t, before, p.t.Key)
	w.changed(p, "remark", cabinet.Value{Type: cabinet.Text, Text: "x"})
	now, _ := w.index.ByNumber(p.number)
	assert.Equal(t, before, Matters(now, w.cab))
	slot, _ := p.t.Slot(p.t.Leading)
	v, problem := slot.Read("33 kΩ", measure.Options{})
	require.Nil(t, problem)
	require.NotEqual(t, v.Meant(), p.values[p.t.Leading].Meant())
	w.changed(p, p.t.Leading, v)
	now, _ = w.index.ByNumber(p.number)
	assert.NotEqual(t, before, Matters(now, w.cab))
}

// A line that says nothing but where it stands is like no other: what was taught of one, when that was still possible, is used for none.
func TestALineThatSaysNothingIsTaughtNothing(t *testing.T) {
	w := newWorld(t, 11, 14)
	blank := Line{Row: 2, Designators: []string{"X1"}, Quantity: 1, Value: " ", Facts: []Cell{{Column: 7, Text: "\t"}}}
	assert.True(t, blank.Silent())
	says := blank
	says.Value = "as drawn"
	for _, d := range []decision.Record{LearnNone(blank, true), Learn(blank, w.entry(t, 0), nil, true, w.cab)} {
		d.By = "Maren"
		v := Reconcile([]Line{blank}, w.index, w.cab, Known{Columns: madeColumns, Readings: []decision.Record{d}})[0]
		assert.Equal(t, Missing, v.Kind, "%v", v.Evidence)
		assert.Nil(t, v.Reading)
	}
	d := LearnNone(says, true)
	d.By = "Maren"
	v := Reconcile([]Line{says}, w.index, w.cab, Known{Columns: madeColumns, Readings: []decision.Record{d}})[0]
	assert.Equal(t, Marked, v.Kind, "what a line says is known again")
	for _, f := range []func(*Line){func(l *Line) { l.Number = "1" }, func(l *Line) { l.MPN = "1" }, func(l *Line) { l.Manufacturer = "1" }, func(l *Line) { l.Supplier = "1" }, func(l *Line) { l.SupplierNumber = "1" },
		func(l *Line) { l.Value = "1" }, func(l *Line) { l.Package = "1" }, func(l *Line) { l.Description = "1" }, func(l *Line) { l.Facts = []Cell{{Text: "1"}} }} {
		l := blank
		f(&l)
		assert.False(t, l.Silent(), "%+v", l)
	}
}

// entry is a made part as the library has it.
func (w *world) entry(t *testing.T, n int) *lookup.Entry {
	t.Helper()
	e, ok := w.index.ByNumber(w.parts[n].number)
	require.True(t, ok)
	return e
}
