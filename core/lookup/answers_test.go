package lookup

import (
	"fmt"
	"math/rand/v2"
	"reflect"
	"testing"

	"github.com/stretchr/testify/assert"

	"jollydrawer/core/cabinet"
	"jollydrawer/core/part"
)

// made is a part of a small world, in which keys are met again and again.
func made(r *rand.Rand, id int, version int) *Entry {
	drawer := []string{"resistors", "capacitors"}[r.IntN(2)]
	e := NewEntry(part.Content{Drawer: drawer, Values: map[string]cabinet.Value{"case": {Type: cabinet.Text, Text: []string{"0402", "0603", "0805"}[r.IntN(3)]}, "note": {Type: cabinet.Text, Text: fmt.Sprint(r.IntN(9))}},
		Sources: []part.Source{{Manufacturer: fmt.Sprint("Maker ", r.IntN(4)), MPN: fmt.Sprint("M-", r.IntN(40)), Numbers: []part.Number{{Supplier: "Quay", Number: fmt.Sprint("Q-", r.IntN(40))}}}}})
	e.ID, e.Number, e.Version = fmt.Sprint("id-", id), fmt.Sprint("P-", id), version
	if r.IntN(4) == 0 {
		e.Former = []string{fmt.Sprint("OLD ", r.IntN(20))}
	}
	return e
}

// questionOf is something to ask, and how to write down the answer.
func questionOf(r *rand.Rand) func(a *Answers) string {
	names := func(es []*Entry) (out []string) {
		for _, e := range es {
			out = append(out, fmt.Sprint(e.Number, " ", e.Version))
		}
		return out
	}
	one := func(e *Entry, ok bool) []string {
		if !ok {
			return nil
		}
		return names([]*Entry{e})
	}
	n, drawer, size := r.IntN(45), []string{"resistors", "capacitors", "none"}[r.IntN(3)], []string{"0402", "0603", "0805", "1206"}[r.IntN(4)]
	switch r.IntN(8) {
	case 0:
		return func(a *Answers) string { return fmt.Sprint(one(a.ByID(fmt.Sprint("id-", n)))) }
	case 1:
		return func(a *Answers) string { return fmt.Sprint(one(a.ByNumber(fmt.Sprint("p-", n)))) }
	case 2:
		return func(a *Answers) string { return fmt.Sprint(names(a.ByNumberLike(fmt.Sprint("old", n%20)))) }
	case 3:
		return func(a *Answers) string { return fmt.Sprint(names(a.ByMPN(fmt.Sprint("m", n)))) }
	case 4:
		key := part.Source{Manufacturer: fmt.Sprint("Maker ", n%4), MPN: fmt.Sprint("M-", n)}.Key()
		return func(a *Answers) string { return fmt.Sprint(one(a.BySource(key))) }
	case 5:
		return func(a *Answers) string { return fmt.Sprint(names(a.BySupplierNumber(fmt.Sprint("Q-", n)))) }
	case 6:
		return func(a *Answers) string { return fmt.Sprint(a.Makers()) }
	}
	return func(a *Answers) string {
		return fmt.Sprint(a.Like(drawer, []string{"case", "note"})(func(key string) cabinet.Value {
			if key == "case" {
				return cabinet.Value{Type: cabinet.Text, Text: size}
			}
			return cabinet.Value{Type: cabinet.Text, Text: fmt.Sprint(n % 9)}
		}))
	}
}

// Whatever was asked and whatever is put or removed afterwards: answers that are said to hold are the same when they are asked
// again, and what nobody asked for does not void them.
func TestAnswersThatHoldAreTheSameWhenAskedAgain(t *testing.T) {
	held, voided, vain := 0, 0, 0
	for seed := range uint64(rounds(3000)) {
		r := rand.New(rand.NewPCG(seed, 7))
		x := New()
		version := 1
		for i := range 30 {
			x.Put(made(r, i, version))
		}
		a := x.Answers()
		var qs []func(*Answers) string
		var want []string
		for range 1 + r.IntN(3) {
			q := questionOf(r)
			qs, want = append(qs, q), append(want, q(a))
		}
		for range 3 {
			version++
			if r.IntN(5) == 0 {
				x.Remove(fmt.Sprint("id-", r.IntN(40)))
			} else {
				x.Put(made(r, r.IntN(40), version))
			}
			hold := a.Hold()
			var now []string
			for _, q := range qs {
				now = append(now, q(x.Answers()))
			}
			same := reflect.DeepEqual(want, now)
			if hold {
				held++
				if !assert.Equal(t, want, now, "seed %d", seed) {
					return
				}
				continue
			}
			voided++
			if same {
				vain++
			}
			break
		}
	}
	assert.Greater(t, held, rounds(3000), "answers are kept at all")
	assert.Greater(t, voided-vain, rounds(200), "and voided where they are others")
	assert.Less(t, vain, held, "most are not voided in vain")
}

func TestAnswersDoNotHoldOverMoreThanIsRemembered(t *testing.T) {
	x := New()
	x.Put(entry("R-1", "1 kΩ", "0805", "A"))
	a := x.Answers()
	a.ByMPN("nothing has this")
	for i := range 3 * mostTouches {
		x.Put(entry("R-2", "2 kΩ", "0805", fmt.Sprint("B-", i)))
		if i == 10 {
			assert.True(t, a.Hold())
		}
	}
	assert.False(t, a.Hold(), "what is not remembered may have been an answer")
	assert.LessOrEqual(t, len(x.touches), 2*mostTouches)
}

// rounds is n, or a fifth of it where the tests are run for every mistake of make mutants.
func rounds(n int) int {
	if testing.Short() {
		return n / 5
	}
	return n
}
