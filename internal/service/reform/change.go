package reform

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"iter"
	"maps"
	"slices"
	"strings"
	"time"

	"jollydrawer/core/cabinet"
	"jollydrawer/core/document"
	"jollydrawer/core/part"
	"jollydrawer/core/quick"
	"jollydrawer/core/readout"
	"jollydrawer/internal/jobs"
	"jollydrawer/internal/service/cabinets"
	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/service/parts"
	"jollydrawer/internal/service/work"
	"jollydrawer/internal/store"
	"jollydrawer/internal/wire"
)

const jobChange = "cabinet-change"

// Preview says what a change of templates would do: how many parts, which become incomplete, which values would
// not carry over.
func (s *Reform) Preview(ctx context.Context, c deed.Call, in wire.CabinetChange) (wire.ChangePreview, error) {
	if err := deed.Allow(c, deed.OpCabinet); err != nil {
		return wire.ChangePreview{}, err
	}
	return s.preview(ctx, in, false)
}

// preview looks at parts one by one where each says so, and otherwise only where the answer is not known without.
func (s *Reform) preview(ctx context.Context, in wire.CabinetChange, each bool) (wire.ChangePreview, error) {
	p, err := s.planChange(ctx, in, each)
	if err != nil {
		return wire.ChangePreview{}, err
	}
	following, err := s.following(s.Store.Read(ctx), p.steps)
	p.preview.Also = cabinets.Told(following)
	return p.preview, err
}

type changePayload struct {
	Version int
	Request wire.CabinetChange
	At      time.Time
}

// Start starts a change of templates that was previewed; the answer is the job that does it.
func (s *Reform) Start(ctx context.Context, c deed.Call, version int, in wire.CabinetChange) (wire.Job, error) {
	_, h, err := s.cabinets.InForce(ctx)
	if err != nil {
		return wire.Job{}, err
	}
	return s.work.Start(ctx, c, work.Asked{Op: deed.OpCabinet, Kind: jobChange, Head: h.ID, About: jobChange, Prepare: func(at time.Time) (any, int64, error) {
		p, err := s.frameChange(ctx, in)
		if err != nil {
			return nil, 0, err
		}
		if err := p.stands(version, in.Digest); err != nil {
			return nil, 0, err
		}
		return changePayload{version, in, at}, int64(s.index.Len()), nil
	}})
}

// runChange is the job: it works the change out again and writes cabinet, crosswalks and parts as one deed.
func (s *Reform) runChange(ctx context.Context, j store.Job, progress jobs.Progress) error {
	var in changePayload
	if err := json.Unmarshal([]byte(j.Payload), &in); err != nil {
		return err
	}
	p, err := s.frameChange(ctx, in.Request)
	if err != nil {
		return err
	}
	if err := p.stands(in.Version, in.Request.Digest); err != nil {
		return err
	}
	d, err := s.NewDeed(deed.Call{Actor: deed.Actor{ID: j.Account}, Deed: j.Deed}, deed.OpCabinet, in)
	if err != nil {
		return err
	}
	d.At = in.At
	g, err := s.Store.Begin(ctx, d)
	if err != nil {
		return err
	}
	defer g.End(ctx)
	tables := readout.ChangeTo(p.to, p.steps)
	g.Under(tables)
	g.Step = s.work.Pace.Step
	g.Newest = true // what was written meanwhile is looked at again and again, and for the last time where no write of a part goes on
	c := &carrying{Reform: s, plan: p, tables: tables, staging: g, looked: in.Request.Digest, note: strings.TrimSpace(in.Request.Note), became: map[store.ID]became{}}
	if c.note == "" {
		c.note = describeSteps(p.steps)
	}
	total := int64(s.index.Len())
	if err := progress(0, total); err != nil {
		return err
	}
	if err := c.stage(ctx, s.allParts(ctx), func(done int) error { return progress(int64(done), max(int64(done), total)) }); err != nil {
		return err
	}
	return deed.Sentence(c.show(ctx, j), "cabinet")
}

// carrying is a change of templates on its way.
type carrying struct {
	*Reform
	plan    *plan
	tables  readout.Change // what it does to the tables of drawers
	staging *store.Staging
	looked  string // the digest of what a person looked at
	note    string
	became  map[store.ID]became // what the parts that are staged become
}

