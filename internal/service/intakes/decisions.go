package intakes

import (
	"context"
	"crypto/sha256"
	"encoding/json"
	"fmt"
	"maps"
	"slices"
	"strings"
	"time"
	"unicode/utf8"

	"jollydrawer/core/decision"
	"jollydrawer/core/intake"
	"jollydrawer/core/part"
	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/store"
	"jollydrawer/internal/wire"
)

// decisionID names what a decision is about, in its supplier's files.
func decisionID(r decision.Record) store.Hash {
	return sha256.Sum256([]byte(r.Scope + "\x00" + r.Subject()))
}

// keepDecisions writes for later files what an edit decided, and marks what it took back.
func keepDecisions(t *store.Tx, h store.Head, c deed.Call, made, gone []decision.Record) error {
	stays := map[store.Hash]bool{}
	rows := make([]store.Decision, 0, len(made))
	for i := len(made) - 1; i >= 0; i-- { // of two about the same, the last
		r := made[i]
		id := decisionID(r)
		if stays[id] {
			continue
		}
		stays[id] = true
		body, err := json.Marshal(r)
		if err != nil {
			return err
		}
		at := r.At
		if at.IsZero() { // of what was decided before that was kept
			at = t.Deed.At
		}
		rows = append(rows, store.Decision{ID: id, Scope: r.Scope, Intake: h.ID, Source: clipped(r.Source, 255), Claims: len(r.Claims) > 0, Body: string(body), Account: c.Actor.ID, At: at})
	}
	if err := t.SaveDecisions(rows); err != nil {
		return err
	}
	var ids []store.Hash
	for _, r := range gone {
		if id := decisionID(r); !stays[id] {
			ids = append(ids, id)
		}
	}
	if len(ids) == 0 {
		return nil
	}
	_, err := t.WithdrawDecisions(ids, c.Actor.ID, t.Deed.At)
	return err
}

// clipped is the beginning of a text, in whole letters.
func clipped(s string, n int) string {
	for len(s) > n {
		_, size := utf8.DecodeLastRuneInString(s)
		s = s[:len(s)-size]
	}
	return s
}

// mostRemembered is how many decisions about a supplier's files a new intake is compared with, the newest.
const mostRemembered = 200_000

// remembered are the decisions about a supplier's earlier files that are about rows of this one.
func (s *Intakes) remembered(ctx context.Context, doc intakeDoc) ([]decision.Record, error) {
	rows, err := s.Store.Read(ctx).Decisions(store.DecisionQuery{Scope: doc.Supplier}, 0, mostRemembered)
	if err != nil || len(rows) == 0 {
		return nil, err
	}
	t, _, err := s.tableOf(ctx, doc.FileHash, doc.Layout)
	if err != nil {
		return nil, err
	}
	all := intake.Kept{}
	for i := len(rows) - 1; i >= 0; i-- { // the oldest first, as they were made
		r, err := rows[i].Record()
		if err != nil {
			return nil, err
		}
		if r.Scope == doc.Supplier { // the database compares names without their capitals
			all.Decided = append(all.Decided, r)
		}
	}
	var out []decision.Record
	_, standings := all.On(t)
	for _, st := range standings {
		if st.Fate != intake.Absent {
			out = append(out, *st.Decision)
		}
	}
	return out, nil
}

// heldClaims are the decisions of all intakes that say which values a source has.
type heldClaims struct {
	mark string
	of   map[string][]decision.Record // source → decisions
}

// mostClaims bounds the decisions that are kept in memory for comparing.
const mostClaims = 50_000

