package server

import (
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"slices"
	"sync"
	"time"

	"github.com/google/uuid"

	"geminate/brake/catalogue"
	"geminate/brake/match"
	"geminate/brake/system"
	"geminate/instrument"
	"geminate/store"
)

// SearchIn is a search of the catalogue by what was measured.
type SearchIn struct {
	Kind              string   `json:"kind,omitempty"`
	BoreMM            *float64 `json:"bore_mm,omitempty"`
	StudSpacingMM     *float64 `json:"stud_spacing_mm,omitempty"`
	PocketMM          *float64 `json:"pocket_mm,omitempty"`
	ShellMM           *float64 `json:"shell_mm,omitempty"`
	FirewallSpacingMM *float64 `json:"firewall_spacing_mm,omitempty"`
	WithinMM          float64  `json:"within_mm"`
	Text              string   `json:"text,omitempty"`
}

// SearchOut is what was found, the nearest first.
type SearchOut struct {
	Units []match.Unit `json:"units"`
	All   int64        `json:"all"` // in the catalogue
	// Shelved are the ids among them that stand on the shop's own shelf.
	Shelved []string `json:"shelved"`
}

// most units a search gives.
const searchLimit = 30

func (s *server) search(c *call, in SearchIn) (SearchOut, error) {
	if !(in.WithinMM >= 0 && in.WithinMM <= 50) {
		return SearchOut{}, system.Faults{
			{Path: "$.within_mm", Code: "fault.range", With: map[string]any{"value": in.WithinMM, "min": 0, "max": 50}},
		}
	}
	units, err := s.Store.Search(
		c.Context(),
		store.Query{Kind: in.Kind, BoreMM: in.BoreMM, StudSpacingMM: in.StudSpacingMM, PocketMM: in.PocketMM, ShellMM: in.ShellMM,
			FirewallSpacingMM: in.FirewallSpacingMM, WithinMM: in.WithinMM, Text: in.Text, Limit: searchLimit},
	)
	if err != nil {
		return SearchOut{}, err
	}
	out := SearchOut{Units: units, Shelved: []string{}}
	shelf, err := s.Store.Shelf(c.Context())
	if err != nil {
		return SearchOut{}, err
	}
	for i := range shelf {
		if slices.ContainsFunc(units, func(u match.Unit) bool { return u.ID == shelf[i].ID }) {
			out.Shelved = append(out.Shelved, shelf[i].ID)
		}
	}
	out.All, err = s.Store.CountUnits(c.Context())
	return out, err
}

// ShelfIn takes a unit onto the shop's shelf, or off it.
type ShelfIn struct {
	ID string `json:"id"`
	On bool   `json:"on"`
}

func (s *server) setShelf(c *call, in ShelfIn) (ShelfIn, error) {
	if err := s.Store.SetShelf(c.Context(), in.ID, in.On); err != nil {
		return in, err
	}
	s.audit(c, "shelf", "", in)
	return in, nil
}

// ImportIn is a file of units, CSV or JSON.
type ImportIn struct {
	Name    string `json:"name"`
	Content string `json:"content"`
}

// ImportView is how far an import is, and every bad row where it was refused.
type ImportView struct {
	ID       string               `json:"id"`
	Name     string               `json:"name"`
	State    string               `json:"state"`
	Done     int                  `json:"done"`
	Total    int                  `json:"total"`
	Problems []catalogue.RowFault `json:"problems"`
}

func importView(i *store.Import) (ImportView, error) {
	v := ImportView{ID: i.ID, Name: i.Name, State: i.State, Done: i.Done, Total: i.Total, Problems: []catalogue.RowFault{}}
	// One that its server did not live to finish took nothing: its transaction went with it.
	if v.State == store.ImportRunning && time.Since(i.UpdatedAt) > 2*time.Minute {
		v.State = store.ImportFailed
	}
	if i.Problems == "" {
		return v, nil
	}
	return v, json.Unmarshal([]byte(i.Problems), &v.Problems)
}

// imports counts those running, so that the server can wait for them when it stops.
var imports sync.WaitGroup

// WaitForImports waits until no import is under way.
func WaitForImports() { imports.Wait() }

