package job

import (
	"encoding/json"
	"slices"
	"time"

	"geminate/brake/diagnose"
	"geminate/brake/ledger"
	"geminate/brake/pedal"
	"geminate/brake/stand"
	"geminate/brake/verify"
)

// State is what a job's events come to.
type State struct {
	Findings     map[string]map[string]Found `json:"findings"` // by phase, by id
	Ticks        map[string]Tick             `json:"ticks"`
	BenchStrokes int                         `json:"bench_strokes"`
	// BenchAirCM3 is the air in each chamber in the vice after them; BenchOf the cylinder it is of; PluggedMM the rod's
	// travel felt with the ports plugged since.
	BenchAirCM3  []float64             `json:"bench_air_cm3,omitempty"`
	BenchOf      string                `json:"bench_of,omitempty"`
	PluggedMM    *float64              `json:"plugged_mm,omitempty"`
	Cracks       map[string]PortCracks `json:"cracks,omitempty"` // on the vehicle, by port
	BleedStrokes map[string]int        `json:"bleed_strokes"`
	BleedCM3     map[string]float64    `json:"bleed_cm3"` // through each wheel, by any method
	Clear        map[string]bool       `json:"clear"`
	Refills      int                   `json:"refills"`
	// Moves are what was done to the fluid since the job began, put together: what the ledger is made of.
	Moves []ledger.Event `json:"moves,omitempty"`
	// Wheels are the wheels as worked, beside what went through them.
	Wheels map[string]WheelLog `json:"wheels,omitempty"`
	// OldFluid marks a job that was bled before its fluid was followed.
	OldFluid bool `json:"old_fluid,omitempty"`
	// Spilled: fluid came over the brim. ModulatorAir: air got into the modulator.
	Spilled      bool `json:"spilled,omitempty"`
	ModulatorAir bool `json:"modulator_air,omitempty"`
	// BleedSteps are the programme's steps beside the wheels, Steering the cycles of the steering side.
	BleedSteps map[string]BleedStepDone `json:"bleed_steps,omitempty"`
	Steering   []SteeringCycle          `json:"steering,omitempty"`
	// RoutineWheels are those whose valves the tool has cycled, while its routine goes wheel by wheel.
	RoutineWheels []string `json:"routine_wheels,omitempty"`
	// Dry are the circuits that ran dry, until their wheels are done again.
	Dry          map[string]bool `json:"dry"`
	Notes        []string        `json:"notes"`
	ReleasedAt   *time.Time      `json:"released_at"`
	ReleasedBy   string          `json:"released_by"`
	ReleasedRole Role            `json:"released_role,omitempty"`
	// ReleaseGate is the gate as it stood when the vehicle was let go; releases from before it was kept have none.
	ReleaseGate []verify.Item `json:"release_gate,omitempty"`
	Reopenings  []Reopening   `json:"reopenings"`
	// History is what a file claimed where the job was brought in, nil for a job of this shop.
	History *Claim `json:"history"`
	// Dropped are the choices the last change of the system took with it, as JSON Pointers.
	Dropped []string `json:"dropped,omitempty"`
	// ScopeChosen: somebody said what is replaced; until then Match opens as Diagnose has it.
	ScopeChosen bool `json:"scope_chosen,omitempty"`
	// LastStroke is what undo would take back at the counting stations, by kind an event's id.
	LastStroke map[string]string `json:"last_stroke"`
	// LastBy is the same for each person, the one who counted last at the end: undo takes back one's own last, and says
	// whose it is otherwise.
	LastBy map[string][]LastDone `json:"last_by,omitempty"`
	// Loops counts how often the work went on after something had been verified; LoopSeq is the last such.
	Loops   int   `json:"loops,omitempty"`
	LoopSeq int64 `json:"loop_seq,omitempty"`
	// WorkSeq is the last event that did something to the vehicle.
	WorkSeq int64 `json:"work_seq"`
	// Timers are the clocks of the job, each the last of its kind.
	Timers []Timer `json:"timers,omitempty"`
	// Parked: the vehicle stands and is not to be driven; nil where nobody has said so.
	Parked *ParkedState `json:"parked,omitempty"`
	// StoodDays is how many days it stood put off in the middle of a bleed, until its reservoir was looked at anew.
	StoodDays int `json:"stood_days,omitempty"`
	// Traces are what instruments drew, the last of each finding.
	Traces []Trace `json:"traces,omitempty"`
	// Photos are the job's, without their pictures: those stay in the log.
	Photos []Photo `json:"photos,omitempty"`
	// PhotoFigures are what was measured on them.
	PhotoFigures []PhotoFigure `json:"photo_figures,omitempty"`
	// StepNotes are remarks at a step; OldUnits what became of what came off, by unit.
	StepNotes []StepNote         `json:"step_notes,omitempty"`
	OldUnits  map[string]OldUnit `json:"old_units,omitempty"`
	// Really is what it really was, nil while nobody said; Apart the parts of the old unit as they were found.
	Really *Reality `json:"really,omitempty"`
	// Away is a job that was put away.
	Away *AwayState `json:"away,omitempty"`
	// KnownGoodAt is when this job's pedal was kept as the vehicle's own.
	KnownGoodAt *time.Time          `json:"known_good_at,omitempty"`
	Apart       map[string]PartSeen `json:"apart,omitempty"`
	// Minutes are those worked at each station; LastAt is when something was last told.
	Minutes map[string]float64 `json:"minutes,omitempty"`
	LastAt  time.Time          `json:"last_at,omitzero"`
	// Small are the small parts in the order they came off.
	Small []SmallPart `json:"small,omitempty"`
	// Stand is the vehicle as it stands: plan, gate and drawings read it.
	Stand *stand.Account `json:"stand,omitempty"`
	// Read are the readings of the release check as they were told, withdrawn ones too: what failed is not outvoted.
	Read map[string][]verify.Read `json:"read,omitempty"`
	// AirSaid are the force and travel readings, as told, whose fit said air.
	AirSaid []string `json:"air_said,omitempty"`
	// Tail is the end of the order of hands, Afterwards what was told after a release of what lay before it, CalledBack
	// what of it holds the vehicle that was let go.
	Tail       Tail         `json:"tail"`
	Afterwards []Afterwards `json:"afterwards,omitempty"`
	CalledBack []string     `json:"called_back,omitempty"`
	// Pairs are the units the work was for, from when on; FirstPair before any was chosen.
	Pairs     []PairChosen `json:"pairs,omitempty"`
	FirstPair stand.Pair   `json:"first_pair,omitzero"`
	// FitAccepted is why a pedal that changes is taken all the same.
	FitAccepted *FitTaken `json:"fit_accepted,omitempty"`
	// OpenedAt are the wheels a joint elsewhere was said to be at.
	OpenedAt []string `json:"opened_at,omitempty"`
	// Renewed are rubber parts that were replaced because of what had got into the fluid: when each was, in the order
	// of hands.
	Renewed map[RubberPart]int64 `json:"renewed,omitempty"`
	// Repairs are what was done at wheels, lines and beside the units, as it was told.
	Repairs []RepairDone `json:"repairs,omitempty"`
	// RodWrong are the rods that were measured, by pair, as they were last measured out of their limits.
	RodWrong map[string]Tick `json:"rod_wrong,omitempty"`
	// SeenAt is the latest moment anything was told of.
	SeenAt time.Time `json:"seen_at,omitzero"`
	// Poured are the bottles that went in.
	Poured []Pour `json:"poured,omitempty"`
	// BenchAt is when the cylinder in the vice was last stroked.
	BenchAt time.Time `json:"bench_at,omitzero"`
	// Air is what Verify's readings say of the air left: worked out when they are read, since the fit takes
	// a good part of a second. nil while none can be used.
	Air *pedal.Result `json:"air"`
}

