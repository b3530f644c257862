package origin

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
)

func TestWhereAValueCameFromInAFewWords(t *testing.T) {
	at := time.Date(2026, 11, 28, 10, 0, 0, 0, time.UTC)
	for _, c := range []struct {
		o    Origin
		says string
	}{
		{Origin{}, ""},
		{Origin{Rule: "default of the template"}, "default of the template"},
		{Origin{Person: "Maren"}, "typed by Maren"},
		{Origin{Person: "Maren", Rule: `Northquay, Package: "0805"`}, `Northquay, Package: "0805"; taken over by Maren`},
		{Origin{File: "ab", Name: "list.csv", Row: 4, Field: "R"}, `list.csv, row 4, field "R"`},
		{Origin{File: "ab", Name: "list.csv", Row: 4, Field: "R", Person: "Maren", Came: "4k7?", Written: "4k7", At: at, Why: "a slip"}, `list.csv, row 4, field "R", which said "4k7?"; Maren wrote "4k7" on 2026-11-28: a slip`},
		{Origin{File: "ab", Name: "list.csv", Row: 4, Field: "R", Person: "Maren", Written: "4k7"}, `list.csv, row 4, field "R", which was blank; Maren wrote "4k7"`},
	} {
		assert.Equal(t, c.says, c.o.String())
	}
}
