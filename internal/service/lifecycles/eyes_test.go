package lifecycles_test

import (
	"context"
	"errors"
	"fmt"
	"math/rand/v2"
	"strings"
	"sync"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/service/housetest"
	"jollydrawer/internal/service/lifecycles"
	"jollydrawer/internal/wire"
)

// fourEyes is a house where a release needs a second person's signature, and is made by somebody who is not an author.
func fourEyes(h housetest.House) {
	h.Lifecycle("parts", "from: [draft, in review], to: released, note: true, who: { role: librarian }, gates: [{ gate: required }]",
		"from: [in review], to: released, note: true, who: { role: engineer, notAuthor: true }, gates: [{ gate: required }, { gate: review }]")
}

func base(p wire.Part) []wire.PartBase { return []wire.PartBase{{ID: p.ID, Version: p.Version}} }

func TestAnAuthorNeitherReviewsNorReleases(t *testing.T) {
	h := housetest.Open(t)
	ines, tomas := h.As("ines", deed.Engineer), h.As("tomas", deed.Engineer)
	fourEyes(h)
	p, err := h.Parts.Create(t.Context(), ines, housetest.Resistor("1k", "A"))
	require.NoError(t, err)
	move := func(c deed.Call, key, note string) error {
		now, err := h.Parts.Get(t.Context(), c, p.ID)
		require.NoError(t, err)
		p, err = h.Lifecycles.MovePart(t.Context(), c, p.ID, now.Version, wire.MoveThing{Move: key, Note: note})
		if err != nil {
			p = now
		}
		return err
	}
	no := housetest.Fails(t, move(tomas, "release", "straight"), "not-ready")
	assert.Contains(t, no.Error(), `it is in the state "Draft", and "Release" does not begin there`)
	require.NoError(t, move(ines, "ask for review", ""))
	assert.Equal(t, "in review", p.Status)

	e := p.Draft.Edit()
	e.Values["power"] = "250 mW"
	_, err = h.Parts.Save(t.Context(), ines, p.ID, p.Version, e)
	assert.Contains(t, housetest.Fails(t, err, "not-to-change").Error(), `Move it first: "Send back"`)

	assert.Contains(t, housetest.Fails(t, move(tomas, "release", "unsigned"), "not-ready").Error(), "nobody has reviewed it")
	_, err = h.Lifecycles.Sign(t.Context(), ines, p.ID, p.Version, wire.SignReview{Against: "my own", All: true})
	require.NoError(t, err, "an author may go through the list, but it counts for nothing")
	assert.Contains(t, housetest.Fails(t, move(tomas, "release", "signed by its author"), "not-ready").Error(), "it was signed by an author only: Ines")

	r, err := h.Lifecycles.Review(t.Context(), tomas, p.ID)
	require.NoError(t, err)
	_, err = h.Lifecycles.Sign(t.Context(), tomas, p.ID, r.Version, wire.SignReview{Against: "page 2"})
	assert.Contains(t, housetest.Fails(t, err, "list-open").Error(), "items of the review list are not ticked by you")
	r, err = h.Lifecycles.Tick(t.Context(), tomas, p.ID, r.Version, wire.TickItems{Items: keys(r)})
	require.NoError(t, err)
	assert.Zero(t, r.Open)
	r, err = h.Lifecycles.Sign(t.Context(), tomas, p.ID, r.Version, wire.SignReview{Against: "page 2"})
	require.NoError(t, err)
	assert.True(t, r.Signed[0].Current && !r.Signed[0].Author, "%+v", r.Signed)

	housetest.Fails(t, move(ines, "release", "I wrote it"), "move-author")
	assert.Contains(t, housetest.Fails(t, move(tomas, "release", " "), "no-note").Error(), `"Release" needs a note`)
	require.NoError(t, move(tomas, "release", "first"))
	assert.Equal(t, "released", p.Status)
	require.Len(t, p.Revisions, 1)

	// What changed since the signature is what is to be looked at again.
	e = p.Released.Edit()
	e.Values["power"] = "500 mW"
	p, err = h.Parts.Save(t.Context(), tomas, p.ID, p.Version, e)
	require.NoError(t, err)
	require.NoError(t, move(tomas, "ask for review", ""))
	housetest.Fails(t, move(tomas, "release", "now I am the author"), "move-author")
	assert.Contains(t, housetest.Fails(t, move(ines, "release", "old signature"), "not-ready").Error(), "it was changed since Tomas signed it")
	r, err = h.Lifecycles.Review(t.Context(), tomas, p.ID)
	require.NoError(t, err)
	var changed []string
	for _, i := range r.Items {
		if i.Changed {
			changed = append(changed, i.Key)
		}
	}
	assert.Equal(t, []string{"description"}, changed, "the power is new, and was never ticked")
	assert.Equal(t, 2, r.Open)
}

