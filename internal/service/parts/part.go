package parts

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"regexp"
	"strconv"
	"strings"

	"jollydrawer/core/cabinet"
	"jollydrawer/core/lifecycle"
	"jollydrawer/core/part"
	"jollydrawer/internal/service/cabinets"
	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/service/policy"
	"jollydrawer/internal/store"
	"jollydrawer/internal/wire"
)

// Decode reads stored content of a part and where its values came from. Content of a later form is not read at all: what it
// means is known to a later version of the program only.
func Decode(c store.Content) (p part.Content, o Origins, err error) {
	if p, err = DecodeContent(c); err == nil {
		err = json.Unmarshal(c.Origins, &o)
	}
	return p, o, err
}

// DecodeContent reads a content without where its values came from.
func DecodeContent(c store.Content) (p part.Content, err error) {
	if c.Format != part.Format {
		return p, deed.Fault(deed.Busy, "content-newer", fmt.Sprintf("A content is of the form %q, and this instance reads %q.", c.Format, part.Format), "Bring this instance to the version of the others.")
	}
	return part.Decode(c.Bytes)
}

var numberForm = regexp.MustCompile(`^[\p{L}\p{N}][\p{L}\p{N} ._/+:#-]{0,63}$`)

// Create makes a part as a draft. Its number is the next of the drawer, or the one given.
func (s *Parts) Create(ctx context.Context, c deed.Call, in wire.PartEdit) (wire.Part, error) {
	return s.CreateFor(ctx, c, in, in)
}

// CreateFor is Create where the content was worked out from a request of another kind: what was asked is what a retry is known by, since the same
// request may come to another content by then.
func (s *Parts) CreateFor(ctx context.Context, c deed.Call, request any, in wire.PartEdit) (wire.Part, error) {
	if err := deed.Allow(c, deed.OpPartEdit); err != nil {
		return wire.Part{}, err
	}
	if id, ok, err := deed.Replayed[store.ID](ctx, s.Desk, c, deed.OpPartEdit, "part", request); ok || err != nil {
		if err != nil {
			return wire.Part{}, err
		}
		return s.Get(ctx, c, id.String())
	}
	return cabinets.Under(ctx, s.cabinets, func(cab *cabinet.Cabinet, revision int) (wire.Part, error) {
		return s.create(ctx, c, cab, revision, request, in)
	})
}

func (s *Parts) create(ctx context.Context, c deed.Call, cab *cabinet.Cabinet, revision int, request any, in wire.PartEdit) (wire.Part, error) {
	p, o, err := s.build(s.Store.Read(ctx), c, cab, in, part.Content{}, nil)
	if err != nil {
		return wire.Part{}, err
	}
	t, _ := cab.Template(p.Drawer)
	if err := s.defaultModels(s.Store.Read(ctx), t, &p); err != nil {
		return wire.Part{}, err
	}
	number := strings.TrimSpace(in.Number)
	for range 20 { // a number given by hand may lie ahead of the counter
		next := number
		if next == "" {
			if t.Prefix == "" {
				return wire.Part{}, deed.Fault(deed.Invalid, "no-prefix", fmt.Sprintf("The drawer %s has no prefix for part numbers.", t.Label), "Give the part a number, or the drawer a prefix.")
			}
			n, err := s.Store.ReserveNumbers(ctx, t.Prefix, 1)
			if err != nil {
				return wire.Part{}, deed.Sentence(err, "part")
			}
			next = t.PartNumber(n)
		} else if !numberForm.MatchString(next) {
			return wire.Part{}, deed.Fault(deed.Invalid, "number-form", fmt.Sprintf("%q cannot be a part number.", next), "Use letters, digits, blanks and . _ / + : # - only, at most 64.")
		}
		id, err := deed.Do(ctx, s.Desk, c, deed.OpPartEdit, "part", request, func(tx *store.Tx) (store.ID, error) {
			h := store.Head{ID: store.NewID(), Kind: store.KindPart, Number: next, Standing: string(lifecycle.Active)}
			if _, err := s.Put(tx, &h, p, o, revision, in.KeepSeparate != ""); err != nil {
				return h.ID, err
			}
			detail := map[string]any{"number": next, "drawer": p.Drawer}
			if in.KeepSeparate != "" {
				detail["keptSeparate"] = in.KeepSeparate
			}
			return h.ID, tx.Insert(&h, "made", detail)
		})
		if errors.Is(err, store.ErrNumberTaken) && number == "" {
			continue
		}
		if err != nil {
			return wire.Part{}, s.Refused(ctx, err, next, p)
		}
		if number != "" {
			s.StepPast(ctx, cab, number)
		}
		return s.Get(ctx, c, id.String())
	}
	return wire.Part{}, deed.Fault(deed.Busy, "number-busy", "No free part number was found in twenty tries.", "Try again.")
}

