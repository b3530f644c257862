package drop

import (
	"archive/zip"
	"bytes"
	"fmt"
	"os"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jollydrawer/core/model"
	"jollydrawer/formats/edif"
	"jollydrawer/formats/ipc2581"
	"jollydrawer/formats/step"
)

func p(x, y string) model.Point {
	return model.Point{X: model.MustLength(x), Y: model.MustLength(y)}
}

// symbol has everything a symbol can have.
func symbol(units ...string) *model.Symbol {
	s := &model.Symbol{Grid: model.MustLength("1.27"), Units: units, Properties: map[string]string{"Wert \"µ\" %": "4,7 kΩ", "Footprint": "R 0805"}}
	for i, t := range model.PinTypes {
		s.Pins = append(s.Pins, model.Pin{Number: string(rune('A'+i)) + "1", Name: "~{Ω} \"" + t + "\"", Type: t, At: p("-5.08", string(rune('0'+i))), Runs: model.Right, Length: model.MustLength("2.54"), Hidden: i == 3, Placed: i == 4})
	}
	s.Pins[1].Runs, s.Pins[2].Runs, s.Pins[3].Runs, s.Pins[5].Length = model.Left, model.Up, model.Down, 0
	s.Pins[5].Runs = model.Down
	s.Shapes = []model.Shape{
		{Form: model.Rectangle, Points: []model.Point{p("-2.54", "-2.54"), p("2.54", "2.54")}, Width: model.MustLength("0.25")},
		{Form: model.Line, Points: []model.Point{p("0", "0"), p("1", "0.333"), p("2", "0")}},
		{Form: model.Arc, Points: []model.Point{p("1", "0"), p("0", "1"), p("-1", "0")}, Width: model.MustLength("0.1")},
		{Form: model.Circle, Points: []model.Point{p("0", "0")}, Radius: model.MustLength("0.5"), Filled: true},
		{Form: model.Polygon, Points: []model.Point{p("0", "0"), p("1", "0"), p("0", "1")}, Filled: true},
		{Form: model.Text, Points: []model.Point{p("0", "3")}, Text: model.Designator, Size: model.MustLength("1.27"), Turn: 90 * model.Degree},
	}
	if len(units) > 0 {
		for i := range s.Pins {
			s.Pins[i].Unit = 1 + i%len(units)
		}
		s.Shapes[1].Unit = 2
	}
	return s
}

// land has everything a land pattern can have.
func land() *model.LandPattern {
	no := false
	l := &model.LandPattern{Density: "least", Mounting: "mixed"}
	for i, shape := range model.PadShapes {
		pad := model.Pad{Number: string(rune('1' + i)), Shape: shape, At: p(fmt.Sprint(3*i), "0.0254"), Width: model.MustLength("1.2"), Height: model.MustLength("0.8"), Mask: model.MM / 20}
		switch shape {
		case model.PadRound:
			pad.Height, pad.Hole = pad.Width, model.MustLength("0.7")
		case model.PadRounded:
			pad.Corner, pad.Turn = model.MustLength("0.1"), 45*model.Degree
		case model.PadOblong:
			pad.WithPaste, pad.Turn = &no, 90*model.Degree
		case model.PadPolygon:
			pad.Points = []model.Point{p("-0.6", "-0.4"), p("0.6", "-0.4"), p("0", "0.4")}
			pad.Mask = 0
		}
		if pad.Hole == 0 && pad.WithPaste == nil && shape != model.PadPolygon {
			pad.Paste = -model.MM / 20
		}
		l.Pads = append(l.Pads, pad)
	}
	l.Pads = append(l.Pads, model.Pad{Shape: model.PadRound, At: p("0", "5"), Width: model.MM, Height: model.MM, Hole: model.MustLength("0.9"), Unplated: true})
	l.Shapes = []model.Shape{
		{Form: model.Rectangle, Purpose: model.Courtyard, Points: []model.Point{p("-2", "-2"), p("13", "6")}, Width: model.MM / 20},
		{Form: model.Line, Purpose: model.Silkscreen, Points: []model.Point{p("0", "1"), p("5", "1")}, Width: model.MM / 8},
		{Form: model.Line, Purpose: model.Silkscreen, Points: []model.Point{p("0", "1"), p("5", "1"), p("5", "2")}, Width: model.MM / 8},
		{Form: model.Circle, Purpose: model.Silkscreen, Points: []model.Point{p("-1", "1")}, Radius: model.MM / 4, Width: model.MM / 10, Filled: true},
		{Form: model.Arc, Purpose: model.Silkscreen, Points: []model.Point{p("1", "0"), p("0", "1"), p("-1", "0")}, Width: model.MM / 8},
		{Form: model.Text, Purpose: model.Silkscreen, Text: model.Designator, Size: model.MM, Points: []model.Point{p("3", "3")}, Turn: 90 * model.Degree},
		{Form: model.Rectangle, Purpose: model.Assembly, Points: []model.Point{p("-1", "-1"), p("12", "1")}, Width: model.MM / 10},
	}
	return l
}

