package boms

import (
	"context"
	"fmt"
	"strings"

	"go.yaml.in/yaml/v3"

	"jollydrawer/core/bom"
	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/store"
	"jollydrawer/internal/wire"
)

// formsNumber is what the one document of sheets is found by.
const formsNumber = "sheets of BOMs"

// forms are the sheets of the house, beside the usual ones.
func (s *BOMs) forms(ctx context.Context) (store.Head, bom.HouseForms, error) {
	out := bom.HouseForms{Format: bom.FormsFormat}
	h, err := ofHouse(s.Store.Read(ctx), store.KindForms, formsNumber, &out)
	return h, out, err
}

// SheetForms returns the sheets of the house.
func (s *BOMs) SheetForms(ctx context.Context, c deed.Call) (wire.SheetForms, error) {
	if err := deed.Allow(c, deed.OpRead); err != nil {
		return wire.SheetForms{}, err
	}
	h, forms, err := s.forms(ctx)
	if err != nil {
		return wire.SheetForms{}, err
	}
	out := wire.SheetForms{Version: h.Version, Sheets: []wire.SheetForm{}}
	for _, f := range forms.Sheets {
		out.Sheets = append(out.Sheets, wire.SheetForm{Name: f.Name, Of: f.Of, Columns: len(f.Columns)})
	}
	text, err := yaml.Marshal(forms)
	out.Text = string(text)
	return out, err
}

// ApplySheetForms makes a document the one that says which sheets the house has of its BOMs.
func (s *BOMs) ApplySheetForms(ctx context.Context, c deed.Call, version int, in wire.SheetFormsEdit) (wire.SheetForms, error) {
	if err := deed.Allow(c, deed.OpForms); err != nil {
		return wire.SheetForms{}, err
	}
	forms, err := bom.ParseForms([]byte(in.Text))
	if err != nil {
		return wire.SheetForms{}, deed.Fault(deed.Invalid, "sheets-wrong", "The sheets cannot be taken: "+err.Error()+".", "")
	}
	if err := s.applyOfHouse(ctx, c, deed.OpForms, store.KindForms, formsNumber, bom.FormsFormat, version, forms, func(*store.Tx) error { return nil }); err != nil {
		return wire.SheetForms{}, err
	}
	return s.SheetForms(ctx, c)
}

// houseForm is the sheet of the house that a form names; none where it is a usual one.
func (s *BOMs) houseForm(ctx context.Context, form string) (f bom.HouseForm, is bool, err error) {
	_, all, err := s.forms(ctx)
	if err != nil {
		return f, false, err
	}
	if f, is = all.Named(form); is {
		return f, true, nil
	}
	names := append([]string{}, bom.Forms...)
	for _, o := range all.Sheets {
		names = append(names, o.Name)
	}
	return f, false, deed.Fault(deed.Invalid, "form-unknown", fmt.Sprintf("%q is no form of a BOM's sheets.", form), "Use "+strings.Join(names, ", ")+".")
}
