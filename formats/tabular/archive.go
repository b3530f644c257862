package tabular

import (
	"archive/zip"
	"bytes"
	"io"
	"path"
	"strings"

	"jollydrawer/formats/archive"
	"jollydrawer/formats/rows"
	"jollydrawer/formats/workbook"
)

// isWorkbook says whether an archive is a workbook.
func isWorkbook(raw []byte) bool {
	z, err := zip.NewReader(bytes.NewReader(raw), int64(len(raw)))
	if err != nil {
		return true // the workbook's reader says what is wrong with it
	}
	return workbook.Kind(z) != ""
}

var tableEndings = []string{".csv", ".tsv", ".txt", ".json", ".jsonl", ".ndjson", ".xlsx", ".ods"}

func fromArchive(raw []byte, want rows.Layout, lim rows.Limits) (rows.Reader, error) {
	z, err := archive.Open(raw)
	if err != nil {
		return nil, err
	}
	var names []string
	var chosen, nested *zip.File
	for _, f := range z.File {
		base := path.Base(f.Name)
		if archive.Passed(f) {
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
		return nil, rows.Errorf("The archive holds no table: CSV, XLSX, ODS or JSON is looked for.")
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
	z, err := archive.Open(raw)
	if err != nil {
		return nil, err
	}
	out := map[string][]byte{}
	for _, f := range z.File {
		if !strings.HasSuffix(strings.ToLower(f.Name), ending) {
			continue
		}
		if raw, err := archive.Read(f); err == nil {
			out[strings.ToLower(path.Clean(strings.ReplaceAll(f.Name, "\\", "/")))] = raw
		}
	}
	return out, nil
}
