package lifecycle

import "fmt"

// sourcesGate: there are at least so many manufacturer part numbers; one where the document says nothing.
var sourcesGate = gate{about: "there are at least so many sources", of: ofParts, with: func(given map[string]string) (func(Facts) Answer, error) {
	n, err := atLeast(given, 1)
	return func(f Facts) Answer {
		switch {
		case len(f.Sources) >= n:
			return answer("", "", n, f.Sources)
		case len(f.Sources) == 0:
			return answer("there is no source", "add a manufacturer part number", n, f.Sources)
		}
		return answer(fmt.Sprintf("of %d sources there is only %s", n, some(f.Sources)), "add an alternate", n, f.Sources)
	}, err
}}
