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

// finder adds the routes of looking parts up.
func (s *Server) finder(api huma.API) {
	v := s.Service
	register(s, api, http.MethodGet, "/parts", "find-parts", "parts", "Look parts up", func(ctx context.Context, c deed.Call, in *partSearch) (wire.PartList, error) {
		q, err := in.query(in.Filters)
		if err != nil {
			return wire.PartList{}, err
		}
		q.Offset, q.Limit, q.Facets = in.Offset, in.Limit, in.Facets
		return v.Finder.Search(ctx, c, q)
	})
	register(s, api, http.MethodGet, "/comparison", "compare-parts", "parts", "Two to six parts side by side", func(ctx context.Context, c deed.Call, in *struct {
		Reading
		Parts []string `query:"part,explode" maxItems:"20"`
	}) (wire.Comparison, error) {
		return v.Finder.Compare(ctx, c, in.Parts)
	})
	register(s, api, http.MethodGet, "/views", "list-views", "views", "Your saved views and those that others share", func(ctx context.Context, c deed.Call, _ *none) (wire.ViewList, error) { return v.Finder.Views(ctx, c) })
	register(s, api, http.MethodPost, "/views", "save-view", "views", "Save a view under its name", func(ctx context.Context, c deed.Call, in *struct {
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
}

type partSearch struct {
	Paged
	PartQuery
	Facets bool `query:"facets" doc:"Count the values of every parameter"`
}

type PartQuery struct {
	Query    string   `query:"q" maxLength:"500" doc:"Facts, such as 4k7 0805 1%"`
	Filters  []string `query:"f,explode" maxItems:"200" doc:"KEY:VALUE of a parameter, or of drawer, status, standing, manufacturer, missing, intake (what taking it in made or changed); a range is a..b, ..b or a.., a blank is -. What suppliers offer: offer.stock, offer.price (of the pieces, in the house's currency), offer.lead (days), offer.sources (on offer), offer.state"`
	Drawers  []string `query:"drawer,explode"`
	Status   []string `query:"status,explode" enum:"draft,released"`
	Standing []string `query:"standing,explode"`
	Sort     string   `query:"sort" maxLength:"200" doc:"Columns parted by commas, - before one for the largest first: number, description, manufacturer, mpn, drawer, status, standing, updated, offer.stock, offer.price, offer.lead, offer.sources, offer.state or parameters"`
	Down     bool     `query:"down" doc:"The first column largest first"`
	Group    string   `query:"group" maxLength:"60" doc:"A column by which parts are put together"`
	Columns  string   `query:"columns" maxLength:"2000" doc:"Keys of those that are shown, with commas between; a list of parts always has all and looks only whether there are such columns"`
	Pieces   int64    `query:"pieces" minimum:"0" maximum:"1000000000" doc:"That prices are of; 0 is 100"`
}

// query reads the question; a filter without a colon is refused with a sentence.
func (in PartQuery) query(filters []string) (finder.Query, error) {
	q := finder.Query{Text: in.Query, Filters: map[string][]string{}, Group: in.Group, Pieces: in.Pieces}
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
	q.Shown = keysOf(in.Columns)
	for i, key := range keysOf(in.Sort) {
		name, down := strings.CutPrefix(key, "-")
		q.Sort = append(q.Sort, finder.Order{Key: name, Down: down != (in.Down && i == 0)})
	}
	return q, nil
}

// keysOf reads keys with commas between.
func keysOf(list string) (out []string) {
	for _, key := range strings.Split(list, ",") {
		if key = strings.TrimSpace(key); key != "" {
			out = append(out, key)
		}
	}
	return out
}
