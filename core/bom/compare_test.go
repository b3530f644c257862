package bom

import (
	"fmt"
	"maps"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"jollydrawer/core/lifecycle"
	"jollydrawer/core/lookup"
	"jollydrawer/core/measure/measuretest"
	"jollydrawer/core/part"
)

func pinned(designators string, part string, revision int) Pinned {
	p := Pinned{Designators: strings.Fields(designators), Value: part + " as written"}
	p.Quantity = len(p.Designators)
	if part != "" {
		p.Part = &Pin{ID: part, Number: "EW-" + part, Revision: revision}
	}
	return p
}

// told writes a comparison: what became of which designators.
func told(c Comparison) (out []string) {
	for _, ch := range c.Changes {
		out = append(out, strings.Join(ch.What, "+")+" "+strings.Join(ch.Designators, ","))
	}
	return out
}

func TestComparingSaysWhatBecameOtherwise(t *testing.T) {
	base := []Pinned{pinned("R1 R2 R10", "a", 1), pinned("C1", "b", 1), pinned("U1", "c", 3)}
	with := func(f func(l []Pinned) []Pinned) []Pinned { return f(slices.Clone(base)) }
	fitted := func(l Pinned) Pinned { l.NotFitted = true; return l }
	counted := func(l Pinned, n int) Pinned { l.Quantity = n; return l }
	as := func(l Pinned, value string) Pinned { l.Value = value; return l }
	wire := Pinned{Designators: []string{}, Amount: "0.3 m", Value: "wire"}
	longer := Pinned{Designators: []string{}, Amount: "0.5 m", Value: "wire"}
	for name, c := range map[string]struct {
		after []Pinned
		want  []string
		same  int
	}{
		"nothing":                         {base, nil, 5},
		"in another order":                {[]Pinned{base[2], base[0], base[1]}, nil, 5},
		"one line in two":                 {[]Pinned{pinned("R1", "a", 1), pinned("R2 R10", "a", 1), base[1], base[2]}, nil, 5},
		"one more":                        {with(func(l []Pinned) []Pinned { l[0] = pinned("R1 R2 R3 R10", "a", 1); return l }), []string{"added R3"}, 5},
		"one less":                        {with(func(l []Pinned) []Pinned { l[0] = pinned("R1 R10", "a", 1); return l }), []string{"removed R2"}, 4},
		"another part":                    {with(func(l []Pinned) []Pinned { l[1] = pinned("C1", "d", 1); return l }), []string{"part C1"}, 4},
		"two of three another part":       {[]Pinned{pinned("R1", "a", 1), pinned("R2 R10", "z", 1), base[1], base[2]}, []string{"part R2,R10"}, 3},
		"newer":                           {with(func(l []Pinned) []Pinned { l[2] = pinned("U1", "c", 4); return l }), []string{"revision U1"}, 4},
		"not fitted":                      {with(func(l []Pinned) []Pinned { l[0] = fitted(l[0]); return l }), []string{"fitted R1,R2,R10"}, 2},
		"other words":                     {with(func(l []Pinned) []Pinned { l[1] = as(l[1], "100nF"); return l }), []string{"text C1"}, 4},
		"more than designators":           {with(func(l []Pinned) []Pinned { l[1] = counted(l[1], 2); return l }), []string{"quantity C1"}, 4},
		"linked no more":                  {with(func(l []Pinned) []Pinned { l[1].Part = nil; return l }), []string{"linked C1"}, 4},
		"linked no more, and other words": {with(func(l []Pinned) []Pinned { l[1] = as(l[1], "1n"); l[1].Part = nil; return l }), []string{"part C1"}, 4},
		"part, fit and count at once":     {with(func(l []Pinned) []Pinned { l[1] = counted(fitted(pinned("C1", "d", 1)), 3); return l }), []string{"part+fitted+quantity C1"}, 4},
		"all gone":                        {nil, []string{"removed C1", "removed R1,R2,R10", "removed U1"}, 0},
	} {
		got := Compare(base, c.after)
		assert.Equal(t, c.want, told(got), name)
		assert.Equal(t, c.same, got.Same, name)
	}
	assert.Equal(t, []string{"quantity "}, told(Compare([]Pinned{wire}, []Pinned{longer})), "what has no designator is found by what it is")
	assert.Empty(t, told(Compare([]Pinned{wire}, []Pinned{wire})))
	bare := Compare([]Pinned{pinned("R1", "", 0)}, []Pinned{as(pinned("R1", "", 0), "10k")})
	assert.Equal(t, []string{"part R1"}, told(bare), "of bare lines what they say is the part")
}

