package app_test

import (
	"encoding/json"
	"fmt"
	"os"
	"reflect"
	"regexp"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jollydrawer/core/trail"
	"jollydrawer/internal/service/app"
	"jollydrawer/internal/service/audit"
	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/service/housetest"
	"jollydrawer/internal/testdb"
	"jollydrawer/internal/wire"
)

// readers are the methods that write nothing.
var readers = []string{"Audit.Verify", "BOMs.Get", "BOMs.GetOf", "BOMs.Proof", "BOMs.List", "BOMs.Sheet", "BOMs.SheetName", "BOMs.Endings", "BOMs.Severities", "BOMs.SheetForms", "BOMs.Unite", "BOMs.Readings", "BOMs.WhereUsed", "BOMs.BoardsWith", "BOMs.Opens", "BOMs.Revision", "BOMs.Revisions", "BOMs.Compare", "BOMs.Check", "BOMs.Cost", "Cabinets.Get", "Cabinets.DrawerUse", "Cabinets.TryPatterns", "Cabinets.Crosswalk", "Cabinets.Crosswalks",
	"Deliveries.Get", "Deliveries.List", "Deliveries.Preview", "Files.Open", "Finder.Compare", "Finder.Search", "Finder.Export", "Finder.Views", "Fitting.PinsOnPads", "Fitting.Board", "Fitting.TryDrawing", "Fitting.SymbolOf", "Fitting.PartFile",
	"Intakes.TryRule", "Intakes.TryCrosswalk", "Intakes.Try", "Intakes.ReadPart", "Intakes.Records", "Intakes.Get", "Intakes.List", "Intakes.Rows", "Intakes.Row", "Intakes.Findings", "Intakes.Decisions", "Intakes.AllDecisions",
	"Models.TrySymbol", "Models.TryLand", "Models.ComparePins", "Models.Causes", "Models.Twins", "Models.Like", "Models.File", "Models.Get", "Models.List", "Models.Trail", "Models.Preview", "Models.Diff",
	"Parts.ForChange", "Parts.Alike", "Parts.Get", "Parts.Revision", "Parts.Diff", "Parts.Trail", "Parts.CopyOf", "People.Me", "People.Accounts", "People.Tokens", "Readout.WriteFolder", "Readout.Status", "Notices.List", "Notices.Unread", "Notices.Watches", "Notices.Told", "Notices.Sendings", "Comments.List", "Audit.Trail", "Audit.ExportTrail",
	"Reform.Preview", "Reform.History", "Work.Get",
	"People.Groups", "Lifecycles.Document", "Lifecycles.Documents", "Lifecycles.Life", "Lifecycles.Preview", "Lifecycles.PreviewDocument", "Lifecycles.Queue", "Lifecycles.Review", "Lifecycles.Together", "Lifecycles.Waivers",
	"Wants.Look", "Offers.Ask", "Offers.Try", "Offers.Connection", "Offers.Connections", "Offers.OfPart", "Offers.News", "Offers.Waiting", "Offers.Limits", "Offers.Export", "Offers.Rates", "Series.Get", "Series.List", "Series.Proposals", "Worklist.Get", "Wants.Get", "Wants.List",
}

// carriers are the methods through which other rooms write; they are tried with each of those.
var carriers = []string{"Work.Start", "Policy.Hold", "Policy.LetGo", "Lifecycles.MoveFound", "Parts.CreateFor", "Parts.SaveFor", "Deliveries.Arrived"}

func TestEveryDeedIsTried(t *testing.T) {
	tried := map[string]bool{}
	for _, x := range slices.Concat(tries, triesOfRooms, triesOfBOMs) {
		tried[x.deed] = true
	}
	a := reflect.TypeOf(app.App{})
	for f := range a.Fields() {
		if f.Anonymous || f.Type.Kind() != reflect.Pointer || !strings.Contains(f.Type.Elem().PkgPath(), "/service/") {
			continue
		}
		for m := range f.Type.Methods() {
			name := f.Name + "." + m.Name
			_, promoted := reflect.TypeFor[*deed.Desk]().MethodByName(m.Name)
			if promoted || m.Type.NumIn() < 3 || m.Type.In(2) != reflect.TypeFor[deed.Call]() || slices.Contains(readers, name) || slices.Contains(carriers, name) {
				continue
			}
			assert.True(t, tried[name], "%s writes and is not tried under faults", name)
		}
	}
}

// soaking is whether every statement fails in every way, and a second try comes between any two of them, which takes three times as
// long: make soak.
var soaking = os.Getenv("JOLLY_SOAK") != ""

