package supplier

import (
	"cmp"
	"encoding/json"
	"maps"
	"slices"
	"strconv"
	"strings"

	"github.com/antchfx/xmlquery"
	"github.com/antchfx/xpath"
	"github.com/theory/jsonpath"
	"github.com/theory/jsonpath/spec"

	"jollydrawer/core/connection"
)

// path leads from a node to others.
type path interface {
	// from returns the nodes that the path leads to.
	from(node) []node
}

// node is a piece of an answer.
type node interface {
	// text is what a node says; ok is false where it holds other nodes and says nothing itself.
	text() (said string, ok bool)
}

// Place is one path of a connection.
type Place struct {
	Place, Path string
	OfProduct   bool // from a product on: how many products have it tells something
}

// Paths lists the paths of a connection's answers to a kind of question, by place.
func Paths(d *connection.Document, kind string) (out []Place) {
	all := paths(d, d.ReadingOf(kind))
	for _, place := range slices.Sorted(maps.Keys(all)) {
		of, name, _ := strings.Cut(place, ".")
		out = append(out, Place{place, all[place], name != "each" && of != "failed" && of != "products" && of != "pages" && place != "fields.unit"})
	}
	return out
}

// paths lists the paths of a connection by where they stand in its document.
func paths(d *connection.Document, read *connection.Reading) map[string]string {
	out := map[string]string{"failed": read.Failed, "products": read.Products, "pages.next": d.Pages.Next, "pages.total": d.Pages.Total,
		"fields.each": read.Fields.Each, "fields.name": read.Fields.Name, "fields.text": read.Fields.Text, "fields.unit": read.Fields.Unit,
		"offers.each": read.Offers.Each, "breaks.each": read.Breaks.Each, "models.each": read.Models.Each}
	for part, of := range map[string]map[string]string{"product": read.Product, "offers": read.Offers.Paths, "breaks": read.Breaks.Paths, "models": read.Models.Paths, "fields.named": read.Fields.Named} {
		for place, p := range of {
			out[part+"."+place] = p
		}
	}
	maps.DeleteFunc(out, func(_, p string) bool { return p == "" })
	return out
}

func compile(read *connection.Reading, p string) (path, error) {
	if read.Form == "xml" {
		e, err := xpath.CompileWithNS(p, read.Namespace)
		return xmlPath{e}, err
	}
	// The paths of most answers are names only, and those are walked without the library.
	if names, ok := plainNames(p); ok {
		return names, nil
	}
	parsed, err := jsonpath.Parse(p)
	return jsonPath{parsed}, err
}

type (
	jsonNode struct{ v any }
	jsonPath struct{ p *jsonpath.Path }
	// namePath are member names one after the other; "*" stands for all members of an array.
	namePath []string
	xmlNode  struct{ n *xmlquery.Node }
	xmlPath  struct{ e *xpath.Expr }
)

// plainNames takes a JSONPath apart that is only names: $.maker.name, $.items[*].
func plainNames(p string) (namePath, bool) {
	rest, ok := strings.CutPrefix(p, "$")
	if !ok {
		return nil, false
	}
	out := namePath{}
	for rest != "" {
		if after, ok := strings.CutPrefix(rest, "[*]"); ok {
			out, rest = append(out, "*"), after
			continue
		}
		after, ok := strings.CutPrefix(rest, ".")
		end := strings.IndexAny(after, ".[")
		if end < 0 {
			end = len(after)
		}
		name := after[:end]
		if !ok || name == "" || strings.ContainsFunc(name, func(r rune) bool {
			return r != '_' && (r < 'a' || r > 'z') && (r < 'A' || r > 'Z') && (r < '0' || r > '9')
		}) || name[0] >= '0' && name[0] <= '9' {
			return nil, false
		}
		out, rest = append(out, name), after[end:]
	}
	return out, true
}

func (p namePath) from(n node) []node {
	v := n.(jsonNode).v
	for i, name := range p {
		if name == "*" {
			var out []node
			list, _ := v.([]any)
			for _, x := range list {
				if i == len(p)-1 {
					out = append(out, jsonNode{x})
				} else {
					out = append(out, p[i+1:].from(jsonNode{x})...)
				}
			}
			return out
		}
		m, ok := v.(map[string]any)
		if !ok {
			return nil
		}
		if v, ok = m[name]; !ok {
			return nil
		}
	}
	return []node{jsonNode{v}}
}

// from selects in the order of the paths, what lies nearest first: that of an object's members is left open (RFC 9535, clause 2.3.2.2), and another one each
// time would make the same answer another.
func (p jsonPath) from(n node) (out []node) {
	v := n.(jsonNode).v
	all := p.p.Select(v)
	if len(all) < 2 {
		for _, one := range all {
			out = append(out, jsonNode{one})
		}
		return out
	}
	located := p.p.SelectLocated(v)
	located.Sort()
	slices.SortStableFunc(located, func(a, b *spec.LocatedNode) int { return cmp.Compare(len(a.Path), len(b.Path)) })
	for _, one := range located {
		out = append(out, jsonNode{one.Node})
	}
	return out
}

func (n jsonNode) text() (string, bool) {
	switch v := n.v.(type) {
	case string:
		return v, true
	case json.Number:
		return v.String(), true
	case bool:
		return strconv.FormatBool(v), true
	case nil:
		return "", true
	}
	return "", false
}

func (p xmlPath) from(n node) (out []node) {
	for _, v := range xmlquery.QuerySelectorAll(n.(xmlNode).n, p.e) {
		out = append(out, xmlNode{v})
	}
	return out
}

func (n xmlNode) text() (string, bool) {
	for c := n.n.FirstChild; c != nil; c = c.NextSibling {
		if c.Type == xmlquery.ElementNode {
			return "", false
		}
	}
	return n.n.InnerText(), true
}
