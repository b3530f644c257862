// Package client speaks the API of a Jolly Drawer service. Changes carry an identifier of their own and are sent again
// when the answer is lost: the service does each deed once.
package client

import (
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"net/http"
	"net/url"
	"strconv"
	"strings"
	"time"

	"github.com/google/uuid"

	"jollydrawer/internal/wire"
)

// Client holds where the service is and who asks. It may be used from several goroutines.
type Client struct {
	Base  string // such as http://127.0.0.1:8090
	Token string
	HTTP  *http.Client
	Tries int // how often a request is sent when the service does not answer; 0 stands for 5
}

// New returns a client for a service.
func New(base, token string) *Client {
	return &Client{Base: strings.TrimRight(base, "/"), Token: token, HTTP: &http.Client{Timeout: 5 * time.Minute, Transport: connections}}
}

// connections keeps as many connections open as a program with several goroutines uses at once.
var connections = func() http.RoundTripper {
	t, ok := http.DefaultTransport.(*http.Transport)
	if !ok {
		return http.DefaultTransport
	}
	t = t.Clone()
	t.MaxIdleConnsPerHost = 32
	t.DisableCompression = true // programs stand near the service, and a lookup is quicker without
	return t
}()

// Error is a problem that the service named.
type Error struct{ wire.Problem }

func (e *Error) Error() string {
	parts := []string{e.Detail}
	for _, d := range e.Errors {
		at := d.Message
		if d.Location != "" && !strings.HasPrefix(d.Message, d.Location) {
			at = d.Location + ": " + d.Message
		}
		parts = append(parts, at+".")
	}
	if e.Mend != "" {
		parts = append(parts, e.Mend)
	}
	return strings.Join(parts, " ")
}

// ErrUnreachable is returned when no service answers.
var ErrUnreachable = errors.New("the service does not answer")

type request struct {
	method, path string
	query        url.Values
	body         any
	raw          io.Reader // sent as it is, once
	version      int
	deed         string
}

func (c *Client) send(ctx context.Context, q request) (*http.Response, error) {
	var raw []byte
	if q.body != nil {
		var err error
		if raw, err = json.Marshal(q.body); err != nil {
			return nil, err
		}
	}
	if q.deed == "" && q.method != http.MethodGet {
		q.deed = uuid.Must(uuid.NewV7()).String()
	}
	tries := c.Tries
	if tries == 0 {
		tries = 5
	}
	if q.raw != nil {
		tries = 1
	}
	var last error
	for try := range tries {
		if try > 0 {
			select {
			case <-ctx.Done():
				return nil, ctx.Err()
			case <-time.After(time.Duration(1<<try) * 100 * time.Millisecond):
			}
		}
		body := q.raw
		if raw != nil {
			body = bytes.NewReader(raw)
		}
		u := c.Base + "/api/v1" + q.path
		if len(q.query) > 0 {
			u += "?" + q.query.Encode()
		}
		r, err := http.NewRequestWithContext(ctx, q.method, u, body)
		if err != nil {
			return nil, fmt.Errorf("the address %q is not one of a service: %w", c.Base, err)
		}
		if raw != nil {
			r.Header.Set("Content-Type", "application/json")
		}
		if c.Token != "" {
			r.Header.Set("Authorization", "Bearer "+c.Token)
		}
		if q.deed != "" {
			r.Header.Set("Deed-Id", q.deed)
		}
		if q.version >= 0 {
			r.Header.Set("If-Match", strconv.Quote(strconv.Itoa(q.version)))
		}
		res, err := c.HTTP.Do(r)
		if err != nil {
			if ctx.Err() != nil {
				return nil, ctx.Err()
			}
			last = fmt.Errorf("%w at %s (%v)", ErrUnreachable, c.Base, unwrapURL(err))
			continue
		}
		if res.StatusCode < 400 {
			return res, nil
		}
		e := readProblem(res)
		if res.StatusCode != http.StatusServiceUnavailable {
			return nil, e
		}
		last = e
	}
	return nil, last
}

func unwrapURL(err error) error {
	var u *url.Error
	if errors.As(err, &u) {
		return u.Err
	}
	return err
}

func readProblem(res *http.Response) error {
	defer res.Body.Close()
	e := &Error{}
	raw, _ := io.ReadAll(io.LimitReader(res.Body, 1<<20))
	if json.Unmarshal(raw, &e.Problem) != nil || e.Detail == "" {
		e.Detail = fmt.Sprintf("The service answered %s.", res.Status)
	}
	e.Status = res.StatusCode
	return e
}

func do[T any](ctx context.Context, c *Client, q request) (out T, err error) {
	res, err := c.send(ctx, q)
	if err != nil {
		return out, err
	}
	return out, decode(res, &out)
}

func decode(res *http.Response, into any) error {
	defer res.Body.Close()
	if res.StatusCode == http.StatusNoContent {
		return nil
	}
	if err := json.NewDecoder(res.Body).Decode(into); err != nil {
		return fmt.Errorf("the answer of the service broke off: %w", err)
	}
	return nil
}

func get[T any](ctx context.Context, c *Client, path string, query url.Values) (T, error) {
	return do[T](ctx, c, request{method: http.MethodGet, path: path, query: query, version: -1})
}

func post[T any](ctx context.Context, c *Client, path string, body any) (T, error) {
	return do[T](ctx, c, request{method: http.MethodPost, path: path, body: body, version: -1})
}

// change sends a change that is based on a version.
func change[T any](ctx context.Context, c *Client, method, path string, version int, body any) (T, error) {
	return do[T](ctx, c, request{method: method, path: path, body: body, version: version})
}

func paging(offset, limit int) url.Values {
	return url.Values{"offset": {strconv.Itoa(offset)}, "limit": {strconv.Itoa(limit)}}
}

func seg(s string) string { return url.PathEscape(s) }
