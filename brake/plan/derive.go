package plan

import (
	"slices"

	"geminate/brake/match"
)

func (m *maker) add(st Step) {
	for _, list := range []*[]string{&st.Parts, &st.Fasteners, &st.Tools, &st.Cautions, &st.Needs} {
		if *list == nil {
			*list = []string{}
		}
	}
	st.Torque = torqueOf(st.ID, m.c.Torques)
	if st.Torque != nil && !slices.Contains(st.Tools, "torque_wrench") {
		st.Tools = append(st.Tools, "torque_wrench")
	}
	m.p.Steps = append(m.p.Steps, st)
}

// gate adds a step that nothing later is done before.
func (m *maker) gate(st Step) {
	st.Gate = true
	m.add(st)
}

func (m *maker) prepare() {
	m.gate(Step{ID: "prepare.chock", Phase: Prepare, Tools: []string{"wheel_chocks"}, Cautions: []string{"stands_not_jacks"}})
	m.add(Step{ID: "prepare.cover_paint", Phase: Prepare, Tools: []string{"rags_pan_water", "gloves_glasses"}, Cautions: []string{"fluid_eyes_skin_paint"}})
	if m.fitsCylinder() || m.fitsBooster() {
		m.add(Step{ID: "prepare.unpack", Phase: Prepare, Parts: []string{"box"}})
	}
	if m.opensHere() {
		m.add(Step{ID: "prepare.tag_lines", Phase: Prepare, Parts: []string{partLines}, Tools: []string{"tape_marker"}, With: map[string]any{"count": len(m.p.Lines)}})
		m.add(Step{ID: "prepare.penetrant", Phase: Prepare, Parts: []string{partLines}, Tools: []string{"penetrant"}})
	}
	if m.fitsCylinder() || m.fitsBooster() {
		m.gate(Step{ID: "prepare.compare_on_bench", Phase: Prepare, Parts: []string{"box"}})
	}
	if m.fitsCylinder() && m.p.Schools[BenchWhen] == BenchBefore {
		m.bench()
	}
}

// bench is the new cylinder bled in the vice, by its own count: before the old one comes off, or after.
func (m *maker) bench() {
	if m.present[ReservoirMoves] && m.p.Schools[BenchWhen] == BenchAfter {
		m.reservoir()
	}
	m.gate(Step{ID: "fit.bench_bled", Phase: Prepare, Parts: []string{partCylinder}, Tools: []string{"vice", "port_caps"}, Cautions: []string{"fluid_eyes_skin_paint"}})
	if m.p.Schools[BenchWhen] == BenchAfter {
		m.p.Steps[len(m.p.Steps)-1].Phase = SetRod
	}
}

func (m *maker) reservoir() {
	m.add(Step{ID: "rod.reservoir_moved", Phase: SetRod, Parts: []string{"reservoir"}, SingleUse: []string{"reservoir_grommets"}})
}

func (m *maker) makeSafe() {
	if !m.work() {
		return
	}
	add := func(id string, st Step) { st.ID, st.Phase = id, MakeSafe; m.gate(st) }
	if m.s.IsTrailer() {
		add("safe.uncouple", Step{Cautions: []string{"trailer_may_roll"}})
	}
	switch {
	case isVacuum(m.s):
		add("safe.engine_off", Step{})
		add("safe.pump_empty", Step{Cautions: []string{"stored_vacuum"}})
	case isHydraulic(m.s):
		add("safe.engine_off", Step{})
		add("safe.discharge_accumulator", Step{Cautions: []string{"stored_pressure"}})
	case isElectro(m.s):
		// The routine needs the power on; then the power goes, and its absence is proven.
		add("safe.scan_tool_release", Step{Tools: []string{"scan_tool"}, Cautions: []string{"stored_pressure"}})
		add("safe.negative_off", Step{Cautions: []string{"high_voltage"}})
		add("safe.service_plug", Step{Tools: []string{"insulating_gloves"}, Cautions: []string{"high_voltage", "plug_in_pocket"}})
		add("safe.isolate_high_voltage", Step{Tools: []string{"insulating_gloves", "voltmeter"}, Cautions: []string{"high_voltage"}, Measure: MeasureVolts, Wait: "high_voltage",
			Needs: []string{"safe.service_plug"}})
	}
	if m.present[SecondBattery] {
		m.add(Step{ID: "safe.batteries_off", Phase: MakeSafe, Parts: []string{"battery"}})
	}
	if m.opensHere() {
		mind := []string{"fluid_waste"}
		if m.present[Strainer] {
			mind = append(mind, "strainer_fragile")
		}
		m.add(Step{ID: "safe.empty_reservoir", Phase: MakeSafe, Parts: []string{"reservoir"}, Tools: []string{"syringe"}, Cautions: mind})
	}
}

