package bom

import (
	"cmp"
	"crypto/sha256"
	"fmt"
	"slices"
	"strings"

	"jollydrawer/core/lifecycle"
)

// mostShown is how many designators an item of a review list names.
const mostShown = 30

// longestKey bounds what an item is known by, in characters.
const longestKey = 60

// itemKey is what an item is known by: what it is of, and where that is long its beginning with a part of its hash, which is the same wherever the item stands.
func itemKey(of string) string {
	short := []rune(of)
	if len(short) <= longestKey {
		return of
	}
	sum := sha256.Sum256([]byte(of))
	return fmt.Sprintf("%s… %x", string(short[:longestKey-10]), sum[:4])
}

// ReviewItems is the review list of a BOM: what a second person lays beside the drawing. Each part is an item, with the places that it stands in, and each line that is
// no part; what is not fitted is one item. A tick counts as long as the part's revision, its places, pieces and variants stay the same.
func ReviewItems(lines []Pinned) ([]lifecycle.Item, error) {
	type place struct {
		Designators []string `json:"designators"`
		Quantity    int      `json:"quantity"`
		Amount      string   `json:"amount,omitempty"`
		In          []string `json:"in,omitempty"`
		Reason      string   `json:"reason,omitempty"`
	}
	type item struct {
		Part     string  `json:"part"`
		Revision int     `json:"revision,omitempty"`
		Hash     string  `json:"hash,omitempty"`
		Places   []place `json:"places"`
	}
	var order []string
	items, texts := map[string]*item{}, map[string]string{}
	put := func(key string, of item, text string, l Pinned) {
		if items[key] == nil {
			items[key], texts[key] = &of, text
			order = append(order, key)
		}
		items[key].Places = append(items[key].Places, place{l.Designators, l.Quantity, l.Amount, l.In, l.Reason})
	}
	for _, l := range lines {
		says := strings.Join(slices.DeleteFunc([]string{l.Number, l.MPN, l.Value, l.Package, l.Description}, func(s string) bool { return s == "" }), ", ")
		switch {
		case l.Of != "": // it was looked at there
		case l.Board != nil && !l.NotFitted:
			put("board "+l.Board.ID+" "+l.Board.Variant, item{Part: l.Board.ID, Revision: l.Board.Revision, Hash: l.Board.Hash}, "the BOM "+l.Board.String(), l)
		case l.Assembly:
			put("assembly "+says, item{Part: says}, "sub-assembly "+says, l)
		case l.NotFitted:
			put("not fitted", item{}, "not fitted", l)
		case l.Part != nil:
			put("part "+l.Part.Number, item{Part: l.Part.ID, Revision: l.Part.Revision, Hash: l.Part.Hash}, fmt.Sprintf("%s revision %d, %s", l.Part.Number, l.Part.Revision, l.Part.Description), l)
		case l.NoPart:
			put("no part "+says, item{Part: says}, "no part of the library: "+says, l)
		default:
			put("open "+says, item{Part: says}, "without a record: "+says, l)
		}
	}
	var out lifecycle.List
	for _, key := range order {
		i := items[key]
		slices.SortFunc(i.Places, func(a, b place) int { // a file that is sorted another way says the same
			return cmp.Or(slices.CompareFunc(a.Designators, b.Designators, ByDesignator), slices.Compare(a.In, b.In), cmp.Compare(a.Quantity, b.Quantity), cmp.Compare(a.Amount, b.Amount), cmp.Compare(a.Reason, b.Reason))
		})
		var named []string
		pieces := 0
		for _, p := range i.Places {
			named, pieces = append(named, p.Designators...), pieces+p.Quantity
		}
		text := texts[key]
		switch {
		case pieces == 1:
			text += ": 1 piece"
		case pieces > 0:
			text += fmt.Sprintf(": %d pieces", pieces)
		}
		shown := named[:min(len(named), mostShown)]
		label := strings.Join(shown, " ")
		if len(named) > len(shown) {
			label += fmt.Sprintf(" and %d more", len(named)-len(shown))
		}
		if label == "" {
			label = "without designators"
		}
		out.Add(itemKey(key), label, text, i)
	}
	return out.Items()
}
