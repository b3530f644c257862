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

// BOMs have a lifecycle of their own, also in a house that had one of that name of something else before.
func TestBOMsLiveByALifecycleOfBOMs(t *testing.T) {
	parts, boms := shipped()["parts"], shipped()["boms"]
	h := store.Head{Kind: store.KindBOM, Number: "Tide gauge"}
	for name, by := range map[string]map[string]Ruled{"the shipped one": {"boms": {boms, 0}}, "one of parts": {"boms": {parts, 4}}, "none": {}} {
		assert.Equal(t, "boms", Rules{by: by}.Of(h).Document.Of, name)
	}
	own := *boms
	assert.Equal(t, 3, Rules{by: map[string]Ruled{"boms": {&own, 3}}}.Of(h).Revision, "the house's own")
	assert.Equal(t, "parts", Rules{by: map[string]Ruled{"parts": {parts, 0}, "boms": {boms, 0}}}.Of(store.Head{Kind: store.KindPart}).Document.Of)
}
