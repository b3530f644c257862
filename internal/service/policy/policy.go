// Package policy says what the state of a thing permits, for all use cases alike: which lifecycles are in force, in which state a
// thing is by them, whether its content may change, and who may move it.
package policy

import (
	"fmt"
	"slices"
	"strings"
	"sync"

	"jollydrawer/core/cabinet"
	"jollydrawer/core/lifecycle"
	"jollydrawer/internal/service/cabinets"
	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/store"
)

// Policy gives the lifecycles in force. Its methods may be called from several goroutines.
type Policy struct {
	*deed.Desk
	cabinets *cabinets.Cabinets
	read     sync.Map // content ID → *lifecycle.Lifecycle, of which there are a few
}

// New returns the policy of an installation.
func New(d *deed.Desk, c *cabinets.Cabinets) *Policy { return &Policy{Desk: d, cabinets: c} }

// Ruled is a lifecycle in force. Revision is that of its document; 0 is the one that ships.
type Ruled struct {
	*lifecycle.Lifecycle
	Revision int
}

// Rules are the lifecycles in force and the drawers that name them, as of one read.
type Rules struct {
	cabinet  *cabinet.Cabinet // nil before there is one
	revision int              // of the cabinet
	by       map[string]Ruled
	holds    map[store.ID]store.Hold // of things that somebody holds now
}

// Cabinet is the cabinet whose drawers name these lifecycles, with its revision; nil before there is one.
func (r Rules) Cabinet() (*cabinet.Cabinet, int) { return r.cabinet, r.revision }

// shipped are the lifecycles of a house that wrote none of its own.
var shipped = sync.OnceValue(func() map[string]*lifecycle.Lifecycle {
	out := map[string]*lifecycle.Lifecycle{}
	for _, name := range lifecycle.Kinds {
		text, _ := lifecycle.Shipped(name)
		l, err := lifecycle.Parse(text)
		if err != nil {
			panic("policy: a lifecycle that ships is part of the program: " + err.Error())
		}
		out[name] = l
	}
	return out
})

// mostLifecycles is how many lifecycles a house may have.
const mostLifecycles = 200

// Rules returns the lifecycles in force as a reader sees them.
func (p *Policy) Rules(r store.Reader) (Rules, error) {
	out := Rules{by: map[string]Ruled{}}
	for name, l := range shipped() {
		out.by[name] = Ruled{l, 0}
	}
	cab, head, err := p.cabinets.Perhaps(r)
	if err != nil {
		return out, err
	}
	out.cabinet, out.revision = cab, head.Revision
	if out.holds, err = r.Holds(p.Now().UTC()); err != nil {
		return out, err
	}
	heads, _, err := r.Heads(store.KindLifecycle, 0, mostLifecycles)
	if err != nil {
		return out, err
	}
	for _, h := range heads {
		l, err := p.document(r, h.Released)
		if err != nil {
			return out, fmt.Errorf("the lifecycle %s: %w", h.Number, err)
		}
		out.by[h.Number] = Ruled{l, h.Revision}
	}
	return out, nil
}

func (p *Policy) document(r store.Reader, content store.ID) (*lifecycle.Lifecycle, error) {
	if l, ok := p.read.Load(content); ok {
		return l.(*lifecycle.Lifecycle), nil
	}
	c, err := r.Content(content)
	if err != nil {
		return nil, err
	}
	l, err := lifecycle.FromJSON(c.Bytes)
	if err == nil {
		p.read.Store(content, l)
	}
	return l, err
}

// All lists the lifecycles in force by name.
func (r Rules) All() (out []Ruled) {
	for _, l := range r.by {
		out = append(out, l)
	}
	slices.SortFunc(out, func(a, b Ruled) int { return strings.Compare(a.Document.Name, b.Document.Name) })
	return out
}

// Named returns a lifecycle by its name.
func (r Rules) Named(name string) (Ruled, bool) {
	l, ok := r.by[name]
	return l, ok
}