func TestDesignatorsNumberedAnewAreProposed(t *testing.T) {
	before := []Pinned{pinned("R1 R2 R3", "a", 1), pinned("C1", "b", 1)}
	c := Compare(before, []Pinned{pinned("R101 R102 R103", "a", 1), pinned("C1", "b", 1)})
	assert.Equal(t, []Renumbered{{[]string{"R1", "R2", "R3"}, []string{"R101", "R102", "R103"}, "EW-a"}}, c.Renumbered)
	assert.Equal(t, []string{"removed R1,R2,R3", "added R101,R102,R103"}, told(c), "what is proposed is said as it is all the same")
	for name, after := range map[string][]Pinned{
		"not as many":     {pinned("R101 R102", "a", 1), before[1]},
		"another part":    {pinned("R101 R102 R103", "z", 1), before[1]},
		"another letter":  {pinned("U101 U102 U103", "a", 1), before[1]},
		"not fitted then": {func() Pinned { p := pinned("R101 R102 R103", "a", 1); p.NotFitted = true; return p }(), before[1]},
		"none were lost":  {before[0], before[1], pinned("R9", "a", 1)},
	} {
		assert.Empty(t, Compare(before, after).Renumbered, name)
	}
}

// TestComparingMadeBOMsSaysJustWhatWasChanged draws a BOM and changes it in known ways.
func TestComparingMadeBOMsSaysJustWhatWasChanged(t *testing.T) {
	d := &measuretest.Draws{State: 18}
	for range 400 {
		var before []Pinned
		n := 0
		for range 1 + d.IntN(40) {
			var list []string
			letters := drawnOf(d, []string{"R", "C", "U"})
			for range 1 + d.IntN(6) {
				n++
				list = append(list, fmt.Sprintf("%s%d", letters, n))
			}
			before = append(before, pinned(strings.Join(list, " "), fmt.Sprintf("p%d", len(before)), 1+d.IntN(3)))
		}
		want := map[string]string{}
		var after []Pinned
		for _, l := range before {
			stay := []string{}
			for _, x := range l.Designators {
				alone := func(what string, change func(*Pinned)) {
					p := pinned(x, "", 0)
					p.Part, p.Value = &Pin{ID: l.Part.ID, Number: l.Part.Number, Revision: l.Part.Revision}, l.Value
					change(&p)
					after = append(after, p)
					want[x] = what
				}
				switch d.IntN(12) {
				case 0:
					want[x] = Removed
				case 1:
					alone(OtherPart, func(p *Pinned) { p.Part.ID += "x" })
				case 2:
					alone(OtherRev, func(p *Pinned) { p.Part.Revision++ })
				case 3:
					alone(OtherFit, func(p *Pinned) { p.NotFitted = true })
				case 4:
					alone(OtherCount, func(p *Pinned) { p.Quantity = 2 })
				default:
					stay = append(stay, x)
				}
			}
			if len(stay) > 0 {
				p := l
				p.Designators, p.Quantity = stay, len(stay)
				after = append(after, p)
			}
		}
		for range d.IntN(4) {
			n++
			x := fmt.Sprintf("X%d", n)
			after = append(after, pinned(x, "new", 1))
			want[x] = Added
		}
		for i := range after { // the order of lines says nothing
			k := d.IntN(len(after))
			after[i], after[k] = after[k], after[i]
		}
		got := map[string]string{}
		c := Compare(before, after)
		for _, ch := range c.Changes {
			for _, x := range ch.Designators {
				require.NotContains(t, got, x)
				got[x] = strings.Join(ch.What, "+")
			}
		}
		require.Equal(t, want, got)
		back := Compare(after, before)
		require.Equal(t, c.Same, back.Same)
		require.Len(t, back.Changes, len(c.Changes), "it is the same the other way round")
	}
}

