package cabinet

import (
	"bytes"
	"encoding/json"
	"fmt"
	"slices"

	"jollydrawer/core/measure"
)

// The kinds of steps.
const (
	Rename     = "rename"     // a parameter gets another key or label; its values keep their meaning
	Retype     = "retype"     // a parameter becomes another type, or another dimension; its values are read anew
	Unit       = "unit"       // a parameter is shown or assumed in another unit; its values stay
	Split      = "split"      // parts of a parameter's values go to parameters of their own
	Retire     = "retire"     // a parameter leaves one drawer, or the dictionary; its values leave the parts
	Move       = "move"       // parts go to another drawer
	Redescribe = "redescribe" // the descriptions of a drawer's parts are built anew
)

// Step is one step of changing templates that parts already use.
type Step struct {
	Do         string     `json:"do" yaml:"do" enum:"rename,retype,unit,split,retire,move,redescribe"`
	Parameter  string     `json:"parameter,omitempty" yaml:"parameter,omitempty" doc:"Key of the parameter that changes"`
	To         string     `json:"to,omitempty" yaml:"to,omitempty" doc:"rename: the new key; move: the drawer"`
	Label      string     `json:"label,omitempty" yaml:"label,omitempty" doc:"rename: the new label"`
	Type       Type       `json:"type,omitempty" yaml:"type,omitempty" doc:"retype"`
	Of         string     `json:"of,omitempty" yaml:"of,omitempty" doc:"retype: the dimension of a measure"`
	Choices    []string   `json:"choices,omitempty" yaml:"choices,omitempty" doc:"retype"`
	Show       string     `json:"show,omitempty" yaml:"show,omitempty" doc:"unit: values are shown in it; blank: whichever prefix suits"`
	AssumeUnit string     `json:"assumeUnit,omitempty" yaml:"assumeUnit,omitempty" doc:"unit, retype: meant where a value is typed without one"`
	Into       []SplitOff `json:"into,omitempty" yaml:"into,omitempty" doc:"split"`
	Drawer     string     `json:"drawer,omitempty" yaml:"drawer,omitempty" doc:"retire: only from this drawer; move, redescribe: of the parts in and inside it"`
	Parts      []string   `json:"parts,omitempty" yaml:"parts,omitempty" doc:"move: numbers of the parts; blank: all of drawer"`
}

// SplitOff says which part of a value goes to which parameter.
type SplitOff struct {
	Parameter string `json:"parameter" yaml:"parameter"`
	Take      string `json:"take" yaml:"take" enum:"low,high,nominal,tolerance,condition,before,after" doc:"before and after: of the first mark in a text"`
	Mark      string `json:"mark,omitempty" yaml:"mark,omitempty"`
}

// Clone returns a deep copy.
func (d Document) Clone() Document {
	raw, err := json.Marshal(d)
	if err != nil {
		panic("cabinet: a document always has a JSON form: " + err.Error())
	}
	var out Document
	if err := json.Unmarshal(raw, &out); err != nil {
		panic("cabinet: a document reads its own JSON form: " + err.Error())
	}
	return out
}

// Apply returns the document after the steps; the error names the step and what it lacks.
func (d Document) Apply(steps []Step) (Document, error) {
	out := d.Clone()
	for i, s := range steps {
		if err := out.step(s); err != nil {
			return d, fmt.Errorf("step %d (%s): %w", i+1, s.Do, err)
		}
	}
	return out, nil
}

func (d *Document) parameter(key string) (*Parameter, error) {
	for i := range d.Parameters {
		if d.Parameters[i].Key == key {
			return &d.Parameters[i], nil
		}
	}
	return nil, fmt.Errorf("the dictionary has no parameter %q", key)
}

func (d *Document) drawer(key string) (*Drawer, error) {
	for i := range d.Drawers {
		if d.Drawers[i].Key == key {
			return &d.Drawers[i], nil
		}
	}
	return nil, fmt.Errorf("the cabinet has no drawer %q", key)
}

