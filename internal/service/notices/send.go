package notices

import (
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"net/http"
	"net/url"
	"strings"
	"time"

	"jollydrawer/core/notice"
	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/store"
	"jollydrawer/internal/wire"
)

const (
	mostInMail = 200              // notices that one mail holds
	patience   = 20 * time.Second // with a server that takes mail, or a hook
)

// letter is the payload of a mail.
type letter struct {
	Subject string `json:"subject"`
	Text    string `json:"text"`
	Notice  string `json:"notice"` // of which it carries the identifier
}

// call is the payload of a hook's call.
type call struct {
	Body  json.RawMessage `json:"body"`
	Keyed int             `json:"keyed"`
}

// mailOf is the mail of some notices, oldest first. It carries the identifier of the first.
func (s *Notices) mailOf(told store.Told, all []store.Notice, more int, now time.Time) (store.Sending, error) {
	var lines []notice.Told
	for _, n := range all {
		var body wire.NoticeBody
		if err := json.Unmarshal([]byte(n.Body), &body); err != nil {
			return store.Sending{}, err
		}
		lines = append(lines, notice.Told{At: n.At, Title: n.Title, Why: body.Why, Link: s.link(body)})
	}
	m := notice.MailOf(lines, more, s.Base+"/you")
	raw, err := json.Marshal(letter{m.Subject, m.Text, all[0].ID.String()})
	return store.Sending{ID: store.NewID(), Account: told.Account, Way: "mail", Address: told.Mail, Payload: string(raw), Due: now, Made: now}, err
}

// link leads to the one thing that a notice is about, or to the notices.
func (s *Notices) link(body wire.NoticeBody) string {
	if len(body.Things) != 1 || body.More > 0 {
		return s.Base + "/notices"
	}
	t := body.Things[0]
	switch t.Kind {
	case store.KindPart:
		return s.Base + "/parts/" + url.PathEscape(t.Number)
	case store.KindModel:
		return s.Base + "/models/" + t.ID
	case store.KindBOM:
		return s.Base + "/boms/" + t.ID
	case store.KindWant:
		return s.Base + "/wants/" + url.PathEscape(t.Number)
	}
	return s.Base + "/notices"
}

// hookOf is the call of a person's hook for a notice: a CloudEvent with the notice's identifier.
func (s *Notices) hookOf(told store.Told, n store.Notice, body wire.NoticeBody, now time.Time) (store.Sending, error) {
	data, err := json.Marshal(struct {
		Title string `json:"title"`
		Link  string `json:"link"`
		Deed  string `json:"deed"`
		wire.NoticeBody
	}{n.Title, s.link(body), n.Deed.String(), body})
	if err != nil {
		return store.Sending{}, err
	}
	e := notice.CloudEvent{SpecVersion: "1.0", ID: n.ID.String(), Source: s.Base + "/notices", Type: notice.EventType, Time: n.At.UTC(), DataContentType: "application/json", Data: data}
	if len(body.Things) == 1 && body.More == 0 {
		e.Subject = body.Things[0].Number
	}
	raw, err := json.Marshal(e)
	if err != nil {
		return store.Sending{}, err
	}
	payload, err := json.Marshal(call{raw, told.Keyed})
	return store.Sending{ID: store.NewID(), Account: told.Account, Way: "hook", Address: told.Hook, Payload: string(payload), Due: now, Made: now}, err
}

// Gather puts the digests that are due in line, and says whether there may be more.
func (s *Notices) Gather(ctx context.Context) (bool, error) {
	now := store.Stamp(s.Now())
	due, err := s.Store.Read(ctx).DigestsDue(now)
	if err != nil {
		return false, err
	}
	for _, w := range due {
		_, err := s.Store.Do(ctx, store.Deed{ID: store.NewID(), Kind: "digest", At: now}, func(t *store.Tx) (any, error) {
			told, err := t.ToldOf(w.Account)
			if err != nil {
				return 0, err
			}
			if told.Version != w.Version || told.Due == nil || told.Due.After(now) {
				return 0, store.ErrConflict // another instance was quicker, or the person wants it otherwise
			}
			all, total, upTo, err := t.Gathered(w.Account, mostInMail)
			if err != nil {
				return 0, err
			}
			next := notice.Next(told.Rhythm, now)
			told.Due, told.Version = &next, told.Version+1
			if err := t.SetTold(told); err != nil || len(all) == 0 {
				return 0, err
			}
			mail, err := s.mailOf(told, all, int(total)-len(all), now)
			if err != nil {
				return 0, err
			}
			if err := t.AddSendings([]store.Sending{mail}); err != nil {
				return 0, err
			}
			return len(all), t.EndDigest(w.Account, upTo)
		})
		if err != nil && !errors.Is(err, store.ErrConflict) {
			return false, err
		}
	}
	return false, nil
}

