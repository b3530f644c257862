package model

import (
	"fmt"
	"slices"
	"strings"
)

// padWords are what the columns of a pad table are called: English, German, French, Spanish, Italian, Japanese.
var padWords = map[string][]string{
	"number": {"number", "no", "nr", "pin", "pad", "name", "#", "ball", "nummer", "numéro", "número", "numero", "番号", "ピン", "端子番号"},
	"x":      {"x", "pos x", "center x", "centre x", "x pos", "x position", "posx", "mitte x"},
	"y":      {"y", "pos y", "center y", "centre y", "y pos", "y position", "posy", "mitte y"},
	"width":  {"width", "w", "x size", "size x", "sizex", "breite", "largeur", "ancho", "larghezza", "幅"},
	"height": {"height", "h", "y size", "size y", "sizey", "length", "höhe", "länge", "hauteur", "alto", "altezza", "長さ", "高さ"},
	"shape":  {"shape", "form", "forme", "forma", "形状"},
	"turn":   {"turn", "rotation", "angle", "rot", "drehung", "winkel", "angulo", "ángulo", "angolo", "回転"},
	"hole":   {"hole", "drill", "bohrung", "perçage", "taladro", "foro", "穴"},
	"slot":   {"slot", "slot length", "langloch"},
	"corner": {"corner", "radius", "corner radius", "chamfer", "rayon", "radio", "raggio"},
	"plated": {"plated", "plating", "metallised", "durchkontaktiert"},
	"side":   {"side", "layer", "seite", "lage", "côté", "lado", "lato"},
}

// shapeWords are what people call the shapes of pads.
var shapeWords = map[string]string{"rectangle": PadRectangle, "rect": PadRectangle, "r": PadRectangle, "square": PadRectangle, "rechteck": PadRectangle, "round": PadRound, "circle": PadRound, "c": PadRound, "rund": PadRound, "oblong": PadOblong, "oval": PadOblong, "o": PadOblong, "rounded": PadRounded, "roundrect": PadRounded, "rounded rectangle": PadRounded, "chamfered": PadChamfered}

// unitIn finds the unit that a heading names, such as "X (mm)" or "width [mil]".
func unitIn(heading string) (Length, string, bool) {
	plain := plainHeading(strings.NewReplacer("(", " ", ")", " ", "[", " ", "]", " ", "µ", "u").Replace(heading))
	words := strings.Fields(plain)
	if len(words) < 2 {
		return 0, plain, false
	}
	for _, u := range unitsOfLength {
		if u.name == words[len(words)-1] {
			return u.of, strings.Join(words[:len(words)-1], " "), true
		}
	}
	return 0, plain, false
}

// ReadPads makes a land pattern of a table of pads: number, place, size, and what else its headings name. Lengths are in the unit of their
// heading, or of their cell, or else in the one that is given; where there is none, the table is not read. A row that cannot be read
// makes the whole table an error: a land pattern that lacks a pad is none.
func ReadPads(t PinTable, unit Length) (*LandPattern, error) {
	at, units, err := padColumns(t.Headings, unit)
	if err != nil {
		return nil, err
	}
	l := &LandPattern{}
	holes := 0
	for i, row := range t.Rows {
		if !slices.ContainsFunc(row, func(c string) bool { return strings.TrimSpace(c) != "" }) {
			continue
		}
		p, err := padOf(row, at, units)
		if err != nil {
			return nil, fmt.Errorf("line %d: %w", t.FirstLine+i, err)
		}
		if p.Hole > 0 {
			holes++
		}
		if l.Pads = append(l.Pads, p); len(l.Pads) > MostPins {
			return nil, fmt.Errorf("the table has more than %d pads", MostPins)
		}
	}
	switch {
	case holes == len(l.Pads):
		l.Mounting = "through"
	case holes > 0:
		l.Mounting = "mixed"
	default:
		l.Mounting = "surface"
	}
	for i := range l.Pads {
		l.Pads[i].normal()
	}
	return l, l.Check()
}

