package main

import (
	"context"
	"database/sql"
	"fmt"
	"runtime"
	"slices"
	"sync"
	"time"

	"jollydrawer/client"
	"jollydrawer/core/cabinet"
	"jollydrawer/core/part"
	"jollydrawer/internal/wire"
)

// renamed is how many parts the library has whose parameter gets another name.
const renamed = 100_000

// carry renames a parameter that every part of a library has, all of them released and in the readout: how long the preview and the
// job take, beside a reference that loads all rows that the change made. Then it gives the parameter its name back while somebody
// keeps making parts and another looks parts up: how long these wait.
func carry(ctx context.Context) error {
	r, _, err := madeLibrary(ctx, renamed)
	defer r.close()
	if err != nil {
		return err
	}
	if r.svc, err = serve(r.dir, r.owner, r.dsn, r.keeper); err != nil {
		return err
	}
	k := r.k
	k.Base = r.svc.url
	if err := tabulated(ctx, k); err != nil {
		return err
	}
	change := wire.CabinetChange{Steps: []cabinet.Step{{Do: cabinet.Rename, Parameter: "height", To: "seated-height"}}}
	begin := time.Now()
	preview, err := k.PreviewChange(ctx, change)
	if err != nil {
		return err
	}
	previewed := time.Since(begin)
	change.Digest = preview.Digest
	taken, whole := stolen(), time.Now()
	took, err := changed(ctx, k, preview.Version, change)
	if err != nil {
		return err
	}
	if err := tabulated(ctx, k); err != nil {
		return err
	}
	// Under the names of now, each row of the readout stands for the one that the change made of the same part.
	made, err := withReadout(ctx, r.db, carriedRows, " WHERE content IN (SELECT id FROM contents"+ofLastChange+")")
	if err != nil {
		return err
	}
	load, rows, err := loadData(ctx, r.db, r.owner, made)
	if err != nil {
		return err
	}
	db, err := sql.Open("mysql", r.owner)
	if err != nil {
		return err
	}
	defer db.Close()
	ended := bystanders(ctx, k, db)
	time.Sleep(4 * time.Second)
	alone := ended()
	change.Steps[0].Parameter, change.Steps[0].To = change.Steps[0].To, change.Steps[0].Parameter
	if preview, err = k.PreviewChange(ctx, change); err != nil {
		return err
	}
	change.Digest = preview.Digest
	ended = bystanders(ctx, k, db)
	beside, err := changed(ctx, k, preview.Version, change)
	meanwhile := ended()
	if err != nil {
		return err
	}
	fmt.Printf("renaming a parameter of %d parts, %d of them released anew\n", preview.Parts, preview.Released)
	fmt.Printf("  preview               %6.1f s\n", previewed.Seconds())
	fmt.Printf("  job                   %6.1f s\n", took.Seconds())
	fmt.Printf("  reference             %6.1f s  LOAD DATA LOCAL INFILE of the %d resulting rows into the same tables\n", load.Seconds(), rows)
	fmt.Printf("  job beside others     %6.1f s  back again, while one makes parts and one looks parts up, each with 20 ms between two calls\n", beside.Seconds())
	for _, who := range people {
		with, without := meanwhile[who], alone[who]
		fmt.Printf("  %-20s  p99 %.0f ms, at most %.0f ms of %d meanwhile; alone %.0f and %.0f ms\n", who, quantile(with, 0.99), quantile(with, 1), len(with), quantile(without, 0.99), quantile(without, 1))
	}
	fmt.Printf("  stolen meanwhile      %6.1f %%   of the processors' time, by other machines on the same host\n", 100*(stolen()-taken)/time.Since(whole).Seconds()/float64(runtime.NumCPU()))
	fmt.Printf("  job ÷ reference       %6.2f, beside others %.2f, preview ÷ reference %.2f\n\n", took.Seconds()/load.Seconds(), beside.Seconds()/load.Seconds(), previewed.Seconds()/load.Seconds())
	return nil
}

// changed carries out a change of templates and says how long that took.
func changed(ctx context.Context, k *client.Client, version int, change wire.CabinetChange) (time.Duration, error) {
	begin := time.Now()
	j, err := k.ChangeCabinet(ctx, version, change)
	for err == nil && (j.State == "waiting" || j.State == "running") {
		time.Sleep(100 * time.Millisecond)
		j, err = k.Job(ctx, j.ID)
	}
	if err == nil && j.State != "done" {
		err = fmt.Errorf("the change is %s: %s", j.State, j.Error)
	}
	return time.Since(begin), err
}

// tabulated waits until the tables of all drawers are filled.
func tabulated(ctx context.Context, k *client.Client) error {
	for {
		t, err := k.Readout(ctx)
		if err != nil {
			return err
		}
		if !slices.ContainsFunc(t.Drawers, func(d wire.ReadoutDrawer) bool { return !d.Ready }) {
			return nil
		}
		time.Sleep(100 * time.Millisecond)
	}
}

// Who is about while templates are changed.
const (
	makes = "who makes parts"
	looks = "who looks parts up"
	waits = "lock of all writes"
)

var people = []string{makes, looks, waits}

// bystanders makes parts and looks parts up, one person each with a breath between, until ended is called, which returns how long
// each of their calls took. A third takes the lock that every write of a part takes, and nothing else: how long it waits for that.
func bystanders(ctx context.Context, k *client.Client, db *sql.DB) (ended func() map[string][]time.Duration) {
	ctx, stop := context.WithCancel(ctx)
	var mu sync.Mutex
	took := map[string][]time.Duration{}
	var all sync.WaitGroup
	person := func(who string, breath time.Duration, call func(n int) (time.Duration, error)) {
		all.Go(func() {
			for n := 0; ctx.Err() == nil; n++ {
				d, err := call(n)
				if err != nil {
					fmt.Printf("  %s: %v\n", who, err)
					return
				}
				mu.Lock()
				took[who] = append(took[who], d)
				mu.Unlock()
				time.Sleep(breath)
			}
		})
	}
	busy := context.WithoutCancel(ctx)
	word := fmt.Sprint("BY-", time.Now().UnixNano(), "-")
	person(makes, 20*time.Millisecond, func(n int) (time.Duration, error) {
		from := time.Now()
		_, err := k.MakePart(busy, wire.PartEdit{Drawer: "chip-resistors", Values: map[string]string{"resistance": fmt.Sprint(n+1, " Ω")}, Sources: []part.Source{{Manufacturer: "Bystander", MPN: fmt.Sprint(word, n)}}})
		return time.Since(from), err
	})
	person(looks, 20*time.Millisecond, func(n int) (time.Duration, error) {
		from := time.Now()
		_, err := k.Parts(busy, client.PartQuery{Text: fmt.Sprint(n%90+10, " kΩ 0603"), Limit: 50})
		return time.Since(from), err
	})
	person(waits, 5*time.Millisecond, func(int) (time.Duration, error) {
		t, err := db.BeginTx(busy, nil)
		if err != nil {
			return 0, err
		}
		defer t.Rollback()
		from := time.Now()
		_, err = t.ExecContext(busy, "UPDATE cabinet_guards SET n = n + 1 WHERE slot = 0")
		return time.Since(from), err
	})
	return func() map[string][]time.Duration {
		stop()
		all.Wait()
		return took
	}
}
