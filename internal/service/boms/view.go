package boms

import (
	"context"
	"slices"

	"jollydrawer/core/bom"
	"jollydrawer/core/cabinet"
	"jollydrawer/core/decision"
	"jollydrawer/core/finding"
	"jollydrawer/core/lifecycle"
	"jollydrawer/core/lookup"
	"jollydrawer/core/part"
	"jollydrawer/internal/service/policy"
	"jollydrawer/internal/store"
	"jollydrawer/internal/wire"
)

// lay writes what the library says of a BOM's lines, for builds of it, as bad as a house takes it; fails says whether one of the findings is as bad
// as makes a check fail.
func (s *BOMs) lay(ctx context.Context, out *wire.BOM, vs []bom.Verdict, f bomFile, h store.Head, doc bomDoc, taken bom.Severities) (fails bool, err error) {
	subs, _, err := s.subs(ctx, h, doc, vs)
	if err != nil {
		return false, err
	}
	return s.laySome(ctx, out, vs, f, subs, doc, taken, nil)
}

// laySome is lay with those lines alone in the answer that some names; the counts, findings and causes are of all. subs are the boards that lines are.
func (s *BOMs) laySome(ctx context.Context, out *wire.BOM, vs []bom.Verdict, f bomFile, subs bom.Subs, doc bomDoc, taken bom.Severities, some []bool) (fails bool, err error) {
	settled, cab, err := s.settled(ctx, vs)
	if err != nil {
		return false, err
	}
	withdrawn, err := s.withdrawn(ctx, vs, doc.Held)
	if err != nil {
		return false, err
	}
	accepted := bom.AcceptedIn(doc.Decisions)
	var all finding.Grouping
	take := func(some []finding.Finding) []finding.Finding {
		some, bad := taken.Takes(some)
		fails = fails || bad
		for i := range some {
			all.Add(&some[i])
		}
		return some
	}
	out.Layout, out.Columns, out.Confirmed, out.Skipped = &f.layout, f.columns, f.by, append(append(out.Skipped, doc.skippedOf()...), f.skipped...)
	for _, k := range bom.Kinds {
		out.Counts[string(k)] = 0
	}
	out.Variants = append(out.Variants, f.variants...)
	out.Variant = doc.built(f.variants) // another file may not have the one that was said
	var each map[string]int64
	if doc.Build > 0 {
		each = subs.Each(vs, doc.counted(f.variants)...)
	}
	alike := map[string]int{} // open lines, by what they ask for
	for i := range vs {
		if vs[i].Open() != nil && !vs[i].Line.Silent() {
			alike[bom.Asks(*vs[i].Line)]++
		}
	}
	for i := range vs {
		v := &vs[i]
		out.Counts[string(v.Kind)]++
		found := slices.Clip(v.Findings)
		if len(settled) > 0 {
			found = append(found, v.AgainstSettled(cab, func(source string) []decision.Record { return settled[source] })...)
		}
		found = append(found, s.unmade(v)...)
		found = append(found, s.lacking(v, subs, each, doc)...)
		behind := doc.Held.Finding(v, withdrawn)
		if behind != nil {
			found = append(found, *behind)
		}
		found = append(found, subs.Findings(v)...)
		found = take(accepted.Mark(v, inRow(found, v.Line.Row)))
		open := v.Open()
		if open != nil {
			take([]finding.Finding{*open})
		}
		for i := range found {
			if f := &found[i]; f.Severity != finding.Note && f.Waived == "" {
				out.Findings++
			}
		}
		if some != nil && !some[i] {
			continue
		}
		l := lineView(v)
		l.Findings = append(l.Findings, found...)
		if open != nil {
			l.Alike = max(alike[bom.Asks(*v.Line)]-1, 0)
		}
		if behind != nil {
			l.Held = doc.Held[v.Part.ID]
		}
		if sub, is := subs.Board(v); is {
			l.Board = boardView(sub)
		}
		out.Lines = append(out.Lines, l)
	}
	for _, h := range append(bom.Hindrances(vs), subs.Hindrances(vs)...) {
		out.Hindered[h.Cause]++
	}
	out.Causes = all.Causes()
	return fails, nil
}

