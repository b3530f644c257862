package model

import (
	"cmp"
	"fmt"
	"maps"
	"reflect"
	"slices"
	"strings"
)

// sameWithin is how far two drawings that are the same may lie apart: what is lost when lengths go through another unit of 0.1 mil or
// finer, twice, and far less than copper is etched.
const sameWithin = 5 * MM / 1000

// Same says whether a board made with one model is a board made with the other, piece by piece and within 5 µm. Of a land pattern all
// that becomes copper, hole, mask or paste counts, each pad's number, and the origin, since moving it moves copper; outlines, texts and
// the silkscreen do not. Of a symbol the pins count, on which unit each lies and where it connects, and its graphics but for texts.
// Bodies are the same by the file they came in, or by the block that stands in for one, and by how they sit; pin maps by their pairs.
func Same(a, b *Content) bool {
	switch {
	case a.Symbol != nil && b.Symbol != nil:
		d := nearSymbols(a.Symbol, b.Symbol)
		return d.Same
	case a.Land != nil && b.Land != nil:
		l, ok := lies(a.Land, b.Land, pose{}, sameWithin)
		return ok && len(l.differ) == 0
	case a.Body != nil && b.Body != nil:
		if a.FileHash != "" { // the file tells all but how it sits, whatever was read of it when it came
			return a.FileHash == b.FileHash && a.Body.Place == b.Body.Place
		}
		return b.FileHash == "" && reflect.DeepEqual(a.Body, b.Body)
	case a.PinMap != nil && b.PinMap != nil:
		x, y := *a, *b
		return reflect.DeepEqual(x.sortedMap(), y.sortedMap())
	}
	return false
}

// sortedMap is the pin map in order.
func (c Content) sortedMap() PinMap {
	m := PinMap{Pairs: slices.Clone(c.PinMap.Pairs), Free: slices.Clone(c.PinMap.Free), NoPad: slices.Clone(c.PinMap.NoPad)}
	for i := range m.Pairs {
		m.Pairs[i].Pads = slices.Clone(m.Pairs[i].Pads)
	}
	m.Sorted()
	return m
}

// Difference says how two drawings differ that may be one.
type Difference struct {
	Same bool `json:"same" doc:"A board made with one is a board made with the other"`
	Near bool `json:"near" doc:"The pads or pins are the same within the tolerance, whatever the place of the origin and the turn; What says what differs"`
	// Turn is how far the other one must be turned to lie on this one, Most the largest difference of a place or size then.
	Turn     Angle    `json:"turn"`
	Mirrored bool     `json:"mirrored"`
	Number   bool     `json:"numbers" doc:"The pads lie on each other, and carry other numbers"`
	Most     Length   `json:"most"`
	What     []string `json:"what" doc:"What differs, in words, the gravest first"`
}

// pose is how one land pattern must be laid to lie on another: mirrored, turned, then moved.
type pose struct {
	mirror bool
	turn   Angle
	by     Point
	// unnumbered: pads may lie on pads of other numbers.
	unnumbered bool
}

func (o pose) point(p Point) Point {
	if o.mirror {
		p.X = -p.X
	}
	return p.Turned(o.turn).Add(o.by)
}

// pad lays a pad.
func (o pose) pad(p Pad) Pad {
	p.At = o.point(p.At)
	if o.mirror {
		p = p.Mirrored()
	}
	p.Turn = (p.Turn + o.turn) % (360 * Degree)
	return p
}

// Mirrored is the pad as it is seen in a mirror that stands upright, at its own place.
func (p Pad) Mirrored() Pad {
	back := func(a Angle) Angle { return (360*Degree - a) % (360 * Degree) }
	f := p.Figure().Mirrored()
	p.Shape, p.Corners, p.Points, p.CutOuts = f.Shape, f.Corners, f.Points, f.CutOuts
	p.Turn, p.HoleTurn, p.HoleAt.X = back(p.Turn), back(p.HoleTurn)%(180*Degree), -p.HoleAt.X
	p.OtherCopper(Figure.Mirrored)
	p.Openings = slices.Clone(p.Openings)
	for i := range p.Openings {
		p.Openings[i].Figure = p.Openings[i].Mirrored()
	}
	return p
}

// Mirrored is the figure as it is seen in a mirror that stands upright at its pad's place.
func (f Figure) Mirrored() Figure {
	f.At.X, f.Turn = -f.At.X, (360*Degree-f.Turn)%(360*Degree)
	f.Corners = slices.Clone(f.Corners)
	for i, c := range f.Corners {
		if left, ok := strings.CutSuffix(c, "left"); ok {
			f.Corners[i] = left + "right"
		} else {
			f.Corners[i] = strings.TrimSuffix(c, "right") + "left"
		}
	}
	f.Points = slices.Clone(f.Points)
	for i := range f.Points {
		f.Points[i].X = -f.Points[i].X
	}
	return f.cutAlike(Figure.Mirrored)
}

