package plan

import (
	"encoding/json"
	"fmt"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"geminate/brake/match"
	"geminate/brake/stand"
	"geminate/brake/system"
)

// eachPlan makes the plan of every pattern × scope × answer of each school × each feature alone, none, the likely ones
// and all.
func eachPlan(t *testing.T, do func(name string, s *system.System, c Choices, p *Plan)) (n int) {
	t.Helper()
	for _, pattern := range system.Patterns {
		s := pattern.Build()
		for _, scope := range match.Scopes(&s) {
			sets := []*[]Feature{nil, {}}
			all := []Feature{}
			for _, f := range Features {
				if f.Can(&s) {
					all = append(all, f.ID)
					sets = append(sets, &[]Feature{f.ID})
				}
			}
			sets = append(sets, &all)
			for i, schools := range schoolSets(&s, scope) {
				for k, have := range sets {
					if i > 0 && k > 1 && k < len(sets)-1 {
						continue // a feature alone with each school changes nothing that all of them together do not
					}
					c := Choices{Scope: scope, Schools: schools, Present: have}
					p, err := Make(&s, c)
					require.NoError(t, err)
					do(fmt.Sprint(pattern.ID, " ", scope, " ", schools, " ", p.Present), &s, c, p)
					n++
				}
			}
		}
	}
	return n
}

func schoolSets(s *system.System, scope match.Scope) []map[School]string {
	out := []map[School]string{{}}
	for _, e := range Schools {
		if !e.Asked(s, scope) {
			continue
		}
		var next []map[School]string
		for _, have := range out {
			for _, a := range e.Answers {
				m := map[School]string{e.ID: a}
				for k, v := range have {
					m[k] = v
				}
				next = append(next, m)
			}
		}
		out = next
	}
	return out
}

