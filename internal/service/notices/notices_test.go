package notices_test

import (
	"context"
	"fmt"
	"net/mail"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jollydrawer/core/part"
	"jollydrawer/internal/reach"
	"jollydrawer/internal/service/app"
	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/service/housetest"
	"jollydrawer/internal/service/notices"
	"jollydrawer/internal/standin"
	"jollydrawer/internal/store"
	"jollydrawer/internal/testdb"
	"jollydrawer/internal/wire"
)

func TestMain(m *testing.M) { testdb.Main(m) }

// house opens a house whose people are told of things from now on.
func house(t *testing.T, with ...func(*app.Options)) housetest.House {
	t.Helper()
	h := housetest.Open(t, with...)
	h.Level()
	require.NoError(t, h.Notices.Begin(t.Context()))
	return h
}

// tell lets everybody be told of all that was done.
func tell(t *testing.T, h housetest.House) {
	t.Helper()
	h.Level()
	for more := true; more; {
		var err error
		more, err = h.Notices.Step(t.Context())
		require.NoError(t, err)
	}
}

// titles are what somebody was told, oldest first.
func titles(t *testing.T, h housetest.House, who deed.Call) (out []string) {
	t.Helper()
	tell(t, h)
	l, err := h.Notices.List(t.Context(), who, false, 0, 100)
	require.NoError(t, err)
	for _, n := range l.Items {
		out = append([]string{n.Title + " " + n.Why}, out...)
	}
	return out
}

func watch(t *testing.T, h housetest.House, who deed.Call, of, about string) {
	t.Helper()
	_, err := h.Notices.Watch(t.Context(), who, wire.WatchEdit{Of: of, About: about})
	require.NoError(t, err)
}

func release(t *testing.T, h housetest.House, as deed.Call, p wire.Part, note string) wire.Part {
	t.Helper()
	p, err := h.Lifecycles.Release(t.Context(), as, p.ID, p.Version, wire.Release{Note: note})
	require.NoError(t, err)
	return p
}

func TestEachSortOfWatchHearsWhatItIsAbout(t *testing.T) {
	h := house(t)
	iver, maren := h.As("iver", "engineer"), h.As("maren", "librarian")
	p := h.Make(housetest.Rated("4k7", "A"))
	q := h.Make(housetest.Rated("1M", "B"))
	for _, w := range [][2]string{{"part", p.Number}, {"drawer", "resistors"}, {"question", "4k7 0805"}} {
		t.Run(w[0], func(t *testing.T) {
			who := h.As("who-"+w[0], "reader")
			watch(t, h, who, w[0], w[1])
			watch(t, h, who, w[0], w[1])
			l, err := h.Notices.Watches(t.Context(), who)
			require.NoError(t, err)
			assert.Len(t, l.Items, 1, "watched twice is watched")
		})
	}
	p = release(t, h, maren, p, "checked")
	q = release(t, h, maren, q, "checked too")
	whose := func(sort string) []string { return titles(t, h, h.As("who-"+sort, "reader")) }
	first, second := "Maren released "+p.Number+" as revision 1: “checked”.", "Maren released "+q.Number+" as revision 1: “checked too”."
	assert.Equal(t, []string{first + " You watch it."}, whose("part"))
	assert.Equal(t, []string{first + " You watch Resistors.", second + " You watch Resistors."}, whose("drawer"), "a drawer and all in it")
	assert.Equal(t, []string{first + " You watch the question “4k7 0805”."}, whose("question"))
	assert.Empty(t, titles(t, h, iver), "who watches nothing and wrote nothing is told nothing")
	assert.Equal(t, []string{first + " You wrote it.", second + " You wrote it."}, titles(t, h, h.Me), "who wrote it is told what became of it")
	assert.Empty(t, titles(t, h, maren), "nobody is told what they did themselves")
	_, err := h.Notices.Unwatch(t.Context(), h.As("who-part", "reader"), wire.WatchEdit{Of: "part", About: p.Number})
	require.NoError(t, err)
	_, err = h.Lifecycles.SetStanding(t.Context(), maren, p.ID, p.Version, wire.Standing{Standing: "obsolete", Why: "ended"})
	require.NoError(t, err)
	assert.Len(t, whose("part"), 1, "what is watched no more is heard of no more")
	assert.Contains(t, whose("drawer"), "Maren made "+p.Number+" obsolete: “ended”. You watch Resistors.")
}

