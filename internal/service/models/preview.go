package models

import (
	"context"
	"fmt"
	"regexp"

	"jollydrawer/core/model"
	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/store"
)

// Sight is what is wanted to be seen of a model: the newest content where neither a content nor a revision is named.
type Sight struct {
	Content      string
	Revision     int
	Night, Small bool
	Unit         int      // of a symbol; 0 for all
	Marked       []string // numbers of pins or pads that stand out
	Letter       string   // of the designator
	Beside       string   // content of the drawing that it is laid beside, at the same scale
}

// Preview draws a model as SVG.
func (s *Models) Preview(ctx context.Context, c deed.Call, id string, v Sight) ([]byte, error) {
	if err := deed.Allow(c, deed.OpRead); err != nil {
		return nil, err
	}
	head, err := store.ParseID(id)
	if err != nil {
		return nil, deed.Fault(deed.Unknown, "not-found", "There is no such model.", "")
	}
	h, err := s.Store.Read(ctx).Head(store.KindModel, head)
	if err != nil {
		return nil, deed.Sentence(err, "model")
	}
	content := h.Newest()
	switch {
	case v.Content != "":
		if content, err = store.ParseID(v.Content); err != nil {
			return nil, deed.Fault(deed.Unknown, "not-found", "There is no such content.", "")
		}
	case v.Revision > 0:
		r, err := s.Store.Read(ctx).Revision(h.ID, v.Revision)
		if err != nil {
			return nil, deed.Sentence(err, "revision")
		}
		content = r.Content
	}
	if !designatorLetter.MatchString(v.Letter) {
		v.Letter = ""
	}
	key := fmt.Sprint(content, v.Night, v.Small, v.Unit, v.Marked, v.Letter, v.Beside)
	s.drawings.Lock()
	svg := s.drawings.svg[key]
	s.drawings.Unlock()
	if svg != nil {
		return svg, nil
	}
	if raw, err := s.Store.Read(ctx).Content(content); err != nil || raw.Head != h.ID {
		return nil, deed.Fault(deed.Unknown, "not-found", "The model has no such content.", "")
	}
	d, err := s.drawing(s.Store.Read(ctx), content)
	if err != nil {
		return nil, err
	}
	how := model.Preview{Ink: Ink(v.Night), Small: v.Small, Unit: v.Unit, Marked: v.Marked, Letter: v.Letter}
	if v.Beside != "" {
		if how.Frame, err = s.extent(s.Store.Read(ctx), v.Beside, how); err != nil {
			return nil, err
		}
	}
	svg = d.SVG(how)
	if len(svg) > maxPreview {
		return svg, nil
	}
	s.drawings.Lock()
	defer s.drawings.Unlock()
	if s.drawings.svg == nil {
		s.drawings.svg = map[string][]byte{}
	}
	s.drawings.svg[key] = svg
	if s.drawings.order = append(s.drawings.order, key); len(s.drawings.order) > maxPreviews {
		delete(s.drawings.svg, s.drawings.order[0])
		s.drawings.order = s.drawings.order[1:]
	}
	return svg, nil
}

// extent is the box that the drawing of a model's content needs.
func (s *Models) extent(r store.Reader, content string, how model.Preview) (model.Box, error) {
	unknown := deed.Fault(deed.Unknown, "not-found", "There is no such content to be beside.", "")
	id, err := store.ParseID(content)
	if err != nil {
		return model.Box{}, unknown
	}
	raw, err := r.Content(id)
	if err != nil {
		return model.Box{}, unknown
	}
	if _, err := r.Head(store.KindModel, raw.Head); err != nil {
		return model.Box{}, unknown
	}
	d, err := s.drawing(r, id)
	if err != nil {
		return model.Box{}, err
	}
	return d.Extent(how), nil
}

var designatorLetter = regexp.MustCompile(`^[A-Z]{1,4}$`)

func Ink(night bool) model.Ink {
	if night {
		return model.Night
	}
	return model.Day
}
