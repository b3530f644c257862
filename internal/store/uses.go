package store

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
	for _, u := range uses {
		if err := t.db.Exec("INSERT INTO uses (parent, place, child, child_revision) VALUES (?,?,?,?)", parent, u.Place, u.Child, u.ChildRevision).Error; err != nil {
			return err
		}
	}
	return nil
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
