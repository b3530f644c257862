package offers

import (
	"bytes"
	"context"
	"crypto/sha256"
	"encoding/json"
	"fmt"
	"maps"
	"slices"
	"strings"

	"jollydrawer/core/answers"
	"jollydrawer/core/cabinet"
	"jollydrawer/core/connection"
	"jollydrawer/core/measure"
	"jollydrawer/core/origin"
	"jollydrawer/core/part"
	"jollydrawer/internal/blobs"
	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/service/intakes"
	"jollydrawer/internal/store"
	"jollydrawer/internal/wire"
)

// taking is a product of an answer that is taken over, with what all suppliers said of it.
type taking struct {
	*answers.Product
	from   answered
	at     int // among the products of from
	others []answered
	asked  string
}

// Take makes a part of a product that a supplier answered with, or makes it another source of a part. Nothing of the part is overwritten: what it
// lacks is filled, and where the supplier says otherwise that is only said.
func (s *Offers) Take(ctx context.Context, c deed.Call, in wire.SupplierTake) (wire.SupplierTaken, error) {
	if err := deed.Allow(c, deed.OpPartEdit); err != nil {
		return wire.SupplierTaken{}, err
	}
	if first, ok, err := s.taken(ctx, c, in); ok || err != nil { // what was taken once is not asked for again
		return first, err
	}
	out, err := s.take(ctx, c, in)
	if err != nil { // a second try of the same deed may have been quicker: what this one met is its own doing then
		if first, ok, e := s.taken(ctx, c, in); ok && e == nil {
			return first, nil
		}
	}
	return out, err
}

// taken is what the same deed came to before.
func (s *Offers) taken(ctx context.Context, c deed.Call, in wire.SupplierTake) (out wire.SupplierTaken, ok bool, err error) {
	out = wire.SupplierTaken{Added: []string{}, Differ: []string{}, ByHand: []string{}}
	first, ok, err := deed.Replayed[json.RawMessage](ctx, s.Desk, c, deed.OpPartEdit, "part", in)
	if err != nil || !ok {
		return out, ok, err
	}
	key := in.Into
	if key == "" {
		if err := json.Unmarshal(first, &key); err != nil {
			return out, true, err
		}
	}
	out.Part, err = s.parts.Get(ctx, c, key)
	return out, true, err
}

// take is Take for a deed that was not done yet.
func (s *Offers) take(ctx context.Context, c deed.Call, in wire.SupplierTake) (wire.SupplierTaken, error) {
	out := wire.SupplierTaken{Added: []string{}, Differ: []string{}, ByHand: []string{}}
	k, err := s.toTake(ctx, in)
	if err != nil {
		return out, err
	}
	out.Differ = append(out.Differ, k.Differ...)
	if in.Into != "" {
		err = s.takeInto(ctx, c, in, k, &out)
	} else {
		err = s.takeAsPart(ctx, c, in, k, &out)
	}
	if err != nil {
		return out, err
	}
	if err := s.keepOffersOf(ctx, k); err != nil { // the part is there; its offers come with the next refresh
		s.Log.Error("the offers of a part that was taken over were not kept", "part", out.Part.Number, "error", err)
	}
	cab, _, err := s.cabinets.InForce(ctx)
	if err != nil {
		return out, err
	}
	if now := out.Part.Newest(); now != nil {
		if t, ok := cab.Template(now.Drawer); ok {
			for _, v := range now.Values {
				if slot, there := t.Slot(v.Key); there && v.Text == "" && (slot.Required || slot.ByHand) {
					out.ByHand = append(out.ByHand, slot.Label)
				}
			}
		}
		if len(now.Links) > 0 {
			job, err := s.intakes.FetchLinked(ctx, deed.Call{Actor: c.Actor, Deed: store.NewID()}, []string{out.Part.ID})
			if err != nil { // the link stays on the part, and can be fetched later
				s.Log.Warn("a datasheet is not being fetched", "part", out.Part.Number, "error", err)
			} else {
				out.Fetching = &job
			}
		}
	}
	switch number, err := s.intoSeries(ctx, c, k); {
	case err != nil: // the part is there; it can be put into its series by hand
		s.Log.Warn("a product was not put into its series", "part", out.Part.Number, "error", err)
	case number != "":
		out.Added = append(out.Added, "series: "+number)
	}
	if len(k.Models) > 0 && deed.Allow(deed.Call{Actor: c.Actor}, deed.OpModelEdit) == nil {
		id, err := store.ParseID(out.Part.ID)
		if err != nil {
			return out, err
		}
		if out.Models, err = s.fetchModels(ctx, c.Actor, id, k); err != nil { // they can be brought in by hand
			s.Log.Warn("models are not being fetched", "part", out.Part.Number, "error", err)
		}
	}
	return out, nil
}

