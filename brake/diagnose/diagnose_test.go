package diagnose

import (
	"encoding/json"
	"errors"
	"fmt"
	"math"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"geminate/brake/system"
	"geminate/brake/twin"
)

func caseOf(t testing.TB, pattern string, findings ...string) *Case {
	t.Helper()
	c, err := ReadCase(
		strings.NewReader(fmt.Sprintf(`{"format":"geminate.case/1","pattern":%q,"findings":[%s]}`, pattern, strings.Join(findings, ","))),
	)
	require.NoError(t, err)
	return c
}

func run(t testing.TB, pattern string, findings ...string) *Result {
	t.Helper()
	r, err := Run(caseOf(t, pattern, findings...), DefaultCosts())
	require.NoError(t, err)
	return r
}

// chance adds a fault up over the places it can sit at.
func chance(r *Result, id string) (sum float64) {
	for _, f := range r.Faults {
		if f.ID == id {
			sum += f.Probability
		}
	}
	return sum
}

func sign1(id, value string) string { return fmt.Sprintf(`{"id":%q,"value":%q}`, id, value) }

// Common practice, no source: the signs and what they speak for, as the trade brief tells them.
func TestTheTradeStories(t *testing.T) {
	const pickup = "pickup-front-rear-vacuum"
	for name, c := range map[string]struct {
		pattern  string
		findings []string
		lead     string
		action   string
	}{
		"sinks, reservoir full, ports plugged still sinks":  {pickup, []string{sign1("pedal.sinks", "slow"), sign1("level.falls", "no"), `{"id":"wet.at","value":["dry"]}`, sign1("pedal.pumps_up", "for_a_moment"), sign1("ports_plugged.pedal", "sinks")}, "mc.primary_cup_bypass", "replace_master_cylinder"},
		"rush of air and a hard pedal":                      {pickup, []string{sign1("sound.rush_of_air", "always"), sign1("pedal.hard", "always"), sign1("brakes.weak", "all"), `{"id":"vacuum.at_hose_kpa","value":65}`, sign1("assist.pedal_falls_on_start", "no")}, "vacuum.diaphragm_leak", "replace_booster"},
		"hard, no hiss, no vacuum at the hose":              {pickup, []string{sign1("sound.rush_of_air", "no"), sign1("pedal.hard", "always"), `{"id":"vacuum.at_hose_kpa","value":20}`, sign1("assist.pedal_falls_on_start", "no")}, "vacuum.supply_low", "repair_supply"},
		"springy after the hydraulics were opened":          {pickup, []string{sign1("pedal.springy", "yes"), sign1("pedal.low", "yes"), sign1("pedal.pumps_up", "stays"), `{"id":"history.since","value":["hydraulics_opened"]}`, sign1("level.falls", "no")}, "circuit.air", "bleed"},
		"drags hot since a booster, line cracked frees it":  {pickup, []string{sign1("brakes.drag", "all_when_hot"), `{"id":"history.since","value":["booster_fitted"]}`, `{"id":"pedal.free_play_mm","value":0}`, sign1("drag.released_by", "line_at_cylinder"), `{"id":"rod.gap_mm","value":-0.6}`}, "rod.too_long", "set_rod"},
		"steering fluid on the driver's floor":              {"pickup-hydraulic", []string{`{"id":"wet.at","value":["cabin_floor"]}`, sign1("wet.fluid", "steering")}, "hydraulic.input_seal_leak", "replace_booster"},
		"trailer that stood, rod will not push in":          {"trailer-surge", []string{sign1("brakes.weak", "all"), sign1("actuator.rod_moves", "no"), `{"id":"history.since","value":["stood_outdoors"]}`, sign1("coupler.rod_alone", "yes")}, "trailer.actuator_seized", "free_coupler"},
		"trailer that stood, rod by itself stuck too":       {"trailer-surge", []string{sign1("brakes.weak", "all"), sign1("actuator.rod_moves", "no"), sign1("coupler.rod_alone", "no"), sign1("coupler.lockout", "lockout_out")}, "mc.piston_seized", "replace_master_cylinder"},
		"trailer, lock-out left in":                         {"trailer-surge", []string{sign1("brakes.weak", "all"), sign1("coupler.lockout", "lockout_in")}, "trailer.lockout", "free_coupler"},
		"rears drag, the slack cable frees them":            {pickup, []string{sign1("brakes.drag", "all"), `{"id":"wheel.check","value":{"LF":"free","RF":"free","LR":"drags","RR":"drags"}}`, sign1("parking.slack", "frees")}, "wheel.parking_brake", "repair_wheel"},
		"drags, the pedal does not come back":               {pickup, []string{sign1("brakes.drag", "all_when_hot"), `{"id":"pedal.free_play_mm","value":0}`, sign1("pedal.returns", "no")}, "pedal.held_down", "set_rod"},
		"dead at first, a clunk sideways, the rod is right": {pickup, []string{sign1("pedal.dead_first_travel", "yes"), `{"id":"pedal.free_play_mm","value":8}`, sign1("pedal.side_play", "yes"), `{"id":"rod.gap_mm","value":0.5}`}, "pedal.bush_worn", "set_rod"},
		"weak, help is there, linings shine":                {pickup, []string{sign1("brakes.weak", "all"), sign1("pedal.springy", "no"), sign1("assist.pedal_falls_on_start", "yes"), sign1("linings.seen", "glazed")}, "wheel.linings", "repair_wheel"},
		"wet behind the cylinder, level falls":              {pickup, []string{`{"id":"wet.at","value":["behind_cylinder"]}`, sign1("wet.fluid", "brake"), sign1("level.falls", "slowly"), sign1("paint.peeling_on_booster", "yes"), sign1("pedal.hard", "no")}, "mc.rear_seal_leak", "replace_master_cylinder"},
	} {
		t.Run(name, func(t *testing.T) {
			r := run(t, c.pattern, c.findings...)
			require.NotEmpty(t, r.Faults)
			assert.Equal(t, c.lead, r.Faults[0].ID)
			assert.Greater(t, chance(r, c.lead), 0.5, "over all circuits and wheels")
			assert.Equal(t, c.action, r.Action.Best)
			assert.NotEmpty(t, r.Faults[0].Because)
		})
	}
}

