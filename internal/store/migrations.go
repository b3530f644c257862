package store

import (
	"context"
	"database/sql"
	"errors"
	"fmt"
	"io"
	"log"
	"strings"
	"time"

	"github.com/go-sql-driver/mysql"
	"github.com/pressly/goose/v3"
	"github.com/pressly/goose/v3/database"
)

// migrations are the schema's steps, one DDL statement each, applied in this order and never changed afterwards.
var migrations = []string{
	`CREATE TABLE accounts (id BINARY(16) PRIMARY KEY, login VARCHAR(64) COLLATE utf8mb4_general_ci NOT NULL UNIQUE, name VARCHAR(120) NOT NULL,
		role VARCHAR(16) NOT NULL, password VARCHAR(255) NOT NULL, disabled BOOLEAN NOT NULL DEFAULT FALSE, version INT NOT NULL, created DATETIME(6) NOT NULL)`,
	`CREATE TABLE sessions (hash BINARY(32) PRIMARY KEY, account BINARY(16) NOT NULL, csrf VARCHAR(64) NOT NULL, created DATETIME(6) NOT NULL,
		expires DATETIME(6) NOT NULL, KEY (account), KEY (expires))`,
	`CREATE TABLE tokens (id BINARY(16) PRIMARY KEY, account BINARY(16) NOT NULL, name VARCHAR(120) NOT NULL, hash BINARY(32) NOT NULL UNIQUE,
		created DATETIME(6) NOT NULL, expires DATETIME(6) NOT NULL, KEY (account))`,
	`CREATE TABLE deeds (id BINARY(16) PRIMARY KEY, kind VARCHAR(48) NOT NULL, account BINARY(16) NULL, at DATETIME(6) NOT NULL,
		request BINARY(32) NOT NULL, result MEDIUMTEXT NOT NULL)`,
	`CREATE TABLE heads (id BINARY(16) PRIMARY KEY, kind VARCHAR(16) NOT NULL, number VARCHAR(120) COLLATE utf8mb4_general_ci NOT NULL, version INT NOT NULL,
		drawer VARCHAR(48) NOT NULL DEFAULT '', standing VARCHAR(24) NOT NULL DEFAULT '', revision INT NOT NULL DEFAULT 0, draft BINARY(16) NULL,
		released BINARY(16) NULL, trail_seq INT NOT NULL, trail_hash BINARY(32) NOT NULL, deed BINARY(16) NOT NULL, updated DATETIME(6) NOT NULL,
		UNIQUE KEY (kind, number), KEY (deed), KEY (kind, updated))`,
	`CREATE TABLE contents (id BINARY(16) PRIMARY KEY, head BINARY(16) NOT NULL, hash BINARY(32) NOT NULL, format VARCHAR(32) NOT NULL,
		template INT NOT NULL DEFAULT 0, bytes MEDIUMBLOB NOT NULL, origins MEDIUMBLOB NOT NULL, deed BINARY(16) NOT NULL, at DATETIME(6) NOT NULL, KEY (head))`,
	`CREATE TABLE revisions (head BINARY(16) NOT NULL, number INT NOT NULL, content BINARY(16) NOT NULL, hash BINARY(32) NOT NULL, hash_before BINARY(32) NULL,
		note TEXT NOT NULL, account BINARY(16) NULL, at DATETIME(6) NOT NULL, deed BINARY(16) NOT NULL, PRIMARY KEY (head, number))`,
	`CREATE TABLE trail (head BINARY(16) NOT NULL, seq INT NOT NULL, deed BINARY(16) NOT NULL, account BINARY(16) NULL, at DATETIME(6) NOT NULL,
		action VARCHAR(48) NOT NULL, detail TEXT NOT NULL, hash_before BINARY(32) NULL, hash BINARY(32) NOT NULL, PRIMARY KEY (head, seq), KEY (deed))`,
	`CREATE TABLE outbox (deed BINARY(16) PRIMARY KEY, kind VARCHAR(48) NOT NULL, at DATETIME(6) NOT NULL)`,
	`CREATE TABLE feed (position BIGINT PRIMARY KEY, deed BINARY(16) NOT NULL UNIQUE, kind VARCHAR(48) NOT NULL, at DATETIME(6) NOT NULL)`,
	`CREATE TABLE counters (prefix VARCHAR(16) PRIMARY KEY, next BIGINT NOT NULL)`,
	`CREATE TABLE source_keys (k BINARY(32) NOT NULL, twin SMALLINT NOT NULL, head BINARY(16) NOT NULL, PRIMARY KEY (k, twin), KEY (head))`,
	`CREATE TABLE uses (parent BINARY(16) NOT NULL, place VARCHAR(32) NOT NULL, child BINARY(16) NOT NULL, child_revision INT NOT NULL,
		PRIMARY KEY (parent, place), KEY (child))`,
	`CREATE TABLE files (hash BINARY(32) PRIMARY KEY, size BIGINT NOT NULL, chunks INT NOT NULL, at DATETIME(6) NOT NULL)`,
	`CREATE TABLE chunks (hash BINARY(32) NOT NULL, n INT NOT NULL, bytes MEDIUMBLOB NOT NULL, PRIMARY KEY (hash, n))`,
	`CREATE TABLE jobs (id BINARY(16) PRIMARY KEY, kind VARCHAR(32) NOT NULL, deed BINARY(16) NOT NULL UNIQUE, account BINARY(16) NOT NULL, head BINARY(16) NULL,
		payload MEDIUMTEXT NOT NULL, state VARCHAR(12) NOT NULL, fence INT NOT NULL DEFAULT 0, lease_until DATETIME(6) NULL, done BIGINT NOT NULL DEFAULT 0,
		total BIGINT NOT NULL DEFAULT 0, stop BOOLEAN NOT NULL DEFAULT FALSE, result MEDIUMTEXT NOT NULL, error TEXT NOT NULL, created DATETIME(6) NOT NULL,
		updated DATETIME(6) NOT NULL, KEY (state), KEY (head))`,
	`CREATE TABLE stagings (id BINARY(16) PRIMARY KEY, deed BINARY(16) NOT NULL, at DATETIME(6) NOT NULL)`,
	`CREATE TABLE staged_heads (staging BINARY(16) NOT NULL, head BINARY(16) NOT NULL, number VARCHAR(120) NOT NULL, drawer VARCHAR(48) NOT NULL,
		content BINARY(16) NOT NULL, trail_hash BINARY(32) NOT NULL, PRIMARY KEY (staging, head))`,
	`CREATE TABLE staged_keys (staging BINARY(16) NOT NULL, k BINARY(32) NOT NULL, head BINARY(16) NOT NULL, PRIMARY KEY (staging, k))`,
	`CREATE TABLE seals (n BIGINT PRIMARY KEY, at DATETIME(6) NOT NULL, heads BIGINT NOT NULL, root BINARY(32) NOT NULL)`,
	`CREATE TABLE former_numbers (number VARCHAR(120) COLLATE utf8mb4_general_ci PRIMARY KEY, head BINARY(16) NOT NULL, KEY (head))`,
	`CREATE TABLE successors (head BINARY(16) PRIMARY KEY, successor BINARY(16) NOT NULL, why TEXT NOT NULL, KEY (successor))`,
	`CREATE TABLE views (id BINARY(16) PRIMARY KEY, account BINARY(16) NOT NULL, name VARCHAR(80) COLLATE utf8mb4_general_ci NOT NULL, drawer VARCHAR(48) NOT NULL,
		query TEXT NOT NULL, shared BOOLEAN NOT NULL, version INT NOT NULL, updated DATETIME(6) NOT NULL, UNIQUE KEY (account, drawer, name), KEY (shared))`,
	`CREATE TABLE fetched (hash BINARY(32) PRIMARY KEY, link TEXT NOT NULL, file BINARY(32) NULL, name VARCHAR(255) NOT NULL, problem TEXT NOT NULL, at DATETIME(6) NOT NULL)`,
	`CREATE TABLE staged_updates (staging BINARY(16) NOT NULL, head BINARY(16) NOT NULL, version INT NOT NULL, content BINARY(16) NOT NULL, trail_seq INT NOT NULL,
		trail_hash BINARY(32) NOT NULL, PRIMARY KEY (staging, head))`,
	`CREATE TABLE staged_uses (staging BINARY(16) NOT NULL, head BINARY(16) NOT NULL, place VARCHAR(32) NOT NULL, child BINARY(16) NOT NULL, child_revision INT NOT NULL, PRIMARY KEY (staging, head, place))`,
	`CREATE TABLE model_waivers (head BINARY(16) NOT NULL, cause VARCHAR(60) NOT NULL, why TEXT NOT NULL, account BINARY(16) NOT NULL, at DATETIME(6) NOT NULL, PRIMARY KEY (head, cause))`,
	`CREATE TABLE model_signs (head BINARY(16) NOT NULL, revision INT NOT NULL, account BINARY(16) NOT NULL, at DATETIME(6) NOT NULL, against TEXT NOT NULL, PRIMARY KEY (head, revision, account))`,
	`CREATE TABLE staged_changes (staging BINARY(16) NOT NULL, head BINARY(16) NOT NULL, version INT NOT NULL, drawer VARCHAR(48) NOT NULL, revision INT NOT NULL, draft BINARY(16) NULL,
		released BINARY(16) NULL, trail_seq INT NOT NULL, trail_hash BINARY(32) NOT NULL, PRIMARY KEY (staging, head))`,
	`CREATE TABLE staged_contents (staging BINARY(16) NOT NULL, content BINARY(16) NOT NULL, PRIMARY KEY (staging, content))`,
	`CREATE TABLE staged_trail (staging BINARY(16) NOT NULL, head BINARY(16) NOT NULL, seq INT NOT NULL, deed BINARY(16) NOT NULL, account BINARY(16) NULL, at DATETIME(6) NOT NULL,
		action VARCHAR(48) NOT NULL, detail TEXT NOT NULL, hash_before BINARY(32) NULL, hash BINARY(32) NOT NULL, PRIMARY KEY (staging, head))`,
	`CREATE TABLE staged_revisions (staging BINARY(16) NOT NULL, head BINARY(16) NOT NULL, number INT NOT NULL, content BINARY(16) NOT NULL, hash BINARY(32) NOT NULL, hash_before BINARY(32) NULL,
		note TEXT NOT NULL, account BINARY(16) NULL, at DATETIME(6) NOT NULL, deed BINARY(16) NOT NULL, PRIMARY KEY (staging, head))`,
	// One staging mechanism takes the place of two: what a bulk deed of the earlier form left on its way is removed first.
	`DELETE c FROM contents c JOIN staged_heads s ON s.content = c.id WHERE NOT EXISTS (SELECT 1 FROM heads h WHERE h.id = s.head)`,
	`DELETE t FROM trail t JOIN staged_heads s ON s.head = t.head WHERE NOT EXISTS (SELECT 1 FROM heads h WHERE h.id = s.head)`,
	`DELETE c FROM contents c JOIN staged_updates u ON u.content = c.id JOIN stagings s ON s.id = u.staging WHERE NOT EXISTS (SELECT 1 FROM deeds d WHERE d.id = s.deed)`,
	`DELETE c FROM contents c JOIN staged_contents u ON u.content = c.id JOIN stagings s ON s.id = u.staging WHERE NOT EXISTS (SELECT 1 FROM deeds d WHERE d.id = s.deed)`,
	`DROP TABLE IF EXISTS staged_heads, staged_updates, staged_changes, staged_contents`,
	`CREATE TABLE staged_heads (staging BINARY(16) NOT NULL, head BINARY(16) NOT NULL, kind VARCHAR(16) NOT NULL, number VARCHAR(120) NOT NULL, version INT NOT NULL, drawer VARCHAR(48) NOT NULL,
		standing VARCHAR(24) NOT NULL, revision INT NOT NULL, draft BINARY(16) NULL, released BINARY(16) NULL, trail_seq INT NOT NULL, trail_hash BINARY(32) NOT NULL, clears TINYINT NOT NULL,
		PRIMARY KEY (staging, head))`,
	`CREATE TABLE numbers (number VARCHAR(120) COLLATE utf8mb4_general_ci PRIMARY KEY, head BINARY(16) NOT NULL, sort VARCHAR(16) NOT NULL, KEY (head))`,
	`INSERT IGNORE INTO numbers (number, head, sort) SELECT number, id, 'own' FROM heads WHERE kind = 'part' AND standing NOT IN ('merged', 'withdrawn')`,
	`INSERT IGNORE INTO numbers (number, head, sort) SELECT number, head, 'former' FROM former_numbers`,
	`DROP TABLE IF EXISTS former_numbers`,
	`CREATE TABLE cabinet_guards (slot SMALLINT PRIMARY KEY, n BIGINT NOT NULL)`,
	`INSERT IGNORE INTO cabinet_guards (slot, n) WITH RECURSIVE s (slot) AS (SELECT 0 UNION ALL SELECT slot + 1 FROM s WHERE slot < 255) SELECT slot, 0 FROM s`,
	`ALTER TABLE jobs ADD COLUMN IF NOT EXISTS attempts INT NOT NULL DEFAULT 0, ADD COLUMN IF NOT EXISTS sole VARCHAR(120) NULL, ADD UNIQUE KEY IF NOT EXISTS (sole)`,
	`ALTER TABLE stagings ADD COLUMN IF NOT EXISTS never BOOLEAN NOT NULL DEFAULT FALSE`,
	`CREATE TABLE projections (name VARCHAR(48) PRIMARY KEY, version INT NOT NULL, at DATETIME(6) NOT NULL)`,
	// The states of lifecycles: blank is the first of its meaning, so that nothing that is there has to be written anew.
	`ALTER TABLE heads ADD COLUMN IF NOT EXISTS state VARCHAR(24) NOT NULL DEFAULT '', ADD COLUMN IF NOT EXISTS draft_state VARCHAR(24) NOT NULL DEFAULT '', ADD COLUMN IF NOT EXISTS label VARCHAR(16) NOT NULL DEFAULT '',
		ADD COLUMN IF NOT EXISTS moved DATETIME(6) NULL`,
	`ALTER TABLE heads ADD KEY IF NOT EXISTS draft_state (draft_state, kind, moved)`,
	`ALTER TABLE heads ADD KEY IF NOT EXISTS draft (draft)`,
	`ALTER TABLE staged_heads ADD COLUMN IF NOT EXISTS state VARCHAR(24) NOT NULL DEFAULT '', ADD COLUMN IF NOT EXISTS draft_state VARCHAR(24) NOT NULL DEFAULT '', ADD COLUMN IF NOT EXISTS label VARCHAR(16) NOT NULL DEFAULT '',
		ADD COLUMN IF NOT EXISTS moved DATETIME(6) NULL`,
	`ALTER TABLE revisions ADD COLUMN IF NOT EXISTS label VARCHAR(16) NOT NULL DEFAULT ''`,
	`ALTER TABLE staged_revisions ADD COLUMN IF NOT EXISTS label VARCHAR(16) NOT NULL DEFAULT ''`,
	`CREATE TABLE revision_states (head BINARY(16) NOT NULL, number INT NOT NULL, state VARCHAR(24) NOT NULL, why TEXT NOT NULL, account BINARY(16) NOT NULL, at DATETIME(6) NOT NULL, PRIMARY KEY (head, number))`,
	`CREATE TABLE gate_waivers (head BINARY(16) NOT NULL, gate VARCHAR(24) NOT NULL, looked BINARY(32) NOT NULL, why TEXT NOT NULL, account BINARY(16) NOT NULL, at DATETIME(6) NOT NULL, PRIMARY KEY (head, gate, looked))`,
	`CREATE TABLE review_signs (head BINARY(16) NOT NULL, content BINARY(32) NOT NULL, account BINARY(16) NOT NULL, author BOOLEAN NOT NULL, against TEXT NOT NULL, at DATETIME(6) NOT NULL, PRIMARY KEY (head, content, account))`,
	`INSERT IGNORE INTO review_signs (head, content, account, author, against, at) SELECT s.head, r.hash, s.account, FALSE, s.against, s.at FROM model_signs s JOIN revisions r ON r.head = s.head AND r.number = s.revision`,
	`DROP TABLE IF EXISTS model_signs`,
	`CREATE TABLE review_ticks (head BINARY(16) NOT NULL, item VARCHAR(120) NOT NULL, account BINARY(16) NOT NULL, value BINARY(32) NOT NULL, at DATETIME(6) NOT NULL, PRIMARY KEY (head, item, account))`,
	`CREATE TABLE proofs (id BINARY(16) PRIMARY KEY, head BINARY(16) NOT NULL, content BINARY(32) NOT NULL, boards INT NOT NULL, which TEXT NOT NULL, account BINARY(16) NOT NULL, at DATETIME(6) NOT NULL, KEY (head))`,
	`CREATE TABLE review_turns (head BINARY(16) PRIMARY KEY, account BINARY(16) NOT NULL, at DATETIME(6) NOT NULL)`,
	`CREATE TABLE people_groups (id BINARY(16) PRIMARY KEY, name VARCHAR(60) COLLATE utf8mb4_general_ci NOT NULL UNIQUE, about VARCHAR(200) NOT NULL, version INT NOT NULL)`,
	`CREATE TABLE group_members (people_group BINARY(16) NOT NULL, account BINARY(16) NOT NULL, PRIMARY KEY (people_group, account), KEY (account))`,
	`CREATE TABLE wants (head BINARY(16) PRIMARY KEY, wanted_by BINARY(16) NOT NULL, state VARCHAR(12) NOT NULL, taken_by BINARY(16) NULL, part BINARY(16) NULL, why TEXT NOT NULL,
		asked DATETIME(6) NOT NULL, settled DATETIME(6) NULL, KEY (state, asked), KEY (wanted_by, asked), KEY (part))`,
	`CREATE TABLE group_duties (people_group BINARY(16) NOT NULL, sort VARCHAR(8) NOT NULL, name VARCHAR(48) NOT NULL, PRIMARY KEY (people_group, sort, name))`,
	`CREATE TABLE readout_tables (room VARCHAR(64) NOT NULL, name VARCHAR(64) NOT NULL, drawer VARCHAR(48) NOT NULL, hash CHAR(64) NOT NULL, shape MEDIUMTEXT NOT NULL, filled BOOLEAN NOT NULL, shown VARCHAR(64) NOT NULL,
		made DATETIME(6) NOT NULL, PRIMARY KEY (room, name))`,
	`CREATE TABLE readout_states (drawer VARCHAR(48) NOT NULL, fact VARCHAR(8) NOT NULL, state VARCHAR(24) NOT NULL, word VARCHAR(80) NOT NULL, uses TINYINT NOT NULL, shown BOOLEAN NOT NULL, PRIMARY KEY (drawer, fact, state))`,
	`CREATE TABLE watches (id BINARY(16) PRIMARY KEY, account BINARY(16) NOT NULL, sort VARCHAR(10) NOT NULL, about VARCHAR(255) NOT NULL, head BINARY(16) NULL, made DATETIME(6) NOT NULL, UNIQUE KEY (account, sort, about), KEY (head), KEY (sort))`,
	`CREATE TABLE notices (id BINARY(16) PRIMARY KEY, account BINARY(16) NOT NULL, deed BINARY(16) NOT NULL, n BIGINT NOT NULL, at DATETIME(6) NOT NULL, title TEXT NOT NULL, body MEDIUMTEXT NOT NULL, seen DATETIME(6) NULL, digest BOOLEAN NOT NULL,
		UNIQUE KEY (account, deed), KEY (account, n), KEY (account, seen), KEY (account, digest))`,
	`CREATE TABLE told (account BINARY(16) PRIMARY KEY, mail VARCHAR(255) NOT NULL, rhythm VARCHAR(8) NOT NULL, due DATETIME(6) NULL, hook TEXT NOT NULL, keyed INT NOT NULL, version INT NOT NULL, KEY (rhythm, due))`,
	`CREATE TABLE sendings (id BINARY(16) PRIMARY KEY, account BINARY(16) NOT NULL, way VARCHAR(4) NOT NULL, address TEXT NOT NULL, payload MEDIUMTEXT NOT NULL, state VARCHAR(8) NOT NULL, tries INT NOT NULL, due DATETIME(6) NOT NULL,
		problem TEXT NOT NULL, made DATETIME(6) NOT NULL, KEY (state, due), KEY (account, state))`,
	`CREATE TABLE followers (name VARCHAR(24) PRIMARY KEY, position BIGINT NOT NULL)`,
	`ALTER TABLE trail ADD KEY IF NOT EXISTS at (at), ADD KEY IF NOT EXISTS account (account, at)`,
	`CREATE TABLE comments (id BINARY(16) PRIMARY KEY, head BINARY(16) NOT NULL, about VARCHAR(120) NOT NULL, answers BINARY(16) NULL, account BINARY(16) NOT NULL, text TEXT NOT NULL, at DATETIME(6) NOT NULL, settled DATETIME(6) NULL, settler BINARY(16) NULL, KEY (head, at), KEY (settled, answers))`,
	`CREATE TABLE holds (head BINARY(16) PRIMARY KEY, account BINARY(16) NOT NULL, why TEXT NOT NULL, at DATETIME(6) NOT NULL, until DATETIME(6) NOT NULL, KEY (until))`,
	`CREATE TABLE leases (name VARCHAR(48) PRIMARY KEY, holder BINARY(16) NOT NULL, until DATETIME(6) NOT NULL)`,
	`ALTER TABLE heads ADD COLUMN IF NOT EXISTS written_by BINARY(16) NULL, ADD COLUMN IF NOT EXISTS writers TINYINT NOT NULL DEFAULT 0`,
	`ALTER TABLE staged_heads ADD COLUMN IF NOT EXISTS written_by BINARY(16) NULL, ADD COLUMN IF NOT EXISTS writers TINYINT NOT NULL DEFAULT 0`,
	`UPDATE heads h JOIN contents c ON c.id = COALESCE(h.draft, h.released) JOIN trail w ON w.head = h.id AND w.deed = c.deed SET h.written_by = w.account, h.writers = IF(h.draft IS NULL, 0, 2)`,
	// What somebody began, and what waits for a second person, are told from these keys alone.
	`ALTER TABLE heads ADD KEY IF NOT EXISTS written (written_by, draft_state, draft), ADD KEY IF NOT EXISTS waiting (draft_state, kind, moved, standing, drawer, number, written_by, writers)`,
	`ALTER TABLE heads DROP KEY IF EXISTS draft_state, DROP KEY IF EXISTS draft`,
	`CREATE TABLE decisions (id BINARY(32) PRIMARY KEY, scope VARCHAR(120) NOT NULL, intake BINARY(16) NOT NULL, source VARCHAR(255) NOT NULL, claims BOOLEAN NOT NULL, body MEDIUMTEXT NOT NULL, account BINARY(16) NOT NULL, at DATETIME(6) NOT NULL,
		withdrawn_by BINARY(16) NULL, withdrawn DATETIME(6) NULL, KEY (scope, withdrawn, at), KEY (claims, intake, at, withdrawn), KEY (source), KEY (intake, at), KEY (at))`,
	`CREATE TABLE file_texts (hash BINARY(32) PRIMARY KEY, body LONGTEXT NOT NULL, problem TEXT NOT NULL, at DATETIME(6) NOT NULL)`,
	`CREATE TABLE series_members (k BINARY(32) PRIMARY KEY, series BINARY(16) NOT NULL, name VARCHAR(200) NOT NULL, KEY (series))`,
	`CREATE TABLE answers (connection BINARY(16) NOT NULL, question BINARY(32) NOT NULL, id BINARY(16) NOT NULL, version INT NOT NULL, at DATETIME(6) NOT NULL, pages INT NOT NULL, problem TEXT NOT NULL,
		PRIMARY KEY (connection, question), KEY (connection, at), KEY (at))`,
	`CREATE TABLE answer_pages (answer BINARY(16) NOT NULL, n INT NOT NULL, bytes LONGBLOB NOT NULL, PRIMARY KEY (answer, n))`,
	`CREATE TABLE connection_budgets (connection VARCHAR(120) COLLATE utf8mb4_bin PRIMARY KEY, day DATE NOT NULL, used INT NOT NULL, next_at DATETIME(6) NOT NULL)`,
	`CREATE TABLE price_lists (connection BINARY(16) PRIMARY KEY, file BINARY(32) NOT NULL, name VARCHAR(255) NOT NULL, tag VARCHAR(255) NOT NULL, at DATETIME(6) NOT NULL, checked DATETIME(6) NOT NULL)`,
	`CREATE TABLE offers (id BINARY(32) PRIMARY KEY, connection BINARY(16) NOT NULL, number VARCHAR(200) COLLATE utf8mb4_bin NOT NULL, packing VARCHAR(200) COLLATE utf8mb4_bin NOT NULL, k BINARY(32) NOT NULL,
		body TEXT NOT NULL, seen DATETIME(6) NOT NULL, since DATETIME(6) NOT NULL, gone BOOLEAN NOT NULL, KEY (k), KEY (connection, seen))`,
	`CREATE TABLE offer_history (offer BINARY(32) NOT NULL, at DATETIME(6) NOT NULL, body TEXT NOT NULL, PRIMARY KEY (offer, at))`,
	`CREATE TABLE offer_news (id BINARY(16) PRIMARY KEY, offer BINARY(32) NOT NULL, k BINARY(32) NOT NULL, what VARCHAR(16) NOT NULL, says TEXT NOT NULL, at DATETIME(6) NOT NULL, settled DATETIME(6) NULL, account BINARY(16) NULL,
		KEY (k, settled), KEY (settled, at))`,
	`CREATE TABLE offer_asked (connection BINARY(16) NOT NULL, k BINARY(32) NOT NULL, at DATETIME(6) NOT NULL, job BINARY(16) NOT NULL, done BOOLEAN NOT NULL, PRIMARY KEY (connection, k))`,
	`ALTER TABLE offers ADD KEY IF NOT EXISTS (since)`,
	`ALTER TABLE offer_news ADD COLUMN IF NOT EXISTS told BOOLEAN NOT NULL DEFAULT FALSE, ADD KEY IF NOT EXISTS (told, at)`,
	`CREATE TABLE connection_places (connection BINARY(16) NOT NULL, version INT NOT NULL, place VARCHAR(255) COLLATE utf8mb4_bin NOT NULL, seen DATETIME(6) NOT NULL, missed DATETIME(6) NULL, PRIMARY KEY (connection, version, place), KEY (missed))`,
	`CREATE TABLE ask_limits (account BINARY(16) NOT NULL, drawer VARCHAR(48) NOT NULL, pieces BIGINT NOT NULL, stock BIGINT NOT NULL, in_production BOOLEAN NOT NULL, packing VARCHAR(100) NOT NULL, updated DATETIME(6) NOT NULL, PRIMARY KEY (account, drawer))`,
	`CREATE TABLE record_files (intake BINARY(16) PRIMARY KEY, mark VARCHAR(200) NOT NULL, rules VARCHAR(255) NOT NULL)`,
	`CREATE TABLE record_numbers (number VARCHAR(80) COLLATE utf8mb4_bin NOT NULL, intake BINARY(16) NOT NULL, line INT NOT NULL, PRIMARY KEY (number, intake, line), KEY (intake))`,
	`ALTER TABLE price_lists ADD COLUMN IF NOT EXISTS whole DATETIME(6) NULL`,
	`CREATE TABLE bom_builds (id BINARY(16) PRIMARY KEY, bom BINARY(16) NOT NULL, revision INT NOT NULL, variant VARCHAR(120) NOT NULL, boards INT NOT NULL, which TEXT NOT NULL, account BINARY(16) NOT NULL, at DATETIME(6) NOT NULL, KEY (bom, revision, at))`,
	// One build proves one content once, whoever confirms it and how often.
	`ALTER TABLE proofs ADD COLUMN IF NOT EXISTS build BINARY(16) NULL, ADD UNIQUE KEY IF NOT EXISTS of_build (build, head, content)`,
	// A BOM that was frozen before its authors were counted from there: the trail is asked.
	`UPDATE heads SET writers = 2 WHERE kind = 'bom' AND revision > 0`,
	// What waits is read in the order in which it waits, ties by their identifier, without a look at more than is shown.
	`ALTER TABLE heads ADD KEY IF NOT EXISTS waits (draft_state, kind, moved, id, standing, drawer, number, written_by, writers)`,
	`ALTER TABLE heads DROP KEY IF EXISTS waiting`,
	// What a bulk deed writes of a thing it knows is one row until it is shown.
	`ALTER TABLE staged_heads ADD COLUMN IF NOT EXISTS hash_before BINARY(32) NULL, ADD COLUMN IF NOT EXISTS action VARCHAR(48) NOT NULL DEFAULT '', ADD COLUMN IF NOT EXISTS detail TEXT NOT NULL DEFAULT '',
		ADD COLUMN IF NOT EXISTS released_hash BINARY(32) NULL, ADD COLUMN IF NOT EXISTS released_before BINARY(32) NULL, ADD COLUMN IF NOT EXISTS note TEXT NOT NULL DEFAULT ''`,
	`DROP TABLE IF EXISTS staged_trail, staged_revisions`,
	`ALTER TABLE readout_tables ADD COLUMN IF NOT EXISTS followed MEDIUMTEXT NOT NULL DEFAULT ''`,
}

