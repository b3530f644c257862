// Package headings knows how the columns of a parts list or BOM are headed in English, German, French, Spanish and
// Italian, and of what words the usual ones are made in more languages, and gives each heading the one English phrase
// that means the same. What a phrase means to a BOM or to a
// template is left to the callers.
package headings

import (
	_ "embed"
	"strings"
	"unicode"
)

//go:embed terms.txt
var termsText string

// terms maps a plain heading to the English phrase.
var terms = func() map[string]string {
	m := map[string]string{}
	for _, line := range strings.Split(strings.TrimSpace(termsText), "\n") {
		english, others, _ := strings.Cut(line, "=")
		english = strings.TrimSpace(english)
		for _, term := range strings.FieldsFunc(others, func(r rune) bool { return r == '|' || r == ';' }) {
			for _, p := range []string{Plain(term), Plain(umlauts.Replace(strings.ToLower(term)))} {
				if _, taken := m[p]; !taken && p != "" {
					m[p] = english
				}
			}
		}
	}
	return m
}()

var umlauts = strings.NewReplacer("ä", "ae", "ö", "oe", "ü", "ue")

// accents writes letters without their marks, so that "Größe", "Groesse" and "grosse" meet.
var accents = strings.NewReplacer("ä", "a", "ö", "o", "ü", "u", "ß", "ss", "á", "a", "à", "a", "â", "a", "ã", "a", "é", "e", "è", "e", "ê", "e", "ë", "e", "í", "i", "ì", "i", "î", "i", "ï", "i",
	"ó", "o", "ò", "o", "ô", "o", "ú", "u", "ù", "u", "û", "u", "ñ", "n", "ç", "c", "œ", "oe", "º", "o", "°", "o", "ı", "i")

// Plain writes a heading in small letters without marks, punctuation or doubled blanks.
func Plain(heading string) string {
	return strings.Join(strings.FieldsFunc(accents.Replace(strings.ToLower(heading)), func(r rune) bool { return !unicode.IsLetter(r) && !unicode.IsDigit(r) }), " ")
}

// English gives the English phrase for a heading of another language, as one word or several and whichever way "number"
// is abbreviated in it; "" where the heading is none that is known.
func English(heading string) string {
	p := Plain(heading)
	if english, ok := terms[p]; ok {
		return english
	}
	if english := joined[strings.Join(hashed(p), "")]; english != "" {
		return english
	}
	return Composed(heading)
}

// short are the abbreviations of headings, word by word.
var short = map[string]string{
	"mfr": "manufacturer", "mfg": "manufacturer", "manuf": "manufacturer", "manu": "manufacturer", "mnf": "manufacturer", "pn": "part number", "no": "number", "nr": "number", "num": "number", "qty": "quantity", "desc": "description", "descr": "description",
	"volt": "voltage", "volts": "voltage", "curr": "current", "amps": "current", "freq": "frequency", "temp": "temperature", "tol": "tolerance", "cap": "capacitance", "capac": "capacitance", "ind": "inductance", "induct": "inductance", "res": "resistance", "resist": "resistance", "pwr": "power", "watt": "power", "watts": "power",
	"op": "operating", "oper": "operating", "max": "", "maximum": "", "min": "", "minimum": "", "typ": "", "typical": "", "nom": "", "nominal": "", "rtg": "rating", "rat": "rating", "coeff": "coefficient", "coef": "coefficient", "dia": "diameter", "diam": "diameter", "thk": "thickness", "len": "length", "wid": "width", "ht": "height", "hgt": "height",
	"pkg": "package", "pack": "package", "mtg": "mounting", "mount": "mounting", "fwd": "forward", "rev": "reverse", "sat": "saturation", "isol": "isolation", "iso": "isolation", "thr": "threshold", "sw": "switching", "clk": "clock", "mem": "memory", "pos": "positions", "ch": "channels", "imp": "impedance", "wl": "wavelength", "lum": "luminous", "col": "colour", "color": "colour",
	"supp": "supplier", "vend": "supplier", "vendor": "supplier", "distr": "supplier", "dist": "supplier", "cat": "category", "ref": "designator", "refdes": "designator", "des": "designator", "diel": "dielectric",
}

// Long writes a heading with its abbreviations spelled out and without the words that only limit: "Volt. rtg. (max)" is
// "voltage rating".
func Long(heading string) string {
	var out []string
	for _, w := range strings.Fields(strings.ReplaceAll(" "+Plain(heading)+" ", " p n ", " pn ")) {
		if long, ok := short[w]; ok {
			w = long
		}
		if w != "" {
			out = append(out, w)
		}
	}
	return strings.Join(out, " ")
}
