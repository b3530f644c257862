package e2e

import (
	"database/sql"
	"encoding/json"
	"fmt"
	"math/rand/v2"
	"net/url"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/chromedp/chromedp/kb"
	"github.com/go-sql-driver/mysql"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jollydrawer/client"
	"jollydrawer/core/crosswalk"
	"jollydrawer/demo"
	"jollydrawer/internal/standin"
	"jollydrawer/internal/wire"
)

// jetty writes the workshop's old library to a file, with links that lead to a simulated supplier of this test.
func jetty(t *testing.T) (path, supplier string) {
	t.Helper()
	s, err := standin.Start(demo.Files, "127.0.0.1:0")
	require.NoError(t, err)
	t.Cleanup(func() { _ = s.Close() })
	path = filepath.Join(t.TempDir(), "jetty-workshop.csv")
	require.NoError(t, os.WriteFile(path, []byte(strings.ReplaceAll(file(t, "old-library/jetty-workshop.csv"), "http://suppliers.invalid", s.URL)), 0o644))
	u, err := url.Parse(s.URL)
	require.NoError(t, err)
	return path, u.Host
}

// agree does what the preview of a mend shows: Enter is enough.
func agree(t *testing.T, p page) {
	t.Helper()
	require.Eventually(t, func() bool {
		text, err := p.b.Eval(`document.activeElement.innerText`)
		return err == nil && strings.HasPrefix(text, "Change ")
	}, 10*time.Second, 20*time.Millisecond)
	require.NoError(t, p.b.Keys(kb.Enter))
	require.NoError(t, p.b.Idle())
}

func TestAnOldLibraryFromMessToCleanInTheConsole(t *testing.T) {
	t.Parallel() // it waits more than it works
	path, supplier := jetty(t)
	owner, dsn := freshSchema(t, shared)
	i := serve(t, owner, dsn, "--allow-inside", supplier)
	stocked(t, i.admin(t))
	i.as(t, "maren", "librarian")
	p := byKeyboard(window(t, i, "maren")) // without a mouse from here on
	p.goTo("/intakes")
	p.press("Bring in a file…")
	p.fill("Supplier", "Jetty workshop")
	p.upload("File", path)
	p.press("Open the intake")
	p.see("There is no crosswalk for Jetty workshop yet.")

	// Map: what is certain at once, the rest by hand, with the effect on real rows in view.
	p.press("Take over 9 suggestions")
	p.see("with 9 changes made here")
	p.press("Map JW No")
	p.choose("Fills", "take.number")
	p.press("Use the rule")
	p.press("Map Sheet")
	p.choose("Fills", "take.datasheet")
	p.press("Use the rule")
	p.see("datasheet link")
	p.press("Map Shelf")
	p.press("Leave the field out")

	// Where: the supplier's kinds go into drawers, and the pile shrinks.
	p.enter("step 2", `e.matches("nav[aria-label=Steps] button:nth-child(2)")`)
	p.see("Kinds without a drawer (3)")
	p.chooseFrom("Drawer of Widerst.", "Chip resistors")
	p.chooseFrom("Drawer of Kerko", "Ceramic capacitors")
	p.see("Kinds without a drawer (1)")
	p.enter("step 3", `e.matches("nav[aria-label=Steps] button:nth-child(3)")`)
	p.press("Map Diel.")
	p.choose("Fills", "dielectric")
	p.see("C0G") // NP0, as the dictionary spells it
	p.fill("Replace whole texts, one a line", "NP0 = C0G")
	p.see(`"NP0" stands for "C0G"`)
	p.press("Use the rule")

	// Datasheets: each file once, dead links become findings.
	p.enter("step 1", `e.matches("nav[aria-label=Steps] button:nth-child(1)")`)
	p.press("Fetch the datasheets")
	p.see("4 links led to 2 files; 2 led to none")

	// Mend: by cause.
	p.enter("step 4", `e.matches("nav[aria-label=Steps] button:nth-child(4)")`)
	p.see("looks like another spelling of Tidewright")
	p.press("looks like another spelling of Tidewright")
	p.press(`"Tidewrigth" is Tidewright`)
	p.agree()
	p.press("is doubtful as Capacitance")
	p.see("Read the field as though it is a marking code")
	p.press("Read the field as though it is a marking code")
	p.agree()
	p.press("own description says")
	p.see("Resistance is 4.7 kΩ, and the row's own description says 47 kΩ")
	p.enter("the first row", `e.matches("[role=grid]")`)
	p.see("As it came; a cell can be corrected")
	p.fill("Value", "47k")
	p.press("Correct")
	require.NoError(t, p.b.Keys(kb.Escape))
	p.press("there is no manufacturer part number")
	p.press("Leave these rows out")
	p.agree()
	p.press("is also in row")
	p.press("Leave these rows out")
	p.agree()
	p.press("no drawer is known for the kind")
	p.press(`Leave out the kind "Misc"`)
	p.agree()

	t.Logf("opened, mapped, sorted and mended without a mouse in %d acts, with %d presses of Tab between them", *p.acts, *p.tabs)
	assert.Less(t, *p.tabs, 500, "what is done next is not far from what was done")

	// Take in, look at what was made, take it back, and see the library as it was.
	p.enter("step 6", `e.matches("nav[aria-label=Steps] button:nth-child(6)")`)
	p.see("changes of the mapping become revision 1 of the crosswalk of Jetty workshop")
	p.see("cannot be taken in. Leave them out.")
	p.reach("leave them out", `e.matches("main form input[type=checkbox]")`)
	require.NoError(t, p.b.Keys(" "))
	total, err := p.b.Eval(`document.querySelector('main form button[type=submit]').innerText`)
	require.NoError(t, err)
	p.press(total)
	p.see("drafts were made, 0 parts changed")
	p.see("Its changes are the crosswalk’s revision 1.")
	p.goTo("/parts/JW-0101")
	p.see("RES 390kΩ ±5% 62.5mW 0402")
	p.see("tidewright-tw-series.pdf")
	k := i.admin(t)
	before, err := k.Parts(t.Context(), client.PartQuery{Limit: 1})
	require.NoError(t, err)
	assert.Equal(t, 235, before.Page.Total)

	// The same file again: it is known, line by line.
	p.goTo("/intakes")
	p.press("Bring in a file…")
	p.fill("Supplier", "Jetty workshop")
	p.upload("File", path)
	p.press("Open the intake")
	p.see("known 235") // the cell that was corrected by hand is corrected still
	p.enter("step 5", `e.matches("nav[aria-label=Steps] button:nth-child(5)")`)
	p.see("Value: “47k” for “4k7”")
	p.goTo("/intakes")
	p.reach("the list", `e.matches("[role=grid]")`) // the newest stands first
	require.NoError(t, p.b.Keys(kb.ArrowDown))
	require.NoError(t, p.b.Keys(kb.Enter))
	p.press("Take it back…")
	p.fill("Why", "it was only a trial")
	p.press("Take back 235 drafts")
	p.see("The intake was taken back")
	require.Eventually(t, func() bool {
		l, err := k.Parts(t.Context(), client.PartQuery{Limit: 1})
		return err == nil && l.Page.Total == 0
	}, time.Minute, 50*time.Millisecond)
	v, err := k.Verify(t.Context())
	require.NoError(t, err)
	assert.Empty(t, v.Different)
}

