package lifecycle

import (
	"encoding/json"
	"errors"
	"fmt"
	"reflect"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"jollydrawer/core/finding"
)

func shipped(t testing.TB, name string) *Lifecycle {
	t.Helper()
	text, ok := Shipped(name)
	require.True(t, ok)
	l, err := Parse(text)
	require.NoError(t, err)
	return l
}

func TestTheShippedLifecyclesAreSoundAndNeedOnePersonOnly(t *testing.T) {
	for _, name := range Kinds {
		l := shipped(t, name)
		assert.Equal(t, name, l.Document.Name)
		assert.NoError(t, l.Nobody(func(Who) (int, error) { return 1, nil }), "a house of one can work by %s", name)
		raw, err := json.Marshal(l.Document)
		require.NoError(t, err)
		again, err := FromJSON(raw)
		require.NoError(t, err)
		assert.Equal(t, l.Document, again.Document, "what is kept is what was read")
	}
	_, ok := Shipped("boards")
	assert.False(t, ok)
}

// Every document that is not sound is refused, in a sentence that names what is wrong with it.
func TestWrongDocumentsAreRefusedInOneSentence(t *testing.T) {
	text, _ := Shipped("parts")
	for _, c := range []struct{ old, new, want string }{
		{"format: jolly-lifecycle/1", "format: jolly-lifecycle/9", `has format "jolly-lifecycle/9"`},
		{"name: parts", "name: Parts!", `has the name "Parts!"`},
		{"of: parts", "of: boards", `is of "boards": use parts, models or boms`},
		{"counting: numbers", "counting: roman", `counted by "roman": use numbers, major.minor or letters`},
		{"counting: numbers", "colour: blue", "the field colour is not known"},
		{"key: draft, word", "key: Draft, word", `the state "Draft" needs a key of small letters`},
		{"word: Draft,", "word: ' ',", `the state "draft" needs a word`},
		{"word: Draft,", `word: "\0",`, `the state "draft" needs a word of at most 40 letters, all of which can be seen`},
		{"word: Draft,", `word: "\u202eDraft",`, "all of which can be seen"},
		{"label: Release,", `label: "\u200b",`, `the move "release" needs a key`},
		{"word: In review", "word: Draft", `the states "draft" and "in review" are both called "Draft"`},
		{"key: in review, word: In review", "key: draft, word: In review", `two states have the key "draft"`},
		{"meaning: in review", "meaning: waiting", `the status "in review" has the meaning "waiting"`},
		{"key: active, word: Active,", "key: active, word: Active, meaning: in use,", `the standing "active" has the meaning "in use": only a status has one`},
		{`use: "no", shape: cross }` + "\nstanding", `use: never, shape: cross }` + "\nstanding", `"withdrawn" may be used: "never"`},
		{"shape: triangle", "shape: heart", `has the shape "heart": use one of ring`},
		{"meaning: draft, first: true", "meaning: draft", "the status track has 0 first states"},
		{"meaning: in review, use", "meaning: in review, first: true, change: true, use", `the status "in review" is the first: it must mean draft`},
		{"key: obsolete, word: Obsolete,", "key: obsolete, word: Obsolete, first: true,", "the standing track has 2 first states (active, obsolete)"},
		{"meaning: in use, use", "meaning: in use, change: true, use", `what is frozen does not change`},
		{"meaning: in review, use", "meaning: in review, readout: true, use", "they read only what is frozen"},
		{"key: obsolete, word: Obsolete, use", "key: merged, word: Obsolete, use", `the standing "merged" is kept`},
		{"readout: true, shape: triangle", "readout: true, forbids: [breathe], shape: triangle", `forbids "breathe": use copy, choose or freeze`},
		{"meaning: superseded", "meaning: withdrawn", `no status means "superseded"`},
		{"meaning: withdrawn", "meaning: superseded", `leads from "released" (in use) to "withdrawn" (superseded), which no content can do`},
		{"to: in review, who", "to: in limbo, who", `leads to "in limbo", which is no state`},
		{"from: [draft], to: in review", "from: [], to: in review", `the move "ask for review" leads away from nothing`},
		{"from: [draft], to: in review", "from: [drft], to: in review", `begins at "drft", which is no state`},
		{"from: [draft], to: in review", "from: [draft, draft], to: in review", `names "draft" twice`},
		{"from: [draft], to: in review", "from: [in review], to: in review", `leads from "in review" to itself`},
		{"from: [draft], to: in review", "from: [draft, active], to: in review", `one is a status, the other a standing`},
		{"from: [draft], to: in review", "from: [draft, released], to: in review", `from "released" (in use) to "in review" (in review), which no content can do`},
		{"from: [draft, in review], to: released", "from: [draft, in review, withdrawn], to: released", "begins at drafts and at what is frozen"},
		{"key: send back,", "key: ask for review,", `two moves have the key "ask for review"`},
		{"key: send back,", "key: Send_Back,", `the move "Send_Back" needs a key`},
		{"to: draft, note: true, who: { role: engineer }", "to: draft, note: true, who: {}", `the move "send back" is for nobody`},
		{"to: draft, note: true, who: { role: engineer }", "to: draft, note: true, who: { role: reader }", `asks for the role "reader"`},
		{"{ gate: required }", "{ gate: horoscope }", `has the gate "horoscope", which is not there: use one of alternates, datasheet`},
		{"{ gate: required }", "{ gate: required }, { gate: required }", `has the gate "required" twice`},
		{"{ gate: required }", "{ gate: required, with: { at least: '2' } }", `it takes nothing, not "at least"`},
		{"{ gate: required }", "{ gate: sources, with: { at least: '0' } }", `at least "0" is no count`},
		{"{ gate: required }", "{ gate: sources, with: { most: '2' } }", `it does not take "most": use at least`},
		{"{ gate: required }", "{ gate: models, with: { places: 'symbol, logo' } }", `places has "logo"`},
		{"{ gate: required }", "{ gate: models, with: { stand-ins: hated } }", `stand-ins is "hated"`},
		{"{ gate: required }", "{ gate: models, with: { reviewed: perhaps } }", `reviewed is "perhaps"`},
		{"{ gate: required }", "{ gate: required, waive: {} }", `the waiver of the gate "required" of the move "release" is for nobody`},
		{"{ gate: required }", "{ gate: findings, with: { at most: disaster } }", `at most "disaster": use none, note or warning`},
		{"{ key: ask for review, label: Ask for a review, from: [draft], to: in review, who: { role: engineer } }", "{ key: hm, label: Hm, from: [released], to: withdrawn, who: { role: engineer } }", `nothing leads from "draft" to the state "in review"`},
		{"from: [draft, in review], to: released", "from: [in review], to: released", ""},
		{"from: [draft, in review], to: released", "from: [draft], to: released", ""},
		{"from: [in review], to: draft, note: true", "from: [draft], to: in review, note: true", ""},
		{"from: [not for new designs, obsolete], to: active", "from: [not for new designs], to: active", ""},
		{"from: [active, obsolete], to: not for new designs", "from: [active], to: not for new designs", ""},
	} {
		require.Contains(t, string(text), c.old)
		_, err := Parse([]byte(strings.Replace(string(text), c.old, c.new, 1)))
		if c.want == "" {
			assert.NoError(t, err, c.new)
			continue
		}
		if assert.ErrorContains(t, err, c.want, c.new) {
			assert.NotContains(t, err.Error(), "\n", "one sentence")
		}
	}
	text = []byte(strings.Replace(string(text), "from: [not for new designs, obsolete], to: active", "from: [not for new designs], to: active", 1))
	_, err := Parse([]byte(strings.Replace(string(text), "from: [active, obsolete], to: not for new designs", "from: [active], to: not for new designs", 1)))
	assert.ErrorContains(t, err, `the standing "obsolete" can never be left`)
	text, _ = Shipped("parts")
	_, err = Parse([]byte(strings.Replace(strings.Replace(string(text), "from: [draft, in review], to: released", "from: [draft], to: released", 1), "from: [in review], to: draft, note: true", "from: [draft], to: in review, note: true", 1)))
	assert.ErrorContains(t, err, `the status "in review" can never be left for one that is in use`)
	models, _ := Shipped("models")
	_, err = Parse([]byte(strings.Replace(string(models), "who: { role: librarian } }", "who: { role: librarian }, gates: [{ gate: sources }] }", 1)))
	assert.ErrorContains(t, err, `has the gate "sources", which is for parts`)
}

