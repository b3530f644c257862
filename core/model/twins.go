package model

import (
	"cmp"
	"slices"
)

// Drawing is a model as the search for twins sees it.
type Drawing struct {
	ID          string
	Kind        Kind
	Fingerprint Fingerprint
	Land        *LandPattern // of a land pattern, for the near twins
}

// Cluster is a set of models that draw the same, or nearly the same.
type Cluster struct {
	Kind Kind     `json:"kind"`
	IDs  []string `json:"ids"`
	// Exact: one fingerprint. Otherwise the land patterns differ by at most Most, or are turned or numbered otherwise.
	Exact bool   `json:"exact"`
	Most  Length `json:"most"`
}

// Twins finds the clusters among drawings: first those of one fingerprint, then land patterns whose pads are the same
// within tolerance. No drawing is in two clusters. The largest clusters come first.
func Twins(all []Drawing, tolerance Length) []Cluster {
	type key struct {
		kind Kind
		f    Fingerprint
	}
	same := map[key][]int{}
	var order []key
	for i, d := range all {
		k := key{d.Kind, d.Fingerprint}
		if same[k] == nil {
			order = append(order, k)
		}
		same[k] = append(same[k], i)
	}
	var out []Cluster
	type outlined struct {
		key         key
		long, short Length
		used        bool
	}
	alike := map[string][]*outlined{}
	var numbers []string
	for _, k := range order {
		first := all[same[k][0]]
		if first.Land == nil || tolerance <= 0 {
			if len(same[k]) > 1 {
				out = append(out, cluster(all, same[k], true, 0))
			}
			continue
		}
		n, long, short := first.Land.outline()
		if alike[n] == nil {
			numbers = append(numbers, n)
		}
		alike[n] = append(alike[n], &outlined{key: k, long: long, short: short})
	}
	for _, n := range numbers {
		list := alike[n]
		slices.SortStableFunc(list, func(a, b *outlined) int { return cmp.Compare(a.long, b.long) })
		for i, a := range list {
			if a.used {
				continue
			}
			members, most := slices.Clone(same[a.key]), Length(0)
			exact := true
			for _, b := range list[i+1:] {
				if b.long-a.long > 2*tolerance {
					break
				}
				if b.used || abs(b.short-a.short) > 2*tolerance {
					continue
				}
				if d := Near(all[same[a.key][0]].Land, all[same[b.key][0]].Land, tolerance); d.Same {
					b.used, exact, most = true, false, max(most, d.Most)
					members = append(members, same[b.key]...)
				}
			}
			if len(members) > 1 {
				out = append(out, cluster(all, members, exact, most))
			}
		}
	}
	slices.SortStableFunc(out, func(a, b Cluster) int { return len(b.IDs) - len(a.IDs) })
	return out
}

func cluster(all []Drawing, members []int, exact bool, most Length) Cluster {
	c := Cluster{Kind: all[members[0]].Kind, Exact: exact, Most: most}
	slices.Sort(members)
	for _, m := range members {
		c.IDs = append(c.IDs, all[m].ID)
	}
	return c
}
