package origin

import (
	"encoding/json"
	"maps"
	"slices"
	"strconv"

	"jollydrawer/core/quick"
)

// AppendAll appends origins by place as a JSON object, byte for byte as encoding/json writes the map: a library has some twenty for
// each of its parts. The error is encoding/json's, of a time that it does not write.
func AppendAll(b []byte, all map[string]Origin) ([]byte, error) {
	b = append(b, '{')
	for i, place := range slices.Sorted(maps.Keys(all)) {
		if i > 0 {
			b = append(b, ',')
		}
		var err error
		if b, err = all[place].append(append(quick.AppendText(b, place), ':')); err != nil {
			return nil, err
		}
	}
	return append(b, '}'), nil
}

func (o Origin) append(b []byte) ([]byte, error) {
	if !o.At.IsZero() { // few were corrected
		raw, err := json.Marshal(o)
		return append(b, raw...), err
	}
	b = append(b, '{')
	text := func(key, s string) {
		if s != "" {
			b = quick.AppendText(append(b, key...), s)
			b = append(b, ',')
		}
	}
	text(`"file":`, o.File)
	text(`"name":`, o.Name)
	if o.Row != 0 {
		b = append(strconv.AppendInt(append(b, `"row":`...), int64(o.Row), 10), ',')
	}
	text(`"field":`, o.Field)
	text(`"written":`, o.Written)
	text(`"rule":`, o.Rule)
	text(`"person":`, o.Person)
	text(`"came":`, o.Came)
	text(`"why":`, o.Why)
	if b[len(b)-1] == ',' {
		b = b[:len(b)-1]
	}
	return append(b, '}'), nil
}
