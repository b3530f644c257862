package store

import (
	"errors"
	"iter"
	"sync/atomic"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// counting counts up to n, and then ends as it is told.
func counting(n int, end func(yield func(int, error) bool)) iter.Seq2[int, error] {
	return func(yield func(int, error) bool) {
		for i := range n {
			if !yield(i, nil) {
				return
			}
		}
		end(yield)
	}
}

func TestBatchesGiveEachMemberOnceAndInOrder(t *testing.T) {
	for _, n := range []int{0, 1, batch - 1, batch, batch + 1, 3*batch + 7} {
		var got []int
		lots := 0
		require.NoError(t, batches(counting(n, func(func(int, error) bool) {}), func(some []int) error {
			assert.LessOrEqual(t, len(some), batch)
			assert.NotEmpty(t, some)
			got = append(got, some...)
			lots++
			return nil
		}))
		require.Len(t, got, n)
		for i := range got {
			require.Equal(t, i, got[i])
		}
		assert.Equal(t, (n+batch-1)/batch, lots)
	}
}

func TestBatchesEndWhereMakingOrWritingFails(t *testing.T) {
	failed := errors.New("no more")
	written := 0
	err := batches(counting(batch+1, func(yield func(int, error) bool) { yield(0, failed) }), func(some []int) error { written += len(some); return nil })
	require.ErrorIs(t, err, failed)
	assert.Equal(t, batch, written, "what is half a batch when it fails is not written")

	var making atomic.Bool
	err = batches(func(yield func(int, error) bool) {
		making.Store(true)
		defer making.Store(false)
		for i := 0; yield(i, nil); i++ {
		}
	}, func([]int) error { return failed })
	require.ErrorIs(t, err, failed)
	assert.False(t, making.Load(), "whoever asked goes on only when nobody makes any more")

	// What panics while it makes them panics in who asked, who looks after it; the process goes on.
	assert.PanicsWithValue(t, "odd part", func() {
		_ = batches(counting(3, func(func(int, error) bool) { panic("odd part") }), func([]int) error { return nil })
	})
}
