package main

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"net"
	"net/http"
	"os"
	"path"
	"slices"
	"strings"

	ucli "github.com/urfave/cli/v3"

	"jollydrawer/client"
	"jollydrawer/core/crosswalk"
	"jollydrawer/demo"
	"jollydrawer/internal/config"
	"jollydrawer/internal/standin"
	"jollydrawer/internal/standin/market"
	"jollydrawer/internal/wire"
)

// The demo's people sign in with one password: it is printed, and the service listens on loopback only.
const demoPassword = "buoys-and-gauges"

var demoPeople = []wire.NewAccount{
	{Login: "maren", Name: "Maren Holt", Role: "librarian"},
	{Login: "tove", Name: "Tove Lindqvist", Role: "engineer"},
	{Login: "ulla", Name: "Ulla Brandvik", Role: "reader"},
	{Login: "iver", Name: "Iver Dahl", Role: "engineer"},
}

func demoCommand() *ucli.Command {
	return &ucli.Command{Name: "demo", Usage: "run the service with the demo company loaded", Category: "service",
		Description: "Starts the database, the simulated suppliers and the service, loads Estuary Watch Co-operative once, and prints what happened.\n\nExample:\n  jolly demo --once --json",
		Flags: []ucli.Flag{&ucli.BoolFlag{Name: "once", Usage: "print the summary and end"}, &ucli.StringFlag{Name: "listen", Value: "127.0.0.1:8090", Usage: "`ADDRESS` to serve on; where it is taken, a free port"},
			&ucli.StringFlag{Name: "data", Value: ".run/demo", Usage: "`FOLDER` of the demo's database"}},
		Action: func(ctx context.Context, c *ucli.Command) error {
			set := config.Settings{Listen: c.String("listen"), Data: c.String("data"), MaxUploadMB: 128, Lease: 15e9, LogFormat: "text", LogLevel: "warn"}
			if l, err := net.Listen("tcp", set.Listen); err != nil {
				host, _, _ := net.SplitHostPort(set.Listen)
				fmt.Fprintf(c.Root().ErrWriter, "%s is taken; a free port is used instead\n", set.Listen)
				set.Listen = net.JoinHostPort(host, "0")
			} else {
				l.Close()
			}
			if err := os.Setenv("JOLLY_FIRST_PASSWORD", demoPassword); err != nil {
				return err
			}
			log, err := newLogger(set, os.Stderr)
			if err != nil {
				return err
			}
			suppliers, err := standin.Start(demo.Files, "127.0.0.1:8091")
			if err != nil {
				return err
			}
			defer suppliers.Close()
			shops, err := market.Start(demo.Files, "127.0.0.1:8093")
			if err != nil {
				return err
			}
			defer shops.Close()
			post, err := standin.StartPost("127.0.0.1:8092")
			if err != nil {
				return err
			}
			defer post.Close()
			// The simulated suppliers and the receiver of hooks are on this machine.
			set.AllowInside = []string{strings.TrimPrefix(suppliers.URL, "http://"), strings.TrimPrefix(strings.TrimSuffix(post.Hook, "/hook"), "http://"), shops.Host()}
			set.Secrets = market.Secrets
			set.MailServer, set.MailFrom = post.Mail, "library@estuary-watch.example"
			a, err := start(ctx, set, log)
			if err != nil {
				return err
			}
			defer a.close()
			d := demonstration{url: a.url, suppliers: suppliers.URL, market: shops.URL, post: post}
			s, err := d.run(ctx)
			if err != nil {
				return err
			}
			w := c.Root().Writer
			if c.Bool("json") || c.String("as") == "json" {
				e := json.NewEncoder(w)
				e.SetIndent("", "  ")
				if err := e.Encode(s); err != nil {
					return err
				}
			} else {
				s.print(w)
			}
			if c.Bool("once") {
				return nil
			}
			fmt.Fprintln(c.Root().ErrWriter, "\nServing until you press Ctrl-C.")
			return a.wait(ctx)
		}}
}

