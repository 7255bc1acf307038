package job

import (
	"encoding/json"
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"geminate/brake/match"
	"geminate/brake/stand"
	"geminate/brake/system"
	"geminate/brake/verify"
)

// A rule list of its own, written from how-it-computes, section 12, and asked of the log alone: it shares nothing with
// the gate. It gives the first rule a vehicle breaks, "" where none.
func brokenRule(j *testJob) string {
	type last struct {
		value json.RawMessage
		n     int
		sure  bool
		who   string
	}
	found := map[string]last{}
	lastWork, lastBoosterOrRod := -1, -1
	for n, e := range j.Events {
		switch b := e.Body.(type) {
		case *FindingMade:
			if b.Phase == PhaseVerify {
				delete(found, b.Finding)
				if !b.withdrawn() {
					found[b.Finding] = last{b.Value, n, b.Sure == nil || *b.Sure, b.Witness}
				}
			}
		case *BleedStroked, *VolumeMoved, *Filled, *DrawnOff, *WheelSeen, *WheelAgain, *OpeningLost:
			lastWork = n
		case *Ticked:
			switch b.Step {
			case "rod.measure", "fit.firewall_nuts", "fit.check_valve_hose", "fit.pedal_end":
				lastWork, lastBoosterOrRod = n, n
			case "fit.line_nuts", "fit.cylinder_nuts", "close.fill", "close.bleeder_screws", "strip.lines_off":
				lastWork = n
			}
		}
	}
	// Each of these is read after the last work at the hydraulics, and said for sure.
	for _, id := range []string{"pedal.sink", "check.dry_joints", "check.level", "check.walking_stops", "check.second_look"} {
		if f, there := found[id]; !there || !f.sure || f.n < lastWork {
			return id
		}
	}
	for _, id := range []string{"check.free_play", "check.wheels_free", "assist.pedal_falls_on_start"} {
		if f, there := found[id]; !there || !f.sure || f.n < lastBoosterOrRod || string(f.value) != `"yes"` {
			return id
		}
	}
	var sink struct {
		PedalForceN float64 `json:"pedal_force_n"`
		TravelMM    float64 `json:"travel_mm"`
		Seconds     float64 `json:"seconds"`
		Engine      string  `json:"engine"`
	}
	_ = json.Unmarshal(found["pedal.sink"].value, &sink)
	switch {
	case sink.Seconds < 30:
		return "held too short"
	case sink.TravelMM > 1+sink.Seconds/60:
		return "sinks"
	case sink.PedalForceN < 150, sink.Engine != "on":
		return "held too light"
	}
	if v := string(found["check.second_look"].value); v != `"alone"` && (v != `"yes"` || found["check.second_look"].who == "") {
		return "nobody looked twice"
	}
	for id, bad := range map[string]string{"pedal.sinks": `"slow"`, "level.falls": `"slowly"`, "brakes.drag": `"all"`} {
		if f, there := found[id]; there && string(f.value) == bad {
			return id
		}
	}
	return ""
}

