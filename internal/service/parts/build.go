package parts

import (
	"encoding/json"
	"errors"
	"fmt"
	"maps"
	"slices"
	"strings"

	"jollydrawer/core/cabinet"
	"jollydrawer/core/document"
	"jollydrawer/core/measure"
	"jollydrawer/core/model"
	"jollydrawer/core/origin"
	"jollydrawer/core/part"
	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/service/models"
	"jollydrawer/internal/store"
	"jollydrawer/internal/wire"
)

type Origins map[string]origin.Origin

// build makes content from an edit. Texts that equal what base shows keep base's value and origin; others are read,
// and a text that cannot be read without doubt is refused with its place.
func (s *Parts) build(r store.Reader, c deed.Call, cab *cabinet.Cabinet, in wire.PartEdit, base part.Content, from Origins) (part.Content, Origins, error) {
	t, ok := cab.Template(in.Drawer)
	if !ok || !t.Leaf {
		return part.Content{}, nil, deed.Fault(deed.Invalid, "drawer-unknown", fmt.Sprintf("The cabinet has no drawer %q that holds parts.", in.Drawer), "Choose one of the drawers that have no drawers inside.")
	}
	out := part.Content{Drawer: in.Drawer, Name: in.Name, Description: in.Description, Values: map[string]cabinet.Value{}, Sources: in.Sources, Datasheets: in.Datasheets, Links: in.Links,
		Symbol: in.Symbol, LandPattern: in.LandPattern, Body: in.Body, PinMap: in.PinMap, OtherLands: in.OtherLands, Attachments: in.Attachments}
	o := Origins{}
	bad := deed.Fault(deed.Invalid, "values-wrong", "Nothing was saved:", "")
	for _, key := range slices.Sorted(maps.Keys(in.Values)) {
		text := in.Values[key]
		slot, ok := t.Slot(key)
		if !ok {
			if strings.TrimSpace(text) != "" {
				bad.Places = append(bad.Places, wire.ProblemDetail{Location: "values." + key, Message: fmt.Sprintf("%q is not in the template of %s", key, t.Label)})
			}
			continue
		}
		if have := base.Values[key]; !have.IsBlank() && (have.String() == strings.TrimSpace(text) || slot.Shown(have) == strings.TrimSpace(text)) {
			out.Values[key], o["values."+key] = have, from["values."+key]
			continue
		}
		v, problem := slot.Read(text, measure.Options{})
		if problem != nil {
			bad.Places = append(bad.Places, wire.ProblemDetail{Location: "values." + key, Message: problem.Why + "; " + problem.Mend})
			continue
		}
		if !v.IsBlank() {
			out.Values[key], o["values."+key] = v, origin.Origin{Person: c.Actor.Name, Written: text, Rule: short(in.Came[key])}
		}
	}
	if base.Drawer == "" { // a new part takes the template's defaults where nothing was said
		for _, slot := range t.Slots {
			if _, said := in.Values[slot.Key]; !said && slot.Default != "" {
				if v, problem := slot.Read(slot.Default, measure.Options{}); problem == nil {
					out.Values[slot.Key], o["values."+slot.Key] = v, origin.Origin{Rule: "default of the template"}
				}
			}
		}
	}
	derive(t, out.Values, o)
	if err := s.checkLinks(r, &out, bad); err != nil {
		return out, nil, err
	}
	if where := out.TooLong(); where != "" {
		bad.Places = append(bad.Places, wire.ProblemDetail{Location: where, Message: fmt.Sprintf("%s is longer than %d bytes or has too many entries", where, part.MaxText)})
	}
	if len(bad.Places) > 0 {
		return out, nil, bad
	}
	if keep, ok := from["sources"]; ok && fmt.Sprint(base.Sources) == fmt.Sprint(in.Sources) {
		o["sources"] = keep
	} else if len(in.Sources) > 0 {
		o["sources"] = origin.Origin{Person: c.Actor.Name}
	}
	out.Clean()
	out.KeepUnlike(t, &base)
	if built := t.Describe(out.Values); built != "" && (out.Description == "" || out.Description == t.Describe(base.Values)) {
		out.Description = built // a description that nobody wrote by hand follows the values
	}
	if built := out.NameBy(t); built != "" && (out.Name == "" || out.Name == base.NameBy(t)) {
		out.Name = built
	}
	return out, o, nil
}