func TestAnOldLibraryOnTheCommandLine(t *testing.T) {
	path, supplier := jetty(t)
	owner, dsn := freshSchema(t, shared)
	i := serve(t, owner, dsn, "--allow-inside", supplier, "--allow-inside", fmt.Sprintf("127.0.0.1:%d", shared.Port))
	run := person(t, i)
	do := func(args ...string) string {
		t.Helper()
		out, stderr, code := run(args...)
		require.Zero(t, code, "%v: %s", args, stderr)
		return out
	}
	do("cabinet", "apply", "../demo/cabinet.yaml")
	do("intake", "open", "Jetty workshop", path)
	do("intake", "map", "IN-00001", "--suggested")
	do("intake", "map", "IN-00001", "JW No", "take.number")
	do("intake", "map", "IN-00001", "Sheet", "take.datasheet")
	do("intake", "sort", "IN-00001", "chip-resistors", "--kind", "Widerst.")
	do("intake", "sort", "IN-00001", "ceramic-capacitors", "--kind", "Kerko")
	assert.Contains(t, do("intake", "datasheets", "IN-00001"), "Distinct files  2")
	assert.Contains(t, do("intake", "coverage", "IN-00001"), "Dielectric *")

	// Causes are mended by name; every change can be taken back.
	mend := func(what, how string, say ...string) {
		t.Helper()
		var all []wire.Cause
		require.NoError(t, json.Unmarshal([]byte(do("--json", "intake", "causes", "IN-00001")), &all))
		for _, c := range all {
			if !strings.Contains(c.What, what) {
				continue
			}
			for _, way := range c.Mends {
				if strings.Contains(way.Label, how) {
					do(append([]string{"intake", "mend", "IN-00001", c.Name, way.Name, "--yes"}, say...)...)
					return
				}
			}
		}
		require.Fail(t, "no such mend", "%s: %s in %+v", what, how, all)
	}
	mend("looks like another spelling of Tidewright", "is Tidewright")
	mend("is doubtful as Capacitance", "marking code")
	mend("there is no manufacturer part number", "Leave these rows out")
	mend("own description says", "Accept as it is", "--say", "the description is the old one")
	shown, _, code := run("intake", "show", "IN-00001")
	assert.Equal(t, 3, code, "rows that cannot be taken in are findings")
	assert.Contains(t, shown, `"Tidewrigth" is Tidewright`)
	_, stderr, code := run("intake", "take-in", "IN-00001", "--leave-blocked", "--unless", "warning")
	assert.Equal(t, 3, code)
	assert.Contains(t, stderr, "nothing was taken in")
	var made wire.TakenIn
	require.NoError(t, json.Unmarshal([]byte(do("--json", "intake", "take-in", "IN-00001", "--leave-blocked")), &made))
	assert.Equal(t, 235, made.Parts)
	assert.Equal(t, 1, made.Revision)

	// The crosswalk gets better: the parts that came in through it are gone over again, and only blanks are filled.
	do("intake", "again", "IN-00001")
	assert.Regexp(t, `NP0 +C0G`, do("intake", "map", "IN-00002", "Diel.", "dielectric", "--try"))
	do("intake", "map", "IN-00002", "Diel.", "dielectric")
	var over wire.Intake
	out, _, _ := run("--json", "intake", "show", "IN-00002")
	require.NoError(t, json.Unmarshal([]byte(out), &over))
	assert.Equal(t, 73, over.Counts["update"])
	var changed wire.TakenIn
	require.NoError(t, json.Unmarshal([]byte(do("--json", "intake", "take-in", "IN-00002", "--leave-blocked")), &changed))
	assert.Equal(t, 73, changed.Updated)
	assert.Zero(t, changed.Parts)
	assert.Equal(t, 2, changed.Revision)
	assert.Contains(t, do("part", "trail", "JW-0231"), "changed JW-0231 by the intake of jetty-workshop.csv")
	do("intake", "again", "IN-00002")
	var still wire.Intake
	out, _, _ = run("--json", "intake", "show", "IN-00003")
	require.NoError(t, json.Unmarshal([]byte(out), &still))
	assert.Zero(t, still.Counts["update"]+still.Counts["new"], "going over it once more changes nothing")

	// An old library that is a database: the same rows by SQL, read only, are all known.
	old, _ := freshSchema(t, shared)
	conf, err := mysql.ParseDSN(old)
	require.NoError(t, err)
	db, err := sql.Open("mysql", old)
	require.NoError(t, err)
	defer db.Close()
	for _, q := range []string{"CREATE TABLE old_parts (no VARCHAR(20), what VARCHAR(40), ohms VARCHAR(20), size VARCHAR(10), make VARCHAR(40), make_no VARCHAR(60))",
		"INSERT INTO old_parts VALUES ('DB-1','Chip resistor','4k7','0805','Tidewright','DB-4K7'), ('DB-2','Chip resistor','8k2','0805','Tidewright','DB-8K2')"} {
		_, err := db.Exec(q)
		require.NoError(t, err)
	}
	source := fmt.Sprintf("%s:%s@tcp(127.0.0.1:%d)/%s", conf.User, conf.Passwd, shared.Port, conf.DBName)
	opened := do("intake", "open", "The old database", "--database", source, "--table", "old_parts")
	assert.Contains(t, opened, "old_parts.csv")
	assert.Contains(t, do("intake", "map", "IN-00004", "--suggested"), "new       2")
	_, stderr, code = run("intake", "open", "The old database", "--database", source, "--query", "DELETE FROM old_parts")
	assert.Equal(t, 1, code)
	assert.Contains(t, stderr, "The query is no SELECT, or it writes.")
	_, stderr, _ = run("intake", "open", "X", "--database", "a:secret-word@tcp(10.0.0.1:3306)/x", "--table", "t")
	assert.Contains(t, stderr, "inside a private network")
	assert.NotContains(t, stderr, "secret-word")
	assert.NotContains(t, i.log.String(), conf.Passwd+"@", "no password in the log")
	assert.Contains(t, do("verify"), "Differences    0")
}

