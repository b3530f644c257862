package intake

import (
	"encoding/binary"
	"maps"
	"slices"

	"jollydrawer/core/decision"
)

// Kept is what people decided about an intake as it is kept: what was decided about rows hangs on the words of the rows, so that it
// holds when the same rows come again, in whatever order.
type Kept struct {
	Decided []decision.Record `json:"decided,omitempty"`
	Known   string            `json:"known,omitempty"`
	Fields  map[string]string `json:"fields,omitempty"`
	Like    string            `json:"like,omitempty"`
	Waive   []Waiver          `json:"waive,omitempty"` // of whole causes; those of rows are among the decisions

	// What was decided before decisions hung on words hangs on row numbers; CarryOver puts it right.
	LeaveOut []int                     `json:"leaveOut,omitempty"`
	Drawers  map[int]string            `json:"drawers,omitempty"`
	Cells    map[int]map[string]string `json:"cells,omitempty"`
	Decide   map[int]Decision          `json:"decide,omitempty"`
}

// Apart is what was decided, to be changed without changing k: its lists are replaced when they change, its maps are not.
func (k Kept) Apart() Kept {
	k.Fields = maps.Clone(k.Fields)
	k.Waive, k.Decided = slices.Clip(k.Waive), slices.Clip(k.Decided)
	return k
}

// Fate says how a decision stands in a file.
type Fate string

// The fates.
const (
	Holds     Fate = "holds"
	Needless  Fate = "needless"  // the file says by now what was decided
	Otherwise Fate = "otherwise" // the file says something else than what was decided about
	Absent    Fate = "absent"    // the file has no such row
)

// Standing is how one decision stands in a file: the rows that it is about.
type Standing struct {
	Decision *decision.Record
	Fate     Fate
	Rows     []int
}

// On lays what was decided on the rows of a file. What names no row of it stands as absent; a cell that the file writes otherwise than it
// was when somebody corrected it is left as the file says it, and stands so.
func (k *Kept) On(t *Table) (Edits, []Standing) {
	ed := Edits{Known: k.Known, Fields: k.Fields, Like: k.Like, Drawers: map[int]string{}, Cells: map[int]map[string]string{}, Decide: map[int]Decision{}, said: map[saidOf]*decision.Record{}}
	ed.Waive = slices.Clone(k.Waive)
	standings := make([]Standing, len(k.Decided))
	cols := t.byName()
	for i, places := range k.places(t, cols) {
		r := &k.Decided[i]
		s := Standing{Decision: r, Fate: Absent}
		for _, at := range places {
			s.Rows = append(s.Rows, int(t.numbers[at]))
			fate := k.lay(&ed, t, cols, r, int(at))
			if s.Fate == Absent || fate == Holds {
				s.Fate = fate
			}
			if fate == Otherwise {
				ed.otherwise = append(ed.otherwise, contradicted{r, int(at)})
			}
		}
		standings[i] = s
	}
	return ed, standings
}

// Under are edits of the same decisions about rows, with what k says of known and like rows in general.
func (e Edits) Under(k Kept) Edits {
	e.Known, e.Fields, e.Like = k.Known, k.Fields, k.Like
	return e
}

// lay puts one decision on one row.
func (k *Kept) lay(ed *Edits, t *Table, cols map[string]int, r *decision.Record, at int) Fate {
	row := int(t.numbers[at])
	said := func(field string) { ed.said[saidOf{row, r.Kind, field}] = r }
	switch r.Kind {
	case decision.Out:
		ed.LeaveOut = append(ed.LeaveOut, row)
		said("")
	case decision.Drawer:
		ed.Drawers[row] = r.Outcome
		said("")
	case decision.Settle:
		if seen, err := decision.ReadWords(r.Evidence); err != nil || !t.says(at, cols, seen) {
			return Otherwise
		}
		ed.Decide[row] = Decision{As: r.Outcome, Why: r.Reason}
		said("")
	case decision.Accept:
		if seen, err := decision.ReadWords(r.Evidence); err != nil || !t.says(at, cols, seen) {
			return Otherwise
		}
		ed.Waive = append(ed.Waive, Waiver{Cause: r.Field, Rows: []int{row}, Why: r.Reason, Who: r.By})
	case decision.Cell:
		col, ok := cols[r.Field]
		seen, err := decision.ReadWords(r.Evidence)
		if !ok || err != nil {
			return Absent
		}
		switch text := t.texts[t.cell(at, col)]; text {
		case r.Outcome:
			delete(ed.Cells[row], r.Field)
			return Needless
		case seen[r.Field]:
		default:
			return Otherwise
		}
		if ed.Cells[row] == nil {
			ed.Cells[row] = map[string]string{}
		}
		ed.Cells[row][r.Field] = r.Outcome
		said(r.Field)
	}
	return Holds
}

// says tells whether the row at a place says some words.
func (t *Table) says(at int, cols map[string]int, w decision.Words) bool {
	for field, text := range w {
		col, ok := cols[field]
		if !ok && text != "" || ok && t.texts[t.cell(at, col)] != text {
			return false
		}
	}
	return true
}

// places finds the rows of each decision: once through the table for each set of fields that the decisions name.
func (k *Kept) places(t *Table, cols map[string]int) [][]int32 {
	out := make([][]int32, len(k.Decided))
	words := make([]decision.Words, len(k.Decided))
	wanted := map[string]uint32{"": 0}
	for i := range k.Decided {
		w, err := decision.ReadWords(k.Decided[i].About)
		if err != nil {
			continue
		}
		words[i] = w
		for _, text := range w {
			wanted[text] = 0
		}
	}
	for id, text := range t.texts {
		if _, ok := wanted[text]; ok {
			wanted[text] = uint32(id)
		}
	}
	type set struct {
		cols []int
		of   map[string][]int // texts → decisions
	}
	sets := map[string]*set{}
	var order []*set
	for i, w := range words {
		fields := w.Fields()
		key := ""
		for _, f := range fields {
			key += f + "\x00"
		}
		s := sets[key]
		if s == nil {
			s = &set{of: map[string][]int{}}
			for _, f := range fields {
				col, ok := cols[f]
				if !ok {
					s.cols = nil
					break
				}
				s.cols = append(s.cols, col)
			}
			sets[key] = s
			order = append(order, s)
		}
		if len(s.cols) == 0 {
			continue
		}
		var b []byte
		there := true
		for _, f := range fields {
			id := wanted[w[f]]
			there = there && (id != 0 || w[f] == "")
			b = binary.BigEndian.AppendUint32(b, id)
		}
		if there {
			s.of[string(b)] = append(s.of[string(b)], i)
		}
	}
	for _, s := range order {
		if len(s.of) == 0 {
			continue
		}
		b := make([]byte, 0, 4*len(s.cols))
		for at := range t.Len() {
			b = b[:0]
			for _, col := range s.cols {
				b = binary.BigEndian.AppendUint32(b, t.cell(at, col))
			}
			for _, i := range s.of[string(b)] {
				out[i] = append(out[i], int32(at))
			}
		}
	}
	for i, r := range k.Decided {
		if r.Nth > 0 {
			if len(out[i]) < r.Nth {
				out[i] = nil
			} else {
				out[i] = out[i][r.Nth-1 : r.Nth]
			}
		}
	}
	return out
}
