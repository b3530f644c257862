package archive

import (
	"archive/zip"
	"bytes"
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jollydrawer/formats/formatstest"
)

// packed is an archive of files, each stored as it is or deflated.
func packed(t *testing.T, method uint16, files ...string) []byte {
	var out bytes.Buffer
	z := zip.NewWriter(&out)
	for i := 0; i < len(files); i += 2 {
		w, err := z.CreateHeader(&zip.FileHeader{Name: files[i], Method: method})
		require.NoError(t, err)
		_, err = w.Write([]byte(files[i+1]))
		require.NoError(t, err)
	}
	require.NoError(t, z.Close())
	return out.Bytes()
}

func read(raw []byte) (found []string, err error) {
	z, err := Open(raw)
	if err != nil {
		return nil, err
	}
	for _, f := range z.File {
		if Passed(f) {
			continue
		}
		b, err := Read(f)
		if err != nil {
			return found, err
		}
		found = append(found, fmt.Sprintf("%s %q", f.Name, b))
	}
	return found, nil
}

func TestReaderKeepsWhatAllReadersKeep(t *testing.T) {
	good := packed(t, zip.Deflate, "a/one.txt", "one", "a/.hidden", "x", "__MACOSX/a/one.txt", "y", "two.txt", strings.Repeat("two ", 40), "empty/", "")
	formatstest.Test(t, formatstest.Reader{Good: good, Want: []string{`a/one.txt "one"`, fmt.Sprintf("two.txt %q", strings.Repeat("two ", 40))}, Read: read})
}

func TestAnArchiveThatNobodyShouldTrustIsNotOpened(t *testing.T) {
	for _, name := range []string{"../up.txt", "a/../../up.txt", "/etc/passwd", `..\up.txt`, `C:\up.txt`, "..", "a/b/../../../up"} {
		_, err := read(packed(t, zip.Store, name, "x"))
		require.Error(t, err, name)
		assert.Contains(t, err.Error(), "leads out of it", name)
	}
	for _, name := range []string{"a/../in.txt", "...", "..a/b", "a..b"} {
		found, err := read(packed(t, zip.Store, name, "x"))
		require.NoError(t, err, name)
		if name != "..." && name != "..a/b" {
			assert.Len(t, found, 1, name)
		}
	}
	bomb := packed(t, zip.Deflate, "zeros", strings.Repeat("\x00", 8<<20))
	_, err := read(bomb)
	require.ErrorContains(t, err, "would unpack to more than")
	many := make([]string, 0, 2*(maxFiles+1))
	for i := range maxFiles + 1 {
		many = append(many, fmt.Sprint(i), "")
	}
	_, err = read(packed(t, zip.Store, many...))
	require.ErrorContains(t, err, "at most")
	_, err = read(packed(t, zip.Store, many[:2*maxFiles]...))
	require.NoError(t, err)
}

func TestAMemberThatIsNotWhatItsHeadSaysIsDamaged(t *testing.T) {
	raw := packed(t, zip.Store, "one.txt", "one two three")
	at := bytes.Index(raw, []byte("two"))
	raw[at] = 'x' // the checksum no longer fits
	_, err := read(raw)
	require.ErrorContains(t, err, "is damaged")
	assert.True(t, Is(raw))
	assert.False(t, Is([]byte("PK")))
}
