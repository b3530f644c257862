package wire

import (
	"time"

	"jollydrawer/core/finding"
	"jollydrawer/core/model"
	"jollydrawer/core/model/redraw"
)

// ModelEdit is the whole content of a model's draft. Where no drawing is given, it is read from the file.
type ModelEdit struct {
	Kind        string             `json:"kind" enum:"symbol,land pattern,body,pin map"`
	Name        string             `json:"name" minLength:"1" maxLength:"100"`
	FileHash    string             `json:"fileHash,omitempty"`
	FileName    string             `json:"fileName,omitempty" maxLength:"255"`
	Note        string             `json:"note,omitempty" maxLength:"2000"`
	Symbol      *model.Symbol      `json:"symbol,omitempty"`
	LandPattern *model.LandPattern `json:"landPattern,omitempty"`
	Body        *model.Body        `json:"body,omitempty"`
	PinMap      *model.PinMap      `json:"pinMap,omitempty"`
}

// ModelRow is a model in a list.
type ModelRow struct {
	ID       string    `json:"id"`
	Version  int       `json:"version"`
	Kind     string    `json:"kind"`
	Name     string    `json:"name"`
	Status   string    `json:"status"`
	Revision int       `json:"revision"`
	HasDraft bool      `json:"hasDraft"`
	Updated  time.Time `json:"updated"`
	Content  string    `json:"content" doc:"Names the drawing exactly: a preview of it never changes"`
	Drawn    bool      `json:"drawn" doc:"It has a drawing, and with it a preview"`
	What     string    `json:"what" doc:"Pins, pads or size, in words"`
	Uses     int       `json:"uses" doc:"Parts that use it"`
	FileName string    `json:"fileName,omitempty"`
	Findings int       `json:"findings" doc:"Open findings of the house's checks"`
	States   States    `json:"states"`
}

// ModelDiff says in what two revisions of a model differ; 0 is the draft. Their drawings are previews of the two contents.
type ModelDiff struct {
	From        int                  `json:"from"`
	To          int                  `json:"to"`
	FromContent string               `json:"fromContent"`
	ToContent   string               `json:"toContent"`
	Differences []model.ReviewChange `json:"differences"`
}

// Model is a symbol, land pattern, body or pin map.
type Model struct {
	ModelRow
	Draft    *ModelEdit      `json:"draft,omitempty"`
	Released *ModelEdit      `json:"released,omitempty"`
	Merged   string          `json:"mergedTo,omitempty" doc:"Name of the model it was merged into"`
	AskedAs  string          `json:"askedAs,omitempty" doc:"Name under which it was asked for, where that one was merged into this"`
	Features *model.Features `json:"features,omitempty"`
	Checks   []ModelFinding  `json:"checks" doc:"What the checks say of the newest content"`
	Twins    []ModelRef      `json:"twins" doc:"Models that are the same, or nearly so"`
	Signed   []ModelSign     `json:"signed" doc:"Who checked which revision against what"`
	Revs     []Revision      `json:"revisions"`
	UsedBy   []ModelUse      `json:"usedBy"`
}

// ModelFinding is a finding on a model.
type ModelFinding struct {
	finding.Finding
	Click string `json:"click,omitempty" doc:"What one click does about it"`
}

// ModelRef names a model.
type ModelRef struct {
	ID       string `json:"id"`
	Name     string `json:"name"`
	Revision int    `json:"revision"`
	Uses     int    `json:"uses"`
	Version  int    `json:"version"`
	How      string `json:"how,omitempty" doc:"How it is alike, in words"`
}

// ModelUse is a part that uses a model.
type ModelUse struct {
	Part     string `json:"part"`
	Version  int    `json:"version"`
	Place    string `json:"place" doc:"draft or released, and the place in the part"`
	Revision int    `json:"revision" doc:"The model's revision that the part uses"`
	Newer    bool   `json:"newer" doc:"A newer revision is there"`
}

// ModelList is a page of models.
type ModelList struct {
	Page  Page       `json:"page"`
	Items []ModelRow `json:"items"`
}

// ModelSign says that a person went through a revision's check list.
type ModelSign struct {
	Revision int       `json:"revision" doc:"The newest of what was signed; 0 is the draft"`
	By       string    `json:"by"`
	At       time.Time `json:"at"`
	Author   bool      `json:"author,omitempty" doc:"Who signed was an author of it, and counts as no second person"`
	Against  string    `json:"against" doc:"The datasheet and page it was checked against"`
}

// NewSign signs the check list of a model's newest revision.
type NewSign struct {
	Against string `json:"against" minLength:"1" maxLength:"500"`
}

