package lifecycles_test

import (
	"bytes"
	"fmt"
	"math/rand/v2"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jollydrawer/core/part"
	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/service/housetest"
	"jollydrawer/internal/wire"
)

// series makes parts of one datasheet that wait for a review, some with another tolerance.
func series(t *testing.T, h housetest.House, by deed.Call, sheet part.File, ohms ...string) (out []wire.Part) {
	t.Helper()
	for i, o := range ohms {
		e := housetest.Resistor(o, fmt.Sprint(sheet.Name, o, i))
		e.Datasheets = []part.File{sheet}
		p, err := h.Parts.Create(t.Context(), by, e)
		require.NoError(t, err)
		p, err = h.Lifecycles.MovePart(t.Context(), by, p.ID, p.Version, wire.MoveThing{Move: "ask for review"})
		require.NoError(t, err)
		out = append(out, p)
	}
	return out
}

func sheet(t *testing.T, h housetest.House, name string) part.File {
	t.Helper()
	f, err := h.Files.Keep(t.Context(), h.Me, name, bytes.NewReader([]byte("%PDF-1.4 "+name)))
	require.NoError(t, err)
	return part.File{Hash: f.Hash, Name: name}
}

func things(r wire.TogetherReview) (out []wire.PartBase) {
	for _, p := range r.Parts {
		out = append(out, wire.PartBase{ID: p.ID, Version: p.Version})
	}
	return out
}

func TestPartsOfOneDatasheetAreReviewedTogether(t *testing.T) {
	h := housetest.Open(t)
	ines, tomas := h.As("ines", deed.Engineer), h.As("tomas", deed.Engineer)
	fourEyes(h)
	one, other := sheet(t, h, "one.pdf"), sheet(t, h, "other.pdf")
	mine := series(t, h, ines, one, "1k", "2k", "3k")
	series(t, h, ines, other, "4k")
	series(t, h, tomas, one, "5k")
	h.Make(housetest.Resistor("6k", "nobody's")) // a draft that nobody asked to be reviewed

	r, err := h.Lifecycles.Together(t.Context(), tomas, mine[1].Number, "")
	require.NoError(t, err)
	assert.Equal(t, "one.pdf", r.Sheet.Name)
	require.Len(t, r.Parts, 3, "an author reviews something else, and another datasheet is another table")
	var alike, differ []string
	for _, i := range r.Alike {
		alike = append(alike, i.Key)
	}
	for _, d := range r.Differ {
		differ = append(differ, d.Label)
	}
	assert.Contains(t, alike, "values.case")
	assert.Contains(t, differ, "Resistance")
	assert.Contains(t, differ, "Description")
	for _, p := range r.Parts {
		assert.Len(t, p.Items, len(alike)+len(differ), "each item of %s has its place", p.Number)
	}

	_, err = h.Lifecycles.SignMany(t.Context(), tomas, wire.SignMany{Things: things(r), SignReview: wire.SignReview{Against: "page 2"}})
	housetest.Fails(t, err, "list-open")
	_, err = h.Lifecycles.TickMany(t.Context(), tomas, wire.TickMany{Things: things(r), TickItems: wire.TickItems{Items: alike}})
	require.NoError(t, err)
	before := r
	r, err = h.Lifecycles.Together(t.Context(), tomas, mine[1].Number, one.Hash)
	require.NoError(t, err)
	for _, i := range r.Alike {
		assert.True(t, i.Mine, i.Key)
	}
	_, err = h.Lifecycles.SignMany(t.Context(), tomas, wire.SignMany{Things: things(before), SignReview: wire.SignReview{Against: "page 2", All: true}})
	housetest.Fails(t, err, "changed-meanwhile")
	done, err := h.Lifecycles.SignMany(t.Context(), tomas, wire.SignMany{Things: things(r), SignReview: wire.SignReview{Against: "page 2", All: true}})
	require.NoError(t, err)
	assert.Len(t, done.Things, 3)
	for _, p := range mine {
		v, err := h.Lifecycles.Review(t.Context(), ines, p.ID)
		require.NoError(t, err)
		require.Len(t, v.Signed, 1)
		assert.Equal(t, []any{"Tomas", "page 2", true, false}, []any{v.Signed[0].By, v.Signed[0].Against, v.Signed[0].Current, v.Signed[0].Author})
	}
}

