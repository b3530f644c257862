package notices

import (
	"context"
	"fmt"
	"slices"
	"strings"

	"jollydrawer/core/lookup"
	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/service/people"
	"jollydrawer/internal/store"
	"jollydrawer/internal/wire"
)

// Sorts of watches as they are kept: things are kept by their identifier.
const (
	ofThing    = "thing"
	ofDrawer   = "drawer"
	ofKind     = "kind"
	ofQuestion = "question"
)

// mostWatches is how much one person may watch.
const mostWatches = 500

// Watches lists what the caller watches.
func (s *Notices) Watches(ctx context.Context, c deed.Call) (wire.WatchList, error) {
	out := wire.WatchList{Items: []wire.Watch{}}
	if err := deed.Allow(c, deed.OpRead); err != nil {
		return out, err
	}
	r := s.Store.Read(ctx)
	all, err := r.WatchesOf(c.Actor.ID)
	if err != nil {
		return out, err
	}
	var ids []store.ID
	for _, w := range all {
		if w.Sort == ofThing {
			ids = append(ids, w.Head)
		}
	}
	heads, err := r.HeadsByID(ids)
	if err != nil {
		return out, err
	}
	cab := s.Cabinets.Current(ctx)
	for _, w := range all {
		v := wire.Watch{Of: w.Sort, About: w.About, Name: w.About, Since: w.Made}
		switch at := slices.IndexFunc(heads, func(h store.Head) bool { return h.ID == w.Head }); {
		case w.Sort == ofThing && at < 0:
			continue
		case w.Sort == ofThing:
			v.Of, v.Name = heads[at].Kind, heads[at].Number
		case w.Sort == ofDrawer && cab != nil:
			if t, ok := cab.Template(w.About); ok {
				v.Name = t.Label
			}
		}
		out.Items = append(out.Items, v)
	}
	return out, nil
}

// subject finds what is to be watched.
func (s *Notices) subject(ctx context.Context, in wire.WatchEdit) (w store.Watch, err error) {
	in.About = strings.TrimSpace(in.About)
	switch in.Of {
	case "part", "model", "bom", "want":
		h, err := s.thing(ctx, in.Of, in.About)
		return store.Watch{Sort: ofThing, About: h.ID.String(), Head: h.ID}, err
	case ofDrawer:
		cab := s.Cabinets.Current(ctx)
		if cab == nil {
			return w, deed.Fault(deed.Unknown, "not-found", "There is no cabinet yet.", "Apply one first.")
		}
		if _, ok := cab.Template(in.About); !ok {
			return w, deed.Fault(deed.Unknown, "drawer-unknown", fmt.Sprintf("There is no drawer %q.", in.About), "Look at the cabinet: jolly cabinet show.")
		}
	case ofKind:
		if !slices.Contains(people.KindsOfModel, in.About) {
			return w, deed.Fault(deed.Invalid, "kind-unknown", fmt.Sprintf("%q is no kind of model: use %s.", in.About, strings.Join(people.KindsOfModel, ", ")), "")
		}
	case ofQuestion:
		in.About = strings.Join(strings.Fields(deed.Said(in.About)), " ")
		if a := s.Index.Search(lookup.Query{Text: in.About, Limit: 1}); in.About == "" || len(a.Facts) == 0 {
			return w, deed.Fault(deed.Invalid, "question-blank", "The question asks for nothing.", "Write it as in the lookup box: 4k7 0805 1%.")
		}
	default:
		return w, deed.Fault(deed.Invalid, "watch-unknown", fmt.Sprintf("%q cannot be watched: use part, model, bom, want, drawer, kind or question.", in.Of), "")
	}
	return store.Watch{Sort: in.Of, About: in.About}, nil
}

// thing finds a part, model, BOM or want by its number, name or identifier.
func (s *Notices) thing(ctx context.Context, kind, key string) (h store.Head, err error) {
	r := s.Store.Read(ctx)
	if kind == store.KindPart {
		h, err = s.Parts.Find(ctx, key)
	} else {
		h, err = r.Called(kind, key)
	}
	if kind == store.KindBOM {
		kind = "BOM"
	}
	return h, deed.Sentence(err, kind)
}

// Watch lets the caller hear of something from now on.
func (s *Notices) Watch(ctx context.Context, c deed.Call, in wire.WatchEdit) (wire.WatchList, error) {
	var w store.Watch
	_, err := deed.DoAfter(ctx, s.Desk, c, deed.OpWatch, "watch", in, func() (err error) {
		w, err = s.subject(ctx, in)
		return err
	}, func(t *store.Tx) (string, error) {
		have, err := t.WatchesOf(c.Actor.ID)
		if err != nil {
			return "", err
		}
		if len(have) >= mostWatches {
			return "", deed.Fault(deed.Invalid, "watches-many", fmt.Sprintf("You watch %d things already, which is the most.", len(have)), "Watch a drawer or a question in the place of single parts.")
		}
		w.ID, w.Account, w.Made = store.NewID(), c.Actor.ID, t.Deed.At
		return w.About, t.AddWatch(w)
	})
	if err != nil {
		return wire.WatchList{}, err
	}
	return s.Watches(ctx, c)
}

// Unwatch ends a watch; one that is not there is ended already.
func (s *Notices) Unwatch(ctx context.Context, c deed.Call, in wire.WatchEdit) (wire.WatchList, error) {
	_, err := deed.Do(ctx, s.Desk, c, deed.OpWatch, "watch", []any{"end", in}, func(t *store.Tx) (bool, error) {
		all, err := t.WatchesOf(c.Actor.ID)
		if err != nil {
			return false, err
		}
		for _, w := range all {
			about := w.Sort == in.Of && w.About == strings.TrimSpace(in.About)
			if w.Sort == ofThing {
				h, err := t.HeadsByID([]store.ID{w.Head})
				if err != nil {
					return false, err
				}
				about = len(h) == 1 && h[0].Kind == in.Of && (w.About == in.About || strings.EqualFold(h[0].Number, in.About))
			}
			if about {
				return t.DropWatch(c.Actor.ID, w.Sort, w.About)
			}
		}
		return false, nil
	})
	if err != nil {
		return wire.WatchList{}, err
	}
	return s.Watches(ctx, c)
}
