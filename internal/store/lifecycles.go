package store

import (
	"maps"
	"strconv"
	"strings"
	"time"
)

// RevisionState says where a released revision was moved to by name, such as withdrawn. Revisions without one are in use, or
// superseded by a newer one.
type RevisionState struct {
	Head    ID `gorm:"primaryKey"`
	Number  int
	State   string
	Why     string
	Account ID
	At      time.Time
}

// TableName is GORM's hook.
func (RevisionState) TableName() string { return "revision_states" }

// RevisionStates lists the moved revisions of some things.
func (r Reader) RevisionStates(heads []ID) (out []RevisionState, err error) {
	err = r.db.Where("head IN ?", heads).Order("head, number").Find(&out).Error
	return out, err
}

// MoveRevision notes the state of a revision.
func (t *Tx) MoveRevision(m RevisionState) error {
	return t.db.Exec("INSERT INTO revision_states (head, number, state, why, account, at) VALUES (?,?,?,?,?,?) "+
		"ON DUPLICATE KEY UPDATE state = VALUES(state), why = VALUES(why), account = VALUES(account), at = VALUES(at)", m.Head, m.Number, m.State, m.Why, m.Account, m.At).Error
}

// LabelledRevision loads the revision of a label, as it is written: the database's own reading of a number takes "2abc" for 2. A
// number is the label of a revision that has no other.
func (r Reader) LabelledRevision(head ID, label string) (out Revision, err error) {
	number, _ := strconv.Atoi(label)
	if strconv.Itoa(number) != label {
		number = 0
	}
	q := r.db.Where("head = ? AND (label = ? AND label <> '' OR label = '' AND number = ?)", head, label, number).Limit(1).Find(&out)
	if q.Error == nil && q.RowsAffected == 0 {
		return out, ErrNotFound
	}
	return out, q.Error
}

// GateWaiver lets a thing pass a gate that does not hold, as long as what the gate looked at stays as it was.
type GateWaiver struct {
	Head    ID `gorm:"primaryKey"`
	Gate    string
	Looked  Hash
	Why     string
	Account ID
	At      time.Time
}

// TableName is GORM's hook.
func (GateWaiver) TableName() string { return "gate_waivers" }

// GateWaivers lists the waivers of some things, fallen ones included.
func (r Reader) GateWaivers(heads []ID) (out []GateWaiver, err error) {
	err = r.db.Where("head IN ?", heads).Order("head, gate, at").Find(&out).Error
	return out, err
}

// AllGateWaivers lists the waivers of the library, newest first.
func (r Reader) AllGateWaivers(offset, limit int) (out []GateWaiver, total int64, err error) {
	return page[GateWaiver](r.db, "at DESC, head, gate", offset, limit)
}

// WaiveGate keeps a waiver; a second one of the same takes the place of the first.
func (t *Tx) WaiveGate(w GateWaiver) error {
	return t.db.Exec("INSERT INTO gate_waivers (head, gate, looked, why, account, at) VALUES (?,?,?,?,?,?) "+
		"ON DUPLICATE KEY UPDATE why = VALUES(why), account = VALUES(account), at = VALUES(at)", w.Head, w.Gate, w.Looked, w.Why, w.Account, w.At).Error
}

// UnwaiveGate removes the waivers of a gate, and says whether there were any.
func (t *Tx) UnwaiveGate(head ID, gate string) (bool, error) {
	r := t.db.Exec("DELETE FROM gate_waivers WHERE head = ? AND gate = ?", head, gate)
	return r.RowsAffected > 0, r.Error
}

// ReviewSign says that a person went through the review list of a content, and against what. Author is whether the person was an
// author of it then: nobody becomes less of one later.
type ReviewSign struct {
	Head    ID `gorm:"primaryKey"`
	Content Hash
	Account ID
	Author  bool
	Against string
	At      time.Time
}

// TableName is GORM's hook.
func (ReviewSign) TableName() string { return "review_signs" }

// ReviewSigns lists who signed some things, newest first.
func (r Reader) ReviewSigns(heads []ID) (out []ReviewSign, err error) {
	err = r.db.Where("head IN ?", heads).Order("head, at DESC, account").Find(&out).Error
	return out, err
}

