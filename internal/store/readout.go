package store

import (
	"cmp"
	"context"
	"encoding/json"
	"fmt"
	"slices"
	"strings"
	"time"

	"gorm.io/gorm"

	"jollydrawer/core/part"
	"jollydrawer/core/readout"
)

// ReadoutTable is a table of the readout: a row for each content of a drawer's parts that was ever in use since the table is kept.
// Nobody but the views reads it. Whoever freezes a content writes its row into every table of the drawer, in the same write.
type ReadoutTable struct {
	Room   string `gorm:"primaryKey"` // the schema that it lies in
	Name   string `gorm:"primaryKey"`
	Drawer string
	Hash   string // of the shape
	Shape  string // JSON of readout.Shape
	// Followed is the shape by which the contents of now are written, where parameters were renamed and the table waits for another one
	// to take its place; blank where that is Shape.
	Followed string
	Filled   bool   // it has the row of everything that is in use
	Shown    string // hash of the view that was made of it last
	Made     time.Time
}

// TableName is GORM's hook.
func (ReadoutTable) TableName() string { return "readout_tables" }

// At is the table's name in statements.
func (t ReadoutTable) At() string { return "`" + t.Room + "`.`" + t.Name + "`" }

// shape is the table's own, by which it was made.
func (t ReadoutTable) shape() (readout.Shape, error) { return t.read(t.Shape) }

// followed is the shape by which the contents of now are written.
func (t ReadoutTable) followed() (readout.Shape, error) { return t.read(cmp.Or(t.Followed, t.Shape)) }

func (t ReadoutTable) read(text string) (s readout.Shape, err error) {
	if err = json.Unmarshal([]byte(text), &s); err != nil {
		err = fmt.Errorf("the shape of the readout's table %s: %w", t.Name, err)
	}
	return s, err
}

// under is the shape by which contents of after a change of templates are written.
func (t ReadoutTable) under(coming readout.Change) (readout.Shape, error) {
	if coming.IsZero() {
		return t.followed()
	}
	if !coming.Replaces(t.Drawer, t.Hash) {
		return t.shape()
	}
	s, err := t.followed()
	return coming.Follow(s), err
}

// columns are the table's columns behind head, content and at.
func columnsOf(s readout.Shape) string {
	var out []string
	for _, k := range readout.Kept {
		out = append(out, "k_"+k.Name)
	}
	for i := range s.Columns {
		out = append(out, fmt.Sprintf("p_%d", i))
	}
	return strings.Join(out, ", ")
}

// ReadoutTables lists the tables that are kept.
func (r Reader) ReadoutTables() (out []ReadoutTable, err error) { return r.readoutTables("TRUE") }

func (r Reader) readoutTables(where string, args ...any) (out []ReadoutTable, err error) {
	err = r.db.Where(where, args...).Order("drawer, made, name").Find(&out).Error
	return out, err
}

// readoutTablesBeside lists the tables that are kept beside known ones. Mostly there is none, which is told without the shapes of all.
func (r Reader) readoutTablesBeside(known []ReadoutTable) (out []ReadoutTable, err error) {
	type key struct {
		Room, Name string
		Made       time.Time // one of the same name that was dropped and made again is another
	}
	var kept []key
	if err := r.db.Model(&ReadoutTable{}).Select("room, name, made").Find(&kept).Error; err != nil {
		return nil, err
	}
	var beside [][]any
	for _, k := range kept {
		if !slices.ContainsFunc(known, func(n ReadoutTable) bool { return n.Room == k.Room && n.Name == k.Name && n.Made.Equal(k.Made) }) {
			beside = append(beside, []any{k.Room, k.Name})
		}
	}
	if len(beside) == 0 {
		return nil, nil
	}
	return r.readoutTables("(room, name) IN ?", beside)
}

// frozen is a content that a write makes the one in use.
type frozen struct {
	number  string
	content Content
	part    *part.Content // as it is taken apart, where its maker did so
}

