package buying

import (
	"slices"
	"strconv"
	"strings"

	"jollydrawer/core/money"
)

// HouseColumn is what the column of extended prices in the house's currency is called where no currency is known; it stands at HouseAt, and has that currency in its heading.
const (
	HouseColumn = "Extended price in the house's currency"
	HouseAt     = 16
)

// SheetColumns are the columns of an order list.
var SheetColumns = []string{"Part number", "Description", "Designators", "Manufacturer", "MPN", "Alternates", "Supplier", "Supplier number", "Packing", "For the boards", "Spare", "Buy", "Left over", "Price each", "Extended price", "Currency", HouseColumn, "In stock", "Note"}

// Sheet is the list that purchasing orders from: a row a part, by supplier as it is bought, then what cannot be bought with the reason, and the sum under it.
// numbers are the columns that hold nothing but numbers.
func (c Costing) Sheet() (table [][]string, numbers map[int]bool) {
	head := slices.Clone(SheetColumns)
	if head[HouseAt] = "Extended price"; c.Currency != "" {
		head[HouseAt] += " (" + c.Currency + ")"
	}
	table = [][]string{head}
	whole := func(n int64) string { return strconv.FormatInt(n, 10) }
	for i := range c.Bought {
		b := &c.Bought[i]
		in := ""
		if sum, ok := b.sum(); ok && sum.Code() == c.Currency {
			in = number(sum)
		}
		each, _, _ := strings.Cut(b.Each, " ")
		stock := ""
		if b.Stock != nil {
			stock = whole(*b.Stock)
		}
		var notes []string
		if b.Short {
			notes = append(notes, "the supplier has less than is bought")
		}
		if b.AtLeast {
			notes = append(notes, "in stock: this or more")
		}
		if b.Rate != "" && b.Converted == nil {
			notes = append(notes, "no rate is known for "+b.Total.Code())
		} else if b.Rate != "" {
			notes = append(notes, b.Rate)
		}
		table = append(table, []string{b.Number, b.Description, strings.Join(b.Designators, " "), b.Manufacturer, b.MPN, strings.Join(b.Alternates, "; "), b.Supplier, b.SupplierNo, b.Packing,
			whole(b.Takes), whole(b.Spare), whole(b.Pieces), whole(b.Over), each, number(b.Total), b.Total.Code(), in, stock, strings.Join(notes, "; ")})
	}
	for _, u := range c.Unbought {
		r := make([]string, len(table[0]))
		r[0], r[1], r[2], r[3], r[4], r[5], r[9], r[len(r)-1] = u.Number, u.Description, strings.Join(u.Designators, " "), u.Manufacturer, u.MPN, strings.Join(u.Alternates, "; "), whole(u.Takes), "not in the sum: "+u.Why
		table = append(table, r)
	}
	last := make([]string, len(table[0]))
	last[0], last[HouseAt] = "Sum for "+whole(c.Boards)+" boards", number(c.Sum)
	if c.Boards == 1 {
		last[0] = "Sum for 1 board"
	}
	return append(table, last), map[int]bool{9: true, 10: true, 11: true, 12: true, 13: true, 14: true, HouseAt: true, 17: true}
}

// number writes an amount without its currency, with the digits that it is paid in.
func number(a money.Amount) string {
	s, _, _ := strings.Cut(a.String(), " ")
	return s
}
