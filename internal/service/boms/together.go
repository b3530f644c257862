package boms

import (
	"bytes"
	"context"
	"encoding/csv"
	"errors"
	"strings"

	"jollydrawer/core/bom"
	"jollydrawer/core/cabinet"
	"jollydrawer/formats/rows"
	"jollydrawer/internal/blobs"
	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/service/files"
	"jollydrawer/internal/wire"
)

// variantFile is the file of one variant of a board, which was put together with those of the others.
type variantFile struct {
	Variant  string        `json:"variant"`
	FileName string        `json:"fileName"`
	FileHash string        `json:"fileHash"`
	Skipped  []bom.Skipped `json:"skipped,omitempty"` // its rows that are no lines
}

// from is the part of a BOM that says which file it is read of, and that file as it is read. The files of variants are put together and kept as one, which is read as any
// other; they are kept themselves as they came.
func (s *BOMs) from(ctx context.Context, in wire.BOMFile, cab *cabinet.Cabinet) (doc bomDoc, read bomFile, err error) {
	if len(in.Files) == 0 {
		if in.FileHash == "" || in.FileName == "" {
			return doc, read, deed.Fault(deed.Invalid, "file-missing", "No file is named that the BOM is in.", "Name a file, or one of each variant of the board.")
		}
		doc.FileHash, doc.FileName, doc.Layout = in.FileHash, files.CleanName(in.FileName), in.Layout
		read, err = s.bomLines(ctx, doc, cab)
		return doc, read, err
	}
	if in.FileHash != "" {
		return doc, read, deed.Fault(deed.Invalid, "file-twice", "A BOM is in one file, or in one of each variant of its board, not both.", "")
	}
	var all []bom.VariantFile
	var called []string
	for _, f := range in.Files {
		own := bomDoc{FileHash: f.FileHash, FileName: files.CleanName(f.FileName), Layout: f.Layout}
		one, err := s.bomLines(ctx, own, cab)
		if e := new(deed.Error); errors.As(err, &e) {
			named := *e
			named.What = own.FileName + ": " + e.What
			return doc, read, &named
		}
		if err != nil {
			return doc, read, err
		}
		v := variantFile{Variant: strings.Join(strings.Fields(f.Variant), " "), FileName: own.FileName, FileHash: own.FileHash, Skipped: one.skipped}
		doc.Files = append(doc.Files, v)
		all = append(all, bom.VariantFile{Variant: v.Variant, Columns: one.columns, Lines: one.lines})
		called = append(called, own.FileName)
	}
	header, table, err := bom.Together(all)
	if err != nil {
		return doc, read, notTogether(err)
	}
	var out bytes.Buffer
	w := csv.NewWriter(&out)
	if err := w.WriteAll(append([][]string{header}, table...)); err != nil {
		return doc, read, err
	}
	hash, _, err := blobs.Put(ctx, s.Store, &out, s.files.Limits.Bytes)
	if err != nil {
		return doc, read, err
	}
	doc.FileHash, doc.FileName = hash.String(), files.CleanName(strings.Join(called, " + "))
	doc.Layout = rows.Layout{Format: "csv", Encoding: "utf-8", Delimiter: ",", HeaderRow: 1}
	if read, err = s.bomLines(ctx, doc, cab); err != nil {
		return doc, read, err
	}
	if wrong := bom.AsPutTogether(all, read.columns, read.lines); wrong != nil {
		return doc, read, notTogether(wrong)
	}
	return doc, read, nil
}

func notTogether(err error) error {
	return deed.Fault(deed.Invalid, "not-together", "The files of the variants cannot be put together: "+err.Error()+".", "Mend that, or bring them in as boards of their own.")
}

// readOf says that a BOM is read of the file that another one is read of.
func (d *bomDoc) readOf(o bomDoc) {
	d.FileHash, d.FileName, d.Layout, d.Files = o.FileHash, o.FileName, o.Layout, o.Files
}

// variantNames are the variants whose files were put together, in their order.
func (d bomDoc) variantNames() (out []string) {
	for _, f := range d.Files {
		out = append(out, f.Variant)
	}
	return out
}

// skippedOf are the rows of the files of variants that are no lines.
func (d bomDoc) skippedOf() (out []bom.Skipped) {
	for _, f := range d.Files {
		for _, k := range f.Skipped {
			k.Why = f.FileName + ": " + k.Why
			out = append(out, k)
		}
	}
	return out
}

// filesView are the files of variants that a BOM is made of.
func (d bomDoc) filesView() (out []wire.VariantFile) {
	for _, f := range d.Files {
		out = append(out, wire.VariantFile{Variant: f.Variant, FileName: f.FileName, FileHash: f.FileHash})
	}
	return out
}
