package boms

import (
	"context"
	"errors"
	"fmt"

	"jollydrawer/core/bom"
	"jollydrawer/core/buying"
	"jollydrawer/core/cabinet"
	"jollydrawer/core/decision"
	"jollydrawer/formats/rows"
	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/store"
	"jollydrawer/internal/wire"
)

const (
	bomFormat    = "jolly-bom/2"
	layoutFormat = "jolly-layout/2"
)

// maxLines bounds a BOM: the largest real ones have a few thousand lines.
const maxLines = 20_000

// maxDesignators bounds them likewise.
const maxDesignators = 200_000

// bomDoc is what is kept of a BOM: its file and what people decided for its lines.
type bomDoc struct {
	Name      string            `json:"name"`
	FileHash  string            `json:"fileHash"`
	FileName  string            `json:"fileName"`
	Layout    rows.Layout       `json:"layout"`
	Files     []variantFile     `json:"files,omitempty"`   // of which the file was put together, one of each variant of the board
	Origin    string            `json:"origin,omitempty"`  // who or what wrote it: readings are learned for it
	Build     int               `json:"build,omitempty"`   // boards that are built at once; 0: nobody said
	Yearly    int               `json:"yearly,omitempty"`  // boards that are built in a year; 0: nobody said
	Due       string            `json:"due,omitempty"`     // the day of the build, such as 2027-01-15; blank: nobody said
	Variant   string            `json:"variant,omitempty"` // of the board that is built; blank: nobody said, or it has none
	Buying    buying.Rules      `json:"buying,omitzero"`
	Decisions []decision.Record `json:"decisions,omitempty"`
	Held      bom.Held          `json:"held,omitempty"`    // the revisions of parts that it was frozen with last, or moved on to since
	Choices   map[int]oldChoice `json:"choices,omitempty"` // of documents of format 1, by row
}

// oldChoice is a decision of format 1, which hung on the row.
type oldChoice struct {
	Part string `json:"part"`
	By   string `json:"by"`
}

// carry gives choices of format 1 the designators of their lines to hang on.
func (d *bomDoc) carry(lines []bom.Line) {
	if len(d.Choices) == 0 {
		return
	}
	for _, l := range lines {
		if c, ok := d.Choices[l.Row]; ok {
			d.Decisions = decision.With(d.Decisions, decision.Record{Kind: decision.Line, About: l.About(), Outcome: c.Part, By: c.By})
		}
	}
	d.Choices = nil
}

func (s *BOMs) findBOM(ctx context.Context, key string) (h store.Head, doc bomDoc, err error) {
	if h, err = s.Store.Read(ctx).Called(store.KindBOM, key); err != nil {
		return h, doc, deed.Sentence(err, "BOM")
	}
	doc, err = s.bomDoc(ctx, h)
	return h, doc, err
}

func (s *BOMs) bomDoc(ctx context.Context, h store.Head) (doc bomDoc, err error) {
	c, err := s.Store.Read(ctx).Content(h.Draft)
	err = deed.Decode(c, err, &doc)
	return doc, err
}

// Bring brings in a BOM. A file without a column of designators is refused.
func (s *BOMs) Bring(ctx context.Context, c deed.Call, in wire.NewBOM) (wire.BOM, error) {
	if err := deed.Allow(c, deed.OpBOMEdit); err != nil {
		return wire.BOM{}, err
	}
	name, err := named(in.Name)
	if err != nil {
		return wire.BOM{}, err
	}
	origin, err := originOf(in.Origin)
	if err != nil {
		return wire.BOM{}, err
	}
	cab, _, err := s.cabinets.InForce(ctx)
	if err != nil {
		return wire.BOM{}, err
	}
	doc, _, err := s.from(ctx, wire.BOMFile{FileHash: in.FileHash, FileName: in.FileName, Layout: in.Layout, Files: in.Files}, cab)
	if err != nil {
		return wire.BOM{}, err
	}
	doc.Name, doc.Origin, doc.Build = name, origin, in.Build
	id, err := deed.Do(ctx, s.Desk, c, deed.OpBOMEdit, "BOM", in, func(t *store.Tx) (store.ID, error) {
		h := store.Head{ID: store.NewID(), Kind: store.KindBOM, Number: doc.Name}
		if err := deed.SaveDraft(t, &h, bomFormat, doc); err != nil {
			return h.ID, err
		}
		return h.ID, t.Insert(&h, "brought in", map[string]any{"file": doc.FileName, "hash": doc.FileHash})
	})
	if errors.Is(err, store.ErrNumberTaken) {
		return wire.BOM{}, deed.Fault(deed.Clash, "name-taken", fmt.Sprintf("There is a BOM named %s already.", doc.Name), "Choose another name, for instance with the revision of the board.")
	}
	if err != nil {
		return wire.BOM{}, err
	}
	return s.Get(ctx, c, id.String())
}

// decided are the decisions of a BOM. Choices of format 1 hang on the rows of its own file, which is then read.
func (s *BOMs) decided(ctx context.Context, doc bomDoc, cab *cabinet.Cabinet) ([]decision.Record, error) {
	if len(doc.Choices) > 0 {
		f, err := s.bomLines(ctx, doc, cab)
		if err != nil {
			return nil, err
		}
		doc.carry(f.lines)
	}
	return doc.Decisions, nil
}

