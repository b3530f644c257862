package main

import (
	"bytes"
	"context"
	"database/sql"
	"fmt"
	"io"
	"math/rand/v2"
	"os"
	"regexp"
	"strings"
	"time"

	"github.com/go-sql-driver/mysql"

	"jollydrawer/core/cabinet"
	"jollydrawer/core/crosswalk"
	"jollydrawer/internal/wire"
)

// mapping prints how many fields of the test set are mapped rightly, wrongly and left open.
func mapping() error {
	set, err := os.ReadFile("core/crosswalk/testdata/fields.yaml")
	if err != nil {
		return err
	}
	cab, err := cabinet.New(cabinet.Starter())
	if err != nil {
		return err
	}
	s, wrong, err := crosswalk.Measure(set, cab)
	if err != nil {
		return err
	}
	all := s.Right + s.Open + s.RightlyOpen + s.Wrong
	fmt.Printf("suggested mapping of %d fields of a test set with known answers\n", all)
	fmt.Printf("  right                 %6d   of %d that have a place; %d of those are left open\n", s.Right, s.Right+s.Open, s.Open)
	fmt.Printf("  rightly left open     %6d   that have no place\n", s.RightlyOpen)
	fmt.Printf("  wrong                 %6d   %s\n\n", s.Wrong, strings.Join(wrong, "; "))
	return nil
}

const benchCrosswalk = `format: jolly-crosswalk/1
supplier: Wide
decimalMark: point
take: { kind: Kind, manufacturer: Maker, mpn: Maker no, supplierNumber: Order no, description: Text }
kinds: { Chip resistor: chip-resistors, Ceramic capacitor: ceramic-capacitors }
fields:
  - { from: Value, to: "@leading" }
  - { from: Tol, to: tolerance }
  - { from: Pwr(W), to: power, unit: W }
  - { from: V max, to: voltage-rating }
  - { from: Diel, to: dielectric }
  - { from: Size, to: case, caseSystem: inch }
  - { from: Temp, to: temperature-range }
  - { from: TCR, to: temperature-coefficient }
  - { from: H/mm, to: height, unit: mm }
  - { from: RoHS, to: rohs }
  - { from: MSL, to: moisture-level }
  - { from: Series, to: series-name }
`

// wide makes a CSV of n rows and thirty fields, about 350 bytes a row.
func wide(n int) *bytes.Buffer {
	b := &bytes.Buffer{}
	b.WriteString("Order no;Maker;Maker no;Kind;Text;Value;Tol;Pwr(W);V max;Diel;Size;Temp;TCR;H/mm;RoHS;MSL;Series")
	for i := range 13 {
		fmt.Fprintf(b, ";Extra %d", i+1)
	}
	b.WriteByte('\n')
	r := rand.New(rand.NewPCG(3, 5))
	sizes := []string{"0402", "0603", "0805", "1206"}
	for i := range n {
		size := sizes[r.IntN(4)]
		v := e24[r.IntN(24)]
		if i%3 > 0 {
			val := fmt.Sprintf("%d.%d %s", v/10, v%10, []string{"Ω", "kΩ", "MΩ"}[r.IntN(3)])
			fmt.Fprintf(b, "W%08d;Maker %02d;WR%s-%07d;Chip resistor;RES %s %s;%s;±%d %%;%s;%d V;;%s;-55 to 155 °C;%d ppm/°C;0.%d;yes;1;WR", i, i%40, size, i, val, size, val, []int{1, 2, 5}[r.IntN(3)],
				[]string{"1/16", "0.125", "1/4"}[r.IntN(3)], 50*(1+r.IntN(4)), size, 25*(1+r.IntN(4)), 3+r.IntN(6))
		} else {
			val := fmt.Sprintf("%d.%d %s", v/10, v%10, []string{"pF", "nF", "µF"}[r.IntN(3)])
			fmt.Fprintf(b, "W%08d;Maker %02d;WC%s-%07d;Ceramic capacitor;CAP %s %s;%s;±%d %%;;%d V;%s;%s;-55 to 125 °C;;0.%d;yes;1;WC", i, i%40, size, i, val, size, val, []int{5, 10, 20}[r.IntN(3)],
				[]int{16, 25, 50, 100}[r.IntN(4)], []string{"X7R", "X5R", "C0G"}[r.IntN(3)], size, 5+r.IntN(9))
		}
		for e := range 13 {
			fmt.Fprintf(b, ";x%d-%d", e, r.IntN(5000))
		}
		b.WriteByte('\n')
	}
	return b
}