func same(t *testing.T, want, got model.Content) {
	t.Helper()
	want.Normalise()
	got.Normalise()
	got.FileHash, got.FileName = want.FileHash, want.FileName
	assert.Equal(t, want, got)
	f, _ := want.Fingerprint()
	g, _ := got.Fingerprint()
	assert.Equal(t, f, g)
}

func member(t *testing.T, name string, raw []byte) Member {
	t.Helper()
	all, err := Read(name, raw, DefaultLimits)
	require.NoError(t, err)
	require.Len(t, all, 1)
	return all[0]
}

func TestWhatIsWrittenIsReadBackEqual(t *testing.T) {
	for _, s := range []*model.Symbol{symbol(), symbol("A", "B unit")} {
		c := model.Content{Kind: model.KindSymbol, Name: "Symbol (1) \"x\"", Symbol: s}
		raw, err := model.WriteDocument(&c)
		require.NoError(t, err)
		same(t, c, member(t, "a", raw).Models[0])
		var b bytes.Buffer
		require.NoError(t, edif.Write(&b, "my library", []edif.Cell{{Name: c.Name, Symbol: s}}))
		m := member(t, "anything", b.Bytes())
		require.Empty(t, m.Wrong, b.String())
		same(t, c, m.Models[0])
	}
	c := model.Content{Kind: model.KindLand, Name: "L <&> 1", Land: land()}
	raw, err := model.WriteDocument(&c)
	require.NoError(t, err)
	same(t, c, member(t, "a", raw).Models[0])
	var b bytes.Buffer
	require.NoError(t, ipc2581.Write(&b, []ipc2581.Package{{Name: c.Name, Land: c.Land}}))
	m := member(t, "x.dat", b.Bytes())
	require.Empty(t, m.Wrong, b.String())
	same(t, c, m.Models[0])

	b.Reset()
	box := model.Box3{Min: model.Point3{X: -model.MM, Y: -model.MM / 2}, Max: model.Point3{X: model.MM, Y: model.MM, Z: model.MM / 3 * 2}}
	box.Max.Z = model.MustLength("0.6667")
	require.NoError(t, step.WriteBlock(&b, "a 'block'", box, time.Unix(0, 0)))
	assert.Equal(t, box, member(t, "b.step", b.Bytes()).Models[0].Body.Box)
}

func zipped(t *testing.T, files map[string]string) []byte {
	var b bytes.Buffer
	z := zip.NewWriter(&b)
	for name, text := range files {
		w, err := z.Create(name)
		require.NoError(t, err)
		_, err = w.Write([]byte(text))
		require.NoError(t, err)
	}
	require.NoError(t, z.Close())
	return b.Bytes()
}

const ibisFile = "[IBIS Ver] 5.0\n[Component] EX1\n[Manufacturer] Example\n[Pin] signal_name model_name R_pin L_pin C_pin\n1 VCC POWER\n2 GND GND\n3 DOUT buf\n4 NC NC\n[Model] buf\nModel_type 3-state\n[End]\n"

