package supplier

import (
	"context"
	"io"
	"net/http"
	"net/http/httptest"
	"os"
	"slices"
	"strings"
	"sync/atomic"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jollydrawer/core/connection"
	"jollydrawer/demo"
	"jollydrawer/formats/rows"
	"jollydrawer/formats/tabular"
	"jollydrawer/internal/reach"
	"jollydrawer/internal/standin/market"
)

// budget counts what goes out, and refuses where it is told to.
type budget struct {
	taken atomic.Int32
	wait  time.Duration
	err   error
}

func (b *budget) Take(context.Context, string, connection.Limits) (time.Duration, error) {
	b.taken.Add(1)
	return b.wait, b.err
}

// known are the secrets of the simulated suppliers.
func known(name string) (string, bool) { s, ok := market.Secrets[name]; return s, ok }

// waits is what an asker under test waited, without waiting.
type waits struct{ all []time.Duration }

func asker(m *market.Market, b Budget) (*Asker, *waits) {
	a := NewAsker(reach.Guard{Inside: []string{m.Host()}}, known, b)
	w := &waits{}
	a.pause = func(ctx context.Context, d time.Duration) error {
		w.all = append(w.all, d)
		return ctx.Err()
	}
	return a, w
}

func open(t *testing.T, name, at string) *connection.Document {
	t.Helper()
	raw, err := demo.Files.ReadFile("connections/" + name + ".yaml")
	if os.IsNotExist(err) {
		raw, err = os.ReadFile("testdata/" + name + ".yaml")
	}
	require.NoError(t, err)
	d, err := connection.Parse(raw)
	require.NoError(t, err)
	d.Address = strings.ReplaceAll(d.Address, "http://suppliers.invalid", at)
	return &d
}

func all(t *testing.T, a *Asker, d *connection.Document, q connection.Question) (products []connection.Product, pages int, err error) {
	t.Helper()
	err = a.Ask(t.Context(), d, q, func(p Page) error {
		products, pages = append(products, p.Products...), pages+1
		assert.Empty(t, p.Problems)
		return nil
	})
	return products, pages, err
}

