package offer

import (
	"fmt"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"time"

	"jollydrawer/core/money"
)

// Raw is an offer in a supplier's texts, as they came. What it does not say is blank.
type Raw struct {
	Number, Packing, Manufacturer, MPN string
	Stock, Minimum, Multiple, Lead     string
	Currency, State, Until             string
	Breaks                             []RawBreak
}

// RawBreak is one price in a supplier's texts; without From it holds from the minimum on, without Per it is of one piece. Typed says that it came in a
// form that has numbers beside texts, such as a workbook: a number has a decimal point there, also where texts have a comma.
type RawBreak struct {
	From, Price, Per string
	Typed            bool
}

// mark is the decimal mark under which the price is read: none where it may be a number with a point or a text with thousands.
func (b RawBreak) mark(habit money.Mark) money.Mark {
	if b.Typed && habit == money.Comma && strings.Count(b.Price, ".") == 1 && !strings.Contains(b.Price, ",") {
		return money.Unsaid
	}
	return habit
}

// Habits are what a supplier does not say with each offer.
type Habits struct {
	Mark     money.Mark // of decimals
	Currency string
	LeadIn   string // "days" or "weeks", for a lead time that is a bare number
}

const maxBreaks = 40

// Read reads an offer. What cannot be read is left out and said among its problems, in one sentence each; what an offer is used for then has
// less to go by, and nothing wrong.
func Read(r Raw, h Habits) Offer {
	o := Offer{Number: tidied(r.Number), Packing: tidied(r.Packing), Manufacturer: tidied(r.Manufacturer), MPN: tidied(r.MPN), State: tidied(r.State)}
	if n, atLeast, err := Count(r.Stock, h.Mark); err != nil {
		o.say("The stock %s.", err)
	} else if n >= 0 {
		o.Stock, o.AtLeast = &n, atLeast
	}
	whole := func(what, text string) int64 {
		n, atLeast, err := Count(text, h.Mark)
		if err == nil && atLeast {
			err = fmt.Errorf("%q is no one number", text)
		}
		if err != nil {
			o.say("The %s %s.", what, err)
			return 0
		}
		return max(n, 0)
	}
	o.Minimum, o.Multiple = whole("minimum", r.Minimum), whole("multiple", r.Multiple)
	if days, err := lead(r.Lead, h.LeadIn); err != nil {
		o.say("The lead time %s.", err)
	} else if days >= 0 {
		o.LeadDays = &days
	}
	if u := strings.TrimSpace(r.Until); u != "" {
		if d, ok := dayOf(u); ok {
			o.Until = d
		} else {
			o.say("%q is no day such as 2026-12-31; until when the prices hold is not known.", clipped(u))
		}
	}
	code := strings.TrimSpace(r.Currency)
	if code == "" {
		code = h.Currency
	}
	breaks := r.Breaks
	if len(breaks) > maxBreaks {
		o.say("It has %d prices; the first %d were read.", len(breaks), maxBreaks)
		breaks = breaks[:maxBreaks]
	}
	for _, b := range breaks {
		if strings.TrimSpace(b.Price) == "" {
			continue
		}
		price, err := money.Parse(b.Price, code, b.mark(h.Mark))
		if err != nil {
			o.say("%s.", sentence(err.Error()))
			o.hurt = true
			continue
		}
		begin := b.From
		if m := rangeForm.FindStringSubmatch(begin); m != nil { // "10 - 99" begins at 10
			begin = m[1]
		}
		from, atLeast, err := Count(begin, h.Mark)
		if err == nil && atLeast && !strings.Contains(b.From, "+") {
			from++ // ">100" begins above
		}
		if err != nil {
			o.say("The quantity of the price %s %s.", price, err)
			o.hurt = true
			continue
		}
		per, atLeast, err := Count(b.Per, h.Mark)
		if err != nil || atLeast || per == 0 {
			o.say("The price %s is of %q pieces, which is no number.", price, clipped(b.Per))
			o.hurt = true
			continue
		}
		o.Breaks = append(o.Breaks, Break{From: max(from, 1), Price: price, Per: max(per, 0)})
	}
	if o.hurt && len(o.Breaks) > 0 {
		// Without one of its prices an offer would be bought at another: better none than a wrong sum.
		o.Breaks = nil
		o.say("As one of its prices cannot be read, none was kept.")
	}
	o.tidy()
	return o
}

// dayForms are the ways to write a day that mean one day only; with points the day comes first (DIN 1355, and wherever points are used).
var dayForms = []string{time.DateOnly, time.RFC3339, "2006-01-02T15:04:05", time.DateTime, "20060102", "2.1.2006", "2 Jan 2006", "2-Jan-2006", "Jan 2, 2006", "2 January 2006", "January 2, 2006"}

