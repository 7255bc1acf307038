package diagnose

import (
	"fmt"
	"slices"
	"strings"

	"geminate/brake/system"
)

// located are the signs that may say where: a value of theirs that is one wheel's or one circuit's, and the field
// that names it ({"one_wheel": "LF"}).
var located = map[string][]string{"brakes.weak": {"one_wheel", "one_circuit"}, "brakes.drag": {"one_wheel"}}

// observeLocated reads {"one_wheel": "LF"}; ok is false where the value is no such object.
func observeLocated(s *system.System, sign *Sign, raw []byte) (o observation, ok bool, err error) {
	var m map[string]string
	if strict(raw, &m) != nil {
		return o, false, nil
	}
	for value, at := range m {
		there := value == "one_wheel" && s.Wheel(at) != nil || value == "one_circuit" && s.Circuit(at) != nil
		switch {
		case len(m) != 1 || !slices.Contains(located[sign.ID], value):
			return o, false, badValue("value", "fault.enum",
				map[string]any{"value": fmt.Sprint(m), "allowed": strings.Join(located[sign.ID], ", ")})
		case !there:
			return o, false, badValue("value."+value, "fault.no_such_place", map[string]any{"value": at})
		}
		return observation{sign: sign, value: value, at: at}, true, nil
	}
	return o, false, badValue("value", "fault.type", map[string]any{"want": "object"})
}

// elsewhere is the share of a sign said of one place that comes from a fault at another: a wheel taken for its
// neighbour. Assumption.
const elsewhere = 0.04

// shareAt is how much of a sign's chance falls on the place it was told of, by hypothesis: each fault that shows
// shows where it sits, what sits nowhere shows at any place alike.
func (e *engine) shareAt(sign *Sign, value, at string) []float64 {
	v := slices.Index(sign.Values, value)
	n := float64(len(e.sys.Wheels))
	if value == "one_circuit" {
		n = float64(len(e.sys.Circuits))
	}
	at1 := make([]float64, len(e.faults)) // a fault's share at the place
	for i, f := range e.faults {
		at1[i] = e.placeShare(f, value, at, n)
	}
	out := make([]float64, len(e.hyps))
	for i, h := range e.hyps {
		weight, share := sign.Base[v], sign.Base[v]/n
		for _, f := range h {
			if g, ok := sign.Given[e.faults[f].fault.ID]; ok {
				weight += g.P[v]
				share += g.P[v] * at1[f]
			}
		}
		out[i] = share / weight
	}
	return out
}

func (e *engine) placeShare(f placedFault, value, at string, n float64) float64 {
	here, others := 1-elsewhere, elsewhere/max(1, n-1)
	switch {
	case f.fault.Place == Whole:
		return 1 / n
	case f.at == at:
		return here
	case value == "one_wheel" && f.fault.Place == AtCircuit:
		if wheels := e.sys.Circuit(f.at).Wheels; slices.Contains(wheels, at) {
			return here / float64(len(wheels))
		}
	case value == "one_circuit" && f.fault.Place == AtWheel && e.sys.CircuitOf(f.at) == at:
		return here
	}
	return others
}
