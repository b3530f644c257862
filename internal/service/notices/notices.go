// Package notices tells people what they want to hear of: what they watch, what their groups answer for, what became of what they
// wrote or asked for. It follows the feed and keeps one notice for each person and deed, shows them, and sends them by mail and hook.
package notices

import (
	"context"

	"jollydrawer/core/lookup"
	"jollydrawer/internal/reach"
	"jollydrawer/internal/service/cabinets"
	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/service/parts"
	"jollydrawer/internal/store"
)

// Rooms are the packages below that notices work with, and what an installation decides about them.
type Rooms struct {
	Index    *lookup.Index
	Cabinets *cabinets.Cabinets
	Parts    *parts.Parts

	Guard reach.Guard
	Mail  Mail   // how mail is sent; without a server none is
	Key   []byte // of the installation; keys that sign hooks come from it
	Base  string // of addresses in mails and events
}

// Mail is the server that takes mail, and in whose name.
type Mail struct {
	Server   string // HOST:PORT; blank: no mail is sent
	From     string
	User     string
	Password string
}

// Notices tells people of what was done. Its methods may be called from several goroutines.
type Notices struct {
	*deed.Desk
	Rooms
	// Followed says how far the lookup index of this instance is: questions are asked of it, so that nothing is told before.
	Followed func() int64
	// BoardsWith says which boards take parts now; nil: nobody knows.
	BoardsWith func(ctx context.Context, parts []store.ID) (map[store.ID][]store.Head, error)
}

// New returns the notices of an installation.
func New(d *deed.Desk, r Rooms) *Notices { return &Notices{Desk: d, Rooms: r} }
