package bom

import (
	"regexp"
	"slices"
	"strings"
	"unicode"

	"jollydrawer/core/headings"
)

// What people say of fitting a part is made of few things in every language: an act ("mount", "bestücken"), what turns it into its opposite ("do not", "nicht", "un-"),
// a short mark for both ("DNP"), and words that add nothing. A text is taken apart into them, so that what nobody wrote into a list is understood, or asked for.
var (
	acts = stems("fit:,s,ted,ting,ment|pop:|populat:e,ed,es,ing,ion|plac:e,ed,ing,ement,er|install:,ed,ing,ation,are,ato|mount:,ed,ing|stuff:,ed,ing|load:,ed,ing|assembl:e,ed,y,ing,er,age,are,ato,ata,aggio|solder:,ed,ing|insert:,ed,ion,ar,ado|equip:,ped,er,ar,ado|" +
		"bestuck:en,t,ung,te|bestueck:en,t,ung,te|montier:en,t|montage:|lot:en,et|loet:en,et|gelot:et|geloet:et|auflot:en|einlot:en|verlot:en|einloet:en|eingelot:et|aufgelot:et|verlot:et|eingeloet:et|einsetz:en|eingesetzt:|einbau:en|eingebaut:|verbau:en,t|platzier:en,t|" +
		"mont:er,e,ee,es,ees,ar,a,ado,ada,aje,are,ato,ata,ati,aggio|implant:er,e,ee,ation|cabl:er,e,ee,age|soud:er,e,ee|pos:er,e,ee|pobl:ar,ado,ada|sold:ar,ado,ada|coloc:ar,ado,ada,acion|instal:ar,ado,ada|ensambl:ar,ado,ada,aje|popol:are,ato,ata|sald:are,ato,ata|inser:ire,ito,ita|" +
		"plaats:en,ing|geplaatst:|gemonteerd:|bestuk:t,ken|montera:,d,t,s|montert:|monteret:|monteres:|montowa:c,ć,ny,na,ne,nie|obsadz:ony,ac,ać,ic,ić|osazen:,o,y,i|osazovat:|" +
		"実装:|搭載:|装着:|贴装:|贴片:|焊接:|安装:|贴:|装:|焊:")
	// plainActs say by themselves, over a column, whether a part is fitted; the others are words of other things too ("Load", "Assembly") and need marks below them.
	plainActs   = wordSet("fit|fitted|populate|populated|mounted|placed|installed|stuffed|assembled|bestückt|bestücken|bestueckt|bestuecken|montiert|geplaatst|gemonteerd|monterad|montert|monté|implanté|montado|poblado|montato|popolato|実装")
	negations   = wordSet("no|not|non|nicht|never|nie|dont|pas|sin|sans|senza|without|ohne|kein|keine|cannot|niet|ej|inte|ikke|nie|nao|bez|未|不")
	lefts       = wordSet("omit|omitted|omits|entfällt|entfallt|entfaellt|exclude|excluded|unplaced")
	omits       = regexp.MustCompile(`(?i)\b(?:omit|entf[aä]ll)`)
	turning     = []string{"dont", "donot", "donnot", "not", "non", "un", "no", "未", "不"} // as they stand before an act in one word
	fillers     = wordSet("do|to|be|been|is|are|was|will|must|should|shall|the|it|this|these|part|parts|component|components|yet|currently|any|more|wird|werden|ist|zu|mehr|bauteil|bauteile|da|a|ne|n|est|etre|ser|essere|se|que|composant|composants|componente|componentes|componenti|status|flag|marker|mark")
	places      = wordSet("from|in|on|of|at|bom|board|boards|pcb|pwb|assembly|x")
	shortMarks  = wordSet("nb|nf|np|ni|nm|nl|nc|n b|n f|n p|n i|n m|n l")
	doubts      = wordSet("optional|optionally|opt|option|options|optionnel|optionnelle|opcional|opzionale|wahlweise|bedarf|needed|required|unused|used")
	absent      = wordSet("no|without|ohne|sans|sin|senza")
	things      = wordSet("load|mount|mounting|assembly|insertion|installation|solder|soldering|placement|fitting|montage") // acts of which there may be none: "no load current"
	struck      = func(r rune) bool { return r >= '\u0335' && r <= '\u0338' }                                               // overlays that strike a letter out
	connectives = wordSet("if|as|when|where|falls|bei|si|se|or|and|oder|und|ou|o|y|e")
)

