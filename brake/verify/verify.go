// Package verify judges the finished work: readings against the twin, and the gate a vehicle must
// pass before it is handed over.
package verify

import (
	"cmp"
	"encoding/json"
	"math"
	"slices"
	"time"

	"geminate/brake/diagnose"
	"geminate/brake/pedal"
	"geminate/brake/stand"
	"geminate/brake/system"
	"geminate/brake/twin"
	"geminate/brake/units"
)

// Limits, common practice or assumption: a rule at the pad reads to a millimetre or so; the hold
// must be long enough to show a slow leak.
const (
	// A hold of 200 N or more for at least 30 s; the rod at rest free of load, and no more than the trade's
	// 0.020 in of play (how-it-computes, section 12; common practice, no source).
	HoldLeastSeconds      = 30.0
	HoldLeastN            = 200.0
	SinkConstantMM        = 1.0   // of allowed sink, and
	SinkAMinuteMM         = 1.0   // for every minute of the hold,
	HoldMostSeconds       = 300.0 // of the first five
	RodLeastMM, RodMostMM = diagnose.RodLeastMM, diagnose.RodMostMM
	rodReadingMM          = diagnose.RodReadingMM
	ReserveLeast          = 2.0 // assisted applications after the engine stops
	bandConstant          = 0.15
	bandCompliance        = 0.20
	ruleMM                = 2.0
	leastReadings         = 2
	// LeastSpreadN is how far apart two forces are at the least (how-it-computes, section 12).
	LeastSpreadN = 80.0
	// HoldLeastMPA is the pressure a passing cup is pressed with at the least.
	HoldLeastMPA = 3.0
	holdMostN    = 500.0 // no foot holds more for long; what does not reach the pressure by then is held with the least force
	secondLook   = "check.second_look"
)

// State of one gate item.
type State string

const (
	OK      State = "ok"
	Missing State = "missing"
	Failed  State = "failed"
)

// Item is one line of the release gate.
type Item struct {
	ID    string         `json:"id"`
	State State          `json:"state"`
	Code  string         `json:"code"` // words key
	With  map[string]any `json:"with,omitempty"`
	// Where is the place it is done at, in the order one gets to them.
	Where Place `json:"where"`
	// Station is where it is done, "" for what is done here.
	Station string `json:"station,omitempty"`
}

// Worn is an instrument whose calibration has run out: what it is called, and the last day it held.
type Worn struct{ Name, Until string }

// Gate is the release verdict.
type Gate struct {
	Items    []Item `json:"items"`
	Missing  int    `json:"missing"`
	Failed   int    `json:"failed"`
	Passable bool   `json:"passable"`
}

// Expected is where the twin sees the pedal, engine off and assist exhausted.
type Expected struct {
	PedalForceN float64 `json:"pedal_force_n"`
	TravelMM    float64 `json:"travel_mm"`
	LowMM       float64 `json:"low_mm"`
	HighMM      float64 `json:"high_mm"`
}

// Band gives the travel to expect at a pedal force with the assist exhausted, and the band a sound
// vehicle of this pattern can lie in. ok is false where the foot is too light for every brake to have
// taken up, or a chamber has bottomed: such a reading says too little to be judged.
func Band(s *system.System, forceN float64) (e Expected, ok bool) {
	m := twin.New(s)
	e = BandOf(m, forceN, false)
	d := m.Sweep(m.OutputForceN(m.RodForceN(forceN), false))
	return e, !d.Bottomed && e.TravelMM < m.FloorMM() && d.MeanMPA >= m.TakeUpMPA()
}

// BandOf is the band alone, with or without assist: 15 % on the part that does not hang on pressure and
// 20 % on the part that does, nine cases in ten (how-it-computes, section 9, no baseline), and the rule's 2 mm.
func BandOf(m *twin.Model, forceN float64, assist bool) Expected {
	travel := m.Travel(forceN, assist)
	d := m.Sweep(m.OutputForceN(m.RodForceN(forceN), assist))
	grow := math.Min(travel, math.Max(0, d.ElasticMM3/m.AreaMM2()*m.PedalRatio()))
	half := math.Hypot(1.645*math.Hypot(bandConstant*(travel-grow), bandCompliance*grow), ruleMM)
	return Expected{forceN, travel, math.Max(0, travel-half), travel + half}
}

