package connection

import (
	"cmp"
	"encoding/json"
	"fmt"
	"net/url"
	"slices"
	"strconv"
	"strings"
)

// Question is what a supplier is asked.
type Question struct {
	Kind    string   `json:"kind"`
	Words   string   `json:"words,omitempty"`
	Number  string   `json:"number,omitempty"`
	Maker   string   `json:"maker,omitempty"`
	Numbers []string `json:"numbers,omitempty"`
	Facts   []string `json:"facts,omitempty"` // as the supplier's filters are written
	Class   string   `json:"class,omitempty"` // the supplier's word for the kind
	Since   string   `json:"since,omitempty"` // a time as RFC 3339 writes it, in UTC
}

// Filled is a question as it goes out, without what signs it in.
type Filled struct {
	Method  string
	Address string
	Body    []byte // JSON; nil: none
	Form    string // of the answer
}

// Fill fills a question in. page is the cursor, offset or number of the page that is asked for; blank for the first of a cursor's.
func (d *Document) Fill(q Question, page string) (Filled, error) {
	r, ok := d.Ask[q.Kind]
	if !ok {
		return Filled{}, fmt.Errorf("the connection to %s cannot be asked by %s", d.Supplier, q.Kind)
	}
	joined := strings.Join(q.Numbers, cmp.Or(r.Join, ","))
	client := ""
	if d.SignIn != nil {
		client = d.SignIn.User
	}
	fill := func(escape func(string) string) func(string) string {
		return func(s string) string {
			return strings.NewReplacer("{words}", escape(q.Words), "{facts}", escape(strings.Join(q.Facts, cmp.Or(d.Facts.Join, ";"))), "{kind}", escape(q.Class), "{number}", escape(q.Number), "{numbers}", escape(joined), "{maker}", escape(q.Maker),
				"{size}", strconv.Itoa(d.PageSize()), "{page}", escape(page), "{client}", escape(client), "{since}", escape(q.Since), "{day}", escape(q.Since[:min(len(q.Since), len("2006-01-02"))])).Replace(s)
		}
	}
	out := Filled{Form: d.ReadingOf(q.Kind).Form, Method: r.Method, Address: strings.TrimSuffix(d.Address, "/") + fill(url.PathEscape)(r.Path)}
	asIs := fill(func(s string) string { return s })
	values := url.Values{}
	for name, text := range r.Query {
		if v := asIs(text); v != "" {
			values.Set(name, v)
		}
	}
	if len(values) > 0 {
		out.Address += "?" + values.Encode()
	}
	if r.Body != nil {
		body, err := json.Marshal(filledBody(r.Body, asIs, q))
		if err != nil {
			return out, fmt.Errorf("the body of the question cannot be written as JSON: %w", err)
		}
		out.Body = body
	}
	if out.Method == "" {
		out.Method = "GET"
		if out.Body != nil {
			out.Method = "POST"
		}
	}
	return out, nil
}

// filledBody fills the texts of a body in: {size} and a page's number alone become numbers, {numbers} and {facts} alone lists, and what has no page null.
func filledBody(v any, fill func(string) string, q Question) any {
	switch v := v.(type) {
	case string:
		switch v {
		case "{numbers}":
			return slices.Clone(q.Numbers)
		case "{facts}":
			return append([]string{}, q.Facts...)
		case "{kind}":
			if q.Class == "" {
				return nil
			}
			return q.Class
		case "{size}", "{page}":
			text := fill(v)
			if n, err := strconv.Atoi(text); err == nil && strconv.Itoa(n) == text {
				return n
			}
			if text == "" {
				return nil
			}
			return text
		}
		if graph.MatchString(v) || strings.Contains(v, "\n") {
			return v
		}
		return fill(v)
	case map[string]any:
		out := map[string]any{}
		for k, x := range v {
			out[k] = filledBody(x, fill, q)
		}
		return out
	case []any:
		out := make([]any, len(v))
		for i, x := range v {
			out[i] = filledBody(x, fill, q)
		}
		return out
	}
	return v
}

// PageSize is how many products one page has.
func (d *Document) PageSize() int { return cmp.Or(d.Pages.Size, 50) }

// LotSize is how many numbers one question of a kind takes; 1 where it takes one at a time, 0 where there is no such question.
func (d *Document) LotSize(kind string) int {
	r, ok := d.Ask[kind]
	if !ok {
		return 0
	}
	if !r.has("{numbers}") {
		return 1
	}
	return cmp.Or(r.Lot, 25)
}

// Paged says whether a kind of question asks for its pages one by one; what it does not ask for would come again and again.
func (d *Document) Paged(kind string) bool { return d.Ask[kind].has("{page}") }

// has says whether something is filled in anywhere in a request.
func (r Request) has(place string) (there bool) {
	look := func(s string) { there = there || strings.Contains(s, place) }
	look(r.Path)
	for _, v := range r.Query {
		look(v)
	}
	eachText(r.Body, look)
	return there
}

// FirstPage is how the first page is asked for.
func (d *Document) FirstPage() string {
	switch d.Pages.By {
	case "offset":
		return "0"
	case "page":
		return strconv.Itoa(d.Pages.First)
	}
	return ""
}

// NextPage is how the page after one is asked for, where n products came with it and the answer named a cursor and how many there are. ok is
// false where it was the last.
func (d *Document) NextPage(page, cursor string, n, sofar int, total string) (next string, ok bool) {
	if all, err := strconv.Atoi(total); err == nil && sofar >= all {
		return "", false
	}
	switch d.Pages.By {
	case "cursor":
		return cursor, cursor != "" && n > 0
	case "offset":
		return strconv.Itoa(sofar), n >= d.PageSize() || total != "" && n > 0
	case "page":
		at, _ := strconv.Atoi(page)
		return strconv.Itoa(at + 1), n >= d.PageSize() || total != "" && n > 0
	}
	return "", false
}
