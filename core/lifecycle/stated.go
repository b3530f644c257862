package lifecycle

import (
	"strings"
	"unicode"
)

// stating is what a phrase of a supplier's text does to what the text says.
type stating uint8

const (
	besides    stating = iota + 1 // says nothing of the standing: "product", "status"
	soon                          // what is over in the phrases beside it is so from some day on: "announced"
	isActive                      // made and sold
	isEnding                      // made, and not to be used for anything new
	isObsolete                    // not made any more
)

// statedWords are the phrases in which suppliers and makers say how a product stands, parted by ";", letters and digits with one blank between words.
var statedWords = map[stating]string{
	besides: "product;products;produkt;produit;producto;prodotto;part;parts;component;item;artikel;bauteil;status;state;lifecycle;life cycle;lebenszyklus;cycle de vie;stage;phase;at supplier;by supplier;by the supplier;by manufacturer;by the manufacturer;" +
		"at manufacturer;by maker;by the maker;vom hersteller;in stock;ab lager;still;currently;now;derzeit;品;です",
	soon: "announced;pending;notice;planned;scheduled;soon;being;going;will be;to be;angekündigt;geplant;bald;wird;annoncé;annoncée;prévu;prévue;anunciado;annunciato;予定",
	isActive: "active;in production;production;current;available;full production;volume production;mass production;series production;new product;released;preferred;recommended;recommended for new design;recommended for new designs;" +
		"in serie;in produktion;lieferbar;aktiv;serienprodukt;serie;actif;en production;en cours de production;activo;en producción;attivo;in produzione;量産中;量産;生産中",
	isEnding: "nrnd;n r n d;nrfnd;nfnd;not recommended;not recommended for new design;not recommended for new designs;not recommended for new projects;not for new design;not for new designs;inactive for new design;inactive for new designs;" +
		"last time buy;last buy;lifetime buy;life time buy;ltb;last order;final order;last shipment;phase out;phasing out;mature;nicht für neuentwicklung;nicht für neuentwicklungen;nicht mehr für neuentwicklungen;" +
		"nicht für neuentwicklungen empfohlen;nicht mehr für neuentwicklungen empfohlen;nicht empfohlen;nicht mehr empfohlen;nicht für neue entwicklungen;letzte bestellung;letzte bestellmöglichkeit;auslaufend;abkündigung;auslaufartikel;auslauf;" +
		"déconseillé;déconseillé pour les nouveaux développements;non recommandé;non recommandé pour nouvelles conceptions;non recommandé pour les nouvelles conceptions;fin de série;no recomendado;no recomendado para nuevos diseños;" +
		"sconsigliato;sconsigliato per nuovi progetti;non raccomandato;non raccomandato per nuovi progetti;新規設計非推奨;新規非推奨;新規設計には推奨しません",
	isObsolete: "obsolete;eol;e o l;end of life;discontinued;discontinuation;out of production;not in production;no longer produced;no longer in production;no longer manufactured;no longer available;not available any more;not available anymore;" +
		"withdrawn;cancelled;canceled;abgekündigt;obsolet;eingestellt;produktion eingestellt;nicht mehr lieferbar;nicht mehr verfügbar;nicht mehr in produktion;nicht mehr erhältlich;ausgelaufen;obsolète;arrêté;" +
		"arrêt de production;fin de vie;abandonné;obsoleto;descatalogado;discontinuado;fuori produzione;fuori catalogo;dismesso;生産終了;製造中止;廃止;ディスコン",
}

var stated, longestStated = func() (map[string]stating, int) {
	out, most := map[string]stating{}, 0
	for s, all := range statedWords {
		for w := range strings.SplitSeq(all, ";") {
			out[w] = s
			most = max(most, len([]rune(w)))
		}
	}
	return out, most
}()

// Stated reads what a supplier says of how a product stands, such as "NRND", "End of Life (EOL)", "Product status: obsolete" or "abgekündigt".
// ok is false where a word of the text is not known, where it says two things ("obsolete, last time buy") or none: "not obsolete" and
// "EOL 2031-04" are left to people. What is announced to be over is not recommended by now: "discontinuation notice".
func Stated(text string) (s Standing, ok bool) {
	left := []rune(strings.Join(strings.FieldsFunc(strings.ToLower(text), func(r rune) bool { return !unicode.IsLetter(r) && !unicode.IsDigit(r) }), " "))
	said := map[stating]bool{}
	for len(left) > 0 {
		n := min(longestStated, len(left))
		for ; n > 0; n-- { // the longest phrase that ends where a word ends
			if what, known := stated[string(left[:n])]; known && borders(left, n) {
				said[what] = true
				break
			}
		}
		if n == 0 {
			return "", false
		}
		if left = left[n:]; len(left) > 0 && left[0] == ' ' {
			left = left[1:]
		}
	}
	switch active, ending, over := said[isActive], said[isEnding], said[isObsolete]; {
	case active && !ending && !over && !said[soon]:
		return Active, true
	case ending && !active && !over, over && said[soon] && !active:
		return NotForNew, true
	case over && !active && !ending:
		return Obsolete, true
	}
	return "", false
}

// borders says whether a word ends before the nth letter. Scripts without blanks have no such borders.
func borders(text []rune, n int) bool {
	return n == len(text) || text[n] == ' ' || unicode.In(text[n-1], unicode.Han, unicode.Katakana, unicode.Hiragana)
}
