package boms

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"

	"jollydrawer/core/bom"
	"jollydrawer/core/buying"
	"jollydrawer/core/cabinet"
	"jollydrawer/core/decision"
	"jollydrawer/core/document"
	"jollydrawer/core/lifecycle"
	"jollydrawer/core/lookup"
	"jollydrawer/core/part"
	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/store"
	"jollydrawer/internal/wire"
)

// instead fills in what is left of parts, and what could stand in for them, were what is asked about gone.
func (s *BOMs) instead(ctx context.Context, in wire.UsedAsked, all []*placed, out *wire.WhereUsed) error {
	cab, _, err := s.cabinets.InForce(ctx)
	if err != nil {
		return err
	}
	for i := range out.Items {
		item := &out.Items[i]
		e, ok := s.index.ByID(item.Part.ID)
		if !ok {
			continue
		}
		for _, p := range all {
			item.Needs += p.uses[e.ID].Pieces * int64(max(p.build, 1))
		}
		lines, err := s.linesWith(ctx, e.ID, all)
		if err != nil {
			return err
		}
		if item.Left, err = s.left(ctx, in, e, item.Needs); err != nil {
			return err
		}
		if item.Instead, err = s.standIns(ctx, in, e, lines, item.Needs, cab); err != nil {
			return err
		}
	}
	return nil
}

// linesWith are the lines that a part is linked to now, board by board.
func (s *BOMs) linesWith(ctx context.Context, id string, all []*placed) (out []onBoard, err error) {
	for _, p := range all {
		u, ok := p.uses[id]
		if !ok {
			continue
		}
		on, err := s.onBoard(ctx, p.head, u)
		if err != nil {
			return nil, err
		}
		out = append(out, on)
	}
	return out, nil
}

// onBoard are lines of one board, with what its columns mean.
type onBoard struct {
	head  store.Head
	doc   bomDoc
	use   bom.Use
	all   []bom.Line // of the board
	lines []bom.Line // that the part is linked to
	known bom.Known
}

func (s *BOMs) onBoard(ctx context.Context, h store.Head, u bom.Use) (out onBoard, err error) {
	out.head, out.use = h, u
	if out.doc, err = s.bomDoc(ctx, h); err != nil {
		return out, err
	}
	f, _, err := s.fileOf(ctx, h, out.doc)
	if err != nil {
		return out, err
	}
	out.all = f.lines
	for _, row := range u.Rows {
		if l, ok := f.line(row); ok {
			out.lines = append(out.lines, l)
		}
	}
	out.known = bom.Known{Columns: f.columns, Confirmed: f.by != ""}
	return out, nil
}

// left are the sources of a record that are not what is asked about, with what is bought of each.
func (s *BOMs) left(ctx context.Context, in wire.UsedAsked, e *lookup.Entry, needs int64) ([]wire.LeftSource, error) {
	if in.Part != "" || in.Model != "" {
		return nil, nil
	}
	out := []wire.LeftSource{}
	about := ofSource(in)
	for _, src := range e.Sources {
		if in.Supplier == "" && about(src) {
			continue
		}
		buy, err := s.buys(ctx, in, e, []part.Source{src}, needs)
		if err != nil {
			return nil, err
		}
		if in.Supplier != "" && buy == nil { // nobody else sells it
			continue
		}
		out = append(out, wire.LeftSource{Manufacturer: src.Manufacturer, MPN: src.MPN, Buy: buy})
	}
	return out, nil
}

// buys is what would be bought of sources of a part; nil where nobody sells them for a price that is known.
func (s *BOMs) buys(ctx context.Context, in wire.UsedAsked, e *lookup.Entry, sources []part.Source, pieces int64) (*buying.Bought, error) {
	market, err := s.market.Market(ctx, sources)
	if err != nil {
		return nil, err
	}
	w := buying.Wanted{Part: e.ID, Number: e.Number, Description: e.Description, Each: max(pieces, 1)}
	for n, src := range sources {
		for _, o := range market.By[src.Key()] {
			o.Alternate = n > 0
			w.Offers = append(w.Offers, o)
		}
	}
	t := buying.Terms{Rates: market.Rates, Day: market.Day}
	if in.Supplier != "" {
		t.Rules.Exclude = []string{in.Supplier}
	}
	if c := buying.Plan([]buying.Wanted{w}, 1, t); len(c.Bought) > 0 {
		return &c.Bought[0], nil
	}
	return nil, nil
}

// mostStandIns bounds the records that are proposed for one part.
const mostStandIns = 20

