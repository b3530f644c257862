package edif

import (
	"bytes"
	"fmt"
	"math"
	"strconv"
	"strings"

	"jollydrawer/core/model"
)

// Is says whether raw looks like EDIF, whatever its name is.
func Is(raw []byte) bool {
	head := strings.ToLower(strings.TrimLeft(string(raw[:min(len(raw), 400)]), " \t\r\n\ufeff"))
	return strings.HasPrefix(head, "(edif") && !strings.HasPrefix(head, "(edifversion")
}

// Cell is a symbol with the name of its cell.
type Cell struct {
	Name   string
	Symbol *model.Symbol
	Said   []string // what of it was not carried over, or read in a way that should be known
}

// File is what was read of a file.
type File struct {
	Cells []Cell
	Wrong []string // cells that were not read, and why
	Said  []string // of the file as a whole
}

// Read returns the symbols of all libraries in the file.
func Read(raw []byte) (out File, err error) {
	root, err := parse(bytes.TrimPrefix(raw, []byte("\ufeff")))
	if err != nil {
		return out, err
	}
	if root.key() != "edif" {
		return out, fmt.Errorf("line 1: the file's list is %q, not edif", root.key())
	}
	if v := root.child("edifversion"); v != nil && (v.arg(0) == nil || v.arg(0).text != "2") {
		return out, fmt.Errorf("line %d: only EDIF version 2 0 0 is read here", v.line)
	}
	if m := root.child("keywordmap"); m != nil {
		for _, k := range []string{"keywordalias", "keyworddefine"} {
			if d := m.child(k); d != nil {
				return out, fmt.Errorf("line %d: the file defines keywords of its own, which are not read here", d.line)
			}
		}
	}
	cells := 0
	for _, kind := range []string{"library", "external"} {
		root.all(kind, func(lib *node) {
			t := technologyOf(lib)
			lib.all("cell", func(c *node) {
				found, err := t.cells(c)
				if err == nil && len(found) == 0 {
					return
				}
				cells++
				if err != nil {
					out.Wrong = append(out.Wrong, fmt.Sprintf("line %d: cell %q: %v", c.line, name(c.arg(0)), err))
				}
				out.Cells = append(out.Cells, found...)
			})
		})
	}
	if cells == 0 {
		return out, fmt.Errorf("no cell of the file has a symbol")
	}
	return out, nil
}

// group is a figure group: how what belongs to it is drawn where it does not say so itself, in units of the file.
type group struct{ width, text float64 }

// technology is what a library says of its distances and figures.
type technology struct {
	unit    float64 // lengths of one unit of the file
	problem string  // why there is none
	groups  map[string]group
}

// technologyOf reads a library's distance scale and figure groups. Without a scale nothing says how large a unit is.
func technologyOf(lib *node) technology {
	t := technology{problem: "the library states no scale of distances: how large its symbols are cannot be told", groups: map[string]group{}}
	tech := lib.child("technology")
	tech.child("numberdefinition").all("scale", func(s *node) {
		of := s.child("unit")
		if of == nil || of.arg(0) == nil || !strings.EqualFold(of.arg(0).text, "distance") {
			return
		}
		a, okA := number(s.arg(0))
		b, okB := number(s.arg(1))
		unit := b / a * 1000 * float64(model.MM) // EDIF counts distances in metres (EIA-548 clause 6.3)
		switch {
		case !okA || !okB || a <= 0 || b <= 0:
			t.problem = "the library's scale is no pair of numbers above zero"
		case t.unit != 0 && t.unit != unit:
			t.problem = "the library states two different scales of distances"
		case t.unit == 0:
			t.unit, t.problem = unit, ""
		}
	})
	tech.all("figuregroup", func(g *node) {
		w, _ := number(g.child("pathwidth").arg(0))
		h, _ := number(g.child("textheight").arg(0))
		t.groups[ident(g.arg(0))] = group{w, h}
	})
	return t
}

// number reads 12, -4 or (e 254 -7).
func number(n *node) (float64, bool) {
	if n == nil {
		return 0, false
	}
	n.quiet()
	if n.key() == "e" && n.arg(0) != nil && n.arg(1) != nil {
		m, err1 := strconv.ParseInt(n.arg(0).text, 10, 64)
		x, err2 := strconv.Atoi(n.arg(1).text)
		if err1 != nil || err2 != nil || x > 12 || x < -30 {
			return 0, false
		}
		return float64(m) * math.Pow10(x), true
	}
	if n.list != nil {
		return 0, false
	}
	v, err := strconv.ParseInt(n.text, 10, 64)
	return float64(v), err == nil
}

// name reads an identifier, (rename id "shown") or (name id …). An identifier's leading & only guards a digit.
func name(n *node) string {
	if n == nil {
		return ""
	}
	n.quiet()
	switch n.key() {
	case "rename":
		if n.arg(1) == nil {
			return name(n.arg(0))
		}
		if n.arg(1).key() == "stringdisplay" {
			return name(n.arg(1).arg(0))
		}
		return name(n.arg(1))
	case "name", "array", "stringdisplay":
		return name(n.arg(0))
	}
	if n.list != nil {
		return ""
	}
	if n.quote {
		return n.text
	}
	return strings.TrimPrefix(n.text, "&")
}

// named says whether n is a name that is read here.
func named(n *node) bool {
	switch n.key() {
	case "rename":
		return n.arg(1) != nil && named(n.arg(0)) && named(n.arg(1))
	case "name", "array", "stringdisplay":
		return named(n.arg(0))
	}
	return n != nil && n.list == nil
}

// ident is the identifier that other places refer to.
func ident(n *node) string {
	if k := n.key(); k == "rename" || k == "name" || k == "array" {
		return ident(n.arg(0))
	}
	if n == nil || n.list != nil {
		return ""
	}
	return strings.ToLower(n.text)
}
