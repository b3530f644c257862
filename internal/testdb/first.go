package testdb

import (
	"context"
	"database/sql"
	"fmt"
	"os"
	"strings"
	"sync"

	"jollydrawer/internal/store"
)

// migrated is a schema that was made step by step, as an installation's is, of which others are copied: that takes a third of the time.
type migrated struct {
	once    sync.Once
	err     error
	name    string
	account string   // the service's, as grants name it
	tables  []string // statements that make them
	rows    []string // the tables that migrations wrote something into
}

var first migrated

func (m *migrated) make(ctx context.Context) error {
	m.name = fmt.Sprintf("s%d_first", os.Getpid())
	owner, dsn, err := server.Schema(ctx, m.name)
	if err != nil {
		return err
	}
	if err := store.Migrate(ctx, owner, dsn); err != nil {
		return err
	}
	if m.account, err = one(ctx, dsn, "SELECT CONCAT(QUOTE(SUBSTRING_INDEX(CURRENT_USER(), '@', 1)), '@', QUOTE(SUBSTRING_INDEX(CURRENT_USER(), '@', -1)))"); err != nil {
		return err
	}
	names, err := one(ctx, owner, "SELECT GROUP_CONCAT(table_name) FROM information_schema.tables WHERE table_schema = DATABASE()")
	if err != nil {
		return err
	}
	for name := range strings.SplitSeq(names, ",") {
		var same, made string
		db, err := sql.Open("mysql", owner)
		if err != nil {
			return err
		}
		err = db.QueryRowContext(ctx, "SHOW CREATE TABLE `"+name+"`").Scan(&same, &made)
		db.Close()
		if err != nil {
			return err
		}
		m.tables = append(m.tables, made)
		if some, err := one(ctx, owner, "SELECT EXISTS (SELECT 1 FROM `"+name+"`)"); err != nil {
			return err
		} else if some == "1" {
			m.rows = append(m.rows, name)
		}
	}
	return nil
}

// copy makes the tables of a schema, with what migrations write into them, and gives the service's account its rights on them.
func (m *migrated) copy(ctx context.Context, schema string) error {
	root, err := server.Root()
	if err != nil {
		return err
	}
	defer root.Close()
	db, err := root.Conn(ctx)
	if err != nil {
		return err
	}
	defer db.Close()
	all := append([]string{"USE `" + schema + "`"}, m.tables...)
	for _, name := range m.rows {
		all = append(all, "INSERT INTO `"+name+"` SELECT * FROM `"+m.name+"`.`"+name+"`")
	}
	for _, q := range append(all, store.Grants(schema, m.account)...) {
		if _, err := db.ExecContext(ctx, q); err != nil {
			return fmt.Errorf("copying the schema: %w: %s", err, q)
		}
	}
	return nil
}

// one asks for one text under a DSN.
func one(ctx context.Context, dsn, question string) (answer string, err error) {
	db, err := sql.Open("mysql", dsn)
	if err != nil {
		return "", err
	}
	defer db.Close()
	err = db.QueryRowContext(ctx, question).Scan(&answer)
	return answer, err
}
