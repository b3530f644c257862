package lookup

import (
	"fmt"
	"maps"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"jollydrawer/core/cabinet"
	"jollydrawer/core/lifecycle"
	"jollydrawer/core/measure"
	"jollydrawer/core/part"
	"jollydrawer/internal/golden"
)

// What the questions of testdata/asked.txt find in a small shop, and how they were read: a golden file that was read line by line.
func TestQuestionsAreAnsweredAsTheyWereRead(t *testing.T) {
	x := shop(t)
	more(t, x)
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
	golden.Equal(t, filepath.Join("testdata", "asked.golden"), out.String())
}

// more fills a shop with what is counted, with enough sizes to be put into steps, and with numbers of a supplier.
func more(t *testing.T, x *Index) {
	cab, err := cabinet.New(cabinet.Starter())
	require.NoError(t, err)
	put := func(number, drawer, values string) {
		tpl, ok := cab.Template(drawer)
		require.True(t, ok)
		c := part.Content{Drawer: drawer, Values: map[string]cabinet.Value{}, Sources: []part.Source{{Manufacturer: "Brackwater", MPN: "BW-" + number, Numbers: []part.Number{{Supplier: "Quay", Number: "Q/" + number}}}}}
		for _, kv := range strings.Split(values, "|") {
			k, text, _ := strings.Cut(kv, "=")
			slot, ok := tpl.Slot(k)
			require.True(t, ok, k)
			v, problem := slot.Read(text, measure.Options{})
			require.Nil(t, problem, kv)
			c.Values[k] = v
		}
		e := NewEntry(c)
		e.ID, e.Number, e.Version, e.Status, e.Standing = number, number, 1, lifecycle.Draft, lifecycle.Active
		x.Put(e)
	}
	for _, n := range []string{"2", "4", "6", "10"} {
		put("J-"+n, "pin-headers", "positions="+n+"|pitch=2.54 mm")
	}
	for i, v := range []string{"1 µH", "1.5 µH", "2.2 µH", "3.3 µH", "4.7 µH", "6.8 µH", "10 µH", "15 µH", "22 µH", "33 µH", "47 µH", "68 µH", "100 µH", "150 µH"} {
		put(fmt.Sprintf("L-%02d", i+1), "power-inductors", "inductance="+v+"|saturation-current="+[]string{"1 A", "2 A", "300 mA"}[i%3])
	}
}
