package intake

import (
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jollydrawer/core/cabinet"
	"jollydrawer/core/crosswalk"
	"jollydrawer/core/part"
)

// numbered is a row with the house's own number.
func numbered(number string, r []string) []string {
	out := append([]string{}, r...)
	out[0] = number
	return out
}

func TestARowIsLaidBesideTheRowsBeforeIt(t *testing.T) {
	bare := row("Res", "", "", "", "1 kΩ", "0,1", "2012")
	named := row("Res", "Tidewright", "TW-1", "", "1 kΩ", "0,1", "2012")
	other := row("Res", "Kelpline", "K-1", "", "1 kΩ", "0,1", "2012")
	const ownList, supplierList = "take: { number: No, kind: Kind }", "take: { number: No, kind: Kind, manufacturer: Maker, mpn: MPN, supplierNumber: Order }"
	for name, c := range map[string]struct {
		first, second []string
		take, like    string
		state         State
		why           string
		joins         int
		finding       string
	}{
		"nothing tells them apart":            {bare, bare, ownList, "", Repeat, "row 2 already says the same", 0, ""},
		"nothing tells them apart, kept":      {bare, bare, ownList, Keep, Repeat, "row 2 already says the same", 0, ""},
		"the second has a number of ours":     {bare, numbered("R-0009", bare), ownList, "", New, "", 0, "like-row"},
		"the first has one":                   {numbered("R-0009", bare), bare, ownList, "", Repeat, "row 2 already says the same", 0, ""},
		"they say other things":               {bare, row("Res", "", "", "", "1 kΩ", "0,2", "2012"), ownList, "", New, "", 0, "like-row"},
		"another value":                       {bare, row("Res", "", "", "", "2 kΩ", "0,1", "2012"), ownList, "", New, "", 0, ""},
		"no maker's number, as sources":       {bare, numbered("R-0009", bare), ownList, AsSource, New, "", 0, "like-row"},
		"two makers":                          {named, other, supplierList, "", New, "", 0, "like-row"},
		"two makers, as sources":              {named, other, supplierList, AsSource, Alternate, "another source of what row 2 makes", 1, ""},
		"two makers, the first kept":          {named, other, supplierList, Keep, LeftOut, "it is like row 2 in every identifying parameter", 0, ""},
		"one maker's number, as sources":      {numbered("R-0009", bare), other, supplierList, AsSource, New, "", 0, "like-row"},
		"the other maker's, as sources":       {named, numbered("R-0009", bare), supplierList, AsSource, New, "", 0, "like-row"},
		"a maker's number beside one of ours": {numbered("R-0009", bare), other, supplierList, "", New, "", 0, "like-row"},
	} {
		t.Run(name, func(t *testing.T) {
			cab, err := cabinet.Parse([]byte(cabinetText))
			require.NoError(t, err)
			cw, err := crosswalk.Parse([]byte(strings.Replace(crosswalkText, supplierList, c.take, 1)))
			require.NoError(t, err)
			table := NewTable(header)
			table.Add(Row{Number: 2, Cells: c.first})
			table.Add(Row{Number: 3, Cells: c.second})
			r := Build(Input{File: "f", Name: "f.csv", Table: table, Crosswalk: cw, Cabinet: cab, Library: library{}, Edits: Edits{Like: c.like}, Next: map[string]int64{"R": 5}})
			got := r.Candidates[1]
			assert.Equal(t, c.state, got.State, got.Why)
			assert.Equal(t, c.why, got.Why)
			assert.Equal(t, c.joins, got.Joins)
			said := ""
			for _, f := range r.Findings {
				if f.Row == 3 && f.Cause == "like-row" {
					said = f.Cause
				}
			}
			assert.Equal(t, c.finding, said)
		})
	}
}

func TestANumberOfOursAndAMakersMustLeadToOnePart(t *testing.T) {
	one := row("Res", "Tidewright", "TW-1", "", "1 kΩ", "", "2012")
	two := row("Res", "Kelpline", "K-1", "", "2 kΩ", "", "2012")
	lib := holding(build(t, library{}, Edits{}, one, two))
	require.Len(t, lib, 2)
	for name, c := range map[string]struct {
		row   []string
		state State
		part  string
	}{
		"both of one part":                 {numbered("R-0001", one), Known, "R-0001"},
		"ours alone":                       {numbered("R-0001", row("Res", "", "", "", "1 kΩ", "", "2012")), Known, "R-0001"},
		"theirs alone":                     {one, Known, "R-0001"},
		"ours of one, theirs of the other": {numbered("R-0002", one), Blocked, ""},
		"ours of one, theirs of nobody":    {numbered("R-0001", row("Res", "Osier", "O-1", "", "1 kΩ", "", "2012")), Blocked, ""},
		"ours of nobody, theirs of one":    {numbered("R-0099", one), Known, "R-0001"},
	} {
		t.Run(name, func(t *testing.T) {
			got := build(t, lib, Edits{}, c.row).Candidates[0]
			assert.Equal(t, c.state, got.State, got.Why)
			assert.Equal(t, c.part, got.Existing)
		})
	}
}

func TestARowThatIsLikePartsOfTheLibraryNamesThem(t *testing.T) {
	for some := 1; some <= 5; some++ {
		lib := library{}
		for i := range some {
			made := build(t, library{}, Edits{}, row("Res", "Osier", fmt.Sprint("O-", i), "", "1 kΩ", "", "2012"))
			e := holding(made)
			for key, p := range e {
				p.Number, p.ID = fmt.Sprint("R-000", i+1), fmt.Sprint("id", i)
				lib[key] = p
			}
		}
		r := build(t, lib, Edits{}, row("Res", "Tidewright", "TW-1", "", "1 kΩ", "", "2012"))
		assert.Equal(t, New, r.Candidates[0].State)
		var said []string
		for _, f := range r.Findings {
			if f.Cause == "like-library" {
				said = append(said, f.What)
			}
		}
		require.Len(t, said, 1)
		assert.Regexp(t, fmt.Sprintf(`^it is like R-000\d(, R-000\d){%d} in every identifying parameter$`, min(some, 3)-1), said[0])
		kept := build(t, lib, Edits{Like: Keep}, row("Res", "Tidewright", "TW-1", "", "1 kΩ", "", "2012")).Candidates[0]
		assert.Equal(t, LeftOut, kept.State)
		joined := build(t, lib, Edits{Like: AsSource}, row("Res", "Tidewright", "TW-1", "", "1 kΩ", "0,1", "2012")).Candidates[0]
		if some > 1 { // which of them is not said
			assert.Equal(t, New, joined.State)
			continue
		}
		assert.Equal(t, []any{Alternate, "R-0001", "another source of R-0001"}, []any{joined.State, joined.Existing, joined.Why})
		assert.Equal(t, []Change{{Key: "source", New: "Tidewright TW-1"}, {Key: "power", New: "100 mW"}}, joined.Changes, "what it says is filled in where the part says nothing")
	}
	assert.True(t, sells(part.Content{Sources: []part.Source{{}, {Numbers: []part.Number{{Supplier: "S", Number: "1"}}}}}, part.Number{Supplier: "S", Number: "1"}))
	assert.False(t, sells(part.Content{Sources: []part.Source{{Numbers: []part.Number{{Supplier: "S", Number: "1"}}}}}, part.Number{Supplier: "T", Number: "1"}))
}
