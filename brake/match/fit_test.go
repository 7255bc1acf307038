package match

import (
	"cmp"
	"math"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"geminate/brake/system"
	"geminate/brake/twin"
)

// Source: 1 in = 25.4 mm (NIST SP 811). One bore, however it is stamped.
func TestAStampIsReadHoweverItIsWritten(t *testing.T) {
	for _, text := range []string{"15/16", "0.9375", ".9375", "23.81", "23.8", "23,81 mm", `15/16"`, "15/16 in", "0.9375 inch"} {
		b, err := ReadBore(text)
		require.NoError(t, err, text)
		assert.Equal(t, "15/16 in", b.Nearest, text)
		assert.InDelta(t, 23.8125, b.MM, 0.02, text)
	}
	for text, mm := range map[string]float64{"1 1/8": 28.575, "1-1/16": 26.9875, "1": 25.4, "1.030": 26.162, "22": 22} {
		b, err := ReadBore(text)
		require.NoError(t, err, text)
		assert.InDelta(t, mm, b.MM, 1e-9, text)
	}
	odd, err := ReadBore("1.030")
	require.NoError(t, err)
	assert.Empty(t, odd.Nearest, "no standard bore: not rounded to one")
	for _, text := range []string{"", "abc", "15/0", "3.5", "150", "15/16 mm", "NaN", "1/2/3"} {
		_, err := ReadBore(text)
		assert.Error(t, err, text)
	}
}

// Source: SAE J512, ISO 4038 (from memory).
func TestAThreadIsNamedFromDiameterAndPitch(t *testing.T) {
	for id, c := range map[string]struct{ d, p float64 }{"3/8-24": {9.45, 1.058}, "7/16-24": {11.0, 1.06}, "1/2-20": {12.6, 1.27}, "M10x1": {9.9, 1.0}, "M12x1": {11.9, 1}, "M13x1.5": {12.9, 1.5}} {
		n, err := NameThread(c.d, c.p)
		require.NoError(t, err)
		require.Len(t, n, 1, id)
		assert.Equal(t, id, n[0].ID)
		assert.True(t, n[0].Sure)
	}
	n, err := NameThread(12.65, 0)
	require.NoError(t, err)
	assert.NotEmpty(t, n)
	assert.False(t, n[0].Sure, "without a pitch a calliper does not settle it")
	none, err := NameThread(20, 1.5)
	require.NoError(t, err)
	assert.Empty(t, none)
	_, err = NameThread(math.NaN(), 1)
	assert.Error(t, err)
}

// Source: the twin. What is stated at a pressure is what the twin gives there.
func TestPerformanceIsTheTwins(t *testing.T) {
	for _, p := range system.Patterns {
		s := p.Build()
		perf := Perform(&s)
		m := twin.New(&s)
		require.Len(t, perf.At, 3, p.ID)
		for _, a := range perf.At {
			if a.ForceN == nil {
				continue
			}
			got := m.Apply(*a.ForceN, true)
			assert.InDelta(t, a.MPA, got.PressureMPA[s.MasterCylinder.Primary.Circuit], 1e-3, p.ID)
			assert.InDelta(t, a.TravelMM, got.TravelMM, 1e-9)
			assert.True(t, a.StrokeUsed > 0 && a.StrokeUsed <= 1+1e-9 && a.StrokeLeftMM >= -1e-9, p.ID)
		}
		if len(s.Circuits) == 2 {
			assert.Len(t, perf.Failed, 2, p.ID)
		}
		if u := perf.Unassisted; u != nil {
			assert.Equal(t, s.Vehicle.Kind == "car", u.Meets != nil, "R13-H reaches passenger cars alone: %s", p.ID)
		}
	}
}

