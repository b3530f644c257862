package api

import (
	"cmp"
	"context"
	"net/http"

	"github.com/danielgtaylor/huma/v2"

	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/wire"
)

// boms adds the routes of BOMs.
func (s *Server) boms(api huma.API) {
	v := s.Service
	register(s, api, http.MethodGet, "/boms", "list-boms", "boms", "All BOMs, newest first", func(ctx context.Context, c deed.Call, in *Paged) (wire.BOMList, error) {
		return v.BOMs.List(ctx, c, in.Offset, in.Limit)
	})
	register(s, api, http.MethodPost, "/boms", "bring-bom", "boms", "Bring in a BOM and reconcile it", func(ctx context.Context, c deed.Call, in *struct {
		Writing
		Body wire.NewBOM
	}) (wire.BOM, error) {
		return v.BOMs.Bring(ctx, c, in.Body)
	})
	register(s, api, http.MethodGet, "/boms/{key}", "get-bom", "boms", "A BOM with a verdict on every line, of all variants of its board or of one", func(ctx context.Context, c deed.Call, in *struct {
		Reading
		Key     string `path:"key"`
		Variant string `query:"variant" maxLength:"60" doc:"As this variant of the board has it; blank: all lines"`
	}) (wire.BOM, error) {
		return v.BOMs.GetOf(ctx, c, in.Key, in.Variant)
	})
	register(s, api, http.MethodPost, "/boms/{key}/choices", "choose-bom", "boms", "Accept records for lines, or take choices back", func(ctx context.Context, c deed.Call, in *struct {
		BasedOn
		Key   string `path:"key"`
		Lines string `query:"lines" enum:"all,otherwise" doc:"Lines of the answer: all, or those alone that may be otherwise than in the version that is named"`
		Body  wire.BOMChoices
	}) (wire.BOM, error) {
		return change(&partChange[wire.BOMChoices]{BasedOn: in.BasedOn, Key: in.Key, Body: in.Body}, func(key string, version int, b wire.BOMChoices) (wire.BOM, error) {
			if in.Lines == "otherwise" {
				return v.BOMs.ChooseSome(ctx, c, key, version, b)
			}
			return v.BOMs.Choose(ctx, c, key, version, b)
		})
	})
	register(s, api, http.MethodPost, "/boms/{key}/build", "say-bom-build", "boms", "Say how many boards are built at once", func(ctx context.Context, c deed.Call, in *partChange[wire.BOMBuild]) (wire.BOM, error) {
		return change(in, func(key string, version int, b wire.BOMBuild) (wire.BOM, error) {
			return v.BOMs.SetBuild(ctx, c, key, version, b)
		})
	})
	register(s, api, http.MethodPost, "/boms/{key}/waivers", "waive-findings", "boms", "Accept the findings of one cause, of some lines or of all that have it, or take that back", func(ctx context.Context, c deed.Call, in *partChange[wire.WaiveFindings]) (wire.BOM, error) {
		return change(in, func(key string, version int, b wire.WaiveFindings) (wire.BOM, error) {
			return v.BOMs.Waive(ctx, c, key, version, b)
		})
	})
	register(s, api, http.MethodPost, "/boms/{key}/move-on", "move-bom-on", "boms", "Take the newer revisions of parts that the board holds on to older ones of", func(ctx context.Context, c deed.Call, in *partChange[wire.MoveOnParts]) (wire.BOM, error) {
		return change(in, func(key string, version int, b wire.MoveOnParts) (wire.BOM, error) {
			return v.BOMs.MoveOn(ctx, c, key, version, b)
		})
	})
	register(s, api, http.MethodGet, "/boms/{key}/functions", "list-bom-functions", "boms", "Functions of a board that are bought as several parts, and what its build would come to with one for each", func(ctx context.Context, c deed.Call, in *struct {
		Reading
		Key     string `path:"key"`
		Variant string `query:"variant" maxLength:"60" doc:"Of the board; blank: the one that is built"`
		Boards  int64  `query:"boards" minimum:"0" maximum:"10000000" doc:"0: those of its build"`
	}) (wire.BOMFunctions, error) {
		return v.BOMs.Unite(ctx, c, wire.BOMAt{BOM: in.Key, Variant: in.Variant}, in.Boards)
	})
	s.severities(api)
	s.bomRevisions(api)
	s.bomReadings(api)
	register(s, api, http.MethodPost, "/bom-check", "check-bom", "boms", "Reconcile a file as a BOM and write nothing", func(ctx context.Context, c deed.Call, in *struct {
		Reading
		Body wire.CheckBOM
	}) (wire.BOMCheck, error) {
		return v.BOMs.Check(ctx, c, in.Body)
	})
	register(s, api, http.MethodPost, "/boms/{key}/buying", "say-bom-buying", "boms", "Say how a BOM's parts are bought", func(ctx context.Context, c deed.Call, in *partChange[wire.BuyingRules]) (wire.BOM, error) {
		return change(in, func(key string, version int, b wire.BuyingRules) (wire.BOM, error) {
			return v.BOMs.SetBuying(ctx, c, key, version, b)
		})
	})
	register(s, api, http.MethodGet, "/boms/{key}/cost", "cost-bom", "boms", "What builds of a BOM come to by what suppliers said last, what is bought where, and what it lacks", func(ctx context.Context, c deed.Call, in *struct {
		Reading
		Key      string  `path:"key"`
		Revision int     `query:"revision" minimum:"0" doc:"0: as it is now"`
		Variant  string  `query:"variant" maxLength:"60" doc:"Of the board; blank: the one that is built"`
		Boards   int64   `query:"boards" minimum:"0" maximum:"1000000" doc:"0: those of its build"`
		Others   []int64 `query:"others" maxItems:"20" doc:"Numbers of boards to draw beside; usually 1, 10, 100, 1000"`
	}) (wire.BOMCost, error) {
		return v.BOMs.Cost(ctx, c, wire.BOMAt{BOM: in.Key, Revision: in.Revision, Variant: in.Variant}, in.Boards, in.Others)
	})
	register(s, api, http.MethodPost, "/boms/{key}/name", "rename-bom", "boms", "Give a BOM another name", func(ctx context.Context, c deed.Call, in *partChange[wire.BOMName]) (wire.BOM, error) {
		return change(in, func(key string, version int, b wire.BOMName) (wire.BOM, error) {
			return v.BOMs.Rename(ctx, c, key, version, b)
		})
	})
	register(s, api, http.MethodPost, "/boms/{key}/remove", "remove-bom", "boms", "Remove a BOM that was never frozen; its name is free again, its trail stays", func(ctx context.Context, c deed.Call, in *partChange[struct{}]) (wire.RemovedBOM, error) {
		return change(in, func(key string, version int, _ struct{}) (wire.RemovedBOM, error) {
			return v.BOMs.Remove(ctx, c, key, version)
		})
	})
	register(s, api, http.MethodPost, "/boms/{key}/file", "replace-bom-file", "boms", "Lay another file of the same board in its place; decisions stay for lines that say the same", func(ctx context.Context, c deed.Call, in *partChange[wire.BOMFile]) (wire.BOM, error) {
		return change(in, func(key string, version int, b wire.BOMFile) (wire.BOM, error) {
			return v.BOMs.SetFile(ctx, c, key, version, b)
		})
	})
	register(s, api, http.MethodPost, "/boms/{key}/columns", "confirm-bom-columns", "boms", "Say what the columns of a BOM mean, for all files with the same headings", func(ctx context.Context, c deed.Call, in *struct {
		Writing
		Key  string `path:"key"`
		Body wire.BOMColumns
	}) (wire.BOM, error) {
		return v.BOMs.SayColumns(ctx, c, in.Key, in.Body)
	})
	register(s, api, http.MethodGet, "/mpn-endings", "list-mpn-endings", "boms", "Endings of MPNs that name a packing, by maker", func(ctx context.Context, c deed.Call, _ *none) (wire.MPNEndings, error) {
		return v.BOMs.Endings(ctx, c)
	})
	register(s, api, http.MethodPost, "/mpn-endings", "say-mpn-ending", "boms", "Confirm that an ending of a maker's MPNs names a packing, for all BOMs, or take it back", func(ctx context.Context, c deed.Call, in *struct {
		Writing
		Body wire.MPNEnding
	}) (wire.MPNEndings, error) {
		return v.BOMs.SayEnding(ctx, c, in.Body)
	})
}

