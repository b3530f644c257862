package store

import (
	"context"
	"fmt"
	"slices"

	"gorm.io/gorm"

	"jollydrawer/core/readout"
)

// carryRows lets the rows of some staged parts, by table, stand for what becomes of them, where a table is read until the one of the
// coming shape takes its place. A part that has none there, such as one from another drawer, gets one by what the columns will be called.
func (g *Staging) carryRows(db *gorm.DB, carried map[string][]ID) error {
	for _, t := range g.tables {
		if len(carried[t.At()]) == 0 {
			continue
		}
		s, err := t.shape()
		if err != nil {
			return err
		}
		columns := columnsOf(s)
		for heads := range slices.Chunk(carried[t.At()], rowsAtOnce) {
			done := db.Exec("INSERT IGNORE INTO "+t.At()+" (head, content, at, "+columns+") "+
				"SELECT r.head, s.released, NOW(6), "+columns+" FROM staged_heads s STRAIGHT_JOIN heads h ON h.id = s.head STRAIGHT_JOIN "+t.At()+" r ON r.content = h.released WHERE s.staging = ? AND s.head IN ?",
				g.id, heads)
			if done.Error != nil {
				return done.Error
			}
			if int(done.RowsAffected) == len(heads) {
				continue
			}
			var without []coming
			if err := db.Raw("SELECT s.head, s.released, s.number FROM staged_heads s LEFT JOIN "+t.At()+" r ON r.content = s.released WHERE s.staging = ? AND s.head IN ? AND r.content IS NULL",
				g.id, heads).Scan(&without).Error; err != nil {
				return err
			}
			rows, err := frozenOf(Reader{db}, without)
			if err != nil {
				return err
			}
			if _, err := writeRows(db, []ReadoutTable{t}, rows, g.coming, true); err != nil {
				return err
			}
		}
	}
	return nil
}

// carry carries over the rows of tables of which so many wait for it: a row at a time would cost a statement each.
func (g *Staging) carry(ctx context.Context, least int) error {
	due := map[string][]ID{}
	for table, heads := range g.carried {
		if len(heads) >= least {
			due[table] = heads
		}
	}
	if len(due) == 0 {
		return nil
	}
	if err := g.store.small(ctx, func(db *gorm.DB) error { return g.carryRows(db, due) }); err != nil {
		return err
	}
	for table := range due {
		delete(g.carried, table)
	}
	return nil
}

// catchUp writes what is missing of the rows of what is staged, in tables that are kept only since too, before anybody waits for it.
func (g *Staging) catchUp(ctx context.Context) error {
	if g.released == 0 {
		return nil
	}
	fresh, err := g.store.Read(ctx).readoutTablesBeside(g.tables)
	if err != nil {
		return err
	}
	if err := g.eachReleased(g.store.Read(ctx), fresh, func(some []frozen) error {
		var carried map[string][]ID
		err := g.store.small(ctx, func(db *gorm.DB) (err error) {
			carried, err = writeRows(db, fresh, some, g.coming, false)
			return err
		})
		for table, heads := range carried {
			g.carried[table] = append(g.carried[table], heads...)
		}
		return err
	}); err != nil {
		return err
	}
	g.tables = append(g.tables, fresh...)
	return g.carry(ctx, 1)
}

// coming is a part that is staged, with what it will have in use.
type coming struct {
	Head, Released ID
	Number         string
}

// frozenOf loads what some staged parts will have in use.
func frozenOf(r Reader, some []coming) ([]frozen, error) {
	ids := make([]ID, len(some))
	for i, s := range some {
		ids[i] = s.Released
	}
	contents, err := r.ContentsAlone(ids)
	if err != nil {
		return nil, err
	}
	rows := make([]frozen, len(some))
	for i, s := range some {
		rows[i] = frozen{number: s.Number, content: contents[s.Released]}
	}
	return rows, nil
}

// eachReleased calls f with what is staged to be in use, some at a time, where there are tables that lack it.
func (g *Staging) eachReleased(r Reader, tables []ReadoutTable, f func([]frozen) error) error {
	for from := []byte{}; len(tables) > 0; {
		var some []coming
		err := r.db.Raw("SELECT s.head, s.released, s.number FROM staged_heads s WHERE s.staging = ? AND s.released_hash IS NOT NULL AND s.kind = ? AND s.head > ? ORDER BY s.head LIMIT ?",
			g.id, KindPart, from, batch).Scan(&some).Error
		if err != nil || len(some) == 0 {
			return err
		}
		rows, err := frozenOf(r, some)
		if err != nil {
			return err
		}
		if err := f(rows); err != nil {
			return err
		}
		last := some[len(some)-1].Head
		from = last[:]
	}
	return nil
}

// derive writes the rows of things on their way to being shown, and returns whose are to be carried over.
func (g *Staging) derive(db *gorm.DB, some []Staged) (carried map[string][]ID, err error) {
	if len(g.tables) == 0 {
		return nil, nil
	}
	var rows []frozen
	for i := range some {
		p := &some[i]
		if p.Release == nil || p.Head.Kind != KindPart {
			continue
		}
		f := frozen{number: p.Head.Number}
		switch at := slices.IndexFunc(p.Contents, func(c Content) bool { return c.ID == p.Head.Released }); {
		case at >= 0:
			f.content, f.part = p.Contents[at], p.Part
		case p.Frozen != nil:
			f.content, f.part = *p.Frozen, p.Part
		default:
			return nil, fmt.Errorf("store: %s is released without its content", p.Head.Number)
		}
		f.content.Head = p.Head.ID
		rows = append(rows, f)
	}
	return writeRows(db, g.tables, rows, g.coming, false)
}

// rederive writes the rows of tables that are kept only since a moment ago, as it is called when things are shown. Where templates
// change with them, which rows are carried over was settled before, and it is ErrOvertaken.
func (g *Staging) rederive(t *Tx) error {
	if g.released == 0 {
		return nil
	}
	if err := t.guard(); err != nil {
		return err
	}
	fresh, err := t.readoutTablesBeside(g.tables)
	if err != nil {
		return err
	}
	if len(fresh) > 0 && !g.coming.IsZero() {
		return ErrOvertaken
	}
	return g.eachReleased(t.Reader, fresh, func(some []frozen) error {
		_, err := writeRows(t.db, fresh, some, readout.Change{}, false)
		return err
	})
}
