package main

import (
	"context"
	"database/sql"
	"fmt"
	"math/rand/v2"
	"slices"
	"strings"
	"time"

	"jollydrawer/internal/wire"
)

// Boards of the where-used measurement.
const (
	usedBoards = 1_000
	usedLines  = 300
	usedParts  = 10_000
)

// whereUsed measures where parts are, over 1,000 boards of 300 lines each, beside an SQL question to a table of just those lines with an index on the part.
func whereUsed(ctx context.Context) error {
	r, _, err := madeLibrary(ctx, usedParts)
	defer r.close()
	if err != nil {
		return err
	}
	if r.svc, err = serve(r.dir, r.owner, r.dsn, ""); err != nil {
		return err
	}
	r.k.Base = r.svc.url
	db, err := sql.Open("mysql", r.owner)
	if err != nil {
		return err
	}
	defer db.Close()
	mpns, numbers, err := sourcesOf(ctx, db)
	if err != nil {
		return err
	}
	if _, err := db.ExecContext(ctx, "CREATE TABLE bench_lines (board INT, line INT, part VARCHAR(40), designators TEXT, PRIMARY KEY (board, line), KEY (part))"); err != nil {
		return err
	}
	random := rand.New(rand.NewPCG(7, 7))
	start := time.Now()
	for b := range usedBoards {
		var text strings.Builder
		var rows []string
		text.WriteString("Ref,Qty,MPN,Manufacturer\n")
		for l := range usedLines {
			n := random.IntN(len(mpns))
			fmt.Fprintf(&text, "X%d,1,%s,%s\n", l+1, mpns[n][0], mpns[n][1])
			rows = append(rows, fmt.Sprintf("(%d, %d, '%s', 'X%d')", b, l, numbers[n], l+1))
		}
		f, err := r.k.Upload(ctx, "board.csv", strings.NewReader(text.String()))
		if err != nil {
			return err
		}
		if _, err := r.k.BringBOM(ctx, wire.NewBOM{Name: fmt.Sprintf("Board %04d", b), FileHash: f.Hash, FileName: f.Name}); err != nil {
			return err
		}
		if _, err := db.ExecContext(ctx, "INSERT INTO bench_lines VALUES "+strings.Join(rows, ", ")); err != nil {
			return err
		}
	}
	fmt.Printf("Where parts are, over %d boards of %d lines (brought in over HTTP in %v)\n", usedBoards, usedLines, time.Since(start).Round(time.Second))
	start = time.Now()
	if _, err := r.k.WhereUsed(ctx, wire.UsedAsked{Part: numbers[0]}); err != nil {
		return err
	}
	fmt.Printf("  the first question, for which boards are looked through that are not kept: %v\n", time.Since(start).Round(time.Millisecond))
	var times, ref []time.Duration
	for range 300 {
		n := random.IntN(len(numbers))
		start := time.Now()
		got, err := r.k.WhereUsed(ctx, wire.UsedAsked{Part: numbers[n]})
		if err != nil {
			return err
		}
		times = append(times, time.Since(start))
		start = time.Now()
		found, err := boardsOf(ctx, db, numbers[n])
		if err != nil {
			return err
		}
		ref = append(ref, time.Since(start))
		if found != len(got.Items[0].Boards) {
			return fmt.Errorf("%s is on %d boards, and the table says %d", numbers[n], len(got.Items[0].Boards), found)
		}
	}
	slices.Sort(times)
	slices.Sort(ref)
	fmt.Printf("  p50 / p95             %6.1f / %.1f ms over HTTP (target p95 20 ms)\n", quantile(times, 0.5), quantile(times, 0.95))
	fmt.Printf("  reference p50 / p95   %6.1f / %.1f ms  the same lines in a table of their own, one SQL question with an index\n\n", quantile(ref, 0.5), quantile(ref, 0.95))
	return nil
}

// sourcesOf lists the MPNs of parts with their makers, and the parts' numbers.
func sourcesOf(ctx context.Context, db *sql.DB) (mpns [][2]string, numbers []string, err error) {
	rows, err := db.QueryContext(ctx, "SELECT h.number, JSON_VALUE(CONVERT(c.bytes USING utf8mb4), '$.sources[0].mpn'), JSON_VALUE(CONVERT(c.bytes USING utf8mb4), '$.sources[0].manufacturer') FROM heads h JOIN contents c ON c.id = h.released WHERE h.kind = 'part' ORDER BY h.number LIMIT 5000")
	if err != nil {
		return nil, nil, err
	}
	defer rows.Close()
	for rows.Next() {
		var number string
		var mpn, maker sql.NullString
		if err := rows.Scan(&number, &mpn, &maker); err != nil {
			return nil, nil, err
		}
		if mpn.String != "" && maker.String != "" && !strings.ContainsAny(mpn.String+maker.String, ",\"'") {
			mpns, numbers = append(mpns, [2]string{mpn.String, maker.String}), append(numbers, number)
		}
	}
	if len(mpns) < 1000 {
		return nil, nil, fmt.Errorf("only %d parts have a source", len(mpns))
	}
	return mpns, numbers, rows.Err()
}

// boardsOf counts the boards of a part as the reference finds them.
func boardsOf(ctx context.Context, db *sql.DB, number string) (n int, err error) {
	rows, err := db.QueryContext(ctx, "SELECT board, GROUP_CONCAT(designators ORDER BY line SEPARATOR ', ') FROM bench_lines WHERE part = ? GROUP BY board", number)
	if err != nil {
		return 0, err
	}
	defer rows.Close()
	for rows.Next() {
		var board int
		var where string
		if err := rows.Scan(&board, &where); err != nil {
			return 0, err
		}
		n++
	}
	return n, rows.Err()
}
