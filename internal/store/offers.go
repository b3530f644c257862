package store

import (
	"context"
	"crypto/sha256"
	"slices"
	"time"

	"gorm.io/gorm"
)

// Offer is what a supplier offers under one number in one packing, as it was seen last.
type Offer struct {
	ID              Hash `gorm:"primaryKey"`
	Connection      ID
	Number, Packing string
	K               Hash // of the source that it is of, by maker and part number
	Body            string
	Seen            time.Time // when the supplier said so last
	Since           time.Time // when it said so first
	Gone            bool      // the supplier does not know it any more
}

// TableName is GORM's hook.
func (Offer) TableName() string { return "offers" }

// OfferID is the key of an offer.
func OfferID(connection ID, number, packing string) Hash {
	return sha256.Sum256([]byte(connection.String() + "\x00" + number + "\x00" + packing))
}

// OfferNews is something that became otherwise, and that somebody wants to hear of.
type OfferNews struct {
	ID      ID `gorm:"primaryKey"`
	Offer   Hash
	K       Hash
	What    string
	Says    string
	At      time.Time
	Settled *time.Time
	Account *ID
	Told    bool // those who want to hear of the part were told
}

// TableName is GORM's hook.
func (OfferNews) TableName() string { return "offer_news" }

// OffersOf lists the offers of some sources.
func (r Reader) OffersOf(keys []Hash) (out []Offer, err error) {
	for some := range slices.Chunk(keys, batch) {
		var page []Offer
		if err := r.db.Where("k IN ?", some).Order("connection, number, packing").Find(&page).Error; err != nil {
			return nil, err
		}
		out = append(out, page...)
	}
	return out, nil
}

// OffersAfter lists all offers by source, a page at a time: those of the next sources after k.
func (r Reader) OffersAfter(k Hash, sources int) (out []Offer, err error) {
	err = r.db.Raw("SELECT o.* FROM offers o JOIN (SELECT DISTINCT k FROM offers WHERE k > ? ORDER BY k LIMIT ?) s ON s.k = o.k ORDER BY o.k, o.id", k[:], sources).Scan(&out).Error
	return out, err
}

// OffersSince says of which offers something became otherwise since a time, with their source and when; the body is left out.
func (r Reader) OffersSince(since time.Time) (out []Offer, err error) {
	err = r.db.Raw("SELECT id, k, since FROM offers WHERE since >= ?", since).Scan(&out).Error
	return out, err
}

// OffersByID returns offers by their keys.
func (r Reader) OffersByID(ids []Hash) (map[Hash]Offer, error) {
	out := map[Hash]Offer{}
	if len(ids) == 0 {
		return out, nil
	}
	var rows []Offer
	err := r.db.Where("id IN ?", ids).Find(&rows).Error
	for _, o := range rows {
		out[o.ID] = o
	}
	return out, err
}

// OfferThen is an offer as it was from a time on.
type OfferThen struct {
	Offer Hash
	At    time.Time
	Body  string
}

// OfferHistory lists how offers were since a time, the oldest first; of each also how it was at that time.
func (r Reader) OfferHistory(offers []Hash, since time.Time) (out []OfferThen, err error) {
	if len(offers) == 0 {
		return nil, nil
	}
	err = r.db.Raw("SELECT offer, at, body FROM offer_history h WHERE offer IN ? AND (at >= ? OR at = (SELECT MAX(b.at) FROM offer_history b WHERE b.offer = h.offer AND b.at < ?)) ORDER BY at, offer LIMIT 20000", offers, since, since).Scan(&out).Error
	return out, err
}

// News lists what became otherwise of the offers of some sources and was not settled, the newest first.
func (r Reader) News(keys []Hash) (out []OfferNews, err error) {
	if len(keys) == 0 {
		return nil, nil
	}
	err = r.db.Where("k IN ? AND settled IS NULL", keys).Order("at DESC, id").Limit(500).Find(&out).Error
	return out, err
}

// NewsSince counts what became otherwise of the offers of some sources since a time, settled or not.
func (r Reader) NewsSince(keys []Hash, since time.Time) (total int64, err error) {
	for some := range slices.Chunk(keys, batch) {
		var n int64
		if err := r.db.Raw("SELECT COUNT(*) FROM offer_news WHERE k IN ? AND at >= ?", some, since).Scan(&n).Error; err != nil {
			return total, err
		}
		total += n
	}
	return total, nil
}

// AllNews lists a page of what was not settled, the newest first.
func (r Reader) AllNews(offset, limit int) (out []OfferNews, total int64, err error) {
	return page[OfferNews](r.db.Where("settled IS NULL"), "at DESC, id", offset, limit)
}

// SettleNews says that somebody has seen to news; those that were settled already stay as they are.
func (t *Tx) SettleNews(ids []ID, by ID) (int64, error) {
	r := t.db.Exec("UPDATE offer_news SET settled = ?, account = ? WHERE id IN ? AND settled IS NULL", t.Deed.At, by, ids)
	return r.RowsAffected, r.Error
}

// KeepOffers keeps offers as they were seen. compare is given each together with what was kept of it before, nil for a new one, and says what is
// news, which is kept with them; it is called again when the transaction is. An offer that was seen later than this stays.
func (s *Store) KeepOffers(ctx context.Context, offers []Offer, compare func(before *Offer, now Offer) []OfferNews) error {
	slices.SortFunc(offers, func(a, b Offer) int { return slices.Compare(a.ID[:], b.ID[:]) }) // all in one order: fewer deadlocks
	for some := range slices.Chunk(offers, 500) {
		err := s.small(ctx, func(g *gorm.DB) error {
			var ids []Hash
			for _, o := range some {
				ids = append(ids, o.ID)
			}
			var kept []Offer
			if err := g.Raw("SELECT * FROM offers WHERE id IN ? ORDER BY id FOR UPDATE", ids).Scan(&kept).Error; err != nil {
				return err
			}
			was := map[Hash]*Offer{}
			for i := range kept {
				was[kept[i].ID] = &kept[i]
			}
			rows, history, told := newInsert("offers", "id, connection, number, packing, k, body, seen, since, gone"), newInsert("offer_history", "offer, at, body"), newInsert("offer_news", "id, offer, k, what, says, at")
			seen := map[Hash]bool{}
			for _, o := range some {
				before := was[o.ID]
				if seen[o.ID] || before != nil && before.Seen.After(o.Seen) {
					continue
				}
				seen[o.ID] = true
				same := before != nil && before.Body == o.Body && before.Gone == o.Gone && before.K == o.K
				if o.Since = o.Seen; same {
					o.Since = before.Since
				}
				rows.add(o.ID, o.Connection, o.Number, o.Packing, o.K, o.Body, o.Seen, o.Since, o.Gone)
				if !same {
					history.add(o.ID, o.Seen, o.Body)
					for _, n := range compare(before, o) {
						n.ID, n.Offer, n.K, n.At = NewID(), o.ID, o.K, o.Seen
						told.add(n.ID, n.Offer, n.K, n.What, n.Says, n.At)
					}
				}
			}
			rows.then = " ON DUPLICATE KEY UPDATE k = VALUES(k), body = VALUES(body), seen = VALUES(seen), since = VALUES(since), gone = VALUES(gone)"
			history.then = " ON DUPLICATE KEY UPDATE body = VALUES(body)"
			for _, in := range []*insert{rows, history, told} {
				if err := in.run(g); err != nil {
					return err
				}
			}
			return nil
		})
		if err != nil {
			return err
		}
	}
	return nil
}
