// Package supplier asks suppliers as their connections say, and reads what they answer: within their limits, behind the guard for outgoing
// requests, with a bound for everything that comes back. It keeps nothing.
package supplier

import (
	"bytes"
	"cmp"
	"context"
	"crypto/x509"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"net"
	"net/http"
	"net/url"
	"os"
	"strconv"
	"strings"
	"sync"
	"time"

	"jollydrawer/core/connection"
	"jollydrawer/internal/reach"
)

// Budget keeps the limits of connections over all instances.
type Budget interface {
	// Take says whether one more question may go out to a connection now. wait is how long to wait first; a refusal is an error in a sentence.
	Take(ctx context.Context, connection string, limits connection.Limits) (wait time.Duration, err error)
}

// Secrets gives the secrets of the service's settings by name.
type Secrets func(name string) (secret string, ok bool)

// Asker asks suppliers. Its methods may be called from several goroutines.
type Asker struct {
	guard   reach.Guard
	secrets Secrets
	budget  Budget
	now     func() time.Time
	pause   func(ctx context.Context, d time.Duration) error

	mu      sync.Mutex
	tokens  map[string]token     // by connection and secret; never kept anywhere else
	clients map[int]*http.Client // by the seconds that an answer may take
}

type token struct {
	text  string
	until time.Time
}

// NewAsker returns an asker behind a guard.
func NewAsker(g reach.Guard, s Secrets, b Budget) *Asker {
	return &Asker{guard: g, secrets: s, budget: b, now: time.Now, tokens: map[string]token{}, clients: map[int]*http.Client{}, pause: func(ctx context.Context, d time.Duration) error {
		select {
		case <-ctx.Done():
			return ctx.Err()
		case <-time.After(d):
			return nil
		}
	}}
}

// Trouble is why a supplier has no answer, or not the whole one, in a sentence that may be shown to anybody: no address and no secret is in it.
type Trouble struct {
	What string
	// Later says that the same question may be answered at another time; what is wrong with the connection or its secret is not.
	Later bool
}

func (t *Trouble) Error() string { return t.What }

func trouble(later bool, format string, args ...any) error {
	return &Trouble{fmt.Sprintf(format, args...), later}
}

const (
	tries       = 3
	longestWait = 6 * time.Second // that a question waits because the supplier asks it to
)

// Page is one page of an answer, read, with its bytes as they came.
type Page struct {
	Answer
	Raw []byte
	At  time.Time
}

// Ask asks a question and calls f with each page of the answer. What came before something went wrong stays with the caller: a Trouble after
// some pages is an answer in part.
func (a *Asker) Ask(ctx context.Context, d *connection.Document, q connection.Question, f func(Page) error) error {
	r, err := NewReader(d, q.Kind)
	if err != nil {
		return trouble(false, "%s: %s.", d.Supplier, err)
	}
	limits := d.Limits.With()
	page, sofar := d.FirstPage(), 0
	seen := map[string]bool{}
	for n := 1; ; n++ {
		filled, err := d.Fill(q, page)
		if err != nil {
			return trouble(false, "%s.", upper(err.Error()))
		}
		raw, err := a.fetch(ctx, d, limits, filled, nil)
		if err != nil {
			return err
		}
		ans, err := r.Read(raw)
		if err != nil {
			return trouble(true, "%s answered with something that cannot be read: %s.", d.Supplier, strings.TrimSuffix(err.Error(), "."))
		}
		if err := f(Page{ans, raw, a.now()}); err != nil {
			return err
		}
		seen[page] = true
		sofar += len(ans.Products)
		next, more := d.NextPage(page, ans.Next, len(ans.Products), sofar, ans.Total)
		switch {
		case !more || !d.Paged(q.Kind):
			return nil
		case seen[next]:
			return trouble(false, "%s leads from page %d back to one that was read: its pages have no end.", d.Supplier, n)
		case n == limits.Pages:
			return nil // as many as the house wants to see of one question
		}
		page = next
	}
}

// List is a price list as a supplier hands it out.
type List struct {
	Raw  []byte
	Tag  string // the supplier's mark of it (RFC 9110, 8.8.3)
	Same bool   // it is the one that the mark of the call is of; Raw is nil
}

