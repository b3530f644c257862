package offers

import (
	"context"
	"fmt"
	"maps"
	"slices"
	"time"

	"jollydrawer/core/connection"
	"jollydrawer/core/part"
	"jollydrawer/internal/store"
)

const (
	sheetsEvery = 24 * time.Hour // that the file behind a link is looked at
	mostSheets  = 500            // links that one refresh looks at, those that were fetched longest ago first
)

// sheet notes that a product of a wanted source has a datasheet.
func (r *refreshing) sheet(p connection.Product, of []store.Offer) {
	if !part.IsLink(p.Datasheet) || len(of) == 0 {
		return
	}
	r.mu.Lock()
	defer r.mu.Unlock()
	if !slices.ContainsFunc(r.sheets[p.Datasheet], func(o store.Offer) bool { return o.K == of[0].K }) {
		r.sheets[p.Datasheet] = append(r.sheets[p.Datasheet], store.Offer{ID: of[0].ID, K: of[0].K}) // what it says is not needed
	}
}

// compareSheets looks whether links of datasheets that the library fetched lead to other files now. The old file stays with the parts that have it; the
// new one is kept beside it, and said.
func (r *refreshing) compareSheets(ctx context.Context) error {
	known, err := r.Store.Read(ctx).FetchedLinks(slices.Sorted(maps.Keys(r.sheets)))
	if err != nil {
		return err
	}
	var old []store.Fetched
	for _, f := range known {
		if !f.File.IsZero() && r.Now().Sub(f.At) >= sheetsEvery {
			old = append(old, f)
		}
	}
	slices.SortFunc(old, func(a, b store.Fetched) int { return a.At.Compare(b.At) })
	client := r.guard.Client(longestFetch)
	for _, f := range old[:min(len(old), mostSheets)] {
		now, err := r.files.FetchSheet(ctx, client, f.Link)
		if err != nil {
			return err
		}
		if now.Why != "" { // a link that is dead today, or shows a page to sign in, may lead to a datasheet tomorrow; the file is kept
			r.problem(fmt.Sprintf("The datasheet %s was not compared: %s.", f.Link, now.Why))
			continue
		}
		was := f.File
		f.File, f.At = now.Hash, store.Stamp(r.Now())
		if f.File == was {
			err = r.Store.KeepFetched(ctx, f)
		} else {
			err = r.Store.SheetChanged(ctx, f, r.sheets[f.Link], fmt.Sprintf("the file of the datasheet %s is another one now; the part has the old one", now.Name))
		}
		if err != nil {
			return err
		}
	}
	return nil
}

// mostProblems is how many are said.
const mostProblems = 50

func (r *refreshing) problem(says string) {
	r.mu.Lock()
	defer r.mu.Unlock()
	if len(r.out.Problems) < mostProblems {
		r.out.Problems = append(r.out.Problems, says)
	}
}