// standIns are the records that could take a part's place: its successor, those that equal it in what identifies parts of its drawer, and those of the same value
// and package, with what they differ in. Records that may not
// be used, or are of what is asked about, are none.
func (s *BOMs) standIns(ctx context.Context, in wire.UsedAsked, e *lookup.Entry, on []onBoard, needs int64, cab *cabinet.Cabinet) ([]wire.StandIn, error) {
	out := []wire.StandIn{}
	seen := map[string]bool{e.ID: true}
	add := func(o *lookup.Entry, why string) error {
		if seen[o.ID] || o.Gone || o.Use == lifecycle.UseNo {
			return nil
		}
		seen[o.ID] = true
		sources := o.Sources
		if part.NormaliseMaker(in.Maker) != "" {
			sources = slices.DeleteFunc(slices.Clone(sources), ofSource(in))
			if len(sources) == 0 {
				return nil
			}
		}
		x := wire.StandIn{Part: bomPart(o), Why: why, Against: []string{}, Differs: append([]string{}, bom.Differs(e, o, cab)...)}
		for _, b := range on {
			for _, a := range bom.Instead(b.lines, o, s.index, cab, b.known) {
				x.Against = append(x.Against, b.head.Number+": "+a)
			}
		}
		buy, err := s.buys(ctx, in, o, sources, needs)
		x.Buy = buy
		out = append(out, x)
		return err
	}
	id, err := store.ParseID(e.ID)
	if err != nil {
		return nil, err
	}
	next, why, err := s.Store.Read(ctx).Successor(id)
	if err != nil && !errors.Is(err, store.ErrNotFound) {
		return nil, err
	}
	if o, ok := s.index.ByID(next.String()); err == nil && ok {
		if err := add(o, strings.TrimSuffix("its successor: "+why, ": ")); err != nil {
			return nil, err
		}
	}
	if t, ok := cab.Template(e.Drawer); ok {
		equal, like := t.Identity, slices.DeleteFunc([]string{t.Leading, t.Case}, func(k string) bool { return k == "" || e.Value(k).IsBlank() })
		for n, keys := range [][]string{equal, like, like[:min(1, len(like))]} {
			values := map[string]cabinet.Value{}
			for _, k := range keys {
				values[k] = e.Value(k)
			}
			for _, number := range s.index.Alike(e.Drawer, keys, values, e.ID, mostStandIns) {
				o, ok := s.index.ByNumber(number)
				if !ok {
					continue
				}
				if err := add(o, []string{"equal in what identifies its kind of part", "the same value and package", "the same value"}[n]); err != nil {
					return nil, err
				}
			}
		}
	}
	slices.SortStableFunc(out, func(a, b wire.StandIn) int { return len(a.Against) + len(a.Differs) - len(b.Against) - len(b.Differs) })
	return out, nil
}

// mostReplaced is how many boards one deed changes.
const mostReplaced = 200

// Replace puts a part in another's place on boards, in one deed: each line that the part is linked to now is chosen the other one for, with the reason. Without a
// digest it only says what it would do; the deed names the digest of what was looked at.
func (s *BOMs) Replace(ctx context.Context, c deed.Call, in wire.Replacement) (wire.Replaced, error) {
	if err := deed.Allow(c, deed.OpBOMEdit); err != nil {
		return wire.Replaced{}, err
	}
	reason := deed.Said(in.Reason)
	if in.Digest == "" {
		r, err := s.replacement(ctx, in)
		return r.said, err
	}
	if reason == "" {
		return wire.Replaced{}, deed.Fault(deed.Invalid, "reason-missing", "A replacement needs a reason: it is kept with each line.", "Say it in a few words.")
	}
	var r replacement
	prepare := func() (err error) {
		if r, err = s.replacement(ctx, in); err != nil {
			return err
		}
		if r.said.Digest != in.Digest {
			return deed.Fault(deed.Clash, "preview-behind", "The boards, their lines or the parts are other than what you looked at; nothing was saved.", "Look at the preview again.")
		}
		return nil
	}
	return deed.DoAfter(ctx, s.Desk, c, deed.OpBOMEdit, "BOM", in, prepare, func(t *store.Tx) (done wire.Replaced, err error) {
		if err := s.stand(t.Reader, []*lookup.Entry{r.with}, lifecycle.ForbidChoose); err != nil {
			return done, err
		}
		for _, b := range r.boards {
			h, doc, err := at(t, b.head.ID, b.head.Version)
			if err == nil {
				err = s.mayChange(t, c, h)
			}
			if err != nil {
				return done, err
			}
			doc.carry(b.all)
			for i, l := range b.lines {
				doc.Decisions = decision.With(doc.Decisions, decision.Record{Kind: decision.Line, About: l.About(), Evidence: l.Evidence(), Outcome: r.with.ID, Against: b.against[i], Reason: reason, By: c.Actor.Name, At: s.Now().UTC()})
			}
			if err := deed.SaveDraft(t, &h, bomFormat, doc); err != nil {
				return done, err
			}
			if err := t.SetUses(h.ID, chosenWord, doc.uses()); err != nil {
				return done, err
			}
			if err := t.Update(&h, "part replaced", map[string]any{"part": r.said.From.Number, "with": r.with.Number, "lines": len(b.lines), "note": reason}); err != nil {
				return done, err
			}
		}
		done = r.said
		done.Done = true
		return done, nil
	})
}

