package strict

import (
	"bytes"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"slices"
	"strconv"
	"strings"
)

// MaxBytes is the largest document the reader looks at; a real one is a few kilobytes.
const MaxBytes = 1 << 20

// Fault is one thing wrong with an input: where, what, and the figures that go with it. Code is a
// key of the words files ("fault.range" and so on); the core itself speaks no sentences.
type Fault struct {
	Path string         `json:"path"`
	Code string         `json:"code"`
	With map[string]any `json:"with,omitempty"`
}

// Faults is every fault found in one input. It is an error when not empty.
type Faults []Fault

func (f Faults) Error() string {
	lines := make([]string, len(f))
	for i, x := range f {
		lines[i] = x.String()
	}
	return strings.Join(lines, "\n")
}

// String gives a fault on one line for logs and tests: path, code and figures.
func (f Fault) String() string {
	keys := make([]string, 0, len(f.With))
	for k := range f.With {
		keys = append(keys, k)
	}
	slices.Sort(keys)
	var b strings.Builder
	fmt.Fprintf(&b, "%s: %s", f.Path, f.Code)
	for _, k := range keys {
		fmt.Fprintf(&b, " %s=%v", k, f.With[k])
	}
	return b.String()
}

// Err returns f as an error, or nil where there is nothing wrong.
func (f Faults) Err() error {
	if len(f) == 0 {
		return nil
	}
	return f
}

// Reading is a document held against a shape.
type Reading struct {
	Tree   any    // as decoded: which fields were given at all
	Clean  []byte // what fits the Shape, as JSON again; what did not is left out
	Faults Faults
}

// Read holds a document against a shape. Tree is nil where it is no JSON at all. Clean serves checks
// across fields: they then see zeros where a field could not be read, and all faults can be told in one go.
func Read(data []byte, s Shape) Reading {
	if len(data) > MaxBytes {
		return Reading{Faults: Faults{{Path: "$", Code: "fault.too_large", With: map[string]any{"max_bytes": MaxBytes}}}}
	}
	tree, faults := decodeTree(quoteNonNumbers(data))
	if tree == nil {
		return Reading{Faults: faults}
	}
	faults = append(faults, check(tree, s, "$")...)
	clean, err := json.Marshal(prune(tree, s))
	if err != nil {
		return Reading{Faults: append(faults, Fault{Path: "$", Code: "fault.detail", With: map[string]any{"detail": err.Error()}})}
	}
	return Reading{Tree: tree, Clean: clean, Faults: faults}
}

// Dedupe leaves each fault once.
func Dedupe(in Faults) Faults {
	seen := map[string]bool{}
	out := Faults{}
	for _, f := range in {
		if k := f.String(); !seen[k] {
			seen[k] = true
			out = append(out, f)
		}
	}
	return out
}

// decodeTree decodes JSON into plain values, refusing a key given twice and anything after the
// document, both of which encoding/json passes over in silence.
func decodeTree(data []byte) (any, Faults) {
	d := json.NewDecoder(bytes.NewReader(data))
	d.UseNumber()
	var faults Faults
	tree, err := decodeValue(d, "$", 0, &faults)
	if err == nil {
		if _, e := d.Token(); !errors.Is(e, io.EOF) {
			err = errors.New("something follows the end of the document")
		}
	}
	if err != nil {
		line := 1 + bytes.Count(data[:min(int(d.InputOffset()), len(data))], []byte("\n"))
		return nil, Faults{{Path: "$", Code: "fault.syntax", With: map[string]any{"line": line, "detail": err.Error()}}}
	}
	if tree == nil {
		return nil, Faults{{Path: "$", Code: "fault.type", With: map[string]any{"want": "object"}}}
	}
	return tree, faults
}

// nonNumber marks a NaN or Infinity found where a value should be. No text of a file can start with it:
// the readers refuse it there.
const nonNumber = "\x00"

// quoteNonNumbers turns NaN and Infinity, which some programs write and JSON does not have, into
// marked texts, so that each is told at its own path together with everything else that is wrong.
func quoteNonNumbers(data []byte) []byte {
	if !bytes.Contains(data, []byte("NaN")) && !bytes.Contains(data, []byte("Infinity")) {
		return data
	}
	out := make([]byte, 0, len(data)+64)
	inText := false
	for i := 0; i < len(data); i++ {
		c := data[i]
		switch {
		case inText && c == '\\' && i+1 < len(data):
			out = append(out, c, data[i+1])
			i++
			continue
		case c == '"':
			inText = !inText
		case !inText:
			if w := nonNumberAt(data[i:]); w != "" {
				out = append(out, `"\u0000`+w+`"`...)
				i += len(w) - 1
				continue
			}
		}
		out = append(out, c)
	}
	return out
}

func nonNumberAt(rest []byte) string {
	for _, w := range []string{"NaN", "-Infinity", "Infinity"} {
		if bytes.HasPrefix(rest, []byte(w)) {
			return w
		}
	}
	return ""
}

const maxDepth = 32

