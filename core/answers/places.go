package answers

import (
	"slices"

	"jollydrawer/core/connection"
	"jollydrawer/core/crosswalk"
)

const (
	enoughProducts = 10 // of which none says a path, before that is remarkable
	enoughOfKind   = 5  // of one kind, of which none says a field
	longestPlace   = 200
)

// Places are what an answer says: "product.mpn" a path of the document, "field Resistance of Resistors, chip" a field that the crosswalk reads, of a
// kind of product. found counts the paths.
func Places(cw crosswalk.Crosswalk, products []connection.Product, found map[string]int) (said []string) {
	has := map[string]bool{}
	for place, n := range found {
		if n > 0 {
			has[place] = true
		}
	}
	for _, p := range products {
		for _, f := range p.Fields {
			if p.Kind != "" && f.Text != "" && slices.ContainsFunc(cw.Fields, func(r crosswalk.Rule) bool { return r.From == f.Name }) {
				has[fieldOf(f.Name, p.Kind)] = true
			}
		}
	}
	for place := range has {
		if len(place) <= longestPlace {
			said = append(said, place)
		}
	}
	slices.Sort(said)
	return said
}

func fieldOf(name, kind string) string { return "field " + name + " of " + kind }

// Missed are those of the places that answers before this one said, and that enough of its products should say and none does: the supplier may have
// changed the form of its answers.
func Missed(before, said []string, cw crosswalk.Crosswalk, products []connection.Product) (missed []string) {
	kinds := map[string]int{}
	for _, p := range products {
		kinds[p.Kind]++
	}
	enough := map[string]bool{}
	for kind, n := range kinds {
		for _, r := range cw.Fields {
			enough[fieldOf(r.From, kind)] = n >= enoughOfKind
		}
	}
	for _, place := range before {
		of, field := enough[place]
		if !field {
			of = len(products) >= enoughProducts && !isField(place)
		}
		if of && !slices.Contains(said, place) {
			missed = append(missed, place)
		}
	}
	return missed
}

func isField(place string) bool { return len(place) > 6 && place[:6] == "field " }
