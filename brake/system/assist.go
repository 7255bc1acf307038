package system

import (
	"slices"

	"geminate/brake/strict"
)

// Booster kinds.
const (
	BoosterNone             = "none"
	BoosterVacuum           = "vacuum"
	BoosterHydraulic        = "hydraulic"
	BoosterElectroHydraulic = "electro_hydraulic"
)

// Assist is what a kind of booster has and may do. The rest of the core asks for these and never for the kind by name,
// so that a new kind is a row here, a pattern and its words.
type Assist struct {
	Kind string `json:"kind"`
	// Unit is the kind of unit in the catalogue that replaces it, "" where there is none.
	Unit string `json:"unit"`
	// Vacuum is stored in a chamber behind a check valve: hose, valve, diaphragm, reserve by chamber volume.
	Vacuum bool `json:"vacuum"`
	// Pressure of a fluid drives it: power area, supply, an accumulator where there is one.
	Pressure bool `json:"pressure"`
	// Steering says that this fluid is the steering pump's: two lines of its own and a side of its own to bleed.
	Steering bool `json:"steering"`
	// OnePiece is a unit with the cylinder in it: nothing comes off it, no rod is set between them.
	OnePiece bool `json:"one_piece"`
	// Simulator is what the foot feels instead of the brakes: a pedal that holds says nothing of the cups while it is
	// powered.
	Simulator bool `json:"simulator"`
	// ToolLed is bled and emptied by a tool's routine alone, its high pressure is not let out by pumping.
	ToolLed bool `json:"tool_led"`

	fields []strict.Field // besides its kind
}

// Powered says whether anything helps the foot.
func (a *Assist) Powered() bool { return a.Vacuum || a.Pressure }

// AtPedal says whether assist is felt and counted at the pedal itself, engine on against engine off.
func (a *Assist) AtPedal() bool { return a.Powered() && !a.Simulator }

// common are the fields of whatever is powered.
var common = []strict.Field{
	strict.Req("ratio", strict.Above(1, 20)),
	strict.Req("cut_in_n", strict.Num(0, 1000)),
	strict.Req("jump_in_n", strict.Num(0, 3000)),
	strict.Req("spring_n", strict.Num(0, 1000)),
}

var byVacuum = append(slices.Clone(common), strict.Req("effective_area_mm2", strict.Num(100, 300000)),
	strict.Req("efficiency", strict.Num(0.1, 1)), strict.Req("vacuum_kpa", strict.Num(0, 110)),
	strict.Req("chamber_cm3", strict.Num(10, 50000)), strict.Req("stroke_to_release_cm3", strict.Num(0, 50000)))

var byPressure = append(
	slices.Clone(common),
	strict.Req("power_area_mm2", strict.Num(1, 20000)),
	strict.Req("supply_mpa", strict.Num(0, 40)),
	strict.Opt(
		"accumulator",
		strict.Obj(strict.Req("gas_cm3", strict.Num(1, 5000)), strict.Req("precharge_mpa", strict.Num(0.01, 40)),
			strict.Req("charged_mpa", strict.Num(0.01, 40)), strict.Req("use_cm3", strict.Num(0.1, 500))),
	),
)

var simulated = append(slices.Clone(byPressure),
	strict.Opt("simulator", strict.Obj(strict.Req("stiffness_n_per_mm", strict.Num(0.1, 1000)), strict.Req("free_mm", strict.Num(0, 100)))),
)

// assists are the kinds, one row each; the first is of a vehicle without a booster.
var assists = []Assist{
	{Kind: BoosterNone},
	{Kind: BoosterVacuum, Unit: "vacuum_booster", Vacuum: true, fields: byVacuum},
	{Kind: BoosterHydraulic, Unit: "hydraulic_booster", Pressure: true, Steering: true, fields: byPressure},
	{
		Kind:      BoosterElectroHydraulic,
		Unit:      "electro_hydraulic_booster",
		Pressure:  true,
		OnePiece:  true,
		Simulator: true,
		ToolLed:   true,
		fields:    simulated,
	},
}

// Assists lists every kind of booster.
func Assists() []Assist { return slices.Clone(assists) }

// assistOf is the row of a kind, nil for one that is not known.
func assistOf(kind string) *Assist {
	for i := range assists {
		if assists[i].Kind == kind {
			return &assists[i]
		}
	}
	return nil
}

// Assist is what this system's booster has and may do; nothing where it has none or its kind is not known.
func (s *System) Assist() *Assist {
	if a := assistOf(s.BoosterKind()); a != nil {
		return a
	}
	return &assists[0]
}

// BoosterKind returns the booster's kind, "none" where there is none.
func (s *System) BoosterKind() string {
	if s.Booster == nil {
		return BoosterNone
	}
	return s.Booster.Kind
}

// boosterShape is the shape of a booster in a file, a branch for each kind.
func boosterShape() strict.Shape {
	var kinds []string
	by := map[string][]strict.Field{}
	for _, a := range assists {
		kinds = append(kinds, a.Kind)
		by[a.Kind] = a.fields
	}
	return strict.ByKind([]strict.Field{strict.Req("kind", strict.OneOf(kinds...))}, by)
}
