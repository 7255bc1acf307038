package sheet

import (
	"context"
	"fmt"
	"maps"
	"slices"
	"strings"

	"geminate/brake/job"
	"geminate/brake/match"
)

// poured is the fluid that went in, with the water in the bottle where it was read.
func (p *page) poured() string {
	out := p.classes()
	if b := p.j.Choices.Bottle; len(out) > 0 && b.WaterPercent != nil {
		out[len(out)-1] += fmt.Sprintf(", %s %.1f %%", p.w.T("sheet.water", nil), *b.WaterPercent)
	}
	return strings.Join(out, "; ")
}

// classes are those of the fluid that went in, each once, wrong ones too; of the bottle in hand where somebody said
// what it is and none was poured yet. None where nobody said.
func (p *page) classes() []string {
	b := p.j.Choices.Bottle
	var out []string
	for _, x := range p.st.Poured {
		class := x.Bottle.Class
		if class == job.PouredOther {
			class = p.w.T("ui.poured_other", nil)
		}
		if !slices.Contains(out, class) {
			out = append(out, class)
		}
	}
	if len(out) == 0 && (b.OpenedAt != "" || b.WaterPercent != nil) {
		out = append(out, b.Class)
	}
	return out
}

func (p *page) work() {
	c := p.j.Choices
	p.section("sheet.fitted")
	p.line(p.w.T("sheet.scope", nil), p.w.T("scope."+string(c.Scope), nil))
	if c.Scope == match.Elsewhere || c.Scope == match.ElsewhereOpened {
		if v, err := p.j.Diagnose(context.Background()); err == nil {
			p.line("", p.matter(v))
		}
	}
	p.repairs("customer.repaired", p.w.Wheels)
	for _, u := range p.j.FittedUnits() {
		bore := ""
		if u.BoreMM != nil {
			bore = ", " + p.w.By("_mm", *u.BoreMM, p.pref)
		}
		p.line("", u.Maker+" "+u.Number+bore+", "+p.w.T("spec."+u.Condition, nil))
	}
	if c.Scope.OpensHydraulics() {
		if fluid := p.poured(); fluid != "" {
			p.line(p.w.T("sheet.fluid", nil), fluid)
		}
	}
	if v, err := p.j.Replace(); err == nil {
		if v.Rod != nil {
			p.line(p.w.T("sheet.rod", nil), p.w.By("gap_mm", v.Rod.GapMM, p.pref))
		}
		for _, s := range v.Plan.Steps {
			if t, ok := v.Torque[s.ID]; ok {
				p.line(p.w.T("sheet.torques", nil),
					p.w.T("step."+s.ID, nil)+": "+p.w.By("_nm", t.TorqueNM, p.pref)+", "+p.w.T("torque."+string(t.Verdict), nil))
			}
		}
		p.line(p.w.T("sheet.steps", nil),
			p.w.T("sheet.step_line", map[string]any{"count": len(v.Plan.Steps) - v.Left, "all": len(v.Plan.Steps)}))
	}
	v, err := p.j.Bleed()
	switch {
	case err != nil:
	case !v.Applies:
		p.line(p.w.T("sheet.bled", nil), p.w.T("sheet.not_bled", nil))
	default:
		for i, id := range slices.Sorted(maps.Keys(v.Wheels)) {
			label := ""
			if i == 0 {
				label = p.w.T("sheet.bled", nil)
			}
			ws := v.Wheels[id]
			key := "sheet.wheel"
			switch {
			case ws.TotalCM3 == 0:
				key = "sheet.wheel_none"
			case ws.TotalStrokes == 0 || !v.Method.Strokes():
				key = "sheet.wheel_cm3"
			}
			p.line(label, p.w.T(key, map[string]any{"wheel": id, "strokes": ws.TotalStrokes, "cm3": p.w.By("_cm3", ws.TotalCM3, p.pref)}))
			p.rounds(ws.Rounds)
		}
	}
	if err == nil && v.SteeringSide {
		word := "sheet.steering_open"
		if v.SteeringGood {
			word = "sheet.steering_good"
		}
		p.line(p.w.T("sheet.steering", nil), p.w.T(word, map[string]any{"count": len(v.Steering)}))
	}
}
