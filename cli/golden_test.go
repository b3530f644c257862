package cli_test

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"net/http"
	"net/http/httptest"
	"os"
	"path/filepath"
	"regexp"
	"slices"
	"strings"
	"testing"
	"unicode/utf8"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	ucli "github.com/urfave/cli/v3"

	"jollydrawer/cli"
	"jollydrawer/core/lifecycle"
	"jollydrawer/internal/api"
	"jollydrawer/internal/golden"
	"jollydrawer/internal/service/housetest"
	"jollydrawer/internal/testdb"
	"jollydrawer/internal/wire"
)

func TestMain(m *testing.M) { testdb.Main(m) }

// terminal is a service, and somebody who has signed in to it.
type terminal struct {
	t    *testing.T
	work string // its folder
	url  string
	h    housetest.House
}

func sit(t *testing.T) terminal {
	h := housetest.Empty(t)
	s := &api.Server{Service: h.App, Follower: h.Follower, Console: http.Dir(t.TempDir()), Closing: make(chan struct{})}
	web := httptest.NewServer(s.New())
	t.Cleanup(web.Close)
	k, err := h.People.AddToken(t.Context(), h.Me, wire.NewToken{Name: "tests"})
	require.NoError(t, err)
	t.Setenv("JOLLY_SERVER", web.URL)
	t.Setenv("JOLLY_TOKEN", k.Secret)
	t.Setenv("JOLLY_CLIENT_FILE", filepath.Join(t.TempDir(), "client.json"))
	t.Setenv("JOLLY_PASSWORD", "not the password")
	t.Setenv("JOLLY_NEW_PASSWORD", "a-long-password")
	return terminal{t, t.TempDir(), web.URL, h}
}

// run is one command: what it prints, and its exit code.
func (x terminal) run(args ...string) (stdout, stderr string, code int) {
	var out, bad bytes.Buffer
	c := cli.New()
	c.Writer, c.ErrWriter = &out, &bad
	err := cli.Run(context.Background(), c, append([]string{"jolly"}, args...))
	if err != nil && !errors.Is(err, cli.ErrFindings) {
		fmt.Fprintln(&bad, "jolly: "+err.Error())
	}
	return out.String(), bad.String(), cli.ExitCode(err)
}

// words parts a line as a shell does, as far as double quotes go.
func words(line string) (out []string) {
	for _, m := range regexp.MustCompile(`(?:[^\s"]|"[^"]*")+`).FindAllString(line, -1) {
		out = append(out, strings.ReplaceAll(m, `"`, ""))
	}
	return out
}

var changing = []struct {
	re *regexp.Regexp
	as string
}{
	{regexp.MustCompile(`[0-9a-f]{8}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{12}`), "<id>"},
	{regexp.MustCompile(`\b[0-9a-f]{64}\b`), "<hash>"},
	{regexp.MustCompile(`\b[0-9a-f]{12,32}\b`), "<digest>"},
	{regexp.MustCompile(`20\d\d-\d\d-\d\d([T ]\d\d:\d\d(:\d\d(\.\d+)?)?(Z| UTC)?)?`), "<time>"},
	{regexp.MustCompile(`\b\d+ min\b`), "<age>"},
	{regexp.MustCompile(`--after \S+`), "--after <place>"},
	{regexp.MustCompile(`(trail\.(?:jsonl|csv)\s+)\d+`), "${1}<bytes>"}, // the fractions of seconds are of many lengths
	{regexp.MustCompile(`\bjdt_[A-Z0-9]{20,}`), "<secret>"},
}

