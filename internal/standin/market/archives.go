package market

import (
	"archive/zip"
	"encoding/json"
	"fmt"
	"io/fs"
	"net/http"
	"strings"
)

// archive hands out an archive of models: one of the demo's, or one with the maker's symbol and land pattern of a product.
func (m *Market) archive(w http.ResponseWriter, r *http.Request) {
	name := r.PathValue("name")
	m.mu.Lock()
	lost := m.lost[name]
	m.mu.Unlock()
	if lost {
		http.NotFound(w, r)
		return
	}
	raw, err := fs.ReadFile(m.files, "deliveries/"+name)
	if err != nil {
		raw, err = m.packed(name)
	}
	if err != nil {
		http.NotFound(w, r)
		return
	}
	w.Header().Set("Content-Type", "application/zip")
	_, _ = w.Write(raw)
}

// archiveOf is the archive of models that a maker has of a product; blank: none.
func archiveOf(p *product) string {
	if p.models == "" && p.kind == "inductor" {
		return strings.ReplaceAll(p.mpn, "/", "-") + " models.zip"
	}
	return p.models
}

// Lose lets the links to an archive be dead.
func (m *Market) Lose(archive string) {
	m.mu.Lock()
	defer m.mu.Unlock()
	m.lost[archive] = true
}

// DrawnFor is the product for which the symbol was drawn that comes with a product: itself, but for a slip of the maker's.
func DrawnFor(mpn string) string {
	all := catalogue()
	for i := range all {
		if all[i].mpn == mpn {
			return drawnFor(all, i).mpn
		}
	}
	return ""
}

func drawnFor(all []product, i int) *product {
	if p := &all[i]; p.kind != "inductor" || chance(9, p.mpn, "packed") > 0 || all[i+3].kind != "inductor" {
		return p
	}
	return &all[i+3]
}

// packed makes the archive of an inductor: the usual symbol and the land pattern of its case, under the maker's names. Now and then the maker packs
// the symbol of the product beside it.
func (m *Market) packed(name string) ([]byte, error) {
	all := catalogue()
	for i := range all {
		p := &all[i]
		if archiveOf(p) != name || p.kind != "inductor" {
			continue
		}
		drawn := drawnFor(all, i)
		symbol, err := m.renamed("models/inductor.symbol.json", drawn.mpn, map[string]any{"properties": map[string]string{"MPN": drawn.mpn}})
		if err != nil {
			return nil, err
		}
		var length, width float64
		_, _ = fmt.Sscanf(p.facts["case"], "%2f%2f", &width, &length)
		length, width = length/10, max(width/10, 1)
		pads := []map[string]any{}
		for n, side := range []float64{-1, 1} {
			pads = append(pads, map[string]any{"number": fmt.Sprint(n + 1), "shape": "rectangle", "at": map[string]string{"x": fmt.Sprintf("%.2f", side*length*0.45), "y": "0"}, "width": fmt.Sprintf("%.2f", length*0.35), "height": fmt.Sprintf("%.2f", width)})
		}
		land, err := m.renamed("models/chip-0603-nominal.land.json", "SM"+p.facts["case"], map[string]any{"pads": pads, "outlines": []any{}})
		if err != nil {
			return nil, err
		}
		var b strings.Builder
		z := zip.NewWriter(&b)
		for _, f := range []struct {
			path string
			raw  []byte
		}{{p.mpn + "/" + p.mpn + ".symbol.json", symbol}, {p.mpn + "/SM" + p.facts["case"] + ".land.json", land}} {
			w, err := z.Create(f.path)
			if err != nil {
				return nil, err
			}
			if _, err := w.Write(f.raw); err != nil {
				return nil, err
			}
		}
		err = z.Close()
		return []byte(b.String()), err
	}
	return nil, fs.ErrNotExist
}

// renamed is one of the demo's models under another name, with some of it otherwise.
func (m *Market) renamed(file, name string, with map[string]any) ([]byte, error) {
	raw, err := fs.ReadFile(m.files, file)
	if err != nil {
		return nil, err
	}
	var doc map[string]any
	if err := json.Unmarshal(raw, &doc); err != nil {
		return nil, err
	}
	doc["name"] = name
	for k, v := range with {
		doc[k] = v
	}
	return json.Marshal(doc)
}