// demoSummary is what the demo prints, worked out from the library as it stands.
type demoSummary struct {
	Address  string         `json:"address"`
	Login    string         `json:"login"`
	Password string         `json:"password"`
	Post     string         `json:"post"`   // where mail and calls of hooks arrive
	Loaded   bool           `json:"loaded"` // now, not by an earlier run
	Intakes  []demoIntake   `json:"intakes"`
	Waiting  []string       `json:"waiting"` // intakes that nobody has taken in
	Parts    int            `json:"parts"`
	Released int            `json:"released"`
	Drafts   int            `json:"drafts"`
	InReview int            `json:"inReview"`
	BOMs     []demoBOM      `json:"boms"`
	Obsolete int            `json:"obsolete"`
	Models   int            `json:"models"`
	Drawers  map[string]int `json:"drawers"`
}

type demoIntake struct {
	Number   string         `json:"number"`
	Supplier string         `json:"supplier"`
	File     string         `json:"file"`
	Counts   map[string]int `json:"counts"`
}

type demoBOM struct {
	Name   string         `json:"name"`
	Lines  int            `json:"lines"`
	Counts map[string]int `json:"counts"`
	Finds  int            `json:"findings"`

	Revision int    `json:"revision"`           // the newest that is frozen; 0: none
	Boards   int64  `json:"boards,omitempty"`   // of its build
	Sum      string `json:"sum,omitempty"`      // what they came to
	Unpriced int    `json:"unpriced,omitempty"` // parts and lines that are not in the sum
}

func (s demoSummary) print(w io.Writer) {
	p := func(format string, args ...any) { fmt.Fprintf(w, format+"\n", args...) }
	if s.Loaded {
		p("Estuary Watch Co-operative was loaded:")
	} else {
		p("Estuary Watch Co-operative was loaded by an earlier run and is as it was left:")
	}
	for _, i := range s.Intakes {
		p("  imported    %s from %s: %d new, %d known, %d repeated, %d left out because they cannot be taken in", i.File, i.Supplier, i.Counts["new"], i.Counts["known"], i.Counts["repeat"], i.Counts["blocked"]+i.Counts["unsorted"])
	}
	for _, w := range s.Waiting {
		p("  waiting     %s: an old library as it came, to be mapped and mended", w)
	}
	p("  library     %d parts in %d drawers, %d models", s.Parts, len(s.Drawers), s.Models)
	p("  released    %d parts; %d are drafts still; %d wait for a second person; %d are obsolete", s.Released, s.Drafts, s.InReview, s.Obsolete)
	for _, b := range s.BOMs {
		p("  reconciled  %s: %d lines: %d linked, %d proposed, %d several, %d not in the library, %d not fitted; %d findings", b.Name, b.Lines,
			b.Counts["linked"], b.Counts["proposed"], b.Counts["several"], b.Counts["not in the library"], b.Counts["not fitted"], b.Finds)
	}
	for _, b := range s.BOMs {
		if b.Revision > 0 {
			p("  frozen      %s revision %d: %d boards came to %s, without %d parts and lines that nobody sells", b.Name, b.Revision, b.Boards, b.Sum, b.Unpriced)
		}
	}
	p("\nThe console is at %s", s.Address)
	p("Sign in as %s (librarian), tove or iver (engineers), ulla (reader) or admin, password %s", s.Login, s.Password)
	p("Mail that was sent is at %s/letters, calls of hooks at %s/calls", s.Post, s.Post)
	p("On the command line: JOLLY_PASSWORD=%s bin/jolly sign-in --server %s %s", s.Password, s.Address, s.Login)
}

// demonstration does the main job through the API, as a person with the command line would.
type demonstration struct {
	url, suppliers, market string
	k, admin               *client.Client
	post                   *standin.Post
}

