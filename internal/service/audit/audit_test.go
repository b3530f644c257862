package audit_test

import (
	"database/sql"
	"errors"
	"fmt"
	"math/rand/v2"
	"slices"
	"strings"
	"sync"
	"sync/atomic"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jollydrawer/core/cabinet"
	"jollydrawer/core/part"
	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/service/housetest"
	"jollydrawer/internal/service/parts"
	"jollydrawer/internal/store"
	"jollydrawer/internal/testdb"
	"jollydrawer/internal/wire"
)

func TestMain(m *testing.M) { testdb.Main(m) }

func TestVerifyNamesEveryKindOfTampering(t *testing.T) {
	h := housetest.Open(t)
	land := h.Model(wire.ModelEdit{Kind: "land pattern", Name: "Chip", LandPattern: housetest.TwoPads("0.95")})
	e := housetest.Resistor("4k7", "A")
	e.LandPattern = &part.Model{ID: land.ID, Revision: 1}
	p := h.Make(e)
	for _, power := range []string{"125 mW", "250 mW"} {
		var err error
		p, err = h.Lifecycles.Release(t.Context(), h.Me, p.ID, p.Version, wire.Release{Note: "checked"})
		require.NoError(t, err)
		e.Values["power"] = power
		p, err = h.Parts.Save(t.Context(), h.Me, p.ID, p.Version, e)
		require.NoError(t, err)
	}
	says := func() []string {
		v, err := h.Audit.Verify(t.Context(), h.Me)
		require.NoError(t, err)
		return v.Different
	}
	require.Empty(t, says())
	db, err := sql.Open("mysql", h.Owner)
	require.NoError(t, err)
	defer db.Close()
	id := "UNHEX(REPLACE('" + p.ID + "', '-', ''))"
	for _, c := range []struct{ spoil, mend, says string }{
		{"UPDATE contents c JOIN revisions r ON r.content = c.id SET c.bytes = REPLACE(c.bytes, '4700', '4800') WHERE r.head = " + id + " AND r.number = 1",
			"UPDATE contents c JOIN revisions r ON r.content = c.id SET c.bytes = REPLACE(c.bytes, '4800', '4700') WHERE r.head = " + id + " AND r.number = 1", "bytes of its revision 1"},
		{"UPDATE uses SET child_revision = 7 WHERE parent = " + id + " AND place = 'released land pattern'", "UPDATE uses SET child_revision = 1 WHERE parent = " + id, "where-used names something as its released land pattern"},
		{"DELETE FROM source_keys WHERE head = " + id, "", "1 of its sources have no key"},
		{"UPDATE heads SET released = (SELECT content FROM revisions WHERE head = " + id + " AND number = 1) WHERE id = " + id, "", "what is in use is not its newest revision"},
		{"DELETE FROM trail WHERE head = " + id + " AND seq = 2", "", "does not follow from the one before"},
	} {
		r, err := db.Exec(c.spoil)
		require.NoError(t, err)
		n, err := r.RowsAffected()
		require.NoError(t, err)
		require.Positive(t, n, c.spoil)
		found := says()
		require.NotEmpty(t, found, c.spoil)
		assert.Contains(t, found[len(found)-1]+found[0], c.says)
		if c.mend != "" {
			_, err = db.Exec(c.mend)
			require.NoError(t, err)
			require.Empty(t, says())
		}
	}
}

func TestVerifyNamesWhatWasTamperedWith(t *testing.T) {
	h := housetest.Open(t)
	p := h.Make(housetest.Resistor("1k", "A"))
	v, err := h.Audit.Verify(t.Context(), h.Me)
	require.NoError(t, err)
	assert.Empty(t, v.Different)
	require.NoError(t, h.Audit.Seal(t.Context()))
	// The service's own account may change heads: a head that was bent no longer fits its trail.
	_, err = testdb.SQL(t, h.Owner, "UPDATE heads SET trail_seq = 7 WHERE number = ?", p.Number)
	require.NoError(t, err)
	v, err = h.Audit.Verify(t.Context(), h.Me)
	require.NoError(t, err)
	require.Len(t, v.Different, 1)
	assert.Contains(t, v.Different[0], p.Number)
	_, err = testdb.SQL(t, h.Owner, "DELETE FROM source_keys")
	require.NoError(t, err)
	v, err = h.Audit.Verify(t.Context(), h.Me)
	require.NoError(t, err)
	assert.Contains(t, strings.Join(v.Different, "\n"), "1 of its sources have no key")
}

