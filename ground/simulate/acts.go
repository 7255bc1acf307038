package simulate

import "math"

// Acts of hands. Each takes its time and does to the vehicle what it does, told or not. Times in s are assumptions.

// Off takes a part off.
func (v *Vehicle) Off(p Part) {
	st := v.parts[p]
	if st == nil {
		return
	}
	st.off, st.nm, st.crooked = true, 0, false
	v.spend(60)
	switch base(p) {
	case Line, RemoteHose, Elsewhere, PressureLine:
		if base(p) != PressureLine {
			v.opened(p)
		}
		if v.stored && (base(p) == PressureLine || v.found.Assist().ToolLed) {
			v.mark(Jet, string(p))
		}
		v.wiped = false
	case Cylinder:
		v.wiped = false
	}
	if v.live && v.found.Assist().ToolLed && (p == Connector || p == Booster) {
		v.mark(Shock, string(p))
	}
}

// opened lets fluid out and air in at a joint that came apart: what runs back along the line until it is plugged.
func (v *Vehicle) opened(p Part) {
	if p == Elsewhere && len(v.openAt) > 0 { // at a brake: what is let out there is let in there
		for _, w := range v.openAt {
			v.air.cavities[w] += 1 + 2*v.rnd.Float64()
		}
		return
	}
	for _, c := range v.found.Circuits {
		if !v.feeds(p, &c) {
			continue
		}
		v.air.chambers[c.ID] += 0.3 + 0.7*v.rnd.Float64()
		for _, w := range c.Wheels {
			v.intoPipe(w, 0.5+1.5*v.rnd.Float64(), v.paths[w].way)
		}
	}
}

// OpensAt says at which wheels the joint elsewhere is; at none it is in a line.
func (v *Vehicle) OpensAt(wheels ...string) {
	v.openAt = nil
	for _, w := range wheels {
		if v.paths[w] != nil {
			v.openAt = append(v.openAt, w)
		}
	}
}

// Unplugged is what runs out of lines that stand open for a while: the longer way back along them.
func (v *Vehicle) Unplugged() {
	for _, w := range v.wheels {
		v.intoPipe(w, 1+3*v.rnd.Float64(), 0.8*v.paths[w].way)
	}
}

// Start catches a nut on its thread, straight or across it.
func (v *Vehicle) Start(p Part, crooked bool) {
	if st := v.parts[p]; st != nil {
		st.off, st.nm, st.crooked = false, 0.5, crooked
		v.spend(15)
	}
}

// DoUp turns a part to a torque, N·m, with the hand's own error of a twentieth; 1 for one that has no thread.
func (v *Vehicle) DoUp(p Part, nm float64) {
	st := v.parts[p]
	if st == nil {
		return
	}
	f := fitOf(p)
	if f.loose == 0 {
		st.off, st.nm = false, 1
		v.spend(20)
		return
	}
	st.off, st.nm = false, nm*(1+0.05*v.rnd.NormFloat64())
	if st.nm > f.strips {
		v.mark(Stripped, string(p))
	}
	v.spend(25)
}

// NM is how tight a part is, N·m; 0 where it is off.
func (v *Vehicle) NM(p Part) float64 {
	if st := v.parts[p]; st != nil {
		return st.nm
	}
	return 0
}

// Empty of energy: the foot pumps the vacuum or pressure out; a tool lets it out where nothing else does.
func (v *Vehicle) LetOut(byTool bool) {
	if byTool || !v.found.Assist().ToolLed {
		v.stored = false
	}
	v.spend(40)
}

// Isolate takes the high voltage away and, proven, makes sure of it.
func (v *Vehicle) Isolate(proven bool) {
	v.live = !proven && v.rnd.Float64() < 0.03 // seldom does it stay: the wrong plug, a capacitor
	v.spend(120)
}

// NewCylinder puts another cylinder in the hand's place: the old one's faults go with it, its chambers are dry. alike
// is the look-alike that does not belong here.
func (v *Vehicle) NewCylinder(alike bool) {
	v.cure(Cylinder)
	v.alike = alike
	v.parts[Cylinder].off = !v.found.Assist().OnePiece && !v.found.IsTrailer() // there its nuts are the unit's
	for _, c := range v.found.Circuits {
		x := v.chambers[c.ID]
		x.old, x.foreign, x.anew = 0, 0, true
		if v.benched {
			continue
		}
		v.air.chambers[c.ID] = x.cm3
	}
}

// Fetch takes a cylinder out of its box: it is dry.
func (v *Vehicle) Fetch() { v.benched = false }

