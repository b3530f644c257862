// Package lifecycle holds the two things that are never mixed: a revision's status, and a part's standing.
package lifecycle

import "fmt"

// Status says where content is on its way.
type Status string

// The statuses. A record with a released revision and newer unreleased edits is Released with a draft beside it.
const (
	Draft      Status = "draft"
	Released   Status = "released"
	Superseded Status = "superseded"
)

// Standing says how a part may be used.
type Standing string

// The standings.
const (
	Active     Standing = "active"
	NotForNew  Standing = "not for new designs"
	Obsolete   Standing = "obsolete"
	NoStanding Standing = ""
)

// Standings lists the standings in the order of a part's life.
var Standings = []Standing{Active, NotForNew, Obsolete}

// ParseStanding reads a standing.
func ParseStanding(s string) (Standing, error) {
	for _, k := range Standings {
		if string(k) == s {
			return k, nil
		}
	}
	return NoStanding, fmt.Errorf("%q is no standing: use active, not for new designs or obsolete", s)
}
