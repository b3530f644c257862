package wire

import "time"

// Crosswalk is the crosswalk of one layout of a supplier's files.
type Crosswalk struct {
	ID       string    `json:"id"`
	Number   string    `json:"number" doc:"Its name among all: the supplier, and the layout where that is not the first"`
	Supplier string    `json:"supplier"`
	Layout   string    `json:"layout,omitempty"`
	Revision int       `json:"revision"`
	Version  int       `json:"version"`
	Updated  time.Time `json:"updated"`
	Text     string    `json:"text" doc:"The document as YAML"`
}

// CrosswalkList lists crosswalks.
type CrosswalkList struct {
	Page  Page        `json:"page"`
	Items []Crosswalk `json:"items"`
}
