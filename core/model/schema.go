package model

import (
	"encoding/json"
	"reflect"
	"sort"
	"strings"
)

// enums are the values that a field may have, by the schema's name of the field.
var enums = map[string][]string{
	"Pin.type": PinTypes, "Pin.runs": {Right, Left, Up, Down}, "Pad.shape": PadShapes, "density": Densities, "mounting": Mountings,
	"Shape.form": {string(Line), string(Arc), string(Circle), string(Rectangle), string(Polygon), string(Text)}, "Shape.purpose": {string(Courtyard), string(Assembly), string(Silkscreen)},
}

// Schema is the JSON Schema (draft 2020-12) of all documents of our own form, made of the types that read them.
func Schema() ([]byte, error) {
	defs := map[string]any{}
	var formats []string
	for f := range Documents {
		formats = append(formats, f)
	}
	sort.Strings(formats)
	var all []any
	for _, f := range formats {
		doc := object(reflect.TypeOf(Documents[f]), "", defs)
		doc["title"] = f
		doc["properties"].(map[string]any)["format"] = map[string]string{"const": f}
		all = append(all, doc)
	}
	schema := map[string]any{"$schema": "https://json-schema.org/draft/2020-12/schema", "title": "Documents of models", "$defs": defs,
		"oneOf": append(all, map[string]any{"title": LibraryFormat, "type": "object", "required": []string{"format", "models"},
			"properties": map[string]any{"format": map[string]string{"const": LibraryFormat}, "models": map[string]any{"type": "array", "items": map[string]string{"$ref": "#"}}}})}
	return json.MarshalIndent(schema, "", " ")
}

// object describes a struct; those that are met inside go into defs under their own name.
func object(t reflect.Type, name string, defs map[string]any) map[string]any {
	properties, required := map[string]any{}, []string{}
	for i := range t.NumField() {
		f := t.Field(i)
		tag, options, _ := strings.Cut(f.Tag.Get("json"), ",")
		if f.Anonymous && tag == "" {
			inner := object(f.Type, name, defs)
			for k, v := range inner["properties"].(map[string]any) {
				properties[k] = v
			}
			required = append(required, inner["required"].([]string)...)
			continue
		}
		s := describe(f.Type, defs)
		key := tag
		if name != "" {
			key = name + "." + tag
		}
		if e := enums[key]; e != nil {
			s = map[string]any{"enum": e}
		}
		properties[tag] = s
		if options == "" {
			required = append(required, tag)
		}
	}
	return map[string]any{"type": "object", "properties": properties, "required": required, "additionalProperties": false}
}

func describe(t reflect.Type, defs map[string]any) any {
	switch {
	case t == reflect.TypeFor[Length]():
		return map[string]any{"type": []string{"string", "number"}, "description": "length in mm, or with its unit"}
	case t == reflect.TypeFor[Angle]():
		return map[string]any{"type": []string{"string", "number"}, "description": "angle in degrees, counter-clockwise"}
	}
	switch t.Kind() {
	case reflect.Pointer:
		return describe(t.Elem(), defs)
	case reflect.Slice:
		return map[string]any{"type": "array", "items": describe(t.Elem(), defs)}
	case reflect.Map:
		return map[string]any{"type": "object", "additionalProperties": describe(t.Elem(), defs)}
	case reflect.Struct:
		if defs[t.Name()] == nil {
			defs[t.Name()] = true // against a type that holds itself
			defs[t.Name()] = object(t, t.Name(), defs)
		}
		return map[string]string{"$ref": "#/$defs/" + t.Name()}
	case reflect.Bool:
		return map[string]string{"type": "boolean"}
	case reflect.Int, reflect.Int32, reflect.Int64:
		return map[string]string{"type": "integer"}
	}
	return map[string]string{"type": "string"}
}
