package supplier

import (
	"crypto/ecdsa"
	"crypto/elliptic"
	"crypto/rand"
	"crypto/tls"
	"crypto/x509"
	"crypto/x509/pkix"
	"io"
	"log"
	"math/big"
	"net"
	"net/http"
	"net/http/httptest"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jollydrawer/core/connection"
	"jollydrawer/internal/reach"
)

// signed makes a certificate that an authority vouches for.
func signed(t *testing.T, name string, from, to time.Time, parent *x509.Certificate, key *ecdsa.PrivateKey) (tls.Certificate, *x509.Certificate, *ecdsa.PrivateKey) {
	t.Helper()
	own, err := ecdsa.GenerateKey(elliptic.P256(), rand.Reader)
	require.NoError(t, err)
	c := &x509.Certificate{SerialNumber: big.NewInt(time.Now().UnixNano()), Subject: pkix.Name{CommonName: name}, NotBefore: from, NotAfter: to, KeyUsage: x509.KeyUsageDigitalSignature | x509.KeyUsageCertSign, BasicConstraintsValid: true, IsCA: parent == nil, DNSNames: []string{name}}
	if name == "127.0.0.1" {
		c.IPAddresses = []net.IP{net.IPv4(127, 0, 0, 1)}
	}
	if parent == nil {
		parent, key = c, own
	}
	raw, err := x509.CreateCertificate(rand.Reader, c, parent, &own.PublicKey, key)
	require.NoError(t, err)
	leaf, err := x509.ParseCertificate(raw)
	require.NoError(t, err)
	return tls.Certificate{Certificate: [][]byte{raw}, PrivateKey: own, Leaf: leaf}, leaf, own
}

// A certificate that has gone bad is said, and in which way; the supplier is not asked, and gets no secret.
func TestACertificateThatHasGoneBadIsSaid(t *testing.T) {
	now := time.Now()
	_, authority, key := signed(t, "Test authority", now.AddDate(-2, 0, 0), now.AddDate(2, 0, 0), nil, nil)
	for _, c := range []struct {
		name, of string
		from, to time.Time
		trusted  bool
		says     string
	}{
		{"good", "127.0.0.1", now.Add(-time.Hour), now.Add(time.Hour), true, ""},
		{"expired", "127.0.0.1", time.Date(2025, 1, 2, 0, 0, 0, 0, time.UTC), time.Date(2026, 3, 4, 0, 0, 0, 0, time.UTC), true, "Reed cannot be asked: its certificate holds from 2025-01-02 to 2026-03-04, and not now."},
		{"of another name", "elsewhere.example", now.Add(-time.Hour), now.Add(time.Hour), true, "Reed cannot be asked: its certificate is of another name."},
		{"nobody's", "127.0.0.1", now.Add(-time.Hour), now.Add(time.Hour), false, "Reed cannot be asked: nobody that this machine trusts vouches for its certificate."},
	} {
		asked := 0
		srv := httptest.NewUnstartedServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
			asked++
			_, _ = io.WriteString(w, `{"parts":[]}`)
		}))
		pair, _, _ := signed(t, c.of, c.from, c.to, authority, key)
		srv.TLS = &tls.Config{Certificates: []tls.Certificate{pair}, MinVersion: tls.VersionTLS12}
		srv.Config.ErrorLog = log.New(io.Discard, "", 0)
		srv.StartTLS()
		d, err := connection.Parse([]byte("format: jolly-connection/1\nsupplier: Reed\naddress: " + srv.URL + "\nask: { words: { path: /find, query: { text: \"{words}\" } } }\nread: { form: json, products: \"$.parts[*]\", product: { mpn: $.type }, offers: { paths: { number: $.sku } } }\n"))
		require.NoError(t, err)
		a := NewAsker(reach.Guard{Inside: []string{"127.0.0.1:*"}}, func(string) (string, bool) { return "", false }, &budget{})
		client := a.client(d.Limits.With())
		pool := x509.NewCertPool()
		if c.trusted {
			pool.AddCert(authority)
		}
		client.Transport.(*http.Transport).TLSClientConfig = &tls.Config{RootCAs: pool, MinVersion: tls.VersionTLS12}
		_, _, err = all(t, a, &d, connection.Question{Kind: connection.Words, Words: "4k7"})
		srv.Close()
		if c.says == "" {
			require.NoError(t, err, c.name)
			assert.Equal(t, 1, asked)
			continue
		}
		assert.EqualError(t, err, c.says, c.name)
		assert.Zero(t, asked, "%s: a supplier that cannot be trusted is asked nothing", c.name)
	}
}
