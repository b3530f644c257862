package service

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"slices"
	"strconv"
	"strings"

	"jollydrawer/core/bom"
	"jollydrawer/core/cabinet"
	"jollydrawer/core/decision"
	"jollydrawer/core/finding"
	"jollydrawer/core/lookup"
	"jollydrawer/core/part"
	"jollydrawer/formats/delimited"
	"jollydrawer/formats/rows"
	"jollydrawer/formats/workbook"
	"jollydrawer/internal/store"
	"jollydrawer/internal/wire"
)

const (
	bomFormat    = "jolly-bom/2"
	layoutFormat = "jolly-layout/1"
)

// maxLines bounds a BOM: the largest real ones have a few thousand lines.
const maxLines = 20_000

// bomDoc is what is kept of a BOM: its file and what people decided for its lines.
type bomDoc struct {
	Name      string            `json:"name"`
	FileHash  string            `json:"fileHash"`
	FileName  string            `json:"fileName"`
	Layout    rows.Layout       `json:"layout"`
	Decisions []decision.Record `json:"decisions,omitempty"`
	Choices   map[int]oldChoice `json:"choices,omitempty"` // of documents of format 1, by row
}

// oldChoice is a decision of format 1, which hung on the row.
type oldChoice struct {
	Part string `json:"part"`
	By   string `json:"by"`
}

// layoutDoc is what a person said of the columns of files with the same headings.
type layoutDoc struct {
	Headings string             `json:"headings"`
	By       string             `json:"by"`
	Columns  map[int]bom.Column `json:"columns"`
}

