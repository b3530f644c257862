package ipc2581

import (
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jollydrawer/core/model"
)

// example is a file of one package: its header, what else stands in it, its pad stacks and what stands in its package.
func example(units, more, stacks, in string) []byte {
	return []byte(`<IPC-2581><Content>` + more + `</Content><Ecad><CadHeader ` + units + `/><CadData>
<Layer name="F" layerFunction="SIGNAL" side="TOP"/><Layer name="B" layerFunction="SIGNAL" side="BOTTOM"/><Layer name="I" layerFunction="SIGNAL" side="INTERNAL"/><Layer name="FM" layerFunction="SOLDERMASK" side="TOP"/><Layer name="FP" layerFunction="SOLDERPASTE" side="TOP"/>
<Step name="s">
` + stacks + `
<Package name="P" type="OTHER">` + in + `</Package></Step></CadData></Ecad></IPC-2581>`)
}

const mmUnits = `units="MILLIMETER"`

// on is a stack with a shape on a layer.
func on(layer, inside string) string {
	return `<PadstackPadDef layerRef="` + layer + `" padUse="REGULAR">` + inside + `</PadstackPadDef>`
}

// one is a package of one pad, of a stack.
func one(stack, pad string) []byte {
	return example(mmUnits, "", `<PadStackDef name="a">`+stack+`</PadStackDef>`, `<LandPattern><Pad padstackDefRef="a">`+pad+`<PinRef pin="1"/></Pad></LandPattern>`)
}

// box is an outline: a square of so many millimetres to each side of the origin.
func box(tag, half string) string {
	var b strings.Builder
	for i, s := range [][2]string{{"-", "-"}, {"", "-"}, {"", ""}, {"-", ""}} {
		fmt.Fprintf(&b, `<%s x="%s%s" y="%s%s"/>`, map[bool]string{true: "PolyBegin", false: "PolyStepSegment"}[i == 0], s[0], half, s[1], half)
	}
	return "<" + tag + "><Polygon>" + b.String() + "</Polygon></" + tag + ">"
}

// padText writes what is known of a pad.
func padText(p model.Pad) string {
	out := fmt.Sprintf("%s %s×%s at %s,%s", p.Shape, p.Width, p.Height, p.At.X, p.At.Y)
	add := func(is bool, form string, args ...any) {
		if is {
			out += " " + fmt.Sprintf(form, args...)
		}
	}
	add(p.Turn != 0, "turn %s", p.Turn)
	add(p.Corner != 0, "corner %s", p.Corner)
	add(len(p.Corners) > 0, "%s", strings.Join(p.Corners, "+"))
	add(len(p.Points) > 0, "of %d", len(p.Points))
	for _, c := range p.CutOuts {
		add(true, "cut %s %s×%s at %s,%s", c.Shape, c.Width, c.Height, c.At.X, c.At.Y)
	}
	add(p.Hole != 0, "hole %s", p.Hole)
	add(p.Slot != 0, "slot %s turned %s", p.Slot, p.HoleTurn)
	add(p.HoleAt != model.Point{}, "at %s,%s", p.HoleAt.X, p.HoleAt.Y)
	add(p.Unplated, "unplated")
	add(p.Bottom, "bottom")
	add(p.Mask != 0, "mask %s", p.Mask)
	add(p.WithMask != nil, "no mask")
	add(p.WithPaste != nil, "no paste")
	add(len(p.Openings) > 0, "%d openings", len(p.Openings))
	if p.Inner != nil {
		out += fmt.Sprintf(" inner %s %s×%s", p.Inner.Shape, p.Inner.Width, p.Inner.Height)
	}
	if p.Below != nil {
		out += fmt.Sprintf(" below %s %s×%s", p.Below.Shape, p.Below.Width, p.Below.Height)
	}
	return out
}

