package bom

import (
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"jollydrawer/core/lifecycle"
	"jollydrawer/core/part"
	"jollydrawer/internal/golden"
)

// Every line of testdata/lines.txt is laid beside a small library; what is said of it, piece by piece, is a golden file that was
// read line by line.
func TestTalliesAsTheyWereRead(t *testing.T) {
	x, cab := bench(t)
	for _, p := range []struct{ number, drawer, values, sources string }{
		{"C-00003", "ceramic-capacitors", "capacitance=1n|tolerance=5%|voltage-rating=50 V|dielectric=C0G|case=0603", "Kelpline:KL-603-102"},
		{"C-00004", "electrolytic-capacitors", "capacitance=47u|tolerance=20%|voltage-rating=25 V|dielectric=aluminium|case=radial 5x11", "Kelpline:EL-47-25"},
		{"U-00001", "regulators", "output-voltage=3.3 V|supply-voltage=4 to 12 V|current-rating=500 mA|case=SOT-223", "Curlew:CUR3303"},
		{"U-00002", "amplifiers", "supply-voltage=2.7 to 12 V|function=Voltage reference 2.5 V 16 bit ready|case=SOIC-8", "Curlew:CUR2502"},
		{"Y-00001", "crystals", "frequency=16 MHz|load-capacitance=18 pF|case=3225", "Gannet:GT-16M"},
		{"F-00001", "ferrite-beads", "impedance=600 Ω|current-rating=500 mA|dc-resistance=≤ 0.3 Ω|case=0603", "Kelpline:KB-600"},
		{"R-00006", "resistor-arrays", "resistance=10k|tolerance=1%|elements=4|case=1206", "Tidewright:TWA-4-10K"},
		{"R-00007", "chip-resistors", "resistance=33k|tolerance=1%|power=100 mW|case=0805", "Tidewright:TW-0805-33K"},
		{"R-00008", "chip-resistors", "resistance=33k|tolerance=1%|power=100 mW|case=0805", "Sandpiper:SP-33K"},
		{"R-00009", "chip-resistors", "resistance=75k|tolerance=1%|case=0805", "Tidewright:TW-0805-75K"},
	} {
		maker, mpn, _ := strings.Cut(p.sources, ":")
		e := released(t, cab, p.number, p.drawer, p.values, maker, mpn)
		switch p.number {
		case "R-00007":
			e.Standing, e.Use, e.Flag = lifecycle.NotForNew, lifecycle.UseCaution, "Not for new designs"
		case "R-00008":
			e.Revision = 0
		case "R-00009":
			e.Standing, e.Use, e.Flag = lifecycle.Obsolete, lifecycle.UseNo, "Obsolete"
		case "C-00003":
			e.Former = []string{"CAP 17"}
			e.Sources = append(e.Sources, part.Source{Manufacturer: "Lumen Farm", MPN: "LFC-102"})
		}
		x.Put(e)
	}
	b, err := os.ReadFile(filepath.Join("testdata", "lines.txt"))
	require.NoError(t, err)
	var out strings.Builder
	for line := range strings.Lines(string(b)) {
		line = strings.TrimSpace(line)
		if line == "" || strings.HasPrefix(line, "#") {
			fmt.Fprintln(&out, line)
			continue
		}
		l := ReadLine(2, strings.Split(line, "|"), benchColumns)
		v := Reconcile([]Line{l}, x, cab, Known{Columns: benchColumns})[0]
		fmt.Fprintf(&out, "%s\n    %s", line, v.Kind)
		if v.Part != nil {
			fmt.Fprintf(&out, " %s", v.Part.Number)
		}
		for _, o := range v.Options {
			fmt.Fprintf(&out, " /%s", o.Number)
		}
		if l.NotFitted {
			fmt.Fprint(&out, ", not fitted")
		}
		fmt.Fprintln(&out)
		for _, e := range v.Evidence {
			fmt.Fprintf(&out, "    because %s\n", e)
		}
		for _, b := range v.Tally {
			fmt.Fprintf(&out, "    %s %d-%d %q %s", b.Column, b.From, b.To, b.Text, b.Says)
			if b.Param != "" {
				fmt.Fprintf(&out, ": %s", b.Param)
			}
			if b.Record != "" {
				fmt.Fprintf(&out, " = %s", b.Record)
			}
			if b.Why != "" {
				fmt.Fprintf(&out, " (%s)", b.Why)
			}
			fmt.Fprintln(&out)
		}
		for _, f := range v.Findings {
			fmt.Fprintf(&out, "    %s %s: %s\n", f.Severity, f.Cause, f.What)
		}
	}
	golden.Equal(t, filepath.Join("testdata", "tallies.golden"), out.String())
}
