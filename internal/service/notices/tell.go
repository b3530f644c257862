package notices

import (
	"cmp"
	"context"
	"encoding/json"
	"errors"
	"slices"
	"time"

	"jollydrawer/core/lookup"
	"jollydrawer/core/notice"
	"jollydrawer/core/trail"
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
	for name, step := range map[string]func(context.Context) (bool, error){"telling people": s.Step, "digests": s.Gather, "sending": s.Send} {
		go func() {
			for {
				more, err := step(ctx)
				wait := 300 * time.Millisecond
				if err != nil && ctx.Err() == nil {
					s.Log.Warn(name, "error", err)
					wait = 3 * time.Second
				}
				if more && err == nil {
					wait = 0
				}
				select {
				case <-ctx.Done():
					return
				case <-time.After(wait):
				}
			}
		}()
	}
	<-ctx.Done()
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
	if err := t.load(ctx); err != nil {
		return false, err
	}
	for _, f := range rows {
		if err := t.deed(ctx, f); err != nil {
			return false, err
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

// telling works out who is told what of some deeds.
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
	d, err := t.r.DeedOf(f.Deed)
	if err != nil {
		return err
	}
	lines, err := t.r.EntriesBy(f.Deed, mostOfOne)
	if err != nil {
		return err
	}
	hears := &audience{telling: t, by: map[store.ID]*concern{}, lines: lines, actor: d.Account, at: d.At}
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
	by := ""
	if !d.Account.IsZero() {
		by = t.Person(ctx, d.Account)
	}
	for _, person := range hears.people() {
		if err := t.tell(person, f, d, by, hears); err != nil {
			return err
		}
	}
	return nil
}

// tell makes the notice of one person.
func (t *telling) tell(person store.ID, f store.FeedRow, d store.Deed, by string, hears *audience) error {
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
	n := store.Notice{ID: store.NewID(), Account: person, Deed: f.Deed, N: f.Position, At: d.At, Title: trail.Sentence(by, acts), Body: string(raw), Digest: told.Mail != "" && (told.Rhythm == "hour" || told.Rhythm == "day")}
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

// alike are things of a deed that are of one kind and drawer, and were treated alike.
type alike struct{ kind, drawer, action string }

// concern is what of a deed concerns a person.
type concern struct {
	why    string
	all    map[alike]bool // of which every one does
	things map[store.ID]bool
}

// has says whether a thing concerns the person.
func (c *concern) has(l store.Deedly) bool {
	return c.things[l.Head] || c.all[alike{l.Kind, l.Drawer, l.Action}]
}

// audience are the people whom a deed concerns.
type audience struct {
	*telling
	actor store.ID
	at    time.Time // of the deed
	lines []store.Deedly
	by    map[store.ID]*concern
	total map[alike]int
}

func (a *audience) of(person store.ID, why string) *concern {
	c := a.by[person]
	if c == nil {
		c = &concern{why: why, all: map[alike]bool{}, things: map[store.ID]bool{}}
		a.by[person] = c
	}
	return c
}

// people lists who is told: not who did it, nor who is gone.
func (a *audience) people() (out []store.ID) {
	for p := range a.by {
		if p != a.actor && a.telling.people[p] {
			out = append(out, p)
		}
	}
	slices.SortFunc(out, func(x, y store.ID) int { return cmp.Compare(x.String(), y.String()) })
	return out
}

// broadly finds who watches, or answers for, the drawers and kinds of what was done.
func (a *audience) broadly(done []store.Done) {
	a.total = map[alike]int{}
	for _, d := range done {
		key := alike{d.Kind, d.Drawer, d.Action}
		a.total[key] += d.N
		if !notice.Loud(d.Kind, d.Action) {
			continue
		}
		sort, places := ofDrawer, a.drawers[d.Drawer]
		if d.Kind == store.KindModel {
			sort, places = ofKind, []string{d.Drawer}
		}
		for _, p := range places {
			for _, w := range a.broad[sort][p] {
				if a.hears(w) {
					a.of(w.Account, "You watch "+a.label(p)+".").all[key] = true
				}
			}
			for _, person := range a.groups[sort][p] {
				a.of(person, "Your group answers for "+a.label(p)+".").all[key] = true
			}
		}
	}
}

// hears says whether a watch was there when the deed was done: it is told of what comes, not of what was.
func (a *audience) hears(w store.Watch) bool { return !w.Made.After(a.at) }

func (a *audience) label(place string) string {
	if l := a.labels[place]; l != "" {
		return l
	}
	return place
}

// singly finds who watches single things, wrote what was moved, or wants what was settled.
func (a *audience) singly(of store.ID) error {
	watching, err := a.r.WatchersOf(of, a.at, mostOfOne)
	if err != nil {
		return err
	}
	wanting, err := a.r.WantersOf(of)
	if err != nil {
		return err
	}
	for _, w := range wanting {
		a.of(w.Account, "You want it.").things[w.Head] = true
	}
	for _, w := range watching {
		a.of(w.Account, "You watch it.").things[w.Head] = true
	}
	talking, err := a.r.CommentersOf(of)
	if err != nil {
		return err
	}
	for _, w := range talking {
		a.of(w.Account, "You commented on it.").things[w.Head] = true
	}
	written, err := a.r.AuthorsMoved(of, mostOfOne)
	if err != nil {
		return err
	}
	for _, w := range written {
		a.of(w.Account, "You wrote it.").things[w.Head] = true
	}
	return nil
}

// questions finds who watches a question that finds what was done.
func (a *audience) questions(ctx context.Context) error {
	loud := map[string]store.ID{}
	for _, l := range a.lines {
		if l.Kind == store.KindPart && notice.Loud(l.Kind, l.Action) {
			loud[l.Head.String()] = l.Head
		}
	}
	if len(loud) == 0 {
		return nil
	}
	for _, w := range a.telling.questions {
		if ctx.Err() != nil {
			return ctx.Err()
		}
		if !a.hears(w) {
			continue
		}
		found, ok := a.asked[w.About]
		if !ok {
			found = map[string]bool{}
			for _, id := range a.Index.IDs(lookup.Query{Text: w.About}, a.Index.Len()) {
				found[id] = true
			}
			a.asked[w.About] = found
		}
		for text, id := range loud {
			if found[text] {
				a.of(w.Account, "You watch the question “"+w.About+"”.").things[id] = true
			}
		}
	}
	return nil
}

// mostHolders is how many holders of a withdrawn revision are told of it one by one.
const mostHolders = 500

// holders finds who wrote or watches what holds on to a revision that was moved, such as withdrawn.
func (a *audience) holders() error {
	for _, l := range a.lines {
		var detail struct {
			Revision int    `json:"revision"`
			From     string `json:"from"`
		}
		if l.Action != "moved" || json.Unmarshal([]byte(l.Detail), &detail) != nil || detail.Revision == 0 {
			continue
		}
		holders, err := a.r.HoldersOf(l.Head, detail.Revision, mostHolders)
		if err != nil {
			return err
		}
		ids, names := []store.ID{}, map[store.ID]string{}
		for _, h := range holders {
			ids = append(ids, h.ID)
			names[h.ID] = h.Number
			if h.Kind == store.KindPart {
				for _, p := range a.drawers[h.Drawer] {
					for _, person := range a.groups[ofDrawer][p] {
						a.of(person, h.Number+" uses it, and your group answers for that.").things[l.Head] = true
					}
				}
			}
		}
		concerned, err := a.r.WritersOf(ids)
		if err != nil {
			return err
		}
		for _, w := range concerned {
			a.of(w.Account, names[w.Head]+" uses it.").things[l.Head] = true
		}
	}
	return nil
}

// acts are what a person hears, in the words of the deed, what most was done to first.
func (a *audience) acts(c *concern) []trail.Act {
	type key struct{ kind, action string }
	by := map[key]*trail.Act{}
	where := map[key]map[string]bool{}
	put := func(kind, drawer, action string, n int) *trail.Act {
		k := key{kind, action}
		if by[k] == nil {
			by[k], where[k] = &trail.Act{Kind: kind, Action: action}, map[string]bool{}
		}
		by[k].Count += n
		where[k][drawer] = true
		return by[k]
	}
	for _, l := range a.lines {
		if !c.has(l) {
			continue
		}
		act := put(l.Kind, l.Drawer, l.Action, 1)
		var detail map[string]any
		_ = json.Unmarshal([]byte(l.Detail), &detail) // what is none says nothing
		if act.Count == 1 {
			act.Name, act.Detail = l.Number, detail
			continue
		}
		for k, v := range act.Detail { // of several, what is said of all
			if s, ok := v.(string); !ok || detail[k] != s {
				delete(act.Detail, k)
			}
		}
	}
	if len(a.lines) == mostOfOne { // more were done than are listed: those of which all concern the person are counted as a whole
		listed := map[alike]int{}
		for _, l := range a.lines {
			listed[alike{l.Kind, l.Drawer, l.Action}]++
		}
		for whole := range c.all {
			if n := a.total[whole] - listed[whole]; n > 0 {
				put(whole.kind, whole.drawer, whole.action, n)
			}
		}
	}
	var out []trail.Act
	for k, act := range by {
		if len(where[k]) == 1 {
			for d := range where[k] {
				act.Where = cmp.Or(a.labels[d], d)
			}
		}
		out = append(out, *act)
	}
	slices.SortFunc(out, func(x, y trail.Act) int {
		return cmp.Or(loudness(y)-loudness(x), cmp.Compare(y.Count, x.Count), cmp.Compare(x.Kind+x.Action, y.Kind+y.Action))
	})
	return out
}

func loudness(a trail.Act) int {
	if notice.Loud(a.Kind, a.Action) || a.Kind == store.KindWant {
		return 1
	}
	return 0
}
