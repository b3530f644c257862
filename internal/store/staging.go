package store

import (
	"bytes"
	"context"
	"database/sql"
	"encoding/json"
	"iter"
	"maps"
	"slices"
	"strings"
	"sync"

	"golang.org/x/sync/errgroup"
	"gorm.io/gorm"

	"jollydrawer/core/part"
	"jollydrawer/core/readout"
)

// Staged is one thing of a bulk deed: a new one, or a known one as it shall be.
type Staged struct {
	Head     Head          // as it shall be, but for version and trail, which are as they were read; version 0 makes a new one
	Contents []Content     // new ones that Head points at
	Release  *Release      // where it is released at once
	Frozen   *Content      // of a part that is released, where it is none of Contents
	Part     *part.Content // what is released, taken apart, where its maker did so
	Sources  []string      // source keys that it gets beside those it has
	Twin     bool          // its sources stand beside those of another part on purpose
	Uses     []Use         // with their whole place: "draft symbol"
	Clears   Clears        // whose uses are replaced by these
	Action   string        // of its trail entry
	Detail   any
}

// Release is what a bulk deed says of a revision that it freezes, beside what its head says: number, label and content.
type Release struct {
	Hash, HashBefore Hash
	Note             string
}

// Clears says which uses of a part are replaced: those of its draft, those of its released revision, or both.
type Clears uint8

// The uses that a bulk deed replaces.
const (
	ClearsDraft Clears = 1 << iota
	ClearsReleased
)

// Bulk carries out a deed over many things. All that is large is staged in transactions of its own, where nobody sees it;
// then one short transaction writes the heads, together with the deed and whatever also writes. Every known thing must
// still be at the version that it was read at, or all of it is ErrConflict; a number or a source that somebody else has is
// ErrNumberTaken or ErrSourceTaken. Things are asked for some at a time, so that a lot of any size is never in memory as a
// whole. progress is told how many are staged; an error from it ends the deed. A crash leaves rows that are never seen and
// are swept later.
func (s *Store) Bulk(ctx context.Context, d Deed, all iter.Seq2[Staged, error], progress func(done int) error, also func(*Tx) (any, error)) (json.RawMessage, error) {
	g, err := s.Begin(ctx, d)
	if err != nil {
		return nil, err
	}
	defer g.End(ctx)
	g.Writers = 2
	if err := g.Add(ctx, all, progress); err != nil {
		return nil, err
	}
	return g.Show(ctx, also)
}

// Staging is a bulk deed on its way. It is for one goroutine.
type Staging struct {
	// Writers is how many batches are written at a time, each in a transaction of its own; 0 is one. Two are quicker where making
	// the things is little work; otherwise they only take processors from others.
	Writers int
	// Newest lets each read inside the write that shows it see what others have committed until then, and not until the first of them.
	// What such a write decides by what it reads, it guards.
	Newest bool
	// Step, where it is set, is called with each step of the work, and decides when it is done.
	Step func(func())

	store    *Store
	id       ID
	deed     Deed
	fresh    int
	known    map[ID]bool
	released int // how many parts of them
	clears   Clears
	twins    []Staged // head and sources of those that get theirs when they are shown
	tables   []ReadoutTable
	carried  map[string][]ID // by table: staged parts whose row is still to be carried over
	ended    bool
	coming   readout.Change // of the templates, with what is staged
}

// Begin makes a staging for a deed; End it, whatever becomes of it.
func (s *Store) Begin(ctx context.Context, d Deed) (*Staging, error) {
	g := newStaging(s, d)
	var err error
	if g.tables, err = s.Read(ctx).ReadoutTables(); err != nil {
		return nil, err
	}
	return g, s.small(ctx, func(db *gorm.DB) error {
		return db.Exec("INSERT IGNORE INTO stagings (id, deed, at) VALUES (?,?,NOW(6))", g.id, d.ID).Error
	})
}

func newStaging(s *Store, d Deed) *Staging {
	return &Staging{store: s, id: NewID(), deed: d, known: map[ID]bool{}, carried: map[string][]ID{}}
}

// Under says that templates change with what is staged, and what that does to the tables of drawers.
func (g *Staging) Under(coming readout.Change) { g.coming = coming }