// Input is everything the gate looks at.
type Input struct {
	System     *system.System // as finished: fitted, bled, tight
	Findings   map[string]diagnose.Finding
	PlanLeft   int      // steps not ticked
	OpenWheels []string // wheels not bled to the end; nil where nothing was opened
	Opened     bool     // the hydraulics were opened
	// LeftWheels were left undone with a reason; BleedSteps are the programme's steps beside the wheels that stand
	// open.
	LeftWheels, BleedSteps []string
	NoUnit                 bool // a unit is to be fitted but none has been chosen
	// Unfit are the chosen units that carry a "does not fit".
	Unfit []string
	// AirLeft is what the readings say of the air (Air), nil where none can be used. It is handed in: the fit
	// takes a good part of a second, the gate is asked at every tick.
	AirLeft *pedal.Result
	// Rod is the gap as measured at the joint; nil where none was.
	Rod *twin.Pushrod
	// Torques are the verdicts on figures stored for joints, by step; NoTorque the joints without a figure, ByHand
	// those tightened by hand feel and said so.
	Torques  map[string]units.TorqueVerdict
	NoTorque []string
	ByHand   []string
	// Stand is the vehicle as it stands, ReadAt when each finding was read and by whom: a reading dies with later work
	// that touches what it proves. History are all that were told, the last too.
	Stand   *stand.Account
	ReadAt  map[string]Read
	History map[string][]Read
	// AirSaid are the force and travel readings, as told, whose fit said air.
	AirSaid []string
	// People are the accounts of the shop, nil where nobody said.
	People []Person
	// Time is what was told against the time there was.
	Time Elapsed
	// OutOfDate are the items read with an instrument whose calibration had run out, and nobody has said that it will
	// do.
	OutOfDate map[string]Worn
	// Now is when it is asked: a reading grows old on a vehicle that only stands.
	Now time.Time
	// AsThen: a release from before evidence had an order and an age is shown as it was judged then.
	AsThen bool
	// Unhurried: on a practice vehicle minutes are not the clock's, and no reading was told too soon.
	Unhurried bool
	// Parked, not to be driven; PutOff: the bleed was put off; GoneWheels were worked at and are not in the system any
	// more.
	Parked, PutOff bool
	GoneWheels     []string
	// Bottle is what is wrong with the fluid in hand, a code; "" where nothing is known against it.
	Bottle string
	// Wash is what still has to be done to wash out what should not have gone in; its code is empty where nothing is.
	Wash Said
	// SmallOff is how many small parts came off and are not on again.
	SmallOff int
	// Rubber are the rubber parts mineral oil reached that were not replaced.
	Rubber []string
	// Doubted are the things of which two tellings do not agree and nobody has looked since, by the step that was told
	// late.
	Doubted map[string]string
	// Fits is what goes on held against what was on, by figures.
	Fits Fits
	// PhoneSeq is the last reading by a phone that was strapped to the pedal, 0 where there was none: it comes off
	// before the vehicle moves.
	PhoneSeq int64
	// AsSupplied says that the rod was taken as it came: free wheels hot prove it.
	AsSupplied bool
	// LowLevel says that by what was moved the reservoir stands under the level at which it is filled.
	LowLevel bool
	// SecondBy is who had the second look.
	SecondBy string
	// Known says that the system's figures were set from this vehicle's known-good pedal.
	Known bool
	// RanDry says that the reservoir fell to its lowest port while bleeding and air went in.
	RanDry bool
}

// Baseline is the finding that the system's figures were set from a known-good curve of this very
// vehicle: the pedal fit then tells finer.
const Baseline = "pedal.baseline"