// carry gives choices of format 1 the designators of their lines to hang on.
func (d *bomDoc) carry(lines []bom.Line) {
	for _, l := range lines {
		if c, ok := d.Choices[l.Row]; ok {
			d.Decisions = decision.With(d.Decisions, decision.Record{Kind: decision.Line, About: decision.Designators(l.Designators), Outcome: c.Part, By: c.By})
		}
	}
	d.Choices = nil
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
	cab, _, err := s.currentCabinet(ctx)
	if err != nil {
		return wire.BOM{}, err
	}
	if _, err := s.bomLines(ctx, doc, cab); err != nil {
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

// bomFile is a BOM's file as it was read.
type bomFile struct {
	lines   []bom.Line
	columns bom.Columns
	layout  rows.Layout
	key     string // of the layout, by its headings
	by      string // who confirmed the layout
}

// bomLines reads the file of a BOM.
func (s *Service) bomLines(ctx context.Context, doc bomDoc, cab *cabinet.Cabinet) (f bomFile, err error) {
	t, err := s.openTable(ctx, doc.FileHash, doc.Layout)
	if err != nil {
		return f, sentence(err, "file")
	}
	defer t.Close()
	header := t.Header()
	f.layout = t.Layout()
	type numbered struct {
		row     int
		cells   []string
		problem string
	}
	var all []numbered
	var sample [][]string
	for {
		r, ok, err := t.Next()
		if err != nil {
			return f, sentence(err, "file")
		}
		if !ok {
			break
		}
		all = append(all, numbered{r.Number, slices.Clone(r.Cells), r.Problem})
		sample = append(sample, all[len(all)-1].cells)
		if len(all) > 2*maxLines {
			return f, fault(Invalid, "bom-too-long", fmt.Sprintf("The BOM has more than %d lines.", maxLines), "Split it.")
		}
	}
	f.columns, err = bom.FindColumns(header, sample, cab)
	if err != nil {
		return f, fault(Invalid, "no-designators", "The BOM was not read: "+err.Error()+".", "")
	}
	f.key = layoutKey(header)
	said, err := s.layoutSaid(ctx, f.key)
	if err != nil {
		return f, err
	}
	f.columns, f.by = f.columns.With(said.Columns), said.By
	for _, r := range all {
		l := bom.ReadLine(r.row, r.cells, f.columns)
		if r.problem != "" {
			l.Problems = append(l.Problems, r.problem)
		}
		if l.Blank() {
			continue
		}
		if f.lines = append(f.lines, l); len(f.lines) > maxLines {
			return f, fault(Invalid, "bom-too-long", fmt.Sprintf("The BOM has more than %d lines.", maxLines), "Split it.")
		}
	}
	return f, nil
}

// layoutKey names the files that have the same headings.
func layoutKey(header []string) string {
	sum := sha256.Sum256([]byte(bom.Layout(header)))
	return hex.EncodeToString(sum[:16])
}

// layoutSaid is what a person said of files with these headings; nothing where nobody did.
func (s *Service) layoutSaid(ctx context.Context, key string) (doc layoutDoc, err error) {
	h, err := s.Store.HeadByNumber(ctx, store.KindLayout, key)
	if errors.Is(err, store.ErrNotFound) {
		return doc, nil
	}
	if err != nil {
		return doc, err
	}
	c, err := s.Store.Content(ctx, h.Draft)
	if err == nil {
		err = json.Unmarshal(c.Bytes, &doc)
	}
	return doc, err
}

// reconcile lays a BOM beside the library as it is now.
func (s *Service) reconcile(ctx context.Context, doc bomDoc) ([]bom.Verdict, bomFile, error) {
	cab, _, err := s.currentCabinet(ctx)
	if err != nil {
		return nil, bomFile{}, err
	}
	f, err := s.bomLines(ctx, doc, cab)
	if err != nil {
		return nil, f, err
	}
	doc.carry(f.lines)
	return bom.Reconcile(f.lines, s.Index, cab, bom.Known{Columns: f.columns, Confirmed: f.by != "", Decisions: doc.Decisions}), f, nil
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
	vs, f, err := s.reconcile(ctx, doc)
	var e *Error
	if errors.As(err, &e) {
		out.Problem = e.Error()
		return out, nil
	}
	if err != nil {
		return out, err
	}
	out.Layout, out.Columns, out.Confirmed = &f.layout, f.columns, f.by
	for _, k := range bom.Kinds {
		out.Counts[string(k)] = 0
	}
	for _, v := range vs {
		out.Counts[string(v.Kind)]++
		l := wire.BOMLine{Row: v.Line.Row, Designators: append([]string{}, v.Line.Designators...), Written: v.Line.Written, Quantity: v.Line.Quantity, Number: v.Line.Number,
			MPN: v.Line.MPN, Manufacturer: v.Line.Manufacturer, Value: v.Line.Value, Package: v.Line.Package, Description: v.Line.Description, Verdict: string(v.Kind), Options: []wire.BOMPart{},
			Tally: append([]bom.Beside{}, v.Tally...), Contradicted: len(v.Against()) > 0 && v.Part != nil, Evidence: append([]string{}, v.Evidence...), Findings: append([]finding.Finding{}, v.Findings...)}
		for _, f := range v.Findings {
			if f.Severity != finding.Note {
				out.Findings++
			}
		}
		if l.Chosen = v.Chosen != nil; l.Chosen {
			l.Reason = v.Chosen.Reason
		}
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
	return wire.BOM{ID: h.ID.String(), Name: h.Number, Version: h.Version, FileName: doc.FileName, Updated: h.Updated, Columns: bom.Columns{}, Counts: map[string]int{}, Lines: []wire.BOMLine{}}
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
	cab, _, err := s.currentCabinet(ctx)
	if err != nil {
		return wire.BOM{}, err
	}
	f, err := s.bomLines(ctx, doc, cab)
	if err != nil {
		return wire.BOM{}, err
	}
	made, bad := s.decisions(c, f, cab, in)
	if len(bad.Places) > 0 {
		return wire.BOM{}, bad
	}
	at := map[int]bom.Line{}
	for _, l := range f.lines {
		at[l.Row] = l
	}
	_, err = deed(ctx, s, c, OpBOMEdit, "BOM", []any{h.ID, version, in}, func(t *store.Tx) (int, error) {
		h, err := t.HeadAt(store.KindBOM, h.ID, version)
		if err != nil {
			return 0, err
		}
		doc, err := s.bomDoc(ctx, h)
		if err != nil {
			return 0, err
		}
		doc.carry(f.lines)
		for _, d := range made {
			doc.Decisions = decision.With(doc.Decisions, d)
		}
		for _, r := range in.Withdraw {
			doc.Decisions, _ = decision.Without(doc.Decisions, decision.Line, decision.Designators(at[r].Designators))
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

// decisions makes of choices what is kept of them: the line by its designators, what it said, and what in it speaks against
// the part and was accepted with a reason.
func (s *Service) decisions(c Call, f bomFile, cab *cabinet.Cabinet, in wire.BOMChoices) (out []decision.Record, bad *Error) {
	at := map[int]bom.Line{}
	for _, l := range f.lines {
		at[l.Row] = l
	}
	bad = fault(Invalid, "choices-wrong", "Nothing was saved:", "")
	wrong := func(i int, field, format string, args ...any) {
		bad.Places = append(bad.Places, wire.ProblemDetail{Location: fmt.Sprintf("choose[%d].%s", i, field), Message: fmt.Sprintf(format, args...)})
	}
	for i, ch := range in.Choose {
		l, there := at[ch.Row]
		e, known := s.Index.ByID(ch.Part)
		switch {
		case !known:
			wrong(i, "part", "row %d: there is no part %s", ch.Row, ch.Part)
			continue
		case !there:
			wrong(i, "row", "the BOM has no line in row %d", ch.Row)
			continue
		}
		v := bom.Verdict{Tally: bom.Lay(l, e, s.Index, cab, bom.Known{Columns: f.columns})}
		against := v.Against()
		reason := strings.TrimSpace(ch.Reason)
		if len(against) > 0 && reason == "" {
			wrong(i, "reason", "row %d: the line contradicts %s (%s): say why it is meant all the same", ch.Row, e.Number, strings.Join(against, "; "))
			continue
		}
		out = append(out, decision.Record{Kind: decision.Line, About: decision.Designators(l.Designators), Evidence: l.Evidence(), Outcome: ch.Part, Against: against, Reason: reason, By: c.Actor.Name, At: s.Now().UTC()})
	}
	return out, bad
}

// BOMColumns says what the columns of a BOM mean; it holds for all files with the same headings.
func (s *Service) BOMColumns(ctx context.Context, c Call, key string, in wire.BOMColumns) (wire.BOM, error) {
	if err := allow(c, OpBOMEdit); err != nil {
		return wire.BOM{}, err
	}
	h, doc, err := s.findBOM(ctx, key)
	if err != nil {
		return wire.BOM{}, err
	}
	cab, _, err := s.currentCabinet(ctx)
	if err != nil {
		return wire.BOM{}, err
	}
	f, err := s.bomLines(ctx, doc, cab)
	if err != nil {
		return wire.BOM{}, err
	}
	bad := fault(Invalid, "columns-wrong", "Nothing was saved:", "")
	said := layoutDoc{By: c.Actor.Name, Columns: map[int]bom.Column{}}
	for i, col := range in.Columns {
		_, known := cab.Parameter(col.Param)
		switch {
		case col.At < 0 || col.At >= len(f.columns):
			bad.Places = append(bad.Places, wire.ProblemDetail{Location: fmt.Sprintf("columns[%d].at", i), Message: fmt.Sprintf("the file has no column %d", col.At)})
		case col.Role != "" && !slices.Contains(bom.Roles, col.Role):
			bad.Places = append(bad.Places, wire.ProblemDetail{Location: fmt.Sprintf("columns[%d].role", i), Message: fmt.Sprintf("%q is no role of a column", col.Role)})
		case (col.Role == bom.Fact) != known:
			bad.Places = append(bad.Places, wire.ProblemDetail{Location: fmt.Sprintf("columns[%d].param", i), Message: "a fact names a parameter of the dictionary, and nothing else does"})
		default:
			said.Columns[col.At] = bom.Column{At: col.At, Role: col.Role, Param: col.Param, Because: c.Actor.Name + " said so"}
		}
	}
	if len(bad.Places) > 0 {
		return wire.BOM{}, bad
	}
	after := f.columns.With(said.Columns)
	if _, ok := after.At(bom.Designator); !ok {
		return wire.BOM{}, fault(Invalid, "no-designators", "No column of designators would be left.", "Give the role to another column.")
	}
	for _, col := range after { // what a person confirms are all columns as they stand
		if col.Because == "" || col.Role != "" {
			col.Because = c.Actor.Name + " said so"
		}
		said.Columns[col.At] = col
	}
	_, err = deed(ctx, s, c, OpBOMEdit, "layout", []any{f.key, in}, func(t *store.Tx) (int, error) {
		lh, err := t.HeadByNumber(store.KindLayout, f.key)
		fresh := errors.Is(err, store.ErrNotFound)
		if err != nil && !fresh {
			return 0, err
		}
		if fresh {
			lh = store.Head{ID: store.NewID(), Kind: store.KindLayout, Number: f.key}
		}
		if err := saveDoc(t, &lh, layoutFormat, said); err != nil {
			return 0, err
		}
		if fresh {
			return 1, t.Insert(&lh, "columns confirmed", map[string]any{"bom": h.Number})
		}
		return lh.Version, t.Update(&lh, "columns confirmed", map[string]any{"bom": h.Number})
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
	vs, f, err := s.reconcile(ctx, doc)
	if err != nil {
		return err
	}
	own := []string{"Row", "Designators", "Quantity", "Verdict", "Part number", "Revision", "Description", "Manufacturer", "MPN", "Supplier", "Supplier number",
		"Alternates", "Standing", "Findings"}
	head := slices.Clone(own)
	for _, c := range f.columns { // all that came in, as it came
		head = append(head, c.Heading+" (as written)")
	}
	table := [][]string{head}
	for _, v := range vs {
		r := make([]string, len(own), len(head))
		fitted := len(v.Line.Designators)
		if v.Kind == bom.Unfitted {
			fitted = 0
		}
		r[0], r[1], r[2], r[3] = strconv.Itoa(v.Line.Row), strings.Join(v.Line.Designators, " "), strconv.Itoa(fitted), string(v.Kind)
		// Only what is linked is filled in from a record: a proposal nobody accepted must not be ordered from.
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
		} else {
			r[6], r[7], r[8], r[10] = v.Line.Description, v.Line.Manufacturer, v.Line.MPN, v.Line.SupplierNumber
		}
		var says []string
		for _, f := range v.Findings {
			says = append(says, f.What)
		}
		r[13] = strings.Join(says, "; ")
		for _, c := range f.columns {
			cell := ""
			if c.At < len(v.Line.Cells) {
				cell = v.Line.Cells[c.At]
			}
			r = append(r, cell)
		}
		table = append(table, r)
	}
	if format == "xlsx" {
		return workbook.Write(w, "BOM", table, map[int]bool{0: true, 2: true, 5: true})
	}
	return delimited.Write(w, table)
}
