package bom

import (
	"fmt"
	"strconv"
	"strings"

	"github.com/shopspring/decimal"

	"jollydrawer/core/buying"
	"jollydrawer/core/lookup"
)

// Frozen is a revision of a BOM: every line as it was, pinned to the exact revision of its part.
type Frozen struct {
	Name     string   `json:"name"`
	FileName string   `json:"fileName"`
	FileHash string   `json:"fileHash"`
	Build    int      `json:"build,omitempty"`
	Variants []string `json:"variants,omitempty" doc:"Of the board"`
	Variant  string   `json:"variant,omitempty" doc:"Of the board that its build and cost are of"`
	Anyway   string   `json:"anyway,omitempty"` // why it was frozen with lines that are not pinned
	Lines    []Pinned `json:"lines"`

	Rules buying.Rules    `json:"rules,omitzero"`
	Cost  *buying.Costing `json:"cost,omitempty"` // what its build came to, with the offers and rates of that day
}

// Counted are the variants of a revision whose pieces count: the one that its build is of, or all.
func (f Frozen) Counted() []string {
	if f.Variant != "" {
		return []string{f.Variant}
	}
	return f.Variants
}

// Pinned is a line of a BOM as it is frozen and compared.
type Pinned struct {
	Row          int       `json:"row"`
	Designators  []string  `json:"designators"`
	Quantity     int       `json:"quantity" doc:"Pieces of one board"`
	Amount       string    `json:"amount,omitempty" doc:"What is needed where it is not counted in pieces"`
	NotFitted    bool      `json:"notFitted,omitempty"`
	In           []string  `json:"in,omitempty" doc:"The variants of the board that it is in; left out: all"`
	Assembly     bool      `json:"assembly,omitempty" doc:"It is made of other lines, and not bought itself"`
	Board        *BoardPin `json:"board,omitempty" doc:"The revision of another BOM that it is; what that is made of stands below it"`
	Of           string    `json:"of,omitempty" doc:"The other BOM that it is a line of, where it is none of the board's own file"`
	NoPart       bool      `json:"noPart,omitempty" doc:"Somebody said that it is no part of the library"`
	Part         *Pin      `json:"part,omitempty" doc:"The record that it was linked to"`
	Number       string    `json:"number,omitempty" doc:"This and what follows: as the file has it"`
	MPN          string    `json:"mpn,omitempty"`
	Manufacturer string    `json:"manufacturer,omitempty"`
	Value        string    `json:"value,omitempty"`
	Package      string    `json:"package,omitempty"`
	Description  string    `json:"description,omitempty"`
	By           string    `json:"by,omitempty" doc:"Who chose the part, where somebody did"`
	Reason       string    `json:"reason,omitempty" doc:"Why, where something in the line contradicts it"`
}

// Pin is one exact revision of a part.
type Pin struct {
	ID           string `json:"id"`
	Number       string `json:"number"`
	Revision     int    `json:"revision" doc:"0: it was not released"`
	Hash         string `json:"hash,omitempty" doc:"Of the revision's content"`
	Description  string `json:"description"`
	Manufacturer string `json:"manufacturer,omitempty" doc:"Of its first source"`
	MPN          string `json:"mpn,omitempty"`
}

// PinOf pins the revision of a record that is in use.
func PinOf(e *lookup.Entry) *Pin {
	p := &Pin{ID: e.ID, Number: e.Number, Revision: e.Revision, Description: e.Description}
	if len(e.Sources) > 0 {
		p.Manufacturer, p.MPN = e.Sources[0].Manufacturer, e.Sources[0].MPN
	}
	return p
}

// PinAll makes of verdicts what is frozen of them. Only what is linked is pinned: a proposal that nobody accepted is none.
func PinAll(vs []Verdict) []Pinned {
	out := make([]Pinned, len(vs))
	for i := range vs {
		v := &vs[i]
		l := *v.Line
		p := Pinned{Row: l.Row, Designators: append([]string{}, l.Designators...), Quantity: l.Pieces(), Amount: l.Needs().String(), Assembly: v.Kind == Assembly, NotFitted: v.Kind == Unfitted, In: l.In, Number: l.Number, MPN: l.MPN, Manufacturer: l.Manufacturer, Value: l.Value, Package: l.Package, Description: l.Description}
		if v.Kind == Linked && v.Part != nil {
			p.Part = PinOf(v.Part)
		}
		if p.NoPart = v.Kind == Marked; p.NoPart || p.Part != nil || v.Kind == Another {
			if v.Chosen != nil {
				p.By, p.Reason = v.Chosen.By, v.Chosen.Reason
			} else if v.Reading != nil {
				p.By, p.Reason = v.Reading.By, "a reading of such lines"
			}
		}
		out[i] = p
	}
	return out
}

