package ipc2581

import (
	"bytes"
	"encoding/binary"
	"encoding/xml"
	"errors"
	"fmt"
	"io"
	"regexp"
	"sort"
	"strings"
	"unicode/utf16"

	"jollydrawer/formats/said"

	"golang.org/x/net/html/charset"
)

var opens = regexp.MustCompile(`<([A-Za-z_][\w.-]*:)?IPC-2581[\s>/]`)

// Is says whether raw looks like IPC-2581, whatever its name is.
func Is(raw []byte) bool {
	head, _ := decoded(raw[:min(len(raw)&^1, 8192)])
	return opens.Match(head[:min(len(head), 4096)])
}

// decoded returns the bytes of a file in UTF-16, with a mark of its order or without, as UTF-8; wide says whether it was.
func decoded(raw []byte) (out []byte, wide bool) {
	var order binary.ByteOrder
	switch {
	case bytes.HasPrefix(raw, []byte{0xff, 0xfe}):
		order, raw = binary.LittleEndian, raw[2:]
	case bytes.HasPrefix(raw, []byte{0xfe, 0xff}):
		order, raw = binary.BigEndian, raw[2:]
	case bytes.HasPrefix(raw, []byte{'<', 0}):
		order = binary.LittleEndian
	case bytes.HasPrefix(raw, []byte{0, '<'}):
		order = binary.BigEndian
	default:
		return bytes.TrimPrefix(raw, []byte("\ufeff")), false
	}
	units := make([]uint16, len(raw)/2)
	for i := range units {
		units[i] = order.Uint16(raw[2*i:])
	}
	return []byte(string(utf16.Decode(units))), true
}

const (
	maxDepth    = 60
	maxElements = 3_000_000
)

// attribute is one attribute of an element, and whether it was read.
type attribute struct {
	name, value string
	read        bool
}

// element is one element of the parts of the file that are read. It keeps account of what of it was read, so that what was not can be
// said: a reader that does not know an attribute or a child cannot lose it in silence.
type element struct {
	name  string
	attrs []attribute
	kids  []*element
	text  bool // it has text of its own, which no element here reads
	line  int
	read  bool
}

// attr returns an attribute, which is read with that; blank where it is not there.
func (e *element) attr(name string) string {
	v, _ := e.lookup(name)
	return v
}

func (e *element) lookup(name string) (string, bool) {
	if e == nil {
		return "", false
	}
	for i := range e.attrs {
		if a := &e.attrs[i]; a.name == name {
			a.read = true
			return a.value, true
		}
	}
	return "", false
}

// child returns the first child of a name, which is read with that.
func (e *element) child(name string) *element {
	if e != nil {
		for _, k := range e.kids {
			if k.name == name {
				k.read = true
				return k
			}
		}
	}
	return nil
}

// all calls f for each child of a name.
func (e *element) all(name string, f func(*element)) {
	if e == nil {
		return
	}
	for _, k := range e.kids {
		if k.name == name {
			k.read = true
			f(k)
		}
	}
}

// find calls f for each element of a name below e, but not for those within one another.
func (e *element) find(name string, f func(*element)) {
	if e == nil {
		return
	}
	for _, k := range e.kids {
		if k.name == name {
			k.read = true
			f(k)
		} else {
			k.find(name, f)
		}
	}
}

// unread names what of e nobody read, with its lines, leaving out what says nothing of the drawing.
func (e *element) unread() (out []string) {
	for _, a := range e.attrs {
		if !a.read && !empty[e.name+"."+a.name] && !empty["."+a.name] {
			out = append(out, fmt.Sprintf("line %d: %s=%q of %s", e.line, a.name, clip(a.value), e.name))
		}
	}
	if e.text {
		out = append(out, fmt.Sprintf("line %d: a text within %s", e.line, e.name))
	}
	for _, k := range e.kids {
		switch {
		case empty[k.name]:
		case !k.read:
			out = append(out, fmt.Sprintf("line %d: %s in %s", k.line, k.name, e.name))
		default:
			out = append(out, k.unread()...)
		}
	}
	return out
}

