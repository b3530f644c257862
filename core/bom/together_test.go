package bom

import (
	"fmt"
	"slices"
	"strconv"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"jollydrawer/core/cabinet"
)

// fileOf reads a table as the file of a variant.
func fileOf(t require.TestingT, cab *cabinet.Cabinet, variant string, table [][]string) VariantFile {
	columns, err := FindColumns(table[0], table[1:], cab)
	require.NoError(t, err)
	columns = columns.Seen(table[1:])
	f := VariantFile{Variant: variant, Columns: columns}
	for i, cells := range table[1:] {
		if NoLine(cells, columns) == "" {
			f.Lines = append(f.Lines, ReadLine(i+2, cells, columns))
		}
	}
	return f
}

// readBack reads files that were put together.
func readBack(t require.TestingT, cab *cabinet.Cabinet, files []VariantFile, header []string, rows [][]string) (Columns, []Line) {
	columns, err := FindColumns(header, rows, cab)
	require.NoError(t, err)
	var called []string
	for _, f := range files {
		called = append(called, f.Variant)
	}
	columns = columns.TellVariants(called).Seen(rows)
	var lines []Line
	for i, cells := range rows {
		require.Empty(t, NoLine(cells, columns))
		lines = append(lines, ReadLine(i+2, cells, columns))
	}
	TellApart(lines)
	return columns, lines
}

func table(text string) (out [][]string) {
	for _, line := range strings.Split(strings.TrimSpace(text), "\n") {
		out = append(out, strings.Split(line, "|"))
	}
	return out
}

func TestFilesOfVariantsArePutTogether(t *testing.T) {
	_, cab := house(t)
	basic := fileOf(t, cab, "Basic", table(`
Ref|Qty|Value|MPN
R1, R2, R3|3|10k|TW-0603-10K
R4|1|4k7|
C1-C2|2|100n|
|4|screw|
|2 m|cable|
U1A, U1B|1|dual|
D1|1|red|`))
	deluxe := fileOf(t, cab, "Deluxe 2", table(`
MPN|Ref|Value|Qty|Remark
TW-0603-10K|R1,R2|10k|2|
|R4|5k6|1|
|C1, C2|100n|2|
||screw|4|
||screw|2|
||cable|2 m|
|U1A, U1B|dual|1|
|D1|red|1|bright`))
	header, rows, err := Together([]VariantFile{basic, deluxe})
	require.NoError(t, err)
	var got []string
	for _, r := range append([][]string{header}, rows...) {
		got = append(got, strings.Join(r, "|"))
	}
	assert.Equal(t, []string{
		"Ref|Qty|Value|MPN|Remark|In Basic|In Deluxe 2",
		"R1, R2|2|10k|TW-0603-10K||fitted|fitted",
		"R3|1|10k|TW-0603-10K||fitted|not fitted",
		"R4|1|4k7|||fitted|not fitted",
		"C1-C2|2|100n|||fitted|fitted",
		"|4|screw|||fitted|fitted",
		"|2 m|cable|||fitted|fitted",
		"U1A, U1B|1|dual|||fitted|fitted",
		"D1|1|red||bright|fitted|fitted",
		"R4|1|5k6|||not fitted|fitted",
		"|2|screw|||not fitted|fitted",
	}, got)
	columns, lines := readBack(t, cab, []VariantFile{basic, deluxe}, header, rows)
	assert.Equal(t, []string{"Basic", "Deluxe 2"}, columns.Variants())
	require.NoError(t, AsPutTogether([]VariantFile{basic, deluxe}, columns, lines))
	lines[0].Cells = slices.Clone(lines[0].Cells)
	lines[0].Cells[3] = "TW-0603-11K"
	assert.ErrorContains(t, AsPutTogether([]VariantFile{basic, deluxe}, columns, lines), "what the file of Basic says of R", "it notices another cell")
}

func TestFilesThatCannotBePutTogetherAreRefused(t *testing.T) {
	_, cab := house(t)
	plain := table("Ref|Value\nR1|10k\nR2|10k")
	of := func(variant string, t2 [][]string) VariantFile { return fileOf(t, cab, variant, t2) }
	for says, files := range map[string][]VariantFile{
		"file 1 is of no variant":                      {of("A\x01", plain), of("B", plain)},
		"of the files of 2 to 24 variants":             {of("A", plain)},
		"file 2 is of no variant":                      {of("A", plain), of(" ", plain)},
		"the files 1 and 3 are both of the variant a":  {of("A", plain), of("B", plain), of("a", plain)},
		`tells by its column "Level"`:                  {of("A", plain), of("B", table("Level|Ref|Qty|Value\n1|A1|1|\n2|R1|1|10k\n2|R3|1|10k\n1|R2|1|4k7"))},
		`is of several variants itself, by its column`: {of("A", plain), of("B", table("Ref|Value|Fitted East|Fitted West\nR1|10k|yes|no\nR2|10k|yes|yes"))},
	} {
		_, _, err := Together(files)
		assert.ErrorContains(t, err, says)
	}
}

