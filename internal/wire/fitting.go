package wire

import (
	"jollydrawer/core/finding"
	"jollydrawer/core/model"
)

// PinsOnPads is what lies between a part's symbol and its land pattern.
type PinsOnPads struct {
	Part     string            `json:"part"`
	Version  int               `json:"version"`
	Symbol   *ModelRef         `json:"symbol,omitempty"`
	Land     *ModelRef         `json:"landPattern,omitempty"`
	Map      *ModelRef         `json:"map,omitempty" doc:"Blank where pins go to the pads of their own number"`
	Rows     []PinRow          `json:"rows"`
	Free     []string          `json:"free" doc:"Pads marked as free"`
	Bare     []string          `json:"bare" doc:"Pads that no pin goes to"`
	Findings []finding.Finding `json:"findings"`
	Fit      model.Sitting     `json:"fit" doc:"How the body sits on the land pattern"`
}

// PinRow is a pin with its pads and what an independent list says of it.
type PinRow struct {
	Pin    string   `json:"pin"`
	Name   string   `json:"name"`
	Type   string   `json:"type"`
	Pads   []string `json:"pads"`
	NoPad  bool     `json:"noPad,omitempty" doc:"Has no pad on purpose"`
	Listed string   `json:"listed,omitempty" doc:"Name in the attached pin list"`
	What   string   `json:"what,omitempty" doc:"How the list differs"`
}

// MapPins gives a part a pin map: one made from these pairs, released under a name, or none.
type MapPins struct {
	Map  model.PinMap `json:"map"`
	Name string       `json:"name,omitempty" maxLength:"100" doc:"Blank: symbol on land pattern"`
	Same bool         `json:"same,omitempty" doc:"Go back to pins on pads of their own number"`
	Note string       `json:"note,omitempty" maxLength:"2000" doc:"Release note; blank leaves the map a draft"`
}

// PlaceBody corrects how a body sits: in the body's own document, or for one land pattern only.
type PlaceBody struct {
	Place    model.Placement `json:"place"`
	OnlyHere bool            `json:"onlyHere,omitempty" doc:"Write it to the land pattern, for bodies of this name"`
	Note     string          `json:"note,omitempty" maxLength:"2000" doc:"Release note; blank leaves a draft"`
}

// ChooseLand changes which land patterns a part has: the default one, and those beside it for another assembly or density.
type ChooseLand struct {
	Do       string `json:"do" enum:"add,default,remove" doc:"add: beside the default; default: in its place, which comes beside it; remove: of those beside it"`
	Model    string `json:"model" minLength:"1" maxLength:"100" doc:"ID or name of a land pattern"`
	Revision int    `json:"revision,omitempty" minimum:"0" doc:"add: the newest where it is not given"`
	For      string `json:"for,omitempty" maxLength:"60" doc:"add: what it is for; default: what the present default is for from now on; its density where that is said"`
}
