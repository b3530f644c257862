package models

import (
	"errors"
	"fmt"
	"slices"
	"strconv"
	"strings"

	"jollydrawer/core/cabinet"
	"jollydrawer/core/finding"
	"jollydrawer/core/measure"
	"jollydrawer/core/model"
	"jollydrawer/core/part"
	"jollydrawer/formats/drop"
	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/store"
	"jollydrawer/internal/wire"
)

// Fitted are the drawings that a part's models come to.
type Fitted struct{ Symbol, Land, Body, pins *Drawing }

// FitOf loads the drawings of a part. A model that is no more is left out: the part's own checks say that it is missing.
func (s *Models) FitOf(r store.Reader, p part.Content) (f Fitted, err error) {
	for _, at := range []struct {
		m    *part.Model
		into **Drawing
	}{{p.Symbol, &f.Symbol}, {p.LandPattern, &f.Land}, {p.Body, &f.Body}, {p.PinMap, &f.pins}} {
		if at.m == nil {
			continue
		}
		d, err := s.AtRevision(r, at.m.ID, at.m.Revision)
		if err != nil && !errors.Is(err, store.ErrNotFound) {
			return f, err
		}
		if err == nil {
			*at.into = d
		}
	}
	return f, nil
}

func (f Fitted) PinMap() *model.PinMap {
	if f.pins == nil {
		return nil
	}
	return f.pins.PinMap
}

// Fit says what is wrong between the models of a part: pins and pads, the body on its pads, the pitch, a block
// that stands in.
func (s *Models) Fit(r store.Reader, t *cabinet.Template, p part.Content) ([]finding.Finding, error) {
	if p.Symbol == nil && p.LandPattern == nil && p.Body == nil {
		return nil, nil
	}
	f, err := s.FitOf(r, p)
	if err != nil {
		return nil, err
	}
	var out []finding.Finding
	if f.Symbol != nil && f.Land != nil && f.Symbol.Symbol != nil && f.Land.Land != nil {
		out = append(out, model.CheckPins(f.Symbol.Symbol, f.Land.Land, f.PinMap())...)
	}
	out = append(out, s.MapMoved(r, p)...)
	if f.Body != nil && f.Body.Body != nil {
		if f.Land != nil && f.Land.Land != nil {
			out = append(out, model.Fit(f.Body.Body, f.Body.Name, f.Land.Land).Findings...)
		}
		out = append(append(out, heightDiffers(t, p, f.Body.Body)...), caseDiffers(t, p, f.Body.Body)...)
	}
	if f.Land != nil && f.Land.Land != nil {
		if pitch := pitchOf(t, p); pitch > 0 {
			for _, x := range model.Check(&f.Land.Content, model.House{}, pitch) {
				if x.Cause == "pitch" {
					x.Field = "land pattern"
					out = append(out, x)
				}
			}
		}
	}
	if f.Symbol != nil && f.Symbol.Symbol != nil {
		for _, l := range s.AttachedPins(r, p) {
			if _, n := l.Beside(f.Symbol.Symbol); n > 0 {
				out = append(out, finding.Finding{Severity: finding.Warning, Cause: "pins-differ", Field: "symbol", Text: l.name, What: fmt.Sprintf("the symbol and the attached list %s differ in %s", l.name, Count(n, "line", "lines")), Mend: "compare them line by line, and correct one of them"})
			}
		}
	}
	return out, nil
}

// MapMoved says that a part's pin map was laid on another land pattern than the one that is under it now.
func (s *Models) MapMoved(r store.Reader, p part.Content) []finding.Finding {
	if p.PinMap == nil || p.LandPattern == nil || p.MapLand == "" || p.MapLand == p.LandPattern.ID {
		return nil
	}
	return []finding.Finding{{Severity: finding.Warning, Cause: "map-of-other-land", Field: "pin map", What: fmt.Sprintf("the pin map %s was laid on %s, and the land pattern is %s now", p.PinMap.Name, s.landName(r, p.MapLand), p.LandPattern.Name),
		Mend: "look at the pins on the pads again, and keep the map"}}
}

// landName is the name of a land pattern by its identifier.
func (s *Models) landName(r store.Reader, id string) string {
	if head, err := store.ParseID(id); err == nil {
		if h, err := r.Head(store.KindModel, head); err == nil {
			return NameOf(h)
		}
	}
	return "another one"
}

// heightDiffers says that a body is of another height than the part: higher than it may be, or not much more than half of it. A block
// that stands in is as high as somebody said.
func heightDiffers(t *cabinet.Template, p part.Content, b *model.Body) []finding.Finding {
	says := lengthOf(t, p, "height", "seated-height")
	is := b.Box.Placed(b.Place).Size().Z
	if says <= 0 || b.StandIn || is <= says+says/20+model.MM/20 && is*10 >= says*6 {
		return nil
	}
	return []finding.Finding{{Severity: finding.Warning, Cause: "body-height", Field: "body", What: fmt.Sprintf("the body is %s mm high and the part says %s mm", is, says), Mend: "link the body of this part, or correct the part's height"}}
}

