package intake

import (
	"encoding/csv"
	"fmt"
	"slices"
	"strings"
	"unicode"

	"jollydrawer/core/cabinet"
	"jollydrawer/core/crosswalk"
	"jollydrawer/core/described"
	"jollydrawer/core/measure"
	"jollydrawer/core/part"
)

// Pasted is what a pasted text says of one part.
type Pasted struct {
	Drawer  string      `json:"drawer,omitempty"`
	Because string      `json:"because,omitempty" doc:"Why this drawer"`
	Source  part.Source `json:"source"`
	Number  string      `json:"number,omitempty" doc:"The house's number, where the text gives one"`
	Values  []Pasting   `json:"values"`
	Unused  []Field     `json:"unused" doc:"What the text says and the template does not want, or nobody could place"`
	ByHand  []string    `json:"byHand" doc:"Parameters of the template that a person has to fill in"`
	MPNs    []string    `json:"mpns,omitempty" doc:"Words that may be a manufacturer part number, where none has a name"`
	Link    string      `json:"link,omitempty" doc:"Of the datasheet"`
	Text    string      `json:"text,omitempty" doc:"Its own description"`
}

// Pasting is one value that was found.
type Pasting struct {
	Key     string `json:"key"`
	Value   string `json:"value" doc:"As it is shown; what could not be read, as it was written"`
	Written string `json:"written"`
	Field   string `json:"field,omitempty"`
	Why     string `json:"why"`
	Problem string `json:"problem,omitempty"`
}

// Field is a name and what stands beside it.
type Field struct {
	Name string `json:"name"`
	Text string `json:"text"`
}

// maxFields bounds what a pasted text may hold.
const maxFields = 400

// ReadFields takes a pasted text apart: a table of two columns, a header with one row, lines of "Name: value", or one
// line of facts, which gives a single field without a name. Cells are parted by tabs, bars, semicolons or commas.
func ReadFields(text string) (out []Field) {
	lines := pastedLines(text)
	put := func(name, text string) {
		name, text = strings.Join(strings.Fields(strings.Trim(strings.TrimSpace(name), ":")), " "), strings.TrimSpace(text)
		if text != "" && len(out) < maxFields {
			out = append(out, Field{name, text})
		}
	}
	if len(lines) == 2 { // a header and a row, as copied from a spreadsheet
		head, row := strings.Split(lines[0], "\t"), strings.Split(lines[1], "\t")
		if len(head) > 2 && len(row) <= len(head) && len(row) > 2 {
			for i, cell := range row {
				put(head[i], cell)
			}
			return out
		}
		if rows := cells(lines); rows != nil && headed(rows[0]) {
			for i, cell := range rows[1] {
				put(rows[0][i], cell)
			}
			return out
		}
	}
	for i := 0; i < len(lines); i++ {
		l := lines[i]
		switch name, value, ok := strings.Cut(l, "\t"); {
		case ok && strings.TrimSpace(name) != "":
			put(name, strings.ReplaceAll(strings.Trim(value, "\t "), "\t", ", "))
		case !ok && strings.Contains(l, ": "):
			name, value, _ = strings.Cut(l, ": ")
			put(name, value)
		case !ok && strings.HasSuffix(strings.TrimSpace(l), ":") && i+1 < len(lines):
			put(l, lines[i+1])
			i++
		default:
			if name, value, ok := columns(l); ok && len(lines) > 1 {
				put(name, value)
			} else {
				put("", l)
			}
		}
	}
	return out
}

// PartsIn counts the parts of a text that is a table with a heading and a row for each of several parts; it is 1 of any other text.
// What is said of several cannot be read as what is said of one.
func PartsIn(text string) int {
	rows := cells(pastedLines(text))
	if len(rows) < 3 || slices.ContainsFunc(rows[1:], func(row []string) bool { return crosswalk.NamesSource(row[0]) }) {
		return 1 // the names stand below each other
	}
	numbered := slices.ContainsFunc(rows[0], func(cell string) bool { return strings.ContainsFunc(cell, unicode.IsDigit) })
	if slices.ContainsFunc(rows[0][1:], crosswalk.NamesSource) || headed(rows[0]) && !numbered {
		return len(rows) - 1
	}
	return 1
}

// pastedLines are the lines of a text that say something; the rule below a heading is drawn only.
func pastedLines(text string) []string {
	lines := strings.FieldsFunc(strings.ReplaceAll(text, "\r\n", "\n"), func(r rune) bool { return r == '\n' || r == '\r' })
	return slices.DeleteFunc(lines, func(l string) bool {
		return strings.Trim(l, " \t|+-=:") == ""
	})
}