// Common practice, no source: four pistons all round on a manual special need the larger bore for volume,
// and the foot pays for it.
func TestFourPistonsAllRoundNeedTheLargerBore(t *testing.T) {
	s, err := system.FromPattern("special-manual")
	require.NoError(t, err)
	s.MasterCylinder.BoreMM = 19.05
	for i := range s.Wheels {
		b := &s.Wheels[i].Brake
		b.Kind, b.PistonsMM, b.ClearanceMM, b.TakeUpMPA, b.ComplianceMM3 = "disc", []float64{44, 44}, 0.15, 0.12, 130
		b.Friction, b.EffectiveRadiusMM = 0.4, 125
	}
	var present *BoreChoice
	fits := []BoreChoice{}
	for _, b := range WhichBore(s, Limits{}) {
		if b.Present {
			present = &b
		}
		if b.Fits {
			fits = append(fits, b)
		}
	}
	require.NotNil(t, present)
	assert.False(t, present.Fits)
	assert.NotContains(t, present.Broken, "force", "it is not for want of pressure")
	require.NotEmpty(t, fits)
	assert.Greater(t, fits[0].MM, present.MM)
	assert.Greater(t, fits[0].VolumeRatio, 1.1)
	if assert.NotNil(t, fits[0].ForceRatio) {
		assert.Greater(t, *fits[0].ForceRatio, 1.1, "what the foot pays")
	}
}

// Source: 49 CFR 571.135, stopping distances from 100 km/h (from memory): v²/2d.
func TestLimitsAreDerived(t *testing.T) {
	assert.InDelta(t, 5.51, coldStopMPS2, 0.01)
	assert.InDelta(t, 2.30, failedMPS2, 0.01)
	s := pickup(t)
	l := DefaultLimits(s)
	m := twin.New(s)
	force, ok := m.ForceForPressure(l.MPA/hotShare, true, 2000)
	require.True(t, ok)
	assert.InDelta(t, coldStopMPS2, m.Apply(force, true).DecelerationMPS2, 0.05, "the brakes ask for the cold stop there")
	for _, p := range system.Patterns {
		s := p.Build()
		for _, b := range WhichBore(&s, Limits{}) {
			if b.Present {
				assert.True(t, b.Fits, "the pattern's own bore meets its limits: %s %v", p.ID, b.Broken)
			}
		}
	}
}

// What fits comes first, the least changed pedal before the others, each with why; sizes no stamp says are in it.
func TestBoresAreRanked(t *testing.T) {
	s, _ := system.FromPattern("pickup-front-rear-vacuum")
	list := WhichBore(s, Limits{})
	assert.True(t, list[0].Present)
	assert.Equal(t, "present", list[0].Why)
	seen := map[string]bool{}
	for i, b := range list {
		seen[b.Name] = b.Measured
		assert.Equal(t, b.Fits, b.Why != "", b.Name)
		if i > 0 && b.Fits {
			assert.True(t, list[i-1].Fits)
			assert.GreaterOrEqual(t, math.Abs(b.VolumeRatio-1), math.Abs(list[i-1].VolumeRatio-1), b.Name)
		}
	}
	assert.True(t, seen["1.030 in"])
	assert.True(t, seen["1.130 in"])
	assert.False(t, seen["1 1/16 in"])
}

func TestTheBoxesAreReadBoth(t *testing.T) {
	s, _ := system.FromPattern("pickup-front-rear-vacuum")
	u, b := Unit{
		Reservoir: "included",
		Contents:  []string{},
	}, Unit{
		Kind:     VacuumBooster,
		Contents: []string{"check_valve", "check_valve_grommet"},
	}
	how := map[string]string{}
	for _, i := range Kit(s, Both, &u, &b, nil) {
		how[i.ID] = i.How
	}
	assert.Equal(t, "in_box", how["check_valve"], "in the booster's box")
	assert.Equal(t, "in_box", how["reservoir"], "it comes with the unit")
	for _, i := range Kit(s, CylinderOnly, &u, &b, nil) {
		assert.NotEqual(t, "check_valve", i.ID)
	}
	// A reservoir that is drained is filled from the bottles, whatever is replaced.
	opened, err := Fluid(s, BoosterOpened, usual)
	require.NoError(t, err)
	assert.InDelta(t, s.Reservoir.FullCM3, opened.UnitCM3, 1e-9)
}

// Nothing measured, nothing alike.
func TestNobodyIsALookAlikeUnmeasured(t *testing.T) {
	s, _ := system.FromPattern("pickup-front-rear-vacuum")
	pickup, trailer := Unit{ID: "p", BoreMM: f(27), Contents: []string{}}, Unit{ID: "t", Variant: "abs", Contents: []string{}}
	assert.Empty(t, LookAlikes([]Result{Compare(s, Unit{}, pickup), Compare(s, Unit{}, trailer)}))
}

