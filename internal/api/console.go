package api

import (
	"net/http"
	"path"
	"strings"

	"github.com/gin-gonic/gin"

	"jollydrawer/internal/service/deed"
)

// console serves the built console; every address that is no file is one of its pages.
func (s *Server) console(r *gin.Engine) {
	r.NoRoute(func(c *gin.Context) {
		p := path.Clean("/" + c.Request.URL.Path)
		if strings.HasPrefix(p, "/api/") {
			s.refuse(c, &deed.Error{Kind: deed.Unknown, Type: "no-route", What: "The API has no such address.", Mend: "See /api/v1/openapi.json."})
			return
		}
		if c.Request.Method != http.MethodGet && c.Request.Method != http.MethodHead {
			c.AbortWithStatus(http.StatusMethodNotAllowed)
			return
		}
		if f, err := s.Console.Open(p); err == nil && p != "/" {
			defer f.Close()
			if st, err := f.Stat(); err == nil && !st.IsDir() {
				if strings.HasPrefix(p, "/assets/") {
					c.Header("Cache-Control", "public, max-age=31536000, immutable")
				}
				if strings.HasPrefix(p, "/assets/step.worker-") {
					// The reader of STEP files builds its bindings from text. A worker has a policy of its own, so the page's stays strict;
					// the worker sees no page and no cookie, and may load nothing but its own program.
					c.Header("Content-Security-Policy", "default-src 'none'; script-src 'self' 'unsafe-eval' 'wasm-unsafe-eval'; connect-src 'self'")
				}
				http.ServeContent(c.Writer, c.Request, p, st.ModTime(), f)
				return
			}
		}
		if strings.HasPrefix(p, "/assets/") { // of another build: a page in its place would be taken for a program
			c.Header("Cache-Control", "no-store")
			c.AbortWithStatus(http.StatusNotFound)
			return
		}
		for _, page := range []string{"/index.html", "/placeholder.html"} {
			if f, err := s.Console.Open(page); err == nil {
				defer f.Close()
				st, _ := f.Stat()
				c.Header("Cache-Control", "no-cache")
				http.ServeContent(c.Writer, c.Request, page, st.ModTime(), f)
				return
			}
		}
		c.AbortWithStatus(http.StatusNotFound)
	})
}
