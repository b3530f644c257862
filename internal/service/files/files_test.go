package files_test

import (
	"bytes"
	"errors"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jollydrawer/internal/service/housetest"
	"jollydrawer/internal/testdb"
)

var errBroken = errors.New("the line broke")

func TestMain(m *testing.M) { testdb.Main(m) }

func TestFilesAreKeptOnceAndWhole(t *testing.T) {
	h := housetest.Open(t)
	big := bytes.Repeat([]byte("tide"), 700_000) // three pieces
	one, err := h.Files.Keep(t.Context(), h.Me, "a.bin", bytes.NewReader(big))
	require.NoError(t, err)
	two, err := h.Files.Keep(t.Context(), h.Me, "b.bin", bytes.NewReader(big))
	require.NoError(t, err)
	assert.Equal(t, one.Hash, two.Hash)
	r, size, err := h.Files.Open(t.Context(), h.Me, one.Hash)
	require.NoError(t, err)
	defer r.Close()
	assert.EqualValues(t, len(big), size)
	var back bytes.Buffer
	_, err = back.ReadFrom(r)
	require.NoError(t, err)
	assert.True(t, bytes.Equal(big, back.Bytes()))
	_, _, err = h.Files.Open(t.Context(), h.Me, "../../etc/passwd")
	housetest.Fails(t, err, "not-found")
	_, err = h.Files.Keep(t.Context(), h.Me, "c.bin", &breaking{})
	assert.ErrorIs(t, err, errBroken)
}

type breaking struct{ n int }

func (b *breaking) Read(p []byte) (int, error) {
	if b.n++; b.n > 3 {
		return 0, errBroken
	}
	return len(p), nil
}
