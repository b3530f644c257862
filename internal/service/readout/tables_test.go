package readout_test

import (
	"context"
	"database/sql"
	"encoding/json"
	"fmt"
	"strings"
	"sync"
	"sync/atomic"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jollydrawer/core/cabinet"
	"jollydrawer/internal/service/app"
	"jollydrawer/internal/service/housetest"
	"jollydrawer/internal/store"
	"jollydrawer/internal/testdb"
	"jollydrawer/internal/wire"
)

// read opens a house that keeps tables for design tools, and a connection as one of them.
func read(t *testing.T) (housetest.House, *sql.DB) {
	t.Helper()
	s, owner := testdb.Open(t)
	keeper, dsn := testdb.Keeper(t, owner)
	h := housetest.OpenOn(t, s, owner, 20*time.Millisecond, func(o *app.Options) { o.Keeper, o.Base = keeper, "https://parts.example" })
	keep(t, h)
	db, err := sql.Open("mysql", dsn)
	require.NoError(t, err)
	t.Cleanup(func() { db.Close() })
	return h, db
}

func keep(t *testing.T, h housetest.House) {
	t.Helper()
	worked, err := h.Readout.Keep(t.Context())
	require.NoError(t, err)
	require.True(t, worked)
}

// seen are the rows of a view under some columns, as texts.
func seen(t *testing.T, db *sql.DB, query string, args ...any) (out [][]string) {
	t.Helper()
	rows, err := db.QueryContext(t.Context(), query, args...)
	require.NoError(t, err)
	defer rows.Close()
	columns, err := rows.Columns()
	require.NoError(t, err)
	for rows.Next() {
		row, into := make([]sql.NullString, len(columns)), []any{}
		for i := range row {
			into = append(into, &row[i])
		}
		require.NoError(t, rows.Scan(into...))
		texts := []string{}
		for _, v := range row {
			texts = append(texts, v.String)
		}
		out = append(out, texts)
	}
	require.NoError(t, rows.Err())
	return out
}

func release(t *testing.T, h housetest.House, p wire.Part) wire.Part {
	t.Helper()
	p, err := h.Lifecycles.Release(t.Context(), h.Me, p.ID, p.Version, wire.Release{Note: "checked"})
	require.NoError(t, err)
	return p
}

func verified(t *testing.T, h housetest.House) []string {
	t.Helper()
	h.Level()
	v, err := h.Audit.Verify(t.Context(), h.Me)
	require.NoError(t, err)
	return v.Different
}

func TestADesignToolSeesWhatIsReleasedAndNothingElse(t *testing.T) {
	h, db := read(t)
	const all = "SELECT part_number, description, status, standing, may_be_used, revision, manufacturer, mpn, resistance, resistance_number FROM chip_resistors ORDER BY resistance_number"
	p := h.Make(housetest.Rated("4k7", "A"))
	assert.Empty(t, seen(t, db, all), "a draft is nobody's business")
	p = release(t, h, p)
	q := release(t, h, h.Make(housetest.Rated("220R", "B")))
	rows := seen(t, db, all)
	require.Len(t, rows, 2)
	assert.Equal(t, q.Number, rows[0][0], "sorted by size, not by letters")
	assert.Equal(t, []string{p.Number, p.Released.Description, "Released", "Active", "yes", "1", "Tidewright", "A", "4.7 kΩ", "4700"}, rows[1])

	e := housetest.Rated("5k1", "A")
	p, err := h.Parts.Save(t.Context(), h.Me, p.ID, p.Version, e)
	require.NoError(t, err)
	assert.Equal(t, "4.7 kΩ", seen(t, db, all)[1][8], "a draft changes nothing")
	p = release(t, h, p)
	assert.Equal(t, []string{"5.1 kΩ", "5100"}, seen(t, db, all)[1][8:])
	assert.Equal(t, "2", seen(t, db, all)[1][5])

	p, err = h.Lifecycles.SetStanding(t.Context(), h.Me, p.ID, p.Version, wire.Standing{Standing: "not for new designs", Why: "dear"})
	require.NoError(t, err)
	assert.Equal(t, []string{"Not for new designs", "with caution"}, seen(t, db, all)[1][3:5])
	_, err = h.Lifecycles.Move(t.Context(), h.Me, wire.MoveThings{Move: "withdraw", Note: "wrong", Things: []wire.PartBase{{ID: p.ID, Version: p.Version}}})
	require.NoError(t, err)
	assert.Len(t, seen(t, db, all), 1, "what was withdrawn is gone with the same commit")
	assert.Empty(t, verified(t, h))
}

