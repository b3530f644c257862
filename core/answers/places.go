package answers

import (
	"slices"
	"strings"

	"jollydrawer/core/connection"
	"jollydrawer/core/crosswalk"
)

const (
	enoughProducts = 10 // of which none names a kind, before that is remarkable
	enoughOfKind   = 5  // of one kind, of which none says what those before did
	longestPlace   = 200
	kindPlace      = "product.kind"
)

// Places are what an answer says of nearly all products of a kind, nine of ten and at least five of them: "offers.stock of Resistors" what a path of the
// document leads to, "field Resistance of Resistors" a field that the crosswalk reads; and whether products have a kind at all.
func Places(cw crosswalk.Crosswalk, products []connection.Product) (said []string) {
	count, kinds := tally(cw, products)
	for place, n := range count {
		of := kinds[kindOf(place)]
		if place == kindPlace {
			if of = len(products); of < enoughProducts {
				continue
			}
		}
		if of >= enoughOfKind && n*10 >= of*9 && len(place) <= longestPlace {
			said = append(said, place)
		}
	}
	slices.Sort(said)
	return said
}

// tally counts by place the products that say it, and the products of each kind.
func tally(cw crosswalk.Crosswalk, products []connection.Product) (count, kinds map[string]int) {
	count, kinds = map[string]int{}, map[string]int{}
	read := map[string]bool{}
	for _, r := range cw.Fields {
		read[r.From] = true
	}
	for i := range products {
		p := &products[i]
		if p.Kind == "" {
			continue
		}
		count[kindPlace]++
		kinds[p.Kind]++
		for place := range placesOf(p, read) {
			count[place+" of "+p.Kind]++
		}
	}
	return count, kinds
}

// placesOf is what a product says.
func placesOf(p *connection.Product, read map[string]bool) map[string]bool {
	out := map[string]bool{}
	for place, text := range map[string]string{"product.manufacturer": p.Manufacturer, "product.description": p.Description, "product.state": p.State, "product.series": p.Series, "product.datasheet": p.Datasheet} {
		out[place] = text != ""
	}
	for _, o := range p.Offers {
		for place, there := range map[string]bool{"offers.stock": o.Stock != nil, "offers.lead": o.LeadDays != nil, "offers.minimum": o.Minimum > 0, "breaks.price": len(o.Breaks) > 0} {
			out[place] = out[place] || there
		}
	}
	for _, f := range p.Fields {
		if read[f.Name] && f.Text != "" {
			out["field "+f.Name] = true
		}
	}
	for place, there := range out {
		if !there {
			delete(out, place)
		}
	}
	return out
}

func kindOf(place string) string {
	_, kind, _ := strings.Cut(strings.TrimPrefix(place, "field "), " of ")
	return kind
}

// Missed are those of the places that answers before this one said and that none of enough products says now: the supplier may have changed the form of
// its answers.
func Missed(before []string, cw crosswalk.Crosswalk, products []connection.Product) (missed []string) {
	count, kinds := tally(cw, products)
	for _, place := range before {
		enough := len(products) >= enoughProducts
		if place != kindPlace {
			enough = slices.ContainsFunc(kindsOf(kinds), func(k string) bool { return strings.HasSuffix(place, " of "+k) && kinds[k] >= enoughOfKind })
		}
		if enough && count[place] == 0 {
			missed = append(missed, place)
		}
	}
	return missed
}

// Still are those of the places that any of the products says.
func Still(before []string, cw crosswalk.Crosswalk, products []connection.Product) (still []string) {
	count, _ := tally(cw, products)
	for _, place := range before {
		if count[place] > 0 {
			still = append(still, place)
		}
	}
	return still
}

func kindsOf(kinds map[string]int) (out []string) {
	for k := range kinds {
		out = append(out, k)
	}
	return out
}