func TestWhatCannotBeWatchedIsRefusedInASentence(t *testing.T) {
	h := house(t)
	for _, c := range []struct{ of, about, typ string }{
		{"part", "R-9999", "not-found"}, {"model", "symbol: none", "not-found"}, {"bom", "none", "not-found"}, {"want", "W-9", "not-found"}, {"drawer", "none", "drawer-unknown"},
		{"kind", "gizmo", "kind-unknown"}, {"question", "   ", "question-blank"}, {"planet", "x", "watch-unknown"},
	} {
		_, err := h.Notices.Watch(t.Context(), h.Me, wire.WatchEdit{Of: c.of, About: c.about})
		var e *deed.Error
		require.ErrorAs(t, err, &e, "%v", c)
		assert.Equal(t, c.typ, e.Type)
		assert.True(t, strings.HasSuffix(e.Error(), "."), e.Error())
	}
	_, err := h.Notices.Unwatch(t.Context(), h.Me, wire.WatchEdit{Of: "part", About: "R-9999"})
	assert.NoError(t, err, "what is not watched is watched no more")
}

func TestManyPartsInOneDeedAreOneNotice(t *testing.T) {
	h := house(t)
	maren, iver := h.As("maren", "librarian"), h.As("iver", "engineer")
	watch(t, h, iver, "drawer", "chip-resistors")
	in := wire.MoveThings{Move: "release", Note: "first lot"}
	for i := range 60 {
		p := h.Make(housetest.Rated("4k7", fmt.Sprintf("A-%d", i)))
		in.Things = append(in.Things, wire.PartBase{ID: p.ID, Version: p.Version})
	}
	tell(t, h)
	l, err := h.Notices.List(t.Context(), iver, true, 0, 100)
	require.NoError(t, err)
	require.Len(t, l.Items, 60, "each was made by a deed of its own")
	_, err = h.Notices.See(t.Context(), iver, wire.SeeNotices{UpTo: l.Items[0].N})
	require.NoError(t, err)
	_, err = h.Lifecycles.Move(t.Context(), maren, in)
	require.NoError(t, err)
	tell(t, h)
	l, err = h.Notices.List(t.Context(), iver, true, 0, 100)
	require.NoError(t, err)
	require.Len(t, l.Items, 1)
	assert.Equal(t, "Maren released 60 parts of Chip resistors: “first lot”.", l.Items[0].Title)
	assert.Len(t, l.Items[0].Things, 20)
	assert.Equal(t, 40, l.Items[0].More)
	assert.EqualValues(t, 1, l.Unread)
}

func TestHoldersOfAWithdrawnRevisionAreTold(t *testing.T) {
	h := house(t)
	maren, iver := h.As("maren", "librarian"), h.As("iver", "engineer")
	land := h.Model(wire.ModelEdit{Kind: "land pattern", Name: "Chip", LandPattern: housetest.TwoPads("0.95")})
	e := housetest.Rated("4k7", "A")
	e.LandPattern = &part.Model{ID: land.ID, Revision: 1}
	p, err := h.Parts.Create(t.Context(), iver, e)
	require.NoError(t, err)
	m, err := h.Models.Get(t.Context(), h.Me, land.ID)
	require.NoError(t, err)
	tell(t, h)
	_, err = testdb.SQL(t, h.Owner, "DELETE FROM deeds") // as after ninety days: who wrote something stays known
	require.NoError(t, err)
	work, err := h.Worklist.Get(t.Context(), iver)
	require.NoError(t, err)
	assert.Contains(t, fmt.Sprint(work.Kinds), p.Number, "a draft waits however old it is")
	_, err = h.Lifecycles.Move(t.Context(), maren, wire.MoveThings{Move: "withdraw", Note: "pads too short", Things: []wire.PartBase{{ID: land.ID, Version: m.Version}}})
	require.NoError(t, err)
	got := titles(t, h, iver)
	require.Len(t, got, 1)
	assert.Equal(t, "Maren moved revision 1 of the land pattern Chip from Released to Withdrawn: “pads too short”. "+p.Number+" uses it.", got[0])
}

