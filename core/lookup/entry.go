package lookup

import (
	"cmp"
	"slices"
	"strings"

	"jollydrawer/core/cabinet"
	"jollydrawer/core/lifecycle"
	"jollydrawer/core/part"
)

// Entry is what the index knows of one part. Entries are never changed once added; a newer one replaces them.
type Entry struct {
	ID          string
	Number      string
	Former      []string
	Series      []string // names of those that it is of
	Status      lifecycle.Status
	Standing    lifecycle.Standing
	Use         lifecycle.Use // whether it may be used; blank: it may
	Flag        string        // the word of the state that says otherwise
	Label       string        // of the revision, where its number is not it
	Revision    int
	HasDraft    bool // there is unreleased work beside the released revision
	Gone        bool // merged into another part: only numbers lead to it
	Drawer      string
	Name        string
	Description string
	Sources     []part.Source
	Missing     []string // models that are missing, and "datasheet", "source"
	Version     int
	Updated     int64  // Unix microseconds
	Content     uint64 // stands for the content that it was made of; 0 where nobody says

	values []valueAt
}

// valueAt is one value of an entry.
type valueAt struct {
	key   string
	value *cabinet.Value
	text  string // as its parameter wants it shown; "" for an entry that did not come out of an index
}

// NewEntry returns an entry with what the index needs of a part's content; the caller fills in the rest.
func NewEntry(c part.Content) *Entry {
	e := &Entry{Drawer: c.Drawer, Name: c.Name, Description: c.Description, Sources: c.Sources, values: make([]valueAt, 0, len(c.Values))}
	for k, v := range c.Values {
		e.values = append(e.values, valueAt{key: k, value: &v})
	}
	slices.SortFunc(e.values, func(a, b valueAt) int { return cmp.Compare(a.key, b.key) })
	for _, place := range []string{"symbol", "land pattern", "body"} {
		if c.Models()[place] == nil {
			e.Missing = append(e.Missing, place)
		}
	}
	if c.Body != nil && c.Body.StandIn {
		e.Missing = append(e.Missing, "real body")
	}
	if len(c.Datasheets) == 0 {
		e.Missing = append(e.Missing, "datasheet")
	}
	if len(c.Sources) == 0 {
		e.Missing = append(e.Missing, "source")
	}
	return e
}

// Value returns the value of a parameter; blank where there is none.
func (e *Entry) Value(key string) cabinet.Value {
	for i := range e.values {
		if e.values[i].key == key {
			return *e.values[i].value
		}
	}
	return cabinet.Value{}
}

// Values returns all values by parameter.
func (e *Entry) Values() map[string]cabinet.Value {
	out := make(map[string]cabinet.Value, len(e.values))
	for _, v := range e.values {
		out[v.key] = *v.value
	}
	return out
}

// entry makes the entry of a row.
func (x *Index) entry(i uint32) *Entry {
	r := &x.rows[i]
	s := x.shelves[r.shelf]
	e := &Entry{ID: x.ids.get(i), Number: x.numbers.get(i), Revision: int(r.rev), HasDraft: r.draft, Gone: r.gone, Drawer: s.drawer, Version: int(r.version), Updated: r.updated, Content: r.content,
		values: make([]valueAt, 0, len(s.cols))}
	e.Former = append(e.Former, x.formerOf[i]...)
	e.Series = append(e.Series, x.seriesOf[i]...)
	for _, c := range s.cols {
		code := c.codes.at(r.local)
		if code == 0 {
			continue
		}
		id := c.dict[code]
		v := &x.vals.all[id] // never changed once it is there
		switch c.key {
		case colStatus:
			text, _, _ := strings.Cut(v.Text, several)
			e.Status = lifecycle.Status(text)
		case colStanding:
			e.Standing = lifecycle.Standing(v.Text)
		case colUse:
			e.Use = lifecycle.Use(v.Text)
		case colFlag:
			e.Flag = v.Text
		case colLabel:
			e.Label = v.Text
		case colMissing:
			e.Missing = slices.Clone(x.vals.members(id))
		case colMaker:
		default:
			e.values = append(e.values, valueAt{c.key, v, c.text(code, x.vals)})
		}
	}
	for k := r.src; k < r.src+uint32(r.srcs); k++ {
		src := part.Source{Manufacturer: x.names[x.sources[k].maker], MPN: x.mpns.get(k)}
		for n := x.sources[k].first; n < x.sources[k].first+x.sources[k].n; n++ {
			src.Numbers = append(src.Numbers, part.Number{Supplier: x.names[x.supplied[n].supplier], Number: x.supplies.get(n)})
		}
		e.Sources = append(e.Sources, src)
	}
	switch {
	case r.built:
		e.Description = x.built.get(r.text - 1)
	case r.text > 0:
		e.Description = x.texts.get(r.text - 1)
	}
	switch {
	case r.name > 0:
		e.Name = x.vals.all[r.name-1].Text
	case s.tpl != nil && len(e.Sources) > 0:
		e.Name = s.tpl.NameFrom(e.Value, e.Sources[0].Manufacturer, e.Sources[0].MPN)
	}
	return e
}

func (x *Index) entries(rows []uint32) []*Entry {
	var out []*Entry
	for _, r := range rows {
		out = append(out, x.entry(r))
	}
	return out
}
