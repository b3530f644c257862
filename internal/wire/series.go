package wire

import (
	"jollydrawer/core/part"
	"jollydrawer/core/series"
)

// SeriesEdit is what a series says of itself.
type SeriesEdit series.Content

// Series is one manufacturer's parts under one datasheet.
type Series struct {
	ID      string       `json:"id"`
	Number  string       `json:"number" doc:"Manufacturer and name"`
	Version int          `json:"version"`
	Said    SeriesEdit   `json:"said"`
	Parts   []SeriesPart `json:"parts" doc:"Parts of the library that have a member as a source, at most a thousand"`
	Total   int          `json:"total" doc:"How many those are"`
	Absent  []string     `json:"absent" doc:"Members that no part of the library has"`
}

// SeriesPart is a part of a series.
type SeriesPart struct {
	ID          string `json:"id"`
	Number      string `json:"number"`
	MPN         string `json:"mpn"`
	Description string `json:"description"`
	Flag        string `json:"flag,omitempty" doc:"Word of a state in which it may not simply be used"`
	Draft       bool   `json:"draft"`
}

// SeriesRow is a series in a list.
type SeriesRow struct {
	ID           string      `json:"id"`
	Number       string      `json:"number"`
	Manufacturer string      `json:"manufacturer"`
	Name         string      `json:"name"`
	Members      int         `json:"members"`
	Datasheets   []part.File `json:"datasheets"`
}

// SeriesList is a page of series, by number.
type SeriesList struct {
	Page  Page        `json:"page"`
	Items []SeriesRow `json:"items"`
}

// SeriesProposals are the series that parts look as though they were of.
type SeriesProposals struct {
	Page  Page              `json:"page"`
	Items []series.Proposal `json:"items"`
}

// PartSeries is a series that a part is of.
type PartSeries struct {
	ID         string      `json:"id"`
	Number     string      `json:"number"`
	Name       string      `json:"name"`
	Members    int         `json:"members"`
	Datasheets []part.File `json:"datasheets"`
}
