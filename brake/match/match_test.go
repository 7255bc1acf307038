package match

import (
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"geminate/brake/bleed"
	"geminate/brake/system"
	"geminate/brake/twin"
	"geminate/brake/units"
)

func f(x float64) *float64 { return &x }

func old() Unit {
	return Unit{
		ID:            "old",
		BoreMM:        f(26.9875),
		StudSpacingMM: f(85),
		Studs:         2,
		PocketMM:      f(12.4),
		FaceSeal:      "o_ring",
		Sensor:        "two_pin",
		Variant:       "plain",
		ResidualMPA:   f(0),
		Reservoir:     "included",
		Brakes:        "disc_drum",
		Ports: []Port{
			{Position: "front", Side: "left", Thread: "3/8-24", Seat: "inverted_flare", Circuit: "B"},
			{Position: "rear", Side: "left", Thread: "7/16-24", Seat: "inverted_flare", Circuit: "A"},
		},
	}
}

func pickup(t *testing.T) *system.System {
	t.Helper()
	s, err := system.FromPattern("pickup-front-rear-vacuum")
	require.NoError(t, err)
	return s
}

func point(t *testing.T, r Result, id string) Point {
	t.Helper()
	for _, p := range r.Points {
		if p.ID == id {
			return p
		}
	}
	t.Fatalf("no point %s", id)
	return Point{}
}

// Common practice, no source: what must be the same, what may differ with a part, what must not.
func TestEachDifferenceIsCalledForWhatItIs(t *testing.T) {
	s := pickup(t)
	same := Compare(s, old(), old())
	assert.Equal(t, Same, same.Verdict)
	for name, c := range map[string]struct {
		change func(*Unit)
		point  string
		want   Verdict
	}{
		"larger bore":       {func(u *Unit) { u.BoreMM = f(28.575) }, "bore", ChangesPedal},
		"bore unmeasured":   {func(u *Unit) { u.BoreMM = nil }, "bore", Unknown},
		"other thread":      {func(u *Unit) { u.Ports[0].Thread = "M10x1" }, "port_front", FitsWith},
		"other seat":        {func(u *Unit) { u.Ports[0].Seat = "bubble" }, "port_front", FitsWith},
		"other side":        {func(u *Unit) { u.Ports[1].Side = "right" }, "port_rear", FitsWith},
		"one port":          {func(u *Unit) { u.Ports = u.Ports[:1] }, "ports", DoesNotFit},
		"three ports":       {func(u *Unit) { u.Ports = append(u.Ports, Port{Position: "third"}) }, "ports", FitsWith},
		"stud spacing":      {func(u *Unit) { u.StudSpacingMM = f(95) }, "mounting", DoesNotFit},
		"stud count":        {func(u *Unit) { u.Studs = 4 }, "mounting", DoesNotFit},
		"pocket 2 mm":       {func(u *Unit) { u.PocketMM = f(14.4) }, "pocket", FitsWith},
		"pocket 9 mm":       {func(u *Unit) { u.PocketMM = f(21.4) }, "pocket", DoesNotFit},
		"other seal":        {func(u *Unit) { u.FaceSeal = "gasket" }, "face_seal", FitsWith},
		"sensor lead":       {func(u *Unit) { u.Sensor = "three_pin" }, "sensor", FitsWith},
		"sensor lost":       {func(u *Unit) { u.Sensor = "none" }, "sensor", DoesNotFit},
		"abs variant":       {func(u *Unit) { u.Variant = "abs" }, "variant", DoesNotFit},
		"drum valve":        {func(u *Unit) { u.ResidualMPA = f(0.07) }, "residual", DoesNotFit},
		"reservoir reused":  {func(u *Unit) { u.Reservoir = "reuse" }, "reservoir", FitsWith},
		"residual unstated": {func(u *Unit) { u.ResidualMPA = nil }, "residual", Unknown},
	} {
		t.Run(name, func(t *testing.T) {
			u := old()
			u.Ports = append([]Port(nil), u.Ports...)
			c.change(&u)
			r := Compare(s, old(), u)
			assert.Equal(t, c.want, point(t, r, c.point).Verdict)
			assert.Equal(t, c.want, r.Verdict, "the one difference decides the whole")
		})
	}
}

func TestOneMisfitIsNotHidden(t *testing.T) {
	u := old()
	u.Variant, u.BoreMM, u.Sensor = "abs", nil, ""
	assert.Equal(t, DoesNotFit, Compare(pickup(t), old(), u).Verdict)
}

