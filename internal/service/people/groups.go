package people

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"

	"jollydrawer/core/lifecycle"
	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/store"
	"jollydrawer/internal/wire"
)

// KindsOfModel are what a group may answer for beside drawers.
var KindsOfModel = []string{"symbol", "land pattern", "body", "pin map"}

// Groups lists the groups by name.
func (s *People) Groups(ctx context.Context, c deed.Call) (wire.GroupList, error) {
	out := wire.GroupList{Items: []wire.Group{}}
	if err := deed.Allow(c, deed.OpRead); err != nil {
		return out, err
	}
	all, err := s.Store.Read(ctx).Groups()
	if err != nil {
		return out, err
	}
	people, err := s.Store.Read(ctx).Accounts(0, 10_000)
	if err != nil {
		return out, err
	}
	for _, g := range all {
		w := wire.Group{ID: g.ID.String(), Version: g.Version, Name: g.Name, About: g.About, Members: []wire.GroupMember{}, Drawers: append([]string{}, g.Drawers...), Kinds: append([]string{}, g.Kinds...)}
		for _, a := range people {
			if slices.Contains(g.Members, a.ID) {
				w.Members = append(w.Members, wire.GroupMember{Login: a.Login, Name: a.Name, Role: a.Role})
				w.Mine = w.Mine || a.ID == c.Actor.ID
			}
		}
		out.Items = append(out.Items, w)
	}
	return out, nil
}

// SaveGroup makes a group, or changes the one of its name or former name.
func (s *People) SaveGroup(ctx context.Context, c deed.Call, key string, version int, in wire.GroupEdit) (wire.GroupList, error) {
	if err := deed.Allow(c, deed.OpAccountManage); err != nil {
		return wire.GroupList{}, err
	}
	in.Name = strings.TrimSpace(in.Name)
	if in.Name == "" {
		return wire.GroupList{}, deed.Fault(deed.Invalid, "group-name", "A group needs a name.", "")
	}
	for _, k := range in.Kinds {
		if !slices.Contains(KindsOfModel, k) {
			return wire.GroupList{}, deed.Fault(deed.Invalid, "kind-unknown", fmt.Sprintf("%q is no kind of model: use %s.", k, strings.Join(KindsOfModel, ", ")), "")
		}
	}
	_, err := deed.Do(ctx, s.Desk, c, deed.OpAccountManage, "group", []any{key, version, in}, func(t *store.Tx) (string, error) {
		lacks, err := s.lacking(t.Reader)
		if err != nil {
			return "", err
		}
		g := store.Group{ID: store.NewID(), Name: in.Name, About: strings.TrimSpace(in.About), Drawers: once(in.Drawers), Kinds: once(in.Kinds)}
		if key != "" {
			was, err := find(t.Reader, key)
			if err != nil {
				return "", err
			}
			if was.Version != version {
				return "", store.ErrConflict
			}
			g.ID, g.Version = was.ID, version
			if was.Name != g.Name {
				if err := s.spared(t.Reader, was.Name); err != nil {
					return "", err
				}
			}
		}
		if s.Needs != nil {
			switch drawer, err := s.Needs.Unknown(t.Reader, g.Drawers); {
			case err != nil:
				return "", err
			case drawer != "":
				return "", deed.Fault(deed.Invalid, "drawer-unknown", fmt.Sprintf("There is no drawer %q.", drawer), "Look at the cabinet: jolly cabinet show.")
			}
		}
		for _, login := range once(in.Members) {
			a, err := t.AccountBy("login", login)
			if errors.Is(err, store.ErrNotFound) {
				return "", deed.Fault(deed.Invalid, "member-unknown", fmt.Sprintf("Nobody signs in as %q.", login), "Add the person first.")
			}
			if err != nil {
				return "", err
			}
			g.Members = append(g.Members, a.ID)
		}
		err = t.SaveGroup(&g)
		if errors.Is(err, store.ErrNumberTaken) {
			return "", deed.Fault(deed.Clash, "group-there", fmt.Sprintf("There is a group %q already.", g.Name), "Choose another name.")
		}
		if err == nil {
			err = s.stillPossible(t.Reader, lacks)
		}
		return g.ID.String(), err
	})
	if err != nil {
		return wire.GroupList{}, err
	}
	return s.Groups(ctx, c)
}

// DropGroup removes a group that no lifecycle names.
func (s *People) DropGroup(ctx context.Context, c deed.Call, key string, version int) (wire.GroupList, error) {
	if err := deed.Allow(c, deed.OpAccountManage); err != nil {
		return wire.GroupList{}, err
	}
	_, err := deed.Do(ctx, s.Desk, c, deed.OpAccountManage, "group", []any{"drop", key, version}, func(t *store.Tx) (string, error) {
		g, err := find(t.Reader, key)
		if err == nil {
			err = s.spared(t.Reader, g.Name)
		}
		if err != nil {
			return "", err
		}
		return g.Name, t.DropGroup(g.ID, version)
	})
	if err != nil {
		return wire.GroupList{}, err
	}
	return s.Groups(ctx, c)
}

func find(r store.Reader, key string) (store.Group, error) {
	all, err := r.Groups()
	if err != nil {
		return store.Group{}, err
	}
	for _, g := range all {
		if g.ID.String() == key || strings.EqualFold(g.Name, key) {
			return g, nil
		}
	}
	return store.Group{}, store.ErrNotFound
}

func once(all []string) []string {
	out := slices.Clone(all)
	slices.Sort(out)
	return slices.Compact(out)
}

// Needs says what stands on groups: the lifecycles, which this package does not know.
type Needs interface {
	// Named says by a sentence where a group is named; "" where it is not.
	Named(r store.Reader, group string) (string, error)
	// Unknown names a drawer that is not there; "" where all are.
	Unknown(r store.Reader, drawers []string) (string, error)
	// Lacking lists what waits for somebody who is not there.
	Lacking(r store.Reader) ([]lifecycle.Lack, error)
}

// spared refuses to take away the name of a group that something stands on.
func (s *People) spared(r store.Reader, group string) error {
	if s.Needs == nil {
		return nil
	}
	where, err := s.Needs.Named(r, group)
	if err == nil && where != "" {
		err = deed.Fault(deed.Clash, "group-needed", fmt.Sprintf("The group %q is named by %s.", group, where), "Change that first.")
	}
	return err
}

// lacking lists what waits for somebody who is not there; nothing where nobody says.
func (s *People) lacking(r store.Reader) ([]lifecycle.Lack, error) {
	if s.Needs == nil {
		return nil, nil
	}
	return s.Needs.Lacking(r)
}

// stillPossible refuses people and groups by which something waits for nobody that did not before, or for fewer than before: what was lacking
// already keeps nobody from mending it.
func (s *People) stillPossible(r store.Reader, was []lifecycle.Lack) error {
	now, err := s.lacking(r)
	if err != nil {
		return err
	}
	for _, l := range now {
		if !slices.ContainsFunc(was, func(o lifecycle.Lack) bool { return o.At == l.At && o.Have <= l.Have }) {
			return deed.Fault(deed.Clash, "nobody-left", "Nothing was changed, because "+l.What+".", "Leave enough people in the group, or change the lifecycle first.")
		}
	}
	return nil
}
