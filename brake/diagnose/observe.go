package diagnose

import (
	"bytes"
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"strings"

	"geminate/brake/system"
	"geminate/brake/units"
)

// observation is one piece of evidence: a sign with its value, a value at a place, or a reading.
type observation struct {
	finding string
	sure    bool
	weight  float64 // 1, or less where another finding tells much of the same

	sign  *Sign
	value string
	// shares are, of a figure, how much it speaks for each of its grade's values.
	grade  grade
	shares []float64

	placed *PlacedSign
	at     string

	probe  *probe
	number float64
	nth    int // of a reading taken again the same way: which time; 0 is the first
}

// observe turns a finding into what the engine weighs: one or more likelihoods.
func observe(s *system.System, f Finding) ([]observation, error) {
	return observeWith(s, f, lookedAt(nil))
}

func observeWith(s *system.System, f Finding, looked func([]string, string) bool) ([]observation, error) {
	sure := f.isSure()
	wrap := func(obs ...observation) []observation {
		for i := range obs {
			obs[i].finding, obs[i].sure = f.ID, sure
		}
		return obs
	}
	switch f.ID {
	case "pedal.sink", "pedal.readings":
		o, err := observeReading(s, f)
		return wrap(o), err
	case "pressure.gauge":
		obs, err := observeGauges(s, f)
		return wrap(obs...), err
	case "looked.at": // tells what "wet.at" says nothing of
		_, err := listOf(f, "", Places)
		return nil, err
	case "wet.at":
		obs, err := observeList(f, "dry", Places, looked)
		return wrap(obs...), err
	case "history.since":
		obs, err := observeList(f, "nothing", Events, everything)
		return wrap(obs...), err
	case "pressure.at_port", "pressure.at_bleeder", "pressure.before_hose", "wheel.check", "wheel.heat":
		obs, err := observePlaced(s, f)
		return wrap(obs...), err
	case "codes.present":
		var codes []string
		if err := strict(f.Value, &codes); err != nil {
			return nil, badValue("value", "fault.type", map[string]any{"want": "list"})
		}
		return wrap(observation{sign: findSign(f.ID), value: codeKind(codes)}), nil
	}
	sg := findSign(f.ID)
	if sg == nil || strings.Contains(f.ID, ":") {
		return nil, badValue("id", "fault.unknown_finding", map[string]any{"value": f.ID})
	}
	if located[f.ID] != nil {
		if o, ok, err := observeLocated(s, sg, f.Value); ok || err != nil {
			return wrap(o), err
		}
	}
	var text string
	if err := strict(f.Value, &text); err == nil && !slices.Contains(numeric, f.ID) {
		if !slices.Contains(sg.Values, text) {
			return nil, badValue("value", "fault.enum", map[string]any{"value": text, "allowed": strings.Join(sg.Values, ", ")})
		}
		return wrap(observation{sign: sg, value: text}), nil
	}
	if !slices.Contains(numeric, f.ID) {
		return nil, badValue("value", "fault.enum", map[string]any{"value": string(f.Value), "allowed": strings.Join(sg.Values, ", ")})
	}
	r := numberRange[f.ID]
	var x float64
	if err := strict(f.Value, &x); err != nil || !r.Holds(x) {
		return nil, badValue("value", "fault.range", map[string]any{"value": string(f.Value), "min": r.Min, "max": r.Max})
	}
	if f.ID == "pedal.free_play_mm" && s.Pedal == nil {
		return nil, badValue("id", "fault.not_on_trailer", nil)
	}
	g, err := gradeOf(f.ID, s)
	if err != nil {
		return nil, err
	}
	return wrap(observation{sign: sg, value: g.bin(x), grade: g, shares: g.shares(x)}), nil
}

// What readings may be. A foot presses no harder than FootN.Max, a coupler far harder; forceN is what old records may
// hold of either. Assumptions.
var (
	WaterPercent = units.Bound{Min: 0, Max: 20}
	FootN        = units.Bound{Min: 1, Max: 1500}
	CouplerN     = units.Bound{Min: 1, Max: 20000}
	TravelMM     = units.Bound{Min: 0, Max: 400}
	HoldS        = units.Bound{Min: 1, Max: 3600}
	forceN       = CouplerN
	forceOr0     = units.Bound{Min: 0, Max: CouplerN.Max}
	gaugeMPA     = units.Bound{Min: 0, Max: 40}
)

