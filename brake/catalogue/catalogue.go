// Package catalogue reads and writes units as open tables: the CSV and the JSON of geminate.units/1. Every
// bad row is told with its line and reason, and nothing of a file with a bad row is taken.
package catalogue

import (
	"bytes"
	"encoding/csv"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"slices"
	"strconv"
	"strings"

	"geminate/brake/match"
	"geminate/brake/system"
)

// Format is the "format" of a JSON file of units.
const Format = "geminate.units/1"

// MaxBytes and MaxRows are the largest file taken.
const (
	MaxBytes = 64 << 20
	MaxRows  = 200_000
)

// RowFault is one bad row.
type RowFault struct {
	Line int          `json:"line"` // of the file, from 1; in JSON the unit's place in the list
	ID   string       `json:"id,omitempty"`
	What system.Fault `json:"what"`
}

// Error tells every bad row of a file.
type Error struct{ Rows []RowFault }

func (e *Error) Error() string {
	lines := []string{}
	for _, r := range e.Rows {
		lines = append(lines, fmt.Sprintf("line %d %s: %s", r.Line, r.ID, r.What))
	}
	return strings.Join(lines, "\n")
}

// Read takes a file of either format, told apart by its first character.
func Read(data []byte) ([]match.Unit, error) {
	if len(data) > MaxBytes {
		return nil, &Error{
			[]RowFault{{Line: 1, What: system.Fault{Path: "$", Code: "fault.too_large", With: map[string]any{"max_bytes": MaxBytes}}}},
		}
	}
	data = bytes.TrimPrefix(data, []byte("\xef\xbb\xbf"))
	if t := bytes.TrimLeft(data, " \t\r\n"); len(t) > 0 && (t[0] == '{' || t[0] == '[') {
		return readJSON(data)
	}
	return readCSV(data)
}

// file is the JSON document.
type file struct {
	Format string       `json:"format"`
	Units  []match.Unit `json:"units"`
}

func readJSON(data []byte) ([]match.Unit, error) {
	var doc struct {
		Format string            `json:"format"`
		Units  []json.RawMessage `json:"units"`
	}
	whole := func(code string, with map[string]any) error {
		return &Error{[]RowFault{{Line: 1, What: system.Fault{Path: "$", Code: code, With: with}}}}
	}
	d := json.NewDecoder(bytes.NewReader(data))
	d.DisallowUnknownFields()
	if err := d.Decode(&doc); err != nil {
		return nil, whole("fault.syntax",
			map[string]any{"line": 1 + bytes.Count(data[:min(int(d.InputOffset()), len(data))], []byte("\n")), "detail": err.Error()})
	}
	if doc.Format != Format {
		return nil, whole("fault.enum", map[string]any{"value": doc.Format, "allowed": Format})
	}
	c := collector{seen: map[string]int{}}
	for i, raw := range doc.Units {
		var u match.Unit
		d := json.NewDecoder(bytes.NewReader(raw))
		d.DisallowUnknownFields()
		if err := d.Decode(&u); err != nil {
			c.fault(i+1, u.ID, system.Fault{Path: "$", Code: "fault.syntax", With: map[string]any{"line": i + 1, "detail": err.Error()}})
			continue
		}
		c.add(i+1, u)
	}
	return c.result()
}

// collector holds rows against the rules that reach across them.
type collector struct {
	units []match.Unit
	bad   []RowFault
	seen  map[string]int
}

// mostFaults is as many as are told: past it the file is simply not such a file.
const mostFaults = 2000

func (c *collector) fault(line int, id string, f system.Fault) {
	if len(c.bad) < mostFaults {
		c.bad = append(c.bad, RowFault{line, id, f})
	}
}

func (c *collector) add(line int, u match.Unit) {
	before := len(c.bad)
	if strings.TrimSpace(u.ID) == "" || len(u.ID) > 64 {
		c.fault(line, u.ID, system.Fault{Path: "$.id", Code: "fault.missing"})
	} else if first, twice := c.seen[u.ID]; twice {
		c.fault(line, u.ID, system.Fault{Path: "$.id", Code: "fault.row_twice", With: map[string]any{"line": first}})
	} else {
		c.seen[u.ID] = line
	}
	for _, f := range match.CheckUnit(&u) {
		c.fault(line, u.ID, f)
	}
	if len(c.seen) > MaxRows {
		c.fault(line, u.ID,
			system.Fault{Path: "$", Code: "fault.count", With: map[string]any{"value": len(c.seen), "min": 1, "max": MaxRows}})
	}
	if len(c.bad) == before {
		if u.Ports == nil {
			u.Ports = []match.Port{}
		}
		if u.Contents == nil {
			u.Contents = []string{}
		}
		c.units = append(c.units, u)
	}
}

