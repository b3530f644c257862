package main

import (
	"fmt"
	"go/ast"
	"go/parser"
	"go/token"
	"os"
	"os/exec"
	"path"
	"path/filepath"
	"slices"
	"strings"
)

// realGo names, in the environment, the go command that this program stands before.
const realGo = "MUTANTS_GO"

// standIn puts this program before the go command: a coverage profile counts the statements behind a case and not the case's own
// conditions, so that mistakes in those would never be tried.
func standIn(dir string) error {
	real, err := exec.LookPath("go")
	if err != nil {
		return err
	}
	self, err := os.Executable()
	if err != nil {
		return err
	}
	if err := os.Symlink(self, filepath.Join(dir, "go")); err != nil {
		return err
	}
	if err := os.Setenv(realGo, real); err != nil {
		return err
	}
	return os.Setenv("PATH", dir+string(os.PathListSeparator)+os.Getenv("PATH"))
}

// asGo is the go command; to a coverage profile it adds the conditions of cases.
func asGo(args []string) int {
	if len(args) > 0 && args[0] == "test" { // thousands of made cases for each mistake would take hours: a fifth of them notices too
		args = slices.Insert(slices.Clone(args), 1, "-short", "-vet=off", "-ldflags=-s -w")
	}
	cmd := exec.Command(os.Getenv(realGo), args...)
	cmd.Stdin, cmd.Stdout, cmd.Stderr = os.Stdin, os.Stdout, os.Stderr
	err := cmd.Run()
	for i, a := range args {
		if name := strings.TrimPrefix(a, "-coverprofile="); err == nil && name != a {
			err = addCases(name)
		} else if err == nil && a == "-coverprofile" && i+1 < len(args) {
			err = addCases(args[i+1])
		}
	}
	if cmd.ProcessState != nil && !cmd.ProcessState.Success() {
		return cmd.ProcessState.ExitCode()
	}
	if err != nil {
		fmt.Fprintln(os.Stderr, "mutants:", err)
		return 1
	}
	return 0
}

// span is one line of a coverage profile.
type span struct{ from, to [2]int }

func (s span) has(line, column int) bool {
	at := [2]int{line, column}
	return slices.Compare(s.from[:], at[:]) <= 0 && slices.Compare(at[:], s.to[:]) <= 0
}

// addCases adds the cases of every switch that was reached to a profile.
func addCases(profile string) error {
	b, err := os.ReadFile(profile)
	if err != nil {
		return err
	}
	reached := map[string][]span{}
	for line := range strings.Lines(string(b)) {
		file, rest, ok := strings.Cut(strings.TrimSpace(line), ":")
		var s span
		var n, count int
		if _, err := fmt.Sscanf(rest, "%d.%d,%d.%d %d %d", &s.from[0], &s.from[1], &s.to[0], &s.to[1], &n, &count); ok && err == nil && count > 0 {
			reached[file] = append(reached[file], s)
		}
	}
	module, err := exec.Command(os.Getenv(realGo), "list", "-m", "-f", "{{.Path}} {{.Dir}}").Output()
	if err != nil {
		return err
	}
	name, dir, _ := strings.Cut(strings.TrimSpace(string(module)), " ")
	out := strings.TrimRight(string(b), "\n") + "\n"
	for file, spans := range reached {
		fset := token.NewFileSet()
		f, err := parser.ParseFile(fset, filepath.Join(dir, strings.TrimPrefix(file, name)), nil, 0)
		if err != nil {
			return err
		}
		ast.Inspect(f, func(n ast.Node) bool {
			sw, ok := n.(*ast.SwitchStmt)
			if !ok {
				return true
			}
			at := fset.Position(sw.Pos())
			if !slices.ContainsFunc(spans, func(s span) bool { return s.has(at.Line, at.Column) }) {
				return true
			}
			for _, c := range sw.Body.List {
				from, to := fset.Position(c.Pos()), fset.Position(c.(*ast.CaseClause).Colon)
				out += fmt.Sprintf("%s:%d.%d,%d.%d 1 1\n", path.Clean(file), from.Line, from.Column, to.Line, to.Column)
			}
			return true
		})
	}
	return os.WriteFile(profile, []byte(out), 0o644)
}
