package service

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"strings"

	"jollydrawer/core/document"
	"jollydrawer/core/finding"
	"jollydrawer/core/model"
	"jollydrawer/internal/blobs"
	"jollydrawer/internal/store"
	"jollydrawer/internal/wire"
)

// modelFormat is the format of a model's content: with its drawing. The first one named only the file.
const modelFormat = "jolly-model/2"

// loadModel returns a model's head and its newest content.
func (s *Service) loadModel(ctx context.Context, id store.ID) (h store.Head, m model.Content, err error) {
	if h, err = s.Store.Head(ctx, store.KindModel, id); err != nil {
		return h, m, err
	}
	d, err := s.drawing(ctx, draftOf(h))
	if err != nil {
		return h, m, err
	}
	return h, d.Content, nil
}

// modelRevision returns a model's drawing at a revision; 0 is its draft, or what is released where there is none.
func (s *Service) modelRevision(ctx context.Context, id string, revision int) (*drawn, error) {
	head, err := store.ParseID(id)
	if err != nil {
		return nil, store.ErrNotFound
	}
	h, err := s.Store.Head(ctx, store.KindModel, head)
	if err != nil {
		return nil, err
	}
	content := draftOf(h)
	if revision > 0 {
		r, err := s.Store.Revision(ctx, head, revision)
		if err != nil {
			return nil, err
		}
		content = r.Content
	}
	return s.drawing(ctx, content)
}

// modelNumber is the name under which a model's head is unique: kind and name.
func modelNumber(kind model.Kind, name string) string { return string(kind) + ": " + name }

// modelContent makes content of an edit; a drawing that is not given is read from the file.
func (s *Service) modelContent(ctx context.Context, in wire.ModelEdit) (m model.Content, raw []byte, hash store.Hash, err error) {
	m = model.Content{Kind: model.Kind(in.Kind), Name: strings.TrimSpace(in.Name), FileHash: in.FileHash, FileName: in.FileName, Note: strings.TrimSpace(in.Note),
		Symbol: in.Symbol, Land: in.LandPattern, Body: in.Body, PinMap: in.PinMap}
	if m.FileHash != "" {
		h, err := store.ParseHash(m.FileHash)
		ok := false
		if err == nil {
			_, ok, err = blobs.Size(ctx, s.Store, h)
		}
		if !ok {
			if err == nil || h.IsZero() {
				err = fault(Invalid, "file-missing", fmt.Sprintf("The model was not saved: its file %q is not there.", m.FileName), "Upload it first.")
			}
			return m, nil, store.Hash{}, err
		}
		if !m.Drawn() {
			if err := s.drawFrom(ctx, &m); err != nil {
				return m, nil, store.Hash{}, err
			}
		}
	}
	raw, hash, err = encodeModel(&m)
	return m, raw, hash, err
}

// drawFrom reads the drawing out of the model's file. A file of a form that is not read here is kept without a drawing.
func (s *Service) drawFrom(ctx context.Context, m *model.Content) error {
	all, err := s.readFile(ctx, m.FileHash, m.FileName)
	if err != nil {
		return fault(Invalid, "file-unreadable", "The model was not saved: "+sentenceOf(err), "")
	}
	found, ok := pick(all, m.Kind)
	if ok {
		m.Symbol, m.Land, m.Body, m.PinMap = found.Symbol, found.Land, found.Body, found.PinMap
		return nil
	}
	var held []string
	for _, f := range all {
		if f.Is == "refused" {
			return fault(Invalid, "file-unreadable", fmt.Sprintf("The model was not saved: %s: %s", m.FileName, f.What), strings.Join(f.Wrong, "; "))
		}
		for _, o := range f.Models {
			held = append(held, fmt.Sprintf("%s %q", o.Kind, o.Name))
		}
	}
	if len(held) > 0 {
		return fault(Invalid, "file-other", fmt.Sprintf("The model was not saved: %s does not hold one %s; it holds %s.", m.FileName, m.Kind, strings.Join(held[:min(len(held), 5)], ", ")),
			"Bring it in as a delivery to choose from what it holds.")
	}
	return nil
}

func sentenceOf(err error) string {
	s := err.Error()
	if !strings.HasSuffix(s, ".") {
		s += "."
	}
	return s
}

