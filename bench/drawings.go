package main

import (
	"fmt"
	"math"
	"slices"
	"strings"
	"time"

	"jollydrawer/core/model"
	"jollydrawer/core/model/modeltest"
	"jollydrawer/formats/edif"
	"jollydrawer/formats/formatstest"
	"jollydrawer/formats/ibis"
	"jollydrawer/formats/ipc2581"
	"jollydrawer/formats/step"
)

// reading is how many files of a form were read as what they were made from, or with something said, or refused; less counts those that
// came in as something else and said nothing.
type reading struct{ equal, said, refused, less int }

func (r *reading) count(want, got *model.Content, said, wrong int) {
	switch {
	case wrong > 0:
		r.refused++
	case said > 0:
		r.said++
	case model.Same(want, got):
		r.equal++
	default:
		r.less++
	}
}

// readingDrawings reads files that other programs might have written, of which it is known what they hold; every fourth of them holds
// something that no reader here knows.
func readingDrawings(n int) error {
	var land, symbol reading
	harm := func(i int, where string) func(string) string {
		return func(at string) string {
			if i%4 == 3 && at == where {
				return map[bool]string{true: "<Unheard of='1'/>", false: " (unheardOf 1)"}[strings.HasPrefix(where, "P") || where == "LandPattern"]
			}
			return ""
		}
	}
	begin := time.Now()
	for i := range n {
		d := formatstest.NewIPC2581(uint64(i))
		want := &model.Content{Kind: model.KindLand, Land: d.Land()}
		want.Normalise()
		f, err := ipc2581.Read(d.File("L", want.Land, harm(i, []string{"Pad", "LandPattern", "PadStackDef"}[i/4%3])))
		if err != nil {
			return err
		}
		got := &model.Content{Kind: model.KindLand, Land: &model.LandPattern{}}
		said := 0
		if len(f.Packages) > 0 {
			got.Land, said = f.Packages[0].Land, len(f.Packages[0].Said)
			got.Normalise()
		}
		land.count(want, got, said, len(f.Wrong))
	}
	landTook := time.Since(begin)
	begin = time.Now()
	for i := range n {
		d := formatstest.NewEDIF(uint64(i))
		want := &model.Content{Kind: model.KindSymbol, Symbol: d.Symbol()}
		f, err := edif.Read(d.File("S", want.Symbol, harm(i, []string{"port", "portImplementation", "symbol"}[i/4%3])))
		if err != nil {
			return err
		}
		got := &model.Content{Kind: model.KindSymbol, Symbol: &model.Symbol{}}
		said := 0
		if len(f.Cells) > 0 {
			got.Symbol, said = f.Cells[0].Symbol, len(f.Cells[0].Said)
			got.Normalise()
		}
		want.Normalise()
		symbol.count(want, got, said, len(f.Wrong))
	}
	symbolTook := time.Since(begin)
	solid, solidTook, err := readingBodies(n)
	if err != nil {
		return err
	}
	pins, pinsTook := readingPinTables(n)
	lists, listsTook, err := readingIBIS(n)
	if err != nil {
		return err
	}
	fmt.Printf("\n%d files of each form as other programs might write them, of drawings a quarter with something unheard of\n", n)
	for _, r := range []struct {
		form string
		reading
		took time.Duration
	}{{"IPC-2581", land, landTook}, {"EDIF", symbol, symbolTook}, {"STEP", solid, solidTook}, {"IBIS", lists, listsTook}, {"pin tables", pins, pinsTook}} {
		fmt.Printf("  %-10s %5d equal, %4d with something said, %4d refused with a reason, %d silently less (aim 0); %.2f ms each, made and read\n", r.form, r.equal, r.said, r.refused, r.less, float64(r.took.Microseconds())/float64(n)/1000)
	}
	return nil
}

// readingBodies reads assemblies that place a block, of which it is known where it lies.
func readingBodies(n int) (r reading, took time.Duration, err error) {
	begin := time.Now()
	for i := range n {
		raw, lo, hi := formatstest.NewSTEP(uint64(i)).Assembly()
		s, err := step.Read(raw)
		if err != nil {
			return r, 0, err
		}
		off := 0.0
		for k, at := range []model.Length{s.Box.Min.X, s.Box.Min.Y, s.Box.Min.Z, s.Box.Max.X, s.Box.Max.Y, s.Box.Max.Z} {
			off = max(off, math.Abs(at.Millimetres()-append(lo[:], hi[:]...)[k]))
		}
		if off > 0.0002 {
			r.less++
		} else {
			r.equal++
		}
	}
	return r, time.Since(begin), nil
}

// readingIBIS reads files of pins, of which it is known what they hold.
func readingIBIS(n int) (r reading, took time.Duration, err error) {
	begin := time.Now()
	for i := range n {
		raw, want := formatstest.NewIBIS(uint64(i)).File()
		all, err := ibis.Read(raw)
		if err != nil {
			return r, 0, err
		}
		var got []string
		said := 0
		for _, c := range all {
			said += len(c.Wrong)
			for _, p := range c.Pins {
				got = append(got, strings.Join([]string{c.Name, p.Number, p.Name, p.Type}, " "))
			}
		}
		switch {
		case said > 0:
			r.said++
		case slices.Equal(got, want):
			r.equal++
		default:
			r.less++
		}
	}
	return r, time.Since(begin), nil
}

// readingPinTables reads pin tables in six languages, of which it is known what they hold.
func readingPinTables(n int) (r reading, took time.Duration) {
	begin := time.Now()
	for i := range n {
		table, want := modeltest.New(uint64(i)).PinTable()
		c, ok := table.Columns()
		lists := table.Read(c)
		switch {
		case !ok || len(lists) != 1 || len(lists[0].Wrong) > 0:
			r.refused++
		case slices.Equal(lists[0].Pins, want):
			r.equal++
		default:
			r.less++
		}
	}
	return r, time.Since(begin)
}

// pairsAndSeats holds sameness and fit against pairs and bodies of which the right answer is known.
func pairsAndSeats(n int) {
	m := modeltest.New(77)
	same, falsely, missed, said := 0, 0, 0, 0
	for range n {
		p := m.Pair()
		got := model.Same(p.A, p.B)
		switch {
		case p.Same && !got:
			missed++
		case got && !p.Same:
			falsely++
		case !got && model.Compare(p.A, p.B, model.MM/20).Near:
			said++
		}
		if p.Same {
			same++
		}
	}
	fmt.Printf("\n%d pairs of drawings, %d of them the same\n  falsely the same %d (aim 0), missed %.1f %% (aim at most 2), of the others %d near with words for what differs\n", n, same, falsely, 100*float64(missed)/float64(same), said)
	right, asked, lost, wrongly, fine := 0, 0, 0, 0, 0
	for range n {
		s := m.Seat()
		sits := model.Fit(s.Body, "b", s.Land)
		_, certain := sits.Certain()
		switch {
		case certain && s.Near(s.Put(sits)):
			right++
		case certain:
			wrongly++
		case len(sits.Findings) > 0:
			asked++
		case s.Wrong:
			lost++
		default:
			fine++
		}
	}
	fmt.Printf("\n%d bodies on land patterns\n  corrected rightly %d, asked or said %d, nothing to say %d, missed %d, wrongly corrected %d (aim 0)\n", n, right, asked, fine, lost, wrongly)
}
