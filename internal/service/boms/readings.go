package boms

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"
	"unicode"

	"jollydrawer/core/bom"
	"jollydrawer/core/decision"
	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/store"
	"jollydrawer/internal/wire"
)

const readingsFormat = "jolly-readings/1"

// mostReadings bounds what is taught for files of one layout and origin.
const mostReadings = 20_000

// readingsDoc is what people taught for files with the same headings that come from the same origin.
type readingsDoc struct {
	Headings  []string          `json:"headings"`
	Origin    string            `json:"origin"`
	Decisions []decision.Record `json:"decisions"`
}

// originKey compares origins: whatever the capitals and blanks.
func originKey(origin string) string {
	return strings.ToLower(strings.Join(strings.Fields(origin), " "))
}

// originOf is an origin as it is kept: in one line, with single blanks; it may be blank.
func originOf(text string) (string, error) {
	text = strings.Join(strings.Fields(text), " ")
	if strings.ContainsFunc(text, unicode.IsControl) {
		return "", deed.Fault(deed.Invalid, "origin-wrong", "An origin is written in letters that can be read.", "Name the people or the tool that the file comes from.")
	}
	return text, nil
}

// SetOrigin says who or what a BOM's files come from: what was taught for files of that origin counts.
func (s *BOMs) SetOrigin(ctx context.Context, c deed.Call, key string, version int, in wire.BOMOrigin) (wire.BOM, error) {
	origin, err := originOf(in.Origin)
	if err != nil {
		return wire.BOM{}, err
	}
	return s.change(ctx, c, key, version, in, nil, func(_ *store.Head, doc *bomDoc) (string, any) {
		was := doc.Origin
		doc.Origin = origin
		return "origin said", map[string]any{"before": was, "after": origin}
	})
}

// readingsName names the readings of a layout and an origin.
func readingsName(layout, origin string) string {
	return deed.ShortName(layout + "\n" + originKey(origin))
}

// readings are what people taught for files of a layout and an origin.
func (s *BOMs) readings(ctx context.Context, layout, origin string) ([]decision.Record, error) {
	doc, _, err := readReadings(s.Store.Read(ctx), readingsName(layout, origin))
	return doc.Decisions, err
}

// readReadings reads what was taught under a name; the head has no identifier where nothing was.
func readReadings(r store.Reader, name string) (doc readingsDoc, h store.Head, err error) {
	h, err = r.HeadByNumber(store.KindReadings, name)
	if errors.Is(err, store.ErrNotFound) {
		return doc, store.Head{}, nil
	}
	if err != nil {
		return doc, h, err
	}
	c, err := r.Content(h.Draft)
	err = deed.Decode(c, err, &doc)
	return doc, h, err
}

// teach writes readings in the transaction that chose the parts.
func teach(t *store.Tx, f bomFile, origin string, taught []decision.Record) error {
	name := readingsName(f.key, origin)
	doc, h, err := readReadings(t.Reader, name)
	if err != nil {
		return err
	}
	fresh := h.ID == (store.ID{})
	if fresh {
		h = store.Head{ID: store.NewID(), Kind: store.KindReadings, Number: name}
		doc.Headings, doc.Origin = f.columns.Headings(), origin
	}
	for _, d := range taught {
		doc.Decisions = decision.With(doc.Decisions, d)
	}
	if len(doc.Decisions) > mostReadings {
		return deed.Fault(deed.Invalid, "readings-full", fmt.Sprintf("More than %d readings would be kept for files of this layout and origin.", mostReadings), "Withdraw those that nobody needs.")
	}
	if err := deed.SaveDraft(t, &h, readingsFormat, doc); err != nil {
		return err
	}
	detail := map[string]any{"taught": len(taught)}
	if fresh {
		return t.Insert(&h, "readings taught", detail)
	}
	return t.Update(&h, "readings taught", detail)
}

