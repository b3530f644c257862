package wire

import (
	"time"

	"jollydrawer/core/lifecycle"
	"jollydrawer/core/part"
)

// Release asks for a draft to be released.
type Release struct {
	Note  string `json:"note" minLength:"1" maxLength:"2000"`
	Minor bool   `json:"minor,omitempty" doc:"Where revisions are counted as major.minor: only the second figure counts on"`
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
	Standing string `json:"standing" minLength:"1" maxLength:"40" doc:"Key or word of a standing of the part's lifecycle"`
	Why      string `json:"why" minLength:"1" maxLength:"500"`
}

// State is a place in a lifecycle.
type State struct {
	Key     string   `json:"key"`
	Word    string   `json:"word" doc:"The house's own"`
	Meaning string   `json:"meaning,omitempty" doc:"Of a status: draft, in review, in use, superseded or withdrawn"`
	Use     string   `json:"use" doc:"yes, with caution or no"`
	Shape   string   `json:"shape" doc:"What it is drawn as beside its word"`
	Change  bool     `json:"change,omitempty" doc:"Content may change in it"`
	Readout bool     `json:"readout,omitempty" doc:"Design tools see what is in it"`
	Forbids []string `json:"forbids"`
}

// States are those of one thing: the status of what others see, the state of the draft beside it, and the standing.
type States struct {
	Lifecycle string `json:"lifecycle"`
	Label     string `json:"label" doc:"Of the newest revision"`
	Status    State  `json:"status" doc:"Of the newest revision, or of the draft where nothing is released"`
	Draft     *State `json:"draft,omitempty" doc:"Of the draft beside a revision"`
	Standing  State  `json:"standing"`
}

// MoveThings moves parts and models from one state of their lifecycles to another.
type MoveThings struct {
	Move     string     `json:"move,omitempty" maxLength:"24" doc:"Key of the move; blank is the one that releases"`
	To       string     `json:"to,omitempty" maxLength:"24" doc:"In the place of a move: key of the state that it leads to"`
	Note     string     `json:"note,omitempty" maxLength:"2000"`
	Things   []PartBase `json:"things" minItems:"1" maxItems:"20000"`
	Revision string     `json:"revision,omitempty" maxLength:"16" doc:"Label of the revision that is moved, such as an older one that is withdrawn; blank is the newest"`
	Minor    bool       `json:"minor,omitempty" doc:"Where revisions are counted as major.minor: only the second figure counts on"`
	Skip     bool       `json:"skip,omitempty" doc:"Leave what cannot be moved, and move the rest"`
}

// MoveThing is MoveThings for one thing.
type MoveThing struct {
	Move     string `json:"move,omitempty" maxLength:"24" doc:"Key of the move; blank is the one that releases"`
	Note     string `json:"note,omitempty" maxLength:"2000"`
	Revision string `json:"revision,omitempty" maxLength:"16" doc:"Label of the revision that is moved; blank is the newest"`
	Minor    bool   `json:"minor,omitempty" doc:"Where revisions are counted as major.minor: only the second figure counts on"`
}

// Moved is what a move did.
type Moved struct {
	Things  int      `json:"things"`
	Left    int      `json:"left" doc:"What could not be moved"`
	Numbers []string `json:"numbers" doc:"The first of them"`
	Holders []string `json:"holders" doc:"Who holds a revision that was withdrawn"`
}

// MovePreview is what a move would do.
type MovePreview struct {
	Things int           `json:"things" doc:"That can be moved"`
	Can    []string      `json:"can" doc:"The first of them"`
	Waived int           `json:"waived" doc:"Of them, how many pass a gate by a waiver"`
	Note   bool          `json:"note" doc:"A note is wanted"`
	Cannot []MoveRefused `json:"cannot" doc:"What keeps others from it, the most frequent first"`
}

// MoveRefused is one cause that keeps things from being moved.
type MoveRefused struct {
	Cause  string   `json:"cause"`
	Count  int      `json:"count"`
	What   string   `json:"what" doc:"One of them, as an example"`
	Mend   string   `json:"mend,omitempty"`
	Things []string `json:"things" doc:"The first of them"`
}

