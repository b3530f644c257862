package api

import (
	"bytes"
	"cmp"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"mime"
	"net/http"
	"reflect"
	"strconv"
	"strings"
	"time"

	"github.com/danielgtaylor/huma/v2"
	"github.com/gin-gonic/gin"
	"github.com/prometheus/client_golang/prometheus/promhttp"

	"jollydrawer/internal/follow"
	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/store"
	"jollydrawer/internal/wire"
)

// streams adds the routes whose bodies are not JSON, and describes them in the document by hand.
func (s *Server) streams(r *gin.Engine, api huma.API) {
	r.POST("/api/v1/files", s.upload)
	r.GET("/api/v1/files/:hash", s.download)
	r.GET("/api/v1/files/:hash/pdf", s.sheet)
	r.GET("/api/v1/boms/:key/export", s.exportBOM)
	r.GET("/api/v1/part-list", s.exportParts)
	r.GET("/api/v1/trail-list", s.exportTrail)
	r.GET("/api/v1/offer-list", s.exportOffers)
	r.GET("/api/v1/events", s.events)
	s.pictures(r)
	d := describing{api.OpenAPI()}
	file := api.OpenAPI().Components.Schemas.Schema(reflect.TypeFor[wire.File](), true, "File")
	d.add("keep-file", http.MethodPost, "/files", "files", "Upload a file; the body is the file", "application/json", file, asks{"name!", "The file's name"})
	d.add("get-file", http.MethodGet, "/files/{hash}", "files", "A file as it came, by its SHA-256", anyFile, nil, asks{"name", "Name to save it under"})
	d.add("show-file", http.MethodGet, "/files/{hash}/pdf", "files", "A PDF as it came, to be shown", "application/pdf", nil)
	d.add("export-bom", http.MethodGet, "/boms/{key}/export", "boms", "A BOM as a sheet: completed, as it was written, for purchasing, for assembly, or the numbers for the drawing", anyFile, nil,
		asks{"format", "csv, xlsx, json, pdf, or xml, which is IPC-2581"}, asks{"variant", "Of the board; all where it is not said, and for purchasing the one that is built"}, asks{"form", "lines, written, purchase, assembly or numbers; lines where it is not said"}, asks{"revision", "A revision; the BOM as it is now where it is not said"}, asks{"boards", "Boards that are bought for; those of its build where it is not said"})
	d.add("export-parts", http.MethodGet, "/part-list", "parts", "What a question finds as a file", anyFile, nil,
		asks{"format", "csv, json or xlsx"}, asks{"q", "What is looked for"}, asks{"drawer*", "And all in them"}, asks{"status*", "By key"}, asks{"standing*", "By key"}, asks{"f*", "Limits of columns"}, asks{"sort", "Column"}, asks{"down", "true: the largest first"}, asks{"group", "Column"}, asks{"columns", "Keys, with commas between"}, asks{"pieces", "That prices are of"})
	d.add("export-offers", http.MethodGet, "/offer-list", "suppliers", "What suppliers offer of the library's parts, one line an offer", anyFile, nil, asks{"format", "csv or json"}, asks{"pieces", "That prices are of; 100 where it is not said"})
	d.add("export-trail", http.MethodGet, "/trail-list", "trail", "The trail across all things with the hashes of its chains, oldest first", anyFile, nil,
		asks{"format", "csv or jsonl"}, asks{"by", "Sign-in name"}, asks{"kind", "Of things"}, asks{"drawer", "And all in it"}, asks{"file", "Name or hash of one that came in"}, asks{"from", "Day or time"}, asks{"to", "Day or time; up to before it"})
	d.add("events", http.MethodGet, "/events", "events", "Server-sent events: one for each deed, with its place in the feed", "text/event-stream", &huma.Schema{Type: "string"})
	s.describePictures(d)
}

// anyFile is the media type of what is saved and never shown.
const anyFile = "application/octet-stream"

// asks is a parameter behind a question mark with what it means; a name with ! is required, and one with * may stand several times.
type asks struct{ name, means string }