func (d *demonstration) run(ctx context.Context) (demoSummary, error) {
	admin := client.New(d.url, "")
	if _, err := admin.SignIn(ctx, "admin", demoPassword, "demo", 1); err != nil {
		return demoSummary{}, fmt.Errorf("signing in to the demo: %w (its folder may belong to another installation: choose another with --data)", err)
	}
	accounts, err := admin.Accounts(ctx)
	if err != nil {
		return demoSummary{}, err
	}
	have := map[string]bool{}
	for _, a := range accounts {
		have[a.Login] = true
	}
	for _, p := range demoPeople {
		if !have[p.Login] {
			p.Password = demoPassword
			if _, err := admin.AddAccount(ctx, p); err != nil {
				return demoSummary{}, err
			}
		}
	}
	d.admin = admin
	d.k = client.New(d.url, "")
	if _, err := d.k.SignIn(ctx, "maren", demoPassword, "demo", 1); err != nil {
		return demoSummary{}, err
	}
	boms, err := d.k.BOMs(ctx, 0, 10)
	if err != nil {
		return demoSummary{}, err
	}
	fresh := boms.Page.Total < len(demoBOMs) // the BOMs are among the last steps: a run that was cut off goes on where it was
	if fresh {
		for _, step := range []func(context.Context) error{d.lifecycles, d.cabinet, d.groups, d.models, d.intakes, d.attach, d.release, d.watches, d.standing, d.oldLibrary, d.deliveries, d.reviews, d.boms, d.wants, d.offers, d.freeze} {
			if err := step(ctx); err != nil {
				return demoSummary{}, fmt.Errorf("loading the demo: %w", err)
			}
		}
	}
	if !fresh {
		if err := d.connections(ctx); err != nil {
			return demoSummary{}, err
		}
	}
	if err := d.trust(ctx); err != nil {
		return demoSummary{}, err
	}
	return d.summary(ctx, fresh)
}

func read(name string) (string, error) {
	raw, err := demo.Files.ReadFile(name)
	return string(raw), err
}

func (d *demonstration) cabinet(ctx context.Context) error {
	text, err := read("cabinet.yaml")
	if err != nil {
		return err
	}
	// The file stands by itself, for whoever applies it alone; here the second look is in force already.
	text = strings.Replace(text, "{ key: spacers, prefix: EW-M }", "{ key: spacers, prefix: EW-M, lifecycle: second-look }\n  - { key: regulators, lifecycle: second-look }", 1)
	now, err := d.k.Cabinet(ctx)
	if err != nil || now.Revision > 0 {
		return err
	}
	if _, err := d.k.ApplyCabinet(ctx, now.Version, text); err != nil {
		return err
	}
	for _, name := range []string{"marsh-lane", "harbour-finch", "northquay"} {
		if text, err = read("crosswalks/" + name + ".yaml"); err != nil {
			return err
		}
		if _, err := d.k.ApplyCrosswalk(ctx, 0, text); err != nil {
			return err
		}
	}
	return nil
}

// fetch takes a file from the simulated suppliers and keeps it.
func (d *demonstration) fetch(ctx context.Context, folder, name string) (wire.File, error) {
	r, err := http.NewRequestWithContext(ctx, http.MethodGet, d.suppliers+"/"+folder+"/"+name, nil)
	if err != nil {
		return wire.File{}, err
	}
	res, err := http.DefaultClient.Do(r)
	if err != nil {
		return wire.File{}, err
	}
	defer res.Body.Close()
	if res.StatusCode != http.StatusOK {
		return wire.File{}, fmt.Errorf("the simulated supplier has no %s", name)
	}
	return d.k.Upload(ctx, name, res.Body)
}

