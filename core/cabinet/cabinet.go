// Package cabinet holds the parameter dictionary and the drawers with their templates. A cabinet is written as one
// YAML or JSON document; reading it resolves inheritance and refuses contradictions, naming where they meet.
// It leaves storing, numbering and the parts themselves to others.
package cabinet

import (
	"encoding/json"
	"fmt"
	"regexp"
	"slices"
	"sort"
	"strings"

	"jollydrawer/core/document"
	"jollydrawer/core/measure"
	"jollydrawer/core/model"
)

// Format is the format name that a cabinet document carries.
const Format = "jolly-cabinet/1"

// Document is a cabinet as it is written.
type Document struct {
	Format     string      `json:"format" yaml:"format"`
	BuiltOn    string      `json:"builtOn,omitempty" yaml:"builtOn,omitempty" doc:"starter: the document says only what differs from the starter cabinet"`
	Without    []string    `json:"without,omitempty" yaml:"without,omitempty" doc:"Drawers of the starter cabinet that are left out"`
	Parameters []Parameter `json:"parameters" yaml:"parameters"`
	Drawers    []Drawer    `json:"drawers" yaml:"drawers"`
	House      model.House `json:"house,omitzero" yaml:"house,omitempty" doc:"How the house wants symbols and land patterns drawn"`
}

// Parameter is one typed attribute, defined once and used by many drawers.
type Parameter struct {
	Key        string   `json:"key" yaml:"key"`
	Label      string   `json:"label" yaml:"label"`
	Type       Type     `json:"type" yaml:"type"`
	Of         string   `json:"of,omitempty" yaml:"of,omitempty"`                 // dimension of a measure
	Deviation  bool     `json:"deviation,omitempty" yaml:"deviation,omitempty"`   // "5 %" means ±5 %
	AssumeUnit string   `json:"assumeUnit,omitempty" yaml:"assumeUnit,omitempty"` // unit of a value typed without one
	Choices    []string `json:"choices,omitempty" yaml:"choices,omitempty"`
	// Also holds other spellings of choices: "NP0" is C0G (EIA-198).
	Also     map[string]string `json:"also,omitempty" yaml:"also,omitempty"`
	Show     string            `json:"show,omitempty" yaml:"show,omitempty"`         // unit that values are shown in; blank: whichever prefix suits
	Better   string            `json:"better,omitempty" yaml:"better,omitempty"`     // "more" or "less", for comparing parts
	ChipCode string            `json:"chipCode,omitempty" yaml:"chipCode,omitempty"` // "inch" or "metric": the two follow each other by table
	Usual    string            `json:"usual,omitempty" yaml:"usual,omitempty"`       // range that sensible values lie in, "1 mΩ to 100 GΩ"
	Signless bool              `json:"signless,omitempty" yaml:"signless,omitempty"` // only the size counts: a P-channel device at -20 V
	Under    string            `json:"under,omitempty" yaml:"under,omitempty"`       // the condition that its values hold under, as they show it: "100 MHz"
	Synonyms []string          `json:"synonyms,omitempty" yaml:"synonyms,omitempty"` // and abbreviations
	Help     string            `json:"help,omitempty" yaml:"help,omitempty"`

	usual measure.Usual // Usual, read once
}

// Drawer is a kind of part as it is written: what it adds to its parent.
type Drawer struct {
	Key         string   `json:"key" yaml:"key"`
	Label       string   `json:"label" yaml:"label"`
	Parent      string   `json:"parent,omitempty" yaml:"parent,omitempty"`
	Prefix      string   `json:"prefix,omitempty" yaml:"prefix,omitempty"` // of its part numbers
	Digits      int      `json:"digits,omitempty" yaml:"digits,omitempty"` // of the counter, zero-padded
	Designator  string   `json:"designator,omitempty" yaml:"designator,omitempty"`
	Leading     string   `json:"leading,omitempty" yaml:"leading,omitempty"`
	Case        string   `json:"case,omitempty" yaml:"case,omitempty"`               // the parameter that names the case
	Description string   `json:"description,omitempty" yaml:"description,omitempty"` // pattern
	Identity    []string `json:"identity,omitempty" yaml:"identity,omitempty"`
	Class       string   `json:"class,omitempty" yaml:"class,omitempty"`         // electrical, mechanical or document
	Name        string   `json:"name,omitempty" yaml:"name,omitempty"`           // pattern of a part's name
	Search      []string `json:"search,omitempty" yaml:"search,omitempty"`       // words that find the drawer's parts
	Models      Models   `json:"models,omitzero" yaml:"models,omitempty"`        // what a new part gets
	Drawing     []string `json:"drawing,omitempty" yaml:"drawing,omitempty"`     // parameters that a drawing shows
	Designer    []string `json:"designer,omitempty" yaml:"designer,omitempty"`   // of those, what a designer may change there
	Columns     []string `json:"columns,omitempty" yaml:"columns,omitempty"`     // parameters that a list shows first
	Lifecycle   string   `json:"lifecycle,omitempty" yaml:"lifecycle,omitempty"` // by which its parts live; blank: that of all parts
	Parameters  []Use    `json:"parameters,omitempty" yaml:"parameters,omitempty"`
}

