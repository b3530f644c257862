package api

import (
	"context"
	"net/http"

	"github.com/danielgtaylor/huma/v2"

	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/wire"
)

// boards are the questions about all boards at once.
func (s *Server) boards(api huma.API) {
	v := s.Service
	register(s, api, http.MethodGet, "/where-used", "where-used", "boms", "On which boards and revisions of boards a part is, or the parts of a maker, a source, a supplier, a model or a datasheet, or another board, with designators and pieces; and what could stand in for them", func(ctx context.Context, c deed.Call, in *struct {
		Reading
		Paged
		Part     string `query:"part" maxLength:"200" doc:"Number or ID"`
		Maker    string `query:"maker" maxLength:"200"`
		MPN      string `query:"mpn" maxLength:"200" doc:"With its maker, or of any"`
		Supplier string `query:"supplier" maxLength:"200" doc:"Who sells it, by the numbers of sources or by offers"`
		Model    string `query:"model" maxLength:"200" doc:"Number or ID"`
		Sheet    string `query:"datasheet" maxLength:"200" doc:"A part of its file's name, or its hash"`
		Board    string `query:"board" maxLength:"200" doc:"Name or ID of a BOM that others take"`
		Instead  bool   `query:"instead" doc:"Say what is left of each part, and what could take its place, were it gone"`
	}) (wire.WhereUsed, error) {
		return v.BOMs.WhereUsed(ctx, c, wire.UsedAsked{Part: in.Part, Maker: in.Maker, MPN: in.MPN, Supplier: in.Supplier, Model: in.Model, Datasheet: in.Sheet, Board: in.Board, Instead: in.Instead, Offset: in.Offset, Limit: in.Limit})
	})
	register(s, api, http.MethodPost, "/replacements", "replace-part", "boms", "Put a part in another's place on several boards: without a digest it says what that would do, with the digest of what was looked at it is done in one deed", func(ctx context.Context, c deed.Call, in *struct {
		Writing
		Body wire.Replacement
	}) (wire.Replaced, error) {
		return v.BOMs.Replace(ctx, c, in.Body)
	})
}