// encodeModel checks a model and returns its canonical bytes.
func encodeModel(m *model.Content) ([]byte, store.Hash, error) {
	m.Normalise()
	if err := m.Check(); err != nil {
		return nil, store.Hash{}, fault(Invalid, "model-wrong", fmt.Sprintf("The model was not saved: %v.", err), "")
	}
	raw, hash, err := document.Canonical(*m)
	if len(raw) > maxModel {
		return nil, store.Hash{}, fault(TooLarge, "model-large", fmt.Sprintf("The drawing of %s takes %d MB; at most %d MB are kept.", m.Name, len(raw)>>20, maxModel>>20), "Leave out graphics that nobody needs.")
	}
	return raw, store.Hash(hash), err
}

// maxModel is how large a model's document may be: many times the largest ball grid.
const maxModel = 4 << 20

// insertModel makes a model in a write: as a draft, or released where there is a note.
func insertModel(t *store.Tx, m *model.Content, note string, how map[string]any) (store.Head, error) {
	raw, hash, err := encodeModel(m)
	if err != nil {
		return store.Head{}, err
	}
	h := store.Head{ID: store.NewID(), Kind: store.KindModel, Number: modelNumber(m.Kind, m.Name)}
	c := store.Content{ID: store.NewID(), Head: h.ID, Hash: hash, Format: modelFormat, Bytes: raw}
	h.Draft = c.ID
	if err := t.AddContent(&c); err != nil {
		return h, err
	}
	detail := map[string]any{"kind": m.Kind, "name": m.Name, "hash": hash.String()}
	for k, v := range how {
		detail[k] = v
	}
	if err := t.Insert(&h, "made", detail); err != nil {
		return h, modelRefused(err, *m)
	}
	if note != "" {
		err = freeze(t, &h, c, note)
	}
	return h, err
}

// redraw replaces a model's draft in a write, and releases it where there is a note.
func redraw(t *store.Tx, h *store.Head, m *model.Content, note, action string, detail map[string]any) error {
	raw, hash, err := encodeModel(m)
	if err != nil {
		return err
	}
	c := store.Content{ID: store.NewID(), Head: h.ID, Hash: hash, Format: modelFormat, Bytes: raw}
	if err := t.AddContent(&c); err != nil {
		return err
	}
	h.Draft, h.Number = c.ID, modelNumber(m.Kind, m.Name)
	if detail == nil {
		detail = map[string]any{}
	}
	detail["hash"] = hash.String()
	if err := t.Update(h, action, detail); err != nil {
		return modelRefused(err, *m)
	}
	if note != "" {
		return freeze(t, h, c, note)
	}
	return nil
}

func freeze(t *store.Tx, h *store.Head, c store.Content, note string) error {
	if err := t.AddRevision(h, c, note); err != nil {
		return err
	}
	return t.Update(h, "released", map[string]any{"revision": h.Revision, "note": note, "hash": c.Hash.String()})
}

// CreateModel makes a model as a draft.
func (s *Service) CreateModel(ctx context.Context, c Call, in wire.ModelEdit) (wire.Model, error) {
	if err := allow(c, OpModelEdit); err != nil {
		return wire.Model{}, err
	}
	m, _, _, err := s.modelContent(ctx, in)
	if err != nil {
		return wire.Model{}, err
	}
	id, err := deed(ctx, s, c, OpModelEdit, "model", in, func(t *store.Tx) (store.ID, error) {
		h, err := insertModel(t, &m, "", nil)
		return h.ID, err
	})
	if err != nil {
		return wire.Model{}, err
	}
	return s.Model(ctx, c, id.String())
}

func modelRefused(err error, m model.Content) error {
	if errors.Is(err, store.ErrNumberTaken) {
		return fault(Clash, "name-taken", fmt.Sprintf("There is a %s named %s already.", m.Kind, m.Name), "Use that one, or choose another name.")
	}
	return err
}

