package store

import (
	"context"
	"database/sql"
	"fmt"
	"time"
)

// leastFeed is how many steps of the feed are kept however old they are: instances and pages go on from there.
const leastFeed = 10_000

// Tidy removes what is of no more use: what abandoned bulk deeds left, and ended jobs, steps of the feed, answers to deeds, notices that
// were seen and what was sent that are older than keep; answers of suppliers after a day, histories of offers after three years. Records, contents that anything points at, revisions and trails stay. It needs the owner's account
// and may run while the service works, on several instances at once.
func Tidy(ctx context.Context, ownerDSN string, keep time.Duration) error {
	db, err := openSQL(ownerDSN)
	if err != nil {
		return err
	}
	defer db.Close()
	db.SetMaxOpenConns(2)
	if err := sweepStagings(ctx, db); err != nil {
		return err
	}
	hours := int(keep.Hours())
	for what, q := range map[string]string{
		"jobs":           "DELETE FROM jobs WHERE state NOT IN ('waiting','running') AND updated < NOW(6) - INTERVAL ? HOUR LIMIT 2000",
		"deeds":          "DELETE FROM deeds WHERE at < NOW(6) - INTERVAL ? HOUR AND NOT EXISTS (SELECT 1 FROM stagings s WHERE s.deed = deeds.id) AND NOT EXISTS (SELECT 1 FROM outbox o WHERE o.deed = deeds.id) LIMIT 2000",
		"notices":        "DELETE FROM notices WHERE seen < NOW(6) - INTERVAL ? HOUR LIMIT 2000",
		"sendings":       "DELETE FROM sendings WHERE state <> 'waiting' AND due < NOW(6) - INTERVAL ? HOUR LIMIT 2000",
		"news of offers": "DELETE FROM offer_news WHERE settled < NOW(6) - INTERVAL ? HOUR LIMIT 2000",
		"sessions":       "DELETE FROM sessions WHERE expires < NOW(6) - INTERVAL ? HOUR LIMIT 2000",
		"tokens":         "DELETE FROM tokens WHERE expires < NOW(6) - INTERVAL ? HOUR LIMIT 2000",
	} {
		if err := little(ctx, db, q, hours); err != nil {
			return fmt.Errorf("removing old %s: %w", what, err)
		}
	}
	for what, q := range map[string]string{
		"answers of suppliers": "DELETE FROM answers WHERE at < NOW(6) - INTERVAL 24 HOUR LIMIT 2000", // they serve for an hour; what was taken over is a file by then
		"pages of answers":     "DELETE FROM answer_pages WHERE NOT EXISTS (SELECT 1 FROM answers a WHERE a.id = answer_pages.answer) LIMIT 200",
		// Of each offer the last that is older stays: it is how the offer was when the history begins.
		"histories of offers": "DELETE FROM offer_history WHERE at < NOW(6) - INTERVAL 1096 DAY AND EXISTS (SELECT 1 FROM offer_history n WHERE n.offer = offer_history.offer AND n.at > offer_history.at AND n.at < NOW(6) - INTERVAL 1096 DAY) LIMIT 2000",
	} {
		if err := little(ctx, db, q); err != nil {
			return fmt.Errorf("removing old %s: %w", what, err)
		}
	}
	var last sql.NullInt64
	if err := db.QueryRowContext(ctx, "SELECT MAX(position) FROM feed").Scan(&last); err != nil {
		return err
	}
	if err := little(ctx, db, "DELETE FROM feed WHERE at < NOW(6) - INTERVAL ? HOUR AND position < ? LIMIT 2000", hours, last.Int64-leastFeed); err != nil {
		return fmt.Errorf("removing old steps of the feed: %w", err)
	}
	return nil
}

// little runs a DELETE with a limit until nothing is left, so that nobody waits for a long one.
func little(ctx context.Context, db *sql.DB, q string, args ...any) error {
	for {
		r, err := db.ExecContext(ctx, q, args...)
		if err != nil {
			return err
		}
		if n, err := r.RowsAffected(); err != nil || n == 0 {
			return err
		}
	}
}
