package lifecycle

import (
	"strings"
	"unicode"
)

// statedWords are the ways in which suppliers and makers say how a product stands, as letters and digits parted by one blank.
var statedWords = map[Standing][]string{
	Active: {"active", "in production", "production", "current", "available", "full production", "new product", "in serie", "in produktion", "lieferbar", "aktiv", "serienprodukt", "actif", "en production", "activo", "en producción",
		"attivo", "in produzione", "量産中", "生産中"},
	NotForNew: {"nrnd", "nfnd", "not recommended", "not recommended for new design", "not recommended for new designs", "not for new design", "not for new designs", "not recommended for new projects", "last time buy", "ltb", "last order",
		"to be discontinued", "phase out", "phasing out", "mature", "nicht für neuentwicklungen", "nicht empfohlen", "nicht mehr empfohlen", "nicht für neue entwicklungen", "auslaufend", "auslaufartikel", "auslauf", "déconseillé",
		"non recommandé", "non recommandé pour nouvelles conceptions", "no recomendado", "no recomendado para nuevos diseños", "sconsigliato", "non raccomandato", "新規設計非推奨", "新規非推奨"},
	Obsolete: {"obsolete", "eol", "end of life", "discontinued", "discontinuation", "out of production", "no longer produced", "no longer manufactured", "no longer available", "withdrawn", "abgekündigt", "obsolet", "eingestellt",
		"nicht mehr lieferbar", "nicht mehr in produktion", "ausgelaufen", "obsolète", "arrêté", "fin de vie", "abandonné", "obsoleto", "descatalogado", "discontinuado", "fuori produzione", "fuori catalogo", "dismesso", "生産終了", "製造中止", "廃止", "ディスコン"},
}

var statedBy = func() map[string]Standing {
	out := map[string]Standing{}
	for s, all := range statedWords {
		for _, w := range all {
			out[w] = s
		}
	}
	return out
}()

// Stated reads what a supplier says of how a product stands, such as "NRND", "End-of-Life" or "abgekündigt"; ok is false where the text says
// nothing known. The whole text has to be such a word: "not obsolete" is none.
func Stated(text string) (s Standing, ok bool) {
	plain := strings.Join(strings.FieldsFunc(strings.ToLower(text), func(r rune) bool { return !unicode.IsLetter(r) && !unicode.IsDigit(r) }), " ")
	if s, ok = statedBy[plain]; ok {
		return s, true
	}
	for _, before := range []string{"status ", "product ", "part "} { // "Product: Obsolete"
		if rest, cut := strings.CutPrefix(plain, before); cut {
			if s, ok = statedBy[rest]; ok {
				return s, true
			}
		}
	}
	return "", false
}