func TestOnePartByPastingAndBySourceInTheConsole(t *testing.T) {
	i := serve2(t)
	k := i.admin(t)
	stocked(t, k)
	_, err := openIntake(t, k, "Marsh Lane Components", "marsh-lane.csv", file(t, "suppliers/marsh-lane.csv"))
	require.NoError(t, err)
	i.as(t, "tove", "engineer")
	p := window(t, i, "tove")

	// One part from a pasted table.
	p.goTo("/parts/new")
	p.fill("Text to read", "Category\tChip resistors\nResistance\t4.7 kOhms\nTolerance\t±1%\nPower rating\t0.125W\nCase\t0805\nManufacturer\tSandpiper Passives\nMfr Part No.\tSP-0805-4K7\nStock\t1200")
	p.press("Read it")
	p.see("4 values were read, 1 texts are not used, 1 are to be filled by hand")
	p.press("Save as a draft")
	p.see("EW-R-00001 SP-0805-4K7 RES 4.7kΩ ±1% 125mW 0805")
	p.see("is saved as a draft")

	// A source from a supplier's file that was loaded and never taken in: laid beside the part, equal, attached.
	p.press("Attach a source…")
	p.fill("Manufacturer or supplier number", "TW-0805-4K7-F")
	p.press("Find")
	p.press("Tidewright TW-0805-4K7-F RES 4.7kΩ ±1% 125mW 0805")
	p.see("equal in what identifies the part")
	p.press("Attach as a source and take over")
	p.see("is a source of EW-R-00001 now")
	part, err := k.Part(t.Context(), "EW-R-00001")
	require.NoError(t, err)
	require.Len(t, part.Draft.Sources, 2)
	assert.Equal(t, "-55 to 155 °C", part.Draft.Edit().Values["temperature-range"], "what was missing is taken over")

	// The same part again is found before it is saved.
	p.goTo("/parts/new")
	p.fill("Text to read", "Resistance: 4k7\nTolerance: 1 %\nPower rating: 1/8 W\nCase: 0805\nManufacturer: Tidewright\nMPN: tw-0805-4k7-f")
	p.press("Read it")
	p.see("The library has this manufacturer part number:")
	// And a line of facts is read as one.
	read, err := k.ReadPart(t.Context(), wire.ReadPart{Text: "RES 4.7 kΩ 1% 0.125 W 0805", Beside: "EW-R-00001"})
	require.NoError(t, err)
	assert.True(t, read.Equal)
}

