package reform

import (
	"bytes"
	"context"
	"crypto/sha256"
	"encoding/hex"
	"fmt"
	"iter"
	"maps"
	"slices"
	"strings"

	"jollydrawer/core/cabinet"
	"jollydrawer/core/crosswalk"
	"jollydrawer/core/document"
	"jollydrawer/core/lookup"
	"jollydrawer/core/part"
	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/service/parts"
	"jollydrawer/internal/service/policy"
	"jollydrawer/internal/store"
	"jollydrawer/internal/wire"
)

// maxNamed is how many parts a move names, so that its reverse knows which came from where. What moves more is not
// taken back by a reverse.
const maxNamed = 4_000

// maxLosses is how many of the values that would not carry over a preview lists.
const maxLosses = 200

// plan is a change of templates worked out.
type plan struct {
	from, to *cabinet.Cabinet
	head     store.Head
	rules    policy.Rules
	steps    []cabinet.Step
	preview  wire.ChangePreview
	reverses bool                  // the steps can be taken back, as far as the templates are concerned
	frame    string                // hash of the cabinet that it starts from, and of the one that it leads to
	hurt     map[store.ID][]string // what would be lost or incomplete, by part
	seen     map[store.ID]int      // the version of every part that was looked at
	mapped   map[string]int        // that of every crosswalk that stays as it is
}

// planChange works out what a change would do to every part; one by one where the answer is not known without, or where each says
// so. Nothing is written.
func (s *Reform) planChange(ctx context.Context, in wire.CabinetChange, each bool) (*plan, error) {
	p, err := s.frameChange(ctx, in)
	if err != nil {
		return nil, err
	}
	lots := s.allParts(ctx)
	if keys, ok := part.Renamed(p.steps, p.from); ok && in.Text == "" && !each {
		lots = s.renamed(ctx, p, keys)
	}
	if err := p.look(lots); err != nil {
		return nil, err
	}
	p.preview.Undoable = p.undoable()
	p.preview.Digest = p.digest(p.hurt)
	return p, nil
}

// look works out what becomes of some parts.
func (p *plan) look(lots iter.Seq2[lot, error]) error {
	for l, err := range store.Ahead(lots) {
		if err != nil {
			return err
		}
		for _, h := range l.heads {
			o, _, err := p.part(h, l.contents)
			if err != nil {
				return err
			}
			p.note(h, o)
		}
	}
	return nil
}

// samples is how many parts a preview shows as they would be.
const samples = 8

// renamed notes what becomes of the parts where nothing but keys change, as the lookup index knows it, and gives those to be
// looked at one by one: released parts with a draft beside, whose values the index does not hold.
func (s *Reform) renamed(ctx context.Context, p *plan, keys []string) iter.Seq2[lot, error] {
	h := s.index.Holding(keys, samples)
	p.preview.Parts, p.preview.Released, p.preview.Drafts = h.Released+h.Drafts, h.Released, h.Drafts
	for _, e := range h.Some {
		p.preview.Samples = append(p.preview.Samples, wire.PatternOf{Number: e.Number, Name: e.Name, Description: e.Description, Was: e.Description})
	}
	edited := make([]store.ID, 0, len(h.Edited))
	for _, text := range h.Edited {
		if id, err := deed.ParseID(text); err == nil {
			edited = append(edited, id)
		}
	}
	return s.theseParts(ctx, edited)
}

// undoable says whether the change can be taken back.
func (p *plan) undoable() bool { return p.reverses && p.preview.LossCount == 0 && len(p.steps) > 0 }

// digest stands for what a person looks at before a change: the cabinets, and what would be lost or incomplete. Parts that are
// made or saved before the change is confirmed are carried over like the others.
func (p *plan) digest(hurt map[store.ID][]string) string {
	sum := sha256.New()
	for _, id := range slices.SortedFunc(maps.Keys(hurt), func(a, b store.ID) int { return bytes.Compare(a[:], b[:]) }) {
		fmt.Fprint(sum, id, hurt[id])
	}
	return p.frame + hex.EncodeToString(sum.Sum(nil)[:8])
}

