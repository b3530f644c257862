// Package connection says how one supplier is asked and how its answers are read: a document, so that another supplier needs no line of code.
// It checks documents, fills the questions in, and holds what was read of an answer as products. Carrying a question out is left to others;
// what a product's fields mean is the crosswalk's.
package connection

import (
	_ "embed"
	"fmt"
	"maps"
	"net/url"
	"regexp"
	"slices"
	"strconv"
	"strings"

	"jollydrawer/core/document"
	"jollydrawer/core/money"
)

// Schema is the JSON Schema (draft 2020-12) of connections.
//
//go:embed schema.json
var Schema string

// Format is the format name that a connection's document carries.
const Format = "jolly-connection/1"

// Document is a connection.
type Document struct {
	Format   string             `json:"format" yaml:"format"`
	Supplier string             `json:"supplier" yaml:"supplier"`                   // as parts and crosswalks name it
	Layout   string             `json:"layout,omitempty" yaml:"layout,omitempty"`   // of the supplier's crosswalk that reads its fields; blank: answers
	Address  string             `json:"address,omitempty" yaml:"address,omitempty"` // what every path begins with; blank for a price list that people upload
	SignIn   *SignIn            `json:"signIn,omitempty" yaml:"signIn,omitempty"`
	Limits   Limits             `json:"limits,omitzero" yaml:"limits,omitempty"`
	Ask      map[string]Request `json:"ask,omitempty" yaml:"ask,omitempty"`    // by kind of question
	Facts    Facts              `json:"facts,omitzero" yaml:"facts,omitempty"` // how its filters are written
	Pages    Pages              `json:"pages,omitzero" yaml:"pages,omitempty"`
	Read     Reading            `json:"read" yaml:"read"`
	Decimal  string             `json:"decimalMark,omitempty" yaml:"decimalMark,omitempty"` // "comma" or "point"; blank: not known
	Currency string             `json:"currency,omitempty" yaml:"currency,omitempty"`       // of prices that name none
	LeadIn   string             `json:"leadIn,omitempty" yaml:"leadIn,omitempty"`           // "days" or "weeks", of lead times that are bare numbers
}

// Kinds of questions.
const (
	Words   = "words"          // what somebody looks for: {words}
	ByFacts = "facts"          // the same by the supplier's filters: {facts}, {kind}, and {words} for the rest
	Number  = "number"         // one manufacturer part number: {number}, {maker}
	Lot     = "numbers"        // several at once: {numbers}
	Order   = "supplierNumber" // one number of the supplier: {number}
	Details = "details"        // all that the supplier says of one of its numbers: {number}
	Prices  = "prices"         // what its other answers do not say of its numbers: stock and prices. {numbers} in lots, or {number}
	List    = "list"           // the whole price list
	Changes = "changes"        // its rows that are new or otherwise since a time: {since}, or {day} of that
)

// Questions lists the kinds of questions.
var Questions = []string{Words, ByFacts, Number, Lot, Order, Details, Prices, List, Changes}

// Facts say how the supplier's filters are written: {field} is its name of a field, which the crosswalk joins to a parameter, {text} the value. A fact
// that it has no form for is left to the reader of its answers.
type Facts struct {
	Equals string            `json:"equals,omitempty" yaml:"equals,omitempty"` // "{field}:{text}"
	Least  string            `json:"least,omitempty" yaml:"least,omitempty"`
	Most   string            `json:"most,omitempty" yaml:"most,omitempty"`
	Join   string            `json:"join,omitempty" yaml:"join,omitempty"`     // what parts {facts} in a path or query; a semicolon
	Units  map[string]string `json:"units,omitempty" yaml:"units,omitempty"`   // field → unit in which its filter takes a bare number
	Fields []string          `json:"fields,omitempty" yaml:"fields,omitempty"` // that have a filter; blank: all that the crosswalk reads
}

// SignIn says how the supplier knows who asks. The secret itself is never in a document: it is named, and kept in the service's settings.
type SignIn struct {
	By     string `json:"by" yaml:"by"` // key, password or token
	Secret string `json:"secret" yaml:"secret"`
	Header string `json:"header,omitempty" yaml:"header,omitempty"` // of a key
	Query  string `json:"query,omitempty" yaml:"query,omitempty"`   // name of the address's parameter that holds a key
	User   string `json:"user,omitempty" yaml:"user,omitempty"`     // of a password (RFC 7617), or the client of a token
	Token  string `json:"token,omitempty" yaml:"token,omitempty"`   // path that hands out tokens (RFC 6749, client credentials)
	Scope  string `json:"scope,omitempty" yaml:"scope,omitempty"`
}

