// Package crosswalk says which fields of one supplier's files fill which parameters, and how values are rewritten on
// the way. A crosswalk is a document; applying it to a row gives texts for parameters, not yet values.
package crosswalk

import (
	"bytes"
	"encoding/json"
	"fmt"
	"strings"

	"go.yaml.in/yaml/v3"

	"jollydrawer/core/cabinet"
	"jollydrawer/core/document"
	"jollydrawer/core/measure"
)

// Format is the format name that a crosswalk document carries.
const Format = "jolly-crosswalk/1"

// Leading stands, as the target of a rule, for the leading parameter of whatever drawer the row is in.
const Leading = "@leading"

// Crosswalk is the mapping for one layout of the files of one supplier, or of one old library.
type Crosswalk struct {
	Format        string            `json:"format" yaml:"format"`
	Supplier      string            `json:"supplier" yaml:"supplier"`
	Layout        string            `json:"layout,omitempty" yaml:"layout,omitempty"`           // name of the layout of files that it is for; blank: the supplier's first
	Headings      []string          `json:"headings,omitempty" yaml:"headings,omitempty,flow"`  // of the last file of the layout
	DecimalMark   string            `json:"decimalMark,omitempty" yaml:"decimalMark,omitempty"` // "comma" or "point"; blank: not known
	Take          Take              `json:"take" yaml:"take"`
	Drawer        string            `json:"drawer,omitempty" yaml:"drawer,omitempty"`               // for rows that nothing else sorts
	Kinds         map[string]string `json:"kinds,omitempty" yaml:"kinds,omitempty"`                 // supplier's kind → drawer
	Sorting       []Sorting         `json:"sorting,omitempty" yaml:"sorting,omitempty"`             // for rows whose kind is not mapped; the first that holds
	Manufacturers map[string]string `json:"manufacturers,omitempty" yaml:"manufacturers,omitempty"` // as written → house spelling
	LeaveOut      []Condition       `json:"leaveOut,omitempty" yaml:"leaveOut,omitempty"`           // rows that are not wanted
	Unused        []string          `json:"unused,omitempty" yaml:"unused,omitempty"`               // fields that are left out on purpose
	Fields        []Rule            `json:"fields" yaml:"fields"`
}

// Take names the fields that identify a row. Each is a field name, or blank.
type Take struct {
	Number         string `json:"number,omitempty" yaml:"number,omitempty"` // the house's own part number
	Kind           string `json:"kind,omitempty" yaml:"kind,omitempty"`
	Manufacturer   string `json:"manufacturer,omitempty" yaml:"manufacturer,omitempty"`
	MPN            string `json:"mpn,omitempty" yaml:"mpn,omitempty"`
	SupplierNumber string `json:"supplierNumber,omitempty" yaml:"supplierNumber,omitempty"`
	Description    string `json:"description,omitempty" yaml:"description,omitempty"`
	Datasheet      string `json:"datasheet,omitempty" yaml:"datasheet,omitempty"`   // a link, or a path in the archive that the file came in
	State          string `json:"state,omitempty" yaml:"state,omitempty"`           // how the product stands, as the supplier says: active, not recommended, obsolete
	Designator     string `json:"designator,omitempty" yaml:"designator,omitempty"` // such as R or R12: its letters help to sort
	Stock          string `json:"stock,omitempty" yaml:"stock,omitempty"`           // how many the supplier has; what an offer says, and no parameter
	Price          string `json:"price,omitempty" yaml:"price,omitempty"`           // of one
	Currency       string `json:"currency,omitempty" yaml:"currency,omitempty"`     // of the price, where that does not say it
	Symbol         string `json:"symbol,omitempty" yaml:"symbol,omitempty"`         // name of a symbol of the library
	LandPattern    string `json:"landPattern,omitempty" yaml:"landPattern,omitempty"`
	Body           string `json:"body,omitempty" yaml:"body,omitempty"`
}

// Places lists the places of t by name.
func (t *Take) Places() map[string]*string {
	return map[string]*string{"number": &t.Number, "kind": &t.Kind, "manufacturer": &t.Manufacturer, "mpn": &t.MPN, "supplierNumber": &t.SupplierNumber,
		"description": &t.Description, "datasheet": &t.Datasheet, "state": &t.State, "designator": &t.Designator,
		"stock": &t.Stock, "price": &t.Price, "currency": &t.Currency,
		"symbol": &t.Symbol, "landPattern": &t.LandPattern, "body": &t.Body}
}

// Fields lists the field names in use.
func (t Take) Fields() []string {
	return append(t.Offered(), t.Number, t.Kind, t.Manufacturer, t.MPN, t.SupplierNumber, t.Description, t.Datasheet, t.State, t.Designator, t.Symbol, t.LandPattern, t.Body)
}

// Offered lists the fields that say what the supplier offers today, blanks included: they are otherwise in the next file, and tell no row from another.
func (t Take) Offered() []string {
	return []string{t.Stock, t.Price, t.Currency}
}

// Condition holds for rows with a certain cell. One of Is, Has and Filled is set.
type Condition struct {
	Field  string `json:"field" yaml:"field"`
	Is     string `json:"is,omitempty" yaml:"is,omitempty"`   // the whole cell, whatever its capitals
	Has    string `json:"has,omitempty" yaml:"has,omitempty"` // these words in it
	Filled bool   `json:"filled,omitempty" yaml:"filled,omitempty"`
}

// Sorting puts rows that a condition holds for into a drawer.
type Sorting struct {
	Condition `yaml:",inline"`
	Drawer    string `json:"drawer" yaml:"drawer"`
}

