package service

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"strconv"
	"strings"

	"jollydrawer/core/bom"
	"jollydrawer/core/finding"
	"jollydrawer/core/lookup"
	"jollydrawer/core/part"
	"jollydrawer/formats/delimited"
	"jollydrawer/formats/rows"
	"jollydrawer/formats/workbook"
	"jollydrawer/internal/store"
	"jollydrawer/internal/wire"
)

const bomFormat = "jolly-bom/1"

// maxLines bounds a BOM: the largest real ones have a few thousand lines.
const maxLines = 20_000

// bomDoc is what is kept of a BOM: its file and what people chose, by row.
type bomDoc struct {
	Name     string             `json:"name"`
	FileHash string             `json:"fileHash"`
	FileName string             `json:"fileName"`
	Layout   rows.Layout        `json:"layout"`
	Choices  map[int]bom.Choice `json:"choices,omitempty"`
}

func (s *Service) findBOM(ctx context.Context, key string) (h store.Head, doc bomDoc, err error) {
	if id, perr := store.ParseID(key); perr == nil {
		h, err = s.Store.Head(ctx, store.KindBOM, id)
	} else {
		h, err = s.Store.HeadByNumber(ctx, store.KindBOM, key)
	}
	if err != nil {
		return h, doc, sentence(err, "BOM")
	}
	doc, err = s.bomDoc(ctx, h)
	return h, doc, err
}

func (s *Service) bomDoc(ctx context.Context, h store.Head) (doc bomDoc, err error) {
	c, err := s.Store.Content(ctx, h.Draft)
	if err == nil {
		err = json.Unmarshal(c.Bytes, &doc)
	}
	return doc, err
}

// BringBOM brings in a BOM. A file without a column of designators is refused.
func (s *Service) BringBOM(ctx context.Context, c Call, in wire.NewBOM) (wire.BOM, error) {
	if err := allow(c, OpBOMEdit); err != nil {
		return wire.BOM{}, err
	}
	doc := bomDoc{Name: strings.TrimSpace(in.Name), FileHash: in.FileHash, FileName: cleanName(in.FileName), Layout: in.Layout}
	if _, _, _, err := s.bomLines(ctx, doc); err != nil {
		return wire.BOM{}, err
	}
	id, err := deed(ctx, s, c, OpBOMEdit, "BOM", in, func(t *store.Tx) (store.ID, error) {
		h := store.Head{ID: store.NewID(), Kind: store.KindBOM, Number: doc.Name}
		if err := saveDoc(t, &h, bomFormat, doc); err != nil {
			return h.ID, err
		}
		return h.ID, t.Insert(&h, "brought in", map[string]any{"file": doc.FileName, "hash": doc.FileHash})
	})
	if errors.Is(err, store.ErrNumberTaken) {
		return wire.BOM{}, fault(Clash, "name-taken", fmt.Sprintf("There is a BOM named %s already.", doc.Name), "Choose another name, for instance with the revision of the board.")
	}
	if err != nil {
		return wire.BOM{}, err
	}
	return s.BOM(ctx, c, id.String())
}

// bomLines reads the file of a BOM.
func (s *Service) bomLines(ctx context.Context, doc bomDoc) ([]bom.Line, bom.Columns, rows.Layout, error) {
	t, err := s.openTable(ctx, doc.FileHash, doc.Layout)
	if err != nil {
		return nil, nil, rows.Layout{}, sentence(err, "file")
	}
	defer t.Close()
	cols, err := bom.FindColumns(t.Header())
	if err != nil {
		return nil, nil, t.Layout(), fault(Invalid, "no-designators", "The BOM was not read: "+err.Error()+".", "")
	}
	var lines []bom.Line
	for {
		r, ok, err := t.Next()
		if err != nil {
			return nil, nil, t.Layout(), sentence(err, "file")
		}
		if !ok {
			break
		}
		l := bom.ReadLine(r.Number, r.Cells, cols)
		if r.Problem != "" {
			l.Problems = append(l.Problems, r.Problem)
		}
		if l.Blank() {
			continue
		}
		if lines = append(lines, l); len(lines) > maxLines {
			return nil, nil, t.Layout(), fault(Invalid, "bom-too-long", fmt.Sprintf("The BOM has more than %d lines.", maxLines), "Split it.")
		}
	}
	return lines, cols, t.Layout(), nil
}

