package job

import (
	"fmt"
	"maps"
	"slices"
	"strings"

	"geminate/brake/plan"
	"geminate/brake/system"
)

// JointSetup is what is known and decided about the joint that is taken apart.
type JointSetup struct {
	// Present is what this vehicle has at the joint; nil while nobody has looked.
	Present *[]plan.Feature        `json:"present,omitempty"`
	Schools map[plan.School]string `json:"schools,omitempty"`
	// Torques are the maker's own ranges by step.
	Torques map[string]MakerTorque `json:"torques,omitempty"`
	Own     []plan.OwnStep         `json:"own,omitempty"`
}

// MakerTorque is a range the maker gives, N·m.
type MakerTorque struct {
	LowNM  float64 `json:"low_nm"`
	HighNM float64 `json:"high_nm"`
}

const ownMost = 40 // steps of one's own in a plan

// checkJoint says what is wrong with the joint's setup.
func checkJoint(s *system.System, c *JointSetup, add func(path, code string, with map[string]any)) {
	if c == nil {
		return
	}
	if c.Present != nil {
		for i, f := range *c.Present {
			if e := plan.FindFeature(f); e == nil || !e.Can(s) {
				add(fmt.Sprintf("$.joint.present[%d]", i), "fault.enum", map[string]any{"value": clip(string(f)), "allowed": featureIDs(s)})
			}
		}
	}
	for id, answer := range c.Schools {
		if e := plan.FindSchool(id); e == nil || !slices.Contains(e.Answers, answer) {
			add("$.joint.schools."+clip(string(id)), "fault.enum", map[string]any{"value": clip(answer), "allowed": schoolAnswers(e)})
		}
	}
	for step, t := range c.Torques {
		path := "$.joint.torques." + clip(step)
		switch {
		case !slices.Contains(plan.TorqueSteps(), step):
			add(path, "fault.enum", map[string]any{"value": clip(step), "allowed": strings.Join(plan.TorqueSteps(), ", ")})
		case !plan.Plausible(step, t.LowNM, t.HighNM):
			least, most := plan.TorqueBounds(step)
			add(path, "fault.torque_range", map[string]any{"low_nm": t.LowNM, "high_nm": t.HighNM, "min_nm": least, "max_nm": most})
		}
	}
	if len(c.Own) > ownMost {
		add("$.joint.own", "fault.count", map[string]any{"value": len(c.Own), "min": 0, "max": ownMost})
	}
	seen := map[string]bool{}
	for i, o := range c.Own {
		path := fmt.Sprintf("$.joint.own[%d]", i)
		switch {
		case !strings.HasPrefix(o.ID, "own.") || len(o.ID) > 60 || validID(o.ID) != nil || seen[o.ID]:
			add(path+".id", "fault.event_id", nil)
		case strings.TrimSpace(o.Text) == "":
			add(path+".text", "fault.missing", nil)
		case o.Touches != "" && !slices.Contains(plan.AllTouches, o.Touches):
			add(path+".touches", "fault.enum", map[string]any{"value": clip(string(o.Touches)), "allowed": plan.AllTouches})
		case text("", o.Text, 4*nameMost) != nil:
			add(path+".text", "fault.too_long", map[string]any{"max": 4 * nameMost})
		}
		seen[o.ID] = true
	}
}

func featureIDs(s *system.System) string {
	var out []string
	for _, f := range plan.Features {
		if f.Can(s) {
			out = append(out, string(f.ID))
		}
	}
	return strings.Join(out, ", ")
}

func schoolAnswers(e *plan.SchoolEntry) string {
	if e == nil {
		return ""
	}
	return strings.Join(e.Answers, ", ")
}

// Plan makes the job's work plan.
func (j *Job) Plan() (*plan.Plan, error) {
	if j.Intake.System == nil {
		return nil, system.Faults{{Path: "$.intake.system", Code: "fault.missing"}}
	}
	c := plan.Choices{
		Scope:         j.Choices.Scope,
		Unit:          j.Choices.Unit,
		Old:           j.Choices.Old,
		Stands:        j.account(),
		For:           j.pair(),
		RodKnownWrong: j.rodKnownWrong(),
		Schools:       map[plan.School]string{},
		Torques:       map[string]plan.Torque{},
	}
	// Jobs from before the schools had a table of their own.
	if j.Choices.BenchOnVehicle {
		c.Schools[plan.BenchWhen] = plan.BenchOnVehicle
	}
	if j.Choices.LinesLoose {
		c.Schools[plan.LineNuts] = plan.NutsLoose
	}
	if own := j.Choices.Joint; own != nil {
		c.Present, c.Own = own.Present, own.Own
		maps.Copy(c.Schools, own.Schools)
		for step, t := range own.Torques {
			c.Torques[step] = plan.Torque{LowNM: t.LowNM, HighNM: t.HighNM}
		}
	}
	return plan.Make(j.Intake.System, c)
}