// Pieces is how many pieces one board takes of a line: the quantity that it names, or one for each designator, as often as the sub-assembly that it is part of.
func (l Line) Pieces() int {
	switch {
	case l.Quantity >= 0:
		return l.Quantity * int(l.times())
	case l.Amount != Amount{}:
		return 0
	}
	return l.Own() * int(l.times())
}

// Needs is what one board takes of a line that is not counted in pieces.
func (l Line) Needs() Amount {
	if l.Amount == (Amount{}) || l.times() == 1 {
		return l.Amount
	}
	return l.Amount.Times(l.times())
}

// Times is so many times an amount.
func (a Amount) Times(n int64) Amount {
	number, err := decimal.NewFromString(a.Number)
	if err != nil {
		return a
	}
	return Amount{number.Mul(decimal.NewFromInt(n)).String(), a.Unit}
}

// Rev is the revision as people read it: its number, or that there was none yet.
func (p Pin) Rev() string {
	if p.Revision == 0 {
		return "draft"
	}
	return strconv.Itoa(p.Revision)
}

// Hindrance is why a line cannot be frozen as a promise.
type Hindrance struct {
	Row   int
	Cause string // "open", "unreleased", "fitted-unclear", "level-unclear", "board-open"
	Says  string
}

// named is how a line is called in a sentence: by its first designators, or its row.
func (v *Verdict) named() string {
	name := strings.Join(v.Line.Designators[:min(3, len(v.Line.Designators))], ", ")
	if name == "" {
		name = fmt.Sprintf("row %d", v.Line.Row)
	}
	return name
}

// openWords say what a line is that nothing answers yet.
var openWords = map[Kind]string{Proposed: "only proposed", Several: "one of several parts", Missing: "not in the library"}

// Hindrances lists what keeps a BOM from being frozen: lines that nothing answers yet, and records without a revision that could be pinned.
func Hindrances(vs []Verdict) (out []Hindrance) {
	for i := range vs {
		v := &vs[i]
		if v.Line.FitAsk != "" {
			out = append(out, Hindrance{v.Line.Row, "fitted-unclear", fmt.Sprintf("nobody knows whether %s is fitted", v.named())})
		}
		if v.Line.LevelAsk != "" {
			out = append(out, Hindrance{v.Line.Row, "level-unclear", fmt.Sprintf("nobody knows what %s is part of: %s", v.named(), v.Line.LevelAsk)})
		}
		switch {
		case v.Kind == Unfitted, v.Kind == Marked, v.Kind == Assembly, v.Kind == Another:
		case v.Kind != Linked || v.Part == nil:
			out = append(out, Hindrance{v.Line.Row, "open", fmt.Sprintf("%s is %s", v.named(), openWords[v.Kind])})
		case v.Part.Revision == 0:
			out = append(out, Hindrance{v.Line.Row, "unreleased", fmt.Sprintf("%s is %s, which is not released", v.named(), v.Part.Number)})
		}
	}
	return out
}

// Drift is what became of a pinned line in the library since.
type Drift struct {
	Row         int      `json:"row"`
	Designators []string `json:"designators"`
	Pin         Pin      `json:"pin"`
	Number      string   `json:"number" doc:"Of the part that it leads to now"`
	Revision    int      `json:"revision" doc:"That is in use now"`
	Says        []string `json:"says" doc:"What is otherwise, in words"`
}

// Behind says which pinned lines hold on to something that is otherwise by now: a newer revision, a part merged away, a state that tells against using it, another
// first source. Nothing moves by itself.
func Behind(lines []Pinned, lib Library) (out []Drift) {
	for _, l := range lines {
		if l.Part == nil || l.NotFitted || l.Of != "" { // what is behind on a board that it takes is said there
			continue
		}
		d := Drift{Row: l.Row, Designators: l.Designators, Pin: *l.Part}
		say := func(format string, args ...any) { d.Says = append(d.Says, fmt.Sprintf(format, args...)) }
		e, ok := lib.ByID(l.Part.ID)
		if ok && e.Gone {
			if now, found := lib.ByNumber(l.Part.Number); found && now.ID != e.ID {
				say("it was merged into %s", now.Number)
				e = now
			}
		}
		switch {
		case !ok:
			say("it is no longer there")
		default:
			d.Number, d.Revision = e.Number, e.Revision
			if e.ID == l.Part.ID && e.Revision > l.Part.Revision {
				say("revision %d is in use", e.Revision)
			}
			if e.Number != l.Part.Number && e.ID == l.Part.ID {
				say("its number is %s", e.Number)
			}
			if e.Flag != "" {
				say("it is %s", strings.ToLower(e.Flag))
			}
			if now := PinOf(e); e.ID == l.Part.ID && (now.Manufacturer != l.Part.Manufacturer || now.MPN != l.Part.MPN) {
				say("its first source is %s %s, and was %s %s", now.Manufacturer, now.MPN, l.Part.Manufacturer, l.Part.MPN)
			}
		}
		if len(d.Says) > 0 {
			out = append(out, d)
		}
	}
	return out
}
