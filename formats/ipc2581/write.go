package ipc2581

import (
	"cmp"
	"encoding/xml"
	"fmt"
	"io"
	"slices"
	"strings"

	"jollydrawer/core/model"
)

// Write writes land patterns as the packages of one file, in millimetres, each pad with a pad stack of its own kind. What the form has no
// place for is named in the package's comment, and said again when the file is read. Items are parts that use them, as lines of a bill of
// materials, with their facts as characteristics.
func Write(w io.Writer, packages []Package, items ...Item) error {
	p := &printer{stacks: map[string]string{}}
	var body strings.Builder
	for _, k := range packages {
		body.WriteString(p.pack(k))
	}
	var layers strings.Builder
	for _, side := range []string{"TOP", "BOTTOM"} {
		for _, l := range [][2]string{{"", "SIGNAL"}, {"_MASK", "SOLDERMASK"}, {"_PASTE", "SOLDERPASTE"}} {
			fmt.Fprintf(&layers, "   <Layer name=\"%s%s\" layerFunction=\"%s\" side=\"%s\" polarity=\"POSITIVE\"/>\n", side, l[0], l[1], side)
		}
	}
	if p.inner {
		layers.WriteString("   <Layer name=\"INNER\" layerFunction=\"SIGNAL\" side=\"INTERNAL\" polarity=\"POSITIVE\"/>\n")
	}
	var boms strings.Builder
	for _, i := range items {
		boms.WriteString(i.bom())
	}
	_, err := fmt.Fprintf(w, `<?xml version="1.0" encoding="UTF-8"?>
<IPC-2581 revision="C" xmlns="http://webstds.ipc.org/2581">
 <Content roleRef="Owner">
  <FunctionMode mode="USERDEF"/>
  <StepRef name="library"/>
 </Content>
%s <Ecad name="library">
  <CadHeader units="MILLIMETER"/>
  <CadData>
%s   <Step name="library">
%s%s   </Step>
  </CadData>
 </Ecad>
</IPC-2581>
`, boms.String(), layers.String(), p.defs.String(), body.String())
	return err
}

// Item is a part that uses a package.
type Item struct {
	Number, Description string
	Letter              string // of its designators
	Package             string // name of the package
	Texts               [][2]string
}

// bom writes the part as a bill of materials of one line.
func (i Item) bom() string {
	n := quoted(i.Number)
	one := BillItem{Number: i.Number, Description: i.Description, Designators: []string{cmp.Or(i.Letter, "X") + "1"}, Populate: true, Pieces: 1, Package: i.Package, Layer: "TOP", Texts: i.Texts}
	return fmt.Sprintf(" <Bom name=\"%s\">\n  <BomHeader assembly=\"%s\" revision=\"1\"><StepRef name=\"library\"/></BomHeader>\n%s </Bom>\n", n, n, one.item())
}

type printer struct {
	defs   strings.Builder
	stacks map[string]string
	inner  bool // a stack has copper of its own on inner layers
}

func quoted(s string) string {
	var b strings.Builder
	_ = xml.EscapeText(&b, []byte(s)) // a Builder takes every write
	return b.String()
}

func shape(f model.Figure) string {
	if len(f.CutOuts) > 0 {
		return contour(f)
	}
	flags := ""
	if f.Shape == model.PadRounded || f.Shape == model.PadChamfered {
		for i, name := range []string{"lowerLeft", "lowerRight", "upperRight", "upperLeft"} {
			flags += fmt.Sprintf(` %s="%t"`, name, len(f.Corners) == 0 || slices.Contains(f.Corners, model.FigureCorners[i]))
		}
	}
	switch f.Shape {
	case model.PadRound:
		return fmt.Sprintf(`<Circle diameter="%s"/>`, f.Width)
	case model.PadOblong:
		return fmt.Sprintf(`<Oval width="%s" height="%s"/>`, f.Width, f.Height)
	case model.PadRounded:
		return fmt.Sprintf(`<RectRound width="%s" height="%s" radius="%s"%s/>`, f.Width, f.Height, f.Corner, flags)
	case model.PadChamfered:
		return fmt.Sprintf(`<RectCham width="%s" height="%s" chamfer="%s"%s/>`, f.Width, f.Height, f.Corner, flags)
	case model.PadPolygon:
		return `<Contour>` + polygon(f.Points) + `</Contour>`
	}
	return fmt.Sprintf(`<RectCenter width="%s" height="%s"/>`, f.Width, f.Height)
}

// place is a figure's turn and place within its stack.
func place(f model.Figure) string {
	turn := ""
	if f.Turn != 0 {
		turn = fmt.Sprintf(`<Xform rotation="%s"/>`, f.Turn)
	}
	return fmt.Sprintf(`%s<Location x="%s" y="%s"/>`, turn, f.At.X, f.At.Y)
}

