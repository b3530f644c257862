package objects

import (
	"testing"

	"jollydrawer/formats/formatstest"
	"jollydrawer/formats/rows"
)

const good = `[
  {"Maker": "Tidewright", "MPN": "TW-1", "Value": 4.70, "RoHS": true, "Also": null},
  {"MPN": "KL-2", "Maker": "Kelpline", "Value": "100 nF", "Case": "0603"}
]
`

func TestReaderKeepsWhatAllReadersKeep(t *testing.T) {
	formatstest.Test(t, formatstest.Reader{Good: []byte(good), Want: []string{"Maker|MPN|Value|RoHS|Also|Case", "Tidewright|TW-1|4.70|true||", "Kelpline|KL-2|100 nF|||0603"}, Read: formatstest.Rows(Open, rows.DefaultLimits)})
	formatstest.Limits(t, Open, []byte(`[{"A":"something long","B":2,"C":3,"D":4,"E":5},{"A":1,"B":2,"C":3,"D":4,"E":5}]`))
}