// Tables that are kept only since a change of templates began have its rows like those that were there before.
func TestTablesThatBeginWhileTemplatesChangeHaveItsRows(t *testing.T) {
	for name, before := range map[string]string{
		"staged":    "INSERT INTO contents",
		"shown":     "INSERT INTO trail (head, seq, deed, account, at, action, detail, hash_before, hash) SELECT",
		"looked at": "UPDATE cabinet_guards SET n = n + 1",
	} {
		t.Run(name, func(t *testing.T) {
			s, owner, line := testdb.OpenLine(t)
			keeper, dsn := testdb.Keeper(t, owner)
			h := housetest.OpenOn(t, s, owner, 20*time.Millisecond, func(o *app.Options) { o.Keeper, o.Base = keeper, "https://parts.example" })
			db, err := sql.Open("mysql", dsn)
			require.NoError(t, err)
			defer db.Close()
			for i, v := range []string{"4k7", "220R", "1k"} {
				release(t, h, h.Make(housetest.Rated(v, fmt.Sprint("A", i))))
			}
			h.Level()
			came := false
			line.Before(before, func() {
				came = true
				keep(t, h)
				assert.Len(t, seen(t, db, "SELECT tolerance FROM chip_resistors"), 3, "they have the rows of what is in use")
			})
			h.Change(wire.CabinetChange{Steps: []cabinet.Step{{Do: cabinet.Rename, Parameter: "tolerance", To: "exactness"}}})
			require.True(t, came)
			assert.Equal(t, [][]string{{"±1 %", "2"}, {"±1 %", "2"}, {"±1 %", "2"}}, seen(t, db, "SELECT tolerance, revision FROM chip_resistors"), "until there are others, under the name of before")
			assert.Empty(t, verified(t, h), "what was carried over is no difference")
			e := housetest.Rated("4k7", "B9")
			e.Values["exactness"] = "2 %"
			delete(e.Values, "tolerance")
			late, err := h.Parts.Create(t.Context(), h.Me, e)
			require.NoError(t, err)
			release(t, h, late)
			others := "part_number <> '" + late.Number + "'"
			assert.Equal(t, [][]string{{"±2 %", "1"}}, seen(t, db, "SELECT tolerance, revision FROM chip_resistors WHERE part_number = ?", late.Number), "nor does what comes now lack it")
			keep(t, h)
			assert.Equal(t, [][]string{{"±1 %", "2"}, {"±1 %", "2"}, {"±1 %", "2"}}, seen(t, db, "SELECT exactness, revision FROM chip_resistors WHERE "+others))
			assert.Empty(t, verified(t, h))
			for _, names := range [][2]string{{"exactness", "tolerance"}, {"tolerance", "exactness"}, {"exactness", "tolerance"}} { // nobody makes tables meanwhile
				h.Change(wire.CabinetChange{Steps: []cabinet.Step{{Do: cabinet.Rename, Parameter: names[0], To: names[1]}}})
				assert.Empty(t, verified(t, h), "%s as %s", names[0], names[1])
			}
			assert.Equal(t, [][]string{{"±1 %", "5"}, {"±1 %", "5"}, {"±1 %", "5"}}, seen(t, db, "SELECT exactness, revision FROM chip_resistors WHERE "+others))
			keep(t, h)
			assert.Equal(t, [][]string{{"±1 %", "5"}, {"±1 %", "5"}, {"±1 %", "5"}}, seen(t, db, "SELECT tolerance, revision FROM chip_resistors WHERE "+others))
			assert.Empty(t, verified(t, h))
		})
	}
}

// A change of templates that leaves a table as it is writes the rows of what it releases anew: what design tools read is what the content says.
func TestAChangeThatKeepsTheTableShowsWhatItMade(t *testing.T) {
	h, db := read(t)
	for i, v := range []string{"4k7", "220R", "1k"} {
		release(t, h, h.Make(housetest.Rated(v, fmt.Sprint("A", i))))
	}
	cab, err := h.Cabinets.Get(t.Context(), h.Me)
	require.NoError(t, err)
	raw, err := json.Marshal(cab.Document)
	require.NoError(t, err)
	const was = "RES {resistance}[ {tolerance}][ {power}][ {case}]"
	require.Contains(t, string(raw), was)
	p, _ := h.Change(wire.CabinetChange{Text: strings.Replace(string(raw), was, "R {resistance as marking}[/{tolerance}]", 1)})
	require.Equal(t, 3, p.Released)
	assert.Equal(t, [][]string{{"R 220R/±1%", "2"}, {"R 1k/±1%", "2"}, {"R 4k7/±1%", "2"}}, seen(t, db, "SELECT description, revision FROM chip_resistors ORDER BY resistance_number"))
	assert.Empty(t, verified(t, h))
}

