package bom

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jollydrawer/core/cabinet"
)

// What a heading says in brackets is a part of it: a quantity of ten boards is no quantity of one, a second maker is not the maker.
func TestAHeadingIsTakenForWhatItSaysInBracketsToo(t *testing.T) {
	cab, err := cabinet.New(cabinet.Starter())
	require.NoError(t, err)
	role := func(heading string) Column {
		t.Helper()
		got, err := FindColumns([]string{"RefDes", heading}, [][]string{{"R1", "q1 z"}, {"R2", "q2 z"}}, cab)
		require.NoError(t, err)
		return got[1]
	}
	for heading, want := range map[string]Role{
		"Qty (per board)": Quantity, "Qty (pcs)": Quantity, "Menge (pro Baugruppe)": Quantity, "Part number (manufacturer)": MPN, "Part number (supplier)": SupplierNumber, "Part number (internal)": Number, "Référence (fabricant)": MPN, "Hersteller (Manufacturer)": Manufacturer,
		"Description (internal)": Description, "Package (supplier)": Package, "Value (Ω)": Value, "Wert (Value)": Value,
		"Voltage (V)": Fact, "Tolerance (± %)": Fact, "Resistance (thermal)": "", "Voltage (V) drop": "", "Current (leakage)": "",
		"Board quantity": "", "Qty": Quantity, "Nominal value": Value, "Value (typ)": Value, "Typ. qty": "", "Minimum quantity": Remark, "MOQ": Remark, "Rev": Remark, "Voltage (max)": Fact, "Max. voltage": Fact,
	} {
		assert.Equal(t, want, role(heading).Role, heading)
	}
	for _, name := range []string{"Qty", "Menge", "Quantité", "数量", "Part number", "Teilenummer", "MPN", "Herstellernummer", "Manufacturer", "Fabricant", "Supplier", "Lieferant", "Order code", "Bestellnummer", "Value", "Wert"} {
		require.NotEmpty(t, role(name).Role, name)
		for _, limit := range []string{"min", "Max.", "minimum", "maximum"} {
			for _, heading := range []string{limit + " " + name, name + " " + limit, name + " (" + limit + ")"} {
				c := role(heading)
				assert.NotContains(t, []Role{role(name).Role, Fact}, c.Role, "%s: %s", heading, c.Because)
			}
		}
		for _, odd := range []string{"10 boards", "alternative", "2", "total", "old", "EUR", "€", "second source", "Ersatz", "backup", "替代"} {
			for _, around := range []string{"()", "[]", "{}", "（）"} {
				open, closed := string([]rune(around)[:1]), string([]rune(around)[1:])
				c := role(name + " " + open + odd + closed)
				assert.Empty(t, c.Role, "%s %s: %s", name, odd, c.Because)
				assert.NotEmpty(t, c.Because)
			}
		}
	}
}
