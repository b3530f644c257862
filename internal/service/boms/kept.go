package boms

import (
	"context"
	"fmt"
	"slices"

	"jollydrawer/core/bom"
	"jollydrawer/core/cabinet"
	"jollydrawer/core/lookup"
	"jollydrawer/internal/store"
)

// keptVerdicts are the verdicts of a BOM as they were worked out last. They hold as long as the BOM, the cabinet, the layouts and
// the endings are the same, and nothing is touched in the library that could answer otherwise what was asked of it.
type keptVerdicts struct {
	bom      store.ID
	version  int
	key      string // all that they hang on beside the library's parts
	base     string // of that, all but what was decided for its lines
	answers  *lookup.Answers
	laid     *bom.Reconciled
	verdicts []bom.Verdict
	file     bomFile
}

// mostKept is how many BOMs are kept.
const mostKept = 40

// reconcile lays a BOM beside the library as it is now: as it was laid there last where all is the same, and only the lines anew of which something else was decided
// where nothing else is.
func (s *BOMs) reconcile(ctx context.Context, h store.Head, doc bomDoc) ([]bom.Verdict, bomFile, error) {
	cab, ch, err := s.cabinets.InForce(ctx)
	if err != nil {
		return nil, bomFile{}, err
	}
	key, base := s.keyOf(h, ch), s.baseOf(h, doc, ch) // asked before anything is read: what is written meanwhile makes it stale
	if k, ok := s.keptFor(key); ok {
		return k.verdicts, k.file, nil
	}
	k, before := s.keptOn(base)
	if !before {
		if k.file, err = s.bomLines(ctx, doc, cab); err != nil {
			return nil, k.file, err
		}
	}
	doc.carry(k.file.lines)
	if before && k.answers.Hold() {
		k.laid = k.laid.Again(doc.Decisions)
	} else {
		k.answers = s.index.Answers()
		if k.laid, err = s.lines(ctx, k.file, k.answers, cab, doc); err != nil {
			return nil, k.file, err
		}
	}
	k.bom, k.version, k.key, k.base, k.verdicts = h.ID, h.Version, key, base, k.laid.Verdicts()
	if key != "" {
		s.keep(k)
	}
	return k.verdicts, k.file, nil
}

// lines lays the lines of a BOM's file beside the library, with what was decided for them, and learned for such files.
func (s *BOMs) lines(ctx context.Context, f bomFile, lib bom.Library, cab *cabinet.Cabinet, doc bomDoc) (*bom.Reconciled, error) {
	packings, err := s.packings(ctx)
	if err != nil {
		return nil, err
	}
	readings, err := s.readings(ctx, f.key, doc.Origin)
	if err != nil {
		return nil, err
	}
	return bom.Begin(f.lines, lib, cab, bom.Known{Columns: f.columns, Confirmed: f.by != "", Decisions: doc.Decisions, Packings: packings, Readings: readings}), nil
}

// fileOf is the file of a BOM as it is read: as it was read last, where nothing that tells how has changed.
func (s *BOMs) fileOf(ctx context.Context, h store.Head, doc bomDoc) (bomFile, *cabinet.Cabinet, error) {
	cab, ch, err := s.cabinets.InForce(ctx)
	if err != nil {
		return bomFile{}, nil, err
	}
	if k, ok := s.keptOn(s.baseOf(h, doc, ch)); ok {
		return k.file, cab, nil
	}
	f, err := s.bomLines(ctx, doc, cab)
	return f, cab, err
}

// keyOf names all that verdicts hang on beside the library's parts; blank where nobody counts what changes.
func (s *BOMs) keyOf(h, cab store.Head) string {
	if s.Changes == nil {
		return ""
	}
	return fmt.Sprint(h.ID, h.Version, s.saidOf(cab))
}

// baseOf names of that all but what was decided: the file, who wrote it, and what people said of such files.
func (s *BOMs) baseOf(h store.Head, doc bomDoc, cab store.Head) string {
	if s.Changes == nil {
		return ""
	}
	return fmt.Sprintf("%s %s %+v %q %q %s", h.ID, doc.FileHash, doc.Layout, doc.variantNames(), doc.Origin, s.saidOf(cab))
}

func (s *BOMs) saidOf(cab store.Head) string {
	return fmt.Sprint(cab.Revision, s.Changes(store.KindLayout), s.Changes(store.KindEndings), s.Changes(store.KindReadings))
}

// keptFor returns verdicts that still hold.
func (s *BOMs) keptFor(key string) (keptVerdicts, bool) {
	k, ok := s.keptLike(func(k keptVerdicts) bool { return key != "" && k.key == key })
	return k, ok && k.answers.Hold()
}

// keptOn returns what was kept of a BOM with the same file, which is read in the same way; nothing is said of what was decided, nor of the library.
func (s *BOMs) keptOn(base string) (keptVerdicts, bool) {
	return s.keptLike(func(k keptVerdicts) bool { return base != "" && k.base == base })
}

// keptOf returns what was kept of a BOM at a version.
func (s *BOMs) keptOf(id store.ID, version int) (keptVerdicts, bool) {
	return s.keptLike(func(k keptVerdicts) bool { return k.bom == id && k.version == version })
}

func (s *BOMs) keptLike(like func(keptVerdicts) bool) (k keptVerdicts, ok bool) {
	s.mu.Lock()
	defer s.mu.Unlock()
	for _, k := range slices.Backward(s.kept) { // the newest first
		if like(k) {
			return k, true
		}
	}
	return k, false
}

// keep keeps verdicts, and those of the version before, so that what a decision makes otherwise can be told when it is asked for again.
func (s *BOMs) keep(k keptVerdicts) {
	s.mu.Lock()
	defer s.mu.Unlock()
	s.kept = append(slices.DeleteFunc(s.kept, func(o keptVerdicts) bool { return o.bom == k.bom && o.version != k.version-1 }), k)
	if len(s.kept) > mostKept {
		s.kept = slices.Clone(s.kept[1:])
	}
}
