package supplier

import (
	"bytes"
	"encoding/json"
	"fmt"
	"strings"
	"unicode/utf8"

	"github.com/antchfx/xmlquery"
)

// parse makes a tree of a body.
func (r *Reader) parse(body []byte) (node, error) {
	if r.read.Form == "xml" {
		return parseXML(body)
	}
	return parseJSON(body)
}

func parseJSON(body []byte) (node, error) {
	body = bytes.TrimPrefix(body, []byte("\xef\xbb\xbf"))
	if !utf8.Valid(body) {
		return nil, fmt.Errorf("it is no JSON in UTF-8")
	}
	if depth(body) > maxDepth {
		return nil, fmt.Errorf("it nests deeper than %d levels", maxDepth)
	}
	d := json.NewDecoder(bytes.NewReader(body))
	d.UseNumber()
	var v any
	if err := d.Decode(&v); err != nil {
		return nil, fmt.Errorf("it is no JSON: %s", because(body, err))
	}
	if d.More() {
		return nil, fmt.Errorf("it is no JSON: something stands behind its end")
	}
	return jsonNode{v}, nil
}

// because says what is wrong with a body that should be JSON.
func because(body []byte, err error) string {
	switch head := bytes.TrimSpace(body); {
	case len(head) == 0:
		return "it is empty"
	case head[0] == '<':
		return "it begins like a page of HTML or XML"
	case strings.Contains(err.Error(), "unexpected EOF"), err.Error() == "EOF":
		return "it ends in the middle"
	}
	return strings.TrimPrefix(err.Error(), "json: ")
}

// depth is how deep the brackets of a JSON text nest.
func depth(body []byte) (most int) {
	n, inside, escaped := 0, false, false
	for _, c := range body {
		switch {
		case escaped:
			escaped = false
		case inside:
			escaped, inside = c == '\\', c != '"'
		case c == '"':
			inside = true
		case c == '{' || c == '[':
			n++
			most = max(most, n)
		case c == '}' || c == ']':
			n--
		}
	}
	return most
}

func parseXML(body []byte) (node, error) {
	if bytes.Contains(body[:min(len(body), 4096)], []byte("<!DOCTYPE")) || bytes.Contains(body, []byte("<!ENTITY")) {
		return nil, fmt.Errorf("it declares a document type, which is not read")
	}
	if len(bytes.TrimSpace(body)) == 0 {
		return nil, fmt.Errorf("it is no XML: it is empty")
	}
	root, err := xmlquery.Parse(bytes.NewReader(body))
	if err != nil {
		return nil, fmt.Errorf("it is no XML: %s", strings.TrimPrefix(err.Error(), "xmlquery: "))
	}
	if deep(root, 0) {
		return nil, fmt.Errorf("it nests deeper than %d levels", maxDepth)
	}
	for c := root.FirstChild; c != nil; c = c.NextSibling {
		if c.Type == xmlquery.ElementNode {
			return xmlNode{root}, nil
		}
	}
	return nil, fmt.Errorf("it is no XML: it has no element")
}

func deep(n *xmlquery.Node, level int) bool {
	if level > maxDepth {
		return true
	}
	for c := n.FirstChild; c != nil; c = c.NextSibling {
		if deep(c, level+1) {
			return true
		}
	}
	return false
}
