package store

import (
	"crypto/sha256"
	"database/sql"
	"encoding/json"
	"errors"
	"slices"
	"strings"
	"time"

	"jollydrawer/core/trail"

	"gorm.io/gorm"
)

// Kinds of heads.
const (
	KindPart       = "part"
	KindModel      = "model"
	KindCabinet    = "cabinet"
	KindCrosswalk  = "crosswalk"
	KindIntake     = "intake"
	KindBOM        = "bom"
	KindRemovedBOM = "bom removed"
	KindLayout     = "layout"
	KindEndings    = "endings"
	KindReadings   = "readings"
	KindDelivery   = "delivery"
	KindLifecycle  = "lifecycle"
	KindWant       = "want"
	KindSeries     = "series"
	KindConnection = "connection"
	KindRates      = "rates"
	KindSeverities = "severities"
	KindForms      = "sheets"
)

// Head is the changing end of an aggregate: which content is its draft, which is released, and the end of its trail.
type Head struct {
	ID       ID `gorm:"primaryKey"`
	Kind     string
	Number   string
	Version  int
	Drawer   string
	Standing string
	Revision int
	Label    string // of the revision; blank where its number is its label
	Draft    ID
	Released ID
	// State is that of the newest revision, DraftState that of the draft: keys of the lifecycle, blank where nobody moved them.
	State      string
	DraftState string
	Moved      *time.Time // when DraftState became what it is; nil where nobody moved it
	// WrittenBy is who wrote the newest content: the account of its deed, zero for the service itself. Writers counts who wrote content
	// since the last release: 0 nobody, 1 that one person, 2 perhaps others too. Both can be told from the trail (audit.Verify does).
	WrittenBy ID
	Writers   int
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
	Label      string // blank where the number is the label
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
	return trail.Sum(e.Head.String(), e.Seq, e.Deed.String(), e.Account.String(), e.At, e.Action, e.Detail, e.HashBefore.String())
}

// Stamp is now in the precision the database keeps.
func Stamp(t time.Time) time.Time { return t.UTC().Truncate(time.Microsecond) }

// IDs lists the identifiers of some heads, in their order.
func IDs(heads []Head) (ids []ID) {
	for _, h := range heads {
		ids = append(ids, h.ID)
	}
	return ids
}

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

// Called loads an aggregate's head as people call it: by its identifier, or by its number or name.
func (r Reader) Called(kind, key string) (Head, error) {
	if id, err := ParseID(key); err == nil {
		return r.Head(kind, id)
	}
	return r.HeadByNumber(kind, strings.TrimSpace(key))
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
	return page[Head](r.db.Where("kind = ?", kind), "updated DESC, id", offset, limit)
}

// page lists one page of what a query finds, and says how much that is in all; it is counted only where the page does not tell.
func page[T any](q *gorm.DB, order string, offset, limit int) (out []T, total int64, err error) {
	if err = q.Session(&gorm.Session{}).Order(order).Offset(offset).Limit(limit).Find(&out).Error; err != nil {
		return nil, 0, err
	}
	if n := len(out); n < limit && (n > 0 || offset == 0) {
		return out, int64(offset + n), nil
	}
	err = q.Session(&gorm.Session{}).Model(new(T)).Count(&total).Error
	return out, total, err
}

