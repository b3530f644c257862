package finder_test

import (
	"bytes"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jollydrawer/core/cabinet"
	"jollydrawer/core/lookup"
	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/service/finder"
	"jollydrawer/internal/service/housetest"
	"jollydrawer/internal/testdb"
	"jollydrawer/internal/wire"
)

func TestMain(m *testing.M) { testdb.Main(m) }

func TestViewsBelongToWhoSavedThem(t *testing.T) {
	h := housetest.Open(t)
	_, err := h.People.AddAccount(t.Context(), h.Me, wire.NewAccount{Login: "tove", Name: "Tove", Role: "reader", Password: "a-long-password"})
	require.NoError(t, err)
	_, secret, err := h.People.SignIn(t.Context(), wire.SignIn{Login: "tove", Password: "a-long-password"})
	require.NoError(t, err)
	tove, _, err := h.People.BySession(t.Context(), secret)
	require.NoError(t, err)
	own := wire.ViewEdit{Name: "small", Query: "?q=0402", Drawer: "chip-resistors"}
	mine, err := h.Finder.SaveView(t.Context(), h.Me, own)
	require.NoError(t, err)
	own.Query, own.Shared = "q=0603", true
	again, err := h.Finder.SaveView(t.Context(), h.Me, own)
	require.NoError(t, err)
	assert.Equal(t, mine.ID, again.ID, "one name, one view")
	seen, err := h.Finder.Views(t.Context(), deed.Call{Actor: tove})
	require.NoError(t, err)
	require.Len(t, seen.Items, 1)
	assert.False(t, seen.Items[0].Own)
	_, err = h.Finder.SaveView(t.Context(), deed.Call{Actor: tove}, own)
	housetest.Fails(t, err, "not-allowed")
	id, _ := deed.ParseID(mine.ID)
	_, err = h.Finder.DropView(t.Context(), deed.Call{Actor: tove}, id)
	housetest.Fails(t, err, "not-found")
	left, err := h.Finder.DropView(t.Context(), h.Me, id)
	require.NoError(t, err)
	assert.Empty(t, left.Items)
}

func TestPartsAreComparedAndExportedAsShown(t *testing.T) {
	h := housetest.Open(t)
	a, b := h.Make(housetest.Rated("4k7", "A")), housetest.Rated("4k7", "B")
	b.Values["tolerance"], b.Values["power"] = "5%", "250 mW"
	bb := h.Make(b)
	c, err := h.Finder.Compare(t.Context(), h.Me, []string{a.Number, bb.Number})
	require.NoError(t, err)
	rows := map[string]wire.ComparisonRow{}
	for _, r := range c.Rows {
		rows[r.Key] = r
	}
	assert.False(t, rows["resistance"].Differs)
	assert.Equal(t, []int{0}, rows["tolerance"].Best, "less is better")
	assert.Equal(t, []int{1}, rows["power"].Best, "more is better")
	_, err = h.Finder.Compare(t.Context(), h.Me, []string{a.Number})
	housetest.Fails(t, err, "compare-count")
	_, err = h.Finder.Compare(t.Context(), h.Me, []string{a.Number, "nobody"})
	housetest.Fails(t, err, "not-found")
	var out bytes.Buffer
	q := finder.Query{Text: "res", Sort: []lookup.Order{{Key: "power", Down: true}}, Shown: []string{"number", "power"}}
	require.NoError(t, h.Finder.Export(t.Context(), h.Me, q, "csv", &out))
	assert.Equal(t, "Number,Power rating\n"+bb.Number+",250 mW\n"+a.Number+",125 mW\n", strings.ReplaceAll(out.String(), "\r", ""))
}

// A filter by an intake lets through what taking it in made or changed, in searches and exports, whatever else is asked.
func TestWhatAnIntakeBroughtIsFound(t *testing.T) {
	h := housetest.Open(t)
	h.Make(housetest.Resistor("1k", "HAND-1"))
	first := h.Listed("R;Tidewright;TW-1;1k;1%;0603;\nR;Tidewright;TW-2;2k2;1%;0805;\n")
	ask := func(filters map[string][]string) ([]string, error) {
		l, err := h.Finder.Search(t.Context(), h.Me, lookup.Query{Filters: filters})
		var out []string
		for _, r := range l.Items {
			out = append(out, r.MPN)
		}
		return out, err
	}
	_, err := ask(map[string][]string{"intake": {first.Number}})
	housetest.Fails(t, err, "not-taken-in")
	h.TakeIn(first)
	second := h.Listed("R;Tidewright;TW-3;3k3;1%;0603;\n")
	h.TakeIn(second)
	for _, c := range []struct {
		filters map[string][]string
		want    []string
	}{
		{map[string][]string{"intake": {first.Number}}, []string{"TW-1", "TW-2"}},
		{map[string][]string{"intake": {first.ID}}, []string{"TW-1", "TW-2"}},
		{map[string][]string{"intake": {second.Number}}, []string{"TW-3"}},
		{map[string][]string{"intake": {first.Number, second.Number}}, []string{"TW-1", "TW-2", "TW-3"}},
		{map[string][]string{"intake": {first.Number}, "case": {"0805"}}, []string{"TW-2"}},
		{map[string][]string{"intake": {second.Number}, "case": {"0805"}}, nil},
		{map[string][]string{"intake": {first.Number}, "status": {"released"}}, nil},
		{nil, []string{"HAND-1", "TW-1", "TW-2", "TW-3"}},
	} {
		got, err := ask(c.filters)
		require.NoError(t, err)
		assert.ElementsMatch(t, c.want, got, "%v", c.filters)
	}
	_, err = ask(map[string][]string{"intake": {"IN-99999"}})
	housetest.Fails(t, err, "not-found")
	var b bytes.Buffer
	require.NoError(t, h.Finder.Export(t.Context(), h.Me, lookup.Query{Filters: map[string][]string{"intake": {second.Number}}, Shown: []string{"mpn"}}, "csv", &b))
	assert.Equal(t, "MPN\nTW-3\n", b.String())
}