// toTake finds the product that is meant among what the suppliers answered.
func (s *Offers) toTake(ctx context.Context, in wire.SupplierTake) (taking, error) {
	all, err := s.connections(ctx)
	if err != nil {
		return taking{}, err
	}
	in.Question.Text = strings.Join(strings.Fields(in.Question.Text), " ")
	each, err := s.each(ctx, all, in.Question, false, true)
	if err != nil {
		return taking{}, err
	}
	rows := s.merge(each, in.Question.Text).Rows
	for _, m := range rows {
		if !slices.ContainsFunc(m.Offers, func(o answers.Offer) bool { return o.Supplier == in.Supplier && o.Number == in.Number }) {
			continue
		}
		if who, one, other := m.Mixed(); who != "" {
			return taking{}, deed.Fault(deed.Clash, "two-products", fmt.Sprintf("%s has both %s and %s, which are the same but for their marks; nothing was taken, because what it says of the two stands together.", who, one, other), "Make the part from the one that is meant: by hand, or from a table of just that.")
		}
		if each, m, err = s.detailed(ctx, each, m, in); err != nil {
			return taking{}, err
		}
		if in.Drawer != "" && in.Drawer != m.Drawer {
			if each, m, err = s.readIn(ctx, each, m.Key, in); err != nil {
				return taking{}, err
			}
		}
		k := taking{Product: m, others: each, at: -1, asked: in.Question.Text}
		for _, a := range each {
			if a.reading == nil || a.SupplierAnswer.Supplier != m.From {
				continue
			}
			for i := range a.reading.Products {
				if a.reading.Source(i).Key() == m.Key && k.at < 0 {
					k.from, k.at = a, i
				}
			}
		}
		return k, nil
	}
	return taking{}, deed.Fault(deed.Unknown, "not-offered", fmt.Sprintf("%s did not answer %q with a product %s, or its answer is older than an hour.", in.Supplier, in.Question.Text, in.Number), "Ask again, and take what is there now.")
}

// readIn reads a product anew for the drawer that somebody says it belongs into.
func (s *Offers) readIn(ctx context.Context, each []answered, key string, in wire.SupplierTake) ([]answered, *answers.Product, error) {
	cab, _, err := s.cabinets.InForce(ctx)
	if err != nil {
		return nil, nil, err
	}
	if t, ok := cab.Template(in.Drawer); !ok || !t.Leaf {
		return nil, nil, deed.Fault(deed.Invalid, "no-drawer", fmt.Sprintf("There is no drawer %q that holds parts.", in.Drawer), "")
	}
	all, err := s.cabinets.AllCrosswalks(ctx)
	if err != nil {
		return nil, nil, err
	}
	var out []answered
	for _, a := range each {
		if a.reading == nil {
			continue
		}
		var of []connection.Product
		at := 0
		for i := range a.reading.Products {
			if a.reading.Source(i).Key() == key {
				if len(of) == 0 {
					at = i
				}
				of = append(of, a.reading.Products[i])
			}
		}
		if len(of) > 0 {
			if a.detail != nil {
				d := *a.detail
				d.product = 0 // it is the first of what is left
				a.detail = &d
			}
			if raw, _ := a.hash(at); raw != nil { // the product is the first of what is left
				a.pages = []page{{raw, len(of)}}
			}
			a.reading = answers.ReadIn(a.Document, of, all, cab, intakes.Library(s.index), in.Drawer)
			out = append(out, a)
		}
	}
	rows := s.merge(out, in.Question.Text).Rows
	if len(rows) != 1 {
		return nil, nil, deed.Fault(deed.Unknown, "not-offered", fmt.Sprintf("%s does not answer with %s any more.", in.Supplier, in.Number), "Ask again.")
	}
	return out, rows[0], nil
}

