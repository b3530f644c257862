package store

import (
	"context"
	"database/sql"
	"errors"

	"gorm.io/gorm"
)

// FileSize returns a kept file's length in bytes, and whether it is there.
func (r Reader) FileSize(h Hash) (size int64, ok bool, err error) {
	q := r.db.Raw("SELECT size FROM files WHERE hash = ?", h).Scan(&size)
	return size, q.RowsAffected > 0, q.Error
}

// Chunk returns the nth piece of a kept file; nothing where there is none.
func (r Reader) Chunk(h Hash, n int) (bytes []byte, err error) {
	err = r.db.Raw("SELECT bytes FROM chunks WHERE hash = ? AND n = ?", h, n).Row().Scan(&bytes)
	if errors.Is(err, sql.ErrNoRows) {
		err = nil
	}
	return bytes, err
}

// AddChunk keeps the nth piece of a file. Chunks without a file are of no use to anybody.
func (s *Store) AddChunk(ctx context.Context, h Hash, n int, bytes []byte) error {
	return s.small(ctx, func(g *gorm.DB) error {
		return g.Exec("INSERT IGNORE INTO chunks (hash, n, bytes) VALUES (?,?,?)", h, n, bytes).Error
	})
}

// AddFile makes a file of its chunks.
func (s *Store) AddFile(ctx context.Context, h Hash, size int64, chunks int) error {
	return s.small(ctx, func(g *gorm.DB) error {
		return g.Exec("INSERT IGNORE INTO files (hash, size, chunks, at) VALUES (?,?,?,NOW(6))", h, size, chunks).Error
	})
}
