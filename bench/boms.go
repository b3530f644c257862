package main

import (
	"context"
	"database/sql"
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"strings"
	"time"

	_ "github.com/go-sql-driver/mysql"

	"jollydrawer/core/bom"
	"jollydrawer/core/cabinet"
	"jollydrawer/core/lifecycle"
	"jollydrawer/core/lookup"
	"jollydrawer/core/measure"
	"jollydrawer/core/part"
	"jollydrawer/internal/dbserver"
)

// rightness runs the generators with known answers and prints what they count: values, questions, lines, fields.
func rightness() error {
	fmt.Println("Right, doubted and wrong, by generators with known answers")
	out, err := exec.Command("go", "test", "-count=1", "-v", "-run", "TestMade|TestQuestions|TestTheTestSets|TestTwoReaders", "./core/measure", "./core/lookup", "./core/bom", "./core/crosswalk").CombinedOutput()
	figures := regexp.MustCompile(`(?m)^\s+\w+_test\.go:\d+: (.*)$`)
	for _, m := range figures.FindAllSubmatch(out, -1) {
		fmt.Printf("  %s\n", m[1])
	}
	if err != nil {
		return fmt.Errorf("a generator found something wrong: %w\n%s", err, out)
	}
	fmt.Println()
	return nil
}

// shelf fills an index with resistors: all of one value, or of many.
func shelf(n int, same bool) (*lookup.Index, *cabinet.Cabinet, [][]string, error) {
	cab, err := cabinet.New(cabinet.Starter())
	if err != nil {
		return nil, nil, nil, err
	}
	x := lookup.New()
	x.SetCabinet(cab)
	t, _ := cab.Template("chip-resistors")
	cases, tols, powers := []string{"0402", "0603", "0805", "1206"}, []string{"±1 %", "±5 %", "±0.1 %"}, []string{"100 mW", "125 mW", "250 mW"}
	e24 := []int64{10, 11, 12, 13, 15, 16, 18, 20, 22, 24, 27, 30, 33, 36, 39, 43, 47, 51, 56, 62, 68, 75, 82, 91}
	read := map[string]cabinet.Value{}
	value := func(key, text string) cabinet.Value {
		v, ok := read[key+text]
		if !ok {
			s, _ := t.Slot(key)
			v, _ = s.Read(text, measure.Options{})
			read[key+text] = v
		}
		return v
	}
	var rows [][]string
	batch := make([]*lookup.Entry, 0, 10_000)
	for i := range n {
		ohms, err := measure.NewNumber(e24[i%24], (i/24)%6)
		if err != nil {
			return nil, nil, nil, err
		}
		text := measure.Of(measure.Resistance, ohms).String()
		if same {
			text = "10 kΩ"
		}
		r := []string{t.PartNumber(int64(i + 1)), fmt.Sprintf("TW%06dX", i), "Tidewright", text, tols[i%3], powers[(i/3)%3], cases[(i/144)%4]}
		e := lookup.NewEntry(part.Content{Drawer: t.Key, Values: map[string]cabinet.Value{"resistance": value("resistance", r[3]), "tolerance": value("tolerance", r[4]), "power": value("power", r[5]), "case": value("case", r[6])},
			Sources: []part.Source{{Manufacturer: r[2], MPN: r[1]}}})
		e.ID, e.Number, e.Version, e.Revision, e.Standing = fmt.Sprintf("%032d", i), r[0], 1, 1, lifecycle.Active
		rows = append(rows, r)
		if batch = append(batch, e); len(batch) == cap(batch) {
			x.Put(batch...)
			batch = batch[:0]
		}
	}
	x.Put(batch...)
	return x, cab, rows, nil
}

// reconciling measures lines against large libraries, beside one SQL join that fetches the columns they are compared by.
func reconciling(ctx context.Context, sizes []int) error {
	fmt.Println("BOM lines beside the library (in memory, from parsed lines to verdicts with tally)")
	columns := bom.Columns{{At: 0, Heading: "Ref", Role: bom.Designator}, {At: 1, Heading: "MPN", Role: bom.MPN}, {At: 2, Heading: "Maker", Role: bom.Manufacturer}, {At: 3, Heading: "Value", Role: bom.Value}, {At: 4, Heading: "Package", Role: bom.Package}}
	x, cab, _, err := shelf(200_000, true)
	if err != nil {
		return err
	}
	var lines []bom.Line
	for i := range 20 {
		lines = append(lines, bom.Line{Row: i + 2, Designators: []string{fmt.Sprintf("R%d", i+1)}, Quantity: 1, Value: fmt.Sprintf("10k%s", strings.Repeat(" ", i%2)), Package: []string{"0603", "R0805", "1206", "r-0402"}[i%4], Description: fmt.Sprintf("RES %d", i)})
	}
	begin := time.Now()
	vs := bom.Reconcile(lines, x, cab, bom.Known{Columns: columns})
	took := time.Since(begin)
	most := 0
	for _, v := range vs {
		most = max(most, len(v.Options))
	}
	fmt.Printf("  20 lines of a value that 200,000 parts share            %8.1f ms   at most %d records shown for a line (target 50 ms)\n", float64(took.Microseconds())/1000, most)

	for _, n := range sizes {
		if err := beside(ctx, n, columns); err != nil {
			return err
		}
	}
	fmt.Println()
	return nil
}

