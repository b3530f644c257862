// Package intake turns rows of a supplier's file into candidate parts and says what is wrong with them. It reads no
// file and changes no library: rows come in, candidates and findings go out, the same every time.
package intake

import (
	"fmt"
	"slices"
	"sort"
	"strings"

	"jollydrawer/core/cabinet"
	"jollydrawer/core/crosswalk"
	"jollydrawer/core/finding"
	"jollydrawer/core/measure"
	"jollydrawer/core/origin"
	"jollydrawer/core/part"
)

// Row is one row of the file: its number, its cells in the order of the header, and what was wrong with it.
type Row struct {
	Number  int
	Cells   []string
	Problem string
}

// State says what taking in would do with a row.
type State string

// The states of a row.
const (
	New     State = "new"      // becomes a draft
	Known   State = "known"    // the library has it, with the same values
	Differs State = "differs"  // the library has it, with other values; left alone
	Repeat  State = "repeat"   // says the same as an earlier row
	Blocked State = "blocked"  // has an error: cannot be taken in
	LeftOut State = "left out" // by a person
)

// States lists the states in the order they are counted.
var States = []State{New, Known, Differs, Repeat, Blocked, LeftOut}

// Candidate is what one row would become.
type Candidate struct {
	Row      int                      `json:"row"`
	State    State                    `json:"state"`
	Why      string                   `json:"why,omitempty"`
	Kind     string                   `json:"kind,omitempty"` // the supplier's kind, as written
	Number   string                   `json:"number,omitempty"`
	Existing string                   `json:"existing,omitempty"` // part number in the library
	Content  part.Content             `json:"content"`
	Origins  map[string]origin.Origin `json:"-"`
}

// Library is what the checks ask of the library.
type Library interface {
	// BySource returns the number and content of the part that holds a source key.
	BySource(key string) (number string, content part.Content, ok bool)
	// HasNumber says whether a part number, present or former, is taken.
	HasNumber(number string) bool
}

// Edits is what people decided about rows, by row number; the file itself is never changed.
type Edits struct {
	LeaveOut []int          `json:"leaveOut,omitempty"`
	Drawers  map[int]string `json:"drawers,omitempty"`
}

// Input is everything a build depends on.
type Input struct {
	File, Name string // hash and name, for origins
	Header     []string
	Crosswalk  crosswalk.Crosswalk
	Cabinet    *cabinet.Cabinet
	Library    Library
	Edits      Edits
}

// Result is the outcome for a whole file.
type Result struct {
	Candidates []Candidate
	Findings   []finding.Finding
	Unmapped   []string // fields that no rule uses
	Counts     map[State]int
}

// column finds a field of the header; -1 when it is not there or not named.
type builder struct {
	in      Input
	col     map[string]int
	res     Result
	bySrc   map[string]int // source key → index of the candidate that has it
	numbers map[string]int
	leave   map[int]bool
	memo    map[memoKey]memoValue
}

type memoKey struct{ key, unit, text string }
type memoValue struct {
	v cabinet.Value
	p *cabinet.Problem
}

// Build reads all rows. next returns rows until ok is false.
func Build(in Input, next func() (Row, bool)) (Result, error) {
	b := &builder{in: in, col: map[string]int{}, bySrc: map[string]int{}, numbers: map[string]int{}, leave: map[int]bool{}, memo: map[memoKey]memoValue{}}
	for i, h := range in.Header {
		if _, twice := b.col[h]; !twice {
			b.col[h] = i
		}
	}
	if err := b.fields(); err != nil {
		return b.res, err
	}
	for _, r := range in.Edits.LeaveOut {
		b.leave[r] = true
	}
	for {
		row, ok := next()
		if !ok {
			break
		}
		b.row(row)
	}
	b.res.Counts = map[State]int{}
	for _, c := range b.res.Candidates {
		b.res.Counts[c.State]++
	}
	return b.res, nil
}