func TestAStateThatIsGoneIsTheOneItBecame(t *testing.T) {
	doc := shipped(t, "parts").Document
	doc.Becomes = map[string]string{"old": "older", "older": "in review", "rare": "obsolete"}
	l, err := New(doc)
	require.NoError(t, err)
	assert.Equal(t, "in review", l.DraftState("old").Key, "over two changes of the document")
	assert.Equal(t, "obsolete", l.StandingState("rare").Key)
	for _, key := range []string{"", "never heard of", "released", "active", "rare"} {
		assert.Equal(t, "draft", l.DraftState(key).Key, "content that is not frozen and in %q", key)
	}
	for _, key := range []string{"", "draft", "active", "old"} {
		assert.Equal(t, "released", l.RevisionState(key).Key, "the newest revision, in %q", key)
		assert.Equal(t, "superseded", l.OldState(key).Key, "an older revision, in %q", key)
		assert.Equal(t, "active", l.StandingState(key).Key, "a standing %q", key)
	}
	assert.Equal(t, "withdrawn", l.RevisionState("withdrawn").Key)
	assert.Equal(t, "withdrawn", l.OldState("withdrawn").Key)
	doc.Becomes = map[string]string{"draft": "in review"}
	_, err = New(doc)
	assert.ErrorContains(t, err, `becomes names "draft", which is still a state`)
	doc.Becomes = map[string]string{"a": "b", "b": "a"}
	_, err = New(doc)
	assert.ErrorContains(t, err, "becomes leads from")
}

