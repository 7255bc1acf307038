package job

import (
	"maps"
	"slices"
	"time"

	"geminate/brake/bleed"
	"geminate/brake/fluid"
	"geminate/brake/stand"
	"geminate/brake/system"
	"geminate/brake/verify"
)

// Pour is a bottle that went in, as it was known then: what is corrected afterwards does not change what was poured.
type Pour struct {
	Seq     int64     `json:"seq"`
	At      time.Time `json:"at"`
	Bottle  Bottle    `json:"bottle"`
	Drained bool      `json:"drained,omitempty"` // the reservoir was drawn off, and not filled since
	Rinses  int       `json:"rinses,omitempty"`  // how often it was drawn off and filled again since
	// On is which units the work had put on by then; nil where they were its own.
	On *stand.Pair `json:"on,omitempty"`
	// Through is what had gone through each wheel when it went in.
	Through map[string]float64 `json:"through,omitempty"`
	// Flushed is what had gone through each wheel when the reservoir was filled again after that.
	Flushed map[string]float64 `json:"flushed,omitempty"`
	// DrawnAt is when it was first drawn off: what was renewed before that has stood in it again.
	DrawnAt int64 `json:"drawn_at,omitempty"`
	// Up: it is washed out upwards, into the reservoir, which is drawn off once more when it is through: Rinsed.
	Up     bool `json:"up,omitempty"`
	Rinsed bool `json:"rinsed,omitempty"`
}

// unitsOnNow is which units the work has put on so far; nil where they are the vehicle's own.
func (j *Job) unitsOnNow() *stand.Pair {
	if on := j.account().On(); on != (stand.Pair{}) {
		return &on
	}
	return nil
}

// poursKept bounds what an endless log adds up to.
const poursKept = 50

// pour takes down what was poured: the bottle in hand, or a class that went in by mistake.
func (j *Job) pour(e *Event, mistake string) {
	st, b := &j.State, j.Choices.Bottle
	if mistake != "" {
		b = Bottle{Class: mistake}
	}
	next := slices.Clone(st.Poured)
	through := j.throughAll()
	washFrom(next, through, false)
	if n := len(next); n > 0 && !next[n-1].Drained && next[n-1].Rinses == 0 && sameBottle(next[n-1].Bottle, b) {
		st.Poured = next
		return
	}
	next = append(next, Pour{Seq: e.place, At: e.At, Bottle: b, Through: through, On: j.unitsOnNow()})
	st.Poured = next[max(0, len(next)-poursKept):]
}

func sameBottle(a, b Bottle) bool {
	water := func(x Bottle) float64 {
		if x.WaterPercent == nil {
			return -1
		}
		return *x.WaterPercent
	}
	return a.Class == b.Class && a.OpenedAt == b.OpenedAt && water(a) == water(b)
}

func (j *Job) throughAll() map[string]float64 {
	through := map[string]float64{}
	for id, w := range j.account().Wheels {
		through[id] = w.ThroughCM3
	}
	return through
}

// washFrom: from here on good fluid washes out what was poured before the reservoir was drawn off.
func washFrom(pours []Pour, through map[string]float64, up bool) {
	for i := range pours {
		p := &pours[i]
		if !p.Drained || p.Flushed != nil {
			continue
		}
		if p.Rinses++; up || p.Rinses >= p.rinsesWanted() {
			p.Flushed, p.Up = maps.Clone(through), up
		} else {
			p.Drained = false
		}
	}
}

// pushes: good fluid comes in at a bleeder.
func (j *Job) pushes() {
	if len(j.foul()) > 0 {
		j.State.Poured = slices.Clone(j.State.Poured)
		washFrom(j.State.Poured, j.throughAll(), true)
	}
}

// drainedOff says that the reservoir was drawn off: what was poured before can be flushed out from here on.
func (j *Job) drainedOff(seq int64) {
	j.State.Poured = slices.Clone(j.State.Poured)
	for i := range j.State.Poured {
		p := &j.State.Poured[i]
		if p.DrawnAt == 0 {
			p.DrawnAt, p.On = seq, j.unitsOnNow() // what was on until now has stood in it
		}
		p.Drained, p.Rinsed = true, p.Rinsed || p.Up && j.washed(*p)
	}
}

// flushedShare is the share of what was poured that may be left in a wheel for it to count as gone, oilShare that of a
// mineral oil, which swells rubber; to get there a reservoir from which a syringe leaves a twentieth is drawn off and
// filled twice. Assumptions.
const (
	flushedShare = 0.05
	oilShare     = 0.01
)

