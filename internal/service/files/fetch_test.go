package files_test

import (
	"bytes"
	"net/http"
	"net/http/httptest"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jollydrawer/internal/reach"
	"jollydrawer/internal/service/housetest"
)

// What a link leads to is kept, or is said in a sentence; a datasheet is a PDF and nothing else.
func TestWhatALinkLeadsTo(t *testing.T) {
	h := housetest.Open(t)
	sheet := "%PDF-1.7 a sheet"
	answers := map[string]func(w http.ResponseWriter){
		"/sheet.pdf":   func(w http.ResponseWriter) { _, _ = w.Write([]byte(sheet)) },
		"/behind.pdf":  func(w http.ResponseWriter) { _, _ = w.Write([]byte(strings.Repeat(" ", 900) + sheet)) },
		"/far.pdf":     func(w http.ResponseWriter) { _, _ = w.Write([]byte(strings.Repeat(" ", 1100) + sheet)) },
		"/sign-in.pdf": func(w http.ResponseWriter) { _, _ = w.Write([]byte("<!doctype html><title>Sign in</title>")) },
		"/blank.pdf":   func(http.ResponseWriter) {},
		"/gone.pdf":    func(w http.ResponseWriter) { w.WriteHeader(http.StatusGone) },
		"/cut.pdf": func(w http.ResponseWriter) {
			w.Header().Set("Content-Length", "5000")
			_, _ = w.Write([]byte(sheet + strings.Repeat("x", 2000)))
		},
		"/cut early.pdf": func(w http.ResponseWriter) { w.Header().Set("Content-Length", "5000"); _, _ = w.Write([]byte(sheet)) },
	}
	srv := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) { answers[r.URL.Path](w) }))
	defer srv.Close()
	client := reach.Guard{Inside: []string{strings.TrimPrefix(srv.URL, "http://")}}.Client(5 * time.Second)
	for link, want := range map[string]struct{ file, sheet string }{
		srv.URL + "/sheet.pdf":       {"", ""},
		srv.URL + "/behind.pdf":      {"", ""},
		srv.URL + "/far.pdf":         {"", "what is there is no PDF"},
		srv.URL + "/sign-in.pdf":     {"", "what is there is no PDF"},
		srv.URL + "/blank.pdf":       {"it leads to nothing", "it leads to nothing"},
		srv.URL + "/gone.pdf":        {"the link is dead (the answer is 410)", "the link is dead (the answer is 410)"},
		srv.URL + "/cut.pdf":         {"it broke off while it was read", "it broke off while it was read"},
		srv.URL + "/cut%20early.pdf": {"it broke off while it was read", "it broke off while it was read"},
		"http://127.0.0.1:9/x.pdf":   {"the address is inside a private network and may not be asked", "the address is inside a private network and may not be asked"},
		"file:///etc/passwd":         {"links of the kind file are not followed", "links of the kind file are not followed"},
		"http://[broken/":            {"it is no link that can be followed", "it is no link that can be followed"},
	} {
		f, err := h.Files.Fetch(t.Context(), client, link)
		require.NoError(t, err, link)
		assert.Equal(t, want.file, f.Why, link)
		assert.Equal(t, want.file != "", f.Hash.IsZero(), link)
		f, err = h.Files.FetchSheet(t.Context(), client, link)
		require.NoError(t, err, link)
		assert.Equal(t, want.sheet, f.Why, link)
		assert.Equal(t, want.sheet != "", f.Hash.IsZero(), link)
	}
	one, err := h.Files.FetchSheet(t.Context(), client, srv.URL+"/sheet.pdf")
	require.NoError(t, err)
	assert.Equal(t, "sheet.pdf", one.Name)
	same, err := h.Files.KeepSheet(t.Context(), "dir/other.pdf", bytes.NewReader([]byte(sheet)))
	require.NoError(t, err)
	assert.Equal(t, one.Hash, same.Hash)
	assert.Equal(t, "other.pdf", same.Name)
}
