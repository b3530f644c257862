package worklist

import (
	"bytes"
	"context"
	"errors"
	"log/slog"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/store"
	"jollydrawer/internal/wire"
)

func TestKindsOfWorkStandByThemselves(t *testing.T) {
	var log bytes.Buffer
	w := New(&deed.Desk{Log: slog.New(slog.NewTextHandler(&log, nil))})
	me := deed.Call{Actor: deed.Actor{ID: store.NewID(), Role: deed.Engineer}}
	kind := func(key, empty string, total int, err error) {
		w.Register(Kind{Key: key, Title: key, Empty: empty, Of: func(_ context.Context, c deed.Call, limit int) (Waits, error) {
			assert.Equal(t, me.Actor.ID, c.Actor.ID)
			assert.Equal(t, shown, limit)
			return Waits{Items: make([]wire.WorkItem, min(total, limit)), Total: total, AtLeast: total == 5000}, err
		}})
	}
	kind("reviews", "", 3, nil)
	kind("nothing", "", 0, nil)
	kind("nothing said", "nothing waits", 0, nil)
	kind("broken", "", 0, errors.New("secret of the database"))
	kind("for others", "", 0, deed.Fault(deed.Forbidden, "not-allowed", "no", ""))
	kind("many", "", 5000, nil)
	out, err := w.Get(t.Context(), me)
	require.NoError(t, err)
	var got []any
	for _, k := range out.Kinds {
		got = append(got, k.Key, k.Total, len(k.Items), k.Empty, k.Problem)
		assert.Equal(t, k.Key == "many", k.AtLeast, k.Key)
	}
	assert.Equal(t, []any{"reviews", 3, 3, "", "", "nothing said", 0, 0, "nothing waits", "", "broken", 0, 0, "", "This cannot be asked for now.", "many", 5000, 8, "", ""}, got)
	assert.Contains(t, log.String(), "secret of the database", "the log has what the page does not")
	_, err = w.Get(t.Context(), deed.Call{})
	assert.Error(t, err, "nobody is signed in")
}
