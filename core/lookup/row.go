package lookup

import (
	"encoding/json"
	"strings"

	"jollydrawer/core/cabinet"
)

// Row is what a list shows of a part.
type Row struct {
	ID           string     `json:"id"`
	Number       string     `json:"number"`
	Version      int        `json:"version"`
	Drawer       string     `json:"drawer"`
	Name         string     `json:"name"`
	Description  string     `json:"description"`
	Manufacturer string     `json:"manufacturer" doc:"Of the first source"`
	MPN          string     `json:"mpn" doc:"Of the first source"`
	Sources      int        `json:"sources"`
	Status       string     `json:"status"`
	Standing     string     `json:"standing"`
	Revision     int        `json:"revision"`
	HasDraft     bool       `json:"hasDraft"`
	Use          string     `json:"use,omitempty" doc:"With caution or no, where it may not simply be used"`
	Flag         string     `json:"flag,omitempty" doc:"The word of the state that says so"`
	Label        string     `json:"label,omitempty" doc:"Of the revision, where its number is not it"`
	Missing      []string   `json:"missing" doc:"Models that are missing, and datasheet or source"`
	Values       Shown      `json:"values" doc:"By parameter, as they are shown"`
	Supply       *RowSupply `json:"supply,omitempty" doc:"What suppliers offer of its sources, as far as it is known"`
}

// Shown holds values by parameter as they are shown: an object in JSON, and a list here, because a page has some
// hundreds of them and nobody asks for most by name. Their order means nothing.
type Shown []ShownValue

// ShownValue is one value as its parameter wants it shown.
type ShownValue struct{ Key, Text string }

// Get returns the value of a parameter; "" where there is none.
func (s Shown) Get(key string) string {
	for i := range s {
		if s[i].Key == key {
			return s[i].Text
		}
	}
	return ""
}

// MarshalJSON writes an object.
func (s Shown) MarshalJSON() ([]byte, error) {
	m := make(map[string]string, len(s))
	for _, v := range s {
		m[v.Key] = v.Text
	}
	return json.Marshal(m)
}

// UnmarshalJSON reads an object of texts.
func (s *Shown) UnmarshalJSON(raw []byte) error {
	var m map[string]string
	if err := json.Unmarshal(raw, &m); err != nil {
		return err
	}
	*s = make(Shown, 0, len(m))
	for k, v := range m {
		*s = append(*s, ShownValue{k, v})
	}
	return nil
}

// Row returns what a list shows of the part; of an entry that an index gave.
func (e *Entry) Row() Row {
	r := Row{ID: e.ID, Number: e.Number, Version: e.Version, Drawer: e.Drawer, Name: e.Name, Description: e.Description, Sources: len(e.Sources),
		Status: string(e.Status), Standing: string(e.Standing), Revision: e.Revision, HasDraft: e.HasDraft, Use: string(e.Use), Flag: e.Flag, Label: e.Label, Missing: append([]string{}, e.Missing...), Values: make(Shown, len(e.values))}
	if len(e.Sources) > 0 {
		r.Manufacturer, r.MPN = e.Sources[0].Manufacturer, e.Sources[0].MPN
	}
	for i := range e.values {
		r.Values[i] = ShownValue{e.values[i].key, e.values[i].text}
	}
	return r
}

// Rows returns what a list shows of the parts with some IDs, with the prices of so many pieces (0: 100); what is no longer there is left out.
func (x *Index) Rows(ids []string, pieces int64) []Row {
	x.mu.RLock()
	defer x.mu.RUnlock()
	at := make([]uint32, 0, len(ids))
	for _, id := range ids {
		if i, ok := x.row(id); ok {
			at = append(at, i)
		}
	}
	return x.list(at, Query{Pieces: pieces}.pieces())
}

// list makes the rows of a page, all their texts in one block and all their values in another: a row made by itself
// costs a dozen allocations.
func (x *Index) list(at []uint32, pieces int64) []Row {
	out := make([]Row, len(at))
	cells := 0
	for _, i := range at {
		cells += len(x.shelves[x.rows[i].shelf].cols)
	}
	values := make([]ShownValue, 0, cells)
	block := make([]byte, 0, 128*len(at))
	type text struct {
		to   *string
		from int
	}
	texts := make([]text, 0, 4*len(at))
	put := func(to *string, raw []byte) {
		texts = append(texts, text{to, len(block)})
		block = append(block, raw...)
	}
	for k, i := range at {
		r, o := &x.rows[i], &out[k]
		s := x.shelves[r.shelf]
		o.Drawer, o.Version, o.Revision, o.HasDraft, o.Sources = s.drawer, int(r.version), int(r.rev), r.draft, int(r.srcs)
		o.Missing = []string{}
		o.Supply = x.supplyShown(i, pieces)
		put(&o.ID, x.ids.raw(i))
		put(&o.Number, x.numbers.raw(i))
		from := len(values)
		for _, c := range s.cols {
			code := c.codes.at(r.local)
			if code == 0 {
				continue
			}
			switch c.key {
			case colStatus:
				o.Status, _, _ = strings.Cut(x.vals.all[c.dict[code]].Text, several)
			case colStanding:
				o.Standing = x.vals.all[c.dict[code]].Text
			case colUse:
				o.Use = x.vals.all[c.dict[code]].Text
			case colFlag:
				o.Flag = x.vals.all[c.dict[code]].Text
			case colLabel:
				o.Label = x.vals.all[c.dict[code]].Text
			case colMissing:
				o.Missing = x.vals.members(c.dict[code])
			case colMaker:
			default:
				values = append(values, ShownValue{c.key, c.text(code, x.vals)})
			}
		}
		o.Values = values[from:len(values):len(values)]
		if r.srcs > 0 {
			o.Manufacturer = x.names[x.sources[r.src].maker]
			put(&o.MPN, x.mpns.raw(r.src))
		}
		switch {
		case r.built:
			put(&o.Description, x.built.raw(r.text-1))
		case r.text > 0:
			put(&o.Description, x.texts.raw(r.text-1))
		}
		if r.name > 0 {
			o.Name = x.vals.all[r.name-1].Text
		}
	}
	all := string(block)
	for k, t := range texts {
		to := len(all)
		if k+1 < len(texts) {
			to = texts[k+1].from
		}
		*t.to = all[t.from:to]
	}
	for k, i := range at {
		if o, s := &out[k], x.shelves[x.rows[i].shelf]; x.rows[i].name == 0 && s.tpl != nil && o.Sources > 0 {
			o.Name = s.tpl.NameFrom(x.valueOf(i), o.Manufacturer, o.MPN)
		}
	}
	return out
}

// valueOf returns what finds the values of a row.
func (x *Index) valueOf(i uint32) func(key string) cabinet.Value {
	r := &x.rows[i]
	s := x.shelves[r.shelf]
	return func(key string) cabinet.Value {
		if c := s.byKey[key]; c != nil {
			return x.vals.all[c.dict[c.codes.at(r.local)]]
		}
		return cabinet.Value{}
	}
}

// members returns the members of a value that is a set. They are shared: nobody changes them.
func (vs *values) members(id uint32) []string {
	if m, ok := vs.sets[id]; ok {
		return m
	}
	return []string{vs.all[id].Text}
}