// Models names the models that a new part of a drawer gets. LandPatterns is by case.
type Models struct {
	Symbol       string            `json:"symbol,omitempty" yaml:"symbol,omitempty"`
	LandPattern  string            `json:"landPattern,omitempty" yaml:"landPattern,omitempty"`
	LandPatterns map[string]string `json:"landPatterns,omitempty" yaml:"landPatterns,omitempty"`
	Body         string            `json:"body,omitempty" yaml:"body,omitempty"`
	Names        ModelNames        `json:"names,omitzero" yaml:"names,omitempty"`
}

// ModelNames are patterns of the house's names for models that arrive for a part: "Chip {case} nominal".
type ModelNames struct {
	Symbol      string `json:"symbol,omitempty" yaml:"symbol,omitempty"`
	LandPattern string `json:"landPattern,omitempty" yaml:"landPattern,omitempty"`
	Body        string `json:"body,omitempty" yaml:"body,omitempty"`
}

// Patterns lists the patterns by the kind of model.
func (n *ModelNames) Patterns() map[string]*string {
	return map[string]*string{"symbol": &n.Symbol, "land pattern": &n.LandPattern, "body": &n.Body}
}

// Use puts a parameter into a drawer's template.
type Use struct {
	Key      string   `json:"key" yaml:"key"`
	Required bool     `json:"required,omitempty" yaml:"required,omitempty"`
	ByHand   bool     `json:"byHand,omitempty" yaml:"byHand,omitempty"` // never comes from a supplier
	Choices  []string `json:"choices,omitempty" yaml:"choices,omitempty"`
	Default  string   `json:"default,omitempty" yaml:"default,omitempty"` // of a new part
	// Preferred: values come in the preferred numbers of IEC 60063 that suit their tolerance.
	Preferred bool `json:"preferred,omitempty" yaml:"preferred,omitempty"`
	// Usual narrows the range that sensible values lie in; UsualIn does so for one case, by its code.
	Usual   string            `json:"usual,omitempty" yaml:"usual,omitempty"`
	UsualIn map[string]string `json:"usualIn,omitempty" yaml:"usualIn,omitempty"`
}

// Cabinet is a checked document: look-ups by key, templates resolved.
type Cabinet struct {
	Document   Document
	parameters map[string]Parameter
	templates  map[string]*Template
	order      []string
}

// Parse reads a cabinet document in YAML or JSON and checks it. Unknown keys are refused, so that a misspelt one
// is not silently without effect.
func Parse(raw []byte) (*Cabinet, error) {
	doc, err := read(raw)
	if err == nil && doc.BuiltOn != "" {
		doc, err = buildOn(doc)
	}
	if err != nil {
		return nil, err
	}
	return New(doc)
}

func read(raw []byte) (doc Document, err error) {
	if err := document.ReadYAML(raw, "the cabinet document", &doc); err != nil {
		return doc, err
	}
	return doc, nil
}

// FromJSON reads a document that Parse accepted earlier.
func FromJSON(raw []byte) (*Cabinet, error) {
	var doc Document
	if err := json.Unmarshal(raw, &doc); err != nil {
		return nil, fmt.Errorf("cabinet: %w", err)
	}
	return New(doc)
}

// maxDepth is how deep drawers may lie inside each other.
const maxDepth = 20

var keyForm = regexp.MustCompile(`^[a-z][a-z0-9-]{0,47}$`)
var prefixForm = regexp.MustCompile(`^[A-Z][A-Z0-9-]{0,15}$`)

