// Package origin says where a value came from. An Origin travels beside every value of a part, outside the hashed
// content, so that the same data from another file is still the same data.
package origin

import (
	"fmt"
	"time"
)

// Origin is the place a value came from: a row and field of a file, or a person's hand.
type Origin struct {
	File    string `json:"file,omitempty"` // SHA-256 of the file, hexadecimal
	Name    string `json:"name,omitempty"` // the file's name as it was uploaded
	Row     int    `json:"row,omitempty"`  // row in the file, from 1, the header counted
	Field   string `json:"field,omitempty"`
	Written string `json:"written,omitempty"` // the text as it was received
	Rule    string `json:"rule,omitempty"`    // what was done to it on the way
	Person  string `json:"person,omitempty"`  // who typed it; where a file is named, who wrote it instead of what came

	Came string    `json:"came,omitempty"` // what the file said, where a person wrote something else
	At   time.Time `json:"at,omitzero"`    // when they did
	Why  string    `json:"why,omitempty"`  // and why
}

// String names the place in a few words.
func (o Origin) String() string {
	if o.File == "" && o.Person == "" {
		return o.Rule
	}
	if o.File == "" && o.Rule != "" {
		return o.Rule + "; taken over by " + o.Person
	}
	if o.File == "" {
		return "typed by " + o.Person
	}
	place := fmt.Sprintf("%s, row %d, field %q", o.Name, o.Row, o.Field)
	if o.Person != "" {
		place += ", " + o.Correction()
	}
	return place
}

// Correction says what the file said and who wrote something else, when and why; blank where nobody did.
func (o Origin) Correction() string {
	if o.Person == "" || o.File == "" {
		return ""
	}
	said := fmt.Sprintf("which said %q", o.Came)
	if o.Came == "" {
		said = "which was blank"
	}
	out := fmt.Sprintf("%s; %s wrote %q", said, o.Person, o.Written)
	if !o.At.IsZero() {
		out += " on " + o.At.UTC().Format(time.DateOnly)
	}
	if o.Why != "" {
		out += ": " + o.Why
	}
	return out
}
