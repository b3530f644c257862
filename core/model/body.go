package model

import (
	"fmt"
	"math"
)

// Body is the 3D model of a part: what is known of its STEP file, or a plain block that stands in for one.
type Body struct {
	// StandIn: a plain block of this size, because there is no file yet.
	StandIn bool `json:"standIn,omitempty"`
	// Box is the bounding box in the file's own coordinates, in millimetres.
	Box Box3 `json:"box"`
	// Unit is the unit of length the file states: "mm", "inch".
	Unit  string    `json:"unit,omitempty"`
	Place Placement `json:"place,omitzero"`
	// Feet are the level faces on which the body stands, and Mark the one round place near its top that lies off its middle, as a dimple beside pin 1 does; both
	// in the file's own coordinates. A file may tell neither.
	Feet []Foot `json:"feet,omitempty"`
	Mark *Point `json:"mark,omitempty"`
}

// MostFeet is how many feet of a body are kept.
const MostFeet = 1000

// Foot is the upright box around one level face on which a body stands.
type Foot struct {
	Min Point `json:"min"`
	Max Point `json:"max"`
}

// Point3 is a place in space; Z runs up from the board's surface.
type Point3 struct {
	X Length `json:"x"`
	Y Length `json:"y"`
	Z Length `json:"z"`
}

// Box3 is an upright box in space.
type Box3 struct {
	Min Point3 `json:"min"`
	Max Point3 `json:"max"`
}

// Size returns the three sides of the box.
func (b Box3) Size() Point3 { return Point3{b.Max.X - b.Min.X, b.Max.Y - b.Min.Y, b.Max.Z - b.Min.Z} }

// Placement is how a body sits on its land pattern: scaled, then turned about X, Y and Z in that order, then moved.
type Placement struct {
	At    Point3 `json:"at,omitzero"`
	TurnX Angle  `json:"turnX,omitzero"`
	TurnY Angle  `json:"turnY,omitzero"`
	TurnZ Angle  `json:"turnZ,omitzero"`
	// Scale in millionths; 0 means 1. 25400000 mends a body drawn in inch whose file says millimetres.
	Scale int64 `json:"scale,omitempty"`
}

// Check says why p cannot be.
func (p Placement) Check() error {
	if p.Scale < 0 || p.Scale > 1_000_000_000 {
		return fmt.Errorf("the scale of %d millionths is not between 1 and 1,000,000,000", p.Scale)
	}
	for _, l := range []Length{p.At.X, p.At.Y, p.At.Z} {
		if l > Farthest || l < -Farthest {
			return fmt.Errorf("the body is placed farther than %s mm away", Farthest)
		}
	}
	return nil
}

// Check says why b cannot be kept.
func (b *Body) Check() error {
	s := b.Box.Size()
	if s.X < 0 || s.Y < 0 || s.Z < 0 {
		return fmt.Errorf("the body's box ends before it begins")
	}
	if b.StandIn && (s.X == 0 || s.Y == 0 || s.Z == 0) {
		return fmt.Errorf("a block that stands in needs a length, a width and a height above zero")
	}
	for _, l := range []Length{b.Box.Min.X, b.Box.Min.Y, b.Box.Min.Z, b.Box.Max.X, b.Box.Max.Y, b.Box.Max.Z} {
		if l > Farthest || l < -Farthest {
			return fmt.Errorf("the body reaches farther than %s mm from its origin", Farthest)
		}
	}
	if len(b.Feet) > MostFeet {
		return fmt.Errorf("the body stands on %d faces; at most %d are kept", len(b.Feet), MostFeet)
	}
	for _, f := range b.Feet {
		if f.Max.X < f.Min.X || f.Max.Y < f.Min.Y || !b.Box.over(f.Min) || !b.Box.over(f.Max) {
			return fmt.Errorf("a foot of the body lies outside its box")
		}
	}
	if b.Mark != nil && !b.Box.over(*b.Mark) {
		return fmt.Errorf("the mark on the body lies outside its box")
	}
	return b.Place.Check()
}

// over says whether a point of the board's plane lies within the box as it is seen from above.
func (b Box3) over(p Point) bool {
	return p.X >= b.Min.X && p.X <= b.Max.X && p.Y >= b.Min.Y && p.Y <= b.Max.Y
}

// Placed returns the box after the placement: the box around the turned box, which for quarter turns is exact.
func (b Box3) Placed(p Placement) Box3 {
	var out Box3
	first := true
	for i := range 8 {
		c := b.Min
		if i&1 != 0 {
			c.X = b.Max.X
		}
		if i&2 != 0 {
			c.Y = b.Max.Y
		}
		if i&4 != 0 {
			c.Z = b.Max.Z
		}
		c = p.apply(c)
		if first {
			out, first = Box3{c, c}, false
			continue
		}
		out.Min = Point3{min(out.Min.X, c.X), min(out.Min.Y, c.Y), min(out.Min.Z, c.Z)}
		out.Max = Point3{max(out.Max.X, c.X), max(out.Max.Y, c.Y), max(out.Max.Z, c.Z)}
	}
	return out
}

func (p Placement) apply(c Point3) Point3 {
	if p.Scale != 0 && p.Scale != 1_000_000 {
		f := func(l Length) Length { return Length(math.Round(float64(l) * float64(p.Scale) / 1e6)) }
		c = Point3{f(c.X), f(c.Y), f(c.Z)}
	}
	yz := Point{c.Y, c.Z}.Turned(p.TurnX)
	c.Y, c.Z = yz.X, yz.Y
	zx := Point{c.Z, c.X}.Turned(p.TurnY)
	c.Z, c.X = zx.X, zx.Y
	xy := Point{c.X, c.Y}.Turned(p.TurnZ)
	c.X, c.Y = xy.X, xy.Y
	return Point3{c.X + p.At.X, c.Y + p.At.Y, c.Z + p.At.Z}
}

// PlaceOn returns how a body of this name sits on l: as the land pattern says, else as the body's own document says.
func (b *Body) PlaceOn(l *LandPattern, name string) Placement {
	if l != nil {
		for _, p := range l.Bodies {
			if p.Body == name {
				return p.Place
			}
		}
	}
	return b.Place
}
