package client

import (
	"context"
	"errors"
	"io"
	"net/http"
	"net/url"
	"strconv"
	"strings"
	"time"

	"jollydrawer/internal/wire"
)

// SignIn opens a session and makes a token with it; the session ends again. c.Token is set to the token's secret.
func (c *Client) SignIn(ctx context.Context, login, password, name string, days int) (wire.Token, error) {
	res, err := c.send(ctx, request{method: http.MethodPost, path: "/session", body: wire.SignIn{Login: login, Password: password}, version: -1})
	if err != nil {
		return wire.Token{}, err
	}
	cookies := res.Cookies()
	var me wire.Me
	if err := decode(res, &me); err != nil {
		return wire.Token{}, err
	}
	session := &Client{Base: c.Base, HTTP: &http.Client{Timeout: time.Minute, Transport: cookieTransport{cookies, me.CSRF}}}
	t, err := post[wire.Token](ctx, session, "/tokens", wire.NewToken{Name: name, Days: days})
	if err != nil {
		return t, err
	}
	c.Token = t.Secret
	_, err = do[struct{}](ctx, session, request{method: http.MethodDelete, path: "/session", version: -1})
	return t, err
}

type cookieTransport struct {
	cookies []*http.Cookie
	csrf    string
}

func (t cookieTransport) RoundTrip(r *http.Request) (*http.Response, error) {
	for _, k := range t.cookies {
		r.AddCookie(k)
	}
	r.Header.Set("X-CSRF-Token", t.csrf)
	return http.DefaultTransport.RoundTrip(r)
}

// Me says who is signed in.
func (c *Client) Me(ctx context.Context) (wire.Me, error) { return get[wire.Me](ctx, c, "/me", nil) }

// Accounts lists the accounts.
func (c *Client) Accounts(ctx context.Context) ([]wire.Account, error) {
	return get[[]wire.Account](ctx, c, "/accounts", nil)
}

// AddAccount makes an account.
func (c *Client) AddAccount(ctx context.Context, in wire.NewAccount) (wire.Account, error) {
	return post[wire.Account](ctx, c, "/accounts", in)
}

// ChangeAccount changes an account.
func (c *Client) ChangeAccount(ctx context.Context, id string, in wire.AccountChange) (wire.Account, error) {
	return change[wire.Account](ctx, c, http.MethodPatch, "/accounts/"+seg(id), -1, in)
}

// Tokens lists your own tokens.
func (c *Client) Tokens(ctx context.Context) ([]wire.Token, error) {
	return get[[]wire.Token](ctx, c, "/tokens", nil)
}

// AddToken makes a token.
func (c *Client) AddToken(ctx context.Context, in wire.NewToken) (wire.Token, error) {
	return post[wire.Token](ctx, c, "/tokens", in)
}

// DropToken ends a token.
func (c *Client) DropToken(ctx context.Context, id string) ([]wire.Token, error) {
	return change[[]wire.Token](ctx, c, http.MethodDelete, "/tokens/"+seg(id), -1, nil)
}

// Cabinet returns the cabinet in force.
func (c *Client) Cabinet(ctx context.Context) (wire.Cabinet, error) {
	return get[wire.Cabinet](ctx, c, "/cabinet", nil)
}

// ApplyCabinet applies a cabinet document.
func (c *Client) ApplyCabinet(ctx context.Context, version int, text string) (wire.Cabinet, error) {
	return change[wire.Cabinet](ctx, c, http.MethodPut, "/cabinet", version, wire.Text{Text: text})
}

// Crosswalks lists crosswalks.
func (c *Client) Crosswalks(ctx context.Context, offset, limit int) (wire.CrosswalkList, error) {
	return get[wire.CrosswalkList](ctx, c, "/crosswalks", paging(offset, limit))
}

