package wire

import "time"

// Hold says that somebody is at a thing, and that others do not change its content meanwhile.
type Hold struct {
	By    string    `json:"by"`
	Mine  bool      `json:"mine,omitempty"`
	Why   string    `json:"why"`
	Since time.Time `json:"since"`
	Until time.Time `json:"until"`
}

// TakeHold holds a thing for the caller.
type TakeHold struct {
	Why      string `json:"why" maxLength:"300"`
	Hours    int    `json:"hours,omitempty" minimum:"0" maximum:"336" doc:"0: a working day"`
	TakeOver bool   `json:"takeOver,omitempty" doc:"Also where somebody else holds it; for librarians"`
}

// NewComment is what somebody says about a thing.
type NewComment struct {
	Text    string `json:"text" maxLength:"4000"`
	About   string `json:"about,omitempty" maxLength:"120" doc:"Key of a value or of an item of the review list; blank: the thing"`
	Answers string `json:"answers,omitempty" maxLength:"36" doc:"Identifier of the comment that it answers"`
}

// Comment is what somebody said about a thing.
type Comment struct {
	ID        string    `json:"id"`
	About     string    `json:"about,omitempty"`
	Answers   string    `json:"answers,omitempty"`
	By        string    `json:"by"`
	Mine      bool      `json:"mine,omitempty"`
	Text      string    `json:"text"`
	At        time.Time `json:"at"`
	Settled   bool      `json:"settled,omitempty"`
	SettledBy string    `json:"settledBy,omitempty"`
}

// CommentList is a page of what was said about a thing, oldest first.
type CommentList struct {
	Items []Comment `json:"items"`
	Open  int       `json:"open" doc:"How many are not settled, answers left out"`
	Page  Page      `json:"page"`
}

// SettleComment settles a comment, or opens it again.
type SettleComment struct {
	Settled bool `json:"settled"`
}
