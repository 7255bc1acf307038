package job

import (
	"slices"
	"time"

	"geminate/brake/trace"
	"geminate/brake/twin"
)

// Measured is what a reading was taken with.
type Measured struct {
	ID         string     `json:"id"`
	Name       string     `json:"name"`
	Kind       trace.Kind `json:"kind"`
	HoldsUntil string     `json:"holds_until,omitempty"` // of its calibration, 2027-03-01; "" where nobody said
	Trace      string     `json:"trace,omitempty"`       // the event that holds what it drew
	// WillDo: its calibration had run out, and whoever read it was asked and said that it will do.
	WillDo bool `json:"will_do,omitempty"`
}

func (m *Measured) valid() error {
	if m == nil {
		return nil
	}
	if _, known := trace.MeasureOf(m.Kind); !known {
		return fault("$.data.measured.kind", "fault.enum", map[string]any{"value": clip(string(m.Kind)), "allowed": trace.KindNames()})
	}
	for path, s := range map[string]string{"$.data.measured.id": m.ID, "$.data.measured.name": m.Name, "$.data.measured.trace": m.Trace} {
		if err := text(path, s, nameMost); err != nil {
			return err
		}
	}
	if m.HoldsUntil != "" {
		if _, err := time.Parse(time.DateOnly, m.HoldsUntil); err != nil {
			return fault("$.data.measured.holds_until", "fault.date", map[string]any{"value": clip(m.HoldsUntil)})
		}
	}
	return nil
}

// ── one finding, one source ──

// traceOf is a trace of the job by its event.
func (j *Job) traceOf(id string) *Trace {
	for i := range j.State.Traces {
		if j.State.Traces[i].ID == id {
			return &j.State.Traces[i]
		}
	}
	return nil
}

// checkSource: what is told with a trace is what the core made of that trace, and the instrument is one of those that
// drew it.
func (f *FindingMade) checkSource(j *Job) error {
	if f.Measured == nil {
		return nil
	}
	if takes, listed := trace.Tells[f.Finding]; listed && !slices.Contains(takes, f.Measured.Kind) {
		return fault("$.data.measured.kind", "fault.measured_kind", map[string]any{"value": string(f.Measured.Kind)})
	}
	if f.Measured.Trace == "" {
		return nil
	}
	t := j.traceOf(f.Measured.Trace)
	switch {
	case t == nil || t.Finding != f.Finding || t.Came == nil:
		return fault("$.data.measured.trace", "fault.no_such_trace", map[string]any{"value": clip(f.Measured.Trace)})
	case !slices.ContainsFunc(t.Channels, func(c Channel) bool { return c.Of.ID == f.Measured.ID }):
		return fault("$.data.measured.id", "fault.measured_else", map[string]any{"value": clip(f.Measured.Name)})
	case t.Came.Under != nil && t.Came.Under.Rises:
		return fault("$.data.value", "fault.trace_rises", nil)
	case !t.Came.Says(f.Finding, f.Value):
		return fault("$.data.value", "fault.trace_says_else", nil)
	}
	return nil
}

// OutOfDate says whether its calibration had run out by a day.
func (m *Measured) OutOfDate(at time.Time) bool {
	return m != nil && m.HoldsUntil != "" && at.UTC().Format(time.DateOnly) > m.HoldsUntil
}

// Channel is one instrument's part of a trace, thinned: its extremes are kept.
type Channel struct {
	Of      Measured       `json:"of"`
	Buckets []trace.Bucket `json:"buckets"`
}

// Traced is what instruments drew for a finding, and what the core made of it.
type Traced struct {
	Finding  string       `json:"finding"`
	Seconds  float64      `json:"seconds"`
	Channels []Channel    `json:"channels"`
	Slope    *trace.Slope `json:"slope,omitempty"`
	Came     *trace.Came  `json:"came,omitempty"`
}

// Trace is a trace of the job.
type Trace struct {
	ID string    `json:"id"` // of its event
	At time.Time `json:"at"`
	By string    `json:"by"`
	Traced
}

const (
	channelsMost = 4
	// BucketsMost are kept of a channel: sixty seconds at fifty readings a second come to some 8 kB.
	BucketsMost = 120
	tracesMost  = 12 // of a job, the last of each finding
)

// Valid implements Body.
func (t *Traced) Valid() error {
	switch {
	case t.Finding == "" || len(t.Finding) > 64:
		return fault("$.data.finding", "fault.missing", nil)
	case len(t.Channels) == 0 || len(t.Channels) > channelsMost:
		return fault("$.data.channels", "fault.count", map[string]any{"value": len(t.Channels), "min": 1, "max": channelsMost})
	}
	if err := inRange("$.data.seconds", t.Seconds, 0, timerMostS); err != nil {
		return err
	}
	if t.Came != nil && len(t.Came.Curve) > BucketsMost {
		return fault("$.data.came.curve", "fault.count", map[string]any{"value": len(t.Came.Curve), "min": 0, "max": BucketsMost})
	}
	for i := range t.Channels {
		c := &t.Channels[i]
		if err := c.Of.valid(); err != nil {
			return err
		}
		if n := len(c.Buckets); n == 0 || n > BucketsMost {
			return fault("$.data.channels.buckets", "fault.count", map[string]any{"value": n, "min": 1, "max": BucketsMost})
		}
		for _, b := range c.Buckets {
			for _, x := range []float64{b.S, b.Min, b.Max, b.Mean} {
				if err := inRange("$.data.channels.buckets", x, -1e6, 1e6); err != nil {
					return err
				}
			}
		}
	}
	return nil
}

// Check implements Body.
func (t *Traced) Check(*Job) error { return nil }

// Apply implements Body: the last of each finding stands.
func (t *Traced) Apply(j *Job, e *Event) {
	list := slices.DeleteFunc(slices.Clone(j.State.Traces), func(x Trace) bool { return x.Finding == t.Finding })
	list = append(list, Trace{e.ID, e.At, e.By.Name, *t})
	j.State.Traces = list[max(0, len(list)-tracesMost):]
}

// pedal is what this vehicle's pedal is known to do: of one with help as with its help.
func (j *Job) pedal() trace.Pedal {
	s := j.Fitted()
	if s == nil || s.Pedal == nil {
		return trace.Pedal{}
	}
	m, helped := twin.New(s), s.Assist().Powered() && !s.Assist().Simulator
	return trace.Pedal{FloorMM: s.Pedal.FloorMM, TravelMM: func(n float64) float64 { return m.Travel(n, helped) }}
}

// ReadTrace says what a trace of this vehicle comes to: as the core reads it, the heights of a pump test over this
// pedal's floor.
func (j *Job) ReadTrace(finding string, by map[trace.Kind]trace.Series) (trace.Came, error) {
	c, err := trace.Read(finding, by, j.pedal())
	if s := j.Fitted(); err == nil && c.Pump != nil && s != nil && s.Pedal != nil {
		over := c.Pump.Over(s.Pedal.FloorMM)
		c.Heights = &over
	}
	return c, err
}
