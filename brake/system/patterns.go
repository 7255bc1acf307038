package system

import "fmt"

// A Pattern is a whole system to start a job from. Its figures are typical, not any maker's:
// common practice and assumption, no source, as the how-it-computes' table of typical values states.
type Pattern struct {
	ID    string
	Build func() System
}

// Patterns lists the patterns in the order they are offered.
var Patterns = []Pattern{
	{"pickup-front-rear-vacuum", pickupVacuum},
	{"car-diagonal-vacuum", carDiagonal},
	{"car-front-rear-vacuum", carFrontRear},
	{"pickup-hydraulic", pickupHydraulic},
	{"truck-hydraulic", truckHydraulic},
	{"special-manual", specialManual},
	{"special-vacuum", specialVacuum},
	{"hybrid-electro-hydraulic", hybrid},
	{"trailer-surge", trailerSurge},
	{"clutch-hydraulic", clutch},
}

// FromPattern builds a fresh system from a pattern id.
func FromPattern(id string) (*System, error) {
	for _, p := range Patterns {
		if p.ID == id {
			s := p.Build()
			return &s, nil
		}
	}
	return nil, fmt.Errorf("system: no pattern %q", id)
}

func ptr[T any](v T) *T { return &v }

// hose returns an ordinary hose: 90 mm³/m/MPa (common practice, no source).
func hose(lengthMM float64) Hose { return Hose{LengthMM: lengthMM, ExpansionMM3PerMPA: 90} }

func disc(pistonMM, clearanceMM, compliance, cavityCM3, friction, radiusMM float64) Brake {
	return Brake{Kind: "disc", PistonsMM: []float64{pistonMM}, Fixed: ptr(false), ClearanceMM: clearanceMM, TakeUpMPA: 0.12,
		ComplianceMM3: compliance, CavityCM3: cavityCM3, Friction: friction, EffectiveRadiusMM: radiusMM}
}

func drum(cylinderMM, clearanceMM, compliance, cavityCM3, factor, radiusMM float64) Brake {
	return Brake{Kind: "drum", CylinderMM: cylinderMM, ClearanceMM: clearanceMM, TakeUpMPA: 0.4,
		ComplianceMM3: compliance, CavityCM3: cavityCM3, BrakeFactor: factor, DrumRadiusMM: radiusMM}
}

func wheel(id string, lineMM, hoseMM float64, b Brake) Wheel {
	return Wheel{ID: id, Line: Line{LengthMM: lineMM, BoreMM: 3.4}, Hose: hose(hoseMM), Brake: b}
}

func circuit(id string, wheels ...string) Circuit { return Circuit{ID: id, Wheels: wheels} }

var shopAir = Ambient{AtmosphereKPA: 101.325, TemperatureC: 20}

func tandem(boreMM, strokePrimary, strokeSecondary float64, primary, secondary string) MasterCylinder {
	return MasterCylinder{BoreMM: boreMM, Efficiency: 0.95,
		Primary:   Chamber{Circuit: primary, StrokeMM: strokePrimary, CutoffMM: 1.2, PreloadN: 70},
		Secondary: &Chamber{Circuit: secondary, StrokeMM: strokeSecondary, CutoffMM: 1.2, PreloadN: 90}}
}

func vacuumBooster(ratio, jumpIn, areaMM2, chamberCM3, releaseCM3 float64) *Booster {
	return &Booster{Kind: BoosterVacuum, Ratio: ratio, CutInN: 60, JumpIn: jumpIn, EffectiveAreaMM2: areaMM2, Efficiency: 0.95,
		Spring: 110, VacuumKPA: ptr(65.0), ChamberCM3: chamberCM3, StrokeToReleaseCM3: releaseCM3}
}

func pickupVacuum() System {
	front := disc(76, 0.15, 115, 55, 0.38, 132)
	rear := drum(22.2, 0.4, 75, 14, 2.4, 140)
	return System{
		Format: Format, Name: "Half-ton pickup, vacuum booster, front/rear split, disc/drum",
		Vehicle: Vehicle{Kind: "truck", MassKG: 2750, TireRadiusMM: 370}, Ambient: shopAir,
		Pedal: &Pedal{Ratio: 3.9, FreePlayMM: 0.5, FloorMM: 150}, PushrodGapMM: 0.3,
		Booster:        vacuumBooster(6, 300, 62000, 5600, 1600),
		MasterCylinder: tandem(26.9875, 21, 17, "A", "B"),
		Fluid:          Fluid{Class: "DOT 3", BulkModulusMPA: 1900, WaterPercent: 0.5},
		Circuits:       []Circuit{circuit("A", "LF", "RF"), circuit("B", "LR", "RR")},
		Wheels: []Wheel{wheel("LF", 1100, 420, front), wheel("RF", 2100, 420, front),
			wheel("LR", 5200, 320, rear), wheel("RR", 5900, 320, rear)},
		Proportioning: &Proportioning{Wheels: []string{"LR", "RR"}, KneeMPA: 3, Slope: 0.37},
		Reservoir:     &Reservoir{FullCM3: 420, LowestPortCM3: 150},
	}
}