// fields refuses a crosswalk whose fields are all missing, and notes fields missing or unused.
func (b *builder) fields() error {
	used := map[string]bool{}
	var missing []string
	want := append([]string{}, b.in.Crosswalk.Take.Fields()...)
	for _, r := range b.in.Crosswalk.Fields {
		want = append(want, r.From)
	}
	named := 0
	for _, f := range want {
		if f == "" || used[f] {
			continue
		}
		used[f] = true
		named++
		if _, ok := b.col[f]; !ok {
			missing = append(missing, f)
		}
	}
	if named == len(missing) {
		return fmt.Errorf("none of the fields of the crosswalk for %s is in this file: choose the crosswalk of the supplier it came from", b.in.Crosswalk.Supplier)
	}
	for _, f := range missing {
		b.find(finding.Warning, "field-missing:"+f, 0, f, fmt.Sprintf("the crosswalk expects a field %q, which the file lacks", f), "check the header, or change the crosswalk")
	}
	b.res.Unmapped = []string{}
	for _, h := range b.in.Header {
		if h != "" && !used[h] {
			b.res.Unmapped = append(b.res.Unmapped, h)
		}
	}
	return nil
}

func (b *builder) find(sev finding.Severity, cause string, row int, field, what, mend string) {
	b.res.Findings = append(b.res.Findings, finding.Finding{Severity: sev, Cause: cause, Row: row, Field: field, What: what, Mend: mend})
}

func (b *builder) cell(r Row, field string) string {
	if field == "" {
		return ""
	}
	i, ok := b.col[field]
	if !ok || i >= len(r.Cells) {
		return ""
	}
	return strings.TrimSpace(r.Cells[i])
}

func (b *builder) row(r Row) {
	take := b.in.Crosswalk.Take
	c := Candidate{Row: r.Number, State: New, Kind: b.cell(r, take.Kind), Origins: map[string]origin.Origin{}}
	defer func() { b.res.Candidates = append(b.res.Candidates, c) }()
	block := func(cause, field, what, mend string) {
		if c.State != Blocked {
			c.State, c.Why = Blocked, what
		}
		b.find(finding.Error, cause, r.Number, field, what, mend)
	}
	if b.leave[r.Number] {
		c.State, c.Why = LeftOut, "left out by hand"
		return
	}
	if r.Problem != "" {
		block("row-broken", "", r.Problem, "correct the row in the file, or leave it out")
		return
	}
	t := b.sort(r, &c, block)
	src := b.source(r, &c, block)
	b.identify(r, &c, block)
	if t == nil {
		return
	}
	c.Content.Drawer = t.Key
	b.values(r, t, &c)
	if more, err := t.Derive(c.Content.Values); err == nil {
		for key, v := range more {
			c.Content.Values[key], c.Origins["values."+key] = v, origin.Origin{Rule: "by the table of chip cases"}
		}
	}
	c.Content.Description = t.Describe(c.Content.Values)
	c.Content.Name = c.Content.NameBy(t)
	if c.Content.Description == "" {
		c.Content.Description = b.cell(r, take.Description)
	}
	c.Content.Clean()
	if where := c.Content.TooLong(); where != "" {
		block("text-too-long", where, fmt.Sprintf("%s is longer than %d bytes", where, part.MaxText), "shorten it, or leave the row out")
	}
	if c.State != Blocked {
		b.duplicates(r, &c, src, block)
	}
}

// sort chooses the drawer: by hand, by the supplier's kind, by the crosswalk's default.
func (b *builder) sort(r Row, c *Candidate, block func(cause, field, what, mend string)) *cabinet.Template {
	key := b.in.Edits.Drawers[r.Number]
	if key == "" {
		key = b.in.Crosswalk.Kinds[c.Kind]
	}
	if key == "" {
		key = b.in.Crosswalk.Drawer
	}
	if key == "" {
		block("no-drawer:"+c.Kind, b.in.Crosswalk.Take.Kind, fmt.Sprintf("no drawer is known for the kind %q", c.Kind), "map the kind to a drawer in the crosswalk, or choose a drawer for the row")
		return nil
	}
	t, ok := b.in.Cabinet.Template(key)
	if !ok || !t.Leaf {
		block("no-drawer:"+key, "", fmt.Sprintf("the cabinet has no drawer %q that holds parts", key), "change the crosswalk")
		return nil
	}
	return t
}