func TestVerifyNamesAValueWithoutAPlace(t *testing.T) {
	h := housetest.Open(t)
	p := h.Make(housetest.Rated("4k7", "A"))
	// What a version of the program before this one could leave behind: content saved under a template that is no more.
	_, err := h.Store.Do(t.Context(), store.Deed{ID: store.NewID(), Kind: "part.edit", Account: h.Me.Actor.ID, At: store.Stamp(h.Now())}, func(tx *store.Tx) (any, error) {
		head, err := tx.Head(store.KindPart, housetest.ID(t, p.ID))
		if err != nil {
			return nil, err
		}
		was, err := tx.Content(head.Draft)
		if err != nil {
			return nil, err
		}
		content, from, err := parts.Decode(was)
		if err != nil {
			return nil, err
		}
		content.Values["old-power"] = content.Values["power"]
		c, err := parts.NewContent(head.ID, content, from, 1)
		if err != nil {
			return nil, err
		}
		head.Draft = c.ID
		if err := tx.AddContent(&c); err != nil {
			return nil, err
		}
		return nil, tx.Update(&head, "draft saved", nil)
	})
	require.NoError(t, err)
	v, err := h.Audit.Verify(t.Context(), h.Me)
	require.NoError(t, err)
	require.Len(t, v.Different, 1)
	assert.Contains(t, v.Different[0], `its value of "old-power" has no place in the template of chip-resistors`)
}

// Others save, release and make parts all the time; a parameter is renamed meanwhile, there and back. Nothing of it looks like
// a difference, and nothing that was saved keeps the old key.
func TestVerifyGivesNoFalseAlarmsWhileOthersWriteAndTemplatesChange(t *testing.T) {
	h := housetest.Open(t)
	var all []wire.Part
	for i := range 40 {
		all = append(all, h.Make(housetest.Rated("4k7", fmt.Sprintf("A-%d", i))))
	}
	done := make(chan bool)
	var writers sync.WaitGroup
	var saved atomic.Int32
	for w := range 4 {
		writers.Go(func() {
			for n := 0; ; n++ {
				select {
				case <-done:
					return
				default:
				}
				p := &all[w*10+n%10]
				edit := housetest.Resistor(fmt.Sprintf("%dk", n%90+1), fmt.Sprintf("A-%d", w*10+n%10))
				edit.Values[[]string{"power", "rating"}[n/7%2]] = "125 mW"
				next, err := *p, error(nil)
				switch n % 4 {
				case 1:
					next, err = h.Lifecycles.Release(t.Context(), h.Me, p.ID, p.Version, wire.Release{Note: "again"})
				case 3:
					edit.Sources[0].MPN = fmt.Sprintf("N-%d-%d", w, n)
					_, err = h.Parts.Create(t.Context(), h.Me, edit)
				default:
					next, err = h.Parts.Save(t.Context(), h.Me, p.ID, p.Version, edit)
				}
				var e *deed.Error
				switch {
				case err == nil:
					*p = next
					saved.Add(1)
				case errors.As(err, &e) && slices.Contains([]string{"part-changed", "changed-meanwhile", "cabinet-changed", "values-wrong", "not-ready"}, e.Type):
					if *p, err = h.Parts.Get(t.Context(), h.Me, p.ID); err != nil {
						t.Error(err)
						return
					}
				default:
					t.Error(err)
					return
				}
			}
		})
	}
	for _, names := range [][2]string{{"power", "rating"}, {"rating", "power"}, {"power", "rating"}} {
		h.Change(wire.CabinetChange{Steps: []cabinet.Step{{Do: cabinet.Rename, Parameter: names[0], To: names[1]}}, Note: "renamed"})
		v, err := h.Audit.Verify(t.Context(), h.Me)
		require.NoError(t, err)
		assert.Empty(t, v.Different)
	}
	close(done)
	writers.Wait()
	assert.Positive(t, saved.Load())
	v, err := h.Audit.Verify(t.Context(), h.Me)
	require.NoError(t, err)
	assert.Empty(t, v.Different)
}

