package intakes_test

import (
	"net/http"
	"net/http/httptest"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jollydrawer/formats/formatstest"
	"jollydrawer/internal/reach"
	"jollydrawer/internal/service/app"
	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/service/housetest"
	"jollydrawer/internal/wire"
)

// A link to a datasheet is on the part before anybody fetched it, leads to its file later, and stays a link where the file is about something else.
func TestLinksOfDatasheetsAreOnThePartAndAreFetchedLater(t *testing.T) {
	inside := make([]string, 1)
	h := housetest.Open(t, func(o *app.Options) { o.Guard = reach.Guard{Inside: inside} })
	sheet := formatstest.PDF([]string{"Tidewright LK series", "LK-1 4.7 kOhm", "LK-2 8.2 kOhm", "LK-3 1 kOhm"})
	web := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		if r.URL.Path == "/lk.pdf" {
			_, _ = w.Write(sheet)
			return
		}
		http.NotFound(w, r)
	}))
	defer web.Close()
	inside[0] = strings.TrimPrefix(web.URL, "http://")
	link := web.URL + "/lk.pdf"
	i := h.Listed("R;Tidewright;LK-1;4k7;1%;0805;" + link + "\nR;Tidewright;LK-2;8k2;1%;0805;" + link + "\nR;Tidewright;QX-3;3k;1%;0805;" + link + "\nR;Tidewright;LK-4;2k;1%;0805;" + web.URL + "/gone.pdf\nR;Tidewright;LK-5;5k1;1%;0805;sheets/lk.pdf\n")
	made := h.TakeIn(i)
	require.Len(t, made.Numbers, 5)
	newest := func(n int) *wire.PartContent {
		p, err := h.Parts.Get(t.Context(), h.Me, made.Numbers[n])
		require.NoError(t, err)
		return p.Newest()
	}
	for n, want := range []string{link, link, link, web.URL + "/gone.pdf"} {
		assert.Equal(t, []string{want}, newest(n).Links)
		assert.Empty(t, newest(n).Datasheets)
	}
	assert.Empty(t, newest(4).Links, "a path that came with no file leads nowhere")
	var causes []string
	for _, f := range newest(0).Findings {
		causes = append(causes, f.Cause)
	}
	assert.Contains(t, causes, "datasheet-linked")
	assert.NotContains(t, causes, "no-datasheet")

	p, err := h.Parts.Get(t.Context(), h.Me, made.Numbers[1])
	require.NoError(t, err)
	e := p.Draft.Edit()
	e.Values["power"] = "125 mW"
	p, err = h.Parts.Save(t.Context(), h.Me, p.ID, p.Version, e)
	require.NoError(t, err)
	assert.Equal(t, []string{link}, p.Draft.Links, "another edit keeps it")
	e.Links = []string{"javascript:alert(1)"}
	_, err = h.Parts.Save(t.Context(), h.Me, p.ID, p.Version, e)
	housetest.Fails(t, err, "values-wrong")

	reader := h.As("rita", deed.Reader)
	_, err = h.Intakes.FetchLinked(t.Context(), reader, made.Numbers[:1])
	housetest.Fails(t, err, "not-allowed")
	j, err := h.Intakes.FetchLinked(t.Context(), h.Me, made.Numbers[:1])
	require.NoError(t, err)
	one := h.Wait(j)
	require.NotNil(t, one.Fetched, one.Error)
	assert.Equal(t, wire.Fetched{Links: 1, Files: 1, Parts: 1, Other: []string{}}, *one.Fetched)
	require.Len(t, newest(0).Datasheets, 1)
	assert.Equal(t, "lk.pdf", newest(0).Datasheets[0].Name)
	assert.Empty(t, newest(0).Links)
	assert.Equal(t, []string{link}, newest(1).Links, "nobody asked for that one")

	j, err = h.Intakes.FetchDatasheets(t.Context(), h.Me, housetest.ID(t, i.ID)) // all that the intake made
	require.NoError(t, err)
	all := h.Wait(j)
	require.NotNil(t, all.Fetched, all.Error)
	assert.Equal(t, wire.Fetched{Links: 2, Files: 1, Dead: 1, Parts: 1, Other: []string{made.Numbers[2] + ": lk.pdf names none of its part numbers, nor a series that they begin with"}}, *all.Fetched)
	assert.Len(t, newest(1).Datasheets, 1)
	assert.Equal(t, []string{link}, newest(2).Links)
	assert.Equal(t, []string{web.URL + "/gone.pdf"}, newest(3).Links)
	_, err = h.Intakes.FetchLinked(t.Context(), h.Me, made.Numbers[:2])
	housetest.Fails(t, err, "no-links")
}