// Life says where a thing is and what leads away from there.
type Life struct {
	ID       string       `json:"id"`
	Version  int          `json:"version"`
	States   States       `json:"states"`
	Revision int          `json:"revision" doc:"Of the lifecycle document; 0 is the one that ships"`
	Authors  []string     `json:"authors" doc:"Whose deeds changed the content since it was last released"`
	Mine     bool         `json:"mine" doc:"The caller is one of them"`
	Moves    []LifeMove   `json:"moves"`
	Waivers  []GateWaiver `json:"waivers"`
	Boards   int          `json:"boards" doc:"Built boards on which this very content worked"`
	Proofs   []Proof      `json:"proofs"`
	Hold     *Hold        `json:"hold,omitempty" doc:"Who holds it, where somebody does"`
	Trail    []TrailEntry `json:"trail,omitempty" doc:"The newest entries, as many as were asked for"`
}

// LifeMove is a move that leads away from where a thing is.
type LifeMove struct {
	Key      string       `json:"key"`
	Label    string       `json:"label"`
	To       State        `json:"to"`
	Who      string       `json:"who" doc:"Who may make it, in words"`
	Not      string       `json:"not,omitempty" doc:"Why the caller may not"`
	Note     bool         `json:"note" doc:"A note is wanted"`
	Releases bool         `json:"releases" doc:"It freezes the draft as the next revision"`
	Standing bool         `json:"standing" doc:"It is about how the thing may be used"`
	Gates    []GateAnswer `json:"gates"`
	Minor    bool         `json:"minor,omitempty" doc:"Where revisions are counted as major.minor: a minor step is suggested"`
	Because  string       `json:"because,omitempty" doc:"Why that is suggested"`
	AsMajor  string       `json:"asMajor,omitempty" doc:"What the revision would be labelled"`
	AsMinor  string       `json:"asMinor,omitempty"`
}

// GateAnswer is what a gate says of a thing.
type GateAnswer struct {
	lifecycle.Answer
	About  string `json:"about" doc:"What it asks"`
	Waived bool   `json:"waived,omitempty" doc:"It does not hold, and a waiver lets the thing pass"`
	Waive  string `json:"waive,omitempty" doc:"Who may waive it, in words; blank: nobody"`
}

// WaiveGate lets a thing pass a gate, with a reason; a blank reason takes that back.
type WaiveGate struct {
	Gate string `json:"gate" minLength:"1" maxLength:"24"`
	Why  string `json:"why" maxLength:"500"`
}

// GateWaiver is a waiver of a gate.
type GateWaiver struct {
	Thing  string    `json:"thing"`
	Gate   string    `json:"gate"`
	Why    string    `json:"why"`
	By     string    `json:"by"`
	At     time.Time `json:"at"`
	Fallen bool      `json:"fallen" doc:"What the gate looked at is another now: the waiver counts for nothing"`
}

// WaiverList is a page of waivers.
type WaiverList struct {
	Page  Page         `json:"page"`
	Items []GateWaiver `json:"items"`
}

// Prove notes that the newest revision worked on built boards.
type Prove struct {
	Boards int    `json:"boards" minimum:"1" maximum:"1000000"`
	Which  string `json:"which" minLength:"1" maxLength:"500" doc:"Which boards: name, revision, lot"`
}

// Proof is boards on which a content worked.
type Proof struct {
	Boards  int       `json:"boards"`
	Which   string    `json:"which"`
	By      string    `json:"by"`
	At      time.Time `json:"at"`
	Current bool      `json:"current" doc:"It was the content that is the newest now"`
}

// Lifecycle is a lifecycle in force.
type Lifecycle struct {
	Name     string             `json:"name"`
	Of       string             `json:"of" doc:"parts or models"`
	Revision int                `json:"revision" doc:"0 is the one that ships"`
	Version  int                `json:"version"`
	Shipped  bool               `json:"shipped"`
	Updated  *time.Time         `json:"updated,omitempty"`
	Drawers  []string           `json:"drawers" doc:"That name it"`
	Text     string             `json:"text" doc:"The document in YAML"`
	Document lifecycle.Document `json:"document"`
}

// LifecycleList lists the lifecycles.
type LifecycleList struct {
	Items []Lifecycle `json:"items"`
}

// LifecycleText is a lifecycle document.
type LifecycleText struct {
	Text string `json:"text" minLength:"1" maxLength:"200000"`
}

// LifecyclePreview is what a document would change.
type LifecyclePreview struct {
	Name     string      `json:"name"`
	Version  int         `json:"version" doc:"Of the one in force, to be named when it is applied"`
	New      bool        `json:"new"`
	Gone     []StateGone `json:"gone" doc:"States that are no more, and what their things are in from then on"`
	Added    []string    `json:"added" doc:"Words of new states"`
	Moves    []string    `json:"moves" doc:"What is otherwise with the moves"`
	Counting string      `json:"counting,omitempty" doc:"How revisions are counted from then on, where that is another way"`
}

