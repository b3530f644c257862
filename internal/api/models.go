package api

import (
	"bytes"
	"context"
	"crypto/sha256"
	"encoding/hex"
	"fmt"
	"io"
	"net/http"
	"strconv"
	"strings"

	"github.com/danielgtaylor/huma/v2"
	"github.com/gin-gonic/gin"

	"jollydrawer/internal/api/sending"
	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/service/models"
	"jollydrawer/internal/wire"
)

// pictures adds the routes that give drawings and archives.
func (s *Server) pictures(r *gin.Engine) {
	night := func(c *gin.Context) bool { return c.Query("theme") == "night" }
	marked := func(c *gin.Context) []string {
		return strings.FieldsFunc(c.Query("mark"), func(r rune) bool { return r == ',' })
	}
	r.GET("/api/v1/models/:id/preview", func(c *gin.Context) {
		unit, _ := strconv.Atoi(c.Query("unit")) // anything but a number shows all units
		revision, _ := strconv.Atoi(c.Query("revision"))
		svg, err := s.Service.Models.Preview(c.Request.Context(), ginCall(c), c.Param("id"), models.Sight{Content: c.Query("content"), Revision: revision, Night: night(c),
			Small: c.Query("small") != "", Unit: unit, Marked: marked(c), Letter: c.Query("letter"), Beside: c.Query("beside")})
		s.picture(c, svg, err)
	})
	r.GET("/api/v1/parts/:key/board", func(c *gin.Context) {
		svg, err := s.Service.Fitting.Board(c.Request.Context(), ginCall(c), c.Param("key"), night(c), placing(c), marked(c))
		s.picture(c, svg, err)
	})
	r.GET("/api/v1/parts/:key/symbol", func(c *gin.Context) {
		svg, err := s.Service.Fitting.SymbolOf(c.Request.Context(), ginCall(c), c.Param("key"), night(c))
		s.picture(c, svg, err)
	})
	r.GET("/api/v1/parts/:key/drawing", func(c *gin.Context) {
		raw, name, err := s.Service.Fitting.PartFile(c.Request.Context(), ginCall(c), c.Param("key"), c.DefaultQuery("form", "edif"))
		if err != nil {
			s.refuse(c, err)
			return
		}
		attach(c, name, int64(len(raw)))
		_, _ = io.Copy(c.Writer, bytes.NewReader(raw))
	})
	r.GET("/api/v1/deliveries/:key/models/:model/preview", func(c *gin.Context) {
		svg, err := s.Service.Deliveries.Preview(c.Request.Context(), ginCall(c), c.Param("key"), c.Param("model"), night(c), c.Query("small") != "")
		s.picture(c, svg, err)
	})
	r.GET("/api/v1/models/:id/file", func(c *gin.Context) {
		raw, name, err := s.Service.Models.File(c.Request.Context(), ginCall(c), c.Param("id"), c.DefaultQuery("form", "own"))
		if err != nil {
			s.refuse(c, err)
			return
		}
		attach(c, name, int64(len(raw)))
		_, _ = io.Copy(c.Writer, bytes.NewReader(raw))
	})
	folder := func(c *gin.Context) {
		name := "readout-folder.zip"
		if k := c.Param("key"); k != "" {
			name = k + ".zip"
		}
		s.export(c, name, func(w io.Writer) error {
			return s.Service.Readout.WriteFolder(c.Request.Context(), ginCall(c), c.Param("key"), w)
		})
	}
	r.GET("/api/v1/readout-folder", folder)
	r.GET("/api/v1/parts/:key/models", folder)
}

// describePictures describes the drawings and archives in the document.
func (s *Server) describePictures(d describing) {
	const svg = "image/svg+xml"
	theme, mark := asks{"theme", "night: on a dark ground"}, asks{"mark", "Pins that stand out, with commas between"}
	d.add("draw-model", http.MethodGet, "/models/{id}/preview", "models", "A model as a drawing", svg, nil, theme, mark, asks{"content", "Exactly these, by identifier"}, asks{"revision", "A revision; what it is now where it is not said"}, asks{"small", "As a picture beside a line"}, asks{"unit", "One unit of several"}, asks{"letter", "Of the designator"}, asks{"beside", "In the scale of another model"})
	d.add("export-model", http.MethodGet, "/models/{id}/file", "models", "A model as a file", anyFile, nil, asks{"form", "own, original, or an open form"})
	d.add("draw-part", http.MethodGet, "/parts/{key}/board", "models", "A part's body on its land pattern", svg, nil, theme, mark, asks{"placing", "One of the ways that are proposed for the body"}, asks{"v", "The version that is shown: nothing but a new address for a browser"})
	d.add("draw-part-symbol", http.MethodGet, "/parts/{key}/symbol", "models", "A part's symbol with its pins and values", svg, nil, theme)
	d.add("export-part-drawings", http.MethodGet, "/parts/{key}/drawing", "models", "A part's drawings in an open form", anyFile, nil, asks{"form", "edif or ipc2581"})
	d.add("draw-delivered", http.MethodGet, "/deliveries/{key}/models/{model}/preview", "deliveries", "A model of a delivery as a drawing", svg, nil, theme, asks{"small", "As a picture beside a line"})
	d.add("export-readout", http.MethodGet, "/readout-folder", "readout", "The folder of models that design tools read, as an archive", anyFile, nil)
	d.add("export-part-models", http.MethodGet, "/parts/{key}/models", "readout", "The models of one part, as an archive", anyFile, nil)
}

