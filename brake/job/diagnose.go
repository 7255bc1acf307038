package job

import (
	"encoding/json"

	"geminate/brake/diagnose"
	"geminate/brake/twin"
)

// SinkView is a measured sink turned into a flow.
type SinkView struct {
	MMPerS    float64 `json:"mm_per_s"`
	CM3PerMin float64 `json:"cm3_per_min"`
	CM3Held   float64 `json:"cm3_during_hold"` // what a leak outside would have left on the floor
}

// DiagnoseView is the Diagnose station.
type DiagnoseView struct {
	Result diagnose.Result `json:"result"`
	Sink   *SinkView       `json:"sink"`
	Count  int             `json:"findings_count"`
	// LeftOut are findings that do not belong to the system as it now stands.
	LeftOut []string `json:"left_out"`
}

// Diagnose runs the engine on what is known.
func (j *Job) Diagnose() (*DiagnoseView, error) {
	costs := diagnose.DefaultCosts()
	if j.Choices.Costs != nil && j.Choices.Costs.PerMinute > 0 {
		costs.PerMinute = j.Choices.Costs.PerMinute
	}
	c, leftOut := j.caseAndLeftOut()
	r, err := diagnose.Run(c, costs)
	if err != nil {
		return nil, err
	}
	v := &DiagnoseView{Result: *r, Count: len(c.Findings), LeftOut: leftOut}
	for _, f := range c.Findings {
		var sink diagnose.Sink
		if f.ID == "pedal.sink" && json.Unmarshal(f.Value, &sink) == nil {
			if q, perMin, err := twin.New(c.System).LeakFromSink(sink.TravelMM, sink.Seconds); err == nil {
				v.Sink = &SinkView{MMPerS: sink.TravelMM / sink.Seconds, CM3PerMin: perMin, CM3Held: q * sink.Seconds / 1000}
			}
		}
	}
	return v, nil
}
