// Package housetest gives tests of use cases a whole service on a database of its own, with the demo company's cabinet and an
// administrator, and short ways to what most of them begin with.
package housetest

import (
	"context"
	"database/sql"
	"log/slog"
	"slices"
	"strings"
	"sync"
	"testing"
	"time"

	_ "github.com/go-sql-driver/mysql" // the server sums tables up
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jollydrawer/core/lifecycle"
	"jollydrawer/core/lookup"
	"jollydrawer/core/model"
	"jollydrawer/core/part"
	"jollydrawer/demo"
	"jollydrawer/formats/rows"
	"jollydrawer/internal/auth"
	"jollydrawer/internal/follow"
	"jollydrawer/internal/service/app"
	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/store"
	"jollydrawer/internal/testdb"
	"jollydrawer/internal/wire"
)

// House is a service on a fresh schema with the demo's cabinet and an administrator.
type House struct {
	*app.App
	Me       deed.Call // of the administrator
	T        *testing.T
	Owner    string // DSN of an account that may do everything in the schema
	Follower *follow.Follower
}

// Open starts a service; with changes what an installation decides.
func Open(t *testing.T, with ...func(*app.Options)) House {
	t.Helper()
	s, owner := testdb.Open(t)
	return OpenOn(t, s, owner, 20*time.Millisecond, with...)
}

// OpenOn starts a service on a store; every is how often it puts deeds in order.
func OpenOn(t *testing.T, s *store.Store, owner string, every time.Duration, with ...func(*app.Options)) House {
	t.Helper()
	h := emptyOn(t, s, owner, every, with)
	text, err := demo.Files.ReadFile("cabinet.yaml")
	require.NoError(t, err)
	_, err = h.Reform.Apply(t.Context(), h.Me, 0, string(text))
	require.NoError(t, err)
	return h
}

func emptyOn(t *testing.T, s *store.Store, owner string, every time.Duration, with []func(*app.Options)) House {
	t.Helper()
	v, f := begin(t, s, every, with, true)
	made, err := v.People.FirstAccount(t.Context(), "admin", "Administrator", "a-long-password")
	require.NoError(t, err)
	require.True(t, made)
	_, secret, err := v.People.SignIn(t.Context(), wire.SignIn{Login: "admin", Password: "a-long-password"})
	require.NoError(t, err)
	actor, _, err := v.People.BySession(t.Context(), secret)
	require.NoError(t, err)
	return House{v, deed.Call{Actor: actor}, t, owner, f}
}

// Empty starts a service on a fresh schema with an administrator and nothing else.
func Empty(t *testing.T) House {
	t.Helper()
	s, owner := testdb.Open(t)
	return emptyOn(t, s, owner, 20*time.Millisecond, nil)
}

// Beside starts another instance of the service on the house's database; with changes what an installation decides.
func (h House) Beside(with ...func(*app.Options)) House {
	h.T.Helper()
	return h.beside(with, true)
}

// Colleague is Beside, of an instance that takes up no jobs: those of the house run where its statements are met.
func (h House) Colleague() House {
	h.T.Helper()
	return h.beside(nil, false)
}

func (h House) beside(with []func(*app.Options), jobs bool) House {
	h.T.Helper()
	s, err := store.Open(h.Owner)
	require.NoError(h.T, err)
	h.T.Cleanup(func() { s.Close() })
	h.App, h.Follower = begin(h.T, s, 20*time.Millisecond, with, jobs)
	return h
}

// Written is what all tables of the house's database hold, as the server sums them up: what is the same wrote nothing.
func (h House) Written() map[string]string {
	h.T.Helper()
	h.Level()
	db, err := sql.Open("mysql", h.Owner)
	require.NoError(h.T, err)
	defer db.Close()
	var tables []string
	list, err := db.Query("SHOW FULL TABLES WHERE Table_type = 'BASE TABLE'")
	require.NoError(h.T, err)
	for list.Next() {
		var name, is string
		require.NoError(h.T, list.Scan(&name, &is))
		tables = append(tables, "`"+name+"`")
	}
	require.NoError(h.T, list.Err())
	out := map[string]string{}
	sums, err := db.Query("CHECKSUM TABLE " + strings.Join(tables, ", "))
	require.NoError(h.T, err)
	defer sums.Close()
	for sums.Next() {
		var name string
		var sum sql.NullString
		require.NoError(h.T, sums.Scan(&name, &sum))
		out[name] = sum.String
	}
	require.NoError(h.T, sums.Err())
	return out
}