// Every connection that is asked live passes this: the demo's, and any other that comes.
func TestEveryConnectionConforms(t *testing.T) {
	m, err := market.Start(demo.Files, "127.0.0.1:0")
	require.NoError(t, err)
	defer m.Close()
	for _, c := range []struct{ name, supplier string }{{"northquay", market.Northquay}, {"harbour-finch", market.Harbour}, {"sandbar", market.Sandbar}} {
		t.Run(c.name, func(t *testing.T) {
			d := open(t, c.name, m.URL)
			b := &budget{}
			a, waited := asker(m, b)
			words := connection.Question{Kind: connection.Words, Words: "resistor 0805"}

			products, pages, err := all(t, a, d, words)
			require.NoError(t, err)
			require.Greater(t, pages, 2, "as many pages as the house wants")
			require.LessOrEqual(t, pages, d.Limits.With().Pages)
			assert.EqualValues(t, b.taken.Load(), pages, "one question a page")
			numbers := map[string]bool{}
			priced := 0
			for _, p := range products {
				require.NotEmpty(t, p.MPN)
				require.NotEmpty(t, p.Manufacturer)
				require.NotEmpty(t, p.Fields)
				require.NotEmpty(t, p.Datasheet)
				for _, o := range p.Offers {
					assert.False(t, numbers[o.Number], "%s came twice", o.Number)
					numbers[o.Number] = true
					assert.NotNil(t, o.Stock)
					if len(o.Breaks) > 1 {
						priced++
					}
				}
			}
			assert.Greater(t, priced, len(products)*9/10)

			one := products[3]
			kind := connection.Number
			q := connection.Question{Kind: kind, Number: one.MPN, Maker: one.Manufacturer}
			if d.LotSize(connection.Lot) > 0 {
				q = connection.Question{Kind: connection.Lot, Numbers: []string{one.MPN, products[7].MPN, "NO-SUCH-THING"}}
			}
			found, _, err := all(t, a, d, q)
			require.NoError(t, err)
			assert.True(t, slices.ContainsFunc(found, func(p connection.Product) bool { return p.MPN == one.MPN && len(p.Fields) == len(one.Fields) }))
			found, _, err = all(t, a, d, connection.Question{Kind: connection.Order, Number: one.Offers[0].Number})
			require.NoError(t, err)
			require.Len(t, found, 1)
			assert.Equal(t, one.MPN, found[0].MPN)
			found, _, err = all(t, a, d, connection.Question{Kind: connection.Words, Words: `zebra "crossing" & <b>{words}`})
			require.NoError(t, err, "nothing is an answer")
			assert.Empty(t, found)

			for _, happens := range []struct {
				name    string
				faults  market.Faults
				says    string
				later   bool
				pages   int // that came before
				waiting time.Duration
			}{
				{"an error once", market.Faults{Fail: 1}, "", false, pages, 0},
				{"errors without end", market.Faults{Fail: 99}, "has trouble of its own (500)", true, 0, 0},
				{"busy once", market.Faults{Busy: 1, RetryIn: "2"}, "", false, pages, 2 * time.Second},
				{"busy for an hour", market.Faults{Busy: 1, RetryIn: "3600"}, "asks to be asked again in 1h0m0s", true, 0, 0},
				{"busy without end", market.Faults{Busy: 99}, "is asked too often", true, 0, 0},
				{"cut once", market.Faults{Cut: 1}, "", false, pages, 0},
				{"cut without end", market.Faults{Cut: 99}, "broke off in the middle", true, 0, 0},
				{"something else", market.Faults{Garbled: 99}, "cannot be read", true, 0, 0},
			} {
				m.Happen(c.supplier, happens.faults)
				a.forgetAll()
				if d.SignIn.By == "token" { // the token is had before things happen
					m.Happen(c.supplier, market.Faults{})
					_, err := a.token(t.Context(), d, d.Limits.With(), market.Secrets[d.SignIn.Secret])
					require.NoError(t, err)
					m.Happen(c.supplier, happens.faults)
				}
				waited.all = nil
				before := m.Asked(c.supplier)
				_, came, err := all(t, a, d, words)
				assert.LessOrEqual(t, m.Asked(c.supplier)-before, pages+tries, "%s: tries have an end", happens.name)
				m.Happen(c.supplier, market.Faults{})
				if happens.says == "" {
					require.NoError(t, err, happens.name)
				} else {
					var why *Trouble
					require.ErrorAs(t, err, &why, happens.name)
					assert.Contains(t, why.What, happens.says, happens.name)
					assert.Equal(t, happens.later, why.Later, happens.name)
					bare(t, why.What)
				}
				assert.Equal(t, happens.pages, came, happens.name)
				if happens.waiting > 0 {
					assert.Contains(t, waited.all, happens.waiting, happens.name)
				}
			}

			slow := *d
			slow.Limits.Seconds = 1
			m.Happen(c.supplier, market.Faults{Slow: 1500 * time.Millisecond})
			_, _, err = all(t, a, &slow, connection.Question{Kind: connection.Order, Number: "X"})
			m.Happen(c.supplier, market.Faults{})
			assert.ErrorContains(t, err, "in time")

			wrong, _ := asker(m, b)
			wrong.secrets = func(string) (string, bool) { return "not-the-secret", true }
			_, _, err = all(t, wrong, d, words)
			require.ErrorContains(t, err, "does not accept the secret")
			assert.NotContains(t, err.Error(), "not-the-secret")
			wrong.secrets = func(string) (string, bool) { return "", false }
			_, _, err = all(t, wrong, d, words)
			assert.ErrorContains(t, err, "is not among the service's settings")

			barred := NewAsker(reach.Guard{}, known, b)
			_, _, err = all(t, barred, d, words)
			assert.ErrorContains(t, err, "inside a private network")

			spent := &budget{err: &Trouble{What: "the day's questions are used up", Later: true}}
			none, _ := asker(m, spent)
			before := m.Asked(c.supplier)
			_, _, err = all(t, none, d, words)
			assert.ErrorContains(t, err, "used up")
			assert.Equal(t, before, m.Asked(c.supplier), "nothing goes out")
		})
	}
}

// forgetAll drops all tokens.
func (a *Asker) forgetAll() {
	a.mu.Lock()
	defer a.mu.Unlock()
	clear(a.tokens)
}

// bare says that a sentence has no address and no secret in it.
func bare(t *testing.T, what string) {
	t.Helper()
	for _, s := range market.Secrets {
		assert.NotContains(t, what, s)
	}
	assert.NotContains(t, what, "http")
	assert.NotContains(t, what, "127.0.0.1")
}

