package api

import (
	"go/ast"
	"go/parser"
	"go/token"
	"io/fs"
	"maps"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// These tests read this package's source: a route that goes past the principal or the
// policy is found when it is written, not when somebody uses it.

// forAnybody are the operations that ask nobody who they are, and why.
var forAnybody = map[string]string{
	"sign-in":           "here one says who one is",
	"sign-out":          "takes away no more than the session that is sent along",
	"show-form-by-link": "the link says which form, and nothing else is to be had", "fill-form-by-link": "the link says which form, and a grant what may be done",
	"attach-to-form-by-link": "the link says which form, and only one of its fields takes the file",
	"call-rule":              "a signature says who calls",
}

// besides are the addresses that are no operations, and why they need no session.
var besides = map[string]string{
	"/healthz": "says only that the service runs", "/readyz": "says only whether it can write", "/metrics": "numbers alone; for the operator's network",
	"notify.FeedPath": "the secret in the address is a person's", "notify.ActPath": "the sealed link in the address is a person's",
}

// unmasked are the functions that look at states as nobody in particular sees them, and
// what keeps what they find from whoever may not see it.
var unmasked = map[string]string{
	"whole": "asks about sight", "eventKey": "asks about sight", "wholly": "asks about sight", "left": "asks about sight",
	"backupRoutes": "for keepers, who see all", "newMetrics": "counts alone",
	"replay": "written leaves out what the listener does not see", "called": "a signature says who calls, and whoever cannot sign learns nothing",
	"sync": "a sync works on behalf of its author; changeSet shows what the asker sees", "roundRoutes": "a round works on behalf of its author; letters are as their recipients see them",
}

// givesAll are the ways to states that nothing is hidden from.
var givesAll = []string{"State", "Present", "Trackers", "Tracker", "Find"}

// fromStore are the functions that read records besides states, and what keeps what they
// find from whoever may not see it.
var fromStore = map[string]string{
	"replay": "written leaves out what the listener does not see", "called": "only the secret that the signature is checked against",
	"briefly":           "left, of one's own change sets",
	"allowedHostRoutes": "for keepers; values of secrets are never given", "newMetrics": "counts alone",
	"person": "names and addresses, which everybody signed in may see", "peopleRoutes": "names and addresses, which everybody signed in may see",
	"history": "left leaves out what the asker does not see", "run": "left, and no more than name and outcome where something is hidden",
	"runRoutes": "left, run and whole", "trouble": "only runs of trackers that the asker sees, by run",
	"schedule": "of the definitions that the asker sees: times, outcome and the id of a run",
}

func sources(t *testing.T) (*token.FileSet, map[string]*ast.File) {
	t.Helper()
	files := token.NewFileSet()
	packages, err := parser.ParseDir(files, ".", func(f fs.FileInfo) bool { return !strings.HasSuffix(f.Name(), "_test.go") }, 0) //nolint:staticcheck // what it does not know, build tags, is not used here
	require.NoError(t, err)
	require.Contains(t, packages, "api")
	return files, packages["api"].Files
}

// functions calls each with every call, literal and function of the package's source.
func functions(t *testing.T, each func(file, in string, at token.Position, n ast.Node)) {
	t.Helper()
	fset, files := sources(t)
	require.Greater(t, len(files), 20)
	for name, f := range files {
		for _, d := range f.Decls {
			in := "a declaration"
			if fn, is := d.(*ast.FuncDecl); is {
				in = fn.Name.Name
			}
			ast.Inspect(d, func(n ast.Node) bool {
				if n != nil {
					each(name, in, fset.Position(n.Pos()), n)
				}
				return true
			})
		}
	}
}

// called gives what a call calls, such as s.workspace and Commit; parts that are no names are "".
func called(c *ast.CallExpr) (of, name string) {
	switch f := c.Fun.(type) {
	case *ast.Ident:
		return "", f.Name
	case *ast.SelectorExpr:
		return selected(f.X), f.Sel.Name
	case *ast.IndexListExpr:
		return called(&ast.CallExpr{Fun: f.X})
	}
	return "", ""
}

func selected(x ast.Expr) string {
	switch x := x.(type) {
	case *ast.Ident:
		return x.Name
	case *ast.SelectorExpr:
		return selected(x.X) + "." + x.Sel.Name
	}
	return ""
}

func TestEveryRouteGoesThroughPrincipalAndPolicy(t *testing.T) {
	routes, open := 0, map[string]bool{}
	functions(t, func(file, in string, at token.Position, n ast.Node) {
		call, is := n.(*ast.CallExpr)
		if !is {
			return
		}
		of, name := called(call)
		switch {
		case name == "route" && of == "":
			routes++
			needs := selected(call.Args[1])
			assert.Contains(t, []string{"reader", "editor", "keeper", "anybody"}, needs, "%s: a route says who may use it", at)
			if needs == "anybody" {
				id := strings.Trim(call.Args[4].(*ast.BasicLit).Value, `"`)
				assert.Contains(t, forAnybody, id, "%s: an operation that asks nobody who they are", at)
				open[id] = true
			}
		case of == "huma":
			if name == "Register" || strings.HasPrefix(name, "Get") || strings.HasPrefix(name, "Post") || strings.HasPrefix(name, "Put") {
				assert.Equal(t, "route", in, "%s: operations are registered by route, which asks who may use them", at)
			}
		case of == "web" && strings.ToUpper(name) == name || name == "HandleFunc":
			assert.Equal(t, "web.go", file, "%s: addresses are given in web.go", at)
			assert.Contains(t, besides, address(call.Args[0]), "%s: an address that needs no session", at)
		}
	})
	assert.Greater(t, routes, 60, "routes found")
	for id := range forAnybody {
		assert.True(t, open[id], "%s is no operation for anybody any more", id)
	}
}

func address(x ast.Expr) string {
	switch x := x.(type) {
	case *ast.BasicLit:
		return strings.Trim(x.Value, `"`)
	case *ast.BinaryExpr:
		return address(x.X)
	}
	return selected(x)
}

func TestHandlersReadOnlyWhatTheirAskerSees(t *testing.T) {
	states, records := map[string]bool{}, map[string]bool{}
	functions(t, func(_, in string, at token.Position, n ast.Node) {
		call, is := n.(*ast.CallExpr)
		if !is {
			return
		}
		of, name := called(call)
		switch {
		case of != "s.workspace" && of != "d":
		case name == "Store":
			assert.Contains(t, fromStore, in, "%s: what keeps these records from whoever may not see them?", at)
			records[in] = true
		case slices.Contains(givesAll, name):
			assert.Contains(t, unmasked, in, "%s: %s gives all there is: use seen, find or tab", at, name)
			states[in] = true
		}
	})
	assert.ElementsMatch(t, slices.Collect(maps.Keys(unmasked)), slices.Collect(maps.Keys(states)), "those excused are those that need it")
	assert.ElementsMatch(t, slices.Collect(maps.Keys(fromStore)), slices.Collect(maps.Keys(records)), "those excused are those that need it")
}

func TestRequestsSayWhoAsks(t *testing.T) {
	functions(t, func(_, _ string, at token.Position, n ast.Node) {
		literal, is := n.(*ast.CompositeLit)
		if !is || literal.Type == nil || selected(literal.Type) != "engine.Request" {
			return
		}
		var keys []string
		for _, e := range literal.Elts {
			if kv, is := e.(*ast.KeyValueExpr); is {
				keys = append(keys, selected(kv.Key))
			}
		}
		assert.Contains(t, keys, "By", "%s: a request to the engine without a principal", at)
	})
}

func TestTheFrameworkIsInOneFile(t *testing.T) {
	_, files := sources(t)
	for name, f := range files {
		for _, i := range f.Imports {
			if strings.Contains(i.Path.Value, "gin-gonic") || strings.Contains(i.Path.Value, "humagin") {
				assert.Equal(t, "web.go", name, "imports %s", i.Path.Value)
			}
		}
	}
	assert.Contains(t, files, "web.go")
}