// Open is a BOM with lines that nobody and nothing answers yet.
type Open struct {
	Head        store.Head
	Lines, Open int
}

// Opens lists those of the newest BOMs that have open lines, newest first. A BOM that cannot be read is left to its own page.
func (s *BOMs) Opens(ctx context.Context, c deed.Call, newest int) (out []Open, more bool, err error) {
	if err := deed.Allow(c, deed.OpRead); err != nil {
		return nil, false, err
	}
	heads, all, err := s.Store.Read(ctx).Heads(store.KindBOM, 0, newest)
	if err != nil || len(heads) == 0 {
		return nil, false, err
	}
	_, cab, err := s.cabinets.InForce(ctx)
	if err != nil {
		return nil, false, err
	}
	for _, h := range heads {
		vs, _, err := s.verdictsOf(ctx, h, cab)
		if err != nil {
			return nil, false, err
		}
		o := Open{Head: h, Lines: len(vs)}
		for _, v := range vs {
			if v.Kind == bom.Proposed || v.Kind == bom.Several || v.Kind == bom.Missing {
				o.Open++
			}
		}
		if o.Open > 0 {
			out = append(out, o)
		}
	}
	return out, int(all) > newest, nil
}

// verdictsOf are the verdicts of a BOM, with its file; none where it cannot be read.
func (s *BOMs) verdictsOf(ctx context.Context, h, cab store.Head) ([]bom.Verdict, bomFile, error) {
	if k, ok := s.keptFor(s.keyOf(h, cab)); ok {
		return k.verdicts, k.file, nil
	}
	doc, err := s.bomDoc(ctx, h)
	if err != nil {
		return nil, bomFile{}, err
	}
	vs, f, err := s.reconcile(ctx, h, doc)
	if e := new(deed.Error); errors.As(err, &e) {
		return nil, bomFile{}, nil
	}
	return vs, f, err
}

// Get returns a BOM with a verdict on every line of all of its variants. key is its ID or name.
func (s *BOMs) Get(ctx context.Context, c deed.Call, key string) (wire.BOM, error) {
	return s.GetOf(ctx, c, key, "")
}

// GetOf returns a BOM as one variant of its board has it: what is not in it is not fitted.
func (s *BOMs) GetOf(ctx context.Context, c deed.Call, key, of string) (wire.BOM, error) {
	return s.getSome(ctx, c, key, of, nil)
}

// getSome is GetOf with those lines alone that are otherwise than they were, where that is told and can be compared.
func (s *BOMs) getSome(ctx context.Context, c deed.Call, key, of string, before *keptVerdicts) (wire.BOM, error) {
	if err := deed.Allow(c, deed.OpRead); err != nil {
		return wire.BOM{}, err
	}
	h, doc, err := s.findBOM(ctx, key)
	if err != nil {
		return wire.BOM{}, err
	}
	rules, err := s.policy.Rules(s.Store.Read(ctx))
	if err != nil {
		return wire.BOM{}, err
	}
	out := bomView(rules, h, doc)
	vs, f, err := s.reconcile(ctx, h, doc)
	var e *deed.Error
	if errors.As(err, &e) {
		out.Problem = e.Error()
		return out, nil
	}
	if err != nil {
		return out, err
	}
	if out.Shown, err = variant(f.variants, of); err != nil {
		return out, err
	}
	_, taken, err := s.house(ctx)
	if err != nil {
		return out, err
	}
	laid := [][]bom.Verdict{vs}
	if before != nil {
		k, ok := s.keptOf(h.ID, h.Version)
		if out.Partial = ok && before.version+1 == h.Version && before.base == k.base && before.answers == k.answers; out.Partial {
			laid = append(laid, before.verdicts)
		}
	}
	subs, _, err := s.subs(ctx, h, doc, laid...)
	if err != nil {
		return out, err
	}
	var some []bool
	if out.Partial {
		some = bom.Otherwise(before.verdicts, vs, subs)
	}
	_, err = s.laySome(ctx, &out, bom.Of(vs, out.Shown), f, subs, doc, taken, some)
	return out, err
}

// List lists the BOMs, newest first, without their lines.
func (s *BOMs) List(ctx context.Context, c deed.Call, offset, limit int) (wire.BOMList, error) {
	if err := deed.Allow(c, deed.OpRead); err != nil {
		return wire.BOMList{}, err
	}
	offset, limit = deed.Page(offset, limit)
	hs, total, err := s.Store.Read(ctx).Heads(store.KindBOM, offset, limit)
	out := wire.BOMList{Page: wire.Page{Offset: offset, Limit: limit, Total: int(total)}, Items: []wire.BOM{}}
	if err != nil {
		return out, err
	}
	rules, err := s.policy.Rules(s.Store.Read(ctx))
	if err != nil {
		return out, err
	}
	for _, h := range hs {
		doc, err := s.bomDoc(ctx, h)
		if err != nil {
			return out, err
		}
		out.Items = append(out.Items, bomView(rules, h, doc))
	}
	return out, err
}