func TestMovesLeadOnlyWhereTheDocumentSays(t *testing.T) {
	l := shipped(t, "parts")
	keys := func(state string) (out []string) {
		for _, m := range l.MovesFrom(state) {
			out = append(out, m.Key)
		}
		return out
	}
	assert.Equal(t, []string{"ask for review", "release"}, keys("draft"))
	assert.Equal(t, []string{"send back", "release"}, keys("in review"))
	assert.Equal(t, []string{"withdraw"}, keys("superseded"))
	assert.Empty(t, keys("nowhere"))
	for key, want := range map[string]bool{"release": true, "reinstate": false, "ask for review": false, "retire": false} {
		m, ok := l.Move(key)
		require.True(t, ok)
		assert.Equal(t, want, l.Releases(m), key)
	}
	_, ok := l.Move("teleport")
	assert.False(t, ok)
	m, _ := l.Move("retire")
	to, status := l.Target(m)
	assert.Equal(t, UseNo, to.Use)
	assert.False(t, status)
}

func TestAMoveNeedsSomebodyWhoMayMakeIt(t *testing.T) {
	doc := shipped(t, "parts").Document
	i := slices.IndexFunc(doc.Moves, func(m Move) bool { return m.Key == "release" })
	doc.Moves = slices.Clone(doc.Moves)
	doc.Moves[i].Who = Who{Role: "librarian", Group: "reviewers", NotAuthor: true}
	l, err := New(doc)
	require.NoError(t, err)
	count := func(n int) func(Who) (int, error) {
		return func(w Who) (int, error) {
			if w.Group == "" {
				return 5, nil
			}
			return n, nil
		}
	}
	assert.ErrorContains(t, l.Nobody(count(0)), `nobody may make the move "release" (librarian of the group reviewers, not an author)`)
	assert.ErrorContains(t, l.Nobody(count(1)), "only one person may make the move")
	assert.NoError(t, l.Nobody(count(2)))
	assert.ErrorContains(t, l.Nobody(func(Who) (int, error) { return 0, errors.New("no such group") }), "no such group")
}