// caseDiffers says that a body is of another chip case than the part: its code says length and width in tenths of a millimetre (metric, IEC
// 60115-8 and others). Real ones differ from their code by less than the next case does.
func caseDiffers(t *cabinet.Template, p part.Content, b *model.Body) []finding.Finding {
	code := chipCase(t, p)
	if len(code) != 4 {
		return nil
	}
	tenths := func(s string) model.Length {
		n, err := strconv.Atoi(s)
		if err != nil {
			return 0
		}
		return model.Length(n) * model.MM / 10
	}
	size := b.Box.Placed(b.Place).Size()
	long, wide := max(size.X, size.Y), min(size.X, size.Y)
	off := func(is, says, percent model.Length) bool {
		d := is - says
		return says == 0 || max(d, -d) > max(says*percent/100, model.MM*15/100)
	}
	length, width := tenths(code[:2]), tenths(code[2:])
	if !off(long, max(length, width), 15) && !off(wide, min(length, width), 20) {
		return nil
	}
	return []finding.Finding{{Severity: finding.Warning, Cause: "body-case", Field: "body", What: fmt.Sprintf("the body is %s × %s mm and the part's case is %s × %s mm", long, wide, max(length, width), min(length, width)), Mend: "link the body of this case, or correct the part's case"}}
}

// chipCase is the metric code of a part's chip case; blank where it has none.
func chipCase(t *cabinet.Template, p part.Content) string {
	for _, slot := range t.Slots {
		v := p.Values[slot.Key]
		if v.IsBlank() {
			continue
		}
		switch slot.ChipCode {
		case "metric":
			return v.Text
		case "inch":
			if metric, ok := measure.CaseToMetric(v.Text); ok {
				return metric
			}
		}
	}
	return ""
}

// pitchOf reads the drawer's parameter of that name from a part.
func pitchOf(t *cabinet.Template, p part.Content) model.Length {
	return lengthOf(t, p, "pitch", "pin-pitch", "lead-pitch")
}

// lengthOf reads the first of some parameters that a part has as a length.
func lengthOf(t *cabinet.Template, p part.Content, keys ...string) model.Length {
	for _, key := range keys {
		if slot, ok := t.Slot(key); ok {
			if v := p.Values[key]; !v.IsBlank() {
				if l, err := model.ParseLength(slot.Shown(v)); err == nil {
					return l
				}
			}
		}
	}
	return 0
}

// PinList is a list of pins of another origin than the symbol: one, or several of which one is the part's.
type PinList struct {
	name  string
	lists []model.PinList
}

// Beside is the list that differs least from a symbol, and in how many lines: which of several components or packages the part is, the
// file does not tell.
func (l PinList) Beside(sym *model.Symbol) (pins []model.ListedPin, differing int) {
	for i, one := range l.lists {
		if n := Differing(sym, one.Pins); i == 0 || n < differing {
			pins, differing = one.Pins, n
		}
	}
	return pins, differing
}

// AttachedPins returns the pin lists that are attached to a part. A file that is no list any more is passed over: its delivery
// said why.
func (s *Models) AttachedPins(r store.Reader, p part.Content) (out []PinList) {
	for _, a := range p.Attachments {
		if a.Is != drop.PinList && a.Is != drop.Signals {
			continue
		}
		all, err := s.files.Members(r, a.File.Hash, a.File.Name)
		if err != nil {
			continue
		}
		for _, f := range all {
			if len(f.Lists) > 0 {
				out = append(out, PinList{a.File.Name, f.Lists})
				break
			}
		}
	}
	return out
}

func Differing(sym *model.Symbol, list []model.ListedPin) (n int) {
	for _, d := range model.ComparePins(sym, list) {
		if d.What != "" {
			n++
		}
	}
	return n
}

// ClipName shortens a name to what a model may have.
func ClipName(s string) string {
	if len(s) > 90 {
		return strings.TrimSpace(strings.ToValidUTF8(s[:90], ""))
	}
	return s
}

// Placed writes a place into a body's or a land pattern's content, without touching what is shared.
func Placed(m *model.Content, body string, in wire.PlaceBody) error {
	if err := in.Place.Check(); err != nil {
		return deed.Fault(deed.Invalid, "place-wrong", fmt.Sprintf("Nothing was saved: %v.", err), "")
	}
	if m.Body != nil {
		b := *m.Body
		b.Place = in.Place
		m.Body = &b
		return nil
	}
	if m.Land == nil {
		return deed.Fault(deed.Invalid, "no-drawing", m.Name+" has no drawing that the body could be placed in.", "Bring in its file again.")
	}
	l := *m.Land
	l.Bodies = slices.Clone(l.Bodies)
	l.Bodies = append(slices.DeleteFunc(l.Bodies, func(b model.BodyPlace) bool { return b.Body == body }), model.BodyPlace{Body: body, Place: in.Place})
	m.Land = &l
	return nil
}