// Source: the twin itself, read backwards. A sink of the size a passing cup gives is taken for one.
func TestAMeasuredSinkIsJudgedByTheTwin(t *testing.T) {
	held := func(mm float64) *Result {
		return run(t, "pickup-front-rear-vacuum",
			fmt.Sprintf(`{"id":"pedal.sink","value":{"pedal_force_n":200,"travel_mm":%v,"seconds":20,"engine":"off"}}`, mm),
			sign1("level.falls", "no"))
	}
	still, sunk := held(0), held(12)
	assert.Less(t, chance(still, "mc.primary_cup_bypass"), 0.06)
	assert.Greater(t, chance(sunk, "mc.primary_cup_bypass"), 0.4)
	assert.Greater(t, still.Healthy, 8*sunk.Healthy)
}

// Source: Bayes' rule by hand. With one sign, the odds of two hypotheses are prior odds times the
// ratio of their likelihoods; two pieces of evidence multiply.
func TestPosteriorIsBayes(t *testing.T) {
	s, _ := system.FromPattern("special-manual")
	e := newEngine(s, nil)
	sum := 0.0
	for _, p := range e.prior {
		sum += p
	}
	assert.InDelta(t, 1, sum, 1e-12)
	l := e.likelihood(&observation{sign: findSign("pedal.sinks"), value: "slow", sure: true, weight: 1})
	k := e.likelihood(&observation{sign: findSign("level.falls"), value: "no", sure: true, weight: 1})
	post := e.posterior([][]float64{l, k})
	for i := 1; i < len(post); i++ {
		assert.InEpsilon(t, e.prior[i]/e.prior[0]*l[i]/l[0]*k[i]/k[0], post[i]/post[0], 1e-9)
	}
	// Rates without a cause are independent: odds multiply. Source: the chain rule by hand.
	odds := func(i int) float64 { p := e.faults[i].fault.PriorAt(e.sys, e.faults[i].at); return p / (1 - p) }
	assert.InEpsilon(t, odds(0)/SoundShare, e.prior[1]/e.prior[0], 1e-12)
	at := func(ids ...string) (h hypothesis) {
		for _, id := range ids {
			h = append(h, slices.IndexFunc(e.faults, func(f placedFault) bool { return f.fault.ID == id }))
		}
		slices.Sort(h)
		return h
	}
	prior := func(h hypothesis) float64 {
		return e.prior[slices.IndexFunc(e.hyps, func(x hypothesis) bool { return slices.Equal(x, h) })] / e.prior[0] * SoundShare
	}
	apart := at("mc.reservoir_leak", "wheel.seized")
	assert.InEpsilon(t, odds(apart[0])*odds(apart[1]), prior(apart), 1e-12, "no cause between them: a pair weighs the product")
	wet, corroded, cup := at("fluid.wet"), at("mc.bore_corroded"), at("mc.primary_cup_bypass")
	const fromWet, toPrimary, toSecondary = 0.05, 0.25, 0.25 // as the table states
	own := findFault("mc.bore_corroded").Prior
	assert.InEpsilon(t, odds(wet[0])*(1-fromWet), prior(wet), 1e-12, "wet fluid that has not corroded the bore")
	both := at("fluid.wet", "mc.bore_corroded")
	assert.InEpsilon(t, odds(wet[0])*(1-(1-own)*(1-fromWet))/(1-own)*(1-toPrimary)*(1-toSecondary), prior(both), 1e-12, "and one that has")
	assert.Greater(t, prior(at("mc.bore_corroded", "mc.primary_cup_bypass")), 5*odds(corroded[0])*odds(cup[0]))
	assert.Positive(t, prior(at("fluid.wet", "mc.bore_corroded", "wheel.seized")), "a cause, its effect and a third")
}