// Found is a finding as it stands, with the event that told it.
type Found struct {
	ID    string          `json:"id"`
	Value json.RawMessage `json:"value"`
	Sure  *bool           `json:"sure,omitempty"`
	Seq   int64           `json:"seq"`
	At    time.Time       `json:"at"`
	By    string          `json:"by"`
	// ByID is the account that told it; Base how far that person had seen the log, 0 where nobody said.
	ByID string `json:"by_id,omitempty"`
	Base int64  `json:"base,omitempty"`
	// Arrived is its place in the log, Seq that in the order of hands. AfterWork: told at the diagnosis of what work
	// had changed.
	Arrived   int64 `json:"arrived,omitempty"`
	AfterWork bool  `json:"after_work,omitempty"`
	// Witness is who had a look, where somebody else had to.
	Witness string `json:"witness,omitempty"`
	// Measured is the instrument that told it; nil where it was typed.
	Measured *Measured `json:"measured,omitempty"`
	// On is which units the work had put on by then; nil where they were its own.
	On *stand.Pair `json:"on,omitempty"`
	// Earlier are the same reading taken before, in the same way, with no work in between: the diagnosis takes them
	// all.
	Earlier []diagnose.Finding `json:"earlier,omitempty"`
}

// LastDone is the last thing one person counted.
type LastDone struct {
	ID   string `json:"id"`
	ByID string `json:"by_id"`
	By   string `json:"by"`
}

