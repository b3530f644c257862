package lifecycle

import "fmt"

// requiredGate: every parameter that the template requires has a value.
var requiredGate = gate{about: "every required parameter has a value", of: ofParts, with: plain(func(f Facts) Answer {
	if len(f.Blank) == 0 {
		return answer("", "", f.Blank)
	}
	what := "is required and blank"
	if len(f.Blank) > 1 {
		what = "are required and blank"
	}
	return answer(fmt.Sprintf("%s %s", some(f.Blank), what), "fill it in", f.Blank)
})}
