package model_test

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"jollydrawer/core/model"
	"jollydrawer/core/model/modeltest"
)

// Of pairs whose answer is known, none that is not the same passes as the same, and none that is the same is missed; of what is nearly the
// same, it is said what differs.
func TestTheSameIsWhatMakesTheSameBoard(t *testing.T) {
	m := modeltest.New(1)
	same, other, said := 0, 0, 0
	for range 2000 {
		p := m.Pair()
		for _, c := range []*model.Content{p.A, p.B} {
			if !assert.NoError(t, c.Check(), p.What) {
				return
			}
		}
		got := model.Same(p.A, p.B)
		assert.Equal(t, got, model.Same(p.B, p.A), "whichever way they are compared: %s", p.What)
		if got != p.Same {
			t.Errorf("%s: the same is %t; %+v", p.What, got, model.Compare(p.A, p.B, model.MM/20))
			continue
		}
		var known model.Alike[int]
		known.Add(p.A, 1)
		_, found := known.Find(p.B)
		assert.Equal(t, p.Same, found, "found among others: %s", p.What)
		d := model.Compare(p.A, p.B, model.MM/20)
		assert.Equal(t, p.Same, d.Same, p.What)
		if p.Same {
			same++
			continue
		}
		other++
		if d.Near {
			said++
			assert.NotEmpty(t, d.What, p.What)
		}
	}
	assert.Greater(t, same, 300)
	assert.Greater(t, other, 500)
	assert.Greater(t, said, 500)
}

// Of bodies whose right place is known, none is corrected wrongly: what is not certain is asked.
func TestNoBodyIsCorrectedWrongly(t *testing.T) {
	m := modeltest.New(9)
	count := map[string]int{}
	for range 2000 {
		s := m.Seat()
		sits := model.Fit(s.Body, "b", s.Land)
		_, certain := sits.Certain()
		switch {
		case certain && (!s.Near(s.Put(sits)) || !s.OnItsLeads(sits)):
			count["wrongly corrected"]++
			t.Errorf("%s: %+v for %+v on %+v", s.What, sits, s.Body, s.Land)
			if count["wrongly corrected"] > 3 {
				return
			}
		case certain:
			count["right"]++
		case len(sits.Findings) > 0 && s.Wrong:
			count["asked or said"]++
		case len(sits.Findings) > 0:
			count["asked without need"]++
		case s.Wrong:
			count["missed: "+s.What]++
		default:
			count["nothing to say"]++
		}
	}
	t.Log(count)
	assert.Greater(t, count["right"], 100)
	assert.Greater(t, count["asked or said"], 500)
	for what, n := range count {
		if len(what) > 6 && what[:6] == "missed" {
			assert.Less(t, n, 40, what)
		}
	}
}
