// Package dbserver runs a private MariaDB on loopback: it finds the program, makes a data folder, starts the server,
// waits until it answers, stops it cleanly, and takes over one that a crash left behind. What is stored inside it is
// not its business.
package dbserver

import (
	"bytes"
	"context"
	"crypto/rand"
	"crypto/sha256"
	"database/sql"
	"encoding/hex"
	"encoding/json"
	"errors"
	"fmt"
	"io/fs"
	"net"
	"os"
	"os/exec"
	"os/user"
	"path/filepath"
	"strconv"
	"strings"
	"syscall"
	"time"

	"github.com/go-sql-driver/mysql"
)

// Options says where and how to run the server.
type Options struct {
	Dir   string   // data folder of the project's own; made when it is not there
	Port  int      // 0 picks a free one
	Extra []string // further arguments of mariadbd
	User  string   // operating-system user to run as; blank: the present one
}

// Server is a running MariaDB.
type Server struct {
	Port     int
	Socket   string
	PID      int
	Adopted  bool // it was left behind by a crash
	dir      string
	lock     *os.File
	cmd      *exec.Cmd
	exited   chan struct{}
	accounts accounts
}

type accounts struct{ Owner, Service, Keeper, Reader string } // passwords

// Database is the name of the schema that Start makes.
const Database = "jolly"

// ErrMissing is returned where no MariaDB server is installed.
var ErrMissing = errors.New("no MariaDB server was found: install Debian's package mariadb-server (scripts/need.sh mariadb does it), or name a server of your own with --database-dsn")

// Find returns the path of mariadbd.
func Find() (string, error) {
	for _, p := range []string{"mariadbd", "/usr/sbin/mariadbd", "/usr/libexec/mariadbd", "/usr/local/sbin/mariadbd"} {
		if path, err := exec.LookPath(p); err == nil {
			return path, nil
		}
	}
	return "", ErrMissing
}

// Start starts the server, or takes over the one that already runs on the folder. Only one process may hold a folder
// at a time. Errors are sentences that say what to do.
func Start(ctx context.Context, o Options) (*Server, error) {
	bin, err := Find()
	if err != nil {
		return nil, err
	}
	s := &Server{exited: make(chan struct{})}
	if s.dir, err = filepath.Abs(o.Dir); err != nil {
		return nil, err
	}
	if err := os.MkdirAll(s.dir, 0o755); err != nil {
		return nil, fmt.Errorf("the folder %s cannot be made (%w): choose another with --data", s.dir, errors.Unwrap(err))
	}
	if err := s.takeLock(); err != nil {
		return nil, err
	}
	ok := false
	defer func() {
		if !ok {
			s.lock.Close()
		}
	}()
	s.Socket = socketPath(s.dir)
	if err := s.secrets(); err != nil {
		return nil, err
	}
	if s.adopt(ctx) {
		ok = true
		return s, nil
	}
	if err := s.install(ctx, o); err != nil {
		return nil, err
	}
	if err := s.launch(ctx, bin, o); err != nil {
		return nil, err
	}
	if err := s.prepare(ctx); err != nil {
		s.Stop()
		return nil, err
	}
	ok = true
	return s, nil
}

func (s *Server) takeLock() error {
	f, err := os.OpenFile(filepath.Join(s.dir, "lock"), os.O_CREATE|os.O_RDWR, 0o600)
	if err != nil {
		return fmt.Errorf("the folder %s is not writable (%w): choose another with --data, or mend its rights", s.dir, errors.Unwrap(err))
	}
	if err := syscall.Flock(int(f.Fd()), syscall.LOCK_EX|syscall.LOCK_NB); err != nil {
		pid, _ := os.ReadFile(f.Name())
		f.Close()
		return fmt.Errorf("the folder %s is in use by another running service (process %s): stop it, or choose another folder with --data", s.dir, strings.TrimSpace(string(pid)))
	}
	_ = f.Truncate(0)
	_, err = f.WriteAt([]byte(strconv.Itoa(os.Getpid())+"\n"), 0)
	s.lock = f
	return err
}

// socketPath keeps within the 107 bytes that a Unix socket's path may have.
func socketPath(dir string) string {
	if p := filepath.Join(dir, "db.sock"); len(p) < 100 {
		return p
	}
	return elsewhere(dir) + ".sock"
}

// scratchPath is where the server keeps its temporary tables. It must be its own: a server that starts removes all temporary
// tables that it finds there, another running server's too. MariaDB takes a colon for the end of a path.
func scratchPath(dir string) string {
	if p := filepath.Join(dir, "scratch"); !strings.Contains(p, ":") {
		return p
	}
	return elsewhere(dir) + ".scratch"
}