// claims are what was settled elsewhere about sources, beside what an intake holds itself.
func (s *Intakes) claims(ctx context.Context, own []decision.Record) (intake.Claims, error) {
	r := s.Store.Read(ctx)
	mark, err := r.DecidedAt(store.ID{})
	if err != nil {
		return nil, err
	}
	s.mu.Lock()
	held := s.claimed
	s.mu.Unlock()
	if held.mark != mark {
		held = heldClaims{mark, map[string][]decision.Record{}}
		rows, err := r.Decisions(store.DecisionQuery{Claims: true}, 0, mostClaims)
		if err != nil {
			return nil, err
		}
		for _, d := range rows {
			one, err := d.Record()
			if err != nil {
				return nil, err
			}
			held.of[one.Source] = append(held.of[one.Source], one)
		}
		s.mu.Lock()
		s.claimed = held
		s.mu.Unlock()
	}
	if len(held.of) == 0 {
		return nil, nil
	}
	mine := make(map[store.Hash]bool, len(own))
	for _, o := range own {
		if o.Kind == decision.Cell {
			mine[decisionID(o)] = true
		}
	}
	return func(source string) (out []decision.Record) {
		for _, d := range held.of[source] {
			if len(mine) == 0 || !mine[decisionID(d)] {
				out = append(out, d)
			}
		}
		return out
	}, nil
}

func decisionView(r decision.Record) wire.Decision {
	about, _ := decision.ReadWords(r.About)
	seen, _ := decision.ReadWords(r.Evidence)
	v := wire.Decision{ID: decisionID(r).String(), Kind: string(r.Kind), Supplier: r.Scope, About: about, Nth: r.Nth, Field: r.Field, Seen: seen, Outcome: r.Outcome, Why: r.Reason, By: r.By, At: r.At, Intake: r.In, Rows: []int{}}
	v.Row = rowWords(r, about)
	if v.About == nil {
		v.About = map[string]string{}
	}
	if v.Seen == nil {
		v.Seen = map[string]string{}
	}
	return v
}

// rowWords names the row of a decision: by its source where its words name one.
func rowWords(r decision.Record, about decision.Words) string {
	out := about.Say()
	if maker, mpn, ok := strings.Cut(r.Source, "|"); ok {
		for _, f := range about.Fields() {
			if part.NormaliseMPN(about[f]) != mpn {
				continue
			}
			out = about[f]
			for _, m := range about.Fields() {
				if part.NormaliseMaker(about[m]) == maker && maker != "" && m != f {
					out = about[f] + ", " + about[m]
				}
			}
			break
		}
	}
	if r.Nth > 0 {
		out += fmt.Sprintf(", number %d of those", r.Nth)
	}
	return out
}

// Decisions lists what was decided about the rows of an intake, here and in earlier files of its supplier, the newest first, with how each
// stands in the file.
func (s *Intakes) Decisions(ctx context.Context, c deed.Call, id store.ID, fate string, offset, limit int) (wire.DecisionList, error) {
	if err := deed.Allow(c, deed.OpRead); err != nil {
		return wire.DecisionList{}, err
	}
	h, doc, err := s.loadIntake(ctx, id)
	if err != nil {
		return wire.DecisionList{}, err
	}
	offset, limit = deed.Page(offset, limit)
	out := wire.DecisionList{Page: wire.Page{Offset: offset, Limit: limit}, Items: []wire.Decision{}, Fates: map[string]int{}}
	standings := []intake.Standing{}
	if doc.Taken != nil {
		for i := range doc.Edits.Decided {
			standings = append(standings, intake.Standing{Decision: &doc.Edits.Decided[i]})
		}
	} else {
		e, err := s.evaluate(ctx, h, doc)
		if err != nil {
			return wire.DecisionList{}, err
		}
		standings = e.standings
	}
	for i := range slices.Backward(standings) {
		st := standings[i]
		if st.Fate != "" {
			out.Fates[string(st.Fate)]++
		}
		if fate != "" && string(st.Fate) != fate {
			continue
		}
		if out.Page.Total++; out.Page.Total <= offset || len(out.Items) >= limit {
			continue
		}
		v := decisionView(*st.Decision)
		v.Fate, v.Rows = string(st.Fate), append(v.Rows, st.Rows...)
		out.Items = append(out.Items, v)
	}
	return out, s.withdrawnElsewhere(ctx, out.Items)
}

