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
	"jollydrawer/internal/service/policy"
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

// folderPart is a part in the index: what it is, and the exact models that it was released with.
type folderPart struct {
	Number      string            `json:"part"`
	Revision    int               `json:"revision"`
	Drawer      string            `json:"drawer"`
	Description string            `json:"description,omitempty"`
	Status      string            `json:"status"`
	Standing    string            `json:"standing"`
	Values      map[string]string `json:"values,omitempty"` // as people write them, by the key of the parameter
	Texts       []model.PartText  `json:"texts,omitempty"`  // what its drawing says, and where
	Sources     []part.Source     `json:"sources,omitempty"`
	Symbol      *folderModel      `json:"symbol,omitempty"`
	LandPattern *folderModel      `json:"landPattern,omitempty"`
	Others      []folderModel     `json:"otherLandPatterns,omitempty"`
	Body        *folderModel      `json:"body,omitempty"`
	PinMap      *folderModel      `json:"pinMap,omitempty"`
}

// newestModel is a model in the index with the path that holds its newest revision.
type newestModel struct {
	Kind string `json:"kind"`
	folderModel
}

// folder writes the readout folder as an archive: each file once, the index last.
//
// A path that ends in the number of a revision holds what was released under it, for ever: a part names that one, so that what a tool has
// placed changes only where somebody takes another revision. The path without a number holds the newest. Both are made of the first
// name under which the model was released and of its identifier, so that neither a rename nor a merging moves them, and none goes away:
// every revision that was ever released is written, whether a part uses it now or not.
type folder struct {
	s       *Readout
	z       *zip.Writer
	rules   policy.Rules
	written map[string]folderModel // by model and revision
	newest  map[string]bool        // models whose newest is written
	parts   []folderPart
	models  []newestModel
}

// foldersOf is where the models of a kind lie.
var foldersOf = map[model.Kind]string{model.KindSymbol: "symbols", model.KindLand: "land-patterns", model.KindBody: "bodies", model.KindPinMap: "pin-maps"}

// WriteFolder writes the models of all released parts, or of one part, as a ZIP archive with an index.
func (s *Readout) WriteFolder(ctx context.Context, c deed.Call, number string, w io.Writer) error {
	if err := deed.Allow(c, deed.OpRead); err != nil {
		return err
	}
	rules, err := s.Policy.Rules(s.Store.Read(ctx))
	if err != nil {
		return err
	}
	f := &folder{s: s, z: zip.NewWriter(w), rules: rules, written: map[string]folderModel{}, newest: map[string]bool{}, parts: []folderPart{}, models: []newestModel{}}
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
		return f.finish()
	}
	if err := f.all(ctx); err != nil {
		return err
	}
	return f.finish()
}

