package bom

import (
	"os"
	"path/filepath"
	"regexp"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jollydrawer/core/cabinet"
	"jollydrawer/core/finding"
)

func TestAHouseSaysHowBadFindingsAre(t *testing.T) {
	known := func(p string) bool { return p == "resistance" }
	s, err := ParseSeverities([]byte("format: jolly-severities/1\nfail: warning\ncauses: {single-source: error, part-twice: off, value: note, resistance: error, against-settled: error}\n"), known)
	require.NoError(t, err)
	all := []finding.Finding{{Severity: finding.Note, Cause: "single-source"}, {Severity: finding.Note, Cause: "part-twice"}, {Severity: finding.Warning, Cause: "value"}, {Severity: finding.Warning, Cause: "against-settled:resistance"}, {Severity: finding.Note, Cause: "better"}}
	got, fails := s.Takes(all)
	var is []finding.Severity
	for _, f := range got {
		is = append(is, f.Severity)
	}
	assert.Equal(t, []finding.Severity{finding.Error, finding.Note, finding.Error, finding.Note}, is, "one is not heard of at all")
	assert.True(t, fails)
	assert.Equal(t, finding.Note, all[0].Severity, "what came in stays")
	for name, c := range map[string]struct {
		fail, is finding.Severity
		waived   string
		want     bool
	}{
		"an error fails by itself": {"", finding.Error, "", true}, "a warning does not": {"", finding.Warning, "", false}, "a warning where it is asked": {finding.Warning, finding.Warning, "", true},
		"an error where warnings are": {finding.Warning, finding.Error, "", true}, "a note where notes are": {finding.Note, finding.Note, "", true}, "not what is waived": {"", finding.Error, "agreed", false},
	} {
		_, fails := Severities{Fail: c.fail}.Takes([]finding.Finding{{Severity: c.is, Waived: c.waived}})
		assert.Equal(t, c.want, fails, name)
	}
	for text, says := range map[string]string{
		"": "cannot be read", "format: other/1": "have format", "format: jolly-severities/1\nfail: bad": "no severity", "format: jolly-severities/1\ncauses: {nonsense: note}": "no cause of findings",
		"format: jolly-severities/1\ncauses: {value: terrible}": "use error, warning, note or off", "format: jolly-severities/1\nmore: 1": "cannot be read", "format: jolly-severities/1\ncauses: [a]": "cannot be read", "format: jolly-severities/1\nfail: off": "no severity",
	} {
		_, err := ParseSeverities([]byte(text), known)
		assert.ErrorContains(t, err, says, text)
	}
}

// What a check can say has to be known to whoever says how bad it is: each cause that stands in the sources does.
func TestEveryCauseOfAFindingIsListed(t *testing.T) {
	said := regexp.MustCompile(`(?:say\(finding\.\w+, |Cause: )"([a-z-]+)[":]`)
	found := 0
	for _, dir := range []string{".", "../../internal/service/boms"} {
		files, err := filepath.Glob(filepath.Join(dir, "*.go"))
		require.NoError(t, err)
		for _, f := range files {
			if filepath.Ext(f) != ".go" || regexp.MustCompile(`_test\.go$`).MatchString(f) {
				continue
			}
			raw, err := os.ReadFile(f)
			require.NoError(t, err)
			for _, m := range said.FindAllStringSubmatch(string(raw), -1) {
				found++
				assert.Contains(t, Causes, m[1], f)
			}
		}
	}
	assert.Greater(t, found, 20)
	for kind, is := range openCauses {
		assert.Equal(t, is.severity, Causes[is.cause], kind)
	}
}

func TestALineThatNobodyAnsweredIsAFinding(t *testing.T) {
	for kind, cause := range map[Kind]string{Missing: "missing", Several: "several", Proposed: "proposed", Linked: "", Unfitted: ""} {
		got := (&Verdict{Kind: kind, Line: &Line{Row: 7}}).Open()
		if cause == "" {
			assert.Nil(t, got, kind)
		} else if assert.NotNil(t, got, kind) {
			assert.Equal(t, []any{cause, 7}, []any{got.Cause, got.Row})
		}
	}
}

func FuzzSeverities(f *testing.F) {
	f.Add([]byte("format: jolly-severities/1\nfail: warning\ncauses: {value: off}\n"))
	f.Add([]byte("a: &a [*a]"))
	f.Fuzz(func(t *testing.T, raw []byte) {
		s, err := ParseSeverities(raw, func(string) bool { return false })
		if err == nil {
			require.Equal(t, SeveritiesFormat, s.Format)
		}
	})
}

func TestSeveritiesFollowTheParametersThatTheyName(t *testing.T) {
	s := Severities{Format: SeveritiesFormat, Fail: finding.Warning, Causes: map[string]finding.Severity{"power": finding.Error, "voltage": Off, "package": finding.Note, "missing": finding.Warning}}
	name := func(from, to string) cabinet.Step {
		return cabinet.Step{Do: cabinet.Rename, Parameter: from, To: to}
	}
	for what, c := range map[string]struct {
		steps []cabinet.Step
		want  map[string]finding.Severity // nil: nothing changes
	}{
		"of nothing that they name":       {[]cabinet.Step{name("tolerance", "exactness"), {Do: cabinet.Retype, Parameter: "power", Of: "current"}}, nil},
		"renamed":                         {[]cabinet.Step{name("power", "rating")}, map[string]finding.Severity{"rating": finding.Error, "voltage": Off, "package": finding.Note, "missing": finding.Warning}},
		"exchanged":                       {[]cabinet.Step{name("power", "a"), name("voltage", "power"), name("a", "voltage")}, map[string]finding.Severity{"voltage": finding.Error, "power": Off, "package": finding.Note, "missing": finding.Warning}},
		"retired":                         {[]cabinet.Step{{Do: cabinet.Retire, Parameter: "power"}}, map[string]finding.Severity{"voltage": Off, "package": finding.Note, "missing": finding.Warning}},
		"a cause of ours is no parameter": {[]cabinet.Step{name("package", "case"), {Do: cabinet.Retire, Parameter: "missing"}}, nil},
	} {
		got, changed := s.Follow(c.steps)
		assert.Equal(t, c.want != nil, changed, what)
		if c.want == nil {
			c.want = s.Causes
		}
		assert.Equal(t, Severities{Format: SeveritiesFormat, Fail: finding.Warning, Causes: c.want}, got, what)
	}
	assert.Len(t, s.Causes, 4, "the document of before stays as it was")
}
