package bom

import (
	"slices"
	"strings"

	"jollydrawer/core/headings"
)

// Skipped is a row of a BOM's file that is no line, and why.
type Skipped struct {
	Row  int    `json:"row"`
	Text string `json:"text" doc:"What stands in it"`
	Why  string `json:"why"`
}

// totals begin the rows under a list that count or add it up, in many languages, as headings.Plain writes them.
var totals = wordSet("total|totals|sum|grand total|sub total|subtotal|total parts|total quantity|total components|component count|number of parts|line count|end|end of list|end of bom|end of file|summe|gesamt|gesamtsumme|gesamtzahl|anzahl gesamt|zwischensumme|ende|somme|total général|sous total|fin|suma|totale|somma|fine|totaal|einde|totalt|summa|slut|i alt|razem|koniec|total geral|soma|fim|yhteensä|celkem|összesen|toplam|итого|всего|合計|合计|总计|総計")

// NoLine says why a row is no line of a BOM: its headings again, a title between lines, or a sum under them. A row that names a designator, a number or
// anything of a part is a line, whatever else it says. why is blank for a line.
func NoLine(cells []string, c Columns) (why string) {
	filled, same, first := 0, 0, -1
	for i, cell := range cells {
		if strings.TrimSpace(cell) == "" {
			continue
		}
		if first < 0 {
			first = i
		}
		filled++
		if i < len(c) && headings.Plain(cell) != "" && headings.Plain(cell) == headings.Plain(c[i].Heading) {
			same++
		}
	}
	if filled == 0 {
		return "it is blank"
	}
	if filled > 1 && same*2 > filled {
		return "the headings stand there again"
	}
	for _, col := range c {
		if col.At >= len(cells) || strings.TrimSpace(cells[col.At]) == "" {
			continue
		}
		switch {
		case col.Role == Designator && slices.ContainsFunc(ReadDesignators(cells[col.At], -1).List, func(d string) bool { return letterOf(d) != "" || strings.HasSuffix(d, "?") }):
			return ""
		case col.At == first, col.Role == Designator:
		case col.Meaning == Identity, col.Meaning == AFact:
			return ""
		}
	}
	text := strings.TrimSpace(cells[first])
	word := headings.Plain(strings.TrimRight(strings.TrimRight(text, "0123456789.,: "), ":= "))
	switch at := slices.IndexFunc(c, func(col Column) bool { return col.At == first }); {
	case totals[word]:
		return "it is a sum"
	case filled == 1 && (at < 0 || c[at].Role == Designator || c[at].Meaning == ACount || c[at].Meaning == NotUsed || c[at].Role == Remark):
		return "it is a title"
	}
	return ""
}
