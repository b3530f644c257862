package e2e

import (
	"bytes"
	"net/url"
	"os/exec"
	"regexp"
	"strings"
	"testing"
	"time"

	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jollydrawer/client"
	"jollydrawer/e2e/browser"
	"jollydrawer/internal/wire"
)

const demoPassword = "buoys-and-gauges"

// demonstration starts the demo company in a folder of its own and waits until it serves.
func demonstration(t *testing.T) *instance {
	t.Helper()
	i := &instance{log: &bytes.Buffer{}}
	i.cmd = exec.Command(binary, "demo", "--data", t.TempDir(), "--listen", "127.0.0.1:0")
	out := &watched{}
	i.cmd.Stdout, i.cmd.Stderr = out, i.log
	require.NoError(t, i.cmd.Start())
	t.Cleanup(i.leave) // it has a database of its own
	at := regexp.MustCompile(`The console is at (http://\S+)`)
	require.Eventually(t, func() bool {
		if m := at.FindStringSubmatch(out.String()); m != nil {
			i.url = m[1]
		}
		return i.url != ""
	}, 10*time.Minute, 100*time.Millisecond, "the demo did not start: %s", i.log)
	return i
}

// The boards of the demo company, each from the file as a design tool wrote it to a frozen revision that was costed and an order list that names suppliers and sums: by
// keyboard in the console, as its librarian.
func TestTheBoardsOfTheDemoGoFromRawFilesToOrdersByKeyboard(t *testing.T) {
	t.Parallel() // it waits more than it works
	i := demonstration(t)
	b, stop, err := browser.Open(i.url, 1280)
	require.NoError(t, err)
	t.Cleanup(stop)
	steps(t, b, b.SignIn("maren", demoPassword, "light"))
	p := byKeyboard(page{t, b})
	k := client.New(i.url, "")
	_, err = k.SignIn(t.Context(), "maren", demoPassword, "tests", 1)
	require.NoError(t, err)

	for _, c := range []struct {
		name, file string
		least      float64 // euros that forty boards come to
		buys       string
		hindered   bool // some of its regulators wait for a second person
	}{
		{"Tide logger again", "tide-logger.csv", 1000, "CUM32-256-QF48", false},
		{"Radar head again", "radar-head.csv", 2000, "CUM32-1M-LQ64", true},
		{"Solar charger again", "solar-charger.xlsx", 800, "CUM08-64-TS20", true},
	} {
		p.goTo("/boms")
		p.press("Bring in a BOM…")
		p.upload("File", demoFile(t, "boms/"+c.file))
		p.fill("Board and revision", c.name)
		require.NoError(t, p.b.Keys(kb.Enter))
		p.see("settled")
		p.press("proposals that nothing contradicts")
		p.see("proposals accepted")

		// What is left is answered line by line: the first that fits, or no part of the library, with a reason where the line contradicts it.
		left := func() (rows int) {
			now, err := k.BOM(t.Context(), c.name)
			require.NoError(t, err)
			for _, l := range now.Lines {
				if l.Verdict == "proposed" || l.Verdict == "several" || l.Verdict == "not in the library" {
					rows++
				}
			}
			return rows
		}
		rows := left()
		require.Positive(t, rows)
		require.NoError(t, p.b.Keys("n"))
		for n := rows; n > 0; n-- {
			require.NoError(t, p.b.Idle())
			text, err := p.b.Eval(`document.querySelector('[role=dialog]').innerText`)
			require.NoError(t, err)
			switch {
			case strings.Contains(text, "Why it is meant although"):
				p.fill("Why it is meant although the line contradicts it", "as built for years")
				require.NoError(t, p.b.Keys(kb.Tab)) // out of the field, where keys are letters
				p.press("Use this part")
			case strings.Contains(text, "a: use "):
				require.NoError(t, p.b.Keys("a"))
			default:
				require.NoError(t, p.b.Keys("x"))
				require.NoError(t, p.b.Keys("comes from the other workshop"+kb.Enter))
			}
			require.Eventually(t, func() bool { return left() == n-1 }, time.Minute, 50*time.Millisecond, "%s", text)
		}
		if there, _ := p.b.Eval(`String(document.querySelector('[role=dialog]') !== null)`); there == "true" {
			require.NoError(t, p.b.Keys(kb.Escape))
		}

		// What forty of them come to, and the order list.
		p.goTo("/boms/" + c.name + "/cost")
		p.fill("Boards", "40")
		require.NoError(t, p.b.Keys(kb.Enter))
		p.see("40 boards")
		cost, err := k.CostBOM(t.Context(), wire.BOMAt{BOM: c.name}, 40, nil)
		require.NoError(t, err)
		assert.Greater(t, cost.Sum.Float(), c.least, c.name)
		p.see(cost.Sum.String())
		list, err := p.b.EvalAwait("fetch('/api/v1/boms/" + url.PathEscape(c.name) + "/export?form=purchase&format=csv&boards=40').then((r) => r.text())")
		require.NoError(t, err)
		assert.Contains(t, list, c.buys)

		// Frozen, with what is open said.
		p.goTo("/boms/" + c.name)
		p.fill("Boards in a build", "40")
		require.NoError(t, p.b.Keys(kb.Enter))
		p.press("Freeze…")
		p.fill("What it is for", "lot of forty")
		if c.hindered {
			p.fill("Why it is frozen all the same", "regulators wait for their second source")
		}
		require.NoError(t, p.b.Keys(kb.Enter))
		p.see("is frozen.")
		frozen, err := k.BOMRevision(t.Context(), c.name, 1)
		require.NoError(t, err)
		assert.NotNil(t, frozen.Now, "it was costed, and says what it would come to now")
	}
}
