package crosswalk

import (
	"fmt"
	"maps"
	"slices"
	"strings"
	"time"
)

// Change is one step in making a crosswalk better: a mend that an intake offered, or a mapping that a person made. An
// intake holds its changes apart until it is taken in, so that each can be taken back.
type Change struct {
	Says    string            `json:"says,omitempty" doc:"The change as a sentence; worked out where it is blank"`
	Rule    *Rule             `json:"rule,omitempty" doc:"Put this rule, in the place of the one that fills the same from the same"`
	Drop    *Rule             `json:"drop,omitempty" doc:"Remove the rule that fills this from this"`
	Take    map[string]string `json:"take,omitempty" doc:"Place of take → field; blank empties it"`
	Kinds   map[string]string `json:"kinds,omitempty" doc:"Supplier's kind → drawer; blank removes it"`
	Sorting *Sorting          `json:"sorting,omitempty"`
	Leave   *Condition        `json:"leave,omitempty" doc:"Rows to leave out"`
	Makers  map[string]string `json:"makers,omitempty" doc:"Manufacturer as written → house spelling"`
	Unused  []string          `json:"unused,omitempty" doc:"Fields that are left out on purpose"`
	Mark    string            `json:"decimalMark,omitempty" doc:"comma or point"`
	Drawer  *string           `json:"drawer,omitempty" doc:"Drawer for rows that nothing else sorts"`

	By string    `json:"by,omitempty" doc:"Who made it; filled in by the service"`
	At time.Time `json:"at,omitzero"`
}

// With returns c with changes made, or says which of them is wrong. c itself stays as it is.
func (c Crosswalk) With(changes []Change) (Crosswalk, error) {
	c.Fields, c.Sorting, c.LeaveOut, c.Unused = slices.Clone(c.Fields), slices.Clone(c.Sorting), slices.Clone(c.LeaveOut), slices.Clone(c.Unused)
	c.Kinds, c.Manufacturers = maps.Clone(c.Kinds), maps.Clone(c.Manufacturers)
	if c.Kinds == nil {
		c.Kinds = map[string]string{}
	}
	if c.Manufacturers == nil {
		c.Manufacturers = map[string]string{}
	}
	for i, ch := range changes {
		if err := ch.apply(&c); err != nil {
			return c, fmt.Errorf("change %d: %w", i+1, err)
		}
	}
	return c, c.Check()
}

func (ch Change) apply(c *Crosswalk) error {
	if ch.Rule != nil {
		at := slices.IndexFunc(c.Fields, ch.Rule.Same)
		if at < 0 {
			c.Fields = append(c.Fields, *ch.Rule)
		} else {
			c.Fields[at] = *ch.Rule
		}
		for _, f := range ch.Rule.Inputs() {
			c.Unused = slices.DeleteFunc(c.Unused, func(u string) bool { return u == f })
		}
	}
	if ch.Drop != nil {
		n := len(c.Fields)
		if c.Fields = slices.DeleteFunc(c.Fields, ch.Drop.Same); len(c.Fields) == n {
			return fmt.Errorf("there is no rule from %q to %q to remove", ch.Drop.From, ch.Drop.To)
		}
	}
	places := c.Take.Places()
	for place, field := range ch.Take {
		at, ok := places[place]
		if !ok {
			return fmt.Errorf("a row has no %q to take from a field", place)
		}
		*at = field
	}
	put := func(into, from map[string]string) {
		for k, v := range from {
			if v == "" {
				delete(into, k)
			} else {
				into[k] = v
			}
		}
	}
	put(c.Kinds, ch.Kinds)
	put(c.Manufacturers, ch.Makers)
	if ch.Sorting != nil {
		c.Sorting = append(c.Sorting, *ch.Sorting)
	}
	if ch.Leave != nil {
		c.LeaveOut = append(c.LeaveOut, *ch.Leave)
	}
	for _, f := range ch.Unused {
		if !slices.Contains(c.Unused, f) {
			c.Unused = append(c.Unused, f)
		}
	}
	if ch.Mark != "" {
		c.DecimalMark = ch.Mark
	}
	if ch.Drawer != nil {
		c.Drawer = *ch.Drawer
	}
	return nil
}