// Source: monotonicity. A larger bore never lengthens the pedal nor lightens the foot.
func TestBoresAreMonotone(t *testing.T) {
	for _, p := range system.Patterns {
		s := p.Build()
		if s.BoosterKind() == system.BoosterElectroHydraulic {
			continue // its pedal works a simulator, whatever the bore
		}
		last := BoreChoice{TravelMM: math.Inf(1)}
		bySize := WhichBore(&s, Limits{})
		slices.SortFunc(bySize, func(a, b BoreChoice) int { return cmp.Compare(a.MM, b.MM) })
		for _, b := range bySize {
			assert.LessOrEqual(t, b.TravelMM, last.TravelMM+1e-6, "%s %s", p.ID, b.Name)
			if b.ForceN != nil && last.ForceN != nil && s.BoosterKind() == system.BoosterNone {
				assert.GreaterOrEqual(t, *b.ForceN, *last.ForceN-1e-6, "%s %s", p.ID, b.Name)
			}
			assert.Equal(t, b.Fits, len(b.Broken) == 0)
			last = b
		}
	}
}

func TestLookAlikesAreToldApart(t *testing.T) {
	s := pickup(t)
	right, trap, other := old(), old(), old()
	right.ID, trap.ID, other.ID = "right", "trap", "other"
	trap.Variant = "abs"
	other.Variant, other.Sensor = "abs", "three_pin"
	var r []Result
	for _, u := range []Unit{right, trap, other} {
		r = append(r, Compare(s, old(), u))
	}
	assert.Equal(t, []LookAlike{{"right", "trap", "variant", "match.variant.other"}}, LookAlikes(r))
}

func vacuumBooster() Unit {
	return Unit{
		ID:            "b",
		Kind:          VacuumBooster,
		Studs:         2,
		StudSpacingMM: f(85),
		FaceSeal:      "o_ring",
		Booster: &BoosterSpec{FirewallStuds: 4, FirewallSpacingMM: f(84), ShellMM: f(255),
			RodThread: "M10x1.5", ProtrusionMM: f(12.9), CheckValve: "left", Ratio: f(5.5), EffectiveAreaMM2: f(43000)},
	}
}

// Common practice, no source: what of a booster bolts on, reaches, or changes the pedal.
func TestBoostersPointByPoint(t *testing.T) {
	s := pickup(t)
	assert.Equal(t, Same, Compare(s, vacuumBooster(), vacuumBooster()).Verdict)
	for name, c := range map[string]struct {
		change func(*Unit)
		point  string
		want   Verdict
	}{
		"another kind":    {func(u *Unit) { u.Kind = HydraulicBooster }, "kind", DoesNotFit},
		"firewall":        {func(u *Unit) { u.Booster.FirewallSpacingMM = f(95) }, "firewall", DoesNotFit},
		"cylinder studs":  {func(u *Unit) { u.StudSpacingMM = f(92) }, "mounting", DoesNotFit},
		"rod a bit long":  {func(u *Unit) { u.Booster.ProtrusionMM = f(14.5) }, "protrusion", FitsWith},
		"rod far":         {func(u *Unit) { u.Booster.ProtrusionMM = f(30) }, "protrusion", DoesNotFit},
		"bigger shell":    {func(u *Unit) { u.Booster.ShellMM = f(280) }, "shell", DoesNotFit},
		"valve elsewhere": {func(u *Unit) { u.Booster.CheckValve = "top" }, "check_valve", FitsWith},
		"more assist":     {func(u *Unit) { u.Booster.EffectiveAreaMM2 = f(62000) }, "assist", ChangesPedal},
		"unmeasured":      {func(u *Unit) { u.Booster.Ratio = nil }, "assist", Unknown},
	} {
		u := vacuumBooster()
		c.change(&u)
		r := Compare(s, vacuumBooster(), u)
		assert.Equal(t, c.want, point(t, r, c.point).Verdict, name)
	}
	u := vacuumBooster()
	u.Booster.EffectiveAreaMM2 = f(1.3 * s.Booster.EffectiveAreaMM2)
	assert.Greater(t, twin.New(FittedBooster(s, u)).Apply(400, true).PressureMPA["A"], twin.New(s).Apply(400, true).PressureMPA["A"])
	assert.Equal(t, DoesNotFit, Compare(s, vacuumBooster(), old()).Verdict, "a cylinder is no booster")
}