// became says what a part becomes: a new revision, a new draft, or both.
type became struct{ released, draft bool }

// mostRounds is how often parts that others wrote meanwhile are carried over anew before the change gives up.
const mostRounds = 30

// lateParts are parts that somebody wrote after they were staged or looked at.
type lateParts []store.ID

func (l lateParts) Error() string { return fmt.Sprintf("%d parts were written meanwhile", len(l)) }

// show makes the change visible. Others go on writing while parts are staged: what they wrote is carried over too, before the
// one write that no write of a part passes (see store.Tx.MoveCabinet).
func (c *carrying) show(ctx context.Context, j store.Job) error {
	for round := 0; ; round++ {
		r := c.Store.Read(ctx)
		mark, err := r.FeedEnd()
		if err != nil {
			return err
		}
		looked, err := r.FollowTables(c.tables)
		if err != nil {
			return err
		}
		versions, err := r.PartVersions()
		if err != nil {
			return err
		}
		if late := c.late(versions); len(late) > 0 {
			if err := c.again(ctx, late); err != nil {
				return err
			}
		}
		_, err = c.staging.Show(ctx, func(t *store.Tx) (any, error) { return c.write(t, j, mark, looked) })
		var late lateParts
		if (errors.As(err, &late) || errors.Is(err, store.ErrOvertaken)) && round < mostRounds {
			continue
		}
		return err
	}
}

// late lists the parts that are at another version than the one that was looked at.
func (c *carrying) late(versions map[store.ID]int) (out lateParts) {
	for id, v := range versions {
		if c.plan.seen[id] != v {
			out = append(out, id)
		}
	}
	for id := range c.became {
		if _, there := versions[id]; !there { // merged away or taken back meanwhile
			out = append(out, id)
		}
	}
	return out
}

// again carries parts over as they are now.
func (c *carrying) again(ctx context.Context, late lateParts) error {
	if err := c.staging.Drop(ctx, late); err != nil {
		return err
	}
	for _, id := range late {
		delete(c.became, id)
	}
	return c.stage(ctx, c.theseParts(ctx, late), func(int) error { return nil })
}

// write is the one write that makes the change visible, but for the parts, which the staging shows with it. Everybody who writes
// parts waits for its end: that takes as long as was written in the moment before, not as the library is large.
func (c *carrying) write(t *store.Tx, j store.Job, mark int64, looked store.FollowedTables) (any, error) {
	p := c.plan
	l := latest{carrying: c, t: t, mark: mark, settled: map[store.ID]int{}, became: map[store.ID]became{}, named: map[store.ID]bool{}, hurt: maps.Clone(p.hurt)}
	out := wire.Changed{Revision: p.head.Revision + 1}
	count(&out, c.became)
	raw, hash, err := document.Canonical(p.to.Document)
	if err != nil {
		return nil, err
	}
	to, err := cabinet.FromJSON(raw)
	if err != nil {
		return nil, err
	}
	reverse, ok := p.from.Document.Reverse(p.steps)
	if !ok || !p.undoable() {
		reverse = nil
	}
	h, err := t.HeadAt(store.KindCabinet, p.head.ID, p.head.Version)
	if err != nil {
		return nil, err
	}
	content := store.Content{ID: store.NewID(), Head: h.ID, Hash: store.Hash(hash), Format: cabinet.Format, Bytes: raw}
	c.cabinets.Keep(content.ID, to)
	if err := t.AddContent(&content); err != nil {
		return nil, err
	}
	if err := t.AddRevision(&h, content, c.note, ""); err != nil {
		return nil, err
	}
	if err := l.most(); err != nil {
		return nil, err
	}
	if err := l.names(); err != nil {
		return nil, err
	}
	if err := t.MoveCabinet(c.tables, looked); err != nil { // from here on no write of a part goes on
		return nil, err
	}
	if _, err := l.carry(); err != nil {
		return nil, err
	}
	if p.digest(l.hurt) != c.looked {
		return nil, stale()
	}
	count(&out, l.became)
	result, err := json.Marshal(out)
	if err != nil {
		return nil, err
	}
	if err := t.EndJob(j, string(result)); err != nil {
		return nil, err
	}
	if err := l.names(); err != nil { // those that others made meanwhile
		return nil, err
	}
	detail := map[string]any{"revision": h.Revision, "note": c.note, "parts": out.Parts, "steps": p.steps, "reverse": reverse}
	if raw, err := json.Marshal(detail); err != nil || len(raw) > 60_000 { // the trail's texts are bounded; the document itself is kept whole
		detail["steps"], detail["reverse"] = []cabinet.Step{}, []cabinet.Step{}
	}
	return out, t.Update(&h, "changed", detail)
}

