package store

import (
	"context"
	"crypto/sha256"
	"fmt"
	"time"

	"gorm.io/gorm"
)

// Fetched is what became of a link to a datasheet.
type Fetched struct {
	Hash    Hash `gorm:"primaryKey"` // of the link
	Link    string
	File    Hash // zero where there is none
	Name    string
	Problem string
	At      time.Time
}

// TableName is GORM's hook.
func (Fetched) TableName() string { return "fetched" }

// LinkHash is the key of a link.
func LinkHash(link string) Hash { return sha256.Sum256([]byte(link)) }

// FetchedAt is a mark that changes whenever a link was fetched.
func (r Reader) FetchedAt() (string, error) {
	var n int64
	var last *time.Time
	if err := r.db.Raw("SELECT COUNT(*), MAX(at) FROM fetched").Row().Scan(&n, &last); err != nil {
		return "", err
	}
	if last == nil {
		return "0", nil
	}
	return fmt.Sprintf("%d.%d", n, last.UnixMicro()), nil
}

// FetchedLinks returns what became of links, by link.
func (r Reader) FetchedLinks(links []string) (map[string]Fetched, error) {
	out := map[string]Fetched{}
	for from := 0; from < len(links); from += 1000 {
		var keys []Hash
		for _, l := range links[from:min(from+1000, len(links))] {
			keys = append(keys, LinkHash(l))
		}
		var some []Fetched
		if err := r.db.Where("hash IN ?", keys).Find(&some).Error; err != nil {
			return nil, err
		}
		for _, f := range some {
			out[f.Link] = f
		}
	}
	return out, nil
}

// KeepFetched says what became of a link; a later fetch replaces an earlier one.
func (s *Store) KeepFetched(ctx context.Context, f Fetched) error {
	f.Hash = LinkHash(f.Link)
	return s.small(ctx, func(g *gorm.DB) error {
		return g.Exec("REPLACE INTO fetched (hash, link, file, name, problem, at) VALUES (?,?,?,?,?,?)", f.Hash, f.Link, f.File, f.Name, f.Problem, f.At).Error
	})
}

// FileText is the text of a kept file, its pages parted by form feeds, or why there is none.
type FileText struct {
	Hash    Hash `gorm:"primaryKey"`
	Body    string
	Problem string
	At      time.Time
}

// TableName is GORM's hook.
func (FileText) TableName() string { return "file_texts" }

// FileTexts returns the texts of files, by hash; files whose text nobody read are left out.
func (r Reader) FileTexts(hashes []Hash) (map[Hash]FileText, error) {
	out := map[Hash]FileText{}
	if len(hashes) == 0 {
		return out, nil
	}
	var all []FileText
	if err := r.db.Where("hash IN ?", hashes).Find(&all).Error; err != nil {
		return nil, err
	}
	for _, t := range all {
		out[t.Hash] = t
	}
	return out, nil
}

// KeepFileText keeps the text of a file; it is the same whoever reads it.
func (s *Store) KeepFileText(ctx context.Context, t FileText) error {
	return s.small(ctx, func(g *gorm.DB) error {
		return g.Exec("REPLACE INTO file_texts (hash, body, problem, at) VALUES (?,?,?,?)", t.Hash, t.Body, t.Problem, t.At).Error
	})
}
