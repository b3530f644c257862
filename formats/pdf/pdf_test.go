package pdf

import (
	"bytes"
	"context"
	"os"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jollydrawer/formats/formatstest"
)

func TestTextOfPages(t *testing.T) {
	pages, err := Text(t.Context(), bytes.NewReader(formatstest.PDF([]string{"Pilework PW series", "PW-M2-05   M2   5 mm"}, nil, []string{"last"})))
	require.NoError(t, err)
	require.Len(t, pages, 3)
	assert.Contains(t, pages[0], "Pilework PW series\n")
	assert.Regexp(t, `PW-M2-05 +M2 +5 mm`, pages[0])
	assert.Empty(t, strings.TrimSpace(pages[1]), "a page without text, as a scanned one")
	assert.Equal(t, "last", strings.TrimSpace(pages[2]))
	raw, err := os.ReadFile("../../demo/datasheets/tidewright-tw-series.pdf")
	require.NoError(t, err)
	pages, err = Text(t.Context(), bytes.NewReader(raw))
	require.NoError(t, err)
	assert.Contains(t, strings.Join(pages, ""), "Tidewright TW series")
}

func TestHostileFilesEndOnlyTheirReader(t *testing.T) {
	whole := formatstest.PDF([]string{"a"})
	huge := make([][]string, 2*maxPages)
	for i := range huge {
		huge[i] = []string{"page"}
	}
	for name, raw := range map[string][]byte{"nothing": nil, "no PDF": []byte("hello"), "cut": whole[:len(whole)/3], "noise": bytes.Repeat([]byte("%PDF-1.4\n\xff\x00"), 1000),
		"a loop of pages": bytes.ReplaceAll(whole, []byte("/Kids [4 0 R]"), []byte("/Kids [2 0 R]"))} {
		pages, err := Text(t.Context(), bytes.NewReader(raw))
		if err == nil { // what can be mended is read
			assert.Less(t, len(pages), 3, name)
			continue
		}
		assert.NotContains(t, err.Error(), "exit status", name)
	}
	pages, err := Text(t.Context(), bytes.NewReader(formatstest.PDF(huge...)))
	require.NoError(t, err)
	assert.Len(t, pages, maxPages)
	ctx, cancel := context.WithTimeout(t.Context(), 50*time.Millisecond)
	defer cancel()
	_, err = Text(ctx, slow{ctx})
	require.Error(t, err)
}

// slow is a file that never comes.
type slow struct{ ctx context.Context }

func (s slow) Read([]byte) (int, error) { <-s.ctx.Done(); return 0, s.ctx.Err() }
