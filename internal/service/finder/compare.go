package finder

import (
	"context"
	"fmt"

	"jollydrawer/core/cabinet"
	"jollydrawer/core/lookup"
	"jollydrawer/core/measure"
	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/wire"
)

// Compare lays two to six parts side by side.
func (s *Finder) Compare(ctx context.Context, c deed.Call, keys []string) (wire.Comparison, error) {
	out := wire.Comparison{Parts: []wire.PartRow{}, Rows: []wire.ComparisonRow{}}
	if err := deed.Allow(c, deed.OpRead); err != nil {
		return out, err
	}
	if len(keys) < 2 || len(keys) > 6 {
		return out, deed.Fault(deed.Invalid, "compare-count", fmt.Sprintf("%d parts cannot be compared.", len(keys)), "Name two to six.")
	}
	cab, _, err := s.cabinets.InForce(ctx)
	if err != nil {
		return out, err
	}
	var entries []*lookup.Entry
	for _, k := range keys {
		e, ok := s.index.ByNumber(k)
		if !ok {
			e, ok = s.index.ByID(k)
		}
		if !ok {
			return out, deed.Fault(deed.Unknown, "not-found", fmt.Sprintf("There is no part %s.", k), "Check how it is written, or look it up.")
		}
		entries = append(entries, e)
		out.Parts = append(out.Parts, wire.PartRow(e.Row()))
	}
	row := func(key, label, better string, value func(int) string) {
		r := wire.ComparisonRow{Key: key, Label: label, Better: better, Best: []int{}}
		any := false
		for i := range entries {
			v := value(i)
			any = any || v != ""
			r.Differs = r.Differs || i > 0 && v != r.Values[0]
			r.Values = append(r.Values, v)
		}
		if better != "" && r.Differs {
			r.Best = best(entries, key, better)
		}
		if any {
			out.Rows = append(out.Rows, r)
		}
	}
	for _, k := range []string{"description", "drawer", "manufacturer", "mpn", "status", "standing", "missing"} {
		row(k, columnLabel(nil, k), "", func(i int) string { return column(out.Parts[i], k) })
	}
	seen := map[string]bool{}
	for _, e := range entries {
		t, ok := cab.Template(e.Drawer)
		if !ok {
			continue
		}
		for _, sl := range t.Slots {
			if !seen[sl.Key] {
				seen[sl.Key] = true
				row(sl.Key, sl.Label, sl.Better, func(i int) string { return out.Parts[i].Values.Get(sl.Key) })
			}
		}
	}
	return out, nil
}

// best says which of the parts have the best value of a parameter, where all that have one can be compared.
func best(entries []*lookup.Entry, key, better string) []int {
	out, top := []int{}, measure.Number{}
	for i, e := range entries {
		v := e.Value(key)
		n := measure.Number{}
		switch v.Type {
		case cabinet.Measure:
			n = v.Measure.Value()
		case cabinet.Number:
			n = measure.Whole(v.Number)
		default:
			continue
		}
		c := n.Cmp(top)
		if better == "less" {
			c = -c
		}
		if len(out) == 0 || c > 0 {
			out, top = []int{i}, n
		} else if c == 0 {
			out = append(out, i)
		}
	}
	return out
}