// rights of the service's account, by table: content, revisions and the trail are written once.
var rights = map[string]string{
	"deeds": "SELECT, INSERT", "contents": "SELECT, INSERT", "revisions": "SELECT, INSERT", "trail": "SELECT, INSERT", "seals": "SELECT, INSERT",
	"files": "SELECT, INSERT", "chunks": "SELECT, INSERT", "feed": "SELECT, INSERT", "goose_db_version": "SELECT",
}

// readWrite are the tables whose rows the service changes and removes.
var readWrite = []string{"accounts", "sessions", "tokens", "heads", "outbox", "counters", "source_keys", "uses", "jobs", "stagings", "staged_heads", "staged_keys", "numbers", "projections", "cabinet_guards", "successors", "views", "fetched", "staged_uses", "model_waivers",
	"revision_states", "gate_waivers", "review_signs", "review_ticks", "review_turns", "proofs", "people_groups", "group_members", "group_duties", "wants", "readout_tables", "readout_states", "leases", "watches", "notices", "told", "sendings", "followers", "comments", "holds", "decisions", "file_texts", "series_members", "answers", "answer_pages", "connection_budgets", "price_lists", "offers", "offer_history", "offer_news", "offer_asked", "connection_places", "ask_limits", "record_files", "record_numbers", "bom_builds"}

