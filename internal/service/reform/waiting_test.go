package reform_test

import (
	"fmt"
	"net/url"
	"os"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jollydrawer/core/cabinet"
	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/service/housetest"
	"jollydrawer/internal/testdb"
	"jollydrawer/internal/wire"
)

// namer is a colleague whose crosswalks and saved views name a parameter that is renamed.
type namer struct {
	*colleague
	mapped map[string]int // suppliers, by the version of their crosswalk
	views  map[string]bool
}

// maps applies the crosswalk of a supplier, and views keeps a view, as their page shows the parameter at that moment.
func (n *namer) maps(supplier string) {
	text := strings.NewReplacer("Marsh Lane", supplier, "to: tolerance", "to: "+n.key(), "from: Tol", fmt.Sprint("from: Tol ", n.mapped[supplier])).Replace(housetest.CrosswalkText)
	now, err := n.Cabinets.ApplyCrosswalk(n.T.Context(), deed.Call{Actor: n.Me.Actor}, n.mapped[supplier], text)
	require.NoError(n.T, err)
	n.mapped[supplier] = now.Version
}

func (n *namer) keeps(view string) {
	_, err := n.Finder.SaveView(n.T.Context(), deed.Call{Actor: n.Me.Actor}, wire.ViewEdit{Name: view, Query: "f=" + n.key() + ":1%25"})
	require.NoError(n.T, err)
	n.views[view] = true
}

// follow asserts that all of them name the parameter as it is called now.
func (n *namer) follow(step string) {
	now := n.key()
	for supplier := range n.mapped {
		cw, err := n.Cabinets.Crosswalk(n.T.Context(), n.Me, supplier)
		require.NoError(n.T, err)
		assert.Contains(n.T, cw.Text, "to: "+now, "%s: the crosswalk of %s", step, supplier)
		n.mapped[supplier] = cw.Version
	}
	l, err := n.Finder.Views(n.T.Context(), n.Me)
	require.NoError(n.T, err)
	assert.Len(n.T, l.Items, len(n.views), step)
	for _, v := range l.Items {
		q, err := url.ParseQuery(v.Query)
		require.NoError(n.T, err)
		assert.Equal(n.T, now+":1%", q.Get("f"), "%s: the view %s", step, v.Name)
	}
}

func renaming(t *testing.T) (h housetest.House, n *namer, line *testdb.Line, rename func()) {
	s, owner, line := testdb.OpenLine(t)
	h = housetest.OpenOn(t, s, owner, 20*time.Millisecond)
	n = &namer{&colleague{House: h.Colleague(), drafts: map[string]string{}, released: map[string]string{}}, map[string]int{}, map[string]bool{}}
	n.releases(n.makes(1, "±1 %")[0])
	return h, n, line, func() {
		now := n.key()
		other := otherName(now)
		h.Change(wire.CabinetChange{Steps: []cabinet.Step{{Do: cabinet.Rename, Parameter: now, To: other}}})
		n.Level()
		h.Level()
	}
}

// What everybody waits for while a parameter is renamed is no more where more things name it.
func TestEverybodyWaitsNoLongerWhereMoreNamesAParameter(t *testing.T) {
	_, n, line, rename := renaming(t)
	waited := func() (statements int) {
		line.Before("UPDATE cabinet_guards SET n = n + 1", func() { line.Fail(0, "") })
		line.Before("INSERT INTO deeds", func() { statements, _ = line.Count() })
		rename()
		return statements
	}
	n.maps("Osier")
	n.keeps("mine")
	few := waited()
	n.follow("few")
	require.Greater(t, few, 5)
	for i := range 12 {
		n.maps(fmt.Sprint("Osier ", i))
		n.keeps(fmt.Sprint("mine ", i))
	}
	assert.Equal(t, few, waited())
	n.follow("many")
}

// What somebody saves in the very moment in which it is written to follow a rename follows it too.
func TestWhatIsSavedWhileItIsRenamedFollows(t *testing.T) {
	_, n, line, rename := renaming(t)
	n.maps("Osier")
	n.keeps("mine")
	const view, revision, guard = "UPDATE views SET query", "INSERT INTO `revisions`", "UPDATE cabinet_guards SET n = n + 1"
	for _, step := range []struct {
		name   string
		before func(others func())
		others func()
	}{
		{"a view, found and not yet written", func(f func()) { line.Before(view, f) }, func() { n.keeps("mine") }},
		{"a crosswalk, found and not yet written", func(f func()) { line.Before(revision, func() { line.Before(revision, f) }) }, func() { n.maps("Osier") }},
		{"others, when those that were there are written", func(f func()) { line.Before(guard, f) }, func() { n.maps("Reedbed"); n.keeps("another") }},
	} {
		came := false
		step.before(func() { came = true; step.others() })
		rename()
		assert.True(t, came, "%s: it is met", step.name)
		n.follow(step.name)
	}
}

// A crosswalk that is applied at any statement of a rename's write follows it, or is applied anew under the name of now.
func TestACrosswalkAppliedAtAnyStatementFollows(t *testing.T) {
	_, n, line, rename := renaming(t)
	n.maps("Osier")
	n.maps("Saltings")
	line.Fail(0, "")
	rename()
	statements, _ := line.Count()
	n.follow("nobody")
	step := max(1, statements/10)
	if os.Getenv("JOLLY_SOAK") != "" {
		step = 1
	}
	met := 0
	for at := 1; at <= statements; at += step {
		field := fmt.Sprint("Tol at ", at)
		applied := make(chan bool, 1)
		apply := func() {
			text := strings.NewReplacer("Marsh Lane", "Osier", "from: Tol", "from: "+field).Replace(housetest.CrosswalkText)
			for done := false; !done && t.Context().Err() == nil; {
				cw, err := n.Cabinets.Crosswalk(t.Context(), n.Me, "Osier")
				if err == nil {
					_, err = n.Cabinets.ApplyCrosswalk(t.Context(), deed.Call{Actor: n.Me.Actor}, cw.Version, strings.Replace(text, "to: tolerance", "to: "+n.key(), 1))
				}
				done = err == nil
			}
			applied <- true
		}
		left := at
		var count func()
		count = func() {
			if left--; left > 0 {
				line.Before("", count)
				return
			}
			go apply()
			time.Sleep(20 * time.Millisecond) // it comes as far as it may; whether it does changes nothing of what has to be
		}
		line.Before("", count)
		rename()
		if left > 0 { // this write had fewer statements
			line.Before("", func() {})
			continue
		}
		<-applied
		met++
		n.Level()
		n.follow(field)
		cw, err := n.Cabinets.Crosswalk(t.Context(), n.Me, "Osier")
		require.NoError(t, err)
		assert.Contains(t, cw.Text, "from: "+field+"\n", "what was applied is there")
	}
	assert.Greater(t, met, 5)
}
