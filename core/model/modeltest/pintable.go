package modeltest

import (
	"fmt"

	"jollydrawer/core/model"
)

// PinTable is a pin table whose columns stand in any order, with headings of six languages and other columns between, and the pins that it
// was made from.
func (m Maker) PinTable() (table model.PinTable, want []model.ListedPin) {
	headings := map[string][]string{
		model.PinNumber: {"Pin", "Pin No.", "PIN#", "Ball", "Pad", "Nr.", "Anschluss", "Broche", "Patilla", "Piedino", "端子番号", "Number"},
		model.PinName:   {"Name", "Signal", "Pin name", "Function", "Bezeichnung", "Nom", "Nombre", "Nome", "信号名", "Symbol", "Mnemonic"},
		model.PinKind:   {"Type", "Direction", "DIR", "I/O", "Pin type", "Richtung", "Sens", "Dirección", "Direzione", "入出力"},
	}
	words := map[string][]string{model.Input: {"I", "input", "Eingang", "IN"}, model.Output: {"O", "output", "sortie"}, model.PowerIn: {"P", "power", "Versorgung", "Supply"}, model.Bidirectional: {"IO", "I/O", "bidirectional"}}
	types := []string{model.Input, model.Output, model.PowerIn, model.Bidirectional}
	n := 4 + m.IntN(40)
	grid := m.IntN(2) == 0
	type column struct {
		heading string
		cells   []string
	}
	one := func(of []string) string { return of[m.IntN(len(of))] }
	number, name, kind := column{heading: one(headings[model.PinNumber])}, column{heading: one(headings[model.PinName])}, column{heading: one(headings[model.PinKind])}
	remark, page := column{heading: one([]string{"Description", "Remarks", "Beschreibung", "Note"})}, column{heading: one([]string{"Page", "Rev.", "Voltage (V)"})}
	for i := range n {
		num := fmt.Sprint(i + 1)
		if grid {
			num = fmt.Sprintf("%c%d", 'A'+i/8, i%8+1)
		}
		signal := fmt.Sprintf("%s%d", one([]string{"PA", "~CS", "VDD", "D[", "TX_P", "GND", "VSYNC"}), i)
		k := types[m.IntN(4)]
		number.cells, name.cells, kind.cells = append(number.cells, num), append(name.cells, signal), append(kind.cells, one(words[k]))
		remark.cells = append(remark.cells, one([]string{"Connect to the supply of the board", "input to the second comparator of the set", "do not use this"}))
		page.cells = append(page.cells, fmt.Sprint(3+i/20))
		want = append(want, model.ListedPin{Number: num, Name: signal, Type: k, Line: i + 2})
	}
	columns := []column{number, name, kind, remark, page}
	m.Shuffle(len(columns), func(i, j int) { columns[i], columns[j] = columns[j], columns[i] })
	table = model.PinTable{FirstLine: 2, Rows: make([][]string, n)}
	for _, c := range columns {
		table.Headings = append(table.Headings, c.heading)
		for i := range n {
			table.Rows[i] = append(table.Rows[i], c.cells[i])
		}
	}
	return table, want
}
