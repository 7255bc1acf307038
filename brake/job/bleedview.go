package job

import (
	"geminate/brake/bleed"
	"geminate/brake/match"
	"geminate/brake/stand"
	"geminate/brake/system"
	"geminate/brake/verify"
)

// BleedView is the Bleed station.
type BleedView struct {
	Applies bool                  `json:"applies"`
	Why     string                `json:"why,omitempty"`
	Purpose bleed.Purpose         `json:"purpose"`
	Method  bleed.Method          `json:"method"`
	Entry   *bleed.Entry          `json:"entry"`
	Plan    *bleed.Plan           `json:"plan"` // from where the fluid stands: what is left to do
	Steps   []BleedStep           `json:"steps"`
	Wheels  map[string]WheelState `json:"wheels"`
	Current string                `json:"current"` // wheel to work at, "" when none
	Now     bleed.StepID          `json:"now"`     // the step in hand, "" when done
	// Level, full mark and lowest port of the tank the current wheel draws from; the level it is filled at.
	LevelCM3  float64 `json:"level_cm3"`
	FullCM3   float64 `json:"full_cm3"`
	LowestCM3 float64 `json:"lowest_cm3"`
	KeepCM3   float64 `json:"keep_cm3"`
	RefillIn  int     `json:"refill_in_strokes"` // before the reservoir must be filled; −1 where strokes do not count
	RefillNow bool    `json:"refill_now"`
	// Ahead is how much may go yet before the reservoir is filled or drawn down, in the method's own measure.
	Ahead Ahead `json:"ahead"`
	// DrainFirst: old fluid stands in the reservoir though wheels are begun; what it costs to go on and to draw it off
	// first.
	DrainFirst *DrainFirst `json:"drain_first"`
	// Together: all that are left opened at once, by gravity; nil where that is no way.
	Together *Together `json:"together"`
	// Blocked are the steps that have to stand before fluid runs out of a bleeder and nowhere else.
	Blocked []string `json:"blocked"`
	// Rubber are the parts mineral oil reached that are still to be replaced.
	Rubber []RubberPart `json:"rubber"`
	// Flush is what the gate says of a fluid that should not have gone in and is to be washed out.
	Flush *verify.Said `json:"flush,omitempty"`
	// StoodDays: the vehicle was put off in the middle of it and stood so long; the reservoir is filled before the
	// first opening.
	StoodDays int `json:"stood_days"`
	// WaterBefore and WaterAfter are what was measured of it, percent; nil where it was not.
	WaterBefore *float64 `json:"water_before"`
	WaterAfter  *float64 `json:"water_after"`
	// Routine are the wheels whose valves the tool has cycled, where it goes wheel by wheel.
	Routine []string `json:"routine_wheels"`
	// Stuck says why no plan can be made this way; nil where one is.
	Stuck *system.Fault `json:"stuck"`
	// CountAloud is how many strokes may be counted aloud and told at once, 0 where each is told.
	CountAloud int `json:"count_aloud"`
	// DrawDownNow: more would come over the brim. DrawDownTo is the mark, of the whole.
	DrawDownNow bool    `json:"draw_down_now"`
	DrawDownTo  float64 `json:"draw_down_to_cm3"`
	// LowNow: by what was moved some tank stands under the level it is filled at.
	LowNow  bool    `json:"low_now"`
	UsedCM3 float64 `json:"used_cm3"`
	RanDry  bool    `json:"ran_dry"` // the level fell to the lowest port: air went in
	Spilled bool    `json:"spilled"`
	// Fluid is where the old and the new are, for the drawing.
	Fluid      FluidNow `json:"fluid"`
	OpenWheels []string `json:"open_wheels"`
	LeftWheels []string `json:"left_wheels"` // left undone, with a reason
	Gone       []string `json:"gone"`        // worked at, and no longer in the system
	StepsLeft  []string `json:"steps_left"`  // beside the wheels
	// Cannot says why this cannot be ended here with these means.
	Cannot  string        `json:"cannot,omitempty"`
	Offers  []bleed.Offer `json:"offers"`
	Minutes float64       `json:"minutes"` // left
	// Need is the fluid the whole of it takes: the same figure as at Match.
	Need   match.FluidNeed `json:"need"`
	Bottle BottleView      `json:"bottle"`
	// LeastGapS is the time under which a second tap is the same stroke.
	LeastGapS float64 `json:"least_gap_s"`
	// Steering are the cycles of the steering side where there is one to bleed.
	Steering     []SteeringCycle `json:"steering"`
	SteeringSide bool            `json:"steering_side"`
	SteeringGood bool            `json:"steering_good"`
	// LeftWhys are the reasons a wheel may be left for.
	LeftWhys []LeftWhy `json:"left_whys"`
}

