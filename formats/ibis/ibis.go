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
}

var keyword = regexp.MustCompile(`^\[([^\]]{1,60})\]\s*(.*)$`)

// types are what the model types of clause 6 mean for a pin.
var types = map[string]string{"input": model.Input, "output": model.Output, "i/o": model.Bidirectional, "3-state": model.TriState, "open_drain": model.OpenCollector,
	"open_sink": model.OpenCollector, "open_source": model.OpenEmitter, "i/o_open_drain": model.Bidirectional, "i/o_open_sink": model.Bidirectional, "terminator": model.Passive, "series": model.Passive}

// Read returns the components of the file. The type of a pin comes from the file's model of that name, where it has one.
func Read(raw []byte) ([]Component, error) {
	comment := "|"
	var out []Component
	modelTypes := map[string]string{}
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
			case "model":
				last = strings.ToLower(strings.Fields(value + " ?")[0])
			case "end":
				return finish(out, modelTypes)
			}
			continue
		}
		words := strings.Fields(text)
		if len(words) < 2 {
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
				modelTypes[last] = types[strings.ToLower(words[1])]
			}
		}
	}
	if err := s.Err(); err != nil {
		return nil, fmt.Errorf("line %d: %w", line+1, err)
	}
	return nil, fmt.Errorf("the file ends without [End]: it may be cut off")
}

func finish(out []Component, modelTypes map[string]string) ([]Component, error) {
	if len(out) == 0 {
		return nil, fmt.Errorf("the file has no [Component]")
	}
	for _, c := range out {
		for i := range c.Pins {
			p := &c.Pins[i]
			switch p.Type {
			case "power", "gnd":
				p.Type = model.PowerIn
			case "nc":
				p.Type = model.NotConnected
			default:
				p.Type = modelTypes[p.Type]
			}
		}
	}
	return out, nil
}