var numberRange = map[string]units.Bound{
	"fluid.water_percent":    WaterPercent,
	"assist.reserve_applies": {Min: 0, Max: 100},
	"vacuum.at_hose_kpa":     {Min: 0, Max: 105},
	"pedal.free_play_mm":     {Min: 0, Max: 60},
	"rod.gap_mm":             {Min: -10, Max: 30},
}

var numeric = func() (out []string) {
	for k := range numberRange {
		out = append(out, k)
	}
	return
}()

func strict(raw json.RawMessage, into any) error {
	if len(raw) == 0 || string(raw) == "null" {
		return errors.New("no value")
	}
	d := json.NewDecoder(bytes.NewReader(raw))
	d.DisallowUnknownFields()
	return d.Decode(into)
}

func observeList(f Finding, none string, all []string, looked func(list []string, place string) bool) ([]observation, error) {
	list, err := listOf(f, none, all)
	if err != nil {
		return nil, err
	}
	var out []observation
	for _, place := range all {
		switch {
		case slices.Contains(list, place):
			out = append(out, observation{sign: findSign(f.ID + ":" + place), value: "yes"})
		case looked(list, place):
			out = append(out, observation{sign: findSign(f.ID + ":" + place), value: "no"})
		}
	}
	return out, nil
}

func listOf(f Finding, none string, all []string) ([]string, error) {
	var list []string
	if err := strict(f.Value, &list); err != nil {
		return nil, badValue("value", "fault.type", map[string]any{"want": "list"})
	}
	allowed := strings.Join(all, ", ")
	if none != "" {
		allowed = none + ", " + allowed
	}
	for i, v := range list {
		if (none == "" || v != none) && !slices.Contains(all, v) {
			return nil, badValue(fmt.Sprintf("value[%d]", i), "fault.enum", map[string]any{"value": v, "allowed": allowed})
		}
	}
	if none != "" && slices.Contains(list, none) && len(list) > 1 {
		return nil, badValue("value", "fault.none_and_some", map[string]any{"value": none})
	}
	return list, nil
}

// lookedAt says, for a list of wet places, whether another place is known to be dry: one that looked.at names, or
// where nothing of that is told and nothing at all was wet, one that is seen from outside.
func lookedAt(findings []Finding) func(list []string, place string) bool {
	for i := len(findings) - 1; i >= 0; i-- {
		if findings[i].ID != "looked.at" {
			continue
		}
		if list, err := listOf(findings[i], "", Places); err == nil {
			return func(_ []string, place string) bool { return slices.Contains(list, place) }
		}
	}
	return func(list []string, place string) bool {
		return slices.Equal(list, []string{"dry"}) && slices.Contains(Outside, place)
	}
}

func everything([]string, string) bool { return true }

// key tells what an observation is of: given again, the later one counts.
func (o *observation) key() string {
	switch {
	case o.sign != nil:
		return o.sign.ID
	case o.placed != nil:
		return o.placed.ID + " " + o.at
	case o.finding == "pedal.readings":
		return o.finding
	}
	return o.probe.key + strings.Repeat(" again", o.nth)
}

// observeAll turns the findings of a case into what the engine weighs. What was given twice counts once, the later
// one; a place counts as dry only where it was looked at.
func observeAll(s *system.System, findings []Finding) ([]observation, error) {
	looked := lookedAt(findings)
	var all []observation
	times := map[string]int{}
	for _, f := range findings {
		obs, err := observeWith(s, f, looked)
		if err != nil {
			return nil, err
		}
		if f.Again {
			times[f.ID]++
		}
		for i := range obs {
			obs[i].nth = times[f.ID]
		}
		all = append(all, obs...)
	}
	last := map[string]int{}
	for i := range all {
		last[all[i].key()] = i
	}
	out := all[:0]
	for i := range all {
		if last[all[i].key()] == i {
			out = append(out, all[i])
		}
	}
	return out, nil
}

func observePlaced(s *system.System, f Finding) ([]observation, error) {
	p := findPlaced(f.ID)
	var m map[string]string
	if err := strict(f.Value, &m); err != nil {
		return nil, badValue("value", "fault.type", map[string]any{"want": "object"})
	}
	keys := make([]string, 0, len(m))
	for k := range m {
		keys = append(keys, k)
	}
	slices.Sort(keys)
	var out []observation
	for _, at := range keys {
		if s.Circuit(at) == nil && s.Wheel(at) == nil {
			return nil, badValue("value."+at, "fault.no_such_place", map[string]any{"value": at})
		}
		if !slices.Contains(p.Values, m[at]) {
			return nil, badValue("value."+at, "fault.enum", map[string]any{"value": m[at], "allowed": strings.Join(p.Values, ", ")})
		}
		out = append(out, observation{placed: p, at: at, value: m[at]})
	}
	return out, nil
}

