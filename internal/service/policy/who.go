package policy

import (
	"errors"
	"fmt"
	"slices"
	"strconv"

	"jollydrawer/core/lifecycle"
	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/store"
)

// May refuses somebody whom a lifecycle does not name. authors are those of what is moved.
func May(r store.Reader, who deed.Actor, w lifecycle.Who, what string, authors []store.ID) error {
	rank := func(role string) int { return slices.Index(deed.Roles, deed.Role(role)) }
	if w.Role != "" && rank(string(who.Role)) < rank(w.Role) {
		return deed.Fault(deed.Forbidden, "move-role", fmt.Sprintf("%s is for the role %s; yours is %s.", what, w.Role, who.Role), "Ask somebody who has it.")
	}
	if w.Group != "" {
		groups, err := r.GroupsOf(who.ID)
		if err != nil {
			return err
		}
		if !slices.Contains(groups, w.Group) {
			return deed.Fault(deed.Forbidden, "move-group", fmt.Sprintf("%s is for the group %s, and you are not in it.", what, w.Group), "Ask one of the group.")
		}
	}
	if w.NotAuthor && slices.Contains(authors, who.ID) {
		return deed.Fault(deed.Forbidden, "move-author", what+" is for somebody who is not an author, and you changed the content since it was last released.", "Ask a second person.")
	}
	return nil
}

// People returns who is covered by a Who, authors included; a group that is not there is an error.
func People(r store.Reader, w lifecycle.Who) ([]store.ID, error) {
	var roles []string
	for _, role := range deed.Roles[1:] { // who reads only moves nothing
		if w.Role == "" || slices.Index(deed.Roles, role) >= slices.Index(deed.Roles, deed.Role(w.Role)) {
			roles = append(roles, string(role))
		}
	}
	ids, err := r.PeopleWith(roles, w.Group)
	if errors.Is(err, store.ErrNotFound) {
		err = deed.Fault(deed.Invalid, "group-unknown", fmt.Sprintf("There is no group %q.", w.Group), "Make it first.")
	}
	return ids, err
}

// Manned refuses a lifecycle of which some move has nobody who may make it.
func Manned(r store.Reader, l *lifecycle.Lifecycle) error {
	return l.Nobody(func(w lifecycle.Who) (int, error) {
		ids, err := People(r, w)
		return len(ids), err
	})
}

// Freezing is how content is released: into which state, under which label, by which move.
type Freezing struct {
	State, Label string
	Detail       map[string]any // for the trail
}

// Freeze is what becomes of a thing that a move releases. minor is whether only the second figure of its label counts on.
func (r Rules) Freeze(h store.Head, m lifecycle.Move, minor bool) (Freezing, error) {
	l := r.Of(h)
	label, err := r.label(h, minor)
	if err != nil {
		return Freezing{}, deed.Fault(deed.Invalid, "label-end", NameOf(h)+" cannot be released: "+err.Error()+".", "Change how revisions are counted in its lifecycle.")
	}
	f := Freezing{State: m.To, Label: label, Detail: map[string]any{"move": m.Key, "lifecycle": l.Document.Name, "lifecycleRevision": l.Revision}}
	if label != "" {
		f.Detail["label"] = label
	}
	if h.DraftState != "" {
		f.Detail["from"] = h.DraftState
	}
	return f, nil
}

// label is that of the next revision of a thing; blank where its number says the same.
func (r Rules) label(h store.Head, minor bool) (string, error) {
	label, err := r.Of(h).Document.Counting.Next(h.Revision+1, lifecycle.Label(h.Revision, h.Label), minor)
	if label == strconv.Itoa(h.Revision+1) {
		label = ""
	}
	return label, err
}

// NextLabel labels the next revision of a thing that is carried over by a change of templates; where letters have ended, its number is
// its label.
func (r Rules) NextLabel(h store.Head, minor bool) string {
	label, err := r.label(h, minor)
	if err != nil {
		return ""
	}
	return label
}

// Straight is how content that somebody has just made is released in the same step; ok is false, with the reason, where the
// lifecycle wants more than that first. facts are what its gates are asked about.
func (p *Policy) Straight(r store.Reader, who deed.Actor, h store.Head, facts lifecycle.Facts) (f Freezing, ok bool, why string, err error) {
	rules, err := p.Rules(r)
	if err != nil {
		return f, false, "", err
	}
	l := rules.Of(h)
	why = "its lifecycle has no move from a draft to what is in use"
	for _, m := range l.MovesFrom(rules.Draft(h).Key) {
		if !l.Releases(m) {
			continue
		}
		err := May(r, who, m.Who, m.Label, []store.ID{who.ID})
		var e *deed.Error
		if errors.As(err, &e) {
			why = e.What
			continue
		}
		if err != nil {
			return f, false, "", err
		}
		if why = closed(l.Ask(m.Key, facts)); why == "" {
			f, err = rules.Freeze(h, m, false)
			return f, err == nil, "", err
		}
	}
	return f, false, why, nil
}

// closed is why a gate does not hold; blank where all do.
func closed(answers []lifecycle.Answer) string {
	for _, a := range answers {
		if !a.Holds {
			return a.Why
		}
	}
	return ""
}
