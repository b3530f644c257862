package supplier

import (
	"fmt"
	"maps"
	"slices"
	"strings"

	"jollydrawer/core/connection"
	"jollydrawer/core/offer"
)

// Answer is one page of an answer, as it was read.
type Answer struct {
	Products []connection.Product
	Next     string         // cursor of the page after it
	Total    string         // how many there are, as the supplier says
	Found    map[string]int // place → products in which its path led to something
	Problems []string       // what could not be read, in sentences
}

// Reader reads the answers of one connection. It may be used by several goroutines.
type Reader struct {
	doc   *connection.Document
	read  *connection.Reading
	whole bool // its answers tell products; else they say more of known numbers
	at    map[string]path
}

// Limits of an answer beside its size.
const (
	maxDepth    = 60
	maxProducts = 5000
	maxFields   = 400
	maxText     = 4000
	maxOffers   = 60
	maxModels   = 20
)

// NewReader prepares the paths of a connection for the answers to a kind of question; the error names the one that cannot be read.
func NewReader(d *connection.Document, kind string) (*Reader, error) {
	r := &Reader{doc: d, read: d.ReadingOf(kind), whole: kind != connection.Prices, at: map[string]path{}}
	if r.read.Form == "table" {
		return r, nil
	}
	all, place := paths(d, r.read), "read"
	if d.Ask[kind].Read != nil {
		place = "ask." + kind + ".read"
	}
	for _, where := range slices.Sorted(maps.Keys(all)) {
		p, err := compile(r.read, all[where])
		if err != nil {
			return nil, fmt.Errorf("%s.%s: the path %q cannot be read: %s", place, where, all[where], strings.TrimPrefix(err.Error(), "jsonpath: "))
		}
		r.at[where] = p
	}
	if within := holder(r.read); within != "" {
		r.at["holder"], _ = compile(r.read, within)
	}
	return r, nil
}

// CheckPaths says which path of a document cannot be read: the first one, of any of its readings.
func CheckPaths(d *connection.Document) error {
	for _, kind := range connection.Questions {
		if _, err := NewReader(d, kind); err != nil {
			return err
		}
	}
	return nil
}

// holder is the path to what holds the products, which is there in every answer, also where it holds none; blank where the path of the products
// does not tell.
func holder(read *connection.Reading) string {
	if read.Form == "json" {
		within, _, ok := strings.Cut(read.Products, "[*]")
		if _, plain := plainNames(within); ok && plain {
			return within
		}
		return ""
	}
	if i := strings.LastIndex(read.Products, "/"); i > 0 && !strings.ContainsAny(read.Products, "[") && !strings.HasSuffix(read.Products[:i], "/") {
		return read.Products[:i]
	}
	return ""
}

// Read reads one page. What is no answer at all is an error that says why in a sentence; what is wrong with single products is among the
// problems.
func (r *Reader) Read(body []byte) (Answer, error) {
	root, err := r.parse(body)
	if err != nil {
		return Answer{}, err
	}
	a := Answer{Found: map[string]int{}}
	if p := r.at["failed"]; p != nil {
		if why := p.from(root); len(why) > 0 {
			if s, _ := why[0].text(); strings.TrimSpace(s) != "" {
				return Answer{}, fmt.Errorf("it says: %s", clip(s))
			}
		}
	}
	a.Next, a.Total = r.one(root, "pages.next"), r.one(root, "pages.total")
	products := r.at["products"].from(root)
	if p := r.at["holder"]; len(products) == 0 && p != nil && len(p.from(root)) == 0 {
		return Answer{}, fmt.Errorf("there is no %s in it: it is none of its answers, or it has changed their form", holder(r.read))
	}
	if len(products) > maxProducts {
		a.Problems = append(a.Problems, fmt.Sprintf("The page has %d products; the first %d were read.", len(products), maxProducts))
		products = products[:maxProducts]
	}
	for i, n := range products {
		p, why := r.product(n, a.Found)
		if why != "" {
			a.Problems = append(a.Problems, fmt.Sprintf("Product %d of the page %s; it was left out.", i+1, why))
			continue
		}
		a.Products = append(a.Products, p)
	}
	return a, nil
}

// one is the text of the first node that a path leads to.
func (r *Reader) one(n node, where string) string {
	p := r.at[where]
	if p == nil {
		return ""
	}
	for _, x := range p.from(n) {
		if s, ok := x.text(); ok {
			return strings.TrimSpace(s)
		}
	}
	return ""
}

