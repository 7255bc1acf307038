package job

import (
	"context"
	"fmt"

	"geminate/brake/diagnose"
	"geminate/brake/match"
	"geminate/brake/system"
	"geminate/brake/twin"
	"geminate/brake/verify"
)

// PlayIn is a scenario tried on the twin; nothing of it is stored.
type PlayIn struct {
	// Fault and At turn a fault on as the readings make it likeliest; "" shows the system as it should
	// be, with the chosen unit where one is to be fitted.
	Fault  string             `json:"fault,omitempty"`
	At     string             `json:"at,omitempty"`
	Assist bool               `json:"assist"`
	Failed []string           `json:"failed,omitempty"`  // circuits open to the air
	AirCM3 map[string]float64 `json:"air_cm3,omitempty"` // added, by circuit
}

// PlayPoint is the whole system at one force.
type PlayPoint struct {
	ForceN      float64            `json:"force_n"`
	TravelMM    float64            `json:"travel_mm"`
	LowMM       float64            `json:"low_mm"`  // band of a sound vehicle
	HighMM      float64            `json:"high_mm"` //
	OutputN     float64            `json:"output_n"`
	PressureMPA map[string]float64 `json:"pressure_mpa"`
	StrokeMM    map[string]float64 `json:"stroke_mm"`
	WheelMPA    map[string]float64 `json:"wheel_mpa"`
	DecelMPS2   float64            `json:"deceleration_mps2"`
	Bottomed    []string           `json:"bottomed"`
	Floored     bool               `json:"floored"`
	SinkMM      float64            `json:"sink_20s_mm"`     // how far it goes down if held for 20 s
	AirCM3      map[string]float64 `json:"air_cm3"`         // the added air, pressed together (Boyle, how-it-computes section 2)
	SoundTravel float64            `json:"sound_travel_mm"` // the sound system at the same force
	SoundDecel  float64            `json:"sound_deceleration_mps2"`
}

// PlayView is a scenario over the whole range of the foot, beside the sound system.
type PlayView struct {
	Points   []PlayPoint           `json:"points"`
	Severity *float64              `json:"severity"` // of the fault shown; nil without one
	Measured bool                  `json:"measured"` // the severity was set by a reading
	Physical bool                  `json:"physical"` // the twin can show this fault
	Cylinder system.MasterCylinder `json:"cylinder"`
	GapMM    float64               `json:"gap_mm"`
	GripMPS2 float64               `json:"grip_mps2"` // a demand beyond it is shown as that
}

const playHoldS = 20

// Play tries a scenario on the job's twin.
func (j *Job) Play(ctx context.Context, in PlayIn) (*PlayView, error) {
	sound := j.Fitted()
	v := &PlayView{Physical: true, GripMPS2: gripMPS2}
	shown := sound.Clone()
	if in.Fault != "" {
		c := j.Case()
		c.System = match.Sound(j.Intake.System)
		p, err := diagnose.Show(c, in.Fault, in.At)
		if err != nil {
			return nil, system.Faults{{Path: "$.fault", Code: "fault.detail", With: map[string]any{"detail": err.Error()}}}
		}
		sound, shown = c.System, p.System.Clone()
		v.Severity, v.Measured, v.Physical = &p.Severity, p.Measured, p.Physical
	}
	if err := scenario(shown, in); err != nil {
		return nil, err
	}
	v.Cylinder, v.GapMM = shown.MasterCylinder, shown.PushrodGapMM
	m, ms := twin.New(shown), twin.New(sound)
	step, n := 5.0, 100
	if shown.IsTrailer() {
		step = 50
	}
	leaks := false
	for _, c := range shown.Circuits {
		leaks = leaks || c.BypassMM3SMPA+c.LeakMM3SMPA > 0
	}
	for i := 0; i <= n; i++ {
		if err := ctx.Err(); err != nil {
			return nil, err
		}
		f := step * float64(i)
		p, s := m.Apply(f, in.Assist), ms.Apply(f, in.Assist)
		b := verify.BandOf(ms, f, in.Assist)
		out := PlayPoint{
			ForceN:      f,
			TravelMM:    p.TravelMM,
			LowMM:       b.LowMM,
			HighMM:      b.HighMM,
			OutputN:     p.OutputForceN,
			PressureMPA: p.PressureMPA,
			StrokeMM:    p.StrokeMM,
			WheelMPA:    p.WheelMPA,
			DecelMPS2:   p.DecelerationMPS2,
			Bottomed:    p.Bottomed,
			Floored:     p.Floored,
			AirCM3:      map[string]float64{},
			SoundTravel: s.TravelMM,
			SoundDecel:  s.DecelerationMPS2,
		}
		atmosphereMPA := shown.Ambient.AtmosphereKPA / 1000
		for id, air := range in.AirCM3 {
			out.AirCM3[id] = air * atmosphereMPA / (atmosphereMPA + p.PressureMPA[id])
		}
		if leaks {
			out.SinkMM = m.SinkMM(f, playHoldS, in.Assist)
		}
		v.Points = append(v.Points, out)
	}
	return v, nil
}

// scenario changes a copy of the system as asked, refusing what it does not have.
func scenario(s *system.System, in PlayIn) error {
	var faults system.Faults
	for i, id := range in.Failed {
		c := s.Circuit(id)
		if c == nil {
			faults = append(faults,
				system.Fault{Path: fmt.Sprintf("$.failed[%d]", i), Code: "fault.no_such_circuit", With: map[string]any{"value": id}})
			continue
		}
		c.Open = true
	}
	for id, air := range in.AirCM3 {
		c := s.Circuit(id)
		switch {
		case c == nil:
			faults = append(faults, system.Fault{Path: "$.air_cm3." + id, Code: "fault.no_such_circuit", With: map[string]any{"value": id}})
		case !(air >= 0 && air <= 100):
			faults = append(faults,
				system.Fault{Path: "$.air_cm3." + id, Code: "fault.range", With: map[string]any{"value": air, "min": 0, "max": 100}})
		default:
			c.AirCM3 += air
		}
	}
	return faults.Err()
}