func keys(r wire.Review) (out []string) {
	for _, i := range r.Items {
		out = append(out, i.Key)
	}
	return out
}

// However authors, reviewers and those who release meet, on two instances at once: what is released was signed, as it is, by somebody
// who had not written it, and released by somebody who had not either.
func TestNoRaceLetsAnAuthorThrough(t *testing.T) {
	h := housetest.Open(t)
	houses := []housetest.House{h, h.Beside()}
	var people []deed.Call
	for _, name := range []string{"ines", "tomas", "vera"} {
		people = append(people, h.As(name, deed.Engineer))
	}
	fourEyes(h)
	p, err := h.Parts.Create(t.Context(), people[0], housetest.Resistor("1k", "A"))
	require.NoError(t, err)
	var g sync.WaitGroup
	for w := range 6 {
		g.Go(func() {
			rnd := rand.New(rand.NewPCG(uint64(w), 7))
			house, me := houses[w%2], people[w%3]
			for n := range 60 {
				now, err := house.Parts.Get(t.Context(), me, p.ID)
				if !assert.NoError(t, err) {
					return
				}
				switch do := rnd.IntN(5); {
				case do == 0 && w%3 < 2: // somebody must be left who has not written it
					e := now.Newest().Edit()
					e.Values["power"] = fmt.Sprintf("%d mW", 100+w*100+n)
					_, err = house.Parts.Save(t.Context(), me, p.ID, now.Version, e)
				case do == 1:
					_, err = house.Lifecycles.MovePart(t.Context(), me, p.ID, now.Version, wire.MoveThing{Move: "ask for review"})
				case do == 0 || do == 2:
					_, err = house.Lifecycles.Sign(t.Context(), me, p.ID, now.Version, wire.SignReview{Against: "p", All: true})
				case do == 3:
					_, err = house.Lifecycles.MovePart(t.Context(), me, p.ID, now.Version, wire.MoveThing{Move: "release", Note: "n"})
				case do == 4:
					_, err = house.Lifecycles.MovePart(t.Context(), me, p.ID, now.Version, wire.MoveThing{Move: "send back", Note: "n"})
				}
				var e *deed.Error
				if err != nil && !assert.ErrorAs(t, err, &e) {
					return
				}
			}
		})
	}
	g.Wait()
	// Whatever the races left, who has not written it brings it to its end.
	do := func(f func(now wire.Part) error) {
		now, err := h.Parts.Get(t.Context(), people[2], p.ID)
		require.NoError(t, err)
		require.NoError(t, f(now))
	}
	do(func(now wire.Part) error {
		if now.Draft != nil {
			return nil
		}
		e := now.Released.Edit()
		e.Values["power"] = "9 W"
		_, err := h.Parts.Save(t.Context(), people[0], p.ID, now.Version, e)
		return err
	})
	do(func(now wire.Part) error {
		if now.States.Status.Key == "in review" || now.States.Draft != nil && now.States.Draft.Key == "in review" {
			return nil
		}
		_, err := h.Lifecycles.MovePart(t.Context(), people[2], p.ID, now.Version, wire.MoveThing{Move: "ask for review"})
		return err
	})
	do(func(now wire.Part) error {
		_, err := h.Lifecycles.Sign(t.Context(), people[2], p.ID, now.Version, wire.SignReview{Against: "p", All: true})
		return err
	})
	do(func(now wire.Part) error {
		_, err := h.Lifecycles.MovePart(t.Context(), people[2], p.ID, now.Version, wire.MoveThing{Move: "release", Note: "n"})
		return err
	})
	releases := eyesKept(t, h, p.ID)
	assert.Positive(t, releases, "something was released on the way")
}

// eyesKept walks a part's trail and returns how many releases it holds.
func eyesKept(t *testing.T, h housetest.House, part string) (releases int) {
	all, err := h.Parts.Trail(t.Context(), h.Me, part, 0, 1000)
	require.NoError(t, err)
	authors, signed := map[string]bool{}, map[string]bool{}
	for i := len(all.Items) - 1; i >= 0; i-- {
		e := all.Items[i]
		switch e.Action {
		case "made", "draft saved":
			authors[e.By] = true
			signed = map[string]bool{}
		case "signed":
			signed[e.By] = true
		case "released":
			releases++
			assert.False(t, authors[e.By], "%s released what %s had written", e.By, e.By)
			second := false
			for who := range signed {
				second = second || !authors[who]
			}
			assert.True(t, second, "released at %d: signed by %v, written by %v", e.Seq, signed, authors)
			authors, signed = map[string]bool{}, map[string]bool{}
		}
	}
	return releases
}

