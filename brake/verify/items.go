package verify

import (
	"maps"
	"slices"
)

// Row is one item of the gate: of whom it is asked, where it is done, how it is judged, and where it leads back to when
// it fails. What a reading speaks of, and so what later work ends it, is its entry in stand.Evidences. A new check is a
// row here, an entry there, and its words.
type Row struct {
	ID    string
	Where Place
	Asked func(*Input) bool
	// Judge says how it stands; nil is a finding that is yes or no, and yes passes.
	Judge func(*Input) (st State, code string, with map[string]any)
	Back  WayBack
	// Station is where it is done, for an item that is not done at Verify itself.
	Station string
}

// WayBack is where what failed leads: a words key and a station.
type WayBack struct{ Code, Station string }

func (r *Row) judge(in *Input) (State, string, map[string]any) {
	if r.Judge == nil {
		return in.yesNo(r.ID)
	}
	return r.Judge(in)
}

// Of whom an item is asked.

func always(*Input) bool { return true }

func hasPedal(in *Input) bool { return in.System.Pedal != nil }
func clutch(in *Input) bool   { return in.System.IsClutch() }
func trailer(in *Input) bool  { return in.System.IsTrailer() }
func road(in *Input) bool     { return !clutch(in) }
func towing(in *Input) bool   { return !trailer(in) }
func car(in *Input) bool      { return !clutch(in) && !trailer(in) }

// brakes says whether the pedal works brakes: a clutch is not pumped and stops nothing.
func brakes(in *Input) bool { return hasPedal(in) && !clutch(in) }

func assisted(in *Input) bool {
	return in.System.Assist().AtPedal()
}

// told is a judgement that hangs on nothing but that it is asked.
func told(st State, code string) func(*Input) (State, string, map[string]any) {
	return func(*Input) (State, string, map[string]any) { return st, code, nil }
}

var (
	toRod      = WayBack{"back.rod", "replace"}
	toBleed    = WayBack{"back.bleed", "bleed"}
	toAssist   = WayBack{"back.assist", "diagnose"}
	toDiagnose = WayBack{"back.diagnose", "diagnose"}
)

// table is the gate, in the order of the work. It is made at the start, for some of it judges by the whole of it.
var table []Row

