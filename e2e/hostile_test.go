package e2e

import (
	"encoding/json"
	"fmt"
	"io"
	"maps"
	"net/http"
	"net/url"
	"os"
	"slices"
	"strings"
	"testing"

	"jollydrawer/client"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// document is as much of an OpenAPI document as is needed to send requests by it.
type document struct {
	Paths      map[string]map[string]operation
	Components struct{ Schemas map[string]schema }
}

type operation struct {
	OperationID string
	Parameters  []struct {
		Name, In string
		Schema   schema
	}
	RequestBody *struct {
		Content map[string]struct{ Schema schema }
	}
}

type schema struct {
	Ref        string `json:"$ref"`
	Type       any
	Format     string
	Enum       []any
	Minimum    *float64
	MinItems   int
	Required   []string
	Properties map[string]schema
	Items      *schema
	Additional any `json:"additionalProperties"`
}

// sample is a value that the schema permits, with every member that it names.
func (d document) sample(s schema, depth int) any {
	if s.Ref != "" {
		s = d.Components.Schemas[s.Ref[strings.LastIndex(s.Ref, "/")+1:]]
	}
	if depth > 6 {
		return nil
	}
	if len(s.Enum) > 0 {
		return s.Enum[0]
	}
	kind := s.Type
	if all, ok := kind.([]any); ok {
		kind = all[0]
	}
	switch kind {
	case "string":
		switch s.Format {
		case "uuid":
			return "00000000-0000-0000-0000-000000000000"
		case "date-time":
			return "2031-04-01T10:00:00Z"
		}
		return "x"
	case "integer", "number":
		if s.Minimum != nil {
			return *s.Minimum
		}
		return 1
	case "boolean":
		return true
	case "array":
		if s.Items == nil {
			return []any{}
		}
		return []any{d.sample(*s.Items, depth+1)}
	case "object":
		out := map[string]any{}
		for name, p := range s.Properties {
			if v := d.sample(p, depth+1); v != nil {
				out[name] = v
			}
		}
		return out
	}
	return nil
}

// hostile is what stands in the place of a value that is expected.
func hostile() []any {
	deep := any("x")
	for range 300 {
		deep = []any{deep}
	}
	return []any{nil, "", 0, -1, 1e300, true, []any{}, map[string]any{}, "\x00", "' OR 1=1 --", "../../etc/passwd", "<script>alert(1)</script>", "𝕏\u202e\ufeff", strings.Repeat("9", 400), strings.Repeat("y", 70_000), deep}
}

// Whatever is sent to whatever the API document names, the answer is a sentence and never a fault of the service: a new operation is
// tried here from its first day, without anybody thinking of it.
func TestNoOperationFailsOverWhatItIsSent(t *testing.T) {
	raw, err := os.ReadFile("../web/openapi.json")
	require.NoError(t, err)
	var d document
	require.NoError(t, json.Unmarshal(raw, &d))
	i := serve2(t)
	k := i.admin(t)
	stocked(t, k)
	left := []string{"sign-in", "sign-out", "drop-token", "verify"} // the caller's own session, and a job over all there is
	sent := 0
	send := func(method, path string, query url.Values, body any) {
		var in io.Reader
		if body != nil {
			raw, err := json.Marshal(body)
			require.NoError(t, err)
			in = strings.NewReader(string(raw))
		}
		at := i.url + path
		if len(query) > 0 {
			at += "?" + query.Encode()
		}
		req, err := http.NewRequestWithContext(t.Context(), method, at, in)
		if err != nil {
			return // what cannot be sent does no harm
		}
		req.Header.Set("Authorization", "Bearer "+k.Token)
		req.Header.Set("If-Match", `"1"`)
		if body != nil {
			req.Header.Set("Content-Type", "application/json")
		}
		res, err := http.DefaultClient.Do(req)
		if !assert.NoError(t, err, "%s %s", method, at) {
			return
		}
		defer res.Body.Close()
		sent++
		answer, err := io.ReadAll(io.LimitReader(res.Body, 1<<20))
		require.NoError(t, err)
		shown := fmt.Sprint(body)
		assert.Less(t, res.StatusCode, 500, "%s %s %.200s: %.300s", method, at, shown, answer)
		if res.StatusCode >= 400 {
			var p struct{ Detail string }
			if assert.NoError(t, json.Unmarshal(answer, &p), "%s %s: %.200s", method, at, answer) {
				assert.NotEmpty(t, p.Detail, "%s %s", method, at)
			}
		}
	}
	for path, methods := range d.Paths {
		for method, op := range methods {
			method = strings.ToUpper(method)
			if slices.Contains(left, op.OperationID) || path == "/api/v1/events" {
				continue
			}
			filled, query := path, url.Values{}
			for _, p := range op.Parameters {
				switch p.In {
				case "path":
					filled = strings.ReplaceAll(filled, "{"+p.Name+"}", url.PathEscape(fmt.Sprint(d.sample(p.Schema, 0))))
				case "query":
					query.Set(p.Name, fmt.Sprint(d.sample(p.Schema, 0)))
				}
			}
			var body any
			if op.RequestBody != nil {
				for media, c := range op.RequestBody.Content {
					if media == "application/json" {
						body = d.sample(c.Schema, 0)
					}
				}
			}
			send(method, filled, query, body)
			for _, p := range op.Parameters {
				for _, h := range []string{"", "..", "\x00", "-1", "99999999999999999999", "' OR 1=1 --", strings.Repeat("z", 3000), "%", "a/b", "𝕏"} {
					switch p.In {
					case "path":
						if h != "" && h != ".." {
							send(method, strings.ReplaceAll(path, "{"+p.Name+"}", url.PathEscape(h)), nil, body)
						}
					case "query":
						send(method, filled, url.Values{p.Name: {h}}, body)
					}
				}
			}
			for name := range object(body) {
				for _, h := range hostile() {
					next := map[string]any{}
					for k, v := range object(body) {
						next[k] = v
					}
					next[name] = h
					send(method, filled, query, next)
				}
			}
			if op.RequestBody != nil {
				for _, h := range []any{strings.Repeat("y", 70_000), strings.Repeat("7", 300), -1e12} {
					for _, next := range d.lone(op.RequestBody.Content["application/json"].Schema, h, 0) {
						send(method, filled, query, next)
					}
				}
			}
		}
	}
	assert.Greater(t, sent, 2000, "the document names operations")
	_, err = k.Parts(t.Context(), client.PartQuery{Limit: 1})
	assert.NoError(t, err, "and the service is still there")
}

// lone are values that a schema permits with no more members than it requires and one of them, however deep it lies, in the place of which h stands:
// what else is there cannot be wrong before it.
func (d document) lone(s schema, h any, depth int) (out []any) {
	if s.Ref != "" {
		s = d.Components.Schemas[s.Ref[strings.LastIndex(s.Ref, "/")+1:]]
	}
	if depth > 5 {
		return nil
	}
	kind := s.Type
	if all, ok := kind.([]any); ok {
		kind = all[0]
	}
	switch kind {
	case "array":
		if s.Items != nil {
			for _, v := range d.lone(*s.Items, h, depth+1) {
				out = append(out, []any{v})
			}
		}
		return out
	case "object":
		least := map[string]any{}
		for _, name := range s.Required {
			least[name] = d.sample(s.Properties[name], depth+1)
		}
		for name, p := range s.Properties {
			for _, v := range d.lone(p, h, depth+1) {
				next := maps.Clone(least)
				next[name] = v
				out = append(out, next)
			}
		}
		return out
	}
	return []any{h}
}

func object(v any) map[string]any {
	o, _ := v.(map[string]any)
	return o
}