// strokeGapS: no foot or hand makes two slow strokes in this time; a glove that bounces does, here as at the calls.
const strokeGapS = bleed.CallGapS

// WheelState is a wheel as worked so far.
type WheelState struct {
	Strokes int `json:"strokes"` // of this round
	Needed  int `json:"needed"`  // strokes in all: those made and those left, looks included; 0 where strokes do not count
	// Certain are the strokes that fluid and air take yet, whatever is seen; the rest of Needed is for the looks.
	Certain int     `json:"certain"`
	CM3     float64 `json:"cm3"` // of this round
	// TotalStrokes and TotalCM3 are of all rounds; Rounds every one with what was seen.
	TotalStrokes int           `json:"total_strokes"`
	TotalCM3     float64       `json:"total_cm3"`
	Rounds       []stand.Round `json:"rounds"`
	// AirLeftCM3 is what still has to leave its bleeder for the air that may be on the way.
	AirLeftCM3 float64 `json:"air_left_cm3"`
	// FlushLeftCM3 is what still has to go through for a fluid that should not have gone in.
	FlushLeftCM3 float64 `json:"flush_left_cm3,omitempty"`
	LeftCM3      float64 `json:"left_cm3"` // to go
	Old          float64 `json:"old"`      // share of old fluid in what leaves now
	Clear        bool    `json:"clear"`    // the last opening ran clear
	ClearRow     int     `json:"clear_row"`
	ClearOf      int     `json:"clear_of"` // how often in a row it has to
	Enough       bool    `json:"enough"`   // the fluid and the air that had to come are through
	Done         bool    `json:"done"`
	// NotClear are the causes to look at, in order, where bubbles go on that its own way does not explain.
	NotClear []bleed.NotClear `json:"not_clear,omitempty"`
	Round    int              `json:"round"`
	Lost     int              `json:"lost"`
	Left     LeftWhy          `json:"left,omitempty"`
	LeftNote string           `json:"left_note,omitempty"`
	Affected bool             `json:"affected"`
	// WeighedCM3 and CountedCM3 are of the strokes a scale weighed; Disagrees: they differ by more than a stroke.
	WeighedCM3 float64 `json:"weighed_cm3,omitempty"`
	CountedCM3 float64 `json:"counted_cm3,omitempty"`
	Disagrees  bool    `json:"disagrees,omitempty"`
	// DoubtfulG is what the last stroke weighed, g, where that is more than it can have brought.
	DoubtfulG float64 `json:"doubtful_g,omitempty"`
}

// BleedStep is a step of the programme as it stands.
type BleedStep struct {
	bleed.Step
	Done bool `json:"done"`
	// Passed over: it was not done, and what came after it was.
	Passed bool `json:"passed,omitempty"`
}

// Ahead is what lies between now and the next filling or drawing down.
type Ahead struct {
	// CM3 may go yet; Steps of Counts are that, whole ones. −1 where a bottle keeps the reservoir full.
	CM3    float64      `json:"cm3"`
	Steps  int          `json:"steps"`
	Counts bleed.Counts `json:"counts"`
	// Up: it is drawn down then, not filled.
	Up bool `json:"up"`
	// StepCM3 is what one tap moves now: a stroke, or of a pot or a syringe what the reservoir bears. 0 where cm³ are
	// told.
	StepCM3 float64 `json:"step_cm3"`
}

// DrainFirst holds the two ways side by side, for all wheels that are left.
type DrainFirst struct {
	Now     WayCost `json:"now"`
	Drained WayCost `json:"drained"`
}

// WayCost is what a way takes yet.
type WayCost struct {
	Strokes int     `json:"strokes"` // 0 where strokes do not count
	CM3     float64 `json:"cm3"`     // out of the bleeders
	Poured  float64 `json:"poured_cm3"`
	Minutes float64 `json:"minutes"`
}

// FluidNow is the share of old fluid in each part.
type FluidNow struct {
	Reservoir map[string]float64 `json:"reservoir"` // by circuit
	Chamber   map[string]float64 `json:"chamber"`   // by circuit
	Air       map[string]float64 `json:"air"`       // by circuit: the part of its chamber that is air yet
	Pipe      map[string]float64 `json:"pipe"`      // by wheel
	Brake     map[string]float64 `json:"brake"`     // by wheel
	Mean      float64            `json:"mean"`
}