// replacement is what a replacement would do.
type replacement struct {
	said   wire.Replaced
	with   *lookup.Entry
	boards []replacedBoard
}

type replacedBoard struct {
	onBoard
	against [][]string // of each line
}

func (s *BOMs) replacement(ctx context.Context, in wire.Replacement) (out replacement, err error) {
	find := func(key, what string) (*lookup.Entry, error) {
		if e, ok := s.index.ByNumber(key); ok {
			return e, nil
		}
		if e, ok := s.index.ByID(key); ok && !e.Gone {
			return e, nil
		}
		return nil, deed.Fault(deed.Unknown, "part-unknown", fmt.Sprintf("There is no part %s %s.", key, what), "Name it by its number.")
	}
	was, err := find(in.Part, "to be replaced")
	if err != nil {
		return out, err
	}
	if out.with, err = find(in.With, "to take its place"); err != nil {
		return out, err
	}
	if was.ID == out.with.ID {
		return out, deed.Fault(deed.Invalid, "replacement-wrong", was.Number+" cannot take its own place.", "Name another part.")
	}
	cab, _, err := s.cabinets.InForce(ctx)
	if err != nil {
		return out, err
	}
	all, err := s.boards(ctx)
	if err != nil {
		return out, err
	}
	out.said = wire.Replaced{From: bomPart(was), To: bomPart(out.with), Boards: []wire.ReplacedOn{}, Differs: append([]string{}, bom.Differs(was, out.with, cab)...)}
	named := map[string]bool{}
	for _, key := range in.BOMs {
		named[key] = true
	}
	seen := []any{was.ID, was.Version, out.with.ID, out.with.Version}
	for _, p := range all {
		u, on := p.uses[was.ID]
		asked := named[p.head.Number] || named[p.head.ID.String()]
		delete(named, p.head.Number)
		delete(named, p.head.ID.String())
		switch {
		case len(in.BOMs) > 0 && !asked, len(in.BOMs) == 0 && !on:
			continue
		case on && len(u.Rows) == 0:
			if !asked {
				continue
			}
			return out, deed.Fault(deed.Invalid, "not-on-board", fmt.Sprintf("%s takes %s only by way of %s.", p.head.Number, was.Number, strings.Join(u.By, ", ")), "Replace it there, freeze that board, and move on to it here.")
		case !on:
			return out, deed.Fault(deed.Invalid, "not-on-board", fmt.Sprintf("No line of %s is linked to %s.", p.head.Number, was.Number), "Leave the board out.")
		}
		b, err := s.onBoard(ctx, p.head, u)
		if err != nil {
			return out, err
		}
		one := replacedBoard{onBoard: b}
		said := wire.ReplacedOn{BOM: p.head.ID.String(), Name: p.head.Number, Rows: u.Rows, Designators: []string{}, Against: []string{}}
		for _, l := range b.lines {
			said.Designators = append(said.Designators, l.Designators...)
			v := bom.Verdict{Tally: bom.Lay(l, out.with, s.index, cab, b.known)}
			one.against = append(one.against, v.Against())
			for _, a := range v.Against() {
				if !slices.Contains(said.Against, a) {
					said.Against = append(said.Against, a)
				}
			}
		}
		slices.SortFunc(said.Designators, bom.ByDesignator)
		out.boards, out.said.Boards = append(out.boards, one), append(out.said.Boards, said)
		seen = append(seen, p.head.ID.String(), p.head.Version, u.Rows)
	}
	for key := range named {
		return out, deed.Fault(deed.Unknown, "not-found", fmt.Sprintf("There is no BOM %s.", key), "List the BOMs.")
	}
	if len(out.boards) > mostReplaced {
		return out, deed.Fault(deed.Invalid, "too-many-boards", fmt.Sprintf("%d boards take %s; at most %d are changed in one deed.", len(out.boards), was.Number, mostReplaced), "Name some of them, and then the others.")
	}
	_, hash, err := document.Canonical(seen)
	out.said.Digest = store.Hash(hash).String()
	return out, err
}
