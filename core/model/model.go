// Package model holds what a symbol, land pattern or body is to the library: a name, a kind and its file. Reading
// the geometry inside the files comes on top of this content.
package model

import (
	"fmt"
	"strings"
)

// Kind is the kind of a model.
type Kind string

// The kinds.
const (
	Symbol      Kind = "symbol"
	LandPattern Kind = "land pattern"
	Body        Kind = "body"
)

// Kinds lists the kinds.
var Kinds = []Kind{Symbol, LandPattern, Body}

// Content is what a revision of a model freezes.
type Content struct {
	Kind     Kind   `json:"kind"`
	Name     string `json:"name"`
	FileHash string `json:"fileHash,omitempty"`
	FileName string `json:"fileName,omitempty"`
	Note     string `json:"note,omitempty"`
}

// Check says why c cannot be kept.
func (c Content) Check() error {
	if strings.TrimSpace(c.Name) == "" || len(c.Name) > 100 {
		return fmt.Errorf("a model needs a name of at most 100 characters")
	}
	for _, k := range Kinds {
		if c.Kind == k {
			return nil
		}
	}
	return fmt.Errorf("%q is no kind of model: use symbol, land pattern or body", c.Kind)
}
