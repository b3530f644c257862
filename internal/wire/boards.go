package wire

import "jollydrawer/core/buying"

// UsedAsked asks where things are used: one of a part, a maker (with an MPN or without), a supplier, or a model.
type UsedAsked struct {
	Part, Maker, MPN, Supplier, Model, Datasheet, Board string

	Instead       bool // what could stand in for each part, were what is asked about gone
	Offset, Limit int
}

// WhereUsed are the parts that a question is about, each with the boards that take it.
type WhereUsed struct {
	Page   Page       `json:"page"`
	Boards int        `json:"boards" doc:"Boards that take one of all parts, as they stand now"`
	Items  []UsedPart `json:"items"`
}

// UsedPart is a part with the boards that take it.
type UsedPart struct {
	Part    BOMPart      `json:"part"`
	Boards  []UsedOn     `json:"boards" doc:"As each stands now (revision 0), and the frozen revisions"`
	Left    []LeftSource `json:"left,omitempty" doc:"Sources of the record that are left"`
	Instead []StandIn    `json:"instead,omitempty" doc:"Records that could take its place, those first that nothing speaks against"`
	Needs   int64        `json:"needs,omitempty" doc:"Pieces that one build of all boards takes"`
}

// UsedOn is a board, or a revision of it, that takes a part.
type UsedOn struct {
	BOM          string   `json:"bom"`
	Name         string   `json:"name"`
	Revision     int      `json:"revision" doc:"0: as it stands now"`
	Rows         []int    `json:"rows" doc:"None where the board takes it only by way of others"`
	By           []string `json:"by,omitempty" doc:"The other boards by way of which it is taken, beside the board's own lines"`
	Designators  []string `json:"designators"`
	Pieces       int64    `json:"pieces" doc:"Of one board"`
	Amounts      []string `json:"amounts,omitempty"`
	In           []string `json:"in,omitempty" doc:"The variants of the board that take it; left out: all"`
	PartRevision int      `json:"partRevision" doc:"Of the part that it is pinned to, or that is in use"`
	Build        int64    `json:"build,omitempty" doc:"Boards of a build"`
	Yearly       int64    `json:"yearly,omitempty" doc:"Pieces in a year, where somebody said how many boards that are"`
}

// LeftSource is a source with what a build of all boards would buy of it.
type LeftSource struct {
	Manufacturer string         `json:"manufacturer"`
	MPN          string         `json:"mpn"`
	Buy          *buying.Bought `json:"buy,omitempty" doc:"Left out where nobody sells it for a price that is known"`
}

// StandIn is a record that could take a part's place.
type StandIn struct {
	Part    BOMPart        `json:"part"`
	Why     string         `json:"why" doc:"How it was found: the successor, equal in what identifies, or of the same value and package"`
	Against []string       `json:"against" doc:"What lines say otherwise; none: it fits them all"`
	Differs []string       `json:"differs" doc:"What matters and is otherwise in the record"`
	Buy     *buying.Bought `json:"buy,omitempty" doc:"What a build of all boards would buy of it; left out where nobody sells it for a price that is known"`
}

// Replacement puts a part in another's place on boards.
type Replacement struct {
	Part   string   `json:"part" doc:"Number or ID of the part that goes"`
	With   string   `json:"with" doc:"Number or ID of the part that takes its place"`
	BOMs   []string `json:"boms,omitempty" maxItems:"200" doc:"IDs or names; none: every board that takes it"`
	Reason string   `json:"reason,omitempty" maxLength:"500" doc:"Kept with each line; needed to carry it out"`
	Digest string   `json:"digest,omitempty" maxLength:"100" doc:"Of the preview that was looked at; blank: preview"`
}

// Replaced is what a replacement does, or did.
type Replaced struct {
	From    BOMPart      `json:"from"`
	To      BOMPart      `json:"to"`
	Boards  []ReplacedOn `json:"boards"`
	Differs []string     `json:"differs" doc:"What matters and is otherwise in the record"`
	Digest  string       `json:"digest"`
	Done    bool         `json:"done"`
}

// ReplacedOn is what it does to one board.
type ReplacedOn struct {
	BOM         string   `json:"bom"`
	Name        string   `json:"name"`
	Rows        []int    `json:"rows"`
	Designators []string `json:"designators"`
	Against     []string `json:"against" doc:"What the lines say otherwise"`
}
