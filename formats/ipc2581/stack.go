package ipc2581

import (
	"strings"

	"jollydrawer/core/model"
)

// The sides of a layer.
const (
	top = iota
	bottom
	inner
	unsaid
)

// layer is what a layer is for.
type layer struct {
	of   string // "copper", model.OfMask, model.OfPaste, or another function in its own word
	side int
}

var functions = map[string]string{"SIGNAL": "copper", "CONDUCTOR": "copper", "CONDFILM": "copper", "CONDFOIL": "copper", "PLANE": "copper", "MIXED": "copper",
	"SOLDERMASK": model.OfMask, "SOLDERPASTE": model.OfPaste}

// layerOf finds what a layer is for: as the file declares it, or else by its name, which is said.
func (s *scope) layerOf(e *element, ref string) layer {
	if l, ok := s.layers[ref]; ok {
		return l
	}
	name := strings.ToUpper(ref)
	l := layer{of: "copper", side: inner}
	switch {
	case strings.Contains(name, "PASTE"):
		l.of = model.OfPaste
	case strings.Contains(name, "MASK"):
		l.of = model.OfMask
	}
	words := strings.FieldsFunc(name, func(r rune) bool { return (r < 'A' || r > 'Z') && (r < '0' || r > '9') })
	for _, w := range words {
		switch w {
		case "TOP", "FRONT":
			l.side = top
		case "BOTTOM", "BOT", "BACK":
			l.side = bottom
		}
	}
	if l.side == inner {
		s.fail(e, "the layer %q is not declared in the file, and its name does not tell what it is", clip(ref))
		return l
	}
	s.say(e, "the layer %q is not declared in the file; by its name it was taken for %s on the %s", clip(ref), l.of, map[int]string{top: "top", bottom: "bottom"}[l.side])
	return l
}

// move is where something is put: scaled, mirrored, turned and moved.
type move struct {
	scale  float64
	mirror bool
	turn   model.Angle
	by     model.Point // of the Xform
	at     model.Point // of the Location
}

// moveOf reads the Xform and the Location of e.
func (s *scope) moveOf(e *element) move {
	m := move{scale: 1}
	if at := e.child("Location"); at != nil {
		m.at = s.point(at)
	}
	x := e.child("Xform")
	if x == nil {
		return m
	}
	m.by = model.Point{X: s.length(x, "xOffset"), Y: s.length(x, "yOffset")}
	m.turn = s.angle(x, "rotation")
	m.mirror, _ = s.flag(x, "mirror")
	if t := x.attr("scale"); t != "" {
		l, err := model.ParseLength(t)
		if err != nil || l <= 0 {
			s.fail(x, "the scale %q is no number above zero", clip(t))
			l = model.MM
		}
		m.scale = float64(l) / float64(model.MM)
	}
	return m
}

// several says whether the order in which the parts of m are done could matter.
func (m move) several() bool {
	n := 0
	for _, is := range []bool{m.by != model.Point{}, m.turn != 0, m.mirror, m.scale != 1} {
		if is {
			n++
		}
	}
	return n > 1
}

// figure puts a figure about the place of its pad: first as the offset is done last, then as it is done first.
func (m move) figure(f model.Figure, offsetFirst bool) model.Figure {
	shift := func() { f.At = f.At.Add(m.by) }
	if offsetFirst {
		shift()
		f = f.Turned(m.turn)
		if m.mirror {
			f = f.Mirrored()
		}
		if m.scale != 1 {
			f = f.Scaled(m.scale)
		}
	} else {
		if m.scale != 1 {
			f = f.Scaled(m.scale)
		}
		if m.mirror {
			f = f.Mirrored()
		}
		f = f.Turned(m.turn)
		shift()
	}
	f.At = f.At.Add(m.at)
	return f
}

// inAnotherOrder is why an Xform is refused: readers do its parts in different orders.
const inAnotherOrder = "its Xform does several things at once (of offset, turn, mirror and scale), which give other copper in another order: say one of them in the shape or in the Location"

// put puts a figure where m says. Where readers that do its parts in another order would get other copper, it is an error.
func (s *scope) put(e *element, m move, f model.Figure) model.Figure {
	out := m.figure(f, false)
	if m.several() {
		if off, ok := out.Off(m.figure(f, true)); !ok || off > exact {
			s.fail(e, inAnotherOrder)
		}
	}
	return out
}

// land is a figure of a pad stack on one layer.
type land struct {
	layer
	model.Figure
	line int
}

// hole is the hole of a pad stack.
type hole struct {
	model.Figure // round, or oblong for a slot
	plated       bool
}