// Add stages things; see Bulk.
func (g *Staging) Add(ctx context.Context, all iter.Seq2[Staged, error], progress func(done int) error) error {
	writers, ctx := errgroup.WithContext(ctx)
	writers.SetLimit(max(g.Writers, 1))
	var one sync.Mutex
	err := batches(all, func(some []Staged) error {
		writers.Go(func() error {
			var carried map[string][]ID
			var err error
			g.step(func() { carried, err = g.batch(ctx, some) })
			if err != nil {
				return err
			}
			one.Lock()
			defer one.Unlock()
			g.count(some)
			for table, heads := range carried {
				g.carried[table] = append(g.carried[table], heads...)
			}
			if err := g.carry(ctx, rowsAtOnce); err != nil {
				return err
			}
			return progress(g.fresh + len(g.known))
		})
		return context.Cause(ctx)
	})
	if e := writers.Wait(); e != nil { // it is why the making of more ended
		return e
	}
	return err
}

func (g *Staging) step(f func()) {
	if g.Step == nil {
		f()
		return
	}
	g.Step(f)
}

// batch writes some things in one transaction, once, and returns whose rows in the readout are to be carried over.
func (g *Staging) batch(ctx context.Context, some []Staged) (carried map[string][]ID, err error) {
	err = g.store.small(ctx, func(db *gorm.DB) error {
		// When the connection died at COMMIT, nobody knows whether the batch is there: the next try looks first.
		var there int64
		if err := db.Raw("SELECT COUNT(*) FROM staged_heads WHERE staging = ? AND head = ?", g.id, some[0].Head.ID).Scan(&there).Error; err != nil || there > 0 {
			return err
		}
		carried, err = g.write(db, some)
		return err
	})
	return carried, err
}

// Drop takes known things out of a staging again, so that they can be staged as they are now.
func (g *Staging) Drop(ctx context.Context, heads []ID) error {
	aside := NewID()
	err := g.store.small(ctx, func(db *gorm.DB) error {
		_, err := g.drop(db, aside, heads)
		return err
	})
	if err == nil {
		for _, id := range heads {
			delete(g.known, id)
		}
	}
	return err
}

// drop moves staged things to a staging that is never shown, which is swept, and says how many there were.
func (g *Staging) drop(db *gorm.DB, aside ID, heads []ID) (gone int, err error) {
	if err := db.Exec("INSERT IGNORE INTO stagings (id, deed, at, never) VALUES (?,?,NOW(6),TRUE)", aside, g.deed.ID).Error; err != nil {
		return 0, err
	}
	for some := range slices.Chunk(heads, batch) {
		r := db.Exec("UPDATE staged_heads SET staging = ? WHERE staging = ? AND head IN ? AND version > 0", aside, g.id, some)
		if r.Error != nil {
			return 0, r.Error
		}
		gone += int(r.RowsAffected)
		for _, table := range []string{"staged_keys", "staged_uses"} {
			if err := db.Exec("DELETE FROM "+table+" WHERE staging = ? AND head IN ?", g.id, some).Error; err != nil {
				return 0, err
			}
		}
	}
	return gone, nil
}

// Write writes some more known things inside the write that shows the staging: what others wrote until a moment ago.
func (g *Staging) Write(t *Tx, now []Staged) error {
	if len(now) == 0 {
		return nil
	}
	if slices.ContainsFunc(now, func(p Staged) bool { return g.known[p.Head.ID] }) { // its trail was gone on with before, and somebody else did too
		return ErrOvertaken
	}
	more := newStaging(g.store, g.deed)
	more.tables, more.coming = g.tables, g.coming
	carried, err := more.write(t.db, now)
	if err == nil {
		more.count(now)
		err = more.carryRows(t.db, carried)
	}
	if err == nil {
		err = more.link(t)
	}
	if err == nil {
		err = more.show(t)
	}
	if err == nil {
		err = removeStaged(t.db, more.id)
	}
	return err
}

// Show makes everything that was staged visible, in one write with the deed and whatever also writes. When it fails, it may be
// called again; ErrOvertaken says that things have to be staged anew first.
//
// What is staged is written before also is called: nobody sees it yet, and from its first statement on only who writes one of the
// same things waits for it. What everybody waits for, such as the row of a job or a document that the things follow, comes with
// also, at the end, which finds the things as they are now.
func (g *Staging) Show(ctx context.Context, also func(*Tx) (any, error)) (json.RawMessage, error) {
	if err := g.catchUp(ctx); err != nil {
		return nil, err
	}
	var how *sql.TxOptions
	if g.Newest {
		how = &sql.TxOptions{Isolation: sql.LevelReadCommitted}
	}
	result, err := g.store.commit(ctx, g.deed, func(t *Tx) (any, error) {
		if err := g.link(t); err != nil {
			return nil, err
		}
		if err := g.show(t); err != nil {
			return nil, err
		}
		out, err := also(t)
		if err == nil {
			err = g.rederive(t)
		}
		return out, err
	}, how)
	if err != nil {
		return nil, err
	}
	var removed sync.WaitGroup // what nobody needs any more goes while this instance reads what was written
	removed.Go(func() { g.End(ctx) })
	if g.store.Committed != nil {
		g.store.Committed(g.deed.ID)
	}
	removed.Wait()
	return result, nil
}

