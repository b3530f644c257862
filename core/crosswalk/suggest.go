package crosswalk

import (
	"cmp"
	"fmt"
	"slices"
	"strings"
	"unicode"

	"jollydrawer/core/cabinet"
	"jollydrawer/core/described"
	"jollydrawer/core/headings"
	"jollydrawer/core/measure"
)

// Suggestion proposes what a field may fill, with the reason; a person confirms it.
type Suggestion struct {
	From   string `json:"from"`
	To     string `json:"to" doc:"take.PLACE, a parameter key or @leading"`
	Unit   string `json:"unit,omitempty" doc:"Unit that the header names, for values that carry none"`
	System string `json:"caseSystem,omitempty"`
	Fact   bool   `json:"fact,omitempty" doc:"The one value in the field's text that fits the parameter, not the whole text"`
	Sure   string `json:"sure" enum:"certain,likely"`
	Reason string `json:"reason"`
}

// Sureness of a suggestion.
const (
	Certain = "certain"
	Likely  = "likely"
)

// Rule is the suggestion as a rule; ok is false for a place of take.
func (s Suggestion) Rule() (r Rule, ok bool) {
	r = Rule{From: s.From, To: s.To, Unit: s.Unit, System: s.System}
	if s.Fact {
		r.Piece = &Piece{Fact: true}
	}
	return r, !strings.HasPrefix(s.To, "take.")
}

// Column is a field of a file with some of the values under it.
type Column struct {
	Name   string
	Sample []string // not blank, as written; a few hundred say enough
}

// Known is what suggestions may draw on.
type Known struct {
	Cabinet *cabinet.Cabinet
	Earlier []Crosswalk // of other suppliers, and older ones of this
	Drawers []string    // that the rows are known to be in; none: any
}

// Suggest proposes targets for columns: by an earlier crosswalk, by name and synonym, and by the shape of the values.
// What the values contradict is not suggested, whatever the name; where two targets fit alike it stays silent.
func Suggest(cols []Column, k Known) []Suggestion {
	var out []Suggestion
	taken := map[string]bool{}
	s := suggester{k: k, in: map[string]bool{}}
	for _, key := range k.Drawers {
		if t, ok := k.Cabinet.Template(key); ok {
			for _, slot := range t.Slots {
				s.in[slot.Key] = true
			}
		}
	}
	var maybe []Suggestion
	for _, c := range cols {
		g, ok := s.column(c)
		switch {
		case !ok:
		case g.Sure == Certain:
			out = append(out, g)
			taken[g.To] = true
		default:
			maybe = append(maybe, g)
		}
	}
	maybe = append(maybe, s.described(cols, out, taken[Leading])...)
	claims := map[string]int{}
	for _, g := range maybe {
		claims[g.To]++
	}
	for _, g := range maybe { // a likely one gives way to a certain one, and two likely ones to neither
		if !taken[g.To] && claims[g.To] == 1 {
			out = append(out, g)
		}
	}
	at := map[string]int{}
	for i, c := range cols {
		at[c.Name] = i
	}
	slices.SortStableFunc(out, func(a, b Suggestion) int { return cmp.Compare(at[a.From], at[b.From]) })
	return out
}

type suggester struct {
	k  Known
	in map[string]bool // parameters of the drawers that the rows are in; empty: any
}

func (s *suggester) column(c Column) (Suggestion, bool) {
	name, unit := headings.Unit(c.Name)
	p := words(name)
	if p == "" {
		return Suggestion{}, false
	}
	if headings.Aside(c.Name) != "" && !describing[takenAs(p)] { // what it says beside its name may make it another thing
		p = words(c.Name)
	}
	for _, find := range []func(Column, string, string) (Suggestion, bool){s.earlier, s.taking, s.named, s.shaped} {
		if g, ok := find(c, p, unit); ok {
			g.From = c.Name
			return g, g.To != "" && (g.To != "take.number" || s.ours(c))
		}
	}
	return Suggestion{}, false
}

