package offers

import (
	"context"
	"crypto/sha256"
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"

	"jollydrawer/core/answers"
	"jollydrawer/core/connection"
	"jollydrawer/core/lookup"
	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/store"
	"jollydrawer/internal/supplier"
	"jollydrawer/internal/wire"
)

const (
	keptFor    = time.Hour        // that an answer serves again
	longestAsk = 90 * time.Second // that one question to one supplier may take with all its pages and tries
	wait       = 4 * time.Second  // that a call waits for something new
	troubleFor = 5 * time.Second  // that trouble serves again: nobody is asked at every look
)

// askedKey is a question to one supplier, as its connection was then.
type askedKey struct {
	connection store.ID
	content    store.ID
	question   store.Hash
}

// asking is a question that is under way, or ended a moment ago. It is guarded by the lock of Offers.
type asking struct {
	pages   []supplier.Page
	priced  int // how many of them were asked for stock and prices
	done    bool
	problem string
	ended   time.Time
}

// page is one page of an answer, and how many products were read of it.
type page struct {
	raw      []byte
	products int
}

// hash is what the page that a product came with is kept by, as a file, once the product is taken over.
func (a *answered) hash(product int) (raw []byte, h store.Hash) {
	for _, p := range a.pages {
		if product -= p.products; product < 0 {
			return p.raw, sha256.Sum256(p.raw)
		}
	}
	return nil, a.list
}

// hashOf is the key of a question, without who asks.
func hashOf(q connection.Question) store.Hash {
	raw, err := json.Marshal(q)
	if err != nil {
		panic(err) // texts only
	}
	return sha256.Sum256(raw)
}

// answered is how one supplier stands to a question.
type answered struct {
	connected
	wire.SupplierAnswer
	reading *answers.Reading // nil where nothing was read yet
	steps   int              // grows with each change
	list    store.Hash       // the price list that it is of; zero: none
	detail  *detail          // what was asked for beside, of one product
	pages   []page           // as they came
}

// Ask asks all suppliers and says what they answered until now. Nobody waits for the slowest: what is asked goes on by itself, and whoever asks again
// with the state that was seen is answered when there is something new.
func (s *Offers) Ask(ctx context.Context, c deed.Call, in wire.SupplierQuestion) (wire.SupplierAnswers, error) {
	none := wire.SupplierAnswers{}
	if err := deed.Allow(c, deed.OpAsk); err != nil {
		return none, err
	}
	in.Text = strings.Join(strings.Fields(in.Text), " ")
	if in.Text == "" {
		return none, deed.Fault(deed.Invalid, "no-question", "There is no question.", "Write what is looked for, such as 4k7 0805 1%.")
	}
	for key, texts := range in.Filters {
		for _, text := range texts {
			if err := lookup.CheckSupplyFilter(key, text); err != nil {
				return none, deed.Fault(deed.Invalid, "filter-wrong", fmt.Sprintf("The filter %s:%s cannot be read: %s.", key, text, err), "Write it as offer.stock:100.. or offer.price:..0.50, for example.")
			}
		}
	}
	all, err := s.connections(ctx)
	if err != nil {
		return none, err
	}
	if len(all) == 0 {
		return none, deed.Fault(deed.Invalid, "no-connections", "There is no connection to a supplier yet.", "An administrator can make one: jolly connection apply FILE.")
	}
	end := time.Now().Add(wait)
	for first := true; ; first = false {
		s.mu.Lock()
		stepped := s.stepped // before anything is looked at: what comes meanwhile is not missed
		s.mu.Unlock()
		each, err := s.each(ctx, all, in, first && in.Again, false)
		if err != nil {
			return none, err
		}
		state, done := 0, true
		for _, a := range each {
			state += a.steps
			done = done && a.State != "waiting"
		}
		if state > in.Seen || done || time.Now().After(end) {
			return s.together(ctx, in, each, state, done)
		}
		select {
		case <-stepped:
		case <-ctx.Done():
			return none, ctx.Err()
		case <-time.After(time.Until(end)):
		}
	}
}

