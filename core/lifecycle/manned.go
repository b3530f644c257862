package lifecycle

import (
	"errors"
	"fmt"
)

// Lack is what a document waits for that nobody is there to do.
type Lack struct {
	At   string // the move, and the gate where it is one; the same for the same place of a document
	Have int    // how many people there are
	What string
}

// Nobody refuses a document by which something waits for nobody; see Lacking.
func (l *Lifecycle) Nobody(people func(Who) (int, error)) error {
	lacks, err := l.Lacking(people)
	if err == nil && len(lacks) > 0 {
		err = errors.New(lacks[0].What)
	}
	return err
}

// Lacking lists the moves that nobody may make, or that only an author may; and the gates for which nobody could look a second time and that
// nobody may waive. people says how many people a Who covers, authors included.
func (l *Lifecycle) Lacking(people func(Who) (int, error)) (out []Lack, err error) {
	for _, m := range l.Document.Moves {
		at := fmt.Sprintf("the move %q", m.Key)
		n, err := people(m.Who)
		switch {
		case err != nil:
			return nil, fmt.Errorf("%s: %w", at, err)
		case n == 0:
			out = append(out, Lack{at, n, fmt.Sprintf("nobody may make %s (%s): give it to others, or add people", at, m.Who)})
		case n == 1 && m.Who.NotAuthor:
			out = append(out, Lack{at, n, fmt.Sprintf("only one person may make %s (%s), and nobody could when that person is an author: give it to others, or add people", at, m.Who)})
		}
		for _, g := range m.Gates {
			at := fmt.Sprintf("the gate %q of %s", g.Gate, at)
			lacks, err := g.lacking(at, people)
			if err != nil {
				return nil, fmt.Errorf("%s: %w", at, err)
			}
			out = append(out, lacks...)
		}
	}
	return out, nil
}

// lacking is what a gate waits for that nobody could do: a waiver, or a second look where it cannot be waived.
func (g GateUse) lacking(at string, people func(Who) (int, error)) (out []Lack, err error) {
	if g.Waive != nil {
		switch n, err := people(*g.Waive); {
		case err != nil:
			return nil, fmt.Errorf("its waiver: %w", err)
		case n == 0 || n == 1 && g.Waive.NotAuthor:
			out = append(out, Lack{at + ", waived", n, fmt.Sprintf("%s: nobody could waive it (%s): name others, or add people", at, g.Waive)})
		}
	}
	second := gates[g.Gate].second
	if second == nil {
		return out, nil
	}
	who, asks := second(g.With)
	if !asks {
		return out, nil
	}
	n, err := people(who)
	if err == nil && n < 2 && g.Waive == nil {
		out = append(out, Lack{at, n, fmt.Sprintf("%s: nobody could look a second time where the only one who may (%s) is an author: name others, or add people", at, who)})
	}
	return out, err
}
