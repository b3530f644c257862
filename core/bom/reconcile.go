package bom

import (
	"fmt"
	"slices"
	"strconv"
	"strings"
	"unicode"
	"unicode/utf8"

	"jollydrawer/core/cabinet"
	"jollydrawer/core/decision"
	"jollydrawer/core/described"
	"jollydrawer/core/finding"
	"jollydrawer/core/lifecycle"
	"jollydrawer/core/lookup"
	"jollydrawer/core/part"
)

// Kind is the kind of a verdict.
type Kind string

// The verdicts. Only Linked needs no person: exact evidence that nothing contradicts, or a choice already made.
const (
	Linked   Kind = "linked"
	Proposed Kind = "proposed"
	Several  Kind = "several"
	Missing  Kind = "not in the library"
	Unfitted Kind = "not fitted"
	Marked   Kind = "no library part" // a person said so, of the line or of such lines
	Assembly Kind = "sub-assembly"    // made of the lines below it
	Another  Kind = "another BOM"     // a person said which
)

// Kinds lists the verdicts in the order they are counted.
var Kinds = []Kind{Linked, Proposed, Several, Missing, Marked, Assembly, Another, Unfitted}

// Verdict is what the library says of one line.
type Verdict struct {
	Line     *Line
	Kind     Kind
	Part     *lookup.Entry   // for Linked and Proposed, and Unfitted where a record is known
	Options  []*lookup.Entry // further records that may be meant, the best first
	Tally    []Beside        // every piece of the line beside Part, or with what it was taken for where there is none
	Evidence []string
	Findings []finding.Finding
	Chosen   *decision.Record // the decision that linked it
	Reading  *decision.Record // what a person taught of such lines, where it led to Part
	Ending   *Ending          // what a person could confirm, so that such lines are exact
}

// Against lists what of a verdict's tally contradicts its part, in the words that a decision keeps.
func (v *Verdict) Against() []string { return against(v.Tally) }

func against(tally []Beside) (out []string) {
	for _, b := range tally {
		if b.Says == Contradicts {
			out = append(out, b.Param+": "+b.Text+" against "+b.Record)
		}
	}
	return out
}

// Library is what matching asks of the library; lookup.Index is one.
type Library interface {
	ByID(id string) (*lookup.Entry, bool)
	ByNumber(number string) (*lookup.Entry, bool)
	ByNumberLike(number string) []*lookup.Entry
	ByMPN(mpn string) []*lookup.Entry
	BySupplierNumber(number string) []*lookup.Entry
	Best(a lookup.Asked) (best []*lookup.Entry, like int)
}

// Known is what is known beside the library: what the file's columns mean, whether a person confirmed them, and what was
// decided for its lines.
type Known struct {
	Columns   Columns
	Confirmed bool // a person said what the columns mean: a number column is ours
	Decisions []decision.Record
	Packings  []decision.Record // endings of MPNs that name a packing, by maker
	Readings  []decision.Record // what people taught of files of this layout and origin
}

// Reconcile gives every line its verdict.
func Reconcile(lines []Line, lib Library, cab *cabinet.Cabinet, known Known) []Verdict {
	return Begin(lines, lib, cab, known).Verdicts()
}

// Lay lays one line beside one record, as a person does who chooses it.
func Lay(l Line, e *lookup.Entry, lib Library, cab *cabinet.Cabinet, known Known) []Beside {
	return newMatcher(lib, cab, known).tally(l, e)
}

type matcher struct {
	lib      Library
	cab      *cabinet.Cabinet
	known    Known
	read     evidenceReader
	judge    *judge
	own      func(string) bool
	letters  map[string][]string // designator letters → leaf drawers
	leaves   []string
	packings map[string]*decision.Record
	chosen   map[string]*decision.Record
	readings map[string]*decision.Record
	common   map[*lookup.Entry][]string // of records, the others that have a source in common with them
	memo     map[string]Verdict         // by designator letters and evidence: lines that say the same share the work
}

func newMatcher(lib Library, cab *cabinet.Cabinet, known Known) *matcher {
	m := &matcher{lib: lib, cab: cab, known: known, judge: newJudge(cab), own: OwnNumbers(cab), letters: map[string][]string{}, chosen: chosenIn(known.Decisions), memo: map[string]Verdict{}, common: map[*lookup.Entry][]string{}}
	m.packings, m.readings = packings(known.Packings), readings(known.Readings)
	m.read = evidenceReader{lexicon: described.NewLexicon(cab), phrases: phrasesOf(cab), columns: known.Columns, memo: map[string][]fact{}}
	for _, t := range cab.Templates() {
		if t.Leaf {
			m.leaves = append(m.leaves, t.Key)
			if t.Designator != "" {
				m.letters[strings.ToUpper(t.Designator)] = append(m.letters[strings.ToUpper(t.Designator)], t.Key)
			}
		}
	}
	return m
}

