package store

import (
	"context"
	"crypto/sha256"
	"database/sql"
	"encoding/json"
	"errors"
	"fmt"
	"strings"
	"time"

	"gorm.io/gorm"
)

// Kinds of heads.
const (
	KindPart      = "part"
	KindModel     = "model"
	KindCabinet   = "cabinet"
	KindCrosswalk = "crosswalk"
	KindIntake    = "intake"
	KindBOM       = "bom"
	KindLayout    = "layout"
	KindEndings   = "endings"
	KindDelivery  = "delivery"
)

// Head is the changing end of an aggregate: which content is its draft, which is released, and the end of its trail.
type Head struct {
	ID        ID `gorm:"primaryKey"`
	Kind      string
	Number    string
	Version   int
	Drawer    string
	Standing  string
	Revision  int
	Draft     ID
	Released  ID
	TrailSeq  int
	TrailHash Hash
	Deed      ID
	Updated   time.Time
}

// TableName is GORM's hook.
func (Head) TableName() string { return "heads" }

// Content is one frozen piece of content: a saved draft, and perhaps a revision.
type Content struct {
	ID       ID `gorm:"primaryKey"`
	Head     ID
	Hash     Hash
	Format   string
	Template int
	Bytes    []byte
	Origins  []byte
	Deed     ID
	At       time.Time
}

// TableName is GORM's hook.
func (Content) TableName() string { return "contents" }

// Revision is a released content.
type Revision struct {
	Head       ID `gorm:"primaryKey"`
	Number     int
	Content    ID
	Hash       Hash
	HashBefore Hash
	Note       string
	Account    ID
	At         time.Time
	Deed       ID
}

// TableName is GORM's hook.
func (Revision) TableName() string { return "revisions" }

// TrailEntry is one link of an aggregate's chain.
type TrailEntry struct {
	Head       ID `gorm:"primaryKey"`
	Seq        int
	Deed       ID
	Account    ID
	At         time.Time
	Action     string
	Detail     string // JSON
	HashBefore Hash
	Hash       Hash
}

// TableName is GORM's hook.
func (TrailEntry) TableName() string { return "trail" }

// Sum computes the entry's hash over everything but itself.
func (e TrailEntry) Sum() Hash {
	h := sha256.New()
	fmt.Fprintf(h, "%s\n%d\n%s\n%s\n%s\n%s\n%s\n%s\n", e.Head, e.Seq, e.Deed, e.Account, e.At.UTC().Format(time.RFC3339Nano), e.Action, e.Detail, e.HashBefore)
	var out Hash
	h.Sum(out[:0])
	return out
}

// Stamp is now in the precision the database keeps.
func Stamp(t time.Time) time.Time { return t.UTC().Truncate(time.Microsecond) }

// HeadAt loads an aggregate's head in a write that is based on a version; ErrConflict when it has moved on.
func (t *Tx) HeadAt(kind string, id ID, version int) (Head, error) {
	h, err := t.Head(kind, id)
	if err == nil && h.Version != version {
		err = ErrConflict
	}
	return h, err
}

// Head loads an aggregate's head.
func (r Reader) Head(kind string, id ID) (Head, error) {
	return loadHead(r.db, "kind = ? AND id = ?", kind, id)
}

// HeadByNumber loads an aggregate's head by its number or name.
func (r Reader) HeadByNumber(kind, number string) (Head, error) {
	return loadHead(r.db, "kind = ? AND number = ?", kind, number)
}

func loadHead(db *gorm.DB, where string, args ...any) (h Head, err error) {
	r := db.Where(where, args...).Limit(1).Find(&h)
	if r.Error == nil && r.RowsAffected == 0 {
		return h, ErrNotFound
	}
	return h, r.Error
}

// Heads lists heads of a kind, newest first.
func (r Reader) Heads(kind string, offset, limit int) (out []Head, total int64, err error) {
	db := r.db
	if err = db.Model(&Head{}).Where("kind = ?", kind).Count(&total).Error; err == nil {
		err = db.Where("kind = ?", kind).Order("updated DESC, id").Offset(offset).Limit(limit).Find(&out).Error
	}
	return out, total, err
}

// AddContent keeps content for a head.
func (t *Tx) AddContent(c *Content) error {
	c.Deed, c.At = t.Deed.ID, t.Deed.At
	if c.Origins == nil {
		c.Origins = []byte("{}")
	}
	return t.db.Create(c).Error
}

// Content loads one piece of content.
func (r Reader) Content(id ID) (Content, error) {
	return loadContent(r.db, id)
}

func loadContent(db *gorm.DB, id ID) (c Content, err error) {
	r := db.Where("id = ?", id).Limit(1).Find(&c)
	if r.Error == nil && r.RowsAffected == 0 {
		return c, ErrNotFound
	}
	return c, r.Error
}

// link adds a trail entry to h, in memory and in the table; the caller then writes the head.
func (t *Tx) link(h *Head, action string, detail any) error {
	e, err := Link(h, t.Deed, action, detail)
	if err != nil {
		return err
	}
	return t.db.Create(&e).Error
}