func (p *Pour) leftShare() float64 {
	if p.Bottle.Class == PouredOther {
		return oilShare
	}
	return flushedShare
}

func (p *Pour) rinsesWanted() int {
	if p.Bottle.Class == PouredOther {
		return 2
	}
	return 1
}

// flushed says whether a bottle that should not have gone in is out again: the reservoir drawn off and filled from
// another, and through every wheel as much as washes its line, hose and brake out.
func (j *Job) flushed(p Pour) bool { return j.washed(p) && (!p.Up || p.Rinsed) }

func (j *Job) washed(p Pour) bool {
	if p.Flushed == nil {
		return false
	}
	for i := range j.Intake.System.Wheels {
		w := &j.Intake.System.Wheels[i]
		if j.account().Wheels[w.ID].ThroughCM3-p.Flushed[w.ID] < bleed.WashoutCM3(w.PipeCM3(), w.Brake.CavityCM3, p.leftShare()) {
			return false
		}
	}
	return true
}

// foul are the fluids that went in, should not have, and are not washed out again.
func (j *Job) foul() (out []Pour) {
	for _, p := range j.State.Poured {
		if code := j.pourFault(p); code != "" && code != verify.BottleUnknown && !j.flushed(p) {
			out = append(out, p)
		}
	}
	return out
}

// flushLeftCM3 is what still has to go through a wheel to wash such a fluid out of it: all of it until the reservoir
// was drawn off and filled again.
func (j *Job) flushLeftCM3(w *system.Wheel) (left float64) {
	for _, p := range j.foul() {
		gone := 0.0
		if p.Flushed != nil {
			gone = j.account().Wheels[w.ID].ThroughCM3 - p.Flushed[w.ID]
		}
		left = max(left, bleed.WashoutCM3(w.PipeCM3(), w.Brake.CavityCM3, p.leftShare())-gone)
	}
	return left
}

// drawOffFirst says whether such a fluid stands in the reservoir yet.
func (j *Job) drawOffFirst() bool {
	return slices.ContainsFunc(j.foul(), func(p Pour) bool { return p.Flushed == nil && !p.Drained || p.Up && j.washed(p) })
}

// drawOffAgain says whether it was drawn off before, and is to be once more.
func (j *Job) drawOffAgain() bool {
	return slices.ContainsFunc(j.foul(), func(p Pour) bool { return p.Rinses > 0 })
}

// wash says what is left to do until a fluid that should not have gone in is out again.
func (j *Job) wash() (out verify.Said) {
	left := 0.0
	for i := range j.Intake.System.Wheels {
		left += max(0, j.flushLeftCM3(&j.Intake.System.Wheels[i]))
	}
	switch {
	case j.drawOffFirst() && j.drawOffAgain():
		out.Code = "gate.fluid.draw_again"
	case j.drawOffFirst():
		out.Code = "gate.fluid.draw_off"
	case left > 0:
		out.Code = "gate.fluid.wash"
	default:
		return out
	}
	out.With = map[string]any{"wash_cm3": left}
	return out
}

// bottleFault says what is wrong with the fluid that was poured, as each bottle was then; "" where nothing is. Before
// any was poured it is asked of the one in hand.
func (j *Job) bottleFault() string {
	pours := j.State.Poured
	if len(pours) == 0 {
		pours = []Pour{{At: j.UpdatedAt, Bottle: j.Choices.Bottle}}
	}
	worst := ""
	for _, p := range pours {
		if code := j.pourFault(p); code != "" && (worst == "" || worst == verify.BottleUnknown) && !j.flushed(p) {
			worst = code
		}
	}
	return worst
}

func (j *Job) pourFault(p Pour) string {
	b := p.Bottle
	if b.OpenedAt == "" && b.WaterPercent == nil && b.Class == j.Choices.Bottle.Class { // what nobody knew of it may be told afterwards
		b = j.Choices.Bottle
	}
	v := j.bottleView(b, p.At)
	switch {
	case !v.Allowed:
		return "gate.fluid.class"
	case v.Water == fluid.WaterChangeNow || v.Water == fluid.WaterDanger:
		return "gate.fluid.water"
	case v.Age == fluid.AgeOld:
		return "gate.fluid.old"
	case b.OpenedAt == "" && b.WaterPercent == nil:
		return verify.BottleUnknown
	}
	return ""
}
