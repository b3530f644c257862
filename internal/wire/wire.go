// Package wire holds the requests and responses of the API: what the service gives and takes, what the client sends
// and reads, and what the OpenAPI document is made from. Lists are never null; a measure travels as the text an
// engineer would write, beside its exact form where that matters.
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
)

// Me is the person who is signed in.
type Me struct {
	ID    string   `json:"id"`
	Login string   `json:"login"`
	Name  string   `json:"name"`
	Role  string   `json:"role" enum:"reader,engineer,librarian,administrator"`
	May   []string `json:"may" doc:"The operations this role allows"`
	CSRF  string   `json:"csrf,omitempty" doc:"To be sent as X-CSRF-Token with every change made with the session cookie"`
}

// SignIn is the request for a session.
type SignIn struct {
	Login    string `json:"login" maxLength:"64"`
	Password string `json:"password" maxLength:"200"`
}

// Account is a person who may sign in.
type Account struct {
	ID       string `json:"id"`
	Login    string `json:"login"`
	Name     string `json:"name"`
	Role     string `json:"role"`
	Disabled bool   `json:"disabled"`
}

// NewAccount is the request for an account.
type NewAccount struct {
	Login    string `json:"login" minLength:"2" maxLength:"64" pattern:"^[a-z][a-z0-9._-]*$"`
	Name     string `json:"name" minLength:"1" maxLength:"120"`
	Role     string `json:"role" enum:"reader,engineer,librarian,administrator"`
	Password string `json:"password" maxLength:"200"`
}

// AccountChange changes an account; what is left out stays.
type AccountChange struct {
	Role     string `json:"role,omitempty" enum:"reader,engineer,librarian,administrator"`
	Password string `json:"password,omitempty" maxLength:"200"`
	Disabled *bool  `json:"disabled,omitempty"`
}

// Token is a personal API token. The secret is shown once, when it is made.
type Token struct {
	ID      string    `json:"id"`
	Name    string    `json:"name"`
	Created time.Time `json:"created"`
	Expires time.Time `json:"expires"`
	Secret  string    `json:"secret,omitempty"`
}

// NewToken is the request for a token.
type NewToken struct {
	Name string `json:"name" minLength:"1" maxLength:"120"`
	Days int    `json:"days" minimum:"1" maximum:"730" default:"365"`
}

// Page says where a list stands.
type Page struct {
	Offset int `json:"offset"`
	Limit  int `json:"limit"`
	Total  int `json:"total"`
}

// Text carries a document as it was written, in YAML or JSON.
type Text struct {
	Text string `json:"text" maxLength:"4000000"`
}

// Crosswalk is one supplier's crosswalk.
type Crosswalk struct {
	ID       string    `json:"id"`
	Supplier string    `json:"supplier"`
	Revision int       `json:"revision"`
	Version  int       `json:"version"`
	Updated  time.Time `json:"updated"`
	Text     string    `json:"text" doc:"The document as YAML"`
}

// CrosswalkList lists crosswalks.
type CrosswalkList struct {
	Page  Page        `json:"page"`
	Items []Crosswalk `json:"items"`
}

// File is a stored file.
type File struct {
	Hash string `json:"hash" doc:"SHA-256, hexadecimal"`
	Name string `json:"name"`
	Size int64  `json:"size"`
}

// Job is long work.
type Job struct {
	ID       string        `json:"id"`
	Kind     string        `json:"kind"`
	State    string        `json:"state" enum:"waiting,running,done,failed,stopped"`
	Done     int64         `json:"done"`
	Total    int64         `json:"total"`
	Error    string        `json:"error,omitempty"`
	TakenIn  *TakenIn      `json:"takenIn,omitempty"`
	Changed  *Changed      `json:"changed,omitempty"`
	Fetched  *Fetched      `json:"fetched,omitempty"`
	Verified *Verification `json:"verified,omitempty"`
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
	Revision  int          `json:"revision"`
	Updated   time.Time    `json:"updated"`
	Draft     *PartContent `json:"draft,omitempty"`
	Released  *PartContent `json:"released,omitempty"`
	Revisions []Revision   `json:"revisions"`
	Newer     []string     `json:"newer" doc:"Linked models of which a newer revision is there"`
	Former    []string     `json:"former" doc:"Numbers that find the part beside its own"`
	Successor *Successor   `json:"successor,omitempty" doc:"The part that replaces it"`
	MergedTo  string       `json:"mergedTo,omitempty" doc:"The part it was merged into"`
	Alike     []string     `json:"alike" doc:"Numbers of parts that are equal in the identifying parameters"`
}

