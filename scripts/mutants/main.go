// Command mutants changes the code of the heart packages, one small mistake at a time, and tells how many of the mistakes their
// own tests notice. What no test reaches counts as not noticed. Where a package has more than -most mistakes to make, lines are
// drawn from it with a fixed seed until there are about as many.
//
//	go run ./scripts/mutants [-most 150] [-list] [core/bom ...]
package main

import (
	"encoding/json"
	"errors"
	"flag"
	"fmt"
	"maps"
	"math/rand/v2"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"strings"
)

// tool makes the mistakes.
const tool = "github.com/go-gremlins/gremlins/cmd/gremlins@v0.6.0"

// heart are the packages whose tests are to notice.
var heart = []string{"core/measure", "core/bom", "core/crosswalk", "core/intake", "core/part", "core/cabinet", "core/lookup", "core/model", "core/money", "core/offer", "core/buying", "core/connection", "core/answers"}

// least is the share of mistakes, in percent, that a package's tests are to notice.
const least = 80

// mistake is one change of the code and what came of it.
type mistake struct {
	Kind   string `json:"type"`
	Status string `json:"status"`
	Line   int    `json:"line"`
	Column int    `json:"column"`
}

type report struct {
	Files []struct {
		Name     string    `json:"file_name"`
		Mistakes []mistake `json:"mutations"`
	} `json:"files"`
}

func main() {
	if filepath.Base(os.Args[0]) == "go" {
		os.Exit(asGo(os.Args[1:]))
	}
	most := flag.Int("most", 150, "about how many mistakes are made in a package")
	list := flag.Bool("list", false, "name the mistakes that no test noticed")
	flag.Parse()
	packages := flag.Args()
	if len(packages) == 0 {
		packages = heart
	}
	if err := run(packages, *most, *list); err != nil {
		fmt.Fprintln(os.Stderr, "mutants:", err)
		os.Exit(1)
	}
}

func run(packages []string, most int, list bool) error {
	work, err := os.MkdirTemp("", "mutants")
	if err != nil {
		return err
	}
	defer os.RemoveAll(work)
	program := filepath.Join(work, "gremlins")
	install := exec.Command("go", "install", tool)
	install.Env = append(os.Environ(), "GOBIN="+work)
	if out, err := install.CombinedOutput(); err != nil {
		return fmt.Errorf("installing %s: %w: %s", tool, err, out)
	}
	if err := standIn(work); err != nil {
		return err
	}
	copied := filepath.Join(work, "jolly")
	if err := copyTree(copied); err != nil {
		return err
	}
	fmt.Printf("%-16s %8s %8s %8s %8s %10s %8s\n", "package", "made", "noticed", "endless", "lived", "unreached", "share")
	low := 0
	for _, p := range packages {
		r, err := try(program, copied, p, most)
		if err != nil {
			return fmt.Errorf("%s: %w", p, err)
		}
		n := map[string]int{}
		for _, f := range r.Files {
			for _, m := range f.Mistakes {
				n[m.Status]++
			}
		}
		// A test that no longer ends has noticed.
		noticed, lived, unreached := n["KILLED"]+n["TIMED OUT"], n["LIVED"], n["NOT COVERED"]
		all := noticed + lived + unreached
		share := 100 * float64(noticed) / float64(max(all, 1))
		fmt.Printf("%-16s %8d %8d %8d %8d %10d %7.1f%%\n", p, all, n["KILLED"], n["TIMED OUT"], lived, unreached, share)
		if share < least {
			low++
		}
		if list {
			name(r, p)
		}
	}
	if low > 0 {
		return fmt.Errorf("the tests of %d packages notice less than %d %% of the mistakes", low, least)
	}
	return nil
}

// name writes the mistakes that were not noticed.
func name(r report, p string) {
	for _, f := range r.Files {
		for _, m := range f.Mistakes {
			if m.Status == "LIVED" || m.Status == "NOT COVERED" {
				fmt.Printf("  %s:%d:%d %s %s\n", filepath.Join(p, filepath.Base(f.Name)), m.Line, m.Column, strings.ToLower(m.Kind), strings.ToLower(m.Status))
			}
		}
	}
}

