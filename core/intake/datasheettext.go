package intake

import (
	"fmt"
	"strings"
	"unicode"

	"jollydrawer/core/cabinet"
	"jollydrawer/core/finding"
	"jollydrawer/core/measure"
	"jollydrawer/core/part"
)

// SheetText is what a datasheet's text says about part numbers: which it names, and the lines that name them.
type SheetText struct {
	words  map[string]bool     // normalised
	series map[string]bool     // words before or behind "series", and what stands before the blanks of a pattern
	lines  map[string][]string // normalised part number → lines that it stands in, for words with a digit
	Blank  bool                // as a file that was scanned
}

// ReadSheet reads the text of a datasheet's pages.
func ReadSheet(pages []string) *SheetText {
	t := &SheetText{words: map[string]bool{}, series: map[string]bool{}, lines: map[string][]string{}, Blank: true}
	for _, page := range pages {
		for line := range strings.Lines(page) {
			t.line(strings.TrimSpace(line))
		}
	}
	return t
}

// wildcards stand for letters and digits that differ from part to part of a series: TW0805xxxx, KL□□□, PW-M2-**.
const wildcards = "□■▯*?#·•…_"

func (t *SheetText) line(line string) {
	words := strings.FieldsFunc(line, func(r rune) bool { return unicode.IsSpace(r) || strings.ContainsRune(",;:()[]{}\"“”|=<>", r) })
	before := ""
	for i, w := range words {
		n := part.NormaliseMPN(w)
		if n == "" {
			continue
		}
		t.Blank = false
		t.words[n] = true
		if strings.ContainsFunc(n, unicode.IsDigit) {
			t.lines[n] = append(t.lines[n], line)
		}
		if at := strings.IndexAny(w, wildcards); at > 0 {
			t.series[part.NormaliseMPN(w[:at])] = true
		} else if at := strings.Index(strings.ToLower(w), "xx"); at > 0 {
			t.series[part.NormaliseMPN(w[:at])] = true
		}
		if serial[n] {
			if before != "" {
				t.series[before] = true
			}
			if i+1 < len(words) {
				t.series[part.NormaliseMPN(words[i+1])] = true
			}
		}
		before = n
	}
}

// serial are words that stand beside the name of a series, as NormaliseMPN writes them.
var serial = map[string]bool{"SERIES": true, "SERIE": true, "BAUREIHE": true, "REIHE": true, "SÉRIE": true, "FAMILY": true, "TYPE": true, "TYPES": true}

// Names says whether the text names a part number: itself, or the series that it begins with.
func (t *SheetText) Names(mpn string) bool {
	n := part.NormaliseMPN(mpn)
	if n == "" || t.words[n] {
		return true
	}
	at := 0
	for i := range n { // prefixes on the borders of letters
		at = i
		p := n[:at]
		if len(p) >= 2 && t.series[p] {
			return true
		}
		// A word that the number begins with names its series where it has a digit, or is most of the number: other words are words.
		if len(p) >= 4 && t.words[p] && (strings.ContainsFunc(p, unicode.IsDigit) && strings.ContainsFunc(p, unicode.IsLetter) || 2*len(p) > len(n)) {
			return true
		}
	}
	if len(n) >= 6 { // the datasheet may write more behind the number: its packing
		for w := range t.words {
			if strings.HasPrefix(w, n) {
				return true
			}
		}
	}
	return false
}

// sheetSays compares a row with the text of its datasheet: the file may be about other parts, and the line that names the part may say
// another leading value.
func (b *builder) sheetSays(c *Candidate, p *plan) {
	f, ok := b.in.Fetched[c.Datasheet]
	if !ok || f.Text == nil || c.source.MPN == "" {
		return
	}
	field := b.in.Crosswalk.Take.Datasheet
	if f.Text.Blank {
		b.find(finding.Finding{Severity: finding.Note, Cause: "datasheet-no-text", Row: c.Row, Field: field, Text: c.Datasheet, What: fmt.Sprintf("%s has no text, as a file that was scanned: it could not be compared with the row", f.File.Name), Mend: "look whether it is about this part"})
		return
	}
	if !b.named(f, c.source.MPN) {
		b.find(finding.Finding{Severity: finding.Warning, Cause: "datasheet-other:" + f.File.Name, Row: c.Row, Field: field, Text: c.Datasheet,
			What: fmt.Sprintf("%s names neither %s nor a series that it begins with", f.File.Name, c.source.MPN), Mend: "look whether it is about this part, and correct the link"})
		return
	}
	if p == nil || p.leading < 0 {
		return
	}
	v := c.value(p.leading)
	if v == nil {
		return
	}
	r := &b.res.readings[v.reading]
	if r.value.Type != cabinet.Measure || r.value.Measure.Shape != measure.Nominal {
		return
	}
	_, norm, _ := strings.Cut(c.key, "|")
	for _, line := range f.Text.lines[norm] {
		if says := disagrees(without(line, norm), r.value, measure.Options{}); says != "" {
			slot := &p.t.Slots[p.leading]
			b.find(finding.Finding{Severity: finding.Warning, Cause: "datasheet-says:" + slot.Key, Row: c.Row, Field: b.fieldOf(r), Param: slot.Key, Text: r.written,
				What: fmt.Sprintf("%s is %s, and the line of %s in %s says %s: %q", slot.Label, slot.Shown(r.value), c.source.MPN, f.File.Name, says, shortened(line)), Mend: "look at the datasheet: one of them is wrong"})
			return
		}
	}
}

// named asks a datasheet once for each part number.
func (b *builder) named(f Fetched, mpn string) bool {
	k := [2]string{f.File.Hash, mpn}
	is, ok := b.inSheet[k]
	if !ok {
		is = f.Text.Names(mpn)
		b.inSheet[k] = is
	}
	return is
}

// without takes a part number out of a line, so that nothing in it is read as a value.
func without(line, norm string) string {
	words := strings.Fields(line)
	for i, w := range words {
		if part.NormaliseMPN(w) == norm {
			words[i] = ""
		}
	}
	return strings.Join(words, " ")
}

// shortened is a line as people quote it.
func shortened(line string) string {
	line = strings.Join(strings.Fields(line), " ")
	if r := []rune(line); len(r) > 120 {
		return string(r[:120]) + "…"
	}
	return line
}
