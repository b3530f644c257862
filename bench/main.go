// Command bench measures the service as a whole, on a database of its own, and prints beside each figure a reference
// measured in the same run: make bench.
package main

import (
	"context"
	"database/sql"
	"errors"
	"flag"
	"fmt"
	"log"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"runtime"
	"slices"
	"sort"
	"strconv"
	"strings"
	"sync"
	"time"

	"jollydrawer/client"
	"jollydrawer/internal/dbserver"
	"jollydrawer/internal/wire"
)

const (
	lot      = 20_000 // rows of one intake
	lots     = 5      // intakes that make up the library
	bomLines = 2_000
	password = "measured-not-guessed"
)

// group is some figures that are measured together, with their references.
type group struct {
	name    string
	measure []func(context.Context) error // one after the other
}

// groups are all there are, in the order in which they are measured.
func groups(sizes, rows []int) []group {
	plain := func(f func()) func(context.Context) error {
		return func(context.Context) error { f(); return nil }
	}
	offline := func(f func() error) func(context.Context) error {
		return func(context.Context) error { return f() }
	}
	each := func(f func(context.Context, int) error, all ...int) func(context.Context) error {
		return func(ctx context.Context) error {
			for _, n := range all {
				if err := f(ctx, n); err != nil {
					return err
				}
			}
			return nil
		}
	}
	type these = []func(context.Context) error
	return []group{
		{"values", these{plain(values)}},
		{"right", these{offline(rightness)}},
		{"boms", these{offline(costing), func(ctx context.Context) error { return reconciling(ctx, sizes) }}},
		{"boards", these{onBoards}},
		{"where", these{whereUsed}},
		{"models", these{offline(func() error { return readingDrawings(2_000) }), plain(func() { pairsAndSeats(2_000) }), offline(func() error { return fingerprints(10_000) }), deliveries}},
		{"suppliers", these{supplierAnswers, firstRows}},
		{"offers", these{each(offered, 100_000), each(refreshed, 10_000)}},
		{"intake", these{offline(mapping), each(wideIntake, rows...)}},
		{"large", these{each(large, sizes...)}},
		{"rename", these{carry}},
		{"readout", these{tables}},
		{"pages", these{each(pages, sizes...)}},
		{"notices", these{told}},
		{"moves", these{moves}},
		{"library", these{run}},
	}
}

func main() {
	var names []string
	for _, g := range groups(nil, nil) {
		names = append(names, g.name)
	}
	only := flag.String("only", "", strings.Join(names, ", ")+"; all where blank")
	rows := flag.String("rows", "10000,100000,300000", "rows of the wide intakes")
	sizes := flag.String("sizes", "100000,1000000", "parts of the large libraries")
	flag.Parse()
	if *only != "" && !slices.Contains(names, *only) {
		log.Fatalf("there are no figures called %q, but %s", *only, strings.Join(names, ", "))
	}
	fmt.Printf("%d processors, %s, MariaDB private on loopback\n\n", runtime.NumCPU(), runtime.Version())
	for _, g := range groups(numbers(*sizes), numbers(*rows)) {
		if *only != "" && *only != g.name {
			continue
		}
		for _, measure := range g.measure {
			if err := measure(context.Background()); err != nil {
				log.Fatalf("%s: %v", g.name, err)
			}
		}
	}
}

// numbers reads sizes that are parted by commas.
func numbers(list string) (out []int) {
	for _, text := range strings.Split(list, ",") {
		n, err := strconv.Atoi(text)
		if err != nil {
			log.Fatal(err)
		}
		out = append(out, n)
	}
	return out
}

// rig is a service on a database of its own, stocked with the demo's cabinet, with somebody signed in.
type rig struct {
	db                 *dbserver.Server
	owner, dsn, keeper string // as whom it is spoken to
	svc                *service
	k                  *client.Client
	dir                string
}

func setUp(ctx context.Context) (*rig, error) {
	dir, err := os.MkdirTemp("", "jb-")
	if err != nil {
		return nil, err
	}
	r := &rig{dir: dir}
	if r.db, err = dbserver.Start(ctx, dbserver.Options{Dir: filepath.Join(dir, "db"), Extra: []string{"--local-infile=1"}}); err != nil {
		return r, err
	}
	r.owner, r.dsn = r.db.DSNs()
	r.keeper, _ = r.db.ReadoutDSNs(dbserver.Database)
	if r.svc, err = serve(dir, r.owner, r.dsn, r.keeper); err != nil {
		return r, err
	}
	r.k = client.New(r.svc.url, "")
	if _, err := r.k.SignIn(ctx, "admin", password, "bench", 1); err != nil {
		return r, err
	}
	return r, stock(ctx, r.k)
}