// Source: arithmetic. 1.030 in to 1.130 in gives (1.130/1.030)² = 1.20360 times the volume and
// 0.83084 times the pressure.
func TestBoreArithmetic(t *testing.T) {
	in := func(x float64) *float64 { mm, _ := units.Convert(x, "in", "mm"); return &mm }
	a, b := old(), old()
	a.BoreMM, b.BoreMM = in(1.030), in(1.130)
	p := point(t, Compare(pickup(t), a, b), "bore")
	assert.InDelta(t, 1.20360, p.With["volume_ratio"], 1e-5)
	assert.InDelta(t, 0.83084, p.With["pressure_ratio"], 1e-5)
}

// Source: the twin. A larger bore shortens the pedal and lowers the pressure for the same foot.
func TestFittedChangesThePedal(t *testing.T) {
	s := pickup(t)
	u := old()
	u.BoreMM, u.StrokeMM = f(30), f(40)
	before, after := twin.New(s).Apply(250, true), twin.New(Fitted(s, u)).Apply(250, true)
	assert.Less(t, after.TravelMM, before.TravelMM)
	assert.Less(t, after.PressureMPA["A"], before.PressureMPA["A"])
	assert.InDelta(t, 40, Fitted(s, u).MasterCylinder.Primary.StrokeMM+Fitted(s, u).MasterCylinder.Secondary.StrokeMM, 1e-9)
	assert.Equal(t, 26.9875, s.MasterCylinder.BoreMM, "the job's own system is untouched")
	s.Circuits[0].AirCM3, s.Circuits[1].BypassMM3SMPA = 5, 9
	sound := Sound(s)
	assert.Zero(t, sound.Circuits[0].AirCM3+sound.Circuits[1].BypassMM3SMPA)
}

func TestKitForgetsNothing(t *testing.T) {
	s := pickup(t)
	u := old()
	u.Contents = []string{"reservoir", "level_sensor"}
	other := old()
	other.Ports[0].Thread = "M12x1"
	how := map[string]string{}
	for _, i := range Kit(s, Both, &u, nil, comparePorts(u, other)) {
		assert.NotContains(t, how, i.ID, "each item once")
		how[i.ID] = i.How
	}
	for id, want := range map[string]string{"reservoir": "in_box", "level_sensor": "in_box", "reservoir_grommets": "buy", "face_seal_o_ring": "buy",
		"check_valve": "buy", "clevis": "move_over", "rod_coupler": "move_over", "port_adapter": "buy", "bench_bleed_kit": "buy"} {
		assert.Equal(t, want, how[id], id)
	}
}

// Assumptions (how-it-computes, section 6): what a calliper and a hand tell apart. Each is walked through its limit.
func TestTolerancesEndWhereTheyAreSaidToEnd(t *testing.T) {
	s := pickup(t)
	is := func(id string, change func(*Unit)) Verdict {
		u := old()
		change(&u)
		return point(t, Compare(s, old(), u), id).Verdict
	}
	pocket := func(mm float64) func(*Unit) { return func(u *Unit) { u.PocketMM = f(12.4 + mm) } }
	assert.Equal(t, Same, is("pocket", pocket(0.29)))
	assert.Equal(t, FitsWith, is("pocket", pocket(0.31)), "the rod is set for it")
	assert.Equal(t, FitsWith, is("pocket", pocket(-4.9)))
	assert.Equal(t, DoesNotFit, is("pocket", pocket(-5.1)), "past what a rod is set by")
	stud := func(mm float64) func(*Unit) { return func(u *Unit) { u.StudSpacingMM = f(85 + mm) } }
	assert.Equal(t, Same, is("mounting", stud(0.49)))
	assert.Equal(t, DoesNotFit, is("mounting", stud(0.51)))
	bore := func(mm float64) func(*Unit) { return func(u *Unit) { u.BoreMM = f(26.9875 + mm) } }
	assert.Equal(t, Same, is("bore", bore(0.05)))
	assert.Equal(t, ChangesPedal, is("bore", bore(0.07)))

	wall := func(mm float64) Verdict {
		u := vacuumBooster()
		u.Booster.FirewallSpacingMM = f(84 + mm)
		return point(t, Compare(s, vacuumBooster(), u), "firewall").Verdict
	}
	assert.Equal(t, Same, wall(0.9))
	assert.Equal(t, DoesNotFit, wall(1.1))
	assert.Equal(t, DoesNotFit, wall(-2), "two millimetres do not go over a stud")
}