// question is how a supplier is asked for what somebody looks for.
func (s *Offers) question(ctx context.Context, d *connection.Document, text string) (connection.Question, error) {
	cab, _, err := s.cabinets.InForce(ctx)
	if err != nil {
		return connection.Question{}, err
	}
	all, err := s.cabinets.AllCrosswalks(ctx)
	if err != nil {
		return connection.Question{}, err
	}
	cw, _ := answers.Mapping(d, all)
	return answers.Question(d, cw, cab, lookup.Tell(cab, text), text), nil
}

// each is how every supplier stands to a question; those that were not asked are asked now. seen says that an answer in part will do.
func (s *Offers) each(ctx context.Context, all []connected, in wire.SupplierQuestion, again, seen bool) ([]answered, error) {
	out := make([]answered, 0, len(all))
	for _, one := range all {
		var a answered
		var err error
		if _, live := one.Ask[connection.Words]; live {
			q, e := s.question(ctx, one.Document, in.Text)
			if e != nil {
				return nil, e
			}
			a, err = s.asked(ctx, one, q, again, seen)
		} else {
			a, err = s.listed(ctx, one, in.Text)
		}
		if err != nil {
			return nil, err
		}
		out = append(out, a)
	}
	missed, err := s.missed(ctx) // now: what an answer does not say is noted before it is said to be there
	for i := range out {
		if a := &out[i]; a.Says == "" && a.State != "waiting" {
			a.Says = missed[a.head.ID]
		}
	}
	return out, err
}

// asked is how one supplier stands to a question. What was kept within the hour serves, else the supplier is asked: once, however many want to know.
// An answer in part serves only whoever takes what was seen of it.
func (s *Offers) asked(ctx context.Context, one connected, q connection.Question, again, seen bool) (answered, error) {
	out := answered{connected: one, SupplierAnswer: wire.SupplierAnswer{Supplier: one.Supplier, State: "waiting"}}
	key := askedKey{one.head.ID, one.head.Released, hashOf(q)}
	s.mu.Lock()
	a := s.asking[key]
	fresh := s.serves(a, again)
	out.Kept = fresh && a.done
	s.mu.Unlock()
	if !fresh && !again {
		kept, ok, err := s.Store.Read(ctx).AnswerTo(one.head.ID, key.question)
		if err != nil {
			return out, err
		}
		if ok && kept.Version == one.head.Version && (kept.Problem == "" || seen && kept.Pages > 0) && s.Now().Sub(kept.At) < keptFor {
			return s.kept(ctx, out, kept, q.Kind)
		}
	}
	if !fresh {
		a = s.begin(ctx, one, q, key, again)
	}
	s.mu.Lock()
	pages, done, problem, priced := a.pages, a.done, a.problem, a.priced
	s.mu.Unlock()
	out.steps = 1 + len(pages) + priced
	if done {
		out.steps++
	}
	var products []connection.Product
	for _, p := range pages {
		products = append(products, p.Products...)
		out.Problems = append(out.Problems, p.Problems...)
		out.At = &p.At
		out.pages = append(out.pages, page{p.Raw, len(p.Products)})
	}
	switch {
	case done && problem != "" && len(pages) > 0:
		out.State, out.Says = "in part", problem
	case done && problem != "":
		out.State, out.Says = "no answer", problem
	case done:
		out.State = "answered"
	}
	if len(pages) > 0 {
		r, err := s.held(ctx, one.Document, products, fmt.Sprintf("%s/%x/%s/%d", one.head.Released, key.question, pages[0].At, priced))
		if err != nil {
			return out, err
		}
		out.reading = r
	}
	return out, nil
}

// kept reads an answer to a kind of question that was kept.
func (s *Offers) kept(ctx context.Context, out answered, kept store.KeptAnswer, kind string) (answered, error) {
	out.State, out.Kept, out.At, out.steps = "answered", true, &kept.At, 2+kept.Pages
	key := "kept/" + kept.ID.String()
	pages, err := s.Store.Read(ctx).AnswerPages(kept.ID)
	if err != nil {
		return out, err
	}
	r, err := supplier.NewReader(out.Document, kind)
	if err != nil {
		return out, err
	}
	var products []connection.Product
	for _, raw := range pages {
		a, err := r.Read(raw)
		if err != nil { // it was read when it was kept
			return out, err
		}
		with, _, err := s.priced(ctx, out.connected, a.Products, s.Now().Add(-keptFor), false)
		if err != nil {
			return out, err
		}
		products = append(products, with...)
		out.Problems = append(out.Problems, a.Problems...)
		out.pages = append(out.pages, page{raw, len(a.Products)})
	}
	out.reading, err = s.held(ctx, out.Document, products, key)
	return out, err
}

