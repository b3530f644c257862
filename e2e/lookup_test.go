package e2e

import (
	"encoding/json"
	"fmt"
	"net/http"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jollydrawer/internal/wire"
)

// tick presses the check box whose label begins with a text.
func (p page) tick(where, text string) {
	p.t.Helper()
	hit, err := p.b.Eval(fmt.Sprintf(`(() => { const l = [...document.querySelectorAll(%q)].find((l) => l.textContent.trim().startsWith(%q)); if (l) l.querySelector('input').click(); return String(!!l); })()`, where+" label", text))
	steps(p.t, p.b, err)
	require.Equal(p.t, "true", hit, "there is no %q to tick", text)
	steps(p.t, p.b, p.b.Idle())
}

func TestFindingInTheConsole(t *testing.T) {
	i := serve2(t)
	k := i.admin(t)
	stocked(t, k)
	i.as(t, "maren", "librarian")
	i.as(t, "tove", "engineer")
	in, err := openIntake(t, k, "Marsh Lane Components", "a.csv", file(t, "suppliers/marsh-lane.csv"))
	require.NoError(t, err)
	takeIn(t, k, in)
	p := window(t, i, "maren")

	// By facts, with how each was read.
	p.goTo("/parts")
	p.fill("Find parts", "4k7 1%")
	steps(t, p.b, p.b.Keys("\r"))
	p.see("read as 4.7 kΩ")
	p.see("RES 4.7kΩ ±1% 125mW 0805")
	p.fill("Find parts", "4k8 0805")
	steps(t, p.b, p.b.Keys("\r"))
	p.see("Nothing fits")
	p.press("1 part with 4.7 kΩ instead of 4.8 kΩ")
	p.see("EW-R-00044")

	// The active part is shown beside the list, drawings and all; arrows go on to the next.
	p.goTo("/parts?q=4k7+1%25")
	p.press("□ Part beside")
	p.see("Marsh Lane Components ML-011083")
	p.see("body ▲ missing")
	_, err = p.b.Eval(`document.querySelector("[role=grid]").focus() ?? ""`)
	require.NoError(t, err)
	steps(t, p.b, p.b.Keys(kb.ArrowDown))
	p.see("Marsh Lane Components ML-012460")
	steps(t, p.b, p.b.Keys("b"))
	p.see("□ Part beside")

	// By facets, grouped, hits outside the filters counted aloud.
	p.goTo("/parts?q=res")
	p.tick("aside", "0603")
	p.see("are hidden by the filters")
	p.press("Sort and group…")
	p.choose("Sort by", "resistance")
	p.choose("Group by", "tolerance")
	p.press("✕")
	p.see("Tolerance: ±1 % · 72")

	// The view is saved, shared, and the same in another browser.
	p.press("Views…")
	p.fill("Save what is shown now as", "small ones by tolerance")
	p.tick("[role=dialog]", "Others see it too")
	p.press("Save the view")
	p.see("is saved and everybody sees it")
	address, err := p.b.Eval(`location.pathname + location.search`)
	require.NoError(t, err)
	other := window(t, i, "tove")
	other.goTo(address)
	other.see("Tolerance: ±1 % · 72")
	other.goTo("/parts")
	other.press("Views…")
	other.see("shared by Maren")
	other.press("small ones by tolerance")
	other.see("Tolerance: ±1 % · 72")

	// Two are compared.
	p.goTo("/compare?part=EW-R-00044&part=EW-R-00116")
	p.see("Power rating more is better 125 mW ● best 100 mW")

	// A copy says that it still equals its original.
	p.goTo("/parts/new?copy=EW-R-00044")
	p.see("As it stands this part equals EW-R-00044")
	p.fill("Resistance", "4k75")
	p.press("Save as a draft")
	p.see("RES 4.75kΩ")

	// Two that are one are merged; the number leads to the survivor.
	p.goTo("/parts/EW-R-00116")
	p.press("Merge…")
	p.fill("Number of the part that survives", "EW-R-00044")
	p.fill("Why", "a twin")
	steps(t, p.b, p.b.Press(`[role=dialog] button[type=submit]`))
	p.see("Former numbers EW-R-00116")
	p.goTo("/parts/EW-R-00116")
	p.see("EW-R-00044")
	v, err := k.Verify(t.Context())
	require.NoError(t, err)
	assert.Empty(t, v.Different)
}

