package readout_test

import (
	"database/sql"
	"fmt"
	"maps"
	"math/rand/v2"
	"os"
	"strconv"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jollydrawer/core/cabinet"
	"jollydrawer/internal/service/housetest"
	"jollydrawer/internal/wire"
)

// drawers are those between which the walk moves parts: their templates differ.
var drawers = []string{"chip-resistors", "shunt-resistors", "leaded-resistors"}

// walk is a library that is changed step by step, and what a design tool ought to read after each.
type walk struct {
	housetest.House
	tool   *sql.DB
	r      *rand.Rand
	parts  []string          // identifiers
	names  map[string]string // what parameters are called now, by what they were called first
	shown  map[string]string // and in the tables that are read
	hidden bool              // parts that are not for new designs
	n      int
}

// calls are what the parameters that are renamed may be called, each at a time.
var calls = []string{"power", "rating", "tolerance", "exactness"}

// keep lets the tables follow the templates.
func (w *walk) keep() {
	keep(w.T, w.House)
	w.shown = maps.Clone(w.names)
}

// edit is a content of a part at random, with texts that SQL could take amiss.
func (w *walk) edit(drawer string) wire.PartEdit {
	w.n++
	odd := []string{"A", "it's", `back\slash`, `"quoted"`, "--", "; DROP TABLE x", "µΩ°", "日本", "%_", strings.Repeat("long ", 300)}
	e := housetest.Resistor(fmt.Sprintf("%d.%dk", 1+w.r.IntN(9), w.r.IntN(10)), fmt.Sprintf("%s-%d", odd[w.r.IntN(len(odd))], w.n))
	delete(e.Values, "tolerance")
	e.Drawer, e.Values[w.names["power"]], e.Values[w.names["tolerance"]] = drawer, []string{"125 mW", "0.25 W", ""}[w.r.IntN(3)], []string{"1 %", "5 %"}[w.r.IntN(2)]
	e.Description = []string{"", "by hand: " + odd[w.r.IntN(len(odd))]}[w.r.IntN(2)]
	return e
}

// step does something at random; what is refused changes nothing.
func (w *walk) step() string {
	t := w.T
	if len(w.parts) < 4 || w.r.IntN(6) == 0 {
		p, err := w.Parts.Create(t.Context(), w.Me, w.edit(drawers[w.r.IntN(len(drawers))]))
		if err == nil {
			w.parts = append(w.parts, p.ID)
		}
		return fmt.Sprint("make ", err)
	}
	p, err := w.Parts.Get(t.Context(), w.Me, w.parts[w.r.IntN(len(w.parts))])
	require.NoError(t, err)
	move := func(m string) string {
		_, err := w.Lifecycles.Move(t.Context(), w.Me, wire.MoveThings{Move: m, Note: "walked", Things: []wire.PartBase{{ID: p.ID, Version: p.Version}}})
		return fmt.Sprint(m, " ", p.Number, " ", err)
	}
	switch w.r.IntN(16) {
	case 0, 1:
		_, err = w.Parts.Save(t.Context(), w.Me, p.ID, p.Version, w.edit(p.Newest().Drawer))
		return fmt.Sprint("save ", p.Number, " ", err)
	case 2:
		_, err = w.Parts.Save(t.Context(), w.Me, p.ID, p.Version, w.edit(drawers[w.r.IntN(len(drawers))]))
		return fmt.Sprint("other drawer ", p.Number, " ", err)
	case 3, 4, 5:
		return move("release")
	case 6:
		return move([]string{"withdraw", "reinstate"}[w.r.IntN(2)])
	case 7, 8:
		return move([]string{"no new designs", "retire", "activate"}[w.r.IntN(3)])
	case 9:
		q, err := w.Parts.Get(t.Context(), w.Me, w.parts[w.r.IntN(len(w.parts))])
		require.NoError(t, err)
		_, err = w.Parts.Merge(t.Context(), w.Me, p.ID, p.Version, wire.Merge{Into: q.Number, Why: "the same"})
		return fmt.Sprint("merge ", p.Number, " into ", q.Number, " ", err)
	case 10, 11:
		of, to := []string{"power", "tolerance"}[w.r.IntN(2)], calls[w.r.IntN(len(calls))]
		for _, taken := range w.names {
			if taken == to {
				return to + " is taken"
			}
		}
		w.House.Change(wire.CabinetChange{Steps: []cabinet.Step{{Do: cabinet.Rename, Parameter: w.names[of], To: to}}, Note: "renamed"})
		w.names[of] = to
		return "rename " + of + " to " + to
	case 12:
		w.keep()
		return "tables follow"
	case 13:
		w.House.Change(wire.CabinetChange{Steps: []cabinet.Step{{Do: cabinet.Move, Drawer: drawers[0], To: drawers[1], Parts: []string{p.Number}}}, Note: "moved"})
		return "moved by the template"
	case 14:
		w.hidden = !w.hidden
		was, now := `word: Not for new designs, use: "with caution", readout: true`, `word: Not for new designs, use: "with caution"`
		if !w.hidden {
			now = was
		}
		w.House.Lifecycle("parts", was, now)
		return fmt.Sprint("hidden ", w.hidden)
	default:
		many := wire.MoveThings{Note: "all that can be", Skip: true}
		for _, id := range w.parts {
			q, err := w.Parts.Get(t.Context(), w.Me, id)
			require.NoError(t, err)
			if q.MergedTo == "" {
				many.Things = append(many.Things, wire.PartBase{ID: q.ID, Version: q.Version})
			}
		}
		_, err = w.Lifecycles.Move(t.Context(), w.Me, many)
		return fmt.Sprint("release all ", err)
	}
}