// Limits are the supplier's, and the house's own. What is zero has a default.
type Limits struct {
	PerSecond int `json:"perSecond,omitempty" yaml:"perSecond,omitempty"` // questions; 5
	PerDay    int `json:"perDay,omitempty" yaml:"perDay,omitempty"`       // 0: as many as are asked
	Seconds   int `json:"seconds,omitempty" yaml:"seconds,omitempty"`     // that one answer may take; 10
	MB        int `json:"mb,omitempty" yaml:"mb,omitempty"`               // that one answer may have; 8
	Pages     int `json:"pages,omitempty" yaml:"pages,omitempty"`         // of one question; 4
}

// With returns l with its defaults.
func (l Limits) With() Limits {
	for _, d := range []struct {
		v  *int
		to int
	}{{&l.PerSecond, 5}, {&l.Seconds, 10}, {&l.MB, 8}, {&l.Pages, 4}} {
		if *d.v == 0 {
			*d.v = d.to
		}
	}
	return l
}

// Request is one way to ask. In the path, the query's values and the body's texts {words}, {facts}, {kind}, {number}, {numbers}, {maker}, {size}, {page},
// {client}, {since} and {day} are filled in. A text that is just {size} or an offset becomes a number in a body; a query's value that comes out blank is left out.
type Request struct {
	Method string            `json:"method,omitempty" yaml:"method,omitempty"` // GET or POST; blank: GET, or POST where there is a body
	Path   string            `json:"path" yaml:"path"`
	Query  map[string]string `json:"query,omitempty" yaml:"query,omitempty"`
	Body   any               `json:"body,omitempty" yaml:"body,omitempty"` // sent as JSON
	Lot    int               `json:"lot,omitempty" yaml:"lot,omitempty"`   // numbers in one question; 25
	Join   string            `json:"join,omitempty" yaml:"join,omitempty"` // what parts {numbers} in a path or query; a comma
	Read   *Reading          `json:"read,omitempty" yaml:"read,omitempty"` // of its answers, where they are read otherwise than all others
	Gone   string            `json:"gone,omitempty" yaml:"gone,omitempty"` // heading of changes: a text there says that the number is sold no more
}

// Pages says how an answer goes on.
type Pages struct {
	By    string `json:"by,omitempty" yaml:"by,omitempty"`       // cursor, offset or page; blank: answers have one page
	Next  string `json:"next,omitempty" yaml:"next,omitempty"`   // path to the cursor of the next page
	Total string `json:"total,omitempty" yaml:"total,omitempty"` // path to how many there are
	Size  int    `json:"size,omitempty" yaml:"size,omitempty"`   // products of one page; 50
	First int    `json:"first,omitempty" yaml:"first,omitempty"` // number of the first page
}

// Reading says where an answer has what. Paths are JSONPath (RFC 9535) for json and XPath 1.0 for xml, from the product on where they are of a
// product; for csv and sheets they are headings.
type Reading struct {
	Form      string            `json:"form" yaml:"form"`                             // json, xml or table
	Failed    string            `json:"failed,omitempty" yaml:"failed,omitempty"`     // path to what went wrong, in an answer that is none
	Products  string            `json:"products,omitempty" yaml:"products,omitempty"` // path to the products
	Product   map[string]string `json:"product" yaml:"product"`                       // place → path
	Fields    Fields            `json:"fields,omitzero" yaml:"fields,omitempty"`
	Models    Each              `json:"models,omitzero" yaml:"models,omitempty"` // kind, name, address
	Offers    Each              `json:"offers,omitzero" yaml:"offers,omitempty"` // without each: the product is its one offer
	Breaks    Each              `json:"breaks,omitzero" yaml:"breaks,omitempty"` // from, price, per; within an offer
	Namespace map[string]string `json:"namespaces,omitempty" yaml:"namespaces,omitempty"`
}

// Each is a list within something, with paths from each of its members on.
type Each struct {
	Each  string            `json:"each,omitempty" yaml:"each,omitempty"`
	Paths map[string]string `json:"paths,omitempty" yaml:"paths,omitempty"`
	At    map[string]string `json:"at,omitempty" yaml:"at,omitempty"` // prices of a table by columns: the quantity that one holds from → its heading
}

