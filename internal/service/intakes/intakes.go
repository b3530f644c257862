// Package intakes brings rows in: loading, sorting, mapping, checking, mending, taking in and taking back; single parts from
// a pasted text; tables of other databases; the datasheets that rows name.
package intakes

import (
	"sync"
	"sync/atomic"

	"jollydrawer/core/intake"
	"jollydrawer/core/lookup"
	"jollydrawer/internal/reach"
	"jollydrawer/internal/service/cabinets"
	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/service/files"
	"jollydrawer/internal/service/lifecycles"
	"jollydrawer/internal/service/models"
	"jollydrawer/internal/service/parts"
	"jollydrawer/internal/service/policy"
	"jollydrawer/internal/service/work"
	"jollydrawer/internal/store"
	"jollydrawer/internal/wire"
)

// Intakes works intakes out and takes them in. Its methods may be called from several goroutines.
type Intakes struct {
	*deed.Desk
	index    *lookup.Index
	work     *work.Work
	files    *files.Files
	cabinets *cabinets.Cabinets
	policy   *policy.Policy
	models   *models.Models
	parts    *parts.Parts
	lives    *lifecycles.Lifecycles
	guard    reach.Guard // what the service may ask of other machines

	taking    atomic.Int32  // how many are taken in at this moment
	working   sync.Map      // intake → lock of whoever works it out
	mu        sync.Mutex    // guards what follows
	evaluated []*evaluation // the intakes looked at last
	tables    []heldTable   // files whose rows are in memory
	claimed   heldClaims    // what was settled about sources
	headers   map[string]heldHeader
	tried     heldTry
	sheets    map[store.Hash]*intake.SheetText // texts of datasheets
}

// Rooms are what intakes stand on.
type Rooms struct {
	Index    *lookup.Index
	Work     *work.Work
	Files    *files.Files
	Cabinets *cabinets.Cabinets
	Policy   *policy.Policy
	Models   *models.Models
	Parts    *parts.Parts
	Lives    *lifecycles.Lifecycles
	Guard    reach.Guard
}

// New returns the intakes of an installation and registers their jobs.
func New(d *deed.Desk, r Rooms) *Intakes {
	s := &Intakes{Desk: d, index: r.Index, work: r.Work, files: r.Files, cabinets: r.Cabinets, policy: r.Policy, models: r.Models, parts: r.Parts, lives: r.Lives, guard: r.Guard}
	work.Register(r.Work, jobTakeIn, s.runTakeIn, func(j *wire.Job) **wire.TakenIn { return &j.TakenIn })
	work.Register(r.Work, jobLinked, s.runLinked, func(j *wire.Job) **wire.Fetched { return &j.Fetched })
	work.Register(r.Work, jobFetch, s.runFetch, func(j *wire.Job) **wire.Fetched { return &j.Fetched })
	return s
}