// empty are attributes ("Element.attribute", or "." for any element) and elements that say nothing of where copper, holes, mask, paste or
// outlines are: how a design tool shows them, and names that only refer within the file.
var empty = map[string]bool{
	"ColorRef": true, "Color": true, "SpanRef": true,
	"PadstackHoleDef.name": true, "SlotCavity.name": true, "PadstackPadDef.comment": true, "PadStackDef.comment": true, "Pad.comment": true,
	"Pin.electricalType": true, "Pin.mountType": true, "Pin.name": true, "PinRef.title": true, "PinRef.componentRef": true,
	"Package.type": true, "Package.pinOne": true, "Package.pinOneOrientation": true,
	"LineDesc.lineEnd": true, "LineDesc.lineProperty": true, "EntryLineDesc.id": true, "EntryFillDesc.id": true, "EntryStandard.id": true, "EntryUser.id": true,
	"Text.fontSize": true, "FontRef": true, "FontDef": true, "Marking.comment": true,
}

func clip(s string) string {
	s = said.Printable(s)
	if r := []rune(s); len(r) > 40 {
		return string(r[:40]) + "…"
	}
	return s
}

// skipped are sections that hold boards and not packages, and can be huge. What of them there is, is counted.
var skipped = map[string]bool{"LayerFeature": true, "LogicalNet": true, "PhyNetGroup": true, "Component": true, "Bom": true, "Avl": true, "HistoryRecord": true, "LogisticHeader": true}

// tree reads the XML but for sections that are skipped. A document type is refused: no such file needs one, and entities are how such files do harm. passed counts the
// sections that were passed over.
func tree(raw []byte, skipped map[string]bool) (root *element, passed map[string]int, err error) {
	raw, wide := decoded(raw)
	d := xml.NewDecoder(bytes.NewReader(raw))
	d.CharsetReader = charset.NewReaderLabel
	if wide { // it is UTF-8 by now, whatever its declaration says
		d.CharsetReader = func(_ string, in io.Reader) (io.Reader, error) { return in, nil }
	}
	top := &element{}
	stack := []*element{top}
	passed = map[string]int{}
	count := 0
	for {
		t, err := d.Token()
		if errors.Is(err, io.EOF) {
			break
		}
		line, _ := d.InputPos()
		if err != nil {
			return nil, nil, noXML(line, err)
		}
		switch t := t.(type) {
		case xml.Directive:
			return nil, nil, fmt.Errorf("line %d: it declares a document type, which is not read here because of what entities can do", line)
		case xml.StartElement:
			if count++; count > maxElements {
				return nil, nil, fmt.Errorf("line %d: the file has more than %d elements", line, maxElements)
			}
			if len(stack) > maxDepth {
				return nil, nil, fmt.Errorf("line %d: the elements are nested more than %d deep", line, maxDepth)
			}
			if skipped[t.Name.Local] {
				passed[t.Name.Local]++
				if err := d.Skip(); err != nil {
					return nil, nil, noXML(line, err)
				}
				continue
			}
			e := &element{name: t.Name.Local, line: line, attrs: make([]attribute, 0, len(t.Attr))}
			for _, a := range t.Attr {
				if a.Name.Space != "" || a.Name.Local == "xmlns" { // of namespaces and schemas
					continue
				}
				e.attrs = append(e.attrs, attribute{name: a.Name.Local, value: a.Value})
			}
			in := stack[len(stack)-1]
			in.kids = append(in.kids, e)
			stack = append(stack, e)
		case xml.CharData:
			if len(bytes.TrimSpace(t)) > 0 {
				stack[len(stack)-1].text = true
			}
		case xml.EndElement:
			stack = stack[:len(stack)-1]
		}
	}
	if len(top.kids) != 1 || top.kids[0].name != "IPC-2581" {
		return nil, nil, fmt.Errorf("the file's root is not IPC-2581")
	}
	return top.kids[0], passed, nil
}

func noXML(line int, err error) error {
	var syntax *xml.SyntaxError
	switch {
	case errors.As(err, &syntax) && syntax.Msg == "unexpected EOF", errors.Is(err, io.ErrUnexpectedEOF), errors.Is(err, io.EOF):
		return fmt.Errorf("line %d: the file ends within an element", line)
	case errors.As(err, &syntax):
		return fmt.Errorf("line %d: it is no XML: %s", syntax.Line, said.Printable(syntax.Msg))
	}
	return fmt.Errorf("line %d: it is no XML: %s", line, said.Printable(err.Error()))
}

// sections says what was passed over, as one sentence.
func sections(passed map[string]int) []string {
	if len(passed) == 0 {
		return nil
	}
	var all []string
	for name, n := range passed {
		all = append(all, fmt.Sprintf("%d %s", n, name))
	}
	sort.Strings(all)
	return []string{"Sections about boards, not packages, were passed over: " + strings.Join(all, ", ") + "."}
}