// stack is a pad stack as it stands in the file.
type stack struct {
	lands []land
	hole  *hole
	err   error
	said  []string
	twice bool
	key   string
}

// stackOf reads a PadStackDef (IPC-2581 clause 8.2.3.12).
func (f *file) stackOf(e *element) *stack {
	s := f.scope()
	st := &stack{}
	e.attr("name")
	e.all("PadstackHoleDef", func(h *element) {
		d := s.must(h, "diameter")
		if d <= 0 {
			s.fail(h, "a hole of %s mm is none", d)
		}
		at := model.Point{}
		if _, placed := h.lookup("x"); placed || h.attr("y") != "" {
			at = s.point(h)
		}
		s.hole(h, st, model.Figure{Shape: model.PadRound, At: at, Width: d, Height: d})
	})
	e.all("SlotCavity", func(h *element) {
		g, ok := s.figure(h)
		if !ok {
			s.fail(h, "a slot without a shape")
		}
		s.hole(h, st, s.put(h, s.moveOf(h), g))
	})
	e.all("PadstackPadDef", func(p *element) {
		use, said := p.lookup("padUse")
		if !said {
			s.say(p, "what the shape is for is not said; it was taken for that of the pad")
		}
		if use != "" && use != "REGULAR" {
			p.quiet()
			s.say(p, "what the stack is as %s, for planes of a board, was passed over", clip(use))
			return
		}
		ref := p.attr("layerRef")
		l := s.layerOf(p, ref)
		opening := l.of == model.OfMask || l.of == model.OfPaste
		if (l.of == "copper" || opening) && l.side == unsaid || opening && l.side == inner {
			s.fail(p, "the file does not say on which side of the board the layer %q is", clip(ref))
		}
		g, ok := s.figure(p)
		if !ok {
			s.fail(p, "the stack has no shape on the layer %q", clip(ref))
			return
		}
		st.lands = append(st.lands, land{l, s.put(p, s.moveOf(p), g), p.line})
	})
	if left := e.unread(); s.err == nil && len(left) > 0 {
		s.fail(e, "the pad stack says what is not read here: %s", strings.Join(left, "; "))
	}
	st.err, st.said = s.err, s.said
	return st
}

func (s *scope) hole(e *element, st *stack, f model.Figure) {
	h := &hole{Figure: f}
	switch p := e.attr("platingStatus"); p {
	case "PLATED", "VIA":
		h.plated = true
	case "NONPLATED":
	default:
		s.fail(e, "the plating of the hole is %q; it can be PLATED, NONPLATED or VIA", clip(p))
	}
	for _, tolerance := range []string{"plusTol", "minusTol"} {
		if t := s.length(e, tolerance); t != 0 {
			s.say(e, "the tolerance of the hole, %s %s mm, was not kept", tolerance, t)
		}
	}
	switch {
	case len(h.CutOuts) > 0:
		s.fail(e, "a hole with a cut-out is not read here")
	case h.Shape == model.PadRound, h.Shape == model.PadOblong:
	default:
		s.fail(e, "a hole that is %s is not read here: it can be round or a slot with round ends", h.Shape)
	}
	if st.hole != nil {
		s.fail(e, "the stack has two holes")
	}
	st.hole = h
}

// pad makes the pad that a stack is.
func (s *scope) pad(e *element, st *stack) (p model.Pad, ok bool) {
	by := map[layer][]land{}
	for _, l := range st.lands {
		by[l.layer] = append(by[l.layer], l)
		if l.of != "copper" && l.of != model.OfMask && l.of != model.OfPaste {
			s.said = append(s.said, "line "+itoa(l.line)+": what the stack is on a layer of "+l.of+" was not kept")
		}
	}
	for _, side := range []int{top, bottom, inner} {
		if n := len(by[layer{"copper", side}]); n > 1 && side != inner {
			s.fail(e, "the stack has %d shapes of copper on one side", n)
			return p, false
		}
	}
	up, down := by[layer{"copper", top}], by[layer{"copper", bottom}]
	switch {
	case st.hole == nil && len(up)+len(down) == 0:
		s.fail(e, "the stack has no copper: an opening of mask or paste alone is not a pad here")
		return p, false
	case st.hole == nil && len(up)+len(down) == 2:
		s.fail(e, "the stack has copper on both sides and no hole")
		return p, false
	case st.hole == nil:
		p = append(up, down...)[0].Pad()
		p.Bottom = len(down) > 0
	case len(up)+len(down) == 1:
		s.fail(e, "the stack has a hole, and copper on one side of it only")
		return p, false
	case len(up)+len(down) == 0 && st.hole.plated:
		s.fail(e, "the stack has a plated hole and no copper")
		return p, false
	default:
		s.through(&p, st.hole, up, down)
	}
	s.within(e, &p, by[layer{"copper", inner}])
	s.openings(e, &p, by, model.OfMask)
	s.openings(e, &p, by, model.OfPaste)
	return p, true
}