// beside lays 10,000 lines, half with an MPN and half bare with 300 distinct texts, beside so many parts.
func beside(ctx context.Context, n int, columns bom.Columns) error {
	x, cab, rows, err := shelf(n, false)
	if err != nil {
		return err
	}
	var lines []bom.Line
	for i := range 10_000 {
		r := rows[(i*7919)%len(rows)]
		l := bom.Line{Row: i + 2, Designators: []string{fmt.Sprintf("R%d", i+1)}, Quantity: 1}
		if i%2 == 0 {
			l.MPN, l.Manufacturer, l.Value, l.Package = r[1], r[2], r[3], r[6]
		} else {
			r = rows[(i%300)*31]
			l.Value, l.Package = r[3], r[6]
		}
		lines = append(lines, l)
	}
	begin := time.Now()
	vs := bom.Reconcile(lines, x, cab, bom.Known{Columns: columns})
	took := time.Since(begin)
	counts := map[bom.Kind]int{}
	for _, v := range vs {
		counts[v.Kind]++
	}
	join, fetched, err := joined(ctx, rows, lines)
	if err != nil {
		return err
	}
	fmt.Printf("  10,000 lines against %9d parts                    %8.1f ms   %v\n", n, float64(took.Microseconds())/1000, counts)
	fmt.Printf("  the same by one SQL join, %7d rows fetched          %8.1f ms   the lines take %.1f times as long (target 3)\n", fetched, float64(join.Microseconds())/1000, float64(took)/float64(join))
	return nil
}

// joined times the reference: tables of the parts and the lines, joined by MPN and by value and case, with the columns
// that are compared.
func joined(ctx context.Context, rows [][]string, lines []bom.Line) (time.Duration, int, error) {
	dir, err := os.MkdirTemp("", "jb-")
	if err != nil {
		return 0, 0, err
	}
	defer os.RemoveAll(dir)
	s, err := dbserver.Start(ctx, dbserver.Options{Dir: filepath.Join(dir, "db")})
	if err != nil {
		return 0, 0, err
	}
	defer s.Stop()
	owner, _ := s.DSNs()
	db, err := sql.Open("mysql", owner)
	if err != nil {
		return 0, 0, err
	}
	defer db.Close()
	for _, q := range []string{"CREATE TABLE bench_part (number VARCHAR(20) PRIMARY KEY, mpn VARCHAR(40), maker VARCHAR(40), resistance VARCHAR(20), tolerance VARCHAR(20), power VARCHAR(20), size VARCHAR(10), KEY(mpn), KEY(resistance, size))",
		"CREATE TABLE bench_line (id INT PRIMARY KEY, mpn VARCHAR(40), resistance VARCHAR(20), size VARCHAR(10))"} {
		if _, err := db.ExecContext(ctx, q); err != nil {
			return 0, 0, err
		}
	}
	insert := func(table string, width, n int, row func(i int) []any) error {
		for at := 0; at < n; at += 1000 {
			var q strings.Builder
			q.WriteString("INSERT INTO " + table + " VALUES ")
			var args []any
			for i := at; i < min(at+1000, n); i++ {
				if i > at {
					q.WriteByte(',')
				}
				q.WriteString("(?" + strings.Repeat(",?", width-1) + ")")
				args = append(args, row(i)...)
			}
			if _, err := db.ExecContext(ctx, q.String(), args...); err != nil {
				return err
			}
		}
		return nil
	}
	if err := insert("bench_part", 7, len(rows), func(i int) []any {
		r := rows[i]
		return []any{r[0], r[1], r[2], r[3], r[4], r[5], r[6]}
	}); err != nil {
		return 0, 0, err
	}
	if err := insert("bench_line", 4, len(lines), func(i int) []any { return []any{i, lines[i].MPN, lines[i].Value, lines[i].Package} }); err != nil {
		return 0, 0, err
	}
	begin := time.Now()
	// A line shows at most ten records: so many of a value and case are fetched.
	out, err := db.QueryContext(ctx, `SELECT l.id, p.number, p.mpn, p.maker, p.resistance, p.tolerance, p.power, p.size FROM bench_line l JOIN bench_part p ON p.mpn = l.mpn WHERE l.mpn <> ''
		UNION ALL SELECT l.id, p.number, p.mpn, p.maker, p.resistance, p.tolerance, p.power, p.size FROM bench_line l
		JOIN (SELECT q.*, ROW_NUMBER() OVER (PARTITION BY q.resistance, q.size ORDER BY q.number) k FROM bench_part q) p ON p.resistance = l.resistance AND p.size = l.size AND p.k <= 10 WHERE l.mpn = ''`)
	if err != nil {
		return 0, 0, err
	}
	defer out.Close()
	n := 0
	var id int
	var c [7]string
	for out.Next() {
		if err := out.Scan(&id, &c[0], &c[1], &c[2], &c[3], &c[4], &c[5], &c[6]); err != nil {
			return 0, 0, err
		}
		n++
	}
	return time.Since(begin), n, out.Err()
}
