package readout

import (
	"archive/zip"
	"bytes"
	"context"
	"crypto/sha256"
	"encoding/csv"
	"encoding/hex"
	"encoding/json"
	"fmt"
	"io"
	"strings"

	"jollydrawer/core/model"
	"jollydrawer/core/part"
	"jollydrawer/formats/rows"
	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/service/models"
	"jollydrawer/internal/service/parts"
	"jollydrawer/internal/store"
)

// folderFile is one file of the readout folder.
type folderFile struct {
	Path string `json:"path"`
	Hash string `json:"sha256"`
}

// folderModel is a model of a part in the index.
type folderModel struct {
	Name     string       `json:"name"`
	Revision int          `json:"revision"`
	For      string       `json:"for,omitempty"`
	Files    []folderFile `json:"files"`
}

// folderPart is a part in the index.
type folderPart struct {
	Number      string        `json:"part"`
	Revision    int           `json:"revision"`
	Symbol      *folderModel  `json:"symbol,omitempty"`
	LandPattern *folderModel  `json:"landPattern,omitempty"`
	Others      []folderModel `json:"otherLandPatterns,omitempty"`
	Body        *folderModel  `json:"body,omitempty"`
	PinMap      *folderModel  `json:"pinMap,omitempty"`
}

// folder writes the readout folder as an archive: each file once, in the order in which parts need it, the index last.
type folder struct {
	s       *Readout
	z       *zip.Writer
	written map[string][]folderFile // model and revision → its files
	parts   []folderPart
}

// foldersOf is where the models of a kind lie.
var foldersOf = map[model.Kind]string{model.KindSymbol: "symbols", model.KindLand: "land-patterns", model.KindBody: "bodies", model.KindPinMap: "pin-maps"}

// WriteFolder writes the released models of all released parts, or of one part, as a ZIP archive with an index.
func (s *Readout) WriteFolder(ctx context.Context, c deed.Call, number string, w io.Writer) error {
	if err := deed.Allow(c, deed.OpRead); err != nil {
		return err
	}
	f := &folder{s: s, z: zip.NewWriter(w), written: map[string][]folderFile{}, parts: []folderPart{}}
	if number != "" {
		h, err := s.Parts.Find(ctx, number)
		if err != nil {
			return deed.Sentence(err, "part")
		}
		if h.Released.IsZero() {
			return deed.Fault(deed.Invalid, "not-released", h.Number+" is not released: a design tool takes what is released.", "Release it first.")
		}
		if err := f.part(ctx, h); err != nil {
			return err
		}
	} else {
		for offset := 0; ; offset += 500 {
			heads, err := s.Store.Read(ctx).ReleasedParts(offset, 500)
			if err != nil {
				return err
			}
			for _, h := range heads {
				if err := f.part(ctx, h); err != nil {
					return err
				}
			}
			if len(heads) < 500 {
				break
			}
		}
	}
	return f.finish()
}

func (f *folder) part(ctx context.Context, h store.Head) error {
	content, err := f.s.Store.Read(ctx).Content(h.Released)
	if err != nil {
		return err
	}
	p, _, err := parts.Decode(content)
	if err != nil {
		return err
	}
	out := folderPart{Number: h.Number, Revision: h.Revision}
	for _, at := range []struct {
		m    *part.Model
		into **folderModel
	}{{p.Symbol, &out.Symbol}, {p.LandPattern, &out.LandPattern}, {p.Body, &out.Body}, {p.PinMap, &out.PinMap}} {
		if at.m != nil && at.m.Revision > 0 {
			if *at.into, err = f.model(ctx, *at.m); err != nil {
				return err
			}
		}
	}
	for _, o := range p.OtherLands {
		if o.Model.Revision == 0 {
			continue
		}
		m, err := f.model(ctx, o.Model)
		if err != nil {
			return err
		}
		m.For = o.For
		out.Others = append(out.Others, *m)
	}
	f.parts = append(f.parts, out)
	return nil
}

// model writes a model's files the first time it is met. Its path is made of its first released name and its ID, and never
// changes: later revisions lie at the same place, and two revisions in use at once have the older one beside it.
func (f *folder) model(ctx context.Context, m part.Model) (*folderModel, error) {
	out := &folderModel{Name: m.Name, Revision: m.Revision}
	key := fmt.Sprintf("%s@%d", m.ID, m.Revision)
	if files, ok := f.written[key]; ok {
		out.Files = files
		return out, nil
	}
	d, err := f.s.Models.AtRevision(f.s.Store.Read(ctx), m.ID, m.Revision)
	if err != nil {
		return nil, fmt.Errorf("%s, revision %d: %w", m.Name, m.Revision, err)
	}
	first, err := f.s.Models.AtRevision(f.s.Store.Read(ctx), m.ID, 1)
	if err != nil {
		return nil, err
	}
	id, err := store.ParseID(m.ID)
	if err != nil {
		return nil, err
	}
	h, err := f.s.Store.Read(ctx).Head(store.KindModel, id)
	if err != nil {
		return nil, err
	}
	base := foldersOf[d.Kind] + "/" + models.Slug(first.Name) + "-" + strings.ReplaceAll(m.ID, "-", "")[20:]
	if m.Revision < h.Revision {
		base += fmt.Sprintf("-r%d", m.Revision)
	}
	out.Files = []folderFile{}
	add := func(ending string, raw []byte) error {
		file, err := f.add(base+ending, raw)
		out.Files = append(out.Files, file)
		return err
	}
	if d.Drawn() {
		raw, err := model.WriteDocument(&d.Content)
		if err != nil {
			return nil, err
		}
		if err := add(".json", raw); err != nil {
			return nil, err
		}
	}
	raw, ending, err := f.s.Models.OtherForm(ctx, &d.Content)
	if err != nil {
		return nil, err
	}
	if raw != nil {
		if err := add(ending, raw); err != nil {
			return nil, err
		}
	}
	f.written[key] = out.Files
	return out, nil
}

func (f *folder) add(path string, raw []byte) (folderFile, error) {
	sum := sha256.Sum256(raw)
	w, err := f.z.CreateHeader(&zip.FileHeader{Name: path, Method: zip.Deflate, Modified: models.Aged})
	if err != nil {
		return folderFile{}, err
	}
	_, err = w.Write(raw)
	return folderFile{Path: path, Hash: hex.EncodeToString(sum[:])}, err
}

func (f *folder) finish() error {
	raw, err := json.MarshalIndent(map[string]any{"format": "jolly-readout-folder/1", "parts": f.parts}, "", " ")
	if err != nil {
		return err
	}
	if _, err := f.add("index.json", append(raw, '\n')); err != nil {
		return err
	}
	var b bytes.Buffer
	w := csv.NewWriter(&b)
	_ = w.Write([]string{"part", "revision", "kind", "for", "model", "model revision", "file", "sha256"}) // a Buffer takes every write
	for _, p := range f.parts {
		line := func(kind string, m *folderModel) {
			if m == nil {
				return
			}
			for _, file := range m.Files {
				_ = w.Write([]string{rows.SafeCell(p.Number), fmt.Sprint(p.Revision), kind, rows.SafeCell(m.For), rows.SafeCell(m.Name), fmt.Sprint(m.Revision), file.Path, file.Hash})
			}
		}
		line("symbol", p.Symbol)
		line("land pattern", p.LandPattern)
		for i := range p.Others {
			line("land pattern", &p.Others[i])
		}
		line("body", p.Body)
		line("pin map", p.PinMap)
	}
	w.Flush()
	if _, err := f.add("index.csv", b.Bytes()); err != nil {
		return err
	}
	return f.z.Close()
}
