package store

import (
	"context"
	"encoding/json"
	"fmt"
	"iter"
	"strings"

	"gorm.io/gorm"
)

// NewPart is one part of a bulk deed, ready to be staged.
type NewPart struct {
	Head    Head // ID, Number and Drawer set
	Content Content
	Sources []string // source keys
	Uses    []Use    // models of the draft
	Detail  any      // of its first trail entry
}

// Revised is one part of the library that a bulk deed gives a new draft.
type Revised struct {
	Head    Head // as it was read: its version is what the draft is based on
	Content Content
	Sources []string // keys that it gets beside those it has
	Uses    []Use    // models of the draft
	Detail  any
}

// batch is how many parts one staging transaction writes: large enough to be quick, small enough to stall nobody.
const batch = 2000

// Stage writes parts where nothing points at them yet, in transactions of their own; they are asked for one batch at a
// time, so that a lot of any size is never in memory as a whole. A crash leaves rows that are never seen and are swept
// later. progress is told after each batch; an error from it stops the staging.
func (s *Store) Stage(ctx context.Context, d Deed, parts iter.Seq2[NewPart, error], action string, progress func(done int) error) (staging ID, err error) {
	if staging, err = s.newStaging(ctx, d); err != nil {
		return staging, err
	}
	done := 0
	err = batches(parts, func(chunk []NewPart) error {
		heads, contents, trail, keys := newInsert("staged_heads", "staging, head, number, drawer, content, trail_hash"),
			newInsert("contents", "id, head, hash, format, template, bytes, origins, deed, at"),
			newInsert("trail", "head, seq, deed, account, at, action, detail, hash_before, hash"), newInsert("staged_keys", "staging, k, head")
		uses := newInsert("staged_uses", "staging, head, place, child, child_revision")
		for i := range chunk {
			p := &chunk[i]
			p.Head.TrailSeq, p.Head.TrailHash = 0, Hash{}
			e, err := Link(&p.Head, d, action, p.Detail)
			if err != nil {
				return err
			}
			c := p.Content
			heads.add(staging, p.Head.ID, p.Head.Number, p.Head.Drawer, c.ID, e.Hash)
			contents.add(c.ID, p.Head.ID, c.Hash, c.Format, c.Template, c.Bytes, c.Origins, d.ID, d.At)
			trail.add(e.Head, e.Seq, e.Deed, e.Account, e.At, e.Action, e.Detail, e.HashBefore, e.Hash)
			for _, k := range p.Sources {
				keys.add(staging, SourceHash(k), p.Head.ID)
			}
			for _, u := range p.Uses {
				uses.add(staging, p.Head.ID, "draft "+u.Place, u.Child, u.ChildRevision)
			}
		}
		err := s.stageOnce(ctx, chunk[0].Content.ID, func(g *gorm.DB) error {
			for _, in := range []*insert{heads, contents, trail, keys, uses} {
				if err := in.run(g); err != nil {
					return err
				}
			}
			return nil
		})
		if err == nil {
			done += len(chunk)
			err = progress(done)
		}
		return err
	})
	return staging, taken(err, ErrSourceTaken) // two staged parts have one source
}

func (s *Store) newStaging(ctx context.Context, d Deed) (ID, error) {
	staging := NewID()
	return staging, s.small(ctx, func(g *gorm.DB) error {
		return g.Exec("INSERT IGNORE INTO stagings (id, deed, at) VALUES (?,?,NOW(6))", staging, d.ID).Error
	})
}

// stageOnce writes a batch whose first content is given. When the connection died at COMMIT, nobody knows whether the batch
// is there: the next try looks before it writes.
func (s *Store) stageOnce(ctx context.Context, first ID, write func(*gorm.DB) error) error {
	return s.small(ctx, func(g *gorm.DB) error {
		var there int64
		if err := g.Model(&Content{}).Where("id = ?", first).Count(&there).Error; err != nil || there > 0 {
			return err
		}
		return write(g)
	})
}

