package store

import (
	"errors"
	"slices"
)

// ErrInSeries is returned where a source is given to a series and is in another.
var ErrInSeries = errors.New("the source is in another series")

// SetMembers says which sources, by their keys, a series has; name is what it is found by.
func (t *Tx) SetMembers(series ID, name string, keys []string) error {
	if err := t.db.Exec("DELETE FROM series_members WHERE series = ?", series).Error; err != nil {
		return err
	}
	in := newInsert("series_members", "k, series, name")
	for _, k := range keys {
		in.add(SourceHash(k), series, name)
	}
	return taken(in.run(t.db), ErrInSeries)
}

// SeriesOf lists the series that some sources are in, each once.
func (r Reader) SeriesOf(keys []string) ([]Head, error) {
	if len(keys) == 0 {
		return nil, nil
	}
	hashes := make([]Hash, 0, len(keys))
	for _, k := range keys {
		hashes = append(hashes, SourceHash(k))
	}
	var ids []ID
	if err := r.db.Raw("SELECT DISTINCT series FROM series_members WHERE k IN ?", hashes).Scan(&ids).Error; err != nil || len(ids) == 0 {
		return nil, err
	}
	return r.HeadsByID(ids)
}

// InSeries lists the parts that have a source of a series, by number.
func (r Reader) InSeries(series ID) (out []Head, err error) {
	err = r.db.Raw("SELECT h.* FROM heads h WHERE h.kind = ? AND h.id IN (SELECT k.head FROM series_members m JOIN source_keys k ON k.k = m.k WHERE m.series = ?) ORDER BY h.number", KindPart, series).Scan(&out).Error
	return out, err
}

// seriesNames lists the names of the series that the parts which a deed wrote are in, or all parts.
func (r Reader) seriesNames(deed ID) (map[ID][]string, error) {
	q, args := "SELECT DISTINCT k.head, m.name FROM series_members m JOIN source_keys k ON k.k = m.k", []any{}
	if !deed.IsZero() { // from the few parts of the deed, not from all members
		q, args = "SELECT DISTINCT k.head, m.name FROM heads h STRAIGHT_JOIN source_keys k ON k.head = h.id STRAIGHT_JOIN series_members m ON m.k = k.k WHERE h.deed = ?", []any{deed}
	}
	rows, err := r.db.Raw(q+" ORDER BY k.head, m.name", args...).Rows()
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	out := map[ID][]string{}
	for rows.Next() {
		var head ID
		var name string
		if err := rows.Scan(&head, &name); err != nil {
			return nil, err
		}
		out[head] = append(out[head], name)
	}
	return out, rows.Err()
}

// MembersOf returns the keys that some series have, by series.
func (r Reader) MembersOf(series []ID) (map[ID][]Hash, error) {
	var rows []struct {
		Series ID
		K      Hash
	}
	err := r.db.Raw("SELECT series, k FROM series_members WHERE series IN ?", series).Scan(&rows).Error
	out := map[ID][]Hash{}
	for _, row := range rows {
		out[row.Series] = append(out[row.Series], row.K)
	}
	return out, err
}

// NumbersOf lists the numbers of all aggregates of a kind. Those who go by it when they write one take turns.
func (t *Tx) NumbersOf(kind string) (map[string]ID, error) {
	if err := t.takeTurn(kind); err != nil {
		return nil, err
	}
	var heads []Head
	if err := t.db.Select("id", "number").Where("kind = ?", kind).Find(&heads).Error; err != nil {
		return nil, err
	}
	out := make(map[string]ID, len(heads))
	for _, h := range heads {
		out[h.Number] = h.ID
	}
	return out, nil
}

// SourcesThere says which source keys some part of the library has.
func (r Reader) SourcesThere(keys []string) (map[string]bool, error) {
	out := map[string]bool{}
	by := map[Hash]string{}
	for some := range slices.Chunk(keys, batch) {
		var hashes, found []Hash
		for _, k := range some {
			h := SourceHash(k)
			by[h], hashes = k, append(hashes, h)
		}
		if err := r.db.Raw("SELECT DISTINCT k FROM source_keys WHERE k IN ?", hashes).Scan(&found).Error; err != nil {
			return nil, err
		}
		for _, h := range found {
			out[by[h]] = true
		}
	}
	return out, nil
}

// HeadsByNumbers lists the aggregates of a kind, by number.
func (r Reader) HeadsByNumbers(kind string, offset, limit int) (out []Head, total int64, err error) {
	return page[Head](r.db.Where("kind = ?", kind), "number", offset, limit)
}