// Common practice, no source: a quarter more than what flows and stands in the unit is in hand.
func TestAQuarterIsInHand(t *testing.T) {
	n, err := Fluid(pickup(t), CylinderOnly, usual)
	require.NoError(t, err)
	assert.InDelta(t, (n.BleedCM3+n.UnitCM3)/4, n.MarginCM3, 1e-9)
	assert.InDelta(t, (n.BleedCM3+n.UnitCM3)*5/4, n.TotalCM3, 1e-9)
}

var usual = bleed.Options{Method: bleed.Pedal, TemperatureC: 20, OldFraction: 0.1, StrokeMM: 15, Order: bleed.Longest}

func TestFluidNeed(t *testing.T) {
	s := pickup(t)
	n, err := Fluid(s, CylinderOnly, usual)
	require.NoError(t, err)
	assert.Equal(t, []string{"DOT 3", "DOT 4", "DOT 5.1"}, n.Allowed)
	assert.Equal(t, []string{"DOT 5"}, n.Forbidden)
	// Common practice, no source: two quarts in hand for a pickup.
	assert.InDelta(t, 2*946, n.TotalCM3, 946)
	assert.GreaterOrEqual(t, float64(n.Bottles)*n.BottleCM3, n.TotalCM3)
	aside, err := Fluid(s, BoosterAside, usual)
	require.NoError(t, err)
	assert.Zero(t, aside.TotalCM3, "nothing is opened, nothing is bled")
	hybrid, err := system.FromPattern("hybrid-electro-hydraulic")
	require.NoError(t, err)
	assert.NotContains(t, Scopes(hybrid), BoosterAside, "brake fluid runs through an electro-hydraulic booster")
	for _, scope := range Scopes(hybrid) {
		if scope.FitsBooster() {
			assert.True(t, scope.OpensHydraulics(), scope)
		}
		for _, i := range Kit(hybrid, scope, nil, nil, nil) {
			assert.NotEqual(t, "steering_fluid", i.ID, scope)
		}
	}
	assert.False(t, Elsewhere.OpensHydraulics() || Elsewhere.FitsCylinder() || Elsewhere.FitsBooster())
	trailer, _ := system.FromPattern("trailer-surge")
	assert.NotContains(t, Scopes(trailer), BoosterAside)
}

// Every action and pair of actions of the diagnosis, on every pattern, leads to a scope that the system has, that fits
// what the actions fit, and that opens and bleeds what they open. Source: the trade's order of work (brief, section 7).
func TestEveryVerdictLeadsToWorkThatCanBeDone(t *testing.T) {
	acts := []string{
		"replace_master_cylinder",
		"replace_booster",
		"replace_both",
		"bleed",
		"repair_wheel",
		"repair_line",
		"repair_supply",
		"set_rod",
		"change_fluid",
		"change_bore",
		"nothing",
	}
	has := func(list []string, any ...string) bool {
		return slices.ContainsFunc(list, func(a string) bool { return slices.Contains(any, a) })
	}
	for _, p := range system.Patterns {
		s := p.Build()
		for i, a := range acts {
			for _, b := range acts[i:] {
				list := []string{a, b}
				if s.BoosterKind() == system.BoosterNone && has(list, "replace_booster", "replace_both", "repair_supply") {
					continue
				}
				for _, opens := range []bool{false, true} {
					got := ScopeOf(&s, list, opens)
					if a == "nothing" && b == "nothing" {
						assert.Empty(t, got)
						continue
					}
					require.Contains(t, Scopes(&s), got, "%s: %v", p.ID, list)
					if units := has(list, "replace_master_cylinder", "change_bore", "replace_both",
						"replace_booster"); s.BoosterKind() == system.BoosterElectroHydraulic {
						assert.Equal(t, units, got == ElectroUnit, "one piece: %v", list)
					} else {
						assert.Equal(t, has(list, "replace_master_cylinder", "change_bore", "replace_both"), got.FitsCylinder(),
							"%s: %v", p.ID, list)
						assert.Equal(t, has(list, "replace_booster", "replace_both"), got.FitsBooster(), "%s: %v", p.ID, list)
					}
					if has(list, "replace_master_cylinder", "change_bore", "replace_both", "bleed", "change_fluid", "repair_line") ||
						opens && has(list, "repair_wheel") {
						assert.True(t, got.OpensHydraulics(), "%s: %v must be bled", p.ID, list)
					}
					if got.FitsBooster() && s.BoosterKind() == system.BoosterElectroHydraulic {
						assert.True(t, got.OpensHydraulics(), "brake fluid runs through it")
					}
				}
			}
		}
		assert.Equal(t, Elsewhere, ScopeOf(&s, []string{"repair_wheel"}, false), "a clearance is set with everything closed")
		assert.Equal(t, ElsewhereOpened, ScopeOf(&s, []string{"repair_wheel"}, true))
	}
}

