package e2e

import (
	"bytes"
	"database/sql"
	"encoding/json"
	"fmt"
	"math/rand/v2"
	"net/http"
	"strings"
	"testing"
	"time"

	"github.com/chromedp/chromedp/kb"
	"github.com/google/uuid"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jollydrawer/client"
	"jollydrawer/core/lifecycle"
	"jollydrawer/core/part"
	"jollydrawer/internal/wire"
)

// fourEyes puts a lifecycle in force by which a part is released by a second person, who signed it.
func fourEyes(t *testing.T, k *client.Client) {
	t.Helper()
	text, _ := lifecycle.Shipped("parts")
	next := strings.Replace(string(text), "from: [draft, in review], to: released, note: true, who: { role: librarian }, gates: [{ gate: required }]",
		"from: [in review], to: released, note: true, who: { role: engineer, notAuthor: true }, gates: [{ gate: required }, { gate: review }]", 1)
	require.NotEqual(t, string(text), next)
	_, err := k.ApplyLifecycle(t.Context(), 0, next)
	require.NoError(t, err)
}

// keys types on what is found by a selector.
func (p page) keys(selector, text string) {
	p.t.Helper()
	_, err := p.b.Eval(`document.querySelector('` + selector + `').focus(); 'ok'`)
	require.NoError(p.t, err)
	require.NoError(p.t, p.b.Keys(text))
	require.NoError(p.t, p.b.Idle())
}

func TestASecondPersonReviewsByKeyboard(t *testing.T) {
	i := serve2(t)
	admin := i.admin(t)
	stocked(t, admin)
	ines := i.as(t, "ines", "engineer")
	i.as(t, "tomas", "engineer")
	fourEyes(t, admin)
	for _, mpn := range []string{"KB-1", "KB-2"} {
		p, err := ines.MakePart(t.Context(), wire.PartEdit{Drawer: "chip-resistors", Values: map[string]string{"resistance": "4k7", "tolerance": "1%", "case": "0805"}, Sources: []part.Source{{Manufacturer: "Tidewright", MPN: mpn}}})
		require.NoError(t, err)
		_, err = ines.Move(t.Context(), wire.MoveThings{Move: "ask for review", Things: []wire.PartBase{{ID: p.ID, Version: p.Version}}})
		require.NoError(t, err)
	}

	// The author is told that it is for somebody else, and is offered no release.
	p := window(t, i, "ines")
	p.goTo("/queue")
	p.see("Nothing waits for you")
	p.goTo("/parts/EW-R-00001")
	p.see("you changed the content since it was last released")
	found, err := p.b.Eval(`String([...document.querySelectorAll('button')].some((b) => b.textContent.trim() === 'Release…'))`)
	require.NoError(t, err)
	assert.Equal(t, "false", found)
	disabled, err := p.b.Eval(`String([...document.querySelectorAll('button')].find((b) => b.textContent.trim() === 'Edit').disabled)`)
	require.NoError(t, err)
	assert.Equal(t, "true", disabled, "nothing is typed that could not be saved")

	// The second person goes from the queue to the list, ticks, signs and releases.
	p = window(t, i, "tomas")
	p.goTo("/queue")
	p.see("2 things wait")
	p.keys("[role=grid]", kb.Enter)
	p.see("Review of EW-R-00001")
	p.keys("[role=listbox]", kb.Enter)
	p.see("6 of 7 items are open")
	p.keys("[role=listbox]", strings.Repeat(kb.Enter, 6)) // quicker than the service answers
	p.see("all 7 items are ticked by you")
	p.press("Sign…")
	p.fill("Laid beside", "TW data, page 2")
	require.NoError(t, p.b.Keys(kb.Enter))
	p.see("You signed EW-R-00001 as it is.")
	p.press("Release…")
	p.fill("Note", "looked at by two")
	require.NoError(t, p.b.Keys(kb.Enter))
	p.see("EW-R-00001 is Released: everybody sees it now.")
	now, err := admin.Part(t.Context(), "EW-R-00001")
	require.NoError(t, err)
	assert.Equal(t, []any{"released", 1}, []any{now.Status, now.Revision})

	// What is changed after a signature is looked at again, and sent back with a note.
	p.goTo("/queue")
	p.see("1 thing waits")
	p.keys("[role=grid]", kb.Enter)
	p.see("Review of EW-R-00002")
	p.press("Send back…")
	p.fill("Note", "the tolerance is 5 %")
	require.NoError(t, p.b.Keys(kb.Enter))
	p.see("EW-R-00002 is Draft.")
	trail, err := admin.Trail(t.Context(), "EW-R-00002", 0, 1)
	require.NoError(t, err)
	assert.Contains(t, trail.Items[0].Detail, "the tolerance is 5 %")
}