// List fetches the price list of a supplier, unless it is still the one that has a mark.
func (a *Asker) List(ctx context.Context, d *connection.Document, tag string) (List, error) {
	limits := d.Limits.With()
	q, err := d.Fill(connection.Question{Kind: connection.List}, "")
	if err != nil {
		return List{}, trouble(false, "%s.", upper(err.Error()))
	}
	l := List{Tag: tag}
	if l.Raw, err = a.fetch(ctx, d, limits, q, &l.Tag); err != nil {
		return List{}, err
	}
	l.Same = l.Raw == nil
	return l, nil
}

// Changes fetches the rows of a price list that are new or otherwise since a time.
func (a *Asker) Changes(ctx context.Context, d *connection.Document, since time.Time) ([]byte, error) {
	q, err := d.Fill(connection.Question{Kind: connection.Changes, Since: since.UTC().Format(time.RFC3339)}, "")
	if err != nil {
		return nil, trouble(false, "%s.", upper(err.Error()))
	}
	return a.fetch(ctx, d, d.Limits.With(), q, nil)
}

// fetch carries out one request, with its retries. tag is as for once; what is still the same has no bytes.
func (a *Asker) fetch(ctx context.Context, d *connection.Document, limits connection.Limits, q connection.Filled, tag *string) ([]byte, error) {
	renewed := false
	for try := 1; ; try++ {
		wait, err := a.budget.Take(ctx, d.Supplier, limits)
		if err != nil {
			return nil, err
		}
		if wait > 0 {
			if err := a.pause(ctx, wait); err != nil {
				return nil, err
			}
		}
		raw, status, again, err := a.once(ctx, d, limits, q, tag)
		if ctx.Err() != nil {
			return nil, ctx.Err()
		}
		if status == http.StatusUnauthorized && d.SignIn != nil && d.SignIn.By == "token" && !renewed { // a token may end before its time
			renewed = true
			a.forget(d)
			continue
		}
		if err == nil {
			return raw, nil
		}
		if again < 0 || try == tries {
			return nil, err
		}
		if again > longestWait {
			return nil, trouble(true, "%s asks to be asked again in %s.", d.Supplier, again.Round(time.Second))
		}
		if err := a.pause(ctx, max(again, time.Duration(try)*200*time.Millisecond)); err != nil {
			return nil, err
		}
	}
}

// once carries out one request. tag is the mark of what is at hand already, and becomes that of the answer; nil for an answer that has none. again is how long to wait before trying once more; negative: not at all.
func (a *Asker) once(ctx context.Context, d *connection.Document, limits connection.Limits, q connection.Filled, tag *string) (raw []byte, status int, again time.Duration, err error) {
	ctx, stop := context.WithTimeout(ctx, time.Duration(limits.Seconds)*time.Second)
	defer stop()
	var body io.Reader
	if q.Body != nil {
		body = bytes.NewReader(q.Body)
	}
	req, err := http.NewRequestWithContext(ctx, q.Method, q.Address, body)
	if err != nil {
		return nil, 0, -1, trouble(false, "The address of %s with this question is none.", d.Supplier)
	}
	if q.Body != nil {
		req.Header.Set("Content-Type", "application/json")
	}
	req.Header.Set("Accept", map[string]string{"json": "application/json", "xml": "application/xml, text/xml", "table": "*/*"}[q.Form])
	if tag != nil && *tag != "" {
		req.Header.Set("If-None-Match", *tag)
	}
	if err := a.sign(ctx, d, limits, req); err != nil {
		return nil, 0, -1, err
	}
	res, err := a.client(limits).Do(req)
	if err != nil {
		why, later := spoken(err)
		if !later {
			return nil, 0, -1, trouble(false, "%s cannot be asked: %s.", d.Supplier, why)
		}
		return nil, 0, 0, trouble(true, "%s %s.", d.Supplier, why)
	}
	defer res.Body.Close()
	if res.StatusCode == http.StatusNotModified && tag != nil && *tag != "" {
		return nil, res.StatusCode, 0, nil
	}
	if res.StatusCode != http.StatusOK {
		_, _ = io.CopyN(io.Discard, res.Body, 64<<10)
		again, err := refused(d, res, a.now())
		return nil, res.StatusCode, again, err
	}
	most := int64(limits.MB) << 20
	raw, err = io.ReadAll(io.LimitReader(res.Body, most+1))
	switch {
	case err != nil && errors.Is(ctx.Err(), context.DeadlineExceeded):
		return nil, 0, 0, trouble(true, "%s took longer than %d s for one answer.", d.Supplier, limits.Seconds)
	case err != nil:
		return nil, 0, 0, trouble(true, "The answer of %s broke off in the middle.", d.Supplier)
	case int64(len(raw)) > most:
		return nil, 0, -1, trouble(false, "%s sent more than %d MB in one answer; nothing of it was read.", d.Supplier, limits.MB)
	}
	if tag != nil {
		if *tag = res.Header.Get("ETag"); len(*tag) > 250 {
			*tag = ""
		}
	}
	return raw, res.StatusCode, 0, nil
}

