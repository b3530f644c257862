package api

import (
	"fmt"
	"maps"
	"slices"
	"strings"

	"github.com/danielgtaylor/huma/v2"
	"github.com/gin-gonic/gin"

	"jollydrawer/internal/service/deed"
)

// parameters are what each operation takes behind the question mark of its address, by method and route as the document of the API has them.
type parameters map[string][]string

// inDocument writes a route of Gin as the document does: /boms/{key} for /boms/:key.
func inDocument(route string) string {
	steps := strings.Split(route, "/")
	for i, s := range steps {
		if name, is := strings.CutPrefix(s, ":"); is {
			steps[i] = "{" + name + "}"
		}
	}
	return strings.Join(steps, "/")
}

// of reads them from the document.
func (a parameters) of(doc *huma.OpenAPI) {
	for path, item := range doc.Paths {
		for method, op := range map[string]*huma.Operation{"GET": item.Get, "POST": item.Post, "PUT": item.Put, "PATCH": item.Patch, "DELETE": item.Delete} {
			if op == nil {
				continue
			}
			names := []string{}
			for _, p := range op.Parameters {
				if p.In == "query" {
					names = append(names, p.Name)
				}
			}
			a[method+" "+path] = names
		}
	}
}

// check refuses a parameter that the operation does not take: a misspelt one would be without effect, and the answer one to another question.
func (a parameters) check(s *Server) gin.HandlerFunc {
	return func(c *gin.Context) {
		takes, described := a[c.Request.Method+" "+inDocument(c.FullPath())]
		if !described || c.Request.URL.RawQuery == "" {
			return
		}
		for _, name := range slices.Sorted(maps.Keys(c.Request.URL.Query())) {
			if slices.Contains(takes, name) {
				continue
			}
			mend := "It takes none: leave it out."
			if len(takes) > 0 {
				mend = "It takes " + strings.Join(takes, ", ") + "."
			}
			s.refuse(c, deed.Fault(deed.Invalid, "parameter-unknown", fmt.Sprintf("There is no parameter %q here.", name), mend))
			return
		}
	}
}
