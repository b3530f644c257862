package model

import (
	"cmp"
	"fmt"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"unicode/utf8"
)

// ListedPin is a pin as a list names it: a pin table, an IBIS file, a datasheet. Type is blank where the list does not tell.
type ListedPin struct {
	Number string `json:"number"`
	Name   string `json:"name,omitempty"`
	Type   string `json:"type,omitempty"`
	Unit   string `json:"unit,omitempty"`
	Side   string `json:"side,omitempty"` // left, right, top or bottom, where the table says so
	Line   int    `json:"line,omitempty"`
}

// PinList is the pins of one component or of one package, and what of the list was not read.
type PinList struct {
	Name  string      `json:"name"` // of the component or package; blank where there is one only
	Pins  []ListedPin `json:"pins"`
	Wrong []string    `json:"wrong"`
}

// The meanings of a pin table's columns.
const (
	PinNumber = "number"
	PinName   = "name"
	PinKind   = "type"
	PinUnit   = "unit"
	PinSide   = "side"
)

// PinMeanings lists the meanings in the order in which columns are given them.
var PinMeanings = []string{PinNumber, PinKind, PinName, PinSide, PinUnit}

// headingWords are what people call the columns: English, German, French, Spanish, Italian, Japanese.
var headingWords = map[string][]string{
	PinNumber: {"number", "no", "nr", "num", "#", "n°", "pin", "pins", "pin #", "pin#", "ball", "pad", "terminal", "lead", "pos", "position", "contact", "nummer", "anschluss", "stift", "kontakt", "klemme", "broche", "numéro", "borne", "número", "núm", "patilla", "pata", "piedino", "numero", "terminale", "ピン", "端子", "番号", "ピン番号", "端子番号", "ボール"},
	PinName:   {"name", "signal", "label", "mnemonic", "net", "function", "symbol", "designation", "bezeichnung", "anschlussname", "funktion", "nom", "fonction", "désignation", "nombre", "señal", "función", "nome", "segnale", "funzione", "名称", "端子名", "ピン名", "信号名", "信号", "記号", "機能"},
	PinKind:   {"type", "direction", "dir", "electrical", "io", "i/o", "kind", "class", "typ", "richtung", "art", "sens", "tipo", "dirección", "sentido", "direzione", "種類", "入出力", "タイプ", "方向"},
	PinUnit:   {"unit", "group", "bank", "section", "block", "gate", "part", "gruppe", "einheit", "groupe", "unité", "grupo", "unidad", "banco", "gruppo", "unità", "グループ", "ユニット", "バンク"},
	PinSide:   {"side", "edge", "seite", "côté", "lado", "lato", "側", "辺"},
}

// remarkWords are headings of columns that say in sentences what a pin is for: never its name.
var remarkWords = []string{"description", "comment", "remark", "note", "notes", "beschreibung", "bemerkung", "remarque", "descripción", "observación", "descrizione", "osservazione", "説明", "備考"}

// packageHeading is a heading that names a package, whose column holds the numbers of that package.
var packageHeading = regexp.MustCompile(`(?i)(^|[^a-z])(h?[tlv]?[qs]?fp|[a-z]?[lvuwx]?qfn|[wfu]?dfn|[a-z]*bga|[a-z]?so(ic|p|j|n)?|[tsmv]?ssop|msop|[cp]?dip|plcc|lcc|lga|[wf]?l?csp|sot|sc[- ]?[0-9]+|to|sip)[- ]?[0-9]*([^a-z]|$)`)

var notWord = regexp.MustCompile(`[^\p{L}\p{N}#/°]+`)

func plainHeading(s string) string {
	return strings.TrimSpace(notWord.ReplaceAllString(strings.ToLower(s), " "))
}

// headed says how surely a heading has a meaning: 3 where it is its word, 2 where it begins or ends with it, 0 where it is not in it.
func headed(plain string, words []string) int {
	best := 0
	for _, w := range words {
		switch {
		case plain == w:
			return 3
		case strings.HasSuffix(plain, " "+w), strings.HasPrefix(plain, w+" "), utf8.RuneCountInString(w) > 1 && w[0] > 0x7f && strings.Contains(plain, w):
			best = max(best, 2)
		}
	}
	return best
}

// PinTable is a table with a heading.
type PinTable struct {
	Headings  []string
	Rows      [][]string
	FirstLine int // of the first row, for what is said of it
}

// PinColumns says which column of a table holds what; -1 for what is not there. Several columns of numbers are those of several packages.
type PinColumns struct {
	Numbers []int `json:"numbers"`
	Name    int   `json:"name"`
	Type    int   `json:"type"`
	Unit    int   `json:"unit"`
	Side    int   `json:"side"`
}

