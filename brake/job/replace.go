package job

import (
	"geminate/brake/plan"
	"geminate/brake/system"
	"geminate/brake/twin"
	"geminate/brake/units"
)

// ReplaceView is the Replace station.
type ReplaceView struct {
	Plan    plan.Plan             `json:"plan"`
	Blocked map[string][]string   `json:"blocked"` // step → gates that stand open before it
	Next    string                `json:"next"`
	Left    int                   `json:"left"`
	Rod     *twin.Pushrod         `json:"rod"` // of the last measurement
	Torque  map[string]TorqueRead `json:"torque"`
}

// TorqueRead is a ticked torque judged.
type TorqueRead struct {
	TorqueNM float64             `json:"torque_nm"`
	Verdict  units.TorqueVerdict `json:"verdict"`
}

// Replace makes the plan and lays the ticks over it.
func (j *Job) Replace() (*ReplaceView, error) {
	p, err := j.Plan()
	if err != nil {
		return nil, err
	}
	st := &j.State
	done := st.Done()
	v := &ReplaceView{Plan: *p, Blocked: map[string][]string{}, Next: p.Next(done), Torque: map[string]TorqueRead{}}
	for _, s := range p.Steps {
		missing, err := p.Missing(s.ID, done)
		if err != nil {
			return nil, err
		}
		if len(missing) > 0 && !done[s.ID] {
			v.Blocked[s.ID] = missing
		}
		tick, ticked := st.Ticks[s.ID]
		if !ticked {
			v.Left++
			continue
		}
		if tick.Gap != nil {
			v.Rod = tick.Gap
		}
		if tick.TorqueNM != nil && tick.Verdict != "" {
			v.Torque[s.ID] = TorqueRead{TorqueNM: *tick.TorqueNM, Verdict: tick.Verdict}
		}
	}
	return v, nil
}

func judge(torqueNM float64, t *plan.Torque) TorqueRead {
	v, err := units.JudgeTorque(torqueNM, t.LowNM, t.HighNM)
	if err != nil {
		v = units.TorqueLow
	}
	return TorqueRead{TorqueNM: torqueNM, Verdict: v}
}

// Torque judges a torque for a step of the job's plan before it is ticked.
func (j *Job) Torque(step string, torqueNM float64) (TorqueRead, error) {
	p, err := j.Plan()
	if err != nil {
		return TorqueRead{}, err
	}
	for _, s := range p.Steps {
		if s.ID == step && s.Torque != nil {
			return judge(torqueNM, s.Torque), nil
		}
	}
	return TorqueRead{}, system.Faults{{Path: "$.step", Code: "fault.no_such_step", With: map[string]any{"value": step}}}
}
