package match

import (
	"math"

	"geminate/brake/system"
)

// BoosterKind is the kind of booster unit a system takes, "" where it has none.
func BoosterKind(s *system.System) string {
	return s.Assist().Unit
}

// What a calliper tells apart on a booster, and what the bracket gives. Assumptions.
const (
	firewallTolMM = 1
	shellTolMM    = 6 // room around a shell is not measured closer than this
	areaTol       = 0.03
)

// compareBooster holds a booster against the old one: what bolts on, what seals, what reaches, and what it
// does to the pedal.
func compareBooster(s *system.System, old, c Unit) []Point {
	if want := BoosterKind(s); want != c.KindOf() {
		return []Point{{ID: "kind", Verdict: DoesNotFit, Code: "match.kind.system", With: map[string]any{"old": want, "new": c.KindOf()}}}
	}
	out := []Point{{ID: "kind", Verdict: Same, Code: "match.same", With: map[string]any{"value": c.KindOf()}}}
	o, n := BoosterSpec{}, BoosterSpec{}
	if old.Booster != nil {
		o = *old.Booster
	}
	if c.Booster != nil {
		n = *c.Booster
	}
	add := func(p Point) { out = append(out, p) }
	// The face the cylinder bolts to.
	add(compareMounting(old, c))
	add(compareText("face_seal", old.FaceSeal, c.FaceSeal, func() Point {
		return Point{Verdict: FitsWith, Code: "match.face_seal.other", Buy: []string{"face_seal_" + c.FaceSeal}}
	}))
	add(compareFirewall(o, n, old.ByPhoto, c.ByPhoto))
	add(compareLength("protrusion", o.ProtrusionMM, n.ProtrusionMM, 0.3, rodReachMM, "match.protrusion.rod", "match.protrusion.far"))
	add(compareText("rod_thread", o.RodThread, n.RodThread, func() Point {
		return Point{Verdict: FitsWith, Code: "match.rod_thread.other", Buy: []string{"clevis"}}
	}))
	if p := byPhoto("shell", PhotoShell, old, c, shellTolMM); p != nil {
		add(*p)
	} else {
		add(compareLength("shell", o.ShellMM, n.ShellMM, shellTolMM, 0, "", "match.shell.other"))
	}
	if c.KindOf() == VacuumBooster {
		add(compareText("check_valve", o.CheckValve, n.CheckValve, func() Point {
			if n.CheckValve == "none" {
				return Point{Verdict: FitsWith, Code: "match.check_valve.none", Buy: []string{"check_valve", "check_valve_grommet"}}
			}
			return Point{Verdict: FitsWith, Code: "match.check_valve.side", Buy: []string{"vacuum_hose"}}
		}))
		add(compareAssist(o.EffectiveAreaMM2, n.EffectiveAreaMM2, o.Ratio, n.Ratio))
		return out
	}
	add(compareText("pressure_thread", o.PressureThread, n.PressureThread, func() Point {
		return Point{Verdict: DoesNotFit, Code: "match.pressure_thread.other"}
	}))
	add(compareLength("return_hose", o.ReturnMM, n.ReturnMM, 0.6, 0, "", "match.return.other"))
	add(compareAssist(o.PowerAreaMM2, n.PowerAreaMM2, o.Ratio, n.Ratio))
	return out
}

func compareFirewall(o, n BoosterSpec, oldBy, newBy map[PhotoField]float64) Point {
	if o.FirewallSpacingMM == nil || n.FirewallSpacingMM == nil || o.FirewallStuds == 0 || n.FirewallStuds == 0 {
		return unknown("firewall", o.FirewallSpacingMM == nil || o.FirewallStuds == 0)
	}
	with := map[string]any{"old_mm": *o.FirewallSpacingMM, "new_mm": *n.FirewallSpacingMM, "old": o.FirewallStuds, "new": n.FirewallStuds}
	if o.FirewallStuds != n.FirewallStuds {
		return Point{ID: "firewall", Verdict: DoesNotFit, Code: "match.mounting.count", With: with}
	}
	if p := byPhoto("firewall", PhotoFirewall, Unit{Booster: &o, ByPhoto: oldBy}, Unit{Booster: &n, ByPhoto: newBy},
		firewallTolMM); p != nil {
		return *p
	}
	if math.Abs(*o.FirewallSpacingMM-*n.FirewallSpacingMM) > firewallTolMM {
		return Point{ID: "firewall", Verdict: DoesNotFit, Code: "match.mounting.spacing", With: with}
	}
	return Point{ID: "firewall", Verdict: Same, Code: "match.same_mm", With: map[string]any{"value_mm": *n.FirewallSpacingMM}}
}

