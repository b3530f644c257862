package crosswalk

import (
	"fmt"
	"maps"
	"slices"
	"strings"
)

// A supplier may send files of several layouts: a sheet for each kind of part, a price list beside a catalogue. Each layout has a crosswalk of
// its own, told by its headings, so that what is said about one is never said about another.

// Number names the crosswalk among all: by its supplier, and by its layout where that is not the supplier's first.
func (c Crosswalk) Number() string {
	if c.Layout == "" {
		return c.Supplier
	}
	return c.Supplier + ": " + c.Layout
}

// Used lists the fields that the crosswalk reads, each once.
func (c Crosswalk) Used() (out []string) {
	put := func(f string) {
		if f != "" && !slices.Contains(out, f) {
			out = append(out, f)
		}
	}
	for _, f := range c.Take.Fields() {
		put(f)
	}
	for _, r := range c.Fields {
		for _, f := range r.Inputs() {
			put(f)
		}
	}
	for _, s := range c.Sorting {
		put(s.Field)
	}
	for _, l := range c.LeaveOut {
		put(l.Field)
	}
	return out
}

// How alike headings have to be for files to be of one layout: of those that either has, the share that both have. Where all that the
// crosswalk reads is there, less is enough: suppliers add and drop columns that nobody reads.
// And a file of fewer columns is of the layout where hardly any of them is new to it.
const (
	alikeHeadings = 0.75
	alikeWithAll  = 0.6
	nothingNew    = 0.9
)

// Fits says whether a file with some headings is of the crosswalk's layout, and how well: 1 is the same headings.
func (c Crosswalk) Fits(header []string) (share float64, ok bool) {
	there := map[string]bool{}
	for _, h := range header {
		if h != "" {
			there[h] = true
		}
	}
	used := c.Used()
	have := 0
	for _, f := range used {
		if there[f] {
			have++
		}
	}
	if len(c.Headings) == 0 { // nobody has seen a file of it yet
		if len(used) == 0 {
			return 0, false
		}
		share = float64(have) / float64(len(used))
		ofFile := float64(have) / float64(max(len(there), 1))
		return share * 0.999, share >= alikeHeadings || have > 1 && ofFile >= alikeWithAll // one whose headings are known goes first
	}
	both, all := 0, len(there)
	for _, h := range c.Headings {
		if there[h] {
			both++
		} else {
			all++
		}
	}
	share = float64(both) / float64(max(all, 1))
	return share, share >= alikeHeadings || have == len(used) && share >= alikeWithAll || both > 1 && float64(both) >= nothingNew*float64(len(there))
}

// ForHeader chooses the crosswalk of a supplier whose layout a file with some headings has; ok is false where it is a new one.
func ForHeader(all []Crosswalk, supplier string, header []string) (best Crosswalk, ok bool) {
	most := 0.0
	for _, c := range all {
		if c.Supplier != supplier {
			continue
		}
		if share, fits := c.Fits(header); fits && (!ok || share > most || share == most && c.Number() < best.Number()) {
			best, most, ok = c, share, true
		}
	}
	return best, ok
}

// OfSupplier lists the numbers of a supplier's crosswalks, sorted.
func OfSupplier(all []Crosswalk, supplier string) (out []string) {
	for _, c := range all {
		if c.Supplier == supplier {
			out = append(out, c.Number())
		}
	}
	slices.Sort(out)
	return out
}

// NewLayout begins a crosswalk for a layout that a supplier has not sent before. What is said about texts and not about fields holds for the
// supplier: how manufacturers are spelled, and where kinds go that all its crosswalks put into one drawer. name says the layout; where it is
// blank or taken, one is made that is free.
func NewLayout(all []Crosswalk, supplier, name string) Crosswalk {
	out := Crosswalk{Format: Format, Supplier: supplier, Fields: []Rule{}}
	taken := map[string]bool{}
	apart := map[string]bool{}
	for _, c := range all {
		taken[strings.ToLower(c.Number())] = true
		if c.Supplier != supplier {
			continue
		}
		for written, house := range c.Manufacturers {
			if out.Manufacturers == nil {
				out.Manufacturers = map[string]string{}
			}
			if _, twice := out.Manufacturers[written]; !twice {
				out.Manufacturers[written] = house
			}
		}
		for kind, drawer := range c.Kinds {
			if out.Kinds == nil {
				out.Kinds = map[string]string{}
			}
			if was, twice := out.Kinds[kind]; twice && was != drawer {
				apart[kind] = true
			}
			out.Kinds[kind] = drawer
		}
	}
	maps.DeleteFunc(out.Kinds, func(kind, _ string) bool { return apart[kind] })
	if len(OfSupplier(all, supplier)) == 0 && !taken[strings.ToLower(out.Number())] {
		return out
	}
	free := func(layout string) bool {
		out.Layout = layout
		return !taken[strings.ToLower(out.Number())] && len(out.Number()) <= 120
	}
	if name = strings.TrimSpace(name); name != "" && free(name) {
		return out
	}
	for n := 2; !free(fmt.Sprintf("layout %d", n)); n++ {
		if n > 10_000 { // the supplier's name fills all that a number may have
			out.Layout = ""
			return out
		}
	}
	return out
}
