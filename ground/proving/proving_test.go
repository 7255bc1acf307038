package proving

import (
	"context"
	"encoding/json"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"geminate/brake/diagnose"
	"geminate/brake/job"
	"geminate/brake/match"
	"geminate/brake/system"
	"geminate/ground/simulate"
	"geminate/ground/trial"
)

// Three hundred jobs, every pattern and every technician on the same vehicles. Figures are aims of the project, not of
// the trade: the careful one leaves nothing of its own behind, finds a way on everywhere, and nothing is asked for that
// is not there.
func TestThreeHundredJobs(t *testing.T) {
	r, err := Prove(context.Background(), Options{Jobs: 75, Seed: 31000, Off: 0.15})
	require.NoError(t, err)
	for _, w := range Technicians {
		c := r.ByWay[w.ID]
		require.Equal(t, 75, c.Jobs, w.ID)
		assert.Zero(t, c.DeadEnds, "%s: %v", w.ID, r.Ends)
		assert.Zero(t, c.Needless, "%s: steps for what is not there", w.ID)
	}
	careful, paper := r.ByWay[Careful.ID], r.ByWay[Paper.ID]
	assert.Zero(t, careful.UnsafeHands, "%+v", r.Reasons)
	assert.Zero(t, careful.Hurt)
	assert.Zero(t, careful.Refused, "what is told next is taken")
	// What failed stays failed until something was done that can cure it (model 13.4): one more of these 75 waits for a
	// part than before.
	assert.GreaterOrEqual(t, careful.Released, 66, "nearly nine of ten")
	assert.LessOrEqual(t, r.ByWay[Slipping.ID].UnsafeHands, 1)
	// The aim is five times; 75 vehicles tell no more than that it is more (of 500: 38 with paper, none with the
	// product).
	assert.Greater(t, paper.UnsafeHands, r.ByWay[Hurried.ID].UnsafeHands, "the same hurry with a list of paper lets far more go")
}

// work works one job.
func work(t *testing.T, spec Spec) Outcome {
	t.Helper()
	o, err := Work(context.Background(), trial.NewWorld(0.15, 1), spec)
	require.NoError(t, err)
	return o
}

const pickup = "pickup-front-rear-vacuum"

// The same seed gives the same vehicle, hands, slips and log, whoever asks when.
func TestSameSeedSameJob(t *testing.T) {
	a, b := work(t, Spec{Seed: 77, Pattern: pickup, Way: Slipping}), work(t, Spec{Seed: 77, Pattern: pickup, Way: Slipping})
	x, err := job.WriteFile(a.Book.Job, a.Book.Events)
	require.NoError(t, err)
	y, err := job.WriteFile(b.Book.Job, b.Book.Events)
	require.NoError(t, err)
	assert.Equal(t, string(x), string(y))
	assert.Equal(t, a.Causes, b.Causes)
	assert.Equal(t, a.Taps, b.Taps)
}

// A job worked here is a job: its file is read back as any.
func TestAProvenJobIsAJob(t *testing.T) {
	o := work(t, Spec{Seed: 12, Pattern: "car-diagonal-vacuum", Way: Careful})
	require.True(t, o.Released)
	raw, err := job.WriteFile(o.Book.Job, o.Book.Events)
	require.NoError(t, err)
	f, err := job.ReadFile(raw, o.Book.UpdatedAt.Add(24*time.Hour))
	require.NoError(t, err)
	assert.Len(t, f.Events, len(o.Book.Events))
}