// dayOf reads a day, written in its own place and so without a change of zone, as 2026-12-31. 03/04/2026 is two days, and so none.
func dayOf(text string) (day string, ok bool) {
	for _, form := range dayForms {
		if t, err := time.Parse(form, text); err == nil && money.Day(t.Format(time.DateOnly)) {
			return t.Format(time.DateOnly), true
		}
	}
	return "", false
}

// What stands around a number of pieces without making it another: words for pieces, for being there, for "or more". Any other word makes the text unread.
var (
	pieceWords = `pcs|pc|pieces|piece|stk|stück|stücke|st|pce|ea|each|units|unit|qty|pièces|pièce|piezas|pieza|uds|ud|pezzi|pezzo|pz|stuks|styck|kpl|szt|sztuk|ks|kusů|peças|peça|pçs|шт|個|个`
	thereWords = `in stock|available|on hand|auf lager|lagernd|verfügbar|en stock|disponible|disponibles|disponibili|in voorraad|på lager|i lager|op voorraad|em estoque`
	moreBefore = `>=|>|≥|over|more than|at least|from|über|mehr als|mindestens|min\.?|ab|plus de|au moins|más de|al menos|oltre|più di|almeno|meer dan|minstens|mais de`
	moreAfter  = `\+|or more|and more|and up|und mehr|oder mehr|et plus|ou plus|y más|o más|e più|o più|en meer|of meer`
	countForm  = regexp.MustCompile(`^(?:(?:` + thereWords + `|qty|stock|bestand) ?:? ?)?(` + moreBefore + `)? ?([0-9](?:[0-9.,' ]*[0-9.,])?) ?(` + moreAfter + `)? ?(?:(?:` + pieceWords + `)\.?)? ?(?:` + thereWords + `)?$`)
	rangeForm  = regexp.MustCompile(`^ *([0-9]{1,9}) ?(?:-|–|\.\.|…|to|bis) ?[0-9]{1,9} *$`)
	noneForms  = []string{"none", "no", "nein", "keine", "keiner", "no stock", "no disponible", "out of stock", "not in stock", "sold out", "not available", "nicht lieferbar", "nicht auf lager", "nicht verfügbar", "kein bestand", "ausverkauft", "épuisé", "rupture de stock", "en rupture",
		"agotado", "sin existencias", "sin stock", "esaurito", "non disponibile", "non disponible", "uitverkocht", "niet op voorraad", "slutsåld", "slut i lager", "ej i lager", "utsolgt", "ikke på lager", "udsolgt", "brak", "vyprodáno", "esgotado", "sem estoque", "loppu", "在庫なし", "缺货", "无货"}
)

var oneBlank = strings.NewReplacer("\u00a0", " ", "\u202f", " ", "\u2009", " ", "’", "'")

// plain says whether a text is as spaced would make it: small letters and digits of ASCII and single marks without a blank.
func plain(text string) bool {
	for i := range len(text) {
		if c := text[i]; c <= ' ' || c > '~' || c >= 'A' && c <= 'Z' {
			return false
		}
	}
	return true
}

// spaced is a text in small letters with each kind of blank and apostrophe as one.
func spaced(text string) string {
	if plain(text) {
		return text
	}
	blank := func(r rune) bool { return strings.ContainsRune(" \t\r\n", r) }
	return strings.Join(strings.FieldsFunc(strings.ToLower(oneBlank.Replace(text)), blank), " ")
}

// Count reads how many a text says: "1 250", "2.500 Stück", "1000+", "> 500", "out of stock". It is -1 where the text is blank. What is no whole
// number, or can be read in two ways, is an error that continues a sentence.
func Count(text string, mark money.Mark) (n int64, atLeast bool, err error) {
	if len(text) < 10 && text != "" && strings.Trim(text, "0123456789") == "" { // most are
		n, err = strconv.ParseInt(text, 10, 64)
		return n, false, err
	}
	s := spaced(text)
	if s == "" {
		return -1, false, nil
	}
	if slices.Contains(noneForms, s) {
		return 0, false, nil
	}
	odd := fmt.Errorf("%q is no whole number", clipped(text))
	m := countForm.FindStringSubmatch(s)
	if m == nil || m[1] != "" && m[3] != "" {
		return -1, false, odd
	}
	digits := m[2]
	if i := strings.LastIndexAny(digits, ".,"); i >= 0 {
		sign, head, tail := digits[i], digits[:i], digits[i+1:]
		noughts := strings.Trim(tail, "0") == ""
		decimal := mark == money.Comma && sign == ',' || mark == money.Point && sign == '.'
		switch other := strings.ContainsAny(head, ".,' "); {
		case strings.IndexByte(head, sign) >= 0: // groups of thousands
		case noughts && (decimal || len(tail) != 3 || other): // "12.00", "1,000.00"
			digits = head
		case decimal, len(tail) != 3, other:
			return -1, false, odd
		}
	}
	for _, group := range []string{"", ".", ",", "'", " "} {
		if group == "" && strings.Trim(digits, "0123456789") == "" || group != "" && grouped(digits, group) {
			n, err = strconv.ParseInt(strings.ReplaceAll(digits, group, ""), 10, 64)
			if err != nil || n > most {
				return -1, false, fmt.Errorf("%q is beyond all that is sold", clipped(text))
			}
			return n, m[1] != "" || m[3] != "", nil
		}
	}
	return -1, false, odd
}

