package api

import (
	"net/http"
	"strings"
	"testing"

	"github.com/gin-gonic/gin"
	"github.com/stretchr/testify/assert"
)

// Every route of the API is described, so that each knows what it is asked with.
func TestEveryRouteIsInTheDocument(t *testing.T) {
	r := gin.New()
	takes := parameters{}
	takes.of((&Server{}).routes(r).OpenAPI())
	for _, route := range r.Routes() {
		if strings.HasPrefix(route.Path, "/api/v1/") && !strings.HasPrefix(route.Path, "/api/v1/openapi") && route.Method != http.MethodHead {
			_, described := takes[route.Method+" "+inDocument(route.Path)]
			assert.True(t, described, "%s %s", route.Method, route.Path)
		}
	}
}