// Fields are what a supplier says of a product beyond what every product has: a list of names and texts, or named paths, or both.
type Fields struct {
	Each  string            `json:"each,omitempty" yaml:"each,omitempty"`
	Name  string            `json:"name,omitempty" yaml:"name,omitempty"`
	Text  string            `json:"text,omitempty" yaml:"text,omitempty"`
	Unit  string            `json:"unit,omitempty" yaml:"unit,omitempty"`
	Named map[string]string `json:"named,omitempty" yaml:"named,omitempty"`
	Rest  bool              `json:"rest,omitempty" yaml:"rest,omitempty"` // of a table: all columns that nothing else reads
}

// Places of a product, an offer, a break and a model that paths may lead to.
var (
	ProductPlaces = []string{"manufacturer", "mpn", "description", "kind", "state", "series", "datasheet"}
	OfferPlaces   = []string{"number", "packing", "stock", "minimum", "multiple", "lead", "currency", "until"}
	BreakPlaces   = []string{"from", "price", "per"}
	ModelPlaces   = []string{"kind", "name", "address"}
)

// Parse reads a document in YAML or JSON and checks its form.
func Parse(raw []byte) (Document, error) {
	var d Document
	if err := document.ReadYAML(raw, "the connection", &d); err != nil {
		return d, err
	}
	return d, d.Check()
}

// Number is what a connection is found by.
func (d *Document) Number() string { return d.Supplier }

// ReadingOf is how the answers to a kind of question are read.
func (d *Document) ReadingOf(kind string) *Reading {
	if r := d.Ask[kind].Read; r != nil {
		return r
	}
	return &d.Read
}

// Mark is the decimal mark of its texts.
func (d *Document) Mark() money.Mark { return money.Mark(d.Decimal) }

// LayoutName is the layout of the crosswalk that reads its fields.
func (d *Document) LayoutName() string {
	if d.Layout == "" {
		return "answers"
	}
	return d.Layout
}

var (
	placeholder = regexp.MustCompile(`\{[^{}]*\}`)
	filled      = []string{"{words}", "{facts}", "{kind}", "{number}", "{numbers}", "{maker}", "{size}", "{page}", "{client}", "{since}", "{day}"}
	secretName  = regexp.MustCompile(`^[a-z0-9][a-z0-9-]{0,60}$`)
	headerName  = regexp.MustCompile(`^[A-Za-z0-9-]{1,60}$`)
)

// Check says what is wrong with a document by itself: the first thing that is.
func (d *Document) Check() error {
	switch {
	case d.Format != Format:
		return fmt.Errorf("the connection has format %q; this version reads %q", d.Format, Format)
	case strings.TrimSpace(d.Supplier) == "" || len(d.Supplier) > 100 || strings.TrimSpace(d.Supplier) != d.Supplier:
		return fmt.Errorf("supplier: a connection needs the name of its supplier, of at most 100 bytes and without blanks around it")
	case d.Decimal != "" && d.Decimal != "comma" && d.Decimal != "point":
		return fmt.Errorf("decimalMark: %q is neither comma nor point", d.Decimal)
	case d.LeadIn != "" && d.LeadIn != "days" && d.LeadIn != "weeks":
		return fmt.Errorf("leadIn: %q is neither days nor weeks", d.LeadIn)
	}
	if c, ok := money.Currency(d.Currency); d.Currency != "" && (!ok || c != d.Currency) {
		return fmt.Errorf("currency: %q is no currency of ISO 4217 in capitals", d.Currency)
	}
	for _, check := range []func() error{d.checkAddress, d.checkSignIn, d.checkLimits, d.checkAsk, d.checkFacts, d.checkPages, d.checkRead} {
		if err := check(); err != nil {
			return err
		}
	}
	return nil
}

func (d *Document) checkAddress() error {
	if d.Address == "" {
		if len(d.Ask) > 0 || d.SignIn != nil {
			return fmt.Errorf("address: there are questions or a way to sign in, and no address to ask")
		}
		return nil
	}
	u, err := url.Parse(d.Address)
	if err != nil || u.Scheme != "https" && u.Scheme != "http" || u.Hostname() == "" || u.User != nil || u.RawQuery != "" || u.Fragment != "" {
		return fmt.Errorf("address: %q is no address that begins with https://, without a user, a question mark or a #", d.Address)
	}
	if len(d.Ask) == 0 {
		return fmt.Errorf("ask: there is an address and no question for it")
	}
	return nil
}

