package store

import (
	"database/sql"
	"iter"
	"strings"

	"gorm.io/gorm"
)

// batch is how many parts one staging transaction writes: large enough to be quick, small enough to stall nobody.
const batch = 2000

// Ahead makes the next member of a sequence while the one before is worked on: reading, computing and writing keep different
// processors busy. What panics in the making panics in whoever asks; and whoever asks goes on only when nobody makes any more.
func Ahead[T any](all iter.Seq2[T, error]) iter.Seq2[T, error] {
	type made struct {
		one    T
		err    error
		broken any // what making it panicked with
	}
	return func(yield func(T, error) bool) {
		members, enough, ended := make(chan made), make(chan struct{}), make(chan struct{})
		defer func() {
			close(enough)
			<-ended
		}()
		go func() {
			defer close(ended)
			defer close(members)
			send := func(m made) bool {
				select {
				case members <- m:
					return true
				case <-enough:
					return false
				}
			}
			defer func() {
				if broken := recover(); broken != nil {
					send(made{broken: broken})
				}
			}()
			for one, err := range all {
				if !send(made{one: one, err: err}) {
					return
				}
			}
		}()
		for m := range members {
			if m.broken != nil {
				panic(m.broken) // where it is looked after
			}
			if !yield(m.one, m.err) {
				return
			}
		}
	}
}

// batches calls f with the members of a sequence, some at a time. The next ones are made while f works on the ones before.
func batches[T any](all iter.Seq2[T, error], f func([]T) error) error {
	for some, err := range Ahead(chunks(all)) {
		if err == nil {
			err = f(some)
		}
		if err != nil {
			return err
		}
	}
	return nil
}

// chunks gathers the members of a sequence; what fails ends it, with what was gathered since the last chunk.
func chunks[T any](all iter.Seq2[T, error]) iter.Seq2[[]T, error] {
	return func(yield func([]T, error) bool) {
		chunk := make([]T, 0, batch)
		for one, err := range all {
			if err != nil {
				yield(nil, err)
				return
			}
			if chunk = append(chunk, one); len(chunk) == batch {
				if !yield(chunk, nil) {
					return
				}
				chunk = make([]T, 0, batch)
			}
		}
		if len(chunk) > 0 {
			yield(chunk, nil)
		}
	}
}

// insert gathers rows for one INSERT statement of many rows.
type insert struct {
	table, columns string
	row            string
	n              int
	args           []any
	then           string // behind the rows, where a row may be there already
}

func newInsert(table, columns string) *insert {
	return &insert{table: table, columns: columns, row: "(?" + strings.Repeat(",?", strings.Count(columns, ",")) + ")"}
}

func (in *insert) add(args ...any) {
	in.n++
	in.args = append(in.args, args...)
}

// rowsAtOnce is how many rows go into one statement, to stay within the size of a packet and the number of placeholders.
const rowsAtOnce = 500

// run writes the rows. The statement is prepared, although others have their arguments written into them: the server would read
// the bytes of thousands of values letter by letter, which takes it half as long again.
func (in *insert) run(g *gorm.DB) (err error) {
	if in.n == 0 {
		return nil
	}
	width := len(in.args) / in.n
	for from := 0; from < in.n && err == nil; {
		k := min(rowsAtOnce, in.n-from)
		err = in.prepared(g, k, func(s *sql.Stmt) error {
			for ; in.n-from >= k; from += k {
				if _, err := s.ExecContext(g.Statement.Context, in.args[from*width:(from+k)*width]...); err != nil {
					return err
				}
			}
			return nil
		})
	}
	return err
}

// prepared calls do with the statement that inserts k rows.
func (in *insert) prepared(g *gorm.DB, k int, do func(*sql.Stmt) error) error {
	// Straight to the driver: GORM would parse each of the thousands of placeholders anew.
	s, err := g.Statement.ConnPool.PrepareContext(g.Statement.Context, "INSERT INTO "+in.table+" ("+in.columns+") VALUES "+in.row+strings.Repeat(","+in.row, k-1)+in.then)
	if err != nil {
		return err
	}
	defer s.Close()
	return do(s)
}
