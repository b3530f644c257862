package store

import (
	"context"
	"maps"
	"slices"

	"gorm.io/gorm"
)

// RecordsOf says of an intake which of its rows name which number, for whoever looks for one. It can be made anew at any time.
type RecordsOf struct {
	Intake ID `gorm:"primaryKey"`
	Mark   string
	Rules  string // by which the rows were read
}

// TableName is GORM's hook.
func (RecordsOf) TableName() string { return "record_files" }

// Recorded is a row of an intake that names a number.
type Recorded struct {
	Intake ID
	Row    int
}

// StaleRecords lists intakes whose rows were not gone through yet as they are, under a mark of all else that it hangs on, the newest first, and what is
// known of each.
func (r Reader) StaleRecords(mark string, limit int) (heads []Head, rules map[ID]string, err error) {
	err = r.db.Raw("SELECT h.* FROM heads h LEFT JOIN record_files f ON f.intake = h.id WHERE h.kind = ? AND (f.mark IS NULL OR f.mark <> CONCAT(h.version, ' ', ?)) ORDER BY h.updated DESC, h.id LIMIT ?", KindIntake, mark, limit).Scan(&heads).Error
	if err != nil || len(heads) == 0 {
		return nil, nil, err
	}
	var ids []ID
	for _, h := range heads {
		ids = append(ids, h.ID)
	}
	var known []RecordsOf
	if err := r.db.Where("intake IN ?", ids).Find(&known).Error; err != nil {
		return nil, nil, err
	}
	rules = map[ID]string{}
	for _, k := range known {
		rules[k.Intake] = k.Rules
	}
	return heads, rules, nil
}

// RecordsOfNumber lists the rows that name a number, those of the newest intakes first.
func (r Reader) RecordsOfNumber(number string, limit int) (out []Recorded, err error) {
	err = r.db.Raw("SELECT n.intake, n.line AS `row` FROM record_numbers n JOIN heads h ON h.id = n.intake WHERE n.number = ? ORDER BY h.updated DESC, n.intake, n.line LIMIT ?", clipNumber(number), limit).Scan(&out).Error
	return out, err
}

// longestNumber is how much of a number is kept; longer ones are no numbers.
const longestNumber = 80

func clipNumber(s string) string {
	if r := []rune(s); len(r) > longestNumber {
		return string(r[:longestNumber])
	}
	return s
}

// RecordsStand says that what is known of an intake's rows holds under a new mark.
func (s *Store) RecordsStand(ctx context.Context, f RecordsOf) error {
	return s.small(ctx, func(g *gorm.DB) error {
		return g.Exec("REPLACE INTO record_files (intake, mark, rules) VALUES (?,?,?)", f.Intake, f.Mark, f.Rules).Error
	})
}

// KeepRecords keeps which rows of an intake name which number, in place of what was known: in small steps, and the mark last, so that one that breaks off
// is done again.
func (s *Store) KeepRecords(ctx context.Context, f RecordsOf, rows map[string][]int) error {
	err := s.small(ctx, func(g *gorm.DB) error {
		if err := g.Exec("DELETE FROM record_files WHERE intake = ?", f.Intake).Error; err != nil {
			return err
		}
		return g.Exec("DELETE FROM record_numbers WHERE intake = ?", f.Intake).Error
	})
	if err != nil {
		return err
	}
	for some := range slices.Chunk(slices.Sorted(maps.Keys(rows)), 2000) {
		err := s.small(ctx, func(g *gorm.DB) error {
			in := newInsert("record_numbers", "number, intake, line")
			for _, number := range some {
				for _, row := range rows[number] {
					in.add(clipNumber(number), f.Intake, row)
				}
			}
			in.then = " ON DUPLICATE KEY UPDATE line = VALUES(line)"
			return in.run(g)
		})
		if err != nil {
			return err
		}
	}
	return s.RecordsStand(ctx, f)
}