// wanted is what a design tool ought to read of a drawer, worked out from what people see of each part.
func (w *walk) wanted(drawer string) map[string]map[string]string {
	out := map[string]map[string]string{}
	for _, id := range w.parts {
		p, err := w.Parts.Get(w.T.Context(), w.Me, id)
		require.NoError(w.T, err)
		if p.MergedTo != "" || p.Released == nil || p.Released.Drawer != drawer || !p.States.Status.Readout || !p.States.Standing.Readout {
			continue
		}
		row := map[string]string{"description": p.Released.Description, "name": p.Released.Name, "status": p.States.Status.Word, "standing": p.States.Standing.Word, "revision": p.States.Label}
		if len(p.Released.Sources) > 0 {
			row["manufacturer"], row["mpn"] = p.Released.Sources[0].Manufacturer, p.Released.Sources[0].MPN
		}
		for _, v := range p.Released.Values {
			row["="+v.Key] = v.Text
		}
		out[p.Number] = row
	}
	return out
}

// read is what a design tool reads of a drawer.
func (w *walk) read(d wire.ReadoutDrawer) map[string]map[string]string {
	columns, names := []string{"part_number", "description", "name", "status", "standing", "revision", "manufacturer", "mpn"}, []string{}
	names = append(names, columns...)
	for _, c := range d.Columns {
		for of, now := range w.names { // until there is another table, a column is called as its parameter was
			if c.Parameter == now {
				c.Name = w.shown[of]
			}
		}
		if c.Type == "TEXT" {
			columns, names = append(columns, c.Name), append(names, "="+c.Parameter)
		}
	}
	out := map[string]map[string]string{}
	for _, texts := range seen(w.T, w.tool, "SELECT "+strings.Join(columns, ", ")+" FROM "+d.View) {
		row := map[string]string{}
		for i, n := range names[1:] {
			row[n] = texts[i+1]
		}
		assert.NotContains(w.T, out, texts[0], "a part stands once")
		out[texts[0]] = row
	}
	return out
}

// Parts are made, changed, released, withdrawn, merged, moved between drawers, hidden by their lifecycle and carried over by their
// templates at random; after each step a design tool reads what people see, no more and no less.
func TestADesignToolReadsWhatPeopleSeeWhateverIsDone(t *testing.T) {
	h, tool := read(t)
	rounds, _ := strconv.Atoi(os.Getenv("JOLLY_SOAK"))
	w := &walk{House: h, tool: tool, r: rand.New(rand.NewPCG(14, 11)), names: map[string]string{"power": "power", "tolerance": "tolerance"}}
	w.shown = maps.Clone(w.names)
	for n := range 120 * max(1, rounds) {
		did := w.step()
		s, err := h.Readout.Status(t.Context(), h.Me)
		require.NoError(t, err)
		for _, d := range s.Drawers {
			for _, name := range drawers {
				if d.Drawer != name {
					continue
				}
				want, got := w.wanted(name), w.read(d)
				for number, row := range want {
					for key := range row {
						if _, ok := got[number][key]; !ok {
							delete(row, key) // no text: a number, or yes and no
						}
					}
				}
				if !assert.Equal(t, want, got, "step %d, %s: %s", n, name, did) {
					return
				}
			}
		}
	}
	assert.Empty(t, verified(t, h))
}
