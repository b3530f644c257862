package measure

import (
	"slices"
	"strings"
)

// Fact is one thing that a text says: a value, a case code, or a word that is neither.
type Fact struct {
	From, To int     // where it stands in the text, in bytes
	Reading  Reading // of the stretch; Unreadable for a word
	Case     Case    // set, with an outcome of Read and no measure, where it is a chip case
	Word     bool    // neither a value nor a case: "X7R"
}

// longestFact is how many words one value may have: "-40 °C to +85 °C", "600 Ω @ 100 MHz".
const longestFact = 8

// Facts takes a text such as "2.2uF ±10% 25V X7R 1206" apart: every word belongs to exactly one fact, in the order of
// the text. A tolerance is a fact of its own. o.Of prefers no dimension here and is ignored.
func Facts(text string, o Options) []Fact {
	o.Of, o.Unit = None, ""
	var out []Fact
	spans := slashes(text, words(text), o)
	for i := 0; i < len(spans); {
		f, n := factAt(text, spans[i:], o)
		out = append(out, f)
		i += n
	}
	return out
}

// factAt reads the longest value that begins at the first of the words, and says how many of them it takes.
func factAt(text string, spans [][2]int, o Options) (Fact, int) {
	from := spans[0][0]
	first := text[from:spans[0][1]]
	if n := min(len(spans), longestFact); valueMayBegin(first) || len(first) > 3 && caseSystems[strings.ToLower(first)] != 0 {
		for ; n > 0; n-- {
			to := spans[n-1][1]
			if strings.ContainsAny(text[from:to], ";|\n") || acrossSlash(text, spans[:n]) {
				continue
			}
			stretch := text[from:to]
			if last := text[spans[n-1][0]:to]; n < len(spans) && digit(text[spans[n][0]]) && (strings.EqualFold(last, "least") || strings.EqualFold(last, "most")) {
				continue // "20 V at least 10 kΩ": the limit is that of what follows
			}
			if cases, why, ok := ReadCase(stretch); ok {
				f := Fact{From: from, To: to, Reading: Reading{Text: stretch, Outcome: Read}}
				if f.Case = cases[0]; len(cases) > 1 {
					f.Case, f.Reading.Outcome, f.Reading.Why = Case{}, Doubt, why
					for _, c := range cases {
						f.Reading.Possible = append(f.Reading.Possible, Possible{Case: c, If: caseSystem(c, stretch)})
					}
				}
				return f, n
			}
			r := Parse(stretch, o)
			if n > 1 && r.Measure.Shape == Nominal && partingComma(stretch) {
				continue // a comma parts facts, unless they are the values of a list or the ends of a range
			}
			if n > 1 && r.Outcome == Doubt && len(r.Possible) > 0 && r.Possible[0].Measure.Tol != NoTol && r.Possible[0].Measure.Shape != Deviation {
				continue // a tolerance is a fact of its own
			}
			whole := r.Outcome == Read && (r.Measure.Tol == NoTol || r.Measure.Shape == Deviation || n == 1)
			if whole || r.Outcome == Doubt && n <= 2 && (len(r.Possible) > 1 || r.Why == prefixNoUnit) || n == 1 && r.Outcome == Doubt && len(r.Possible) > 0 {
				return Fact{From: from, To: to, Reading: r}, n
			}
		}
	}
	r := Parse(first, o)
	return Fact{From: from, To: spans[0][1], Reading: r, Word: r.Outcome == Unreadable || r.Outcome == Doubt && len(r.Possible) == 0}, 1
}

// partingComma says whether a comma stands between words; one between two digits belongs to a number.
func partingComma(stretch string) bool {
	for i := range len(stretch) {
		if stretch[i] == ',' && !(i > 0 && i+1 < len(stretch) && digit(stretch[i-1]) && digit(stretch[i+1])) {
			return true
		}
	}
	return false
}

// acrossSlash says whether one of the blanks between words is a slash that parted one.
func acrossSlash(text string, spans [][2]int) bool {
	for _, s := range spans[:len(spans)-1] {
		if text[s[1]] == '/' {
			return true
		}
	}
	return false
}

func caseSystem(c Case, code string) string {
	if strings.HasPrefix(code, c.Inch) {
		return "the code is inch"
	}
	return "the code is metric"
}

// valueMayBegin keeps plain words from being tried as values over and over.
func valueMayBegin(w string) bool {
	if strings.ContainsAny(w, "0123456789") {
		return true
	}
	switch strings.ToLower(w) {
	case "±", "<", ">", "<=", ">=", "≤", "≥", "+/-", "+-", "ac", "dc", "max", "max.", "min", "min.", "typ", "typ.", "up", "at", "from", "ca.", "approx.", "~", "awg", "eia", "between", "below", "above", "over", "under", "less", "more", "maximum", "minimum", "typical", "about", "≈", "+", "-":
		return true
	}
	return false
}

// slashes parts words such as "10uF/16V/X5R/0805", which as a whole mean nothing and begin with a value.
func slashes(text string, spans [][2]int, o Options) [][2]int {
	parted := -1 // where the rest of a word begins that was parted
	for k := 0; k < len(spans); k++ {
		from, to := spans[k][0], spans[k][1]
		cut := strings.IndexByte(text[from:to], '/')
		if cut <= 0 || from+cut+1 == to || !digit(text[from]) && from != parted {
			continue
		}
		_, _, isCase := ReadCase(text[from : from+cut])
		if !isCase && Parse(text[from:to], o).Outcome != Unreadable {
			continue
		}
		left := Parse(text[from:from+cut], o)
		if from == parted || left.Outcome == Read || isCase || left.Outcome == Doubt && len(left.Possible) > 0 && left.Possible[0].Measure.Of != None {
			spans = slices.Insert(spans, k+1, [2]int{from + cut + 1, to})
			spans[k][1], parted = from+cut, from+cut+1
		}
	}
	return spans
}

// words parts a text at blanks, semicolons and bars, and at commas that no digit follows at once.
func words(text string) (spans [][2]int) {
	from := -1
	flush := func(to int) {
		if from >= 0 && to > from {
			spans = append(spans, [2]int{from, to})
		}
		from = -1
	}
	for i := 0; i < len(text); i++ {
		switch c := text[i]; {
		case c == ' ' || c == '\t' || c == '\n' || c == '\r' || c == ';' || c == '|':
			flush(i)
		case c == 0xC2 && i+1 < len(text) && text[i+1] == 0xA0: // a blank that does not break
			flush(i)
			i++
		case c == ',' && (i+1 == len(text) || !digit(text[i+1])):
			flush(i)
		case c == ',' && i > 0 && !digit(text[i-1]): // "2.2uF,25V"
			flush(i)
		case from < 0:
			from = i
		}
	}
	flush(len(text))
	return spans
}
