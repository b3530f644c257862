package e2e

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"slices"
	"strings"
	"sync/atomic"
	"syscall"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"jollydrawer/client"
	"jollydrawer/internal/dbserver"
	"jollydrawer/internal/testdb"
	"jollydrawer/internal/wire"
)

// Everything runs against the real program, on a MariaDB that the tests start; each test has a schema of its own.
var (
	binary  string
	scratch string
	shared  *dbserver.Server
	schemas atomic.Int32
)

const adminPassword = "gauges-read-true"

func TestMain(m *testing.M) {
	code, err := setUp(m)
	if err != nil {
		fmt.Fprintln(os.Stderr, err)
		code = 1
	}
	os.Exit(code)
}

func setUp(m *testing.M) (int, error) {
	var err error
	if scratch, err = os.MkdirTemp("", "jd-"); err != nil {
		return 1, err
	}
	defer os.RemoveAll(scratch)
	if err := os.Chmod(scratch, 0o755); err != nil { // the cluster's servers run as another user
		return 1, err
	}
	binary = filepath.Join(scratch, "jolly")
	build := []string{"build", "-o", binary, "../cmd/jolly"}
	if covered() {
		build = slices.Insert(build, 1, "-cover", "-coverpkg=jollydrawer/...")
	}
	if out, err := exec.Command("go", build...).CombinedOutput(); err != nil {
		return 1, fmt.Errorf("building: %s", out)
	}
	data, leave, err := testdb.Own()
	if err != nil {
		return 1, err
	}
	defer leave()
	if shared, err = dbserver.Start(context.Background(), dbserver.Options{Dir: filepath.Join(data, "db"), Extra: []string{"--innodb-flush-log-at-trx-commit=2"}}); err != nil {
		return 1, err
	}
	defer shared.Stop()
	return m.Run(), nil
}

// freshSchema makes a schema for one test.
func freshSchema(t *testing.T, s *dbserver.Server) (owner, service string) {
	owner, service, err := s.Schema(t.Context(), fmt.Sprintf("t%d", schemas.Add(1)))
	require.NoError(t, err)
	return owner, service
}

// instance is a running service.
type instance struct {
	url string
	cmd *exec.Cmd
	log *bytes.Buffer
}

var listens = regexp.MustCompile(`listens on (http://\S+)`)

// serve starts a service on a schema and waits until it is ready.
func serve(t *testing.T, owner, dsn string, flags ...string) *instance {
	t.Helper()
	i := &instance{log: &bytes.Buffer{}}
	args := append([]string{"serve", "--listen", "127.0.0.1:0", "--database-dsn", dsn, "--database-owner-dsn", owner, "--data", t.TempDir(), "--lease", "1s", "--log-level", "warn", "--password-cost", "least"}, flags...)
	i.cmd = exec.Command(binary, args...)
	i.cmd.Env = append(os.Environ(), "JOLLY_FIRST_PASSWORD="+adminPassword)
	out := &watched{}
	i.cmd.Stdout, i.cmd.Stderr = out, i.log
	require.NoError(t, i.cmd.Start())
	t.Cleanup(i.end)
	require.Eventually(t, func() bool {
		m := listens.FindStringSubmatch(out.String())
		if m != nil {
			i.url = m[1]
		}
		return m != nil
	}, 2*time.Minute, 20*time.Millisecond, "the service did not start: %s", i.log)
	return i
}

// covered says whether make cover runs the tests: programs write what they covered where GOCOVERDIR says, once they end by themselves.
func covered() bool { return os.Getenv("GOCOVERDIR") != "" }

// end ends a service with its test: at once, or as an operator would where it has something to write.
func (i *instance) end() {
	if covered() {
		i.leave()
	}
	i.kill()
}

// leave ends a service as an operator would: it writes what it has to, and stops a database of its own.
func (i *instance) leave() {
	if i.cmd.ProcessState != nil {
		return
	}
	_ = i.cmd.Process.Signal(syscall.SIGTERM)
	late := time.AfterFunc(20*time.Second, func() { _ = i.cmd.Process.Kill() })
	_ = i.cmd.Wait()
	late.Stop()
}

