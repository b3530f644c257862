package intake

import (
	"fmt"
	"slices"
	"strings"

	"jollydrawer/core/cabinet"
	"jollydrawer/core/crosswalk"
	"jollydrawer/core/decision"
	"jollydrawer/core/finding"
	"jollydrawer/core/part"
)

type builder struct {
	in      Input
	res     *Result
	bySrc   map[string]int // source key → place of the candidate that has it
	byOrder map[string]int // number of the supplier → place of the first candidate that has it
	numbers map[string]int // part number → row
	same    map[string]int // drawer and identifying values → place of the first such row
	leave   map[int]bool
	free    map[freeKey]uint32 // readings of texts that are no cell: edited or combined
	guesses map[[3]string][2]string
	sorter  *sorter
	makers  makers
	said    map[saidKey]*finding.Finding
	waive   map[string]waived
	ids     []uint32 // by reading: the number of its value
	byValue map[cabinet.Value]uint32
	odd     map[oddKey]*finding.Finding
	derived map[[2]uint32]uint32       // readings of the two chip codes → of the one that follows
	inSheet map[[2]string]bool         // file and part number → it names it
	raw     []byte                     // of the last identity
	room    []valAt                    // that no candidate's values take yet
	head    string                     // the header row, to know it when it comes again
	against map[int][]*decision.Record // by place: decisions that the row contradicts by now
}

type freeKey struct {
	drawer string
	rule   int32
	text   string
}

type waived struct {
	all  string
	rows map[int]string
}

// Build works out every row of the table.
func Build(in Input) *Result {
	n := in.Table.Len()
	b := &builder{in: in, bySrc: make(map[string]int, n), byOrder: make(map[string]int, n), numbers: map[string]int{}, same: map[string]int{}, leave: map[int]bool{}, against: map[int][]*decision.Record{},
		free: map[freeKey]uint32{}, guesses: map[[3]string][2]string{}, said: map[saidKey]*finding.Finding{}, odd: map[oddKey]*finding.Finding{}, derived: map[[2]uint32]uint32{}, inSheet: map[[2]string]bool{}, byValue: map[cabinet.Value]uint32{}, waive: map[string]waived{}, head: strings.ToLower(strings.Join(in.Table.Header, "\x00"))}
	b.res = &Result{in: in, col: in.Table.byName(), templates: map[string]*plan{}, joins: map[int][]int{}, Differing: map[string]int{}, readings: []reading{{}}, Counts: map[State]int{}, Unmapped: []string{}, Candidates: make([]Candidate, 0, n), Findings: make([]finding.Finding, 0, n)}
	for _, r := range in.Edits.LeaveOut {
		b.leave[r] = true
	}
	if len(in.Edits.Cells) > 0 {
		b.res.edited = make([]bool, n)
		for row := range in.Edits.Cells {
			if at := in.Table.At(row); at >= 0 {
				b.res.edited[at] = true
			}
		}
	}
	for _, w := range in.Edits.Waive {
		at := b.waive[w.Cause]
		if at.rows == nil {
			at.rows = map[int]string{}
		}
		why := w.Why + " (" + w.Who + ")"
		if len(w.Rows) == 0 {
			at.all = why
		}
		for _, r := range w.Rows {
			at.rows[r] = why
		}
		b.waive[w.Cause] = at
	}
	for _, o := range in.Edits.otherwise {
		b.against[o.at] = append(b.against[o.at], o.by)
	}
	b.makers = newMakers(in.Crosswalk, in.Library)
	b.countMakers()
	b.fields()
	for at := range in.Table.Len() {
		b.row(at)
	}
	b.ahead()
	b.res.makers = b.makers
	for i := range b.res.Candidates {
		b.res.Counts[b.res.Candidates[i].State]++
	}
	return b.res
}