// client keeps one client, and so its connections, for each time limit.
func (a *Asker) client(limits connection.Limits) *http.Client {
	a.mu.Lock()
	defer a.mu.Unlock()
	if c := a.clients[limits.Seconds]; c != nil {
		return c
	}
	c := a.guard.Client(time.Duration(limits.Seconds) * time.Second)
	follow := c.CheckRedirect
	c.CheckRedirect = func(r *http.Request, via []*http.Request) error {
		if via[0].URL.Host != r.URL.Host { // a secret goes to nobody else
			return fmt.Errorf("%w: it leads to another machine", reach.ErrBarred)
		}
		return follow(r, via)
	}
	a.clients[limits.Seconds] = c
	return c
}

// refused says what an answer other than 200 means, and whether to try again.
func refused(d *connection.Document, res *http.Response, now time.Time) (again time.Duration, err error) {
	switch s := res.StatusCode; {
	case s == http.StatusTooManyRequests || s == http.StatusServiceUnavailable && res.Header.Get("Retry-After") != "":
		return retryAfter(res.Header.Get("Retry-After"), now), trouble(true, "%s is asked too often.", d.Supplier)
	case s == http.StatusUnauthorized || s == http.StatusForbidden:
		if d.SignIn == nil {
			return -1, trouble(false, "%s wants to know who asks, and its connection says no way to sign in.", d.Supplier)
		}
		return -1, trouble(false, "%s does not accept the secret %q: an administrator has to look at it.", d.Supplier, d.SignIn.Secret)
	case s >= 500:
		return 0, trouble(true, "%s has trouble of its own (%d).", d.Supplier, s)
	case s == http.StatusNotFound:
		return -1, trouble(false, "%s has nothing at the address of the question (404): its connection has to be looked at.", d.Supplier)
	}
	return -1, trouble(false, "%s refused the question (%d).", d.Supplier, res.StatusCode)
}

// retryAfter reads RFC 9110, 10.2.3: seconds or a date.
func retryAfter(text string, now time.Time) time.Duration {
	if n, err := strconv.Atoi(text); err == nil && n >= 0 {
		return time.Duration(n) * time.Second
	}
	if at, err := http.ParseTime(text); err == nil {
		return max(at.Sub(now), 0)
	}
	return time.Second
}

// spoken says why a request got no answer, without its address: a key may be in it.
func spoken(err error) (why string, later bool) {
	var u *url.Error
	if errors.As(err, &u) {
		err = u.Err
	}
	var timeout net.Error
	switch {
	case errors.Is(err, reach.ErrBarred):
		return err.Error(), false
	case errors.Is(err, context.DeadlineExceeded), errors.As(err, &timeout) && timeout.Timeout(), errors.Is(err, os.ErrDeadlineExceeded):
		return "does not answer in time", true
	case certificate(err) != "":
		return certificate(err), false
	case strings.Contains(err.Error(), "without end"):
		return err.Error(), false
	case errors.Is(err, io.EOF), errors.Is(err, io.ErrUnexpectedEOF), strings.Contains(err.Error(), "reset"):
		return "broke off before it answered", true
	}
	return "does not answer", true
}