// Whoever is an author by the trail is one by the record, whatever was done: an author who is forgotten could review their own work.
func TestNoAuthorIsForgotten(t *testing.T) {
	h := housetest.Open(t)
	people := []deed.Call{h.As("ines", deed.Engineer), h.As("tomas", deed.Librarian), h.As("olga", deed.Librarian)}
	r := rand.New(rand.NewPCG(20, 26))
	var parts []wire.Part
	for i := range 6 {
		e := housetest.Rated("1k", fmt.Sprint("A", i))
		e.Values["height"] = "0.5 mm"
		p, err := h.Parts.Create(t.Context(), people[i%3], e)
		require.NoError(t, err)
		parts = append(parts, p)
	}
	name, done := "height", map[string]int{}
	for step := range 60 {
		at, who := r.IntN(len(parts)), people[r.IntN(3)]
		p, err := h.Parts.Get(t.Context(), who, parts[at].ID)
		require.NoError(t, err)
		switch what := r.IntN(10); {
		case what < 5:
			e := p.Newest().Edit()
			e.Values["power"] = fmt.Sprintf("%d mW", 100+step)
			_, err = h.Parts.Save(t.Context(), who, p.ID, p.Version, e)
			require.NoError(t, err)
			done["edited"]++
		case what < 7:
			if _, err = h.Lifecycles.Release(t.Context(), people[1], p.ID, p.Version, wire.Release{Note: "x"}); err == nil {
				done["released"]++
			}
		case what < 8:
			if p.Draft != nil && p.Revision > 0 {
				_, err = h.Reform.GoBack(t.Context(), who, p.ID, p.Version, wire.GoBack{Revision: p.Revision, ReplaceDraft: true})
				require.NoError(t, err)
				done["discarded"]++
			}
		default:
			next := map[string]string{"height": "tallness", "tallness": "height"}[name]
			h.Change(wire.CabinetChange{Steps: []cabinet.Step{{Do: cabinet.Rename, Parameter: name, To: next}}})
			name = next
			done["renamed"]++
		}
	}
	h.Level()
	v, err := h.Audit.Verify(t.Context(), h.Me)
	require.NoError(t, err)
	assert.Empty(t, v.Different)
	for _, what := range []string{"edited", "released", "discarded", "renamed"} {
		assert.Positive(t, done[what], what)
	}
	_, err = testdb.SQL(t, h.Owner, "UPDATE heads SET writers = 0 WHERE kind = 'part' AND draft IS NOT NULL")
	require.NoError(t, err)
	v, err = h.Audit.Verify(t.Context(), h.Me)
	require.NoError(t, err)
	require.NotEmpty(t, v.Different, "and one who is forgotten is named")
	assert.Contains(t, v.Different[0], "others are its authors")
}

func TestVerifyNamesMembersThatASeriesDoesNotHave(t *testing.T) {
	h := housetest.Open(t)
	_, err := h.Series.Make(t.Context(), h.Me, wire.SeriesEdit{Manufacturer: "Tidewright", Name: "VF", Members: []string{"VF-1", "VF-2"}})
	require.NoError(t, err)
	v, err := h.Audit.Verify(t.Context(), h.Me)
	require.NoError(t, err)
	assert.Empty(t, v.Different)
	_, err = testdb.SQL(t, h.Owner, "UPDATE series_members SET k = REVERSE(k) ORDER BY k LIMIT 1")
	require.NoError(t, err)
	v, err = h.Audit.Verify(t.Context(), h.Me)
	require.NoError(t, err)
	assert.ElementsMatch(t, []string{"series Tidewright: VF: it holds a source that it does not name", "series Tidewright: VF: 1 of its members are not found by it"}, v.Different)
}
