package wire

import (
	"jollydrawer/core/intake"
	"jollydrawer/core/part"
)

// ReadPart asks what a text, or a record of a file loaded before, says of one part.
type ReadPart struct {
	Text     string `json:"text,omitempty" maxLength:"100000" doc:"As pasted"`
	Drawer   string `json:"drawer,omitempty" doc:"Where the person knows better than the text"`
	Supplier string `json:"supplier,omitempty" maxLength:"120" doc:"Whose crosswalk the field names follow"`
	Intake   string `json:"intake,omitempty" doc:"Identifier of an intake, with row, instead of a text"`
	Row      int    `json:"row,omitempty"`
	Beside   string `json:"beside,omitempty" doc:"A part to lay it beside"`
}

// PartRead is what was read, ready to be saved as a draft.
type PartRead struct {
	intake.Pasted
	Label  string    `json:"label,omitempty" doc:"Of the drawer"`
	Same   []PartRow `json:"same" doc:"Parts that have the same manufacturer part number"`
	Alike  []PartRow `json:"alike" doc:"Parts that are equal in every identifying parameter"`
	Beside []LaidOut `json:"beside" doc:"Parameter by parameter beside the part that was named"`
	Equal  bool      `json:"equal" doc:"Equal to that part in every identifying parameter"`
	Differ []string  `json:"differ" doc:"Identifying parameters in which the two differ"`
	From   string    `json:"from,omitempty" doc:"The file and row it came from"`
}

// LaidOut is one parameter of two parts side by side.
type LaidOut struct {
	Key   string `json:"key"`
	Label string `json:"label"`
	Have  string `json:"have"`
	Offer string `json:"offer"`
	State string `json:"state" enum:"same,missing,differs,only here"`
}

// Record is a row of a file loaded before that has a number that was asked for.
type Record struct {
	Intake      string      `json:"intake"`
	Number      string      `json:"number"`
	Supplier    string      `json:"supplier"`
	File        string      `json:"file"`
	Row         int         `json:"row"`
	Drawer      string      `json:"drawer,omitempty"`
	Description string      `json:"description,omitempty"`
	Source      part.Source `json:"source"`
}

// RecordList lists records.
type RecordList struct {
	Items []Record `json:"items"`
}
