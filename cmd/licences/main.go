// Command licences gathers the licence texts of everything the program carries: the Go modules that are linked, the
// packages and fonts that are bundled into the page, the fonts of the paper. `make licences` runs it; a test holds the
// list against what is linked.
package main

import (
	"bytes"
	"compress/gzip"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"slices"
	"strings"
)

// part is one thing that is carried.
type part struct{ name, version, text string }

var licenceFile = regexp.MustCompile(`(?i)^(licen[sc]e|copying|notice|ofl|patents)([.-].*)?(\.txt|\.md)?$`)

func main() {
	if len(os.Args) != 2 {
		fmt.Fprintln(os.Stderr, "usage: licences OUT.gz, from the root of the project")
		os.Exit(2)
	}
	if err := run(os.Args[1]); err != nil {
		fmt.Fprintln(os.Stderr, "licences:", err)
		os.Exit(1)
	}
}

func run(out string) error {
	all, err := modules()
	if err != nil {
		return err
	}
	packages, err := npm("web")
	if err != nil {
		return err
	}
	fonts, err := texts("sheet/fonts")
	if err != nil {
		return err
	}
	all = append(append(all, packages...), part{"fonts of the paper", "", fonts})
	var b bytes.Buffer
	for _, p := range all {
		if p.text == "" {
			return fmt.Errorf("%s %s has no licence text", p.name, p.version)
		}
		fmt.Fprintf(&b, "== %s %s\n\n%s\n\n", p.name, p.version, strings.TrimSpace(p.text))
	}
	var packed bytes.Buffer
	z, err := gzip.NewWriterLevel(&packed, gzip.BestCompression) // no name, no time: the same bytes from the same texts
	if err != nil {
		return err
	}
	if _, err := z.Write(b.Bytes()); err != nil {
		return err
	}
	return errors.Join(z.Close(), os.WriteFile(out, packed.Bytes(), 0o644))
}

// modules are those linked into the program.
func modules() ([]part, error) {
	cmd := exec.Command("go", "list", "-deps", "-json=Module", "./cmd/geminate")
	raw, err := cmd.Output()
	if err != nil {
		return nil, fmt.Errorf("go list: %w", err)
	}
	seen := map[string]part{}
	d := json.NewDecoder(bytes.NewReader(raw))
	for {
		var p struct {
			Module *struct {
				Path, Version, Dir string
				Main               bool
			}
		}
		if err := d.Decode(&p); errors.Is(err, io.EOF) {
			break
		} else if err != nil {
			return nil, err
		}
		if m := p.Module; m != nil && !m.Main && seen[m.Path].name == "" {
			text, err := texts(m.Dir)
			if err != nil {
				return nil, err
			}
			seen[m.Path] = part{m.Path, m.Version, text}
		}
	}
	out := exec.Command("go", "env", "GOROOT")
	root, err := out.Output()
	if err != nil {
		return nil, err
	}
	text, err := texts(strings.TrimSpace(string(root)))
	if err != nil {
		return nil, err
	}
	seen["the Go standard library"] = part{"the Go standard library", "", text}
	return sorted(seen), nil
}

// npm are the packages of the page that are no tools of its making.
func npm(dir string) ([]part, error) {
	raw, err := os.ReadFile(filepath.Join(dir, "package-lock.json"))
	if err != nil {
		return nil, err
	}
	var lock struct {
		Packages map[string]struct {
			Version, License    string
			Dev, Optional, Peer bool
		}
	}
	if err := json.Unmarshal(raw, &lock); err != nil {
		return nil, err
	}
	seen := map[string]part{}
	for path, p := range lock.Packages {
		if path == "" || p.Dev || p.Optional {
			continue
		}
		text, err := texts(filepath.Join(dir, path))
		if err != nil {
			return nil, err
		}
		name := path[strings.LastIndex(path, "node_modules/")+len("node_modules/"):]
		if text == "" { // some packages carry no file: what they say of themselves stands
			text = "Licence: " + p.License + " (as the package says; it carries no text)"
		}
		seen[name] = part{name, p.Version, text}
	}
	return sorted(seen), nil
}

func sorted(m map[string]part) []part {
	out := make([]part, 0, len(m))
	for _, p := range m {
		out = append(out, p)
	}
	slices.SortFunc(out, func(a, b part) int { return strings.Compare(a.name, b.name) })
	return out
}

// texts are the licence files of a folder, one after another.
func texts(dir string) (string, error) {
	list, err := os.ReadDir(dir)
	if err != nil {
		return "", err
	}
	var all []string
	for _, e := range list {
		if e.IsDir() || !licenceFile.MatchString(e.Name()) {
			continue
		}
		raw, err := os.ReadFile(filepath.Join(dir, e.Name()))
		if err != nil {
			return "", err
		}
		all = append(all, string(raw))
	}
	return strings.Join(all, "\n\n"), nil
}
