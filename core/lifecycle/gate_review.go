package lifecycle

import "slices"

// reviewGate: somebody who is not an author went through the review list of this very content and signed it; of a group where the
// document names one.
var reviewGate = gate{about: "a second person signed the review list", with: func(given map[string]string) (func(Facts) Answer, error) {
	group := given["group"]
	return func(f Facts) Answer {
		why, mend := "nobody has reviewed it", "have it reviewed"
		var looked []Signature
		for _, s := range f.Signed {
			if group != "" && !slices.Contains(s.Groups, group) {
				continue
			}
			looked = append(looked, Signature{Content: s.Content, By: s.By, Author: s.Author})
			switch first := len(looked) == 1; {
			case s.Content != f.Content:
				if first {
					why, mend = "it was changed since "+s.By+" signed it", "have what changed looked at again"
				}
			case s.Author:
				if first {
					why = "it was signed by an author only: " + s.By
				}
			default:
				return answer("", "", f.Content, group, looked)
			}
		}
		if group != "" {
			if len(looked) > 0 {
				why = "of the group " + group + ": " + why
			}
			mend += " by one of the group " + group
		}
		return answer(why, mend, f.Content, group, looked)
	}, only(given, "group")
}, second: func(given map[string]string) (Who, bool) { return reviewer(given["group"]), true }}
