package main

import (
	"bytes"
	"context"
	readcsv "encoding/csv"
	"encoding/json"
	"encoding/xml"
	"errors"
	"fmt"
	"io"
	"slices"
	"strings"
	"syscall"
	"time"

	"jollydrawer/core/answers"
	"jollydrawer/core/cabinet"
	"jollydrawer/core/connection"
	"jollydrawer/core/crosswalk"
	"jollydrawer/core/intake"
	"jollydrawer/core/money"
	"jollydrawer/demo"
	"jollydrawer/formats/rows"
	"jollydrawer/formats/tabular"
	"jollydrawer/internal/reach"
	"jollydrawer/internal/standin/market"
	"jollydrawer/internal/supplier"
)

// spent is the processor time of this process.
func spent() time.Duration {
	var u syscall.Rusage
	if err := syscall.Getrusage(syscall.RUSAGE_SELF, &u); err != nil {
		return 0
	}
	return time.Duration(u.Utime.Nano() + u.Stime.Nano())
}

// unlimited lets every question out.
type unlimited struct{}

func (unlimited) Take(context.Context, string, connection.Limits) (time.Duration, error) {
	return 0, nil
}

// nothingThere is a library with nothing in it.
type nothingThere struct{}

func (nothingThere) Source(string) (intake.Existing, bool)   { return intake.Existing{}, false }
func (nothingThere) Numbered(string) (intake.Existing, bool) { return intake.Existing{}, false }
func (nothingThere) Makers() []string                        { return nil }
func (nothingThere) Like(string, []string) func(func(string) cabinet.Value) []string {
	return func(func(string) cabinet.Value) []string { return nil }
}

// tradersAnswer is what one simulated supplier answers: some 200 products, in its own form.
type tradersAnswer struct {
	doc   connection.Document
	pages [][]byte
}

// supplierAnswers measures reading, matching and merging what four suppliers answer, beside decoding the same bytes with the standard library.
func supplierAnswers(ctx context.Context) error {
	const products, rounds = 200, 15
	m, err := market.Start(demo.Files, "127.0.0.1:0")
	if err != nil {
		return err
	}
	defer m.Close()
	cab, err := cabinet.New(cabinet.Starter())
	if err != nil {
		return err
	}
	var all []crosswalk.Crosswalk
	var traders []tradersAnswer
	asker := supplier.NewAsker(reach.Guard{Inside: []string{m.Host()}}, func(name string) (string, bool) { s, ok := market.Secrets[name]; return s, ok }, unlimited{})
	for _, name := range []string{"northquay", "harbour-finch", "sandbar", "marsh-lane"} {
		raw, err := demo.Files.ReadFile("connections/" + name + ".yaml")
		if err != nil {
			return err
		}
		one := tradersAnswer{}
		if one.doc, err = connection.Parse(bytes.ReplaceAll(raw, []byte("http://suppliers.invalid"), []byte(m.URL))); err != nil {
			return err
		}
		text, err := demo.Files.ReadFile("crosswalks/" + name + "-answers.yaml")
		if err != nil {
			return err
		}
		cw, err := crosswalk.Parse(text)
		if err != nil {
			return err
		}
		all = append(all, cw)
		if _, ok := one.doc.Ask[connection.List]; ok {
			l, err := asker.List(ctx, &one.doc, "")
			if err != nil {
				return err
			}
			one.pages = [][]byte{[]byte(strings.Join(strings.SplitAfterN(string(l.Raw), "\n", products+2)[:products+1], ""))}
		} else {
			one.doc.Limits.Pages = products / one.doc.PageSize()
			if err := asker.Ask(ctx, &one.doc, connection.Question{Kind: connection.Words, Words: "resistor"}, func(p supplier.Page) error {
				one.pages = append(one.pages, p.Raw)
				return nil
			}); err != nil {
				return err
			}
		}
		traders = append(traders, one)
	}
	var ours, theirs []float64
	n, fit := 0, 0
	for range rounds {
		before := spent()
		var said []answers.Answer
		n = 0
		for i := range traders {
			read, err := traders[i].read()
			if err != nil {
				return err
			}
			n += len(read)
			said = append(said, answers.Answer{Supplier: traders[i].doc.Supplier, Reading: answers.Read(&traders[i].doc, read, all, cab, nothingThere{}), Seen: time.Unix(0, 0)})
		}
		rows := answers.Merge(said, "4k7 0805 1%", func(string) (string, bool) { return "", false }).Rows
		answers.Order(rows, 100, answers.Limits{}, money.Rates{}, "2026-11-27")
		fit = 0
		for _, r := range rows {
			if len(r.Fails) == 0 {
				fit++
			}
		}
		ours = append(ours, (spent() - before).Seconds())
		before = spent()
		for i := range traders {
			if err := traders[i].decode(); err != nil {
				return err
			}
		}
		theirs = append(theirs, (spent() - before).Seconds())
	}
	slices.Sort(ours)
	slices.Sort(theirs)
	a, b := ours[rounds/2], theirs[rounds/2]
	fmt.Printf("suppliers' answers: %d products of four read, matched and merged (%d fit) %.1f ms of processor; the standard decoders alone %.1f ms; %.1f × (at most 4)\n\n", n, fit, a*1000, b*1000, a/b)
	return nil
}

func (a *tradersAnswer) read() (out []connection.Product, err error) {
	if a.doc.Read.Form == "table" {
		r, err := tabular.Open(io.NopCloser(bytes.NewReader(a.pages[0])), int64(len(a.pages[0])), rows.Layout{}, rows.DefaultLimits)
		if err != nil {
			return nil, err
		}
		defer r.Close()
		_, _, _, err = supplier.ReadTable(&a.doc, r, func(_ int, p connection.Product) error {
			out = append(out, p)
			return nil
		})
		return out, err
	}
	r, err := supplier.NewReader(&a.doc, connection.Words)
	if err != nil {
		return nil, err
	}
	for _, raw := range a.pages {
		got, err := r.Read(raw)
		if err != nil {
			return nil, err
		}
		out = append(out, got.Products...)
	}
	return out, nil
}

// decode is the reference: the same bytes through the standard library's decoder of their form.
func (a *tradersAnswer) decode() error {
	for _, raw := range a.pages {
		switch a.doc.Read.Form {
		case "json":
			var v any
			if err := json.Unmarshal(raw, &v); err != nil {
				return err
			}
		case "xml":
			for d := xml.NewDecoder(bytes.NewReader(raw)); ; {
				if _, err := d.Token(); errors.Is(err, io.EOF) {
					break
				} else if err != nil {
					return err
				}
			}
		default:
			r := readcsv.NewReader(bytes.NewReader(raw))
			r.Comma = ';'
			if _, err := r.ReadAll(); err != nil {
				return err
			}
		}
	}
	return nil
}