// Send tries one sending that is due, and says whether there may be more; found is called once there is one. A server that is down
// delays nothing else.
func (s *Notices) Send(ctx context.Context, found func()) (bool, error) {
	w, ok, err := s.Store.ClaimSending(ctx, 3*patience)
	if err != nil || !ok {
		return false, err
	}
	found()
	try, end := context.WithTimeout(ctx, patience)
	defer end()
	if w.Way == "mail" {
		err = s.mail(try, w)
	} else {
		err = s.call(try, w)
	}
	again := time.Duration(0)
	switch {
	case err == nil:
		w.State, w.Problem = store.SendingSent, ""
	case ctx.Err() != nil:
		return false, nil // it is tried again when its time is over
	default:
		w.Problem = deed.SentenceOf(err)
		if again, ok = notice.Pause(w.Tries); !ok {
			w.State = store.SendingAside
		}
	}
	return true, s.Store.EndSending(ctx, w, again)
}

// call calls a hook.
func (s *Notices) call(ctx context.Context, w store.Sending) error {
	var p call
	if err := json.Unmarshal([]byte(w.Payload), &p); err != nil {
		return err
	}
	req, err := http.NewRequestWithContext(ctx, http.MethodPost, w.Address, bytes.NewReader(p.Body))
	if err != nil {
		return err
	}
	told := store.Told{Account: w.Account, Keyed: p.Keyed}
	sign := notice.Sign(s.secret(told), keyID(told), w.Address, notice.ContentType, p.Body, s.Now())
	req.Header.Set("Content-Type", notice.ContentType)
	req.Header.Set("Content-Digest", sign.ContentDigest)
	req.Header.Set("Signature-Input", sign.SignatureInput)
	req.Header.Set("Signature", sign.Signature)
	req.Header.Set("User-Agent", "Jolly-Drawer")
	client := s.Guard.Client(patience)
	client.CheckRedirect = func(*http.Request, []*http.Request) error { return http.ErrUseLastResponse } // what was signed is for this address
	defer client.CloseIdleConnections()
	res, err := client.Do(req)
	if err != nil {
		var u *url.Error
		if errors.As(err, &u) {
			err = u.Err // the address stands beside it
		}
		return err
	}
	defer res.Body.Close()
	_, _ = io.Copy(io.Discard, io.LimitReader(res.Body, 64<<10))
	if res.StatusCode < 200 || res.StatusCode > 299 {
		return fmt.Errorf("it answered %d %s", res.StatusCode, strings.TrimSpace(http.StatusText(res.StatusCode)))
	}
	return nil
}

// Sendings lists what waits to be sent or was set aside: the caller's, or everybody's for who manages accounts.
func (s *Notices) Sendings(ctx context.Context, c deed.Call, all bool, offset, limit int) (wire.SendingList, error) {
	out := wire.SendingList{Items: []wire.Sending{}}
	op, whose := deed.OpRead, c.Actor.ID
	if all {
		op, whose = deed.OpAccountManage, store.ID{}
	}
	if err := deed.Allow(c, op); err != nil {
		return out, err
	}
	offset, limit = deed.Page(offset, limit)
	some, total, err := s.Store.Read(ctx).Sendings(whose, offset, limit)
	out.Page = wire.Page{Total: int(total), Offset: offset, Limit: limit}
	for _, w := range some {
		out.Items = append(out.Items, wire.Sending{ID: w.ID.String(), Way: w.Way, Whose: s.Person(ctx, w.Account), Address: w.Address, State: w.State, Tries: w.Tries, Problem: w.Problem, Made: w.Made, Due: w.Due})
	}
	return out, err
}

// SendAgain tries anew what was set aside.
func (s *Notices) SendAgain(ctx context.Context, c deed.Call, id store.ID) (wire.SendingList, error) {
	whose := c.Actor.ID
	if deed.Allows(c.Actor.Role, deed.OpAccountManage) {
		whose = store.ID{}
	}
	_, err := deed.Do(ctx, s.Desk, c, deed.OpWatch, "sending", []any{"again", id}, func(t *store.Tx) (bool, error) {
		ok, err := t.SendAgain(id, whose)
		if err == nil && !ok {
			err = store.ErrNotFound
		}
		return ok, err
	})
	if err != nil {
		return wire.SendingList{}, err
	}
	return s.Sendings(ctx, c, whose.IsZero(), 0, 50)
}
