package job

import (
	"slices"
	"strings"
	"time"

	"geminate/brake/match"
	"geminate/brake/plan"
	"geminate/brake/system"
)

// RepairWork is what was done at a wheel, a line or beside the units: what a paper says of it, and what is looked for
// when the vehicle comes again.
type RepairWork string

// Repairs.
const (
	WorkAdjusted      RepairWork = "adjusted" // shoes or slack set to a clearance
	WorkFreed         RepairWork = "freed"
	WorkPads          RepairWork = "pads"
	WorkShoes         RepairWork = "shoes"
	WorkCaliper       RepairWork = "caliper"
	WorkWheelCylinder RepairWork = "wheel_cylinder"
	WorkHose          RepairWork = "hose"
	WorkLine          RepairWork = "line"
	WorkReservoir     RepairWork = "reservoir"
	WorkModulator     RepairWork = "modulator"
	WorkSupply        RepairWork = "supply"
	WorkCheckValve    RepairWork = "check_valve"
	WorkRodSet        RepairWork = "rod_set"
	WorkPedalStop     RepairWork = "pedal_stop"    // lamp switch, stop, return spring, bush
	WorkParkingCable  RepairWork = "parking_cable" // freed, renewed, set
	WorkCoupler       RepairWork = "coupler"
)

// repairPlace is where a repair is.
type repairPlace int

const (
	repairWhole repairPlace = iota
	repairAtWheel
	repairAtCircuit
)

type faults = []string

// repairs lists every repair once: which faults of the diagnosis it puts right, where it is, whether it opens the
// hydraulics, what it touches where it is work beside the plan, on which vehicles there is anything of the kind. Common
// practice, no source.
var repairs = []struct {
	work    RepairWork
	mends   faults // of the diagnosis
	at      repairPlace
	opens   bool
	touches plan.Touches
	applies func(*system.System) bool
}{
	{WorkAdjusted, faults{"wheel.excess_clearance", "trailer.shoes_far"}, repairAtWheel, false, plan.TouchesWheel, isNoClutch},
	{WorkFreed, faults{"wheel.seized", "trailer.wheels_seized"}, repairAtWheel, false, plan.TouchesWheel, isNoClutch},
	{WorkPads, faults{"wheel.linings"}, repairAtWheel, false, plan.TouchesWheel, hasBrake("disc")},
	{
		WorkShoes,
		faults{"wheel.linings", "wheel.excess_clearance", "trailer.shoes_far"},
		repairAtWheel,
		false,
		plan.TouchesWheel,
		hasBrake("drum"),
	},
	{WorkCaliper, faults{"wheel.leak", "wheel.seized"}, repairAtWheel, true, plan.TouchesAll, hasBrake("disc")},
	{
		WorkWheelCylinder,
		faults{"wheel.leak", "wheel.seized", "trailer.wheels_seized"},
		repairAtWheel,
		true,
		plan.TouchesAll,
		func(s *system.System) bool { return hasBrake("drum")(s) || !isNoClutch(s) },
	},
	{WorkHose, faults{"circuit.hose_expands", "circuit.hose_blocked"}, repairAtWheel, true, plan.TouchesAll, always},
	{WorkLine, faults{"circuit.line_leak"}, repairAtCircuit, true, plan.TouchesAll, always},
	{WorkReservoir, faults{"mc.reservoir_leak"}, repairWhole, true, plan.TouchesAll, always},
	{
		WorkModulator,
		faults{"circuit.modulator_leak", "circuit.modulator_air"},
		repairAtCircuit,
		true,
		plan.TouchesAll,
		func(s *system.System) bool { return s.Modulator != nil },
	},
	{
		WorkSupply,
		faults{"vacuum.supply_low", "hydraulic.supply_low", "steering.air"},
		repairWhole,
		false,
		plan.TouchesAll,
		func(s *system.System) bool { return s.Assist().Unit != "" },
	},
	{
		WorkCheckValve,
		faults{"vacuum.check_valve_leak"},
		repairWhole,
		false,
		plan.TouchesAll,
		func(s *system.System) bool { return s.Assist().Unit == "vacuum_booster" },
	},
	{WorkRodSet, faults{"rod.too_long", "rod.too_short"}, repairWhole, false, plan.TouchesPedal, always},
	{
		WorkPedalStop,
		faults{"pedal.held_down", "pedal.bush_worn"},
		repairWhole,
		false,
		plan.TouchesPedal,
		func(s *system.System) bool { return s.Has(system.HasFoot) },
	},
	{
		WorkParkingCable,
		faults{"wheel.parking_brake"},
		repairWhole,
		false,
		plan.TouchesWheel,
		func(s *system.System) bool { return s.VehicleKind() == system.Road },
	},
	{
		WorkCoupler,
		faults{"trailer.actuator_seized", "trailer.lockout", "trailer.breakaway_on", "trailer.damper_empty"},
		repairWhole,
		false,
		plan.TouchesAll,
		func(s *system.System) bool { return s.Actuator != nil },
	},
}

