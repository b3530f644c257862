package model

import "math"

// goal is how far solder is to reach beyond a lead: at its toe, its heel and each side, and how far the courtyard lies outside.
type goal struct{ toe, heel, side, courtyard Length }

func goalOf(toe, heel, side, courtyard string) goal {
	return goal{MustLength(toe), MustLength(heel), MustLength(side), MustLength(courtyard)}
}

// goals are those of IPC-7351B clause 3.1.2 by the form of the terminal, for the density levels A, B and C.
var goals = map[string]map[string]goal{
	// Table 3-2, flat ribbon L and gull-wing leads at a pitch above 0.625 mm.
	"gull": {"most": goalOf("0.55", "0.45", "0.05", "0.5"), "nominal": goalOf("0.35", "0.35", "0.03", "0.25"), "least": goalOf("0.15", "0.25", "0.01", "0.1")},
	// Table 3-3, the same at a pitch of 0.625 mm or less.
	"fine gull": {"most": goalOf("0.55", "0.45", "0.01", "0.5"), "nominal": goalOf("0.35", "0.35", "-0.02", "0.25"), "least": goalOf("0.15", "0.25", "-0.04", "0.1")},
	// Table 3-5, rectangular end components of 1608 and larger.
	"chip": {"most": goalOf("0.55", "0", "0.05", "0.5"), "nominal": goalOf("0.35", "0", "0", "0.25"), "least": goalOf("0.15", "0", "-0.05", "0.1")},
	// Table 3-6, those smaller than 1608.
	"small chip": {"most": goalOf("0.3", "0", "0.05", "0.2"), "nominal": goalOf("0.2", "0", "0", "0.15"), "least": goalOf("0.1", "0", "-0.05", "0.1")},
	// Table 3-7, cylindrical end caps.
	"cylinder": {"most": goalOf("0.6", "0.2", "0.1", "0.5"), "nominal": goalOf("0.4", "0.1", "0.05", "0.25"), "least": goalOf("0.2", "0.02", "0.01", "0.1")},
	// Table 3-15, flat no-lead terminals.
	"no-lead": {"most": goalOf("0.4", "0", "-0.04", "0.5"), "nominal": goalOf("0.3", "0", "-0.04", "0.25"), "least": goalOf("0.2", "0", "-0.04", "0.1")},
}

// Courtyards of ball grids (IPC-7351B table 3-17) and of leads in holes (as for gull wings).
var gridCourtyard = map[string]Length{"most": 2 * MM, "nominal": MM, "least": MM / 2}

// Tolerances of making the board and of placing the part, for the density levels alike: the default figures of IPC-7351B clause 3.1.1.
const (
	fabrication = MM / 20
	placing     = MM / 40
)

// rowLands is what two opposite rows of terminals, or the two ends of a chip, come to.
type rowLands struct{ z, g, x Length }

// landsOf works out the lands of two opposite terminals (IPC-7351B clause 3.1.1):
//
//	Zmax = Lmin + 2·JT + √(CL² + F² + P²)
//	Gmin = Smax − 2·JH − √(CS² + F² + P²)
//	Xmax = Wmin + 2·JS + √(CW² + F² + P²)
//
// L is over the ends of the terminals, T their length, W their width. S = L − 2·T is between their inner ends, with the root mean square
// of the tolerances of L and of both T in place of their sum. Rounded to the nearest 0.05 mm.
func landsOf(l, t, w Range, j goal) rowLands {
	rms := func(all ...Length) Length {
		sum := 0.0
		for _, v := range all {
			sum += float64(v) * float64(v)
		}
		return Length(math.Round(math.Sqrt(sum)))
	}
	sMin, sMax := l.Min-2*t.Max, l.Max-2*t.Min
	likely := rms(l.tolerance(), t.tolerance(), t.tolerance())
	sMax -= (sMax - sMin - likely) / 2
	return rowLands{
		z: nearest(l.Min+2*j.toe+rms(l.tolerance(), fabrication, placing), MM/20),
		g: nearest(sMax-2*j.heel-rms(likely, fabrication, placing), MM/20),
		x: nearest(w.Min+2*j.side+rms(w.tolerance(), fabrication, placing), MM/20),
	}
}

func nearest(l, step Length) Length { return Length(divRound(int64(l), int64(step))) * step }

// ballLand is the land under a ball that collapses (IPC-7351B table 3-16): less by 25 % from 0.55 mm on, by 20 % from 0.25 mm on, by 15 %
// below, to the nearest 0.05 mm, and to the nearest 0.01 mm below 0.25 mm.
func ballLand(ball Length) Length {
	switch {
	case ball >= 55*MM/100:
		return nearest(ball*75/100, MM/20)
	case ball >= 25*MM/100:
		return nearest(ball*80/100, MM/20)
	}
	return nearest(ball*85/100, MM/100)
}

// holeOver is how much wider than the thickest lead a hole is (IPC-2222 table 9-3), and ringOver how much wider than its hole a land is:
// twice the least annular ring of 0.05 mm on an outer layer and the allowance for making the board (IPC-2221 clause 9.1.1, table 9-1).
var (
	holeOver = map[string]Length{"most": MM / 4, "nominal": MM / 5, "least": 15 * MM / 100}
	ringOver = map[string]Length{"most": 2*MM/20 + 40*MM/100, "nominal": 2*MM/20 + 25*MM/100, "least": 2*MM/20 + 20*MM/100}
)
