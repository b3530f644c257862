package lifecycle

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
