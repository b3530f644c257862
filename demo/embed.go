// Package demo holds the files of the demo company, Estuary Watch Co-operative, as they would arrive: supplier exports,
// crosswalks, BOMs, datasheets and model files. Company, suppliers, manufacturers and numbers are made up.
package demo

import "embed"

// Files holds everything in this folder.
//
//go:embed *.yaml *.xlsx suppliers crosswalks boms datasheets models old-library deliveries lifecycles connections
var Files embed.FS