func always(*system.System) bool { return true }

func isNoClutch(s *system.System) bool { return s.VehicleKind() != system.Clutch }

func hasBrake(kind string) func(*system.System) bool {
	return func(s *system.System) bool {
		return slices.ContainsFunc(s.Wheels, func(w system.Wheel) bool { return w.Brake.Kind == kind })
	}
}

// RepairTold is a repair as it was done: where, what, and where a clearance or a length was set from what to what.
type RepairTold struct {
	Work RepairWork `json:"work"`
	// At is the wheel or the circuit; empty where the repair has no place of its own.
	At     string   `json:"at,omitempty"`
	FromMM *float64 `json:"from_mm,omitempty"`
	ToMM   *float64 `json:"to_mm,omitempty"`
	Note   string   `json:"note,omitempty"`
}

// RepairDone is one that was told.
type RepairDone struct {
	RepairTold
	When    time.Time `json:"when"`
	By      string    `json:"by"`
	EventID string    `json:"event_id"`
}

// repairsMost is how many a job has. Assumption.
const repairsMost = 60

func findRepair(w RepairWork) int {
	for i := range repairs {
		if repairs[i].work == w {
			return i
		}
	}
	return -1
}

// openedWheels are the wheels a joint elsewhere is at: those that were named, and those where a repair that opens was
// told. None where nobody named any: then it may be anywhere.
func (j *Job) openedWheels() []string {
	out := slices.Clone(j.Choices.Bleed.Wheels)
	if len(out) == 0 || j.Intake.System == nil {
		return out
	}
	for _, r := range j.State.Repairs {
		at := []string{r.At}
		switch k := repairs[findRepair(r.Work)]; {
		case !k.opens || k.at == repairWhole:
			continue
		case k.at == repairAtCircuit:
			if at = j.circuitWheels(r.At); slices.ContainsFunc(at, func(w string) bool { return slices.Contains(out, w) }) {
				continue // the line is that of a wheel that was named
			}
		}
		for _, w := range at {
			if !slices.Contains(out, w) {
				out = append(out, w)
			}
		}
	}
	return out
}

func (j *Job) circuitWheels(id string) []string {
	for _, c := range j.Intake.System.Circuits {
		if c.ID == id {
			return c.Wheels
		}
	}
	return nil
}

// Valid implements Body.
func (r *RepairTold) Valid() error {
	if findRepair(r.Work) < 0 {
		var all []string
		for _, k := range repairs {
			all = append(all, string(k.work))
		}
		return fault("$.data.work", "fault.enum", map[string]any{"value": clip(string(r.Work)), "allowed": strings.Join(all, ", ")})
	}
	for path, v := range map[string]*float64{"from_mm": r.FromMM, "to_mm": r.ToMM} {
		if v == nil {
			continue
		}
		if err := inField("$.data."+path, "repair.set_mm", *v); err != nil {
			return err
		}
	}
	if err := text("$.data.at", r.At, nameMost); err != nil {
		return err
	}
	return text("$.data.note", r.Note, 4*nameMost)
}

