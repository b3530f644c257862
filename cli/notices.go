package cli

import (
	"context"
	"fmt"
	"strconv"
	"time"

	ucli "github.com/urfave/cli/v3"

	"jollydrawer/client"
	"jollydrawer/internal/wire"
)

func noticeCommand() *ucli.Command {
	return group("notice", "what you were told, and how you are told", "work",
		command("list", "list what you were told, newest first", "", "jolly notice list --unread", 0, 0,
			[]ucli.Flag{&ucli.BoolFlag{Name: "unread", Usage: "only what you have not seen"}, &ucli.IntFlag{Name: "limit", Value: 50}}, func(ctx context.Context, c *ucli.Command, k *client.Client) error {
				l, err := k.Notices(ctx, c.Bool("unread"), 0, c.Int("limit"))
				if err != nil {
					return err
				}
				return emit(c, l, func() table {
					t := table{{"When", "New", "What was done, and why you are told"}}
					for _, n := range l.Items {
						fresh := "new"
						if n.Seen {
							fresh = ""
						}
						t = append(t, []string{since(n.At), fresh, n.Title + " " + n.Why})
					}
					return t
				})
			}),
		command("seen", "note that you have seen all", "", "jolly notice seen", 0, 0, nil, func(ctx context.Context, c *ucli.Command, k *client.Client) error {
			l, err := k.Notices(ctx, false, 0, 1)
			if err != nil || len(l.Items) == 0 {
				return err
			}
			u, err := k.SeeNotices(ctx, wire.SeeNotices{UpTo: l.Items[0].N})
			if err != nil {
				return err
			}
			return emit(c, u, func() table { return pairs("Not seen yet", strconv.FormatInt(u.Unread, 10)) })
		}),
		command("told", "show how you are told beside the console, or change it", "", "jolly notice told --mail tove@estuary-watch.example --rhythm day", 0, 0,
			[]ucli.Flag{&ucli.StringFlag{Name: "mail", Usage: "`ADDRESS`; - for none"}, &ucli.StringFlag{Name: "rhythm", Usage: "of mail: none, once, hour or day"}, &ucli.StringFlag{Name: "hook", Usage: "`URL` that a signed CloudEvent is sent to; - for none"},
				&ucli.BoolFlag{Name: "new-key", Usage: "sign calls of the hook with a new key"}}, told),
		command("sendings", "list mails and calls of hooks that wait or were set aside", "", "jolly notice sendings", 0, 0, []ucli.Flag{&ucli.BoolFlag{Name: "all", Usage: "everybody's"}}, func(ctx context.Context, c *ucli.Command, k *client.Client) error {
			l, err := k.Sendings(ctx, c.Bool("all"))
			return sendings(c, l, err)
		}),
		command("again", "try anew what was set aside", "SENDING", "jolly notice again 0198…", 1, 1, nil, func(ctx context.Context, c *ucli.Command, k *client.Client) error {
			l, err := k.SendAgain(ctx, c.Args().First())
			return sendings(c, l, err)
		}))
}

func sendings(c *ucli.Command, l wire.SendingList, err error) error {
	if err != nil {
		return err
	}
	return emit(c, l, func() table {
		t := table{{"Sending", "Way", "To", "State", "Tries", "Problem"}}
		for _, w := range l.Items {
			t = append(t, []string{w.ID, w.Way, w.Address, w.State, strconv.Itoa(w.Tries), w.Problem})
		}
		return t
	})
}

// told shows how the caller is told, and changes what was named.
func told(ctx context.Context, c *ucli.Command, k *client.Client) error {
	t, err := k.Told(ctx)
	if err != nil {
		return err
	}
	in := wire.ToldEdit{Mail: t.Mail, Rhythm: t.Rhythm, Hook: t.Hook, NewKey: c.Bool("new-key")}
	for flag, into := range map[string]*string{"mail": &in.Mail, "rhythm": &in.Rhythm, "hook": &in.Hook} {
		if c.IsSet(flag) {
			if *into = c.String(flag); *into == "-" {
				*into = ""
			}
		}
	}
	if c.NumFlags() > 0 && (in != wire.ToldEdit{Mail: t.Mail, Rhythm: t.Rhythm, Hook: t.Hook}) {
		if t, err = k.SetTold(ctx, t.Version, in); err != nil {
			return err
		}
	}
	return emit(c, t, func() table {
		mail := t.Mail
		if mail != "" && !t.Mails {
			mail += " (the service sends no mail: an administrator sets mail-server)"
		}
		next := ""
		if !t.Next.IsZero() {
			next = t.Next.UTC().Format(time.RFC3339)
		}
		return pairs("Mail", mail, "Rhythm", t.Rhythm, "Next digest", next, "Hook", t.Hook, "Key of the hook", t.Secret, "Name of the key", t.KeyID)
	})
}

func watchCommand() *ucli.Command {
	list := func(c *ucli.Command, l wire.WatchList, err error) error {
		if err != nil {
			return err
		}
		return emit(c, l, func() table {
			t := table{{"Of", "About", "Since"}}
			for _, w := range l.Items {
				t = append(t, []string{w.Of, w.Name, since(w.Since)})
			}
			return t
		})
	}
	return group("watch", "what you want to hear of", "work",
		command("list", "list what you watch", "", "jolly watch list", 0, 0, nil, func(ctx context.Context, c *ucli.Command, k *client.Client) error {
			l, err := k.Watches(ctx)
			return list(c, l, err)
		}),
		command("add", "hear of a part, model, bom, want, drawer, kind of model or question from now on", "OF ABOUT", "jolly watch add question '4k7 0805 1%'", 2, 2, nil, func(ctx context.Context, c *ucli.Command, k *client.Client) error {
			l, err := k.Watch(ctx, c.Args().Get(0), c.Args().Get(1))
			return list(c, l, err)
		}),
		command("end", "hear of it no more", "OF ABOUT", "jolly watch end drawer chip-resistors", 2, 2, nil, func(ctx context.Context, c *ucli.Command, k *client.Client) error {
			l, err := k.Unwatch(ctx, c.Args().Get(0), c.Args().Get(1))
			if err == nil {
				fmt.Fprintln(c.Root().ErrWriter, "You hear of it no more.")
			}
			return list(c, l, err)
		}))
}
