package supplier

import (
	"encoding/json"
	"fmt"
	"net/http"
	"net/http/httptest"
	"os"
	"strconv"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jollydrawer/core/connection"
	"jollydrawer/internal/reach"
)

// worked returns the first block of a language in docs/connections.md.
func worked(t *testing.T, language string) string {
	t.Helper()
	raw, err := os.ReadFile("../../docs/connections.md")
	require.NoError(t, err)
	_, after, ok := strings.Cut(string(raw), "```"+language+"\n")
	require.True(t, ok)
	block, _, _ := strings.Cut(after, "```")
	return block
}

// A supplier that nobody wrote a line of code for: the document of the docs asks it, page by page, and reads its answer.
func TestAFifthSupplierIsADocumentOnly(t *testing.T) {
	var one struct{ Parts []json.RawMessage }
	require.NoError(t, json.Unmarshal([]byte(worked(t, "json")), &one))
	asked := 0
	srv := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		asked++
		if r.Header.Get("X-Key") != "a-key" || r.URL.Path != "/v1/find" {
			w.WriteHeader(http.StatusForbidden)
			return
		}
		from, _ := strconv.Atoi(r.URL.Query().Get("from"))
		count, _ := strconv.Atoi(r.URL.Query().Get("count"))
		if r.URL.Query().Get("types") != "" {
			count = 1
		}
		parts := []string{}
		for n := from; n < min(from+count, 73); n++ {
			parts = append(parts, strings.ReplaceAll(string(one.Parts[0]), "R-1001", fmt.Sprint("R-", 1001+n)))
		}
		total := 73
		if r.URL.Query().Get("types") != "" {
			total = 1
		}
		fmt.Fprintf(w, `{"found":%d,"parts":[%s]}`, total, strings.Join(parts, ","))
	}))
	defer srv.Close()
	d, err := connection.Parse([]byte(worked(t, "yaml")))
	require.NoError(t, err)
	d.Address = srv.URL + "/v1"
	a := NewAsker(reach.Guard{Inside: []string{"127.0.0.1:*"}}, func(name string) (string, bool) { return "a-key", name == "reed" }, &budget{})
	products, pages, err := all(t, a, &d, connection.Question{Kind: connection.Words, Words: "4k7 & more"})
	require.NoError(t, err)
	assert.Equal(t, []int{73, 2, 2}, []int{len(products), pages, asked})
	p := products[72]
	assert.Equal(t, []connection.Field{{Name: "Resistance", Text: "4.7 kΩ"}, {Name: "Case", Text: "0805"}}, p.Fields)
	require.Len(t, p.Offers, 1)
	o := p.Offers[0]
	assert.Equal(t, []any{"R-1073", int64(5400), int64(10)}, []any{o.Number, *o.Stock, o.Minimum})
	buy, ok := o.Buy(500)
	require.True(t, ok)
	assert.Equal(t, []any{int64(1000), "9.00 EUR"}, []any{buy.Pieces, buy.Total.String()}, "a thousand cost less than five hundred")
	products, _, err = all(t, a, &d, connection.Question{Kind: connection.Lot, Numbers: []string{"TW-0805-4K7-F", "A,B"}})
	require.NoError(t, err)
	assert.Len(t, products, 1)
}
