package store

import (
	"context"
	"time"

	"gorm.io/gorm"
)

// Watch is something that a person wants to hear of.
type Watch struct {
	ID      ID `gorm:"primaryKey"`
	Account ID
	Sort    string // thing, drawer, kind or question
	About   string // of a thing its identifier, of the others the key, the kind or the question
	Head    ID     // of a thing
	Made    time.Time
}

// TableName is GORM's hook.
func (Watch) TableName() string { return "watches" }

// Notice is what a person is told of a deed, once.
type Notice struct {
	ID      ID `gorm:"primaryKey"`
	Account ID
	Deed    ID
	N       int64 // counts the notices of an installation, for order and for "seen up to here"
	At      time.Time
	Title   string
	Body    string // JSON
	Seen    *time.Time
	Digest  bool // it waits for the next digest
}

// TableName is GORM's hook.
func (Notice) TableName() string { return "notices" }

// Told is how a person wants to be told beside the console.
type Told struct {
	Account ID     `gorm:"primaryKey"`
	Mail    string // address; blank: no mail
	Rhythm  string // none, once, hour or day
	Due     *time.Time
	Hook    string // address; blank: none
	Keyed   int    // how often the key that signs was made anew
	Version int
}

// TableName is GORM's hook.
func (Told) TableName() string { return "told" }

// Sending is a mail or a call of a hook on its way.
type Sending struct {
	ID      ID `gorm:"primaryKey"`
	Account ID
	Way     string // mail or hook
	Address string
	Payload string // JSON
	State   string // waiting, sent or aside
	Tries   int
	Due     time.Time
	Problem string
	Made    time.Time
}

// TableName is GORM's hook.
func (Sending) TableName() string { return "sendings" }

// DeedNotices is the kind of the deeds that tell people, which write nothing else: pages hear of them, and nobody is told of them.
// KindNotice is the kind of thing that such a deed writes.
const (
	DeedNotices = "notices"
	KindNotice  = "notice"
)

// The states of sendings.
const (
	SendingWaits = "waiting"
	SendingSent  = "sent"
	SendingAside = "aside"
)

// WatchesOf lists what a person watches, newest first.
func (r Reader) WatchesOf(account ID) (out []Watch, err error) {
	err = r.db.Where("account = ?", account).Order("made DESC, id").Find(&out).Error
	return out, err
}

// AddWatch keeps a watch; one that is there stays.
func (t *Tx) AddWatch(w Watch) error { return once(t.db).Create(&w).Error }

// DropWatch removes a person's watch of something, and says whether there was one.
func (t *Tx) DropWatch(account ID, sort, about string) (bool, error) {
	r := t.db.Exec("DELETE FROM watches WHERE account = ? AND sort = ? AND about = ?", account, sort, about)
	return r.RowsAffected > 0, r.Error
}

// WatchesBySort lists all watches of a sort but those of things.
func (r Reader) WatchesBySort(sort string) (out []Watch, err error) {
	err = r.db.Where("sort = ?", sort).Find(&out).Error
	return out, err
}

// Done is what a deed did to some things that have kind, drawer and action in common.
type Done struct {
	Kind, Drawer, Action string
	N                    int
}

// DoneBy lists what a deed did, things counted.
func (r Reader) DoneBy(deed ID) (out []Done, err error) {
	err = r.db.Raw("SELECT h.kind, IF(h.kind = 'model', SUBSTRING_INDEX(h.number, ': ', 1), h.drawer) AS drawer, t.action, COUNT(DISTINCT h.id) AS n FROM trail t JOIN heads h ON h.id = t.head WHERE t.deed = ? GROUP BY 1, 2, 3", deed).Scan(&out).Error
	return out, err
}

// Deedly is one thing that a deed wrote, with the entry of its trail.
type Deedly struct {
	Head                         ID
	Kind, Number, Drawer, Action string
	Detail                       string
}

// EntriesBy lists things that a deed wrote with their entries, at most limit.
func (r Reader) EntriesBy(deed ID, limit int) (out []Deedly, err error) {
	err = r.db.Raw("SELECT h.id AS head, h.kind, h.number, IF(h.kind = 'model', SUBSTRING_INDEX(h.number, ': ', 1), h.drawer) AS drawer, t.action, t.detail FROM trail t JOIN heads h ON h.id = t.head WHERE t.deed = ? ORDER BY h.kind, h.number, t.seq LIMIT ?", deed, limit).Scan(&out).Error
	return out, err
}

// Concerned is a person whom a thing of a deed concerns.
type Concerned struct{ Account, Head ID }

// WatchersOf lists who watched things that a deed wrote when it was done, one by one.
func (r Reader) WatchersOf(deed ID, at time.Time, limit int) (out []Concerned, err error) {
	err = r.db.Raw("SELECT w.account, w.head FROM trail t JOIN watches w ON w.head = t.head AND w.made <= ? WHERE t.deed = ? LIMIT ?", at, deed, limit).Scan(&out).Error
	return out, err
}

