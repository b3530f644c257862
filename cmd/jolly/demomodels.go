package main

import (
	"context"
	"net/url"
	"strings"

	"jollydrawer/client"
	"jollydrawer/core/part"
	"jollydrawer/internal/wire"
)

var demoModels = []wire.ModelEdit{
	{Kind: "symbol", Name: "Resistor", FileName: "resistor.symbol.json", Note: "one symbol for all two-terminal resistors"},
	{Kind: "symbol", Name: "Capacitor", FileName: "capacitor.symbol.json"},
	{Kind: "symbol", Name: "Inductor", FileName: "inductor.symbol.json"},
	{Kind: "symbol", Name: "Diode", FileName: "diode.symbol.json"},
	{Kind: "land pattern", Name: "Chip 0402 nominal", FileName: "chip-0402-nominal.land.json"},
	{Kind: "land pattern", Name: "Chip 0603 nominal", FileName: "chip-0603-nominal.land.json"},
	{Kind: "land pattern", Name: "Chip 0805 nominal", FileName: "chip-0805-nominal.land.json"},
	{Kind: "land pattern", Name: "Chip 0805 hand", FileName: "chip-0805-most.land.json", Note: "roomier, for hand assembly"},
	{Kind: "land pattern", Name: "Chip 1206 nominal", FileName: "chip-1206-nominal.land.json"},
	{Kind: "land pattern", Name: "SOIC-8 nominal", FileName: "soic-8-nominal.land.json"},
	{Kind: "body", Name: "Chip 0603", FileName: "chip-0603.step"},
	{Kind: "body", Name: "Chip 0805", FileName: "chip-0805.step"},
	{Kind: "body", Name: "SOIC-8", FileName: "soic-8.step"},
}

func (d *demonstration) models(ctx context.Context) error {
	for _, m := range demoModels {
		l, err := d.k.Models(ctx, m.Name, m.Kind, "", 0, 10)
		if err != nil {
			return err
		}
		if l.Page.Total > 0 {
			continue
		}
		text, err := read("models/" + m.FileName)
		if err != nil {
			return err
		}
		f, err := d.k.Upload(ctx, m.FileName, strings.NewReader(text))
		if err != nil {
			return err
		}
		m.FileHash = f.Hash
		made, err := d.k.MakeModel(ctx, m)
		if err == nil {
			_, err = d.k.ReleaseModel(ctx, made.ID, made.Version, "drawn to the house rules")
		}
		if err != nil {
			return err
		}
	}
	return nil
}

// attach gives datasheets and models to the parts the boards use most.
func (d *demonstration) attach(ctx context.Context) error {
	for _, w := range []struct{ words, drawer, sheet, symbol, land, body string }{
		{"0805", "chip-resistors", "tidewright-tw-series.pdf", "Resistor", "Chip 0805 nominal", "Chip 0805"},
		{"0603", "ceramic-capacitors", "kelpline-kl-series.pdf", "Capacitor", "Chip 0603 nominal", ""},
		{"CUAD24", "analog-and-interface", "curlew-cuad24.pdf", "", "", ""},
		{"M2 brass", "spacers", "pilework-pw-spacers.pdf", "", "", ""},
	} {
		f, err := d.fetch(ctx, "datasheets", w.sheet)
		if err != nil {
			return err
		}
		l, err := d.k.Parts(ctx, client.PartQuery{Text: w.words, Drawers: []string{w.drawer}, Status: []string{"draft"}, Limit: 40})
		if err != nil {
			return err
		}
		models := map[string]*part.Model{}
		for _, name := range []string{w.symbol, w.land, w.body} {
			if name == "" {
				continue
			}
			found, err := d.k.Models(ctx, name, "", "", 0, 10)
			if err != nil {
				return err
			}
			for _, m := range found.Items {
				if m.Name == name {
					models[name] = &part.Model{ID: m.ID, Name: m.Name, Revision: m.Revision}
				}
			}
		}
		for _, row := range l.Items {
			p, err := d.k.Part(ctx, row.ID)
			if err != nil {
				return err
			}
			e := p.Newest().Edit()
			e.Datasheets = []part.File{{Hash: f.Hash, Name: f.Name}}
			e.Symbol, e.LandPattern, e.Body = models[w.symbol], models[w.land], models[w.body]
			if _, err := d.k.SaveDraft(ctx, p.ID, p.Version, e); err != nil {
				return err
			}
		}
	}
	return nil
}

// deliveries brings in what the simulated suppliers and an old site handed over, and leaves it to be used.
func (d *demonstration) deliveries(ctx context.Context) error {
	have, err := d.k.Deliveries(ctx, 0, 100)
	if err != nil {
		return err
	}
	done := map[string]bool{}
	for _, x := range have.Items {
		done[x.Name] = true
	}
	for _, name := range []string{"pier-3 library.zip", "npn small signal.zip", "tidewater dual amplifier.zip", "BW-CTL48 models.zip"} {
		if done[name] {
			continue
		}
		f, err := d.fetch(ctx, "deliveries", url.PathEscape(name))
		if err != nil {
			return err
		}
		if _, err := d.k.Deliver(ctx, wire.NewDelivery{Name: name, Files: []part.File{{Hash: f.Hash, Name: name}}}); err != nil {
			return err
		}
	}
	return nil
}
