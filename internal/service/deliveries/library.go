package deliveries

import (
	"bytes"
	"context"
	"encoding/csv"
	"fmt"
	"slices"
	"sort"
	"strings"

	"jollydrawer/core/model"
	"jollydrawer/core/names"
	"jollydrawer/internal/blobs"
	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/service/files"
	"jollydrawer/internal/service/models"
	"jollydrawer/internal/store"
	"jollydrawer/internal/wire"
)

// The columns of the table that a library becomes; the crosswalk knows them by name.
const (
	columnName   = "Name"
	columnSymbol = "Symbol model"
	columnLand   = "Land pattern model"
)

// landWords are the names of properties that name a land pattern.
var landWords = []string{"land pattern", "landpattern", "footprint", "package", "pattern", "pcb footprint", "decal", "pcb package"}

// drawnAlike is a drawing that several models of a delivery share, and what it becomes.
type drawnAlike struct {
	members []int // in the list of the delivery's models of the kind
	have    *wire.ModelRef
	made    model.Content
}

// groupAlike groups models by what they draw; a drawing that the library has is found there.
func groupAlike(all []model.Content, shelf []*models.Entry, taken *names.Taken) []*drawnAlike {
	var by model.Alike[*drawnAlike]
	var out []*drawnAlike
	var known model.Alike[*models.Entry]
	shelf = slices.DeleteFunc(slices.Clone(shelf), func(m *models.Entry) bool { return m.Head.Revision == 0 || !m.Printed })
	slices.SortStableFunc(shelf, func(a, b *models.Entry) int { return b.Uses - a.Uses })
	for _, m := range shelf { // of several that are the same, the most used is found
		known.AddPrinted(m.Print, &m.Content, m)
	}
	for i := range all {
		g, ok := by.Find(&all[i])
		if !ok {
			g = &drawnAlike{made: all[i]}
			if m, ok := known.Find(&all[i]); ok {
				r := m.Ref()
				g.have = &r
			}
			by.Add(&all[i], g)
			out = append(out, g)
		}
		g.members = append(g.members, i)
	}
	for _, g := range out {
		if g.have != nil {
			continue
		}
		called := make([]string, 0, len(g.members))
		for _, i := range g.members {
			called = append(called, all[i].Name)
		}
		g.made.Name = taken.Free(models.ClipName(commonName(called)), names.Bracketed)
		if g.made.Symbol != nil {
			s := *g.made.Symbol
			s.Properties = nil // they go to the parts
			g.made.Symbol = &s
		}
	}
	return out
}

// commonName is what the names of models with one drawing begin with, up to a whole word of three letters or more;
// otherwise the shortest of them.
func commonName(names []string) string {
	if len(names) == 1 {
		return names[0]
	}
	short := slices.MinFunc(names, func(a, b string) int { return len(a) - len(b) })
	prefix := names[0]
	for _, n := range names[1:] {
		i := 0
		for i < len(prefix) && i < len(n) && prefix[i] == n[i] {
			i++
		}
		prefix = prefix[:i]
	}
	if i := strings.LastIndexAny(prefix, " -_/"); i > 0 {
		prefix = prefix[:i]
	}
	if prefix = strings.Trim(strings.ToValidUTF8(prefix, ""), " -_/"); len(prefix) >= 3 {
		return prefix
	}
	return short
}

// Intake makes an intake of a delivery that holds a library of many: each drawing once, as a released model; a row for each
// symbol, with the properties that were written on it, the shared symbol, and the land pattern that it names.
func (s *Deliveries) Intake(ctx context.Context, c deed.Call, key string, version int, in wire.LibraryIntake) (wire.Intake, error) {
	if err := deed.Allow(c, deed.OpModelRelease); err != nil {
		return wire.Intake{}, err
	}
	if c.Deed.IsZero() {
		c.Deed = store.NewID()
	}
	d, err := s.openDelivery(ctx, key)
	if err != nil {
		return wire.Intake{}, err
	}
	lib, err := s.libraryOf(ctx, &d)
	if err != nil {
		return wire.Intake{}, err
	}
	if err := lib.takeable(); err != nil {
		return wire.Intake{}, err
	}
	_, err = deed.Do(ctx, s.Desk, c, deed.OpModelRelease, "model", []any{d.head.ID, version, in}, func(t *store.Tx) (int, error) {
		h, err := t.HeadAt(store.KindDelivery, d.head.ID, version)
		if err != nil {
			return 0, err
		}
		made := 0
		for _, g := range lib.groups() {
			if g.have != nil {
				continue
			}
			content := g.made
			if _, err := s.models.Insert(t, c.Actor, &content, in.Note, map[string]any{"delivery": h.Number, "shared": len(g.members)}); err != nil {
				return 0, err
			}
			made++
		}
		return made, t.Update(&h, "made an intake", map[string]any{"symbols": len(lib.symbols), "drawings": len(lib.drawn), "landPatterns": len(lib.patterns), "made": made})
	})
	if err != nil {
		return wire.Intake{}, err
	}
	if lib, err = s.libraryOf(ctx, &d); err != nil { // every drawing is there now
		return wire.Intake{}, err
	}
	raw, err := lib.table()
	if err != nil {
		return wire.Intake{}, err
	}
	hash, _, err := blobs.Put(ctx, s.Store, bytes.NewReader(raw), s.files.Limits.Bytes)
	if err != nil {
		return wire.Intake{}, err
	}
	c.Deed = deed.After(c.Deed, "intake") // the models were one deed, the intake is another
	return s.intakes.Open(ctx, c, wire.NewIntake{Supplier: in.Supplier, FileHash: hash.String(), FileName: files.CleanName(d.doc.Name) + ".csv"})
}

