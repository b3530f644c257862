package intakes

import (
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"io"
	"maps"
	"net/http"
	"net/url"
	"path"
	"slices"
	"strings"
	"sync"
	"time"

	"jollydrawer/core/intake"
	"jollydrawer/core/part"
	"jollydrawer/formats/pdf"
	"jollydrawer/formats/tabular"
	"jollydrawer/internal/blobs"
	"jollydrawer/internal/jobs"
	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/service/files"
	"jollydrawer/internal/service/work"
	"jollydrawer/internal/store"
	"jollydrawer/internal/wire"
)

const (
	jobFetch = "datasheets"
	// maxLinks is the most links of one intake.
	maxLinks = 20_000
	fetchers = 4
)

// fetchedLinks lists the distinct texts of a field and what became of those that were fetched.
func (s *Intakes) fetchedLinks(ctx context.Context, t *intake.Table, field string) (map[string]intake.Fetched, map[string]bool, error) {
	out, links := map[string]intake.Fetched{}, map[string]bool{}
	col := slices.Index(t.Header, field)
	if field == "" || col < 0 {
		return out, links, nil
	}
	for _, text := range t.Samples(maxLinks)[col] {
		links[text] = true
	}
	list := make([]string, 0, len(links))
	for l := range links {
		list = append(list, l)
	}
	have, err := s.Store.Read(ctx).FetchedLinks(list)
	for link, f := range have {
		one := intake.Fetched{Problem: f.Problem}
		if !f.File.IsZero() {
			one.File = part.File{Hash: f.File.String(), Name: f.Name}
		}
		out[link] = one
	}
	if err == nil {
		err = s.sheetTexts(ctx, out)
	}
	return out, links, err
}

// mostSheets is how many datasheets' texts are kept in memory.
const mostSheets = 300

// sheetTexts puts the texts of fetched files beside them, as far as somebody read them.
func (s *Intakes) sheetTexts(ctx context.Context, all map[string]intake.Fetched) error {
	need := map[store.Hash]bool{}
	s.mu.Lock()
	held := s.sheets
	s.mu.Unlock()
	for _, f := range all {
		if h, err := store.ParseHash(f.File.Hash); err == nil && f.File.Hash != "" && held[h] == nil {
			need[h] = true
		}
	}
	if len(need) > 0 {
		now := map[store.Hash]*intake.SheetText{}
		if len(held)+len(need) <= mostSheets {
			maps.Copy(now, held) // what is held is never changed: others read it
		}
		for list := range slices.Chunk(slices.Collect(maps.Keys(need)), 50) {
			texts, err := s.Store.Read(ctx).FileTexts(list)
			if err != nil {
				return err
			}
			for h, t := range texts {
				if t.Problem == "" {
					now[h] = intake.ReadSheet(strings.Split(t.Body, "\f"))
				}
			}
		}
		held = now
		s.mu.Lock()
		s.sheets = held
		s.mu.Unlock()
	}
	for link, f := range all {
		if h, err := store.ParseHash(f.File.Hash); err == nil && f.File.Hash != "" {
			f.Text = held[h]
			all[link] = f
		}
	}
	return nil
}

// readText keeps the text of a file that was fetched, so that what it says can be laid beside the rows. A file whose text cannot be read is a
// datasheet all the same.
func (s *Intakes) readText(ctx context.Context, file store.Hash) error {
	if file.IsZero() {
		return nil
	}
	had, err := s.Store.Read(ctx).FileTexts([]store.Hash{file})
	if err != nil || len(had) > 0 {
		return err
	}
	r, _, err := blobs.Open(s.Store.Read(ctx), file)
	if err != nil {
		return err
	}
	defer r.Close()
	pages, err := pdf.Text(ctx, io.LimitReader(r, files.LargestSheet))
	if errors.Is(err, pdf.ErrNoReader) {
		return nil // once it is installed, the next fetch reads it
	}
	t := store.FileText{Hash: file, Body: strings.Join(pages, "\f"), At: store.Stamp(s.Now())}
	if err != nil {
		t.Problem = err.Error()
	}
	return s.Store.KeepFileText(ctx, t)
}

// FetchDatasheets starts fetching the datasheets that an intake's rows name.
func (s *Intakes) FetchDatasheets(ctx context.Context, c deed.Call, id store.ID) (wire.Job, error) {
	return s.work.Start(ctx, c, work.Asked{Op: deed.OpIntakeEdit, Kind: jobFetch, Head: id, About: jobFetch + " " + id.String(), Prepare: func(time.Time) (any, int64, error) {
		h, doc, err := s.loadIntake(ctx, id)
		if err != nil {
			return nil, 0, err
		}
		if doc.Taken != nil { // what it made has the links by now
			return s.fetchTaken(ctx, h, doc)
		}
		e, err := s.evaluate(ctx, h, doc)
		if err == nil && len(e.links) == 0 {
			err = deed.Fault(deed.Invalid, "no-links", "No field of the file is mapped to the datasheet, or all of it is blank.", "Map the field that holds the links: take datasheet.")
		}
		if err != nil {
			return nil, 0, err
		}
		return struct{}{}, int64(len(e.links)), nil
	}})
}

