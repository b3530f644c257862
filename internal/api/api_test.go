package api_test

import (
	"bytes"
	"context"
	"encoding/json"
	"fmt"
	"io"
	"net/http"
	"net/http/httptest"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jollydrawer/internal/api"
	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/service/housetest"
	"jollydrawer/internal/testdb"
	"jollydrawer/internal/wire"
)

func TestMain(m *testing.M) { testdb.Main(m) }

// door is the API of a house, asked with the administrator's token.
type door struct {
	housetest.House
	url, token string
}

func open(t *testing.T, with ...func(*api.Server)) door {
	t.Helper()
	return openOn(t, housetest.Open(t), with...)
}

func openOn(t *testing.T, h housetest.House, with ...func(*api.Server)) door {
	t.Helper()
	s := &api.Server{Service: h.App, Follower: h.Follower, Console: http.Dir(t.TempDir()), Closing: make(chan struct{})}
	for _, change := range with {
		change(s)
	}
	web := httptest.NewServer(s.New())
	t.Cleanup(web.Close)
	k, err := h.People.AddToken(t.Context(), h.Me, wire.NewToken{Name: "tests"})
	require.NoError(t, err)
	return door{h, web.URL + "/api/v1", k.Secret}
}

type answer struct {
	status int
	header http.Header
	body   string
}

// ask sends one request; head holds pairs of further headers.
func (d door) ask(ctx context.Context, method, path string, body any, head ...string) (a answer, err error) {
	raw, err := json.Marshal(body)
	if err != nil {
		return a, err
	}
	req, err := http.NewRequestWithContext(ctx, method, d.url+path, bytes.NewReader(raw))
	if err != nil {
		return a, err
	}
	req.Header.Set("Authorization", "Bearer "+d.token)
	req.Header.Set("Content-Type", "application/json")
	for i := 0; i+1 < len(head); i += 2 {
		req.Header.Set(head[i], head[i+1])
	}
	res, err := http.DefaultClient.Do(req)
	if err != nil {
		return a, err
	}
	defer res.Body.Close()
	text, err := io.ReadAll(res.Body)
	return answer{res.StatusCode, res.Header, string(text)}, err
}

func (d door) must(method, path string, body any, head ...string) answer {
	d.T.Helper()
	a, err := d.ask(d.T.Context(), method, path, body, head...)
	require.NoError(d.T, err)
	return a
}

// One deed that is sent many times at once, as an impatient page or a proxy does, is done once and answers alike.
func TestADeedSentThirtyTwoTimesAtOnceIsDoneOnceAndAnswersAlike(t *testing.T) {
	d := open(t)
	part := d.Make(housetest.Rated("4k7", "A-1"))
	twin := d.Make(housetest.Rated("4k7", "A-2"))
	draft := d.Make(housetest.Rated("8k2", "A-3"))
	intake := d.Listed("R;Tidewright;P-1;4k7;1%;0805;\nR;Tidewright;P-2;8k2;1%;0805;\n")
	bom := d.Board(t, "Board A", "Ref,Qty,Note\nR1,1,x\n")
	at := func(version int) []string { return []string{"If-Match", fmt.Sprintf("%q", fmt.Sprint(version))} }
	for _, c := range []struct {
		name, method, path string
		body               any
		head               []string
	}{
		{"make a part", "POST", "/parts", housetest.Rated("1k", "B-1"), nil},
		{"save a draft", "PUT", "/parts/" + draft.ID + "/draft", housetest.Rated("9k1", "A-3"), at(draft.Version)},
		{"release", "POST", "/parts/" + part.ID + "/release", wire.Release{Note: "made"}, at(part.Version)},
		{"merge", "POST", "/parts/" + twin.ID + "/merge", wire.Merge{Into: part.Number, Why: "twins"}, at(twin.Version)},
		{"take in", "POST", "/intakes/" + intake.ID + "/take-in", wire.TakeIn{Digest: intake.Digest}, at(intake.Version)},
		{"choose for a line", "POST", "/boms/" + bom.ID + "/choices", wire.BOMChoices{Choose: []wire.BOMChoice{{Row: 2, Part: draft.ID, Reason: "agreed"}}}, at(bom.Version)},
		{"add a choice", "POST", "/cabinet/choices", map[string]string{"parameter": "dielectric", "choice": "Z5"}, nil},
	} {
		head := append([]string{"Deed-Id", deed.NewID().String()}, c.head...)
		const times = 32
		got := make(chan answer, times)
		for range times {
			go func() {
				a, err := d.ask(t.Context(), c.method, c.path, c.body, head...)
				if err != nil {
					a.body = err.Error()
				}
				got <- a
			}()
		}
		first := <-got
		require.Equal(t, http.StatusOK, first.status, "%s: %s", c.name, first.body)
		for range times - 1 {
			a := <-got
			assert.Equal(t, http.StatusOK, a.status, "%s: %s", c.name, a.body)
			assert.Equal(t, sameOf(first.body), sameOf(a.body), c.name)
		}
	}
	v, err := d.Audit.Verify(t.Context(), d.Me)
	require.NoError(t, err)
	assert.Empty(t, v.Different)
}

