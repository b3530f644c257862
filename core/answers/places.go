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
)

// place is what products of a kind say; of any kind where it is blank. Names of fields and kinds are any text, so that only the marks around the kind,
// which are never within it, part the two.
type place struct{ what, kind string }

var kindPlace = place{what: "product.kind"}

// String is the place as it is kept and shown.
func (p place) String() string {
	if p.kind == "" {
		return p.what
	}
	return p.what + ofKind(p.kind)
}

// ofKind ends the text of every place of a kind, and of no other kind's: a kind that has such marks in its name has others there.
func ofKind(kind string) string {
	return " of “" + strings.NewReplacer("“", "\"", "”", "\"").Replace(kind) + "”"
}

// Places are what an answer says of nearly all products of a kind, nine of ten and at least five of them: "offers.stock of “Resistors”" what a path of the
// document leads to, "field Resistance of “Resistors”" a field that the crosswalk reads; and whether products have a kind at all.
func Places(cw crosswalk.Crosswalk, products []connection.Product) (said []string) {
	count, kinds := tally(cw, products)
	for at, n := range count {
		of, enough := kinds[at.kind], enoughOfKind
		if at == kindPlace {
			of, enough = len(products), enoughProducts
		}
		if of >= enough && n*10 >= of*9 && len(at.String()) <= longestPlace {
			said = append(said, at.String())
		}
	}
	slices.Sort(said)
	return said
}

// tally counts by place the products that say it, and the products of each kind.
func tally(cw crosswalk.Crosswalk, products []connection.Product) (count map[place]int, kinds map[string]int) {
	count, kinds = map[place]int{}, map[string]int{}
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
		for what := range placesOf(p, read) {
			count[place{what, p.Kind}]++
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

// Missed are those of the places that answers before this one said and that none of enough products says now: the supplier may have changed the form of
// its answers.
func Missed(before []string, cw crosswalk.Crosswalk, products []connection.Product) (missed []string) {
	count, kinds := tally(cw, products)
	said := inWords(count)
	for _, text := range before {
		enough := len(products) >= enoughProducts
		if text != kindPlace.String() {
			enough = false
			for kind, of := range kinds {
				enough = enough || of >= enoughOfKind && strings.HasSuffix(text, ofKind(kind))
			}
		}
		if enough && said[text] == 0 {
			missed = append(missed, text)
		}
	}
	return missed
}

// Still are those of the places that any of the products says.
func Still(before []string, cw crosswalk.Crosswalk, products []connection.Product) (still []string) {
	count, _ := tally(cw, products)
	said := inWords(count)
	for _, text := range before {
		if said[text] > 0 {
			still = append(still, text)
		}
	}
	return still
}

func inWords(count map[place]int) map[string]int {
	out := make(map[string]int, len(count))
	for at, n := range count {
		out[at.String()] = n
	}
	return out
}