// elsewhere is a name in the system's temporary folder that belongs to the folder.
func elsewhere(dir string) string {
	sum := sha256.Sum256([]byte(dir))
	return filepath.Join(os.TempDir(), "jolly-"+hex.EncodeToString(sum[:6]))
}

func (s *Server) secrets() error {
	path := filepath.Join(s.dir, "accounts.json")
	raw, err := os.ReadFile(path)
	if err == nil {
		err = json.Unmarshal(raw, &s.accounts)
	}
	if err != nil && !errors.Is(err, fs.ErrNotExist) {
		return fmt.Errorf("reading the database passwords: %w", err)
	}
	fresh := false
	for _, password := range []*string{&s.accounts.Owner, &s.accounts.Service, &s.accounts.Keeper, &s.accounts.Reader} { // earlier versions knew two
		if *password == "" {
			*password, fresh = rand.Text(), true
		}
	}
	if !fresh {
		return nil
	}
	raw, err = json.Marshal(s.accounts)
	if err != nil {
		return err
	}
	return os.WriteFile(path, raw, 0o600)
}

// adopt takes over a server that still answers on the folder's socket.
func (s *Server) adopt(ctx context.Context) bool {
	db, err := s.Root()
	if err != nil {
		return false
	}
	defer db.Close()
	ctx, cancel := context.WithTimeout(ctx, 2*time.Second)
	defer cancel()
	if err := db.QueryRowContext(ctx, "SELECT @@port").Scan(&s.Port); err != nil {
		return false
	}
	raw, _ := os.ReadFile(filepath.Join(s.dir, "db.pid"))
	s.PID, _ = strconv.Atoi(strings.TrimSpace(string(raw)))
	s.Adopted = true
	if s.PID <= 0 || s.prepare(ctx) != nil {
		return false
	}
	go func() { // it is no child of ours, so that nobody tells us when it ends
		for syscall.Kill(s.PID, 0) == nil {
			time.Sleep(200 * time.Millisecond)
		}
		close(s.exited)
	}()
	return true
}

func (s *Server) install(ctx context.Context, o Options) error {
	data := filepath.Join(s.dir, "data")
	if _, err := os.Stat(filepath.Join(s.dir, "installed")); err == nil {
		return nil
	}
	if err := os.RemoveAll(data); err != nil { // left over from an installation that did not end
		return fmt.Errorf("the folder %s cannot be cleared: %w", data, err)
	}
	tool, err := exec.LookPath("mariadb-install-db")
	if err != nil {
		return ErrMissing
	}
	me, err := user.Current()
	if err != nil {
		return err
	}
	// The script that ships with MariaDB does not bear a blank in the path: it is given a way without one.
	way, err := os.MkdirTemp("", "jolly-install-")
	if err != nil {
		return err
	}
	defer os.RemoveAll(way)
	scratch := filepath.Join(way, "scratch")
	if err := makeScratch(scratch, o); err != nil {
		return err
	}
	link := filepath.Join(way, "d")
	if err := os.Symlink(s.dir, link); err != nil {
		return err
	}
	if err := os.Chmod(way, 0o755); err != nil {
		return err
	}
	args := []string{"--no-defaults", "--datadir=" + filepath.Join(link, "data"), "--tmpdir=" + scratch, "--auth-root-authentication-method=socket", "--auth-root-socket-user=" + me.Username, "--skip-test-db", "--skip-name-resolve"}
	if me.Uid == "0" {
		args = append(args, "--user="+runAs(o, me))
	}
	out, err := exec.CommandContext(ctx, tool, args...).CombinedOutput()
	if err != nil {
		return fmt.Errorf("the database folder %s could not be set up: %s", data, errorLines(out))
	}
	return os.WriteFile(filepath.Join(s.dir, "installed"), nil, 0o644)
}

func runAs(o Options, me *user.User) string {
	if o.User != "" {
		return o.User
	}
	return me.Username
}

// patience is how long a server may take to answer: a node that fetches all data from another on a busy machine takes minutes.
const patience = 5 * time.Minute

// makeScratch makes a folder for temporary tables that the server's user may write.
func makeScratch(path string, o Options) error {
	if err := os.MkdirAll(path, 0o700); err != nil {
		return fmt.Errorf("the folder %s cannot be made (%w): choose another with --data", path, errors.Unwrap(err))
	}
	if o.User == "" {
		return nil
	}
	u, err := user.Lookup(o.User)
	if err != nil {
		return fmt.Errorf("MariaDB cannot be run as %s: %w", o.User, err)
	}
	uid, _ := strconv.Atoi(u.Uid)
	gid, _ := strconv.Atoi(u.Gid)
	return os.Chown(path, uid, gid)
}

