// Package files keeps the files that people bring, as they came, and reads what is in them as a table or as models.
package files

import (
	"context"
	"errors"
	"fmt"
	"io"
	"path/filepath"
	"strings"

	"jollydrawer/formats/rows"
	"jollydrawer/formats/tabular"
	"jollydrawer/internal/blobs"
	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/store"
	"jollydrawer/internal/wire"
)

// Files keeps files by their hash.
type Files struct {
	*deed.Desk
	Limits rows.Limits
}

// New returns the kept files of an installation, within limits for what is read from them.
func New(d *deed.Desk, lim rows.Limits) *Files { return &Files{Desk: d, Limits: lim} }

// Keep stores an upload by its hash. The name is only kept for showing.
func (s *Files) Keep(ctx context.Context, c deed.Call, name string, r io.Reader) (wire.File, error) {
	if err := deed.Allow(c, deed.OpFileKeep); err != nil {
		return wire.File{}, err
	}
	name = CleanName(name)
	h, size, err := blobs.Put(ctx, s.Store, r, s.Limits.Bytes)
	if errors.Is(err, blobs.ErrTooLarge) {
		return wire.File{}, deed.Fault(deed.TooLarge, "file-too-large", fmt.Sprintf("%s has more than %d MB, which is the limit; nothing was kept.", name, s.Limits.Bytes>>20),
			"Split it, or let an administrator raise the setting max-upload.")
	}
	if err == nil && size == 0 {
		return wire.File{}, deed.Fault(deed.Invalid, "file-empty", fmt.Sprintf("%s is empty.", name), "Save it again and check that it holds something.")
	}
	return wire.File{Hash: h.String(), Name: name, Size: size}, deed.Sentence(err, "file")
}

// CleanName drops folders and control characters from a file's name.
func CleanName(name string) string {
	name = filepath.Base(strings.ReplaceAll(name, "\\", "/"))
	name = strings.Map(func(r rune) rune {
		if r < 0x20 || r == 0x7F {
			return -1
		}
		return r
	}, name)
	if len(name) > 255 {
		name = strings.ToValidUTF8(name[:255], "")
	}
	if name == "" || name == "." || name == "/" {
		return "file"
	}
	return name
}

// Open reads a stored file.
func (s *Files) Open(ctx context.Context, c deed.Call, hash string) (io.ReadCloser, int64, error) {
	if err := deed.Allow(c, deed.OpRead); err != nil {
		return nil, 0, err
	}
	h, err := store.ParseHash(hash)
	if err != nil {
		return nil, 0, deed.Fault(deed.Unknown, "not-found", "There is no such file.", "")
	}
	r, size, err := blobs.Open(s.Store.Read(ctx), h)
	return r, size, deed.Sentence(err, "file")
}

// Table opens a stored file as a table.
func (s *Files) Table(ctx context.Context, hash string, want rows.Layout) (rows.Reader, error) {
	h, err := store.ParseHash(hash)
	if err != nil {
		return nil, deed.Fault(deed.Invalid, "file-missing", "There is no such file.", "Upload it first.")
	}
	r, size, err := blobs.Open(s.Store.Read(ctx), h)
	if errors.Is(err, store.ErrNotFound) {
		return nil, deed.Fault(deed.Invalid, "file-missing", "There is no such file.", "Upload it first.")
	}
	if err != nil {
		return nil, err
	}
	return tabular.Open(r, size, want, s.Limits)
}
