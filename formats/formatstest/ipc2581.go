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
	switch {
	case len(f.CutOuts) > 0:
		out = d.cut(f)
	case f.Shape == model.PadRound:
		out = d.tag("Circle", map[string]string{"diameter": d.num(f.Width)}, "")
	case f.Shape == model.PadOblong:
		out = d.tag("Oval", size, "")
	case f.Shape == model.PadRounded, f.Shape == model.PadChamfered:
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
	case f.Shape == model.PadPolygon:
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

// cut writes a figure with cut-outs: a ring where it is one, or else an outline and what is cut out of it.
func (d *IPC2581) cut(f model.Figure) string {
	in := f.Cut()
	ring := map[string]string{model.PadRound: "ROUND", model.PadRectangle: "SQUARE"}[f.Shape]
	if len(in) == 1 && in[0].Shape == f.Shape && in[0].At == (model.Point{}) && f.Width == f.Height && in[0].Width == in[0].Height && ring != "" && d.IntN(3) > 0 {
		return d.tag("Donut", map[string]string{"shape": ring, "outerDiameter": d.num(f.Width), "innerDiameter": d.num(in[0].Width)}, "")
	}
	out := d.tag("Polygon", nil, d.along(f))
	for _, c := range in {
		out += d.tag("Cutout", nil, d.along(c))
	}
	return d.tag("Contour", nil, out)
}

// along are the steps along an upright outline, from one of its corners on and either way about.
func (d *IPC2581) along(f model.Figure) string {
	type step struct {
		to     model.Point
		centre *model.Point
	}
	w, h, r := f.Width/2, f.Height/2, f.Corner
	var steps []step
	switch f.Shape {
	case model.PadPolygon:
		for _, p := range f.Points {
			steps = append(steps, step{p, nil})
		}
	case model.PadRectangle:
		r = 0
	case model.PadRound, model.PadOblong:
		r = min(w, h)
	}
	if steps == nil {
		for _, s := range []model.Point{{X: -1, Y: -1}, {X: 1, Y: -1}, {X: 1, Y: 1}, {X: -1, Y: 1}} {
			c := model.Point{X: s.X * (w - r), Y: s.Y * (h - r)}
			a, b := model.Point{X: c.X, Y: s.Y * h}, model.Point{X: s.X * w, Y: c.Y}
			if s.X == s.Y {
				a, b = b, a
			}
			steps = append(steps, step{a, nil})
			switch {
			case f.Shape == model.PadChamfered:
				steps = append(steps, step{b, nil})
			case r > 0:
				steps = append(steps, step{b, &c})
			}
		}
	}
	for i := range steps {
		steps[i].to = steps[i].to.Add(f.At)
		if c := steps[i].centre; c != nil {
			moved := c.Add(f.At)
			steps[i].centre = &moved
		}
	}
	back := d.IntN(2) == 0
	if back { // a curve belongs to the step that ends where it began
		n := len(steps)
		turned := make([]step, n)
		for i := range steps {
			turned[i] = step{steps[n-1-i].to, steps[(n-i)%n].centre}
		}
		steps = turned
	}
	var out strings.Builder
	last := steps[len(steps)-1].to
	out.WriteString(d.tag("PolyBegin", map[string]string{"x": d.num(last.X), "y": d.num(last.Y)}, ""))
	for _, s := range steps {
		at := map[string]string{"x": d.num(s.to.X), "y": d.num(s.to.Y)}
		switch {
		case s.centre != nil:
			at["centerX"], at["centerY"], at["clockwise"] = d.num(s.centre.X), d.num(s.centre.Y), fmt.Sprint(back)
			out.WriteString(d.tag("PolyStepCurve", at, ""))
		case s.to != last:
			out.WriteString(d.tag("PolyStepSegment", at, ""))
		}
		last = s.to
	}
	return out.String()
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
	if p.Inner != nil {
		on("inner", false, *p.Inner)
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
	}{{"copper", false, "SIGNAL"}, {"copper", true, "CONDUCTOR"}, {"inner", false, "PLANE"}, {model.OfMask, false, "SOLDERMASK"}, {model.OfMask, true, "SOLDERMASK"}, {model.OfPaste, false, "SOLDERPASTE"}, {model.OfPaste, true, "SOLDERPASTE"}} {
		n := fmt.Sprint("L", i)
		side := map[bool]string{true: "BOTTOM", false: "TOP"}[l.bottom]
		if l.of == "inner" {
			side = "INTERNAL"
		}
		d.layers[fmt.Sprint(l.of, l.bottom)] = n
		layers.WriteString(d.tag("Layer", map[string]string{"name": n, "layerFunction": l.function, "side": side}, ""))
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
