package edif

import (
	"fmt"
	"maps"
	"slices"
	"strconv"
	"strings"

	"jollydrawer/core/model"
	"jollydrawer/formats/said"
)

// drawing is a symbol of a view with its ports in place.
type drawing struct {
	view   string
	symbol *model.Symbol
	said   []string
}

// cells reads the symbols of a cell: nothing where it has none. Views that share no pin are units of one symbol; views that have the same
// pins, and several symbols of one view, are drawings of their own. What is in between cannot be told.
func (t technology) cells(c *node) ([]Cell, error) {
	var views [][]drawing
	r := &reader{technology: t, s: &model.Symbol{Properties: map[string]string{}}}
	c.all("property", r.property)
	shared := r.s.Properties
	any := false
	c.all("view", func(v *node) { any = any || v.child("interface").child("symbol") != nil })
	if !any {
		return nil, nil
	}
	if t.problem != "" {
		return nil, fmt.Errorf("%s", t.problem)
	}
	told := r.said
	cell := name(c.arg(0))
	if !named(c.arg(0)) {
		return nil, fmt.Errorf("its name is not read here")
	}
	var failed error
	c.all("view", func(v *node) {
		drawings, err := t.view(v, shared)
		if failed == nil {
			failed = err
		}
		if len(drawings) > 0 {
			views = append(views, drawings)
		} else {
			told = append(told, fmt.Sprintf("line %d: the view %q has no symbol and was passed over", v.line, said.Printable(name(v.arg(0)))))
		}
	})
	if failed != nil {
		return nil, failed
	}
	told = append(told, c.left()...)
	out, err := joined(cell, views)
	if err != nil {
		return nil, err
	}
	for i := range out {
		s := out[i].Symbol
		if g := s.Properties["GRID"]; g != "" {
			if l, err := model.ParseLength(g); err == nil {
				s.Grid = l
				delete(s.Properties, "GRID")
			}
		}
		if len(s.Properties) == 0 {
			s.Properties = nil
		}
		if err := s.Check(); err != nil {
			return nil, err
		}
		out[i].Said = said.Once(append(slices.Clone(told), out[i].Said...))
	}
	return out, nil
}

// joined makes cells of the drawings of a cell's views.
func joined(cell string, views [][]drawing) (out []Cell, err error) {
	add := func(name string, d drawing) { out = append(out, Cell{name, d.symbol, d.said}) }
	if len(views) == 1 {
		for i, d := range views[0] {
			n := cell
			if i > 0 {
				n = fmt.Sprintf("%s, drawing %d", cell, i+1)
			}
			add(n, d)
		}
		return out, nil
	}
	shared, alike := false, true
	for i, v := range views {
		if len(v) > 1 {
			return nil, fmt.Errorf("it has several views, and several symbols in the view %q: which belong together cannot be told", v[0].view)
		}
		for _, w := range views[:i] {
			a, b := v[0].symbol.Numbers(), w[0].symbol.Numbers()
			alike = alike && slices.Equal(a, b)
			shared = shared || slices.ContainsFunc(a, func(n string) bool { return slices.Contains(b, n) })
		}
	}
	switch {
	case shared && !alike:
		return nil, fmt.Errorf("its views share some of their pins: whether they are units of one symbol cannot be told")
	case shared:
		for i, v := range views {
			n := cell
			if i > 0 {
				n = cell + ", " + v[0].view
			}
			add(n, v[0])
		}
		return out, nil
	}
	whole := Cell{Name: cell, Symbol: &model.Symbol{Properties: map[string]string{}}}
	s := whole.Symbol
	for i, v := range views {
		one := v[0].symbol
		s.Units = append(s.Units, v[0].view)
		for _, p := range one.Pins {
			p.Unit = i + 1
			s.Pins = append(s.Pins, p)
		}
		for _, g := range one.Shapes {
			g.Unit = i + 1
			s.Shapes = append(s.Shapes, g)
		}
		for k, value := range one.Properties {
			if was, ok := s.Properties[k]; ok && was != value {
				whole.Said = append(whole.Said, fmt.Sprintf("the property %q is %q in one view and %q in another; the first was kept", k, was, value))
				continue
			}
			s.Properties[k] = value
		}
		whole.Said = append(whole.Said, v[0].said...)
	}
	return []Cell{whole}, nil
}