// The order of the trade (common practice, no source), held over every plan there is.
func TestEveryPlanThereIs(t *testing.T) {
	n := eachPlan(t, func(name string, s *system.System, c Choices, p *Plan) {
		at := map[string]int{}
		for i, st := range p.Steps {
			if _, twice := at[st.ID]; twice {
				t.Fatalf("%s: %s twice", name, st.ID)
			}
			at[st.ID] = i
		}
		fail := func(format string, args ...any) { t.Fatalf(name+": "+format, args...) }
		before := func(a, b string) {
			i, ok1 := at[a]
			k, ok2 := at[b]
			if ok2 && (!ok1 || i > k) {
				fail("%s not before %s", a, b)
			}
		}
		ifThere := func(a, b string) {
			if _, ok := at[a]; ok {
				before(a, b)
			}
		}
		for _, st := range p.Steps {
			if st.Phase == Strip || st.ID == "elsewhere.opened" {
				before("prepare.chock", st.ID)
			}
			for _, need := range st.Needs {
				before(need, st.ID)
			}
			if st.Phase != Strip || c.Scope.OnlyElsewhere() {
				continue
			}
			// Energy is let out, and the new unit held against the old, before anything comes apart.
			for kind, gate := range map[string]string{system.BoosterVacuum: "safe.pump_empty", system.BoosterHydraulic: "safe.discharge_accumulator", system.BoosterElectroHydraulic: "safe.isolate_high_voltage"} {
				if s.BoosterKind() == kind {
					before(gate, st.ID)
				}
			}
			before("prepare.compare_on_bench", st.ID)
		}
		ifThere("rod.coupler_moved", "rod.measure")
		for _, rod := range []string{"rod.measure", "rod.touch_and_turn", "rod.as_supplied", "rod.compare"} {
			ifThere(rod, "fit.cylinder_nuts")
			if at[rod] > 0 && !p.Find(rod).Gate {
				fail("%s is no gate", rod)
			}
		}
		if !s.IsTrailer() && !isOnePiece(s) && (c.Scope.FitsCylinder() || c.Scope.FitsBooster()) &&
			at["rod.measure"]+at["rod.touch_and_turn"]+at["rod.as_supplied"]+at["rod.compare"] == 0 {
			fail("no rod")
		}
		if p.NeedsBench {
			before("fit.bench_bled", "fit.cylinder_nuts")
			before("fit.bench_bled", "fit.actuator_bolts")
		}
		if p.Schools[BenchWhen] == BenchBefore {
			ifThere("fit.bench_bled", "strip.lines_off")
		}
		switch p.Schools[OffFirst] {
		case FirstLines:
			if p.Schools[BoosterLines] == LinesOnVehicle && c.Scope.FitsBooster() {
				ifThere("strip.pressure_lines", "strip.cylinder_off")
				ifThere("strip.pressure_lines", "strip.cylinder_aside")
				ifThere("fit.cylinder_nuts", "fit.pressure_lines")
			}
		case FirstCylinder:
			ifThere("strip.cylinder_off", "strip.pressure_lines")
		}
		ifThere("safe.service_plug", "safe.isolate_high_voltage")
		// What was found in other orders, and is not gone back to.
		for _, pair := range [][2]string{
			{"fit.shoe_and_rod", "fit.actuator_bolts"}, {"fit.shoe_and_rod", "rod.actuator_free"}, {"close.batteries_on", "close.steering_bleed"}, {"close.batteries_on", "close.bleed"},
			{"close.negative_on", "close.bleed"}, {"rod.port_fitting", "fit.bench_bled"}, {"rod.side_plugs", "fit.bench_bled"}, {"rod.reservoir_moved", "fit.bench_bled"},
			{"close.fill", "fit.bled_on_vehicle"}, {"fit.bled_on_vehicle", "fit.line_nuts"}, {"close.fill", "close.bleed"}, {"close.bleed", "close.bleeder_screws"}, {"close.bleeder_screws", "close.wash"},
			{"strip.kick_panel", "strip.pedal_end"}, {"fit.pedal_end", "fit.kick_panel"}, {"strip.cylinder_off", "strip.look_in_booster"},
		} {
			_, a := at[pair[0]]
			_, b := at[pair[1]]
			if a && b && at[pair[0]] > at[pair[1]] {
				fail("%s not before %s", pair[0], pair[1])
			}
		}
		if m := at["rod.touch_and_turn"]; m > 0 && c.Scope.FitsBooster() {
			before("fit.firewall_nuts", "rod.touch_and_turn")
			before("rod.touch_and_turn", "fit.cylinder_nuts")
		}
		for _, over := range overIt {
			for _, under := range []string{"close.bleed", "close.bleeder_screws", "close.wash", "close.steering_bleed"} {
				_, a := at["fit."+over]
				if _, b := at[under]; a && b {
					before(under, "fit."+over)
				}
			}
		}
		if c.Scope == match.ElsewhereOpened && hasBooster(s) && !isVacuum(s) {
			if _, there := at["safe.discharge_accumulator"]; !there && at["safe.scan_tool_release"] == 0 {
				fail("a line opened under pressure")
			}
		}
		if p.Find("fit.line_nuts") != nil {
			before(map[bool]string{true: "fit.start_nuts_loose", false: "fit.start_nuts_snug"}[p.Schools[LineNuts] == NutsLoose],
				"fit.line_nuts")
		}
		for _, st := range p.Steps {
			if stand.Find(st.ID) == nil {
				fail("%s is no act anybody knows of", st.ID)
			}
			if isOnePiece(s) &&
				(st.ID == "strip.cylinder_off" || st.ID == "fit.bench_bled" || st.ID == "strip.pressure_lines" || strings.HasPrefix(st.ID, "rod.")) {
				fail("%s on a unit of one piece", st.ID)
			}
		}
		before("safe.scan_tool_release", "safe.negative_off")
		// Everything that came off goes on, in the reverse.
		on := map[string]string{"strip.cylinder_aside": "fit.cylinder_nuts"}
		for _, r := range joint {
			on[r.off] = r.on
		}
		delete(on, "strip.shoe_and_rod") // moves by hand before the bolts are tight
		delete(on, "strip.kick_panel")   // goes back last of all
		last := len(p.Steps)
		for _, st := range p.Steps {
			back := on[st.ID]
			if st.Phase != Strip || back == "" {
				continue
			}
			if i, there := at[back]; !there || i > last {
				fail("%s comes off and does not go on in the reverse", st.ID)
			}
			last = at[back]
		}
		// Whatever is opened is bled, or the vehicle is parked.
		for _, st := range p.Steps {
			if act := stand.Find(st.ID); act != nil && st.Opens != act.Opens {
				fail("%s: opens or not", st.ID)
			}
			if st.Opens && !p.NeedsBleeding {
				fail("%s opens and nothing is bled", st.ID)
			}
			if st.Torque != nil && st.Torque.LowNM >= st.Torque.HighNM {
				fail("%s: torque", st.ID)
			}
		}
		if p.NeedsBleeding != c.Scope.OpensHydraulics() || p.PutOff != (c.Schools[BleedWhen] == BleedPutOff && p.NeedsBleeding) {
			fail("bleeding")
		}
		// No step for a part that is not there.
		for _, f := range Features {
			if slices.Contains(p.Present, f.ID) {
				continue
			}
			if _, there := at["strip."+string(f.ID)]; there {
				fail("%s comes off and is not there", f.ID)
			}
		}
		for id, has := range map[string]bool{"strip.vacuum_hose": isVacuum(s), "close.steering_bleed": hasSteering(s), "safe.isolate_high_voltage": isOnePiece(s), "strip.actuator_bolts": s.IsTrailer(),
			"strip.sensor_plug": slices.Contains(p.Present, LevelSensor), "rod.coupler_moved": slices.Contains(p.Present, RodCoupler) || slices.Contains(p.Present, RodClip) || slices.Contains(p.Present, Collar)} {
			if _, there := at[id]; there && !has {
				fail("%s on a vehicle without", id)
			}
		}
		// Its own order never meets a closed gate, and taking any step back names only what was done after it.
		done := map[string]bool{}
		for _, st := range p.Steps {
			missing, err := p.Missing(st.ID, done)
			if err != nil || len(missing) > 0 {
				fail("%s: %v %v", st.ID, missing, err)
			}
			done[st.ID] = true
		}
		for _, st := range p.Steps {
			for _, f := range p.FallsWith(st.ID, done) {
				if at[f] <= at[st.ID] {
					fail("%s falls with %s", f, st.ID)
				}
			}
		}
	})
	assert.Greater(t, n, 5_000)
	t.Logf("%d plans", n)
}

