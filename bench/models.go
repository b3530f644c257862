package main

import (
	"archive/zip"
	"bytes"
	"context"
	"crypto/sha256"
	"fmt"
	"runtime"
	"time"

	"jollydrawer/core/model"
	"jollydrawer/core/part"
	"jollydrawer/formats/ipc2581"
	"jollydrawer/formats/step"
	"jollydrawer/internal/wire"
)

// drawn makes n symbols and n land patterns, of which every fifth draws what the one before it draws.
func drawn(n int) (all []model.Content) {
	for i := range n {
		k := i - i%5/4 // every fifth is like the fourth
		s := &model.Symbol{Grid: 127 * model.MM / 100}
		pins := 2 + k%30
		for p := range pins {
			s.Pins = append(s.Pins, model.Pin{Number: fmt.Sprint(p + 1), Name: fmt.Sprintf("N%d", (p*k)%97), Type: model.Passive, Runs: model.Right, Length: 254 * model.MM / 100,
				At: model.Point{X: -model.Length(1+k/3000) * 127 * model.MM / 100, Y: model.Length(p) * 254 * model.MM / 100}})
		}
		s.Shapes = []model.Shape{{Form: model.Rectangle, Points: []model.Point{{}, {X: model.Length(1+k%400) * model.MM / 4, Y: model.Length(pins) * model.MM}}}}
		l := &model.LandPattern{}
		for p := range 2 + k%46 {
			l.Pads = append(l.Pads, model.Pad{Number: fmt.Sprint(p + 1), Shape: model.PadRectangle, Width: model.MM/2 + model.Length(k)*model.MM/1000, Height: model.MM / 4,
				At: model.Point{X: model.Length(p%2) * (2*model.MM + model.Length(k)*model.MM/500), Y: model.Length(p/2) * model.MM / 2}})
		}
		all = append(all, model.Content{Kind: model.KindSymbol, Name: fmt.Sprintf("S%d", i), Symbol: s}, model.Content{Kind: model.KindLand, Name: fmt.Sprintf("L%d", i), Land: l})
	}
	return all
}

// fingerprints times finding the twins among all drawings on one processor, beside reading and hashing the same files.
func fingerprints(n int) error {
	all := drawn(n)
	files := make([][]byte, len(all))
	for i := range all {
		raw, err := model.WriteDocument(&all[i])
		if err != nil {
			return err
		}
		files[i] = raw
	}
	defer runtime.GOMAXPROCS(runtime.GOMAXPROCS(1))
	begin := time.Now()
	for _, f := range files {
		if _, _, err := model.ReadDocument(f); err != nil {
			return err
		}
		sha256.Sum256(f)
	}
	reading := time.Since(begin)
	begin = time.Now()
	list := make([]model.Drawing, len(all))
	for i := range all {
		print, _ := all[i].Fingerprint()
		list[i] = model.Drawing{ID: fmt.Sprint(i), Fingerprint: print, Content: &all[i]}
	}
	clusters := model.Twins(list, model.MM/20)
	took := time.Since(begin)
	fmt.Printf("\n%d symbols and %d land patterns, on one processor\n", n, n)
	fmt.Printf("  fingerprints and clusters %6.2f s  %d clusters\n", took.Seconds(), len(clusters))
	fmt.Printf("  reference                 %6.2f s  reading and hashing the same files\n", reading.Seconds())
	begin = time.Now()
	const times = 400
	for i := range times {
		all[i].SVG(model.Preview{Ink: model.Day, Small: true})
	}
	fmt.Printf("  a thumbnail               %6.3f ms, drawn\n", float64(time.Since(begin).Microseconds())/times/1000)
	return nil
}

// deliveries times an archive of 20 files from its upload to the page that shows what became of them.
func deliveries(ctx context.Context) error {
	r, err := setUp(ctx)
	defer r.close()
	if err != nil {
		return err
	}
	var b bytes.Buffer
	z := zip.NewWriter(&b)
	for i, m := range drawn(10)[:16] {
		w, err := z.Create(fmt.Sprintf("models/file %d", i))
		if err != nil {
			return err
		}
		raw, err := model.WriteDocument(&m)
		if m.Land != nil {
			var x bytes.Buffer
			err = ipc2581.Write(&x, []ipc2581.Package{{Name: m.Name, Land: m.Land}})
			raw = x.Bytes()
		}
		if err != nil {
			return err
		}
		if _, err := w.Write(raw); err != nil {
			return err
		}
	}
	for i := range 4 {
		w, err := z.Create(fmt.Sprintf("bodies/%d.step", i))
		if err != nil {
			return err
		}
		if err := step.WriteBlock(w, "block", model.Box3{Max: model.Point3{X: model.MM, Y: model.MM, Z: model.MM}}, time.Unix(0, 0)); err != nil {
			return err
		}
	}
	if err := z.Close(); err != nil {
		return err
	}
	var times []time.Duration
	var d wire.Delivery
	for range 5 {
		begin := time.Now()
		f, err := r.k.Upload(ctx, "twenty files.zip", bytes.NewReader(b.Bytes()))
		if err != nil {
			return err
		}
		if d, err = r.k.Deliver(ctx, wire.NewDelivery{Files: []part.File{{Hash: f.Hash, Name: "twenty files.zip"}}}); err != nil {
			return err
		}
		times = append(times, time.Since(begin))
	}
	fmt.Printf("\nan archive of %d files, %d kB: ready in %.0f ms (median of %d, through HTTP)\n", len(d.Files), b.Len()>>10, quantile(times, 0.5), len(times))
	made, err := r.k.UseDelivery(ctx, d.ID, d.Version, wire.UseDelivery{Models: []wire.UsedModel{{Key: "0.0"}}})
	if err != nil {
		return err
	}
	times = times[:0]
	for range 50 {
		begin := time.Now()
		p, err := r.k.ModelPreview(ctx, made.Models[0].Used.ID, "day")
		if err != nil {
			return err
		}
		if err := p.Close(); err != nil {
			return err
		}
		times = append(times, time.Since(begin))
	}
	fmt.Printf("a thumbnail through HTTP: first %.1f ms, then %.1f ms (median)\n", float64(times[0].Microseconds())/1000, quantile(times[1:], 0.5))
	return nil
}
