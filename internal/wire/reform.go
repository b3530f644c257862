package wire

import (
	"time"

	"jollydrawer/core/cabinet"
	"jollydrawer/core/part"
)

// CabinetChange changes templates that parts use. The steps come first; the document, where one is given, is the
// cabinet wanted after them.
type CabinetChange struct {
	Steps  []cabinet.Step `json:"steps,omitempty" maxItems:"50"`
	Text   string         `json:"text,omitempty" maxLength:"4000000" doc:"A whole document, YAML or JSON, laid over the outcome of the steps"`
	Note   string         `json:"note,omitempty" maxLength:"500"`
	Digest string         `json:"digest,omitempty" doc:"Of the preview; to be named when the change is made"`
}

// ChangePreview is what a change of templates would do.
type ChangePreview struct {
	Parts      int          `json:"parts" doc:"Parts that would change"`
	Released   int          `json:"released" doc:"Of them, parts that get a new revision"`
	Drafts     int          `json:"drafts" doc:"Of them, parts whose change waits in a draft"`
	Incomplete int          `json:"incomplete" doc:"Parts that would lack a required value and do not now"`
	Losses     []ChangeLoss `json:"losses" doc:"Values that would not carry over; the first 200"`
	LossCount  int          `json:"lossCount"`
	Samples    []PatternOf  `json:"samples" doc:"Some of the parts, before and after"`
	Crosswalks []string     `json:"crosswalks" doc:"Crosswalks that would follow"`
	Also       []string     `json:"also" doc:"What else would name parameters as they are called then, such as 2 saved views"`
	Undoable   bool         `json:"undoable" doc:"No information is lost: the reverse takes it back"`
	Digest     string       `json:"digest"`
	Version    int          `json:"version" doc:"Of the cabinet the preview was made for"`
}

// ChangeLoss is one value that would not carry over.
type ChangeLoss struct {
	Number string `json:"number"`
	part.Loss
}

// Changed is what a change of templates did.
type Changed struct {
	Revision int `json:"revision" doc:"Of the cabinet"`
	Parts    int `json:"parts"`
	Released int `json:"released"`
	Drafts   int `json:"drafts"`
}

// CabinetRevision is one entry of the cabinet's history.
type CabinetRevision struct {
	Revision int            `json:"revision"`
	At       time.Time      `json:"at"`
	By       string         `json:"by"`
	Note     string         `json:"note"`
	Parts    int            `json:"parts"`
	Steps    []cabinet.Step `json:"steps"`
	Reverse  []cabinet.Step `json:"reverse" doc:"Steps that take it back; empty where information was lost or nothing was stepped"`
}

// CabinetHistory lists changes, newest first.
type CabinetHistory struct {
	Items []CabinetRevision `json:"items"`
}
