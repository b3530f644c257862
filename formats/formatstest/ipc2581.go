package formatstest

import (
	"bytes"
	"encoding/binary"
	"fmt"
	"html"
	"slices"
	"strings"
	"unicode/utf16"

	"jollydrawer/core/model"
	"jollydrawer/core/model/modeltest"
)

// IPC2581 writes one land pattern as another program might: in its unit, with dictionaries or without, with names of layers of its own.
// It knows nothing of our writer.
type IPC2581 struct {
	modeltest.Maker
	Unit       string // of lengths
	prefix     string
	dictionary bool
	defs, dict strings.Builder
	count      int
	layers     map[string]string
}

func (d *IPC2581) num(l model.Length) string {
	switch d.Unit {
	case "INCH":
		return fmt.Sprintf("%.10f", float64(l)/float64(model.Inch))
	case "MICRON":
		return fmt.Sprintf("%.4f", float64(l)/float64(model.MM/1000))
	}
	return fmt.Sprintf("%.7f", float64(l)/float64(model.MM))
}

// tag writes an element with its attributes in any order.
func (d *IPC2581) tag(name string, attrs map[string]string, inside string) string {
	keys := make([]string, 0, len(attrs))
	for k := range attrs {
		keys = append(keys, k)
	}
	slices.Sort(keys)
	d.Shuffle(len(keys), func(i, j int) { keys[i], keys[j] = keys[j], keys[i] })
	var b strings.Builder
	fmt.Fprintf(&b, "<%s%s", d.prefix, name)
	for _, k := range keys {
		fmt.Fprintf(&b, " %s=\"%s\"", k, html.EscapeString(attrs[k]))
	}
	if inside == "" && d.IntN(2) == 0 {
		return b.String() + "/>\n"
	}
	fmt.Fprintf(&b, ">\n%s</%s%s>\n", inside, d.prefix, name)
	return b.String()
}

func (d *IPC2581) points(points []model.Point) string {
	var b strings.Builder
	all := append(slices.Clone(points), points[0])
	if d.IntN(2) == 0 {
		all = all[:len(points)] // closed without saying so
	}
	for i, p := range all {
		name := "PolyStepSegment"
		if i == 0 {
			name = "PolyBegin"
		}
		b.WriteString(d.tag(name, map[string]string{"x": d.num(p.X), "y": d.num(p.Y)}, ""))
	}
	return d.tag("Polygon", nil, b.String())
}

// shape writes a figure about its own middle, in one of the ways in which it can be said.
func (d *IPC2581) shape(f model.Figure) string {
	size := map[string]string{"width": d.num(f.Width), "height": d.num(f.Height)}
	out := ""
	switch f.Shape {
	case model.PadRound:
		out = d.tag("Circle", map[string]string{"diameter": d.num(f.Width)}, "")
	case model.PadOblong:
		out = d.tag("Oval", size, "")
	case model.PadRounded, model.PadChamfered:
		name, corner := "RectRound", "radius"
		if f.Shape == model.PadChamfered {
			name, corner = "RectCham", "chamfer"
		}
		size[corner] = d.num(f.Corner)
		if len(f.Corners) > 0 || d.IntN(2) == 0 {
			for i, c := range []string{"lowerLeft", "lowerRight", "upperRight", "upperLeft"} {
				size[c] = fmt.Sprint(len(f.Corners) == 0 || slices.Contains(f.Corners, model.FigureCorners[i]))
			}
		}
		out = d.tag(name, size, "")
	case model.PadPolygon:
		out = d.tag("Contour", nil, d.points(f.Points))
	default:
		w, h := f.Width/2, f.Height/2
		switch d.IntN(3) {
		case 0:
			out = d.tag("RectCenter", size, "")
		case 1:
			out = d.tag("RectCorner", map[string]string{"lowerLeftX": d.num(-w), "lowerLeftY": d.num(-h), "upperRightX": d.num(w), "upperRightY": d.num(h)}, "")
		default:
			out = d.tag("Contour", nil, d.points([]model.Point{{X: -w, Y: -h}, {X: w, Y: -h}, {X: w, Y: h}, {X: -w, Y: h}}))
		}
	}
	if d.dictionary {
		d.count++
		id := fmt.Sprint("shape ", d.count)
		d.dict.WriteString(d.tag("EntryStandard", map[string]string{"id": id}, out))
		return d.tag("StandardPrimitiveRef", map[string]string{"id": id}, "")
	}
	return out
}

func (d *IPC2581) place(f model.Figure) string {
	out := ""
	if f.Turn != 0 {
		out += d.tag("Xform", map[string]string{"rotation": f.Turn.String()}, "")
	}
	if f.At != (model.Point{}) || d.IntN(2) == 0 {
		out += d.tag("Location", map[string]string{"x": d.num(f.At.X), "y": d.num(f.At.Y)}, "")
	}
	return out
}

