package lifecycles_test

import (
	"encoding/json"
	"fmt"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jollydrawer/core/cabinet"
	"jollydrawer/core/lifecycle"
	"jollydrawer/core/part"
	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/service/finder"
	"jollydrawer/internal/service/housetest"
	"jollydrawer/internal/wire"
)

func TestAWithdrawnRevisionStaysAsItWasAndItsHoldersAreNamed(t *testing.T) {
	h := housetest.Open(t)
	h.Lifecycle("parts", "{ gate: required }", "{ gate: required }, { gate: models, with: { places: land pattern } }")
	m := h.Model(wire.ModelEdit{Kind: "land pattern", Name: "Chip", LandPattern: housetest.TwoPads("0.95")})
	e := housetest.Rated("1k", "A")
	e.LandPattern = &part.Model{ID: m.ID, Name: "Chip", Revision: 1}
	p := h.Make(e)
	p, err := h.Lifecycles.Release(t.Context(), h.Me, p.ID, p.Version, wire.Release{Note: "first"})
	require.NoError(t, err)

	done, err := h.Lifecycles.Move(t.Context(), h.Me, wire.MoveThings{Move: "withdraw", Note: "pads too short", Things: []wire.PartBase{{ID: m.ID, Version: m.Version}}})
	require.NoError(t, err)
	assert.Equal(t, []string{p.Number}, done.Holders)
	m, err = h.Models.Get(t.Context(), h.Me, m.ID)
	require.NoError(t, err)
	assert.Equal(t, "withdrawn", m.Status)
	assert.Equal(t, []string{"withdrawn", "pads too short"}, []string{m.Revs[0].State.Key, m.Revs[0].Why})
	require.NotNil(t, m.Released, "what was frozen stays as it was")

	e = p.Released.Edit()
	e.Values["power"] = "500 mW"
	p, err = h.Parts.Save(t.Context(), h.Me, p.ID, p.Version, e)
	require.NoError(t, err)
	assert.Contains(t, strings.Join(p.Newer, "\n"), "Chip: revision 1 was withdrawn: pads too short", "its holder says so")
	_, err = h.Lifecycles.Release(t.Context(), h.Me, p.ID, p.Version, wire.Release{Note: "second"})
	assert.Contains(t, housetest.Fails(t, err, "not-ready").Error(), "the land pattern Chip was withdrawn at revision 1")
	m, err = h.Lifecycles.MoveModel(t.Context(), h.Me, h.ModelID(m), m.Version, wire.MoveThing{Move: "reinstate", Note: "the other one was short"})
	require.NoError(t, err)
	assert.Equal(t, "released", m.Status)
	p, err = h.Lifecycles.Release(t.Context(), h.Me, p.ID, p.Version, wire.Release{Note: "second"})
	require.NoError(t, err)

	// An older revision is withdrawn beside the one in use.
	p, err = h.Lifecycles.MovePart(t.Context(), h.Me, p.ID, p.Version, wire.MoveThing{Move: "withdraw", Note: "never build this", Revision: "1"})
	require.NoError(t, err)
	assert.Equal(t, "released", p.Status)
	assert.Equal(t, []string{"released", "withdrawn"}, []string{p.Revisions[0].State.Key, p.Revisions[1].State.Key})
	_, err = h.Lifecycles.MovePart(t.Context(), h.Me, p.ID, p.Version, wire.MoveThing{Move: "reinstate", Note: "n", Revision: "1"})
	assert.Contains(t, housetest.Fails(t, err, "not-ready").Error(), "revision 1 is not the newest")
	p, err = h.Lifecycles.MovePart(t.Context(), h.Me, p.ID, p.Version, wire.MoveThing{Move: "withdraw", Note: "wrong too"})
	require.NoError(t, err)
	h.Level()
	l, err := h.Finder.Search(t.Context(), h.Me, finder.Query{Text: p.Number})
	require.NoError(t, err)
	assert.Equal(t, []string{"withdrawn", "no", "Withdrawn"}, []string{l.Items[0].Status, l.Items[0].Use, l.Items[0].Flag}, "a search flags it")
}