// New checks a document and resolves inheritance. The error names every drawer and parameter concerned.
func New(doc Document) (*Cabinet, error) {
	c := &Cabinet{Document: doc, parameters: map[string]Parameter{}, templates: map[string]*Template{}}
	if doc.Format != Format {
		return nil, fmt.Errorf("the cabinet document has format %q; this version reads %q", doc.Format, Format)
	}
	c.Document.Parameters = make([]Parameter, 0, len(doc.Parameters))
	for _, p := range doc.Parameters {
		if err := checkParameter(p); err != nil {
			return nil, err
		}
		if _, twice := c.parameters[p.Key]; twice {
			return nil, fmt.Errorf("the parameter %q is defined twice: keep one and let both drawers use it", p.Key)
		}
		p.usual, _ = p.usualRange(p.Usual)
		c.Document.Parameters = append(c.Document.Parameters, p)
		c.parameters[p.Key] = p
	}
	drawers, inside := map[string]Drawer{}, map[string]bool{}
	for _, d := range doc.Drawers {
		if !keyForm.MatchString(d.Key) || d.Label == "" {
			return nil, fmt.Errorf("the drawer %q needs a key of small letters, digits and dashes, and a label", d.Key)
		}
		if _, twice := drawers[d.Key]; twice {
			return nil, fmt.Errorf("the drawer %q is defined twice", d.Key)
		}
		if len(doc.Drawers) > 5000 || len(d.Parameters) > 500 {
			return nil, fmt.Errorf("the drawer %q: more than 5000 drawers or 500 parameters in one are not supported", d.Key)
		}
		drawers[d.Key] = d
		inside[d.Parent] = true
	}
	if err := doc.House.Check(); err != nil {
		return nil, err
	}
	prefixes := map[string]string{}
	for _, d := range doc.Drawers {
		t, err := c.resolve(d.Key, drawers, nil)
		if err != nil {
			return nil, err
		}
		t.Leaf = !inside[d.Key]
		if d.Prefix != "" {
			if other := prefixes[d.Prefix]; other != "" {
				return nil, fmt.Errorf("the drawers %q and %q have the same prefix %q: their numbers would mix", other, d.Key, d.Prefix)
			}
			prefixes[d.Prefix] = d.Key
		}
		c.order = append(c.order, d.Key)
	}
	return c, nil
}

func checkParameter(p Parameter) error {
	if !keyForm.MatchString(p.Key) || p.Label == "" {
		return fmt.Errorf("the parameter %q needs a key of small letters, digits and dashes, and a label", p.Key)
	}
	switch p.Type {
	case Measure:
		if _, ok := measure.ParseDimension(p.Of); !ok {
			return fmt.Errorf("the parameter %q is a measure of %q, which is not known: use one of %s", p.Key, p.Of, strings.Join(measure.Dimensions(), ", "))
		}
	case Choice:
		if len(p.Choices) == 0 {
			return fmt.Errorf("the parameter %q is a choice without choices", p.Key)
		}
		for also, c := range p.Also {
			if !slices.Contains(p.Choices, c) || slices.ContainsFunc(p.Choices, func(c string) bool { return strings.EqualFold(c, also) }) {
				return fmt.Errorf("the parameter %q has %q as another spelling of %q: write a spelling that is no choice, and the choice that it means", p.Key, also, c)
			}
		}
	case Text, Number, YesNo, Link, Date:
	default:
		return fmt.Errorf("the parameter %q has the type %q: use measure, text, choice, number, yes-no, link or date", p.Key, p.Type)
	}
	if p.Type != Measure && (p.Of != "" || p.Deviation || p.AssumeUnit != "" || p.Show != "" || p.Signless) {
		return fmt.Errorf("the parameter %q is a %s and has no unit: remove of, deviation, assumeUnit, show and signless", p.Key, p.Type)
	}
	for what, unit := range map[string]string{"shown in": p.Show, "assumed to be in": p.AssumeUnit} {
		if unit != "" && !measure.UnitOf(unit, p.Of) {
			return fmt.Errorf("the parameter %q is %s %q, which is no unit of %s", p.Key, what, unit, p.Of)
		}
	}
	if p.Usual != "" {
		if _, ok := p.usualRange(p.Usual); !ok {
			return fmt.Errorf("the parameter %q has the usual range %q: write two values of %s, such as %q", p.Key, p.Usual, p.Of, "1 Ω to 1 MΩ")
		}
	}
	if p.Better != "" && p.Better != "more" && p.Better != "less" {
		return fmt.Errorf("the parameter %q is better with %q: use more or less", p.Key, p.Better)
	}
	if p.ChipCode != "" && (p.ChipCode != "inch" && p.ChipCode != "metric" || p.Type != Text && p.Type != Choice) {
		return fmt.Errorf("the parameter %q has the chip code %q: use inch or metric, on a text or a choice", p.Key, p.ChipCode)
	}
	return nil
}

