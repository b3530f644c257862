package models

import (
	"context"
	"encoding/json"
	"fmt"
	"slices"
	"strings"
	"sync"

	"jollydrawer/core/model"
	"jollydrawer/core/part"
	"jollydrawer/formats/drop"
	"jollydrawer/internal/store"
	"jollydrawer/internal/wire"
)

// Drawing is a model's content as it is kept in memory: it never changes, so it is read and measured once.
type Drawing struct {
	model.Content
	Print    model.Fingerprint
	Printed  bool
	features model.Features
	what     string // in words
}

// pieces is how much of a drawing there is, for bounding what is held in memory.
func (d *Drawing) pieces() int {
	n := 10
	if d.Symbol != nil {
		n += len(d.Symbol.Pins) + len(d.Symbol.Shapes)
	}
	if d.Land != nil {
		n += len(d.Land.Pads) + len(d.Land.Shapes)
	}
	return n
}

// drawings keeps decoded contents by their ID.
type drawings struct {
	sync.Mutex
	byID   map[store.ID]*Drawing
	pieces int
	svg    map[string][]byte
	order  []string
}

// What bounds the memory: pins, pads and shapes of all drawings together, some 400 MB; previews, and the largest that is
// kept.
const maxPieces, maxPreviews, maxPreview = 2_000_000, 2_000, 32 << 10

// Entry is a model of the library.
type Entry struct {
	Head store.Head
	*Drawing
	Uses int
}

func (m *Entry) Ref() wire.ModelRef {
	return wire.ModelRef{ID: m.Head.ID.String(), Name: m.Name, Revision: m.Head.Revision, Uses: m.Uses, Version: m.Head.Version}
}

// drawing decodes a model's content. Content of the first format has no drawing in it: that is read from the file.
func (s *Models) drawing(r store.Reader, id store.ID) (*Drawing, error) {
	s.drawings.Lock()
	d := s.drawings.byID[id]
	s.drawings.Unlock()
	if d != nil {
		return d, nil
	}
	c, err := r.Content(id)
	if err != nil {
		return nil, err
	}
	return s.decodeDrawing(r, c)
}

// Drawn is the newest content of a model, with its drawing. Nobody changes it.
func (s *Models) Drawn(ctx context.Context, h store.Head) (*model.Content, error) {
	d, err := s.drawing(s.Store.Read(ctx), h.Newest())
	if err != nil {
		return nil, err
	}
	return &d.Content, nil
}

func (s *Models) decodeDrawing(r store.Reader, c store.Content) (*Drawing, error) {
	d := &Drawing{}
	if err := json.Unmarshal(c.Bytes, &d.Content); err != nil {
		return nil, fmt.Errorf("the content of a model: %w", err)
	}
	if !d.Drawn() && d.FileHash != "" {
		if from, err := s.files.Members(r, d.FileHash, d.FileName); err == nil {
			if m, ok := pick(from, d.Kind); ok {
				d.Symbol, d.Land, d.Body, d.PinMap = m.Symbol, m.Land, m.Body, m.PinMap
				d.Normalise()
			}
		}
	}
	d.Print, d.Printed = d.Fingerprint()
	if d.Land != nil {
		d.features = d.Land.Features()
	}
	d.what = Describe(&d.Content)
	s.drawings.Lock()
	defer s.drawings.Unlock()
	if s.drawings.pieces += d.pieces(); s.drawings.byID == nil || s.drawings.pieces > maxPieces {
		s.drawings.byID, s.drawings.pieces = map[store.ID]*Drawing{}, d.pieces()
	}
	s.drawings.byID[c.ID] = d
	return d, nil
}

// pick returns the one model of a kind among what a file holds.
func pick(all []drop.Member, kind model.Kind) (out model.Content, ok bool) {
	n := 0
	for _, f := range all {
		for _, m := range f.Models {
			if m.Kind == kind {
				out = m
				n++
			}
		}
	}
	return out, n == 1
}

// kept is the library of models as it was read last.
type kept struct {
	sync.Mutex
	heads   []store.Head
	newest  []*Drawing // of the heads
	of      uint64     // changes of models that it was read after
	entries []*Entry
	counts  map[store.ID]int
	usesOf  uint64 // changes of parts that the counts were read after
}

// Library returns all models with their newest content, by name. A head that is merged away is not there. The entries are
// shared: nobody changes them.
func (s *Models) Library(ctx context.Context) ([]*Entry, error) {
	s.kept.Lock()
	defer s.kept.Unlock()
	k := &s.kept
	keep := s.Changes != nil
	var models, parts uint64
	if keep { // asked before anything is read: what is written meanwhile makes it stale
		models, parts = s.Changes(store.KindModel)+1, s.Changes(store.KindPart)+1
	}
	if !keep || k.of != models {
		heads, err := s.Store.Read(ctx).ModelHeads()
		if err != nil {
			return nil, err
		}
		newest, err := s.newestOf(ctx, heads)
		if err != nil {
			return nil, err
		}
		k.heads, k.newest, k.of, k.entries = heads, newest, models, nil
	}
	if !keep || k.counts == nil || k.usesOf != parts {
		counts, err := s.Store.Read(ctx).UseCounts()
		if err != nil {
			return nil, err
		}
		k.counts, k.usesOf, k.entries = counts, parts, nil
	}
	if k.entries == nil {
		k.entries = make([]*Entry, len(k.heads))
		for i, h := range k.heads {
			k.entries[i] = &Entry{h, k.newest[i], k.counts[h.ID]}
		}
	}
	return k.entries, nil
}

