package lifecycles

import (
	"context"
	"encoding/json"
	"fmt"
	"slices"
	"strings"
	"time"

	"jollydrawer/core/cabinet"
	"jollydrawer/core/lifecycle"
	"jollydrawer/core/model"
	"jollydrawer/core/part"
	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/service/parts"
	"jollydrawer/internal/service/people"
	"jollydrawer/internal/service/policy"
	"jollydrawer/internal/service/series"
	"jollydrawer/internal/store"
	"jollydrawer/internal/wire"
)

// items is the review list of a thing's newest content.
func (s *Lifecycles) items(r store.Reader, tell telling, h store.Head) ([]lifecycle.Item, store.Content, error) {
	c, err := r.Content(h.Newest())
	if err != nil {
		return nil, c, err
	}
	if t, ok, err := tell(h); ok || err != nil {
		if err == nil {
			c.Hash, err = t.hash()
		}
		return t.Items, c, err
	}
	if h.Kind == store.KindModel {
		var m model.Content
		if err := json.Unmarshal(c.Bytes, &m); err != nil {
			return nil, c, err
		}
		out, err := model.ReviewItems(&m)
		return out, c, err
	}
	p, err := parts.DecodeContent(c)
	if err != nil {
		return nil, c, err
	}
	cab, _, err := s.cabinets.Perhaps(r)
	if err != nil {
		return nil, c, err
	}
	var t *cabinet.Template
	if cab != nil {
		t, _ = cab.Template(p.Drawer)
	}
	out, err := part.ReviewItems(p, t)
	return out, c, err
}

// Sayable lists what of a thing people may talk about, by key: the lines of its review list, and every parameter of its template.
// A thing without a review list has none.
func (s *Lifecycles) Sayable(ctx context.Context, h store.Head) ([]string, error) {
	if h.Kind != store.KindPart && h.Kind != store.KindModel && s.tellers[h.Kind] == nil {
		return nil, nil
	}
	r := s.Store.Read(ctx)
	items, _, err := s.items(r, s.ask(ctx), h)
	if err != nil {
		return nil, err
	}
	rules, err := s.policy.Rules(r)
	if err != nil {
		return nil, err
	}
	var out []string
	for _, i := range items {
		out = append(out, i.Key)
	}
	if t, ok := rules.Template(h); ok {
		for _, slot := range t.Slots {
			if key := "values." + slot.Key; !slices.Contains(out, key) {
				out = append(out, key)
			}
		}
	}
	return out, nil
}

// Review returns the review list of a thing: what is to be laid beside the datasheet, and who ticked it.
func (s *Lifecycles) Review(ctx context.Context, c deed.Call, key string) (wire.Review, error) {
	if err := deed.Allow(c, deed.OpRead); err != nil {
		return wire.Review{}, err
	}
	h, err := s.thing(ctx, key)
	if err != nil {
		return wire.Review{}, err
	}
	r := s.Store.Read(ctx)
	again := func() (store.Head, error) { return r.Head(h.Kind, h.ID) }
	return deed.Whole(h, again, func(h store.Head) (wire.Review, error) { return s.review(ctx, r, c.Actor, h) })
}

func (s *Lifecycles) review(ctx context.Context, r store.Reader, who deed.Actor, h store.Head) (wire.Review, error) {
	out := wire.Review{ID: h.ID.String(), Number: h.Number, Kind: h.Kind, Version: h.Version, Items: []wire.ReviewItem{}, Signed: []wire.ReviewSign{}, Datasheets: []part.File{}, Series: []wire.PartSeries{}}
	items, content, err := s.items(r, s.ask(ctx), h)
	if err != nil {
		return out, err
	}
	ticks, err := r.ReviewTicks(h.ID)
	if err != nil {
		return out, err
	}
	for _, i := range items {
		w := wire.ReviewItem{Item: i, By: []string{}}
		for _, t := range ticks {
			switch same := t.Value.String() == i.Value; {
			case t.Item != i.Key:
			case same && t.Account == who.ID:
				w.Mine = true
				w.By = append(w.By, s.Person(ctx, t.Account))
			case same:
				w.By = append(w.By, s.Person(ctx, t.Account))
			default:
				w.Changed = true
			}
		}
		if !w.Mine {
			out.Open++
		}
		out.Items = append(out.Items, w)
	}
	if h.Kind == store.KindPart {
		if p, err := parts.DecodeContent(content); err == nil {
			out.Datasheets = append(out.Datasheets, p.Datasheets...)
			if out.Series, err = series.Of(r, p); err != nil {
				return out, err
			}
			for _, s := range out.Series { // what the series has is the part's, too
				for _, f := range s.Datasheets {
					if !slices.ContainsFunc(out.Datasheets, func(have part.File) bool { return have.Hash == f.Hash }) {
						out.Datasheets = append(out.Datasheets, f)
					}
				}
			}
		}
	}
	signs, err := r.ReviewSigns([]store.ID{h.ID})
	if err != nil {
		return out, err
	}
	for _, w := range signs {
		out.Signed = append(out.Signed, wire.ReviewSign{By: s.Person(ctx, w.Account), At: w.At, Against: w.Against, Author: w.Author, Current: w.Content == content.Hash})
	}
	turns, err := r.ReviewTurns([]store.ID{h.ID})
	if t, ok := turns[h.ID]; ok && s.holds(t) {
		out.Taken = s.Person(ctx, t.Account)
		out.TakenByMe = t.Account == who.ID
	}
	return out, err
}

