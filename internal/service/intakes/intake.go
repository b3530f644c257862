package intakes

import (
	"context"
	"encoding/hex"
	"errors"
	"fmt"
	"slices"
	"strings"
	"sync"

	"jollydrawer/core/cabinet"
	"jollydrawer/core/crosswalk"
	"jollydrawer/core/finding"
	"jollydrawer/core/intake"
	"jollydrawer/core/lookup"
	"jollydrawer/formats/rows"
	"jollydrawer/internal/service/cabinets"
	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/service/files"
	"jollydrawer/internal/store"
	"jollydrawer/internal/wire"
)

const intakeFormat = "jolly-intake/3"

// intakeDoc is what is kept of an intake: the file by hash and an overlay of decisions. Its rows are read anew from
// the file whenever they are looked at.
type intakeDoc struct {
	Supplier string             `json:"supplier"`
	FileHash string             `json:"fileHash"`
	FileName string             `json:"fileName"`
	Layout   rows.Layout        `json:"layout"`
	Edits    intake.Kept        `json:"edits"`
	Changes  []crosswalk.Change `json:"changes,omitempty"` // of the crosswalk of the file's layout, until the intake is taken in
	Mapped   string             `json:"mapped,omitempty"`  // number of the crosswalk where somebody chose it; blank: the one whose layout the file has
	Cabinet  int                `json:"cabinet,omitempty"` // revision at the last edit
	Over     string             `json:"over,omitempty"`    // number of the intake that this one goes over again
	Taken    *takenDoc          `json:"taken,omitempty"`
	Back     string             `json:"back,omitempty"` // why it was taken back
}

type takenDoc struct {
	Crosswalk int          `json:"crosswalk"` // revision
	Cabinet   int          `json:"cabinet"`   // revision
	Deed      store.ID     `json:"deed"`
	Result    wire.TakenIn `json:"result"`
}

// evaluation is an intake worked out: what its rows would become with the crosswalk, cabinet and library of the moment.
type evaluation struct {
	intake    store.ID
	key       string
	answers   *lookup.Answers // what the library said
	table     *intake.Table
	layout    rows.Layout
	result    *intake.Result
	byRow     map[int][]int // row → places of its findings
	digest    string
	cab       *cabinet.Cabinet
	cabRev    int
	cw        crosswalk.Crosswalk // with the intake's changes
	cwRev     int
	cwBase    int      // version of the layout's crosswalk; 0: there is none
	others    []string // numbers of the supplier's other crosswalks
	suggest   []crosswalk.Suggestion
	edits     intake.Edits // what was decided, laid on the rows
	standings []intake.Standing
	causes    []wire.Cause // that somebody has not accepted, with their mends
	coverage  []intake.Coverage
	links     map[string]bool
	fetched   int
	problem   error

	over   sync.Mutex // held while somebody looks over what was built
	looked bool
}

func (s *Intakes) loadIntake(ctx context.Context, id store.ID) (store.Head, intakeDoc, error) {
	h, err := s.Store.Read(ctx).Head(store.KindIntake, id)
	if err != nil {
		return h, intakeDoc{}, deed.Sentence(err, "intake")
	}
	d, err := s.intakeDoc(s.Store.Read(ctx), h)
	return h, d, err
}

func (s *Intakes) intakeDoc(r store.Reader, h store.Head) (d intakeDoc, err error) {
	c, err := r.Content(h.Draft)
	err = deed.Decode(c, err, &d)
	return d, err
}

