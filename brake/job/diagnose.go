package job

import (
	"context"
	"encoding/json"
	"slices"

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
	// Values are those of a list that this vehicle can show, by finding: the rest is not asked.
	Values map[string][]string `json:"values"`
	// LeftOut are findings that do not belong to the system as it now stands.
	LeftOut []string       `json:"left_out"`
	Costs   diagnose.Costs `json:"costs"`
	// Teardown judges the old unit once it was opened.
	Teardown *diagnose.Teardown `json:"teardown"`
	// Suspects are the faults likely enough to be looked at on the twin, at most four.
	Suspects []Suspect `json:"suspects"`
	// First are the signs asked about first, Signs all that this system can show,
	// the most telling first.
	First []string `json:"first"`
	Signs []string `json:"signs"`
}

// Suspect is a fault at a place.
type Suspect struct {
	ID string `json:"id"`
	At string `json:"at,omitempty"`
}

// suspectLeast is how likely a fault must be to be shown on the twin, and suspectsMost how many are. Assumptions.
const (
	suspectLeast = 0.03
	suspectsMost = 4
)

// DiagnoseIn asks what would stand without some of the findings; nothing of it is stored.
type DiagnoseIn struct {
	Without []string `json:"without"`
}

// Diagnose runs the engine on what is known.
func (j *Job) Diagnose(ctx context.Context) (*DiagnoseView, error) {
	return j.DiagnoseWithout(ctx, nil)
}

// DiagnoseWithout runs the engine as if the findings named had not been entered.
func (j *Job) DiagnoseWithout(ctx context.Context, without []string) (*DiagnoseView, error) {
	c, leftOut := j.caseAndLeftOut()
	c.Findings = slices.DeleteFunc(c.Findings, func(f diagnose.Finding) bool { return slices.Contains(without, f.ID) })
	costs := j.Costs()
	if err := ctx.Err(); err != nil {
		return nil, err
	}
	r, err := diagnose.Run(c, costs)
	if err != nil {
		return nil, err
	}
	v := &DiagnoseView{
		Result:   *r,
		Values:   map[string][]string{},
		Count:    len(c.Findings),
		LeftOut:  leftOut,
		Costs:    costs,
		Teardown: diagnose.TeardownOf(c.Findings),
	}
	v.First, v.Suspects = diagnose.FirstSigns(c.System), []Suspect{}
	for _, f := range r.Faults {
		if f.Probability > suspectLeast && len(v.Suspects) < suspectsMost {
			v.Suspects = append(v.Suspects, Suspect{f.ID, f.At})
		}
	}
	for _, k := range diagnose.Kinds() {
		if diagnose.SignShows(c.System, k.ID) {
			v.Signs = append(v.Signs, k.ID)
			if list := diagnose.ValuesOf(c.System, k.Values); len(list) < len(k.Values) {
				v.Values[k.ID] = list
			}
		}
	}
	v.Signs = diagnose.Telling(v.Signs, v.Result.Faults)
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

// MeasureIn is a guided test's figures by input; "mpa:A" is one of each circuit.
type MeasureIn struct {
	Test   string             `json:"test"`
	Values map[string]float64 `json:"values"`
}

// Measure computes a guided test on this job's system. Nothing is stored: the findings it comes to are
// appended as any other.
func (j *Job) Measure(in MeasureIn) (*diagnose.Measured, error) {
	m, err := diagnose.Measure(j.Intake.System, in.Test, in.Values)
	if err != nil {
		return nil, err
	}
	return m, nil
}
