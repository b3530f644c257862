package notices

import (
	"cmp"
	"context"
	"encoding/json"
	"maps"
	"slices"
	"time"

	"jollydrawer/core/lookup"
	"jollydrawer/core/notice"
	"jollydrawer/core/trail"
	"jollydrawer/internal/store"
)

// alike are things of a deed that are of one kind and drawer, and were treated alike.
type alike struct{ kind, drawer, action string }

// concern is what of a deed concerns a person.
type concern struct {
	why    string
	all    map[alike]bool // of which every one does
	things map[store.ID]bool
}

// has says whether a thing concerns the person.
func (c *concern) has(l store.Deedly) bool {
	return c.things[l.Head] || c.all[alike{l.Kind, l.Drawer, l.Action}]
}

// audience are the people whom a deed concerns.
type audience struct {
	*telling
	actor store.ID
	at    time.Time // of the deed
	lines []store.Deedly
	by    map[store.ID]*concern
	total map[alike]int
}

func (a *audience) of(person store.ID, why string) *concern {
	c := a.by[person]
	if c == nil {
		c = &concern{why: why, all: map[alike]bool{}, things: map[store.ID]bool{}}
		a.by[person] = c
	}
	return c
}

// people lists who is told: not who did it, nor who is gone.
func (a *audience) people() (out []store.ID) {
	for p := range a.by {
		if p != a.actor && a.telling.people[p] {
			out = append(out, p)
		}
	}
	slices.SortFunc(out, func(x, y store.ID) int { return cmp.Compare(x.String(), y.String()) })
	return out
}

// broadly finds who watches, or answers for, the drawers and kinds of what was done.
func (a *audience) broadly(done []store.Done) {
	a.total = map[alike]int{}
	for _, d := range done {
		key := alike{d.Kind, d.Drawer, d.Action}
		a.total[key] += d.N
		if !notice.Loud(d.Kind, d.Action) {
			continue
		}
		sort, places := ofDrawer, a.drawers[d.Drawer]
		if d.Kind == store.KindModel {
			sort, places = ofKind, []string{d.Drawer}
		}
		for _, p := range places {
			for _, w := range a.broad[sort][p] {
				if a.hears(w) {
					a.of(w.Account, "You watch "+a.label(p)+".").all[key] = true
				}
			}
			for _, person := range a.groups[sort][p] {
				a.of(person, "Your group answers for "+a.label(p)+".").all[key] = true
			}
		}
	}
}

// hears says whether a watch was there when the deed was done: it is told of what comes, not of what was.
func (a *audience) hears(w store.Watch) bool { return !w.Made.After(a.at) }

func (a *audience) label(place string) string {
	if l := a.labels[place]; l != "" {
		return l
	}
	return place
}

// singly finds who watches single things, wrote what was moved, or wants what was settled.
func (a *audience) singly(of store.ID) error {
	watching, err := a.r.WatchersOf(of, a.at, mostOfOne)
	if err != nil {
		return err
	}
	wanting, err := a.r.WantersOf(of)
	if err != nil {
		return err
	}
	for _, w := range wanting {
		a.of(w.Account, "You want it.").things[w.Head] = true
	}
	for _, w := range watching {
		a.of(w.Account, "You watch it.").things[w.Head] = true
	}
	talking, err := a.r.CommentersOf(of)
	if err != nil {
		return err
	}
	for _, w := range talking {
		a.of(w.Account, "You commented on it.").things[w.Head] = true
	}
	written, err := a.r.AuthorsMoved(of, mostOfOne)
	if err != nil {
		return err
	}
	for _, w := range written {
		a.of(w.Account, "You wrote it.").things[w.Head] = true
	}
	return nil
}

// questions finds who watches a question that finds what was done.
func (a *audience) questions(ctx context.Context) error {
	loud := map[string]store.ID{}
	for _, l := range a.lines {
		if l.Kind == store.KindPart && notice.Loud(l.Kind, l.Action) {
			loud[l.Head.String()] = l.Head
		}
	}
	if len(loud) == 0 {
		return nil
	}
	for _, w := range a.telling.questions {
		if ctx.Err() != nil {
			return ctx.Err()
		}
		if !a.hears(w) {
			continue
		}
		found, ok := a.asked[w.About]
		if !ok {
			found = map[string]bool{}
			for _, id := range a.Index.IDs(lookup.Query{Text: w.About}, a.Index.Len()) {
				found[id] = true
			}
			a.asked[w.About] = found
		}
		for text, id := range loud {
			if found[text] {
				a.of(w.Account, "You watch the question “"+w.About+"”.").things[id] = true
			}
		}
	}
	return nil
}

// mostHolders is how many holders of a withdrawn revision are told of it one by one.
const mostHolders = 500