// ModelMend settles findings of one cause on several models, each as a new draft.
type ModelMend struct {
	Cause  string   `json:"cause" maxLength:"60"`
	Models []string `json:"models" maxItems:"2000" doc:"IDs; blank: all that have the finding"`
	Note   string   `json:"note,omitempty" maxLength:"500" doc:"Release note; blank leaves drafts"`
	Seen   Versions `json:"versions,omitempty" doc:"Versions of the models that were looked at, by ID"`
}

// ModelWaive accepts a finding with a reason; a blank reason takes that back.
type ModelWaive struct {
	Cause string `json:"cause" minLength:"1" maxLength:"60"`
	Why   string `json:"why" maxLength:"500"`
}

// Mended says what a bulk deed did.
type Mended struct {
	Models []string `json:"models" doc:"Names of the models that were changed"`
	Parts  []string `json:"parts" doc:"Numbers of the parts that were changed"`
	Left   []string `json:"left" doc:"What was left as it was, and why"`
}

// ModelCauses are the findings on all models by cause.
type ModelCauses struct {
	Causes []ModelCause `json:"causes"`
	Models int          `json:"models" doc:"Models that were checked"`
}

// ModelCause is a cause with the models that have it.
type ModelCause struct {
	finding.Cause
	Click  string     `json:"click,omitempty"`
	Models []ModelRef `json:"models" doc:"The first hundred"`
}

// TwinList are the clusters of models that are the same or nearly the same.
type TwinList struct {
	Clusters []Twins `json:"clusters"`
}

// Twins is one cluster.
type Twins struct {
	Kind   string       `json:"kind"`
	Exact  bool         `json:"exact"`
	Most   model.Length `json:"most" doc:"Largest difference of a place or size, mm"`
	What   []string     `json:"what" doc:"What differs in the first that is not the same, in words"`
	Models []ModelRow   `json:"models" doc:"The one with the most users first"`
}

// MergeModels makes models lead to one of them.
type MergeModels struct {
	Keep string   `json:"keep" doc:"ID of the survivor"`
	Gone []string `json:"gone" minItems:"1" maxItems:"500" doc:"IDs of those that lead to it afterwards"`
	Move []string `json:"move,omitempty" maxItems:"1000" doc:"Numbers of the parts that take the survivor; all where moveAll is set"`
	All  bool     `json:"moveAll,omitempty"`
	Why  string   `json:"why" minLength:"1" maxLength:"500"`
	// A model that is not the same as the survivor is merged only where it is named here.
	Different []string `json:"different,omitempty" maxItems:"500" doc:"IDs of those that are merged although a board made with them is another"`
	Seen      Versions `json:"versions,omitempty" doc:"Versions of the models that were looked at, by ID: another one is a conflict"`
}

// TakeMergingBack makes a model that was merged away one of its own again.
type TakeMergingBack struct {
	Model string `json:"model" minLength:"1" maxLength:"200" doc:"ID of the model that was merged away, or its kind and name: \"land pattern: R 0805\""`
	Why   string `json:"why" minLength:"1" maxLength:"500"`
}

// Versions are the versions of things that somebody looked at before a deed over several of them.
type Versions map[string]int

// TakeNewer moves parts to the newest revision of a model.
type TakeNewer struct {
	Parts    []string `json:"parts,omitempty" maxItems:"1000" doc:"Numbers; all that use it where none is named"`
	Revision int      `json:"revision,omitempty" minimum:"1" doc:"Of the model, as it was looked at: another one is a conflict"`
	Seen     Versions `json:"versions,omitempty" doc:"Versions of the parts that were looked at, by number"`
}

// LikeList are land patterns like a given one.
type LikeList struct {
	Asked model.Features `json:"asked"`
	Items []LikeRow      `json:"items"`
}

// LikeRow is a land pattern with its features.
type LikeRow struct {
	ModelRow
	Features model.Features `json:"features"`
	How      string         `json:"how"`
}

// PinChoice says how a pin table is to be taken where its headings leave it open, or were misread.
type PinChoice struct {
	List    string            `json:"list,omitempty" maxLength:"200" doc:"Which of several lists: the name of a component or package"`
	Columns *model.PinColumns `json:"columns,omitempty" doc:"Which column holds what, counted from 0; -1 where none does; as the headings and cells tell where it is not given"`
}

// PinReading says how a pin table was taken.
type PinReading struct {
	Headings []string          `json:"headings" doc:"Of the table; none where it is no table"`
	Columns  *model.PinColumns `json:"columns,omitempty"`
	Lists    []string          `json:"lists" doc:"Names of the lists it holds, where there are several: one must be chosen"`
	List     string            `json:"list,omitempty" doc:"The one that was taken"`
}

