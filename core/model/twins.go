package model

import (
	"cmp"
	"slices"
)

// Drawing is a model as the search for twins sees it.
type Drawing struct {
	ID          string
	Fingerprint Fingerprint
	*Content
}

// Cluster is a set of models that are the same, or nearly the same.
type Cluster struct {
	Kind Kind     `json:"kind"`
	IDs  []string `json:"ids"`
	// Exact: a board made with one is a board made with any other. Otherwise What says how the first that is not differs.
	Exact bool     `json:"exact"`
	Most  Length   `json:"most"`
	What  []string `json:"what,omitempty"`
}

// Alike finds the models that are the same as another among many: it asks [Same] of those alone that could be.
type Alike[T any] struct {
	by map[Fingerprint][]likely[T]
}

type likely[T any] struct {
	reach [4]Length
	*Content
	is T
}

// Add takes a model in.
func (a *Alike[T]) Add(c *Content, is T) {
	if print, ok := c.Fingerprint(); ok {
		a.AddPrinted(print, c, is)
	}
}

// AddPrinted takes a model in whose fingerprint is known.
func (a *Alike[T]) AddPrinted(print Fingerprint, c *Content, is T) {
	if a.by == nil {
		a.by = map[Fingerprint][]likely[T]{}
	}
	a.by[print] = append(a.by[print], likely[T]{c.reach(), c, is})
}

// Find returns the first one taken in that is the same as c.
func (a *Alike[T]) Find(c *Content) (is T, ok bool) {
	print, ok := c.Fingerprint()
	if !ok {
		return is, false
	}
	return a.find(print, c)
}

func (a *Alike[T]) find(print Fingerprint, c *Content) (is T, ok bool) {
	reach := c.reach()
	for _, l := range a.by[print] {
		if l.Kind == c.Kind && within(reach, l.reach, sameWithin) && Same(l.Content, c) {
			return l.is, true
		}
	}
	return is, false
}

// reach is how far the places of pins or pads reach: what two that are the same agree in, to within the tolerance.
func (c *Content) reach() [4]Length {
	var b Box
	switch {
	case c.Symbol != nil:
		for _, p := range c.Symbol.Pins {
			b.Take(p.At)
		}
	case c.Land != nil:
		for _, p := range c.Land.Pads {
			b.Take(p.At)
		}
	}
	return [4]Length{b.Min.X, b.Min.Y, b.Max.X, b.Max.Y}
}

func within(a, b [4]Length, tolerance Length) bool {
	for i := range a {
		if abs(a[i]-b[i]) > tolerance {
			return false
		}
	}
	return true
}

// Twins finds the clusters among drawings: first those that are the same, then those that are nearly so ([Compare]). No drawing is in
// two clusters. The largest clusters come first.
func Twins(all []Drawing, tolerance Length) []Cluster {
	var out []Cluster
	for _, group := range gathered(all, func(d Drawing) any { return [2]any{d.Kind, d.Fingerprint} }) {
		if group[0].Land != nil && tolerance > 0 {
			continue // below, with those that are nearly so
		}
		sets := sameSets(group)
		if group[0].Symbol != nil && tolerance > 0 { // symbols with the same pins are near, whatever is drawn
			out = append(out, joined(sets, tolerance, func([]Drawing) Length { return 0 }, 0)...)
			continue
		}
		for _, s := range sets {
			if len(s) > 1 {
				out = append(out, cluster(s, nil))
			}
		}
	}
	if tolerance > 0 {
		lands := slices.DeleteFunc(slices.Clone(all), func(d Drawing) bool { return d.Land == nil })
		for _, group := range gathered(lands, func(d Drawing) any { numbers, _, _ := d.Land.outline(); return numbers }) {
			out = append(out, joined(sameSets(group), tolerance, func(s []Drawing) Length { _, long, _ := s[0].Land.outline(); return long }, 2*tolerance)...)
		}
	}
	place := make(map[string]int, len(all))
	for i, d := range all {
		place[d.ID] = i
	}
	for _, c := range out {
		slices.SortFunc(c.IDs, func(a, b string) int { return place[a] - place[b] })
	}
	slices.SortStableFunc(out, func(a, b Cluster) int { return len(b.IDs) - len(a.IDs) })
	return out
}

// gathered puts drawings together that have the same key, in the order in which the keys come.
func gathered(all []Drawing, key func(Drawing) any) (out [][]Drawing) {
	at := map[any]int{}
	for _, d := range all {
		k := key(d)
		i, ok := at[k]
		if !ok {
			i = len(out)
			at[k] = i
			out = append(out, nil)
		}
		out[i] = append(out[i], d)
	}
	return out
}

// sameSets parts drawings into sets of which each is the same.
func sameSets(group []Drawing) (sets [][]Drawing) {
	var known Alike[int]
	for _, d := range group {
		if i, ok := known.find(d.Fingerprint, d.Content); ok {
			sets[i] = append(sets[i], d)
			continue
		}
		known.AddPrinted(d.Fingerprint, d.Content, len(sets))
		sets = append(sets, []Drawing{d})
	}
	return sets
}

// joined joins sets that are nearly the same: each with those whose measure is within reach of its own.
func joined(sets [][]Drawing, tolerance Length, measure func([]Drawing) Length, reach Length) (out []Cluster) {
	type measured struct {
		set  []Drawing
		by   Length
		used bool
	}
	list := make([]measured, len(sets))
	for i, s := range sets {
		list[i] = measured{set: s, by: measure(s)}
	}
	slices.SortStableFunc(list, func(a, b measured) int { return cmp.Compare(a.by, b.by) })
	for i := range list {
		if list[i].used {
			continue
		}
		members := slices.Clone(list[i].set)
		var differs *Difference
		for j := i + 1; j < len(list) && list[j].by-list[i].by <= reach; j++ {
			if list[j].used {
				continue
			}
			if d := Compare(list[i].set[0].Content, list[j].set[0].Content, tolerance); d.Near && !d.Number {
				list[j].used = true
				members = append(members, list[j].set...)
				if differs == nil {
					differs = &d
				}
				differs.Most = max(differs.Most, d.Most)
			}
		}
		if len(members) > 1 {
			out = append(out, cluster(members, differs))
		}
	}
	return out
}

func cluster(members []Drawing, differs *Difference) Cluster {
	c := Cluster{Kind: members[0].Kind, Exact: differs == nil}
	if differs != nil {
		c.Most, c.What = differs.Most, differs.What
	}
	for _, m := range members {
		c.IDs = append(c.IDs, m.ID)
	}
	return c
}
