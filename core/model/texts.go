package model

import (
	"slices"
	"strings"
)

// Sides of a symbol on which the house writes the texts of parameters that the symbol has no place for.
var Sides = []string{"below", "above", "right", "left"}

// PartText is what a part's drawing says of one of its facts: shown at a place, or only carried along with it.
type PartText struct {
	Key   string `json:"key" doc:"Key of a parameter; or number, description, manufacturer, mpn or value"`
	Text  string `json:"text"`
	Shown bool   `json:"shown"`
	At    Point  `json:"at,omitzero" doc:"Middle of the text, where it is shown, mm"`
	Size  Length `json:"size,omitzero" doc:"Height of its capitals, mm"`
	Turn  Angle  `json:"turn,omitzero"`
	Unit  int    `json:"unit,omitempty" doc:"Of a symbol with several units: the one it stands at; 0 at all"`
}

// Placeholder is the key that a text such as {resistance} stands for: what the part or the design tool writes there.
func Placeholder(text string) (key string, is bool) {
	key, open := strings.CutPrefix(text, "{")
	key, closed := strings.CutSuffix(key, "}")
	return key, open && closed && key != "" && !strings.ContainsAny(key, "{}")
}

// PlaceTexts says where each text stands on a symbol. A text {key} of the symbol is the place of the fact of that key, wherever it stands and
// whether or not the house would show it; those that are to be shown and have none stand in lines on the house's side, in their order. All
// others are carried along.
func (s *Symbol) PlaceTexts(h House, texts []PartText) []PartText {
	out := make([]PartText, 0, len(texts))
	var lines []int
	for _, t := range texts {
		own := false
		for _, g := range s.Shapes {
			if key, is := Placeholder(g.Text); is && key == t.Key && g.Form == Text {
				own = true
				out = append(out, PartText{Key: t.Key, Text: t.Text, Shown: true, At: g.Points[0], Size: g.Size, Turn: g.Turn, Unit: g.Unit})
			}
		}
		if own {
			continue
		}
		if t.Shown {
			lines = append(lines, len(out))
		}
		out = append(out, PartText{Key: t.Key, Text: t.Text, Shown: t.Shown})
	}
	size := h.TextSize
	if size == 0 {
		size = MM
	}
	pitch := size * 3 / 2
	unit := min(len(s.Units), 1)
	b := s.Bounds(unit)
	at := b.Centre()
	switch h.Texts {
	case "above":
		at.Y = b.Max.Y + pitch*Length(len(lines))
	case "left", "right":
		at.Y += pitch * Length(len(lines)-1) / 2
	default:
		at.Y = b.Min.Y - pitch
	}
	for n, i := range lines {
		t := &out[i]
		t.At, t.Size, t.Unit = Point{at.X, at.Y - pitch*Length(n)}, size, unit
		half := size * 3 / 10 * Length(len([]rune(t.Text)))
		switch h.Texts {
		case "right":
			t.At.X = b.Max.X + size + half
		case "left":
			t.At.X = b.Min.X - size - half
		}
	}
	return out
}

// WithTexts is the symbol as a part draws it: the texts that are shown stand where [Symbol.PlaceTexts] says, as {key}, and all are its
// properties by their keys.
func (s *Symbol) WithTexts(h House, texts []PartText) *Symbol {
	out := *s
	out.Shapes = slices.Clone(s.Shapes)
	out.Properties = map[string]string{}
	for _, t := range s.PlaceTexts(h, texts) {
		out.Properties[t.Key] = t.Text
		stands := slices.ContainsFunc(s.Shapes, func(g Shape) bool { return g.Form == Text && g.Text == "{"+t.Key+"}" })
		if t.Shown && !stands {
			out.Shapes = append(out.Shapes, Shape{Form: Text, Text: "{" + t.Key + "}", Size: t.Size, Turn: t.Turn, Unit: t.Unit, Points: []Point{t.At}})
		}
	}
	return &out
}
