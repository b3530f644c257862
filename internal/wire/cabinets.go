package wire

import (
	"jollydrawer/core/cabinet"
)

// Cabinet is the cabinet in force.
type Cabinet struct {
	Revision int              `json:"revision"`
	Version  int              `json:"version" doc:"To be named when a changed document is applied"`
	Document cabinet.Document `json:"document"`
	Drawers  []Drawer         `json:"drawers"`
}

// Drawer is a drawer with its whole template.
type Drawer struct {
	Key         string         `json:"key"`
	Label       string         `json:"label"`
	Path        []string       `json:"path" doc:"Keys from the outermost drawer to this one"`
	Leaf        bool           `json:"leaf" doc:"Only leaves hold parts"`
	Prefix      string         `json:"prefix"`
	Digits      int            `json:"digits"`
	Designator  string         `json:"designator"`
	Leading     string         `json:"leading"`
	Description string         `json:"description" doc:"Pattern of the description"`
	Identity    []string       `json:"identity"`
	Class       string         `json:"class"`
	Lifecycle   string         `json:"lifecycle,omitempty" doc:"By which its parts live; blank: that of all parts"`
	Name        string         `json:"name" doc:"Pattern of a part's name"`
	Case        string         `json:"case"`
	Search      []string       `json:"search"`
	Drawing     []string       `json:"drawing"`
	Designer    []string       `json:"designer"`
	Columns     []string       `json:"columns"`
	Models      cabinet.Models `json:"models"`
	Slots       []Slot         `json:"slots"`
	Parts       int            `json:"parts" doc:"How many parts are in it"`
}

// Slot is one parameter of a template.
type Slot struct {
	Key       string   `json:"key"`
	Label     string   `json:"label"`
	Type      string   `json:"type"`
	Of        string   `json:"of,omitempty"`
	Unit      string   `json:"unit,omitempty" doc:"UCUM code of the base unit"`
	Required  bool     `json:"required"`
	ByHand    bool     `json:"byHand"`
	From      string   `json:"from" doc:"The drawer that brought it in"`
	Inherited bool     `json:"inherited"`
	Choices   []string `json:"choices"`
	Help      string   `json:"help,omitempty"`
	Default   string   `json:"default,omitempty"`
	Show      string   `json:"show,omitempty"`
	Better    string   `json:"better,omitempty"`
	Narrowed  string   `json:"narrowed,omitempty" doc:"The drawer that said more about it"`
	Synonyms  []string `json:"synonyms"`
}

// DrawerUse is how a drawer is used: how complete its parts are, and what names it.
type DrawerUse struct {
	Key        string      `json:"key"`
	Parts      int         `json:"parts"`
	Incomplete int         `json:"incomplete" doc:"Parts that lack a required value"`
	Filled     []SlotUse   `json:"filled" doc:"In the template's order"`
	Crosswalks []string    `json:"crosswalks" doc:"Suppliers whose crosswalk sorts into it or fills it"`
	Samples    []PatternOf `json:"samples" doc:"Names and descriptions of real parts by the patterns in force"`
}

// SlotUse is how many parts have a value that was read.
type SlotUse struct {
	Key      string `json:"key"`
	Label    string `json:"label"`
	Required bool   `json:"required"`
	Parts    int    `json:"parts"`
}

// PatternOf shows what patterns make of one part.
type PatternOf struct {
	Number      string `json:"number"`
	Name        string `json:"name"`
	Description string `json:"description"`
	Was         string `json:"was" doc:"The description it has"`
}

// PatternTry asks what patterns would make of real parts.
type PatternTry struct {
	Description string `json:"description,omitempty" maxLength:"1000"`
	Name        string `json:"name,omitempty" maxLength:"1000"`
}
