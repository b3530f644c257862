package bom

import (
	"fmt"
	"maps"
	"regexp"
	"slices"
	"strings"

	"jollydrawer/core/cabinet"
	"jollydrawer/core/document"
	"jollydrawer/core/finding"
)

// SeveritiesFormat names the form of a document of severities.
const SeveritiesFormat = "jolly-severities/1"

// Off is the severity of what a house does not want to hear.
const Off finding.Severity = "off"

// Severities is how bad a house takes the findings of its BOMs, by cause, and from which severity on a check on a build server fails.
type Severities struct {
	Format string                      `json:"format" yaml:"format"`
	Fail   finding.Severity            `json:"fail,omitempty" yaml:"fail,omitempty"` // error where nothing is said
	Causes map[string]finding.Severity `json:"causes,omitempty" yaml:"causes,omitempty"`
}

// Verdicts that a check takes for findings, by cause: a line that nobody answered is one.
var openCauses = map[Kind]struct {
	cause, what, mend string
	severity          finding.Severity
}{
	Missing:  {"missing", "nothing in the library answers it", "choose a part, make it, or ask for it", finding.Error},
	Several:  {"several", "several parts may be meant", "choose one", finding.Error},
	Proposed: {"proposed", "a record is only proposed", "accept it, or choose another", finding.Warning},
}

// Causes are those of the findings of BOMs, with the severity that they have where a house says nothing. Beside them each parameter's key is the cause of what
// disagrees in it.
var Causes = map[string]finding.Severity{
	"missing": finding.Error, "several": finding.Error, "proposed": finding.Warning,
	"unreadable": finding.Warning, "read-as": finding.Note, "no-designator": finding.Warning, "level-unclear": finding.Warning, "fitted-unclear": finding.Warning, "designator-twice": finding.Error, "variant-part": finding.Note, "units-apart": finding.Warning, "quantity": finding.Warning,
	"choice-gone": finding.Warning, "choice-open": finding.Warning, "reading-void": finding.Warning, "reading-against": finding.Warning, "number-behind": finding.Note, "number-unknown": finding.Warning, "no-such-parameter": finding.Warning, "not-understood": finding.Note, "better": finding.Note, "ending": finding.Note,
	"value": finding.Warning, "package": finding.Warning, "mpn": finding.Warning, "manufacturer": finding.Warning, "number": finding.Warning, "supplierNumber": finding.Warning,
	"obsolete": finding.Error, "not-to-use": finding.Error, "not-for-new": finding.Warning, "with-caution": finding.Warning, "unreleased": finding.Warning, "single-source": finding.Note, "part-twice": finding.Note, "function-twice": finding.Note, "stock-short": finding.Warning, "against-settled": finding.Warning,
	"bare-value": finding.Note, "record-twice": finding.Warning, "no-datasheet": finding.Note, "no-model": finding.Note, "not-made": finding.Warning,
	"lead-late": finding.Warning, "behind": finding.Warning, "pin-withdrawn": finding.Error, "board-open": finding.Error,
}

var paramKey = regexp.MustCompile(`^[A-Za-z][A-Za-z0-9_-]{0,79}$`)

// ParseSeverities reads a document of severities; known says whether a key is that of a parameter.
func ParseSeverities(raw []byte, known func(param string) bool) (s Severities, err error) {
	if err := document.ReadYAML(raw, "the severities", &s); err != nil {
		return s, err
	}
	if s.Format != SeveritiesFormat {
		return s, fmt.Errorf("the severities have format %q; this version reads %q", s.Format, SeveritiesFormat)
	}
	levels := []finding.Severity{finding.Error, finding.Warning, finding.Note}
	if s.Fail != "" && !slices.Contains(levels, s.Fail) {
		return s, fmt.Errorf("fail: %q is no severity: use error, warning or note", s.Fail)
	}
	for _, cause := range slices.Sorted(maps.Keys(s.Causes)) {
		if _, ok := Causes[cause]; !ok && (!paramKey.MatchString(cause) || !known(cause)) {
			return s, fmt.Errorf("causes: %q is no cause of findings, nor a parameter", cause)
		}
		if at := s.Causes[cause]; at != Off && !slices.Contains(levels, at) {
			return s, fmt.Errorf("causes: %s is %q: use error, warning, note or off", cause, at)
		}
	}
	return s, nil
}

// Follow is how bad the house takes findings after steps that rename or retire parameters; changed is false where they are of no
// parameter that it names.
func (s Severities) Follow(steps []cabinet.Step) (out Severities, changed bool) {
	out, out.Causes = s, map[string]finding.Severity{}
	for cause, at := range s.Causes {
		now, gone := cause, false
		if _, ours := Causes[cause]; !ours {
			now, gone = cabinet.Followed(cause, steps)
		}
		changed = changed || gone || now != cause
		if !gone {
			out.Causes[now] = at
		}
	}
	return out, changed
}

// Takes returns findings as bad as the house takes them, and says whether one is as bad as makes a check fail.
func (s Severities) Takes(all []finding.Finding) (out []finding.Finding, fails bool) {
	least := s.Fail
	if least == "" {
		least = finding.Error
	}
	otherwise := false
	for i := range all {
		f := &all[i]
		at, said := s.of(f.Cause)
		otherwise = otherwise || said && at != f.Severity
		fails = fails || f.Waived == "" && f.Severity.AtLeast(least)
	}
	if !otherwise {
		return all, fails
	}
	fails = false
	out = make([]finding.Finding, 0, len(all))
	for _, f := range all {
		if at, said := s.of(f.Cause); said {
			f.Severity = at
		}
		if f.Severity == Off {
			continue
		}
		fails = fails || f.Waived == "" && f.Severity.AtLeast(least)
		out = append(out, f)
	}
	return out, fails
}

// of is what a house says of a cause, by its check.
func (s Severities) of(cause string) (at finding.Severity, said bool) {
	if len(s.Causes) == 0 {
		return "", false
	}
	check, _, _ := strings.Cut(cause, ":")
	at, said = s.Causes[check]
	return at, said
}

// Open is the finding that a line is when nobody answered it; nothing where it is answered, or not fitted.
func (v *Verdict) Open() *finding.Finding {
	is, open := openCauses[v.Kind]
	if !open {
		return nil
	}
	return &finding.Finding{Severity: is.severity, Cause: is.cause, Row: v.Line.Row, What: is.what, Mend: is.mend}
}
