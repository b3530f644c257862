// Package crosswalk says which fields of one supplier's files fill which parameters, and how values are rewritten on
// the way. A crosswalk is a document; applying it to a row gives texts for parameters, not yet values.
package crosswalk

import (
	"bytes"
	"encoding/json"
	"fmt"
	"strings"
	"unicode"

	"go.yaml.in/yaml/v3"

	"jollydrawer/core/cabinet"
	"jollydrawer/core/measure"
)

// Format is the format name that a crosswalk document carries.
const Format = "jolly-crosswalk/1"

// Leading stands, as the target of a rule, for the leading parameter of whatever drawer the row is in.
const Leading = "@leading"

// Crosswalk is the mapping for one supplier, or one old library.
type Crosswalk struct {
	Format        string            `json:"format" yaml:"format"`
	Supplier      string            `json:"supplier" yaml:"supplier"`
	DecimalMark   string            `json:"decimalMark,omitempty" yaml:"decimalMark,omitempty"` // "comma" or "point"; blank: not known
	Take          Take              `json:"take" yaml:"take"`
	Drawer        string            `json:"drawer,omitempty" yaml:"drawer,omitempty"`               // for rows no kind sorts
	Kinds         map[string]string `json:"kinds,omitempty" yaml:"kinds,omitempty"`                 // supplier's kind → drawer
	Manufacturers map[string]string `json:"manufacturers,omitempty" yaml:"manufacturers,omitempty"` // as written → house spelling
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
}

// Fields lists the field names in use.
func (t Take) Fields() []string {
	return []string{t.Number, t.Kind, t.Manufacturer, t.MPN, t.SupplierNumber, t.Description}
}

// Rule fills one parameter from one field.
type Rule struct {
	From    string            `json:"from" yaml:"from"`
	To      string            `json:"to" yaml:"to"`                               // a parameter key, or @leading
	Drawers []string          `json:"drawers,omitempty" yaml:"drawers,omitempty"` // only there and inside; blank: wherever the template has it
	Unit    string            `json:"unit,omitempty" yaml:"unit,omitempty"`       // of values that carry none
	Words   map[string]string `json:"words,omitempty" yaml:"words,omitempty"`     // whole values to replace
	System  string            `json:"caseSystem,omitempty" yaml:"caseSystem,omitempty"`
}

// Parse reads a crosswalk document in YAML or JSON and checks its form.
func Parse(raw []byte) (Crosswalk, error) {
	var c Crosswalk
	d := yaml.NewDecoder(bytes.NewReader(raw))
	d.KnownFields(true)
	if err := d.Decode(&c); err != nil {
		return c, fmt.Errorf("the crosswalk cannot be read: %s", strings.ReplaceAll(strings.TrimPrefix(err.Error(), "yaml: "), "\n", " "))
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
	if c.DecimalMark != "" && c.DecimalMark != "comma" && c.DecimalMark != "point" {
		return fmt.Errorf("the decimal mark is %q: use comma or point", c.DecimalMark)
	}
	for i, r := range c.Fields {
		if r.From == "" || r.To == "" {
			return fmt.Errorf("rule %d of the crosswalk lacks its from or its to", i+1)
		}
		if r.System != "" && r.System != "inch" && r.System != "metric" {
			return fmt.Errorf("rule %d of the crosswalk has the case system %q: use inch or metric", i+1, r.System)
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
	return in(c.Drawer)
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

// Applies says whether the rule holds for rows in a drawer, and which parameter it fills there.
func (r Rule) Applies(t *cabinet.Template) (key string, ok bool) {
	if len(r.Drawers) > 0 {
		in := false
		for _, d := range r.Drawers {
			for _, p := range t.Path {
				in = in || p == d
			}
		}
		if !in {
			return "", false
		}
	}
	key = r.To
	if key == Leading {
		key = t.Leading
	}
	return key, t.Has(key)
}

// Rewrite applies the rule's word table and case system to a cell; note says what was done, for the value's origin.
func (r Rule) Rewrite(cell string) (text, note string) {
	text = strings.TrimSpace(cell)
	if w, ok := r.Words[text]; ok {
		return w, fmt.Sprintf("%q stands for %q", text, w)
	}
	if r.System == "metric" {
		if inch, ok := measure.CaseFromMetric(strings.TrimSuffix(strings.TrimSuffix(strings.ToUpper(text), "M"), " METRIC")); ok {
			return inch, "metric " + text + " is inch " + inch
		}
	}
	if r.Unit != "" {
		note = "without a unit, " + r.Unit + " is meant"
	}
	return text, note
}

// Suggestion proposes what a field may fill, with the reason; a person confirms it.
type Suggestion struct {
	From   string `json:"from"`
	To     string `json:"to"`
	Reason string `json:"reason"`
}

// words of a field name, lower case, units in brackets dropped.
func plain(s string) string {
	if i := strings.IndexAny(s, "([{"); i > 0 {
		s = s[:i]
	}
	return strings.Join(strings.FieldsFunc(strings.ToLower(s), func(r rune) bool { return !unicode.IsLetter(r) && !unicode.IsDigit(r) }), " ")
}

var takeNames = []struct{ to, names string }{
	{"number", "part number|house number|our number|internal number|article number|part no"},
	{"kind", "category|kind|product group|group|type of part|family"},
	{"manufacturer", "manufacturer|maker|mfr|brand|made by"},
	{"mpn", "mpn|manufacturer part number|mfr part number|mfr part no|maker s number|maker part no|manufacturer number"},
	{"supplierNumber", "order code|order number|order no|stock code|stock number|supplier number|sku"},
	{"description", "description|text|designation"},
}

// Suggest proposes targets for fields by their names and the dictionary's synonyms. It stays silent where two
// parameters would fit alike.
func Suggest(fields []string, cab *cabinet.Cabinet) []Suggestion {
	var out []Suggestion
	for _, f := range fields {
		p := plain(f)
		if p == "" {
			continue
		}
		hit := false
		for _, t := range takeNames {
			for _, n := range strings.Split(t.names, "|") {
				if p == n {
					out = append(out, Suggestion{f, "take." + t.to, fmt.Sprintf("%q is a usual name for it", f)})
					hit = true
				}
			}
		}
		if hit {
			continue
		}
		var found []Suggestion
		for _, par := range cab.Document.Parameters {
			for _, name := range append([]string{par.Label, par.Key}, par.Synonyms...) {
				if plain(name) == p {
					found = append(found, Suggestion{f, par.Key, fmt.Sprintf("%q is a name of %s", name, par.Label)})
					break
				}
			}
		}
		if len(found) == 1 {
			out = append(out, found[0])
		}
	}
	return out
}