func (d *Document) checkSignIn() error {
	s := d.SignIn
	if s == nil {
		return nil
	}
	if !secretName.MatchString(s.Secret) {
		return fmt.Errorf("signIn: %q is no name of a secret: small letters, digits and hyphens; the secret itself belongs into the service's settings", s.Secret)
	}
	switch s.By {
	case "key":
		if (s.Header == "") == (s.Query == "") || s.Header != "" && !headerName.MatchString(s.Header) {
			return fmt.Errorf("signIn: a key goes into a header or into the query; name one of the two")
		}
	case "password":
		if s.User == "" || strings.Contains(s.User, ":") {
			return fmt.Errorf("signIn: a password needs a user, without a colon in its name")
		}
	case "token":
		if s.Token == "" || s.User == "" {
			return fmt.Errorf("signIn: tokens need the path that hands them out, as token, and the client's name, as user")
		}
	default:
		return fmt.Errorf("signIn: %q is none of key, password and token", s.By)
	}
	return nil
}

func (d *Document) checkLimits() error {
	for _, x := range []struct {
		name    string
		v, most int
	}{{"perSecond", d.Limits.PerSecond, 100}, {"perDay", d.Limits.PerDay, 10_000_000}, {"seconds", d.Limits.Seconds, 120}, {"mb", d.Limits.MB, 256}, {"pages", d.Limits.Pages, 1000}} {
		if x.v < 0 || x.v > x.most {
			return fmt.Errorf("limits: %s is %d; it may be up to %d", x.name, x.v, x.most)
		}
	}
	return nil
}

func (d *Document) checkAsk() error {
	for _, kind := range slices.Sorted(maps.Keys(d.Ask)) {
		q := d.Ask[kind]
		if !slices.Contains(Questions, kind) {
			return fmt.Errorf("ask: %q is none of %s", kind, strings.Join(Questions, ", "))
		}
		if q.Method != "" && q.Method != "GET" && q.Method != "POST" || q.Method == "GET" && q.Body != nil {
			return fmt.Errorf("ask.%s: the method is GET, or POST, which may have a body", kind)
		}
		if !strings.HasPrefix(q.Path, "/") && q.Path != "" {
			return fmt.Errorf("ask.%s: the path %q does not begin with a slash", kind, q.Path)
		}
		if q.Lot < 0 || q.Lot > 1000 {
			return fmt.Errorf("ask.%s: a lot has 1 to 1000 numbers", kind)
		}
		if _, whole := d.Ask[List]; kind == Changes && !whole {
			return fmt.Errorf("ask.changes: there is no list that the changes are of")
		}
		if q.Gone != "" && kind != Changes {
			return fmt.Errorf("ask.%s: gone is for changes of a price list", kind)
		}
		var odd, all []string
		look := func(s string) {
			for _, p := range placeholder.FindAllString(s, -1) {
				if all = append(all, p); !slices.Contains(filled, p) {
					odd = append(odd, p)
				}
			}
		}
		look(q.Path)
		for _, v := range q.Query {
			look(v)
		}
		eachText(q.Body, func(s string) {
			if !strings.Contains(s, "\n") && !graph.MatchString(s) { // a query language has braces of its own
				look(s)
			}
		})
		if len(odd) > 0 {
			slices.Sort(odd)
			return fmt.Errorf("ask.%s: %s is none of %s", kind, odd[0], strings.Join(filled, ", "))
		}
		needs := map[string]string{Words: "{words}", ByFacts: "{facts}", Number: "{number}", Lot: "{numbers}", Order: "{number}", Details: "{number}"}[kind]
		if kind == Prices && !slices.Contains(all, "{number}") {
			needs = "{numbers}"
		}
		if kind == Changes && !slices.Contains(all, "{day}") {
			needs = "{since}"
		}
		if needs != "" && !slices.Contains(all, needs) {
			return fmt.Errorf("ask.%s: %s is nowhere in the question", kind, needs)
		}
		if d.Pages.By != "" && (kind == Words || kind == ByFacts) && !slices.Contains(all, "{page}") {
			return fmt.Errorf("ask.%s: answers have pages, and {page} is nowhere in the question", kind)
		}
	}
	return nil
}

func (d *Document) checkFacts() error {
	_, asked := d.Ask[ByFacts]
	f := d.Facts
	if !asked {
		if f.Equals+f.Least+f.Most+f.Join != "" || len(f.Units)+len(f.Fields) > 0 {
			return fmt.Errorf("facts: there is a form for facts, and no question ask.facts that uses it")
		}
		return nil
	}
	if f.Equals == "" {
		return fmt.Errorf("facts: the form of a plain fact, equals, is missing")
	}
	for name, form := range map[string]string{"equals": f.Equals, "least": f.Least, "most": f.Most} {
		if form != "" && (!strings.Contains(form, "{field}") || !strings.Contains(form, "{text}")) {
			return fmt.Errorf("facts.%s: {field} or {text} is nowhere in %q", name, form)
		}
	}
	for field, unit := range f.Units {
		if unit == "" {
			return fmt.Errorf("facts.units: the unit of %s is blank", field)
		}
	}
	return nil
}

