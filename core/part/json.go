package part

import (
	"bytes"
	"encoding/json"
	"maps"
	"slices"
	"strconv"

	"jollydrawer/core/cabinet"
	"jollydrawer/core/quick"
)

// Decode takes the bytes of a stored content apart: what json.Unmarshal comes to, without reflection where the bytes are written as
// documents are (see package document). Its error is that of json.Unmarshal.
func Decode(raw []byte) (Content, error) {
	var c Content
	if c.plain(raw) {
		return c, nil
	}
	c = Content{}
	err := json.Unmarshal(raw, &c)
	return c, err
}

// plain reads a content whose members have their exact names, each once; it is false for any other form.
func (c *Content) plain(raw []byte) bool {
	return members(raw, func(key, v []byte) (ok bool) {
		switch string(key) {
		case "drawer":
			return text(&c.Drawer, v)
		case "name":
			return text(&c.Name, v)
		case "description":
			return text(&c.Description, v)
		case "mapLand":
			return text(&c.MapLand, v)
		case "values":
			c.Values = map[string]cabinet.Value{}
			return members(v, func(key, v []byte) bool {
				var one cabinet.Value
				if string(v) == "null" || one.UnmarshalJSON(v) != nil {
					return false
				}
				c.Values[string(key)] = one
				return true
			})
		case "sources":
			return list(&c.Sources, v, (*Source).plain)
		case "datasheets":
			return list(&c.Datasheets, v, (*File).plain)
		case "datasheetLinks":
			return list(&c.Links, v, text)
		case "symbol":
			return (*Model).plain(put(&c.Symbol), v)
		case "landPattern":
			return (*Model).plain(put(&c.LandPattern), v)
		case "body":
			return (*Model).plain(put(&c.Body), v)
		case "pinMap":
			return (*Model).plain(put(&c.PinMap), v)
		case "otherLandPatterns":
			return list(&c.OtherLands, v, func(o *OtherLand, v []byte) bool {
				return members(v, func(key, v []byte) bool {
					switch string(key) {
					case "for":
						return text(&o.For, v)
					case "model":
						return o.Model.plain(v)
					}
					return false
				})
			})
		case "attachments":
			return list(&c.Attachments, v, func(a *Attachment, v []byte) bool {
				return members(v, func(key, v []byte) bool {
					switch string(key) {
					case "is":
						return text(&a.Is, v)
					case "file":
						return a.File.plain(v)
					}
					return false
				})
			})
		}
		return false
	})
}

func (s *Source) plain(raw []byte) bool {
	return members(raw, func(key, v []byte) bool {
		switch string(key) {
		case "manufacturer":
			return text(&s.Manufacturer, v)
		case "mpn":
			return text(&s.MPN, v)
		case "numbers":
			return list(&s.Numbers, v, func(n *Number, v []byte) bool {
				return members(v, func(key, v []byte) bool {
					switch string(key) {
					case "supplier":
						return text(&n.Supplier, v)
					case "number":
						return text(&n.Number, v)
					}
					return false
				})
			})
		case "unlike":
			s.Unlike = map[string]string{}
			return members(v, func(key, v []byte) bool {
				says, ok := quick.Text(v)
				s.Unlike[string(key)] = says
				return ok
			})
		}
		return false
	})
}

func (f *File) plain(raw []byte) bool {
	return members(raw, func(key, v []byte) bool {
		switch string(key) {
		case "hash":
			return text(&f.Hash, v)
		case "name":
			return text(&f.Name, v)
		}
		return false
	})
}

func (m *Model) plain(raw []byte) bool {
	return members(raw, func(key, v []byte) (ok bool) {
		switch string(key) {
		case "id":
			return text(&m.ID, v)
		case "name":
			return text(&m.Name, v)
		case "revision":
			var err error
			m.Revision, err = strconv.Atoi(string(v))
			return err == nil && strconv.Itoa(m.Revision) == string(v)
		case "standIn":
			m.StandIn = string(v) == "true"
			return m.StandIn || string(v) == "false"
		}
		return false
	})
}

// members calls f with the members of an object whose keys ascend, as those of documents do: none is there twice.
func members(raw []byte, f func(key, value []byte) bool) bool {
	var last []byte
	return quick.Members(raw, func(key, value []byte) bool {
		if last != nil && bytes.Compare(key, last) <= 0 {
			return false
		}
		last = key
		return f(key, value)
	})
}