// copyTree copies what is tracked, as it stands in the working tree, to where lines may be drawn by changing them.
func copyTree(to string) error {
	out, err := exec.Command("git", "ls-files", "-co", "--exclude-standard").Output()
	if err != nil {
		return err
	}
	for file := range strings.Lines(string(out)) {
		file = strings.TrimSpace(file)
		if !strings.HasSuffix(file, ".go") && !strings.HasPrefix(file, "go.") && !strings.HasPrefix(file, "core/") && !strings.HasPrefix(file, "demo/") {
			continue
		}
		b, err := os.ReadFile(file)
		if errors.Is(err, os.ErrNotExist) {
			continue
		} else if err != nil {
			return err
		}
		at := filepath.Join(to, file)
		if err := os.MkdirAll(filepath.Dir(at), 0o755); err != nil {
			return err
		}
		if err := os.WriteFile(at, b, 0o644); err != nil {
			return err
		}
	}
	return nil
}

func git(dir string, args ...string) error {
	cmd := exec.Command("git", append([]string{"-c", "user.name=mutants", "-c", "user.email=mutants@localhost"}, args...)...)
	cmd.Dir = dir
	if out, err := cmd.CombinedOutput(); err != nil {
		return fmt.Errorf("git %s: %w: %s", args[0], err, out)
	}
	return nil
}

// try makes mistakes in a package and runs its tests on each.
func try(program, tree, p string, most int) (r report, err error) {
	dry, err := unleash(program, tree, p, "--dry-run")
	if err != nil {
		return r, err
	}
	all := 0
	for _, f := range dry.Files {
		all += len(f.Mistakes)
	}
	if all <= most {
		return unleash(program, tree, p)
	}
	// The lines drawn are what differs from a commit in which they are other lines: the program makes mistakes in those only.
	drawn := draw(dry, most)
	was := map[string][]byte{}
	for file, lines := range drawn {
		at := filepath.Join(tree, p, filepath.Base(file))
		b, err := os.ReadFile(at)
		if err != nil {
			return r, err
		}
		was[at] = b
		text := strings.Split(string(b), "\n")
		for _, line := range lines {
			text[line-1] += "\x20"
		}
		if err := os.WriteFile(at, []byte(strings.Join(text, "\n")), 0o644); err != nil {
			return r, err
		}
	}
	// The program knows files by their names within the package, and a hunk by its first changed line: hence a repository of the
	// package alone, and no lines around a change.
	here := filepath.Join(tree, p)
	for _, args := range [][]string{{"init", "-q"}, {"config", "diff.context", "0"}, {"add", "-A"}, {"commit", "-q", "-m", p}} {
		if err := git(here, args...); err != nil {
			return r, err
		}
	}
	for at, b := range was {
		if err := os.WriteFile(at, b, 0o644); err != nil {
			return r, err
		}
	}
	return unleash(program, tree, p, "--diff", "HEAD")
}

// draw draws lines of a package until about as many mistakes as asked for stand on them.
func draw(dry report, most int) map[string][]int {
	type place struct {
		file string
		line int
	}
	on := map[place]int{}
	for _, f := range dry.Files {
		for _, m := range f.Mistakes {
			on[place{f.Name, m.Line}]++
		}
	}
	places := slices.SortedFunc(maps.Keys(on), func(a, b place) int {
		if a.file != b.file {
			return strings.Compare(a.file, b.file)
		}
		return a.line - b.line
	})
	rand.New(rand.NewPCG(1, 2)).Shuffle(len(places), func(i, j int) { places[i], places[j] = places[j], places[i] })
	out, n := map[string][]int{}, 0
	for _, at := range places {
		if n >= most {
			break
		}
		out[at.file] = append(out[at.file], at.line)
		n += on[at]
	}
	return out
}

// unleash runs the program on a package. Its option --test-cpu is of no use: it makes every run of the tests fail, which looks
// like noticing everything. What lies in folders of a package is left as it is: it makes test cases, or is a package of its own.
func unleash(program, tree, p string, flags ...string) (r report, err error) {
	out := filepath.Join(filepath.Dir(tree), "report.json")
	cmd := exec.Command(program, append([]string{"unleash", "--workers", "2", "--timeout-coefficient", "10", "--exclude-files", "/", "--output", out}, append(flags, "./"+p)...)...)
	cmd.Dir = tree
	// Without -count=1 the first run may be one remembered, and its time no measure for the others.
	cmd.Env = append(os.Environ(), "GOFLAGS=-count=1", "GIT_DIR="+filepath.Join(tree, p, ".git"), "GIT_WORK_TREE="+filepath.Join(tree, p))
	said, err := cmd.CombinedOutput()
	if err != nil {
		return r, fmt.Errorf("%w: %s", err, said)
	}
	b, err := os.ReadFile(out)
	if err != nil {
		return r, err
	}
	return r, json.Unmarshal(b, &r)
}