// batches calls f with the members of a sequence, some at a time. The next ones are made while f works on the ones
// before: making contents and writing them keep different processors busy.
func batches[T any](all iter.Seq2[T, error], f func([]T) error) error {
	type lot struct {
		some []T
		err  error
	}
	lots, enough := make(chan lot), make(chan struct{})
	defer close(enough)
	go func() {
		defer close(lots)
		send := func(l lot) bool {
			select {
			case lots <- l:
				return true
			case <-enough:
				return false
			}
		}
		chunk := make([]T, 0, batch)
		for p, err := range all {
			if err != nil {
				send(lot{err: err})
				return
			}
			if chunk = append(chunk, p); len(chunk) == batch {
				if !send(lot{some: chunk}) {
					return
				}
				chunk = make([]T, 0, batch)
			}
		}
		if len(chunk) > 0 {
			send(lot{some: chunk})
		}
	}()
	for l := range lots {
		if l.err != nil {
			return l.err
		}
		if err := f(l.some); err != nil {
			return err
		}
	}
	return nil
}

// Switched is what the switch of a staged update still has to do beside pointing at it.
type Switched struct {
	Trail   TrailEntry
	Sources []string
	Uses    []Use
}

// StageUpdates writes the new contents of parts where nothing points at them yet, and what the switch will point at
// them, into the same staging.
func (s *Store) StageUpdates(ctx context.Context, d Deed, staging ID, parts iter.Seq2[Revised, error], action string, progress func(done int) error) (out []Switched, err error) {
	err = batches(parts, func(chunk []Revised) error {
		contents, heads := newInsert("contents", "id, head, hash, format, template, bytes, origins, deed, at"), newInsert("staged_updates", "staging, head, version, content, trail_seq, trail_hash")
		for i := range chunk {
			p := &chunk[i]
			e, err := Link(&p.Head, d, action, p.Detail)
			if err != nil {
				return err
			}
			out = append(out, Switched{e, p.Sources, p.Uses})
			c := p.Content
			contents.add(c.ID, p.Head.ID, c.Hash, c.Format, c.Template, c.Bytes, c.Origins, d.ID, d.At)
			heads.add(staging, p.Head.ID, p.Head.Version, c.ID, e.Seq, e.Hash)
		}
		err := s.stageOnce(ctx, chunk[0].Content.ID, func(g *gorm.DB) error {
			if err := contents.run(g); err != nil {
				return err
			}
			return heads.run(g)
		})
		if err == nil {
			err = progress(len(out))
		}
		return err
	})
	return out, err
}

// SwitchUpdates gives the staged contents to their parts inside the transaction of a bulk deed: all of them, each still
// at the version that it is based on, or ErrConflict.
func (t *Tx) SwitchUpdates(staging ID, parts []Switched) error {
	if len(parts) == 0 {
		return nil
	}
	r := t.db.Exec("UPDATE heads h JOIN staged_updates s ON s.head = h.id SET h.draft = s.content, h.version = h.version + 1, h.trail_seq = s.trail_seq, h.trail_hash = s.trail_hash, "+
		"h.deed = ?, h.updated = ? WHERE s.staging = ? AND h.version = s.version", t.Deed.ID, t.Deed.At, staging)
	if r.Error != nil {
		return r.Error
	}
	if int(r.RowsAffected) != len(parts) {
		return ErrConflict
	}
	links, keys := newInsert("trail", "head, seq, deed, account, at, action, detail, hash_before, hash"), newInsert("source_keys", "k, twin, head")
	for _, p := range parts {
		e := p.Trail
		links.add(e.Head, e.Seq, e.Deed, e.Account, e.At, e.Action, e.Detail, e.HashBefore, e.Hash)
		for _, k := range p.Sources {
			keys.add(SourceHash(k), 0, e.Head)
		}
		if len(p.Uses) > 0 {
			if err := t.SetUses(e.Head, "draft", p.Uses); err != nil {
				return err
			}
		}
	}
	if err := links.run(t.db); err != nil {
		if code(err) == 1062 { // somebody else wrote the next link
			return ErrConflict
		}
		return err
	}
	return taken(keys.run(t.db), ErrSourceTaken)
}

