package main

import (
	"bufio"
	"context"
	"database/sql"
	"encoding/hex"
	"fmt"
	"io"
	"os"
	"slices"
	"strings"
	"time"

	"github.com/go-sql-driver/mysql"

	"jollydrawer/internal/dbserver"
	"jollydrawer/internal/store"
)

// some are rows of a table.
type some struct{ table, where string }

// partRows are all rows that a first intake makes.
var partRows = []some{
	{"contents", " WHERE head IN (SELECT id FROM heads WHERE kind = 'part')"}, {"trail", " WHERE head IN (SELECT id FROM heads WHERE kind = 'part')"}, {"heads", " WHERE kind = 'part'"},
	{"source_keys", ""}, {"numbers", ""},
}

// ofLastChange picks the rows that the last change of templates made.
const ofLastChange = " WHERE deed = (SELECT deed FROM (SELECT deed FROM heads WHERE kind = 'cabinet') d)"

// carriedRows are all of them, but for those of the readout.
var carriedRows = []some{{"contents", ofLastChange}, {"revisions", ofLastChange}, {"trail", ofLastChange}, {"heads", ofLastChange}}

// loadData measures the reference for a deed over many parts: the rows that it made are written to files, and these are loaded
// with LOAD DATA LOCAL INFILE into the same tables, with the same keys, of an empty schema.
func loadData(ctx context.Context, s *dbserver.Server, owner string, made []some) (median time.Duration, total int64, err error) {
	from, err := sql.Open("mysql", owner)
	if err != nil {
		return 0, 0, err
	}
	defer from.Close()
	other, service, err := s.Schema(ctx, "reference")
	if err != nil {
		return 0, 0, err
	}
	if err := store.Migrate(ctx, other, service); err != nil {
		return 0, 0, err
	}
	c, err := mysql.ParseDSN(other)
	if err != nil {
		return 0, 0, err
	}
	c.AllowAllFiles = true
	to, err := sql.Open("mysql", c.FormatDSN())
	if err != nil {
		return 0, 0, err
	}
	defer to.Close()
	var rounds [3]time.Duration
	for _, rows := range made {
		table := rows.table
		if _, name, other := strings.Cut(table, "."); other { // of another schema
			if _, err := to.ExecContext(ctx, "CREATE TABLE "+name+" LIKE "+table); err != nil {
				return 0, 0, err
			}
			table = name
		}
		path, columns, n, err := dump(ctx, from, rows.table, rows.where)
		if err != nil {
			return 0, 0, err
		}
		vars, sets := make([]string, len(columns)), make([]string, len(columns))
		for i, col := range columns {
			vars[i], sets[i] = fmt.Sprintf("@v%d", i), fmt.Sprintf("`%s` = UNHEX(NULLIF(@v%d, 'N'))", col, i)
		}
		load := fmt.Sprintf("LOAD DATA LOCAL INFILE '%s' INTO TABLE %s CHARACTER SET binary FIELDS TERMINATED BY ',' (%s) SET %s", path, table, strings.Join(vars, ","), strings.Join(sets, ","))
		for i := range rounds {
			if _, err = to.ExecContext(ctx, "TRUNCATE TABLE "+table); err != nil {
				break
			}
			begin := time.Now()
			if _, err = to.ExecContext(ctx, load); err != nil {
				break
			}
			rounds[i] += time.Since(begin)
		}
		os.Remove(path)
		if err != nil {
			return 0, 0, err
		}
		var there int64
		if err := to.QueryRowContext(ctx, "SELECT COUNT(*) FROM "+table).Scan(&there); err != nil || there != n {
			return 0, 0, fmt.Errorf("%s: %d of %d rows were loaded: %w", table, there, n, err)
		}
		total += n
		if table == "contents" {
			if err := from.QueryRowContext(ctx, "SELECT CONCAT(ROUND(SUM(LENGTH(bytes)) * ? / 1000), ' kB') FROM contents", lots).Scan(&contentSize); err != nil {
				return 0, 0, err
			}
		}
	}
	slices.Sort(rounds[:])
	return rounds[1], total, nil
}

// dump writes a table's rows to a file, each cell in hexadecimal, so that no byte needs an escape.
func dump(ctx context.Context, db *sql.DB, table, where string) (path string, columns []string, n int64, err error) {
	f, err := os.CreateTemp("", "jolly-load-")
	if err != nil {
		return "", nil, 0, err
	}
	defer f.Close()
	w := bufio.NewWriter(f)
	rows, err := db.QueryContext(ctx, "SELECT * FROM "+table+where)
	if err != nil {
		return "", nil, 0, err
	}
	defer rows.Close()
	if columns, err = rows.Columns(); err != nil {
		return "", nil, 0, err
	}
	cells := make([]sql.RawBytes, len(columns))
	into := make([]any, len(columns))
	for i := range cells {
		into[i] = &cells[i]
	}
	for ; rows.Next(); n++ {
		if err := rows.Scan(into...); err != nil {
			return "", nil, 0, err
		}
		for i, c := range cells {
			if i > 0 {
				_ = w.WriteByte(',')
			}
			if c == nil {
				_, _ = io.WriteString(w, "N")
			} else {
				_, _ = io.WriteString(w, hex.EncodeToString(c))
			}
		}
		_ = w.WriteByte('\n')
	}
	if err := rows.Err(); err != nil {
		return "", nil, 0, err
	}
	return f.Name(), columns, n, w.Flush()
}
