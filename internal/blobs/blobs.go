// Package blobs keeps files as they came, by hash, in pieces of 1 MiB in the database, so that any instance can
// serve them.
package blobs

import (
	"context"
	"crypto/sha256"
	"database/sql"
	"errors"
	"fmt"
	"io"
	"os"

	"gorm.io/gorm"

	"jollydrawer/internal/store"
)

const piece = 1 << 20

// ErrTooLarge is returned for a file over the limit.
var ErrTooLarge = errors.New("the file is too large")

// Put keeps everything r gives, at most limit bytes, and returns its hash and size. The same bytes are kept once.
func Put(ctx context.Context, s *store.Store, r io.Reader, limit int64) (h store.Hash, size int64, err error) {
	tmp, err := os.CreateTemp("", "jolly-upload-")
	if err != nil {
		return h, 0, fmt.Errorf("a temporary file could not be made: %w", err)
	}
	defer os.Remove(tmp.Name())
	defer tmp.Close()
	sum := sha256.New()
	size, err = io.Copy(io.MultiWriter(tmp, sum), io.LimitReader(r, limit+1))
	if err != nil {
		return h, size, fmt.Errorf("the upload broke off: %w", err)
	}
	if size > limit {
		return h, size, ErrTooLarge
	}
	sum.Sum(h[:0])
	if _, ok, err := Size(ctx, s, h); ok || err != nil {
		return h, size, err
	}
	if _, err := tmp.Seek(0, io.SeekStart); err != nil {
		return h, size, err
	}
	buf := make([]byte, piece)
	n := 0
	for {
		k, err := io.ReadFull(tmp, buf)
		if k > 0 {
			if err := s.Small(ctx, func(g *gorm.DB) error {
				return g.Exec("INSERT IGNORE INTO chunks (hash, n, bytes) VALUES (?,?,?)", h, n, buf[:k]).Error
			}); err != nil {
				return h, size, err
			}
			n++
		}
		if errors.Is(err, io.EOF) || errors.Is(err, io.ErrUnexpectedEOF) {
			break
		}
		if err != nil {
			return h, size, err
		}
	}
	return h, size, s.Small(ctx, func(g *gorm.DB) error {
		return g.Exec("INSERT IGNORE INTO files (hash, size, chunks, at) VALUES (?,?,?,NOW(6))", h, size, n).Error
	})
}

// Size returns a file's length and whether it is there.
func Size(ctx context.Context, s *store.Store, h store.Hash) (size int64, ok bool, err error) {
	r := s.Read(ctx).Raw("SELECT size FROM files WHERE hash = ?", h).Scan(&size)
	return size, r.RowsAffected > 0, r.Error
}

// Open reads a file, one piece at a time.
func Open(ctx context.Context, s *store.Store, h store.Hash) (io.ReadCloser, int64, error) {
	size, ok, err := Size(ctx, s, h)
	if err == nil && !ok {
		err = store.ErrNotFound
	}
	if err != nil {
		return nil, 0, err
	}
	return &file{ctx: ctx, s: s, h: h, left: size}, size, nil
}

type file struct {
	ctx  context.Context
	s    *store.Store
	h    store.Hash
	n    int
	buf  []byte
	left int64
}

func (f *file) Read(p []byte) (int, error) {
	if len(f.buf) == 0 {
		if f.left == 0 {
			return 0, io.EOF
		}
		f.buf = nil
		err := f.s.Read(f.ctx).Raw("SELECT bytes FROM chunks WHERE hash = ? AND n = ?", f.h, f.n).Row().Scan(&f.buf)
		if err != nil && !errors.Is(err, sql.ErrNoRows) {
			return 0, err
		}
		if len(f.buf) == 0 || int64(len(f.buf)) > f.left {
			return 0, fmt.Errorf("piece %d of the file %s is missing or damaged", f.n, f.h)
		}
		f.n++
		f.left -= int64(len(f.buf))
	}
	k := copy(p, f.buf)
	f.buf = f.buf[k:]
	return k, nil
}

func (f *file) Close() error { return nil }