// AuthorsMoved lists who wrote the content of things that a deed moved, commented on or took over.
func (r Reader) AuthorsMoved(deed ID, limit int) (out []Concerned, err error) {
	err = r.db.Raw("SELECT DISTINCT h.written_by AS account, h.id AS head FROM trail t JOIN heads h ON h.id = t.head AND h.kind IN ('part', 'model', 'bom') "+
		"WHERE t.deed = ? AND t.action IN ('released', 'moved', 'standing changed', 'commented', 'held') AND h.written_by IS NOT NULL LIMIT ?", deed, limit).Scan(&out).Error
	return out, err
}

// WantersOf lists who wants what a deed wrote about.
func (r Reader) WantersOf(deed ID) (out []Concerned, err error) {
	err = r.db.Raw("SELECT w.wanted_by AS account, w.head FROM trail t JOIN wants w ON w.head = t.head WHERE t.deed = ?", deed).Scan(&out).Error
	return out, err
}

// WritersOf lists who wrote the newest content of some things, and who watches them.
func (r Reader) WritersOf(heads []ID) (out []Concerned, err error) {
	if len(heads) == 0 {
		return nil, nil
	}
	err = r.db.Raw("SELECT h.written_by AS account, h.id AS head FROM heads h WHERE h.id IN ? AND h.written_by IS NOT NULL UNION SELECT account, head FROM watches WHERE head IN ?", heads, heads).Scan(&out).Error
	return out, err
}

// DoerOf returns who did a deed, and when, as its trails say: deeds themselves are not kept for good.
func (r Reader) DoerOf(deed ID) (account ID, at time.Time, err error) {
	var row struct {
		Account ID
		At      time.Time
	}
	q := r.db.Raw("SELECT account, at FROM trail WHERE deed = ? LIMIT 1", deed).Scan(&row)
	if q.Error == nil && q.RowsAffected == 0 {
		return account, at, ErrNotFound
	}
	return row.Account, row.At, q.Error
}

// Followed returns how far a follower of the feed is that keeps its place in the database; there is false where it has none yet.
func (r Reader) Followed(name string) (position int64, there bool, err error) {
	q := r.db.Raw("SELECT position FROM followers WHERE name = ?", name).Scan(&position)
	return position, q.RowsAffected > 0, q.Error
}

// BeginFollowing gives a follower its first place; one that has a place keeps it.
func (s *Store) BeginFollowing(ctx context.Context, name string, position int64) error {
	return s.small(ctx, func(g *gorm.DB) error {
		return g.Exec("INSERT IGNORE INTO followers (name, position) VALUES (?,?)", name, position).Error
	})
}

// FollowOn moves a follower on where nothing else is to be written. It is ErrConflict where another instance did.
func (s *Store) FollowOn(ctx context.Context, name string, from, to int64) error {
	return s.small(ctx, func(g *gorm.DB) error { return (&Tx{Reader: Reader{g}}).FollowOn(name, from, to) })
}

// FollowOn moves a follower on with what a write writes.
func (t *Tx) FollowOn(name string, from, to int64) error {
	r := t.db.Exec("UPDATE followers SET position = ? WHERE name = ? AND position = ?", to, name, from)
	if r.Error == nil && r.RowsAffected != 1 {
		return ErrConflict
	}
	return r.Error
}

// AddNotices keeps notices; of a deed that a person was told of already none is kept again.
func (t *Tx) AddNotices(all []Notice) error {
	in := newInsert("notices", "id, account, deed, n, at, title, body, digest")
	in.then = " ON DUPLICATE KEY UPDATE id = id"
	for _, n := range all {
		in.add(n.ID, n.Account, n.Deed, n.N, n.At, n.Title, n.Body, n.Digest)
	}
	return in.run(t.db)
}

// AddSendings puts mails and calls of hooks in line.
func (t *Tx) AddSendings(all []Sending) error {
	in := newInsert("sendings", "id, account, way, address, payload, state, tries, due, problem, made")
	for _, w := range all {
		in.add(w.ID, w.Account, w.Way, w.Address, w.Payload, SendingWaits, 0, w.Due, "", w.Made)
	}
	return in.run(t.db)
}

// ToldOf returns how a person wants to be told; the zero value where nothing was said.
func (r Reader) ToldOf(account ID) (out Told, err error) {
	err = r.db.Where("account = ?", account).Limit(1).Find(&out).Error
	if out.Account.IsZero() {
		out = Told{Account: account, Rhythm: "none"}
	}
	return out, err
}

// AllTold lists how people want to be told who said so.
func (r Reader) AllTold() (map[ID]Told, error) {
	var all []Told
	err := r.db.Find(&all).Error
	out := make(map[ID]Told, len(all))
	for _, w := range all {
		out[w.Account] = w
	}
	return out, err
}

// SetTold keeps how a person wants to be told.
func (t *Tx) SetTold(w Told) error {
	if w.Version == 1 {
		return taken(t.db.Create(&w).Error, ErrConflict)
	}
	r := t.db.Exec("UPDATE told SET mail = ?, rhythm = ?, due = ?, hook = ?, keyed = ?, version = ? WHERE account = ? AND version = ?", w.Mail, w.Rhythm, w.Due, w.Hook, w.Keyed, w.Version, w.Account, w.Version-1)
	if r.Error == nil && r.RowsAffected != 1 {
		return ErrConflict
	}
	return r.Error
}

