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
	{"part", "/parts/EW-R-00045", ""},
	{"bom", "/boms/Radar%20head%20rev%20A?verdict=findings", ""},
	{"bom-line", "/boms/Tide%20logger%20rev%20B?verdict=proposed", "R36"},
	{"suppliers", "/suppliers?q=4k7%200805%201%25&pieces=250", ""},
	{"model", "/models?q=controller", "controller"},
	{"delivery", "/deliveries/DL-00003", ""},
	{"pins", "/parts/EW-U-00019/pins", ""},
	{"drawing", "/models/land%20pattern:%20SOIC-8%20nominal/draw", ""},
	{"cabinet", "/cabinet?drawer=chip-resistors", ""},
	{"bom-cost", "/boms/Tide%20logger%20rev%20B/cost", ""},
	{"bom-compare", "/boms/Tide%20logger%20rev%20B/compare?revision=1&with=Tide%20logger%20rev%20C", ""},
	{"bom-instead", "/where-used?part=EW-R-00120&instead=1", ""},
	{"worklist", "/", ""},
	{"review", "/queue?all", "EW-M-00002"},
	{"lifecycles", "/lifecycles?name=second-look", ""},
}

func main() {
	base := flag.String("base", "http://127.0.0.1:8090", "where the demo runs")
	out := flag.String("out", "docs/screenshots", "folder for the pictures")
	only := flag.String("only", "", "only pictures whose name contains this")
	width := flag.Int("width", 1280, "of the window")
	who := flag.String("who", "maren", "who signs in")
	theme := flag.String("theme", "light", "light or dark")
	path := flag.String("path", "", "one picture of this path instead, named by -only")
	press := flag.String("press", "", "with -path: texts to press first, parted by |")
	flag.Parse()
	b, stop, err := browser.OpenIn(browser.Chromium, *base, *width)
	check(err)
	defer stop()
	check(os.MkdirAll(*out, 0o755))
	check(b.SignIn(*who, "buoys-and-gauges", *theme))
	if *path != "" {
		take(b, *out, *only, *path, *press)
		return
	}
	k := client.New(*base, "")
	_, err = k.SignIn(context.Background(), "maren", "buoys-and-gauges", "pictures", 1)
	check(err)
	someModels(k)
	someBuild(k)
	for _, p := range pictures {
		if strings.Contains(p.name, *only) {
			take(b, *out, p.name, p.path, p.press)
		}
	}
	if strings.Contains("intake-map", *only) || strings.Contains("intake", *only) {
		id := mappedIntake(k)
		take(b, *out, "intake-map", "/intakes/"+id+"?step=map", "")
		take(b, *out, "intake", "/intakes/"+id+"?step=mend", "is doubtful as Capacitance|Read the field as though it is a marking code")
	}
	if strings.Contains("command-line", *only) {
		commandLine(b, *base, *out)
	}
}

// someBuild says that so many boards are built that suppliers have less of some of their parts, and asks the suppliers.
func someBuild(k *client.Client) {
	ctx := context.Background()
	b, err := k.BOM(ctx, "Radar head rev A")
	check(err)
	if b.Build > 0 {
		return
	}
	_, err = k.BuildBOM(ctx, b.ID, b.Version, wire.BOMBuild{Boards: 20_000})
	check(err)
	j, err := k.RefreshOffers(ctx, wire.RefreshOffers{BOM: b.ID})
	check(err)
	_, err = k.WaitJob(ctx, j.ID, nil)
	check(err)
}

// someModels puts the demo where models have something to show: a symbol of 48 pins, a part whose delivered models have
// not been gone over yet, and the drawings of an old library.
func someModels(k *client.Client) {
	ctx := context.Background()
	const name = "Tide logger controller"
	if _, err := k.Model(ctx, "symbol: "+name); err == nil {
		return
	}
	d, err := k.Delivery(ctx, "DL-00004")
	check(err)
	made, err := k.TrySymbol(ctx, wire.SymbolTry{Pins: d.PinLists[0].Pins})
	check(err)
	m, err := k.MakeModel(ctx, wire.ModelEdit{Kind: "symbol", Name: name, Symbol: made.Symbol})
	check(err)
	_, err = k.ReleaseModel(ctx, m.ID, m.Version, "from the maker's pin table")
	check(err)
	if d, err = k.Delivery(ctx, "DL-00003"); err != nil {
		log.Fatal(err)
	}
	in := wire.UseDelivery{Part: "EW-U-00019", Note: "as delivered"}
	for _, m := range d.Models {
		in.Models = append(in.Models, wire.UsedModel{Key: m.Key})
	}
	_, err = k.UseDelivery(ctx, d.ID, d.Version, in)
	check(err)
	d, err = k.Delivery(ctx, "DL-00001")
	check(err)
	_, err = k.LibraryIntake(ctx, d.ID, d.Version, wire.LibraryIntake{Supplier: "Pier 3", Note: "from the old library of Pier 3"})
	check(err)
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
			i, err = k.EditIntake(ctx, i.ID, i.Version, wire.IntakeEdit{Suggested: true, Changes: []crosswalk.Change{{Take: map[string]string{"number": "JW No", "datasheet": "Sheet"}},
				{Kinds: map[string]string{"Widerst.": "chip-resistors", "Kerko": "ceramic-capacitors"}}}})
			check(err)
		}
		if len(i.Decisions) == 0 {
			i, err = k.EditIntake(ctx, i.ID, i.Version, wire.IntakeEdit{LeaveOut: []int{7, 9}, Cells: []wire.CellEdit{{Row: 139, Field: "Value", Text: "10 nF", Why: "as the reel says"}, {Row: 20, Field: "Value", Text: "47k", Why: "see the drawing"}}})
			check(err)
			_, err = k.EditIntake(ctx, i.ID, i.Version, wire.IntakeEdit{Waive: &wire.WaiveEdit{Cause: "not-preferred:resistance", Why: "a made-to-order value"}})
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
		{"value", "100n", "1,000 µF", "2 A @ 25 °C, 1 A @ 85 °C"}, {"part", "find", "4k7", "0805", "1%"}, {"part", "show", "EW-C-00015"}, {"bom", "line", "Tide logger rev B", "R36"}, {"bom", "show", "Radar head rev A", "--verdict", "proposed"},
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
