package service

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"strings"

	"jollydrawer/core/cabinet"
	"jollydrawer/core/crosswalk"
	"jollydrawer/core/document"
	"jollydrawer/core/finding"
	"jollydrawer/core/intake"
	"jollydrawer/formats/rows"
	"jollydrawer/internal/store"
	"jollydrawer/internal/wire"
)

const intakeFormat = "jolly-intake/1"

// intakeDoc is what is kept of an intake: the file by hash and an overlay of decisions. Its rows are read anew from
// the file whenever they are looked at.
type intakeDoc struct {
	Supplier string       `json:"supplier"`
	FileHash string       `json:"fileHash"`
	FileName string       `json:"fileName"`
	Layout   rows.Layout  `json:"layout"`
	Edits    intake.Edits `json:"edits"`
	Taken    *takenDoc    `json:"taken,omitempty"`
}

type takenDoc struct {
	Crosswalk int          `json:"crosswalk"` // revision
	Cabinet   int          `json:"cabinet"`   // revision
	Result    wire.TakenIn `json:"result"`
}

// evaluation is an intake worked out: what its rows would become with the crosswalk, cabinet and library of the moment.
type evaluation struct {
	intake  store.ID
	key     string
	header  []string
	layout  rows.Layout
	result  intake.Result
	byRow   map[int][]finding.Finding
	digest  string
	cab     *cabinet.Cabinet
	cabRev  int
	cwRev   int
	suggest []wire.Suggestion
	problem error
}

func (s *Service) loadIntake(ctx context.Context, id store.ID) (store.Head, intakeDoc, error) {
	h, err := s.Store.Head(ctx, store.KindIntake, id)
	if err != nil {
		return h, intakeDoc{}, sentence(err, "intake")
	}
	d, err := s.intakeDoc(ctx, h)
	return h, d, err
}

func (s *Service) intakeDoc(ctx context.Context, h store.Head) (d intakeDoc, err error) {
	c, err := s.Store.Content(ctx, h.Draft)
	if err == nil {
		err = json.Unmarshal(c.Bytes, &d)
	}
	return d, err
}

// OpenIntake opens an intake for an uploaded file. A file that cannot be read as a table is refused.
func (s *Service) OpenIntake(ctx context.Context, c Call, in wire.NewIntake) (wire.Intake, error) {
	if err := allow(c, OpIntakeEdit); err != nil {
		return wire.Intake{}, err
	}
	if id, ok, err := replayed[store.ID](ctx, s, c, OpIntakeEdit, "intake", in); ok || err != nil {
		if err != nil {
			return wire.Intake{}, err
		}
		return s.Intake(ctx, c, id)
	}
	t, err := s.openTable(ctx, in.FileHash, in.Layout)
	if err != nil {
		return wire.Intake{}, sentence(err, "file")
	}
	err = t.Close()
	if err != nil {
		return wire.Intake{}, err
	}
	n, err := s.Store.ReserveNumbers(ctx, "INTAKE", 1)
	if err != nil {
		return wire.Intake{}, sentence(err, "intake")
	}
	doc := intakeDoc{Supplier: strings.TrimSpace(in.Supplier), FileHash: in.FileHash, FileName: cleanName(in.FileName), Layout: in.Layout}
	id, err := deed(ctx, s, c, OpIntakeEdit, "intake", in, func(tx *store.Tx) (store.ID, error) {
		h := store.Head{ID: store.NewID(), Kind: store.KindIntake, Number: fmt.Sprintf("IN-%05d", n)}
		if err := saveDoc(tx, &h, intakeFormat, doc); err != nil {
			return h.ID, err
		}
		return h.ID, tx.Insert(&h, "opened", map[string]any{"file": doc.FileName, "hash": doc.FileHash, "supplier": doc.Supplier})
	})
	if err != nil {
		return wire.Intake{}, err
	}
	return s.Intake(ctx, c, id)
}

// saveDoc adds a document as a head's draft in a write.
func saveDoc(t *store.Tx, h *store.Head, format string, doc any) error {
	raw, hash, err := document.Canonical(doc)
	if err != nil {
		return err
	}
	c := store.Content{ID: store.NewID(), Head: h.ID, Hash: store.Hash(hash), Format: format, Bytes: raw}
	h.Draft = c.ID
	return t.AddContent(&c)
}

