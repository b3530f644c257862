package app_test

import (
	"context"
	"errors"
	"fmt"
	"math/rand/v2"
	"sync"
	"testing"
	"time"

	"github.com/anishathalye/porcupine"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jollydrawer/core/lifecycle"
	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/service/housetest"
	"jollydrawer/internal/wire"
)

// underWay is where the parts of a history are: of each its version, the state of its draft ("" where there is none) and how often it
// was released.
type underWay [3]struct {
	version, revs int
	draft         string
}

// moveAsked is a call about some of the parts, as they were looked at.
type moveAsked struct {
	do       string // look, edit, or a move
	on       []int
	versions []int
}

type moveAnswered struct {
	refused bool
	seen    underWay // of look: the one part that was looked at
}

// leads says where a move leads a draft; ok is whether it begins there.
func leads(do, from string) (to string, ok bool) {
	switch do {
	case "edit":
		return "draft", from != "in review" // what is being reviewed stays as it is
	case "ask for review":
		return "in review", from == "draft"
	case "send back":
		return "draft", from == "in review"
	case "release":
		return "", from == "draft" || from == "in review"
	}
	return "", false
}

// movedOneAfterAnother says what moves answer when they are made one after another: a call on several parts moves all of them or none,
// by those alone who saw their newest versions, and only from where the move begins.
var movedOneAfterAnother = porcupine.Model{
	Init: func() any { return underWay{} },
	Step: func(state, in, out any) (bool, any) {
		s, q, a := state.(underWay), in.(moveAsked), out.(moveAnswered)
		if q.do == "look" {
			i := q.on[0]
			if s[i].version == 0 { // nobody looked at it yet
				s[i] = a.seen[i]
				return true, s
			}
			return s[i] == a.seen[i], s
		}
		next := s
		can := true
		for n, i := range q.on {
			to, ok := leads(q.do, s[i].draft)
			can = can && ok && s[i].version == q.versions[n]
			next[i].version++
			next[i].draft = to
			if q.do == "release" {
				next[i].revs++
			}
		}
		if a.refused {
			return !can, s
		}
		return can, next
	},
	DescribeOperation: func(in, out any) string { return fmt.Sprintf("%+v -> %+v", in, out) },
}

// mover makes moves through one instance and writes down when each began and ended.
type mover struct {
	h     housetest.House
	id    int
	rng   *rand.Rand
	parts []string
	done  []porcupine.Operation
}

func (m *mover) call(began time.Time, q moveAsked, do func() (moveAnswered, error)) moveAnswered {
	from := time.Since(began).Nanoseconds()
	a, err := do()
	until := time.Since(began).Nanoseconds()
	if e := new(deed.Error); errors.As(err, &e) {
		a.refused = true
	} else {
		require.NoError(m.h.T, err)
	}
	m.done = append(m.done, porcupine.Operation{ClientId: m.id, Input: q, Call: from, Output: a, Return: until})
	return a
}

func (m *mover) look(ctx context.Context, began time.Time, i int) (seen wire.Part) {
	m.call(began, moveAsked{do: "look", on: []int{i}}, func() (a moveAnswered, err error) {
		if seen, err = m.h.Parts.Get(ctx, m.h.Me, m.parts[i]); err != nil {
			return a, err
		}
		a.seen[i].version, a.seen[i].revs = seen.Version, len(seen.Revisions)
		if seen.Draft != nil {
			a.seen[i].draft = seen.States.Status.Key
			if seen.States.Draft != nil {
				a.seen[i].draft = seen.States.Draft.Key
			}
		}
		return a, nil
	})
	return seen
}

// some makes one move, of one part or of two.
func (m *mover) some(ctx context.Context, began time.Time, n int) {
	first := m.rng.IntN(len(m.parts))
	on := []int{first}
	do := []string{"edit", "edit", "ask for review", "ask for review", "send back", "release"}[m.rng.IntN(6)]
	if do != "edit" && m.rng.IntN(2) == 0 {
		on = append(on, (first+1)%len(m.parts))
	}
	m.make(ctx, began, n, do, on...)
}

// make looks at parts and makes a move of them, from where they were seen.
func (m *mover) make(ctx context.Context, began time.Time, n int, do string, on ...int) {
	q := moveAsked{do: do, on: on}
	in := wire.MoveThings{Move: do, Note: "in turn"}
	var seen wire.Part
	for _, i := range on {
		seen = m.look(ctx, began, i)
		q.versions = append(q.versions, seen.Version)
		in.Things = append(in.Things, wire.PartBase{ID: seen.ID, Version: seen.Version})
	}
	me := m.h.Me
	me.Deed = deed.NewID()
	m.call(began, q, func() (moveAnswered, error) {
		if do == "edit" {
			e := housetest.Rated("4k7", seen.Newest().Sources[0].MPN)
			e.Values["height"] = fmt.Sprintf("%d.%02d mm", m.id+1, n+1)
			_, err := m.h.Parts.Save(ctx, me, seen.ID, seen.Version, e)
			return moveAnswered{}, err
		}
		_, err := m.h.Lifecycles.Move(ctx, me, in)
		return moveAnswered{}, err
	})
}

// Moves of six people through two instances, at once, of one part and of two, answer as if they had been made one after another.
func TestMovesAtOnceAnswerAsIfOneAfterAnother(t *testing.T) {
	h := housetest.Open(t)
	houses := []housetest.House{h, h.Beside()}
	var parts []string
	for i := range len(underWay{}) {
		parts = append(parts, h.Make(housetest.Rated("4k7", fmt.Sprint("M-", i))).ID)
	}
	began := time.Now()
	var movers []*mover
	var wg sync.WaitGroup
	for i := range 6 {
		movers = append(movers, &mover{h: houses[i%2], id: i, rng: rand.New(rand.NewPCG(14, uint64(i))), parts: parts})
	}
	for _, m := range movers {
		wg.Go(func() {
			for n := range 50 {
				m.some(t.Context(), began, n)
			}
		})
	}
	wg.Wait()
	// What a busy hour happens to refuse is done once more when it is quiet, in turn through both instances, wherever the parts were
	// left: every kind of move is made, and one that does not begin there is refused.
	for n, last := range []struct {
		do string
		on []int
	}{
		{"send back", []int{0}}, {"send back", []int{1}}, {"edit", []int{0}}, {"edit", []int{1}}, {"ask for review", []int{0, 1}}, {"edit", []int{0}},
		{"send back", []int{0}}, {"ask for review", []int{0}}, {"release", []int{0, 1}}, {"edit", []int{2}}, {"release", []int{2}},
	} {
		movers[n%2].make(t.Context(), began, 50+n, last.do, last.on...)
	}
	var history []porcupine.Operation
	done, refused := map[string]int{}, 0
	for _, m := range movers {
		for _, o := range m.done {
			switch q := o.Input.(moveAsked); {
			case o.Output.(moveAnswered).refused:
				refused++
			default:
				done[fmt.Sprint(q.do, len(q.on))]++
			}
		}
		history = append(history, m.done...)
	}
	for _, do := range []string{"look1", "edit1", "ask for review1", "ask for review2", "send back1", "release1", "release2"} {
		assert.Positive(t, done[do], "%s was never done: %v", do, done)
	}
	assert.Positive(t, refused, "nobody met another")
	assert.Equal(t, porcupine.Ok, porcupine.CheckOperationsTimeout(movedOneAfterAnother, history, time.Minute), "%d calls: %v, %d refused", len(history), done, refused)
	_, shipped := lifecycle.Shipped("parts")
	assert.True(t, shipped, "what the moves are is that of the shipped lifecycle")
}
