package app_test

import (
	"context"
	"fmt"
	"io"
	"slices"
	"strings"

	"github.com/stretchr/testify/require"

	"jollydrawer/core/cabinet"
	"jollydrawer/core/crosswalk"
	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/service/housetest"
	"jollydrawer/internal/testdb"
	"jollydrawer/internal/wire"
)

// triesOfRooms are those of accounts, templates, files, views and notices.
var triesOfRooms = []try{
	{"People.AddAccount", func(h housetest.House, n string) func(context.Context, deed.Call) (any, error) {
		return func(ctx context.Context, c deed.Call) (any, error) {
			return h.People.AddAccount(ctx, c, wire.NewAccount{Login: "tove" + n, Name: "Tove", Role: "engineer", Password: "a-long-password"})
		}
	}, false},
	{"People.ChangeAccount", func(h housetest.House, n string) func(context.Context, deed.Call) (any, error) {
		a, err := h.People.AddAccount(h.T.Context(), h.Me, wire.NewAccount{Login: "tove" + n, Name: "Tove", Role: "engineer", Password: "a-long-password"})
		require.NoError(h.T, err)
		return func(ctx context.Context, c deed.Call) (any, error) {
			return h.People.ChangeAccount(ctx, c, housetest.ID(h.T, a.ID), wire.AccountChange{Role: "librarian"})
		}
	}, false},
	{"People.ChangePassword", func(h housetest.House, n string) func(context.Context, deed.Call) (any, error) {
		_, err := h.People.AddAccount(h.T.Context(), h.Me, wire.NewAccount{Login: "tove" + n, Name: "Tove", Role: "engineer", Password: "a-long-password"})
		require.NoError(h.T, err)
		_, secret, err := h.People.SignIn(h.T.Context(), wire.SignIn{Login: "tove" + n, Password: "a-long-password"})
		require.NoError(h.T, err)
		tove, _, err := h.People.BySession(h.T.Context(), secret)
		require.NoError(h.T, err)
		return func(ctx context.Context, c deed.Call) (any, error) {
			c.Actor = tove
			return h.People.ChangePassword(ctx, c, "", wire.OwnPassword{Password: "a-long-password", Next: "another-long-word"})
		}
	}, false},
	{"Reform.Start", func(h housetest.House, n string) func(context.Context, deed.Call) (any, error) {
		in := wire.CabinetChange{Steps: []cabinet.Step{{Do: cabinet.Rename, Parameter: "resistance", To: "resistance", Label: "Resistance " + n}}, Note: "renamed"}
		resistor(h, n)
		p, err := h.Reform.Preview(h.T.Context(), h.Me, in)
		require.NoError(h.T, err)
		in.Digest = p.Digest
		return func(ctx context.Context, c deed.Call) (any, error) {
			j, err := h.Reform.Start(ctx, c, p.Version, in)
			if _, err := ended(h, j, err); err != nil {
				return nil, err
			}
			cab, err := h.Cabinets.Get(ctx, c)
			if err != nil {
				return nil, err
			}
			at := slices.IndexFunc(cab.Document.Parameters, func(p cabinet.Parameter) bool { return p.Key == "resistance" })
			return cab.Document.Parameters[at].Label, nil
		}
	}, true},
	{"Audit.Start", func(h housetest.House, n string) func(context.Context, deed.Call) (any, error) {
		return func(ctx context.Context, c deed.Call) (any, error) {
			j, err := h.Audit.Start(ctx, c)
			if _, err := ended(h, j, err); err != nil {
				return nil, err
			}
			j, err = h.Work.Get(ctx, c, housetest.ID(h.T, j.ID))
			if err != nil {
				return nil, err
			}
			return j.Verified.Different, nil
		}
	}, true},
	{"Files.Keep", func(h housetest.House, n string) func(context.Context, deed.Call) (any, error) {
		return func(ctx context.Context, c deed.Call) (any, error) {
			f, err := h.Files.Keep(ctx, c, "a.txt", strings.NewReader("text "+n))
			if err != nil {
				return nil, err
			}
			r, size, err := h.Files.Open(ctx, c, f.Hash)
			if err != nil {
				return nil, err
			}
			defer r.Close()
			raw, err := io.ReadAll(r)
			return []any{f, size, string(raw)}, err
		}
	}, false},
	{"Finder.SaveView", func(h housetest.House, n string) func(context.Context, deed.Call) (any, error) {
		return func(ctx context.Context, c deed.Call) (any, error) {
			v, err := h.Finder.SaveView(ctx, c, wire.ViewEdit{Name: "view " + n, Query: "q=1"})
			return v, err
		}
	}, false},
	{"Finder.DropView", func(h housetest.House, n string) func(context.Context, deed.Call) (any, error) {
		v, err := h.Finder.SaveView(h.T.Context(), h.Me, wire.ViewEdit{Name: "view " + n, Query: "q=1"})
		require.NoError(h.T, err)
		return func(ctx context.Context, c deed.Call) (any, error) {
			if _, err := h.Finder.DropView(ctx, c, housetest.ID(h.T, v.ID)); err != nil && !strings.Contains(err.Error(), "no such view") {
				return nil, err
			}
			left, err := h.Finder.Views(ctx, c)
			left.Items = slices.DeleteFunc(left.Items, func(v wire.View) bool { return v.Name != "view "+n })
			return left, err
		}
	}, false},
	{"People.AddToken", func(h housetest.House, n string) func(context.Context, deed.Call) (any, error) {
		return func(ctx context.Context, c deed.Call) (any, error) {
			k, err := h.People.AddToken(ctx, c, wire.NewToken{Name: "token " + n})
			return k.Name, err
		}
	}, false},
	{"People.DropToken", func(h housetest.House, n string) func(context.Context, deed.Call) (any, error) {
		k, err := h.People.AddToken(h.T.Context(), h.Me, wire.NewToken{Name: "token " + n})
		require.NoError(h.T, err)
		return func(ctx context.Context, c deed.Call) (any, error) {
			if err := h.People.DropToken(ctx, c, housetest.ID(h.T, k.ID)); err != nil {
				return nil, err
			}
			_, err := h.People.ByToken(ctx, k.Secret)
			return fmt.Sprint(err), nil
		}
	}, false},
	{"Intakes.FetchLinked", func(h housetest.House, n string) func(context.Context, deed.Call) (any, error) {
		e := housetest.Rated("4k7", "FL-"+n)
		e.Links = []string{"http://nowhere.invalid/" + n + ".pdf"}
		have := h.Make(e)
		return func(ctx context.Context, c deed.Call) (any, error) {
			j, err := h.Intakes.FetchLinked(ctx, c, []string{have.ID})
			return ended(h, j, err)
		}
	}, true},
	{"Intakes.MoveStated", func(h housetest.House, n string) func(context.Context, deed.Call) (any, error) {
		have := h.Make(housetest.Rated("4k7", "MS-"+n))
		i := h.Listed("R;Tidewright;MS-" + n + ";4k7;1%;0805;Obsolete\n")
		i = h.EditIntake(i, wire.IntakeEdit{Changes: []crosswalk.Change{{Take: map[string]string{"state": "Sheet", "datasheet": ""}}}})
		return func(ctx context.Context, c deed.Call) (any, error) {
			moved, err := h.Intakes.MoveStated(ctx, c, housetest.ID(h.T, i.ID), wire.MoveStated{Stated: "obsolete", Note: "as the supplier says"})
			if err != nil {
				return nil, err
			}
			now, err := h.Parts.Get(ctx, c, have.ID)
			return []any{moved.Things, now.Standing}, err
		}
	}, false},
	{"Intakes.KeepNumbers", func(h housetest.House, n string) func(context.Context, deed.Call) (any, error) {
		have := h.Make(housetest.Rated("4k7", "KN-"+n))
		i := h.Listed("R;Tidewright;KN-" + n + ";4k7;1%;0805;OLD " + n + "\n")
		i = h.EditIntake(i, wire.IntakeEdit{Changes: []crosswalk.Change{{Take: map[string]string{"number": "Sheet", "datasheet": ""}}}})
		return func(ctx context.Context, c deed.Call) (any, error) {
			kept, err := h.Intakes.KeepNumbers(ctx, c, housetest.ID(h.T, i.ID), wire.KeepNumbers{})
			if err != nil {
				return nil, err
			}
			now, err := h.Parts.Get(ctx, c, have.ID)
			now.Alike = nil
			return []any{kept, now}, err
		}
	}, false},
	{"Intakes.GoOver", func(h housetest.House, n string) func(context.Context, deed.Call) (any, error) {
		i := h.Listed(row(n))
		h.TakeIn(i)
		return func(ctx context.Context, c deed.Call) (any, error) {
			return h.Intakes.GoOver(ctx, c, housetest.ID(h.T, i.ID))
		}
	}, false},
	{"Intakes.ApplyCrosswalk", func(h housetest.House, n string) func(context.Context, deed.Call) (any, error) {
		h.Listed(row(n))
		return func(ctx context.Context, c deed.Call) (any, error) {
			cw, err := h.Intakes.ApplyCrosswalk(ctx, c, 0, wire.CrosswalkEdit{Text: "format: jolly-crosswalk/1\nsupplier: Applied " + n + "\ntake: { mpn: MPN }\nfields: []\n"})
			return []any{cw.Number, cw.Revision}, err
		}
	}, false},
	{"Series.Make", func(h housetest.House, n string) func(context.Context, deed.Call) (any, error) {
		h.Make(housetest.Rated("4k7", "SM-"+n))
		return func(ctx context.Context, c deed.Call) (any, error) {
			s, err := h.Series.Make(ctx, c, wire.SeriesEdit{Manufacturer: "Tidewright", Name: "SM " + n, Members: []string{"SM-" + n}})
			return []any{s.Version, s.Total}, err
		}
	}, false},
	{"Series.Edit", func(h housetest.House, n string) func(context.Context, deed.Call) (any, error) {
		h.Make(housetest.Rated("4k7", "SE-"+n))
		s, err := h.Series.Make(h.T.Context(), h.Me, wire.SeriesEdit{Manufacturer: "Tidewright", Name: "SE " + n})
		require.NoError(h.T, err)
		return func(ctx context.Context, c deed.Call) (any, error) {
			in := s.Said
			in.Members = []string{"SE-" + n}
			now, err := h.Series.Edit(ctx, c, s.ID, s.Version, in)
			return []any{now.Version, now.Total}, err
		}
	}, false},
	{"Offers.Apply", func(h housetest.House, n string) func(context.Context, deed.Call) (any, error) {
		return func(ctx context.Context, c deed.Call) (any, error) {
			x, err := h.Offers.Apply(ctx, c, 0, wire.ConnectionEdit{Text: shop(n)})
			return []any{x.Supplier, x.Revision}, err
		}
	}, false},
	{"Offers.ApplyRates", func(h housetest.House, n string) func(context.Context, deed.Call) (any, error) {
		r, err := h.Offers.Rates(h.T.Context(), h.Me)
		require.NoError(h.T, err)
		return func(ctx context.Context, c deed.Call) (any, error) {
			now, err := h.Offers.ApplyRates(ctx, c, r.Version, wire.RatesEdit{Text: "format: jolly-rates/1\nfrom: " + n + "\nrates: []\n"})
			return now.Text, err
		}
	}, false},
	{"Offers.UploadList", func(h housetest.House, n string) func(context.Context, deed.Call) (any, error) {
		_, err := h.Offers.Apply(h.T.Context(), h.Me, 0, wire.ConnectionEdit{Text: shop(n)})
		require.NoError(h.T, err)
		f := priceList(h, n)
		return func(ctx context.Context, c deed.Call) (any, error) {
			x, err := h.Offers.UploadList(ctx, c, "Shop "+n, wire.PriceListUpload{Hash: f.Hash, Name: f.Name})
			return []any{x.Version, x.List != nil}, err
		}
	}, false},
	{"Offers.Take", func(h housetest.House, n string) func(context.Context, deed.Call) (any, error) {
		listed(h, n)
		return func(ctx context.Context, c deed.Call) (any, error) {
			got, err := h.Offers.Take(ctx, c, wire.SupplierTake{Question: wire.SupplierQuestion{Text: "OF-" + n}, Supplier: "Shop " + n, Number: "N" + n})
			return got.Part.Version, err
		}
	}, false},
	{"Offers.KeepLimits", func(h housetest.House, n string) func(context.Context, deed.Call) (any, error) {
		return func(ctx context.Context, c deed.Call) (any, error) {
			return h.Offers.KeepLimits(ctx, c, wire.SupplierLimitsEdit{Text: "zebra " + n, Pieces: 60, Packing: "reel"})
		}
	}, false},
	{"Offers.Intake", func(h housetest.House, n string) func(context.Context, deed.Call) (any, error) {
		listed(h, n)
		return func(ctx context.Context, c deed.Call) (any, error) {
			got, err := h.Offers.Intake(ctx, c, wire.SupplierIntake{Question: wire.SupplierQuestion{Text: "OF-" + n}, Keys: []string{"tidewright|OF" + strings.ToUpper(n)}})
			if err != nil {
				return nil, err
			}
			return []any{len(got.Items), got.Items[0].Products, got.Items[0].Supplier == "Shop "+n}, nil
		}
	}, false},
	{"Offers.Refresh", func(h housetest.House, n string) func(context.Context, deed.Call) (any, error) {
		listed(h, n)
		p := h.Make(housetest.Rated("4k7", "OF-"+n))
		return func(ctx context.Context, c deed.Call) (any, error) {
			j, err := h.Offers.Refresh(ctx, c, wire.RefreshOffers{Parts: []string{p.Number}})
			if _, err := ended(h, j, err); err != nil {
				return nil, err
			}
			r := h.Wait(j).Refreshed
			return []any{r.Sources, r.Offers, r.News, r.Problems}, nil
		}
	}, true},
	{"Offers.Settle", func(h housetest.House, n string) func(context.Context, deed.Call) (any, error) {
		listed(h, n)
		p := h.Make(housetest.Rated("4k7", "OF-"+n))
		j, err := h.Offers.Refresh(h.T.Context(), h.Me, wire.RefreshOffers{Parts: []string{p.Number}})
		require.NoError(h.T, err)
		h.Wait(j)
		o, err := h.Offers.OfPart(h.T.Context(), h.Me, p.Number, 1)
		require.NoError(h.T, err)
		require.Len(h.T, o.News, 1, "the shop says that it is obsolete")
		return func(ctx context.Context, c deed.Call) (any, error) {
			return h.Offers.Settle(ctx, c, wire.SettleNews{IDs: []string{o.News[0].ID}})
		}
	}, false},
	{"Work.Stop", func(h housetest.House, n string) func(context.Context, deed.Call) (any, error) {
		i := h.Listed("R;Tidewright;I-" + n + ";4k7;1%;0805;file:///nowhere/" + n + ".pdf\n")
		j, err := h.Intakes.FetchDatasheets(h.T.Context(), h.Me, housetest.ID(h.T, i.ID))
		require.NoError(h.T, err)
		h.Wait(j)
		return func(ctx context.Context, c deed.Call) (any, error) {
			return h.Work.Stop(ctx, c, housetest.ID(h.T, j.ID))
		}
	}, true},
	{"Lifecycles.Hold", func(h housetest.House, n string) func(context.Context, deed.Call) (any, error) {
		p := resistor(h, n)
		return func(ctx context.Context, c deed.Call) (any, error) {
			l, err := h.Lifecycles.Hold(ctx, c, p.ID, wire.TakeHold{Why: "at it"})
			return []any{l.Version, l.Hold != nil && l.Hold.Mine}, err
		}
	}, false},
	{"Lifecycles.LetGo", func(h housetest.House, n string) func(context.Context, deed.Call) (any, error) {
		p := resistor(h, n)
		_, err := h.Lifecycles.Hold(h.T.Context(), h.Me, p.ID, wire.TakeHold{Why: "at it"})
		require.NoError(h.T, err)
		return func(ctx context.Context, c deed.Call) (any, error) {
			l, err := h.Lifecycles.LetGo(ctx, c, p.ID)
			return []any{l.Version, l.Hold == nil}, err
		}
	}, false},
	{"Comments.Say", func(h housetest.House, n string) func(context.Context, deed.Call) (any, error) {
		p := resistor(h, n)
		return func(ctx context.Context, c deed.Call) (any, error) {
			l, err := h.Comments.Say(ctx, c, p.Number, wire.NewComment{Text: "is it?"})
			return []int{len(l.Items), l.Open}, err
		}
	}, false},
	{"Comments.Settle", func(h housetest.House, n string) func(context.Context, deed.Call) (any, error) {
		p := resistor(h, n)
		said, err := h.Comments.Say(h.T.Context(), h.Me, p.Number, wire.NewComment{Text: "is it?"})
		require.NoError(h.T, err)
		return func(ctx context.Context, c deed.Call) (any, error) {
			l, err := h.Comments.Settle(ctx, c, housetest.ID(h.T, said.Items[0].ID), true)
			if err != nil {
				return nil, err
			}
			return []any{len(l.Items), l.Open, l.Items[0].Settled}, nil
		}
	}, false},
	{"Notices.Watch", func(h housetest.House, n string) func(context.Context, deed.Call) (any, error) {
		p := resistor(h, n)
		return func(ctx context.Context, c deed.Call) (any, error) {
			l, err := h.Notices.Watch(ctx, c, wire.WatchEdit{Of: "part", About: p.Number})
			return watched(l, p.Number), err
		}
	}, false},
	{"Notices.Unwatch", func(h housetest.House, n string) func(context.Context, deed.Call) (any, error) {
		p := resistor(h, n)
		_, err := h.Notices.Watch(h.T.Context(), h.Me, wire.WatchEdit{Of: "part", About: p.Number})
		require.NoError(h.T, err)
		return func(ctx context.Context, c deed.Call) (any, error) {
			l, err := h.Notices.Unwatch(ctx, c, wire.WatchEdit{Of: "part", About: p.Number})
			return watched(l, p.Number), err
		}
	}, false},
	{"Notices.SetTold", func(h housetest.House, n string) func(context.Context, deed.Call) (any, error) {
		was, err := h.Notices.Told(h.T.Context(), h.Me)
		require.NoError(h.T, err)
		return func(ctx context.Context, c deed.Call) (any, error) {
			now, err := h.Notices.SetTold(ctx, c, was.Version, wire.ToldEdit{Mail: n + "@estuary-watch.example", Rhythm: "once"})
			return []any{now.Version - was.Version, now.Mail == n+"@estuary-watch.example"}, err
		}
	}, false},
	{"Notices.See", func(h housetest.House, n string) func(context.Context, deed.Call) (any, error) {
		id := deed.NewID()
		_, err := testdb.SQL(h.T, h.Owner, "INSERT INTO notices (id, account, deed, n, at, title, body, digest) VALUES (?,?,?,1,NOW(6),'x','{}',FALSE)", id, h.Me.Actor.ID, deed.NewID())
		require.NoError(h.T, err)
		return func(ctx context.Context, c deed.Call) (any, error) {
			return h.Notices.See(ctx, c, wire.SeeNotices{IDs: []string{id.String()}})
		}
	}, false},
	{"Notices.SendAgain", func(h housetest.House, n string) func(context.Context, deed.Call) (any, error) {
		id := deed.NewID()
		_, err := testdb.SQL(h.T, h.Owner, "INSERT INTO sendings (id, account, way, address, payload, state, tries, due, problem, made) VALUES (?,?,'mail','x','{}','aside',8,'2999-01-01','x',NOW(6))", id, h.Me.Actor.ID)
		require.NoError(h.T, err)
		return func(ctx context.Context, c deed.Call) (any, error) {
			l, err := h.Notices.SendAgain(ctx, c, id)
			at := slices.IndexFunc(l.Items, func(w wire.Sending) bool { return w.ID == id.String() })
			if err != nil || at < 0 {
				return at, err
			}
			return []any{l.Items[at].State, l.Items[at].Tries}, nil
		}
	}, false},
}