// AddContent keeps content for a head.
func (t *Tx) AddContent(c *Content) error {
	c.Deed, c.At = t.Deed.ID, t.Deed.At
	if t.wrote == nil {
		t.wrote = map[ID]bool{}
	}
	t.wrote[c.ID] = true
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

// rules says whether things of a kind rule how others are read.
func rules(kind string) bool { return kind == KindCabinet || kind == KindLifecycle }

// link adds a trail entry to h, in memory and in the table; the caller then writes the head.
func (t *Tx) link(h *Head, action string, detail any) error {
	e, err := Link(h, t.Deed, action, detail, t.wrote[h.Newest()])
	if err != nil {
		return err
	}
	t.ruled = t.ruled || rules(h.Kind)
	return t.db.Create(&e).Error
}

// Link makes the next trail entry of h and moves the end of h's chain to it. wrote says whether the deed wrote the newest content of h.
func Link(h *Head, d Deed, action string, detail any, wrote bool) (TrailEntry, error) {
	h.follow(d, action, wrote)
	raw, err := json.Marshal(detail)
	if err != nil {
		return TrailEntry{}, err
	}
	e := TrailEntry{Head: h.ID, Seq: h.TrailSeq + 1, Deed: d.ID, Account: d.Account, At: d.At, Action: action, Detail: string(raw), HashBefore: h.TrailHash}
	e.Hash = e.Sum()
	h.TrailSeq, h.TrailHash, h.Deed, h.Updated = e.Seq, e.Hash, d.ID, d.At
	if h.Draft.IsZero() {
		h.DraftState = "" // what is not there is in no state
	}
	return e, nil
}

// Newest names the newest content of a head: its draft, or else what is released.
func (h *Head) Newest() ID {
	if h.Draft.IsZero() {
		return h.Released
	}
	return h.Draft
}

// follow notes who wrote h by now. Only a release begins the count anew, as in
// the trail; a change of templates that freezes a revision beside somebody's draft does not.
func (h *Head) follow(d Deed, action string, wrote bool) {
	if wrote {
		switch {
		case h.Writers == 0:
			h.Writers = 1
		case h.WrittenBy != d.Account:
			h.Writers = 2
		}
		h.WrittenBy = d.Account
	}
	if action == released || action == frozenBOM {
		h.Writers = 0
	}
}

// released and frozenBOM are the actions that make a revision of what people wrote.
const (
	released  = "released"
	frozenBOM = "frozen"
)

// WriterOf returns who wrote a content, as the trail says; zero for the service itself.
func (r Reader) WriterOf(content ID) (ID, error) {
	var row struct{ Account ID }
	err := r.db.Raw("SELECT w.account FROM contents c JOIN trail w ON w.head = c.head AND w.deed = c.deed WHERE c.id = ? LIMIT 1", content).Scan(&row).Error
	return row.Account, err
}

// Insert writes a new head with its first trail entry. A taken number is ErrNumberTaken.
func (t *Tx) Insert(h *Head, action string, detail any) error {
	h.Version = 1
	if err := t.link(h, action, detail); err != nil {
		return err
	}
	if err := t.db.Create(h).Error; err != nil || h.Kind != KindPart {
		return taken(err, ErrNumberTaken)
	}
	return t.giveNumber(h.Number, h.ID, ownNumber)
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
		return taken(r.Error, ErrNumberTaken) // where it is renamed
	}
	if r.RowsAffected != 1 {
		return ErrConflict
	}
	return nil
}

// Retire makes a head one of another kind, in which only its trail is looked at: it is in no list of its own kind any more.
func (t *Tx) Retire(h *Head, kind string) error {
	r := t.db.Exec("UPDATE heads SET kind = ? WHERE id = ? AND version = ?", kind, h.ID, h.Version)
	if r.Error == nil && r.RowsAffected != 1 {
		return ErrConflict
	}
	h.Kind = kind
	return r.Error
}

// Note writes an entry on the trail of a thing whose content and states stay as they are: whoever edits it meanwhile is not disturbed.
// It is ErrConflict where somebody else writes on the trail at the same moment.
func (t *Tx) Note(h *Head, action string, detail any) error {
	base := h.TrailSeq
	if err := t.link(h, action, detail); err != nil {
		if code(err) == 1062 {
			return ErrConflict
		}
		return err
	}
	r := t.db.Exec("UPDATE heads SET trail_seq = ?, trail_hash = ?, deed = ?, updated = ? WHERE id = ? AND trail_seq = ?", h.TrailSeq, h.TrailHash, h.Deed, h.Updated, h.ID, base)
	if r.Error == nil && r.RowsAffected != 1 {
		return ErrConflict
	}
	return r.Error
}

