package api

import (
	"context"
	"net/http"
	"strings"

	"github.com/danielgtaylor/huma/v2"

	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/service/finder"
	"jollydrawer/internal/wire"
)

type none struct{ Reading }

type ByKey struct {
	Reading
	Key string `path:"key" doc:"Identifier or number"`
}

type ByID struct {
	Reading
	ID string `path:"id" format:"uuid"`
}

func id(text string) (deed.ID, error) {
	v, err := deed.ParseID(text)
	if err != nil {
		err = &deed.Error{Kind: deed.Unknown, Type: "not-found", What: "There is nothing with this identifier."}
	}
	return v, err
}

// with parses an identifier and a version, then does fn.
func with[O any](text string, b BasedOn, fn func(deed.ID, int) (O, error)) (out O, err error) {
	v, err := b.version()
	if err != nil {
		return out, err
	}
	i, err := id(text)
	if err != nil {
		return out, err
	}
	return fn(i, v)
}

type TextInput struct {
	BasedOn
	Body wire.Text
}

type partSearch struct {
	Paged
	PartQuery
	Facets bool `query:"facets" doc:"Count the values of every parameter"`
}

type PartQuery struct {
	Query    string   `query:"q" maxLength:"500" doc:"Facts, such as 4k7 0805 1%"`
	Filters  []string `query:"f,explode" maxItems:"200" doc:"KEY:VALUE of a parameter, or of drawer, status, standing, manufacturer, missing; a range is a..b, a blank is -"`
	Drawers  []string `query:"drawer,explode"`
	Status   []string `query:"status,explode" enum:"draft,released"`
	Standing []string `query:"standing,explode"`
	Sort     string   `query:"sort" maxLength:"200" doc:"Columns parted by commas, - before one for the largest first: number, description, manufacturer, mpn, drawer, status, standing, updated or parameters"`
	Down     bool     `query:"down" doc:"The first column largest first"`
	Group    string   `query:"group" maxLength:"60" doc:"A column by which parts are put together"`
}

// query reads the question; a filter without a colon is refused with a sentence.
func (in PartQuery) query(filters []string) (finder.Query, error) {
	q := finder.Query{Text: in.Query, Filters: map[string][]string{}, Group: in.Group}
	for key, chosen := range map[string][]string{"drawer": in.Drawers, "status": in.Status, "standing": in.Standing} {
		if len(chosen) > 0 {
			q.Filters[key] = chosen
		}
	}
	for _, f := range filters {
		key, value, ok := strings.Cut(f, ":")
		if !ok || key == "" {
			return q, &deed.Error{Kind: deed.Invalid, Type: "filter-wrong", What: "The filter \"" + f + "\" names no parameter.", Mend: "Write it as KEY:VALUE, such as case:0805."}
		}
		q.Filters[key] = append(q.Filters[key], value)
	}
	for i, key := range strings.Split(in.Sort, ",") {
		if key = strings.TrimSpace(key); key != "" {
			name, down := strings.CutPrefix(key, "-")
			q.Sort = append(q.Sort, finder.Order{Key: name, Down: down != (in.Down && i == 0)})
		}
	}
	return q, nil
}

type partInput struct {
	Writing
	Body wire.PartEdit
}

type partChange[B any] struct {
	BasedOn
	Key  string `path:"key"`
	Body B
}

