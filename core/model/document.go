package model

import (
	"bytes"
	"encoding/json"
	"errors"
	"fmt"
	"sort"
	"strings"
)

// The formats of the documents of our own form. An older number is upgraded on reading.
const (
	SymbolFormat  = "jolly-symbol/2"
	LandFormat    = "jolly-land-pattern/3"
	BodyFormat    = "jolly-body/1"
	PinMapFormat  = "jolly-pin-map/1"
	LibraryFormat = "jolly-models/1" // many of the others in "models"
)

// The documents: a name and a drawing.
type (
	symbolDocument struct {
		Format string `json:"format"`
		Name   string `json:"name"`
		Note   string `json:"note,omitempty"`
		Symbol
	}
	landDocument struct {
		Format string `json:"format"`
		Name   string `json:"name"`
		Note   string `json:"note,omitempty"`
		LandPattern
	}
	bodyDocument struct {
		Format string `json:"format"`
		Name   string `json:"name"`
		Note   string `json:"note,omitempty"`
		Body
	}
	pinMapDocument struct {
		Format string `json:"format"`
		Name   string `json:"name"`
		Note   string `json:"note,omitempty"`
		PinMap
	}
)

// Documents are the shapes of the documents by format, for describing them as JSON Schema.
var Documents = map[string]any{SymbolFormat: symbolDocument{}, LandFormat: landDocument{}, BodyFormat: bodyDocument{}, PinMapFormat: pinMapDocument{}}

// WriteDocument writes one model in our own form, indented, its keys in the order of the types.
func WriteDocument(c *Content) ([]byte, error) {
	var doc any
	switch {
	case c.Symbol != nil:
		doc = symbolDocument{SymbolFormat, c.Name, c.Note, *c.Symbol}
	case c.Land != nil:
		doc = landDocument{LandFormat, c.Name, c.Note, *c.Land}
	case c.Body != nil:
		doc = bodyDocument{BodyFormat, c.Name, c.Note, *c.Body}
	case c.PinMap != nil:
		doc = pinMapDocument{PinMapFormat, c.Name, c.Note, *c.PinMap}
	default:
		return nil, fmt.Errorf("%s has no drawing to write", c.Name)
	}
	var b bytes.Buffer
	e := json.NewEncoder(&b)
	e.SetEscapeHTML(false)
	e.SetIndent("", " ")
	err := e.Encode(doc)
	return b.Bytes(), err
}

// IsDocument says whether raw looks like a document of our own form, whatever its name is.
func IsDocument(raw []byte) bool {
	head := raw[:min(len(raw), 4096)]
	return bytes.HasPrefix(bytes.TrimLeft(head, " \t\r\n\ufeff"), []byte("{")) && bytes.Contains(head, []byte(`"format"`)) && bytes.Contains(head, []byte(`"jolly-`))
}

// ReadDocument reads a document of our own form: one model or a library of many. The models of a library that cannot be
// kept are named in the second result and left out of the first; a document that is wrong as a whole is an error.
func ReadDocument(raw []byte) (models []Content, wrong []string, err error) {
	var head struct {
		Format string            `json:"format"`
		Models []json.RawMessage `json:"models"`
	}
	raw = bytes.TrimPrefix(raw, []byte("\ufeff"))
	if err := json.Unmarshal(raw, &head); err != nil {
		return nil, nil, place(raw, err)
	}
	if head.Format != LibraryFormat {
		c, err := readOne(head.Format, raw)
		if err != nil {
			return nil, nil, err
		}
		return []Content{c}, nil, nil
	}
	if len(head.Models) > 20000 {
		return nil, nil, fmt.Errorf("the library holds %d models; at most 20,000 are read at once", len(head.Models))
	}
	for i, m := range head.Models {
		var one struct {
			Format string `json:"format"`
			Name   string `json:"name"`
		}
		_ = json.Unmarshal(m, &one) // what is wrong is said by readOne
		c, err := readOne(one.Format, m)
		if err != nil {
			wrong = append(wrong, fmt.Sprintf("model %d of the library (%q): %v", i+1, clip(one.Name), err))
			continue
		}
		models = append(models, c)
	}
	return models, wrong, nil
}

func readOne(format string, raw []byte) (c Content, err error) {
	switch format {
	case SymbolFormat:
		var d symbolDocument
		err = strict(raw, &d)
		c = Content{Kind: KindSymbol, Name: d.Name, Note: d.Note, Symbol: &d.Symbol}
	case "jolly-symbol/1":
		c, err = symbol1(raw)
	case LandFormat, "jolly-land-pattern/2": // the third has more that a pad can be, and nothing of a hole without one
		var d landDocument
		err = strict(raw, &d)
		for i := range d.Pads {
			if d.Pads[i].Hole == 0 && format != LandFormat {
				d.Pads[i].normal()
			}
		}
		c = Content{Kind: KindLand, Name: d.Name, Note: d.Note, Land: &d.LandPattern}
	case "jolly-land-pattern/1":
		c, err = land1(raw)
	case BodyFormat:
		var d bodyDocument
		err = strict(raw, &d)
		c = Content{Kind: KindBody, Name: d.Name, Note: d.Note, Body: &d.Body}
	case PinMapFormat:
		var d pinMapDocument
		err = strict(raw, &d)
		c = Content{Kind: KindPinMap, Name: d.Name, Note: d.Note, PinMap: &d.PinMap}
	default:
		return c, fmt.Errorf("the format %q is not known here; this version reads %s", clip(format), formats())
	}
	if err == nil {
		err = c.Check()
	}
	return c, err
}

