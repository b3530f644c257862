package store

import (
	"context"
	"strings"
	"time"

	"gorm.io/gorm"
)

// PartRow is a part's head with the content that others see: the released one, or the draft where none is.
type PartRow struct {
	Head
	Shown  ID     // the content
	Format string // of the content
	Bytes  []byte
	Former []string `gorm:"-"`
	Series []string `gorm:"-"` // names of those that its sources are in
}

// Parts walks over the parts whose head was written by a deed, or over all for the zero deed.
func (r Reader) Parts(deed ID, each func(PartRow) error) error {
	q := "SELECT h.id, h.kind, h.number, h.version, h.drawer, h.standing, h.revision, h.label, h.state, h.draft_state, h.draft, h.released, h.updated, c.id, c.format, c.bytes " +
		"FROM heads h JOIN contents c ON c.id = COALESCE(h.released, h.draft) WHERE h.kind = 'part'"
	var args []any
	if !deed.IsZero() {
		q, args = q+" AND h.deed = ?", []any{deed}
	}
	former, series, err := r.namesOf(deed)
	if err != nil {
		return err
	}
	rows, err := r.db.Raw(q, args...).Rows()
	if err != nil {
		return err
	}
	defer rows.Close()
	for rows.Next() {
		var p PartRow
		if err := rows.Scan(&p.ID, &p.Kind, &p.Number, &p.Version, &p.Drawer, &p.Standing, &p.Revision, &p.Label, &p.State, &p.DraftState, &p.Draft, &p.Released, &p.Updated, &p.Shown, &p.Format, &p.Bytes); err != nil {
			return err
		}
		p.Former, p.Series = former[p.ID], series[p.ID]
		if err := each(p); err != nil {
			return err
		}
	}
	return rows.Err()
}

// namesOf are the former numbers and the names of the series of the parts that a deed wrote, or of all.
func (r Reader) namesOf(deed ID) (former, series map[ID][]string, err error) {
	if former, err = r.formerNumbers(deed); err == nil {
		series, err = r.seriesNames(deed)
	}
	return former, series, err
}

// PartHeads walks over the parts that a deed wrote and nobody since, some at a time, without their content: format and bytes are blank.
func (r Reader) PartHeads(deed ID, atOnce int, each func([]PartRow) error) error {
	former, series, err := r.namesOf(deed)
	if err != nil {
		return err
	}
	for after := []byte{}; ; {
		var some []PartRow
		// The index by name: left to itself, the server goes through all entries of the deed for each page of them.
		err := r.db.Raw("SELECT id, kind, number, version, drawer, standing, revision, label, state, draft_state, draft, released, updated, COALESCE(released, draft) AS shown FROM heads FORCE INDEX (deed) WHERE deed = ? AND id > ? AND kind = ? ORDER BY id LIMIT ?",
			deed, after, KindPart, atOnce).Scan(&some).Error
		if err != nil || len(some) == 0 {
			return err
		}
		for i := range some {
			some[i].Former, some[i].Series = former[some[i].ID], series[some[i].ID]
		}
		if err := each(some); err != nil {
			return err
		}
		last := some[len(some)-1].ID
		after = last[:]
	}
}

// CountPartsOf counts the parts that a deed wrote and nobody since.
func (r Reader) CountPartsOf(deed ID) (n int64, err error) {
	err = r.db.Raw("SELECT COUNT(*) FROM heads WHERE kind = 'part' AND deed = ?", deed).Scan(&n).Error
	return n, err
}

// FeedRow is one step of the feed.
type FeedRow struct {
	Position int64
	Deed     ID
	Kind     string
	At       time.Time
}