func carDiagonal() System {
	front := disc(54, 0.15, 65, 32, 0.38, 108)
	rear := disc(34, 0.15, 40, 16, 0.38, 105)
	return System{
		Format: Format, Name: "Compact car, vacuum booster, diagonal split, four discs",
		Vehicle: Vehicle{Kind: "car", MassKG: 1450, TireRadiusMM: 305}, Ambient: shopAir,
		Pedal: &Pedal{Ratio: 3.9, FreePlayMM: 0.4, FloorMM: 145}, PushrodGapMM: 0.3,
		Booster:        vacuumBooster(4.5, 220, 38000, 1900, 580),
		MasterCylinder: tandem(22.225, 19, 17, "A", "B"),
		Fluid:          Fluid{Class: "DOT 4", BulkModulusMPA: 1900, WaterPercent: 0.5},
		Circuits:       []Circuit{circuit("A", "LF", "RR"), circuit("B", "RF", "LR")},
		Wheels: []Wheel{wheel("LF", 900, 380, front), wheel("RF", 1700, 380, front),
			wheel("LR", 3900, 300, rear), wheel("RR", 4300, 300, rear)},
		Proportioning: &Proportioning{Wheels: []string{"LR", "RR"}, KneeMPA: 3.5, Slope: 0.4},
		Reservoir:     &Reservoir{FullCM3: 280, LowestPortCM3: 100},
		Modulator:     &Modulator{Kind: "abs", VolumeCM3: 6},
	}
}

func carFrontRear() System {
	front := disc(57.2, 0.15, 70, 35, 0.38, 115)
	rear := drum(19.05, 0.4, 45, 12, 2.4, 114)
	return System{
		Format: Format, Name: "Saloon car, vacuum booster, front/rear split, disc/drum",
		Vehicle: Vehicle{Kind: "car", MassKG: 1500, TireRadiusMM: 310}, Ambient: shopAir,
		Pedal: &Pedal{Ratio: 4.0, FreePlayMM: 0.4, FloorMM: 145}, PushrodGapMM: 0.3,
		Booster:        vacuumBooster(4.5, 220, 38000, 1900, 580),
		MasterCylinder: tandem(22.225, 19, 16, "A", "B"),
		Fluid:          Fluid{Class: "DOT 3", BulkModulusMPA: 1900, WaterPercent: 0.5},
		Circuits:       []Circuit{circuit("A", "LF", "RF"), circuit("B", "LR", "RR")},
		Wheels: []Wheel{wheel("LF", 1000, 380, front), wheel("RF", 1800, 380, front),
			wheel("LR", 4300, 300, rear), wheel("RR", 4600, 300, rear)},
		Proportioning: &Proportioning{Wheels: []string{"LR", "RR"}, KneeMPA: 3, Slope: 0.37},
		Reservoir:     &Reservoir{FullCM3: 300, LowestPortCM3: 110},
	}
}

func pickupHydraulic() System {
	front := disc(80, 0.15, 130, 62, 0.38, 140)
	rear := disc(54, 0.15, 90, 40, 0.38, 150)
	return System{
		Format: Format, Name: "One-ton pickup, hydraulic booster from the steering pump, front/rear split, four discs",
		Vehicle: Vehicle{Kind: "truck", MassKG: 4500, TireRadiusMM: 395}, Ambient: shopAir,
		Pedal: &Pedal{Ratio: 4.1, FreePlayMM: 0.5, FloorMM: 160}, PushrodGapMM: 0.3,
		Booster: &Booster{Kind: BoosterHydraulic, Ratio: 6, CutInN: 55, JumpIn: 300, PowerAreaMM2: 1150, SupplyMPA: ptr(10.0), Spring: 110,
			Accumulator: &Accumulator{GasCM3: 90, PrechargeMPA: 4, ChargedMPA: 10, UseCM3: 16}},
		MasterCylinder: tandem(31.75, 22, 18, "A", "B"),
		Fluid:          Fluid{Class: "DOT 3", BulkModulusMPA: 1900, WaterPercent: 0.5},
		Circuits:       []Circuit{circuit("A", "LF", "RF"), circuit("B", "LR", "RR")},
		Wheels: []Wheel{wheel("LF", 1200, 450, front), wheel("RF", 2300, 450, front),
			wheel("LR", 5600, 350, rear), wheel("RR", 6300, 350, rear)},
		Proportioning: &Proportioning{Wheels: []string{"LR", "RR"}, KneeMPA: 4, Slope: 0.45},
		Reservoir:     &Reservoir{FullCM3: 520, LowestPortCM3: 180},
	}
}

