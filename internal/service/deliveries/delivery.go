package deliveries

import (
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"maps"
	"path"
	"slices"
	"strconv"
	"strings"

	"jollydrawer/core/model"
	"jollydrawer/core/part"
	"jollydrawer/formats/drop"
	"jollydrawer/internal/blobs"
	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/service/files"
	"jollydrawer/internal/service/models"
	"jollydrawer/internal/service/policy"
	"jollydrawer/internal/store"
	"jollydrawer/internal/wire"
)

const deliveryFormat = "jolly-delivery/1"

// deliveryDoc is what is kept of a delivery: the files as they came, and what their models became. What is in the files is
// read anew when it is needed, and the same each time.
type deliveryDoc struct {
	Name  string            `json:"name"`
	Part  string            `json:"part,omitempty"` // ID
	Files []part.File       `json:"files"`
	Kept  map[string]string `json:"kept"` // path of a member → its hash
	Used  map[string]string `json:"used,omitempty"`
}

// delivered is an opened delivery.
type delivered struct {
	head    store.Head
	doc     deliveryDoc
	members []drop.Member
}

// Bring brings in uploaded files: everything in them is told apart, and nothing of the library changes.
func (s *Deliveries) Bring(ctx context.Context, c deed.Call, in wire.NewDelivery) (wire.Delivery, error) {
	if err := deed.Allow(c, deed.OpModelEdit); err != nil {
		return wire.Delivery{}, err
	}
	id, err := s.Arrived(ctx, c, in)
	if err != nil {
		return wire.Delivery{}, err
	}
	return s.Get(ctx, c, id.String())
}

// Arrived is Bring for a job whose right was decided when it was put in line.
func (s *Deliveries) Arrived(ctx context.Context, c deed.Call, in wire.NewDelivery) (id store.ID, err error) {
	doc := deliveryDoc{Name: strings.TrimSpace(in.Name), Files: in.Files, Kept: map[string]string{}}
	if in.Part != "" {
		h, err := s.parts.Find(ctx, in.Part)
		if err != nil {
			return id, deed.Sentence(err, "part")
		}
		doc.Part = h.ID.String()
	}
	for i := range doc.Files {
		doc.Files[i].Name = files.CleanName(doc.Files[i].Name)
	}
	if doc.Name == "" {
		doc.Name = doc.Files[0].Name
	}
	members, err := s.openFiles(ctx, doc.Files)
	if err != nil {
		return id, err
	}
	for _, m := range members {
		if m.Raw == nil {
			continue
		}
		hash, _, err := blobs.Put(ctx, s.Store, bytes.NewReader(m.Raw), s.files.Limits.Bytes)
		if err != nil {
			return id, err
		}
		doc.Kept[m.Path] = hash.String()
	}
	n, err := s.Store.ReserveNumbers(ctx, "DL", 1)
	if err != nil {
		return id, deed.Sentence(err, "delivery")
	}
	d, err := s.NewDeed(c, deed.OpModelEdit, in)
	if err != nil {
		return id, err
	}
	raw, err := s.Store.Do(ctx, d, func(t *store.Tx) (any, error) {
		h := store.Head{ID: store.NewID(), Kind: store.KindDelivery, Number: fmt.Sprintf("DL-%05d", n)}
		if err := deed.SaveDraft(t, &h, deliveryFormat, doc); err != nil {
			return h.ID, err
		}
		return h.ID, t.Insert(&h, "brought in", map[string]any{"name": doc.Name, "files": len(doc.Files)})
	})
	if err != nil {
		return id, deed.Sentence(err, "delivery")
	}
	if err := json.Unmarshal(raw, &id); err != nil {
		return id, err
	}
	s.keepOpen(id, members)
	return id, nil
}

// openFiles reads uploaded files as drops and joins what is in them.
func (s *Deliveries) openFiles(ctx context.Context, files []part.File) ([]drop.Member, error) {
	var out []drop.Member
	paths := map[string]bool{}
	for _, f := range files {
		members, err := s.files.Members(s.Store.Read(ctx), f.Hash, f.Name)
		if err != nil {
			var e *deed.Error
			if errors.As(err, &e) {
				return nil, err
			}
			return nil, deed.Fault(deed.Invalid, "delivery-unreadable", fmt.Sprintf("%s was not brought in: %s", f.Name, deed.SentenceOf(err)), "")
		}
		for _, m := range members {
			if paths[m.Path] {
				m.Path = f.Name + "/" + m.Path
			}
			paths[m.Path] = true
			out = append(out, m)
		}
	}
	drop.Twice(out)
	return out, nil
}

