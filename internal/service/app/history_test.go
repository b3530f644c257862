package app_test

import (
	"context"
	"errors"
	"fmt"
	"math/rand/v2"
	"slices"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/anishathalye/porcupine"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jollydrawer/core/intake"
	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/service/housetest"
	"jollydrawer/internal/wire"
)

// asked is one call of a history. On is what it is about: calls about different things are checked apart.
type asked struct {
	do, on, text string
	version      int
}

// answered is what a call came to: done or refused, with what was seen.
type answered struct {
	refused string // the type of the refusal
	version int
	text    string
	revs    int
}

// record is what a call is about, as calls one after another would leave it. A part is first seen as somebody looks at it.
type record struct {
	version, revs int
	text          string
}

// oneAfterAnother says what each call may answer when calls are done one after another.
//
// A number belongs to one part for ever ("claim", "find"). A part is saved and released by those alone who saw its newest version
// ("save", "release", "look"). A choice once added stays ("add", "choices").
var oneAfterAnother = porcupine.Model{
	Partition: func(all []porcupine.Operation) [][]porcupine.Operation {
		by := map[string][]porcupine.Operation{}
		for _, o := range all {
			on := o.Input.(asked).on
			by[on] = append(by[on], o)
		}
		var out [][]porcupine.Operation
		for _, ops := range by {
			out = append(out, ops)
		}
		return out
	},
	Init: func() any { return record{} },
	Step: func(state, in, out any) (bool, any) {
		s, q, a := state.(record), in.(asked), out.(answered)
		switch q.do {
		case "claim":
			if a.refused != "" {
				return a.refused == "number-taken" && s.text != "", s
			}
			return s.text == "", record{text: a.text}
		case "find":
			if a.refused != "" {
				return a.refused == "not-found" && s.text == "", s
			}
			return s.text == a.text, s
		case "save", "release":
			if a.refused != "" {
				return a.refused == "part-changed" && q.version != s.version, s
			}
			next := record{version: s.version + 1, revs: s.revs, text: s.text}
			if q.do == "save" {
				next.text = q.text
			} else {
				next.revs++
			}
			return q.version == s.version, next
		case "look":
			if s == (record{}) {
				return strings.HasPrefix(a.text, "S-"), record{version: a.version, text: a.text}
			}
			return a.version == s.version && a.text == s.text && a.revs == s.revs, s
		case "add":
			return a.refused == "", record{text: s.text + ";" + q.text}
		default: // choices
			return sameSet(a.text, s.text), s
		}
	},
	DescribeOperation: func(in, out any) string { return fmt.Sprintf("%+v -> %+v", in, out) },
}

func isSemicolon(r rune) bool { return r == ';' }

func sameSet(a, b string) bool {
	x, y := strings.FieldsFunc(a, isSemicolon), strings.FieldsFunc(b, isSemicolon)
	slices.Sort(x)
	slices.Sort(y)
	return slices.Equal(x, y)
}

// client makes calls through one instance and writes down when each began and ended.
type client struct {
	h    housetest.House
	id   int
	rng  *rand.Rand
	own  wire.Part // where its former numbers go
	done []porcupine.Operation
}

func (c *client) call(began time.Time, q asked, do func() (answered, error)) {
	from := time.Since(began).Nanoseconds()
	a, err := do()
	until := time.Since(began).Nanoseconds()
	var e *deed.Error
	if errors.As(err, &e) {
		a = answered{refused: e.Type}
	} else {
		require.NoError(c.h.T, err)
	}
	c.done = append(c.done, porcupine.Operation{ClientId: c.id, Input: q, Call: from, Output: a, Return: until})
}

// look reads a part as the next save will name it.
func (c *client) look(ctx context.Context, began time.Time, on string) (seen wire.Part, text string) {
	c.call(began, asked{do: "look", on: on}, func() (a answered, err error) {
		seen, err = c.h.Parts.Get(ctx, c.h.Me, on)
		if err != nil {
			return a, err
		}
		text = seen.Newest().Sources[0].MPN
		return answered{version: seen.Version, text: text, revs: len(seen.Revisions)}, nil
	})
	return seen, text
}

