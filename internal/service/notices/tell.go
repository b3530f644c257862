package notices

import (
	"context"
	"encoding/json"
	"errors"
	"slices"
	"sync"
	"time"

	"jollydrawer/core/trail"
	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/store"
	"jollydrawer/internal/wire"
)

// follower is the name under which the notices keep their place in the feed.
const follower = "notices"

const (
	mostDeeds = 100    // that are told of at a time
	mostLines = 20     // of things that a notice names
	mostOfOne = 10_000 // watches of single things that one deed is told to
)

// Begin gives the notices their place in the feed: on an installation that told nobody yet, at its end.
func (s *Notices) Begin(ctx context.Context) error {
	_, there, err := s.Store.Read(ctx).Followed(follower)
	if err != nil || there {
		return err
	}
	end, err := s.Store.Read(ctx).FeedEnd()
	if err != nil {
		return err
	}
	return s.Store.BeginFollowing(ctx, follower, end)
}

// Run tells people of what is done, and sends what is in line, until ctx ends. Several instances may do so.
func (s *Notices) Run(ctx context.Context) {
	var all sync.WaitGroup
	defer all.Wait()
	all.Go(func() { s.again(ctx, "telling people", s.Step) })
	all.Go(func() { s.again(ctx, "digests", s.Gather) })
	looks := make(chan struct{}, senders) // one looks for what is due; who finds something lets another look
	look := func() {
		select {
		case looks <- struct{}{}:
		default:
		}
	}
	all.Go(func() {
		s.again(ctx, "sending", func(context.Context) (bool, error) { look(); return false, nil })
	})
	for range senders {
		all.Go(func() {
			for wait(ctx, looks) {
				more, err := s.Send(ctx, look)
				if err != nil && ctx.Err() == nil {
					s.Log.Warn("sending", "error", err)
					wait(ctx, time.After(10*pause))
				} else if more {
					look()
				}
			}
		})
	}
}

// wait waits for something to come; it is false where ctx ends before.
func wait[T any](ctx context.Context, comes <-chan T) bool {
	select {
	case <-ctx.Done():
		return false
	case <-comes:
		return true
	}
}

const (
	// senders is how many mails and calls are tried at a time: one that is slow keeps no other waiting.
	senders = 4
	pause   = 300 * time.Millisecond // between two looks that found nothing
)

// again does a step over and over until ctx ends, at once where there may be more.
func (s *Notices) again(ctx context.Context, name string, step func(context.Context) (bool, error)) {
	for next := time.Duration(0); wait(ctx, time.After(next)); {
		more, err := step(ctx)
		switch {
		case err != nil && ctx.Err() == nil:
			s.Log.Warn(name, "error", err)
			next = 10 * pause
		case more && err == nil:
			next = 0
		default:
			next = pause
		}
	}
}

// Step tells people of the next deeds, and says whether there may be more. What was told and where the feed was read to is one
// write: whatever instance comes first, each deed is told once.
func (s *Notices) Step(ctx context.Context) (more bool, err error) {
	r := s.Store.Read(ctx)
	from, there, err := r.Followed(follower)
	if err != nil || !there {
		return false, err
	}
	rows, err := r.Feed(from, mostDeeds)
	if err != nil {
		return false, err
	}
	if s.Followed != nil {
		at := s.Followed()
		rows = slices.DeleteFunc(rows, func(f store.FeedRow) bool { return f.Position > at })
	}
	if len(rows) == 0 {
		return false, nil
	}
	t := &telling{Notices: s, r: r, asked: map[string]map[string]bool{}}
	for _, f := range rows {
		notices, sendings := len(t.notices), len(t.sendings)
		if err := t.deed(ctx, f); err != nil && (ctx.Err() != nil || deed.Temporary(err)) {
			return false, err
		} else if err != nil { // that one deed cannot be told of keeps nobody from hearing of the next
			s.Log.Error("nobody is told of a deed", "deed", f.Deed, "error", err)
			t.notices, t.sendings = t.notices[:notices], t.sendings[:sendings]
		}
	}
	to := rows[len(rows)-1].Position
	if len(t.notices) == 0 {
		err = s.Store.FollowOn(ctx, follower, from, to)
	} else {
		_, err = s.Store.Do(ctx, store.Deed{ID: store.NewID(), Kind: store.DeedNotices, At: store.Stamp(s.Now())}, func(x *store.Tx) (any, error) {
			if err := x.FollowOn(follower, from, to); err != nil {
				return nil, err
			}
			if err := x.AddNotices(t.notices); err != nil {
				return nil, err
			}
			return len(t.notices), x.AddSendings(t.sendings)
		})
	}
	if errors.Is(err, store.ErrConflict) { // another instance told them
		err = nil
	}
	return true, err
}

// telling works out who is told what of some deeds. Who may be told is loaded with the first deed that is of interest.
type telling struct {
	*Notices
	r         store.Reader
	drawers   map[string][]string                 // a drawer → itself and those that it lies in
	labels    map[string]string                   // of drawers
	broad     map[string]map[string][]store.Watch // of drawers and of kinds
	groups    map[string]map[string][]store.ID
	questions []store.Watch
	told      map[store.ID]store.Told
	people    map[store.ID]bool          // who may be told
	asked     map[string]map[string]bool // question → parts that it finds

	notices  []store.Notice
	sendings []store.Sending
}

