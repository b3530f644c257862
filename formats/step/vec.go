package step

import "math"

type vec [3]float64

func (a vec) plus(b vec) vec      { return vec{a[0] + b[0], a[1] + b[1], a[2] + b[2]} }
func (a vec) minus(b vec) vec     { return vec{a[0] - b[0], a[1] - b[1], a[2] - b[2]} }
func (a vec) times(f float64) vec { return vec{a[0] * f, a[1] * f, a[2] * f} }
func (a vec) dot(b vec) float64   { return a[0]*b[0] + a[1]*b[1] + a[2]*b[2] }
func (a vec) length() float64     { return math.Sqrt(a.dot(a)) }
func (a vec) cross(b vec) vec {
	return vec{a[1]*b[2] - a[2]*b[1], a[2]*b[0] - a[0]*b[2], a[0]*b[1] - a[1]*b[0]}
}
func (a vec) unit() vec {
	if l := a.length(); l > 0 {
		return a.times(1 / l)
	}
	return a
}

// motion is a turn and a move: the axes and the origin of a frame.
type motion struct{ x, y, z, o vec }

var still = motion{x: vec{1, 0, 0}, y: vec{0, 1, 0}, z: vec{0, 0, 1}}

func (m motion) turn(v vec) vec  { return m.x.times(v[0]).plus(m.y.times(v[1])).plus(m.z.times(v[2])) }
func (m motion) point(v vec) vec { return m.turn(v).plus(m.o) }

// then is the motion that first does n and then m.
func (m motion) then(n motion) motion {
	return motion{m.turn(n.x), m.turn(n.y), m.turn(n.z), m.point(n.o)}
}

func (m motion) inverse() motion {
	t := motion{x: vec{m.x[0], m.y[0], m.z[0]}, y: vec{m.x[1], m.y[1], m.z[1]}, z: vec{m.x[2], m.y[2], m.z[2]}}
	t.o = t.turn(m.o).times(-1)
	return t
}