// ASME Y14.35, clause 7.
func TestLettersOfRevisions(t *testing.T) {
	for n, want := range map[int]string{1: "A", 8: "H", 9: "J", 13: "N", 14: "P", 15: "R", 16: "T", 20: "Y", 21: "AA", 22: "AB", 40: "AY", 41: "BA", 420: "YY"} {
		got, err := Letter(n)
		require.NoError(t, err)
		assert.Equal(t, want, got, "revision %d", n)
	}
	_, err := Letter(421)
	assert.ErrorContains(t, err, "letters end with YY")
	_, err = Letter(0)
	assert.Error(t, err)
	seen := map[string]bool{}
	for n := 1; n <= MostLetters; n++ {
		s, err := Letter(n)
		require.NoError(t, err)
		assert.False(t, seen[s] || strings.ContainsAny(s, "IOQSXZ"), s)
		seen[s] = true
	}
}

// However often a house changes its way of counting, no label comes twice, and a label of the same form is never a smaller one.
func TestLabelsNeverComeTwiceAndNeverGoBack(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		last, seen := "", map[string]bool{}
		var numbers, majors, minors int
		for n := 1; n <= rapid.IntRange(1, 200).Draw(t, "revisions"); n++ {
			c := rapid.SampledFrom([]Counting{Numbers, MajorMinor, Letters}).Draw(t, "counting")
			label, err := c.Next(n, last, rapid.Bool().Draw(t, "minor"))
			if err != nil {
				t.Fatal(err)
			}
			if seen[label] {
				t.Fatalf("revision %d is labelled %s a second time", n, label)
			}
			switch c {
			case Numbers:
				var k int
				if _, err := fmt.Sscan(label, &k); err != nil || k <= numbers {
					t.Fatalf("%s follows %d", label, numbers)
				}
				numbers = k
			case MajorMinor:
				a, b, ok := majorMinor(label)
				if !ok || a < majors || a == majors && b <= minors {
					t.Fatalf("%s follows %d.%d", label, majors, minors)
				}
				majors, minors = a, b
			}
			seen[label], last = true, label
		}
	})
	assert.Equal(t, "7", Label(7, ""))
	assert.Equal(t, "C", Label(3, "C"))
	assert.Equal(t, "", Label(0, ""))
}

func TestMajorAndMinorSteps(t *testing.T) {
	for _, c := range []struct {
		number int
		last   string
		minor  bool
		want   string
	}{{1, "", false, "1.0"}, {1, "", true, "1.0"}, {2, "1.0", true, "1.1"}, {3, "1.1", false, "2.0"}, {11, "2.9", true, "2.10"}, {4, "3", true, "4.0"}, {5, "D", false, "5.0"}} {
		got, err := MajorMinor.Next(c.number, c.last, c.minor)
		require.NoError(t, err)
		assert.Equal(t, c.want, got, "%+v", c)
	}
}

// with asks one gate on the release of a part.
func with(t *testing.T, use GateUse) func(Facts) Answer {
	t.Helper()
	doc := shipped(t, "parts").Document
	i := slices.IndexFunc(doc.Moves, func(m Move) bool { return m.Key == "release" })
	doc.Moves = slices.Clone(doc.Moves)
	doc.Moves[i].Gates = []GateUse{use}
	l, err := New(doc)
	require.NoError(t, err)
	return func(f Facts) Answer {
		out := l.Ask("release", f)
		require.Len(t, out, 1)
		return out[0]
	}
}

