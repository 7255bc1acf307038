package job

import (
	"slices"

	"geminate/brake/match"
	"geminate/brake/plan"
	"geminate/brake/stand"
	"geminate/brake/system"
	"geminate/brake/twin"
	"geminate/brake/units"
	"geminate/brake/verify"
)

// ReplaceView is the Replace station.
type ReplaceView struct {
	Plan    plan.Plan           `json:"plan"`
	Blocked map[string][]string `json:"blocked"` // step → steps that stand open before it
	// Falls are the done steps that rest on a done step: where it is taken back they have to be looked at again.
	Falls map[string][]string `json:"falls"`
	Next  string              `json:"next"`
	Left  int                 `json:"left"`
	// Together are the next steps one tap may tell, "as planned, up to here"; none where they are asked one by one.
	Together []string              `json:"together"`
	Open     []string              `json:"open"` // the steps left
	Rod      *twin.Pushrod         `json:"rod"`  // of the last measurement
	Torque   map[string]TorqueRead `json:"torque"`
	// Off are the parts of the joint that are off now.
	Off []string `json:"off"`
	// Started are those that have only caught their thread, or were cracked since they were tight.
	Started []string `json:"started"`
	// Things are what is not as it was found, the last touched at the end.
	Things []stand.Standing `json:"things"`
	// Asked are what may be at this joint, in the order a person looks; Schools the questions on which practitioners
	// differ here.
	Asked   []FeatureAsked `json:"asked"`
	Schools []SchoolAsked  `json:"schools"`
	Small   []SmallPart    `json:"small"`
	// UnitsOff are the units that come off; what became of them is told in State.OldUnits.
	UnitsOff []string `json:"units_off"`
	// Unmeasured are the points of new and old that nobody measured: at the compare they are seen side by side.
	Unmeasured []string `json:"unmeasured"`
	// MayBeAbsent are the steps left of which may be said that this vehicle has no such thing.
	MayBeAbsent []string `json:"may_be_absent"`
	// Opened: brake fluid came out, whatever the scope says now.
	Opened bool `json:"opened"`
	// Again are the done steps whose part can have come off once more since, and what came off before it then.
	Again map[string]CameOff `json:"again"`
	// Doubts are the things of which two tellings do not agree; Wet: fluid stood in the booster's mouth, and no booster
	// goes on.
	Doubts []DoubtAsked `json:"doubts"`
	Wet    bool         `json:"wet"`
	// Touches are what a step of one's own may touch.
	Touches []plan.Touches `json:"touches"`
	// ToBench: the bench step in hand is not counted out yet, and is done at its own station.
	ToBench bool `json:"to_bench"`
	// Repairs are those that can be told of this vehicle.
	Repairs []RepairOffer `json:"repairs"`
	// Limits are those the steps' figures are held to.
	Limits JointLimits `json:"limits"`
}

// JointLimits are the limits of the joint's figures, for the fields they are typed in: V, mm.
type JointLimits struct {
	VoltsMost  float64 `json:"volts_most"`
	TouchMM    float64 `json:"touch_mm"` // either way
	RodLeastMM float64 `json:"rod_least_mm"`
	RodMostMM  float64 `json:"rod_most_mm"`
	RodAimMM   float64 `json:"rod_aim_mm"`
	TurnsLeast float64 `json:"turns_least"`
}

// rodAimMM is the gap that is aimed for where nobody says otherwise, mm: the middle of its window. turnsLeast is the
// least turn of a rod worth telling: a thread of 1 mm moves 0.05 mm by it, a depth gauge's last place. Assumptions.
const (
	rodAimMM   = (verify.RodLeastMM + verify.RodMostMM) / 2
	turnsLeast = 0.05
)

var jointLimits = JointLimits{voltsMost, touchMM, verify.RodLeastMM, verify.RodMostMM, rodAimMM, turnsLeast}

// FeatureAsked is one thing that may be there.
type FeatureAsked struct {
	ID    plan.Feature `json:"id"`
	Place string       `json:"place"`
	Here  bool         `json:"here"`
}

// SchoolAsked is one question with its answers and what stands.
type SchoolAsked struct {
	ID      plan.School `json:"id"`
	Answers []string    `json:"answers"`
	Answer  string      `json:"answer"`
}

// TorqueRead is a ticked torque judged.
type TorqueRead struct {
	TorqueNM float64             `json:"torque_nm"`
	Verdict  units.TorqueVerdict `json:"verdict"`
	// AlsoIn are units in which the same number would be in the range too: only the wrench can tell.
	AlsoIn []string `json:"also_in,omitempty"`
}

// benchStep is the step of the plan that is done at the bench's own station.
const benchStep = "fit.bench_bled"

