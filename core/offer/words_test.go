package offer

import (
	"fmt"
	"testing"

	"github.com/stretchr/testify/assert"

	"jollydrawer/core/money"
)

// Texts of shops in many languages, with what each says; X is what must not be read as a number of pieces or days.
func TestStocksInManyWords(t *testing.T) {
	for _, c := range []struct{ text, says string }{
		{"10 000", "10000"}, {"10 000 Stück", "10000"}, {"10.000 Stk.", "10000"}, {"10,000 In Stock", "10000"}, {"5 In Stock", "5"}, {"In stock: 250", "250"}, {"in stock", "X"}, {"Auf Lager", "X"}, {"auf Lager: 1.250", "1250"}, {"lagernd 500", "500"},
		{"0 pcs", "0"}, {"00012", "12"}, {"1 reel", "X"}, {"3 Rollen", "X"}, {"2 x 500", "X"}, {"500/1000", "X"}, {"~500", "X"}, {"ca. 500", "X"}, {"approx 500", "X"}, {"<100", "X"}, {"< 100", "X"}, {"up to 100", "X"}, {"max 500", "X"}, {"weniger als 10", "X"},
		{"≥ 1000", "1000+"}, {">=1000", "1000+"}, {"1000 +", "1000+"}, {"1.000+", "1000+"}, {">10.000 Stk", "10000+"}, {"min. 500", "500+"}, {"1k", "X"}, {"1K5", "X"}, {"1,5k", "X"}, {"2 Mio", "X"}, {"1e3", "X"}, {"+500", "X"}, {"-0", "X"}, {"−5", "X"}, {"(500)", "X"}, {"500 (reserved 200)", "X"}, {"500 on order", "X"}, {"500 im Zulauf", "X"}, {"500 bestellt", "X"},
		{"1.000.000", "1000000"}, {"1,000,000", "1000000"}, {"1 000 000", "1000000"}, {"1.00.000", "X"}, {"1,00,000", "X"}, {"12,34", "X"}, {"1.0", "1"}, {"1,000.00", "1000"}, {"1.000,00", "1000"}, {"1.000,50", "X"}, {"0.5", "X"}, {"1'234'567", "1234567"}, {"1’234", "1234"}, {"1·234", "X"}, {"٥٠٠", "X"}, {"５００", "X"}, {"五百", "X"}, {"500個", "500"}, {"500 个", "500"}, {"500 шт", "500"}, {"500 st", "500"}, {"500 stk.", "500"}, {"500 kpl", "500"}, {"500 szt.", "500"}, {"500 ks", "500"}, {"500 pçs", "500"}, {"500 peças", "500"}, {"500 stuks", "500"}, {"500 styck", "500"}, {"500 each", "500"}, {"500 qty", "500"}, {"Qty 500", "500"},
		{"500 m", "X"}, {"500 mm", "X"}, {"500 g", "X"}, {"500 kg", "X"}, {"500 €", "X"}, {"500 EUR", "X"}, {"500 days", "X"}, {"500 sets", "X"}, {"500 pairs", "X"}, {"500 packs", "X"}, {"500 boxes", "X"}, {"500 tubes", "X"}, {"500 trays", "X"}, {"yes", "X"}, {"ja", "X"}, {"no", "0"}, {"nein", "0"}, {"n/a", "X"}, {"-", "X"}, {"--", "X"}, {"?", "X"}, {"TBD", "X"}, {"null", "X"}, {"NULL", "X"}, {"none", "0"}, {"None", "0"}, {"zero", "X"}, {"keine", "0"}, {"nicht auf Lager", "0"}, {"out of stock", "0"}, {"Out Of Stock", "0"}, {"Sold out!", "X"}, {"slut i lager", "0"}, {"uitverkocht", "0"}, {"utsolgt", "0"}, {"brak", "0"}, {"esgotado", "0"}, {"非在庫", "X"}, {"缺货", "0"}, {"call", "X"}, {"auf Anfrage", "X"}, {"2026-12-01", "X"}, {"12:30", "X"}, {"1/2", "X"}, {"100%", "X"}, {"#5", "X"}, {"=5", "X"}, {"5;", "X"}, {"5 5", "X"}, {"5 000 0", "X"}, {"0 5", "X"}, {"1 234 5678", "X"}, {"999999999", "999999999"}, {"1000000001", "X"}, {"99999999999999999999", "X"}, {"1\u00a0234", "1234"}, {"1\u2009234", "1234"}, {"1\u3000234", "X"}, {" 42 ", "42"}, {"42\n", "42"}, {"4 2", "X"},
		{"more than 1.000", "1000+"}, {"plus de 100", "100+"}, {"más de 100", "100+"}, {"oltre 100", "100+"}, {"meer dan 100", "100+"}, {"over 9000", "9000+"}, {"ab 10", "10+"}, {"100 or more", "100+"}, {"100 und mehr", "100+"}, {"100 and up", "100+"}, {"at least 100", "100+"}, {"mindestens 100", "100+"}, {"100 - 200", "X"}, {"100-200", "X"}, {"100 bis 200", "X"},
	} {
		n, plus, err := Count(c.text, money.Unsaid)
		got := fmt.Sprint(n)
		if plus {
			got += "+"
		}
		if err != nil {
			got = "X"
		}
		assert.Equal(t, c.says, got, c.text)
	}
}

