package app

import (
	"context"
	"fmt"
	"time"

	"jollydrawer/core/want"
	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/service/lifecycles"
	"jollydrawer/internal/service/wants"
	"jollydrawer/internal/service/worklist"
	"jollydrawer/internal/store"
	"jollydrawer/internal/wire"
)

// kindsOfWork registers what may wait for somebody, in the order in which a day begins.
func (a *App) kindsOfWork() {
	for _, k := range []worklist.Kind{
		{Key: "reviews", Title: "Waits for your review", Of: a.reviewsOf},
		{Key: "notices", Title: "News since you were here", Of: a.newsOf},
		{Key: "comments", Title: "Comments on what you wrote", Of: a.commentsOf},
		{Key: "failed", Title: "Jobs of yours that failed", Of: a.failedOf},
		{Key: "answered", Title: "Your wants that were settled", Of: a.settledOf},
		{Key: "wants", Title: "Wanted by others", Of: a.wantsOf},
		{Key: "intakes", Title: "Open intakes", Of: a.intakesOf},
		{Key: "drafts", Title: "Drafts that you changed", Of: a.draftsOf},
		{Key: "offers", Title: "What suppliers say otherwise", Of: a.offersOf},
		{Key: "boms", Title: "BOMs with lines that are open", Of: a.bomsOf},
	} {
		a.Worklist.Register(k)
	}
}

func (a *App) reviewsOf(ctx context.Context, c deed.Call, limit int) (out worklist.Waits, err error) {
	if err := deed.Allow(c, deed.OpReview); err != nil {
		return out, err
	}
	q, err := a.Lifecycles.Queue(ctx, c, lifecycles.QueueQuery{Mine: true, Limit: limit, Count: store.MostCounted})
	for _, i := range q.Items {
		item := wire.WorkItem{Kind: "review", ID: i.ID, Name: i.Number, What: i.What, Since: i.Since, Remark: i.State.Word}
		if i.Taken != "" {
			item.Remark += ", " + i.Taken + " is at it"
		}
		out.Items = append(out.Items, item)
	}
	return counted(out, q.Page.Total), err
}

func (a *App) wantsOf(ctx context.Context, c deed.Call, limit int) (out worklist.Waits, err error) {
	if err := deed.Allow(c, deed.OpWantSettle); err != nil {
		return out, err
	}
	l, err := a.Wants.List(ctx, c, wants.Query{State: "waiting", Limit: limit})
	return wantItems(l), err
}

// settledOf are the caller's wants that were answered or declined in the last days: whether that is what was meant is theirs to say.
func (a *App) settledOf(ctx context.Context, c deed.Call, limit int) (worklist.Waits, error) {
	l, err := a.Wants.List(ctx, c, wants.Query{Mine: true, Settled: true, Limit: limit})
	return wantItems(l), err
}

func wantItems(l wire.WantList) (out worklist.Waits) {
	out.Total = l.Page.Total
	for _, w := range l.Items {
		item := wire.WorkItem{Kind: "want", ID: w.ID, Name: w.Number, What: w.What, Since: w.Asked}
		switch want.State(w.State) {
		case want.TakenOn:
			item.Remark = w.TakenBy + " is at it"
		case want.Answered:
			item.Remark = "answered with " + w.Part
		case want.Declined:
			item.Remark = "declined: " + w.Why
		default:
			if w.Said.By != "" {
				item.Remark = "needed by " + w.Said.By
			}
		}
		out.Items = append(out.Items, item)
	}
	return out
}

func (a *App) intakesOf(ctx context.Context, c deed.Call, limit int) (out worklist.Waits, err error) {
	if err := deed.Allow(c, deed.OpIntakeEdit); err != nil {
		return out, err
	}
	const newest = 200 // those that are open are among them
	l, err := a.Intakes.List(ctx, c, 0, newest)
	out.AtLeast = l.Page.Total > newest
	for _, i := range l.Items {
		if i.State != "open" {
			continue
		}
		if out.Total++; len(out.Items) < limit {
			out.Items = append(out.Items, wire.WorkItem{Kind: "intake", ID: i.ID, Name: i.Number, What: i.Supplier + ": " + i.FileName, Since: i.Updated})
		}
	}
	return out, err
}