// stems makes a set of words of stems with their endings, "fit:,ted,ting|pop:".
func stems(list string) map[string]bool {
	out := map[string]bool{}
	for _, one := range strings.Split(list, "|") {
		stem, ends, _ := strings.Cut(one, ":")
		for _, e := range strings.Split(ends, ",") {
			out[stem+e] = true
		}
	}
	return out
}

// leaves says whether a word is a mark for leaving off by itself: DNP, DNF, DNI, DNS, and their like.
func leaves(w string) bool {
	return len(w) == 3 && w[:2] == "dn" && strings.IndexByte("acefilmps", w[2]) >= 0
}

// turned says whether a word is an act that is turned into its opposite: "unfitted", "nopop", "未実装".
func turned(w string) bool {
	if w == "" || w[0] != 'd' && w[0] != 'n' && w[0] != 'u' && w[0] < 0x80 {
		return false
	}
	return slices.ContainsFunc(turning, func(t string) bool {
		act, is := strings.CutPrefix(w, t)
		return is && acts[act]
	})
}

// terse says whether a text is one number with single letters, "4.7k", "R0603", which says nothing of fitting.
func terse(text string) bool {
	letter, number := false, false
	for _, r := range text {
		switch is := unicode.IsLetter(r); {
		case is && letter:
			return false
		case !is && !unicode.IsDigit(r) && r != '.' && r != ',':
			return false
		default:
			letter, number = is, number || unicode.IsDigit(r)
		}
	}
	return number || text == ""
}

// saying is what a text says of fitting.
type saying struct {
	off     bool // names leaving off: "DNP", "do not load", "unbestückt"
	general bool // only in words that are said of other things too: "excluded"
	on      bool // names fitting
	doubt   bool // leaves it open: "optional"
	rest    bool // has words that say something else
}

// plainly says whether a text names leaving off and nothing else.
func (s saying) plainly() bool { return s.off && !s.on && !s.doubt && !s.rest }

// sayingOf takes a text apart.
func sayingOf(text string) (s saying) {
	list := spoken(text)
	for i := 0; i < len(list); i++ {
		w := list[i]
		switch {
		case leaves(w), turned(w):
			s.off = true
		case negations[w]:
			k := i + 1
			for k < len(list) && (fillers[list[k]] || negations[list[k]]) {
				k++
			}
			switch {
			case k < len(list) && acts[list[k]] && !(absent[w] && things[list[k]] && k < len(list)-1): // "no load current"
				s.off, i = true, k
			case k == len(list) && i > 0 && acts[list[i-1]]: // "fitted: no"
				s.off, s.on = true, false
			case k < len(list) && doubts[list[k]]:
				s.doubt, i = true, k
			default:
				s.rest = true
			}
		case (w == "leave" || w == "left") && i+1 < len(list) && (list[i+1] == "off" || list[i+1] == "out"):
			s.off = true
			i++
		case lefts[w]:
			s.general = s.general || !s.off
			s.off = true
		case places[w] && (s.off || w == "x"):
		case acts[w]:
			s.on = true
		case doubts[w]:
			s.doubt = true
		case fillers[w], connectives[w]:
		default:
			s.rest = true
		}
	}
	return s
}

// spoken are the words of a text, "don't" and "can't" as one each.
func spoken(text string) []string {
	p := " " + headings.Plain(text) + " "
	for _, pair := range [][2]string{{" don t ", " dont "}, {" can t ", " cannot "}} {
		p = strings.ReplaceAll(p, pair[0], pair[1])
	}
	return strings.Fields(p)
}

// word is a word of a text with where it stands, in bytes.
type word struct{ from, to int }

