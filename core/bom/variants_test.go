package bom

import (
	"fmt"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"jollydrawer/core/cabinet"
	"jollydrawer/core/decision"
	"jollydrawer/core/finding"
)

// readAll reads a table as a BOM's file is.
func readAll(t require.TestingT, cab *cabinet.Cabinet, header []string, rows [][]string) ([]Line, Columns) {
	cols, err := FindColumns(header, rows, cab)
	require.NoError(t, err)
	cols = cols.Seen(rows)
	var lines []Line
	for i, r := range rows {
		lines = append(lines, ReadLine(i+2, r, cols))
	}
	Nest(lines, cols)
	TellApart(lines)
	return lines, cols
}

// made of variants: which designators are fitted in which.
type variantBoard struct {
	names []string
	in    [][]bool // by line, by variant
}

func (b variantBoard) list(line int) (in, out []string) {
	for k, n := range b.names {
		if b.in[line][k] {
			in = append(in, n)
		} else {
			out = append(out, n)
		}
	}
	return in, out
}

// variantForms are the ways in which files tell variants: a board written in any of them reads as it was.
var variantForms = map[string]func(t *rapid.T, b variantBoard) (header []string, cells [][]string){
	"lists": func(t *rapid.T, b variantBoard) ([]string, [][]string) {
		sep := rapid.SampledFrom([]string{", ", ",", "; ", "/", "+", " & ", " | ", " and "}).Draw(t, "sep")
		var out [][]string
		for i := range b.in {
			in, not := b.list(i)
			cell := strings.Join(in, sep)
			switch form := rapid.IntRange(0, 4).Draw(t, "form"); {
			case len(not) == 0:
				cell = rapid.SampledFrom([]string{"", "all", "*", "ALL", "alle", cell}).Draw(t, "all")
			case len(in) == 0:
				cell = rapid.SampledFrom([]string{"none", "keine"}).Draw(t, "none")
			case form == 0:
				cell = "not " + strings.Join(not, sep)
			case form == 1:
				cell = "all except " + strings.Join(not, sep)
			case form == 2 && len(in) == 1:
				cell = in[0] + " only"
			case form == 3 && len(not) == 1:
				cell = rapid.SampledFrom([]string{"!", "DNP in ", "ohne ", "not in "}).Draw(t, "but") + not[0]
			}
			out = append(out, []string{cell})
		}
		return []string{rapid.SampledFrom([]string{"Variant", "Variants", "Variante", "Assembly variant", "BOM variant"}).Draw(t, "heading")}, out
	},
	"marks": func(t *rapid.T, b variantBoard) (header []string, cells [][]string) {
		form := rapid.SampledFrom([]string{"Fitted %s", "%s fitted", "Populate (%s)", "Variant %s", "Variant: %s", "Bestückt %s", "Mounted in %s"}).Draw(t, "heading")
		marks := rapid.SampledFrom([][2]string{{"yes", "no"}, {"x", ""}, {"1", "0"}, {"fitted", "DNP"}, {"✓", "✗"}, {"ja", "nein"}, {"Y", "N"}}).Draw(t, "marks")
		for _, n := range b.names {
			header = append(header, fmt.Sprintf(form, n))
		}
		return header, b.ticks(marks[0], marks[1])
	},
	"marks of what is left off": func(t *rapid.T, b variantBoard) (header []string, cells [][]string) {
		form := rapid.SampledFrom([]string{"DNP %s", "Not fitted %s", "DNF (%s)", "Nicht bestückt %s", "Do not populate %s"}).Draw(t, "heading")
		marks := rapid.SampledFrom([][2]string{{"no", "yes"}, {"", "x"}, {"", "DNP"}, {"0", "1"}}).Draw(t, "marks")
		for _, n := range b.names {
			header = append(header, fmt.Sprintf(form, n))
		}
		return header, b.ticks(marks[0], marks[1])
	},
	"quantities": func(t *rapid.T, b variantBoard) (header []string, cells [][]string) {
		form := rapid.SampledFrom([]string{"Qty %s", "Quantity (%s)", "Menge %s", "%s qty"}).Draw(t, "heading")
		none := rapid.SampledFrom([]string{"", "0"}).Draw(t, "none")
		for _, n := range b.names {
			header = append(header, fmt.Sprintf(form, n))
		}
		return header, b.ticks("1", none)
	},
}