// all writes all models, and lists all released parts.
func (f *folder) all(ctx context.Context) error {
	r := f.s.Store.Read(ctx)
	for offset := 0; ; offset += 500 {
		heads, err := r.ReleasedModels(offset, 500)
		if err != nil {
			return err
		}
		for _, h := range heads {
			for n := 1; n <= h.Revision; n++ {
				if _, err := f.model(ctx, part.Model{ID: h.ID.String(), Revision: n}); err != nil {
					return err
				}
			}
		}
		if len(heads) < 500 {
			break
		}
	}
	for offset := 0; ; offset += 500 {
		heads, err := r.ReleasedParts(offset, 500)
		if err != nil {
			return err
		}
		for _, h := range heads {
			if err := f.part(ctx, h); err != nil {
				return err
			}
		}
		if len(heads) < 500 {
			return nil
		}
	}
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
	out := folderPart{Number: h.Number, Revision: h.Revision, Drawer: p.Drawer, Description: p.Description, Sources: p.Sources, Status: f.rules.Status(h).Word, Standing: f.rules.Standing(h).Word, Values: map[string]string{}}
	if cab, _ := f.rules.Cabinet(); cab != nil {
		if t, ok := cab.Template(p.Drawer); ok {
			for key, v := range p.Values {
				if slot, ok := t.Slot(key); ok && !v.IsBlank() {
					out.Values[key] = slot.Shown(v)
				}
			}
			if out.Texts, err = f.texts(ctx, models.TextsOf(t, h.Number, p), p, cab.Document.House); err != nil {
				return err
			}
		}
	}
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

// texts places what a part's drawing says on the symbol that it was released with.
func (f *folder) texts(ctx context.Context, texts []model.PartText, p part.Content, h model.House) ([]model.PartText, error) {
	if p.Symbol == nil || p.Symbol.Revision == 0 {
		return texts, nil
	}
	d, err := f.s.Models.AtRevision(f.s.Store.Read(ctx), p.Symbol.ID, p.Symbol.Revision)
	if err != nil || d.Symbol == nil {
		return texts, err
	}
	return d.Symbol.PlaceTexts(h, texts), nil
}

// model writes a revision of a model the first time it is met, and the newest one of it.
func (f *folder) model(ctx context.Context, m part.Model) (*folderModel, error) {
	key := fmt.Sprintf("%s@%d", m.ID, m.Revision)
	if was, ok := f.written[key]; ok {
		return &was, nil
	}
	r := f.s.Store.Read(ctx)
	d, err := f.s.Models.AtRevision(r, m.ID, m.Revision)
	if err != nil {
		return nil, fmt.Errorf("%s, revision %d: %w", m.Name, m.Revision, err)
	}
	out := &folderModel{Name: d.Name, Revision: m.Revision}
	first, err := f.s.Models.AtRevision(r, m.ID, 1)
	if err != nil {
		return nil, err
	}
	id, err := store.ParseID(m.ID)
	if err != nil {
		return nil, err
	}
	h, err := r.Head(store.KindModel, id)
	if err != nil {
		return nil, err
	}
	base := foldersOf[d.Kind] + "/" + models.Slug(first.Name) + "-" + strings.ReplaceAll(m.ID, "-", "")[20:]
	if out.Files, err = f.files(ctx, fmt.Sprintf("%s-r%d", base, m.Revision), &d.Content); err != nil {
		return nil, err
	}
	f.written[key] = *out
	if f.newest[m.ID] {
		return out, nil
	}
	f.newest[m.ID] = true
	last, err := f.s.Models.AtRevision(r, m.ID, h.Revision)
	if err != nil {
		return nil, err
	}
	files, err := f.files(ctx, base, &last.Content)
	f.models = append(f.models, newestModel{string(d.Kind), folderModel{Name: last.Name, Revision: h.Revision, Files: files}})
	return out, err
}

// files writes a drawing in its forms.
func (f *folder) files(ctx context.Context, base string, c *model.Content) ([]folderFile, error) {
	out := []folderFile{}
	add := func(ending string, raw []byte) error {
		file, err := f.add(base+ending, raw)
		out = append(out, file)
		return err
	}
	if c.Drawn() {
		raw, err := model.WriteDocument(c)
		if err != nil {
			return nil, err
		}
		if err := add(".json", raw); err != nil {
			return nil, err
		}
	}
	raw, ending, err := f.s.Models.OtherForm(ctx, c)
	if err != nil {
		return nil, err
	}
	if raw != nil {
		err = add(ending, raw)
	}
	return out, err
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
	raw, err := json.MarshalIndent(map[string]any{"format": "jolly-readout-folder/2", "parts": f.parts, "newest": f.models}, "", " ")
	if err != nil {
		return err
	}
	if _, err := f.add("index.json", append(raw, '\n')); err != nil {
		return err
	}
	var b bytes.Buffer
	w := csv.NewWriter(&b)
	_ = w.Write([]string{"part", "revision", "kind", "for", "model", "model revision", "file", "sha256", "drawer", "description", "manufacturer", "mpn", "status", "standing"}) // a Buffer takes every write
	for _, p := range f.parts {
		line := func(kind string, m *folderModel) {
			if m == nil {
				return
			}
			maker, mpn := "", ""
			if len(p.Sources) > 0 {
				maker, mpn = p.Sources[0].Manufacturer, p.Sources[0].MPN
			}
			for _, file := range m.Files {
				_ = w.Write([]string{rows.SafeCell(p.Number), fmt.Sprint(p.Revision), kind, rows.SafeCell(m.For), rows.SafeCell(m.Name), fmt.Sprint(m.Revision), file.Path, file.Hash,
					p.Drawer, rows.SafeCell(p.Description), rows.SafeCell(maker), rows.SafeCell(mpn), p.Status, p.Standing})
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
