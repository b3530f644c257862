package lifecycles_test

import (
	"encoding/json"
	"errors"
	"fmt"
	"math/rand/v2"
	"os"
	"slices"
	"strconv"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jollydrawer/core/lifecycle"
	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/service/housetest"
	"jollydrawer/internal/wire"
)

// walked is a part as the rules of a made document would leave it: kept apart from the service, by whoever walks.
type walked struct {
	id        string
	version   int
	draft     string // state; blank where there is none
	standing  string
	authors   map[string]bool
	revisions []walkedRevision // oldest first
}

type walkedRevision struct{ label, state string }

// walker makes a lifecycle by chance and walks parts through it, knowing before each step what it must come to.
type walker struct {
	r      *rand.Rand
	people []string
	roles  map[string]deed.Role
	eyes   []string // in the group
	doc    lifecycle.Document
}

func (w *walker) covers(who lifecycle.Who, person string) bool {
	rank := func(r deed.Role) int { return slices.Index(deed.Roles, r) }
	return rank(w.roles[person]) >= 1 && (who.Role == "" || rank(w.roles[person]) >= rank(deed.Role(who.Role))) && (who.Group == "" || slices.Contains(w.eyes, person))
}

func (w *walker) who() (who lifecycle.Who) {
	for {
		who = lifecycle.Who{NotAuthor: w.r.IntN(10) < 3}
		k := w.r.IntN(3)
		if k != 1 {
			who.Role = []string{"engineer", "librarian", "administrator"}[w.r.IntN(3)]
		}
		if k != 0 {
			who.Group = "Eyes"
		}
		n := 0
		for _, p := range w.people {
			if w.covers(who, p) {
				n++
			}
		}
		if n > 1 || n == 1 && !who.NotAuthor {
			return who
		}
	}
}

// document makes a lifecycle: its states are fixed, all about its moves is chance.
func (w *walker) document() {
	text, _ := lifecycle.Shipped("parts")
	l, err := lifecycle.Parse(text)
	if err != nil {
		panic(err)
	}
	w.doc = l.Document
	w.doc.Counting = []lifecycle.Counting{lifecycle.Numbers, lifecycle.Letters, lifecycle.MajorMinor}[w.r.IntN(3)]
	w.doc.Status = append(slices.Clone(w.doc.Status), lifecycle.State{Key: "second", Word: "Second", Meaning: lifecycle.MeansReview, Change: true, Use: lifecycle.UseCaution, Shape: "half"},
		lifecycle.State{Key: "proved", Word: "Proved", Meaning: lifecycle.MeansUse, Use: lifecycle.UseYes, Shape: "square"})
	from := [][]string{{"draft", "in review", "second"}, {"second"}, {"in review", "second"}}[w.r.IntN(3)]
	w.doc.Moves = nil
	for _, m := range []lifecycle.Move{
		{Key: "ask", From: []string{"draft"}, To: "in review"}, {Key: "pass", From: []string{"in review"}, To: "second"}, {Key: "back", From: []string{"in review", "second"}, To: "draft"}, {Key: "rel", From: from, To: "released"},
		{Key: "prove", From: []string{"released"}, To: "proved"}, {Key: "pull", From: []string{"released", "proved", "superseded"}, To: "withdrawn"}, {Key: "undo", From: []string{"withdrawn"}, To: "released"},
		{Key: "slow", From: []string{"active", "obsolete"}, To: "not for new designs"}, {Key: "kill", From: []string{"active", "not for new designs"}, To: "obsolete"}, {Key: "live", From: []string{"not for new designs", "obsolete"}, To: "active"},
	} {
		m.Label, m.Who, m.Note = m.Key, w.who(), w.r.IntN(10) < 4
		w.doc.Moves = append(w.doc.Moves, m)
	}
}

