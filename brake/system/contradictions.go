package system

import (
	"fmt"
	"slices"
	"strings"
)

// contradictions lists what each field allows by itself but the fields together do not. root is
// the decoded document, asked only for which fields were given at all.
func (s *System) contradictions(root map[string]any) Faults {
	var out Faults
	add := func(path, code string, with map[string]any) {
		out = append(out, Fault{Path: path, Code: code, With: with})
	}
	has := func(k string) bool { _, ok := root[k]; return ok }

	trailer := s.Vehicle.Kind == "trailer"
	switch {
	case trailer && !has("actuator"):
		add("$.actuator", "fault.trailer_needs_actuator", nil)
	case !trailer && s.Vehicle.Kind != "" && has("actuator"):
		add("$.actuator", "fault.actuator_only_on_trailer", map[string]any{"kind": s.Vehicle.Kind})
	}
	if has("actuator") || trailer {
		for _, k := range []string{"pedal", "booster"} {
			if has(k) {
				add("$."+k, "fault.not_on_trailer", nil)
			}
		}
	} else {
		for _, k := range []string{"pedal", "booster", "pushrod_gap_mm"} {
			if !has(k) {
				add("$."+k, "fault.missing", nil)
			}
		}
	}

	s.circuitContradictions(add)
	s.cylinderContradictions(add)
	s.partContradictions(add)
	return out
}

func (s *System) circuitContradictions(add func(string, string, map[string]any)) {
	wheelAt := map[string]string{}
	for i, w := range s.Wheels {
		path := fmt.Sprintf("$.wheels[%d].id", i)
		if w.ID == "" {
			continue
		}
		if first, twice := wheelAt[w.ID]; twice {
			add(path, "fault.id_twice", map[string]any{"value": w.ID, "first": first})
			continue
		}
		wheelAt[w.ID] = path
	}
	circuitAt, hung := map[string]bool{}, map[string]string{}
	for i, c := range s.Circuits {
		if c.ID == "" {
			continue
		}
		path := fmt.Sprintf("$.circuits[%d]", i)
		if circuitAt[c.ID] {
			add(path+".id", "fault.id_twice", map[string]any{"value": c.ID, "first": "$.circuits"})
		}
		circuitAt[c.ID] = true
		for j, w := range c.Wheels {
			at := fmt.Sprintf("%s.wheels[%d]", path, j)
			switch {
			case w == "":
			case wheelAt[w] == "":
				add(at, "fault.no_such_wheel", map[string]any{"value": w})
			case hung[w] != "":
				add(at, "fault.wheel_in_two_circuits", map[string]any{"value": w, "first": hung[w]})
			default:
				hung[w] = c.ID
			}
		}
	}
	for _, w := range s.Wheels {
		if w.ID != "" && hung[w.ID] == "" {
			add(strings.TrimSuffix(wheelAt[w.ID], ".id"), "fault.wheel_in_no_circuit", map[string]any{"value": w.ID})
		}
	}
	if p := s.Proportioning; p != nil {
		for j, w := range p.Wheels {
			at := fmt.Sprintf("$.proportioning.wheels[%d]", j)
			if w != "" && wheelAt[w] == "" {
				add(at, "fault.no_such_wheel", map[string]any{"value": w})
			} else if w != "" && slices.Index(p.Wheels, w) < j {
				add(at, "fault.id_twice", map[string]any{"value": w, "first": "$.proportioning.wheels"})
			}
		}
	}
	chambers := map[string]*Chamber{"primary": &s.MasterCylinder.Primary}
	if s.MasterCylinder.Secondary != nil {
		chambers["secondary"] = s.MasterCylinder.Secondary
	}
	fed := map[string]bool{}
	for _, name := range []string{"primary", "secondary"} {
		c := chambers[name]
		if c == nil || c.Circuit == "" {
			continue
		}
		at := "$.master_cylinder." + name + ".circuit"
		if !circuitAt[c.Circuit] {
			add(at, "fault.no_such_circuit", map[string]any{"value": c.Circuit})
		} else if fed[c.Circuit] {
			add(at, "fault.circuit_fed_twice", map[string]any{"value": c.Circuit})
		}
		fed[c.Circuit] = true
	}
	for i, c := range s.Circuits {
		if c.ID != "" && !fed[c.ID] {
			add(fmt.Sprintf("$.circuits[%d]", i), "fault.circuit_without_chamber", map[string]any{"value": c.ID})
		}
	}
}

// leastWorkingMM of a chamber's stroke lie beyond its port, a preload taken off: less pumps nothing.
// Assumption.
const leastWorkingMM = 0.5

func (s *System) cylinderContradictions(add func(string, string, map[string]any)) {
	m := s.MasterCylinder
	chamber := func(name string, c *Chamber, gap float64) {
		if c == nil || c.StrokeMM == 0 {
			return
		}
		at := "$.master_cylinder." + name
		if c.StrokeMM-c.CutoffMM < leastWorkingMM {
			add(at+".cutoff_mm", "fault.cutoff_past_stroke", map[string]any{"value": c.CutoffMM, "stroke_mm": c.StrokeMM})
		}
		// A preload takes stroke from the primary: it cannot take all of it.
		if gap < 0 && c.StrokeMM+gap-max(0, c.CutoffMM+gap) < leastWorkingMM {
			add("$.pushrod_gap_mm", "fault.preload_past_stroke", map[string]any{"value": gap, "stroke_mm": c.StrokeMM})
		}
	}
	chamber("primary", &m.Primary, s.PushrodGapMM)
	chamber("secondary", m.Secondary, 0)
}

