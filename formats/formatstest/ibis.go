package formatstest

import (
	"fmt"
	"iter"
	"maps"
	"slices"
	"strings"

	"jollydrawer/core/measure/measuretest"
	"jollydrawer/core/model"
)

// IBIS writes files of the pins of components (ANSI/EIA-656) as another program might.
type IBIS struct{ draws *measuretest.Draws }

// NewIBIS is a way of writing, from a seed.
func NewIBIS(seed uint64) *IBIS {
	return &IBIS{&measuretest.Draws{State: (seed + 1) * 0xd1342543de82ef95}}
}

// ibisTypes are ways to write a model's type.
var ibisTypes = map[string][]string{model.Input: {"Input", "input", "Input_ECL", "Input_diff"}, model.Output: {"Output", "OUTPUT", "Output_ECL"}, model.Bidirectional: {"I/O", "i/o", "I/O_open_drain"},
	model.TriState: {"3-state", "3-State"}, model.OpenCollector: {"Open_drain", "open_sink"}, model.Passive: {"Terminator", "Series"}}

// File is a file with one to three components, and what its pins are: by component, number, name and type.
func (m *IBIS) File() (raw []byte, want []string) {
	pick := func(all ...string) string { return all[m.draws.IntN(len(all))] }
	blank := func() string { return pick(" ", "  ", "\t", "     ") }
	comment := "|"
	note := func() string { return pick("", "", " "+comment+" a remark with [Pin] in it") }
	var b strings.Builder
	line := func(form string, args ...any) {
		b.WriteString(fmt.Sprintf(form, args...) + note() + pick("\n", "\n", "\r\n", "\n"+comment+"\n"))
	}
	keyword := func(name string) string {
		name = strings.ReplaceAll(name, " ", pick(" ", "_"))
		return "[" + pick(name, strings.ToUpper(name), strings.ToLower(name)) + "]"
	}
	line("%s%s5.1", keyword("IBIS Ver"), blank())
	if m.draws.IntN(3) == 0 {
		comment = "#"
		b.WriteString("[Comment Char] #_char\n")
	}
	line("%s%smade.ibs", keyword("File name"), blank())
	types := []string{model.Input, model.Output, model.Bidirectional, model.TriState, model.OpenCollector, model.Passive}
	models := map[string]string{} // type by name
	selectors := map[string]string{}
	for c := range 1 + m.draws.IntN(3) {
		name := fmt.Sprintf("TERN%d", c+1)
		line("%s%s%s", keyword("Component"), blank(), name)
		line("%s%sCurlew Semiconductor", keyword("Manufacturer"), blank())
		line("%s", keyword("Package"))
		line("R_pkg%s0.1%s0.05%s0.2", blank(), blank(), blank())
		six := m.draws.IntN(2) == 0
		line("%s%ssignal_name%smodel_name%s", keyword("Pin"), blank(), blank(), map[bool]string{true: " R_pin L_pin C_pin"}[six])
		for p := range 2 + m.draws.IntN(20) {
			number, signal := fmt.Sprint(p+1), fmt.Sprintf("%s%d", pick("PA", "nCS", "D[", "TX_P", "VDD_OK", "VSENSE"), p)
			if c == 1 {
				number = fmt.Sprintf("%c%d", 'A'+p/4, p%4+1)
			}
			of, is := "", ""
			switch m.draws.IntN(8) {
			case 0:
				of, is = "POWER", model.PowerIn
			case 1:
				of, is = "GND", model.PowerIn
			case 2:
				of, is = "NC", model.NotConnected
			default:
				is = types[m.draws.IntN(len(types))]
				of = fmt.Sprintf("buf%d_%d", c, p)
				if m.draws.IntN(4) == 0 {
					selectors["sel"+of] = of
					models[of], of = is, "sel"+of
				} else {
					models[of] = is
				}
			}
			rest := ""
			if six {
				rest = pick("  0.1 1nH 2pF", "", " NA NA NA")
			}
			line("%s%s%s%s%s%s%s", pick("", "  "), number, blank(), signal, blank(), of, rest)
			want = append(want, strings.Join([]string{name, number, signal, is}, " "))
		}
		if m.draws.IntN(3) == 0 {
			line("%s inv_pin vdiff tdelay_typ", keyword("Diff Pin"))
			line("1 2 150mV 0")
		}
	}
	for s, of := range sorted(selectors) {
		line("%s%s%s", keyword("Model Selector"), blank(), s)
		line("%s%sthe fast one", of, blank())
	}
	for name, is := range sorted(models) {
		line("%s%s%s", keyword("Model"), blank(), name)
		line("Model_type%s%s", blank(), ibisTypes[is][m.draws.IntN(len(ibisTypes[is]))])
		line("C_comp%s5pF%s4pF%s6pF", blank(), blank(), blank())
		if m.draws.IntN(2) == 0 {
			line("%s", keyword("Pulldown"))
			line("-5.0V -40.0m -34.0m -45.0m")
		}
	}
	line("%s", keyword("End"))
	return []byte(b.String()), want
}

// sorted goes over a map in the order of its keys, so that a seed gives the same file again.
func sorted(m map[string]string) iter.Seq2[string, string] {
	return func(yield func(string, string) bool) {
		for _, k := range slices.Sorted(maps.Keys(m)) {
			if !yield(k, m[k]) {
				return
			}
		}
	}
}