// picture sends a drawing: it can hold no script, and may be kept as long as its hash is asked for.
func (s *Server) picture(c *gin.Context, svg []byte, err error) {
	if err != nil {
		s.refuse(c, err)
		return
	}
	sum := sha256.Sum256(svg)
	tag := `"` + hex.EncodeToString(sum[:12]) + `"`
	c.Header("ETag", tag)
	c.Header("Cache-Control", "private, no-cache")
	if c.Query("content") != "" {
		c.Header("Cache-Control", "private, max-age=86400, immutable")
	}
	c.Header("Content-Security-Policy", "default-src 'none'; sandbox")
	if sending.Has(c, tag) {
		c.Status(http.StatusNotModified)
		return
	}
	c.Header("Content-Length", fmt.Sprint(len(svg)))
	c.Data(http.StatusOK, "image/svg+xml; charset=utf-8", svg)
}

// models adds the routes of symbols, land patterns, bodies and pin maps.
func (s *Server) models(api huma.API) {
	v := s.Service
	register(s, api, http.MethodGet, "/models", "list-models", "models", "Symbols, land patterns and bodies", func(ctx context.Context, c deed.Call, in *struct {
		Paged
		Query string `query:"q" maxLength:"200"`
		Kind  string `query:"kind" enum:"symbol,land pattern,body,pin map,"`
		Only  string `query:"only" enum:"unused,draft,stand-in,findings,"`
	}) (wire.ModelList, error) {
		return v.Models.List(ctx, c, models.Query{Text: in.Query, Kind: in.Kind, Only: in.Only, Offset: in.Offset, Limit: in.Limit})
	})
	register(s, api, http.MethodPost, "/models", "make-model", "models", "Make a model as a draft", func(ctx context.Context, c deed.Call, in *body[wire.ModelEdit]) (wire.Model, error) {
		return v.Models.Create(ctx, c, in.Body)
	})
	register(s, api, http.MethodGet, "/models/{id}", "get-model", "models", "A model by ID, or by \"KIND: NAME\", with its checks, twins, revisions and users", func(ctx context.Context, c deed.Call, in *struct {
		Reading
		ID string `path:"id"`
	}) (wire.Model, error) {
		return v.Models.Get(ctx, c, in.ID)
	})
	register(s, api, http.MethodPut, "/models/{id}/draft", "save-model", "models", "Replace a model's draft", func(ctx context.Context, c deed.Call, in *modelChange[wire.ModelEdit]) (wire.Model, error) {
		return with(in.ID, in.BasedOn, func(i deed.ID, n int) (wire.Model, error) { return v.Models.Save(ctx, c, i, n, in.Body) })
	})
	register(s, api, http.MethodPost, "/models/{id}/release", "release-model", "models", "Freeze the draft as the next revision", func(ctx context.Context, c deed.Call, in *modelChange[wire.Release]) (wire.Model, error) {
		return with(in.ID, in.BasedOn, func(i deed.ID, n int) (wire.Model, error) { return v.Lifecycles.ReleaseModel(ctx, c, i, n, in.Body) })
	})
	register(s, api, http.MethodGet, "/models/{id}/diff", "diff-model", "models", "Compare two revisions of a model; 0 stands for the draft", func(ctx context.Context, c deed.Call, in *struct {
		Reading
		ID   string `path:"id" format:"uuid"`
		From int    `query:"from" minimum:"0"`
		To   int    `query:"to" minimum:"0"`
	}) (wire.ModelDiff, error) {
		i, err := id(in.ID)
		if err != nil {
			return wire.ModelDiff{}, err
		}
		return v.Models.Diff(ctx, c, i, in.From, in.To)
	})
	register(s, api, http.MethodGet, "/models/{id}/trail", "model-trail", "models", "What was done to a model, newest first", func(ctx context.Context, c deed.Call, in *struct {
		Paged
		ID string `path:"id" format:"uuid"`
	}) (wire.TrailList, error) {
		i, err := id(in.ID)
		if err != nil {
			return wire.TrailList{}, err
		}
		return v.Models.Trail(ctx, c, i, in.Offset, in.Limit)
	})
	register(s, api, http.MethodPost, "/models/{id}/waiver", "waive-model", "models", "Accept a finding with a reason, or take that back", func(ctx context.Context, c deed.Call, in *modelChange[wire.ModelWaive]) (wire.Model, error) {
		return with(in.ID, in.BasedOn, func(i deed.ID, n int) (wire.Model, error) { return v.Models.Waive(ctx, c, i, n, in.Body) })
	})
	register(s, api, http.MethodPost, "/models/{id}/sign", "sign-model", "models", "Sign the whole review list of the newest content, as laid beside a datasheet", func(ctx context.Context, c deed.Call, in *modelChange[wire.NewSign]) (wire.Model, error) {
		return with(in.ID, in.BasedOn, func(i deed.ID, n int) (wire.Model, error) { return v.Lifecycles.SignModel(ctx, c, i, n, in.Body) })
	})
	register(s, api, http.MethodPost, "/models/{id}/compare-pins", "compare-pins", "models", "A symbol's pins beside an independent list", func(ctx context.Context, c deed.Call, in *struct {
		Reading
		ID   string `path:"id" format:"uuid"`
		Body wire.PinsBeside
	}) (wire.PinComparison, error) {
		i, err := id(in.ID)
		if err != nil {
			return wire.PinComparison{}, err
		}
		return v.Models.ComparePins(ctx, c, i, in.Body)
	})
	register(s, api, http.MethodGet, "/model-causes", "model-causes", "models", "Findings on all models by cause", func(ctx context.Context, c deed.Call, in *struct {
		Reading
		Kind string `query:"kind" enum:"symbol,land pattern,body,"`
	}) (wire.ModelCauses, error) {
		return v.Models.Causes(ctx, c, in.Kind)
	})
	register(s, api, http.MethodPost, "/model-mends", "mend-models", "models", "Settle one cause on several models in one deed", func(ctx context.Context, c deed.Call, in *body[wire.ModelMend]) (wire.Mended, error) {
		return v.Models.Mend(ctx, c, in.Body)
	})
	register(s, api, http.MethodGet, "/model-twins", "model-twins", "models", "Models that are the same, or nearly the same", func(ctx context.Context, c deed.Call, in *struct {
		Reading
		Kind string `query:"kind" enum:"symbol,land pattern,"`
	}) (wire.TwinList, error) {
		return v.Models.Twins(ctx, c, in.Kind)
	})
	register(s, api, http.MethodPost, "/model-renames", "rename-models", "models", "Rename or describe several models", func(ctx context.Context, c deed.Call, in *body[wire.RenameModels]) (wire.Mended, error) {
		return v.Models.Rename(ctx, c, in.Body)
	})
	register(s, api, http.MethodGet, "/land-patterns-like", "like-land-patterns", "models", "Land patterns by pads, pitch and rows", func(ctx context.Context, c deed.Call, in *struct {
		Reading
		Model  string `query:"model" doc:"ID of the one they should be like"`
		Pads   int    `query:"pads" minimum:"0"`
		Pitch  string `query:"pitch" maxLength:"30" doc:"mm, or with its unit"`
		Row    string `query:"row" maxLength:"30"`
		Within string `query:"within" maxLength:"30"`
	}) (wire.LikeList, error) {
		q, err := models.ReadLike(in.Model, in.Pads, in.Pitch, in.Row, in.Within)
		if err != nil {
			return wire.LikeList{}, err
		}
		return v.Models.Like(ctx, c, q)
	})
	register(s, api, http.MethodPost, "/land-pattern-tries", "try-land-pattern", "models", "Land patterns made from the figures of a package or from a table of pads, for looking at them", func(ctx context.Context, c deed.Call, in *asked[wire.LandTry]) (wire.LandTried, error) {
		return v.Models.TryLand(ctx, c, in.Body)
	})
	register(s, api, http.MethodPost, "/drawing-tries", "try-drawing", "models", "What a symbol or land pattern becomes by changes to it, as a table and a picture", func(ctx context.Context, c deed.Call, in *asked[wire.DrawingTry]) (wire.DrawingTried, error) {
		return v.Fitting.TryDrawing(ctx, c, in.Body)
	})
	register(s, api, http.MethodPost, "/symbol-tries", "try-symbol", "models", "A symbol made from a pin table, for looking at it", func(ctx context.Context, c deed.Call, in *asked[wire.SymbolTry]) (wire.SymbolTried, error) {
		return v.Models.TrySymbol(ctx, c, in.Body)
	})
}

// placing is which of the proposed ways a body is drawn in; 0 as it sits.
func placing(c *gin.Context) int {
	n, err := strconv.Atoi(c.Query("placing"))
	if err != nil {
		return 0
	}
	return n
}