// compareLength is the same within tol, fits with what withCode says within reach, else does not fit.
func compareLength(id string, o, n *float64, tol, reach float64, withCode, notCode string) Point {
	if o == nil || n == nil {
		return unknown(id, o == nil)
	}
	with := map[string]any{"old_mm": *o, "new_mm": *n, "difference_mm": *n - *o}
	switch d := math.Abs(*n - *o); {
	case d <= tol:
		return Point{ID: id, Verdict: Same, Code: "match.same_mm", With: map[string]any{"value_mm": *n}}
	case d <= reach:
		return Point{ID: id, Verdict: FitsWith, Code: withCode, With: with}
	}
	return Point{ID: id, Verdict: DoesNotFit, Code: notCode, With: with}
}

// compareAssist is about the pedal: another area moves the knee, another ratio the slope.
func compareAssist(oldArea, newArea, oldRatio, newRatio *float64) Point {
	if oldArea == nil || newArea == nil || oldRatio == nil || newRatio == nil {
		return unknown("assist", oldArea == nil || oldRatio == nil)
	}
	area, ratio := *newArea / *oldArea, *newRatio / *oldRatio
	with := map[string]any{"area_ratio": area, "ratio_old": *oldRatio, "ratio_new": *newRatio}
	if math.Abs(area-1) <= areaTol && math.Abs(ratio-1) <= areaTol {
		return Point{ID: "assist", Verdict: Same, Code: "match.assist.same"}
	}
	code := "match.assist.more"
	if area*ratio < 1 {
		code = "match.assist.less"
	}
	return Point{ID: "assist", Verdict: ChangesPedal, Code: code, With: with}
}

// compareBrakes holds what a cylinder is made for against the wheels it would feed.
func compareBrakes(s *system.System, c Unit) Point {
	discs, drums := false, false
	for _, w := range s.Wheels {
		discs = discs || w.Brake.Kind == "disc"
		drums = drums || w.Brake.Kind == "drum"
	}
	if !discs && !drums { // a clutch
		return Point{ID: "brakes", Verdict: Same, Code: "match.brakes.right"}
	}
	switch {
	case c.Brakes == "":
		// The residual valve, compared for itself, is what does the harm; without a word of the maker's
		// the point is open only where there are discs to harm.
		if discs {
			return Point{ID: "brakes", Verdict: Unknown, Code: "match.brakes.ask"}
		}
		return Point{ID: "brakes", Verdict: Same, Code: "match.brakes.right"}
	case c.Brakes == "drum" && discs:
		return Point{ID: "brakes", Verdict: DoesNotFit, Code: "match.brakes.drum_only"}
	case c.Brakes == "disc" && drums:
		return Point{ID: "brakes", Verdict: FitsWith, Code: "match.brakes.disc_only", Buy: []string{"residual_valve"}}
	}
	return Point{ID: "brakes", Verdict: Same, Code: "match.brakes.right"}
}

func compareRemote(old, c Unit) Point {
	if old.RemotePorts == nil || c.RemotePorts == nil {
		return unknown("remote_ports", old.RemotePorts == nil)
	}
	with := map[string]any{"old": *old.RemotePorts, "new": *c.RemotePorts}
	switch {
	case *c.RemotePorts == *old.RemotePorts:
		return Point{ID: "remote_ports", Verdict: Same, Code: "match.same", With: map[string]any{"value": *c.RemotePorts}}
	case *c.RemotePorts > *old.RemotePorts:
		return Point{ID: "remote_ports", Verdict: FitsWith, Code: "match.remote.more", With: with, Buy: []string{"hose_cap"}}
	}
	return Point{ID: "remote_ports", Verdict: DoesNotFit, Code: "match.remote.fewer", With: with}
}

// FittedBooster is the system with a booster in place of its own, as far as the unit states it.
func FittedBooster(s *system.System, u Unit) *system.System {
	out := s.Clone()
	if u.Booster == nil || out.Booster == nil {
		return out
	}
	if r := u.Booster.Ratio; r != nil {
		out.Booster.Ratio = *r
	}
	if a := u.Booster.EffectiveAreaMM2; a != nil && out.Assist().Vacuum {
		out.Booster.EffectiveAreaMM2 = *a
	}
	if a := u.Booster.PowerAreaMM2; a != nil && out.Assist().Pressure {
		out.Booster.PowerAreaMM2 = *a
	}
	return out
}

// Firewall is the spacing of the studs a booster goes to the firewall with, nil where it is not known.
func (u *Unit) Firewall() *float64 {
	if u.Booster == nil {
		return nil
	}
	return u.Booster.FirewallSpacingMM
}
