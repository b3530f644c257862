package reform

import (
	"errors"
	"slices"

	"jollydrawer/core/crosswalk"
	"jollydrawer/core/document"
	"jollydrawer/internal/service/cabinets"
	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/store"
	"jollydrawer/internal/wire"
)

// latest is what others wrote while a change was on its way, in one try of the write that shows it.
type latest struct {
	*carrying
	t       *store.Tx
	mark    int64            // where the feed was when it was last looked
	settled map[store.ID]int // parts that were looked at here, with the version at which they were
	became  map[store.ID]became
	named   map[store.ID]bool     // what names parameters and follows the steps already
	hurt    map[store.ID][]string // of all parts
}

// fewLate is how many parts may be left for the moment in which everybody waits; mostLooks is how often it is tried to come to so few.
const (
	fewLate   = 20
	mostLooks = 10
)

// most carries over what others wrote, before anybody waits, until little is written in the time that this takes.
func (l *latest) most() error {
	for range mostLooks {
		if n, err := l.carry(); err != nil || n <= fewLate {
			return err
		}
	}
	return nil
}

// carry carries over what others wrote since it was last looked, and says how many parts that were.
func (l *latest) carry() (n int, err error) {
	next, err := l.t.FeedEnd()
	if err != nil {
		return 0, err
	}
	written, err := l.t.PartsWrittenSince(l.mark)
	if err != nil {
		return 0, err
	}
	l.mark = next
	late := l.late(written)
	for some := range slices.Chunk(late, 500) {
		if err := l.these(some); err != nil {
			return 0, err
		}
	}
	return len(late), nil
}

// late lists the parts that others wrote last, and that are at another version than the one that was looked at. Those that are carried
// over are not among them: the change itself wrote them last, and nobody else can until it ends.
func (l *latest) late(written []store.WrittenPart) (out []store.ID) {
	for _, w := range written {
		was, here := l.settled[w.ID]
		if !here {
			was = l.plan.seen[w.ID]
		}
		if !w.Gone && was != w.Version {
			out = append(out, w.ID)
		}
	}
	return out
}

// these carries over some parts as they are now.
func (l *latest) these(ids []store.ID) error {
	heads, err := l.t.HeadsByID(ids)
	if err != nil {
		return err
	}
	for _, id := range ids { // those that are gone, too
		delete(l.hurt, id)
	}
	lot, err := l.lotOf(l.t.Reader, heads)
	if err != nil {
		return err
	}
	var again []store.Staged
	for _, h := range lot.heads {
		o, s, err := l.over(h, lot.contents, l.became)
		if err != nil {
			return err
		}
		if len(o.hurt) > 0 {
			l.hurt[h.ID] = o.hurt
		}
		l.settled[h.ID] = h.Version
		if len(s.Contents) > 0 {
			again = append(again, s)
		}
	}
	return l.staging.Write(l.t, again)
}

// names lets crosswalks, saved views and whatever else names parameters follow the steps, but for what does already: nobody else
// can write that until this write ends. So most is written before anybody waits, however much there is.
func (l *latest) names() error {
	all, err := l.crosswalks()
	if err != nil {
		return err
	}
	registered, err := l.following(l.t.Reader, l.plan.steps)
	if err != nil {
		return err
	}
	for _, f := range append(all, registered...) {
		if l.named[f.ID] {
			continue
		}
		if err := f.Write(l.t); errors.Is(err, store.ErrConflict) {
			return store.ErrOvertaken // somebody saved it at this moment: it is found anew
		} else if err != nil {
			return err
		}
		l.named[f.ID] = true
	}
	return nil
}

// crosswalks finds those that name what the steps change, those that were made or changed meanwhile too.
func (l *latest) crosswalks() (out []cabinets.Following, err error) {
	for h, err := range crosswalks(l.t.Reader) {
		if err != nil {
			return nil, err
		}
		if l.named[h.ID] || l.plan.mapped[h.Number] == h.Version {
			continue
		}
		f, changed, err := l.crosswalk(h)
		if err != nil {
			return nil, err
		}
		if changed {
			out = append(out, f)
		}
	}
	return out, nil
}

// crosswalk says what becomes of one, and whether anything does.
func (l *latest) crosswalk(h store.Head) (out cabinets.Following, changed bool, err error) {
	c, err := l.t.Content(h.Released)
	if err != nil {
		return out, false, err
	}
	was, err := crosswalk.FromJSON(c.Bytes)
	if err != nil {
		return out, false, err
	}
	now, changed := follow(was, l.plan.steps)
	raw, hash, err := document.Canonical(now)
	return cabinets.Following{ID: h.ID, Write: func(t *store.Tx) error {
		_, err := deed.Apply(t, store.KindCrosswalk, h.Number, crosswalk.Format, h.Version, raw, store.Hash(hash))
		return err
	}}, changed, err
}

// count adds what parts become to what a change did.
func count(out *wire.Changed, all map[store.ID]became) {
	out.Parts += len(all)
	for _, b := range all {
		if b.released {
			out.Released++
		}
		if b.draft {
			out.Drafts++
		}
	}
}
