package edif

import (
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jollydrawer/core/model"
)

const millimetres = `(numberDefinition (scale 1000 1 (unit DISTANCE)))`

// example is a file of one cell, its views in millimetres.
func example(technology, views string) []byte {
	return []byte(`(edif x (edifVersion 2 0 0) (edifLevel 0) (keywordMap (keywordLevel 0)) (library l (edifLevel 0) (technology ` + technology + `)
(cell C (cellType GENERIC)
` + views + `)))`)
}

// face is a view with its interface and symbol.
func face(ports, symbol string) string {
	return "(view v (viewType SCHEMATIC) (interface " + ports + "\n(symbol " + symbol + ")))"
}

// at places a port at a point, with a line.
func at(port, where, line string) string {
	return "(portImplementation " + port + " (connectLocation (figure G (dot (pt " + where + ")))) (figure G (path (pointList " + line + "))))\n"
}

func text(s *model.Symbol) string {
	var out []string
	for _, p := range s.Pins {
		w := fmt.Sprintf("%s=%s %s %s,%s %s %s", p.Number, p.Name, p.Type, p.At.X, p.At.Y, p.Runs, p.Length)
		if p.Unit > 0 {
			w += fmt.Sprint(" unit ", p.Unit)
		}
		out = append(out, w)
	}
	for _, g := range s.Shapes {
		w := string(g.Form)
		if g.Text != "" {
			w += " " + g.Text
		}
		out = append(out, w)
	}
	return strings.Join(out, "; ")
}