// Open opens an intake for an uploaded file, or for a table of another database. What cannot be read as a table is
// refused. What a person said about the layout of the supplier's last file is used where the new one fits it.
func (s *Intakes) Open(ctx context.Context, c deed.Call, in wire.NewIntake) (wire.Intake, error) {
	if err := deed.Allow(c, deed.OpIntakeEdit); err != nil {
		return wire.Intake{}, err
	}
	if id, ok, err := deed.Replayed[store.ID](ctx, s.Desk, c, deed.OpIntakeEdit, "intake", in); ok || err != nil {
		if err != nil {
			return wire.Intake{}, err
		}
		return s.Get(ctx, c, id)
	}
	doc := intakeDoc{Supplier: strings.TrimSpace(in.Supplier), FileHash: in.FileHash, FileName: files.CleanName(in.FileName), Layout: in.Layout, Mapped: strings.TrimSpace(in.Mapped)}
	if err := mappedOf(doc.Supplier, doc.Mapped); err != nil {
		return wire.Intake{}, err
	}
	if doc.Supplier == "" {
		return wire.Intake{}, deed.Fault(deed.Invalid, "no-supplier", "An intake needs the name of the supplier, or of the old library.", "")
	}
	if in.Database != nil {
		f, err := s.readDatabase(ctx, c, *in.Database)
		if err != nil {
			return wire.Intake{}, err
		}
		doc.FileHash, doc.FileName = f.Hash, f.Name
	}
	if in.Layout.Blank() {
		doc.Layout = s.rememberedLayout(ctx, doc.Supplier)
	}
	_, _, err := s.tableOf(ctx, doc.FileHash, doc.Layout)
	if err != nil && in.Layout.Blank() && !doc.Layout.Blank() {
		doc.Layout = in.Layout
		_, _, err = s.tableOf(ctx, doc.FileHash, doc.Layout)
	}
	if err == nil {
		doc.Edits.Decided, err = s.remembered(ctx, doc)
	}
	if err != nil {
		return wire.Intake{}, deed.Sentence(err, "file")
	}
	return s.openIntake(ctx, c, in, doc)
}

func (s *Intakes) openIntake(ctx context.Context, c deed.Call, request any, doc intakeDoc) (wire.Intake, error) {
	n, err := s.Store.ReserveNumbers(ctx, "INTAKE", 1)
	if err != nil {
		return wire.Intake{}, deed.Sentence(err, "intake")
	}
	if _, ch, err := s.cabinets.InForce(ctx); err == nil {
		doc.Cabinet = ch.Revision
	}
	id, err := deed.Do(ctx, s.Desk, c, deed.OpIntakeEdit, "intake", request, func(tx *store.Tx) (store.ID, error) {
		h := store.Head{ID: store.NewID(), Kind: store.KindIntake, Number: fmt.Sprintf("IN-%05d", n)}
		if err := deed.SaveDraft(tx, &h, intakeFormat, doc); err != nil {
			return h.ID, err
		}
		return h.ID, tx.Insert(&h, "opened", map[string]any{"file": doc.FileName, "hash": doc.FileHash, "supplier": doc.Supplier, "over": doc.Over})
	})
	if err != nil {
		return wire.Intake{}, err
	}
	return s.Get(ctx, c, id)
}

// rememberedLayout is what a person said about the layout of the supplier's last file.
func (s *Intakes) rememberedLayout(ctx context.Context, supplier string) rows.Layout {
	hs, _, err := s.Store.Read(ctx).Heads(store.KindIntake, 0, 100)
	if err != nil {
		return rows.Layout{}
	}
	for _, h := range hs {
		if doc, err := s.intakeDoc(s.Store.Read(ctx), h); err == nil && doc.Supplier == supplier {
			return doc.Layout
		}
	}
	return rows.Layout{}
}

// evaluate works an intake out, or returns what was worked out before under the same circumstances. One at a time: the
// requests of one page would otherwise do the same work beside each other.
func (s *Intakes) evaluate(ctx context.Context, h store.Head, doc intakeDoc) (*evaluation, error) {
	lock, _ := s.working.LoadOrStore(h.ID, &sync.Mutex{})
	lock.(*sync.Mutex).Lock()
	defer lock.(*sync.Mutex).Unlock()
	cab, ch, err := s.cabinets.InForce(ctx)
	if err != nil {
		return nil, err
	}
	lay, err := s.crosswalkOf(ctx, doc)
	if err != nil {
		return nil, err
	}
	key, err := s.keyOf(ctx, h.ID, h.Version, ch.Revision, lay.head)
	if err != nil {
		return nil, err
	}
	if e := s.workedOut(key); e != nil && e.answers.Hold() {
		return e, nil
	}
	s.mu.Lock() // what is out of date makes room for what takes its place
	s.evaluated = slices.DeleteFunc(s.evaluated, func(o *evaluation) bool { return o.intake == h.ID })
	s.mu.Unlock()
	e := s.begin(h.ID, cab, ch.Revision, lay)
	e.key = key
	if err := s.workOut(ctx, e, doc); err != nil {
		return nil, err
	}
	s.hold(e)
	return e, nil
}

// layoutOf is what is known of a file's layout: the crosswalk that it is mapped by, and the others of the supplier.
type layoutOf struct {
	cw     crosswalk.Crosswalk
	head   store.Head
	others []string
}

