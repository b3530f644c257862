package intake

import (
	"encoding/binary"
	"fmt"
	"slices"
	"strconv"
	"strings"

	"jollydrawer/core/cabinet"
	"jollydrawer/core/finding"
	"jollydrawer/core/origin"
	"jollydrawer/core/part"
)

// duplicates compares a row with the rows before it and with the library, and settles it as people decided.
func (b *builder) duplicates(c *Candidate, p *plan) {
	decided := b.in.Edits.Decide[c.Row]
	c.Reason = decided.Why
	if decided.As == Keep {
		c.State, c.Why = LeftOut, "left out by decision"
		return
	}
	if decided.As == Separate {
		c.Why = "a part of its own: " + decided.Why
		return
	}
	if c.source.MPN != "" && b.earlierRow(c) {
		return
	}
	if b.in.Library != nil && b.inLibrary(c, p, decided.As) {
		return
	}
	b.alike(c, p, decided.As)
}

// orderTwice warns where the supplier's number of a row is that of an earlier row with another part: one of them is wrong, and a BOM
// that orders by it may mean either.
func (b *builder) orderTwice(c *Candidate) {
	for _, n := range c.source.Numbers {
		first, twice := b.byOrder[n.Number]
		if !twice {
			b.byOrder[n.Number] = c.at
			continue
		}
		other := &b.res.Candidates[first]
		b.find(finding.Finding{Severity: finding.Warning, Cause: "order-twice", Row: c.Row, Field: b.in.Crosswalk.Take.SupplierNumber, Text: n.Number,
			What: fmt.Sprintf("%s sells %s %s under %s, and in row %d %s %s", n.Supplier, c.source.Manufacturer, c.source.MPN, n.Number, other.Row, other.source.Manufacturer, other.source.MPN), Mend: "correct the number of one of the rows"})
	}
}

// earlierRow settles a row whose source an earlier one has.
func (b *builder) earlierRow(c *Candidate) bool {
	key := c.key
	i, ok := b.bySrc[key]
	if !ok {
		b.bySrc[key] = c.at
		b.orderTwice(c)
		return false
	}
	first := &b.res.Candidates[i]
	diff := b.rowsDiffer(first, c)
	if len(diff) == 0 {
		c.State, c.Why = Repeat, fmt.Sprintf("row %d already says the same", first.Row)
		for _, n := range c.source.Numbers { // another packing of the same part has another order number
			if !slices.Contains(first.source.Numbers, n) {
				first.source.Numbers = append(first.source.Numbers, n)
			}
		}
		return true
	}
	if first.State == Known || first.State == Differs || first.State == Update {
		return false
	}
	said := fmt.Sprintf("%s %s is also in row %%d with other values", c.source.Manufacturer, c.source.MPN)
	b.block(c, Blocked, "mpn-two-values", b.in.Crosswalk.Take.MPN, c.source.MPN, fmt.Sprintf(said, first.Row)+": "+strings.Join(diff, "; "), "correct one of the rows, or leave one out")
	if first.State == New || first.State == Alternate {
		first.State, first.Why = Blocked, fmt.Sprintf(said, c.Row)
		b.find(finding.Finding{Severity: finding.Error, Cause: "mpn-two-values", Row: first.Row, Field: b.in.Crosswalk.Take.MPN, Text: c.source.MPN, What: first.Why, Mend: "correct one of the rows, or leave one out"})
	}
	return true
}

// rowsDiffer says in words where two rows do not agree.
func (b *builder) rowsDiffer(one, two *Candidate) (out []string) {
	if one.Drawer != two.Drawer {
		return []string{fmt.Sprintf("drawer %s, not %s", one.Drawer, two.Drawer)}
	}
	p := b.res.templates[one.Drawer]
	for i, s := range p.t.Slots {
		var a, z cabinet.Value
		if v := one.value(i); v != nil {
			a = b.res.readings[v.reading].value
		}
		if v := two.value(i); v != nil {
			z = b.res.readings[v.reading].value
		}
		if a.Meant() != z.Meant() && !z.IsBlank() {
			out = append(out, differs(s.Key, a, z))
		}
	}
	return out
}

