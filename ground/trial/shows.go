package trial

import (
	"encoding/json"
	"math"
	"math/rand/v2"
	"slices"
	"strings"

	"geminate/brake/diagnose"
	"geminate/brake/system"
	"geminate/brake/twin"
)

// drawShop says what is to hand. Assumption.
func (v *Vehicle) drawShop() {
	v.Tools = []string{}
	for i, p := range []float64{0.9, 0.85, 0.6, 0.7, 0.85, 0.9, 0.7, 0.6} {
		if v.rnd.Float64() < p {
			v.Tools = append(v.Tools, diagnose.Tools[i])
		}
	}
	v.Hands = 1
	if v.rnd.Float64() < 0.6 {
		v.Hands = 2
	}
}

// report is what is known when the vehicle comes in: most of what is wrong to feel, little of what is
// not, the history more often than not, one in ten "I think so".
func (v *Vehicle) report() {
	add := func(id string) {
		f := v.finding(id)
		if v.rnd.Float64() < 0.1 {
			unsure := false
			f.Sure = &unsure
		}
		v.reports = append(v.reports, f)
	}
	for _, id := range complaints {
		if !v.applies(id) {
			continue
		}
		abnormal := v.shows[id] != diagnose.SignOf(id).Values[0]
		if x := v.rnd.Float64(); abnormal && x < 0.8 {
			add(id)
		}
	}
	if len(v.reports) == 0 {
		return
	}
	for _, id := range []string{"pedal.hard", "level.falls", "brakes.weak"} {
		if v.applies(id) && v.shows[id] == diagnose.SignOf(id).Values[0] && v.rnd.Float64() < 0.3 {
			add(id)
		}
	}
	if v.rnd.Float64() < 0.7 {
		v.reports = append(v.reports, v.finding("history.since"))
	}
	if v.rnd.Float64() < 0.4 {
		v.reports = append(v.reports, v.finding("history.bled"))
	}
}

func (v *Vehicle) applies(id string) bool {
	if v.System.IsTrailer() {
		return !strings.HasPrefix(id, "pedal.") && !strings.HasPrefix(id, "steering.") && !strings.HasPrefix(id, "sound.")
	}
	if strings.HasPrefix(id, "coupler.") {
		return false
	}
	if strings.HasPrefix(id, "steering.") {
		return v.System.Assist().Steering
	}
	return true
}

// number is drawn inside the range a sign's value stands for.
var numbers = map[string]map[string][2]float64{
	"fluid.water_percent":    {"good": {0, 0.99}, "plan": {1, 2.9}, "now": {3, 3.9}, "danger": {4, 7}},
	"assist.reserve_applies": {"enough": {2, 5.99}, "few": {0, 1.99}},
	"vacuum.at_hose_kpa":     {"normal": {52, 72}, "low": {0, 48}},
	"pedal.free_play_mm":     {"none": {0, 0.09}, "normal": {0.2, 1.5}, "large": {4, 9}},
	"rod.gap_mm":             {"preload": {-2, -0.1}, "right": {0, 0.9}, "large": {1.2, 6}},
}

