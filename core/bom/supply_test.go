package bom

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
)

func TestWhatABuildLacksAndWhetherMoreComesInTime(t *testing.T) {
	day := func(text string) time.Time {
		d, err := time.Parse(time.DateOnly, text)
		if err != nil {
			t.Fatal(err)
		}
		return d
	}
	today := day("2026-11-29")
	for name, c := range map[string]struct {
		s    Supplied
		need int64
		due  string
		want []string
	}{
		"enough":                        {Supplied{Stock: 40, Known: true, LeadDays: 90}, 40, "2026-12-01", nil},
		"one piece short":               {Supplied{Stock: 39, Known: true, LeadDays: -1}, 40, "", []string{"stock-short"}},
		"nobody says":                   {Supplied{LeadDays: 90}, 40, "2026-12-01", nil},
		"short, and no date":            {Supplied{Stock: 1, Known: true, LeadDays: 90}, 40, "", []string{"stock-short"}},
		"short, and in time":            {Supplied{Stock: 1, Known: true, LeadDays: 30}, 40, "2026-12-29", []string{"stock-short"}},
		"short, and a day late":         {Supplied{Stock: 1, Known: true, LeadDays: 31}, 40, "2026-12-29", []string{"stock-short", "lead-late"}},
		"short, and nobody says when":   {Supplied{Stock: 1, Known: true, LeadDays: -1}, 40, "2026-12-29", []string{"stock-short"}},
		"short, and at once":            {Supplied{Stock: 1, Known: true, LeadDays: 0}, 40, "2026-11-29", []string{"stock-short"}},
		"short, for a day that is past": {Supplied{Stock: 1, Known: true, LeadDays: 0}, 40, "2026-11-28", []string{"stock-short", "lead-late"}},
		"over a leap day":               {Supplied{Stock: 1, Known: true, LeadDays: 457}, 40, "2028-02-29", []string{"stock-short"}},
	} {
		var due time.Time
		if c.due != "" {
			due = day(c.due)
		}
		var got []string
		for _, f := range Lacking(c.s, c.need, 10, today, due) {
			got = append(got, f.Cause)
			assert.Contains(t, Causes, f.Cause)
		}
		assert.Equal(t, c.want, got, name)
	}
	late := Lacking(Supplied{Stock: 1, Known: true, LeadDays: 84}, 40, 10, today, day("2027-01-15"))[1]
	assert.Equal(t, "more of it come in 84 days, on 2027-02-21, and the build is on 2027-01-15", late.What)
}