func (v *Verdict) say(sev finding.Severity, cause, what, mend string) {
	v.Findings = append(v.Findings, finding.Finding{Severity: sev, Cause: cause, Row: v.Line.Row, What: what, Mend: mend})
}

func (v *Verdict) because(format string, args ...any) {
	v.Evidence = append(v.Evidence, fmt.Sprintf(format, args...))
}

func (m *matcher) line(l *Line) Verdict {
	v := Verdict{Line: l}
	for _, p := range l.Problems {
		v.say(finding.Warning, "unreadable", p, "correct the BOM")
	}
	for _, as := range l.Read {
		v.say(finding.Note, "read-as", as, "")
	}
	if len(l.Designators) == 0 && !l.NotFitted && !l.Assembly && l.Amount == (Amount{}) {
		v.say(finding.Warning, "no-designator", "the line has no designator", "add it, or make sure that the line belongs on the board")
	}
	if l.FitAsk != "" {
		v.say(finding.Warning, "fitted-unclear", l.FitAsk, "say what the columns mean, or correct the BOM")
	}
	if l.LevelAsk != "" {
		v.say(finding.Warning, "level-unclear", l.LevelAsk, "correct the levels of the BOM, or say what its columns mean")
	}
	if l.Assembly {
		v.Kind = Assembly
		v.because("it is made of the lines below it")
		if l.NotFitted {
			v.Kind = Unfitted
		}
		v.count()
		return v
	}
	if !m.decided(&v) {
		m.matched(&v)
		m.taught(&v)
	}
	m.disagreements(&v)
	m.standing(&v)
	if l.Value != "" && l.Number == "" && l.MPN == "" && l.SupplierNumber == "" && !l.NotFitted && v.Kind != Marked {
		v.say(finding.Note, "bare-value", "the line names no part: it says a value alone", "have the designer name the part, so that nobody has to choose again")
	}
	if v.Kind == Marked { // boards and labels have none
		v.Findings = slices.DeleteFunc(v.Findings, func(f finding.Finding) bool { return f.Cause == "no-designator" })
	}
	if l.NotFitted {
		v.Kind = Unfitted
		v.because("the BOM says that it is not fitted")
	}
	v.count()
	return v
}

// count lays the quantity of a line beside its designators.
func (v *Verdict) count() {
	l := *v.Line
	if l.Quantity == 0 && len(l.Designators) == 0 && !l.NotFitted {
		v.say(finding.Warning, "quantity", "the quantity is 0, and no column says that the line is not fitted", "correct one of the two")
	}
	if n := l.Own(); l.Quantity >= 0 && n > 0 && l.Quantity != n && !(l.NotFitted && l.Quantity == 0) {
		v.say(finding.Warning, "quantity", fmt.Sprintf("the quantity is %d, and there %s", l.Quantity, map[bool]string{true: "is 1 designator", false: fmt.Sprintf("are %d designators", n)}[n == 1]), "correct one of the two")
	}
}

// decided follows what a person decided for the line. A decision on other evidence, or one that something new speaks
// against, is shown and does not link.
func (m *matcher) decided(v *Verdict) bool {
	d := m.chosen[v.Line.About()]
	if d == nil && len(v.Line.Designators) == 0 { // as it was kept before such lines were told apart
		for _, about := range v.Line.abouts()[1:] {
			if old := m.chosen[about]; old != nil && v.Line.says(old.Evidence) {
				d = old
			}
		}
	}
	if d == nil {
		return false
	}
	if d.Outcome == decision.NoPart {
		return m.settled(v, d, Marked, "no part of the library")
	}
	if _, _, is := BoardIn(d.Outcome); is {
		return m.settled(v, d, Another, "another BOM")
	}
	e, found := m.lib.ByID(d.Outcome)
	if found && e.Gone {
		if survivor, ok := m.lib.ByNumber(e.Number); ok {
			v.behind(e.Number, survivor.Number)
			e = survivor
		}
	}
	switch {
	case !found:
		v.say(finding.Warning, "choice-gone", "the part chosen for this line is no longer there", "choose again")
		return false
	case d.Evidence != "" && !v.Line.says(d.Evidence):
		v.say(finding.Warning, "choice-open", fmt.Sprintf("%s was chosen by %s when the line said something else", e.Number, d.By), "choose again")
		return false
	}
	v.Part, v.Kind, v.Chosen = e, Linked, d
	v.Tally = m.tally(*v.Line, e)
	v.because("chosen by %s", d.By)
	if d.Reason != "" {
		v.because("because %s", d.Reason)
	}
	if more := d.New(v.Against()); d.Evidence != "" && len(more) > 0 {
		v.Kind, v.Chosen = Proposed, nil
		v.say(finding.Warning, "choice-open", fmt.Sprintf("%s was chosen by %s, and the record says something else by now: %s", e.Number, d.By, strings.Join(more, "; ")), "choose again")
	}
	return true
}