// described finds, in a column of descriptions, the parameters that the facts in its texts fill: "RES 10k 1% 0603" is a
// resistance, a tolerance and a case. Only parameters of the drawers that the rows are known to be in are looked for, and
// the leading one only where no field fills it yet.
func (s *suggester) described(cols []Column, certain []Suggestion, leading bool) (out []Suggestion) {
	lexicon := described.NewLexicon(s.k.Cabinet)
	for _, g := range certain {
		if g.To != "take.description" {
			continue
		}
		at := slices.IndexFunc(cols, func(c Column) bool { return c.Name == g.From })
		for _, drawer := range s.k.Drawers {
			t, ok := s.k.Cabinet.Template(drawer)
			if !ok || !t.Leaf {
				continue
			}
			n, example := map[string]int{}, map[string][2]string{}
			for _, text := range cols[at].Sample {
				placed, _ := lexicon.Place(t, text, measure.Options{})
				for _, p := range placed {
					n[p.Key]++
					if _, ok := example[p.Key]; !ok {
						example[p.Key] = [2]string{p.Piece.Text, text}
					}
				}
			}
			for i := range t.Slots {
				key := t.Slots[i].Key
				if n[key]*2 < len(cols[at].Sample) || n[key] == 0 || t.Slots[i].ByHand || leading && key == t.Leading || slices.ContainsFunc(out, func(o Suggestion) bool { return o.To == key }) {
					continue
				}
				out = append(out, Suggestion{From: g.From, To: key, Fact: true, Sure: Likely, Reason: fmt.Sprintf("%q in %q is %s", example[key][0], example[key][1], t.Slots[i].Label)})
			}
		}
	}
	return out
}

// earlier follows what other crosswalks say of a field of the same name, where they agree.
func (s *suggester) earlier(c Column, p, unit string) (Suggestion, bool) {
	var found *Rule
	who := ""
	for _, cw := range s.k.Earlier {
		for _, r := range cw.Fields {
			if r.From == "" || words(r.From) != words(c.Name) || len(r.Drawers) > 0 {
				continue
			}
			if found != nil && found.To != r.To {
				return Suggestion{}, false
			}
			found, who = &r, cw.Supplier
		}
	}
	if found == nil {
		return Suggestion{}, false
	}
	if found.To != Leading {
		par, ok := s.k.Cabinet.Parameter(found.To)
		if !ok || s.agree(c, par, found.Unit, found.System) < half {
			return Suggestion{}, false
		}
	}
	return Suggestion{To: found.To, Unit: found.Unit, System: found.System, Sure: Certain, Reason: fmt.Sprintf("the crosswalk of %s maps %q so", who, found.From)}, true
}

// Shares of a column's values that count as half and as nearly all.
const (
	half = 0.5
	most = 0.85
)

// shaped looks at the values: deviations, chip cases, choices, and values of a dimension that one parameter alone has,
// or that one parameter alone has a word of the field's name with.
func (s *suggester) shaped(c Column, p, unit string) (Suggestion, bool) {
	if len(c.Sample) < 3 {
		return Suggestion{}, false
	}
	var by []cabinet.Parameter
	for _, par := range s.k.Cabinet.Document.Parameters {
		if len(s.in) > 0 && !s.in[par.Key] || !s.possible(par, unit) {
			continue
		}
		switch {
		case par.ChipCode != "":
			codes := s.share(c, func(v string) bool { _, _, is := measure.ReadCase(v); return is })
			if sys := s.system(c, par); sys != "" && sys == par.ChipCode && codes > most && s.agree(c, par, "", sys) > most {
				by = append(by, par)
			}
		case par.Type == cabinet.Measure:
			if s.telling(c, par, s.unitFor(par, unit)) > most {
				by = append(by, par)
			}
		case par.Type == cabinet.Choice:
			if s.distinct(c) > 1 && s.agree(c, par, "", "") > most && !slices.ContainsFunc(c.Sample, common) {
				by = append(by, par)
			}
		}
	}
	how := "no other parameter has such values"
	if len(by) > 1 {
		tokens := strings.Fields(p)
		best, top := []cabinet.Parameter{}, 0
		for _, par := range by {
			n := 0
			for _, name := range append([]string{par.Label}, par.Synonyms...) {
				n = max(n, sharedWords(tokens, strings.Fields(words(name))))
			}
			if n > top {
				best, top = best[:0], n
			}
			if n == top && n > 0 {
				best = append(best, par)
			}
		}
		by, how = best, "of the parameters with such values it alone has a word of the field's name"
	} else if len(s.in) == 0 {
		// Over the whole cabinet a lone dimension says little of what a supplier means: deviations and cases do.
		if len(by) == 1 && !by[0].Deviation && by[0].ChipCode == "" && sharedAny(p, by[0]) == 0 {
			return Suggestion{}, false
		}
	}
	if len(by) != 1 {
		return Suggestion{}, false
	}
	return Suggestion{To: by[0].Key, Unit: s.unitFor(by[0], unit), System: s.system(c, by[0]), Sure: Likely,
		Reason: fmt.Sprintf("values such as %q are %s: %s", c.Sample[0], by[0].Label, how)}, true
}

