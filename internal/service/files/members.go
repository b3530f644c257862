package files

import (
	"fmt"
	"io"

	"jollydrawer/formats/drop"
	"jollydrawer/internal/blobs"
	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/store"
)

// Members reads a kept file as a drop.
func (s *Files) Members(r store.Reader, hash, name string) ([]drop.Member, error) {
	raw, err := s.Whole(r, hash, name)
	if err != nil {
		return nil, err
	}
	lim := drop.DefaultLimits
	lim.Member, lim.Table = min(lim.Member, s.Limits.Bytes), s.Limits
	return drop.Read(name, raw, lim)
}

func (s *Files) Whole(r store.Reader, hash, name string) ([]byte, error) {
	missing := deed.Fault(deed.Invalid, "file-missing", fmt.Sprintf("The file %q is not there.", name), "Upload it first.")
	h, err := store.ParseHash(hash)
	if err != nil {
		return nil, missing
	}
	f, size, err := blobs.Open(r, h)
	if err != nil {
		return nil, missing
	}
	defer f.Close()
	return io.ReadAll(io.LimitReader(f, size))
}
