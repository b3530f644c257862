package jollydrawer

import (
	"fmt"
	"go/ast"
	"go/types"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"golang.org/x/tools/go/packages"
)

// A write that asked the database over another connection would see what its own transaction does not, and enough of them
// at once would wait for each other's connections for good. So nothing that is given a transaction may lead to the store
// itself, by however many calls: this reads the program and follows them.
func TestNothingInsideAWriteAsksOverAnotherConnection(t *testing.T) {
	calls := readCalls(t, packages.Config{Dir: "."}, "./internal/...", "./cmd/...")
	require.Greater(t, len(calls.roots), 40, "the writes were not found")
	for _, root := range calls.roots {
		if way := calls.toStore(root, map[*body]bool{}); way != nil {
			assert.Fail(t, "inside a write the database is asked over another connection", "%s", strings.Join(way, "\n  calls "))
		}
	}
}

// The test above can see: a program that does it is caught, directly, through a helper and through a method value.
func TestAWriteThatAsksOverAnotherConnectionIsCaught(t *testing.T) {
	const text = `package sample

import (
	"context"

	"jollydrawer/internal/store"
)

type room struct{ store *store.Store }

func (r room) help(ctx context.Context) error { return r.further(ctx) }

func (r room) further(ctx context.Context) error { _, err := r.store.Read(ctx).Counters(); return err }

func (r room) Direct(ctx context.Context) {
	_, _ = r.store.Do(ctx, store.Deed{}, func(t *store.Tx) (any, error) { return r.store.Read(ctx).Counters() })
}

func (r room) Through(ctx context.Context) {
	_, _ = r.store.Do(ctx, store.Deed{}, func(t *store.Tx) (any, error) { return nil, r.help(ctx) })
}

func (r room) Value(ctx context.Context) {
	_, _ = r.store.Do(ctx, store.Deed{}, func(t *store.Tx) (any, error) { f := r.further; return nil, f(ctx) })
}

func (r room) Given(ctx context.Context, t *store.Tx) error { return r.help(ctx) }

func (r room) Well(ctx context.Context) {
	_, _ = r.store.Do(ctx, store.Deed{}, func(t *store.Tx) (any, error) { return t.Counters() })
}
`
	calls := readCalls(t, packages.Config{Dir: ".", Overlay: map[string][]byte{abs(t, "internal/sample/sample.go"): []byte(text)}}, "./internal/sample")
	caught := map[string]bool{}
	for _, root := range calls.roots {
		caught[root.name] = calls.toStore(root, map[*body]bool{}) != nil
	}
	assert.Equal(t, map[string]bool{"write in Direct": true, "write in Through": true, "write in Value": true, "Given": true, "write in Well": false}, caught)
}

// body is a function with what it refers to.
type body struct {
	name  string
	place string
	uses  []*types.Func
	store string // where it uses the store itself
}

type callGraph struct {
	of    map[string]*body // by the function's full name: packages are loaded apart
	roots []*body
}

func readCalls(t *testing.T, cfg packages.Config, patterns ...string) *callGraph {
	t.Helper()
	cfg.Mode = packages.NeedName | packages.NeedFiles | packages.NeedSyntax | packages.NeedTypes | packages.NeedTypesInfo | packages.NeedImports | packages.NeedDeps
	all, err := packages.Load(&cfg, patterns...)
	require.NoError(t, err)
	g := &callGraph{of: map[string]*body{}}
	for _, p := range all {
		require.Empty(t, p.Errors, p.PkgPath)
		for _, f := range p.Syntax {
			for _, d := range f.Decls {
				fn, ok := d.(*ast.FuncDecl)
				if !ok || fn.Body == nil {
					continue
				}
				obj := p.TypesInfo.Defs[fn.Name].(*types.Func)
				b := g.read(p, fn.Name.Name, fn.Body, obj.Signature())
				g.of[obj.FullName()] = b
				ast.Inspect(fn.Body, func(n ast.Node) bool {
					lit, ok := n.(*ast.FuncLit)
					if !ok {
						return true
					}
					if sig := p.TypesInfo.TypeOf(lit).(*types.Signature); writes(sig) {
						g.read(p, "write in "+fn.Name.Name, lit.Body, sig)
					}
					return true
				})
			}
		}
	}
	return g
}

// read gathers what a function refers to. Literals inside it that are writes of their own are read for themselves.
func (g *callGraph) read(p *packages.Package, name string, in *ast.BlockStmt, sig *types.Signature) *body {
	b := &body{name: name, place: fmt.Sprint(p.Fset.Position(in.Pos()))}
	ast.Inspect(in, func(n ast.Node) bool {
		switch n := n.(type) {
		case *ast.FuncLit:
			return n.Body == in || !writes(p.TypesInfo.TypeOf(n).(*types.Signature))
		case *ast.SelectorExpr:
			if sel := p.TypesInfo.Selections[n]; sel != nil && isType(sel.Recv(), "jollydrawer/internal/store", "Store") {
				b.store = fmt.Sprint(p.Fset.Position(n.Pos()))
			}
		case *ast.Ident:
			if fn, ok := p.TypesInfo.Uses[n].(*types.Func); ok {
				b.uses = append(b.uses, fn.Origin())
			}
		}
		return true
	})
	if writes(sig) {
		g.roots = append(g.roots, b)
	}
	return b
}

// writes says whether a function is given a transaction.
func writes(sig *types.Signature) bool {
	for v := range sig.Params().Variables() {
		if isType(v.Type(), "jollydrawer/internal/store", "Tx") || isType(v.Type(), "gorm.io/gorm", "DB") {
			return true
		}
	}
	return sig.Recv() != nil && isType(sig.Recv().Type(), "jollydrawer/internal/store", "Tx")
}

func isType(t types.Type, path, name string) bool {
	if ptr, ok := t.(*types.Pointer); ok {
		t = ptr.Elem()
	}
	n, ok := t.(*types.Named)
	return ok && n.Obj().Name() == name && n.Obj().Pkg() != nil && n.Obj().Pkg().Path() == path
}

// toStore returns the calls that lead from a function to the store itself, or nil.
func (g *callGraph) toStore(b *body, seen map[*body]bool) []string {
	if seen[b] {
		return nil
	}
	seen[b] = true
	if b.store != "" {
		return []string{b.name + " (" + b.place + ")", "the store at " + b.store}
	}
	for _, fn := range b.uses {
		if to := g.of[fn.FullName()]; to != nil {
			if way := g.toStore(to, seen); way != nil {
				return slices.Concat([]string{b.name + " (" + b.place + ")"}, way)
			}
		}
	}
	return nil
}

func abs(t *testing.T, path string) string {
	t.Helper()
	out, err := filepath.Abs(path)
	require.NoError(t, err)
	return out
}