func specialManual() System {
	front := disc(54, 0.15, 80, 34, 0.42, 115)
	rear := drum(20.64, 0.4, 55, 13, 2.4, 127)
	return System{
		Format: Format, Name: "Light custom build, no booster, front/rear split, disc/drum",
		Vehicle: Vehicle{Kind: "car", MassKG: 1150, TireRadiusMM: 315}, Ambient: shopAir,
		Pedal: &Pedal{Ratio: 6, FreePlayMM: 0.5, FloorMM: 165}, PushrodGapMM: 0.3,
		Booster:        &Booster{Kind: BoosterNone},
		MasterCylinder: tandem(23.8125, 17, 14, "A", "B"),
		Fluid:          Fluid{Class: "DOT 3", BulkModulusMPA: 1900, WaterPercent: 0.5},
		Circuits:       []Circuit{circuit("A", "LF", "RF"), circuit("B", "LR", "RR")},
		Wheels: []Wheel{wheel("LF", 1300, 380, front), wheel("RF", 2000, 380, front),
			wheel("LR", 4200, 300, rear), wheel("RR", 4500, 300, rear)},
		Reservoir: &Reservoir{FullCM3: 300, LowestPortCM3: 110},
	}
}

// trailerSurge is a tandem-axle trailer with one chamber for four drums.
func trailerSurge() System {
	d := drum(22.2, 0.45, 60, 12, 2.4, 152)
	return System{
		Format: Format, Name: "Tandem-axle trailer, surge actuator, drums",
		Vehicle: Vehicle{Kind: "trailer", MassKG: 2700, TireRadiusMM: 340}, Ambient: shopAir,
		Actuator: &Actuator{Kind: "surge", Ratio: 1, CutInN: 350, FloorMM: 60},
		MasterCylinder: MasterCylinder{BoreMM: 22.225, Efficiency: 0.95,
			Primary: Chamber{Circuit: "A", StrokeMM: 38, CutoffMM: 1.4, PreloadN: 80}},
		Fluid: Fluid{Class: "DOT 3", BulkModulusMPA: 1900, WaterPercent: 0.5},
		// One line along the tongue, then a branch to each wheel.
		Circuits: []Circuit{{ID: "A", Wheels: []string{"L1", "R1", "L2", "R2"}, SharedMM: ptr(3200.0)}},
		Wheels: []Wheel{wheel("L1", 4600, 350, d), wheel("R1", 5600, 350, d),
			wheel("L2", 5500, 350, d), wheel("R2", 6500, 350, d)},
		Reservoir: &Reservoir{FullCM3: 250, LowestPortCM3: 60},
	}
}

// truckHydraulic is a medium-duty truck at full weight. Its long travel and its modest braking
// without assist are what such trucks have.
func truckHydraulic() System {
	front := disc(66, 0.15, 160, 90, 0.38, 170)
	front.PistonsMM = []float64{66, 66}
	rear := front
	rear.PistonsMM = []float64{60, 60}
	return System{
		Format: Format, Name: "Medium-duty truck, hydraulic booster from the steering pump, front/rear split, four discs",
		Vehicle: Vehicle{Kind: "truck", MassKG: 8200, TireRadiusMM: 410}, Ambient: shopAir,
		Pedal: &Pedal{Ratio: 4.5, FreePlayMM: 0.5, FloorMM: 175}, PushrodGapMM: 0.3,
		Booster: &Booster{Kind: BoosterHydraulic, Ratio: 7, CutInN: 60, JumpIn: 350, PowerAreaMM2: 1900, SupplyMPA: ptr(13.0), Spring: 110,
			Accumulator: &Accumulator{GasCM3: 150, PrechargeMPA: 5, ChargedMPA: 13, UseCM3: 28}},
		MasterCylinder: tandem(36.5125, 25, 23, "A", "B"),
		Fluid:          Fluid{Class: "DOT 3", BulkModulusMPA: 1900, WaterPercent: 0.5},
		Circuits:       []Circuit{circuit("A", "LF", "RF"), circuit("B", "LR", "RR")},
		Wheels: []Wheel{wheel("LF", 1400, 500, front), wheel("RF", 2700, 500, front),
			wheel("LR", 6800, 450, rear), wheel("RR", 7600, 450, rear)},
		Reservoir: &Reservoir{FullCM3: 900, LowestPortCM3: 320},
	}
}

