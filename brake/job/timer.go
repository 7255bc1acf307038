package job

import (
	"slices"
	"strings"
	"time"

	"geminate/brake/diagnose"
)

// Clock names what a timer is for.
type Clock string

// Clocks.
const (
	ClockTest        Clock = "test"         // a guided test's own time; about names the test
	ClockHold        Clock = "hold"         // a steady foot; the time it ran is a reading
	ClockSoak        Clock = "soak"         // penetrant on fittings, before a nut is turned
	ClockFoam        Clock = "foam"         // steering fluid standing until the foam is gone
	ClockHighVoltage Clock = "high_voltage" // after the service plug is out
	ClockPot         Clock = "pot"          // a pot or syringe that draws or pushes at a bleeder
	ClockWheel       Clock = "wheel"        // the time a wheel takes; counts up with no end
	ClockRelearn     Clock = "relearn"      // the offset relearn of an electro-hydraulic unit
)

// clock is how long a timer runs unless whoever starts it says otherwise, s (0 has no end), and the least that counts
// as its wait; under it only with the maker's figure and where that was read, and never under floor.
type clock struct{ usual, least, floor float64 }

// clocks lists them. Penetrant a quarter of an hour, foam five to ten minutes, high voltage an hour, relearn about two
// minutes with the lamps flashing fast after one: common practice, no source; the maker's time wins where there is one.
// A pot's two minutes, and that no wait for high voltage is under five minutes, are assumptions.
var clocks = map[Clock]clock{
	ClockTest:        {},
	ClockHold:        {},
	ClockSoak:        {usual: 15 * 60},
	ClockFoam:        {10 * 60, 5 * 60, 60},
	ClockHighVoltage: {60 * 60, 5 * 60, 5 * 60},
	ClockPot:         {usual: 2 * 60},
	ClockWheel:       {},
	ClockRelearn:     {2 * 60, 60, 30},
}

// Clocks lists them in order.
func Clocks() []Clock {
	out := make([]Clock, 0, len(clocks))
	for c := range clocks {
		out = append(out, c)
	}
	slices.Sort(out)
	return out
}

// timerMostS is the longest a timer may be set to: a day.
const timerMostS = 24 * 3600

// Timer is one clock of a job, the same on every screen: where it started is stored, how far it is follows from now.
type Timer struct {
	ID  string `json:"id"` // of the event that started it
	Seq int64  `json:"seq,omitempty"`
	// Maker says where a shorter wait than the trade's was read.
	Maker string `json:"maker,omitempty"`
	Clock Clock  `json:"clock"`
	About string `json:"about"` // the test, wheel or step it is for; "" where there is only one
	// Seconds is how long it runs; 0 counts up with no end.
	Seconds   float64    `json:"seconds"`
	StartedAt time.Time  `json:"started_at"`
	By        string     `json:"by"`
	StoppedAt *time.Time `json:"stopped_at,omitempty"`
	// Quick is a practice vehicle's: it runs PracticePace times as fast as it would.
	Quick bool `json:"quick,omitempty"`
}

// PracticePace is how many times as fast clocks run on a practice vehicle: nobody learns by sitting out half an hour.
// The wait itself stays. Assumption.
const PracticePace = 20

// Elapsed is how long it has run, s; a stopped one stands.
func (t Timer) Elapsed(now time.Time) float64 {
	if t.StoppedAt != nil {
		now = *t.StoppedAt
	}
	return max(0, now.Sub(t.StartedAt).Seconds())
}

// Over says whether its time is up.
func (t Timer) Over(now time.Time) bool { return t.Seconds > 0 && t.Elapsed(now) >= t.Seconds }

// long says whether it runs as long as its wait takes at the least.
func (t Timer) long() bool {
	c := clocks[t.Clock]
	if t.Quick {
		t.Seconds *= PracticePace
	}
	return t.Seconds >= c.least || t.Maker != "" && t.Seconds >= c.floor
}

// TimerStarted starts a clock; one of the same kind about the same starts over.
type TimerStarted struct {
	Clock   Clock   `json:"clock"`
	About   string  `json:"about,omitempty"`
	Seconds float64 `json:"seconds,omitempty"` // 0: its usual time
	// Maker is where the maker's figure was read, for a wait under the trade's least.
	Maker string `json:"maker,omitempty"`
}

// Valid implements Body.
func (t *TimerStarted) Valid() error {
	if _, known := clocks[t.Clock]; !known {
		return fault("$.data.clock", "fault.enum", map[string]any{"value": clip(string(t.Clock)), "allowed": Clocks()})
	}
	if err := inRange("$.data.seconds", t.Seconds, 0, timerMostS); err != nil {
		return err
	}
	if err := text("$.data.maker", t.Maker, 4*nameMost); err != nil {
		return err
	}
	return text("$.data.about", t.About, 64)
}

// Check implements Body: a wait that counts for nothing is not begun.
func (t *TimerStarted) Check(*Job) error {
	c := clocks[t.Clock]
	switch {
	case t.Seconds == 0 || t.Seconds >= c.least:
		return nil
	case strings.TrimSpace(t.Maker) == "":
		return fault("$.data.seconds", "fault.wait_short", map[string]any{"value": t.Seconds / 60, "least": c.least / 60})
	}
	return inRange("$.data.seconds", t.Seconds, c.floor, timerMostS)
}

// Settle keeps how long it is to run, so that a later rule does not bend a clock that runs.
func (t *TimerStarted) Settle(*Job) {
	if t.Seconds > 0 {
		return
	}
	t.Seconds = clocks[t.Clock].usual
	if t.Clock != ClockTest {
		return
	}
	if g := diagnose.FindGuide(t.About); g != nil {
		t.Seconds = g.TimerS
	}
}

// Apply implements Body.
func (t *TimerStarted) Apply(j *Job, e *Event) {
	st := &j.State
	st.Timers = slices.DeleteFunc(slices.Clone(st.Timers), func(x Timer) bool { return x.Clock == t.Clock && x.About == t.About })
	x := Timer{ID: e.ID, Seq: e.place, Maker: t.Maker, Clock: t.Clock, About: t.About, Seconds: t.Seconds, StartedAt: e.At, By: e.By.Name}
	if x.Quick = j.Intake.Practice; x.Quick {
		x.Seconds /= PracticePace
	}
	st.Timers = append(st.Timers, x)
}

// TimerStopped stops a clock where it is; what it read stays until it is started again.
type TimerStopped struct {
	Of string `json:"of"` // the event that started it
}

// Valid implements Body.
func (t *TimerStopped) Valid() error { return (&Undone{Of: t.Of}).Valid() }

// Check implements Body: stopping one that is gone or stopped is no fault, two screens may both do it.
func (t *TimerStopped) Check(*Job) error { return nil }

// Apply implements Body.
func (t *TimerStopped) Apply(j *Job, e *Event) {
	st := &j.State
	st.Timers = slices.Clone(st.Timers)
	for i := range st.Timers {
		if st.Timers[i].ID == t.Of && st.Timers[i].StoppedAt == nil {
			at := e.At
			st.Timers[i].StoppedAt = &at
		}
	}
}

// Running are the timers that have not been stopped.
func (s *State) Running() []Timer {
	out := []Timer{}
	for _, t := range s.Timers {
		if t.StoppedAt == nil {
			out = append(out, t)
		}
	}
	return out
}
