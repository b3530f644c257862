package wire

import (
	"slices"
	"strings"
	"time"

	"jollydrawer/core/document"
	"jollydrawer/core/finding"
	"jollydrawer/core/lookup"
	"jollydrawer/core/measure"
	"jollydrawer/core/origin"
	"jollydrawer/core/part"
	"jollydrawer/core/trail"
)

// Merge makes a part lead to another.
type Merge struct {
	Into string `json:"into" minLength:"1" maxLength:"120" doc:"Number of the part that survives"`
	Why  string `json:"why" minLength:"1" maxLength:"500"`
}

// GoBack makes an earlier revision the draft again.
type GoBack struct {
	Revision     int    `json:"revision" minimum:"1"`
	Why          string `json:"why,omitempty" maxLength:"500"`
	ReplaceDraft bool   `json:"replaceDraft,omitempty" doc:"The draft that is there may be replaced; it stays on the trail"`
	LeaveOut     bool   `json:"leaveOut,omitempty" doc:"Values that have no place under the present templates may be left out"`
}

// SuccessorEdit names the part that replaces another; blank withdraws it.
type SuccessorEdit struct {
	Number string `json:"number" maxLength:"120"`
	Why    string `json:"why" minLength:"1" maxLength:"500"`
}

// FormerNumber lets another number find a part.
type FormerNumber struct {
	Number string `json:"number" minLength:"1" maxLength:"64"`
}

// PartEdit is the whole content of a draft. Values are texts as a person writes them; the service reads them.
type PartEdit struct {
	Drawer       string            `json:"drawer" maxLength:"48"`
	Number       string            `json:"number,omitempty" maxLength:"64" doc:"To keep a number given elsewhere; blank takes the next of the drawer"`
	Name         string            `json:"name,omitempty" maxLength:"200" doc:"Blank: built by the drawer's rule"`
	Description  string            `json:"description,omitempty" maxLength:"500" doc:"Blank: built by the drawer's pattern"`
	Values       map[string]string `json:"values,omitempty"`
	Sources      []part.Source     `json:"sources,omitempty" maxItems:"100"`
	Datasheets   []part.File       `json:"datasheets,omitempty" maxItems:"50"`
	Links        []string          `json:"datasheetLinks,omitempty" maxItems:"20" doc:"Links to datasheets whose files nobody has fetched yet"`
	Symbol       *part.Model       `json:"symbol,omitempty"`
	LandPattern  *part.Model       `json:"landPattern,omitempty"`
	Body         *part.Model       `json:"body,omitempty"`
	PinMap       *part.Model       `json:"pinMap,omitempty"`
	OtherLands   []part.OtherLand  `json:"otherLandPatterns,omitempty" maxItems:"20" doc:"Land patterns beside the default one, each with what it is for"`
	Attachments  []part.Attachment `json:"attachments,omitempty" maxItems:"50"`
	KeepSeparate string            `json:"keepSeparate,omitempty" maxLength:"500" doc:"Why the part stands beside another with the same MPN"`
	Came         map[string]string `json:"came,omitempty" doc:"Parameter → where its value came from, such as the field of a pasted table; kept with the value"`
}

// Value is one value of a part.
type Value struct {
	Key    string          `json:"key"`
	Label  string          `json:"label"`
	Type   string          `json:"type" doc:"raw where the text could not be read"`
	Text   string          `json:"text"`
	Origin *origin.Origin  `json:"origin,omitempty"`
	Tally  []measure.Shown `json:"tally,omitempty" doc:"What each piece of the text that was received was taken for"`
}

// PartContent is the content of a draft or revision.
type PartContent struct {
	Drawer      string            `json:"drawer"`
	Name        string            `json:"name"`
	Description string            `json:"description"`
	Values      []Value           `json:"values" doc:"In the template's order, blanks included"`
	Sources     []part.Source     `json:"sources"`
	Datasheets  []part.File       `json:"datasheets"`
	Links       []string          `json:"datasheetLinks" doc:"Links to datasheets whose files nobody has fetched yet"`
	Symbol      *part.Model       `json:"symbol,omitempty"`
	LandPattern *part.Model       `json:"landPattern,omitempty"`
	Body        *part.Model       `json:"body,omitempty"`
	PinMap      *part.Model       `json:"pinMap,omitempty"`
	OtherLands  []part.OtherLand  `json:"otherLandPatterns"`
	Attachments []part.Attachment `json:"attachments"`
	Hash        string            `json:"hash"`
	Template    int               `json:"template" doc:"Cabinet revision it was checked against"`
	Findings    []finding.Finding `json:"findings"`
}

