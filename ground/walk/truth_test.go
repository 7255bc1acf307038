package walk

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"geminate/brake/job"
	"geminate/brake/system"
)

// The second judge sees what hands left, whatever was told of it: each of these is a vehicle that must not go, and the
// sound one may. The consequences are the simulated vehicle's (how-it-computes, section 14; assumptions).
func TestTheVehicleItselfSaysWhatIsWrong(t *testing.T) {
	s, err := system.FromPattern("car-diagonal-vacuum")
	require.NoError(t, err)
	tick := func(steps ...string) (out []any) {
		for _, step := range steps {
			out = append(out, job.Ticked{Step: step})
		}
		return out
	}
	whole := func(bodies ...any) []any {
		for _, w := range s.Wheels {
			bodies = append(bodies, job.Filled{}, job.BleedStroked{Wheel: w.ID, Strokes: 25}, job.Filled{},
				job.BleedStroked{Wheel: w.ID, Strokes: 25})
		}
		return append(bodies, job.Filled{}, job.Ticked{Step: "close.bleeder_screws"})
	}
	foot := job.OpeningLost{Wheel: "LF"}
	with := chosen{unit: "u0", cylinder: true, strokeMM: 25}
	for name, c := range map[string]struct {
		with   chosen
		bodies []any
		harm   string
	}{
		"nothing done":                    {with, nil, ""},
		"bled as it ought to be":          {chosen{strokeMM: 25}, whole(), ""},
		"opened after its torque":         {chosen{strokeMM: 25}, append(whole(), job.BleedStroked{Wheel: "LF", Strokes: 1}), "joint_leaks bleeder:LF"},
		"lines never made fast":           {chosen{strokeMM: 25}, whole(tick("strip.lines_off", "fit.start_nuts_snug")...), "joint_leaks line:"},
		"pedal end left off":              {with, tick("strip.pedal_end"), "pedal_off"},
		"a foot that came up, and no end": {chosen{strokeMM: 25}, []any{foot, foot, foot, job.Ticked{Step: "close.bleeder_screws"}}, "air_takes_the_pedal"},
		"a dry cylinder, never bled":      {with, tick("strip.lines_off", "strip.cylinder_off", "rod.measure", "fit.cylinder_nuts", "fit.line_nuts", "close.fill"), "air_takes_the_pedal"},
		"petroleum in it":                 {chosen{strokeMM: 25}, whole(job.DrawnOff{}, job.Filled{Poured: job.PouredOther}), "cups_swell"},
		"a washer left in the tray":       {with, []any{job.PartOff{Place: "pedal_pin", Part: "washer"}}, "clunk"},
	} {
		var deeds []deed
		for i, b := range c.bodies {
			deeds = append(deeds, deed{id: string(rune('a' + i)), at: time.Unix(int64(60*i), 0), body: b, with: c.with})
		}
		got := vehicle(s, deeds, 7).harms()
		if c.harm == "" {
			assert.Empty(t, got, name)
			continue
		}
		found := false
		for _, h := range got {
			found = found || len(h) >= len("the vehicle: "+c.harm) && h[:len("the vehicle: "+c.harm)] == "the vehicle: "+c.harm
		}
		assert.True(t, found, "%s: %v", name, got)
	}
}

// A wrong tap that is seen at once was nothing; what is taken back later was done all the same.
func TestATapTakenBackAtOnceWasNothing(t *testing.T) {
	s, err := system.FromPattern("car-diagonal-vacuum")
	require.NoError(t, err)
	at := time.Date(2026, 11, 1, 8, 0, 0, 0, time.UTC)
	for _, c := range []struct {
		after time.Duration
		harms bool
	}{{time.Minute, false}, {time.Hour, true}} {
		w := &walker{choice: map[int64]chosen{}, undid: map[string]string{}}
		w.did("a", at, job.KindTick, job.Ticked{Step: "strip.pedal_end"})
		w.did("b", at.Add(c.after), job.KindUndo, job.Undone{Of: "a"})
		assert.Equal(t, c.harms, len(vehicle(s, w.deeds, 1).harms()) > 0)
		w.did("c", at.Add(c.after), job.KindUndo, job.Undone{Of: "b"})
		assert.NotEmpty(t, vehicle(s, w.deeds, 1).harms(), "the taking back taken back: it was done")
	}
}
