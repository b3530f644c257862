package offers

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"path"
	"slices"
	"time"

	"jollydrawer/core/connection"
	"jollydrawer/core/part"
	"jollydrawer/internal/jobs"
	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/service/files"
	"jollydrawer/internal/service/work"
	"jollydrawer/internal/store"
	"jollydrawer/internal/wire"
)

const (
	jobModels = "offers-models"
	// mostArchives is how many files of models are fetched of one product.
	mostArchives = 20
	longestFetch = 60 * time.Second
)

// modelsPayload says what is fetched, and for which part.
type modelsPayload struct {
	Part   string // ID
	Name   string
	Models []connection.Linked
}

// fetchModels starts fetching the files of models that suppliers have ready for a product.
func (s *Offers) fetchModels(ctx context.Context, by deed.Actor, of store.ID, k taking) (*wire.Job, error) {
	c := deed.Call{Actor: by, Deed: store.NewID()}
	j, err := s.work.Start(ctx, c, work.Asked{Op: deed.OpModelEdit, Kind: jobModels, Head: of, Prepare: func(time.Time) (any, int64, error) {
		var some []connection.Linked
		for _, l := range k.Models {
			if len(some) < mostArchives && !slices.ContainsFunc(some, func(o connection.Linked) bool { return o.Address == l.Address }) {
				some = append(some, l)
			}
		}
		return modelsPayload{of.String(), fmt.Sprintf("%s %s, from %s", k.Manufacturer, k.MPN, k.From), some}, int64(len(some)), nil
	}})
	if err != nil {
		return nil, err
	}
	return &j, nil
}

// runModels fetches files of models and lays them beside the library's, as a delivery for the part: nothing of the library changes, and somebody says
// which of the library's models are used in their place.
func (s *Offers) runModels(ctx context.Context, j store.Job, progress jobs.Progress) error {
	var p modelsPayload
	if err := json.Unmarshal([]byte(j.Payload), &p); err != nil {
		return err
	}
	out := wire.FetchedModels{Problems: []string{}}
	client := s.guard.Client(longestFetch)
	var got []part.File
	for i, l := range p.Models {
		name := files.CleanName(l.Name)
		f, err := s.files.Fetch(ctx, client, l.Address)
		switch {
		case err != nil:
			return err
		case f.Why != "":
			out.Problems = append(out.Problems, name+": "+f.Why)
		default:
			if name == "" || path.Ext(name) == "" {
				name = f.Name
			}
			if hash := f.Hash.String(); !slices.ContainsFunc(got, func(o part.File) bool { return o.Hash == hash }) { // several suppliers hand out what the maker made
				got = append(got, part.File{Hash: hash, Name: name})
			}
		}
		if err := progress(int64(i+1), int64(len(p.Models))); err != nil {
			return err
		}
	}
	if out.Files = len(got); len(got) > 0 {
		id, err := s.arrive.Arrived(ctx, deed.Call{Actor: deed.Actor{ID: j.Account}, Deed: j.Deed}, wire.NewDelivery{Name: clip(p.Name, 120), Part: p.Part, Files: got})
		var said *deed.Error
		switch {
		case errors.As(err, &said) && !deed.Temporary(err):
			out.Problems = append(out.Problems, said.Error())
		case err != nil:
			return err
		default:
			h, err := s.Store.Read(ctx).Head(store.KindDelivery, id)
			if err != nil {
				return err
			}
			out.Delivery = h.Number
		}
	}
	result, err := json.Marshal(out)
	if err != nil {
		return err
	}
	return s.Store.FinishJob(ctx, j, string(result))
}

func clip(s string, most int) string {
	if len(s) <= most {
		return s
	}
	r := []rune(s)
	for len(string(r)) > most {
		r = r[:len(r)-1]
	}
	return string(r)
}
