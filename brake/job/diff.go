package job

import (
	"bytes"
	"encoding/json"
	"fmt"
	"slices"
	"strconv"
	"strings"
)

// Change is one field of a document before and after. Path is a JSON Pointer (RFC 6901); an absent value is a
// field that was not there, or is no longer.
type Change struct {
	Path string          `json:"path"`
	From json.RawMessage `json:"from,omitempty"`
	To   json.RawMessage `json:"to,omitempty"`
}

const mostChanges = 2000 // fields of a whole system, twice over

func validChanges(changes []Change) error {
	if len(changes) == 0 || len(changes) > mostChanges {
		return fault("$.data.changes", "fault.count", map[string]any{"value": len(changes), "min": 1, "max": mostChanges})
	}
	for _, c := range changes {
		if !strings.HasPrefix(c.Path, "/") || len(c.Path) > 300 {
			return fault("$.data.changes", "fault.detail", map[string]any{"detail": "a path is a JSON Pointer"})
		}
	}
	return nil
}

// tree is a document as plain values.
func tree(doc any) (any, error) {
	raw, err := json.Marshal(doc)
	if err != nil {
		return nil, err
	}
	var out any
	d := json.NewDecoder(bytes.NewReader(raw))
	d.UseNumber()
	return out, d.Decode(&out)
}

// differences lists what to change in a to come to b, field by field; lists of one length are compared item by
// item, others as a whole.
func differences(a, b any) ([]Change, error) {
	ta, err := tree(a)
	if err != nil {
		return nil, err
	}
	tb, err := tree(b)
	if err != nil {
		return nil, err
	}
	var out []Change
	diff("", ta, tb, true, true, &out)
	return out, nil
}

var pointerEscape = strings.NewReplacer("~", "~0", "/", "~1")
var pointerUnescape = strings.NewReplacer("~1", "/", "~0", "~")

func diff(path string, a, b any, hasA, hasB bool, out *[]Change) {
	if ma, ok := a.(map[string]any); ok {
		if mb, ok := b.(map[string]any); ok {
			keys := sortedKeys(ma)
			for k := range mb {
				if _, there := ma[k]; !there {
					keys = append(keys, k)
				}
			}
			slices.Sort(keys)
			for _, k := range keys {
				va, inA := ma[k]
				vb, inB := mb[k]
				diff(path+"/"+pointerEscape.Replace(k), va, vb, inA, inB, out)
			}
			return
		}
	}
	if la, ok := a.([]any); ok {
		if lb, ok := b.([]any); ok && len(la) == len(lb) {
			for i := range la {
				diff(path+"/"+strconv.Itoa(i), la[i], lb[i], true, true, out)
			}
			return
		}
	}
	ra, rb := rawOf(a, hasA), rawOf(b, hasB)
	if !bytes.Equal(ra, rb) {
		*out = append(*out, Change{Path: path, From: ra, To: rb})
	}
}

func rawOf(v any, there bool) json.RawMessage {
	if !there {
		return nil
	}
	raw, _ := json.Marshal(v) // plain values always have JSON
	return raw
}

// patched is a document with changes made to it.
func patched[T any](doc T, changes []Change) (T, error) {
	var out T
	t, err := tree(doc)
	if err != nil {
		return out, err
	}
	for _, c := range changes {
		if t, err = put(t, strings.Split(c.Path, "/")[1:], c.To); err != nil {
			return out, fmt.Errorf("job: change at %s: %w", c.Path, err)
		}
	}
	raw, err := json.Marshal(t)
	if err != nil {
		return out, err
	}
	return out, json.Unmarshal(raw, &out)
}

// put sets one field of a tree; nil takes it out. A place on the way that is not there is made.
func put(t any, keys []string, value json.RawMessage) (any, error) {
	if len(keys) == 0 {
		var v any
		d := json.NewDecoder(bytes.NewReader(value))
		d.UseNumber()
		return v, d.Decode(&v)
	}
	key := pointerUnescape.Replace(keys[0])
	switch at := t.(type) {
	case []any:
		i, err := strconv.Atoi(key)
		if err != nil || i < 0 || i >= len(at) {
			return nil, fmt.Errorf("no item %q", key)
		}
		v, err := put(at[i], keys[1:], value)
		at[i] = v
		return at, err
	case map[string]any:
		if len(keys) == 1 && value == nil {
			delete(at, key)
			return at, nil
		}
		v, err := put(at[key], keys[1:], value)
		at[key] = v
		return at, err
	case nil:
		v, err := put(nil, keys[1:], value)
		return map[string]any{key: v}, err
	}
	return nil, fmt.Errorf("%q is not in an object", key)
}

// reversed undoes changes: the last first, each the other way round.
func reversed(changes []Change) []Change {
	out := make([]Change, len(changes))
	for i, c := range changes {
		out[len(changes)-1-i] = Change{Path: c.Path, From: c.To, To: c.From}
	}
	return out
}

// clashes lists the paths of mine that touch what theirs changed otherwise: the same field, or one inside it.
func clashes(mine, theirs []Change) []Clash {
	var out []Clash
	for _, m := range mine {
		for i := len(theirs) - 1; i >= 0; i-- { // the last that touched it is what stands
			t := theirs[i]
			if m.Path == t.Path && bytes.Equal(m.To, t.To) {
				break
			}
			if m.Path == t.Path || strings.HasPrefix(m.Path, t.Path+"/") || strings.HasPrefix(t.Path, m.Path+"/") {
				out = append(out, Clash{m.Path, m.To, t.To})
				break
			}
		}
	}
	return out
}
