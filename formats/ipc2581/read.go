// Package ipc2581 reads and writes land patterns in IPC-2581: the packages of a design with their land pattern, outlines
// and pins, the pad stacks and the dictionaries they refer to. A reader keeps account of every element and attribute of a package: what
// it does not carry over is said with its line, and a package of which copper, holes, mask or paste would be lost is refused. Sections
// about boards are passed over, which is said.
package ipc2581

import (
	"fmt"
	"maps"
	"slices"
	"strconv"
	"strings"

	"jollydrawer/core/model"
	"jollydrawer/formats/said"
)

// Package is a land pattern with its name and the height the file states.
type Package struct {
	Name   string
	Height model.Length
	Land   *model.LandPattern
	Said   []string // what of it was not carried over, or read in a way that should be known
}

// File is what was read of a file.
type File struct {
	Packages []Package
	Wrong    []string // packages that were not read, and why
	Said     []string // of the file as a whole
}

func itoa(n int) string { return strconv.Itoa(n) }

var unitsOf = map[string]model.Length{"MILLIMETER": model.MM, "MICRON": model.MM / 1000, "INCH": model.Inch}

// dictionaryEntry is a primitive of a dictionary, read once.
type dictionaryEntry struct {
	figure model.Figure
	err    error
	said   []string
	twice  bool
	in     *element
	scope  scope
}

// file is what the packages of a file refer to.
type file struct {
	unit     model.Length
	none     string
	standard map[string]*dictionaryEntry
	user     map[string]*dictionaryEntry
	lines    map[string]model.Length
	fills    map[string]*element
	layers   map[string]layer
	speaks   map[string]bool // of mask, of paste: the file has such layers
	once     map[string]bool // of the package that is read: said of mask, of paste
}

func (f *file) scope() *scope { return &scope{file: f, unit: f.unit, none: f.none} }

// Read returns the packages of all steps.
func Read(raw []byte) (out File, err error) {
	root, passed, err := tree(raw, skipped)
	if err != nil {
		return out, err
	}
	out.Said = sections(passed)
	f := &file{standard: map[string]*dictionaryEntry{}, user: map[string]*dictionaryEntry{}, lines: map[string]model.Length{}, fills: map[string]*element{}, layers: map[string]layer{}, speaks: map[string]bool{}, once: map[string]bool{}}
	f.unit, f.none = unit(root.child("Ecad").child("CadHeader"), "the file's CadHeader", 0)
	f.dictionaries(root)
	if err := f.declare(root); err != nil {
		return out, err
	}
	seen := map[string]string{}
	packages := 0
	all := f.stacks(root)
	steps(root, func(step *element) {
		stacks := maps.Clone(all)
		maps.Copy(stacks, f.stacks(step)) // what the step has itself goes before what others have
		step.find("Package", func(e *element) {
			packages++
			name := e.attr("name")
			p, err := f.pack(e, stacks)
			drawn := fmt.Sprintf("%+v", p.Land)
			switch was, twice := seen[name]; {
			case err != nil:
			case twice && was == drawn: // one package in several steps
				return
			case twice:
				err = fmt.Errorf("the file has two packages of this name that differ; the first was read")
			default:
				seen[name] = drawn
			}
			if err != nil {
				out.Wrong = append(out.Wrong, fmt.Sprintf("line %d: package %q: %v", e.line, clip(name), err))
				return
			}
			out.Packages = append(out.Packages, p)
		})
	})
	if packages == 0 {
		return out, fmt.Errorf("the file has no packages")
	}
	return out, nil
}

// steps calls f with each part of the file that has pad stacks and packages of its own.
func steps(root *element, f func(*element)) {
	any := false
	root.find("Step", func(e *element) { any = true; f(e) })
	if !any {
		f(root)
	}
}

// unit is the unit that an element states, or why there is none.
func unit(e *element, what string, outer model.Length) (model.Length, string) {
	t, said := e.lookup("units")
	if u, ok := unitsOf[t]; ok {
		return u, ""
	}
	switch {
	case said:
		return 0, fmt.Sprintf("the unit %q of %s is none of MILLIMETER, MICRON, INCH", clip(t), what)
	case outer > 0:
		return 0, what + " states no unit"
	}
	return 0, what + " states no unit: whether it is millimetres, micrometres or inch cannot be told"
}

