// Package api serves the service over HTTP: routes and types for machines under /api/v1, the console for people. It
// decides nothing of its own.
package api

import (
	"cmp"
	"context"
	"encoding/json"
	"errors"
	"io"
	"net/http"
	"path"
	"reflect"
	"strconv"
	"strings"
	"time"

	"github.com/danielgtaylor/huma/v2"
	"github.com/danielgtaylor/huma/v2/adapters/humagin"
	"github.com/gin-gonic/gin"
	quick "github.com/segmentio/encoding/json"

	"jollydrawer/core/lookup"
	"jollydrawer/internal/api/sending"
	"jollydrawer/internal/follow"
	"jollydrawer/internal/service/app"
	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/wire"
)

// Server holds what the routes need.
type Server struct {
	Service      *app.App
	Follower     *follow.Follower
	SecureCookie bool
	Console      http.FileSystem
	Closing      <-chan struct{} // closed when the service goes down: event streams end then
	Turns        int             // how many lookups compute at once
	Deadline     time.Duration   // how long a request may take; 0 stands for a minute
}

// problem is wire.Problem as an error that huma can send.
type problem struct{ wire.Problem }

func (p *problem) Error() string  { return p.Detail }
func (p *problem) GetStatus() int { return p.Status }

// retryAfter is how many seconds a client should wait before it asks again what could not be answered now.
const retryAfter = "2"

// GetHeaders tells when to try again what another try may mend (RFC 9110, section 10.2.3).
func (p *problem) GetHeaders() http.Header {
	h := http.Header{}
	if p.Status == http.StatusServiceUnavailable {
		h.Set("Retry-After", retryAfter)
	}
	return h
}
func (p *problem) ContentType(ct string) string {
	return strings.Replace(ct, "application/json", "application/problem+json", 1)
}

func init() {
	huma.DefaultArrayNullable = false
	huma.NewError = func(status int, msg string, errs ...error) huma.StatusError {
		p := &problem{wire.Problem{Type: "/problems/request-wrong", Title: http.StatusText(status), Status: status, Detail: sentenceCase(msg)}}
		for _, e := range errs {
			d := wire.ProblemDetail{Message: e.Error()}
			var detail *huma.ErrorDetail
			if errors.As(e, &detail) {
				d = wire.ProblemDetail{Location: detail.Location, Message: detail.Message}
			}
			p.Errors = append(p.Errors, d)
		}
		if status >= 500 {
			p.Type = "/problems/internal"
		}
		return p
	}
}

func sentenceCase(s string) string {
	if s == "" {
		return "Something is wrong with the request."
	}
	return strings.ToUpper(s[:1]) + strings.TrimSuffix(s[1:], ".") + "."
}

var statusOf = map[deed.Kind]int{deed.Invalid: 422, deed.Unknown: 404, deed.Clash: 409, deed.Forbidden: 403, deed.Stranger: 401, deed.TooLarge: 413, deed.Busy: 503, deed.Crowded: 429}

// toProblem turns an error of the service into what is sent. What the service does not explain is logged and hidden.
func (s *Server) toProblem(ctx context.Context, err error) *problem {
	id := requestID(ctx)
	var e *deed.Error
	if !errors.As(err, &e) {
		if errors.Is(err, context.DeadlineExceeded) || errors.Is(context.Cause(ctx), context.DeadlineExceeded) {
			return &problem{wire.Problem{Type: "/problems/too-slow", Title: http.StatusText(http.StatusServiceUnavailable), Status: 503, Detail: "The answer took too long and was given up.",
				Mend: "Try again: a change that was sent with a Deed-Id is done once, however often it is sent.", Request: id}}
		}
		if deed.Temporary(err) {
			return &problem{wire.Problem{Type: "/problems/database-busy", Title: http.StatusText(http.StatusServiceUnavailable), Status: 503, Detail: "The database does not answer, or is too busy.",
				Mend: "Try again in a moment: a change that was sent with a Deed-Id is done once, however often it is sent.", Request: id}}
		}
		if errors.Is(err, context.Canceled) {
			return &problem{wire.Problem{Type: "/problems/gone", Title: "Client gone", Status: 499, Detail: "The request was given up.", Request: id}}
		}
		s.Service.Log.Error("request failed", "request", id, "error", brief(err))
		return &problem{wire.Problem{Type: "/problems/internal", Title: "Internal error", Status: 500, Detail: "Something went wrong inside the service; nothing was changed.",
			Mend: "Try again; if it stays, give an administrator the request identifier " + id + ".", Request: id}}
	}
	status := statusOf[e.Kind]
	if e.Type == "changed-meanwhile" || e.Type == "part-changed" {
		status = http.StatusPreconditionFailed
	}
	now, _ := e.Current.(*wire.Part)
	return &problem{wire.Problem{Type: "/problems/" + e.Type, Title: http.StatusText(status), Status: status, Detail: e.What, Mend: e.Mend, Request: id, Current: now, Errors: e.Places}}
}

