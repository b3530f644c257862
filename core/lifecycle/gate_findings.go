package lifecycle

import (
	"fmt"
	"slices"
	"strings"

	"jollydrawer/core/finding"
)

// findingsGate: no finding is open that is worse than the document permits; nothing worse than a warning where it says nothing.
// What a person waived is not open, and a required parameter that is blank has a gate of its own.
var findingsGate = gate{about: "no finding is open that is worse than the document permits", with: func(given map[string]string) (func(Facts) Answer, error) {
	order := []finding.Severity{"none", finding.Note, finding.Warning}
	worst := finding.Warning
	if text, ok := given["at most"]; ok {
		worst = finding.Severity(text)
	}
	permitted := slices.Index(order, worst)
	if permitted < 0 {
		return nil, fmt.Errorf("at most %q: use none, note or warning", string(worst))
	}
	return func(f Facts) Answer {
		var open, causes []string
		for _, x := range f.Findings {
			if i := slices.Index(order, x.Severity); x.Waived == "" && (i < 0 || i > permitted) && !strings.HasPrefix(x.Cause, "required:") {
				open, causes = append(open, x.What), append(causes, x.Cause+"\n"+x.Field+"\n"+x.Text)
			}
		}
		slices.Sort(causes)
		if len(open) == 0 {
			return answer("", "", worst, causes)
		}
		return answer(some(open), "mend or waive what the checks say", worst, causes)
	}, only(given, "at most")
}}
