package fitting

import (
	"bytes"
	"context"
	"fmt"

	"jollydrawer/core/model"
	"jollydrawer/core/part"
	"jollydrawer/formats/edif"
	"jollydrawer/formats/ipc2581"
	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/service/models"
	"jollydrawer/internal/store"
)

// drawn is a part with all that its drawing says.
type drawn struct {
	head   store.Head
	part   part.Content
	models models.Fitted
	texts  []model.PartText
	house  model.House
	letter string
}

func (s *Fitting) drawn(ctx context.Context, c deed.Call, key string) (d drawn, err error) {
	if err := deed.Allow(c, deed.OpRead); err != nil {
		return d, err
	}
	if d.head, d.part, err = s.parts.Newest(ctx, key); err != nil {
		return d, err
	}
	r := s.Store.Read(ctx)
	if d.models, err = s.models.FitOf(r, d.part); err != nil {
		return d, err
	}
	cab, _, err := s.cabinets.In(r)
	if err != nil {
		return d, err
	}
	d.house = cab.Document.House
	if t, ok := cab.Template(d.part.Drawer); ok {
		d.texts, d.letter = models.TextsOf(t, d.head.Number, d.part), t.Designator
	}
	return d, nil
}

func (d drawn) symbol() *model.Symbol {
	if d.models.Symbol == nil || d.models.Symbol.Symbol == nil {
		return nil
	}
	return d.models.Symbol.Symbol.WithTexts(d.house, d.texts)
}

// SymbolOf draws a part's symbol with the texts of its facts.
func (s *Fitting) SymbolOf(ctx context.Context, c deed.Call, key string, night bool) ([]byte, error) {
	d, err := s.drawn(ctx, c, key)
	if err != nil {
		return nil, err
	}
	sym := d.symbol()
	if sym == nil {
		return nil, deed.Fault(deed.Unknown, "no-drawing", "The part has no symbol with a drawing.", "Link one.")
	}
	m := model.Content{Kind: model.KindSymbol, Name: d.head.Number, Symbol: sym}
	return m.SVG(model.Preview{Ink: models.Ink(night), Letter: d.letter, Texts: sym.Properties}), nil
}

// PartFile writes what a design tool takes of one part, its facts with it: its symbol as EDIF, where they are properties, or its land pattern
// as IPC-2581, where they are characteristics of a line of a bill of materials.
func (s *Fitting) PartFile(ctx context.Context, c deed.Call, key, form string) (raw []byte, name string, err error) {
	d, err := s.drawn(ctx, c, key)
	if err != nil {
		return nil, "", err
	}
	var b bytes.Buffer
	name = models.Slug(d.head.Number)
	sym := d.symbol()
	switch {
	case form == "edif" && sym != nil:
		err = edif.Write(&b, d.head.Number, []edif.Cell{{Name: d.head.Number, Symbol: sym}})
		return b.Bytes(), name + ".edif", err
	case form == "ipc2581" && d.models.Land != nil && d.models.Land.Land != nil:
		item := ipc2581.Item{Number: d.head.Number, Description: d.part.Description, Letter: d.letter, Package: d.models.Land.Name}
		for _, t := range d.texts {
			item.Texts = append(item.Texts, [2]string{t.Key, t.Text})
		}
		err = ipc2581.Write(&b, []ipc2581.Package{{Name: d.models.Land.Name, Land: d.models.Land.Land}}, item)
		return b.Bytes(), name + ".ipc2581.xml", err
	}
	return nil, "", deed.Fault(deed.Invalid, "no-such-form", fmt.Sprintf("%s cannot be written as %q.", d.head.Number, form), "A part with a symbol is written as edif, one with a land pattern as ipc2581.")
}
