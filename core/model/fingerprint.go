package model

import (
	"crypto/sha256"
	"encoding/binary"
	"encoding/hex"
	"slices"
	"strconv"
	"strings"
)

// Fingerprint is what two models that are the same have in common whatever unit their lengths went through: of a symbol its pins with
// unit, number, name and type, of a land pattern its pads with number, side, hole and plating, of both how many there are. It finds
// candidates; [Same] decides.
type Fingerprint [16]byte

// String returns f as hexadecimal text.
func (f Fingerprint) String() string { return hex.EncodeToString(f[:]) }

// record collects what a fingerprint covers: each piece as its own bytes, put in order at the end.
type record struct{ pieces []string }

func (r *record) piece(words ...string) { r.pieces = append(r.pieces, strings.Join(words, "\x00")) }

// flags are facts in one word.
func flags(facts ...bool) string {
	b := [8]byte{}
	for i, f := range facts {
		if b[i] = '-'; f {
			b[i] = '+'
		}
	}
	return string(b[:len(facts)])
}

func (r *record) sum() (f Fingerprint) {
	slices.Sort(r.pieces)
	h := sha256.New()
	var n [4]byte
	for _, p := range r.pieces {
		binary.BigEndian.PutUint32(n[:], uint32(len(p)))
		h.Write(n[:])
		h.Write([]byte(p))
	}
	copy(f[:], h.Sum(nil))
	return f
}

// Fingerprint of the drawing in c; false where there is none that could be told from others, as of a body (whose file's
// hash tells) or a pin map.
func (c *Content) Fingerprint() (Fingerprint, bool) {
	switch {
	case c.Symbol != nil:
		return c.Symbol.Fingerprint(), true
	case c.Land != nil:
		return c.Land.Fingerprint(), true
	}
	return Fingerprint{}, false
}

// Fingerprint of a symbol.
func (s *Symbol) Fingerprint() Fingerprint {
	var r record
	units := max(len(s.Units), 1)
	r.piece("symbol", strconv.Itoa(units))
	for _, p := range s.Pins {
		r.piece(strconv.Itoa(s.unitOf(p)), p.Number, p.Label(), p.Type, flags(p.Hidden))
	}
	return r.sum()
}

// unitOf is the unit that a pin lies on, counted from 1.
func (s *Symbol) unitOf(p Pin) int {
	if len(s.Units) < 2 {
		return 1
	}
	return p.Unit
}

// Fingerprint of a land pattern.
func (l *LandPattern) Fingerprint() Fingerprint {
	var r record
	r.piece("land pattern")
	for _, p := range l.Pads {
		r.piece(p.Number, flags(p.Bottom, p.Hole > 0, p.Unplated))
	}
	return r.sum()
}

// outline is what near twins share: the numbers of their pads, and nearly the sides of the box of their centres, the longer
// one first. It finds candidates; [Near] decides.
func (l *LandPattern) outline() (numbers string, long, short Length) {
	var c Box
	all := make([]string, len(l.Pads))
	for i, p := range l.Pads {
		c.Take(p.At)
		all[i] = p.Number
	}
	slices.Sort(all)
	return strings.Join(all, "\x00"), max(c.Width(), c.Height()), min(c.Width(), c.Height())
}
