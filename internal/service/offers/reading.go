package offers

import (
	"context"
	"fmt"
	"slices"

	"jollydrawer/core/answers"
	"jollydrawer/core/connection"
	"jollydrawer/internal/service/intakes"
)

// reading is an answer that was read, and what it depends on.
type reading struct {
	*answers.Reading
	key string
}

// mostRead is how many answers are held as they were read.
const mostRead = 64

// evaluate reads products by the crosswalk of their connection.
func (s *Offers) evaluate(ctx context.Context, d *connection.Document, products []connection.Product) (*answers.Reading, error) {
	cab, _, err := s.cabinets.InForce(ctx)
	if err != nil {
		return nil, err
	}
	all, err := s.cabinets.AllCrosswalks(ctx)
	if err != nil {
		return nil, err
	}
	return answers.Read(d, products, all, cab, intakes.Library(s.index)), nil
}

// held is evaluate with what was read last. key says which answer the products are of.
func (s *Offers) held(ctx context.Context, d *connection.Document, products []connection.Product, key string) (*answers.Reading, error) {
	_, at, err := s.cabinets.InForce(ctx)
	if err != nil {
		return nil, err
	}
	mark, err := s.cabinets.CrosswalksMark(ctx)
	if err != nil {
		return nil, err
	}
	full := fmt.Sprintf("%s/%d/%d/%s", key, len(products), at.Revision, mark)
	s.mu.Lock()
	for _, r := range s.read {
		if r.key == full {
			s.mu.Unlock()
			return r.Reading, nil
		}
	}
	s.mu.Unlock()
	r, err := s.evaluate(ctx, d, products)
	if err != nil {
		return nil, err
	}
	s.mu.Lock()
	defer s.mu.Unlock()
	if s.read = append(s.read, &reading{r, full}); len(s.read) > mostRead {
		s.read = slices.Clone(s.read[1:])
	}
	return r, nil
}