func (r *rig) close() {
	if r == nil {
		return
	}
	if r.svc != nil {
		_ = r.svc.cmd.Process.Kill()
	}
	if r.db != nil {
		r.db.Stop()
	}
	_ = os.RemoveAll(r.dir)
}

func run(ctx context.Context) error {
	r, err := setUp(ctx)
	defer r.close()
	if err != nil {
		return err
	}
	k, db, owner, svc := r.k, r.db, r.owner, r.svc
	if err := intakes(ctx, k, db, owner); err != nil {
		return fmt.Errorf("intakes: %w", err)
	}
	if err := reference(ctx, owner); err != nil {
		return fmt.Errorf("reference tables: %w", err)
	}
	if err := reconcile(ctx, k, owner); err != nil {
		return fmt.Errorf("reconciling: %w", err)
	}
	if err := lookups(ctx, k, owner); err != nil {
		return fmt.Errorf("lookups: %w", err)
	}
	return memory(svc.cmd.Process.Pid)
}

type service struct {
	cmd *exec.Cmd
	url string
}

// serve starts a service; keeper is the DSN of whom the readout is kept by.
func serve(dir, owner, dsn, keeper string) (*service, error) {
	out, err := os.Create(filepath.Join(dir, "out"))
	if err != nil {
		return nil, err
	}
	s := &service{cmd: exec.Command("bin/jolly", "serve", "--listen", "127.0.0.1:0", "--database-dsn", dsn, "--database-owner-dsn", owner, "--readout-dsn", keeper, "--data", dir, "--log-level", "warn")}
	s.cmd.Env = append(os.Environ(), "JOLLY_FIRST_PASSWORD="+password)
	s.cmd.Stdout, s.cmd.Stderr = out, os.Stderr
	if err := s.cmd.Start(); err != nil {
		return nil, err
	}
	for range 6000 {
		time.Sleep(50 * time.Millisecond)
		raw, _ := os.ReadFile(out.Name())
		if m := regexp.MustCompile(`listens on (\S+)`).FindSubmatch(raw); m != nil {
			s.url = string(m[1])
			return s, nil
		}
	}
	return nil, errors.New("the service did not start")
}

func stock(ctx context.Context, k *client.Client) error {
	cab, err := os.ReadFile("demo/cabinet.yaml")
	if err == nil {
		_, err = k.ApplyCabinet(ctx, 0, string(cab))
	}
	if err != nil {
		return err
	}
	_, err = k.ApplyCrosswalk(ctx, 0, `format: jolly-crosswalk/1
supplier: Bench
decimalMark: comma
drawer: chip-resistors
take: { manufacturer: f2, mpn: f3, supplierNumber: f1 }
fields: [{from: f4, to: resistance}, {from: f5, to: tolerance}, {from: f6, to: power, unit: W}, {from: f7, to: case}, {from: f8, to: temperature-range}, {from: f9, to: rohs}]
`)
	return err
}

var sizes = []string{"0402", "0603", "0805", "1206", "2010", "2512"}

// mpn names the n-th part of the library.
func mpn(n int) string { return fmt.Sprintf("BW-%s-%06d-F", sizes[n%len(sizes)], n) }

// ohms gives the n-th part its value: 96 steps over six decades.
func ohms(n int) string {
	return strings.Replace(fmt.Sprintf("%.4g", float64(100+n%96*9)*[]float64{0.01, 0.1, 1, 10, 100, 1000}[n/96%6]), ".", ",", 1)
}

// csv writes the rows from n to n+lot as a supplier with a decimal comma would: 20 fields.
func csv(n int) string {
	var b strings.Builder
	for f := range 20 {
		fmt.Fprintf(&b, "f%d;", f+1)
	}
	b.WriteString("\n")
	for i := n; i < n+lot; i++ {
		fmt.Fprintf(&b, "B%07d;Brinewell;%s;%s Ω;±1 %%;0,%03d;%s;-55 ... +155 °C;yes;%d;%d;reel;tape;x;y;z;0,0%d;12;EU;note %d\n", i, mpn(i), ohms(i), 63+i%4*62, sizes[i%len(sizes)], i%977, i*7%5000, i%90, i)
	}
	return b.String()
}