func decodeValue(d *json.Decoder, path string, depth int, faults *Faults) (any, error) {
	if depth > maxDepth {
		return nil, errors.New("nested too deeply")
	}
	tok, err := d.Token()
	if err != nil {
		if errors.Is(err, io.EOF) {
			return nil, io.ErrUnexpectedEOF
		}
		return nil, err
	}
	switch t := tok.(type) {
	case json.Delim:
		if t == '[' {
			out := []any{}
			for d.More() {
				v, err := decodeValue(d, path+"["+strconv.Itoa(len(out))+"]", depth+1, faults)
				if err != nil {
					return nil, err
				}
				out = append(out, v)
			}
			_, err := d.Token()
			return out, err
		}
		out := map[string]any{}
		for d.More() {
			k, err := d.Token()
			if err != nil {
				return nil, err
			}
			key := k.(string)
			v, err := decodeValue(d, path+"."+key, depth+1, faults)
			if err != nil {
				return nil, err
			}
			if _, twice := out[key]; twice {
				*faults = append(*faults, Fault{Path: path + "." + key, Code: "fault.twice"})
			}
			out[key] = v
		}
		_, err := d.Token()
		return out, err
	default:
		return tok, nil
	}
}

var kindNames = map[kind]string{
	kNumber: "number",
	kString: "text",
	kBool:   "true_or_false",
	kObject: "object",
	kList:   "list",
	kMap:    "object",
}

// check walks a decoded value against its shape and returns every fault.
func check(v any, s Shape, path string) Faults {
	wrong := func() Faults {
		return Faults{{Path: path, Code: "fault.type", With: map[string]any{"want": kindNames[s.kind]}}}
	}
	var out Faults
	switch s.kind {
	case kNumber:
		n, ok := v.(json.Number)
		if !ok {
			if t, text := v.(string); text && strings.HasPrefix(t, nonNumber) {
				return Faults{{Path: path, Code: "fault.not_finite", With: map[string]any{"value": strings.TrimPrefix(t, nonNumber)}}}
			}
			return wrong()
		}
		x, err := n.Float64()
		if err != nil || x < s.min || x > s.max || (s.above && x == s.min) {
			code := "fault.range"
			if s.above {
				code = "fault.range_above"
			}
			return Faults{{Path: path, Code: code, With: map[string]any{"value": n.String(), "min": s.min, "max": s.max}}}
		}
	case kString:
		t, ok := v.(string)
		if !ok || strings.HasPrefix(t, nonNumber) {
			return wrong()
		}
		if s.max > 0 && float64(len(t)) > s.max {
			return Faults{{Path: path, Code: "fault.too_long", With: map[string]any{"max": s.max}}}
		}
		if s.enum != nil && !slices.Contains(s.enum, t) {
			return Faults{{Path: path, Code: "fault.enum", With: map[string]any{"value": t, "allowed": strings.Join(s.enum, ", ")}}}
		}
	case kBool:
		if _, ok := v.(bool); !ok {
			return wrong()
		}
	case kList:
		l, ok := v.([]any)
		if !ok {
			return wrong()
		}
		if n := float64(len(l)); n < s.min || n > s.max {
			out = append(out, Fault{Path: path, Code: "fault.count", With: map[string]any{"value": len(l), "min": s.min, "max": s.max}})
		}
		for i, item := range within(l, s) {
			out = append(out, check(item, *s.item, path+"["+strconv.Itoa(i)+"]")...)
		}
	case kMap, kObject:
		m, ok := v.(map[string]any)
		if !ok {
			return wrong()
		}
		out = append(out, checkObject(m, s, path)...)
	}
	return out
}

// within cuts a list that is too long, which is told once, so that a megabyte of entries is not
// told one by one.
func within(l []any, s Shape) []any {
	return l[:min(len(l), int(s.max)+1)]
}

func checkObject(m map[string]any, s Shape, path string) Faults {
	var out Faults
	fields := fieldsOf(m, s)
	known := map[string]bool{}
	for _, f := range fields {
		known[f.name] = true
		v, there := m[f.name]
		switch {
		case there:
			out = append(out, check(v, f.shape, path+"."+f.name)...)
		case f.required:
			out = append(out, Fault{Path: path + "." + f.name, Code: "fault.missing"})
		}
	}
	keys := make([]string, 0, len(m))
	for k := range m {
		keys = append(keys, k)
	}
	slices.Sort(keys)
	for _, k := range keys {
		switch {
		case s.kind == kMap:
			out = append(out, check(m[k], *s.item, path+"."+k)...)
		case !known[k]:
			out = append(out, Fault{Path: path + "." + k, Code: "fault.unknown"})
		}
	}
	return out
}

// fieldsOf lists the fields an object may have, by its own "kind" where that chooses. An unknown
// kind is reported once; its other fields are then held against every variant.
func fieldsOf(m map[string]any, s Shape) []Field {
	if s.variants == nil {
		return s.fields
	}
	k, _ := m["kind"].(string)
	if v, ok := s.variants[k]; ok {
		return append(slices.Clone(s.fields), v...)
	}
	out := slices.Clone(s.fields)
	for _, v := range s.variants {
		for _, f := range v {
			f.required = false
			out = append(out, f)
		}
	}
	return out
}

// prune keeps what fits the Shape, so that the rest can still be looked at after a fault.
func prune(v any, s Shape) any {
	switch s.kind {
	case kObject:
		m, ok := v.(map[string]any)
		if !ok {
			return nil
		}
		out := map[string]any{}
		for _, f := range fieldsOf(m, s) {
			if x, there := m[f.name]; there {
				if p := prune(x, f.shape); p != nil {
					out[f.name] = p
				}
			}
		}
		return out
	case kList:
		l, ok := v.([]any)
		if !ok {
			return nil
		}
		out := []any{}
		for _, x := range within(l, s) {
			// A place is kept for what could not be read: indexes in paths must stay true.
			out = append(out, prune(x, *s.item))
		}
		return out
	}
	if len(check(v, s, "")) > 0 {
		return nil
	}
	return v
}

// Error makes a single fault an error of its own.
func (f Fault) Error() string { return f.String() }
