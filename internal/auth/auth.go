// Package auth makes and checks secrets: passwords (argon2id, RFC 9106), session and API tokens. Who may do what is
// decided in package service.
package auth

import (
	"crypto/rand"
	"crypto/sha256"
	"crypto/subtle"
	"encoding/base64"
	"errors"
	"fmt"
	"strings"

	"golang.org/x/crypto/argon2"
)

// Cost is what every guess at a password costs whoever has its hash, in the parameters of RFC 9106, section 3.1.
type Cost struct {
	Passes  uint32
	Memory  uint32 // KiB
	Threads uint8
}

// Usual is the second recommended choice of RFC 9106, section 4, for two processors.
var Usual = Cost{Passes: 3, Memory: 64 << 10, Threads: 2}

// Least is the least that OWASP's Password Storage Cheat Sheet (argon2id) allows, for a machine with little memory.
var Least = Cost{Passes: 2, Memory: 19 << 10, Threads: 1}

// CostNamed is the cost that a setting calls usual or least.
func CostNamed(name string) (Cost, error) {
	switch name {
	case "usual":
		return Usual, nil
	case "least":
		return Least, nil
	}
	return Cost{}, fmt.Errorf("%q: use usual or least", name)
}

// slots bounds how many password hashes are computed at once, so that sign-ins cannot use up the memory.
var slots = make(chan struct{}, 4)

// Hash returns the encoded argon2id hash of a password with a fresh salt.
func (c Cost) Hash(password string) string {
	salt := make([]byte, 16)
	_, _ = rand.Read(salt) // never fails (crypto/rand)
	return c.encode(salt, c.derive(password, salt))
}

func (c Cost) derive(password string, salt []byte) []byte {
	slots <- struct{}{}
	defer func() { <-slots }()
	return argon2.IDKey([]byte(password), salt, c.Passes, c.Memory, c.Threads, 32)
}

func (c Cost) encode(salt, key []byte) string {
	b := base64.RawStdEncoding
	return fmt.Sprintf("$argon2id$v=%d$m=%d,t=%d,p=%d$%s$%s", argon2.Version, c.Memory, c.Passes, c.Threads, b.EncodeToString(salt), b.EncodeToString(key))
}

// Check says whether a password fits an encoded hash, which says itself what it cost. With an empty hash, where there is no such
// account, it takes as long as one of this cost and says no.
func (c Cost) Check(encoded, password string) bool {
	missing := encoded == ""
	if missing {
		encoded = c.encode(make([]byte, 16), make([]byte, 32))
	}
	var v int
	var of Cost
	parts := strings.Split(encoded, "$")
	if len(parts) != 6 {
		return false
	}
	if _, err := fmt.Sscanf(parts[2]+" "+parts[3], "v=%d m=%d,t=%d,p=%d", &v, &of.Memory, &of.Passes, &of.Threads); err != nil || of.Memory > 1<<20 || of.Passes > 20 || of.Passes == 0 || of.Threads == 0 {
		return false
	}
	salt, err1 := base64.RawStdEncoding.DecodeString(parts[4])
	want, err2 := base64.RawStdEncoding.DecodeString(parts[5])
	if err1 != nil || err2 != nil || len(want) != 32 {
		return false
	}
	return subtle.ConstantTimeCompare(of.derive(password, salt), want) == 1 && !missing
}

// CheckStrength says why a password is not accepted.
func CheckStrength(password, login string) error {
	if len(password) < 10 || len(password) > 200 {
		return errors.New("a password needs 10 to 200 characters")
	}
	if strings.Contains(strings.ToLower(password), strings.ToLower(login)) {
		return errors.New("a password must not contain the sign-in name")
	}
	return nil
}

// TokenPrefix begins every API token, so that one that leaked can be recognised.
const TokenPrefix = "jdt_"

// NewSecret returns 128 bits or more of randomness as text.
func NewSecret() string { return rand.Text() }

// SecretHash is what is kept of a secret that has full entropy.
func SecretHash(secret string) [sha256.Size]byte { return sha256.Sum256([]byte(secret)) }