// finding is what is seen or read, as a finding of the case.
func (v *Vehicle) finding(id string) diagnose.Finding {
	value := func(x any) diagnose.Finding {
		raw, _ := json.Marshal(x)
		return diagnose.Finding{ID: id, Value: raw}
	}
	noise := func(sd float64) float64 { return sd * v.rnd.NormFloat64() }
	stray := v.rnd.Float64() < 0.01 // misread, slipped foot, wrong line
	switch id {
	case "wet.at":
		return value(v.list(id, diagnose.Places, "dry"))
	case "looked.at":
		return value(diagnose.Places)
	case "history.since":
		return value(v.list(id, diagnose.Events, "nothing"))
	case "codes.present":
		return value(
			map[string][]string{"none": {}, "other": {"stored"}, "pressure": {"pressure source"}, "offset": {"valve offset"}}[v.shows[id]],
		)
	case "pedal.sink":
		on := diagnose.HoldEngine(v.System)
		x := math.Max(0, v.real.SinkMM(diagnose.HoldForceN, diagnose.HoldSeconds, on)*(1+noise(0.05))+noise(1.2))
		if stray {
			x = 80 * v.rnd.Float64()
		}
		return value(
			diagnose.Sink{
				PedalForceN: diagnose.HoldForceN,
				TravelMM:    math.Round(x),
				Seconds:     diagnose.HoldSeconds,
				Engine:      map[bool]string{true: "on", false: "off"}[on],
			},
		)
	case "pedal.readings":
		var out []diagnose.Reading
		for _, force := range []float64{100, 200, 300} {
			out = append(out,
				diagnose.Reading{PedalForceN: force, TravelMM: math.Round(math.Max(0, v.real.Travel(force+noise(5), false)+noise(1.5)))})
		}
		return value(out)
	case "pressure.gauge":
		var out []diagnose.Gauge
		for _, c := range v.System.Circuits {
			p := v.real.Apply(200+noise(6), true).WheelMPA[c.Wheels[0]]
			out = append(out, diagnose.Gauge{At: c.Wheels[0], PedalForceN: 200, MPA: math.Max(0, p+noise(0.15)), Engine: "on"})
		}
		return value(out)
	}
	if p, ok := v.world.placed[id]; ok {
		out := map[string]string{}
		for _, at := range p.Places(v.System) {
			out[at] = p.Values[v.pick(v.placedChance(p, at))]
		}
		return value(out)
	}
	if r, ok := numbers[id]; ok {
		lim := r[v.shows[id]]
		x := lim[0] + (lim[1]-lim[0])*v.rnd.Float64()
		if id == "assist.reserve_applies" { // counted: nobody counts one and seven tenths of an apply
			return value(math.Floor(x))
		}
		return value(math.Round(100*x) / 100)
	}
	return value(v.shows[id])
}

func (v *Vehicle) list(id string, all []string, none string) (out []string) {
	for _, place := range all {
		if v.shows[id+":"+place] == "yes" {
			out = append(out, place)
		}
	}
	if len(out) == 0 {
		return []string{none}
	}
	return out
}

// Reports are what the owner and a first look say of the vehicle.
func (v *Vehicle) Reports() []diagnose.Finding { return append([]diagnose.Finding{}, v.reports...) }

// Itself is the vehicle without its faults, Severity how bad each is that it came with.
func (v *Vehicle) Itself() *system.System { return v.itself }

// Severity is how bad a fault is, 0 faint to 1 gross; one half for what came later.
func (v *Vehicle) Severity(t diagnose.Suspect) float64 {
	if x, ok := v.severity[t]; ok {
		return x
	}
	return 0.5
}

// Stands makes the vehicle show what it has now: the faults there are, and the system as it really is.
func (v *Vehicle) Stands(truth []diagnose.Suspect, real *system.System) {
	same := slices.Equal(v.Truth, truth)
	v.Truth, v.real = truth, twin.New(real)
	if same {
		return
	}
	v.showAll()
}

// With gives it a source of its own for what is read of it from here on.
func (v *Vehicle) With(rnd *rand.Rand) { v.rnd = rnd }

// Read carries a test out and gives what it finds beside what is known.
func (v *Vehicle) Read(known []diagnose.Finding, test string) []diagnose.Finding {
	c := v.newCase()
	c.Findings = slices.Clone(known)
	if t := diagnose.TestOf(test); t != nil {
		v.do(c, t)
	}
	return c.Findings[len(known):]
}

// Look looks at one sign anew.
func (v *Vehicle) Look(id string) diagnose.Finding {
	if _, known := v.world.signs[id]; known {
		v.shows[id] = v.sample(id)
	}
	return v.finding(id)
}

// Applies says whether a sign can be looked for on this vehicle.
func (v *Vehicle) Applies(id string) bool { return v.applies(id) }
