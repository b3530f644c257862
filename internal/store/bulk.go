package store

import (
	"context"
	"encoding/json"
	"fmt"
	"strings"

	"gorm.io/gorm"
)

// NewPart is one part of a bulk deed, ready to be staged.
type NewPart struct {
	Head    Head // ID, Number and Drawer set
	Content Content
	Sources []string // source keys
	Detail  any      // of its first trail entry
}

// batch is how many parts one staging transaction writes: large enough to be quick, small enough to stall nobody.
const batch = 2000

// Stage writes parts where nothing points at them yet, in transactions of their own. A crash leaves rows that are
// never seen and are swept later. progress is told after each batch; an error from it stops the staging.
func (s *Store) Stage(ctx context.Context, d Deed, parts []NewPart, action string, progress func(done int) error) (staging ID, err error) {
	staging = NewID()
	err = s.Small(ctx, func(g *gorm.DB) error {
		return g.Exec("INSERT INTO stagings (id, deed, at) VALUES (?,?,NOW(6))", staging, d.ID).Error
	})
	for from := 0; from < len(parts) && err == nil; from += batch {
		chunk := parts[from:min(from+batch, len(parts))]
		heads, contents, trail, keys := newInsert("staged_heads", "staging, head, number, drawer, content, trail_hash"),
			newInsert("contents", "id, head, hash, format, template, bytes, origins, deed, at"),
			newInsert("trail", "head, seq, deed, account, at, action, detail, hash_before, hash"), newInsert("staged_keys", "staging, k, head")
		for i := range chunk {
			p := &chunk[i]
			p.Head.TrailSeq, p.Head.TrailHash = 0, Hash{}
			e, err := Link(&p.Head, d, action, p.Detail)
			if err != nil {
				return staging, err
			}
			c := p.Content
			heads.add(staging, p.Head.ID, p.Head.Number, p.Head.Drawer, c.ID, e.Hash)
			contents.add(c.ID, p.Head.ID, c.Hash, c.Format, c.Template, c.Bytes, c.Origins, d.ID, d.At)
			trail.add(e.Head, e.Seq, e.Deed, e.Account, e.At, e.Action, e.Detail, e.HashBefore, e.Hash)
			for _, k := range p.Sources {
				keys.add(staging, SourceHash(k), p.Head.ID)
			}
		}
		err = s.Small(ctx, func(g *gorm.DB) error {
			for _, in := range []*insert{heads, contents, trail, keys} {
				if err := in.run(g); err != nil {
					return err
				}
			}
			return nil
		})
		if err == nil {
			err = progress(from + len(chunk))
		}
	}
	return staging, taken(err, ErrSourceTaken) // two staged parts have one source
}

// Switch makes all staged parts visible in one short transaction, together with the deed and whatever also writes.
// Either all of it is there afterwards or nothing.
func (s *Store) Switch(ctx context.Context, d Deed, staging ID, count int, also func(*Tx) (any, error)) (json.RawMessage, error) {
	out, err := s.Do(ctx, d, func(t *Tx) (any, error) {
		r := t.Exec("INSERT INTO heads (id, kind, number, version, drawer, standing, revision, draft, released, trail_seq, trail_hash, deed, updated) "+
			"SELECT head, 'part', number, 1, drawer, 'active', 0, content, NULL, 1, trail_hash, ?, ? FROM staged_heads WHERE staging = ?", d.ID, d.At, staging)
		if r.Error != nil {
			return nil, taken(r.Error, ErrNumberTaken)
		}
		if int(r.RowsAffected) != count {
			return nil, fmt.Errorf("store: %d of %d staged parts are there", r.RowsAffected, count)
		}
		if err := t.Exec("INSERT INTO source_keys (k, twin, head) SELECT k, 0, head FROM staged_keys WHERE staging = ?", staging).Error; err != nil {
			return nil, taken(err, ErrSourceTaken)
		}
		return also(t)
	})
	if err != nil {
		return nil, err
	}
	// What is left of the staging is of no use to anybody; failing to remove it now only leaves it to the sweep.
	_ = s.Small(context.WithoutCancel(ctx), func(g *gorm.DB) error {
		for _, q := range []string{"DELETE FROM staged_heads WHERE staging = ?", "DELETE FROM staged_keys WHERE staging = ?", "DELETE FROM stagings WHERE id = ?"} {
			if err := g.Exec(q, staging).Error; err != nil {
				return err
			}
		}
		return nil
	})
	return out, nil
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
