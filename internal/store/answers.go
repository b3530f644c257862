package store

import (
	"context"
	"errors"
	"time"

	"github.com/klauspost/compress/zstd"
	"gorm.io/gorm"
)

// KeptAnswer is what a supplier answered to a question last.
type KeptAnswer struct {
	Connection ID   `gorm:"primaryKey"`
	Question   Hash `gorm:"primaryKey"`
	ID         ID
	Version    int // of the connection that read it
	At         time.Time
	Pages      int
	Problem    string // why it is none, or none in whole
}

// TableName is GORM's hook.
func (KeptAnswer) TableName() string { return "answers" }

var (
	packer, _   = zstd.NewWriter(nil, zstd.WithEncoderLevel(zstd.SpeedFastest))
	unpacker, _ = zstd.NewReader(nil, zstd.WithDecoderMaxMemory(512<<20))
)

// AnswerTo returns what a supplier answered to a question last.
func (r Reader) AnswerTo(connection ID, question Hash) (a KeptAnswer, ok bool, err error) {
	err = r.db.Where("connection = ? AND question = ?", connection, question).First(&a).Error
	if errors.Is(err, gorm.ErrRecordNotFound) {
		return a, false, nil
	}
	return a, err == nil, err
}

// AnswerPages returns the pages of an answer as they came.
func (r Reader) AnswerPages(answer ID) (pages [][]byte, err error) {
	if err = r.db.Raw("SELECT bytes FROM answer_pages WHERE answer = ? ORDER BY n", answer).Scan(&pages).Error; err != nil {
		return nil, err
	}
	for i, p := range pages {
		if pages[i], err = unpacker.DecodeAll(p, nil); err != nil {
			return nil, err
		}
	}
	return pages, nil
}

// KeepAnswer keeps an answer in the place of the one before.
func (s *Store) KeepAnswer(ctx context.Context, a KeptAnswer, pages [][]byte) error {
	a.Pages = len(pages)
	return s.small(ctx, func(g *gorm.DB) error {
		if err := g.Exec("DELETE p FROM answer_pages p JOIN answers a ON p.answer = a.id WHERE a.connection = ? AND a.question = ?", a.Connection, a.Question).Error; err != nil {
			return err
		}
		for n, raw := range pages {
			if err := g.Exec("INSERT INTO answer_pages (answer, n, bytes) VALUES (?,?,?)", a.ID, n, packer.EncodeAll(raw, nil)).Error; err != nil {
				return err
			}
		}
		return g.Exec("REPLACE INTO answers (connection, question, id, version, at, pages, problem) VALUES (?,?,?,?,?,?,?)", a.Connection, a.Question, a.ID, a.Version, a.At, a.Pages, a.Problem).Error
	})
}

// Budget is what is used of a connection's limits.
type Budget struct {
	Used int           // questions of today, those of this call included
	Wait time.Duration // until the first of them may go out
	Over bool          // the day's questions are used up; nothing was taken
}

// TakeBudget takes n questions of a connection's limits, for all instances: today's (UTC), and the next moments at which one may go out. perDay 0 is no
// limit.
func (s *Store) TakeBudget(ctx context.Context, connection string, perSecond, perDay, n int) (b Budget, err error) {
	err = s.small(ctx, func(g *gorm.DB) error {
		b = Budget{}
		if err := g.Exec("INSERT IGNORE INTO connection_budgets (connection, day, used, next_at) VALUES (?, CURRENT_DATE, 0, NOW(6))", connection).Error; err != nil {
			return err
		}
		var row struct {
			Used int
			Wait int64
		}
		if err := g.Raw("SELECT IF(day = CURRENT_DATE, used, 0) AS used, GREATEST(TIMESTAMPDIFF(MICROSECOND, NOW(6), next_at), 0) AS wait FROM connection_budgets WHERE connection = ? FOR UPDATE", connection).Scan(&row).Error; err != nil {
			return err
		}
		if b.Used = row.Used; perDay > 0 && row.Used+n > perDay {
			b.Over = true
			return nil
		}
		b.Used, b.Wait = row.Used+n, time.Duration(row.Wait)*time.Microsecond
		return g.Exec("UPDATE connection_budgets SET used = ?, day = CURRENT_DATE, next_at = GREATEST(next_at, NOW(6)) + INTERVAL ? MICROSECOND WHERE connection = ?", b.Used, n*1_000_000/max(perSecond, 1), connection).Error
	})
	return b, err
}

// UsedToday is how many questions went out to connections today.
func (r Reader) UsedToday() (map[string]int, error) {
	var rows []struct {
		Connection string
		Used       int
	}
	err := r.db.Raw("SELECT connection, used FROM connection_budgets WHERE day = CURRENT_DATE").Scan(&rows).Error
	out := map[string]int{}
	for _, row := range rows {
		out[row.Connection] = row.Used
	}
	return out, err
}

// PriceList is the file of a connection that has no questions.
type PriceList struct {
	Connection ID `gorm:"primaryKey"`
	File       Hash
	Name       string
	Tag        string // the supplier's mark of the file (RFC 9110, 8.8.3)
	At         time.Time
	Checked    time.Time
	Whole      *time.Time // when it was fetched whole, where only its changes were since
}

// TableName is GORM's hook.
func (PriceList) TableName() string { return "price_lists" }

// PriceListOf returns the newest price list of a connection.
func (r Reader) PriceListOf(connection ID) (l PriceList, ok bool, err error) {
	err = r.db.Where("connection = ?", connection).First(&l).Error
	if errors.Is(err, gorm.ErrRecordNotFound) {
		return l, false, nil
	}
	return l, err == nil, err
}

// SetPriceList is KeepPriceList within a deed.
func (t *Tx) SetPriceList(l PriceList) error { return setPriceList(t.db, l) }

func setPriceList(g *gorm.DB, l PriceList) error {
	return g.Exec("REPLACE INTO price_lists (connection, file, name, tag, at, checked, whole) VALUES (?,?,?,?,?,?,?)", l.Connection, l.File, l.Name, l.Tag, l.At, l.Checked, l.Whole).Error
}

// KeepPriceList keeps which file is the newest price list of a connection.
func (s *Store) KeepPriceList(ctx context.Context, l PriceList) error {
	return s.small(ctx, func(g *gorm.DB) error { return setPriceList(g, l) })
}

// LastAnswer returns what a supplier answered last, to whatever question.
func (r Reader) LastAnswer(connection ID) (a KeptAnswer, ok bool, err error) {
	err = r.db.Where("connection = ?", connection).Order("at DESC").First(&a).Error
	if errors.Is(err, gorm.ErrRecordNotFound) {
		return a, false, nil
	}
	return a, err == nil, err
}
