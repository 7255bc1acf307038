package proving

import (
	"geminate/brake/job"
	"geminate/brake/stand"
	"geminate/ground/simulate"
)

// Other doors: what happens to the vehicle beside the plan is done by hands, left as hands leave it, and told where it
// is met.

// otherDoor does one of them.
func (t *tech) otherDoor(which int) error {
	list := t.Intake.System.Wheels
	switch which {
	case 0: // every bleeder cracked once more, for bubbles, and nipped up by fingers
		if err := t.readAgain("bleeder.bubbles", "no"); err != nil {
			return err
		}
		for _, w := range list {
			t.v.OpenBleeder(w.ID)
			t.v.Draw(w.ID, 1, 1)
		}
		t.open = ""
	case 1: // a gauge at a port, and the line left on its thread
		c := t.Intake.System.Circuits[t.rnd.IntN(len(t.Intake.System.Circuits))].ID
		if err := t.readAgain("pressure.at_port", map[string]string{c: "ok"}); err != nil {
			return err
		}
		t.v.LetOut(true) // whoever screws a gauge in has let out what was stored
		p := simulate.At(simulate.Line, c)
		t.v.Off(p)
		t.v.Start(p, false)
	case 2: // a washer in the tray
		if err := t.tell(job.KindPartOff, job.PartOff{Place: stand.AtPedal, Part: "washer"}, &t.out.Taps.Other); err != nil {
			return err
		}
		t.v.Off(simulate.SmallPart)
		t.later(30)
	case 3: // a figure of the vehicle put right
		in := t.Intake
		s := in.System.Clone()
		s.Wheels[0].Brake.ComplianceMM3 *= 1.01
		in.System = s
		t.later(60)
		events, err := t.ChangeIntake(t.Book, worker, t.At, t.ID(), t.IntakeSeq, in)
		t.Events = append(t.Events, events...)
		return err
	}
	return nil
}

// readAgain tells a reading at the diagnosis, whatever was done before it.
func (t *tech) readAgain(id string, value any) error {
	t.later(60)
	return t.tell(job.KindFinding, job.FindingMade{Phase: job.PhaseDiagnose, Finding: id, Value: raw(value)}, &t.out.Taps.Readings)
}
