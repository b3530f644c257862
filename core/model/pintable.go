package model

import (
	"fmt"
	"regexp"
	"strings"
)

// ListedPin is a pin as a list names it: a pin table, an IBIS file, a datasheet. Type is blank where the list does not tell.
type ListedPin struct {
	Number string `json:"number"`
	Name   string `json:"name,omitempty"`
	Type   string `json:"type,omitempty"`
	Unit   string `json:"unit,omitempty"`
	Side   string `json:"side,omitempty"` // left, right, top or bottom, where the table says so
	Line   int    `json:"line,omitempty"`
}

// columnWords say which words in a heading mean which column. The first column that fits a meaning has it.
var columnWords = []struct {
	meaning string
	words   []string
}{
	{"type", []string{"type", "direction", "dir", "electrical", "io", "i/o", "kind", "function type", "pin type", "class"}},
	{"unit", []string{"unit", "group", "bank", "section", "block", "gate", "part"}},
	{"side", []string{"side", "position", "edge"}},
	{"name", []string{"name", "signal", "function", "label", "pin name", "symbol", "mnemonic", "description", "net"}},
	{"number", []string{"number", "no", "no.", "nr", "nr.", "#", "pin", "pin #", "pin no", "pin number", "ball", "pad", "terminal", "lead", "pos"}},
}

var notWord = regexp.MustCompile(`[^a-z0-9#/]+`)

// PinColumns says which column of a table holds what, by its headings; -1 for what is not there. It needs a number column
// and a name column to be a pin table.
func PinColumns(headings []string) (columns map[string]int, ok bool) {
	columns = map[string]int{"number": -1, "name": -1, "type": -1, "unit": -1, "side": -1}
	plain := make([]string, len(headings))
	for i, h := range headings {
		plain[i] = strings.TrimSpace(notWord.ReplaceAllString(strings.ToLower(h), " "))
	}
	taken := map[int]bool{}
	for _, exact := range []bool{true, false} {
		for _, m := range columnWords {
			for i, h := range plain {
				if columns[m.meaning] >= 0 || taken[i] || h == "" {
					continue
				}
				for _, w := range m.words {
					w = strings.TrimSpace(notWord.ReplaceAllString(w, " "))
					if w != "" && (h == w || !exact && (strings.HasSuffix(h, " "+w) || strings.HasPrefix(h, w+" "))) {
						columns[m.meaning], taken[i] = i, true
						break
					}
				}
			}
		}
	}
	// "Pin" beside "Number" is the name of it
	if columns["number"] >= 0 && columns["name"] < 0 {
		for i, h := range plain {
			if !taken[i] && (h == "pin" || h == "pins") {
				columns["name"] = i
			}
		}
	}
	return columns, columns["number"] >= 0 && columns["name"] >= 0
}

// typeWords are the ways people write a pin's type.
var typeWords = map[string]string{
	"i": Input, "in": Input, "input": Input, "di": Input, "ai": Input, "analog input": Input, "digital input": Input, "clk": Input, "clock": Input,
	"o": Output, "out": Output, "output": Output, "do": Output, "ao": Output, "analog output": Output, "digital output": Output, "push pull": Output,
	"io": Bidirectional, "i/o": Bidirectional, "b": Bidirectional, "bi": Bidirectional, "bidir": Bidirectional, "bidirectional": Bidirectional, "inout": Bidirectional, "dio": Bidirectional, "aio": Bidirectional, "input/output": Bidirectional,
	"p": PowerIn, "pwr": PowerIn, "power": PowerIn, "s": PowerIn, "supply": PowerIn, "power in": PowerIn, "power input": PowerIn, "gnd": PowerIn, "g": PowerIn, "ground": PowerIn, "pi": PowerIn,
	"po": PowerOut, "power out": PowerOut, "power output": PowerOut, "regulator output": PowerOut,
	"oc": OpenCollector, "od": OpenCollector, "open collector": OpenCollector, "open drain": OpenCollector, "o/d": OpenCollector,
	"oe": OpenEmitter, "open emitter": OpenEmitter, "open source": OpenEmitter,
	"z": TriState, "tri state": TriState, "tristate": TriState, "3 state": TriState, "three state": TriState, "hi z": TriState,
	"nc": NotConnected, "n/c": NotConnected, "no connect": NotConnected, "not connected": NotConnected, "dnc": NotConnected, "do not connect": NotConnected,
	"passive": Passive, "pas": Passive, "a": Passive, "analog": Passive, "rf": Passive,
}