func TestADropIsSortedByWhatIsInside(t *testing.T) {
	raw := zipped(t, map[string]string{
		"My Parts/3D Body.STP.bak": "ISO-10303-21;\nHEADER;\nENDSEC;\nDATA;\n#1=FOO();\n", "My Parts/pins of it.TXT": "Pin;Name;Type\n1;A;I\n2;B;O\n", "spice.lib": "* x\n.subckt X 1 2\n.ends\n",
		"Sheet.bin": "%PDF-1.7 …", "sig": ibisFile, "readme": "hello", ".DS_Store": "x", "inner.zip": string(zipped(t, map[string]string{"a": "b"})), "empty.edf": "",
		"parts.csv": "Part;Value\nR1;10k\n", "cut.edn": "(edif x (library",
	})
	all, err := Read("drop.zip", raw, DefaultLimits)
	require.NoError(t, err)
	is := map[string]string{}
	for _, m := range all {
		is[m.Path] = m.Is
		assert.True(t, strings.HasSuffix(m.What, "."), "%s: %q is a sentence", m.Path, m.What)
	}
	assert.Equal(t, map[string]string{"My Parts/3D Body.STP.bak": Refused, "My Parts/pins of it.TXT": PinList, "spice.lib": Simulation, "Sheet.bin": Datasheet, "sig": Signals,
		"readme": Unknown, "inner.zip": Refused, "empty.edf": Refused, "parts.csv": Unknown, "cut.edn": Refused}, is)
	for _, m := range all {
		if m.Is == Signals {
			var types []string
			for _, p := range m.Lists[0].Pins {
				types = append(types, p.Type)
			}
			assert.Equal(t, []string{model.PowerIn, model.PowerIn, model.TriState, model.NotConnected}, types)
		}
	}
}

func TestTwoFilesThatClaimTheSameModelAreBothKept(t *testing.T) {
	doc, err := model.WriteDocument(&model.Content{Kind: model.KindLand, Name: "Chip", Land: land()})
	require.NoError(t, err)
	all, err := Read("x.zip", zipped(t, map[string]string{"a.json": string(doc), "b.json": string(doc)}), DefaultLimits)
	require.NoError(t, err)
	Twice(all)
	names := []string{all[0].Models[0].Name, all[1].Models[0].Name}
	assert.ElementsMatch(t, []string{"Chip", "Chip (2)"}, names)
	assert.Len(t, append(all[0].Wrong, all[1].Wrong...), 1)
}

func TestBadFilesAreRefusedWithASentence(t *testing.T) {
	deep := strings.Repeat("(a ", 100_000)
	for name, c := range map[string]struct{ raw, says string }{
		"nested":    {"(edif x " + deep, "nested more than"},
		"unclosed":  {"(edif x (edifVersion 2 0 0)", "brackets are open"},
		"twice":     {"(edif x)) (y)", "never opened"},
		"entity":    {`<?xml version="1.0"?><!DOCTYPE x [<!ENTITY a "b">]><IPC-2581></IPC-2581>`, "document type"},
		"xml depth": {"<IPC-2581>" + strings.Repeat("<a>", 1000), "nested more than"},
		"cut xml":   {"<IPC-2581><Ecad>", "the file ends within an element"},
		"cut step":  {"ISO-10303-21;\nHEADER;\nENDSEC;\nDATA;\n#1=CARTESIAN_POINT('',(1.", "cut off"},
		"no solid":  {"ISO-10303-21;\nHEADER;\nENDSEC;\nDATA;\n#1=CARTESIAN_POINT('',(1.,2.,3.));\nENDSEC;\n", "no solid"},
		"nan":       {"ISO-10303-21;\nHEADER;\nENDSEC;\nDATA;\n#1=CARTESIAN_POINT('',(1.,-NaN,3.));\nENDSEC;\n", "is no number"},
		"ibis":      {"[IBIS Ver] 5.0\n[Component] X\n[Pin] a\n1 A B\n", "cut off"},
		"far":       {`(edif x (edifVersion 2 0 0) (library l (technology (numberDefinition (scale 1 1 (unit DISTANCE)))) (cell c (view v (interface (port p) (symbol (portImplementation p (connectLocation (figure f (dot (pt 10 0)))))))))))`, "farther than"},
	} {
		m := member(t, name, []byte(c.raw))
		assert.Equal(t, Refused, m.Is, name)
		assert.Contains(t, m.What+strings.Join(m.Wrong, " "), c.says, name)
	}
	small := DefaultLimits
	small.Member = 8 << 10
	all, err := Read("big.step", []byte("ISO-10303-21;"+strings.Repeat(" ", 9<<10)), small)
	require.NoError(t, err)
	assert.Contains(t, all[0].What, "at most")
}