func TestWhatASymbolCanBe(t *testing.T) {
	a := at("A", "0 0", "(pt 0 0) (pt 2 0)")
	port := `(port A (direction INPUT) (designator "1"))`
	one := "1=A input 0,0 right 2"
	for _, c := range []struct{ name, technology, views, want, said string }{
		{"plain", millimetres, face(port, a), one, ""},
		{"no scale", "", face(port, a), "states no scale", ""},
		{"a scale of nothing", `(numberDefinition (scale 0 1 (unit DISTANCE)))`, face(port, a), "no pair of numbers above zero", ""},
		{"two scales", `(numberDefinition (scale 1 1 (unit DISTANCE)) (scale 2 1 (unit DISTANCE)))`, face(port, a), "two different scales", ""},
		{"a scale of something else", `(numberDefinition (scale 1 1 (unit TIME)))`, face(port, a), "states no scale", ""},
		{"drawn towards where it connects", millimetres, face(port, at("A", "0 0", "(pt 2 0) (pt 0 0)")), one, ""},
		{"upwards", millimetres, face(port, at("A", "1 1", "(pt 1 1) (pt 1 4)")), "1=A input 1,1 up 3", ""},
		{"aslant", millimetres, face(port, at("A", "0 0", "(pt 0 0) (pt 2 1)")), "bent or aslant", ""},
		{"without a line", millimetres, face(port, `(portImplementation A (connectLocation (figure G (dot (pt 0 0)))))`), "1=A input 0,0 right 0", "no line tells"},
		{"connecting at two points", millimetres, face(port, `(portImplementation A (connectLocation (figure G (path (pointList (pt 0 0) (pt 1 0))))))`), "connects at 2 points", ""},
		{"with a bubble", millimetres, face(port, `(portImplementation A (connectLocation (figure G (dot (pt 0 0)))) (figure G (path (pointList (pt 0 0) (pt 2 0))) (circle (pt 2 0) (pt 3 0))))`), one + "; circle", ""},
		{"with the mark of a clock", millimetres, face(port, `(portImplementation A (connectLocation (figure G (dot (pt 0 0)))) (figure G (path (pointList (pt 0 0) (pt 2 0)))) (figure G (path (pointList (pt 2 1) (pt 3 0) (pt 2 -1)))))`), one + "; line", ""},
		{"with a figure far away", millimetres, face(port, `(portImplementation A (connectLocation (figure G (dot (pt 0 0)))) (figure G (path (pointList (pt 9 9) (pt 9 -9)))) (figure G (path (pointList (pt 0 0) (pt 2 0)))))`), one + "; line", ""},
		{"the number as a property", millimetres, face(`(port A (property (rename PN "Pin Number") (string "7")))`, a), "7=A passive 0,0 right 2", ""},
		{"two numbers said otherwise", millimetres, face(`(port A (designator "1") (property PIN_NUMBER (string "7")))`, a), "by its designator and 7 by its property", ""},
		{"the number in the symbol", millimetres, face(`(port A)`, strings.Replace(a, "A", `A (designator "9")`, 1)), "9=A passive 0,0 right 2", ""},
		{"another number in the symbol", millimetres, face(`(port A (designator "1"))`, strings.Replace(a, "A", `A (designator "9")`, 1)), "is number 1 in the interface and 9 in the symbol", ""},
		{"several designators", millimetres, face(`(port GND (designator "4") (designator "11"))`, at("GND", "0 0", "(pt 0 0) (pt 2 0)")), "4=GND passive 0,0 right 2; 11=GND passive 0,0 right 2", "has the numbers 4, 11"},
		{"several numbers in one", millimetres, face(`(port GND (designator "4, 11"))`, at("GND", "0 0", "(pt 0 0) (pt 2 0)")), "4=GND passive 0,0 right 2; 11=GND passive 0,0 right 2", "has the numbers 4, 11"},
		{"no numbers at all", millimetres, face(`(port A)`, a), "A=A passive 0,0 right 2", "the names of the pins stand for their numbers"},
		{"a number for one of two", millimetres, face(port+`(port B)`, a+at("B", "0 5", "(pt 0 5) (pt 2 5)")), `the pin "B" has no number`, ""},
		{"power by property", millimetres, face(`(port A (direction INPUT) (designator "1") (property POWER (boolean (true))))`, a), "1=A power in 0,0 right 2", ""},
		{"power out by property", millimetres, face(`(port A (direction OUTPUT) (designator "1") (property PIN_TYPE (string "Power")))`, a), "1=A power out 0,0 right 2", ""},
		{"an unknown type", millimetres, face(`(port A (direction INPUT) (designator "1") (property PIN_TYPE (string "wiggly")))`, a), one, `the type "wiggly"`},
		{"another property of a port", millimetres, face(`(port A (direction INPUT) (designator "1") (property SWAP (integer 2)))`, a), one, `the property "SWAP" of the port "A" was not kept: "2"`},
		{"a port without a place", millimetres, face(port+`(port B (designator "2"))`, a), `the port "B" has no place`, ""},
		{"a port twice in the interface", millimetres, face(port+port, a), "stands in the interface twice", ""},
		{"a port placed twice", millimetres, face(port, a+a), "has two places", ""},
		{"a place without a port", millimetres, face(port, a+at("Q", "0 0", "(pt 0 0) (pt 2 0)")), "which the interface does not have", ""},
		{"members of an array", millimetres, face(`(port (array (rename D "D[1:0]") 2) (direction OUTPUT))`, at(`(member D 0) (designator "5")`, "0 0", "(pt 0 0) (pt 2 0)")+at(`(member D 1) (designator "6")`, "0 1", "(pt 0 1) (pt 2 1)")), "5=D[1] output 0,0 right 2; 6=D[0] output 0,1 right 2", ""},
		{"an array counted from nothing", millimetres, face(`(port (array D 2))`, at(`(member D 0) (designator "5")`, "0 0", "(pt 0 0) (pt 2 0)")+at(`(member D 1) (designator "6")`, "0 1", "(pt 0 1) (pt 2 1)")), "5=D[0] passive 0,0 right 2; 6=D[1] passive 0,1 right 2", ""},
		{"a member missing", millimetres, face(`(port (array D 2))`, at(`(member D 0) (designator "5")`, "0 0", "(pt 0 0) (pt 2 0)")), "one of its members has none", ""},
		{"an array drawn as a bus", millimetres, face(`(port (array D 8) (designator "1"))`, at("D", "0 0", "(pt 0 0) (pt 2 0)")), "of 8 pins is drawn as one", ""},
		{"a bundle drawn as one", millimetres, face(`(portBundle BUS (listOfPorts (port A (designator "1")) (port B (designator "2"))))`, at("BUS", "0 0", "(pt 0 0) (pt 2 0)")), "is drawn as one pin", ""},
		{"a bundle drawn one by one", millimetres, face(`(portBundle BUS (listOfPorts (port A (direction INPUT) (designator "1"))))`, a), one, ""},
		{"two symbols of a view", millimetres, "(view v (viewType SCHEMATIC) (interface " + port + " (symbol " + a + ") (symbol " + a + ")))", one + " | C, drawing 2: " + one, ""},
		{"two views with the same pins", millimetres, face(port, a) + strings.Replace(face(port, a), "view v", "view other", 1), one + " | C, other: " + one, ""},
		{"two views with other pins", millimetres, face(port, a) + strings.Replace(face(strings.Replace(port, `"1"`, `"2"`, 1), a), "view v", "view other", 1), one + " unit 1; 2=A input 0,0 right 2 unit 2", ""},
		{"two views that share a pin", millimetres, face(port, a) + strings.Replace(face(port+`(port B (designator "2"))`, a+at("B", "0 1", "(pt 0 1) (pt 2 1)")), "view v", "view other", 1), "share some of their pins", ""},
		{"a display of the designator", millimetres, face(port, a+`(keywordDisplay designator (display (figureGroupOverride T (textHeight 2)) (orientation R90) (origin (pt 1 1))))`), one + "; text {designator}", ""},
		{"a display of a property", millimetres, face(port, a+`(propertyDisplay VALUE (display (figureGroupOverride T (textHeight 2)) (origin (pt 1 1))))`), one + "; text {VALUE}", ""},
		{"a mirrored text", millimetres, face(port, a+`(annotate (stringDisplay "x" (display (figureGroupOverride T (textHeight 2)) (orientation MY) (origin (pt 1 1)))))`), one + "; text x", "is mirrored"},
		{"a text without a height", millimetres, face(port, a+`(annotate (stringDisplay "x" (display T (origin (pt 1 1)))))`), one + "; text x", "the height of the text"},
		{"a curve of lines and arcs", millimetres, face(port, a+`(figure G (openShape (curve (pt 0 0) (pt 1 0) (arc (pt 1 0) (pt 2 1) (pt 3 0)) (pt 4 0))))`), one + "; line; arc; line", ""},
		{"a dot", millimetres, face(port, a+`(figure G (dot (pt 0 0)))`), one, "a dot was not drawn"},
		{"contents of a page", millimetres, strings.Replace(face(port, a), "(interface", "(contents (instance q)) (interface", 1), one, "contents of the view"},
		{"keywords of its own", millimetres + ")) (library m (technology x", face(port, a), "states no scale", ""},
	} {
		f, err := Read(example(c.technology, c.views))
		require.NoError(t, err, c.name)
		if len(f.Cells) == 0 {
			require.Len(t, f.Wrong, 1, c.name)
			assert.Contains(t, f.Wrong[0], c.want, c.name)
			assert.Regexp(t, `line \d+: cell "C": `, f.Wrong[0], c.name)
			continue
		}
		got := text(f.Cells[0].Symbol)
		for _, more := range f.Cells[1:] {
			got += " | " + more.Name + ": " + text(more.Symbol)
		}
		assert.Equal(t, c.want, got, c.name)
		said := strings.Join(f.Cells[0].Said, "; ")
		if c.said == "" {
			assert.Empty(t, said, c.name)
		}
		assert.Contains(t, said, c.said, c.name)
	}
	_, err := Read([]byte(strings.Replace(string(example(millimetres, face(port, a))), "(keywordLevel 0)", "(keywordLevel 1) (keywordAlias p port)", 1)))
	assert.ErrorContains(t, err, "line 1: the file defines keywords of its own")
}
