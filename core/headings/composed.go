package headings

import (
	_ "embed"
	"slices"
	"strings"
	"unicode"
)

//go:embed words.txt
var wordsText string

// notions maps the single words of headings, in whatever language, to what each stands for: "fabrikant" is the maker.
var notions = func() map[string]string {
	m := map[string]string{"pn": "part number", "mpn": "maker part number", "ipn": "own part number", "型番": "type number", "型号": "type number", "型號": "type number"}
	for _, line := range strings.Split(strings.TrimSpace(wordsText), "\n") {
		notion, words, _ := strings.Cut(line, " = ")
		for _, w := range strings.Fields(words) {
			m[Plain(w)] = notion
			m[Plain(umlauts.Replace(w))] = notion
		}
	}
	return m
}()

// between are words that join others and add nothing.
var between = wordSet("of the for and de du des d del della delle di da do dos l la le les der die das dem des vom von und für van het en og och av af fra od за по の 的 s")

// composed maps the notions of a heading, sorted, to the English phrase. What is not here is no heading that is known: a total or a quantity of a lot is no
// quantity of a board, and a code of a manufacturer may be of the manufacturer itself.
var composed = func() map[string]string {
	m := map[string]string{}
	for english, sets := range map[string]string{
		"manufacturer":             "maker|maker name",
		"manufacturer part number": "maker number|maker part|maker part number|making part number|maker part code|maker part reference|maker reference|type number|maker type|maker type number|maker type code|maker order number|maker order code|maker order reference|maker number reference",
		"supplier":                 "supplier|supplier name",
		"supplier number":          "supplier number|supplier part|supplier part number|supplier part code|supplier part reference|supplier reference|supplier order number|supplier order code|order number|order code|order reference|order part number|supplier number reference",
		"part number":              "own number|own part number|own part code|own part reference|own reference|part number",
		"quantity":                 "quantity|quantity per board|quantity board|part quantity|part quantity board|part quantity per board",
		"value":                    "value|value rated|part value|part value rated",
		"package":                  "package|package type|package form|package part|package part type|package form part|package name",
		"description":              "description|part description",
		"designator":               "designator|part designator|designator reference",
	} {
		for _, set := range strings.Split(sets, "|") {
			words := strings.Fields(set)
			slices.Sort(words)
			m[strings.Join(words, " ")] = english
		}
	}
	return m
}()

// Composed gives the English phrase for a heading whose words, in any order and in one compound or several, are all known: "Artikelnummer Hersteller",
// "Leverantörens artikelnr", "部品番号". "" where one of its words is not, or where together they mean nothing here.
func Composed(heading string) string {
	p := Plain(heading)
	if len(p) > 80 {
		return ""
	}
	var all []string
	words := strings.Fields(strings.ReplaceAll(" "+p+" ", " p n ", " pn "))
	if len(words) == 3 && notions[words[0]] == "number" && between[words[1]] && notions[words[2]] == "part" && strings.ContainsAny(words[2][len(words[2])-1:], "si") { // how many there are
		return ""
	}
	for _, w := range words {
		parts, ok := partsOf(w, map[string]bool{})
		if !ok {
			return ""
		}
		all = append(all, parts...)
	}
	if board := slices.Index(all, "board"); board >= 0 && board < slices.Index(all, "quantity") && !slices.Contains(all, "per") { // how many boards
		return ""
	}
	slices.Sort(all)
	return composed[strings.Join(slices.Compact(all), " ")]
}

// partsOf are the notions of a word: its own, or those of the words that it is composed of, with the letters that join them. dead are the ends of it that are known to be
// none, so that a heading that nearly is one a thousand times is given up as soon as any.
func partsOf(w string, dead map[string]bool) ([]string, bool) {
	if between[w] {
		return nil, true
	}
	if n, ok := notions[w]; ok {
		return strings.Fields(n), true
	}
	if dead[w] {
		return nil, false
	}
	for cut := len(w) - 1; cut > 0; cut-- {
		first, ok := notions[w[:cut]]
		if !ok || !long(w[:cut], 4) {
			continue
		}
		for _, link := range []string{"", "s", "n", "en", "es", "ns", "ens", "er"} {
			rest, has := strings.CutPrefix(w[cut:], link)
			if !has || !long(rest, 2) {
				continue
			}
			if more, ok := partsOf(rest, dead); ok && len(more) > 0 {
				return append(strings.Fields(first), more...), true
			}
		}
	}
	dead[w] = true
	return nil, false
}

// long says whether a word has so many letters that it is no chance that it begins or ends another; of signs that are words one is enough.
func long(w string, least int) bool {
	n := 0
	for _, r := range w {
		if unicode.Is(unicode.Han, r) || unicode.Is(unicode.Katakana, r) || unicode.Is(unicode.Hangul, r) {
			return true
		}
		n++
	}
	return n >= least
}