// A question by what is not there is refused, in a list and in a file alike: an empty list would look like an answer.
func TestAQuestionByWhatIsNotThereIsRefused(t *testing.T) {
	h := housetest.Open(t)
	h.Make(housetest.Rated("4k7", "A"))
	for _, c := range []struct {
		name string
		q    lookup.Query
		kind string
	}{
		{"a parameter", lookup.Query{Filters: map[string][]string{"span": {"1 mm"}}}, "filter-unknown"},
		{"the blank of one", lookup.Query{Filters: map[string][]string{"span": {"-"}}}, "filter-unknown"},
		{"an order", lookup.Query{Sort: []lookup.Order{{Key: "span"}}}, "sort-unknown"},
		{"more orders than there are", lookup.Query{Sort: []lookup.Order{{Key: "number"}, {Key: "mpn"}, {Key: "power"}, {Key: "drawer"}}}, "sort-long"},
		{"a group", lookup.Query{Group: "span"}, "group-unknown"},
		{"a column", lookup.Query{Shown: []string{"number", "span"}}, "column-unknown"},
		{"a drawer", lookup.Query{Filters: map[string][]string{"drawer": {"chip-resistor"}}}, "drawer-unknown"},
		{"a state", lookup.Query{Filters: map[string][]string{"status": {"finished"}}}, "status-wrong"},
		{"a standing", lookup.Query{Filters: map[string][]string{"standing": {"fine"}}}, "standing-wrong"},
		{"a size", lookup.Query{Filters: map[string][]string{"resistance": {"4.7 kV"}}}, "filter-wrong"},
		{"what is offered", lookup.Query{Filters: map[string][]string{"offer.colour": {"1.."}}}, "filter-wrong"},
	} {
		_, err := h.Finder.Search(t.Context(), h.Me, c.q)
		housetest.Fails(t, err, c.kind)
		var out bytes.Buffer
		housetest.Fails(t, h.Finder.Export(t.Context(), h.Me, c.q, "csv", &out), c.kind)
		assert.Zero(t, out.Len(), c.name)
	}
	for _, state := range []string{"draft", "released", "-"} {
		_, err := h.Finder.Search(t.Context(), h.Me, lookup.Query{Filters: map[string][]string{"status": {state}}})
		assert.NoError(t, err, state)
	}
}

// Saved views are everybody's: those of others follow a name that a parameter gets, too.
func TestViewsFollowANameThatAParameterGets(t *testing.T) {
	h := housetest.Open(t)
	h.Make(housetest.Rated("4k7", "A"))
	other := h.As("other", deed.Reader)
	save := func(c deed.Call, name, query string) {
		_, err := h.Finder.SaveView(t.Context(), c, wire.ViewEdit{Name: name, Query: query})
		require.NoError(t, err)
	}
	save(h.Me, "tight", "f=tolerance%3A-1+%25..1+%25&sort=-tolerance&columns=number,tolerance")
	save(h.Me, "words", "q=tolerance+1%25")
	save(other, "theirs", "group=tolerance")
	save(other, "long", "f=tolerance:1&q="+strings.Repeat("x", 7900))
	change := wire.CabinetChange{Steps: []cabinet.Step{{Do: cabinet.Rename, Parameter: "tolerance", To: "exactness"}}}
	p, j := h.Change(change)
	require.Equal(t, "done", j.State)
	assert.Equal(t, []string{"3 saved views"}, p.Also, "the preview says how many, and not whose")
	views := func(c deed.Call) map[string]string {
		l, err := h.Finder.Views(t.Context(), c)
		require.NoError(t, err)
		out := map[string]string{}
		for _, v := range l.Items {
			out[v.Name] = v.Query
		}
		return out
	}
	assert.Equal(t, map[string]string{"tight": "f=exactness%3A-1+%25..1+%25&sort=-exactness&columns=number%2Cexactness", "words": "q=tolerance+1%25"}, views(h.Me))
	assert.Equal(t, map[string]string{"theirs": "group=exactness", "long": "f=exactness%3A1&q=" + strings.Repeat("x", 7900)}, views(other))
}
