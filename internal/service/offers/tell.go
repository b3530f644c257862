package offers

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"

	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/store"
	"jollydrawer/internal/wire"
)

const (
	// straggling is how old news are that no refresh told of, because it was killed.
	straggling = 10 * time.Minute
	toldAtOnce = 400 // news
	mostSaid   = 4   // of one part
)

// Tell puts news of no later than a time on the trails of the parts that they are about, each once: whoever watches a part, its drawer, or answers for
// it, is told from there. It is the service's own deed.
func (s *Offers) Tell(ctx context.Context, until time.Time) error {
	names, err := s.names(ctx)
	if err != nil {
		return err
	}
	for {
		news, err := s.Store.Read(ctx).UntoldNews(until, toldAtOnce)
		if err != nil || len(news) == 0 {
			return err
		}
		d, err := s.NewDeed(deed.Call{Deed: store.NewID()}, deed.OpRefresh, news[0].ID)
		if err != nil {
			return err
		}
		_, err = s.Store.Do(ctx, d, func(t *store.Tx) (any, error) {
			var ids []store.ID
			for from := 0; from < len(news); {
				to := from
				var said []string
				for to < len(news) && news[to].Head == news[from].Head {
					ids = append(ids, news[to].ID)
					if one := names[news[to].Connection] + ": " + news[to].Says; !slices.Contains(said, one) {
						said = append(said, one)
					}
					to++
				}
				h, err := t.Head(store.KindPart, news[from].Head)
				if err != nil {
					return nil, err
				}
				if n := len(said); n > mostSaid {
					said = append(said[:mostSaid], fmt.Sprintf("and %d more", n-mostSaid))
				}
				if err := t.Note(&h, "offers changed", map[string]any{"note": strings.Join(said, "; "), "news": to - from}); err != nil {
					return nil, err
				}
				from = to
			}
			return len(ids), t.TellNews(ids)
		})
		if errors.Is(err, store.ErrConflict) { // another instance told of them, or somebody works on a part: the rest comes next time
			return nil
		}
		if err != nil {
			return err
		}
	}
}

// Waiting is what became otherwise of offers and nobody has seen to, as work that waits: by part, the newest first.
func (s *Offers) Waiting(ctx context.Context, c deed.Call, limit int) (out []wire.WorkItem, total int, more bool, err error) {
	if err := deed.Allow(c, deed.OpPartEdit); err != nil {
		return nil, 0, false, err
	}
	const newest = 200
	l, err := s.News(ctx, c, 0, newest)
	if err != nil {
		return nil, 0, false, err
	}
	by := map[string]int{}
	for _, n := range l.Items {
		for _, number := range n.Parts {
			if i, ok := by[number]; ok {
				if i >= 0 && !strings.Contains(out[i].Remark, "more") {
					out[i].Remark += ", and more"
				}
				continue
			}
			by[number] = -1
			if len(out) < limit {
				by[number] = len(out)
				item := wire.WorkItem{Kind: "part", Name: number, What: n.Source, Since: n.At, Remark: n.Supplier + ": " + n.Says}
				if e, ok := s.index.ByNumber(number); ok {
					item.ID, item.What = e.ID, e.Description
				}
				out = append(out, item)
			}
		}
	}
	return out, len(by), l.Page.Total > newest, nil
}