// fetchAll fetches links, a few at a time, keeps what became of each, and says after each how many are done.
func (s *Intakes) fetchAll(ctx context.Context, all []string, fetch func(link string) (store.Fetched, error), after func(done int, link string) error) error {
	ctx, stop := context.WithCancel(ctx)
	defer stop()
	links := make(chan string)
	type outcome struct {
		link string
		err  error
	}
	results := make(chan outcome)
	var group sync.WaitGroup
	for range fetchers {
		group.Go(func() {
			for link := range links {
				f, err := fetch(link)
				if err == nil {
					err = s.readText(ctx, f.File)
				}
				if err == nil {
					err = s.Store.KeepFetched(ctx, f)
				}
				results <- outcome{link, err}
			}
		})
	}
	go func() {
		defer close(links)
		for _, l := range all {
			select {
			case links <- l:
			case <-ctx.Done():
				return
			}
		}
	}()
	go func() { group.Wait(); close(results) }()
	done := 0
	var failed error
	for r := range results {
		if failed = errors.Join(failed, r.err); failed == nil {
			done++
			failed = after(done, r.link)
		}
		if failed != nil {
			stop()
		}
	}
	return errors.Join(failed, context.Cause(ctx))
}

// runFetch fetches the links of an intake: those of its rows, or of its parts once it is taken in. What was fetched before is not asked again;
// what was dead is.
func (s *Intakes) runFetch(ctx context.Context, j store.Job, progress jobs.Progress) error {
	h, doc, err := s.loadIntake(ctx, j.Head)
	if err != nil {
		return err
	}
	if doc.Taken != nil {
		return s.runLinked(ctx, j, progress)
	}
	e, err := s.evaluate(ctx, h, doc)
	if err != nil {
		return err
	}
	have, _, err := s.fetchedLinks(ctx, e.table, e.cw.Take.Datasheet)
	if err != nil {
		return err
	}
	var ahead []string
	for link := range e.links {
		if have[link].File.Hash == "" {
			ahead = append(ahead, link)
		}
	}
	slices.Sort(ahead)
	archive, err := s.archiveOf(ctx, doc)
	if err != nil {
		return err
	}
	if err := progress(int64(len(e.links)-len(ahead)), int64(len(e.links))); err != nil {
		return err
	}
	client := s.guard.Client(60 * time.Second)
	before := len(e.links) - len(ahead)
	err = s.fetchAll(ctx, ahead, func(link string) (store.Fetched, error) { return s.fetch(ctx, client, archive, link) }, func(done int, _ string) error {
		return progress(int64(before+done), int64(len(e.links)))
	})
	if err != nil {
		return err
	}
	now, _, err := s.fetchedLinks(ctx, e.table, e.cw.Take.Datasheet)
	if err != nil {
		return err
	}
	out := wire.Fetched{Links: len(e.links), Other: []string{}}
	files := map[string]bool{}
	for _, f := range now {
		if f.File.Hash != "" {
			files[f.File.Hash] = true
		} else {
			out.Dead++
		}
	}
	out.Files = len(files)
	result, err := json.Marshal(out)
	if err != nil {
		return err
	}
	return s.Store.FinishJob(ctx, j, string(result))
}

// fetch reads one link, or one path in the archive, and says what became of it.
func (s *Intakes) fetch(ctx context.Context, client *http.Client, archive map[string][]byte, link string) (store.Fetched, error) {
	var got files.Fetched
	u, err := url.Parse(link)
	switch {
	case err != nil:
		got.Why, err = "it is no link and no path", nil
	case u.Scheme != "":
		got, err = s.files.FetchSheet(ctx, client, link)
	default:
		if raw, ok := archive[strings.ToLower(path.Clean(strings.ReplaceAll(link, "\\", "/")))]; ok {
			got, err = s.files.KeepSheet(ctx, path.Base(u.Path), bytes.NewReader(raw))
		} else {
			got.Name, got.Why = files.CleanName(path.Base(u.Path)), "no such file came with the table"
		}
	}
	return store.Fetched{Link: link, At: store.Stamp(s.Now()), File: got.Hash, Name: got.Name, Problem: got.Why}, err
}

// archiveOf returns the PDF files that came in one archive with an intake's table, by their path in small letters.
func (s *Intakes) archiveOf(ctx context.Context, doc intakeDoc) (map[string][]byte, error) {
	hash, err := store.ParseHash(doc.FileHash)
	if err != nil {
		return nil, err
	}
	r, size, err := blobs.Open(s.Store.Read(ctx), hash)
	if err != nil {
		return nil, err
	}
	defer r.Close()
	return tabular.Beside(r, size, ".pdf", s.files.Limits)
}