// Level waits until the instance has followed all that was done.
func (h House) Level() {
	h.T.Helper()
	db, err := sql.Open("mysql", h.Owner)
	require.NoError(h.T, err)
	defer db.Close()
	require.Eventually(h.T, func() bool {
		var left int
		var last int64
		err := db.QueryRowContext(h.T.Context(), "SELECT (SELECT COUNT(*) FROM outbox), (SELECT COALESCE(MAX(position), 0) FROM feed)").Scan(&left, &last)
		return err == nil && left == 0 && h.Follower.Position() >= last
	}, 20*time.Second, 2*time.Millisecond)
}

// begin starts an instance on a store and ends it with the test.
func begin(t *testing.T, s *store.Store, every time.Duration, with []func(*app.Options), jobs bool) (*app.App, *follow.Follower) {
	t.Helper()
	log := slog.New(slog.DiscardHandler)
	o := app.Options{Limits: rows.DefaultLimits, Lease: time.Second, Log: log, Passwords: auth.Cost{Passes: 1, Memory: 64, Threads: 1}} // nobody guesses at a test's
	for _, change := range with {
		change(&o)
	}
	v := app.New(s, lookup.New(), o)
	f := &follow.Follower{Store: s, Index: v.Index, Log: log, Every: every, Cabinet: v.Cabinets.Current, States: v.Policy.StatesOf}
	s.Committed = f.Own
	v.Work.Followed, v.Changes, v.Notices.Followed = f.Has, f.Changes, f.Position
	require.NoError(t, f.Load(t.Context()))
	ctx, cancel := context.WithCancel(context.Background())
	var wg sync.WaitGroup
	runs := []func(context.Context){f.Run}
	if jobs {
		runs = append(runs, v.Work.Run)
	}
	for _, work := range runs {
		wg.Add(1)
		go func() {
			defer wg.Done()
			work(ctx)
		}()
	}
	t.Cleanup(func() {
		cancel()
		wg.Wait()
	})
	return v, f
}

// Change previews a change of templates, makes it and waits for its job.
func (h House) Change(in wire.CabinetChange) (wire.ChangePreview, wire.Job) {
	p, err := h.Reform.Preview(h.T.Context(), h.Me, in)
	require.NoError(h.T, err)
	in.Digest = p.Digest
	j, err := h.Reform.Start(h.T.Context(), h.Me, p.Version, in)
	require.NoError(h.T, err)
	j = h.Wait(j)
	require.Equal(h.T, "done", j.State, j.Error)
	return p, j
}

// ListHead is the heading of the files that Listed makes.
const ListHead = "Kind;Maker;MPN;Value;Tol;Size;Sheet\n"

// Listed applies a crosswalk and opens an intake of rows under ListHead.
func (h House) Listed(rows string) wire.Intake {
	h.T.Helper()
	if _, err := h.Cabinets.Crosswalk(h.T.Context(), h.Me, "Pier stock"); err != nil {
		_, err := h.Cabinets.ApplyCrosswalk(h.T.Context(), h.Me, 0, "format: jolly-crosswalk/1\nsupplier: Pier stock\ntake: {kind: Kind, manufacturer: Maker, mpn: MPN, datasheet: Sheet}\nkinds: {R: chip-resistors}\nfields: [{from: Value, to: '@leading'}, {from: Tol, to: tolerance}, {from: Size, to: case, caseSystem: inch}]\n")
		require.NoError(h.T, err)
	}
	f, err := h.Files.Keep(h.T.Context(), h.Me, "list.csv", strings.NewReader(ListHead+rows))
	require.NoError(h.T, err)
	i, err := h.Intakes.Open(h.T.Context(), h.Me, wire.NewIntake{Supplier: "Pier stock", FileHash: f.Hash, FileName: f.Name})
	require.NoError(h.T, err)
	return i
}

// EditIntake changes what was decided about an intake.
func (h House) EditIntake(i wire.Intake, e wire.IntakeEdit) wire.Intake {
	h.T.Helper()
	i, err := h.Intakes.Edit(h.T.Context(), h.Me, ID(h.T, i.ID), i.Version, e)
	require.NoError(h.T, err)
	return i
}