// cells parts lines into as many cells each, three at least, by what parts all of them alike; nil where nothing does.
func cells(lines []string) [][]string {
	for _, by := range []rune{'\t', '|', ';', ','} {
		var rows [][]string
		for _, l := range lines {
			row := parted(l, by)
			if len(row) < 3 || len(row) > maxFields || len(rows) > 0 && len(row) != len(rows[0]) {
				rows = nil
				break
			}
			rows = append(rows, row)
		}
		if rows != nil {
			return rows
		}
	}
	return nil
}

// parted parts one line; quotes hold a cell together (RFC 4180, section 2), a bar at either end is a frame.
func parted(l string, by rune) []string {
	if by == '|' {
		return trimmedCells(strings.Split(strings.Trim(strings.TrimSpace(l), "|"), "|"))
	}
	r := csv.NewReader(strings.NewReader(l))
	r.Comma, r.LazyQuotes, r.TrimLeadingSpace = by, true, by != '\t'
	row, err := r.Read()
	if err != nil {
		return nil
	}
	return trimmedCells(row)
}

func trimmedCells(row []string) []string {
	for i := range row {
		row[i] = strings.TrimSpace(row[i])
	}
	return row
}

// headed says whether cells are headings: each begins with a letter, no two are alike, and one says which part it is. A line of facts
// that happens to be parted alike is none.
func headed(row []string) bool {
	seen := map[string]bool{}
	for _, cell := range row {
		first := strings.IndexFunc(cell, unicode.IsLetter)
		if first != 0 || seen[strings.ToLower(cell)] {
			return false
		}
		seen[strings.ToLower(cell)] = true
	}
	return slices.ContainsFunc(row, crosswalk.NamesSource)
}

// columns parts a line where at least two blanks or a bar stand between a name and a value.
func columns(l string) (name, value string, ok bool) {
	l = strings.TrimSpace(l)
	for _, gap := range []string{"|", "  "} {
		if name, value, ok = strings.Cut(strings.Trim(l, "|"), gap); ok && strings.TrimSpace(name) != "" && strings.TrimSpace(value) != "" {
			return name, strings.Trim(value, " |"), true
		}
	}
	return "", "", false
}

// Paste says what fields say of one part. The drawer is the one asked for, or the one that the text names, or the one
// whose parameters the values fit; "" where none or several do.
func Paste(fields []Field, cab *cabinet.Cabinet, earlier []crosswalk.Crosswalk, drawer string) Pasted {
	out := Pasted{Drawer: drawer, Values: []Pasting{}, Unused: []Field{}, ByHand: []string{}}
	cols := make([]crosswalk.Column, 0, len(fields))
	for _, f := range fields {
		if f.Name != "" {
			cols = append(cols, crosswalk.Column{Name: f.Name, Sample: []string{f.Text}})
		}
	}
	known := crosswalk.Known{Cabinet: cab, Earlier: earlier}
	if drawer != "" {
		known.Drawers = []string{drawer}
		out.Because = "chosen by hand"
	}
	to := map[string]crosswalk.Suggestion{}
	for _, g := range crosswalk.Suggest(cols, known) {
		if !g.Fact && !crosswalk.Offers(g.To) { // what somebody offers today is no part's, and is shown
			to[g.From] = g
		}
	}
	text := []string{}
	kind := ""
	for _, f := range fields {
		switch g := to[f.Name]; {
		case f.Name == "":
			text = append(text, f.Text)
		case g.To == "take.kind":
			kind = f.Text
		case g.To == "take.description":
			out.Text = f.Text
		case g.To == "take.manufacturer":
			out.Source.Manufacturer = f.Text
		case g.To == "take.mpn":
			out.Source.MPN = f.Text
		case g.To == "take.number":
			out.Number = f.Text
		case g.To == "take.datasheet":
			out.Link = f.Text
		}
	}
	if out.Drawer == "" {
		out.Drawer, out.Because = pasteDrawer(cab, kind, strings.Join(append(slices.Clone(text), out.Text), " "), to, fields)
	}
	t, ok := cab.Template(out.Drawer)
	if !ok || !t.Leaf {
		out.Drawer = ""
		out.Unused = append(out.Unused, fields...)
		return out
	}
	out.fill(described.NewLexicon(cab), t, fields, to, text)
	for _, s := range t.Slots {
		if (s.Required || s.ByHand) && !slices.ContainsFunc(out.Values, func(v Pasting) bool { return v.Key == s.Key }) {
			out.ByHand = append(out.ByHand, s.Key)
		}
	}
	return out
}