// counted takes down what undo would take back.
func (s *State) counted(at string, e *Event) {
	s.LastStroke[at] = e.ID
	others := slices.DeleteFunc(slices.Clone(s.LastBy[at]), func(d LastDone) bool { return d.ByID == e.By.ID })
	if s.LastBy == nil {
		s.LastBy = map[string][]LastDone{}
	}
	s.LastBy[at] = append(others, LastDone{ID: e.ID, ByID: e.By.ID, By: e.By.Name})
}

func newState() State {
	return State{Findings: map[string]map[string]Found{PhaseDiagnose: {}, PhaseVerify: {}}, Ticks: map[string]Tick{},
		BleedStrokes: map[string]int{}, BleedCM3: map[string]float64{}, Clear: map[string]bool{}, Dry: map[string]bool{},
		Notes: []string{}, Reopenings: []Reopening{}, LastStroke: map[string]string{}, Stand: stand.New()}
}

// findings gives the findings of a phase as the diagnosis takes them.
func (s *State) findings(phase string) map[string]diagnose.Finding {
	out := make(map[string]diagnose.Finding, len(s.Findings[phase]))
	for id, f := range s.Findings[phase] {
		out[id] = diagnose.Finding{ID: f.ID, Value: f.Value, Sure: f.Sure}
	}
	return out
}

// apply folds in an event that comes last in the order of hands.
func (j *Job) apply(e *Event) {
	tail := j.State.Tail
	k, _ := tail.key(e, j.Head)
	tail.take(e, k)
	x := *e
	x.place, x.late = j.Head+1, false
	j.happen(&x)
	j.State.Tail = tail // whatever else the event made anew
	j.Head = e.Seq
	j.UpdatedAt = e.StoredAt
}

// happen makes one event's change.
func (j *Job) happen(e *Event) {
	j.seen(e)
	j.spend(e)
	e.Body.Apply(j, e)
}

func (j *Job) seen(e *Event) {
	if e.At.After(j.State.SeenAt) {
		j.State.SeenAt = e.At
	}
}

// refold folds a job's log anew; what whoever asks handed in is kept.
func (j *Job) refold(events []Event) {
	next := Replay(j.ID, j.CreatedAt, events)
	next.Given = j.Given
	*j = *next
}

// Replay folds a whole log in the order of hands. What was a slip is passed over; what was taken back later leaves
// behind what it did (back.go).
func Replay(id string, createdAt time.Time, events []Event) *Job {
	j := &Job{ID: id, CreatedAt: createdAt, State: newState()}
	ordered := inOrder(events)
	j.foldAll(ordered, fatesOf(ordered))
	j.State.Tail = tailOf(events)
	for i := range events {
		if e := &events[i]; e.Seq >= j.Head {
			j.Head, j.UpdatedAt = e.Seq, e.StoredAt
		}
	}
	j.freshen()
	j.toldAfterwards(ordered)
	return j
}

// foldAll folds events that lie in the order of hands.
func (j *Job) foldAll(ordered []Event, f fates) {
	for i := range ordered {
		e := &ordered[i]
		switch f.of[e.ID] {
		case told:
			j.happen(e)
			if of := f.takes[e.ID]; of != nil {
				if b, ok := of.Body.(backer); ok {
					b.TakenBack(j, e, of)
				}
			}
		case slip:
			if x, ok := e.Body.(*FindingMade); ok {
				x.remember(j, e, true) // taken back is not forgotten: what failed is not outvoted by undoing it
			}
		case back:
			switch b := e.Body.(type) {
			case backer:
				j.happen(e)
			case remainer:
				j.seen(e)
				j.spend(e)
				b.Remains(j, e)
			}
		}
	}
}

// freshen works out what is kept because it is dear.
func (j *Job) freshen() {
	if !j.airStale {
		return
	}
	j.airStale = false
	j.State.Air = nil
	if j.Intake.System != nil {
		in := j.verifyInput()
		j.State.Air = in.Air()
		j.State.AirSaid = j.airSaid(&in)
	}
}

// fitsKept is how many earlier readings are fitted again: each takes a good part of a second.
const fitsKept = 3

// airSaid are the last force and travel readings, as told, whose own fit says air.
func (j *Job) airSaid(in *verify.Input) []string {
	var out []string
	list := j.State.Read["pedal.readings"]
	for _, r := range list[max(0, len(list)-fitsKept):] {
		air := j.State.Air
		if string(r.Value) != string(in.Findings["pedal.readings"].Value) {
			alone := *in
			alone.Findings = map[string]diagnose.Finding{"pedal.readings": {ID: "pedal.readings", Value: r.Value}}
			air = alone.Air()
		}
		if air != nil && air.Verdict == pedal.Air {
			out = append(out, string(r.Value))
		}
	}
	return out
}
