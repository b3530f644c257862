// Package ibis reads the components and pin lists of IBIS files (ANSI/EIA-656): enough to lay them beside a symbol's pins.
// The electrical models of buffers are passed over.
package ibis

import (
	"bufio"
	"bytes"
	"fmt"
	"regexp"
	"strings"

	"jollydrawer/core/model"
)

// Is says whether raw looks like IBIS, whatever its name is.
func Is(raw []byte) bool {
	head := strings.ToLower(string(raw[:min(len(raw), 4096)]))
	return strings.Contains(head, "[ibis ver]")
}

// Component is a component of the file with its pins.
type Component struct {
	Name         string
	Manufacturer string
	Pins         []model.ListedPin
	Wrong        []string // what of its pins was not read, or is said twice
}

var keyword = regexp.MustCompile(`^\[([^\]]{1,60})\]\s*(.*)$`)

// types are what the model types of IBIS 7.2 clause 6 mean for a pin; those that are not here leave it open.
var types = map[string]string{"input": model.Input, "output": model.Output, "i/o": model.Bidirectional, "3-state": model.TriState, "open_drain": model.OpenCollector,
	"open_sink": model.OpenCollector, "open_source": model.OpenEmitter, "i/o_open_drain": model.Bidirectional, "i/o_open_sink": model.Bidirectional, "i/o_open_source": model.Bidirectional,
	"terminator": model.Passive, "series": model.Passive, "series_switch": model.Passive,
	"input_ecl": model.Input, "output_ecl": model.Output, "i/o_ecl": model.Bidirectional, "3-state_ecl": model.TriState,
	"input_diff": model.Input, "output_diff": model.Output, "i/o_diff": model.Bidirectional, "3-state_diff": model.TriState}

// Read returns the components of the file. The type of a pin comes from the file's model of that name, where it has one.
func Read(raw []byte) ([]Component, error) {
	comment := "|"
	var out []Component
	declared := map[string]string{}   // type by model
	selected := map[string][]string{} // models by selector
	in, last := "", ""
	s := bufio.NewScanner(bytes.NewReader(raw))
	s.Buffer(make([]byte, 64<<10), 1<<20)
	line := 0
	for s.Scan() {
		line++
		text := s.Text()
		if i := strings.Index(text, comment); i >= 0 {
			text = text[:i]
		}
		text = strings.TrimSpace(text)
		if m := keyword.FindStringSubmatch(text); m != nil {
			in = strings.ToLower(strings.Join(strings.FieldsFunc(m[1], func(r rune) bool { return r == ' ' || r == '_' }), " "))
			value := strings.TrimSpace(m[2])
			switch in {
			case "comment char":
				if len(value) > 0 {
					comment = value[:1]
				}
			case "component":
				if len(out) >= 1000 {
					return nil, fmt.Errorf("line %d: the file has more than 1,000 components", line)
				}
				out = append(out, Component{Name: value})
			case "manufacturer":
				if len(out) > 0 {
					out[len(out)-1].Manufacturer = value
				}
			case "model", "model selector":
				last = strings.ToLower(strings.Fields(value + " ?")[0])
			case "end":
				return finish(out, declared, selected)
			}
			continue
		}
		words := strings.Fields(text)
		if len(words) < 2 {
			if in == "pin" && len(words) == 1 && len(out) > 0 {
				c := &out[len(out)-1]
				c.Wrong = append(c.Wrong, fmt.Sprintf("line %d: the pin %s has no signal name", line, words[0]))
			}
			continue
		}
		switch in {
		case "pin":
			if len(out) == 0 {
				return nil, fmt.Errorf("line %d: a pin stands before the first [Component]", line)
			}
			c := &out[len(out)-1]
			if len(c.Pins) >= model.MostPins {
				return nil, fmt.Errorf("line %d: the component %q has more than %d pins", line, c.Name, model.MostPins)
			}
			p := model.ListedPin{Number: words[0], Name: words[1], Line: line}
			if len(words) > 2 {
				p.Type = strings.ToLower(words[2]) // the model's name until the file is read
			}
			c.Pins = append(c.Pins, p)
		case "model":
			if k := strings.ToLower(words[0]); k == "model_type" {
				declared[last] = strings.ToLower(words[1])
			}
		case "model selector":
			selected[last] = append(selected[last], strings.ToLower(words[0]))
		}
	}
	if err := s.Err(); err != nil {
		return nil, fmt.Errorf("line %d: %w", line+1, err)
	}
	return nil, fmt.Errorf("the file ends without [End]: it may be cut off")
}

// finish gives the pins their types: by the words of the form, by the model that a pin names, or by those that its selector offers where
// all of them are of one type.
func finish(out []Component, declared map[string]string, selected map[string][]string) ([]Component, error) {
	if len(out) == 0 {
		return nil, fmt.Errorf("the file has no [Component]")
	}
	for i := range out {
		c := &out[i]
		lines := map[string]int{}
		for k := range c.Pins {
			p := &c.Pins[k]
			if was, twice := lines[p.Number]; twice {
				c.Wrong = append(c.Wrong, fmt.Sprintf("line %d: the pin %s of %s stands in line %d too", p.Line, p.Number, c.Name, was))
			} else {
				lines[p.Number] = p.Line
			}
			p.Type = c.typeOf(p, declared, selected)
		}
		kept := c.Pins[:0]
		for _, p := range c.Pins { // of a pin that is said twice the first is kept, and said
			if lines[p.Number] == p.Line {
				kept = append(kept, p)
			}
		}
		c.Pins = kept
	}
	return out, nil
}

func (c *Component) typeOf(p *model.ListedPin, declared map[string]string, selected map[string][]string) string {
	of := p.Type
	switch of {
	case "power", "gnd":
		return model.PowerIn
	case "nc":
		return model.NotConnected
	case "":
		return ""
	}
	names := []string{of}
	if s := selected[of]; len(s) > 0 {
		names = s
	}
	found := map[string]bool{}
	for _, n := range names {
		t, ok := declared[n]
		if !ok {
			c.Wrong = append(c.Wrong, fmt.Sprintf("line %d: the model %q of pin %s is not in the file; its type was left open", p.Line, n, p.Number))
			return ""
		}
		if _, ok := types[t]; !ok {
			c.Wrong = append(c.Wrong, fmt.Sprintf("line %d: the type %q of the model of pin %s is not known; it was left open", p.Line, t, p.Number))
			return ""
		}
		found[types[t]] = true
	}
	if len(found) > 1 {
		c.Wrong = append(c.Wrong, fmt.Sprintf("line %d: pin %s can be of several types, as its model is selected; it was left open", p.Line, p.Number))
		return ""
	}
	return types[declared[names[0]]]
}
