package lifecycle

import (
	"crypto/sha256"
	"encoding/json"
	"fmt"
	"slices"
	"sort"
	"strconv"
	"strings"

	"jollydrawer/core/finding"
)

// Facts are what gates are asked about: neutral, and filled by whoever knows them.
type Facts struct {
	Blank      []string          // required parameters without a value
	Sources    []string          // manufacturer and MPN
	Supplied   []SuppliedFact    // how each source stands, as suppliers say
	Unequal    []string          // sources that said otherwise of identifying parameters, and what
	Datasheets []string          // attached files
	Findings   []finding.Finding // what checks say, waived ones included
	Identity   []string          // the parameters that tell parts of the drawer apart
	Twins      []string          // parts that are equal in all of them
	Models     []ModelFact       // of a part
	Open       []string          // lines of a BOM that nobody settled, and why
	Content    string            // hash of the content
	Signed     []Signature       // what reviewers signed, whatever content it was
	Boards     int               // built boards on which this very content worked
}

// SuppliedFact is how a source stands, as suppliers say: the worst that any says; blank where nobody says, or nobody understands it.
type SuppliedFact struct {
	Source string // manufacturer and MPN
	Stands Standing
}

// ModelFact is a model that a part holds.
type ModelFact struct {
	Place    string // symbol, land pattern, body or pin map
	Name     string
	Revision int
	Meaning  Meaning // of that revision
	StandIn  bool    // a plain block in the place of a body
	Reviewed bool    // that revision was signed by a reviewer
}

// Signature says that somebody went through a review list of a content.
type Signature struct {
	Content string // hash
	By      string
	Groups  []string // that the person answers for
	Author  bool     // of the content
}

// Answer is what a gate says.
type Answer struct {
	Gate   string `json:"gate"`
	Holds  bool   `json:"holds"`
	Why    string `json:"why" doc:"The reason as a sentence, where it does not hold"`
	Mend   string `json:"mend,omitempty" doc:"What would mend it"`
	Looked string `json:"looked" doc:"Hash of all that the gate looked at: a waiver falls when it becomes another"`
	Waive  *Who   `json:"-"`
}

// gate is one condition that a document can put on a move. Each has a file of its own.
type gate struct {
	about string
	of    []string                                                  // kinds of things that it is for; all where there are none
	with  func(given map[string]string) (func(Facts) Answer, error) // reads what the document gives it
	// second says who has to have looked before it holds; nil, or false, where it asks for nobody.
	second func(given map[string]string) (Who, bool)
}

// reviewer is a second person, of a group where one is named: somebody who may go through review lists and is not an author.
func reviewer(group string) Who { return Who{Role: Roles[0], Group: group, NotAuthor: true} }

var (
	ofParts = []string{"parts"}
	ofBOMs  = []string{"boms"}
)

// gates are all there are.
var gates = map[string]gate{
	"required": requiredGate, "sources": sourcesGate, "datasheet": datasheetGate, "findings": findingsGate, "identity": identityGate, "alternates": alternatesGate,
	"models": modelsGate, "pin map": pinMapGate, "review": reviewGate, "proof": proofGate, "production": productionGate, "settled": settledGate,
}

// GateNames lists the gates by name.
func GateNames() []string {
	out := make([]string, 0, len(gates))
	for k := range gates {
		out = append(out, k)
	}
	sort.Strings(out)
	return out
}

// GateAbout says in a sentence what a gate asks.
func GateAbout(name string) string { return gates[name].about }

// answer says yes where why is blank. looked is all that the gate went by.
func answer(why, mend string, looked ...any) Answer {
	raw, err := json.Marshal(looked)
	if err != nil { // facts are plain texts and numbers
		panic(err)
	}
	a := Answer{Holds: why == "", Why: why, Looked: fmt.Sprintf("%x", sha256.Sum256(raw))}
	if !a.Holds {
		a.Mend = mend
	}
	return a
}

// plain is a gate that wants to know nothing.
func plain(ask func(Facts) Answer) func(map[string]string) (func(Facts) Answer, error) {
	return func(given map[string]string) (func(Facts) Answer, error) {
		return ask, only(given)
	}
}

// only refuses what a gate does not ask for.
func only(given map[string]string, known ...string) error {
	for k := range given {
		if !slices.Contains(known, k) {
			if len(known) == 0 {
				return fmt.Errorf("it takes nothing, not %q", k)
			}
			return fmt.Errorf("it does not take %q: use %s", k, strings.Join(known, " or "))
		}
	}
	return nil
}

// atLeast reads a count from 1.
func atLeast(given map[string]string, usual int) (int, error) {
	text, ok := given["at least"]
	if !ok {
		return usual, only(given, "at least")
	}
	n, err := strconv.Atoi(text)
	if err != nil || n < 1 || n > 100000 {
		return 0, fmt.Errorf("at least %q is no count: write a number from 1", text)
	}
	return n, only(given, "at least")
}

// some names a few of many.
func some(all []string) string {
	const few = 5
	if len(all) > few {
		return strings.Join(all[:few], ", ") + fmt.Sprintf(" and %d more", len(all)-few)
	}
	return strings.Join(all, ", ")
}
