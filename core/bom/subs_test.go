package bom

import (
	"fmt"
	"maps"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

// madeBoard is a board on paper: what it takes is worked out from it, not from what is frozen of it.
type madeBoard struct {
	pin      BoardPin
	variants []string
	lines    []madeTaken
	frozen   []Pinned
}

// madeTaken is a line of it: a part, a length of wire, or another board.
type madeTaken struct {
	places []string
	pieces int
	off    bool
	in     []string // nil: in all variants
	part   int
	metres int // tenths, where it is no part
	board  *madeBoard
	of     string // the variant of that board
}

// sums are what a board takes: pieces by part, and tenths of metres.
type sums struct {
	parts  map[int]int
	metres int
}

// takes adds what so many boards of a variant take, as somebody would count it with a pencil.
func (b *madeBoard) takes(variant string, times int, into *sums) {
	for _, l := range b.lines {
		switch {
		case l.off || variant != "" && l.in != nil && !slices.Contains(l.in, variant):
		case l.board != nil:
			l.board.takes(l.of, times*l.pieces, into)
		case l.metres > 0:
			into.metres += times * l.metres
		default:
			into.parts[l.part] += times * l.pieces
		}
	}
}

// holds says whether a board is in it, wherever.
func (b *madeBoard) holds(id string) bool {
	return slices.ContainsFunc(b.lines, func(l madeTaken) bool {
		return l.board != nil && (l.board.pin.ID == id || l.board.holds(id))
	})
}

// drawBoards draws boards that take those before them.
func drawBoards(t *rapid.T) []*madeBoard {
	var all []*madeBoard
	for i := range rapid.IntRange(2, 4).Draw(t, "boards") {
		b := &madeBoard{pin: BoardPin{ID: fmt.Sprint("id-", i), Name: fmt.Sprint("Board ", i), Revision: 1, Label: "1", Hash: fmt.Sprint("hash-", i)}}
		if rapid.Bool().Draw(t, "variants") {
			b.variants = []string{"East", "West"}
		}
		for k := range rapid.IntRange(1, 4).Draw(t, "lines") {
			l := madeTaken{pieces: rapid.IntRange(1, 3).Draw(t, "pieces"), off: rapid.IntRange(0, 5).Draw(t, "off") == 0, part: rapid.IntRange(1, 4).Draw(t, "part")}
			for n := range rapid.SampledFrom([]int{0, l.pieces}).Draw(t, "places") {
				l.places = append(l.places, fmt.Sprint("P", k, "N", n))
			}
			if len(b.variants) > 0 && rapid.Bool().Draw(t, "some") {
				l.in = []string{rapid.SampledFrom(b.variants).Draw(t, "in")}
			}
			switch what := rapid.IntRange(0, 4).Draw(t, "what"); {
			case what == 0:
				l.metres, l.pieces, l.places = rapid.IntRange(1, 30).Draw(t, "metres"), 0, nil
			case what > 2 && len(all) > 0 && !l.off: // what is not fitted is not looked for, nor pinned
				l.board = rapid.SampledFrom(all).Draw(t, "board")
				if len(l.board.variants) > 0 {
					l.of = rapid.SampledFrom(l.board.variants).Draw(t, "of")
				}
			}
			b.lines = append(b.lines, l)
		}
		all = append(all, b)
	}
	return all
}

// freeze makes of a board what is frozen of it, as a service does: its own lines, with those of the boards that they are.
func (b *madeBoard) freeze(all map[BoardPin]*madeBoard) ([]Pinned, error) {
	var own []Pinned
	for i, l := range b.lines {
		p := Pinned{Row: i + 2, Designators: l.places, Quantity: l.pieces, NotFitted: l.off, In: l.in}
		switch {
		case l.board != nil:
			pin := l.board.pin
			pin.Variant = l.of
			p.Board, p.Assembly = &pin, true
		case l.metres > 0:
			p.Amount = fmt.Sprintf("%d.%d m", l.metres/10, l.metres%10)
		default:
			p.Part = &Pin{ID: fmt.Sprint(l.part), Number: fmt.Sprint("N-", l.part), Revision: 1}
		}
		own = append(own, p)
	}
	return Expanded(own, func(p BoardPin) []Pinned {
		variant := p.Variant
		p.Variant = ""
		return PinnedOf(all[p].frozen, variant)
	})
}

func TestABoardOfBoardsTakesWhatItTakesOnPaper(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		byPin := map[BoardPin]*madeBoard{}
		for _, b := range drawBoards(t) {
			lines, err := b.freeze(byPin)
			require.NoError(t, err)
			b.frozen, byPin[b.pin] = lines, b
			for _, variant := range append([]string{""}, b.variants...) {
				want, is := sums{parts: map[int]int{}}, sums{parts: map[int]int{}}
				b.takes(variant, 1, &want)
				for _, l := range PinnedOf(lines, variant) {
					switch {
					case l.NotFitted:
					case l.Part != nil:
						var part int
						fmt.Sscan(l.Part.ID, &part)
						is.parts[part] += l.Quantity
					case l.Amount != "":
						is.metres += tenths(t, l.Amount)
					}
				}
				maps.DeleteFunc(is.parts, func(_, n int) bool { return n == 0 })
				require.Equal(t, want, is, "%s %s", b.pin.Name, variant)
			}
			require.Len(t, OwnLines(lines), len(b.lines), "each line of its own file once, and no other")
			for _, o := range byPin {
				require.Equal(t, b.holds(o.pin.ID), HoldsBoard(lines, o.pin.ID), "%s in %s", o.pin.Name, b.pin.Name)
			}
			seen := map[string]int{}
			for _, l := range lines {
				for _, d := range l.Designators {
					seen[d]++
				}
			}
			for d, n := range seen {
				require.Equal(t, 1, n, "%s of %s is one place", d, b.pin.Name)
			}
			c := Compare(lines, lines)
			require.Empty(t, c.Changes, "a board beside itself is not otherwise")
		}
	})
}

// tenths reads metres as Amount writes them.
func tenths(t *rapid.T, text string) int {
	a := amountOf(text)
	var whole, part int
	if n, _ := fmt.Sscanf(a.Number, "%d.%d", &whole, &part); n == 1 {
		part = 0
	}
	require.Equal(t, "m", a.Unit)
	return whole*10 + part
}

func TestWhatABoardOfBoardsCannotTakeIsSaid(t *testing.T) {
	pin := BoardPin{ID: "a", Name: "A", Label: "1"}
	of := func(BoardPin) []Pinned {
		return []Pinned{{Row: 2, Designators: []string{"R1"}, Quantity: 1_000, Part: &Pin{ID: "1"}}}
	}
	_, err := Expanded([]Pinned{{Row: 7, Quantity: 2_000_000, Board: &pin}}, of)
	assert.ErrorContains(t, err, "row 7: a board would take more than 1000000000 pieces of what A revision 1 is made of")
	many := make([]Pinned, 30_000)
	for i := range many {
		many[i] = Pinned{Row: i + 2, Quantity: 1, Board: &pin}
	}
	_, err = Expanded(many, of)
	assert.ErrorContains(t, err, "more than 50000 lines")
}
