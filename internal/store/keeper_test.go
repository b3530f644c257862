package store_test

import (
	"database/sql"
	"fmt"
	"regexp"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jollydrawer/core/readout"
	"jollydrawer/internal/testdb"
)

// Every word that the server knows makes a column that a design tool may name without quotes.
func TestEveryWordOfTheServerMakesAColumn(t *testing.T) {
	_, owner := testdb.Open(t)
	_, reader := testdb.Keeper(t, owner)
	db, err := sql.Open("mysql", reader)
	require.NoError(t, err)
	defer db.Close()
	rows, err := db.Query("SELECT LOWER(word) FROM information_schema.keywords")
	require.NoError(t, err)
	defer rows.Close()
	key, n := regexp.MustCompile(`^[a-z][a-z0-9_]*$`), 0
	for rows.Next() {
		var word string
		require.NoError(t, rows.Scan(&word))
		if !key.MatchString(word) {
			continue
		}
		n++
		name := readout.Plain(word)
		var got int
		if err := db.QueryRow("SELECT x." + name + " FROM (SELECT 7 AS " + name + ") x WHERE " + name + " = 7 ORDER BY " + name).Scan(&got); assert.NoError(t, err, word) {
			assert.Equal(t, 7, got)
		}
	}
	require.NoError(t, rows.Err())
	assert.Greater(t, n, 500)
}

// A table takes as many columns as a drawer may have, with long texts in all of them.
func TestATableTakesManyColumnsWithLongTexts(t *testing.T) {
	_, owner := testdb.Open(t)
	keeper, _ := testdb.Keeper(t, owner)
	shape := readout.Shape{Drawer: "wide"}
	for i := range 120 {
		shape.Columns = append(shape.Columns, readout.Column{Name: fmt.Sprintf("c%d", i), Type: []readout.Type{readout.Text, readout.Double, readout.Whole}[i%3], Parameter: fmt.Sprint(i), Indexed: i%3 == 1 && i < 15})
	}
	require.NoError(t, keeper.MakeTable(t.Context(), "wide_1", shape))
	require.NoError(t, keeper.MakeTable(t.Context(), "wide_1", shape), "one that is there stays")
	there, err := keeper.Tables(t.Context())
	require.NoError(t, err)
	assert.Equal(t, map[string]bool{"wide_1": true}, there)
	columns, values := []string{"head", "content", "at", "k_number"}, []string{"UNHEX(REPEAT('00', 16))", "UNHEX(REPEAT('01', 16))", "NOW(6)", "'W-1'"}
	for i := 0; i < 120; i += 3 {
		columns, values = append(columns, fmt.Sprintf("p_%d", i)), append(values, "'"+strings.Repeat("wide Ω ", 280)+"'")
	}
	_, err = testdb.Root(t).Exec("INSERT INTO `" + keeper.Rows + "`.wide_1 (" + strings.Join(columns, ", ") + ") VALUES (" + strings.Join(values, ", ") + ")")
	require.NoError(t, err)
	require.NoError(t, keeper.DropTable(t.Context(), "wide_1"))
}

// The keeper may read what says which rows are shown, and nothing else of the library.
func TestTheKeeperReadsNothingOfTheLibrary(t *testing.T) {
	_, owner := testdb.Open(t)
	testdb.Keeper(t, owner)
	dsn := testdb.KeeperDSN(t, owner)
	for _, q := range []string{"SELECT id, released, drawer, state, standing, revision, label FROM heads", "SELECT * FROM readout_states"} {
		_, err := testdb.SQL(t, dsn, q)
		assert.NoError(t, err, q)
	}
	for _, q := range []string{"SELECT * FROM heads", "SELECT bytes FROM contents", "SELECT password FROM accounts", "DELETE FROM readout_states", "UPDATE heads SET state = 'x'", "DROP TABLE heads", "CREATE TABLE t (n INT)"} {
		_, err := testdb.SQL(t, dsn, q)
		assert.Error(t, err, q)
	}
}
