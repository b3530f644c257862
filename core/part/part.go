// Package part holds what a part is: its content, whether it is complete, and when two names of a maker or two part
// numbers are the same. Storing, numbering and releasing are left to others.
package part

import (
	"fmt"
	"net/url"
	"slices"
	"sort"
	"strings"
	"unicode"

	"jollydrawer/core/cabinet"
	"jollydrawer/core/finding"
)

// Format names the form that contents are stored in. Content of another form is not read.
const Format = "jolly-part/1"

// Content is what a revision of a part freezes. Number, status, standing and origins are not part of it.
type Content struct {
	Drawer      string                   `json:"drawer"`
	Name        string                   `json:"name,omitempty"`
	Description string                   `json:"description,omitempty"`
	Values      map[string]cabinet.Value `json:"values,omitempty"`
	Sources     []Source                 `json:"sources,omitempty"`
	Datasheets  []File                   `json:"datasheets,omitempty"`
	Links       []string                 `json:"datasheetLinks,omitempty"` // to datasheets whose files nobody has fetched yet
	Symbol      *Model                   `json:"symbol,omitempty"`
	LandPattern *Model                   `json:"landPattern,omitempty"`
	Body        *Model                   `json:"body,omitempty"`
	PinMap      *Model                   `json:"pinMap,omitempty"`
	// MapLand is the identifier of the land pattern on which somebody laid the pins of the map: another one asks for another look.
	MapLand     string       `json:"mapLand,omitempty"`
	OtherLands  []OtherLand  `json:"otherLandPatterns,omitempty"`
	Attachments []Attachment `json:"attachments,omitempty"`
}

// KeepMapLand says under which land pattern the content's pin map was laid, as the content before it tells; was is nil where there is none.
// swapped is true where this content puts another land pattern under the map.
func (c *Content) KeepMapLand(was *Content) (swapped bool) {
	if c.PinMap == nil || c.LandPattern == nil {
		c.MapLand = ""
		return false
	}
	if was == nil || was.PinMap == nil || was.PinMap.ID != c.PinMap.ID || was.LandPattern == nil {
		if c.MapLand == "" || was != nil && c.MapLand == was.MapLand {
			c.MapLand = c.LandPattern.ID // the map came now, under this one
		}
		return false
	}
	if c.MapLand == "" {
		c.MapLand = was.MapLand
	}
	if c.MapLand == "" { // of before this was kept
		c.MapLand = was.LandPattern.ID
	}
	return was.LandPattern.ID != c.LandPattern.ID && c.MapLand != c.LandPattern.ID
}

// OtherLand is a land pattern beside the default one: for another way of assembly, or another density.
type OtherLand struct {
	For   string `json:"for" maxLength:"60" doc:"What it is for, such as hand assembly"`
	Model Model  `json:"model"`
}

// Attachment is a file of a part beside its datasheets: a simulation model, a list of signals.
type Attachment struct {
	Is   string `json:"is" enum:"simulation,signals,pin list,other"`
	File File   `json:"file"`
}

// Source is one manufacturer part number the part may be bought under.
type Source struct {
	Manufacturer string   `json:"manufacturer"`
	MPN          string   `json:"mpn"`
	Numbers      []Number `json:"numbers,omitempty"`
	// Unlike is what its own record said of identifying parameters otherwise than the part, by key, as it is shown.
	Unlike map[string]string `json:"unlike,omitempty" doc:"Identifying parameters of which its record says another value"`
}

// Number is a supplier's own number for a source.
type Number struct {
	Supplier string `json:"supplier"`
	Number   string `json:"number"`
}

// File names a stored file by its hash.
type File struct {
	Hash string `json:"hash"`
	Name string `json:"name"`
}

// Model names an exact revision of a model: revision 0 is the model's draft, which a release does not accept.
type Model struct {
	ID       string `json:"id"`
	Name     string `json:"name"`
	Revision int    `json:"revision"`
	StandIn  bool   `json:"standIn,omitempty" doc:"A plain block that stands in for the body"`
}