// SymbolTry makes a symbol from a pin table for looking at it: a file, a text, or pins as edited.
type SymbolTry struct {
	Text string `json:"text,omitempty" maxLength:"400000" doc:"A pin table, pasted"`
	File string `json:"file,omitempty" doc:"Hash of an uploaded table or IBIS file"`
	PinChoice
	Pins    []model.ListedPin `json:"pins,omitempty" maxItems:"4096"`
	Layout  model.Layout      `json:"layout"`
	Earlier *model.Symbol     `json:"earlier,omitempty" doc:"Whose hand-set places are kept"`
	Name    string            `json:"name,omitempty" maxLength:"100"`
	Theme   string            `json:"theme,omitempty" enum:"day,night,"`
}

// SymbolTried is the symbol with its picture.
type SymbolTried struct {
	Pins []model.ListedPin `json:"pins"`
	PinReading
	Symbol *model.Symbol `json:"symbol,omitempty" doc:"None where one of several lists must be chosen first"`
	SVG    string        `json:"svg"`
	Wrong  []string      `json:"wrong" doc:"Rows that were not read"`
}

// LandTry asks for land patterns made from the figures of a package, or from a table of pads.
type LandTry struct {
	Figures   *model.Figures `json:"figures,omitempty"`
	Densities []string       `json:"densities,omitempty" maxItems:"3" enum:"most,nominal,least" doc:"Density levels of IPC-7351B; nominal where none is named"`
	Text      string         `json:"text,omitempty" maxLength:"400000" doc:"A table of pads, pasted"`
	File      string         `json:"file,omitempty" doc:"Hash of an uploaded table of pads"`
	Unit      string         `json:"unit,omitempty" enum:"mm,mil,inch,µm," doc:"Of a table whose headings name none"`
	Name      string         `json:"name,omitempty" maxLength:"100" doc:"Of the land pattern of a table"`
	Theme     string         `json:"theme,omitempty" enum:"day,night,"`
}

// LandTried are land patterns with their pictures.
type LandTried struct {
	Made []LandMade `json:"made"`
}

// LandMade is one of them.
type LandMade struct {
	model.Made
	Findings []ModelFinding `json:"findings" doc:"What the house's rules say of it"`
	SVG      string         `json:"svg"`
}

// DrawingTry asks what a symbol or land pattern becomes by changes to it.
type DrawingTry struct {
	Kind        string             `json:"kind" enum:"symbol,land pattern"`
	Name        string             `json:"name,omitempty" maxLength:"100"`
	Symbol      *model.Symbol      `json:"symbol,omitempty" doc:"As it is; an empty one where none is given"`
	LandPattern *model.LandPattern `json:"landPattern,omitempty"`
	Changes     []redraw.Change    `json:"changes,omitempty" maxItems:"200" doc:"Made one after the other; where one cannot be made, none is"`
	Model       string             `json:"model,omitempty" maxLength:"36" doc:"ID of the model whose drawing it is: findings that were accepted for it say so"`
	Part        string             `json:"part,omitempty" maxLength:"60" doc:"Number of a part whose other models it is held against"`
	Unit        int                `json:"unit,omitempty" minimum:"0" maximum:"4096" doc:"Of a symbol: the unit that is drawn; all where it is not given"`
	Theme       string             `json:"theme,omitempty" enum:"day,night,"`
}

// DrawingTried is what it becomes.
type DrawingTried struct {
	Symbol      *model.Symbol      `json:"symbol,omitempty"`
	LandPattern *model.LandPattern `json:"landPattern,omitempty"`
	Lists       []redraw.List      `json:"lists" doc:"Pins or pads, and graphics, as tables"`
	Selected    []int              `json:"selected" doc:"Rows of the list that was changed last: those that were changed, added or copied"`
	SVG         string             `json:"svg"`
	View        [4]float64         `json:"view" doc:"What the picture shows: left, lower, right and upper side, mm"`
	Step        model.Length       `json:"step" doc:"How far a row is moved at a time, unless somebody chooses otherwise, mm"`
	Findings    []ModelFinding     `json:"findings" doc:"What the house's rules say"`
	Fit         []finding.Finding  `json:"fit" doc:"What lies between it and the other models of the part"`
}

// PinsBeside asks for a symbol's pins beside an independent list.
type PinsBeside struct {
	PinChoice
	Text string `json:"text,omitempty" maxLength:"400000"`
	File string `json:"file,omitempty"`
}

// PinComparison is the answer.
type PinComparison struct {
	PinReading
	Lines  []model.PinDifference `json:"lines"`
	Differ int                   `json:"differ"`
	Wrong  []string              `json:"wrong"`
}

// RenameModels renames or describes several models by a pattern.
type RenameModels struct {
	Models  []string `json:"models" minItems:"1" maxItems:"1000"`
	Find    string   `json:"find,omitempty" maxLength:"100" doc:"Words to replace in the names"`
	Replace string   `json:"replace,omitempty" maxLength:"100"`
	Note    *string  `json:"note,omitempty" doc:"A new description for all"`
	Seen    Versions `json:"versions,omitempty" doc:"Versions of the models that were looked at, by ID"`
}