// AddRevision freezes h's draft as its next revision, under a label where its number is not it. The caller writes the head.
func (t *Tx) AddRevision(h *Head, c Content, note, label string) error {
	var before Revision
	if h.Revision > 0 {
		if err := t.db.Where("head = ? AND number = ?", h.ID, h.Revision).First(&before).Error; err != nil {
			return err
		}
	}
	h.Revision++
	h.Released, h.Draft, h.Label = c.ID, ID{}, label
	if err := t.db.Create(&Revision{Head: h.ID, Number: h.Revision, Label: label, Content: c.ID, Hash: c.Hash, HashBefore: before.Hash, Note: note,
		Account: t.Deed.Account, At: t.Deed.At, Deed: t.Deed.ID}).Error; err != nil {
		return taken(err, ErrConflict) // somebody else made it
	}
	return t.freeze(h, c)
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

// PartVersions returns the version of every part of the library.
func (r Reader) PartVersions() (map[ID]int, error) {
	rows, err := r.db.Raw("SELECT id, version FROM heads WHERE kind = ? AND standing NOT IN ?", KindPart, []string{Merged, Withdrawn}).Rows()
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	out := map[ID]int{}
	for rows.Next() {
		var id ID
		var version int
		if err := rows.Scan(&id, &version); err != nil {
			return nil, err
		}
		out[id] = version
	}
	return out, rows.Err()
}

// WrittenPart is a part as a deed left it.
type WrittenPart struct {
	ID      ID
	Version int
	Gone    bool // merged away or withdrawn
}

// PartsWrittenSince lists the parts that deeds wrote behind a position of the feed, and perhaps some that were written shortly
// before; within a write not those of its own deed. It takes as long as there are such parts, however large the library is.
func (r Reader) PartsWrittenSince(position int64) (out []WrittenPart, err error) {
	err = r.db.Raw("SELECT h.id, h.version, h.standing IN ? AS gone FROM (SELECT deed FROM feed WHERE position > ? UNION SELECT deed FROM outbox) d STRAIGHT_JOIN heads h FORCE INDEX (deed) ON h.deed = d.deed WHERE h.kind = ?",
		[]string{Merged, Withdrawn}, position, KindPart).Scan(&out).Error
	return out, err
}

// ReleasedParts lists the released parts of the library by number.
func (r Reader) ReleasedParts(offset, limit int) (out []Head, err error) {
	err = r.db.Where("kind = ? AND revision > 0 AND standing NOT IN ?", KindPart, []string{Merged, Withdrawn}).Order("number").Offset(offset).Limit(limit).Find(&out).Error
	return out, err
}

// HeadsThatSay lists the heads of a kind whose newest content holds one of some texts.
func (r Reader) HeadsThatSay(kind string, texts []string) (out []Head, err error) {
	err = r.db.Table("heads h").Select("h.*").Joins("JOIN contents c ON c.id = COALESCE(h.draft, h.released)").Where("h.kind = ?", kind).Where(r.says("c.bytes", texts)).Order("h.id").Find(&out).Error
	return out, err
}

// says asks for what holds one of some texts in a column; none hold nothing.
func (r Reader) says(column string, texts []string) *gorm.DB {
	q := r.db.Where("FALSE")
	for _, text := range texts {
		q = q.Or("LOCATE(?, "+column+") > 0", text)
	}
	return q
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
func (r Reader) Contents(ids []ID) (map[ID]Content, error) { return r.contents(ids, "*") }

// ContentsAlone loads pieces of content without Origins, which is larger than all the rest.
func (r Reader) ContentsAlone(ids []ID) (map[ID]Content, error) {
	return r.contents(ids, "id, head, hash, format, template, bytes, deed, at")
}

func (r Reader) contents(ids []ID, columns string) (map[ID]Content, error) {
	out := make(map[ID]Content, len(ids))
	for lot := range slices.Chunk(ids, batch) {
		var some []Content
		if err := r.db.Select(columns).Where("id IN ?", lot).Find(&some).Error; err != nil {
			return nil, err
		}
		for _, c := range some {
			out[c.ID] = c
		}
	}
	return out, nil
}

// ReleasedHashes returns the hashes of what is in use of some heads.
func (r Reader) ReleasedHashes(heads []ID) (map[ID]Hash, error) {
	out := make(map[ID]Hash, len(heads))
	for some := range slices.Chunk(heads, batch) {
		var rows []struct {
			Head ID
			Hash Hash
		}
		if err := r.db.Raw("SELECT r.head, r.hash FROM revisions r JOIN heads h ON h.id = r.head AND h.revision = r.number WHERE r.head IN ?", some).Scan(&rows).Error; err != nil {
			return nil, err
		}
		for _, row := range rows {
			out[row.Head] = row.Hash
		}
	}
	return out, nil
}
