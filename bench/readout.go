package main

import (
	"context"
	"database/sql"
	"errors"
	"fmt"
	"slices"
	"time"

	"jollydrawer/core/cabinet"
	"jollydrawer/core/readout"
	"jollydrawer/internal/dbserver"
)

// withReadout adds rows of the readout's tables: those that where picks in each.
func withReadout(ctx context.Context, s *dbserver.Server, made []some, where string) ([]some, error) {
	root, err := s.Root()
	if err != nil {
		return nil, err
	}
	defer root.Close()
	rows := readout.RowsOf(dbserver.Database)
	if _, err := root.ExecContext(ctx, "GRANT SELECT ON "+rows+".* TO jolly_owner@'127.0.0.1'"); err != nil {
		return nil, err
	}
	found, err := root.QueryContext(ctx, "SELECT name FROM "+dbserver.Database+".readout_tables")
	if err != nil {
		return nil, err
	}
	defer found.Close()
	out := slices.Clone(made)
	for found.Next() {
		var name string
		if err := found.Scan(&name); err != nil {
			return nil, err
		}
		out = append(out, some{rows + "." + name, where})
	}
	return out, found.Err()
}

// tabled is how many parts lie in the one drawer that is read.
const tabled = 100_000

// tables measures what a design tool waits for that reads a drawer of a hundred thousand parts, beside the same questions to a flat
// table that has nothing but these columns and indexes.
func tables(ctx context.Context) error {
	r, err := setUp(ctx)
	defer r.close()
	if err != nil {
		return err
	}
	now, err := r.k.Cabinet(ctx)
	if err != nil {
		return err
	}
	cab, err := cabinet.New(now.Document)
	if err != nil {
		return err
	}
	r.svc.stop()
	if err := generate(ctx, r.owner, cab, tabled, "chip-resistors"); err != nil {
		return fmt.Errorf("making the library: %w", err)
	}
	root, err := r.db.Root()
	if err != nil {
		return err
	}
	defer root.Close()
	// What was made behind the service's back: its tables are made anew.
	if _, err := root.ExecContext(ctx, "DELETE FROM "+dbserver.Database+".readout_tables"); err != nil {
		return err
	}
	_, dsn := r.db.DSNs()
	keeper, reader := r.db.ReadoutDSNs(dbserver.Database)
	begin := time.Now()
	if r.svc, err = serve(r.dir, r.owner, dsn, keeper); err != nil {
		return err
	}
	r.k.Base = r.svc.url
	for ready := false; !ready; time.Sleep(50 * time.Millisecond) {
		s, err := r.k.Readout(ctx)
		if err != nil {
			return err
		}
		if time.Since(begin) > 5*time.Minute {
			return errors.New("the tables were not made within five minutes: " + s.Problem)
		}
		for _, d := range s.Drawers {
			ready = ready || d.Drawer == "chip-resistors" && d.Ready
		}
	}
	made := time.Since(begin)
	tool, err := sql.Open("mysql", reader)
	if err != nil {
		return err
	}
	defer tool.Close()
	flat, err := sql.Open("mysql", r.owner)
	if err != nil {
		return err
	}
	defer flat.Close()
	var number string
	if err := flat.QueryRowContext(ctx, "SELECT number FROM bench_flat ORDER BY number LIMIT 1 OFFSET 50000").Scan(&number); err != nil {
		return err
	}
	fmt.Printf("readout of %d parts in one drawer\n", tabled)
	fmt.Printf("  made in               %6.1f s  start of the service included\n", made.Seconds())
	for _, q := range []struct{ what, view, flat string }{
		{"sorted by value, 50", "SELECT part_number, resistance, mpn FROM chip_resistors ORDER BY resistance_number LIMIT 50", "SELECT number, lead_value, maker FROM bench_flat FORCE INDEX (drawer_2) WHERE drawer = 'chip-resistors' ORDER BY lead_value LIMIT 50"},
		{"the same, falling", "SELECT * FROM chip_resistors ORDER BY resistance_number DESC LIMIT 50", "SELECT * FROM bench_flat FORCE INDEX (drawer_2) WHERE drawer = 'chip-resistors' ORDER BY lead_value DESC LIMIT 50"},
		{"one part", "SELECT * FROM chip_resistors WHERE part_number = '" + number + "'", "SELECT * FROM bench_flat WHERE number = '" + number + "'"},
	} {
		p50, p95, err := asked(ctx, tool, q.view)
		if err != nil {
			return err
		}
		r50, r95, err := asked(ctx, flat, q.flat)
		if err != nil {
			return err
		}
		fmt.Printf("  %-21s p50 %.1f ms, p95 %.1f ms; reference, the flat table: p50 %.1f ms, p95 %.1f ms\n", q.what, p50, p95, r50, r95)
	}
	fmt.Println()
	return nil
}

// asked is how long a question takes until all rows are there, of two hundred times.
func asked(ctx context.Context, db *sql.DB, query string) (p50, p95 float64, err error) {
	var all []time.Duration
	for range 200 {
		begin := time.Now()
		rows, err := db.QueryContext(ctx, query)
		if err != nil {
			return 0, 0, err
		}
		n := 0
		for rows.Next() {
			n++
		}
		rows.Close()
		if rows.Err() != nil || n == 0 {
			return 0, 0, fmt.Errorf("%s: %d rows: %w", query, n, rows.Err())
		}
		all = append(all, time.Since(begin))
	}
	slices.Sort(all)
	return quantile(all, 0.5), quantile(all, 0.95), nil
}