// StateGone is a state that is no more.
type StateGone struct {
	Was     State `json:"was"`
	Becomes State `json:"becomes"`
	Things  int   `json:"things" doc:"That are in it now"`
}

// Review is the review list of a thing.
type Review struct {
	ID         string       `json:"id"`
	Number     string       `json:"number"`
	Kind       string       `json:"kind" doc:"part or model"`
	Version    int          `json:"version"`
	Items      []ReviewItem `json:"items"`
	Open       int          `json:"open" doc:"Items that the caller has not ticked"`
	Signed     []ReviewSign `json:"signed"`
	Datasheets []part.File  `json:"datasheets" doc:"Its own and those of its series"`
	Series     []PartSeries `json:"series"`
	Taken      string       `json:"taken,omitempty" doc:"Who is at it"`
	TakenByMe  bool         `json:"takenByMe,omitempty"`
}

// ReviewItem is one line of a review list.
type ReviewItem struct {
	lifecycle.Item
	Mine    bool     `json:"mine" doc:"The caller ticked it as it is"`
	By      []string `json:"by" doc:"Who ticked it as it is"`
	Changed bool     `json:"changed" doc:"Somebody ticked it when it said something else"`
}

// ReviewSign is a signature.
type ReviewSign struct {
	By      string    `json:"by"`
	At      time.Time `json:"at"`
	Against string    `json:"against"`
	Author  bool      `json:"author" doc:"Who signed was an author: it counts as no second person"`
	Current bool      `json:"current" doc:"It covers the content as it is now"`
}

// TickItems ticks items of a review list, or takes that back.
type TickItems struct {
	Items  []string `json:"items" minItems:"1" maxItems:"1000"`
	Untick bool     `json:"untick,omitempty"`
}

// SignReview signs a review list.
type SignReview struct {
	Against string `json:"against" minLength:"1" maxLength:"500" doc:"The datasheet and page it was laid beside"`
	All     bool   `json:"all,omitempty" doc:"The caller looked at every item; those that are not ticked are"`
}

// TogetherReview lays review lists side by side that are checked against one datasheet.
type TogetherReview struct {
	Sheet  part.File      `json:"sheet"`
	Alike  []ReviewItem   `json:"alike" doc:"What all of them say alike; mine where the caller ticked it on all of them"`
	Differ []ReviewColumn `json:"differ" doc:"The other items"`
	Parts  []Review       `json:"parts" doc:"That wait for the caller and are of the series, or have the datasheet where there is none; at most 200"`
	Series string         `json:"series,omitempty" doc:"Number of the series that they are of; blank where they only share a datasheet"`
	More   bool           `json:"more,omitempty" doc:"More of them wait than are shown"`
}

// ReviewColumn is an item that parts do not say alike, such as their resistance or their first source.
type ReviewColumn struct {
	Label string   `json:"label"`
	Items []string `json:"items" doc:"Its key on the list of each part, in their order; blank where a part has no such item"`
}

// TickMany ticks items on the lists of several things.
type TickMany struct {
	Things []PartBase `json:"things" minItems:"1" maxItems:"200"`
	TickItems
}

// SignMany signs the lists of several things.
type SignMany struct {
	Things []PartBase `json:"things" minItems:"1" maxItems:"200"`
	SignReview
}

// Reviewed are the things as they are after a deed on their reviews.
type Reviewed struct {
	Things []PartBase `json:"things"`
}

// TakeTurn takes a thing from the queue, or lets go of it.
type TakeTurn struct {
	LetGo bool `json:"letGo,omitempty"`
}

// Queue is a page of what waits for a review, what waits longest first.
type Queue struct {
	Page  Page        `json:"page"`
	Items []QueueItem `json:"items"`
}

// QueueItem is a thing that waits for a review.
type QueueItem struct {
	ID        string    `json:"id"`
	Version   int       `json:"version"`
	Kind      string    `json:"kind"`
	Number    string    `json:"number"`
	What      string    `json:"what"`
	State     State     `json:"state"`
	Revision  int       `json:"revision" doc:"What is in use meanwhile; 0 is nothing"`
	Since     time.Time `json:"since"`
	Authors   []string  `json:"authors"`
	Mine      bool      `json:"mine" doc:"The caller is an author, and reviews something else"`
	Groups    []string  `json:"groups" doc:"That answer for it"`
	Taken     string    `json:"taken,omitempty"`
	TakenByMe bool      `json:"takenByMe,omitempty"`
}