// Models lists the model places of a part with their names; each name is the kind of model that belongs there.
func (c *Content) Models() map[string]*Model {
	return map[string]*Model{"symbol": c.Symbol, "land pattern": c.LandPattern, "body": c.Body, "pin map": c.PinMap}
}

// Check says what is wrong or missing in c under its template. An error keeps the part from being released.
func Check(c Content, t *cabinet.Template) []finding.Finding {
	var out []finding.Finding
	say := func(sev finding.Severity, cause, field, what, mend string) {
		out = append(out, finding.Finding{Severity: sev, Cause: cause, Field: field, What: what, Mend: mend})
	}
	for _, s := range t.Slots {
		v := c.Values[s.Key]
		switch {
		case v.IsBlank() && s.Required:
			say(finding.Error, "required:"+s.Key, s.Key, s.Label+" is required and blank", "fill it in")
		case v.IsBlank():
		default:
			if err := s.OfType(v); err != nil {
				say(finding.Error, "value:"+s.Key, s.Key, err.Error(), "correct the value")
			}
		}
	}
	keys := make([]string, 0, len(c.Values))
	for k := range c.Values {
		keys = append(keys, k)
	}
	sort.Strings(keys)
	for _, k := range keys {
		if !t.Has(k) {
			say(finding.Error, "not-in-template:"+k, k, fmt.Sprintf("%q is not in the template of %s", k, t.Label), "remove the value")
		}
	}
	if _, err := t.Derive(c.Values); err != nil {
		say(finding.Error, "case-codes", t.Case, err.Error(), "correct one of the two case codes")
	}
	if len(c.Sources) == 0 {
		say(finding.Warning, "no-source", "sources", "there is no manufacturer part number", "add a source")
	}
	seen := map[string]bool{}
	for _, s := range c.Sources {
		switch k := s.Key(); {
		case strings.TrimSpace(s.Manufacturer) == "" || strings.TrimSpace(s.MPN) == "":
			say(finding.Error, "source-incomplete", "sources", "a source lacks its manufacturer or its MPN", "fill in both, or remove the source")
		case seen[k]:
			say(finding.Error, "source-twice", "sources", fmt.Sprintf("the source %s %s is named twice", s.Manufacturer, s.MPN), "remove one")
		default:
			seen[k] = true
		}
	}
	for _, what := range c.Unequal(t) {
		say(finding.Warning, "alternate-unlike", "sources", what, "make a part of its own of it, or correct the value")
	}
	switch {
	case len(c.Datasheets) > 0:
	case len(c.Links) > 0:
		say(finding.Note, "datasheet-linked", "datasheets", "the datasheet is only a link: "+c.Links[0], "fetch its file, before the link dies")
	default:
		say(finding.Note, "no-datasheet", "datasheets", "there is no datasheet", "attach one")
	}
	for _, place := range []string{"symbol", "land pattern", "body", "pin map"} {
		switch m := c.Models()[place]; {
		case m == nil && place == "pin map": // the numbers agree, or the check of the pins says that they do not
		case m == nil:
			say(finding.Warning, "no-"+strings.ReplaceAll(place, " ", "-"), place, "there is no "+place, "link a "+place)
		case m.Revision == 0:
			say(finding.Error, "model-unreleased", place, fmt.Sprintf("the %s %q is not released", place, m.Name), "release the model first")
		case m.StandIn:
			say(finding.Warning, "stand-in", place, "a plain block stands in for the body", "replace it with a STEP file")
		}
	}
	for _, o := range c.OtherLands {
		if o.Model.Revision == 0 {
			say(finding.Error, "model-unreleased", "land pattern", fmt.Sprintf("the land pattern %q for %s is not released", o.Model.Name, o.For), "release the model first")
		}
	}
	return out
}

// Key identifies a source: the manufacturer's name and the MPN, both normalised.
func (s Source) Key() string { return NormaliseMaker(s.Manufacturer) + "|" + NormaliseMPN(s.MPN) }

// SourceKeys are the keys of a part's sources, in their order.
func (c *Content) SourceKeys() (out []string) {
	for _, s := range c.Sources {
		out = append(out, s.Key())
	}
	return out
}

