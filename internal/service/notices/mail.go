package notices

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"net"
	"net/textproto"
	"slices"
	"strconv"
	"strings"

	"github.com/wneessen/go-mail"

	"jollydrawer/internal/reach"
	"jollydrawer/internal/store"
)

// mail sends a letter over SMTP (RFC 5321), with TLS where the server offers it.
func (s *Notices) mail(ctx context.Context, w store.Sending) error {
	var l letter
	if err := json.Unmarshal([]byte(w.Payload), &l); err != nil {
		return err
	}
	if s.Mail.Server == "" {
		return errors.New("the service knows no server that takes mail: an administrator sets mail-server")
	}
	host, text, err := net.SplitHostPort(s.Mail.Server)
	if err != nil {
		return err
	}
	port, err := strconv.Atoi(text)
	if err != nil {
		return fmt.Errorf("the port of the mail server is %q", text)
	}
	m := mail.NewMsg(mail.WithNoDefaultUserAgent())
	if err := m.From(s.Mail.From); err != nil {
		return err
	}
	if err := m.To(w.Address); err != nil {
		return err
	}
	m.Subject(l.Subject)
	m.SetBodyString(mail.TypeTextPlain, l.Text)
	m.SetDate()
	m.SetMessageIDWithValue(l.Notice + "@jolly-drawer")
	m.SetGenHeader("Jolly-Notice", l.Notice)
	m.SetGenHeader("Auto-Submitted", "auto-generated") // RFC 3834, section 5
	guard := s.Guard
	guard.Inside = append(slices.Clone(guard.Inside), s.Mail.Server) // whoever runs the service named it
	options := []mail.Option{mail.WithPort(port), mail.WithTLSPolicy(mail.TLSOpportunistic), mail.WithTimeout(patience), mail.WithDialContextFunc(guard.DialContext)}
	if s.Mail.User != "" {
		options = append(options, mail.WithSMTPAuth(mail.SMTPAuthAutoDiscover), mail.WithUsername(s.Mail.User), mail.WithPassword(s.Mail.Password), mail.WithTLSPolicy(mail.TLSMandatory))
	}
	c, err := mail.NewClient(host, options...)
	if err != nil {
		return err
	}
	return inShort(c.DialAndSendWithContext(ctx, m))
}

// inShort says what the server said, or why it said nothing, without what was being done in the program.
func inShort(err error) error {
	var answer *textproto.Error
	var line *net.OpError
	switch {
	case err == nil:
		return nil
	case errors.As(err, &answer):
		return fmt.Errorf("the mail server answered %d %s", answer.Code, answer.Msg)
	case errors.Is(err, reach.ErrBarred), errors.As(err, &line):
		return fmt.Errorf("the mail server does not answer: %w", err)
	}
	said, _, _ := strings.Cut(err.Error(), ", affected message ID")
	return errors.New("the mail was not taken: " + said)
}
