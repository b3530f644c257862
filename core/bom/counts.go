package bom

import (
	"fmt"
	"regexp"
	"slices"
	"strconv"
	"strings"

	"golang.org/x/text/unicode/norm"
)

// MostPieces is the most pieces of a line that one board can have; more is a slip.
const MostPieces = 1_000_000

// Amount is what a line needs that is not counted in pieces: 0.3 m of wire, 2 g of paste.
type Amount struct {
	Number string // a decimal with a point
	Unit   string // its symbol, by ISO 80000
}

func (a Amount) String() string {
	if a.Unit == "" {
		return ""
	}
	return a.Number + " " + a.Unit
}

var (
	pieces  = regexp.MustCompile(`(?i)^(?:qty\.?|x|×)?\s*(.*?[0-9])\s*(?:pcs?|pieces?|pce|ea|each|off|no|nos|units?|stk|stück|st|pz|pzas?|uds?|unid|pièces?|pezzi|piezas?|x|×|個|个)?\.?$`)
	whole   = regexp.MustCompile(`^[0-9]+$`)
	nothing = regexp.MustCompile(`^([0-9]+)[.,](0+)$`)                 // 4.0, 4.000
	group   = regexp.MustCompile(`^[0-9]{1,3}([.,])[0-9]{3}$`)         // 1.250: thousands, or a part of one
	groups  = regexp.MustCompile(`^[0-9]{1,3}(?:([.,'’ ])[0-9]{3})+$`) // 1'250, 1.250.000
	power   = regexp.MustCompile(`^([0-9]+)(?:[.,]([0-9]+))?[eE]\+?([0-9]{1,2})$`)
	amount  = regexp.MustCompile(`^([0-9]+(?:[.,][0-9]+)?)\s*(\pL+[²2³3]?)\.?$`)
)

// amountUnits are the units of what is bought by length, area, mass or volume.
var amountUnits = map[string]string{"m": "m", "cm": "cm", "mm": "mm", "km": "km", "in": "in", "inch": "in", "inches": "in", "ft": "ft", "feet": "ft", "meter": "m", "metre": "m", "meters": "m", "metres": "m", "mètre": "m", "mètres": "m", "metro": "m", "metri": "m", "metros": "m",
	"g": "g", "mg": "mg", "kg": "kg", "gram": "g", "grams": "g", "gramm": "g", "grammes": "g", "oz": "oz", "l": "l", "L": "l", "ml": "ml", "mL": "ml", "cl": "cl", "liter": "l", "litre": "l", "m2": "m²", "m²": "m²", "cm2": "cm²", "cm²": "cm²", "mm2": "mm²", "mm²": "mm²", "cm3": "cm³", "cm³": "cm³"}

// Count is what a cell of a quantity was read as.
type Count struct {
	Pieces  int // -1: none
	Amount  Amount
	Problem string
}

// ReadCount reads the quantity of a line beside the number of its designators: whole pieces in the spellings of BOMs and workbooks, or an amount with a
// unit. Of what may be read in two ways ("1.000" is one or a thousand) the designators decide; where they do not, that is a problem.
func ReadCount(cell string, designators int) Count {
	s := strings.TrimSpace(strings.ReplaceAll(norm.NFKC.String(cell), "\u00a0", " "))
	if s == "" {
		return Count{Pieces: -1}
	}
	if m := amount.FindStringSubmatch(s); m != nil {
		unit, ok := amountUnits[m[2]]
		if !ok && len(m[2]) > 2 { // a word; of signs the capitals count
			unit, ok = amountUnits[strings.ToLower(m[2])]
		}
		if ok {
			number := strings.Replace(m[1], ",", ".", 1)
			if group.MatchString(m[1]) {
				return Count{Pieces: -1, Problem: fmt.Sprintf("the quantity %q may be %s or %s %s: write it without a mark, or with two decimals", cell, strings.NewReplacer(",", "", ".", "").Replace(m[1]), number, unit)}
			}
			if strings.Trim(number, "0.") == "" {
				return Count{Pieces: -1, Problem: fmt.Sprintf("the quantity %q is nothing: say how much is needed, or that the line is not fitted", cell)}
			}
			return Count{Pieces: -1, Amount: Amount{number, unit}}
		}
	}
	no := Count{Pieces: -1, Problem: fmt.Sprintf("the quantity %q is no whole number", cell)}
	m := pieces.FindStringSubmatch(s)
	if m == nil {
		return no
	}
	switch n := m[1]; {
	case whole.MatchString(n):
		return counted(cell, n)
	case nothing.MatchString(n):
		m := nothing.FindStringSubmatch(n)
		one, thousands := counted(cell, m[1]), counted(cell, m[1]+m[2])
		switch {
		case len(m[2]) != 3 || len(m[1]) > 3 || one.Pieces == 0:
			return one
		case one.Pieces == designators:
			return one
		case thousands.Pieces == designators:
			return thousands
		}
		return Count{Pieces: -1, Problem: fmt.Sprintf("the quantity %q may be %s or %s%s: write it without a mark", cell, m[1], m[1], m[2])}
	case group.MatchString(n):
		if c := counted(cell, strings.NewReplacer(".", "", ",", "").Replace(n)); c.Pieces == designators {
			return c
		}
		return no
	case groups.MatchString(n) && uniform(n):
		return counted(cell, strings.NewReplacer(".", "", ",", "", "'", "", "’", "", " ", "").Replace(n))
	case power.MatchString(n):
		m := power.FindStringSubmatch(n)
		up, _ := strconv.Atoi(m[3])
		if decimals := strings.TrimRight(m[2], "0"); len(decimals) <= up && up <= 9 {
			return counted(cell, m[1]+decimals+strings.Repeat("0", up-len(decimals)))
		}
	}
	return no
}

// uniform says whether all groups of a number are parted by one mark.
func uniform(n string) bool {
	marks := strings.FieldsFunc(n, func(r rune) bool { return r >= '0' && r <= '9' })
	return !slices.ContainsFunc(marks, func(m string) bool { return m != marks[0] })
}

func counted(cell, digits string) Count {
	n, err := strconv.Atoi(digits)
	if err != nil || n > MostPieces {
		return Count{Pieces: -1, Problem: fmt.Sprintf("the quantity %q is more than the %d pieces that a line of one board can have", cell, MostPieces)}
	}
	return Count{Pieces: n}
}
