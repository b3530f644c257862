package parts

import (
	"context"
	"fmt"

	"jollydrawer/core/cabinet"
	"jollydrawer/core/finding"
	"jollydrawer/core/part"
	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/service/policy"
	"jollydrawer/internal/store"
)

// Newest loads a part with its newest content.
func (s *Parts) Newest(ctx context.Context, key string) (store.Head, part.Content, error) {
	h, err := s.Find(ctx, key)
	if err != nil {
		return h, part.Content{}, deed.Sentence(err, "part")
	}
	c, err := s.Store.Read(ctx).Content(h.Newest())
	if err != nil {
		return h, part.Content{}, err
	}
	p, _, err := Decode(c)
	return h, p, err
}

// Alter changes the models of a part's newest content in a write, as a new draft. It does nothing where change
// returns false.
func (s *Parts) Alter(t *store.Tx, id store.ID, version, template int, action string, detail map[string]any, change func(*part.Content) bool) (changed bool, err error) {
	h, err := t.Head(store.KindPart, id)
	if err == nil && version > 0 && h.Version != version {
		err = store.ErrConflict
	}
	if err == nil {
		err = policy.Stands(h)
	}
	if err != nil {
		return false, err
	}
	was, err := t.Content(h.Newest())
	if err != nil {
		return false, err
	}
	p, o, err := Decode(was)
	if err != nil || !change(&p) {
		return false, err
	}
	if where := p.TooLong(); where != "" || len(p.Attachments) > 50 || len(p.OtherLands) > 20 || len(p.Datasheets) > 50 {
		return false, deed.Fault(deed.Invalid, "part-full", fmt.Sprintf("%s has too many files or land patterns; nothing was changed.", h.Number), "Remove some first.")
	}
	now, err := s.Put(t, &h, p, o, template, true)
	if err != nil {
		return false, err
	}
	changes, err := Changes(was.Bytes, now.Bytes)
	if err != nil {
		return false, err
	}
	if detail == nil {
		detail = map[string]any{}
	}
	detail["changes"] = changes
	return true, t.Update(&h, action, detail)
}

// ForChange loads what a change of a part's models begins with: the part's newest content and the cabinet's head.
func (s *Parts) ForChange(ctx context.Context, c deed.Call, op deed.Op, key string) (h store.Head, p part.Content, cabinet store.Head, err error) {
	if err = deed.Allow(c, op); err != nil {
		return h, p, cabinet, err
	}
	if h, p, err = s.Newest(ctx, key); err == nil {
		_, cabinet, err = s.cabinets.InForce(ctx)
	}
	return h, p, cabinet, err
}

// Errors counts what keeps content from being released under a template, models aside.
func Errors(c part.Content, t *cabinet.Template) (n int) {
	for _, f := range part.Check(c, t) {
		if f.Severity == finding.Error {
			n++
		}
	}
	return n
}
