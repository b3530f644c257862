package jollydrawer

import (
	"go/parser"
	"go/token"
	"io/fs"
	"path"
	"path/filepath"
	"strconv"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// allowed says which rooms of the project each room may import. What is not listed may import everything.
var allowed = map[string][]string{
	"core":              {"core"},
	"formats":           {"core", "formats"},
	"client":            {"internal/wire"},
	"cli":               {"client", "internal/wire", "core", "formats"},
	"internal/wire":     {"core", "formats/rows"},
	"internal/store":    {"core"},
	"internal/auth":     {},
	"internal/config":   {},
	"internal/dbserver": {},
	"internal/blobs":    {"internal/store"},
	"internal/jobs":     {"internal/store"},
	"internal/follow":   {"internal/store", "core"},
	"internal/service":  {"core", "formats", "internal/store", "internal/jobs", "internal/blobs", "internal/auth", "internal/reach", "internal/wire"},
	"internal/api":      {"internal/service", "internal/wire", "internal/follow", "internal/store", "core/lookup", "core/lifecycle"},
	"internal/reach":    {},
	"internal/standin":  {},
	"web":               {},
	"demo":              {},
	"e2e/browser":       {},
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
			if !ours || room == "" {
				continue
			}
			ok := inside == room
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
