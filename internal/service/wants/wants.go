// Package wants has what people need and the library lacks: asked for one by one or as a list, taken on, answered with a part, or
// declined with a reason; whoever asked can say that it is not what was meant.
package wants

import (
	"context"
	"encoding/json"
	"fmt"
	"slices"
	"strconv"
	"strings"

	"jollydrawer/core/document"
	"jollydrawer/core/lookup"
	"jollydrawer/core/want"
	"jollydrawer/internal/service/boms"
	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/service/parts"
	"jollydrawer/internal/store"
	"jollydrawer/internal/wire"
)

// Wants keeps what people want. Its methods may be called from several goroutines.
type Wants struct {
	*deed.Desk
	index *lookup.Index
	parts *parts.Parts
	boms  *boms.BOMs
}

// New returns the wants of an installation.
func New(d *deed.Desk, x *lookup.Index, p *parts.Parts, b *boms.BOMs) *Wants {
	return &Wants{Desk: d, index: x, parts: p, boms: b}
}

// prefix is that of the numbers of wants.
const prefix = "W"

// waiting are the states of wants that are not settled.
var waiting = []string{string(want.Open), string(want.TakenOn)}

// most is how many wants are made in one deed.
const most = 2000

// read tidies and checks what is wanted.
func read(in []wire.WantEdit) ([]want.Content, error) {
	if len(in) == 0 || len(in) > most {
		return nil, deed.Fault(deed.Invalid, "wants-many", fmt.Sprintf("%d wants were sent; between 1 and %d are made in one deed.", len(in), most), "")
	}
	var out []want.Content
	bad := deed.Fault(deed.Invalid, "want-wrong", "Nothing was kept:", "")
	for i, e := range in {
		c := want.Content(e)
		c.Tidy()
		if err := c.Check(); err != nil {
			where := fmt.Sprintf("want %d", i+1)
			if len(in) == 1 {
				where = "the want"
			}
			bad.Places = append(bad.Places, wire.ProblemDetail{Location: where, Message: where + ": " + err.Error()})
		}
		out = append(out, c)
	}
	if len(bad.Places) > 0 {
		bad.Places = bad.Places[:min(len(bad.Places), 50)]
		return nil, bad
	}
	return out, nil
}

// Look says what would do before a want is kept: parts of the library, and wants that ask for the same. It writes nothing.
func (s *Wants) Look(ctx context.Context, c deed.Call, in wire.WantEdit) (wire.WantLook, error) {
	out := wire.WantLook{Parts: []wire.PartRow{}, Doubles: []wire.WantDouble{}}
	if err := deed.Allow(c, deed.OpRead); err != nil {
		return out, err
	}
	w := want.Content(in)
	w.Tidy()
	out.Parts, out.Total = s.would(w)
	var err error
	out.Doubles, err = s.doubles(ctx, w, store.ID{})
	return out, err
}

// would lists parts that would do: by the maker's number where there is one, otherwise by the facts.
func (s *Wants) would(w want.Content) ([]wire.PartRow, int) {
	out := []wire.PartRow{}
	if w.MPN != "" {
		for _, e := range s.index.ByMPN(w.MPN) {
			out = append(out, wire.PartRow(e.Row()))
		}
		if len(out) > 0 {
			return out[:min(len(out), 5)], len(out)
		}
	}
	if w.Facts == "" {
		return out, 0
	}
	a := s.index.Search(lookup.Query{Text: w.Facts, Limit: 5})
	for _, r := range a.Rows {
		out = append(out, wire.PartRow(r))
	}
	return out, a.Total
}

// facts are what a search understands of a want.
func (s *Wants) facts(w want.Content) (out []string) {
	if w.Facts == "" {
		return nil
	}
	for _, f := range s.index.Search(lookup.Query{Text: w.Facts, Limit: 1}).Facts {
		out = append(out, strings.ToLower(f.As))
	}
	return out
}

// doubles lists the open wants that ask for the same, but for one.
func (s *Wants) doubles(ctx context.Context, w want.Content, but store.ID) ([]wire.WantDouble, error) {
	out := []wire.WantDouble{}
	r := s.Store.Read(ctx)
	mine := s.facts(w)
	const page = 1000
	for at := 0; len(out) < 20; at += page {
		rows, heads, total, err := r.Wants(store.WantQuery{States: waiting}, at, page)
		if err != nil {
			return nil, err
		}
		contents, err := contentsOf(r, heads)
		if err != nil {
			return nil, err
		}
		for _, row := range rows {
			if row.Head == but {
				continue
			}
			other := contents[row.Head]
			var theirs []string
			if w.MPN == "" || other.MPN == "" {
				theirs = s.facts(other)
			}
			if why := want.Same(w, other, mine, theirs); why != "" {
				out = append(out, wire.WantDouble{Number: heads[row.Head].Number, ID: row.Head.String(), What: other.String(), Why: why, By: s.Person(ctx, row.WantedBy)})
			}
		}
		if at+page >= int(total) {
			break
		}
	}
	return out, nil
}

