package main

import (
	"context"
	"database/sql"
	"fmt"
	"slices"
	"strings"
	"time"

	"jollydrawer/client"
	"jollydrawer/internal/store"
	"jollydrawer/internal/wire"
)

// watching is how many people are told of one deed.
const watching = 200

// told moves ten thousand parts in one deed, again and again, while somebody saves a part over and over: every other time two hundred
// people watch the drawers, each of whom gets one notice of it. What the writer waits for is measured until all are told; without
// watchers, for as long.
func told(ctx context.Context) error {
	r, err := setUp(ctx)
	defer r.close()
	if err != nil {
		return err
	}
	k := r.k
	things, err := drafts(ctx, k, 0, moved)
	if err != nil {
		return err
	}
	db, err := sql.Open("mysql", r.owner)
	if err != nil {
		return err
	}
	defer db.Close()
	for n := range watching {
		id := store.NewID()
		if _, err := db.ExecContext(ctx, "INSERT INTO accounts (id, login, name, role, password, disabled, version, created) VALUES (?,?,?,'reader','x',FALSE,1,NOW(6))", id, fmt.Sprintf("w%d", n), fmt.Sprintf("Watcher %d", n)); err != nil {
			return err
		}
	}
	own, err := k.MakePart(ctx, wire.PartEdit{Drawer: "chip-resistors", Values: map[string]string{"resistance": "1k"}})
	if err != nil {
		return err
	}
	move, window := "ask for review", 4*time.Second
	var with, without, took []time.Duration
	for run := range 6 {
		watched := run%2 == 1
		if _, err := db.ExecContext(ctx, "DELETE FROM watches"); err != nil {
			return err
		}
		if watched {
			if _, err := db.ExecContext(ctx, "INSERT INTO watches (id, account, sort, about, made) SELECT id, id, 'drawer', 'passives', NOW(6) FROM accounts WHERE login LIKE 'w%'"); err != nil {
				return err
			}
		}
		in := wire.MoveThings{Move: move, Note: "run", Things: things}
		if _, err := k.Move(ctx, in); err != nil {
			return err
		}
		for i := range things {
			things[i].Version++
		}
		move = map[string]string{"ask for review": "send back", "send back": "ask for review"}[move]
		var all []time.Duration
		begin := time.Now()
		for n := 0; ; n++ {
			at := time.Now()
			if own, err = k.SaveDraft(ctx, own.ID, own.Version, wire.PartEdit{Drawer: "chip-resistors", Values: map[string]string{"resistance": fmt.Sprintf("%dk", n%90+1)}}); err != nil {
				return err
			}
			all = append(all, time.Since(at))
			if watched {
				var have int
				if err := db.QueryRowContext(ctx, "SELECT COUNT(*) FROM notices n JOIN (SELECT MAX(deed) AS d FROM notices) x WHERE n.title LIKE '%moved%'").Scan(&have); err != nil {
					return err
				}
				if have >= watching*(run+1)/2 {
					took = append(took, time.Since(begin))
					window = max(time.Since(begin), 500*time.Millisecond)
					break
				}
				if time.Since(begin) > time.Minute {
					return fmt.Errorf("%d of %d were told within a minute", have, watching)
				}
			} else if time.Since(begin) > window {
				break
			}
		}
		if watched {
			with = append(with, all...)
		} else {
			without = append(without, all...)
		}
	}
	slices.Sort(with)
	slices.Sort(without)
	slices.Sort(took)
	fmt.Printf("one deed over %d parts told to %d people\n", len(things), watching)
	fmt.Printf("  until all were told   %6.2f s  (median of %d)\n", took[len(took)/2].Seconds(), len(took))
	fmt.Printf("  a writer meanwhile    p50 %.1f ms, p95 %.1f ms (%d writes)\n", quantile(with, 0.5), quantile(with, 0.95), len(with))
	fmt.Printf("  reference             p50 %.1f ms, p95 %.1f ms (%d writes)  the same after a deed of which nobody is told, alternating\n", quantile(without, 0.5), quantile(without, 0.95), len(without))
	fmt.Printf("  with ÷ without        %6.2f\n\n", quantile(with, 0.5)/quantile(without, 0.5))
	return nil
}

// drafts takes in as many parts as one lot has, and lists some of them.
func drafts(ctx context.Context, k *client.Client, from, n int) ([]wire.PartBase, error) {
	f, err := k.Upload(ctx, "parts.csv", strings.NewReader(csv(from)))
	if err != nil {
		return nil, err
	}
	i, err := k.OpenIntake(ctx, wire.NewIntake{Supplier: "Bench", FileHash: f.Hash, FileName: f.Name})
	if err != nil {
		return nil, err
	}
	j, err := k.TakeIn(ctx, i.ID, i.Version, "", wire.TakeIn{Digest: i.Digest})
	if err == nil {
		j, err = k.WaitJob(ctx, j.ID, nil)
	}
	if err != nil || j.TakenIn == nil {
		return nil, fmt.Errorf("the take-in is %s (%s): %w", j.State, j.Error, err)
	}
	var things []wire.PartBase
	for offset := 0; len(things) < n; offset += 1000 {
		l, err := k.Parts(ctx, client.PartQuery{Status: []string{"draft"}, Offset: offset, Limit: 1000})
		if err != nil {
			return nil, err
		}
		if len(l.Items) == 0 {
			return nil, fmt.Errorf("there are %d drafts only", len(things))
		}
		for _, p := range l.Items {
			things = append(things, wire.PartBase{ID: p.ID, Version: p.Version})
		}
	}
	return things[:n], nil
}
