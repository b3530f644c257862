package cabinet

import (
	"testing"

	"github.com/stretchr/testify/assert"
)

func TestWhatNamesAParameterFollowsItOverSteps(t *testing.T) {
	name := func(from, to string) Step { return Step{Do: Rename, Parameter: from, To: to} }
	retire := func(key, drawer string) Step { return Step{Do: Retire, Parameter: key, Drawer: drawer} }
	for what, c := range map[string]struct {
		steps []Step
		now   string
		gone  bool
	}{
		"nothing":                             {nil, "power", false},
		"renamed":                             {[]Step{name("power", "rating")}, "rating", false},
		"another renamed":                     {[]Step{name("voltage", "rating")}, "power", false},
		"renamed twice":                       {[]Step{name("power", "a"), name("a", "b")}, "b", false},
		"there and back":                      {[]Step{name("power", "a"), name("a", "power")}, "power", false},
		"exchanged":                           {[]Step{name("power", "a"), name("voltage", "power"), name("a", "voltage")}, "voltage", false},
		"only its label":                      {[]Step{{Do: Rename, Parameter: "power", Label: "Power"}}, "power", false},
		"retired":                             {[]Step{retire("power", "")}, "power", true},
		"retired in one drawer":               {[]Step{retire("power", "resistors")}, "power", false},
		"renamed, and retired under that":     {[]Step{name("power", "a"), retire("a", "")}, "a", true},
		"retired, and its name taken again":   {[]Step{retire("power", ""), name("voltage", "power")}, "power", true},
		"the name it would get is retired":    {[]Step{retire("rating", ""), name("power", "rating")}, "rating", false},
		"of another type, shown another way":  {[]Step{{Do: Retype, Parameter: "power", Of: "current"}, {Do: Unit, Parameter: "power", Show: "mW"}}, "power", false},
		"taken apart into others, which stay": {[]Step{{Do: Split, Parameter: "power"}}, "power", false},
	} {
		now, gone := Followed("power", c.steps)
		assert.Equal(t, c.now, now, what)
		assert.Equal(t, c.gone, gone, what)
	}
}