// leastUsableCM3 of a reservoir, or of one circuit's part of it, lie above its lowest port: a clutch's
// small pot holds several times as much. Assumption.
const leastUsableCM3 = 2

func (s *System) partContradictions(add func(string, string, map[string]any)) {
	if b := s.Booster; b != nil {
		if s.Assist().Vacuum && b.ChamberCM3 > 0 && b.StrokeToReleaseCM3 >= b.ChamberCM3 {
			add("$.booster.stroke_to_release_cm3", "fault.release_past_chamber",
				map[string]any{"value": b.StrokeToReleaseCM3, "chamber_cm3": b.ChamberCM3})
		}
		if b.VacuumKPA != nil && s.Ambient.AtmosphereKPA > 0 && *b.VacuumKPA > s.Ambient.AtmosphereKPA {
			add("$.booster.vacuum_kpa", "fault.vacuum_past_atmosphere",
				map[string]any{"value_kpa": *b.VacuumKPA, "atmosphere_kpa": s.Ambient.AtmosphereKPA})
		}
		if a := b.Accumulator; a != nil && a.ChargedMPA > 0 && a.PrechargeMPA > a.ChargedMPA {
			add("$.booster.accumulator.precharge_mpa", "fault.precharge_past_charge",
				map[string]any{"value_mpa": a.PrechargeMPA, "charged_mpa": a.ChargedMPA})
		}
	}
	for i, w := range s.Wheels {
		if w.Brake.Kind == "disc" && w.Brake.EffectiveRadiusMM > 0 {
			if r := s.tireRadius(&w); r > 0 && w.Brake.EffectiveRadiusMM >= r {
				add(fmt.Sprintf("$.wheels[%d].brake.effective_radius_mm", i), "fault.brake_larger_than_tire",
					map[string]any{"value": w.Brake.EffectiveRadiusMM, "tire_radius_mm": r})
			}
		}
		if w.Brake.Kind == "drum" && w.Brake.DrumRadiusMM > 0 {
			if r := s.tireRadius(&w); r > 0 && w.Brake.DrumRadiusMM >= r {
				add(fmt.Sprintf("$.wheels[%d].brake.drum_radius_mm", i), "fault.brake_larger_than_tire",
					map[string]any{"value": w.Brake.DrumRadiusMM, "tire_radius_mm": r})
			}
		}
	}
	if r := s.Reservoir; r != nil && r.FullCM3 > 0 && r.FullCM3-r.LowestPortCM3 < leastUsableCM3 {
		add("$.reservoir.lowest_port_cm3", "fault.port_above_full", map[string]any{"value": r.LowestPortCM3, "full_cm3": r.FullCM3})
	}
}

func (s *System) tireRadius(w *Wheel) float64 {
	if w.TireRadiusMM != nil {
		return *w.TireRadiusMM
	}
	return s.Vehicle.TireRadiusMM
}

// Doubts lists what is possible but seldom meant: a vehicle may really be like this (it may be the
// fault looked for), so nothing is refused, but someone should look twice.
func (s *System) Doubts() Faults {
	var out Faults
	add := func(path, code string, with map[string]any) {
		out = append(out, Fault{Path: path, Code: code, With: with})
	}
	if p := s.Pedal; p != nil && p.Ratio*(p.FreePlayMM+max(0, s.PushrodGapMM)) >= p.FloorMM {
		add("$.pedal.floor_mm", "doubt.floor_before_contact",
			map[string]any{"value": p.FloorMM, "lost_mm": p.Ratio * (p.FreePlayMM + max(0, s.PushrodGapMM))})
	}
	for i, c := range s.Circuits {
		if c.ResidualMPA == nil {
			continue
		}
		for _, id := range c.Wheels {
			// A residual valve stronger than a brake's springs or seals would hold that brake on.
			if w := s.Wheel(id); w != nil && w.Brake.TakeUpMPA > 0 && *c.ResidualMPA > w.Brake.TakeUpMPA {
				add(fmt.Sprintf("$.circuits[%d].residual_mpa", i), "doubt.residual_holds_brake",
					map[string]any{"value_mpa": *c.ResidualMPA, "wheel": id, "take_up_mpa": w.Brake.TakeUpMPA})
			}
		}
	}
	if m := s.MasterCylinder; s.PushrodGapMM < 0 && m.Primary.CutoffMM+s.PushrodGapMM <= 0 {
		add("$.pushrod_gap_mm", "doubt.port_covered", map[string]any{"value": s.PushrodGapMM, "cutoff_mm": m.Primary.CutoffMM})
	}
	if s.Modulator != nil && s.Fluid.Class == "DOT 5" {
		add("$.fluid.class", "doubt.silicone_with_modulator", nil)
	}
	if b := s.Booster; b != nil && s.Pedal != nil && !s.Assist().Powered() && s.Pedal.Ratio < 5 {
		add("$.pedal.ratio", "doubt.ratio_low_without_booster", map[string]any{"value": s.Pedal.Ratio})
	}
	return out
}
