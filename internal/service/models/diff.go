package models

import (
	"context"
	"encoding/json"

	"jollydrawer/core/model"
	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/store"
	"jollydrawer/internal/wire"
)

// Diff says in what two revisions of a model differ; 0 is the draft.
func (s *Models) Diff(ctx context.Context, c deed.Call, id store.ID, from, to int) (wire.ModelDiff, error) {
	out := wire.ModelDiff{From: from, To: to, Differences: []model.ReviewChange{}}
	if err := deed.Allow(c, deed.OpRead); err != nil {
		return out, err
	}
	r := s.Store.Read(ctx)
	h, err := r.Head(store.KindModel, id)
	if err != nil {
		return out, deed.Sentence(err, "model")
	}
	var held [2]model.Content
	for i, side := range []struct {
		revision int
		content  *string
	}{{from, &out.FromContent}, {to, &out.ToContent}} {
		content, err := deed.Numbered(r, h, side.revision)
		if err != nil {
			return out, err
		}
		*side.content = content.ID.String()
		if err := json.Unmarshal(content.Bytes, &held[i]); err != nil {
			return out, err
		}
	}
	out.Differences, err = model.ReviewChanges(&held[0], &held[1])
	return out, err
}
