package service

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"strings"

	"jollydrawer/core/document"
	"jollydrawer/core/model"
	"jollydrawer/internal/blobs"
	"jollydrawer/internal/store"
	"jollydrawer/internal/wire"
)

const modelFormat = "jolly-model/1"

// loadModel returns a model's head and its newest content.
func (s *Service) loadModel(ctx context.Context, id store.ID) (h store.Head, m model.Content, err error) {
	if h, err = s.Store.Head(ctx, store.KindModel, id); err != nil {
		return h, m, err
	}
	c, err := s.Store.Content(ctx, draftOf(h))
	if err == nil {
		err = json.Unmarshal(c.Bytes, &m)
	}
	return h, m, err
}

// modelNumber is the name under which a model's head is unique: kind and name.
func modelNumber(m model.Content) string { return string(m.Kind) + ": " + m.Name }

func (s *Service) modelContent(ctx context.Context, in wire.ModelEdit) (model.Content, []byte, store.Hash, error) {
	m := model.Content{Kind: model.Kind(in.Kind), Name: strings.TrimSpace(in.Name), FileHash: in.FileHash, FileName: in.FileName, Note: strings.TrimSpace(in.Note)}
	if err := m.Check(); err != nil {
		return m, nil, store.Hash{}, fault(Invalid, "model-wrong", "The model was not saved: "+err.Error()+".", "")
	}
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
	}
	raw, hash, err := document.Canonical(m)
	return m, raw, store.Hash(hash), err
}

// CreateModel makes a model as a draft.
func (s *Service) CreateModel(ctx context.Context, c Call, in wire.ModelEdit) (wire.Model, error) {
	if err := allow(c, OpModelEdit); err != nil {
		return wire.Model{}, err
	}
	m, raw, hash, err := s.modelContent(ctx, in)
	if err != nil {
		return wire.Model{}, err
	}
	id, err := deed(ctx, s, c, OpModelEdit, "model", in, func(t *store.Tx) (store.ID, error) {
		h := store.Head{ID: store.NewID(), Kind: store.KindModel, Number: modelNumber(m)}
		content := store.Content{ID: store.NewID(), Head: h.ID, Hash: hash, Format: modelFormat, Bytes: raw}
		h.Draft = content.ID
		if err := t.AddContent(&content); err != nil {
			return h.ID, err
		}
		return h.ID, t.Insert(&h, "made", m)
	})
	if err != nil {
		return wire.Model{}, modelRefused(err, m)
	}
	return s.Model(ctx, c, id)
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
	m, raw, hash, err := s.modelContent(ctx, in)
	if err != nil {
		return wire.Model{}, err
	}
	_, err = deed(ctx, s, c, OpModelEdit, "model", []any{id, version, in}, func(t *store.Tx) (int, error) {
		h, err := t.HeadAt(store.KindModel, id, version)
		if err != nil {
			return 0, err
		}
		if !strings.HasPrefix(h.Number, string(m.Kind)+": ") {
			return 0, fault(Invalid, "kind-fixed", "A model stays of its kind.", "Make a new model of the other kind.")
		}
		content := store.Content{ID: store.NewID(), Head: h.ID, Hash: hash, Format: modelFormat, Bytes: raw}
		if err := t.AddContent(&content); err != nil {
			return 0, err
		}
		h.Draft, h.Number = content.ID, modelNumber(m)
		return h.Version, t.Update(&h, "draft saved", m)
	})
	if err != nil {
		return wire.Model{}, modelRefused(err, m)
	}
	return s.Model(ctx, c, id)
}

// ReleaseModel freezes a model's draft as its next revision.
func (s *Service) ReleaseModel(ctx context.Context, c Call, id store.ID, version int, in wire.Release) (wire.Model, error) {
	_, err := deed(ctx, s, c, OpModelRelease, "model", []any{id, version, in}, func(t *store.Tx) (int, error) {
		h, err := t.HeadAt(store.KindModel, id, version)
		if err != nil {
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
		if m.FileHash == "" {
			return 0, fault(Invalid, "no-file", fmt.Sprintf("%s has no file and cannot be released.", m.Name), "Attach its file first.")
		}
		if err := t.AddRevision(&h, content, in.Note); err != nil {
			return 0, err
		}
		return h.Revision, t.Update(&h, "released", map[string]any{"revision": h.Revision, "note": in.Note, "hash": content.Hash.String()})
	})
	if err != nil {
		return wire.Model{}, err
	}
	return s.Model(ctx, c, id)
}

// Model returns a model with its revisions and what uses it.
func (s *Service) Model(ctx context.Context, c Call, id store.ID) (wire.Model, error) {
	if err := allow(c, OpRead); err != nil {
		return wire.Model{}, err
	}
	h, _, err := s.loadModel(ctx, id)
	if err != nil {
		return wire.Model{}, sentence(err, "model")
	}
	out, err := s.modelView(ctx, h)
	if err != nil {
		return out, err
	}
	if out.Revisions, err = s.revisionsView(ctx, id); err != nil {
		return out, err
	}
	uses, err := s.Store.UsedBy(ctx, id, 0, 1000)
	for _, u := range uses {
		number := u.Parent.String()
		if e, ok := s.Index.ByID(number); ok {
			number = e.Number
		}
		out.Uses = append(out.Uses, wire.ModelUse{Part: number, Place: u.Place, Revision: u.ChildRevision, Newer: h.Revision > u.ChildRevision})
	}
	return out, err
}

func (s *Service) modelView(ctx context.Context, h store.Head) (wire.Model, error) {
	out := wire.Model{ID: h.ID.String(), Version: h.Version, Status: string(statusOf(h)), Revision: h.Revision, Updated: h.Updated,
		Revisions: []wire.Revision{}, Uses: []wire.ModelUse{}}
	for _, side := range []struct {
		id   store.ID
		into **wire.ModelEdit
	}{{h.Released, &out.Released}, {h.Draft, &out.Draft}} {
		if side.id.IsZero() {
			continue
		}
		content, err := s.Store.Content(ctx, side.id)
		if err != nil {
			return out, err
		}
		var m model.Content
		if err := json.Unmarshal(content.Bytes, &m); err != nil {
			return out, err
		}
		*side.into = &wire.ModelEdit{Kind: string(m.Kind), Name: m.Name, FileHash: m.FileHash, FileName: m.FileName, Note: m.Note}
		out.Kind, out.Name = string(m.Kind), m.Name
	}
	return out, nil
}

// Models lists models, newest first; text narrows by name.
func (s *Service) Models(ctx context.Context, c Call, text, kind string, offset, limit int) (wire.ModelList, error) {
	if err := allow(c, OpRead); err != nil {
		return wire.ModelList{}, err
	}
	offset, limit = page(offset, limit)
	out := wire.ModelList{Page: wire.Page{Offset: offset, Limit: limit}, Items: []wire.Model{}}
	like := "%" + strings.NewReplacer("%", "\\%", "_", "\\_", "\\", "\\\\").Replace(text) + "%"
	if kind != "" {
		like = kind + ": " + like
	}
	q := s.Store.Read(ctx).Model(&store.Head{}).Where("kind = ? AND number LIKE ?", store.KindModel, like)
	var total int64
	var hs []store.Head
	if err := q.Count(&total).Error; err != nil {
		return out, err
	}
	if err := q.Order("number").Offset(offset).Limit(limit).Find(&hs).Error; err != nil {
		return out, err
	}
	out.Page.Total = int(total)
	for _, h := range hs {
		m, err := s.modelView(ctx, h)
		if err != nil {
			return out, err
		}
		out.Items = append(out.Items, m)
	}
	return out, nil
}
