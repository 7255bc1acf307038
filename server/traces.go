package server

import (
	"bytes"
	"cmp"
	"context"
	"crypto/sha256"
	"encoding/json"
	"errors"
	"fmt"
	"maps"
	"net/http"
	"slices"
	"time"

	"geminate/brake/job"
	"geminate/brake/system"
	"geminate/brake/trace"
	"geminate/store"
)

// A trace is cut out of what a job's instruments told, and read by the core.

// TraceIn asks for what a job's instruments drew in the last seconds.
type TraceIn struct {
	Finding string  `json:"finding"` // one of those that can be drawn
	Seconds float64 `json:"seconds"`
}

// cutTrace answers it, thinned, with what the core made of it.
func (s *server) cutTrace(c *call, in TraceIn) (job.Traced, error) {
	out := job.Traced{}
	if !(in.Seconds >= 1 && in.Seconds <= 110) {
		return out, system.Faults{{Path: "$.seconds", Code: "fault.range", With: map[string]any{"value": in.Seconds, "min": 1, "max": 110}}}
	}
	to := time.Now().UTC()
	from := to.Add(-time.Duration(in.Seconds * float64(time.Second)))
	here, err := s.hereBetween(c.Context(), c.jobID(), from, to)
	if err != nil {
		return out, err
	}
	series := map[trace.Kind]trace.Series{}
	out.Finding, out.Seconds = in.Finding, in.Seconds
	for _, x := range here {
		readings := s.feeds.of(x.instrument.ID).Between(x.from, x.to)
		if len(readings) < 2 {
			continue
		}
		shift := x.from.Sub(from).Seconds()
		for i := range readings {
			readings[i].S += shift
		}
		series[x.instrument.Kind] = readings
		out.Channels = append(out.Channels, job.Channel{Of: measuredBy(&x.instrument), Buckets: readings.Thin(job.BucketsMost)})
	}
	if len(out.Channels) == 0 {
		return out, refuse(http.StatusConflict, Problem{Code: "problem.no_readings"})
	}
	j, err := s.Store.Job(c.Context(), c.jobID())
	if err != nil {
		return out, err
	}
	came, err := j.ReadTrace(in.Finding, series)
	var refused *trace.Refused
	switch {
	case errors.As(err, &refused):
		return out, refused.At("$.trace")
	case err != nil:
		return out, refuse(http.StatusConflict, Problem{Code: "problem.trace_short", Detail: err.Error()})
	}
	out.Came, out.Slope = &came, came.Slope
	sum, err := sumOf(&out)
	if err != nil {
		return out, err
	}
	return out, s.Store.KeepCut(c.Context(), c.jobID(), sum)
}

// measuredBy names an instrument as the shop knows it.
func measuredBy(i *store.Instrument) job.Measured {
	return job.Measured{ID: i.ID, Name: i.Name, Kind: i.Kind, HoldsUntil: i.HoldsUntil}
}

// atHand is an instrument at a job over a stretch of time.
type atHand struct {
	instrument store.Instrument
	from, to   time.Time
}

// hereBetween are the instruments that were at a job in a stretch of time, one of each kind: of two the one that came
// last speaks. What one told before it came, or after it left, was of another vehicle.
func (s *server) hereBetween(ctx context.Context, jobID string, from, to time.Time) ([]atHand, error) {
	stays, err := s.Store.StaysAt(ctx, jobID, from, to)
	if err != nil {
		return nil, err
	}
	all, err := s.Store.Instruments(ctx)
	if err != nil {
		return nil, err
	}
	by := map[trace.Kind]atHand{}
	for _, x := range stays {
		i := slices.IndexFunc(all, func(i store.Instrument) bool { return i.ID == x.InstrumentID })
		if i < 0 {
			continue
		}
		h := atHand{instrument: all[i], from: from, to: to}
		if x.FromAt.After(from) {
			h.from = x.FromAt
		}
		if x.ToAt != nil && x.ToAt.Before(to) {
			h.to = *x.ToAt
		}
		if was, two := by[all[i].Kind]; two && was.instrument.ID != all[i].ID && was.to.After(h.from) &&
			was.to.Sub(was.from) > h.to.Sub(h.from) &&
			x.ToAt != nil {
			continue // it was there for a moment only
		}
		by[all[i].Kind] = h
	}
	out := slices.Collect(maps.Values(by))
	slices.SortFunc(out, func(a, b atHand) int { return cmp.Compare(a.instrument.Kind, b.instrument.Kind) })
	return out, nil
}

// sumOf is the sum of what a trace holds.
func sumOf(t *job.Traced) (string, error) {
	raw, err := json.Marshal(t)
	if err != nil {
		return "", err
	}
	return fmt.Sprintf("%x", sha256.Sum256(raw)), nil
}

// sources holds what is told with an instrument's name against what this shop's server knows: a trace is one that it
// cut, and kind, name and calibration are its own. One nobody knows is taken out: the figure counts as typed.
func (s *server) sources(c *call, events []job.In) error {
	for i := range events {
		e := &events[i]
		if e.Kind == job.KindTrace {
			var t job.Traced
			if json.Unmarshal(e.Data, &t) != nil {
				continue // the core says why
			}
			sum, err := sumOf(&t)
			if err != nil {
				return err
			}
			known, err := s.Store.CutKnown(c.Context(), c.jobID(), sum)
			if err != nil {
				return err
			}
			if !known {
				return system.Faults{{Path: "$.data", Code: "fault.trace_unknown"}}
			}
			continue
		}
		if !bytes.Contains(e.Data, []byte(`"measured"`)) && !bytes.Contains(e.Data, []byte(`"weighed"`)) {
			continue
		}
		if err := s.sourced(c.Context(), e); err != nil {
			return err
		}
	}
	return nil
}

// sourced puts the shop's own words of an instrument into what one event says of it.
func (s *server) sourced(ctx context.Context, e *job.In) error {
	var body map[string]json.RawMessage
	if json.Unmarshal(e.Data, &body) != nil {
		return nil
	}
	put := func(in map[string]json.RawMessage, field string) error {
		var m job.Measured
		if in[field] == nil || json.Unmarshal(in[field], &m) != nil || m.ID == "" {
			return nil
		}
		i, err := s.Store.InstrumentOf(ctx, m.ID)
		if errors.Is(err, store.ErrNotFound) {
			delete(in, field)
			return nil
		}
		if err != nil {
			return err
		}
		own := measuredBy(i)
		own.Trace, own.WillDo = m.Trace, m.WillDo
		raw, err := json.Marshal(own)
		in[field] = raw
		return err
	}
	if err := put(body, "measured"); err != nil {
		return err
	}
	var weighed map[string]json.RawMessage
	if body["weighed"] != nil && json.Unmarshal(body["weighed"], &weighed) == nil && weighed != nil {
		if err := put(weighed, "by"); err != nil {
			return err
		}
		raw, err := json.Marshal(weighed)
		if err != nil {
			return err
		}
		if body["weighed"] = raw; weighed["by"] == nil { // weighed by nothing is not weighed
			delete(body, "weighed")
		}
	}
	raw, err := json.Marshal(body)
	e.Data = raw
	return err
}