// stage works parts out and carries them over; reading them, that, and writing go on beside each other, where nobody is held up by it.
func (c *carrying) stage(ctx context.Context, lots iter.Seq2[lot, error], progress func(done int) error) error {
	return c.staging.Add(ctx, func(yield func(store.Staged, error) bool) {
		for l, err := range store.Ahead(lots) {
			var all []store.Staged
			if err == nil {
				c.work.Pace.Step(func() { all, err = c.staged(l) })
			}
			for _, one := range all {
				if !yield(one, nil) {
					return
				}
			}
			if err != nil {
				yield(store.Staged{}, err)
				return
			}
		}
	}, progress)
}

// staged is what becomes of some parts, but for those that stay as they are.
func (c *carrying) staged(l lot) (out []store.Staged, err error) {
	for _, h := range l.heads {
		o, one, err := c.over(h, l.contents, c.became)
		if err != nil {
			return nil, err
		}
		c.plan.note(h, o)
		if len(one.Contents) > 0 {
			out = append(out, one)
		}
	}
	return out, nil
}

// over works one part out and carries it over, and notes what it became; it has no contents where it stays as it is.
func (c *carrying) over(h store.Head, contents map[store.ID]store.Content, all map[store.ID]became) (o outcome, out store.Staged, err error) {
	o, each, err := c.plan.part(h, contents)
	if err == nil {
		out, err = c.plan.carry(h, each, contents, c.note)
	}
	if err == nil && len(out.Contents) > 0 {
		all[h.ID] = became{released: out.Release != nil, draft: out.Head.Draft != h.Draft}
	}
	return o, out, err
}

// carry makes one part's carried-over contents: a released revision gets a new one where nothing keeps it from it,
// everything else waits in the draft.
func (p *plan) carry(h store.Head, all []worked, contents map[store.ID]store.Content, note string) (out store.Staged, err error) {
	template := p.head.Revision + 1
	draft := h.Draft
	detail := map[string]any{"cabinet": template, "note": note}
	for _, w := range all {
		if w.same {
			continue
		}
		from, now := w.from, w.now
		ready := from != draft && w.errors == 0
		if from != draft && !ready && !draft.IsZero() {
			continue // its draft, which is carried over next, is newer anyway
		}
		o, err := origins(contents[from].Origins)
		if err != nil {
			return out, fmt.Errorf("the content of %s: %w", h.Number, err)
		}
		made, err := parts.CarriedContent(h.ID, now, written(carried(o, w.was, now, p.steps)), template)
		if err != nil {
			return out, err
		}
		out.Contents = append(out.Contents, made)
		h.Drawer = now.Drawer
		if !ready {
			if h.Draft.IsZero() {
				out.Uses = parts.UsesOf(now, "draft")
			}
			h.Draft = made.ID
			continue
		}
		h.Label = p.rules.NextLabel(h, true)
		h.Revision++
		h.Released = made.ID
		out.Release, out.Part = &store.Release{Hash: made.Hash, HashBefore: contents[from].Hash, Note: note}, &now
		detail["revision"] = h.Revision
	}
	out.Head, out.Action, out.Detail = h, "template changed", detail
	return out, nil
}

// origins takes apart where values came from, each as it is written: a library has more of that than of values.
func origins(raw []byte) (map[string]json.RawMessage, error) {
	out := map[string]json.RawMessage{}
	if quick.Members(raw, func(key, value []byte) bool {
		out[string(key)] = value
		return true
	}) {
		return out, nil
	}
	out = nil
	return out, json.Unmarshal(raw, &out)
}

