package store

import (
	"context"
	"slices"

	"gorm.io/gorm"
)

// Use is one place of a part that a model fills.
type Use struct {
	Parent        ID
	Place         string // "draft symbol", "released body", ...
	Child         ID
	ChildRevision int
}

// SetUses replaces the uses of a part whose place begins with a word ("draft" or "released").
func (t *Tx) SetUses(parent ID, word string, uses []Use) error {
	if err := t.db.Exec("DELETE FROM uses WHERE parent = ? AND place LIKE ?", parent, word+" %").Error; err != nil {
		return err
	}
	in := newInsert("uses", "parent, place, child, child_revision")
	for _, u := range uses {
		in.add(parent, u.Place, u.Child, u.ChildRevision)
	}
	return in.run(t.db)
}

// UsesOf lists the models that a part uses.
func (r Reader) UsesOf(parent ID) (out []Use, err error) {
	err = r.db.Raw("SELECT parent, place, child, child_revision FROM uses WHERE parent = ?", parent).Scan(&out).Error
	return out, err
}

// UsedBy lists the parts that use a model.
func (r Reader) UsedBy(child ID, offset, limit int) (out []Use, err error) {
	err = r.db.Raw("SELECT parent, place, child, child_revision FROM uses WHERE child = ? ORDER BY parent, place LIMIT ? OFFSET ?", child, limit, offset).Scan(&out).Error
	return out, err
}

// Chosen is a part that somebody chose for a line of a BOM.
type Chosen struct{ Part, BOM string } // number and name

// ChosenOn lists which of some parts are chosen on BOMs, at most limit of them.
func (r Reader) ChosenOn(parts []ID, limit int) (out []Chosen, err error) {
	for some := range slices.Chunk(parts, batch) {
		var found []Chosen
		if err := r.db.Raw("SELECT p.number AS part, b.number AS bom FROM uses u JOIN heads p ON p.id = u.child JOIN heads b ON b.id = u.parent AND b.kind = ? WHERE u.child IN ? ORDER BY p.number, b.number LIMIT ?",
			KindBOM, some, limit-len(out)).Scan(&found).Error; err != nil {
			return nil, err
		}
		if out = append(out, found...); len(out) >= limit {
			break
		}
	}
	return out, nil
}

// Projection returns the version at which a projection was last filled; 0 where it never was.
func (r Reader) Projection(name string) (version int, err error) {
	err = r.db.Raw("SELECT version FROM projections WHERE name = ?", name).Scan(&version).Error
	return version, err
}

// FillUses writes the uses of a head that is still at a version, for a projection that is filled anew.
func (s *Store) FillUses(ctx context.Context, h Head, word string, uses []Use) error {
	return s.small(ctx, func(g *gorm.DB) error {
		now, err := Reader{g}.Head(h.Kind, h.ID)
		if err != nil || now.Version != h.Version {
			return err // whoever changed it meanwhile wrote its uses
		}
		t := &Tx{Reader: Reader{g}}
		return t.SetUses(h.ID, word, uses)
	})
}

// Filled notes that a projection was filled at a version.
func (s *Store) Filled(ctx context.Context, name string, version int) error {
	return s.small(ctx, func(g *gorm.DB) error {
		return g.Exec("INSERT INTO projections (name, version, at) VALUES (?,?,NOW(6)) ON DUPLICATE KEY UPDATE version = VALUES(version), at = VALUES(at)", name, version).Error
	})
}

// FrozenUse is a revision of a BOM that is pinned to a revision of a part.
type FrozenUse struct {
	BOM           ID
	Name          string // of the BOM now
	Newest        int    // its newest revision
	Place         string // "frozen 2 17": revision 2
	Part          ID
	ChildRevision int
}

// FrozenWith lists the revisions of BOMs that are pinned to some parts, at most limit of them.
func (r Reader) FrozenWith(parts []ID, limit int) (out []FrozenUse, err error) {
	for some := range slices.Chunk(parts, batch) {
		var found []FrozenUse
		if err := r.db.Raw("SELECT u.parent AS bom, b.number AS name, b.revision AS newest, u.place, u.child AS part, u.child_revision FROM uses u JOIN heads b ON b.id = u.parent AND b.kind = ? WHERE u.child IN ? AND u.place LIKE 'frozen %' ORDER BY b.number, u.place LIMIT ?",
			KindBOM, some, limit-len(out)).Scan(&found).Error; err != nil {
			return nil, err
		}
		if out = append(out, found...); len(out) >= limit {
			break
		}
	}
	return out, nil
}