// TestComparingLosesNoLineThatStandsTwice draws BOMs whose designators and lines without one stand several times, as files have them before somebody cleans them: what one
// side has more of than the other is in the changes, and nothing else is.
func TestComparingLosesNoLineThatStandsTwice(t *testing.T) {
	type unit struct{ at, is string }
	units := func(l *Pinned) (out []unit) {
		for _, d := range l.Designators {
			out = append(out, unit{d, allOf(l)})
		}
		if len(out) == 0 {
			out = append(out, unit{"", allOf(l)})
		}
		return out
	}
	rapid.Check(t, func(t *rapid.T) {
		line := rapid.Custom(func(t *rapid.T) Pinned {
			p := pinned(rapid.SampledFrom([]string{"", "", "R1", "R2", "R1 R2"}).Draw(t, "at"), rapid.SampledFrom([]string{"p1", "p2"}).Draw(t, "part"), 1)
			p.Quantity, p.In = rapid.IntRange(1, 3).Draw(t, "pieces"), rapid.SampledFrom([][]string{nil, {"A"}, {"B"}}).Draw(t, "in")
			return p
		})
		before := rapid.SliceOfN(line, 1, 8).Draw(t, "before")
		after := slices.Clone(before)
		for range rapid.IntRange(0, 2).Draw(t, "changes") {
			switch i := rapid.IntRange(0, len(after)).Draw(t, "which"); {
			case i == len(after):
				after = append(after, line.Draw(t, "new"))
			case rapid.Bool().Draw(t, "gone"):
				after = slices.Delete(slices.Clone(after), i, i+1)
			default:
				after[i].Quantity++
			}
		}
		after = rapid.Permutation(after).Draw(t, "order")
		more := map[unit]int{} // what the first has more of, or less
		for i := range before {
			for _, u := range units(&before[i]) {
				more[u]++
			}
		}
		for i := range after {
			for _, u := range units(&after[i]) {
				more[u]--
			}
		}
		maps.DeleteFunc(more, func(_ unit, n int) bool { return n == 0 })
		said := map[unit]int{}
		for _, c := range Compare(before, after).Changes {
			places := c.Designators
			if len(places) == 0 {
				places = []string{""}
			}
			for _, d := range places {
				if c.Before != nil {
					said[unit{d, allOf(c.Before)}]++
				}
				if c.After != nil {
					said[unit{d, allOf(c.After)}]--
				}
			}
		}
		require.Equal(t, more, said)
	})
}

func TestDesignatorsAreInTheOrderOfPeople(t *testing.T) {
	list := []string{"R10", "A2/R1", "R2", "C1", "R2A", "U1B", "U1A", "XTAL", "R1"}
	slices.SortFunc(list, ByDesignator)
	assert.Equal(t, []string{"C1", "R1", "R2", "R2A", "R10", "U1A", "U1B", "XTAL", "A2/R1"}, list)
}