// writeRows writes the rows of what is frozen into the tables of their drawers. Where templates change with it, a table that gives way
// keeps the rows that it has, and carried lists whose; unless all is set.
func writeRows(db *gorm.DB, tables []ReadoutTable, some []frozen, coming readout.Change, all bool) (carried map[string][]ID, err error) {
	if len(tables) == 0 || len(some) == 0 {
		return nil, nil
	}
	contents := make([]*part.Content, len(some))
	for i := range some {
		if contents[i] = some[i].part; contents[i] != nil {
			continue
		}
		c, err := part.Decode(some[i].content.Bytes)
		if err != nil {
			return nil, fmt.Errorf("the content of %s: %w", some[i].number, err)
		}
		contents[i] = &c
	}
	carried = map[string][]ID{}
	now := Stamp(time.Now())
	for _, t := range tables {
		if !slices.ContainsFunc(contents, func(c *part.Content) bool { return c.Drawer == t.Drawer }) {
			continue
		}
		s, err := t.under(coming)
		if err != nil {
			return nil, err
		}
		carry := !all && coming.Replaces(t.Drawer, t.Hash)
		in := newInsert(t.At(), "head, content, at, "+columnsOf(s))
		in.then = " ON DUPLICATE KEY UPDATE at = VALUES(at)" // the same content makes the same row
		for i := range some {
			f := &some[i]
			switch {
			case contents[i].Drawer != t.Drawer:
			case carry:
				carried[t.At()] = append(carried[t.At()], f.content.Head)
			default:
				in.add(append([]any{f.content.Head, f.content.ID, now}, s.Row(f.number, contents[i])...)...)
			}
		}
		if err := in.run(db); err != nil {
			return nil, err
		}
	}
	return carried, nil
}

// freeze writes the rows of a content of a part that a write makes the one in use.
func (t *Tx) freeze(h *Head, c Content) error {
	if h.Kind != KindPart {
		return nil
	}
	p, err := part.Decode(c.Bytes)
	if err != nil {
		return fmt.Errorf("the content of %s: %w", h.Number, err)
	}
	if err := t.guard(); err != nil { // it assumes the tables that are kept: a change of their list is before it or behind it (see UnderCabinet)
		return err
	}
	tables, err := t.readoutTables("drawer = ?", p.Drawer)
	if err != nil {
		return err
	}
	_, err = writeRows(t.db, tables, []frozen{{number: h.Number, content: c, part: &p}}, readout.Change{}, false)
	return err
}

// FollowedTables are the tables that are kept, and those of them that are written by something else after a change of templates.
type FollowedTables struct{ kept, follow []ReadoutTable }

// FollowTables says what a change of templates does to the tables that are kept. It is asked outside of the write that makes the
// change, which takes it (see Tx.MoveCabinet): no other change of templates comes between the two without that one failing.
func (r Reader) FollowTables(to readout.Change) (out FollowedTables, err error) {
	if out.kept, err = r.ReadoutTables(); err != nil {
		return out, err
	}
	out.follow, err = followTables(out.kept, to)
	return out, err
}

// followTables says by what the tables that give way in a change of templates are written after it: what their columns are called then.
// It lists those of which that changes.
func followTables(tables []ReadoutTable, to readout.Change) (out []ReadoutTable, err error) {
	for _, n := range tables {
		followed := ""
		if to.Replaces(n.Drawer, n.Hash) {
			now, err := n.followed()
			if err != nil {
				return nil, err
			}
			raw, err := json.Marshal(to.Follow(now))
			if err != nil {
				return nil, err
			}
			if followed = string(raw); followed == n.Shape {
				followed = ""
			}
		}
		if followed != n.Followed {
			n.Followed = followed
			out = append(out, n)
		}
	}
	return out, nil
}

// setFollowed notes by what some tables are written, in one statement, as everybody who writes parts waits for it.
func (t *Tx) setFollowed(tables []ReadoutTable) error {
	if len(tables) == 0 {
		return nil
	}
	var cases []any
	var places [][]any
	for _, n := range tables {
		cases, places = append(cases, n.Room, n.Name, n.Made, n.Followed), append(places, []any{n.Room, n.Name, n.Made})
	}
	set := "UPDATE readout_tables SET followed = CASE" + strings.Repeat(" WHEN room = ? AND name = ? AND made = ? THEN ?", len(places)) + " END WHERE (room, name, made) IN ?"
	return t.db.Exec(set, append(cases, places)...).Error
}

