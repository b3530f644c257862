package deliveries

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"jollydrawer/internal/wire"
)

func TestAHouseNameThatSeveralWouldHaveIsAsked(t *testing.T) {
	all := []wire.DeliveredModel{
		{Kind: "land pattern", Name: "A", House: "SO-8 nominal"}, {Kind: "land pattern", Name: "B", House: "SO-8 nominal"}, {Kind: "land pattern", Name: "C", House: "SO-8 nominal", Twin: "0.0"},
		{Kind: "symbol", Name: "D", House: "SO-8 nominal"}, {Kind: "body", Name: "E"}, {Kind: "body", Name: "F"},
	}
	askNames(all)
	var houses, asked []string
	for _, m := range all {
		houses = append(houses, m.House)
		if m.Asked != "" {
			asked = append(asked, m.Name)
		}
	}
	assert.Equal(t, []string{"", "", "", "SO-8 nominal", "", ""}, houses)
	assert.Equal(t, []string{"A", "B", "C"}, asked)
	assert.Equal(t, "The house would call 2 land patterns of this delivery SO-8 nominal: say which of them it is.", all[0].Asked)
}