// Whatever is read, withdrawn, guessed and worked on in whatever order: a vehicle that the gate would let go breaks
// none of the independent rules. The same evidence before further work, and the honest job, are both met.
func TestNoVehicleIsLetGoThatBreaksARule(t *testing.T) {
	passed, held := 0, 0
	for hand := range uint64(6) {
		r := rand.New(rand.NewPCG(hand, 12))
		j := newJob(t, "pickup-front-rear-vacuum", match.CylinderOnly)
		passGate(t, j)
		guess := false
		moves := []func(){
			func() { j.add(t, &BleedStroked{Wheel: "RR"}) },
			func() { j.add(t, &Filled{}) },
			func() { j.add(t, &Ticked{Step: "close.bleeder_screws", TorqueNM: f(10), TorqueUnit: "N·m"}) },
			func() {
				j.reads(t, "pedal.sink", `{"pedal_force_n":220,"travel_mm":0.5,"seconds":60,"engine":"on"}`, nil)
			},
			func() {
				j.reads(t, "pedal.sink", `{"pedal_force_n":220,"travel_mm":2.5,"seconds":60,"engine":"on"}`, nil)
			},
			func() {
				j.reads(t, "pedal.sink", `{"pedal_force_n":220,"travel_mm":0.5,"seconds":15,"engine":"on"}`, nil)
			},
			func() { j.reads(t, "pedal.sink", `{"pedal_force_n":60,"travel_mm":0,"seconds":60,"engine":"on"}`, nil) },
			func() {
				j.reads(t, "pedal.sink", `{"pedal_force_n":220,"travel_mm":0,"seconds":60,"engine":"off"}`, nil)
			},
			func() { j.reads(t, "check.dry_joints", `"yes"`, nil) },
			func() { j.reads(t, "check.dry_joints", `"yes"`, &guess) },
			func() { j.reads(t, "check.level", `"yes"`, nil) },
			func() { j.reads(t, "check.walking_stops", `"yes"`, nil) },
			func() { j.reads(t, "level.falls", `"slowly"`, nil) },
			func() { j.reads(t, "level.falls", "", nil) },
			func() { j.reads(t, "pedal.sinks", `"slow"`, nil) },
			func() { j.reads(t, "pedal.sinks", "", nil) },
			func() { j.reads(t, "check.free_play", `"no"`, nil) },
			func() { j.reads(t, "check.free_play", `"yes"`, nil) },
			func() { j.reads(t, "check.second_look", `"yes"`, nil) },
			func() {
				j.add(t, &FindingMade{Phase: PhaseVerify, Finding: secondLook, Value: json.RawMessage(`"yes"`), Witness: "Osmund"})
			},
			func() { j.readAll(t) },
			func() { j.readAll(t) },
		}
		for range 120 {
			moves[r.IntN(len(moves))]()
			g, err := j.Gate()
			require.NoError(t, err)
			if !g.Passable {
				held++
				continue
			}
			passed++
			require.Empty(t, brokenRule(j), "let go after %T", j.Events[len(j.Events)-1].Body)
		}
	}
	assert.Greater(t, passed, 5, "the honest ones go")
	assert.Greater(t, held, 100)
}

func (j *testJob) reads(t *testing.T, id, value string, sure *bool) {
	t.Helper()
	j.add(t, &FindingMade{Phase: PhaseVerify, Finding: id, Value: json.RawMessage(value), Sure: sure})
}

// readAll reads again whatever the gate lacks, as an honest technician would.
func (j *testJob) readAll(t *testing.T) {
	t.Helper()
	for _, id := range []string{"pedal.sinks", "level.falls"} { // what failed is looked at twice more
		if len(j.State.Read[id]) > 0 {
			j.reads(t, id, `"no"`, nil)
			j.reads(t, id, `"no"`, nil)
		}
	}
	j.doUntil(t, "")
	v, err := j.Bleed()
	require.NoError(t, err)
	for range 200 {
		if v.Current == "" {
			break
		}
		j.bleedOn(t, v)
		v, err = j.Bleed()
		require.NoError(t, err)
	}
	j.doUntil(t, "")
	for range 3 {
		g, err := j.Gate()
		require.NoError(t, err)
		for _, i := range g.ToDo() {
			j.readItem(t, i)
		}
	}
}

