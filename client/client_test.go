package client

import (
	"encoding/json"
	"net/http"
	"net/http/httptest"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jollydrawer/internal/wire"
)

func TestALostAnswerIsAskedForAgainUnderTheSameDeed(t *testing.T) {
	var deeds []string
	s := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		deeds = append(deeds, r.Header.Get("Deed-Id"))
		switch len(deeds) {
		case 1: // the connection breaks before the answer
			c, _, err := w.(http.Hijacker).Hijack()
			require.NoError(t, err)
			c.Close()
		case 2:
			w.WriteHeader(http.StatusServiceUnavailable)
			_ = json.NewEncoder(w).Encode(wire.Problem{Detail: "The database is busy."})
		default:
			_ = json.NewEncoder(w).Encode(wire.Part{Number: "R-1"})
		}
	}))
	defer s.Close()
	p, err := New(s.URL, "x").MakePart(t.Context(), wire.PartEdit{})
	require.NoError(t, err)
	assert.Equal(t, "R-1", p.Number)
	require.Len(t, deeds, 3)
	assert.Equal(t, deeds[0], deeds[1])
	assert.Equal(t, deeds[0], deeds[2])
	assert.NotEmpty(t, deeds[0])
}

func TestAProblemIsASentenceAndIsNotTriedAgain(t *testing.T) {
	tries := 0
	s := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		tries++
		assert.Equal(t, `"7"`, r.Header.Get("If-Match"))
		assert.Equal(t, "Bearer secret", r.Header.Get("Authorization"))
		w.WriteHeader(422)
		_ = json.NewEncoder(w).Encode(wire.Problem{Detail: "Nothing was saved:", Mend: "Correct it.", Errors: []wire.ProblemDetail{{Location: "values.x", Message: "it is wrong"}}})
	}))
	defer s.Close()
	_, err := New(s.URL, "secret").SaveDraft(t.Context(), "R 1/2", 7, wire.PartEdit{})
	assert.EqualError(t, err, "Nothing was saved: values.x: it is wrong. Correct it.")
	var e *Error
	require.ErrorAs(t, err, &e)
	assert.Equal(t, 422, e.Status)
	assert.Equal(t, 1, tries)
}

func TestNamesAreEscapedInPaths(t *testing.T) {
	s := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		assert.Equal(t, "/api/v1/parts/a%2F..%2Fb%3F", r.URL.EscapedPath())
		_ = json.NewEncoder(w).Encode(wire.Part{})
	}))
	defer s.Close()
	_, err := New(s.URL, "").Part(t.Context(), "a/../b?")
	assert.NoError(t, err)
}

func TestNobodyThereIsSaidSo(t *testing.T) {
	k := New("http://127.0.0.1:1", "")
	k.Tries = 1
	_, err := k.Me(t.Context())
	assert.ErrorIs(t, err, ErrUnreachable)
}