// fields notes fields that the crosswalk expects and the file lacks, and fields that no rule uses.
func (b *builder) fields() {
	used := map[string]bool{}
	for _, f := range b.in.Crosswalk.Used() {
		used[f] = true
		if _, ok := b.res.col[f]; ok {
			b.res.Usable = true
			continue
		}
		b.find(finding.Finding{Severity: finding.Warning, Cause: "field-missing:" + f, Field: f, What: fmt.Sprintf("the crosswalk expects a field %q, which the file lacks", f), Mend: "check the header, or change the crosswalk"})
	}
	for _, f := range b.in.Crosswalk.Unused {
		used[f] = true
	}
	for _, h := range b.in.Table.Header {
		if h != "" && !used[h] {
			b.res.Unmapped = append(b.res.Unmapped, h)
		}
	}
}

func (b *builder) find(f finding.Finding) {
	if w, ok := b.waive[f.Cause]; ok && f.Severity != finding.Error {
		if f.Waived = w.all; f.Waived == "" {
			f.Waived = w.rows[f.Row]
		}
	}
	b.res.Findings = append(b.res.Findings, f)
}

// cell is the text of a field of the candidate's row, as people corrected it.
func (r *Result) cell(c *Candidate, field string) string {
	if field == "" {
		return ""
	}
	if r.edited != nil && r.edited[c.at] {
		if text, ok := r.in.Edits.Cells[c.Row][field]; ok {
			return text
		}
	}
	i, ok := r.col[field]
	if !ok {
		return ""
	}
	return r.in.Table.texts[r.in.Table.cell(c.at, i)]
}

func (b *builder) row(at int) {
	take := &b.in.Crosswalk.Take
	b.res.Candidates = append(b.res.Candidates, Candidate{Row: int(b.in.Table.numbers[at]), at: at, State: New})
	c := &b.res.Candidates[at]
	if b.leave[c.Row] {
		c.State, c.Why = LeftOut, "left out by hand"
		return
	}
	if problem := b.in.Table.problems[at]; problem != "" && b.in.Edits.Cells[c.Row] == nil {
		b.block(c, Blocked, "row-broken", "", "", problem, "correct the row, or leave it out")
		return
	}
	if b.isHeader(at) {
		c.State, c.Why = LeftOut, "it is the header again"
		b.find(finding.Finding{Severity: finding.Note, Cause: "header-again", Row: c.Row, What: "the row is the header again, and is left out"})
		return
	}
	for i := range b.in.Crosswalk.LeaveOut {
		if l := &b.in.Crosswalk.LeaveOut[i]; l.Holds(b.res.cell(c, l.Field)) {
			c.State, c.Why = LeftOut, "the crosswalk leaves out rows where "+l.String()
			return
		}
	}
	c.Kind, c.description, c.Datasheet = b.res.cell(c, take.Kind), b.res.cell(c, take.Description), b.res.cell(c, take.Datasheet)
	p := b.sort(c)
	b.source(c)
	b.identify(c)
	b.otherwise(c)
	if p == nil {
		return
	}
	b.elsewhere(c)
	b.values(c, p)
	if len(c.vals) == 0 && c.source.MPN == "" && c.Number == "" {
		b.block(c, Blocked, "nothing", "", "", "the row gives no value, no manufacturer part number and no number of the house", "map its fields, or leave it out")
		return
	}
	b.texts(c)
	b.neighbours(c, p)
	b.corrected(c, p)
	b.claimed(c, p)
	b.datasheet(c)
	b.sheetSays(c, p)
	b.models(c)
	if c.State != Blocked {
		b.duplicates(c, p)
	}
	b.stated(c)
}

func (b *builder) isHeader(at int) bool {
	var s strings.Builder
	for i, h := range b.in.Table.Header {
		cell := b.in.Table.texts[b.in.Table.cell(at, i)]
		if i == 0 && !strings.EqualFold(cell, h) {
			return false
		}
		if i > 0 {
			s.WriteByte(0)
		}
		s.WriteString(cell)
	}
	return strings.EqualFold(s.String(), b.head)
}

