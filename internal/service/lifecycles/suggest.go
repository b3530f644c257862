package lifecycles

import (
	"slices"
	"strings"

	"jollydrawer/core/document"
	"jollydrawer/core/lifecycle"
	"jollydrawer/core/model"
	"jollydrawer/core/part"
	"jollydrawer/internal/service/policy"
	"jollydrawer/internal/store"
	"jollydrawer/internal/wire"
)

// suggest says whether a release is a minor step, by what changed since the one in use, and what it would be labelled.
func (s *Lifecycles) suggest(r store.Reader, rules policy.Rules, h store.Head, k *known, w *wire.LifeMove) error {
	why, err := s.major(r, rules, h, k)
	if err != nil {
		return err
	}
	w.Minor, w.Because = len(why) == 0, "nothing that tells it apart, and none of its models, is another"
	if s.tellers[h.Kind] != nil {
		w.Because = "every line has the part, the places and the pieces that it had"
	}
	if len(why) > 0 {
		w.Because = strings.Join(why[:min(len(why), 5)], ", ") + " changed"
	}
	mv, _ := rules.Of(h).Move(w.Key)
	for _, minor := range []bool{false, true} {
		f, err := rules.Freeze(h, mv, minor)
		if err != nil {
			return nil // the move itself says so
		}
		if minor {
			w.AsMinor = lifecycle.Label(h.Revision+1, f.Label)
		} else {
			w.AsMajor = lifecycle.Label(h.Revision+1, f.Label)
		}
	}
	return nil
}

// major lists what of a thing changed since its newest revision that makes the next one a major step.
func (s *Lifecycles) major(r store.Reader, rules policy.Rules, h store.Head, k *known) (why []string, err error) {
	if s.tellers[h.Kind] != nil {
		return k.major, nil
	}
	used, err := r.Content(h.Released)
	if err != nil {
		return nil, err
	}
	changes, err := document.Diff(used.Bytes, k.content.Bytes)
	for _, c := range changes {
		what := model.Major(c.Path)
		if h.Kind == store.KindPart {
			what = part.Major(c.Path, identity(rules, h))
		}
		if what != "" && !slices.Contains(why, what) {
			why = append(why, what)
		}
	}
	return why, err
}

// identity lists the parameters that tell the parts of a drawer apart; the leading one where the drawer names none.
func identity(rules policy.Rules, h store.Head) []string {
	t, ok := rules.Template(h)
	switch {
	case !ok:
		return nil
	case len(t.Identity) > 0:
		return t.Identity
	}
	return []string{t.Leading, t.Case}
}