// said is one, of a product; found counts it.
func (r *Reader) said(n node, where string, found map[string]int) string {
	s := r.one(n, where)
	if s != "" {
		found[where]++
	}
	return short(s)
}

// short cuts what is too long for any place of a product.
func short(s string) string {
	if len(s) > maxText {
		return strings.ToValidUTF8(s[:maxText], "")
	}
	return s
}

func (r *Reader) product(n node, found map[string]int) (p connection.Product, why string) {
	get := func(place string) string { return r.said(n, "product."+place, found) }
	makers, mpns := r.all(n, "product.manufacturer", found), r.all(n, "product.mpn", found)
	p = connection.Product{Manufacturer: first(makers), MPN: first(mpns), Description: get("description"), Kind: get("kind"), State: get("state"), Series: get("series"), Datasheet: get("datasheet")}
	if p.MPN == "" && r.whole {
		return p, "has no manufacturer part number"
	}
	if len(mpns) > 1 {
		return p, fmt.Sprintf("has %d manufacturer part numbers (%s)", len(mpns), clip(strings.Join(mpns, ", ")))
	}
	if len(makers) > 1 {
		return p, fmt.Sprintf("(%s) has %d manufacturers (%s)", clip(p.MPN), len(makers), clip(strings.Join(makers, ", ")))
	}
	if each := r.at["fields.each"]; each != nil {
		for _, f := range each.from(n) {
			name, text := r.said(f, "fields.name", found), r.said(f, "fields.text", found)
			if unit := r.one(f, "fields.unit"); unit != "" && text != "" {
				text += " " + unit
			}
			if name != "" && text != "" && len(p.Fields) < maxFields {
				p.Fields = append(p.Fields, connection.Field{Name: name, Text: text})
			}
		}
	}
	for _, name := range slices.Sorted(maps.Keys(r.read.Fields.Named)) {
		if text := r.said(n, "fields.named."+name, found); text != "" {
			p.Fields = append(p.Fields, connection.Field{Name: name, Text: text})
		}
	}
	if each := r.at["models.each"]; each != nil {
		for _, m := range each.from(n) {
			if l := (connection.Linked{Kind: r.said(m, "models.kind", found), Name: r.said(m, "models.name", found), Address: r.said(m, "models.address", found)}); l.Address != "" && len(p.Models) < maxModels {
				p.Models = append(p.Models, l)
			}
		}
	}
	offers := []node{n}
	if each := r.at["offers.each"]; each != nil {
		if offers = each.from(n); len(offers) > maxOffers {
			offers = offers[:maxOffers]
		}
	}
	for _, o := range offers {
		if one := r.offer(o, &p, found); one.Number != "" {
			p.Offers = append(p.Offers, one)
		}
	}
	p.Offers = offer.JoinAll(p.Offers)
	if len(p.Offers) == 0 {
		return p, fmt.Sprintf("(%s) has no number of the supplier", clip(p.MPN))
	}
	return p, ""
}

func first(all []string) string {
	if len(all) == 0 {
		return ""
	}
	return all[0]
}

func (r *Reader) offer(n node, p *connection.Product, found map[string]int) offer.Offer {
	get := func(place string) string { return r.said(n, "offers."+place, found) }
	count := func(place string) string { return r.figure(n, "offers."+place, found) }
	raw := offer.Raw{Number: get("number"), Packing: get("packing"), Stock: count("stock"), Minimum: count("minimum"), Multiple: count("multiple"), Lead: count("lead"), Currency: get("currency"), Until: get("until"),
		Manufacturer: p.Manufacturer, MPN: p.MPN, State: p.State}
	breaks := []node{n}
	if each := r.at["breaks.each"]; each != nil {
		breaks = each.from(n)
	}
	if r.at["breaks.price"] != nil {
		for _, b := range breaks {
			raw.Breaks = append(raw.Breaks, offer.RawBreak{From: r.figure(b, "breaks.from", found), Price: r.figure(b, "breaks.price", found), Per: r.figure(b, "breaks.per", found)})
		}
	}
	return offer.Read(raw, r.habits())
}

func (r *Reader) habits() offer.Habits {
	return offer.Habits{Mark: r.doc.Mark(), Currency: r.doc.Currency, LeadIn: r.doc.LeadIn}
}

// clip cuts a text of a supplier for a sentence.
func clip(s string) string {
	s = strings.Join(strings.Fields(strings.ToValidUTF8(s, "")), " ")
	if r := []rune(s); len(r) > 120 {
		return string(r[:119]) + "…"
	}
	return s
}
