package client

import (
	"context"
	"io"
	"net/http"
	"net/url"
	"strconv"
	"strings"

	"jollydrawer/internal/wire"
)

// ExportBOM reads a BOM as a sheet; the caller closes it.
func (c *Client) ExportBOM(ctx context.Context, in wire.BOMSheet) (io.ReadCloser, error) {
	return c.stream(ctx, "/boms/"+seg(in.BOM)+"/export", url.Values{"format": {in.Format}, "form": {in.Form}, "revision": {strconv.Itoa(in.Revision)}, "boards": {strconv.FormatInt(in.Boards, 10)}, "variant": {in.Variant}})
}

// BringBOM brings in a BOM.
func (c *Client) BringBOM(ctx context.Context, in wire.NewBOM) (wire.BOM, error) {
	return post[wire.BOM](ctx, c, "/boms", in)
}

// BOMs lists BOMs.
func (c *Client) BOMs(ctx context.Context, offset, limit int) (wire.BOMList, error) {
	return get[wire.BOMList](ctx, c, "/boms", paging(offset, limit))
}

// BOM returns a BOM with its verdicts, of all variants of its board.
func (c *Client) BOM(ctx context.Context, key string) (wire.BOM, error) {
	return c.BOMOf(ctx, key, "")
}

// BOMOf returns a BOM as one variant of its board has it.
func (c *Client) BOMOf(ctx context.Context, key, variant string) (wire.BOM, error) {
	return get[wire.BOM](ctx, c, "/boms/"+seg(key), url.Values{"variant": {variant}})
}

// ChooseBOM accepts records for lines or takes choices back.
func (c *Client) ChooseBOM(ctx context.Context, key string, version int, in wire.BOMChoices) (wire.BOM, error) {
	return change[wire.BOM](ctx, c, http.MethodPost, "/boms/"+seg(key)+"/choices", version, in)
}

// DecideBOM is ChooseBOM with the lines alone in its answer that may be otherwise by it, where the service can tell.
func (c *Client) DecideBOM(ctx context.Context, key string, version int, in wire.BOMChoices) (wire.BOM, error) {
	return change[wire.BOM](ctx, c, http.MethodPost, "/boms/"+seg(key)+"/choices?lines=otherwise", version, in)
}

// BuildBOM says how many boards are built at once.
func (c *Client) BuildBOM(ctx context.Context, key string, version int, in wire.BOMBuild) (wire.BOM, error) {
	return change[wire.BOM](ctx, c, http.MethodPost, "/boms/"+seg(key)+"/build", version, in)
}

// BOMColumns says what the columns of a BOM mean, for all files with the same headings.
func (c *Client) BOMColumns(ctx context.Context, key string, in wire.BOMColumns) (wire.BOM, error) {
	return post[wire.BOM](ctx, c, "/boms/"+seg(key)+"/columns", in)
}

// MPNEndings lists the endings of MPNs that name a packing.
func (c *Client) MPNEndings(ctx context.Context) (wire.MPNEndings, error) {
	return get[wire.MPNEndings](ctx, c, "/mpn-endings", nil)
}

// SayMPNEnding confirms that an ending of a maker's MPNs names a packing, or takes it back.
func (c *Client) SayMPNEnding(ctx context.Context, in wire.MPNEnding) (wire.MPNEndings, error) {
	return post[wire.MPNEndings](ctx, c, "/mpn-endings", in)
}

// FreezeBOM makes the next revision of a BOM.
func (c *Client) FreezeBOM(ctx context.Context, key string, version int, in wire.FreezeBOM) (wire.BOM, error) {
	return change[wire.BOM](ctx, c, http.MethodPost, "/boms/"+seg(key)+"/freeze", version, in)
}

// BOMRevisions lists the revisions of a BOM, newest first.
func (c *Client) BOMRevisions(ctx context.Context, key string) (wire.BOMRevisions, error) {
	return get[wire.BOMRevisions](ctx, c, "/boms/"+seg(key)+"/revisions", nil)
}

// BOMRevision returns a revision of a BOM.
func (c *Client) BOMRevision(ctx context.Context, key string, revision int) (wire.FrozenBOM, error) {
	return get[wire.FrozenBOM](ctx, c, "/boms/"+seg(key)+"/revisions/"+strconv.Itoa(revision), nil)
}

// CompareBOMs says what two BOMs, or two revisions of one, differ in.
func (c *Client) CompareBOMs(ctx context.Context, from, to wire.BOMAt) (wire.BOMComparison, error) {
	q := url.Values{"revision": {strconv.Itoa(from.Revision)}, "with": {to.BOM}, "to": {strconv.Itoa(to.Revision)}, "variant": {from.Variant}, "with-variant": {to.Variant}}
	return get[wire.BOMComparison](ctx, c, "/boms/"+seg(from.BOM)+"/compare", q)
}

// RenameBOM gives a BOM another name.
func (c *Client) RenameBOM(ctx context.Context, key string, version int, in wire.BOMName) (wire.BOM, error) {
	return change[wire.BOM](ctx, c, http.MethodPost, "/boms/"+seg(key)+"/name", version, in)
}

