package api_test

import (
	"encoding/json"
	"net/http"
	"regexp"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jollydrawer/internal/api"
	"jollydrawer/internal/service/app"
)

// Every route of the API is described, so that each knows what it is asked with.
func TestEveryRouteIsInTheDocument(t *testing.T) {
	raw, err := api.Document()
	require.NoError(t, err)
	var doc struct {
		Paths map[string]map[string]any
	}
	require.NoError(t, json.Unmarshal(raw, &doc))
	wildcard, routes := regexp.MustCompile(`:([a-z]+)`), 0
	for _, route := range (&api.Server{Service: &app.App{}}).New().Routes() {
		if strings.HasPrefix(route.Path, "/api/v1/") && !strings.HasPrefix(route.Path, "/api/v1/openapi") && route.Method != http.MethodHead {
			routes++
			assert.Contains(t, doc.Paths[wildcard.ReplaceAllString(route.Path, "{$1}")], strings.ToLower(route.Method), route.Path)
		}
	}
	assert.Greater(t, routes, 150)
}