// describing adds routes whose bodies are not JSON to the document.
type describing struct{ doc *huma.OpenAPI }

// add describes one; answer is the form of its answer, which is a file where it is nil.
func (d describing) add(id, method, path, tag, summary, media string, answer *huma.Schema, params ...asks) {
	binary, text := &huma.Schema{Type: "string", Format: "binary"}, &huma.Schema{Type: "string"}
	if answer == nil {
		answer = binary
	}
	o := &huma.Operation{OperationID: id, Method: method, Path: "/api/v1" + path, Summary: summary, Tags: []string{tag}, Responses: map[string]*huma.Response{"200": {Description: "Done", Content: map[string]*huma.MediaType{media: {Schema: answer}}}}}
	for _, step := range strings.Split(path, "/") {
		if name, is := strings.CutPrefix(step, "{"); is {
			o.Parameters = append(o.Parameters, &huma.Param{Name: strings.TrimSuffix(name, "}"), In: "path", Required: true, Schema: text})
		}
	}
	for _, p := range params {
		name, many := strings.CutSuffix(p.name, "*")
		name, required := strings.CutSuffix(name, "!")
		of := text
		if many {
			of = &huma.Schema{Type: "array", Items: text}
		}
		o.Parameters = append(o.Parameters, &huma.Param{Name: name, In: "query", Description: p.means, Required: required, Schema: of})
	}
	if method == http.MethodPost {
		o.RequestBody = &huma.RequestBody{Required: true, Content: map[string]*huma.MediaType{anyFile: {Schema: binary}}}
	}
	d.doc.AddOperation(o)
}

func ginCall(c *gin.Context) deed.Call { return deed.Call{Actor: actorOf(c.Request.Context())} }

func (s *Server) upload(c *gin.Context) {
	f, err := s.Service.Files.Keep(c.Request.Context(), ginCall(c), c.Query("name"), c.Request.Body)
	if err != nil {
		s.refuse(c, err)
		return
	}
	c.JSON(http.StatusOK, f)
}

// attach says that a browser saves the answer and never shows it, whatever it is.
func attach(c *gin.Context, name string, size int64) {
	c.Header("Content-Disposition", mime.FormatMediaType("attachment", map[string]string{"filename": name}))
	c.Header("Content-Type", "application/octet-stream")
	c.Header("Content-Security-Policy", "default-src 'none'; sandbox")
	if size > 0 {
		c.Header("Content-Length", strconv.FormatInt(size, 10))
	}
}

func (s *Server) download(c *gin.Context) {
	r, size, err := s.Service.Files.Open(c.Request.Context(), ginCall(c), c.Param("hash"))
	if err != nil {
		s.refuse(c, err)
		return
	}
	defer r.Close()
	name := c.Query("name")
	if name == "" {
		name = c.Param("hash")
	}
	attach(c, name, size)
	if _, err := io.Copy(c.Writer, r); err != nil {
		s.Service.Log.Warn("sending a file", "request", requestID(c.Request.Context()), "error", err)
		panic(http.ErrAbortHandler) // the reader must not take a cut file for a whole one
	}
}

// sheet shows a PDF in a frame of the console; anything else is refused, whatever it is called.
func (s *Server) sheet(c *gin.Context) {
	r, size, err := s.Service.Files.Open(c.Request.Context(), ginCall(c), c.Param("hash"))
	if err != nil {
		s.refuse(c, err)
		return
	}
	defer r.Close()
	head := make([]byte, 5)
	if _, err := io.ReadFull(r, head); err != nil || string(head) != "%PDF-" {
		s.refuse(c, &deed.Error{Kind: deed.Invalid, Type: "no-pdf", What: "The file is no PDF and cannot be shown.", Mend: "Download it instead."})
		return
	}
	c.Header("Content-Type", "application/pdf")
	c.Header("Content-Length", strconv.FormatInt(size, 10))
	c.Header("Content-Security-Policy", "default-src 'none'; object-src 'self'; style-src 'unsafe-inline'; frame-ancestors 'self'")
	if _, err := io.Copy(c.Writer, io.MultiReader(bytes.NewReader(head), r)); err != nil {
		panic(http.ErrAbortHandler)
	}
}

