package ibis

import (
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jollydrawer/formats/formatstest"
)

const good = `[IBIS Ver]   5.1
[File name]  tern.ibs
[Component]  TERN1
[Manufacturer] Curlew Semiconductor
[Pin]  signal_name  model_name  R_pin L_pin C_pin
1      VCC          POWER
2      OUT          drv         0.1   1nH   2pF
3      GND          GND
[Component]  TERN2
[Manufacturer] Curlew Semiconductor
[Pin]  signal_name  model_name
A1     IN           rcv
[Model] drv
Model_type Output
[Model] rcv
Model_type Input
[End]
`

func TestReaderKeepsWhatAllReadersKeep(t *testing.T) {
	formatstest.Test(t, formatstest.Reader{Good: []byte(good), Want: []string{"TERN1 by Curlew Semiconductor: 1 VCC power in, 2 OUT output, 3 GND power in", "TERN2 by Curlew Semiconductor: A1 IN input"}, Read: func(raw []byte) (found []string, err error) {
		all, err := Read(raw)
		for _, c := range all {
			var pins []string
			for _, p := range c.Pins {
				pins = append(pins, p.Number+" "+p.Name+" "+p.Type)
			}
			found = append(found, fmt.Sprintf("%s by %s: %s", c.Name, c.Manufacturer, strings.Join(pins, ", ")))
		}
		return found, err
	}})
}

const head = "[IBIS Ver]   5.1\n[File name]  tern.ibs\n"

// pinsOf writes the pins of a file's components with their types, then what was said.
func pinsOf(t *testing.T, text string) string {
	all, err := Read([]byte(head + text + "\n[End]\n"))
	require.NoError(t, err)
	var out []string
	for _, c := range all {
		for _, p := range c.Pins {
			out = append(out, strings.TrimSpace(p.Number+"="+p.Name+" "+p.Type))
		}
		out = append(out, c.Wrong...)
	}
	return strings.Join(out, "; ")
}

func TestTypesOfPins(t *testing.T) {
	const pin = "[Component] T\n[Pin] signal_name model_name\n"
	types := map[string]string{"Input": "input", "Output": "output", "I/O": "bidirectional", "3-state": "tri-state", "Open_drain": "open collector", "Open_source": "open emitter", "I/O_open_source": "bidirectional",
		"Input_ECL": "input", "Output_ECL": "output", "I/O_ECL": "bidirectional", "3-state_ECL": "tri-state", "Terminator": "passive", "Series_switch": "passive", "Input_diff": "input", "Output_diff": "output"}
	for written, want := range types {
		assert.Equal(t, "1=A "+want, pinsOf(t, pin+"1 A m\n[Model] m\nModel_type "+written), written)
	}
	for name, c := range map[string][2]string{
		"a selector of one type":       {pin + "1 A sel\n[Model Selector] sel\nfast a fast one\nslow a slow one\n[Model] fast\nModel_type Output\n[Model] slow\nModel_type Output", "1=A output"},
		"a selector of several types":  {pin + "1 A sel\n[Model Selector] sel\nx one\ny two\n[Model] x\nModel_type Output\n[Model] y\nModel_type Input", "1=A; line 5: pin 1 can be of several types, as its model is selected; it was left open"},
		"a type that nobody knows":     {pin + "1 A m\n[Model] m\nModel_type Wobbly", "1=A; line 5: the type \"wobbly\" of the model of pin 1 is not known; it was left open"},
		"a model that is not there":    {pin + "1 A m", "1=A; line 5: the model \"m\" of pin 1 is not in the file; its type was left open"},
		"words of the form":            {pin + "1 A POWER\n2 B GND\n3 C NC\n4 D", "1=A power in; 2=B power in; 3=C not connected; 4=D"},
		"a pin said twice":             {pin + "1 A POWER\n2 B GND\n1 C NC", "1=A power in; 2=B power in; line 7: the pin 1 of T stands in line 5 too"},
		"a pin without a name":         {pin + "1\n2 B GND", "2=B power in; line 5: the pin 1 has no signal name"},
		"a comment of another sign":    {"[Comment Char] #_char\n" + pin + "1 A|B POWER # | not", "1=A|B power in"},
		"two components, each its own": {pin + "1 A POWER\n[Component] U\n[Pin] signal_name model_name\n1 Z GND", "1=A power in; 1=Z power in"},
	} {
		assert.Equal(t, c[1], pinsOf(t, c[0]), name)
	}
}

// Files as other programs might write them hold the pins that they were made from, each with its type.
func TestPinsOfOtherPrograms(t *testing.T) {
	for seed := range uint64(600) {
		raw, want := formatstest.NewIBIS(seed).File()
		all, err := Read(raw)
		require.NoError(t, err, "seed %d", seed)
		var got []string
		for _, c := range all {
			require.Empty(t, c.Wrong, "seed %d: %s", seed, raw)
			for _, p := range c.Pins {
				got = append(got, strings.Join([]string{c.Name, p.Number, p.Name, p.Type}, " "))
			}
		}
		require.Equal(t, want, got, "seed %d: %s", seed, raw)
	}
}