func TestWhatCannotBeReviewedTogetherIsRefusedAsAWhole(t *testing.T) {
	h := housetest.Open(t)
	ines, tomas, reader := h.As("ines", deed.Engineer), h.As("tomas", deed.Engineer), h.As("rita", deed.Reader)
	fourEyes(h)
	one := sheet(t, h, "one.pdf")
	parts := series(t, h, ines, one, "1k", "2k")
	bare := h.Make(housetest.Resistor("3k", "no datasheet"))
	m := h.Model(wire.ModelEdit{Kind: "land pattern", Name: "Chip", LandPattern: housetest.TwoPads("0.95")})
	for key, typ := range map[string]string{bare.Number: "no-datasheet", m.ID: "no-datasheet", "NOBODY": "not-found"} {
		_, err := h.Lifecycles.Together(t.Context(), tomas, key, "")
		housetest.Fails(t, err, typ)
	}
	_, err := h.Lifecycles.Together(t.Context(), tomas, parts[0].Number, "no such hash")
	housetest.Fails(t, err, "no-datasheet")

	both := []wire.PartBase{{ID: parts[0].ID, Version: parts[0].Version}, {ID: parts[1].ID, Version: parts[1].Version}}
	for _, c := range []struct {
		who    deed.Call
		things []wire.PartBase
		items  []string
		typ    string
	}{
		{reader, both, []string{"description"}, "not-allowed"},
		{tomas, append(both[:1:1], both[0]), []string{"description"}, "twice"},
		{tomas, append(both[:1:1], wire.PartBase{ID: "nobody", Version: 1}), []string{"description"}, "not-found"},
		{tomas, append(both[:1:1], wire.PartBase{ID: parts[1].ID, Version: 1}), []string{"description"}, "changed-meanwhile"},
		{tomas, both, []string{"description", "values.colour"}, "item-unknown"},
		{tomas, make([]wire.PartBase, 201), []string{"description"}, "many-reviews"},
	} {
		_, err := h.Lifecycles.TickMany(t.Context(), c.who, wire.TickMany{Things: c.things, TickItems: wire.TickItems{Items: c.items}})
		housetest.Fails(t, err, c.typ)
	}
	for _, p := range parts {
		now, err := h.Parts.Get(t.Context(), h.Me, p.ID)
		require.NoError(t, err)
		assert.Equal(t, p.Version, now.Version, "nothing was written to any of them")
	}
}

// What is alike is what every list says in the same words of the same value, whatever lists there are.
func TestSideBySideLosesNoItem(t *testing.T) {
	h := housetest.Open(t)
	ines, tomas := h.As("ines", deed.Engineer), h.As("tomas", deed.Engineer)
	fourEyes(h)
	r := rand.New(rand.NewPCG(3, 9))
	one := sheet(t, h, "one.pdf")
	var first wire.Part
	for i := range 12 {
		e := housetest.Resistor([]string{"1k", "2k"}[r.IntN(2)], fmt.Sprint("A", i))
		for key, some := range map[string][]string{"tolerance": {"1 %", "1 %", "5 %"}, "power": {"100 mW", "250 mW"}, "height": {"0.5 mm", ""}} {
			if v := some[r.IntN(len(some))]; v != "" {
				e.Values[key] = v
			}
		}
		e.Datasheets = []part.File{one}
		p, err := h.Parts.Create(t.Context(), ines, e)
		require.NoError(t, err)
		if first, err = h.Lifecycles.MovePart(t.Context(), ines, p.ID, p.Version, wire.MoveThing{Move: "ask for review"}); err != nil {
			require.NoError(t, err)
		}
		got, err := h.Lifecycles.Together(t.Context(), tomas, first.Number, "")
		require.NoError(t, err)
		require.Len(t, got.Parts, i+1)
		said := map[string]map[string]int{} // item → value → how many lists say it
		for at, p := range got.Parts {
			shown := map[string]int{}
			for _, a := range got.Alike {
				shown[a.Key]++
			}
			for _, d := range got.Differ {
				require.Len(t, d.Items, i+1)
				shown[d.Items[at]]++
			}
			for _, item := range p.Items {
				assert.Equal(t, 1, shown[item.Key], "%s of %s has one place", item.Key, p.Number)
				if said[item.Key] == nil {
					said[item.Key] = map[string]int{}
				}
				said[item.Key][item.Value]++
			}
		}
		for _, a := range got.Alike {
			assert.Equal(t, map[string]int{a.Value: i + 1}, said[a.Key])
		}
		for _, d := range got.Differ {
			require.NotEmpty(t, slices.DeleteFunc(slices.Clone(d.Items), func(k string) bool { return k == "" }), d.Label)
			for _, key := range d.Items {
				for _, n := range said[key] {
					assert.True(t, i == 0 || n < i+1, "%s is not alike", key)
				}
			}
		}
	}
}
