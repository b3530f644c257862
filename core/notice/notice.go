// Package notice holds what people are told with: which news is worth telling, mails and digests, calls of hooks and their signatures,
// and when what failed is tried again. Who hears of what is left to others; what a deed did is said by package trail.
package notice

import "slices"

// Loud says whether an action is news to who watches more than the one thing: a drawer, a kind of model, a question. What a person
// saves a dozen times on the way is not.
func Loud(kind, action string) bool {
	switch kind {
	case "part", "model":
		return slices.Contains([]string{"made", "brought in", "taken in", "made by intake", "changed by intake", "released", "moved", "standing changed", "merged", "taken back", "successor named", "commented", "offers changed"}, action)
	case "want":
		return action == "wanted"
	}
	return false
}
