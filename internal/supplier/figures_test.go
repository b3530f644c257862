package supplier

import (
	"fmt"
	"strings"
	"testing"

	"github.com/shopspring/decimal"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"jollydrawer/core/connection"
	"jollydrawer/core/money"
	"jollydrawer/formats/rows"
)

// plainReader reads {"items": […]} whose texts have a decimal mark.
func plainReader(t require.TestingT, mark money.Mark) *Reader {
	d := connection.Document{Format: connection.Format, Supplier: "Low Water", Address: "https://low.example", Decimal: string(mark), Currency: "EUR", LeadIn: "days",
		Read: connection.Reading{Form: "json", Products: "$.items[*]", Product: map[string]string{"manufacturer": "$..maker", "mpn": "$..mpn"},
			Offers: connection.Each{Paths: map[string]string{"number": "$.no", "stock": "$..stock", "minimum": "$.least", "multiple": "$.by", "lead": "$.lead"}},
			Breaks: connection.Each{Each: "$.prices[*]", Paths: map[string]string{"from": "$.from", "price": "$.price", "per": "$.per"}}}}
	r, err := NewReader(&d, connection.Words)
	require.NoError(t, err)
	return r
}

// A number of JSON has a point whatever mark the supplier's texts have; it is never taken for thousands, in any spelling that RFC 8259 allows.
func TestANumberOfJSONIsItselfUnderEveryMark(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		mark := rapid.SampledFrom([]money.Mark{money.Unsaid, money.Comma, money.Point}).Draw(t, "mark")
		coefficient, places := rapid.Int64Range(1, 99_999_999).Draw(t, "coefficient"), rapid.Int32Range(0, 6).Draw(t, "places")
		price := decimal.New(coefficient, -places)
		stock := decimal.NewFromInt(rapid.Int64Range(0, 9_999_999).Draw(t, "stock"))
		spell := func(d decimal.Decimal, what string) string {
			switch rapid.IntRange(0, 3).Draw(t, what) {
			case 1:
				return d.StringFixed(max(-d.Exponent(), 0) + int32(rapid.IntRange(1, 3).Draw(t, "noughts"))) // 12.000
			case 2:
				return d.Shift(3).String() + "e-3"
			case 3:
				return d.Shift(-2).String() + "E+2"
			}
			return d.String()
		}
		body := fmt.Sprintf(`{"items":[{"maker":"Heron","mpn":"H-1","no":"7","stock":%s,"least":%s,"prices":[{"from":%s,"price":%s}]}]}`,
			spell(stock, "stock is"), spell(decimal.NewFromInt(10), "least is"), spell(decimal.NewFromInt(1000), "from is"), spell(price, "price is"))
		a, err := plainReader(t, mark).Read([]byte(body))
		require.NoError(t, err, body)
		require.Len(t, a.Products, 1, body)
		o := a.Products[0].Offers[0]
		require.Empty(t, o.Problems, body)
		require.Equal(t, stock.IntPart(), *o.Stock, body)
		require.EqualValues(t, 10, o.Minimum, body)
		require.EqualValues(t, 1000, o.Breaks[0].From, body)
		require.True(t, o.Breaks[0].Price.Equal(money.Must(price.String(), "EUR")), "%s is read as %s", body, o.Breaks[0].Price)
	})
}

func TestFiguresThatAreNone(t *testing.T) {
	for name, c := range map[string]struct{ item, want string }{
		"a stock with a fraction":       {`"stock":1.5`, `The stock "1.5" is no whole number.`},
		"a stock below nothing":         {`"stock":-4`, `The stock "-4" is no whole number.`},
		"a stock beyond all":            {`"stock":1e999`, `The stock "1e999" is no whole number.`},
		"a stock of truth":              {`"stock":true`, `The stock "true" is no whole number.`},
		"two stocks":                    {`"here":{"stock":5},"there":{"stock":7}`, `The stock "5 | 7" is no whole number.`},
		"a price below nothing":         {`"prices":[{"price":-1.5}]`, `"-1.5" is no price: it has a sign.`},
		"a price beyond all":            {`"prices":[{"price":1e400}]`, `"1e400" is no price: something stands within the number.`},
		"a price of a list":             {`"prices":[{"from":1}]`, ""},
		"a quantity with a fraction":    {`"prices":[{"from":2.5,"price":1}]`, `The quantity of the price 1.00 EUR "2.5" is no whole number.`},
		"a price for part of a piece":   {`"prices":[{"price":1,"per":0.5}]`, `The price 1.00 EUR is of "0.5" pieces, which is no number.`},
		"a lead time with a fraction":   {`"lead":2.5`, `The lead time "2.5" is no number of days or weeks.`},
		"the same stock twice is one":   {`"here":{"stock":5},"there":{"stock":5}`, ""},
		"a stock that is not known":     {`"stock":null`, ""},
		"a stock that is a whole thing": {`"stock":{"n":5}`, ""},
	} {
		a, err := plainReader(t, money.Point).Read([]byte(`{"items":[{"maker":"Heron","mpn":"H-1","no":"7",` + c.item + `}]}`))
		require.NoError(t, err, name)
		require.Len(t, a.Products, 1, name)
		o := a.Products[0].Offers[0]
		if c.want == "" {
			assert.Empty(t, o.Problems, name)
			assert.Empty(t, o.Breaks, name)
			continue
		}
		require.NotEmpty(t, o.Problems, name)
		assert.Equal(t, c.want, o.Problems[0], name)
	}
}