// Replace makes the plan and lays the ticks over it.
func (j *Job) Replace() (*ReplaceView, error) {
	p, err := j.Plan()
	if err != nil {
		return nil, err
	}
	st := &j.State
	done := j.done(p)
	v := &ReplaceView{
		Plan:        *p,
		Blocked:     map[string][]string{},
		Falls:       map[string][]string{},
		Next:        p.Next(done),
		Torque:      map[string]TorqueRead{},
		Open:        []string{},
		Things:      j.account().Standings(),
		Unmeasured:  j.Unmeasured(),
		MayBeAbsent: []string{},
		Asked:       []FeatureAsked{},
		Schools:     []SchoolAsked{},
		Small:       append([]SmallPart{}, st.Small...),
		Opened:      st.opened(),
		UnitsOff:    j.unitsOff(),
		Limits:      jointLimits,
		Touches:     plan.AllTouches,
		Repairs:     j.repairOffers(),
	}
	v.Together = append([]string{}, p.Together(done)...)
	v.Again, v.Doubts, v.Wet = j.cameOffAgain(p, done), j.doubtsAsked(), j.wetInBooster() && !j.putsOnBooster()
	v.Off, v.Started = j.partsNow()
	v.ToBench = v.Next == benchStep && j.checkCounted(stand.ByStrokes) != nil
	for _, s := range p.Steps {
		if tick, ticked := st.Ticks[s.ID]; ticked {
			if tick.Gap != nil {
				v.Rod = tick.Gap
			}
			if tick.TorqueNM != nil && s.Torque != nil { // by the range as it is now; what was wrong then stays to be done again
				v.Torque[s.ID] = judge(*tick.TorqueNM, tick.TorqueUnit, s.Torque)
				if tick.Verdict != "" && tick.Verdict != units.TorqueOK {
					v.Torque[s.ID] = TorqueRead{TorqueNM: *tick.TorqueNM, Verdict: tick.Verdict}
				}
			}
		}
		if done[s.ID] {
			if falls := p.FallsWith(s.ID, done); len(falls) > 0 {
				v.Falls[s.ID] = falls
			}
			continue
		}
		v.Left++
		v.Open = append(v.Open, s.ID)
		if j.mayBeAbsent(&s) {
			v.MayBeAbsent = append(v.MayBeAbsent, s.ID)
		}
		missing, err := p.Missing(s.ID, done)
		if err != nil {
			return nil, err
		}
		if len(missing) > 0 {
			v.Blocked[s.ID] = missing
		}
	}
	joint := j.putsOnCylinder() || j.putsOnBooster()
	for _, f := range plan.Features { // where the units stay, nothing of their joint is asked
		if joint && f.Can(j.Intake.System) {
			v.Asked = append(v.Asked, FeatureAsked{f.ID, f.Place, slices.Contains(p.Present, f.ID)})
		}
	}
	for _, e := range plan.Schools {
		if a, asked := p.Schools[e.ID]; asked {
			v.Schools = append(v.Schools, SchoolAsked{e.ID, e.Answers, a})
		}
	}
	return v, nil
}

// partsNow are the parts of the joint that are off now, and those that are only started or hang on their lines.
func (j *Job) partsNow() (off, started []string) {
	off, started = []string{}, []string{}
	for _, e := range stand.Things {
		if !plan.IsPart(string(e.Thing)) {
			continue
		}
		switch j.account().StateOf(e.Thing) {
		case stand.Off, stand.Aside:
			off = append(off, string(e.Thing))
		case stand.Started, stand.Loose:
			started = append(started, string(e.Thing))
		}
	}
	return off, started
}

// Torque judges a torque for a step of the job's plan before it is ticked.
func (j *Job) Torque(in TorqueIn) (TorqueRead, error) {
	p, err := j.Plan()
	if err != nil {
		return TorqueRead{}, err
	}
	if s := p.Find(in.Step); s != nil && s.Torque != nil {
		out := judge(in.TorqueNM, in.TorqueUnit, s.Torque)
		if out.Verdict == units.TorqueOK {
			out.AlsoIn = units.TorqueAlsoIn(in.TorqueNM, s.Torque.LowNM, s.Torque.HighNM, in.TorqueUnit)
		}
		return out, nil
	}
	return TorqueRead{}, system.Faults{{Path: "$.step", Code: "fault.no_such_step", With: map[string]any{"value": in.Step}}}
}

// opens says whether there is anything to bleed: the plan opens the hydraulics, they were opened, or a fluid is in that
// has to be washed out.
func (j *Job) opens() bool {
	if len(j.foul()) > 0 {
		return true
	}
	p, err := j.Plan()
	return err == nil && p.NeedsBleeding
}

// nothingToBleed says why not.
func (j *Job) nothingToBleed() string {
	if j.Choices.Scope == match.Elsewhere {
		return "plan.no_bleeding.elsewhere"
	}
	return "plan.no_bleeding.cylinder_aside"
}
