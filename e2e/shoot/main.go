// Command shoot takes the pictures in docs/screenshots from a running demo: make screenshots.
package main

import (
	"context"
	"errors"
	"flag"
	"fmt"
	"html"
	"log"
	"os"
	"os/exec"
	"path/filepath"
	"strings"

	"github.com/chromedp/chromedp"

	"jollydrawer/client"
	"jollydrawer/core/crosswalk"
	"jollydrawer/e2e/browser"
	"jollydrawer/internal/wire"
)

// pictures are the pages, with what is pressed before the picture is taken.
var pictures = []struct{ name, path, press string }{
	{"parts", "/parts?q=4k7", ""},
	{"parts-drawer", "/parts?drawer=ceramic-capacitors&sort=capacitance", ""},
	{"part", "/parts/EW-R-00045", ""},
	{"part-edit", "/parts/EW-R-00045", "Edit"},
	{"intakes", "/intakes", ""},
	{"paste", "/parts/new?drawer=chip-resistors", ""},
	{"boms", "/boms", ""},
	{"bom", "/boms/Radar%20head%20rev%20A", ""},
	{"bom-line", "/boms/Radar%20head%20rev%20A?verdict=several", "R74"},
	{"models", "/models", ""},
	{"model", "/models?q=Resistor", "Resistor"},
	{"cabinet", "/cabinet?drawer=chip-resistors", ""},
	{"template-change", "/cabinet?drawer=resistors", "Edit…|Try on real parts"},
	{"parts-grouped", "/parts?drawer=chip-resistors&group=case&sort=-resistance", ""},
	{"compare", "/compare?part=EW-R-00044&part=EW-R-00116&part=EW-R-00171", ""},
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
	if strings.Contains("intake-map", *only) || strings.Contains("intake", *only) {
		k := client.New(*base, "")
		_, err := k.SignIn(context.Background(), "maren", "buoys-and-gauges", "pictures", 1)
		check(err)
		id := mappedIntake(k)
		take(b, *out, "intake-map", "/intakes/"+id+"?step=map", "")
		take(b, *out, "intake", "/intakes/"+id+"?step=mend", "looks like another spelling of Tidewright")
	}
	if strings.Contains("command-line", *only) {
		commandLine(b, *base, *out)
	}
}

// mappedIntake maps the demo's old library as far as one does before mending, and returns its identifier.
func mappedIntake(k *client.Client) string {
	ctx := context.Background()
	l, err := k.Intakes(ctx, 0, 100)
	check(err)
	for _, i := range l.Items {
		if i.State != "open" || i.FileName != "jetty-workshop.csv" {
			continue
		}
		i, err = k.Intake(ctx, i.ID)
		check(err)
		if len(i.Changes) == 0 {
			_, err = k.EditIntake(ctx, i.ID, i.Version, wire.IntakeEdit{Suggested: true, Changes: []crosswalk.Change{{Take: map[string]string{"number": "JW No", "datasheet": "Sheet"}},
				{Kinds: map[string]string{"Widerst.": "chip-resistors", "Kerko": "ceramic-capacitors"}}}})
			check(err)
		}
		return i.ID
	}
	log.Fatal("the demo's old library was taken in already: start a fresh demo")
	return ""
}

// commandLine pictures what commands print, set as a terminal would.
func commandLine(b *browser.Browser, base, out string) {
	dir, err := os.MkdirTemp("", "jolly-shoot-")
	check(err)
	defer os.RemoveAll(dir)
	env := append(os.Environ(), "JOLLY_PASSWORD=buoys-and-gauges", "JOLLY_CLIENT_FILE="+filepath.Join(dir, "client.json"))
	run := func(args ...string) string {
		c := exec.Command("bin/jolly", args...)
		c.Env = env
		text, err := c.CombinedOutput()
		var exit *exec.ExitError
		if err != nil && !errors.As(err, &exit) {
			log.Fatal(err)
		}
		return string(text)
	}
	run("sign-in", "--server", base, "maren")
	var page strings.Builder
	page.WriteString(`<meta charset="utf-8"><body style="margin:0;background:#10181b;color:#e8e4da"><pre style="font:13.5px/1.35 'DejaVu Sans Mono',monospace;padding:14px;margin:0">`)
	for _, args := range [][]string{
		{"value", "--of", "capacitance", "100n", "0,1 µF", "1,000 µF", "10 kΩ"}, {"part", "find", "4k7", "0805", "1%"}, {"part", "show", "EW-C-00015"}, {"bom", "show", "Radar head rev A", "--verdict", "proposed"},
	} {
		shown := ""
		for _, a := range args {
			if strings.ContainsAny(a, " ,") {
				a = "'" + a + "'"
			}
			shown += " " + a
		}
		page.WriteString("<b style=\"color:#6cc5c1\">$ jolly" + html.EscapeString(shown) + "</b>\n" + html.EscapeString(run(args...)) + "\n")
	}
	path := filepath.Join(dir, "page.html")
	check(os.WriteFile(path, []byte(page.String()), 0o600))
	check(b.Do(chromedp.Navigate("file://" + path)))
	check(b.Shot(filepath.Join(out, "command-line.png")))
	fmt.Println("command-line")
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