// Who brought a board in, and who watches it, hear of what became of the parts on it, however their lines came to them.
func TestBoardsAreToldOfTheirParts(t *testing.T) {
	h := house(t)
	tove, iver := h.As("tove", "engineer"), h.As("iver", "engineer")
	p := release(t, h, h.Me, h.Make(housetest.Rated("4k7", "A")), "first")
	other := h.Make(housetest.Rated("10k", "B"))
	tell(t, h) // before there is a board
	f, err := h.Files.Keep(t.Context(), tove, "gauge.csv", strings.NewReader("Ref,Qty,MPN\nR1,1,"+p.Newest().Sources[0].MPN+"\n"))
	require.NoError(t, err)
	b, err := h.BOMs.Bring(t.Context(), tove, wire.NewBOM{Name: "Gauge", FileHash: f.Hash, FileName: f.Name})
	require.NoError(t, err)
	require.Equal(t, "linked", b.Lines[0].Verdict)
	watch(t, h, iver, "bom", b.ID)
	tell(t, h)
	_, err = h.Lifecycles.SetStanding(t.Context(), h.Me, p.ID, p.Version, wire.Standing{Standing: "obsolete", Why: "its maker stops"})
	require.NoError(t, err)
	_, err = h.Lifecycles.SetStanding(t.Context(), h.Me, other.ID, other.Version, wire.Standing{Standing: "obsolete", Why: "it too"})
	require.NoError(t, err)
	for _, who := range []deed.Call{tove, iver} {
		got := titles(t, h, who)
		require.Len(t, got, 1, got)
		assert.Contains(t, got[0], p.Number)
		assert.Contains(t, got[0], "It is on Gauge.")
	}
}

// What suppliers say otherwise of a part, a price or that it is gone, is told to who has it on a board.
func TestBoardsAreToldWhatSuppliersSayOtherwiseOfTheirParts(t *testing.T) {
	h := house(t)
	tove := h.As("tove", "engineer")
	p, other := release(t, h, h.Me, h.Make(housetest.Rated("4k7", "A")), "first"), h.Make(housetest.Rated("10k", "B"))
	tell(t, h) // before there is a board
	f, err := h.Files.Keep(t.Context(), tove, "gauge.csv", strings.NewReader("Ref,Qty,MPN\nR1,1,"+p.Newest().Sources[0].MPN+"\n"))
	require.NoError(t, err)
	_, err = h.BOMs.Bring(t.Context(), tove, wire.NewBOM{Name: "Gauge", FileHash: f.Hash, FileName: f.Name})
	require.NoError(t, err)
	tell(t, h)
	d, err := h.Desk.NewDeed(deed.Call{Deed: store.NewID()}, deed.OpRefresh, "asked")
	require.NoError(t, err)
	_, err = h.Store.Do(t.Context(), d, func(t *store.Tx) (any, error) {
		for _, id := range []string{p.ID, other.ID} {
			one, err := store.ParseID(id)
			if err != nil {
				return nil, err
			}
			head, err := t.Head(store.KindPart, one)
			if err != nil {
				return nil, err
			}
			if err := t.Note(&head, "offers changed", map[string]any{"note": "Sandbar Parts Exchange: the price of 100 went from 0.02 to 0.09 GBP", "news": 1}); err != nil {
				return nil, err
			}
		}
		return nil, nil
	})
	require.NoError(t, err)
	got := titles(t, h, tove)
	require.Len(t, got, 1, got)
	assert.Contains(t, got[0], p.Number)
	assert.Contains(t, got[0], "went from 0.02 to 0.09 GBP")
	assert.Contains(t, got[0], "It is on Gauge.")
}

// Who brought in a board that takes another one hears when that is frozen anew, and of the parts that come with it.
func TestBoardsAreToldOfTheBoardsThatTheyTake(t *testing.T) {
	h := house(t)
	tove := h.As("tove", "engineer")
	p := release(t, h, h.Me, h.Make(housetest.Rated("4k7", "A")), "first")
	mpn := p.Newest().Sources[0].MPN
	head := h.Board(t, "Head", "Ref,Qty,MPN\nR1,1,"+mpn+"\n")
	freeze := func() {
		t.Helper()
		now, err := h.BOMs.Get(t.Context(), h.Me, head.ID)
		require.NoError(t, err)
		_, err = h.BOMs.Freeze(t.Context(), h.Me, now.ID, now.Version, wire.FreezeBOM{Note: "for the build"})
		require.NoError(t, err)
	}
	freeze()
	tell(t, h) // before there is a board that takes it
	f, err := h.Files.Keep(t.Context(), tove, "mast.csv", strings.NewReader("Ref,Qty,Description\nA1,1,head\n"))
	require.NoError(t, err)
	b, err := h.BOMs.Bring(t.Context(), tove, wire.NewBOM{Name: "Mast", FileHash: f.Hash, FileName: f.Name})
	require.NoError(t, err)
	_, err = h.BOMs.Choose(t.Context(), tove, b.ID, b.Version, wire.BOMChoices{Choose: []wire.BOMChoice{{Row: 2, Board: "Head"}}})
	require.NoError(t, err)
	tell(t, h)
	freeze()
	got := titles(t, h, tove)
	require.Len(t, got, 1, got)
	assert.Contains(t, got[0], "Head")
	assert.Contains(t, got[0], "It is on Mast.")
	_, err = h.Lifecycles.SetStanding(t.Context(), h.Me, p.ID, p.Version, wire.Standing{Standing: "obsolete", Why: "its maker stops"})
	require.NoError(t, err)
	got = titles(t, h, tove)
	require.Len(t, got, 2, got)
	assert.Contains(t, strings.Join(got, "\n"), p.Number)
}