func (s *Server) launch(ctx context.Context, bin string, o Options) error {
	if err := s.choosePort(o.Port); err != nil {
		return err
	}
	if err := s.writable(); err != nil {
		return err
	}
	scratch := scratchPath(s.dir)
	if err := makeScratch(scratch, o); err != nil {
		return err
	}
	log := filepath.Join(s.dir, "db.log")
	args := []string{"--no-defaults", "--datadir=" + filepath.Join(s.dir, "data"), "--socket=" + s.Socket, "--port=" + strconv.Itoa(s.Port),
		"--bind-address=127.0.0.1", "--pid-file=" + filepath.Join(s.dir, "db.pid"), "--log-error=" + log, "--tmpdir=" + scratch, "--skip-name-resolve",
		"--character-set-server=utf8mb4", "--collation-server=utf8mb4_nopad_bin", "--innodb-flush-log-at-trx-commit=1",
		"--innodb-buffer-pool-size=512M", "--innodb-log-file-size=256M", "--max-allowed-packet=64M", "--max-connections=300",
		"--sql-mode=STRICT_ALL_TABLES,NO_ZERO_DATE,NO_ZERO_IN_DATE,ERROR_FOR_DIVISION_BY_ZERO,NO_ENGINE_SUBSTITUTION", "--default-time-zone=+00:00"}
	if me, err := user.Current(); err == nil && me.Uid == "0" {
		args = append(args, "--user="+runAs(o, me))
	}
	s.cmd = exec.Command(bin, append(args, o.Extra...)...)
	s.cmd.SysProcAttr = &syscall.SysProcAttr{Setpgid: true} // an interrupt from the terminal is ours to pass on
	if err := s.cmd.Start(); err != nil {
		return fmt.Errorf("MariaDB could not be started: %w", err)
	}
	s.PID = s.cmd.Process.Pid
	go func() {
		_ = s.cmd.Wait()
		close(s.exited)
	}()
	deadline := time.Now().Add(patience)
	for {
		if db, err := s.Root(); err == nil {
			// A member of a cluster answers before it takes statements on tables.
			var n int
			err = db.QueryRowContext(ctx, "SELECT COUNT(*) FROM mysql.db").Scan(&n)
			db.Close()
			if err == nil {
				return nil
			}
		}
		select {
		case <-s.exited:
			raw, _ := os.ReadFile(log)
			return fmt.Errorf("MariaDB stopped while it was starting; the end of %s says: %s", log, lastLines(raw))
		case <-ctx.Done():
			s.Stop()
			return ctx.Err()
		case <-time.After(100 * time.Millisecond):
		}
		if time.Now().After(deadline) {
			s.Stop()
			return fmt.Errorf("MariaDB did not answer within %.0f minutes: look into %s", patience.Minutes(), log)
		}
	}
}

func (s *Server) writable() error {
	f, err := os.CreateTemp(filepath.Join(s.dir, "data"), ".probe")
	if err != nil {
		return fmt.Errorf("the folder %s is not writable: choose another with --data, or mend its rights", s.dir)
	}
	f.Close()
	return os.Remove(f.Name())
}

func (s *Server) choosePort(port int) error {
	l, err := net.Listen("tcp", net.JoinHostPort("127.0.0.1", strconv.Itoa(port)))
	if err != nil {
		return fmt.Errorf("port %d on 127.0.0.1 is taken by another program: choose another with --database-port, or 0 for any free one", port)
	}
	s.Port = l.Addr().(*net.TCPAddr).Port
	return l.Close()
}

// Root connects as the account that may do everything, through the socket.
func (s *Server) Root() (*sql.DB, error) {
	me, err := user.Current()
	if err != nil {
		return nil, err
	}
	c := mysql.NewConfig()
	c.Net, c.Addr, c.User = "unix", s.Socket, me.Username
	c.Logger = &mysql.NopLogger{}
	k, err := mysql.NewConnector(c)
	if err != nil {
		return nil, err
	}
	return sql.OpenDB(k), nil
}

// prepare makes the schema and the two accounts; done again it changes nothing.
func (s *Server) prepare(ctx context.Context) error {
	db, err := s.Root()
	if err != nil {
		return err
	}
	defer db.Close()
	return s.makeSchema(ctx, db, Database, s.readout(Database))
}