func TestGatesSayYesOrNoWithTheReasonAndWhatMendsIt(t *testing.T) {
	land := ModelFact{Place: "land pattern", Name: "LP-1", Revision: 2, Meaning: MeansUse}
	symbol := ModelFact{Place: "symbol", Name: "Resistor", Revision: 1, Meaning: MeansSuperseded}
	changed := func(m ModelFact, f func(*ModelFact)) ModelFact { f(&m); return m }
	for _, c := range []struct {
		gate  string
		with  map[string]string
		facts Facts
		no    string // why it does not hold; blank where it does
	}{
		{"required", nil, Facts{}, ""},
		{"required", nil, Facts{Blank: []string{"Tolerance"}}, "Tolerance is required and blank"},
		{"required", nil, Facts{Blank: []string{"Tolerance", "Power"}}, "Tolerance, Power are required and blank"},
		{"required", nil, Facts{Blank: []string{"a", "b", "c", "d", "e", "f", "g"}}, "a, b, c, d, e and 2 more are required and blank"},
		{"production", nil, Facts{Supplied: []SuppliedFact{{"Tidewright TW-1", Active}}}, ""},
		{"production", nil, Facts{Supplied: []SuppliedFact{{"Tidewright TW-1", Obsolete}, {"Grebe GR-1", Active}}}, ""},
		{"production", nil, Facts{}, "there is no source"},
		{"production", nil, Facts{Supplied: []SuppliedFact{{"Tidewright TW-1", ""}}}, "no source is in production, as far as suppliers say: of Tidewright TW-1 nobody says whether it is made"},
		{"production", nil, Facts{Supplied: []SuppliedFact{{"Tidewright TW-1", NotForNew}, {"Grebe GR-1", Obsolete}}}, "no source is in production, as far as suppliers say: Tidewright TW-1 is not for new designs, Grebe GR-1 is obsolete"},
		{"production", map[string]string{"at least": "2"}, Facts{Supplied: []SuppliedFact{{"A 1", Active}, {"B 2", ""}}}, "of 2 sources in production there are 1: of B 2 nobody says whether it is made"},
		{"production", map[string]string{"at least": "2"}, Facts{Supplied: []SuppliedFact{{"A 1", Active}, {"B 2", Active}}}, ""},
		{"production", map[string]string{"at least": "9"}, Facts{Supplied: []SuppliedFact{{"A 1", ""}, {"B 2", ""}, {"C 3", ""}, {"D 4", ""}, {"E 5", ""}}}, "of 9 sources in production there are 0: of A 1 nobody says whether it is made, of B 2 nobody says whether it is made, of C 3 nobody says whether it is made, and 2 more"},
		{"sources", nil, Facts{Sources: []string{"Tidewright TW-1"}}, ""},
		{"sources", nil, Facts{}, "there is no source"},
		{"sources", map[string]string{"at least": "2"}, Facts{Sources: []string{"Tidewright TW-1"}}, "of 2 sources there is only Tidewright TW-1"},
		{"sources", map[string]string{"at least": "2"}, Facts{Sources: []string{"A 1", "B 2"}}, ""},
		{"datasheet", nil, Facts{}, "no datasheet is attached"},
		{"datasheet", nil, Facts{Datasheets: []string{"h"}}, ""},
		{"findings", nil, Facts{Findings: []finding.Finding{{Severity: finding.Warning, What: "w"}, {Severity: finding.Note}}}, ""},
		{"findings", nil, Facts{Findings: []finding.Finding{{Severity: finding.Error, What: "the case codes disagree"}}}, "the case codes disagree"},
		{"findings", nil, Facts{Findings: []finding.Finding{{Severity: finding.Error, What: "x", Waived: "known"}}}, ""},
		{"findings", nil, Facts{Findings: []finding.Finding{{Severity: finding.Error, Cause: "required:power", What: "x"}}}, ""},
		{"findings", map[string]string{"at most": "note"}, Facts{Findings: []finding.Finding{{Severity: finding.Warning, What: "w"}}}, "w"},
		{"findings", map[string]string{"at most": "none"}, Facts{Findings: []finding.Finding{{Severity: finding.Note, What: "n"}}}, "n"},
		{"alternates", nil, Facts{Sources: []string{"A 1", "B 2"}}, ""},
		{"alternates", nil, Facts{Sources: []string{"A 1", "B 2"}, Unequal: []string{"B 2: Tolerance ±5 %, not ±1 %"}}, "a source is not equal: B 2: Tolerance ±5 %, not ±1 %"},
		{"identity", nil, Facts{Identity: []string{"Resistance"}}, ""},
		{"identity", nil, Facts{Identity: []string{"Resistance", "Case"}, Twins: []string{"EW-R-00007"}}, "EW-R-00007 is equal in Resistance, Case"},
		{"models", nil, Facts{Models: []ModelFact{land, symbol}}, ""},
		{"models", nil, Facts{Models: []ModelFact{land}}, "there is no symbol"},
		{"models", nil, Facts{Models: []ModelFact{land, changed(symbol, func(m *ModelFact) { m.Revision = 0 })}}, "the symbol Resistor is not released"},
		{"models", nil, Facts{Models: []ModelFact{symbol, changed(land, func(m *ModelFact) { m.Meaning = MeansWithdrawn })}}, "the land pattern LP-1 was withdrawn at revision 2"},
		{"models", map[string]string{"places": "body"}, Facts{Models: []ModelFact{{Place: "body", Name: "B", Revision: 1, Meaning: MeansUse, StandIn: true}}}, ""},
		{"models", map[string]string{"places": "body", "stand-ins": "refused"}, Facts{Models: []ModelFact{{Place: "body", Name: "B", Revision: 1, Meaning: MeansUse, StandIn: true}}}, "a plain block stands in for the body"},
		{"models", map[string]string{"places": "land pattern", "reviewed": "yes"}, Facts{Models: []ModelFact{land}}, "the land pattern LP-1 was not reviewed at revision 2"},
		{"models", map[string]string{"places": "land pattern", "reviewed": "yes"}, Facts{Models: []ModelFact{changed(land, func(m *ModelFact) { m.Reviewed = true })}}, ""},
		{"pin map", nil, Facts{}, ""},
		{"pin map", nil, Facts{Models: []ModelFact{{Place: "pin map", Name: "P", Revision: 3, Meaning: MeansUse}}}, "the pin map P was not reviewed at revision 3"},
		{"pin map", nil, Facts{Models: []ModelFact{{Place: "pin map", Name: "P", Revision: 3, Meaning: MeansUse, Reviewed: true}}}, ""},
		{"pin map", nil, Facts{Models: []ModelFact{{Place: "pin map", Name: "P", Revision: 3, Meaning: MeansWithdrawn, Reviewed: true}}}, "the pin map P was withdrawn at revision 3"},
		{"review", nil, Facts{Content: "c"}, "nobody has reviewed it"},
		{"review", nil, Facts{Content: "c", Signed: []Signature{{Content: "c", By: "Ines"}}}, ""},
		{"review", nil, Facts{Content: "d", Signed: []Signature{{Content: "c", By: "Ines"}}}, "it was changed since Ines signed it"},
		{"review", nil, Facts{Content: "c", Signed: []Signature{{Content: "c", By: "Ines", Author: true}}}, "it was signed by an author only: Ines"},
		{"review", nil, Facts{Content: "c", Signed: []Signature{{Content: "c", By: "Ines", Author: true}, {Content: "c", By: "Tomas"}}}, ""},
		{"review", map[string]string{"group": "analog"}, Facts{Content: "c", Signed: []Signature{{Content: "c", By: "Ines", Groups: []string{"radio"}}}}, "nobody has reviewed it"},
		{"review", map[string]string{"group": "analog"}, Facts{Content: "c", Signed: []Signature{{Content: "c", By: "Ines", Groups: []string{"radio", "analog"}}}}, ""},
		{"proof", nil, Facts{}, "it has not worked on a board yet"},
		{"proof", map[string]string{"at least": "20"}, Facts{Boards: 12}, "it worked on 12 boards, and 20 are asked for"},
		{"proof", map[string]string{"at least": "20"}, Facts{Boards: 20}, ""},
	} {
		a := with(t, GateUse{Gate: c.gate, With: c.with})(c.facts)
		assert.Equal(t, c.no, a.Why, "%s %v %+v", c.gate, c.with, c.facts)
		assert.Equal(t, c.no == "", a.Holds)
		assert.Equal(t, a.Holds, a.Mend == "", "%s says what mends it, and only where there is something to mend", c.gate)
		assert.Equal(t, c.gate, a.Gate)
	}
	for _, name := range GateNames() {
		assert.NotEmpty(t, GateAbout(name))
		assert.Contains(t, Schema, `"`+name+`"`, "the schema knows the gate")
	}
}

