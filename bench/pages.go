package main

import (
	"context"
	"database/sql"
	"fmt"
	"math/rand/v2"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"sync"
	"time"

	"jollydrawer/client"
	"jollydrawer/core/cabinet"
	"jollydrawer/internal/dbserver"
	"jollydrawer/internal/wire"
)

// busy is a house of two hundred people: what each has begun, what waits for a second person, and what each was told.
const (
	busyPeople  = 200
	busyDrafts  = 20_000
	busyWaiting = 5_000
	busyNotices = 500 // of each person, the last 20 unread
	busyBoards  = 20
)

// madeLibrary is a library of n parts that are released, with its service stopped.
func madeLibrary(ctx context.Context, n int) (*rig, *cabinet.Cabinet, error) {
	dir, err := os.MkdirTemp("", "jm-")
	if err != nil {
		return nil, nil, err
	}
	r := &rig{dir: dir}
	if r.db, err = dbserver.Start(ctx, dbserver.Options{Dir: filepath.Join(dir, "db"), Extra: []string{"--local-infile=1", "--innodb-buffer-pool-size=512M", "--innodb-flush-log-at-trx-commit=0"}}); err != nil {
		return r, nil, err
	}
	r.owner, r.dsn = r.db.DSNs()
	r.keeper, _ = r.db.ReadoutDSNs(dbserver.Database)
	if r.svc, err = serve(dir, r.owner, r.dsn, r.keeper); err != nil {
		return r, nil, err
	}
	r.k = client.New(r.svc.url, "")
	if _, err := r.k.SignIn(ctx, "admin", password, "bench", 1); err != nil {
		return r, nil, err
	}
	if err := stock(ctx, r.k); err != nil {
		return r, nil, err
	}
	now, err := r.k.Cabinet(ctx)
	if err != nil {
		return r, nil, err
	}
	cab, err := cabinet.New(now.Document)
	if err != nil {
		return r, nil, err
	}
	r.svc.stop()
	if err := generate(ctx, r.owner, cab, n, ""); err != nil {
		return r, cab, fmt.Errorf("making the library: %w", err)
	}
	return r, cab, nil
}

// begun gives each person drafts, some of which wait for a second person, comments on them, and notices.
var begun = []string{
	"INSERT INTO accounts (id, login, name, role, password, disabled, version, created) SELECT UNHEX(MD5(CONCAT('p', s.seq))), CONCAT('p', s.seq), CONCAT('Person ', s.seq), 'engineer', a.password, FALSE, 1, NOW(6) FROM seq_0_to_199 s JOIN accounts a ON a.login = 'admin'",
	"INSERT INTO trail (head, seq, deed, account, at, action, detail, hash) SELECT h.id, 1, h.deed, a.id, h.updated, 'made', '{}', h.trail_hash FROM heads h JOIN accounts a ON a.login = 'admin' WHERE h.kind = 'part'",
	"CREATE TABLE bench_drafts (n INT PRIMARY KEY, head BINARY(16), content BINARY(16), deed BINARY(16), account BINARY(16), KEY (head))",
	"INSERT INTO bench_drafts SELECT n, id, UNHEX(MD5(CONCAT('c', n))), UNHEX(MD5(CONCAT('d', n))), UNHEX(MD5(CONCAT('p', n % 200))) FROM (SELECT id, ROW_NUMBER() OVER (ORDER BY MD5(id)) AS n FROM heads WHERE kind = 'part') x WHERE n <= 20000",
	"INSERT INTO contents (id, head, hash, format, template, bytes, origins, deed, at) SELECT d.content, c.head, c.hash, c.format, c.template, c.bytes, c.origins, d.deed, NOW(6) FROM bench_drafts d JOIN heads h ON h.id = d.head JOIN contents c ON c.id = h.released",
	"INSERT INTO trail (head, seq, deed, account, at, action, detail, hash) SELECT head, 2, deed, account, NOW(6), 'edited', '{}', UNHEX(SHA2('x', 256)) FROM bench_drafts",
	"UPDATE heads h JOIN bench_drafts d ON d.head = h.id SET h.draft = d.content, h.trail_seq = 2, h.version = 2, h.moved = NOW(6) - INTERVAL d.n SECOND, h.draft_state = IF(d.n <= 5000, 'in review', '')",
	"INSERT INTO comments (id, head, about, account, text, at, settled) SELECT UNHEX(MD5(CONCAT('m', n))), head, '', UNHEX(MD5(CONCAT('p', (n + 7) % 200))), 'is that so?', NOW(6), IF(n % 20 = 0, NOW(6), NULL) FROM bench_drafts WHERE n % 10 = 0",
	"INSERT INTO notices (id, account, deed, n, at, title, body, seen, digest) SELECT UNHEX(MD5(CONCAT(a.login, '-', s.seq))), a.id, UNHEX(MD5(CONCAT('t', s.seq))), s.seq, NOW(6), 'Somebody released something.', '{\"by\":\"Somebody\",\"why\":\"You watch it.\",\"things\":[],\"more\":0}', IF(s.seq > 480, NULL, NOW(6)), FALSE FROM accounts a JOIN seq_1_to_500 s WHERE a.login LIKE 'p%'",
	"ANALYZE TABLE heads, trail, contents, comments, notices",
}

