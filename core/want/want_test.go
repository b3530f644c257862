package want

import (
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"pgregory.net/rapid"

	"jollydrawer/core/part"
)

func TestAWantSaysSomething(t *testing.T) {
	for _, c := range []struct {
		want Content
		bad  string
	}{
		{Content{Facts: "4k7 0805"}, ""}, {Content{MPN: "TW-1"}, ""}, {Content{Manufacturer: "Tidewright", MPN: "TW-1"}, ""},
		{Content{Link: "https://tidewright.example/tw-1"}, ""}, {Content{File: &part.File{Hash: "h", Name: "a.pdf"}}, ""},
		{Content{}, "says nothing of what is wanted"}, {Content{Board: "Tide gauge", Note: "please"}, "says nothing of what is wanted"},
		{Content{Manufacturer: "Tidewright", Facts: "4k7"}, "and no number"},
		{Content{Facts: "x", Quantity: -1}, "is no quantity"}, {Content{Facts: "x", Quantity: 2_000_000_000}, "is no quantity"},
		{Content{Facts: "x", By: "2031-04-30"}, ""}, {Content{Facts: "x", By: "30.4.2031"}, "is no day"}, {Content{Facts: "x", By: "2031-02-30"}, "is no day"},
		{Content{Facts: strings.Repeat("ä", 500)}, ""}, {Content{Facts: strings.Repeat("ä", 501)}, "has 501 letters, and 500 are kept"}, {Content{Facts: "x", Note: strings.Repeat("n", 5001)}, "shorten it"}, {Content{MPN: strings.Repeat("9", 201)}, "what it says as maker's number"},
		{Content{Link: "tidewright.example/tw-1"}, "is no link"}, {Content{Link: "javascript:alert(1)"}, "is no link"}, {Content{Link: "file:///etc/passwd"}, "is no link"}, {Content{Link: "https://"}, "is no link"}, {Content{Link: "https://a b"}, "is no link"},
	} {
		err := c.want.Check()
		if c.bad == "" {
			assert.NoError(t, err, "%+v", c.want)
		} else {
			assert.ErrorContains(t, err, c.bad, "%+v", c.want)
		}
	}
	c := Content{Facts: "  4k7 \t 0805\n", MPN: " A "}
	c.Tidy()
	assert.Equal(t, Content{Facts: "4k7 0805", MPN: "A"}, c)
	for text, want := range map[string]Content{"4k7, Tidewright TW-1": {Facts: "4k7", Manufacturer: "Tidewright", MPN: "TW-1"}, "https://a.example": {Link: "https://a.example", Board: "B"}, "a.pdf": {File: &part.File{Name: "a.pdf"}}} {
		assert.Equal(t, text, want.String())
	}
}

func TestDoublesFindEachOther(t *testing.T) {
	for _, c := range []struct {
		a, b       Content
		factsA, as []string
		why        string
	}{
		{Content{MPN: "TW-0805-1K"}, Content{MPN: "tw 0805 1k"}, nil, nil, "the same maker's number"},
		{Content{Manufacturer: "Tidewright Ltd.", MPN: "A1"}, Content{Manufacturer: "TIDEWRIGHT", MPN: "A-1"}, nil, nil, "the same maker's number"},
		{Content{Manufacturer: "Tidewright", MPN: "A1"}, Content{MPN: "A1"}, nil, nil, "the same maker's number"},
		{Content{Manufacturer: "Tidewright", MPN: "A1"}, Content{Manufacturer: "Kelpline", MPN: "A1"}, nil, nil, ""},
		{Content{MPN: "A1", Facts: "4k7"}, Content{MPN: "A2", Facts: "4k7"}, []string{"4.7 kΩ"}, []string{"4.7 kΩ"}, ""},
		{Content{Facts: "4k7 1%"}, Content{Facts: "1 % 4.7k"}, []string{"4.7 kΩ", "±1 %"}, []string{"±1 %", "4.7 kΩ"}, "the same facts"},
		{Content{Facts: "4k7"}, Content{Facts: "4k7 1%"}, []string{"4.7 kΩ"}, []string{"4.7 kΩ", "±1 %"}, ""},
		{Content{Link: "https://a.example/1"}, Content{Link: "https://a.example/1", Facts: "x"}, nil, []string{"x"}, "the same link"},
		{Content{Link: "https://a.example/1"}, Content{Link: "https://a.example/2"}, nil, nil, ""},
		{Content{}, Content{}, nil, nil, ""},
	} {
		assert.Equal(t, c.why, Same(c.a, c.b, c.factsA, c.as), "%+v / %+v", c.a, c.b)
		assert.Equal(t, c.why, Same(c.b, c.a, c.as, c.factsA), "it holds both ways: %+v / %+v", c.a, c.b)
	}
	rapid.Check(t, func(t *rapid.T) {
		facts := rapid.SliceOfN(rapid.SampledFrom([]string{"a", "b", "c", "d"}), 1, 6).Draw(t, "facts")
		mixed := rapid.Permutation(facts).Draw(t, "mixed")
		a, b := Content{Facts: strings.Join(facts, " ")}, Content{Facts: strings.Join(mixed, " ")}
		if Same(a, b, facts, mixed) == "" {
			t.Fatalf("%v and %v are one want", facts, mixed)
		}
	})
}

func TestAWantGoesOnlyWhereItMay(t *testing.T) {
	ways := map[string]bool{"open → taken on": true, "open → answered": true, "open → declined": true, "taken on → answered": true, "taken on → declined": true, "taken on → open": true, "answered → open": true, "declined → open": true}
	for _, from := range States {
		for _, to := range append(slices.Clone(States), "lost") {
			assert.Equal(t, ways[string(from)+" → "+string(to)], Allowed(from, to), "%s → %s", from, to)
		}
	}
}
