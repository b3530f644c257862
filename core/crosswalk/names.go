package crosswalk

import (
	"fmt"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"unicode"

	"jollydrawer/core/cabinet"
	"jollydrawer/core/headings"
	"jollydrawer/core/lifecycle"
	"jollydrawer/core/money"
)

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
	{"state", "product status|part status|lifecycle|lifecycle status|life cycle|life cycle status|part lifecycle|production status|lifecycle state|life cycle phase"},
	{"stock", "stock|in stock|stock quantity|stock qty|quantity in stock|qty in stock|on hand|quantity on hand|available quantity|qty available|stock level"},
	{"price", "price|unit price|net price|list price|price each|price per piece|net unit price"},
	{"currency", "currency|price currency|currency code"},
	{"designator", "designator|reference designator|ref des|refdes|ref prefix|designator letter"},
}

// offered says of the places of an offer what their texts look like: a column "Stock" that holds "surface" is something else.
var offered = map[string]func(string) bool{
	"stock":    stockForm.MatchString,
	"price":    priceForm.MatchString,
	"currency": isCurrency,
}

// Offers says whether a place of a suggestion is one of an offer, such as take.stock.
func Offers(to string) bool {
	place, ok := strings.CutPrefix(to, "take.")
	return ok && offered[place] != nil
}

var (
	stockForm = regexp.MustCompile(`^[0-9][0-9.,' ]*( ?(pcs|pc|pieces|stk|st))?\.?$`)
	priceForm = regexp.MustCompile(`^(?:[€$£¥]|[A-Z]{3})? ?[0-9][0-9.,' ]*(?: ?(?:[€$£¥]|[A-Z]{3}))?$`)
)

// isCurrency says whether a text is a currency's code or sign.
func isCurrency(v string) bool {
	_, ok := money.Currency(v)
	return v == "$" || v == "¥" || ok && v == strings.ToUpper(v)
}

// ofOne are the words that may stand beside the name of an offer's place and leave it what it is: a currency, how taxes are held, one piece.
var ofOne = map[string]bool{"net": true, "netto": true, "excl": true, "without": true, "vat": true, "tax": true, "ex": true, "per": true, "each": true, "a": true, "piece": true, "pieces": true, "pc": true, "pcs": true, "unit": true, "1": true, "in": true, "stk": true, "stück": true, "je": true, "pro": true}

// plainOffer says whether nothing in a heading says that the numbers below are of something else: a price of a hundred, a stock in reels. name is
// what the heading was taken by.
func plainOffer(heading, name string) bool {
	named := strings.Fields(words(name))
	for _, w := range strings.FieldsFunc(heading, func(r rune) bool { return unicode.IsSpace(r) || strings.ContainsRune("()[]{}/.,:;_-", r) }) {
		low := strings.ToLower(w)
		if slices.Contains(named, low) || ofOne[low] || isCurrency(w) {
			continue
		}
		return false
	}
	return true
}

// describing are the fields that an aside leaves what they are: a description in German describes.
var describing = map[string]bool{"description": true, "datasheet": true, "kind": true, "state": true}

// NamesSource says whether a heading is a usual name for what says which part something is: its maker, its numbers, the supplier's.
func NamesSource(heading string) bool {
	for _, to := range []string{takenAs(words(heading)), takenAs(headings.Long(heading)), takeEnglish[headings.English(heading)]} {
		switch to {
		case "number", "manufacturer", "mpn", "supplierNumber":
			return true
		}
	}
	return false
}

// takenAs is what a heading is a usual name for; blank where it is none.
func takenAs(p string) string {
	for _, t := range takeNames {
		if slices.Contains(strings.Split(t.names, "|"), p) {
			return t.to
		}
	}
	return ""
}

// leadingNames are what people call a column that holds each kind's own value.
var leadingNames = "|value|val|nominal|nominal value|rated value|part value|"

// takeEnglish says what the English phrases of other languages' headings identify, and which of them have no place at all.
var takeEnglish = map[string]string{"part number": "number", "manufacturer": "manufacturer", "manufacturer part number": "mpn", "supplier number": "supplierNumber", "description": "description", "datasheet": "datasheet", "category": "kind", "designator": "designator",
	"stock": "stock", "price": "price", "currency": "currency", "item": "", "packing": "", "minimum order": "", "quantity": "", "status": "", "weight": "", "country of origin": "", "fitted": "", "supplier": ""}

// nowhere are headings that no template has a place for.
var nowhere = map[string]bool{"price": true, "unit price": true, "stock": true, "in stock": true, "availability": true, "available": true, "packing": true, "packaging": true, "package quantity": true, "pack size": true, "minimum order": true, "moq": true, "minimum quantity": true, "lead time": true, "status": true,
	"part status": true, "weight": true, "country of origin": true, "origin": true, "tariff": true, "customs tariff": true, "hs code": true, "eccn": true, "image": true, "photo": true, "picture": true, "last change": true, "created": true, "updated": true, "currency": true, "vat": true, "discount": true, "quantity": true, "qty": true,
	"line": true, "no": true, "nr": true, "item": true, "row": true, "id": true, "index": true, "#": true, "features": true, "feature": true, "applications": true, "application": true, "barcode": true, "warehouse": true, "bin": true, "location": true, "buyer": true, "reel size": true, "multiple": true, "url": true, "link": true, "supplier": true, "vendor": true, "notes for buyer": true}