// Successor is the part that replaces another.
type Successor struct {
	Number string `json:"number"`
	Why    string `json:"why"`
}

// Revision is one released revision.
type Revision struct {
	Number int       `json:"number"`
	Note   string    `json:"note"`
	By     string    `json:"by"`
	At     time.Time `json:"at"`
	Hash   string    `json:"hash"`
}

// Diff is the difference between two revisions; 0 stands for the draft.
type Diff struct {
	From    int               `json:"from"`
	To      int               `json:"to"`
	Changes []document.Change `json:"changes"`
}

// TrailEntry is one entry of a trail.
type TrailEntry struct {
	Seq    int       `json:"seq"`
	At     time.Time `json:"at"`
	By     string    `json:"by"`
	Action string    `json:"action"`
	Detail string    `json:"detail"`
	Deed   string    `json:"deed"`
}

// TrailList is a page of a trail, newest first.
type TrailList struct {
	Items []TrailEntry `json:"items"`
}

// Release asks for a draft to be released.
type Release struct {
	Note string `json:"note" minLength:"1" maxLength:"2000"`
}

// BulkRelease asks for several drafts to be released in one deed.
type BulkRelease struct {
	Note  string     `json:"note" minLength:"1" maxLength:"2000"`
	Parts []PartBase `json:"parts" minItems:"1" maxItems:"20000"`
}

// PartBase names a part and the version that was looked at.
type PartBase struct {
	ID      string `json:"id"`
	Version int    `json:"version"`
}

// Released is what a bulk release did.
type Released struct {
	Parts   int      `json:"parts"`
	Numbers []string `json:"numbers"`
}

// Standing changes how a part may be used.
type Standing struct {
	Standing string `json:"standing" enum:"active,not for new designs,obsolete"`
	Why      string `json:"why" minLength:"1" maxLength:"500"`
}

// PartRow is a part in a list.
type PartRow lookup.Row

// Verification is the outcome of recomputing what can be recomputed.
type Verification struct {
	Heads     int      `json:"heads"`
	Contents  int      `json:"contents"`
	Entries   int      `json:"entries" doc:"Trail entries whose chain was followed"`
	Different []string `json:"different" doc:"Every difference found, in words"`
}

// Problem is an error (RFC 9457) with the product's own members.
type Problem struct {
	Type    string          `json:"type"`
	Title   string          `json:"title"`
	Status  int             `json:"status"`
	Detail  string          `json:"detail"`
	Mend    string          `json:"mend,omitempty" doc:"What would mend it"`
	Request string          `json:"request,omitempty" doc:"Identifier of the request, for the log"`
	Current *Part           `json:"current,omitempty" doc:"In a conflict: the part as it is now"`
	Errors  []ProblemDetail `json:"errors,omitempty"`
}

// ProblemDetail is one place that is wrong.
type ProblemDetail struct {
	Location string `json:"location,omitempty"`
	Message  string `json:"message"`
}

// Edit returns the content as an edit that would change nothing: the start of every change.
func (c PartContent) Edit() PartEdit {
	e := PartEdit{Drawer: c.Drawer, Name: c.Name, Description: c.Description, Values: map[string]string{}, Sources: c.Sources, Datasheets: c.Datasheets,
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
	e.Sources, e.Description, e.Name, e.Datasheets, e.Attachments = nil, "", "", nil, nil
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
