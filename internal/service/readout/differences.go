package readout

import (
	"encoding/json"
	"fmt"
	"math"
	"time"

	"jollydrawer/core/cabinet"
	"jollydrawer/core/part"
	"jollydrawer/core/readout"
	"jollydrawer/internal/service/policy"
	"jollydrawer/internal/store"
)

// Differences compares the rows of some parts with what their contents make under a cabinet, all as they were at one moment, in a
// sentence for each part that differs. A table that is being filled is not looked at, nor one of another shape than the cabinet wants:
// until another takes its place it holds what parts said before the templates changed, which no content of now makes.
func Differences(r store.Reader, cab *cabinet.Cabinet, heads []store.Head, contents map[store.ID]store.Content) ([]string, error) {
	tables, err := r.ReadoutTables()
	if err != nil || len(tables) == 0 {
		return nil, err
	}
	wanted := readout.HashesOf(cab)
	by := map[string][]store.Head{}
	decoded := map[store.ID]*part.Content{}
	for _, h := range heads {
		c, ok := contents[h.Released]
		if h.Kind != store.KindPart || !ok {
			continue
		}
		p, err := part.Decode(c.Bytes)
		if err != nil {
			continue // said elsewhere
		}
		by[p.Drawer] = append(by[p.Drawer], h)
		decoded[h.Released] = &p
	}
	var out []string
	for _, t := range tables {
		if !t.Filled || t.Hash != wanted[t.Drawer] {
			continue
		}
		var shape readout.Shape
		if err := json.Unmarshal([]byte(t.Shape), &shape); err != nil {
			return nil, fmt.Errorf("the shape of the readout's table %s: %w", t.Name, err)
		}
		var ids []store.ID
		for _, h := range by[t.Drawer] {
			ids = append(ids, h.Released)
		}
		rows, err := r.ReadoutRows(t, ids)
		if err != nil {
			return nil, err
		}
		for _, h := range by[t.Drawer] {
			row, ok := rows[h.Released]
			if !ok {
				out = append(out, fmt.Sprintf("part %s: the readout's table %s lacks it", h.Number, t.Name))
				continue
			}
			for i, want := range shape.Row(h.Number, decoded[h.Released]) {
				if !same(want, row[i]) {
					out = append(out, fmt.Sprintf("part %s: the readout's table %s says otherwise than its content under %s", h.Number, t.Name, columnName(shape, i)))
				}
			}
		}
	}
	return out, nil
}

func columnName(s readout.Shape, i int) string {
	if i < len(readout.Kept) {
		return readout.Kept[i].Name
	}
	return s.Columns[i-len(readout.Kept)].Name
}

// same says whether the database gives back what was written.
func same(want, got any) bool {
	switch w := want.(type) {
	case nil:
		return got == nil
	case string:
		if at, ok := got.(time.Time); ok {
			return at.Format(time.DateOnly) == w
		}
	case float64:
		g, ok := got.(float64)
		return ok && (g == w || math.Abs(g-w) <= 1e-12*math.Abs(w)) // a text that the server wrote and we read again
	case bool:
		n, ok := got.(int64)
		return ok && (n != 0) == w
	}
	if raw, ok := got.([]byte); ok {
		got = string(raw)
	}
	if raw, ok := want.([]byte); ok {
		want = string(raw)
	}
	return want == got
}

// StatesDiffer says whether what the readout says of states is otherwise than the rules in force say.
func StatesDiffer(r store.Reader, rules policy.Rules) (bool, error) {
	have, err := r.ReadoutStates()
	if err != nil {
		return false, err
	}
	states, standings, err := r.StatesOfParts()
	if err != nil {
		return false, err
	}
	want := statesOf(rules, states, standings)
	said := map[[3]string]store.ReadoutState{}
	for _, s := range have {
		said[[3]string{s.Drawer, s.Fact, s.State}] = s
	}
	for _, s := range want {
		if said[[3]string{s.Drawer, s.Fact, s.State}] != s {
			return true, nil
		}
	}
	return false, nil
}