// inRow are findings of a line, which say in which row it is.
func inRow(all []finding.Finding, row int) []finding.Finding {
	if !slices.ContainsFunc(all, func(f finding.Finding) bool { return f.Row != row }) {
		return all
	}
	all = slices.Clone(all)
	for i := range all {
		all[i].Row = row
	}
	return all
}

// lineView is a line with what the library says of it, but for the findings.
func lineView(v *bom.Verdict) wire.BOMLine {
	l := wire.BOMLine{Row: v.Line.Row, Designators: append([]string{}, v.Line.Designators...), Written: v.Line.Written, Quantity: v.Line.Quantity, Amount: v.Line.Amount.String(), Number: v.Line.Number,
		MPN: v.Line.MPN, Manufacturer: v.Line.Manufacturer, Value: v.Line.Value, Package: v.Line.Package, Description: v.Line.Description, In: v.Line.In, Level: v.Line.Level, Times: v.Line.Often(), Verdict: string(v.Kind), Options: []wire.BOMPart{},
		Tally: append([]bom.Beside{}, v.Tally...), Contradicted: len(v.Against()) > 0 && v.Part != nil, Evidence: append([]string{}, v.Evidence...), Findings: []finding.Finding{}, Ending: v.Ending, Chosen: v.Chosen != nil}
	if r := v.Reading; r != nil {
		l.Taught = &wire.Taught{By: r.By, At: r.At, Links: r.Links}
	}
	if l.Chosen {
		l.Reason = v.Chosen.Reason
	}
	if v.Part != nil {
		p := bomPart(v.Part)
		l.Part = &p
	}
	for _, o := range v.Options {
		l.Options = append(l.Options, bomPart(o))
	}
	return l
}

// settled are the decisions that say which values the sources of the lines' records have, where a line contradicts its record.
func (s *BOMs) settled(ctx context.Context, vs []bom.Verdict) (map[string][]decision.Record, *cabinet.Cabinet, error) {
	var sources []string
	for i := range vs {
		if v := &vs[i]; v.Part != nil && len(v.Against()) > 0 {
			for _, src := range v.Part.Sources {
				sources = append(sources, src.Key())
			}
		}
	}
	if len(sources) == 0 {
		return nil, nil, nil
	}
	rows, err := s.Store.Read(ctx).ClaimsOf(sources)
	if err != nil || len(rows) == 0 {
		return nil, nil, err
	}
	out := map[string][]decision.Record{}
	for _, row := range rows {
		r, err := row.Record()
		if err != nil {
			return nil, nil, err
		}
		out[row.Source] = append(out[row.Source], r)
	}
	cab, _, err := s.cabinets.InForce(ctx)
	return out, cab, err
}

func bomPart(e *lookup.Entry) wire.BOMPart {
	p := wire.BOMPart{ID: e.ID, Number: e.Number, Description: e.Description, Standing: string(e.Standing), Revision: e.Revision, Sources: append([]part.Source{}, e.Sources...)}
	if len(p.Sources) > 0 {
		p.Manufacturer, p.MPN = p.Sources[0].Manufacturer, p.Sources[0].MPN
	}
	return p
}

func bomView(rules policy.Rules, h store.Head, doc bomDoc) wire.BOM {
	b := blank()
	b.States = rules.States(h)
	b.Files = doc.filesView()
	b.ID, b.Name, b.Version, b.FileName, b.Origin, b.Build, b.Yearly, b.Variant, b.Due, b.Buying, b.Revision, b.Updated = h.ID.String(), h.Number, h.Version, doc.FileName, doc.Origin, doc.Build, doc.Yearly, doc.Variant, doc.Due, doc.Buying, h.Revision, h.Updated
	return b
}

// blank is a BOM of which nothing is known.
func blank() wire.BOM {
	return wire.BOM{Columns: bom.Columns{}, Skipped: []bom.Skipped{}, Counts: map[string]int{}, Hindered: map[string]int{}, Causes: []finding.Cause{}, Lines: []wire.BOMLine{}, Variants: []string{}, States: wire.States{Status: policy.View(lifecycle.State{}), Standing: policy.View(lifecycle.State{})}}
}
