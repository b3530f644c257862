package cabinets

import (
	"fmt"

	"jollydrawer/core/cabinet"
	"jollydrawer/internal/store"
)

// Follow finds what names parameters that some steps rename, as it stands where r reads. A preview says what it finds; the write
// that makes the steps finds it anew, and writes each.
type Follow func(r store.Reader, steps []cabinet.Step) ([]Following, error)

// Following is one thing that follows steps. Write is store.ErrConflict where somebody else wrote it since it was found.
type Following struct {
	ID    store.ID // of the thing
	What  Kind
	Write func(t *store.Tx) error
}

// Kind is what follows, as one and as several.
type Kind struct{ One, Many string }

// Told says how many of each kind follow, "2 saved views", in the order in which they were found.
func Told(all []Following) []string {
	count, order := map[Kind]int{}, []Kind{}
	for _, f := range all {
		if count[f.What] == 0 {
			order = append(order, f.What)
		}
		count[f.What]++
	}
	out := []string{}
	for _, k := range order {
		if n := count[k]; n == 1 {
			out = append(out, k.One)
		} else {
			out = append(out, fmt.Sprintf("%d %s", n, k.Many))
		}
	}
	return out
}
