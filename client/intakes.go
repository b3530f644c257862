package client

import (
	"context"
	"net/http"
	"net/url"
	"strconv"

	"jollydrawer/internal/wire"
)

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

// IntakeDecisions returns what was decided about the rows of an intake, all or what stands in one way.
func (c *Client) IntakeDecisions(ctx context.Context, id, fate string, offset, limit int) (wire.DecisionList, error) {
	q := paging(offset, limit)
	if fate != "" {
		q.Set("fate", fate)
	}
	return get[wire.DecisionList](ctx, c, "/intakes/"+seg(id)+"/decisions", q)
}

// Decisions returns what was decided about rows of files, all or one supplier's.
func (c *Client) Decisions(ctx context.Context, supplier string, withdrawn bool, offset, limit int) (wire.DecisionList, error) {
	q := paging(offset, limit)
	if supplier != "" {
		q.Set("supplier", supplier)
	}
	if withdrawn {
		q.Set("withdrawn", "true")
	}
	return get[wire.DecisionList](ctx, c, "/decisions", q)
}

// WithdrawDecisions takes decisions back for the files that come from now on.
func (c *Client) WithdrawDecisions(ctx context.Context, in wire.WithdrawDecisions) (wire.Withdrawn, error) {
	return post[wire.Withdrawn](ctx, c, "/decisions/withdraw", in)
}

// KeepNumbers keeps the numbers that rows bring as former numbers of their parts.
func (c *Client) KeepNumbers(ctx context.Context, id string, in wire.KeepNumbers) (wire.KeptNumbers, error) {
	return post[wire.KeptNumbers](ctx, c, "/intakes/"+seg(id)+"/numbers", in)
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

// FetchLinked starts fetching the datasheets that parts name only by a link.
func (c *Client) FetchLinked(ctx context.Context, parts []string) (wire.Job, error) {
	return post[wire.Job](ctx, c, "/parts/datasheets", wire.FetchLinked{Parts: parts})
}

// MoveStated moves the parts of which the supplier states a standing.
func (c *Client) MoveStated(ctx context.Context, id string, in wire.MoveStated) (wire.Moved, error) {
	return post[wire.Moved](ctx, c, "/intakes/"+seg(id)+"/standings", in)
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

// TryIntake says what an edit would do to an intake, and changes nothing.
func (c *Client) TryIntake(ctx context.Context, id string, in wire.IntakeTry) (wire.IntakeTried, error) {
	return post[wire.IntakeTried](ctx, c, "/intakes/"+seg(id)+"/tries", in)
}
