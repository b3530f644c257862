package app_test

import (
	"archive/zip"
	"bytes"
	"context"
	"encoding/json"
	"fmt"
	"strings"

	"github.com/stretchr/testify/require"

	"jollydrawer/core/crosswalk"
	"jollydrawer/core/lifecycle"
	"jollydrawer/core/model"
	"jollydrawer/core/part"
	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/service/housetest"
	"jollydrawer/internal/service/reform"
	"jollydrawer/internal/wire"
)

// try is one deed that can be done in many houses and many times in one: ready makes what it stands on and returns the deed
// itself. n keeps the names of one time apart from those of another; all have as many letters.
type try struct {
	deed  string // room and method
	ready func(h housetest.House, n string) func(ctx context.Context, c deed.Call) (any, error)
	job   bool // it ends in a job, whose lease is prolonged as the clock wants it
}

func resistor(h housetest.House, n string) wire.Part {
	return h.Make(housetest.Rated("4k7", "M-"+n))
}

func land(h housetest.House, n string) wire.Model {
	return h.Model(wire.ModelEdit{Kind: "land pattern", Name: "Chip " + n, LandPattern: housetest.TwoPads("0.95")})
}

// fitted is a part with a symbol and a land pattern of its own.
func fitted(h housetest.House, n string) wire.Part {
	sym := h.Model(wire.ModelEdit{Kind: "symbol", Name: "Box " + n, Symbol: housetest.TwoPins("1", "2")})
	e := housetest.Rated("1k", "F-"+n)
	e.Symbol, e.LandPattern = &part.Model{ID: sym.ID, Revision: 1}, &part.Model{ID: land(h, n).ID, Revision: 1}
	return h.Make(e)
}

// apart is a length of its own for each name, a hundredth of a millimetre from the next: drawings that differ by less are the same.
func apart(name string) string {
	n := 0
	for _, c := range strings.TrimLeft(name, "z") {
		n = 20*n + int(c-'g')
	}
	return fmt.Sprintf("%d.%02d", 1+n/100, n%100)
}

// archive is an upload with a symbol and a land pattern in it.
func archive(h housetest.House, n string) part.File {
	var b bytes.Buffer
	z := zip.NewWriter(&b)
	sym := housetest.TwoPins("1", n)
	for _, m := range []model.Content{{Kind: model.KindSymbol, Name: "Sent " + n, Symbol: sym}, {Kind: model.KindLand, Name: "Sent " + n, Land: housetest.TwoPads(apart(n))}} {
		raw, err := model.WriteDocument(&m)
		require.NoError(h.T, err)
		w, err := z.Create(fmt.Sprintf("%s.json", m.Kind))
		require.NoError(h.T, err)
		_, err = w.Write(raw)
		require.NoError(h.T, err)
	}
	require.NoError(h.T, z.Close())
	f, err := h.Files.Keep(h.T.Context(), h.Me, "sent "+n+".zip", &b)
	require.NoError(h.T, err)
	return part.File{Hash: f.Hash, Name: f.Name}
}

func row(n string) string { return "R;Tidewright;I-" + n + ";4k7;1%;0805;\n" }

// cabinetText is the cabinet in force with one more choice.
func cabinetText(h housetest.House, n string) (version int, text string) {
	cab, err := h.Cabinets.Get(h.T.Context(), h.Me)
	require.NoError(h.T, err)
	doc := cab.Document.Clone()
	for i := range doc.Parameters {
		if doc.Parameters[i].Key == "dielectric" {
			doc.Parameters[i].Choices = append(doc.Parameters[i].Choices, "X"+n)
		}
	}
	raw, err := json.Marshal(doc)
	require.NoError(h.T, err)
	return cab.Version, string(raw)
}

// numbers says what became of a cabinet without the whole of it.
func numbered(cab wire.Cabinet, err error) (any, error) { return []int{len(cab.Drawers)}, err }

