package comments_test

import (
	"fmt"
	"strings"
	"sync"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/service/housetest"
	"jollydrawer/internal/testdb"
	"jollydrawer/internal/wire"
)

func TestMain(m *testing.M) { testdb.Main(m) }

func TestACommentIsSaidAnsweredAndSettled(t *testing.T) {
	h := housetest.Open(t)
	h.Level()
	require.NoError(t, h.Notices.Begin(t.Context()))
	iver, ulla := h.As("iver", "engineer"), h.As("ulla", "engineer")
	p, err := h.Parts.Create(t.Context(), iver, housetest.Rated("4k7", "A"))
	require.NoError(t, err)
	l, err := h.Comments.Say(t.Context(), ulla, p.Number, wire.NewComment{Text: " the datasheet says 5 % ", About: "values.tolerance"})
	require.NoError(t, err)
	first := l.Items[0]
	l, err = h.Comments.Say(t.Context(), iver, p.ID, wire.NewComment{Text: "page 3 says 1 %", Answers: first.ID})
	require.NoError(t, err)
	require.Len(t, l.Items, 2)
	l, err = h.Comments.Say(t.Context(), ulla, p.ID, wire.NewComment{Text: "so it does", Answers: l.Items[1].ID, About: "elsewhere"})
	require.NoError(t, err)
	assert.Equal(t, []string{"the datasheet says 5 %", "page 3 says 1 %", "so it does"}, []string{l.Items[0].Text, l.Items[1].Text, l.Items[2].Text})
	for _, c := range l.Items[1:] {
		assert.Equal(t, []string{first.ID, "values.tolerance"}, []string{c.Answers, c.About}, "an answer to an answer belongs to what both are about")
	}
	assert.Equal(t, 1, l.Open, "answers are not counted")
	_, err = h.Comments.Settle(t.Context(), ulla, housetest.ID(t, l.Items[1].ID), true)
	assert.Error(t, err, "an answer is settled with what it answers")
	l, err = h.Comments.Settle(t.Context(), iver, housetest.ID(t, first.ID), true)
	require.NoError(t, err)
	assert.Equal(t, []any{0, true, "Iver"}, []any{l.Open, l.Items[0].Settled, l.Items[0].SettledBy})

	now, err := h.Parts.Get(t.Context(), h.Me, p.ID)
	require.NoError(t, err)
	assert.Equal(t, p.Version, now.Version, "whoever edits the part is not disturbed")
	trail, err := h.Parts.Trail(t.Context(), h.Me, p.ID, 0, 10)
	require.NoError(t, err)
	var said []string
	for _, e := range trail.Items {
		said = append(said, e.Says)
	}
	assert.Equal(t, []string{"Iver settled a comment on " + p.Number + ".", "Ulla answered a comment on tolerance of " + p.Number + ": “so it does”.", "Iver answered a comment on tolerance of " + p.Number + ": “page 3 says 1 %”.",
		"Ulla commented on tolerance of " + p.Number + ": “the datasheet says 5 %”.", "Iver made " + p.Number + "."}, said)
	h.Level()
	for more := true; more; {
		more, err = h.Notices.Step(t.Context())
		require.NoError(t, err)
	}
	for who, n := range map[string]int{"iver": 2, "ulla": 2} { // what the other said, and settled
		told, err := h.Notices.List(t.Context(), h.As(who, "engineer"), false, 0, 10)
		require.NoError(t, err)
		assert.Len(t, told.Items, n, "%s: %+v", who, told.Items)
	}
	v, err := h.Audit.Verify(t.Context(), h.Me)
	require.NoError(t, err)
	assert.Empty(t, v.Different)
}

