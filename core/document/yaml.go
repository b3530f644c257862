package document

import (
	"bytes"
	"errors"
	"fmt"
	"io"
	"regexp"
	"strings"

	"go.yaml.in/yaml/v3"
)

// ofType is how the library names a field that is not known, with a name of the program's own.
var ofType = regexp.MustCompile(`field (\S+) not found in type \S+`)

// said is an error of the library as a person reads it.
func said(err error) string {
	text := strings.ReplaceAll(strings.TrimPrefix(err.Error(), "yaml: "), "\n", " ")
	return ofType.ReplaceAllString(strings.TrimPrefix(text, "unmarshal errors:   "), "the field $1 is not known")
}

// ReadYAML reads a document that a person wrote, in YAML or JSON. Fields that nobody knows are refused, so that a misspelt one is not silently without effect, and so is
// a second document behind the first, which would be. what names the document in the error, such as "the crosswalk".
func ReadYAML(raw []byte, what string, into any) error {
	d := yaml.NewDecoder(bytes.NewReader(raw))
	d.KnownFields(true)
	if err := d.Decode(into); err != nil {
		return fmt.Errorf("%s cannot be read: %s", what, said(err))
	}
	var more yaml.Node
	switch err := d.Decode(&more); {
	case errors.Is(err, io.EOF):
		return nil
	case err != nil:
		return fmt.Errorf("%s cannot be read to its end: %s", what, said(err))
	case more.IsZero() || len(more.Content) == 1 && more.Content[0].Tag == "!!null": // a mark at the end, with nothing behind it
		return nil
	}
	return fmt.Errorf("%s is followed by a second document, in line %d: write one", what, more.Line)
}
