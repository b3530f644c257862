package supplier

import (
	"bytes"
	"encoding/csv"
	"fmt"
	"io"
	"slices"
	"testing"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"jollydrawer/core/connection"
	"jollydrawer/formats/rows"
	"jollydrawer/formats/tabular"
)

var listHeader = []string{"Code", "Packing", "Make", "Type", "What", "Left", "From", "Price"}

// nightly is a supplier's price list and what became of it, number by number.
type nightly struct {
	order   []Number
	rows    map[Number][][]string
	changed map[Number]bool // since the list was fetched
}

// set gives a number some rows, one a quantity; none: it is sold no more.
func (n *nightly) set(t *rapid.T, of Number, quantities int) {
	n.changed[of] = true
	if quantities == 0 {
		delete(n.rows, of)
		n.order = slices.DeleteFunc(n.order, func(x Number) bool { return x == of })
		return
	}
	if n.rows[of] == nil {
		n.order = append(n.order, of)
	}
	n.rows[of] = nil
	left := rapid.IntRange(0, 9999).Draw(t, "left")
	what := rapid.SampledFrom([]string{"plain", "a; b", `said "so"`, "two\nlines", "", " Widerstand"}).Draw(t, "what")
	for q := range quantities {
		n.rows[of] = append(n.rows[of], []string{of.Number, of.Packing, "Heron", "H-" + of.Number, what, fmt.Sprint(left), fmt.Sprint([]int{1, 100, 1000}[q]), fmt.Sprintf("0,%03d", rapid.IntRange(1, 999).Draw(t, "price"))})
	}
}

func (n *nightly) write(gone bool, of []Number) []byte {
	var b bytes.Buffer
	w := csv.NewWriter(&b)
	w.Comma = ';'
	header := listHeader
	if gone {
		header = append([]string{"Out"}, slices.Concat(listHeader[4:], listHeader[:4])...) // in another order
	}
	_ = w.Write(header)
	for _, x := range of {
		for _, r := range n.rows[x] {
			if gone {
				r = append([]string{""}, slices.Concat(r[4:], r[:4])...)
			}
			_ = w.Write(r)
		}
		if gone && n.rows[x] == nil {
			_ = w.Write([]string{"x", "", "", "", "", x.Number, x.Packing, "Heron", "H-" + x.Number})
		}
	}
	w.Flush()
	return b.Bytes()
}

func openList(t require.TestingT, raw []byte) rows.Reader {
	r, err := tabular.Open(io.NopCloser(bytes.NewReader(raw)), int64(len(raw)), rows.Layout{Format: "csv", Delimiter: ";", HeaderRow: 1}, rows.DefaultLimits)
	require.NoError(t, err)
	return r
}

// However a list changes from night to night, the changes laid over it say what the whole list says: each number once, with its own stock and prices.
func TestChangesOverAListAreTheWholeList(t *testing.T) {
	d := connection.Document{Supplier: "Night", Decimal: "comma", Currency: "EUR", Read: connection.Reading{Form: "table", Product: map[string]string{"manufacturer": "Make", "mpn": "Type", "description": "What"},
		Offers: connection.Each{Paths: map[string]string{"number": "Code", "packing": "Packing", "stock": "Left"}}, Breaks: connection.Each{Paths: map[string]string{"from": "From", "price": "Price"}}}}
	says := func(t require.TestingT, raw []byte) map[Number]string {
		out := map[Number]string{}
		_, left, problems, err := ReadTable(&d, openList(t, raw), func(_ int, p connection.Product) error {
			o := p.Offers[0]
			n := Number{o.Number, o.Packing}
			require.NotContains(t, out, n, "a number stands in the list twice")
			out[n] = fmt.Sprint(p.MPN, p.Description, *o.Stock, o.Problems)
			for _, b := range o.Breaks {
				out[n] += fmt.Sprint(" ", b.From, ": ", b.Price)
			}
			return nil
		})
		require.NoError(t, err)
		require.Zero(t, left, "%v", problems)
		return out
	}
	rapid.Check(t, func(t *rapid.T) {
		n := &nightly{rows: map[Number][][]string{}, changed: map[Number]bool{}}
		any := rapid.Custom(func(t *rapid.T) Number {
			return Number{fmt.Sprint("C", rapid.IntRange(1, 12).Draw(t, "number")), rapid.SampledFrom([]string{"", "reel"}).Draw(t, "packing")}
		})
		for range rapid.IntRange(1, 10).Draw(t, "to begin with") {
			n.set(t, any.Draw(t, "number"), rapid.IntRange(1, 3).Draw(t, "quantities"))
		}
		at := n.write(false, n.order)
		for range rapid.IntRange(1, 5).Draw(t, "nights") {
			n.changed = map[Number]bool{}
			for range rapid.IntRange(1, 5).Draw(t, "changes") {
				n.set(t, any.Draw(t, "number"), rapid.IntRange(0, 3).Draw(t, "quantities"))
			}
			var of []Number
			for x := range n.changed {
				of = append(of, x)
			}
			c, err := ReadChanges(&d, "Out", listHeader, openList(t, n.write(true, of)))
			require.NoError(t, err)
			var b bytes.Buffer
			require.NoError(t, c.Over(openList(t, at), &b))
			at = b.Bytes()
			if len(n.order) == 0 {
				return // an empty list is none
			}
			require.Equal(t, says(t, n.write(false, n.order)), says(t, at))
		}
	})
}

// Whatever comes as changes, the list with them is a list, or they are refused.
func FuzzChanges(f *testing.F) {
	d := connection.Document{Supplier: "Night", Decimal: "comma", Currency: "EUR", Read: connection.Reading{Form: "table", Product: map[string]string{"mpn": "Type"}, Offers: connection.Each{Paths: map[string]string{"number": "Code", "stock": "Left"}}}}
	const base = "Code;Type;Left\nC1;H-1;5\nC2;H-2;7\n"
	for _, changes := range []string{"Code;Type;Left;Out\nC1;H-1;6;\n", "Out;Left;Type;Code\nx;;H-2;C2\n;3;H-3;C3\n", "Code;Type;Left;Out\n\"C1\n\";\";\";6;\n", "Code,Type,Left,Out\nC1,H-1,6,\n", "<html>", ""} {
		f.Add([]byte(changes))
	}
	f.Fuzz(func(t *testing.T, raw []byte) {
		changes, err := tabular.Open(io.NopCloser(bytes.NewReader(raw)), int64(len(raw)), rows.Layout{}, rows.DefaultLimits)
		if err != nil {
			return
		}
		defer changes.Close()
		list := openList(t, []byte(base))
		c, err := ReadChanges(&d, "Out", list.Header(), changes)
		if err != nil {
			return
		}
		var b bytes.Buffer
		require.NoError(t, c.Over(list, &b))
		now, err := tabular.Open(io.NopCloser(bytes.NewReader(b.Bytes())), int64(b.Len()), rows.Layout{Format: "csv", Delimiter: ";", HeaderRow: 1}, rows.DefaultLimits)
		if err != nil {
			return // nothing is left of it
		}
		require.Equal(t, []string{"Code", "Type", "Left"}, now.Header())
		_, _, _, err = ReadTable(&d, now, func(int, connection.Product) error { return nil })
		require.NoError(t, err)
	})
}