// Each thing that a pad can be is read as what it is, or refused with the reason; with what is said where it should be known.
func TestWhatAPadCanBe(t *testing.T) {
	const rect, cover = `<RectCenter width="2" height="1"/>`, ""
	flat := on("F", rect)
	through := `<PadstackHoleDef name="h" diameter="0.8" platingStatus="PLATED" x="0" y="0"/>` + on("F", `<Circle diameter="1.6"/>`) + on("B", `<Circle diameter="1.6"/>`)
	const none = " no mask no paste"
	for _, c := range []struct{ name, stack, pad, want, said string }{
		{"plain", flat, `<Location x="1" y="2"/>`, "rectangle 2×1 at 1,2" + none, ""},
		{"turned", flat, `<Xform rotation="30"/><Location x="1" y="2"/>`, "rectangle 2×1 at 1,2 turn 30" + none, ""},
		{"moved by its Xform", flat, `<Xform xOffset="0.5" yOffset="-0.25"/><Location x="1" y="2"/>`, "rectangle 2×1 at 1.5,1.75" + none, ""},
		{"scaled", flat, `<Xform scale="1.5"/><Location x="1" y="2"/>`, "rectangle 3×1.5 at 1,2" + none, ""},
		{"mirrored", on("F", `<RectCham width="2" height="1" chamfer="0.2" lowerLeft="true" lowerRight="false" upperLeft="false" upperRight="false"/>`), `<Xform mirror="true"/>`, "chamfered 2×1 at 0,0 corner 0.2 lower right" + none, ""},
		{"mirrored with its shape off its place", on("F", `<Location x="0.5" y="0"/>`+rect), `<Xform mirror="true"/>`, "rectangle 2×1 at -0.5,0" + none, ""},
		{"mirrored and turned, alike in both orders", flat, `<Xform mirror="true" rotation="90"/>`, "rectangle 2×1 at 0,0 turn 90" + none, ""},
		{"mirrored and turned, not alike", on("F", `<RectCham width="2" height="1" chamfer="0.2" lowerLeft="true" lowerRight="false" upperLeft="false" upperRight="false"/>`), `<Xform mirror="true" rotation="90"/>`, "several things at once", ""},
		{"offset and turned", flat, `<Xform xOffset="1" rotation="90"/>`, "several things at once", ""},
		{"turned in its stack", on("F", `<Xform rotation="90"/>`+rect), ``, "rectangle 2×1 at 0,0 turn 90" + none, ""},
		{"off its place in the stack, and turned", on("F", `<Location x="0.5" y="0"/>`+rect), `<Xform rotation="90"/>`, "rectangle 2×1 at 0,0.5 turn 90" + none, ""},
		{"from corner to corner", on("F", `<RectCorner lowerLeftX="0" lowerLeftY="0" upperRightX="2" upperRightY="1"/>`), ``, "rectangle 2×1 at 1,0.5" + none, ""},
		{"some corners rounded", on("F", `<RectRound width="2" height="1" radius="0.2" upperRight="true" upperLeft="false" lowerLeft="false" lowerRight="true"/>`), ``, "rounded 2×1 at 0,0 corner 0.2 lower right+upper right" + none, ""},
		{"no corner rounded", on("F", `<RectRound width="2" height="1" radius="0.2" upperRight="0" upperLeft="0" lowerLeft="0" lowerRight="0"/>`), ``, "rectangle 2×1 at 0,0" + none, ""},
		{"corners of which some are open", on("F", `<RectRound width="2" height="1" radius="0.2" upperRight="true"/>`), ``, "says of 1 corners", ""},
		{"chamfered", on("F", `<RectCham width="2" height="1" chamfer="0.2"/>`), ``, "chamfered 2×1 at 0,0 corner 0.2" + none, ""},
		{"an octagon", on("F", `<Octagon length="2"/>`), ``, "polygon 1.847759×1.847759 at 0,0 of 8" + none, "from corner to corner"},
		{"a diamond", on("F", `<Diamond width="2" height="1"/>`), ``, "polygon 2×1 at 0,0 of 4" + none, ""},
		{"an ellipse", on("F", `<Ellipse width="2" height="1"/>`), ``, "polygon 2×1 at 0,0 of 72" + none, "an ellipse was read as a polygon"},
		{"a ring", on("F", `<Donut shape="ROUND" outerDiameter="2" innerDiameter="1"/>`), ``, "round 2×2 at 0,0 cut round 1×1 at 0,0" + none, ""},
		{"a square ring", on("F", `<Donut shape="SQUARE" outerDiameter="2" innerDiameter="1"/>`), ``, "rectangle 2×2 at 0,0 cut rectangle 1×1 at 0,0" + none, ""},
		{"a ring of eight sides", on("F", `<Donut shape="OCTAGON" outerDiameter="2" innerDiameter="1"/>`), ``, `a ring of the shape "OCTAGON"`, ""},
		{"a ring without a shape", on("F", `<Donut outerDiameter="2" innerDiameter="1"/>`), ``, `a ring of the shape ""`, ""},
		{"a ring with more inside than outside", on("F", `<Donut shape="ROUND" outerDiameter="1" innerDiameter="2"/>`), ``, "does not lie within", ""},
		{"a ring without an inside", on("F", `<Donut shape="ROUND" outerDiameter="1" innerDiameter="0"/>`), ``, "round 1×1 at 0,0" + none, ""},
		{"a ring that says one size", on("F", `<Donut shape="ROUND" outerDiameter="1"/>`), ``, "says no innerDiameter", ""},
		{"a ring, scaled", on("F", `<Donut shape="ROUND" outerDiameter="2" innerDiameter="1"/>`), `<Xform scale="0.5"/>`, "round 1×1 at 0,0 cut round 0.5×0.5 at 0,0" + none, ""},
		{"a ring around a hole", `<PadstackHoleDef name="h" diameter="0.6" platingStatus="NONPLATED" x="0" y="0"/>` + on("F", `<Donut shape="ROUND" outerDiameter="2" innerDiameter="1"/>`) + on("B", `<Donut shape="ROUND" outerDiameter="2" innerDiameter="1"/>`), ``, "round 2×2 at 0,0 cut round 1×1 at 0,0 hole 0.6 unplated no mask", ""},
		{"a ring with its mask", on("F", `<Donut shape="ROUND" outerDiameter="2" innerDiameter="1"/>`) + on("FM", `<Donut shape="ROUND" outerDiameter="2.2" innerDiameter="0.8"/>`) + on("FP", `<Donut shape="ROUND" outerDiameter="2" innerDiameter="1"/>`), ``, "round 2×2 at 0,0 cut round 1×1 at 0,0 mask 0.1", ""},
		{"a ring whose mask covers its middle", on("F", `<Donut shape="ROUND" outerDiameter="2" innerDiameter="1"/>`) + on("FM", `<Circle diameter="2.2"/>`), ``, "round 2×2 at 0,0 cut round 1×1 at 0,0 no paste 1 openings", ""},
		{"two cut-outs", on("F", `<Contour><Polygon><PolyBegin x="-2" y="-1"/><PolyStepSegment x="2" y="-1"/><PolyStepSegment x="2" y="1"/><PolyStepSegment x="-2" y="1"/></Polygon>`+
			`<Cutout><PolyBegin x="0.5" y="-0.5"/><PolyStepSegment x="1" y="-0.5"/><PolyStepSegment x="1" y="0.5"/></Cutout><Cutout><PolyBegin x="-1" y="0"/><PolyStepCurve x="-0.5" y="0" centerX="-0.75" centerY="0" clockwise="true"/><PolyStepCurve x="-1" y="0" centerX="-0.75" centerY="0" clockwise="true"/></Cutout></Contour>`), `<Xform mirror="true"/>`,
			"rectangle 4×2 at 0,0 cut polygon 0.5×1 at 0,0 cut round 0.5×0.5 at 0.75,0" + none, ""},
		{"cut-outs on each other", on("F", `<Contour><Polygon><PolyBegin x="-2" y="-1"/><PolyStepSegment x="2" y="-1"/><PolyStepSegment x="2" y="1"/><PolyStepSegment x="-2" y="1"/></Polygon>`+
			strings.Repeat(`<Cutout><PolyBegin x="0.5" y="-0.5"/><PolyStepSegment x="1" y="-0.5"/><PolyStepSegment x="1" y="0.5"/></Cutout>`, 2)+`</Contour>`), ``, "cut-outs lie on each other", ""},
		{"a hole with a cut-out", `<SlotCavity name="s" platingStatus="PLATED"><Donut shape="ROUND" outerDiameter="1" innerDiameter="0.5"/></SlotCavity>` + flat, ``, "a hole with a cut-out", ""},
		{"an outline with round corners", on("F", `<Contour><Polygon><PolyBegin x="-0.8" y="-0.5"/><PolyStepSegment x="1" y="-0.5"/><PolyStepSegment x="1" y="0.3"/><PolyStepCurve x="0.8" y="0.5" centerX="0.8" centerY="0.3"/><PolyStepSegment x="-1" y="0.5"/><PolyStepSegment x="-1" y="-0.3"/><PolyStepCurve x="-0.8" y="-0.5" centerX="-0.8" centerY="-0.3"/></Polygon></Contour>`), ``, "rounded 2×1 at 0,0 corner 0.2 lower left+upper right" + none, ""},
		{"an outline with one corner bent inwards", on("F", `<Contour><Polygon><PolyBegin x="-0.8" y="-0.5"/><PolyStepSegment x="1" y="-0.5"/><PolyStepSegment x="1" y="0.5"/><PolyStepSegment x="-1" y="0.5"/><PolyStepSegment x="-1" y="-0.3"/><PolyStepCurve x="-0.8" y="-0.5" centerX="-1" centerY="-0.5" clockwise="true"/></Polygon></Contour>`), ``, "polygon 2×1 at 0,0 of 12" + none, "curved steps"},
		{"a butterfly", on("F", `<Butterfly shape="ROUND" diameter="2"/>`), ``, "a Butterfly is no shape", ""},
		{"a thermal", on("F", `<Thermal shape="ROUND" outerDiameter="2" innerDiameter="1"/>`), ``, "a Thermal is no shape", ""},
		{"a cut-out", on("F", `<Contour><Polygon><PolyBegin x="0" y="0"/><PolyStepSegment x="2" y="0"/><PolyStepSegment x="2" y="2"/></Polygon><Cutout><PolyBegin x="1" y="0.5"/></Cutout></Contour>`), ``, "cut-out", ""},
		{"a cut-out beside its copper", on("F", `<Contour><Polygon><PolyBegin x="0" y="0"/><PolyStepSegment x="2" y="0"/><PolyStepSegment x="2" y="2"/></Polygon><Cutout><PolyBegin x="3" y="0"/><PolyStepSegment x="4" y="0"/><PolyStepSegment x="4" y="1"/></Cutout></Contour>`), ``, "does not lie within", ""},
		{"a curved outline", on("F", `<Contour><Polygon><PolyBegin x="-1" y="0"/><PolyStepCurve x="1" y="0" centerX="0" centerY="0" clockwise="false"/><PolyStepSegment x="-1" y="0"/></Polygon></Contour>`), ``, "polygon 2×1 at 0,0", "curved steps"},
		{"a curve that does not meet its end", on("F", `<Contour><Polygon><PolyBegin x="-1" y="0"/><PolyStepCurve x="1" y="0" centerX="0.4" centerY="0"/><PolyStepSegment x="-1" y="0"/></Polygon></Contour>`), ``, "another distance", ""},
		{"hollow copper", on("F", `<RectCenter width="2" height="1"><FillDesc fillProperty="HOLLOW"/></RectCenter>`), ``, `the fill "HOLLOW"`, ""},
		{"copper with a stroke", on("F", `<RectCenter width="2" height="1"><LineDesc lineWidth="0.1" lineEnd="ROUND"/></RectCenter>`), ``, "a stroke of 0.1 mm", ""},
		{"a primitive that is not there", on("F", `<StandardPrimitiveRef id="x"/>`), ``, `"x" is not in the file's DictionaryStandard`, ""},
		{"copper on the bottom", on("B", rect), ``, "rectangle 2×1 at 0,0 bottom" + none, ""},
		{"copper on both sides without a hole", on("F", rect) + on("B", rect), ``, "copper on both sides and no hole", ""},
		{"through", through, ``, "round 1.6×1.6 at 0,0 hole 0.8 no mask", ""},
		{"not plated", strings.Replace(through, "PLATED", "NONPLATED", 1), ``, "round 1.6×1.6 at 0,0 hole 0.8 unplated no mask", ""},
		{"a plating of another word", strings.Replace(through, "PLATED", "MAYBE", 1), ``, `the plating of the hole is "MAYBE"`, ""},
		{"a hole with a tolerance", strings.Replace(through, "PLATED", `PLATED" plusTol="0.05`, 1), ``, "round 1.6×1.6 at 0,0 hole 0.8 no mask", "plusTol 0.05 mm"},
		{"a hole off the middle", strings.Replace(through, `x="0"`, `x="0.2"`, 1), ``, "round 1.6×1.6 at 0,0 hole 0.8 at 0.2,0 no mask", ""},
		{"another shape below", strings.Replace(through, `"B" padUse="REGULAR"><Circle diameter="1.6"/>`, `"B" padUse="REGULAR"><RectCenter width="2" height="2"/>`, 1), ``, "round 1.6×1.6 at 0,0 hole 0.8 no mask below rectangle 2×2", ""},
		{"copper on one side of a hole", strings.Replace(through, on("B", `<Circle diameter="1.6"/>`), "", 1), ``, "on one side of it only", ""},
		{"the same on an inner layer", through + on("I", `<Circle diameter="1.6"/>`), ``, "round 1.6×1.6 at 0,0 hole 0.8 no mask", ""},
		{"another on an inner layer", through + on("I", `<Circle diameter="1.2"/>`), ``, "round 1.6×1.6 at 0,0 hole 0.8 no mask inner round 1.2×1.2", ""},
		{"others on two inner layers", through + on("I", `<Circle diameter="1.2"/>`) + on("I", `<Circle diameter="1.1"/>`), ``, "on one inner layer than on another", ""},
		{"copper on an inner layer without a hole", flat + on("I", rect), ``, "on an inner layer and no hole", ""},
		{"an antipad", through + `<PadstackPadDef layerRef="I" padUse="ANTIPAD"><Circle diameter="2"/></PadstackPadDef>`, ``, "round 1.6×1.6 at 0,0 hole 0.8 no mask", "as ANTIPAD"},
		{"two holes", `<PadstackHoleDef name="h" diameter="0.8" platingStatus="PLATED" x="0" y="0"/>` + through, ``, "two holes", ""},
		{"a slot", `<SlotCavity name="s" platingStatus="PLATED"><Oval width="0.8" height="2"/></SlotCavity>` + on("F", rect) + on("B", rect), ``, "rectangle 2×1 at 0,0 hole 0.8 slot 1.2 turned 90 no mask", ""},
		{"a square slot", `<SlotCavity name="s" platingStatus="PLATED"><RectCenter width="0.8" height="2"/></SlotCavity>` + on("F", rect) + on("B", rect), ``, "a hole that is rectangle", ""},
		{"a peg", `<PadstackHoleDef name="h" diameter="2.2" platingStatus="NONPLATED" x="0.5" y="0"/>`, ``, "round 2.2×2.2 at 0.5,0 hole 2.2 unplated no mask", ""},
		{"a plated hole without copper", `<PadstackHoleDef name="h" diameter="2.2" platingStatus="PLATED" x="0" y="0"/>`, ``, "no copper", ""},
		{"paste without copper", on("FP", rect), ``, "no copper", ""},
		{"mask and paste", on("F", rect) + on("FM", `<RectCenter width="2.2" height="1.2"/>`) + on("FP", rect), ``, "rectangle 2×1 at 0,0 mask 0.1", ""},
		{"mask to one side", on("F", rect) + on("FM", `<RectCenter width="2.2" height="1"/>`) + on("FP", rect), ``, "rectangle 2×1 at 0,0 1 openings", ""},
		{"mask on the other side", on("B", rect) + on("FM", rect), ``, "on the side on which it has no copper", ""},
		{"an undeclared layer with a name", on("TOP_COPPER", rect), ``, "rectangle 2×1 at 0,0" + none, "is not declared"},
		{"an undeclared layer", on("X", rect), ``, "does not tell what it is", ""},
		{"two pins", flat, `<PinRef pin="2"/>`, "belongs to 2 pins", ""},
		{"another shape of its own", flat, `<Circle diameter="1"/>`, "another than that of its pad stack", ""},
		{"something unknown", flat, `<Heatsink/>`, "Heatsink in Pad", ""},
		{"an unknown attribute", on("F", `<RectCenter width="2" height="1" skew="3"/>`), ``, `skew="3" of RectCenter`, ""},
		{"nothing wide", on("F", `<RectCenter width="0" height="1"/>`), ``, "which is nothing", ""},
		{"no width", on("F", `<Circle/>`), ``, "says no diameter", ""},
		{"no number", on("F", `<Circle diameter="NaN"/>`), ``, "is no length", cover},
	} {
		f, err := Read(one(c.stack, c.pad))
		require.NoError(t, err, c.name)
		if len(f.Packages) == 0 {
			require.Len(t, f.Wrong, 1, c.name)
			assert.Contains(t, f.Wrong[0], c.want, c.name)
			assert.Regexp(t, `line \d+: package "P": .*line \d+`, f.Wrong[0], c.name)
			continue
		}
		got := landOf(f.Packages[0].Land)
		require.Len(t, got.Land.Pads, 1, c.name)
		text := padText(got.Land.Pads[0])
		if c.name == "a curved outline" {
			text, _, _ = strings.Cut(text, " of")
		}
		assert.Equal(t, c.want, text, c.name)
		said := strings.Join(f.Packages[0].Said, "; ")
		if c.said == "" {
			assert.Empty(t, said, c.name)
		}
		assert.Contains(t, said, c.said, c.name)
	}
}

