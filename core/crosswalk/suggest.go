package crosswalk

import (
	"cmp"
	"fmt"
	"slices"
	"strconv"
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

// words of a text in small letters, parted by one blank.
func words(s string) string {
	return strings.Join(strings.FieldsFunc(strings.ToLower(s), func(r rune) bool { return !unicode.IsLetter(r) && !unicode.IsDigit(r) && r != '%' }), " ")
}

var takeNames = []struct{ to, names string }{
	{"number", "part number|house number|our number|our part number|internal number|internal part number|article number|part no|own number|house part number|library number|record number"},
	{"kind", "category|kind|what|sort|product group|group|type of part|family|product family|part type|class|sub category|subcategory|article group"},
	{"manufacturer", "manufacturer|maker|mfr|mfg|mfr name|manufacturer name|brand|make|made by|producer|vendor of origin"},
	{"mpn", "mpn|manufacturer part number|mfr part number|mfr part no|mfr part|maker s number|maker part no|maker part number|manufacturer number|manufacturer part no|manufacturer part|mfg part number|mfr number|producer number|maker no|make no|make number"},
	{"supplierNumber", "order code|order number|order no|stock code|stock number|supplier number|supplier part number|sku|supplier code|catalogue number|cat no|catalogue no|item no|item number"},
	{"description", "description|text|designation|part description|item description|long description|short text"},
	{"datasheet", "datasheet|data sheet|datasheet link|datasheet url|link to datasheet|datasheet file"},
	{"symbol", "symbol model|symbol name|schematic symbol"},
	{"landPattern", "land pattern model|land pattern|land pattern name|footprint|footprint name"},
	{"body", "body model|body|3d model|3d body"},
	{"designator", "designator|reference designator|ref des|refdes|ref prefix|designator letter"},
}

// leadingNames are what people call a column that holds each kind's own value.
var leadingNames = "|value|val|nominal|nominal value|rated value|part value|"

// takeEnglish says what the English phrases of other languages' headings identify, and which of them have no place at all.
var takeEnglish = map[string]string{"part number": "number", "manufacturer": "manufacturer", "manufacturer part number": "mpn", "supplier number": "supplierNumber", "description": "description", "datasheet": "datasheet", "category": "kind", "designator": "designator",
	"item": "", "price": "", "stock": "", "packing": "", "minimum order": "", "quantity": "", "status": "", "weight": "", "country of origin": "", "fitted": "", "supplier": ""}

// nowhere are headings that no template has a place for.
var nowhere = map[string]bool{"price": true, "unit price": true, "stock": true, "in stock": true, "availability": true, "available": true, "packing": true, "packaging": true, "package quantity": true, "pack size": true, "minimum order": true, "moq": true, "minimum quantity": true, "lead time": true, "status": true,
	"part status": true, "weight": true, "country of origin": true, "origin": true, "tariff": true, "customs tariff": true, "hs code": true, "eccn": true, "image": true, "photo": true, "picture": true, "last change": true, "created": true, "updated": true, "currency": true, "vat": true, "discount": true, "quantity": true, "qty": true,
	"line": true, "no": true, "nr": true, "item": true, "row": true, "id": true, "index": true, "#": true, "features": true, "feature": true, "applications": true, "application": true, "barcode": true, "warehouse": true, "bin": true, "location": true, "buyer": true, "reel size": true, "multiple": true, "url": true, "link": true, "supplier": true, "vendor": true, "notes for buyer": true}

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
	maybe = append(maybe, s.described(cols, out)...)
	claims := map[string]int{}
	for _, g := range maybe {
		claims[g.To]++
	}
	for _, g := range maybe { // a likely one gives way to a certain one, and two likely ones to neither
		if !taken[g.To] && claims[g.To] == 1 && !(g.To != Leading && taken[Leading] && s.leads(g.To) && g.Fact) {
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

// leads says whether a parameter is the leading one of all drawers that the rows are in.
func (s *suggester) leads(key string) bool {
	for _, d := range s.k.Drawers {
		if t, ok := s.k.Cabinet.Template(d); ok && t.Leading != key {
			return false
		}
	}
	return len(s.k.Drawers) > 0
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
	for _, find := range []func(Column, string, string) (Suggestion, bool){s.earlier, s.taking, s.named, s.shaped} {
		if g, ok := find(c, p, unit); ok {
			g.From = c.Name
			return g, g.To != ""
		}
	}
	return Suggestion{}, false
}

// described finds, in a column of descriptions, the parameters that the facts in its texts fill: "RES 10k 1% 0603" is a
// resistance, a tolerance and a case. Only parameters of the drawers that the rows are known to be in are looked for.
func (s *suggester) described(cols []Column, certain []Suggestion) (out []Suggestion) {
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
				if n[key]*2 < len(cols[at].Sample) || n[key] == 0 || t.Slots[i].ByHand || slices.ContainsFunc(out, func(o Suggestion) bool { return o.To == key }) {
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

// taking finds the fields that identify a row, by their names, where the values do not speak against it.
func (s *suggester) taking(c Column, p, unit string) (Suggestion, bool) {
	for _, t := range takeNames {
		if !slices.Contains(strings.Split(t.names, "|"), p) {
			continue
		}
		if t.to != "description" && t.to != "datasheet" && s.measured(c) > half {
			return Suggestion{}, false // a column "Family" that holds values is something else
		}
		if t.to == "kind" && s.distinct(c) > 40 {
			return Suggestion{}, false
		}
		return Suggestion{To: "take." + t.to, Sure: Certain, Reason: fmt.Sprintf("%q is a usual name for it", c.Name)}, true
	}
	if english := headings.English(c.Name); english != "" {
		to, known := takeEnglish[english]
		switch {
		case !known:
		case to == "":
			return Suggestion{}, true
		case to == "kind" && s.distinct(c) > 40, to != "description" && to != "datasheet" && s.measured(c) > half, to == "number" && s.running(c):
			return Suggestion{}, false
		default:
			return Suggestion{To: "take." + to, Sure: Certain, Reason: fmt.Sprintf("%q means %s", c.Name, english)}, true
		}
	}
	if nowhere[p] || nowhere[headings.Plain(c.Name)] {
		return Suggestion{}, true
	}
	if long := headings.Long(c.Name); long != p {
		for _, t := range takeNames {
			if slices.Contains(strings.Split(t.names, "|"), long) && s.measured(c) <= half && !(t.to == "kind" && s.distinct(c) > 40) {
				return Suggestion{To: "take." + t.to, Sure: Certain, Reason: fmt.Sprintf("%q is short for %s", c.Name, long)}, true
			}
		}
	}
	if links := s.share(c, func(v string) bool {
		v = strings.ToLower(v)
		return strings.HasPrefix(v, "http") && strings.Contains(v, ".pdf") || strings.HasSuffix(v, ".pdf")
	}); links > most && len(c.Sample) > 0 {
		return Suggestion{To: "take.datasheet", Sure: Likely, Reason: "the values lead to PDF files"}, true
	}
	return Suggestion{}, false
}

// Shares of a column's values that count as half and as nearly all.
const (
	half = 0.5
	most = 0.85
)

// named finds the parameter that has the field's name as label, key or synonym, and whose values the column can hold.
func (s *suggester) named(c Column, p, unit string) (Suggestion, bool) {
	if unit == "" && (strings.Contains(leadingNames, "|"+p+"|") || headings.English(c.Name) == "value") {
		return Suggestion{To: Leading, Sure: Certain, Reason: fmt.Sprintf("%q means each drawer's leading parameter", c.Name)}, true
	}
	var fits []cabinet.Parameter
	named := ""
	known, sure := false, Certain
	name, _ := headings.Unit(c.Name)
	for _, way := range s.ways(c.Name, name, p) {
		for _, par := range s.k.Cabinet.Document.Parameters {
			for _, n := range append([]string{par.Label, par.Key}, par.Synonyms...) {
				if !way.same(n) {
					continue
				}
				known = true
				u, system := s.unitFor(par, unit), s.system(c, par)
				if s.possible(par, unit) && (par.ChipCode == "" || system != "") && s.agree(c, par, u, system) >= way.least && !(par.Type == cabinet.Number && s.running(c)) {
					fits, named = append(fits, par), n
				}
				break
			}
		}
		if len(fits) > 0 {
			sure = way.sure
			break
		}
	}
	if len(s.in) > 0 { // only what a template wants comes in
		fits = slices.DeleteFunc(fits, func(p cabinet.Parameter) bool { return !s.in[p.Key] })
	}
	if strings.Contains(words(c.Name), "metric") { // "Case size (metric)" is the metric case where there is one
		for _, par := range s.k.Cabinet.Document.Parameters {
			if par.ChipCode == "metric" && (len(s.in) == 0 || s.in[par.Key]) && slices.ContainsFunc(fits, func(f cabinet.Parameter) bool { return f.ChipCode == "inch" }) && s.system(c, par) == "metric" {
				fits = []cabinet.Parameter{par}
			}
		}
	}
	if exact := slices.IndexFunc(fits, func(q cabinet.Parameter) bool { return words(q.Label) == words(c.Name) }); exact >= 0 {
		fits = fits[exact : exact+1]
	}
	if len(fits) != 1 {
		return Suggestion{}, known // a name that is known and does not fit is left open
	}
	par := fits[0]
	return Suggestion{To: par.Key, Unit: s.unitFor(par, unit), System: s.system(c, par), Sure: sure, Reason: fmt.Sprintf("%q is a name of %s%s", named, par.Label, s.andValues(c))}, true
}

// way is one way to hold a heading against the names of parameters, with how many of the values must fit.
type way struct {
	same  func(name string) bool
	sure  string
	least float64
}

// ways are, from the surest on: the heading as it is; the English phrase for one of another language; its abbreviations
// spelled out; the same words in another order.
func (s *suggester) ways(heading, name, p string) []way {
	out := []way{{func(n string) bool { return words(n) == p || words(n) == words(heading) }, Certain, half}}
	for _, form := range []string{heading, name} {
		if english := headings.English(form); english != "" {
			out = append(out, way{func(n string) bool { return words(n) == english }, Certain, half})
		}
	}
	long := headings.Long(name)
	if long != "" && long != p {
		out = append(out, way{func(n string) bool { return headings.Long(n) == long }, Likely, most})
	}
	bag := bagOf(long)
	if len(bag) > 1 {
		out = append(out, way{func(n string) bool { return slices.Equal(bagOf(headings.Long(n)), bag) }, Likely, most})
	}
	return out
}

// bagOf lists the words of a name that tell it apart, in the order of the alphabet.
func bagOf(name string) (out []string) {
	for _, w := range strings.Fields(name) {
		if !weak[w] || w == "rated" {
			if w == "rating" {
				w = "rated"
			}
			out = append(out, w)
		}
	}
	slices.Sort(out)
	return slices.Compact(out)
}

// running says whether a column counts its rows: 1, 2, 3.
func (s *suggester) running(c Column) bool {
	if len(c.Sample) < 3 {
		return false
	}
	for i, v := range c.Sample {
		n, err := strconv.Atoi(strings.TrimSpace(v))
		if err != nil {
			return false
		}
		if i > 0 {
			if before, _ := strconv.Atoi(strings.TrimSpace(c.Sample[i-1])); n <= before || n-before > 10 {
				return false
			}
		}
	}
	return true
}

func (s *suggester) andValues(c Column) string {
	if len(c.Sample) == 0 {
		return ""
	}
	return fmt.Sprintf(", and values such as %q fit", c.Sample[0])
}

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

// common are words that are choices of many parameters and tell nothing.
func common(v string) bool {
	switch strings.ToLower(strings.TrimSpace(v)) {
	case "yes", "no", "other", "none", "standard", "x":
		return true
	}
	return false
}

func sharedAny(p string, par cabinet.Parameter) (n int) {
	for _, name := range append([]string{par.Label}, par.Synonyms...) {
		n = max(n, sharedWords(strings.Fields(p), strings.Fields(words(name))))
	}
	return n
}

// weak are words that many parameters' names have.
var weak = map[string]bool{"rated": true, "rating": true, "max": true, "maximum": true, "min": true, "minimum": true, "nominal": true, "of": true, "value": true, "type": true, "at": true, "the": true, "typ": true, "range": true, "max.": true}

func sharedWords(a, b []string) (n int) {
	for _, w := range a {
		for _, v := range b {
			if !weak[w] && len(w) > 1 && (w == v || len(w) > 3 && len(v) > 3 && (strings.HasPrefix(v, w) || strings.HasPrefix(w, v))) {
				n++
				break
			}
		}
	}
	return n
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
	for _, v := range c.Sample {
		_, _, problem := Rule{From: c.Name, To: p.Key, Unit: unit, System: system}.Read(p, v, measure.MarkUnknown)
		switch {
		case problem == nil:
			good++
		case strings.HasPrefix(problem.Kind, "doubt"):
			good += 0.6 // which reading is meant is a question of its own
		}
	}
	return good / float64(len(c.Sample))
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
