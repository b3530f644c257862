package readout_test

import (
	"encoding/json"
	"fmt"
	"math/rand/v2"
	"regexp"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jollydrawer/core/part"
	"jollydrawer/internal/service/housetest"
	"jollydrawer/internal/wire"
)

var ofARevision = regexp.MustCompile(`-r\d+\.`)

// Whatever is released, renamed or merged, a path of a revision never changes what it holds and never goes away; a part names the path of
// the revision that it was released with; and of each model one path holds the newest.
func TestPathsKeepWhatTheyHold(t *testing.T) {
	h := housetest.Open(t)
	rng := rand.New(rand.NewPCG(15, 2))
	land := func(half int) *wire.ModelEdit {
		return &wire.ModelEdit{Kind: "land pattern", LandPattern: housetest.TwoPads(fmt.Sprintf("%d.%02d", 1+half/100, half%100))}
	}
	var lands []wire.Model
	half := 0
	for i := range 3 {
		e := land(half)
		half++
		e.Name = fmt.Sprint("Land ", i)
		lands = append(lands, h.Model(*e))
	}
	e := housetest.Resistor("1k", "A")
	e.LandPattern = &part.Model{ID: lands[0].ID, Revision: 1}
	p := h.Make(e)
	p, err := h.Lifecycles.Release(t.Context(), h.Me, p.ID, p.Version, wire.Release{Note: "x"})
	require.NoError(t, err)
	kept := map[string]string{}
	merged := map[string]bool{}
	look := func(what string) map[string]string {
		files := folder(t, h, "")
		for path, text := range kept {
			require.Equal(t, text, files[path], "%s changed %s", what, path)
		}
		for path, text := range files {
			if ofARevision.MatchString(path) {
				kept[path] = text
			}
		}
		return files
	}
	look("nothing")
	for n := range 14 {
		i := rng.IntN(3)
		m, err := h.Models.Get(t.Context(), h.Me, lands[i].ID)
		require.NoError(t, err)
		what := []string{"a new revision", "a rename", "a part that takes it", "a merging"}[rng.IntN(4)]
		switch {
		case merged[m.ID]:
			continue
		case what == "a new revision", what == "a rename":
			e := land(half)
			e.Name = m.Name
			if what == "a rename" {
				e.Name = fmt.Sprint("Renamed ", n)
			}
			half++
			m, err = h.Models.Save(t.Context(), h.Me, h.ModelID(m), m.Version, *e)
			require.NoError(t, err)
			_, err = h.Lifecycles.ReleaseModel(t.Context(), h.Me, h.ModelID(m), m.Version, wire.Release{Note: what})
			require.NoError(t, err)
		case what == "a part that takes it":
			p, err = h.Parts.Get(t.Context(), h.Me, p.ID)
			require.NoError(t, err)
			e := p.Newest().Edit()
			e.LandPattern = &part.Model{ID: m.ID, Revision: m.Revision}
			if p, err = h.Parts.Save(t.Context(), h.Me, p.ID, p.Version, e); err != nil {
				t.Fatal(err)
			}
			if p.Draft == nil {
				continue // it has it already
			}
			p, err = h.Lifecycles.Release(t.Context(), h.Me, p.ID, p.Version, wire.Release{Note: what})
			require.NoError(t, err)
		case i > 0 && len(merged) == 0:
			_, err := h.Fitting.Merge(t.Context(), h.Me, wire.MergeModels{Keep: lands[0].ID, Gone: []string{m.ID}, Different: []string{m.ID}, Why: "one is enough"})
			require.NoError(t, err)
			merged[m.ID] = true
		}
		files := look(what)
		var index struct {
			Parts []struct {
				Description string            `json:"description"`
				Status      string            `json:"status"`
				Values      map[string]string `json:"values"`
				Sources     []part.Source     `json:"sources"`
				LandPattern struct {
					Revision int                             `json:"revision"`
					Files    []struct{ Path, SHA256 string } `json:"files"`
				} `json:"landPattern"`
			} `json:"parts"`
			Newest []struct {
				Name  string
				Files []struct{ Path string }
			} `json:"newest"`
		}
		require.NoError(t, json.Unmarshal([]byte(files["index.json"]), &index))
		now, err := h.Parts.Get(t.Context(), h.Me, p.ID)
		require.NoError(t, err)
		got := index.Parts[0]
		assert.Equal(t, now.Released.LandPattern.Revision, got.LandPattern.Revision)
		assert.Contains(t, got.LandPattern.Files[0].Path, fmt.Sprintf("-r%d.", got.LandPattern.Revision))
		assert.Equal(t, "1 kΩ", got.Values["resistance"])
		assert.Equal(t, "A", got.Sources[0].MPN)
		assert.NotEmpty(t, got.Description)
		assert.NotEmpty(t, got.Status)
		assert.Len(t, index.Newest, countNewest(files), "each model has one newest path")
	}
	assert.Greater(t, len(kept), 8)
}

// countNewest counts the documents that lie without the number of a revision.
func countNewest(files map[string]string) (n int) {
	for path := range files {
		if strings.Contains(path, "/") && strings.HasSuffix(path, ".json") && !ofARevision.MatchString(path) {
			n++
		}
	}
	return n
}