func TestWhatAPackageCanBe(t *testing.T) {
	stack := `<PadStackDef name="a">` + on("F", `<RectCenter width="2" height="1"/>`) + on("FM", `<RectCenter width="2" height="1"/>`) + on("FP", `<RectCenter width="2" height="1"/>`) + `</PadStackDef>`
	pad := `<LandPattern><Pad padstackDefRef="a"><Location x="1" y="0"/><PinRef pin="1"/></Pad></LandPattern>`
	for _, c := range []struct{ name, units, more, stacks, in, want, said string }{
		{"plain", mmUnits, "", stack, pad, "1,0", ""},
		{"in inch", `units="INCH"`, "", stack, pad, "25.4,0", ""},
		{"in micrometres", `units="MICRON"`, "", stack, pad, "0.001,0", ""},
		{"no unit", ``, "", stack, pad, "states no unit", ""},
		{"an unknown unit", `units="FURLONG"`, "", stack, pad, `the unit "FURLONG"`, ""},
		{"turned as a whole", mmUnits, "", stack, strings.Replace(pad, "<LandPattern>", `<LandPattern><Xform rotation="90"/>`, 1), "0,1", ""},
		{"mirrored as a whole", mmUnits, "", stack, `<Xform mirror="true"/>` + pad, "-1,0", "were not read"},
		{"moved as a whole", mmUnits, "", stack, `<Location x="2" y="3"/>` + pad, "3,3", ""},
		{"scaled as a whole", mmUnits, "", stack, `<Xform scale="2"/>` + pad, "2,0", "were not read"},
		{"a dictionary without a unit", mmUnits, `<DictionaryStandard><EntryStandard id="x"><Circle diameter="1"/></EntryStandard></DictionaryStandard>`, strings.Replace(stack, `<RectCenter width="2" height="1"/>`, `<StandardPrimitiveRef id="x"/>`, 1), pad, "DictionaryStandard states no unit", ""},
		{"an entry of the dictionary", mmUnits, `<DictionaryStandard units="INCH"><EntryStandard id="x"><Circle diameter="1"/></EntryStandard></DictionaryStandard>`, strings.Replace(stack, `<RectCenter width="2" height="1"/>`, `<StandardPrimitiveRef id="x"/>`, 1), pad, "1,0", ""},
		{"an entry twice", mmUnits, `<DictionaryStandard units="INCH"><EntryStandard id="x"><Circle diameter="1"/></EntryStandard><EntryStandard id="x"><Circle diameter="2"/></EntryStandard></DictionaryStandard>`, strings.Replace(stack, `<RectCenter width="2" height="1"/>`, `<StandardPrimitiveRef id="x"/>`, 1), pad, `two different entries "x"`, ""},
		{"a moiré of the dictionary", mmUnits, `<DictionaryStandard units="INCH"><EntryStandard id="x"><Moire diameter="1"/></EntryStandard></DictionaryStandard>`, strings.Replace(stack, `<RectCenter width="2" height="1"/>`, `<StandardPrimitiveRef id="x"/>`, 1), pad, "a Moire is no shape", ""},
		{"a user primitive of one piece", mmUnits, `<DictionaryUser units="MILLIMETER"><EntryUser id="u"><UserSpecial><Circle diameter="1"/></UserSpecial></EntryUser></DictionaryUser>`, strings.Replace(stack, `<RectCenter width="2" height="1"/>`, `<UserPrimitiveRef id="u"/>`, 1), pad, "1,0", ""},
		{"a user primitive of two pieces", mmUnits, `<DictionaryUser units="MILLIMETER"><EntryUser id="u"><UserSpecial><Circle diameter="1"/><Circle diameter="2"/></UserSpecial></EntryUser></DictionaryUser>`, strings.Replace(stack, `<RectCenter width="2" height="1"/>`, `<UserPrimitiveRef id="u"/>`, 1), pad, "of several pieces", ""},
		{"a user primitive of strokes", mmUnits, `<DictionaryUser units="MILLIMETER"><EntryUser id="u"><UserSpecial><Line startX="0" startY="0" endX="1" endY="0"/></UserSpecial></EntryUser></DictionaryUser>`, strings.Replace(stack, `<RectCenter width="2" height="1"/>`, `<UserPrimitiveRef id="u"/>`, 1), pad, "a stroke and not an area", ""},
		{"through without a hole", mmUnits, "", stack, pad + `<Pin number="1" type="THRU"/>`, "its pad has no hole", ""},
		{"a pin without a pad", mmUnits, "", stack, pad + `<Pin number="1" type="SURFACE"/><Pin number="2" type="SURFACE"/>`, "1,0", "no pad is there for the pins 2"},
		{"pins alone", mmUnits, "", stack, `<Pin number="1" type="SURFACE"><Circle diameter="1"/></Pin>`, "leads and not copper", ""},
		{"two stacks of one name", mmUnits, "", stack + strings.Replace(stack, `"2"`, `"3"`, 1), pad, "two different pad stacks", ""},
		{"one stack twice", mmUnits, "", stack + stack, pad, "1,0", ""},
		{"a stack that is not there", mmUnits, "", "", pad, `the pad stack "a" is not in the file`, ""},
		{"a height", mmUnits, "", stack, `<PickupPoint x="0" y="0"/>` + pad, "1,0", "PickupPoint in Package was not read"},
		{"an outline", mmUnits, "", stack, `<Outline><Polygon><PolyBegin x="-1" y="-1"/><PolyStepSegment x="1" y="-1"/><PolyStepSegment x="1" y="1"/><PolyStepSegment x="-1" y="1"/></Polygon><LineDesc lineWidth="0.1" lineEnd="ROUND"/></Outline>` + pad, "1,0 assembly rectangle", ""},
		{"an outline around copper and the assembly drawing", mmUnits, "", stack, box("Outline", "3") + pad + "<AssemblyDrawing>" + box("Outline", "1") + "</AssemblyDrawing>", "1,0 courtyard rectangle assembly rectangle", "taken for the courtyard"},
		{"an outline that copper leaves", mmUnits, "", stack, box("Outline", "1.5") + pad + "<AssemblyDrawing>" + box("Outline", "1") + "</AssemblyDrawing>", "1,0 assembly rectangle assembly rectangle", ""},
		{"marks", mmUnits, "", stack, pad + `<SilkScreen><Marking markingUsage="NONE"><Location x="1" y="1"/><Circle diameter="1"/></Marking><Marking markingUsage="PIN_ONE"><Xform rotation="90"/><Line startX="1" startY="0" endX="2" endY="0"/></Marking></SilkScreen>`, "1,0 silkscreen circle 1,1 silkscreen line 0,1 0,2", ""},
		{"a mark that cannot be drawn", mmUnits, "", stack, pad + `<SilkScreen><Marking markingUsage="NONE"><Donut outerDiameter="1"/></Marking></SilkScreen>`, "1,0", "Donut in Marking was not read"},
		{"a full circle", mmUnits, "", stack, pad + `<SilkScreen><Marking markingUsage="NONE"><Arc startX="1" startY="0" endX="1" endY="0" centerX="0" centerY="0" clockwise="true"/></Marking></SilkScreen>`, "1,0 silkscreen circle 0,0", ""},
	} {
		f, err := Read(example(c.units, c.more, c.stacks, c.in))
		require.NoError(t, err, c.name)
		if len(f.Packages) == 0 {
			require.Len(t, f.Wrong, 1, c.name)
			assert.Contains(t, f.Wrong[0], c.want, c.name)
			continue
		}
		l := f.Packages[0].Land
		text := fmt.Sprintf("%s,%s", l.Pads[0].At.X, l.Pads[0].At.Y)
		for _, g := range l.Shapes {
			text += fmt.Sprintf(" %s %s", g.Purpose, g.Form)
			for _, p := range g.Points {
				if g.Purpose == model.Silkscreen {
					text += fmt.Sprintf(" %s,%s", p.X, p.Y)
				}
			}
		}
		assert.Equal(t, c.want, text, c.name)
		said := strings.Join(f.Packages[0].Said, "; ")
		if c.said == "" {
			assert.Empty(t, said, c.name)
		}
		assert.Contains(t, said, c.said, c.name)
	}
}
