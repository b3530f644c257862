// Package policy says what the state of a thing permits, for all use cases alike.
package policy

import (
	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/store"
)

// PartStands refuses changes of a part that was merged into another.
func PartStands(h store.Head) error {
	if h.Standing == store.Withdrawn {
		return deed.Fault(deed.Clash, "withdrawn", h.Number+": the intake that made it was taken back; nothing was changed.", "Make the part anew.")
	}
	if h.Standing == store.Merged {
		return deed.Fault(deed.Clash, "merged", h.Number+" was merged into another part; nothing was changed.", "Change the part that its number leads to.")
	}
	return nil
}

// ModelStands refuses changes of a model that was merged into another.
func ModelStands(h store.Head) error {
	if h.Standing == store.Merged {
		return deed.Fault(deed.Clash, "merged", "The model was merged into another one; nothing was changed.", "Change the one that its name leads to.")
	}
	return nil
}