// A waiver is bound to what its gate looked at: what it looked at changes the hash, and nothing else does.
func TestWhatAGateLookedAtIsWhatItWentBy(t *testing.T) {
	facts := map[string]Facts{
		"blank": {Blank: []string{"Power"}}, "source": {Sources: []string{"A 1"}}, "unequal": {Unequal: []string{"B 2: Tolerance ±5 %, not ±1 %"}}, "datasheet": {Datasheets: []string{"h"}}, "finding": {Findings: []finding.Finding{{Severity: finding.Error, Cause: "c", What: "w"}}},
		"twin": {Twins: []string{"X-1"}}, "model": {Models: []ModelFact{{Place: "symbol", Name: "S", Revision: 1, Meaning: MeansUse}}}, "pins": {Models: []ModelFact{{Place: "pin map", Name: "P", Revision: 1}}},
		"signed": {Signed: []Signature{{Content: "c", By: "Ines"}}}, "boards": {Boards: 1}, "supplied": {Supplied: []SuppliedFact{{"A 1", Obsolete}}},
	}
	moved := map[string][]string{"required": {"blank"}, "sources": {"source"}, "datasheet": {"datasheet"}, "findings": {"finding"}, "identity": {"twin"}, "alternates": {"unequal"}, "models": {"model"}, "pin map": {"pins"}, "review": {"signed"}, "proof": {"boards"}, "production": {"supplied"}}
	for gate, by := range moved {
		ask := with(t, GateUse{Gate: gate})
		none := ask(Facts{}).Looked
		for name, f := range facts {
			got := ask(f).Looked
			if slices.Contains(by, name) {
				assert.NotEqual(t, none, got, "%s looks at %s", gate, name)
			} else {
				assert.Equal(t, none, got, "%s does not look at %s", gate, name)
			}
		}
	}
	f := Facts{Findings: []finding.Finding{{Severity: finding.Error, Cause: "a"}, {Severity: finding.Error, Cause: "b"}}}
	g := Facts{Findings: []finding.Finding{{Severity: finding.Error, Cause: "b"}, {Severity: finding.Error, Cause: "a"}}}
	ask := with(t, GateUse{Gate: "findings"})
	assert.Equal(t, ask(f).Looked, ask(g).Looked, "the order of findings says nothing")
	assert.NotEqual(t, with(t, GateUse{Gate: "sources"})(Facts{}).Looked, with(t, GateUse{Gate: "sources", With: map[string]string{"at least": "2"}})(Facts{}).Looked, "what was asked for belongs to it")
}

