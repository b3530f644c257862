package lookup

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"pgregory.net/rapid"
)

func TestCodesStayTheSameWhileTheyWiden(t *testing.T) {
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
		want[list[0]] = 1
		for i, code := range list {
			assert.Equal(t, code, c.at(uint32(i)))
			plain[code]++
			among.set(uint32(i))
		}
		c.tally(among.list(), counts)
		assert.Equal(t, plain, counts)
		c.mark(want, among, marked)
		for i, code := range list {
			assert.Equal(t, code == list[0], marked.has(uint32(i)))
		}
	})
}
