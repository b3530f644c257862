package supplier

import (
	"bytes"
	"encoding/json"
	"fmt"
	"maps"
	"slices"
	"strconv"
	"strings"
	"unicode/utf8"

	"github.com/antchfx/xmlquery"
	"github.com/antchfx/xpath"
	"github.com/theory/jsonpath"

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
	doc *connection.Document
	at  map[string]path
}

// path leads from a node to others.
type path interface {
	// from returns the nodes that the path leads to.
	from(node) []node
}

// node is a piece of an answer.
type node interface {
	// text is what a node says; ok is false where it holds other nodes and says nothing itself.
	text() (said string, ok bool)
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

// NewReader prepares the paths of a connection; the error names the one that cannot be read.
func NewReader(d *connection.Document) (*Reader, error) {
	r := &Reader{doc: d, at: map[string]path{}}
	if d.Read.Form == "table" {
		return r, nil
	}
	for _, where := range slices.Sorted(maps.Keys(paths(d))) {
		p, err := compile(d, paths(d)[where])
		if err != nil {
			return nil, fmt.Errorf("read.%s: the path %q cannot be read: %s", where, paths(d)[where], strings.TrimPrefix(err.Error(), "jsonpath: "))
		}
		r.at[where] = p
	}
	if within := holder(d); within != "" {
		r.at["holder"], _ = compile(d, within)
	}
	return r, nil
}

// holder is the path to what holds the products, which is there in every answer, also where it holds none; blank where the path of the products
// does not tell.
func holder(d *connection.Document) string {
	if d.Read.Form == "json" {
		within, _, ok := strings.Cut(d.Read.Products, "[*]")
		if _, plain := plainNames(within); ok && plain {
			return within
		}
		return ""
	}
	if i := strings.LastIndex(d.Read.Products, "/"); i > 0 && !strings.ContainsAny(d.Read.Products, "[") && !strings.HasSuffix(d.Read.Products[:i], "/") {
		return d.Read.Products[:i]
	}
	return ""
}

// Place is one path of a connection.
type Place struct {
	Place, Path string
	OfProduct   bool // from a product on: how many products have it tells something
}

// Paths lists the paths of a connection, by place.
func Paths(d *connection.Document) (out []Place) {
	all := paths(d)
	for _, place := range slices.Sorted(maps.Keys(all)) {
		of, name, _ := strings.Cut(place, ".")
		out = append(out, Place{place, all[place], name != "each" && of != "failed" && of != "products" && of != "pages" && place != "fields.unit"})
	}
	return out
}

// paths lists the paths of a connection by where they stand in its document.
func paths(d *connection.Document) map[string]string {
	out := map[string]string{"failed": d.Read.Failed, "products": d.Read.Products, "pages.next": d.Pages.Next, "pages.total": d.Pages.Total,
		"fields.each": d.Read.Fields.Each, "fields.name": d.Read.Fields.Name, "fields.text": d.Read.Fields.Text, "fields.unit": d.Read.Fields.Unit,
		"offers.each": d.Read.Offers.Each, "breaks.each": d.Read.Breaks.Each, "models.each": d.Read.Models.Each}
	for part, of := range map[string]map[string]string{"product": d.Read.Product, "offers": d.Read.Offers.Paths, "breaks": d.Read.Breaks.Paths, "models": d.Read.Models.Paths, "fields.named": d.Read.Fields.Named} {
		for place, p := range of {
			out[part+"."+place] = p
		}
	}
	maps.DeleteFunc(out, func(_, p string) bool { return p == "" })
	return out
}

func compile(d *connection.Document, p string) (path, error) {
	if d.Read.Form == "xml" {
		e, err := xpath.CompileWithNS(p, d.Read.Namespace)
		return xmlPath{e}, err
	}
	// The paths of most answers are names only, and those are walked without the library.
	if names, ok := plainNames(p); ok {
		return names, nil
	}
	parsed, err := jsonpath.Parse(p)
	return jsonPath{parsed}, err
}

type (
	jsonNode struct{ v any }
	jsonPath struct{ p *jsonpath.Path }
	// namePath are member names one after the other; "*" stands for all members of an array.
	namePath []string
	xmlNode  struct{ n *xmlquery.Node }
	xmlPath  struct{ e *xpath.Expr }
)

// plainNames takes a JSONPath apart that is only names: $.maker.name, $.items[*].
func plainNames(p string) (namePath, bool) {
	rest, ok := strings.CutPrefix(p, "$")
	if !ok {
		return nil, false
	}
	out := namePath{}
	for rest != "" {
		if after, ok := strings.CutPrefix(rest, "[*]"); ok {
			out, rest = append(out, "*"), after
			continue
		}
		after, ok := strings.CutPrefix(rest, ".")
		end := strings.IndexAny(after, ".[")
		if end < 0 {
			end = len(after)
		}
		name := after[:end]
		if !ok || name == "" || strings.ContainsFunc(name, func(r rune) bool {
			return r != '_' && (r < 'a' || r > 'z') && (r < 'A' || r > 'Z') && (r < '0' || r > '9')
		}) || name[0] >= '0' && name[0] <= '9' {
			return nil, false
		}
		out, rest = append(out, name), after[end:]
	}
	return out, true
}

func (p namePath) from(n node) []node {
	v := n.(jsonNode).v
	for i, name := range p {
		if name == "*" {
			var out []node
			list, _ := v.([]any)
			for _, x := range list {
				if i == len(p)-1 {
					out = append(out, jsonNode{x})
				} else {
					out = append(out, p[i+1:].from(jsonNode{x})...)
				}
			}
			return out
		}
		m, ok := v.(map[string]any)
		if !ok {
			return nil
		}
		if v, ok = m[name]; !ok {
			return nil
		}
	}
	return []node{jsonNode{v}}
}

func (p jsonPath) from(n node) (out []node) {
	for _, v := range p.p.Select(n.(jsonNode).v) {
		out = append(out, jsonNode{v})
	}
	return out
}

func (n jsonNode) text() (string, bool) {
	switch v := n.v.(type) {
	case string:
		return v, true
	case json.Number:
		return v.String(), true
	case bool:
		return strconv.FormatBool(v), true
	case nil:
		return "", true
	}
	return "", false
}

func (p xmlPath) from(n node) (out []node) {
	for _, v := range xmlquery.QuerySelectorAll(n.(xmlNode).n, p.e) {
		out = append(out, xmlNode{v})
	}
	return out
}

func (n xmlNode) text() (string, bool) {
	for c := n.n.FirstChild; c != nil; c = c.NextSibling {
		if c.Type == xmlquery.ElementNode {
			return "", false
		}
	}
	return n.n.InnerText(), true
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
		return Answer{}, fmt.Errorf("there is no %s in it: it is none of its answers, or it has changed their form", holder(r.doc))
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

// said is one, of a product: what is too long for any of its places is cut, and found counts it.
func (r *Reader) said(n node, where string, found map[string]int) string {
	s := r.one(n, where)
	if s != "" {
		found[where]++
	}
	if len(s) > maxText {
		s = strings.ToValidUTF8(s[:maxText], "")
	}
	return s
}

func (r *Reader) product(n node, found map[string]int) (p connection.Product, why string) {
	get := func(place string) string { return r.said(n, "product."+place, found) }
	p = connection.Product{Manufacturer: get("manufacturer"), MPN: get("mpn"), Description: get("description"), Kind: get("kind"), State: get("state"), Series: get("series"), Datasheet: get("datasheet")}
	if p.MPN == "" {
		return p, "has no manufacturer part number"
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
	for _, name := range slices.Sorted(maps.Keys(r.doc.Read.Fields.Named)) {
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
	if len(p.Offers) == 0 {
		return p, fmt.Sprintf("(%s) has no number of the supplier", clip(p.MPN))
	}
	return p, ""
}

func (r *Reader) offer(n node, p *connection.Product, found map[string]int) offer.Offer {
	get := func(place string) string { return r.said(n, "offers."+place, found) }
	raw := offer.Raw{Number: get("number"), Packing: get("packing"), Stock: get("stock"), Minimum: get("minimum"), Multiple: get("multiple"), Lead: get("lead"), Currency: get("currency"), Until: get("until"),
		Manufacturer: p.Manufacturer, MPN: p.MPN, State: p.State}
	breaks := []node{n}
	if each := r.at["breaks.each"]; each != nil {
		breaks = each.from(n)
	}
	if r.at["breaks.price"] != nil {
		for _, b := range breaks {
			raw.Breaks = append(raw.Breaks, offer.RawBreak{From: r.said(b, "breaks.from", found), Price: r.said(b, "breaks.price", found), Per: r.said(b, "breaks.per", found)})
		}
	}
	return offer.Read(raw, r.habits())
}

func (r *Reader) habits() offer.Habits {
	return offer.Habits{Mark: r.doc.Mark(), Currency: r.doc.Currency, LeadIn: r.doc.LeadIn}
}

// parse makes a tree of a body.
func (r *Reader) parse(body []byte) (node, error) {
	if r.doc.Read.Form == "xml" {
		return parseXML(body)
	}
	return parseJSON(body)
}

func parseJSON(body []byte) (node, error) {
	body = bytes.TrimPrefix(body, []byte("\xef\xbb\xbf"))
	if !utf8.Valid(body) {
		return nil, fmt.Errorf("it is no JSON in UTF-8")
	}
	if depth(body) > maxDepth {
		return nil, fmt.Errorf("it nests deeper than %d levels", maxDepth)
	}
	d := json.NewDecoder(bytes.NewReader(body))
	d.UseNumber()
	var v any
	if err := d.Decode(&v); err != nil {
		return nil, fmt.Errorf("it is no JSON: %s", because(body, err))
	}
	if d.More() {
		return nil, fmt.Errorf("it is no JSON: something stands behind its end")
	}
	return jsonNode{v}, nil
}

// because says what is wrong with a body that should be JSON.
func because(body []byte, err error) string {
	switch head := bytes.TrimSpace(body); {
	case len(head) == 0:
		return "it is empty"
	case head[0] == '<':
		return "it begins like a page of HTML or XML"
	case strings.Contains(err.Error(), "unexpected EOF"), err.Error() == "EOF":
		return "it ends in the middle"
	}
	return strings.TrimPrefix(err.Error(), "json: ")
}

// depth is how deep the brackets of a JSON text nest.
func depth(body []byte) (most int) {
	n, inside, escaped := 0, false, false
	for _, c := range body {
		switch {
		case escaped:
			escaped = false
		case inside:
			escaped, inside = c == '\\', c != '"'
		case c == '"':
			inside = true
		case c == '{' || c == '[':
			n++
			most = max(most, n)
		case c == '}' || c == ']':
			n--
		}
	}
	return most
}

func parseXML(body []byte) (node, error) {
	if bytes.Contains(body[:min(len(body), 4096)], []byte("<!DOCTYPE")) || bytes.Contains(body, []byte("<!ENTITY")) {
		return nil, fmt.Errorf("it declares a document type, which is not read")
	}
	if len(bytes.TrimSpace(body)) == 0 {
		return nil, fmt.Errorf("it is no XML: it is empty")
	}
	root, err := xmlquery.Parse(bytes.NewReader(body))
	if err != nil {
		return nil, fmt.Errorf("it is no XML: %s", strings.TrimPrefix(err.Error(), "xmlquery: "))
	}
	if deep(root, 0) {
		return nil, fmt.Errorf("it nests deeper than %d levels", maxDepth)
	}
	for c := root.FirstChild; c != nil; c = c.NextSibling {
		if c.Type == xmlquery.ElementNode {
			return xmlNode{root}, nil
		}
	}
	return nil, fmt.Errorf("it is no XML: it has no element")
}

func deep(n *xmlquery.Node, level int) bool {
	if level > maxDepth {
		return true
	}
	for c := n.FirstChild; c != nil; c = c.NextSibling {
		if deep(c, level+1) {
			return true
		}
	}
	return false
}

// clip cuts a text of a supplier for a sentence.
func clip(s string) string {
	s = strings.Join(strings.Fields(strings.ToValidUTF8(s, "")), " ")
	if r := []rune(s); len(r) > 120 {
		return string(r[:119]) + "…"
	}
	return s
}
