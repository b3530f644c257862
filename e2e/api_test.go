package e2e

import (
	"bytes"
	"encoding/json"
	"io"
	"net/http"
	"net/http/cookiejar"
	"strings"
	"testing"
	"time"

	"github.com/google/uuid"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jollydrawer/core/part"
	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/wire"
)

// ask sends one plain HTTP request with a JSON body and decodes the answer into out.
func ask(t *testing.T, h *http.Client, method, url string, header map[string]string, body, out any) *http.Response {
	t.Helper()
	var r io.Reader
	if s, ok := body.(string); ok {
		r = strings.NewReader(s)
	} else if body != nil {
		raw, err := json.Marshal(body)
		require.NoError(t, err)
		r = bytes.NewReader(raw)
	}
	q, err := http.NewRequestWithContext(t.Context(), method, url, r)
	require.NoError(t, err)
	q.Header.Set("Content-Type", "application/json")
	for k, v := range header {
		q.Header.Set(k, v)
	}
	res, err := h.Do(q)
	require.NoError(t, err)
	defer res.Body.Close()
	raw, err := io.ReadAll(res.Body)
	require.NoError(t, err)
	if out != nil {
		require.NoError(t, json.Unmarshal(raw, out), string(raw))
	}
	return res
}

func TestTheAPIByPlainHTTP(t *testing.T) {
	i := serve2(t)
	stocked(t, i.admin(t))
	jar, err := cookiejar.New(nil)
	require.NoError(t, err)
	h := &http.Client{Jar: jar, Timeout: time.Minute}
	v1 := i.url + "/api/v1"

	var p wire.Problem
	res := ask(t, h, "GET", v1+"/parts", nil, nil, &p)
	assert.Equal(t, 401, res.StatusCode)
	assert.Equal(t, "application/problem+json", res.Header.Get("Content-Type"))
	assert.Equal(t, "/problems/not-signed-in", p.Type)
	res = ask(t, h, "POST", v1+"/session", nil, wire.SignIn{Login: "admin", Password: "wrong-password"}, &p)
	assert.Equal(t, 401, res.StatusCode)

	var me wire.Me
	res = ask(t, h, "POST", v1+"/session", nil, wire.SignIn{Login: "admin", Password: adminPassword}, &me)
	require.Equal(t, 200, res.StatusCode)
	cookie := res.Header.Get("Set-Cookie")
	assert.Contains(t, cookie, "HttpOnly")
	assert.Contains(t, cookie, "SameSite=Strict")
	assert.Contains(t, res.Header.Get("Content-Security-Policy"), "default-src 'none'")

	edit := wire.PartEdit{Drawer: "chip-resistors", Values: map[string]string{"resistance": "4k7", "tolerance": "1%", "case": "0805"}, Sources: []part.Source{{Manufacturer: "Tidewright", MPN: "TW-1"}}}
	res = ask(t, h, "POST", v1+"/parts", nil, edit, &p)
	assert.Equal(t, 403, res.StatusCode, "a change made with the cookie needs the CSRF token")
	csrf := map[string]string{"X-CSRF-Token": me.CSRF, "Deed-Id": uuid.NewString()}
	var made, again wire.Part
	res = ask(t, h, "POST", v1+"/parts", csrf, edit, &made)
	require.Equal(t, 200, res.StatusCode)
	assert.Equal(t, `"1"`, res.Header.Get("ETag"))
	ask(t, h, "POST", v1+"/parts", csrf, edit, &again)
	assert.Equal(t, made.ID, again.ID, "the same deed sent again is done once")
	edit.Values["resistance"] = "5k1"
	res = ask(t, h, "POST", v1+"/parts", csrf, edit, &p)
	assert.Equal(t, 409, res.StatusCode, "one identifier, two deeds: %s", p.Detail)

	// Two people edit at once: the second is told and shown both.
	save := func(version, value string) (*http.Response, wire.Problem) {
		var raw json.RawMessage
		var out wire.Problem
		e := made.Draft.Edit()
		e.Values["power"] = value
		res := ask(t, h, "PUT", v1+"/parts/"+made.Number+"/draft", map[string]string{"X-CSRF-Token": me.CSRF, "If-Match": version}, e, &raw)
		if res.StatusCode >= 400 {
			require.NoError(t, json.Unmarshal(raw, &out))
		}
		return res, out
	}
	res, _ = save(`"1"`, "125 mW")
	require.Equal(t, 200, res.StatusCode)
	res, lost := save(`"1"`, "250 mW")
	assert.Equal(t, 412, res.StatusCode)
	require.NotNil(t, lost.Current)
	assert.Contains(t, lost.Detail, "was changed by Administrator meanwhile")
	assert.Equal(t, 2, lost.Current.Version)

	// A released revision never changes.
	ask(t, h, "POST", v1+"/parts/"+made.Number+"/release", map[string]string{"X-CSRF-Token": me.CSRF, "If-Match": `"2"`}, wire.Release{Note: "first"}, nil)
	var before, after wire.PartContent
	ask(t, h, "GET", v1+"/parts/"+made.Number+"/revisions/1", nil, nil, &before)
	save(`"3"`, "500 mW")
	ask(t, h, "GET", v1+"/parts/"+made.Number+"/revisions/1", nil, nil, &after)
	assert.Equal(t, before, after)

	for path, want := range map[string]int{"/healthz": 200, "/readyz": 200, "/metrics": 200, "/api/v1/openapi.json": 200, "/api/v1/nowhere": 404, "/parts": 200, "/../../etc/passwd": 200} {
		res := ask(t, h, "GET", i.url+path, nil, nil, nil)
		assert.Equal(t, want, res.StatusCode, path)
	}
	// Names may hold a slash, and nothing that is asked answers 500.
	edit.Number, edit.Sources = "OLD 17/b", nil
	ask(t, h, "POST", v1+"/parts", map[string]string{"X-CSRF-Token": me.CSRF}, edit, &made)
	assert.Equal(t, 200, ask(t, h, "GET", v1+"/parts/OLD%2017%2Fb", nil, nil, &again).StatusCode)
	assert.Equal(t, made.ID, again.ID)
	edit.Number = ""
	for name, change := range map[string]func(e *wire.PartEdit){
		"a long description": func(e *wire.PartEdit) { e.Description = strings.Repeat("x", 3000) },
		"a long value":       func(e *wire.PartEdit) { e.Values = map[string]string{"case": strings.Repeat("x", 70_000)} },
		"a long MPN": func(e *wire.PartEdit) {
			e.Sources = []part.Source{{Manufacturer: "K", MPN: strings.Repeat("x", 70_000)}}
		},
		"a file not there":  func(e *wire.PartEdit) { e.Datasheets = []part.File{{Hash: strings.Repeat("0", 64), Name: "x"}} },
		"a model not there": func(e *wire.PartEdit) { e.Body = &part.Model{ID: uuid.NewString()} },
	} {
		e := edit
		change(&e)
		assert.Equal(t, 422, ask(t, h, "POST", v1+"/parts", map[string]string{"X-CSRF-Token": me.CSRF}, e, nil).StatusCode, name)
	}
	for _, path := range []string{"/parts?offset=9223372036854775807", "/parts?q=%ff%00'\"", "/parts?sort=%00&limit=1000", "/parts/%00", "/parts/x/trail?offset=99999999999", "/boms/%2e%2e%2f", "/files/x", "/models?q=%25_",
		"/parts?q=" + strings.Repeat("1e9", 160), "/crosswalks/none", "/jobs/" + uuid.NewString(), "/intakes/x", "/parts/" + made.ID + "/diff?from=1&to=2"} {
		res := ask(t, h, "GET", v1+path, nil, nil, nil)
		assert.Less(t, res.StatusCode, 500, path)
	}
	res = ask(t, h, "PUT", v1+"/cabinet", map[string]string{"X-CSRF-Token": me.CSRF, "If-Match": `"1"`}, `{"text": 5`, &p)
	assert.Contains(t, []int{400, 422}, res.StatusCode, "a broken body is the sender's fault")
}