// Readings lists what was taught: for files like a BOM's, or for all; the newest first.
func (s *BOMs) Readings(ctx context.Context, c deed.Call, in wire.ReadingsAsked) (wire.Readings, error) {
	offset, limit := deed.Page(in.Offset, in.Limit)
	out := wire.Readings{Page: wire.Page{Offset: offset, Limit: limit}, Items: []wire.Reading{}}
	if err := deed.Allow(c, deed.OpRead); err != nil {
		return out, err
	}
	only := ""
	if in.BOM != "" {
		_, doc, err := s.findBOM(ctx, in.BOM)
		if err != nil {
			return out, err
		}
		cab, _, err := s.cabinets.InForce(ctx)
		if err != nil {
			return out, err
		}
		f, err := s.bomLines(ctx, doc, cab)
		if err != nil {
			return out, err
		}
		only = readingsName(f.key, doc.Origin)
	}
	all, err := s.allReadings(ctx, only)
	if err != nil {
		return out, err
	}
	out.Page.Total = len(all)
	out.Items = append(out.Items, all[min(offset, len(all)):min(offset+limit, len(all))]...)
	return out, nil
}

func (s *BOMs) allReadings(ctx context.Context, only string) (out []wire.Reading, err error) {
	cab, _, err := s.cabinets.InForce(ctx)
	if err != nil {
		return nil, err
	}
	const step = 200
	for offset := 0; ; offset += step {
		hs, _, err := s.Store.Read(ctx).Heads(store.KindReadings, offset, step)
		if err != nil {
			return nil, err
		}
		for _, h := range hs {
			if only != "" && h.Number != only {
				continue
			}
			c, err := s.Store.Read(ctx).Content(h.Draft)
			var doc readingsDoc
			if err := deed.Decode(c, err, &doc); err != nil {
				return nil, err
			}
			for _, d := range doc.Decisions {
				if d.Withdrawn != "" {
					continue
				}
				r := wire.Reading{ID: h.Number + "." + deed.ShortName(d.About), Headings: doc.Headings, Origin: doc.Origin, Text: said(d.About), Links: d.Links, By: d.By, At: d.At, BOM: d.In}
				e, known := s.index.ByID(d.Outcome)
				switch {
				case d.Outcome == decision.NoPart:
					r.None, r.Description = true, "no part of the library"
				case !known:
					r.Void = "its part is no longer there"
				case e.Gone:
					r.Part, r.Void = e.Number, "its part was merged into another"
				default:
					r.Part, r.Description = e.Number, e.Description
					if now := bom.Matters(e, cab); now != d.Evidence {
						r.Void = fmt.Sprintf("its part was %s, and is %s", d.Evidence, now)
					}
				}
				out = append(out, r)
			}
		}
		if len(hs) < step {
			slices.SortStableFunc(out, func(a, b wire.Reading) int { return b.At.Compare(a.At) })
			return out, nil
		}
	}
}

// said writes what lines ask for, as people read it: the cells that say something.
func said(asks string) string {
	letters, evidence, _ := strings.Cut(asks, "\n")
	out := []string{letters}
	for _, l := range strings.Split(evidence, "\n") {
		if _, text, _ := strings.Cut(l, " "); text != "" {
			out = append(out, text)
		}
	}
	return strings.Join(out, " · ")
}

// WithdrawReading takes a reading back; lines that it linked are open again.
func (s *BOMs) WithdrawReading(ctx context.Context, c deed.Call, in wire.WithdrawReading) (wire.Readings, error) {
	if err := deed.Allow(c, deed.OpBOMEdit); err != nil {
		return wire.Readings{}, err
	}
	name, about, _ := strings.Cut(in.ID, ".")
	err := s.Say(ctx, c, deed.OpBOMEdit, store.KindReadings, name, in, func(t *store.Tx, h *store.Head, _ bool) (string, error) {
		doc, _, err := readReadings(t.Reader, name)
		if err != nil {
			return "", err
		}
		i := slices.IndexFunc(doc.Decisions, func(d decision.Record) bool { return d.Withdrawn == "" && deed.ShortName(d.About) == about })
		if i < 0 {
			return "", deed.Fault(deed.Unknown, "no-reading", "There is no such reading.", "Look at the list again: somebody may have withdrawn it.")
		}
		doc.Decisions[i].Withdrawn = c.Actor.Name
		return "reading withdrawn", deed.SaveDraft(t, h, readingsFormat, doc)
	})
	if err != nil {
		return wire.Readings{}, err
	}
	return s.Readings(ctx, c, wire.ReadingsAsked{})
}
