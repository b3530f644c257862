package sending

import (
	"context"
	"net/http"
	"net/http/httptest"
	"strings"
	"testing"

	"github.com/gin-gonic/gin"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// slow is a client that takes an answer only once it is let.
type slow struct {
	*httptest.ResponseRecorder
	reached, let chan struct{}
}

func (s slow) Write(b []byte) (int, error) {
	close(s.reached)
	<-s.let
	return s.ResponseRecorder.Write(b)
}

func TestATurnEndsWithItsAnswer(t *testing.T) {
	gin.SetMode(gin.ReleaseMode)
	r := gin.New()
	r.Use(func(c *gin.Context) {
		defer func() {
			if recover() != nil {
				c.String(http.StatusInternalServerError, "sorry")
			}
		}()
		c.Next()
	}, NewTurns("/api/v1/parts", 1).Take)
	r.GET("/api/v1/parts", func(c *gin.Context) {
		if c.Query("q") == "panic" {
			c.Writer.WriteString("half an answer")
			panic("on purpose")
		}
		c.Header("X-Test", "kept")
		c.String(http.StatusTeapot, "answer")
	})
	ask := func(w http.ResponseWriter, q string) {
		r.ServeHTTP(w, httptest.NewRequestWithContext(context.Background(), http.MethodGet, "/api/v1/parts?q="+q, nil))
	}

	first := slow{httptest.NewRecorder(), make(chan struct{}), make(chan struct{})}
	done := make(chan struct{})
	go func() { defer close(done); ask(first, "") }()
	<-first.reached
	second := httptest.NewRecorder()
	ask(second, "") // would wait for ever if the one who reads slowly still had its turn
	assert.Equal(t, "answer", second.Body.String())
	assert.Equal(t, http.StatusTeapot, second.Code)
	assert.Equal(t, "kept", second.Header().Get("X-Test"))
	close(first.let)
	<-done
	assert.Equal(t, "answer", first.Body.String())

	broken := httptest.NewRecorder()
	ask(broken, "panic")
	assert.Equal(t, http.StatusInternalServerError, broken.Code)
	assert.Equal(t, "sorry", broken.Body.String(), "nothing of the answer that broke off")
	after := httptest.NewRecorder()
	ask(after, strings.Repeat("x", 10))
	require.Equal(t, "answer", after.Body.String())
}
