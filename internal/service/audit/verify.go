package audit

import (
	"context"
	"crypto/sha256"
	"errors"
	"fmt"
	"maps"
	"slices"
	"time"

	"jollydrawer/core/cabinet"
	"jollydrawer/core/lookup"
	"jollydrawer/core/part"
	"jollydrawer/internal/service/boms"
	"jollydrawer/internal/service/parts"
	"jollydrawer/internal/service/readout"
	"jollydrawer/internal/service/series"
	"jollydrawer/internal/store"
	"jollydrawer/internal/wire"
)

// step is how many heads are verified at a time, mostDifferent how many differences are named.
const (
	step          = 500
	mostDifferent = 1000
)

// verify goes through all heads, some hundred at a time. What is stored of each lot is read as it was at one moment, so that
// writes that go on meanwhile look like no difference.
func (s *Audit) verify(ctx context.Context, progress func(done int) error) (wire.Verification, error) {
	v := &verification{out: wire.Verification{Different: []string{}}}
	if err := s.states(ctx, v); err != nil {
		return v.out, err
	}
	var after store.ID
	for {
		var lot stored
		err := s.Store.Snapshot(ctx, func(r store.Reader) (err error) {
			lot, err = readStored(r, after)
			return err
		})
		if err != nil {
			return v.out, err
		}
		for _, h := range lot.heads {
			v.head(&lot, h)
			after = h.ID
		}
		for _, d := range lot.readout {
			v.differ("%s", d)
		}
		if err := s.compareIndex(ctx, v, &lot); err != nil {
			return v.out, err
		}
		if err := progress(v.out.Heads); err != nil {
			return v.out, err
		}
		if len(lot.heads) < step {
			return v.out, nil
		}
	}
}

// states compares what the readout says of states with what the lifecycles say.
func (s *Audit) states(ctx context.Context, v *verification) error {
	return s.Store.Snapshot(ctx, func(r store.Reader) error {
		rules, err := s.policy.Rules(r)
		if err != nil {
			return err
		}
		differ, err := readout.StatesDiffer(r, rules)
		if differ {
			v.differ("the readout says otherwise of states than the lifecycles in force")
		}
		return err
	})
}

// stored is what is stored of some heads, as it was at one moment.
type stored struct {
	heads     []store.Head
	chains    map[store.ID][]store.TrailEntry // oldest first
	revisions map[store.ID][]store.Revision   // newest first
	contents  map[store.ID]store.Content
	keys      map[store.ID][]store.Hash
	uses      map[store.ID][]store.Use
	members   map[store.ID][]store.Hash  // of series
	authors   [2]map[store.ID][]store.ID // of drafts: as the records say, and the trails
	numbers   map[store.ID][]string      // own ones
	readout   []string                   // what its tables say otherwise
	cab       *cabinet.Cabinet           // nil where there is none
}

func readStored(r store.Reader, after store.ID) (out stored, err error) {
	if out.heads, err = r.HeadsAfter("", after, step); err != nil {
		return out, err
	}
	ids := store.IDs(out.heads)
	if out.chains, err = r.Chains(ids); err != nil {
		return out, err
	}
	if out.revisions, err = r.RevisionsOf(ids); err != nil {
		return out, err
	}
	var wanted []store.ID
	for _, h := range out.heads {
		wanted = append(wanted, h.Draft, h.Released)
		for _, x := range out.revisions[h.ID] {
			wanted = append(wanted, x.Content)
		}
	}
	if out.contents, err = r.Contents(slices.DeleteFunc(wanted, store.ID.IsZero)); err != nil {
		return out, err
	}
	drafts := slices.DeleteFunc(slices.Clone(out.heads), func(h store.Head) bool { return h.Draft.IsZero() })
	if out.authors[0], err = r.Authors(drafts); err == nil && len(drafts) > 0 {
		out.authors[1], err = r.AuthorsByTrail(store.IDs(drafts))
	}
	if err != nil {
		return out, err
	}
	if out.keys, err = r.SourceKeysOf(ids); err != nil {
		return out, err
	}
	if out.uses, err = r.UsesBy(ids); err != nil {
		return out, err
	}
	if out.members, err = r.MembersOf(ids); err != nil {
		return out, err
	}
	if out.numbers, err = r.OwnNumbers(ids); err != nil {
		return out, err
	}
	h, err := r.HeadByNumber(store.KindCabinet, "cabinet")
	if err != nil {
		return out, nil // there is none yet
	}
	c, err := r.Content(h.Released)
	if err != nil {
		return out, err
	}
	if out.cab, err = cabinet.FromJSON(c.Bytes); err != nil {
		return out, err
	}
	out.readout, err = readout.Differences(r, out.cab, out.heads, out.contents)
	return out, err
}

