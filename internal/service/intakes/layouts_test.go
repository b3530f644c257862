package intakes_test

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jollydrawer/core/crosswalk"
	"jollydrawer/core/intake"
	"jollydrawer/internal/service/housetest"
	"jollydrawer/internal/wire"
)

// quayLayouts are files of one supplier in three layouts, with how each is mapped.
var quayLayouts = []struct {
	name, text string
	changes    []crosswalk.Change
}{
	{"resistors.csv", "MPN;Maker;Family;Ohms;Tol;Size;Text\nQ-1;Tidewright;R;4k7;1%;0805;x\nQ-2;Tidewright;R;8k2;1%;0603;x\n", []crosswalk.Change{
		{Take: map[string]string{"mpn": "MPN", "manufacturer": "Maker", "kind": "Family"}}, {Kinds: map[string]string{"R": "chip-resistors"}},
		{Rule: &crosswalk.Rule{From: "Ohms", To: "resistance"}}, {Rule: &crosswalk.Rule{From: "Tol", To: "tolerance"}}, {Rule: &crosswalk.Rule{From: "Size", To: "case"}}, {Unused: []string{"Text"}}}},
	{"capacitors.csv", "Part;Maker;Type;Farads;Tol;Volt;Diel\nC-1;Kelpline;MLCC;100n;10%;50V;X7R\nC-2;Kelpline;MLCC;10n;5%;25V;X5R\n", []crosswalk.Change{
		{Take: map[string]string{"mpn": "Part", "manufacturer": "Maker", "kind": "Type"}}, {Kinds: map[string]string{"MLCC": "ceramic-capacitors"}},
		{Rule: &crosswalk.Rule{From: "Farads", To: "capacitance"}}, {Rule: &crosswalk.Rule{From: "Tol", To: "tolerance"}}, {Rule: &crosswalk.Rule{From: "Volt", To: "voltage-rating"}}, {Rule: &crosswalk.Rule{From: "Diel", To: "dielectric"}}}},
	{"prices.csv", "Order;MPN;Maker;Price 1;Price 100;Stock\nO-1;Q-1;Tidewright;0,10;0,02;5000\nO-2;C-1;Kelpline;0,20;0,05;900\n", []crosswalk.Change{
		{Take: map[string]string{"mpn": "MPN", "manufacturer": "Maker", "supplierNumber": "Order"}}, {Unused: []string{"Price 1", "Price 100", "Stock"}}}},
}

