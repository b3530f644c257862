package intakes

import (
	"context"
	"database/sql"
	"encoding/csv"
	"errors"
	"fmt"
	"io"
	"net"
	"regexp"
	"strings"
	"time"

	"github.com/go-sql-driver/mysql"

	"jollydrawer/internal/blobs"
	"jollydrawer/internal/reach"
	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/service/files"
	"jollydrawer/internal/wire"
)

// readDatabase reads a table or a query of another MariaDB, read only, and keeps what it says as a CSV file: the intake
// then has an original like any other. The password is used here and kept nowhere.
func (s *Intakes) readDatabase(ctx context.Context, c deed.Call, in wire.Database) (wire.File, error) {
	conf, err := s.foreign(in.DSN)
	if err != nil {
		return wire.File{}, err
	}
	query, name, err := foreignQuery(in)
	if err != nil {
		return wire.File{}, err
	}
	connector, err := mysql.NewConnector(conf)
	if err != nil {
		return wire.File{}, deed.Fault(deed.Invalid, "dsn-wrong", "The address of the database cannot be used.", "Write it as ACCOUNT:PASSWORD@tcp(HOST:PORT)/SCHEMA.")
	}
	db := sql.OpenDB(connector)
	defer db.Close()
	db.SetMaxOpenConns(1)
	ctx, cancel := context.WithTimeout(ctx, 10*time.Minute)
	defer cancel()
	tx, err := db.BeginTx(ctx, &sql.TxOptions{ReadOnly: true})
	if err != nil {
		return wire.File{}, foreignFault(err, "cannot be reached")
	}
	defer func() { _ = tx.Rollback() }()
	rs, err := tx.QueryContext(ctx, query)
	if err != nil {
		return wire.File{}, foreignFault(err, "refuses the query")
	}
	defer rs.Close()
	r, w := io.Pipe()
	go func() { w.CloseWithError(writeRows(rs, w)) }()
	h, size, err := blobs.Put(ctx, s.Store, r, s.files.Limits.Bytes)
	_ = r.CloseWithError(errors.New("no longer wanted"))
	if errors.Is(err, blobs.ErrTooLarge) {
		return wire.File{}, deed.Fault(deed.TooLarge, "file-too-large", fmt.Sprintf("The query gives more than %d MB, which is the limit; nothing was kept.", s.files.Limits.Bytes>>20), "Ask for fewer columns or rows.")
	}
	if err != nil {
		return wire.File{}, foreignFault(err, "broke off while it was read; nothing was kept")
	}
	s.Log.Info("read a database", "account", c.Actor.Login, "name", name, "bytes", size)
	return wire.File{Hash: h.String(), Name: name, Size: size}, nil
}

// writeRows streams a result as CSV; NULL becomes a blank.
func writeRows(rs *sql.Rows, w io.Writer) error {
	cols, err := rs.Columns()
	if err != nil {
		return err
	}
	out := csv.NewWriter(w)
	if err := out.Write(cols); err != nil {
		return err
	}
	cells, at := make([]sql.NullString, len(cols)), make([]any, len(cols))
	for i := range cells {
		at[i] = &cells[i]
	}
	line := make([]string, len(cols))
	for rs.Next() {
		if err := rs.Scan(at...); err != nil {
			return err
		}
		for i, c := range cells {
			line[i] = c.String
		}
		if err := out.Write(line); err != nil {
			return err
		}
	}
	out.Flush()
	return errors.Join(rs.Err(), out.Error())
}

// foreign takes from a DSN what is needed and nothing else: its other settings could let the server ask for files.
func (s *Intakes) foreign(dsn string) (*mysql.Config, error) {
	given, err := mysql.ParseDSN(dsn)
	if err != nil || given.Net != "tcp" || given.Addr == "" {
		return nil, deed.Fault(deed.Invalid, "dsn-wrong", "The address of the database cannot be read.", "Write it as ACCOUNT:PASSWORD@tcp(HOST:PORT)/SCHEMA.")
	}
	conf := mysql.NewConfig()
	conf.User, conf.Passwd, conf.Net, conf.Addr, conf.DBName = given.User, given.Passwd, "tcp", given.Addr, given.DBName
	conf.TLSConfig = given.TLSConfig
	conf.Timeout, conf.ReadTimeout, conf.WriteTimeout = 10*time.Second, 2*time.Minute, 30*time.Second
	conf.Params = map[string]string{"max_statement_time": "600"}
	conf.DialFunc = func(ctx context.Context, network, addr string) (net.Conn, error) {
		return s.guard.DialContext(ctx, network, addr)
	}
	return conf, nil
}

var (
	tableForm  = regexp.MustCompile(`^[\p{L}\p{N}_$ -]+(\.[\p{L}\p{N}_$ -]+)?$`)
	writesFile = regexp.MustCompile(`(?is)\binto\s+(outfile|dumpfile|@)`)
	selectForm = regexp.MustCompile(`(?is)^\s*(select|with|table|values)\b`)
)

func foreignQuery(in wire.Database) (query, name string, err error) {
	switch {
	case (in.Table == "") == (in.Query == ""):
		return "", "", deed.Fault(deed.Invalid, "query-wrong", "A database is read by one table or one query.", "Give one of the two.")
	case in.Table != "" && !tableForm.MatchString(in.Table):
		return "", "", deed.Fault(deed.Invalid, "query-wrong", fmt.Sprintf("%q is no name of a table.", in.Table), "Write TABLE or SCHEMA.TABLE.")
	case in.Table != "":
		return "SELECT * FROM `" + strings.ReplaceAll(in.Table, ".", "`.`") + "`", files.CleanName(in.Table + ".csv"), nil
	case !selectForm.MatchString(in.Query) || writesFile.MatchString(in.Query):
		return "", "", deed.Fault(deed.Invalid, "query-wrong", "The query is no SELECT, or it writes.", "Only reading is possible: begin with SELECT.")
	}
	return in.Query, "query.csv", nil
}

// foreignFault says what went wrong without the address: it may hold a password.
func foreignFault(err error, what string) error {
	var m *mysql.MySQLError
	switch {
	case errors.Is(err, reach.ErrBarred):
		return deed.Fault(deed.Invalid, "address-barred", "The database is inside a private network; the service may not ask it.", "An administrator can allow it with the setting allow-inside.")
	case errors.As(err, &m):
		return deed.Fault(deed.Invalid, "database-refuses", fmt.Sprintf("The database %s: %s (%d).", what, m.Message, m.Number), "Check the account, the schema and the query.")
	}
	return deed.Fault(deed.Invalid, "database-away", "The database "+what+".", "Check that it runs and that the address is right.")
}