func TestLeadTimesInManyWords(t *testing.T) {
	for _, c := range []struct{ text, says string }{
		{"6 weeks", "42"}, {"6-8 weeks", "56"}, {"6 to 8 weeks", "56"}, {"8-6 weeks", "56"}, {"12 Wochen", "84"}, {"12 Wo.", "84"}, {"12W", "84"}, {"12 wks.", "84"}, {"10 d", "10"}, {"10 days", "10"}, {"10 business days", "X"}, {"10 working days", "X"}, {"10 Werktage", "X"}, {"10 Arbeitstage", "X"}, {"10 AT", "X"}, {"2 months", "62"}, {"2 Monate", "62"}, {"1 year", "X"}, {"1 Jahr", "X"}, {"24 h", "X"}, {"24h", "X"}, {"24 hours", "X"}, {"in stock", "X"}, {"immediate", "X"}, {"sofort", "X"}, {"stock", "X"}, {"0", "X"}, {"0 days", "0"}, {"12", "X"}, {"12+", "X"}, {"> 12 weeks", "X"}, {"<2 weeks", "X"}, {"ca. 6 Wochen", "X"}, {"6 weeks ARO", "X"}, {"W12", "X"}, {"KW12", "X"}, {"12/2027", "X"}, {"2027-03-01", "X"}, {"01.03.2027", "X"}, {"March", "X"}, {"Q1", "X"}, {"P3M", "93"}, {"P1Y", "X"}, {"P2W3D", "X"}, {"PT24H", "X"}, {"p12w", "84"}, {"P0D", "0"}, {"1.5 months", "X"}, {"1,5 Wochen", "X"}, {"½ week", "X"}, {"14 j", "14"}, {"14 jours ouvrés", "X"}, {"3 mois", "93"}, {"8 semanas", "56"}, {"8 weken", "56"}, {"8 veckor", "56"}, {"8 tygodni", "56"}, {"8 周", "56"}, {"8週間", "56"}, {"5 日", "5"}, {"3 m", "X"}, {"3 t", "3"}, {"99999 days", "X"}, {"-2 weeks", "X"}, {"two weeks", "X"}, {"2 weeks 3 days", "X"}, {"2 - 3", "X"}, {"12 weeks (factory)", "X"}, {"Lead time 12 weeks", "84"}, {"Lieferzeit: 12 Wochen", "84"}, {"12  weeks", "84"}, {"12 Weeks", "84"}, {"12 WEEKS", "84"}, {"1 week", "7"}, {"9 sem.", "63"}, {"4 settimane", "28"}, {"10 giorni", "10"}, {"3–4 Wochen", "28"}, {"3 / 4 weeks", "X"}, {"3 or 4 weeks", "X"}, {"3 a 4 semanas", "28"}, {"52 w", "364"}, {"999 weeks", "6993"},
	} {
		days, err := lead(c.text, "")
		got := fmt.Sprint(days)
		if err != nil {
			got = "X"
		}
		assert.Equal(t, c.says, got, c.text)
	}
}