// openDelivery loads a delivery and reads its files; the last few stay in memory, because people work on one for a while.
func (s *Deliveries) openDelivery(ctx context.Context, key string) (d delivered, err error) {
	if d.head, err = s.Store.Read(ctx).Called(store.KindDelivery, key); err != nil {
		return d, deed.Sentence(err, "delivery")
	}
	content, err := s.Store.Read(ctx).Content(d.head.Draft)
	if err != nil {
		return d, err
	}
	if err := json.Unmarshal(content.Bytes, &d.doc); err != nil {
		return d, err
	}
	s.mu.Lock()
	for _, o := range s.opened {
		if o.id == d.head.ID {
			d.members = o.members
		}
	}
	s.mu.Unlock()
	if d.members != nil {
		return d, nil
	}
	if d.members, err = s.openFiles(ctx, d.doc.Files); err != nil {
		return d, err
	}
	s.keepOpen(d.head.ID, d.members)
	return d, nil
}

// openedDelivery is what was read from the files of a delivery, for as long as it stays in memory.
type openedDelivery struct {
	id      store.ID
	members []drop.Member
}

// keepOpen keeps the members of a delivery in memory, without their bytes: those are kept by hash.
func (s *Deliveries) keepOpen(id store.ID, members []drop.Member) {
	for i := range members {
		members[i].Raw = nil
	}
	s.mu.Lock()
	defer s.mu.Unlock()
	s.opened = append(slices.DeleteFunc(s.opened, func(o openedDelivery) bool { return o.id == id }), openedDelivery{id, members})
	if len(s.opened) > 4 {
		s.opened = s.opened[1:]
	}
}

func (d *delivered) hash(m *drop.Member) string { return d.doc.Kept[m.Path] }

// model returns the model under a key, with the file it came in.
func (d *delivered) model(key string) (model.Content, bool) {
	f, n, ok := strings.Cut(key, ".")
	i, err1 := strconv.Atoi(f)
	j, err2 := strconv.Atoi(n)
	if !ok || err1 != nil || err2 != nil || i < 0 || j < 0 || i >= len(d.members) || j >= len(d.members[i].Models) {
		return model.Content{}, false
	}
	m := d.members[i].Models[j]
	m.FileHash, m.FileName = d.hash(&d.members[i]), path.Base(d.members[i].Path)
	return m, true
}

// Preview draws a model of a delivery.
func (s *Deliveries) Preview(ctx context.Context, c deed.Call, key, which string, night, small bool) ([]byte, error) {
	if err := deed.Allow(c, deed.OpRead); err != nil {
		return nil, err
	}
	d, err := s.openDelivery(ctx, key)
	if err != nil {
		return nil, err
	}
	m, ok := d.model(which)
	if !ok {
		return nil, deed.Fault(deed.Unknown, "not-found", "The delivery has no such model.", "")
	}
	return m.SVG(model.Preview{Ink: models.Ink(night), Small: small}), nil
}

// Use takes models out of a delivery into the library, or the library's own in their place, and links them to a part.
func (s *Deliveries) Use(ctx context.Context, c deed.Call, key string, version int, in wire.UseDelivery) (wire.Delivery, error) {
	op := deed.OpModelEdit
	if in.Note != "" {
		op = deed.OpModelRelease
	}
	if err := deed.Allow(c, op); err != nil {
		return wire.Delivery{}, err
	}
	d, err := s.openDelivery(ctx, key)
	if err != nil {
		return wire.Delivery{}, err
	}
	_, ch, err := s.cabinets.InForce(ctx)
	if err != nil {
		return wire.Delivery{}, err
	}
	var target store.Head
	if in.Part != "" {
		if target, err = s.parts.Find(ctx, in.Part); err != nil {
			return wire.Delivery{}, deed.Sentence(err, "part")
		}
	}
	_, err = deed.Do(ctx, s.Desk, c, op, "delivery", []any{d.head.ID, version, in}, func(t *store.Tx) (int, error) {
		h, err := t.HeadAt(store.KindDelivery, d.head.ID, version)
		if err != nil {
			return 0, err
		}
		doc := d.doc
		doc.Used = maps.Clone(doc.Used)
		if doc.Used == nil {
			doc.Used = map[string]string{}
		}
		links, err := s.takeModels(t, c.Actor, &d, in, doc.Used)
		if err != nil {
			return 0, err
		}
		if !target.ID.IsZero() {
			doc.Part = target.ID.String()
			if _, err := s.parts.Alter(t, target.ID, 0, ch.Revision, "models linked", map[string]any{"delivery": h.Number}, func(p *part.Content) bool {
				linkModels(p, links)
				d.attach(p, in.Files)
				return true
			}); err != nil {
				return 0, err
			}
		}
		if err := deed.SaveDraft(t, &h, deliveryFormat, doc); err != nil {
			return 0, err
		}
		return 0, t.Update(&h, "used", map[string]any{"models": len(in.Models), "part": target.Number})
	})
	if err != nil {
		return wire.Delivery{}, err
	}
	return s.Get(ctx, c, d.head.ID.String())
}

