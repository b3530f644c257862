package api

import (
	"net/http"
	"net/http/httptest"
	"strings"
	"testing"

	"github.com/gin-gonic/gin"
	"github.com/stretchr/testify/assert"
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
		"made":              {"application/json", 201, []string{`{}`}, false, false},
		"nothing":           {"", 204, nil, false, false},
	} {
		r := gin.New()
		r.Use(unchanged)
		r.GET("/api/v1/x", func(g *gin.Context) {
			if c.kind != "" {
				g.Header("Content-Type", c.kind)
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
		w := httptest.NewRecorder()
		r.ServeHTTP(w, httptest.NewRequestWithContext(t.Context(), http.MethodGet, "/api/v1/x", nil))
		assert.Equal(t, c.status, w.Code, name)
		assert.True(t, strings.Join(c.pieces, "") == w.Body.String(), "%s: %d bytes", name, w.Body.Len())
		assert.Equal(t, c.tagged, w.Header().Get("ETag") != "", name)
		assert.Equal(t, c.flush, w.Flushed, name)
	}
}