// dictionaries reads what is referred to by id.
func (f *file) dictionaries(root *element) {
	root.find("DictionaryLineDesc", func(d *element) {
		s := f.scope()
		s.unit, s.none = unit(d, "DictionaryLineDesc", f.unit)
		d.all("EntryLineDesc", func(e *element) {
			if l := e.child("LineDesc"); l != nil {
				f.lines[e.attr("id")] = s.length(l, "lineWidth")
			}
		})
	})
	root.find("DictionaryFillDesc", func(d *element) {
		d.all("EntryFillDesc", func(e *element) { f.fills[e.attr("id")] = e.child("FillDesc") })
	})
	take := func(dictionary, entry string, into map[string]*dictionaryEntry) {
		root.find(dictionary, func(d *element) {
			s := f.scope()
			s.unit, s.none = unit(d, dictionary, f.unit)
			d.all(entry, func(e *element) {
				in := *s
				g, found := in.figure(e)
				if !found {
					in.fail(e, "the entry has no shape")
				}
				if left := e.unread(); in.err == nil && len(left) > 0 {
					in.fail(e, "the primitive says what is not read here: %s", strings.Join(left, "; "))
				}
				id := e.attr("id")
				entry := &dictionaryEntry{figure: g, err: in.err, said: in.said, in: e, scope: *s}
				if was := into[id]; was != nil && (fmt.Sprint(was.figure) != fmt.Sprint(g) || was.err != nil || in.err != nil) {
					entry.twice = true
				}
				into[id] = entry
			})
		})
	}
	take("DictionaryStandard", "EntryStandard", f.standard)
	take("DictionaryUser", "EntryUser", f.user)
}

// declare reads what the layers are for.
func (f *file) declare(root *element) (err error) {
	root.find("Layer", func(e *element) {
		name, function := e.attr("name"), strings.ToUpper(e.attr("layerFunction"))
		l := layer{of: functions[function], side: unsaid}
		if l.of == "" {
			l.of = strings.ToLower(function)
		}
		switch strings.ToUpper(e.attr("side")) {
		case "TOP":
			l.side = top
		case "BOTTOM":
			l.side = bottom
		case "INTERNAL":
			l.side = inner
		}
		if was, ok := f.layers[name]; ok && was != l && err == nil {
			err = fmt.Errorf("line %d: the file declares two layers %q that differ", e.line, clip(name))
		}
		f.layers[name] = l
		f.speaks[l.of] = true
	})
	if f.speaks["copper"] {
		return err
	}
	root.find("PadstackPadDef", func(e *element) { // nothing is declared: what is used is spoken of
		ref := strings.ToUpper(e.attr("layerRef"))
		f.speaks[model.OfMask] = f.speaks[model.OfMask] || strings.Contains(ref, "MASK")
		f.speaks[model.OfPaste] = f.speaks[model.OfPaste] || strings.Contains(ref, "PASTE")
	})
	return err
}

// stacks reads the pad stacks of a step.
func (f *file) stacks(step *element) map[string]*stack {
	out := map[string]*stack{}
	step.find("PadStackDef", func(e *element) {
		st := f.stackOf(e)
		st.key = fmt.Sprintf("%+v %+v %v", st.lands, st.hole, st.err)
		name := e.attr("name")
		if was := out[name]; was != nil && was.key != st.key {
			st.twice = true
		}
		out[name] = st
	})
	return out
}

// pack reads a package.
func (f *file) pack(e *element, stacks map[string]*stack) (Package, error) {
	s := f.scope()
	clear(f.once)
	p := Package{Name: e.attr("name"), Height: s.length(e, "height"), Land: &model.LandPattern{Pads: []model.Pad{}}}
	mark := s.marks(e, p.Land)
	whole := s.moveOf(e)
	e.all("LandPattern", func(lp *element) {
		inner := s.moveOf(lp)
		lp.all("Pad", func(x *element) {
			if pad, ok := s.padOf(x, stacks); ok {
				p.Land.Pads = append(p.Land.Pads, s.moved(lp, whole, s.moved(lp, inner, pad)))
			}
		})
	})
	s.mounting(p.Land)
	s.pins(e, p.Land)
	s.outlines(e, p.Land, mark, whole)
	if p.Height > 0 {
		s.say(e, "the height of %s mm belongs to the body and was not kept", p.Height)
	}
	for of, what := range map[string]string{model.OfMask: "opening of the solder mask", model.OfPaste: "opening of the paste"} {
		if f.once[of] {
			s.say(e, "the file says of no %s; they were taken to be as large as the copper", what)
		}
	}
	s.account(e)
	if s.err == nil {
		s.err = p.Land.Check()
	}
	p.Said = said.Once(s.said)
	return p, s.err
}

// account says what of a package was not read. What is in its land pattern or its pins makes it refused.
func (s *scope) account(e *element) {
	e.all("LandPattern", func(lp *element) {
		if left := lp.unread(); len(left) > 0 {
			s.fail(lp, "the land pattern says what is not read here: %s", strings.Join(left, "; "))
		}
		lp.kids = nil
	})
	for _, left := range e.unread() {
		s.said = append(s.said, left+" was not read")
	}
}