// modelLibrary is a delivery as a library of many, beside the one that it comes into.
type modelLibrary struct {
	symbols, lands  []model.Content
	drawn, patterns []*drawnAlike // what the symbols and the land patterns draw
	known           []*models.Entry
}

func (s *Deliveries) libraryOf(ctx context.Context, d *delivered) (*modelLibrary, error) {
	known, err := s.models.Library(ctx)
	if err != nil {
		return nil, err
	}
	lib := &modelLibrary{known: known}
	taken := map[model.Kind]*names.Taken{model.KindSymbol: {}, model.KindLand: {}}
	for _, m := range known {
		if taken[m.Kind] != nil {
			taken[m.Kind].Add(m.Name)
		}
	}
	for i, f := range d.members {
		for _, m := range f.Models {
			m.FileHash, m.FileName = d.hash(&d.members[i]), files.CleanName(f.Path)
			switch m.Kind {
			case model.KindSymbol:
				lib.symbols = append(lib.symbols, m)
			case model.KindLand:
				lib.lands = append(lib.lands, m)
			}
		}
	}
	lib.drawn, lib.patterns = groupAlike(lib.symbols, known, taken[model.KindSymbol]), groupAlike(lib.lands, known, taken[model.KindLand])
	return lib, nil
}

func (l *modelLibrary) groups() []*drawnAlike { return slices.Concat(l.drawn, l.patterns) }

// takeable says why a library cannot become an intake.
func (l *modelLibrary) takeable() error {
	if len(l.symbols) == 0 {
		return deed.Fault(deed.Invalid, "no-symbols", "The delivery holds no symbols to make parts of.", "Take its models one by one.")
	}
	if n := len(l.groups()); n > 5000 {
		return deed.Fault(deed.TooLarge, "too-many", fmt.Sprintf("The library holds %d distinct drawings; at most 5,000 are taken at once.", n), "Bring it in in pieces.")
	}
	return nil
}

// table is the library as a table: a row for each symbol.
func (l *modelLibrary) table() ([]byte, error) {
	symbolOf, landOf := make([]string, len(l.symbols)), map[string]string{}
	for _, g := range l.groups() {
		if g.have == nil {
			return nil, deed.Fault(deed.Busy, "library-busy", "A drawing of this library was taken away or renamed just now.", "Try again in a moment.")
		}
	}
	for _, m := range l.known {
		if m.Land != nil {
			landOf[strings.ToLower(m.Name)] = m.Name
		}
	}
	for _, g := range l.drawn {
		for _, i := range g.members {
			symbolOf[i] = g.have.Name
		}
	}
	for _, g := range l.patterns {
		for _, i := range g.members {
			landOf[strings.ToLower(l.lands[i].Name)] = g.have.Name
		}
	}
	var keys []string
	seen := map[string]bool{columnName: true, columnSymbol: true, columnLand: true}
	for _, m := range l.symbols {
		for k := range m.Symbol.Properties {
			if !seen[k] {
				seen[k] = true
				keys = append(keys, k)
			}
		}
	}
	sort.Strings(keys)
	table := [][]string{append([]string{columnName, columnSymbol, columnLand}, keys...)}
	for i, m := range l.symbols {
		land := ""
		for k, v := range m.Symbol.Properties {
			if slices.Contains(landWords, strings.ToLower(strings.NewReplacer("_", " ", "-", " ").Replace(k))) {
				if land = landOf[strings.ToLower(strings.TrimSpace(v))]; land == "" {
					land = v // not there: the intake says so
				}
			}
		}
		row := []string{m.Name, symbolOf[i], land}
		for _, k := range keys {
			row = append(row, m.Symbol.Properties[k])
		}
		table = append(table, row)
	}
	var b bytes.Buffer
	w := csv.NewWriter(&b)
	err := w.WriteAll(table)
	return b.Bytes(), err
}