var memoryForm = regexp.MustCompile(`VmHWM:\s+(\d+) kB`)

// peak is the most memory that a process had, in MB.
func peak(pid int) (int, error) {
	raw, err := os.ReadFile(fmt.Sprintf("/proc/%d/status", pid))
	if err != nil {
		return 0, err
	}
	m := memoryForm.FindSubmatch(raw)
	if m == nil {
		return 0, fmt.Errorf("the process has no peak")
	}
	kb := 0
	_, err = fmt.Sscan(string(m[1]), &kb)
	return kb >> 10, err
}

// wideIntake measures one intake of n rows and thirty fields: reading, mapping and checking; a mend; taking in, beside
// LOAD DATA of all the rows that come out of it.
func wideIntake(ctx context.Context, n int) error {
	r, err := setUp(ctx)
	defer r.close()
	if err != nil {
		return err
	}
	k, owner, svc := r.k, r.owner, r.svc
	if _, err := k.ApplyCrosswalk(ctx, 0, benchCrosswalk); err != nil {
		return err
	}
	file := wide(n)
	size := file.Len()
	f, err := k.Upload(ctx, "wide.csv", file)
	if err != nil {
		return err
	}
	begin := time.Now()
	in, err := k.OpenIntake(ctx, wire.NewIntake{Supplier: "Wide", FileHash: f.Hash, FileName: f.Name})
	if err != nil {
		return err
	}
	read := time.Since(begin)
	fmt.Printf("intake of %d rows of 30 fields, %d MB of CSV\n", n, size>>20)
	fmt.Printf("  read, map and check   %6.0f rows/s (%.1f s)\n", float64(n)/read.Seconds(), read.Seconds())
	var cells []wire.CellEdit
	for row := 2; len(cells) < min(10_000, n/10); row += 3 {
		cells = append(cells, wire.CellEdit{Row: row, Field: "Series", Text: "WX"})
	}
	begin = time.Now()
	if in, err = k.EditIntake(ctx, in.ID, in.Version, wire.IntakeEdit{Cells: cells}); err != nil {
		return err
	}
	fmt.Printf("  %5d cells corrected %6.2f s\n", len(cells), time.Since(begin).Seconds())
	mend := wire.IntakeEdit{Changes: []crosswalk.Change{{Rule: &crosswalk.Rule{From: "H/mm", To: "height", Unit: "mm", Mark: "point", Words: map[string]string{"0.5": "0.55"}}}}}
	begin = time.Now()
	tried, err := k.TryIntake(ctx, in.ID, wire.IntakeTry{IntakeEdit: mend})
	if err != nil {
		return err
	}
	fmt.Printf("  a mend's preview      %6.2f s     %d rows would change, %d of them settled; target 1 s for 100000 rows\n", time.Since(begin).Seconds(), tried.Rows, tried.Settled)
	begin = time.Now()
	if in, err = k.EditIntake(ctx, in.ID, in.Version, mend); err != nil {
		return err
	}
	fmt.Printf("  the mend carried out  %6.2f s     target 1 s; reference: reading and checking the file, %.2f s\n", time.Since(begin).Seconds(), read.Seconds())
	before, err := peak(svc.cmd.Process.Pid)
	if err != nil {
		return err
	}
	begin = time.Now()
	j, err := k.TakeIn(ctx, in.ID, in.Version, "", wire.TakeIn{Digest: in.Digest, LeaveBlocked: true})
	if err == nil {
		j, err = k.WaitJob(ctx, j.ID, nil)
	}
	if err != nil || j.TakenIn == nil {
		return fmt.Errorf("taking in: %s %w", j.Error, err)
	}
	took := time.Since(begin)
	after, err := peak(svc.cmd.Process.Pid)
	if err != nil {
		return err
	}
	load, err := loadAgain(ctx, owner)
	if err != nil {
		return fmt.Errorf("reference: %w", err)
	}
	fmt.Printf("  taken in              %6.1f s     %d parts, searchable\n", took.Seconds(), j.TakenIn.Parts)
	fmt.Printf("  reference             %6.1f s     LOAD DATA LOCAL INFILE of all the resulting rows into the same tables; taking in ÷ reference %.2f\n", load.Seconds(), took.Seconds()/load.Seconds())
	fmt.Printf("  peak memory           %6d MB    %d MB before taking in\n\n", after, before)
	return nil
}

