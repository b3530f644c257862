package intakes

// Beside is a step of what goes through files beside; Taking says that an intake is taken in until its end is called.
var Beside = (*Intakes).beside

func (s *Intakes) Taking() (ended func()) {
	s.taking.Add(1)
	return func() { s.taking.Add(-1) }
}