func TestWhoWantedItIsToldAndGroupsHearOfWhatTheyAnswerFor(t *testing.T) {
	h := house(t)
	maren, iver, ulla := h.As("maren", "librarian"), h.As("iver", "engineer"), h.As("ulla", "engineer")
	_, err := h.People.SaveGroup(t.Context(), h.Me, "", 0, wire.GroupEdit{Name: "passives", Members: []string{"ulla"}, Drawers: []string{"chip-resistors"}})
	require.NoError(t, err)
	made, err := h.Wants.Make(t.Context(), iver, []wire.WantEdit{{Facts: "4k7 0805 1%", Board: "Gauge"}})
	require.NoError(t, err)
	p := release(t, h, h.Me, h.Make(housetest.Rated("4k7", "A")), "made")
	w, err := h.Wants.Get(t.Context(), iver, made.Numbers[0])
	require.NoError(t, err)
	_, err = h.Wants.Settle(t.Context(), maren, w.ID, w.Version, wire.SettleWant{State: "answered", Part: p.Number})
	require.NoError(t, err)
	assert.Equal(t, []string{"Maren answered the want " + w.Number + " with " + p.Number + ". You want it."}, titles(t, h, iver))
	assert.Equal(t, []string{"Administrator made " + p.Number + ". Your group answers for Chip resistors.", "Administrator released " + p.Number + " as revision 1: “made”. Your group answers for Chip resistors."}, titles(t, h, ulla))
}

// Several instances tell at once, again and again: each deed is told to each person once, none is left out.
func TestManyInstancesTellOnce(t *testing.T) {
	h := house(t)
	other := h.Beside()
	iver := h.As("iver", "engineer")
	watch(t, h, iver, "drawer", "resistors")
	stop := make(chan bool)
	var telling sync.WaitGroup
	for _, i := range []housetest.House{h, other, h, other} {
		telling.Go(func() {
			for {
				select {
				case <-stop:
					return
				default:
				}
				if _, err := i.Notices.Step(context.Background()); err != nil {
					t.Error(err)
					return
				}
			}
		})
	}
	for i := range 40 {
		h.Make(housetest.Rated("4k7", fmt.Sprintf("A-%d", i)))
	}
	time.Sleep(100 * time.Millisecond)
	close(stop)
	telling.Wait()
	assert.Len(t, titles(t, h, iver), 40)
}