func (p *Pasted) fill(l *described.Lexicon, t *cabinet.Template, fields []Field, to map[string]crosswalk.Suggestion, free []string) {
	have := map[string]bool{}
	put := func(key string, rule crosswalk.Rule, f Field, why string) bool {
		slot, ok := t.Slot(key)
		if !ok || have[key] || slot.Type == cabinet.Text && slot.ChipCode == "" && len(strings.Fields(f.Text)) > 6 {
			return false // a text parameter never takes a whole text
		}
		v, note, problem := rule.Read(slot.Parameter, f.Text, measure.MarkUnknown)
		if v.IsBlank() {
			return false
		}
		one := Pasting{Key: key, Value: slot.Shown(v), Written: f.Text, Field: f.Name, Why: why}
		if note != "" {
			one.Why += "; " + note
		}
		if problem != nil {
			one.Value, one.Problem = f.Text, problem.Why+"; "+problem.Mend
		}
		have[key] = true
		p.Values = append(p.Values, one)
		return true
	}
	for _, f := range fields {
		g, ok := to[f.Name]
		if f.Name == "" || strings.HasPrefix(g.To, "take.") {
			continue
		}
		key := g.To
		if key == crosswalk.Leading {
			key = t.Leading
		}
		rule, _ := g.Rule()
		if !ok || !put(key, rule, f, g.Reason) {
			p.Unused = append(p.Unused, f)
		}
	}
	for _, text := range free {
		p.facts(l, t, text, have)
	}
}

// facts places the facts of a free text, and names those that fill nothing. A word that looks like a manufacturer part
// number is offered as one where the text has none.
func (p *Pasted) facts(l *described.Lexicon, t *cabinet.Template, text string, have map[string]bool) {
	placed, left := l.Place(t, text, measure.Options{})
	for _, f := range placed {
		slot, _ := t.Slot(f.Key)
		v, problem := slot.Read(f.Piece.Text, measure.Options{})
		if have[f.Key] || problem != nil && problem.Kind == "unreadable" {
			p.Unused = append(p.Unused, Field{Text: f.Piece.Text})
			continue
		}
		have[f.Key] = true
		one := Pasting{Key: f.Key, Value: slot.Shown(v), Written: f.Piece.Text, Why: f.Why}
		if problem != nil {
			one.Value, one.Problem = f.Piece.Text, problem.Why+"; "+problem.Mend
		}
		p.Values = append(p.Values, one)
	}
	offered := l.Numbers(text)
	for _, f := range left {
		name := f.Why
		if slices.Contains(offered, f.Piece.Text) && p.Source.MPN == "" {
			name = "may be the manufacturer part number"
			p.MPNs = append(p.MPNs, f.Piece.Text)
		}
		p.Unused = append(p.Unused, Field{Name: name, Text: f.Piece.Text})
	}
}

// pasteDrawer chooses a drawer by the words, or by the leading parameter whose value is there.
func pasteDrawer(cab *cabinet.Cabinet, kind, text string, to map[string]crosswalk.Suggestion, fields []Field) (drawer, because string) {
	s := newSorter(cab)
	for _, try := range []struct{ what, text string }{{"its kind says", kind}, {"the text says", text}} {
		if d, said := s.drawer(try.text, nil); d != "" {
			return d, fmt.Sprintf("%s %q", try.what, said)
		}
	}
	// Which drawer has the most of the named parameters, its leading one among them?
	best, second := 0, 0
	var found *cabinet.Template
	facts := measure.Facts(kind+" "+text, measure.Options{})
	words := s.candidates(kind + " " + text)
	for _, t := range cab.Templates() {
		if !t.Leaf || len(words) > 0 && !words[t.Key] {
			continue
		}
		n, leads := 0, false
		for _, f := range fields {
			if g := to[f.Name]; f.Name != "" && (t.Has(g.To) || g.To == crosswalk.Leading) {
				n++
				leads = leads || g.To == t.Leading || g.To == crosswalk.Leading
			}
		}
		for _, f := range facts {
			for _, slot := range t.Slots {
				if f.Reading.Outcome == measure.Read && slot.Type == cabinet.Measure && f.Case == (measure.Case{}) && slot.Of == f.Reading.Measure.Of.String() && slot.Deviation == (f.Reading.Measure.Shape == measure.Deviation) {
					n++
					leads = leads || slot.Key == t.Leading
					break
				}
				if f.Case != (measure.Case{}) && slot.ChipCode == "inch" || f.Word && slot.Type == cabinet.Choice && isChoice(&slot.Parameter, text[max(0, min(f.From-len(kind)-1, len(text))):max(0, min(f.To-len(kind)-1, len(text)))]) {
					n++
					break
				}
			}
		}
		if !leads {
			continue
		}
		if n > best {
			best, second, found = n, best, t
		} else if n > second {
			second = n
		}
	}
	if found == nil || best == second {
		return "", ""
	}
	return found.Key, fmt.Sprintf("it has %d of the values, and %s leads there", best, found.Leading)
}

func isChoice(p *cabinet.Parameter, text string) bool {
	_, ok := p.Choice(text)
	return ok
}