// source reads the manufacturer's part number. An old list without any has no such fields.
func (b *builder) source(c *Candidate) {
	cw := &b.in.Crosswalk
	s := part.Source{Manufacturer: b.res.cell(c, cw.Take.Manufacturer), MPN: b.res.cell(c, cw.Take.MPN)}
	if cw.Take.MPN == "" && cw.Take.Manufacturer == "" {
		return
	}
	written := s.Manufacturer
	if house, ok := cw.Manufacturers[s.Manufacturer]; ok {
		s.Manufacturer = house
	}
	norm, hurt := b.mpn(c, s.MPN)
	missing := func(cause, field, text, what, mend string) {
		b.block(c, Blocked, cause, field, text, what, mend)
	}
	switch {
	case s.MPN == "" && s.Manufacturer == "" && cw.Take.Number != "" && b.res.cell(c, cw.Take.Number) != "":
		return // a house's own list has parts of its own making
	case s.MPN == "":
		missing("no-mpn", cw.Take.MPN, "", "there is no manufacturer part number", "fill it in, or leave the row out")
		return
	case norm == "":
		missing("no-mpn", cw.Take.MPN, s.MPN, fmt.Sprintf("%q is no manufacturer part number", s.MPN), "correct it, or leave the row out")
		return
	case b.makers.normalise(s.Manufacturer) == "":
		missing("no-manufacturer", cw.Take.Manufacturer, s.Manufacturer, "there is no manufacturer", "fill it in, or leave the row out")
		return
	}
	if n := b.res.cell(c, cw.Take.SupplierNumber); n != "" {
		s.Numbers = []part.Number{{Supplier: cw.Supplier, Number: n}}
	}
	if cause, what := hurt.cause, hurt.what; cause == "spreadsheet-number" {
		missing(cause+":"+cw.Take.MPN, cw.Take.MPN, s.MPN, fmt.Sprintf("%q in %q is no manufacturer part number: %s", s.MPN, cw.Take.MPN, what), "format the column as text in the file, or correct the cell")
		return
	} else if cause != "" {
		b.find(finding.Finding{Severity: finding.Warning, Cause: cause + ":" + cw.Take.MPN, Row: c.Row, Field: cw.Take.MPN, Text: s.MPN, What: fmt.Sprintf("%q in %q: %s", s.MPN, cw.Take.MPN, what), Mend: "correct the cell"})
	}
	if len(s.Numbers) > 0 {
		if hurt := b.orderNumber(c, s.Numbers[0].Number); hurt.cause != "" {
			cause, what := hurt.cause, hurt.what
			f := cw.Take.SupplierNumber
			b.find(finding.Finding{Severity: finding.Warning, Cause: cause + ":" + f, Row: c.Row, Field: f, Text: s.Numbers[0].Number, What: fmt.Sprintf("%q in %q: %s", s.Numbers[0].Number, f, what), Mend: "format the column as text in the file, or correct the cell"})
			s.Numbers = nil
		}
	}
	c.source = s
	b.maker(c, written, s.Manufacturer)
	c.key = b.makers.normalise(c.source.Manufacturer) + "|" + norm // what its Key is
}

// orderNumber is what a spreadsheet did to a supplier's number.
func (b *builder) orderNumber(c *Candidate, text string) (hurt damage) {
	if col, ok := b.res.col[b.in.Crosswalk.Take.SupplierNumber]; ok && b.in.Table.texts[b.in.Table.cell(c.at, col)] == text {
		return b.in.Table.mpnsOf(col).hurt[c.at]
	}
	hurt.cause, hurt.what = damaged(text)
	return hurt
}

// mpn is a manufacturer part number as it is compared, and what a spreadsheet did to it: of the file's own texts worked out once for all
// the times that the file is built.
func (b *builder) mpn(c *Candidate, text string) (norm string, hurt damage) {
	if col, ok := b.res.col[b.in.Crosswalk.Take.MPN]; ok && b.in.Table.texts[b.in.Table.cell(c.at, col)] == text {
		n := b.in.Table.mpnsOf(col)
		return n.norm[c.at], n.hurt[c.at]
	}
	hurt.cause, hurt.what = damaged(text)
	return part.NormaliseMPN(text), hurt
}