// pages measures the pages that everybody opens first, in a library of n parts with two hundred people at work.
func pages(ctx context.Context, n int) error {
	r, cab, err := madeLibrary(ctx, n)
	defer r.close()
	if err != nil {
		return err
	}
	db, err := sql.Open("mysql", r.owner)
	if err != nil {
		return err
	}
	defer db.Close()
	for _, s := range begun {
		if _, err := db.ExecContext(ctx, s); err != nil {
			return fmt.Errorf("%.60s: %w", s, err)
		}
	}
	if r.svc, err = serve(r.dir, r.owner, r.dsn, ""); err != nil { // no tables for design tools: they are not asked here
		return err
	}
	r.k.Base = r.svc.url
	var leaves []string
	for _, t := range cab.Templates() {
		if t.Leaf && len(leaves) < 50 {
			leaves = append(leaves, t.Key)
		}
	}
	for g := range 20 { // each answers for a few drawers; some drawers are nobody's
		in := wire.GroupEdit{Name: fmt.Sprintf("Group %d", g), Members: []string{}, Drawers: leaves[2*g : 2*g+2], Kinds: []string{}}
		for m := range 10 {
			in.Members = append(in.Members, fmt.Sprintf("p%d", g*10+m))
		}
		if _, err := r.k.AddGroup(ctx, in); err != nil {
			return err
		}
	}
	var people []*client.Client
	for p := range 20 {
		k := client.New(r.svc.url, "")
		if _, err := k.SignIn(ctx, fmt.Sprintf("p%d", p*10+p%10), password, "bench", 1); err != nil {
			return err
		}
		people = append(people, k)
		var wants []wire.WantEdit
		for w := range 10 {
			wants = append(wants, wire.WantEdit{Facts: fmt.Sprintf("%dk 0603 wanted by %d", w+1, p)})
		}
		if _, err := k.MakeWants(ctx, wants); err != nil {
			return err
		}
	}
	for b := range busyBoards {
		if err := board(ctx, people[b%len(people)], db, b); err != nil {
			return err
		}
	}
	fmt.Printf("pages that open first: %d parts, %d people, %d drafts of which %d wait for a review\n", n, busyPeople, busyDrafts, busyWaiting)
	pages := []struct {
		name string
		ask  func(*client.Client) error
	}{
		{"queue", func(k *client.Client) error { _, err := k.Queue(ctx, false, 0, 50); return err }},
		{"my queue", func(k *client.Client) error { _, err := k.Queue(ctx, true, 0, 50); return err }},
		{"start page", func(k *client.Client) error { _, err := k.Worklist(ctx); return err }},
		{"reference", func(k *client.Client) error { _, err := k.Me(ctx); return err }},
	}
	rounds := make([][][]time.Duration, len(pages))
	for range pageRounds {
		for i, page := range pages {
			all, err := waited(people, page.ask)
			if err != nil {
				return fmt.Errorf("%s: %w", page.name, err)
			}
			rounds[i] = append(rounds[i], all)
		}
	}
	for i, page := range pages {
		note := ""
		if page.name == "reference" {
			note = "  who one is: a call that looks up the token only"
		}
		at := func(q float64) (all []float64) {
			for _, r := range rounds[i] {
				all = append(all, quantile(r, q))
			}
			slices.Sort(all)
			return all
		}
		p95 := at(0.95)
		fmt.Printf("  %-21s p50 %.1f ms, p95 %.1f ms (%d rounds: %.1f to %.1f)%s\n", page.name, at(0.5)[pageRounds/2], p95[pageRounds/2], pageRounds, p95[0], p95[pageRounds-1], note)
	}
	fmt.Println()
	return nil
}

// board brings a BOM whose lines name parts of the library, every fifth of them one that it lacks.
func board(ctx context.Context, k *client.Client, db *sql.DB, seed int) error {
	rows, err := db.QueryContext(ctx, "SELECT number FROM bench_flat LIMIT 160 OFFSET ?", seed*160)
	if err != nil {
		return err
	}
	defer rows.Close()
	text := &strings.Builder{}
	text.WriteString("Designator,Part number,Quantity\n")
	line := 0
	for rows.Next() {
		var number string
		if err := rows.Scan(&number); err != nil {
			return err
		}
		line++
		fmt.Fprintf(text, "R%d,%s,1\n", line, number)
		if line%5 == 0 {
			fmt.Fprintf(text, "U%d,NOBODY-%d-%d,1\n", line, seed, line)
		}
	}
	if err := rows.Err(); err != nil {
		return err
	}
	f, err := k.Upload(ctx, fmt.Sprintf("board-%d.csv", seed), strings.NewReader(text.String()))
	if err != nil {
		return err
	}
	_, err = k.BringBOM(ctx, wire.NewBOM{Name: fmt.Sprintf("Board %d", seed), FileHash: f.Hash, FileName: fmt.Sprintf("board-%d.csv", seed)})
	return err
}

// pageRounds is how often each page is asked for by all; what is shown is the round in the middle.
const pageRounds = 3

// waited has two people at a time ask for a page, each in turn, and returns how long each waited, sorted.
func waited(people []*client.Client, ask func(*client.Client) error) ([]time.Duration, error) {
	const rounds = 10
	var mu sync.Mutex
	var all []time.Duration
	var failed error
	var wait sync.WaitGroup
	for half := range 2 {
		wait.Go(func() {
			turns := rand.New(rand.NewPCG(uint64(half), 3))
			for range rounds * len(people) / 2 {
				k := people[turns.IntN(len(people))]
				begin := time.Now()
				err := ask(k)
				took := time.Since(begin)
				mu.Lock()
				all = append(all, took)
				if err != nil {
					failed = err
				}
				mu.Unlock()
			}
		})
	}
	wait.Wait()
	slices.Sort(all)
	return all, failed
}