func (c *collector) result() ([]match.Unit, error) {
	if len(c.bad) > 0 {
		return nil, &Error{c.bad}
	}
	return c.units, nil
}

func readCSV(data []byte) ([]match.Unit, error) {
	r := csv.NewReader(bytes.NewReader(data))
	r.FieldsPerRecord = -1
	c := collector{seen: map[string]int{}}
	head, err := r.Read()
	if err != nil {
		return nil, &Error{[]RowFault{{Line: 1, What: system.Fault{Path: "$", Code: "fault.no_header"}}}}
	}
	columns := make([]*column, len(head))
	for i, name := range head {
		name = strings.ToLower(strings.TrimSpace(name))
		if columns[i] = findColumn(name); columns[i] == nil {
			c.fault(1, "", system.Fault{Path: "$." + name, Code: "fault.unknown"})
		}
	}
	if !slices.ContainsFunc(columns, func(k *column) bool { return k != nil && k.name == "id" }) {
		c.fault(1, "", system.Fault{Path: "$.id", Code: "fault.missing"})
	}
	if len(c.bad) > 0 {
		return nil, &Error{c.bad}
	}
	for {
		row, err := r.Read()
		if errors.Is(err, io.EOF) {
			return c.result()
		}
		if err != nil {
			line := 0
			if bad := (*csv.ParseError)(nil); errors.As(err, &bad) {
				line = bad.Line
			}
			c.fault(line, "", system.Fault{Path: "$", Code: "fault.syntax", With: map[string]any{"line": line, "detail": err.Error()}})
			continue
		}
		line, _ := r.FieldPos(0)
		if len(row) != len(columns) {
			c.fault(line, row[0],
				system.Fault{Path: "$", Code: "fault.columns", With: map[string]any{"value": len(row), "want": len(columns)}})
			continue
		}
		u := match.Unit{}
		bad := false
		for i, k := range columns {
			cell := unharmed(strings.TrimSpace(row[i]))
			if cell == "" {
				continue
			}
			if err := k.set(&u, cell); err != nil {
				bad = true
				c.fault(line, u.ID,
					system.Fault{Path: "$." + k.name, Code: "fault.cell", With: map[string]any{"value": cell, "detail": err.Error()}})
			}
		}
		if !bad {
			c.add(line, u)
		}
	}
}

// WriteCSV writes units as a table that Read takes again without loss.
func WriteCSV(w io.Writer, units []match.Unit) error {
	out := csv.NewWriter(w)
	row := make([]string, len(columns))
	for i, k := range columns {
		row[i] = k.name
	}
	if err := out.Write(row); err != nil {
		return fmt.Errorf("catalogue: writing: %w", err)
	}
	for i := range units {
		for k, c := range columns {
			row[k] = harmless(c.get(&units[i]))
		}
		if err := out.Write(row); err != nil {
			return fmt.Errorf("catalogue: writing: %w", err)
		}
	}
	out.Flush()
	return out.Error()
}

// harmless keeps a table program from taking a cell for a formula (a maker may be named "=cmd…"): such a cell
// begins with an apostrophe, which reading takes off again. A plain number is none.
func harmless(cell string) string {
	if _, err := strconv.ParseFloat(cell, 64); err == nil || !strings.ContainsAny(first(cell), "=+-@\t\r'") {
		return cell
	}
	return "'" + cell
}

// unharmed is the cell as it was meant.
func unharmed(cell string) string {
	if strings.HasPrefix(cell, "'") && strings.ContainsAny(first(cell[1:]), "=+-@\t\r'") {
		return cell[1:]
	}
	return cell
}

func first(s string) string { return s[:min(len(s), 1)] }

func number(x *float64) string {
	if x == nil {
		return ""
	}
	return strconv.FormatFloat(*x, 'f', -1, 64)
}