// TakeIn takes an intake in and waits for it.
func (h House) TakeIn(i wire.Intake) wire.TakenIn {
	h.T.Helper()
	j, err := h.Intakes.TakeIn(h.T.Context(), h.Me, ID(h.T, i.ID), i.Version, wire.TakeIn{Digest: i.Digest})
	require.NoError(h.T, err)
	j = h.Wait(j)
	require.NotNil(h.T, j.TakenIn, j.Error)
	return *j.TakenIn
}

// ID reads an identifier.
func ID(t *testing.T, text string) deed.ID {
	t.Helper()
	out, err := deed.ParseID(text)
	require.NoError(t, err)
	return out
}

// Resistor is a part that is complete but for what a release asks of nobody.
func Resistor(ohms, mpn string) wire.PartEdit {
	return wire.PartEdit{Drawer: "chip-resistors", Values: map[string]string{"resistance": ohms, "tolerance": "1%", "case": "0805"}, Sources: []part.Source{{Manufacturer: "Tidewright", MPN: mpn}}}
}

// Make makes a part.
func (h House) Make(e wire.PartEdit) wire.Part {
	h.T.Helper()
	p, err := h.Parts.Create(h.T.Context(), h.Me, e)
	require.NoError(h.T, err)
	return p
}

// Fails asserts that an error is one for people, of a type.
func Fails(t *testing.T, err error, typ string) *deed.Error {
	t.Helper()
	var e *deed.Error
	require.ErrorAs(t, err, &e)
	assert.Equal(t, typ, e.Type, e.Error())
	assert.True(t, strings.HasSuffix(e.What, ".") || strings.HasSuffix(e.What, ":"), "a sentence: %q", e.What)
	return e
}

// CrosswalkText maps the fields of the files that OpenIntake makes.
const CrosswalkText = "format: jolly-crosswalk/1\nsupplier: Marsh Lane\ndrawer: chip-resistors\ndecimalMark: point\ntake: {manufacturer: Maker, mpn: MPN, number: No}\nfields: [{from: Ohms, to: resistance, unit: ohm}, {from: Tol, to: tolerance}, {from: Size, to: case}]\n"

// OpenIntake opens an intake for rows of a small file.
func (h House) OpenIntake(text string) (wire.Intake, store.ID) {
	h.T.Helper()
	f, err := h.Files.Keep(h.T.Context(), h.Me, "rows.csv", strings.NewReader("No,Maker,MPN,Ohms,Tol,Size,Stock\n"+text))
	require.NoError(h.T, err)
	i, err := h.Intakes.Open(h.T.Context(), h.Me, wire.NewIntake{Supplier: "Marsh Lane", FileHash: f.Hash, FileName: f.Name})
	require.NoError(h.T, err)
	id, err := deed.ParseID(i.ID)
	require.NoError(h.T, err)
	return i, id
}

// Wait waits until a job has ended, and returns it as it ended.
func (h House) Wait(j wire.Job) wire.Job {
	h.T.Helper()
	id, err := deed.ParseID(j.ID)
	require.NoError(h.T, err)
	require.Eventually(h.T, func() bool {
		j, err = h.Work.Get(h.T.Context(), h.Me, id)
		return err == nil && j.State != store.JobWaiting && j.State != store.JobRunning
	}, 3*time.Minute, 10*time.Millisecond)
	return j
}

// TwoPins is a symbol with two pins of these numbers.
func TwoPins(one, two string) *model.Symbol {
	mm := model.MustLength
	return &model.Symbol{Grid: mm("1.27"), Pins: []model.Pin{{Number: one, Type: model.Passive, Runs: model.Right, Length: mm("2.54"), At: model.Point{X: mm("-5.08")}},
		{Number: two, Type: model.Passive, Runs: model.Left, Length: mm("2.54"), At: model.Point{X: mm("5.08")}}}}
}

// TwoPads is a land pattern with two pads, each so far from the middle.
func TwoPads(x string) *model.LandPattern {
	mm := model.MustLength
	pad := model.Pad{Number: "1", Shape: model.PadRectangle, At: model.Point{X: -mm(x)}, Width: mm("1.15"), Height: mm("1.4")}
	other := pad
	other.Number, other.At.X = "2", mm(x)
	return &model.LandPattern{Pads: []model.Pad{pad, other}}
}