// link goes on with the trails and the revisions of what is staged.
func (g *Staging) link(t *Tx) error {
	if len(g.known) > 0 {
		if err := t.db.Exec("INSERT INTO trail (head, seq, deed, account, at, action, detail, hash_before, hash) "+
			"SELECT head, trail_seq, ?, ?, ?, action, detail, hash_before, trail_hash FROM staged_heads WHERE staging = ? AND version > 0", g.deed.ID, g.deed.Account, g.deed.At, g.id).Error; err != nil {
			return taken(err, ErrOvertaken) // somebody else wrote the next link
		}
	}
	err := t.db.Exec("INSERT INTO revisions (head, number, label, content, hash, hash_before, note, account, at, deed) "+
		"SELECT head, revision, label, released, released_hash, released_before, note, ?, ?, ? FROM staged_heads WHERE staging = ? AND released_hash IS NOT NULL", g.deed.Account, g.deed.At, g.deed.ID, g.id).Error
	return taken(err, ErrOvertaken)
}

// End removes what is left of a staging.
func (g *Staging) End(ctx context.Context) {
	if !g.ended {
		g.ended = true
		g.store.unstage(context.WithoutCancel(ctx), g.id)
	}
}

// count notes how many things are staged, and what is left to do when they are shown.
func (g *Staging) count(some []Staged) {
	for _, p := range some {
		if p.Head.Version == 0 {
			g.fresh++
		} else {
			g.known[p.Head.ID] = true
		}
		if p.Twin {
			g.twins = append(g.twins, Staged{Head: Head{ID: p.Head.ID}, Sources: p.Sources})
		}
		if p.Release != nil && p.Head.Kind == KindPart {
			g.released++
		}
		g.clears |= p.Clears
	}
}

// brought are the columns of a head that a staged row brings; takeBrought takes them over from a row s into a head h.
const brought = "drawer, standing, revision, label, draft, released, " +
	"state, draft_state, moved, written_by, writers, trail_seq, trail_hash"

var takeBrought = func() string {
	var out []string
	for _, column := range strings.Split(brought, ", ") {
		out = append(out, "h."+column+" = s."+column)
	}
	return strings.Join(out, ", ")
}()

// write writes some things where nothing points at them yet, and returns whose rows in the readout are to be carried over.
func (g *Staging) write(db *gorm.DB, some []Staged) (carried map[string][]ID, err error) {
	d := g.deed
	contents := newInsert("contents", "id, head, hash, format, template, bytes, origins, deed, at")
	heads := newInsert("staged_heads", "staging, head, kind, number, version, "+brought+", clears, hash_before, action, detail, released_hash, released_before, note")
	chain := newInsert("trail", "head, seq, deed, account, at, action, detail, hash_before, hash")
	keys, uses := newInsert("staged_keys", "staging, k, head"), newInsert("staged_uses", "staging, head, place, child, child_revision")
	for i := range some {
		p := &some[i]
		h := p.Head
		e, err := Link(&h, d, p.Action, p.Detail, slices.ContainsFunc(p.Contents, func(c Content) bool { return c.ID == h.Newest() }))
		if err != nil {
			return nil, err
		}
		for _, c := range p.Contents {
			contents.add(c.ID, h.ID, c.Hash, c.Format, c.Template, c.Bytes, c.Origins, d.ID, d.At)
		}
		row := []any{g.id, h.ID, h.Kind, h.Number, h.Version, h.Drawer, h.Standing, h.Revision, h.Label, h.Draft, h.Released, h.State, h.DraftState, h.Moved, h.WrittenBy, h.Writers, e.Seq, e.Hash, p.Clears}
		if h.Version == 0 { // nobody else writes the trail of what is not there yet
			chain.add(e.Head, e.Seq, e.Deed, e.Account, e.At, e.Action, e.Detail, e.HashBefore, e.Hash)
			row = append(row, nil, "", "")
		} else {
			row = append(row, e.HashBefore, e.Action, e.Detail)
		}
		if r := p.Release; r != nil {
			row = append(row, r.Hash, r.HashBefore, r.Note)
		} else {
			row = append(row, nil, nil, "")
		}
		heads.add(row...)
		for _, k := range p.Sources {
			if !p.Twin {
				keys.add(g.id, SourceHash(k), h.ID)
			}
		}
		for _, u := range p.Uses {
			uses.add(g.id, h.ID, u.Place, u.Child, u.ChildRevision)
		}
	}
	for _, in := range []*insert{contents, heads, chain, keys, uses} {
		if err := in.run(db); err != nil {
			if in == keys {
				err = taken(err, ErrSourceTaken) // two staged parts have one source
			}
			return nil, err
		}
	}
	return g.derive(db, some)
}