// written puts together what origins took apart.
func written(o map[string]json.RawMessage) json.RawMessage {
	out := []byte{'{'}
	for i, key := range slices.Sorted(maps.Keys(o)) {
		if i > 0 {
			out = append(out, ',')
		}
		out = append(append(quick.AppendText(out, key), ':'), o[key]...)
	}
	return append(out, '}')
}

// carried keeps where the values came from, under the names they have now.
func carried(o map[string]json.RawMessage, was, now part.Content, steps []cabinet.Step) map[string]json.RawMessage {
	out := map[string]json.RawMessage{}
	for key := range now.Values {
		from := key
		for _, st := range slices.Backward(steps) {
			if st.Do == cabinet.Rename && st.To == from && st.To != "" {
				from = st.Parameter
			}
		}
		if _, had := was.Values[from]; !had {
			for _, st := range steps {
				for _, into := range st.Into {
					if into.Parameter == key {
						from = st.Parameter
					}
				}
			}
		}
		if origin, ok := o["values."+from]; ok {
			out["values."+key] = origin
		}
	}
	for key, origin := range o {
		if !strings.HasPrefix(key, "values.") {
			out[key] = origin
		}
	}
	return out
}

// describeSteps says in words what steps do.
func describeSteps(steps []cabinet.Step) string {
	var out []string
	for _, s := range steps {
		switch s.Do {
		case cabinet.Rename:
			out = append(out, "renamed "+s.Parameter+" to "+strings.TrimSpace(s.To+" "+s.Label))
		case cabinet.Retype:
			out = append(out, "made "+s.Parameter+" a "+strings.TrimSpace(string(s.Type)+" "+s.Of))
		case cabinet.Unit:
			out = append(out, "showed "+s.Parameter+" in "+s.Show)
		case cabinet.Split:
			out = append(out, "split "+s.Parameter)
		case cabinet.Retire:
			out = append(out, "retired "+s.Parameter)
		case cabinet.Move:
			out = append(out, fmt.Sprintf("moved %d parts to %s", len(s.Parts), s.To))
		case cabinet.Redescribe:
			out = append(out, "built the descriptions of "+s.Drawer+" anew")
		}
	}
	if len(out) == 0 {
		return "changed the cabinet"
	}
	return strings.Join(out, ", ")
}

// changeDetail is what the trail of the cabinet says of a change; what is not a change of templates says less.
type changeDetail struct {
	Revision int            `json:"revision"`
	Note     string         `json:"note"`
	Parts    int            `json:"parts"`
	Steps    []cabinet.Step `json:"steps"`
	Reverse  []cabinet.Step `json:"reverse"`
}

func detailOf(e store.TrailEntry) (d changeDetail, err error) {
	if err = json.Unmarshal([]byte(e.Detail), &d); err != nil {
		err = fmt.Errorf("the trail of the cabinet: %w", err)
	}
	return d, err
}

// History lists what was changed in the cabinet, newest first, with the steps that take each change back.
func (s *Reform) History(ctx context.Context, c deed.Call, offset, limit int) (wire.CabinetHistory, error) {
	out := wire.CabinetHistory{Items: []wire.CabinetRevision{}}
	if err := deed.Allow(c, deed.OpRead); err != nil {
		return out, err
	}
	_, h, err := s.cabinets.InForce(ctx)
	if err != nil {
		return out, err
	}
	offset, limit = deed.Page(offset, limit)
	entries, err := s.Store.Read(ctx).Trail(h.ID, offset, limit)
	for i, e := range entries {
		d, err := detailOf(e)
		if err != nil {
			return out, err
		}
		r := wire.CabinetRevision{Revision: d.Revision, At: e.At, By: s.Person(ctx, e.Account), Note: d.Note, Parts: d.Parts, Steps: append([]cabinet.Step{}, d.Steps...), Reverse: []cabinet.Step{}}
		if i == 0 && offset == 0 { // a later change may stand on an earlier one
			r.Reverse = append(r.Reverse, d.Reverse...)
		}
		if r.Note == "" {
			r.Note = e.Action
		}
		out.Items = append(out.Items, r)
	}
	return out, err
}
