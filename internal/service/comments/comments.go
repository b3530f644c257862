// Package comments keeps what people say about a thing, or about one of its values: said, answered, settled, on the trail.
package comments

import (
	"context"
	"fmt"
	"slices"
	"strings"

	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/service/lifecycles"
	"jollydrawer/internal/service/parts"
	"jollydrawer/internal/store"
	"jollydrawer/internal/wire"
)

// Comments keeps what is said. Its methods may be called from several goroutines.
type Comments struct {
	*deed.Desk
	parts *parts.Parts
	lives *lifecycles.Lifecycles
}

// New returns the comments of an installation.
func New(d *deed.Desk, p *parts.Parts, l *lifecycles.Lifecycles) *Comments { return &Comments{d, p, l} }

// thing finds what people talk about: a part, model, BOM, want or series by its identifier, a part by its number as well.
func (s *Comments) thing(ctx context.Context, key string) (store.Head, error) {
	return s.parts.Thing(ctx, key, "thing", store.KindPart, store.KindModel, store.KindBOM, store.KindWant, store.KindSeries)
}

// List lists what was said about a thing, oldest first.
func (s *Comments) List(ctx context.Context, c deed.Call, key string, offset, limit int) (wire.CommentList, error) {
	out := wire.CommentList{Items: []wire.Comment{}}
	if err := deed.Allow(c, deed.OpRead); err != nil {
		return out, err
	}
	h, err := s.thing(ctx, key)
	if err != nil {
		return out, err
	}
	offset, limit = deed.Page(offset, limit)
	r := s.Store.Read(ctx)
	all, total, err := r.Comments(h.ID, offset, limit)
	if err != nil {
		return out, err
	}
	open, err := r.OpenComments([]store.ID{h.ID})
	out.Open, out.Page = open[h.ID], wire.Page{Total: int(total), Offset: offset, Limit: limit}
	for _, x := range all {
		v := wire.Comment{ID: x.ID.String(), About: x.About, By: s.Person(ctx, x.Account), Mine: x.Account == c.Actor.ID, Text: x.Text, At: x.At, Settled: x.Settled != nil}
		if !x.Answers.IsZero() {
			v.Answers = x.Answers.String()
		}
		if v.Settled {
			v.SettledBy = s.Person(ctx, x.Settler)
		}
		out.Items = append(out.Items, v)
	}
	return out, err
}

// subject is the value of a thing that is talked about: the key of a line of its review list, or of a parameter of a part's template.
func (s *Comments) subject(ctx context.Context, h store.Head, about string) (string, error) {
	keys, err := s.lives.Sayable(ctx, h)
	if err != nil {
		return "", err
	}
	for _, key := range []string{about, "values." + about} {
		if slices.Contains(keys, key) {
			return key, nil
		}
	}
	if len(keys) == 0 {
		return "", deed.Fault(deed.Invalid, "comment-about", "It is talked about as a whole.", "Leave out what the comment is about.")
	}
	return "", deed.Fault(deed.Invalid, "comment-about", fmt.Sprintf("%s has no value %q.", h.Number, about), "Use one of: "+strings.Join(keys, ", ")+".")
}

// mostComments is how much is said about one thing.
const mostComments = 5000

// Say says something about a thing, or answers what was said.
func (s *Comments) Say(ctx context.Context, c deed.Call, key string, in wire.NewComment) (wire.CommentList, error) {
	in.Text, in.About = deed.Said(in.Text), strings.TrimSpace(in.About)
	var h store.Head
	var answers store.ID
	_, err := deed.DoAfter(ctx, s.Desk, c, deed.OpComment, "thing", []any{key, in}, func() (err error) {
		if in.Text == "" {
			return deed.Fault(deed.Invalid, "comment-blank", "The comment says nothing.", "Write something.")
		}
		if in.Answers != "" {
			if answers, err = store.ParseID(in.Answers); err != nil {
				return deed.Fault(deed.Unknown, "not-found", "There is no such comment to answer.", "Load the page again.")
			}
		}
		if h, err = s.thing(ctx, key); err != nil || in.About == "" || in.Answers != "" {
			return err
		}
		in.About, err = s.subject(ctx, h, in.About)
		return err
	}, func(t *store.Tx) (string, error) {
		h, err := t.Head(h.Kind, h.ID)
		if err != nil {
			return "", err
		}
		_, n, err := t.Comments(h.ID, 0, 1)
		if err == nil && n >= mostComments {
			err = deed.Fault(deed.Invalid, "comments-many", fmt.Sprintf("There are %d comments on it already, which is the most.", n), "Settle it some other way.")
		}
		if err != nil {
			return "", err
		}
		x := store.Comment{ID: store.NewID(), Head: h.ID, About: in.About, Account: c.Actor.ID, Text: in.Text, At: t.Deed.At}
		detail := map[string]any{"text": in.Text}
		if !answers.IsZero() {
			first, err := t.Comment(answers)
			if err == nil && first.Head != h.ID {
				err = store.ErrNotFound
			}
			if err != nil {
				return "", deed.Sentence(err, "comment")
			}
			if !first.Answers.IsZero() { // an answer to an answer belongs to what both are about
				answers = first.Answers
			}
			x.Answers, x.About = answers, first.About
			detail["answers"] = answers.String()
		}
		if x.About != "" {
			detail["about"] = x.About
		}
		if err := t.AddComment(x); err != nil {
			return "", err
		}
		return x.ID.String(), t.Note(&h, "commented", detail)
	})
	if err != nil {
		return wire.CommentList{}, err
	}
	return s.List(ctx, c, key, 0, 200)
}

// Settle settles a comment with its answers, or opens it again.
func (s *Comments) Settle(ctx context.Context, c deed.Call, id store.ID, settled bool) (wire.CommentList, error) {
	head, err := deed.Do(ctx, s.Desk, c, deed.OpComment, "comment", []any{"settle", id, settled}, func(t *store.Tx) (store.ID, error) {
		x, err := t.Comment(id)
		if err != nil {
			return store.ID{}, err
		}
		if !x.Answers.IsZero() {
			return x.Head, deed.Fault(deed.Invalid, "comment-answer", "An answer is settled with what it answers.", "Settle that.")
		}
		if (x.Settled != nil) == settled {
			return x.Head, nil // it is so already
		}
		all, err := t.HeadsByID([]store.ID{x.Head})
		if err == nil && len(all) != 1 {
			err = store.ErrNotFound
		}
		if err != nil {
			return x.Head, err
		}
		if err := t.SettleComment(id, settled); err != nil {
			return x.Head, err
		}
		action := "comment settled"
		if !settled {
			action = "comment open again"
		}
		return x.Head, t.Note(&all[0], action, map[string]any{"said": x.Text, "about": x.About})
	})
	if err != nil {
		return wire.CommentList{}, err
	}
	return s.List(ctx, c, head.String(), 0, 200)
}