// view reads the symbols of one view.
func (t technology) view(v *node, shared map[string]string) (out []drawing, err error) {
	face := v.child("interface")
	if face.child("symbol") == nil {
		v.quiet()
		return nil, nil
	}
	in := &reader{technology: t, s: &model.Symbol{Properties: maps.Clone(shared)}}
	v.all("property", in.property)
	face.all("property", in.property)
	if d := face.child("designator"); d != nil {
		in.say(d, "the designator %q of the part was not kept", name(d.arg(0)))
	}
	if c := v.child("contents"); c != nil {
		c.quiet()
		in.say(c, "the contents of the view are no part of a symbol and were passed over")
	}
	ports := in.ports(face)
	face.all("symbol", func(sym *node) {
		r := &reader{technology: t, s: &model.Symbol{Pins: []model.Pin{}, Properties: maps.Clone(in.s.Properties)}, err: in.err, said: slices.Clone(in.said)}
		sym.all("property", r.property)
		r.pins(sym, ports)
		r.graphics(sym)
		for _, n := range sym.unread() {
			if r.err == nil && (n.key() == "portimplementation" || n.key() == "portinstance") {
				r.fail(n, "%s in the symbol is not read here", n.key())
			}
			r.say(n, "%s was not read", n.key())
		}
		for k, text := range r.s.Properties { // named only so that its display has what it refers to
			if text == "" && slices.ContainsFunc(r.s.Shapes, func(g model.Shape) bool { return g.Text == "{"+k+"}" }) {
				delete(r.s.Properties, k)
			}
		}
		if err == nil {
			err = r.err
		}
		out = append(out, drawing{name(v.arg(0)), r.s, r.said})
	})
	out[0].said = append(out[0].said, face.left()...)
	return out, err
}

type reader struct {
	technology
	s    *model.Symbol
	err  error
	said []string
}

func (r *reader) fail(n *node, form string, args ...any) {
	if r.err == nil {
		r.err = fmt.Errorf("line %d: %s", n.line, said.Printable(fmt.Sprintf(form, args...)))
	}
}

func (r *reader) say(n *node, form string, args ...any) {
	r.said = append(r.said, fmt.Sprintf("line %d: %s", n.line, said.Printable(fmt.Sprintf(form, args...))))
}

func (r *reader) property(p *node) {
	key := name(p.arg(0))
	v, ok := value(p)
	if key == "" || !ok || !named(p.arg(0)) {
		r.say(p, "the property %q has no value that is read here", key)
		return
	}
	for _, c := range p.list[2:] {
		switch c.key() {
		case "string", "integer", "boolean", "number", "minomax":
			c.quiet()
		}
	}
	if was, twice := r.s.Properties[key]; twice && was != v {
		r.say(p, "the property %q is written as %q and as %q; the last was kept", key, was, v)
	}
	r.s.Properties[key] = v
}

// value reads the typed value of a property.
func value(p *node) (string, bool) {
	for _, c := range p.list[2:] {
		switch c.key() {
		case "string", "integer", "boolean":
			if c.arg(0) == nil {
				return "", true
			}
			if b := c.arg(0).key(); b == "true" || b == "false" {
				return b, true
			}
			return name(c.arg(0)), named(c.arg(0))
		case "number":
			if v, ok := number(c.arg(0)); ok {
				return strconv.FormatFloat(v, 'g', 12, 64), true
			}
		}
	}
	return "", false
}

// port is what the interface says of a port: the pins that it stands for.
type port struct {
	pin     model.Pin
	numbers []string
	members []string // names of the members of an array; nil of a single port
	bundle  bool
	runs    string
	line    *node
}

var directions = map[string]string{"input": model.Input, "output": model.Output, "inout": model.Bidirectional}

// ports reads the ports of an interface, those of bundles too.
func (r *reader) ports(face *node) map[string]*port {
	out := map[string]*port{}
	take := func(p *node) {
		id := ident(p.arg(0))
		if out[id] != nil {
			r.fail(p, "the port %q stands in the interface twice", name(p.arg(0)))
		}
		out[id] = r.port(p)
	}
	face.all("port", take)
	face.all("portbundle", func(b *node) {
		list := b.child("listofports")
		list.all("port", take)
		out[ident(b.arg(0))] = &port{pin: model.Pin{Name: name(b.arg(0))}, bundle: true, line: b}
	})
	return out
}