// ownWords are beginnings of words by which a heading says that a number is the house's own, in six languages.
var ownWords = []string{"our", "own", "house", "internal", "library", "record", "unser", "eigen", "intern", "haus", "lager", "sachn", "materialn", "notre", "nuestr", "nostr", "propi", "propr", "自社", "社内", "当社"}

// ours says whether a column holds the house's own numbers. "Part number" or "Artikelnr." does not tell whose: a supplier calls its own so, a
// library its own. The heading says it, or the values are of the form of a drawer's numbers.
func (s *suggester) ours(c Column) bool {
	for _, w := range strings.Fields(words(c.Name)) {
		if slices.ContainsFunc(ownWords, func(own string) bool { return strings.HasPrefix(w, own) }) {
			return true
		}
	}
	if s.k.Cabinet == nil {
		return false
	}
	return len(c.Sample) > 0 && s.share(c, s.k.Cabinet.Numbered) > half
}

// taking finds the fields that identify a row, by their names, where the values do not speak against it.
func (s *suggester) taking(c Column, p, unit string) (Suggestion, bool) {
	if stated := s.share(c, func(v string) bool { _, ok := lifecycle.Stated(v); return ok }); len(c.Sample) > 0 && stated > most {
		sure := Likely
		if p == "status" || takenAs(p) == "state" || takenAs(headings.Long(c.Name)) == "state" {
			sure = Certain
		}
		return Suggestion{To: "take.state", Sure: sure, Reason: fmt.Sprintf("the values, such as %q, say how a product stands", c.Sample[0])}, true
	}
	if to := takenAs(p); to != "" {
		if to == "state" { // of a column whose values say something else
			return Suggestion{}, false
		}
		if offered[to] != nil && s.share(c, offered[to]) <= most {
			return Suggestion{}, false
		}
		if offered[to] != nil && !plainOffer(c.Name, p) {
			return Suggestion{}, true
		}
		if to != "description" && to != "datasheet" && s.measured(c) > half {
			return Suggestion{}, false // a column "Family" that holds values is something else
		}
		if to == "kind" && s.distinct(c) > 40 {
			return Suggestion{}, false
		}
		return Suggestion{To: "take." + to, Sure: Certain, Reason: fmt.Sprintf("%q is a usual name for it", c.Name)}, true
	}
	english, sure, reason := headings.English(c.Name), Certain, "%q means %s"
	if english == "" {
		english, sure, reason = headings.Abbreviated(c.Name), Likely, "%q seems short for %s"
	}
	if english != "" {
		to, known := takeEnglish[english]
		switch {
		case !known:
		case to == "", offered[to] != nil && s.share(c, offered[to]) <= most:
			return Suggestion{}, true
		case to == "kind" && s.distinct(c) > 40, to != "description" && to != "datasheet" && s.measured(c) > half, to == "number" && s.running(c),
			sure == Likely && (to == "mpn" || to == "number" || to == "supplierNumber") && s.share(c, digitless) > half: // "Type: Schottky" is no number
			return Suggestion{}, false
		default:
			return Suggestion{To: "take." + to, Sure: sure, Reason: fmt.Sprintf(reason, c.Name, english)}, true
		}
	}
	if nowhere[p] || nowhere[headings.Plain(c.Name)] {
		return Suggestion{}, true
	}
	if long := headings.Long(c.Name); long != p {
		if to := takenAs(long); to != "" && (offered[to] == nil || len(strings.Fields(long)) == len(strings.Fields(headings.Plain(c.Name)))) && s.measured(c) <= half && !(to == "kind" && s.distinct(c) > 40) {
			return Suggestion{To: "take." + to, Sure: Certain, Reason: fmt.Sprintf("%q is short for %s", c.Name, long)}, true
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

// digitless says whether a text has no digit, as hardly any number of a part does.
func digitless(text string) bool { return !strings.ContainsFunc(text, unicode.IsDigit) }

// named finds the parameter that has the field's name as label, key or synonym, and whose values the column can hold.
func (s *suggester) named(c Column, p, unit string) (Suggestion, bool) {
	if unit == "" && (strings.Contains(leadingNames, "|"+p+"|") || headings.English(c.Name) == "value") {
		return Suggestion{To: Leading, Sure: Certain, Reason: fmt.Sprintf("%q means each drawer's leading parameter", c.Name)}, true
	}
	var fits []cabinet.Parameter
	named := ""
	known, sure := false, Certain
	name, _ := headings.Unit(c.Name)
	if headings.Aside(c.Name) != "" {
		name = c.Name
	}
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
	return Suggestion{To: par.Key, Unit: s.unitFor(par, unit), System: s.system(c, par), Sure: sure, Reason: meant(c.Name, named, par.Label) + s.andValues(c)}, true
}

// meant says why a heading is taken for a parameter: it is one of its names, or comes to one.
func meant(heading, name, label string) string {
	if plain, _ := headings.Unit(heading); words(plain) == words(name) || words(heading) == words(name) {
		return fmt.Sprintf("%q is a name of %s", name, label)
	}
	if words(name) == words(label) {
		return fmt.Sprintf("%q means %s", heading, label)
	}
	return fmt.Sprintf("%q means %s, a name of %s", heading, strings.ToLower(name), label)
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
	if english := headings.Abbreviated(name); english != "" {
		out = append(out, way{func(n string) bool { return words(n) == english }, Likely, most})
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
		if w == "rating" {
			w = "rated"
		}
		if !weak[w] || w == "rated" {
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