// content is what the cells of a column look like, each as a part of those that are not blank.
type content struct {
	cells                                 int
	number, kind, side, sentence, several float64
}

var pinNumber = regexp.MustCompile(`^([A-Za-z]{0,3}[0-9]{1,4}[A-Za-z]?|EP|ep|TAB|Tab|tab|PAD|[A-Za-z])$`)

func (t PinTable) content(column int) (c content) {
	numbers, kinds, sides, sentences := 0, 0, 0, 0
	distinct := map[string]bool{}
	for i, row := range t.Rows {
		if i >= 600 {
			break
		}
		text := cellOf(row, column)
		if blankCell(text) {
			continue
		}
		c.cells++
		distinct[text] = true
		if all, ok := numbersIn(text); ok && !slices.ContainsFunc(all, func(n string) bool { return !pinNumber.MatchString(n) }) {
			numbers++
		}
		if kind, ok := PinType(text); ok && kind != "" {
			kinds++
		}
		if sideWords[plainHeading(text)] != "" {
			sides++
		}
		if len(strings.Fields(text)) > 2 || utf8.RuneCountInString(text) > 40 {
			sentences++
		}
	}
	if c.cells > 0 {
		n := float64(c.cells)
		c.number, c.kind, c.side, c.sentence, c.several = float64(numbers)/n, float64(kinds)/n, float64(sides)/n, float64(sentences)/n, float64(len(distinct))/n
	}
	return c
}

func cellOf(row []string, column int) string {
	if column < 0 || column >= len(row) {
		return ""
	}
	return strings.Join(strings.Fields(row[column]), " ")
}

// blankCell is a cell that says that there is nothing: in a table of several packages, that this one lacks the pin.
func blankCell(text string) bool {
	return text == "" || text == "-" || text == "–" || text == "—" || text == "n/a" || text == "N/A"
}

// Columns finds the columns by heading and content together; false where no column can hold the numbers, or none the names.
func (t PinTable) Columns() (PinColumns, bool) {
	out := PinColumns{Name: -1, Type: -1, Unit: -1, Side: -1}
	plain := make([]string, len(t.Headings))
	what := make([]content, len(t.Headings))
	for i, h := range t.Headings {
		plain[i], what[i] = plainHeading(h), t.content(i)
	}
	taken := map[int]bool{}
	out.Numbers = t.numberColumns(plain, what)
	for _, i := range out.Numbers {
		taken[i] = true
	}
	best := func(score func(i int) float64) int {
		at, most := -1, 0.0
		for i := range t.Headings {
			if s := score(i); !taken[i] && s > most {
				at, most = i, s
			}
		}
		if at >= 0 {
			taken[at] = true
		}
		return at
	}
	out.Type = best(func(i int) float64 {
		h := float64(headed(plain[i], headingWords[PinKind]))
		switch {
		case what[i].cells == 0:
			return h / 2
		case h > 0 && what[i].kind >= 0.3, h == 0 && !t.meansOther(plain[i]) && what[i].kind >= 0.9 && what[i].cells > 3 && what[i].several < 0.7:
			return h + 4*what[i].kind
		}
		return 0
	})
	out.Side = best(func(i int) float64 {
		if h := headed(plain[i], headingWords[PinSide]); h > 0 && (what[i].side >= 0.5 || what[i].cells == 0) {
			return float64(h)
		}
		return 0
	})
	out.Name = best(func(i int) float64 {
		if what[i].sentence > 0.3 && what[i].cells > 0 || headed(plain[i], remarkWords) > 0 {
			return 0
		}
		h := float64(headed(plain[i], headingWords[PinName]))
		if headed(plain[i], headingWords[PinNumber]) == 3 && what[i].number < 0.7 { // beside a column of numbers, "Pin" is the name of it
			h = max(h, 1.5)
		}
		if h == 0 {
			return 0
		}
		return h + what[i].several + (1-what[i].number)/2 - 2*what[i].kind*boolean(what[i].several < 0.5)
	})
	out.Unit = best(func(i int) float64 { return float64(headed(plain[i], headingWords[PinUnit])) })
	return out, len(out.Numbers) > 0 && out.Name >= 0
}

// meansOther says whether a heading is a word for what is no type: cells A, B and P below "Unit" are units, whatever they could be elsewhere.
func (t PinTable) meansOther(plain string) bool {
	return slices.ContainsFunc([]string{PinUnit, PinSide, PinName, PinNumber}, func(m string) bool { return headed(plain, headingWords[m]) > 0 }) || headed(plain, remarkWords) > 0
}

func boolean(is bool) float64 {
	if is {
		return 1
	}
	return 0
}