// contentsOf reads what is wanted, by head.
func contentsOf(r store.Reader, heads map[store.ID]store.Head) (map[store.ID]want.Content, error) {
	ids := make([]store.ID, 0, len(heads))
	for _, h := range heads {
		ids = append(ids, h.Draft)
	}
	found, err := r.ContentsAlone(ids)
	if err != nil {
		return nil, err
	}
	out := make(map[store.ID]want.Content, len(heads))
	for id, h := range heads {
		var w want.Content
		if err := json.Unmarshal(found[h.Draft].Bytes, &w); err != nil {
			return nil, fmt.Errorf("the want %s: %w", h.Number, err)
		}
		out[id] = w
	}
	return out, nil
}

// Make keeps what somebody wants: one want, or a list in one deed.
func (s *Wants) Make(ctx context.Context, c deed.Call, in []wire.WantEdit) (wire.WantsMade, error) {
	if err := deed.Allow(c, deed.OpWant); err != nil {
		return wire.WantsMade{}, err
	}
	all, err := read(in)
	if err != nil {
		return wire.WantsMade{}, err
	}
	return s.make(ctx, c, in, func() ([]want.Content, error) { return all, nil }, func(*store.Tx) error { return nil })
}

// make keeps wants that are worked out when the deed was not done before; also is what the write does beside them.
func (s *Wants) make(ctx context.Context, c deed.Call, request any, work func() ([]want.Content, error), also func(*store.Tx) error) (wire.WantsMade, error) {
	var all []want.Content
	var first int64
	ids := []store.ID{}
	b := deed.Bulk[wire.WantsMade]{Op: deed.OpWant, What: "want", Request: request}
	b.Prepare = func() (err error) {
		if all, err = work(); err == nil && len(all) > 0 {
			first, err = s.Store.ReserveNumbers(ctx, prefix, len(all))
		}
		ids = ids[:0]
		for range all {
			ids = append(ids, store.NewID())
		}
		return err
	}
	b.All = func(yield func(store.Staged, error) bool) {
		for i, w := range all {
			raw, hash, err := document.Canonical(w)
			content := store.Content{ID: store.NewID(), Head: ids[i], Hash: store.Hash(hash), Format: want.Format, Bytes: raw, Origins: []byte("{}")}
			h := store.Head{ID: ids[i], Kind: store.KindWant, Number: number(first, i), Draft: content.ID}
			if !yield(store.Staged{Head: h, Contents: []store.Content{content}, Action: "wanted", Detail: map[string]any{"what": w.String(), "board": w.Board, "by": w.By, "quantity": w.Quantity}}, err) {
				return
			}
		}
	}
	b.Also = func(t *store.Tx) (wire.WantsMade, error) {
		out := wire.WantsMade{Numbers: []string{}, Wants: len(all)}
		var rows []store.Want
		for i := range all {
			rows = append(rows, store.Want{Head: ids[i], WantedBy: c.Actor.ID, State: string(want.Open), Asked: t.Deed.At})
			if i < 100 {
				out.Numbers = append(out.Numbers, number(first, i))
			}
		}
		if err := also(t); err != nil {
			return out, err
		}
		return out, t.AddWants(rows)
	}
	return b.Do(ctx, s.Desk, c)
}

func number(first int64, i int) string { return fmt.Sprintf("%s-%05d", prefix, first+int64(i)) }