// brief keeps what people stored out of the log.
func brief(err error) string {
	s := err.Error()
	if len(s) > 300 {
		s = s[:300] + "…"
	}
	return s
}

// call says who asks, for the service.
func call(ctx context.Context, deedID string) (deed.Call, error) {
	c := deed.Call{Actor: actorOf(ctx)}
	if deedID == "" {
		return c, nil
	}
	id, err := deed.ParseID(deedID)
	if err != nil {
		return c, &deed.Error{Kind: deed.Invalid, Type: "deed-wrong", What: "The Deed-Id is no UUID.", Mend: "Send a UUID, or leave the header out."}
	}
	c.Deed = id
	return c, nil
}

type Reading struct{}

type Writing struct {
	DeedID string `header:"Deed-Id" format:"uuid" doc:"Made by the client: the same deed sent again is done once"`
}

type BasedOn struct {
	Writing
	IfMatch string `header:"If-Match" required:"true" doc:"ETag of the version that the change is based on"`
}

func (b BasedOn) version() (int, error) {
	version, _, _ := strings.Cut(strings.Trim(strings.TrimPrefix(b.IfMatch, "W/"), `"`), "-") // the rest of an ETag is of no account
	v, err := strconv.Atoi(version)
	if err != nil {
		return 0, &deed.Error{Kind: deed.Invalid, Type: "version-wrong", What: "If-Match names no version.", Mend: "Send the ETag of what you loaded."}
	}
	return v, nil
}

func (Reading) deed() string   { return "" }
func (w Writing) deed() string { return w.DeedID }

type Paged struct {
	Reading
	Offset int `query:"offset" minimum:"0"`
	Limit  int `query:"limit" minimum:"0" maximum:"1000" doc:"0 stands for 50"`
}

type output[T any] struct {
	ETag string `header:"ETag"`
	Body T
}

// register adds an operation. fn gets who asks; version, where the answer has one, becomes its ETag.
func register[I interface{ deed() string }, O any](s *Server, api huma.API, method, path, id, tag, summary string, fn func(context.Context, deed.Call, *I) (O, error)) {
	op := huma.Operation{OperationID: id, Method: method, Path: "/api/v1" + path, Summary: summary, Tags: []string{tag}, MaxBodyBytes: 8 << 20, Errors: []int{401, 403, 422}}
	if strings.Contains(path, "{") {
		op.Errors = append(op.Errors, 404)
	}
	huma.Register(api, op, func(ctx context.Context, in *I) (*output[O], error) {
		ctx, cancel := context.WithTimeout(ctx, cmp.Or(s.Deadline, time.Minute))
		defer cancel()
		c, err := call(ctx, (*in).deed())
		if err != nil {
			return nil, s.toProblem(ctx, err)
		}
		out, err := fn(ctx, c, in)
		if err != nil {
			return nil, s.toProblem(ctx, err)
		}
		return &output[O]{ETag: etag(any(out)), Body: out}, nil
	})
}

func etag(v any) string {
	n := 0
	switch v := v.(type) {
	case wire.Part:
		n = v.Version
	case wire.Model:
		n = v.Version
	case wire.Delivery:
		n = v.Version
	case wire.PinsOnPads:
		n = v.Version
	case wire.Intake:
		n = v.Version
	case wire.BOM:
		n = v.Version
	case wire.Cabinet:
		n = v.Version
	case wire.Crosswalk:
		n = v.Version
	case wire.Lifecycle:
		n = v.Version
	case wire.Life:
		n = v.Version
	case wire.Review:
		n = v.Version
	case wire.Want:
		n = v.Version
	default:
		return ""
	}
	return `"` + strconv.Itoa(n) + `"`
}

