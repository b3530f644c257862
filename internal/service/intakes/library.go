package intakes

import (
	"jollydrawer/core/cabinet"
	"jollydrawer/core/intake"
	"jollydrawer/core/lookup"
	"jollydrawer/core/part"
)

// library lets the checks of an intake ask the lookup index, and remembers what they asked.
type library struct{ x *lookup.Answers }

// Library lets the checks of rows that are not of an intake ask the lookup index.
func Library(x *lookup.Index) intake.Library { return library{x.Answers()} }

func existing(e *lookup.Entry, ok bool) (intake.Existing, bool) {
	if !ok || e.Gone {
		return intake.Existing{}, false
	}
	return intake.Existing{ID: e.ID, Number: e.Number, Version: e.Version, Standing: e.Standing,
		Content: part.Content{Drawer: e.Drawer, Name: e.Name, Description: e.Description, Sources: e.Sources, Values: e.Values()}}, true
}

func (s library) Source(key string) (intake.Existing, bool) { return existing(s.x.BySource(key)) }

func (s library) Makers() []string { return s.x.Makers() }

// Numbered finds the part with a number, whatever its capitals, blanks and punctuation where that leaves one.
func (s library) Numbered(number string) (intake.Existing, bool) {
	if e, ok := s.x.ByNumber(number); ok {
		return existing(e, ok)
	}
	if like := s.x.ByNumberLike(number); len(like) == 1 {
		return existing(like[0], true)
	}
	return intake.Existing{}, false
}

func (s library) Like(drawer string, keys []string) func(func(string) cabinet.Value) []string {
	return s.x.Like(drawer, keys)
}