func (d *Document) step(s Step) error {
	if s.Do == Move || s.Do == Redescribe {
		if s.Do == Move && s.Drawer == "" && len(s.Parts) == 0 {
			return fmt.Errorf("say which parts: a drawer or part numbers")
		}
		for _, key := range []string{s.To, s.Drawer} {
			if _, err := d.drawer(key); key != "" && err != nil {
				return err
			}
		}
		if s.Do == Move && s.To == "" || s.Do == Redescribe && s.Drawer == "" {
			return fmt.Errorf("say which drawer")
		}
		return nil
	}
	p, err := d.parameter(s.Parameter)
	if err != nil {
		return err
	}
	switch s.Do {
	case Rename:
		return d.rename(p, s)
	case Retype:
		if s.Type == "" {
			return fmt.Errorf("say the new type of %q", s.Parameter)
		}
		p.Type, p.Of, p.Choices, p.AssumeUnit = s.Type, s.Of, s.Choices, s.AssumeUnit
		p.Deviation, p.Signless = p.Deviation && s.Type == Measure, p.Signless && s.Type == Measure
		if p.Type != Measure || !measure.UnitOf(p.Show, p.Of) {
			p.Show = ""
		}
		if _, ok := p.usualRange(p.Usual); !ok {
			p.Usual = ""
		}
		for i := range d.Drawers { // narrower choices and defaults of the old type mean nothing now
			for k := range d.Drawers[i].Parameters {
				if u := &d.Drawers[i].Parameters[k]; u.Key == s.Parameter {
					u.Choices, u.Default, u.Preferred = nil, "", u.Preferred && s.Type == Measure
					u.Usual, u.UsualIn = "", nil
				}
			}
		}
	case Unit:
		p.Show, p.AssumeUnit = s.Show, s.AssumeUnit
	case Split:
		return d.split(s)
	case Retire:
		return d.retire(s)
	default:
		return fmt.Errorf("there is no such step: use rename, retype, unit, split, retire, move or redescribe")
	}
	return nil
}

func (d *Document) rename(p *Parameter, s Step) error {
	if s.Label != "" && s.Label != p.Label {
		if !slices.Contains(p.Synonyms, p.Label) {
			p.Synonyms = append(p.Synonyms, p.Label) // the old name still finds it
		}
		p.Label = s.Label
	}
	if s.To == "" || s.To == s.Parameter {
		return nil
	}
	if _, err := d.parameter(s.To); err == nil {
		return fmt.Errorf("the dictionary has a parameter %q already", s.To)
	}
	p.Key = s.To
	swap := func(keys []string) {
		for i := range keys {
			if keys[i] == s.Parameter {
				keys[i] = s.To
			}
		}
	}
	for i := range d.Drawers {
		w := &d.Drawers[i]
		for k := range w.Parameters {
			if w.Parameters[k].Key == s.Parameter {
				w.Parameters[k].Key = s.To
			}
		}
		for _, one := range []*string{&w.Leading, &w.Case} {
			if *one == s.Parameter {
				*one = s.To
			}
		}
		for _, keys := range [][]string{w.Identity, w.Drawing, w.Designer, w.Columns} {
			swap(keys)
		}
		texts := []*string{&w.Description, &w.Name}
		for _, text := range w.Models.Names.Patterns() {
			texts = append(texts, text)
		}
		for _, text := range texts {
			if pat, err := ParsePattern(*text); err == nil && *text != "" {
				pat.rename(s.Parameter, s.To)
				*text = pat.String()
			}
		}
	}
	return nil
}

func (d *Document) split(s Step) error {
	if len(s.Into) == 0 {
		return fmt.Errorf("say which parameters take what")
	}
	for _, into := range s.Into {
		if _, err := d.parameter(into.Parameter); err != nil {
			return fmt.Errorf("%w: add it to the dictionary first", err)
		}
		if (into.Take == "before" || into.Take == "after") == (into.Mark == "") {
			return fmt.Errorf("before and after need a mark, and only they")
		}
	}
	used := false
	for i := range d.Drawers {
		w := &d.Drawers[i]
		at := slices.IndexFunc(w.Parameters, func(u Use) bool { return u.Key == s.Parameter })
		if at < 0 {
			continue
		}
		used = true
		for _, into := range s.Into {
			if !slices.ContainsFunc(w.Parameters, func(u Use) bool { return u.Key == into.Parameter }) {
				at++
				w.Parameters = slices.Insert(w.Parameters, at, Use{Key: into.Parameter})
			}
		}
	}
	if !used {
		return fmt.Errorf("no drawer uses %q", s.Parameter)
	}
	return nil
}

func (d *Document) retire(s Step) error {
	hit := false
	for i := range d.Drawers {
		w := &d.Drawers[i]
		if s.Drawer != "" && w.Key != s.Drawer {
			continue
		}
		is := func(k string) bool { return k == s.Parameter }
		before := len(w.Parameters)
		w.Parameters = slices.DeleteFunc(w.Parameters, func(u Use) bool { return u.Key == s.Parameter })
		hit = hit || len(w.Parameters) < before
		w.Identity, w.Drawing = slices.DeleteFunc(w.Identity, is), slices.DeleteFunc(w.Drawing, is)
		w.Designer, w.Columns = slices.DeleteFunc(w.Designer, is), slices.DeleteFunc(w.Columns, is)
	}
	if s.Drawer == "" {
		d.Parameters = slices.DeleteFunc(d.Parameters, func(p Parameter) bool { return p.Key == s.Parameter })
		return nil
	}
	if !hit {
		return fmt.Errorf("the drawer %q does not bring in %q itself: retire it where it comes from", s.Drawer, s.Parameter)
	}
	return nil
}