// Air is what the readings say of the air left (how-it-computes, section 9), nil while none can be used.
func (in *Input) Air() *pedal.Result {
	var v []diagnose.Reading
	if _, ok := in.read("pedal.readings", &v); !ok || in.System.Pedal == nil || len(v) == 0 {
		return nil
	}
	state, _, _ := in.yesNo(Baseline)
	r, err := pedal.Estimate(in.System, pedal.Readings{Readings: v, Baseline: in.Known || state == OK})
	if err != nil || (r.Used == 0 && r.AtLeastCM3 == nil) {
		return nil
	}
	return &r
}

func airItem(r *pedal.Result) (State, string, map[string]any) {
	with := map[string]any{}
	if r.AirCM3 != nil {
		with["air_cm3"], with["low_cm3"], with["high_cm3"], with["cost_mm"] = *r.AirCM3, r.IntervalCM3[0], r.IntervalCM3[1], *r.PedalCostMM
		with["at_n"] = r.AtForceN
	}
	switch {
	case r.Verdict == pedal.Air && r.AirCM3 == nil:
		with["at_least_cm3"] = *r.AtLeastCM3
		return Failed, "gate.air.at_least", with
	case r.Verdict == pedal.Air:
		return Failed, "gate.air.air", with
	case r.Verdict == pedal.Clear:
		return OK, "gate.air.clear", with
	case r.AirCM3 == nil:
		return Missing, "gate.missing", nil
	}
	// What the band lets pass and no reading without a baseline can find: told, not held against the work.
	return OK, "gate.air.cannot_tell", with
}

// rod judges the gap between the rod and the piston: a covered port traps the circuit, and the brakes
// drag; too long a gap is lost pedal.
func (in *Input) rod() (State, string, map[string]any) {
	with := map[string]any{"gap_mm": in.Rod.GapMM, "least_mm": RodLeastMM, "most_mm": RodMostMM}
	verdict := RodVerdict(in.Rod.GapMM, in.Rod.Covered)
	state := Failed
	if verdict == RodRight {
		state = OK
	}
	return state, rodCodes[verdict], with
}

// What a rod gap may be.
const (
	RodRight     = "right"
	RodLarge     = "large"
	RodPreloaded = "preload"
	RodCovered   = "covered" // it holds the compensating port shut
)

var rodCodes = map[string]string{
	RodRight:     "gate.rod.ok",
	RodLarge:     "gate.rod.gap",
	RodPreloaded: "gate.rod.preloaded",
	RodCovered:   "gate.rod.covered",
}

// RodVerdict judges a gap: free of load at rest, no more play than the trade allows, the port open.
func RodVerdict(gapMM float64, covered *bool) string {
	switch {
	case covered != nil && *covered:
		return RodCovered
	case gapMM < RodLeastMM-rodReadingMM:
		return RodPreloaded
	case gapMM > RodMostMM+rodReadingMM:
		return RodLarge
	}
	return RodRight
}

func (in *Input) wrongTorques() []string {
	var out []string
	for step, v := range in.Torques {
		if v != units.TorqueOK {
			out = append(out, step)
		}
	}
	slices.Sort(out)
	return out
}

// evidence is read with what killed it, where something did.
func (in *Input) evidence(id string, into any) (code string, with map[string]any, ok bool) {
	if d, dead := in.killed(id); dead {
		return "gate.stale", map[string]any{"after": d.What}, false
	}
	if code, ok = in.read(id, into); !ok {
		return code, nil, false
	}
	if with, soon := in.tooSoon(id, in.Findings[id].Value); soon {
		return "gate.too_soon", with, false
	}
	return "", nil, true
}

// read decodes a finding. What someone only thinks is no evidence: it is there, but counts for nothing.
func (in *Input) read(id string, into any) (code string, ok bool) {
	f, there := in.Findings[id]
	switch {
	case !there || json.Unmarshal(f.Value, into) != nil:
		return "gate.missing", false
	case f.Sure != nil && !*f.Sure:
		return "gate.unsure", false
	}
	return "", true
}

