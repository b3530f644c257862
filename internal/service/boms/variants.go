package boms

import (
	"fmt"
	"strings"

	"jollydrawer/core/bom"
	"jollydrawer/internal/service/deed"
)

// variant is the variant of a board that somebody names; blank where nobody does.
func variant(all []string, asked string) (string, error) {
	if strings.TrimSpace(asked) == "" {
		return "", nil
	}
	name, ok := bom.VariantNamed(all, asked)
	switch {
	case ok:
		return name, nil
	case len(all) == 0:
		return "", deed.Fault(deed.Unknown, "no-variants", fmt.Sprintf("The board is not built in variants: there is no %s.", asked), "Leave it out, or say which columns tell variants.")
	}
	return "", deed.Fault(deed.Unknown, "variant-unknown", fmt.Sprintf("The board has no variant %s.", asked), "It has "+strings.Join(all, ", ")+".")
}

// built is the variant that somebody said is built, where the board still has it.
func (d bomDoc) built(all []string) string {
	name, _ := bom.VariantNamed(all, d.Variant)
	return name
}

// counted are the variants whose pieces count: the one that is built; or where nobody said that, each, and a part counts as in the one that takes most of it.
func (d bomDoc) counted(all []string) []string {
	if name := d.built(all); name != "" {
		return []string{name}
	}
	return all
}

// one is the variant that something is worked out for that holds of one variant only: the one that is named, or the one that is built.
func one(all []string, built, asked string) (string, error) {
	name, err := variant(all, asked)
	if err != nil || name != "" || len(all) == 0 {
		return name, err
	}
	if name, _ = bom.VariantNamed(all, built); name == "" {
		return "", deed.Fault(deed.Invalid, "variant-missing", "The board is built in variants, and nobody said which.", "Name one of "+strings.Join(all, ", ")+".")
	}
	return name, nil
}

// unpicked are the variants of lines of which none is picked.
func (l lined) unpicked() []string {
	if l.variant != "" {
		return nil
	}
	return l.variants
}