// plainKey is a property's name without marks: "Pin Number", "PIN_NUMBER" and "pinNumber" are one.
func plainKey(s string) string {
	return strings.Map(func(c rune) rune {
		if c >= 'a' && c <= 'z' || c >= '0' && c <= '9' {
			return c
		}
		return -1
	}, strings.ToLower(s))
}

func (r *reader) port(p *node) *port {
	out := &port{pin: model.Pin{Name: name(p.arg(0)), Type: model.Passive}, line: p}
	if !named(p.arg(0)) {
		r.fail(p, "the name of a port is not read here")
	}
	if a := p.arg(0); a.key() == "array" {
		out.members = r.members(a)
	}
	direction := ""
	if d := p.child("direction"); d != nil && d.arg(0) != nil {
		word := strings.ToLower(d.arg(0).text)
		if t, ok := directions[word]; ok {
			direction, out.pin.Type = t, t
		} else if word != "" {
			r.say(d, "the direction %q of the port %q is not known", word, out.pin.Name)
		}
	}
	p.all("designator", func(d *node) { out.numbers = append(out.numbers, name(d.arg(0))) })
	p.all("property", func(q *node) {
		v, ok := value(q)
		q.quiet()
		key := plainKey(name(q.arg(0)))
		switch {
		case !ok:
			r.say(q, "the property %q of the port %q has no value that is read here", name(q.arg(0)), out.pin.Name)
		case slices.Contains([]string{"pintype", "electricaltype", "type", "electrical", "pinelectricaltype"}, key):
			kind, known := model.PinType(v)
			if slices.Contains(model.PinTypes, strings.ToLower(v)) {
				kind, known = strings.ToLower(v), true
			}
			if !known || kind == "" {
				r.say(q, "the type %q of the port %q is not known; its direction was kept", v, out.pin.Name)
				break
			}
			if kind == model.PowerIn && direction == model.Output {
				kind = model.PowerOut
			}
			out.pin.Type = kind
		case slices.Contains([]string{"power", "powerpin", "ispower", "supply"}, key):
			if strings.EqualFold(v, "true") || v == "1" || strings.EqualFold(v, "yes") {
				if out.pin.Type = model.PowerIn; direction == model.Output {
					out.pin.Type = model.PowerOut
				}
			}
		case slices.Contains([]string{"pinnumber", "pinno", "pinnum", "number", "padnumber"}, key):
			switch {
			case v == "":
			case len(out.numbers) == 0:
				out.numbers = []string{v}
			case !slices.Contains(out.numbers, v):
				r.fail(q, "the port %q is number %s by its designator and %s by its property", out.pin.Name, strings.Join(out.numbers, ", "), v)
			}
		case key == "hidden":
			out.pin.Hidden = strings.EqualFold(v, "true")
		case key == "runs":
			out.runs = v
		case key == "placed":
			out.pin.Placed = strings.EqualFold(v, "true")
		default:
			r.say(q, "the property %q of the port %q was not kept: %q", name(q.arg(0)), out.pin.Name, v)
		}
	})
	for _, n := range p.unread() {
		r.fail(n, "%s of the port %q is not read here", n.key(), out.pin.Name)
	}
	return out
}

// members names the members of an array: D[7:0] of eight is D[7] … D[0], without a range they are counted from 0.
func (r *reader) members(a *node) []string {
	shown := name(a)
	n := 1
	for i := 1; a.arg(i) != nil; i++ {
		size, ok := number(a.arg(i))
		if !ok || size < 1 || size > model.MostPins {
			r.fail(a, "the array %q has no sound number of members", shown)
			return nil
		}
		if i > 1 && size > 1 {
			r.fail(a, "the array %q has several dimensions, which are not read here", shown)
			return nil
		}
		n *= int(size)
	}
	from, step := 0, 1
	base := shown
	if at := strings.IndexAny(shown, "[<("); at > 0 && len(shown) > at+2 {
		low, high, ranged := strings.Cut(strings.ReplaceAll(shown[at+1:len(shown)-1], "..", ":"), ":")
		x, err1 := strconv.Atoi(strings.TrimSpace(low))
		y, err2 := strconv.Atoi(strings.TrimSpace(high))
		if ranged && err1 == nil && err2 == nil && max(x-y, y-x)+1 == n {
			base, from = shown[:at], x
			if y < x {
				step = -1
			}
		}
	}
	out := make([]string, n)
	for i := range out {
		out[i] = fmt.Sprintf("%s[%d]", base, from+i*step)
	}
	return out
}

