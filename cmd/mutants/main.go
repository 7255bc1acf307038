// Command mutants breaks the core on purpose, one small thing at a time, and sees whether the package's own tests
// notice: a figure half as large again, a comparison turned, an "and" made an "or". What nobody notices is listed in
// docs/mutants.md. The files are not touched: each break is laid over them for one run.
package main

import (
	"bytes"
	"encoding/json"
	"flag"
	"fmt"
	"go/ast"
	"go/parser"
	"go/token"
	"math/rand/v2"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"strconv"
	"strings"
	"sync"
)

// quick are the packages whose own tests take seconds: brake/job's take a minute each, and are asked for by name.
const quick = "bench,bleed,diagnose,fluid,ledger,match,pedal,plan,stand,strict,system,twin,units,verify"

// mutant is one break: bytes of a file from from to to become with.
type mutant struct {
	pkg, file, was, with string
	line, from, to       int
	killed               bool
}

func main() {
	n := flag.Int("each", 12, "mutants a package")
	seed := flag.Uint64("seed", 1, "which")
	packages := flag.String("packages", quick, "of brake/, or by their path in the module: ground/simulate")
	out := flag.String("out", "docs/mutants.md", "the page")
	at := flag.Int("at-once", 2, "runs side by side")
	flag.Parse()
	if err := run(strings.Split(*packages, ","), *n, *seed, *at, *out); err != nil {
		fmt.Fprintln(os.Stderr, err)
		os.Exit(1)
	}
}

// pathOf is where a package lies in the module: of brake/ where it is named alone.
func pathOf(pkg string) string {
	if strings.Contains(pkg, "/") {
		return pkg
	}
	return "brake/" + pkg
}

func run(packages []string, n int, seed uint64, at int, out string) error {
	var chosen []*mutant
	for _, p := range packages {
		all, err := mutantsOf(p)
		if err != nil {
			return err
		}
		r := rand.New(rand.NewPCG(seed, uint64(len(p))))
		r.Shuffle(len(all), func(i, j int) { all[i], all[j] = all[j], all[i] })
		chosen = append(chosen, all[:min(n, len(all))]...)
	}
	dir, err := os.MkdirTemp("", "mutants")
	if err != nil {
		return err
	}
	defer func() { _ = os.RemoveAll(dir) }()
	var wg sync.WaitGroup
	var mu sync.Mutex
	done, failed := 0, error(nil)
	turn := make(chan bool, at)
	for i, m := range chosen {
		wg.Go(func() {
			turn <- true
			defer func() { <-turn }()
			err := m.try(filepath.Join(dir, strconv.Itoa(i)))
			mu.Lock()
			defer mu.Unlock()
			done++
			if err != nil && failed == nil {
				failed = err
			}
			if !m.killed {
				fmt.Fprintf(os.Stderr, "\nsurvives: %s:%d %s → %s\n", m.file, m.line, m.was, m.with)
			}
			fmt.Fprintf(os.Stderr, "\r%d of %d ", done, len(chosen))
		})
	}
	wg.Wait()
	fmt.Fprintln(os.Stderr)
	if failed != nil {
		return failed
	}
	return os.WriteFile(out, page(packages, chosen, seed), 0o644)
}

var turned = map[token.Token]token.Token{
	token.LSS:  token.LEQ,
	token.LEQ:  token.LSS,
	token.GTR:  token.GEQ,
	token.GEQ:  token.GTR,
	token.EQL:  token.NEQ,
	token.NEQ:  token.EQL,
	token.LAND: token.LOR,
	token.LOR:  token.LAND,
	token.ADD:  token.SUB,
	token.SUB:  token.ADD,
}

// mutantsOf lists what can be broken in a package.
func mutantsOf(pkg string) ([]*mutant, error) {
	files, err := filepath.Glob(filepath.Join(pathOf(pkg), "*.go"))
	if err != nil {
		return nil, err
	}
	var out []*mutant
	for _, file := range files {
		if strings.HasSuffix(file, "_test.go") {
			continue
		}
		set := token.NewFileSet()
		f, err := parser.ParseFile(set, file, nil, 0)
		if err != nil {
			return nil, err
		}
		add := func(pos token.Pos, was, with string) {
			p := set.Position(pos)
			out = append(out, &mutant{pkg: pkg, file: file, was: was, with: with, line: p.Line, from: p.Offset, to: p.Offset + len(was)})
		}
		ast.Inspect(f, func(node ast.Node) bool {
			switch x := node.(type) {
			case *ast.BasicLit:
				if with, ok := larger(x); ok {
					add(x.Pos(), x.Value, with)
				}
			case *ast.BinaryExpr:
				if to, ok := turned[x.Op]; ok && !words(x) {
					add(x.OpPos, x.Op.String(), to.String())
				}
			}
			return true
		})
	}
	return out, nil
}

