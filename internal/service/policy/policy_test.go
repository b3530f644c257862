package policy

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/store"
)

func TestWhatLeadsElsewhereIsNotChanged(t *testing.T) {
	for standing, want := range map[string]string{"active": "", "obsolete": "", "not for new designs": "", "": "", store.Merged: "merged", store.Withdrawn: "withdrawn"} {
		got := func(err error) string {
			if err == nil {
				return ""
			}
			var e *deed.Error
			require.ErrorAs(t, err, &e)
			assert.Equal(t, deed.Clash, e.Kind)
			return e.Type
		}
		assert.Equal(t, want, got(Stands(store.Head{Kind: store.KindPart, Number: "EW-R-00001", Standing: standing})), "a part that is %s", standing)
		if standing != store.Withdrawn {
			assert.Equal(t, want, got(Stands(store.Head{Kind: store.KindModel, Number: "symbol: Resistor", Standing: standing})), "a model that is %s", standing)
		}
	}
}
