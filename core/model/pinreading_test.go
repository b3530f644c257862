package model_test

import (
	"testing"

	"github.com/stretchr/testify/require"

	"jollydrawer/core/model/modeltest"
)

// A table whose columns stand in any order, with headings of six languages and other columns between, is read as what it was made from.
func TestPinTablesInAnyOrderAndLanguage(t *testing.T) {
	for seed := range uint64(2000) {
		table, want := modeltest.New(seed).PinTable()
		c, ok := table.Columns()
		require.True(t, ok, "seed %d: %v", seed, table.Headings)
		lists := table.Read(c)
		require.Len(t, lists, 1)
		require.Empty(t, lists[0].Wrong, "seed %d", seed)
		require.Equal(t, want, lists[0].Pins, "seed %d: %v", seed, table.Headings)
	}
}
