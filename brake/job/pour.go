package job

import (
	"maps"
	"slices"
	"time"

	"geminate/brake/bleed"
	"geminate/brake/fluid"
	"geminate/brake/verify"
)

// Pour is a bottle that went in, as it was known then: what is corrected afterwards does not change what was poured.
type Pour struct {
	Seq     int64     `json:"seq"`
	At      time.Time `json:"at"`
	Bottle  Bottle    `json:"bottle"`
	Drained bool      `json:"drained,omitempty"` // the reservoir was drawn off since
	// Through is what had gone through each wheel when it went in.
	Through map[string]float64 `json:"through,omitempty"`
	// Flushed is what had gone through each wheel when the reservoir was filled again after that.
	Flushed map[string]float64 `json:"flushed,omitempty"`
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
	through := map[string]float64{}
	for id, w := range j.account().Wheels {
		through[id] = w.ThroughCM3
	}
	for i := range next {
		if next[i].Drained && next[i].Flushed == nil {
			next[i].Flushed = maps.Clone(through)
		}
	}
	if n := len(next); n > 0 && !next[n-1].Drained && sameBottle(next[n-1].Bottle, b) {
		st.Poured = next
		return
	}
	next = append(next, Pour{Seq: e.place, At: e.At, Bottle: b, Through: through})
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

// drainedOff says that the reservoir was drawn off: what was poured before can be flushed out from here on.
func (j *Job) drainedOff() {
	j.State.Poured = slices.Clone(j.State.Poured)
	for i := range j.State.Poured {
		j.State.Poured[i].Drained = true
	}
}

// flushedShare is the share of what was poured that may be left in a wheel for it to count as gone. Assumption.
const flushedShare = 0.05

// flushed says whether a bottle that should not have gone in is out again: the reservoir drawn off and filled from another,
// and through every wheel as much as washes its line, hose and brake out.
func (j *Job) flushed(p Pour) bool {
	if p.Flushed == nil {
		return false
	}
	for i := range j.Intake.System.Wheels {
		w := &j.Intake.System.Wheels[i]
		if j.account().Wheels[w.ID].ThroughCM3-p.Flushed[w.ID] < bleed.WashoutCM3(w.PipeCM3(), w.Brake.CavityCM3, flushedShare) {
			return false
		}
	}
	return true
}

// bottleFault says what is wrong with the fluid that was poured, as each bottle was then; "" where nothing is. Before any was
// poured it is asked of the one in hand.
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