// settled follows the word of a person that a line is none of the library's parts. It is looked at again where the line says something else by now.
func (m *matcher) settled(v *Verdict, d *decision.Record, kind Kind, as string) bool {
	if !v.Line.says(d.Evidence) {
		v.say(finding.Warning, "choice-open", fmt.Sprintf("%s said that it is %s when the line said something else", d.By, as), "say it again, or choose a part")
		return false
	}
	v.Kind, v.Chosen, v.Tally = kind, d, m.without(*v.Line)
	v.because("%s said that it is %s", d.By, as)
	if d.Reason != "" {
		v.because("because %s", d.Reason)
	}
	return true
}

// matched takes the work of an earlier line that says the same, or does it.
func (m *matcher) matched(v *Verdict) {
	key := Asks(*v.Line)
	if was, ok := m.memo[key]; ok {
		v.Kind, v.Part, v.Options, v.Tally, v.Ending = was.Kind, was.Part, was.Options, was.Tally, was.Ending
		v.Evidence = append(v.Evidence, was.Evidence...)
		for _, f := range was.Findings {
			f.Row = v.Line.Row
			v.Findings = append(v.Findings, f)
		}
		return
	}
	fresh := Verdict{Line: v.Line}
	m.match(&fresh)
	m.asksForEnding(&fresh)
	m.memo[key] = fresh
	v.Kind, v.Part, v.Options, v.Tally, v.Ending = fresh.Kind, fresh.Part, fresh.Options, fresh.Tally, fresh.Ending
	v.Evidence, v.Findings = append(v.Evidence, fresh.Evidence...), append(v.Findings, fresh.Findings...)
}

// behind says that a line names a number which leads to another part by now.
func (v *Verdict) behind(was, now string) {
	v.say(finding.Note, "number-behind", fmt.Sprintf("the line is behind: %s leads to %s by now", was, now), "write "+now+" on the drawing when it is next changed")
}

// disagreements makes a finding of everything in the tally that contradicts the part, or that nobody understood.
func (m *matcher) disagreements(v *Verdict) {
	if v.Part == nil {
		return
	}
	v.openWords()
	t, _ := m.cab.Template(v.Part.Drawer)
	for _, b := range v.Tally {
		switch b.Says {
		case Contradicts:
			if b.Param == "" {
				v.say(finding.Warning, "no-such-parameter", fmt.Sprintf("%s has %q, and %s", b.Column, b.Text, b.Why), "check which is right before you accept the record")
				continue
			}
			v.say(finding.Warning, causeOf(b.Param, t), fmt.Sprintf("the %s is %s, and %s has %s", m.called(b, t), b.Text, v.Part.Number, b.Record), "check which is right before you accept the record")
		case NotUnderstood:
			what := fmt.Sprintf("%q in %s could not be compared with %s", b.Text, b.Column, v.Part.Number)
			if b.Why != "" {
				what += ": " + b.Why
			}
			v.say(finding.Note, "not-understood", what, "")
		case Better:
			v.say(finding.Note, "better", fmt.Sprintf("the %s asked for is %s, and %s has %s", m.called(b, t), b.Text, v.Part.Number, b.Record), "")
		}
	}
}

// openWords says, of a proposal, which words kept it from being linked.
func (v *Verdict) openWords() {
	var words []string
	for _, b := range v.Tally {
		if b.Says == NotUnderstood {
			words = append(words, strconv.Quote(b.Text))
		}
	}
	switch {
	case v.Kind != Proposed || len(words) == 0:
	case len(words) > 3:
		v.because("%s and %d more are not understood", strings.Join(words[:2], ", "), len(words)-2)
	case len(words) == 1:
		v.because("%s is not understood", words[0])
	default:
		v.because("%s are not understood", strings.Join(words, ", "))
	}
}

// causeOf names what findings about a parameter have in common: the leading one is the value, and the case the package.
func causeOf(param string, t *cabinet.Template) string {
	switch {
	case t != nil && param == t.Leading:
		return "value"
	case t != nil && param == t.Case:
		return "package"
	}
	return param
}