// Files of one supplier in several layouts, in any order and twice: none spoils what was said about another, and the second time nothing
// changes.
func TestLayoutsOfOneSupplierKeepApart(t *testing.T) {
	for _, order := range [][]int{{0, 1, 2}, {2, 0, 1}, {1, 2, 0}} {
		h := housetest.Open(t)
		open := func(n int) wire.Intake {
			f, err := h.Files.Keep(t.Context(), h.Me, quayLayouts[n].name, strings.NewReader(quayLayouts[n].text))
			require.NoError(t, err)
			i, err := h.Intakes.Open(t.Context(), h.Me, wire.NewIntake{Supplier: "Quay", FileHash: f.Hash, FileName: f.Name})
			require.NoError(t, err)
			return i
		}
		for k, n := range order {
			i := open(n)
			assert.Zero(t, i.Revision, "%s is a new layout", quayLayouts[n].name)
			assert.Len(t, i.Others, k, "the others of the supplier are named")
			assert.NotEmpty(t, i.Problem)
			i = h.EditIntake(i, wire.IntakeEdit{Changes: quayLayouts[n].changes})
			assert.Empty(t, i.Problem)
			for _, c := range i.Causes {
				assert.NotContains(t, c.Cause.Cause, "field-missing", "no warning about the fields of another layout")
			}
			if n == 2 { // rows that say nothing but who sells them settle what is there already
				i = h.EditIntake(i, wire.IntakeEdit{Known: intake.Fill})
			}
			j, err := h.Intakes.TakeIn(t.Context(), h.Me, housetest.ID(t, i.ID), i.Version, wire.TakeIn{Digest: i.Digest, LeaveBlocked: true})
			require.NoError(t, err)
			require.Equal(t, "done", h.Wait(j).State)
			h.Level()
		}
		before := map[string]int{}
		l, err := h.Cabinets.Crosswalks(t.Context(), h.Me, 0, 10)
		require.NoError(t, err)
		require.Len(t, l.Items, 3)
		for _, x := range l.Items {
			before[x.Number] = x.Revision
			assert.Equal(t, "Quay", x.Supplier)
		}
		for _, n := range []int{order[1], order[2], order[0], order[0]} {
			i := open(n)
			assert.Equal(t, 1, i.Revision, "%v: %s has its crosswalk", order, quayLayouts[n].name)
			assert.Empty(t, i.Problem)
			assert.Empty(t, i.Unmapped)
			assert.Zero(t, i.Counts["new"]+i.Counts["update"]+i.Counts["differs"], "%v: nothing changes the second time: %v", order, i.Counts)
			for _, c := range i.Causes {
				assert.NotContains(t, c.Cause.Cause, "field-missing")
			}
		}
		l, err = h.Cabinets.Crosswalks(t.Context(), h.Me, 0, 10)
		require.NoError(t, err)
		for _, x := range l.Items {
			assert.Equal(t, before[x.Number], x.Revision)
		}
	}
}

func TestAFileIsMappedByAnotherLayoutWhereThatIsSaid(t *testing.T) {
	h := housetest.Open(t)
	_, err := h.Cabinets.ApplyCrosswalk(t.Context(), h.Me, 0, "format: jolly-crosswalk/1\nsupplier: Quay\ntake: {mpn: MPN, manufacturer: Maker}\ndrawer: chip-resistors\nfields: [{from: Ohms, to: resistance}]\n")
	require.NoError(t, err)
	_, err = h.Cabinets.ApplyCrosswalk(t.Context(), h.Me, 0, "format: jolly-crosswalk/1\nsupplier: Quay\nlayout: old\ntake: {mpn: MPN, manufacturer: Maker}\ndrawer: ceramic-capacitors\nfields: [{from: Ohms, to: capacitance}]\n")
	require.NoError(t, err)
	f, err := h.Files.Keep(t.Context(), h.Me, "a.csv", strings.NewReader("MPN;Maker;Ohms\nA-1;Tidewright;1k\n"))
	require.NoError(t, err)
	i, err := h.Intakes.Open(t.Context(), h.Me, wire.NewIntake{Supplier: "Quay", FileHash: f.Hash, FileName: f.Name})
	require.NoError(t, err)
	assert.Equal(t, "Quay", i.Mapped, "of two that fit alike, the first")
	assert.Equal(t, []string{"Quay: old"}, i.Others)
	other := "Quay: old"
	i = h.EditIntake(i, wire.IntakeEdit{Mapped: &other})
	assert.Equal(t, "Quay: old", i.Mapped)
	assert.Equal(t, "ceramic-capacitors", rowsOf(t, h, i)[2]["drawer"])
	for _, wrong := range []string{"Pier", "Quay:old"} {
		_, err = h.Intakes.Edit(t.Context(), h.Me, housetest.ID(t, i.ID), i.Version, wire.IntakeEdit{Mapped: &wrong})
		require.ErrorContains(t, err, "no crosswalk of Quay")
		_, err = h.Intakes.Open(t.Context(), h.Me, wire.NewIntake{Supplier: "Quay", FileHash: f.Hash, FileName: f.Name, Mapped: wrong})
		require.ErrorContains(t, err, "no crosswalk of Quay")
	}
	none := ""
	i = h.EditIntake(i, wire.IntakeEdit{Mapped: &none})
	assert.Equal(t, "Quay", i.Mapped)
}