// reconcile lays a BOM beside the library as it is now.
func (s *Service) reconcile(ctx context.Context, doc bomDoc) ([]bom.Verdict, bom.Columns, rows.Layout, error) {
	lines, cols, lay, err := s.bomLines(ctx, doc)
	if err != nil {
		return nil, nil, lay, err
	}
	cab, _, err := s.currentCabinet(ctx)
	if err != nil {
		return nil, nil, lay, err
	}
	return bom.Reconcile(lines, s.Index, cab, doc.Choices), cols, lay, nil
}

// BOM returns a BOM with a verdict on every line. key is its ID or name.
func (s *Service) BOM(ctx context.Context, c Call, key string) (wire.BOM, error) {
	if err := allow(c, OpRead); err != nil {
		return wire.BOM{}, err
	}
	h, doc, err := s.findBOM(ctx, key)
	if err != nil {
		return wire.BOM{}, err
	}
	out := bomView(h, doc)
	vs, cols, lay, err := s.reconcile(ctx, doc)
	var e *Error
	if errors.As(err, &e) {
		out.Problem = e.Error()
		return out, nil
	}
	if err != nil {
		return out, err
	}
	out.Layout = &lay
	for role, i := range cols {
		out.Columns[string(role)] = i
	}
	for _, k := range bom.Kinds {
		out.Counts[string(k)] = 0
	}
	for _, v := range vs {
		out.Counts[string(v.Kind)]++
		l := wire.BOMLine{Row: v.Line.Row, Designators: append([]string{}, v.Line.Designators...), Written: v.Line.Written, Quantity: v.Line.Quantity, Number: v.Line.Number,
			MPN: v.Line.MPN, Manufacturer: v.Line.Manufacturer, Value: v.Line.Value, Package: v.Line.Package, Verdict: string(v.Kind), Options: []wire.BOMPart{},
			Evidence: append([]string{}, v.Evidence...), Findings: append([]finding.Finding{}, v.Findings...)}
		for _, f := range v.Findings {
			if f.Severity != finding.Note {
				out.Findings++
			}
		}
		_, l.Chosen = doc.Choices[v.Line.Row]
		if v.Part != nil {
			p := bomPart(v.Part)
			l.Part = &p
		}
		for _, o := range v.Options {
			l.Options = append(l.Options, bomPart(o))
		}
		out.Lines = append(out.Lines, l)
	}
	return out, nil
}

func bomPart(e *lookup.Entry) wire.BOMPart {
	p := wire.BOMPart{ID: e.ID, Number: e.Number, Description: e.Description, Standing: string(e.Standing), Revision: e.Revision, Sources: append([]part.Source{}, e.Sources...)}
	if len(p.Sources) > 0 {
		p.Manufacturer, p.MPN = p.Sources[0].Manufacturer, p.Sources[0].MPN
	}
	return p
}

func bomView(h store.Head, doc bomDoc) wire.BOM {
	return wire.BOM{ID: h.ID.String(), Name: h.Number, Version: h.Version, FileName: doc.FileName, Updated: h.Updated, Columns: map[string]int{}, Counts: map[string]int{}, Lines: []wire.BOMLine{}}
}

// BOMs lists the BOMs, newest first, without their lines.
func (s *Service) BOMs(ctx context.Context, c Call, offset, limit int) (wire.BOMList, error) {
	if err := allow(c, OpRead); err != nil {
		return wire.BOMList{}, err
	}
	offset, limit = page(offset, limit)
	hs, total, err := s.Store.Heads(ctx, store.KindBOM, offset, limit)
	out := wire.BOMList{Page: wire.Page{Offset: offset, Limit: limit, Total: int(total)}, Items: []wire.BOM{}}
	for _, h := range hs {
		doc, err := s.bomDoc(ctx, h)
		if err != nil {
			return out, err
		}
		out.Items = append(out.Items, bomView(h, doc))
	}
	return out, err
}

