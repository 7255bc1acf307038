package sheet

import (
	"encoding/json"
	"fmt"
	"geminate/brake/diagnose"
	"maps"
	"slices"
	"strings"
)

// value writes a finding's value as people read it.
func (p *page) value(f diagnose.Finding) string {
	var text string
	if json.Unmarshal(f.Value, &text) == nil {
		return p.w.T("value."+text, nil)
	}
	var number float64
	if json.Unmarshal(f.Value, &number) == nil {
		return p.w.By(f.ID, number, p.pref)
	}
	var sink diagnose.Sink
	if f.ID == "pedal.sink" && json.Unmarshal(f.Value, &sink) == nil {
		return fmt.Sprintf("%s / %.0f s / %s", p.w.By("_mm", sink.TravelMM, p.pref), sink.Seconds, p.w.By("_n", sink.PedalForceN, p.pref))
	}
	var readings []diagnose.Reading
	if f.ID == "pedal.readings" && json.Unmarshal(f.Value, &readings) == nil {
		out := ""
		for i, r := range readings {
			if i > 0 {
				out += "; "
			}
			out += p.w.By("_n", r.PedalForceN, p.pref) + ": " + p.w.By("_mm", r.TravelMM, p.pref)
		}
		return out
	}
	var gauges []diagnose.Gauge
	if f.ID == "pressure.gauge" && json.Unmarshal(f.Value, &gauges) == nil {
		out := []string{}
		for _, g := range gauges {
			out = append(out, g.At+" "+p.w.By("_mpa", g.MPA, p.pref))
		}
		return strings.Join(out, ", ")
	}
	var placed map[string]string
	if json.Unmarshal(f.Value, &placed) == nil && placed != nil {
		out := []string{}
		for _, at := range slices.Sorted(maps.Keys(placed)) {
			out = append(out, at+" "+p.w.T("value."+placed[at], nil))
		}
		return strings.Join(out, ", ")
	}
	var list []string
	if json.Unmarshal(f.Value, &list) == nil {
		out := ""
		for i, v := range list {
			if i > 0 {
				out += ", "
			}
			if f.ID == "codes.present" {
				out += v
			} else {
				out += p.w.T("value."+v, nil)
			}
		}
		return out
	}
	return string(f.Value)
}