// Ten ways of working on made-up vehicles, each plan as it stood when it was looked through by hand. To look again
// after a change on purpose: GEMINATE_GOLDEN=write go test ./brake/plan -run Golden, then read the difference.
func TestGoldenPlans(t *testing.T) {
	ports := func(front, rear string) []match.Port {
		return []match.Port{
			{Position: "front", Side: "left", Thread: "3/8-24", Seat: "inverted_flare", Circuit: front},
			{Position: "rear", Side: "left", Thread: "7/16-24", Seat: "inverted_flare", Circuit: rear},
		}
	}
	ways := map[string]struct {
		pattern string
		c       Choices
	}{
		"diesel pickup, hydraulic booster, two batteries": {
			"pickup-hydraulic",
			Choices{
				Scope:   match.BoosterAside,
				Present: &[]Feature{SecondBattery, PressurePlate, ReturnSnap, LampSwitch, RodCoupler, LevelSensor, KickPanel},
			},
		},
		"medium truck, lines opened": {
			"truck-hydraulic",
			Choices{Scope: match.BoosterOpened, Schools: map[School]string{BoosterLines: LinesOnFloor, LineNuts: NutsLoose}},
		},
		"vacuum booster, cylinder aside": {
			"pickup-front-rear-vacuum",
			Choices{Scope: match.BoosterAside, Present: &[]Feature{CheckValve, FacePaper, LampSwitch, StackedBracket, AirBox}},
		},
		"both, bleed put off": {
			"pickup-front-rear-vacuum",
			Choices{Scope: match.Both, Schools: map[School]string{BleedWhen: BleedPutOff, BenchWhen: BenchAfter}},
		},
		"car, remote reservoir, modulator lines": {
			"car-diagonal-vacuum",
			Choices{
				Scope:   match.CylinderOnly,
				Present: &[]Feature{RemoteReservoir, ModulatorLines, PressureSensors, RodCoupler, NeighbourLine},
			},
		},
		"hybrid":        {"hybrid-electro-hydraulic", Choices{Scope: match.Both}},
		"surge trailer": {"trailer-surge", Choices{Scope: match.CylinderOnly}},
		"cylinder under the floor": {
			"special-vacuum",
			Choices{
				Scope:   match.CylinderOnly,
				Present: &[]Feature{FloorTray, ResidualInLine, RodCoupler},
				Schools: map[School]string{BenchWhen: BenchOnVehicle, Rod: RodTouch},
			},
		},
		"bore change, circuits the other way round": {
			"pickup-front-rear-vacuum",
			Choices{
				Scope:   match.CylinderOnly,
				Old:     &match.Unit{Ports: ports("B", "A")},
				Unit:    &match.Unit{Ports: ports("A", "B"), FaceSeal: "o_ring", Reservoir: "reuse"},
				Schools: map[School]string{Rod: RodFixed},
			},
		},
		"manual, rod as supplied": {
			"special-manual",
			Choices{
				Scope:   match.CylinderOnly,
				Schools: map[School]string{Rod: RodAsSupplied, BenchWhen: BenchFinal},
				Own:     []OwnStep{{ID: "own.1", After: "strip.lines_off", Text: "Seat out"}},
			},
		},
	}
	for name, w := range ways {
		s, err := system.FromPattern(w.pattern)
		require.NoError(t, err)
		p, err := Make(s, w.c)
		require.NoError(t, err)
		raw, err := json.MarshalIndent(p, "", " ")
		require.NoError(t, err)
		file := filepath.Join("testdata", strings.NewReplacer(" ", "-", ",", "").Replace(name)+".json")
		if os.Getenv("GEMINATE_GOLDEN") == "write" {
			require.NoError(t, os.MkdirAll("testdata", 0o755))
			require.NoError(t, os.WriteFile(file, append(raw, '\n'), 0o644))
		}
		want, err := os.ReadFile(file)
		require.NoError(t, err)
		assert.JSONEq(t, string(want), string(raw), name)
	}
}

