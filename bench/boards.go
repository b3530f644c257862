package main

import (
	"context"
	"database/sql"
	"fmt"
	"io"
	"math/rand/v2"
	"net/http"
	"slices"
	"strings"
	"time"

	"jollydrawer/client"
	"jollydrawer/internal/wire"
)

// onBoards measures the page of a board over HTTP: asked for when nothing changed and after each decision, with 300 lines and with 10,000, beside one SQL question for the
// records of as many lines.
func onBoards(ctx context.Context) error {
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
	fmt.Printf("The page of a board over HTTP, against %d parts\n", usedParts)
	random := rand.New(rand.NewPCG(11, 7))
	for _, lines := range []int{300, 10_000} {
		var text strings.Builder
		var wanted []any
		text.WriteString("Ref,Qty,MPN,Manufacturer,Note\n")
		for l := range lines {
			n := random.IntN(len(mpns))
			if l%10 == 0 { // what nothing answers is what people decide
				fmt.Fprintf(&text, "X%d,1,,,as agreed %d\n", l+1, l)
				continue
			}
			wanted = append(wanted, numbers[n])
			fmt.Fprintf(&text, "X%d,1,%s,%s,\n", l+1, mpns[n][0], mpns[n][1])
		}
		f, err := r.k.Upload(ctx, "board.csv", strings.NewReader(text.String()))
		if err != nil {
			return err
		}
		b, err := r.k.BringBOM(ctx, wire.NewBOM{Name: fmt.Sprintf("Board of %d", lines), FileHash: f.Hash, FileName: f.Name})
		if err != nil {
			return err
		}
		var open []int
		for _, l := range b.Lines {
			if l.Verdict == "not in the library" {
				open = append(open, l.Row)
			}
		}
		rounds := min(15, len(open)/2)
		var same, whole, decided, whileRead, changed, ref []time.Duration
		since := func(into *[]time.Duration, do func() error) error {
			start := time.Now()
			err := do()
			*into = append(*into, time.Since(start))
			return err
		}
		decide := func(row int) func() error {
			return func() error {
				after, err := r.k.DecideBOM(ctx, b.ID, b.Version, wire.BOMChoices{Choose: []wire.BOMChoice{{Row: row, Part: numbers[random.IntN(len(numbers))], Reason: "agreed"}}})
				b.Version = after.Version
				return err
			}
		}
		for k := range rounds {
			read := func() (err error) { b, err = r.k.BOM(ctx, b.ID); return err }
			if err := since(&whole, read); err != nil {
				return err
			}
			tag, _, err := tagOf(ctx, r.k, b.ID, "")
			if err != nil {
				return err
			}
			if err := since(&same, func() error { // as a page asks that has it; one of 10,000 lines is too long to be held back until its tag is known
				_, spared, err := tagOf(ctx, r.k, b.ID, tag)
				if err == nil && !spared && lines < 1000 {
					err = fmt.Errorf("the board of %d lines was sent again, and it is as it was", lines)
				}
				return err
			}); err != nil {
				return err
			}
			if err := since(&whileRead, decide(open[k])); err != nil {
				return err
			}
			if err := since(&changed, read); err != nil {
				return err
			}
			if err := since(&ref, func() error { return recordsOf(ctx, db, wanted) }); err != nil {
				return err
			}
		}
		for _, row := range open[rounds:min(len(open), rounds+60)] { // one after the other, as somebody works through a board
			if err := since(&decided, decide(row)); err != nil {
				return err
			}
		}
		for _, t := range [][]time.Duration{same, whole, decided, whileRead, changed, ref} {
			slices.Sort(t)
		}
		target := map[int]string{300: "target p95 20 ms", 10_000: "no target"}[lines]
		fmt.Printf("  %6d lines, nothing changed        p50 / p95 %7.1f / %.1f ms (%s)\n", lines, quantile(same, 0.5), quantile(same, 0.95), target)
		fmt.Printf("                the same, whole, read into memory %7.1f / %.1f ms (no target)\n", quantile(whole, 0.5), quantile(whole, 0.95))
		target = map[int]string{300: "target p95 100 ms", 10_000: "no target"}[lines]
		fmt.Printf("                after a decision       p50 / p95 %7.1f / %.1f ms (%s)\n", quantile(changed, 0.5), quantile(changed, 0.95), target)
		target = map[int]string{300: "no target", 10_000: "target 50 ms"}[lines]
		fmt.Printf("                a decision, answered with what it changes %6.1f / %.1f ms (%s)\n", quantile(decided, 0.5), quantile(decided, 0.95), target)
		fmt.Printf("                the same, just after the whole board was read      %6.1f / %.1f ms (no target)\n", quantile(whileRead, 0.5), quantile(whileRead, 0.95))
		fmt.Printf("    reference   the records of its lines by one SQL question %5.1f / %.1f ms\n", quantile(ref, 0.5), quantile(ref, 0.95))
	}
	fmt.Println()
	return nil
}

// tagOf asks for a board as a page does: with the tag of the answer that it has, where it has one.
func tagOf(ctx context.Context, k *client.Client, id, have string) (tag string, spared bool, err error) {
	q, err := http.NewRequestWithContext(ctx, http.MethodGet, k.Base+"/api/v1/boms/"+id, nil)
	if err != nil {
		return "", false, err
	}
	q.Header.Set("Authorization", "Bearer "+k.Token)
	if have != "" {
		q.Header.Set("If-None-Match", have)
	}
	a, err := k.HTTP.Do(q)
	if err != nil {
		return "", false, err
	}
	defer a.Body.Close()
	if _, err := io.Copy(io.Discard, a.Body); err != nil {
		return "", false, err
	}
	if a.StatusCode != http.StatusOK && a.StatusCode != http.StatusNotModified {
		return "", false, fmt.Errorf("the board was answered %s", a.Status)
	}
	return a.Header.Get("ETag"), a.StatusCode == http.StatusNotModified, nil
}

// recordsOf reads the contents of some parts, as the reference does.
func recordsOf(ctx context.Context, db *sql.DB, numbers []any) error {
	rows, err := db.QueryContext(ctx, "SELECT h.number, c.bytes FROM heads h JOIN contents c ON c.id = h.released WHERE h.kind = 'part' AND h.number IN (?"+strings.Repeat(", ?", len(numbers)-1)+")", numbers...)
	if err != nil {
		return err
	}
	defer rows.Close()
	for rows.Next() {
		var number string
		var raw []byte
		if err := rows.Scan(&number, &raw); err != nil {
			return err
		}
	}
	return rows.Err()
}