func TestAStateThatGoesTakesItsThingsAlongAndGivesThemBack(t *testing.T) {
	h := housetest.Open(t)
	var held []wire.Part
	for i := range 3 {
		p := h.Make(housetest.Rated("1k", fmt.Sprint("M", i)))
		p, err := h.Lifecycles.MovePart(t.Context(), h.Me, p.ID, p.Version, wire.MoveThing{Move: "ask for review"})
		require.NoError(t, err)
		held = append(held, p)
	}
	first, _ := lifecycle.Shipped("parts")
	next := strings.NewReplacer("key: in review, word: In review", "key: waiting, word: At the desk", "to: in review", "to: waiting", "[in review]", "[waiting]", "[draft, in review]", "[draft, waiting]").Replace(string(first))
	_, err := h.Lifecycles.PreviewDocument(t.Context(), h.Me, next)
	assert.Contains(t, housetest.Fails(t, err, "lifecycle-wrong").Error(), `the state "in review" is gone, and things may be in it`)
	next += "becomes: { in review: waiting }\n"
	p, err := h.Lifecycles.PreviewDocument(t.Context(), h.Me, next)
	require.NoError(t, err)
	require.Len(t, p.Gone, 1)
	assert.Equal(t, []any{"At the desk", 3}, []any{p.Gone[0].Becomes.Word, p.Gone[0].Things})
	now, err := h.Parts.Get(t.Context(), h.Me, held[0].ID)
	require.NoError(t, err)
	assert.Equal(t, "in review", now.Status, "a preview writes nothing")
	_, err = h.Lifecycles.ApplyDocument(t.Context(), h.Me, 9, next)
	housetest.Fails(t, err, "changed-meanwhile")
	applied, err := h.Lifecycles.ApplyDocument(t.Context(), h.Me, p.Version, next)
	require.NoError(t, err)
	now, err = h.Parts.Get(t.Context(), h.Me, held[0].ID)
	require.NoError(t, err)
	assert.Equal(t, "At the desk", now.States.Status.Word)
	h.Level()
	l, err := h.Finder.Search(t.Context(), h.Me, finder.Query{Filters: map[string][]string{"status": {"waiting"}}})
	require.NoError(t, err)
	assert.Equal(t, 3, l.Page.Total, "the lookup follows")
	_, err = h.Lifecycles.MovePart(t.Context(), h.Me, now.ID, now.Version, wire.MoveThing{Move: "release", Note: "from the new state"})
	require.NoError(t, err)

	_, err = h.Lifecycles.ApplyDocument(t.Context(), h.Me, applied.Version, string(first)+"becomes: { waiting: in review }\n")
	require.NoError(t, err)
	for _, was := range held[1:] {
		now, err = h.Parts.Get(t.Context(), h.Me, was.ID)
		require.NoError(t, err)
		assert.Equal(t, "in review", now.Status)
		assert.Equal(t, was.Version, now.Version, "nothing was written to them")
	}
}

