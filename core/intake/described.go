package intake

import (
	"jollydrawer/core/cabinet"
	"jollydrawer/core/described"
	"jollydrawer/core/measure"
)

// factsOf tells which facts of the rows' own descriptions nothing used. Texts repeat, and are taken apart once.
type factsOf struct {
	lexicon *described.Lexicon
	memo    map[string][]described.Piece
}

func newFactsOf(cab *cabinet.Cabinet) *factsOf {
	return &factsOf{described.NewLexicon(cab), map[string][]described.Piece{}}
}

// Unused lists the facts of a candidate's description that none of its values says: a measure, or a chip case, that the
// part is not taken in with.
func (r *Result) unused(f *factsOf, c *Candidate) (out []string) {
	if c.description == "" {
		return nil
	}
	pieces, ok := f.memo[c.description]
	if !ok {
		pieces = f.lexicon.Read(c.description, measure.Options{Mark: r.in.Crosswalk.Mark()})
		f.memo[c.description] = pieces
	}
	for _, p := range pieces {
		if p.Count || p.Fact.Word || p.Fact.Reading.Why == "it has no unit" || r.says(c, p) {
			continue
		}
		out = append(out, p.Text)
	}
	return out
}

// says whether one of a candidate's values is what a piece of its description says.
func (r *Result) says(c *Candidate, p described.Piece) bool {
	for _, at := range c.vals {
		v := r.readings[at.reading].value
		if v.Type != cabinet.Measure {
			if v.Text == p.Text || v.Text != "" && (p.Fact.Case.Inch == v.Text || p.Fact.Case.Metric == v.Text) {
				return true
			}
			for _, w := range p.Fact.Reading.Possible {
				if w.Case.Inch != "" && (w.Case.Inch == v.Text || w.Case.Metric == v.Text) {
					return true
				}
			}
			continue
		}
		readings := []measure.Measure{p.Fact.Reading.Measure}
		for _, w := range p.Fact.Reading.Possible {
			readings = append(readings, w.Measure)
		}
		for _, m := range readings {
			if m.Of == v.Measure.Of && (m.Same(v.Measure) || m.AsDeviation().Same(v.Measure)) {
				return true
			}
		}
	}
	return false
}

// Unused lists, for one row, the facts of its description that nothing used.
func (r *Result) Unused(i int) []string {
	return r.unused(newFactsOf(r.in.Cabinet), &r.Candidates[i])
}
