package lifecycle

import "fmt"

// proofGate: this very content worked on at least so many built boards; one where the document says nothing.
var proofGate = gate{about: "it worked on at least so many built boards", with: func(given map[string]string) (func(Facts) Answer, error) {
	n, err := atLeast(given, 1)
	return func(f Facts) Answer {
		if f.Boards >= n {
			return answer("", "", n, f.Content, f.Boards)
		}
		if f.Boards == 0 {
			return answer("it has not worked on a board yet", "note the boards that it worked on", n, f.Content, f.Boards)
		}
		return answer(fmt.Sprintf("it worked on %d boards, and %d are asked for", f.Boards, n), "note the boards that it worked on", n, f.Content, f.Boards)
	}, err
}}