// resolve builds a drawer's template from its ancestors'; seen holds the way down, to find a cycle.
func (c *Cabinet) resolve(key string, drawers map[string]Drawer, seen []string) (*Template, error) {
	if t := c.templates[key]; t != nil {
		return t, nil
	}
	for _, s := range seen {
		if s == key {
			return nil, fmt.Errorf("the drawers %s lie inside each other: give one of them another parent", strings.Join(append(seen, key), " → "))
		}
	}
	if len(seen) > maxDepth {
		return nil, fmt.Errorf("the drawer %q lies more than %d drawers deep", seen[0], maxDepth)
	}
	d := drawers[key]
	t := &Template{Drawer: d, byKey: map[string]int{}}
	if d.Parent != "" {
		if _, ok := drawers[d.Parent]; !ok {
			return nil, fmt.Errorf("the drawer %q has the parent %q, which is not in the document", key, d.Parent)
		}
		up, err := c.resolve(d.Parent, drawers, append(seen, key))
		if err != nil {
			return nil, err
		}
		t.Path = append(t.Path, up.Path...)
		t.Slots = append(t.Slots, up.Slots...)
		t.Search = append(append([]string{}, up.Search...), d.Search...)
		if d.Class != "" && up.Class != "" && d.Class != up.Class {
			return nil, fmt.Errorf("the drawer %q is %s, but %q, which it lies in, is %s: a drawer may only narrow what it inherits", key, d.Class, up.Key, up.Class)
		}
		inherit(&t.Drawer, up.Drawer)
	}
	if d.Lifecycle != "" && !keyForm.MatchString(d.Lifecycle) {
		return nil, fmt.Errorf("the drawer %q names the lifecycle %q: use small letters, digits and dashes", key, d.Lifecycle)
	}
	if d.Class != "" && d.Class != "electrical" && d.Class != "mechanical" && d.Class != "document" {
		return nil, fmt.Errorf("the drawer %q has the class %q: use electrical, mechanical or document", key, d.Class)
	}
	t.Path = append(t.Path, key)
	for i, s := range t.Slots {
		t.byKey[s.Key] = i
	}
	own := map[string]bool{}
	for _, u := range d.Parameters {
		if own[u.Key] {
			return nil, fmt.Errorf("the drawer %q names the parameter %q twice", key, u.Key)
		}
		own[u.Key] = true
		if err := t.use(c, u); err != nil {
			return nil, err
		}
	}
	if err := t.checkReferences(); err != nil {
		return nil, err
	}
	c.templates[key] = t
	return t, nil
}

func inherit(d *Drawer, up Drawer) {
	for _, f := range []struct {
		own *string
		up  string
	}{{&d.Designator, up.Designator}, {&d.Leading, up.Leading}, {&d.Description, up.Description}, {&d.Prefix, up.Prefix}, {&d.Case, up.Case},
		{&d.Class, up.Class}, {&d.Name, up.Name}, {&d.Lifecycle, up.Lifecycle}, {&d.Models.Symbol, up.Models.Symbol}, {&d.Models.LandPattern, up.Models.LandPattern}, {&d.Models.Body, up.Models.Body},
		{&d.Models.Names.Symbol, up.Models.Names.Symbol}, {&d.Models.Names.LandPattern, up.Models.Names.LandPattern}, {&d.Models.Names.Body, up.Models.Names.Body}} {
		if *f.own == "" {
			*f.own = f.up
		}
	}
	if d.Digits == 0 {
		d.Digits = up.Digits
	}
	for _, f := range []struct {
		own *[]string
		up  []string
	}{{&d.Identity, up.Identity}, {&d.Drawing, up.Drawing}, {&d.Designer, up.Designer}, {&d.Columns, up.Columns}} {
		if len(*f.own) == 0 {
			*f.own = f.up
		}
	}
	if d.Models.LandPatterns == nil {
		d.Models.LandPatterns = up.Models.LandPatterns
	}
}

// Template returns a drawer's template.
func (c *Cabinet) Template(drawer string) (*Template, bool) {
	t, ok := c.templates[drawer]
	return t, ok
}

// Templates lists all templates in the document's order.
func (c *Cabinet) Templates() []*Template {
	out := make([]*Template, len(c.order))
	for i, k := range c.order {
		out[i] = c.templates[k]
	}
	return out
}

// Parameter returns a parameter of the dictionary.
func (c *Cabinet) Parameter(key string) (Parameter, bool) { p, ok := c.parameters[key]; return p, ok }

// Numbered says whether a text is of the form of some drawer's part numbers: its prefix, a hyphen and digits.
func (c *Cabinet) Numbered(text string) bool {
	at := strings.LastIndexByte(text, '-')
	if at < 1 || at == len(text)-1 || strings.Trim(text[at+1:], "0123456789") != "" {
		return false
	}
	for _, t := range c.templates {
		if t.Prefix == text[:at] {
			return true
		}
	}
	return false
}

// Prefixes lists the part-number prefixes in use, sorted.
func (c *Cabinet) Prefixes() []string {
	seen := map[string]bool{}
	for _, t := range c.templates {
		if t.Prefix != "" {
			seen[t.Prefix] = true
		}
	}
	out := make([]string, 0, len(seen))
	for p := range seen {
		out = append(out, p)
	}
	sort.Strings(out)
	return out
}
