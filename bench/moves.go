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

// ofOneMove picks the rows that one deed over parts made.
const ofOneMove = " WHERE deed = (SELECT deed FROM (SELECT deed FROM heads WHERE kind = 'part' AND revision = 1 LIMIT 1) d)"

// movedRows are all rows that one deed over parts made, but for those of the readout.
var movedRows = []some{{"revisions", ofOneMove}, {"trail", ofOneMove}, {"heads", ofOneMove}}

// moves releases ten thousand parts in one deed, after its gates were asked, with the rows that it makes as a reference; then it asks
// for the queue and the start page while a thousand parts wait for a review.
func moves(ctx context.Context) error {
	r, err := setUp(ctx)
	defer r.close()
	if err != nil {
		return err
	}
	k := r.k
	var asked, took []time.Duration
	for round := range 3 {
		things, err := drafts(ctx, k, round*lot, moved)
		if err != nil {
			return err
		}
		in := wire.MoveThings{Move: "release", Note: "all at once", Things: things}
		begin := time.Now()
		p, err := k.PreviewMove(ctx, in)
		if err != nil {
			return err
		}
		asked = append(asked, time.Since(begin))
		if p.Things != moved {
			return fmt.Errorf("%d parts can be released: %+v", p.Things, p.Cannot)
		}
		begin = time.Now()
		if _, err := k.Move(ctx, in); err != nil {
			return err
		}
		took = append(took, time.Since(begin))
	}
	slices.Sort(asked)
	slices.Sort(took)
	made, err := withReadout(ctx, r.db, movedRows, " WHERE head IN (SELECT id FROM heads"+ofOneMove+")")
	if err != nil {
		return err
	}
	load, rows, err := loadData(ctx, r.db, r.owner, made)
	if err != nil {
		return err
	}
	things, err := drafts(ctx, k, 3*lot, 1000)
	if err != nil {
		return err
	}
	if _, err := k.Move(ctx, wire.MoveThings{Move: "ask for review", Things: things}); err != nil {
		return err
	}
	pages := map[string]func() error{
		"queue":      func() error { _, err := k.Queue(ctx, false, 0, 50); return err },
		"my queue":   func() error { _, err := k.Queue(ctx, true, 0, 50); return err },
		"start page": func() error { _, err := k.Worklist(ctx); return err },
	}
	fmt.Printf("moving %d parts in one deed\n", moved)
	fmt.Printf("  gates of all          %6.2f s\n", asked[1].Seconds())
	fmt.Printf("  deed                  %6.2f s (three deeds: %.2f to %.2f)\n", took[1].Seconds(), took[0].Seconds(), took[2].Seconds())
	fmt.Printf("  reference             %6.2f s  LOAD DATA LOCAL INFILE, median of three, of the %d resulting rows into the same tables\n", load.Seconds(), rows)
	fmt.Printf("  deed ÷ reference      %6.2f\n", took[1].Seconds()/load.Seconds())
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