// Every sign's values must add up to one under every hypothesis, or the enumeration is not exact.
func TestSignsAreDistributions(t *testing.T) {
	for k := range Signs {
		sg := &Signs[k]
		require.Len(t, sg.Base, len(sg.Values), sg.ID)
		for id, x := range sg.Given {
			require.NotNil(t, findFault(id), "%s names %s", sg.ID, id)
			require.Len(t, x.P, len(sg.Values), "%s %s", sg.ID, id)
			require.Contains(t, []Origin{Named, Follows, Guess}, x.Origin, "%s %s says where it comes from", sg.ID, id)
		}
	}
	for _, p := range system.Patterns {
		s := p.Build()
		e := newEngine(&s, nil)
		for k := range Signs {
			like := e.signLikelihoods(&Signs[k])
			for i := range e.hyps {
				sum := 0.0
				for v := range like {
					require.True(t, like[v][i] > 0 && like[v][i] <= 1, "%s %d", Signs[k].ID, v)
					sum += like[v][i]
				}
				require.InDelta(t, 1, sum, 1e-9, "%s under %v", Signs[k].ID, e.hyps[i])
			}
		}
	}
	pr := sinkProbe(200, 20, false)
	sum := 0.0
	for _, x := range pr.shares([]float64{3, 10, 30}, []float64{1, 8}, []float64{1, 3}) {
		sum += x
	}
	assert.InDelta(t, 1, sum, 1e-3, "a sliver of the normal curve lies under zero")
}

// Source: numerical integration by hand. Two readings of one vehicle share its severity: their joint
// likelihood is the mean of the product, not the product of the means.
func TestReadingsShareTheSeverity(t *testing.T) {
	s, _ := system.FromPattern("pickup-front-rear-vacuum")
	e := newEngine(s, nil)
	o1 := &observation{probe: sinkProbe(200, 20, false), number: 10, sure: true, weight: 1}
	o2 := &observation{probe: sinkProbe(200, 40, false), number: 20, sure: true, weight: 1}
	like := e.readingsLikelihood([]*observation{o1, o2})
	want := mean(cells([]track{{o1, e.gridOf(o1.probe).single[0]}, {o2, e.gridOf(o2.probe).single[0]}}, 2))
	assert.InEpsilon(t, want, like[1], 1e-9)
	apart := e.likelihood(o1)[1] * e.likelihood(o2)[1]
	assert.Greater(t, like[1], 2*apart, "two sinks that fit one leak speak louder together")
	// Order does not matter, and a reading no fault moves is a constant.
	assert.InDeltaSlice(t, like, e.readingsLikelihood([]*observation{o2, o1}), 1e-12)
}

// Source: the twin. What the grid says of a pair is what the twin says of it, at and between the points
// the twin was asked at.
func TestPairsAreTheTwins(t *testing.T) {
	s, _ := system.FromPattern("pickup-front-rear-vacuum")
	e := newEngine(s, nil)
	p := travelProbe([]float64{100, 200, 300})
	g := e.gridOf(p)
	checked := 0
	for _, h := range e.hyps {
		if len(h) != 2 {
			continue
		}
		m := e.mixtureOf(g, h[0], h[1])
		if m == nil {
			continue
		}
		a, b := e.faults[h[0]], e.faults[h[1]]
		for _, at := range [][2]int{{0, severitySteps / 2}, {severitySteps / 2, severitySteps}, {severitySteps, severitySteps}, {severitySteps / 5, 2 * severitySteps / 3}} {
			c := s.Clone()
			a.fault.Physics(c, a.at, float64(at[0])/severitySteps)
			b.fault.Physics(c, b.at, float64(at[1])/severitySteps)
			want := p.eval(twin.New(c))
			tol := 1e-6
			if at[0] == severitySteps/5 {
				tol = p.sigma(want) // between: within the reading's own accuracy
			}
			assert.InDelta(t, want, m.at(g, h[0], h[1], at[0], at[1]), tol, "%s and %s at %v", a.fault.ID, b.fault.ID, at)
		}
		checked++
	}
	assert.Greater(t, checked, 20)
}

