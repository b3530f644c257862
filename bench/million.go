package main

import (
	"bytes"
	"context"
	"crypto/sha256"
	"database/sql"
	"encoding/json"
	"fmt"
	"io"
	"math/rand/v2"
	"net/http"
	"net/url"
	"os"
	"regexp"
	"runtime"
	"strconv"
	"strings"
	"sync"
	"time"

	"github.com/go-sql-driver/mysql"

	"jollydrawer/client"
	"jollydrawer/core/cabinet"
	"jollydrawer/core/document"
	"jollydrawer/core/measure"
	"jollydrawer/core/origin"
	"jollydrawer/core/part"
	"jollydrawer/internal/store"
)

// large measures lookup over a made-up library of n parts in 50 drawers: how soon it is ready, how large the index is,
// how quickly it answers 8 clients, and how quickly indexed flat SQL tables answer the same.
func large(ctx context.Context, n int) error {
	r, _, err := madeLibrary(ctx, n)
	defer r.close()
	if err != nil {
		return err
	}
	k, owner := r.k, r.owner
	fmt.Printf("lookup over %d parts in 50 drawers\n", n)
	for _, how := range []string{"from the database", "from its snapshot"} {
		begin := time.Now()
		if r.svc, err = serve(r.dir, owner, r.dsn, r.keeper); err != nil {
			return err
		}
		fmt.Printf("  ready %-17s %6.1f s\n", how, time.Since(begin).Seconds())
		if how == "from the database" {
			r.svc.stop() // which writes the snapshot
		}
	}
	k.Base = r.svc.url
	heap, err := r.svc.heap(ctx)
	if err != nil {
		return err
	}
	fmt.Printf("  live heap             %6.0f MB\n", heap)
	before, began := stolen(), time.Now()
	times, err := ask(ctx, k, n)
	if err != nil {
		return err
	}
	taken := (stolen() - before) / time.Since(began).Seconds() / float64(runtime.NumCPU())
	ref, err := askSQL(ctx, owner)
	if err != nil {
		return fmt.Errorf("reference: %w", err)
	}
	p50, p95 := quantile(times, 0.5), quantile(times, 0.95)
	r50, r95 := quantile(ref, 0.5), quantile(ref, 0.95)
	fmt.Printf("  p50 / p95             %6.1f / %.1f ms  through HTTP, 8 clients at once, %d questions of three facts, all facets, first page\n", p50, p95, len(times))
	fmt.Printf("  stolen meanwhile      %6.1f %%   of the processors' time, by other machines on the same host\n", 100*taken)
	fmt.Printf("  reference p50 / p95   %6.1f / %.1f ms  the same counts and page of one indexed flat SQL table, one client\n", r50, r95)
	fmt.Printf("  reference ÷ lookup    %6.1f / %.1f\n\n", r50/p50, r95/p95)
	return nil
}

// stolen is the processor time in seconds that the host gave to others since it started (proc(5), /proc/stat); 0 where it
// does not say.
func stolen() float64 {
	raw, err := os.ReadFile("/proc/stat")
	if err != nil {
		return 0
	}
	line, _, _ := strings.Cut(string(raw), "\n")
	f := strings.Fields(line)
	if len(f) < 9 {
		return 0
	}
	ticks, _ := strconv.ParseFloat(f[8], 64)
	return ticks / 100
}

func (s *service) stop() {
	_ = s.cmd.Process.Signal(os.Interrupt)
	_ = s.cmd.Wait()
}

// heap asks the service for its live heap in MB.
func (s *service) heap(ctx context.Context) (float64, error) {
	req, err := http.NewRequestWithContext(ctx, http.MethodGet, s.url+"/metrics", nil)
	if err != nil {
		return 0, err
	}
	res, err := http.DefaultClient.Do(req)
	if err != nil {
		return 0, err
	}
	defer res.Body.Close()
	raw, err := io.ReadAll(res.Body)
	if err != nil {
		return 0, err
	}
	m := regexp.MustCompile(`(?m)^jolly_heap_live_bytes (\S+)`).FindStringSubmatch(string(raw))
	if m == nil {
		return 0, fmt.Errorf("the metrics name no heap")
	}
	v, err := strconv.ParseFloat(m[1], 64)
	return v / 1e6, err
}

// packages, makers and E24 values that the made-up parts draw from.
var (
	packages = []string{"0402", "0603", "0805", "1206", "1210", "SOT-23", "SOIC-8", "QFN-32"}
	e24      = []int64{10, 11, 12, 13, 15, 16, 18, 20, 22, 24, 27, 30, 33, 36, 39, 43, 47, 51, 56, 62, 68, 75, 82, 91}
)

