package headings

import (
	"cmp"
	"slices"
	"strings"
	"unicode"

	"jollydrawer/core/measure"
)

// Unit parts "Power (W)", "Pitch/mm", "Iout [mA]" and "Length in mm" into name and unit; unit is blank where none is named.
// What else stands in brackets, or behind them, is no part of the name: Aside tells whether it says something.
func Unit(heading string) (name, unit string) {
	name = upright(heading)
	for _, around := range [...][2]string{{"(", ")"}, {"[", "]"}, {"/", ""}, {" in ", ""}, {", ", ""}} {
		i := strings.LastIndex(name, around[0])
		if i <= 0 || !strings.HasSuffix(name, around[1]) {
			continue
		}
		if u := strings.TrimSpace(strings.TrimSuffix(name[i+len(around[0]):], around[1])); measure.KnownUnit(u) {
			return strings.TrimSpace(name[:i]), u
		}
	}
	if i := strings.IndexAny(name, "([{"); i > 0 {
		name = name[:i]
	}
	return strings.TrimSpace(name), ""
}

var wideSigns = strings.NewReplacer("（", "(", "）", ")", "［", "[", "］", "]", "【", "[", "】", "]", "｛", "{", "｝", "}", "／", "/", "　", " ")

// upright writes a heading with the brackets that all languages share.
func upright(heading string) string { return strings.TrimSpace(wideSigns.Replace(heading)) }

// sayNothing are words in brackets that leave a heading what it is: endings of the plural, how a cell is written, that one has to be filled, that one is one.
var sayNothing = wordSet("s es n en e er nen x pcs pc piece pieces st stk stck stuck each ea text optional required mandatory pflicht pflichtfeld code name inch inches zoll metric metrisch mm imperial approx ca abs list main primary first preferred 1 1st " +
	"german english french deutsch englisch en de fr jedec eia")

func wordSet(words string) map[string]bool {
	m := map[string]bool{}
	for _, w := range strings.Fields(words) {
		m[Plain(w)] = true
	}
	return m
}

// Aside is what a heading says in brackets, or behind them, beside its name and unit, where that may make it another thing than its name alone: "Qty (10 boards)", "Manufacturer (alternative)",
// "Value (EUR)", "Voltage (V) drop". "" where nothing is said, or only what the name says already: a unit, a plural, a limit, the same in another language, its symbol.
func Aside(heading string) string {
	name, unit := Unit(heading)
	if unit != "" && !strings.EqualFold(unit, "second") { // which is a place in a row as well
		return ""
	}
	aside := strings.TrimSpace(upright(heading)[len(name):])
	inside := strings.Trim(aside, "()[]{} ")
	english := func(text string) string { return cmp.Or(English(text), Long(text)) }
	if inside == "" || english(inside) == english(name) || isSymbolOf(inside, english(name)) {
		return ""
	}
	known := map[string]bool{}
	for _, w := range append(strings.Fields(Plain(name)), strings.Fields(english(name))...) {
		known[w] = true
	}
	for _, w := range strings.FieldsFunc(inside, func(r rune) bool { return unicode.IsSpace(r) || strings.ContainsRune(",;:()[]{}/|", r) }) {
		p := Plain(w)
		long, limits := short[p]
		if p == "" && !strings.ContainsFunc(w, isCurrency) || sayNothing[p] || known[p] || limits && (long == "" || known[long]) || p != "second" && measure.KnownUnit(w) || known[notions[p]] {
			continue
		}
		return aside
	}
	return ""
}

// quantities are the first letters of symbols with what they stand for.
var quantities = map[rune]string{'V': "voltage", 'U': "voltage", 'I': "current", 'R': "resistance", 'C': "capacitance", 'L': "inductance length", 'P': "power", 'Q': "charge", 'T': "temperature", 't': "time", 'f': "frequency"}

// isSymbolOf says whether a text is the symbol of what a name says: one letter, or more beside a name of several words, which tells by itself which it is. A voltage and the
// like of several words is of direct current where that is said, too.
func isSymbolOf(text, name string) bool {
	words := strings.Fields(Plain(name))
	runes := []rune(text)
	if len(runes) > 6 || len(runes) > 1 && len(words) < 2 {
		return false
	}
	if strings.EqualFold(text, "dc") {
		return slices.Contains(words, "voltage") || slices.Contains(words, "current")
	}
	return !strings.ContainsFunc(text, func(r rune) bool { return !unicode.IsLetter(r) && r != '_' }) && slices.ContainsFunc(strings.Fields(quantities[runes[0]]), func(of string) bool { return slices.Contains(words, of) })
}

func isCurrency(r rune) bool { return unicode.Is(unicode.Sc, r) }
