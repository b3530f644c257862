package reform

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"fmt"
	"slices"

	"jollydrawer/core/cabinet"
	"jollydrawer/core/crosswalk"
	"jollydrawer/core/document"
	"jollydrawer/core/lookup"
	"jollydrawer/core/part"
	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/service/parts"
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
	steps    []cabinet.Step
	preview  wire.ChangePreview
	parts    []store.ID       // that change
	hurt     []string         // what would be lost or incomplete, part by part
	seen     map[store.ID]int // the version of every part that was looked at
}

// planChange works out what a change would do to every part. Nothing is written.
func (s *Reform) planChange(ctx context.Context, in wire.CabinetChange) (*plan, error) {
	cab, h, err := s.cabinets.InForce(ctx)
	if err != nil {
		return nil, err
	}
	wrong := func(err error) error {
		return deed.Fault(deed.Invalid, "cabinet-wrong", "Nothing was changed: "+err.Error()+".", "")
	}
	p := &plan{from: cab, head: h, steps: slices.Clone(in.Steps), seen: map[store.ID]int{}}
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
	err = s.planParts(ctx, p)
	if err != nil {
		return nil, err
	}
	if err := s.planCrosswalks(ctx, p); err != nil {
		return nil, err
	}
	_, undoable := cab.Document.Reverse(p.steps)
	p.preview.Undoable = undoable && p.preview.LossCount == 0 && len(p.steps) > 0
	_, hash, err := document.Canonical(p.to.Document)
	if err != nil {
		return nil, err
	}
	// Parts that are made or saved before the change is confirmed are carried over like the others. What has to be looked at
	// again is another cabinet, or something else that would be lost or incomplete.
	sum := sha256.New()
	fmt.Fprint(sum, h.Version, hash, p.hurt)
	p.preview.Digest = hex.EncodeToString(sum.Sum(nil)[:16])
	return p, nil
}

// planParts carries every part over, in thought, some hundred at a time.
func (s *Reform) planParts(ctx context.Context, p *plan) error {
	const some = 1000
	var after store.ID
	for {
		heads, err := s.Store.Read(ctx).HeadsAfter(store.KindPart, after, some)
		if err != nil {
			return err
		}
		if err := s.planLot(ctx, p, heads); err != nil {
			return err
		}
		if len(heads) < some {
			return nil
		}
		after = heads[len(heads)-1].ID
	}
}

// planLot works out what becomes of some parts, drafts and released contents, and adds it to the preview.
func (s *Reform) planLot(ctx context.Context, p *plan, heads []store.Head) error {
	contents, err := contentsOf(s.Store.Read(ctx), heads)
	if err != nil {
		return err
	}
	for _, h := range heads {
		if store.Gone(h.Standing) {
			continue
		}
		p.seen[h.ID] = h.Version
		changed, err := p.part(h, contents)
		if err != nil {
			return err
		}
		if changed {
			p.preview.Parts++
			p.parts = append(p.parts, h.ID)
		}
	}
	return nil
}

// contentsOf loads the drafts and the released contents of parts.
func contentsOf(r store.Reader, heads []store.Head) (map[store.ID]store.Content, error) {
	var wanted []store.ID
	for _, h := range heads {
		wanted = append(wanted, h.Released, h.Draft)
	}
	return r.Contents(slices.DeleteFunc(wanted, store.ID.IsZero))
}

// part works out what becomes of one part.
func (p *plan) part(h store.Head, contents map[store.ID]store.Content) (changed bool, err error) {
	newest := h.Released
	if !h.Draft.IsZero() {
		newest = h.Draft
	}
	for _, id := range []store.ID{h.Released, h.Draft} {
		if id.IsZero() {
			continue
		}
		var c part.Content
		if err := json.Unmarshal(contents[id].Bytes, &c); err != nil {
			return false, fmt.Errorf("the content of %s: %w", h.Number, err)
		}
		out, losses, same := part.Change(c, h.Number, p.steps, p.from, p.to)
		t, ok := p.to.Template(out.Drawer)
		if !ok || !t.Leaf {
			return false, deed.Fault(deed.Invalid, "drawer-in-use", fmt.Sprintf("Nothing was changed: %s lies in the drawer %q, which would not be a drawer for parts.", h.Number, out.Drawer), "Keep the drawer, or move its parts first.")
		}
		was, _ := p.from.Template(c.Drawer)
		incomplete := parts.Errors(out, t) > 0 && (was == nil || parts.Errors(c, was) == 0)
		if same && !incomplete {
			continue
		}
		if incomplete && id == newest {
			p.preview.Incomplete++
			p.hurt = append(p.hurt, h.ID.String()+" incomplete")
		}
		for _, l := range losses {
			p.hurt = append(p.hurt, fmt.Sprint(h.ID, l))
			if p.preview.LossCount++; len(p.preview.Losses) < maxLosses {
				p.preview.Losses = append(p.preview.Losses, wire.ChangeLoss{Number: h.Number, Loss: l})
			}
		}
		if same {
			continue
		}
		changed = true
		if id == h.Released && !incomplete {
			p.preview.Released++
		} else {
			p.preview.Drafts++
		}
		if len(p.preview.Samples) < 8 && id == newest {
			p.preview.Samples = append(p.preview.Samples, wire.PatternOf{Number: h.Number, Name: out.Name, Description: out.Description, Was: c.Description})
		}
	}
	return changed, nil
}

// planCrosswalks finds the crosswalks that name what the steps change.
func (s *Reform) planCrosswalks(ctx context.Context, p *plan) error {
	for offset := 0; ; offset += 100 {
		hs, _, err := s.Store.Read(ctx).Heads(store.KindCrosswalk, offset, 100)
		if err != nil || len(hs) == 0 {
			slices.Sort(p.preview.Crosswalks)
			return err
		}
		for _, h := range hs {
			cw, _, err := s.cabinets.CrosswalkOf(ctx, h.Number)
			if err != nil {
				return err
			}
			if _, changed := follow(cw, p.steps); changed {
				p.preview.Crosswalks = append(p.preview.Crosswalks, h.Number)
			}
		}
	}
}

// follow carries a crosswalk over the steps: renamed parameters keep their rules, retired ones lose them.
func follow(cw crosswalk.Crosswalk, steps []cabinet.Step) (crosswalk.Crosswalk, bool) {
	changed := false
	fields := slices.Clone(cw.Fields)
	for _, st := range steps {
		switch {
		case st.Do == cabinet.Rename && st.To != "" && st.To != st.Parameter:
			for i := range fields {
				if fields[i].To == st.Parameter {
					fields[i].To, changed = st.To, true
				}
			}
		case st.Do == cabinet.Retire && st.Drawer == "":
			before := len(fields)
			fields = slices.DeleteFunc(fields, func(r crosswalk.Rule) bool { return r.To == st.Parameter })
			changed = changed || len(fields) < before
		}
	}
	cw.Fields = fields
	return cw, changed
}

// stands says whether what was looked at is still so.
func (p *plan) stands(version int, in wire.CabinetChange) error {
	if p.head.Version != version || p.preview.Digest != in.Digest {
		return deed.Fault(deed.Clash, "preview-stale", "The cabinet or the parts changed since you looked; nothing was changed.", "Look at the preview again.")
	}
	return nil
}