// HeadsByID loads the heads of parts, in no order.
func (r Reader) HeadsByID(ids []ID) (out []Head, err error) {
	for from := 0; from < len(ids); from += batch {
		var some []Head
		if err := r.db.Where("id IN ?", ids[from:min(from+batch, len(ids))]).Find(&some).Error; err != nil {
			return nil, err
		}
		out = append(out, some...)
	}
	return out, nil
}

// Contents loads pieces of content by their identifiers.
func (r Reader) Contents(ids []ID) (map[ID]Content, error) {
	out := make(map[ID]Content, len(ids))
	for from := 0; from < len(ids); from += batch {
		var some []Content
		if err := r.db.Where("id IN ?", ids[from:min(from+batch, len(ids))]).Find(&some).Error; err != nil {
			return nil, err
		}
		for _, c := range some {
			out[c.ID] = c
		}
	}
	return out, nil
}

// Switch makes all staged parts visible in one short transaction, together with the deed and whatever also writes.
// Either all of it is there afterwards or nothing.
func (s *Store) Switch(ctx context.Context, d Deed, staging ID, count int, also func(*Tx) (any, error)) (json.RawMessage, error) {
	out, err := s.Do(ctx, d, func(t *Tx) (any, error) {
		r := t.db.Exec("INSERT INTO heads (id, kind, number, version, drawer, standing, revision, draft, released, trail_seq, trail_hash, deed, updated) "+
			"SELECT head, 'part', number, 1, drawer, 'active', 0, content, NULL, 1, trail_hash, ?, ? FROM staged_heads WHERE staging = ?", d.ID, d.At, staging)
		if r.Error != nil {
			return nil, taken(r.Error, ErrNumberTaken)
		}
		if int(r.RowsAffected) != count {
			return nil, fmt.Errorf("store: %d of %d staged parts are there", r.RowsAffected, count)
		}
		if err := t.db.Exec("INSERT INTO uses (parent, place, child, child_revision) SELECT head, place, child, child_revision FROM staged_uses WHERE staging = ?", staging).Error; err != nil {
			return nil, err
		}
		if err := t.db.Exec("INSERT INTO source_keys (k, twin, head) SELECT k, 0, head FROM staged_keys WHERE staging = ?", staging).Error; err != nil {
			return nil, taken(err, ErrSourceTaken)
		}
		return also(t)
	})
	if err != nil {
		return nil, err
	}
	s.unstage(ctx, staging)
	return out, nil
}

// unstage removes what is left of a staging once its deed is done. It is of no use to anybody; failing to remove it now
// only leaves it to the sweep.
func (s *Store) unstage(ctx context.Context, staging ID) {
	_ = s.small(context.WithoutCancel(ctx), func(g *gorm.DB) error {
		for _, table := range []string{"staged_heads", "staged_keys", "staged_uses", "staged_updates", "staged_changes", "staged_contents", "staged_trail", "staged_revisions"} {
			if err := g.Exec("DELETE FROM "+table+" WHERE staging = ?", staging).Error; err != nil {
				return err
			}
		}
		return g.Exec("DELETE FROM stagings WHERE id = ?", staging).Error
	})
}

// insert gathers rows for one INSERT statement of many rows.
type insert struct {
	table, columns string
	row            string
	n              int
	args           []any
}

func newInsert(table, columns string) *insert {
	return &insert{table: table, columns: columns, row: "(?" + strings.Repeat(",?", strings.Count(columns, ",")) + ")"}
}

func (in *insert) add(args ...any) {
	in.n++
	in.args = append(in.args, args...)
}