func within(path string, x float64, b units.Bound) error {
	if !b.Holds(x) {
		return badValue(path, "fault.range", map[string]any{"value": x, "min": b.Min, "max": b.Max})
	}
	return nil
}

func engineState(path, v string) error {
	if v != "on" && v != "off" {
		return badValue(path, "fault.enum", map[string]any{"value": v, "allowed": "on, off"})
	}
	return nil
}

func observeReading(s *system.System, f Finding) (observation, error) {
	wrong := badValue("value", "fault.type", map[string]any{"want": "object"})
	switch f.ID {
	case "pedal.sink":
		var v Sink
		if err := strict(f.Value, &v); err != nil {
			return observation{}, wrong
		}
		err := errors.Join(within("value.pedal_force_n", v.PedalForceN, forceN), within("value.travel_mm", v.TravelMM, TravelMM),
			within("value.seconds", v.Seconds, HoldS), engineState("value.engine", v.Engine))
		return observation{probe: sinkProbe(v.PedalForceN, v.Seconds, v.Engine == "on"), number: v.TravelMM}, first(err)
	case "pedal.readings":
		var v []Reading
		if err := strict(f.Value, &v); err != nil || len(v) == 0 || len(v) > 50 {
			return observation{}, badValue("value", "fault.type", map[string]any{"want": "list"})
		}
		mean := 0.0
		forces := make([]float64, len(v))
		for i, r := range v {
			if err := errors.Join(within(fmt.Sprintf("value[%d].pedal_force_n", i), r.PedalForceN, forceOr0),
				within(fmt.Sprintf("value[%d].travel_mm", i), r.TravelMM, TravelMM)); err != nil {
				return observation{}, first(err)
			}
			mean += r.TravelMM / float64(len(v))
			forces[i] = r.PedalForceN
		}
		return observation{probe: travelProbe(forces), number: mean}, nil
	}
	return observation{}, wrong
}

// observeGauges reads one gauge or a list of them (a pair, one in each circuit).
func observeGauges(s *system.System, f Finding) ([]observation, error) {
	var many []Gauge
	path := func(i int) string { return fmt.Sprintf("value[%d]", i) }
	if strict(f.Value, &many) != nil {
		var one Gauge
		if err := strict(f.Value, &one); err != nil {
			return nil, badValue("value", "fault.type", map[string]any{"want": "object"})
		}
		many, path = []Gauge{one}, func(int) string { return "value" }
	}
	if len(many) == 0 || len(many) > 20 {
		return nil, badValue("value", "fault.type", map[string]any{"want": "list"})
	}
	var out []observation
	for i, v := range many {
		if s.Circuit(v.At) == nil && s.Wheel(v.At) == nil {
			return nil, badValue(path(i)+".at", "fault.no_such_place", map[string]any{"value": v.At})
		}
		if err := errors.Join(within(path(i)+".pedal_force_n", v.PedalForceN, forceN), within(path(i)+".mpa", v.MPA, gaugeMPA),
			engineState(path(i)+".engine", v.Engine)); err != nil {
			return nil, first(err)
		}
		out = append(out, observation{probe: pressureProbe(v.At, v.PedalForceN, v.Engine == "on"), number: v.MPA})
	}
	return out, nil
}

// first takes the first of joined errors, so that it can be a Fault with a path.
func first(err error) error {
	if j, ok := err.(interface{ Unwrap() []error }); ok {
		return j.Unwrap()[0]
	}
	return err
}

// PressedN is what may press on a vehicle, N: a foot, or a coupler.
func PressedN(s *system.System) units.Bound {
	if s.IsTrailer() {
		return CouplerN
	}
	return FootN
}

// CheckPressed refuses a force nobody's foot gives, in a reading that is told now: old records may hold what they hold.
func CheckPressed(s *system.System, f Finding) error {
	most := PressedN(s)
	var one Gauge
	var many []Gauge
	if json.Unmarshal(f.Value, &many) != nil {
		if json.Unmarshal(f.Value, &one) != nil {
			return nil // no force in it
		}
		many = []Gauge{one}
	}
	for _, v := range many {
		if v.PedalForceN > most.Max {
			return within("value.pedal_force_n", v.PedalForceN, most)
		}
	}
	return nil
}