// Notices lists what a person was told, newest first.
func (r Reader) Notices(account ID, unseen bool, offset, limit int) (out []Notice, total, unread int64, err error) {
	const order = "n DESC, id"
	if unseen {
		out, total, err = page[Notice](r.db.Where("account = ? AND seen IS NULL", account), order, offset, limit)
		return out, total, total, err
	}
	if unread, err = r.Unread(account); err == nil {
		out, total, err = page[Notice](r.db.Where("account = ?", account), order, offset, limit)
	}
	return out, total, unread, err
}

// Unread counts what a person was told and has not seen.
func (r Reader) Unread(account ID) (n int64, err error) {
	err = r.db.Model(&Notice{}).Where("account = ? AND seen IS NULL", account).Count(&n).Error
	return n, err
}

// SeeNotices notes that a person has seen some notices, or all up to one.
func (t *Tx) SeeNotices(account ID, ids []ID, upTo int64) (n int64, err error) {
	q := t.db.Model(&Notice{}).Where("account = ? AND seen IS NULL", account)
	if upTo > 0 {
		q = q.Where("n <= ?", upTo)
	} else {
		q = q.Where("id IN ?", ids)
	}
	q = q.Update("seen", t.Deed.At)
	return q.RowsAffected, q.Error
}

// DigestsDue lists who waits for a digest.
func (r Reader) DigestsDue(at time.Time) (out []Told, err error) {
	err = r.db.Where("rhythm IN ('hour', 'day') AND mail <> '' AND due <= ?", at).Find(&out).Error
	return out, err
}

// Gathered lists what goes into a person's next digest, oldest first, at most limit, and says how many there are and which is the last.
func (r Reader) Gathered(account ID, limit int) (out []Notice, total, upTo int64, err error) {
	q := r.db.Model(&Notice{}).Where("account = ? AND digest", account)
	if err = q.Session(&gorm.Session{}).Select("COUNT(*), COALESCE(MAX(n), 0)").Row().Scan(&total, &upTo); err == nil {
		err = q.Order("n, id").Limit(limit).Find(&out).Error
	}
	return out, total, upTo, err
}

// EndDigest notes that a person is told what was gathered up to one.
func (t *Tx) EndDigest(account ID, upTo int64) error {
	return t.db.Exec("UPDATE notices SET digest = FALSE WHERE account = ? AND digest AND n <= ?", account, upTo).Error
}

// ClaimSending takes a sending that is due, for as long as trying it may take.
func (s *Store) ClaimSending(ctx context.Context, most time.Duration) (out Sending, ok bool, err error) {
	const some = 8 // others may be after the first ones at the same moment
	var due []Sending
	if err := s.reads.WithContext(ctx).Where("state = ? AND due <= NOW(6)", SendingWaits).Order("due, id").Limit(some).Find(&due).Error; err != nil {
		return out, false, err
	}
	for _, w := range due {
		r := s.db.WithContext(ctx).Exec("UPDATE sendings SET due = NOW(6) + INTERVAL ? MICROSECOND, tries = tries + 1 WHERE id = ? AND state = ? AND tries = ?", most.Microseconds(), w.ID, SendingWaits, w.Tries)
		if r.Error != nil && !Transient(r.Error) {
			return out, false, r.Error
		}
		if r.Error == nil && r.RowsAffected == 1 {
			w.Tries++
			return w, true, nil
		}
	}
	return out, false, nil
}

// EndSending notes what became of a try: sent, tried again after a while, or set aside.
func (s *Store) EndSending(ctx context.Context, w Sending, again time.Duration) error {
	return s.small(ctx, func(g *gorm.DB) error {
		return g.Exec("UPDATE sendings SET state = ?, problem = ?, due = NOW(6) + INTERVAL ? MICROSECOND WHERE id = ? AND tries = ?", w.State, w.Problem, again.Microseconds(), w.ID, w.Tries).Error
	})
}

// Sendings lists what is on its way or was set aside, of a person or of all; sent ones are left out.
func (r Reader) Sendings(account ID, offset, limit int) (out []Sending, total int64, err error) {
	q := r.db.Where("state <> ?", SendingSent)
	if !account.IsZero() {
		q = q.Where("account = ?", account)
	}
	return page[Sending](q, "made DESC, id", offset, limit)
}

// SendAgain puts a sending that was set aside back in line, of a person or of anybody; false where there is none.
func (t *Tx) SendAgain(id, account ID) (bool, error) {
	q := t.db.Model(&Sending{}).Where("id = ? AND state = ?", id, SendingAside)
	if !account.IsZero() {
		q = q.Where("account = ?", account)
	}
	q = q.Updates(map[string]any{"state": SendingWaits, "tries": 0, "due": t.Deed.At})
	return q.RowsAffected > 0, q.Error
}
