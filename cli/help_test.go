package cli

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
)

func TestHelpBehindArgumentsIsThatOfTheCommand(t *testing.T) {
	for line, want := range map[string]string{
		"jolly bom cost Lamp --help":                      "jolly bom cost --help",
		"jolly bom cost Lamp --boards 40 -h":              "jolly bom cost --help",
		"jolly intake mend IN-00001 no-drawer --help":     "jolly intake mend --help",
		"jolly bom --help":                                "jolly bom --help",
		"jolly --help":                                    "jolly --help",
		"jolly bom cost Lamp":                             "jolly bom cost Lamp",
		"jolly comment say EW-R-1 -- --help":              "jolly comment say EW-R-1 -- --help",
		"jolly --server http://here bom cost Lamp --help": "jolly --server http://here bom cost Lamp --help",
		"jolly nothing --help":                            "jolly nothing --help",
	} {
		assert.Equal(t, want, strings.Join(helped(New(), strings.Fields(line)), " "), line)
	}
}
