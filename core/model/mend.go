package model

import (
	"fmt"
	"slices"
)

// Mend settles one cause in a copy of c, and leaves all else as it was.
func Mend(c *Content, cause string, h House) (Content, error) {
	out := *c
	switch {
	case c.Symbol != nil:
		s := *c.Symbol
		s.Pins, s.Shapes = slices.Clone(s.Pins), slices.Clone(s.Shapes)
		out.Symbol = &s
		switch cause {
		case CauseGrid:
			s.ontoGrid(h.Grid)
		case CausePinLength:
			for i := range s.Pins {
				s.Pins[i].Length = h.PinLength
			}
		case CauseTextSize:
			resize(s.Shapes, h.TextSize)
		case CauseDesignator:
			b := s.Bounds(1)
			s.Shapes = append(s.Shapes, designator(b, h.TextSize))
		case CauseProperties:
			s.Properties = nil
		default:
			return out, fmt.Errorf("%q is no cause that can be mended on a symbol", clip(cause))
		}
		return out, nil
	case c.Land != nil:
		l := *c.Land
		l.Pads, l.Shapes, l.Bodies = slices.Clone(l.Pads), slices.Clone(l.Shapes), slices.Clone(l.Bodies)
		out.Land = &l
		switch cause {
		case CauseTextSize:
			resize(l.Shapes, h.LandText)
		case CauseDesignator:
			g := designator(l.Bounds(), h.LandText)
			g.Purpose = Silkscreen
			l.Shapes = append(l.Shapes, g)
		case CauseOrigin:
			if to, off := l.originOff(h); off {
				l.shift(Point{-to.X, -to.Y})
			}
		case CauseCourtyard, CauseTight:
			l.drawCourtyard(h.Courtyard)
		case CauseSilk:
			for i := range l.Shapes {
				if g := &l.Shapes[i]; g.Purpose == Silkscreen && g.Form != Text {
					g.Width = max(g.Width, h.Silkscreen)
				}
			}
		default:
			return out, fmt.Errorf("%q is no cause that can be mended on a land pattern", clip(cause))
		}
		return out, nil
	}
	return out, fmt.Errorf("%q is no cause that can be mended on a %s", clip(cause), c.Kind)
}

// ontoGrid moves each pin to the nearest free point of the grid; the inner end stays with the body's edge as far as it can.
func (s *Symbol) ontoGrid(grid Length) {
	if grid <= 0 {
		return
	}
	snap := func(l Length) Length { return Length(divRound(int64(l), int64(grid))) * grid }
	for i := range s.Pins {
		p := &s.Pins[i]
		inner := p.Inner()
		p.At = Point{snap(p.At.X), snap(p.At.Y)}
		d := runs[p.Runs]
		if along := (inner.X-p.At.X)*d.X + (inner.Y-p.At.Y)*d.Y; along > 0 {
			p.Length = along
		}
	}
}

func resize(all []Shape, size Length) {
	for i := range all {
		if all[i].Form == Text {
			all[i].Size = size
		}
	}
}

func designator(b Box, size Length) Shape {
	if size == 0 {
		size = MM
	}
	return Shape{Form: Text, Text: Designator, Size: size, Points: []Point{{b.Centre().X, b.Max.Y + size}}}
}

// shift moves everything, bodies included.
func (l *LandPattern) shift(by Point) {
	for i := range l.Pads {
		l.Pads[i].At = l.Pads[i].At.Add(by)
	}
	for i := range l.Shapes {
		l.Shapes[i] = l.Shapes[i].moved(by)
	}
	for i := range l.Bodies {
		at := &l.Bodies[i].Place.At
		at.X, at.Y = at.X+by.X, at.Y+by.Y
	}
}

// drawCourtyard replaces the courtyard by a rectangle that reaches beyond copper and outlines, on a grid of 0.05 mm
// outwards (IPC-7351B clause 3.1.5 rounds courtyards up).
func (l *LandPattern) drawCourtyard(beyond Length) {
	kept := l.Shapes[:0:0]
	b := l.PadBounds()
	for _, g := range l.Shapes {
		if g.Purpose == Courtyard {
			continue
		}
		if g.Form != Text && g.Purpose == Assembly {
			b.TakeBox(g.Bounds())
		}
		kept = append(kept, g)
	}
	const step = MM / 20
	out := func(v Length) Length { return Length((int64(v) + int64(step) - 1) / int64(step) * int64(step)) }
	lo := Point{-out(-b.Min.X + beyond), -out(-b.Min.Y + beyond)}
	hi := Point{out(b.Max.X + beyond), out(b.Max.Y + beyond)}
	l.Shapes = append(kept, Shape{Form: Rectangle, Purpose: Courtyard, Points: []Point{lo, hi}, Width: MM / 20})
}