// occtData is where Debian's occt-misc keeps its STEP files, made by another program than ours.
const occtData = "/usr/share/opencascade/data/step/"

func TestBodiesOfOtherProgramsHaveTheRightBox(t *testing.T) {
	// The boxes are those of the shapes as Open CASCADE 7.6 meshes them with a deflection of 1 µm; its chords lie
	// up to 1 µm inside a round.
	for name, want := range map[string][6]string{
		"screw.step":    {"-27.8197", "-10.8263", "-34.5637", "-7.9765", "9.1737", "7.7315"},
		"linkrods.step": {"3.125", "2.5", "0", "8.1453", "4", "2"},
	} {
		raw, err := os.ReadFile(occtData + name)
		require.NoError(t, err, "apt-get install occt-misc, as scripts/need.sh does")
		b := member(t, name, raw).Models[0].Body.Box
		got := [6]string{b.Min.X.String(), b.Min.Y.String(), b.Min.Z.String(), b.Max.X.String(), b.Max.Y.String(), b.Max.Z.String()}
		assert.Equal(t, want, got, name)
	}
}

// comesBack says how a model that was read is another, in silence, once it was written and read again; "" where it is the same, or something is said.
func comesBack(c *model.Content) string {
	var b bytes.Buffer
	var again model.Content
	var said []string
	switch {
	case c.Land != nil:
		if err := ipc2581.Write(&b, []ipc2581.Package{{Name: "again", Land: c.Land}}); err != nil {
			return ""
		}
		f, err := ipc2581.Read(b.Bytes())
		if err != nil || len(f.Packages) != 1 {
			if said = append(said, f.Wrong...); err != nil || len(said) > 0 {
				return ""
			}
			return "it is gone, and nothing is said"
		}
		again, said = model.Content{Kind: model.KindLand, Land: f.Packages[0].Land}, append(f.Said, f.Packages[0].Said...)
	case c.Symbol != nil:
		if err := edif.Write(&b, "again", []edif.Cell{{Name: "again", Symbol: c.Symbol}}); err != nil {
			return ""
		}
		f, err := edif.Read(b.Bytes())
		if err != nil || len(f.Cells) != 1 {
			if said = append(said, f.Wrong...); err != nil || len(said) > 0 {
				return ""
			}
			return "it is gone, and nothing is said"
		}
		again, said = model.Content{Kind: model.KindSymbol, Symbol: f.Cells[0].Symbol}, append(f.Said, f.Cells[0].Said...)
	default:
		return ""
	}
	again.Normalise()
	first := *c
	first.Normalise()
	if len(said) == 0 && !model.Same(&first, &again) {
		return "it came back as another, and nothing is said"
	}
	return ""
}

func FuzzRead(f *testing.F) {
	f.Add([]byte("(edif x (edifVersion 2 0 0) (library l (cell c (view v (interface (port p) (symbol (portImplementation p (connectLocation (figure f (dot (pt 1 0)))))))))))"))
	f.Add([]byte(ibisFile))
	f.Add([]byte("Pin;Name\n1;A\n2;B\n"))
	var b bytes.Buffer
	_ = ipc2581.Write(&b, []ipc2581.Package{{Name: "L", Land: land()}})
	f.Add(bytes.Clone(b.Bytes()))
	b.Reset()
	_ = step.WriteBlock(&b, "b", model.Box3{Max: model.Point3{X: 1000, Y: 1000, Z: 1000}}, time.Unix(0, 0))
	f.Add(bytes.Clone(b.Bytes()))
	f.Fuzz(func(t *testing.T, raw []byte) {
		all, err := Read("fuzz", raw, DefaultLimits)
		if err != nil {
			return
		}
		for _, m := range all {
			if m.What == "" {
				t.Fatalf("%s: nothing is said", m.Path)
			}
			for i := range m.Models {
				if err := m.Models[i].Check(); err != nil {
					t.Fatalf("a model that cannot be kept was read: %v", err)
				}
				if why := comesBack(&m.Models[i]); why != "" {
					t.Fatalf("%s: %s", m.Models[i].Name, why)
				}
			}
		}
	})
}
