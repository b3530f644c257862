package store

import (
	"context"
	"crypto/sha256"
	"time"

	"gorm.io/gorm"
)

// Untold is news that nobody was told of yet, and the part that it is about.
type Untold struct {
	OfferNews
	Head       ID
	Connection ID
}

// UntoldNews lists news of parts that nobody was told of, of no later than a time, part by part.
func (r Reader) UntoldNews(until time.Time, limit int) (out []Untold, err error) {
	err = r.db.Raw(`SELECT n.*, h.id AS head, o.connection FROM offer_news n JOIN offers o ON o.id = n.offer JOIN source_keys k ON k.k = n.k AND k.twin = 0 JOIN heads h ON h.id = k.head AND h.kind = ?
		WHERE NOT n.told AND n.settled IS NULL AND n.at <= ? ORDER BY h.id, n.at, n.id LIMIT ?`, KindPart, until, limit).Scan(&out).Error
	return out, err
}

// TellNews says that people were told of news. It is ErrConflict where some were told already.
func (t *Tx) TellNews(ids []ID) error {
	r := t.db.Exec("UPDATE offer_news SET told = TRUE WHERE id IN ? AND NOT told", ids)
	if r.Error == nil && int(r.RowsAffected) != len(ids) {
		return ErrConflict
	}
	return r.Error
}

// SheetChanged keeps that the file behind a link is another one, as news of some offers, once: f is what the link leads to now.
func (s *Store) SheetChanged(ctx context.Context, f Fetched, of []Offer, says string) error {
	return s.small(ctx, func(g *gorm.DB) error {
		in := newInsert("offer_news", "id, offer, k, what, says, at")
		for _, o := range of {
			h := sha256.Sum256(append(append(append([]byte("sheet"), o.K[:]...), []byte(f.Link)...), f.File[:]...))
			var id ID
			copy(id[:], h[:])
			in.add(id, o.ID, o.K, "sheet", says, f.At)
		}
		in.then = " ON DUPLICATE KEY UPDATE at = offer_news.at"
		if err := in.run(g); err != nil {
			return err
		}
		return g.Exec("UPDATE fetched SET file = ?, at = ? WHERE hash = ?", f.File, f.At, LinkHash(f.Link)).Error
	})
}