// FromBOM makes wants of the lines of a BOM that have no part in the library; what is wanted already is left out. With a row it makes one of the open line in it, also
// where something is proposed for it that is not meant.
func (s *Wants) FromBOM(ctx context.Context, c deed.Call, key string, row int) (wire.WantsMade, error) {
	if err := deed.Allow(c, deed.OpWant); err != nil {
		return wire.WantsMade{}, err
	}
	var board store.Head // as it was before its lines were looked at
	work := func() ([]want.Content, error) {
		r := s.Store.Read(ctx)
		var err error
		if board, err = r.Called(store.KindBOM, key); err != nil {
			return nil, deed.Sentence(err, "BOM")
		}
		b, err := s.boms.Get(ctx, c, board.ID.String())
		if err != nil {
			return nil, err
		}
		var out []want.Content
		why := fmt.Sprintf("Row %d of %s is answered, or is no line of it.", row, b.Name)
		for _, l := range b.Lines {
			if row > 0 && l.Row != row || l.Verdict != "not in the library" && (row == 0 || l.Verdict != "proposed" && l.Verdict != "several") {
				continue
			}
			w := ofLine(b.Name, l)
			if err := w.Check(); err != nil { // a line that says nothing of what it is
				why = fmt.Sprintf("Row %d of %s says nothing that could be wanted: neither facts nor a maker's number.", row, b.Name)
				continue
			}
			doubles, err := s.doubles(ctx, w, store.ID{})
			if err != nil {
				return nil, err
			}
			if len(doubles) == 0 {
				out = append(out, w)
			} else {
				why = fmt.Sprintf("What row %d of %s asks for is wanted already: %s.", row, b.Name, doubles[0].Number)
			}
		}
		if row > 0 && len(out) == 0 {
			return nil, deed.Fault(deed.Invalid, "not-wanted", why, "")
		}
		if len(out) == 0 {
			return nil, deed.Fault(deed.Invalid, "nothing-missing", fmt.Sprintf("No line of %s is missing in the library, or all that are missing are wanted already.", b.Name), "")
		}
		return out, nil
	}
	// Each want of a line stands on the trail of its board, so that two people who want the same lines at once are one after the other: the later one looks again.
	for again := 0; ; again++ {
		out, err := s.make(ctx, c, []string{"bom", key, strconv.Itoa(row)}, work, func(t *store.Tx) error {
			now, err := t.Head(store.KindBOM, board.ID)
			switch {
			case err != nil:
				return err
			case now.TrailSeq != board.TrailSeq:
				return store.ErrConflict
			}
			return t.Note(&now, "lines wanted", map[string]any{"row": row})
		})
		if again == 20 || !deed.Clashed(err) {
			return out, err
		}
	}
}

// ofLine is what a line of a BOM asks for.
func ofLine(board string, l wire.BOMLine) want.Content {
	w := want.Content{MPN: l.MPN, Manufacturer: l.Manufacturer, Facts: strings.Join([]string{l.Value, l.Package}, " "), Board: board, Quantity: max(0, l.Quantity) * int(max(1, l.Times)), Note: "for " + strings.Join(l.Designators[:min(len(l.Designators), 20)], ", ")}
	w.Tidy()
	if w.MPN == "" {
		w.Manufacturer = ""
	}
	return w
}

// thing loads a want by its ID or number.
func (s *Wants) thing(r store.Reader, key string) (store.Head, error) {
	h, err := r.Called(store.KindWant, key)
	return h, deed.Sentence(err, "want")
}

// Get returns a want with what would answer it, and the wants that ask for the same.
func (s *Wants) Get(ctx context.Context, c deed.Call, key string) (wire.Want, error) {
	if err := deed.Allow(c, deed.OpRead); err != nil {
		return wire.Want{}, err
	}
	r := s.Store.Read(ctx)
	h, err := s.thing(r, key)
	if err != nil {
		return wire.Want{}, err
	}
	return deed.Whole(h, func() (store.Head, error) { return r.Head(store.KindWant, h.ID) }, func(h store.Head) (wire.Want, error) {
		row, err := r.Want(h.ID)
		if err != nil {
			return wire.Want{}, err
		}
		contents, err := contentsOf(r, map[store.ID]store.Head{h.ID: h})
		if err != nil {
			return wire.Want{}, err
		}
		out := s.view(ctx, c, h, row, contents[h.ID])
		look := wire.WantLook{Doubles: []wire.WantDouble{}}
		look.Parts, look.Total = s.would(contents[h.ID])
		if slices.Contains(waiting, row.State) {
			if look.Doubles, err = s.doubles(ctx, contents[h.ID], h.ID); err != nil {
				return out, err
			}
		}
		out.Look = &look
		trail, err := s.TrailOf(ctx, h, 0, 100)
		out.Trail = trail.Items
		return out, err
	})
}

func (s *Wants) view(ctx context.Context, c deed.Call, h store.Head, row store.Want, w want.Content) wire.Want {
	out := wire.Want{ID: h.ID.String(), Number: h.Number, Version: h.Version, State: row.State, What: w.String(), Said: wire.WantEdit(w), By: s.Person(ctx, row.WantedBy), Mine: row.WantedBy == c.Actor.ID, Asked: row.Asked, Settled: row.Settled, Why: row.Why}
	if !row.TakenBy.IsZero() {
		out.TakenBy = s.Person(ctx, row.TakenBy)
	}
	if !row.Part.IsZero() {
		out.Part = row.Part.String()
		if e, ok := s.index.ByID(out.Part); ok {
			out.Part = e.Number
		}
	}
	return out
}

// recent is how many days a settled want is news to who wanted it.
const recent = 14