// Every line of testdata/session.txt is typed; what comes back is a golden file that was read line by line.
func TestADayOnTheCommandLine(t *testing.T) {
	x := sit(t)
	for name, text := range map[string]string{
		"broken.yaml":   "format: jolly-cabinet/1\nparameters: [{ key: A b, type: measure }]\ndrawers: []\n",
		"cells.csv":     "Row,Number,Width\n1,1,1.1\n2,2,1.2\n",
		"shop.yaml":     "format: jolly-connection/1\nsupplier: Corner Shop\ncurrency: EUR\ndecimalMark: point\nread: {form: table, product: {manufacturer: Make, mpn: Type, kind: What, state: Stands}, offers: {paths: {number: Code, stock: Left, minimum: Least}}, breaks: {at: {\"1\": Each, \"100\": Hundred}}, fields: {rest: true}}\n",
		"wrong.yaml":    "format: jolly-connection/1\nsupplier: Corner Shop\npassword: hunter2\n",
		"prices.csv":    "Code,Make,Type,What,Stands,Left,Least,Each,Hundred,Resistance,Tolerance,Case\nC1,Tidewright,TW-0805-1R-F,Chip resistors,obsolete,700,1,0.021,0.01,1 Ω,1 %,0805\nC2,Grebe Resistive,GR08051RF,Chip resistors,active,90,10,0.03,0.02,1 Ω,1 %,0805\nC3,Grebe Resistive,GR08052RF,Chip resistors,active,x,10,0.03,ask us,2 Ω,1 %,0805\n",
		"other.csv":     "Article,Price\n1,2\n",
		"rates.yaml":    "format: jolly-rates/1\nhouse: EUR\nrates:\n- {one: GBP, is: \"1.17\", of: EUR, on: \"2026-11-02\"}\n",
		"live.yaml":     "format: jolly-connection/1\nsupplier: Reed Supplies\naddress: http://192.0.2.1/api\ncurrency: EUR\nask: {words: {path: /find, query: {q: \"{words}\"}}}\nread: {form: json, products: \"$.items[*]\", product: {manufacturer: $.maker, mpn: $.type, state: $.life}, fields: {each: \"$.facts[*]\", name: $.n, text: $.v}, offers: {paths: {number: $.code, stock: $.left}}, breaks: {each: \"$.prices[*]\", paths: {from: $.q, price: $.p}}}\n",
		"answer.json":   `{"items":[{"maker":"Tidewright","type":"TW-0805-2K-F","code":"R1","left":"1,200","facts":[{"n":"Resistance","v":"2k"},{"n":"Smell","v":"none"}],"prices":[{"q":1,"p":"0.03"}]},{"maker":"Nobody"}]}`,
		"pins.csv":      "Number,Name,Type\n1,A,passive\n2,K,passive\n",
		"pasted.txt":    "Chip resistor\nResistance: 47 kΩ\nTolerance: 1 %\nCase: 0805\nManufacturer: Tidewright\nMfr Part No.: TW-0805-47K\n",
		"wanted.csv":    "Facts,MPN,Manufacturer,Board,Quantity\n100n 0402,,,Tide gauge D,20\n,KL-7,Kelpline,Tide gauge D,\n",
		"lamp.csv":      "Level,Ref,Qty,MPN,Value,Package,Fitted Harbour,Fitted Open sea\n1,R1,1,TW-0805-1R-F,1R,0805,yes,no\n1,R1,1,,10k,0805,no,yes\n1,A1-A2,2,,,,yes,yes\n2,R1,1,TW-0805-1R-F,1R,0805,yes,yes\n",
		"lamp-pier.csv": "Ref,Qty,Value,Package,MPN\n\"R1, R2\",2,1R,0805,TW-0805-1R-F\nR3,1,10k,0805,\n",
		"lamp-buoy.csv": "MPN,Ref,Value,Package,Qty\nTW-0805-1R-F,R1,1R,0805,1\n,R3,10k,0805,1\n,R4,22k,0805,1\n",
		"board-b.csv":   "Pier light,,,,\nRef,Qty,MPN,Value,Package\nR1,1,TW-0805-1R-F,1R,0805\n\"R2, R13\",2,,10k,0805\nC1,1,NOBODY-9,100n,0603\nR4,1,,12k,DNP\n\"U1A, U1B\",1,,,\nTotal,6,,,\n",
		"lenient.yaml":  "format: jolly-severities/1\ncauses: {missing: warning, several: warning, single-source: off}\n", "odd.yaml": "format: jolly-severities/1\ncauses: {everything: off}\n",
		"board.csv": "Ref,Qty,MPN,Value,Package\nR1,1,TW-0805-1R-F,1R,0805\n\"R2, R3\",2,,10k,0805\nC1,1,NOBODY-9,100n,0603\nR4,1,,12k,DNP\n",
	} {
		require.NoError(t, os.WriteFile(filepath.Join(x.work, name), []byte(text), 0o644))
	}
	shipped, _ := lifecycle.Shipped("parts")
	strict := strings.NewReplacer("counting: numbers", "counting: letters", "{ gate: required }", `{ gate: required }, { gate: review }, { gate: sources, with: { at least: "2" }, waive: { role: librarian } }`).Replace(string(shipped))
	require.NoError(t, os.WriteFile(filepath.Join(x.work, "strict.yaml"), []byte(strict), 0o644))
	alone := strings.Replace(string(shipped), "to: released, note: true, who: { role: librarian }", "to: released, note: true, who: { group: Power desk, notAuthor: true }", 1)
	require.NoError(t, os.WriteFile(filepath.Join(x.work, "alone.yaml"), []byte(alone), 0o644))
	list, err := os.ReadFile("../demo/suppliers/marsh-lane.csv")
	require.NoError(t, err)
	head := strings.SplitAfterN(string(list), "\n", 8)
	require.NoError(t, os.WriteFile(filepath.Join(x.work, "list.csv"), []byte(strings.Join(head[:7], "")), 0o644))
	one, err := os.ReadFile("../demo/models/diode.symbol.json")
	require.NoError(t, err)
	require.NoError(t, os.WriteFile(filepath.Join(x.work, "delivery.json"), one, 0o644))

	script, err := os.ReadFile(filepath.Join("testdata", "session.txt"))
	require.NoError(t, err)
	kept, err := filepath.Abs(filepath.Join("testdata", "session.golden"))
	require.NoError(t, err)
	demo, err := filepath.Abs("../demo")
	require.NoError(t, err)
	t.Chdir(x.work) // names of files are as long on every machine
	var got strings.Builder
	typed, tried := map[string]bool{}, map[string]bool{}
	for line := range strings.Lines(string(script)) {
		line = strings.TrimSpace(line)
		if line == "" || strings.HasPrefix(line, "#") {
			continue
		}
		args := words(line)
		for n := range args { // after parting: the folder may have a blank in its name
			args[n] = strings.ReplaceAll(args[n], "{demo}", demo)
		}
		for n := range 3 {
			typed[strings.Join(args[:min(n, len(args))], " ")] = true
		}
		try := slices.Contains(args, "--try")
		var before map[string]string
		if try {
			before = x.h.Written()
		}
		stdout, stderr, code := x.run(args...)
		if try { // what only shows writes nothing, whatever it shows
			assert.Equal(t, before, x.h.Written(), line)
			tried[strings.Join(args[:2], " ")] = true
		}
		for said, where := range map[string]string{stdout: "stdout", stderr: "stderr"} {
			assert.True(t, utf8.ValidString(said), "%s of %s", where, line)
			assert.NotContains(t, said, "%!", "%s of %s", where, line)
		}
		if code == 1 || code == 2 {
			assert.NotEmpty(t, strings.TrimSpace(stderr), "%s fails without a word", line)
		}
		fmt.Fprintf(&got, "$ jolly %s\n%s", line, shortened(stdout))
		if stderr != "" {
			fmt.Fprintf(&got, "stderr: %s", stderr)
		}
		if code != 0 {
			fmt.Fprintf(&got, "exit %d\n", code)
		}
	}
	for _, name := range leaves(cli.New(), "") {
		assert.True(t, typed[name], "nobody typed jolly %s", name)
	}
	for _, name := range trying(cli.New(), "") {
		assert.True(t, tried[name], "nobody tried jolly %s --try", name)
	}
	text := strings.ReplaceAll(got.String(), x.url, "{url}")
	for _, c := range changing {
		text = c.re.ReplaceAllString(text, c.as)
	}
	golden.Equal(t, kept, text)
}

// shortened leaves out the middle of what is long, which other tests read.
func shortened(text string) string {
	lines := strings.SplitAfter(text, "\n")
	if len(lines) <= 44 {
		return text
	}
	return strings.Join(slices.Concat(lines[:20], []string{fmt.Sprintf("… %d more lines …\n", len(lines)-41)}, lines[len(lines)-21:]), "")
}

// trying are the commands that can show what they would do.
func trying(c *ucli.Command, at string) (out []string) {
	for _, k := range c.Commands {
		name := strings.TrimSpace(at + " " + k.Name)
		if slices.ContainsFunc(k.Flags, func(f ucli.Flag) bool { return slices.Contains(f.Names(), "try") }) {
			out = append(out, name)
		}
		out = append(out, trying(k, name)...)
	}
	return out
}

// leaves are the commands that do something.
func leaves(c *ucli.Command, at string) (out []string) {
	for _, k := range c.Commands {
		if name := strings.TrimSpace(at + " " + k.Name); len(k.Commands) == 0 {
			out = append(out, name)
		} else {
			out = append(out, leaves(k, name)...)
		}
	}
	return out
}
