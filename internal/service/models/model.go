package models

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"

	"jollydrawer/core/document"
	"jollydrawer/core/finding"
	"jollydrawer/core/lifecycle"
	"jollydrawer/core/model"
	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/service/policy"
	"jollydrawer/internal/store"
	"jollydrawer/internal/wire"
)

// modelFormat is the format of a model's content: with its drawing. The first one named only the file.
const modelFormat = "jolly-model/2"

// Newest returns a model's head and its newest content.
func (s *Models) Newest(r store.Reader, id store.ID) (h store.Head, m model.Content, err error) {
	if h, err = r.Head(store.KindModel, id); err != nil {
		return h, m, err
	}
	d, err := s.drawing(r, h.Newest())
	if err != nil {
		return h, m, err
	}
	return h, d.Content, nil
}

// AtRevision returns a model's drawing at a revision; 0 is its draft, or what is released where there is none.
func (s *Models) AtRevision(r store.Reader, id string, revision int) (*Drawing, error) {
	head, err := store.ParseID(id)
	if err != nil {
		return nil, store.ErrNotFound
	}
	h, err := r.Head(store.KindModel, head)
	if err != nil {
		return nil, err
	}
	content := h.Newest()
	if revision > 0 {
		r, err := r.Revision(head, revision)
		if err != nil {
			return nil, err
		}
		content = r.Content
	}
	return s.drawing(r, content)
}

// Number is the name under which a model's head is unique: kind and name.
func Number(kind model.Kind, name string) string { return string(kind) + ": " + name }