// padDiffers says in which of its facts one pad differs from another that lies on it, by name, and how far the copper lies apart where it
// is of one shape and within the tolerance. All else may differ by as much and what two that are the same may.
func padDiffers(a, b Pad, tolerance Length) (facts []string, apart Length) {
	if a.plain() && b.plain() && a.Shape == b.Shape && a.Turn == b.Turn && a.Bottom == b.Bottom && a.Mask == b.Mask && a.Paste == b.Paste && a.Hole == 0 && b.Hole == 0 {
		if apart = max(abs(a.Width-b.Width), abs(a.Height-b.Height), abs(a.Corner-b.Corner)); apart <= tolerance {
			return nil, apart
		}
	}
	say := func(is bool, what string) {
		if is {
			facts = append(facts, what)
		}
	}
	off := func(f, g Figure) (Length, bool) {
		f.At, f.Turn = f.At.Turned(a.Turn), (f.Turn+a.Turn)%(360*Degree)
		g.At, g.Turn = g.At.Turned(b.Turn), (g.Turn+b.Turn)%(360*Degree)
		return f.Off(g)
	}
	say(a.Bottom != b.Bottom, "the side")
	apart, ok := off(a.Figure(), b.Figure())
	if !ok || apart > tolerance {
		say(true, "the copper")
		apart = 0
	}
	most := apart + sameWithin
	another := func(f, g Figure) bool { d, ok := off(f, g); return !ok || d > most }
	say((a.Hole > 0) != (b.Hole > 0), "a hole")
	if a.Hole > 0 && b.Hole > 0 {
		hole := func(p Pad) Figure {
			return Figure{Shape: PadOblong, At: p.HoleAt, Turn: p.HoleTurn, Width: p.Hole + p.Slot, Height: p.Hole}
		}
		say(a.Unplated != b.Unplated, "the plating")
		d, ok := off(hole(a), hole(b))
		say(!ok || d > sameWithin, "the hole")
		say((a.Below != nil || b.Below != nil) && another(a.copper(a.Below), b.copper(b.Below)), "the copper on the bottom")
		say((a.Inner != nil || b.Inner != nil) && another(a.copper(a.Inner), b.copper(b.Inner)), "the copper on inner layers")
	}
	for of, what := range map[string]string{OfMask: "the solder mask", OfPaste: "the paste"} {
		x, y := a.Opened(of), b.Opened(of)
		taken := make([]bool, len(y))
		for _, o := range x {
			for i, q := range y {
				if !taken[i] && o.Bottom == q.Bottom && !another(o.Figure, q.Figure) {
					taken[i] = true
					break
				}
			}
		}
		say(len(x) != len(y) || slices.Contains(taken, false), what)
	}
	return facts, apart
}

// plain says that a pad has nothing but a size and a place.
func (p Pad) plain() bool {
	return p.Shape != PadPolygon && len(p.Corners) == 0 && len(p.CutOuts) == 0 && len(p.Openings) == 0 && p.WithMask == nil && p.WithPaste == nil
}

// laid is what came of laying one land pattern on another.
type laid struct {
	most   Length
	differ map[string][]string // by fact, the pads that differ in it
	apart  []string            // pads whose place or copper lies apart by more than they should
	other  map[string]string   // numbers that lie on others
}

// lies lays b on a; false where a pad of one has none of the other at its place and of its size, both within the tolerance. In what
// else they differ is in the answer.
func lies(a, b *LandPattern, o pose, tolerance Length) (out laid, ok bool) {
	if len(a.Pads) != len(b.Pads) || len(a.Pads) == 0 {
		return out, false
	}
	key := func(p Pad) string {
		if o.unnumbered {
			return ""
		}
		return p.Number
	}
	// Most that are not the same differ in the first pad already.
	if first := a.Pads[0]; !slices.ContainsFunc(b.Pads, func(p Pad) bool { return key(p) == key(first) && apart(o.point(p.At), first.At) <= tolerance }) {
		return out, false
	}
	out.differ, out.other = map[string][]string{}, map[string]string{}
	index := make(map[string][]int, len(b.Pads))
	there := make([]Pad, len(b.Pads))
	for i, p := range b.Pads {
		there[i] = o.pad(p)
		index[key(p)] = append(index[key(p)], i)
	}
	for _, l := range index {
		slices.SortFunc(l, func(i, j int) int { return cmp.Compare(there[i].At.X, there[j].At.X) })
	}
	taken := make([]bool, len(there))
	for _, p := range a.Pads {
		list := index[key(p)]
		from, _ := slices.BinarySearchFunc(list, p.At.X-tolerance, func(i int, x Length) int { return cmp.Compare(there[i].At.X, x) })
		which, fewest, best := -1, 0, Length(0)
		var facts []string
		for _, i := range list[from:] {
			q := there[i]
			if q.At.X > p.At.X+tolerance {
				break
			}
			if taken[i] || abs(q.At.Y-p.At.Y) > tolerance || !alikeInSize(p, q, tolerance) {
				continue
			}
			differs, most := padDiffers(p, q, tolerance)
			most = max(most, abs(p.At.X-q.At.X), abs(p.At.Y-q.At.Y))
			if which < 0 || len(differs) < fewest || len(differs) == fewest && most < best {
				which, fewest, best, facts = i, len(differs), most, differs
			}
		}
		if which < 0 {
			return out, false
		}
		taken[which] = true
		out.most = max(out.most, best)
		for _, f := range facts {
			out.differ[f] = append(out.differ[f], name(p))
		}
		if best > sameWithin {
			out.apart = append(out.apart, name(p))
		}
		if q := there[which]; q.Number != p.Number {
			out.other[name(p)] = name(q)
		}
	}
	return out, true
}