// Sentence says what the change does.
func (ch Change) Sentence() string {
	one := func(m map[string]string, form string) string {
		keys := slices.Sorted(maps.Keys(m))
		s := fmt.Sprintf(form, keys[0], m[keys[0]])
		if len(keys) > 1 {
			s += fmt.Sprintf(" and %d more", len(keys)-1)
		}
		return s
	}
	switch {
	case ch.Says != "":
		return ch.Says
	case ch.Rule != nil && ch.Rule.Constant != "":
		return fmt.Sprintf("%s is always %q", ch.Rule.To, ch.Rule.Constant)
	case ch.Rule != nil && ch.Rule.Combine != "":
		return fmt.Sprintf("%q fills %s", ch.Rule.Combine, ch.Rule.To) + ch.Rule.how()
	case ch.Rule != nil:
		return fmt.Sprintf("%q fills %s", ch.Rule.From, ch.Rule.To) + ch.Rule.how()
	case ch.Drop != nil:
		return fmt.Sprintf("%q no longer fills %s", ch.Drop.From, ch.Drop.To)
	case len(ch.Take) > 0:
		return strings.Replace(one(ch.Take, "the %s is in the field %q"), "landPattern", "land pattern", 1)
	case len(ch.Kinds) > 0:
		return one(ch.Kinds, "the kind %q goes into the drawer %s")
	case ch.Sorting != nil:
		return fmt.Sprintf("rows where %s go into the drawer %s", ch.Sorting.Condition, ch.Sorting.Drawer)
	case ch.Leave != nil:
		return fmt.Sprintf("rows where %s are left out", ch.Leave)
	case len(ch.Makers) > 0:
		return one(ch.Makers, "%q is %s")
	case len(ch.Unused) > 0:
		return fmt.Sprintf("the field %q is left out", ch.Unused[0])
	case ch.Mark != "":
		return "decimals are written with a " + ch.Mark
	case ch.Drawer != nil:
		return "rows that nothing sorts go into the drawer " + *ch.Drawer
	}
	return "nothing"
}

// how says what a rule does with the text, beyond reading it; blank where that is all.
func (r Rule) how() string {
	var out []string
	put := func(form string, args ...any) { out = append(out, fmt.Sprintf(form, args...)) }
	if len(r.Drawers) > 0 {
		put("in %s only", strings.Join(r.Drawers, ", "))
	}
	if p := r.Piece; p != nil {
		switch {
		case p.Fact:
			put("the one value in the text that fits")
		case p.Word != 0:
			put("word %d of the text", p.Word)
		case p.After != "" && p.Before != "":
			put("what stands after %q and before %q", p.After, p.Before)
		case p.After != "":
			put("what stands after %q", p.After)
		default:
			put("what stands before %q", p.Before)
		}
	}
	words := slices.Sorted(maps.Keys(r.Words))
	for _, w := range words[:min(len(words), 3)] {
		put("%q stands for %q", w, r.Words[w])
	}
	if len(words) > 3 {
		put("and %d more words", len(words)-3)
	}
	if r.System != "" {
		put("%s case codes", r.System)
	}
	if r.Unit != "" {
		put("without a unit, %s is meant", r.Unit)
	}
	if r.Mark != "" {
		put("decimals with a %s", r.Mark)
	}
	if r.Memory != "" {
		put("memory counted %s", r.Memory)
	}
	if r.Doubt != "" {
		put("in doubt as though %s", r.Doubt)
	}
	if r.End != "" {
		put("the %s end of ranges", r.End)
	}
	if len(out) == 0 {
		return ""
	}
	return ": " + strings.Join(out, ", ")
}