// certificate says what is wrong with the certificate that a supplier showed (RFC 5280, 6.1); blank where it is something else.
func certificate(err error) string {
	var invalid x509.CertificateInvalidError
	var name x509.HostnameError
	var nobody x509.UnknownAuthorityError
	switch {
	case errors.As(err, &invalid) && invalid.Reason == x509.Expired && invalid.Cert != nil:
		return "its certificate holds from " + invalid.Cert.NotBefore.UTC().Format(time.DateOnly) + " to " + invalid.Cert.NotAfter.UTC().Format(time.DateOnly) + ", and not now"
	case errors.As(err, &name):
		return "its certificate is of another name"
	case errors.As(err, &nobody):
		return "nobody that this machine trusts vouches for its certificate"
	case errors.As(err, &invalid), strings.Contains(err.Error(), "certificate"), strings.Contains(err.Error(), "tls:"):
		return "its certificate is not valid"
	}
	return ""
}

// sign puts the secret on a request.
func (a *Asker) sign(ctx context.Context, d *connection.Document, limits connection.Limits, req *http.Request) error {
	s := d.SignIn
	if s == nil {
		return nil
	}
	secret, ok := a.secrets(s.Secret)
	if !ok || secret == "" {
		return trouble(false, "The secret %q of the connection to %s is not among the service's settings.", s.Secret, d.Supplier)
	}
	if strings.ContainsAny(secret, "\r\n\x00") {
		return trouble(false, "The secret %q of the connection to %s has a line break in it.", s.Secret, d.Supplier)
	}
	switch s.By {
	case "key":
		if s.Header != "" {
			req.Header.Set(s.Header, secret)
			return nil
		}
		v := req.URL.Query()
		v.Set(s.Query, secret)
		req.URL.RawQuery = v.Encode()
	case "password":
		req.SetBasicAuth(s.User, secret)
	case "token":
		t, err := a.token(ctx, d, limits, secret)
		if err != nil {
			return err
		}
		req.Header.Set("Authorization", "Bearer "+t)
	}
	return nil
}

func (a *Asker) forget(d *connection.Document) {
	a.mu.Lock()
	defer a.mu.Unlock()
	delete(a.tokens, d.Supplier+"\x00"+d.SignIn.Secret)
}

// token returns a token by the client's name and secret (RFC 6749, 4.4), the one from before where it holds.
func (a *Asker) token(ctx context.Context, d *connection.Document, limits connection.Limits, secret string) (string, error) {
	key := d.Supplier + "\x00" + d.SignIn.Secret
	a.mu.Lock()
	t, ok := a.tokens[key]
	a.mu.Unlock()
	if ok && a.now().Before(t.until) {
		return t.text, nil
	}
	form := url.Values{"grant_type": {"client_credentials"}}
	if d.SignIn.Scope != "" {
		form.Set("scope", d.SignIn.Scope)
	}
	req, err := http.NewRequestWithContext(ctx, "POST", strings.TrimSuffix(d.Address, "/")+d.SignIn.Token, strings.NewReader(form.Encode()))
	if err != nil {
		return "", trouble(false, "The address where %s hands out tokens is none.", d.Supplier)
	}
	req.Header.Set("Content-Type", "application/x-www-form-urlencoded")
	req.SetBasicAuth(url.QueryEscape(d.SignIn.User), url.QueryEscape(secret))
	res, err := a.client(limits).Do(req)
	if err != nil {
		why, later := spoken(err)
		return "", trouble(later, "%s hands out no token: it %s.", d.Supplier, why)
	}
	defer res.Body.Close()
	var got struct {
		Token   string `json:"access_token"`
		Type    string `json:"token_type"`
		Expires int    `json:"expires_in"`
	}
	err = json.NewDecoder(io.LimitReader(res.Body, 64<<10)).Decode(&got)
	switch {
	case res.StatusCode == http.StatusUnauthorized || res.StatusCode == http.StatusBadRequest:
		return "", trouble(false, "%s does not accept the secret %q: an administrator has to look at it.", d.Supplier, d.SignIn.Secret)
	case res.StatusCode != http.StatusOK || err != nil || got.Token == "" || !strings.EqualFold(cmp.Or(got.Type, "bearer"), "bearer") || strings.ContainsAny(got.Token, "\r\n"):
		return "", trouble(true, "%s hands out no token (%d).", d.Supplier, res.StatusCode)
	}
	if got.Expires <= 0 {
		got.Expires = 300
	}
	a.mu.Lock()
	defer a.mu.Unlock()
	a.tokens[key] = token{got.Token, a.now().Add(time.Duration(got.Expires)*time.Second - 10*time.Second)}
	return got.Token, nil
}

func upper(s string) string { return strings.ToUpper(s[:1]) + s[1:] }
