package lookup

import (
	"slices"
	"strings"

	"jollydrawer/core/part"
)

// ofSeries notes that a row is of a series.
func (x *Index) ofSeries(row uint32, name string) {
	key := part.NormaliseMPN(name)
	x.seriesOf[row] = append(x.seriesOf[row], name)
	x.bySeries[key] = append(x.bySeries[key], row)
}

// inSeries lists the parts of the series of a name, with the name as it is kept.
func (x *Index) inSeries(key string) (rows []uint32, name string) {
	for _, i := range x.bySeries[key] {
		if x.rows[i].dead || x.rows[i].gone || slices.Contains(rows, i) {
			continue
		}
		at := slices.IndexFunc(x.seriesOf[i], func(s string) bool { return part.NormaliseMPN(s) == key })
		if at < 0 {
			continue
		}
		rows = append(rows, i)
		if name == "" || x.seriesOf[i][at] < name {
			name = x.seriesOf[i][at]
		}
	}
	slices.Sort(rows)
	return rows, name
}

// longestSeries is how many words the name of a series may have in a question.
const longestSeries = 4

// series reads "series TW-0805", "series: TW 0805" and "TW-0805 series", where the library has such a series.
func (r *reader) series() (c condition, ok bool) {
	is := func(w string) bool { return strings.EqualFold(strings.TrimSuffix(w, ":"), "series") }
	name := func(from, n int) bool {
		rows, as := r.x.inSeries(part.NormaliseMPN(strings.Trim(strings.Join(r.words[from:from+n], " "), "\"")))
		if len(rows) == 0 {
			return false
		}
		c = condition{rows: rows, fact: Fact{As: "of the series “" + as + "”", Kind: "words"}}
		return true
	}
	if is(r.words[r.i]) {
		for n := min(longestSeries, len(r.words)-r.i-1); n > 0; n-- {
			if name(r.i+1, n) {
				r.i += n + 1
				return c, true
			}
		}
		return c, false
	}
	for n := 1; n <= longestSeries && r.i+n < len(r.words); n++ {
		if is(r.words[r.i+n]) && name(r.i, n) {
			r.i += n + 1
			return c, true
		}
	}
	return c, false
}
