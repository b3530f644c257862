package notice

import (
	"crypto/hkdf"
	"crypto/hmac"
	"crypto/sha256"
	"encoding/base64"
	"encoding/json"
	"fmt"
	"strings"
	"time"
)

// CloudEvent is a notice as a hook receives it: CloudEvents 1.0, JSON format, structured mode.
type CloudEvent struct {
	SpecVersion     string          `json:"specversion"`
	ID              string          `json:"id"`
	Source          string          `json:"source"`
	Type            string          `json:"type"`
	Time            time.Time       `json:"time"`
	Subject         string          `json:"subject,omitempty"`
	DataContentType string          `json:"datacontenttype"`
	Data            json.RawMessage `json:"data"`
}

// ContentType is that of a CloudEvent in structured mode (CloudEvents HTTP binding 1.0, section 3.2).
const ContentType = "application/cloudevents+json; charset=utf-8"

// EventType is the type of all events.
const EventType = "drawer.jolly.notice.v1"

// Signed are the header fields that sign a call: HTTP Message Signatures (RFC 9421) with hmac-sha256 (section 3.3.3) over method,
// address, content type and the digest of the content (RFC 9530).
type Signed struct{ ContentDigest, SignatureInput, Signature string }

// Sign signs the call of an address with a body. key names the key for who keeps several.
func Sign(secret []byte, key, address, contentType string, body []byte, at time.Time) Signed {
	sum := sha256.Sum256(body)
	s := Signed{ContentDigest: "sha-256=:" + base64.StdEncoding.EncodeToString(sum[:]) + ":"}
	params := fmt.Sprintf(`("@method" "@target-uri" "content-type" "content-digest");created=%d;keyid=%q;alg="hmac-sha256"`, at.Unix(), key)
	s.SignatureInput = "jolly=" + params
	s.Signature = "jolly=:" + base64.StdEncoding.EncodeToString(mac(secret, base(address, contentType, s.ContentDigest, params))) + ":"
	return s
}

// base is the signature base (RFC 9421, section 2.5).
func base(address, contentType, digest, params string) string {
	return fmt.Sprintf("\"@method\": POST\n\"@target-uri\": %s\n\"content-type\": %s\n\"content-digest\": %s\n\"@signature-params\": %s", address, contentType, digest, params)
}

func mac(secret []byte, text string) []byte {
	h := hmac.New(sha256.New, secret)
	h.Write([]byte(text))
	return h.Sum(nil)
}

// Verify says whether a call is signed with a secret, as whoever receives one does it.
func Verify(secret []byte, s Signed, address, contentType string, body []byte) error {
	sum := sha256.Sum256(body)
	if want := "sha-256=:" + base64.StdEncoding.EncodeToString(sum[:]) + ":"; s.ContentDigest != want {
		return fmt.Errorf("the digest is not that of the content")
	}
	params, ok := strings.CutPrefix(s.SignatureInput, "jolly=")
	if !ok {
		return fmt.Errorf("there is no signature named jolly")
	}
	text, ok := strings.CutPrefix(s.Signature, "jolly=:")
	got, err := base64.StdEncoding.DecodeString(strings.TrimSuffix(text, ":"))
	if !ok || err != nil || !hmac.Equal(got, mac(secret, base(address, contentType, s.ContentDigest, params))) {
		return fmt.Errorf("the signature is another one")
	}
	return nil
}

// KeyID is the name of the key that a signature input names, quoted as it stands there.
func KeyID(input string) string {
	_, rest, _ := strings.Cut(input, "keyid=")
	id, _, _ := strings.Cut(rest, ";")
	return id
}

// Secret is the key that signs the calls of a person's hook: derived from the installation's own (RFC 5869), so that none is kept. again
// tells keys of one person apart.
func Secret(installation []byte, person string, again int) []byte {
	key, err := hkdf.Key(sha256.New, installation, []byte("jolly-drawer/hooks"), fmt.Sprintf("%s/%d", person, again), sha256.Size)
	if err != nil {
		panic("notice: a key as long as a hash can always be derived: " + err.Error())
	}
	return key
}
