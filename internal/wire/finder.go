package wire

import (
	"time"

	"jollydrawer/core/lookup"
)

// PartList is a page of parts.
type PartList struct {
	Page    Page                `json:"page"`
	Hidden  int                 `json:"hidden" doc:"Parts that fit the words but not the filters"`
	Facts   []lookup.Fact       `json:"facts" doc:"How each fact was read"`
	Relax   []lookup.Relaxation `json:"relax" doc:"Where nothing fits: what leaving a fact out would give"`
	Drawers map[string]int      `json:"drawers" doc:"Counts by drawer under the other filters"`
	Facets  []lookup.Facet      `json:"facets"`
	Groups  []lookup.FacetValue `json:"groups" doc:"Of the group column, in order"`
	Items   []PartRow           `json:"items"`
}

// View is a saved view: the part of the address behind the question mark.
type View struct {
	ID     string    `json:"id"`
	Name   string    `json:"name"`
	Drawer string    `json:"drawer"`
	Query  string    `json:"query"`
	Shared bool      `json:"shared"`
	Own    bool      `json:"own"`
	By     string    `json:"by"`
	At     time.Time `json:"at"`
}

// ViewEdit saves a view.
type ViewEdit struct {
	Name   string `json:"name" minLength:"1" maxLength:"80"`
	Drawer string `json:"drawer,omitempty" maxLength:"48"`
	Query  string `json:"query" maxLength:"8000"`
	Shared bool   `json:"shared,omitempty"`
}

// ViewList lists views.
type ViewList struct {
	Items []View `json:"items"`
}

// Comparison lays parts side by side.
type Comparison struct {
	Parts []PartRow       `json:"parts"`
	Rows  []ComparisonRow `json:"rows"`
}

// ComparisonRow is one parameter of all parts compared.
type ComparisonRow struct {
	Key     string   `json:"key"`
	Label   string   `json:"label"`
	Better  string   `json:"better,omitempty" enum:"more,less"`
	Values  []string `json:"values" doc:"One for each part; blank where it has none"`
	Differs bool     `json:"differs"`
	Best    []int    `json:"best" doc:"Which parts are best, where the parameter says more or less is better"`
}