func (j *testJob) readItem(t *testing.T, i verify.Item) {
	t.Helper()
	switch i.ID {
	case "plan",
		"bleed",
		"contradicts",
		"ran_dry",
		"fluid",
		"unit",
		"torque",
		"rod",
		"pedal.air",
		"fit",
		"time",
		"put_off",
		"parked",
		"wheels_gone",
		"fits",
		"rubber",
		"told_late",
		"small_parts":
	case "level":
		j.add(t, &Filled{})
	case "pedal.sink":
		j.wait += 60
		hold := `{"pedal_force_n":450,"travel_mm":0.5,"seconds":60,"engine":"on"}`
		if j.Intake.System.BoosterKind() == system.BoosterElectroHydraulic { // its simulator hides a sink
			hold = `{"pedal_force_n":300,"travel_mm":0.5,"seconds":60,"engine":"off"}`
		}
		j.reads(t, i.ID, hold, nil)
	case verify.Pump:
		j.reads(t, i.ID, `{"first_mm":110,"second_mm":111,"fourth_mm":112}`, nil)
	case "assist.reserve_applies":
		j.reads(t, i.ID, "4", nil)
	case "pedal.readings":
		var list []map[string]float64
		for _, force := range []float64{200, 260, 320} {
			if b, ok := verify.Band(j.Fitted(), force); ok {
				list = append(list, map[string]float64{"pedal_force_n": force, "travel_mm": b.TravelMM})
			}
		}
		raw, _ := json.Marshal(list)
		j.reads(t, i.ID, string(raw), nil)
	case secondLook:
		j.add(t, &FindingMade{Phase: PhaseVerify, Finding: secondLook, Value: json.RawMessage(`"yes"`), Witness: "Osmund"})
	default:
		if i.ID == "wet.at" {
			j.reads(t, i.ID, `["dry"]`, nil)
			return
		}
		if ev := stand.EvidenceOf(i.ID); ev != nil && ev.Against != nil {
			j.reads(t, i.ID, `"no"`, nil)
			return
		}
		j.reads(t, i.ID, `"yes"`, nil)
	}
}

// An honest job on every pattern ends in a gate that passes; whoever releases did not have the second look too.
func TestAnHonestJobOnEveryPatternIsReleased(t *testing.T) {
	for _, pattern := range system.Patterns {
		j := newJob(t, pattern.ID, match.BleedOnly)
		j.doUntil(t, "")
		// The hold hangs on the booster.
		hold := `{"pedal_force_n":450,"travel_mm":0.5,"seconds":60,"engine":"on"}`
		if pattern.ID == "hybrid-electro-hydraulic" {
			hold = `{"pedal_force_n":300,"travel_mm":0.5,"seconds":60,"engine":"off"}`
		}
		for range 3 {
			g, err := j.Gate()
			require.NoError(t, err)
			for _, i := range g.ToDo() {
				if i.ID == "pedal.sink" {
					j.wait += 60
					j.reads(t, i.ID, hold, nil)
					continue
				}
				j.readItem(t, i)
			}
		}
		g, err := j.Gate()
		require.NoError(t, err)
		assert.True(t, g.Passable, "%s: %+v", pattern.ID, g.ToDo())
		_, err = j.Release(Actor{ID: "u9", Name: "osmund", Role: Technician}, j.now(), "own")
		assert.ErrorContains(t, err, "second_look_self", pattern.ID)
		_, err = j.Release(sunny, j.now(), "t")
		assert.Error(t, err, "a trainee never releases")
	}
}

func TestWhatFailedLeadsBackAndIsCounted(t *testing.T) {
	j := newJob(t, "pickup-front-rear-vacuum", match.CylinderOnly)
	passGate(t, j)
	assert.Zero(t, j.State.Loops)
	j.reads(t, "pedal.sink", `{"pedal_force_n":220,"travel_mm":8,"seconds":60,"engine":"on"}`, nil)
	v, err := j.Verify()
	require.NoError(t, err)
	require.NotEmpty(t, v.Back)
	assert.Equal(t, "back.sinks", v.Back[0].Code)
	require.NotEmpty(t, v.Now, "what it says of the vehicle as it is now")
	j.add(t, &BleedStroked{Wheel: "RR"})
	assert.Equal(t, 1, j.State.Loops)
	j.add(t, &BleedStroked{Wheel: "RR"})
	assert.Equal(t, 1, j.State.Loops, "one loop, however much work")
}
