package intakes

import (
	"context"
	"fmt"

	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/store"
)

// PartsOf lists the identifiers of the parts that taking an intake in made or changed, by the intake's number or identifier. Who asks has to be looked at before.
func (s *Intakes) PartsOf(ctx context.Context, key string) ([]string, error) {
	r := s.Store.Read(ctx)
	h, err := r.Called(store.KindIntake, key)
	if err != nil {
		return nil, deed.Sentence(err, "intake")
	}
	doc, err := s.intakeDoc(r, h)
	if err != nil {
		return nil, err
	}
	if doc.Taken == nil || doc.Taken.Deed.IsZero() {
		return nil, deed.Fault(deed.Invalid, "not-taken-in", fmt.Sprintf("%s is not taken in: no part came of it.", h.Number), "Take it in first.")
	}
	ids, err := r.PartsWrittenBy(doc.Taken.Deed)
	out := make([]string, len(ids))
	for i, id := range ids {
		out[i] = id.String()
	}
	return out, err
}
