package store

import (
	"context"
	"crypto/sha256"
	"database/sql"
	"encoding/hex"
	"errors"
	"fmt"
	"strings"
	"time"

	"jollydrawer/core/readout"
)

// Keeper makes the tables and views of the readout through an account of its own, which may do nothing else. Rows lie in a schema
// that only the service and the views read; views in another, which is all that the reader's account sees.
type Keeper struct {
	db          *sql.DB
	Main        string // schema of the library
	Rows, Views string
}

// OpenKeeper connects with the keeper's account. The DSN names the schema of the library.
func OpenKeeper(dsn string) (*Keeper, error) {
	db, err := openSQL(dsn)
	if err != nil {
		return nil, err
	}
	db.SetMaxOpenConns(2)
	main := schemaOf(dsn)
	if main == "" {
		db.Close()
		return nil, errors.New("the DSN of the readout's keeper names no schema: write that of the library behind the slash")
	}
	return &Keeper{db: db, Main: main, Rows: readout.RowsOf(main), Views: readout.ViewsOf(main)}, nil
}

// Close lets go of the connections.
func (k *Keeper) Close() error { return k.db.Close() }

// patience is how long a view or a table is waited for that somebody reads in an open transaction: meanwhile whoever comes next
// would wait too, so that it is tried again later rather.
const patience = 2

func (k *Keeper) do(ctx context.Context, statement string) error {
	_, err := k.db.ExecContext(ctx, fmt.Sprintf("SET STATEMENT lock_wait_timeout = %d FOR %s", patience, statement))
	return err
}

// MakeTable makes the table of a shape; one that is there stays.
func (k *Keeper) MakeTable(ctx context.Context, name string, s readout.Shape) error {
	columns := []string{"head BINARY(16) NOT NULL", "content BINARY(16) NOT NULL PRIMARY KEY", "at DATETIME(6) NOT NULL"}
	for _, c := range readout.Kept {
		not := ""
		if c.Type == readout.Number {
			not = " COLLATE utf8mb4_general_ci NOT NULL"
		}
		columns = append(columns, "k_"+c.Name+" "+string(c.Type)+not)
	}
	keys := []string{"KEY (k_number)", "KEY (k_mpn(60))"}
	for i, c := range s.Columns {
		columns = append(columns, fmt.Sprintf("p_%d %s NULL", i, c.Type))
		switch {
		case c.Indexed && c.Type == readout.Text:
			keys = append(keys, fmt.Sprintf("KEY (p_%d(60))", i))
		case c.Indexed:
			keys = append(keys, fmt.Sprintf("KEY (p_%d)", i))
		}
	}
	return k.do(ctx, "CREATE TABLE IF NOT EXISTS `"+k.Rows+"`.`"+name+"` ("+strings.Join(append(columns, keys...), ", ")+") CHARACTER SET utf8mb4 COLLATE utf8mb4_general_ci ROW_FORMAT = DYNAMIC")
}

// DropTable removes a table that no view is made of.
func (k *Keeper) DropTable(ctx context.Context, name string) error {
	return k.do(ctx, "DROP TABLE IF EXISTS `"+k.Rows+"`.`"+name+"`")
}

// Tables lists the tables that are there.
func (k *Keeper) Tables(ctx context.Context) (map[string]bool, error) {
	return k.names(ctx, "SELECT table_name FROM information_schema.tables WHERE table_schema = ? AND table_type = 'BASE TABLE'", k.Rows)
}

// ViewsThere lists the views that are there.
func (k *Keeper) ViewsThere(ctx context.Context) (map[string]bool, error) {
	return k.names(ctx, "SELECT table_name FROM information_schema.tables WHERE table_schema = ? AND table_type = 'VIEW'", k.Views)
}

func (k *Keeper) names(ctx context.Context, q string, args ...any) (map[string]bool, error) {
	rows, err := k.db.QueryContext(ctx, q, args...)
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	out := map[string]bool{}
	for rows.Next() {
		var name string
		if err := rows.Scan(&name); err != nil {
			return nil, err
		}
		out[name] = true
	}
	return out, rows.Err()
}

// ReadoutView is what shows a table to design tools.
type ReadoutView struct {
	Name string
	sql  string
}

// Hash tells views apart.
func (v ReadoutView) Hash() string {
	sum := sha256.Sum256([]byte(v.sql))
	return hex.EncodeToString(sum[:])
}

