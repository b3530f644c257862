package wire

import (
	"time"

	"jollydrawer/core/model"
	"jollydrawer/core/part"
)

// NewDelivery brings in files that were uploaded, for a part or without one.
type NewDelivery struct {
	Name  string      `json:"name,omitempty" maxLength:"120"`
	Part  string      `json:"part,omitempty" maxLength:"64" doc:"Number of the part it is for"`
	Files []part.File `json:"files" minItems:"1" maxItems:"200"`
}

// Delivery is what was handed over together.
type Delivery struct {
	ID      string           `json:"id"`
	Number  string           `json:"number"`
	Version int              `json:"version"`
	Name    string           `json:"name"`
	Part    string           `json:"part,omitempty"`
	Updated time.Time        `json:"updated"`
	Files   []DeliveredFile  `json:"files"`
	Models  []DeliveredModel `json:"models" doc:"The first thousand"`
	Count   int              `json:"count" doc:"How many models there are"`
	// PinLists are to be laid beside symbols: one for each component or package that a file lists.
	PinLists []DeliveredPins `json:"pinLists"`
}

// DeliveredPins is a pin list of a delivery.
type DeliveredPins struct {
	Path string            `json:"path"`
	Name string            `json:"name" doc:"Of the component or package; blank where the file has one only"`
	Pins []model.ListedPin `json:"pins"`
}

// DeliveredFile is one file of a delivery and what it became.
type DeliveredFile struct {
	Path  string   `json:"path"`
	Hash  string   `json:"hash"`
	Is    string   `json:"is"`
	What  string   `json:"what"`
	Wrong []string `json:"wrong" doc:"Models of it that were not read, and why; the first 500"`
	Said  []string `json:"said" doc:"What of it was not carried over, or taken in a way that should be known; the first 500"`
}

// DeliveredModel is one model of a delivery beside what the library has.
type DeliveredModel struct {
	Key      string         `json:"key" doc:"Names it within the delivery"`
	Path     string         `json:"path"`
	Kind     string         `json:"kind"`
	Name     string         `json:"name"`
	House    string         `json:"house,omitempty" doc:"The house's name for it, by the pattern of the part's drawer"`
	What     string         `json:"what"`
	Used     *ModelRef      `json:"used,omitempty" doc:"What it became in the library"`
	Twin     string         `json:"twin,omitempty" doc:"Key of an earlier model of this delivery that is the same"`
	Asked    string         `json:"asked,omitempty" doc:"What somebody has to say of it first, in words"`
	Same     []ModelRef     `json:"same" doc:"Models of the library that are the same or nearly the same; the best first"`
	Named    *ModelRef      `json:"named,omitempty" doc:"A model of the library that has its name and another drawing"`
	Findings []ModelFinding `json:"findings"`
	Fit      model.Sitting  `json:"fit" doc:"Of a body: how it sits on the land pattern it came with, or on that of the part that it is for"`
}

// DeliveryList is a page of deliveries.
type DeliveryList struct {
	Page  Page       `json:"page"`
	Items []Delivery `json:"items"`
}

// UseDelivery takes models out of a delivery and links them to a part.
type UseDelivery struct {
	Part   string      `json:"part,omitempty" maxLength:"64" doc:"Blank: the models are only added to the library"`
	Models []UsedModel `json:"models" maxItems:"1000"`
	Files  []string    `json:"files,omitempty" maxItems:"100" doc:"Paths of datasheets and other files to attach to the part"`
	Note   string      `json:"note,omitempty" maxLength:"2000" doc:"Release note of the new models; blank leaves them drafts"`
}

// UsedModel says what becomes of one model of a delivery.
type UsedModel struct {
	Key     string           `json:"key"`
	Reuse   string           `json:"reuse,omitempty" doc:"ID of the library's model to use instead"`
	Name    string           `json:"name,omitempty" maxLength:"100" doc:"The house's name for it; blank keeps its own"`
	Correct *model.Placement `json:"correct,omitempty" doc:"Of a body: its place"`
}

// LibraryIntake makes an intake of a delivery that is a library of many.
type LibraryIntake struct {
	Supplier string `json:"supplier" minLength:"1" maxLength:"80" doc:"Whose crosswalk is used"`
	Note     string `json:"note" minLength:"1" maxLength:"2000" doc:"Release note of the drawings that are added"`
}