// withdrawnElsewhere says of decisions that an intake holds which of them somebody took back for later files.
func (s *Intakes) withdrawnElsewhere(ctx context.Context, items []wire.Decision) error {
	var ids []store.Hash
	for _, d := range items {
		id, err := store.ParseHash(d.ID)
		if err != nil {
			return err
		}
		ids = append(ids, id)
	}
	if len(ids) == 0 {
		return nil
	}
	rows, err := s.Store.Read(ctx).DecisionsByID(ids)
	if err != nil {
		return err
	}
	gone, err := s.goneWords(ctx, rows)
	for i := range items {
		items[i].Withdrawn = gone[items[i].ID]
	}
	return err
}

// goneWords say by identifier who took decisions back, and when.
func (s *Intakes) goneWords(ctx context.Context, rows []store.Decision) (map[string]string, error) {
	var ids []store.ID
	for _, d := range rows {
		if d.Withdrawn != nil {
			ids = append(ids, d.WithdrawnBy)
		}
	}
	names, err := s.Store.Read(ctx).AccountNames(ids)
	out := map[string]string{}
	for _, d := range rows {
		if d.Withdrawn != nil {
			out[d.ID.String()] = names[d.WithdrawnBy] + " on " + d.Withdrawn.UTC().Format(time.DateOnly)
		}
	}
	return out, err
}

// AllDecisions lists what was decided about the rows of all files, or of one supplier's, the newest first.
func (s *Intakes) AllDecisions(ctx context.Context, c deed.Call, supplier string, withdrawn bool, offset, limit int) (wire.DecisionList, error) {
	if err := deed.Allow(c, deed.OpRead); err != nil {
		return wire.DecisionList{}, err
	}
	offset, limit = deed.Page(offset, limit)
	q := store.DecisionQuery{Scope: supplier, All: withdrawn}
	total, err := s.Store.Read(ctx).CountDecisions(q)
	if err != nil {
		return wire.DecisionList{}, err
	}
	out := wire.DecisionList{Page: wire.Page{Offset: offset, Limit: limit, Total: int(total)}, Items: []wire.Decision{}}
	rows, err := s.Store.Read(ctx).Decisions(q, offset, limit)
	if err != nil {
		return out, err
	}
	gone, err := s.goneWords(ctx, rows)
	if err != nil {
		return out, err
	}
	for _, d := range rows {
		r, err := d.Record()
		if err != nil {
			return out, err
		}
		v := decisionView(r)
		v.Withdrawn = gone[v.ID]
		out.Items = append(out.Items, v)
	}
	return out, nil
}

// WithdrawDecisions takes decisions back for the files that come from now on. Intakes that are open keep what they hold, where each can be
// taken back as well.
func (s *Intakes) WithdrawDecisions(ctx context.Context, c deed.Call, in wire.WithdrawDecisions) (wire.Withdrawn, error) {
	var ids []store.Hash
	for _, id := range in.IDs {
		h, err := store.ParseHash(id)
		if err != nil {
			return wire.Withdrawn{}, deed.Fault(deed.Invalid, "not-there", fmt.Sprintf("%q is no identifier of a decision.", id), "Take it from the list of decisions.")
		}
		ids = append(ids, h)
	}
	return deed.Do(ctx, s.Desk, c, deed.OpIntakeEdit, "decision", in, func(t *store.Tx) (wire.Withdrawn, error) {
		all, err := t.DecisionsByID(ids)
		if err != nil {
			return wire.Withdrawn{}, err
		}
		from := map[store.ID]int{}
		for _, d := range all {
			if d.Withdrawn == nil {
				from[d.Intake]++
			}
		}
		n, err := t.WithdrawDecisions(ids, c.Actor.ID, t.Deed.At)
		if err != nil {
			return wire.Withdrawn{}, err
		}
		heads, err := t.HeadsByID(slices.Collect(maps.Keys(from)))
		for i := range heads {
			if err == nil {
				err = t.Note(&heads[i], "decisions taken back", map[string]any{"decisions": from[heads[i].ID]})
			}
		}
		return wire.Withdrawn{Decisions: n}, err
	})
}