// madeUp makes the content of one part; the same seed makes the same part.
func madeUp(r *rand.Rand, t *cabinet.Template, i int) part.Content {
	c := part.Content{Drawer: t.Key, Values: map[string]cabinet.Value{}}
	for k, s := range t.Slots {
		if !s.Required && k > 11 {
			continue
		}
		var v cabinet.Value
		switch s.Type {
		case cabinet.Measure:
			d, _ := measure.ParseDimension(s.Of)
			n, _ := measure.NewNumber(e24[r.IntN(24)], r.IntN(6)-4)
			m := measure.Of(d, n)
			if s.Deviation {
				n, _ = measure.NewNumber([]int64{1, 2, 5, 10}[r.IntN(4)], 0)
				m = measure.Of(d, n).AsDeviation()
			}
			if d == measure.Temperature {
				m = measure.MustParse([]string{"-40 to 85 °C", "-40 to 125 °C", "-55 to 155 °C"}[r.IntN(3)])
			}
			v = cabinet.Value{Type: cabinet.Measure, Measure: m}
		case cabinet.Choice:
			v = cabinet.Value{Type: cabinet.Choice, Text: s.Choices[r.IntN(len(s.Choices))]}
		case cabinet.Number:
			v = cabinet.Value{Type: cabinet.Number, Number: int64(r.IntN(40) + 1)}
		case cabinet.YesNo:
			v = cabinet.Value{Type: cabinet.YesNo, Yes: r.IntN(10) > 0}
		case cabinet.Text:
			v = cabinet.Value{Type: cabinet.Text, Text: fmt.Sprintf("kind %d", r.IntN(150))}
		default:
			continue
		}
		if s.Key == "case" {
			v.Text = packages[r.IntN(len(packages))]
		}
		if s.Key == "case-metric" || s.ByHand {
			continue
		}
		c.Values[s.Key] = v
	}
	maker := r.IntN(60)
	c.Sources = []part.Source{{Manufacturer: fmt.Sprintf("Maker %02d", maker), MPN: fmt.Sprintf("M%02d-%s-%07d", maker, strings.ToUpper(t.Key[:2]), i),
		Numbers: []part.Number{{Supplier: "Bench", Number: fmt.Sprintf("B%08d", i)}}}}
	c.Description, c.Name = t.Describe(c.Values), c.NameBy(t)
	return c
}