// pins reads the places of ports in a symbol. Each number of a port is a pin of its own.
func (r *reader) pins(sym *node, ports map[string]*port) {
	seen := map[*port]map[int]bool{}
	var unnumbered []int // of the symbol's pins
	sym.all("portimplementation", func(p *node) {
		ref, member := p.arg(0), -1
		if ref.key() == "name" {
			ref.quiet()
			ref = ref.arg(0)
		}
		if ref.key() == "member" {
			ref.quiet()
			v, ok := number(ref.arg(1))
			if !ok || ref.arg(2) != nil {
				r.fail(p, "the member of an array is not read here")
				return
			}
			member, ref = int(v), ref.arg(0)
		}
		id := ident(ref)
		of, ok := ports[id]
		switch {
		case !ok:
			r.fail(p, "the symbol places the port %q, which the interface does not have", name(ref))
			return
		case of.bundle:
			r.fail(p, "the bundle %q is drawn as one pin: which pins of it connect there cannot be told", of.pin.Name)
			return
		case of.members != nil && member < 0 && len(of.members) > 1:
			r.fail(p, "the array %q of %d pins is drawn as one: which number each has cannot be told", of.pin.Name, len(of.members))
			return
		case member >= 0 && member >= len(of.members):
			r.fail(p, "the array %q has no member %d", of.pin.Name, member)
			return
		}
		if seen[of] == nil {
			seen[of] = map[int]bool{}
		}
		if seen[of][member] {
			r.fail(p, "the port %q has two places in the symbol", of.pin.Name)
		}
		seen[of][member] = true
		pin, numbers := of.pin, of.numbers
		if member >= 0 {
			pin.Name, numbers = of.members[member], nil
		}
		var here []string
		p.all("designator", func(d *node) { here = append(here, name(d.arg(0))) })
		if len(here) > 0 {
			if len(numbers) > 0 && !slices.Equal(here, numbers) {
				r.fail(p, "the port %q is number %s in the interface and %s in the symbol", pin.Name, strings.Join(numbers, ", "), strings.Join(here, ", "))
			}
			numbers = here
		}
		r.placed(p, &pin, of)
		numbers = r.split(p, pin.Name, numbers)
		if len(numbers) == 0 {
			unnumbered = append(unnumbered, len(r.s.Pins))
			numbers = []string{pin.Name}
		}
		for _, n := range numbers {
			pin.Number = n
			r.s.Pins = append(r.s.Pins, pin)
		}
		for _, n := range p.unread() {
			r.fail(n, "%s in the place of the port %q is not read here", n.key(), pin.Name)
		}
	})
	switch {
	case len(unnumbered) == len(r.s.Pins) && len(unnumbered) > 0:
		r.say(sym, "no pin has a number; the names of the pins stand for their numbers")
	case len(unnumbered) > 0:
		r.fail(sym, "the pin %q has no number, others have one", r.s.Pins[unnumbered[0]].Name)
	}
	for _, id := range slices.Sorted(maps.Keys(ports)) {
		p := ports[id]
		missing := seen[p] == nil && !p.bundle
		if len(p.members) > 1 && len(seen[p]) != len(p.members) {
			missing = true
		}
		if missing {
			r.fail(p.line, "the port %q has no place in the symbol, or one of its members has none", p.pin.Name)
		}
	}
}

// split parts a designator that holds several numbers: each is a pin of its own.
func (r *reader) split(p *node, port string, numbers []string) (out []string) {
	for _, n := range numbers {
		parts := strings.FieldsFunc(n, func(c rune) bool { return c == ',' || c == ';' || c == ' ' || c == '\t' })
		out = append(out, parts...)
	}
	if len(out) > 1 {
		r.say(p, "the port %q has the numbers %s: each is a pin of its own, at one place", port, strings.Join(out, ", "))
	}
	return out
}