var tries = []try{
	{"Parts.Create", func(h housetest.House, n string) func(context.Context, deed.Call) (any, error) {
		return func(ctx context.Context, c deed.Call) (any, error) {
			p, err := h.Parts.Create(ctx, c, housetest.Resistor("4k7", "M-"+n))
			p.Alike = nil
			return p, err
		}
	}, false},
	{"Parts.Save", func(h housetest.House, n string) func(context.Context, deed.Call) (any, error) {
		p := resistor(h, n)
		e := housetest.Rated("8k2", "M-"+n)
		return func(ctx context.Context, c deed.Call) (any, error) {
			p, err := h.Parts.Save(ctx, c, p.ID, p.Version, e)
			p.Alike = nil
			return p, err
		}
	}, false},
	{"Parts.Merge", func(h housetest.House, n string) func(context.Context, deed.Call) (any, error) {
		gone, keep := h.Make(housetest.Rated("4k7", "G-"+n)), h.Make(housetest.Rated("4k7", "K-"+n))
		return func(ctx context.Context, c deed.Call) (any, error) {
			p, err := h.Parts.Merge(ctx, c, gone.ID, gone.Version, wire.Merge{Into: keep.Number, Why: "twins"})
			p.Alike = nil
			return p, err
		}
	}, false},
	{"Parts.SetSuccessor", func(h housetest.House, n string) func(context.Context, deed.Call) (any, error) {
		p, next := resistor(h, n), h.Make(housetest.Rated("4k7", "S-"+n))
		return func(ctx context.Context, c deed.Call) (any, error) {
			p, err := h.Parts.SetSuccessor(ctx, c, p.ID, p.Version, wire.SuccessorEdit{Number: next.Number, Why: "better"})
			p.Alike = nil
			return p, err
		}
	}, false},
	{"Parts.AddFormer", func(h housetest.House, n string) func(context.Context, deed.Call) (any, error) {
		p := resistor(h, n)
		return func(ctx context.Context, c deed.Call) (any, error) {
			p, err := h.Parts.AddFormer(ctx, c, p.ID, p.Version, wire.FormerNumber{Number: "OLD " + n})
			p.Alike = nil
			return p, err
		}
	}, false},
	{"Lifecycles.Release", func(h housetest.House, n string) func(context.Context, deed.Call) (any, error) {
		p := fitted(h, n)
		return func(ctx context.Context, c deed.Call) (any, error) {
			p, err := h.Lifecycles.Release(ctx, c, p.ID, p.Version, wire.Release{Note: "made"})
			p.Alike = nil
			return p, err
		}
	}, false},
	{"Lifecycles.ReleaseMany", func(h housetest.House, n string) func(context.Context, deed.Call) (any, error) {
		one, two := h.Make(housetest.Rated("4k7", "1-"+n)), h.Make(housetest.Rated("8k2", "2-"+n))
		in := wire.BulkRelease{Note: "both", Parts: []wire.PartBase{{ID: one.ID, Version: one.Version}, {ID: two.ID, Version: two.Version}}}
		return func(ctx context.Context, c deed.Call) (any, error) { return h.Lifecycles.ReleaseMany(ctx, c, in) }
	}, false},
	{"Lifecycles.SetStanding", func(h housetest.House, n string) func(context.Context, deed.Call) (any, error) {
		p := resistor(h, n)
		return func(ctx context.Context, c deed.Call) (any, error) {
			p, err := h.Lifecycles.SetStanding(ctx, c, p.ID, p.Version, wire.Standing{Standing: "obsolete", Why: "gone"})
			p.Alike = nil
			return p, err
		}
	}, false},
	{"Models.Create", func(h housetest.House, n string) func(context.Context, deed.Call) (any, error) {
		return func(ctx context.Context, c deed.Call) (any, error) {
			m, err := h.Models.Create(ctx, c, wire.ModelEdit{Kind: "land pattern", Name: "Chip " + n, LandPattern: housetest.TwoPads("0.95")})
			m.Twins = nil
			return m, err
		}
	}, false},
	{"Models.Save", func(h housetest.House, n string) func(context.Context, deed.Call) (any, error) {
		m := land(h, n)
		return func(ctx context.Context, c deed.Call) (any, error) {
			m, err := h.Models.Save(ctx, c, h.ModelID(m), m.Version, wire.ModelEdit{Kind: "land pattern", Name: "Chip " + n, LandPattern: housetest.TwoPads("1.2")})
			m.Twins = nil
			return m, err
		}
	}, false},
	{"Lifecycles.MovePart", func(h housetest.House, n string) func(context.Context, deed.Call) (any, error) {
		p := resistor(h, n)
		return func(ctx context.Context, c deed.Call) (any, error) {
			p, err := h.Lifecycles.MovePart(ctx, c, p.ID, p.Version, wire.MoveThing{Move: "ask for review"})
			p.Alike = nil
			return p, err
		}
	}, false},
	{"Lifecycles.TickMany", func(h housetest.House, n string) func(context.Context, deed.Call) (any, error) {
		in := wire.TickMany{Things: []wire.PartBase{}, TickItems: wire.TickItems{Items: []string{"description"}}}
		for i := range 2 {
			p := h.Make(housetest.Rated("4k7", fmt.Sprint("T-", n, i)))
			in.Things = append(in.Things, wire.PartBase{ID: p.ID, Version: p.Version})
		}
		return func(ctx context.Context, c deed.Call) (any, error) { return h.Lifecycles.TickMany(ctx, c, in) }
	}, false},
	{"Lifecycles.SignMany", func(h housetest.House, n string) func(context.Context, deed.Call) (any, error) {
		in := wire.SignMany{Things: []wire.PartBase{}, SignReview: wire.SignReview{Against: "page 2", All: true}}
		for i := range 2 {
			p := h.Make(housetest.Rated("4k7", fmt.Sprint("S-", n, i)))
			in.Things = append(in.Things, wire.PartBase{ID: p.ID, Version: p.Version})
		}
		return func(ctx context.Context, c deed.Call) (any, error) { return h.Lifecycles.SignMany(ctx, c, in) }
	}, false},
	{"Lifecycles.MoveModel", func(h housetest.House, n string) func(context.Context, deed.Call) (any, error) {
		m := land(h, n)
		return func(ctx context.Context, c deed.Call) (any, error) {
			m, err := h.Lifecycles.MoveModel(ctx, c, h.ModelID(m), m.Version, wire.MoveThing{Move: "withdraw", Note: "wrong pads"})
			m.Twins = nil
			return m, err
		}
	}, false},
	{"Lifecycles.Move", func(h housetest.House, n string) func(context.Context, deed.Call) (any, error) {
		in := wire.MoveThings{Move: "release", Note: "all three", Skip: true, Things: []wire.PartBase{}}
		for i := range 3 {
			e := housetest.Rated("4k7", fmt.Sprint("M-", n, i))
			if i == 2 {
				delete(e.Values, "tolerance")
			}
			p := h.Make(e)
			in.Things = append(in.Things, wire.PartBase{ID: p.ID, Version: p.Version})
		}
		return func(ctx context.Context, c deed.Call) (any, error) { return h.Lifecycles.Move(ctx, c, in) }
	}, false},
	{"Lifecycles.Waive", func(h housetest.House, n string) func(context.Context, deed.Call) (any, error) {
		h.Lifecycle("parts", "{ gate: required }", "{ gate: required }, { gate: datasheet, waive: { role: engineer } }")
		p := resistor(h, n)
		return func(ctx context.Context, c deed.Call) (any, error) {
			return h.Lifecycles.Waive(ctx, c, p.ID, p.Version, wire.WaiveGate{Gate: "datasheet", Why: "it comes next week"})
		}
	}, false},
	{"Lifecycles.Prove", func(h housetest.House, n string) func(context.Context, deed.Call) (any, error) {
		p := resistor(h, n)
		p, err := h.Lifecycles.Release(h.T.Context(), h.Me, p.ID, p.Version, wire.Release{Note: "first"})
		require.NoError(h.T, err)
		return func(ctx context.Context, c deed.Call) (any, error) {
			return h.Lifecycles.Prove(ctx, c, p.ID, p.Version, wire.Prove{Boards: 20, Which: "tide gauge C"})
		}
	}, false},
	{"Lifecycles.Tick", func(h housetest.House, n string) func(context.Context, deed.Call) (any, error) {
		p := resistor(h, n)
		return func(ctx context.Context, c deed.Call) (any, error) {
			return h.Lifecycles.Tick(ctx, c, p.ID, p.Version, wire.TickItems{Items: []string{"values.resistance", "description"}})
		}
	}, false},
	{"Lifecycles.Sign", func(h housetest.House, n string) func(context.Context, deed.Call) (any, error) {
		p := resistor(h, n)
		return func(ctx context.Context, c deed.Call) (any, error) {
			return h.Lifecycles.Sign(ctx, c, p.ID, p.Version, wire.SignReview{Against: "page 2", All: true})
		}
	}, false},
	{"Lifecycles.SignModel", func(h housetest.House, n string) func(context.Context, deed.Call) (any, error) {
		m := land(h, n)
		return func(ctx context.Context, c deed.Call) (any, error) {
			m, err := h.Lifecycles.SignModel(ctx, c, h.ModelID(m), m.Version, wire.NewSign{Against: "page 4"})
			m.Twins = nil
			return m, err
		}
	}, false},
	{"Lifecycles.Take", func(h housetest.House, n string) func(context.Context, deed.Call) (any, error) {
		p := resistor(h, n)
		return func(ctx context.Context, c deed.Call) (any, error) {
			return h.Lifecycles.Take(ctx, c, p.ID, p.Version, wire.TakeTurn{})
		}
	}, false},
	{"Lifecycles.ApplyDocument", func(h housetest.House, n string) func(context.Context, deed.Call) (any, error) {
		text, _ := lifecycle.Shipped("parts")
		next := strings.Replace(string(text), "name: parts", "name: parts-"+n, 1)
		return func(ctx context.Context, c deed.Call) (any, error) {
			return h.Lifecycles.ApplyDocument(ctx, c, 0, next)
		}
	}, false},
	{"Wants.Make", func(h housetest.House, n string) func(context.Context, deed.Call) (any, error) {
		return func(ctx context.Context, c deed.Call) (any, error) {
			m, err := h.Wants.Make(ctx, c, []wire.WantEdit{{MPN: "W-" + n}, {Facts: "4k7 " + n}})
			return m.Wants, err
		}
	}, false},
	{"Wants.FromBOM", func(h housetest.House, n string) func(context.Context, deed.Call) (any, error) {
		h.Board(h.T, "Board "+n, "Ref,Qty,MPN\nR1,1,NOBODY-"+n+"\n")
		return func(ctx context.Context, c deed.Call) (any, error) {
			m, err := h.Wants.FromBOM(ctx, c, "Board "+n, 0)
			return m.Wants, err
		}
	}, false},
	{"Wants.Settle", func(h housetest.House, n string) func(context.Context, deed.Call) (any, error) {
		m, err := h.Wants.Make(h.T.Context(), h.Me, []wire.WantEdit{{MPN: "W-" + n}})
		require.NoError(h.T, err)
		return func(ctx context.Context, c deed.Call) (any, error) {
			w, err := h.Wants.Settle(ctx, c, m.Numbers[0], 1, wire.SettleWant{State: "declined", Why: "no"})
			return []any{w.State, w.Version}, err
		}
	}, false},
	{"People.SaveGroup", func(h housetest.House, n string) func(context.Context, deed.Call) (any, error) {
		return func(ctx context.Context, c deed.Call) (any, error) {
			_, err := h.People.SaveGroup(ctx, c, "", 0, wire.GroupEdit{Name: "Group " + n, Members: []string{h.Me.Actor.Login}, Drawers: []string{"resistors"}, Kinds: []string{"symbol"}})
			return nil, err
		}
	}, false},
	{"People.DropGroup", func(h housetest.House, n string) func(context.Context, deed.Call) (any, error) {
		_, err := h.People.SaveGroup(h.T.Context(), h.Me, "", 0, wire.GroupEdit{Name: "Group " + n, Members: []string{}})
		require.NoError(h.T, err)
		return func(ctx context.Context, c deed.Call) (any, error) {
			_, err := h.People.DropGroup(ctx, c, "Group "+n, 1)
			return nil, err
		}
	}, false},
	{"Lifecycles.ReleaseModel", func(h housetest.House, n string) func(context.Context, deed.Call) (any, error) {
		m, err := h.Models.Create(h.T.Context(), h.Me, wire.ModelEdit{Kind: "land pattern", Name: "Chip " + n, LandPattern: housetest.TwoPads("0.95")})
		require.NoError(h.T, err)
		return func(ctx context.Context, c deed.Call) (any, error) {
			m, err := h.Lifecycles.ReleaseModel(ctx, c, h.ModelID(m), m.Version, wire.Release{Note: "drawn"})
			m.Twins = nil
			return m, err
		}
	}, false},
	{"Models.Rename", func(h housetest.House, n string) func(context.Context, deed.Call) (any, error) {
		m := land(h, n)
		return func(ctx context.Context, c deed.Call) (any, error) {
			return h.Models.Rename(ctx, c, wire.RenameModels{Models: []string{m.ID}, Find: "Chip", Replace: "Land"})
		}
	}, false},
	{"Models.Mend", func(h housetest.House, n string) func(context.Context, deed.Call) (any, error) {
		sym := housetest.TwoPins("1", "2")
		sym.Pins[0].At.X += model.MustLength("0.01") // off the grid
		m := h.Model(wire.ModelEdit{Kind: "symbol", Name: "Box " + n, Symbol: sym})
		cause := ""
		for _, f := range m.Checks {
			if f.Click != "" && cause == "" {
				cause = f.Cause
			}
		}
		require.NotEmpty(h.T, cause, "%+v", m.Checks)
		return func(ctx context.Context, c deed.Call) (any, error) {
			return h.Models.Mend(ctx, c, wire.ModelMend{Cause: cause, Models: []string{m.ID}})
		}
	}, false},
	{"Models.Waive", func(h housetest.House, n string) func(context.Context, deed.Call) (any, error) {
		m := land(h, n)
		require.NotEmpty(h.T, m.Checks)
		return func(ctx context.Context, c deed.Call) (any, error) {
			m, err := h.Models.Waive(ctx, c, h.ModelID(m), m.Version, wire.ModelWaive{Cause: m.Checks[0].Cause, Why: "agreed"})
			m.Twins = nil
			return m, err
		}
	}, false},
	{"Models.Sign", func(h housetest.House, n string) func(context.Context, deed.Call) (any, error) {
		m := land(h, n)
		return func(ctx context.Context, c deed.Call) (any, error) {
			m, err := h.Lifecycles.SignModel(ctx, c, h.ModelID(m), m.Version, wire.NewSign{Against: "a datasheet"})
			m.Twins = nil
			return m, err
		}
	}, false},
	{"Fitting.ChooseLand", func(h housetest.House, n string) func(context.Context, deed.Call) (any, error) {
		p := h.Make(housetest.Resistor("1k", "L"+n))
		h.Model(wire.ModelEdit{Kind: "land pattern", Name: "Wide " + n, LandPattern: housetest.TwoPads("0.99")})
		return func(ctx context.Context, c deed.Call) (any, error) {
			p, err := h.Fitting.ChooseLand(ctx, c, p.ID, p.Version, wire.ChooseLand{Do: "add", Model: "Wide " + n, For: "hand assembly"})
			p.Alike = nil // others of these tries come meanwhile
			return p, err
		}
	}, false},
	{"Fitting.MapPins", func(h housetest.House, n string) func(context.Context, deed.Call) (any, error) {
		p := fitted(h, n)
		in := wire.MapPins{Map: model.PinMap{Pairs: []model.Pair{{Pin: "1", Pads: []string{"2"}}, {Pin: "2", Pads: []string{"1"}}}, Free: []string{"T" + n}}, Note: "crossed"}
		return func(ctx context.Context, c deed.Call) (any, error) {
			return h.Fitting.MapPins(ctx, c, p.ID, p.Version, in)
		}
	}, false},
	{"Fitting.PlaceBody", func(h housetest.House, n string) func(context.Context, deed.Call) (any, error) {
		mm := model.MustLength
		body := h.Model(wire.ModelEdit{Kind: "body", Name: "Block " + n, Body: &model.Body{StandIn: true, Box: model.Box3{Min: model.Point3{X: -mm("0.6"), Y: -mm("1")}, Max: model.Point3{X: mm("0.6"), Y: mm("1"), Z: mm("0.5")}}}})
		e := housetest.Rated("1k", "B-"+n)
		e.LandPattern, e.Body = &part.Model{ID: land(h, n).ID, Revision: 1}, &part.Model{ID: body.ID, Revision: 1}
		p := h.Make(e)
		pins, err := h.Fitting.PinsOnPads(h.T.Context(), h.Me, p.ID)
		require.NoError(h.T, err)
		require.NotEmpty(h.T, pins.Fit.Placings)
		return func(ctx context.Context, c deed.Call) (any, error) {
			return h.Fitting.PlaceBody(ctx, c, p.ID, p.Version, wire.PlaceBody{Place: pins.Fit.Placings[0].Place, Note: "turned"})
		}
	}, false},
	{"Fitting.Merge", func(h housetest.House, n string) func(context.Context, deed.Call) (any, error) {
		gone, keep := land(h, n), h.Model(wire.ModelEdit{Kind: "land pattern", Name: "Kept " + n, LandPattern: housetest.TwoPads("0.95")})
		e := housetest.Rated("1k", "P-"+n)
		e.LandPattern = &part.Model{ID: gone.ID, Revision: 1}
		h.Make(e)
		return func(ctx context.Context, c deed.Call) (any, error) {
			return h.Fitting.Merge(ctx, c, wire.MergeModels{Keep: keep.ID, Gone: []string{gone.ID}, All: true, Why: "one is enough"})
		}
	}, false},
	{"Fitting.TakeMergingBack", func(h housetest.House, n string) func(context.Context, deed.Call) (any, error) {
		gone, keep := land(h, n), h.Model(wire.ModelEdit{Kind: "land pattern", Name: "Kept " + n, LandPattern: housetest.TwoPads("0.95")})
		e := housetest.Rated("1k", "P-"+n)
		e.LandPattern = &part.Model{ID: gone.ID, Revision: 1}
		h.Make(e)
		_, err := h.Fitting.Merge(h.T.Context(), h.Me, wire.MergeModels{Keep: keep.ID, Gone: []string{gone.ID}, All: true, Why: "one is enough"})
		require.NoError(h.T, err)
		return func(ctx context.Context, c deed.Call) (any, error) {
			return h.Fitting.TakeMergingBack(ctx, c, wire.TakeMergingBack{Model: gone.ID, Why: "it was not"})
		}
	}, false},
	{"Fitting.TakeNewer", func(h housetest.House, n string) func(context.Context, deed.Call) (any, error) {
		m := land(h, n)
		e := housetest.Rated("1k", "P-"+n)
		e.LandPattern = &part.Model{ID: m.ID, Revision: 1}
		h.Make(e)
		m, err := h.Models.Save(h.T.Context(), h.Me, h.ModelID(m), m.Version, wire.ModelEdit{Kind: "land pattern", Name: "Chip " + n, LandPattern: housetest.TwoPads("1")})
		require.NoError(h.T, err)
		_, err = h.Lifecycles.ReleaseModel(h.T.Context(), h.Me, h.ModelID(m), m.Version, wire.Release{Note: "wider"})
		require.NoError(h.T, err)
		return func(ctx context.Context, c deed.Call) (any, error) {
			return h.Fitting.TakeNewer(ctx, c, h.ModelID(m), wire.TakeNewer{})
		}
	}, false},
	{"Intakes.Open", func(h housetest.House, n string) func(context.Context, deed.Call) (any, error) {
		f, err := h.Files.Keep(h.T.Context(), h.Me, "list.csv", strings.NewReader(housetest.ListHead+row(n)))
		require.NoError(h.T, err)
		return func(ctx context.Context, c deed.Call) (any, error) {
			return h.Intakes.Open(ctx, c, wire.NewIntake{Supplier: "Quay " + n, FileHash: f.Hash, FileName: f.Name})
		}
	}, false},
	{"Intakes.Edit", func(h housetest.House, n string) func(context.Context, deed.Call) (any, error) {
		i := h.Listed(row(n))
		rule := crosswalk.Rule{From: "Sheet", To: "power"}
		return func(ctx context.Context, c deed.Call) (any, error) {
			return h.Intakes.Edit(ctx, c, housetest.ID(h.T, i.ID), i.Version, wire.IntakeEdit{LeaveOut: []int{2}, Changes: []crosswalk.Change{{Rule: &rule}}})
		}
	}, false},
	{"Intakes.TakeIn", func(h housetest.House, n string) func(context.Context, deed.Call) (any, error) {
		have := h.Make(housetest.Rated("4k7", "I-"+n))
		i := h.Listed("R;Tidewright;J-" + n + ";4k7;1%;0805;\n" + "R;Tidewright;I-" + n + ";4k7;2%;0805;\n")
		i = h.EditIntake(i, wire.IntakeEdit{Known: "replace"})
		require.Equal(h.T, 1, i.Counts["update"])
		return func(ctx context.Context, c deed.Call) (any, error) {
			j, err := h.Intakes.TakeIn(ctx, c, housetest.ID(h.T, i.ID), i.Version, wire.TakeIn{Digest: i.Digest})
			if _, err := ended(h, j, err); err != nil {
				return nil, err
			}
			done, err := h.Intakes.Get(ctx, c, housetest.ID(h.T, i.ID))
			if err != nil {
				return nil, err
			}
			made, err := h.Parts.Get(ctx, c, done.Taken.First)
			if err != nil {
				return nil, err
			}
			now, err := h.Parts.Get(ctx, c, have.ID)
			made.Alike, now.Alike = nil, nil
			return []any{done.Counts, made, now}, err
		}
	}, true},
	{"Intakes.TakeBack", func(h housetest.House, n string) func(context.Context, deed.Call) (any, error) {
		have := h.Make(housetest.Rated("4k7", "I-"+n))
		i := h.Listed("R;Tidewright;J-" + n + ";4k7;1%;0805;\n" + "R;Tidewright;I-" + n + ";4k7;2%;0805;\n")
		made := h.TakeIn(h.EditIntake(i, wire.IntakeEdit{Known: "replace"}))
		i, err := h.Intakes.Get(h.T.Context(), h.Me, housetest.ID(h.T, i.ID))
		require.NoError(h.T, err)
		return func(ctx context.Context, c deed.Call) (any, error) {
			i, err := h.Intakes.TakeBack(ctx, c, housetest.ID(h.T, i.ID), i.Version, wire.TakeBack{Why: "a trial"})
			if err != nil {
				return nil, err
			}
			now, err := h.Parts.Get(ctx, c, have.ID)
			if err != nil {
				return nil, err
			}
			now.Alike = nil
			if _, err := h.Parts.Get(ctx, c, made.First); err == nil {
				return nil, fmt.Errorf("%s is still there", made.First)
			}
			i.Job = nil
			return []any{i, now}, nil
		}
	}, false},
	{"Intakes.WithdrawDecisions", func(h housetest.House, n string) func(context.Context, deed.Call) (any, error) {
		i := h.Listed("R;Tidewright;W" + n + ";4k7;1%;0805;\n")
		h.EditIntake(i, wire.IntakeEdit{LeaveOut: []int{2}})
		l, err := h.Intakes.AllDecisions(h.T.Context(), h.Me, "Pier stock", false, 0, 1)
		require.NoError(h.T, err)
		return func(ctx context.Context, c deed.Call) (any, error) {
			return h.Intakes.WithdrawDecisions(ctx, c, wire.WithdrawDecisions{IDs: []string{l.Items[0].ID}})
		}
	}, false},
	{"Intakes.FetchDatasheets", func(h housetest.House, n string) func(context.Context, deed.Call) (any, error) {
		i := h.Listed("R;Tidewright;I-" + n + ";4k7;1%;0805;file:///nowhere/" + n + ".pdf\n")
		return func(ctx context.Context, c deed.Call) (any, error) {
			j, err := h.Intakes.FetchDatasheets(ctx, c, housetest.ID(h.T, i.ID))
			return ended(h, j, err)
		}
	}, true},
	{"Deliveries.Bring", func(h housetest.House, n string) func(context.Context, deed.Call) (any, error) {
		f := archive(h, n)
		return func(ctx context.Context, c deed.Call) (any, error) {
			d, err := h.Deliveries.Bring(ctx, c, wire.NewDelivery{Files: []part.File{f}})
			return []any{d.Number, d.Name, len(d.Files), len(d.Models)}, err
		}
	}, false},
	{"Deliveries.Use", func(h housetest.House, n string) func(context.Context, deed.Call) (any, error) {
		d, err := h.Deliveries.Bring(h.T.Context(), h.Me, wire.NewDelivery{Files: []part.File{archive(h, n)}})
		require.NoError(h.T, err)
		require.Len(h.T, d.Models, 2)
		p := resistor(h, n)
		in := wire.UseDelivery{Part: p.Number, Models: []wire.UsedModel{{Key: d.Models[0].Key}, {Key: d.Models[1].Key}}, Note: "sent"}
		return func(ctx context.Context, c deed.Call) (any, error) {
			if _, err := h.Deliveries.Use(ctx, c, d.ID, d.Version, in); err != nil {
				return nil, err
			}
			now, err := h.Parts.Get(ctx, c, p.ID)
			now.Alike = nil
			return now, err
		}
	}, false},
	{"Deliveries.Intake", func(h housetest.House, n string) func(context.Context, deed.Call) (any, error) {
		d, err := h.Deliveries.Bring(h.T.Context(), h.Me, wire.NewDelivery{Files: []part.File{archive(h, n)}})
		require.NoError(h.T, err)
		return func(ctx context.Context, c deed.Call) (any, error) {
			i, err := h.Deliveries.Intake(ctx, c, d.ID, d.Version, wire.LibraryIntake{Supplier: "Old " + n, Note: "from the old library"})
			if err != nil {
				return nil, err
			}
			return []any{i.Supplier, i.Rows, i.Fields, i.Counts, i.Samples}, nil
		}
	}, false},
	{"Reform.Apply", func(h housetest.House, n string) func(context.Context, deed.Call) (any, error) {
		version, text := cabinetText(h, n)
		return func(ctx context.Context, c deed.Call) (any, error) {
			return numbered(h.Reform.Apply(ctx, c, version, text))
		}
	}, false},
	{"Reform.GoBack", func(h housetest.House, n string) func(context.Context, deed.Call) (any, error) {
		p := resistor(h, n)
		p, err := h.Lifecycles.Release(h.T.Context(), h.Me, p.ID, p.Version, wire.Release{Note: "first"})
		require.NoError(h.T, err)
		p, err = h.Parts.Save(h.T.Context(), h.Me, p.ID, p.Version, housetest.Rated("8k2", "M-"+n))
		require.NoError(h.T, err)
		return func(ctx context.Context, c deed.Call) (any, error) {
			p, err := h.Reform.GoBack(ctx, c, p.ID, p.Version, wire.GoBack{Revision: 1, ReplaceDraft: true})
			p.Alike = nil
			return p, err
		}
	}, false},
	{"Reform.AddChoice", func(h housetest.House, n string) func(context.Context, deed.Call) (any, error) {
		return func(ctx context.Context, c deed.Call) (any, error) {
			return numbered(h.Reform.AddChoice(ctx, c, reform.NewChoice{Parameter: "dielectric", Choice: "Y" + n}))
		}
	}, false},
	{"Cabinets.ApplyCrosswalk", func(h housetest.House, n string) func(context.Context, deed.Call) (any, error) {
		text := "format: jolly-crosswalk/1\nsupplier: Quay " + n + "\ntake: {manufacturer: Maker, mpn: MPN}\ndrawer: chip-resistors\nfields: [{from: Ohms, to: resistance}]\n"
		return func(ctx context.Context, c deed.Call) (any, error) { return h.Cabinets.ApplyCrosswalk(ctx, c, 0, text) }
	}, false},
}
