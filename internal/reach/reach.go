// Package reach guards what the service asks of other machines: an address that a person or a file names may point
// anywhere, also at machines that only the service can see. It decides after names are resolved, and for every
// redirection anew.
package reach

import (
	"context"
	"errors"
	"fmt"
	"net"
	"net/http"
	"net/netip"
	"net/url"
	"strings"
	"time"
)

// Guard says which addresses may be asked. The zero Guard allows public addresses only.
type Guard struct {
	// Inside lists HOST:PORT or HOST:* of machines in private networks, or on this machine, that may be asked as well.
	Inside []string
}

// ErrBarred is wrapped by every refusal.
var ErrBarred = errors.New("the address may not be asked")

// allows says whether an address that a name was resolved to may be asked.
func (g Guard) allows(ip netip.Addr, host, port string) error {
	ip = ip.Unmap()
	for _, in := range g.Inside {
		h, p, err := net.SplitHostPort(in)
		if err == nil && (p == "*" || p == port) && (strings.EqualFold(h, host) || h == ip.String()) {
			return nil
		}
	}
	if !ip.IsGlobalUnicast() || ip.IsPrivate() || ip.IsLoopback() || ip.IsLinkLocalUnicast() || sharedNetwork.Contains(ip) || ip.Is4In6() || mapped.Contains(ip) {
		return fmt.Errorf("%w: %s is inside a private network (an administrator can allow it with the setting allow-inside)", ErrBarred, host)
	}
	return nil
}

var (
	sharedNetwork = netip.MustParsePrefix("100.64.0.0/10") // RFC 6598
	mapped        = netip.MustParsePrefix("64:ff9b::/96")  // RFC 6052
)

// May says whether an address may be asked, as far as can be said without asking it: every machine that its name leads to now must
// be allowed.
func (g Guard) May(ctx context.Context, address string) error {
	u, err := url.Parse(address)
	if err != nil || u.Scheme != "http" && u.Scheme != "https" || u.Hostname() == "" || u.User != nil {
		return fmt.Errorf("%q is no address that begins with https://", address)
	}
	port := u.Port()
	if port == "" {
		port = map[string]string{"http": "80", "https": "443"}[u.Scheme]
	}
	ips, err := net.DefaultResolver.LookupNetIP(ctx, "ip", u.Hostname())
	if err != nil {
		return fmt.Errorf("the name %s is not known", u.Hostname())
	}
	for _, ip := range ips {
		if err := g.allows(ip, u.Hostname(), port); err != nil {
			return err
		}
	}
	return nil
}

// DialContext connects to an address if it may be asked. The address that was checked is the one that is connected to.
func (g Guard) DialContext(ctx context.Context, network, address string) (net.Conn, error) {
	host, port, err := net.SplitHostPort(address)
	if err != nil {
		return nil, fmt.Errorf("%w: %q is no address", ErrBarred, address)
	}
	ips, err := net.DefaultResolver.LookupNetIP(ctx, "ip", host)
	if err != nil {
		return nil, fmt.Errorf("the name %s is not known", host)
	}
	var last error
	for _, ip := range ips {
		if last = g.allows(ip, host, port); last != nil {
			continue
		}
		var d net.Dialer
		c, err := d.DialContext(ctx, network, net.JoinHostPort(ip.Unmap().String(), port))
		if err == nil {
			return c, nil
		}
		last = fmt.Errorf("%s does not answer", host)
	}
	return nil, last
}

// Client returns an HTTP client behind the guard. It follows few redirections, sends no cookies, and uses no proxy of
// the environment.
func (g Guard) Client(timeout time.Duration) *http.Client {
	return &http.Client{Timeout: timeout, Transport: &http.Transport{DialContext: g.DialContext, TLSHandshakeTimeout: 10 * time.Second, ResponseHeaderTimeout: timeout, MaxIdleConnsPerHost: 4, IdleConnTimeout: time.Minute, DisableCompression: true},
		CheckRedirect: func(r *http.Request, via []*http.Request) error {
			if len(via) > 4 {
				return errors.New("it leads from one address to the next without end")
			}
			if r.URL.Scheme != "http" && r.URL.Scheme != "https" {
				return fmt.Errorf("%w: it leads to %s", ErrBarred, r.URL.Scheme)
			}
			return nil
		}}
}