func (a *App) draftsOf(ctx context.Context, c deed.Call, limit int) (out worklist.Waits, err error) {
	if err := deed.Allow(c, deed.OpPartEdit); err != nil {
		return out, err
	}
	heads, n, err := a.Store.Read(ctx).DraftsOf(c.Actor.ID, limit)
	for _, h := range heads {
		remark := "not released yet"
		if h.Revision > 0 {
			remark = fmt.Sprintf("beside revision %d", h.Revision)
		}
		out.Items = append(out.Items, a.itemOf(h, h.Updated, remark))
	}
	return counted(out, int(n)), err
}

// itemOf is a thing that waits, with what the index says that it is.
func (a *App) itemOf(h store.Head, since time.Time, remark string) wire.WorkItem {
	item := wire.WorkItem{Kind: h.Kind, ID: h.ID.String(), Name: h.Number, Since: since, Remark: remark}
	if e, ok := a.Index.ByID(item.ID); ok {
		item.What = e.Description
	}
	return item
}

func (a *App) bomsOf(ctx context.Context, c deed.Call, limit int) (out worklist.Waits, err error) {
	if err := deed.Allow(c, deed.OpBOMEdit); err != nil {
		return out, err
	}
	const newest = 20 // a BOM is laid beside the library to know what is open; the newest are those that are worked on
	all, more, err := a.BOMs.Opens(ctx, c, newest)
	out.Total, out.AtLeast = len(all), more
	for _, b := range all[:min(len(all), limit)] {
		out.Items = append(out.Items, wire.WorkItem{Kind: "bom", ID: b.Head.ID.String(), Name: b.Head.Number, What: fmt.Sprintf("%d of %d lines are open", b.Open, b.Lines), Since: b.Head.Updated})
	}
	return out, err
}

// newsOf is what the caller was told and has not seen.
func (a *App) newsOf(ctx context.Context, c deed.Call, limit int) (out worklist.Waits, err error) {
	l, err := a.Notices.List(ctx, c, true, 0, limit)
	out.Total = l.Page.Total
	for _, n := range l.Items {
		out.Items = append(out.Items, wire.WorkItem{Kind: "notice", ID: n.ID, Name: n.Title, What: n.Why, Since: n.At})
	}
	return out, err
}

// commentsOf are things that the caller wrote last and about which something open was said.
func (a *App) commentsOf(ctx context.Context, c deed.Call, limit int) (out worklist.Waits, err error) {
	if err := deed.Allow(c, deed.OpComment); err != nil {
		return out, err
	}
	all, total, err := a.Store.Read(ctx).TalkedAbout(c.Actor.ID, limit)
	for _, h := range all {
		remark := "1 comment is open"
		if h.Open != 1 {
			remark = fmt.Sprintf("%d comments are open", h.Open)
		}
		out.Items = append(out.Items, a.itemOf(h.Head, h.Since, remark))
	}
	return counted(out, total), err
}

// keptFailed is how long a job that failed is shown to who began it.
const keptFailed = 14 * 24 * time.Hour

// failedOf are jobs of the caller that failed lately; those of an intake lead there.
func (a *App) failedOf(ctx context.Context, c deed.Call, limit int) (out worklist.Waits, err error) {
	if err := deed.Allow(c, deed.OpRead); err != nil {
		return out, err
	}
	r := a.Store.Read(ctx)
	jobs, n, err := r.FailedJobs(c.Actor.ID, a.Now().Add(-keptFailed), limit)
	if err != nil {
		return out, err
	}
	var about []store.ID
	for _, j := range jobs {
		about = append(about, j.Head)
	}
	heads, err := r.HeadsByID(about)
	for _, j := range jobs {
		item := wire.WorkItem{Kind: "job", ID: j.ID.String(), Name: j.Kind, What: j.Error, Since: j.Updated}
		for _, h := range heads {
			if h.ID == j.Head {
				item.Kind, item.ID, item.Name, item.Remark = h.Kind, h.ID.String(), h.Number, j.Kind
			}
		}
		out.Items = append(out.Items, item)
	}
	out.Total = int(n)
	return out, err
}

// counted is what waits, of which no more than store.MostCounted were counted.
func counted(w worklist.Waits, total int) worklist.Waits {
	w.Total, w.AtLeast = total, total >= store.MostCounted
	return w
}

// offersOf are parts of which suppliers say something new.
func (a *App) offersOf(ctx context.Context, c deed.Call, limit int) (out worklist.Waits, err error) {
	out.Items, out.Total, out.AtLeast, err = a.Offers.Waiting(ctx, c, limit)
	return out, err
}
