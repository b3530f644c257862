package bom

import (
	"fmt"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"unicode"
	"unicode/utf8"

	"golang.org/x/text/unicode/norm"
)

var (
	designator = regexp.MustCompile(`^([A-Za-z_]{1,8})([0-9]{1,6})([A-Za-z]?)$`)
	stretch    = regexp.MustCompile(`^([A-Za-z_]{1,8})([0-9]{1,6})(?:-|\.\.+|:|~)([A-Za-z_]{0,8})([0-9]{1,6})$`)
	units      = regexp.MustCompile(`^([A-Za-z_]{1,8}[0-9]{1,6})([A-Za-z])(?:-|\.\.+|:|~)([A-Za-z_]{0,8}[0-9]{0,6})([A-Za-z])$`)
	bare       = regexp.MustCompile(`^[0-9]{1,6}(?:(?:-|\.\.+|~)[0-9]{1,6})?$`)
	placed     = regexp.MustCompile(`^(.+)[/\\]([A-Za-z_]{1,8}[0-9]{1,6}(?:-|\.\.+|:|~))(.+)[/\\]([A-Za-z_]{0,8}[0-9]{1,6})$`) // a stretch that names its place twice: "A1/R1-A1/R4"
	placeName  = regexp.MustCompile(`^(?:[\pL_][\pL\p{M}\p{Nd}_.+-]*|[0-9]{1,4})$`)
	ranging    = regexp.MustCompile(`^[A-Za-z_]{1,8}[0-9]{1,6}[A-Za-z]?(?:-|\.\.|\.[A-Za-z]|\+)`)

	dash = regexp.MustCompile(`\s*(-|\.\.+|~)\s*`)                                                                                 // what a stretch is written with, and the blanks around it
	to   = regexp.MustCompile(`(?i)([0-9][a-z]?)\s+(?:to|thru|through|until|bis|à|a|al|hasta|tot)\s+([a-z_]{0,8}[0-9])`)           // "R1 to R4"
	and  = regexp.MustCompile(`(?i)([0-9][a-z]?)\s*(?:\s(?:and|und|et|y|e|en)\s|[&+])\s*([a-z_]{1,8}[0-9])`)                       // "R1 and R4"
	sign = strings.NewReplacer("‐", "-", "‑", "-", "‒", "-", "–", "-", "—", "-", "−", "-", "〜", "~", "∼", "~", "、", ",", "；", ";") // signs that mean the same
)

// MostDesignators is how many designators a cell can have; more are a slip.
const MostDesignators = 20_000

// maxStretch bounds "R1-R9999" so that a slip does not become a million designators.
const maxStretch = 5000

// Designation is what a cell of designators was read as.
type Designation struct {
	List     []string
	Read     []string // how it was taken where it can be read in several ways, in words
	Problems []string // what could not be read, or may mean two things
}

// ReadDesignators reads a cell such as "R1, R2, R5-R9", in the spellings of BOMs: stretches by hyphen, points or words, a letter said once ("R1, 2, 5-7"),
// units of one part ("U1A, U1B"), and places before a designator ("A2/R5"). Of what may be read in two ways the quantity that the line names decides; it
// is below 0 where there is none, and then that is a problem. What cannot be read stays in the list as written and is a problem too.
func ReadDesignators(cell string, quantity int) Designation { return splitCell(cell).as(quantity) }

// splitCell reads what a cell says whatever the quantity is.
func splitCell(cell string) designation {
	var r designation
	for _, token := range tokens(cell) {
		if r.token(token); len(r.List) > MostDesignators {
			return designation{Designation: Designation{List: r.List[:1], Problems: []string{fmt.Sprintf("the cell that begins with %s has more than %d designators: part it into lines", r.List[0], MostDesignators)}}}
		}
	}
	return r
}

// as settles what may be read in two ways, by a quantity. The cell itself can be settled again by another.
func (r designation) as(quantity int) Designation {
	r.List, r.Problems, r.quantity = slices.Clone(r.List), slices.Clone(r.Problems), quantity
	r.slashes()
	r.unite()
	return r.Designation
}

type piece struct {
	text  string
	comma bool // whether a comma or semicolon stands before it, and not only a blank
}

func tokens(cell string) (out []piece) {
	s := sign.Replace(norm.NFKC.String(cell))
	for range 2 { // neighbours share what is between them
		s = and.ReplaceAllString(to.ReplaceAllString(s, "$1-$2"), "$1,$2")
	}
	s = dash.ReplaceAllString(s, "$1")
	comma := false
	for from := 0; from < len(s); {
		end := len(s)
		if i := strings.IndexFunc(s[from:], func(r rune) bool { return r == ',' || r == ';' || unicode.IsSpace(r) }); i >= 0 {
			end = from + i
		}
		if text := strings.Trim(s[from:end], `"'()[]{}`); text != "" {
			out = append(out, piece{text, comma})
			comma = false
		}
		comma = comma || end < len(s) && (s[end] == ',' || s[end] == ';')
		_, width := utf8.DecodeRuneInString(s[end:])
		from = end + max(width, 1)
	}
	return out
}

