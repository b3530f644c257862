package cabinet

import (
	_ "embed" // for the starter cabinet
	"fmt"
	"slices"
)

// StarterText is the starter cabinet as it is written: some fifty drawers that a hardware team can begin with.
//
//go:embed starter.yaml
var StarterText []byte

// Starter returns the starter cabinet's document.
func Starter() Document {
	doc, err := read(StarterText)
	if err != nil {
		panic("cabinet: the starter cabinet is part of the program: " + err.Error())
	}
	return doc
}

// buildOn lays a document over the starter cabinet: parameters and drawers of the same key take over what the document
// says of them and keep the rest; new ones are added behind.
func buildOn(doc Document) (Document, error) {
	if doc.BuiltOn != "starter" {
		return doc, fmt.Errorf("the cabinet document is built on %q: the one that is there is called starter", doc.BuiltOn)
	}
	out := Starter()
	over(&out.House, doc.House)
	for _, p := range doc.Parameters {
		if have, err := out.parameter(p.Key); err == nil {
			have.amend(p)
		} else {
			out.Parameters = append(out.Parameters, p)
		}
	}
	for _, d := range doc.Drawers {
		if have, err := out.drawer(d.Key); err == nil {
			have.amend(d)
		} else {
			out.Drawers = append(out.Drawers, d)
		}
	}
	out.Drawers = slices.DeleteFunc(out.Drawers, func(d Drawer) bool { return slices.Contains(doc.Without, d.Key) })
	return out, nil
}

// over replaces a by b where b says something.
func over[T comparable](a *T, b T) {
	var none T
	if b != none {
		*a = b
	}
}

func overList(a *[]string, b []string) {
	if len(b) > 0 {
		*a = b
	}
}

func (p *Parameter) amend(by Parameter) {
	over(&p.Label, by.Label)
	over(&p.Type, by.Type)
	over(&p.Of, by.Of)
	over(&p.Show, by.Show)
	over(&p.AssumeUnit, by.AssumeUnit)
	over(&p.Better, by.Better)
	over(&p.ChipCode, by.ChipCode)
	over(&p.Help, by.Help)
	p.Deviation = p.Deviation || by.Deviation
	over(&p.Usual, by.Usual)
	over(&p.Under, by.Under)
	p.Signless = p.Signless || by.Signless
	overList(&p.Choices, by.Choices)
	if by.Also != nil {
		p.Also = by.Also
	}
	for _, s := range by.Synonyms {
		if !slices.Contains(p.Synonyms, s) {
			p.Synonyms = append(p.Synonyms, s)
		}
	}
}

func (d *Drawer) amend(by Drawer) {
	for _, f := range [][2]*string{{&d.Label, &by.Label}, {&d.Parent, &by.Parent}, {&d.Prefix, &by.Prefix}, {&d.Designator, &by.Designator}, {&d.Leading, &by.Leading},
		{&d.Case, &by.Case}, {&d.Description, &by.Description}, {&d.Class, &by.Class}, {&d.Name, &by.Name}, {&d.Lifecycle, &by.Lifecycle}, {&d.Models.Symbol, &by.Models.Symbol},
		{&d.Models.LandPattern, &by.Models.LandPattern}, {&d.Models.Body, &by.Models.Body}} {
		over(f[0], *f[1])
	}
	over(&d.Digits, by.Digits)
	for _, f := range [][2]*[]string{{&d.Identity, &by.Identity}, {&d.Search, &by.Search}, {&d.Drawing, &by.Drawing}, {&d.Designer, &by.Designer}, {&d.Columns, &by.Columns}} {
		overList(f[0], *f[1])
	}
	theirs := by.Models.Names.Patterns()
	for kind, own := range d.Models.Names.Patterns() {
		over(own, *theirs[kind])
	}
	if by.Models.LandPatterns != nil {
		d.Models.LandPatterns = by.Models.LandPatterns
	}
	for _, u := range by.Parameters {
		if i := slices.IndexFunc(d.Parameters, func(have Use) bool { return have.Key == u.Key }); i >= 0 {
			d.Parameters[i] = u
		} else {
			d.Parameters = append(d.Parameters, u)
		}
	}
}
