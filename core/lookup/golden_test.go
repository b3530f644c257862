package lookup

import (
	"flag"
	"fmt"
	"maps"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

var update = flag.Bool("update", false, "write the golden answers anew; read the difference before it is kept")

// What the questions of testdata/asked.txt find in a small shop, and how they were read: a golden file that was read line by line.
func TestQuestionsAreAnsweredAsTheyWereRead(t *testing.T) {
	x := shop(t)
	b, err := os.ReadFile(filepath.Join("testdata", "asked.txt"))
	require.NoError(t, err)
	var out strings.Builder
	for line := range strings.Lines(string(b)) {
		line = strings.TrimRight(line, "\n")
		if strings.HasPrefix(line, "#") {
			continue
		}
		fmt.Fprintf(&out, "%s\n", line)
		q := Query{Limit: 20, Filters: map[string][]string{}, Facets: true}
		text, more, _ := strings.Cut(line, " | ")
		if strings.HasPrefix(line, " | ") {
			text, more = "", line[3:]
		}
		q.Text = text
		for _, o := range strings.FieldsFunc(more, func(r rune) bool { return r == ';' }) {
			key, value, _ := strings.Cut(o, "=")
			switch key {
			case "sort":
				for _, k := range strings.Split(value, ",") {
					q.Sort = append(q.Sort, Order{Key: strings.TrimPrefix(k, "-"), Down: strings.HasPrefix(k, "-")})
				}
			case "group":
				q.Group = value
			default:
				q.Filters[key] = strings.Split(value, ",")
			}
		}
		a := x.Search(q)
		for _, f := range a.Facts {
			fmt.Fprintf(&out, "    %q as %s (%s) %s", f.Text, f.As, f.Kind, f.Note)
			for _, o := range f.Options {
				fmt.Fprintf(&out, " / %s: %s", o.As, o.Write)
			}
			fmt.Fprintln(&out)
		}
		fmt.Fprintf(&out, "    %d:", a.Total)
		for _, r := range a.Rows {
			fmt.Fprintf(&out, " %s", r.Number)
		}
		if a.Hidden > 0 {
			fmt.Fprintf(&out, ", %d hidden", a.Hidden)
		}
		fmt.Fprintln(&out)
		for _, r := range a.Relax {
			fmt.Fprintf(&out, "    without %s: %d by %q as %s\n", r.Fact, r.Parts, r.Write, r.As)
		}
		if more != "" || text == "" {
			for _, g := range a.Groups {
				fmt.Fprintf(&out, "    group %q %d\n", g.Value, g.Parts)
			}
			for _, k := range slices.Sorted(maps.Keys(a.Drawers)) {
				fmt.Fprintf(&out, "    %s %d\n", k, a.Drawers[k])
			}
			for _, f := range a.Facets {
				fmt.Fprintf(&out, "    facet %s:", f.Key)
				for _, v := range f.Values {
					fmt.Fprintf(&out, " %s %d,", v.Value, v.Parts)
				}
				for _, s := range f.Steps {
					fmt.Fprintf(&out, " [%s] %d,", s.Label, s.Parts)
				}
				fmt.Fprintln(&out)
			}
		}
	}
	golden := filepath.Join("testdata", "asked.golden")
	if *update {
		require.NoError(t, os.WriteFile(golden, []byte(out.String()), 0o644))
	}
	want, err := os.ReadFile(golden)
	require.NoError(t, err)
	assert.Equal(t, string(want), out.String())
}
