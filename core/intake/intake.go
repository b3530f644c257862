// Package intake turns rows of a supplier's file into candidate parts and says what is wrong with them. It reads no
// file and changes no library: rows come in, candidates and findings go out, the same every time.
package intake

import (
	"slices"

	"jollydrawer/core/cabinet"
	"jollydrawer/core/crosswalk"
	"jollydrawer/core/decision"
	"jollydrawer/core/finding"
	"jollydrawer/core/lifecycle"
	"jollydrawer/core/origin"
	"jollydrawer/core/part"
)

// State says what taking in would do with a row.
type State string

// The states of a row.
const (
	New       State = "new"       // becomes a draft
	Update    State = "update"    // changes a part of the library
	Alternate State = "alternate" // becomes another source of a part
	Known     State = "known"     // the library has it, with the same values
	Differs   State = "differs"   // the library has it, with other values; left alone until somebody decides
	Repeat    State = "repeat"    // says the same as an earlier row
	Unsorted  State = "unsorted"  // no drawer is known: cannot be taken in
	Blocked   State = "blocked"   // has an error: cannot be taken in
	LeftOut   State = "left out"  // on purpose
)

// States lists the states in the order they are counted.
var States = []State{New, Update, Alternate, Known, Differs, Repeat, Unsorted, Blocked, LeftOut}

// Ways to settle a row that the library has already, or that is like a part of it.
const (
	Ask      = "ask"       // leave it alone and say so
	Replace  = "replace"   // the file's values win
	Fill     = "fill"      // only blanks of the part are filled
	Keep     = "keep"      // leave the row out
	Separate = "separate"  // a part of its own, with a reason
	AsSource = "alternate" // another source of the part
)

// Change is one value that an update changes.
type Change struct {
	Key string `json:"key"`
	Old string `json:"old"`
	New string `json:"new"`
}

// Candidate is what one row would become. Its values are asked of the Result.
type Candidate struct {
	Row       int
	State     State
	Why       string
	Because   string // why it is in its drawer
	Kind      string // the supplier's kind, as written
	Number    string
	Existing  string // part number in the library
	Part      string // identifier of that part
	Version   int    // and its version, which an update is based on
	Drawer    string
	Changes   []Change
	Joins     int // place of the earlier row that it is another source of, plus one
	Reason    string
	Datasheet string // as written

	at          int // in the table
	source      part.Source
	key         string             // of the source
	standing    lifecycle.Standing // of the part in the library
	description string             // of the row, where the drawer has no pattern
	vals        []valAt
}

// valAt is a value: which parameter of the template, and which reading.
type valAt struct {
	slot    uint16
	reading uint32
}

// Source is the candidate's manufacturer part number; blank where the row names none.
func (c *Candidate) Source() part.Source { return c.source }

// Existing is a part of the library that a row may stand for.
type Existing struct {
	ID, Number string
	Version    int
	Standing   lifecycle.Standing
	Content    part.Content
}

// Library is what the checks ask of the library.
type Library interface {
	// Source returns the part that holds a source key.
	Source(key string) (Existing, bool)
	// Numbered returns the part with a part number, present or former.
	Numbered(number string) (Existing, bool)
	// Makers lists the manufacturers of the library's sources.
	Makers() []string
	// Like returns a way to find the parts of a drawer that have given values in all of some parameters.
	Like(drawer string, keys []string) func(value func(key string) cabinet.Value) []string
}

// Edits is what people decided about the rows of one file, by row; the file itself is never changed. It is laid on a file anew whenever
// that is worked out: what is kept of decisions is Kept.
type Edits struct {
	LeaveOut []int
	Drawers  map[int]string
	Cells    map[int]map[string]string // row → field → the text instead
	Decide   map[int]Decision          // row → how it is settled
	Waive    []Waiver
	Known    string            // how rows that the library has with other values are settled: ask, replace, fill or keep
	Fields   map[string]string // parameter → how its values are settled, whatever known says
	Like     string            // how rows like a part in the identifying parameters are settled: blank (new), alternate or keep

	said      map[saidOf]*decision.Record
	otherwise []contradicted
}

// saidOf is what a decision settles of a row: its state, its drawer, or a cell.
type saidOf struct {
	row   int
	kind  decision.Kind
	field string
}

// contradicted is a decision about a row that says something else by now.
type contradicted struct {
	by *decision.Record
	at int // place of the row
}

// Decision settles one row.
type Decision struct {
	As  string `json:"as"`
	Why string `json:"why,omitempty"`
}

// Waiver accepts findings of a cause: those of the rows, or all where there are none.
type Waiver struct {
	Cause string `json:"cause"`
	Rows  []int  `json:"rows,omitempty"`
	Why   string `json:"why"`
	Who   string `json:"who"`
}

// Fetched is what became of a datasheet's link or path.
type Fetched struct {
	File    part.File
	Problem string
	Text    *SheetText // nil where nobody read it
}

// ModelFinder finds a released model of the library by its kind and name.
type ModelFinder func(kind, name string) (part.Model, bool)

// Input is everything a build depends on.
type Input struct {
	File, Name string // hash and name, for origins
	Table      *Table
	Crosswalk  crosswalk.Crosswalk
	Cabinet    *cabinet.Cabinet
	Library    Library
	Models     ModelFinder // none where it is nil
	Edits      Edits
	Claims     Claims             // none where it is nil
	Next       map[string]int64   // the next number of each prefix's counter
	Fetched    map[string]Fetched // by link, as written
}

