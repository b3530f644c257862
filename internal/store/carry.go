package store

import (
	"context"
	"encoding/json"
	"iter"

	"gorm.io/gorm"
)

// Changed is one part that a deed over many carries over: its head as it shall be, and what is new with it.
type Changed struct {
	Head     Head      // as it shall be, but for version and trail, which are as they were read
	Contents []Content // new ones, which Head points at
	Revision *Revision // where it becomes released at once
	Uses     []Use     // models of a draft that was not there before
	Detail   any       // of its trail entry
}

// Carry gives parts new contents and revisions, as many as there are: the bulk is staged in transactions of its own,
// where nobody sees it, and one short transaction writes the heads, together with the deed and whatever also writes.
// Every part must still be at the version that it was read at, or all of it is ErrConflict. progress is told how many
// parts are staged; an error from it stops the deed.
func (s *Store) Carry(ctx context.Context, d Deed, parts iter.Seq2[Changed, error], action string, progress func(done int) error, also func(*Tx) (any, error)) (json.RawMessage, error) {
	staging, err := s.newStaging(ctx, d)
	if err != nil {
		return nil, err
	}
	n := 0
	err = batches(parts, func(chunk []Changed) error {
		if err := s.stageChanges(ctx, d, staging, chunk, action); err != nil {
			return err
		}
		n += len(chunk)
		return progress(n)
	})
	if err != nil {
		return nil, err
	}
	out, err := s.Do(ctx, d, func(t *Tx) (any, error) {
		// What also writes comes first: it holds the row of the job, and of the document that the parts follow.
		result, err := also(t)
		if err != nil {
			return nil, err
		}
		return result, t.switchChanges(staging, n)
	})
	if err != nil {
		return nil, err
	}
	s.unstage(ctx, staging)
	return out, nil
}

func (s *Store) stageChanges(ctx context.Context, d Deed, staging ID, chunk []Changed, action string) error {
	contents, news := newInsert("contents", "id, head, hash, format, template, bytes, origins, deed, at"), newInsert("staged_contents", "staging, content")
	heads := newInsert("staged_changes", "staging, head, version, drawer, revision, draft, released, trail_seq, trail_hash")
	trail := newInsert("staged_trail", "staging, head, seq, deed, account, at, action, detail, hash_before, hash")
	revisions := newInsert("staged_revisions", "staging, head, number, content, hash, hash_before, note, account, at, deed")
	uses := newInsert("staged_uses", "staging, head, place, child, child_revision")
	for i := range chunk {
		p := &chunk[i]
		e, err := Link(&p.Head, d, action, p.Detail)
		if err != nil {
			return err
		}
		for _, c := range p.Contents {
			contents.add(c.ID, p.Head.ID, c.Hash, c.Format, c.Template, c.Bytes, c.Origins, d.ID, d.At)
			news.add(staging, c.ID)
		}
		heads.add(staging, p.Head.ID, p.Head.Version, p.Head.Drawer, p.Head.Revision, p.Head.Draft, p.Head.Released, e.Seq, e.Hash)
		trail.add(staging, e.Head, e.Seq, e.Deed, e.Account, e.At, e.Action, e.Detail, e.HashBefore, e.Hash)
		if r := p.Revision; r != nil {
			revisions.add(staging, p.Head.ID, r.Number, r.Content, r.Hash, r.HashBefore, r.Note, d.Account, d.At, d.ID)
		}
		for _, u := range p.Uses {
			uses.add(staging, p.Head.ID, "draft "+u.Place, u.Child, u.ChildRevision)
		}
	}
	return s.stageOnce(ctx, chunk[0].Contents[0].ID, func(g *gorm.DB) error {
		for _, in := range []*insert{contents, news, heads, trail, revisions, uses} {
			if err := in.run(g); err != nil {
				return err
			}
		}
		return nil
	})
}

func (t *Tx) switchChanges(staging ID, parts int) error {
	r := t.db.Exec("UPDATE heads h JOIN staged_changes s ON s.head = h.id SET h.drawer = s.drawer, h.revision = s.revision, h.draft = s.draft, h.released = s.released, h.version = h.version + 1, "+
		"h.trail_seq = s.trail_seq, h.trail_hash = s.trail_hash, h.deed = ?, h.updated = ? WHERE s.staging = ? AND h.version = s.version", t.Deed.ID, t.Deed.At, staging)
	if r.Error != nil {
		return r.Error
	}
	if int(r.RowsAffected) != parts {
		return ErrConflict
	}
	for _, q := range []string{
		"INSERT INTO trail (head, seq, deed, account, at, action, detail, hash_before, hash) SELECT head, seq, deed, account, at, action, detail, hash_before, hash FROM staged_trail WHERE staging = ?",
		"INSERT INTO revisions (head, number, content, hash, hash_before, note, account, at, deed) SELECT head, number, content, hash, hash_before, note, account, at, deed FROM staged_revisions WHERE staging = ?",
		"INSERT INTO uses (parent, place, child, child_revision) SELECT head, place, child, child_revision FROM staged_uses WHERE staging = ?",
	} {
		if err := t.db.Exec(q, staging).Error; err != nil {
			if code(err) == 1062 { // somebody else wrote the next link
				return ErrConflict
			}
			return err
		}
	}
	return nil
}