// Link makes the next trail entry of h and moves the end of h's chain to it.
func Link(h *Head, d Deed, action string, detail any) (TrailEntry, error) {
	raw, err := json.Marshal(detail)
	if err != nil {
		return TrailEntry{}, err
	}
	e := TrailEntry{Head: h.ID, Seq: h.TrailSeq + 1, Deed: d.ID, Account: d.Account, At: d.At, Action: action, Detail: string(raw), HashBefore: h.TrailHash}
	e.Hash = e.Sum()
	h.TrailSeq, h.TrailHash, h.Deed, h.Updated = e.Seq, e.Hash, d.ID, d.At
	return e, nil
}

// Insert writes a new head with its first trail entry. A taken number is ErrNumberTaken.
func (t *Tx) Insert(h *Head, action string, detail any) error {
	h.Version = 1
	if err := t.link(h, action, detail); err != nil {
		return err
	}
	return taken(t.db.Create(h).Error, ErrNumberTaken)
}

// Update writes a changed head with its next trail entry. When the head is no longer at h.Version, it is ErrConflict
// and nothing is written.
func (t *Tx) Update(h *Head, action string, detail any) error {
	base := h.Version
	h.Version++
	if err := t.link(h, action, detail); err != nil {
		if code(err) == 1062 { // somebody else wrote the next link
			return ErrConflict
		}
		return err
	}
	r := t.db.Model(&Head{}).Where("id = ? AND version = ?", h.ID, base).Select("*").Omit("id", "kind").Updates(h)
	if r.Error != nil {
		return r.Error
	}
	if r.RowsAffected != 1 {
		return ErrConflict
	}
	return nil
}

// AddRevision freezes h's draft as its next revision. The caller writes the head.
func (t *Tx) AddRevision(h *Head, c Content, note string) error {
	var before Revision
	if h.Revision > 0 {
		if err := t.db.Where("head = ? AND number = ?", h.ID, h.Revision).First(&before).Error; err != nil {
			return err
		}
	}
	h.Revision++
	h.Released, h.Draft = c.ID, ID{}
	return t.db.Create(&Revision{Head: h.ID, Number: h.Revision, Content: c.ID, Hash: c.Hash, HashBefore: before.Hash, Note: note,
		Account: t.Deed.Account, At: t.Deed.At, Deed: t.Deed.ID}).Error
}

// Revisions lists a head's revisions, newest first.
func (r Reader) Revisions(head ID) (out []Revision, err error) {
	err = r.db.Where("head = ?", head).Order("number DESC").Limit(1000).Find(&out).Error
	return out, err
}

// Revision loads one revision.
func (r Reader) Revision(head ID, number int) (out Revision, err error) {
	q := r.db.Where("head = ? AND number = ?", head, number).Limit(1).Find(&out)
	if q.Error == nil && q.RowsAffected == 0 {
		return out, ErrNotFound
	}
	return out, q.Error
}

// Trail lists a head's trail, newest first.
func (r Reader) Trail(head ID, offset, limit int) (out []TrailEntry, err error) {
	err = r.db.Where("head = ?", head).Order("seq DESC").Offset(offset).Limit(limit).Find(&out).Error
	return out, err
}

// SourceHash turns a source key (see core/part) into the key of the table that keeps sources apart.
func SourceHash(key string) Hash { return sha256.Sum256([]byte(key)) }

// SetSources makes the source keys of a head those given. A key that another part holds is ErrSourceTaken, unless twin is
// set: then the two are kept side by side on purpose.
func (t *Tx) SetSources(head ID, keys []string, twin bool) error {
	var have []struct {
		K    Hash
		Twin int
	}
	if err := t.db.Raw("SELECT k, twin FROM source_keys WHERE head = ?", head).Scan(&have).Error; err != nil {
		return err
	}
	want := map[Hash]bool{}
	for _, k := range keys {
		want[SourceHash(k)] = true
	}
	for _, h := range have {
		if want[h.K] {
			delete(want, h.K)
			continue
		}
		if err := t.db.Exec("DELETE FROM source_keys WHERE k = ? AND twin = ? AND head = ?", h.K, h.Twin, head).Error; err != nil {
			return err
		}
	}
	for k := range want {
		place := 0
		if twin {
			if err := t.db.Raw("SELECT COALESCE(MAX(twin) + 1, 0) FROM source_keys WHERE k = ?", k).Scan(&place).Error; err != nil {
				return err
			}
		}
		if err := t.db.Exec("INSERT INTO source_keys (k, twin, head) VALUES (?,?,?)", k, place, head).Error; err != nil {
			return taken(err, ErrSourceTaken)
		}
	}
	return nil
}

// SourceHolder returns the part that holds a source key.
func (r Reader) SourceHolder(key string) (id ID, ok bool, err error) {
	err = r.db.Raw("SELECT head FROM source_keys WHERE k = ? ORDER BY twin LIMIT 1", SourceHash(key)).Row().Scan(&id)
	if errors.Is(err, sql.ErrNoRows) {
		return id, false, nil
	}
	return id, err == nil, err
}