// SignReview keeps a signature; a second one by the same person for the same content takes the place of the first.
func (t *Tx) SignReview(w ReviewSign) error {
	return t.db.Exec("INSERT INTO review_signs (head, content, account, author, against, at) VALUES (?,?,?,?,?,?) "+
		"ON DUPLICATE KEY UPDATE author = VALUES(author), against = VALUES(against), at = VALUES(at)", w.Head, w.Content, w.Account, w.Author, w.Against, w.At).Error
}

// ReviewTick says that a person found one item of a review list right, with the value that it had then.
type ReviewTick struct {
	Head    ID `gorm:"primaryKey"`
	Item    string
	Account ID
	Value   Hash
	At      time.Time
}

// TableName is GORM's hook.
func (ReviewTick) TableName() string { return "review_ticks" }

// ReviewTicks lists what was ticked of a thing.
func (r Reader) ReviewTicks(head ID) (out []ReviewTick, err error) {
	err = r.db.Where("head = ?", head).Order("item, at DESC").Find(&out).Error
	return out, err
}

// Tick keeps a tick; a zero value removes it.
func (t *Tx) Tick(k ReviewTick) error {
	if k.Value.IsZero() {
		return t.db.Exec("DELETE FROM review_ticks WHERE head = ? AND item = ? AND account = ?", k.Head, k.Item, k.Account).Error
	}
	return t.db.Exec("INSERT INTO review_ticks (head, item, account, value, at) VALUES (?,?,?,?,?) ON DUPLICATE KEY UPDATE value = VALUES(value), at = VALUES(at)",
		k.Head, k.Item, k.Account, k.Value, k.At).Error
}

// Proof says on how many built boards a content worked.
type Proof struct {
	ID      ID `gorm:"primaryKey"`
	Head    ID
	Content Hash
	Boards  int
	Which   string
	Account ID
	At      time.Time
	Build   *ID // of a BOM, that gave it; nil: somebody noted it by itself
}

// TableName is GORM's hook.
func (Proof) TableName() string { return "proofs" }

// Proofs lists the proofs of some things, newest first.
func (r Reader) Proofs(heads []ID) (out []Proof, err error) {
	err = r.db.Where("head IN ?", heads).Order("head, at DESC, id").Find(&out).Error
	return out, err
}

// AddProof keeps a proof. It is ErrConflict where somebody else keeps the same one of a build at the same moment.
func (t *Tx) AddProof(p Proof) error { return taken(t.db.Create(&p).Error, ErrConflict) }

// Authors lists for some things whose deeds changed their content since it was last released by a move. Of most things their record
// says so (see Head.Writers); the trail is asked where more than one may have written.
func (r Reader) Authors(heads []Head) (map[ID][]ID, error) {
	out := map[ID][]ID{}
	var several []ID
	for _, h := range heads {
		switch {
		case h.Writers > 1:
			several = append(several, h.ID)
		case h.Writers == 1 && !h.WrittenBy.IsZero():
			out[h.ID] = []ID{h.WrittenBy}
		}
	}
	if len(several) == 0 {
		return out, nil
	}
	told, err := r.AuthorsByTrail(several)
	maps.Copy(out, told)
	return out, err
}

// AuthorsByTrail tells what Authors does from the trail alone.
func (r Reader) AuthorsByTrail(heads []ID) (map[ID][]ID, error) {
	var rows []struct{ Head, Account ID }
	err := r.db.Raw("SELECT DISTINCT t.head, t.account FROM trail t JOIN contents c ON c.head = t.head AND c.deed = t.deed "+
		"LEFT JOIN (SELECT head, MAX(seq) AS seq FROM trail WHERE head IN ? AND action IN ('released', 'frozen') GROUP BY head) l ON l.head = t.head "+
		"WHERE t.head IN ? AND t.seq > COALESCE(l.seq, 0) AND t.account IS NOT NULL", heads, heads).Scan(&rows).Error
	out := make(map[ID][]ID, len(rows))
	for _, row := range rows {
		out[row.Head] = append(out[row.Head], row.Account)
	}
	return out, err
}

