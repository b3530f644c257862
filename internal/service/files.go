package service

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
	"jollydrawer/internal/store"
	"jollydrawer/internal/wire"
)

// KeepFile stores an upload by its hash. The name is only kept for showing.
func (s *Service) KeepFile(ctx context.Context, c Call, name string, r io.Reader) (wire.File, error) {
	if err := allow(c, OpFileKeep); err != nil {
		return wire.File{}, err
	}
	name = cleanName(name)
	h, size, err := blobs.Put(ctx, s.Store, r, s.Limits.Bytes)
	if errors.Is(err, blobs.ErrTooLarge) {
		return wire.File{}, fault(TooLarge, "file-too-large", fmt.Sprintf("%s has more than %d MB, which is the limit; nothing was kept.", name, s.Limits.Bytes>>20),
			"Split it, or let an administrator raise the setting max-upload.")
	}
	if err == nil && size == 0 {
		return wire.File{}, fault(Invalid, "file-empty", fmt.Sprintf("%s is empty.", name), "Save it again and check that it holds something.")
	}
	return wire.File{Hash: h.String(), Name: name, Size: size}, sentence(err, "file")
}

// cleanName drops folders and control characters from a file's name.
func cleanName(name string) string {
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

// File reads a stored file.
func (s *Service) File(ctx context.Context, c Call, hash string) (io.ReadCloser, int64, error) {
	if err := allow(c, OpRead); err != nil {
		return nil, 0, err
	}
	h, err := store.ParseHash(hash)
	if err != nil {
		return nil, 0, fault(Unknown, "not-found", "There is no such file.", "")
	}
	r, size, err := blobs.Open(ctx, s.Store, h)
	return r, size, sentence(err, "file")
}

// openTable opens a stored file as a table.
func (s *Service) openTable(ctx context.Context, hash string, want rows.Layout) (rows.Reader, error) {
	h, err := store.ParseHash(hash)
	if err != nil {
		return nil, fault(Invalid, "file-missing", "There is no such file.", "Upload it first.")
	}
	r, size, err := blobs.Open(ctx, s.Store, h)
	if errors.Is(err, store.ErrNotFound) {
		return nil, fault(Invalid, "file-missing", "There is no such file.", "Upload it first.")
	}
	if err != nil {
		return nil, err
	}
	return tabular.Open(r, size, want, s.Limits)
}