func TestWhatIsFrozenIsWhatIsLinked(t *testing.T) {
	x, cab := house(t)
	lines := []Line{
		ReadLine(2, []string{"R1, R2", "R-001", "", "", "4k7"}, benchColumns), // linked
		ReadLine(3, []string{"R3", "", "", "", "9k9"}, benchColumns),          // not in the library
		ReadLine(4, []string{"R4", "R-003", "", "", "10k"}, benchColumns),     // not released
		ReadLine(5, []string{"R5", "", "", "", "1k"}, benchColumns),           // several
		ReadLine(7, []string{"R7", "", "", "", "10k"}, benchColumns),          // proposed
	}
	lines = append(lines, func() Line { l := lines[1]; l.Row, l.NotFitted = 6, true; l.Designators = []string{"R6"}; return l }())
	vs := Reconcile(lines, x, cab, Known{Columns: benchColumns})
	var says []string
	for _, h := range Hindrances(vs) {
		says = append(says, h.Cause+": "+h.Says)
	}
	assert.Equal(t, []string{"open: R3 is not in the library", "unreleased: R4 is R-003, which is not released", "open: R5 is one of several parts", "open: R7 is only proposed"}, says)
	ps := PinAll(vs)
	require.Len(t, ps, 6)
	assert.Nil(t, ps[4].Part, "what nobody accepted is not pinned")
	assert.Equal(t, &Pin{ID: "R-001", Number: "R-001", Revision: 1, Manufacturer: "Tidewright", MPN: "TW-0805-4K7"}, ps[0].Part)
	assert.Equal(t, 2, ps[0].Quantity)
	assert.Nil(t, ps[1].Part)
	assert.Nil(t, ps[3].Part, "one of several is not pinned")
	assert.True(t, ps[5].NotFitted)
}

func TestWhatIsBehindIsSaidAndNothingMoves(t *testing.T) {
	x, _ := house(t)
	lines := []Pinned{pinned("R1", "R-001", 1), pinned("R2", "R-002", 1), pinned("R3", "R-004", 1), pinned("R4", "gone", 1), pinned("R5", "R-005", 1)}
	for i := range lines {
		if e, ok := x.ByID(lines[i].Part.ID); ok {
			lines[i].Part = PinOf(e)
		}
	}
	lines = append(lines, func() Pinned { p := lines[2]; p.NotFitted = true; return p }())
	newer, _ := x.ByID("R-002")
	e := *newer
	e.Revision, e.Version = 2, 2
	x.Put(&e)
	was, _ := x.ByID("R-005")
	other := *was
	other.Sources = slices.Clone(other.Sources)
	other.Sources[0].MPN, other.Version = "TW-C", 2
	x.Put(&other)
	var says []string
	for _, d := range Behind(lines, x) {
		says = append(says, d.Designators[0]+": "+strings.Join(d.Says, "; "))
	}
	assert.Equal(t, []string{"R2: revision 2 is in use", "R3: it is obsolete", "R4: it is no longer there", "R5: its first source is Tidewright TW-C, and was Tidewright TW-A"}, says)
	assert.Equal(t, lifecycle.Obsolete, func() lifecycle.Standing { e, _ := x.ByID("R-004"); return e.Standing }())
}

func TestReadinessCountsLinesByWhatTheyLack(t *testing.T) {
	x, _ := house(t)
	at := func(id string, change func(*lookup.Entry)) Pinned {
		e, ok := x.ByID(id)
		require.True(t, ok)
		now := *e
		change(&now)
		now.Version++
		x.Put(&now)
		return Pinned{Designators: []string{"R1"}, Quantity: 1, Part: PinOf(&now)}
	}
	whole := at("R-001", func(e *lookup.Entry) {
		e.Missing = nil
		e.Sources = append(slices.Clone(e.Sources), part.Source{Manufacturer: "Kelpline", MPN: "KL-1"})
	})
	flagged := at("R-004", func(e *lookup.Entry) { e.Missing = []string{"datasheet", "source"} })
	draft := at("R-003", func(e *lookup.Entry) { e.Missing = []string{"real body"} })
	gone := Pinned{Designators: []string{"R8"}, Part: &Pin{ID: "nobody", Revision: 1}}
	left := whole
	left.NotFitted = true
	got := Ready([]Pinned{whole, flagged, draft, gone, {Designators: []string{"R9"}}, left}, x, func(id string) bool { return id == "R-001" }, func(id string) bool { return id == "R-004" })
	assert.Equal(t, Readiness{Lines: 5, Linked: 4, Released: 1, Production: 1, Several: 1, InStock: 1, Models: 2, Datasheet: 2}, got)
}