func (b variantBoard) ticks(yes, no string) (cells [][]string) {
	for i := range b.in {
		var row []string
		for k := range b.names {
			row = append(row, map[bool]string{true: yes, false: no}[b.in[i][k]])
		}
		cells = append(cells, row)
	}
	return cells
}

func TestVariantsReadAsTheyWereWritten(t *testing.T) {
	_, cab := house(t)
	rapid.Check(t, func(t *rapid.T) {
		b := variantBoard{names: rapid.SampledFrom([][]string{{"A", "B"}, {"Lite", "Pro", "Max"}, {"V1", "V2", "V3"}, {"Harbour", "Open sea"}, {"EU", "US", "JP", "AU"}, {"full", "low-cost"}}).Draw(t, "names")}
		for range rapid.IntRange(6, 20).Draw(t, "lines") {
			b.in = append(b.in, rapid.SliceOfN(rapid.Bool(), len(b.names), len(b.names)).Draw(t, "in"))
		}
		for k := range b.names { // each variant has a line that it has and one that it has not, in a row of its own
			on, off := make([]bool, len(b.names)), make([]bool, len(b.names))
			on[k] = true
			for o := range off {
				off[o] = o != k
			}
			b.in = append(b.in, on, off)
		}
		form := rapid.SampledFrom([]string{"lists", "marks", "marks of what is left off", "quantities"}).Draw(t, "form")
		header, cells := variantForms[form](t, b)
		var rows [][]string
		for i := range cells {
			rows = append(rows, append([]string{fmt.Sprintf("R%d", i+1), "10k"}, cells[i]...))
		}
		header = append([]string{"Designator", "Value"}, header...)
		for _, n := range b.names { // one that no cell names nobody can know of
			if form == "lists" && !strings.Contains(strings.ReplaceAll(fmt.Sprint(cells), "ALL", ""), n) {
				t.Skip()
			}
		}
		lines, cols := readAll(t, cab, header, rows)
		all := cols.Variants()
		if len(all) != len(b.names) {
			t.Fatalf("%q %q: variants %q of %q (%+v)", header, rows, all, b.names, cols[2:])
		}
		for i, l := range lines {
			in, _ := b.list(i)
			if l.FitAsk != "" && form == "marks" && len(in) == 0 && strings.TrimSpace(strings.Join(cells[i], "")) == "" {
				continue // ticked nowhere
			}
			if strings.Contains(l.FitAsk, "no other line names the variant") && onceNamed(cells, b.names) {
				continue
			}
			for k, n := range b.names {
				if on := l.Is(n) && !l.NotFitted; on != b.in[i][k] || l.FitAsk != "" {
					t.Fatalf("%q: %q: %s is %v and reads %v %q", header, rows[i], n, b.in[i][k], on, l.FitAsk)
				}
			}
		}
	})
}

// onceNamed says whether one of some names stands in one cell only.
func onceNamed(cells [][]string, names []string) bool {
	return slices.ContainsFunc(names, func(n string) bool {
		k := 0
		for _, c := range cells {
			if strings.Contains(strings.NewReplacer(",", " ", ";", " ", "/", " ", "+", " ", "&", " ", "|", " ", "!", " ").Replace(" "+c[0]+" "), " "+n+" ") {
				k++
			}
		}
		return k == 1
	})
}

func TestListsOfVariants(t *testing.T) {
	for cell, want := range map[string]string{
		"": "every", "all": "every", "A": "in A", "A, B": "in A B", "A+B": "in A B", "not C": "but C", "all but C": "but C", "!C": "but C", "B only": "in B", "only B": "in B", "none": "none", "Open sea": "in Open sea",
		"Variant A": "in A", "DNP in B": "but B", "A; all": "odd", "A, not B": "odd", "see the table on page four of the manual": "odd", "???": "odd", "none, A": "odd", "A (and B)": "in A B", "-": "odd",
	} {
		m := (&listing{}).read(cell)
		got := "odd"
		switch {
		case m.odd != "":
		case m.none:
			got = "none"
		case len(m.in) > 0:
			got = "in " + strings.Join(m.in, " ")
		case len(m.but) > 0:
			got = "but " + strings.Join(m.but, " ")
		case m.every:
			got = "every"
		}
		assert.Equal(t, want, got, cell)
	}
}

