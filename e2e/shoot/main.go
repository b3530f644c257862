// Command shoot takes the pictures in docs/screenshots from a running demo: make screenshots.
package main

import (
	"flag"
	"fmt"
	"log"
	"os"
	"path/filepath"
	"strings"

	"jollydrawer/e2e/browser"
)

// pictures are the pages, with what is pressed before the picture is taken.
var pictures = []struct{ name, path, press string }{
	{"parts", "/parts?q=4k7", ""},
	{"parts-drawer", "/parts?drawer=ceramic-capacitors&sort=capacitance", ""},
	{"part", "/parts/EW-R-00045", ""},
	{"part-edit", "/parts/EW-R-00045", "Edit"},
	{"intakes", "/intakes", ""},
	{"boms", "/boms", ""},
	{"bom", "/boms/Radar%20head%20rev%20A", ""},
	{"bom-line", "/boms/Radar%20head%20rev%20A?verdict=several", "R74"},
	{"models", "/models", ""},
	{"model", "/models?q=Resistor", "Resistor"},
	{"cabinet", "/cabinet?drawer=chip-resistors", ""},
	{"crosswalks", "/crosswalks", ""},
}

func main() {
	base := flag.String("base", "http://127.0.0.1:8090", "where the demo runs")
	out := flag.String("out", "docs/screenshots", "folder for the pictures")
	only := flag.String("only", "", "only pictures whose name contains this")
	width := flag.Int("width", 1280, "of the window")
	theme := flag.String("theme", "light", "light or dark")
	path := flag.String("path", "", "one picture of this path instead, named by -only")
	press := flag.String("press", "", "with -path: texts to press first, parted by |")
	flag.Parse()
	b, stop, err := browser.Open(*base, *width)
	check(err)
	defer stop()
	check(os.MkdirAll(*out, 0o755))
	check(b.SignIn("maren", "buoys-and-gauges", *theme))
	if *path != "" {
		take(b, *out, *only, *path, *press)
		return
	}
	for _, p := range pictures {
		if strings.Contains(p.name, *only) {
			take(b, *out, p.name, p.path, p.press)
		}
	}
}

func take(b *browser.Browser, out, name, path, press string) {
	check(b.Go(path))
	for _, text := range strings.FieldsFunc(press, func(r rune) bool { return r == '|' }) {
		check(b.PressText(text))
	}
	check(b.Shot(filepath.Join(out, name+".png")))
	fmt.Println(name)
}

func check(err error) {
	if err != nil {
		log.Fatal(err)
	}
}
