package finding

import (
	"testing"

	"github.com/stretchr/testify/assert"
)

func TestCausesHaveNamesToType(t *testing.T) {
	assert.Equal(t, "no-mpn", Name("no-mpn"))
	seen := map[string]string{}
	for _, check := range []string{"no-drawer", "doubt (it has no unit)", "doubt (two readings)", "required"} {
		for _, rest := range []string{"", "Widerst.", "Kerko", "Value→capacitance", "Value→resistance"} {
			cause := check + ":" + rest
			name := Name(cause)
			assert.Equal(t, name, Name(cause))
			assert.Regexp(t, `^[a-z-]+(-[2-9a-z]{4})?$`, name)
			other, twice := seen[name]
			assert.False(t, twice, "%s and %s", cause, other)
			seen[name] = cause
		}
	}
}