func (s *server) importUnits(c *call, in ImportIn) (ImportView, error) {
	name := []rune(in.Name)
	i := &store.Import{
		ID:        uuid.NewString(),
		Name:      string(name[:min(len(name), 200)]),
		State:     store.ImportRunning,
		ByName:    c.user.Display,
		CreatedAt: time.Now().UTC(),
		UpdatedAt: time.Now().UTC(),
	}
	if err := s.Store.AddImport(c.Context(), i); err != nil {
		return ImportView{}, err
	}
	s.audit(c, "import_units", "", map[string]any{"name": i.Name, "import": i.ID, "bytes": len(in.Content)})
	content := bytes.Clone([]byte(in.Content))
	imports.Add(1)
	go func() {
		defer imports.Done()
		s.runImport(i.ID, content)
	}()
	return importView(i)
}

// runImport reads all of a file before anything of it is stored.
func (s *server) runImport(id string, content []byte) {
	ctx := context.Background() // the request is over long before
	set := func(change map[string]any) {
		if err := s.Store.UpdateImport(ctx, id, change); err != nil {
			s.Log.Error("import", "id", id, "error", err)
		}
	}
	// Outside any request no one else would catch it: a file must not take the shop down.
	defer func() {
		if p := recover(); p != nil {
			s.Log.Error("import", "id", id, "panic", p)
			set(map[string]any{"state": store.ImportFailed, "done": 0})
		}
	}()
	units, err := catalogue.Read(content)
	var bad *catalogue.Error
	if errors.As(err, &bad) {
		problems, _ := json.Marshal(bad.Rows)
		set(map[string]any{"state": store.ImportRefused, "problems": string(problems)})
		return
	}
	set(map[string]any{"total": len(units)})
	last := time.Time{}
	err = s.Store.ImportUnits(ctx, units, func(done int) error {
		if time.Since(last) > 200*time.Millisecond {
			last = time.Now()
			set(map[string]any{"done": done})
		}
		return nil
	})
	if err != nil {
		s.Log.Error("import", "id", id, "error", err)
		set(map[string]any{"state": store.ImportFailed, "done": 0})
		return
	}
	set(map[string]any{"state": store.ImportDone, "done": len(units)})
}

func (s *server) importState(c *call, _ none) (ImportView, error) {
	i, err := s.Store.ImportByID(c.Context(), c.jobID())
	if err != nil {
		return ImportView{}, err
	}
	return importView(i)
}

func (s *server) exportCSV(c *call, _ none) (file, error) {
	var all []match.Unit
	err := s.Store.Catalogue(c.Context(), func(u []match.Unit) error { all = append(all, u...); return nil })
	if err != nil {
		return file{}, err
	}
	var b bytes.Buffer
	if err := catalogue.WriteCSV(&b, all); err != nil {
		return file{}, err
	}
	return file{"units.csv", b.Bytes()}, nil
}

// CounterIn asks the parts counter.
type CounterIn struct {
	Number string `json:"number"`
}

// CounterOut is the counter's answer, or that it gave none.
type CounterOut struct {
	State string            `json:"state"` // ok, silent, none (no counter is connected)
	Offer *instrument.Offer `json:"offer"`
}

func (s *server) counter(c *call, in CounterIn) (CounterOut, error) {
	if s.Counter == "" {
		return CounterOut{State: "none"}, nil
	}
	if in.Number == "" || len(in.Number) > 120 {
		return CounterOut{}, system.Faults{{Path: "$.number", Code: "fault.missing"}}
	}
	o, err := instrument.Ask(c.Context(), s.Counter, in.Number)
	if err != nil {
		return CounterOut{State: "silent"}, nil
	}
	return CounterOut{State: "ok", Offer: o}, nil
}

// BoreIn is a stamp as read off a unit, a thread as measured, or both.
type BoreIn struct {
	Stamp      string  `json:"stamp,omitempty"`
	DiameterMM float64 `json:"diameter_mm,omitempty"`
	PitchMM    float64 `json:"pitch_mm,omitempty"` // 0: not gauged
}

// BoreOut is what they stand for.
type BoreOut struct {
	Bore    *match.Bore        `json:"bore"`
	Threads []match.NearThread `json:"threads"`
}

func (s *server) readBore(_ *call, in BoreIn) (BoreOut, error) {
	out := BoreOut{Threads: []match.NearThread{}}
	told := func(path string, err error) error {
		return system.Faults{{Path: path, Code: "fault.detail", With: map[string]any{"detail": err.Error()}}}
	}
	if in.Stamp != "" {
		b, err := match.ReadBore(in.Stamp)
		if err != nil {
			return out, told("$.stamp", err)
		}
		out.Bore = &b
	}
	if in.DiameterMM != 0 {
		t, err := match.NameThread(in.DiameterMM, in.PitchMM)
		if err != nil {
			return out, told("$.diameter_mm", err)
		}
		out.Threads = t
	}
	return out, nil
}
