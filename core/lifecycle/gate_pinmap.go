package lifecycle

import "fmt"

// pinMapGate: the pin map, where the part needs one, was signed by a reviewer at the revision that the part holds.
var pinMapGate = gate{about: "the pin map was reviewed", of: ofParts, with: plain(func(f Facts) Answer {
	for _, m := range f.Models {
		switch {
		case m.Place != "pin map":
		case m.Meaning == MeansWithdrawn:
			return answer(fmt.Sprintf("the pin map %s was withdrawn at revision %d", m.Name, m.Revision), "take a newer one", m)
		case !m.Reviewed:
			return answer(fmt.Sprintf("the pin map %s was not reviewed at revision %d", m.Name, m.Revision), "have it reviewed against the datasheet", m)
		default:
			return answer("", "", m)
		}
	}
	return answer("", "")
}), second: func(map[string]string) (Who, bool) { return reviewer(""), true }}