func TestAWaiverShowsHoldsAndFalls(t *testing.T) {
	h := housetest.Open(t)
	ines := h.As("ines", deed.Engineer)
	h.Lifecycle("parts", "{ gate: required }", `{ gate: required }, { gate: sources, with: { at least: "2" }, waive: { role: librarian } }, { gate: datasheet }`)
	p := h.Make(housetest.Rated("1k", "A"))
	refused := func() string {
		_, err := h.Lifecycles.Release(t.Context(), h.Me, p.ID, p.Version, wire.Release{Note: "n"})
		return housetest.Fails(t, err, "not-ready").Error()
	}
	assert.Contains(t, refused(), "of 2 sources there is only Tidewright A; add an alternate")
	_, err := h.Lifecycles.Waive(t.Context(), ines, p.ID, p.Version, wire.WaiveGate{Gate: "sources", Why: "made by one"})
	housetest.Fails(t, err, "move-role")
	_, err = h.Lifecycles.Waive(t.Context(), h.Me, p.ID, p.Version, wire.WaiveGate{Gate: "datasheet", Why: "later"})
	assert.Contains(t, housetest.Fails(t, err, "gate-not-waivable").Error(), "lets nobody waive")
	_, err = h.Lifecycles.Waive(t.Context(), h.Me, p.ID, p.Version, wire.WaiveGate{Gate: "horoscope", Why: "later"})
	assert.Contains(t, housetest.Fails(t, err, "gate-unknown").Error(), "These do not hold: ", "and which could be waived")
	_, err = h.Lifecycles.Waive(t.Context(), h.Me, p.ID, p.Version, wire.WaiveGate{Gate: "required", Why: "later"})
	housetest.Fails(t, err, "gate-holds")
	life, err := h.Lifecycles.Waive(t.Context(), h.Me, p.ID, p.Version, wire.WaiveGate{Gate: "sources", Why: "there is one maker only"})
	require.NoError(t, err)
	require.Len(t, life.Waivers, 1)
	assert.False(t, life.Waivers[0].Fallen)
	p, err = h.Parts.Get(t.Context(), h.Me, p.ID)
	require.NoError(t, err)
	assert.NotContains(t, refused(), "sources")
	assert.Contains(t, refused(), "no datasheet is attached")

	e := p.Draft.Edit()
	e.Values["power"] = "500 mW"
	p, err = h.Parts.Save(t.Context(), h.Me, p.ID, p.Version, e)
	require.NoError(t, err)
	assert.NotContains(t, refused(), "sources", "what the gate does not look at leaves the waiver alone")
	e.Sources[0].MPN = "B"
	p, err = h.Parts.Save(t.Context(), h.Me, p.ID, p.Version, e)
	require.NoError(t, err)
	assert.Contains(t, refused(), "of 2 sources there is only Tidewright B", "another source: the waiver was for the first one")
	all, err := h.Lifecycles.Waivers(t.Context(), h.Me, 0, 10)
	require.NoError(t, err)
	require.Len(t, all.Items, 1)
	assert.True(t, all.Items[0].Fallen)
	_, err = h.Lifecycles.Waive(t.Context(), h.Me, p.ID, p.Version, wire.WaiveGate{Gate: "sources", Why: ""})
	require.NoError(t, err)
	p, err = h.Parts.Get(t.Context(), h.Me, p.ID)
	require.NoError(t, err)
	_, err = h.Lifecycles.Waive(t.Context(), h.Me, p.ID, p.Version, wire.WaiveGate{Gate: "sources", Why: ""})
	housetest.Fails(t, err, "no-waiver")
}