// padOf reads a pad of a land pattern.
func (s *scope) padOf(e *element, stacks map[string]*stack) (p model.Pad, ok bool) {
	ref, has := e.lookup("padstackDefRef")
	st := stacks[ref]
	own, drawn := s.figure(e)
	switch {
	case has && st == nil:
		s.fail(e, "the pad stack %q is not in the file", clip(ref))
	case has && st.twice:
		s.fail(e, "the file has two different pad stacks %q", clip(ref))
	case has && st.err != nil:
		s.fail(e, "the pad stack %q: %v", clip(ref), st.err)
	case !has && !drawn:
		s.fail(e, "the pad has neither a pad stack nor a shape")
	case !has:
		st = &stack{lands: []land{{layer{"copper", top}, own, e.line}}}
		s.say(e, "a pad with a shape and no pad stack was taken for copper on the top")
	}
	if s.err != nil {
		return p, false
	}
	s.said = append(s.said, st.said...)
	if p, ok = s.pad(e, st); !ok {
		return p, false
	}
	if off, same := own.Off(p.Figure()); has && drawn && (!same || off > exact) {
		s.fail(e, "the pad's own shape is another than that of its pad stack")
	}
	refs := 0
	e.all("PinRef", func(r *element) {
		if p.Number = r.attr("pin"); p.Number == "" {
			s.fail(r, "PinRef names no pin")
		}
		refs++
	})
	if refs > 1 {
		s.fail(e, "the pad belongs to %d pins", refs)
	}
	return s.moved(e, s.moveOf(e), p), true
}

// moved puts a pad where m says; where another order of doing so would give other copper, it is an error.
func (s *scope) moved(e *element, m move, p model.Pad) model.Pad {
	put := func(offsetFirst bool) model.Pad {
		q := p
		move := func(f func(at model.Point) model.Point) { q.At = f(q.At) }
		scale := func() {
			if m.scale == 1 {
				return
			}
			move(func(at model.Point) model.Point { return model.Figure{At: at}.Scaled(m.scale).At })
			q = scaled(q, m.scale)
		}
		mirror := func() {
			if m.mirror {
				move(func(at model.Point) model.Point { return model.Point{X: -at.X, Y: at.Y} })
				q = q.Mirrored()
			}
		}
		turn := func() {
			move(func(at model.Point) model.Point { return at.Turned(m.turn) })
			q.Turn = (q.Turn + m.turn) % (360 * model.Degree)
		}
		shift := func() { q.At = q.At.Add(m.by) }
		order := []func(){scale, mirror, turn, shift}
		if offsetFirst {
			order = []func(){shift, turn, mirror, scale}
		}
		for _, f := range order {
			f()
		}
		q.At = q.At.Add(m.at)
		return q
	}
	out := put(false)
	if m.several() {
		a, b := model.Content{Kind: model.KindLand, Land: &model.LandPattern{Pads: []model.Pad{out}}}, model.Content{Kind: model.KindLand, Land: &model.LandPattern{Pads: []model.Pad{put(true)}}}
		if !model.Same(&a, &b) {
			s.fail(e, inAnotherOrder)
		}
	}
	return out
}

// scaled is a pad with all its lengths but its place multiplied.
func scaled(p model.Pad, by float64) model.Pad {
	f := p.Figure().Scaled(by)
	p.Width, p.Height, p.Corner, p.Points, p.CutOuts = f.Width, f.Height, f.Corner, f.Points, f.CutOuts
	for _, l := range []*model.Length{&p.Hole, &p.Slot, &p.Mask, &p.Paste} {
		*l = model.Figure{Width: *l}.Scaled(by).Width
	}
	p.HoleAt = model.Figure{At: p.HoleAt}.Scaled(by).At
	p.OtherCopper(func(f model.Figure) model.Figure { return f.Scaled(by) })
	p.Openings = slices.Clone(p.Openings)
	for i := range p.Openings {
		p.Openings[i].Figure = p.Openings[i].Scaled(by)
	}
	return p
}

// mounting tells how the part sits, by its holes.
func (s *scope) mounting(l *model.LandPattern) {
	holes, flats := 0, 0
	for _, p := range l.Pads {
		if p.Hole > 0 {
			holes++
		} else {
			flats++
		}
	}
	switch {
	case holes > 0 && flats > 0:
		l.Mounting = "mixed"
	case holes > 0:
		l.Mounting = "through"
	case flats > 0:
		l.Mounting = "surface"
	}
}

// pins lays the pins of the package beside its pads. The shape of a pin is that of its lead and not of copper.
func (s *scope) pins(e *element, l *model.LandPattern) {
	var missing []string
	any := false
	e.all("Pin", func(p *element) {
		any = true
		number := p.attr("number")
		pads, holes := 0, 0
		for _, q := range l.Pads {
			if q.Number == number {
				pads++
				if q.Hole > 0 {
					holes++
				}
			}
		}
		switch kind := p.attr("type"); {
		case s.err != nil:
		case pads == 0:
			missing = append(missing, number)
		case (kind == "THRU" || kind == "BLIND") && holes == 0:
			s.fail(p, "pin %q goes through the board (%s) and its pad has no hole", clip(number), kind)
		case kind != "THRU" && kind != "BLIND" && kind != "SURFACE" && kind != "":
			s.say(p, "the type %q of pin %q was not kept", clip(kind), clip(number))
		}
		p.kids = nil // a lead's place and shape
	})
	if any && len(l.Pads) == 0 {
		s.fail(e, "the package has pins and no land pattern: the shapes of its pins are leads and not copper")
	}
	if len(missing) > 0 && len(l.Pads) > 0 {
		s.say(e, "no pad is there for the pins %s", clip(strings.Join(missing, ", ")))
	}
}