func TestATemplateIsChangedWithAPreviewInTheConsole(t *testing.T) {
	i := serve2(t)
	k := i.admin(t)
	stocked(t, k)
	in, err := openIntake(t, k, "Marsh Lane Components", "a.csv", resistors("TPL", 5))
	require.NoError(t, err)
	takeIn(t, k, in)
	p := window(t, i, "admin")
	p.goTo("/cabinet?drawer=chip-resistors")
	p.see("all 5 parts have every required value")

	// A parameter is renamed: looked at first, then done, then taken back.
	steps(t, p.b, p.b.Press(`[aria-label="Change Tolerance"]`))
	p.fill("Key", "resistance-tolerance")
	p.fill("Label", "Resistance tolerance")
	p.press("Preview")
	p.see("5 parts change")
	p.see("can be taken back")
	p.press("Change 5 parts")
	p.see("the cabinet is at revision 2")
	p.goTo("/parts/EW-R-00001")
	p.see("Resistance tolerance ±1 %")
	p.goTo("/cabinet?drawer=chip-resistors")
	p.press("Take the last back…")
	p.press("Preview")
	p.press("Change 5 parts")
	p.see("the cabinet is at revision 3")

	// A pattern is tried on real parts, and a wrong one names the place.
	p.goTo("/cabinet?drawer=resistors")
	p.press("Edit…")
	p.fill("Description pattern", "R {resistance as marking} {colour}")
	p.press("Try on real parts")
	p.see("{colour} at character 27, which is not in the template")
	p.fill("Description pattern", "R {resistance as marking}[ {case}]")
	p.press("Try on real parts")
	p.see("R 1R 0805")
	p.press("Preview")
	p.see("RES 1Ω ±1% 0805 → R 1R 0805")
	p.press("Change 5 parts")
	p.see("the cabinet is at revision 4")
	cab, err := k.Cabinet(t.Context())
	require.NoError(t, err)
	raw, err := json.Marshal(cab.Document)
	require.NoError(t, err)
	same, err := k.ApplyCabinet(t.Context(), cab.Version, string(raw))
	require.NoError(t, err)
	assert.Equal(t, cab.Version, same.Version, "export then apply is the identity, whoever edited it")
}

