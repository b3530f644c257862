// Package blobs keeps files as they came, by hash, in pieces of 1 MiB in the database, so that any instance can
// serve them.
package blobs

import (
	"context"
	"crypto/sha256"
	"errors"
	"fmt"
	"io"
	"os"

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
	if _, ok, err := s.Read(ctx).FileSize(h); ok || err != nil {
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
			if err := s.AddChunk(ctx, h, n, buf[:k]); err != nil {
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
	return h, size, s.AddFile(ctx, h, size, n)
}

// Open reads a file, one piece at a time.
func Open(s store.Reader, h store.Hash) (io.ReadCloser, int64, error) {
	size, ok, err := s.FileSize(h)
	if err == nil && !ok {
		err = store.ErrNotFound
	}
	if err != nil {
		return nil, 0, err
	}
	return &file{s: s, h: h, left: size}, size, nil
}

type file struct {
	s    store.Reader
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
		var err error
		if f.buf, err = f.s.Chunk(f.h, f.n); err != nil {
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