// bomRevisions adds the routes of what is frozen of BOMs.
func (s *Server) bomReadings(api huma.API) {
	v := s.Service
	register(s, api, http.MethodPost, "/boms/{key}/origin", "say-bom-origin", "boms", "Say who or what a BOM's files come from: what was taught for that origin counts", func(ctx context.Context, c deed.Call, in *partChange[wire.BOMOrigin]) (wire.BOM, error) {
		return change(in, func(key string, version int, b wire.BOMOrigin) (wire.BOM, error) {
			return v.BOMs.SetOrigin(ctx, c, key, version, b)
		})
	})
	register(s, api, http.MethodGet, "/bom-readings", "list-bom-readings", "boms", "What people taught that lines of BOMs stand for, by layout and origin, the newest first", func(ctx context.Context, c deed.Call, in *struct {
		Reading
		Paged
		BOM string `query:"bom" maxLength:"200" doc:"For files like this BOM's only: its identifier or name"`
	}) (wire.Readings, error) {
		return v.BOMs.Readings(ctx, c, wire.ReadingsAsked{BOM: in.BOM, Offset: in.Offset, Limit: in.Limit})
	})
	register(s, api, http.MethodPost, "/bom-readings/withdraw", "withdraw-bom-reading", "boms", "Take back what somebody taught; lines that it linked are open again", func(ctx context.Context, c deed.Call, in *struct {
		Writing
		Body wire.WithdrawReading
	}) (wire.Readings, error) {
		return v.BOMs.WithdrawReading(ctx, c, in.Body)
	})
}