// Use is one place of a part that a model fills.
type Use struct {
	Parent        ID
	Place         string // "draft symbol", "released body", ...
	Child         ID
	ChildRevision int
}

// SetUses replaces the uses of a part whose place begins with a word ("draft" or "released").
func (t *Tx) SetUses(parent ID, word string, uses []Use) error {
	if err := t.db.Exec("DELETE FROM uses WHERE parent = ? AND place LIKE ?", parent, word+" %").Error; err != nil {
		return err
	}
	for _, u := range uses {
		if err := t.db.Exec("INSERT INTO uses (parent, place, child, child_revision) VALUES (?,?,?,?)", parent, word+" "+u.Place, u.Child, u.ChildRevision).Error; err != nil {
			return err
		}
	}
	return nil
}

// UsesOf lists the models that a part uses.
func (r Reader) UsesOf(parent ID) (out []Use, err error) {
	err = r.db.Raw("SELECT parent, place, child, child_revision FROM uses WHERE parent = ?", parent).Scan(&out).Error
	return out, err
}

// UsedBy lists the parts that use a model.
func (r Reader) UsedBy(child ID, offset, limit int) (out []Use, err error) {
	err = r.db.Raw("SELECT parent, place, child, child_revision FROM uses WHERE child = ? ORDER BY parent, place LIMIT ? OFFSET ?", child, limit, offset).Scan(&out).Error
	return out, err
}

// ReserveNumbers takes n numbers of a prefix's counter and returns the first. It is its own short transaction: numbers
// of a deed that fails afterwards stay unused, and none is ever given twice.
func (s *Store) ReserveNumbers(ctx context.Context, prefix string, n int) (first int64, err error) {
	err = s.small(ctx, func(g *gorm.DB) error {
		if err := g.Exec("INSERT IGNORE INTO counters (prefix, next) VALUES (?, 1)", prefix).Error; err != nil {
			return err
		}
		if err := g.Exec("UPDATE counters SET next = next + ? WHERE prefix = ?", n, prefix).Error; err != nil {
			return err
		}
		var next int64
		if err := g.Raw("SELECT next FROM counters WHERE prefix = ?", prefix).Scan(&next).Error; err != nil {
			return err
		}
		first = next - int64(n)
		return nil
	})
	return first, err
}

// Counters returns the next number of each prefix.
func (r Reader) Counters() (map[string]int64, error) {
	var rows []struct {
		Prefix string
		Next   int64
	}
	err := r.db.Raw("SELECT prefix, next FROM counters").Scan(&rows).Error
	out := map[string]int64{}
	for _, row := range rows {
		out[row.Prefix] = row.Next
	}
	return out, err
}

// StepPast makes a prefix's counter continue after a number that was given by hand.
func (s *Store) StepPast(ctx context.Context, prefix string, number int64) error {
	return s.small(ctx, func(g *gorm.DB) error {
		if err := g.Exec("INSERT IGNORE INTO counters (prefix, next) VALUES (?, 1)", prefix).Error; err != nil {
			return err
		}
		return g.Exec("UPDATE counters SET next = GREATEST(next, ?) WHERE prefix = ?", number+1, prefix).Error
	})
}

// PartRow is a part's head with the content that others see: the released one, or the draft where none is.
type PartRow struct {
	Head
	Bytes  []byte
	Former []string
}

// Parts walks over the parts whose head was written by a deed, or over all for the zero deed.
func (r Reader) Parts(deed ID, each func(PartRow) error) error {
	q := "SELECT h.id, h.kind, h.number, h.version, h.drawer, h.standing, h.revision, h.draft, h.released, h.updated, c.bytes " +
		"FROM heads h JOIN contents c ON c.id = COALESCE(h.released, h.draft) WHERE h.kind = 'part'"
	var args []any
	if !deed.IsZero() {
		q, args = q+" AND h.deed = ?", []any{deed}
	}
	former, err := r.formerNumbers(deed)
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
		if err := rows.Scan(&p.ID, &p.Kind, &p.Number, &p.Version, &p.Drawer, &p.Standing, &p.Revision, &p.Draft, &p.Released, &p.Updated, &p.Bytes); err != nil {
			return err
		}
		p.Former = former[p.ID]
		if err := each(p); err != nil {
			return err
		}
	}
	return rows.Err()
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
	if err != nil && (Transient(err) || code(err) == 1062) {
		return 0, nil
	}
	return moved, err
}

// Feed lists the steps after a position.
func (r Reader) Feed(after int64, limit int) (out []FeedRow, err error) {
	err = r.db.Raw("SELECT position, deed, kind, at FROM feed WHERE position > ? ORDER BY position LIMIT ?", after, limit).Scan(&out).Error
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

// ReleasedParts lists the released parts of the library by number.
func (r Reader) ReleasedParts(offset, limit int) (out []Head, err error) {
	err = r.db.Where("kind = ? AND revision > 0 AND standing NOT IN ?", KindPart, []string{Merged, Withdrawn}).Order("number").Offset(offset).Limit(limit).Find(&out).Error
	return out, err
}
