package api

import (
	"context"
	"crypto/subtle"
	"fmt"
	"log/slog"
	"net/http"
	"runtime/debug"
	"runtime/metrics"
	"strings"
	"sync"
	"time"

	"github.com/gin-gonic/gin"
	"github.com/prometheus/client_golang/prometheus"
	"github.com/prometheus/client_golang/prometheus/promauto"

	"jollydrawer/internal/service/deed"
)

type contextKey int

const (
	keyActor contextKey = iota
	keyCSRF
	keyRequest
	keyAddress
)

func actorOf(ctx context.Context) deed.Actor {
	a, _ := ctx.Value(keyActor).(deed.Actor)
	return a
}
func csrfOf(ctx context.Context) string    { s, _ := ctx.Value(keyCSRF).(string); return s }
func requestID(ctx context.Context) string { s, _ := ctx.Value(keyRequest).(string); return s }

var (
	requests = promauto.NewCounterVec(prometheus.CounterOpts{Name: "jolly_requests_total", Help: "Requests by route and status."}, []string{"route", "status"})
	duration = promauto.NewHistogramVec(prometheus.HistogramOpts{Name: "jolly_request_seconds", Help: "Time to answer, by route.", Buckets: prometheus.ExponentialBuckets(0.001, 2, 14)}, []string{"route"})
	// what the default numbers call in use is mostly garbage where memory is plenty
	_ = promauto.NewGaugeFunc(prometheus.GaugeOpts{Name: "jolly_heap_live_bytes", Help: "Memory that the last garbage collection left in use."}, func() float64 {
		s := []metrics.Sample{{Name: "/gc/heap/live:bytes"}}
		metrics.Read(s)
		return float64(s[0].Value.Uint64())
	})
)

// waiting are what a program asks that waits, or watches the service: nobody is held up where these take a little longer.
var waiting = map[string]bool{"/api/v1/jobs/:id": true, "/api/v1/events": true, "/healthz": true, "/readyz": true, "/metrics": true}

// observe gives every request an identifier, logs it and counts it. Neither queries nor bodies are logged.
func (s *Server) observe(c *gin.Context) {
	id := deed.NewID().String()
	ctx := context.WithValue(context.WithValue(c.Request.Context(), keyRequest, id), keyAddress, c.ClientIP())
	c.Request = c.Request.WithContext(ctx)
	c.Header("X-Request-Id", id)
	begin := time.Now()
	route := c.FullPath()
	if !waiting[route] {
		s.Service.Work.Pace.Asked()
	}
	c.Next()
	if route == "" {
		route = "console"
	}
	took := time.Since(begin)
	requests.WithLabelValues(route, fmt.Sprint(c.Writer.Status())).Inc()
	duration.WithLabelValues(route).Observe(took.Seconds())
	level := slog.LevelDebug
	if c.Writer.Status() >= 500 {
		level = slog.LevelError
	}
	s.Service.Log.Log(ctx, level, "request", "request", id, "method", c.Request.Method, "route", route, "status", c.Writer.Status(), "ms", took.Milliseconds(), "login", actorOf(c.Request.Context()).Login)
}

func (s *Server) recover(c *gin.Context) {
	defer func() {
		if r := recover(); r != nil {
			if r == http.ErrAbortHandler {
				panic(r)
			}
			s.Service.Log.Error("panic", "request", requestID(c.Request.Context()), "panic", fmt.Sprint(r), "stack", string(debug.Stack()))
			s.refuse(c, fmt.Errorf("panic: %v", r))
		}
	}()
	c.Next()
}

// refuse sends an error from a plain Gin handler.
func (s *Server) refuse(c *gin.Context, err error) {
	p := s.toProblem(c.Request.Context(), err)
	for name := range p.GetHeaders() {
		c.Header(name, p.GetHeaders().Get(name))
	}
	c.Header("Content-Type", "application/problem+json")
	c.AbortWithStatusJSON(p.Status, p.Problem)
}

// secure sets the headers that keep a browser from doing what the console never needs.
func secure(c *gin.Context) {
	h := c.Writer.Header()
	h.Set("Content-Security-Policy", "default-src 'none'; script-src 'self'; worker-src 'self'; frame-src 'self'; style-src 'self' 'unsafe-inline'; img-src 'self' data:; font-src 'self'; connect-src 'self'; form-action 'self'; base-uri 'none'; frame-ancestors 'none'")
	h.Set("X-Content-Type-Options", "nosniff")
	h.Set("Referrer-Policy", "same-origin")
	h.Set("Cross-Origin-Opener-Policy", "same-origin")
	h.Set("Cross-Origin-Resource-Policy", "same-origin")
	if strings.HasPrefix(c.Request.URL.Path, "/api/") {
		h.Set("Cache-Control", "no-store")
	}
	c.Next()
}

// identify finds out who asks, by token or by cookie. A change made with the cookie needs the session's CSRF token.
func (s *Server) identify(c *gin.Context) {
	if !strings.HasPrefix(c.Request.URL.Path, "/api/") {
		return
	}
	ctx := c.Request.Context()
	if bearer, ok := strings.CutPrefix(c.GetHeader("Authorization"), "Bearer "); ok {
		a, err := s.Service.People.ByToken(ctx, bearer)
		if deed.NotFound(err) {
			err = &deed.Error{Kind: deed.Stranger, Type: "token-unknown", What: "The token is not known or has expired.", Mend: "Make a new one: jolly token make."}
		}
		if err != nil {
			s.refuse(c, err)
			return
		}
		c.Request = c.Request.WithContext(context.WithValue(ctx, keyActor, a))
		return
	}
	secret, err := c.Cookie(cookieName)
	if err != nil || secret == "" {
		return
	}
	a, csrf, err := s.Service.People.BySession(ctx, secret)
	if deed.NotFound(err) {
		return // an old cookie is like none
	}
	if err != nil { // nobody is signed out because the database is away
		s.refuse(c, err)
		return
	}
	safe := c.Request.Method == http.MethodGet || c.Request.Method == http.MethodHead
	if !safe && !(c.Request.URL.Path == "/api/v1/session" && c.Request.Method == http.MethodPost) && subtle.ConstantTimeCompare([]byte(c.GetHeader("X-CSRF-Token")), []byte(csrf)) != 1 {
		s.refuse(c, &deed.Error{Kind: deed.Forbidden, Type: "csrf", What: "The request does not come from the console.", Mend: "Load the page again."})
		return
	}
	c.Request = c.Request.WithContext(context.WithValue(context.WithValue(ctx, keyActor, a), keyCSRF, csrf))
}

// tries counts sign-ins by address, to slow guessing down.
var tries = struct {
	sync.Mutex
	at map[string][]time.Time
}{at: map[string][]time.Time{}}

// mayTry allows twenty sign-ins a minute from one address.
func (s *Server) mayTry(ctx context.Context) bool {
	addr, _ := ctx.Value(keyAddress).(string)
	tries.Lock()
	defer tries.Unlock()
	if len(tries.at) > 10_000 {
		clear(tries.at)
	}
	recent := tries.at[addr][:0]
	for _, t := range tries.at[addr] {
		if time.Since(t) < time.Minute {
			recent = append(recent, t)
		}
	}
	tries.at[addr] = append(recent, time.Now())
	return len(recent) < 20
}