// Crosswalk returns a supplier's crosswalk.
func (c *Client) Crosswalk(ctx context.Context, supplier string) (wire.Crosswalk, error) {
	return get[wire.Crosswalk](ctx, c, "/crosswalks/"+seg(supplier), nil)
}

// ApplyCrosswalk applies a crosswalk document.
func (c *Client) ApplyCrosswalk(ctx context.Context, version int, text string) (wire.Crosswalk, error) {
	return change[wire.Crosswalk](ctx, c, http.MethodPut, "/crosswalks", version, wire.Text{Text: text})
}

// Upload keeps a file.
func (c *Client) Upload(ctx context.Context, name string, r io.Reader) (wire.File, error) {
	return do[wire.File](ctx, c, request{method: http.MethodPost, path: "/files", query: url.Values{"name": {name}}, raw: r, version: -1})
}

// Download reads a stored file; the caller closes it.
func (c *Client) Download(ctx context.Context, hash string) (io.ReadCloser, error) {
	return c.stream(ctx, "/files/"+seg(hash), nil)
}

// ExportBOM reads the completed BOM as csv or xlsx; the caller closes it.
func (c *Client) ExportBOM(ctx context.Context, key, format string) (io.ReadCloser, error) {
	return c.stream(ctx, "/boms/"+seg(key)+"/export", url.Values{"format": {format}})
}

func (c *Client) stream(ctx context.Context, path string, q url.Values) (io.ReadCloser, error) {
	res, err := c.send(ctx, request{method: http.MethodGet, path: path, query: q, version: -1})
	if err != nil {
		return nil, err
	}
	return res.Body, nil
}

// OpenIntake opens an intake.
func (c *Client) OpenIntake(ctx context.Context, in wire.NewIntake) (wire.Intake, error) {
	return post[wire.Intake](ctx, c, "/intakes", in)
}

// Intakes lists intakes.
func (c *Client) Intakes(ctx context.Context, offset, limit int) (wire.IntakeList, error) {
	return get[wire.IntakeList](ctx, c, "/intakes", paging(offset, limit))
}

// Intake returns an intake.
func (c *Client) Intake(ctx context.Context, id string) (wire.Intake, error) {
	return get[wire.Intake](ctx, c, "/intakes/"+seg(id), nil)
}

// IntakeRows returns a page of an intake's rows.
func (c *Client) IntakeRows(ctx context.Context, id, state, cause string, offset, limit int) (wire.IntakeRows, error) {
	q := paging(offset, limit)
	q.Set("state", state)
	q.Set("cause", cause)
	return get[wire.IntakeRows](ctx, c, "/intakes/"+seg(id)+"/rows", q)
}

// IntakeFindings returns a page of an intake's findings.
func (c *Client) IntakeFindings(ctx context.Context, id string, offset, limit int) (wire.FindingList, error) {
	return get[wire.FindingList](ctx, c, "/intakes/"+seg(id)+"/findings", paging(offset, limit))
}

// EditIntake decides about rows.
func (c *Client) EditIntake(ctx context.Context, id string, version int, in wire.IntakeEdit) (wire.Intake, error) {
	return change[wire.Intake](ctx, c, http.MethodPost, "/intakes/"+seg(id)+"/edits", version, in)
}

// IntakeRow returns one row with its cells and origins.
func (c *Client) IntakeRow(ctx context.Context, id string, row int) (wire.IntakeRowDetail, error) {
	return get[wire.IntakeRowDetail](ctx, c, "/intakes/"+seg(id)+"/rows/"+strconv.Itoa(row), nil)
}

// TryRule says what a rule would do to an intake's rows.
func (c *Client) TryRule(ctx context.Context, id string, in wire.RuleTry) (wire.RuleTried, error) {
	return post[wire.RuleTried](ctx, c, "/intakes/"+seg(id)+"/rule", in)
}

// TakeBack withdraws an intake that was taken in.
func (c *Client) TakeBack(ctx context.Context, id string, version int, why string) (wire.Intake, error) {
	return change[wire.Intake](ctx, c, http.MethodPost, "/intakes/"+seg(id)+"/take-back", version, wire.TakeBack{Why: why})
}