// label is what the next revision must be called.
func (w *walker) label(p *walked, minor bool) string {
	n := len(p.revisions) + 1
	switch w.doc.Counting {
	case lifecycle.Letters:
		return strings.Fields("A B C D E F G H J K L M N P R T U V W Y AA AB AC AD AE AF AG AH AJ AK AL AM AN AP AR AT AU AV AW AY BA BB BC")[n-1]
	case lifecycle.MajorMinor:
		if n == 1 {
			return "1.0"
		}
		a, b, _ := strings.Cut(p.revisions[n-2].label, ".")
		major, _ := strconv.Atoi(a)
		small, _ := strconv.Atoi(b)
		if minor {
			return fmt.Sprintf("%d.%d", major, small+1)
		}
		return fmt.Sprintf("%d.0", major+1)
	}
	return strconv.Itoa(n)
}

// moves says whether a person may make a move of a part, and makes it on what is kept of the part.
func (w *walker) moves(p *walked, person string, m lifecycle.Move, in wire.MoveThing, at int) (may bool, then func()) {
	note := !m.Note || strings.TrimSpace(in.Note) != ""
	allowed := w.covers(m.Who, person) && !(m.Who.NotAuthor && p.authors[person]) && note
	from := func(state string) bool { return slices.Contains(m.From, state) && allowed }
	switch m.Key {
	case "slow", "kill", "live":
		return from(p.standing), func() { p.standing = m.To }
	case "ask", "pass", "back":
		return p.draft != "" && from(p.draft), func() { p.draft = m.To }
	case "rel":
		return p.draft != "" && from(p.draft), func() {
			if n := len(p.revisions); n > 0 && p.revisions[n-1].state != "withdrawn" {
				p.revisions[n-1].state = "superseded"
			}
			p.revisions = append(p.revisions, walkedRevision{w.label(p, in.Minor), "released"})
			p.draft, p.authors = "", map[string]bool{}
		}
	}
	if len(p.revisions) == 0 {
		return false, nil
	}
	newest := at == len(p.revisions)-1
	return from(p.revisions[at].state) && (newest || m.To == "withdrawn"), func() { p.revisions[at].state = m.To }
}

// Whatever lifecycle a house writes and whoever does what to its parts in whatever order: a move is made when, and only when, the
// document lets this person make it from here, and leaves what the document says.
func TestPartsWalkJustAsTheirLifecycleSays(t *testing.T) {
	h := housetest.Open(t)
	w := &walker{people: []string{"rita", "ines", "tomas", "lena", "admin"}, roles: map[string]deed.Role{"rita": deed.Reader, "ines": deed.Engineer, "tomas": deed.Engineer, "lena": deed.Librarian, "admin": deed.Administrator}, eyes: []string{"ines", "tomas", "lena"}}
	calls := map[string]deed.Call{"admin": h.Me}
	for _, p := range w.people[:4] {
		calls[p] = h.As(p, w.roles[p])
	}
	_, err := h.People.SaveGroup(t.Context(), h.Me, "", 0, wire.GroupEdit{Name: "Eyes", Members: w.eyes})
	require.NoError(t, err)
	documents := 4
	if n, err := strconv.Atoi(os.Getenv("JOLLY_SOAK")); err == nil {
		documents = n
	}
	made := 0
	for seed := range documents {
		w.r = rand.New(rand.NewPCG(uint64(seed), 11))
		w.document()
		raw, err := json.Marshal(w.doc)
		require.NoError(t, err)
		now, err := h.Lifecycles.Document(t.Context(), h.Me, "parts")
		require.NoError(t, err)
		_, err = h.Lifecycles.ApplyDocument(t.Context(), h.Me, now.Version, string(raw))
		require.NoError(t, err, "%s", raw)
		var parts []*walked
		for range 3 {
			who := w.people[1+w.r.IntN(4)]
			p, err := h.Parts.Create(t.Context(), calls[who], housetest.Rated("1k", fmt.Sprint("W", made)))
			require.NoError(t, err)
			made++
			parts = append(parts, &walked{id: p.ID, version: p.Version, draft: "draft", standing: "active", authors: map[string]bool{who: true}})
		}
		for step := range 120 {
			w.step(t, h, calls, parts[w.r.IntN(len(parts))], fmt.Sprintf("document %d, step %d", seed, step))
			if t.Failed() {
				t.Logf("%s", raw)
				return
			}
		}
	}
}