func formats() string {
	all := []string{LibraryFormat, "jolly-symbol/1", "jolly-land-pattern/1", "jolly-land-pattern/2"}
	for f := range Documents {
		all = append(all, f)
	}
	sort.Strings(all)
	return strings.Join(all, ", ")
}

// strict decodes without passing over fields it does not know: what is not understood must not be lost in silence.
func strict(raw []byte, into any) error {
	d := json.NewDecoder(bytes.NewReader(raw))
	d.DisallowUnknownFields()
	if err := d.Decode(into); err != nil {
		if at := d.InputOffset(); at > 0 && !errors.As(err, new(*json.SyntaxError)) {
			return fmt.Errorf("line %d: %s", 1+bytes.Count(raw[:min(int(at), len(raw))], []byte("\n")), plain(err))
		}
		return place(raw, err)
	}
	return nil
}

func place(raw []byte, err error) error {
	var syntax *json.SyntaxError
	if errors.As(err, &syntax) {
		line := 1 + bytes.Count(raw[:min(int(syntax.Offset), len(raw))], []byte("\n"))
		return fmt.Errorf("line %d: it is no JSON: %s", line, strings.TrimPrefix(syntax.Error(), "json: "))
	}
	return errors.New(plain(err))
}

func plain(err error) string {
	s := strings.TrimPrefix(err.Error(), "json: ")
	var typed *json.UnmarshalTypeError
	if errors.As(err, &typed) {
		return fmt.Sprintf("the field %s holds a %s, which does not fit", typed.Field, typed.Value)
	}
	if f, ok := strings.CutPrefix(s, "unknown field "); ok {
		return "the field " + f + " is not known in this format"
	}
	return s
}

// symbol1 reads the first format: pins with a place and a type, no graphics, all pins half a grid's lattice long.
func symbol1(raw []byte) (Content, error) {
	var d struct {
		Format string `json:"format"`
		Name   string `json:"name"`
		Grid   Length `json:"grid"`
		Pins   []struct {
			Number string `json:"number"`
			Name   string `json:"name"`
			Type   string `json:"type"`
			X      Length `json:"x"`
			Y      Length `json:"y"`
		} `json:"pins"`
	}
	if err := strict(raw, &d); err != nil {
		return Content{}, err
	}
	s := &Symbol{Grid: d.Grid}
	for _, p := range d.Pins {
		runs := Right
		if p.X > 0 {
			runs = Left
		}
		if abs(p.Y) > abs(p.X) {
			if runs = Up; p.Y > 0 {
				runs = Down
			}
		}
		s.Pins = append(s.Pins, Pin{Number: p.Number, Name: p.Name, Type: p.Type, At: Point{p.X, p.Y}, Runs: runs, Length: 254 * MM / 100})
	}
	var inner Box
	for _, p := range s.Pins {
		inner.Take(p.Inner())
	}
	if inner.Height() < 2*MM {
		inner.Min.Y, inner.Max.Y = inner.Min.Y-MM, inner.Max.Y+MM
	}
	if inner.Width() < 2*MM {
		inner.Min.X, inner.Max.X = inner.Min.X-MM, inner.Max.X+MM
	}
	s.Shapes = []Shape{{Form: Rectangle, Points: []Point{inner.Min, inner.Max}, Width: MM / 4}}
	return Content{Kind: KindSymbol, Name: d.Name, Symbol: s}, nil
}

// land1 reads the first format: pads with their place beside their other fields, no outlines.
func land1(raw []byte) (Content, error) {
	var d struct {
		Format   string `json:"format"`
		Name     string `json:"name"`
		Density  string `json:"density"`
		Mounting string `json:"mounting"`
		Pads     []struct {
			Number string `json:"number"`
			Shape  string `json:"shape"`
			X      Length `json:"x"`
			Y      Length `json:"y"`
			Width  Length `json:"width"`
			Height Length `json:"height"`
		} `json:"pads"`
	}
	if err := strict(raw, &d); err != nil {
		return Content{}, err
	}
	l := &LandPattern{Density: d.Density, Mounting: d.Mounting}
	for _, p := range d.Pads {
		l.Pads = append(l.Pads, Pad{Number: p.Number, Shape: p.Shape, At: Point{p.X, p.Y}, Width: p.Width, Height: p.Height})
	}
	return Content{Kind: KindLand, Name: d.Name, Land: l}, nil
}

func abs(l Length) Length {
	if l < 0 {
		return -l
	}
	return l
}