func TestALifecycleThatNobodyCouldFollowIsNotApplied(t *testing.T) {
	h := housetest.Open(t)
	text, _ := lifecycle.Shipped("parts")
	apply := func(old, new string) error {
		now, err := h.Lifecycles.Document(t.Context(), h.Me, "parts")
		require.NoError(t, err)
		require.Contains(t, string(text), old)
		_, err = h.Lifecycles.ApplyDocument(t.Context(), h.Me, now.Version, strings.Replace(string(text), old, new, 1))
		return err
	}
	const who = "to: released, note: true, who: { role: librarian }"
	assert.Contains(t, housetest.Fails(t, apply(who, "to: released, note: true, who: { group: Analog }"), "lifecycle-wrong").Error(), `There is no group "Analog"`)
	_, err := h.People.SaveGroup(t.Context(), h.Me, "", 0, wire.GroupEdit{Name: "Analog", Members: []string{}})
	require.NoError(t, err)
	assert.Contains(t, housetest.Fails(t, apply(who, "to: released, note: true, who: { group: Analog }"), "lifecycle-wrong").Error(), `nobody may make the move "release"`)
	assert.Contains(t, housetest.Fails(t, apply(who, "to: released, note: true, who: { role: librarian, notAuthor: true }"), "lifecycle-wrong").Error(), "only one person may make the move", "the administrator is alone")
	h.As("ines", deed.Librarian)
	require.NoError(t, apply(who, "to: released, note: true, who: { role: librarian, notAuthor: true }"))

	groups, err := h.People.SaveGroup(t.Context(), h.Me, "Analog", 1, wire.GroupEdit{Name: "Analog", Members: []string{"ines", "admin"}})
	require.NoError(t, err)
	require.NoError(t, apply(who, "to: released, note: true, who: { group: Analog, notAuthor: true }"))
	_, err = h.People.DropGroup(t.Context(), h.Me, "Analog", groups.Items[0].Version)
	assert.Contains(t, housetest.Fails(t, err, "group-needed").Error(), `named by the move "Release" of the lifecycle parts`)
	_, err = h.People.SaveGroup(t.Context(), h.Me, "Analog", groups.Items[0].Version, wire.GroupEdit{Name: "Analog", Members: []string{"ines"}})
	assert.Contains(t, housetest.Fails(t, err, "nobody-left").Error(), "only one person may make the move")
	_, err = h.People.SaveGroup(t.Context(), h.Me, "Analog", groups.Items[0].Version, wire.GroupEdit{Name: "Analogue", Members: []string{"ines", "admin"}})
	housetest.Fails(t, err, "group-needed")
	_, err = h.People.SaveGroup(t.Context(), h.Me, "", 0, wire.GroupEdit{Name: "analog", Members: []string{}})
	housetest.Fails(t, err, "group-there")
	_, err = h.People.SaveGroup(t.Context(), h.Me, "", 0, wire.GroupEdit{Name: "Others", Members: []string{"nobody"}})
	housetest.Fails(t, err, "member-unknown")
	_, err = h.People.SaveGroup(t.Context(), h.Me, "", 0, wire.GroupEdit{Name: "Others", Kinds: []string{"logo"}})
	housetest.Fails(t, err, "kind-unknown")
	_, err = h.People.SaveGroup(t.Context(), h.Me, "", 0, wire.GroupEdit{Name: "Others", Drawers: []string{"resistrs"}})
	assert.Contains(t, housetest.Fails(t, err, "drawer-unknown").Error(), `There is no drawer "resistrs"`)
}

