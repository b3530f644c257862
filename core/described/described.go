// Package described takes a text that describes a part, "RES 10k 1% 0603" or "Irms 3A Isat 2A", apart into what it says:
// values, cases, words, and the name that stands before a value. A name decides what its value is; a value behind a name
// that nobody knows belongs to that, and to nothing else. Which parameter a nameless value fills is left to the caller.
package described

import (
	"slices"
	"strings"
	"unicode"

	"jollydrawer/core/cabinet"
	"jollydrawer/core/headings"
	"jollydrawer/core/measure"
)

// Piece is one thing that a text says, in the order of the text. Every word of the text lies in exactly one piece, or
// in the name of one.
type Piece struct {
	From, To int    // of the value or word, in bytes
	Text     string // as it was written
	Fact     measure.Fact
	Name     string   // the words before the value that name it; blank where none do
	NameFrom int      // where the name begins
	Keys     []string // the parameters that the name may mean; none though there is a name: nobody knows it
	Count    bool     // "3 pcs", "2 x": how many, and no value
	Each     bool     // the 10 kΩ of "2 x 10 kΩ": what each of several is
}

// Lexicon knows the names of parameters: labels, keys, synonyms.
type Lexicon struct {
	keys   map[string][]string
	params map[string]cabinet.Parameter
}

// NewLexicon gathers the names of a dictionary.
func NewLexicon(cab *cabinet.Cabinet) *Lexicon {
	l := &Lexicon{keys: map[string][]string{}, params: map[string]cabinet.Parameter{}}
	for _, p := range cab.Document.Parameters {
		l.params[p.Key] = p
		for _, name := range append([]string{p.Label, p.Key}, p.Synonyms...) {
			n := plain(name)
			if n == "" || slices.Contains(l.keys[n], p.Key) {
				continue
			}
			l.keys[n] = append(l.keys[n], p.Key)
		}
	}
	return l
}

// Keys returns the parameters that a name may mean.
func (l *Lexicon) Keys(name string) []string { return l.keys[plain(name)] }

// named is as Keys, in the other languages of headings too: "Sperrspannung" is the reverse voltage.
func (l *Lexicon) named(name string) []string {
	if keys := l.Keys(name); len(keys) > 0 {
		return keys
	}
	if english := headings.English(name); english != "" {
		return l.Keys(english)
	}
	return nil
}

// For is a lexicon that knows one parameter.
func For(p cabinet.Parameter) *Lexicon {
	return NewLexicon(&cabinet.Cabinet{Document: cabinet.Document{Parameters: []cabinet.Parameter{p}}})
}

// plain writes a name in small letters with single blanks, without marks and plurals: "Rds(on)" and "rds on" are the
// same, and so are "ways" and "way".
func plain(name string) string {
	words := strings.FieldsFunc(strings.ToLower(name), func(r rune) bool { return !unicode.IsLetter(r) && !unicode.IsDigit(r) && r != '²' && r != 'θ' })
	for i, w := range words {
		words[i] = Singular(w)
	}
	return strings.Join(words, " ")
}

// Singular takes the plural's s off a word in small letters: "resistors" is "resistor", and "bus" and "glass" stay.
func Singular(w string) string {
	if len(w) > 3 && strings.HasSuffix(w, "s") && !strings.HasSuffix(w, "ss") {
		return w[:len(w)-1]
	}
	return w
}

// Read takes a text apart.
func (l *Lexicon) Read(text string, o measure.Options) []Piece {
	clean := joints(text)
	facts := measure.Facts(clean, o)
	out := make([]Piece, 0, len(facts))
	for i := 0; i < len(facts); i++ {
		f := facts[i]
		p := Piece{From: f.From, To: f.To, Text: text[f.From:f.To], Fact: f}
		if f.Word {
			if n := l.nameAt(clean, facts[i:]); n > 0 && i+n < len(facts) && !parted(text, facts[i+n-1].To, facts[i+n].From) && len(l.canBe(clean[f.From:facts[i+n-1].To], facts[i+n])) > 0 {
				from := f.From
				i += n
				f = facts[i]
				p = Piece{From: f.From, To: f.To, Text: text[f.From:f.To], Fact: f, NameFrom: from, Name: strings.TrimSpace(text[from:facts[i-1].To])}
				p.Keys = l.canBe(clean[from:facts[i-1].To], f)
			} else if i+1 < len(facts) && symbol(p.Text) && valued(facts[i+1]) && !parted(text, f.To, facts[i+1].From) {
				i++
				f = facts[i]
				p = Piece{From: f.From, To: f.To, Text: text[f.From:f.To], Fact: f, NameFrom: p.From, Name: p.Text}
			}
		}
		if bare(f) && p.Name == "" && i+1 < len(facts) && facts[i+1].Word { // "6 way": the name stands behind
			if n := l.nameAt(clean, facts[i+1:]); n > 0 {
				if keys := l.canBe(clean[facts[i+1].From:facts[i+n].To], f); len(keys) > 0 {
					p.Name, p.NameFrom, p.Keys = strings.TrimSpace(text[facts[i+1].From:facts[i+n].To]), p.From, keys
					i += n
					out = append(out, p)
					continue
				}
			}
		}
		if bare(f) && i+1 < len(facts) && facts[i+1].Word && counting(clean[facts[i+1].From:facts[i+1].To]) {
			p.Count = true
			out = append(out, p)
			i++
			p = Piece{From: facts[i].From, To: facts[i].To, Text: text[facts[i].From:facts[i].To], Fact: facts[i], Count: true}
			if times(p.Text) && i+1 < len(facts) && valued(facts[i+1]) && !parted(text, p.To, facts[i+1].From) { // "2 x 10 kΩ": of two
				out = append(out, p)
				i++
				p = Piece{From: facts[i].From, To: facts[i].To, Text: text[facts[i].From:facts[i].To], Fact: facts[i], Each: true}
			}
		}
		out = append(out, p)
	}
	return out
}