func (b *builder) source(r Row, c *Candidate, block func(cause, field, what, mend string)) part.Source {
	cw := b.in.Crosswalk
	s := part.Source{Manufacturer: b.cell(r, cw.Take.Manufacturer), MPN: b.cell(r, cw.Take.MPN)}
	if house, ok := cw.Manufacturers[s.Manufacturer]; ok {
		s.Manufacturer = house
	}
	switch {
	case cw.Take.MPN == "" && cw.Take.Manufacturer == "":
		return s
	case s.MPN == "":
		block("no-mpn", cw.Take.MPN, "there is no manufacturer part number", "fill it in, or leave the row out")
		return s
	case part.NormaliseMPN(s.MPN) == "":
		block("no-mpn", cw.Take.MPN, fmt.Sprintf("%q is no manufacturer part number", s.MPN), "correct it, or leave the row out")
		return s
	case part.NormaliseMaker(s.Manufacturer) == "":
		block("no-manufacturer", cw.Take.Manufacturer, "there is no manufacturer", "fill it in, or leave the row out")
		return s
	}
	if n := b.cell(r, cw.Take.SupplierNumber); n != "" {
		s.Numbers = []part.Number{{Supplier: cw.Supplier, Number: n}}
	}
	c.Content.Sources = []part.Source{s}
	c.Origins["sources"] = b.origin(r, cw.Take.MPN, s.MPN, "")
	return s
}

func (b *builder) identify(r Row, c *Candidate, block func(cause, field, what, mend string)) {
	f := b.in.Crosswalk.Take.Number
	n := b.cell(r, f)
	if n == "" {
		return
	}
	if len(n) > 64 || strings.ContainsAny(n, "\r\n\t") {
		block("number-form", f, "the part number is longer than 64 characters or has line breaks", "correct it, or leave the row out")
		return
	}
	c.Number = n
	if first, twice := b.numbers[strings.ToUpper(n)]; twice {
		block("number-twice", f, fmt.Sprintf("the part number %s is also in row %d", n, first), "correct one of them, or leave one out")
		return
	}
	b.numbers[strings.ToUpper(n)] = r.Number
}

func (b *builder) origin(r Row, field, written, rule string) origin.Origin {
	return origin.Origin{File: b.in.File, Name: b.in.Name, Row: r.Number, Field: field, Written: written, Rule: rule}
}

func (b *builder) values(r Row, t *cabinet.Template, c *Candidate) {
	c.Content.Values = map[string]cabinet.Value{}
	for _, rule := range b.in.Crosswalk.Fields {
		key, ok := rule.Applies(t)
		if !ok {
			continue
		}
		written := b.cell(r, rule.From)
		slot, _ := t.Slot(key)
		text, note := rule.Rewrite(written)
		v, problem := b.read(slot.Parameter, rule.Unit, text)
		if problem != nil {
			sev := finding.Warning
			cause := problem.Kind + ":" + rule.From + "→" + key
			b.find(sev, cause, r.Number, rule.From, problem.Why, problem.Mend)
		}
		if v.IsBlank() {
			continue
		}
		if have, twice := c.Content.Values[key]; twice {
			if have != v {
				b.find(finding.Warning, "two-fields:"+key, r.Number, rule.From,
					fmt.Sprintf("field %q says %s for %s, and another field says %s, which is kept", rule.From, v, slot.Label, have), "let one field fill the parameter")
			}
			continue
		}
		c.Content.Values[key] = v
		c.Origins["values."+key] = b.origin(r, rule.From, written, note)
	}
	for _, s := range t.Slots {
		if s.Required && !s.ByHand && c.Content.Values[s.Key].IsBlank() {
			b.find(finding.Warning, "required:"+t.Key+"."+s.Key, r.Number, s.Key, fmt.Sprintf("%s is required in %s and blank", s.Label, t.Label), "map a field to it, or fill it in on the part before release")
		}
	}
}

