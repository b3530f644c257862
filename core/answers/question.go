package answers

import (
	"maps"
	"slices"
	"strings"

	"jollydrawer/core/cabinet"
	"jollydrawer/core/connection"
	"jollydrawer/core/crosswalk"
	"jollydrawer/core/lookup"
	"jollydrawer/core/measure"
)

// Question is how a supplier is asked for facts: by its filters, where it has any, the crosswalk joins them to our parameters and every fact is certain,
// else by words, which suppliers take less strictly. A comparison that no words say is asked for by its filter all the same. What a supplier is not
// asked for (an alternative, what must not be) is left to the reader of its answers; it is never asked for more than was asked.
func Question(d *connection.Document, cw crosswalk.Crosswalk, cab *cabinet.Cabinet, told []lookup.Told, text string) connection.Question {
	q := connection.Question{Kind: connection.ByFacts}
	_, filters := d.Ask[connection.ByFacts]
	certain, compared := filters, false
	var rest, words []string
	for _, t := range told {
		if t.Words != "" {
			words = append(words, t.Words)
		}
		if class := kindFor(cw, t.Drawers); class != "" && q.Class == "" {
			q.Class = class
		} else if facts := written(d, cw, cab, t); facts != nil {
			q.Facts = append(q.Facts, facts...)
			compared = compared || t.Words == ""
		} else if t.Words != "" {
			rest = append(rest, t.Words)
			certain = certain && len(t.Drawers) > 0
		}
	}
	if filters && len(q.Facts) > 0 && (certain || compared) {
		q.Words = strings.Join(rest, " ")
		return q
	}
	q = connection.Question{Kind: connection.Words, Words: strings.Join(words, " ")}
	if q.Words == "" {
		q.Words = text
	}
	return q
}

// kindFor is the supplier's one word for a kind of part; blank where it has none, or several.
func kindFor(cw crosswalk.Crosswalk, drawers []string) (class string) {
	if len(drawers) == 0 {
		return ""
	}
	for _, k := range slices.Sorted(maps.Keys(cw.Kinds)) {
		if slices.Contains(drawers, cw.Kinds[k]) {
			if class != "" {
				return ""
			}
			class = k
		}
	}
	return class
}

// written is a fact as the supplier's filters are written; nil where it has none for it, or where it is not certain which field is meant.
func written(d *connection.Document, cw crosswalk.Crosswalk, cab *cabinet.Cabinet, t lookup.Told) (out []string) {
	rule, ok := ruleFor(d, cw, cab, t)
	if !ok {
		return nil
	}
	put := func(form, text string) bool {
		if form == "" || text == "" {
			return false
		}
		out = append(out, strings.NewReplacer("{field}", rule.From, "{text}", text).Replace(form))
		return true
	}
	if !t.Measured() {
		text := t.Text
		for _, theirs := range slices.Sorted(maps.Keys(rule.Words)) { // the supplier's word for ours
			if strings.EqualFold(rule.Words[theirs], t.Text) {
				text = theirs
				break
			}
		}
		if !put(d.Facts.Equals, text) {
			return nil
		}
		return out
	}
	unit := d.Facts.Units[rule.From]
	if unit == "" {
		unit = rule.Unit
	}
	low, high := inUnit(t.From, unit), inUnit(t.To, unit)
	if t.From == t.To {
		if !put(d.Facts.Equals, low) {
			return nil
		}
		return out
	}
	if !t.From.IsZero() && !put(d.Facts.Least, low) || !t.To.IsZero() && !put(d.Facts.Most, high) {
		return nil
	}
	return out
}

// inUnit writes a value as a bare number of a unit, or with its own where there is none; blank where it does not come out even.
func inUnit(m measure.Measure, unit string) string {
	if m.IsZero() || unit == "" {
		return m.Bare().String()
	}
	text, ok := m.Bare().In(unit)
	if !ok {
		return ""
	}
	return strings.TrimSuffix(text, " "+unit)
}

// ruleFor finds the one field of the supplier that says a fact.
func ruleFor(d *connection.Document, cw crosswalk.Crosswalk, cab *cabinet.Cabinet, t lookup.Told) (rule crosswalk.Rule, ok bool) {
	of := map[string]bool{} // parameters that may be meant
	for _, r := range cw.Fields {
		p, there := cab.Parameter(r.To)
		if !there || r.From == "" || r.Piece != nil || r.End != "" || len(d.Facts.Fields) > 0 && !slices.Contains(d.Facts.Fields, r.From) {
			continue
		}
		switch {
		case t.Param != "" && t.Param != r.To:
		case t.Param == "" && (!t.Measured() || p.Of != t.Dim.String()):
		case of[r.To]: // a second field of the same: the first is its filter
		default:
			of[r.To] = true
			rule, ok = r, len(of) == 1
		}
	}
	if t.Param == "" && ok { // another parameter of that dimension may be meant, which the supplier has no filter for
		for _, p := range cab.Document.Parameters {
			if p.Of == t.Dim.String() && p.Key != rule.To && reads(cw, p.Key) {
				return rule, false
			}
		}
	}
	return rule, ok && len(of) == 1
}

// reads says whether a crosswalk fills a parameter.
func reads(cw crosswalk.Crosswalk, key string) bool {
	return slices.ContainsFunc(cw.Fields, func(r crosswalk.Rule) bool { return r.To == key })
}
