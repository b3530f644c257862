package bom

import (
	"fmt"
	"strings"

	"jollydrawer/core/decision"
	"jollydrawer/core/finding"
	"jollydrawer/core/lookup"
	"jollydrawer/core/part"
)

// LongestEnding is how many letters and digits a packing may have behind an MPN.
const LongestEnding = 4

// Ending is what an MPN of a line has more than the record's: the packing that a maker names, as far as somebody confirmed
// that it is one; otherwise it may as well be a tolerance or a temperature range.
type Ending struct {
	Maker   string `json:"maker"`
	Letters string `json:"letters"`
}

// Of is what a decision about the ending hangs on.
func (e Ending) Of() decision.Record {
	return decision.Record{Kind: decision.Ending, About: part.NormaliseMaker(e.Maker), Evidence: part.NormaliseMPN(e.Letters)}
}

// withoutEnding looks for an MPN less its last letters: "TW-0805-4K7-TR", "TW-0805-4K7/R".
func (m *matcher) withoutEnding(mpn string) []*lookup.Entry {
	s := strings.TrimSpace(mpn)
	for cut := 1; cut <= LongestEnding && len(s)-cut >= 5; cut++ {
		if es := m.lib.ByMPN(s[:len(s)-cut]); len(es) > 0 {
			return es
		}
	}
	return nil
}

// endings lists what an MPN has more than those of a record, with their makers.
func endings(e *lookup.Entry, mpn string) (out []Ending) {
	key := part.NormaliseMPN(mpn)
	for _, s := range e.Sources {
		if own := part.NormaliseMPN(s.MPN); own != "" && len(key) > len(own) && strings.HasPrefix(key, own) && len(key)-len(own) <= LongestEnding {
			out = append(out, Ending{s.Manufacturer, key[len(own):]})
		}
	}
	return out
}

// packed says who confirmed that an MPN is a record's in another packing. Every source that it may be of has to be
// confirmed, and where the line names a maker, it has to be that of one.
func (m *matcher) packed(l Line, e *lookup.Entry) (who string, ok bool) {
	all := endings(e, l.MPN)
	named := l.Manufacturer == ""
	for _, x := range all {
		d := m.packings[x.Of().Key()]
		if d == nil {
			return "", false
		}
		who = d.By
		named = named || part.NormaliseMaker(x.Maker) == part.NormaliseMaker(l.Manufacturer)
	}
	return who, len(all) > 0 && named
}

// asksForEnding notes that a confirmed ending would do more than this line, once: a person says it for the maker.
func (m *matcher) asksForEnding(v *Verdict) {
	if v.Part == nil || v.Kind != Proposed || v.Line.MPN == "" || len(m.lib.ByMPN(v.Line.MPN)) > 0 {
		return
	}
	for _, x := range endings(v.Part, v.Line.MPN) {
		if m.packings[x.Of().Key()] == nil {
			v.Ending = &x
			v.say(finding.Note, "ending", fmt.Sprintf("the MPN ends in %s, and that of %s does not", x.Letters, v.Part.Number), fmt.Sprintf("confirm %s for all of %s, where it names a packing and nothing else", x.Letters, x.Maker))
			return
		}
	}
}

// packings are the confirmed endings, by what they hang on.
func packings(list []decision.Record) map[string]*decision.Record {
	out := map[string]*decision.Record{}
	for _, d := range list {
		if d.Kind == decision.Ending {
			out[d.Key()] = &d
		}
	}
	return out
}
