package wire

import (
	"encoding/json"
	"strconv"

	"jollydrawer/core/lookup"
	"jollydrawer/core/quick"
)

// AppendJSON appends what encoding/json would write for the list, in a third of the time: a page of parts is what is
// asked for most.
func (l PartList) AppendJSON(b []byte) []byte {
	b = strconv.AppendInt(append(b, `{"page":{"offset":`...), int64(l.Page.Offset), 10)
	b = strconv.AppendInt(append(b, `,"limit":`...), int64(l.Page.Limit), 10)
	b = strconv.AppendInt(append(b, `,"total":`...), int64(l.Page.Total), 10)
	b = strconv.AppendInt(append(b, `},"hidden":`...), int64(l.Hidden), 10)
	b = appendAny(append(b, `,"facts":`...), l.Facts)
	b = appendAny(append(b, `,"relax":`...), l.Relax)
	b = appendAny(append(b, `,"drawers":`...), l.Drawers)
	b = appendList(append(b, `,"facets":`...), l.Facets, appendFacet)
	b = appendList(append(b, `,"groups":`...), l.Groups, appendFacetValue)
	b = appendList(append(b, `,"items":`...), l.Items, appendRow)
	return append(b, '}')
}

// appendAny is for the small members, whose types json cannot refuse.
func appendAny(b []byte, v any) []byte {
	raw, err := json.Marshal(v)
	if err != nil {
		panic(err)
	}
	return append(b, raw...)
}

func appendList[T any](b []byte, list []T, one func([]byte, *T) []byte) []byte {
	if list == nil {
		return append(b, "null"...)
	}
	b = append(b, '[')
	for i := range list {
		if i > 0 {
			b = append(b, ',')
		}
		b = one(b, &list[i])
	}
	return append(b, ']')
}

func appendFacet(b []byte, f *lookup.Facet) []byte {
	b = quick.AppendText(append(b, `{"key":`...), f.Key)
	b = quick.AppendText(append(b, `,"label":`...), f.Label)
	b = quick.AppendText(append(b, `,"type":`...), f.Type)
	b = appendList(append(b, `,"values":`...), f.Values, appendFacetValue)
	b = appendList(append(b, `,"steps":`...), f.Steps, appendFacetStep)
	b = strconv.AppendInt(append(b, `,"more":`...), int64(f.More), 10)
	b = strconv.AppendInt(append(b, `,"blank":`...), int64(f.Blank), 10)
	return append(b, '}')
}

func appendFacetValue(b []byte, v *lookup.FacetValue) []byte {
	b = quick.AppendText(append(b, `{"value":`...), v.Value)
	b = strconv.AppendInt(append(b, `,"parts":`...), int64(v.Parts), 10)
	return append(b, '}')
}

func appendFacetStep(b []byte, s *lookup.FacetStep) []byte {
	b = quick.AppendText(append(b, `{"range":`...), s.Range)
	b = quick.AppendText(append(b, `,"label":`...), s.Label)
	b = strconv.AppendInt(append(b, `,"parts":`...), int64(s.Parts), 10)
	return append(b, '}')
}

func appendRow(b []byte, r *PartRow) []byte {
	b = quick.AppendText(append(b, `{"id":`...), r.ID)
	b = quick.AppendText(append(b, `,"number":`...), r.Number)
	b = strconv.AppendInt(append(b, `,"version":`...), int64(r.Version), 10)
	b = quick.AppendText(append(b, `,"drawer":`...), r.Drawer)
	b = quick.AppendText(append(b, `,"name":`...), r.Name)
	b = quick.AppendText(append(b, `,"description":`...), r.Description)
	b = quick.AppendText(append(b, `,"manufacturer":`...), r.Manufacturer)
	b = quick.AppendText(append(b, `,"mpn":`...), r.MPN)
	b = strconv.AppendInt(append(b, `,"sources":`...), int64(r.Sources), 10)
	b = quick.AppendText(append(b, `,"status":`...), r.Status)
	b = quick.AppendText(append(b, `,"standing":`...), r.Standing)
	b = strconv.AppendInt(append(b, `,"revision":`...), int64(r.Revision), 10)
	b = strconv.AppendBool(append(b, `,"hasDraft":`...), r.HasDraft)
	for _, f := range [][2]string{{`,"use":`, r.Use}, {`,"flag":`, r.Flag}, {`,"label":`, r.Label}} {
		if f[1] != "" {
			b = quick.AppendText(append(b, f[0]...), f[1])
		}
	}
	b = appendList(append(b, `,"missing":`...), r.Missing, func(b []byte, m *string) []byte { return quick.AppendText(b, *m) })
	b = append(b, `,"values":{`...)
	for i := range r.Values {
		if i > 0 {
			b = append(b, ',')
		}
		b = quick.AppendText(append(quick.AppendText(b, r.Values[i].Key), ':'), r.Values[i].Text)
	}
	b = append(b, '}')
	if r.Supply != nil {
		b = appendAny(append(b, `,"supply":`...), r.Supply)
	}
	return append(b, '}')
}