// show makes everything that was staged visible.
func (g *Staging) show(t *Tx) error {
	if err := g.showFresh(t); err != nil {
		return err
	}
	if err := g.showKnown(t); err != nil {
		return err
	}
	if err := t.db.Exec("INSERT INTO uses (parent, place, child, child_revision) SELECT head, place, child, child_revision FROM staged_uses WHERE staging = ?", g.id).Error; err != nil {
		return err
	}
	if err := t.db.Exec("INSERT INTO source_keys (k, twin, head) SELECT k, 0, head FROM staged_keys WHERE staging = ?", g.id).Error; err != nil {
		return taken(err, ErrSourceTaken)
	}
	for _, w := range g.twins {
		if err := t.SetSources(w.Head.ID, w.Sources, true); err != nil {
			return err
		}
	}
	return nil
}

func (g *Staging) showFresh(t *Tx) error {
	if g.fresh == 0 {
		return nil
	}
	r := t.db.Exec("INSERT INTO heads (id, kind, number, version, "+brought+", deed, updated) "+
		"SELECT head, kind, number, 1, "+brought+", ?, ? FROM staged_heads WHERE staging = ? AND version = 0", t.Deed.ID, t.Deed.At, g.id)
	if r.Error != nil {
		return taken(r.Error, ErrNumberTaken)
	}
	if int(r.RowsAffected) != g.fresh {
		return ErrConflict
	}
	r = t.db.Exec("INSERT INTO numbers (number, head, sort) SELECT number, head, ? FROM staged_heads WHERE staging = ? AND version = 0 AND kind = ?", ownNumber, g.id, KindPart)
	return taken(r.Error, ErrNumberTaken)
}

func (g *Staging) showKnown(t *Tx) error {
	if len(g.known) == 0 {
		return nil
	}
	// Some at a time: an update of many rows by those of another table goes through a table of its own, which stays in memory like this.
	shown, from := 0, make([]byte, len(ID{}))
	for heads := range slices.Chunk(slices.SortedFunc(maps.Keys(g.known), func(a, b ID) int { return bytes.Compare(a[:], b[:]) }), batch) {
		to := heads[len(heads)-1]
		r := t.db.Exec("UPDATE staged_heads s STRAIGHT_JOIN heads h ON h.id = s.head SET "+takeBrought+", h.version = h.version + 1, h.deed = ?, h.updated = ? "+
			"WHERE s.staging = ? AND s.head > ? AND s.head <= ? AND s.version > 0 AND h.version = s.version", t.Deed.ID, t.Deed.At, g.id, from, to[:])
		if r.Error != nil {
			return r.Error
		}
		shown += int(r.RowsAffected)
		from = to[:]
	}
	if shown != len(g.known) {
		return ErrConflict
	}
	for c, word := range map[Clears]string{ClearsDraft: "draft", ClearsReleased: "released"} {
		if g.clears&c == 0 {
			continue
		}
		if err := t.db.Exec("DELETE u FROM uses u JOIN staged_heads s ON s.head = u.parent WHERE s.staging = ? AND s.clears & ? AND u.place LIKE ?", g.id, c, word+" %").Error; err != nil {
			return err
		}
	}
	return nil
}

// stagedTables hold what is on its way, with the column staging.
var stagedTables = []string{"staged_heads", "staged_keys", "staged_uses"}

// unstage removes what is left of a staging. It is of no use to anybody; failing to remove it now only leaves it to the
// sweep. What a deed that came to nothing staged is left to the sweep as a whole: only the owner may remove content.
func (s *Store) unstage(ctx context.Context, id ID) {
	_ = s.small(ctx, func(db *gorm.DB) error {
		var done int64
		if err := db.Raw("SELECT COUNT(*) FROM stagings s JOIN deeds d ON d.id = s.deed WHERE s.id = ?", id).Scan(&done).Error; err != nil || done == 0 {
			return err
		}
		return removeStaged(db, id)
	})
}

func removeStaged(db *gorm.DB, id ID) error {
	for _, table := range stagedTables {
		if err := db.Exec("DELETE FROM "+table+" WHERE staging = ?", id).Error; err != nil {
			return err
		}
	}
	return db.Exec("DELETE FROM stagings WHERE id = ?", id).Error
}