// turnTime is how long somebody has a thing who took it from the queue.
const turnTime = 2 * time.Hour

func (s *Lifecycles) holds(t store.ReviewTurn) bool { return s.Now().Sub(t.At) < turnTime }

// Tick says that the caller found items of a review list right, or takes that back.
func (s *Lifecycles) Tick(ctx context.Context, c deed.Call, key string, version int, in wire.TickItems) (wire.Review, error) {
	return s.reviewing(ctx, c, key, version, in, func(t *store.Tx, h *store.Head, tell telling) (string, any, error) {
		return s.tick(t, tell, h, c.Actor, in)
	})
}

func (s *Lifecycles) tick(t *store.Tx, tell telling, h *store.Head, by deed.Actor, in wire.TickItems) (action string, detail any, err error) {
	items, _, err := s.items(t.Reader, tell, *h)
	if err != nil {
		return "", nil, err
	}
	for _, key := range in.Items {
		i := slices.IndexFunc(items, func(i lifecycle.Item) bool { return i.Key == key })
		if i < 0 {
			return "", nil, deed.Fault(deed.Invalid, "item-unknown", fmt.Sprintf("The review list of %s has no item %q.", policy.NameOf(*h), key), "Load it again: it may have changed.")
		}
		k := store.ReviewTick{Head: h.ID, Item: key, Account: by.ID, At: t.Deed.At}
		if !in.Untick {
			if k.Value, err = store.ParseHash(items[i].Value); err != nil {
				return "", nil, err
			}
		}
		if err := t.Tick(k); err != nil {
			return "", nil, err
		}
	}
	action = "ticked"
	if in.Untick {
		action = "unticked"
	}
	return action, map[string]any{"items": in.Items}, nil
}

// reviewing carries out a write about the review of one thing, as it was looked at.
func (s *Lifecycles) reviewing(ctx context.Context, c deed.Call, key string, version int, in any, do func(*store.Tx, *store.Head, telling) (action string, detail any, err error)) (wire.Review, error) {
	id, err := s.note(ctx, c, deed.OpReview, key, version, in, do)
	if err != nil {
		return wire.Review{}, err
	}
	return s.Review(ctx, c, id)
}

// note carries out a write beside the content of one thing, as it was looked at, and returns its identifier: the thing gets an entry of
// its trail and another version, and nothing else of it changes.
func (s *Lifecycles) note(ctx context.Context, c deed.Call, op deed.Op, key string, version int, in any, do func(*store.Tx, *store.Head, telling) (action string, detail any, err error)) (string, error) {
	if err := deed.Allow(c, op); err != nil {
		return "", err
	}
	h, err := s.thing(ctx, key)
	if err != nil {
		return "", err
	}
	told := map[store.ID]Told{}
	ahead := func() error {
		now, err := s.thing(ctx, h.ID.String())
		if err != nil {
			return err
		}
		if now.Version != version {
			return store.ErrConflict
		}
		t, ok, err := s.ask(ctx)(now)
		if ok {
			told[h.ID] = t
		}
		return err
	}
	_, err = deed.DoAfter(ctx, s.Desk, c, op, "thing", []any{h.ID, version, in}, ahead, func(t *store.Tx) (int, error) {
		h, err := t.HeadAt(h.Kind, h.ID, version)
		if err == nil {
			err = policy.Stands(h)
		}
		if err != nil {
			return 0, err
		}
		action, detail, err := do(t, &h, s.recall(told))
		if err != nil {
			return 0, err
		}
		return h.Version, t.Update(&h, action, detail)
	})
	return h.ID.String(), err
}

