package cabinets_test

import (
	"fmt"
	"strings"
	"sync"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/service/housetest"
)

// Several who apply different documents on the version that they all saw: one of them does, at whatever moment the others come, and
// these are told that it was changed meanwhile.
func TestOneOfThoseWhoApplyAtOnceDoes(t *testing.T) {
	h := housetest.Open(t)
	for round := range 10 {
		now := 0
		if round > 0 {
			cw, err := h.Cabinets.Crosswalk(t.Context(), h.Me, "Marsh Lane")
			require.NoError(t, err)
			now = cw.Version
		}
		const rivals = 6
		errs := make([]error, rivals)
		var all sync.WaitGroup
		for i := range rivals {
			all.Go(func() {
				text := strings.Replace(housetest.CrosswalkText, "from: Size", fmt.Sprintf("from: Size %d of %d", i, round), 1)
				_, errs[i] = h.Cabinets.ApplyCrosswalk(t.Context(), deed.Call{Actor: h.Me.Actor}, now, text)
			})
		}
		all.Wait()
		done := 0
		for _, err := range errs {
			if err == nil {
				done++
			} else {
				assert.True(t, deed.Clashed(err), "%v", err)
			}
		}
		assert.Equal(t, 1, done, "round %d", round)
	}
}