// alikeInSize says whether two pads are as wide and high as each other, as they lie.
func alikeInSize(p, q Pad, tolerance Length) bool {
	size := func(p Pad) (w, h Length) {
		if f := p.Figure(); f.Shape != PadPolygon && p.Turn%(90*Degree) == 0 {
			if p.Turn%(180*Degree) != 0 {
				return f.Height, f.Width
			}
			return f.Width, f.Height
		}
		var b Box
		for _, c := range p.corners() {
			b.Take(c)
		}
		return b.Width(), b.Height()
	}
	pw, ph := size(p)
	qw, qh := size(q)
	return abs(pw-qw) <= tolerance && abs(ph-qh) <= tolerance
}

// grave is how much of one drawing is otherwise in the other.
func (l laid) grave() int {
	n := len(l.apart)
	for _, pads := range l.differ {
		n += 1000 * len(pads)
	}
	return n
}

// Near compares two land patterns whatever their origin, turn and side: near if each pad of one has a pad of the other within tolerance.
// It says in words all that differs.
func Near(a, b *LandPattern, tolerance Length) (d Difference) {
	if len(a.Pads) != len(b.Pads) {
		return d
	}
	places := func(l *LandPattern) (c Box) {
		for i := range l.Pads {
			c.Take(l.Pads[i].At)
		}
		return c
	}
	here, lying := places(a), places(b)
	var best laid
	var how pose
	found := false
	for _, unnumbered := range []bool{false, true} {
		for _, mirror := range []bool{false, true} {
			for q := range 4 {
				o := pose{mirror: mirror, turn: Angle(q) * 90 * Degree, unnumbered: unnumbered}
				var there Box
				there.Take(o.point(lying.Min))
				there.Take(o.point(lying.Max))
				if abs(here.Width()-there.Width()) > 2*tolerance || abs(here.Height()-there.Height()) > 2*tolerance {
					continue
				}
				ca, cb := here.Centre(), there.Centre()
				ways := []Point{{ca.X - cb.X, ca.Y - cb.Y}}
				if apart(ways[0], Point{}) <= tolerance { // one origin, and some copper a little aside, or the whole of it
					ways = []Point{{}, ways[0]}
				}
				for _, by := range ways {
					o.by = by
					if l, ok := lies(a, b, o, tolerance); ok && (!found || l.grave() < best.grave()) {
						best, how, found = l, o, true
					}
				}
				if found && !mirror && q == 0 {
					break // it lies as it is: no other way is asked for
				}
			}
			if found {
				break
			}
		}
		if found {
			break
		}
	}
	if !found {
		return d
	}
	d.Near, d.Turn, d.Mirrored, d.Number, d.Most = true, how.turn, how.mirror, how.unnumbered && len(best.other) > 0, best.most
	d.What = best.words(how)
	d.Same = len(d.What) == 0
	return d
}

func (l laid) words(o pose) (out []string) {
	if o.mirror {
		out = append(out, "it is mirrored")
	}
	if o.turn != 0 {
		out = append(out, fmt.Sprintf("it is turned by %s°", o.turn))
	}
	if abs(o.by.X) > sameWithin || abs(o.by.Y) > sameWithin {
		out = append(out, fmt.Sprintf("its origin lies %s, %s mm beside", o.by.X.fine(), o.by.Y.fine()))
	}
	if len(l.other) > 0 {
		var pairs []string
		for _, n := range slices.SortedFunc(maps.Keys(l.other), byCount) {
			pairs = append(pairs, n+" lies on "+l.other[n])
		}
		out = append(out, "its pads have other numbers: "+list(pairs))
	}
	for _, fact := range slices.Sorted(maps.Keys(l.differ)) {
		out = append(out, fmt.Sprintf("%s of %s is another", fact, padsNamed(l.differ[fact])))
	}
	if len(l.apart) > 0 {
		out = append(out, fmt.Sprintf("%s up to %s mm apart or of another size", padsNamed(l.apart), l.most.fine()))
	}
	return out
}

func byCount(a, b string) int {
	switch {
	case Before(a, b):
		return -1
	case a == b:
		return 0
	}
	return 1
}

func padsNamed(all []string) string {
	all = slices.Clone(all)
	slices.SortFunc(all, byCount)
	if len(all) == 1 {
		return "pad " + all[0]
	}
	return "the pads " + list(all)
}

// fine shows l to the micrometre.
func (l Length) fine() string {
	return (Length(divRound(int64(l), int64(MM/1000))) * (MM / 1000)).String()
}
