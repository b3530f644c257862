package e2e

import (
	"encoding/csv"
	"encoding/json"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jollydrawer/internal/wire"
)

// person is somebody at a terminal who has signed in.
func person(t *testing.T, i *instance) func(args ...string) (stdout, stderr string, code int) {
	env := []string{"JOLLY_CLIENT_FILE=" + filepath.Join(t.TempDir(), "client.json"), "JOLLY_PASSWORD=" + adminPassword}
	run := func(args ...string) (string, string, int) { return command(t, env, args...) }
	_, stderr, code := run("sign-in", "--server", i.url, "admin")
	require.Zero(t, code, stderr)
	return run
}

func TestTheMainJobOnTheCommandLine(t *testing.T) {
	run := person(t, serve2(t))
	do := func(args ...string) string {
		t.Helper()
		out, stderr, code := run(args...)
		require.Zero(t, code, "%v: %s", args, stderr)
		return out
	}
	do("cabinet", "apply", "../demo/cabinet.yaml")
	assert.Contains(t, do("cabinet", "apply", "../demo/cabinet.yaml"), "unchanged")
	exported := filepath.Join(t.TempDir(), "cabinet.yaml")
	require.NoError(t, os.WriteFile(exported, []byte(do("cabinet", "export")), 0o644))
	assert.Contains(t, do("cabinet", "apply", exported), "unchanged", "export then apply is the identity")
	do("crosswalk", "apply", "../demo/crosswalks/marsh-lane.yaml")
	do("intake", "open", "Marsh Lane Components", "../demo/suppliers/marsh-lane.csv")

	_, _, code := run("intake", "show", "IN-00001")
	assert.Equal(t, 3, code, "rows that cannot be taken in are findings")
	_, stderr, code := run("intake", "take-in", "IN-00001")
	assert.Equal(t, 1, code)
	assert.Contains(t, stderr, "4 rows cannot be taken in")
	var made wire.TakenIn
	require.NoError(t, json.Unmarshal([]byte(do("--json", "intake", "take-in", "IN-00001", "--leave-blocked")), &made))
	assert.Equal(t, 198, made.Parts)

	// The same file again changes nothing.
	do("intake", "open", "Marsh Lane Components", "../demo/suppliers/marsh-lane.csv")
	var again wire.TakenIn
	require.NoError(t, json.Unmarshal([]byte(do("--json", "intake", "take-in", "IN-00002", "--leave-blocked")), &again))
	assert.Zero(t, again.Parts)
	assert.Equal(t, 198, again.Counts["known"])
	var all wire.PartList
	require.NoError(t, json.Unmarshal([]byte(do("--json", "part", "find")), &all))
	assert.Equal(t, 198, all.Page.Total)

	// Two drafts hold a value nobody could read: they are not released.
	_, stderr, code = run("part", "release", "--find", "", "--note", "first stock")
	assert.Equal(t, 3, code)
	assert.Contains(t, stderr, "stay drafts")
	assert.Contains(t, do("part", "find", "4k7", "0805", "1%"), "EW-R-00044")

	copied := do("--json", "part", "copy", "EW-R-00044", "resistance=5k1", "--source", "Tidewright|TW-0805-5K1-F")
	var p wire.Part
	require.NoError(t, json.Unmarshal([]byte(copied), &p))
	assert.Equal(t, "RES 5.1kΩ ±1% 125mW 0805", p.Draft.Description)
	do("part", "release", p.Number, "--note", "copied for the tide logger")
	do("part", "edit", p.Number, "power=100mW")
	assert.Contains(t, do("part", "diff", p.Number, "1", "0"), "100 mW")
	assert.Contains(t, do("part", "trail", p.Number), "released")
	_, stderr, code = run("part", "edit", p.Number, "resistance=10 nF")
	assert.Equal(t, 1, code)
	assert.Contains(t, stderr, "it is a capacitance, and a resistance is wanted")
	_, stderr, code = run("part", "make", "chip-resistors", "resistance=1k", "--source", "Tidewright|tw 0805 1K f")
	assert.Equal(t, 1, code)
	assert.Contains(t, stderr, "is in the library as EW-R-00036")

	do("bom", "open", "../demo/boms/solar-charger.xlsx", "Solar charger")
	var bom wire.BOM
	require.NoError(t, json.Unmarshal([]byte(do("--json", "bom", "accept", "Solar charger", "--all")), &bom))
	for _, l := range bom.Lines {
		assert.True(t, l.Verdict != "proposed" || l.Contradicted, "row %d: all that nothing contradicts are accepted", l.Row)
	}
	_, stderr, code = run("bom", "accept", "Solar charger", "48")
	assert.Equal(t, 1, code)
	assert.Contains(t, stderr, "say why it is meant all the same")
	do("bom", "accept", "Solar charger", "48", "--reason", "the 0805 is fitted by hand")
	assert.Contains(t, do("bom", "line", "Solar charger", "48"), "contradicts")
	assert.Contains(t, do("bom", "columns", "Solar charger", "--confirm"), "identity")
	reels := filepath.Join(t.TempDir(), "reels.csv")
	require.NoError(t, os.WriteFile(reels, []byte("Ref,Qty,Value,MPN,Manufacturer\nR1,1,4k7,TW-0805-4K7-F-TR,Tidewright\n"), 0o600))
	assert.Contains(t, do("bom", "open", reels, "Reels"), "proposed")
	assert.Contains(t, do("bom", "line", "Reels", "R1"), "only names a packing")
	do("bom", "ending", "Tidewright", "TR")
	assert.Contains(t, do("bom", "show", "Reels"), "linked")
	do("bom", "ending", "Tidewright", "TR", "--withdraw")
	do("bom", "accept", "Reels", "R1")
	assert.Contains(t, do("bom", "show", "Reels"), "chosen by")
	assert.Contains(t, do("bom", "withdraw", "Reels", "R1"), "proposed")
	for _, name := range []string{"out.csv", "out.xlsx"} {
		do("bom", "export", "Solar charger", filepath.Join(t.TempDir(), name))
	}
	rows, err := csv.NewReader(strings.NewReader(do("bom", "export", "Solar charger", "-"))).ReadAll()
	require.NoError(t, err)
	assert.Len(t, rows, 48)
	assert.Contains(t, do("verify"), "Differences    0")

	_, _, code = run("part", "show")
	assert.Equal(t, 2, code, "wrong usage")
	_, stderr, code = run("part", "show", "EW-R-77777")
	assert.Equal(t, 1, code)
	assert.Contains(t, stderr, "There is no such part.")
}