func padColumns(headings []string, unit Length) (at map[string]int, units map[string]Length, err error) {
	at, units = map[string]int{}, map[string]Length{}
	for i, h := range headings {
		u, plain, named := unitIn(h)
		meaning := ""
		for key, words := range padWords {
			if headed(plain, words) == 3 {
				meaning = key
			}
		}
		if meaning == "" {
			if plain != "" {
				return nil, nil, fmt.Errorf("the column %q is not known; a table of pads has number, x, y, width, height, shape, turn, hole, slot, corner, plated, side", clip(h))
			}
			continue
		}
		if _, twice := at[meaning]; twice {
			return nil, nil, fmt.Errorf("two columns are the %s of a pad: %q is one of them", meaning, clip(h))
		}
		at[meaning] = i
		if units[meaning] = unit; named {
			units[meaning] = u
		}
	}
	for _, key := range []string{"x", "y", "width"} {
		if _, ok := at[key]; !ok {
			return nil, nil, fmt.Errorf("the table has no column for the %s of a pad", key)
		}
	}
	return at, units, nil
}

func padOf(row []string, at map[string]int, units map[string]Length) (p Pad, err error) {
	cell := func(key string) string {
		if i, ok := at[key]; ok {
			return cellOf(row, i)
		}
		return ""
	}
	length := func(key string) Length {
		t := cell(key)
		if t == "" || err != nil {
			return 0
		}
		t = strings.ReplaceAll(strings.ReplaceAll(t, "−", "-"), ",", ".")
		unit := units[key]
		l, e := ParseLengthIn(t, max(unit, 1))
		switch {
		case e != nil:
			err = fmt.Errorf("the %s %q is no length", key, clip(cell(key)))
		case unit == 0 && strings.Trim(t, "0123456789.-+eE ") == "":
			err = fmt.Errorf("the %s %q has no unit: say in which unit the table is", key, clip(cell(key)))
		}
		return l
	}
	p = Pad{Number: cell("number"), Shape: PadRectangle, At: Point{length("x"), length("y")}, Width: length("width"), Height: length("height"), Hole: length("hole"), Slot: length("slot"), Corner: length("corner")}
	if p.Height == 0 {
		p.Height = p.Width
	}
	if w := strings.ToLower(cell("shape")); w != "" {
		shape, ok := shapeWords[w]
		if !ok {
			return p, fmt.Errorf("the shape %q is none of rectangle, round, oblong, rounded, chamfered", clip(w))
		}
		p.Shape = shape
	} else if p.Corner > 0 {
		p.Shape = PadRounded
	}
	if t := cell("turn"); t != "" {
		a, e := ParseAngle(t)
		if e != nil {
			return p, e
		}
		p.Turn = a
	}
	switch w := strings.ToLower(cell("plated")); w {
	case "", "yes", "y", "true", "1", "plated", "ja", "oui", "sí", "si":
	case "no", "n", "false", "0", "unplated", "non-plated", "nein", "non":
		p.Unplated = p.Hole > 0
	default:
		return p, fmt.Errorf("whether it is plated is written as %q, which is neither yes nor no", clip(w))
	}
	switch w := strings.ToLower(cell("side")); w {
	case "", "top", "front", "oben", "t":
	case "bottom", "back", "unten", "b":
		p.Bottom = p.Hole == 0
	default:
		return p, fmt.Errorf("the side %q is neither top nor bottom", clip(w))
	}
	return p, err
}

// PadTable writes a land pattern's pads as such a table, in millimetres. What a table has no column for, it leaves out.
func PadTable(l *LandPattern) [][]string {
	out := [][]string{{"Number", "X (mm)", "Y (mm)", "Width (mm)", "Height (mm)", "Shape", "Turn", "Corner (mm)", "Hole (mm)", "Slot (mm)", "Plated", "Side"}}
	for _, p := range l.Pads {
		plated, side := "", "top"
		if p.Hole > 0 {
			if plated, side = "yes", ""; p.Unplated {
				plated = "no"
			}
		}
		if p.Bottom {
			side = "bottom"
		}
		text := func(v Length) string {
			if v == 0 {
				return ""
			}
			return v.String()
		}
		out = append(out, []string{p.Number, p.At.X.String(), p.At.Y.String(), p.Width.String(), p.Height.String(), p.Shape, p.Turn.String(), text(p.Corner), text(p.Hole), text(p.Slot), plated, side})
	}
	return out
}