func (s *Server) makeSchema(ctx context.Context, db *sql.DB, name string, more []string) error {
	statements := []string{
		"CREATE DATABASE IF NOT EXISTS `" + name + "` CHARACTER SET utf8mb4 COLLATE utf8mb4_nopad_bin",
		"CREATE USER IF NOT EXISTS jolly_owner@'127.0.0.1' IDENTIFIED BY '" + s.accounts.Owner + "'",
		"CREATE USER IF NOT EXISTS jolly_service@'127.0.0.1' IDENTIFIED BY '" + s.accounts.Service + "'",
		"CREATE USER IF NOT EXISTS jolly_keeper@'127.0.0.1' IDENTIFIED BY '" + s.accounts.Keeper + "'",
		"CREATE USER IF NOT EXISTS " + ReaderAccount + "@'127.0.0.1' IDENTIFIED BY '" + s.accounts.Reader + "'",
		"GRANT ALL ON `" + name + "`.* TO jolly_owner@'127.0.0.1' WITH GRANT OPTION",
	}
	for _, q := range append(statements, more...) {
		if _, err := db.ExecContext(ctx, q); err != nil {
			return fmt.Errorf("preparing the database: %w", err)
		}
	}
	return nil
}

// Schema makes a further schema on the server, such as a test's own, and returns its two DSNs.
func (s *Server) Schema(ctx context.Context, name string) (owner, service string, err error) {
	db, err := s.Root()
	if err != nil {
		return "", "", err
	}
	defer db.Close()
	if err := s.makeSchema(ctx, db, name, s.readout(name)); err != nil {
		return "", "", err
	}
	return s.dsn("jolly_owner", s.accounts.Owner, name), s.dsn("jolly_service", s.accounts.Service, name), nil
}

// DSNs returns the data source names of the owner (migrations only) and of the service.
func (s *Server) DSNs() (owner, service string) {
	return s.dsn("jolly_owner", s.accounts.Owner, Database), s.dsn("jolly_service", s.accounts.Service, Database)
}

func (s *Server) dsn(name, password, schema string) string {
	c := mysql.NewConfig()
	c.User, c.Passwd, c.Net, c.DBName = name, password, "tcp", schema
	c.Addr = net.JoinHostPort("127.0.0.1", strconv.Itoa(s.Port))
	return c.FormatDSN()
}

// Join connects to the server that another process runs on a folder, without holding the folder. It is for tests.
func Join(ctx context.Context, dir string) (*Server, error) {
	s := &Server{exited: make(chan struct{}), dir: dir, Socket: socketPath(dir)}
	if err := s.secrets(); err != nil {
		return nil, err
	}
	if !s.adopt(ctx) {
		return nil, fmt.Errorf("no server answers on %s", s.Socket)
	}
	return s, nil
}

// Exited is closed when the server has ended, whoever started it.
func (s *Server) Exited() <-chan struct{} { return s.exited }

// Stop ends the server cleanly and lets go of the folder.
func (s *Server) Stop() {
	if s.PID > 0 {
		_ = syscall.Kill(s.PID, syscall.SIGTERM)
		s.waitGone(30 * time.Second)
	}
	s.letGo()
}

func (s *Server) letGo() {
	if s.lock != nil { // one that was joined holds nothing
		s.lock.Close()
	}
}

// Kill ends the server at once, as a crash would, and lets go of the folder. It is for tests.
func (s *Server) Kill() {
	_ = syscall.Kill(s.PID, syscall.SIGKILL)
	s.waitGone(10 * time.Second)
	s.lock.Close()
}

// Abandon lets go of the folder and leaves the server running, as a killed service does. It is for tests.
func (s *Server) Abandon() { s.lock.Close() }

func (s *Server) waitGone(most time.Duration) {
	select {
	case <-s.exited:
	case <-time.After(most):
	}
}

// errorLines are the lines that name an error, or the last ones where none does.
func errorLines(raw []byte) string {
	var found []string
	for line := range strings.Lines(string(bytes.ToValidUTF8(raw, nil))) {
		if strings.Contains(strings.ToUpper(line), "ERROR") {
			found = append(found, strings.TrimSpace(line))
		}
	}
	if len(found) == 0 {
		return lastLines(raw)
	}
	return strings.Join(found[:min(len(found), 5)], " / ")
}

func lastLines(raw []byte) string {
	lines := strings.Split(strings.TrimSpace(string(bytes.ToValidUTF8(raw, nil))), "\n")
	return strings.Join(lines[max(0, len(lines)-3):], " / ")
}
