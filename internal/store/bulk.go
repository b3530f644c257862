package store

import (
	"iter"
	"strings"

	"gorm.io/gorm"
)

// batch is how many parts one staging transaction writes: large enough to be quick, small enough to stall nobody.
const batch = 2000

// batches calls f with the members of a sequence, some at a time. The next ones are made while f works on the ones
// before: making contents and writing them keep different processors busy.
func batches[T any](all iter.Seq2[T, error], f func([]T) error) error {
	type lot struct {
		some   []T
		err    error
		broken any // what making them panicked with
	}
	lots, enough, ended := make(chan lot), make(chan struct{}), make(chan struct{})
	defer func() { // whoever asks goes on only when nobody makes any more
		close(enough)
		<-ended
	}()
	go func() {
		defer close(ended)
		defer close(lots)
		send := func(l lot) bool {
			select {
			case lots <- l:
				return true
			case <-enough:
				return false
			}
		}
		defer func() {
			if broken := recover(); broken != nil {
				send(lot{broken: broken})
			}
		}()
		chunk := make([]T, 0, batch)
		for p, err := range all {
			if err != nil {
				send(lot{err: err})
				return
			}
			if chunk = append(chunk, p); len(chunk) == batch {
				if !send(lot{some: chunk}) {
					return
				}
				chunk = make([]T, 0, batch)
			}
		}
		if len(chunk) > 0 {
			send(lot{some: chunk})
		}
	}()
	for l := range lots {
		if l.broken != nil {
			panic(l.broken) // where it is looked after: in the job
		}
		if l.err != nil {
			return l.err
		}
		if err := f(l.some); err != nil {
			return err
		}
	}
	return nil
}

// insert gathers rows for one INSERT statement of many rows.
type insert struct {
	table, columns string
	row            string
	n              int
	args           []any
}

func newInsert(table, columns string) *insert {
	return &insert{table: table, columns: columns, row: "(?" + strings.Repeat(",?", strings.Count(columns, ",")) + ")"}
}

func (in *insert) add(args ...any) {
	in.n++
	in.args = append(in.args, args...)
}

// run writes the rows, a few hundred to a statement to stay within the packet size.
func (in *insert) run(g *gorm.DB) error {
	if in.n == 0 {
		return nil
	}
	width := len(in.args) / in.n
	for from := 0; from < in.n; from += 500 {
		k := min(500, in.n-from)
		// Straight to the driver: GORM would parse each of the thousands of placeholders anew.
		if _, err := g.Statement.ConnPool.ExecContext(g.Statement.Context, "INSERT INTO "+in.table+" ("+in.columns+") VALUES "+in.row+strings.Repeat(","+in.row, k-1),
			in.args[from*width:(from+k)*width]...); err != nil {
			return err
		}
	}
	return nil
}
