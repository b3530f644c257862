package wire

import (
	"time"

	"jollydrawer/core/want"
)

// WantEdit is what somebody wants.
type WantEdit want.Content

// WantsEdit is what is asked for in one deed.
type WantsEdit struct {
	Wants []WantEdit `json:"wants" minItems:"1" maxItems:"2000"`
}

// WantsMade is what became of what was asked for.
type WantsMade struct {
	Wants   int      `json:"wants"`
	Numbers []string `json:"numbers" doc:"The first of them"`
}

// WantLook is what would do.
type WantLook struct {
	Parts   []PartRow    `json:"parts" doc:"Parts of the library, the first five"`
	Total   int          `json:"total"`
	Doubles []WantDouble `json:"doubles" doc:"Open wants that ask for the same"`
}

// WantDouble is another want that asks for the same.
type WantDouble struct {
	ID     string `json:"id"`
	Number string `json:"number"`
	What   string `json:"what"`
	Why    string `json:"why"`
	By     string `json:"by"`
}

// Want is what somebody wants, and how far it is.
type Want struct {
	ID      string       `json:"id"`
	Number  string       `json:"number"`
	Version int          `json:"version"`
	State   string       `json:"state" doc:"open, taken on, answered or declined"`
	What    string       `json:"what" doc:"In a line"`
	Said    WantEdit     `json:"said"`
	By      string       `json:"by" doc:"Who wants it"`
	Mine    bool         `json:"mine"`
	Asked   time.Time    `json:"asked"`
	TakenBy string       `json:"takenBy,omitempty" doc:"Who is at it, or settled it"`
	Part    string       `json:"part,omitempty" doc:"Number of the part that answers it"`
	Why     string       `json:"why,omitempty"`
	Settled *time.Time   `json:"settled,omitempty"`
	Look    *WantLook    `json:"look,omitempty"`
	Trail   []TrailEntry `json:"trail,omitempty"`
}

// WantList is a page of wants, those that wait longest first.
type WantList struct {
	Page   Page           `json:"page"`
	Items  []Want         `json:"items"`
	Counts map[string]int `json:"counts" doc:"By state, of all there are"`
}

// SettleWant takes a want on, answers it, declines it, or opens it again.
type SettleWant struct {
	State string `json:"state" enum:"open,taken on,answered,declined"`
	Part  string `json:"part,omitempty" maxLength:"120" doc:"Number of the part that answers it"`
	Why   string `json:"why,omitempty" maxLength:"500"`
}