// read is Parameter.Read, remembered by distinct text: a column holds few of them.
func (b *builder) read(p cabinet.Parameter, unit, text string) (cabinet.Value, *cabinet.Problem) {
	k := memoKey{p.Key, unit, text}
	if m, ok := b.memo[k]; ok {
		return m.v, m.p
	}
	v, problem := p.Read(text, measure.Options{Unit: unit, Mark: b.in.Crosswalk.Mark()})
	if len(b.memo) < 200_000 {
		b.memo[k] = memoValue{v, problem}
	}
	return v, problem
}

// duplicates compares a row with the rows before it and with the library.
func (b *builder) duplicates(r Row, c *Candidate, src part.Source, block func(cause, field, what, mend string)) {
	if src.MPN != "" {
		key := src.Key()
		if i, ok := b.bySrc[key]; ok {
			first := &b.res.Candidates[i]
			if diff := Differences(first.Content, c.Content); len(diff) == 0 {
				c.State, c.Why = Repeat, fmt.Sprintf("row %d already says the same", first.Row)
				have := &first.Content.Sources[0]
				for _, n := range src.Numbers { // another packing of the same part has another order number
					if !slices.Contains(have.Numbers, n) {
						have.Numbers = append(have.Numbers, n)
					}
				}
				return
			} else if first.State != Known && first.State != Differs {
				why := fmt.Sprintf("%s %s is also in row %d with other values: %s", src.Manufacturer, src.MPN, first.Row, strings.Join(diff, "; "))
				block("mpn-two-values", b.in.Crosswalk.Take.MPN, why, "correct one of the rows, or leave one out")
				if first.State == New {
					first.State, first.Why = Blocked, fmt.Sprintf("%s %s is also in row %d with other values", src.Manufacturer, src.MPN, r.Number)
				}
				return
			}
		} else {
			b.bySrc[key] = len(b.res.Candidates)
		}
		if number, have, ok := b.in.Library.BySource(key); ok {
			c.Existing = number
			for _, n := range src.Numbers {
				if !sells(have, n) {
					b.find(finding.Note, "supplier-number", r.Number, b.in.Crosswalk.Take.SupplierNumber, fmt.Sprintf("%s sells %s under %s, which its record does not say", n.Supplier, number, n.Number), "add the number to the part's source")
				}
			}
			if diff := Differences(have, c.Content); len(diff) == 0 {
				c.State, c.Why = Known, "the library has it as "+number
			} else {
				c.State, c.Why = Differs, fmt.Sprintf("the library has it as %s: %s", number, strings.Join(diff, "; "))
				b.find(finding.Warning, "library-differs", r.Number, "", fmt.Sprintf("%s %s is in the library as %s with other values: %s", src.Manufacturer, src.MPN, number, strings.Join(diff, "; ")), "compare the two; the part in the library is left as it is")
			}
			return
		}
	}
	if c.Number != "" && b.in.Library.HasNumber(c.Number) {
		block("number-taken", b.in.Crosswalk.Take.Number, fmt.Sprintf("the part number %s is taken in the library", c.Number), "leave the row out, or correct its number")
	}
}

// sells says whether a part's record has a supplier's number.
func sells(c part.Content, n part.Number) bool {
	for _, s := range c.Sources {
		if slices.Contains(s.Numbers, n) {
			return true
		}
	}
	return false
}

// Differences says in words where the values that both or only the newer of two contents carry do not agree.
func Differences(old, now part.Content) []string {
	var out []string
	if old.Drawer != now.Drawer {
		out = append(out, fmt.Sprintf("drawer %s, not %s", old.Drawer, now.Drawer))
	}
	keys := make([]string, 0, len(now.Values))
	for k := range now.Values {
		keys = append(keys, k)
	}
	sort.Strings(keys)
	for _, k := range keys {
		if have := old.Values[k]; have != now.Values[k] {
			was := have.String()
			if have.IsBlank() {
				was = "blank"
			}
			out = append(out, fmt.Sprintf("%s %s, not %s", k, was, now.Values[k]))
		}
	}
	return out
}
