package audit

import (
	"context"
	"crypto/sha256"

	"jollydrawer/internal/store"
)

// Seal computes one Merkle root over the ends of all trails and keeps it. Rival instances collide on the number of
// the seal. A seal that was exported shows later whether a trail was rewritten as a whole; it does not show what was
// never written down.
func (s *Audit) Seal(ctx context.Context) error {
	var level [][32]byte
	err := s.Store.Read(ctx).TrailEnds(func(id store.ID, end store.Hash) error {
		level = append(level, sha256.Sum256(append(append([]byte{0}, id[:]...), end[:]...)))
		return nil
	})
	if err != nil || len(level) == 0 {
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
	return s.Store.AddSeal(ctx, n, level[0])
}