// The same answer is read as the same, however often: members of an object have no order of their own.
func TestAnAnswerIsReadTheSameEachTime(t *testing.T) {
	answer := `{"items":[{"maker":"Heron","mpn":"H-1","no":"7","here":{"stock":5},"there":{"stock":7},"afar":{"stock":9},"above":{"stock":11}},{"maker":"Heron","mpn":"H-2","no":"8","stock":3}]}`
	first, err := plainReader(t, money.Point).Read([]byte(answer))
	require.NoError(t, err)
	require.Equal(t, `The stock "11 | 9 | 5 | 7" is no whole number.`, first.Products[0].Offers[0].Problems[0], "by the members' names")
	for range 50 {
		again, err := plainReader(t, money.Point).Read([]byte(answer))
		require.NoError(t, err)
		require.Equal(t, first, again)
	}
}

func TestAProductWithTwoIdentitiesIsLeftOut(t *testing.T) {
	for item, want := range map[string]string{
		`"maker":"Heron","mpn":"H-1","also":{"mpn":"H-2"}`:    "Product 1 of the page has 2 manufacturer part numbers (H-1, H-2); it was left out.",
		`"maker":"Heron","mpn":"H-1","by":{"maker":"Plover"}`: "Product 1 of the page (H-1) has 2 manufacturers (Heron, Plover); it was left out.",
	} {
		a, err := plainReader(t, money.Point).Read([]byte(`{"items":[{"no":"7",` + item + `}]}`))
		require.NoError(t, err)
		assert.Empty(t, a.Products, item)
		assert.Equal(t, []string{want}, a.Problems, item)
	}
}

// cells is a price list in memory.
type cells struct {
	header []string
	format string
	left   [][]string
}

func (c *cells) Header() []string    { return c.header }
func (c *cells) Layout() rows.Layout { return rows.Layout{Format: c.format} }
func (c *cells) Close() error        { return nil }
func (c *cells) Next() (rows.Row, bool, error) {
	if len(c.left) == 0 {
		return rows.Row{}, false, nil
	}
	r := rows.Row{Number: 2, Cells: c.left[0]}
	c.left = c.left[1:]
	return r, true, nil
}

// A workbook keeps a price as a number, with a point, or as a text with the supplier's comma: what may be either is read as neither.
func TestAPriceOfAWorkbookMayBeANumberOrAText(t *testing.T) {
	for _, c := range []struct{ format, mark, text, want string }{
		{"xlsx", "comma", "1.25", "1.25 EUR"}, {"xlsx", "comma", "1,25", "1.25 EUR"}, {"xlsx", "comma", "1.234", ""}, {"xlsx", "comma", "1.234,5", "1234.50 EUR"}, {"xlsx", "comma", "0.125", "0.125 EUR"},
		{"xlsx", "point", "1.234", "1.234 EUR"}, {"xlsx", "point", "1,234", "1234.00 EUR"}, {"ods", "comma", "12.5", "12.50 EUR"}, {"json", "comma", "1.2345", "1.2345 EUR"}, {"xlsx", "comma", "1.234.567", "1234567.00 EUR"},
		{"csv", "comma", "1.234", "1234.00 EUR"}, {"csv", "comma", "1.25", ""}, {"csv", "point", "1.234", "1.234 EUR"}, {"csv", "", "1.234", ""}, {"xlsx", "", "1.234", ""}, {"xlsx", "comma", "1234", "1234.00 EUR"},
	} {
		d := connection.Document{Supplier: "Low Water", Decimal: c.mark, Currency: "EUR", Read: connection.Reading{Form: "table", Product: map[string]string{"mpn": "MPN"}, Offers: connection.Each{Paths: map[string]string{"number": "No"}},
			Breaks: connection.Each{Paths: map[string]string{"price": "Price"}}}}
		var got []string
		_, _, _, err := ReadTable(&d, &cells{[]string{"MPN", "No", "Price"}, c.format, [][]string{{"H-1", "7", c.text}}}, func(_ int, p connection.Product) error {
			for _, b := range p.Offers[0].Breaks {
				got = append(got, b.Price.String())
			}
			assert.Equal(t, c.want == "", len(p.Offers[0].Problems) > 0, "%v", c)
			return nil
		})
		require.NoError(t, err)
		assert.Equal(t, c.want, strings.Join(got, " "), "%v", c)
	}
}