// Grants lists the statements that give the service's account just the rights it needs on a schema.
func Grants(schema, account string) []string {
	var out []string
	for _, t := range readWrite {
		out = append(out, fmt.Sprintf("GRANT SELECT, INSERT, UPDATE, DELETE ON `%s`.`%s` TO %s", schema, t, account))
	}
	for _, t := range []string{"deeds", "contents", "revisions", "trail", "seals", "files", "chunks", "feed", "goose_db_version"} {
		out = append(out, fmt.Sprintf("GRANT %s ON `%s`.`%s` TO %s", rights[t], schema, t, account))
	}
	return out
}

// ErrNewer is returned where the schema was made by a newer version of the program.
var ErrNewer = errors.New("the database belongs to a newer version of Jolly Drawer: start that version, or restore a backup made with this one")

// Migrate brings the schema up to date through the owner's account and grants the service's account its rights, where
// the two differ. Several instances may do so at once: a lease row lets one of them work while the others wait.
func Migrate(ctx context.Context, ownerDSN, serviceDSN string) error {
	db, err := openSQL(ownerDSN)
	if err != nil {
		return err
	}
	defer db.Close()
	db.SetMaxOpenConns(4)
	release, err := migrationLease(ctx, db)
	if err != nil {
		return err
	}
	defer release()
	var steps []*goose.Migration
	for i, ddl := range migrations {
		steps = append(steps, goose.NewGoMigration(int64(i+1), &goose.GoFunc{RunDB: func(ctx context.Context, db *sql.DB) error {
			_, err := db.ExecContext(ctx, ddl)
			var name string
			// A server killed between the DDL and the version row has made the table already.
			if code(err) == 1050 {
				name = strings.Fields(ddl)[2]
				return db.QueryRowContext(ctx, "SELECT table_name FROM information_schema.tables WHERE table_schema = DATABASE() AND table_name = ?", name).Scan(&name)
			}
			return err
		}}, nil))
	}
	p, err := goose.NewProvider(database.DialectMySQL, db, nil, goose.WithGoMigrations(steps...), goose.WithDisableGlobalRegistry(true), goose.WithLogger(log.New(io.Discard, "", 0)))
	if err != nil {
		return fmt.Errorf("preparing the migrations: %w", err)
	}
	at, err := p.GetDBVersion(ctx)
	if err != nil {
		return fmt.Errorf("reading the schema's version: %w", err)
	}
	if at > int64(len(migrations)) {
		return ErrNewer
	}
	if _, err := p.Up(ctx); err != nil {
		return fmt.Errorf("bringing the schema up to date: %w", err)
	}
	if serviceDSN == ownerDSN {
		return sweepStagings(ctx, db)
	}
	account, err := accountOf(ctx, serviceDSN)
	if err != nil {
		return err
	}
	var schema string
	if err := db.QueryRowContext(ctx, "SELECT DATABASE()").Scan(&schema); err != nil {
		return err
	}
	for _, q := range Grants(schema, account) {
		if _, err := db.ExecContext(ctx, q); err != nil {
			return fmt.Errorf("granting rights to the service's account %s (the owner's account needs GRANT OPTION): %w", account, err)
		}
	}
	return sweepStagings(ctx, db)
}