// aSeries are parts of one datasheet that somebody passes to a second person.
func aSeries(t *testing.T, k *client.Client, ohms ...string) (out []wire.Part) {
	t.Helper()
	f, err := k.Upload(t.Context(), "tw series.pdf", strings.NewReader(file(t, "datasheets/tidewright-tw-series.pdf")))
	require.NoError(t, err)
	for _, o := range ohms {
		p, err := k.MakePart(t.Context(), wire.PartEdit{Drawer: "chip-resistors", Values: map[string]string{"resistance": o, "tolerance": "1%", "case": "0805"}, Sources: []part.Source{{Manufacturer: "Tidewright", MPN: "SR-" + o}},
			Datasheets: []part.File{{Hash: f.Hash, Name: "tw series.pdf"}}})
		require.NoError(t, err)
		_, err = k.Move(t.Context(), wire.MoveThings{Move: "ask for review", Things: []wire.PartBase{{ID: p.ID, Version: p.Version}}})
		require.NoError(t, err)
		out = append(out, p)
	}
	return out
}

func TestASeriesIsReviewedTogetherByKeyboard(t *testing.T) {
	i := serve2(t)
	admin := i.admin(t)
	stocked(t, admin)
	ines := i.as(t, "ines", "engineer")
	i.as(t, "tomas", "engineer")
	fourEyes(t, admin)
	parts := aSeries(t, ines, "1k", "2k2", "3k3")

	p := window(t, i, "tomas")
	p.goTo("/review/" + parts[0].ID)
	p.press("With its series…")
	p.see("3 parts wait for you with this datasheet")
	p.see("Alike in all 3: looked up once")
	p.keys("[role=grid]", strings.Repeat(kb.Enter, 4)) // all that is alike, and past it to the parts
	require.Eventually(t, func() bool {                // ticks are sent one after the other
		r, err := admin.Review(t.Context(), parts[2].ID)
		alike := 0
		for _, item := range r.Items {
			if len(item.By) > 0 {
				alike++
			}
		}
		return err == nil && alike >= 3
	}, 20*time.Second, 50*time.Millisecond, "one tick counts for every part")
	p.press("Sign 3…")
	p.see("open items too")
	require.NoError(t, p.b.Keys(kb.Tab+" "+kb.Enter))
	p.see("You signed 3 reviews.")
	for _, x := range parts {
		r, err := admin.Review(t.Context(), x.ID)
		require.NoError(t, err)
		require.Len(t, r.Signed, 1)
		assert.Equal(t, []any{"tw series.pdf, page 1", true, "Tomas"}, []any{r.Signed[0].Against, r.Signed[0].Current, r.Signed[0].By})
	}
	p.press("Move 3 on…")
	p.see("3 can be moved")
	p.fill("Note", "the whole series")
	require.NoError(t, p.b.Keys(kb.Enter))
	p.see("Release: 3 parts.")
	now, err := admin.Part(t.Context(), parts[1].Number)
	require.NoError(t, err)
	assert.Equal(t, []any{"released", 1}, []any{now.Status, now.Revision})
}

// enter activates a button, by its text, with the keyboard.
func (p page) enter(text string) {
	p.t.Helper()
	found, err := p.b.Eval(fmt.Sprintf(`(() => { const b = [...document.querySelectorAll('button')].find((b) => b.textContent.trim() === %q); b?.focus(); return String(document.activeElement === b); })()`, text))
	require.NoError(p.t, err)
	require.Equal(p.t, "true", found, "the keyboard reaches %s", text)
	require.NoError(p.t, p.b.Keys(kb.Enter))
	require.NoError(p.t, p.b.Idle())
}

func TestALifecycleIsChangedInItsTable(t *testing.T) {
	i := serve2(t)
	admin := i.admin(t)
	stocked(t, admin)
	p1, err := admin.MakePart(t.Context(), wire.PartEdit{Drawer: "chip-resistors", Values: map[string]string{"resistance": "4k7", "tolerance": "1%", "case": "0805"}})
	require.NoError(t, err)
	_, err = admin.Move(t.Context(), wire.MoveThings{Move: "ask for review", Things: []wire.PartBase{{ID: p1.ID, Version: p1.Version}}})
	require.NoError(t, err)
	p := window(t, i, "admin")
	p.goTo("/lifecycles?name=parts")
	p.keys(`[aria-label="Remove the state In review"]`, kb.Enter)
	p.see("With it go the moves")
	p.enter("Remove it from the table")
	p.enter("See what it changes…")
	p.see("1 thing in it becomes")
	p.enter("Put it in force")
	p.see("The lifecycle parts is in force.")
	now, err := admin.Part(t.Context(), p1.ID)
	require.NoError(t, err)
	assert.Equal(t, []any{"Draft", p1.Version + 1}, []any{now.States.Status.Word, now.Version}, "it is a draft again, and was not written")
	l, err := admin.Lifecycle(t.Context(), "parts")
	require.NoError(t, err)
	assert.Equal(t, map[string]string{"in review": "draft"}, l.Document.Becomes)

	// A group is made, and a move is given to it.
	p.goTo("/people")
	p.enter("Make a group…")
	p.fill("Name", "Eyes")
	p.keys(`[role=dialog] fieldset input[type=checkbox]`, " ")
	p.enter("Save the group")
	p.see("The group Eyes is saved.")
	groups, err := admin.Groups(t.Context())
	require.NoError(t, err)
	require.Len(t, groups.Items, 1)
	assert.Equal(t, "admin", groups.Items[0].Members[0].Login)
}

