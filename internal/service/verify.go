package service

import (
	"context"
	"crypto/sha256"
	"fmt"

	"gorm.io/gorm"

	"jollydrawer/core/part"
	"jollydrawer/internal/store"
	"jollydrawer/internal/wire"
)

// Verify recomputes hashes, chains and projections from what is stored, and names every difference.
func (s *Service) Verify(ctx context.Context, c Call) (wire.Verification, error) {
	out := wire.Verification{Different: []string{}}
	if err := allow(c, OpVerify); err != nil {
		return out, err
	}
	differ := func(format string, args ...any) {
		if len(out.Different) < 1000 {
			out.Different = append(out.Different, fmt.Sprintf(format, args...))
		}
	}
	var after store.ID
	for {
		var heads []store.Head
		q := s.Store.Read(ctx).Order("id").Limit(500)
		if !after.IsZero() {
			q = q.Where("id > ?", after)
		}
		if err := q.Find(&heads).Error; err != nil {
			return out, err
		}
		for _, h := range heads {
			out.Heads++
			if err := s.verifyHead(ctx, h, &out, differ); err != nil {
				return out, err
			}
			after = h.ID
		}
		if len(heads) < 500 {
			return out, nil
		}
	}
}

func (s *Service) verifyHead(ctx context.Context, h store.Head, out *wire.Verification, differ func(string, ...any)) error {
	var chain []store.TrailEntry
	if err := s.Store.Read(ctx).Where("head = ?", h.ID).Order("seq").Find(&chain).Error; err != nil {
		return err
	}
	var before store.Hash
	for i, e := range chain {
		out.Entries++
		if e.Seq != i+1 || e.HashBefore != before || e.Sum() != e.Hash {
			differ("%s %s: entry %d of the trail does not follow from the one before", h.Kind, h.Number, e.Seq)
		}
		before = e.Hash
	}
	if len(chain) != h.TrailSeq || before != h.TrailHash {
		differ("%s %s: the trail ends at entry %d, and the record says %d", h.Kind, h.Number, len(chain), h.TrailSeq)
	}
	for name, id := range map[string]store.ID{"draft": h.Draft, "released revision": h.Released} {
		if id.IsZero() {
			continue
		}
		c, err := s.Store.Content(ctx, id)
		if err != nil {
			differ("%s %s: its %s is missing", h.Kind, h.Number, name)
			continue
		}
		out.Contents++
		if sha256.Sum256(c.Bytes) != c.Hash {
			differ("%s %s: the bytes of its %s do not have the hash that was kept", h.Kind, h.Number, name)
		}
		if h.Kind == store.KindPart && id == draftOf(h) && !store.Gone(h.Standing) {
			if err := s.verifyKeys(ctx, h, c, differ); err != nil {
				return err
			}
		}
	}
	if h.Kind == store.KindPart {
		e, ok := s.Index.ByID(h.ID.String())
		if !ok || e.Number != h.Number || e.Version != h.Version {
			differ("part %s: the lookup index is behind", h.Number)
		}
	}
	rs, err := s.Store.Revisions(ctx, h.ID)
	if err != nil {
		return err
	}
	if len(rs) != h.Revision {
		differ("%s %s: it has %d revisions, and the record says %d", h.Kind, h.Number, len(rs), h.Revision)
	}
	for i, r := range rs {
		if i+1 < len(rs) && r.HashBefore != rs[i+1].Hash {
			differ("%s %s: revision %d does not follow from revision %d", h.Kind, h.Number, r.Number, rs[i+1].Number)
		}
	}
	return nil
}

func (s *Service) verifyKeys(ctx context.Context, h store.Head, c store.Content, differ func(string, ...any)) error {
	p, _, err := decodePart(c)
	if err != nil {
		differ("part %s: its content cannot be read", h.Number)
		return nil
	}
	var keys []struct{ K store.Hash }
	if err := s.Store.Read(ctx).Raw("SELECT k FROM source_keys WHERE head = ?", h.ID).Scan(&keys).Error; err != nil {
		return err
	}
	want := map[store.Hash]bool{}
	for _, src := range p.Sources {
		want[store.SourceHash(part.Source.Key(src))] = true
	}
	for _, k := range keys {
		if !want[k.K] {
			differ("part %s: it holds the key of a source it does not have", h.Number)
		}
		delete(want, k.K)
	}
	if len(want) > 0 {
		differ("part %s: %d of its sources have no key", h.Number, len(want))
	}
	return nil
}

// Seal computes one Merkle root over the ends of all trails and keeps it. Rival instances collide on the number of
// the seal. A seal that was exported shows later whether a trail was rewritten as a whole; it does not show what was
// never written down.
func (s *Service) Seal(ctx context.Context) error {
	rows, err := s.Store.Read(ctx).Raw("SELECT id, trail_hash FROM heads ORDER BY id").Rows()
	if err != nil {
		return err
	}
	defer rows.Close()
	var level [][32]byte
	for rows.Next() {
		var id store.ID
		var hash store.Hash
		if err := rows.Scan(&id, &hash); err != nil {
			return err
		}
		level = append(level, sha256.Sum256(append(append([]byte{0}, id[:]...), hash[:]...)))
	}
	if err := rows.Err(); err != nil || len(level) == 0 {
		return err
	}
	n := len(level)
	for len(level) > 1 { // leaves and nodes are told apart by their first byte, as in RFC 6962, section 2.1
		next := level[:0:0]
		for i := 0; i < len(level); i += 2 {
			if i+1 == len(level) {
				next = append(next, level[i])
				continue
			}
			next = append(next, sha256.Sum256(append(append([]byte{1}, level[i][:]...), level[i+1][:]...)))
		}
		level = next
	}
	return s.Store.Small(ctx, func(g *gorm.DB) error {
		return g.Exec("INSERT INTO seals (n, at, heads, root) SELECT COALESCE(MAX(n), 0) + 1, NOW(6), ?, ? FROM seals", n, store.Hash(level[0])).Error
	})
}
