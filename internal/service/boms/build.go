package boms

import (
	"context"
	"fmt"

	"jollydrawer/core/bom"
	"jollydrawer/core/finding"
	"jollydrawer/core/offer"
	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/store"
	"jollydrawer/internal/wire"
)

// SetBuild says how many boards of a BOM are built at once: what suppliers have is laid beside that, and news tell when it is less.
func (s *BOMs) SetBuild(ctx context.Context, c deed.Call, key string, version int, in wire.BOMBuild) (wire.BOM, error) {
	named := ""
	prepare := func(_ store.Head, doc bomDoc) error {
		if in.Variant == nil {
			return nil
		}
		cab, _, err := s.cabinets.InForce(ctx)
		if err != nil {
			return err
		}
		f, err := s.bomLines(ctx, doc, cab)
		if err != nil {
			return err
		}
		named, err = variant(f.variants, *in.Variant)
		return err
	}
	return s.change(ctx, c, key, version, in, prepare, func(_ *store.Head, doc *bomDoc) (string, any) {
		was := doc.Build
		doc.Build = in.Boards
		if in.Variant != nil {
			doc.Variant = named
		}
		if in.Yearly != nil {
			doc.Yearly = *in.Yearly
		}
		return "build said", map[string]any{"boards": in.Boards, "before": was, "yearly": doc.Yearly, "variant": doc.Variant}
	})
}

// lacking says that suppliers have less of a line's record than a build takes of it, by all lines that are linked to it.
func (s *BOMs) lacking(v bom.Verdict, each map[string]int64, build int) *finding.Finding {
	if build == 0 || v.Kind != bom.Linked || v.Part == nil {
		return nil
	}
	need := each[v.Part.ID] * int64(build)
	stock, atLeast, known := s.index.InStock(v.Part.ID)
	if !known || stock >= need {
		return nil
	}
	return &finding.Finding{Severity: finding.Warning, Cause: "stock-short", Text: offer.StockText(&stock, atLeast), What: fmt.Sprintf("suppliers have %s of it, and a build of %d boards takes %d", offer.StockText(&stock, atLeast), build, need), Mend: "order early, or give the part another source"}
}
