package wire

import (
	"time"

	"jollydrawer/core/trail"
)

// TrailLine is an entry of the trail across all things.
type TrailLine struct {
	At      time.Time      `json:"at"`
	By      string         `json:"by"`
	Kind    string         `json:"kind"`
	ID      string         `json:"id"`
	Number  string         `json:"number"`
	Drawer  string         `json:"drawer,omitempty"`
	Action  string         `json:"action"`
	Says    string         `json:"says" doc:"The entry as a sentence"`
	Changes []trail.Change `json:"changes,omitempty" doc:"Fields before and after"`
	Seq     int            `json:"seq"`
	Deed    string         `json:"deed"`
	Hash    string         `json:"hash"`
}

// TrailAcross is a page of the trail across all things, newest first.
type TrailAcross struct {
	Items []TrailLine `json:"items"`
	Next  string      `json:"next,omitempty" doc:"The place where the next page begins; nothing at the end"`
}
