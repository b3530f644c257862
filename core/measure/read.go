package measure

import (
	"fmt"
	"strings"
)

// Outcome says what became of a text.
type Outcome uint8

// The outcomes. Absent ("N/A", "-", "TBD") is neither read nor doubtful: somebody said that there is no value.
const (
	Unreadable Outcome = iota
	Read
	Doubt
	Absent
)

var outcomeNames = [...]string{"unreadable", "read", "doubt", "absent"}

// String returns "read", "doubt", "absent" or "unreadable".
func (o Outcome) String() string { return outcomeNames[o] }

// Reading is what was made of one text.
type Reading struct {
	Text     string
	Outcome  Outcome
	Measure  Measure    // valid when Outcome is Read
	Possible []Possible // every reading of a doubt
	Why      string     // for a doubt or an unreadable text: the reason, as a sentence part
}

// Possible is one reading of a doubtful text, with what would have to be so. A case code has no measure.
type Possible struct {
	Measure Measure
	Case    Case
	If      string
}

// String shows the reading.
func (p Possible) String() string {
	if p.Case != (Case{}) {
		return p.Case.String()
	}
	return p.Measure.String()
}

// Mark says which decimal mark a source uses.
type Mark uint8

// Decimal marks. With MarkUnknown a text such as "1,000" is a doubt.
const (
	MarkUnknown Mark = iota
	MarkPoint
	MarkComma
)

// Options is what is known about a text before it is read.
type Options struct {
	Of     Dimension // the dimension wanted; None accepts any
	Unit   string    // the unit to assume where the text gives none at all
	Mark   Mark
	Groups bool  // an ordinary blank groups thousands in this source
	Usual  Usual // the range of the parameter; what lies outside is a doubt
	Binary Binary
	// Choose settles doubts: of several possible readings the one with this If is meant.
	Choose string
	// Tally, where given, is filled with what each piece of the text was taken for.
	Tally *Tally
}

// Binary says how a source counts memory: whether its k is 1000 or 1024.
type Binary uint8

// The ways to count memory. Unknown reads what IEC 80000-13 makes certain (kbit, Kibit) and doubts the rest.
const (
	BinaryUnknown Binary = iota
	BinaryPowers
	DecimalPowers
)

// maxText is longer than any value that people write.
const maxText = 200

// Parse reads text as one measure. It never fails in another way than by its Outcome, and it is Read only where every
// character of the text has its place in the tally.
func Parse(text string, o Options) Reading {
	raw := strings.Trim(text, " \t\r\n\u00a0\ufeff\u200b")
	if o.Tally != nil {
		*o.Tally = (*o.Tally)[:0]
	}
	if len(raw) > maxText {
		return Reading{Text: text, Why: "it is longer than any value"}
	}
	s, at := fold(raw)
	if absent(s) {
		return Reading{Text: text, Outcome: Absent}
	}
	for i := range len(s) {
		if s[i] < 0x20 && s[i] != '\t' && (s[i] != hard || at == nil) {
			return Reading{Text: text, Why: "it has a character that no value has"}
		}
	}
	if len(s) == 1 && o.Of == Ratio && toleranceLetter(s[0]) {
		if o.Tally != nil {
			at := uint16(strings.IndexByte(text, s[0]))
			*o.Tally = append(*o.Tally, Piece{at, at + 1, AsTolerance})
		}
		return readToleranceLetter(text, s[0])
	}
	p := parser{s: s, o: o}
	m, ok := p.whole()
	if o.Tally != nil {
		p.tally(o.Tally, strings.Index(text, raw), at)
	}
	if ok {
		if from, to := p.unaccounted(); from >= 0 {
			ok = p.fail("%q is left over at character %d", strings.TrimSpace(string([]byte(s[from:to]))), from+1)
		} else if piece, stays := p.numberInRemark(); stays {
			ok = p.fail("the number in %q has no place in the value", string([]byte(s[piece.From:piece.To])))
		}
	}
	switch {
	case !ok:
		return Reading{Text: text, Why: p.why}
	case p.doubt == "":
		return Reading{Text: text, Outcome: Read, Measure: m}
	}
	if o.Choose != "" {
		for _, w := range p.possible {
			if w.If == o.Choose && w.Case == (Case{}) {
				return Reading{Text: text, Outcome: Read, Measure: w.Measure}
			}
		}
	}
	return Reading{Text: text, Outcome: Doubt, Why: p.doubt, Possible: p.possible}
}

// MustParse is Parse for constants; it panics unless the text is read without doubt.
func MustParse(text string) Measure {
	r := Parse(text, Options{})
	if r.Outcome != Read {
		panic(fmt.Sprintf("measure: %q is %v: %s", text, r.Outcome, r.Why))
	}
	return r.Measure
}

func absent(s string) bool {
	if s == "" {
		return true
	}
	if len(s) > 14 {
		return false
	}
	for i := range len(s) {
		if digit(s[i]) {
			return false
		}
	}
	switch strings.ToLower(s) {
	case "-", "--", "---", "n/a", "na", "n.a.", "n/s", "tbd", "tba", "tbc", "none", "null", "nil", "?", "??", "???", "not applicable", "not specified", "unspecified", "unknown", "*", ".", "#n/a", "#value!", "nan", "\\n":
		return true
	}
	return false
}

// parser reads one text from left to right, and records as it goes what each piece was taken for.
type parser struct {
	s        string
	i        int
	n        int // pieces recorded
	as       Taken
	o        Options
	why      string
	doubt    string
	settled  bool // possible says all there is to say of the doubt
	dashed   bool // the range that was read last has a plain dash
	tolDim   Dimension
	possible []Possible
	order    []Shape // "(min/typ/max)": what the values of a list are
	pieces   [maxPieces]Piece
}

func (p *parser) fail(format string, args ...any) bool {
	if p.why == "" {
		p.why = fmt.Sprintf(format, args...)
	}
	return false
}

func (p *parser) space() {
	for p.i < len(p.s) && blank(p.peek()) {
		p.i++
	}
}

func (p *parser) end() bool {
	p.space()
	return p.i >= len(p.s)
}

// word moves past a word if it comes next, in capitals or small letters; a letter must not follow a word of letters.
func (p *parser) word(w string) bool {
	end := p.i + len(w)
	if end > len(p.s) || p.peek()|0x20 != w[0]|0x20 || !strings.EqualFold(p.s[p.i:end], w) {
		return false
	}
	if last := w[len(w)-1]; letter(last) && end < len(p.s) && (letter(p.s[end]) || p.s[end] >= 0x80 && !sign(p.s[end:])) {
		return false
	}
	p.i = end
	return true
}

// take is word for one that may stand behind blanks, and records what it was taken for.
func (p *parser) take(w string, as Taken) bool {
	p.space()
	from := p.i
	if !p.word(w) {
		return false
	}
	p.took(from, as)
	return true
}

func (p *parser) takeAny(words []string, as Taken) bool {
	for _, w := range words {
		if p.take(w, as) {
			return true
		}
	}
	return false
}

func letter(c byte) bool { return c >= 'a' && c <= 'z' || c >= 'A' && c <= 'Z' }
func digit(c byte) bool  { return c >= '0' && c <= '9' }
