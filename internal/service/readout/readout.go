// Package readout gives design tools what they read: SQL tables, one for each drawer, and the folder of model files.
package readout

import (
	"context"
	"sync"
	"time"

	"jollydrawer/internal/service/cabinets"
	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/service/models"
	"jollydrawer/internal/service/parts"
	"jollydrawer/internal/service/policy"
	"jollydrawer/internal/store"
)

// Rooms are the packages below that the readout works with, and what an installation decides about it.
type Rooms struct {
	Models   *models.Models
	Parts    *parts.Parts
	Cabinets *cabinets.Cabinets
	Policy   *policy.Policy

	Keeper *store.Keeper // makes the tables; nil where the installation has no account for it
	Reader string        // whom design tools sign in as, for showing
	Base   string        // stands before paths of the service in addresses
}

// Readout writes the readout. Its methods may be called from several goroutines.
type Readout struct {
	*deed.Desk
	Rooms
	me    store.ID // as the holder of the lease
	swept time.Time

	mu      sync.Mutex
	problem string    // why the tables could not be kept last time
	kept    time.Time // when they were, last
}

// New returns the readout of an installation. What states mean to design tools is written with the lifecycles that say it.
func New(d *deed.Desk, r Rooms) *Readout {
	s := &Readout{Desk: d, Rooms: r, me: store.NewID()}
	d.Store.Ruled = s.writeStates
	return s
}

// Prepare writes what states mean where an earlier version of the program did not.
func (s *Readout) Prepare(ctx context.Context) error {
	have, err := s.Store.Read(ctx).ReadoutStates()
	if err != nil || len(have) > 0 {
		return err
	}
	_, err = s.Store.Do(ctx, store.Deed{ID: store.NewID(), Kind: "readout.states", At: store.Stamp(s.Now())}, func(t *store.Tx) (any, error) { return nil, s.writeStates(t) })
	return err
}
