package measure

import (
	"strings"
	"unicode/utf8"
)

// hard stands in a folded text for a blank that does not break, or a thin one: such blanks group thousands.
const hard = '\x01'

func blank(c byte) bool { return c == ' ' || c == '\t' || c == hard }

// foldings rewrites rare code points to the ones the tables know. No digit is among the results, so that folding can
// never make a number or lengthen one: vulgar fractions, superscripts and digits of other scripts stay what they are.
var foldings = map[rune]string{
	'º': "°", '˚': "°", '℃': "°C", '℉': "°F", '−': "-", '–': "-", '—': "-", '‐': "-", '‑': "-", '‒': "-", '﹣': "-",
	'\u00a0': string(hard), '\u202f': string(hard), '\u2009': string(hard), '\u2007': string(hard), '\u2008': string(hard), '\u3000': " ", '\u2002': " ", '\u2003': " ",
	'∼': "~", '⁓': "~", '〜': "~", '≦': "≤", '≧': "≥", '⩽': "≤", '⩾': "≥", '⁄': "/", '∕': "/", '✕': "×", '✖': "×", '∙': "·", '⋅': "·", '•': "·",
	'㎂': "µA", '㎌': "µF", '㎋': "nF", '㎊': "pF", '㎃': "mA", '㎄': "kA", '㏀': "kΩ", '㏁': "MΩ", '㎑': "kHz", '㎒': "MHz", '㎓': "GHz", '㎐': "Hz", '㎜': "mm", '㎝': "cm", '㎛': "µm", '㎚': "nm",
	'㎎': "mg", '㎏': "kg", '㎷': "mV", '㎶': "µV", '㎸': "kV", '㎽': "mW", '㎾': "kW", '㎼': "µW", '㎱': "ns", '㎲': "µs", '㎳': "ms", '㎩': "Pa", '㎪': "kPa", '㎫': "MPa", '㎟': "mm²", '㎠': "cm²",
	'\u2126': "Ω", 'μ': "µ", '″': "\"", '”': "\"", '’': "'", '′': "'", '‵': "'", '\ufeff': "",
}

// plain says whether the two-byte code point at s[i] needs no folding.
func plain(s string, i int) bool {
	switch s[i] {
	case 0xC2:
		return i+1 < len(s) && strings.IndexByte("\xb5\xb0\xb1\xb2\xb3\xb7\xbc\xbd\xbe\xb9", s[i+1]) >= 0 // µ ° ± ² ³ · ¼ ½ ¾ ¹
	case 0xC3:
		return i+1 < len(s) && (s[i+1] == 0x97 || s[i+1] == 0xb7) // × ÷
	case 0xCE:
		return i+1 < len(s) && s[i+1] == 0xA9 // Ω
	}
	return false
}

// fold rewrites a text to what the tables know; ordinary texts come back as they are, with no places. at gives, for
// each byte of the folded text and its end, the place in the text as it was.
func fold(s string) (folded string, at []uint16) {
	for i := 0; i < len(s); i++ {
		if s[i] < 0x80 {
			continue
		}
		if !plain(s, i) {
			return foldRare(s)
		}
		i++
	}
	return s, nil
}

func foldRare(s string) (string, []uint16) {
	var b strings.Builder
	at := make([]uint16, 0, len(s)+1)
	mixed := strings.ContainsAny(s, "0123456789")
	for i, r := range s {
		to, known := foldings[r]
		switch {
		case known:
		case r == utf8.RuneError: // not UTF-8: kept as a sign that nothing knows
			to = "\x02"
		case r >= '！' && r <= '～' && !(r >= '０' && r <= '９'):
			to = string(rune(r - 0xFEE0))
		case r >= '０' && r <= '９' && !mixed:
			to = string(rune(r - 0xFEE0))
		default:
			to = string(r)
		}
		for range len(to) {
			at = append(at, uint16(i))
		}
		b.WriteString(to)
	}
	return b.String(), append(at, uint16(len(s)))
}

// foldSigns is fold for texts whose places nobody asks for, such as unit names.
func foldSigns(s string) string {
	s, _ = fold(s)
	return s
}
