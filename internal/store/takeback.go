package store

import "encoding/json"

// Written is one part that a bulk deed made or changed, as its trail tells.
type Written struct {
	Head   Head // as it is now
	Made   bool
	Before ID // the draft that the deed took the place of; zero where there was none
}

// PartsWrittenBy lists the identifiers of the parts that a deed made or changed, as it wrote them.
func (r Reader) PartsWrittenBy(deed ID) (ids []ID, err error) {
	err = r.db.Raw("SELECT DISTINCT t.head FROM trail t JOIN heads h ON h.id = t.head AND h.kind = 'part' WHERE t.deed = ?", deed).Scan(&ids).Error
	return ids, err
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
		e, err := Link(&w.Head, t.Deed, action, detail, false)
		if err != nil {
			return err
		}
		links.add(e.Head, e.Seq, e.Deed, e.Account, e.At, e.Action, e.Detail, e.HashBefore, e.Hash)
		number, standing, draft := w.Head.Number, w.Head.Standing, w.Before
		if w.Made {
			number, standing, draft = w.Head.Number+" ("+w.Head.ID.String()+")", Withdrawn, w.Head.Draft
			for _, q := range []string{"DELETE FROM source_keys WHERE head = ?", "DELETE FROM uses WHERE parent = ?", "DELETE FROM numbers WHERE head = ?"} {
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
		writer := w.Head.WrittenBy
		if !w.Made {
			of := draft
			if of.IsZero() {
				of = w.Head.Released
			}
			if writer, err = t.WriterOf(of); err != nil {
				return err
			}
		}
		r := t.db.Exec("UPDATE heads SET number = ?, standing = ?, draft = ?, written_by = ?, writers = 2, version = ?, trail_seq = ?, trail_hash = ?, deed = ?, updated = ? WHERE id = ? AND version = ? AND deed = ?",
			number, standing, draft, writer, base+1, w.Head.TrailSeq, w.Head.TrailHash, t.Deed.ID, t.Deed.At, w.Head.ID, base, deed)
		if r.Error != nil {
			return r.Error
		}
		if r.RowsAffected != 1 {
			return ErrConflict
		}
	}
	return links.run(t.db)
}