// KeepReadoutTable lets writes write a table's rows from now on, which has to be there.
func (s *Store) KeepReadoutTable(ctx context.Context, n ReadoutTable) error {
	return s.tablesChange(ctx, func(g *gorm.DB) error { return once(g).Create(&n).Error })
}

// ReadoutTableFilled notes that a table has the row of everything in use; what was written behind mark, a place in the feed, it is given now.
func (s *Store) ReadoutTableFilled(ctx context.Context, n ReadoutTable, mark int64) error {
	return s.tablesChange(ctx, func(g *gorm.DB) error {
		late, err := Reader{g}.PartsWrittenSince(mark)
		if err != nil {
			return err
		}
		ids := make([]ID, len(late))
		for i, p := range late {
			ids[i] = p.ID
		}
		if err := fillRows(g, n, ids); err != nil {
			return err
		}
		return g.Model(&ReadoutTable{}).Where("room = ? AND name = ?", n.Room, n.Name).Update("filled", true).Error
	})
}

// ReadoutTableShown notes which view was made of a table.
func (s *Store) ReadoutTableShown(ctx context.Context, n ReadoutTable, view string) error {
	return s.small(ctx, func(g *gorm.DB) error {
		return g.Model(&ReadoutTable{}).Where("room = ? AND name = ?", n.Room, n.Name).Update("shown", view).Error
	})
}

// DropReadoutTable lets writes write a table's rows no more.
func (s *Store) DropReadoutTable(ctx context.Context, n ReadoutTable) error {
	return s.tablesChange(ctx, func(g *gorm.DB) error {
		return g.Exec("DELETE FROM readout_tables WHERE room = ? AND name = ?", n.Room, n.Name).Error
	})
}

// tablesChange changes the list of tables: no write that assumed the one before is left behind it.
func (s *Store) tablesChange(ctx context.Context, change func(*gorm.DB) error) error {
	return s.small(ctx, func(g *gorm.DB) error {
		if err := g.Exec("UPDATE cabinet_guards SET n = n + 1").Error; err != nil {
			return err
		}
		return change(g)
	})
}

// FillReadoutTable writes the rows of some parts that are in use, behind one; last is the zero ID where there are no more.
func (s *Store) FillReadoutTable(ctx context.Context, n ReadoutTable, after ID) (last ID, err error) {
	var ids []ID
	if err := s.reads.WithContext(ctx).Raw("SELECT id FROM heads WHERE kind = ? AND released IS NOT NULL AND id > ? AND (drawer = ? OR draft IS NOT NULL) ORDER BY id LIMIT ?", KindPart, after[:], n.Drawer, batch).
		Scan(&ids).Error; err != nil || len(ids) == 0 {
		return last, err
	}
	return ids[len(ids)-1], s.small(ctx, func(g *gorm.DB) error { return fillRows(g, n, ids) })
}

// fillRows writes the rows of parts that are there as they are now.
func fillRows(g *gorm.DB, n ReadoutTable, ids []ID) error {
	r := Reader{g}
	heads, err := r.HeadsByID(ids)
	if err != nil {
		return err
	}
	var released []ID
	for _, h := range heads {
		if h.Kind == KindPart && !h.Released.IsZero() {
			released = append(released, h.Released)
		}
	}
	contents, err := r.ContentsAlone(released)
	if err != nil {
		return err
	}
	var rows []frozen
	for _, h := range heads {
		c, ok := contents[h.Released]
		if h.Kind != KindPart || !ok {
			continue
		}
		if c.Format != part.Format {
			return fmt.Errorf("the content of %s is of the form %q, and this version of the program reads %q", h.Number, c.Format, part.Format)
		}
		rows = append(rows, frozen{number: h.Number, content: c})
	}
	_, err = writeRows(g, []ReadoutTable{n}, rows, readout.Change{}, false)
	return err
}