// The service is killed while thousands are released in one deed, and the deed is sent again under its identifier until it is
// answered: at no moment is some of it to be seen, and in the end all of it is there once.
func TestKillingTheServiceWhileManyAreReleased(t *testing.T) {
	t.Parallel() // it waits more than it works
	owner, dsn := freshSchema(t, shared)
	keeper, reader := readoutOf(t, owner)
	i := serve(t, owner, dsn, "--readout-dsn", keeper)
	k := i.admin(t)
	stocked(t, k)
	db, err := sql.Open("mysql", dsn)
	require.NoError(t, err)
	defer db.Close()
	tool, err := sql.Open("mysql", reader)
	require.NoError(t, err)
	defer tool.Close()
	shown(t, k, "chip-resistors")
	for n := range rounds() {
		word := fmt.Sprintf("KM%03d", n)
		j := begin(t, k, word)
		_, err := k.WaitJob(t.Context(), j.ID, nil)
		require.NoError(t, err)
		in := wire.MoveThings{Move: "release", Note: "round " + word}
		for offset := 0; offset < lot; offset += 1000 {
			l, err := k.Parts(t.Context(), client.PartQuery{Text: word, Status: []string{"draft"}, Offset: offset, Limit: 1000})
			require.NoError(t, err)
			for _, p := range l.Items {
				in.Things = append(in.Things, wire.PartBase{ID: p.ID, Version: p.Version})
			}
		}
		require.Len(t, in.Things, lot)
		seen := func() int {
			var heads, revisions int
			require.NoError(t, db.QueryRowContext(t.Context(), "SELECT COUNT(*) FROM heads WHERE kind = 'part' AND released IS NOT NULL").Scan(&heads))
			require.NoError(t, db.QueryRowContext(t.Context(), "SELECT COUNT(*) FROM revisions r JOIN heads h ON h.id = r.head AND h.kind = 'part'").Scan(&revisions))
			require.Contains(t, []int{n * lot, (n + 1) * lot}, heads, "some of a deed can be seen")
			var read int
			require.NoError(t, tool.QueryRowContext(t.Context(), "SELECT COUNT(*) FROM chip_resistors").Scan(&read))
			require.Contains(t, []int{n * lot, (n + 1) * lot}, read, "some of a deed can be read")
			require.GreaterOrEqual(t, read, heads, "what is released can be read")
			return read
		}
		deed := map[string]string{"Authorization": "Bearer " + k.Token, "Deed-Id": uuid.NewString()}
		raw, err := json.Marshal(in)
		require.NoError(t, err)
		send := func(at string) (status int) {
			req, err := http.NewRequestWithContext(t.Context(), http.MethodPost, at+"/api/v1/moves", bytes.NewReader(raw))
			require.NoError(t, err)
			req.Header.Set("Content-Type", "application/json")
			for name, v := range deed {
				req.Header.Set(name, v)
			}
			res, err := http.DefaultClient.Do(req)
			if err != nil {
				return 0 // the service was killed
			}
			defer res.Body.Close()
			return res.StatusCode
		}
		ended := make(chan int, 1)
		at := i.url
		go func() { ended <- send(at) }()
		time.Sleep(time.Duration(50+rand.IntN(2500)) * time.Millisecond)
		seen()
		i.kill()
		<-ended
		seen()
		i = serve(t, owner, dsn)
		k = client.New(i.url, k.Token)
		status := 0
		for range 10 {
			if status = send(i.url); status == http.StatusOK {
				break
			}
			seen()
		}
		require.Equal(t, http.StatusOK, status)
		assert.Equal(t, (n+1)*lot, seen())
	}
	v, err := k.Verify(t.Context())
	require.NoError(t, err)
	assert.Empty(t, v.Different)
}
