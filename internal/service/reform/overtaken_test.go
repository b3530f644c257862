package reform_test

import (
	"fmt"
	"strings"
	"sync"
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

// colleague works at another instance while templates are changed here, and keeps in mind what each part has to be.
type colleague struct {
	housetest.House
	mu       sync.Mutex
	n        int
	drafts   map[string]string // number → tolerance of the draft, or of what is in use where there is none
	released map[string]string
}

// key is what the parameter is called by now.
func (c *colleague) key() string {
	cab, err := c.Cabinets.Get(c.T.Context(), c.Me)
	require.NoError(c.T, err)
	for _, p := range cab.Document.Parameters {
		if p.Key == "exactness" {
			return p.Key
		}
	}
	return "tolerance"
}

// otherName is what a parameter called key is renamed to: one of two names.
func otherName(key string) string {
	return map[string]string{"tolerance": "exactness", "exactness": "tolerance"}[key]
}

func (c *colleague) edit(mpn, tolerance string) wire.PartEdit {
	e := housetest.Rated("4k7", mpn)
	delete(e.Values, "tolerance")
	if tolerance != "" {
		e.Values[c.key()] = tolerance
	}
	return e
}

// tolerances are those that are drawn from, as they are shown; blank: the part has none, and nothing of it changes.
var tolerances = []string{"±1 %", "±2 %", "±5 %", ""}

// makes makes parts and returns their numbers. A change that comes between is met by making the part anew.
func (c *colleague) makes(some int, tolerance string) (numbers []string) {
	for range some {
		c.mu.Lock()
		c.n++
		mpn := fmt.Sprint("M-", c.n)
		c.mu.Unlock()
		require.Eventually(c.T, func() bool {
			p, err := c.Parts.Create(c.T.Context(), deed.Call{Actor: c.Me.Actor}, c.edit(mpn, tolerance))
			if err != nil {
				return false
			}
			c.mu.Lock()
			c.drafts[p.Number] = tolerance
			c.mu.Unlock()
			numbers = append(numbers, p.Number)
			return true
		}, 30*time.Second, time.Millisecond)
	}
	return numbers
}

func (c *colleague) saves(number, tolerance string) {
	require.Eventually(c.T, func() bool {
		p, err := c.Parts.Get(c.T.Context(), c.Me, number)
		require.NoError(c.T, err)
		_, err = c.Parts.Save(c.T.Context(), deed.Call{Actor: c.Me.Actor}, p.ID, p.Version, c.edit(p.Newest().Sources[0].MPN, tolerance))
		return err == nil
	}, 30*time.Second, time.Millisecond)
	c.drafts[number] = tolerance
}

func (c *colleague) releases(number string) {
	require.Eventually(c.T, func() bool {
		p, err := c.Parts.Get(c.T.Context(), c.Me, number)
		require.NoError(c.T, err)
		_, err = c.Lifecycles.Release(c.T.Context(), deed.Call{Actor: c.Me.Actor}, p.ID, p.Version, wire.Release{Note: "ready"})
		return err == nil
	}, 30*time.Second, time.Millisecond)
	c.released[number] = c.drafts[number]
}

// A change of templates that others overtake at any of its steps carries over all that they wrote, loses nothing of it, and says of
// how many parts it did so.
func TestWhatOthersWriteAtAnyStepOfAChangeIsCarriedOver(t *testing.T) {
	s, owner, line := testdb.OpenLine(t)
	h := housetest.OpenOn(t, s, owner, 20*time.Millisecond)
	c := &colleague{House: h.Colleague(), drafts: map[string]string{}, released: map[string]string{}}
	var parts []string // each made in turn: a draft, one in use, one in use with a draft beside; with a tolerance and without
	for i := range 16 {
		number := c.makes(1, tolerances[i%4])[0]
		parts = append(parts, number)
		if i/4 > 0 && tolerances[i%4] != "" {
			c.releases(number)
			if i/4 > 1 {
				c.saves(number, tolerances[(i+1)%4])
			}
		}
	}
	mapped := map[string]int{} // suppliers' crosswalks, by how often they were made
	maps := func(supplier string) {
		require.Eventually(t, func() bool {
			_, err := c.Cabinets.ApplyCrosswalk(t.Context(), deed.Call{Actor: c.Me.Actor}, mapped[supplier], strings.NewReplacer("Marsh Lane", supplier, "to: tolerance", "to: "+c.key()).Replace(housetest.CrosswalkText))
			return err == nil
		}, 30*time.Second, time.Millisecond)
		now, err := c.Cabinets.Crosswalk(t.Context(), c.Me, supplier)
		require.NoError(t, err)
		mapped[supplier] = now.Version
	}
	maps("Osier")
	without := func() string { return c.makes(1, "")[0] }
	const link, show, look, guard = "INSERT INTO trail (head, seq, deed, account, at, action, detail, hash_before, hash) SELECT", "UPDATE staged_heads", "SELECT COALESCE(MAX(position)", "UPDATE cabinet_guards SET n = n + 1"
	for _, step := range []struct {
		name, before string
		others       func()
	}{
		{"nobody", "no statement", func() {}},
		{"saved while it is staged", "INSERT INTO contents", func() { c.saves(parts[0], "±2 %"); c.saves(parts[5], "±5 %"); c.saves(parts[3], "±1 %") }},
		{"made while it is staged", "INSERT INTO staged_heads", func() { c.makes(3, "±1 %"); without() }},
		{"released while it is staged", "INSERT INTO staged_heads", func() { c.releases(parts[1]); c.saves(parts[8], "") }},
		{"saved before it is shown", link, func() { c.saves(parts[2], "±1 %") }},
		{"made before it is shown", link, func() { c.makes(25, "±5 %") }},
		{"made while it is shown", show, func() { c.makes(2, "±2 %"); c.saves(without(), "±1 %") }},
		{"many made while it is shown", show, func() { c.makes(45, "±2 %") }},
		{"a crosswalk made while it is staged", "INSERT INTO contents", func() { maps("Reedbed") }},
		{"a crosswalk made before everybody waits", guard, func() { maps("Saltings") }},
		{"made while it is looked", look, func() { c.releases(c.makes(2, "±2 %")[0]) }},
		{"made before everybody waits", guard, func() { c.makes(3, "±1 %"); c.saves(c.makes(1, "")[0], "±5 %") }},
	} {
		now := c.key()
		other := otherName(now)
		came := false
		line.Before(step.before, func() { came = true; step.others() })
		_, j := h.Change(wire.CabinetChange{Steps: []cabinet.Step{{Do: cabinet.Rename, Parameter: now, To: other}}, Note: step.name})
		assert.Equal(t, step.before != "no statement", came, "%s: it is met", step.name)
		c.Level()
		h.Level()
		carried := 0
		for number, tolerance := range c.drafts {
			p, err := h.Parts.Get(t.Context(), h.Me, number)
			require.NoError(t, err)
			assert.Equal(t, tolerance, p.Newest().Edit().Values[other], "%s: %s", step.name, number)
			assert.Empty(t, p.Newest().Edit().Values[now], "%s: %s has nothing under the name of before", step.name, number)
			if was, ok := c.released[number]; ok {
				assert.Equal(t, was, p.Released.Edit().Values[other], "%s: what is in use of %s", step.name, number)
			}
			trail, err := h.Parts.Trail(t.Context(), h.Me, p.ID, 0, 1)
			require.NoError(t, err)
			if trail.Items[0].Action == "template changed" && strings.Contains(trail.Items[0].Detail, `"`+step.name+`"`) {
				carried++
			}
		}
		assert.Equal(t, carried, j.Changed.Parts, step.name)
		for supplier := range mapped {
			cw, err := h.Cabinets.Crosswalk(t.Context(), h.Me, supplier)
			require.NoError(t, err)
			assert.Contains(t, cw.Text, "to: "+other, "%s: the crosswalk of %s", step.name, supplier)
			assert.NotContains(t, cw.Text, "to: "+now, "%s: the crosswalk of %s", step.name, supplier)
		}
		v, err := h.Audit.Verify(t.Context(), h.Me)
		require.NoError(t, err)
		assert.Empty(t, v.Different, step.name)
	}
}

// Whatever happens to one of its statements, a change is made once and as a whole.
func TestAChangeIsMadeOnceWhateverHappensToOneOfItsStatements(t *testing.T) {
	s, owner, line := testdb.OpenLine(t)
	h := housetest.OpenOn(t, s, owner, 20*time.Millisecond)
	c := &colleague{House: h, drafts: map[string]string{}, released: map[string]string{}}
	c.releases(c.makes(1, "±1 %")[0])
	both := c.makes(1, "±2 %")[0]
	c.releases(both)
	c.saves(both, "±5 %")
	c.makes(1, "")
	line.Fail(0, "")
	rename := func() (now, other string) {
		now = c.key()
		other = otherName(now)
		h.Change(wire.CabinetChange{Steps: []cabinet.Step{{Do: cabinet.Rename, Parameter: now, To: other}}})
		return now, other
	}
	rename()
	statements, _ := line.Count()
	require.Greater(t, statements, 20)
	revision := 2
	for n := 1; n <= statements; n++ {
		fault := testdb.Faults[n%len(testdb.Faults)]
		cab, err := h.Cabinets.Get(t.Context(), h.Me)
		require.NoError(t, err)
		line.Fail(n, fault)
		now, other := rename()
		line.Fail(0, "")
		after, err := h.Cabinets.Get(t.Context(), h.Me)
		require.NoError(t, err)
		assert.Equal(t, cab.Revision+1, after.Revision, "%s at statement %d", fault, n)
		revision++
		for number, tolerance := range c.drafts {
			p, err := h.Parts.Get(t.Context(), h.Me, number)
			require.NoError(t, err)
			assert.Equal(t, tolerance, p.Newest().Edit().Values[other], "%s at statement %d: %s", fault, n, number)
			assert.Empty(t, p.Newest().Edit().Values[now], "%s at statement %d: %s", fault, n, number)
			if was, ok := c.released[number]; ok {
				assert.Equal(t, was, p.Released.Edit().Values[other], "%s at statement %d: %s", fault, n, number)
				assert.Equal(t, revision, p.Revision, "%s at statement %d: %s is released once more, and once", fault, n, number)
			}
		}
	}
	h.Level()
	v, err := h.Audit.Verify(t.Context(), h.Me)
	require.NoError(t, err)
	assert.Empty(t, v.Different)
}