// evaluate works an intake out, or returns what was worked out before under the same circumstances.
func (s *Service) evaluate(ctx context.Context, h store.Head, doc intakeDoc) (*evaluation, error) {
	cab, ch, err := s.currentCabinet(ctx)
	if err != nil {
		return nil, err
	}
	cw, wh, err := s.currentCrosswalk(ctx, doc.Supplier)
	missing := errors.Is(err, store.ErrNotFound)
	if err != nil && !missing {
		return nil, err
	}
	key := fmt.Sprintf("%s/%d/%d/%d/%d", h.ID, h.Version, ch.Revision, wh.Revision, s.Index.Generation())
	s.mu.Lock()
	for _, e := range s.evaluated {
		if e.key == key {
			s.mu.Unlock()
			return e, nil
		}
	}
	s.mu.Unlock()
	e := &evaluation{intake: h.ID, key: key, cab: cab, cabRev: ch.Revision, cwRev: wh.Revision, byRow: map[int][]finding.Finding{}}
	e.result.Counts = map[intake.State]int{}
	if err := s.work(ctx, e, cw, missing, doc); err != nil {
		return nil, err
	}
	s.mu.Lock()
	defer s.mu.Unlock()
	s.evaluated = append(slices.DeleteFunc(s.evaluated, func(o *evaluation) bool { return o.intake == h.ID }), e)
	held := 0
	for i := len(s.evaluated) - 1; i >= 0; i-- { // the newest is kept whatever its size
		if held += len(s.evaluated[i].result.Candidates); held > maxHeld && i < len(s.evaluated)-1 {
			s.evaluated = slices.Clone(s.evaluated[i+1:])
			break
		}
	}
	return e, nil
}

// maxHeld bounds the rows of all intakes that are kept worked out in memory.
const maxHeld = 50_000

// forget lets go of an intake that was taken in.
func (s *Service) forget(id store.ID) {
	s.mu.Lock()
	defer s.mu.Unlock()
	s.evaluated = slices.DeleteFunc(s.evaluated, func(o *evaluation) bool { return o.intake == id })
}

// work reads the file and builds the candidates. What is wrong with the file or its crosswalk as a whole becomes
// e.problem; err is for everything else.
func (s *Service) work(ctx context.Context, e *evaluation, cw crosswalk.Crosswalk, missing bool, doc intakeDoc) error {
	t, err := s.openTable(ctx, doc.FileHash, doc.Layout)
	if err != nil {
		e.problem = sentence(err, "file")
		return keepProblem(e.problem)
	}
	defer t.Close()
	e.header, e.layout = t.Header(), t.Layout()
	for _, g := range crosswalk.Suggest(e.header, e.cab) {
		e.suggest = append(e.suggest, wire.Suggestion(g))
	}
	if missing {
		e.problem = fault(Invalid, "no-crosswalk", fmt.Sprintf("There is no crosswalk for %s yet.", doc.Supplier), "Write one from the fields and suggestions below, and apply it.")
		return nil
	}
	if err := cw.CheckAgainst(e.cab); err != nil {
		e.problem = fault(Invalid, "crosswalk-stale", "The crosswalk no longer fits the cabinet: "+err.Error()+".", "Change the crosswalk and apply it.")
		return nil
	}
	in := intake.Input{File: doc.FileHash, Name: doc.FileName, Header: e.header, Crosswalk: cw, Cabinet: e.cab, Library: s.Index, Edits: doc.Edits}
	var broken error
	e.result, err = intake.Build(in, func() (intake.Row, bool) {
		r, ok, err := t.Next()
		if err == nil {
			err = ctx.Err()
		}
		if err != nil {
			broken = err
			return intake.Row{}, false
		}
		return intake.Row(r), ok
	})
	if broken != nil {
		e.result = intake.Result{Counts: map[intake.State]int{}}
		e.problem = sentence(broken, "file")
		return keepProblem(e.problem)
	}
	if err != nil {
		e.problem = fault(Invalid, "crosswalk-other", "The crosswalk does not fit: "+err.Error()+".", "")
		return nil
	}
	for _, f := range e.result.Findings {
		e.byRow[f.Row] = append(e.byRow[f.Row], f)
	}
	e.digest = digest(e)
	return nil
}

