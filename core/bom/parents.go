package bom

import (
	"strings"

	"jollydrawer/core/headings"
)

// A file may say of each line what it is part of, instead of how deep it stands: a column names the number, item or designator of the sub-assembly's own row.

// parentNames head columns that name what a line is part of, in five languages.
var parentNames = wordSet("parent|parent item|parent no|parent number|parent part|parent part number|parent assembly|parent line|parent id|parent ref|next assembly|next higher assembly|next higher level|nha|used in assembly|member of|belongs to|part of|" +
	"übergeordnet|übergeordnete baugruppe|übergeordnete position|oberbaugruppe|vater|vaterteil|gehört zu|parent article|ensemble parent|ensemble supérieur|article parent|conjunto superior|conjunto padre|padre|articulo padre|assieme superiore|articolo padre|codice padre")

// naming are the columns by which a row can be named: its number, item or designator.
func naming(c Columns, but int) (out []int) {
	for _, col := range c {
		p := headings.Plain(col.Heading)
		if col.At != but && (col.Role == Number || col.Role == MPN || col.Role == Designator || col.Role == "" || outlineNames[p]) {
			out = append(out, col.At)
		}
	}
	return out
}

// rowsNamed finds the rows that each cell of some columns names.
func rowsNamed(rows [][]string, columns []int) map[string][]int {
	out := map[string][]int{}
	for i, row := range rows {
		seen := map[string]bool{}
		for _, at := range columns {
			if at >= len(row) {
				continue
			}
			if key := strings.ToLower(levelCell(row[at])); key != "" && !seen[key] {
				seen[key] = true
				out[key] = append(out[key], i)
			}
		}
	}
	return out
}

// namesRows counts the cells of a column that name another row, and those that are filled.
func namesRows(c Columns, sample [][]string, at int) (named, filled int) {
	rows := rowsNamed(sample, naming(c, at))
	for i, cell := range cellsAt(sample, at) {
		if key := strings.ToLower(levelCell(cell)); key != "" {
			filled++
			if is := rows[key]; len(is) > 0 && (len(is) > 1 || is[0] != i) {
				named++
			}
		}
	}
	return named, filled
}

// byParents nests lines by what they say they are part of. A line that is part of itself by way of others is asked about, and is taken for one of the board.
func (n *nesting) byParents(c Columns, at int) {
	rows := make([][]string, len(n.lines))
	for i := range n.lines {
		rows[i] = n.lines[i].Cells
	}
	named := rowsNamed(rows, naming(c, at))
	above := make([]int, len(n.lines))
	for i := range n.lines {
		above[i] = -1
		cell := ""
		if at < len(rows[i]) {
			cell = strings.TrimSpace(rows[i][at])
		}
		key := strings.ToLower(levelCell(cell))
		switch is := named[key]; {
		case key == "":
		case len(is) == 0:
			n.lines[i].unclear("no row is %q: the line is taken for a part of the board itself", clipped(cell))
		case len(is) > 1:
			n.lines[i].unclear("%q stands in rows %d and %d, and it is part of one of them or of both", clipped(cell), n.lines[is[0]].Row, n.lines[is[1]].Row)
		default:
			above[i] = is[0]
		}
	}
	const fresh, open, done = 0, 1, 2
	state := make([]int, len(n.lines))
	for start := range n.lines {
		var way []int // from a line up to one whose place is known
		i := start
		for i >= 0 && state[i] == fresh {
			state[i] = open
			way = append(way, i)
			i = above[i]
		}
		if i >= 0 && state[i] == open {
			n.lines[i].unclear("it is part of itself, by way of row %d", n.lines[above[i]].Row)
			above[i] = -1
		}
		for k := len(way) - 1; k >= 0; k-- {
			at := way[k]
			if state[at] = done; above[at] >= 0 {
				n.lines[at].Level = n.lines[above[at]].Level + 1
				n.under(at, above[at])
			} else {
				n.lines[at].Level = 1
			}
		}
	}
}