// loadAgain copies the rows that an intake made out of the database, empties the tables, and times loading them again.
func loadAgain(ctx context.Context, owner string) (time.Duration, error) {
	db, err := sql.Open("mysql", owner)
	if err != nil {
		return 0, err
	}
	defer db.Close()
	var total time.Duration
	for _, t := range []struct{ name, columns, set string }{
		{"contents", "HEX(id), HEX(head), HEX(hash), format, template, HEX(bytes), HEX(origins), HEX(deed), at", "(@id, @head, @hash, format, template, @bytes, @origins, @deed, at) SET id = UNHEX(@id), head = UNHEX(@head), hash = UNHEX(@hash), bytes = UNHEX(@bytes), origins = UNHEX(@origins), deed = UNHEX(@deed)"},
		{"trail", "HEX(head), seq, HEX(deed), HEX(account), at, action, HEX(detail), IFNULL(HEX(hash_before), ''), HEX(hash)", "(@head, seq, @deed, @account, at, action, @detail, @before, @hash) SET head = UNHEX(@head), deed = UNHEX(@deed), account = UNHEX(@account), detail = UNHEX(@detail), hash_before = NULLIF(UNHEX(@before), ''), hash = UNHEX(@hash)"},
		{"heads", "HEX(id), kind, number, version, drawer, standing, revision, HEX(draft), trail_seq, HEX(trail_hash), HEX(deed), updated", "(@id, kind, number, version, drawer, standing, revision, @draft, trail_seq, @hash, @deed, updated) SET id = UNHEX(@id), draft = UNHEX(@draft), trail_hash = UNHEX(@hash), deed = UNHEX(@deed)"},
		{"source_keys", "HEX(k), twin, HEX(head)", "(@k, twin, @head) SET k = UNHEX(@k), head = UNHEX(@head)"},
	} {
		rows, err := db.QueryContext(ctx, "SELECT "+t.columns+" FROM "+t.name)
		if err != nil {
			return 0, err
		}
		var b bytes.Buffer
		cols, err := rows.Columns()
		if err != nil {
			return 0, err
		}
		cells, at := make([]sql.NullString, len(cols)), make([]any, len(cols))
		for i := range cells {
			at[i] = &cells[i]
		}
		for rows.Next() {
			if err := rows.Scan(at...); err != nil {
				return 0, err
			}
			for i, c := range cells {
				if i > 0 {
					b.WriteByte('\t')
				}
				if !c.Valid {
					b.WriteString("\\N")
				}
				b.WriteString(c.String)
			}
			b.WriteByte('\n')
		}
		if err := rows.Err(); err != nil {
			return 0, err
		}
		for _, q := range []string{"DROP TABLE IF EXISTS bench_copy", "CREATE TABLE bench_copy LIKE " + t.name} {
			if _, err := db.ExecContext(ctx, q); err != nil {
				return 0, err
			}
		}
		mysql.RegisterReaderHandler("again", func() io.Reader { return &b })
		begin := time.Now()
		if _, err := db.ExecContext(ctx, "LOAD DATA LOCAL INFILE 'Reader::again' INTO TABLE bench_copy "+t.set); err != nil {
			return 0, err
		}
		total += time.Since(begin)
	}
	return total, nil
}
