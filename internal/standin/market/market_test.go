package market

import (
	"encoding/csv"
	"encoding/json"
	"io"
	"net/http"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jollydrawer/demo"
)

func TestTheFourOverlapAndDisagreeNowAndThen(t *testing.T) {
	all := catalogue()
	assert.Greater(t, len(all), 4500)
	seen, over := map[string]bool{}, 0
	for _, p := range all {
		assert.False(t, seen[p.mpn], "%s is made twice", p.mpn)
		seen[p.mpn] = true
		if p.state == "over" {
			over++
		}
	}
	assert.Greater(t, over, 50)
	sold, faults := map[string]int{}, map[string]int{}
	for _, s := range []string{Northquay, Harbour, Sandbar, MarshLane} {
		for _, l := range rangeOf(s, "X", all) {
			if l.fault != "twice" {
				sold[l.mpn]++
			}
			faults[l.fault]++
		}
	}
	several := 0
	for _, n := range sold {
		if n > 1 {
			several++
		}
	}
	assert.Greater(t, several, len(all)*3/4)
	for _, f := range []string{"no kind", "price of zero", "twice", "other tolerance"} {
		assert.Greater(t, faults[f], 20, f)
	}
}

func TestWhatIsSaidIsWhatIsMade(t *testing.T) {
	for _, c := range []struct {
		digits, power int
		code, text    string
	}{{47, 2, "4K7", "4.7 k"}, {10, -1, "1R", "1 "}, {12, 0, "12R", "12 "}, {33, 1, "330R", "330 "}, {22, 5, "2M2", "2.2 M"}, {10, 4, "100K", "100 k"}} {
		assert.Equal(t, c.code, sized(c.digits, c.power, []string{"K", "M"}, "R"))
		assert.Equal(t, c.text, spoken(c.digits, c.power, []string{"k", "M"}))
	}
}

func TestEachHasAnotherWayToBeAsked(t *testing.T) {
	m, err := Start(demo.Files, "127.0.0.1:0")
	require.NoError(t, err)
	defer m.Close()
	get := func(path string, sign func(*http.Request)) (int, []byte, http.Header) {
		r, err := http.NewRequest("GET", m.URL+path, nil)
		require.NoError(t, err)
		if sign != nil {
			sign(r)
		}
		res, err := http.DefaultClient.Do(r)
		require.NoError(t, err)
		defer res.Body.Close()
		raw, _ := io.ReadAll(res.Body)
		return res.StatusCode, raw, res.Header
	}
	key := func(r *http.Request) { r.Header.Set("X-Desk", Secrets["northquay-desk"]) }
	status, _, _ := get("/northquay/v3/articles?text=4k7", nil)
	assert.Equal(t, http.StatusUnauthorized, status)
	seen, after, pages := map[string]bool{}, "", 0
	for {
		status, raw, _ := get("/northquay/v3/articles?text=resistor+0805&most=50&after="+after, key)
		require.Equal(t, http.StatusOK, status)
		var a struct {
			Count    int
			After    string
			Articles []struct{ Article string }
		}
		require.NoError(t, json.Unmarshal(raw, &a))
		for _, x := range a.Articles {
			assert.False(t, seen[x.Article], x.Article)
			seen[x.Article] = true
		}
		if pages++; a.After == "" {
			assert.Len(t, seen, a.Count)
			break
		}
		after = a.After
	}
	assert.Greater(t, pages, 3)
	m.Happen(Northquay, Faults{Busy: 1, RetryIn: "7", Fail: 1, Cut: 1})
	status, _, _ = get("/northquay/v3/articles?text=4k7", key)
	assert.Equal(t, http.StatusInternalServerError, status, "what fails is not even busy")
	status, _, h := get("/sheets/tidewright-tw-series.pdf", nil)
	assert.Equal(t, []any{http.StatusOK, "application/pdf"}, []any{status, h.Get("Content-Type")})
	_, raw, _ := get("/sheets/grebe-gr.pdf", nil)
	assert.Contains(t, string(raw), "grebe-gr")
	status, raw, h = get("/marsh-lane/pricelist.csv", nil)
	require.Equal(t, http.StatusOK, status)
	c := csv.NewReader(strings.NewReader(string(raw)))
	c.Comma = ';'
	list, err := c.ReadAll()
	require.NoError(t, err)
	assert.Greater(t, len(list), 3000)
	tag := h.Get("ETag")
	status, _, _ = get("/marsh-lane/pricelist.csv", func(r *http.Request) { r.Header.Set("If-None-Match", tag) })
	assert.Equal(t, http.StatusNotModified, status)
	m.End(list[1][2])
	status, raw, _ = get("/marsh-lane/pricelist.csv", func(r *http.Request) { r.Header.Set("If-None-Match", tag) })
	assert.Equal(t, http.StatusOK, status)
	assert.Contains(t, strings.SplitN(string(raw), "\r\n", 3)[1], "abgekündigt")
}

func TestWhatIsListedByNameIsFoundByItsNumbersAlone(t *testing.T) {
	all := catalogue()
	names := named()
	require.Greater(t, len(names), 150)
	var sold int
	for _, s := range []string{Northquay, Harbour, Sandbar, MarshLane} {
		for _, l := range rangeOf(s, "X", all) {
			if l.kind != "" {
				continue
			}
			sold++
			assert.Positive(t, l.price(4), l.mpn)
			assert.Contains(t, look([]*listed{l}, l.mpn), l)
			assert.Empty(t, look([]*listed{l}, strings.ReplaceAll(l.text, l.mpn, "")), "%s: a question by facts is answered by what says facts", l.text)
		}
	}
	assert.Greater(t, sold, 2*len(names), "most are sold by several")
}