// joints writes a blank for each mark that joins a name with its value, "Vin=6V" and "VF: 0.5 V", so that both are words.
func joints(text string) string {
	b := []byte(text)
	for i, c := range b {
		if (c == '=' || c == ':') && i > 0 && !(c == '=' && strings.IndexByte("<>=", b[i-1]) >= 0) {
			b[i] = ' '
		}
	}
	return string(b)
}

// nameAt says how many of the facts are words that together name a parameter: the longest name wins. A name of one
// letter counts only where it is written to its value with a mark, which joints took away; it is left alone here.
func (l *Lexicon) nameAt(text string, facts []measure.Fact) (n int) {
	for k := 0; k < len(facts) && k < 6 && facts[k].Word; k++ {
		name := plain(text[facts[0].From:facts[k].To])
		if len(name) > 1 && len(l.named(text[facts[0].From:facts[k].To])) > 0 {
			n = k + 1
		}
	}
	return n
}

// canBe keeps of the parameters of a name those that a fact can be a value of: of its kind of measure, or a count.
func (l *Lexicon) canBe(name string, f measure.Fact) (keys []string) {
	if !valued(f) {
		return nil
	}
	for _, key := range l.named(name) {
		p := l.params[key]
		fits := p.Type == cabinet.Measure && p.Of == f.Reading.Measure.Of.String() || p.Type == cabinet.Number && bare(f)
		for _, w := range f.Reading.Possible {
			fits = fits || p.Type == cabinet.Measure && p.Of == w.Measure.Of.String()
		}
		if p.Type == cabinet.Measure && (bare(f) || f.Reading.Outcome == measure.Doubt) {
			of, _ := measure.ParseDimension(p.Of)
			fits = fits || measure.Parse(f.Reading.Text, measure.Options{Of: of}).Outcome != measure.Unreadable
		}
		if fits {
			keys = append(keys, key)
		}
	}
	return keys
}

// symbols are letters with an index that name a quantity, besides those of voltages and currents.
var symbols = map[string]bool{"rth": true, "rds": true, "rdson": true, "ron": true, "rin": true, "rout": true, "ciss": true, "coss": true, "crss": true, "cin": true, "cout": true, "pd": true, "ptot": true, "pmax": true, "qg": true, "qrr": true,
	"tj": true, "tstg": true, "trr": true, "ton": true, "toff": true, "fsw": true, "fmax": true, "zt": true, "zzt": true}

// notSymbols are words and abbreviations that begin as symbols of voltages and currents do.
var notSymbols = map[string]bool{"ic": true, "ind": true, "inductor": true, "int": true, "interface": true, "in": true, "iron": true, "isolated": true, "isolator": true, "iso": true, "ip": true, "ir": true, "io": true, "input": true, "vertical": true, "vert": true, "var": true, "varistor": true, "volt": true, "volts": true,
	"voltage": true, "very": true, "variable": true, "inrush": true, "instr": true, "insul": true, "ideal": true, "ipex": true, "vcxo": true, "vco": true, "vac": true, "vdc": true, "item": true, "inch": true}

// symbol says whether a word is the symbol of a quantity: a V or I with an index, "VGS", "Irms", or one of the others.
func symbol(w string) bool {
	low := strings.ToLower(strings.NewReplacer("(", "", ")", "", "_", "", "-", "", "/", "").Replace(w))
	if symbols[low] {
		return true
	}
	if len(w) < 2 || len(low) > 7 || w[0] != 'V' && w[0] != 'I' || notSymbols[low] {
		return false
	}
	for _, r := range low {
		if !unicode.IsLetter(r) {
			return false
		}
	}
	return true
}

// valued says whether a fact is a value, whole or in doubt.
func valued(f measure.Fact) bool { return !f.Word && f.Case == (measure.Case{}) }

// bare says whether a fact is a number without a unit.
func bare(f measure.Fact) bool {
	return f.Reading.Outcome == measure.Doubt && f.Reading.Why == "it has no unit"
}

// counting are words behind a number that say how many there are.
func counting(w string) bool {
	switch strings.ToLower(strings.TrimRight(w, ".,;:")) {
	case "pcs", "pc", "pieces", "piece", "x", "×", "off", "stk", "st", "stück", "pièces", "piezas", "pezzi", "pz", "ea", "each", "units", "unit", "reels", "reel":
		return true
	}
	return false
}

func times(w string) bool { return w == "x" || w == "X" || w == "×" }

// parted says whether a comma or semicolon stands between a word and the value behind it: what follows is something else.
func parted(text string, from, to int) bool { return strings.ContainsAny(text[from:to], ",;|\n") }
