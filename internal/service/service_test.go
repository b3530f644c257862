package service_test

import (
	"bytes"
	"context"
	"encoding/csv"
	"errors"
	"fmt"
	"log/slog"
	"os"
	"slices"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jollydrawer/core/lookup"
	"jollydrawer/core/model"
	"jollydrawer/core/part"
	"jollydrawer/formats/rows"
	"jollydrawer/formats/step"
	"jollydrawer/internal/follow"
	"jollydrawer/internal/service"
	"jollydrawer/internal/store"
	"jollydrawer/internal/testdb"
	"jollydrawer/internal/wire"
)

func TestMain(m *testing.M) { testdb.Main(m) }

// house is a service on a fresh schema with the demo's cabinet and an administrator.
type house struct {
	*service.Service
	me    service.Call
	t     *testing.T
	owner string // of the schema: a name that may do everything in it
}

func open(t *testing.T) house {
	t.Helper()
	s, owner := testdb.Open(t)
	log := slog.New(slog.DiscardHandler)
	v := service.New(s, lookup.New(), rows.DefaultLimits, time.Second, log)
	f := &follow.Follower{Store: s, Index: v.Index, Log: log, Every: 20 * time.Millisecond, Cabinet: v.CabinetNow}
	s.Committed = f.Own
	require.NoError(t, f.Load(t.Context()))
	ctx, cancel := context.WithCancel(context.Background())
	var wg sync.WaitGroup
	for _, work := range []func(context.Context){f.Run, v.Jobs.Run} {
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
	made, err := v.FirstAccount(t.Context(), "admin", "Administrator", "a-long-password")
	require.NoError(t, err)
	require.True(t, made)
	_, secret, err := v.SignIn(t.Context(), wire.SignIn{Login: "admin", Password: "a-long-password"})
	require.NoError(t, err)
	actor, _, err := v.BySession(t.Context(), secret)
	require.NoError(t, err)
	h := house{v, service.Call{Actor: actor}, t, owner}
	text, err := os.ReadFile("../../demo/cabinet.yaml")
	require.NoError(t, err)
	_, err = v.ApplyCabinet(t.Context(), h.me, 0, string(text))
	require.NoError(t, err)
	return h
}

func resistor(ohms, mpn string) wire.PartEdit {
	return wire.PartEdit{Drawer: "chip-resistors", Values: map[string]string{"resistance": ohms, "tolerance": "1%", "case": "0805"}, Sources: []part.Source{{Manufacturer: "Tidewright", MPN: mpn}}}
}

func (h house) make(e wire.PartEdit) wire.Part {
	h.t.Helper()
	p, err := h.CreatePart(h.t.Context(), h.me, e)
	require.NoError(h.t, err)
	return p
}

// fails asserts that an error is one for people, of a type.
func fails(t *testing.T, err error, typ string) *service.Error {
	t.Helper()
	var e *service.Error
	require.ErrorAs(t, err, &e)
	assert.Equal(t, typ, e.Type, e.Error())
	assert.True(t, strings.HasSuffix(e.What, ".") || strings.HasSuffix(e.What, ":"), "a sentence: %q", e.What)
	return e
}

func TestSigningIn(t *testing.T) {
	h := open(t)
	for _, in := range []wire.SignIn{{Login: "admin", Password: "wrong"}, {Login: "nobody", Password: "a-long-password"}, {}} {
		_, _, err := h.SignIn(t.Context(), in)
		fails(t, err, "sign-in-refused")
	}
	_, err := h.AddAccount(t.Context(), h.me, wire.NewAccount{Login: "tove", Name: "Tove", Role: "engineer", Password: "short"})
	fails(t, err, "password-weak")
	_, err = h.AddAccount(t.Context(), h.me, wire.NewAccount{Login: "tove", Name: "Tove", Role: "owner", Password: "a-long-password"})
	fails(t, err, "role-unknown")
	a, err := h.AddAccount(t.Context(), h.me, wire.NewAccount{Login: "tove", Name: "Tove", Role: "engineer", Password: "a-long-password"})
	require.NoError(t, err)
	_, err = h.AddAccount(t.Context(), h.me, wire.NewAccount{Login: "TOVE", Name: "Tove", Role: "engineer", Password: "a-long-password"})
	fails(t, err, "login-taken")
	_, secret, err := h.SignIn(t.Context(), wire.SignIn{Login: "tove", Password: "a-long-password"})
	require.NoError(t, err)
	tove, _, err := h.BySession(t.Context(), secret)
	require.NoError(t, err)
	token, err := h.AddToken(t.Context(), service.Call{Actor: tove}, wire.NewToken{Name: "nightly", Days: 1})
	require.NoError(t, err)
	id, err := service.ParseID(a.ID)
	require.NoError(t, err)
	off := true
	_, err = h.ChangeAccount(t.Context(), h.me, id, wire.AccountChange{Disabled: &off})
	require.NoError(t, err)
	_, _, err = h.BySession(t.Context(), secret)
	assert.ErrorIs(t, err, store.ErrNotFound, "sessions of a disabled account end")
	_, err = h.ByToken(t.Context(), token.Secret)
	assert.ErrorIs(t, err, store.ErrNotFound, "and its tokens")
	_, _, err = h.SignIn(t.Context(), wire.SignIn{Login: "tove", Password: "a-long-password"})
	fails(t, err, "sign-in-refused")
	_, err = h.ChangeAccount(t.Context(), h.me, h.me.Actor.ID, wire.AccountChange{Role: "reader"})
	fails(t, err, "own-account")
	made, err := h.FirstAccount(t.Context(), "second", "Second", "a-long-password")
	require.NoError(t, err)
	assert.False(t, made, "there is a first account only once")
}

func TestPartNumbers(t *testing.T) {
	h := open(t)
	assert.Equal(t, "EW-R-00001", h.make(resistor("1k", "A-1")).Number)
	kept := resistor("2k", "A-2")
	kept.Number = "EW-R-00005"
	assert.Equal(t, "EW-R-00005", h.make(kept).Number)
	assert.Equal(t, "EW-R-00006", h.make(resistor("3k", "A-3")).Number, "the counter steps past a number that was given")
	again := resistor("4k", "A-4")
	again.Number = "ew-r-00005"
	_, err := h.CreatePart(t.Context(), h.me, again)
	fails(t, err, "number-taken")
	odd := resistor("5k", "A-5")
	odd.Number = "OLD 17/b"
	p := h.make(odd)
	found, err := h.Part(t.Context(), h.me, "old 17/B")
	require.NoError(t, err)
	assert.Equal(t, p.ID, found.ID)
	// A retry of the same deed does not use up a number.
	c := h.me
	c.Deed = service.NewID()
	one, err := h.CreatePart(t.Context(), c, resistor("6k", "A-6"))
	require.NoError(t, err)
	two, err := h.CreatePart(t.Context(), c, resistor("6k", "A-6"))
	require.NoError(t, err)
	assert.Equal(t, one.Number, two.Number)
	assert.Equal(t, "EW-R-00008", h.make(resistor("7k", "A-7")).Number)
}

func TestOneManufacturerPartNumberBelongsToOnePart(t *testing.T) {
	h := open(t)
	first := h.make(resistor("1k", "TW-1K"))
	twin := resistor("1k", "tw 1k")
	twin.Sources[0].Manufacturer = "TIDEWRIGHT Ltd."
	_, err := h.CreatePart(t.Context(), h.me, twin)
	e := fails(t, err, "source-taken")
	assert.Contains(t, e.What, first.Number)
	twin.KeepSeparate = "selected for low noise"
	assert.NotEqual(t, first.Number, h.make(twin).Number)
	other := h.make(resistor("2k", "TW-2K"))
	steal := other.Draft.Edit()
	steal.Sources = first.Draft.Sources
	_, err = h.SaveDraft(t.Context(), h.me, other.ID, other.Version, steal)
	fails(t, err, "source-taken")
	free := first.Draft.Edit()
	free.Sources = []part.Source{{Manufacturer: "Tidewright", MPN: "TW-1K-B"}}
	_, err = h.SaveDraft(t.Context(), h.me, first.ID, first.Version, free)
	require.NoError(t, err)
}

func TestDraftsKeepWhatWasNotTouched(t *testing.T) {
	h := open(t)
	p := h.make(resistor("4k7", "A"))
	e := p.Draft.Edit()
	e.Values["power"] = "1/8 W"
	p, err := h.SaveDraft(t.Context(), h.me, p.ID, p.Version, e)
	require.NoError(t, err)
	byKey := map[string]wire.Value{}
	for _, v := range p.Draft.Values {
		byKey[v.Key] = v
	}
	assert.Equal(t, "125 mW", byKey["power"].Text)
	assert.Equal(t, "1/8 W", byKey["power"].Origin.Written)
	assert.Equal(t, "4k7", byKey["resistance"].Origin.Written, "a value that was not touched keeps its origin")
	assert.Equal(t, "RES 4.7kΩ ±1% 125mW 0805", p.Draft.Description, "a built description follows the values")
	e = p.Draft.Edit()
	e.Description = "the special one"
	p, err = h.SaveDraft(t.Context(), h.me, p.ID, p.Version, e)
	require.NoError(t, err)
	e = p.Draft.Edit()
	e.Values["power"] = ""
	p, err = h.SaveDraft(t.Context(), h.me, p.ID, p.Version, e)
	require.NoError(t, err)
	assert.Equal(t, "the special one", p.Draft.Description, "one that somebody wrote stays")
	e.Values["resistance"] = "1,000 Ω"
	_, err = h.SaveDraft(t.Context(), h.me, p.ID, p.Version, e)
	bad := fails(t, err, "values-wrong")
	assert.Equal(t, "values.resistance", bad.Places[0].Location)
	assert.Contains(t, bad.Places[0].Message, "it may be 1 Ω if")
}

func TestReleasesFreezeAndAreAllOrNothing(t *testing.T) {
	h := open(t)
	good, bare := h.make(resistor("1k", "A")), h.make(wire.PartEdit{Drawer: "chip-resistors", Values: map[string]string{"resistance": "2k"}})
	bases := func(ps ...wire.Part) (out []wire.PartBase) {
		for _, p := range ps {
			out = append(out, wire.PartBase{ID: p.ID, Version: p.Version})
		}
		return
	}
	_, err := h.ReleaseMany(t.Context(), h.me, wire.BulkRelease{Note: "both", Parts: bases(good, bare)})
	bad := fails(t, err, "not-ready")
	assert.Contains(t, bad.Error(), "Tolerance is required and blank")
	now, err := h.Part(t.Context(), h.me, good.ID)
	require.NoError(t, err)
	assert.Zero(t, now.Revision, "none of the two was released")
	_, err = h.Release(t.Context(), h.me, good.ID, good.Version, wire.Release{Note: "  "})
	fails(t, err, "no-note")
	r, err := h.Release(t.Context(), h.me, good.ID, good.Version, wire.Release{Note: "first"})
	require.NoError(t, err)
	assert.Nil(t, r.Draft)
	_, err = h.Release(t.Context(), h.me, r.ID, r.Version, wire.Release{Note: "again"})
	fails(t, err, "not-ready")
	_, err = h.Release(t.Context(), h.me, r.ID, good.Version, wire.Release{Note: "stale"})
	assert.NotNil(t, fails(t, err, "part-changed").Current)
	e := r.Released.Edit()
	e.Values["power"] = "250 mW"
	r, err = h.SaveDraft(t.Context(), h.me, r.ID, r.Version, e)
	require.NoError(t, err)
	assert.Equal(t, "released", r.Status, "a draft beside a revision does not change what others see")
	d, err := h.PartDiff(t.Context(), h.me, r.ID, 1, 0)
	require.NoError(t, err)
	assert.Equal(t, []string{"description", "values.power"}, []string{d.Changes[0].Path, d.Changes[1].Path})
	_, err = h.PartDiff(t.Context(), h.me, r.ID, 1, 7)
	fails(t, err, "not-found")
	l, err := h.Search(t.Context(), h.me, service.Query{Text: "250mW"})
	require.NoError(t, err)
	assert.Zero(t, l.Page.Total, "a search finds what is released")
}

func TestModelsAreNamedByTheirExactRevision(t *testing.T) {
	h := open(t)
	var block bytes.Buffer
	require.NoError(t, step.WriteBlock(&block, "Chip", model.Box3{Max: model.Point3{X: model.MM, Y: model.MM, Z: model.MM}}, time.Unix(0, 0)))
	f, err := h.KeepFile(t.Context(), h.me, `C:\models\chip body.step`, &block)
	require.NoError(t, err)
	assert.Equal(t, "chip body.step", f.Name)
	m, err := h.CreateModel(t.Context(), h.me, wire.ModelEdit{Kind: "body", Name: "Chip"})
	require.NoError(t, err)
	_, err = h.CreateModel(t.Context(), h.me, wire.ModelEdit{Kind: "body", Name: "chip"})
	fails(t, err, "name-taken")
	id, err := service.ParseID(m.ID)
	require.NoError(t, err)
	_, err = h.ReleaseModel(t.Context(), h.me, id, m.Version, wire.Release{Note: "x"})
	fails(t, err, "no-file")

	e := resistor("1k", "A")
	e.Body = &part.Model{ID: m.ID}
	p := h.make(e)
	_, err = h.Release(t.Context(), h.me, p.ID, p.Version, wire.Release{Note: "x"})
	assert.Contains(t, fails(t, err, "not-ready").Error(), "is not released")
	wrong := p.Draft.Edit()
	wrong.Body, wrong.Symbol = nil, &part.Model{ID: m.ID}
	_, err = h.SaveDraft(t.Context(), h.me, p.ID, p.Version, wrong)
	assert.Contains(t, fails(t, err, "values-wrong").Error(), "Chip is a body, not a symbol")

	m, err = h.SaveModel(t.Context(), h.me, id, m.Version, wire.ModelEdit{Kind: "body", Name: "Chip", FileHash: f.Hash, FileName: f.Name})
	require.NoError(t, err)
	m, err = h.ReleaseModel(t.Context(), h.me, id, m.Version, wire.Release{Note: "drawn"})
	require.NoError(t, err)
	e = p.Draft.Edit()
	e.Body.Revision = 1
	p, err = h.SaveDraft(t.Context(), h.me, p.ID, p.Version, e)
	require.NoError(t, err)
	p, err = h.Release(t.Context(), h.me, p.ID, p.Version, wire.Release{Note: "with its body"})
	require.NoError(t, err)
	m, err = h.SaveModel(t.Context(), h.me, id, m.Version, wire.ModelEdit{Kind: "body", Name: "Chip, rounder", FileHash: f.Hash, FileName: f.Name})
	require.NoError(t, err)
	m, err = h.ReleaseModel(t.Context(), h.me, id, m.Version, wire.Release{Note: "rounder"})
	require.NoError(t, err)
	require.Len(t, m.UsedBy, 1)
	m.UsedBy[0].Version = 0
	assert.Equal(t, []wire.ModelUse{{Part: p.Number, Place: "released body", Revision: 1, Newer: true}}, m.UsedBy)
	p, err = h.Part(t.Context(), h.me, p.ID)
	require.NoError(t, err)
	assert.Equal(t, 1, p.Released.Body.Revision, "the part stays as it was")
	assert.Equal(t, []string{"Chip: revision 2 is there, 1 is used"}, p.Newer)
}

const crosswalkText = "format: jolly-crosswalk/1\nsupplier: Marsh Lane\ndrawer: chip-resistors\ndecimalMark: point\ntake: {manufacturer: Maker, mpn: MPN, number: No}\nfields: [{from: Ohms, to: resistance, unit: ohm}, {from: Tol, to: tolerance}, {from: Size, to: case}]\n"

// intake opens an intake for rows of a small file.
func (h house) intake(text string) (wire.Intake, store.ID) {
	h.t.Helper()
	f, err := h.KeepFile(h.t.Context(), h.me, "rows.csv", strings.NewReader("No,Maker,MPN,Ohms,Tol,Size,Stock\n"+text))
	require.NoError(h.t, err)
	i, err := h.OpenIntake(h.t.Context(), h.me, wire.NewIntake{Supplier: "Marsh Lane", FileHash: f.Hash, FileName: f.Name})
	require.NoError(h.t, err)
	id, err := service.ParseID(i.ID)
	require.NoError(h.t, err)
	return i, id
}

func (h house) wait(j wire.Job) wire.Job {
	h.t.Helper()
	id, err := service.ParseID(j.ID)
	require.NoError(h.t, err)
	require.Eventually(h.t, func() bool {
		j, err = h.Job(h.t.Context(), h.me, id)
		return err == nil && j.State != store.JobWaiting && j.State != store.JobRunning
	}, 30*time.Second, 10*time.Millisecond)
	return j
}

func TestAnIntakeFromNoCrosswalkToParts(t *testing.T) {
	h := open(t)
	i, id := h.intake("X-1,Tidewright,A-1,4700,1%,0805,9\n,Tidewright,A-2,10k,1%,0805,9\n,Tidewright,,1,1%,0805,9\n")
	assert.Contains(t, i.Problem, "There is no crosswalk for Marsh Lane yet.")
	assert.NotEmpty(t, i.Suggestions)
	_, err := h.TakeIn(t.Context(), h.me, id, i.Version, wire.TakeIn{Digest: i.Digest})
	fails(t, err, "no-crosswalk")
	_, err = h.ApplyCrosswalk(t.Context(), h.me, 0, crosswalkText)
	require.NoError(t, err)
	before, err := h.Intake(t.Context(), h.me, id)
	require.NoError(t, err)
	assert.Equal(t, 2, before.Counts["new"])
	assert.Equal(t, []string{"Stock"}, before.Unmapped)
	_, err = h.TakeIn(t.Context(), h.me, id, before.Version, wire.TakeIn{Digest: before.Digest})
	fails(t, err, "rows-blocked")
	after, err := h.EditIntake(t.Context(), h.me, id, before.Version, wire.IntakeEdit{LeaveOut: []int{4}})
	require.NoError(t, err)
	assert.Equal(t, 1, after.Counts["left out"])
	_, err = h.TakeIn(t.Context(), h.me, id, after.Version, wire.TakeIn{Digest: before.Digest})
	fails(t, err, "preview-stale")
	_, err = h.EditIntake(t.Context(), h.me, id, before.Version, wire.IntakeEdit{LeaveOut: []int{2}})
	fails(t, err, "changed-meanwhile")
	blocked, err := h.IntakeRows(t.Context(), h.me, id, "new", "", 1, 1)
	require.NoError(t, err)
	assert.Equal(t, 2, blocked.Page.Total)
	assert.Equal(t, "A-2", blocked.Items[0].MPN)

	c := h.me
	c.Deed = service.NewID()
	j, err := h.TakeIn(t.Context(), c, id, after.Version, wire.TakeIn{Digest: after.Digest})
	require.NoError(t, err)
	done := h.wait(j)
	require.NotNil(t, done.TakenIn, done.Error)
	assert.Equal(t, []string{"X-1", "EW-R-00001"}, done.TakenIn.Numbers, "a number that the file brings is kept")
	again, err := h.TakeIn(t.Context(), c, id, after.Version, wire.TakeIn{Digest: after.Digest})
	require.NoError(t, err)
	assert.Equal(t, j.ID, again.ID, "the same deed is the same job")
	c.Deed = service.NewID()
	_, err = h.TakeIn(t.Context(), c, id, after.Version, wire.TakeIn{Digest: after.Digest})
	fails(t, err, "taken-in")
	_, err = h.EditIntake(t.Context(), h.me, id, after.Version+1, wire.IntakeEdit{LeaveOut: []int{2}})
	fails(t, err, "taken-in")
	p, err := h.Part(t.Context(), h.me, "X-1")
	require.NoError(t, err)
	for _, v := range p.Draft.Values {
		if v.Key == "resistance" {
			assert.Equal(t, "4.7 kΩ", v.Text)
			assert.Equal(t, "rows.csv, row 2, field \"Ohms\"", v.Origin.String())
			assert.Equal(t, "without a unit, ohm is meant", v.Origin.Rule)
		}
	}
}

func TestAChangeOfTheLibraryMakesAPreviewStale(t *testing.T) {
	h := open(t)
	_, err := h.ApplyCrosswalk(t.Context(), h.me, 0, crosswalkText)
	require.NoError(t, err)
	i, id := h.intake(",Tidewright,A-1,4700,1%,0805,9\n")
	h.make(resistor("1k", "A-1"))
	_, err = h.TakeIn(t.Context(), h.me, id, i.Version, wire.TakeIn{Digest: i.Digest})
	fails(t, err, "preview-stale")
	now, err := h.Intake(t.Context(), h.me, id)
	require.NoError(t, err)
	assert.Equal(t, 1, now.Counts["differs"], "the part in the library is left as it is")
}

func TestAStoppedJobLeavesNothing(t *testing.T) {
	h := open(t)
	_, err := h.ApplyCrosswalk(t.Context(), h.me, 0, crosswalkText)
	require.NoError(t, err)
	var b strings.Builder
	for n := range 9000 {
		fmt.Fprintf(&b, ",Tidewright,S-%d,%d,1%%,0805,1\n", n, n+1)
	}
	i, id := h.intake(b.String())
	j, err := h.TakeIn(t.Context(), h.me, id, i.Version, wire.TakeIn{Digest: i.Digest})
	require.NoError(t, err)
	jid, err := service.ParseID(j.ID)
	require.NoError(t, err)
	_, err = h.StopJob(t.Context(), h.me, jid)
	require.NoError(t, err)
	done := h.wait(j)
	assert.Equal(t, store.JobStopped, done.State)
	assert.Zero(t, h.Index.Len())
	i, err = h.Intake(t.Context(), h.me, id)
	require.NoError(t, err)
	assert.Equal(t, "open", i.State, "it can be taken in again")
}

func TestADrawerWithPartsCannotBeTakenAway(t *testing.T) {
	h := open(t)
	h.make(resistor("1k", "A"))
	now, err := h.Cabinet(t.Context(), h.me)
	require.NoError(t, err)
	_, err = h.ApplyCabinet(t.Context(), h.me, now.Version, "format: jolly-cabinet/1\nparameters: []\ndrawers: []\n")
	fails(t, err, "drawer-in-use")
	_, err = h.ApplyCabinet(t.Context(), h.me, now.Version+5, "format: jolly-cabinet/1\nparameters: []\ndrawers: [{key: chip-resistors, label: Chips, prefix: EW-R, digits: 5}]\n")
	fails(t, err, "changed-meanwhile")
	_, err = h.ApplyCrosswalk(t.Context(), h.me, 0, strings.Replace(crosswalkText, "to: case", "to: colours", 1))
	fails(t, err, "crosswalk-wrong")
}

func TestABOMIsExportedWithLinkedLinesOnly(t *testing.T) {
	h := open(t)
	p := h.make(resistor("4k7", "TW-4K7"))
	f, err := h.KeepFile(t.Context(), h.me, "bom.csv", strings.NewReader("Ref,Qty,Value,Package,MPN\n\"R1,R2\",2,4k7,0805,TW 4K7\nR3,1,4k7,0805,\nR4,1,=1+1,,\n"))
	require.NoError(t, err)
	b, err := h.BringBOM(t.Context(), h.me, wire.NewBOM{Name: "Board A", FileHash: f.Hash, FileName: f.Name})
	require.NoError(t, err)
	assert.Equal(t, map[string]int{"linked": 1, "proposed": 1, "several": 0, "not in the library": 1, "not fitted": 0}, b.Counts)
	export := func() [][]string {
		var out bytes.Buffer
		require.NoError(t, h.ExportBOM(t.Context(), h.me, "board a", "csv", &out))
		all, err := csv.NewReader(&out).ReadAll()
		require.NoError(t, err)
		return all
	}
	table := export()
	assert.Equal(t, p.Number, table[1][4])
	assert.Empty(t, table[2][4], "a proposal nobody accepted is not ordered from")
	at := slices.Index(table[0], "Value (as written)")
	assert.Equal(t, "'=1+1", table[3][at], "no cell runs as a formula")
	assert.Equal(t, "TW 4K7", table[1][slices.Index(table[0], "MPN (as written)")], "all that came in is kept")
	_, err = h.ChooseBOM(t.Context(), h.me, b.ID, b.Version, wire.BOMChoices{Choose: []wire.BOMChoice{{Row: 99, Part: p.ID}, {Row: 3, Part: service.NewID().String()}}})
	assert.Len(t, fails(t, err, "choices-wrong").Places, 2)
	b, err = h.ChooseBOM(t.Context(), h.me, b.ID, b.Version, wire.BOMChoices{Choose: []wire.BOMChoice{{Row: 3, Part: p.ID}}})
	require.NoError(t, err)
	assert.Equal(t, p.Number, export()[2][4])
	_, err = h.ChooseBOM(t.Context(), h.me, b.ID, b.Version-1, wire.BOMChoices{Withdraw: []int{3}})
	fails(t, err, "changed-meanwhile")
	_, err = h.BringBOM(t.Context(), h.me, wire.NewBOM{Name: "BOARD A", FileHash: f.Hash, FileName: f.Name})
	fails(t, err, "name-taken")
}

func TestVerifyNamesWhatWasTamperedWith(t *testing.T) {
	h := open(t)
	p := h.make(resistor("1k", "A"))
	v, err := h.Verify(t.Context(), h.me)
	require.NoError(t, err)
	assert.Empty(t, v.Different)
	require.NoError(t, h.Seal(t.Context()))
	// The service's own account may change heads: a head that was bent no longer fits its trail.
	require.NoError(t, h.Store.Read(t.Context()).Exec("UPDATE heads SET trail_seq = 7 WHERE number = ?", p.Number).Error)
	v, err = h.Verify(t.Context(), h.me)
	require.NoError(t, err)
	require.Len(t, v.Different, 1)
	assert.Contains(t, v.Different[0], p.Number)
	require.NoError(t, h.Store.Read(t.Context()).Exec("DELETE FROM source_keys").Error)
	v, err = h.Verify(t.Context(), h.me)
	require.NoError(t, err)
	assert.Contains(t, strings.Join(v.Different, "\n"), "1 of its sources have no key")
}

func TestFilesAreKeptOnceAndWhole(t *testing.T) {
	h := open(t)
	big := bytes.Repeat([]byte("tide"), 700_000) // three pieces
	one, err := h.KeepFile(t.Context(), h.me, "a.bin", bytes.NewReader(big))
	require.NoError(t, err)
	two, err := h.KeepFile(t.Context(), h.me, "b.bin", bytes.NewReader(big))
	require.NoError(t, err)
	assert.Equal(t, one.Hash, two.Hash)
	r, size, err := h.File(t.Context(), h.me, one.Hash)
	require.NoError(t, err)
	defer r.Close()
	assert.EqualValues(t, len(big), size)
	var back bytes.Buffer
	_, err = back.ReadFrom(r)
	require.NoError(t, err)
	assert.True(t, bytes.Equal(big, back.Bytes()))
	_, _, err = h.File(t.Context(), h.me, "../../etc/passwd")
	fails(t, err, "not-found")
	_, err = h.KeepFile(t.Context(), h.me, "c.bin", &breaking{})
	assert.ErrorIs(t, err, errBroken)
}

var errBroken = errors.New("the line broke")

type breaking struct{ n int }

func (b *breaking) Read(p []byte) (int, error) {
	if b.n++; b.n > 3 {
		return 0, errBroken
	}
	return len(p), nil
}