// serve2 starts a service on a fresh schema of the shared server.
func serve2(t *testing.T) *instance {
	t.Helper()
	owner, dsn := freshSchema(t, shared)
	return serve(t, owner, dsn)
}

func TestTheDemoLoadsOnceAlsoInAPathWithASpace(t *testing.T) {
	t.Parallel() // it waits more than it works
	data := filepath.Join(t.TempDir(), "demo data")
	run := func() (s struct {
		Loaded                  bool
		Parts, Drafts, InReview int
		Released                int
		BOMs                    []struct {
			Lines, Revision int
			Counts          map[string]int
			Boards          int64
			Sum             string
		}
	}) {
		out, stderr, code := command(t, nil, "demo", "--once", "--json", "--data", data, "--listen", "127.0.0.1:0")
		require.Zero(t, code, stderr)
		require.NoError(t, json.Unmarshal([]byte(out), &s))
		return s
	}
	first := run()
	assert.True(t, first.Loaded)
	assert.Equal(t, 381, first.Parts)
	assert.Equal(t, 381, first.Released+first.Drafts+first.InReview)
	require.Len(t, first.BOMs, 5)
	for i, b := range first.BOMs {
		if i == 3 { // the one that is built in variants, of sub-assemblies
			assert.Equal(t, []int{24, 18, 3}, []int{b.Lines, b.Counts["linked"], b.Counts["sub-assembly"]})
			continue
		}
		assert.GreaterOrEqual(t, b.Lines, 40)
		assert.LessOrEqual(t, b.Lines, 120)
		assert.Greater(t, b.Counts["linked"], 35)
		assert.Equal(t, []int{1, 1, 1, 0, 2}[i], b.Counts["not in the library"], "on the next file the test pads are fitted")
	}
	assert.Equal(t, []any{1, int64(40), true}, []any{first.BOMs[0].Revision, first.BOMs[0].Boards, strings.HasSuffix(first.BOMs[0].Sum, " EUR")}, "the first board is frozen with what its build came to")
	second := run()
	assert.False(t, second.Loaded)
	second.Loaded = true
	assert.Equal(t, first, second)
}