func TestAPriceListIsReadRowByRow(t *testing.T) {
	m, err := market.Start(demo.Files, "127.0.0.1:0")
	require.NoError(t, err)
	defer m.Close()
	d := open(t, "marsh-lane", m.URL)
	res, err := http.Get(m.URL + "/marsh-lane/pricelist.csv")
	require.NoError(t, err)
	raw, err := io.ReadAll(res.Body)
	require.NoError(t, err)
	lim := rows.DefaultLimits
	read := func(text string) (products []connection.Product, left int, problems []string, err error) {
		r, err := tabular.Open(io.NopCloser(strings.NewReader(text)), int64(len(text)), rows.Layout{}, lim)
		require.NoError(t, err)
		defer r.Close()
		_, left, problems, err = ReadTable(d, r, func(_ int, p connection.Product) error {
			products = append(products, p)
			return nil
		})
		return products, left, problems, err
	}
	products, left, _, err := read(string(raw))
	require.NoError(t, err)
	assert.Zero(t, left)
	assert.Greater(t, len(products), 3000)
	p := products[10]
	assert.Len(t, p.Offers[0].Breaks, 5)
	assert.Equal(t, "SEK", p.Offers[0].Currency())
	assert.Empty(t, p.Offers[0].Problems)
	_, _, _, err = read(strings.Replace(string(raw), "Maker part no.", "Part", 1))
	assert.ErrorContains(t, err, `The price list has no column "Maker part no."`)
	lines := strings.SplitAfter(string(raw), "\r\n")
	cells := strings.Split(lines[1], ";")
	cells[2] = ""
	products, left, problems, err := read(lines[0] + strings.Join(cells, ";") + lines[2])
	require.NoError(t, err)
	assert.Equal(t, []any{1, 1, []string{"Row 2 was left out: it has no manufacturer part number."}}, []any{len(products), left, problems})
}

// Whatever comes back, it is read within bounds or refused in one sentence.
func TestHostileAnswers(t *testing.T) {
	body := ""
	var status = http.StatusOK
	srv := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		if to := r.URL.Query().Get("text"); strings.HasPrefix(to, "go to ") {
			http.Redirect(w, r, strings.TrimPrefix(to, "go to "), http.StatusFound)
			return
		}
		w.WriteHeader(status)
		_, _ = io.WriteString(w, body)
	}))
	defer srv.Close()
	other := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		assert.Empty(t, r.Header.Get("X-Desk"), "a secret goes to nobody else")
		_, _ = io.WriteString(w, `{"articles":[]}`)
	}))
	defer other.Close()
	d := open(t, "northquay", srv.URL)
	d.Limits.MB = 1
	a := NewAsker(reach.Guard{Inside: []string{"127.0.0.1:*"}}, known, &budget{})
	a.pause = func(context.Context, time.Duration) error { return nil }
	item := `{"article":"A1","maker":{"name":"M","partNumber":"P1"},"packings":[{"article":"A1","onHand":5,"money":"EUR","prices":[{"qty":1,"each":"0.1"}]}]}`
	for _, c := range []struct{ name, body, says string }{
		{"nothing", "", "it is empty"},
		{"a page", "<html>", "begins like a page of HTML"},
		{"half", `{"articles":[` + item, "it ends in the middle"},
		{"two", `{"articles":[]}{"articles":[]}`, "something stands behind its end"},
		{"deep", strings.Repeat("[", 10000) + strings.Repeat("]", 10000), "nests deeper than 60 levels"},
		{"deep objects", strings.Repeat(`{"a":`, 100) + "1" + strings.Repeat("}", 100), "nests deeper"},
		{"in another encoding", "{\"articles\":[\"\xff\xfe\"]}", "no JSON in UTF-8"},
		{"large", `{"articles":[` + strings.Repeat(item+",", 20000) + item + `]}`, "sent more than 1 MB"},
		{"an array", `[1,2]`, "there is no $.articles in it"},
		{"null", `null`, "there is no $.articles in it"},
		{"other names", `{"results":[` + item + `]}`, "there is no $.articles in it"},
		{"a circle", `{"after":"x","articles":[` + item + `]}`, "its pages have no end"},
	} {
		body = c.body
		_, _, err := all(t, a, d, connection.Question{Kind: connection.Words, Words: "x"})
		assert.ErrorContains(t, err, c.says, c.name)
	}
	for _, c := range []struct {
		name, body string
		products   int
		problems   int
	}{
		{"none", `{"articles":null}`, 0, 0},
		{"a product that is none", `{"articles":[1,"x",null,{},` + item + `]}`, 1, 4},
		{"texts that are objects", `{"articles":[{"article":{"a":1},"maker":{"name":[],"partNumber":{}},"packings":{}}]}`, 0, 1},
		{"no supplier's number", `{"articles":[{"maker":{"partNumber":"P"},"packings":[{}]}]}`, 0, 1},
		{"numbers as numbers", `{"articles":[{"maker":{"partNumber":1206},"packings":[{"article":7,"onHand":1e3}]}]}`, 1, 0},
	} {
		body = c.body
		var got Answer
		require.NoError(t, a.Ask(t.Context(), d, connection.Question{Kind: connection.Words, Words: "x"}, func(p Page) error { got = p.Answer; return nil }), c.name)
		assert.Len(t, got.Products, c.products, c.name)
		assert.Len(t, got.Problems, c.problems, c.name)
	}
	body = `{"articles":[{"maker":{"partNumber":"P"},"packings":[{"article":"A","onHand":-4,"from":"ten","prices":[{"qty":1,"each":"1e999"}]}]}]}`
	var got Answer
	require.NoError(t, a.Ask(t.Context(), d, connection.Question{Kind: connection.Words, Words: "x"}, func(p Page) error { got = p.Answer; return nil }))
	assert.Nil(t, got.Products[0].Offers[0].Stock)
	assert.Empty(t, got.Products[0].Offers[0].Breaks)
	assert.GreaterOrEqual(t, len(got.Products[0].Offers[0].Problems), 3)

	for to, says := range map[string]string{other.URL: "leads to another machine", "http://169.254.1.1/": "leads to another machine", "file:///etc/passwd": "", srv.URL + "/loop": "nothing at the address"} {
		_, _, err := all(t, a, d, connection.Question{Kind: connection.Words, Words: "go to " + to})
		if says != "nothing at the address" {
			assert.ErrorContains(t, err, says, to)
		}
	}
	for _, code := range []int{301, 400, 401, 403, 404, 418, 500, 502, 503} {
		status, body = code, "the secret is "+market.Secrets["northquay-desk"]
		_, _, err := all(t, a, d, connection.Question{Kind: connection.Words, Words: "x"})
		require.Error(t, err, code)
		bare(t, err.Error())
	}
}

