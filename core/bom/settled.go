package bom

import (
	"fmt"
	"time"

	"jollydrawer/core/cabinet"
	"jollydrawer/core/decision"
	"jollydrawer/core/finding"
)

// AgainstSettled says where a line contradicts a value that its record has because somebody settled it so for a source, when a file was brought in.
// Both may be wrong, and so may every board that was built since: it is looked at again.
func (v *Verdict) AgainstSettled(cab *cabinet.Cabinet, settled func(source string) []decision.Record) (out []finding.Finding) {
	if v.Part == nil {
		return nil
	}
	said := map[string]bool{}
	for _, b := range v.Tally {
		if b.Says != Contradicts || said[b.Param] {
			continue
		}
		for _, s := range v.Part.Sources {
			for _, r := range settled(s.Key()) {
				value, ok := r.Claims[b.Param]
				if !ok || said[b.Param] || value.Meant() != v.Part.Value(b.Param).Meant() {
					continue
				}
				said[b.Param] = true
				label, shown := b.Param, value.String()
				if t, ok := cab.Template(v.Part.Drawer); ok {
					if slot, ok := t.Slot(b.Param); ok {
						label, shown = slot.Label, slot.Shown(value)
					}
				}
				seen, _ := decision.ReadWords(r.Evidence)
				out = append(out, finding.Finding{Severity: finding.Warning, Cause: "against-settled:" + b.Param, Row: v.Line.Row, Field: b.Column, Param: b.Param, Text: b.Text,
					What: fmt.Sprintf("the line says %q, and %s of %s is %s because %s settled it so on %s in %s, where the file said %s", b.Text, label, v.Part.Number, shown, r.By, r.At.UTC().Format(time.DateOnly), r.In, seen.Say()),
					Mend: "look at the datasheet: correct the record, or the line"})
			}
		}
	}
	return out
}
