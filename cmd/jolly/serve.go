package main

import (
	"context"
	"crypto/rand"
	"errors"
	"fmt"
	"io"
	"log/slog"
	"net"
	"net/http"
	"os"
	"path/filepath"
	"runtime"
	"runtime/debug"
	"runtime/metrics"
	"sync"
	"time"

	ucli "github.com/urfave/cli/v3"

	"jollydrawer/core/lookup"
	"jollydrawer/formats/rows"
	"jollydrawer/internal/api"
	"jollydrawer/internal/api/sending"
	"jollydrawer/internal/config"
	"jollydrawer/internal/dbserver"
	"jollydrawer/internal/follow"
	"jollydrawer/internal/reach"
	"jollydrawer/internal/service/app"
	"jollydrawer/internal/service/notices"
	"jollydrawer/internal/service/offers"
	"jollydrawer/internal/store"
	"jollydrawer/web"
)

func serveCommand() *ucli.Command {
	return &ucli.Command{Name: "serve", Usage: "run the service with its console", Category: "service", Flags: config.Flags(),
		Description: "Settings come from flags, then JOLLY_… variables, then the file that --config names.\n\nExample:\n  jolly serve --listen 127.0.0.1:8090 --data /var/lib/jolly",
		Action: func(ctx context.Context, c *ucli.Command) error {
			set, err := config.Load(c)
			if err != nil {
				return err
			}
			log, err := newLogger(set, os.Stderr)
			if err != nil {
				return err
			}
			a, err := start(ctx, set, log)
			if err != nil {
				return err
			}
			fmt.Fprintf(c.Root().Writer, "Jolly Drawer listens on %s\n", a.url)
			if a.firstSignIn != "" {
				fmt.Fprintf(c.Root().Writer, "The first sign-in (admin) is in %s\n", a.firstSignIn)
			}
			return a.wait(ctx)
		}}
}

func newLogger(set config.Settings, w io.Writer) (*slog.Logger, error) {
	var level slog.Level
	if err := level.UnmarshalText([]byte(set.LogLevel)); err != nil {
		return nil, fmt.Errorf("log-level is %q: use debug, info, warn or error", set.LogLevel)
	}
	o := &slog.HandlerOptions{Level: level}
	switch set.LogFormat {
	case "json":
		return slog.New(slog.NewJSONHandler(w, o)), nil
	case "text":
		return slog.New(slog.NewTextHandler(w, o)), nil
	}
	return nil, fmt.Errorf("log-format is %q: use text or json", set.LogFormat)
}

// running is a running service with everything under it.
type running struct {
	url         string
	firstSignIn string // file that holds the first password
	svc         *app.App
	follower    *follow.Follower
	db          *dbserver.Server // nil where the database is the user's own
	store       *store.Store
	keeper      *store.Keeper // nil where no tables are kept for design tools
	http        *http.Server
	log         *slog.Logger
	failed      chan error
	background  sync.WaitGroup
	stop        context.CancelFunc
	closing     chan struct{}
	closed      sync.Once
	owner       string        // DSN of the account that migrates and tidies
	keep        time.Duration // how long what is of passing use is kept
}

// start brings up the database, the schema, the index, the background work and the HTTP server, in this order.
func start(ctx context.Context, set config.Settings, log *slog.Logger) (_ *running, err error) {
	a := &running{log: log, failed: make(chan error, 2), closing: make(chan struct{}), keep: time.Duration(max(1, set.KeepDays)) * 24 * time.Hour}
	defer func() {
		if err != nil {
			a.close()
		}
	}()
	l, err := net.Listen("tcp", set.Listen)
	if err != nil {
		return nil, fmt.Errorf("the address %s cannot be served on (%w): choose another with --listen", set.Listen, err)
	}
	defer func() {
		if err != nil {
			l.Close()
		}
	}()
	a.url = "http://" + l.Addr().String()
	reader, err := a.openDatabase(ctx, set)
	if err != nil {
		return nil, err
	}
	if err = a.openHouse(ctx, set, reader); err != nil {
		return nil, err
	}
	if err = a.first(ctx, set); err != nil {
		return nil, err
	}
	run, stop := context.WithCancel(context.Background())
	a.stop = stop
	tuneCollector(run)
	a.work(run)
	if err = a.answer(run, l, set); err != nil {
		return nil, err
	}
	if a.db != nil {
		go func() {
			<-a.db.Exited()
			if run.Err() == nil {
				a.failed <- errors.New("the database server ended: start the service again; what was committed is safe")
			}
		}()
	}
	return a, nil
}

