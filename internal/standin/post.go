package standin

import (
	"encoding/base64"
	"encoding/json"
	"fmt"
	"io"
	"net"
	"net/http"
	"slices"
	"sync"
	"time"

	"github.com/emersion/go-smtp"

	"jollydrawer/core/notice"
)

// Letter is a mail that arrived.
type Letter struct {
	From string    `json:"from"`
	To   []string  `json:"to"`
	Raw  string    `json:"raw"`
	At   time.Time `json:"at"`
}

// Called is a call of the hook that arrived.
type Called struct {
	Event  notice.CloudEvent `json:"event"`
	KeyID  string            `json:"keyId"`
	Signed string            `json:"signed"` // "yes", or why not
	At     time.Time         `json:"at"`
}

// Post is a simulated mail server and a receiver of hooks: real servers on loopback that keep what arrives in memory. GET /letters
// and GET /calls show it.
type Post struct {
	Mail string // HOST:PORT that takes mail
	Hook string // address to be called

	mu      sync.Mutex
	letters []Letter
	calls   []Called
	secrets map[string][]byte // by the name of the key
	refuse  int               // how many letters and calls are refused from now on

	smtp *smtp.Server
	http *http.Server
}

// StartPost starts both on loopback: the pages on the given address where that is free, else on a free port.
func StartPost(address string) (*Post, error) {
	p := &Post{secrets: map[string][]byte{}}
	mail, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		return nil, fmt.Errorf("the simulated mail server cannot be started: %w", err)
	}
	l, err := net.Listen("tcp", address)
	if err != nil {
		l, err = net.Listen("tcp", "127.0.0.1:0")
	}
	if err != nil {
		mail.Close()
		return nil, fmt.Errorf("the simulated receiver of hooks cannot be started: %w", err)
	}
	p.smtp = smtp.NewServer(smtp.BackendFunc(func(*smtp.Conn) (smtp.Session, error) { return &session{post: p}, nil }))
	p.smtp.Domain, p.smtp.MaxMessageBytes, p.smtp.ReadTimeout, p.smtp.WriteTimeout = "standin.invalid", 1<<20, 30*time.Second, 30*time.Second
	mux := http.NewServeMux()
	mux.HandleFunc("POST /hook", p.receive)
	mux.HandleFunc("GET /letters", func(w http.ResponseWriter, _ *http.Request) { show(w, p.Letters()) })
	mux.HandleFunc("GET /calls", func(w http.ResponseWriter, _ *http.Request) { show(w, p.Calls()) })
	p.http = &http.Server{Handler: mux, ReadHeaderTimeout: 5 * time.Second}
	p.Mail, p.Hook = mail.Addr().String(), "http://"+l.Addr().String()+"/hook"
	go func() { _ = p.smtp.Serve(mail) }()
	go func() { _ = p.http.Serve(l) }()
	return p, nil
}

func show(w http.ResponseWriter, v any) {
	w.Header().Set("Content-Type", "application/json")
	e := json.NewEncoder(w)
	e.SetIndent("", "  ")
	_ = e.Encode(v)
}

// Trust lets calls that are signed with a key be found signed. secret is in base64, as the console shows it.
func (p *Post) Trust(keyID, secret string) error {
	raw, err := base64.StdEncoding.DecodeString(secret)
	p.mu.Lock()
	defer p.mu.Unlock()
	p.secrets[`"`+keyID+`"`] = raw
	return err
}

// Refuse lets the next n letters and calls be refused.
func (p *Post) Refuse(n int) {
	p.mu.Lock()
	defer p.mu.Unlock()
	p.refuse = n
}

func (p *Post) refuses() bool {
	p.mu.Lock()
	defer p.mu.Unlock()
	if p.refuse > 0 {
		p.refuse--
		return true
	}
	return false
}

// Letters lists what arrived by mail.
func (p *Post) Letters() []Letter {
	p.mu.Lock()
	defer p.mu.Unlock()
	return append([]Letter{}, p.letters...)
}

// Calls lists what arrived at the hook.
func (p *Post) Calls() []Called {
	p.mu.Lock()
	defer p.mu.Unlock()
	return append([]Called{}, p.calls...)
}

// receive takes a call of the hook, as any receiver would: it looks at the signature first.
func (p *Post) receive(w http.ResponseWriter, r *http.Request) {
	if p.refuses() {
		http.Error(w, "not now", http.StatusServiceUnavailable)
		return
	}
	body, err := io.ReadAll(io.LimitReader(r.Body, 1<<20))
	c := Called{At: time.Now(), Signed: "yes"}
	if err == nil {
		err = json.Unmarshal(body, &c.Event)
	}
	if err != nil {
		http.Error(w, err.Error(), http.StatusBadRequest)
		return
	}
	sign := notice.Signed{ContentDigest: r.Header.Get("Content-Digest"), SignatureInput: r.Header.Get("Signature-Input"), Signature: r.Header.Get("Signature")}
	p.mu.Lock()
	defer p.mu.Unlock()
	c.KeyID = notice.KeyID(sign.SignatureInput)
	if err := notice.Verify(p.secrets[c.KeyID], sign, "http://"+r.Host+r.URL.RequestURI(), r.Header.Get("Content-Type"), body); err != nil {
		c.Signed = err.Error()
	}
	p.calls = append(p.calls, c)
	w.WriteHeader(http.StatusNoContent)
}

// Close stops both.
func (p *Post) Close() error {
	_ = p.smtp.Close()
	return p.http.Close()
}

// session takes the letters of one connection.
type session struct {
	post   *Post
	letter Letter
}

func (s *session) Reset() { s.letter = Letter{} }

func (s *session) Logout() error { return nil }

func (s *session) Mail(from string, _ *smtp.MailOptions) error {
	s.letter = Letter{From: from}
	return nil
}

func (s *session) Rcpt(to string, _ *smtp.RcptOptions) error {
	s.letter.To = append(s.letter.To, to)
	return nil
}

func (s *session) Data(r io.Reader) error {
	if s.post.refuses() {
		return &smtp.SMTPError{Code: 451, EnhancedCode: smtp.EnhancedCode{4, 3, 0}, Message: "not now"}
	}
	raw, err := io.ReadAll(r)
	if err != nil {
		return err
	}
	s.post.mu.Lock()
	defer s.post.mu.Unlock()
	s.letter.Raw, s.letter.At, s.letter.To = string(raw), time.Now(), slices.Clone(s.letter.To)
	s.post.letters = append(s.post.letters, s.letter)
	return nil
}