// Result is the outcome for a whole file.
type Result struct {
	Candidates []Candidate
	Findings   []finding.Finding
	Unmapped   []string // fields that no rule uses
	Counts     map[State]int
	Differing  map[string]int // parameter → rows that the library has with another value
	Usable     bool           // some field of the crosswalk is in the file

	in        Input
	readings  []reading
	templates map[string]*plan
	makers    makers
	edited    []bool         // by place: some cell was corrected; nil where none was
	col       map[string]int // of the table's fields
	joins     map[int][]int  // place of a candidate → places of those that are sources of it
}

// reading is what a rule made of a text.
type reading struct {
	value   cabinet.Value
	rule    int32 // of the crosswalk; -1: by the table of chip cases
	written string
	note    string
	problem *cabinet.Problem
}

// Value returns a candidate's value of a parameter.
func (r *Result) Value(i int, key string) cabinet.Value {
	c := &r.Candidates[i]
	p := r.templates[c.Drawer]
	if p == nil {
		return cabinet.Value{}
	}
	for _, v := range c.vals {
		if p.t.Slots[v.slot].Key == key {
			return r.readings[v.reading].value
		}
	}
	return cabinet.Value{}
}

// EachValue calls f with every value of a candidate, its origin and what was wrong with it.
func (r *Result) EachValue(i int, f func(key string, v cabinet.Value, o origin.Origin, p *cabinet.Problem)) {
	r.eachValue(i, nil, f)
}

// eachValue calls f for the values that only says so of; for all where only is nil.
func (r *Result) eachValue(i int, only func(v valAt) bool, f func(key string, v cabinet.Value, o origin.Origin, p *cabinet.Problem)) {
	c := &r.Candidates[i]
	p := r.templates[c.Drawer]
	for _, v := range c.vals {
		if only != nil && !only(v) {
			continue
		}
		x := &r.readings[v.reading]
		o := origin.Origin{Rule: x.note}
		if x.rule >= 0 {
			o = r.origin(c, r.in.Crosswalk.Fields[x.rule], x)
		}
		f(p.t.Slots[v.slot].Key, x.value, o, x.problem)
	}
}

func (r *Result) origin(c *Candidate, rule crosswalk.Rule, x *reading) origin.Origin {
	field := rule.From
	if rule.Combine != "" {
		field = rule.Combine
	}
	o := origin.Origin{File: r.in.File, Name: r.in.Name, Row: c.Row, Field: field, Written: x.written, Rule: x.note}
	for _, f := range rule.Inputs() {
		r.instead(&o, c, f)
	}
	return o
}

// instead says of an origin what its cell held in the file, where somebody wrote something else.
func (r *Result) instead(o *origin.Origin, c *Candidate, field string) {
	if d := r.in.Edits.said[saidOf{c.Row, decision.Cell, field}]; d != nil {
		o.Person, o.At, o.Why = d.By, d.At, d.Reason
		if col, ok := r.col[field]; ok {
			o.Came = r.in.Table.texts[r.in.Table.cell(c.at, col)]
		}
	}
}

// At returns the place of the candidate of a row; -1 where there is none.
func (r *Result) At(row int) int { return r.in.Table.At(row) }

// Content is what the candidate would be as a part of its own.
func (r *Result) Content(i int) part.Content { return r.content(i, func(string, origin.Origin) {}) }

// Made is what the candidate would be as a part of its own, and where that comes from, by place.
func (r *Result) Made(i int) (part.Content, map[string]origin.Origin) {
	how := map[string]origin.Origin{}
	out := r.content(i, func(place string, o origin.Origin) { how[place] = o })
	return out, how
}

// Origins says where the content comes from, by place.
func (r *Result) Origins(i int) map[string]origin.Origin {
	_, how := r.Made(i)
	return how
}

// content is what the candidate would be as a part of its own; from is told where each of it comes from.
func (r *Result) content(i int, from func(place string, o origin.Origin)) part.Content {
	c := &r.Candidates[i]
	out := part.Content{Drawer: c.Drawer, Values: map[string]cabinet.Value{}}
	r.EachValue(i, func(key string, v cabinet.Value, o origin.Origin, _ *cabinet.Problem) {
		out.Values[key] = v
		from("values."+key, o)
	})
	if c.source.MPN != "" {
		out.Sources = []part.Source{c.source}
		from("sources", r.sourceOrigin(c))
	}
	for _, k := range r.joins[i] {
		out.Sources = append(out.Sources, r.Candidates[k].source)
	}
	r.sheetOf(c, &out)
	if p := r.templates[c.Drawer]; p != nil {
		out.Description = p.t.Describe(out.Values)
		out.Name = out.NameBy(p.t)
	}
	if out.Description == "" {
		out.Description = c.description
	}
	r.link(c, &out)
	out.Clean()
	return out
}

// sheetOf puts the datasheet that a row names into a part that has none: the file where it was fetched, the link where it was not.
func (r *Result) sheetOf(c *Candidate, out *part.Content) {
	switch f := r.in.Fetched[c.Datasheet]; {
	case len(out.Datasheets) > 0:
	case f.File.Hash != "":
		out.Datasheets = []part.File{f.File}
	case part.IsLink(c.Datasheet) && !slices.Contains(out.Links, c.Datasheet) && len(out.Links) < part.MaxLinks:
		out.Links = append(slices.Clip(out.Links), c.Datasheet)
	}
}

func (r *Result) sourceOrigin(c *Candidate) origin.Origin {
	o := origin.Origin{File: r.in.File, Name: r.in.Name, Row: c.Row, Field: r.in.Crosswalk.Take.MPN, Written: c.source.MPN}
	r.instead(&o, c, o.Field)
	return o
}

// Cells returns a row as it came and as people corrected it, and which fields they corrected.
func (r *Result) Cells(number int) (row Row, corrected map[string]string, ok bool) {
	at := r.in.Table.At(number)
	if at < 0 {
		return row, nil, false
	}
	return r.in.Table.Row(at), r.in.Edits.Cells[number], true
}