// ReadoutRows reads the rows of some contents, under the columns of readout.Shape.Row.
func (r Reader) ReadoutRows(n ReadoutTable, contents []ID) (map[ID][]any, error) {
	s, err := n.shape()
	if err != nil {
		return nil, err
	}
	out := map[ID][]any{}
	for some := range slices.Chunk(contents, batch) {
		rows, err := r.db.Raw("SELECT content, "+columnsOf(s)+" FROM "+n.At()+" WHERE content IN ?", some).Rows()
		if err != nil {
			return nil, err
		}
		for rows.Next() {
			var id ID
			row := make([]any, len(readout.Kept)+len(s.Columns))
			into := []any{&id}
			for i := range row {
				into = append(into, &row[i])
			}
			if err := rows.Scan(into...); err != nil {
				rows.Close()
				return nil, err
			}
			out[id] = row
		}
		rows.Close()
		if err := rows.Err(); err != nil {
			return nil, err
		}
	}
	return out, nil
}

// SweepReadoutTable removes rows that nobody sees any more, some at a time: of contents that are out of use, or never came into it.
// Those of an hour are left, and all as long as something is staged.
func (s *Store) SweepReadoutTable(ctx context.Context, n ReadoutTable) (removed int64, err error) {
	var staged int64
	if err := s.reads.WithContext(ctx).Raw("SELECT COUNT(*) FROM stagings WHERE NOT never AND at > NOW(6) - INTERVAL 1 DAY").Scan(&staged).Error; err != nil || staged > 0 {
		return 0, err
	}
	var gone []ID
	if err := s.reads.WithContext(ctx).Raw("SELECT r.content FROM "+n.At()+" r LEFT JOIN heads h ON h.id = r.head AND h.released = r.content WHERE h.id IS NULL AND r.at < NOW(6) - INTERVAL 1 HOUR LIMIT ?", batch).
		Scan(&gone).Error; err != nil || len(gone) == 0 {
		return 0, err
	}
	return int64(len(gone)), s.small(ctx, func(g *gorm.DB) error {
		return g.Exec("DELETE r FROM "+n.At()+" r LEFT JOIN heads h ON h.id = r.head AND h.released = r.content WHERE r.content IN ? AND h.id IS NULL AND r.at < NOW(6) - INTERVAL 1 HOUR", gone).Error
	})
}

// ReadoutState is what the readout says of the parts of a drawer in a state.
type ReadoutState struct {
	Drawer string `gorm:"primaryKey"`
	Fact   string `gorm:"primaryKey"` // status or standing
	State  string `gorm:"primaryKey"` // the key that is kept with the part
	Word   string
	Uses   int  // 0 yes, 1 with caution, 2 no
	Shown  bool // design tools see what is in it
}

// TableName is GORM's hook.
func (ReadoutState) TableName() string { return "readout_states" }

// ReadoutStates lists what is said of all states.
func (r Reader) ReadoutStates() (out []ReadoutState, err error) {
	err = r.db.Order("drawer, fact, state").Find(&out).Error
	return out, err
}

// SetReadoutStates makes what is said of all states that which is given, where have is what this write found said.
func (t *Tx) SetReadoutStates(have, all []ReadoutState) error {
	was := map[[3]string]ReadoutState{}
	for _, s := range have {
		was[[3]string{s.Drawer, s.Fact, s.State}] = s
	}
	in := newInsert("readout_states", "drawer, fact, state, word, uses, shown")
	in.then = " ON DUPLICATE KEY UPDATE word = VALUES(word), uses = VALUES(uses), shown = VALUES(shown)"
	for _, s := range all {
		key := [3]string{s.Drawer, s.Fact, s.State}
		if was[key] != s {
			in.add(s.Drawer, s.Fact, s.State, s.Word, s.Uses, s.Shown)
		}
		delete(was, key)
	}
	for key := range was {
		if err := t.db.Exec("DELETE FROM readout_states WHERE drawer = ? AND fact = ? AND state = ?", key[0], key[1], key[2]).Error; err != nil {
			return err
		}
	}
	return in.run(t.db)
}

// StatesOfParts lists the keys of states and standings that parts are in.
func (r Reader) StatesOfParts() (states, standings []string, err error) {
	if err = r.db.Raw("SELECT DISTINCT state FROM heads WHERE kind = ?", KindPart).Scan(&states).Error; err == nil {
		err = r.db.Raw("SELECT DISTINCT standing FROM heads WHERE kind = ?", KindPart).Scan(&standings).Error
	}
	return states, standings, err
}