// crosswalkOf is the crosswalk of the layout that an intake's file has; one without rules, and a head without number, where that is new.
func (s *Intakes) crosswalkOf(ctx context.Context, doc intakeDoc) (out layoutOf, err error) {
	heads, err := s.cabinets.MappedCrosswalks(ctx)
	if err != nil {
		return out, err
	}
	return s.crosswalkAmong(ctx, doc, heads)
}

// crosswalkAmong is crosswalkOf where those are all crosswalks that there are.
func (s *Intakes) crosswalkAmong(ctx context.Context, doc intakeDoc, heads []cabinets.Mapped) (out layoutOf, err error) {
	all := make([]crosswalk.Crosswalk, 0, len(heads))
	for _, m := range heads {
		all = append(all, m.Crosswalk)
	}
	number, name := doc.Mapped, strings.TrimPrefix(doc.Mapped, doc.Supplier+": ")
	if number == "" {
		var header []string
		if header, name, err = s.headerOf(ctx, doc); err != nil {
			return out, err
		}
		if cw, ok := crosswalk.ForHeader(all, doc.Supplier, header); ok {
			number = cw.Number()
		}
	}
	if at := slices.IndexFunc(heads, func(m cabinets.Mapped) bool { return strings.EqualFold(m.Head.Number, number) }); at >= 0 {
		out.cw, out.head = heads[at].Crosswalk, heads[at].Head
	} else { // a new one
		out.cw = crosswalk.NewLayout(all, doc.Supplier, name)
	}
	out.others = slices.DeleteFunc(crosswalk.OfSupplier(all, doc.Supplier), func(n string) bool { return n == number })
	return out, nil
}

// mappedOf refuses the number of a crosswalk that is none of a supplier's.
func mappedOf(supplier, number string) error {
	if number == "" || number == supplier || strings.HasPrefix(number, supplier+": ") {
		return nil
	}
	return deed.Fault(deed.Invalid, "crosswalk-other", fmt.Sprintf("%q is no crosswalk of %s.", number, supplier), fmt.Sprintf("Name one of its layouts as %q, or nothing for the one whose headings the file has.", supplier+": NAME"))
}

// mostHeaders is how many files' headings are kept in memory.
const mostHeaders = 1000

// headerOf is the headings of an intake's file, and the sheet's name where the file has several. A file that cannot be read has none.
func (s *Intakes) headerOf(ctx context.Context, doc intakeDoc) (header []string, sheet string, err error) {
	key := fmt.Sprintf("%s %+v", doc.FileHash, doc.Layout)
	s.mu.Lock()
	h, ok := s.headers[key]
	s.mu.Unlock()
	if ok {
		return h.header, h.sheet, nil
	}
	t, lay, err := s.tableOf(ctx, doc.FileHash, doc.Layout)
	if err != nil {
		return nil, "", keepProblem(deed.Sentence(err, "file"))
	}
	if len(lay.Sheets) > 1 {
		sheet = lay.Sheet
	}
	s.mu.Lock()
	defer s.mu.Unlock()
	if s.headers == nil || len(s.headers) >= mostHeaders {
		s.headers = map[string]heldHeader{}
	}
	s.headers[key] = heldHeader{t.Header, sheet}
	return t.Header, sheet, nil
}

// heldHeader is what a file's layout is told by.
type heldHeader struct {
	header []string
	sheet  string
}

// begin is an intake that is not worked out yet.
func (s *Intakes) begin(id store.ID, cab *cabinet.Cabinet, cabRev int, lay layoutOf) *evaluation {
	return &evaluation{intake: id, cab: cab, cabRev: cabRev, cw: lay.cw, cwRev: lay.head.Revision, cwBase: lay.head.Version, others: lay.others, byRow: map[int][]int{}, answers: s.index.Answers()}
}

// keyOf names the circumstances under which an intake is worked out.
func (s *Intakes) keyOf(ctx context.Context, id store.ID, version, cabinet int, crosswalk store.Head) (string, error) {
	links, err := s.Store.Read(ctx).FetchedAt()
	var models, crosswalks uint64
	if s.Changes != nil {
		models, crosswalks = s.Changes(store.KindModel), s.Changes(store.KindCrosswalk)
	}
	if err != nil {
		return "", err
	}
	decided, err := s.Store.Read(ctx).DecidedAt(id)
	return fmt.Sprintf("%s/%d/%d/%s/%d/%s/%d/%d/%s", id, version, cabinet, crosswalk.ID, crosswalk.Revision, links, models, crosswalks, decided), err
}