// Of returns the lifecycle of a thing: of a part the one that its drawer names, of a model the one of its kind; where there is none,
// the one of all parts or of all models. All BOMs have one.
func (r Rules) Of(h store.Head) Ruled {
	name, all := "", "models"
	switch h.Kind {
	case store.KindBOM:
		if l := r.by["boms"]; l.Lifecycle != nil && l.Document.Of == "boms" {
			return l
		}
		return Ruled{shipped()["boms"], 0} // a house had one of that name, of something else, before BOMs had any
	case store.KindPart:
		all = "parts"
		if r.cabinet != nil {
			if t, ok := r.cabinet.Template(h.Drawer); ok {
				name = t.Lifecycle
			}
		}
	default:
		name = strings.ReplaceAll(KindOf(h), " ", "-")
	}
	if l, ok := r.by[name]; ok && l.Document.Of == all {
		return l
	}
	return r.by[all]
}

// Status is the state of what others see of a thing: of its newest revision, or of its draft where nothing is released.
func (r Rules) Status(h store.Head) lifecycle.State {
	if h.Released.IsZero() {
		return r.Of(h).DraftState(h.DraftState)
	}
	return r.Of(h).RevisionState(h.State)
}

// Draft is the state of a thing's draft.
func (r Rules) Draft(h store.Head) lifecycle.State { return r.Of(h).DraftState(h.DraftState) }

// Standing is how a thing may be used. What was merged or taken back is in no lifecycle any more.
func (r Rules) Standing(h store.Head) lifecycle.State {
	if store.Gone(h.Standing) {
		return lifecycle.State{Key: h.Standing, Word: strings.ToUpper(h.Standing[:1]) + h.Standing[1:], Use: lifecycle.UseNo, Shape: "cross"}
	}
	return r.Of(h).StandingState(h.Standing)
}

// Use says whether a thing may be used: the worse of what its status and its standing say.
func (r Rules) Use(h store.Head) lifecycle.Use {
	return Worse(r.Status(h).Use, r.Standing(h).Use)
}

// Worse is the worse of two.
func Worse(a, b lifecycle.Use) lifecycle.Use {
	order := []lifecycle.Use{lifecycle.UseYes, lifecycle.UseCaution, lifecycle.UseNo}
	return order[max(slices.Index(order, a), slices.Index(order, b), 0)]
}

// Revision is the state of one revision of a thing; moved is what revision_states says of it.
func (r Rules) Revision(h store.Head, number int, moved string) lifecycle.State {
	l := r.Of(h)
	if number == h.Revision && !h.Released.IsZero() {
		return l.RevisionState(h.State)
	}
	return l.OldState(moved)
}

// MayChange refuses changes of content in a state that does not permit them, of what leads elsewhere, and of what somebody else holds.
func (r Rules) MayChange(h store.Head, by store.ID) error {
	if err := Stands(h); err != nil {
		return err
	}
	if err := r.Free(h, by); err != nil {
		return err
	}
	state := r.Draft(h)
	if h.Draft.IsZero() || state.Change {
		return nil
	}
	mend := "Nobody can send it back by the lifecycle: ask an administrator."
	for _, m := range r.Of(h).MovesFrom(state.Key) {
		if to, _ := r.Of(h).Target(m); to.Change {
			mend = fmt.Sprintf("Move it first: %q (%s).", m.Label, m.Who)
			break
		}
	}
	return deed.Fault(deed.Clash, "not-to-change", fmt.Sprintf("%s is in the state %q, where its content does not change; nothing was changed.", NameOf(h), state.Word), mend)
}

// MayChange is that of the rules as a reader sees them.
func (p *Policy) MayChange(r store.Reader, h store.Head, by store.ID) error {
	rules, err := p.Rules(r)
	if err != nil {
		return err
	}
	return rules.MayChange(h, by)
}

// KindOf is the kind of a model.
func KindOf(h store.Head) string { k, _, _ := strings.Cut(h.Number, ": "); return k }

// NameOf is how a thing is called in a sentence.
func NameOf(h store.Head) string {
	if h.Kind == store.KindModel {
		if kind, name, ok := strings.Cut(h.Number, ": "); ok {
			return "The " + kind + " " + name
		}
	}
	return h.Number
}

// Stands refuses changes of what was merged into another or taken back.
func Stands(h store.Head) error {
	switch {
	case h.Standing == store.Withdrawn:
		return deed.Fault(deed.Clash, "withdrawn", h.Number+": the intake that made it was taken back; nothing was changed.", "Make the part anew.")
	case h.Standing == store.Merged && h.Kind == store.KindModel:
		return deed.Fault(deed.Clash, "merged", "The model was merged into another one; nothing was changed.", "Change the one that its name leads to.")
	case h.Standing == store.Merged:
		return deed.Fault(deed.Clash, "merged", h.Number+" was merged into another part; nothing was changed.", "Change the part that its number leads to.")
	}
	return nil
}