// newestOf returns the newest drawings of models. What is looked at is held here: the memory of drawings may be emptied while
// others are read.
func (s *Models) newestOf(ctx context.Context, heads []store.Head) ([]*Drawing, error) {
	held := make(map[store.ID]*Drawing, len(heads))
	var missing []store.ID
	s.drawings.Lock()
	for _, h := range heads {
		if d := s.drawings.byID[h.Newest()]; d != nil {
			held[h.Newest()] = d
		} else {
			missing = append(missing, h.Newest())
		}
	}
	s.drawings.Unlock()
	for some := range slices.Chunk(missing, 300) {
		cs, err := s.Store.Read(ctx).ContentsOf(some)
		if err != nil {
			return nil, err
		}
		for _, c := range cs {
			if held[c.ID], err = s.decodeDrawing(s.Store.Read(ctx), c); err != nil {
				return nil, err
			}
		}
	}
	out := make([]*Drawing, len(heads))
	for i, h := range heads {
		if out[i] = held[h.Newest()]; out[i] == nil {
			return nil, fmt.Errorf("the content of the model %s is missing", h.Number)
		}
	}
	return out, nil
}

// How a model is like another that can be used instead of it.
const (
	sameDrawing = "is the same"
	sameFile    = "is the same file"
)

// AlikeTo lists the models of the library that are the same as c, or nearly so: the exact ones and the most used first.
func AlikeTo(shelf []*Entry, c *model.Content, but store.ID) []wire.ModelRef {
	out := []wire.ModelRef{}
	print, printed := c.Fingerprint()
	var f model.Features
	if c.Land != nil {
		f = c.Land.Features()
	}
	near := func(m *Entry) bool { // what cannot be nearly the same is not compared piece by piece
		off := max(f.Width, f.Height) - max(m.features.Width, m.features.Height)
		return printed && m.Printed && m.Print == print || c.Land != nil && f.Pads == m.features.Pads && off <= 2*NearEnough && off >= -2*NearEnough
	}
	for _, m := range shelf {
		if m.Kind != c.Kind || m.Head.ID == but {
			continue
		}
		ref := m.Ref()
		switch {
		case c.Body != nil && c.FileHash != "" && m.FileHash == c.FileHash:
			ref.How = sameFile
		case near(m):
			if ref.How = sameDrawing; !model.Same(c, &m.Content) {
				ref.How = model.Compare(c, &m.Content, NearEnough).How(c.Kind)
			}
		}
		if ref.How != "" {
			out = append(out, ref)
		}
	}
	rank := map[string]int{sameDrawing: 0, sameFile: 0}
	slices.SortStableFunc(out, func(a, b wire.ModelRef) int {
		ra, okA := rank[a.How]
		rb, okB := rank[b.How]
		if okA != okB || ra != rb {
			if okA {
				return -1
			}
			return 1
		}
		return b.Uses - a.Uses
	})
	return out[:min(len(out), 20)]
}

// NearEnough is how far the pads of near twins may differ: less than any maker's tolerance for a land.
const NearEnough = model.MM / 20

// Describe says in words what a drawing is.
func Describe(c *model.Content) string {
	switch {
	case c.Symbol != nil:
		s := Count(len(c.Symbol.Pins), "pin", "pins")
		if n := len(c.Symbol.Units); n > 1 {
			s += fmt.Sprintf(" in %d units", n)
		}
		return s
	case c.Land != nil:
		f := c.Land.Features()
		s := Count(f.Pads, "pad", "pads")
		if f.Pads > 2 && f.Pitch > 0 {
			s += fmt.Sprintf(", pitch %s mm", f.Pitch)
		}
		if c.Land.Density != "" {
			s += ", " + c.Land.Density
		}
		return s
	case c.Body != nil:
		b := c.Body.Box.Placed(c.Body.Place).Size()
		s := fmt.Sprintf("%s × %s × %s mm", b.X, b.Y, b.Z)
		if c.Body.StandIn {
			s += ", stands in"
		}
		return s
	case c.PinMap != nil:
		return Count(len(c.PinMap.Pairs), "pin", "pins")
	}
	return "file only"
}

func Count(n int, one, many string) string {
	if n == 1 {
		return "1 " + one
	}
	return fmt.Sprintf("%d %s", n, many)
}

// Finder finds released models by kind and name, those that were merged away by their survivor.
func (s *Models) Finder(ctx context.Context) (func(kind, name string) (part.Model, bool), error) {
	shelf, err := s.Library(ctx)
	if err != nil {
		return nil, err
	}
	known := map[string]*part.Model{}
	for _, m := range shelf {
		if m.Head.Revision > 0 {
			known[strings.ToLower(m.Head.Number)] = &part.Model{ID: m.Head.ID.String(), Name: m.Name, Revision: m.Head.Revision, StandIn: m.StandsIn()}
		}
	}
	var mu sync.Mutex
	return func(kind, name string) (part.Model, bool) {
		key := strings.ToLower(kind + ": " + strings.TrimSpace(name))
		mu.Lock()
		defer mu.Unlock()
		m, ok := known[key]
		if !ok && name != "" && len(name) <= 100 {
			if h, err := s.Find(s.Store.Read(context.WithoutCancel(ctx)), key); err == nil && h.Revision > 0 {
				if to, err := s.LinkTo(s.Store.Read(context.WithoutCancel(ctx)), h); err == nil {
					m = &to
				}
			}
			known[key] = m
		}
		if m == nil {
			return part.Model{}, false
		}
		return *m, true
	}, nil
}
