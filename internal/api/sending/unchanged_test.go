package sending

import (
	"io"
	"net/http"
	"net/http/httptest"
	"strconv"
	"strings"
	"testing"

	"github.com/gin-gonic/gin"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// Whatever a handler writes, in whatever pieces, arrives as it was written.
func TestWhatIsHeldBackArrivesAsItWasWritten(t *testing.T) {
	gin.SetMode(gin.ReleaseMode)
	long := strings.Repeat("x", mostHeld)
	for name, c := range map[string]struct {
		kind   string
		status int
		pieces []string
		flush  bool
		tagged bool
	}{
		"a short answer":    {"application/json", 200, []string{`{"a":`, `1}`}, false, true},
		"of a charset":      {"application/json; charset=utf-8", 200, []string{`[]`}, false, true},
		"as long as may be": {"application/json", 200, []string{long}, false, true},
		"a very long one":   {"application/json", 200, []string{"[", long, "]"}, false, false},
		"a stream of JSON":  {"application/json", 200, []string{"1", "2"}, true, false},
		"events":            {"text/event-stream", 200, []string{"data: 1\n\n"}, true, false},
		"a problem":         {"application/problem+json", 404, []string{`{}`}, false, false},
		"a file":            {"application/octet-stream", 200, []string{long}, false, false},
		"a file in pieces":  {"text/csv", 200, []string{long[:40_000], "\n", long[:9]}, false, false},
		"made":              {"application/json", 201, []string{`{}`}, false, false},
		"nothing":           {"", 204, nil, false, false},
	} {
		r := gin.New()
		r.Use(Unchanged)
		r.GET("/api/v1/x", func(g *gin.Context) {
			if c.kind != "" {
				g.Header("Content-Type", c.kind)
			}
			if strings.HasPrefix(name, "a file") { // whose length is known
				g.Header("Content-Length", strconv.Itoa(len(strings.Join(c.pieces, ""))))
			}
			g.Status(c.status)
			for _, p := range c.pieces {
				_, err := g.Writer.WriteString(p)
				assert.NoError(t, err)
				if c.flush {
					g.Writer.Flush()
				}
			}
		})
		compressed, err := Compressed(r)
		require.NoError(t, err)
		whole := strings.Join(c.pieces, "")
		for way, h := range map[string]http.Handler{"as it is": r, "compressed": compressed} {
			service := httptest.NewServer(h)
			a, err := http.Get(service.URL + "/api/v1/x") // it takes gzip, and takes it apart by itself
			require.NoError(t, err)
			got, err := io.ReadAll(a.Body)
			require.NoError(t, err, "%s, %s", name, way)
			a.Body.Close()
			service.Close()
			assert.Equal(t, c.status, a.StatusCode, name)
			assert.True(t, whole == string(got), "%s, %s: %d bytes of %d", name, way, len(got), len(whole))
			assert.Equal(t, c.tagged, a.Header.Get("ETag") != "", name)
			if !c.flush {
				assert.Equal(t, way == "compressed" && len(whole) > leastCompressed, a.Uncompressed, "%s, %s", name, way)
			}
		}
		w := httptest.NewRecorder()
		r.ServeHTTP(w, httptest.NewRequestWithContext(t.Context(), http.MethodGet, "/api/v1/x", nil))
		assert.Equal(t, c.flush, w.Flushed, name)
	}
}