func TestHostileXML(t *testing.T) {
	d := open(t, "sandbar", "http://x.invalid")
	r, err := NewReader(d, connection.Words)
	require.NoError(t, err)
	part := `<part code="A"><partno>P</partno><attrs><attr n="R">1</attr></attrs><stock>3</stock></part>`
	for _, c := range []struct{ name, body, says string }{
		{"nothing", " ", "it is empty"},
		{"entities", `<!DOCTYPE r [<!ENTITY a "aaaa"><!ENTITY b "&a;&a;">]><results xmlns="urn:sandbar:find">&b;</results>`, "declares a document type"},
		{"an outside entity", `<!DOCTYPE r SYSTEM "file:///etc/passwd"><results/>`, "declares a document type"},
		{"an undeclared entity", `<results xmlns="urn:sandbar:find">&x;</results>`, "it is no XML"},
		{"half", `<results xmlns="urn:sandbar:find">` + part, "it is no XML"},
		{"deep", strings.Repeat("<a>", 200) + strings.Repeat("</a>", 200), "nests deeper"},
		{"JSON", `{"a":1}`, "no XML"},
	} {
		_, err := r.Read([]byte(c.body))
		assert.ErrorContains(t, err, c.says, c.name)
	}
	got, err := r.Read([]byte(`<results xmlns="urn:sandbar:find" hits="7">` + part + `</results>`))
	require.NoError(t, err)
	require.Len(t, got.Products, 1)
	assert.Equal(t, "7", got.Total)
	assert.Equal(t, []connection.Field{{Name: "R", Text: "1"}}, got.Products[0].Fields)
	got, err = r.Read([]byte(`<f:results xmlns:f="urn:sandbar:find"><f:part code="A"><f:partno>P</f:partno></f:part></f:results>`))
	require.NoError(t, err)
	assert.Len(t, got.Products, 1, "a prefix is only a prefix")
	_, err = r.Read([]byte(`<results xmlns="urn:other">` + part + `</results>`))
	assert.ErrorContains(t, err, "there is no /s:results in it", "another namespace is another form")
	got, err = r.Read([]byte(`<results xmlns="urn:sandbar:find" hits="0"/>`))
	require.NoError(t, err)
	assert.Empty(t, got.Products)
}

func FuzzAnswer(f *testing.F) {
	raw, err := demo.Files.ReadFile("connections/northquay.yaml")
	require.NoError(f, err)
	d, err := connection.Parse(raw)
	require.NoError(f, err)
	r, err := NewReader(&d, connection.Words)
	require.NoError(f, err)
	f.Add([]byte(`{"articles":[{"article":"A1","maker":{"name":"M","partNumber":"P1"},"packings":[{"article":"A1","onHand":5}]}]}`))
	f.Fuzz(func(t *testing.T, body []byte) {
		a, err := r.Read(body)
		if err != nil {
			return
		}
		for _, p := range a.Products {
			if p.MPN == "" || len(p.Offers) == 0 || p.Offers[0].Number == "" {
				t.Fatalf("%+v", p)
			}
		}
	})
}
