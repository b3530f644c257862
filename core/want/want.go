// Package want holds what somebody needs and the library lacks: facts as they would be looked up, a maker's number, a link, a file;
// for which board, by when, how many. Whether the library has it after all, and who settles it, is left to others.
package want

import (
	"errors"
	"fmt"
	"net/url"
	"slices"
	"strings"
	"time"
	"unicode/utf8"

	"jollydrawer/core/part"
)

// Format names the form that wants are kept in.
const Format = "jolly-want/1"

// State says how far a want is.
type State string

// The states.
const (
	Open     State = "open"
	TakenOn  State = "taken on" // somebody is at it
	Answered State = "answered" // a part is named
	Declined State = "declined"
)

// States lists the states in the order of a want's life.
var States = []State{Open, TakenOn, Answered, Declined}

// Content is what somebody wants.
type Content struct {
	Facts        string     `json:"facts,omitempty"` // as they would be typed into the search box
	Manufacturer string     `json:"manufacturer,omitempty"`
	MPN          string     `json:"mpn,omitempty"`
	Link         string     `json:"link,omitempty"`
	File         *part.File `json:"file,omitempty"`
	Board        string     `json:"board,omitempty"`
	By           string     `json:"by,omitempty"` // a day, as 2006-01-02
	Quantity     int        `json:"quantity,omitempty"`
	Note         string     `json:"note,omitempty"`
}

// Tidy removes blanks around what was typed.
func (c *Content) Tidy() {
	for _, s := range []*string{&c.Facts, &c.Manufacturer, &c.MPN, &c.Link, &c.Board, &c.By, &c.Note} {
		*s = strings.Join(strings.Fields(*s), " ")
	}
}

// Check says what is wrong with a want: it must name something, and its day and its link must be such.
func (c Content) Check() error {
	switch {
	case c.Facts == "" && c.MPN == "" && c.Link == "" && c.File == nil:
		return errors.New("it says nothing of what is wanted: give facts, a maker's number, a link or a file")
	case c.Manufacturer != "" && c.MPN == "":
		return fmt.Errorf("it names the manufacturer %s and no number: give the number, or put the name into the facts", c.Manufacturer)
	case c.Quantity < 0 || c.Quantity > 1e9:
		return fmt.Errorf("%d is no quantity", c.Quantity)
	}
	for _, x := range []struct {
		what, text string
		most       int
	}{{"facts", c.Facts, 500}, {"manufacturer", c.Manufacturer, 200}, {"maker's number", c.MPN, 200}, {"link", c.Link, 2000}, {"board", c.Board, 200}, {"note", c.Note, 5000}} {
		if n := utf8.RuneCountInString(x.text); n > x.most {
			return fmt.Errorf("what it says as %s has %d letters, and %d are kept at most: shorten it", x.what, n, x.most)
		}
	}
	if c.By != "" {
		if _, err := time.Parse(time.DateOnly, c.By); err != nil {
			return fmt.Errorf("%q is no day: write it as 2031-04-30", c.By)
		}
	}
	if c.Link != "" {
		u, err := url.Parse(c.Link)
		if err != nil || u.Scheme != "https" && u.Scheme != "http" || u.Host == "" {
			return fmt.Errorf("%q is no link: it begins with https://", c.Link)
		}
	}
	return nil
}

// String says in a line what is wanted.
func (c Content) String() string {
	var s []string
	for _, x := range []string{c.Facts, strings.TrimSpace(c.Manufacturer + " " + c.MPN)} {
		if x != "" {
			s = append(s, x)
		}
	}
	if len(s) == 0 && c.Link != "" {
		s = append(s, c.Link)
	}
	if len(s) == 0 && c.File != nil {
		s = append(s, c.File.Name)
	}
	return strings.Join(s, ", ")
}

// Same says why two wants ask for one thing; blank where they do not. factsA and factsB are their facts as a search understands them,
// so that "4k7 1%" and "1 % 4.7k" are the same. Two different numbers of makers are never one thing, whatever else agrees.
func Same(a, b Content, factsA, factsB []string) string {
	if a.MPN != "" && b.MPN != "" {
		makers := part.NormaliseMaker(a.Manufacturer) == part.NormaliseMaker(b.Manufacturer) || a.Manufacturer == "" || b.Manufacturer == ""
		if part.NormaliseMPN(a.MPN) == part.NormaliseMPN(b.MPN) && makers {
			return "the same maker's number"
		}
		return ""
	}
	if a.Link != "" && a.Link == b.Link {
		return "the same link"
	}
	sorted := func(all []string) []string {
		out := slices.Clone(all)
		slices.Sort(out)
		return slices.Compact(out)
	}
	if x, y := sorted(factsA), sorted(factsB); len(x) > 0 && slices.Equal(x, y) {
		return "the same facts"
	}
	return ""
}

// Allowed says whether a want in one state may come into another.
func Allowed(from, to State) bool {
	switch to {
	case TakenOn:
		return from == Open
	case Open: // let go of, or not what was meant
		return from != Open
	case Answered, Declined:
		return from == Open || from == TakenOn
	}
	return false
}