// holders finds who wrote or watches what holds on to a revision that was moved, such as withdrawn, and from whom a thing was taken over.
func (a *audience) holders() error {
	for _, l := range a.lines {
		var detail struct {
			Revision    int      `json:"revision"`
			FromAccount store.ID `json:"fromAccount"`
		}
		if l.Action != "moved" && l.Action != "held" || json.Unmarshal([]byte(l.Detail), &detail) != nil {
			continue
		}
		if !detail.FromAccount.IsZero() {
			a.of(detail.FromAccount, "You held it.").things[l.Head] = true
		}
		if detail.Revision == 0 {
			continue
		}
		holders, err := a.r.HoldersOf(l.Head, detail.Revision, mostHolders)
		if err != nil {
			return err
		}
		ids, names := []store.ID{}, map[store.ID]string{}
		for _, h := range holders {
			ids = append(ids, h.ID)
			names[h.ID] = h.Number
			if h.Kind == store.KindPart {
				for _, p := range a.drawers[h.Drawer] {
					for _, person := range a.groups[ofDrawer][p] {
						a.of(person, h.Number+" uses it, and your group answers for that.").things[l.Head] = true
					}
				}
			}
		}
		concerned, err := a.r.WritersOf(ids)
		if err != nil {
			return err
		}
		for _, w := range concerned {
			a.of(w.Account, names[w.Head]+" uses it.").things[l.Head] = true
		}
	}
	return nil
}

// ofBoards is what of a part concerns whoever has it on a board.
var ofBoards = []string{"released", "moved", "standing changed", "successor named", "taken back", "offers changed"}

// ofTaken is what of a board concerns whoever has it on another.
var ofTaken = []string{"frozen", "moved"}

// boards finds who wrote or watches boards that take a part, or another board, which became otherwise.
func (a *audience) boards(ctx context.Context) error {
	var parts []store.ID
	for _, l := range a.lines {
		if l.Kind == store.KindPart && slices.Contains(ofBoards, l.Action) || l.Kind == store.KindBOM && slices.Contains(ofTaken, l.Action) {
			parts = append(parts, l.Head)
		}
	}
	if len(parts) == 0 || a.BoardsWith == nil {
		return nil
	}
	on, err := a.BoardsWith(ctx, parts)
	if err != nil {
		return err
	}
	names := map[store.ID]string{}
	takes := map[store.ID][]store.ID{} // board → parts
	for part, boards := range on {
		for _, b := range boards {
			names[b.ID], takes[b.ID] = b.Number, append(takes[b.ID], part)
		}
	}
	concerned, err := a.r.WritersOf(slices.Collect(maps.Keys(names)))
	if err != nil {
		return err
	}
	for _, w := range concerned {
		for _, part := range takes[w.Head] {
			a.of(w.Account, "It is on "+names[w.Head]+".").things[part] = true
		}
	}
	return nil
}

// acts are what a person hears, in the words of the deed, what most was done to first.
func (a *audience) acts(c *concern) []trail.Act {
	type key struct{ kind, action string }
	by := map[key]*trail.Act{}
	where := map[key]map[string]bool{}
	put := func(kind, drawer, action string, n int) *trail.Act {
		k := key{kind, action}
		if by[k] == nil {
			by[k], where[k] = &trail.Act{Kind: kind, Action: action}, map[string]bool{}
		}
		by[k].Count += n
		where[k][drawer] = true
		return by[k]
	}
	for _, l := range a.lines {
		if !c.has(l) {
			continue
		}
		act := put(l.Kind, l.Drawer, l.Action, 1)
		var detail map[string]any
		_ = json.Unmarshal([]byte(l.Detail), &detail) // what is none says nothing
		if act.Count == 1 {
			act.Name, act.Detail = l.Number, detail
			continue
		}
		for k, v := range act.Detail { // of several, what is said of all
			if s, ok := v.(string); !ok || detail[k] != s {
				delete(act.Detail, k)
			}
		}
	}
	if len(a.lines) == mostOfOne { // more were done than are listed: those of which all concern the person are counted as a whole
		listed := map[alike]int{}
		for _, l := range a.lines {
			listed[alike{l.Kind, l.Drawer, l.Action}]++
		}
		for whole := range c.all {
			if n := a.total[whole] - listed[whole]; n > 0 {
				put(whole.kind, whole.drawer, whole.action, n)
			}
		}
	}
	var out []trail.Act
	for k, act := range by {
		if len(where[k]) == 1 {
			for d := range where[k] {
				act.Where = cmp.Or(a.labels[d], d)
			}
		}
		out = append(out, *act)
	}
	slices.SortFunc(out, func(x, y trail.Act) int {
		return cmp.Or(loudness(y)-loudness(x), cmp.Compare(y.Count, x.Count), cmp.Compare(x.Kind+x.Action, y.Kind+y.Action))
	})
	return out
}

func loudness(a trail.Act) int {
	if notice.Loud(a.Kind, a.Action) || a.Kind == store.KindWant {
		return 1
	}
	return 0
}
