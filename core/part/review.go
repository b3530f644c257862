package part

import (
	"fmt"
	"slices"
	"strings"

	"jollydrawer/core/cabinet"
	"jollydrawer/core/document"
	"jollydrawer/core/lifecycle"
)

// ReviewItems is the review list of a part: every parameter of its template that has a value or must have one, its sources, its
// models, and what is written about it. What is the same has the same hash, whatever part it is of.
func ReviewItems(c Content, t *cabinet.Template) ([]lifecycle.Item, error) {
	var list lifecycle.List
	add := list.Add
	if t != nil {
		for _, s := range t.Slots {
			if v := c.Values[s.Key]; !v.IsBlank() || s.Required {
				add("values."+s.Key, s.Label, s.Shown(v), v)
			}
		}
	}
	for _, s := range c.Sources {
		add("source."+short(s.Key()), "Source", s.Manufacturer+" "+s.MPN, []string{s.Manufacturer, s.MPN})
	}
	for _, place := range []string{"symbol", "land pattern", "body", "pin map"} {
		if m := c.Models()[place]; m != nil {
			add("model."+place, upper(place), fmt.Sprintf("%s, revision %d", m.Name, m.Revision), []any{m.ID, m.Revision})
		}
	}
	for _, o := range c.OtherLands {
		add("land."+short(o.For), "Land pattern for "+o.For, fmt.Sprintf("%s, revision %d", o.Model.Name, o.Model.Revision), []any{o.Model.ID, o.Model.Revision})
	}
	add("description", "Description", c.Description, c.Description)
	return list.Items()
}

// short is what a key of an item has room for.
func short(s string) string {
	if len(s) > 100 {
		_, hash, err := document.Canonical(s)
		if err != nil {
			panic(err) // a text is always canonical
		}
		return hash.String()
	}
	return s
}

func upper(s string) string { return string(s[0]-'a'+'A') + s[1:] }

// Major says what a changed field of a part is, by its path (core/document), where it makes another part of it: the drawer, a
// parameter that tells the drawer's parts apart, a model, a pin map. Another source, a file or a description does not; then it is blank.
func Major(path string, identity []string) string {
	field, rest, _ := strings.Cut(path, ".")
	switch field {
	case "drawer":
		return "the drawer"
	case "symbol":
		return "the symbol"
	case "landPattern", "otherLandPatterns":
		return "the land pattern"
	case "body":
		return "the body"
	case "pinMap":
		return "the pin map"
	case "values":
		if key, _, _ := strings.Cut(rest, "."); slices.Contains(identity, key) {
			return key
		}
	}
	return ""
}
