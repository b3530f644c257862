package main

import (
	"context"
	"fmt"
	"time"

	"jollydrawer/client"
	"jollydrawer/core/cabinet"
	"jollydrawer/core/part"
	"jollydrawer/internal/dbserver"
	"jollydrawer/internal/wire"
)

// carry renames a parameter that every part of the library has, while somebody else keeps making parts: how long the
// preview and the job take, and how long the other one waits at most. The reference loads all rows that the change made.
func carry(ctx context.Context, k *client.Client, db *dbserver.Server, owner string) error {
	change := wire.CabinetChange{Steps: []cabinet.Step{{Do: cabinet.Rename, Parameter: "height", To: "seated-height"}}}
	begin := time.Now()
	preview, err := k.PreviewChange(ctx, change)
	if err != nil {
		return err
	}
	previewed := time.Since(begin)
	change.Digest = preview.Digest
	others, stop := context.WithCancel(ctx)
	waits := make(chan time.Duration)
	go func() {
		var longest time.Duration
		for n := 0; others.Err() == nil; n++ {
			from := time.Now()
			if _, err := k.MakePart(ctx, wire.PartEdit{Drawer: "chip-resistors", Values: map[string]string{"resistance": fmt.Sprint(n+1, " Ω")}, Sources: []part.Source{{Manufacturer: "Bystander", MPN: fmt.Sprint("BY-", n)}}}); err != nil {
				fmt.Println("  the other writer:", err)
				break
			}
			longest = max(longest, time.Since(from))
			time.Sleep(20 * time.Millisecond)
		}
		waits <- longest
	}()
	begin = time.Now()
	j, err := k.ChangeCabinet(ctx, preview.Version, change)
	for err == nil && (j.State == "waiting" || j.State == "running") {
		time.Sleep(100 * time.Millisecond)
		j, err = k.Job(ctx, j.ID)
	}
	took := time.Since(begin)
	stop()
	longest := <-waits
	if err != nil || j.State != "done" {
		return fmt.Errorf("the change is %s (%s): %w", j.State, j.Error, err)
	}
	load, rows, err := loadData(ctx, db, owner, carriedRows)
	if err != nil {
		return err
	}
	fmt.Printf("renaming a parameter of %d parts, %d of them released anew\n", preview.Parts, preview.Released)
	fmt.Printf("  preview               %6.1f s\n", previewed.Seconds())
	fmt.Printf("  job                   %6.1f s; somebody who makes parts meanwhile waits %.2f s at most\n", took.Seconds(), longest.Seconds())
	fmt.Printf("  reference             %6.1f s  LOAD DATA LOCAL INFILE of the %d resulting rows into the same tables\n", load.Seconds(), rows)
	fmt.Printf("  job ÷ reference       %6.2f, preview ÷ reference %.2f\n\n", took.Seconds()/load.Seconds(), previewed.Seconds()/load.Seconds())
	return nil
}