// The ground notices what is broken: each rule of the plan or the gate left out, by a technician who does all else
// well, shows as something that would have hurt, or is caught by another check. Where nothing catches it the ground
// says so.
func TestTheGroundNoticesWhatNobodyAsks(t *testing.T) {
	both := func(ids ...string) map[string]bool {
		out := map[string]bool{}
		for _, id := range ids {
			out[id] = true
		}
		return out
	}
	every := []string{
		"check.dry_joints",
		"check.second_look",
		"pedal.sink",
		"pedal.pump",
		"pedal.readings",
		"pedal.firm_travel",
		"check.free_play",
		"check.wheels_free",
		"check.walking_stops",
		"check.level",
		"check.lamps_out",
		"assist.pedal_falls_on_start",
		"assist.reserve_applies",
		"check.complaint_gone",
		"close.count_out",
	}
	for step, harm := range map[string]simulate.Harm{
		"fit.line_nuts": simulate.JointLeaks, "fit.cylinder_nuts": simulate.UnitLoose, "rod.coupler_moved": simulate.RodWanders, "fit.face_seal": simulate.FaceLeaks,
		"fit.sensor_plug": simulate.LampOut,
	} {
		unasked := append(slices.Clone(every), step)
		o := work(t, Spec{Seed: 500, Pattern: pickup, Fault: "mc.primary_cup_bypass", Way: Careful, Without: both(unasked...)})
		require.True(t, o.Released, "%s: %s", step, o.DeadEnd)
		found := slices.ContainsFunc(append(slices.Clone(o.Unsafe), o.Back...), func(a simulate.After) bool { return a.Harm == harm })
		assert.True(t, found, "%s: %v %v", step, o.Unsafe, o.Back)
		if found {
			for _, a := range append(slices.Clone(o.Unsafe), o.Back...) {
				if a.Harm == harm {
					assert.Equal(t, step, o.Why(a).Of, "and knows why")
				}
			}
		}
	}
	// The same steps left out with the checks asked: what a look or a reading shows is put right before it goes.
	o := work(t, Spec{Seed: 500, Pattern: pickup, Fault: "mc.primary_cup_bypass", Way: Careful, Without: both("fit.line_nuts")})
	assert.NotContains(t, o.Unsafe, simulate.After{Harm: simulate.JointLeaks, Kind: simulate.Unsafe, Of: "line:A"},
		"seen under pressure: %s", o.DeadEnd)
}

// Everything a technician knows of the plan is a step of the plan, everything it redoes as well.
func TestWhatIsKnownOfStepsIsTrue(t *testing.T) {
	known := map[string]bool{}
	for _, p := range system.Patterns {
		for _, scope := range []string{"cylinder", "both", "booster_opened", "booster_aside", "electro_unit", "bleed", "elsewhere_opened", "elsewhere"} {
			s, err := system.FromPattern(p.ID)
			require.NoError(t, err)
			b, err := idle(s, match.Scope(scope))
			if err != nil {
				continue
			}
			p, err := b.Plan()
			require.NoError(t, err)
			for i := range p.Steps {
				known[p.Steps[i].ID] = true
			}
		}
	}
	for item, ids := range redo {
		for _, id := range ids {
			assert.True(t, known[id] || strings.HasPrefix(id, "rod.") || id == "fit.remote_hoses", "%s: %s", item, id)
		}
	}
}

// A reading of the release check is read from the vehicle, not from what was told: a vehicle with air in it reads so.
func TestReadingsComeFromTheVehicle(t *testing.T) {
	world := trial.NewWorld(0.15, 1)
	o, err := Work(context.Background(), world, Spec{Seed: 9, Pattern: pickup, Fault: "mc.primary_cup_bypass", Way: Careful})
	require.NoError(t, err)
	var sink diagnose.Sink
	for _, e := range o.Book.Events {
		f, ok := e.Body.(*job.FindingMade)
		if ok && f.Finding == "pedal.sink" && f.Phase == job.PhaseVerify {
			require.NoError(t, json.Unmarshal(f.Value, &sink))
		}
	}
	assert.Less(t, sink.TravelMM, 4.0, "with the new cylinder it holds")
	assert.Positive(t, sink.Seconds)
}

// What sits in a coupler, at all wheels at once or in a modulator is repaired there: the careful technician, by what
// the job says, lets go vehicles that have it no more, and buys no cylinder for it. The judge is the simulated
// vehicle's ninety days.
func TestWhatIsNoUnitsIsRepairedWhereItSits(t *testing.T) {
	for fault, pattern := range map[string]string{"trailer.lockout": "trailer-surge", "trailer.breakaway_on": "trailer-surge", "trailer.damper_empty": "trailer-surge", "trailer.actuator_seized": "trailer-surge",
		"trailer.wheels_seized": "trailer-surge", "trailer.shoes_far": "trailer-surge", "circuit.modulator_leak": "car-diagonal-vacuum"} {
		right, sound := 0, 0
		const jobs = 6
		for seed := range uint64(jobs) {
			o, err := Work(context.Background(), trial.NewWorld(0.15, 1),
				Spec{Seed: 50 + seed, Pattern: pattern, Fault: fault, Way: Careful})
			require.NoError(t, err)
			require.Empty(t, o.DeadEnd, fault)
			if o.Right {
				right++
			}
			sound += o.WrongUnits
		}
		assert.GreaterOrEqual(t, right, jobs-2, "%s: right at hand-over", fault)
		assert.LessOrEqual(t, sound, 1, "%s: sound units", fault)
	}
}