// graph is a text with braces that are no places to be filled: a question of a query language.
var graph = regexp.MustCompile(`\{[^{}]*[\s({]`)

func (d *Document) checkPages() error {
	p := d.Pages
	switch {
	case p.Size < 0 || p.Size > 1000 || p.First < 0 || p.First > 1:
		return fmt.Errorf("pages: a page has 1 to 1000 products, and the first is 0 or 1")
	case p.By == "cursor" && p.Next == "":
		return fmt.Errorf("pages: a cursor needs the path that leads to the next one, as next")
	case p.By != "" && p.By != "cursor" && p.By != "offset" && p.By != "page":
		return fmt.Errorf("pages: %q is none of cursor, offset and page", p.By)
	}
	return nil
}

func (d *Document) checkRead() error {
	if err := d.Read.check("read", true); err != nil {
		return err
	}
	for _, kind := range slices.Sorted(maps.Keys(d.Ask)) {
		own := d.Ask[kind].Read
		switch {
		case own == nil:
			continue
		case own.Form == "table" || kind == List || kind == Changes:
			return fmt.Errorf("ask.%s.read: the answer to a question is json or xml, and a price list is read as read says", kind)
		}
		if err := own.check("ask."+kind+".read", kind != Prices); err != nil {
			return err
		}
	}
	return nil
}

// check says what is wrong with a reading that stands at where. whole says that its answers tell products; else they only say more of known numbers.
func (r *Reading) check(where string, whole bool) error {
	if r.Form != "json" && r.Form != "xml" && r.Form != "table" {
		return fmt.Errorf("%s: the form %q is none of json, xml and table", where, r.Form)
	}
	if r.Form != "table" && r.Products == "" {
		return fmt.Errorf("%s: products, the path to them, is missing", where)
	}
	for _, x := range []struct {
		where string
		paths map[string]string
		known []string
	}{{"product", r.Product, ProductPlaces}, {"offers", r.Offers.Paths, OfferPlaces}, {"breaks", r.Breaks.Paths, BreakPlaces}, {"models", r.Models.Paths, ModelPlaces}} {
		for _, place := range slices.Sorted(maps.Keys(x.paths)) {
			if !slices.Contains(x.known, place) {
				return fmt.Errorf("%s.%s: %q is none of %s", where, x.where, place, strings.Join(x.known, ", "))
			}
			if x.paths[place] == "" {
				return fmt.Errorf("%s.%s: the path of %s is blank", where, x.where, place)
			}
		}
	}
	for from := range r.Breaks.At {
		if n, err := strconv.Atoi(from); err != nil || n < 1 {
			return fmt.Errorf("%s.breaks: %q is no quantity that a price holds from", where, from)
		}
	}
	switch {
	case whole && r.Product["mpn"] == "":
		return fmt.Errorf("%s.product: the path of mpn is missing; without it no product can be told", where)
	case r.Offers.Paths["number"] == "":
		return fmt.Errorf("%s.offers: the path of number, the supplier's, is missing; offers are kept by it", where)
	case len(r.Breaks.Paths) > 0 && r.Breaks.Paths["price"] == "":
		return fmt.Errorf("%s.breaks: the path of price is missing", where)
	case r.Fields.Each != "" && (r.Fields.Name == "" || r.Fields.Text == ""):
		return fmt.Errorf("%s.fields: a list of fields needs the paths of name and text", where)
	case len(r.Breaks.At) > 0 && r.Form != "table" || len(r.Offers.At)+len(r.Models.At) > 0:
		return fmt.Errorf("%s: at is for the prices of tables", where)
	case r.Fields.Rest && r.Form != "table":
		return fmt.Errorf("%s.fields: rest is for tables", where)
	}
	return nil
}

// eachText calls f with every text of a body.
func eachText(v any, f func(string)) {
	switch v := v.(type) {
	case string:
		f(v)
	case map[string]any:
		for _, x := range v {
			eachText(x, f)
		}
	case []any:
		for _, x := range v {
			eachText(x, f)
		}
	}
}
