package job

import (
	"fmt"
	"maps"
	"slices"
	"time"

	"geminate/brake/bench"
	"geminate/brake/stand"
)

// ── strokes ──

// BenchStroked is strokes of the cylinder in the vice, with how it lay and how far it was pushed.
type BenchStroked struct {
	Strokes int `json:"strokes,omitempty"`
	// PushMM is how far the rod went. Jobs from before the two pistons were told apart have StrokeMM, each chamber's
	// own.
	PushMM   *float64 `json:"push_mm,omitempty"`
	StrokeMM *float64 `json:"stroke_mm,omitempty"`
	TiltDeg  *float64 `json:"tilt_deg,omitempty"`
	Fast     *bool    `json:"fast,omitempty"`
}

// Valid implements Body.
func (b *BenchStroked) Valid() error {
	return inRange("$.data.strokes", float64(b.Strokes), 0, mostStrokes)
}

// Check implements Body.
func (b *BenchStroked) Check(*Job) error { return nil }

// CheckAt: so many strokes take their time.
func (b *BenchStroked) CheckAt(j *Job, at time.Time) error {
	return j.checkPace(b.Strokes, j.State.BenchAt, at)
}

// Settle keeps how the cylinder lies now.
func (b *BenchStroked) Settle(j *Job) {
	s := j.Choices.Bench
	b.PushMM, b.StrokeMM, b.TiltDeg, b.Fast = &s.StrokeMM, nil, &s.TiltDeg, &s.Fast
}

func (b *BenchStroked) predate() { b.StrokeMM, b.PushMM = b.PushMM, nil }

// strokes is what each piston did.
func (b *BenchStroked) strokes(j *Job) []bench.Stroke {
	var out []bench.Stroke
	at := func(p *float64) float64 {
		if p == nil {
			return 0
		}
		return *p
	}
	own := j.strokesMM()
	shared := bench.Share(at(b.PushMM), own...)
	for i := range own {
		mm := shared[i]
		if b.PushMM == nil {
			mm = at(b.StrokeMM)
		}
		out = append(out, bench.Stroke{StrokeMM: mm, TiltDeg: at(b.TiltDeg), Fast: b.Fast != nil && *b.Fast})
	}
	return out
}

// Apply implements Body: the air is folded stroke by stroke, each as it was made. Another cylinder begins anew.
func (b *BenchStroked) Apply(j *Job, e *Event) {
	st := &j.State
	st.BenchStrokes += max(1, b.Strokes)
	st.counted("bench", e)
	st.BenchAt = e.At
	j.account().Took(strokeLeastS / 2 * float64(max(1, b.Strokes)))
	j.worked(e, string(e.Kind))
	if j.Intake.System == nil {
		return
	}
	if st.BenchOf != j.benchOf() { // another cylinder begins anew
		st.BenchStrokes = max(1, b.Strokes)
	}
	chambers, air := j.benchChambers(), j.benchAir()
	for i, s := range b.strokes(j) {
		for range max(1, b.Strokes) {
			if next, err := chambers[i].After(air[i]*1000, s); err == nil {
				air[i] = next / 1000
			}
		}
	}
	st.BenchAirCM3, st.BenchOf, st.PluggedMM = air, j.benchOf(), nil
}

// benchOf names the cylinder in the vice: which one it is, and what it is computed from.
func (j *Job) benchOf() string {
	m := j.Fitted().MasterCylinder
	return fmt.Sprint(j.pair().Cylinder, m.BoreMM, j.strokesMM())
}

// benchAir is the air in each chamber, cm³: of a cylinder nobody stroked, all of it.
func (j *Job) benchAir() []float64 {
	if j.State.BenchOf == j.benchOf() && len(j.State.BenchAirCM3) > 0 {
		return slices.Clone(j.State.BenchAirCM3)
	}
	var out []float64
	for _, c := range j.benchChambers() {
		out = append(out, c.VolumeMM3()/1000)
	}
	return out
}

// BenchPlugged is the rod's travel felt with the ports plugged: what is left is air.
type BenchPlugged struct {
	RemainingMM float64 `json:"remaining_mm"`
}