// RemoveBOM removes a BOM that was never frozen.
func (c *Client) RemoveBOM(ctx context.Context, key string, version int) (wire.RemovedBOM, error) {
	return change[wire.RemovedBOM](ctx, c, http.MethodPost, "/boms/"+seg(key)+"/remove", version, struct{}{})
}

// ReplaceBOMFile lays another file of the same board in the place of a BOM's.
func (c *Client) ReplaceBOMFile(ctx context.Context, key string, version int, in wire.BOMFile) (wire.BOM, error) {
	return change[wire.BOM](ctx, c, http.MethodPost, "/boms/"+seg(key)+"/file", version, in)
}

// BOMBuying says how a BOM's parts are bought.
func (c *Client) BOMBuying(ctx context.Context, key string, version int, in wire.BuyingRules) (wire.BOM, error) {
	return change[wire.BOM](ctx, c, http.MethodPost, "/boms/"+seg(key)+"/buying", version, in)
}

// CostBOM says what builds of a BOM come to.
func (c *Client) CostBOM(ctx context.Context, at wire.BOMAt, boards int64, others []int64) (wire.BOMCost, error) {
	q := url.Values{"revision": {strconv.Itoa(at.Revision)}, "variant": {at.Variant}, "boards": {strconv.FormatInt(boards, 10)}}
	var list []string
	for _, n := range others {
		list = append(list, strconv.FormatInt(n, 10))
	}
	if len(list) > 0 {
		q.Set("others", strings.Join(list, ","))
	}
	return get[wire.BOMCost](ctx, c, "/boms/"+seg(at.BOM)+"/cost", q)
}

// CheckBOM reconciles a file as a BOM and writes nothing.
func (c *Client) CheckBOM(ctx context.Context, in wire.CheckBOM) (wire.BOMCheck, error) {
	return post[wire.BOMCheck](ctx, c, "/bom-check", in)
}

func revisionPath(at wire.BOMAt) string {
	return "/boms/" + seg(at.BOM) + "/revisions/" + strconv.Itoa(at.Revision)
}

// BuiltBOM notes that boards of a revision were built.
func (c *Client) BuiltBOM(ctx context.Context, at wire.BOMAt, in wire.BuiltBOM) (wire.FrozenBOM, error) {
	return post[wire.FrozenBOM](ctx, c, revisionPath(at)+"/builds", in)
}

// BuildProof says what a build used, and what it proves.
func (c *Client) BuildProof(ctx context.Context, at wire.BOMAt, build string) (wire.BuildProof, error) {
	return get[wire.BuildProof](ctx, c, revisionPath(at)+"/builds/"+seg(build), nil)
}

// ConfirmProof confirms that what a build used worked.
func (c *Client) ConfirmProof(ctx context.Context, at wire.BOMAt, build string, in wire.ConfirmProof) (wire.BuildProof, error) {
	return post[wire.BuildProof](ctx, c, revisionPath(at)+"/builds/"+seg(build), in)
}

// WaiveFindings accepts the findings of one cause in a BOM, or takes that back.
func (c *Client) WaiveFindings(ctx context.Context, key string, version int, in wire.WaiveFindings) (wire.BOM, error) {
	return change[wire.BOM](ctx, c, http.MethodPost, "/boms/"+seg(key)+"/waivers", version, in)
}

// MoveBOMOn takes the newer revisions of parts that a board holds on to older ones of.
func (c *Client) MoveBOMOn(ctx context.Context, key string, version int, in wire.MoveOnParts) (wire.BOM, error) {
	return change[wire.BOM](ctx, c, http.MethodPost, "/boms/"+seg(key)+"/move-on", version, in)
}

// SheetForms returns the sheets of the house.
func (c *Client) SheetForms(ctx context.Context) (wire.SheetForms, error) {
	return get[wire.SheetForms](ctx, c, "/bom-sheets", nil)
}

// ApplySheetForms keeps a document as the sheets of the house.
func (c *Client) ApplySheetForms(ctx context.Context, version int, text string) (wire.SheetForms, error) {
	return change[wire.SheetForms](ctx, c, http.MethodPut, "/bom-sheets", version, wire.SheetFormsEdit{Text: text})
}

// BOMSeverities returns how bad the house takes the findings of its BOMs.
func (c *Client) BOMSeverities(ctx context.Context) (wire.Severities, error) {
	return get[wire.Severities](ctx, c, "/bom-severities", nil)
}

// ApplyBOMSeverities keeps a document as how bad the house takes them.
func (c *Client) ApplyBOMSeverities(ctx context.Context, version int, text string) (wire.Severities, error) {
	return change[wire.Severities](ctx, c, http.MethodPut, "/bom-severities", version, wire.SeveritiesEdit{Text: text})
}

// BOMFunctions are the functions of a board that are bought as several parts.
func (c *Client) BOMFunctions(ctx context.Context, at wire.BOMAt, boards int64) (wire.BOMFunctions, error) {
	q := url.Values{"boards": {strconv.FormatInt(boards, 10)}}
	if at.Variant != "" {
		q.Set("variant", at.Variant)
	}
	return get[wire.BOMFunctions](ctx, c, "/boms/"+seg(at.BOM)+"/functions", q)
}