func (d *IPC2581) stack(p model.Pad) string {
	var parts []string
	on := func(of string, bottom bool, f model.Figure) {
		parts = append(parts, d.tag("PadstackPadDef", map[string]string{"layerRef": d.layers[fmt.Sprint(of, bottom)], "padUse": "REGULAR"}, d.place(f)+d.shape(f)))
	}
	on("copper", p.Bottom, p.Figure())
	if p.Hole > 0 {
		below := p.Figure()
		if p.Below != nil {
			below = *p.Below
		}
		on("copper", true, below)
	}
	for _, of := range []string{model.OfMask, model.OfPaste} {
		for _, o := range p.Opened(of) {
			on(of, o.Bottom, o.Figure)
		}
	}
	d.Shuffle(len(parts), func(i, j int) { parts[i], parts[j] = parts[j], parts[i] })
	inside := strings.Join(parts, "")
	if p.Hole > 0 {
		plating := map[bool]string{true: "NONPLATED", false: "PLATED"}[p.Unplated]
		if p.Slot > 0 {
			f := model.Figure{Shape: model.PadOblong, Width: p.Hole + p.Slot, Height: p.Hole, At: p.HoleAt, Turn: p.HoleTurn}
			inside = d.tag("SlotCavity", map[string]string{"name": "s", "platingStatus": plating, "plusTol": "0", "minusTol": "0.0"}, d.place(f)+d.shape(f)) + inside
		} else {
			inside = d.tag("PadstackHoleDef", map[string]string{"name": "h", "diameter": d.num(p.Hole), "platingStatus": plating, "plusTol": "0", "minusTol": "0", "x": d.num(p.HoleAt.X), "y": d.num(p.HoleAt.Y)}, "") + inside
		}
	}
	d.count++
	id := fmt.Sprint("Stack <", d.count, ">")
	d.defs.WriteString(d.tag("PadStackDef", map[string]string{"name": id}, inside))
	return id
}

// File is a file with one land pattern. extra puts more inside an element: Pad, LandPattern or PadStackDef.
func (d *IPC2581) File(name string, l *model.LandPattern, extra func(where string) string) []byte {
	d.layers = map[string]string{}
	var layers strings.Builder
	for i, l := range []struct {
		of       string
		bottom   bool
		function string
	}{{"copper", false, "SIGNAL"}, {"copper", true, "CONDUCTOR"}, {model.OfMask, false, "SOLDERMASK"}, {model.OfMask, true, "SOLDERMASK"}, {model.OfPaste, false, "SOLDERPASTE"}, {model.OfPaste, true, "SOLDERPASTE"}} {
		n := fmt.Sprint("L", i)
		d.layers[fmt.Sprint(l.of, l.bottom)] = n
		layers.WriteString(d.tag("Layer", map[string]string{"name": n, "layerFunction": l.function, "side": map[bool]string{true: "BOTTOM", false: "TOP"}[l.bottom]}, ""))
	}
	var pads, pins strings.Builder
	for _, p := range l.Pads {
		inside := d.tag("Location", map[string]string{"x": d.num(p.At.X), "y": d.num(p.At.Y)}, "")
		if p.Turn != 0 {
			inside = d.tag("Xform", map[string]string{"rotation": p.Turn.String()}, "") + inside
		}
		if p.Number != "" {
			inside += d.tag("PinRef", map[string]string{"pin": p.Number}, "")
		}
		pads.WriteString(d.tag("Pad", map[string]string{"padstackDefRef": d.stack(p)}, inside+extra("Pad")))
		pins.WriteString(d.tag("Pin", map[string]string{"number": p.Number, "type": map[bool]string{true: "THRU", false: "SURFACE"}[p.Hole > 0]}, ""))
	}
	pack := d.tag("Package", map[string]string{"name": name, "type": "OTHER", "pinOne": "1"}, d.tag("LandPattern", nil, pads.String()+extra("LandPattern"))+pins.String())
	stacks := d.defs.String()
	if at := extra("PadStackDef"); at != "" {
		stacks = strings.Replace(stacks, "</"+d.prefix+"PadStackDef>", at+"</"+d.prefix+"PadStackDef>", 1)
	}
	step := d.tag("Step", map[string]string{"name": "s"}, pack+stacks)
	if d.IntN(2) == 0 {
		step = d.tag("Step", map[string]string{"name": "s"}, stacks+pack)
	}
	content := ""
	if d.dictionary {
		content = d.tag("Content", nil, d.tag("DictionaryStandard", map[string]string{"units": d.Unit}, d.dict.String()))
	}
	xmlns := map[bool]string{true: "xmlns", false: "xmlns:" + strings.TrimSuffix(d.prefix, ":")}[d.prefix == ""]
	return []byte(d.tag("IPC-2581", map[string]string{"revision": "B", xmlns: "http://webstds.ipc.org/2581"}, content+d.tag("Ecad", map[string]string{"name": "e"}, d.tag("CadHeader", map[string]string{"units": d.Unit}, "")+d.tag("CadData", nil, layers.String()+step))))
}

// NewIPC2581 is a way of writing, from a seed.
func NewIPC2581(seed uint64) *IPC2581 {
	d := &IPC2581{Maker: modeltest.New(seed)}
	d.Unit = []string{"MILLIMETER", "MICRON", "INCH"}[d.IntN(3)]
	d.prefix = []string{"", "", "ipc:", "x2581:"}[d.IntN(4)]
	d.dictionary = d.IntN(2) == 0
	return d
}

// Wide is a text in UTF-16 with its declaration, and with a mark of its order or without.
func Wide(raw []byte, order binary.ByteOrder, mark bool) []byte {
	units := utf16.Encode([]rune("<?xml version=\"1.0\" encoding=\"UTF-16\"?>\n" + string(raw)))
	var b bytes.Buffer
	if mark {
		units = append([]uint16{0xfeff}, units...)
	}
	for _, u := range units {
		_ = binary.Write(&b, order, u) // a buffer takes every write
	}
	return b.Bytes()
}