func TestTheReadersAccountMayReadTheViewsAndNothingElse(t *testing.T) {
	h, db := read(t)
	release(t, h, h.Make(housetest.Rated("4k7", "A")))
	views := seen(t, db, "SELECT table_schema, table_name, table_type FROM information_schema.tables WHERE table_schema NOT IN ('information_schema', 'performance_schema')")
	require.NotEmpty(t, views)
	for _, v := range views {
		assert.Equal(t, "VIEW", v[2], "%v", v)
	}
	main := views[0][0][:len(views[0][0])-len("_readout")]
	for _, q := range []string{
		"SELECT * FROM " + main + ".heads", "SELECT * FROM " + main + ".accounts", "SELECT * FROM " + main + ".contents", "SELECT * FROM " + main + "_readout_rows.chip_resistors_1", "INSERT INTO chip_resistors (part_number) VALUES ('X')",
		"UPDATE chip_resistors SET mpn = 'X'", "DELETE FROM chip_resistors", "DROP VIEW chip_resistors", "CREATE TABLE t (n INT)", "CREATE VIEW v AS SELECT 1", "SHOW CREATE VIEW chip_resistors", "GRANT SELECT ON chip_resistors TO jolly_reader@'127.0.0.1'",
		"SELECT * FROM mysql.user", "SET GLOBAL max_connections = 1", "LOCK TABLES chip_resistors WRITE", "CREATE TEMPORARY TABLE t (n INT)",
	} {
		_, err := db.ExecContext(t.Context(), q)
		assert.Error(t, err, q)
	}
	assert.Len(t, seen(t, db, "SELECT part_number FROM chip_resistors"), 1)
}

// Parts are released one by one, in bulk and by take-in's way while a parameter is renamed there and back: at every look a
// design tool finds each part once, with its value under the name that the column has then, and never less than it was told.
func TestNobodySeesHalfATableWhileTemplatesChange(t *testing.T) {
	h, db := read(t)
	ctx, stop := context.WithCancel(t.Context())
	var beside sync.WaitGroup
	beside.Go(func() { h.Readout.Run(ctx) })
	var released atomic.Int32
	for i := range 30 {
		release(t, h, h.Make(housetest.Rated("4k7", fmt.Sprintf("A-%d", i))))
		released.Add(1)
	}
	var looks atomic.Int32
	beside.Go(func() {
		for ctx.Err() == nil {
			least := int(released.Load())
			rows, err := db.Query("SELECT * FROM chip_resistors")
			if err != nil {
				t.Error(err)
				return
			}
			columns, _ := rows.Columns()
			at := -1
			for i, c := range columns {
				if c == "power" || c == "rating" {
					at = i
				}
			}
			n := 0
			for rows.Next() {
				row, into := make([]sql.NullString, len(columns)), []any{}
				for i := range row {
					into = append(into, &row[i])
				}
				if err := rows.Scan(into...); err != nil || at < 0 || row[at].String != "125 mW" {
					t.Errorf("%v %v", err, row)
				}
				n++
			}
			rows.Close()
			if n < least || rows.Err() != nil {
				t.Errorf("%d rows of at least %d: %v", n, least, rows.Err())
			}
			looks.Add(1)
		}
	})
	made := 0
	beside.Go(func() { // whatever the parameter is called at the moment, and whichever table is being filled
		for ctx.Err() == nil {
			for _, name := range []string{"power", "rating"} {
				e := housetest.Resistor("4k7", fmt.Sprintf("C-%d-%s", made, name))
				e.Values[name] = "125 mW"
				p, err := h.Parts.Create(t.Context(), h.Me, e)
				if err != nil {
					continue
				}
				if p, err = h.Lifecycles.Release(t.Context(), h.Me, p.ID, p.Version, wire.Release{Note: "checked"}); err == nil && p.Released != nil {
					made++
					released.Add(1)
				}
			}
		}
	})
	for round, names := range [][2]string{{"power", "rating"}, {"rating", "power"}} {
		h.Change(wire.CabinetChange{Steps: []cabinet.Step{{Do: cabinet.Rename, Parameter: names[0], To: names[1]}}, Note: "renamed"})
		require.Eventually(t, func() bool {
			s, err := h.Readout.Status(t.Context(), h.Me)
			require.NoError(t, err)
			for _, d := range s.Drawers {
				if d.Drawer == "chip-resistors" {
					return d.Ready
				}
			}
			return false
		}, 20*time.Second, 20*time.Millisecond)
		for i := range 5 {
			e := housetest.Resistor("4k7", fmt.Sprintf("B-%d-%d", round, i))
			e.Values[names[1]] = "125 mW"
			release(t, h, h.Make(e))
			released.Add(1)
		}
	}
	stop()
	beside.Wait()
	assert.Positive(t, looks.Load())
	assert.Len(t, seen(t, db, "SELECT part_number FROM chip_resistors"), 40+made)
	assert.Greater(t, made, 10)
	assert.Empty(t, verified(t, h))
}

