package cabinet

import _ "embed" // for the schema

// Schema is the JSON Schema (draft 2020-12) of cabinet documents.
//
//go:embed schema.json
var Schema string