// WaitingQuery narrows what waits for a second person.
type WaitingQuery struct {
	States, Kinds []string
	Count         int // no more of each state and kind are counted; 0: all
	// Below what is asked for one person's queue.
	NotBy   ID                  // who wrote none of it since its last release; zero: anybody
	Without map[string][]string // kind → drawers, or of models their kinds, that others answer for
}

// Waiting lists what is in one of some states on its way to release, those that wait longest first, and counts it.
func (r Reader) Waiting(q WaitingQuery, offset, limit int) (out []Head, total int64, err error) {
	// Of each state and kind the key has those that wait longest first: so many of each are enough, and none is sorted but those.
	var counts, lists []string
	var counted, listed []any
	for _, state := range q.States {
		for _, kind := range q.Kinds {
			where, args := q.of(state, kind)
			count := "(SELECT COUNT(*) FROM heads FORCE INDEX (waits) WHERE " + where + ")"
			if q.Count > 0 {
				count = "(SELECT COUNT(*) FROM (SELECT 1 FROM heads FORCE INDEX (waits) WHERE " + where + " LIMIT ?) n)"
			}
			if counts, counted = append(counts, count), append(counted, args...); q.Count > 0 {
				counted = append(counted, q.Count)
			}
			lists, listed = append(lists, "(SELECT id, moved FROM heads FORCE INDEX (waits) WHERE "+where+" ORDER BY moved, id LIMIT ?)"), append(append(listed, args...), offset+limit)
		}
	}
	if len(counts) == 0 {
		return nil, 0, nil
	}
	if err = r.db.Raw("SELECT "+strings.Join(counts, " + "), counted...).Scan(&total).Error; err != nil || total == 0 {
		return nil, total, err
	}
	err = r.db.Raw("SELECT h.* FROM heads h JOIN (SELECT id FROM ("+strings.Join(lists, " UNION ALL ")+") e ORDER BY moved, id LIMIT ? OFFSET ?) x ON x.id = h.id ORDER BY h.moved, h.id", append(listed, limit, offset)...).Scan(&out).Error
	return out, total, err
}

// of is the query for one state and kind, as a condition on heads that the key waits answers alone but where others may have written too.
func (q WaitingQuery) of(state, kind string) (where string, args []any) {
	where, args = "draft_state = ? AND kind = ? AND standing NOT IN ?", []any{state, kind, []string{Merged, Withdrawn}}
	if places := q.Without[kind]; len(places) > 0 {
		place := "drawer"
		if kind == KindModel {
			place = "SUBSTRING_INDEX(number, ': ', 1)"
		}
		where, args = where+" AND "+place+" NOT IN ?", append(args, places)
	}
	if !q.NotBy.IsZero() {
		// Who wrote the newest content is told from the key; the trail is asked only where others may have written too (see Authors).
		where += " AND (written_by IS NULL OR written_by <> ?) AND (writers < 2 OR NOT EXISTS (SELECT 1 FROM trail t JOIN contents c ON c.head = t.head AND c.deed = t.deed WHERE t.head = heads.id AND t.account = ? " +
			"AND NOT EXISTS (SELECT 1 FROM trail x WHERE x.head = t.head AND x.seq >= t.seq AND x.action IN ('released', 'frozen'))))"
		args = append(args, q.NotBy, q.NotBy)
	}
	return where, args
}

// where is the query as one condition on heads.
func (q WaitingQuery) where() (where string, args []any) {
	var each []string
	for _, state := range q.States {
		for _, kind := range q.Kinds {
			w, a := q.of(state, kind)
			each, args = append(each, "("+w+")"), append(args, a...)
		}
	}
	if len(each) == 0 {
		return "FALSE", nil
	}
	return "(" + strings.Join(each, " OR ") + ")", args
}

// WaitingNaming lists what waits and whose draft names a text, such as the hash of a file, those that wait longest first.
func (r Reader) WaitingNaming(q WaitingQuery, text string, limit int) (out []Head, err error) {
	where, args := q.where()
	err = r.db.Raw("SELECT heads.* FROM heads JOIN contents n ON n.id = heads.draft WHERE "+where+" AND LOCATE(?, n.bytes) > 0 ORDER BY heads.moved, heads.id LIMIT ?", append(args, text, limit)...).Scan(&out).Error
	return out, err
}

