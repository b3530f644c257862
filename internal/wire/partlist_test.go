package wire

import (
	"encoding/json"
	"testing"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

// plainList has the fields of PartList without its methods, so that json goes through them by itself.
type plainList PartList

func TestListsReadAsJSONWouldWriteThem(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		l := rapid.Make[PartList]().Draw(t, "list")
		want, err := json.Marshal(plainList(l))
		require.NoError(t, err)
		require.JSONEq(t, string(want), string(l.AppendJSON(nil)))
		var back PartList
		require.NoError(t, json.Unmarshal(l.AppendJSON(nil), &back))
		for i, row := range l.Items {
			want, have := map[string]string{}, map[string]string{}
			for _, v := range row.Values {
				want[v.Key] = v.Text
			}
			for key := range want {
				have[key] = back.Items[i].Values.Get(key)
			}
			require.Equal(t, want, have)
		}
	})
}