// Sign says that the caller went through the whole review list, and against what. It covers the very content: values, sources, the
// exact revisions of the models, the datasheets.
func (s *Lifecycles) Sign(ctx context.Context, c deed.Call, key string, version int, in wire.SignReview) (wire.Review, error) {
	return s.reviewing(ctx, c, key, version, in, func(t *store.Tx, h *store.Head, tell telling) (string, any, error) {
		return s.sign(t, tell, h, c.Actor, in)
	})
}

func (s *Lifecycles) sign(t *store.Tx, tell telling, h *store.Head, by deed.Actor, in wire.SignReview) (action string, _ any, err error) {
	against := deed.Said(in.Against)
	if against == "" {
		return "", nil, deed.Fault(deed.Invalid, "no-against", "A signature says what the list was gone through with.", "Name the datasheet or the drawing, and its page.")
	}
	items, content, err := s.items(t.Reader, tell, *h)
	if err != nil {
		return "", nil, err
	}
	if in.All {
		for _, i := range items {
			value, err := store.ParseHash(i.Value)
			if err == nil {
				err = t.Tick(store.ReviewTick{Head: h.ID, Item: i.Key, Account: by.ID, Value: value, At: t.Deed.At})
			}
			if err != nil {
				return "", nil, err
			}
		}
	}
	ticks, err := t.ReviewTicks(h.ID)
	if err != nil {
		return "", nil, err
	}
	var mine []lifecycle.Tick
	for _, k := range ticks {
		mine = append(mine, lifecycle.Tick{Item: k.Item, By: k.Account.String(), Value: k.Value.String()})
	}
	if open := lifecycle.Open(items, mine, by.ID.String()); len(open) > 0 {
		return "", nil, deed.Fault(deed.Invalid, "list-open", fmt.Sprintf("%d of %d items of the review list are not ticked by you: %s.", len(open), len(items), strings.Join(open[:min(len(open), 5)], ", ")), "Tick them, or say that you looked at all of them.")
	}
	authors, err := t.Authors([]store.Head{*h})
	if err != nil {
		return "", nil, err
	}
	sign := store.ReviewSign{Head: h.ID, Content: content.Hash, Account: by.ID, Author: slices.Contains(authors[h.ID], by.ID), Against: against, At: t.Deed.At}
	if err := t.SignReview(sign); err != nil {
		return "", nil, err
	}
	detail := map[string]any{"content": content.Hash.String(), "against": sign.Against}
	if sign.Author {
		detail["author"] = true
	}
	return "signed", detail, t.TakeTurn(h.ID, by.ID, false)
}

// Take gives a thing in the queue to the caller, so that others see that somebody is at it, or lets go of it.
func (s *Lifecycles) Take(ctx context.Context, c deed.Call, key string, version int, in wire.TakeTurn) (wire.Review, error) {
	return s.reviewing(ctx, c, key, version, in, func(t *store.Tx, h *store.Head, _ telling) (string, any, error) {
		turns, err := t.ReviewTurns([]store.ID{h.ID})
		if err != nil {
			return "", nil, err
		}
		if was, ok := turns[h.ID]; ok && s.holds(was) && was.Account != c.Actor.ID && c.Actor.Role != deed.Librarian && c.Actor.Role != deed.Administrator {
			a, err := t.AccountBy("id", was.Account)
			if err != nil {
				return "", nil, err
			}
			return "", nil, deed.Fault(deed.Clash, "taken", fmt.Sprintf("%s is being reviewed by %s.", policy.NameOf(*h), a.Name), "Take another one, or ask a librarian to take it over.")
		}
		action := "taken for review"
		if in.LetGo {
			action = "let go of"
		}
		return action, nil, t.TakeTurn(h.ID, c.Actor.ID, !in.LetGo)
	})
}

// QueueQuery narrows the queue.
type QueueQuery struct {
	Mine          bool // only what I may review, of what my groups answer for
	Kind          string
	Offset, Limit int
	Count         int // no more of each state and kind are counted; 0: all
}

