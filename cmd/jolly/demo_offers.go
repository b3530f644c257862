package main

import (
	"context"
	"errors"
	"strings"

	"jollydrawer/core/buying"
	"jollydrawer/core/connection"
	"jollydrawer/internal/wire"
)

// connections connects the four simulated suppliers. They may be at another address than when an earlier run connected them.
func (d *demonstration) connections(ctx context.Context) error {
	have, err := d.admin.Connections(ctx, 0, 100)
	if err != nil {
		return err
	}
	version, address := map[string]int{}, map[string]string{}
	for _, c := range have.Items {
		version[c.Supplier], address[c.Supplier] = c.Version, c.Address
	}
	for _, name := range []string{"northquay", "harbour-finch", "sandbar", "marsh-lane"} {
		text, err := read("connections/" + name + ".yaml")
		if err != nil {
			return err
		}
		text = strings.ReplaceAll(text, "http://suppliers.invalid", d.market)
		doc, err := connection.Parse([]byte(text))
		if err != nil {
			return err
		}
		if address[doc.Supplier] == doc.Address {
			continue
		}
		if _, err := d.admin.ApplyConnection(ctx, version[doc.Supplier], text); err != nil {
			return err
		}
	}
	return nil
}

// offers maps what the suppliers answer with, loads exchange rates, and asks for what they offer of the capacitors and resistors.
func (d *demonstration) offers(ctx context.Context) error {
	if err := d.connections(ctx); err != nil {
		return err
	}
	for _, name := range []string{"northquay", "harbour-finch", "sandbar", "marsh-lane"} {
		text, err := read("crosswalks/" + name + "-answers.yaml")
		if err != nil {
			return err
		}
		if _, err := d.k.ApplyCrosswalk(ctx, 0, text); err != nil {
			return err
		}
	}
	text, err := read("rates.yaml")
	if err != nil {
		return err
	}
	if _, err := d.k.ApplyRates(ctx, 0, text); err != nil {
		return err
	}
	j, err := d.k.RefreshOffers(ctx, wire.RefreshOffers{Drawer: "ceramic-capacitors", Lists: true})
	if err == nil {
		j, err = d.k.WaitJob(ctx, j.ID, nil)
	}
	if err == nil && j.Refreshed == nil {
		err = errors.New(j.Error)
	}
	return err
}

// freeze asks the suppliers for the parts of all boards, says how many of the first are built, and makes its first revision; its next file lies beside it.
func (d *demonstration) freeze(ctx context.Context) error {
	b, err := d.k.BOM(ctx, demoBOMs[0].name)
	if err != nil || b.Revision > 0 {
		return err
	}
	for _, of := range demoBOMs {
		board, err := d.k.BOM(ctx, of.name)
		if err != nil {
			return err
		}
		j, err := d.k.RefreshOffers(ctx, wire.RefreshOffers{BOM: board.ID})
		if err == nil {
			_, err = d.k.WaitJob(ctx, j.ID, nil)
		}
		if err != nil {
			return err
		}
	}
	if b, err = d.k.BuildBOM(ctx, b.ID, b.Version, wire.BOMBuild{Boards: 40}); err != nil {
		return err
	}
	if b, err = d.k.BOMBuying(ctx, b.ID, b.Version, wire.BuyingRules{Spares: []buying.Spare{{Drawer: "passives", Percent: 2, Pieces: 5}}}); err != nil {
		return err
	}
	if _, err := d.k.BOM(ctx, nextFile.name); err != nil {
		if _, err := d.bom(ctx, nextFile); err != nil {
			return err
		}
	}
	_, err = d.k.FreezeBOM(ctx, b.ID, b.Version, wire.FreezeBOM{Note: "first build of forty", Anyway: "the open lines are settled on the bench before the order goes out"})
	return err
}
