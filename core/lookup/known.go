package lookup

import (
	"encoding/hex"
	"maps"
	"net/url"
	"slices"
	"strings"

	"jollydrawer/core/cabinet"
)

// Columns that every part has, beside its parameters and what suppliers offer (SupplyColumn).
var (
	filtered = []string{"drawer", colStatus, colStanding, colMaker, colMissing}
	ordered  = []string{"number", "name", "description", colMaker, "mpn", "drawer", colStatus, colStanding, colMissing, "updated"}
	listed   = append(slices.Clone(ordered), "revision")
)

// Unknown names the first column of a question that there is not, neither for every part nor as a parameter, or the first drawer, and
// says where it stands: filter, sort, group, column or drawer. Both are blank where all are known. A question by what is not there
// would find nothing, or everything, and look like an answer.
func (x *Index) Unknown(q Query) (where, key string) {
	x.mu.RLock()
	defer x.mu.RUnlock()
	known := func(key string, of []string) bool {
		if slices.Contains(of, key) {
			return true
		}
		if offered(key) {
			_, ok := SupplyColumn(key)
			return ok
		}
		_, ok := x.parameter(key)
		return ok
	}
	var filters []string
	for key := range q.Filters {
		if _, set := q.Sets[key]; !set && !known(key, filtered) {
			filters = append(filters, key)
		}
	}
	if len(filters) > 0 {
		return "filter", slices.Min(filters)
	}
	for _, d := range q.Filters["drawer"] {
		if !x.drawer(d) {
			return "drawer", d
		}
	}
	for _, o := range q.Sort {
		if !known(o.Key, ordered) {
			return "sort", o.Key
		}
	}
	if q.Group != "" && !known(q.Group, ordered) {
		return "group", q.Group
	}
	for _, key := range q.Shown {
		if !known(key, listed) {
			return "column", key
		}
	}
	return "", ""
}

// Unreadable tells the first parameter in a filter whose text is no value that it could have, such as a size that cannot be read or
// no choice of it, and that no part has as it stands; ok is false where there is none. It would find nothing, and look like an answer.
func (x *Index) Unreadable(q Query) (of cabinet.Parameter, text string, ok bool) {
	x.mu.RLock()
	defer x.mu.RUnlock()
	for _, key := range slices.Sorted(maps.Keys(q.Filters)) {
		p, ok := x.parameter(key)
		if !ok {
			continue
		}
		for _, text := range q.Filters[key] {
			if !x.choose(&filter{key: key, ids: valueSet{}}, text, p) {
				return p, text, true
			}
		}
	}
	return of, "", false
}

// Holds says whether some part has a text in a column such as status, as it stands there.
func (x *Index) Holds(column, text string) bool {
	x.mu.RLock()
	defer x.mu.RUnlock()
	for _, s := range x.shelves {
		col := s.byKey[column]
		if col == nil {
			continue
		}
		for _, id := range col.dict[1:] {
			if slices.Contains(x.vals.members(id), text) || x.vals.all[id].String() == text {
				return true
			}
		}
	}
	return false
}

func (x *Index) drawer(key string) bool {
	if x.cab == nil {
		return false
	}
	_, ok := x.cab.Template(key)
	return ok
}

// FollowAddress is a question as an address has it, "q=4k7&f=height:1 mm..&sort=-height&columns=number,height", with the parameters
// named as they are called after steps; changed is false where it names none of those. What it says of a parameter that is retired
// stays, to be refused by name. A name that stands in the facts of q stays too: those are read by words, and it is said of each how.
func FollowAddress(query string, steps []cabinet.Step) (out string, changed bool) {
	fields := strings.Split(query, "&")
	for i, field := range fields {
		name, escaped, _ := strings.Cut(field, "=")
		value := unescaped(escaped)
		now := value
		switch unescaped(name) {
		case "f":
			if key, chosen, ok := strings.Cut(value, ":"); ok {
				now = followed(key, steps) + ":" + chosen
			}
		case "group":
			now = followed(value, steps)
		case "sort", "columns":
			keys := strings.Split(value, ",")
			for k, key := range keys {
				bare, down := strings.CutPrefix(key, "-")
				if keys[k] = followed(bare, steps); down {
					keys[k] = "-" + keys[k]
				}
			}
			now = strings.Join(keys, ",")
		}
		if now != value {
			fields[i], changed = name+"="+url.QueryEscape(now), true
		}
	}
	return strings.Join(fields, "&"), changed
}

// unescaped reads a piece of an address as browsers do (WHATWG URL, 5.1 and 1.3): a per cent sign that two hexadecimal digits do not
// follow stands for itself, as in "tolerance:1 %".
func unescaped(text string) string {
	out := make([]byte, 0, len(text))
	for i := 0; i < len(text); i++ {
		c := text[i]
		switch {
		case c == '+':
			c = ' '
		case c == '%' && i+2 < len(text):
			if n, err := hex.DecodeString(text[i+1 : i+3]); err == nil {
				c = n[0]
				i += 2
			}
		}
		out = append(out, c)
	}
	return string(out)
}

func followed(key string, steps []cabinet.Step) string {
	now, _ := cabinet.Followed(key, steps)
	return now
}