// came says where a value came from.
func (k taking) came(key string) string {
	for _, a := range append([]answered{k.from}, k.others...) {
		if a.reading == nil {
			continue
		}
		for i := range a.reading.Products {
			if a.reading.Source(i).Key() != k.Key {
				continue
			}
			said := ""
			a.reading.Result.EachValue(i, func(at string, v cabinet.Value, o origin.Origin, problem *cabinet.Problem) {
				if at == key && !v.IsBlank() && problem == nil && said == "" {
					_, h := a.hash(i)
					if d := a.detail; d != nil && d.product == i && slices.Contains(d.fields, o.Field) {
						h = sha256.Sum256(d.raw)
					}
					said = fmt.Sprintf("%s, %s: %q", a.SupplierAnswer.Supplier, o.Field, o.Written)
					if o.Field == "" {
						said = o.Rule
					}
					said += fmt.Sprintf(" (%q asked on %s, answer %s)", k.asked, a.At.UTC().Format("2006-01-02 15:04"), h)
				}
			})
			if said != "" {
				return said
			}
		}
	}
	return ""
}

// takeAsPart makes a part of the product, as a draft.
func (s *Offers) takeAsPart(ctx context.Context, c deed.Call, in wire.SupplierTake, k taking, out *wire.SupplierTaken) error {
	drawer := k.Drawer
	if in.Drawer != "" {
		drawer = in.Drawer
	}
	if drawer == "" {
		return deed.Fault(deed.Invalid, "no-drawer", fmt.Sprintf("Nothing says into which drawer %s belongs.", k.MPN), "Name the drawer.")
	}
	if len(k.Own) > 0 && in.Separate == "" {
		return deed.Fault(deed.Clash, "there-already", fmt.Sprintf("%s has %s %s as a source already; nothing was made.", k.Own[0], k.Manufacturer, k.MPN), "Use that part, or say why the new one stands beside it.")
	}
	edit := wire.PartEdit{Drawer: drawer, Values: map[string]string{}, Came: map[string]string{}, Sources: []part.Source{k.Source}, KeepSeparate: in.Separate}
	cab, _, err := s.cabinets.InForce(ctx)
	if err != nil {
		return err
	}
	t, ok := cab.Template(drawer)
	if !ok {
		return deed.Fault(deed.Invalid, "no-drawer", fmt.Sprintf("There is no drawer %q.", drawer), "")
	}
	for _, slot := range t.Slots {
		if text := k.Values[slot.Key]; text != "" && !slot.ByHand {
			edit.Values[slot.Key], edit.Came[slot.Key] = text, k.came(slot.Key)
			out.Added = append(out.Added, slot.Label+": "+text)
		}
	}
	maps.Copy(edit.Values, in.Values)
	if part.IsLink(k.Datasheet) {
		edit.Links = []string{k.Datasheet}
	}
	out.Part, err = s.parts.CreateFor(ctx, c, in, edit)
	return err
}