func TestMailAndHookAreReceived(t *testing.T) {
	post, err := standin.StartPost("127.0.0.1:0")
	require.NoError(t, err)
	defer post.Close()
	hook := strings.TrimSuffix(strings.TrimPrefix(post.Hook, "http://"), "/hook")
	h := house(t, func(o *app.Options) {
		o.Guard, o.Base, o.Key = reach.Guard{Inside: []string{hook}}, "https://parts.example", []byte("a key of the installation, long enough")
		o.Mail = notices.Mail{Server: post.Mail, From: "library@estuary-watch.example"}
	})
	maren, iver := h.As("maren", "librarian"), h.As("iver", "engineer")
	told, err := h.Notices.SetTold(t.Context(), iver, 0, wire.ToldEdit{Mail: "iver@estuary-watch.example", Rhythm: "once", Hook: post.Hook})
	require.NoError(t, err)
	require.NoError(t, post.Trust(told.KeyID, told.Secret))
	p := h.Make(housetest.Rated("4k7", "A"))
	watch(t, h, iver, "part", p.Number)
	post.Refuse(1) // whichever comes first
	release(t, h, maren, p, "Größe ✓ and a very long note "+strings.Repeat("that goes on ", 30))
	tell(t, h)
	for range 2 {
		_, err = h.Notices.Send(t.Context(), func() {})
		require.NoError(t, err)
	}
	l, err := h.Notices.Sendings(t.Context(), iver, false, 0, 10)
	require.NoError(t, err)
	require.Len(t, l.Items, 1, "one was refused")
	assert.Equal(t, "waiting", l.Items[0].State)
	assert.NotEmpty(t, l.Items[0].Problem)
	_, err = testdb.SQL(t, h.Owner, "UPDATE sendings SET due = NOW(6)")
	require.NoError(t, err)
	for more := true; more; {
		more, err = h.Notices.Send(t.Context(), func() {})
		require.NoError(t, err)
	}
	n, err := h.Notices.List(t.Context(), iver, false, 0, 1)
	require.NoError(t, err)
	require.Len(t, post.Letters(), 1)
	m, err := mail.ReadMessage(strings.NewReader(post.Letters()[0].Raw))
	require.NoError(t, err)
	assert.Equal(t, n.Items[0].ID, m.Header.Get("Jolly-Notice"), "it carries the notice's identifier")
	assert.Equal(t, []string{"iver@estuary-watch.example"}, post.Letters()[0].To)
	require.Len(t, post.Calls(), 1)
	call := post.Calls()[0]
	assert.Equal(t, "yes", call.Signed)
	assert.Equal(t, n.Items[0].ID, call.Event.ID)
	assert.Equal(t, "1.0", call.Event.SpecVersion)
	assert.Equal(t, p.Number, call.Event.Subject)
	assert.Contains(t, string(call.Event.Data), "https://parts.example/parts/"+p.Number)
}

func TestWhatCannotBeSentIsSetAsideAndSentAgain(t *testing.T) {
	post, err := standin.StartPost("127.0.0.1:0")
	require.NoError(t, err)
	defer post.Close()
	h := house(t, func(o *app.Options) {
		o.Key, o.Mail = []byte("a key of the installation, long enough"), notices.Mail{Server: post.Mail, From: "library@estuary-watch.example"}
	})
	iver := h.As("iver", "engineer")
	_, err = h.Notices.SetTold(t.Context(), iver, 0, wire.ToldEdit{Mail: "iver@estuary-watch.example", Rhythm: "once"})
	require.NoError(t, err)
	watch(t, h, iver, "drawer", "resistors")
	post.Refuse(8)
	h.Make(housetest.Rated("4k7", "A"))
	tell(t, h)
	for n := range 8 {
		l, err := h.Notices.Sendings(t.Context(), iver, false, 0, 10)
		require.NoError(t, err)
		require.Equal(t, n, l.Items[0].Tries)
		_, err = testdb.SQL(t, h.Owner, "UPDATE sendings SET due = NOW(6)")
		require.NoError(t, err)
		_, err = h.Notices.Send(t.Context(), func() {})
		require.NoError(t, err)
	}
	l, err := h.Notices.Sendings(t.Context(), iver, false, 0, 10)
	require.NoError(t, err)
	require.Len(t, l.Items, 1)
	assert.Equal(t, "aside", l.Items[0].State)
	assert.Empty(t, post.Letters())
	_, err = h.Notices.SendAgain(t.Context(), h.As("ulla", "engineer"), housetest.ID(t, l.Items[0].ID))
	assert.Error(t, err, "it is not hers")
	_, err = h.Notices.SendAgain(t.Context(), iver, housetest.ID(t, l.Items[0].ID))
	require.NoError(t, err)
	_, err = h.Notices.Send(t.Context(), func() {})
	require.NoError(t, err)
	assert.Len(t, post.Letters(), 1)
}

func TestADigestHoldsWhatCameSinceTheLast(t *testing.T) {
	post, err := standin.StartPost("127.0.0.1:0")
	require.NoError(t, err)
	defer post.Close()
	h := house(t, func(o *app.Options) {
		o.Mail = notices.Mail{Server: post.Mail, From: "library@estuary-watch.example"}
	})
	iver := h.As("iver", "engineer")
	_, err = h.Notices.SetTold(t.Context(), iver, 0, wire.ToldEdit{Mail: "iver@estuary-watch.example", Rhythm: "hour"})
	require.NoError(t, err)
	watch(t, h, iver, "drawer", "resistors")
	for round, many := range []int{5, 250, 0} {
		for i := range many {
			h.Make(housetest.Rated("4k7", fmt.Sprintf("A-%d-%d", round, i)))
		}
		tell(t, h)
		_, err = h.Notices.Gather(t.Context())
		require.NoError(t, err)
		_, err = testdb.SQL(t, h.Owner, "UPDATE told SET due = NOW(6)")
		require.NoError(t, err)
		for range 2 { // the second finds nothing due
			_, err = h.Notices.Gather(t.Context())
			require.NoError(t, err)
		}
		for more := true; more; {
			more, err = h.Notices.Send(t.Context(), func() {})
			require.NoError(t, err)
		}
	}
	letters := post.Letters()
	require.Len(t, letters, 2, "where nothing came there is no mail")
	assert.Contains(t, letters[0].Raw, "Subject: 5 notices of the parts library")
	assert.Contains(t, letters[1].Raw, "Subject: 250 notices of the parts library")
}

