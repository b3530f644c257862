package part

import (
	"fmt"
	"maps"
	"slices"
	"strings"
	"unicode"

	"jollydrawer/core/finding"
)

// Names of fields on a drawing that say for which part or series it was made, without blanks, hyphens and underscores.
var (
	numberFields = []string{"mpn", "manufacturerpartnumber", "manufacturerpartno", "mfrpartnumber", "mfrpn", "mfgpartnumber", "mfgpn", "mfpn", "makerspartnumber", "partnumber", "partno", "herstellernummer", "herstellerteilenummer", "herstellerartikelnummer", "artikelnummerhersteller"}
	seriesFields = []string{"series", "family", "productseries", "productfamily", "serie", "baureihe"}
)

// NamesAnother says where a drawing that comes for the part names another one: a field of it that holds a part number or a series which is none of
// the sources', or its own name, where that is a part number that known says others have. A number that goes on behind a source's, or ends before
// it, is the same product in another packing.
func (c *Content) NamesAnother(name string, fields map[string]string, known func(mpn string) bool) (out []finding.Finding) {
	if len(c.Sources) == 0 {
		return nil
	}
	mine := func(text string) bool {
		return slices.ContainsFunc(c.Sources, func(s Source) bool { return packed(s.MPN, text) || packed(text, s.MPN) })
	}
	say := func(field, text, what string) {
		out = append(out, finding.Finding{Severity: finding.Warning, Cause: "names-another", Field: field, Text: text, What: what, Mend: "look whether it was drawn for this part"})
	}
	for _, field := range slices.Sorted(maps.Keys(fields)) {
		text := strings.TrimSpace(fields[field])
		if NormaliseMPN(text) == "" {
			continue
		}
		key := strings.NewReplacer(" ", "", "-", "", "_", "", ".", "").Replace(strings.ToLower(field))
		switch {
		case slices.Contains(numberFields, key) && !mine(text):
			say(field, text, fmt.Sprintf("its field %s names %s, which is none of the part's sources", field, text))
		case slices.Contains(seriesFields, key) && !slices.ContainsFunc(c.Sources, func(s Source) bool { return inSeries(s.MPN, text) }):
			say(field, text, fmt.Sprintf("its field %s names the series %s, and no source of the part begins so", field, text))
		}
	}
	if !mine(name) && known(name) {
		say("", name, fmt.Sprintf("it is called %s, which is the part number of another part", name))
	}
	return out
}

// packed says whether long is short with a packing behind it: parted by a mark, or of letters only. What goes on with a digit is another value.
func packed(long, short string) bool {
	short = NormaliseMPN(short)
	if len(short) < 4 && short != NormaliseMPN(long) {
		return false
	}
	for i := range long + " " {
		if NormaliseMPN(long[:i]) != short {
			continue
		}
		rest := []rune(long[i:])
		return len(rest) == 0 || !unicode.IsLetter(rest[0]) && !unicode.IsDigit(rest[0]) || !slices.ContainsFunc(rest, func(r rune) bool { return !unicode.IsLetter(r) })
	}
	return false
}

// inSeries says whether a part number begins with a word of a series' name, or the name with it.
func inSeries(mpn, series string) bool {
	n := NormaliseMPN(mpn)
	whole := NormaliseMPN(series)
	if strings.HasPrefix(n, whole) {
		return true
	}
	for _, w := range strings.Fields(series) {
		if w := NormaliseMPN(w); len(w) >= 2 && strings.HasPrefix(n, w) {
			return true
		}
	}
	return false
}