// Valid implements Body.
func (b *BenchPlugged) Valid() error {
	return inField("$.data.remaining_mm", "bench.plugged_mm", b.RemainingMM)
}

// Check implements Body.
func (b *BenchPlugged) Check(*Job) error { return nil }

// Apply implements Body: what is measured wins over what was computed.
func (b *BenchPlugged) Apply(j *Job, e *Event) {
	st := &j.State
	st.counted("bench", e)
	j.worked(e, string(e.Kind))
	if j.Intake.System == nil {
		return
	}
	air := j.benchAir()
	sum := 0.0
	for _, a := range air {
		sum += a
	}
	measured := bench.PluggedCM3(j.Fitted().MasterCylinder.BoreMM, b.RemainingMM)
	for i := range air {
		if sum > 0 {
			air[i] *= measured / sum
		} else {
			air[i] = measured / float64(len(air))
		}
	}
	st.BenchAirCM3, st.BenchOf, st.PluggedMM = air, j.benchOf(), &b.RemainingMM
}

// ── on the vehicle ──

// cracksAPort: about ten times a port with the pedal propped (common practice, no source).
const cracksAPort = 10

// PortCracks is a port cracked on the vehicle.
type PortCracks struct {
	Port  string `json:"port"`
	Count int    `json:"count"`
	Of    int    `json:"of"`
	Clear int    `json:"clear"` // in a row
	Done  bool   `json:"done"`
}

// PortCracked is a line cracked at the cylinder with the pedal held, and closed again before it was let go.
type PortCracked struct {
	Port  string `json:"port"`
	Clear bool   `json:"clear,omitempty"`
}

// Valid implements Body.
func (p *PortCracked) Valid() error { return text("$.data.port", p.Port, nameMost) }

// Check implements Body.
func (p *PortCracked) Check(j *Job) error {
	for _, at := range j.portCracks() {
		if at.Port == p.Port {
			return nil
		}
	}
	return fault("$.data.port", "fault.no_such_port", map[string]any{"value": clip(p.Port)})
}

// CheckAt: there is fluid above the port, or what comes in is air.
func (p *PortCracked) CheckAt(j *Job, _ time.Time) error {
	if err := p.Check(j); err != nil {
		return err
	}
	if !j.fluidAbove() {
		return ErrGate{[]string{"close.fill"}}
	}
	return nil
}

// fluidAbove says whether every tank stands above its lowest port.
func (j *Job) fluidAbove() bool {
	l := j.levels()
	for _, c := range j.Intake.System.Circuits {
		if level, _, lowest := l.Level(c.ID); level <= lowest+1e-9 {
			return false
		}
	}
	return j.account().StateOf(stand.Reservoir) != stand.Off
}

// Apply implements Body.
func (p *PortCracked) Apply(j *Job, e *Event) {
	next := maps.Clone(j.State.Cracks)
	if next == nil {
		next = map[string]PortCracks{}
	}
	at := next[p.Port]
	at.Port, at.Count = p.Port, at.Count+1
	if p.Clear {
		at.Clear++
	} else {
		at.Clear = 0
	}
	if !j.fluidAbove() { // told by a file: it drew air
		at.Count, at.Clear = 0, 0
	}
	next[p.Port] = at
	j.State.Cracks = next
	j.State.counted("bench", e)
	j.account().Took(strokeLeastS)
	j.worked(e, string(e.Kind), stand.Lines, stand.Bench, stand.Fluid)
	j.account().Move(e.when(), stand.Lines, stand.Fluid)
}

// portCracks are the ports of the cylinder that is fitted, as cracked so far.
func (j *Job) portCracks() []PortCracks {
	out := []PortCracks{}
	p, err := j.Plan()
	if err != nil {
		return out
	}
	for _, l := range p.Lines {
		name := l.Position
		if name == "" {
			name = l.Circuit
		}
		at := j.State.Cracks[name]
		at.Port, at.Of = name, cracksAPort
		at.Done = at.Count >= cracksAPort || at.Clear >= clearTwice
		out = append(out, at)
	}
	return out
}

func (j *Job) cracked() bool {
	for _, p := range j.portCracks() {
		if !p.Done {
			return false
		}
	}
	return true
}