// What is not a list or a mark of variants is asked about, or is what it was.
func TestWhatDoesNotTellVariants(t *testing.T) {
	_, cab := house(t)
	for name, c := range map[string]struct {
		header []string
		cells  [][]string
		names  int
		asks   bool
	}{
		"one name":                            {[]string{"Variant"}, [][]string{{"A"}, {""}, {"A"}}, 0, true},
		"codes of packings":                   {[]string{"Option"}, [][]string{{"TR"}, {"CT"}, {"TR"}}, 0, true},
		"sentences":                           {[]string{"Variant"}, [][]string{{"see note 4 of the drawing for this"}, {"A"}, {"B"}}, 0, true},
		"a name for nearly every line":        {[]string{"Variant"}, [][]string{{"SMD-1"}, {"SMD-2"}, {"SMD-3"}, {"SMD-4"}, {"SMD-5"}, {"SMD-6"}}, 0, true},
		"quantities of builds":                {[]string{"Qty 10", "Qty 100"}, [][]string{{"10", "100"}, {"10", "100"}}, 0, false},
		"stock beside the need":               {[]string{"Qty needed", "Qty in stock"}, [][]string{{"1", "0"}, {"1", "400"}}, 0, false},
		"sides of the board":                  {[]string{"Mounted top", "Mounted bottom"}, [][]string{{"yes", "no"}, {"no", "yes"}}, 0, true},
		"one column that names a variant":     {[]string{"Fitted Lite"}, [][]string{{"yes"}, {"no"}}, 0, true},
		"two columns with words below":        {[]string{"Variant A", "Variant B"}, [][]string{{"10k", "22k"}, {"10k", "10k"}}, 0, true},
		"pieces that differ from one another": {[]string{"Qty Lite", "Qty Pro"}, [][]string{{"1", "0"}, {"1", "7"}}, 0, false},
	} {
		header := append([]string{"Designator", "Value"}, c.header...)
		var rows [][]string
		for i := range c.cells {
			rows = append(rows, append([]string{fmt.Sprintf("R%d", i+1), "10k"}, c.cells[i]...))
		}
		lines, cols := readAll(t, cab, header, rows)
		assert.Len(t, cols.Variants(), c.names, name)
		asked := slices.ContainsFunc(lines, func(l Line) bool { return l.FitAsk != "" })
		assert.Equal(t, c.asks, asked, "%s: %+v", name, cols[2:])
	}
}

// A person may say that a column tells variants: one name alone means that a board without it is built too.
func TestAPersonSaysThatAColumnTellsVariants(t *testing.T) {
	_, cab := house(t)
	header, rows := []string{"Designator", "Value", "Option", "Lite"}, [][]string{{"R1", "10k", "heated", "x"}, {"R2", "10k", "", ""}, {"R3", "10k", "heated, also with the lid of the older housing", "x"}}
	cols, err := FindColumns(header, rows, cab)
	require.NoError(t, err)
	said := cols.With(map[int]Column{2: {At: 2, Role: Variants, Because: "Maren said so"}}).Seen(rows)
	assert.Equal(t, []string{"heated", "without heated"}, said.Variants())
	assert.Equal(t, []string{"heated"}, ReadLine(2, rows[0], said).In)
	assert.Nil(t, ReadLine(2, rows[1], said).In)
	assert.Contains(t, ReadLine(2, rows[2], said).FitAsk, "no plain list of variants")
	marks := cols.With(map[int]Column{3: {At: 3, Role: Fit, Variant: "Lite", Because: "Maren said so"}, 2: {At: 2, Role: Remark, Because: "Maren said so"}}).Seen(rows)
	assert.Equal(t, []string{"Lite"}, marks.Variants())
	assert.True(t, ReadLine(2, rows[1], marks).NotFitted, "it is in no variant")
}