func (m *maker) elsewhere() {
	if m.c.Scope == match.ElsewhereOpened {
		m.add(Step{ID: "elsewhere.opened", Phase: Strip, Tools: flareNuts, Cautions: []string{"fluid_eyes_skin_paint"}, Opens: true})
		m.gate(Step{ID: "elsewhere.repaired", Phase: Fit, Needs: []string{"elsewhere.opened"}})
		return
	}
	m.gate(Step{ID: "elsewhere.repaired", Phase: Fit})
}

// apart is the caution of lines that carry steering fluid; an electro-hydraulic booster has none.
func (m *maker) mind(r row, cautions []string) []string {
	out := slices.Clone(cautions)
	if (r.part == partPressureLines || r.part == partPressureFloor) && isHydraulic(m.s) {
		out = append(out, "steering_fluid_apart")
	}
	return out
}

// rows are the joint in the order this shop takes it apart.
func (m *maker) rows() []row {
	if m.school(OffFirst) != FirstLines {
		return joint
	}
	out := slices.Clone(joint)
	is := func(part string) func(row) bool { return func(r row) bool { return r.part == part } }
	from, to := slices.IndexFunc(out, is(partPressureLines)), slices.IndexFunc(out, is(partCylinder))
	lines := out[from]
	return slices.Insert(slices.Delete(out, from, from+1), to, lines)
}

// strip takes off what is there, in the order of the joint, and gives the rows that came off.
func (m *maker) strip() []row {
	var off []row
	step := map[string]string{}
	for _, r := range m.rows() {
		if !r.has(m) {
			continue
		}
		if r.part == partCylinder && m.c.Scope == match.BoosterAside {
			r.off, r.offMind, r.tools = "strip.cylinder_aside", []string{"lines_must_flex"}, append(slices.Clone(r.tools), "tie_wire")
		}
		st := Step{ID: r.off, Phase: Strip, Parts: []string{r.part}, Fasteners: r.fasteners, Tools: slices.Clone(r.tools), Cautions: m.mind(r, r.offMind), Opens: r.opens}
		for _, b := range r.behind {
			if id, there := step[b]; there {
				st.Needs = append(st.Needs, id)
			}
		}
		if r.count {
			st.With = map[string]any{"count": len(m.p.Lines)}
		}
		step[r.part] = r.off
		off = append(off, r)
		m.add(st)
		if r.part == partLines {
			m.add(Step{ID: "strip.plug_lines", Phase: Strip, Parts: []string{partLines}, Tools: []string{"port_caps"}, Needs: []string{r.off}})
		}
	}
	return off
}

// rod is what is moved over from the old unit, and then the rod: measured with its own parts in it.
func (m *maker) rod() {
	if !m.work() {
		return
	}
	add := func(id string, st Step) { st.ID, st.Phase, st.Parts = id, SetRod, []string{"rod"}; m.gate(st) }
	if m.s.IsTrailer() {
		if m.fitsCylinder() {
			add("rod.actuator_free", Step{})
		}
	} else {
		if m.present[RodCoupler] || m.present[RodClip] || m.present[Collar] {
			add("rod.coupler_moved", Step{})
		}
		switch m.p.Schools[Rod] {
		case RodDepths:
			add("rod.measure", Step{Tools: []string{"depth_gauge"}, Measure: MeasurePushrod})
		case RodTouch:
			add("rod.touch_and_turn", Step{Tools: []string{"feeler_gauge"}, Measure: MeasureTouch})
		case RodAsSupplied:
			add("rod.as_supplied", Step{Cautions: []string{"rod_unproven"}})
		case RodFixed:
			add("rod.compare", Step{Tools: []string{"depth_gauge"}, Measure: MeasureCompare})
		}
	}
	if m.fitsCylinder() && m.p.Schools[BenchWhen] == BenchAfter {
		m.bench()
	} else if m.present[ReservoirMoves] && m.fitsCylinder() {
		m.reservoir()
	}
	if m.fitsCylinder() && m.present[PortFitting] {
		m.add(Step{ID: "rod.port_fitting", Phase: SetRod, Parts: []string{"port_fitting"}, SingleUse: []string{"port_fitting_o_ring"}})
	}
	if m.fitsCylinder() && m.present[SidePlugs] {
		m.add(Step{ID: "rod.side_plugs", Phase: SetRod, Parts: []string{"side_plugs"}})
	}
}

