package bom

import (
	"slices"

	"jollydrawer/core/lookup"
)

// Readiness is how far a BOM is from a board that can be built: of how many of its lines each holds. Lines that are not fitted are left out.
type Readiness struct {
	Lines      int `json:"lines" doc:"That are fitted"`
	Linked     int `json:"linked"`
	Released   int `json:"released" doc:"Linked to a record that is released and may be used without caution"`
	Production int `json:"production" doc:"At least one source is in production, as suppliers say"`
	Several    int `json:"several" doc:"More than one source"`
	InStock    int `json:"inStock" doc:"Suppliers have enough for the build"`
	Models     int `json:"models" doc:"Symbol, land pattern and a body of its own are there"`
	Datasheet  int `json:"datasheet"`
}

// Ready counts the lines of a BOM by how ready they are. made says whether a source of a part is in production, there whether there is enough of it for the build.
func Ready(lines []Pinned, lib Library, made, there func(id string) bool) (out Readiness) {
	for i := range lines {
		l := &lines[i]
		if l.NotFitted || l.NoPart || l.Assembly {
			continue
		}
		out.Lines++
		if l.Part == nil {
			continue
		}
		out.Linked++
		e, ok := lib.ByID(l.Part.ID)
		if !ok {
			continue
		}
		count := func(n *int, is bool) {
			if is {
				*n++
			}
		}
		count(&out.Released, l.Part.Revision > 0 && e.Flag == "")
		count(&out.Production, made(e.ID))
		count(&out.Several, len(e.Sources) > 1)
		count(&out.InStock, there(e.ID))
		count(&out.Models, complete(e))
		count(&out.Datasheet, !slices.Contains(e.Missing, "datasheet"))
	}
	return out
}

// complete says whether a part has all of its models, and no stand-in.
func complete(e *lookup.Entry) bool {
	return len(modelsMissing(e)) == 0
}

// modelsMissing are the models that a part has none of, or only a stand-in.
func modelsMissing(e *lookup.Entry) (out []string) {
	for _, m := range e.Missing {
		if m != "datasheet" && m != "source" {
			out = append(out, m)
		}
	}
	return out
}