// StepPast lets the counters continue after numbers of their form that were given from outside. The UNIQUE key is what
// guards numbers; this only saves the counters from running into them.
func (s *Parts) StepPast(ctx context.Context, cab *cabinet.Cabinet, numbers ...string) {
	past := map[string]int64{}
	for _, prefix := range cab.Prefixes() {
		for _, number := range numbers {
			if rest, ok := strings.CutPrefix(strings.ToUpper(number), prefix+"-"); ok {
				if n, err := strconv.ParseInt(rest, 10, 64); err == nil && n < 1e12 {
					past[prefix] = max(past[prefix], n)
				}
			}
		}
	}
	for prefix, n := range past {
		if err := s.Store.StepPast(ctx, prefix, n); err != nil {
			s.Log.Warn("stepping a counter past a number", "prefix", prefix, "error", err)
		}
	}
}

// Refused says which key refused a part.
func (s *Parts) Refused(ctx context.Context, err error, number string, p part.Content) error {
	switch {
	case errors.Is(err, store.ErrNumberTaken):
		return deed.Fault(deed.Clash, "number-taken", fmt.Sprintf("The part number %s is taken.", number), "Choose another, or leave it blank for the next one.")
	case errors.Is(err, store.ErrSourceTaken):
		for _, src := range p.Sources {
			id, ok, e := s.Store.Read(ctx).SourceHolder(src.Key())
			if e != nil || !ok {
				continue
			}
			if h, e := s.Store.Read(ctx).Head(store.KindPart, id); e == nil && h.Number != number {
				return deed.Fault(deed.Clash, "source-taken", fmt.Sprintf("%s %s is in the library as %s; nothing was saved.", src.Manufacturer, src.MPN, h.Number),
					"Use that part, or say in keepSeparate why this one stands beside it.")
			}
		}
		return deed.Fault(deed.Clash, "source-taken", "Another part has the same manufacturer part number; nothing was saved.", "Use that part, or say in keepSeparate why this one stands beside it.")
	}
	return err
}

// Save replaces a part's draft. version is the one that was edited: when the part has moved on, nothing is saved
// and the error carries the part as it is now.
func (s *Parts) Save(ctx context.Context, c deed.Call, key string, version int, in wire.PartEdit) (wire.Part, error) {
	return s.SaveFor(ctx, c, nil, key, version, in)
}

// SaveFor is Save where the content was worked out from a request of another kind: what was asked is what a retry is known by. request is nil where the
// content is what was asked.
func (s *Parts) SaveFor(ctx context.Context, c deed.Call, request any, key string, version int, in wire.PartEdit) (wire.Part, error) {
	if err := deed.Allow(c, deed.OpPartEdit); err != nil {
		return wire.Part{}, err
	}
	h, err := s.Find(ctx, key)
	if err != nil {
		return wire.Part{}, deed.Sentence(err, "part")
	}
	_, err = cabinets.Under(ctx, s.cabinets, func(cab *cabinet.Cabinet, revision int) (int, error) {
		return s.save(ctx, c, cab, revision, request, h.ID, version, in)
	})
	if err != nil {
		return wire.Part{}, s.Conflict(ctx, s.Refused(ctx, err, h.Number, part.Content{Sources: in.Sources}), h.ID)
	}
	return s.Get(ctx, c, h.ID.String())
}

func (s *Parts) save(ctx context.Context, c deed.Call, cab *cabinet.Cabinet, revision int, request any, id store.ID, version int, in wire.PartEdit) (int, error) {
	if request == nil {
		request = []any{id, version, in}
	}
	return deed.Do(ctx, s.Desk, c, deed.OpPartEdit, "part", request, func(t *store.Tx) (int, error) {
		h, err := t.HeadAt(store.KindPart, id, version)
		if err == nil {
			err = policy.Stands(h)
		}
		if err != nil {
			return 0, err
		}
		was, err := t.Content(h.Newest())
		if err != nil {
			return 0, err
		}
		base, from, err := Decode(was)
		if err != nil {
			return 0, err
		}
		p, o, err := s.build(t.Reader, c, cab, in, base, from)
		if err != nil {
			return 0, err
		}
		now, err := s.Put(t, &h, p, o, revision, in.KeepSeparate != "")
		if err != nil {
			return 0, err
		}
		changes, err := Changes(was.Bytes, now.Bytes)
		if err != nil {
			return 0, err
		}
		return h.Version, t.Update(&h, "draft saved", map[string]any{"changes": changes})
	})
}

// Conflict adds to a lost edit the part as it is now, and who changed it.
func (s *Parts) Conflict(ctx context.Context, err error, id store.ID) error {
	var e *deed.Error
	if !errors.As(err, &e) || e.Type != "changed-meanwhile" {
		return err
	}
	h, herr := s.Store.Read(ctx).Head(store.KindPart, id)
	if herr != nil {
		return err
	}
	now, verr := s.View(ctx, h)
	if verr != nil {
		return err
	}
	who := "somebody else"
	if entries, terr := s.Store.Read(ctx).Trail(id, 0, 1); terr == nil && len(entries) == 1 {
		who = s.Person(ctx, entries[0].Account)
	}
	out := deed.Fault(deed.Clash, "part-changed", fmt.Sprintf("%s was changed by %s meanwhile; nothing was saved.", h.Number, who), "Compare the two and save again.")
	out.Current = &now
	return out
}
