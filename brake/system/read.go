package system

import (
	"encoding/json"
	"fmt"
	"io"

	"geminate/brake/strict"
)

// Fault is one thing wrong with an input, Faults all of them.
type (
	Fault  = strict.Fault
	Faults = strict.Faults
)

// MaxBytes is the largest system file the reader looks at.
const MaxBytes = strict.MaxBytes

// Read reads a geminate.system/1 document strictly. On any fault it returns all of them (type
// Faults) and no system: nothing is partly accepted.
func Read(r io.Reader) (*System, error) {
	data, err := io.ReadAll(io.LimitReader(r, MaxBytes+1))
	if err != nil {
		return nil, fmt.Errorf("system: reading: %w", err)
	}
	return Parse(data)
}

// Parse is Read on bytes already in memory.
func Parse(data []byte) (*System, error) {
	in := strict.Read(data, systemShape)
	if in.Tree == nil {
		return nil, in.Faults
	}
	var s System
	if err := json.Unmarshal(in.Clean, &s); err != nil {
		return nil, append(in.Faults, Fault{Path: "$", Code: "fault.detail", With: map[string]any{"detail": err.Error()}})
	}
	root, _ := in.Tree.(map[string]any)
	if faults := append(in.Faults, s.contradictions(root)...); len(faults) > 0 {
		return nil, strict.Dedupe(faults)
	}
	return &s, nil
}
