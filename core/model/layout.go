package model

import (
	"cmp"
	"fmt"
	"regexp"
	"slices"
	"strings"
)

// Layout says how a symbol is made from a list of pins.
type Layout struct {
	// Order is "function": power up, ground down, inputs left, outputs right; or "number": as the pins are counted.
	Order string `json:"order,omitempty" enum:"function,number," doc:"function where blank"`
	// OneSide puts all pins on the left, for connectors.
	OneSide bool   `json:"oneSide,omitempty"`
	ByUnit  bool   `json:"byUnit,omitempty" doc:"One unit for each group that the list names"`
	Grid    Length `json:"grid,omitzero" doc:"mm; 1.27 where blank"`
	Pin     Length `json:"pin,omitzero" doc:"Length of a pin, mm; 2.54 where blank"`
}

// MakeSymbol lays out a symbol. Pins that were placed by hand in earlier stay where they are, as far as they are still in
// the list. Every pin of the list comes to stand on exactly one point of the grid.
func MakeSymbol(listed []ListedPin, o Layout, earlier *Symbol) (*Symbol, error) {
	if len(listed) == 0 {
		return nil, fmt.Errorf("the list has no pins; a symbol needs one at least")
	}
	if len(listed) > MostPins {
		return nil, fmt.Errorf("the list has %d pins; at most %d are read", len(listed), MostPins)
	}
	if o.Grid <= 0 {
		o.Grid = 127 * MM / 100
	}
	if o.Pin <= 0 {
		o.Pin = 254 * MM / 100
	}
	if o.Order != "" && o.Order != "function" && o.Order != "number" {
		return nil, fmt.Errorf("%q is no order of pins: use function or number", clip(o.Order))
	}
	o.Pin = (o.Pin + o.Grid - 1) / o.Grid * o.Grid
	s := &Symbol{Grid: o.Grid}
	if earlier != nil {
		s.Properties = earlier.Properties
	}
	seen := map[string]bool{}
	var groups []string
	by := map[string][]ListedPin{}
	for _, p := range listed {
		if strings.TrimSpace(p.Number) == "" {
			return nil, fmt.Errorf("line %d: the pin %q has no number", p.Line, clip(p.Name))
		}
		if seen[p.Number] {
			return nil, fmt.Errorf("line %d: the pin number %q stands in the list twice", p.Line, clip(p.Number))
		}
		seen[p.Number] = true
		g := ""
		if o.ByUnit {
			g = p.Unit
		}
		if by[g] == nil {
			groups = append(groups, g)
		}
		by[g] = append(by[g], p)
	}
	for i, g := range groups {
		unit := 0
		if len(groups) > 1 {
			unit = i + 1
			name := g
			if name == "" {
				name = "others"
			}
			s.Units = append(s.Units, name)
		}
		s.unit(by[g], o, unit)
	}
	if earlier != nil {
		s.keep(earlier)
	}
	slices.SortStableFunc(s.Pins, func(a, b Pin) int {
		switch {
		case a.Unit != b.Unit:
			return a.Unit - b.Unit
		case Before(a.Number, b.Number):
			return -1
		}
		return 1
	})
	return s, s.Check()
}

// sideOf says where a pin belongs: 0 left, 1 right, 2 top, 3 bottom; false where its type leaves it open.
func sideOf(p ListedPin, o Layout) (int, bool) {
	switch p.Side {
	case "left":
		return 0, true
	case "right":
		return 1, true
	case "top":
		return 2, true
	case "bottom":
		return 3, true
	}
	ground := groundName.MatchString(p.Name)
	switch {
	case o.OneSide:
		return 0, true
	case p.Type == PowerIn && ground, p.Type == "" && ground:
		return 3, true
	case p.Type == PowerIn:
		return 2, true
	case p.Type == PowerOut, p.Type == Output, p.Type == OpenCollector, p.Type == OpenEmitter, p.Type == TriState:
		return 1, true
	case p.Type == Input:
		return 0, true
	}
	return 0, false
}

// groundName are whole names of grounds and of pads that are soldered to one. It says where a pin is drawn, never what it is.
var groundName = regexp.MustCompile(`(?i)^([a-z]{0,4}_?(gnd|ground)[a-z]?([_ ]?[a-z0-9]+)?|[a-z]?vss[a-z0-9_]*|[a-z]?vee[a-z0-9_]*|com|0v|v-|ep|e?pad|thermal( pad)?|shield|chassis|pe)$`)

// byName puts pins in the order of their names as people count, D[2] before D[11] and TX1_P beside TX1_N, those that are not connected
// last.
func byName(a, b ListedPin) int {
	an, bn := a.Type == NotConnected, b.Type == NotConnected
	if an != bn {
		if an {
			return 1
		}
		return -1
	}
	x, xEnd := pairOf(a.Name)
	y, yEnd := pairOf(b.Name)
	return cmp.Or(natural(strings.ToLower(x), strings.ToLower(y)), cmp.Compare(xEnd, yEnd), natural(a.Name, b.Name), byCount(a.Number, b.Number))
}

// natural compares names as people sort them: by letters, and by numbers where both have one.
func natural(a, b string) int {
	for a != "" && b != "" {
		x, restA := run(a)
		y, restB := run(b)
		if digit(a[0]) && digit(b[0]) {
			m, n := strings.TrimLeft(x, "0"), strings.TrimLeft(y, "0")
			if c := cmp.Or(cmp.Compare(len(m), len(n)), cmp.Compare(m, n)); c != 0 {
				return c
			}
		} else if c := cmp.Compare(x, y); c != 0 {
			return c
		}
		a, b = restA, restB
	}
	return cmp.Compare(len(a), len(b))
}

