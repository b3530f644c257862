package model

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

// What tables write of pins, as other people write it; blank where nobody could tell.
func TestWhatTablesSayOfPins(t *testing.T) {
	for want, list := range map[string]string{
		Input:         `I | AI | DI | Analog input | Input, analog | Input with pull-up | Input (pull-up) | Input, internal pull-down | Schmitt trigger input | Clock input | Differential input | RF in | Input only | In | Eingang | Entrée | 入力 | Reference input | Feedback input | Enable input | Input 5 V tolerant | I, PU | I, PD | I-PU | Input 1 | "input" | input. | Output enable input | Supply voltage sense input | Ground reference input | Power down input | Power-fail input | Active-low input | Digital In, active low | Non-inverting input | Inverting input | High-impedance input | 输入`,
		Output:        `O | AO | DO | Analog output | Push-pull | Push-pull output | LVDS output | Test output | RF output | Output only | Out | Ausgang | Sortie | 出力 | Voltage reference output | Driver output | O, 8mA | Input capture output | Power good output | Out, active high | 输出`,
		Bidirectional: `I/O | IO | B | BIDI | Bi-directional | In/Out | Input/Output | Input or output | AIO | DIO | A I/O | Analog I/O | I/O/Z | Ein-/Ausgang | Ein/Aus | E/A | Entrée/sortie | E/S | Entrada/Salida | Ingresso/uscita | 入出力 | 5V tolerant I/O | I/O, PU`,
		PowerIn:       `P | PWR | Power | Supply | GND | Ground | Power supply | Power input | Ground return | Digital ground | Analog ground | Power/ground | Versorgung | Masse | Alimentation | Masse (GND) | Alimentación | Tierra | Alimentazione | Massa | Spannungsversorgung | Analogmasse | 電源 | 电源 | グランド`,
		PowerOut:      `Power output | Supply output | Power-out`,
		Passive:       `Passive | Pas | Analog | A`,
		NotConnected:  `NC | N.C. | N/C | No connect | Not connected | Do not connect | DNC | No internal connection | Nicht angeschlossen | Nicht verbunden | nicht belegt | Non connecté | No conectado | Non connesso | 未接続 | Unconnected | No connection | Not connected internally`,
		OpenCollector: `OD | Open drain | Open-drain output | O (OD) | Open collector | OC`,
		OpenEmitter:   `Open emitter`,
		TriState:      `Tri-state | Three-state output | 3-state | O/Z`,
		"":            `Data bus, bidirectional | May be input or output depending on MODE | Input when MODE=1 | Input, then output | Input; output in test mode | I/O or NC | Power or signal | Input/NC | Ground or NC | Supply sense | Output stage supply return sense | Tri-state bus output | Reserved | Digital | OD I/O | I/O open drain | TS | Clock | CLK | Reset | Differential pair | Test | Not an input | No output | Input not used | Never driven | Input/ground | Input & power | VDD | E | Non utilisé | USB | Charge pump | Shield | Thermal pad | Exposed pad | Bias | Crystal | Enable | Gate | Switch node | Sense | IPU | Output 2 of 3 | INPUT* | Input? | Inputs | Output enable | Ground sense | Power on reset`,
	} {
		for text := range strings.SplitSeq(list, " | ") {
			got, ok := PinType(text)
			assert.Equal(t, want, got, text)
			assert.Equal(t, want != "", ok, text)
		}
	}
	got, ok := PinType("  ")
	assert.True(t, ok && got == "", "a blank cell says nothing, and nothing is wrong with it")
}

// How a signal is kept changes nothing of its direction wherever it stands, and a word that denies leaves it open wherever it stands.
func TestWhatIsDeniedIsLeftOpen(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		phrase := rapid.SampledFrom([]string{"input", "reset input", "clock output", "open-drain output", "I/O", "analog I/O", "power supply", "entrée d'horloge", "Takteingang", "output enable input"}).Draw(t, "phrase")
		want, ok := PinType(phrase)
		require.True(t, ok)
		add := rapid.SampledFrom([]string{" (pull-up)", ", 8 mA", " (5 V tolerant)", ", LVCMOS", " [internal pull-down]", "; schmitt trigger"}).Draw(t, "add")
		got, ok := PinType(phrase + add)
		require.True(t, ok, phrase+add)
		require.Equal(t, want, got, phrase+add)

		deny := rapid.SampledFrom([]string{"not", "no", "never", "nicht", "non", "unused", "reserved", "maybe", "sans"}).Draw(t, "deny")
		words := strings.Fields(phrase)
		at := rapid.IntRange(0, len(words)).Draw(t, "at")
		denied := strings.Join(append(append(append([]string{}, words[:at]...), deny), words[at:]...), " ")
		got, ok = PinType(denied)
		require.False(t, ok, "%s: %s", denied, got)
		for _, doubt := range []string{"?", "*", " (see note)", ", output enable"} {
			_, ok = PinType(phrase + doubt)
			require.False(t, ok, phrase+doubt)
		}
	})
}

// How an output drives is its type however its two words are joined, before the word output and behind it.
func TestHowAnOutputDrives(t *testing.T) {
	for words, want := range map[string]string{"open drain": OpenCollector, "open collector": OpenCollector, "open emitter": OpenEmitter, "tri state": TriState, "three state": TriState, "3 state": TriState, "high z": TriState, "push pull": Output} {
		for _, joint := range []string{" ", "-", "", "_"} {
			how := strings.ReplaceAll(words, " ", joint)
			for _, text := range []string{how + " output", how + " output, active low", "output (" + how + ")", "Output, " + strings.ToUpper(how), "digital " + how + " output"} {
				got, ok := PinType(text)
				assert.True(t, ok, text)
				assert.Equal(t, want, got, text)
			}
			if want != Output && words != "high z" {
				_, ok := PinType(how + " input")
				assert.False(t, ok, "%s input", how)
			}
		}
	}
}