// yesNo judges a finding that is yes or no; yes passes.
func (in *Input) yesNo(id string) (State, string, map[string]any) {
	var v string
	if code, with, ok := in.evidence(id, &v); !ok {
		return Missing, code, with
	}
	if v != "yes" {
		return Failed, "gate.failed", nil
	}
	return OK, "gate.ok", nil
}

// Said is a text and what it is said with.
type Said struct {
	Code string         `json:"code"` // words key
	With map[string]any `json:"with,omitempty"`
}

// HoldLimitMM is how far a pedal held for so long may go down. A longer hold is allowed no more than five minutes'
// worth: what goes on sinking leaks.
func HoldLimitMM(seconds float64) float64 {
	return SinkConstantMM + SinkAMinuteMM*min(seconds, HoldMostSeconds)/60
}

func (in *Input) readings() (State, string, map[string]any) {
	var v []diagnose.Reading
	if code, with, ok := in.evidence("pedal.readings", &v); !ok || len(v) == 0 {
		return Missing, cmp.Or(code, "gate.missing"), with
	}
	if code, with, ok := in.rises(v); !ok {
		return Missing, code, with
	}
	usable, low, high := 0, math.Inf(1), math.Inf(-1)
	for _, r := range v {
		b, ok := Band(in.System, r.PedalForceN)
		if !ok {
			continue
		}
		usable++
		low, high = math.Min(low, r.PedalForceN), math.Max(high, r.PedalForceN)
		with := map[string]any{"pedal_force_n": r.PedalForceN, "travel_mm": r.TravelMM, "low_mm": b.LowMM, "high_mm": b.HighMM}
		if r.TravelMM > b.HighMM {
			return Failed, "gate.readings.long", with
		}
		if r.TravelMM < b.LowMM {
			return Failed, "gate.readings.short", with
		}
	}
	if usable < leastReadings {
		return Missing, "gate.readings.few", map[string]any{"count": usable, "least": leastReadings}
	}
	if high-low < LeastSpreadN {
		return Missing, "gate.readings.close", map[string]any{"spread_n": high - low, "least_n": LeastSpreadN}
	}
	return OK, "gate.readings.ok", map[string]any{"count": usable}
}

// readingMM is what a rule at the pad reads to, and risesShare of the twin's rise what a real pedal shows at the least.
// Assumptions.
const readingMM, risesShare = 1.0, 0.25

// rises says whether readings can be a pedal's: it goes down with more force, and not the same way at every force.
func (in *Input) rises(v []diagnose.Reading) (code string, with map[string]any, ok bool) {
	list := slices.Clone(v)
	slices.SortFunc(list, func(a, b diagnose.Reading) int { return cmp.Compare(a.PedalForceN, b.PedalForceN) })
	for i := 1; i < len(list); i++ {
		if list[i].TravelMM < list[i-1].TravelMM-readingMM {
			return "gate.readings.falls", map[string]any{"pedal_force_n": list[i].PedalForceN}, false
		}
	}
	if n := len(list); n > 1 && list[n-1].PedalForceN-list[0].PedalForceN >= LeastSpreadN {
		a, okA := Band(in.System, list[0].PedalForceN)
		b, okB := Band(in.System, list[n-1].PedalForceN)
		if okA && okB && list[n-1].TravelMM-list[0].TravelMM < risesShare*(b.TravelMM-a.TravelMM) {
			return "gate.readings.flat", nil, false
		}
	}
	return "", nil, true
}

func (in *Input) reserve() (State, string, map[string]any) {
	var n float64
	if code, with, ok := in.evidence("assist.reserve_applies", &n); !ok {
		return Missing, code, with
	}
	with := map[string]any{"count": n, "least": ReserveLeast}
	if n < ReserveLeast {
		return Failed, "gate.reserve.few", with
	}
	return OK, "gate.reserve.ok", with
}