func TestVerifyNamesARowThatWasTamperedWith(t *testing.T) {
	h, db := read(t)
	p := release(t, h, h.Make(housetest.Rated("4k7", "A")))
	require.Empty(t, verified(t, h))
	tables, err := h.Store.Read(t.Context()).ReadoutTables()
	require.NoError(t, err)
	var at store.ReadoutTable
	for _, n := range tables {
		if n.Drawer == "chip-resistors" {
			at = n
		}
	}
	root := testdb.Root(t)
	for _, c := range []struct{ spoil, says string }{
		{"UPDATE " + at.At() + " SET k_mpn = 'Z'", "says otherwise than its content under mpn"},
		{"DELETE FROM " + at.At(), "lacks it"},
	} {
		_, err := root.Exec(c.spoil)
		require.NoError(t, err)
		found := verified(t, h)
		require.Len(t, found, 1)
		assert.Contains(t, found[0], p.Number)
		assert.Contains(t, found[0], c.says)
	}
	require.NoError(t, h.Store.DropReadoutTable(t.Context(), at))
	keep(t, h)
	assert.Empty(t, verified(t, h), "a table that is made anew is right")
	assert.Len(t, seen(t, db, "SELECT part_number FROM chip_resistors WHERE mpn = 'A'"), 1)
	_, err = testdb.SQL(t, h.Owner, "UPDATE readout_states SET shown = FALSE")
	require.NoError(t, err)
	assert.Equal(t, []string{"the readout says otherwise of states than the lifecycles in force"}, verified(t, h))
}

// A table whose drawer is renamed under while it is being filled says what parts say, under the names that it was made with.
func TestATableThatIsFilledWhileAParameterIsRenamedLacksNothing(t *testing.T) {
	s, owner, line := testdb.OpenLine(t)
	keeper, dsn := testdb.Keeper(t, owner)
	h := housetest.OpenOn(t, s, owner, 20*time.Millisecond, func(o *app.Options) { o.Keeper, o.Base = keeper, "https://parts.example" })
	db, err := sql.Open("mysql", dsn)
	require.NoError(t, err)
	defer db.Close()
	for i, v := range []string{"4k7", "220R", "1k"} {
		release(t, h, h.Make(housetest.Rated(v, fmt.Sprint("A", i))))
	}
	h.Level()
	came := false
	line.Before("SELECT * FROM `heads` WHERE id IN", func() {
		came = true
		h.Change(wire.CabinetChange{Steps: []cabinet.Step{{Do: cabinet.Rename, Parameter: "tolerance", To: "exactness"}}})
	})
	keep(t, h)
	require.True(t, came)
	assert.Equal(t, [][]string{{"±1 %", "2"}, {"±1 %", "2"}, {"±1 %", "2"}}, seen(t, db, "SELECT tolerance, revision FROM chip_resistors"))
	keep(t, h)
	assert.Equal(t, [][]string{{"±1 %", "2"}, {"±1 %", "2"}, {"±1 %", "2"}}, seen(t, db, "SELECT exactness, revision FROM chip_resistors"))
	assert.Empty(t, verified(t, h))
}

// A part that a change moves into a drawer whose table waits for another one stands there with the same commit.
func TestAPartThatIsMovedStandsInATableThatGivesWay(t *testing.T) {
	h, db := read(t)
	p := release(t, h, h.Make(housetest.Rated("4k7", "A")))
	h.Change(wire.CabinetChange{Steps: []cabinet.Step{{Do: cabinet.Rename, Parameter: "tolerance", To: "exactness"}}})
	h.Change(wire.CabinetChange{Steps: []cabinet.Step{{Do: cabinet.Move, Drawer: "chip-resistors", To: "shunt-resistors", Parts: []string{p.Number}}}})
	assert.Equal(t, [][]string{{p.Number, "4.7 kΩ", "±1 %"}}, seen(t, db, "SELECT part_number, resistance, tolerance FROM shunt_resistors"), "nobody made another table yet")
	assert.Empty(t, seen(t, db, "SELECT part_number FROM chip_resistors"))
	keep(t, h)
	assert.Equal(t, [][]string{{p.Number, "4.7 kΩ", "±1 %"}}, seen(t, db, "SELECT part_number, resistance, exactness FROM shunt_resistors"))
	assert.Empty(t, verified(t, h))
}
