// Package offers asks suppliers and keeps what they offer: the connections, questions to all of them at once, what of their answers becomes a part
// or another source of one, and the offers of the library's sources with what became otherwise.
package offers

import (
	"context"
	"sync"

	"jollydrawer/core/bom"
	"jollydrawer/core/connection"
	"jollydrawer/core/lookup"
	"jollydrawer/internal/reach"
	"jollydrawer/internal/service/cabinets"
	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/service/deliveries"
	"jollydrawer/internal/service/files"
	"jollydrawer/internal/service/intakes"
	"jollydrawer/internal/service/parts"
	"jollydrawer/internal/service/work"
	"jollydrawer/internal/store"
	"jollydrawer/internal/supplier"
	"jollydrawer/internal/wire"
)

// Offers asks suppliers and keeps what they offer. Its methods may be called from several goroutines.
type Offers struct {
	*deed.Desk
	// Needs says what BOMs take of parts, by their ID: one BOM, or for a blank key all; what a build takes where built says so, of those with one, else one board.
	Needs func(ctx context.Context, bom string, built bool) (map[string]bom.Need, error)
	// Series are those that products are of; nil: they are in none.
	Series Series

	index    *lookup.Index
	work     *work.Work
	files    *files.Files
	cabinets *cabinets.Cabinets
	parts    *parts.Parts
	intakes  *intakes.Intakes
	arrive   *deliveries.Deliveries
	asker    *supplier.Asker
	guard    reach.Guard
	secrets  supplier.Secrets
	night    Hour

	mu      sync.Mutex
	asking  map[askedKey]*asking // under way, and those that ended a moment ago
	stepped chan struct{}        // closed, and another made, whenever one of them goes on
	read    []*reading           // answers that were read last
	docs    map[store.ID]*connection.Document
	lists   map[store.ID]*listed // price lists in memory, by connection

	leveling sync.Mutex // guards what follows
	indexed  indexed
	house    string // currency of the prices in the index
}

// Rooms are what offers stand on.
type Rooms struct {
	Index    *lookup.Index
	Work     *work.Work
	Files    *files.Files
	Cabinets *cabinets.Cabinets
	Parts    *parts.Parts
	Intakes  *intakes.Intakes
	Arrive   *deliveries.Deliveries
	Guard    reach.Guard
	Secrets  supplier.Secrets
	Night    Hour // at which suppliers are asked by themselves
}

// New returns the offers of an installation and registers their jobs.
func New(d *deed.Desk, r Rooms) *Offers {
	s := &Offers{Desk: d, index: r.Index, work: r.Work, files: r.Files, cabinets: r.Cabinets, parts: r.Parts, intakes: r.Intakes, arrive: r.Arrive, guard: r.Guard, secrets: r.Secrets, night: r.Night,
		asking: map[askedKey]*asking{}, stepped: make(chan struct{}), docs: map[store.ID]*connection.Document{}, lists: map[store.ID]*listed{}}
	if s.secrets == nil {
		s.secrets = func(string) (string, bool) { return "", false }
	}
	s.asker = supplier.NewAsker(r.Guard, s.secrets, newBudget(s.Store, s.Now))
	work.Register(r.Work, jobRefresh, s.runRefresh, func(j *wire.Job) **wire.Refreshed { return &j.Refreshed })
	work.Register(r.Work, jobModels, s.runModels, func(j *wire.Job) **wire.FetchedModels { return &j.Models })
	return s
}