// wordsIn are the words of a text, as they are parted by blanks, brackets and marks.
func wordsIn(text string) (out []word) {
	at := -1
	for i, r := range text {
		in := unicode.IsLetter(r) || unicode.IsDigit(r) || unicode.IsMark(r) || r == '\'' || r == '’'
		switch {
		case in && at < 0:
			at = i
		case !in && at >= 0:
			out, at = append(out, word{at, i}), -1
		}
	}
	if at >= 0 {
		out = append(out, word{at, len(text)})
	}
	return out
}

// markedOff takes what says that a part is left off from a value or a package: "10k DNP", "10k (do not load)", "DNP/10k". ask is set where such a mark may be meant.
func markedOff(text string) (rest string, off, ask bool) {
	const longest = 5 // words: "is not to be fitted"
	whole := sayingOf(text)
	if !whole.off || whole.general {
		return text, false, glued.MatchString(text)
	}
	if len(text) > 400 { // no value is as long
		return text, false, true
	}
	list := wordsIn(text)
	trim := func(s string) string {
		return strings.TrimFunc(s, func(r rune) bool { return unicode.IsSpace(r) || strings.ContainsRune(`/,;:*_-–|!@#=\"'`, r) })
	}
	for i := range list {
		for k := min(len(list), i+longest) - 1; k >= i; k-- {
			from, to := list[i].from, list[k].to
			mark := text[from:to]
			s := sayingOf(mark)
			if !s.plainly() || s.general || fillers[headings.Plain(text[list[k].from:to])] || joins(text[:from], true) || joins(text[to:], false) {
				continue
			}
			before, after := strings.TrimRight(trim(text[:from]), "([<{"), strings.TrimLeft(trim(text[to:]), ")]>}")
			rest = strings.TrimSpace(trim(before) + " " + trim(after))
			switch {
			case strings.HasPrefix(after, "?"):
				return text, false, true
			case rest == "":
				return text, false, false // the whole of it: leftOff says so
			}
			return rest, true, false
		}
	}
	return text, false, glued.MatchString(text)
}

// glued finds a mark that is written without a gap beside a value: "10kDNP".
var glued = regexp.MustCompile(`(?:[0-9][a-zA-ZµμΩ]?(?:DNP|DNF|DNI|DNM)$)|^(?:DNP|DNF|DNI|DNM)[0-9]`)

// joins says whether a text ends, or begins, with what makes one word of it and a mark.
func joins(text string, last bool) bool {
	r := []rune(text)
	if len(r) == 0 {
		return false
	}
	if last {
		return strings.ContainsRune(".+%", r[len(r)-1])
	}
	return r[0] == '-' && len(r) > 1 && (unicode.IsLetter(r[1]) || unicode.IsDigit(r[1])) || // "DNP-100" is a number
		r[0] == '.' && len(r) > 1 && unicode.IsDigit(r[1]) || r[0] == '+' || r[0] == '%'
}

// mayMeanOff says whether a value speaks of leaving off in a mark that is a unit or a kind of part elsewhere: "10k (NP)", "NF", "10k optional".
func mayMeanOff(text string, letters []string) bool {
	list := wordsIn(text)
	for i, w := range list {
		p := headings.Plain(text[w.from:w.to])
		if len(list) > i+1 && len(p) == 1 {
			p += " " + headings.Plain(text[list[i+1].from:list[i+1].to])
		}
		behindNumber := i > 0 && strings.Trim(text[list[i-1].from:list[i-1].to], "0123456789") == "" // it is a unit there: "630 nm"
		capacitor := slices.Contains(letters, "C")
		bracketed := w.from > 0 && strings.ContainsRune("([<{", rune(text[w.from-1]))
		switch {
		case doubts[p] && p != "used" && p != "required" && p != "needed":
			return true
		case p == "not" && len(list) > i+1 && doubts[headings.Plain(text[list[i+1].from:list[i+1].to])]: // "not used"
			return true
		case !shortMarks[p] || p == "nc":
		case len(list) == 1, len(list) == 2 && len(p) == 3, bracketed, !capacitor && i > 0 && !behindNumber:
			return true
		}
	}
	return false
}