// takeInto makes the product another source of a part, and fills what the part lacks.
func (s *Offers) takeInto(ctx context.Context, c deed.Call, in wire.SupplierTake, k taking, out *wire.SupplierTaken) error {
	h, _, err := s.parts.Newest(ctx, in.Into)
	if err != nil {
		return deed.Sentence(err, "part")
	}
	if len(k.Own) > 0 && k.Own[0] != h.Number && in.Separate == "" {
		return deed.Fault(deed.Clash, "there-already", fmt.Sprintf("%s has %s %s as a source already; nothing was changed.", k.Own[0], k.Manufacturer, k.MPN), "Merge the two parts, or say why it is a source of both.")
	}
	if in.Version == 0 {
		in.Version = h.Version
	}
	have, err := s.parts.Get(ctx, c, h.ID.String())
	if err != nil {
		return err
	}
	now := have.Newest()
	if k.Drawer != "" && now.Drawer != k.Drawer && in.Drawer != now.Drawer {
		return deed.Fault(deed.Invalid, "other-kind", fmt.Sprintf("%s is in the drawer %s, and %s answered with a product of %s.", h.Number, now.Drawer, in.Supplier, k.Label), "Take another part, or say with the drawer that it is meant.")
	}
	cab, _, err := s.cabinets.InForce(ctx)
	if err != nil {
		return err
	}
	t, ok := cab.Template(now.Drawer)
	if !ok {
		return deed.Fault(deed.Invalid, "no-drawer", fmt.Sprintf("There is no drawer %q.", now.Drawer), "")
	}
	edit := now.Edit()
	edit.Came, edit.KeepSeparate = map[string]string{}, in.Separate
	if k.Drawer == now.Drawer {
		s.beside(t, k, &edit, out)
	}
	at := slices.IndexFunc(edit.Sources, func(x part.Source) bool { return x.Key() == k.Source.Key() })
	if at < 0 {
		edit.Sources = append(slices.Clip(edit.Sources), k.Source)
		out.Added = append(out.Added, "source: "+k.Source.Manufacturer+" "+k.Source.MPN)
	} else {
		edit.Sources = slices.Clone(edit.Sources)
		src := &edit.Sources[at]
		for _, n := range k.Source.Numbers {
			if !slices.Contains(src.Numbers, n) {
				src.Numbers = append(slices.Clip(src.Numbers), n)
				out.Added = append(out.Added, "supplier number: "+n.Supplier+" "+n.Number)
			}
		}
	}
	if len(edit.Datasheets) == 0 && len(edit.Links) == 0 && part.IsLink(k.Datasheet) {
		edit.Links = []string{k.Datasheet}
		out.Added = append(out.Added, "datasheet: "+k.Datasheet)
	}
	if len(out.Added) == 0 {
		out.Part = have
		return nil
	}
	out.Part, err = s.parts.SaveFor(ctx, c, in, h.ID.String(), in.Version, edit)
	return err
}

// beside fills what a part lacks with what the product says, and says where the two disagree. What tells a part of its kind apart is noted on the
// source, so that the part's alternates are known to be unlike.
func (s *Offers) beside(t *cabinet.Template, k taking, edit *wire.PartEdit, out *wire.SupplierTaken) {
	for _, slot := range t.Slots {
		offered, have := k.Values[slot.Key], edit.Values[slot.Key]
		switch {
		case offered == "" || slot.ByHand:
		case have == "":
			edit.Values[slot.Key], edit.Came[slot.Key] = offered, k.came(slot.Key)
			out.Added = append(out.Added, slot.Label+": "+offered)
		default:
			read, problem := slot.Read(have, measure.Options{})
			if problem == nil && read.Meant() == k.Parsed[slot.Key].Meant() {
				continue
			}
			out.Differ = append(out.Differ, fmt.Sprintf("%s: %s here, %s there", slot.Label, have, offered))
			if slices.Contains(t.Identity, slot.Key) {
				if k.Source.Unlike == nil {
					k.Source.Unlike = map[string]string{}
				}
				k.Source.Unlike[slot.Key] = offered
			}
		}
	}
}

// keepOffersOf keeps what all suppliers that answered offer of a product that was taken over, and the answers that it came with.
func (s *Offers) keepOffersOf(ctx context.Context, k taking) error {
	var kept []store.Offer
	for _, a := range k.others {
		if a.reading == nil {
			continue
		}
		said := statements{}
		var of []connection.Product
		for i, p := range a.reading.Products {
			if a.reading.Source(i).Key() == k.Key {
				of = append(of, p)
			}
		}
		fits := written(k.MPN, of)
		for i := range a.reading.Products {
			if a.reading.Source(i).Key() == k.Key && fits(&a.reading.Products[i]) {
				if raw, _ := a.hash(i); raw != nil { // what the values came from stays, by its hash
					if _, _, err := blobs.Put(ctx, s.Store, bytes.NewReader(raw), s.files.Limits.Bytes); err != nil {
						return err
					}
				}
				if d := a.detail; d != nil && d.product == i {
					if _, _, err := blobs.Put(ctx, s.Store, bytes.NewReader(d.raw), s.files.Limits.Bytes); err != nil {
						return err
					}
				}
				for _, o := range a.reading.Products[i].Offers {
					said.add(a.head.ID, k.Key, a.reading.Products[i], o)
				}
			}
		}
		some, err := said.stored(*a.At)
		if err != nil {
			return err
		}
		kept = append(kept, some...)
	}
	if err := s.keep(ctx, kept, nil); err != nil {
		return err
	}
	s.levelNow(ctx)
	return nil
}