// RenewRubber puts new hose and brake rubber in at a wheel: what had soaked into the old is gone with it, and its brake
// is dry.
func (v *Vehicle) RenewRubber(wheel string) {
	if p := v.paths[wheel]; p != nil {
		p.anew, p.cavity.foreign = true, 0
		v.air.cavities[wheel] += 1 + 2*v.rnd.Float64()
	}
	v.spend(600)
}

// RenewCups puts new rubber into the cylinder in place, or another cylinder's.
func (v *Vehicle) RenewCups() {
	for _, c := range v.found.Circuits {
		v.chambers[c.ID].anew, v.chambers[c.ID].foreign = true, 0
	}
	v.spend(900)
}

// Bench bleeds a cylinder in the vice: slow full strokes with the hoses under the fluid leave a trace, rushed ones 1 to
// 4 cm³ in the front chamber (how-it-computes, section 14).
func (v *Vehicle) Bench(strokes int, rushed bool) {
	v.benched = true
	for i, c := range v.found.Circuits {
		full := v.chambers[c.ID].cm3
		left := full*math.Exp(-float64(strokes)/2.5) + 0.15*v.rnd.Float64()
		if rushed && i == len(v.found.Circuits)-1 {
			left += 1 + 3*v.rnd.Float64()
		}
		v.air.chambers[c.ID] = math.Min(full, left)
	}
	v.spend(float64(3 * strokes))
}

// BleedPorts cracks the nuts at a cylinder that is on, one after another, with a foot on the pedal: what stands at the
// ports goes.
func (v *Vehicle) BleedPorts() {
	for _, c := range v.found.Circuits {
		v.air.chambers[c.ID] *= 0.08
	}
	v.benched = true
	v.wiped = false
	v.spend(120)
}

// NewBooster puts another booster or unit on.
func (v *Vehicle) NewBooster() { v.cure(Booster) }

// Repair mends what is wrong at a place: a wheel's brake, a line, a supply.
func (v *Vehicle) Repair(p Part) {
	if v.cure(p); p == Rod {
		v.rodMM = v.found.PushrodGapMM
	}
	v.spend(600)
}

// SetRod leaves the rod with a gap, mm.
func (v *Vehicle) SetRod(mm float64) { v.rodMM = mm; v.cure(Rod); v.spend(180) }

// RodMM is its real gap.
func (v *Vehicle) RodMM() float64 { return v.rodMM }

// OtherRod is what another unit's rod or pocket does to the gap: a millimetre and a half either way (the trade: 0.5 to
// 3 mm).
func (v *Vehicle) OtherRod() { v.rodMM += 1.2 * v.rnd.NormFloat64() }

// Exchange puts two lines on each other's ports.
func (v *Vehicle) Exchange(yes bool) { v.crossed = yes && len(v.found.Circuits) > 1 }

// Spoil leaves paint or paper where it was not to be.
func (v *Vehicle) Spoil(what Part) { v.mark(Spoilt, string(what)) }

// OpenBleeder and CloseBleeder are the screw at a wheel.
func (v *Vehicle) OpenBleeder(wheel string) {
	if st := v.parts[At(Bleeder, wheel)]; st != nil {
		st.nm, v.wiped = 0.5, false
	}
}

// CloseBleeder turns it to a torque.
func (v *Vehicle) CloseBleeder(wheel string, nm float64) { v.DoUp(At(Bleeder, wheel), nm) }

// Stroke is one opening of a bleeder with a stroke of the pedal, mm; footUp is a foot that comes up before it is
// closed. It gives what came out and the air in it: a stroke on air moves less, no two are alike.
func (v *Vehicle) Stroke(wheel string, strokeMM float64, footUp bool) (cm3, bubbles float64) {
	c := v.found.ChamberOf(v.paths[wheel].circuit)
	d := v.found.MasterCylinder.BoreMM
	cm3 = math.Pi * d * d / 4 * (math.Min(strokeMM, c.StrokeMM) - c.CutoffMM) / 1000 * (1 + 0.06*v.rnd.NormFloat64())
	bubbles = v.Draw(wheel, math.Max(0.02, cm3), 1)
	if footUp {
		v.AirIn(wheel)
	}
	v.spend(7)
	return cm3, bubbles
}

// Routine is the tool's: the modulator's valves one by one with a bleeder open, and a simulator's line.
func (v *Vehicle) Routine(well bool) {
	if well {
		v.air.modulator *= 0.05
		v.cure(Modulator)
	}
	v.spend(400)
}

// Wipe dries every joint.
func (v *Vehicle) Wipe() { v.wiped = true; v.spend(60) }

// Engine on or off.
func (v *Vehicle) Engine(on bool) {
	v.stored = on && v.found.Assist().Powered()
	v.spend(8)
}

// base is a part without its place.
func base(p Part) Part {
	for i, c := range p {
		if c == ':' {
			return p[:i]
		}
	}
	return p
}