func TestALineGoesWhereItsCircuitIs(t *testing.T) {
	s, _ := system.FromPattern("pickup-front-rear-vacuum")
	run := 420.0
	old := &match.Unit{Ports: []match.Port{
		{Position: "front", Side: "left", Thread: "3/8-24", Seat: "inverted_flare", Circuit: "B"},
		{Position: "rear", Side: "left", Thread: "7/16-24", Seat: "inverted_flare", Circuit: "A", RunMM: &run},
		{Position: "third", Side: "right", Thread: "M10x1", Seat: "bubble", Circuit: "A"}}}
	unit := &match.Unit{Ports: []match.Port{
		{Position: "front", Side: "left", Thread: "7/16-24", Seat: "inverted_flare", Circuit: "A"},
		{Position: "rear", Side: "left", Thread: "M10x1", Seat: "inverted_flare", Circuit: "B"},
		{Position: "third", Side: "right", Thread: "M12x1", Seat: "bubble", Circuit: "A"}}}
	lines := LineMap(s, old, unit, true)
	require.Len(t, lines, 3, "every port, not the first two")
	assert.True(t, lines[0].Swapped)
	assert.Equal(t, "rear", lines[0].New.Position)
	assert.Equal(t, []string{"thread"}, lines[0].Differs, "the thread differs too and is said")
	assert.Equal(t, "line", lines[0].Fitting)
	assert.Nil(t, lines[0].CutMM, "no length is made up")
	assert.Equal(t, "front", lines[1].New.Position)
	assert.InDelta(t, 580, *lines[1].CutMM, 1e-9, "420 mm, two flares of 4, 150 round to the other place, to the next 5")
	assert.False(t, lines[2].Swapped)
	assert.Equal(t, "adapter", lines[2].Fitting)
	assert.Nil(t, LineMap(s, old, unit, false)[0].New, "the cylinder stays: lines go back where they came from")
}

func TestTheMakersFiguresWin(t *testing.T) {
	s, _ := system.FromPattern("pickup-front-rear-vacuum")
	p, err := Make(s, Choices{Scope: match.CylinderOnly, Torques: map[string]Torque{"fit.cylinder_nuts": {LowNM: 36, HighNM: 40}}})
	require.NoError(t, err)
	got := p.Find("fit.cylinder_nuts").Torque
	assert.Equal(t, &Torque{LowNM: 36, HighNM: 40, Maker: true, Fasteners: 2}, got)
	assert.False(t, p.Find("fit.line_nuts").Torque.Maker)
	assert.True(t, p.Find("fit.line_nuts").Torque.ByHand)
}