// possible says whether a unit that the header names can be one of the parameter's.
func (s *suggester) possible(p cabinet.Parameter, unit string) bool {
	if unit == "" {
		return true
	}
	return s.unitFor(p, unit) != ""
}

// unitFor is the header's unit where it is one of the parameter's.
func (s *suggester) unitFor(p cabinet.Parameter, unit string) string {
	if unit == "" || p.Type != cabinet.Measure {
		return ""
	}
	dim, _ := measure.ParseDimension(p.Of)
	if measure.Parse("1 "+unit, measure.Options{Of: dim}).Outcome != measure.Read {
		return ""
	}
	return unit
}

// agree is the share of the values that become clean values of a parameter; 1 where there is no value to ask.
func (s *suggester) agree(c Column, p cabinet.Parameter, unit, system string) float64 {
	if len(c.Sample) == 0 {
		return 1
	}
	good := 0.0
	dim, _ := measure.ParseDimension(p.Of)
	for _, v := range c.Sample {
		_, _, problem := Rule{From: c.Name, To: p.Key, Unit: unit, System: system}.Read(p, v, measure.MarkUnknown)
		switch {
		case problem == nil:
			good++
		case p.Type == cabinet.Measure && strings.HasPrefix(problem.Kind, "doubt") && mayBe(measure.Parse(v, measure.Options{Of: dim, Unit: unit}), dim):
			good += 0.6 // which reading is meant is a question of its own; a volt is no ohm by any reading
		}
	}
	return good / float64(len(c.Sample))
}

// mayBe says whether a reading, or one of those it may be, is of a dimension.
func mayBe(r measure.Reading, dim measure.Dimension) bool {
	return r.Measure.Of == dim && r.Outcome == measure.Read || slices.ContainsFunc(r.Possible, func(w measure.Possible) bool { return w.Measure.Of == dim })
}

// telling is the share of the values that name their unit, or sign, and are values of the parameter.
func (s *suggester) telling(c Column, p cabinet.Parameter, unit string) float64 {
	dim, _ := measure.ParseDimension(p.Of)
	return s.share(c, func(v string) bool {
		r := measure.Parse(v, measure.Options{})
		if r.Outcome == measure.Read && r.Measure.Of == dim {
			return (r.Measure.Shape == measure.Deviation) == p.Deviation
		}
		return unit != "" && !p.Deviation && measure.Parse(v, measure.Options{Of: dim, Unit: unit}).Outcome == measure.Read
	})
}

// measured is the share of values that are measures with a unit.
func (s *suggester) measured(c Column) float64 {
	return s.share(c, func(v string) bool {
		r := measure.Parse(v, measure.Options{})
		return r.Outcome == measure.Read && strings.ContainsFunc(v, unicode.IsDigit) && strings.ContainsFunc(v, func(r rune) bool { return unicode.IsSpace(r) || r == '%' || r == '±' })
	})
}

// system says in which system a column writes chip cases: by codes that only one of the two has; blank where all of
// them are codes of both, or where the parameter holds none.
func (s *suggester) system(c Column, p cabinet.Parameter) string {
	if p.ChipCode == "" {
		return ""
	}
	inch, metric, codes := 0, 0, 0
	for _, v := range c.Sample {
		v = strings.ToUpper(strings.TrimSpace(v))
		_, isMetric := measure.CaseFromMetric(v)
		_, isInch := measure.CaseToMetric(v)
		if isMetric || isInch {
			codes++
		}
		if isMetric && !isInch {
			metric++
		}
		if isInch && !isMetric {
			inch++
		}
	}
	name := words(c.Name)
	switch {
	case strings.Contains(name, "metric") && inch == 0:
		return "metric"
	case metric > 0 && inch == 0:
		return "metric"
	case (strings.Contains(name, "inch") || strings.Contains(name, "imperial")) && metric == 0:
		return "inch"
	case inch > 0 && metric == 0:
		return "inch"
	case codes == 0 && p.ChipCode == "inch":
		return "inch" // packages with names, not codes
	}
	return ""
}

func (s *suggester) share(c Column, is func(string) bool) float64 {
	n := 0
	for _, v := range c.Sample {
		if is(strings.TrimSpace(v)) {
			n++
		}
	}
	if len(c.Sample) == 0 {
		return 0
	}
	return float64(n) / float64(len(c.Sample))
}

func (s *suggester) distinct(c Column) int {
	seen := map[string]bool{}
	for _, v := range c.Sample {
		seen[v] = true
	}
	return len(seen)
}
