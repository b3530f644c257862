package tabular

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

// isWorkbook says whether an archive is an XLSX workbook (ECMA-376).
func isWorkbook(raw []byte) bool {
	z, err := zip.NewReader(bytes.NewReader(raw), int64(len(raw)))
	if err != nil {
		return true // the workbook's reader says what is wrong with it
	}
	for _, f := range z.File {
		if strings.HasPrefix(f.Name, "xl/") {
			return true
		}
	}
	return false
}

// openArchive opens an archive whose files are held in memory only: no path is ever written, but one that would escape
// tells of an archive that nobody should trust.
func openArchive(raw []byte) (*zip.Reader, error) {
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
			return nil, rows.Errorf("The archive would unpack to more than %d MB from %d kB: it is not opened, because no real parts list is packed like this.", total>>20, len(raw)>>10)
		}
		clean := path.Clean(strings.ReplaceAll(f.Name, "\\", "/"))
		if strings.HasPrefix(clean, "../") || clean == ".." || strings.HasPrefix(clean, "/") || len(clean) > 1 && clean[1] == ':' {
			return nil, rows.Errorf("The archive holds a path that leads out of it (%q): it is not opened.", f.Name)
		}
	}
	return z, nil
}

var tableEndings = []string{".csv", ".tsv", ".txt", ".json", ".jsonl", ".ndjson", ".xlsx"}

func fromArchive(raw []byte, want rows.Layout, lim rows.Limits) (rows.Reader, error) {
	z, err := openArchive(raw)
	if err != nil {
		return nil, err
	}
	var names []string
	var chosen, nested *zip.File
	for _, f := range z.File {
		base := path.Base(f.Name)
		if f.FileInfo().IsDir() || strings.HasPrefix(base, ".") || strings.Contains(f.Name, "__MACOSX") {
			continue
		}
		if strings.HasSuffix(strings.ToLower(base), ".zip") {
			nested = f
		}
		for _, end := range tableEndings {
			if strings.HasSuffix(strings.ToLower(base), end) {
				names = append(names, f.Name)
				if want.Inside == f.Name || want.Inside == "" && chosen == nil {
					chosen = f
				}
			}
		}
	}
	switch {
	case chosen == nil && want.Inside != "":
		return nil, rows.Errorf("The archive has no table %q; it has %s.", want.Inside, strings.Join(names, ", "))
	case chosen == nil && nested != nil:
		return nil, rows.Errorf("The archive holds another archive (%s) and no table: unpack it once and bring in what is inside.", nested.Name)
	case chosen == nil:
		return nil, rows.Errorf("The archive holds no table: CSV, XLSX or JSON is looked for.")
	}
	body, err := chosen.Open()
	if err != nil {
		return nil, rows.Errorf("%s in the archive cannot be unpacked: pack it again.", chosen.Name)
	}
	inner := want
	inner.Inside = ""
	r, err := openPlain(body, int64(chosen.UncompressedSize64), inner, lim, false)
	if err != nil {
		body.Close()
		return nil, err
	}
	return &inside{r, chosen.Name, names}, nil
}

// inside is a table in an archive.
type inside struct {
	rows.Reader
	name  string
	names []string
}

func (x *inside) Layout() rows.Layout {
	l := x.Reader.Layout()
	l.Inside, l.Files = x.name, x.names
	return l
}

// Beside returns the files of an ending that came in one archive with a table, by their path in small letters; none
// where r is no archive.
func Beside(r io.Reader, size int64, ending string, lim rows.Limits) (map[string][]byte, error) {
	head := make([]byte, 4)
	if n, err := io.ReadFull(r, head); err != nil || n < 4 || string(head) != "PK\x03\x04" || lim.Bytes > 0 && size > lim.Bytes {
		return nil, nil
	}
	raw, err := io.ReadAll(io.LimitReader(io.MultiReader(bytes.NewReader(head), r), size+1))
	if err != nil {
		return nil, err
	}
	if isWorkbook(raw) {
		return nil, nil
	}
	z, err := openArchive(raw)
	if err != nil {
		return nil, err
	}
	out := map[string][]byte{}
	for _, f := range z.File {
		if !strings.HasSuffix(strings.ToLower(f.Name), ending) {
			continue
		}
		body, err := f.Open()
		if err != nil {
			continue
		}
		raw, err := io.ReadAll(io.LimitReader(body, int64(f.UncompressedSize64)+1))
		body.Close()
		if err == nil {
			out[strings.ToLower(path.Clean(strings.ReplaceAll(f.Name, "\\", "/")))] = raw
		}
	}
	return out, nil
}