// ChooseBOM accepts records for lines, or takes choices back. Every part named must still be there.
func (s *Service) ChooseBOM(ctx context.Context, c Call, key string, version int, in wire.BOMChoices) (wire.BOM, error) {
	if err := allow(c, OpBOMEdit); err != nil {
		return wire.BOM{}, err
	}
	h, doc, err := s.findBOM(ctx, key)
	if err != nil {
		return wire.BOM{}, err
	}
	lines, _, _, err := s.bomLines(ctx, doc)
	if err != nil {
		return wire.BOM{}, err
	}
	rowsThere := map[int]bool{}
	for _, l := range lines {
		rowsThere[l.Row] = true
	}
	bad := fault(Invalid, "choices-wrong", "Nothing was saved:", "")
	for i, ch := range in.Choose {
		if _, ok := s.Index.ByID(ch.Part); !ok {
			bad.Places = append(bad.Places, wire.ProblemDetail{Location: fmt.Sprintf("choose[%d].part", i), Message: fmt.Sprintf("row %d: there is no part %s", ch.Row, ch.Part)})
		}
		if !rowsThere[ch.Row] {
			bad.Places = append(bad.Places, wire.ProblemDetail{Location: fmt.Sprintf("choose[%d].row", i), Message: fmt.Sprintf("the BOM has no line in row %d", ch.Row)})
		}
	}
	if len(bad.Places) > 0 {
		return wire.BOM{}, bad
	}
	_, err = deed(ctx, s, c, OpBOMEdit, "BOM", []any{h.ID, version, in}, func(t *store.Tx) (int, error) {
		h, err := t.HeadAt(store.KindBOM, h.ID, version)
		if err != nil {
			return 0, err
		}
		if doc, err = s.bomDoc(ctx, h); err != nil {
			return 0, err
		}
		if doc.Choices == nil {
			doc.Choices = map[int]bom.Choice{}
		}
		for _, ch := range in.Choose {
			doc.Choices[ch.Row] = bom.Choice{Part: ch.Part, By: c.Actor.Name}
		}
		for _, r := range in.Withdraw {
			delete(doc.Choices, r)
		}
		if err := saveDoc(t, &h, bomFormat, doc); err != nil {
			return 0, err
		}
		return h.Version, t.Update(&h, "records chosen", map[string]any{"chosen": len(in.Choose), "withdrawn": len(in.Withdraw)})
	})
	if err != nil {
		return wire.BOM{}, err
	}
	return s.BOM(ctx, c, h.ID.String())
}

// ExportBOM writes the completed BOM for purchasing as csv or xlsx.
func (s *Service) ExportBOM(ctx context.Context, c Call, key, format string, w io.Writer) error {
	if err := allow(c, OpRead); err != nil {
		return err
	}
	_, doc, err := s.findBOM(ctx, key)
	if err != nil {
		return err
	}
	vs, _, _, err := s.reconcile(ctx, doc)
	if err != nil {
		return err
	}
	table := [][]string{{"Row", "Designators", "Quantity", "Verdict", "Part number", "Revision", "Description", "Manufacturer", "MPN", "Supplier", "Supplier number",
		"Alternates", "Standing", "Value as written", "Package as written", "Findings"}}
	for _, v := range vs {
		r := make([]string, 16)
		fitted := len(v.Line.Designators)
		if v.Kind == bom.Unfitted {
			fitted = 0
		}
		r[0], r[1], r[2], r[3] = strconv.Itoa(v.Line.Row), strings.Join(v.Line.Designators, " "), strconv.Itoa(fitted), string(v.Kind)
		r[13], r[14] = v.Line.Value, v.Line.Package
		// Only what is linked is filled in: a proposal nobody accepted must not be ordered from.
		if v.Kind == bom.Linked && v.Part != nil {
			e := v.Part
			r[4], r[5], r[6], r[12] = e.Number, strconv.Itoa(e.Revision), e.Description, string(e.Standing)
			for i, src := range e.Sources {
				if i > 0 {
					r[11] = strings.TrimPrefix(r[11]+"; "+src.Manufacturer+" "+src.MPN, "; ")
					continue
				}
				r[7], r[8] = src.Manufacturer, src.MPN
				for _, n := range src.Numbers {
					r[9] = strings.TrimPrefix(r[9]+"; "+n.Supplier, "; ")
					r[10] = strings.TrimPrefix(r[10]+"; "+n.Number, "; ")
				}
			}
		}
		var says []string
		for _, f := range v.Findings {
			says = append(says, f.What)
		}
		r[15] = strings.Join(says, "; ")
		table = append(table, r)
	}
	if format == "xlsx" {
		return workbook.Write(w, "BOM", table, map[int]bool{0: true, 2: true, 5: true})
	}
	return delimited.Write(w, table)
}