// list reads the items of a list.
func list[T any](into *[]T, raw []byte, read func(*T, []byte) bool) bool {
	*into = []T{}
	return quick.Items(raw, func(v []byte) bool {
		var one T
		ok := read(&one, v)
		*into = append(*into, one)
		return ok
	})
}

func text(into *string, raw []byte) (ok bool) {
	*into, ok = quick.Text(raw)
	return ok
}

// put makes room for a model.
func put(place **Model) *Model {
	*place = new(Model)
	return *place
}

// AppendCanonical implements document.Writer.
func (c Content) AppendCanonical(b []byte) (out []byte, ok bool) {
	w := writer{b: append(b, '{')}
	if len(c.Attachments) > 0 {
		w.key("attachments")
		items(&w, c.Attachments, func(a *Attachment) {
			w.open()
			w.key("file")
			w.file(&a.File)
			w.member("is", a.Is)
			w.close()
		})
	}
	w.model("body", c.Body)
	if len(c.Links) > 0 {
		w.key("datasheetLinks")
		items(&w, c.Links, func(s *string) { w.text(*s) })
	}
	if len(c.Datasheets) > 0 {
		w.key("datasheets")
		items(&w, c.Datasheets, w.file)
	}
	w.some("description", c.Description)
	w.member("drawer", c.Drawer)
	w.model("landPattern", c.LandPattern)
	w.some("mapLand", c.MapLand)
	w.some("name", c.Name)
	if len(c.OtherLands) > 0 {
		w.key("otherLandPatterns")
		items(&w, c.OtherLands, func(o *OtherLand) {
			w.open()
			w.member("for", o.For)
			w.model("model", &o.Model)
			w.close()
		})
	}
	w.model("pinMap", c.PinMap)
	if len(c.Sources) > 0 {
		w.key("sources")
		items(&w, c.Sources, w.source)
	}
	w.model("symbol", c.Symbol)
	if len(c.Values) > 0 {
		w.key("values")
		w.open()
		for _, key := range slices.Sorted(maps.Keys(c.Values)) {
			w.key(key)
			w.b = c.Values[key].AppendCanonical(w.b)
		}
		w.close()
	}
	w.close()
	return w.b, true
}

// writer appends canonical JSON.
type writer struct{ b []byte }

func (w *writer) open()         { w.b = append(w.b, '{') }
func (w *writer) close()        { w.b = append(w.b, '}') }
func (w *writer) text(s string) { w.b = quick.AppendBare(w.b, s) }

// key begins a member; a comma parts it from the one before.
func (w *writer) key(key string) {
	if w.b[len(w.b)-1] != '{' {
		w.b = append(w.b, ',')
	}
	w.text(key)
	w.b = append(w.b, ':')
}

func (w *writer) member(key, s string) {
	w.key(key)
	w.text(s)
}

// some is a member that is left out where it is blank.
func (w *writer) some(key, s string) {
	if s != "" {
		w.member(key, s)
	}
}

func (w *writer) file(f *File) {
	w.open()
	w.member("hash", f.Hash)
	w.member("name", f.Name)
	w.close()
}

// model is a member that is left out where there is none.
func (w *writer) model(key string, m *Model) {
	if m == nil {
		return
	}
	w.key(key)
	w.open()
	w.member("id", m.ID)
	w.member("name", m.Name)
	w.key("revision")
	w.b = strconv.AppendInt(w.b, int64(m.Revision), 10)
	if m.StandIn {
		w.key("standIn")
		w.b = append(w.b, "true"...)
	}
	w.close()
}

func (w *writer) source(s *Source) {
	w.open()
	w.member("manufacturer", s.Manufacturer)
	w.member("mpn", s.MPN)
	if len(s.Numbers) > 0 {
		w.key("numbers")
		items(w, s.Numbers, func(n *Number) {
			w.open()
			w.member("number", n.Number)
			w.member("supplier", n.Supplier)
			w.close()
		})
	}
	if len(s.Unlike) > 0 {
		w.key("unlike")
		w.open()
		for _, key := range slices.Sorted(maps.Keys(s.Unlike)) {
			w.member(key, s.Unlike[key])
		}
		w.close()
	}
	w.close()
}

// items appends a list.
func items[T any](w *writer, all []T, one func(*T)) {
	w.b = append(w.b, '[')
	for i := range all {
		if i > 0 {
			w.b = append(w.b, ',')
		}
		one(&all[i])
	}
	w.b = append(w.b, ']')
}