// frameChange works out what a change does to the templates, and asks no part.
func (s *Reform) frameChange(ctx context.Context, in wire.CabinetChange) (*plan, error) {
	cab, h, err := s.cabinets.InForce(ctx)
	if err != nil {
		return nil, err
	}
	wrong := func(err error) error {
		return deed.Fault(deed.Invalid, "cabinet-wrong", "Nothing was changed: "+err.Error()+".", "")
	}
	p := &plan{from: cab, head: h, steps: slices.Clone(in.Steps), seen: map[store.ID]int{}, mapped: map[string]int{}, hurt: map[store.ID][]string{}}
	for i, st := range p.steps { // the numbers are named, so that the reverse knows which parts came from where
		if st.Do == cabinet.Move && len(st.Parts) == 0 {
			s.index.Each("", func(e *lookup.Entry) bool {
				if t, ok := cab.Template(e.Drawer); ok && t.Inside(st.Drawer) && e.Drawer != st.To {
					p.steps[i].Parts = append(p.steps[i].Parts, e.Number)
				}
				return len(p.steps[i].Parts) <= maxNamed
			})
			if len(p.steps[i].Parts) > maxNamed {
				p.steps[i].Parts = nil
			}
		}
	}
	doc, err := cab.Document.Apply(p.steps)
	if err != nil {
		return nil, wrong(err)
	}
	if in.Text != "" {
		asked, err := cabinet.Parse([]byte(in.Text))
		if err != nil {
			return nil, wrong(err)
		}
		p.to = asked
	} else if p.to, err = cabinet.New(doc); err != nil {
		return nil, wrong(err)
	}
	for i, st := range p.steps {
		if t, ok := p.to.Template(st.To); st.Do == cabinet.Move && (!ok || !t.Leaf) {
			return nil, wrong(fmt.Errorf("step %d: the drawer %q holds other drawers, not parts", i+1, st.To))
		}
	}
	p.preview = wire.ChangePreview{Losses: []wire.ChangeLoss{}, Samples: []wire.PatternOf{}, Crosswalks: []string{}, Version: h.Version}
	if err := s.planCrosswalks(ctx, p); err != nil {
		return nil, err
	}
	if p.rules, err = s.policy.Rules(s.Store.Read(ctx)); err != nil {
		return nil, err
	}
	if err := p.rules.Missing(p.to); err != nil {
		return nil, wrong(err)
	}
	_, p.reverses = cab.Document.Reverse(p.steps)
	_, hash, err := document.Canonical(p.to.Document)
	if err != nil {
		return nil, err
	}
	sum := sha256.Sum256(fmt.Append(nil, h.Version, hash))
	p.frame = hex.EncodeToString(sum[:8])
	return p, nil
}

// lot is some parts with their drafts and released contents.
type lot struct {
	heads    []store.Head
	contents map[store.ID]store.Content
}

// allParts reads all parts that are not gone, some hundred at a time.
func (s *Reform) allParts(ctx context.Context) iter.Seq2[lot, error] {
	const some = 1000
	return func(yield func(lot, error) bool) {
		var after store.ID
		for {
			var heads []store.Head
			var l lot
			var err error
			var last bool
			s.work.Pace.Step(func() {
				if heads, err = s.Store.Read(ctx).HeadsAfter(store.KindPart, after, some); err != nil {
					return
				}
				if last = len(heads) < some; !last {
					after = heads[len(heads)-1].ID
				}
				l, err = s.lotOf(s.Store.Read(ctx), heads)
			})
			if !yield(l, err) || err != nil || last {
				return
			}
		}
	}
}

// theseParts reads some parts as they are now.
func (s *Reform) theseParts(ctx context.Context, ids []store.ID) iter.Seq2[lot, error] {
	return func(yield func(lot, error) bool) {
		for some := range slices.Chunk(ids, 500) {
			heads, err := s.Store.Read(ctx).HeadsByID(some)
			var l lot
			if err == nil {
				l, err = s.lotOf(s.Store.Read(ctx), heads)
			}
			if !yield(l, err) || err != nil {
				return
			}
		}
	}
}

// lotOf loads the contents of those parts that are not gone.
func (s *Reform) lotOf(r store.Reader, heads []store.Head) (l lot, err error) {
	l.heads = slices.DeleteFunc(heads, func(h store.Head) bool { return store.Gone(h.Standing) })
	l.contents, err = contentsOf(r, l.heads)
	return l, err
}

// contentsOf loads the drafts and the released contents of parts.
func contentsOf(r store.Reader, heads []store.Head) (map[store.ID]store.Content, error) {
	var wanted []store.ID
	for _, h := range heads {
		wanted = append(wanted, h.Released, h.Draft)
	}
	return r.Contents(slices.DeleteFunc(wanted, store.ID.IsZero))
}

// worked is what becomes of one content of a part.
type worked struct {
	from   store.ID
	now    part.Content
	was    part.Content
	same   bool
	errors int // that keep it from release
}

// outcome is what a change does to one part, as far as a person is shown.
type outcome struct {
	changed                      bool
	released, drafts, incomplete int
	losses                       []part.Loss
	hurt                         []string
	sample                       *wire.PatternOf
}

