package plan

import (
	"slices"

	"geminate/brake/match"
	"geminate/brake/stand"
)

func (m *maker) add(st Step) {
	for _, list := range []*[]string{&st.Parts, &st.Fasteners, &st.Tools, &st.Cautions, &st.Needs} {
		if *list == nil {
			*list = []string{}
		}
	}
	st.Torque, st.Why = torqueOf(st.ID, m.c.Torques, m.s), alone[st.ID]
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
	m.add(
		Step{
			ID:       "prepare.cover_paint",
			Phase:    Prepare,
			Tools:    []string{"rags_pan_water", "gloves_glasses"},
			Cautions: []string{"fluid_eyes_skin_paint"},
		},
	)
	if m.fitsCylinder() || m.fitsBooster() {
		m.add(Step{ID: "prepare.unpack", Phase: Prepare, Parts: []string{"box"}})
	}
	if m.opensHere() {
		m.add(
			Step{
				ID:    "prepare.tag_lines",
				Phase: Prepare,
				Parts: []string{partLines},
				Tools: []string{"tape_marker"},
				With:  map[string]any{"count": len(m.p.Lines)},
			},
		)
		m.add(Step{ID: "prepare.penetrant", Phase: Prepare, Parts: []string{partLines}, Tools: []string{"penetrant"}})
	}
	if m.fitsCylinder() || m.fitsBooster() {
		m.gate(Step{ID: "prepare.compare_on_bench", Phase: Prepare, Parts: []string{"box"}})
	}
	if m.fitsCylinder() && m.p.Schools[BenchWhen] == BenchBefore {
		m.bench()
	}
}

// bench is the new cylinder bled in the vice, by its own count: before the old one comes off, or after. What screws
// into it goes in first: it is bled with it.
func (m *maker) bench() {
	m.ontoCylinder()
	m.gate(
		Step{
			ID:       "fit.bench_bled",
			Phase:    Prepare,
			Parts:    []string{partCylinder},
			Tools:    []string{"vice", "port_caps"},
			Cautions: []string{"fluid_eyes_skin_paint"},
		},
	)
	if m.p.Schools[BenchWhen] == BenchAfter {
		m.p.Steps[len(m.p.Steps)-1].Phase = SetRod
	}
}

// ontoCylinder is what goes onto the new cylinder before it is bled.
func (m *maker) ontoCylinder() {
	phase := SetRod
	if m.p.Schools[BenchWhen] == BenchBefore {
		phase = Prepare
	}
	if m.present[ReservoirMoves] {
		m.add(Step{ID: "rod.reservoir_moved", Phase: phase, Parts: []string{"reservoir"}, SingleUse: []string{"reservoir_grommets"}})
	}
	if m.present[PortFitting] {
		m.add(Step{ID: "rod.port_fitting", Phase: phase, Parts: []string{"port_fitting"}, SingleUse: []string{"port_fitting_o_ring"}})
	}
	if m.present[SidePlugs] {
		m.add(Step{ID: "rod.side_plugs", Phase: phase, Parts: []string{"side_plugs"}})
	}
}

