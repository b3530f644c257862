package measure

import "strings"

// Taken says what a stretch of a text was taken for.
type Taken uint8

// What stretches are taken for. Every character of a text that is read lies in exactly one piece or is a blank.
const (
	AsNumber    Taken = iota // the value, or an end of a range, or a member of a list
	AsCode                   // a marking code: number and unit in one, "4k7"
	AsUnit                   // a unit with its prefix
	AsSign                   // plus or minus of a value
	AsLimit                  // "max", "≤", "typ"
	AsRange                  // what stands between the ends of a range
	AsTolerance              // number, sign and unit of a tolerance, or its letter
	AsCondition              // under what the value holds: "@ 25 °C"
	AsRemark                 // words that say more of the value: "DC", "(shielded)"; never a number
	AsSeparator              // commas, "or", parentheses
	AsSame                   // the same value once more, in another unit
	AsAxis                   // which dimension of a body: "L", "W"
)

var takenNames = [...]string{"number", "code", "unit", "sign", "limit", "range", "tolerance", "condition", "remark", "separator", "the same again", "axis"}

// String returns the name used in JSON: "number", "tolerance", "condition" and so on.
func (t Taken) String() string { return takenNames[t] }

// Piece is a stretch of a text, in bytes, and what it was taken for.
type Piece struct {
	From, To uint16
	As       Taken
}

// Tally lists the pieces of a text in its order.
type Tally []Piece

// Pieces lists what the pieces of a text were taken for, neighbours of one kind put together: "10 kΩ ±1 %" is a number,
// a unit and a tolerance.
func (t Tally) Pieces(text string) (out []Shown) {
	for _, p := range t {
		if n := len(out); n > 0 && out[n-1].As == p.As.String() && strings.TrimSpace(text[out[n-1].To:p.From]) == "" {
			out[n-1].To, out[n-1].Text = int(p.To), text[out[n-1].From:p.To]
			continue
		}
		out = append(out, Shown{From: int(p.From), To: int(p.To), Text: text[p.From:p.To], As: p.As.String()})
	}
	return out
}

// Shown is a piece with its text, for showing.
type Shown struct {
	From int    `json:"from" doc:"In bytes"`
	To   int    `json:"to"`
	Text string `json:"text"`
	As   string `json:"as" enum:"number,code,unit,sign,limit,range,tolerance,condition,remark,separator,the same again,axis"`
}

// maxPieces bounds how many pieces a value may have; a longer text is no value.
const maxPieces = 48

// took records that the reader has consumed s[from:p.i].
func (p *parser) took(from int, as Taken) {
	if from >= p.i {
		return
	}
	if p.as != 0 && as != AsSeparator {
		as = p.as
	}
	if p.n == maxPieces {
		p.fail("it has too many parts for one value")
		return
	}
	p.pieces[p.n] = Piece{uint16(from), uint16(p.i), as}
	p.n++
}

// place is a point of the text to go back to.
type place struct{ i, n int }

// peek is the next byte; 0 at the end of the text, where no mark, digit or letter stands.
func (p *parser) peek() byte {
	if p.i < len(p.s) {
		return p.s[p.i]
	}
	return 0
}

func (p *parser) here() place { return place{p.i, p.n} }

// back forgets what was consumed since a place.
func (p *parser) back(to place) { p.i, p.n = to.i, to.n }

// unaccounted finds the first stretch that no piece covers; from is -1 where all is accounted for. It is the last word
// on every reading: a reader that skips a character does not get past it.
func (p *parser) unaccounted() (from, to int) {
	at := 0
	for k := 0; k <= p.n; k++ {
		next := len(p.s)
		if k < p.n {
			next = int(p.pieces[k].From)
		}
		for i := at; i < next; i++ {
			if !blank(p.s[i]) {
				return i, next
			}
		}
		if k < p.n {
			if int(p.pieces[k].From) < at {
				return int(p.pieces[k].From), at // two pieces over the same characters
			}
			at = int(p.pieces[k].To)
		}
	}
	return -1, 0
}

// numberInRemark finds a number that was only kept in a remark.
func (p *parser) numberInRemark() (Piece, bool) {
	for _, piece := range p.pieces[:p.n] {
		if piece.As != AsRemark {
			continue
		}
		for i := piece.From; i < piece.To; i++ {
			if digit(p.s[i]) {
				return piece, true
			}
		}
	}
	return Piece{}, false
}

// tally gives the pieces to the caller, placed in the text as it was given.
func (p *parser) tally(into *Tally, lead int, at []uint16) {
	out := (*into)[:0]
	for _, piece := range p.pieces[:p.n] {
		if at != nil {
			piece.From, piece.To = at[piece.From], at[piece.To]
		}
		piece.From, piece.To = piece.From+uint16(lead), piece.To+uint16(lead)
		out = append(out, piece)
	}
	*into = out
}
