package ibis

import (
	"fmt"
	"strings"
	"testing"

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