// New returns the handler with all routes.
func (s *Server) New() *gin.Engine {
	gin.SetMode(gin.ReleaseMode)
	r := gin.New()
	r.UseRawPath = true          // part numbers may hold a slash: %2F is part of a name, not of the path
	_ = r.SetTrustedProxies(nil) // an address that a client claims to have is not believed; nil is always accepted
	takes := parameters{}
	r.Use(s.observe, s.recover, secure, s.identify, takes.check(s), sending.Unchanged, sending.NewTurns("/api/v1/parts", max(1, s.Turns)).Take)
	takes.of(s.routes(r).OpenAPI())
	s.health(r)
	s.console(r)
	return r
}

// answers writes JSON with a quicker encoder than the standard library's; what comes in is read by the strict one.
var answers = huma.Format{
	Marshal: func(w io.Writer, v any) error {
		if l, ok := v.(wire.PartList); ok { // the answer that is asked for most, and the longest
			_, err := w.Write(append(l.AppendJSON(make([]byte, 0, 1024*(len(l.Items)+8))), '\n'))
			return err
		}
		raw, err := quick.Append(nil, v, quick.SortMapKeys)
		if err != nil {
			return err
		}
		_, err = w.Write(append(raw, '\n'))
		return err
	},
	Unmarshal: json.Unmarshal,
}

// routes adds the API and returns its document.
func (s *Server) routes(r *gin.Engine) huma.API {
	conf := huma.DefaultConfig("Jolly Drawer", "1")
	conf.OpenAPIPath, conf.DocsPath, conf.SchemasPath = "/api/v1/openapi", "", ""
	conf.CreateHooks = nil // no $schema members in answers
	conf.Formats = map[string]huma.Format{"application/json": answers, "json": answers}
	conf.Info.Description = "A shared parameterised parts database. Changes are deeds: send a Deed-Id and a change that was lost on the way can be sent again safely. Changes to what others may be editing name the version they are based on in If-Match."
	conf.Components.Schemas = huma.NewMapRegistry("#/components/schemas/", schemaName)
	conf.Components.Schemas.RegisterTypeAlias(reflect.TypeFor[lookup.Shown](), reflect.TypeFor[map[string]string]())
	conf.Components.SecuritySchemes = map[string]*huma.SecurityScheme{
		"token":  {Type: "http", Scheme: "bearer", Description: "A personal API token"},
		"cookie": {Type: "apiKey", In: "cookie", Name: cookieName, Description: "A browser session; changes also need X-CSRF-Token"},
	}
	conf.Security = []map[string][]string{{"token": {}}, {"cookie": {}}}
	api := humagin.New(r, conf)
	s.people(r, api)
	for _, add := range []func(huma.API){s.cabinets, s.reform, s.crosswalks, s.parts, s.lifecycles, s.finder, s.fitting, s.models, s.deliveries, s.intakes, s.offers, s.boms, s.boards, s.wants, s.series, s.readout, s.notices, s.comments, s.worklist, s.work, s.audit, s.trails} {
		add(api)
	}
	s.streams(r, api)
	return api
}

// schemaName names a type in the document; types of core carry their package, because wire has some of the same name.
func schemaName(t reflect.Type, hint string) string {
	name := huma.DefaultSchemaNamer(t, hint)
	for t.Kind() == reflect.Pointer {
		t = t.Elem()
	}
	if pkg := t.PkgPath(); strings.HasPrefix(pkg, "jollydrawer/core/") && t.Name() != "" {
		pkg = path.Base(pkg)
		return strings.ToUpper(pkg[:1]) + pkg[1:] + name
	}
	return name
}

// Document returns the OpenAPI document without a service behind it.
func Document() ([]byte, error) {
	gin.SetMode(gin.ReleaseMode)
	api := (&Server{}).routes(gin.New())
	return api.OpenAPI().MarshalJSON()
}
