package verify

import (
	"encoding/json"
	"geminate/brake/diagnose"
	"geminate/brake/strict"
	"geminate/brake/system"
	"geminate/brake/twin"
)

// Ways without a force gauge: most shops have none. The hold with a firm foot, the pump test by the rule, and the
// height at a firm foot against the twin's band stand for the two forces; the record says that it was so.

// Findings of this station for a shop without a force gauge.
const (
	NoGauge    = "check.no_gauge"    // stated: no force gauge or scale here
	Pump       = "pedal.pump"        // heights at the 1st, 2nd and 4th quick apply, by a rule
	FirmHeight = "pedal.firm_travel" // travel at a firm foot, engine off and assist exhausted
)

// PumpHeights are the pedal's heights over the floor at a firm foot, mm, at the first, second and fourth of four quick
// applies.
type PumpHeights struct {
	FirstMM  float64 `json:"first_mm"`
	SecondMM float64 `json:"second_mm"`
	FourthMM float64 `json:"fourth_mm"`
}

// A firm foot is 150 to 300 N (how-it-computes, section 9). Pumped up by no more than 5 mm, or a tenth of the travel
// where that is more: that it pumps no higher is the trade's rule, the figure an assumption.
const (
	FirmLowN, firmHighN = 150.0, 300.0
	pumpMostMM          = 5.0
	pumpMostShare       = 0.10
	// What a pedal keeps of its way over the floor under a firm foot, a seventh. Assumption.
	reserveShare = 1.0 / 7
)

// CheckByHand says what is wrong with a finding of the ways without a gauge.
func CheckByHand(id string, value json.RawMessage) error {
	bad := func(code string, with map[string]any) error {
		return system.Faults{{Path: "$.data.value", Code: code, With: with}}
	}
	var list []float64
	if id == Pump {
		var v PumpHeights
		if err := strict.Decode(value, &v); err != nil {
			return err
		}
		list = []float64{v.FirstMM, v.SecondMM, v.FourthMM}
	} else {
		var v float64
		if err := json.Unmarshal(value, &v); err != nil {
			return bad("fault.type", map[string]any{"want": "number"})
		}
		list = []float64{v}
	}
	for _, v := range list {
		if !(v > 0 && v <= HeightMostMM) {
			return bad("fault.range", map[string]any{"value": v, "min": 0, "max": HeightMostMM})
		}
	}
	return nil
}

// HeightMostMM is how high a pedal stands over the floor at most, mm. Assumption.
const HeightMostMM = 300.0

func (in *Input) noGauge() bool {
	var v string
	_, ok := in.read(NoGauge, &v)
	return ok && v == "yes"
}

// pump judges the pump test.
func (in *Input) pump() (State, string, map[string]any) {
	var v PumpHeights
	if code, with, ok := in.evidence(Pump, &v); !ok {
		return Missing, code, with
	}
	if !(v.FirstMM > 0 && v.SecondMM > 0 && v.FourthMM > 0) { // a pedal that lies on the floor has no height
		return Missing, "gate.pump.floor", nil
	}
	limit := pumpMostMM
	if p := in.System.Pedal; p != nil {
		limit = max(limit, pumpMostShare*(p.FloorMM-v.FirstMM))
	}
	rise := max(v.SecondMM, v.FourthMM) - v.FirstMM
	with := map[string]any{"rise_mm": max(0, rise), "limit_mm": limit}
	if rise > limit {
		return Failed, "gate.pump.rises", with
	}
	if falls := v.FirstMM - min(v.SecondMM, v.FourthMM); falls > limit { // it goes down from one to the next: it sinks
		return Failed, "gate.pump.falls", map[string]any{"fall_mm": falls, "limit_mm": limit}
	}
	if p := in.System.Pedal; p != nil && v.FirstMM < reserveShare*p.FloorMM { // nothing is left if anything more goes
		return Failed, "gate.pump.low", map[string]any{"height_mm": v.FirstMM, "least_mm": reserveShare * p.FloorMM}
	}
	return OK, "gate.pump.ok", with
}

// firm judges the travel at a firm foot against the band of a sound vehicle from the lightest to the firmest foot.
func (in *Input) firm() (State, string, map[string]any) {
	var travel float64
	if code, with, ok := in.evidence(FirmHeight, &travel); !ok {
		return Missing, code, with
	}
	if travel <= 0 {
		return Missing, "gate.firm.none", nil
	}
	m := twin.New(in.System)
	low, high := BandOf(m, FirmLowN, false).LowMM, BandOf(m, firmHighN, false).HighMM
	with := map[string]any{"travel_mm": travel, "low_mm": low, "high_mm": high}
	switch {
	case travel > high:
		return Failed, "gate.readings.long", with
	case travel < low:
		return Failed, "gate.readings.short", with
	}
	return OK, "gate.firm.ok", with
}

// firmHold says whether a hold by a firm foot counts: without a gauge, with the engine on where there is assist, which
// presses a passing cup hard.
func (in *Input) firmHold(v diagnose.Sink) bool {
	return in.noGauge() && v.PedalForceN >= in.FirmN() && (!assisted(in) || v.Engine == "on")
}

// FirmN is the least a firm foot has to give, N: with assist what one holds easily; without it as much as presses a
// passing cup.
func (in *Input) FirmN() float64 {
	if in.System.Pedal == nil || assisted(in) {
		return FirmLowN
	}
	return in.holdLeastN(twin.New(in.System), false)
}