// GoOver opens an intake on the file of one that was taken in.
func (c *Client) GoOver(ctx context.Context, id string) (wire.Intake, error) {
	return post[wire.Intake](ctx, c, "/intakes/"+seg(id)+"/again", nil)
}

// FetchDatasheets starts fetching the datasheets of an intake.
func (c *Client) FetchDatasheets(ctx context.Context, id string) (wire.Job, error) {
	return post[wire.Job](ctx, c, "/intakes/"+seg(id)+"/datasheets", nil)
}

// AddChoice adds a choice to a parameter of the cabinet.
func (c *Client) AddChoice(ctx context.Context, parameter, choice string) (wire.Cabinet, error) {
	return post[wire.Cabinet](ctx, c, "/cabinet/choices", map[string]string{"parameter": parameter, "choice": choice})
}

// ReadPart says what a text or a record says of one part.
func (c *Client) ReadPart(ctx context.Context, in wire.ReadPart) (wire.PartRead, error) {
	return post[wire.PartRead](ctx, c, "/part-readings", in)
}

// Records finds a number in the files of all intakes.
func (c *Client) Records(ctx context.Context, number string) (wire.RecordList, error) {
	return get[wire.RecordList](ctx, c, "/records", url.Values{"number": {number}})
}

// TakeIn starts taking an intake in under a deed of the caller's choice; blank makes a fresh one.
func (c *Client) TakeIn(ctx context.Context, id string, version int, deed string, in wire.TakeIn) (wire.Job, error) {
	return do[wire.Job](ctx, c, request{method: http.MethodPost, path: "/intakes/" + seg(id) + "/take-in", body: in, version: version, deed: deed})
}

// Job returns a job.
func (c *Client) Job(ctx context.Context, id string) (wire.Job, error) {
	return get[wire.Job](ctx, c, "/jobs/"+seg(id), nil)
}

// StopJob asks for a job to be stopped.
func (c *Client) StopJob(ctx context.Context, id string) (wire.Job, error) {
	return post[wire.Job](ctx, c, "/jobs/"+seg(id)+"/stop", nil)
}

// WaitJob asks for a job until it has ended; tell, where set, hears of its progress.
func (c *Client) WaitJob(ctx context.Context, id string, tell func(wire.Job)) (wire.Job, error) {
	for {
		j, err := c.Job(ctx, id)
		if err != nil {
			return j, err
		}
		if tell != nil {
			tell(j)
		}
		if j.State != "waiting" && j.State != "running" {
			return j, nil
		}
		select {
		case <-ctx.Done():
			return j, ctx.Err()
		case <-time.After(100 * time.Millisecond):
		}
	}
}

// PartQuery narrows a search for parts.
type PartQuery struct {
	Text                      string
	Filters                   []string // KEY:VALUE
	Drawers, Status, Standing []string
	Sort                      string // columns parted by commas, - before one for the largest first
	Down                      bool
	Group                     string
	Facets                    bool
	Offset, Limit             int
}

func (p PartQuery) values() url.Values {
	q := paging(p.Offset, p.Limit)
	q.Set("q", p.Text)
	q["f"], q["drawer"], q["status"], q["standing"] = p.Filters, p.Drawers, p.Status, p.Standing
	for key, v := range map[string]string{"sort": p.Sort, "group": p.Group} {
		if v != "" {
			q.Set(key, v)
		}
	}
	for key, v := range map[string]bool{"down": p.Down, "facets": p.Facets} {
		if v {
			q.Set(key, "true")
		}
	}
	return q
}

// Parts looks parts up.
func (c *Client) Parts(ctx context.Context, p PartQuery) (wire.PartList, error) {
	return get[wire.PartList](ctx, c, "/parts", p.values())
}