// grouped says whether digits are in threes, parted by one kind of mark.
func grouped(digits, mark string) bool {
	groups := strings.Split(digits, mark)
	for i, g := range groups {
		if strings.Trim(g, "0123456789") != "" || i > 0 && len(g) != 3 || i == 0 && (g == "" || len(g) > 3) {
			return false
		}
	}
	return len(groups) > 1
}

var (
	leadForm = regexp.MustCompile(`^(?:(?:lead time|delivery|lieferzeit|délai|plazo|levertijd) ?:? ?)?([0-9]{1,4})(?: ?(?:-|–|to|bis|tot|à|a) ?([0-9]{1,4}))? ?([\pL]*)\.?$`)
	isoLead  = regexp.MustCompile(`^P([0-9]{1,4})([DWM])$`)
	spans    = map[string]int{"d": 1, "day": 1, "days": 1, "tag": 1, "tage": 1, "tagen": 1, "t": 1, "jour": 1, "jours": 1, "j": 1, "día": 1, "días": 1, "dia": 1, "dias": 1, "giorno": 1, "giorni": 1, "日": 1,
		"w": 7, "wk": 7, "wks": 7, "week": 7, "weeks": 7, "woche": 7, "wochen": 7, "wo": 7, "kw": 0, "semaine": 7, "semaines": 7, "sem": 7, "semana": 7, "semanas": 7, "settimana": 7, "settimane": 7, "weken": 7, "veckor": 7, "vecka": 7, "uker": 7, "uge": 7, "uger": 7, "tydzień": 7, "tygodni": 7, "tygodnie": 7, "週": 7, "週間": 7, "周": 7,
		"month": 31, "months": 31, "monat": 31, "monate": 31, "monaten": 31, "mois": 31, "mes": 31, "meses": 31, "mese": 31, "mesi": 31, "ヶ月": 31, "か月": 31}
)

// lead reads a lead time as days; the longer end of "3-5 weeks". -1 where the text is blank. A month is 31 days.
func lead(text, unit string) (days int, err error) {
	s := spaced(text)
	if s == "" {
		return -1, nil
	}
	if m := isoLead.FindStringSubmatch(strings.ToUpper(s)); m != nil {
		n, _ := strconv.Atoi(m[1])
		return n * map[string]int{"D": 1, "W": 7, "M": 31}[m[2]], nil
	}
	m := leadForm.FindStringSubmatch(s)
	if m == nil {
		return -1, fmt.Errorf("%q is no number of days or weeks", clipped(text))
	}
	n, _ := strconv.Atoi(m[1])
	if m[2] != "" {
		to, _ := strconv.Atoi(m[2])
		n = max(n, to)
	}
	word := m[3]
	if word == "" {
		word = strings.TrimSuffix(unit, "s")
	}
	if spans[word] == 0 {
		return -1, fmt.Errorf("%q is no number of days or weeks", clipped(text))
	}
	return n * spans[word], nil
}

// tidy says whether tidied would leave a text as it is.
func tidy(s string) bool {
	for i := range len(s) {
		if c := s[i]; c < ' ' || c > '~' || c == ' ' && (i == 0 || i+1 == len(s) || s[i+1] == ' ') {
			return false
		}
	}
	return true
}

// tidied takes out what cannot be seen and doubled blanks, and cuts what is longer than any number or name.
func tidied(s string) string {
	if len(s) <= 200 && tidy(s) {
		return s
	}
	s = strings.Join(strings.Fields(strings.Map(func(r rune) rune {
		if r < ' ' || r == 0x7f || r == '\ufffd' {
			return ' '
		}
		return r
	}, s)), " ")
	if runes := []rune(s); len(runes) > 200 {
		s = string(runes[:200])
	}
	return s
}

func clipped(s string) string {
	if runes := []rune(tidied(s)); len(runes) > 40 {
		return string(runes[:39]) + "…"
	}
	return tidied(s)
}

func sentence(s string) string { return strings.ToUpper(s[:1]) + s[1:] }
