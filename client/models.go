package client

import (
	"context"
	"io"
	"net/http"
	"net/url"
	"strconv"

	"jollydrawer/internal/wire"
)

// Models lists models; only narrows to unused, draft, stand-in or findings.
func (c *Client) Models(ctx context.Context, text, kind, only string, offset, limit int) (wire.ModelList, error) {
	q := paging(offset, limit)
	q.Set("q", text)
	q.Set("kind", kind)
	q.Set("only", only)
	return get[wire.ModelList](ctx, c, "/models", q)
}

// Model returns a model by ID, or by "KIND: NAME".
func (c *Client) Model(ctx context.Context, id string) (wire.Model, error) {
	return get[wire.Model](ctx, c, "/models/"+seg(id), nil)
}

// MakeModel makes a model.
func (c *Client) MakeModel(ctx context.Context, in wire.ModelEdit) (wire.Model, error) {
	return post[wire.Model](ctx, c, "/models", in)
}

// SaveModel replaces a model's draft.
func (c *Client) SaveModel(ctx context.Context, id string, version int, in wire.ModelEdit) (wire.Model, error) {
	return change[wire.Model](ctx, c, http.MethodPut, "/models/"+seg(id)+"/draft", version, in)
}

// ReleaseModel releases a model's draft.
func (c *Client) ReleaseModel(ctx context.Context, id string, version int, note string) (wire.Model, error) {
	return change[wire.Model](ctx, c, http.MethodPost, "/models/"+seg(id)+"/release", version, wire.Release{Note: note})
}

// ModelDiff compares two revisions of a model; 0 stands for the draft.
func (c *Client) ModelDiff(ctx context.Context, id string, from, to int) (wire.ModelDiff, error) {
	return get[wire.ModelDiff](ctx, c, "/models/"+seg(id)+"/diff", url.Values{"from": {strconv.Itoa(from)}, "to": {strconv.Itoa(to)}})
}

// ModelTrail returns a model's trail, newest first.
func (c *Client) ModelTrail(ctx context.Context, id string, offset, limit int) (wire.TrailList, error) {
	return get[wire.TrailList](ctx, c, "/models/"+seg(id)+"/trail", paging(offset, limit))
}

// WaiveModel accepts a finding on a model; a blank reason takes that back.
func (c *Client) WaiveModel(ctx context.Context, id string, version int, in wire.ModelWaive) (wire.Model, error) {
	return change[wire.Model](ctx, c, http.MethodPost, "/models/"+seg(id)+"/waiver", version, in)
}

// SignModel signs the check list of a model's newest revision.
func (c *Client) SignModel(ctx context.Context, id string, version int, against string) (wire.Model, error) {
	return change[wire.Model](ctx, c, http.MethodPost, "/models/"+seg(id)+"/sign", version, wire.NewSign{Against: against})
}

// ComparePins lays a symbol's pins beside a list.
func (c *Client) ComparePins(ctx context.Context, id string, in wire.PinsBeside) (wire.PinComparison, error) {
	return post[wire.PinComparison](ctx, c, "/models/"+seg(id)+"/compare-pins", in)
}

// TakeNewer moves parts to the newest revision of a model.
func (c *Client) TakeNewer(ctx context.Context, id string, parts []string) (wire.Mended, error) {
	return post[wire.Mended](ctx, c, "/models/"+seg(id)+"/take-newer", wire.TakeNewer{Parts: parts})
}

// ModelCauses groups the findings on all models by cause.
func (c *Client) ModelCauses(ctx context.Context, kind string) (wire.ModelCauses, error) {
	return get[wire.ModelCauses](ctx, c, "/model-causes", url.Values{"kind": {kind}})
}

// MendModels settles one cause on several models.
func (c *Client) MendModels(ctx context.Context, in wire.ModelMend) (wire.Mended, error) {
	return post[wire.Mended](ctx, c, "/model-mends", in)
}

// Twins lists the clusters of models that draw the same.
func (c *Client) Twins(ctx context.Context, kind string) (wire.TwinList, error) {
	return get[wire.TwinList](ctx, c, "/model-twins", url.Values{"kind": {kind}})
}

// MergeModels makes models lead to one of them.
func (c *Client) MergeModels(ctx context.Context, in wire.MergeModels) (wire.Mended, error) {
	return post[wire.Mended](ctx, c, "/model-merges", in)
}

// TakeMergingBack makes a model that was merged away one of its own again.
func (c *Client) TakeMergingBack(ctx context.Context, in wire.TakeMergingBack) (wire.Mended, error) {
	return post[wire.Mended](ctx, c, "/model-merges/taken-back", in)
}

// RenameModels renames or describes several models.
func (c *Client) RenameModels(ctx context.Context, in wire.RenameModels) (wire.Mended, error) {
	return post[wire.Mended](ctx, c, "/model-renames", in)
}

// Like lists land patterns like a model, or by pads, pitch and rows.
func (c *Client) Like(ctx context.Context, model string, pads int, pitch, row, within string) (wire.LikeList, error) {
	return get[wire.LikeList](ctx, c, "/land-patterns-like", url.Values{"model": {model}, "pads": {strconv.Itoa(pads)}, "pitch": {pitch}, "row": {row}, "within": {within}})
}

// TryLand makes land patterns from figures or from a table of pads for looking at them.
func (c *Client) TryLand(ctx context.Context, in wire.LandTry) (wire.LandTried, error) {
	return post[wire.LandTried](ctx, c, "/land-pattern-tries", in)
}

// TrySymbol makes a symbol from a pin table for looking at it.
func (c *Client) TrySymbol(ctx context.Context, in wire.SymbolTry) (wire.SymbolTried, error) {
	return post[wire.SymbolTried](ctx, c, "/symbol-tries", in)
}

// ModelFile reads a model in a form: own, edif, ipc2581, pad-table, step or original. The caller closes it.
func (c *Client) ModelFile(ctx context.Context, id, form string) (io.ReadCloser, error) {
	return c.stream(ctx, "/models/"+seg(id)+"/file", url.Values{"form": {form}})
}

// ModelPreview reads a model's drawing as SVG; the caller closes it.
func (c *Client) ModelPreview(ctx context.Context, id, theme string) (io.ReadCloser, error) {
	return c.stream(ctx, "/models/"+seg(id)+"/preview", url.Values{"theme": {theme}})
}

// TryDrawing makes changes to a drawing for looking at them.
func (c *Client) TryDrawing(ctx context.Context, in wire.DrawingTry) (wire.DrawingTried, error) {
	return post[wire.DrawingTried](ctx, c, "/drawing-tries", in)
}

// PartDrawing reads what a design tool takes of one part, with its facts: edif, ipc2581, or its symbol as svg. The caller closes it.
func (c *Client) PartDrawing(ctx context.Context, number, form string) (io.ReadCloser, error) {
	if form == "svg" {
		return c.stream(ctx, "/parts/"+seg(number)+"/symbol", nil)
	}
	return c.stream(ctx, "/parts/"+seg(number)+"/drawing", url.Values{"form": {form}})
}