// numberColumns finds the column of the numbers, or those of several packages side by side.
func (t PinTable) numberColumns(plain []string, what []content) []int {
	type candidate struct {
		at       int
		score    float64
		packaged bool
	}
	var all []candidate
	for i, h := range t.Headings {
		named := headed(plain[i], headingWords[PinNumber])
		pack := packageHeading.MatchString(h)
		if named == 0 && !pack || what[i].cells > 0 && what[i].number < 0.7 {
			continue
		}
		if headed(plain[i], headingWords[PinName]) == 3 { // "Symbol" is no number, whatever stands below it
			continue
		}
		all = append(all, candidate{i, float64(named) + 2*what[i].number + what[i].several, pack})
	}
	if len(all) == 0 {
		return nil
	}
	packages := slices.DeleteFunc(slices.Clone(all), func(c candidate) bool { return !c.packaged })
	if len(packages) > 1 {
		all = packages
	} else {
		// "Pin" beside "No.": of columns that are not of packages, one holds the numbers, with those that are headed by the same word: "Pin (version A)", "Pin (version B)".
		best := slices.MaxFunc(all, func(a, b candidate) int { return cmp.Compare(a.score, b.score) })
		word := strings.Fields(plain[best.at])[0]
		all = slices.DeleteFunc(all, func(c candidate) bool {
			return c.at != best.at && (strings.Fields(plain[c.at])[0] != word || headed(plain[c.at], headingWords[PinName]) > 0 || headed(plain[best.at], headingWords[PinName]) > 0 || what[c.at].cells == 0)
		})
	}
	var out []int
	for _, c := range all {
		out = append(out, c.at)
	}
	return out
}

var sideWords = map[string]string{"left": "left", "right": "right", "top": "top", "bottom": "bottom", "l": "left", "r": "right", "t": "top", "b": "bottom", "links": "left", "rechts": "right", "oben": "top", "unten": "bottom", "gauche": "left", "droite": "right", "haut": "top", "bas": "bottom",
	"izquierda": "left", "derecha": "right", "arriba": "top", "abajo": "bottom", "sinistra": "left", "destra": "right", "alto": "top", "basso": "bottom", "左": "left", "右": "right", "上": "top", "下": "bottom"}

var (
	// ahead is what may stand before a number, and the dot behind it.
	ahead   = regexp.MustCompile(`(?i)^(?:(?:pin|ball|pad|no|nr|terminal|contact|kontakt|klemme|broche)[ .:]+|#\s*)([a-z]{0,3}[0-9]{1,4})$`)
	ordinal = regexp.MustCompile(`^([0-9]{1,4})\.$`)
	between = regexp.MustCompile(`\s*(?:[,;&/+]|\s+(?:and|und|et|y|e)\s+|\s+)\s*`)
	spanned = regexp.MustCompile(`^([A-Za-z]{0,3})([0-9]{1,4})\s*(?:-|–|—|\.\.\.?|…|:|~|to|thru|through|bis|à)\s*([A-Za-z]{0,3})([0-9]{1,4})$`)
	spaced  = regexp.MustCompile(`\s*(-|–|—|\.\.\.?|…|~|\bto\b|\bthru\b|\bthrough\b|\bbis\b|à)\s*`)
)

// numbersIn are the pin numbers in a cell: one, a list, or a span such as A1-A4. A span runs upwards within one row.
func numbersIn(text string) (out []string, ok bool) {
	if slices.Contains(thermal, plainHeading(text)) {
		return []string{"EP"}, true
	}
	if m := ahead.FindStringSubmatch(text); m != nil {
		return m[1:2], true
	}
	if m := ordinal.FindStringSubmatch(text); m != nil {
		return m[1:2], true
	}
	text = spaced.ReplaceAllString(text, "$1")
	for _, part := range between.Split(strings.Trim(text, " ,;"), -1) {
		m := spanned.FindStringSubmatch(part)
		if m == nil {
			out = append(out, part)
			continue
		}
		from, _ := strconv.Atoi(m[2])
		to, _ := strconv.Atoi(m[4])
		if m[3] != "" && m[3] != m[1] || to <= from || to-from >= 1024 {
			return nil, false
		}
		for n := from; n <= to; n++ {
			out = append(out, m[1]+strconv.Itoa(n))
		}
	}
	return out, len(out) > 0
}

// thermal are the words for the pad under a package, which most tables number EP.
var thermal = []string{"exposed pad", "thermal pad", "die pad", "die attach pad", "exposed thermal pad", "exposed die pad", "heat slug", "e pad", "epad", "thermisches pad", "pad thermique", "pad térmico"}

var dashed = regexp.MustCompile(`[0-9]\s*[-–—]\s*[A-Za-z]{0,3}[0-9]`)

