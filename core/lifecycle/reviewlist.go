package lifecycle

import (
	"fmt"

	"jollydrawer/core/document"
)

// Item is one line of a review list: what a reviewer compares with the datasheet.
type Item struct {
	Key   string `json:"key"`
	Label string `json:"label"`
	Text  string `json:"text" doc:"As it is shown"`
	Value string `json:"value" doc:"Hash of what it says: a tick counts as long as it stays the same"`
}

// Tick says that somebody found an item right, with the value that it had then.
type Tick struct{ Item, By, Value string }

// Open lists the items that a person has not ticked with the value that they have now, by key.
func Open(items []Item, ticks []Tick, by string) []string {
	ticked := map[string]bool{}
	for _, t := range ticks {
		if t.By == by {
			ticked[t.Item+"\n"+t.Value] = true
		}
	}
	out := []string{}
	for _, i := range items {
		if !ticked[i.Key+"\n"+i.Value] {
			out = append(out, i.Key)
		}
	}
	return out
}

// List gathers the items of a review list. The zero List is empty.
type List struct {
	items []Item
	err   error
}

// Add adds an item that says something, which must be what a document can hold.
func (l *List) Add(key, label, text string, says any) {
	_, hash, err := document.Canonical(says)
	if err != nil && l.err == nil {
		l.err = fmt.Errorf("%s: %w", key, err)
	}
	l.items = append(l.items, Item{Key: key, Label: label, Text: text, Value: hash.String()})
}

// Items are those that were added, in their order; the error is that of the first that no document could hold.
func (l *List) Items() ([]Item, error) { return l.items, l.err }