func TestWhatCannotBeSaidIsRefused(t *testing.T) {
	h := housetest.Open(t)
	p, q := h.Make(housetest.Rated("4k7", "A")), h.Make(housetest.Rated("4k7", "B"))
	l, err := h.Comments.Say(t.Context(), h.Me, q.ID, wire.NewComment{Text: "there"})
	require.NoError(t, err)
	for _, c := range []struct {
		as  deed.Call
		key string
		in  wire.NewComment
		typ string
	}{
		{h.Me, p.ID, wire.NewComment{Text: " \n "}, "comment-blank"}, {h.Me, "NOBODY", wire.NewComment{Text: "x"}, "not-found"}, {h.Me, deed.NewID().String(), wire.NewComment{Text: "x"}, "not-found"},
		{h.Me, p.ID, wire.NewComment{Text: "x", Answers: l.Items[0].ID}, "not-found"}, {h.Me, p.ID, wire.NewComment{Text: "x", Answers: "nonsense"}, "not-found"}, {h.As("ole", "reader"), p.ID, wire.NewComment{Text: "x"}, "not-allowed"},
	} {
		_, err := h.Comments.Say(t.Context(), c.as, c.key, c.in)
		var e *deed.Error
		if assert.ErrorAs(t, err, &e, "%+v", c) {
			assert.Equal(t, c.typ, e.Type)
		}
	}
	_, err = h.Comments.Settle(t.Context(), h.Me, deed.NewID(), true)
	assert.Error(t, err)
}

// Many talk about a part while it is edited and released: nothing that was said is lost, the trail stays a chain, and no edit is
// refused for what was said meanwhile.
func TestManyTalkWhileAPartIsEdited(t *testing.T) {
	h := housetest.Open(t)
	p := h.Make(housetest.Rated("4k7", "A"))
	var talk sync.WaitGroup
	for n := range 4 {
		talk.Go(func() {
			for i := range 10 {
				for {
					_, err := h.Comments.Say(t.Context(), h.Me, p.ID, wire.NewComment{Text: fmt.Sprintf("%d/%d", n, i)})
					if err == nil {
						break
					}
					if !strings.Contains(err.Error(), "meanwhile") {
						t.Error(err)
						return
					}
				}
			}
		})
	}
	for i := range 10 {
		e := housetest.Rated(fmt.Sprintf("%dk", i+1), "A")
		for {
			now, err := h.Parts.Save(t.Context(), h.Me, p.ID, p.Version, e)
			if err == nil {
				p = now
				break
			}
			require.ErrorContains(t, err, "meanwhile")
		}
	}
	talk.Wait()
	l, err := h.Comments.List(t.Context(), h.Me, p.ID, 0, 100)
	require.NoError(t, err)
	assert.Len(t, l.Items, 40)
	assert.Equal(t, 11, p.Version)
	h.Level()
	v, err := h.Audit.Verify(t.Context(), h.Me)
	require.NoError(t, err)
	assert.Empty(t, v.Different)
}

func TestACommentIsAboutWhatIsThere(t *testing.T) {
	h := housetest.Open(t)
	h.Level()
	p, err := h.Parts.Create(t.Context(), h.Me, housetest.Rated("4k7", "A"))
	require.NoError(t, err)
	m := h.Model(wire.ModelEdit{Kind: "land pattern", Name: "Chip", LandPattern: housetest.TwoPads("0.95")})
	made, err := h.Wants.Make(t.Context(), h.Me, []wire.WantEdit{{Facts: "10k 0805"}})
	require.NoError(t, err)
	w, err := h.Wants.Get(t.Context(), h.Me, made.Numbers[0])
	require.NoError(t, err)
	for _, c := range []struct {
		of, about string
		kept      string // blank: refused
	}{
		{p.Number, "values.tolerance", "values.tolerance"}, {p.Number, "tolerance", "values.tolerance"}, {p.Number, "values.height", "values.height"}, {p.Number, "description", "description"},
		{p.Number, "values.capacitance", ""}, {p.Number, "values.", ""}, {p.Number, "nonsense", ""}, {p.Number, "Tolerance", ""}, {p.Number, "../tolerance", ""},
		{m.ID, "pins", ""}, {m.ID, "pads", "pads"}, {m.ID, "values.tolerance", ""}, {w.ID, "values.tolerance", ""}, {w.ID, "", " "},
	} {
		l, err := h.Comments.Say(t.Context(), h.Me, c.of, wire.NewComment{Text: "is that so?", About: c.about})
		if c.kept == "" {
			assert.ErrorAs(t, err, new(*deed.Error), "%s of %s", c.about, c.of)
			continue
		}
		require.NoError(t, err, c.about)
		assert.Equal(t, strings.TrimSpace(c.kept), l.Items[len(l.Items)-1].About)
	}
	for _, nothing := range []string{"", "  ", "\u200b", "\u2060\n\u3164"} {
		_, err := h.Comments.Say(t.Context(), h.Me, p.Number, wire.NewComment{Text: nothing})
		assert.ErrorContains(t, err, "says nothing")
	}
}