// stages are the deeds of an intake on the way into the library, each of which a crash may interrupt.
func TestKillingTheServiceAtEachStageOfAnIntake(t *testing.T) {
	t.Parallel() // it waits more than it works
	owner, dsn := freshSchema(t, shared)
	i := serve(t, owner, dsn)
	k := i.admin(t)
	stocked(t, k)
	const n = 1500
	in, err := openIntake(t, k, "Marsh Lane Components", "first.csv", resistors("ST", n))
	require.NoError(t, err)
	takeIn(t, k, in)
	dearer := strings.ReplaceAll(resistors("ST", n), "±1 %", "±2 %")
	crash := func(during func()) {
		t.Helper()
		done := make(chan struct{})
		go func() { defer close(done); during() }()
		time.Sleep(time.Duration(rand.IntN(300)) * time.Millisecond)
		i.kill()
		<-done
		i = serve(t, owner, dsn)
		k = client.New(i.url, k.Token)
	}
	// retried repeats a step until it holds, as a person would after a crash.
	retried := func(step func() error) {
		t.Helper()
		require.Eventually(t, func() bool { err = step(); return err == nil }, time.Minute, 100*time.Millisecond, "%v", err)
	}
	var next wire.Intake
	crash(func() { _, _ = openIntake(t, k, "Marsh Lane Components", "second.csv", dearer) })
	retried(func() error { next, err = openIntake(t, k, "Marsh Lane Components", "second.csv", dearer); return err })
	edit := wire.IntakeEdit{Known: "replace", Changes: []crosswalk.Change{{Unused: []string{"Remark"}}}}
	crash(func() { _, _ = k.EditIntake(t.Context(), next.ID, next.Version, edit) })
	retried(func() error {
		if next, err = k.Intake(t.Context(), next.ID); err == nil && len(next.Changes) == 0 {
			next, err = k.EditIntake(t.Context(), next.ID, next.Version, edit)
		}
		return err
	})
	require.Equal(t, n, next.Counts["update"])
	require.Len(t, next.Changes, 1, "an edit that a crash interrupted is made once")
	job, err := k.TakeIn(t.Context(), next.ID, next.Version, "", wire.TakeIn{Digest: next.Digest})
	require.NoError(t, err)
	crash(func() {})
	retried(func() error {
		job, err = k.Job(t.Context(), job.ID)
		if err == nil && job.State != "done" {
			err = fmt.Errorf("the job is %s: %s", job.State, job.Error)
		}
		return err
	})
	assert.Equal(t, n, job.TakenIn.Updated)
	retried(func() error { next, err = k.Intake(t.Context(), next.ID); return err })
	crash(func() { _, _ = k.TakeBack(t.Context(), next.ID, next.Version, "a trial") })
	retried(func() error {
		if next, err = k.Intake(t.Context(), next.ID); err == nil && next.State == "taken in" {
			next, err = k.TakeBack(t.Context(), next.ID, next.Version, "a trial")
		}
		return err
	})
	part, err := k.Part(t.Context(), "EW-R-00001")
	require.NoError(t, err)
	assert.Equal(t, "±1 %", part.Draft.Edit().Values["tolerance"], "what was changed is as it was")
	v, err := k.Verify(t.Context())
	require.NoError(t, err)
	assert.Empty(t, v.Different)
}