// Queue lists what waits for a review, what waits longest first.
func (s *Lifecycles) Queue(ctx context.Context, c deed.Call, q QueueQuery) (wire.Queue, error) {
	offset, limit := deed.Page(q.Offset, q.Limit)
	out := wire.Queue{Page: wire.Page{Offset: offset, Limit: limit}, Items: []wire.QueueItem{}}
	if err := deed.Allow(c, deed.OpRead); err != nil {
		return out, err
	}
	r := s.Store.Read(ctx)
	rules, err := s.policy.Rules(r)
	if err != nil {
		return out, err
	}
	kinds := []string{store.KindPart, store.KindModel, store.KindBOM}
	if q.Kind != "" {
		kinds = []string{q.Kind}
	}
	ask := store.WaitingQuery{States: rules.Waiting(), Kinds: kinds, Count: q.Count}
	groups, err := r.Groups()
	if err != nil {
		return out, err
	}
	if q.Mine {
		ask.NotBy = c.Actor.ID // an author does not review
		ask.Without = othersDuties(groups, c.Actor, rules)
	}
	heads, total, err := r.Waiting(ask, offset, limit)
	if err != nil {
		return out, err
	}
	out.Page.Total = int(total)
	out.Items, err = s.queued(ctx, r, c.Actor, rules, groups, heads)
	return out, err
}

// othersDuties lists by kind of thing the drawers and kinds of models for which others answer: some group does, and none that the person
// belongs to.
func othersDuties(groups []store.Group, who deed.Actor, rules policy.Rules) map[string][]string {
	others := func(h store.Head) bool {
		somebody := false
		for _, g := range groups {
			if answers(g, h, rules) {
				if slices.Contains(g.Members, who.ID) {
					return false
				}
				somebody = true
			}
		}
		return somebody
	}
	out := map[string][]string{}
	for _, drawer := range rules.Drawers() {
		if others(store.Head{Kind: store.KindPart, Drawer: drawer}) {
			out[store.KindPart] = append(out[store.KindPart], drawer)
		}
	}
	for _, kind := range people.KindsOfModel {
		if others(store.Head{Kind: store.KindModel, Number: kind + ": "}) {
			out[store.KindModel] = append(out[store.KindModel], kind)
		}
	}
	return out
}

// answers says whether a group answers for a thing: for its kind of model, or for its drawer or one around it.
func answers(g store.Group, h store.Head, rules policy.Rules) bool {
	if h.Kind == store.KindModel {
		return slices.Contains(g.Kinds, policy.KindOf(h))
	}
	t, ok := rules.Template(h)
	return ok && slices.ContainsFunc(g.Drawers, t.Inside)
}

// since is when a thing came to where it waits.
func since(h store.Head) time.Time {
	if h.Moved == nil {
		return h.Updated
	}
	return *h.Moved
}

// queued are things of the queue as they are shown.
func (s *Lifecycles) queued(ctx context.Context, r store.Reader, who deed.Actor, rules policy.Rules, groups []store.Group, heads []store.Head) ([]wire.QueueItem, error) {
	out := []wire.QueueItem{}
	if len(heads) == 0 {
		return out, nil
	}
	ids := store.IDs(heads)
	authors, err := r.Authors(heads)
	if err != nil {
		return nil, err
	}
	turns, err := r.ReviewTurns(ids)
	if err != nil {
		return nil, err
	}
	for _, h := range heads {
		i := wire.QueueItem{ID: h.ID.String(), Version: h.Version, Kind: h.Kind, Number: h.Number, State: policy.View(rules.Draft(h)), Since: since(h), Revision: h.Revision, Authors: []string{}, Groups: []string{}}
		if e, ok := s.index.ByID(i.ID); ok {
			i.What = e.Description
		}
		for _, a := range authors[h.ID] {
			i.Authors = append(i.Authors, s.Person(ctx, a))
			i.Mine = i.Mine || a == who.ID
		}
		for _, g := range groups {
			if answers(g, h, rules) {
				i.Groups = append(i.Groups, g.Name)
			}
		}
		if t, ok := turns[h.ID]; ok && s.holds(t) {
			i.Taken, i.TakenByMe = s.Person(ctx, t.Account), t.Account == who.ID
		}
		out = append(out, i)
	}
	return out, nil
}