// accountOf asks the server under which account a DSN signs in, in the form that GRANT wants. The account may have
// no right on the schema yet, so the schema is not named.
func accountOf(ctx context.Context, dsn string) (string, error) {
	c, err := mysql.ParseDSN(dsn)
	if err != nil {
		return "", fmt.Errorf("the database DSN cannot be read: %w", err)
	}
	c.DBName = ""
	db, err := openSQL(c.FormatDSN())
	if err != nil {
		return "", err
	}
	defer db.Close()
	var who string
	if err := db.QueryRowContext(ctx, "SELECT CURRENT_USER()").Scan(&who); err != nil {
		return "", fmt.Errorf("signing in to the database: %w", err)
	}
	name, host, _ := strings.Cut(who, "@")
	quote := func(s string) string { return "'" + strings.ReplaceAll(s, "'", "''") + "'" }
	return quote(name) + "@" + quote(host), nil
}

// migrationLease takes the one row that allows migrating; a holder that died lets go of it after its time.
func migrationLease(ctx context.Context, db *sql.DB) (func(), error) {
	for _, q := range []string{
		"CREATE TABLE IF NOT EXISTS migration_lease (id TINYINT PRIMARY KEY, holder BINARY(16) NOT NULL, until DATETIME(6) NOT NULL)",
		"INSERT IGNORE INTO migration_lease VALUES (1, REPEAT('\\0', 16), '2000-01-01')",
	} {
		if _, err := db.ExecContext(ctx, q); err != nil {
			return nil, fmt.Errorf("taking the migration lease: %w", err)
		}
	}
	me := NewID()
	for end := time.Now().Add(2 * time.Minute); time.Now().Before(end); {
		r, err := db.ExecContext(ctx, "UPDATE migration_lease SET holder = ?, until = NOW(6) + INTERVAL 60 SECOND WHERE id = 1 AND until < NOW(6)", me[:])
		if err != nil && !Transient(err) {
			return nil, fmt.Errorf("taking the migration lease: %w", err)
		}
		if err == nil {
			if n, _ := r.RowsAffected(); n == 1 {
				return func() {
					_, _ = db.ExecContext(context.WithoutCancel(ctx), "UPDATE migration_lease SET until = '2000-01-01' WHERE id = 1 AND holder = ?", me[:])
				}, nil
			}
		}
		select {
		case <-ctx.Done():
			return nil, ctx.Err()
		case <-time.After(200 * time.Millisecond):
		}
	}
	return nil, errors.New("another instance has been bringing the schema up to date for two minutes: look at its log, then start again")
}