// within reads the copper of inner layers, which is one figure on all of them.
func (s *scope) within(e *element, p *model.Pad, lands []land) {
	if len(lands) == 0 {
		return
	}
	if p.Hole == 0 {
		s.fail(e, "the stack has copper on an inner layer and no hole (line %d)", lands[0].line)
		return
	}
	apart := func(f, g model.Figure) bool { off, same := f.Off(g); return !same || off > exact }
	first := placed(p, lands[0].Figure)
	for _, l := range lands[1:] {
		if apart(first, placed(p, l.Figure)) {
			s.fail(e, "the stack has other copper on one inner layer than on another (line %d), which a land pattern does not hold here", l.line)
			return
		}
	}
	if apart(first, p.Figure()) {
		p.Inner = &first
	}
}

// placed is a figure of a stack about the place of its pad, which may have been moved to the middle of its copper.
func placed(p *model.Pad, f model.Figure) model.Figure {
	f.At = model.Point{X: f.At.X - p.At.X, Y: f.At.Y - p.At.Y}
	return f.Turned((360*model.Degree - p.Turn) % (360 * model.Degree))
}

func (s *scope) through(p *model.Pad, h *hole, up, down []land) {
	f := h.Figure
	if len(up) > 0 {
		f = up[0].Figure
	}
	*p = f.Pad()
	at := placed(p, h.Figure)
	p.Hole, p.Slot, p.HoleAt, p.Unplated = min(at.Width, at.Height), max(at.Width, at.Height)-min(at.Width, at.Height), at.At, !h.plated
	if p.Slot > 0 {
		p.HoleTurn = at.Turn
		if at.Height > at.Width {
			p.HoleTurn = (p.HoleTurn + 90*model.Degree) % (360 * model.Degree)
		}
		p.HoleTurn %= 180 * model.Degree
	}
	if len(down) > 0 {
		b := placed(p, down[0].Figure)
		if off, same := b.Off(p.Figure()); !same || off > exact {
			p.Below = &b
		}
	}
}

// openings reads the openings of mask or paste: the copper grown alike, or such as they are.
func (s *scope) openings(e *element, p *model.Pad, by map[layer][]land, of string) {
	var all []model.Opening
	for _, side := range []int{top, bottom} {
		for _, l := range by[layer{of, side}] {
			if p.Hole == 0 && (side == bottom) != p.Bottom {
				s.fail(e, "the stack has an opening of the %s on the side on which it has no copper (line %d)", of, l.line)
				return
			}
			all = append(all, model.Opening{Of: of, Bottom: side == bottom, Figure: placed(p, l.Figure)})
		}
	}
	with, by0, alike := s.alike(p, all)
	no := false
	switch {
	case len(all) == 0 && !s.speaks[of]:
		s.once[of] = true // said for the whole package
		return
	case len(all) == 0 && of == model.OfPaste && p.Hole > 0: // as usual
		return
	case len(all) == 0:
		with = &no
	case !alike:
		p.Openings = append(p.Openings, all...)
		return
	}
	if of == model.OfMask {
		p.WithMask, p.Mask = with, by0
	} else {
		p.WithPaste, p.Paste = with, by0
	}
}

// alike says whether openings are the pad's copper grown alike on each of its sides, and by how much.
func (s *scope) alike(p *model.Pad, all []model.Opening) (with *bool, by model.Length, ok bool) {
	sides := 1
	if p.Hole > 0 {
		sides = 2
	}
	if len(all) != sides || sides == 2 && all[0].Bottom == all[1].Bottom {
		return nil, 0, false
	}
	for i, o := range all {
		f := p.Figure()
		if o.Bottom && p.Below != nil {
			f = *p.Below
		}
		g := (o.Width - f.Width) / 2
		if f.Turn == 90*model.Degree || o.Turn%(180*model.Degree) != 0 && f.Turn == 0 && f.Shape != model.PadRound {
			g = (o.Height - f.Width) / 2
		}
		if i > 0 {
			if d := g - by; d > exact || d < -exact {
				return nil, 0, false
			}
			g = by
		}
		grown, can := f.Grown(g)
		if !can {
			return nil, 0, false
		}
		if off, same := grown.Off(o.Figure); !same || off > exact {
			return nil, 0, false
		}
		by = g
	}
	yes := true
	return &yes, by, true
}