// hold keeps an intake that was worked out, in the place of what was known of it before.
func (s *Intakes) hold(e *evaluation) {
	s.mu.Lock()
	defer s.mu.Unlock()
	s.evaluated = append(slices.DeleteFunc(s.evaluated, func(o *evaluation) bool { return o.intake == e.intake }), e)
	held := 0
	for i := len(s.evaluated) - 1; i >= 0; i-- { // the newest is kept whatever its size
		if held += s.evaluated[i].table.Len(); held > maxHeld && i < len(s.evaluated)-1 {
			s.evaluated = slices.Clone(s.evaluated[i+1:])
			break
		}
	}
}

// workedOut returns what was worked out under a key.
func (s *Intakes) workedOut(key string) *evaluation {
	s.mu.Lock()
	defer s.mu.Unlock()
	for _, e := range s.evaluated {
		if e.key == key {
			return e
		}
	}
	return nil
}

// maxHeld bounds the rows of all intakes that are kept worked out in memory, maxRows those of one.
const (
	maxHeld = 50_000
	maxRows = 500_000
)

// forget lets go of an intake that was taken in.
func (s *Intakes) forget(id store.ID) {
	s.mu.Lock()
	defer s.mu.Unlock()
	s.evaluated = slices.DeleteFunc(s.evaluated, func(o *evaluation) bool { return o.intake == id })
	s.tables = nil
}

// heldTable is a file's rows in memory, so that a mend does not read the file again.
type heldTable struct {
	key    string
	table  *intake.Table
	layout rows.Layout
}

// tableOf reads a file's rows, or returns those that were read last.
func (s *Intakes) tableOf(ctx context.Context, hash string, want rows.Layout) (*intake.Table, rows.Layout, error) {
	key := fmt.Sprintf("%s %+v", hash, want)
	s.mu.Lock()
	for _, h := range s.tables {
		if h.key == key {
			s.mu.Unlock()
			return h.table, h.layout, nil
		}
	}
	s.mu.Unlock()
	r, err := s.files.Table(ctx, hash, want)
	if err != nil {
		return nil, rows.Layout{}, err
	}
	defer r.Close()
	t := intake.NewTable(r.Header())
	for {
		row, ok, err := r.Next()
		if err == nil {
			err = ctx.Err()
		}
		if err != nil {
			return nil, rows.Layout{}, err
		}
		if !ok {
			break
		}
		if t.Len() == maxRows {
			return nil, rows.Layout{}, rows.Errorf("The file has more than %d rows: split it.", maxRows)
		}
		t.Add(intake.Row(row))
	}
	t.Done()
	lay := r.Layout()
	s.mu.Lock()
	defer s.mu.Unlock()
	s.tables = append(s.tables, heldTable{key, t, lay})
	held := 0
	for i := len(s.tables) - 1; i >= 0; i-- {
		if held += s.tables[i].table.Len(); held > maxHeld && i < len(s.tables)-1 {
			s.tables = slices.Clone(s.tables[i+1:])
			break
		}
	}
	return t, lay, nil
}

// workOut reads the file, builds the candidates and looks over what was found of them.
func (s *Intakes) workOut(ctx context.Context, e *evaluation, doc intakeDoc) error {
	if err := s.build(ctx, e, doc); err != nil {
		return err
	}
	return s.lookOver(ctx, e)
}