// ExportParts reads what a query shows as csv, json or xlsx; the caller closes it.
func (c *Client) ExportParts(ctx context.Context, p PartQuery, columns []string, format string) (io.ReadCloser, error) {
	q := p.values()
	q.Del("limit")
	q.Del("offset")
	q.Set("format", format)
	q.Set("columns", strings.Join(columns, ","))
	return c.stream(ctx, "/part-list", q)
}

// Compare lays two to six parts side by side.
func (c *Client) Compare(ctx context.Context, keys []string) (wire.Comparison, error) {
	return get[wire.Comparison](ctx, c, "/comparison", url.Values{"part": keys})
}

// Views lists your saved views and those that others share.
func (c *Client) Views(ctx context.Context) (wire.ViewList, error) {
	return get[wire.ViewList](ctx, c, "/views", nil)
}

// SaveView saves a view under its name.
func (c *Client) SaveView(ctx context.Context, in wire.ViewEdit) (wire.View, error) {
	return post[wire.View](ctx, c, "/views", in)
}

// DropView removes a view of yours.
func (c *Client) DropView(ctx context.Context, id string) (wire.ViewList, error) {
	return do[wire.ViewList](ctx, c, request{method: http.MethodDelete, path: "/views/" + seg(id), version: -1})
}

// Merge makes a part lead to another; the answer is the survivor.
func (c *Client) Merge(ctx context.Context, key string, version int, in wire.Merge) (wire.Part, error) {
	return change[wire.Part](ctx, c, http.MethodPost, "/parts/"+seg(key)+"/merge", version, in)
}

// SetSuccessor names the part that replaces another.
func (c *Client) SetSuccessor(ctx context.Context, key string, version int, in wire.SuccessorEdit) (wire.Part, error) {
	return change[wire.Part](ctx, c, http.MethodPost, "/parts/"+seg(key)+"/successor", version, in)
}

// AddFormer lets another number find a part.
func (c *Client) AddFormer(ctx context.Context, key string, version int, number string) (wire.Part, error) {
	return change[wire.Part](ctx, c, http.MethodPost, "/parts/"+seg(key)+"/former-numbers", version, wire.FormerNumber{Number: number})
}

// PreviewChange says what a change of templates would do.
func (c *Client) PreviewChange(ctx context.Context, in wire.CabinetChange) (wire.ChangePreview, error) {
	return post[wire.ChangePreview](ctx, c, "/cabinet/preview", in)
}

// ChangeCabinet starts a change of templates that was previewed.
func (c *Client) ChangeCabinet(ctx context.Context, version int, in wire.CabinetChange) (wire.Job, error) {
	return change[wire.Job](ctx, c, http.MethodPost, "/cabinet/changes", version, in)
}

// CabinetHistory lists what was changed in the cabinet, newest first.
func (c *Client) CabinetHistory(ctx context.Context) (wire.CabinetHistory, error) {
	return get[wire.CabinetHistory](ctx, c, "/cabinet/history", nil)
}

// DrawerUse says how complete a drawer's parts are, and what names it.
func (c *Client) DrawerUse(ctx context.Context, key string) (wire.DrawerUse, error) {
	return get[wire.DrawerUse](ctx, c, "/drawers/"+seg(key), nil)
}

// TryPatterns shows what patterns would make of real parts of a drawer.
func (c *Client) TryPatterns(ctx context.Context, key string, in wire.PatternTry) ([]wire.PatternOf, error) {
	return post[[]wire.PatternOf](ctx, c, "/drawers/"+seg(key)+"/patterns", in)
}

// Part returns a part by number or ID.
func (c *Client) Part(ctx context.Context, key string) (wire.Part, error) {
	return get[wire.Part](ctx, c, "/parts/"+seg(key), nil)
}

// MakePart makes a part.
func (c *Client) MakePart(ctx context.Context, in wire.PartEdit) (wire.Part, error) {
	return post[wire.Part](ctx, c, "/parts", in)
}

