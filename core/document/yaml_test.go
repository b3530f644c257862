package document

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

func TestADocumentIsReadWholeOrNotAtAll(t *testing.T) {
	type doc struct {
		Name string   `yaml:"name"`
		List []string `yaml:"list"`
	}
	for text, says := range map[string]string{
		"name: a":                              "",
		"name: a\n---\n":                       "",
		"name: a\n...\n":                       "",
		"---\nname: a\n# a remark\n":           "",
		`{"name": "a"}`:                        "",
		"name: a\n---\nname: b\n":              "the form is followed by a second document, in line 2: write one",
		"name: a\n---\nx":                      "the form is followed by a second document, in line 2: write one",
		"name: a\n---\nlist: [\n":              "cannot be read to its end",
		"name: a\nnmae: b\n":                   "the form cannot be read: line 2: the field nmae is not known",
		"name: a\nname: b\n":                   "already defined at line 1",
		"":                                     "the form cannot be read: EOF",
		"{\"name\": \"a\"}\n{\"name\": \"b\"}": "cannot be read to its end",
	} {
		var d doc
		err := ReadYAML([]byte(text), "the form", &d)
		if says == "" {
			require.NoError(t, err, text)
			assert.Equal(t, "a", d.Name, text)
		} else {
			assert.ErrorContains(t, err, says, text)
		}
	}
	rapid.Check(t, func(t *rapid.T) { // whatever stands behind a document is read by nobody, and never in silence
		more := rapid.StringMatching(`[a-z]{1,8}: [a-z0-9]{1,8}(\n[a-z]{9,12}: [a-z]{1,4})?`).Draw(t, "more")
		assert.Error(t, ReadYAML([]byte("name: a\n---\n"+more), "the form", &doc{}))
	})
}

func FuzzReadYAML(f *testing.F) {
	for _, s := range []string{"name: a", "a: &a [*a]", "---\n---\n", "name: a\n--- x\n", "\xff\xfe"} {
		f.Add([]byte(s))
	}
	f.Fuzz(func(t *testing.T, raw []byte) {
		var d struct {
			Name string `yaml:"name"`
		}
		_ = ReadYAML(raw, "the form", &d)
	})
}