// designation is a cell while it is read.
type designation struct {
	Designation
	quantity int
	letters  string // of the designator before, which "R1, 2" does not say again
	doubts   []doubt
}

// doubt is a token with a slash that may part two designators or name the place of one.
type doubt struct {
	at, n  int // its place in the list, taken as several
	place  string
	placed []string
	text   string
}

func (r *designation) problem(format string, args ...any) {
	r.Problems = append(r.Problems, fmt.Sprintf(format, args...))
}

func (r *designation) token(p piece) {
	if bare.MatchString(p.text) && p.comma && r.letters != "" {
		p.text = r.letters + p.text
	}
	if strings.ContainsAny(p.text, `/\`) {
		r.slashed(p.text)
		return
	}
	list, letters, problem := one(p.text)
	if problem != "" {
		r.problem("%s", problem)
	}
	r.letters = letters
	r.List = append(r.List, list...)
}

// slashed reads a token with slashes: designators of one letter ("R1/R2", "R1/2"), one behind its place ("PSU/R5"), or what may be either ("A2/R5").
func (r *designation) slashed(text string) {
	if m := placed.FindStringSubmatch(text); m != nil && m[1] == m[3] {
		r.onPlace(m[1], m[2]+m[4], text)
		return
	}
	pieces := strings.FieldsFunc(text, func(c rune) bool { return c == '/' || c == '\\' })
	if len(pieces) == 0 {
		r.problem("%q is no designator", text)
		r.List = append(r.List, text)
		return
	}
	first := ""
	var separate []string
	all, same := true, true
	for i, p := range pieces {
		if i > 0 && bare.MatchString(p) && first != "" {
			p = first + p
		}
		list, letters, problem := one(p)
		all = all && problem == ""
		same = same && (i == 0 || letters == first)
		if i == 0 {
			first = letters
		}
		if separate = append(separate, list...); len(separate) > MostDesignators {
			r.List = append(r.List, separate...) // whoever reads the cell says that they are too many
			return
		}
	}
	last, letters, problem := one(pieces[len(pieces)-1])
	where := strings.Join(pieces[:len(pieces)-1], "/")
	switch {
	case all && same && !strings.HasPrefix(text, "/"):
		r.List = append(r.List, separate...)
	case problem != "" || !all || strings.HasPrefix(text, "/"): // what stands before it is no designator
		r.onPlace(where, pieces[len(pieces)-1], text)
	default:
		r.doubts = append(r.doubts, doubt{at: len(r.List), n: len(separate), place: where, placed: behind(where, last), text: text})
		r.List = append(r.List, separate...)
	}
	r.letters = letters
}

// onPlace reads a designator, or a stretch, behind the name of its place; text is all that was written.
func (r *designation) onPlace(where, last, text string) {
	list, letters, problem := one(last)
	switch odd := oddPlace(where); {
	case problem != "":
		r.problem("%q is no designator", text)
		list = []string{text}
	case odd != "":
		r.problem("%q: %q is no name of a place where %s could be: write what it means in a column of its own", text, odd, last)
		list = []string{text}
	default:
		list = behind(where, list)
	}
	r.letters = letters
	r.List = append(r.List, list...)
}

// behind writes a place before each designator.
func behind(where string, list []string) []string {
	out := make([]string, len(list))
	for i, d := range list {
		out[i] = strings.TrimPrefix(where+"/"+d, "/")
	}
	return out
}

// oddPlace returns what of the name of a place is none: a sign, a count ("2x"), a value ("10k"), a stretch of designators, or a word that says whether or which
// part is fitted ("DNP", "or"). Blank where all of it may be the name of a sheet, of a side or of a sub-assembly.
func oddPlace(where string) string {
	if where == "" {
		return ""
	}
	for _, segment := range strings.FieldsFunc(where, func(c rune) bool { return c == '/' || c == '\\' }) {
		words := spoken(segment)
		s := sayingOf(segment)
		switch {
		case !placeName.MatchString(segment), ranging.MatchString(segment):
			return segment
		case s.off, s.doubt, shortMarks[strings.Join(words, " ")], slices.ContainsFunc(words, func(w string) bool {
			return negations[w] || asides[w] || plainActs[w] || len(w) > 1 && connectives[w]
		}):
			return segment
		}
	}
	return ""
}

// asides are words that set a part apart from those that are fitted.
var asides = wordSet("alt|alternate|alternative|instead|except|spare|spares|reserve|ersatz|reserviert|rechange|recambio|ricambio|tbd|tbc|nil|none|null|na|any|either|all|each|alle|both|beide|see|siehe|like|wie|same")

// slashes settles what may be two designators or one behind its place: by the quantity, or because one place stands before several.
func (r *designation) slashes() {
	if len(r.doubts) == 0 {
		return
	}
	separate, placed := len(r.List), len(r.List)
	places := map[string]int{}
	for _, d := range r.doubts {
		placed += len(d.placed) - d.n
		places[d.place]++
	}
	again := len(r.doubts) > 1 && len(places) < len(r.doubts) // a designator before the slash would be there twice
	switch d := r.doubts[0]; {
	case r.quantity == placed && separate != placed, r.quantity < 0 && again:
		for _, d := range slices.Backward(r.doubts) {
			r.List = slices.Replace(r.List, d.at, d.at+d.n, d.placed...)
		}
		r.Read = append(r.Read, fmt.Sprintf("%s is taken as %s on %s", d.text, d.placed[0][len(d.place)+1:], d.place))
	case r.quantity == separate && separate != placed:
		r.Read = append(r.Read, fmt.Sprintf("%s is taken as several designators, as the quantity says", d.text))
	default:
		r.problem("%q may be %s on %s, or several designators: part them by commas, or name the quantity", d.text, d.placed[0][len(d.place)+1:], d.place)
	}
}

// unite joins units of one part, where the quantity says that they are one.
func (r *designation) unite() {
	stems := map[string][]string{}
	var order []string
	for _, d := range r.List {
		stem := Stem(d)
		if stem == d {
			continue
		}
		if len(stems[stem]) == 0 {
			order = append(order, stem)
		}
		stems[stem] = append(stems[stem], d)
	}
	fewer := len(r.List)
	for _, stem := range order {
		if n := len(stems[stem]); n > 1 {
			fewer -= n - 1
		}
	}
	if fewer == len(r.List) {
		return
	}
	i := slices.IndexFunc(order, func(stem string) bool { return len(stems[stem]) > 1 })
	which := strings.Join(stems[order[i]][:2], ", ")
	if r.quantity != fewer {
		if r.quantity < 0 {
			r.problem("%s may be units of one part %s, or parts of their own: name the quantity", which, order[i])
		}
		return
	}
	var list []string
	there := map[string]bool{}
	for _, d := range r.List {
		if stem := Stem(d); len(stems[stem]) > 1 {
			d = stem
			if there[d] {
				continue
			}
			there[d] = true
		}
		list = append(list, d)
	}
	r.List = list
	r.Read = append(r.Read, fmt.Sprintf("%s are taken as units of one part %s, as the quantity says", which, order[i]))
}

// Stem is a designator without the letter of a unit: U1 of U1A; else all of it.
func Stem(d string) string {
	place, last := "", d
	if i := strings.LastIndexByte(d, '/'); i >= 0 {
		place, last = d[:i+1], d[i+1:]
	}
	if m := designator.FindStringSubmatch(last); m != nil {
		return place + m[1] + m[2]
	}
	return d
}

// one reads a token that has no slash: a designator, or a stretch of them.
func one(f string) (list []string, letters, problem string) {
	if m := stretch.FindStringSubmatch(f); m != nil && (m[3] == "" || strings.EqualFold(m[1], m[3])) {
		from, _ := strconv.Atoi(m[2])
		end, _ := strconv.Atoi(m[4])
		letters = strings.ToUpper(m[1])
		if end < from || end-from >= maxStretch {
			return []string{f}, letters, fmt.Sprintf("the stretch %q runs backwards or over more than %d", f, maxStretch)
		}
		for n := from; n <= end; n++ {
			list = append(list, fmt.Sprintf("%s%0*d", letters, zeros(m[2]), n))
		}
		return list, letters, ""
	}
	if m := units.FindStringSubmatch(f); m != nil && (m[3] == "" || strings.EqualFold(m[1], m[3])) {
		stem, a, z := strings.ToUpper(m[1]), strings.ToUpper(m[2])[0], strings.ToUpper(m[4])[0]
		if z < a {
			return []string{f}, "", fmt.Sprintf("the stretch %q runs backwards", f)
		}
		for c := a; c <= z; c++ {
			list = append(list, stem+string(rune(c)))
		}
		return list, strings.TrimRight(stem, "0123456789"), ""
	}
	if m := designator.FindStringSubmatch(f); m != nil {
		return []string{strings.ToUpper(f)}, strings.ToUpper(m[1]), ""
	}
	if strings.HasSuffix(f, "?") && strings.Trim(strings.ToUpper(f), "ABCDEFGHIJKLMNOPQRSTUVWXYZ_?") == "" {
		return []string{f}, "", fmt.Sprintf("%q has no number yet: have the designators numbered", f)
	}
	return []string{f}, "", fmt.Sprintf("%q is no designator", f)
}

func zeros(digits string) int {
	if strings.HasPrefix(digits, "0") {
		return len(digits)
	}
	return 1
}

// letterOf is the letters of a designator, wherever it stands; blank where it is none.
func letterOf(d string) string {
	if m := designator.FindStringSubmatch(d[strings.LastIndexByte(d, '/')+1:]); m != nil {
		return strings.ToUpper(m[1])
	}
	return ""
}