func TestTheQueueIsWhatWaitsForMeAndMyGroups(t *testing.T) {
	h := housetest.Open(t)
	ines, tomas := h.As("ines", deed.Engineer), h.As("tomas", deed.Engineer)
	_, err := h.People.SaveGroup(t.Context(), h.Me, "", 0, wire.GroupEdit{Name: "Passives", Members: []string{"tomas"}, Drawers: []string{"resistors"}})
	require.NoError(t, err)
	var waiting []wire.Part
	for i, who := range []deed.Call{ines, ines, tomas} {
		p, err := h.Parts.Create(t.Context(), who, housetest.Resistor(fmt.Sprint(i+1, "k"), fmt.Sprint("M", i)))
		require.NoError(t, err)
		p, err = h.Lifecycles.MovePart(t.Context(), who, p.ID, p.Version, wire.MoveThing{Move: "ask for review"})
		require.NoError(t, err)
		waiting = append(waiting, p)
	}
	queue := func(c deed.Call, mine bool) (out []string) {
		q, err := h.Lifecycles.Queue(t.Context(), c, lifecycles.QueueQuery{Mine: mine})
		require.NoError(t, err)
		for _, i := range q.Items {
			out = append(out, i.Number)
			assert.Equal(t, []string{"Passives"}, i.Groups)
		}
		return out
	}
	assert.Equal(t, []string{waiting[0].Number, waiting[1].Number, waiting[2].Number}, queue(ines, false))
	assert.Equal(t, []string{waiting[0].Number, waiting[1].Number}, queue(tomas, true), "his own is for somebody else")
	assert.Empty(t, queue(ines, true), "a group answers for resistors, and she is not in it")
	_, err = h.Lifecycles.Take(t.Context(), tomas, waiting[0].ID, waiting[0].Version, wire.TakeTurn{})
	require.NoError(t, err)
	now, err := h.Parts.Get(t.Context(), ines, waiting[0].ID)
	require.NoError(t, err)
	_, err = h.Lifecycles.Take(t.Context(), ines, now.ID, now.Version, wire.TakeTurn{})
	assert.Contains(t, housetest.Fails(t, err, "taken").Error(), "is being reviewed by Tomas")
	_, err = h.Lifecycles.Take(t.Context(), h.Me, now.ID, now.Version, wire.TakeTurn{LetGo: true})
	assert.NoError(t, err, "an administrator takes it over")
}

// Labels are never reused and never out of order, however many release at once through two instances.
func TestFiftyPeopleWhoReleaseAtOnceGetLettersInOrder(t *testing.T) {
	h := housetest.Open(t)
	h.Lifecycle("parts", "counting: numbers", "counting: letters")
	houses := []housetest.House{h, h.Beside()}
	p := h.Make(housetest.Rated("1k", "A"))
	ctx, cancel := context.WithCancel(t.Context())
	defer cancel()
	const people, wanted = 50, 25
	var g sync.WaitGroup
	for w := range people {
		g.Go(func() {
			house := houses[w%2]
			for n := 0; ctx.Err() == nil && n < 40; n++ {
				now, err := house.Parts.Get(ctx, h.Me, p.ID)
				if err != nil {
					return
				}
				if len(now.Revisions) >= wanted {
					cancel()
					return
				}
				if now.Draft == nil {
					e := now.Released.Edit()
					e.Values["power"] = fmt.Sprintf("%d mW", 100+w*50+n)
					_, err = house.Parts.Save(ctx, h.Me, p.ID, now.Version, e)
				} else {
					_, err = house.Lifecycles.Release(ctx, h.Me, p.ID, now.Version, wire.Release{Note: "n"})
				}
				var e *deed.Error
				if err != nil && ctx.Err() == nil {
					assert.True(t, errors.As(err, &e), "%v", err)
				}
			}
		})
	}
	g.Wait()
	now, err := h.Parts.Get(t.Context(), h.Me, p.ID)
	require.NoError(t, err)
	require.GreaterOrEqual(t, len(now.Revisions), 20)
	const all = "A B C D E F G H J K L M N P R T U V W Y AA AB AC AD AE AF AG AH AJ AK AL AM AN AP AR AT AU AV AW AY"
	var got []string
	for i := len(now.Revisions) - 1; i >= 0; i-- {
		got = append(got, now.Revisions[i].Label)
		assert.Equal(t, len(now.Revisions)-i, now.Revisions[i].Number)
	}
	assert.True(t, strings.HasPrefix(all, strings.Join(got, " ")), "%v", got)
	assert.Equal(t, got[len(got)-1], now.States.Label)
}

func TestAnAlternateThatIsNotEqualKeepsAPartFromBeingReleased(t *testing.T) {
	h := housetest.Open(t)
	h.Lifecycle("parts", "to: released, note: true, who: { role: librarian }, gates: [{ gate: required }]", "to: released, note: true, who: { role: librarian }, gates: [{ gate: required }, { gate: alternates }]")
	e := housetest.Resistor("4k7", "A")
	other := housetest.Resistor("4k7", "B").Sources[0]
	other.Unlike = map[string]string{"tolerance": "±5 %"}
	e.Sources = append(e.Sources, other)
	p := h.Make(e)
	_, err := h.Lifecycles.Release(t.Context(), h.Me, p.ID, p.Version, wire.Release{Note: "first"})
	assert.Contains(t, housetest.Fails(t, err, "not-ready").Error(), "a source is not equal: Tidewright B: Tolerance ±5 %, not ±1 %")
	e.Sources = e.Sources[:1]
	p, err = h.Parts.Save(t.Context(), h.Me, p.ID, p.Version, e)
	require.NoError(t, err)
	_, err = h.Lifecycles.Release(t.Context(), h.Me, p.ID, p.Version, wire.Release{Note: "first"})
	require.NoError(t, err)
}
