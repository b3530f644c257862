package parts

import (
	"jollydrawer/core/cabinet"
	"jollydrawer/core/finding"
	"jollydrawer/core/lifecycle"
	"jollydrawer/core/part"
)

// FactsOf are what gates are told about the content of a part by itself. fit is what its models say of each other.
func FactsOf(p part.Content, t *cabinet.Template, hash string, fit []finding.Finding) lifecycle.Facts {
	f := lifecycle.Facts{Content: hash, Findings: append(part.Check(p, t), fit...)}
	for _, s := range p.Sources {
		f.Sources = append(f.Sources, s.Manufacturer+" "+s.MPN)
	}
	f.Unequal = p.Unequal(t)
	for _, d := range p.Datasheets {
		f.Datasheets = append(f.Datasheets, d.Hash)
	}
	for _, s := range t.Slots {
		if v := p.Values[s.Key]; s.Required && v.IsBlank() {
			f.Blank = append(f.Blank, s.Label)
		}
	}
	for _, key := range t.Identity {
		if s, ok := t.Slot(key); ok {
			f.Identity = append(f.Identity, s.Label)
		}
	}
	return f
}