// spans says whether a dash in a column stands between the ends of a span wherever it stands.
func (t PinTable) spans(column int) bool {
	for _, row := range t.Rows {
		if text := cellOf(row, column); dashed.MatchString(text) {
			if _, ok := numbersIn(text); !ok {
				return false
			}
		}
	}
	return true
}

var soundNumber = regexp.MustCompile(`^[\p{L}\p{N}+_.#*]{1,40}$`)

// Read takes the pins out of the rows: a list for each column of numbers. Names are kept as they are written, with every mark of an
// active low; a type that is not written is left open. What is wrong with a row is said with its line.
func (t PinTable) Read(c PinColumns) (lists []PinList) {
	for _, column := range c.Numbers {
		l := PinList{Wrong: []string{}, Pins: []ListedPin{}}
		if len(c.Numbers) > 1 && column < len(t.Headings) {
			l.Name = strings.Join(strings.Fields(t.Headings[column]), " ")
			if slices.ContainsFunc(lists, func(o PinList) bool { return o.Name == l.Name }) {
				l.Name = fmt.Sprintf("%s (column %d)", l.Name, column+1)
			}
		}
		t.list(&l, c, column)
		lists = append(lists, l)
	}
	return lists
}

// unknownTypes is a column whose heading says that it holds types, and none of whose cells is one; -1 where the types are in another, or there is none.
func (t PinTable) unknownTypes(c PinColumns) int {
	if c.Type >= 0 {
		return -1
	}
	return slices.IndexFunc(t.Headings, func(h string) bool {
		i := slices.Index(t.Headings, h)
		return headed(plainHeading(h), headingWords[PinKind]) == 3 && !slices.Contains(append([]int{c.Name, c.Unit, c.Side}, c.Numbers...), i) && t.first(i) != ""
	})
}

// first is the first cell of a column that is not blank.
func (t PinTable) first(column int) string {
	for _, row := range t.Rows {
		if text := cellOf(row, column); !blankCell(text) {
			return text
		}
	}
	return ""
}

func (t PinTable) list(l *PinList, c PinColumns, column int) {
	wrong := func(line int, form string, args ...any) {
		l.Wrong = append(l.Wrong, fmt.Sprintf("line %d: %s", line, fmt.Sprintf(form, args...)))
	}
	if i := t.unknownTypes(c); i >= 0 {
		wrong(t.FirstLine-1, "what stands below %q, such as %q, is no type that is known; the types were left open", clip(t.Headings[i]), clip(t.first(i)))
	}
	spans := t.spans(column)
	for i, row := range t.Rows {
		line := t.FirstLine + i
		numbers, name := cellOf(row, column), cellOf(row, c.Name)
		if blankCell(numbers) {
			if name != "" && l.Name == "" { // of several packages, one that has not every pin is as it should be
				wrong(line, "the pin %q has no number", clip(name))
			}
			continue
		}
		written := cellOf(row, c.Type)
		kind, ok := PinType(written)
		if !ok {
			wrong(line, "the type %q of pin %s is not known; it was left open", clip(written), clip(numbers))
		}
		if kind == PowerIn && strings.Contains(strings.ToLower(written), "output") {
			kind = PowerOut
		}
		all, ok := numbersIn(numbers)
		if len(all) > 1 && !spans && dashed.MatchString(numbers) {
			ok = false // elsewhere in the column a dash is none of a span: 2-1
		}
		if !ok || slices.ContainsFunc(all, func(n string) bool { return !soundNumber.MatchString(n) }) {
			wrong(line, "%q is no number of a pin, no list of them and no span such as A1-A4", clip(numbers))
			continue
		}
		if utf8.RuneCountInString(name) > 120 || len(name) > 120 {
			wrong(line, "the name of pin %s is longer than 120 characters", clip(numbers))
			continue
		}
		if name == "" {
			wrong(line, "the pin %s has no name", clip(numbers))
		}
		if slices.Contains(thermal, plainHeading(numbers)) {
			wrong(line, "%q was taken for the number EP", clip(numbers))
		}
		for _, n := range all {
			if len(l.Pins) >= MostPins {
				wrong(line, "the table has more than %d pins; the rest was not read", MostPins)
				return
			}
			l.Pins = append(l.Pins, ListedPin{Number: n, Name: name, Type: kind, Unit: cellOf(row, c.Unit), Side: sideWords[plainHeading(cellOf(row, c.Side))], Line: line})
		}
	}
	twice := map[string]int{}
	for _, p := range l.Pins {
		if was, ok := twice[p.Number]; ok && was != p.Line {
			wrong(p.Line, "the pin %s stands in line %d too", clip(p.Number), was)
			continue
		}
		twice[p.Number] = p.Line
	}
}