func init() {
	table = []Row{
		{ID: "parked", Where: AtWork, Asked: func(in *Input) bool { return in.Parked }, Judge: told(Missing, "gate.parked")},
		{
			ID:      "unit",
			Where:   AtWork,
			Station: "match",
			Asked:   func(in *Input) bool { return in.NoUnit },
			Judge:   told(Missing, "gate.unit.missing"),
		},
		{ID: "plan", Where: AtWork, Station: "replace", Asked: always, Judge: (*Input).plan},
		{
			ID:      "fit",
			Where:   AtWork,
			Station: "match",
			Asked:   func(in *Input) bool { return len(in.Unfit) > 0 },
			Judge:   (*Input).fit,
			Back:    WayBack{"back.fit", "match"},
		},
		{
			ID:      "fits",
			Where:   AtWork,
			Station: "match",
			Asked:   func(in *Input) bool { return in.Fits.Asked },
			Judge:   (*Input).fits,
			Back:    WayBack{"back.fit", "match"},
		},
		{
			ID:      "told_late",
			Where:   AtWork,
			Station: "replace",
			Asked:   func(in *Input) bool { return len(in.Doubted) > 0 },
			Judge:   (*Input).doubtedThings,
		},
		{
			ID:      "rubber",
			Where:   AtWork,
			Station: "bleed",
			Asked:   func(in *Input) bool { return len(in.Rubber) > 0 },
			Judge:   (*Input).rubber,
			Back:    toBleed,
		},
		{
			ID:      "small_parts",
			Where:   AtWork,
			Station: "replace",
			Asked:   func(in *Input) bool { return in.SmallOff > 0 },
			Judge:   (*Input).smallParts,
		},
		{
			ID:      "rod",
			Where:   AtWork,
			Station: "replace",
			Asked:   func(in *Input) bool { return in.Rod != nil },
			Judge:   (*Input).rod,
			Back:    toRod,
		},
		{
			ID:      "torque",
			Where:   AtWork,
			Station: "replace",
			Asked:   func(in *Input) bool { return len(in.NoTorque)+len(in.ByHand)+len(in.Torques) > 0 },
			Judge:   (*Input).torque,
			Back:    WayBack{"back.torque", "replace"},
		},
		{
			ID:      "ran_dry",
			Where:   AtWork,
			Station: "bleed",
			Asked:   func(in *Input) bool { return in.RanDry },
			Judge:   told(Failed, "gate.ran_dry"),
			Back:    toBleed,
		},
		{
			ID:      "bleed",
			Where:   AtWork,
			Station: "bleed",
			Asked:   func(in *Input) bool { return in.Opened },
			Judge:   (*Input).bleed,
			Back:    toBleed,
		},
		{
			ID:      "put_off",
			Where:   AtWork,
			Station: "bleed",
			Asked:   func(in *Input) bool { return in.PutOff },
			Judge:   told(Missing, "gate.put_off"),
		},
		{
			ID:      "wheels_gone",
			Where:   AtWork,
			Station: "bleed",
			Asked:   func(in *Input) bool { return len(in.GoneWheels) > 0 },
			Judge:   (*Input).gone,
		},
		{
			ID:      "fluid",
			Where:   AtWork,
			Station: "match",
			Asked:   func(in *Input) bool { return in.Opened && in.Bottle != "" },
			Judge:   (*Input).bottle,
			Back:    WayBack{"back.fluid", "match"},
		},
		{
			ID:      "level",
			Where:   AtWork,
			Station: "bleed",
			Asked:   func(in *Input) bool { return in.Opened && in.LowLevel },
			Judge:   told(Missing, "gate.level.low"),
		},
		{ID: "contradicts", Where: AtWork, Asked: func(in *Input) bool { return len(in.contradicts()) > 0 }, Judge: (*Input).spokenAgainst},

		{ID: "pedal.sink", Where: EngineOn, Asked: hasPedal, Judge: (*Input).hold, Back: WayBack{"back.sinks", "diagnose"}},
		{ID: Pump, Where: EngineOff, Asked: func(in *Input) bool { return brakes(in) && !in.clear() }, Judge: (*Input).pump},
		{ID: FirmHeight, Where: EngineOff, Asked: func(in *Input) bool { return hasPedal(in) && in.noGauge() }, Judge: (*Input).firm},
		{
			ID:    "pedal.readings",
			Where: EngineOff,
			Asked: func(in *Input) bool { return hasPedal(in) && !in.noGauge() },
			Judge: (*Input).readings,
		},
		{
			ID:    "pedal.air",
			Where: EngineOff,
			Asked: func(in *Input) bool { return hasPedal(in) && !in.noGauge() && in.airStands() },
			Judge: func(in *Input) (State, string, map[string]any) { return airItem(in.AirLeft) },
		},
		{ID: "assist.pedal_falls_on_start", Where: EngineOn, Asked: assisted, Back: toAssist},
		{ID: "assist.reserve_applies", Where: Stopped, Asked: assisted, Judge: (*Input).reserve, Back: toAssist},
		{ID: "time", Where: AtWork, Asked: func(in *Input) bool { return in.Time.HadS < in.Time.SpentS }, Judge: (*Input).time},

		{ID: "check.coupler_strokes", Where: AtWheels, Asked: trailer},
		{ID: "check.coupler_holds", Where: AtWheels, Asked: trailer},
		{ID: "check.coupler_releases", Where: AtWheels, Asked: trailer},
		{ID: "check.breakaway", Where: Lamps, Asked: trailer},
		{ID: phoneOff, Where: EngineOff, Asked: func(in *Input) bool { return in.PhoneSeq > 0 }},
		{ID: "check.free_play", Where: EngineOff, Asked: towing, Back: toRod},
		{ID: "check.wheels_free", Where: AtWheels, Asked: road, Back: toRod},
		{ID: "check.dry_joints", Where: AtWheels, Asked: always, Back: WayBack{"back.joints", "replace"}},
		{ID: "check.hoses_firm", Where: AtWheels, Asked: always, Back: toDiagnose},
		{ID: "check.clutch_releases", Where: EngineOff, Asked: clutch},
		{ID: "check.brake_lamps", Where: Lamps, Asked: road},
		{ID: "check.lamps_out", Where: Lamps, Asked: car, Back: WayBack{"back.codes", "diagnose"}},
		{ID: "check.wheels_hot", Where: AtWheels, Asked: func(in *Input) bool { return road(in) && in.AsSupplied }, Back: toRod},
		{ID: "check.wheels_torqued", Where: AtWheels, Asked: road},
		{ID: "check.walking_stops", Where: OnRoad, Asked: road, Back: toDiagnose},
		{ID: "check.complaint_gone", Where: OnRoad, Asked: always, Back: toDiagnose},
		{ID: secondLook, Where: Second, Asked: always, Judge: (*Input).second},
		{ID: "check.level", Where: AtWheels, Asked: func(in *Input) bool { return in.Opened }},
		{ID: "check.bottle", Where: AtWheels, Asked: func(in *Input) bool { return in.Opened }, Back: WayBack{"back.fluid", "match"}},
	}
}

// Rows are the items of the gate, in the order of the work.
func Rows() []Row { return slices.Clone(table) }

// IsCheck says whether a finding is one of this station alone, which belongs to no fault table: yes or no.
func IsCheck(id string) bool { return slices.Contains(Checks(), id) }

// Checks lists them.
func Checks() []string {
	out := []string{NoGauge, Baseline}
	for _, r := range table {
		if (r.Judge == nil || r.ID == secondLook) && r.ID != "assist.pedal_falls_on_start" { // the diagnosis asks that too
			out = append(out, r.ID)
		}
	}
	return out
}

func placeOf(id string) Place {
	if i := slices.IndexFunc(table, func(r Row) bool { return r.ID == id }); i >= 0 {
		return table[i].Where
	}
	return AtWork
}

func (in *Input) fit() (State, string, map[string]any) {
	return Failed, "gate.fit.does_not", map[string]any{"units": in.Unfit}
}

func (in *Input) doubtedThings() (State, string, map[string]any) {
	things := slices.Sorted(maps.Keys(in.Doubted))
	steps := make([]string, len(things))
	for i, t := range things {
		steps[i] = in.Doubted[t]
	}
	return Missing, "gate.told_late", map[string]any{"steps": steps, "things": things}
}

func (in *Input) rubber() (State, string, map[string]any) {
	return Failed, "gate.rubber", map[string]any{"rubber_parts": in.Rubber}
}

func (in *Input) smallParts() (State, string, map[string]any) {
	return Missing, "gate.small_parts", map[string]any{"count": in.SmallOff}
}

func (in *Input) gone() (State, string, map[string]any) {
	return Failed, "gate.wheels_gone", map[string]any{"wheels": in.GoneWheels}
}

func (in *Input) bottle() (State, string, map[string]any) {
	if in.Bottle == BottleUnknown {
		return Missing, in.Bottle, nil
	}
	if in.Wash.Code != "" {
		return Failed, in.Wash.Code, in.Wash.With
	}
	return Failed, in.Bottle, nil
}

func (in *Input) spokenAgainst() (State, string, map[string]any) {
	return Failed, "gate.contradicts", map[string]any{"findings": in.contradicts()}
}
