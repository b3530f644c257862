package wire

import "time"

// CrosswalkEdit is a crosswalk that is to be applied.
type CrosswalkEdit struct {
	Text        string `json:"text" minLength:"1" maxLength:"4000000" doc:"The document as YAML"`
	EvenSettled bool   `json:"evenSettled,omitempty" doc:"Also where it changes rows of open intakes that somebody settled"`
}

// CrosswalkTried is what a crosswalk would change in the intakes that are open.
type CrosswalkTried struct {
	Number  string             `json:"number" doc:"Of the crosswalk"`
	Intakes []CrosswalkTouches `json:"intakes" doc:"Those of which some row would change"`
}

// CrosswalkTouches is what a crosswalk would change in one intake.
type CrosswalkTouches struct {
	ID       string      `json:"id"`
	Number   string      `json:"number"`
	FileName string      `json:"fileName"`
	Tried    IntakeTried `json:"tried"`
}

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