func intakes(ctx context.Context, k *client.Client, db *dbserver.Server, owner string) error {
	for l := range lots {
		text := csv(l * lot)
		f, err := k.Upload(ctx, fmt.Sprintf("lot-%d.csv", l), strings.NewReader(text))
		if err != nil {
			return err
		}
		begin := time.Now()
		i, err := k.OpenIntake(ctx, wire.NewIntake{Supplier: "Bench", FileHash: f.Hash, FileName: f.Name})
		if err != nil {
			return err
		}
		read := time.Since(begin)
		if i.Counts["new"] != lot {
			return fmt.Errorf("%v", i.Counts)
		}
		begin = time.Now()
		j, err := k.TakeIn(ctx, i.ID, i.Version, "", wire.TakeIn{Digest: i.Digest})
		if err == nil {
			j, err = k.WaitJob(ctx, j.ID, nil)
		}
		if err != nil || j.TakenIn == nil {
			return fmt.Errorf("%w %s", err, j.Error)
		}
		took := time.Since(begin)
		if l > 0 {
			continue
		}
		load, rows, err := loadData(ctx, db, owner, partRows)
		if err != nil {
			return err
		}
		all := read + took
		fmt.Printf("intake of %d rows × 20 fields (%.1f MB of CSV)\n", lot, float64(len(text))/1e6)
		fmt.Printf("  read, map and check   %6.2f s  %8.0f rows/s\n", read.Seconds(), lot/read.Seconds())
		fmt.Printf("  take in               %6.2f s  %8.0f rows/s\n", took.Seconds(), lot/took.Seconds())
		fmt.Printf("  both                  %6.2f s  %8.0f rows/s\n", all.Seconds(), lot/all.Seconds())
		fmt.Printf("  reference             %6.2f s  LOAD DATA LOCAL INFILE of the %d resulting rows into the same tables\n", load.Seconds(), rows)
		fmt.Printf("  taking in ÷ reference %6.2f\n\n", took.Seconds()/load.Seconds())
	}
	return nil
}

// quantile returns the q-th quantile of sorted durations in milliseconds.
func quantile(all []time.Duration, q float64) float64 {
	sort.Slice(all, func(i, j int) bool { return all[i] < all[j] })
	return float64(all[min(len(all)-1, int(q*float64(len(all))))].Microseconds()) / 1000
}

func reconcile(ctx context.Context, k *client.Client, owner string) error {
	var b strings.Builder
	b.WriteString("Designator,Qty,Value,Package,MPN,Manufacturer\n")
	for n := range bomLines {
		i := n * 47 % (lot * lots)
		fmt.Fprintf(&b, "R%d,1,\"%s\",%s,%s,Brinewell\n", n+1, ohms(i)+" Ω", sizes[i%len(sizes)], strings.ReplaceAll(mpn(i), "-", " "))
	}
	f, err := k.Upload(ctx, "bom.csv", strings.NewReader(b.String()))
	if err != nil {
		return err
	}
	bom, err := k.BringBOM(ctx, wire.NewBOM{Name: "Bench", FileHash: f.Hash, FileName: f.Name})
	if err != nil {
		return err
	}
	if bom.Counts["linked"] != bomLines {
		return fmt.Errorf("%v", bom.Counts)
	}
	var times, ref []time.Duration
	db, err := sql.Open("mysql", owner)
	if err != nil {
		return err
	}
	defer db.Close()
	for range 15 {
		begin := time.Now()
		if _, err := k.BOM(ctx, bom.ID); err != nil {
			return err
		}
		times = append(times, time.Since(begin))
		begin = time.Now()
		var n int
		rows, err := db.QueryContext(ctx, "SELECT l.line_no, p.number, p.description FROM bench_lines l JOIN bench_parts p ON p.mpn = l.mpn")
		if err != nil {
			return err
		}
		for rows.Next() {
			n++
		}
		rows.Close()
		if n != bomLines {
			return fmt.Errorf("the join gives %d rows", n)
		}
		ref = append(ref, time.Since(begin))
	}
	fmt.Printf("reconcile %d lines against %d parts, through HTTP: file read, matched, compared, verdicts as JSON\n", bomLines, lot*lots)
	fmt.Printf("  median                %6.1f ms\n", quantile(times, 0.5))
	fmt.Printf("  reference             %6.1f ms  one SQL join on the normalised MPN, rows fetched\n\n", quantile(ref, 0.5))
	return nil
}

var questions = []struct {
	text string
	like []string
}{
	{"4,6 kΩ 2010", []string{"4.6kΩ", "2010"}}, {"BW-0603-0123", []string{"bw-0603-0123"}}, {"1% 0402", []string{"±1%", "0402"}},
	{"brinewell 2512", []string{"brinewell", "2512"}}, {"EW-R-0420", []string{"ew-r-0420"}}, {"125mW 1206 1%", []string{"125mw", "1206", "±1%"}}, {"", nil},
}