var pairEnd = regexp.MustCompile(`^(.*[0-9A-Za-z\])])(?:_([PNpn])|([+-]))$|^(.*[0-9])([PN])$`)

// pairOf parts the name of one half of a differential pair into what both halves share and which half it is, the positive one first.
func pairOf(name string) (pair string, half int) {
	m := pairEnd.FindStringSubmatch(name)
	if m == nil {
		return name, 0
	}
	end := strings.ToUpper(m[2] + m[3] + m[5])
	if end == "N" || end == "-" {
		return m[1] + m[4], 2
	}
	return m[1] + m[4], 1
}

var portEnd = regexp.MustCompile(`[\[<(]?[0-9].*$`)

// portOf is the port that a pin belongs to, by its name: PA of PA11, D of D[3].
func portOf(p ListedPin) string {
	pair, _ := pairOf(p.Name)
	return strings.ToLower(portEnd.ReplaceAllString(pair, ""))
}

func (s *Symbol) unit(list []ListedPin, o Layout, unit int) {
	var sides [4][]ListedPin
	if o.Order == "number" || o.Order == "" && o.OneSide { // a connector counts
		list = slices.Clone(list)
		slices.SortStableFunc(list, func(a, b ListedPin) int {
			if Before(a.Number, b.Number) {
				return -1
			}
			return 1
		})
		half := len(list)
		if !o.OneSide {
			half = (len(list) + 1) / 2
		}
		sides[0] = list[:half]
		sides[1] = slices.Clone(list[half:])
		slices.Reverse(sides[1]) // counting runs down the left and up the right, as on a package
	} else {
		var open []ListedPin // pins that belong on neither side
		for _, p := range list {
			if at, ok := sideOf(p, o); ok {
				sides[at] = append(sides[at], p)
			} else {
				open = append(open, p)
			}
		}
		slices.SortStableFunc(open, byName)
		// They fill the left side and then the right one; a port stays together.
		left := max(0, (len(open)+len(sides[1])-len(sides[0])+1)/2)
		for len(open) > 0 {
			n := 1
			for n < len(open) && portOf(open[n]) == portOf(open[0]) {
				n++
			}
			if len(sides[0]) == 0 || left >= (n+1)/2 {
				sides[0] = append(sides[0], open[:n]...)
			} else {
				sides[1] = append(sides[1], open[:n]...)
			}
			left -= n
			open = open[n:]
		}
		for i := range sides {
			slices.SortStableFunc(sides[i], byName)
		}
	}
	step := o.Grid
	for step < 254*MM/100 {
		step += o.Grid
	}
	up := func(l Length) Length { return (l + 2*o.Grid - 1) / (2 * o.Grid) * (2 * o.Grid) }
	widest := func(list []ListedPin) (w Length) {
		for _, p := range list {
			w = max(w, Length(len([]rune(p.Name)))*MM*7/10)
		}
		return w
	}
	width := up(max(widest(sides[0])+widest(sides[1])+2*step, Length(max(len(sides[2]), len(sides[3]))+1)*step, 4*step))
	head := up(max(widest(sides[2]), 0))
	foot := up(max(widest(sides[3]), 0))
	rows := Length(max(len(sides[0]), len(sides[1]), 1))
	height := up((rows+1)*step + head + foot)
	left, right := -width/2/o.Grid*o.Grid, width/2/o.Grid*o.Grid
	top := height / 2 / o.Grid * o.Grid
	bottom := top - height
	add := func(p ListedPin, at Point, runs string) {
		kind := p.Type
		if kind == "" {
			kind = Passive
		}
		s.Pins = append(s.Pins, Pin{Number: p.Number, Name: p.Name, Type: kind, Unit: unit, At: at, Runs: runs, Length: o.Pin})
	}
	for i, p := range sides[0] {
		add(p, Point{left - o.Pin, top - head - Length(i+1)*step}, Right)
	}
	for i, p := range sides[1] {
		add(p, Point{right + o.Pin, top - head - Length(i+1)*step}, Left)
	}
	across := func(n, i int) Length {
		return Length(2*i-(n-1)) * step / 2 / o.Grid * o.Grid
	}
	for i, p := range sides[2] {
		add(p, Point{across(len(sides[2]), i), top + o.Pin}, Down)
	}
	for i, p := range sides[3] {
		add(p, Point{across(len(sides[3]), i), bottom - o.Pin}, Up)
	}
	s.Shapes = append(s.Shapes, Shape{Form: Rectangle, Unit: unit, Points: []Point{{left, bottom}, {right, top}}, Width: MM / 4},
		Shape{Form: Text, Unit: unit, Text: Designator, Size: 127 * MM / 100, Points: []Point{{left + 2*MM, top + o.Pin + 2*MM}}})
}

// keep puts pins that were placed by hand back where they were, and those of earlier that would now lie under them aside.
func (s *Symbol) keep(earlier *Symbol) {
	hand := map[string]Pin{}
	for _, p := range earlier.Pins {
		if p.Placed {
			hand[p.Number] = p
		}
	}
	type spot struct {
		unit int
		at   Point
	}
	taken := map[spot]bool{}
	for i := range s.Pins {
		if h, ok := hand[s.Pins[i].Number]; ok {
			p := &s.Pins[i]
			p.At, p.Runs, p.Length, p.Placed = h.At, h.Runs, h.Length, true
			taken[spot{p.Unit, p.At}] = true
		}
	}
	for i := range s.Pins {
		p := &s.Pins[i]
		if p.Placed {
			continue
		}
		away := Point{0, -s.Grid}
		if p.Runs == Up || p.Runs == Down {
			away = Point{s.Grid, 0}
		}
		for taken[spot{p.Unit, p.At}] {
			p.At = p.At.Add(away)
		}
		taken[spot{p.Unit, p.At}] = true
	}
}