// verification gathers what differs.
type verification struct{ out wire.Verification }

func (v *verification) differ(format string, args ...any) {
	if len(v.out.Different) < mostDifferent {
		v.out.Different = append(v.out.Different, fmt.Sprintf(format, args...))
	}
}

func (v *verification) head(lot *stored, h store.Head) {
	v.out.Heads++
	v.chain(lot.chains[h.ID], h)
	v.revisions(lot, h)
	v.writer(lot, h)
	switch {
	case h.Kind == store.KindBOM:
		v.bom(lot, h)
	case h.Kind == store.KindSeries:
		v.series(lot, h)
	case h.Kind == store.KindPart && !store.Gone(h.Standing):
		v.part(lot, h)
	}
}

// bom works out again which parts a BOM and its revisions use.
func (v *verification) bom(lot *stored, h store.Head) {
	want, err := boms.UsesOf(lot.contents[h.Draft], 0)
	for _, x := range lot.revisions[h.ID] {
		more, wrong := boms.UsesOf(lot.contents[x.Content], x.Number)
		want, err = append(want, more...), errors.Join(err, wrong)
	}
	if err != nil {
		v.differ("BOM %s: its content cannot be read", h.Number)
		return
	}
	v.uses(lot, h, want)
}

func (v *verification) chain(chain []store.TrailEntry, h store.Head) {
	var before store.Hash
	for i, e := range chain {
		v.out.Entries++
		if e.Seq != i+1 || e.HashBefore != before || e.Sum() != e.Hash {
			v.differ("%s %s: entry %d of the trail does not follow from the one before", h.Kind, h.Number, e.Seq)
		}
		before = e.Hash
	}
	if len(chain) != h.TrailSeq || before != h.TrailHash {
		v.differ("%s %s: the trail ends at entry %d, and the record says %d", h.Kind, h.Number, len(chain), h.TrailSeq)
	}
}

// writer compares who wrote the newest content, and who else did since the last release, with the trail.
func (v *verification) writer(lot *stored, h store.Head) {
	said, did := lot.authors[0][h.ID], lot.authors[1][h.ID]
	if !h.Draft.IsZero() && (len(said) != len(did) || slices.ContainsFunc(did, func(a store.ID) bool { return !slices.Contains(said, a) })) {
		v.differ("%s %s: the record says that others are its authors than the trail does", h.Kind, h.Number)
	}
	c, there := lot.contents[h.Newest()]
	if !there {
		return
	}
	for _, e := range lot.chains[h.ID] {
		if e.Deed == c.Deed {
			if e.Account != h.WrittenBy {
				v.differ("%s %s: the record says that somebody else wrote it than the trail does", h.Kind, h.Number)
			}
			return
		}
	}
}

func (v *verification) revisions(lot *stored, h store.Head) {
	rs := lot.revisions[h.ID]
	if len(rs) != h.Revision {
		v.differ("%s %s: it has %d revisions, and the record says %d", h.Kind, h.Number, len(rs), h.Revision)
	}
	if len(rs) > 0 && rs[0].Content != h.Released {
		v.differ("%s %s: what is in use is not its newest revision", h.Kind, h.Number)
	}
	v.sound(lot, h, "draft", h.Draft, store.Hash{})
	for i, r := range rs {
		if i+1 < len(rs) && r.HashBefore != rs[i+1].Hash {
			v.differ("%s %s: revision %d does not follow from revision %d", h.Kind, h.Number, r.Number, rs[i+1].Number)
		}
		v.sound(lot, h, fmt.Sprintf("revision %d", r.Number), r.Content, r.Hash)
	}
}

// sound checks that content is there and has the hash that was kept of it.
func (v *verification) sound(lot *stored, h store.Head, name string, id store.ID, kept store.Hash) {
	if id.IsZero() {
		return
	}
	c, ok := lot.contents[id]
	if !ok {
		v.differ("%s %s: its %s is missing", h.Kind, h.Number, name)
		return
	}
	v.out.Contents++
	if sha256.Sum256(c.Bytes) != c.Hash || !kept.IsZero() && c.Hash != kept {
		v.differ("%s %s: the bytes of its %s do not have the hash that was kept", h.Kind, h.Number, name)
	}
}