func differs(key string, was, now cabinet.Value) string {
	old := was.String()
	if was.IsBlank() {
		old = "blank"
	}
	return fmt.Sprintf("%s %s, not %s", key, old, now)
}

// inLibrary settles a row that the library has, by its source or by the house's own number.
func (b *builder) inLibrary(c *Candidate, p *plan, decided string) bool {
	var ex Existing
	found := false
	if c.source.MPN != "" {
		ex, found = b.in.Library.Source(c.key)
	}
	if c.Number != "" {
		numbered, ok := b.in.Library.Numbered(c.Number)
		if ok && c.source.MPN != "" && numbered.ID != ex.ID {
			b.block(c, Blocked, "number-taken", b.in.Crosswalk.Take.Number, c.Number, fmt.Sprintf("the part number %s is taken in the library by a part with another manufacturer part number", c.Number), "leave the row out, or correct its number")
			return true
		}
		if ok && !found {
			ex, found = numbered, true
		}
	}
	if !found {
		return false
	}
	if c.Number != "" {
		if _, ok := b.in.Library.Numbered(c.Number); !ok {
			b.find(finding.Finding{Severity: finding.Note, Cause: "former-number", Row: c.Row, Field: b.in.Crosswalk.Take.Number, Text: c.Number,
				What: fmt.Sprintf("%s is %s in this file, and that number does not find it", ex.Number, c.Number), Mend: "keep it as a former number of the part"})
		}
	}
	b.settle(c, p, ex, decided)
	return true
}

// settle decides what becomes of a row that stands for a part of the library.
func (b *builder) settle(c *Candidate, p *plan, ex Existing, decided string) {
	c.Existing, c.Part, c.Version, c.standing = ex.Number, ex.ID, ex.Version, ex.Standing
	as := decided
	if as == "" {
		as = b.in.Edits.Known
	}
	switch as {
	case "":
		as = Ask
	case AsSource: // it is one by now: what the part has is right for all its sources
		as = Fill
	}
	if ex.Content.Drawer != c.Drawer {
		c.State, c.Why = Differs, fmt.Sprintf("the library has it as %s in the drawer %s", ex.Number, ex.Content.Drawer)
		b.find(finding.Finding{Severity: finding.Warning, Cause: "library-drawer", Row: c.Row, Text: c.source.MPN, What: fmt.Sprintf("%s is in the drawer %s in the library, and the row goes into %s", ex.Number, ex.Content.Drawer, c.Drawer),
			Mend: "put the row into the part's drawer, or move the part"})
		return
	}
	var diff []string
	for i := range c.vals {
		key := p.t.Slots[c.vals[i].slot].Key
		have, now := ex.Content.Values[key], b.res.readings[c.vals[i].reading].value
		if have.Meant() == now.Meant() {
			continue
		}
		if b.res.readings[c.vals[i].reading].rule < 0 && !have.IsBlank() { // one chip code follows the other: it changes where that one does
			if c.changes(p.t.Slots[p.inch].Key) || c.changes(p.t.Slots[p.metric].Key) {
				c.Changes = append(c.Changes, Change{Key: key, Old: have.String(), New: now.String()})
			}
			continue
		}
		b.res.Differing[key]++
		how := as
		if own := b.in.Edits.Fields[key]; own != "" && decided == "" {
			how = own
		}
		if how == Keep { // ours is right for this parameter
			continue
		}
		diff = append(diff, differs(key, have, now))
		if how == Replace || how == Fill && have.IsBlank() {
			c.Changes = append(c.Changes, Change{Key: key, Old: have.String(), New: now.String()})
		}
	}
	for _, n := range c.source.Numbers {
		if sells(ex.Content, n) {
			continue
		}
		if as == Replace || as == Fill {
			c.Changes = append(c.Changes, Change{Key: "supplier number", New: n.Supplier + " " + n.Number})
		} else if as == Ask {
			b.find(finding.Finding{Severity: finding.Note, Cause: "supplier-number", Row: c.Row, Field: b.in.Crosswalk.Take.SupplierNumber, Text: n.Number,
				What: fmt.Sprintf("%s sells %s under %s, which its record does not say", n.Supplier, ex.Number, n.Number), Mend: "fill blanks of known parts, which adds the number"})
		}
	}
	switch {
	case len(c.Changes) > 0:
		c.State, c.Why = Update, fmt.Sprintf("%s changes in %d places", ex.Number, len(c.Changes))
	case len(diff) == 0:
		c.State, c.Why = Known, "the library has it as "+ex.Number
	case as == Fill:
		c.State, c.Why = Known, fmt.Sprintf("the library has it as %s; its own values are kept: %s", ex.Number, strings.Join(diff, "; "))
	default:
		c.State, c.Why = Differs, fmt.Sprintf("the library has it as %s: %s", ex.Number, strings.Join(diff, "; "))
		b.find(finding.Finding{Severity: finding.Warning, Cause: "library-differs", Row: c.Row, Text: c.source.MPN,
			What: fmt.Sprintf("%s %s is in the library as %s with other values: %s", c.source.Manufacturer, c.source.MPN, ex.Number, strings.Join(diff, "; ")), Mend: "say whose values are right; until then the part is left as it is"})
	}
}