// fit puts back what came off, the last first, with the new seal and the nuts started before the mounting is tight.
func (m *maker) fit(off []row) {
	on := map[string]string{}
	for i := len(off) - 1; i >= 0; i-- {
		r := off[i]
		if r.on == "" || slices.Contains(overIt, r.part) {
			continue
		}
		if r.part == partCylinder {
			m.beforeCylinder()
		}
		st := Step{ID: r.on, Phase: Fit, Parts: []string{r.part}, Fasteners: r.fasteners, Cautions: m.mind(r, r.onMind), SingleUse: m.singleUse(r)}
		if r.part == partLines || r.part == partModulatorLines {
			st.Tools = []string{"flare_nut_wrench"}
		}
		// What was in the way of something goes on after it.
		for k, id := range on {
			if slices.Contains(rowOf(off, k).behind, r.part) {
				st.Needs = append(st.Needs, id)
			}
		}
		slices.Sort(st.Needs)
		if r.part == partLines && !m.s.IsTrailer() {
			st.Needs = append(st.Needs, m.startNuts())
		}
		on[r.part] = r.on
		if r.part == partPedalEnd && m.present[LampEyeClosed] {
			st.Cautions = append(st.Cautions, "lamp_eye_with_rod")
		}
		m.add(st)
	}
	if m.fitsCylinder() && m.p.Schools[BenchWhen] == BenchOnVehicle {
		m.add(Step{ID: "fit.bled_on_vehicle", Phase: Fit, Parts: []string{partCylinder}, Cautions: []string{"fluid_eyes_skin_paint"}})
	}
}

// cover puts back what lay over the joint: last of all, the reservoir is reached until then.
func (m *maker) cover(off []row) {
	for i := len(off) - 1; i >= 0; i-- {
		if r := off[i]; slices.Contains(overIt, r.part) {
			m.add(Step{ID: r.on, Phase: Close, Parts: []string{r.part}})
		}
	}
}

func rowOf(rows []row, part string) row {
	for _, r := range rows {
		if r.part == part {
			return r
		}
	}
	return row{}
}

// singleUse are the parts that come new with a new unit.
func (m *maker) singleUse(r row) []string {
	if r.part == partCylinder && m.c.Unit != nil && m.c.Unit.FaceSeal == "none" {
		return nil
	}
	if r.part == partLines {
		for _, l := range m.p.Lines {
			if l.New != nil && l.New.Seat == "banjo" {
				return []string{"crush_washer"}
			}
		}
	}
	return r.single
}

func (m *maker) startNuts() string {
	if m.p.Schools[LineNuts] == NutsLoose {
		return "fit.start_nuts_loose"
	}
	return "fit.start_nuts_snug"
}

func (m *maker) beforeCylinder() {
	if m.fitsBooster() && m.present[FacePaper] {
		m.add(Step{ID: "fit.face_paper", Phase: Fit, Parts: []string{"booster_face"}})
	}
	m.add(Step{ID: "fit.face_seal", Phase: Fit, Parts: []string{"booster_face"}})
	if m.opensHere() {
		m.add(Step{ID: m.startNuts(), Phase: Fit, Parts: []string{partLines}, Fasteners: []string{"line_nut"}, Cautions: []string{"no_cross_threading"}})
	}
}

func (m *maker) close() {
	add := func(id string, st Step) { st.ID, st.Phase = id, Close; m.add(st) }
	if m.c.Scope.OpensHydraulics() {
		add("close.fill", Step{With: map[string]any{"class": m.s.Fluid.Class}, Cautions: []string{"fluid_class"}})
		if !m.p.PutOff {
			add("close.bleeder_screws", Step{Fasteners: []string{"bleeder"}})
		}
		add("close.wash", Step{Cautions: []string{"fluid_waste"}})
	} else {
		add("close.level_unchanged", Step{})
	}
	if isHydraulic(m.s) && m.fitsBooster() && !m.p.PutOff {
		add("close.steering_bleed", Step{Cautions: []string{"steering_fluid_apart"}})
	}
	if m.present[SecondBattery] && m.work() {
		add("close.batteries_on", Step{Parts: []string{"battery"}})
	}
	if isElectro(m.s) && m.work() {
		m.gate(Step{ID: "close.service_plug", Phase: Close, Cautions: []string{"high_voltage"}})
		m.gate(Step{ID: "close.negative_on", Phase: Close, Needs: []string{"close.service_plug"}})
	}
}

// own puts the technician's own steps where they belong.
func (m *maker) own() {
	for _, o := range m.c.Own {
		at := slices.IndexFunc(m.p.Steps, func(st Step) bool { return st.ID == o.After })
		if at < 0 {
			at = len(m.p.Steps) - 1
		}
		st := Step{ID: o.ID, Phase: m.p.Steps[at].Phase, Own: o.Text, Parts: []string{}, Fasteners: []string{}, Tools: []string{}, Cautions: []string{}, Needs: []string{}}
		m.p.Steps = slices.Insert(m.p.Steps, at+1, st)
	}
}
