package cabinets

import (
	"testing"

	"github.com/stretchr/testify/assert"
)

func TestWhatFollowsIsToldByKindAndHowMany(t *testing.T) {
	view, layout, house := Kind{"1 saved view", "saved views"}, Kind{"1 layout of BOM columns", "layouts of BOM columns"}, Kind{One: "the severities of BOMs"}
	for _, c := range []struct {
		found []Kind
		told  []string
	}{
		{nil, []string{}},
		{[]Kind{view}, []string{"1 saved view"}},
		{[]Kind{house}, []string{"the severities of BOMs"}},
		{[]Kind{layout, view, layout, house, view, view}, []string{"2 layouts of BOM columns", "3 saved views", "the severities of BOMs"}},
	} {
		all := []Following{}
		for _, k := range c.found {
			all = append(all, Following{What: k})
		}
		assert.Equal(t, c.told, Told(all))
	}
}
