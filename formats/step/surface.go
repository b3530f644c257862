package step

// bsurface is a B-spline surface: rows of control points along u, each running along v.
type bsurface struct {
	du, dv  int
	points  [][]vec
	weights [][]float64
	ku, kv  []float64
}

func (r *reader) bsurface(e *entity) (s bsurface, ok bool) {
	var net value
	var mu, mv, ku, kv []float64
	if p, simple := e.part("B_SPLINE_SURFACE_WITH_KNOTS"); simple && e.name != "" {
		s.du, s.dv, net = int(param(p, 1).num), int(param(p, 2).num), param(p, 3)
		mu, mv, ku, kv = numbers(param(p, 8)), numbers(param(p, 9)), numbers(param(p, 10)), numbers(param(p, 11))
	} else if p, there := e.part("B_SPLINE_SURFACE"); there && e.name == "" {
		s.du, s.dv, net = int(param(p, 0).num), int(param(p, 1).num), param(p, 2)
		if k, there := e.part("B_SPLINE_SURFACE_WITH_KNOTS"); there {
			mu, mv, ku, kv = numbers(param(k, 0)), numbers(param(k, 1)), numbers(param(k, 2)), numbers(param(k, 3))
		}
		if w, there := e.part("RATIONAL_B_SPLINE_SURFACE"); there {
			for _, row := range param(w, 0).list {
				s.weights = append(s.weights, numbers(row))
			}
		}
	} else {
		return s, false
	}
	for _, row := range net.list {
		var line []vec
		for _, id := range refs(row) {
			if v, ok := r.point(id); ok {
				line = append(line, v)
			}
		}
		if len(s.points) > 0 && len(line) != len(s.points[0]) {
			return s, false
		}
		s.points = append(s.points, line)
	}
	if s.du < 1 || s.dv < 1 || s.du > 25 || s.dv > 25 || len(s.points) <= s.du || len(s.points[0]) <= s.dv || !r.spend(len(s.points)*len(s.points[0])) {
		return s, false
	}
	if len(s.weights) != len(s.points) {
		s.weights = nil
	}
	for _, row := range s.weights {
		if len(row) != len(s.points[0]) {
			s.weights = nil
			break
		}
	}
	var okU, okV bool
	s.ku, okU = knotsOf(mu, ku, s.du, len(s.points))
	s.kv, okV = knotsOf(mv, kv, s.dv, len(s.points[0]))
	return s, okU && okV
}

func (s *bsurface) at(u, v float64) vec {
	su, bu := basis(s.ku, s.du, len(s.points), u)
	sv, bv := basis(s.kv, s.dv, len(s.points[0]), v)
	var sum vec
	w := 0.0
	for i, fu := range bu {
		for j, fv := range bv {
			f := fu * fv
			a, b := su-s.du+i, sv-s.dv+j
			if s.weights != nil {
				f *= s.weights[a][b]
			}
			sum, w = sum.plus(s.points[a][b].times(f)), w+f
		}
	}
	if w == 0 {
		return s.points[su][sv]
	}
	return sum.times(1 / w)
}

// samples offers points of the surface that may lie beyond the face's edges. Nothing is sampled where the whole net of
// control points lies within the box: the surface does not leave its net's hull.
func (s *bsurface) samples(r *reader, take func(vec, func(vec) vec)) {
	out := false
	for _, row := range s.points {
		for _, p := range row {
			out = out || !r.box.holds(p)
		}
	}
	if !out {
		return
	}
	steps := func(k []float64, d, n int) (ts []float64) {
		spans := 0
		for i := d; i < n; i++ {
			if k[i+1] > k[i] {
				spans++
			}
		}
		per := max(4, min(32, 256/max(spans, 1)))
		for i := d; i < n; i++ {
			if k[i+1] > k[i] {
				for j := range per {
					ts = append(ts, k[i]+(k[i+1]-k[i])*float64(j)/float64(per))
				}
			}
		}
		return append(ts, k[n])
	}
	us, vs := steps(s.ku, s.du, len(s.points)), steps(s.kv, s.dv, len(s.points[0]))
	if !r.spend(len(us) * len(vs) * (s.du + 1) * (s.dv + 1)) {
		return
	}
	hu, hv := (us[len(us)-1]-us[0])/1e4, (vs[len(vs)-1]-vs[0])/1e4
	for _, u := range us {
		for _, v := range vs {
			p := s.at(u, v)
			take(p, func(vec) vec {
				u0, v0 := min(u, us[len(us)-1]-hu), min(v, vs[len(vs)-1]-hv)
				o := s.at(u0, v0)
				return s.at(u0+hu, v0).minus(o).cross(s.at(u0, v0+hv).minus(o)).unit()
			})
		}
	}
}