// library adds the routes of what the house keeps: cabinet, crosswalks, parts.
func (s *Server) library(api huma.API) {
	get, post, put := http.MethodGet, http.MethodPost, http.MethodPut
	v := s.Service
	register(s, api, get, "/cabinet", "get-cabinet", "cabinet", "The cabinet in force", func(ctx context.Context, c deed.Call, _ *none) (wire.Cabinet, error) { return v.Cabinets.Get(ctx, c) })
	register(s, api, put, "/cabinet", "apply-cabinet", "cabinet", "Apply a cabinet document (YAML or JSON)", func(ctx context.Context, c deed.Call, in *TextInput) (wire.Cabinet, error) {
		n, err := in.version()
		if err != nil {
			return wire.Cabinet{}, err
		}
		return v.Reform.Apply(ctx, c, n, in.Body.Text)
	})
	register(s, api, get, "/cabinet/history", "cabinet-history", "cabinet", "What was changed in the cabinet, newest first", func(ctx context.Context, c deed.Call, in *Paged) (wire.CabinetHistory, error) {
		return v.Reform.History(ctx, c, in.Offset, in.Limit)
	})
	register(s, api, post, "/cabinet/preview", "preview-change", "cabinet", "What a change of templates would do", func(ctx context.Context, c deed.Call, in *struct {
		Reading
		Body wire.CabinetChange
	}) (wire.ChangePreview, error) {
		return v.Reform.Preview(ctx, c, in.Body)
	})
	register(s, api, post, "/cabinet/changes", "change-cabinet", "cabinet", "Change templates that parts use, as a job", func(ctx context.Context, c deed.Call, in *struct {
		BasedOn
		Body wire.CabinetChange
	}) (wire.Job, error) {
		n, err := in.version()
		if err != nil {
			return wire.Job{}, err
		}
		return v.Reform.Start(ctx, c, n, in.Body)
	})
	register(s, api, get, "/drawers/{key}", "drawer-use", "cabinet", "How complete a drawer's parts are, and what names it", func(ctx context.Context, c deed.Call, in *ByKey) (wire.DrawerUse, error) {
		return v.Cabinets.DrawerUse(ctx, c, in.Key)
	})
	register(s, api, post, "/drawers/{key}/patterns", "try-patterns", "cabinet", "What patterns would make of real parts", func(ctx context.Context, c deed.Call, in *struct {
		ByKey
		Body wire.PatternTry
	}) ([]wire.PatternOf, error) {
		return v.Cabinets.TryPatterns(ctx, c, in.Key, in.Body)
	})
	register(s, api, get, "/crosswalks", "list-crosswalks", "crosswalks", "All crosswalks", func(ctx context.Context, c deed.Call, in *Paged) (wire.CrosswalkList, error) {
		return v.Cabinets.Crosswalks(ctx, c, in.Offset, in.Limit)
	})
	register(s, api, get, "/crosswalks/{key}", "get-crosswalk", "crosswalks", "A supplier's crosswalk", func(ctx context.Context, c deed.Call, in *ByKey) (wire.Crosswalk, error) {
		return v.Cabinets.Crosswalk(ctx, c, in.Key)
	})
	register(s, api, put, "/crosswalks", "apply-crosswalk", "crosswalks", "Apply a crosswalk document to the supplier it names", func(ctx context.Context, c deed.Call, in *TextInput) (wire.Crosswalk, error) {
		n, err := in.version()
		if err != nil {
			return wire.Crosswalk{}, err
		}
		return v.Cabinets.ApplyCrosswalk(ctx, c, n, in.Body.Text)
	})

	register(s, api, get, "/parts", "find-parts", "parts", "Look parts up", func(ctx context.Context, c deed.Call, in *partSearch) (wire.PartList, error) {
		q, err := in.query(in.Filters)
		if err != nil {
			return wire.PartList{}, err
		}
		q.Offset, q.Limit, q.Facets = in.Offset, in.Limit, in.Facets
		return v.Finder.Search(ctx, c, q)
	})
	register(s, api, post, "/parts", "make-part", "parts", "Make a part as a draft", func(ctx context.Context, c deed.Call, in *partInput) (wire.Part, error) {
		return v.Parts.Create(ctx, c, in.Body)
	})
	register(s, api, get, "/parts/{key}/copy", "copy-part", "parts", "A part as the beginning of another that is nearly the same: nothing in it names the old one's MPN", func(ctx context.Context, c deed.Call, in *ByKey) (wire.PartEdit, error) {
		return v.Parts.CopyOf(ctx, c, in.Key)
	})
	register(s, api, get, "/parts/{key}", "get-part", "parts", "A part with draft, released content and revisions", func(ctx context.Context, c deed.Call, in *ByKey) (wire.Part, error) {
		return v.Parts.Get(ctx, c, in.Key)
	})
	register(s, api, put, "/parts/{key}/draft", "save-draft", "parts", "Replace a part's draft", func(ctx context.Context, c deed.Call, in *partChange[wire.PartEdit]) (wire.Part, error) {
		n, err := in.version()
		if err != nil {
			return wire.Part{}, err
		}
		return v.Parts.Save(ctx, c, in.Key, n, in.Body)
	})
	register(s, api, post, "/parts/{key}/release", "release-part", "parts", "Freeze the draft as the next revision", func(ctx context.Context, c deed.Call, in *partChange[wire.Release]) (wire.Part, error) {
		n, err := in.version()
		if err != nil {
			return wire.Part{}, err
		}
		return v.Lifecycles.Release(ctx, c, in.Key, n, in.Body)
	})
	register(s, api, post, "/parts/{key}/standing", "set-standing", "parts", "Say how a part may be used", func(ctx context.Context, c deed.Call, in *partChange[wire.Standing]) (wire.Part, error) {
		n, err := in.version()
		if err != nil {
			return wire.Part{}, err
		}
		return v.Lifecycles.SetStanding(ctx, c, in.Key, n, in.Body)
	})
	register(s, api, post, "/releases", "release-parts", "parts", "Release several drafts in one deed: all or none", func(ctx context.Context, c deed.Call, in *struct {
		Writing
		Body wire.BulkRelease
	}) (wire.Released, error) {
		return v.Lifecycles.ReleaseMany(ctx, c, in.Body)
	})
	register(s, api, post, "/parts/{key}/merge", "merge-part", "parts", "Make a part lead to another", func(ctx context.Context, c deed.Call, in *partChange[wire.Merge]) (wire.Part, error) {
		n, err := in.version()
		if err != nil {
			return wire.Part{}, err
		}
		return v.Parts.Merge(ctx, c, in.Key, n, in.Body)
	})
	register(s, api, post, "/parts/{key}/successor", "set-successor", "parts", "Name the part that replaces another", func(ctx context.Context, c deed.Call, in *partChange[wire.SuccessorEdit]) (wire.Part, error) {
		n, err := in.version()
		if err != nil {
			return wire.Part{}, err
		}
		return v.Parts.SetSuccessor(ctx, c, in.Key, n, in.Body)
	})
	register(s, api, post, "/parts/{key}/former-numbers", "add-former-number", "parts", "Let another number find a part", func(ctx context.Context, c deed.Call, in *partChange[wire.FormerNumber]) (wire.Part, error) {
		n, err := in.version()
		if err != nil {
			return wire.Part{}, err
		}
		return v.Parts.AddFormer(ctx, c, in.Key, n, in.Body)
	})
	register(s, api, post, "/alike", "alike", "parts", "Parts that an edit would equal in the identifying parameters", func(ctx context.Context, c deed.Call, in *partInput) ([]string, error) {
		return v.Parts.Alike(ctx, c, in.Body)
	})
	register(s, api, get, "/comparison", "compare-parts", "parts", "Two to six parts side by side", func(ctx context.Context, c deed.Call, in *struct {
		Reading
		Parts []string `query:"part,explode" maxItems:"20"`
	}) (wire.Comparison, error) {
		return v.Finder.Compare(ctx, c, in.Parts)
	})
	register(s, api, get, "/views", "list-views", "views", "Your saved views and those that others share", func(ctx context.Context, c deed.Call, _ *none) (wire.ViewList, error) { return v.Finder.Views(ctx, c) })
	register(s, api, post, "/views", "save-view", "views", "Save a view under its name", func(ctx context.Context, c deed.Call, in *struct {
		Writing
		Body wire.ViewEdit
	}) (wire.View, error) {
		return v.Finder.SaveView(ctx, c, in.Body)
	})
	register(s, api, http.MethodDelete, "/views/{id}", "drop-view", "views", "Remove a view of yours", func(ctx context.Context, c deed.Call, in *struct {
		Writing
		ID string `path:"id" format:"uuid"`
	}) (wire.ViewList, error) {
		i, err := id(in.ID)
		if err != nil {
			return wire.ViewList{}, err
		}
		return v.Finder.DropView(ctx, c, i)
	})
	register(s, api, get, "/parts/{key}/revisions/{number}", "get-revision", "parts", "A released revision", func(ctx context.Context, c deed.Call, in *struct {
		ByKey
		Number int `path:"number" minimum:"1"`
	}) (wire.PartContent, error) {
		return v.Parts.Revision(ctx, c, in.Key, in.Number)
	})
	register(s, api, get, "/parts/{key}/diff", "diff-part", "parts", "Compare two revisions; 0 stands for the draft", func(ctx context.Context, c deed.Call, in *struct {
		ByKey
		From int `query:"from" minimum:"0"`
		To   int `query:"to" minimum:"0"`
	}) (wire.Diff, error) {
		return v.Parts.Diff(ctx, c, in.Key, in.From, in.To)
	})
	register(s, api, get, "/parts/{key}/trail", "part-trail", "parts", "Who did what to a part, newest first", func(ctx context.Context, c deed.Call, in *struct {
		Paged
		Key string `path:"key"`
	}) (wire.TrailList, error) {
		return v.Parts.Trail(ctx, c, in.Key, in.Offset, in.Limit)
	})
}

