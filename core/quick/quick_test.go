package quick

import (
	"bytes"
	"encoding/json"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

func TestATextIsWrittenAsTheStandardLibraryReadsIt(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		s := rapid.String().Draw(t, "s")
		want, err := json.Marshal(s)
		require.NoError(t, err)
		assert.Equal(t, string(want), string(AppendText(nil, s)))
		if got, ok := Text(AppendText(nil, s)); ok {
			assert.Equal(t, s, got)
		}
	})
	for _, s := range []string{"\u2028", "a\u2029", "\u2027\u202a", "<a>&", "\x7f", "\xe2\x80", "\xff", "€"} {
		want, err := json.Marshal(s)
		require.NoError(t, err)
		assert.Equal(t, string(want), string(AppendText(nil, s)), "%q", s)
	}
	assert.Equal(t, `x"4.7 k"`, string(AppendText([]byte("x"), "4.7 k")))
	assert.Equal(t, `"a\"b\\\n"`, string(AppendText(nil, "a\"b\\\n")))
	assert.Equal(t, `"4.7 kΩ"`, string(AppendText(nil, "4.7 kΩ")))
}

// What is taken apart is what the standard library finds, member by member; and what is plain is taken apart.
func TestObjectsAreTakenApartAsTheStandardLibraryDoes(t *testing.T) {
	value := rapid.OneOf(rapid.String().AsAny(), rapid.Int().AsAny(), rapid.Bool().AsAny(), rapid.SliceOf(rapid.String()).AsAny(), rapid.MapOf(rapid.String(), rapid.Int()).AsAny(), rapid.Just[any](nil))
	rapid.Check(t, func(t *rapid.T) {
		raw, err := json.Marshal(rapid.MapOf(rapid.StringMatching(`[a-z]{1,8}`), value).Draw(t, "object"))
		require.NoError(t, err)
		var want map[string]json.RawMessage
		require.NoError(t, json.Unmarshal(raw, &want))
		got := map[string]json.RawMessage{}
		require.True(t, Members(raw, func(key, v []byte) bool { got[string(key)] = bytes.Clone(v); return true }), "%s", raw)
		assert.Equal(t, want, got)
		list, err := json.Marshal(rapid.SliceOf(value).Draw(t, "list"))
		require.NoError(t, err)
		if string(list) == "null" {
			return
		}
		var items []json.RawMessage
		require.NoError(t, json.Unmarshal(list, &items))
		var each []json.RawMessage
		require.True(t, Items(list, func(v []byte) bool { each = append(each, bytes.Clone(v)); return true }), "%s", list)
		assert.Equal(t, len(items), len(each))
		for i := range items {
			assert.Equal(t, string(items[i]), string(each[i]))
		}
	})
}

func TestWhatIsNotPlainIsLeftAlone(t *testing.T) {
	all := func(_, _ []byte) bool { return true }
	for _, raw := range []string{"", "{", "}", "[]", "null", `{"a"}`, `{"a":}`, `{"a":1,}`, `{,}`, `{"a":1 }`, `{ "a":1}`, `{"a": 1}`, `{"\u0061":1}`, `{"a":"b}`, `{"a":[1}`, `{"a":1"b":2}`, `{a:1}`, "{\"a\xff\":1}", `{"a":1}}`, `{"a":1}{`} {
		assert.False(t, Members([]byte(raw), all) && json.Valid([]byte(raw)) == false, raw)
	}
	assert.True(t, Members([]byte(`{}`), all))
	assert.False(t, Members([]byte(`{"a":1,"b":2}`), func(key, _ []byte) bool { return string(key) == "a" }))
	assert.False(t, Items([]byte(`[1,2]`), func(v []byte) bool { return string(v) == "1" }))
	for _, raw := range []string{"", "[", `[1,]`, `[,1]`, `[1 ]`, `{}`, `["a]`} {
		assert.False(t, Items([]byte(raw), func([]byte) bool { return true }), raw)
	}
	for raw, want := range map[string]string{`"a"`: "a", `""`: "", `"Ω"`: "Ω"} {
		got, ok := Text([]byte(raw))
		assert.True(t, ok)
		assert.Equal(t, want, got)
	}
	for _, raw := range []string{``, `"`, `a`, `"a\n"`, `"a"b"`, "\"\xff\"", "\"\n\"", `1`} {
		_, ok := Text([]byte(raw))
		assert.False(t, ok, raw)
	}
}

func FuzzMembers(f *testing.F) {
	f.Add([]byte(`{"a":"b","c":[1,{"d":null}]}`))
	f.Fuzz(func(t *testing.T, raw []byte) {
		got := map[string]string{}
		twice := false
		if !Members(raw, func(k, v []byte) bool {
			key := string(k)
			_, twice2 := got[key]
			twice = twice || twice2
			got[key] = string(v)
			return true
		}) || !json.Valid(raw) {
			return
		}
		var want map[string]json.RawMessage
		if err := json.Unmarshal(raw, &want); err != nil {
			t.Fatalf("%q: %v", raw, err)
		}
		for k, v := range want {
			if got[k] != string(v) && !twice {
				t.Fatalf("%q: %s is %s, not %s", raw, k, got[k], v)
			}
		}
	})
}
