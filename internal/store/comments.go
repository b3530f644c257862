package store

import (
	"time"
)

// Comment is what somebody said about a thing, or about one of its values.
type Comment struct {
	ID      ID `gorm:"primaryKey"`
	Head    ID
	About   string // key of a value or item; blank: the thing
	Answers ID     // the comment that it answers
	Account ID
	Text    string
	At      time.Time
	Settled *time.Time
	Settler ID
}

// TableName is GORM's hook.
func (Comment) TableName() string { return "comments" }

// Comments lists what was said about a thing, oldest first.
func (r Reader) Comments(head ID, offset, limit int) (out []Comment, total int64, err error) {
	return page[Comment](r.db.Where("head = ?", head), "at, id", offset, limit)
}

// Comment loads one comment.
func (r Reader) Comment(id ID) (out Comment, err error) {
	q := r.db.Where("id = ?", id).Limit(1).Find(&out)
	if q.Error == nil && q.RowsAffected == 0 {
		return out, ErrNotFound
	}
	return out, q.Error
}

// OpenComments counts for some things the comments that nobody settled, answers left out.
func (r Reader) OpenComments(heads []ID) (map[ID]int, error) {
	var rows []struct {
		Head ID
		N    int
	}
	err := r.db.Raw("SELECT head, COUNT(*) AS n FROM comments WHERE head IN ? AND settled IS NULL AND answers IS NULL GROUP BY head", heads).Scan(&rows).Error
	out := map[ID]int{}
	for _, row := range rows {
		out[row.Head] = row.N
	}
	return out, err
}

// TalkedAbout is a thing about which something open was said.
type TalkedAbout struct {
	Head  `gorm:"embedded"`
	Open  int
	Since time.Time
}

// TalkedAbout lists things whose newest content a person wrote and about which something is open, what waits longest first, and says how
// many there are; more than MostCounted are not counted.
func (r Reader) TalkedAbout(account ID, limit int) (out []TalkedAbout, total int, err error) {
	const from = "FROM comments c JOIN heads h ON h.id = c.head WHERE c.settled IS NULL AND c.answers IS NULL AND h.written_by = ?"
	if err = r.db.Raw("SELECT COUNT(*) FROM (SELECT DISTINCT c.head "+from+" LIMIT ?) x", account, MostCounted).Scan(&total).Error; err == nil {
		err = r.db.Raw("SELECT h.*, COUNT(*) AS open, MIN(c.at) AS since "+from+" GROUP BY h.id ORDER BY since, h.id LIMIT ?", account, limit).Scan(&out).Error
	}
	return out, total, err
}

// AddComment keeps a comment.
func (t *Tx) AddComment(c Comment) error { return t.db.Create(&c).Error }

// SettleComment notes that a comment is settled, or open again.
func (t *Tx) SettleComment(id ID, settled bool) error {
	if !settled {
		return t.db.Exec("UPDATE comments SET settled = NULL, settler = NULL WHERE id = ?", id).Error
	}
	return t.db.Exec("UPDATE comments SET settled = ?, settler = ? WHERE id = ?", t.Deed.At, t.Deed.Account, id).Error
}

// CommentersOf lists who said something about things that a deed wrote.
func (r Reader) CommentersOf(deed ID) (out []Concerned, err error) {
	err = r.db.Raw("SELECT DISTINCT c.account, c.head FROM trail t JOIN comments c ON c.head = t.head WHERE t.deed = ? AND t.action IN ('commented', 'comment settled', 'comment open again')", deed).Scan(&out).Error
	return out, err
}

// Hold says that somebody is at a thing, and that the content of it is not changed by others until a time.
type Hold struct {
	Head    ID
	Account ID
	Why     string
	At      time.Time
	Until   time.Time
	Name    string // of the account
}

// Holds lists the holds that last beyond a time.
func (r Reader) Holds(at time.Time) (map[ID]Hold, error) {
	var all []Hold
	err := r.db.Raw("SELECT h.head, h.account, h.why, h.at, h.until, COALESCE(a.name, '') AS name FROM holds h LEFT JOIN accounts a ON a.id = h.account WHERE h.until > ?", at).Scan(&all).Error
	out := make(map[ID]Hold, len(all))
	for _, h := range all {
		out[h.Head] = h
	}
	return out, err
}

// SetHold keeps a hold in the place of the one that is there.
func (t *Tx) SetHold(h Hold) error {
	return t.db.Exec("INSERT INTO holds (head, account, why, at, until) VALUES (?,?,?,?,?) ON DUPLICATE KEY UPDATE account = VALUES(account), why = VALUES(why), at = VALUES(at), until = VALUES(until)", h.Head, h.Account, h.Why, h.At, h.Until).Error
}

// EndHold removes a hold.
func (t *Tx) EndHold(head ID) error { return t.db.Exec("DELETE FROM holds WHERE head = ?", head).Error }
