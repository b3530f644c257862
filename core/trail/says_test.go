package trail

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
)

func TestSentences(t *testing.T) {
	one := func(kind, action, name string, detail map[string]any) []Act {
		return []Act{{Kind: kind, Action: action, Count: 1, Name: name, Detail: detail}}
	}
	for _, c := range []struct {
		acts []Act
		want string
	}{
		{one("part", "released", "R-0001", map[string]any{"revision": 2.0, "note": "second source"}), "Tove released R-0001 as revision 2: “second source”."},
		{one("part", "released", "R-0001", map[string]any{"revision": 2.0, "revisionLabel": "B"}), "Tove released R-0001 as revision B."},
		{[]Act{{Kind: "part", Action: "released", Count: 500, Where: "Chip resistors", Detail: map[string]any{"note": "x"}}}, "Tove released 500 parts of Chip resistors: “x”."},
		{[]Act{{Kind: "part", Action: "moved", Count: 10, Detail: map[string]any{"from": "Draft", "to": "In review"}}}, "Tove moved 10 parts from Draft to In review."},
		{[]Act{{Kind: "part", Action: "moved", Count: 10}}, "Tove moved 10 parts."},
		{[]Act{{Kind: "part", Action: "standing changed", Count: 3, Where: "Spacers", Detail: map[string]any{"to": "obsolete"}}}, "Tove made 3 parts of Spacers obsolete."},
		{[]Act{{Kind: "part", Action: "released", Count: 12000}, {Kind: "model", Action: "released", Count: 1, Name: "symbol: Opamp"}}, "Tove released 12 000 parts, and did more to 1 thing."},
		{one("model", "moved", "symbol: Opamp", map[string]any{"from": "Draft", "to": "In review"}), "Tove moved the symbol Opamp from Draft to In review."},
		{one("part", "moved", "R-0001", map[string]any{"from": "Released", "to": "Withdrawn", "revision": 3.0, "note": "wrong\n value"}), "Tove moved revision 3 of R-0001 from Released to Withdrawn: “wrong value”."},
		{one("part", "standing changed", "R-0001", map[string]any{"from": "active", "to": "obsolete", "why": "ended"}), "Tove made R-0001 obsolete: “ended”."},
		{one("want", "answered", "W-0004", map[string]any{"part": "R-0001"}), "Tove answered the want W-0004 with R-0001."},
		{one("want", "declined", "W-0004", map[string]any{"why": "too dear"}), "Tove declined the want W-0004: “too dear”."},
		{one("want", "wanted", "W-0004", map[string]any{"what": "4k7 0805"}), "Tove wants 4k7 0805 (W-0004)."},
		{one("bom", "polished", "Gauge", nil), "Tove polished: the BOM Gauge."},
		{one("delivery", "used", "DL-1", nil), "Tove took models from DL-1."},
		{one("part", "commented", "R-0001", map[string]any{"text": strings.Repeat("ü", 300)}), "Tove commented on R-0001: “" + strings.Repeat("ü", 199) + "…”."},
		{one("intake", "taken in", "IN-00001", nil), "Tove took in IN-00001."},
		{one("delivery", "brought in", "DL-00001", nil), "Tove brought in DL-00001."},
		{one("model", "brought in", "body: Chip", nil), "Tove made the body Chip."},
		{nil, "Tove did something."},
	} {
		assert.Equal(t, c.want, Sentence("Tove", c.acts))
	}
	assert.Equal(t, "The service released R-0001.", Sentence("", one("part", "released", "R-0001", nil)))
}