func (b *builder) identify(c *Candidate) {
	f := b.in.Crosswalk.Take.Number
	n := b.res.cell(c, f)
	if n == "" {
		return
	}
	if len(n) > 64 || strings.ContainsAny(n, "\r\n\t") {
		b.block(c, Blocked, "number-form", f, n, "the part number is longer than 64 characters or has line breaks", "correct it, or leave the row out")
		return
	}
	c.Number = n
	if first, twice := b.numbers[strings.ToUpper(n)]; twice {
		b.block(c, Blocked, "number-twice", f, n, fmt.Sprintf("the part number %s is also in row %d", n, first), "correct one of them, or leave one out")
		return
	}
	b.numbers[strings.ToUpper(n)] = c.Row
}

// texts refuses what is too long to be a value, a name or a number.
func (b *builder) texts(c *Candidate) {
	long := ""
	for _, v := range c.vals {
		if r := &b.res.readings[v.reading]; len(r.value.Text) > part.MaxText {
			long = b.res.templates[c.Drawer].t.Slots[v.slot].Label
		}
	}
	for _, s := range []struct{ what, text string }{{"the description", c.description}, {"the manufacturer", c.source.Manufacturer}, {"the manufacturer part number", c.source.MPN}} {
		if len(s.text) > part.MaxText {
			long = s.what
		}
	}
	if len(c.source.Numbers) > 0 && len(c.source.Numbers[0].Number) > part.MaxText {
		long = "the supplier's number"
	}
	if long != "" {
		b.block(c, Blocked, "text-too-long", "", "", fmt.Sprintf("%s is longer than %d bytes", long, part.MaxText), "shorten it, or leave the row out")
	}
}

// ahead says which of the house's numbers lie far ahead of their counter, which will step past them.
func (b *builder) ahead() {
	if b.in.Crosswalk.Take.Number == "" {
		return
	}
	for i := range b.res.Candidates {
		c := &b.res.Candidates[i]
		if c.State != New || c.Number == "" {
			continue
		}
		at := strings.LastIndexByte(c.Number, '-')
		if at < 0 {
			continue
		}
		next, ok := b.in.Next[strings.ToUpper(c.Number[:at])]
		n := int64(0)
		for _, d := range c.Number[at+1:] {
			if d < '0' || d > '9' || n > 1e12 {
				n = -1
				break
			}
			n = n*10 + int64(d-'0')
		}
		if ok && n >= next+10_000 {
			b.find(finding.Finding{Severity: finding.Warning, Cause: "number-ahead", Row: c.Row, Field: b.in.Crosswalk.Take.Number, Text: c.Number,
				What: fmt.Sprintf("%s lies %d numbers ahead of the counter, which will continue behind it", c.Number, n-next), Mend: "check that it is no slip"})
		}
	}
}

// columns lists the columns of a table with some of their values, for suggestions.
func (t *Table) columns() []crosswalk.Column {
	out := make([]crosswalk.Column, len(t.Header))
	for i, s := range t.Samples(sampled) {
		out[i] = crosswalk.Column{Name: t.Header[i], Sample: s}
	}
	return out
}

// sampled is how many values of a column suggestions look at.
const sampled = 200

// Suggest proposes a mapping for the fields of a table that the crosswalk does not use yet.
func Suggest(t *Table, cw crosswalk.Crosswalk, k crosswalk.Known) []crosswalk.Suggestion {
	used := slices.Clone(cw.Unused)
	for _, r := range cw.Fields {
		used = append(used, r.Inputs()...)
	}
	used = append(used, cw.Take.Fields()...)
	places := map[string]bool{}
	for place, field := range cw.Take.Places() {
		places["take."+place] = *field != ""
	}
	out := []crosswalk.Suggestion{}
	for _, g := range t.suggest(k) {
		mapped := slices.ContainsFunc(cw.Fields, func(r crosswalk.Rule) bool { return r.To == g.To })
		if (!slices.Contains(used, g.From) || g.Fact && !mapped) && !places[g.To] {
			out = append(out, g)
		}
	}
	return out
}
