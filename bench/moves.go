package main

import (
	"context"
	"fmt"
	"slices"
	"time"

	"jollydrawer/internal/wire"
)

// moved is how many parts one deed moves.
const moved = 10_000

// movedRows are all rows that the last deed over parts made.
var movedRows = func() (out []some) {
	const deed = " WHERE deed = (SELECT deed FROM (SELECT deed FROM heads WHERE kind = 'part' AND revision = 1 LIMIT 1) d)"
	for _, table := range []string{"revisions", "trail", "heads"} {
		out = append(out, some{table, deed})
	}
	return out
}()

// moves releases ten thousand parts in one deed, after its gates were asked, with the rows that it makes as a reference; then it asks
// for the queue and the start page while a thousand parts wait for a review.
func moves(ctx context.Context) error {
	r, err := setUp(ctx)
	defer r.close()
	if err != nil {
		return err
	}
	k := r.k
	things, err := drafts(ctx, k, moved+1000)
	if err != nil {
		return err
	}
	in := wire.MoveThings{Move: "release", Note: "all at once", Things: things[:moved]}
	begin := time.Now()
	p, err := k.PreviewMove(ctx, in)
	if err != nil {
		return err
	}
	asked := time.Since(begin)
	if p.Things != moved {
		return fmt.Errorf("%d parts can be released: %+v", p.Things, p.Cannot)
	}
	begin = time.Now()
	if _, err := k.Move(ctx, in); err != nil {
		return err
	}
	took := time.Since(begin)
	made, err := withReadout(ctx, r.db, movedRows)
	if err != nil {
		return err
	}
	load, rows, err := loadData(ctx, r.db, r.owner, made)
	if err != nil {
		return err
	}
	if _, err := k.Move(ctx, wire.MoveThings{Move: "ask for review", Things: things[moved : moved+1000]}); err != nil {
		return err
	}
	pages := map[string]func() error{
		"queue":      func() error { _, err := k.Queue(ctx, false, 0, 50); return err },
		"my queue":   func() error { _, err := k.Queue(ctx, true, 0, 50); return err },
		"start page": func() error { _, err := k.Worklist(ctx); return err },
	}
	fmt.Printf("moving %d parts in one deed\n", moved)
	fmt.Printf("  gates of all          %6.2f s\n", asked.Seconds())
	fmt.Printf("  deed                  %6.2f s\n", took.Seconds())
	fmt.Printf("  reference             %6.2f s  LOAD DATA LOCAL INFILE of the %d resulting rows into the same tables\n", load.Seconds(), rows)
	fmt.Printf("  deed ÷ reference      %6.2f\n", took.Seconds()/load.Seconds())
	for _, name := range []string{"queue", "my queue", "start page"} {
		var all []time.Duration
		for range 100 {
			begin := time.Now()
			if err := pages[name](); err != nil {
				return err
			}
			all = append(all, time.Since(begin))
		}
		slices.Sort(all)
		fmt.Printf("  %-21s p50 %.1f ms, p95 %.1f ms (1000 wait for a review)\n", name, quantile(all, 0.5), quantile(all, 0.95))
	}
	fmt.Println()
	return nil
}