// WaitingInSeries lists what waits and is of a series, those that wait longest first.
func (r Reader) WaitingInSeries(q WaitingQuery, series ID, limit int) (out []Head, err error) {
	where, args := q.where()
	err = r.db.Raw("SELECT heads.* FROM heads WHERE "+where+" AND id IN (SELECT k.head FROM series_members m JOIN source_keys k ON k.k = m.k WHERE m.series = ?) ORDER BY moved, id LIMIT ?", append(args, series, limit)...).Scan(&out).Error
	return out, err
}

// HoldersOf lists who holds a revision of a thing: parts that name a model's, BOMs that name a part.
func (r Reader) HoldersOf(child ID, revision, limit int) (out []Head, err error) {
	err = r.db.Raw("SELECT DISTINCT h.* FROM uses u JOIN heads h ON h.id = u.parent WHERE u.child = ? AND (u.child_revision = ? OR u.child_revision = 0) ORDER BY h.kind, h.number LIMIT ?", child, revision, limit).Scan(&out).Error
	return out, err
}

// InPlace is how many things are in one place: a drawer, a kind of model, or, of BOMs, anywhere.
type InPlace struct {
	Place string
	Count int
}

// InState counts the things of a kind in a state of their draft, of their newest revision, or of their standing, by place.
func (r Reader) InState(kind, state string) (out []InPlace, err error) {
	err = r.db.Raw("SELECT IF(kind = ?, SUBSTRING_INDEX(number, ': ', 1), drawer) AS place, COUNT(*) AS count FROM heads WHERE kind = ? AND (draft_state = ? OR state = ? OR standing = ?) AND standing NOT IN ? GROUP BY place",
		KindModel, kind, state, state, state, []string{Merged, Withdrawn}).Scan(&out).Error
	return out, err
}

// ReviewTurn says who goes through a thing's review list, so that two do not do so at once.
type ReviewTurn struct {
	Head    ID `gorm:"primaryKey"`
	Account ID
	At      time.Time
}

// TableName is GORM's hook.
func (ReviewTurn) TableName() string { return "review_turns" }

// ReviewTurns lists who has some things.
func (r Reader) ReviewTurns(heads []ID) (map[ID]ReviewTurn, error) {
	var all []ReviewTurn
	err := r.db.Where("head IN ?", heads).Find(&all).Error
	out := map[ID]ReviewTurn{}
	for _, t := range all {
		out[t.Head] = t
	}
	return out, err
}

// TakeTurn gives a thing to a person, or lets go of it.
func (t *Tx) TakeTurn(head, account ID, take bool) error {
	if !take {
		return t.db.Exec("DELETE FROM review_turns WHERE head = ?", head).Error
	}
	return t.db.Exec("INSERT INTO review_turns (head, account, at) VALUES (?,?,?) ON DUPLICATE KEY UPDATE account = VALUES(account), at = VALUES(at)", head, account, t.Deed.At).Error
}

// MostCounted is how far what waits for somebody is counted: nobody works off more in a day.
const MostCounted = 1000

// DraftsOf lists parts and models whose draft a person wrote last and nobody passed on, the oldest first, and says how many there are;
// more than MostCounted are not counted.
func (r Reader) DraftsOf(account ID, limit int) (out []Head, total int64, err error) {
	// Identifiers of contents sort by when they were made (RFC 9562, section 5.7).
	const from = "FROM heads h WHERE h.written_by = ? AND h.draft_state = '' AND h.draft IS NOT NULL AND h.kind IN ('part','model') AND h.standing NOT IN ('merged','withdrawn')"
	if err = r.db.Raw("SELECT COUNT(*) FROM (SELECT 1 "+from+" LIMIT ?) n", account, MostCounted).Scan(&total).Error; err == nil {
		err = r.db.Raw("SELECT h.* "+from+" ORDER BY h.draft LIMIT ?", account, limit).Scan(&out).Error
	}
	return out, total, err
}