// Check implements Body: there is such a thing on this vehicle, and it is not hydraulic work that nothing asks to be
// bled.
func (r *RepairTold) Check(j *Job) error {
	s, k := j.Intake.System, &repairs[findRepair(r.Work)]
	if s == nil || !k.applies(s) {
		return fault("$.data.work", "fault.no_such_part", map[string]any{"value": string(r.Work)})
	}
	there := r.At == ""
	switch k.at {
	case repairAtWheel:
		there = s.Wheel(r.At) != nil
	case repairAtCircuit:
		there = slices.ContainsFunc(s.Circuits, func(c system.Circuit) bool { return c.ID == r.At })
	}
	if !there {
		return fault("$.data.at", "fault.no_such_part", map[string]any{"value": clip(r.At)})
	}
	if len(j.State.Repairs) >= repairsMost {
		return fault("$.data.work", "fault.count", map[string]any{"value": len(j.State.Repairs) + 1, "min": 0, "max": repairsMost})
	}
	if k.opens && j.Choices.Scope != match.ElsewhereOpened {
		return fault("$.data.work", "fault.repair_opens", nil)
	}
	return nil
}

// Apply implements Body. Where the job is a repair elsewhere its steps say when it was opened, and this says where: a
// place nobody had named is bled as well. In another job it is work beside the plan, and what was read of it before
// proves nothing any more.
func (r *RepairTold) Apply(j *Job, e *Event) {
	j.State.Repairs = append(slices.Clone(j.State.Repairs), RepairDone{RepairTold: *r, When: e.At, By: e.By.Name, EventID: e.ID})
	k := &repairs[findRepair(r.Work)]
	if !j.Choices.Scope.OnlyElsewhere() {
		j.worked(e, string(e.Kind), plan.TouchedBy(k.touches)...)
		return
	}
	if k.opens {
		j.namesWheels(e)
	}
	if k.opens && (k.at == repairWhole || k.work == WorkModulator) { // ahead of every wheel, whichever were named
		if len(j.Choices.Bleed.Wheels) > 0 {
			j.airFromCylinder(e.place, string(e.Kind))
		}
		j.State.ModulatorAir = j.State.ModulatorAir || k.work == WorkModulator
	}
}

// RepairOffer is a repair that can be told of this vehicle, and where.
type RepairOffer struct {
	Work RepairWork `json:"work"`
	// At are its places; empty where it has none of its own.
	At []string `json:"at"`
	// Sets says that something is set, from one figure to another.
	Sets bool `json:"sets"`
}

// repairOffers are the repairs that can be told of this job as it stands.
func (j *Job) repairOffers() []RepairOffer {
	out := []RepairOffer{}
	s := j.Intake.System
	for _, k := range repairs {
		if s == nil || !k.applies(s) || k.opens && j.Choices.Scope != match.ElsewhereOpened {
			continue
		}
		o := RepairOffer{Work: k.work, At: []string{}, Sets: k.work == WorkAdjusted || k.work == WorkRodSet}
		switch k.at {
		case repairAtWheel:
			for i := range s.Wheels {
				o.At = append(o.At, s.Wheels[i].ID)
			}
		case repairAtCircuit:
			for _, c := range s.Circuits {
				o.At = append(o.At, c.ID)
			}
		}
		out = append(out, o)
	}
	return out
}

// mended are the faults of the diagnosis that the repairs told of a vehicle put right.
func (j *Job) mended() []string {
	out := []string{}
	for _, r := range j.State.Repairs {
		if i := findRepair(r.Work); i >= 0 {
			out = append(out, repairs[i].mends...)
		}
	}
	return out
}
