package server

import (
	"math"
	"net/http"
	"time"

	"geminate/brake/job"
	"geminate/brake/system"
	"geminate/brake/trace"
)

// A trace is cut out of what a job's instruments told, and read by the core.

// TraceIn asks for what a job's instruments drew in the last seconds.
type TraceIn struct {
	Finding string  `json:"finding"` // pedal.sink, pedal.readings
	Seconds float64 `json:"seconds"`
}

// TraceOut is it, thinned, with what the core made of it.
type TraceOut struct {
	job.Traced
	// Sink is of a hold: mm over its seconds with its interval; Curve of a slow apply.
	Sink  *SinkOut      `json:"sink,omitempty"`
	Curve []trace.Point `json:"curve,omitempty"`
	// ForceN is the mean force held, where force was measured.
	ForceN float64 `json:"force_n,omitempty"`
}

// SinkOut is how far a held pedal sank.
type SinkOut struct {
	MM      float64 `json:"mm"`
	LowMM   float64 `json:"low_mm"`
	HighMM  float64 `json:"high_mm"`
	Seconds float64 `json:"seconds"`
}

// curveBandN is the width of the bands of force a curve is read in.
const curveBandN = 20

func (s *server) cutTrace(c *call, in TraceIn) (TraceOut, error) {
	out := TraceOut{}
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
	if f := series[trace.Force]; len(f) > 0 {
		sum := 0.0
		for _, p := range f {
			sum += p.V
		}
		out.ForceN = math.Round(sum / float64(len(f)))
	}
	if in.Finding == "pedal.readings" {
		out.Curve, err = trace.Curve(series[trace.Force], series[trace.Travel], curveBandN)
	} else {
		var slope trace.Slope
		if slope, err = trace.Sink(series[trace.Travel]); err == nil {
			mm, low, high := slope.SinkMM(slope.Seconds)
			out.Slope = &slope
			out.Sink = &SinkOut{math.Round(10*mm) / 10, math.Round(10*low) / 10, math.Round(10*high) / 10, math.Round(slope.Seconds)}
		}
	}
	if err != nil {
		return out, refuse(http.StatusConflict, Problem{Code: "problem.trace_short", Detail: err.Error()})
	}
	return out, nil
}