func lookups(ctx context.Context, k *client.Client, owner string) error {
	const clients, rounds = 8, 15
	var mu sync.Mutex
	var times []time.Duration
	var failed error
	var wg sync.WaitGroup
	for range clients {
		wg.Add(1)
		go func() {
			defer wg.Done()
			for range rounds {
				for _, q := range questions {
					begin := time.Now()
					l, err := k.Parts(ctx, client.PartQuery{Text: q.text, Limit: 50, Sort: "resistance"})
					took := time.Since(begin)
					mu.Lock()
					times = append(times, took)
					if err != nil || l.Page.Total == 0 {
						failed = fmt.Errorf("%q finds %d: %w", q.text, l.Page.Total, err)
					}
					mu.Unlock()
				}
			}
		}()
	}
	wg.Wait()
	if failed != nil {
		return failed
	}
	db, err := sql.Open("mysql", owner)
	if err != nil {
		return err
	}
	defer db.Close()
	var ref []time.Duration
	for range 3 {
		for _, q := range questions {
			where, args := "TRUE", []any{}
			for _, w := range q.like {
				where += " AND words LIKE ?"
				args = append(args, "%"+w+"%")
			}
			begin := time.Now()
			var n int
			if err := db.QueryRowContext(ctx, "SELECT COUNT(*) FROM bench_parts WHERE "+where, args...).Scan(&n); err != nil {
				return err
			}
			rows, err := db.QueryContext(ctx, "SELECT number, description FROM bench_parts WHERE "+where+" ORDER BY ohms, number LIMIT 50", args...)
			if err != nil {
				return err
			}
			for rows.Next() {
			}
			rows.Close()
			ref = append(ref, time.Since(begin))
		}
	}
	fmt.Printf("lookup over %d parts, through HTTP, %d clients at once, %d questions: total, counts by drawer, status and standing, first page by size of value\n", lot*lots, clients, len(times))
	fmt.Printf("  p50 / p95             %6.1f / %.1f ms\n", quantile(times, 0.5), quantile(times, 0.95))
	fmt.Printf("  reference p50 / p95   %6.1f / %.1f ms  the same words in SQL (LIKE on one column), total and first page only, one client\n\n", quantile(ref, 0.5), quantile(ref, 0.95))
	return nil
}

// reference makes the flat tables that the SQL answers are asked of.
func reference(ctx context.Context, owner string) error {
	db, err := sql.Open("mysql", owner)
	if err != nil {
		return err
	}
	defer db.Close()
	for _, q := range []string{
		"CREATE TABLE bench_parts (number VARCHAR(40) PRIMARY KEY, mpn VARCHAR(60) NOT NULL, description VARCHAR(200) NOT NULL, ohms DOUBLE NOT NULL, words VARCHAR(400) COLLATE utf8mb4_general_ci NOT NULL, KEY (mpn), KEY (ohms, number))",
		"CREATE TABLE bench_lines (line_no INT PRIMARY KEY, mpn VARCHAR(60) NOT NULL)",
		`INSERT INTO bench_parts SELECT h.number, REPLACE(JSON_VALUE(c.bytes, '$.sources[0].mpn'), '-', ''), JSON_VALUE(c.bytes, '$.description'),
			JSON_VALUE(c.bytes, '$.values.resistance.measure.low'), CONCAT_WS(' ', h.number, JSON_VALUE(c.bytes, '$.sources[0].manufacturer'), JSON_VALUE(c.bytes, '$.sources[0].mpn'), JSON_VALUE(c.bytes, '$.description'))
			FROM heads h JOIN contents c ON c.id = h.draft WHERE h.kind = 'part'`,
	} {
		if _, err := db.ExecContext(ctx, q); err != nil {
			return err
		}
	}
	for n := range bomLines {
		if _, err := db.ExecContext(ctx, "INSERT INTO bench_lines VALUES (?, ?)", n+2, strings.ReplaceAll(mpn(n*47%(lot*lots)), "-", "")); err != nil {
			return err
		}
	}
	_, err = db.ExecContext(ctx, "ANALYZE TABLE bench_parts, bench_lines")
	return err
}

// memory prints the highest resident size of the service so far.
func memory(pid int) error {
	raw, err := os.ReadFile(fmt.Sprintf("/proc/%d/status", pid))
	if err != nil {
		return err
	}
	m := regexp.MustCompile(`VmHWM:\s+(\d+) kB`).FindSubmatch(raw)
	if m == nil {
		return errors.New("the peak memory cannot be read")
	}
	fmt.Printf("peak memory of the service: %s kB, with %d parts in the index (reference: the parts' content in the database is %s)\n", m[1], lot*lots, contentSize)
	return nil
}

var contentSize = "not measured"