func TestDrumUnitNeverFeedsDiscs(t *testing.T) {
	u := old()
	u.Brakes = "drum"
	assert.Equal(t, DoesNotFit, point(t, Compare(pickup(t), old(), u), "brakes").Verdict)
	u.Brakes = "disc"
	assert.Equal(t, FitsWith, point(t, Compare(pickup(t), old(), u), "brakes").Verdict)
	u.Brakes = ""
	assert.Equal(t, Unknown, point(t, Compare(pickup(t), old(), u), "brakes").Verdict)
}

func TestLinesToMake(t *testing.T) {
	s, u, o := pickup(t), old(), old()
	u.Ports = []Port{
		{Position: "front", Side: "right", Thread: "3/8-24", Seat: "inverted_flare", Circuit: "B"},
		{Position: "rear", Side: "left", Thread: "M12x1", Seat: "bubble", Circuit: "A"},
	}
	o.Ports[0].RunMM = f(420)
	items := map[string]Item{}
	for _, i := range Kit(s, CylinderOnly, &u, nil, Compare(s, o, u).Points) {
		items[i.ID] = i
	}
	made := items["line_to_make"]
	assert.Equal(t, "double_45", made.With["flare"])
	assert.InDelta(t, 580, made.With["cut_mm"], 1e-9, "way 420, the other side 150, two flares of 4, up to the next 5")
	assert.Equal(t, "bubble", items["line_to_measure"].With["flare"], "the way was not measured: no length is made up")
	assert.NotContains(t, items["line_to_measure"].With, "cut_mm")
	assert.Equal(t, []string{"3/8-24", "M12x1"}, items["bench_bleed_kit"].With["threads"])
}

func TestNewAgainstRebuilt(t *testing.T) {
	yes, no := true, false
	fresh, again := Unit{Condition: "new", Price: 150, Core: 30}, Unit{Condition: "rebuilt", Price: 84, Core: 30}
	o := old()
	o.Rebuildable = &yes
	a, b := WorthOf(fresh, o, 700), WorthOf(again, o, 700)
	assert.InDelta(t, 164, a.Expected, 1e-9)
	assert.InDelta(t, 126, b.Expected, 1e-9)
	assert.True(t, a.CoreBack)
	o.Rebuildable = &no
	assert.InDelta(t, 194, WorthOf(fresh, o, 700).Expected, 1e-9, "no core back for a unit beyond rebuilding")
	assert.Greater(t, WorthOf(again, o, 3000).Expected, WorthOf(fresh, o, 3000).Expected, "where doing it again is dear, new is cheaper")
}

func TestFromTheVehicle(t *testing.T) {
	u := FromSystem(pickup(t))
	assert.InDelta(t, pickup(t).MasterCylinder.BoreMM, *u.BoreMM, 1e-12)
	assert.Len(t, u.Ports, 2)
	assert.Nil(t, u.StudSpacingMM, "what only a calliper knows stays unknown")
}

// Iron and aluminium fit alike (common practice, no source): told, never held against a unit.
func TestIronAndAluminium(t *testing.T) {
	s, err := system.FromPattern("pickup-front-rear-vacuum")
	require.NoError(t, err)
	iron, alu := Unit{Material: "iron"}, Unit{Material: "aluminium"}
	at := func(old, c Unit) (found *Point) {
		for _, p := range Compare(s, old, c).Points {
			if p.ID == "material" {
				found = &p
			}
		}
		return found
	}
	require.NotNil(t, at(iron, alu))
	assert.Equal(t, Same, at(iron, alu).Verdict)
	assert.Equal(t, "match.material.other", at(iron, alu).Code)
	assert.Nil(t, at(Unit{}, alu), "nobody said: no point of it")
}