func (c *client) one(ctx context.Context, began time.Time, shared []string, n int) {
	word := fmt.Sprintf("c%dn%d", c.id, n)
	me := c.h.Me
	me.Deed = deed.NewID()
	switch c.rng.IntN(8) {
	case 0, 1: // a number for a new part
		number := fmt.Sprintf("OLD-%d", c.rng.IntN(8))
		c.call(began, asked{do: "claim", on: number}, func() (answered, error) {
			e := housetest.Resistor("1k", word)
			e.Number = number
			p, err := c.h.Parts.Create(ctx, me, e)
			return answered{text: p.ID}, err
		})
	case 2: // the number as another part's former number
		number := fmt.Sprintf("OLD-%d", c.rng.IntN(8))
		c.call(began, asked{do: "claim", on: number}, func() (answered, error) {
			p, err := c.h.Parts.AddFormer(ctx, me, c.own.ID, c.own.Version, wire.FormerNumber{Number: number})
			if err == nil {
				c.own = p
			}
			return answered{text: c.own.ID}, err
		})
	case 3:
		number := fmt.Sprintf("OLD-%d", c.rng.IntN(8))
		c.call(began, asked{do: "find", on: number}, func() (answered, error) {
			p, err := c.h.Parts.Get(ctx, c.h.Me, number)
			return answered{text: p.ID}, err
		})
	case 4, 5: // a save on top of what was seen
		on := shared[c.rng.IntN(len(shared))]
		seen, _ := c.look(ctx, began, on)
		c.call(began, asked{do: "save", on: on, text: word, version: seen.Version}, func() (answered, error) {
			_, err := c.h.Parts.Save(ctx, me, on, seen.Version, housetest.Rated("4k7", word))
			return answered{}, err
		})
	case 6:
		on := shared[c.rng.IntN(len(shared))]
		seen, _ := c.look(ctx, began, on)
		if seen.Draft == nil {
			return
		}
		c.call(began, asked{do: "release", on: on, version: seen.Version}, func() (answered, error) {
			_, err := c.h.Lifecycles.Release(ctx, me, on, seen.Version, wire.Release{Note: "checked"})
			return answered{}, err
		})
	default:
		if c.rng.IntN(2) == 0 {
			c.call(began, asked{do: "add", on: "choices", text: word}, func() (answered, error) {
				_, err := c.h.Reform.AddChoice(ctx, me, intake.NewChoice{Parameter: "dielectric", Choice: word})
				return answered{}, err
			})
		}
		c.call(began, asked{do: "choices", on: "choices"}, func() (a answered, err error) {
			cab, err := c.h.Cabinets.Get(ctx, c.h.Me)
			for _, p := range cab.Document.Parameters {
				if p.Key == "dielectric" {
					a.text = strings.Join(slices.DeleteFunc(slices.Clone(p.Choices), func(x string) bool { return !strings.HasPrefix(x, "c") || !strings.Contains(x, "n") }), ";")
				}
			}
			return a, err
		})
	}
}

// Calls of eight people through two instances, at once, answer as if they had been made one after another.
func TestCallsAtOnceAnswerAsIfOneAfterAnother(t *testing.T) {
	h := housetest.Open(t)
	houses := []housetest.House{h, h.Beside()}
	var shared []string
	for i := range 3 {
		shared = append(shared, h.Make(housetest.Rated("4k7", fmt.Sprint("S-", i))).ID)
	}
	began := time.Now()
	var clients []*client
	var wg sync.WaitGroup
	for i := range 8 {
		c := &client{h: houses[i%2], id: i, rng: rand.New(rand.NewPCG(7, uint64(i))), own: h.Make(housetest.Resistor("2k2", fmt.Sprint("OWN-", i)))}
		clients = append(clients, c)
	}
	for _, c := range clients {
		wg.Go(func() {
			for n := range 40 {
				c.one(t.Context(), began, shared, n)
			}
		})
	}
	wg.Wait()
	var history []porcupine.Operation
	refused, written := map[string]int{}, map[string]int{}
	for _, c := range clients {
		for _, o := range c.done {
			refused[o.Output.(answered).refused]++
			if o.Output.(answered).refused == "" {
				written[o.Input.(asked).do]++
			}
		}
		history = append(history, c.done...)
	}
	for _, do := range []string{"claim", "find", "save", "release", "look", "add", "choices"} {
		assert.Positive(t, written[do], "%s was never done", do)
	}
	assert.Positive(t, refused["number-taken"], "nobody met another: %v", refused)
	result := porcupine.CheckOperationsTimeout(oneAfterAnother, history, time.Minute)
	assert.Equal(t, porcupine.Ok, result, "%d calls, refused %v, done %v", len(history), refused, written)
	if result != porcupine.Ok {
		for _, part := range oneAfterAnother.Partition(history) {
			if porcupine.CheckOperationsTimeout(oneAfterAnother, part, time.Minute) == porcupine.Ok {
				continue
			}
			slices.SortFunc(part, func(a, b porcupine.Operation) int { return int(a.Call - b.Call) })
			for _, o := range part {
				t.Logf("%d..%d client %d: %s", o.Call/1000, o.Return/1000, o.ClientId, oneAfterAnother.DescribeOperation(o.Input, o.Output))
			}
		}
	}
}
