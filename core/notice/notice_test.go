package notice

import (
	"fmt"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"pgregory.net/rapid"
)

func TestWhatIsSavedADozenTimesIsNoNews(t *testing.T) {
	assert.False(t, Loud("part", "draft saved"))
	assert.True(t, Loud("part", "released"))
	assert.True(t, Loud("part", "made by intake"))
	assert.False(t, Loud("intake", "made"))
}

// A mail says each notice in lines of its own, whatever others wrote into it: nothing of it is a header, or looks like another
// notice.
func TestNothingInAMailBeginsALineOfItsOwn(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		var all []Told
		for range rapid.IntRange(1, 5).Draw(t, "n") {
			all = append(all, Told{At: time.Unix(0, 0), Title: rapid.String().Draw(t, "title"), Why: rapid.String().Draw(t, "why")})
		}
		more := rapid.IntRange(0, 2).Draw(t, "more")
		m := MailOf(all, more, "https://parts.example/you")
		assert.NotContains(t, m.Subject, "\n")
		assert.NotContains(t, m.Subject, "\r")
		assert.NotContains(t, m.Text, "\r")
		lines := 3 // the end
		for _, n := range all {
			lines += 2
			if n.Why != "" {
				lines++
			}
		}
		if more > 0 {
			lines += 2
		}
		assert.Len(t, strings.Split(m.Text, "\n"), lines)
	})
	assert.Equal(t, "3 notices of the parts library", MailOf(make([]Told, 1), 2, "").Subject)
}

func TestWhenDigestsAndTriesCome(t *testing.T) {
	at := func(s string) time.Time {
		v, err := time.Parse("2006-01-02 15:04:05", s)
		assert.NoError(t, err)
		return v
	}
	for _, c := range [][3]string{
		{"hour", "2026-03-01 10:00:00", "2026-03-01 11:00:00"}, {"hour", "2026-03-01 10:59:59", "2026-03-01 11:00:00"}, {"hour", "2026-12-31 23:30:00", "2027-01-01 00:00:00"},
		{"day", "2026-03-01 05:59:59", "2026-03-01 06:00:00"}, {"day", "2026-03-01 06:00:00", "2026-03-02 06:00:00"}, {"day", "2026-02-28 12:00:00", "2026-03-01 06:00:00"},
	} {
		assert.Equal(t, at(c[2]), Next(c[0], at(c[1])), c)
	}
	var all time.Duration
	for n := 1; ; n++ {
		pause, ok := Pause(n)
		if !ok {
			assert.Equal(t, 8, n)
			break
		}
		if n > 1 {
			before, _ := Pause(n - 1)
			assert.Equal(t, 4*before, pause)
		}
		all += pause
	}
	assert.Greater(t, all, 12*time.Hour)
}

// What was signed is found signed, and nothing else: any byte that is another one is noticed.
func TestASignatureHoldsForWhatWasSignedOnly(t *testing.T) {
	secret := Secret([]byte("installation"), "p", 1)
	const address = "https://hooks.example/jolly?x=1"
	rapid.Check(t, func(t *rapid.T) {
		body := rapid.SliceOfN(rapid.Byte(), 1, 200).Draw(t, "body")
		s := Sign(secret, "k", address, ContentType, body, time.Unix(1_800_000_000, 0))
		assert.NoError(t, Verify(secret, s, address, ContentType, body))
		assert.Error(t, Verify(Secret([]byte("installation"), "p", 2), s, address, ContentType, body))
		assert.Error(t, Verify(Secret([]byte("installation"), "q", 1), s, address, ContentType, body))
		assert.Error(t, Verify(secret, s, address+"2", ContentType, body))
		assert.Error(t, Verify(secret, s, address, "text/plain", body))
		other := append([]byte{}, body...)
		other[rapid.IntRange(0, len(body)-1).Draw(t, "at")] ^= 1
		assert.Error(t, Verify(secret, s, address, ContentType, other))
		late := s
		late.SignatureInput = strings.Replace(s.SignatureInput, "created=1800000000", "created=1800000001", 1)
		assert.Error(t, Verify(secret, late, address, ContentType, body), "the time is signed too")
		assert.Error(t, Verify(secret, Signed{}, address, ContentType, body))
	})
}

// RFC 9421 builds the signature base of lines that are known here by heart.
func ExampleSign() {
	s := Sign([]byte("secret"), "me", "https://hooks.example/in", "application/json", []byte("{}"), time.Unix(1_618_884_473, 0))
	fmt.Println(s.ContentDigest)
	fmt.Println(s.SignatureInput)
	// Output:
	// sha-256=:RBNvo1WzZ4oRRq0W9+hknpT7T8If536DEMBg9hyq/4o=:
	// jolly=("@method" "@target-uri" "content-type" "content-digest");created=1618884473;keyid="me";alg="hmac-sha256"
}
