package store

import (
	"errors"
	"slices"

	"jollydrawer/core/readout"
)

// theCabinet is the name of the one head of KindCabinet.
const theCabinet = "cabinet"

// ErrCabinetMoved is returned where a write assumed a cabinet that is in force no more.
var ErrCabinetMoved = errors.New("the templates were changed meanwhile")

// guards is how many rows writes of parts are spread over, so that they do not wait for each other.
const guards = 256

// UnderCabinet says that a write assumes a revision of the cabinet. It is ErrCabinetMoved where another is in force; and where
// another is being put in force at the same moment, one of the two writes starts again: each of them writes one of the guard
// rows, and a change of templates writes all of them.
func (t *Tx) UnderCabinet(revision int) error {
	h, err := t.HeadByNumber(KindCabinet, theCabinet)
	if err == nil && h.Revision != revision {
		err = ErrCabinetMoved
	}
	if err != nil {
		return err
	}
	return t.guard()
}

// guard writes the deed's one of the guard rows.
func (t *Tx) guard() error {
	return t.db.Exec("UPDATE cabinet_guards SET n = n + 1 WHERE slot = ?", int(t.Deed.ID[15])%guards).Error
}

// MoveCabinet says that a write changes templates, on which writes of parts may stand, and what that does to the tables of drawers:
// those that give way are written as long as they are read. From here on everybody who writes parts waits, so that what the tables
// follow was looked up before (see Reader.FollowTables), but for those that are kept only since.
func (t *Tx) MoveCabinet(to readout.Change, looked FollowedTables) error {
	if err := t.db.Exec("UPDATE cabinet_guards SET n = n + 1").Error; err != nil {
		return err
	}
	late, err := t.readoutTablesBeside(looked.kept)
	if err != nil {
		return err
	}
	more, err := followTables(late, to)
	if err != nil {
		return err
	}
	return t.setFollowed(slices.Concat(looked.follow, more))
}