// sameOf is what must be alike in the answers to one deed: which thing it is. How far it is by then may differ.
func sameOf(body string) string {
	var one struct{ ID, Number, Name string }
	_ = json.Unmarshal([]byte(body), &one)
	return one.ID + " " + one.Number + " " + one.Name
}

// Who has an answer already is not sent it again; whatever changes in it, the version or not, is sent.
func TestAnAnswerThatAClientHasIsNotSentAgain(t *testing.T) {
	d := open(t)
	p := d.Make(housetest.Rated("4k7", "A-1"))
	path := "/parts/" + p.ID
	first := d.must("GET", path, nil)
	tag := first.header.Get("ETag")
	require.Regexp(t, `^"1-[0-9a-f]{20}"$`, tag)
	for _, has := range []string{tag, "W/" + tag, `"x", ` + tag, tag + `,"y"`} {
		again := d.must("GET", path, nil, "If-None-Match", has)
		assert.Equal(t, http.StatusNotModified, again.status, has)
		assert.Empty(t, again.body)
		assert.Equal(t, tag, again.header.Get("ETag"))
	}
	for _, has := range []string{`"1"`, `"1-00000000000000000000"`, "", strings.Trim(tag, `"`)} {
		assert.Equal(t, first.body, d.must("GET", path, nil, "If-None-Match", has).body, has)
	}
	d.Board(t, "Board A", "Ref,Qty,MPN\nR1,1,A-1\n") // it uses the part, whose version stays
	saved := d.must("PUT", path+"/draft", housetest.Rated("9k1", "A-1"), "If-Match", tag)
	require.Equal(t, http.StatusOK, saved.status, "a whole ETag names the version: %s", saved.body)
	now := d.must("GET", path, nil, "If-None-Match", tag)
	assert.Equal(t, http.StatusOK, now.status)
	assert.Contains(t, now.body, "9.1 kΩ")

	for _, list := range []string{"/parts?q=tidewright&facets=true", "/models", "/cabinet", "/boms", "/me"} {
		a := d.must("GET", list, nil)
		require.Equal(t, http.StatusOK, a.status, list)
		tag := a.header.Get("ETag")
		require.NotEmpty(t, tag, list)
		assert.Equal(t, http.StatusNotModified, d.must("GET", list, nil, "If-None-Match", tag).status, list)
	}
	parts := d.must("GET", "/parts?q=tidewright", nil).header.Get("ETag")
	d.Make(housetest.Rated("1k", "A-2"))
	assert.Equal(t, http.StatusOK, d.must("GET", "/parts?q=tidewright", nil, "If-None-Match", parts).status, "a list with one part more")

	assert.Empty(t, d.must("GET", "/parts/nowhere", nil).header.Get("ETag"), "a refusal is no answer to keep")
	assert.Equal(t, http.StatusOK, d.must("POST", "/parts", housetest.Rated("3k", "A-3"), "If-None-Match", "*").status, "only what is asked for is compared")
	export := d.must("GET", "/part-list?format=csv", nil)
	assert.Equal(t, http.StatusOK, export.status)
	assert.Contains(t, export.body, "A-3", "a stream goes out as it comes")
}

func TestConcurrentTakeInsOfOneIntakeAreOneJob(t *testing.T) {
	d := open(t)
	var rows strings.Builder
	for i := range 3000 {
		fmt.Fprintf(&rows, "R;Tidewright;P-%d;%d;1%%;0805;\n", i, i+1)
	}
	i := d.Listed(rows.String())
	const people = 8
	jobs := make(chan string, people)
	for range people {
		go func() {
			a, err := d.ask(t.Context(), "POST", "/intakes/"+i.ID+"/take-in", wire.TakeIn{Digest: i.Digest}, "If-Match", fmt.Sprintf("%q", fmt.Sprint(i.Version)))
			if err != nil || a.status != http.StatusOK {
				a.body = fmt.Sprint(err, a.status, a.body)
			}
			var j wire.Job
			_ = json.Unmarshal([]byte(a.body), &j)
			jobs <- j.ID
		}()
	}
	seen := map[string]bool{}
	for range people {
		seen[<-jobs] = true
	}
	require.Len(t, seen, 1, "%v", seen)
	for id := range seen {
		j := d.Wait(wire.Job{ID: id})
		require.NotNil(t, j.TakenIn, j.Error)
		assert.Equal(t, 3000, j.TakenIn.Parts)
	}
}