// unsplit retires what a split brought into drawers; the parameter that was split still has its values. fresh is false
// where a drawer had one of the new parameters before: which values it had, nobody could tell afterwards.
func (d Document) unsplit(s Step) (back []Step, fresh bool) {
	uses := func(w Drawer, key string) bool {
		return slices.ContainsFunc(w.Parameters, func(u Use) bool { return u.Key == key })
	}
	for _, into := range s.Into {
		for _, w := range d.Drawers {
			if uses(w, into.Parameter) {
				return nil, false
			}
			if uses(w, s.Parameter) {
				back = append(back, Step{Do: Retire, Parameter: into.Parameter, Drawer: w.Key})
			}
		}
	}
	return back, true
}

// Reverse returns the steps that take the given ones back, last first. ok is false where a step loses information: retiring
// drops values, and a retyped parameter may have lost its unit, its usual range or its choices in drawers. d is the document
// before the steps.
func (d Document) Reverse(steps []Step) (back []Step, ok bool) {
	before := d
	for _, s := range steps {
		switch s.Do {
		case Rename:
			p, err := d.parameter(s.Parameter)
			if err != nil {
				return nil, false
			}
			r := Step{Do: Rename, Parameter: s.Parameter, To: s.Parameter, Label: p.Label}
			if s.To != "" {
				r.Parameter = s.To
			}
			back = append(back, r)
		case Unit:
			p, err := d.parameter(s.Parameter)
			if err != nil {
				return nil, false
			}
			back = append(back, Step{Do: Unit, Parameter: s.Parameter, Show: p.Show, AssumeUnit: p.AssumeUnit})
		case Retype:
			p, err := d.parameter(s.Parameter)
			if err != nil {
				return nil, false
			}
			back = append(back, Step{Do: Retype, Parameter: s.Parameter, Type: p.Type, Of: p.Of, Choices: p.Choices, AssumeUnit: p.AssumeUnit})
		case Move:
			if s.Drawer == "" || len(s.Parts) == 0 {
				return nil, false // the caller names parts and their drawer before it asks
			}
			back = append(back, Step{Do: Move, Drawer: s.To, To: s.Drawer, Parts: s.Parts})
		case Redescribe:
			back = append(back, Step{Do: Redescribe, Drawer: s.Drawer})
		case Split:
			out, fresh := d.unsplit(s)
			if !fresh {
				return nil, false
			}
			back = append(back, out...)
		default:
			return nil, false
		}
		if after, err := d.Apply([]Step{s}); err == nil {
			d = after
		}
	}
	slices.Reverse(back)
	if undone, err := d.Apply(back); err != nil || !undone.saysTheSame(before) {
		return nil, false
	}
	return back, true
}

// saysTheSame compares documents but for the names that parameters had earlier, which go on finding them.
func (d Document) saysTheSame(as Document) bool {
	plain := func(d Document) []byte {
		d = d.Clone()
		for i := range d.Parameters {
			d.Parameters[i].Synonyms = nil
		}
		raw, _ := json.Marshal(d)
		return raw
	}
	return bytes.Equal(plain(d), plain(as))
}

// WithChoice is the document with another choice of a parameter; ok is false where the dictionary has no such choice. Drawers that narrow the
// choices take it in as well where they are named, with those around them. A blank choice, or one that is there, changes nothing.
func (d Document) WithChoice(parameter, choice string, drawers ...string) (out Document, ok bool) {
	out = d.Clone()
	i := slices.IndexFunc(out.Parameters, func(p Parameter) bool { return p.Key == parameter })
	if i < 0 || out.Parameters[i].Type != Choice {
		return out, false
	}
	if choice == "" {
		return out, true
	}
	add := func(to *[]string) {
		if !slices.Contains(*to, choice) {
			*to = append(*to, choice)
		}
	}
	add(&out.Parameters[i].Choices)
	byKey := map[string]*Drawer{}
	for i := range out.Drawers {
		byKey[out.Drawers[i].Key] = &out.Drawers[i]
	}
	seen := map[string]bool{}
	for _, key := range drawers {
		for w := byKey[key]; w != nil && !seen[w.Key]; w = byKey[w.Parent] {
			seen[w.Key] = true
			for k := range w.Parameters {
				if u := &w.Parameters[k]; u.Key == parameter && len(u.Choices) > 0 {
					add(&u.Choices)
				}
			}
		}
	}
	return out, true
}