func (m *maker) makeSafe() {
	add := func(id string, st Step) { st.ID, st.Phase = id, MakeSafe; m.gate(st) }
	if !m.work() {
		if m.scope == match.ElsewhereOpened { // a line or hose under stored pressure is a jet
			switch {
			case hasSteering(m.s):
				add("safe.engine_off", Step{})
				add("safe.discharge_accumulator", Step{Cautions: []string{"stored_pressure"}})
			case isOnePiece(m.s):
				add("safe.scan_tool_release", Step{Tools: []string{"scan_tool"}, Cautions: []string{"stored_pressure"}})
			}
		}
		return
	}
	if m.s.IsTrailer() {
		add("safe.uncouple", Step{Cautions: []string{"trailer_may_roll"}})
	}
	switch {
	case isVacuum(m.s):
		add("safe.engine_off", Step{})
		add("safe.pump_empty", Step{Cautions: []string{"stored_vacuum"}})
	case hasSteering(m.s):
		add("safe.engine_off", Step{})
		add("safe.discharge_accumulator", Step{Cautions: []string{"stored_pressure"}})
	case isOnePiece(m.s):
		// The routine needs the power on; then the power goes, and its absence is proven.
		add("safe.scan_tool_release", Step{Tools: []string{"scan_tool"}, Cautions: []string{"stored_pressure"}})
		add("safe.negative_off", Step{Cautions: []string{"high_voltage"}})
		add("safe.service_plug", Step{Tools: []string{"insulating_gloves"}, Cautions: []string{"high_voltage", "plug_in_pocket"}})
		add(
			"safe.isolate_high_voltage",
			Step{
				Tools:    []string{"insulating_gloves", "voltmeter"},
				Cautions: []string{"high_voltage"},
				Measure:  MeasureVolts,
				Wait:     "high_voltage",
				Needs:    []string{"safe.service_plug"},
			},
		)
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
	if m.scope == match.ElsewhereOpened {
		m.add(Step{ID: "elsewhere.opened", Phase: Strip, Tools: flareNuts, Cautions: []string{"fluid_eyes_skin_paint"}, Opens: true})
		m.gate(Step{ID: "elsewhere.repaired", Phase: Fit, Needs: []string{"elsewhere.opened"}})
		return
	}
	m.gate(Step{ID: "elsewhere.repaired", Phase: Fit})
}

// apart is the caution of lines that carry steering fluid; an electro-hydraulic booster has none.
func (m *maker) mind(r row, cautions []string) []string {
	out := slices.Clone(cautions)
	if (r.part == partPressureLines || r.part == partPressureFloor) && hasSteering(m.s) {
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
	step, seen := map[string]string{}, map[string]bool{}
	for _, r := range m.rows() {
		if !m.has(r) || seen[r.part] {
			continue
		}
		seen[r.part] = true
		if !m.asked(r) && !m.told(r.off) && !(r.part == partCylinder && m.told("strip.cylinder_aside")) {
			off = append(off, r) // off once, and taken back since: it has to be fast again, nothing more
			continue
		}
		if r.part == partCylinder && m.scope == match.BoosterAside && !m.told("strip.cylinder_off") {
			r.off, r.offMind, r.tools = "strip.cylinder_aside", []string{"lines_must_flex"}, append(slices.Clone(r.tools), "tie_wire")
		}
		st := Step{
			ID:        r.off,
			Phase:     Strip,
			Parts:     []string{r.part},
			Fasteners: r.fasteners,
			Tools:     slices.Clone(r.tools),
			Cautions:  m.mind(r, r.offMind),
			Opens:     r.opens,
		}
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
		if r.part == partCylinder && hasBooster(m.s) {
			m.add(
				Step{
					ID:    "strip.look_in_booster",
					Phase: Strip,
					Parts: []string{partCylinder},
					Tools: []string{"rags_pan_water"},
					Needs: []string{r.off},
				},
			)
		}
		if r.part == partLines {
			m.add(
				Step{
					ID:    "strip.plug_lines",
					Phase: Strip,
					Parts: []string{partLines},
					Tools: []string{"port_caps"},
					Needs: []string{r.off},
				},
			)
		}
	}
	return off
}

// rod is what is moved over from the old unit, and then the rod: measured with its own parts in it.
func (m *maker) rod() {
	if !m.work() || isOnePiece(m.s) { // nothing is set inside an electro-hydraulic unit
		return
	}
	if !m.s.IsTrailer() {
		if (m.fitsCylinder() || m.fitsBooster()) && (m.present[RodCoupler] || m.present[RodClip] || m.present[Collar]) {
			m.setRod("rod.coupler_moved", Step{})
		}
		if m.p.Schools[Rod] != RodTouch || !m.fitsBooster() {
			m.rodSchool() // touch and turn waits until the booster is in its place
		}
	}
	switch {
	case !m.fitsCylinder():
	case m.p.Schools[BenchWhen] == BenchAfter:
		m.bench()
	case m.p.Schools[BenchWhen] != BenchBefore:
		m.ontoCylinder()
	}
}

func (m *maker) setRod(id string, st Step) {
	st.ID, st.Phase, st.Parts = id, SetRod, []string{"rod"}
	m.gate(st)
}

func (m *maker) rodSchool() {
	switch m.p.Schools[Rod] {
	case RodDepths:
		m.setRod("rod.measure", Step{Tools: []string{"depth_gauge"}, Measure: MeasurePushrod})
	case RodTouch:
		m.setRod("rod.touch_and_turn", Step{Tools: []string{"feeler_gauge"}, Measure: MeasureTouch})
	case RodAsSupplied:
		m.setRod("rod.as_supplied", Step{Cautions: []string{"rod_unproven"}})
	case RodFixed:
		m.setRod("rod.compare", Step{Tools: []string{"depth_gauge"}, Measure: MeasureCompare})
	}
}

// fit puts back what came off, the last first, with the new seal and the nuts started before the mounting is tight.
func (m *maker) fit(off []row) {
	on := map[string]string{}
	for i := len(off) - 1; i >= 0; i-- {
		r := off[i]
		if r.on == "" || covers(r) {
			continue
		}
		switch {
		case r.part == partShoe && rowOf(off, partActuatorBolts).on != "": // went on before the bolts
			continue
		case r.part == partLines && m.p.Find(m.startNuts()) == nil: // nothing is mounted before them
			m.startLines()
		case r.part == partLines && m.p.Schools[BenchWhen] == BenchOnVehicle && m.fitsCylinder():
			m.bleedOnVehicle()
		case r.part == partCylinder:
			m.beforeCylinder()
		case r.part == partActuatorBolts:
			m.beforeActuator(off)
		case r.part == partFirewall && isOnePiece(m.s):
			m.startLines()
		}
		st := Step{
			ID:        r.on,
			Phase:     Fit,
			Parts:     []string{r.part},
			Fasteners: r.fasteners,
			Cautions:  m.mind(r, r.onMind),
			SingleUse: m.singleUse(r),
		}
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
		if r.part == partLines && m.p.Find(m.startNuts()) != nil {
			st.Needs = append(st.Needs, m.startNuts())
		}
		on[r.part] = r.on
		if r.part == partPedalEnd && m.present[LampEyeClosed] {
			st.Cautions = append(st.Cautions, "lamp_eye_with_rod")
		}
		m.add(st)
	}
}

// bleedOnVehicle is the new cylinder bled where it sits: it is filled, its lines are cracked one by one, and only then
// are their nuts made tight for good.
func (m *maker) bleedOnVehicle() {
	m.fill(Fit)
	m.add(Step{ID: "fit.bled_on_vehicle", Phase: Fit, Parts: []string{partCylinder}, Cautions: []string{"fluid_eyes_skin_paint"}})
}

// beforeActuator: the shoe and the rod are back and move by hand, and the line's nut has caught, before the bolts are
// tight.
func (m *maker) beforeActuator(off []row) {
	if r := rowOf(off, partShoe); r.on != "" {
		m.add(Step{ID: r.on, Phase: Fit, Parts: []string{partShoe}})
	}
	m.setRod("rod.actuator_free", Step{})
	m.p.Steps[len(m.p.Steps)-1].Phase = Fit
	m.startLines()
}

// startLines has the nuts caught by hand, once.
func (m *maker) startLines() {
	if m.opensHere() && m.p.Find(m.startNuts()) == nil {
		m.add(
			Step{
				ID:        m.startNuts(),
				Phase:     Fit,
				Parts:     []string{partLines},
				Fasteners: []string{"line_nut"},
				Cautions:  []string{"no_cross_threading"},
			},
		)
	}
}

// covers says whether something lies over the work: it goes back when nothing beneath it is needed any more.
func covers(r row) bool { return r.part == partKickPanel || slices.Contains(overIt, r.part) }

// cover puts back what lay over the joint: last of all, the reservoir is reached until then.
func (m *maker) cover(off []row) {
	for i := len(off) - 1; i >= 0; i-- {
		if r := off[i]; covers(r) {
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
	if r.part == partCylinder && m.c.Unit != nil && m.c.Unit.FaceSeal == "none" || r.part == partVacuumHose && !m.present[CheckValve] {
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
	if m.p.Schools[Rod] == RodTouch && m.fitsBooster() {
		m.rodSchool()
		m.p.Steps[len(m.p.Steps)-1].Phase = Fit
	}
	m.add(Step{ID: "fit.face_seal", Phase: Fit, Parts: []string{"booster_face"}})
	m.startLines()
}

func (m *maker) fill(at Phase) {
	m.add(Step{ID: "close.fill", Phase: at, With: map[string]any{"class": m.s.Fluid.Class}, Cautions: []string{"fluid_class"}})
}

// close fills, gives the power back to what bleeds with it, bleeds, and only then makes the bleeders tight and the
// joints dry.
func (m *maker) close() {
	add := func(id string, st Step) { st.ID, st.Phase = id, Close; m.add(st) }
	opens := m.p.NeedsBleeding
	if opens && m.p.Find("close.fill") == nil {
		m.fill(Close)
	}
	if m.present[SecondBattery] && m.work() || m.touched(string(stand.Batteries)) {
		add("close.batteries_on", Step{Parts: []string{"battery"}})
	}
	if isOnePiece(m.s) && m.work() || m.touched(string(stand.Plug)) ||
		m.touched(string(stand.Power)) { // whatever is repaired now: it is out
		m.gate(Step{ID: "close.service_plug", Phase: Close, Cautions: []string{"high_voltage"}})
		m.gate(Step{ID: "close.negative_on", Phase: Close, Needs: []string{"close.service_plug"}})
	}
	if opens {
		if !m.p.PutOff || m.c.Stands != nil && m.c.Stands.StateOf(stand.Bleeders) == stand.Loose {
			add("close.bleed", Step{})
			add("close.bleeder_screws", Step{Fasteners: []string{"bleeder"}})
		}
		add("close.wash", Step{Cautions: []string{"fluid_waste"}})
	} else {
		add("close.level_unchanged", Step{})
	}
	if hasSteering(m.s) && (m.fitsBooster() || m.touched(partPressureLines)) && !m.p.PutOff {
		add("close.steering_bleed", Step{Cautions: []string{"steering_fluid_apart"}})
	}
	if m.work() || m.scope == match.ElsewhereOpened {
		add("close.count_out", Step{})
	}
	if m.s.IsTrailer() && (m.work() || m.touched(string(stand.Coupling))) {
		add("close.couple", Step{Cautions: []string{"trailer_may_roll"}})
	}
}

// needs adds to each step what its act needs, where this plan has it.
func (m *maker) needs() {
	for i := range m.p.Steps {
		act := stand.Find(m.p.Steps[i].ID)
		if act == nil {
			continue
		}
		for _, n := range act.Needs {
			if m.p.Find(n) != nil && !slices.Contains(m.p.Steps[i].Needs, n) {
				m.p.Steps[i].Needs = append(m.p.Steps[i].Needs, n)
			}
		}
	}
}

// own puts the technician's own steps where they belong: several after one step in the order they were written down.
// One whose neighbour the plan no longer has stands at the end, and says so.
func (m *maker) own() {
	behind := map[string]int{}
	for _, o := range m.c.Own {
		at := slices.IndexFunc(m.p.Steps, func(st Step) bool { return st.ID == o.After })
		st := Step{
			ID:        o.ID,
			Own:       o.Text,
			Parts:     []string{},
			Fasteners: []string{},
			Tools:     []string{},
			Cautions:  []string{},
			Needs:     []string{},
		}
		if at < 0 {
			at = len(m.p.Steps) - 1
			st.Cautions = append(st.Cautions, "own_step_moved")
			st.With = map[string]any{"after": o.After}
		} else {
			at += behind[o.After]
			behind[o.After]++
		}
		st.Phase = m.p.Steps[at].Phase
		m.p.Steps = slices.Insert(m.p.Steps, at+1, st)
	}
}