// ViewOf is the view of a table: the rows of what is in use now, in states that are shown. The rows come first and everything else by
// its key, so that a list sorted by an indexed number ends after a few of them. base stands before the path of a datasheet.
func (k *Keeper) ViewOf(t ReadoutTable, s readout.Shape, base string) ReadoutView {
	const uses = "ELT(GREATEST(ms.uses, mt.uses) + 1, 'yes', 'with caution', 'no')"
	fixed := map[string]string{
		"part_number": "r.k_number", "description": "r.k_description", "name": "r.k_name", "status": "ms.word", "standing": "mt.word", "may_be_used": uses,
		"revision": "IF(h.label = '', CAST(h.revision AS CHAR), h.label)", "manufacturer": "r.k_manufacturer", "mpn": "r.k_mpn",
		"datasheet": "CONCAT(" + quoted(base+"/api/v1/files/") + ", LOWER(HEX(r.k_datasheet_hash)))",
		"symbol":    "r.k_symbol", "land_pattern": "r.k_land_pattern", "body": "r.k_body",
	}
	var columns []string
	for _, f := range readout.Fixed {
		columns = append(columns, fixed[f.Name]+" AS `"+f.Name+"`")
	}
	for i, c := range s.Columns {
		columns = append(columns, fmt.Sprintf("r.p_%d AS `%s`", i, c.Name))
	}
	name := readout.Plain(readout.SQLName(t.Drawer))
	return ReadoutView{name, "CREATE OR REPLACE ALGORITHM = MERGE SQL SECURITY DEFINER VIEW `" + k.Views + "`.`" + name + "` AS SELECT STRAIGHT_JOIN " + strings.Join(columns, ", ") +
		" FROM " + t.At() + " r JOIN `" + k.Main + "`.heads h ON h.id = r.head AND h.released = r.content" +
		" JOIN `" + k.Main + "`.readout_states ms ON ms.drawer = h.drawer AND ms.fact = 'status' AND ms.state = h.state" +
		" JOIN `" + k.Main + "`.readout_states mt ON mt.drawer = h.drawer AND mt.fact = 'standing' AND mt.state = h.standing" +
		" WHERE ms.shown AND mt.shown"}
}

func quoted(s string) string {
	return "'" + strings.NewReplacer("\\", "\\\\", "'", "''").Replace(s) + "'"
}

// Show makes a view, or puts it in the place of the one that is there, in one step.
func (k *Keeper) Show(ctx context.Context, v ReadoutView) error { return k.do(ctx, v.sql) }

// Hide removes a view.
func (k *Keeper) Hide(ctx context.Context, name string) error {
	return k.do(ctx, "DROP VIEW IF EXISTS `"+k.Views+"`.`"+name+"`")
}

// Lease takes a name for a while, or holds on to it; false says that somebody else has it.
func (s *Store) Lease(ctx context.Context, name string, holder ID, keep time.Duration) (bool, error) {
	var there int64
	if err := s.reads.WithContext(ctx).Raw("SELECT COUNT(*) FROM leases WHERE name = ?", name).Scan(&there).Error; err != nil {
		return false, err
	}
	if there == 0 {
		if err := s.db.WithContext(ctx).Exec("INSERT IGNORE INTO leases (name, holder, until) VALUES (?,?,'2000-01-01')", name, holder).Error; err != nil {
			return false, err
		}
	}
	r := s.db.WithContext(ctx).Exec("UPDATE leases SET holder = ?, until = NOW(6) + INTERVAL ? MICROSECOND WHERE name = ? AND (holder = ? OR until < NOW(6))", holder, keep.Microseconds(), name, holder)
	if Transient(r.Error) {
		return false, nil
	}
	return r.RowsAffected == 1, r.Error
}

// keeperGrants are the rights of the keeper on the library: what says which rows are shown.
func keeperGrants(schema, keeper string) []string {
	return []string{
		"GRANT SELECT (id, released, drawer, state, standing, revision, label) ON `" + schema + "`.heads TO " + keeper,
		"GRANT SELECT ON `" + schema + "`.readout_states TO " + keeper,
	}
}

// GrantKeeper gives the keeper's account its rights on a migrated library, through the owner's.
func GrantKeeper(ctx context.Context, ownerDSN, keeperDSN string) error {
	account, err := accountOf(ctx, keeperDSN)
	if err != nil {
		return err
	}
	db, err := openSQL(ownerDSN)
	if err != nil {
		return err
	}
	defer db.Close()
	for _, q := range keeperGrants(schemaOf(ownerDSN), account) {
		if _, err := db.ExecContext(ctx, q); err != nil {
			return fmt.Errorf("granting rights to the readout's keeper %s (the owner's account needs GRANT OPTION): %w", account, err)
		}
	}
	return nil
}