// The API's document names the gates, so that the console cannot lack one.
func TestTheGatesAreNamed(t *testing.T) {
	f, ok := reflect.TypeFor[GateUse]().FieldByName("Gate")
	require.True(t, ok)
	assert.Equal(t, strings.Join(GateNames(), ","), f.Tag.Get("enum"))
	var schema struct {
		Defs struct {
			Gate struct {
				Properties struct{ Gate struct{ Enum []string } }
			}
		} `json:"$defs"`
	}
	require.NoError(t, json.Unmarshal([]byte(Schema), &schema))
	assert.Equal(t, GateNames(), schema.Defs.Gate.Properties.Gate.Enum)
}

func FuzzParse(f *testing.F) {
	for _, name := range Kinds {
		text, _ := Shipped(name)
		f.Add(text)
	}
	f.Add([]byte("format: jolly-lifecycle/1\nname: x\nof: parts\n"))
	f.Fuzz(func(t *testing.T, raw []byte) {
		l, err := Parse(raw)
		if err != nil {
			return
		}
		for _, key := range []string{"", "x"} { // whatever a thing is in, it is in a state of its document
			if s := l.DraftState(key); !s.Meaning.OfDraft() {
				t.Fatalf("a draft is %q", s.Key)
			}
			if s := l.RevisionState(key); s.Meaning != MeansUse {
				t.Fatalf("a revision is %q", s.Key)
			}
			if s := l.OldState(key); s.Meaning != MeansSuperseded {
				t.Fatalf("an old revision is %q", s.Key)
			}
			if s := l.StandingState(key); s.Key == "" {
				t.Fatal("a thing has no standing")
			}
		}
	})
}