func TestADrawerNamesItsLifecycle(t *testing.T) {
	h := housetest.Open(t)
	cab, err := h.Cabinets.Get(t.Context(), h.Me)
	require.NoError(t, err)
	doc := cab.Document
	doc.Drawers = slices.Clone(doc.Drawers)
	i := slices.IndexFunc(doc.Drawers, func(d cabinet.Drawer) bool { return d.Key == "chip-resistors" })
	doc.Drawers[i].Lifecycle = "precious"
	raw, err := json.Marshal(doc)
	require.NoError(t, err)
	next := string(raw)
	_, err = h.Reform.Apply(t.Context(), h.Me, cab.Version, next)
	assert.Contains(t, housetest.Fails(t, err, "cabinet-wrong").Error(), `names the lifecycle "precious", which is not there`)
	text, _ := lifecycle.Shipped("parts")
	_, err = h.Lifecycles.ApplyDocument(t.Context(), h.Me, 0, strings.NewReplacer("name: parts", "name: precious", "word: Draft", "word: On the bench", "counting: numbers", "counting: major.minor").Replace(string(text)))
	require.NoError(t, err)
	_, err = h.Reform.Apply(t.Context(), h.Me, cab.Version, next)
	require.NoError(t, err)
	p := h.Make(housetest.Rated("1k", "A"))
	assert.Equal(t, []string{"precious", "On the bench"}, []string{p.States.Lifecycle, p.States.Status.Word})

	// major.minor: the service suggests, the person decides.
	p, err = h.Lifecycles.Release(t.Context(), h.Me, p.ID, p.Version, wire.Release{Note: "first"})
	require.NoError(t, err)
	assert.Equal(t, "1.0", p.States.Label)
	suggested := func(change func(*wire.PartEdit)) wire.LifeMove {
		e := p.Newest().Edit()
		change(&e)
		p, err = h.Parts.Save(t.Context(), h.Me, p.ID, p.Version, e)
		require.NoError(t, err)
		life, err := h.Lifecycles.Life(t.Context(), h.Me, p.ID, 0)
		require.NoError(t, err)
		for _, m := range life.Moves {
			if m.Releases {
				return m
			}
		}
		require.Fail(t, "no move releases")
		return wire.LifeMove{}
	}
	m := suggested(func(e *wire.PartEdit) {
		e.Sources = append(e.Sources, part.Source{Manufacturer: "Kelpline", MPN: "K-1"})
	})
	assert.Equal(t, []any{true, "1.1", "2.0"}, []any{m.Minor, m.AsMinor, m.AsMajor}, "%+v", m)
	m = suggested(func(e *wire.PartEdit) { e.Values["resistance"] = "2k" })
	assert.False(t, m.Minor, "%+v", m)
	assert.Contains(t, m.Because, "resistance changed")
	p, err = h.Lifecycles.Release(t.Context(), h.Me, p.ID, p.Version, wire.Release{Note: "second", Minor: true})
	require.NoError(t, err)
	assert.Equal(t, "1.1", p.States.Label, "the person decides")
}

// Who may: role, group and author, for every move of a document that uses them all.
func TestWhoMayMove(t *testing.T) {
	h := housetest.Open(t)
	people := map[string]deed.Call{"reader": h.As("rita", deed.Reader), "engineer": h.As("ines", deed.Engineer), "librarian": h.As("lena", deed.Librarian), "administrator": h.Me, "member": h.As("tomas", deed.Engineer), "second": h.As("vera", deed.Engineer)}
	_, err := h.People.SaveGroup(t.Context(), h.Me, "", 0, wire.GroupEdit{Name: "Eyes", Members: []string{"tomas", "vera"}})
	require.NoError(t, err)
	h.Lifecycle("parts", "{ key: send back, label: Send back, from: [in review], to: draft, note: true, who: { role: engineer } }",
		"{ key: send back, label: Send back, from: [in review], to: draft, who: { group: Eyes } }",
		"to: released, note: true, who: { role: librarian }", "to: released, who: { group: Eyes, notAuthor: true }",
		"to: obsolete, note: true, who: { role: librarian }", "to: obsolete, who: { role: administrator }")
	for _, c := range []struct{ move, who, want string }{
		{"ask for review", "reader", "not-allowed"}, {"ask for review", "engineer", ""}, {"ask for review", "librarian", ""}, {"ask for review", "administrator", ""}, {"ask for review", "member", ""},
		{"send back", "reader", "not-allowed"}, {"send back", "engineer", "move-group"}, {"send back", "librarian", "move-group"}, {"send back", "administrator", "move-group"}, {"send back", "member", ""}, {"send back", "second", ""},
		{"release", "reader", "not-allowed"}, {"release", "engineer", "move-group"}, {"release", "librarian", "move-group"}, {"release", "administrator", "move-group"}, {"release", "member", "move-author"}, {"release", "second", ""},
		{"retire", "reader", "not-allowed"}, {"retire", "engineer", "move-role"}, {"retire", "librarian", "move-role"}, {"retire", "administrator", ""}, {"retire", "member", "move-role"},
	} {
		p, err := h.Parts.Create(t.Context(), people["member"], housetest.Rated("1k", c.move+c.who))
		require.NoError(t, err)
		if c.move == "send back" {
			p, err = h.Lifecycles.MovePart(t.Context(), people["member"], p.ID, p.Version, wire.MoveThing{Move: "ask for review"})
			require.NoError(t, err)
		}
		_, err = h.Lifecycles.MovePart(t.Context(), people[c.who], p.ID, p.Version, wire.MoveThing{Move: c.move})
		if c.want == "" {
			assert.NoError(t, err, "%s by %s", c.move, c.who)
			continue
		}
		var e *deed.Error
		if assert.ErrorAs(t, err, &e, "%s by %s", c.move, c.who) {
			assert.Equal(t, []any{c.want, deed.Forbidden}, []any{e.Type, e.Kind}, "%s by %s", c.move, c.who)
		}
	}
}

