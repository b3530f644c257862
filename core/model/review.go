package model

import (
	"fmt"
	"slices"
	"strings"

	"jollydrawer/core/lifecycle"
)

// ReviewItems is the review list of a model: what of it is laid beside the datasheet. Each has a hash of just what it is about, so
// that a symbol whose pins were moved need not have their names read again.
func ReviewItems(c *Content) ([]lifecycle.Item, error) {
	var list lifecycle.List
	add := list.Add
	if s := c.Symbol; s != nil {
		var names, types, places []any
		var texts, kinds []string
		seen := map[string]int{}
		for _, p := range s.Pins {
			names, types = append(names, []any{p.Number, p.Name, p.Unit}), append(types, []any{p.Number, p.Type})
			places = append(places, []any{p.Number, p.At, p.Runs, p.Length, p.Hidden})
			texts = append(texts, strings.TrimSpace(p.Number+" "+p.Name))
			if seen[p.Type]++; seen[p.Type] == 1 {
				kinds = append(kinds, p.Type)
			}
		}
		for i, k := range kinds {
			kinds[i] = fmt.Sprintf("%d %s", seen[k], k)
		}
		add("pins", "Numbers and names of the pins", few(texts), names)
		add("types", "Types of the pins", strings.Join(kinds, ", "), types)
		add("drawing", "Drawing", fmt.Sprintf("%d pins and %d shapes", len(s.Pins), len(s.Shapes)), []any{places, s.Shapes, s.Units})
	}
	if l := c.Land; l != nil {
		var numbers, copper []any
		var texts []string
		holes := 0
		for _, p := range l.Pads {
			numbers = append(numbers, []any{p.Number, p.At, p.Bottom})
			rest := p
			rest.Number, rest.At = "", Point{}
			copper = append(copper, rest)
			if p.Number != "" {
				texts = append(texts, p.Number)
			}
			if p.Hole > 0 {
				holes++
			}
		}
		add("pads", "Numbers and places of the pads", few(texts), numbers)
		add("copper", "Copper, holes, mask and paste", fmt.Sprintf("%d pads, %d of them with a hole", len(l.Pads), holes), copper)
		add("outlines", "Outlines and marks", fmt.Sprintf("%d shapes", len(l.Shapes)), []any{l.Shapes, l.Bodies})
	}
	if b := c.Body; b != nil {
		text := "a body from its file"
		if b.StandIn {
			text = "a plain block that stands in"
		}
		add("size", "Size", text, []any{b.Box, b.Unit, b.StandIn, c.FileHash})
		add("place", "Place on the pads", "turned and moved as drawn", b.Place)
	}
	if m := c.PinMap; m != nil {
		var texts []string
		for _, p := range m.Pairs {
			texts = append(texts, p.Pin+"="+strings.Join(p.Pads, "+"))
		}
		add("pairs", "Which pin goes to which pad", few(texts), m)
	}
	if !c.Drawn() {
		add("file", "File", c.FileName, c.FileHash)
	}
	return list.Items()
}

// ReviewChange is an item of the review lists of two contents in which they differ. What one of them has not is blank on its side.
type ReviewChange struct {
	Label string `json:"label"`
	From  string `json:"from"`
	To    string `json:"to"`
}

// ReviewChanges lists what a reviewer would have to look at again when the first content becomes the second. Where both read alike in
// words, such as two outlines of as many shapes, To says that they are drawn otherwise.
func ReviewChanges(from, to *Content) ([]ReviewChange, error) {
	was, err := ReviewItems(from)
	if err != nil {
		return nil, err
	}
	now, err := ReviewItems(to)
	if err != nil {
		return nil, err
	}
	out := []ReviewChange{}
	for _, w := range was {
		d := ReviewChange{Label: w.Label, From: w.Text}
		same := false
		for _, n := range now {
			if n.Key == w.Key {
				d.To, same = n.Text, n.Value == w.Value
				if !same && d.To == d.From {
					d.To += ", otherwise"
				}
			}
		}
		if !same {
			out = append(out, d)
		}
	}
	for _, n := range now {
		if !slices.ContainsFunc(was, func(w lifecycle.Item) bool { return w.Key == n.Key }) {
			out = append(out, ReviewChange{Label: n.Label, To: n.Text})
		}
	}
	return out, nil
}

// few joins the first texts of many.
func few(texts []string) string {
	const most = 12
	if len(texts) > most {
		return fmt.Sprintf("%s … (%d)", strings.Join(texts[:most], ", "), len(texts))
	}
	return strings.Join(texts, ", ")
}

// Major says what a changed field of a model is, by its path (core/document), where it makes another model of it: copper, holes, pins,
// their types, a size, a pin map. A name, a note, a drawing's lines or where a pin is drawn do not; then it is blank.
func Major(path string) string {
	field, rest, _ := strings.Cut(path, ".")
	switch field {
	case "symbol":
		if strings.HasPrefix(rest, "pins.") {
			for _, what := range []string{"number", "name", "type", "unit"} {
				if strings.HasSuffix(rest, "."+what) {
					return "the pins"
				}
			}
		}
	case "landPattern":
		if strings.HasPrefix(rest, "pads.") || rest == "mounting" {
			return "the pads"
		}
	case "body":
		return "the body"
	case "pinMap":
		return "the pin map"
	case "fileHash":
		return ""
	}
	return ""
}
