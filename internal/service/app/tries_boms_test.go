package app_test

import (
	"context"
	"hash/fnv"
	"maps"
	"slices"
	"strings"

	"github.com/stretchr/testify/require"

	"jollydrawer/core/buying"
	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/service/housetest"
	"jollydrawer/internal/wire"
)

// frozenBoard is a board with a revision that is pinned to one part.
func frozenBoard(h housetest.House, n string) wire.BOM {
	p := resistor(h, n)
	_, err := h.Lifecycles.Release(h.T.Context(), h.Me, p.ID, p.Version, wire.Release{Note: "first"})
	require.NoError(h.T, err)
	b := h.Board(h.T, "Board "+n, "Ref,Qty,MPN\nR1,1,M-"+n+"\n")
	b, err = h.BOMs.Freeze(h.T.Context(), h.Me, b.ID, b.Version, wire.FreezeBOM{Note: "first build"})
	require.NoError(h.T, err)
	return b
}

// triesOfBOMs are those of BOMs.
var triesOfBOMs = []try{
	{"BOMs.Bring", func(h housetest.House, n string) func(context.Context, deed.Call) (any, error) {
		f, err := h.Files.Keep(h.T.Context(), h.Me, "bom.csv", strings.NewReader("Ref,Qty,Value\nR1,1,none"+n+"\n"))
		require.NoError(h.T, err)
		return func(ctx context.Context, c deed.Call) (any, error) {
			return h.BOMs.Bring(ctx, c, wire.NewBOM{Name: "Board " + n, FileHash: f.Hash, FileName: f.Name})
		}
	}, false},
	{"BOMs.Choose", func(h housetest.House, n string) func(context.Context, deed.Call) (any, error) {
		p := resistor(h, n)
		b := h.Board(h.T, "Board "+n, "Ref,Qty,Note\nR1,1,see "+n+"\n")
		return func(ctx context.Context, c deed.Call) (any, error) {
			return h.BOMs.Choose(ctx, c, b.ID, b.Version, wire.BOMChoices{Choose: []wire.BOMChoice{{Row: 2, Part: p.ID, Reason: "agreed"}}})
		}
	}, false},
	{"BOMs.ChooseSome", func(h housetest.House, n string) func(context.Context, deed.Call) (any, error) {
		p := resistor(h, n)
		b := h.Board(h.T, "Board "+n, "Ref,Qty,Description\nR1,1,see "+n+"\n")
		return func(ctx context.Context, c deed.Call) (any, error) {
			now, err := h.BOMs.ChooseSome(ctx, c, b.ID, b.Version, wire.BOMChoices{Choose: []wire.BOMChoice{{Row: 2, Part: p.ID, Reason: "agreed"}}})
			now.Partial = false // an instance that did not see the version before answers with all lines, and says so
			return now, err
		}
	}, false},
	{"BOMs.Choose, to be learned", func(h housetest.House, n string) func(context.Context, deed.Call) (any, error) {
		p := resistor(h, n)
		b := h.Board(h.T, "Board "+n, "Ref,Qty,Description,Note "+n+"\nR1,1,as drawn,see "+n+"\n")
		return func(ctx context.Context, c deed.Call) (any, error) {
			return h.BOMs.Choose(ctx, c, b.ID, b.Version, wire.BOMChoices{Choose: []wire.BOMChoice{{Row: 2, Part: p.ID, Reason: "agreed", Learn: "link"}}})
		}
	}, false},
	{"BOMs.Replace", func(h housetest.House, n string) func(context.Context, deed.Call) (any, error) {
		p, q := resistor(h, n), resistor(h, n+"q")
		h.Board(h.T, "Board "+n, "Ref,Qty,MPN\nR1,1,M-"+n+"\n")
		h.Board(h.T, "Other board "+n, "Ref,Qty,MPN\nR7,1,M-"+n+"\n")
		seen, err := h.BOMs.Replace(h.T.Context(), h.Me, wire.Replacement{Part: p.ID, With: q.ID})
		require.NoError(h.T, err)
		require.Len(h.T, seen.Boards, 2)
		return func(ctx context.Context, c deed.Call) (any, error) {
			return h.BOMs.Replace(ctx, c, wire.Replacement{Part: p.ID, With: q.ID, Reason: "it stops", Digest: seen.Digest})
		}
	}, false},
	{"BOMs.SetOrigin", func(h housetest.House, n string) func(context.Context, deed.Call) (any, error) {
		b := h.Board(h.T, "Board "+n, "Ref,Qty,Description\nR1,1,see "+n+"\n")
		return func(ctx context.Context, c deed.Call) (any, error) {
			return h.BOMs.SetOrigin(ctx, c, b.ID, b.Version, wire.BOMOrigin{Origin: "Harbour office"})
		}
	}, false},
	{"BOMs.WithdrawReading", func(h housetest.House, n string) func(context.Context, deed.Call) (any, error) {
		p := resistor(h, n)
		b := h.Board(h.T, "Board "+n, "Ref,Qty,Description,Note "+n+"\nR1,1,as drawn,see "+n+"\n")
		_, err := h.BOMs.Choose(h.T.Context(), h.Me, b.ID, b.Version, wire.BOMChoices{Choose: []wire.BOMChoice{{Row: 2, Part: p.ID, Reason: "agreed", Learn: "propose"}}})
		require.NoError(h.T, err)
		all, err := h.BOMs.Readings(h.T.Context(), h.Me, wire.ReadingsAsked{BOM: b.ID})
		require.NoError(h.T, err)
		return func(ctx context.Context, c deed.Call) (any, error) {
			return h.BOMs.WithdrawReading(ctx, c, wire.WithdrawReading{ID: all.Items[0].ID})
		}
	}, false},
	{"BOMs.SetBuild", func(h housetest.House, n string) func(context.Context, deed.Call) (any, error) {
		b := h.Board(h.T, "Board "+n, "Ref,Qty,Note\nR1,1,see "+n+"\n")
		return func(ctx context.Context, c deed.Call) (any, error) {
			return h.BOMs.SetBuild(ctx, c, b.ID, b.Version, wire.BOMBuild{Boards: 40})
		}
	}, false},
	{"BOMs.Freeze", func(h housetest.House, n string) func(context.Context, deed.Call) (any, error) {
		p := resistor(h, n)
		p, err := h.Lifecycles.Release(h.T.Context(), h.Me, p.ID, p.Version, wire.Release{Note: "first"})
		require.NoError(h.T, err)
		b := h.Board(h.T, "Board "+n, "Ref,Qty,MPN\nR1,1,M-"+n+"\nR2,1,none"+n+"\n")
		return func(ctx context.Context, c deed.Call) (any, error) {
			return h.BOMs.Freeze(ctx, c, b.ID, b.Version, wire.FreezeBOM{Note: "first build", Anyway: "R2 comes by hand"})
		}
	}, false},
	{"BOMs.Remove", func(h housetest.House, n string) func(context.Context, deed.Call) (any, error) {
		b := h.Board(h.T, "Board "+n, "Ref,Qty,Note\nR1,1,see "+n+"\n")
		return func(ctx context.Context, c deed.Call) (any, error) {
			return h.BOMs.Remove(ctx, c, b.ID, b.Version)
		}
	}, false},
	{"BOMs.SetBuilt", func(h housetest.House, n string) func(context.Context, deed.Call) (any, error) {
		b := frozenBoard(h, n)
		return func(ctx context.Context, c deed.Call) (any, error) {
			f, err := h.BOMs.SetBuilt(ctx, c, b.ID, 1, wire.BuiltBOM{Boards: 4, Which: "lot " + n})
			for i := range f.Builds {
				f.Builds[i].ID = ""
			}
			return f, err
		}
	}, false},
	{"BOMs.Confirm", func(h housetest.House, n string) func(context.Context, deed.Call) (any, error) {
		b := frozenBoard(h, n)
		f, err := h.BOMs.SetBuilt(h.T.Context(), h.Me, b.ID, 1, wire.BuiltBOM{Boards: 4, Which: "lot " + n})
		require.NoError(h.T, err)
		return func(ctx context.Context, c deed.Call) (any, error) {
			return h.BOMs.Confirm(ctx, c, b.ID, 1, f.Builds[0].ID, wire.ConfirmProof{All: true})
		}
	}, false},
	{"BOMs.Waive", func(h housetest.House, n string) func(context.Context, deed.Call) (any, error) {
		b := frozenBoard(h, n)
		return func(ctx context.Context, c deed.Call) (any, error) {
			return h.BOMs.Waive(ctx, c, b.ID, b.Version, wire.WaiveFindings{Cause: "single-source", Why: "agreed"})
		}
	}, false},
	{"BOMs.MoveOn", func(h housetest.House, n string) func(context.Context, deed.Call) (any, error) {
		b := frozenBoard(h, n)
		p, err := h.Parts.Get(h.T.Context(), h.Me, b.Lines[0].Part.ID)
		require.NoError(h.T, err)
		e := p.Released.Edit()
		e.Values["power"] = "250 mW"
		p, err = h.Parts.Save(h.T.Context(), h.Me, p.ID, p.Version, e)
		require.NoError(h.T, err)
		_, err = h.Lifecycles.Release(h.T.Context(), h.Me, p.ID, p.Version, wire.Release{Note: "more power"})
		require.NoError(h.T, err)
		return func(ctx context.Context, c deed.Call) (any, error) {
			return h.BOMs.MoveOn(ctx, c, b.ID, b.Version, wire.MoveOnParts{})
		}
	}, false},
	{"BOMs.ApplySeverities", func(h housetest.House, n string) func(context.Context, deed.Call) (any, error) {
		s, err := h.BOMs.Severities(h.T.Context(), h.Me)
		require.NoError(h.T, err)
		text := "format: jolly-severities/1\ncauses:\n" // another document for each n
		sum := fnv.New32a()
		_, _ = sum.Write([]byte(n))
		for i, cause := range slices.Sorted(maps.Keys(s.Usual)) {
			text += "  " + cause + ": " + []string{"note", "warning"}[sum.Sum32()>>(i%32)&1] + "\n"
		}
		return func(ctx context.Context, c deed.Call) (any, error) {
			now, err := h.BOMs.ApplySeverities(ctx, c, s.Version, wire.SeveritiesEdit{Text: text})
			return len(now.Usual), err
		}
	}, false},
	{"BOMs.ApplySheetForms", func(h housetest.House, n string) func(context.Context, deed.Call) (any, error) {
		s, err := h.BOMs.SheetForms(h.T.Context(), h.Me)
		require.NoError(h.T, err)
		return func(ctx context.Context, c deed.Call) (any, error) {
			now, err := h.BOMs.ApplySheetForms(ctx, c, s.Version, wire.SheetFormsEdit{Text: "format: jolly-sheets/1\nsheets: [{name: 'order " + n + "', of: purchase, columns: [{take: MPN}]}]\n"})
			return len(now.Sheets), err
		}
	}, false},
	{"BOMs.SetBuying", func(h housetest.House, n string) func(context.Context, deed.Call) (any, error) {
		b := h.Board(h.T, "Board "+n, "Ref,Qty,Note\nR1,1,see "+n+"\n")
		return func(ctx context.Context, c deed.Call) (any, error) {
			return h.BOMs.SetBuying(ctx, c, b.ID, b.Version, wire.BuyingRules{Few: true, Spares: []buying.Spare{{Drawer: "resistors", Percent: 2}}})
		}
	}, false},
	{"BOMs.Rename", func(h housetest.House, n string) func(context.Context, deed.Call) (any, error) {
		b := h.Board(h.T, "Board "+n, "Ref,Qty,Note\nR1,1,see "+n+"\n")
		return func(ctx context.Context, c deed.Call) (any, error) {
			return h.BOMs.Rename(ctx, c, b.ID, b.Version, wire.BOMName{Name: "Bord " + n})
		}
	}, false},
	{"BOMs.SetFile", func(h housetest.House, n string) func(context.Context, deed.Call) (any, error) {
		b := h.Board(h.T, "Board "+n, "Ref,Qty,Note\nR1,1,see "+n+"\n")
		var files []wire.VariantFile
		for _, variant := range []string{"East", "West"} { // which are put together and kept as one before the deed
			f, err := h.Files.Keep(h.T.Context(), h.Me, variant+".csv", strings.NewReader("Ref,Qty,Value\nR1,1,next"+n+"\nR2,1,"+variant+"\n"))
			require.NoError(h.T, err)
			files = append(files, wire.VariantFile{Variant: variant, FileHash: f.Hash, FileName: f.Name})
		}
		return func(ctx context.Context, c deed.Call) (any, error) {
			return h.BOMs.SetFile(ctx, c, b.ID, b.Version, wire.BOMFile{Files: files})
		}
	}, false},
	{"BOMs.SayColumns", func(h housetest.House, n string) func(context.Context, deed.Call) (any, error) {
		b := h.Board(h.T, "Board "+n, "Ref,Qty,Extra "+n+"\nR1,1,x\n")
		return func(ctx context.Context, c deed.Call) (any, error) {
			return h.BOMs.SayColumns(ctx, c, b.ID, wire.BOMColumns{Columns: []wire.BOMColumn{{At: 2, Role: "remark"}}})
		}
	}, false},
	{"BOMs.SayEnding", func(h housetest.House, n string) func(context.Context, deed.Call) (any, error) {
		return func(ctx context.Context, c deed.Call) (any, error) {
			all, err := h.BOMs.SayEnding(ctx, c, wire.MPNEnding{Maker: "Maker " + n, Ending: "TR"})
			all.Items = slices.DeleteFunc(all.Items, func(e wire.MPNEnding) bool { return e.Maker != "Maker "+n })
			return all, err
		}
	}, false},
}