func TestVariantsAreToldWhateverTheyAreCalled(t *testing.T) {
	_, cab := house(t)
	for _, name := range []string{"not B", "all", "A, C", "all but B", "none", "A;C", "!B", "yes", "x", "without GPS", "ohne Funk", "Part number", "4-20 mA", "top", "Qty", "Ärmel 230 V"} { // as words of lists, marks and headings
		files := []VariantFile{fileOf(t, cab, "B", table("Ref|Value|MPN\nR1|10k|TW-1\nR2|10k|")), fileOf(t, cab, name, table("Ref|Value|MPN\nR1|10k|TW-1"))}
		header, rows, err := Together(files)
		require.NoError(t, err, name)
		columns, lines := readBack(t, cab, files, header, rows)
		require.NoError(t, AsPutTogether(files, columns, lines), name)
		assert.Equal(t, []string{"B", name}, columns.Variants())
		require.Len(t, lines, 2, name)
		assert.Equal(t, []any{"TW-1", true, true, false, ""}, []any{lines[0].MPN, lines[0].Is(name), lines[0].Is("B"), lines[1].Is(name), lines[1].FitAsk}, name)
	}
}

func pick(t *rapid.T, all ...string) string { return rapid.SampledFrom(all).Draw(t, "heading") }

// TestMadeVariantsAreOnePerVariantAfterAll draws boards of several variants, writes a file of each in a form of its own, and reads them put together: in each variant each
// designator is what it was drawn as, and what is in all variants in the same way stands once.
func TestMadeVariantsAreOnePerVariantAfterAll(t *testing.T) {
	_, cab := house(t)
	type fitting struct {
		value string
		off   bool
	}
	rapid.Check(t, func(t *rapid.T) {
		called := rapid.SampledFrom([][]string{{"Basic", "Deluxe"}, {"A", "B", "C"}, {"East coast 230 V", "West"}, {"rev-1 EU", "rev-1 US", "lab"}, {"1", "2"}}).Draw(t, "names")
		n := rapid.IntRange(2, 12).Draw(t, "designators")
		board := make([]map[string]fitting, len(called))
		var files []VariantFile
		for k, name := range called {
			board[k] = map[string]fitting{}
			for i := range n {
				d := fmt.Sprint("R", i+1)
				switch rapid.IntRange(0, 5).Draw(t, "what") {
				case 0: // it is not in this one
				case 1:
					board[k][d] = fitting{rapid.SampledFrom([]string{"1k", "2k2", "47k"}).Draw(t, "value"), false}
				case 2:
					board[k][d] = fitting{"10k", rapid.Bool().Draw(t, "off")}
				default:
					board[k][d] = fitting{[]string{"10k", "4k7"}[i%2], false}
				}
			}
			if len(board[k]) < 2 {
				board[k]["R1"], board[k]["R2"] = fitting{"10k", false}, fitting{"10k", false}
			}
			groups := map[fitting][]string{}
			for i := range n {
				if d := fmt.Sprint("R", i+1); board[k][d].value != "" {
					groups[board[k][d]] = append(groups[board[k][d]], d)
				}
			}
			each, counts, last := rapid.Bool().Draw(t, "a row each"), rapid.Bool().Draw(t, "quantity"), rapid.Bool().Draw(t, "designators last")
			left := pick(t, "Fitted", "DNP") == "DNP" // what is said of a line: that it is fitted, or that it is left off
			rows := [][]string{{pick(t, "Ref", "Designator", "Position", "Reference"), pick(t, "Value", "Wert", "Valeur"), map[bool]string{false: pick(t, "Fit", "Fitted", "Populate"), true: "DNP"}[left], "Item"}}
			add := func(list []string, f fitting) {
				rows = append(rows, []string{strings.Join(list, ", "), f.value, map[bool]string{true: "no", false: "yes"}[f.off != left], strconv.Itoa(len(rows))})
			}
			for i := range n {
				d := fmt.Sprint("R", i+1)
				f := board[k][d]
				switch {
				case f.value == "":
				case each:
					add([]string{d}, f)
				case groups[f][0] == d:
					add(groups[f], f)
				}
			}
			for i := range rows {
				if counts {
					q := pick(t, "Qty", "Menge", "Quantity")
					if i > 0 {
						q = strconv.Itoa(len(strings.Split(rows[i][0], ",")))
					}
					rows[i] = append(rows[i], q)
				}
				if last {
					rows[i] = append(rows[i][1:], rows[i][0])
				}
			}
			files = append(files, fileOf(t, cab, name, rows))
		}
		header, rows, err := Together(files)
		require.NoError(t, err)
		columns, lines := readBack(t, cab, files, header, rows)
		require.NoError(t, AsPutTogether(files, columns, lines))
		stands := map[string]int{}
		for k, name := range called {
			got := map[string]fitting{}
			for _, l := range lines {
				if !l.Is(name) {
					continue
				}
				for _, d := range l.Designators {
					require.NotContains(t, got, d)
					got[d] = fitting{l.Value, l.NotFitted}
				}
			}
			require.Equal(t, board[k], got, "%s of %v", name, rows)
		}
		for _, l := range lines {
			for _, d := range l.Designators {
				stands[d]++
			}
		}
		for d, times := range stands {
			different := map[string]bool{}
			for k := range called {
				if f := board[k][d]; f.value != "" {
					different[fmt.Sprint(f)] = true
				}
			}
			require.Len(t, different, times, "%s stands as often as it is something else", d)
		}
	})
}
