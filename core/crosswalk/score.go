package crosswalk

import (
	"fmt"

	"go.yaml.in/yaml/v3"

	"jollydrawer/core/cabinet"
)

// Score counts the fields of a test set: those with a place that were mapped rightly or left open, those without one
// that were left open rightly, and those mapped wrongly, of which some for certain.
type Score struct{ Right, Open, RightlyOpen, Wrong, WrongCertain int }

// Measure suggests a mapping for each list of fields of a test set and counts the outcome. The set is YAML: lists with
// the drawers that the rows are in, and fields with name, sample and the one right answer, "-" where a field has no
// place. wrong says each wrong or open one in words.
func Measure(set []byte, cab *cabinet.Cabinet) (s Score, wrong []string, err error) {
	var lists []struct {
		Drawers []string
		Fields  []struct {
			Name, Right string
			Sample      []string
		}
	}
	if err := yaml.Unmarshal(set, &lists); err != nil {
		return s, nil, fmt.Errorf("the test set cannot be read: %w", err)
	}
	for _, list := range lists {
		var cols []Column
		for _, f := range list.Fields {
			cols = append(cols, Column{f.Name, f.Sample})
		}
		got, sure := map[string]string{}, map[string]bool{}
		for _, g := range Suggest(cols, Known{Cabinet: cab, Drawers: list.Drawers}) {
			if !g.Fact {
				got[g.From], sure[g.From] = g.To, g.Sure == Certain
			}
		}
		for _, f := range list.Fields {
			switch to := got[f.Name]; {
			case to == "" && f.Right == "-":
				s.RightlyOpen++
			case to == "":
				s.Open++
				wrong = append(wrong, fmt.Sprintf("%s was left open, and is %s", f.Name, f.Right))
			case to == f.Right:
				s.Right++
			default:
				s.Wrong++
				if sure[f.Name] {
					s.WrongCertain++
				}
				wrong = append(wrong, fmt.Sprintf("%s became %s, not %s", f.Name, to, f.Right))
			}
		}
	}
	return s, wrong, nil
}
