// Package formatstest is what every reader of a format keeps, whatever the format: it reads a good file the same each time, and
// a damaged or hostile one ends in a sentence or in less, never in a panic.
package formatstest

import (
	"bytes"
	"fmt"
	"math/rand/v2"
	"regexp"
	"strings"
	"testing"
	"unicode"
	"unicode/utf8"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// Reader is a reader under test.
type Reader struct {
	// Read returns what stands in a file, one text for each thing in it, and what is wrong with it.
	Read func(raw []byte) (found []string, err error)
	// Good is a file in which nothing is wrong, and Want what stands in it.
	Good []byte
	Want []string
	// Places is what a refusal of a damaged file says of where, such as `line \d+`; blank for formats that are not text.
	Places string
}

// marks are the characters that formats are made of.
const marks = "()[]{}<>\"'|,;\n\x00-9"

// insides are what no person can do anything with.
var insides = regexp.MustCompile(`runtime error|goroutine|0xc0|unexpected EOF|\bnil\b|index out of range|%!|reflect\.|strconv\.`)

// Test holds a reader to what all of them keep.
func Test(t *testing.T, r Reader) {
	t.Run("a good file is read, and the same again", func(t *testing.T) {
		for range 2 {
			found, err := r.Read(bytes.Clone(r.Good))
			require.NoError(t, err)
			assert.Equal(t, r.Want, found)
		}
	})
	t.Run("nothing is no file", func(t *testing.T) {
		found, err := r.Read(nil)
		assert.Empty(t, found)
		sentence(t, err, "an empty file")
	})
	t.Run("a file may end anywhere", func(t *testing.T) {
		placed := 0
		step := max(1, len(r.Good)/400)
		for cut := 0; cut < len(r.Good); cut += step {
			found, err := r.Read(bytes.Clone(r.Good[:cut]))
			assert.LessOrEqual(t, len(found), len(r.Want), "cut at %d", cut)
			if sentence(t, err, fmt.Sprintf("cut at %d", cut)) && r.Places != "" && regexp.MustCompile(r.Places).MatchString(err.Error()) {
				placed++
			}
		}
		if r.Places != "" {
			assert.Positive(t, placed, "no refusal says where")
		}
	})
	t.Run("a byte may be any other", func(t *testing.T) {
		rng := rand.New(rand.NewPCG(11, uint64(len(r.Good))))
		for range 600 {
			raw := bytes.Clone(r.Good)
			for range 1 + rng.IntN(3) {
				at := rng.IntN(len(raw))
				switch rng.IntN(4) {
				case 0:
					raw[at] = byte(rng.IntN(256))
				case 1:
					raw = append(raw[:at], raw[at+1:]...)
				case 2:
					raw = append(raw[:at], append([]byte{raw[at]}, raw[at:]...)...)
				default:
					raw[at] = marks[rng.IntN(len(marks))]
				}
				if len(raw) == 0 {
					break
				}
			}
			_, err := r.Read(raw)
			sentence(t, err, "a byte changed")
		}
	})
	t.Run("what is hostile ends in a sentence", func(t *testing.T) {
		for what, raw := range hostile(r.Good) {
			_, err := r.Read(raw)
			sentence(t, err, what)
		}
	})
}

// hostile are files that were made to do harm, or look as if.
func hostile(good []byte) map[string][]byte {
	out := map[string][]byte{
		"NUL":                      bytes.Repeat([]byte{0}, 5000),
		"a byte order mark":        []byte("\ufeff"),
		"not UTF-8":                bytes.Repeat([]byte{0xff, 0xfe, 0x80}, 500),
		"no end of line":           bytes.Repeat([]byte("x"), 2<<20),
		"brackets":                 bytes.Repeat([]byte("("), 300_000),
		"lists":                    bytes.Repeat([]byte("["), 300_000),
		"objects":                  bytes.Repeat([]byte(`{"a":`), 100_000),
		"elements":                 bytes.Repeat([]byte("<a>"), 100_000),
		"quotes":                   bytes.Repeat([]byte(`"`), 300_001),
		"an entity of entities":    []byte(`<?xml version="1.0"?><!DOCTYPE x [<!ENTITY a "aaaaaaaaaa"><!ENTITY b "&a;&a;&a;&a;&a;&a;&a;&a;"><!ENTITY c "&b;&b;&b;&b;&b;&b;&b;&b;">]><x>&c;</x>`),
		"an entity from outside":   []byte(`<?xml version="1.0"?><!DOCTYPE x [<!ENTITY a SYSTEM "file:///etc/passwd">]><x>&a;</x>`),
		"a zip's head alone":       []byte("PK\x03\x04\x14\x00\x00\x00\x08\x00"),
		"another format's head":    []byte("%PDF-1.7\n%\xe2\xe3\xcf\xd3\n"),
		"ends of line of all":      []byte("a\rb\r\nc\n\rd\u2028e"),
		"twice":                    append(bytes.Clone(good), good...),
		"backwards":                reversed(good),
		"a number that is too big": bytes.ReplaceAll(good, []byte("1"), []byte("99999999999999999999999999999999")),
		"numbers that are none":    bytes.ReplaceAll(good, []byte("1"), []byte("NaN")),
		"exponents":                bytes.ReplaceAll(good, []byte("1"), []byte("1e999")),
	}
	return out
}

func reversed(b []byte) []byte {
	out := make([]byte, len(b))
	for i, c := range b {
		out[len(b)-1-i] = c
	}
	return out
}

// sentence asserts that a refusal, where there is one, is something to read; it says whether there is one.
func sentence(t *testing.T, err error, what string) bool {
	t.Helper()
	if err == nil {
		return false
	}
	text := err.Error()
	assert.NotEmpty(t, strings.TrimSpace(text), what)
	assert.Less(t, len(text), 1000, "%s: %.200q", what, text)
	assert.True(t, utf8.ValidString(text), "%s: %q", what, text)
	assert.NotRegexp(t, insides, text, what)
	assert.False(t, strings.ContainsFunc(text, unicode.IsControl), "%s: %q", what, text)
	return true
}