// Model makes and releases a model.
func (h House) Model(e wire.ModelEdit) wire.Model {
	h.T.Helper()
	m, err := h.Models.Create(h.T.Context(), h.Me, e)
	require.NoError(h.T, err)
	m, err = h.Lifecycles.ReleaseModel(h.T.Context(), h.Me, h.ModelID(m), m.Version, wire.Release{Note: "drawn"})
	require.NoError(h.T, err)
	return m
}

// ModelID is the identifier of a model.
func (h House) ModelID(m wire.Model) deed.ID {
	h.T.Helper()
	id, err := deed.ParseID(m.ID)
	require.NoError(h.T, err)
	return id
}

// Board brings in a BOM of some lines.
func (h House) Board(t *testing.T, name, text string) wire.BOM {
	f, err := h.Files.Keep(t.Context(), h.Me, name+".csv", strings.NewReader(text))
	require.NoError(t, err)
	b, err := h.BOMs.Bring(t.Context(), h.Me, wire.NewBOM{Name: name, FileHash: f.Hash, FileName: f.Name})
	require.NoError(t, err)
	return b
}

// Rated is a resistor with a power rating.
func Rated(ohms, mpn string) wire.PartEdit {
	e := Resistor(ohms, mpn)
	e.Values["power"] = "125 mW"
	return e
}

func (h House) Value(number, key string) string {
	p, err := h.Parts.Get(h.T.Context(), h.Me, number)
	require.NoError(h.T, err)
	for _, v := range p.Newest().Values {
		if v.Key == key {
			return v.Text
		}
	}
	return ""
}

// As is a call by another person, who is made where nobody signs in by that name yet.
func (h House) As(login string, role deed.Role) deed.Call {
	h.T.Helper()
	all, err := h.People.Accounts(h.T.Context(), h.Me)
	require.NoError(h.T, err)
	i := slices.IndexFunc(all, func(a wire.Account) bool { return a.Login == login })
	if i < 0 {
		a, err := h.People.AddAccount(h.T.Context(), h.Me, wire.NewAccount{Login: login, Name: strings.ToUpper(login[:1]) + login[1:], Role: string(role), Password: "buoys-and-gauges"})
		require.NoError(h.T, err)
		all, i = append(all, a), len(all)
	}
	id, err := deed.ParseID(all[i].ID)
	require.NoError(h.T, err)
	return deed.Call{Actor: deed.Actor{ID: id, Login: login, Name: all[i].Name, Role: role}}
}

// Lifecycle puts the shipped lifecycle in force with some of its text replaced: old, new, old, new.
func (h House) Lifecycle(name string, replace ...string) wire.Lifecycle {
	h.T.Helper()
	text, ok := lifecycle.Shipped(name)
	require.True(h.T, ok)
	for i := 0; i < len(replace); i += 2 {
		require.Contains(h.T, string(text), replace[i])
	}
	now, err := h.Lifecycles.Document(h.T.Context(), h.Me, name)
	require.NoError(h.T, err)
	out, err := h.Lifecycles.ApplyDocument(h.T.Context(), h.Me, now.Version, strings.NewReplacer(replace...).Replace(string(text)))
	require.NoError(h.T, err)
	return out
}

// Holding lists the columns of the database in which some row holds a text, as it is or within something longer.
func (h House) Holding(text string) (columns []string) {
	h.T.Helper()
	db, err := sql.Open("mysql", h.Owner)
	require.NoError(h.T, err)
	defer db.Close()
	rows, err := db.Query("SELECT table_name, column_name FROM information_schema.columns WHERE table_schema = DATABASE()")
	require.NoError(h.T, err)
	defer rows.Close()
	var all [][2]string
	for rows.Next() {
		var at [2]string
		require.NoError(h.T, rows.Scan(&at[0], &at[1]))
		all = append(all, at)
	}
	require.NoError(h.T, rows.Err())
	require.NotEmpty(h.T, all)
	for _, at := range all {
		var n int
		require.NoError(h.T, db.QueryRow("SELECT COUNT(*) FROM `"+at[0]+"` WHERE INSTR(CAST(`"+at[1]+"` AS BINARY), CAST(? AS BINARY)) > 0", text).Scan(&n), at)
		if n > 0 {
			columns = append(columns, at[0]+"."+at[1])
		}
	}
	return columns
}
