package lifecycle

import (
	"fmt"
	"slices"
	"strings"
)

// modelsGate: the models that the document names are there, each of a revision in use; and where it asks for more, none is a stand-in
// and each was reviewed.
//
//	with: { places: "symbol, land pattern, body", stand-ins: refused, reviewed: yes }
var modelsGate = gate{about: "the models are there and released", of: ofParts, with: func(given map[string]string) (func(Facts) Answer, error) {
	places := []string{"symbol", "land pattern"}
	if text, ok := given["places"]; ok {
		places = nil
		for p := range strings.SplitSeq(text, ",") {
			p = strings.TrimSpace(p)
			if !slices.Contains([]string{"symbol", "land pattern", "body", "pin map"}, p) {
				return nil, fmt.Errorf("places has %q: use symbol, land pattern, body and pin map, with commas between them", p)
			}
			places = append(places, p)
		}
	}
	standIns, reviewed := given["stand-ins"], given["reviewed"]
	if standIns != "" && standIns != "refused" && standIns != "taken" {
		return nil, fmt.Errorf("stand-ins is %q: use refused or taken", standIns)
	}
	if reviewed != "" && reviewed != "yes" && reviewed != "no" {
		return nil, fmt.Errorf("reviewed is %q: use yes or no", reviewed)
	}
	return func(f Facts) Answer {
		var wrong []string
		var looked []ModelFact
		for _, place := range places {
			i := slices.IndexFunc(f.Models, func(m ModelFact) bool { return m.Place == place })
			if i < 0 {
				wrong = append(wrong, "there is no "+place)
				continue
			}
			m := f.Models[i]
			looked = append(looked, m)
			switch {
			case m.Meaning == MeansWithdrawn:
				wrong = append(wrong, fmt.Sprintf("the %s %s was withdrawn at revision %d", place, m.Name, m.Revision))
			case m.Revision == 0 || m.Meaning.OfDraft():
				wrong = append(wrong, fmt.Sprintf("the %s %s is not released", place, m.Name))
			case m.StandIn && standIns == "refused":
				wrong = append(wrong, fmt.Sprintf("a plain block stands in for the %s", place))
			case reviewed == "yes" && !m.Reviewed:
				wrong = append(wrong, fmt.Sprintf("the %s %s was not reviewed at revision %d", place, m.Name, m.Revision))
			}
		}
		return answer(some(wrong), "link models that are released and as the house wants them", given, looked, wrong)
	}, only(given, "places", "stand-ins", "reviewed")
}, second: func(given map[string]string) (Who, bool) { return reviewer(""), given["reviewed"] == "yes" }}