func TestAnotherPartInAVariant(t *testing.T) {
	lib, cab := house(t)
	lines, _ := readAll(t, cab, []string{"Designator", "Value", "Package", "Number", "Variant"}, [][]string{
		{"R1", "4.7k", "0805", "R-001", ""}, {"R2", "4.7k", "0805", "R-001", "A"}, {"R2", "4.7k", "0603", "R-002", "B"}, {"R2", "4.7k", "0603", "R-002", "B"}, {"R3", "4.7k", "0805", "R-001", "A, B"}})
	vs := Reconcile(lines, lib, cab, Known{})
	assert.Contains(t, causesOf(vs[2]), "variant-part")
	assert.NotContains(t, causesOf(vs[2]), "designator-twice")
	assert.Contains(t, causesOf(vs[3]), "designator-twice", "twice in one variant")
	assert.NotEqual(t, lines[1].About(), lines[2].About())
	d := decision.Record{Kind: decision.Line, About: lines[1].About(), Evidence: lines[1].Evidence(), Outcome: "R-002", By: "Maren", Reason: "in stock"}
	other, _ := lib.ByID("R-002")
	d.Against = (&Verdict{Tally: Lay(lines[1], other, lib, cab, Known{})}).Against()
	vs = Reconcile(lines, lib, cab, Known{Decisions: []decision.Record{d}})
	assert.Equal(t, []string{"R-002", "R-002"}, []string{vs[1].Part.ID, vs[2].Part.ID})
	assert.NotNil(t, vs[1].Chosen)
	assert.Nil(t, vs[2].Chosen, "a decision for the line of A is none for that of B")

	pieces := func(variant string) map[string]int64 {
		return Subs{}.Each(Of(Reconcile(lines[:3], lib, cab, Known{}), variant))
	}
	assert.Equal(t, map[string]int64{"R-001": 2}, pieces("A"))
	assert.Equal(t, map[string]int64{"R-001": 1, "R-002": 1}, pieces("B"))
	all := PinAll(Reconcile(lines[:3], lib, cab, Known{}))
	a, b := PinnedOf(all, "A"), PinnedOf(all, "B")
	assert.Len(t, a, 2, "the line of B has no place of its own in A")
	assert.Equal(t, "R-002", b[1].Part.Number)
	c := Compare(a, b)
	require.Len(t, c.Changes, 1)
	assert.Equal(t, []string{"R2"}, c.Changes[0].Designators)
	assert.Contains(t, c.Changes[0].What, OtherPart)
	assert.Empty(t, Compare(all, all).Changes)
	moved := slices.Clone(all)
	moved[1].In = []string{"A", "C"}
	assert.Equal(t, [][]string{{OtherIn}}, whats(Compare(all, moved)))
}

func whats(c Comparison) (out [][]string) {
	for _, x := range c.Changes {
		out = append(out, x.What)
	}
	return out
}

// A line of a variant is not fitted in another, and no finding is lost by that.
func TestVerdictsOfAVariant(t *testing.T) {
	lib, cab := house(t)
	lines, cols := readAll(t, cab, []string{"Designator", "Number", "Variant"}, [][]string{{"R1", "R-001", "A"}, {"R2", "R-004", "B"}, {"R3", "R-001", ""}})
	vs := Reconcile(lines, lib, cab, Known{Columns: cols})
	was := vs[0].Kind
	for variant, want := range map[string][]Kind{"": {Linked, Linked, Linked}, "A": {Linked, Unfitted, Linked}, "b": {Unfitted, Linked, Linked}} {
		got := Of(vs, variant)
		var kinds []Kind
		for _, v := range got {
			kinds = append(kinds, v.Kind)
		}
		assert.Equal(t, want, kinds, variant)
		assert.True(t, slices.ContainsFunc(got[1].Findings, func(f finding.Finding) bool { return f.Cause == "obsolete" }))
	}
	assert.Equal(t, was, vs[0].Kind, "what was worked out stays as it was")
}