// NormaliseMPN keeps letters and digits, in capitals: "ab-12 3/x" and "AB123X" are the same number.
func NormaliseMPN(s string) string {
	return strings.Map(func(r rune) rune {
		if unicode.IsLetter(r) || unicode.IsDigit(r) {
			return unicode.ToUpper(r)
		}
		if r == '+' { // some makers tell packings apart by a trailing plus only
			return r
		}
		return -1
	}, s)
}

var companyWords = map[string]bool{"ltd": true, "limited": true, "gmbh": true, "inc": true, "co": true, "corp": true, "corporation": true,
	"plc": true, "llc": true, "ag": true, "kg": true, "sa": true, "ab": true, "as": true, "oy": true, "bv": true, "srl": true, "company": true, "and": true}

// NormaliseMaker keeps the words of a company's name that tell it apart: case, punctuation and legal forms go.
func NormaliseMaker(s string) string {
	words := strings.FieldsFunc(strings.ToLower(s), func(r rune) bool { return !unicode.IsLetter(r) && !unicode.IsDigit(r) })
	var b strings.Builder
	for i, w := range words {
		if i == 0 || !companyWords[w] {
			b.WriteString(w)
		}
	}
	return b.String()
}

// MaxText is the length in bytes that a value, a name or a number may have.
const MaxText = 2000

// TooLong names the first text that is longer than MaxText, or is "".
func (c *Content) TooLong() string {
	long := func(s string) bool { return len(s) > MaxText }
	if long(c.Description) || long(c.Name) {
		return "description"
	}
	for k, v := range c.Values {
		if long(v.Text) {
			return "values." + k
		}
	}
	for i, s := range c.Sources {
		for _, n := range s.Numbers {
			if long(n.Supplier) || long(n.Number) {
				return fmt.Sprintf("sources[%d].numbers", i)
			}
		}
		if long(s.Manufacturer) || long(s.MPN) || len(s.Numbers) > 100 {
			return fmt.Sprintf("sources[%d]", i)
		}
	}
	for i, d := range c.Datasheets {
		if long(d.Name) {
			return fmt.Sprintf("datasheets[%d]", i)
		}
	}
	for i, l := range c.Links {
		if long(l) || i >= MaxLinks {
			return fmt.Sprintf("datasheetLinks[%d]", i)
		}
	}
	return ""
}

// MaxLinks is how many links to datasheets a part may have.
const MaxLinks = 20

// IsLink says whether a text is an address that a file can be fetched from: an absolute one of http or https (RFC 9110, section 4.2).
func IsLink(text string) bool {
	u, err := url.Parse(text)
	return err == nil && (u.Scheme == "http" || u.Scheme == "https") && u.Host != ""
}

// Fetched puts a file in the place of the link that it was fetched from. It says whether the part has that link.
func (c *Content) Fetched(link string, f File) bool {
	at := slices.Index(c.Links, link)
	if at < 0 {
		return false
	}
	c.Links = slices.Delete(slices.Clone(c.Links), at, at+1)
	if len(c.Links) == 0 {
		c.Links = nil
	}
	if !slices.ContainsFunc(c.Datasheets, func(have File) bool { return have.Hash == f.Hash }) {
		c.Datasheets = append(slices.Clip(c.Datasheets), f)
	}
	return true
}

// Clean trims texts, drops blank values and orders nothing: the order of sources is the house's preference.
func (c *Content) Clean() {
	c.Description, c.Name = strings.TrimSpace(c.Description), strings.TrimSpace(c.Name)
	for k, v := range c.Values {
		if v.IsBlank() || (v.Type != cabinet.Measure && v.Type != cabinet.Number && v.Type != cabinet.YesNo && strings.TrimSpace(v.Text) == "") {
			delete(c.Values, k)
		}
	}
	for i := range c.Sources {
		c.Sources[i].Manufacturer = strings.TrimSpace(c.Sources[i].Manufacturer)
		c.Sources[i].MPN = strings.TrimSpace(c.Sources[i].MPN)
	}
}