func (d *demonstration) intakes(ctx context.Context) error {
	have, err := d.k.Intakes(ctx, 0, 100)
	if err != nil {
		return err
	}
	done := map[string]bool{}
	for _, i := range have.Items {
		if i.State == "taken in" {
			done[i.FileName] = true
		}
	}
	for _, s := range []struct{ file, doc string }{{"marsh-lane.csv", "marsh-lane"}, {"harbour-finch.txt", "harbour-finch"}, {"northquay.xlsx", "northquay"}} {
		if done[s.file] {
			continue
		}
		text, err := read("crosswalks/" + s.doc + ".yaml")
		if err != nil {
			return err
		}
		cw, err := crosswalk.Parse([]byte(text))
		if err != nil {
			return err
		}
		f, err := d.fetch(ctx, "suppliers", s.file)
		if err != nil {
			return err
		}
		i, err := d.k.OpenIntake(ctx, wire.NewIntake{Supplier: cw.Supplier, FileHash: f.Hash, FileName: f.Name})
		if err != nil {
			return err
		}
		j, err := d.k.TakeIn(ctx, i.ID, i.Version, "", wire.TakeIn{Digest: i.Digest, LeaveBlocked: true})
		if err == nil {
			j, err = d.k.WaitJob(ctx, j.ID, nil)
		}
		if err != nil {
			return err
		}
		if j.TakenIn == nil {
			return errors.New(j.Error)
		}
	}
	return nil
}

// release releases every draft that is complete, except two drawers that wait for their checker.
func (d *demonstration) release(ctx context.Context) error {
	var bases []wire.PartBase
	l, err := d.k.Parts(ctx, client.PartQuery{Status: []string{"draft"}, Limit: 1000})
	if err != nil {
		return err
	}
	for _, row := range l.Items {
		if row.Drawer == "regulators" || row.Drawer == "spacers" {
			continue
		}
		p, err := d.k.Part(ctx, row.ID)
		if err != nil {
			return err
		}
		ready := true
		for _, f := range p.Newest().Findings {
			ready = ready && f.Severity != "error"
		}
		if ready {
			bases = append(bases, wire.PartBase{ID: p.ID, Version: p.Version})
		}
	}
	for len(bases) > 0 {
		n := min(len(bases), 200)
		if _, err := d.k.ReleaseMany(ctx, wire.BulkRelease{Note: "first stock of the library", Parts: bases[:n]}); err != nil {
			return err
		}
		bases = bases[n:]
	}
	return nil
}

func (d *demonstration) standing(ctx context.Context) error {
	for mpn, to := range map[string]wire.Standing{
		"KLE-470-16":    {Standing: "obsolete", Why: "Kelpline ends the series in spring 2027"},
		"CUT485-SO8":    {Standing: "obsolete", Why: "withdrawn by its maker"},
		"TW-1206-22R-J": {Standing: "not for new designs", Why: "use the 1 % part"},
	} {
		l, err := d.k.Parts(ctx, client.PartQuery{Text: mpn, Limit: 1})
		if err != nil || len(l.Items) == 0 {
			return errors.Join(err, fmt.Errorf("%s is not there", mpn))
		}
		if p := l.Items[0]; p.Standing == "active" {
			if _, err := d.k.SetStanding(ctx, p.ID, p.Version, to); err != nil {
				return err
			}
		}
	}
	return nil
}

type demoBoard struct{ name, file, origin string }

// nextFile is the first board as the designer sent it next.
var nextFile = demoBoard{"Tide logger rev C", "tide-logger-c.csv", "Harbour office"}

var demoBOMs = []demoBoard{{"Tide logger rev B", "tide-logger.csv", "Harbour office"}, {"Radar head rev A", "radar-head.csv", "North pier"}, {"Solar charger rev C", "solar-charger.xlsx", ""}, {"Mooring light rev A", "mooring-light.csv", "North pier"}}

func (d *demonstration) boms(ctx context.Context) error {
	for n, x := range demoBOMs {
		if _, err := d.k.BOM(ctx, x.name); err == nil {
			continue
		}
		b, err := d.bom(ctx, x)
		if err != nil {
			return err
		}
		if n > 0 {
			continue // the proposals of the others are left for a person
		}
		var in wire.BOMChoices
		for _, l := range b.Lines {
			if l.Verdict == "proposed" && len(l.Findings) == 0 || l.Verdict == "proposed" && onlyNotes(l) {
				in.Choose = append(in.Choose, wire.BOMChoice{Row: l.Row, Part: l.Part.ID, Learn: wire.LearnLink}) // the next file of the board says the same
			}
		}
		if _, err := d.k.ChooseBOM(ctx, b.ID, b.Version, in); err != nil {
			return err
		}
	}
	return nil
}