// Bounds of a measured unit, walked one by one: what a calliper can have read there, and no other unit (assumptions).
func TestWhatAUnitCanMeasure(t *testing.T) {
	faults := func(change func(*Unit)) int {
		u := old()
		u.Booster = vacuumBooster().Booster
		change(&u)
		return len(CheckUnit(&u))
	}
	require.Zero(t, faults(func(*Unit) {}))
	for name, c := range map[string]struct {
		set    func(*Unit, float64)
		lo, hi float64
	}{
		"bore":         {func(u *Unit, v float64) { u.BoreMM = &v }, 8, 80},
		"stroke":       {func(u *Unit, v float64) { u.StrokeMM = &v }, 5, 150},
		"stud spacing": {func(u *Unit, v float64) { u.StudSpacingMM = &v }, 20, 300},
		"pocket":       {func(u *Unit, v float64) { u.PocketMM = &v }, 0, 150},
		"residual":     {func(u *Unit, v float64) { u.ResidualMPA = &v }, 0, 1},
		"studs":        {func(u *Unit, v float64) { u.Studs = int(v) }, 0, 8},
		"firewall":     {func(u *Unit, v float64) { u.Booster.FirewallSpacingMM = &v }, 20, 400},
		"shell":        {func(u *Unit, v float64) { u.Booster.ShellMM = &v }, 50, 600},
		"protrusion":   {func(u *Unit, v float64) { u.Booster.ProtrusionMM = &v }, -50, 100},
		"ratio":        {func(u *Unit, v float64) { u.Booster.Ratio = &v }, 1.01, 20},
		"area":         {func(u *Unit, v float64) { u.Booster.EffectiveAreaMM2 = &v }, 1000, 200000},
	} {
		at := func(v float64) int { return faults(func(u *Unit) { c.set(u, v) }) }
		assert.Zero(t, at(c.lo), "%s %v", name, c.lo)
		assert.Zero(t, at(c.hi), "%s %v", name, c.hi)
		assert.NotZero(t, at(c.lo-max(1, c.lo/100)), "%s under %v", name, c.lo)
		assert.NotZero(t, at(c.hi+max(1, c.hi/100)), "%s over %v", name, c.hi)
	}
}

// A stamp is of a cylinder there is: 10 to 60 mm (assumption); three and less is inches, whatever unit is left out.
func TestAStampIsOfACylinderThereIs(t *testing.T) {
	for text, ok := range map[string]bool{"10 mm": true, "9.9 mm": false, "60 mm": true, "60.1 mm": false, "0.394": true, "0.39": false, "2.36": true, "2.37": false, "2.9": false} {
		_, err := ReadBore(text)
		assert.Equal(t, ok, err == nil, "%s: %v", text, err)
	}
}

// Studs and their spacing are both measured, or the mounting is not known.
func TestAMountingHalfMeasuredIsNotKnown(t *testing.T) {
	for name, change := range map[string]func(o, u *Unit){
		"the old one's spacing": func(o, _ *Unit) { o.StudSpacingMM = nil }, "the new one's spacing": func(_, u *Unit) { u.StudSpacingMM = nil },
		"the old one's studs": func(o, _ *Unit) { o.Studs = 0 }, "the new one's studs": func(_, u *Unit) { u.Studs = 0 },
	} {
		o, u := old(), old()
		change(&o, &u)
		assert.Equal(t, Unknown, point(t, Compare(pickup(t), o, u), "mounting").Verdict, name)
	}
}

// ActsOf is ScopeOf the other way: what a scope stands for asks for that scope again, on every kind of vehicle that has
// it.
func TestAScopeStandsForTheActsThatAskForIt(t *testing.T) {
	for _, pattern := range []string{"pickup-front-rear-vacuum", "hybrid-electro-hydraulic", "special-manual", "trailer-surge"} {
		s, err := system.FromPattern(pattern)
		require.NoError(t, err)
		for _, scope := range Scopes(s) {
			if acts := ActsOf(scope); assert.NotEmpty(t, acts, scope) {
				assert.Equal(t, Resolve(s, scope), ScopeOf(s, acts, false), "%s on %s", scope, pattern)
			}
		}
	}
}
