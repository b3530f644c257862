package api

import (
	"context"
	"fmt"
	"io"
	"net/http"
	"time"

	"github.com/danielgtaylor/huma/v2"
	"github.com/gin-gonic/gin"

	"jollydrawer/internal/service/audit"
	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/wire"
)

// trails adds the routes of the trail across all things.
func (s *Server) trails(api huma.API) {
	v := s.Service
	register(s, api, http.MethodGet, "/trail", "get-trail", "trail", "Who did what, across all things, newest first", func(ctx context.Context, c deed.Call, in *struct {
		Reading
		By     string `query:"by" maxLength:"64" doc:"Sign-in name"`
		Kind   string `query:"kind" maxLength:"16" doc:"Of things: part, model, bom, intake, want, …"`
		Drawer string `query:"drawer" maxLength:"48" doc:"And all in it"`
		File   string `query:"file" maxLength:"255" doc:"Name or hash of one that came in: all that was done with it"`
		From   string `query:"from" maxLength:"40" doc:"Day (in UTC) or time (RFC 3339)"`
		To     string `query:"to" maxLength:"40" doc:"Day or time; up to before it"`
		After  string `query:"after" maxLength:"60" doc:"The place where the page begins, as the page before names it"`
		Limit  int    `query:"limit" minimum:"0" maximum:"1000"`
	}) (wire.TrailAcross, error) {
		q := audit.TrailQuery{By: in.By, Kind: in.Kind, Drawer: in.Drawer, File: in.File, After: in.After, Limit: in.Limit}
		if err := times(&q, in.From, in.To); err != nil {
			return wire.TrailAcross{}, err
		}
		return v.Audit.Trail(ctx, c, q)
	})
}

// times reads the two ends of a time.
func times(q *audit.TrailQuery, from, to string) (err error) {
	if q.From, err = moment(from); err == nil {
		q.To, err = moment(to)
	}
	return err
}

// moment reads a day, which begins in UTC, or a time.
func moment(text string) (time.Time, error) {
	if text == "" {
		return time.Time{}, nil
	}
	for _, form := range []string{time.DateOnly, time.RFC3339Nano} {
		if t, err := time.Parse(form, text); err == nil && t.Year() > 1000 {
			return t, nil
		}
	}
	return time.Time{}, deed.Fault(deed.Invalid, "time-unread", fmt.Sprintf("%q is no time.", text), "Write a day as 2031-04-30, or a time as 2031-04-30T12:00:00Z.")
}

// exportTrail writes the trail across all things as a file.
func (s *Server) exportTrail(c *gin.Context) {
	format := c.DefaultQuery("format", "csv")
	if format != "csv" && format != "jsonl" {
		s.refuse(c, deed.Fault(deed.Invalid, "format-unknown", fmt.Sprintf("%q is no format for a trail.", format), "Use csv or jsonl."))
		return
	}
	q := audit.TrailQuery{By: c.Query("by"), Kind: c.Query("kind"), Drawer: c.Query("drawer"), File: c.Query("file")}
	if err := times(&q, c.Query("from"), c.Query("to")); err != nil {
		s.refuse(c, err)
		return
	}
	s.export(c, "trail."+format, func(w io.Writer) error {
		return s.Service.Audit.ExportTrail(c.Request.Context(), ginCall(c), q, format, w)
	})
}
