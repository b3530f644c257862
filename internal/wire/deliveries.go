package wire

import (
	"time"

	"jollydrawer/core/finding"
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
	ID      string            `json:"id"`
	Number  string            `json:"number"`
	Version int               `json:"version"`
	Name    string            `json:"name"`
	Part    string            `json:"part,omitempty"`
	Updated time.Time         `json:"updated"`
	Files   []DeliveredFile   `json:"files"`
	Models  []DeliveredModel  `json:"models" doc:"The first thousand"`
	Count   int               `json:"count" doc:"How many models there are"`
	Pins    []model.ListedPin `json:"pins,omitempty" doc:"The first pin list, to lay beside a symbol"`
}

// DeliveredFile is one file of a delivery and what it became.
type DeliveredFile struct {
	Path  string   `json:"path"`
	Hash  string   `json:"hash"`
	Is    string   `json:"is"`
	What  string   `json:"what"`
	Wrong []string `json:"wrong"`
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
	Same     []ModelRef     `json:"same" doc:"Models of the library that draw the same or nearly the same; the best first"`
	Named    *ModelRef      `json:"named,omitempty" doc:"A model of the library that has its name and another drawing"`
	Findings []ModelFinding `json:"findings"`
	Fit      []Correction   `json:"fit" doc:"Of a body: how it sits wrong on the land pattern it came with"`
}

// Correction is a body's wrong place with the one that mends it.
type Correction struct {
	finding.Finding
	Place model.Placement `json:"place"`
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