// SaveModel replaces a model's draft.
func (s *Service) SaveModel(ctx context.Context, c Call, id store.ID, version int, in wire.ModelEdit) (wire.Model, error) {
	if err := allow(c, OpModelEdit); err != nil {
		return wire.Model{}, err
	}
	m, _, _, err := s.modelContent(ctx, in)
	if err != nil {
		return wire.Model{}, err
	}
	_, err = deed(ctx, s, c, OpModelEdit, "model", []any{id, version, in}, func(t *store.Tx) (int, error) {
		h, err := t.HeadAt(store.KindModel, id, version)
		if err != nil {
			return 0, err
		}
		if err := modelStands(h); err != nil {
			return 0, err
		}
		if !strings.HasPrefix(h.Number, string(m.Kind)+": ") {
			return 0, fault(Invalid, "kind-fixed", "A model stays of its kind.", "Make a new model of the other kind.")
		}
		return h.Version, redraw(t, &h, &m, "", "draft saved", map[string]any{"name": m.Name})
	})
	if err != nil {
		return wire.Model{}, modelRefused(err, m)
	}
	return s.Model(ctx, c, id.String())
}

func modelStands(h store.Head) error {
	if h.Standing == store.Merged {
		return fault(Clash, "merged", "The model was merged into another one; nothing was changed.", "Change the one that its name leads to.")
	}
	return nil
}

// ReleaseModel freezes a model's draft as its next revision.
func (s *Service) ReleaseModel(ctx context.Context, c Call, id store.ID, version int, in wire.Release) (wire.Model, error) {
	_, err := deed(ctx, s, c, OpModelRelease, "model", []any{id, version, in}, func(t *store.Tx) (int, error) {
		h, err := t.HeadAt(store.KindModel, id, version)
		if err != nil {
			return 0, err
		}
		if err := modelStands(h); err != nil {
			return 0, err
		}
		if h.Draft.IsZero() {
			return 0, fault(Invalid, "no-draft", "The model has no draft: all of it is released.", "")
		}
		content, err := t.Content(h.Draft)
		if err != nil {
			return 0, err
		}
		var m model.Content
		if err := json.Unmarshal(content.Bytes, &m); err != nil {
			return 0, err
		}
		if m.FileHash == "" && !m.Drawn() {
			return 0, fault(Invalid, "no-file", fmt.Sprintf("%s has neither a drawing nor a file and cannot be released.", m.Name), "Attach its file first.")
		}
		return h.Revision, freeze(t, &h, content, in.Note)
	})
	if err != nil {
		return wire.Model{}, err
	}
	return s.Model(ctx, c, id.String())
}

// findModel finds a model by ID, or by its kind and name as "kind: name". A merged one leads to its survivor.
func (s *Service) findModel(ctx context.Context, key string) (h store.Head, err error) {
	id, e := store.ParseID(key)
	if e != nil {
		if h, err = s.Store.HeadByNumber(ctx, store.KindModel, key); err != nil {
			return h, err
		}
		return s.survivor(ctx, h)
	}
	return s.Store.Head(ctx, store.KindModel, id)
}

// survivor is the model that a merged one leads to, however many mergers later; a model that was not merged is its own.
func (s *Service) survivor(ctx context.Context, h store.Head) (store.Head, error) {
	for n := 0; h.Standing == store.Merged && n < 50; n++ { // a merger never leads back; the bound is for a damaged table
		id, _, err := s.Store.Successor(ctx, h.ID)
		if err == nil {
			h, err = s.Store.Head(ctx, store.KindModel, id)
		}
		if err != nil {
			return h, err
		}
	}
	return h, nil
}