// run writes the rows, a few hundred to a statement to stay within the packet size.
func (in *insert) run(g *gorm.DB) error {
	if in.n == 0 {
		return nil
	}
	width := len(in.args) / in.n
	for from := 0; from < in.n; from += 500 {
		k := min(500, in.n-from)
		// Straight to the driver: GORM would parse each of the thousands of placeholders anew.
		if _, err := g.Statement.ConnPool.ExecContext(g.Statement.Context, "INSERT INTO "+in.table+" ("+in.columns+") VALUES "+in.row+strings.Repeat(","+in.row, k-1),
			in.args[from*width:(from+k)*width]...); err != nil {
			return err
		}
	}
	return nil
}

// Written is one part that a bulk deed made or changed, as its trail tells.
type Written struct {
	Head   Head // as it is now
	Made   bool
	Before ID // the draft that the deed took the place of; zero where there was none
}

// WrittenBy lists the parts that a deed made or changed.
func (r Reader) WrittenBy(deed ID) (out []Written, err error) {
	var entries []TrailEntry
	if err := r.db.Raw("SELECT t.* FROM trail t JOIN heads h ON h.id = t.head AND h.kind = 'part' WHERE t.deed = ?", deed).Scan(&entries).Error; err != nil {
		return nil, err
	}
	ids := make([]ID, 0, len(entries))
	by := map[ID]TrailEntry{}
	for _, e := range entries {
		ids, by[e.Head] = append(ids, e.Head), e
	}
	for from := 0; from < len(ids); from += batch {
		var some []Head
		if err := r.db.Where("id IN ?", ids[from:min(from+batch, len(ids))]).Find(&some).Error; err != nil {
			return nil, err
		}
		for _, h := range some {
			e := by[h.ID]
			w := Written{Head: h, Made: e.Seq == 1}
			var detail struct{ Before ID }
			if json.Unmarshal([]byte(e.Detail), &detail) == nil {
				w.Before = detail.Before
			}
			out = append(out, w)
		}
	}
	return out, nil
}

// Withdraw takes back what a deed made and changed: parts that it made are no part of the library any more, parts that
// it changed get the draft from before. Every one of them must be as the deed left it; keys are the source keys that
// changed parts lose.
func (t *Tx) Withdraw(deed ID, parts []Written, keys map[ID][]string, detail any) error {
	links := newInsert("trail", "head, seq, deed, account, at, action, detail, hash_before, hash")
	for i := range parts {
		w := &parts[i]
		base := w.Head.Version
		action := "change taken back"
		if w.Made {
			action = "withdrawn with its intake"
		}
		e, err := Link(&w.Head, t.Deed, action, detail)
		if err != nil {
			return err
		}
		links.add(e.Head, e.Seq, e.Deed, e.Account, e.At, e.Action, e.Detail, e.HashBefore, e.Hash)
		number, standing, draft := w.Head.Number, w.Head.Standing, w.Before
		if w.Made {
			number, standing, draft = w.Head.Number+" ("+w.Head.ID.String()+")", Withdrawn, w.Head.Draft
			for _, q := range []string{"DELETE FROM source_keys WHERE head = ?", "DELETE FROM uses WHERE parent = ?"} {
				if err := t.db.Exec(q, w.Head.ID).Error; err != nil {
					return err
				}
			}
		}
		for _, k := range keys[w.Head.ID] {
			if err := t.db.Exec("DELETE FROM source_keys WHERE k = ? AND head = ?", SourceHash(k), w.Head.ID).Error; err != nil {
				return err
			}
		}
		r := t.db.Exec("UPDATE heads SET number = ?, standing = ?, draft = ?, version = ?, trail_seq = ?, trail_hash = ?, deed = ?, updated = ? WHERE id = ? AND version = ? AND deed = ?",
			number, standing, draft, base+1, w.Head.TrailSeq, w.Head.TrailHash, t.Deed.ID, t.Deed.At, w.Head.ID, base, deed)
		if r.Error != nil {
			return r.Error
		}
		if r.RowsAffected != 1 {
			return ErrConflict
		}
	}
	return links.run(t.db)
}