// modelContent makes content of an edit; a drawing that is not given is read from the file.
func (s *Models) modelContent(ctx context.Context, in wire.ModelEdit) (m model.Content, raw []byte, hash store.Hash, err error) {
	m = model.Content{Kind: model.Kind(in.Kind), Name: strings.TrimSpace(in.Name), FileHash: in.FileHash, FileName: in.FileName, Note: strings.TrimSpace(in.Note),
		Symbol: in.Symbol, Land: in.LandPattern, Body: in.Body, PinMap: in.PinMap}
	if m.FileHash != "" {
		h, err := store.ParseHash(m.FileHash)
		ok := false
		if err == nil {
			_, ok, err = s.Store.Read(ctx).FileSize(h)
		}
		if !ok {
			if err == nil || h.IsZero() {
				err = deed.Fault(deed.Invalid, "file-missing", fmt.Sprintf("The model was not saved: its file %q is not there.", m.FileName), "Upload it first.")
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
func (s *Models) drawFrom(ctx context.Context, m *model.Content) error {
	all, err := s.files.Members(s.Store.Read(ctx), m.FileHash, m.FileName)
	if err != nil {
		return deed.Fault(deed.Invalid, "file-unreadable", "The model was not saved: "+deed.SentenceOf(err), "")
	}
	found, ok := pick(all, m.Kind)
	if ok {
		m.Symbol, m.Land, m.Body, m.PinMap = found.Symbol, found.Land, found.Body, found.PinMap
		return nil
	}
	var held []string
	for _, f := range all {
		if f.Is == "refused" {
			return deed.Fault(deed.Invalid, "file-unreadable", fmt.Sprintf("The model was not saved: %s: %s", m.FileName, f.What), strings.Join(f.Wrong, "; "))
		}
		for _, o := range f.Models {
			held = append(held, fmt.Sprintf("%s %q", o.Kind, o.Name))
		}
	}
	if len(held) > 0 {
		return deed.Fault(deed.Invalid, "file-other", fmt.Sprintf("The model was not saved: %s does not hold one %s; it holds %s.", m.FileName, m.Kind, strings.Join(held[:min(len(held), 5)], ", ")),
			"Bring it in as a delivery to choose from what it holds.")
	}
	return nil
}

// encodeModel checks a model and returns its canonical bytes.
func encodeModel(m *model.Content) ([]byte, store.Hash, error) {
	m.Normalise()
	if err := m.Check(); err != nil {
		return nil, store.Hash{}, deed.Fault(deed.Invalid, "model-wrong", fmt.Sprintf("The model was not saved: %v.", err), "")
	}
	raw, hash, err := document.Canonical(*m)
	if len(raw) > maxModel {
		return nil, store.Hash{}, deed.Fault(deed.TooLarge, "model-large", fmt.Sprintf("The drawing of %s takes %d MB; at most %d MB are kept.", m.Name, len(raw)>>20, maxModel>>20), "Leave out graphics that nobody needs.")
	}
	return raw, store.Hash(hash), err
}

// maxModel is how large a model's document may be: many times the largest ball grid.
const maxModel = 4 << 20

// Insert makes a model in a write: as a draft, or released where there is a note and its lifecycle wants nothing more than that.
// Where it wants more, the model stays a draft, and the trail says why.
func (s *Models) Insert(t *store.Tx, by deed.Actor, m *model.Content, note string, how map[string]any) (store.Head, error) {
	raw, hash, err := encodeModel(m)
	if err != nil {
		return store.Head{}, err
	}
	h := store.Head{ID: store.NewID(), Kind: store.KindModel, Number: Number(m.Kind, m.Name)}
	c := store.Content{ID: store.NewID(), Head: h.ID, Hash: hash, Format: modelFormat, Bytes: raw}
	h.Draft = c.ID
	if err := t.AddContent(&c); err != nil {
		return h, err
	}
	detail := map[string]any{"kind": m.Kind, "name": m.Name, "hash": hash.String()}
	for k, v := range how {
		detail[k] = v
	}
	var freezing policy.Freezing
	freezes := false
	if note != "" {
		var why string
		if freezing, freezes, why, err = s.straight(t.Reader, by, h, m, hash); err != nil {
			return h, err
		}
		if !freezes {
			detail["draft"] = why
		}
	}
	if err := t.Insert(&h, "made", detail); err != nil {
		return h, modelRefused(err, *m)
	}
	if freezes {
		err = Freeze(t, &h, c, note, freezing)
	}
	return h, err
}

// Redraw replaces a model's draft in a write, and releases it where there is a note. It is the one way by which a model that is there
// is changed, so that no state is passed over in which it may not be.
func (s *Models) Redraw(t *store.Tx, by deed.Actor, h *store.Head, m *model.Content, note, action string, detail map[string]any) error {
	if err := s.policy.MayChange(t.Reader, *h, t.Deed.Account); err != nil {
		return err
	}
	raw, hash, err := encodeModel(m)
	if err != nil {
		return err
	}
	c := store.Content{ID: store.NewID(), Head: h.ID, Hash: hash, Format: modelFormat, Bytes: raw}
	if err := t.AddContent(&c); err != nil {
		return err
	}
	h.Draft, h.Number = c.ID, Number(m.Kind, m.Name)
	if detail == nil {
		detail = map[string]any{}
	}
	detail["hash"] = hash.String()
	if err := t.Update(h, action, detail); err != nil {
		return modelRefused(err, *m)
	}
	if note == "" {
		return nil
	}
	freezing, ok, why, err := s.straight(t.Reader, by, *h, m, hash)
	if err != nil {
		return err
	}
	if !ok {
		return deed.Fault(deed.Clash, "not-straight", fmt.Sprintf("%s cannot be changed and released in one step: %s.", policy.NameOf(*h), strings.TrimSuffix(why, ".")), "Leave the note out: it is kept as a draft, and goes the way of its lifecycle.")
	}
	return Freeze(t, h, c, note, freezing)
}

// straight says how a model that by has just made is released at once, or why it is not.
func (s *Models) straight(r store.Reader, by deed.Actor, h store.Head, m *model.Content, hash store.Hash) (policy.Freezing, bool, string, error) {
	facts, err := s.FactsOf(r, h.ID, m, hash)
	if err != nil {
		return policy.Freezing{}, false, "", err
	}
	return s.policy.Straight(r, by, h, facts)
}

// FactsOf are what gates are told about the content of a model by itself.
func (s *Models) FactsOf(r store.Reader, head store.ID, m *model.Content, hash store.Hash) (f lifecycle.Facts, err error) {
	f.Content = hash.String()
	house, waived, err := s.houseRules(r, head)
	if err != nil {
		return f, err
	}
	for _, x := range model.Check(m, house, 0) {
		x.Waived = waived[waiver{head, x.Cause}]
		f.Findings = append(f.Findings, x)
	}
	return f, nil
}

// Freeze releases a model's draft in a write.
func Freeze(t *store.Tx, h *store.Head, c store.Content, note string, how policy.Freezing) error {
	if err := t.AddRevision(h, c, note, how.Label); err != nil {
		return err
	}
	h.State = how.State
	detail := map[string]any{"revision": h.Revision, "note": note, "hash": c.Hash.String()}
	for k, v := range how.Detail {
		detail[k] = v
	}
	return t.Update(h, "released", detail)
}

// Create makes a model as a draft.
func (s *Models) Create(ctx context.Context, c deed.Call, in wire.ModelEdit) (wire.Model, error) {
	if err := deed.Allow(c, deed.OpModelEdit); err != nil {
		return wire.Model{}, err
	}
	m, _, _, err := s.modelContent(ctx, in)
	if err != nil {
		return wire.Model{}, err
	}
	id, err := deed.Do(ctx, s.Desk, c, deed.OpModelEdit, "model", in, func(t *store.Tx) (store.ID, error) {
		h, err := s.Insert(t, c.Actor, &m, "", nil)
		return h.ID, err
	})
	if err != nil {
		return wire.Model{}, err
	}
	return s.Get(ctx, c, id.String())
}

func modelRefused(err error, m model.Content) error {
	if errors.Is(err, store.ErrNumberTaken) {
		return deed.Fault(deed.Clash, "name-taken", fmt.Sprintf("There is a %s named %s already.", m.Kind, m.Name), "Use that one, or choose another name.")
	}
	return err
}

// Save replaces a model's draft.
func (s *Models) Save(ctx context.Context, c deed.Call, id store.ID, version int, in wire.ModelEdit) (wire.Model, error) {
	if err := deed.Allow(c, deed.OpModelEdit); err != nil {
		return wire.Model{}, err
	}
	m, _, _, err := s.modelContent(ctx, in)
	if err != nil {
		return wire.Model{}, err
	}
	_, err = deed.Do(ctx, s.Desk, c, deed.OpModelEdit, "model", []any{id, version, in}, func(t *store.Tx) (int, error) {
		h, err := t.HeadAt(store.KindModel, id, version)
		if err != nil {
			return 0, err
		}
		if !strings.HasPrefix(h.Number, string(m.Kind)+": ") {
			return 0, deed.Fault(deed.Invalid, "kind-fixed", "A model stays of its kind.", "Make a new model of the other kind.")
		}
		return h.Version, s.Redraw(t, c.Actor, &h, &m, "", "draft saved", map[string]any{"name": m.Name})
	})
	if err != nil {
		return wire.Model{}, modelRefused(err, m)
	}
	return s.Get(ctx, c, id.String())
}

// Find finds a model by ID, or by its kind and name as "kind: name". A merged one leads to its survivor.
func (s *Models) Find(r store.Reader, key string) (h store.Head, err error) {
	id, e := store.ParseID(key)
	if e != nil {
		if h, err = r.HeadByNumber(store.KindModel, key); err != nil {
			return h, err
		}
		return s.Survivor(r, h)
	}
	return r.Head(store.KindModel, id)
}

// Survivor is the model that a merged one leads to, however many mergers later; a model that was not merged is its own.
func (s *Models) Survivor(r store.Reader, h store.Head) (store.Head, error) {
	for n := 0; h.Standing == store.Merged && n < 50; n++ { // a merger never leads back; the bound is for a damaged table
		id, _, err := r.Successor(h.ID)
		if err == nil {
			h, err = r.Head(store.KindModel, id)
		}
		if err != nil {
			return h, err
		}
	}
	return h, nil
}

// Get returns a model with its checks, its twins, its revisions and what uses it.
func (s *Models) Get(ctx context.Context, c deed.Call, key string) (wire.Model, error) {
	if err := deed.Allow(c, deed.OpRead); err != nil {
		return wire.Model{}, err
	}
	h, err := s.Find(s.Store.Read(ctx), key)
	if err != nil {
		return wire.Model{}, deed.Sentence(err, "model")
	}
	m, err := deed.Whole(h, func() (store.Head, error) { return s.Store.Read(ctx).Head(store.KindModel, h.ID) }, func(h store.Head) (wire.Model, error) { return s.view(ctx, h) })
	if _, e := store.ParseID(key); err == nil && e != nil && !strings.EqualFold(h.Number, key) { // a name that was merged away led here
		_, m.AskedAs, _ = strings.Cut(key, ": ")
	}
	return m, err
}

func (s *Models) view(ctx context.Context, h store.Head) (wire.Model, error) {
	house, waived, err := s.houseRules(s.Store.Read(ctx), h.ID)
	if err != nil {
		return wire.Model{}, err
	}
	rules, err := s.policy.Rules(s.Store.Read(ctx))
	if err != nil {
		return wire.Model{}, err
	}
	d, err := s.drawing(s.Store.Read(ctx), h.Newest())
	if err != nil {
		return wire.Model{}, err
	}
	out := wire.Model{ModelRow: modelRow(&Entry{Head: h, Drawing: d}, checks{house, waived, rules}), Checks: Findings(d, h.ID, house, waived), Signed: []wire.ModelSign{}, UsedBy: []wire.ModelUse{}}
	for _, side := range []struct {
		id   store.ID
		into **wire.ModelEdit
	}{{h.Released, &out.Released}, {h.Draft, &out.Draft}} {
		if side.id.IsZero() {
			continue
		}
		m, err := s.drawing(s.Store.Read(ctx), side.id)
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
		to, err := s.Survivor(s.Store.Read(ctx), h)
		if err != nil {
			return out, err
		}
		out.Merged = NameOf(to)
	}
	shelf, err := s.Library(ctx)
	if err != nil {
		return out, err
	}
	out.Twins = AlikeTo(shelf, &d.Content, h.ID)
	if out.Revs, err = s.policy.Revisions(ctx, rules, h); err != nil {
		return out, err
	}
	signs, err := s.Store.Read(ctx).ReviewSigns([]store.ID{h.ID})
	if err != nil {
		return out, err
	}
	for _, w := range signs {
		sign := wire.ModelSign{By: s.Person(ctx, w.Account), At: w.At, Against: w.Against, Author: w.Author}
		if i := slices.IndexFunc(out.Revs, func(r wire.Revision) bool { return r.Hash == w.Content.String() }); i >= 0 {
			sign.Revision = out.Revs[i].Number
		}
		out.Signed = append(out.Signed, sign)
	}
	uses, err := s.Store.Read(ctx).UsedBy(h.ID, 0, 2000)
	seen := map[store.ID]bool{}
	for _, u := range uses {
		use := wire.ModelUse{Part: u.Parent.String(), Place: u.Place, Revision: u.ChildRevision, Newer: h.Revision > u.ChildRevision && u.ChildRevision > 0}
		if e, ok := s.index.ByID(use.Part); ok {
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

// checks are what a row of a list of models is made with.
type checks struct {
	house  model.House
	waived map[waiver]string
	rules  policy.Rules
}

func modelRow(m *Entry, by checks) wire.ModelRow {
	states := by.rules.States(m.Head)
	row := wire.ModelRow{ID: m.Head.ID.String(), Version: m.Head.Version, Kind: string(m.Kind), Name: m.Name, Status: states.Status.Key, States: states, Revision: m.Head.Revision,
		HasDraft: !m.Head.Draft.IsZero(), Updated: m.Head.Updated, Content: m.Head.Newest().String(), Drawn: m.Drawn() && m.PinMap == nil, What: m.what, Uses: m.Uses, FileName: m.FileName}
	for _, f := range Findings(m.Drawing, m.Head.ID, by.house, by.waived) {
		if f.Waived == "" && f.Severity != finding.Note {
			row.Findings++
		}
	}
	return row
}

// Query narrows the list of models.
type Query struct {
	Text, Kind, Only string // Only: unused, behind, findings, draft, stand-in
	Offset, Limit    int
}

// List lists models by name; text narrows by words of the name.
func (s *Models) List(ctx context.Context, c deed.Call, q Query) (wire.ModelList, error) {
	if err := deed.Allow(c, deed.OpRead); err != nil {
		return wire.ModelList{}, err
	}
	offset, limit := deed.Page(q.Offset, q.Limit)
	out := wire.ModelList{Page: wire.Page{Offset: offset, Limit: limit}, Items: []wire.ModelRow{}}
	by, shelf, err := s.checked(ctx)
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
			fits = fits && m.Uses == 0
		case "draft":
			fits = fits && !m.Head.Draft.IsZero()
		case "stand-in":
			fits = fits && m.Body != nil && m.Body.StandIn
		case "findings":
			fits = fits && modelRow(m, by).Findings > 0
		}
		if !fits {
			continue
		}
		if out.Page.Total >= offset && len(out.Items) < limit {
			out.Items = append(out.Items, modelRow(m, by))
		}
		out.Page.Total++
	}
	return out, nil
}

// Trail lists a model's trail, newest first.
func (s *Models) Trail(ctx context.Context, c deed.Call, id store.ID, offset, limit int) (wire.TrailList, error) {
	if err := deed.Allow(c, deed.OpRead); err != nil {
		return wire.TrailList{}, err
	}
	h, err := s.Store.Read(ctx).Head(store.KindModel, id)
	if err != nil {
		return wire.TrailList{}, deed.Sentence(err, "model")
	}
	return s.TrailOf(ctx, h, offset, limit)
}