// generate writes n released parts straight into the tables, and one flat row of each for the reference.
func generate(ctx context.Context, owner string, cab *cabinet.Cabinet, n int, only string) error {
	db, err := sql.Open("mysql", owner)
	if err != nil {
		return err
	}
	defer db.Close()
	var leaves []*cabinet.Template
	for _, t := range cab.Templates() {
		if t.Leaf && len(leaves) < 50 && (only == "" || only == t.Key) {
			leaves = append(leaves, t)
		}
	}
	if _, err := db.ExecContext(ctx, "CREATE TABLE bench_flat (number VARCHAR(40) PRIMARY KEY, drawer VARCHAR(40) NOT NULL, maker VARCHAR(20) NOT NULL, package VARCHAR(20) NOT NULL, mounting VARCHAR(20) NOT NULL, temperature VARCHAR(30) NOT NULL, height DOUBLE NOT NULL, msl VARCHAR(4) NOT NULL, rohs BOOLEAN NOT NULL, status VARCHAR(12) NOT NULL, standing VARCHAR(24) NOT NULL, tolerance DOUBLE NULL, lead_value DOUBLE NULL, "+
		"KEY (drawer, package, tolerance), KEY (maker), KEY (package, tolerance), KEY (tolerance), KEY (drawer, lead_value))"); err != nil {
		return err
	}
	const chunk = 20_000
	r := rand.New(rand.NewPCG(7, 11))
	at := "2026-01-01 00:00:00"
	deed, maker := store.NewID(), store.NewID()
	if _, err := db.ExecContext(ctx, "INSERT INTO accounts (id, login, name, role, password, disabled, version, created) SELECT ?, 'maker', 'Who made the library', role, password, FALSE, 1, NOW(6) FROM accounts WHERE login = 'admin'", maker[:]); err != nil {
		return err
	}
	for from := 0; from < n; from += chunk {
		var heads, contents, flat bytes.Buffer
		for i := from; i < min(n, from+chunk); i++ {
			t := leaves[i%len(leaves)]
			c := madeUp(r, t, i)
			raw, hash, err := document.Canonical(c)
			if err != nil {
				return err
			}
			origins, err := json.Marshal(cameFrom(c, i))
			if err != nil {
				return err
			}
			id, content := store.NewID(), store.NewID()
			number := fmt.Sprintf("%s-%07d", t.Prefix, i)
			status, standing := "released", "active"
			if i%17 == 0 {
				standing = "obsolete"
			}
			fmt.Fprintf(&heads, "%x\tpart\t%s\t1\t%s\t%s\t1\t%x\t1\t%x\t%x\t%s\t%x\n", id[:], number, t.Key, standing, content[:], sha256.New().Sum(nil), deed[:], at, maker[:])
			fmt.Fprintf(&contents, "%x\t%x\t%s\tjolly-part/1\t1\t%x\t%x\t%x\t%s\n", content[:], id[:], hash, raw, origins, deed[:], at)
			lead, tol := "\\N", "\\N"
			if v := c.Values[t.Leading]; v.Type == cabinet.Measure {
				lead = v.Measure.Value().String()
			}
			if v := c.Values["tolerance"]; v.Type == cabinet.Measure {
				tol = v.Measure.Value().String()
			}
			rohs := 0
			if c.Values["rohs"].Yes {
				rohs = 1
			}
			fmt.Fprintf(&flat, "%s\t%s\t%s\t%s\t%s\t%s\t%s\t%s\t%d\t%s\t%s\t%s\t%s\n", number, t.Key, c.Sources[0].Manufacturer, c.Values["case"].Text, c.Values["mounting"].Text, c.Values["temperature-range"].String(),
				c.Values["height"].Measure.Value(), c.Values["moisture-level"].Text, rohs, status, standing, tol, lead)
		}
		for _, l := range []struct {
			b     *bytes.Buffer
			table string
		}{
			{&heads, "heads (@id, kind, number, version, drawer, standing, revision, @released, trail_seq, @hash, @deed, updated, @maker) SET written_by = UNHEX(@maker), id = UNHEX(@id), released = UNHEX(@released), trail_hash = UNHEX(@hash), deed = UNHEX(@deed)"},
			{&contents, "contents (@id, @head, @hash, format, template, @bytes, @origins, @deed, at) SET id = UNHEX(@id), head = UNHEX(@head), hash = UNHEX(@hash), bytes = UNHEX(@bytes), origins = UNHEX(@origins), deed = UNHEX(@deed)"},
			{&flat, "bench_flat (number, drawer, maker, package, mounting, temperature, height, msl, rohs, status, standing, tolerance, lead_value)"},
		} {
			mysql.RegisterReaderHandler("rows", func() io.Reader { return l.b })
			if _, err := db.ExecContext(ctx, "LOAD DATA LOCAL INFILE 'Reader::rows' INTO TABLE "+l.table); err != nil {
				return err
			}
		}
	}
	if _, err := db.ExecContext(ctx, "INSERT INTO feed (position, deed, kind, at) SELECT COALESCE(MAX(position), 0) + 1, ?, 'bench', NOW(6) FROM feed", deed); err != nil {
		return err
	}
	_, err = db.ExecContext(ctx, "ANALYZE TABLE bench_flat")
	return err
}

// cameFrom says where the values of a made-up part came from, as those of a file do.
func cameFrom(c part.Content, i int) map[string]origin.Origin {
	out := map[string]origin.Origin{}
	of := func(field, written, rule string) origin.Origin {
		return origin.Origin{File: strings.Repeat("5e", 32), Name: "made-up-catalogue.csv", Row: i + 2, Field: field, Written: written, Rule: rule}
	}
	for key, v := range c.Values {
		out["values."+key] = of(strings.ToUpper(key), v.String(), "read as "+string(v.Type))
	}
	for _, s := range c.Sources {
		out["sources"] = of("MPN", s.MPN, "")
	}
	return out
}

// three are questions of three facts, selective and broad, each with what it means in the flat table.
var three = []struct{ text, where string }{
	{"drawer:chip-resistors 0805 1%", "drawer = 'chip-resistors' AND package = '0805' AND tolerance = 1"},
	{"res 4.7 Ω 0603", "drawer IN ('chip-resistors','shunt-resistors','leaded-resistors','resistor-arrays','trimmers','thermistors') AND lead_value = 4.7 AND package = '0603'"},
	{"cap 0805 not 1%", "drawer IN ('ceramic-capacitors','electrolytic-capacitors','tantalum-capacitors','film-capacitors') AND package = '0805' AND tolerance <> 1"},
	{"0805 released active", "package = '0805' AND status = 'released' AND standing = 'active'"},
	{"manufacturer:\"Maker 07\" 0402 active", "maker = 'Maker 07' AND package = '0402' AND standing = 'active'"},
	{"drawer:ceramic-capacitors X7R obsolete", "drawer = 'ceramic-capacitors' AND standing = 'obsolete'"},
	{"res tolerance<=2% active", "drawer IN ('chip-resistors','shunt-resistors','leaded-resistors','resistor-arrays','trimmers','thermistors') AND tolerance <= 2 AND standing = 'active'"},
	{"drawer:inductors 1206 5%", "drawer IN ('power-inductors','rf-inductors') AND package = '1206' AND tolerance = 5"},
}

