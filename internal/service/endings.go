package service

import (
	"context"
	"errors"
	"fmt"
	"strings"

	"jollydrawer/core/bom"
	"jollydrawer/core/decision"
	"jollydrawer/core/part"
	"jollydrawer/internal/store"
	"jollydrawer/internal/wire"
)

const endingsFormat = "jolly-endings/1"

// endingsDoc is what was confirmed of the endings of one maker's MPNs.
type endingsDoc struct {
	Maker     string            `json:"maker"`
	Decisions []decision.Record `json:"decisions"`
}

// SayEnding confirms that what stands behind a maker's MPNs names a packing, or takes that back. It holds for all BOMs.
func (s *Service) SayEnding(ctx context.Context, c Call, in wire.MPNEnding) (wire.MPNEndings, error) {
	if err := allow(c, OpCrosswalk); err != nil {
		return wire.MPNEndings{}, err
	}
	maker, letters := strings.TrimSpace(in.Maker), part.NormaliseMPN(in.Ending)
	key := part.NormaliseMaker(maker)
	switch {
	case key == "":
		return wire.MPNEndings{}, fault(Invalid, "maker-missing", "No manufacturer is named.", "Name whose ending it is.")
	case letters == "" || len(letters) > bom.LongestEnding:
		return wire.MPNEndings{}, fault(Invalid, "ending-wrong", fmt.Sprintf("%q is no ending: it has one to %d letters or digits.", in.Ending, bom.LongestEnding), "Give what stands behind the MPN, such as TR.")
	}
	d := bom.Ending{Maker: maker, Letters: letters}.Of()
	d.Outcome, d.By, d.At = "packing", c.Actor.Name, s.Now().UTC()
	err := s.saying(ctx, c, OpCrosswalk, store.KindEndings, shortName(key), in, func(t *store.Tx, h *store.Head, fresh bool) (string, error) {
		doc := endingsDoc{Maker: maker}
		if !fresh {
			before, err := t.Content(h.Draft)
			if err := decode(before, err, &doc); err != nil {
				return "", err
			}
		}
		kept := []decision.Record{}
		for _, o := range doc.Decisions {
			if o.Key() != d.Key() {
				kept = append(kept, o)
			}
		}
		action := "ending withdrawn"
		if !in.Withdraw {
			kept, action = append(kept, d), "ending confirmed"
		}
		doc.Decisions = kept
		return action, saveDoc(t, h, endingsFormat, doc)
	})
	if err != nil {
		return wire.MPNEndings{}, err
	}
	return s.Endings(ctx, c)
}

// Endings lists the confirmed endings of all makers.
func (s *Service) Endings(ctx context.Context, c Call) (wire.MPNEndings, error) {
	out := wire.MPNEndings{Items: []wire.MPNEnding{}}
	if err := allow(c, OpRead); err != nil {
		return out, err
	}
	docs, err := s.endings(ctx)
	for _, doc := range docs {
		for _, d := range doc.Decisions {
			out.Items = append(out.Items, wire.MPNEnding{Maker: doc.Maker, Ending: d.Evidence, By: d.By, At: d.At})
		}
	}
	return out, err
}

func (s *Service) endings(ctx context.Context) (docs []endingsDoc, err error) {
	const step = 200
	for offset := 0; ; offset += step {
		hs, _, err := s.Store.Heads(ctx, store.KindEndings, offset, step)
		if err != nil {
			return nil, err
		}
		for _, h := range hs {
			c, err := s.Store.Content(ctx, h.Draft)
			var doc endingsDoc
			if err := decode(c, err, &doc); err != nil {
				return nil, err
			}
			docs = append(docs, doc)
		}
		if len(hs) < step {
			return docs, nil
		}
	}
}

// packings are the confirmed endings of all makers as decisions.
func (s *Service) packings(ctx context.Context) (out []decision.Record, err error) {
	docs, err := s.endings(ctx)
	for _, doc := range docs {
		out = append(out, doc.Decisions...)
	}
	return out, err
}

// saying saves what a person said about something that is known by a name and may not be there yet. Two who say it at
// once are one after the other: the later one starts again from what the first one said.
func (s *Service) saying(ctx context.Context, c Call, op Op, kind, name string, in any, save func(*store.Tx, *store.Head, bool) (action string, err error)) error {
	for again := 0; ; again++ {
		_, err := deed(ctx, s, c, op, kind, []any{name, in}, func(t *store.Tx) (int, error) {
			h, err := t.HeadByNumber(kind, name)
			fresh := errors.Is(err, store.ErrNotFound)
			if err != nil && !fresh {
				return 0, err
			}
			if fresh {
				h = store.Head{ID: store.NewID(), Kind: kind, Number: name}
			}
			action, err := save(t, &h, fresh)
			if err != nil {
				return 0, err
			}
			if fresh {
				return 1, t.Insert(&h, action, nil)
			}
			return h.Version, t.Update(&h, action, nil)
		})
		var e *Error
		if again < 20 && (errors.Is(err, store.ErrNumberTaken) || errors.As(err, &e) && e.Type == "changed-meanwhile") {
			continue
		}
		return err
	}
}
