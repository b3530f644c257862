package jollydrawer

import (
	"go/parser"
	"go/token"
	"io/fs"
	"path"
	"path/filepath"
	"slices"
	"strconv"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// allowed says which rooms of the project each room may import. What is not listed may import everything.
var allowed = map[string][]string{
	"core":                       {"core"},
	"formats":                    {"core", "formats"},
	"client":                     {"internal/wire"},
	"cli":                        {"client", "internal/wire", "core", "formats"},
	"internal/wire":              {"core", "formats/rows"},
	"internal/store":             {"core"},
	"internal/auth":              {},
	"internal/config":            {"internal/auth"},
	"internal/dbserver":          {"core"},
	"internal/blobs":             {"internal/store"},
	"internal/jobs":              {"internal/store"},
	"internal/follow":            {"internal/store", "core"},
	"internal/service":           {"core", "formats", "internal/store", "internal/jobs", "internal/blobs", "internal/auth", "internal/reach", "internal/wire", "internal/follow", "internal/supplier"},
	"internal/api":               {"internal/api/sending", "internal/service", "internal/wire", "internal/follow", "internal/store", "core/lookup", "core/lifecycle"},
	"internal/service/housetest": {"internal/service", "internal/auth", "internal/follow", "internal/store", "internal/testdb", "internal/wire", "core", "formats", "demo"},
	"internal/api/sending":       {},
	"internal/reach":             {},
	"internal/standin":           {"core", "internal/standin"},
	"internal/supplier":          {"core", "formats", "internal/reach"},
	"web":                        {},
	"demo":                       {},
	"e2e/browser":                {},
}

// floors are the packages of internal/service: each may import those on the lines above its own, and no other.
var floors = []string{
	"deed",
	"work",
	"people files",
	"cabinets",
	"policy",
	"models series",
	"parts",
	"finder",
	"lifecycles fitting",
	"intakes",
	"deliveries reform",
	"offers",
	"boms",
	"wants readout",
	"worklist audit notices comments",
	"app",
}

// mayEnter says whether one package of the service may import another.
func mayEnter(from, to string) bool {
	below := func(name string) int {
		return slices.IndexFunc(floors, func(line string) bool { return slices.Contains(strings.Fields(line), name) })
	}
	return below(to) >= 0 && below(to) < below(from)
}

// forbidden are packages outside the project that core must not touch: no database, network, files, clock or chance.
var forbidden = []string{"os", "net", "net/http", "database/sql", "io/ioutil", "math/rand", "math/rand/v2", "crypto/rand", "gorm.io/gorm", "github.com/gin-gonic/gin"}

func TestImportsFollowTheArrows(t *testing.T) {
	const module = "jollydrawer/"
	seen := map[string]bool{}
	err := filepath.WalkDir(".", func(file string, d fs.DirEntry, err error) error {
		if err != nil {
			return err
		}
		if d.IsDir() && (d.Name() == "node_modules" || strings.HasPrefix(d.Name(), ".") && file != ".") {
			return filepath.SkipDir
		}
		if !strings.HasSuffix(file, ".go") || strings.HasSuffix(file, "_test.go") {
			return nil
		}
		tree, err := parser.ParseFile(token.NewFileSet(), file, nil, parser.ImportsOnly)
		require.NoError(t, err)
		room := roomOf(path.Dir(filepath.ToSlash(file)))
		seen[room] = true
		for _, i := range tree.Imports {
			to, err := strconv.Unquote(i.Path.Value)
			require.NoError(t, err)
			if room == "core" {
				assert.NotContains(t, forbidden, to, "%s: core only computes", file)
			}
			inside, ours := strings.CutPrefix(to, module)
			if to == "gorm.io/gorm" && strings.HasPrefix(room, "internal/service") {
				assert.Fail(t, "questions to the database belong into the store", file)
			}
			if !ours || room == "" {
				continue
			}
			ok := inside == room
			if here, yes := strings.CutPrefix(path.Dir(filepath.ToSlash(file)), "internal/service/"); yes && here != "housetest" {
				if there, yes := strings.CutPrefix(inside, "internal/service/"); yes {
					assert.True(t, mayEnter(here, there), "%s: %s must not import %s", file, here, there)
					continue
				}
			}
			for _, a := range allowed[room] {
				ok = ok || inside == a || strings.HasPrefix(inside, a+"/")
			}
			assert.True(t, ok, "%s: %s must not import %s", file, room, inside)
		}
		return nil
	})
	require.NoError(t, err)
	for _, room := range []string{"core", "formats", "client", "cli", "internal/service", "internal/api", "internal/store"} {
		assert.True(t, seen[room], "nothing of %s was read", room)
	}
}

// roomOf returns the longest listed room that a folder lies in.
func roomOf(dir string) string {
	best := ""
	for room := range allowed {
		if (dir == room || strings.HasPrefix(dir, room+"/")) && len(room) > len(best) {
			best = room
		}
	}
	return best
}