func (t *telling) load(ctx context.Context) error {
	t.drawers, t.labels = map[string][]string{}, map[string]string{}
	if cab := t.Cabinets.Current(ctx); cab != nil {
		for _, d := range cab.Templates() {
			t.drawers[d.Key], t.labels[d.Key] = d.Path, d.Label
		}
	}
	t.broad, t.groups = map[string]map[string][]store.Watch{ofDrawer: {}, ofKind: {}}, map[string]map[string][]store.ID{ofDrawer: {}, ofKind: {}}
	for _, sort := range []string{ofDrawer, ofKind} {
		all, err := t.r.WatchesBySort(sort)
		if err != nil {
			return err
		}
		for _, w := range all {
			t.broad[sort][w.About] = append(t.broad[sort][w.About], w)
		}
	}
	groups, err := t.r.Groups()
	if err != nil {
		return err
	}
	for _, g := range groups {
		for _, d := range g.Drawers {
			t.groups[ofDrawer][d] = append(t.groups[ofDrawer][d], g.Members...)
		}
		for _, k := range g.Kinds {
			t.groups[ofKind][k] = append(t.groups[ofKind][k], g.Members...)
		}
	}
	if t.questions, err = t.r.WatchesBySort(ofQuestion); err != nil {
		return err
	}
	if t.told, err = t.r.AllTold(); err != nil {
		return err
	}
	t.people = map[store.ID]bool{}
	for offset := 0; ; offset += 1000 {
		some, err := t.r.Accounts(offset, 1000)
		if err != nil {
			return err
		}
		for _, a := range some {
			t.people[a.ID] = !a.Disabled
		}
		if len(some) < 1000 {
			return nil
		}
	}
}

// deed works out who is told of one deed.
func (t *telling) deed(ctx context.Context, f store.FeedRow) error {
	if f.Kind == store.DeedNotices {
		return nil
	}
	done, err := t.r.DoneBy(f.Deed)
	if err != nil {
		return err
	}
	done = slices.DeleteFunc(done, func(d store.Done) bool {
		return !slices.Contains([]string{store.KindPart, store.KindModel, store.KindBOM, store.KindWant}, d.Kind)
	})
	if len(done) == 0 {
		return nil
	}
	if t.people == nil { // most steps of the feed are news to nobody
		if err := t.load(ctx); err != nil {
			return err
		}
	}
	who, at, err := t.r.DoerOf(f.Deed)
	if err != nil {
		return err
	}
	lines, err := t.r.EntriesBy(f.Deed, mostOfOne)
	if err != nil {
		return err
	}
	hears := &audience{telling: t, by: map[store.ID]*concern{}, lines: lines, actor: who, at: at}
	hears.broadly(done)
	if err := hears.singly(f.Deed); err != nil {
		return err
	}
	if err := hears.questions(ctx); err != nil {
		return err
	}
	if err := hears.holders(); err != nil {
		return err
	}
	if err := hears.boards(ctx); err != nil {
		return err
	}
	by := ""
	if !who.IsZero() {
		by = t.Person(ctx, who)
	}
	for _, person := range hears.people() {
		if err := t.tell(person, f, at, by, hears); err != nil {
			return err
		}
	}
	return nil
}

// tell makes the notice of one person.
func (t *telling) tell(person store.ID, f store.FeedRow, at time.Time, by string, hears *audience) error {
	c := hears.by[person]
	body := wire.NoticeBody{By: by, Why: c.why, Things: []wire.NoticeThing{}, More: 0}
	acts := hears.acts(c)
	for _, l := range hears.lines {
		if !c.has(l) {
			continue
		}
		if len(body.Things) == mostLines {
			break
		}
		body.Things = append(body.Things, wire.NoticeThing{Kind: l.Kind, ID: l.Head.String(), Number: l.Number})
	}
	for _, a := range acts {
		body.More += a.Count
	}
	body.More = max(0, body.More-len(body.Things))
	raw, err := json.Marshal(body)
	if err != nil {
		return err
	}
	told := t.told[person]
	n := store.Notice{ID: store.NewID(), Account: person, Deed: f.Deed, N: f.Position, At: at, Title: trail.Sentence(by, acts), Body: string(raw), Digest: told.Mail != "" && (told.Rhythm == "hour" || told.Rhythm == "day")}
	t.notices = append(t.notices, n)
	now := store.Stamp(t.Now())
	if told.Mail != "" && told.Rhythm == "once" {
		w, err := t.mailOf(told, []store.Notice{n}, 0, now)
		if err != nil {
			return err
		}
		t.sendings = append(t.sendings, w)
	}
	if told.Hook != "" {
		w, err := t.hookOf(told, n, body, now)
		if err != nil {
			return err
		}
		t.sendings = append(t.sendings, w)
	}
	return nil
}
