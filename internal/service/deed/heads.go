package deed

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"

	"jollydrawer/core/document"
	"jollydrawer/internal/store"
	"jollydrawer/internal/wire"
)

// Numbered loads the content of a revision; 0 is the draft.
func Numbered(r store.Reader, h store.Head, revision int) (store.Content, error) {
	id := h.Draft
	if revision > 0 {
		v, err := r.Revision(h.ID, revision)
		if err != nil {
			return store.Content{}, Sentence(err, "revision")
		}
		id = v.Content
	}
	if id.IsZero() {
		return store.Content{}, Fault(Unknown, "no-draft", fmt.Sprintf("%s has no draft.", h.Number), "Compare two revisions.")
	}
	return r.Content(id)
}

// Decode reads a document into out, where it was found.
func Decode(c store.Content, err error, out any) error {
	if err != nil {
		return err
	}
	return json.Unmarshal(c.Bytes, out)
}

// Seen says whether a thing is at the version that somebody looked at; what nobody named a version of may be at any.
func Seen(seen wire.Versions, key string, version int, what string) error {
	if v, named := seen[key]; named && v != version {
		return Sentence(store.ErrConflict, what)
	}
	return nil
}

// Whole makes what is shown of a head out of several reads, and makes it anew where the head was changed meanwhile, so that all
// of it is of one version.
func Whole[T any](h store.Head, again func() (store.Head, error), view func(store.Head) (T, error)) (out T, err error) {
	for range 10 {
		if out, err = view(h); err != nil {
			return out, err
		}
		now, err := again()
		if err != nil || now.Version == h.Version {
			return out, err
		}
		h = now
	}
	return out, Fault(Busy, "changing", "It is being changed again and again.", "Try again in a moment.")
}

// SaveDraft adds a document as a head's draft in a write.
func SaveDraft(t *store.Tx, h *store.Head, format string, doc any) error {
	raw, hash, err := document.Canonical(doc)
	if err != nil {
		return err
	}
	c := store.Content{ID: store.NewID(), Head: h.ID, Hash: store.Hash(hash), Format: format, Bytes: raw}
	h.Draft = c.ID
	return t.AddContent(&c)
}

// Apply makes a document the next revision of a named head, and changes nothing when it is the same document.
func Apply(t *store.Tx, kind, name, format string, version int, raw []byte, hash store.Hash) (int, error) {
	h, err := t.HeadByNumber(kind, name)
	fresh := errors.Is(err, store.ErrNotFound)
	if err != nil && !fresh {
		return 0, err
	}
	if fresh {
		h = store.Head{ID: store.NewID(), Kind: kind, Number: name}
	} else {
		now, err := t.Content(h.Released)
		if err != nil {
			return 0, err
		}
		if now.Hash == hash {
			return h.Revision, nil
		}
	}
	if h.Version != version {
		return 0, store.ErrConflict
	}
	c := store.Content{ID: store.NewID(), Head: h.ID, Hash: hash, Format: format, Bytes: raw}
	if err := t.AddContent(&c); err != nil {
		return 0, err
	}
	if err := t.AddRevision(&h, c, "applied", ""); err != nil {
		return 0, err
	}
	detail := map[string]any{"revision": h.Revision, "hash": hash.String()}
	if fresh {
		return h.Revision, t.Insert(&h, "applied", detail)
	}
	return h.Revision, t.Update(&h, "applied", detail)
}

// Clashed says whether a deed met another one: what it was to change is at another version, or its name is taken by now.
func Clashed(err error) bool {
	var e *Error
	return errors.Is(err, store.ErrNumberTaken) || errors.As(err, &e) && e.Type == "changed-meanwhile"
}

// Say saves what a person said about something that is known by a name and may not be there yet. Two who say it at
// once are one after the other: the later one starts again from what the first one said.
func (s *Desk) Say(ctx context.Context, c Call, op Op, kind, name string, in any, save func(*store.Tx, *store.Head, bool) (action string, err error)) error {
	for again := 0; ; again++ {
		_, err := Do(ctx, s, c, op, kind, []any{name, in}, func(t *store.Tx) (int, error) {
			h, err := t.HeadByNumber(kind, name)
			fresh := errors.Is(err, store.ErrNotFound)
			if err != nil && !fresh {
				return 0, err
			}
			if fresh {
				h = store.Head{ID: store.NewID(), Kind: kind, Number: name}
			}
			action, err := save(t, &h, fresh)
			if err != nil {
				return 0, err
			}
			if fresh {
				return 1, t.Insert(&h, action, nil)
			}
			return h.Version, t.Update(&h, action, nil)
		})
		if again < 20 && Clashed(err) {
			continue
		}
		return err
	}
}