// part works out what becomes of one part.
func (p *plan) part(h store.Head, contents map[store.ID]store.Content) (o outcome, all []worked, err error) {
	newest := h.Released
	if !h.Draft.IsZero() {
		newest = h.Draft
	}
	for _, id := range []store.ID{h.Released, h.Draft} {
		if id.IsZero() {
			continue
		}
		w := worked{from: id}
		if w.was, err = parts.DecodeContent(contents[id]); err != nil {
			return o, nil, fmt.Errorf("the content of %s: %w", h.Number, err)
		}
		var losses []part.Loss
		w.now, losses, w.same = part.Change(w.was, h.Number, p.steps, p.from, p.to)
		t, ok := p.to.Template(w.now.Drawer)
		if !ok || !t.Leaf {
			return o, nil, deed.Fault(deed.Invalid, "drawer-in-use", fmt.Sprintf("Nothing was changed: %s lies in the drawer %q, which would not be a drawer for parts.", h.Number, w.now.Drawer), "Keep the drawer, or move its parts first.")
		}
		w.errors = parts.Errors(w.now, t)
		all = append(all, w)
		was, _ := p.from.Template(w.was.Drawer)
		incomplete := w.errors > 0 && (was == nil || parts.Errors(w.was, was) == 0)
		if w.same && !incomplete {
			continue
		}
		if incomplete && id == newest {
			o.incomplete++
			o.hurt = append(o.hurt, "incomplete")
		}
		for _, l := range losses {
			o.hurt = append(o.hurt, fmt.Sprint(l))
		}
		o.losses = append(o.losses, losses...)
		if w.same {
			continue
		}
		o.changed = true
		if id == h.Released && !incomplete {
			o.released++
		} else {
			o.drafts++
		}
		if id == newest {
			o.sample = &wire.PatternOf{Number: h.Number, Name: w.now.Name, Description: w.now.Description, Was: w.was.Description}
		}
	}
	return o, all, nil
}

// note adds what becomes of a part to what the change does as a whole.
func (p *plan) note(h store.Head, o outcome) {
	p.seen[h.ID] = h.Version
	delete(p.hurt, h.ID)
	if len(o.hurt) > 0 {
		p.hurt[h.ID] = o.hurt
	}
	v := &p.preview
	if o.changed {
		v.Parts++
	}
	v.Released, v.Drafts, v.Incomplete, v.LossCount = v.Released+o.released, v.Drafts+o.drafts, v.Incomplete+o.incomplete, v.LossCount+len(o.losses)
	for _, l := range o.losses {
		if len(v.Losses) < maxLosses {
			v.Losses = append(v.Losses, wire.ChangeLoss{Number: h.Number, Loss: l})
		}
	}
	if o.sample != nil && len(v.Samples) < samples {
		v.Samples = append(v.Samples, *o.sample)
	}
}

// planCrosswalks finds the crosswalks that name what the steps change.
func (s *Reform) planCrosswalks(ctx context.Context, p *plan) error {
	for h, err := range crosswalks(s.Store.Read(ctx)) {
		if err != nil {
			return err
		}
		cw, _, err := s.cabinets.CrosswalkOf(ctx, h.Number)
		if err != nil {
			return err
		}
		if _, changed := follow(cw, p.steps); changed {
			p.preview.Crosswalks = append(p.preview.Crosswalks, h.Number)
		} else {
			p.mapped[h.Number] = h.Version
		}
	}
	slices.Sort(p.preview.Crosswalks)
	return nil
}

// crosswalks walks over all, a page at a time.
func crosswalks(r store.Reader) iter.Seq2[store.Head, error] {
	return func(yield func(store.Head, error) bool) {
		const page = 100
		for offset := 0; ; offset += page {
			heads, _, err := r.Heads(store.KindCrosswalk, offset, page)
			if err != nil {
				yield(store.Head{}, err)
				return
			}
			for _, h := range heads {
				if !yield(h, nil) {
					return
				}
			}
			if len(heads) < page {
				return
			}
		}
	}
}

// follow carries a crosswalk over the steps: renamed parameters keep their rules, retired ones lose them.
func follow(cw crosswalk.Crosswalk, steps []cabinet.Step) (crosswalk.Crosswalk, bool) {
	changed := false
	fields := make([]crosswalk.Rule, 0, len(cw.Fields))
	for _, f := range cw.Fields {
		now, gone := cabinet.Followed(f.To, steps)
		changed = changed || gone || now != f.To
		if f.To = now; !gone {
			fields = append(fields, f)
		}
	}
	cw.Fields = fields
	return cw, changed
}

// stands says whether the templates are still those that were looked at; what becomes of the parts is known when all of them are
// carried over.
func (p *plan) stands(version int, digest string) error {
	if p.head.Version != version || !strings.HasPrefix(digest, p.frame) {
		return stale()
	}
	return nil
}

// stale refuses what was looked at when it is no longer so.
func stale() error {
	return deed.Fault(deed.Clash, "preview-stale", "The cabinet or the parts changed since you looked; nothing was changed.", "Look at the preview again.")
}