func (w *walker) step(t *testing.T, h housetest.House, calls map[string]deed.Call, p *walked, where string) {
	t.Helper()
	who := w.people[w.r.IntN(len(w.people))]
	var may bool
	var then func()
	var what string
	var now wire.Part
	var err error
	if w.r.IntN(4) == 0 {
		seen, e := h.Parts.Get(t.Context(), h.Me, p.id)
		require.NoError(t, e)
		edit := seen.Newest().Edit()
		edit.Values["power"] = fmt.Sprintf("%d mW", 1+w.r.IntN(9000))
		may, what = w.roles[who] != deed.Reader && (p.draft == "" || p.draft == "draft" || p.draft == "second"), who+" saves"
		then = func() {
			p.authors[who] = true
			if p.draft == "" {
				p.draft = "draft"
			}
		}
		now, err = h.Parts.Save(t.Context(), calls[who], p.id, p.version, edit)
	} else {
		m := w.doc.Moves[w.r.IntN(len(w.doc.Moves))]
		in := wire.MoveThing{Move: m.Key, Note: []string{"", " ", "because"}[w.r.IntN(3)], Minor: w.r.IntN(2) == 0}
		at := len(p.revisions) - 1
		if at >= 0 && w.r.IntN(3) == 0 {
			at = w.r.IntN(len(p.revisions))
			in.Revision = p.revisions[at].label
		}
		may, then = w.moves(p, who, m, in, at)
		what = fmt.Sprintf("%s moves %+v by %+v", who, in, m)
		now, err = h.Lifecycles.MovePart(t.Context(), calls[who], p.id, p.version, in)
	}
	if err != nil {
		var e *deed.Error
		require.True(t, errors.As(err, &e), "%s: %v", where, err)
	}
	if !assert.Equal(t, may, err == nil, "%s: %s, with %+v: %v", where, what, *p, err) || err != nil {
		return
	}
	then()
	p.version = now.Version
	draft := ""
	if now.Draft != nil {
		draft = now.States.Status.Key
		if now.States.Draft != nil {
			draft = now.States.Draft.Key
		}
	}
	var revisions []walkedRevision
	for _, r := range slices.Backward(now.Revisions) {
		revisions = append(revisions, walkedRevision{r.Label, r.State.Key})
	}
	assert.Equal(t, []any{p.draft, p.standing, p.revisions}, []any{draft, now.States.Standing.Key, revisions}, "%s: after %s", where, what)
}

func TestAStateForbidsWhatItSays(t *testing.T) {
	h := housetest.Open(t)
	h.Lifecycle("parts", `key: obsolete, word: Obsolete, use: "no", readout: true, shape: cross`, `key: obsolete, word: Obsolete, use: "no", readout: true, shape: cross, forbids: [copy, choose]`)
	p := h.Make(housetest.Rated("1k", "A"))
	h.Level()
	b := h.Board(t, "Buoy", "Ref,Qty,Value,Package\nR1,1,1k,0805\n")
	_, err := h.Parts.CopyOf(t.Context(), h.Me, p.ID)
	require.NoError(t, err)
	p, err = h.Lifecycles.SetStanding(t.Context(), h.Me, p.ID, p.Version, wire.Standing{Standing: "Obsolete", Why: "ended"})
	require.NoError(t, err)
	h.Level()
	_, err = h.Parts.CopyOf(t.Context(), h.Me, p.ID)
	assert.Contains(t, housetest.Fails(t, err, "state-forbids").Error(), "is Obsolete, and its lifecycle forbids that it is copied")
	_, err = h.BOMs.Choose(t.Context(), h.Me, b.ID, b.Version, wire.BOMChoices{Choose: []wire.BOMChoice{{Row: b.Lines[0].Row, Part: p.ID}}})
	housetest.Fails(t, err, "state-forbids")
	_, err = h.Lifecycles.SetStanding(t.Context(), h.Me, p.ID, p.Version, wire.Standing{Standing: "splendid", Why: "x"})
	housetest.Fails(t, err, "standing-wrong")
}