// Model returns a model with its checks, its twins, its revisions and what uses it.
func (s *Service) Model(ctx context.Context, c Call, key string) (wire.Model, error) {
	if err := allow(c, OpRead); err != nil {
		return wire.Model{}, err
	}
	h, err := s.findModel(ctx, key)
	if err != nil {
		return wire.Model{}, sentence(err, "model")
	}
	house, waived, err := s.houseRules(ctx, h.ID)
	if err != nil {
		return wire.Model{}, err
	}
	d, err := s.drawing(ctx, draftOf(h))
	if err != nil {
		return wire.Model{}, err
	}
	out := wire.Model{ModelRow: modelRow(&shelved{head: h, drawn: d}, house, waived), Checks: modelFindings(d, h.ID, house, waived), Signed: []wire.ModelSign{}, UsedBy: []wire.ModelUse{}}
	for _, side := range []struct {
		id   store.ID
		into **wire.ModelEdit
	}{{h.Released, &out.Released}, {h.Draft, &out.Draft}} {
		if side.id.IsZero() {
			continue
		}
		m, err := s.drawing(ctx, side.id)
		if err != nil {
			return out, err
		}
		*side.into = &wire.ModelEdit{Kind: string(m.Kind), Name: m.Name, FileHash: m.FileHash, FileName: m.FileName, Note: m.Note,
			Symbol: m.Symbol, LandPattern: m.Land, Body: m.Body, PinMap: m.PinMap}
	}
	if d.Land != nil {
		out.Features = &d.features
	}
	if h.Standing == store.Merged {
		to, err := s.survivor(ctx, h)
		if err != nil {
			return out, err
		}
		out.Merged = nameOf(to)
	}
	shelf, err := s.modelShelf(ctx)
	if err != nil {
		return out, err
	}
	out.Twins = alikeModels(shelf, &d.Content, h.ID)
	if out.Revs, err = s.revisionsView(ctx, h.ID); err != nil {
		return out, err
	}
	signs, err := s.Store.ModelSigns(ctx, h.ID)
	if err != nil {
		return out, err
	}
	for _, w := range signs {
		out.Signed = append(out.Signed, wire.ModelSign{Revision: w.Revision, By: s.person(ctx, w.Account), At: w.At, Against: w.Against})
	}
	uses, err := s.Store.UsedBy(ctx, h.ID, 0, 2000)
	seen := map[store.ID]bool{}
	for _, u := range uses {
		use := wire.ModelUse{Part: u.Parent.String(), Place: u.Place, Revision: u.ChildRevision, Newer: h.Revision > u.ChildRevision && u.ChildRevision > 0}
		if e, ok := s.Index.ByID(use.Part); ok {
			use.Part, use.Version = e.Number, e.Version
		}
		out.UsedBy = append(out.UsedBy, use)
		if !seen[u.Parent] {
			seen[u.Parent] = true
			out.Uses++
		}
	}
	return out, err
}

func modelRow(m *shelved, house model.House, waived map[waiver]string) wire.ModelRow {
	row := wire.ModelRow{ID: m.head.ID.String(), Version: m.head.Version, Kind: string(m.Kind), Name: m.Name, Status: string(statusOf(m.head)), Revision: m.head.Revision,
		HasDraft: !m.head.Draft.IsZero(), Updated: m.head.Updated, Content: draftOf(m.head).String(), Drawn: m.Drawn() && m.PinMap == nil, What: m.what, Uses: m.uses, FileName: m.FileName}
	for _, f := range modelFindings(m.drawn, m.head.ID, house, waived) {
		if f.Waived == "" && f.Severity != finding.Note {
			row.Findings++
		}
	}
	return row
}

// ModelQuery narrows the list of models.
type ModelQuery struct {
	Text, Kind, Only string // Only: unused, behind, findings, draft, stand-in
	Offset, Limit    int
}

// Models lists models by name; text narrows by words of the name.
func (s *Service) Models(ctx context.Context, c Call, q ModelQuery) (wire.ModelList, error) {
	if err := allow(c, OpRead); err != nil {
		return wire.ModelList{}, err
	}
	offset, limit := page(q.Offset, q.Limit)
	out := wire.ModelList{Page: wire.Page{Offset: offset, Limit: limit}, Items: []wire.ModelRow{}}
	house, waived, shelf, err := s.checkedShelf(ctx)
	if err != nil {
		return out, err
	}
	words := strings.Fields(strings.ToLower(q.Text))
	for _, m := range shelf {
		if q.Kind != "" && string(m.Kind) != q.Kind || q.Kind == "" && m.Kind == model.KindPinMap {
			continue
		}
		name, fits := strings.ToLower(m.Name), true
		for _, w := range words {
			fits = fits && strings.Contains(name, w)
		}
		switch q.Only {
		case "unused":
			fits = fits && m.uses == 0
		case "draft":
			fits = fits && !m.head.Draft.IsZero()
		case "stand-in":
			fits = fits && m.Body != nil && m.Body.StandIn
		case "findings":
			fits = fits && modelRow(m, house, waived).Findings > 0
		}
		if !fits {
			continue
		}
		if out.Page.Total >= offset && len(out.Items) < limit {
			out.Items = append(out.Items, modelRow(m, house, waived))
		}
		out.Page.Total++
	}
	return out, nil
}