func TestAPreviewSaysWhatCanAndWhatCannotByCause(t *testing.T) {
	h := housetest.Open(t)
	var in wire.MoveThings
	for i := range 6 {
		e := housetest.Rated("1k", fmt.Sprint("M", i))
		if i%3 == 0 {
			delete(e.Values, "tolerance")
		}
		p := h.Make(e)
		if i == 5 {
			_, err := h.Lifecycles.Release(t.Context(), h.Me, p.ID, p.Version, wire.Release{Note: "n"})
			require.NoError(t, err)
			p, err = h.Parts.Get(t.Context(), h.Me, p.ID)
			require.NoError(t, err)
		}
		in.Things = append(in.Things, base(p)...)
	}
	p, err := h.Lifecycles.Preview(t.Context(), h.Me, in)
	require.NoError(t, err)
	assert.Equal(t, 3, p.Things)
	require.Len(t, p.Cannot, 2)
	assert.Equal(t, []any{"gate:required", 2, "Tolerance is required and blank"}, []any{p.Cannot[0].Cause, p.Cannot[0].Count, p.Cannot[0].What})
	assert.Equal(t, []any{"no-draft", 1}, []any{p.Cannot[1].Cause, p.Cannot[1].Count})
	in.Note = "all"
	_, err = h.Lifecycles.Move(t.Context(), h.Me, in)
	housetest.Fails(t, err, "not-ready")
	in.Skip = true
	done, err := h.Lifecycles.Move(t.Context(), h.Me, in)
	require.NoError(t, err)
	assert.Equal(t, []int{3, 3}, []int{done.Things, done.Left})
	_, err = h.Lifecycles.Move(t.Context(), h.Me, in)
	housetest.Fails(t, err, "changed-meanwhile")
}

