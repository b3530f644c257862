package ipc2581

import (
	"encoding/xml"
	"fmt"
	"io"
	"strings"

	"jollydrawer/core/model"
)

// Write writes land patterns as the packages of one file, in millimetres, each pad with a pad stack of its own kind.
func Write(w io.Writer, packages []Package) error {
	p := &printer{stacks: map[string]string{}}
	var body strings.Builder
	for _, k := range packages {
		body.WriteString(p.pack(k))
	}
	_, err := fmt.Fprintf(w, `<?xml version="1.0" encoding="UTF-8"?>
<IPC-2581 revision="C" xmlns="http://webstds.ipc.org/2581">
 <Content roleRef="Owner">
  <FunctionMode mode="USERDEF"/>
  <StepRef name="library"/>
 </Content>
 <Ecad name="library">
  <CadHeader units="MILLIMETER"/>
  <CadData>
   <Layer name="TOP" layerFunction="SIGNAL" side="TOP" polarity="POSITIVE"/>
   <Layer name="TOP_MASK" layerFunction="SOLDERMASK" side="TOP" polarity="POSITIVE"/>
   <Layer name="TOP_PASTE" layerFunction="SOLDERPASTE" side="TOP" polarity="POSITIVE"/>
   <Layer name="BOTTOM" layerFunction="SIGNAL" side="BOTTOM" polarity="POSITIVE"/>
   <Step name="library">
%s%s   </Step>
  </CadData>
 </Ecad>
</IPC-2581>
`, p.defs.String(), body.String())
	return err
}

type printer struct {
	defs   strings.Builder
	stacks map[string]string
}

func quoted(s string) string {
	var b strings.Builder
	_ = xml.EscapeText(&b, []byte(s)) // a Builder takes every write
	return b.String()
}

func shape(p model.Pad, grow model.Length) string {
	w, h := p.Width+2*grow, p.Height+2*grow
	switch p.Shape {
	case model.PadRound:
		return fmt.Sprintf(`<Circle diameter="%s"/>`, w)
	case model.PadOblong:
		return fmt.Sprintf(`<Oval width="%s" height="%s"/>`, w, h)
	case model.PadRounded:
		return fmt.Sprintf(`<RectRound width="%s" height="%s" radius="%s" upperRight="true" upperLeft="true" lowerRight="true" lowerLeft="true"/>`, w, h, p.Corner)
	case model.PadPolygon:
		return `<Contour>` + polygon(p.Points) + `</Contour>`
	}
	return fmt.Sprintf(`<RectCenter width="%s" height="%s"/>`, w, h)
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

// stack returns the name of the pad stack that p needs, and defines it the first time.
func (p *printer) stack(pad model.Pad) string {
	side := "TOP"
	if pad.Bottom {
		side = "BOTTOM"
	}
	var b strings.Builder
	if pad.Hole > 0 {
		plating := "PLATED"
		if pad.Unplated {
			plating = "NONPLATED"
		}
		fmt.Fprintf(&b, `<PadstackHoleDef name="hole" diameter="%s" platingStatus="%s" plusTol="0" minusTol="0" x="0" y="0"/>`, pad.Hole, plating)
	}
	layers := []struct {
		name string
		grow model.Length
	}{{side, 0}, {side + "_MASK", pad.Mask}}
	if pad.Hole == 0 && (pad.WithPaste == nil || *pad.WithPaste) {
		layers = append(layers, layers[1])
		layers[2].name, layers[2].grow = side+"_PASTE", pad.Paste
	}
	for _, l := range layers {
		fmt.Fprintf(&b, `<PadstackPadDef layerRef="%s" padUse="REGULAR"><Location x="0" y="0"/>%s</PadstackPadDef>`, l.name, shape(pad, l.grow))
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
	comment := ""
	if l.Density != "" {
		comment = fmt.Sprintf(` comment="density=%s"`, l.Density)
	}
	fmt.Fprintf(&b, "    <Package name=\"%s\" type=\"OTHER\" pinOne=\"1\" pinOneOrientation=\"OTHER\"%s%s>\n", quoted(k.Name), height, comment)
	first := true
	for _, g := range l.Shapes {
		if g.Purpose == model.Courtyard && first && (g.Form == model.Rectangle || g.Form == model.Polygon) {
			fmt.Fprintf(&b, "     <Outline>%s%s</Outline>\n", outline(g), line(g))
			first = false
		}
	}
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
		if in.Len() > 0 {
			fmt.Fprintf(&b, "     <%s>\n%s     </%s>\n", section.tag, in.String(), section.tag)
		}
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
		return "<Outline>" + outline(g) + line(g) + "</Outline>"
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
