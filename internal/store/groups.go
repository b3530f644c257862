package store

import (
	"slices"
)

// Group is people who answer for some drawers or kinds of model.
type Group struct {
	ID      ID `gorm:"primaryKey"`
	Name    string
	About   string
	Version int
	Members []ID     `gorm:"-"`
	Drawers []string `gorm:"-"`
	Kinds   []string `gorm:"-"` // of models
}

// TableName is GORM's hook.
func (Group) TableName() string { return "people_groups" }

// What a group answers for.
const (
	dutyDrawer = "drawer"
	dutyModel  = "model"
)

// Groups lists all groups by name.
func (r Reader) Groups() (out []Group, err error) {
	if err = r.db.Order("name").Find(&out).Error; err != nil || len(out) == 0 {
		return out, err
	}
	at := map[ID]int{}
	for i, g := range out {
		at[g.ID] = i
	}
	var members []struct{ PeopleGroup, Account ID }
	if err = r.db.Raw("SELECT people_group, account FROM group_members ORDER BY people_group, account").Scan(&members).Error; err != nil {
		return nil, err
	}
	for _, m := range members {
		if i, ok := at[m.PeopleGroup]; ok {
			out[i].Members = append(out[i].Members, m.Account)
		}
	}
	var duties []struct {
		PeopleGroup ID
		Sort, Name  string
	}
	if err = r.db.Raw("SELECT people_group, sort, name FROM group_duties ORDER BY people_group, sort, name").Scan(&duties).Error; err != nil {
		return nil, err
	}
	for _, d := range duties {
		if i, ok := at[d.PeopleGroup]; ok && d.Sort == dutyDrawer {
			out[i].Drawers = append(out[i].Drawers, d.Name)
		} else if ok {
			out[i].Kinds = append(out[i].Kinds, d.Name)
		}
	}
	return out, nil
}

// GroupsOf lists the names of the groups that a person is in.
func (r Reader) GroupsOf(account ID) (out []string, err error) {
	err = r.db.Raw("SELECT g.name FROM group_members m JOIN people_groups g ON g.id = m.people_group WHERE m.account = ? ORDER BY g.name", account).Scan(&out).Error
	return out, err
}

// SaveGroup writes a group: a new one where its version is 0. A name that is taken is ErrNumberTaken; a version that moved on is ErrConflict.
func (t *Tx) SaveGroup(g *Group) error {
	base := g.Version
	g.Version++
	if base == 0 {
		if err := t.db.Create(g).Error; err != nil {
			return taken(err, ErrNumberTaken)
		}
	} else {
		r := t.db.Exec("UPDATE people_groups SET name = ?, about = ?, version = ? WHERE id = ? AND version = ?", g.Name, g.About, g.Version, g.ID, base)
		if r.Error != nil {
			return taken(r.Error, ErrNumberTaken)
		}
		if r.RowsAffected != 1 {
			return ErrConflict
		}
		if err := t.emptyGroup(g.ID); err != nil {
			return err
		}
	}
	for _, m := range g.Members {
		if err := t.db.Exec("INSERT INTO group_members (people_group, account) VALUES (?,?)", g.ID, m).Error; err != nil {
			return err
		}
	}
	for sort, names := range map[string][]string{dutyDrawer: g.Drawers, dutyModel: g.Kinds} {
		for _, n := range names {
			if err := t.db.Exec("INSERT INTO group_duties (people_group, sort, name) VALUES (?,?,?)", g.ID, sort, n).Error; err != nil {
				return err
			}
		}
	}
	return nil
}

func (t *Tx) emptyGroup(id ID) error {
	for _, q := range []string{"DELETE FROM group_members WHERE people_group = ?", "DELETE FROM group_duties WHERE people_group = ?"} {
		if err := t.db.Exec(q, id).Error; err != nil {
			return err
		}
	}
	return nil
}

// DropGroup removes a group that is still at a version.
func (t *Tx) DropGroup(id ID, version int) error {
	r := t.db.Exec("DELETE FROM people_groups WHERE id = ? AND version = ?", id, version)
	if r.Error != nil {
		return r.Error
	}
	if r.RowsAffected != 1 {
		return ErrConflict
	}
	return t.emptyGroup(id)
}

// PeopleWith returns the accounts that may sign in and have one of some roles; of a group where one is named, which must be there.
func (r Reader) PeopleWith(roles []string, group string) (out []ID, err error) {
	q := r.db.Table("accounts a").Where("a.disabled = FALSE AND a.role IN ?", roles)
	if group != "" {
		var g Group
		if f := r.db.Where("name = ?", group).Limit(1).Find(&g); f.Error != nil {
			return nil, f.Error
		} else if f.RowsAffected == 0 {
			return nil, ErrNotFound
		}
		q = q.Joins("JOIN group_members m ON m.account = a.id AND m.people_group = ?", g.ID)
	}
	err = q.Order("a.id").Pluck("a.id", &out).Error
	return slices.Clip(out), err
}