// keepProblem keeps sentences for people inside the evaluation and passes everything else up.
func keepProblem(err error) error {
	var e *Error
	if errors.As(err, &e) {
		return nil
	}
	return err
}

// digest covers everything that taking in would do, so that what is taken in is what was looked at.
func digest(e *evaluation) string {
	h := sha256.New()
	fmt.Fprintf(h, "%d %d\n", e.cabRev, e.cwRev)
	for _, c := range e.result.Candidates {
		fmt.Fprintf(h, "%d|%s|%s|%s|%s|%s", c.Row, c.State, c.Number, c.Existing, c.Content.Drawer, c.Content.Description)
		if c.State == intake.New {
			if t, ok := e.cab.Template(c.Content.Drawer); ok {
				for _, sl := range t.Slots {
					fmt.Fprintf(h, "|%s", c.Content.Values[sl.Key])
				}
			}
			for _, s := range c.Content.Sources {
				fmt.Fprintf(h, "|%q", s)
			}
		}
		h.Write([]byte{'\n'})
	}
	return hex.EncodeToString(h.Sum(nil)[:16])
}

// Intake returns an intake with its counts and causes.
func (s *Service) Intake(ctx context.Context, c Call, id store.ID) (wire.Intake, error) {
	if err := allow(c, OpRead); err != nil {
		return wire.Intake{}, err
	}
	h, doc, err := s.loadIntake(ctx, id)
	if err != nil {
		return wire.Intake{}, err
	}
	out := intakeView(h, doc)
	var job store.Job
	if r := s.Store.Read(ctx).Where("head = ?", id).Order("created DESC").Limit(1).Find(&job); r.Error == nil && r.RowsAffected == 1 {
		v := jobView(job)
		out.Job = &v
	}
	if doc.Taken != nil {
		out.Counts = doc.Taken.Result.Counts
		for _, n := range out.Counts {
			out.Rows += n
		}
		return out, nil
	}
	e, err := s.evaluate(ctx, h, doc)
	if err != nil {
		return out, err
	}
	if e.problem != nil {
		out.Problem = e.problem.Error()
	}
	out.Layout, out.Fields, out.Digest = &e.layout, append([]string{}, e.header...), e.digest
	out.Unmapped = append(out.Unmapped, e.result.Unmapped...)
	out.Suggestions = append(out.Suggestions, e.suggest...)
	out.Causes = finding.Group(e.result.Findings)
	out.Rows = len(e.result.Candidates)
	for _, st := range intake.States {
		out.Counts[string(st)] = e.result.Counts[st]
	}
	return out, nil
}

func intakeView(h store.Head, doc intakeDoc) wire.Intake {
	state := "open"
	if doc.Taken != nil {
		state = "taken in"
	}
	return wire.Intake{ID: h.ID.String(), Number: h.Number, Version: h.Version, Supplier: doc.Supplier, FileHash: doc.FileHash, FileName: doc.FileName, State: state,
		Updated: h.Updated, Fields: []string{}, Unmapped: []string{}, Suggestions: []wire.Suggestion{}, Counts: map[string]int{}, Causes: []finding.Cause{}}
}

// Intakes lists the intakes, newest first, without working them out.
func (s *Service) Intakes(ctx context.Context, c Call, offset, limit int) (wire.IntakeList, error) {
	if err := allow(c, OpRead); err != nil {
		return wire.IntakeList{}, err
	}
	offset, limit = page(offset, limit)
	hs, total, err := s.Store.Heads(ctx, store.KindIntake, offset, limit)
	out := wire.IntakeList{Page: wire.Page{Offset: offset, Limit: limit, Total: int(total)}, Items: []wire.Intake{}}
	for _, h := range hs {
		doc, err := s.intakeDoc(ctx, h)
		if err != nil {
			return out, err
		}
		v := intakeView(h, doc)
		if doc.Taken != nil {
			v.Counts = doc.Taken.Result.Counts
		}
		out.Items = append(out.Items, v)
	}
	return out, err
}

