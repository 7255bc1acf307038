package proving

import (
	"context"
	"slices"

	"geminate/brake/bleed"
	"geminate/brake/diagnose"
	"geminate/brake/job"
	"geminate/brake/match"
	"geminate/brake/plan"
)

// changeMind undoes, goes back a step, or chooses another way, school or unit.
func (t *tech) changeMind() error {
	c := t.Choices
	switch n := t.rnd.IntN(10); n {
	case 6, 7, 8, 9:
		return t.otherDoor(n - 6)
	case 5: // parked overnight, and taken up again
		if err := t.tell(job.KindParked, job.Parked{Why: []job.ParkReason{job.ParkPart}}, &t.out.Taps.Other); err != nil {
			return err
		}
		t.later(16 * 3600)
		return t.tell(job.KindUnparked, job.Unparked{}, &t.out.Taps.Other)
	case 0:
		e := t.Events[max(0, len(t.Events)-1-t.rnd.IntN(min(len(t.Events), 8)))]
		return t.tell(job.KindUndo, job.Undone{Of: e.ID}, &t.out.Taps.Other)
	case 1:
		v, err := t.Replace()
		if err != nil {
			return err
		}
		s := v.Plan.Steps[t.rnd.IntN(len(v.Plan.Steps))]
		_, err = t.stepsAgain([]string{s.ID})
		return err
	case 2:
		c.Bleed.Method = []bleed.Method{"", bleed.Pedal, bleed.Vacuum, bleed.Pressure, bleed.Bottle}[t.rnd.IntN(5)]
	case 3:
		joint := job.JointSetup{}
		if c.Joint != nil {
			joint = *c.Joint
		}
		e := plan.Schools[t.rnd.IntN(len(plan.Schools))]
		schools := map[plan.School]string{}
		for k, v := range joint.Schools {
			schools[k] = v
		}
		if schools[e.ID] = e.Answers[t.rnd.IntN(len(e.Answers))]; schools[plan.BleedWhen] == plan.BleedPutOff {
			delete(schools, plan.BleedWhen) // the vehicle is to go out
		}
		joint.Schools = schools
		c.Joint = &joint
	case 4:
		if c.Unit == nil {
			return nil
		}
		u := match.FromSystem(t.Intake.System)
		u.ID, u.Number, u.ResidualMPA = "u"+t.ID(), "U 2", c.Unit.ResidualMPA
		c.Unit = &u
		t.boxes[UnitCylinder] = true
	}
	return t.choose(c)
}

// vary chooses as another shop would: another answer to each question on which practitioners differ, a method that is
// offered here, things that may lie over or hang on the joint.
func (t *tech) vary() error {
	s := t.Intake.System
	c := t.Choices
	joint := job.JointSetup{Schools: map[plan.School]string{}}
	for _, e := range plan.Schools {
		if e.ID != plan.BleedWhen && e.Asked(s, t.scope()) { // put off it would not go out
			joint.Schools[e.ID] = e.Answers[t.rnd.IntN(len(e.Answers))]
		}
	}
	present := plan.Here(s, c.Unit, nil)
	for _, f := range plan.Features {
		if f.Can(s) && t.rnd.IntN(6) == 0 && !slices.Contains(present, f.ID) {
			present = append(present, f.ID)
		}
	}
	joint.Present = &present
	c.Joint = &joint
	if err := t.choose(c); err != nil {
		return err
	}
	v, err := t.Bleed()
	if err != nil || !v.Applies {
		return known(err)
	}
	fit := []bleed.Method{}
	for _, o := range v.Offers {
		if o.Fit {
			fit = append(fit, o.ID)
		}
	}
	if len(fit) == 0 {
		return nil
	}
	c = t.Choices
	c.Bleed.Method = fit[t.rnd.IntN(len(fit))]
	c.Bleed.DriveKPA = bleed.UsualDriveKPA(c.Bleed.Method)
	return t.choose(c)
}

// paper works by the list it began with: every step once, the wheels by their strokes, every check once, and the
// vehicle goes.
func (t *tech) paper(context.Context) error {
	p, err := t.Plan()
	if err != nil {
		return err
	}
	for i := range p.Steps {
		s := &p.Steps[i]
		switch {
		case s.ID == "close.bleed":
			if err := t.paperBleed(); err != nil {
				return err
			}
			continue
		case s.ID == "fit.bench_bled":
			if !t.skips() {
				rushed := t.slips(SlipBench)
				t.v.Bench(12, rushed)
			} else {
				t.blame(LieStep, s.ID, "air")
			}
			continue
		case t.skips():
			t.lie(LieStep, s.ID)
			continue
		}
		t.act(s.ID, usual(s))
		t.later(40)
	}
	return t.paperCheck(p)
}

// paperCheck reads every check of the list once. What is seen is put right, and nothing is looked at again for it; a
// pedal that springs or sinks is bled once more, and a vehicle that sinks still stays.
func (t *tech) paperCheck(p *plan.Plan) error {
	g, err := t.Gate()
	if err != nil {
		return err
	}
	for _, i := range g.Items {
		if t.skips() || t.rounds() {
			t.blame(LieReading, i.ID, "")
			continue
		}
		value, _, ok := t.read(i.ID)
		if !ok || string(raw(value)) != `"no"` {
			continue
		}
		for _, id := range redo[i.ID] {
			if s := p.Find(id); s != nil {
				t.act(id, usual(s))
			}
		}
	}
	sinks := func() bool {
		return t.Intake.System.Pedal != nil && !t.skips() && t.v.HoldMM(300, 45, diagnose.HoldEngine(t.Intake.System)) > paperSinkMM
	}
	if t.Intake.System.Pedal != nil && t.v.Springs() && !t.skips() || sinks() {
		if err := t.paperBleed(); err != nil {
			return err
		}
	}
	if sinks() {
		return errParked
	}
	t.out.Released = true
	return nil
}

// paperSinkMM is a sink that a person calls one without a figure of the vehicle's own. Common practice, no source.
const paperSinkMM = 5

// paperBleed bleeds every wheel by the strokes the list says, looking once.
func (t *tech) paperBleed() error {
	v, err := t.Bleed()
	if err != nil {
		return err
	}
	if !v.Applies || v.Plan == nil {
		return nil
	}
	for _, w := range v.Plan.Wheels {
		t.at(w.ID)
		for i := range max(10, w.Strokes) {
			up := t.slips(SlipFootUp)
			if up {
				t.blame(SlipFootUp, "close.bleed", "air")
			}
			t.v.Stroke(w.ID, t.Choices.Bleed.StrokeMM, up)
			if i%8 == 7 && !t.slips(SlipLevel) {
				t.fill()
			}
		}
	}
	t.fill()
	t.at("")
	return nil
}