func (m *matcher) called(b Beside, t *cabinet.Template) string {
	switch b.Param {
	case "mpn":
		return "MPN"
	case "supplierNumber":
		return "supplier number"
	case "number":
		return "part number"
	case "drawer":
		return "kind of part"
	}
	switch causeOf(b.Param, t) {
	case "value":
		return "value"
	case "package":
		return "package"
	}
	if p, ok := m.cab.Parameter(b.Param); ok {
		first, n := utf8.DecodeRuneInString(p.Label)
		return string(unicode.ToLower(first)) + p.Label[n:]
	}
	return b.Param
}

func (m *matcher) standing(v *Verdict) {
	e := v.Part
	if e == nil {
		return
	}
	switch is := e.Number + " is " + strings.ToLower(e.Flag); {
	case e.Use == lifecycle.UseNo && e.Standing == lifecycle.Obsolete:
		v.say(finding.Error, "obsolete", e.Number+" is obsolete", "choose another part")
	case e.Use == lifecycle.UseNo:
		v.say(finding.Error, "not-to-use", is, "choose another part")
	case e.Use == lifecycle.UseCaution && e.Standing == lifecycle.NotForNew:
		v.say(finding.Warning, "not-for-new", is, "choose another part where the design is new")
	case e.Use == lifecycle.UseCaution:
		v.say(finding.Warning, "with-caution", is, "see why before you use it")
	}
	if e.Revision == 0 {
		v.say(finding.Warning, "unreleased", e.Number+" is not released", "have it checked and released before you order")
	}
	if len(e.Sources) == 1 {
		v.say(finding.Note, "single-source", e.Number+" has a single source", "")
	}
	for _, twin := range m.twins(e) {
		v.say(finding.Warning, "record-twice", e.Number+" has a source in common with "+twin+": the library may have one part twice", "merge the two records, or take the source from one of them")
	}
	if slices.Contains(e.Missing, "datasheet") {
		v.say(finding.Note, "no-datasheet", e.Number+" has no datasheet", "")
	}
	if lacks := modelsMissing(e); len(lacks) > 0 {
		v.say(finding.Note, "no-model", e.Number+" has no "+strings.Join(lacks, ", no "), "")
	}
}

// twins are other records of the library, still in use, that have a source in common with one: by maker and number as they are compared.
func (m *matcher) twins(e *lookup.Entry) []string {
	if known, ok := m.common[e]; ok {
		return known
	}
	var out []string
	for _, s := range e.Sources {
		for _, o := range m.lib.ByMPN(s.MPN) {
			if o.ID != e.ID && o.Use != lifecycle.UseNo && !slices.Contains(out, o.Number) && slices.ContainsFunc(o.Sources, func(other part.Source) bool { return other.Key() == s.Key() }) {
				out = append(out, o.Number)
			}
		}
	}
	m.common[e] = out
	return out
}

// across finds what only shows when lines are laid side by side: of each what its designators say beside those of the others.
func across(lines []Line) [][]finding.Finding {
	out := make([][]finding.Finding, len(lines))
	at := make(map[string][]int, len(lines))
	stems := make(map[string]int, len(lines)) // units of parts, by the designator without their letters
	for i := range lines {
		l := &lines[i]
		v := Verdict{Line: &Line{Row: l.Row}}
		own := map[string]bool{}
		for _, d := range l.Designators {
			with := slices.IndexFunc(at[d], func(k int) bool { return !apart(l.In, lines[k].In) }) // a line that some variant has beside this one
			switch {
			case own[d]:
				v.say(finding.Error, "designator-twice", fmt.Sprintf("the designator %s is also in the same row", d), "give it to one line only")
			case with >= 0:
				v.say(finding.Error, "designator-twice", fmt.Sprintf("the designator %s is also in row %d", d, lines[at[d][with]].Row), "give it to one line only")
			case len(at[d]) > 0:
				other := lines[at[d][0]]
				v.say(finding.Note, "variant-part", fmt.Sprintf("%s is another line in %s: row %d", d, strings.Join(other.In, ", "), other.Row), "")
			}
			first := len(at[d]) == 0
			if !own[d] {
				at[d] = append(at[d], i)
			}
			own[d] = true
			stem := Stem(d)
			if other, twice := stems[stem]; twice && other != i && first && !apart(l.In, lines[other].In) {
				v.say(finding.Warning, "units-apart", fmt.Sprintf("%s may be a unit of the %s that is also in row %d: each line counts as a part of its own", d, stem, lines[other].Row), "join the lines where they are one part")
			} else if !twice {
				stems[stem] = i
			}
		}
		out[i] = v.Findings
	}
	return out
}
