package trail

import (
	"bytes"
	"encoding/hex"
	"encoding/json"
	"fmt"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

// chain makes the trails of some things, one after the other, as they are exported.
func chain(things, entries int) (out []Entry) {
	at := time.Date(2031, 4, 30, 12, 0, 0, 123_456_000, time.UTC)
	for n := range things {
		before := zeros
		for i := range entries {
			e := Entry{Head: fmt.Sprintf("h%d", n), Kind: "part", Number: fmt.Sprintf("R-%d", n), Seq: i + 1, Deed: "d", Account: "a", By: "Tove", At: at.Add(time.Duration(i) * time.Minute), Action: "draft saved", Detail: `{"x":1}`, HashBefore: before}
			sum := Sum(e.Head, e.Seq, e.Deed, e.Account, e.At, e.Action, e.Detail, e.HashBefore)
			e.Hash = hex.EncodeToString(sum[:])
			before = e.Hash
			out = append(out, e)
		}
	}
	return out
}

func file(t require.TestingT, all []Entry) *bytes.Buffer {
	var b bytes.Buffer
	w := json.NewEncoder(&b)
	for _, e := range all {
		require.NoError(t, w.Encode(e))
	}
	return &b
}

func TestAFileThatWasNotTouchedIsWhole(t *testing.T) {
	c, err := Check(file(t, chain(3, 5)))
	require.NoError(t, err)
	assert.Equal(t, Checked{Entries: 15, Things: 3, Wrong: []string{}}, c)
	c, err = Check(strings.NewReader(""))
	require.NoError(t, err)
	assert.Zero(t, c.Entries)
	all := chain(1, 5)
	c, err = Check(file(t, append(all[1:2:2], all[3:]...)))
	require.NoError(t, err)
	assert.Equal(t, []int{3, 2, 0}, []int{c.Entries, c.Apart, len(c.Wrong)}, "a part of a trail is told from a wrong one")
}

// Whatever one changes in one entry of a file, or whichever entry one leaves out of its middle, it is noticed.
func TestWhateverIsChangedInAFileIsNoticed(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		all := chain(2, 4)
		i := rapid.IntRange(0, len(all)-1).Draw(t, "entry")
		e := &all[i]
		switch what := rapid.SampledFrom([]string{"head", "seq", "deed", "account", "at", "action", "detail", "before", "hash", "twice", "forged"}).Draw(t, "what"); what {
		case "head":
			e.Head += "x"
		case "seq":
			e.Seq += 7
		case "deed":
			e.Deed += "x"
		case "account":
			e.Account += "x"
		case "at":
			e.At = e.At.Add(time.Microsecond)
		case "action":
			e.Action += "x"
		case "detail":
			e.Detail += " "
		case "before":
			e.HashBefore = strings.Repeat("ab", 32)
		case "hash":
			e.Hash = strings.Repeat("ab", 32)
		case "twice":
			all = append(all, *e)
		case "forged": // with the hash that fits what it says now, but for the one that follows
			if e.Seq == 4 {
				t.Skip("the last entry of a trail is held by the one in the library, and by seals")
			}
			e.Detail = `{"x":2}`
			sum := Sum(e.Head, e.Seq, e.Deed, e.Account, e.At, e.Action, e.Detail, e.HashBefore)
			e.Hash = hex.EncodeToString(sum[:])
		}
		c, err := Check(file(t, all))
		require.NoError(t, err)
		assert.NotEmpty(t, c.Wrong)
	})
}

func TestWhatIsNoTrailIsRefusedWithItsLine(t *testing.T) {
	good := file(t, chain(1, 1)).String()
	for text, line := range map[string]string{"x\n": "line 1", good + "{}\n": "line 2", good + `{"head":"a","seq":0}`: "line 2", good + "\n" + "[1]\n": "line 3", strings.Repeat("x", 5<<20): "line 1"} {
		_, err := Check(strings.NewReader(text))
		if assert.Error(t, err) {
			assert.Contains(t, err.Error(), line)
		}
	}
}

func TestWhatAnEntryChanged(t *testing.T) {
	assert.Equal(t, []Change{{"power", "125 mW", "250 mW"}, {"case", "", "0805"}}, Changes(`{"changes":[{"path":"power","old":"125 mW","new":"250 mW"},{"path":"case","new":"0805"}]}`))
	assert.Empty(t, Changes(`null`))
	assert.Empty(t, Changes(`{"changes":7}`))
	assert.Equal(t, "Tove made R-1 from a.csv, row 7.", Says("Tove", "part", "R-1", "made by intake", `{"file":"a.csv","row":7}`))
}

func FuzzCheck(f *testing.F) {
	f.Add(file(f, chain(2, 3)).Bytes())
	f.Add([]byte("{}\n"))
	f.Fuzz(func(t *testing.T, b []byte) {
		c, err := Check(bytes.NewReader(b))
		if err == nil && c.Apart > c.Entries {
			t.Fatal("more entries apart than there are")
		}
	})
}