// openDatabase opens the database that the settings name, or else a private one, with its schema brought up to date; reader says whom
// design tools sign in as.
func (a *running) openDatabase(ctx context.Context, set config.Settings) (reader string, err error) {
	dsn, keeper := set.DSN, set.ReadoutDSN
	a.owner, reader = set.OwnerDSN, "the account with SELECT on the views (see jolly grants)"
	if dsn == "" {
		if a.db, err = dbserver.Start(ctx, dbserver.Options{Dir: set.Data, Port: set.DatabasePort}); err != nil {
			return "", err
		}
		a.owner, dsn = a.db.DSNs()
		keeper, _ = a.db.ReadoutDSNs(dbserver.Database)
		if reader, err = readoutSignIn(set.Data, a.db); err != nil {
			return "", err
		}
		a.log.Info("database is up", "port", a.db.Port, "taken over", a.db.Adopted)
	} else if a.owner == "" {
		a.owner = dsn
	}
	if err = store.Migrate(ctx, a.owner, dsn); err != nil {
		return "", err
	}
	if a.store, err = store.Open(dsn); err != nil || keeper == "" {
		return reader, err
	}
	if err = store.GrantKeeper(ctx, a.owner, keeper); err == nil {
		a.keeper, err = store.OpenKeeper(keeper)
	}
	return reader, err
}

// openHouse puts the use cases together over the database, and loads the library into the index.
func (a *running) openHouse(ctx context.Context, set config.Settings, reader string) error {
	key, err := installationKey(set)
	if err != nil {
		return err
	}
	known, err := secrets(set)
	if err != nil {
		return err
	}
	night, err := offers.ParseHour(set.RefreshAt)
	if err != nil {
		return fmt.Errorf("refresh-at: %w", err)
	}
	base := set.Public
	if base == "" && a.db != nil {
		base = a.url
	}
	lim := rows.DefaultLimits
	lim.Bytes = int64(set.MaxUploadMB) << 20
	index := lookup.New()
	a.svc = app.New(a.store, index, app.Options{Limits: lim, Lease: set.Lease, Guard: reach.Guard{Inside: set.AllowInside}, Log: a.log, Keeper: a.keeper, Reader: reader, Base: base, Key: key, Secrets: known, Night: night, Passwords: set.Passwords,
		Mail: notices.Mail{Server: set.MailServer, From: set.MailFrom, User: set.MailUser, Password: os.Getenv("JOLLY_MAIL_PASSWORD")}})
	f := &follow.Follower{Store: a.store, Index: index, Log: a.log, Every: 150 * time.Millisecond, Cabinet: a.svc.Cabinets.Current, CabinetID: a.svc.Policy.CurrentID, States: a.svc.Policy.StatesOf, Step: a.svc.Work.Pace.Step,
		Snapshot: filepath.Join(set.Data, "lookup.snapshot")}
	a.follower = f
	a.store.Committed = f.Own
	a.svc.Work.Followed, a.svc.Changes, a.svc.Notices.Followed = f.Has, f.Changes, f.Position
	if err := a.svc.Prepare(ctx); err != nil {
		return fmt.Errorf("bringing the data up to date: %w", err)
	}
	if err := f.Load(ctx); err != nil {
		return fmt.Errorf("loading the library: %w", err)
	}
	return nil
}

// work begins what goes on beside requests, until run ends.
func (a *running) work(run context.Context) {
	for _, work := range []func(context.Context){a.follower.Run, a.svc.Work.Run, a.svc.Readout.Run, a.svc.Notices.Run, a.svc.Offers.Run, a.svc.Intakes.Run, a.svc.BOMs.Run, a.seal, a.tidy} {
		a.background.Add(1)
		go func() {
			defer a.background.Done()
			work(run)
		}()
	}
}

// answer begins to answer requests on l.
func (a *running) answer(run context.Context, l net.Listener, set config.Settings) error {
	procs := runtime.GOMAXPROCS(0)
	if os.Getenv("GOMAXPROCS") == "" {
		runtime.GOMAXPROCS(procs + 1) // one to listen to the network while lookups keep all processors busy
	}
	srv := &api.Server{Turns: procs, Service: a.svc, Follower: a.follower, SecureCookie: set.SecureCookie, Console: http.FS(web.Dist()), Closing: a.closing}
	handler, err := sending.Compressed(srv.New())
	if err != nil {
		return err
	}
	a.http = &http.Server{Handler: handler, ReadHeaderTimeout: 10 * time.Second, ReadTimeout: 10 * time.Minute, IdleTimeout: 2 * time.Minute, MaxHeaderBytes: 64 << 10,
		BaseContext: func(net.Listener) context.Context { return run }, ErrorLog: slog.NewLogLogger(a.log.Handler(), slog.LevelDebug)}
	go func() {
		if err := a.http.Serve(l); !errors.Is(err, http.ErrServerClosed) {
			a.failed <- err
		}
	}()
	return nil
}