// Query narrows the list of wants.
type Query struct {
	State         string // waiting stands for what is not settled; blank is any
	Mine          bool
	Settled       bool // in the last days
	Offset, Limit int
}

// List lists wants, those that wait longest first.
func (s *Wants) List(ctx context.Context, c deed.Call, q Query) (wire.WantList, error) {
	offset, limit := deed.Page(q.Offset, q.Limit)
	out := wire.WantList{Page: wire.Page{Offset: offset, Limit: limit}, Items: []wire.Want{}, Counts: map[string]int{}}
	if err := deed.Allow(c, deed.OpRead); err != nil {
		return out, err
	}
	ask := store.WantQuery{}
	switch q.State {
	case "":
	case "waiting":
		ask.States = waiting
	default:
		ask.States = []string{q.State}
	}
	if q.Mine {
		ask.WantedBy = c.Actor.ID
	}
	if q.Settled {
		ask.States, ask.SettledSince = []string{string(want.Answered), string(want.Declined)}, store.Stamp(s.Now().AddDate(0, 0, -recent))
	}
	r := s.Store.Read(ctx)
	rows, heads, total, err := r.Wants(ask, offset, limit)
	if err != nil {
		return out, err
	}
	contents, err := contentsOf(r, heads)
	if err != nil {
		return out, err
	}
	out.Page.Total = int(total)
	for _, row := range rows {
		out.Items = append(out.Items, s.view(ctx, c, heads[row.Head], row, contents[row.Head]))
	}
	out.Counts, err = r.CountWants()
	return out, err
}

var errNotYours = deed.Fault(deed.Forbidden, "not-yours", "Only who wanted it, or a librarian, opens a want again.", "Ask one of them.")

// Settle takes a want on, lets go of it, answers it with a part, declines it, or opens it again because it is not what was meant.
func (s *Wants) Settle(ctx context.Context, c deed.Call, key string, version int, in wire.SettleWant) (wire.Want, error) {
	op := deed.OpWantSettle
	if in.State == string(want.Open) {
		op = deed.OpWant
	}
	if err := deed.Allow(c, op); err != nil {
		return wire.Want{}, err
	}
	r := s.Store.Read(ctx)
	h, err := s.thing(r, key)
	if err != nil {
		return wire.Want{}, err
	}
	var part store.Head
	if in.State == string(want.Answered) {
		part, err = s.parts.Find(ctx, in.Part)
		if err != nil {
			return wire.Want{}, deed.Sentence(err, "part")
		}
	}
	_, err = deed.Do(ctx, s.Desk, c, op, "want", []any{h.ID, version, in}, func(t *store.Tx) (int, error) {
		h, err := t.HeadAt(store.KindWant, h.ID, version)
		if err != nil {
			return 0, err
		}
		row, err := t.Want(h.ID)
		if err != nil {
			return 0, err
		}
		return h.Version, settle(t, c, &h, row, part, in)
	})
	if err != nil {
		return wire.Want{}, err
	}
	return s.Get(ctx, c, h.ID.String())
}

func settle(t *store.Tx, c deed.Call, h *store.Head, row store.Want, part store.Head, in wire.SettleWant) error {
	to, why := want.State(in.State), deed.Said(in.Why)
	if !want.Allowed(want.State(row.State), to) {
		return deed.Fault(deed.Clash, "want-state", fmt.Sprintf("%s is %s: it cannot be %s now.", h.Number, row.State, in.State), "Load it again.")
	}
	row.State, row.Why = in.State, why
	detail := map[string]any{"why": why}
	action := map[want.State]string{want.TakenOn: "taken on", want.Answered: "answered", want.Declined: "declined", want.Open: "opened again"}[to]
	switch to {
	case want.Open:
		if row.WantedBy != c.Actor.ID && !deed.Allows(c.Actor.Role, deed.OpWantSettle) {
			return errNotYours
		}
		if why == "" && row.Settled != nil {
			return deed.Fault(deed.Invalid, "no-why", "Say why it is not what was meant.", "")
		}
		row.TakenBy, row.Part, row.Settled = store.ID{}, store.ID{}, nil
	case want.TakenOn:
		row.TakenBy = c.Actor.ID
	case want.Declined:
		if why == "" {
			return deed.Fault(deed.Invalid, "no-why", "A want is declined with a reason.", "Say it in a few words.")
		}
		row.TakenBy, row.Settled = c.Actor.ID, &t.Deed.At
	case want.Answered:
		row.TakenBy, row.Part, row.Settled = c.Actor.ID, part.ID, &t.Deed.At
		detail["part"] = part.Number
	}
	if err := t.SaveWant(row); err != nil {
		return err
	}
	return t.Update(h, action, detail)
}