// PinType reads a word for a pin's type; false where it means nothing known.
func PinType(s string) (string, bool) {
	t := strings.TrimSpace(notWord.ReplaceAllString(strings.ToLower(s), " "))
	if t == "" {
		return "", true
	}
	out, ok := typeWords[t]
	return out, ok
}

var (
	groundName = regexp.MustCompile(`(?i)^(a|d|p|s|agnd|dgnd|pgnd)?(gnd|vss|vee|ground|ep|epad|thermal)[a-z0-9_]*$|^v-$|^0v$`)
	supplyName = regexp.MustCompile(`(?i)^(a|d|p|io)?(vcc|vdd|vin|vbat|vbus|vs|vref|avcc|dvdd|vddio|vddq|vpp|vsup)[a-z0-9_+]*$|^v\+$|^\+?[0-9]+v[0-9]*$`)
	noName     = regexp.MustCompile(`(?i)^(nc|n/c|dnc|n\.c\.|no[ _-]?connect)[0-9]*$`)
)

// GuessType proposes the type of a pin from its name, for lists that give none: only what names do not leave open.
func GuessType(name string) string {
	switch {
	case groundName.MatchString(name), supplyName.MatchString(name):
		return PowerIn
	case noName.MatchString(name):
		return NotConnected
	}
	return ""
}

// ReadPins takes the pins out of the rows of a table whose columns are known. Several numbers in one cell are several pins
// of one name. What is wrong with a row is said with its line.
func ReadPins(columns map[string]int, rows [][]string, firstLine int) (pins []ListedPin, wrong []string) {
	cell := func(row []string, key string) string {
		if i := columns[key]; i >= 0 && i < len(row) {
			return strings.Join(strings.Fields(row[i]), " ")
		}
		return ""
	}
	for i, row := range rows {
		line := firstLine + i
		numbers, name := cell(row, "number"), cell(row, "name")
		if numbers == "" && name == "" {
			continue
		}
		if numbers == "" {
			wrong = append(wrong, fmt.Sprintf("line %d: the pin %q has no number", line, clip(name)))
			continue
		}
		kind, ok := PinType(cell(row, "type"))
		if !ok {
			wrong = append(wrong, fmt.Sprintf("line %d: the type %q of pin %s is not known; it was left open", line, clip(cell(row, "type")), clip(numbers)))
		}
		if kind == "" {
			kind = GuessType(name)
		}
		if kind == PowerIn && strings.Contains(strings.ToLower(cell(row, "type")), "output") {
			kind = PowerOut
		}
		side := strings.ToLower(cell(row, "side"))
		if side != "left" && side != "right" && side != "top" && side != "bottom" {
			side = ""
		}
		for _, n := range strings.FieldsFunc(numbers, func(r rune) bool { return r == ',' || r == ';' || r == ' ' || r == '/' }) {
			if len(pins) >= MostPins {
				return pins, append(wrong, fmt.Sprintf("line %d: the table has more than %d pins; the rest was not read", line, MostPins))
			}
			if len(n) > 40 || len(name) > 120 {
				wrong = append(wrong, fmt.Sprintf("line %d: the pin number or name is longer than 120 characters", line))
				continue
			}
			pins = append(pins, ListedPin{Number: n, Name: name, Type: kind, Unit: cell(row, "unit"), Side: side, Line: line})
		}
	}
	return pins, wrong
}
