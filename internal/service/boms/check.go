package boms

import (
	"cmp"
	"context"

	"jollydrawer/core/bom"
	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/store"
	"jollydrawer/internal/wire"
)

// Check reconciles a file as a BOM and writes nothing: what a build server asks before a board is ordered. Where a BOM is named, what people decided for its lines counts.
func (s *BOMs) Check(ctx context.Context, c deed.Call, in wire.CheckBOM) (wire.BOMCheck, error) {
	if err := deed.Allow(c, deed.OpRead); err != nil {
		return wire.BOMCheck{}, err
	}
	cab, _, err := s.cabinets.InForce(ctx)
	if err != nil {
		return wire.BOMCheck{}, err
	}
	_, taken, err := s.house(ctx)
	if err == nil && in.Severities != "" {
		taken, err = severities(in.Severities, cab)
	}
	if err != nil {
		return wire.BOMCheck{}, err
	}
	origin, err := originOf(in.Origin)
	if err != nil {
		return wire.BOMCheck{}, err
	}
	known := bomDoc{Build: in.Build, Origin: origin}
	var own store.Head
	if in.BOM != "" {
		h, doc, err := s.findBOM(ctx, in.BOM)
		if err != nil {
			return wire.BOMCheck{}, err
		}
		known.Name, known.Build, known.Variant, known.Origin = h.Number, cmp.Or(known.Build, doc.Build), doc.Variant, cmp.Or(origin, doc.Origin)
		own, known.Held, known.Due = h, doc.Held, doc.Due
		if known.Decisions, err = s.decided(ctx, doc, cab); err != nil {
			return wire.BOMCheck{}, err
		}
	}
	file, f, err := s.from(ctx, wire.BOMFile{FileHash: in.FileHash, FileName: in.FileName, Layout: in.Layout, Files: in.Files}, cab)
	if err != nil {
		return wire.BOMCheck{}, err
	}
	known.readOf(file)
	laid, err := s.lines(ctx, f, s.index, cab, known)
	if err != nil {
		return wire.BOMCheck{}, err
	}
	vs := laid.Verdicts()
	out := wire.BOMCheck{}
	out.BOM = blank()
	if out.Shown, err = variant(f.variants, in.Variant); err != nil {
		return out, err
	}
	out.Name, out.FileName, out.Build, out.Origin = known.Name, known.FileName, known.Build, known.Origin
	out.Fails, err = s.lay(ctx, &out.BOM, bom.Of(vs, out.Shown), f, own, known, taken)
	return out, err
}