func TestHooksInsideTheHouseAreBarred(t *testing.T) {
	h := house(t)
	for address, typ := range map[string]string{
		"http://127.0.0.1:8090/x": "hook-barred", "http://localhost/x": "hook-barred", "http://10.0.0.1/": "hook-barred", "http://169.254.169.254/latest": "hook-barred", "http://[::1]:80/": "hook-barred", "http://0.0.0.0/": "hook-barred", "http://192.168.1.1/": "hook-barred",
		"https://[fd00::1]/": "hook-barred", "http://2130706433/": "hook-address", "ftp://example.org/": "hook-address", "nonsense": "hook-address", "https://": "hook-address", "https://user:pw@93.184.216.34/": "hook-address", "https://no-such-name.invalid/": "hook-address",
	} {
		_, err := h.Notices.SetTold(t.Context(), h.Me, 0, wire.ToldEdit{Rhythm: "none", Hook: address})
		var e *deed.Error
		if assert.ErrorAs(t, err, &e, address) {
			assert.Contains(t, []string{typ, "hook-barred"}, e.Type, "%s: %s", address, e)
		}
	}
	for _, address := range []string{"nobody", "a@b@c", "Name <a@b.example>", "a@b.example\r\nBcc: c@d.example", "<a@b.example>"} {
		_, err := h.Notices.SetTold(t.Context(), h.Me, 0, wire.ToldEdit{Rhythm: "once", Mail: address})
		var e *deed.Error
		if assert.ErrorAs(t, err, &e, address) {
			assert.Equal(t, "mail-address", e.Type)
		}
	}
	_, err := h.Notices.SetTold(t.Context(), h.Me, 0, wire.ToldEdit{Rhythm: "day"})
	assert.Error(t, err, "a digest needs an address")
	_, err = h.Notices.SetTold(t.Context(), h.Me, 3, wire.ToldEdit{Rhythm: "none"})
	assert.Error(t, err, "somebody else's version")
}

// A hold that is taken over is told to whom it was taken from.
func TestWhoeverHeldAThingIsToldThatItWasTakenOver(t *testing.T) {
	h := house(t)
	iver, maren := h.As("iver", "engineer"), h.As("maren", "librarian")
	p := h.Make(housetest.Rated("4k7", "A"))
	_, err := h.Lifecycles.Hold(t.Context(), iver, p.ID, wire.TakeHold{Why: "another case"})
	require.NoError(t, err)
	tell(t, h)
	_, err = h.Lifecycles.Hold(t.Context(), maren, p.ID, wire.TakeHold{Why: "he is away", TakeOver: true})
	require.NoError(t, err)
	assert.Equal(t, []string{"Maren took over " + p.Number + ", which Iver held: “he is away”. You held it."}, titles(t, h, iver))
}

func TestADeedThatIsNoLongerKnownIsToldByItsTrailAndHoldsUpNothing(t *testing.T) {
	h := house(t)
	iver := h.As("iver", "engineer")
	watch(t, h, iver, "drawer", "chip-resistors")
	first := h.Make(housetest.Rated("1k", "A"))
	_, err := testdb.SQL(t, h.Owner, "DELETE FROM deeds") // as tidying does after its days
	require.NoError(t, err)
	broken := h.Make(housetest.Rated("2k", "B"))
	_, err = testdb.SQL(t, h.Owner, "UPDATE trail SET detail = '[' WHERE head = UNHEX(REPLACE(?, '-', ''))", broken.ID)
	require.NoError(t, err)
	last := h.Make(housetest.Rated("3k", "C"))
	told := titles(t, h, iver)
	require.NotEmpty(t, told)
	assert.Contains(t, told[0], first.Number)
	assert.Contains(t, told[len(told)-1], last.Number)
	assert.NotContains(t, strings.Join(told, "\n"), "\x00")
}