// requests holds one request for every operation; what it names does not exist, so that an allowed role gets an
// answer about the request and a forbidden one about itself.
var requests = map[deed.Op]struct {
	method, path string
	body         any
}{
	deed.OpRead:          {"GET", "/parts", nil},
	deed.OpOwnToken:      {"GET", "/tokens", nil},
	deed.OpOwnPassword:   {"POST", "/me/password", wire.OwnPassword{Password: "x", Next: "x"}},
	deed.OpViewShare:     {"POST", "/views", wire.ViewEdit{Name: "x", Query: "x", Shared: true}},
	deed.OpPartMerge:     {"POST", "/parts/none/merge", wire.Merge{Into: "x", Why: "x"}},
	deed.OpWant:          {"POST", "/wants", wire.WantsEdit{Wants: []wire.WantEdit{{Note: "x"}}}},
	deed.OpComment:       {"POST", "/things/none/comments", wire.NewComment{Text: "x"}},
	deed.OpHoldTakeOver:  {"POST", "/things/" + uuid.NewString() + "/hold", wire.TakeHold{Why: "x", TakeOver: true}},
	deed.OpWatch:         {"POST", "/watches", wire.WatchEdit{Of: "part", About: "none"}},
	deed.OpWantSettle:    {"POST", "/wants/none/state", wire.SettleWant{State: "taken on"}},
	deed.OpFileKeep:      {"POST", "/files?name=a.csv", "a,b\n1,2\n"},
	deed.OpPartEdit:      {"POST", "/parts", wire.PartEdit{Drawer: "none"}},
	deed.OpModelEdit:     {"POST", "/models", wire.ModelEdit{Kind: "symbol", Name: " "}},
	deed.OpIntakeEdit:    {"POST", "/intakes", wire.NewIntake{Supplier: "x", FileHash: "00", FileName: "x"}},
	deed.OpBOMEdit:       {"POST", "/boms", wire.NewBOM{Name: "x", FileHash: "00", FileName: "x"}},
	deed.OpBOMFreeze:     {"POST", "/boms/none/freeze", wire.FreezeBOM{Note: "x"}},
	deed.OpPartStanding:  {"POST", "/parts/none/successor", wire.SuccessorEdit{Number: "x", Why: "x"}},
	deed.OpModelRelease:  {"POST", "/deliveries/none/intake", wire.LibraryIntake{Supplier: "x", Note: "x"}},
	deed.OpCrosswalk:     {"PUT", "/crosswalks", wire.Text{Text: "x"}},
	deed.OpIntakeTakeIn:  {"POST", "/intakes/" + uuid.NewString() + "/take-in", wire.TakeIn{Digest: "x"}},
	deed.OpCabinet:       {"PUT", "/cabinet", wire.Text{Text: "x"}},
	deed.OpAccountManage: {"GET", "/accounts", nil},
	deed.OpMove:          {"POST", "/moves", wire.MoveThings{Things: []wire.PartBase{{ID: uuid.NewString(), Version: 1}}}},
	deed.OpReview:        {"POST", "/things/none/review/turn", wire.TakeTurn{}},
	deed.OpLifecycle:     {"POST", "/lifecycles", wire.LifecycleText{Text: "x"}},
	deed.OpVerify:        {"POST", "/verification", nil},
	deed.OpAsk:           {"POST", "/supplier-questions", wire.SupplierQuestion{Text: "x"}},
	deed.OpRefresh:       {"POST", "/offers/refresh", wire.RefreshOffers{}},
	deed.OpRates:         {"PUT", "/rates", wire.RatesEdit{Text: "x"}},
	deed.OpSeverities:    {"PUT", "/bom-severities", wire.SeveritiesEdit{Text: "x"}},
	deed.OpForms:         {"PUT", "/bom-sheets", wire.SheetFormsEdit{Text: "x"}},
	deed.OpConnection:    {"PUT", "/connections", wire.ConnectionEdit{Text: "x"}},
}