// Part is a part with its draft, its released content and its revisions.
type Part struct {
	ID        string       `json:"id"`
	Number    string       `json:"number"`
	Version   int          `json:"version"`
	Status    string       `json:"status"`
	Standing  string       `json:"standing"`
	States    States       `json:"states"`
	Revision  int          `json:"revision"`
	Updated   time.Time    `json:"updated"`
	Draft     *PartContent `json:"draft,omitempty"`
	Released  *PartContent `json:"released,omitempty"`
	Revisions []Revision   `json:"revisions"`
	Newer     []string     `json:"newer" doc:"Linked models of which a newer revision is there"`
	Former    []string     `json:"former" doc:"Numbers that find the part beside its own"`
	Successor *Successor   `json:"successor,omitempty" doc:"The part that replaces it"`
	MergedTo  string       `json:"mergedTo,omitempty" doc:"The part it was merged into"`
	Series    []PartSeries `json:"series" doc:"That it is of, by its sources; their datasheets are its datasheets too"`
	Alike     []string     `json:"alike" doc:"Numbers of parts that are equal in the identifying parameters"`
}

// Successor is the part that replaces another.
type Successor struct {
	Number string `json:"number"`
	Why    string `json:"why"`
}

// Revision is one released revision.
type Revision struct {
	Number  int       `json:"number"`
	Label   string    `json:"label" doc:"How it is called by the counting of its lifecycle; its number where nothing else was said"`
	Note    string    `json:"note"`
	By      string    `json:"by"`
	At      time.Time `json:"at"`
	Hash    string    `json:"hash"`
	State   State     `json:"state"`
	Why     string    `json:"why,omitempty" doc:"Why it was moved there, such as withdrawn"`
	MovedBy string    `json:"movedBy,omitempty"`
}

// Diff is the difference between two revisions; 0 stands for the draft.
type Diff struct {
	From    int               `json:"from"`
	To      int               `json:"to"`
	Changes []document.Change `json:"changes"`
	Models  []DiffModel       `json:"models" doc:"Models that differ, to be laid side by side"`
}

// DiffModel is a model of which two revisions hold another one, or another revision.
type DiffModel struct {
	Place string      `json:"place" doc:"symbol, land pattern or body"`
	From  *part.Model `json:"from,omitempty"`
	To    *part.Model `json:"to,omitempty"`
	// Contents of the two, which name their drawings exactly.
	FromContent string `json:"fromContent,omitempty"`
	ToContent   string `json:"toContent,omitempty"`
}

// TrailEntry is one entry of a trail.
type TrailEntry struct {
	Seq    int       `json:"seq"`
	At     time.Time `json:"at"`
	By     string    `json:"by"`
	Action string    `json:"action"`
	Detail string    `json:"detail"`
	Deed   string    `json:"deed"`

	Says    string         `json:"says" doc:"The entry as a sentence"`
	Changes []trail.Change `json:"changes,omitempty" doc:"Fields before and after"`
}

// TrailList is a page of a trail, newest first.
type TrailList struct {
	Items []TrailEntry `json:"items"`
}

// PartRow is a part in a list.
type PartRow lookup.Row

// Edit returns the content as an edit that would change nothing: the start of every change.
func (c PartContent) Edit() PartEdit {
	e := PartEdit{Drawer: c.Drawer, Name: c.Name, Description: c.Description, Values: map[string]string{}, Sources: c.Sources, Datasheets: c.Datasheets, Links: c.Links,
		Symbol: c.Symbol, LandPattern: c.LandPattern, Body: c.Body, PinMap: c.PinMap, OtherLands: c.OtherLands, Attachments: c.Attachments}
	for _, v := range c.Values {
		if v.Text != "" {
			e.Values[v.Key] = v.Text
		}
	}
	return e
}

// Copy returns the content as the beginning of another part: without sources, built texts, datasheets and attachments,
// and without any value or model that names one of the old part's MPNs.
func (c PartContent) Copy() PartEdit {
	e := c.Edit()
	names := func(text string) bool {
		for _, s := range c.Sources {
			if key := part.NormaliseMPN(s.MPN); len(key) > 3 && strings.Contains(part.NormaliseMPN(text), key) {
				return true
			}
		}
		return false
	}
	e.Sources, e.Description, e.Name, e.Datasheets, e.Links, e.Attachments = nil, "", "", nil, nil, nil
	for k, text := range e.Values {
		if names(text) {
			delete(e.Values, k)
		}
	}
	for _, m := range []**part.Model{&e.Symbol, &e.LandPattern, &e.Body, &e.PinMap} {
		if *m != nil && names((*m).Name) {
			*m = nil
		}
	}
	if e.Symbol == nil {
		e.PinMap = nil
	}
	e.OtherLands = slices.DeleteFunc(slices.Clone(e.OtherLands), func(o part.OtherLand) bool { return names(o.Model.Name) })
	return e
}

// Newest returns the draft, or what is released where there is none.
func (p Part) Newest() *PartContent {
	if p.Draft != nil {
		return p.Draft
	}
	return p.Released
}