func TestUnsureCountsLess(t *testing.T) {
	sure := run(t, "pickup-front-rear-vacuum", sign1("pedal.sinks", "slow"))
	unsure := run(t, "pickup-front-rear-vacuum", `{"id":"pedal.sinks","value":"slow","sure":false}`)
	assert.Greater(t, sure.Faults[0].Probability, unsure.Faults[0].Probability)
	assert.Greater(t, unsure.Healthy, sure.Healthy)
}

func TestContradictionIsToldAndTheUnsureOneRepeated(t *testing.T) {
	r := run(t, "pickup-front-rear-vacuum", sign1("ports_plugged.pedal", "sinks"),
		`{"id":"pedal.sink","value":{"pedal_force_n":200,"travel_mm":0,"seconds":60,"engine":"off"},"sure":false}`)
	require.NotEmpty(t, r.Contradictions)
	assert.Equal(t, "pedal.sink", r.Contradictions[0].Repeat)
	assert.Empty(t, run(t, "pickup-front-rear-vacuum", sign1("pedal.sinks", "slow"), sign1("level.falls", "no")).Contradictions)
}

func TestNextTestsRespectToolsHandsAndTheLines(t *testing.T) {
	c := caseOf(t, "pickup-front-rear-vacuum", sign1("pedal.sinks", "slow"))
	all, err := Run(c, DefaultCosts())
	require.NoError(t, err)
	require.NotEmpty(t, all.NextTests)
	assert.False(t, all.Action.Settled)
	opened := false
	for _, n := range all.NextTests {
		assert.False(t, opened && !n.OpensHydraulics, "tests that open the hydraulics come last")
		opened = n.OpensHydraulics
		assert.Positive(t, n.Bits)
		sum := 0.0
		for _, a := range n.Answers {
			sum += a.Probability
		}
		assert.InDelta(t, 1, sum, 1e-6, n.ID)
	}
	c.Tools, c.Hands, c.DoNot = []string{}, 1, []string{"open_hydraulics"}
	few, err := Run(c, DefaultCosts())
	require.NoError(t, err)
	for _, n := range few.NextTests {
		assert.Empty(t, n.Needs)
		assert.False(t, n.OpensHydraulics)
	}
	for _, n := range run(t, "trailer-surge").NextTests {
		assert.NotContains(t, []string{"assist_start", "reserve", "vacuum_gauge", "hold"}, n.ID, "a trailer has no booster and no pedal")
	}
}

func TestMoreEvidenceSettles(t *testing.T) {
	r := run(t, "pickup-front-rear-vacuum", sign1("pedal.sinks", "slow"), sign1("level.falls", "no"),
		sign1("pedal.pumps_up", "for_a_moment"),
		`{"id":"pedal.sink","value":{"pedal_force_n":200,"travel_mm":14,"seconds":20,"engine":"off"}}`,
		sign1("ports_plugged.pedal", "sinks"), `{"id":"wet.at","value":["dry"]}`, sign1("fluid.debris", "none"),
		sign1("rubber.swollen", "no"))
	assert.Equal(t, "replace_master_cylinder", r.Action.ID)
	assert.True(t, r.Action.Settled)
	total := r.Healthy
	assert.Less(t, total, 0.01)
}

