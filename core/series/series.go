// Package series holds what a series is: one manufacturer's parts under one datasheet. It says which parts of a library look as though they
// were of one series; keeping them, and who may, is left to others.
package series

import (
	"errors"
	"fmt"
	"slices"
	"strings"

	"jollydrawer/core/part"
)

// Format names the form that series are stored in.
const Format = "jolly-series/1"

// Bounds of a series.
const (
	MaxMembers    = 5000
	MaxDatasheets = 20
)

// Content is one series. Members are manufacturer part numbers as they are written, whether or not the library has them: a part that comes
// later with one of them is of the series. A part that has another source beside is of the series all the same.
type Content struct {
	Manufacturer string      `json:"manufacturer" minLength:"1" maxLength:"100"`
	Name         string      `json:"name" minLength:"1" maxLength:"80" doc:"As the manufacturer calls it, without the word series"`
	Members      []string    `json:"members" maxItems:"5000" doc:"Manufacturer part numbers"`
	Datasheets   []part.File `json:"datasheets" maxItems:"20"`
	Note         string      `json:"note,omitempty" maxLength:"2000"`
}

// Number names the series among all.
func (c *Content) Number() string { return c.Manufacturer + ": " + c.Name }

// Tidy trims texts and puts the members in order, each once however it is written.
func (c *Content) Tidy() {
	c.Manufacturer, c.Name, c.Note = strings.Join(strings.Fields(c.Manufacturer), " "), strings.Join(strings.Fields(c.Name), " "), strings.TrimSpace(c.Note)
	for _, word := range []string{" series", " Series", " SERIES"} {
		c.Name = strings.TrimSuffix(c.Name, word)
	}
	for i := range c.Members {
		c.Members[i] = strings.TrimSpace(c.Members[i])
	}
	slices.Sort(c.Members)
	seen := map[string]bool{}
	c.Members = slices.DeleteFunc(c.Members, func(m string) bool {
		n := part.NormaliseMPN(m)
		twice := n == "" || seen[n]
		seen[n] = true
		return twice
	})
	if c.Members == nil {
		c.Members = []string{}
	}
	var sheets []part.File
	for _, f := range c.Datasheets {
		if !slices.ContainsFunc(sheets, func(o part.File) bool { return o.Hash == f.Hash }) {
			sheets = append(sheets, f)
		}
	}
	if c.Datasheets = sheets; sheets == nil {
		c.Datasheets = []part.File{}
	}
}

// Check says what is wrong with a series, in words for people.
func (c *Content) Check() error {
	switch {
	case part.NormaliseMaker(c.Manufacturer) == "":
		return errors.New("a series is one manufacturer's: name it")
	case part.NormaliseMPN(c.Name) == "":
		return errors.New("a series has a name of letters or digits")
	case len(c.Number()) > 120:
		return errors.New("manufacturer and name are longer than 118 bytes together")
	case len(c.Members) > MaxMembers:
		return fmt.Errorf("a series has at most %d members", MaxMembers)
	case len(c.Datasheets) > MaxDatasheets:
		return fmt.Errorf("a series has at most %d datasheets", MaxDatasheets)
	}
	for _, m := range c.Members {
		if len(m) > 200 {
			return fmt.Errorf("the part number %.40q… is longer than 200 bytes", m)
		}
	}
	return nil
}

// Keys are the source keys of the members (part.Source.Key).
func (c *Content) Keys() []string {
	out := make([]string, 0, len(c.Members))
	for _, m := range c.Members {
		out = append(out, part.Source{Manufacturer: c.Manufacturer, MPN: m}.Key())
	}
	return out
}