// What a state that goes takes along is counted of what lives by that document: others have states of the same keys.
func TestOnlyWhatLivesByADocumentIsCounted(t *testing.T) {
	h := housetest.Open(t)
	parts, _ := lifecycle.Shipped("parts")
	models, _ := lifecycle.Shipped("models")
	_, err := h.Lifecycles.ApplyDocument(t.Context(), h.Me, 0, strings.Replace(string(parts), "name: parts", "name: precious", 1))
	require.NoError(t, err)
	_, err = h.Lifecycles.ApplyDocument(t.Context(), h.Me, 0, strings.Replace(string(models), "name: models", "name: symbol", 1))
	require.NoError(t, err)
	cab, err := h.Cabinets.Get(t.Context(), h.Me)
	require.NoError(t, err)
	doc := cab.Document.Clone()
	doc.Drawers[slices.IndexFunc(doc.Drawers, func(d cabinet.Drawer) bool { return d.Key == "chip-resistors" })].Lifecycle = "precious"
	raw, err := json.Marshal(doc)
	require.NoError(t, err)
	_, err = h.Reform.Apply(t.Context(), h.Me, cab.Version, string(raw))
	require.NoError(t, err)
	ask := func(id string, version int) {
		t.Helper()
		_, err := h.Lifecycles.Move(t.Context(), h.Me, wire.MoveThings{Move: "ask for review", Things: []wire.PartBase{{ID: id, Version: version}}})
		require.NoError(t, err)
	}
	for i := range 2 {
		p := h.Make(housetest.Rated("1k", fmt.Sprint("P", i)))
		ask(p.ID, p.Version)
	}
	other := h.Make(wire.PartEdit{Drawer: "ceramic-capacitors", Values: map[string]string{"capacitance": "1 nF"}, Sources: []part.Source{{Manufacturer: "Tidewright", MPN: "TW-C1"}}})
	ask(other.ID, other.Version)
	for i, name := range []string{"Box 1", "Box 2", "Box 3"} {
		m, err := h.Models.Create(t.Context(), h.Me, wire.ModelEdit{Kind: "symbol", Name: name, Symbol: housetest.TwoPins("1", fmt.Sprint("P", i))})
		require.NoError(t, err)
		ask(m.ID, m.Version)
	}
	m, err := h.Models.Create(t.Context(), h.Me, wire.ModelEdit{Kind: "land pattern", Name: "Chip", LandPattern: housetest.TwoPads("0.95")})
	require.NoError(t, err)
	ask(m.ID, m.Version)
	for name, want := range map[string]int{"parts": 1, "precious": 2, "symbol": 3, "models": 1} {
		text := string(parts)
		if want == 3 || name == "models" {
			text = string(models)
		}
		next := strings.NewReplacer("name: parts", "name: "+name, "name: models", "name: "+name, "key: in review,", "key: waiting,", "to: in review", "to: waiting", "[in review]", "[waiting]", "[draft, in review]", "[draft, waiting]").Replace(text) + "becomes: { in review: waiting }\n"
		p, err := h.Lifecycles.PreviewDocument(t.Context(), h.Me, next)
		require.NoError(t, err, name)
		require.Len(t, p.Gone, 1, name)
		assert.Equal(t, want, p.Gone[0].Things, name)
	}
}

// A house in which something waits for nobody already, since somebody left, is not kept from mending that step by step, nor from anything else;
// only what makes it worse is refused.
func TestAHouseThatLacksPeopleCanAddThem(t *testing.T) {
	h := housetest.Open(t)
	h.As("ines", deed.Engineer)
	tomas, vera := h.As("tomas", deed.Engineer), h.As("vera", deed.Engineer)
	version := 0
	desk := func(members ...string) error {
		key := "Desk"
		if version == 0 {
			key = ""
		}
		g, err := h.People.SaveGroup(t.Context(), h.Me, key, version, wire.GroupEdit{Name: "Desk", Members: members})
		if err == nil {
			version = g.Items[slices.IndexFunc(g.Items, func(x wire.Group) bool { return x.Name == "Desk" })].Version
		}
		return err
	}
	require.NoError(t, desk("ines", "tomas", "vera"))
	h.Lifecycle("parts", "gates: [{ gate: required }]", "gates: [{ gate: required }, { gate: review, with: { group: Desk } }]")
	require.NoError(t, desk("ines", "tomas"))
	assert.Contains(t, housetest.Fails(t, desk("tomas"), "nobody-left").Error(), `by the lifecycle parts the gate "review" of the move "release": nobody could look a second time`)
	for _, who := range []deed.Call{tomas, vera} { // people leave whatever a document says
		a, err := h.People.ChangeAccount(t.Context(), h.Me, who.Actor.ID, wire.AccountChange{Disabled: new(true)})
		require.NoError(t, err)
		require.True(t, a.Disabled)
	}
	_, err := h.People.SaveGroup(t.Context(), h.Me, "", 0, wire.GroupEdit{Name: "Others", Members: []string{"ines"}})
	require.NoError(t, err, "what has nothing to do with it")
	assert.Contains(t, housetest.Fails(t, desk("tomas"), "nobody-left").Error(), "nobody could look a second time", "that would be one less")
	require.NoError(t, desk("ines"), "as many as before")
	h.As("bram", deed.Engineer)
	require.NoError(t, desk("ines", "bram"))
	housetest.Fails(t, desk("bram"), "nobody-left")
}