// A gate that waits for a second look is refused where nobody could give it, but where it may be waived; and a waiver that nobody could give is.
func TestAGateNeedsSomebodyWhoCanLook(t *testing.T) {
	waived := func(by Who) *Who { return &by }
	for name, c := range map[string]struct {
		use  GateUse
		need string // group whose people are counted; blank: everybody's
		from int    // how many it takes
		want string
	}{
		"a review":                       {GateUse{Gate: "review"}, "", 2, `the gate "review" of the move "release": nobody could look a second time where the only one who may (engineer, not an author) is an author`},
		"a review by a group":            {GateUse{Gate: "review", With: map[string]string{"group": "desk"}}, "desk", 2, "(engineer of the group desk, not an author)"},
		"a reviewed pin map":             {GateUse{Gate: "pin map"}, "", 2, "nobody could look a second time"},
		"reviewed models":                {GateUse{Gate: "models", With: map[string]string{"reviewed": "yes"}}, "", 2, "nobody could look a second time"},
		"models":                         {GateUse{Gate: "models"}, "", 0, ""},
		"sources":                        {GateUse{Gate: "sources"}, "", 0, ""},
		"a review that may be waived":    {GateUse{Gate: "review", With: map[string]string{"group": "desk"}, Waive: waived(Who{Role: "librarian"})}, "desk", 0, ""},
		"a waiver":                       {GateUse{Gate: "sources", Waive: waived(Who{Group: "desk"})}, "desk", 1, "nobody could waive it (anybody of the group desk)"},
		"a waiver by who is not author":  {GateUse{Gate: "sources", Waive: waived(Who{Group: "desk", NotAuthor: true})}, "desk", 2, "nobody could waive it"},
		"a review with a waiver of none": {GateUse{Gate: "review", Waive: waived(Who{Group: "desk"})}, "desk", 1, "nobody could waive it"},
	} {
		doc := shipped(t, "parts").Document
		doc.Moves = slices.Clone(doc.Moves)
		doc.Moves[slices.IndexFunc(doc.Moves, func(m Move) bool { return m.Key == "release" })].Gates = []GateUse{c.use}
		l, err := New(doc)
		require.NoError(t, err, name)
		for n := range 4 {
			err := l.Nobody(func(w Who) (int, error) {
				if w.Group != c.need || w.Group == "" && !w.NotAuthor {
					return 9, nil
				}
				return n, nil
			})
			if n >= c.from {
				assert.NoError(t, err, "%s, %d people", name, n)
			} else {
				assert.ErrorContains(t, err, c.want, "%s, %d people", name, n)
			}
		}
		if c.need != "" {
			assert.ErrorContains(t, l.Nobody(func(w Who) (int, error) {
				if w.Group == "" {
					return 9, nil
				}
				return 0, errors.New("no such group")
			}), "no such group", "%s", name)
		}
	}
}
