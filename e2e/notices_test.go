package e2e

import (
	"net/mail"
	"strings"
	"testing"
	"time"

	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jollydrawer/core/part"
	"jollydrawer/internal/standin"
	"jollydrawer/internal/wire"
)

// Somebody watches a part and says how to be told, is told live in the console, by mail and by a signed hook, and goes from the
// notice to the part without a mouse.
func TestSomebodyIsToldOfWhatTheyWatch(t *testing.T) {
	post, err := standin.StartPost("127.0.0.1:0")
	require.NoError(t, err)
	defer post.Close()
	owner, dsn := freshSchema(t, shared)
	hook := strings.TrimSuffix(strings.TrimPrefix(post.Hook, "http://"), "/hook")
	i := serve(t, owner, dsn, "--mail-server", post.Mail, "--mail-from", "library@estuary-watch.example", "--allow-inside", hook, "--public-address", "https://parts.example")
	admin := i.admin(t)
	stocked(t, admin)
	ines := i.as(t, "ines", "engineer")
	made, err := admin.MakePart(t.Context(), wire.PartEdit{Drawer: "chip-resistors", Values: map[string]string{"resistance": "4k7", "tolerance": "1%", "case": "0805"}, Sources: []part.Source{{Manufacturer: "Tidewright", MPN: "TD-1"}}})
	require.NoError(t, err)

	p := window(t, i, "ines")
	p.goTo("/you")
	p.fill("Mail to", "ines@estuary-watch.example")
	p.choose("How often", "once")
	p.fill("Hook", "http://10.1.2.3/inside")
	p.press("Keep")
	p.see("is inside a private network")
	p.fill("Hook", post.Hook)
	p.press("Keep")
	p.see("Kept: you are told so from now on.")
	told, err := ines.Told(t.Context())
	require.NoError(t, err)
	require.NoError(t, post.Trust(told.KeyID, told.Secret))
	p.goTo("/parts/" + made.Number)
	p.press("○ Watch")
	p.see("You hear of " + made.Number + " from now on")

	// A colleague releases it; the number of what is new appears on the page that is open.
	_, err = admin.Release(t.Context(), made.ID, made.Version, "checked by hand")
	require.NoError(t, err)
	require.Eventually(t, func() bool {
		text, err := p.b.Eval(`document.querySelector('header [role=status]').getAttribute('aria-label')`)
		return err == nil && text == "1 new"
	}, 20*time.Second, 100*time.Millisecond)
	require.NoError(t, p.b.Keys("gn"))
	require.NoError(t, p.b.Idle())
	p.see("Administrator released " + made.Number + " as revision 1: “checked by hand”.")
	p.keys("[role=grid]", kb.Enter)
	p.see("Released")
	at, err := p.b.Eval(`location.pathname`)
	require.NoError(t, err)
	assert.Equal(t, "/parts/"+made.Number, at)
	p.goTo("/notices")
	p.see("Nothing new")
	p.press("Show all")
	p.see("All seen")

	l, err := ines.Notices(t.Context(), false, 0, 10)
	require.NoError(t, err)
	require.Len(t, l.Items, 1)
	require.Eventually(t, func() bool { return len(post.Letters()) == 1 && len(post.Calls()) == 1 }, 20*time.Second, 50*time.Millisecond)
	m, err := mail.ReadMessage(strings.NewReader(post.Letters()[0].Raw))
	require.NoError(t, err)
	assert.Equal(t, l.Items[0].ID, m.Header.Get("Jolly-Notice"))
	assert.Equal(t, []any{"yes", l.Items[0].ID, made.Number}, []any{post.Calls()[0].Signed, post.Calls()[0].Event.ID, post.Calls()[0].Event.Subject})
}