func TestFindingAndChangingOnTheCommandLine(t *testing.T) {
	i := serve2(t)
	run := person(t, i)
	do := func(args ...string) string {
		t.Helper()
		out, stderr, code := run(args...)
		require.Zero(t, code, "%v: %s", args, stderr)
		return out
	}
	k := i.admin(t)
	stocked(t, k)
	in, err := openIntake(t, k, "Marsh Lane Components", "a.csv", file(t, "suppliers/marsh-lane.csv"))
	require.NoError(t, err)
	takeIn(t, k, in)
	assert.Contains(t, do("part", "find", "cap", ">=25 V", "not", "x5r", "--columns", "number,voltage-rating", "--sort", "-voltage-rating"), "50 V")
	assert.Contains(t, do("part", "find", "res", "--where", "case:0402", "--facets"), "Tolerance")
	_, stderr, code := run("part", "find", "4k8", "0805")
	assert.Zero(t, code)
	assert.Contains(t, stderr, "with 4.7 kΩ instead of 4.8 kΩ: jolly part find 0805 4.7 kΩ")
	assert.Contains(t, do("part", "compare", "EW-R-00044", "EW-R-00116"), "125 mW *")
	for _, name := range []string{"out.csv", "out.xlsx", "out.json"} {
		path := filepath.Join(t.TempDir(), name)
		do("part", "export", path, "res", "0402", "--columns", "number,resistance")
		raw, err := os.ReadFile(path)
		require.NoError(t, err)
		assert.NotEmpty(t, raw)
		if name == "out.json" {
			var rows []map[string]string
			require.NoError(t, json.Unmarshal(raw, &rows))
			assert.Len(t, rows, 18)
		}
	}
	_, stderr, code = run("part", "export", filepath.Join(t.TempDir(), "out.pdf"), "res")
	assert.Equal(t, 1, code)
	assert.Contains(t, stderr, "Use csv, json or xlsx.")
	do("view", "save", "small", "q=0402", "--shared")
	assert.Contains(t, do("view", "list"), "/parts?q=0402")

	// Templates: looked at first, then changed, then taken back.
	out, stderr, code := run("cabinet", "change", "rename", "parameter=power", "to=rated-power")
	require.Zero(t, code, stderr)
	assert.Contains(t, out, "Parts that change        166")
	assert.Contains(t, stderr, "Nothing was changed.")
	do("cabinet", "change", "rename", "parameter=power", "to=rated-power", "--apply")
	assert.Contains(t, do("crosswalk", "show", "Marsh Lane Components"), "to: rated-power")
	do("cabinet", "undo", "--apply")
	assert.Contains(t, do("cabinet", "history"), "took back")
	assert.Contains(t, do("cabinet", "use", "chip-resistors"), "Power rating")
	assert.Contains(t, do("part", "former-number", "EW-R-00044", "OLD 4711"), "OLD 4711")
	assert.Contains(t, do("part", "show", "old 4711"), "EW-R-00044")
	assert.Contains(t, do("part", "successor", "EW-R-00044", "EW-R-00045", "stopped"), "Replaced by")
	assert.Contains(t, do("verify"), "Differences    0")
	out, _, code = run("value", "--json", "2.2uF ±10% 25V X7R 1206", "0402")
	assert.Equal(t, 3, code)
	assert.Len(t, strings.Split(strings.TrimSpace(out), "\n"), 2, "one object a line")
	assert.Contains(t, do("cabinet", "starter"), "format: jolly-cabinet/1")
}

func TestOddQuestionsNeverEndInAnError(t *testing.T) {
	i := serve2(t)
	k := i.admin(t)
	stocked(t, k)
	ask := func(path string) (int, string) {
		req, err := http.NewRequestWithContext(t.Context(), http.MethodGet, i.url+"/api/v1"+path, nil)
		require.NoError(t, err)
		req.Header.Set("Authorization", "Bearer "+k.Token)
		res, err := http.DefaultClient.Do(req)
		require.NoError(t, err)
		defer res.Body.Close()
		var p wire.Problem
		_ = json.NewDecoder(res.Body).Decode(&p)
		return res.StatusCode, p.Detail
	}
	for _, q := range []string{"q=%3E%3D", "q=..", "q=not%20not%20not", "q=%22", "q=tolerance%3A", "q=%ff%fe", "sort=number,-mpn,,", "group=case&facets=true", "f=case%3A..", "f=resistance%3A..10k", "offset=99999999&sort=resistance"} {
		code, detail := ask("/parts?" + q)
		assert.Equal(t, http.StatusOK, code, "%s: %s", q, detail)
	}
	for path, says := range map[string]string{"/parts?f=nocolon": "names no parameter", "/part-list?format=pdf": "is no format", "/part-list?f=x": "names no parameter", "/comparison?part=a": "cannot be compared", "/comparison?part=a&part=b": "There is no part a", "/drawers/nowhere": "There is no drawer", "/parts?standing=gone": "standing", "/parts?columns=x": "There is no parameter",
		"/parts?sort=nothing,-nowhere,,": "no column \"nothing\" to sort by", "/parts?group=nowhere&facets=true": "no column \"nowhere\"", "/parts?f=resistance%3Agreen": "cannot be read as one value", "/parts?f=resistance%3A1..0": "cannot be read as one value", "/parts?f=height%3A-&f=nowhere%3A-": "no column \"nowhere\" to filter by"} {
		code, detail := ask(path)
		assert.True(t, code >= 400 && code < 500, "%s: %d", path, code)
		assert.Contains(t, detail, says, path)
	}
}
