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

// Cost of a password hash: RFC 9106, section 4, the second recommended choice, with less memory per pass doubled.
const (
	passes  = 3
	memory  = 64 << 10 // KiB
	threads = 2
)

// slots bounds how many password hashes are computed at once, so that sign-ins cannot use up the memory.
var slots = make(chan struct{}, 4)

// HashPassword returns the encoded argon2id hash of a password with a fresh salt.
func HashPassword(password string) string {
	salt := make([]byte, 16)
	_, _ = rand.Read(salt) // never fails (crypto/rand)
	return encode(salt, derive(password, salt, passes, memory, threads))
}

func derive(password string, salt []byte, t, m uint32, p uint8) []byte {
	slots <- struct{}{}
	defer func() { <-slots }()
	return argon2.IDKey([]byte(password), salt, t, m, p, 32)
}

func encode(salt, key []byte) string {
	b := base64.RawStdEncoding
	return fmt.Sprintf("$argon2id$v=%d$m=%d,t=%d,p=%d$%s$%s", argon2.Version, memory, passes, threads, b.EncodeToString(salt), b.EncodeToString(key))
}

// decoy is compared against when there is no such account, so that both answers take the same time.
var decoy = encode(make([]byte, 16), make([]byte, 32))

// CheckPassword says whether a password fits an encoded hash; with an empty hash it takes as long and says no.
func CheckPassword(encoded, password string) bool {
	missing := encoded == ""
	if missing {
		encoded = decoy
	}
	var v int
	var m, t uint32
	var p uint8
	parts := strings.Split(encoded, "$")
	if len(parts) != 6 {
		return false
	}
	if _, err := fmt.Sscanf(parts[2]+" "+parts[3], "v=%d m=%d,t=%d,p=%d", &v, &m, &t, &p); err != nil || m > 1<<20 || t > 20 || p == 0 {
		return false
	}
	salt, err1 := base64.RawStdEncoding.DecodeString(parts[4])
	want, err2 := base64.RawStdEncoding.DecodeString(parts[5])
	if err1 != nil || err2 != nil || len(want) != 32 {
		return false
	}
	return subtle.ConstantTimeCompare(derive(password, salt, t, m, p), want) == 1 && !missing
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