// Whatever happens to one statement of a deed, the deed is done once and whole, and answers as if nothing had happened.
func TestADeedIsDoneOnceWhateverHappensToOneOfItsStatements(t *testing.T) {
	for _, x := range slices.Concat(tries, triesOfRooms, triesOfBOMs) {
		t.Run(x.deed, func(t *testing.T) {
			t.Parallel()
			s, owner, line := testdb.OpenLine(t)
			h := housetest.OpenOn(t, s, owner, time.Hour, func(o *app.Options) { o.Lease = 3 * time.Second }) // putting deeds in order is a write of its own; a job that is kept waiting for a processor keeps its lease
			ctx := t.Context()
			if !x.job {
				ctx = line.Watch(ctx)
			}
			n := 0
			run := func(at int, f testdb.Fault) (string, int, bool) {
				n++
				name := word(n)
				do := x.ready(h, name)
				c := deed.Call{Actor: h.Me.Actor, Deed: deed.NewID()}
				line.Fail(at, f)
				out, err := do(ctx, c)
				count, met := line.Count()
				line.Fail(0, "")
				require.NoError(t, err, "%s at statement %d of %d", f, at, count)
				again, err := do(ctx, c)
				require.NoError(t, err, "sent again")
				assert.Equal(t, plain(t, out, name), plain(t, again, name), "the same deed sent again answers the same (%s at statement %d)", f, at)
				return plain(t, out, name), count, met
			}
			want, statements, _ := run(0, "")
			require.Positive(t, statements, "it writes nothing")
			for i, f := range testdb.Faults {
				for at := 1; at <= statements; at++ {
					if !soaking && at < statements && (at+len(x.deed))%len(testdb.Faults) != i {
						continue // every statement fails once, in one of the ways; the last one, which commits, in each of them
					}
					got, _, met := run(at, f)
					assert.Equal(t, want, got, "%s at statement %d of %d", f, at, statements)
					assert.True(t, met || x.job, "statement %d of %d was not reached: %s", at, statements, f)
				}
			}
			v, err := h.Audit.Verify(t.Context(), h.Me)
			require.NoError(t, err)
			assert.Empty(t, v.Different)
			said, err := h.Audit.Trail(t.Context(), h.Me, audit.TrailQuery{Limit: 1000})
			require.NoError(t, err)
			for _, e := range said.Items {
				assert.True(t, trail.Known(e.Action), "there are no words for %q", e.Action)
			}
		})
	}
}

// Two tries of one deed, of which the second is done whole between two statements of the first, answer alike: the first
// must not be told what it meets because of the other. They go to two instances, as from a proxy that tries again.
func TestADeedThatItsOwnSecondTryOvertakesAnswersAlike(t *testing.T) {
	for _, x := range slices.Concat(tries, triesOfRooms, triesOfBOMs) {
		t.Run(x.deed, func(t *testing.T) {
			t.Parallel()
			s, owner, line := testdb.OpenLine(t)
			h := housetest.OpenOn(t, s, owner, 10*time.Millisecond)
			beside := h.Beside()
			first, second := *h.App, *beside.App
			turn := first
			h.App = &turn
			ctx := line.Watch(t.Context())
			n := 0
			run := func(gap int) int {
				n++
				name := word(n)
				do := x.ready(h, name)
				beside.Level()
				c := deed.Call{Actor: h.Me.Actor, Deed: deed.NewID()}
				var other any
				line.Overtake(gap, func() {
					turn = second
					defer func() { turn = first }()
					var err error
					other, err = do(t.Context(), c)
					assert.NoError(t, err, "the second try, before statement %d", gap)
				})
				out, err := do(ctx, c)
				gaps := line.Gaps()
				line.Overtake(0, nil)
				if assert.NoError(t, err, "overtaken before statement %d", gap) && other != nil {
					assert.Equal(t, plain(t, other, name), plain(t, out, name), "overtaken before statement %d", gap)
				}
				return gaps
			}
			gaps := run(0)
			require.Positive(t, gaps)
			for gap := 1; gap <= gaps; gap++ {
				if soaking || gap == 1 || gap == gaps || (gap+len(x.deed))%3 == 0 {
					run(gap)
				}
			}
		})
	}
}

// word is a name that no number or hash contains, as long as all others.
func word(n int) string {
	out := []byte("zzzz")
	for i := 3; n > 0; i-- {
		out[i] = byte('g' + n%20)
		n /= 20
	}
	return string(out)
}

var (
	ids    = regexp.MustCompile(`[0-9a-f]{8}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{12}`)
	hashes = regexp.MustCompile(`[0-9a-f]{32,64}`)
	times  = regexp.MustCompile(`\d{4}-\d\d-\d\dT[\d:.]+Z`)
	counts = regexp.MustCompile(`\b(EW-[A-Z]+|IN|DL)-\d+\b`)
	clocks = regexp.MustCompile(`"(digest|secret|csrf)":"[^"]*"`)
)

// plain is an answer without what differs from one time to the next.
func plain(t *testing.T, out any, n string) string {
	t.Helper()
	raw, err := json.Marshal(out)
	require.NoError(t, err)
	text := strings.ReplaceAll(strings.ReplaceAll(string(raw), n, "#"), strings.ToUpper(n), "#")
	for _, x := range []*regexp.Regexp{clocks, times, ids, hashes, counts} {
		text = x.ReplaceAllString(text, "@")
	}
	return text
}

// later is a deed whose answer is looked at by what it left, such as a job's.
func ended(h housetest.House, j wire.Job, err error) (any, error) {
	if err != nil {
		return nil, err
	}
	j = h.Wait(j)
	if j.State != "done" {
		return nil, fmt.Errorf("the job ended as %s: %s", j.State, j.Error)
	}
	j.Done, j.Total = 0, 0
	return j, nil
}