// short keeps what a person's page says of a value's origin within bounds.
func short(s string) string {
	if len(s) > 300 {
		return strings.ToValidUTF8(s[:300], "") + "…"
	}
	return s
}

// defaultModels links the released models that the drawer gives to new parts, where the part names none: the land
// pattern by its case before the drawer's one.
func (s *Parts) defaultModels(r store.Reader, t *cabinet.Template, p *part.Content) error {
	pattern := t.Models.LandPattern
	if by := t.Models.LandPatterns[p.Values[t.Case].Text]; by != "" {
		pattern = by
	}
	for _, d := range []struct {
		kind model.Kind
		name string
		at   **part.Model
	}{{model.KindSymbol, t.Models.Symbol, &p.Symbol}, {model.KindLand, pattern, &p.LandPattern}, {model.KindBody, t.Models.Body, &p.Body}} {
		if d.name == "" || *d.at != nil {
			continue
		}
		h, err := s.models.Find(r, models.Number(d.kind, d.name))
		if errors.Is(err, store.ErrNotFound) || err == nil && h.Revision == 0 {
			continue // the part says that it has none; nothing is made up
		}
		if err != nil {
			return err
		}
		m, err := s.models.LinkTo(r, h)
		if err != nil {
			return err
		}
		*d.at = &m
	}
	return nil
}

// derive fills in what the values say of blank ones, such as the metric code of a chip case.
func derive(t *cabinet.Template, values map[string]cabinet.Value, o map[string]origin.Origin) {
	more, err := t.Derive(values)
	if err != nil {
		return // part.Check says so
	}
	for key, v := range more {
		values[key], o["values."+key] = v, origin.Origin{Rule: "by the table of chip cases"}
	}
}

// checkLinks makes sure that the files and models that a part names are there, and takes their present names.
func (s *Parts) checkLinks(r store.Reader, p *part.Content, bad *deed.Error) error {
	miss := func(where, what string) {
		bad.Places = append(bad.Places, wire.ProblemDetail{Location: where, Message: what})
	}
	files := p.Datasheets
	for _, a := range p.Attachments {
		files = append(files[:len(files):len(files)], a.File)
	}
	for i, f := range files {
		h, err := store.ParseHash(f.Hash)
		ok := false
		if err == nil {
			_, ok, err = r.FileSize(h)
			if err != nil {
				return err
			}
		}
		if !ok {
			place := fmt.Sprintf("datasheets[%d]", i)
			if i >= len(p.Datasheets) {
				place = fmt.Sprintf("attachments[%d]", i-len(p.Datasheets))
			}
			miss(place, fmt.Sprintf("the file %q is not there; upload it first", f.Name))
		}
	}
	for i, l := range p.Links {
		if p.Links[i] = strings.TrimSpace(l); !part.IsLink(p.Links[i]) {
			miss(fmt.Sprintf("datasheetLinks[%d]", i), fmt.Sprintf("%q is no link: it begins with http:// or https:// and a host", short(l)))
		}
	}
	for i, src := range p.Sources {
		if part.NormaliseMPN(src.MPN) == "" || part.NormaliseMaker(src.Manufacturer) == "" {
			miss(fmt.Sprintf("sources[%d]", i), "a source needs a manufacturer and a manufacturer part number")
		}
	}
	link := func(place, kind string, m *part.Model) error {
		id, err := store.ParseID(m.ID)
		if err != nil {
			miss(place, fmt.Sprintf("%q is no model", m.ID))
			return nil
		}
		h, mc, err := s.models.Newest(r, id)
		switch {
		case errors.Is(err, store.ErrNotFound):
			miss(place, "there is no such model")
		case err != nil:
			return err
		case string(mc.Kind) != kind:
			miss(place, fmt.Sprintf("%s is a %s, not a %s", mc.Name, mc.Kind, kind))
		case m.Revision < 0 || m.Revision > h.Revision:
			miss(place, fmt.Sprintf("%s has no revision %d", mc.Name, m.Revision))
		default:
			m.Name, m.StandIn = mc.Name, mc.StandsIn()
		}
		return nil
	}
	for place, m := range p.Models() {
		if m != nil {
			if err := link(place, place, m); err != nil {
				return err
			}
		}
	}
	for i := range p.OtherLands {
		if err := link(fmt.Sprintf("otherLandPatterns[%d]", i), "land pattern", &p.OtherLands[i].Model); err != nil {
			return err
		}
	}
	return nil
}