func polygon(points []model.Point) string {
	var b strings.Builder
	for i, q := range points {
		tag := "PolyStepSegment"
		if i == 0 {
			tag = "PolyBegin"
		}
		fmt.Fprintf(&b, `<%s x="%s" y="%s"/>`, tag, q.X, q.Y)
	}
	if len(points) > 0 {
		fmt.Fprintf(&b, `<PolyStepSegment x="%s" y="%s"/>`, points[0].X, points[0].Y)
	}
	return "<Polygon>" + b.String() + "</Polygon>"
}

// stack returns the name of the pad stack that a pad needs, and defines it the first time.
func (p *printer) stack(pad model.Pad) string {
	var b strings.Builder
	if pad.Hole > 0 {
		plating := "PLATED"
		if pad.Unplated {
			plating = "NONPLATED"
		}
		if pad.Slot > 0 { // the form's holes are round; a slot is a cavity
			f := model.Figure{Shape: model.PadOblong, At: pad.HoleAt, Turn: pad.HoleTurn, Width: pad.Hole + pad.Slot, Height: pad.Hole}
			fmt.Fprintf(&b, `<SlotCavity name="slot" platingStatus="%s" plusTol="0" minusTol="0">%s%s</SlotCavity>`, plating, place(f), shape(f))
		} else {
			fmt.Fprintf(&b, `<PadstackHoleDef name="hole" diameter="%s" platingStatus="%s" plusTol="0" minusTol="0" x="%s" y="%s"/>`, pad.Hole, plating, pad.HoleAt.X, pad.HoleAt.Y)
		}
	}
	put := func(bottom bool, layer string, f model.Figure) {
		side := "TOP"
		if bottom {
			side = "BOTTOM"
		}
		fmt.Fprintf(&b, `<PadstackPadDef layerRef="%s%s" padUse="REGULAR">%s%s</PadstackPadDef>`, side, layer, place(f), shape(f))
	}
	put(pad.Bottom, "", pad.Figure())
	if pad.Hole > 0 {
		below := pad.Figure()
		if pad.Below != nil {
			below = *pad.Below
		}
		put(true, "", below)
	}
	if pad.Inner != nil {
		fmt.Fprintf(&b, `<PadstackPadDef layerRef="INNER" padUse="REGULAR">%s%s</PadstackPadDef>`, place(*pad.Inner), shape(*pad.Inner))
		p.inner = true
	}
	for _, l := range [][2]string{{model.OfMask, "_MASK"}, {model.OfPaste, "_PASTE"}} {
		for _, o := range pad.Opened(l[0]) {
			put(o.Bottom, l[1], o.Figure)
		}
	}
	key := b.String()
	if p.stacks[key] == "" {
		p.stacks[key] = fmt.Sprintf("stack-%d", len(p.stacks)+1)
		fmt.Fprintf(&p.defs, "    <PadStackDef name=\"%s\">%s</PadStackDef>\n", p.stacks[key], key)
	}
	return p.stacks[key]
}

func (p *printer) pack(k Package) string {
	l := k.Land
	var b strings.Builder
	height := ""
	if k.Height > 0 {
		height = fmt.Sprintf(` height="%s"`, k.Height)
	}
	var courtyard []model.Shape
	said := []string{}
	if l.Density != "" {
		said = append(said, "density="+l.Density)
	}
	// The form wants one outline of the package, and has no place for a courtyard: that is the last of the assembly drawing.
	drawn, kind := model.Shape{Form: model.Rectangle, Points: []model.Point{l.PadBounds().Min, l.PadBounds().Max}}, "none"
	for _, g := range l.Shapes {
		if g.Purpose != model.Courtyard {
			continue
		}
		if kind == "none" && (g.Form == model.Rectangle || g.Form == model.Polygon) && !g.Filled {
			drawn, kind = g, "courtyard"
			continue
		}
		courtyard = append(courtyard, g)
	}
	said = append(said, "outline="+kind)
	if len(courtyard) > 0 {
		said = append(said, fmt.Sprintf("courtyard=%d", len(courtyard)))
	}
	if len(l.Bodies) > 0 {
		said = append(said, "left=how bodies sit on it")
	}
	fmt.Fprintf(&b, "    <Package name=\"%s\" type=\"OTHER\" pinOne=\"1\" pinOneOrientation=\"OTHER\"%s comment=\"%s %s\">\n", quoted(k.Name), height, ours, quoted(strings.Join(said, "; ")))
	fmt.Fprintf(&b, "     <Outline>%s%s</Outline>\n", outline(drawn), line(drawn))
	b.WriteString("     <LandPattern>\n")
	for _, pad := range l.Pads {
		turn := ""
		if pad.Turn != 0 {
			turn = fmt.Sprintf(`<Xform rotation="%s"/>`, pad.Turn)
		}
		ref := ""
		if pad.Number != "" {
			ref = fmt.Sprintf(`<PinRef pin="%s"/>`, quoted(pad.Number))
		}
		fmt.Fprintf(&b, "      <Pad padstackDefRef=\"%s\">%s<Location x=\"%s\" y=\"%s\"/>%s</Pad>\n", p.stack(pad), turn, pad.At.X, pad.At.Y, ref)
	}
	b.WriteString("     </LandPattern>\n")
	for _, section := range []struct {
		tag     string
		purpose model.Purpose
	}{{"SilkScreen", model.Silkscreen}, {"AssemblyDrawing", model.Assembly}} {
		var in strings.Builder
		for _, g := range l.Shapes {
			if g.Purpose == section.purpose {
				in.WriteString("      " + marking(g) + "\n")
			}
		}
		if section.purpose == model.Assembly {
			for _, g := range courtyard {
				in.WriteString("      " + marking(g) + "\n")
			}
		}
		if in.Len() > 0 {
			fmt.Fprintf(&b, "     <%s>\n%s     </%s>\n", section.tag, in.String(), section.tag)
		}
	}
	written := map[string]bool{}
	for _, pad := range l.Pads { // the shape of a lead is not known: it is as wide as its pad
		if pad.Number == "" || written[pad.Number] {
			continue
		}
		written[pad.Number] = true
		kind := "SURFACE"
		if pad.Hole > 0 {
			kind = "THRU"
		}
		fmt.Fprintf(&b, "     <Pin number=\"%s\" type=\"%s\" electricalType=\"UNDEFINED\"><Location x=\"%s\" y=\"%s\"/>%s</Pin>\n", quoted(pad.Number), kind, pad.At.X, pad.At.Y, shape(pad.Figure()))
	}
	b.WriteString("    </Package>\n")
	return b.String()
}