// larger is a figure half as large again; 0 and 1 become 1 and 2.
func larger(x *ast.BasicLit) (string, bool) {
	v, err := strconv.ParseFloat(x.Value, 64)
	if err != nil || strings.HasPrefix(x.Value, "0x") || strings.HasPrefix(x.Value, "0o") {
		return "", false
	}
	if x.Kind == token.INT {
		return strconv.Itoa(int(v) + max(1, int(v)/2)), true
	}
	if x.Kind == token.FLOAT && v != 0 {
		return strconv.FormatFloat(v*1.5, 'g', -1, 64), true
	}
	return "", false
}

// words says whether a "+" puts texts together: turned it would not compile, and prove nothing.
func words(x *ast.BinaryExpr) bool {
	text := false
	ast.Inspect(x, func(n ast.Node) bool {
		if l, ok := n.(*ast.BasicLit); ok && l.Kind == token.STRING {
			text = true
		}
		return !text
	})
	return text && (x.Op == token.ADD || x.Op == token.SUB)
}

// try runs the package's own tests with the break laid over them. One that does not compile counts as noticed by nobody
// and as missed by nobody: it is taken for killed, and not counted.
func (m *mutant) try(dir string) error {
	src, err := os.ReadFile(m.file)
	if err != nil {
		return err
	}
	if err := os.MkdirAll(dir, 0o755); err != nil {
		return err
	}
	broken := filepath.Join(dir, filepath.Base(m.file))
	if err := os.WriteFile(broken, slices.Concat(src[:m.from], []byte(m.with), src[m.to:]), 0o644); err != nil {
		return err
	}
	whole, err := filepath.Abs(m.file)
	if err != nil {
		return err
	}
	over, err := json.Marshal(map[string]any{"Replace": map[string]string{whole: broken}})
	if err != nil {
		return err
	}
	overlay := filepath.Join(dir, "overlay.json")
	if err := os.WriteFile(overlay, over, 0o644); err != nil {
		return err
	}
	cmd := exec.Command("go", "test", "-overlay", overlay, "-count=1", "-failfast", "-timeout", "120s", "./"+pathOf(m.pkg))
	said, err := cmd.CombinedOutput()
	m.killed = err != nil
	if bytes.Contains(said, []byte("[build failed]")) || bytes.Contains(said, []byte("[setup failed]")) {
		m.was = "" // not counted
	}
	return nil
}

// page is what came of it.
func page(packages []string, list []*mutant, seed uint64) []byte {
	list = slices.DeleteFunc(list, func(m *mutant) bool { return m.was == "" })
	var b bytes.Buffer
	killed := func(of []*mutant) (n int) {
		for _, m := range of {
			if m.killed {
				n++
			}
		}
		return n
	}
	fmt.Fprintf(
		&b,
		"# What the core's tests notice\n\nMade by `make mutants`. The core is broken on purpose, one small thing at a time: a figure half as large again, a comparison turned,\nan \"and\" made an \"or\". Only the package's own tests are asked. With seed %d %d of %d breaks were noticed (%.0f %%).\n\n| Package | noticed | of |\n|---|--:|--:|\n",
		seed,
		killed(list),
		len(list),
		100*float64(killed(list))/float64(max(1, len(list))),
	)
	for _, p := range packages {
		own := slices.DeleteFunc(slices.Clone(list), func(m *mutant) bool { return m.pkg != p })
		fmt.Fprintf(&b, "| %s | %d | %d |\n", p, killed(own), len(own))
	}
	b.WriteString(
		"\nNot noticed. Some are the same vehicle said otherwise (a bound nothing comes near, a step in a search that ends where it did); the others\nwant a check with its source.\n\n",
	)
	for _, m := range list {
		if !m.killed {
			fmt.Fprintf(&b, "- `%s:%d` `%s` → `%s`\n", m.file, m.line, m.was, m.with)
		}
	}
	return b.Bytes()
}
