package lookup

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"pgregory.net/rapid"
)

func TestCodesStayTheSameWhileTheyWidenAndAreFoundAndCounted(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		list := rapid.SliceOfN(rapid.Uint32Range(0, rapid.SampledFrom([]uint32{3, 300, 70_000}).Draw(t, "largest")), 1, 300).Draw(t, "codes")
		c := zeroCodes(0)
		for _, code := range list {
			c.add(code)
		}
		assert.Equal(t, len(list), c.len())
		counts, plain := make([]uint32, 70_001), make([]uint32, 70_001)
		among, marked := newBits(len(list)), newBits(len(list))
		want := make([]uint8, 70_001)
		for _, i := range rapid.SliceOfN(rapid.IntRange(0, len(list)-1), 1, 7).Draw(t, "wanted") {
			want[list[i]] = 1
		}
		every := rapid.IntRange(1, 20).Draw(t, "every")
		for i, code := range list {
			assert.Equal(t, code, c.at(uint32(i)))
			if i%every == 0 || i%64 > 40 {
				plain[code]++
				among.set(uint32(i))
			}
		}
		c.tally(among.list(), counts)
		assert.Equal(t, plain, counts)
		c.mark(want, among, marked)
		for i, code := range list {
			assert.Equal(t, want[code] == 1 && among.has(uint32(i)), marked.has(uint32(i)))
		}
	})
}