func (s *Server) exportBOM(c *gin.Context) {
	in := wire.BOMSheet{BOM: c.Param("key"), Variant: c.Query("variant"), Form: c.DefaultQuery("form", "lines"), Format: c.DefaultQuery("format", "csv")}
	revision, wrong := wholeOf(c, "revision")
	boards, also := wholeOf(c, "boards")
	if err := cmp.Or(wrong, also); err != nil {
		s.refuse(c, err)
		return
	}
	in.Revision, in.Boards = int(revision), boards
	name, err := s.Service.BOMs.SheetName(c.Request.Context(), ginCall(c), in)
	if err != nil {
		s.refuse(c, err)
		return
	}
	s.export(c, name, func(w io.Writer) error { return s.Service.BOMs.Sheet(c.Request.Context(), ginCall(c), in, w) })
}

// wholeOf reads a whole number of an address; 0 where it names none.
func wholeOf(c *gin.Context, name string) (int64, *deed.Error) {
	text := c.Query(name)
	if text == "" {
		return 0, nil
	}
	n, err := strconv.ParseInt(text, 10, 32)
	if err != nil || n < 0 {
		return 0, &deed.Error{Kind: deed.Invalid, Type: "number-wrong", What: fmt.Sprintf("%s is %q, which is no whole number.", name, text), Mend: "Give one, such as 40."}
	}
	return n, nil
}

// exportParts gives exactly what a query shows as a file.
func (s *Server) exportParts(c *gin.Context) {
	format := c.DefaultQuery("format", "csv")
	if format != "csv" && format != "xlsx" && format != "json" {
		s.refuse(c, &deed.Error{Kind: deed.Invalid, Type: "format-unknown", What: fmt.Sprintf("%q is no format for a list.", format), Mend: "Use csv, json or xlsx."})
		return
	}
	in := PartQuery{Query: c.Query("q"), Drawers: c.QueryArray("drawer"), Status: c.QueryArray("status"), Standing: c.QueryArray("standing"), Sort: c.Query("sort"),
		Down: c.Query("down") == "true", Group: c.Query("group"), Columns: c.Query("columns")}
	var ok bool
	if in.Pieces, ok = s.pieces(c); !ok {
		return
	}
	q, err := in.query(c.QueryArray("f"))
	if err != nil {
		s.refuse(c, err)
		return
	}
	s.export(c, "parts."+format, func(w io.Writer) error {
		return s.Service.Finder.Export(c.Request.Context(), ginCall(c), q, format, w)
	})
}

// pieces reads how many prices are of; without the query 0, and what is no number is refused.
func (s *Server) pieces(c *gin.Context) (int64, bool) {
	text := c.Query("pieces")
	if text == "" {
		return 0, true
	}
	n, err := strconv.ParseInt(text, 10, 64)
	if err != nil || n < 0 || n > 1_000_000_000 {
		s.refuse(c, &deed.Error{Kind: deed.Invalid, Type: "pieces-wrong", What: fmt.Sprintf("%q is no number of pieces.", text), Mend: "Say how many, such as 100."})
		return 0, false
	}
	return n, true
}

// exportOffers sends what suppliers offer of the library's parts.
func (s *Server) exportOffers(c *gin.Context) {
	format := c.DefaultQuery("format", "csv")
	if format != "csv" && format != "json" {
		s.refuse(c, &deed.Error{Kind: deed.Invalid, Type: "format-unknown", What: fmt.Sprintf("%q is no format for offers.", format), Mend: "Use csv or json."})
		return
	}
	pieces, ok := s.pieces(c)
	if !ok {
		return
	}
	s.export(c, "offers."+format, func(w io.Writer) error {
		return s.Service.Offers.Export(c.Request.Context(), ginCall(c), pieces, format, w)
	})
}