// sweepStagings removes what abandoned bulk deeds left: rows that nothing points at. It needs the owner's account,
// because the service may not delete content.
func sweepStagings(ctx context.Context, db *sql.DB) error {
	const old = "SELECT s.id FROM stagings s LEFT JOIN jobs j ON j.deed = s.deed AND j.state IN ('waiting','running') WHERE j.id IS NULL AND s.at < NOW(6) - INTERVAL 10 MINUTE"
	const undone = " JOIN stagings g ON g.id = s.staging WHERE (g.never OR NOT EXISTS (SELECT 1 FROM deeds d WHERE d.id = g.deed))"
	sweeps := []string{
		"DELETE c FROM contents c JOIN staged_heads s ON c.id = s.draft JOIN (" + old + ") o ON o.id = s.staging" + undone + " AND c.deed = g.deed",
		"DELETE c FROM contents c JOIN staged_heads s ON c.id = s.released JOIN (" + old + ") o ON o.id = s.staging" + undone + " AND c.deed = g.deed",
		"DELETE t FROM trail t JOIN staged_heads s ON s.head = t.head AND s.version = 0 JOIN (" + old + ") o ON o.id = s.staging" + undone,
	}
	for _, table := range stagedTables {
		sweeps = append(sweeps, "DELETE s FROM "+table+" s JOIN ("+old+") o ON o.id = s.staging")
	}
	for _, q := range append(sweeps, "DELETE s FROM stagings s JOIN ("+old+") o ON o.id = s.id") {
		if _, err := db.ExecContext(ctx, q); err != nil {
			return fmt.Errorf("sweeping abandoned stagings: %w", err)
		}
	}
	return nil
}
