package main

import (
	"context"
	"slices"

	"jollydrawer/client"
	"jollydrawer/internal/wire"
)

// groups says who answers for what.
func (d *demonstration) groups(ctx context.Context) error {
	have, err := d.admin.Groups(ctx)
	if err != nil {
		return err
	}
	for _, g := range []wire.GroupEdit{
		{Name: "Power desk", About: "who answers for what feeds the buoys", Members: []string{"tove", "iver"}, Drawers: []string{"regulators"}},
		{Name: "Drawing room", About: "who answers for symbols, land patterns and bodies", Members: []string{"maren", "iver"}, Kinds: []string{"symbol", "land pattern", "body", "pin map"}},
	} {
		if slices.ContainsFunc(have.Items, func(h wire.Group) bool { return h.Name == g.Name }) {
			continue
		}
		if _, err := d.admin.AddGroup(ctx, g); err != nil {
			return err
		}
	}
	return nil
}

// lifecycles puts the company's own lifecycles in force.
func (d *demonstration) lifecycles(ctx context.Context) error {
	for _, name := range []string{"models", "second-look"} {
		text, err := read("lifecycles/" + name + ".yaml")
		if err != nil {
			return err
		}
		p, err := d.admin.PreviewLifecycle(ctx, text)
		if err == nil && p.Version == 0 {
			_, err = d.admin.ApplyLifecycle(ctx, 0, text)
		}
		if err != nil {
			return err
		}
	}
	return nil
}

// reviews passes some parts to the second desk, and leaves work in its queue.
func (d *demonstration) reviews(ctx context.Context) error {
	in := wire.MoveThings{Move: "ask for review", Skip: true}
	for _, q := range []client.PartQuery{{Drawers: []string{"regulators"}, Status: []string{"draft"}, Limit: 20}, {Drawers: []string{"spacers"}, Status: []string{"draft"}, Limit: 4}} {
		l, err := d.k.Parts(ctx, q)
		if err != nil {
			return err
		}
		for _, row := range l.Items {
			in.Things = append(in.Things, wire.PartBase{ID: row.ID, Version: row.Version})
		}
	}
	if len(in.Things) == 0 {
		return nil // an earlier run did it
	}
	if _, err := d.k.Move(ctx, in); err != nil {
		return err
	}
	tove := client.New(d.url, "")
	if _, err := tove.SignIn(ctx, "tove", demoPassword, "demo", 1); err != nil {
		return err
	}
	q, err := tove.Queue(ctx, true, 0, 10)
	if err != nil || len(q.Items) < 3 {
		return err
	}
	// One goes all the way, by a second source that is waived; one is under way.
	first, err := d.k.Waive(ctx, q.Items[0].ID, q.Items[0].Version, "sources", "the only one that starts at -20 °C; two are on the shelf")
	if err != nil {
		return err
	}
	r, err := tove.SignReview(ctx, first.ID, first.Version, wire.SignReview{Against: "its datasheet, pages 1 to 4", All: true})
	if err != nil {
		return err
	}
	if _, err := tove.Move(ctx, wire.MoveThings{Move: "release", Note: "looked at by two", Things: []wire.PartBase{{ID: r.ID, Version: r.Version}}}); err != nil {
		return err
	}
	next, err := tove.Review(ctx, q.Items[1].ID)
	if err != nil || len(next.Items) < 2 {
		return err
	}
	if next, err = tove.Tick(ctx, next.ID, next.Version, wire.TickItems{Items: []string{next.Items[0].Key, next.Items[1].Key}}); err != nil {
		return err
	}
	_, err = tove.TakeTurn(ctx, next.ID, next.Version, false)
	return err
}

// wants are what an engineer asks for: one is settled, the others wait.
func (d *demonstration) wants(ctx context.Context) error {
	have, err := d.k.Wants(ctx, "", false, 0, 1)
	if err != nil || have.Page.Total > 0 {
		return err
	}
	tove := client.New(d.url, "")
	if _, err := tove.SignIn(ctx, "tove", demoPassword, "demo", 1); err != nil {
		return err
	}
	made, err := tove.MakeWants(ctx, []wire.WantEdit{
		{Facts: "4k7 0603 1%", Board: "Tide logger rev C", Quantity: 12},
		{Facts: "22 µF 25 V X7R 1210", Board: "Solar charger rev D", Quantity: 4, By: "2031-05-02", Note: "the electrolytic is too tall under the lid"},
		{MPN: "CUR3V3600-SOT235", Manufacturer: "Curlew Semiconductor", Board: "Radar head rev B", Quantity: 40},
		{Facts: "spacer M3 45mm", Board: "Buoy hull 7"},
	})
	if err != nil {
		return err
	}
	if _, err := tove.WantMissing(ctx, "Radar head rev A", 0); err != nil {
		return err
	}
	w, err := d.k.Want(ctx, made.Numbers[0])
	if err != nil || w.Look == nil || len(w.Look.Parts) == 0 {
		return err
	}
	_, err = d.k.SettleWant(ctx, w.ID, w.Version, wire.SettleWant{State: "answered", Part: w.Look.Parts[0].Number, Why: "we have it in 0603"})
	return err
}

// watches are what people want to hear of, and how, from then on.
func (d *demonstration) watches(ctx context.Context) error {
	for _, w := range []struct {
		who   string
		told  wire.ToldEdit
		about [][2]string
	}{
		{"maren", wire.ToldEdit{Mail: "maren@estuary-watch.example", Rhythm: "day"}, [][2]string{{"drawer", "capacitors"}, {"kind", "land pattern"}}},
		{"tove", wire.ToldEdit{Mail: "tove@estuary-watch.example", Rhythm: "once"}, [][2]string{{"drawer", "regulators"}, {"question", "10k 0603"}}},
		{"iver", wire.ToldEdit{Rhythm: "none", Hook: d.post.Hook}, [][2]string{{"drawer", "resistors"}}},
		{"ulla", wire.ToldEdit{Mail: "ulla@estuary-watch.example", Rhythm: "hour"}, [][2]string{{"drawer", "passives"}}},
	} {
		k := client.New(d.url, "")
		if _, err := k.SignIn(ctx, w.who, demoPassword, "demo", 1); err != nil {
			return err
		}
		now, err := k.Told(ctx)
		if err == nil && now.Version == 0 {
			_, err = k.SetTold(ctx, 0, w.told)
		}
		if err == nil && w.told.Hook != "" {
			err = d.trust(ctx)
		}
		for _, a := range w.about {
			if err == nil {
				_, err = k.Watch(ctx, a[0], a[1])
			}
		}
		if err != nil {
			return err
		}
	}
	return nil
}

// trust lets the simulated receiver know the keys that calls are signed with.
func (d *demonstration) trust(ctx context.Context) error {
	iver := client.New(d.url, "")
	if _, err := iver.SignIn(ctx, "iver", demoPassword, "demo", 1); err != nil {
		return err
	}
	told, err := iver.Told(ctx)
	if err != nil || told.Secret == "" {
		return err
	}
	return d.post.Trust(told.KeyID, told.Secret)
}