// bom brings a BOM in.
func (d *demonstration) bom(ctx context.Context, b demoBoard) (wire.BOM, error) {
	text, err := read(path.Join("boms", b.file))
	if err != nil {
		return wire.BOM{}, err
	}
	f, err := d.k.Upload(ctx, b.file, strings.NewReader(text))
	if err != nil {
		return wire.BOM{}, err
	}
	return d.k.BringBOM(ctx, wire.NewBOM{Name: b.name, Origin: b.origin, FileHash: f.Hash, FileName: f.Name})
}

func onlyNotes(l wire.BOMLine) bool {
	for _, f := range l.Findings {
		if f.Severity != "note" {
			return false
		}
	}
	return true
}

// oldLibrary opens an intake for another site's old library and leaves it as it came, for people to map and mend.
func (d *demonstration) oldLibrary(ctx context.Context) error {
	have, err := d.k.Intakes(ctx, 0, 100)
	if err != nil {
		return err
	}
	for _, i := range have.Items {
		if i.FileName == "jetty-workshop.csv" {
			return nil
		}
	}
	f, err := d.fetch(ctx, "old-library", "jetty-workshop.csv")
	if err == nil {
		_, err = d.k.OpenIntake(ctx, wire.NewIntake{Supplier: "Jetty workshop", FileHash: f.Hash, FileName: f.Name})
	}
	return err
}

func (d *demonstration) summary(ctx context.Context, fresh bool) (demoSummary, error) {
	s := demoSummary{Address: d.url, Post: strings.TrimSuffix(d.post.Hook, "/hook"), Login: "maren", Password: demoPassword, Loaded: fresh, Intakes: []demoIntake{}, Waiting: []string{}, BOMs: []demoBOM{}}
	intakes, err := d.k.Intakes(ctx, 0, 100)
	if err != nil {
		return s, err
	}
	for n := len(intakes.Items) - 1; n >= 0; n-- {
		i := intakes.Items[n]
		if i.State == "open" {
			s.Waiting = append(s.Waiting, i.Number+" "+i.Supplier)
		}
		if i.State == "taken in" {
			s.Intakes = append(s.Intakes, demoIntake{i.Number, i.Supplier, i.FileName, i.Counts})
		}
	}
	l, err := d.k.Parts(ctx, client.PartQuery{Limit: 1, Facets: true})
	if err != nil {
		return s, err
	}
	s.Parts, s.Drawers = l.Page.Total, l.Drawers
	for _, f := range l.Facets {
		for _, v := range f.Values {
			switch f.Key + " " + v.Value {
			case "status released":
				s.Released = v.Parts
			case "status in review":
				s.InReview = v.Parts
			case "standing obsolete":
				s.Obsolete = v.Parts
			}
		}
	}
	s.Drafts = s.Parts - s.Released - s.InReview // a draft beside a released revision is counted as released
	models, err := d.k.Models(ctx, "", "", "", 0, 1)
	if err != nil {
		return s, err
	}
	s.Models = models.Page.Total
	for _, x := range append(slices.Clone(demoBOMs), nextFile) {
		b, err := d.k.BOM(ctx, x.name)
		if e := new(client.Error); errors.As(err, &e) && e.Status == http.StatusNotFound { // of a library that an earlier version loaded
			continue
		}
		if err != nil {
			return s, err
		}
		one := demoBOM{Name: b.Name, Lines: len(b.Lines), Counts: b.Counts, Finds: b.Findings, Revision: b.Revision}
		if b.Revision > 0 {
			f, err := d.k.BOMRevision(ctx, b.ID, b.Revision)
			if err != nil {
				return s, err
			}
			if f.Cost != nil {
				one.Boards, one.Sum, one.Unpriced = f.Cost.Boards, f.Cost.Sum.String(), len(f.Cost.Unbought)
			}
		}
		s.BOMs = append(s.BOMs, one)
	}
	return s, nil
}