// kill ends a service at once, as a crash would.
func (i *instance) kill() {
	if i.cmd.ProcessState == nil {
		_ = i.cmd.Process.Signal(syscall.SIGKILL)
		_ = i.cmd.Wait()
	}
}

// admin signs in as the first administrator.
func (i *instance) admin(t *testing.T) *client.Client {
	t.Helper()
	k := client.New(i.url, "")
	_, err := k.SignIn(t.Context(), "admin", adminPassword, "tests", 1)
	require.NoError(t, err)
	return k
}

// as makes an account of a role and signs in with it.
func (i *instance) as(t *testing.T, login, role string) *client.Client {
	t.Helper()
	_, err := i.admin(t).AddAccount(t.Context(), wire.NewAccount{Login: login, Name: strings.ToUpper(login[:1]) + login[1:], Role: role, Password: adminPassword})
	require.NoError(t, err)
	k := client.New(i.url, "")
	_, err = k.SignIn(t.Context(), login, adminPassword, "tests", 1)
	require.NoError(t, err)
	return k
}

// stocked applies the demo's cabinet and crosswalks.
func stocked(t *testing.T, k *client.Client) {
	t.Helper()
	_, err := k.ApplyCabinet(t.Context(), 0, file(t, "cabinet.yaml"))
	require.NoError(t, err)
	for _, name := range []string{"marsh-lane", "harbour-finch", "northquay"} {
		_, err := k.ApplyCrosswalk(t.Context(), 0, file(t, "crosswalks/"+name+".yaml"))
		require.NoError(t, err)
	}
}

// file reads one of the demo's files.
func file(t *testing.T, name string) string {
	t.Helper()
	raw, err := os.ReadFile(filepath.Join("..", "demo", name))
	require.NoError(t, err)
	return string(raw)
}

// openIntake uploads a text as a supplier's file and opens an intake for it.
func openIntake(t *testing.T, k *client.Client, supplier, name, text string) (wire.Intake, error) {
	t.Helper()
	f, err := k.Upload(t.Context(), name, strings.NewReader(text))
	if err != nil {
		return wire.Intake{}, err
	}
	return k.OpenIntake(t.Context(), wire.NewIntake{Supplier: supplier, FileHash: f.Hash, FileName: f.Name})
}

// takeIn takes an intake in and waits for it.
func takeIn(t *testing.T, k *client.Client, i wire.Intake) wire.TakenIn {
	t.Helper()
	j, err := k.TakeIn(t.Context(), i.ID, i.Version, "", wire.TakeIn{Digest: i.Digest, LeaveBlocked: true})
	require.NoError(t, err)
	j, err = k.WaitJob(t.Context(), j.ID, nil)
	require.NoError(t, err)
	require.NotNil(t, j.TakenIn, j.Error)
	return *j.TakenIn
}

// resistors writes a supplier's file of n different resistors whose part numbers begin with a word.
func resistors(word string, n int) string {
	var b strings.Builder
	b.WriteString("Order code;Maker;Maker part no.;Category;Resistance;Tolerance;Size\n")
	for i := range n {
		fmt.Fprintf(&b, "X-%s-%d;Tidewright;%s-%06d;Chip resistors;%d Ω;±1 %%;0805\n", word, i, word, i, 1+i%900)
	}
	return b.String()
}

// command runs the program as a user would and returns what it printed and its exit code.
func command(t *testing.T, env []string, args ...string) (stdout, stderr string, code int) {
	t.Helper()
	var out, errs bytes.Buffer
	c := exec.CommandContext(t.Context(), binary, args...)
	c.Env = append(os.Environ(), env...)
	c.Stdout, c.Stderr = &out, &errs
	err := c.Run()
	var exit *exec.ExitError
	if errors.As(err, &exit) {
		code = exit.ExitCode()
	} else {
		require.NoError(t, err)
	}
	return out.String(), errs.String(), code
}