// Same says whether two reads found the same lifecycles in force.
func (r Rules) Same(o Rules) bool {
	if len(r.by) != len(o.by) {
		return false
	}
	for name, l := range r.by {
		if have, ok := o.by[name]; !ok || have.Revision != l.Revision {
			return false
		}
	}
	return true
}

// Drawers lists the keys of all drawers.
func (r Rules) Drawers() (out []string) {
	if r.cabinet != nil {
		for _, t := range r.cabinet.Templates() {
			out = append(out, t.Key)
		}
	}
	return out
}

// Template is the template of a part's drawer.
func (r Rules) Template(h store.Head) (*cabinet.Template, bool) {
	if r.cabinet == nil || h.Kind != store.KindPart {
		return nil, false
	}
	return r.cabinet.Template(h.Drawer)
}

// Missing names a drawer whose lifecycle is not there, or is one of models.
func (r Rules) Missing(cab *cabinet.Cabinet) error {
	for _, d := range cab.Document.Drawers {
		if d.Lifecycle == "" {
			continue
		}
		l, ok := r.by[d.Lifecycle]
		switch {
		case !ok:
			return fmt.Errorf("the drawer %q names the lifecycle %q, which is not there: apply it first", d.Key, d.Lifecycle)
		case l.Document.Of != "parts":
			return fmt.Errorf("the drawer %q names the lifecycle %q, which is one of %s", d.Key, d.Lifecycle, l.Document.Of)
		}
	}
	return nil
}

// DrawersOf lists the drawers that name a lifecycle.
func (r Rules) DrawersOf(name string) []string {
	out := []string{}
	if r.cabinet == nil {
		return out
	}
	for _, d := range r.cabinet.Document.Drawers {
		if d.Lifecycle == name {
			out = append(out, d.Key)
		}
	}
	return out
}

// Waiting lists the keys of states in which content waits for a review, former ones included.
func (r Rules) Waiting() []string {
	out := []string{}
	for _, l := range r.by {
		for _, s := range l.Document.Status {
			if s.Meaning == lifecycle.MeansReview {
				out = append(out, s.Key)
			}
		}
		for old := range l.Document.Becomes {
			if s, ok := l.State(old); ok && s.Meaning == lifecycle.MeansReview {
				out = append(out, old)
			}
		}
	}
	slices.Sort(out)
	return slices.Compact(out)
}

// HasGate says whether any lifecycle in force has a gate on any move.
func (r Rules) HasGate(gate string) bool {
	for _, l := range r.by {
		for _, m := range l.Document.Moves {
			if slices.ContainsFunc(m.Gates, func(g lifecycle.GateUse) bool { return g.Gate == gate }) {
				return true
			}
		}
	}
	return false
}

// Forbids refuses an act that a state of a thing forbids: of its newest revision, of its draft where nothing is released, or its standing.
func (r Rules) Forbids(h store.Head, act string) error {
	for _, s := range []lifecycle.State{r.Status(h), r.Standing(h)} {
		if slices.Contains(s.Forbids, act) {
			what := map[string]string{lifecycle.ForbidCopy: "copied", lifecycle.ForbidChoose: "chosen", lifecycle.ForbidFreeze: "frozen into a BOM"}[act]
			return deed.Fault(deed.Clash, "state-forbids", fmt.Sprintf("%s is %s, and its lifecycle forbids that it is %s.", NameOf(h), s.Word, what), "Take another part.")
		}
	}
	return nil
}

// Standings lists the keys of the standings of parts, of all lifecycles.
func (r Rules) Standings() []string {
	return r.keys(func(d lifecycle.Document) []lifecycle.State { return d.Standing })
}

// Statuses lists the keys of the states of parts, of all lifecycles.
func (r Rules) Statuses() []string {
	return r.keys(func(d lifecycle.Document) []lifecycle.State { return d.Status })
}

func (r Rules) keys(of func(lifecycle.Document) []lifecycle.State) (out []string) {
	for _, l := range r.All() {
		if l.Document.Of != "parts" {
			continue
		}
		for _, s := range of(l.Document) {
			if !slices.Contains(out, s.Key) {
				out = append(out, s.Key)
			}
		}
	}
	return out
}