func TestWhatFailsOnlyBecauseTheDatabaseIsAwayMayBeTriedAgain(t *testing.T) {
	s, owner, line := testdb.OpenLine(t)
	d := openOn(t, housetest.OpenOn(t, s, owner, 20*time.Millisecond))
	require.Equal(t, http.StatusOK, d.must("GET", "/parts", nil).status)
	line.Cut(true)
	time.Sleep(1100 * time.Millisecond) // who a token belongs to is believed for a second
	for _, q := range [][2]string{{"GET", "/cabinet"}, {"GET", "/boms"}, {"POST", "/parts"}} {
		ctx, cancel := context.WithTimeout(t.Context(), 20*time.Second)
		defer cancel()
		a, err := d.ask(ctx, q[0], q[1], housetest.Resistor("1k", "A"))
		require.NoError(t, err)
		assert.Equal(t, http.StatusServiceUnavailable, a.status, "%s: %s", q[1], a.body)
		assert.NotEmpty(t, a.header.Get("Retry-After"), q[1])
		assert.Contains(t, a.body, "Try again in a moment")
	}
	line.Cut(false)
	assert.Equal(t, http.StatusOK, d.must("POST", "/parts", housetest.Resistor("1k", "A")).status, "and then it goes on")
}

func TestARequestHasADeadline(t *testing.T) {
	d := open(t, func(s *api.Server) { s.Deadline = time.Nanosecond })
	a := d.must("GET", "/boms", nil)
	assert.Equal(t, http.StatusServiceUnavailable, a.status)
	assert.Equal(t, "application/problem+json", a.header.Get("Content-Type"))
	assert.NotEmpty(t, a.header.Get("Retry-After"))
	assert.Contains(t, a.body, "took too long")
}

// A misspelt parameter would be without effect, and the answer one to another question.
func TestAParameterThatNobodyKnowsIsRefused(t *testing.T) {
	d := open(t)
	for path, takes := range map[string]string{
		"/parts?drawers=resistors": "drawer", "/boms?ofset=1": "It takes", "/part-list?colums=number": "columns", "/offer-list?piece=1": "pieces", "/trail-list?who=maren": "by", "/me?x": "It takes none",
		"/where-used?parts=R-00001": "part", "/models?kinds=symbol": "kind", "/readout-folder?drawer=resistors": "It takes none",
	} {
		a := d.must("GET", path, nil)
		assert.Equal(t, http.StatusUnprocessableEntity, a.status, path)
		assert.Contains(t, a.body, "There is no parameter", path)
		assert.Contains(t, a.body, takes, path)
	}
	assert.Equal(t, http.StatusOK, d.must("GET", "/part-list?format=csv&drawer=resistors&drawer=capacitors&f=resistance:1k", nil).status)
}

// Who shows a BOM and decides for a line is answered with what is otherwise by it, where that is asked for.
func TestADecisionIsAnsweredWithWhatItChanges(t *testing.T) {
	d := open(t)
	part := d.Make(housetest.Rated("4k7", "A-1"))
	bom := d.Board(t, "Board A", "Ref,Qty,Note\nR1,1,x\nR2,1,y\nR3,1,z\n")
	for _, c := range []struct {
		ask   string
		lines int
	}{{"", 3}, {"?lines=all", 3}, {"?lines=otherwise", 1}} {
		a := d.must("POST", "/boms/"+bom.ID+"/choices"+c.ask, wire.BOMChoices{Choose: []wire.BOMChoice{{Row: 2, Part: part.ID, Reason: "agreed" + c.ask}}}, "If-Match", fmt.Sprintf("%q", fmt.Sprint(bom.Version)))
		require.Equal(t, http.StatusOK, a.status, a.body)
		require.NoError(t, json.Unmarshal([]byte(a.body), &bom))
		assert.Len(t, bom.Lines, c.lines, c.ask)
		assert.Equal(t, c.lines == 1, bom.Partial, c.ask)
		assert.Equal(t, 1, bom.Counts["linked"], "counts are of the whole board")
		assert.Equal(t, fmt.Sprintf("%q", fmt.Sprint(bom.Version)), a.header.Get("ETag"))
	}
	assert.Equal(t, http.StatusUnprocessableEntity, d.must("POST", "/boms/"+bom.ID+"/choices?lines=some", wire.BOMChoices{}, "If-Match", `"1"`).status)
}