// watched says how often a part is among what is watched.
func watched(l wire.WatchList, number string) (n int) {
	for _, w := range l.Items {
		if w.Name == number {
			n++
		}
	}
	return n
}

// shop is the connection to a supplier whose price list people upload.
func shop(n string) string {
	return "format: jolly-connection/1\nsupplier: Shop " + n + "\ncurrency: EUR\nread: {form: table, product: {manufacturer: Make, mpn: Type, kind: What, state: Stands}, offers: {paths: {number: Code}}, breaks: {at: {\"1\": Each}}, fields: {rest: true}}\n"
}

func priceList(h housetest.House, n string) wire.File {
	f, err := h.Files.Keep(h.T.Context(), h.Me, n+".csv", strings.NewReader("Code,Make,Type,What,Stands,Each,Resistance,Tolerance,Case\nN"+n+",Tidewright,OF-"+n+",Chip resistors,obsolete,0.02,4k7,1 %,0805\n"))
	require.NoError(h.T, err)
	return f
}

// listed connects such a supplier, with its price list.
func listed(h housetest.House, n string) {
	_, err := h.Offers.Apply(h.T.Context(), h.Me, 0, wire.ConnectionEdit{Text: shop(n)})
	require.NoError(h.T, err)
	f := priceList(h, n)
	_, err = h.Offers.UploadList(h.T.Context(), h.Me, "Shop "+n, wire.PriceListUpload{Hash: f.Hash, Name: f.Name})
	require.NoError(h.T, err)
}