// export sends what write writes as a file to save.
func (s *Server) export(c *gin.Context, name string, write func(io.Writer) error) {
	pr, pw := io.Pipe()
	defer pr.Close()
	go func() {
		pw.CloseWithError(write(pw))
	}()
	first := make([]byte, 1)
	switch _, err := io.ReadFull(pr, first); {
	case errors.Is(err, io.EOF): // there is nothing to write
		attach(c, name, 0)
		c.Writer.WriteHeaderNow()
		return
	case err != nil: // an error before the first byte can still be told
		s.refuse(c, err)
		return
	}
	attach(c, name, 0)
	_, _ = c.Writer.Write(first)
	if _, err := io.Copy(c.Writer, pr); err != nil {
		panic(http.ErrAbortHandler)
	}
}

// events tells a page of every deed, with a heartbeat so that dead connections are noticed.
func (s *Server) events(c *gin.Context) {
	if ginCall(c).Actor.ID.IsZero() {
		s.refuse(c, &deed.Error{Kind: deed.Stranger, Type: "not-signed-in", What: "You are not signed in.", Mend: "Sign in, or send a token."})
		return
	}
	rc := http.NewResponseController(c.Writer)
	_ = rc.SetWriteDeadline(time.Time{})
	ch, stop := s.Follower.Watch()
	defer stop()
	h := c.Writer.Header()
	h.Set("Content-Type", "text/event-stream")
	h.Set("X-Accel-Buffering", "no")
	// A page that comes back names the last event it saw and hears what it missed; where that is much, it is told to ask anew.
	told := int64(0)
	send := func(e follow.Event) {
		if e.Position <= told {
			return
		}
		told = e.Position
		raw, err := json.Marshal(e)
		if err != nil {
			return
		}
		fmt.Fprintf(c.Writer, "id: %d\nevent: deed\ndata: %s\n\n", e.Position, raw)
	}
	fmt.Fprint(c.Writer, ": hello\n\n")
	if last, err := strconv.ParseInt(c.GetHeader("Last-Event-ID"), 10, 64); err == nil && last < s.Follower.Position() {
		missed, whole, err := s.Follower.Since(c.Request.Context(), last)
		for _, e := range missed {
			send(e)
		}
		if err != nil || !whole {
			send(follow.Event{Position: s.Follower.Position(), Kind: "missed", Kinds: []string{}, Heads: []store.Touched{}, Many: true})
		}
	}
	beat := time.NewTicker(20 * time.Second)
	defer beat.Stop()
	for {
		if err := rc.Flush(); err != nil {
			return
		}
		select {
		case <-c.Request.Context().Done():
			return
		case <-s.Closing:
			return
		case <-beat.C:
			fmt.Fprint(c.Writer, ": beat\n\n")
		case e := <-ch:
			send(e)
		}
	}
}

// health adds what watches the service: alive, ready, metrics.
func (s *Server) health(r *gin.Engine) {
	r.GET("/healthz", func(c *gin.Context) { c.JSON(http.StatusOK, gin.H{"alive": true}) })
	r.GET("/readyz", func(c *gin.Context) {
		if err := s.Service.Store.Ping(c.Request.Context()); err != nil || !s.Follower.Ready() {
			p := &deed.Error{Kind: deed.Busy, Type: "not-ready", What: "The service is not ready: the database does not answer, or the library is still being loaded.", Mend: "Try again in a moment."}
			if err != nil && !deed.Temporary(err) {
				s.Service.Log.Warn("readiness", "error", err)
			}
			s.refuse(c, p)
			return
		}
		if aside := s.Follower.Aside(); len(aside) > 0 { // it serves, but does not find these: whoever watches it should know
			c.JSON(http.StatusOK, gin.H{"ready": true, "feed": s.Follower.Position(), "parts": s.Service.Index.Len(), "setAside": len(aside), "setAsideParts": aside[:min(len(aside), 20)],
				"why": "This version of the program cannot read some parts: bring this instance to the version of the others."})
			return
		}
		c.JSON(http.StatusOK, gin.H{"ready": true, "feed": s.Follower.Position(), "parts": s.Service.Index.Len()})
	})
	r.GET("/metrics", gin.WrapH(promhttp.Handler()))
}
