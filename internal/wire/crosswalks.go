package wire

import "time"

// Crosswalk is one supplier's crosswalk.
type Crosswalk struct {
	ID       string    `json:"id"`
	Supplier string    `json:"supplier"`
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
