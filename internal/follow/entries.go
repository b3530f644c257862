package follow

import (
	"encoding/binary"
	"errors"
	"fmt"
	"iter"

	"jollydrawer/core/lookup"
	"jollydrawer/core/part"
	"jollydrawer/internal/store"
)

// applied is how many parts are read, taken apart and put into the index at a time: the three go on beside each other.
const applied = 1000

// written is a part as it was written.
type written struct {
	store.PartRow
	known *lookup.Entry // as the index shows its content; nil where it does not, and the content was read
}

// errEnough ends a walk whose result nobody asks for any more.
var errEnough = errors.New("nobody asks any more")

// rowsOf reads the parts of a deed, or all of them, some at a time.
func rowsOf(r store.Reader, deed store.ID) iter.Seq2[[]written, error] {
	return func(yield func([]written, error) bool) {
		var some []written
		err := r.Parts(deed, func(p store.PartRow) error {
			if some = append(some, written{PartRow: p}); len(some) == applied {
				if !yield(some, nil) {
					return errEnough
				}
				some = nil
			}
			return nil
		})
		if errors.Is(err, errEnough) {
			return
		}
		if err != nil || len(some) > 0 {
			yield(some, err)
		}
	}
}

// rowsOfMany reads the parts of a deed over many, which is a move more often than not: content that the index shows is not read again.
func (f *Follower) rowsOfMany(r store.Reader, deed store.ID, step func(func())) iter.Seq2[[]written, error] {
	return func(yield func([]written, error) bool) {
		err := r.PartHeads(deed, applied, func(heads []store.PartRow) (err error) {
			var some []written
			step(func() { some, err = f.withContent(r, heads) })
			if err == nil && !yield(some, nil) {
				err = errEnough
			}
			return err
		})
		if err != nil && !errors.Is(err, errEnough) {
			yield(nil, err)
		}
	}
}

// withContent gives parts what the index shows of their content, or else the content.
func (f *Follower) withContent(r store.Reader, heads []store.PartRow) ([]written, error) {
	shown := make(map[string]uint64, len(heads))
	for _, p := range heads {
		shown[p.ID.String()] = contentKey(p.Shown)
	}
	known := f.Index.Showing(shown)
	some := make([]written, len(heads))
	var read []store.ID
	for i, p := range heads {
		some[i] = written{PartRow: p, known: known[p.ID.String()]}
		if some[i].known == nil {
			read = append(read, p.Shown)
		}
	}
	contents, err := r.ContentsAlone(read)
	if err != nil {
		return nil, err
	}
	for i := range some {
		if some[i].known == nil {
			c := contents[some[i].Shown]
			some[i].Format, some[i].Bytes = c.Format, c.Bytes
		}
	}
	return some, nil
}

// contentKey is what stands for a content in the index: the random part of its identifier (RFC 9562, section 5.7).
func contentKey(id store.ID) uint64 { return binary.BigEndian.Uint64(id[8:]) }

// entries takes parts apart; what cannot be read is set aside.
func (f *Follower) entries(rows iter.Seq2[[]written, error], states StatesOf, step func(func())) iter.Seq2[[]*lookup.Entry, error] {
	return func(yield func([]*lookup.Entry, error) bool) {
		for some, err := range rows {
			out := make([]*lookup.Entry, 0, len(some))
			step(func() {
				for _, p := range some {
					e, err := entryOf(p, states)
					f.setAside(p.PartRow, err)
					if err == nil {
						out = append(out, e)
					}
				}
			})
			if !yield(out, err) {
				return
			}
		}
	}
}

// stepped makes a step of whatever is done with each member.
func stepped[T any](all iter.Seq2[T, error], step func(func())) iter.Seq2[T, error] {
	return func(yield func(T, error) bool) {
		for one, err := range all {
			more := false
			step(func() { more = yield(one, err) })
			if !more {
				return
			}
		}
	}
}

// entryOf makes the index entry of a stored part.
func entryOf(p written, states StatesOf) (*lookup.Entry, error) {
	e := p.known
	if e == nil {
		var err error
		if e, err = ofContent(p.PartRow); err != nil {
			return nil, err
		}
	}
	s := states(p.Head)
	e.ID, e.Number, e.Status, e.Standing, e.Use, e.Flag = p.ID.String(), p.Number, s.Status, s.Standing, s.Use, s.Flag
	e.Revision, e.Label, e.Version, e.HasDraft, e.Updated, e.Content = p.Revision, p.Label, p.Version, !p.Draft.IsZero(), p.Updated.UnixMicro(), contentKey(p.Shown)
	e.Former, e.Series, e.Gone = p.Former, p.Series, store.Gone(p.Standing)
	return e, nil
}

// ofContent is the entry of a part as far as its content says.
func ofContent(p store.PartRow) (*lookup.Entry, error) {
	if p.Format != part.Format {
		return nil, fmt.Errorf("the content of %s is of the form %q, and this version of the program reads %q", p.Number, p.Format, part.Format)
	}
	c, err := part.Decode(p.Bytes)
	if err != nil {
		return nil, fmt.Errorf("the content of %s: %w", p.Number, err)
	}
	return lookup.NewEntry(c), nil
}
