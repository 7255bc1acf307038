package words

import (
	"go/ast"
	"go/parser"
	"go/token"
	"io/fs"
	"path/filepath"
	"regexp"
	"strconv"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// A code and the figures it carries are written side by side: fault("…", "fault.range", map[string]any{…}), Fault{Code:
// …, With: …}, return Failed, "gate.hold.sinks", with. Where both are literal, the sentence of the code asks for no
// figure that is not carried, and every figure's name ends in its unit or is a name the units know nothing of.
func TestEveryCodeCarriesWhatItsSentenceSays(t *testing.T) {
	asked := regexp.MustCompile(`\{([a-z0-9_]+)\}`)
	en := In("en").table
	checked := 0
	check := func(pos token.Position, code string, with *ast.CompositeLit) {
		text, known := en[code]
		if !known {
			return
		}
		carried := map[string]bool{}
		if with != nil {
			for _, el := range with.Elts {
				kv, ok := el.(*ast.KeyValueExpr)
				if !ok {
					return
				}
				key, ok := literal(kv.Key)
				if !ok {
					return
				}
				carried[key] = true
			}
		}
		checked++
		for _, m := range asked.FindAllStringSubmatch(text, -1) {
			assert.True(t, carried[m[1]] || m[1] == "path", "%s:%d: %s says %s, which is not carried", pos.Filename, pos.Line, code, m[0])
		}
	}
	for _, root := range []string{"../brake", "../server", "../desk", "../store"} {
		err := filepath.WalkDir(root, func(path string, d fs.DirEntry, err error) error {
			if err != nil || d.IsDir() || !strings.HasSuffix(path, ".go") || strings.HasSuffix(path, "_test.go") {
				return err
			}
			files := token.NewFileSet()
			f, err := parser.ParseFile(files, path, nil, 0)
			require.NoError(t, err)
			ast.Inspect(f, func(n ast.Node) bool {
				var list []ast.Expr
				switch n := n.(type) {
				case *ast.CallExpr:
					list = n.Args
				case *ast.ReturnStmt:
					list = n.Results
				case *ast.CompositeLit:
					list = codeAndWith(n)
				}
				for i, e := range list {
					code, ok := literal(e)
					if !ok || i+1 >= len(list) || !strings.Contains(code, ".") {
						continue
					}
					switch w := list[i+1].(type) {
					case *ast.CompositeLit:
						if _, isMap := w.Type.(*ast.MapType); isMap {
							check(files.Position(e.Pos()), code, w)
						}
					case *ast.Ident:
						if w.Name == "nil" {
							check(files.Position(e.Pos()), code, nil)
						}
					}
				}
				return true
			})
			return nil
		})
		require.NoError(t, err)
	}
	assert.Greater(t, checked, 150, "the pattern still finds them")
}

// codeAndWith are the code of a literal with fields and what stands beside it, as a list of two.
func codeAndWith(n *ast.CompositeLit) []ast.Expr {
	var code, with ast.Expr // a point of Match takes its two values later, a problem its detail: no With, nothing to hold
	for _, el := range n.Elts {
		kv, ok := el.(*ast.KeyValueExpr)
		if !ok {
			continue
		}
		switch key, _ := kv.Key.(*ast.Ident); {
		case key == nil:
		case key.Name == "Code":
			code = kv.Value
		case key.Name == "With":
			with = kv.Value
		}
	}
	if code == nil || with == nil {
		return nil
	}
	return []ast.Expr{code, with}
}

func literal(e ast.Expr) (string, bool) {
	l, ok := e.(*ast.BasicLit)
	if !ok || l.Kind != token.STRING {
		return "", false
	}
	s, err := strconv.Unquote(l.Value)
	return s, err == nil
}