func ask(ctx context.Context, k *client.Client, n int) ([]time.Duration, error) {
	const clients, rounds = 8, 120
	var mu sync.Mutex
	var times []time.Duration
	var failed error
	var wg sync.WaitGroup
	for c := range clients {
		wg.Add(1)
		go func() {
			defer wg.Done()
			for round := range rounds {
				for i := range three {
					q := three[(i+c)%len(three)]
					begin := time.Now()
					total, err := question(ctx, k, q.text)
					took := time.Since(begin)
					mu.Lock()
					if round > 0 {
						times = append(times, took)
					}
					if err != nil || total == 0 {
						failed = fmt.Errorf("%q finds %d of %d parts: %w", q.text, total, n, err)
					}
					mu.Unlock()
				}
			}
		}()
	}
	wg.Wait()
	return times, failed
}

var totalForm = regexp.MustCompile(`"total":(\d+)`)

// question asks for all facets and the first page, reads the whole answer, and returns the number of parts. The JSON is
// not taken apart further: that would measure the client.
func question(ctx context.Context, k *client.Client, text string) (int, error) {
	req, err := http.NewRequestWithContext(ctx, http.MethodGet, k.Base+"/api/v1/parts?facets=true&limit=50&q="+url.QueryEscape(text), nil)
	if err != nil {
		return 0, err
	}
	req.Header.Set("Authorization", "Bearer "+k.Token)
	res, err := k.HTTP.Do(req)
	if err != nil {
		return 0, err
	}
	defer res.Body.Close()
	raw, err := io.ReadAll(res.Body)
	if err != nil || res.StatusCode != http.StatusOK {
		return 0, fmt.Errorf("status %d: %w", res.StatusCode, err)
	}
	m := totalForm.FindSubmatch(raw[:min(len(raw), 300)])
	if m == nil {
		return 0, fmt.Errorf("the answer names no total")
	}
	return strconv.Atoi(string(m[1]))
}

// askSQL asks the same counts and the same page of the flat table.
func askSQL(ctx context.Context, owner string) ([]time.Duration, error) {
	db, err := sql.Open("mysql", owner)
	if err != nil {
		return nil, err
	}
	defer db.Close()
	var times []time.Duration
	each := func(q string) error {
		rows, err := db.QueryContext(ctx, q)
		if err != nil {
			return err
		}
		defer rows.Close()
		for rows.Next() {
		}
		return rows.Err()
	}
	for range 2 {
		for _, q := range three {
			begin := time.Now()
			all := []string{"SELECT COUNT(*) FROM bench_flat WHERE " + q.where, "SELECT number, drawer, maker, package, lead_value FROM bench_flat WHERE " + q.where + " ORDER BY number LIMIT 50"}
			for _, f := range []string{"drawer", "maker", "package", "mounting", "temperature", "height", "msl", "rohs", "status", "standing", "tolerance", "lead_value"} {
				all = append(all, "SELECT "+f+", COUNT(*) FROM bench_flat WHERE "+q.where+" GROUP BY "+f)
			}
			for _, s := range all {
				if err := each(s); err != nil {
					return nil, err
				}
			}
			times = append(times, time.Since(begin))
		}
	}
	return times, nil
}

// values measures the reading of values beside strconv.ParseFloat of the same numbers, on one core.
func values() {
	texts := []string{"4.7 kΩ", "100nF", "0.1 µF", "25 V", "±1%", "125mW", "4k7", "10uH", "16MHz", "2.2 nF", "1.5A", "100 ppm/°C", "-55 to 125 °C", "10R", "3.3V"}
	plain := []string{"4.7", "100", "0.1", "25", "1", "125", "4.7", "10", "16", "2.2", "1.5", "100", "-55", "10", "3.3"}
	const rounds = 200_000
	begin := time.Now()
	for i := range rounds {
		measure.Parse(texts[i%len(texts)], measure.Options{})
	}
	read := time.Since(begin)
	begin = time.Now()
	sum := 0.0
	for i := range rounds {
		f, _ := strconv.ParseFloat(plain[i%len(plain)], 64)
		sum += f
	}
	ref := time.Since(begin)
	per := func(d time.Duration) float64 { return rounds / d.Seconds() / 1e6 }
	fmt.Printf("reading values with their units, one core\n")
	fmt.Printf("  measure.Parse         %6.2f million/s\n", per(read))
	fmt.Printf("  reference             %6.2f million/s  strconv.ParseFloat of the bare numbers (sum %s)\n\n", per(ref), json.Number(strconv.FormatFloat(sum, 'g', 4, 64)))
}