func (s *Server) bomRevisions(api huma.API) {
	v := s.Service
	register(s, api, http.MethodPost, "/boms/{key}/freeze", "freeze-bom", "boms", "Make the next revision of a BOM: every line pinned to the exact revision of its part", func(ctx context.Context, c deed.Call, in *partChange[wire.FreezeBOM]) (wire.BOM, error) {
		return change(in, func(key string, version int, b wire.FreezeBOM) (wire.BOM, error) {
			return v.BOMs.Freeze(ctx, c, key, version, b)
		})
	})
	register(s, api, http.MethodGet, "/boms/{key}/revisions", "list-bom-revisions", "boms", "The revisions of a BOM, newest first", func(ctx context.Context, c deed.Call, in *ByKey) (wire.BOMRevisions, error) {
		return v.BOMs.Revisions(ctx, c, in.Key)
	})
	register(s, api, http.MethodGet, "/boms/{key}/revisions/{revision}", "get-bom-revision", "boms", "A revision of a BOM, with what became otherwise in the library since", func(ctx context.Context, c deed.Call, in *struct {
		Reading
		Key      string `path:"key"`
		Revision int    `path:"revision" minimum:"1"`
	}) (wire.FrozenBOM, error) {
		return v.BOMs.Revision(ctx, c, in.Key, in.Revision)
	})
	register(s, api, http.MethodPost, "/boms/{key}/revisions/{revision}/builds", "say-bom-built", "boms", "Note that boards of a revision were built and work; what that proves is proposed", func(ctx context.Context, c deed.Call, in *struct {
		Writing
		Key      string `path:"key"`
		Revision int    `path:"revision" minimum:"1"`
		Body     wire.BuiltBOM
	}) (wire.FrozenBOM, error) {
		return v.BOMs.SetBuilt(ctx, c, in.Key, in.Revision, in.Body)
	})
	register(s, api, http.MethodGet, "/boms/{key}/revisions/{revision}/builds/{build}", "get-bom-proof", "boms", "The exact revisions of parts and models that a build used, and which of them it is confirmed to prove", func(ctx context.Context, c deed.Call, in *struct {
		Reading
		Key      string `path:"key"`
		Revision int    `path:"revision" minimum:"1"`
		Build    string `path:"build"`
	}) (wire.BuildProof, error) {
		return v.BOMs.Proof(ctx, c, in.Key, in.Revision, in.Build)
	})
	register(s, api, http.MethodPost, "/boms/{key}/revisions/{revision}/builds/{build}", "confirm-bom-proof", "boms", "Confirm that what a build used worked: all that it proposes, or some", func(ctx context.Context, c deed.Call, in *struct {
		Writing
		Key      string `path:"key"`
		Revision int    `path:"revision" minimum:"1"`
		Build    string `path:"build"`
		Body     wire.ConfirmProof
	}) (wire.BuildProof, error) {
		return v.BOMs.Confirm(ctx, c, in.Key, in.Revision, in.Build, in.Body)
	})
	register(s, api, http.MethodGet, "/boms/{key}/compare", "compare-boms", "boms", "What two BOMs, or two revisions of one, differ in, by designator", func(ctx context.Context, c deed.Call, in *struct {
		Reading
		Key      string `path:"key"`
		Revision int    `query:"revision" minimum:"0" doc:"0: as it is now"`
		With     string `query:"with" doc:"Another BOM; blank: the same"`
		To       int    `query:"to" minimum:"0" doc:"The revision of the other; 0: as it is now"`
		Variant  string `query:"variant" maxLength:"60" doc:"Of the board; blank: all lines"`
		WithOf   string `query:"with-variant" maxLength:"60" doc:"Of the other; blank: all lines"`
	}) (wire.BOMComparison, error) {
		return v.BOMs.Compare(ctx, c, wire.BOMAt{BOM: in.Key, Revision: in.Revision, Variant: in.Variant}, wire.BOMAt{BOM: cmp.Or(in.With, in.Key), Revision: in.To, Variant: in.WithOf})
	})
}

