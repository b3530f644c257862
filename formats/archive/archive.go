// Package archive opens zip archives from outside with care: in memory only, with limits on what they unpack to, and
// without paths that lead out. What the files inside are is left to others.
package archive

import (
	"archive/zip"
	"bytes"
	"io"
	"path"
	"strings"

	"jollydrawer/formats/rows"
)

// What an archive may unpack to, how much more than its packed size, and how many files it may hold.
const (
	maxUnpacked = 512 << 20
	maxRatio    = 200
	maxFiles    = 20_000
)

// Is says whether raw begins as a zip archive does.
func Is(raw []byte) bool { return bytes.HasPrefix(raw, []byte("PK\x03\x04")) }

// Open opens an archive whose files are held in memory only: no path is ever written, but one that would escape tells of
// an archive that nobody should trust.
func Open(raw []byte) (*zip.Reader, error) {
	z, err := zip.NewReader(bytes.NewReader(raw), int64(len(raw)))
	if err != nil {
		return nil, rows.Errorf("The archive is damaged: pack it again.")
	}
	if len(z.File) > maxFiles {
		return nil, rows.Errorf("The archive holds %d files; at most %d are read.", len(z.File), maxFiles)
	}
	total := uint64(0)
	for _, f := range z.File {
		if total += f.UncompressedSize64; f.UncompressedSize64 > maxUnpacked || total > maxUnpacked || total > uint64(len(raw))*maxRatio+1<<20 {
			return nil, rows.Errorf("The archive would unpack to more than %d MB from %d kB: it is not opened, because no real files are packed like this.", total>>20, len(raw)>>10)
		}
		clean := path.Clean(strings.ReplaceAll(f.Name, "\\", "/"))
		if strings.HasPrefix(clean, "../") || clean == ".." || strings.HasPrefix(clean, "/") || len(clean) > 1 && clean[1] == ':' {
			return nil, rows.Errorf("The archive holds a path that leads out of it (%q): it is not opened.", f.Name)
		}
	}
	return z, nil
}

// Passed says whether a member is only there because of the program that packed it.
func Passed(f *zip.File) bool {
	return f.FileInfo().IsDir() || strings.HasPrefix(path.Base(f.Name), ".") || strings.Contains(f.Name, "__MACOSX")
}

// Read unpacks one member, never more than its own head states.
func Read(f *zip.File) ([]byte, error) {
	body, err := f.Open()
	if err != nil {
		return nil, rows.Errorf("%q in the archive cannot be unpacked: pack it again.", f.Name)
	}
	defer body.Close()
	raw, err := io.ReadAll(io.LimitReader(body, int64(f.UncompressedSize64)+1))
	if err != nil || uint64(len(raw)) != f.UncompressedSize64 {
		return nil, rows.Errorf("%q in the archive is damaged: pack it again.", f.Name)
	}
	return raw, nil
}
