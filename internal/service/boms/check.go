package boms

import (
	"context"

	"jollydrawer/core/bom"
	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/service/files"
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
	taken := bom.Severities{}
	if in.Severities != "" {
		taken, err = bom.ParseSeverities([]byte(in.Severities), func(key string) bool { _, ok := cab.Parameter(key); return ok })
		if err != nil {
			return wire.BOMCheck{}, deed.Fault(deed.Invalid, "severities-wrong", "The BOM was not checked: "+err.Error()+".", "")
		}
	}
	known := bomDoc{Build: in.Build}
	if in.BOM != "" {
		h, doc, err := s.findBOM(ctx, in.BOM)
		if err != nil {
			return wire.BOMCheck{}, err
		}
		known.Name, known.Decisions = h.Number, doc.Decisions
		if known.Build == 0 {
			known.Build = doc.Build
		}
		if len(doc.Choices) > 0 { // they hang on the rows of its file
			f, err := s.bomLines(ctx, doc, cab)
			if err != nil {
				return wire.BOMCheck{}, err
			}
			doc.carry(f.lines)
			known.Decisions = doc.Decisions
		}
	}
	known.FileHash, known.FileName, known.Layout = in.FileHash, files.CleanName(in.FileName), in.Layout
	f, err := s.bomLines(ctx, known, cab)
	if err != nil {
		return wire.BOMCheck{}, err
	}
	packings, err := s.packings(ctx)
	if err != nil {
		return wire.BOMCheck{}, err
	}
	vs := bom.Reconcile(f.lines, s.index, cab, bom.Known{Columns: f.columns, Confirmed: f.by != "", Decisions: known.Decisions, Packings: packings})
	out := wire.BOMCheck{}
	out.BOM = blank()
	out.Name, out.FileName, out.Build = known.Name, known.FileName, known.Build
	out.Fails, err = s.lay(ctx, &out.BOM, vs, f, known.Build, taken)
	return out, err
}
