package e2e

import (
	"encoding/csv"
	"fmt"
	"os/exec"
	"strconv"
	"strings"
	"sync"
	"sync/atomic"
	"testing"
	"time"

	"github.com/go-sql-driver/mysql"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jollydrawer/client"
	"jollydrawer/core/cabinet"
	"jollydrawer/core/part"
	"jollydrawer/internal/wire"
)

// readoutOf returns the DSNs of the readout's keeper and reader of a schema.
func readoutOf(t *testing.T, owner string) (keeper, reader string) {
	t.Helper()
	c, err := mysql.ParseDSN(owner)
	require.NoError(t, err)
	return shared.ReadoutDSNs(c.DBName)
}

// shown waits until a drawer's view is as its template is.
func shown(t *testing.T, k *client.Client, drawer string) wire.ReadoutDrawer {
	t.Helper()
	var out wire.ReadoutDrawer
	require.Eventually(t, func() bool {
		r, err := k.Readout(t.Context())
		require.NoError(t, err)
		for _, d := range r.Drawers {
			if d.Drawer == drawer {
				out = d
			}
		}
		return out.Ready
	}, time.Minute, 50*time.Millisecond)
	return out
}

// tool is a program of another make that reads tables.
type tool struct {
	name string
	ask  func(query string) ([][]string, error)
}

// tools are MariaDB's own client, and what any program does that reads over ODBC.
func tools(t *testing.T, dsn string) []tool {
	t.Helper()
	c, err := mysql.ParseDSN(dsn)
	require.NoError(t, err)
	host, port, _ := strings.Cut(c.Addr, ":")
	run := func(in string, comma rune, name string, args ...string) ([][]string, error) {
		cmd := exec.Command(name, args...)
		cmd.Stdin = strings.NewReader(in)
		out, err := cmd.Output()
		if err != nil {
			return nil, fmt.Errorf("%s: %w: %s", name, err, out)
		}
		r := csv.NewReader(strings.NewReader(string(out)))
		r.Comma, r.LazyQuotes, r.FieldsPerRecord = comma, true, -1
		return r.ReadAll()
	}
	return []tool{
		{"mariadb", func(q string) ([][]string, error) {
			return run(q, '\t', "mariadb", "--no-defaults", "--batch", "--default-character-set=utf8mb4", "-h", host, "-P", port, "-u", c.User, "-p"+c.Passwd, c.DBName)
		}},
		{"ODBC", func(q string) ([][]string, error) {
			way := fmt.Sprintf("Driver={MariaDB Unicode};Server=%s;Port=%s;Database=%s;User=%s;Password=%s", host, port, c.DBName, c.User, c.Passwd)
			return run(q+"\n", '\t', "isql", "-k", "-b", "-c", "-x0x09", way)
		}},
	}
}

// Two programs of other makes read while parts are released and a parameter is renamed there and back. What they find at any look is
// whole: every part that was released before they asked, once, with its number and value, under the columns of one template.
func TestDesignToolsReadWhileTheLibraryChanges(t *testing.T) {
	owner, dsn := freshSchema(t, shared)
	keeper, reader := readoutOf(t, owner)
	i := serve(t, owner, dsn, "--readout-dsn", keeper, "--public-address", "https://parts.example")
	k := i.admin(t)
	stocked(t, k)
	shown(t, k, "chip-resistors")
	var released atomic.Int32
	names := [][2]string{{"power", "rating"}, {"rating", "power"}}
	of := func(n int, key string) {
		p, err := k.MakePart(t.Context(), wire.PartEdit{Drawer: "chip-resistors", Values: map[string]string{"resistance": fmt.Sprintf("%d Ω", n+1), "tolerance": "1%", "case": "0805", key: "125 mW"},
			Sources: []part.Source{{Manufacturer: "Tidewright", MPN: fmt.Sprintf("RD-%d", n)}}})
		require.NoError(t, err)
		_, err = k.Release(t.Context(), p.Number, p.Version, "checked")
		require.NoError(t, err)
		released.Add(1)
	}
	n := 0
	for ; n < 10; n++ {
		of(n, "power")
	}
	done := make(chan bool)
	var readers sync.WaitGroup
	looks := map[string]*atomic.Int32{}
	all := tools(t, reader)
	for _, tool := range all {
		looks[tool.name] = &atomic.Int32{}
		readers.Go(func() {
			for {
				select {
				case <-done:
					return
				default:
				}
				least := int(released.Load())
				rows, err := tool.ask("SELECT * FROM chip_resistors ORDER BY resistance_number;")
				if !assert.NoError(t, err) || !assert.NotEmpty(t, rows, tool.name) {
					return
				}
				at := map[string]int{}
				for c, name := range rows[0] {
					at[strings.TrimSpace(name)] = c
				}
				rating, ok := at["power"]
				if !ok {
					rating, ok = at["rating"]
				}
				if !assert.True(t, ok, "%v", rows[0]) || !assert.GreaterOrEqual(t, len(rows)-1, least, tool.name) {
					return
				}
				for r, row := range rows[1:] {
					ohms, err := strconv.ParseFloat(strings.TrimSpace(row[at["resistance_number"]]), 64)
					if !assert.NoError(t, err) || !assert.Equal(t, float64(r+1), ohms, tool.name) || !assert.Equal(t, "125 mW", strings.TrimSpace(row[rating]), tool.name) {
						return
					}
				}
				looks[tool.name].Add(1)
			}
		})
	}
	for _, change := range names {
		p, err := k.PreviewChange(t.Context(), wire.CabinetChange{Steps: []cabinet.Step{{Do: cabinet.Rename, Parameter: change[0], To: change[1]}}, Note: "renamed"})
		require.NoError(t, err)
		j, err := k.ChangeCabinet(t.Context(), p.Version, wire.CabinetChange{Steps: []cabinet.Step{{Do: cabinet.Rename, Parameter: change[0], To: change[1]}}, Note: "renamed", Digest: p.Digest})
		require.NoError(t, err)
		_, err = k.WaitJob(t.Context(), j.ID, nil)
		require.NoError(t, err)
		shown(t, k, "chip-resistors")
		for range 5 {
			of(n, change[1])
			n++
		}
	}
	close(done)
	readers.Wait()
	for _, tool := range all {
		assert.Positive(t, looks[tool.name].Load(), tool.name)
		rows, err := tool.ask("SELECT part_number, description, status, revision, manufacturer, mpn, resistance FROM chip_resistors WHERE mpn = 'RD-6';")
		require.NoError(t, err)
		require.Len(t, rows, 2, tool.name)
		assert.Equal(t, []string{"Released", "3", "Tidewright", "RD-6", "7 Ω"}, rows[1][2:], "%s: renamed there and back, each a revision", tool.name)
		for _, q := range []string{"DELETE FROM chip_resistors;", "UPDATE chip_resistors SET mpn = 'X';", "SELECT * FROM mysql.user;"} {
			rows, err := tool.ask(q)
			assert.True(t, err != nil || len(rows) == 0, "%s: %s: %v", tool.name, q, rows)
		}
		rows, err = tool.ask("SELECT COUNT(*) FROM chip_resistors;")
		require.NoError(t, err)
		assert.Equal(t, "20", strings.TrimSpace(rows[1][0]), tool.name)
	}
	v, err := k.Verify(t.Context())
	require.NoError(t, err)
	assert.Empty(t, v.Different)
}