// SaveDraft replaces a part's draft.
func (c *Client) SaveDraft(ctx context.Context, key string, version int, in wire.PartEdit) (wire.Part, error) {
	return change[wire.Part](ctx, c, http.MethodPut, "/parts/"+seg(key)+"/draft", version, in)
}

// Release releases a part's draft.
func (c *Client) Release(ctx context.Context, key string, version int, note string) (wire.Part, error) {
	return change[wire.Part](ctx, c, http.MethodPost, "/parts/"+seg(key)+"/release", version, wire.Release{Note: note})
}

// ReleaseMany releases several drafts in one deed.
func (c *Client) ReleaseMany(ctx context.Context, in wire.BulkRelease) (wire.Released, error) {
	return post[wire.Released](ctx, c, "/releases", in)
}

// SetStanding says how a part may be used.
func (c *Client) SetStanding(ctx context.Context, key string, version int, in wire.Standing) (wire.Part, error) {
	return change[wire.Part](ctx, c, http.MethodPost, "/parts/"+seg(key)+"/standing", version, in)
}

// Revision returns a released revision.
func (c *Client) Revision(ctx context.Context, key string, number int) (wire.PartContent, error) {
	return get[wire.PartContent](ctx, c, "/parts/"+seg(key)+"/revisions/"+strconv.Itoa(number), nil)
}

// Diff compares two revisions; 0 stands for the draft.
func (c *Client) Diff(ctx context.Context, key string, from, to int) (wire.Diff, error) {
	return get[wire.Diff](ctx, c, "/parts/"+seg(key)+"/diff", url.Values{"from": {strconv.Itoa(from)}, "to": {strconv.Itoa(to)}})
}

// Trail returns a part's trail, newest first.
func (c *Client) Trail(ctx context.Context, key string, offset, limit int) (wire.TrailList, error) {
	return get[wire.TrailList](ctx, c, "/parts/"+seg(key)+"/trail", paging(offset, limit))
}

// BringBOM brings in a BOM.
func (c *Client) BringBOM(ctx context.Context, in wire.NewBOM) (wire.BOM, error) {
	return post[wire.BOM](ctx, c, "/boms", in)
}

// BOMs lists BOMs.
func (c *Client) BOMs(ctx context.Context, offset, limit int) (wire.BOMList, error) {
	return get[wire.BOMList](ctx, c, "/boms", paging(offset, limit))
}

// BOM returns a BOM with its verdicts.
func (c *Client) BOM(ctx context.Context, key string) (wire.BOM, error) {
	return get[wire.BOM](ctx, c, "/boms/"+seg(key), nil)
}

// ChooseBOM accepts records for lines or takes choices back.
func (c *Client) ChooseBOM(ctx context.Context, key string, version int, in wire.BOMChoices) (wire.BOM, error) {
	return change[wire.BOM](ctx, c, http.MethodPost, "/boms/"+seg(key)+"/choices", version, in)
}

// CopyOf returns a part as the beginning of another that is nearly the same.
func (c *Client) CopyOf(ctx context.Context, key string) (wire.PartEdit, error) {
	return get[wire.PartEdit](ctx, c, "/parts/"+seg(key)+"/copy", nil)
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

// StartVerify starts recomputing what is stored.
func (c *Client) StartVerify(ctx context.Context) (wire.Job, error) {
	return post[wire.Job](ctx, c, "/verification", nil)
}

// Verify recomputes what is stored and waits for the outcome.
func (c *Client) Verify(ctx context.Context) (wire.Verification, error) {
	j, err := c.StartVerify(ctx)
	if err == nil {
		j, err = c.WaitJob(ctx, j.ID, nil)
	}
	if err == nil && j.Verified == nil {
		err = errors.New("verifying ended without an outcome: " + j.Error)
	}
	if err != nil {
		return wire.Verification{}, err
	}
	return *j.Verified, nil
}