// work adds the routes of what passes through: jobs, BOMs.
func (s *Server) work(api huma.API) {
	get, post := http.MethodGet, http.MethodPost
	v := s.Service
	register(s, api, get, "/jobs/{id}", "get-job", "jobs", "How far a job is", func(ctx context.Context, c deed.Call, in *ByID) (wire.Job, error) {
		i, err := id(in.ID)
		if err != nil {
			return wire.Job{}, err
		}
		return v.Work.Get(ctx, c, i)
	})
	register(s, api, post, "/jobs/{id}/stop", "stop-job", "jobs", "Stop a job; it leaves nothing behind", func(ctx context.Context, c deed.Call, in *struct {
		Writing
		ID string `path:"id" format:"uuid"`
	}) (wire.Job, error) {
		i, err := id(in.ID)
		if err != nil {
			return wire.Job{}, err
		}
		return v.Work.Stop(ctx, c, i)
	})

	register(s, api, get, "/boms", "list-boms", "boms", "All BOMs, newest first", func(ctx context.Context, c deed.Call, in *Paged) (wire.BOMList, error) {
		return v.BOMs.List(ctx, c, in.Offset, in.Limit)
	})
	register(s, api, post, "/boms", "bring-bom", "boms", "Bring in a BOM and reconcile it", func(ctx context.Context, c deed.Call, in *struct {
		Writing
		Body wire.NewBOM
	}) (wire.BOM, error) {
		return v.BOMs.Bring(ctx, c, in.Body)
	})
	register(s, api, get, "/boms/{key}", "get-bom", "boms", "A BOM with a verdict on every line", func(ctx context.Context, c deed.Call, in *ByKey) (wire.BOM, error) { return v.BOMs.Get(ctx, c, in.Key) })
	register(s, api, post, "/boms/{key}/choices", "choose-bom", "boms", "Accept records for lines, or take choices back", func(ctx context.Context, c deed.Call, in *partChange[wire.BOMChoices]) (wire.BOM, error) {
		n, err := in.version()
		if err != nil {
			return wire.BOM{}, err
		}
		return v.BOMs.Choose(ctx, c, in.Key, n, in.Body)
	})
	register(s, api, post, "/boms/{key}/columns", "confirm-bom-columns", "boms", "Say what the columns of a BOM mean, for all files with the same headings", func(ctx context.Context, c deed.Call, in *struct {
		Writing
		Key  string `path:"key"`
		Body wire.BOMColumns
	}) (wire.BOM, error) {
		return v.BOMs.SayColumns(ctx, c, in.Key, in.Body)
	})
	register(s, api, get, "/mpn-endings", "list-mpn-endings", "boms", "Endings of MPNs that name a packing, by maker", func(ctx context.Context, c deed.Call, _ *none) (wire.MPNEndings, error) {
		return v.BOMs.Endings(ctx, c)
	})
	register(s, api, post, "/mpn-endings", "say-mpn-ending", "boms", "Confirm that an ending of a maker's MPNs names a packing, for all BOMs, or take it back", func(ctx context.Context, c deed.Call, in *struct {
		Writing
		Body wire.MPNEnding
	}) (wire.MPNEndings, error) {
		return v.BOMs.SayEnding(ctx, c, in.Body)
	})
	register(s, api, post, "/verification", "verify", "administration", "Recompute hashes, chains and projections; the answer is the job that does it", func(ctx context.Context, c deed.Call, _ *struct{ Writing }) (wire.Job, error) {
		return v.Audit.Start(ctx, c)
	})
}