// room is how much memory is given beside the heap that is alive, and least what a small library gets in all.
const (
	room  = 170 << 20
	least = 320 << 20
)

// tuneCollector sets how far the heap may grow, now and as the library grows. Most of a large heap is the lookup index,
// which hardly changes: letting it double is waste. A small one would be collected at every few requests. The limit is
// soft: it is what a large intake may use beside the index before the collector works harder.
func tuneCollector(ctx context.Context) {
	if os.Getenv("GOGC") != "" || os.Getenv("GOMEMLIMIT") != "" {
		return
	}
	runtime.GC()
	live := []metrics.Sample{{Name: "/gc/heap/live:bytes"}}
	last := uint64(0)
	tune := func() {
		metrics.Read(live)
		heap := live[0].Value.Uint64()
		if d := max(heap, last) - min(heap, last); last > 0 && d < last/20 { // each setting stops all for a moment
			return
		}
		last = heap
		debug.SetGCPercent(int(min(800, max(50, 200*room/(heap+1)))))
		debug.SetMemoryLimit(int64(max(least, heap+room)))
	}
	tune()
	afterCollection(ctx, tune)
}

// afterCollection calls f whenever the collector has run: what is alive is known then. A large intake doubles the heap within a second, and
// would be collected over and over under the limit of before.
func afterCollection(ctx context.Context, f func()) {
	runtime.SetFinalizer(&struct{ _ [16]byte }{}, func(any) {
		if ctx.Err() == nil {
			f()
			afterCollection(ctx, f)
		}
	})
}

// first makes the first administrator on a fresh database. Its password comes from JOLLY_FIRST_PASSWORD, or is made
// up and left in a file that only the owner can read.
func (a *running) first(ctx context.Context, set config.Settings) error {
	password, path := os.Getenv("JOLLY_FIRST_PASSWORD"), ""
	if password == "" {
		password, path = rand.Text(), filepath.Join(set.Data, "first-sign-in.txt")
	}
	made, err := a.svc.People.FirstAccount(ctx, "admin", "Administrator", password)
	if err != nil || !made || path == "" {
		return err
	}
	a.firstSignIn = path
	if err := os.MkdirAll(set.Data, 0o755); err != nil {
		return err
	}
	return os.WriteFile(path, []byte("admin\n"+password+"\n"), 0o600)
}

// seal seals the ends of all trails once an hour.
func (a *running) seal(ctx context.Context) {
	t := time.NewTicker(time.Hour)
	defer t.Stop()
	for {
		select {
		case <-ctx.Done():
			return
		case <-t.C:
			if err := a.svc.Audit.Seal(ctx); err != nil && ctx.Err() == nil {
				a.log.Warn("sealing the trails", "error", err)
			}
		}
	}
}

// tidy removes what is of no more use, now and then.
func (a *running) tidy(ctx context.Context) {
	t := time.NewTicker(20 * time.Minute)
	defer t.Stop()
	for {
		select {
		case <-ctx.Done():
			return
		case <-t.C:
			if err := store.Tidy(ctx, a.owner, a.keep); err != nil && ctx.Err() == nil {
				a.log.Warn("tidying the database", "error", err)
			}
		}
	}
}

// wait serves until ctx ends or something fails, then shuts down gracefully.
func (a *running) wait(ctx context.Context) error {
	var err error
	select {
	case <-ctx.Done():
	case err = <-a.failed:
	}
	a.close()
	return err
}

// close shuts down; done again it changes nothing.
func (a *running) close() { a.closed.Do(a.shutDown) }

func (a *running) shutDown() {
	if a.http != nil {
		ctx, cancel := context.WithTimeout(context.Background(), 10*time.Second)
		close(a.closing) // event streams never end by themselves; requests under way get their time
		if err := a.http.Shutdown(ctx); err != nil {
			a.log.Warn("shutting down", "error", err)
		}
		cancel()
	}
	if a.stop != nil {
		a.stop()
	}
	a.background.Wait()
	if a.follower != nil && a.store != nil {
		a.follower.Freeze(context.Background())
	}
	if a.keeper != nil {
		a.keeper.Close()
	}
	if a.store != nil {
		a.store.Close()
	}
	if a.db != nil {
		a.db.Stop()
	}
}
