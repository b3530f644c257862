package notices

import (
	"context"
	"encoding/base64"
	"errors"
	"fmt"
	"net/mail"
	"strings"

	"jollydrawer/core/notice"
	"jollydrawer/internal/reach"
	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/store"
	"jollydrawer/internal/wire"
)

// Told says how the caller is told beside the console.
func (s *Notices) Told(ctx context.Context, c deed.Call) (wire.Told, error) {
	if err := deed.Allow(c, deed.OpRead); err != nil {
		return wire.Told{}, err
	}
	w, err := s.Store.Read(ctx).ToldOf(c.Actor.ID)
	return s.toldView(w), err
}

func (s *Notices) toldView(w store.Told) wire.Told {
	out := wire.Told{Version: w.Version, Mail: w.Mail, Rhythm: w.Rhythm, Hook: w.Hook, Mails: s.Mail.Server != ""}
	if w.Hook != "" {
		out.Secret, out.KeyID = base64.StdEncoding.EncodeToString(s.secret(w)), keyID(w)
	}
	if w.Due != nil {
		out.Next = *w.Due
	}
	return out
}

func (s *Notices) secret(w store.Told) []byte {
	return notice.Secret(s.Key, w.Account.String(), w.Keyed)
}

func keyID(w store.Told) string { return fmt.Sprintf("%s-%d", w.Account, w.Keyed) }

// SetTold changes how the caller is told.
func (s *Notices) SetTold(ctx context.Context, c deed.Call, version int, in wire.ToldEdit) (wire.Told, error) {
	in.Mail, in.Hook = strings.TrimSpace(in.Mail), strings.TrimSpace(in.Hook)
	_, err := deed.DoAfter(ctx, s.Desk, c, deed.OpWatch, "setting", []any{version, in}, func() error { return s.may(ctx, in) }, func(t *store.Tx) (int, error) {
		w, err := t.ToldOf(c.Actor.ID)
		if err != nil {
			return 0, err
		}
		if w.Version != version {
			return 0, store.ErrConflict
		}
		if in.NewKey || w.Keyed == 0 {
			w.Keyed++
		}
		if w.Rhythm != in.Rhythm || w.Due == nil {
			w.Due = nil
			if in.Rhythm == "hour" || in.Rhythm == "day" {
				at := notice.Next(in.Rhythm, t.Deed.At)
				w.Due = &at
			}
		}
		w.Mail, w.Rhythm, w.Hook, w.Version = in.Mail, in.Rhythm, in.Hook, version+1
		return w.Version, t.SetTold(w) // what is kept of a deed holds no key
	})
	if err != nil {
		return wire.Told{}, err
	}
	return s.Told(ctx, c)
}

// may refuses addresses that are none, or that the service does not ask.
func (s *Notices) may(ctx context.Context, in wire.ToldEdit) error {
	if in.Mail != "" {
		a, err := mail.ParseAddress(in.Mail)
		if err != nil || a.Address != in.Mail {
			return deed.Fault(deed.Invalid, "mail-address", fmt.Sprintf("%q is no mail address.", in.Mail), "Write it as name@example.org.")
		}
	}
	if in.Mail == "" && in.Rhythm != "none" {
		return deed.Fault(deed.Invalid, "mail-address", "There is no address that mail could go to.", "Write one, or choose no mail.")
	}
	if in.Hook == "" {
		return nil
	}
	err := s.Guard.May(ctx, in.Hook)
	switch {
	case errors.Is(err, reach.ErrBarred):
		return deed.Fault(deed.Invalid, "hook-barred", "The hook is not called: "+deed.SentenceOf(err), "Write a public address.")
	case err != nil:
		return deed.Fault(deed.Invalid, "hook-address", "The hook cannot be called: "+deed.SentenceOf(err), "Write an address such as https://hooks.example.org/parts.")
	}
	return nil
}