func outline(g model.Shape) string {
	points := g.Points
	if g.Form == model.Rectangle {
		a, c := g.Points[0], g.Points[1]
		points = []model.Point{a, {X: c.X, Y: a.Y}, c, {X: a.X, Y: c.Y}}
	}
	return polygon(points)
}

func line(g model.Shape) string {
	return fmt.Sprintf(`<LineDesc lineEnd="ROUND" lineWidth="%s"/>`, g.Width)
}

func marking(g model.Shape) string {
	usage, in := "NONE", ""
	at := model.Point{}
	switch g.Form {
	case model.Rectangle, model.Polygon:
		in = "<Outline>" + outline(g) + line(g) + "</Outline>"
		if g.Filled {
			in = "<Contour>" + outline(g) + line(g) + "</Contour>"
		}
	case model.Line:
		if len(g.Points) == 2 {
			in = fmt.Sprintf(`<Line startX="%s" startY="%s" endX="%s" endY="%s">%s</Line>`, g.Points[0].X, g.Points[0].Y, g.Points[1].X, g.Points[1].Y, line(g))
			break
		}
		in = "<Polyline>" + strings.TrimSuffix(strings.TrimPrefix(openPolygon(g.Points), "<Polygon>"), "</Polygon>") + line(g) + "</Polyline>"
	case model.Arc:
		c, clockwise := model.Centre(g.Points)
		in = fmt.Sprintf(`<Arc startX="%s" startY="%s" endX="%s" endY="%s" centerX="%s" centerY="%s" clockwise="%t">%s</Arc>`, g.Points[0].X, g.Points[0].Y, g.Points[2].X, g.Points[2].Y, c.X, c.Y, clockwise, line(g))
	case model.Circle:
		at = g.Points[0]
		fill := ""
		if g.Filled {
			fill = `<FillDesc fillProperty="FILL"/>`
		}
		in = fmt.Sprintf(`<Circle diameter="%s">%s%s</Circle>`, 2*g.Radius, line(g), fill)
	case model.Text:
		text := g.Text
		if text == model.Designator {
			usage = "REFDES"
		}
		h := g.Size / 2
		w := h * model.Length(max(len([]rune(text)), 1))
		if g.Turn == 90*model.Degree || g.Turn == 270*model.Degree {
			w, h = h, w
		}
		turn := ""
		if g.Turn != 0 {
			turn = fmt.Sprintf(`<Xform rotation="%s"/>`, g.Turn)
		}
		c := g.Points[0]
		in = fmt.Sprintf(`<Text textString="%s" fontSize="%d">%s<BoundingBox lowerLeftX="%s" lowerLeftY="%s" upperRightX="%s" upperRightY="%s"/></Text>`,
			quoted(text), max(1, int(g.Size/(model.MM/10))), turn, c.X-w, c.Y-h, c.X+w, c.Y+h)
	}
	return fmt.Sprintf(`<Marking markingUsage="%s"><Location x="%s" y="%s"/>%s</Marking>`, usage, at.X, at.Y, in)
}

func openPolygon(points []model.Point) string {
	s := polygon(points)
	i := strings.LastIndex(s, "<PolyStepSegment")
	return s[:i] + "</Polygon>"
}
