// Package web embeds the built console. Before `make console` has run it holds a page that says so.
package web

import (
	"embed"
	"io/fs"
)

//go:embed all:dist
var dist embed.FS

// Dist returns the built files.
func Dist() fs.FS {
	sub, err := fs.Sub(dist, "dist")
	if err != nil {
		panic(err) // the folder is embedded
	}
	return sub
}