// Put adds content to a head in a write and brings its source keys and uses up to date. It is the one way by which the content
// of a part is changed, so that no state is passed over in which it may not be.
func (s *Parts) Put(t *store.Tx, h *store.Head, p part.Content, o Origins, template int, twin bool) (store.Content, error) {
	if err := s.policy.MayChange(t.Reader, *h, t.Deed.Account); err != nil {
		return store.Content{}, err
	}
	if err := t.UnderCabinet(template); err != nil {
		return store.Content{}, err
	}
	if err := underMap(t, h, &p); err != nil {
		return store.Content{}, err
	}
	c, err := NewContent(h.ID, p, o, template)
	if err != nil {
		return c, err
	}
	if err := t.AddContent(&c); err != nil {
		return c, err
	}
	if err := t.SetSources(h.ID, p.SourceKeys(), twin); err != nil {
		return c, err
	}
	h.Draft, h.Drawer = c.ID, p.Drawer
	return c, t.SetUses(h.ID, "draft", UsesOf(p, "draft"))
}

// underMap keeps under which land pattern the pin map of a part was laid, and says on the trail that another one came under it.
func underMap(t *store.Tx, h *store.Head, p *part.Content) error {
	if p.PinMap == nil || h.Newest().IsZero() {
		p.KeepMapLand(nil)
		return nil
	}
	c, err := t.Content(h.Newest())
	if err != nil {
		return err
	}
	was, err := DecodeContent(c)
	if err != nil {
		return err
	}
	if !p.KeepMapLand(&was) {
		return nil
	}
	return t.Note(h, "land pattern swapped under its pin map", map[string]any{"map": p.PinMap.Name, "from": was.LandPattern.Name, "to": p.LandPattern.Name})
}

// NewContent is content of a part as it is stored.
func NewContent(head store.ID, p part.Content, o Origins, template int) (store.Content, error) {
	how, err := json.Marshal(o)
	if err != nil {
		return store.Content{}, err
	}
	return CarriedContent(head, p, how, template)
}

// CarriedContent is NewContent for origins that are JSON already.
func CarriedContent(head store.ID, p part.Content, how json.RawMessage, template int) (store.Content, error) {
	raw, hash, err := document.Canonical(p)
	return store.Content{ID: store.NewID(), Head: head, Hash: store.Hash(hash), Format: part.Format, Template: template, Bytes: raw, Origins: how}, err
}

// UsesOf lists the models that content uses; word says as what: "draft" or "released".
func UsesOf(p part.Content, word string) (out []store.Use) {
	for place, m := range p.Models() {
		if m != nil {
			if id, err := store.ParseID(m.ID); err == nil {
				out = append(out, store.Use{Place: word + " " + place, Child: id, ChildRevision: m.Revision})
			}
		}
	}
	for i, o := range p.OtherLands {
		if id, err := store.ParseID(o.Model.ID); err == nil {
			out = append(out, store.Use{Place: fmt.Sprintf("%s land pattern %d", word, i+2), Child: id, ChildRevision: o.Model.Revision})
		}
	}
	return out
}
