package offers

import (
	"context"
	"encoding/json"
	"errors"

	"go.yaml.in/yaml/v3"

	"jollydrawer/core/document"
	"jollydrawer/core/money"
	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/store"
	"jollydrawer/internal/wire"
)

// ratesNumber is what the one document of exchange rates is found by.
const ratesNumber = "exchange rates"

// rates are the exchange rates in force; none where nobody loaded any.
func (s *Offers) rates(ctx context.Context) (money.Rates, error) {
	_, r, err := s.ratesAt(ctx)
	return r, err
}

func (s *Offers) ratesAt(ctx context.Context) (h store.Head, r money.Rates, err error) {
	read := s.Store.Read(ctx)
	h, err = read.HeadByNumber(store.KindRates, ratesNumber)
	if errors.Is(err, store.ErrNotFound) {
		return h, money.Rates{Format: money.RatesFormat}, nil
	}
	if err != nil {
		return h, r, err
	}
	c, err := read.Content(h.Released)
	if err != nil {
		return h, r, err
	}
	return h, r, json.Unmarshal(c.Bytes, &r)
}

// Rates returns the exchange rates in force.
func (s *Offers) Rates(ctx context.Context, c deed.Call) (wire.Rates, error) {
	if err := deed.Allow(c, deed.OpRead); err != nil {
		return wire.Rates{}, err
	}
	h, r, err := s.ratesAt(ctx)
	if err != nil {
		return wire.Rates{}, err
	}
	text, err := yaml.Marshal(r)
	return wire.Rates{Version: h.Version, Text: string(text), House: r.House}, err
}

// ApplyRates makes a document the exchange rates in force.
func (s *Offers) ApplyRates(ctx context.Context, c deed.Call, version int, in wire.RatesEdit) (wire.Rates, error) {
	if err := deed.Allow(c, deed.OpRates); err != nil {
		return wire.Rates{}, err
	}
	r, err := money.ParseRates([]byte(in.Text))
	if err != nil {
		return wire.Rates{}, deed.Fault(deed.Invalid, "rates-wrong", "The rates were not kept: "+err.Error()+".", "")
	}
	raw, hash, err := document.Canonical(r)
	if err != nil {
		return wire.Rates{}, err
	}
	_, err = deed.Do(ctx, s.Desk, c, deed.OpRates, "exchange rates", []any{version, hash.String()}, func(t *store.Tx) (int, error) {
		return deed.Apply(t, store.KindRates, ratesNumber, money.RatesFormat, version, raw, store.Hash(hash))
	})
	if err != nil {
		return wire.Rates{}, err
	}
	return s.Rates(ctx, c)
}