// severities adds the routes of how bad the house takes findings.
func (s *Server) severities(api huma.API) {
	v := s.Service
	register(s, api, http.MethodGet, "/bom-sheets", "get-bom-sheets", "boms", "The sheets of the house, beside the usual ones", func(ctx context.Context, c deed.Call, _ *none) (wire.SheetForms, error) {
		return v.BOMs.SheetForms(ctx, c)
	})
	register(s, api, http.MethodPut, "/bom-sheets", "apply-bom-sheets", "boms", "Keep a document as the sheets of the house", func(ctx context.Context, c deed.Call, in *struct {
		BasedOn
		Body wire.SheetFormsEdit
	}) (wire.SheetForms, error) {
		n, err := in.version()
		if err != nil {
			return wire.SheetForms{}, err
		}
		return v.BOMs.ApplySheetForms(ctx, c, n, in.Body)
	})
	register(s, api, http.MethodGet, "/bom-severities", "get-bom-severities", "boms", "How bad the house takes the findings of its BOMs", func(ctx context.Context, c deed.Call, _ *none) (wire.Severities, error) {
		return v.BOMs.Severities(ctx, c)
	})
	register(s, api, http.MethodPut, "/bom-severities", "apply-bom-severities", "boms", "Keep a document as how bad the house takes them, in every BOM and for every check", func(ctx context.Context, c deed.Call, in *struct {
		BasedOn
		Body wire.SeveritiesEdit
	}) (wire.Severities, error) {
		n, err := in.version()
		if err != nil {
			return wire.Severities{}, err
		}
		return v.BOMs.ApplySeverities(ctx, c, n, in.Body)
	})
}