// serves says whether a question that is under way, or ended a moment ago, answers whoever asks now. The lock is held.
func (s *Offers) serves(a *asking, again bool) bool {
	return a != nil && (!a.done || !again && s.Now().Sub(a.ended) < troubleFor)
}

// begin asks a supplier, beside whoever wants to know: the question goes on when they leave.
func (s *Offers) begin(ctx context.Context, one connected, q connection.Question, key askedKey, again bool) *asking {
	s.mu.Lock()
	defer s.mu.Unlock()
	now := s.Now()
	if a := s.asking[key]; s.serves(a, again) { // somebody was quicker
		return a
	}
	for k, a := range s.asking {
		if a.done && now.Sub(a.ended) > time.Minute {
			delete(s.asking, k)
		}
	}
	a := &asking{}
	s.asking[key] = a
	step := func(change func()) {
		s.mu.Lock()
		defer s.mu.Unlock()
		change()
		close(s.stepped)
		s.stepped = make(chan struct{})
	}
	ctx, stop := context.WithTimeout(context.WithoutCancel(ctx), longestAsk)
	go func() {
		defer stop()
		err := s.asker.Ask(ctx, one.Document, q, func(p supplier.Page) error {
			step(func() { a.pages = append(a.pages[:len(a.pages):len(a.pages)], p) })
			if one.LotSize(connection.Prices) < 2 || len(connection.Unpriced(p.Products)) == 0 { // a question for each product would be too many: only what is taken is asked for
				return nil
			}
			with, why, err := s.priced(ctx, one, p.Products, s.Now().Add(-keptFor), true)
			if err != nil {
				return err
			}
			if p.Products = with; why != "" {
				p.Problems = append(slices.Clip(p.Problems), "Its stock and prices are not all known: "+why)
			}
			step(func() {
				a.pages = append(a.pages[:len(a.pages)-1:len(a.pages)-1], p)
				a.priced++
			})
			return nil
		})
		problem := s.spoken(one.Supplier, err)
		s.mu.Lock()
		pages := a.pages
		s.mu.Unlock()
		kept := store.KeptAnswer{Connection: key.connection, Question: key.question, ID: store.NewID(), Version: one.head.Version, At: store.Stamp(s.Now()), Problem: problem}
		raw := make([][]byte, 0, len(pages))
		for _, p := range pages {
			raw = append(raw, p.Raw)
		}
		if err := s.Store.KeepAnswer(context.WithoutCancel(ctx), kept, raw); err != nil {
			s.Log.Error("an answer was not kept", "supplier", one.Supplier, "error", err)
		}
		if problem == "" {
			if err := s.lookOver(context.WithoutCancel(ctx), one, pages); err != nil {
				s.Log.Error("what an answer says was not noted", "supplier", one.Supplier, "error", err)
			}
		}
		step(func() { a.done, a.problem, a.ended = true, problem, s.Now() })
	}()
	return a
}

// spoken says in a sentence why a supplier has no answer; what is not for people is only in the log.
func (s *Offers) spoken(name string, err error) string {
	var why *supplier.Trouble
	switch {
	case err == nil:
		return ""
	case errors.As(err, &why):
		return why.What
	case errors.Is(err, context.DeadlineExceeded):
		return fmt.Sprintf("%s took longer than %d s.", name, int(longestAsk.Seconds()))
	}
	s.Log.Error("a supplier could not be asked", "supplier", name, "error", err)
	return name + " could not be asked: something went wrong here, and the log of the service says what."
}

// own asks the library the same question.
func (s *Offers) own(text string) ([]wire.PartRow, int) {
	a := s.index.Search(lookup.Query{Text: text, Limit: 20})
	rows := make([]wire.PartRow, 0, len(a.Rows))
	for _, r := range a.Rows {
		rows = append(rows, wire.PartRow(r))
	}
	return rows, a.Total
}
