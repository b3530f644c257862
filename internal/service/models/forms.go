package models

import (
	"bytes"
	"context"
	"encoding/csv"
	"fmt"
	"strings"
	"time"

	"jollydrawer/core/model"
	"jollydrawer/formats/edif"
	"jollydrawer/formats/ipc2581"
	"jollydrawer/formats/rows"
	"jollydrawer/formats/step"
	"jollydrawer/internal/service/deed"
)

// aged is the date of all files in the archive, so that the same library gives the same bytes.
var Aged = time.Date(2026, 1, 1, 0, 0, 0, 0, time.UTC)

// Slug is a name as a path may have it.
func Slug(s string) string {
	out := strings.Map(func(r rune) rune {
		switch {
		case r >= 'a' && r <= 'z' || r >= '0' && r <= '9' || r == '.':
			return r
		case r >= 'A' && r <= 'Z':
			return r + 'a' - 'A'
		}
		return '-'
	}, s)
	for strings.Contains(out, "--") {
		out = strings.ReplaceAll(out, "--", "-")
	}
	out = strings.Trim(out, "-.")
	return out[:min(len(out), 60)]
}

// OtherForm is a model in the open form of its kind.
func (s *Models) OtherForm(ctx context.Context, m *model.Content) ([]byte, string, error) {
	var b bytes.Buffer
	switch {
	case m.Symbol != nil:
		err := edif.Write(&b, m.Name, []edif.Cell{{Name: m.Name, Symbol: m.Symbol}})
		return b.Bytes(), ".edif", err
	case m.Land != nil:
		err := ipc2581.Write(&b, []ipc2581.Package{{Name: m.Name, Land: m.Land}})
		return b.Bytes(), ".ipc2581.xml", err
	case m.Body != nil && m.FileHash == "":
		err := step.WriteBlock(&b, m.Name, m.Body.Box, Aged)
		return b.Bytes(), ".step", err
	case m.Kind == model.KindBody:
		raw, err := s.files.Whole(s.Store.Read(ctx), m.FileHash, m.FileName)
		return raw, ".step", err
	}
	return nil, "", nil
}

// padTable is a land pattern's pads as a table, safe to open in a spreadsheet.
func padTable(l *model.LandPattern) ([]byte, error) {
	table := model.PadTable(l)
	for _, row := range table[1:] {
		row[0] = rows.SafeCell(row[0])
	}
	var b bytes.Buffer
	err := csv.NewWriter(&b).WriteAll(table)
	return b.Bytes(), err
}

// File writes one model's newest content in a form: own, edif, ipc2581, pad-table, step, or original.
func (s *Models) File(ctx context.Context, c deed.Call, key, form string) (raw []byte, name string, err error) {
	if err := deed.Allow(c, deed.OpRead); err != nil {
		return nil, "", err
	}
	h, err := s.Find(s.Store.Read(ctx), key)
	if err != nil {
		return nil, "", deed.Sentence(err, "model")
	}
	d, err := s.drawing(s.Store.Read(ctx), h.Newest())
	if err != nil {
		return nil, "", err
	}
	switch {
	case form == "own" && d.Drawn():
		raw, err = model.WriteDocument(&d.Content)
		return raw, Slug(d.Name) + ".json", err
	case form == "pad-table" && d.Land != nil:
		raw, err = padTable(d.Land)
		return raw, Slug(d.Name) + "-pad-table.csv", err
	case form == "original" && d.FileHash != "":
		raw, err = s.files.Whole(s.Store.Read(ctx), d.FileHash, d.FileName)
		return raw, d.FileName, err
	case form == "edif" && d.Symbol != nil, form == "ipc2581" && d.Land != nil, form == "step" && d.Kind == model.KindBody:
		raw, ending, err := s.OtherForm(ctx, &d.Content)
		return raw, Slug(d.Name) + ending, err
	}
	return nil, "", deed.Fault(deed.Invalid, "no-such-form", fmt.Sprintf("%s is a %s and cannot be written as %q.", d.Name, d.Kind, form), "Symbols are written as own or edif, land patterns as own, ipc2581 or pad-table, bodies as own or step; original gives the file as it came.")
}