// IntakeRows returns a page of rows, of one state or of all.
func (s *Service) IntakeRows(ctx context.Context, c Call, id store.ID, state, cause string, offset, limit int) (wire.IntakeRows, error) {
	if err := allow(c, OpRead); err != nil {
		return wire.IntakeRows{}, err
	}
	h, doc, err := s.loadIntake(ctx, id)
	if err != nil {
		return wire.IntakeRows{}, err
	}
	e, err := s.evaluate(ctx, h, doc)
	if err != nil {
		return wire.IntakeRows{}, err
	}
	offset, limit = page(offset, limit)
	out := wire.IntakeRows{Page: wire.Page{Offset: offset, Limit: limit}, Items: []wire.IntakeRow{}}
	for _, k := range e.result.Candidates {
		hasCause := cause == "" || slices.ContainsFunc(e.byRow[k.Row], func(f finding.Finding) bool { return f.Cause == cause })
		if state != "" && string(k.State) != state || !hasCause {
			continue
		}
		if out.Page.Total++; out.Page.Total <= offset || len(out.Items) >= limit {
			continue
		}
		r := wire.IntakeRow{Row: k.Row, State: string(k.State), Why: k.Why, Kind: k.Kind, Drawer: k.Content.Drawer, Number: k.Number, Description: k.Content.Description,
			Values: map[string]string{}, Findings: append([]finding.Finding{}, e.byRow[k.Row]...)}
		if k.Existing != "" {
			r.Number = k.Existing
		}
		if len(k.Content.Sources) > 0 {
			r.Manufacturer, r.MPN = k.Content.Sources[0].Manufacturer, k.Content.Sources[0].MPN
		}
		for key, v := range k.Content.Values {
			r.Values[key] = v.String()
		}
		out.Items = append(out.Items, r)
	}
	return out, nil
}

// IntakeFindings returns a page of findings.
func (s *Service) IntakeFindings(ctx context.Context, c Call, id store.ID, offset, limit int) (wire.FindingList, error) {
	if err := allow(c, OpRead); err != nil {
		return wire.FindingList{}, err
	}
	h, doc, err := s.loadIntake(ctx, id)
	if err != nil {
		return wire.FindingList{}, err
	}
	e, err := s.evaluate(ctx, h, doc)
	if err != nil {
		return wire.FindingList{}, err
	}
	offset, limit = page(offset, limit)
	all := e.result.Findings
	out := wire.FindingList{Page: wire.Page{Offset: offset, Limit: limit, Total: len(all)}, Items: []finding.Finding{}}
	if offset < len(all) {
		out.Items = append(out.Items, all[offset:min(offset+limit, len(all))]...)
	}
	return out, nil
}

// EditIntake changes what people decided about an intake's rows or its layout.
func (s *Service) EditIntake(ctx context.Context, c Call, id store.ID, version int, in wire.IntakeEdit) (wire.Intake, error) {
	_, err := deed(ctx, s, c, OpIntakeEdit, "intake", []any{id, version, in}, func(t *store.Tx) (int, error) {
		h, err := t.HeadAt(store.KindIntake, id, version)
		if err != nil {
			return 0, err
		}
		doc, err := s.intakeDoc(ctx, h)
		if err != nil {
			return 0, err
		}
		if doc.Taken != nil {
			return 0, fault(Invalid, "taken-in", h.Number+" was taken in; it no longer changes.", "Open a new intake.")
		}
		out := map[int]bool{}
		for _, r := range append(doc.Edits.LeaveOut, in.LeaveOut...) {
			out[r] = true
		}
		if doc.Edits.Drawers == nil {
			doc.Edits.Drawers = map[int]string{}
		}
		for _, r := range in.TakeBack {
			delete(out, r)
			delete(doc.Edits.Drawers, r)
		}
		for _, r := range in.Rows {
			doc.Edits.Drawers[r] = in.Drawer
		}
		doc.Edits.LeaveOut = doc.Edits.LeaveOut[:0]
		for r := range out {
			doc.Edits.LeaveOut = append(doc.Edits.LeaveOut, r)
		}
		slices.Sort(doc.Edits.LeaveOut)
		if in.Layout != nil {
			doc.Layout = *in.Layout
		}
		if err := saveDoc(t, &h, intakeFormat, doc); err != nil {
			return 0, err
		}
		return h.Version, t.Update(&h, "rows decided", map[string]any{"leftOut": len(in.LeaveOut), "takenBack": len(in.TakeBack), "drawer": in.Drawer, "rows": len(in.Rows), "layout": in.Layout})
	})
	if err != nil {
		return wire.Intake{}, err
	}
	return s.Intake(ctx, c, id)
}
