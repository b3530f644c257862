package e2e

import (
	"fmt"
	"testing"

	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jollydrawer/core/part"
	"jollydrawer/internal/wire"
)

// A series is proposed from what parts say, taken over, found by its name and seen on each part; what one says of it, the others read.
func TestASeriesIsTakenOverAndSharedByKeyboard(t *testing.T) {
	i := serve2(t)
	admin := i.admin(t)
	stocked(t, admin)
	var numbers []string
	for n := range 3 {
		p, err := admin.MakePart(t.Context(), wire.PartEdit{Drawer: "chip-resistors", Values: map[string]string{"resistance": fmt.Sprint(n+1, "k"), "tolerance": "1%", "case": "0805"},
			Sources: []part.Source{{Manufacturer: "Tidewright", MPN: fmt.Sprintf("TWQ-%d", n+1)}}})
		require.NoError(t, err)
		numbers = append(numbers, p.Number)
	}
	p := byKeyboard(window(t, i, "admin"))
	p.goTo("/series")
	p.see("3 part numbers begin with TWQ")
	p.press("Take over Tidewright TWQ")
	p.see("Nothing is proposed.")
	p.enter("the list", `e.matches("[role=grid]")`)
	p.see("3 part numbers · 3 parts of the library")
	p.press("Add part numbers…")
	p.fill("Part numbers, one a line", "TWQ-4")
	p.press("Add 1")
	p.see("Not in the library: TWQ-4")
	p.reach("what is said", `e.tagName === "TEXTAREA"`)
	require.NoError(t, p.b.Keys("The power is at 70 degrees."))
	p.press("Say it")
	p.see("The power is at 70 degrees.")

	// Each part of it shows it, and it is found.
	p.goTo("/parts/" + numbers[1])
	p.see("Tidewright: TWQ: 4 part numbers")
	p.see("The power is at 70 degrees.")
	p.goTo("/parts")
	p.reach("the search box", `e.type === "search" || e.role === "searchbox" || e.matches("header input")`)
	require.NoError(t, p.b.Keys("series twq 2k"))
	require.NoError(t, p.b.Keys(kb.Enter))
	p.see(numbers[1])
	shown, err := p.b.Eval(`document.querySelector('[role=grid]').innerText`)
	require.NoError(t, err)
	assert.NotContains(t, shown, numbers[0])
}