func TestEveryOperationAsksForItsRole(t *testing.T) {
	i := serve2(t)
	require.Len(t, requests, len(deed.May(deed.Administrator)), "every operation is asked for")
	forbidden := map[deed.Role][]deed.Op{}
	for n, role := range deed.Roles {
		k := i.as(t, "person"+string(rune('a'+n)), string(role))
		me, err := k.Me(t.Context())
		require.NoError(t, err)
		for op, q := range requests {
			res := ask(t, http.DefaultClient, q.method, i.url+"/api/v1"+q.path, map[string]string{"Authorization": "Bearer " + k.Token, "If-Match": `"1"`}, q.body, nil)
			assert.Equal(t, !deed.Allows(role, op), res.StatusCode == 403, "%s as %s: %d", op, role, res.StatusCode)
			assert.Less(t, res.StatusCode, 500, "%s as %s", op, role)
			assert.Equal(t, deed.Allows(role, op), strings.Contains(strings.Join(me.May, " "), string(op)))
			if res.StatusCode == 403 {
				forbidden[role] = append(forbidden[role], op)
			}
		}
	}
	assert.Len(t, forbidden[deed.Reader], 28)
	assert.Len(t, forbidden[deed.Engineer], 15)
	assert.ElementsMatch(t, []deed.Op{deed.OpAccountManage, deed.OpVerify, deed.OpLifecycle, deed.OpConnection}, forbidden[deed.Librarian])
	assert.Empty(t, forbidden[deed.Administrator])
}