// part works out again what hangs on a part's contents.
func (v *verification) part(lot *stored, h store.Head) {
	if own := lot.numbers[h.ID]; len(own) != 1 || own[0] != h.Number {
		v.differ("part %s: its number does not find it", h.Number)
	}
	var want []store.Use
	for word, id := range map[string]store.ID{"draft": h.Draft, "released": h.Released} {
		c, ok := lot.contents[id]
		if !ok {
			continue // said already
		}
		p, _, err := parts.Decode(c)
		if err != nil {
			v.differ("part %s: its content cannot be read", h.Number)
			return
		}
		want = append(want, parts.UsesOf(p, word)...)
		if id == h.Newest() {
			v.keys(lot, h, p)
			v.places(lot.cab, h, p)
		}
	}
	v.uses(lot, h, want)
}

// places checks that each value has a place in the template: one that was written under a template which changed at the same
// moment has none.
func (v *verification) places(cab *cabinet.Cabinet, h store.Head, p part.Content) {
	if cab == nil {
		return
	}
	t, ok := cab.Template(p.Drawer)
	if !ok {
		v.differ("part %s: it lies in the drawer %q, which the cabinet lacks", h.Number, p.Drawer)
		return
	}
	for _, key := range slices.Sorted(maps.Keys(p.Values)) {
		if !t.Has(key) {
			v.differ("part %s: its value of %q has no place in the template of %s", h.Number, key, p.Drawer)
		}
	}
}

func (v *verification) uses(lot *stored, h store.Head, want []store.Use) {
	left := map[string]store.Use{}
	for _, u := range want {
		u.Parent = h.ID
		left[u.Place] = u
	}
	for _, u := range lot.uses[h.ID] {
		if w, ok := left[u.Place]; !ok || w != u {
			v.differ("%s %s: where-used names something as its %s that it does not use so", h.Kind, h.Number, u.Place)
		}
		delete(left, u.Place)
	}
	for _, place := range slices.Sorted(maps.Keys(left)) {
		v.differ("%s %s: where-used lacks its %s", h.Kind, h.Number, place)
	}
}

// series compares who is in a series with what its content says.
func (v *verification) series(lot *stored, h store.Head) {
	said, err := series.Decode(h, lot.contents[h.Draft])
	if err != nil {
		v.differ("series %s: its content cannot be read", h.Number)
		return
	}
	want := map[store.Hash]bool{}
	for _, k := range said.Keys() {
		want[store.SourceHash(k)] = true
	}
	for _, k := range lot.members[h.ID] {
		if !want[k] {
			v.differ("series %s: it holds a source that it does not name", h.Number)
		}
		delete(want, k)
	}
	if len(want) > 0 {
		v.differ("series %s: %d of its members are not found by it", h.Number, len(want))
	}
}

func (v *verification) keys(lot *stored, h store.Head, p part.Content) {
	want := map[store.Hash]bool{}
	for _, src := range p.Sources {
		want[store.SourceHash(src.Key())] = true
	}
	for _, k := range lot.keys[h.ID] {
		if !want[k] {
			v.differ("part %s: it holds the key of a source it does not have", h.Number)
		}
		delete(want, k)
	}
	if len(want) > 0 {
		v.differ("part %s: %d of its sources have no key", h.Number, len(want))
	}
}

// compareIndex compares what the lookup index tells of parts with what others see of them. The index follows what is stored:
// it is given its time.
func (s *Audit) compareIndex(ctx context.Context, v *verification, lot *stored) error {
	for _, h := range lot.heads {
		if h.Kind != store.KindPart {
			continue
		}
		e, err := s.followed(ctx, h)
		if err != nil {
			return err
		}
		switch {
		case e == nil:
			v.differ("part %s: the lookup index is behind", h.Number)
		case e.Version == h.Version && !entryEquals(e, lot, h):
			v.differ("part %s: the lookup index says otherwise than its content", h.Number)
		}
	}
	return nil
}

// followed returns the entry of a part once it is at least at the version that is stored; nil where it does not get there.
func (s *Audit) followed(ctx context.Context, h store.Head) (*lookup.Entry, error) {
	for end := s.Now().Add(s.patience); ; {
		if e, ok := s.index.ByID(h.ID.String()); ok && e.Version >= h.Version {
			return e, nil
		}
		if s.Now().After(end) {
			return nil, nil
		}
		select {
		case <-ctx.Done():
			return nil, ctx.Err()
		case <-time.After(20 * time.Millisecond):
		}
	}
}

func entryEquals(e *lookup.Entry, lot *stored, h store.Head) bool {
	seen := h.Released
	if seen.IsZero() {
		seen = h.Draft
	}
	c, ok := lot.contents[seen]
	if !ok {
		return true // said already
	}
	p, _, err := parts.Decode(c)
	if err != nil {
		return true
	}
	want := lookup.NewEntry(p)
	return e.Number == h.Number && e.Drawer == want.Drawer && e.Description == want.Description && e.Name == want.Name && len(e.Sources) == len(want.Sources) && maps.Equal(e.Values(), want.Values())
}