// changes says whether the candidate changes a value of the part that it stands for.
func (c *Candidate) changes(key string) bool {
	return slices.ContainsFunc(c.Changes, func(ch Change) bool { return ch.Key == key })
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

// alike looks for parts and earlier rows that are equal in every identifying parameter.
func (b *builder) alike(c *Candidate, p *plan, decided string) {
	key, filled := b.identity(c, p)
	if !filled {
		return
	}
	as := decided
	if as == "" {
		as = b.in.Edits.Like
	}
	i, twice := b.same[string(key)]
	if p.like != nil && !twice { // of the first such row the library was asked, and had none
		if numbers := p.like(func(k string) cabinet.Value { return b.valueOf(c, p, k) }); len(numbers) > 0 {
			b.likeLibrary(c, p, numbers, as)
			return
		}
	}
	if !twice {
		b.same[string(key)] = c.at
		return
	}
	first := &b.res.Candidates[i]
	if first.State != New {
		return
	}
	switch {
	case c.source.MPN == "" && first.source.MPN == "" && c.Number == "" && len(b.rowsDiffer(first, c)) == 0:
		c.State, c.Why = Repeat, fmt.Sprintf("row %d already says the same", first.Row)
	case as == AsSource && c.source.MPN != "" && first.source.MPN != "":
		c.State, c.Joins, c.Why = Alternate, i+1, fmt.Sprintf("another source of what row %d makes", first.Row)
		b.res.joins[i] = append(b.res.joins[i], c.at)
	case as == Keep:
		c.State, c.Why = LeftOut, fmt.Sprintf("it is like row %d in every identifying parameter", first.Row)
	default:
		b.find(finding.Finding{Severity: finding.Note, Cause: "like-row", Row: c.Row, Text: c.source.MPN, What: "it is like row " + strconv.Itoa(first.Row) + " in every identifying parameter", Mend: "take it as another source of that part, if it is equal in form, fit and function"})
	}
}

func (b *builder) likeLibrary(c *Candidate, p *plan, numbers []string, as string) {
	list := strings.Join(numbers[:min(3, len(numbers))], ", ")
	switch {
	case c.source.MPN == "" && c.Number == "": // nothing tells it from the part that is there
		if ex, ok := b.in.Library.Numbered(numbers[0]); ok {
			b.settle(c, p, ex, as)
		}
	case as == AsSource && len(numbers) == 1 && c.source.MPN != "":
		ex, ok := b.in.Library.Numbered(numbers[0])
		if !ok {
			return
		}
		c.State, c.Existing, c.Part, c.Version, c.Why = Alternate, ex.Number, ex.ID, ex.Version, "another source of "+ex.Number
		c.Changes = append(c.Changes, Change{Key: "source", New: c.source.Manufacturer + " " + c.source.MPN})
		for i := range c.vals {
			key := p.t.Slots[c.vals[i].slot].Key
			if now := b.res.readings[c.vals[i].reading].value; ex.Content.Values[key].IsBlank() {
				c.Changes = append(c.Changes, Change{Key: key, New: now.String()})
			}
		}
	case as == Keep:
		c.State, c.Existing, c.Why = LeftOut, numbers[0], "it is like "+list+" in every identifying parameter"
	default:
		b.find(finding.Finding{Severity: finding.Note, Cause: "like-library", Row: c.Row, Text: c.source.MPN, What: "it is like " + list + " in every identifying parameter", Mend: "take it as another source of that part, if it is equal in form, fit and function"})
	}
}

// identity is a key over the identifying values; filled is false where the leading value or most of them are blank.
// The key is good until the next one is asked for.
func (b *builder) identity(c *Candidate, p *plan) (key []byte, filled bool) {
	if len(p.identity) == 0 {
		return nil, false
	}
	raw := append(append(b.raw[:0], p.t.Key...), 0)
	n := 0
	for _, slot := range p.identity {
		id := uint32(0)
		if v := c.value(slot); v != nil {
			if r := &b.res.readings[v.reading]; r.value.Type != cabinet.Raw {
				id = b.valueID(v.reading)
				n++
			}
		}
		if slot == p.leading && id == 0 {
			return nil, false
		}
		raw = binary.BigEndian.AppendUint32(raw, id)
	}
	b.raw = raw
	return raw, 2*n >= len(p.identity)
}

// valueID numbers the distinct values: two readings of one value have one number.
func (b *builder) valueID(reading uint32) uint32 {
	for len(b.ids) < len(b.res.readings) {
		b.ids = append(b.ids, 0)
	}
	if b.ids[reading] == 0 {
		v := b.res.readings[reading].value
		id, ok := b.byValue[v]
		if !ok {
			id = uint32(len(b.byValue) + 1)
			b.byValue[v] = id
		}
		b.ids[reading] = id
	}
	return b.ids[reading]
}

func (b *builder) valueOf(c *Candidate, p *plan, key string) cabinet.Value {
	for i := range c.vals {
		if p.t.Slots[c.vals[i].slot].Key == key {
			return b.res.readings[c.vals[i].reading].value
		}
	}
	return cabinet.Value{}
}

// Merge is what an update or another source makes of a part's content, with the origins of what it changed.
func (r *Result) Merge(i int, into part.Content) (part.Content, map[string]origin.Origin) {
	c := &r.Candidates[i]
	out := into
	out.Values = map[string]cabinet.Value{}
	for k, v := range into.Values {
		out.Values[k] = v
	}
	out.Sources = slices.Clone(into.Sources)
	how := map[string]origin.Origin{}
	changed := map[string]bool{}
	for _, ch := range c.Changes {
		changed[ch.Key] = true
	}
	r.EachValue(i, func(key string, v cabinet.Value, o origin.Origin, _ *cabinet.Problem) {
		if changed[key] {
			out.Values[key], how["values."+key] = v, o
		}
	})
	if changed["source"] {
		out.Sources = append(out.Sources, c.source)
		how["sources"] = r.sourceOrigin(c)
	}
	if changed["supplier number"] {
		for k := range out.Sources {
			if out.Sources[k].Key() == c.source.Key() {
				out.Sources[k].Numbers = slices.Clone(out.Sources[k].Numbers)
				for _, n := range c.source.Numbers {
					if !slices.Contains(out.Sources[k].Numbers, n) {
						out.Sources[k].Numbers = append(out.Sources[k].Numbers, n)
					}
				}
			}
		}
	}
	r.sheetOf(c, &out)
	r.link(c, &out)
	if p := r.templates[c.Drawer]; p != nil {
		if into.Description == "" || into.Description == p.t.Describe(into.Values) {
			out.Description = p.t.Describe(out.Values)
		}
		if into.Name == "" || into.Name == into.NameBy(p.t) {
			out.Name = out.NameBy(p.t)
		}
	}
	return out, how
}