// specialVacuum is a custom build with its unit under the floor, below the brakes: residual valves
// keep the fluid from running back (2 psi for discs, 10 psi for drums: common practice, no source).
func specialVacuum() System {
	front := disc(41.3, 0.10, 130, 60, 0.42, 120)
	front.PistonsMM, front.Fixed = []float64{41.3, 41.3}, ptr(true)
	rear := drum(22.2, 0.4, 60, 14, 2.4, 127)
	s := System{
		Format: Format, Name: "Custom build, small dual-diaphragm booster under the floor, residual valves, disc/drum",
		Vehicle: Vehicle{Kind: "car", MassKG: 1500, TireRadiusMM: 340}, Ambient: shopAir,
		Pedal: &Pedal{Ratio: 4.2, FreePlayMM: 0.4, FloorMM: 150}, PushrodGapMM: 0.3,
		Booster:        vacuumBooster(4.5, 250, 38000, 1900, 580),
		MasterCylinder: tandem(25.4, 22, 19, "A", "B"),
		Fluid:          Fluid{Class: "DOT 3", BulkModulusMPA: 1900, WaterPercent: 0.5},
		Circuits:       []Circuit{circuit("A", "LF", "RF"), circuit("B", "LR", "RR")},
		Wheels: []Wheel{wheel("LF", 2400, 400, front), wheel("RF", 2600, 400, front),
			wheel("LR", 3000, 320, rear), wheel("RR", 3300, 320, rear)},
		Reservoir: &Reservoir{FullCM3: 330, LowestPortCM3: 120},
	}
	s.Circuits[0].ResidualMPA, s.Circuits[1].ResidualMPA = ptr(0.014), ptr(0.069)
	return s
}

// hybrid has a pressure source of its own and a spring for the foot; without power the pedal works
// the cylinder as in any other car.
func hybrid() System {
	front := disc(54, 0.15, 65, 32, 0.38, 112)
	rear := disc(36, 0.15, 40, 18, 0.38, 110)
	return System{
		Format: Format, Name: "Hybrid car, electro-hydraulic booster with stroke simulator, diagonal split, four discs",
		Vehicle: Vehicle{Kind: "car", MassKG: 1580, TireRadiusMM: 315}, Ambient: shopAir,
		Pedal: &Pedal{Ratio: 3.6, FreePlayMM: 0.4, FloorMM: 145}, PushrodGapMM: 0.3,
		Booster: &Booster{
			Kind:         BoosterElectroHydraulic,
			Ratio:        3,
			CutInN:       50,
			JumpIn:       200,
			PowerAreaMM2: 300,
			SupplyMPA:    ptr(14.0),
			Spring:       110,
			Accumulator:  &Accumulator{GasCM3: 120, PrechargeMPA: 7, ChargedMPA: 14, UseCM3: 9},
			Simulator:    &Simulator{StiffnessNPerMM: 75, FreeMM: 2},
		},
		MasterCylinder: tandem(22.225, 20, 18, "A", "B"),
		Fluid:          Fluid{Class: "DOT 4", BulkModulusMPA: 1900, WaterPercent: 0.5},
		Circuits:       []Circuit{circuit("A", "LF", "RR"), circuit("B", "RF", "LR")},
		Wheels: []Wheel{wheel("LF", 900, 380, front), wheel("RF", 1700, 380, front),
			wheel("LR", 3900, 300, rear), wheel("RR", 4300, 300, rear)},
		Reservoir: &Reservoir{FullCM3: 320, LowestPortCM3: 120},
		Modulator: &Modulator{Kind: "electro_hydraulic", VolumeCM3: 12},
	}
}

// clutch is a hydraulic clutch, which bleeds as a brake does: one chamber, one slave cylinder. The
// slave is written as a drum's cylinder that makes no brake force; its clearance is half the release
// stroke and its take-up the pressure at which the clutch is fully released.
func clutch() System {
	slave := Brake{Kind: "drum", CylinderMM: 20.64, ClearanceMM: 3.8, TakeUpMPA: 2.2, ComplianceMM3: 18, CavityCM3: 5, DrumRadiusMM: 120}
	return System{
		Format: Format, Name: "Hydraulic clutch, one chamber, external slave cylinder",
		Vehicle: Vehicle{Kind: "car", MassKG: 1500, TireRadiusMM: 310}, Ambient: shopAir,
		Pedal: &Pedal{Ratio: 5, FreePlayMM: 0.5, FloorMM: 140}, PushrodGapMM: 0.3,
		Booster: &Booster{Kind: BoosterNone},
		MasterCylinder: MasterCylinder{BoreMM: 15.875, Efficiency: 0.95,
			Primary: Chamber{Circuit: "A", StrokeMM: 26, CutoffMM: 1.2, PreloadN: 60}},
		Fluid:     Fluid{Class: "DOT 3", BulkModulusMPA: 1900, WaterPercent: 0.5},
		Circuits:  []Circuit{circuit("A", "CS")},
		Wheels:    []Wheel{wheel("CS", 900, 300, slave)},
		Reservoir: &Reservoir{FullCM3: 90, LowestPortCM3: 25},
	}
}
