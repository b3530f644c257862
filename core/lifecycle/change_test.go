package lifecycle

import (
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

// renamed is a document in which one state has another key, everywhere.
func renamed(d Document, old, now string) Document {
	swap := func(k string) string {
		if k == old {
			return now
		}
		return k
	}
	out := d
	out.Becomes = nil
	out.Status, out.Standing, out.Moves = slices.Clone(d.Status), slices.Clone(d.Standing), slices.Clone(d.Moves)
	for _, track := range [][]State{out.Status, out.Standing} {
		for i := range track {
			track[i].Key = swap(track[i].Key)
		}
	}
	for i := range out.Moves {
		m := &out.Moves[i]
		m.To, m.From = swap(m.To), slices.Clone(m.From)
		for k := range m.From {
			m.From[k] = swap(m.From[k])
		}
	}
	return out
}

func TestAStateMayOnlyGoWhereItsThingsAreSaidToBe(t *testing.T) {
	l := shipped(t, "parts")
	next := renamed(l.Document, "in review", "waiting")
	_, _, err := l.Follow(next)
	assert.ErrorContains(t, err, `the state "in review" is gone, and things may be in it`)
	next.Becomes = map[string]string{"in review": "waiting"}
	now, c, err := l.Follow(next)
	require.NoError(t, err)
	assert.Equal(t, "waiting", now.DraftState("in review").Key)
	require.Len(t, c.Gone, 1)
	assert.Equal(t, "waiting", c.Gone[0].Becomes.Key)
	for _, wrong := range []string{"released", "active", "withdrawn"} {
		next.Becomes = map[string]string{"in review": wrong}
		_, _, err = l.Follow(next)
		assert.ErrorContains(t, err, "a draft stays a draft", "in review cannot become %s", wrong)
	}
	models := shipped(t, "models").Document
	models.Name = "parts"
	_, _, err = l.Follow(models)
	assert.ErrorContains(t, err, "it cannot become one of models")
}

func TestWhatADocumentChangesIsSaidInWords(t *testing.T) {
	l := shipped(t, "parts")
	next := renamed(l.Document, "", "")
	next.Counting = Letters
	i := slices.IndexFunc(next.Moves, func(m Move) bool { return m.Key == "release" })
	next.Moves[i].Who = Who{Role: "engineer", NotAuthor: true}
	next.Moves[i].Gates = []GateUse{{Gate: "sources", With: map[string]string{"at least": "2"}, Waive: &Who{Role: "librarian"}}}
	next.Moves[i].Note = false
	next.Moves = append(next.Moves, Move{Key: "fast", Label: "Straight on", From: []string{"draft"}, To: "released", Who: Who{Role: "administrator"}})
	_, c, err := l.Follow(next)
	require.NoError(t, err)
	assert.Equal(t, "letters", c.Counting)
	assert.Equal(t, []string{
		`"Release" is for engineer, not an author, before for librarian`,
		`"Release" has the gates sources at least 2 (waived by librarian), before required`,
		`"Release" wants a note: no longer`,
		`"Straight on" is new: draft → released, for administrator`,
	}, c.Moves)
	next.Moves = next.Moves[:len(next.Moves)-1]
	fewer, _, err := l.Follow(next)
	require.NoError(t, err)
	_, c, err = fewer.Follow(l.Document)
	require.NoError(t, err)
	assert.Equal(t, "numbers", c.Counting)
	assert.Contains(t, c.Moves, `"Release" wants a note: yes`)
}

// However often states are renamed, each thing is in the state that its own has become, and going back to the first document puts
// all of them back: nothing that is stored is ever rewritten.
func TestGoingBackToADocumentPutsThingsBack(t *testing.T) {
	keys := []string{"draft", "in review", "released", "withdrawn", "active", "obsolete"}
	rapid.Check(t, func(t *rapid.T) {
		first := shippedOf(t)
		now, is := first, map[string]string{}
		for _, k := range keys {
			is[k] = k
		}
		for range rapid.IntRange(1, 12).Draw(t, "changes") {
			k := rapid.SampledFrom(keys).Draw(t, "state")
			to := k + " " + rapid.StringMatching(`[a-z]{1,3}`).Draw(t, "as")
			if is[k] == to || len(to) > maxKey {
				continue
			}
			if _, taken := now.states[to]; taken {
				continue
			}
			next := renamed(now.Document, is[k], to)
			next.Becomes = map[string]string{is[k]: to}
			after, _, err := now.Follow(next)
			if err != nil {
				t.Fatal(err)
			}
			now, is[k] = after, to
		}
		for _, k := range keys {
			if s, ok := now.State(k); !ok || s.Key != is[k] {
				t.Fatalf("what was stored as %q is %q, and should be %q", k, s.Key, is[k])
			}
		}
		back := first.Document
		back.Becomes = map[string]string{}
		for _, k := range keys {
			if is[k] != k {
				back.Becomes[is[k]] = k
			}
		}
		again, _, err := now.Follow(back)
		if err != nil {
			t.Fatal(err)
		}
		for _, k := range keys {
			if s, _ := again.State(k); s.Key != k {
				t.Fatalf("%q is %q after going back", k, s.Key)
			}
			if s, _ := again.State(is[k]); s.Key != k {
				t.Fatalf("what was moved meanwhile to %q is %q after going back", is[k], s.Key)
			}
		}
	})
}

func shippedOf(t *rapid.T) *Lifecycle {
	text, _ := Shipped("parts")
	l, err := Parse(text)
	if err != nil {
		t.Fatal(err)
	}
	return l
}