// build reads the file and builds the candidates. What is wrong with the file or its crosswalk as a whole becomes
// e.problem; err is for everything else.
func (s *Intakes) build(ctx context.Context, e *evaluation, doc intakeDoc) (err error) {
	e.table = intake.NewTable(nil)
	table, lay, err := s.tableOf(ctx, doc.FileHash, doc.Layout)
	if err != nil {
		e.result = intake.Build(intake.Input{Table: e.table, Cabinet: e.cab})
		e.problem = deed.Sentence(err, "file")
		e.suggest, e.looked = []crosswalk.Suggestion{}, true
		return keepProblem(e.problem)
	}
	e.table, e.layout = table, lay
	with, err := e.cw.With(doc.Changes)
	if err == nil {
		err = with.CheckAgainst(e.cab)
	}
	if err != nil {
		e.problem = deed.Fault(deed.Invalid, "crosswalk-stale", "The crosswalk no longer fits the cabinet: "+err.Error()+".", "Change the crosswalk and apply it, or take the change back.")
		with = crosswalk.Crosswalk{Format: crosswalk.Format, Supplier: doc.Supplier}
	}
	e.cw = with
	kept := doc.Edits
	if kept.Old() {
		kept.CarryOver(intake.NewDecider(table, e.cw))
	}
	in := intake.Input{File: doc.FileHash, Name: doc.FileName, Table: e.table, Crosswalk: e.cw, Cabinet: e.cab, Library: library{e.answers}}
	if e.standings == nil {
		e.edits, e.standings = kept.On(table)
	}
	in.Edits = e.edits
	if in.Claims, err = s.claims(ctx, kept.Decided); err != nil {
		return err
	}
	if in.Models, err = s.models.Finder(ctx); err != nil {
		return err
	}
	if in.Next, err = s.Store.Read(ctx).Counters(); err != nil {
		return err
	}
	if in.Fetched, e.links, err = s.fetchedLinks(ctx, e.table, e.cw.Take.Datasheet); err != nil {
		return err
	}
	for link := range e.links {
		if _, ok := in.Fetched[link]; ok {
			e.fetched++
		}
	}
	e.result = intake.Build(in)
	if !e.result.Usable && e.problem == nil {
		e.problem = deed.Fault(deed.Invalid, "crosswalk-other", fmt.Sprintf("None of the fields of the crosswalk for %s is in this file.", doc.Supplier), "Choose the crosswalk of the supplier it came from, or map the fields.")
		if e.cwRev == 0 && len(doc.Changes) == 0 {
			e.problem = deed.Fault(deed.Invalid, "no-crosswalk", fmt.Sprintf("There is no crosswalk for %s yet.", doc.Supplier), "Map the fields: what is suggested can be taken over at once.")
			if len(e.others) > 0 {
				e.problem = deed.Fault(deed.Invalid, "no-crosswalk", fmt.Sprintf("These headings are a layout of %s that has no crosswalk yet; there is one for %s.", doc.Supplier, strings.Join(e.others, ", ")), "Map the fields: what is suggested can be taken over at once, and what is said about the other layouts stays as it is.")
			}
		}
	}
	return nil
}

// lookOver sorts the findings of what was built by row and by cause, and says what may be done about them. Once is enough.
func (s *Intakes) lookOver(ctx context.Context, e *evaluation) (err error) {
	e.over.Lock()
	defer e.over.Unlock()
	if e.looked {
		return nil
	}
	counted := make(chan struct{})
	go func() { // beside what follows: both only read what was built
		defer close(counted)
		e.coverage = e.result.Coverage()
	}()
	defer func() { <-counted }()
	if e.suggest, err = s.suggestions(ctx, e); err != nil {
		return err
	}
	for i, f := range e.result.Findings {
		e.byRow[f.Row] = append(e.byRow[f.Row], i)
	}
	for _, c := range finding.Group(e.result.Findings) {
		if c.Count > 0 {
			e.causes = append(e.causes, wire.Cause{Cause: c, Mends: append([]intake.Mend{}, e.result.Mends(c)...)})
		}
	}
	<-counted
	d := e.result.Digest()
	e.digest = fmt.Sprintf("%d.%d.%s", e.cabRev, e.cwRev, hex.EncodeToString(d[:]))
	e.looked = true
	return nil
}

// suggestions proposes a mapping for fields that no rule uses, from the drawers that the rows are in, names, values and
// the crosswalks of other suppliers.
func (s *Intakes) suggestions(ctx context.Context, e *evaluation) ([]crosswalk.Suggestion, error) {
	if len(e.result.Unmapped) == 0 {
		return []crosswalk.Suggestion{}, nil
	}
	earlier, err := s.cabinets.AllCrosswalks(ctx)
	if err != nil {
		return nil, err
	}
	k := crosswalk.Known{Cabinet: e.cab, Earlier: earlier}
	seen := map[string]bool{}
	for i := range e.result.Candidates {
		if d := e.result.Candidates[i].Drawer; d != "" && !seen[d] {
			seen[d] = true
			k.Drawers = append(k.Drawers, d)
		}
	}
	return intake.Suggest(e.table, e.cw, k), nil
}

// keepProblem keeps sentences for people inside the evaluation and passes everything else up.
func keepProblem(err error) error {
	var e *deed.Error
	if errors.As(err, &e) {
		return nil
	}
	return err
}
