package server

import (
	"net/http"
	"time"

	"geminate/brake/job"
	"geminate/brake/system"
	"geminate/brake/trace"
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
	list, err := s.attached(c.Context(), c.jobID())
	if err != nil {
		return out, err
	}
	to := time.Now().UTC()
	from := to.Add(-time.Duration(in.Seconds * float64(time.Second)))
	series := map[trace.Kind]trace.Series{}
	out.Finding, out.Seconds = in.Finding, in.Seconds
	for i := range list {
		x := s.feeds.of(list[i].ID).Between(from, to)
		if len(x) < 2 {
			continue
		}
		series[list[i].Kind] = x
		out.Channels = append(out.Channels, job.Channel{Of: job.Measured{ID: list[i].ID, Name: list[i].Name, Kind: list[i].Kind, HoldsUntil: list[i].HoldsUntil}, Buckets: x.Thin(job.BucketsMost)})
	}
	if len(out.Channels) == 0 {
		return out, refuse(http.StatusConflict, Problem{Code: "problem.no_readings"})
	}
	j, err := s.Store.Job(c.Context(), c.jobID())
	if err != nil {
		return out, err
	}
	came, err := j.ReadTrace(in.Finding, series)
	if err != nil {
		return out, refuse(http.StatusConflict, Problem{Code: "problem.trace_short", Detail: err.Error()})
	}
	out.Came, out.Slope = &came, came.Slope
	return out, nil
}