// Holds says whether the condition holds for a cell of its field.
func (c Condition) Holds(cell string) bool {
	cell = strings.TrimSpace(cell)
	switch {
	case c.Is != "":
		return strings.EqualFold(cell, strings.TrimSpace(c.Is))
	case c.Has != "":
		return strings.Contains(" "+words(cell)+" ", " "+words(c.Has)+" ")
	}
	return cell != ""
}

// String says the condition in words.
func (c Condition) String() string {
	switch {
	case c.Is != "":
		return fmt.Sprintf("%s is %q", c.Field, c.Is)
	case c.Has != "":
		return fmt.Sprintf("%s has %q", c.Field, c.Has)
	}
	return c.Field + " is filled"
}

func (c Condition) check(what string) error {
	n := 0
	for _, set := range []bool{c.Is != "", c.Has != "", c.Filled} {
		if set {
			n++
		}
	}
	if c.Field == "" || n != 1 {
		return fmt.Errorf("%s needs a field and one of is, has and filled", what)
	}
	if c.Has != "" && words(c.Has) == "" {
		return fmt.Errorf("%s: %q has no word to look for", what, c.Has)
	}
	return nil
}

// Parse reads a crosswalk document in YAML or JSON and checks its form.
func Parse(raw []byte) (Crosswalk, error) {
	var c Crosswalk
	if err := document.ReadYAML(raw, "the crosswalk", &c); err != nil {
		return c, err
	}
	return c, c.Check()
}

// FromJSON reads a crosswalk that was checked before.
func FromJSON(raw []byte) (c Crosswalk, err error) {
	err = json.Unmarshal(raw, &c)
	return c, err
}

// Check says what is wrong with c by itself, whatever the cabinet.
func (c Crosswalk) Check() error {
	if c.Format != Format {
		return fmt.Errorf("the crosswalk has format %q; this version reads %q", c.Format, Format)
	}
	if strings.TrimSpace(c.Supplier) == "" {
		return fmt.Errorf("the crosswalk names no supplier")
	}
	if len(c.Supplier) > 120 {
		return fmt.Errorf("the supplier's name is longer than 120 bytes")
	}
	if len(c.Number()) > 120 {
		return fmt.Errorf("the names of the supplier and of its layout are longer than 118 bytes together")
	}
	if strings.TrimSpace(c.Layout) != c.Layout {
		return fmt.Errorf("the layout %q has blanks around it", c.Layout)
	}
	if c.DecimalMark != "" && c.DecimalMark != "comma" && c.DecimalMark != "point" {
		return fmt.Errorf("the decimal mark is %q: use comma or point", c.DecimalMark)
	}
	for i, r := range c.Fields {
		if err := r.check(); err != nil {
			return fmt.Errorf("rule %d of the crosswalk %w", i+1, err)
		}
	}
	for i, x := range c.Sorting {
		if err := x.check(fmt.Sprintf("sorting %d", i+1)); err != nil {
			return err
		}
		if x.Drawer == "" {
			return fmt.Errorf("sorting %d names no drawer", i+1)
		}
	}
	for i, x := range c.LeaveOut {
		if err := x.check(fmt.Sprintf("leaveOut %d", i+1)); err != nil {
			return err
		}
	}
	return nil
}

// CheckAgainst says which drawers and parameters c names that the cabinet lacks.
func (c Crosswalk) CheckAgainst(cab *cabinet.Cabinet) error {
	drawer := func(key, where string) error {
		if key == "" {
			return nil
		}
		t, ok := cab.Template(key)
		if !ok {
			return fmt.Errorf("%s names the drawer %q, which the cabinet lacks", where, key)
		}
		if !t.Leaf && where != "a rule" {
			return fmt.Errorf("%s names the drawer %q, which holds other drawers, not parts", where, key)
		}
		return nil
	}
	if err := drawer(c.Drawer, "the crosswalk"); err != nil {
		return err
	}
	for kind, key := range c.Kinds {
		if err := drawer(key, fmt.Sprintf("the kind %q", kind)); err != nil {
			return err
		}
	}
	for i, x := range c.Sorting {
		if err := drawer(x.Drawer, fmt.Sprintf("sorting %d", i+1)); err != nil {
			return err
		}
	}
	for _, r := range c.Fields {
		if r.To != Leading {
			if _, ok := cab.Parameter(r.To); !ok {
				return fmt.Errorf("the rule for field %q fills %q, which the parameter dictionary lacks", r.From, r.To)
			}
		}
		for _, d := range r.Drawers {
			if err := drawer(d, "a rule"); err != nil {
				return err
			}
		}
	}
	return nil
}

// Sorts says whether c puts rows into a drawer or one inside it.
func (c Crosswalk) Sorts(cab *cabinet.Cabinet, drawer string) bool {
	in := func(key string) bool {
		t, ok := cab.Template(key)
		return ok && t.Inside(drawer)
	}
	for _, key := range c.Kinds {
		if in(key) {
			return true
		}
	}
	for _, x := range c.Sorting {
		if in(x.Drawer) {
			return true
		}
	}
	return in(c.Drawer)
}

// Text writes c as YAML, as a person would edit it.
func (c Crosswalk) Text() (string, error) {
	var b bytes.Buffer
	e := yaml.NewEncoder(&b)
	e.SetIndent(2)
	err := e.Encode(c)
	return b.String(), err
}

// Mark returns the decimal mark for reading values.
func (c Crosswalk) Mark() measure.Mark {
	switch c.DecimalMark {
	case "comma":
		return measure.MarkComma
	case "point":
		return measure.MarkPoint
	}
	return measure.MarkUnknown
}
