package lifecycle

import (
	"fmt"
	"strings"
)

// productionGate: of at least so many sources suppliers say that they are made, and none says that they end; one where the document says nothing. A source
// of which nobody says anything does not count: that nobody knows is no promise.
var productionGate = gate{about: "at least so many sources are in production, as suppliers say", of: ofParts, with: func(given map[string]string) (func(Facts) Answer, error) {
	n, err := atLeast(given, 1)
	return func(f Facts) Answer {
		made := 0
		var others []string
		for _, s := range f.Supplied {
			switch s.Stands {
			case Active:
				made++
			case "":
				others = append(others, "of "+s.Source+" nobody says whether it is made")
			default:
				others = append(others, s.Source+" is "+string(s.Stands))
			}
		}
		switch {
		case made >= n:
			return answer("", "", n, f.Supplied)
		case len(f.Supplied) == 0:
			return answer("there is no source", "add a manufacturer part number", n, f.Supplied)
		case len(others) > 3:
			others = append(others[:3], fmt.Sprintf("and %d more", len(others)-3))
		}
		why := fmt.Sprintf("of %d sources in production there are %d", n, made)
		if n == 1 {
			why = "no source is in production, as far as suppliers say"
		}
		if len(others) > 0 {
			why += ": " + strings.Join(others, ", ")
		}
		return answer(why, "ask the suppliers anew, or add another source", n, f.Supplied)
	}, err
}}
