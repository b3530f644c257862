package boms

import (
	"context"
	"fmt"
	"strings"

	"jollydrawer/core/bom"
	"jollydrawer/core/decision"
	"jollydrawer/core/part"
	"jollydrawer/internal/service/deed"
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
func (s *BOMs) SayEnding(ctx context.Context, c deed.Call, in wire.MPNEnding) (wire.MPNEndings, error) {
	if err := deed.Allow(c, deed.OpCrosswalk); err != nil {
		return wire.MPNEndings{}, err
	}
	maker, letters := strings.TrimSpace(in.Maker), part.NormaliseMPN(in.Ending)
	key := part.NormaliseMaker(maker)
	switch {
	case key == "":
		return wire.MPNEndings{}, deed.Fault(deed.Invalid, "maker-missing", "No manufacturer is named.", "Name whose ending it is.")
	case letters == "" || len(letters) > bom.LongestEnding:
		return wire.MPNEndings{}, deed.Fault(deed.Invalid, "ending-wrong", fmt.Sprintf("%q is no ending: it has one to %d letters or digits.", in.Ending, bom.LongestEnding), "Give what stands behind the MPN, such as TR.")
	}
	d := bom.Ending{Maker: maker, Letters: letters}.Of()
	d.Outcome, d.By, d.At = "packing", c.Actor.Name, s.Now().UTC()
	err := s.Say(ctx, c, deed.OpCrosswalk, store.KindEndings, deed.ShortName(key), in, func(t *store.Tx, h *store.Head, fresh bool) (string, error) {
		doc := endingsDoc{Maker: maker}
		if !fresh {
			before, err := t.Content(h.Draft)
			if err := deed.Decode(before, err, &doc); err != nil {
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
		return action, deed.SaveDraft(t, h, endingsFormat, doc)
	})
	if err != nil {
		return wire.MPNEndings{}, err
	}
	return s.Endings(ctx, c)
}

// Endings lists the confirmed endings of all makers.
func (s *BOMs) Endings(ctx context.Context, c deed.Call) (wire.MPNEndings, error) {
	out := wire.MPNEndings{Items: []wire.MPNEnding{}}
	if err := deed.Allow(c, deed.OpRead); err != nil {
		return out, err
	}
	docs, err := s.allEndings(ctx)
	for _, doc := range docs {
		for _, d := range doc.Decisions {
			out.Items = append(out.Items, wire.MPNEnding{Maker: doc.Maker, Ending: d.Evidence, By: d.By, At: d.At})
		}
	}
	return out, err
}

func (s *BOMs) allEndings(ctx context.Context) (docs []endingsDoc, err error) {
	const step = 200
	for offset := 0; ; offset += step {
		hs, _, err := s.Store.Read(ctx).Heads(store.KindEndings, offset, step)
		if err != nil {
			return nil, err
		}
		for _, h := range hs {
			c, err := s.Store.Read(ctx).Content(h.Draft)
			var doc endingsDoc
			if err := deed.Decode(c, err, &doc); err != nil {
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
func (s *BOMs) packings(ctx context.Context) (out []decision.Record, err error) {
	docs, err := s.allEndings(ctx)
	for _, doc := range docs {
		out = append(out, doc.Decisions...)
	}
	return out, err
}