func TestBadCasesAreToldWithTheirPaths(t *testing.T) {
	for name, c := range map[string]struct{ doc, path, code string }{
		"not json":        {`{`, "$", "fault.syntax"},
		"unknown field":   {`{"format":"geminate.case/1","pattern":"trailer-surge","findings":[],"mood":1}`, "$", "fault.syntax"},
		"unknown pattern": {`{"format":"geminate.case/1","pattern":"x","findings":[]}`, "$.pattern", "fault.enum"},
		"unknown finding": {`{"format":"geminate.case/1","pattern":"trailer-surge","findings":[{"id":"pedal.sings","value":"no"}]}`, "$.findings[0].id", "fault.unknown_finding"},
		"unknown value":   {`{"format":"geminate.case/1","pattern":"trailer-surge","findings":[{"id":"pedal.sinks","value":"maybe"}]}`, "$.findings[0].value", "fault.enum"},
		"water of 40":     {`{"format":"geminate.case/1","pattern":"trailer-surge","findings":[{"id":"fluid.water_percent","value":40}]}`, "$.findings[0].value", "fault.range"},
		"dry and wet":     {`{"format":"geminate.case/1","pattern":"trailer-surge","findings":[{"id":"wet.at","value":["dry","wheel"]}]}`, "$.findings[0].value", "fault.none_and_some"},
		"no such wheel":   {`{"format":"geminate.case/1","pattern":"trailer-surge","findings":[{"id":"pressure.at_bleeder","value":{"LF":"low"}}]}`, "$.findings[0].value.LF", "fault.no_such_place"},
		"zero seconds":    {`{"format":"geminate.case/1","pattern":"car-diagonal-vacuum","findings":[{"id":"pedal.sink","value":{"pedal_force_n":200,"travel_mm":3,"seconds":0,"engine":"off"}}]}`, "$.findings[0].value.seconds", "fault.range"},
		"system fault":    {`{"format":"geminate.case/1","system":{"format":"x"},"findings":[]}`, "$.system.format", "fault.enum"},
		"free play":       {`{"format":"geminate.case/1","pattern":"trailer-surge","findings":[{"id":"pedal.free_play_mm","value":1}]}`, "$.findings[0].id", "fault.not_on_trailer"},
	} {
		_, err := ReadCase(strings.NewReader(c.doc))
		var f system.Faults
		require.True(t, errors.As(err, &f), name)
		assert.Equal(t, c.path+" "+c.code, f[0].Path+" "+f[0].Code, name)
	}
}

func TestResultIsPlainJSON(t *testing.T) {
	r := run(t, "car-diagonal-vacuum", sign1("pedal.springy", "yes"))
	data, err := json.Marshal(r)
	require.NoError(t, err)
	assert.NotContains(t, string(data), "null")
	sum := r.Healthy
	for _, f := range r.Faults {
		assert.False(t, math.IsNaN(f.Probability))
		sum += f.Probability
	}
	assert.Greater(t, sum, 0.99, "marginals overlap in pairs, so they reach at least one")
}

func FuzzReadCase(f *testing.F) {
	f.Add([]byte(`{"format":"geminate.case/1","pattern":"trailer-surge","findings":[{"id":"wet.at","value":["dry"]}]}`))
	f.Add(
		[]byte(
			`{"format":"geminate.case/1","pattern":"pickup-hydraulic","findings":[{"id":"pressure.gauge","value":{"at":"A","pedal_force_n":5,"mpa":1,"engine":"on"}}]}`,
		),
	)
	f.Fuzz(func(t *testing.T, data []byte) {
		if c, err := ReadCase(strings.NewReader(string(data))); err == nil && c.System == nil {
			t.Fatal("a case without a system was accepted")
		}
	})
}

// The engine as the server runs it: the system is known, one finding has changed.
func BenchmarkRun(b *testing.B) { benchmarkRun(b, false) }

// The same on a system never seen before, with all its tables and predictions to make.
func BenchmarkRunFresh(b *testing.B) { benchmarkRun(b, true) }

func benchmarkRun(b *testing.B, fresh bool) {
	c := caseOf(b, "pickup-front-rear-vacuum", sign1("pedal.sinks", "slow"), sign1("level.falls", "no"),
		`{"id":"pedal.sink","value":{"pedal_force_n":200,"travel_mm":12,"seconds":20,"engine":"off"}}`)
	for b.Loop() {
		if fresh {
			c.System.Vehicle.MassKG += 0.001
		}
		if _, err := Run(c, DefaultCosts()); err != nil {
			b.Fatal(err)
		}
	}
}

// Ten readings predicted for every fault of the pickup that has physics, the twin asked as often as they bend,
// compiled from the system each time.
func BenchmarkSeverityGrid(b *testing.B) {
	s, err := system.FromPattern("pickup-front-rear-vacuum")
	require.NoError(b, err)
	probes := []*probe{
		sinkProbe(200, 20, false),
		sinkProbe(200, 20, true),
		sinkProbe(300, 60, true),
		travelProbe([]float64{100, 200, 300}),
		travelProbe([]float64{150}),
		travelProbe([]float64{400}),
		pressureProbe("LF", 200, true),
		pressureProbe("LR", 200, true),
		pressureProbe("A", 300, false),
		pressureProbe("B", 300, true),
	}
	for b.Loop() {
		e := newEngine(s, nil)
		for _, p := range probes {
			e.gridOf(p)
		}
	}
}
