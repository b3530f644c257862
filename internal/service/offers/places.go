package offers

import (
	"context"
	"fmt"
	"slices"
	"strings"
	"time"

	"jollydrawer/core/answers"
	"jollydrawer/core/connection"
	"jollydrawer/internal/store"
	"jollydrawer/internal/supplier"
)

// placesAgain is how often it is written down that a supplier still says what it said.
const placesAgain = 24 * time.Hour

// lookOver notes what an answer says, and what it does not say any more.
func (s *Offers) lookOver(ctx context.Context, one connected, pages []supplier.Page) error {
	var products []connection.Product
	for _, p := range pages {
		products = append(products, p.Products...)
	}
	all, err := s.cabinets.AllCrosswalks(ctx)
	if err != nil {
		return err
	}
	cw, _ := answers.Mapping(one.Document, all)
	known, err := s.Store.Read(ctx).PlacesOf(one.head.ID, one.head.Version)
	if err != nil {
		return err
	}
	said := answers.Places(cw, products)
	var before, news []string
	fresh := map[string]bool{}
	for _, p := range known {
		before = append(before, p.Place)
		fresh[p.Place] = p.Missed == nil && s.Now().Sub(p.Seen) < placesAgain
	}
	for _, p := range slices.Concat(said, answers.Still(before, cw, products)) {
		if !fresh[p] && !slices.Contains(news, p) {
			news = append(news, p)
		}
	}
	return s.Store.KeepPlaces(ctx, one.head.ID, one.head.Version, news, answers.Missed(before, cw, products), store.Stamp(s.Now()))
}

// missed says in a sentence what each connection does not say any more, by its ID.
func (s *Offers) missed(ctx context.Context) (map[store.ID]string, error) {
	all, err := s.Store.Read(ctx).MissedPlaces()
	if err != nil {
		return nil, err
	}
	places := map[store.ID][]string{}
	since := map[store.ID]time.Time{}
	for _, p := range all {
		places[p.Connection] = append(places[p.Connection], p.Place)
		if t := since[p.Connection]; t.IsZero() || p.Missed.Before(t) {
			since[p.Connection] = *p.Missed
		}
	}
	out := map[store.ID]string{}
	for id, of := range places {
		shown := of
		more := ""
		if len(of) > 4 {
			shown, more = of[:4], fmt.Sprintf(" and %d more", len(of)-4)
		}
		out[id] = fmt.Sprintf("Since %s its answers do not say %s%s, which they did before: it may have changed their form. Try the connection.", since[id].UTC().Format("2006-01-02"), strings.Join(shown, ", "), more)
	}
	return out, nil
}
