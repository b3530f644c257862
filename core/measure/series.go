package measure

import "strconv"

// Series is a series of preferred numbers (IEC 60063:2015): E3, E6, E12, E24, E48, E96 or E192 values in a decade.
type Series int

// AllSeries lists the series, coarsest first.
var AllSeries = []Series{3, 6, 12, 24, 48, 96, 192}

// String returns "E24" and so on.
func (s Series) String() string { return "E" + strconv.Itoa(int(s)) }

// e24 and e192 hold one decade in hundredths. The values of E24 are historical and not those of the formula
// (IEC 60063, table 1); E192 is round(10^(i/192)), but for 9.20, which the formula would make 9.19 (table 2).
var e24 = [24]int64{100, 110, 120, 130, 150, 160, 180, 200, 220, 240, 270, 300, 330, 360, 390, 430, 470, 510, 560, 620, 680, 750, 820, 910}

var e192 = [192]int64{
	100, 101, 102, 104, 105, 106, 107, 109, 110, 111, 113, 114, 115, 117, 118, 120, 121, 123, 124, 126, 127, 129, 130, 132,
	133, 135, 137, 138, 140, 142, 143, 145, 147, 149, 150, 152, 154, 156, 158, 160, 162, 164, 165, 167, 169, 172, 174, 176,
	178, 180, 182, 184, 187, 189, 191, 193, 196, 198, 200, 203, 205, 208, 210, 213, 215, 218, 221, 223, 226, 229, 232, 234,
	237, 240, 243, 246, 249, 252, 255, 258, 261, 264, 267, 271, 274, 277, 280, 284, 287, 291, 294, 298, 301, 305, 309, 312,
	316, 320, 324, 328, 332, 336, 340, 344, 348, 352, 357, 361, 365, 370, 374, 379, 383, 388, 392, 397, 402, 407, 412, 417,
	422, 427, 432, 437, 442, 448, 453, 459, 464, 470, 475, 481, 487, 493, 499, 505, 511, 517, 523, 530, 536, 542, 549, 556,
	562, 569, 576, 583, 590, 597, 604, 612, 619, 626, 634, 642, 649, 657, 665, 673, 681, 690, 698, 706, 715, 723, 732, 741,
	750, 759, 768, 777, 787, 796, 806, 816, 825, 835, 845, 856, 866, 876, 887, 898, 909, 920, 931, 942, 953, 965, 976, 988,
}

// decade lists the values of a series in one decade, in hundredths.
func (s Series) decade() []int64 {
	from, step := e24[:], 24/int(max(s, 1))
	if s > 24 {
		from, step = e192[:], 192/int(s)
	}
	out := make([]int64, 0, int(s))
	for i := 0; i < len(from); i += step {
		out = append(out, from[i])
	}
	return out
}

// Has says whether n is a value of the series, in any decade.
func (s Series) Has(n Number) bool {
	below, above := s.Around(n)
	return n.Sign() > 0 && below == n && above == n
}

// Around returns the values of the series next to n, below and above; both are n where n is one of them. n must be
// positive.
func (s Series) Around(n Number) (below, above Number) {
	if n.Sign() <= 0 {
		return Number{}, Number{}
	}
	decade := s.decade()
	exp := n.magnitude() - 2
	at := func(i int) Number {
		e := exp
		switch {
		case i < 0:
			i, e = len(decade)-1, exp-1
		case i == len(decade):
			i, e = 0, exp+1
		}
		v, _ := NewNumber(decade[i], e)
		return v
	}
	for i := range len(decade) + 1 {
		switch v := at(i); v.Cmp(n) {
		case 0:
			return v, v
		case 1:
			return at(i - 1), v
		}
	}
	return Number{}, Number{}
}

// Nearest returns the value of the series that is nearest to n by ratio, as tolerances are.
func (s Series) Nearest(n Number) Number {
	below, above := s.Around(n)
	// n is nearer to below where n/below < above/n, that is n² < below × above. Float64 decides no equality here:
	// two values of a series are never that close.
	f := n.Float64()
	if f*f < below.Float64()*above.Float64() {
		return below
	}
	return above
}

// SeriesOf returns the coarsest series that has n; ok is false where none has.
func SeriesOf(n Number) (s Series, ok bool) {
	for _, s := range AllSeries {
		if s.Has(n) {
			return s, true
		}
	}
	return 0, false
}

// SeriesFor returns the series that suits a tolerance in per cent (IEC 60063, clause 3): E6 for 20 %, E12 for 10 %,
// E24 for 5 %, E48 for 2 %, E96 for 1 %, E192 for less, E3 for more.
func SeriesFor(percent Number) Series {
	for _, step := range []struct {
		from string
		s    Series
	}{{"20.0001", 3}, {"10.0001", 6}, {"5.0001", 12}, {"2.0001", 24}, {"1.0001", 48}, {"0.50001", 96}} {
		if percent.Cmp(MustParseNumber(step.from)) >= 0 {
			return step.s
		}
	}
	return 192
}