// Sequence moves committed deeds from the outbox to the end of the feed. Rival instances collide on the position and
// the loser simply tries again later.
func (s *Store) Sequence(ctx context.Context) (moved int, err error) {
	var waiting []int
	err = s.reads.WithContext(ctx).Raw("SELECT 1 FROM outbox LIMIT 1").Scan(&waiting).Error
	if err == nil && len(waiting) > 0 { // mostly there is nothing, which takes no transaction to find
		moved, err = s.sequence(ctx)
	}
	if err != nil && (Transient(err) || code(err) == 1062) {
		return 0, nil
	}
	return moved, err
}

func (s *Store) sequence(ctx context.Context) (moved int, err error) {
	err = s.db.WithContext(ctx).Transaction(func(g *gorm.DB) error {
		var out []FeedRow
		if err := g.Raw("SELECT deed, kind, at FROM outbox ORDER BY at, deed LIMIT 500").Scan(&out).Error; err != nil || len(out) == 0 {
			return err
		}
		var last int64
		if err := g.Raw("SELECT COALESCE(MAX(position), 0) FROM feed").Scan(&last).Error; err != nil {
			return err
		}
		marks, args, gone := []string{}, []any{}, []any{}
		for i, o := range out {
			marks = append(marks, "(?,?,?,?)")
			args = append(args, last+1+int64(i), o.Deed, o.Kind, o.At)
			gone = append(gone, o.Deed)
		}
		if err := g.Exec("INSERT INTO feed (position, deed, kind, at) VALUES "+strings.Join(marks, ","), args...).Error; err != nil {
			return err
		}
		moved = len(out)
		return g.Exec("DELETE FROM outbox WHERE deed IN (?"+strings.Repeat(",?", len(gone)-1)+")", gone...).Error
	})
	return moved, err
}

// Feed lists the steps after a position.
func (r Reader) Feed(after int64, limit int) (out []FeedRow, err error) {
	err = r.db.Raw("SELECT position, deed, kind, at FROM feed WHERE position > ? ORDER BY position LIMIT ?", after, limit).Scan(&out).Error
	return out, err
}

// Touched is something that a deed wrote.
type Touched struct {
	Kind   string `json:"kind"`
	ID     ID     `json:"id"`
	Number string `json:"number"`
}

// TouchedBy lists what a deed wrote, at most limit.
func (r Reader) TouchedBy(deed ID, limit int) (out []Touched, err error) {
	err = r.db.Raw("SELECT h.kind, h.id, h.number FROM trail t JOIN heads h ON h.id = t.head WHERE t.deed = ? LIMIT ?", deed, limit).Scan(&out).Error
	return out, err
}

// KindsTouchedBy lists the kinds of what a deed wrote.
func (r Reader) KindsTouchedBy(deed ID) (out []string, err error) {
	err = r.db.Raw("SELECT DISTINCT h.kind FROM trail t JOIN heads h ON h.id = t.head WHERE t.deed = ?", deed).Scan(&out).Error
	return out, err
}

// FeedEnd returns the position of the newest step.
func (r Reader) FeedEnd() (p int64, err error) {
	err = r.db.Raw("SELECT COALESCE(MAX(position), 0) FROM feed").Scan(&p).Error
	return p, err
}

// FeedPlace says where a deed stands in the feed: 0 where it waits to be put in order. done is false where there is no
// such deed, or none yet.
func (r Reader) FeedPlace(deed ID) (position int64, done bool, err error) {
	var n int64
	err = r.db.Raw("SELECT (SELECT COUNT(*) FROM deeds WHERE id = ?), COALESCE((SELECT position FROM feed WHERE deed = ?), 0)", deed, deed).Row().Scan(&n, &position)
	return position, n > 0, err
}

// FeedDeed returns the deed at a position of the feed; "" at position 0.
func (r Reader) FeedDeed(position int64) (string, error) {
	if position == 0 {
		return "", nil
	}
	var id ID
	if err := r.db.Raw("SELECT deed FROM feed WHERE position = ?", position).Row().Scan(&id); err != nil {
		return "", ErrNotFound
	}
	return id.String(), nil
}
