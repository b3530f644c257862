package models

import (
	"slices"

	"jollydrawer/core/cabinet"
	"jollydrawer/core/model"
	"jollydrawer/core/part"
)

// TextsOf are the texts of a part's facts for its drawing: what its drawer shows on one, in that order, then what is only carried along. A
// symbol can give any of them a place of its own; value is the leading parameter, under whatever key.
func TextsOf(t *cabinet.Template, number string, p part.Content) (out []model.PartText) {
	add := func(key, text string, shown bool) {
		if text != "" {
			out = append(out, model.PartText{Key: key, Text: text, Shown: shown})
		}
	}
	value := func(key string) string {
		slot, ok := t.Slot(key)
		if v := p.Values[key]; ok && !v.IsBlank() {
			return slot.Shown(v)
		}
		return ""
	}
	for _, key := range t.Drawing {
		add(key, value(key), true)
	}
	for _, slot := range t.Slots {
		if !slices.Contains(t.Drawing, slot.Key) {
			add(slot.Key, value(slot.Key), false)
		}
	}
	more := [][2]string{{"value", value(t.Leading)}, {"number", number}, {"description", p.Description}}
	if len(p.Sources) > 0 {
		more = append(more, [2]string{"manufacturer", p.Sources[0].Manufacturer}, [2]string{"mpn", p.Sources[0].MPN})
	}
	for _, m := range more {
		if !t.Has(m[0]) {
			add(m[0], m[1], false)
		}
	}
	return out
}