// linked is a model on its way to a part.
type linked struct {
	kind    model.Kind
	density string
	to      part.Model
}

// takeModels makes or reuses the models that were chosen.
func (s *Deliveries) takeModels(t *store.Tx, by deed.Actor, d *delivered, in wire.UseDelivery, used map[string]string) ([]linked, error) {
	var out []linked
	for _, u := range in.Models {
		m, ok := d.model(u.Key)
		if !ok {
			return nil, deed.Fault(deed.Invalid, "not-delivered", fmt.Sprintf("The delivery has no model %q.", u.Key), "Open the delivery again.")
		}
		l := linked{kind: m.Kind}
		if m.Land != nil {
			l.density = m.Land.Density
		}
		if u.Reuse != "" {
			id, err := store.ParseID(u.Reuse)
			if err != nil {
				return nil, deed.Fault(deed.Invalid, "not-found", "There is no model to reuse with this ID.", "")
			}
			h, err := t.Head(store.KindModel, id)
			if err == nil {
				err = policy.Stands(h)
			}
			if err != nil {
				return nil, deed.Sentence(err, "model")
			}
			if !strings.HasPrefix(h.Number, string(m.Kind)+": ") {
				return nil, deed.Fault(deed.Invalid, "kind-other", fmt.Sprintf("%s is to be replaced by a model of another kind.", m.Name), "Choose a "+string(m.Kind)+".")
			}
			if l.to, err = s.models.LinkTo(t.Reader, h); err != nil {
				return nil, deed.Sentence(err, "model")
			}
		} else {
			if name := strings.TrimSpace(u.Name); name != "" {
				m.Name = name
			}
			if u.Correct != nil {
				if err := models.Placed(&m, "", wire.PlaceBody{Place: *u.Correct}); err != nil {
					return nil, err
				}
			}
			h, err := s.models.Insert(t, by, &m, in.Note, map[string]any{"delivery": d.head.Number, "file": m.FileName})
			if err != nil {
				return nil, err
			}
			l.to = part.Model{ID: h.ID.String(), Name: m.Name, Revision: h.Revision, StandIn: m.StandsIn()}
		}
		used[u.Key] = l.to.ID
		out = append(out, l)
	}
	return out, nil
}

// linkModels puts the first model of each kind in its place; further land patterns come beside the default one.
func linkModels(p *part.Content, links []linked) {
	done := map[model.Kind]bool{}
	for _, l := range links {
		to := l.to
		if done[l.kind] && l.kind == model.KindLand {
			what := l.density
			if what == "" {
				what = "another assembly"
			}
			p.OtherLands = append(p.OtherLands, part.OtherLand{For: what, Model: to})
			continue
		}
		if done[l.kind] {
			continue
		}
		done[l.kind] = true
		switch l.kind {
		case model.KindSymbol:
			p.Symbol = &to
		case model.KindLand:
			p.LandPattern = &to
		case model.KindBody:
			p.Body = &to
		case model.KindPinMap:
			p.PinMap = &to
		}
	}
}

// attach adds files of the delivery to a part: datasheets as such, all else by its kind.
func (d *delivered) attach(p *part.Content, paths []string) {
	for i := range d.members {
		m := &d.members[i]
		if !slices.Contains(paths, m.Path) || d.hash(m) == "" {
			continue
		}
		f := part.File{Hash: d.hash(m), Name: files.CleanName(m.Path)}
		if m.Is == drop.Datasheet {
			if !slices.ContainsFunc(p.Datasheets, func(o part.File) bool { return o.Hash == f.Hash }) {
				p.Datasheets = append(p.Datasheets, f)
			}
			continue
		}
		is := m.Is
		if is != drop.Simulation && is != drop.Signals && is != drop.PinList {
			is = "other"
		}
		if !slices.ContainsFunc(p.Attachments, func(o part.Attachment) bool { return o.File.Hash == f.Hash }) {
			p.Attachments = append(p.Attachments, part.Attachment{Is: is, File: f})
		}
	}
}
