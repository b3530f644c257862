package lifecycle

import (
	"fmt"
	"testing"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

// A document is accepted just when a thing that lives by it can get wherever it says, and out of what it has to get out of: drafts into use, and
// each standing into another. What can be reached is worked out here from the closure of all single steps.
func TestADocumentIsAcceptedJustWhenItCanBeLivedBy(t *testing.T) {
	sound, stuck := 0, 0
	for range 20 {
		rapid.Check(t, func(t *rapid.T) { livedBy(t, &sound, &stuck) })
	}
	require.Greater(t, min(sound, stuck), 20)
}

// livedBy draws a document and holds what is said of it against what can be done by it. stuck counts those in which a draft can be reached and never left.
func livedBy(t *rapid.T, sound, stuck *int) {
	doc := Document{Format: Format, Name: "drawn", Of: "parts"}
	status := func(m Meaning, least, most int) {
		for i := range rapid.IntRange(least, most).Draw(t, string(m)) {
			first := m == MeansDraft && i == 0
			doc.Status = append(doc.Status, State{Key: fmt.Sprintf("%s %d", m, i), Word: fmt.Sprintf("%s %d", m, i), Meaning: m, First: first, Change: first, Use: UseYes, Shape: "disc"})
		}
	}
	status(MeansDraft, 1, 2)
	status(MeansReview, 0, 2)
	status(MeansUse, 1, 2)
	status(MeansSuperseded, 1, 1)
	status(MeansWithdrawn, 0, 1)
	for i := range rapid.IntRange(1, 3).Draw(t, "standings") {
		doc.Standing = append(doc.Standing, State{Key: fmt.Sprintf("stands %d", i), Word: fmt.Sprintf("stands %d", i), First: i == 0, Use: UseYes, Shape: "disc"})
	}
	all := doc.states()
	step := map[[2]string]bool{}
	likely := rapid.IntRange(2, 7).Draw(t, "moves of ten")
	for _, from := range all {
		step[[2]string{from.Key, from.Key}] = true
		for _, to := range all {
			same := (from.Meaning == "") == (to.Meaning == "") && from.Key != to.Key
			if !same || from.Meaning != "" && !mayFollow(from.Meaning, to.Meaning) || rapid.IntRange(1, 10).Draw(t, "move") > likely {
				continue
			}
			key := fmt.Sprintf("m%d", len(doc.Moves))
			doc.Moves = append(doc.Moves, Move{Key: key, Label: key, From: []string{from.Key}, To: to.Key, Who: Who{Role: "engineer"}})
			step[[2]string{from.Key, to.Key}] = true
		}
	}
	for _, via := range all {
		for _, from := range all {
			for _, to := range all {
				if step[[2]string{from.Key, via.Key}] && step[[2]string{via.Key, to.Key}] {
					step[[2]string{from.Key, to.Key}] = true
				}
			}
		}
	}
	can := func(from, to string) bool { return step[[2]string{from, to}] }
	lived, left := true, true
	for _, s := range all {
		switch {
		case s.Meaning == "":
			out := len(doc.Standing) == 1
			for _, o := range doc.Standing {
				out = out || o.Key != s.Key && can(s.Key, o.Key)
			}
			lived = lived && out && can("stands 0", s.Key)
		case s.Meaning != MeansSuperseded: // a newer revision leads there
			lived = lived && (can("draft 0", s.Key) || can("superseded 0", s.Key))
		}
		if s.Meaning.OfDraft() {
			into := false
			for _, o := range doc.Status {
				into = into || o.Meaning == MeansUse && can(s.Key, o.Key)
			}
			left = left && into
		}
	}
	switch {
	case lived && left:
		*sound++
	case lived:
		*stuck++
	}
	_, err := New(doc)
	require.Equal(t, lived && left, err == nil, "%+v: %v", doc.Moves, err)
}
