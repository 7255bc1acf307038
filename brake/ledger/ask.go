package ledger

import "math"

// What a screen or a plan asks of the ledger.

// Level tells of the tank a circuit draws from: what stands in it, its mark, its lowest port, cm³.
func (l *Ledger) Level(circuit string) (level, full, lowest float64) {
	t := l.tankOf[circuit]
	if t == nil {
		t = l.tanks[0]
	}
	return t.level, t.full, t.lowest
}

// Leaving is the share of old fluid in what would leave a wheel's bleeder now.
func (l *Ledger) Leaving(wheel string) float64 {
	w := l.wheels[wheel]
	if w == nil {
		return 1
	}
	return share(w.cavity.old)
}

// InPath is the share of old fluid in a wheel's line, hose and brake. Where fluid was pushed in at the wheel, what
// leaves there is fresh at once, and this tells how far the rest of the way is.
func (l *Ledger) InPath(wheel string) float64 {
	w := l.wheels[wheel]
	if w == nil || w.pipe.volume+w.cavity.volume <= 0 {
		return 1
	}
	trunk := l.trunks[w.circuit]
	return share((trunk.content + w.pipe.content + w.cavity.old*w.cavity.volume) / (trunk.volume + w.pipe.volume + w.cavity.volume))
}

// InPipe is the share in a wheel's line and hose, InChamber that in a circuit's cylinder chamber, InReservoir that in
// the tank a circuit draws from.
func (l *Ledger) InPipe(wheel string) float64 {
	w := l.wheels[wheel]
	if w == nil || w.pipe.volume <= 0 {
		return l.Leaving(wheel)
	}
	trunk := l.trunks[w.circuit]
	return share((trunk.content + w.pipe.content) / (trunk.volume + w.pipe.volume))
}

// InChamber is the share of old fluid in a circuit's cylinder chamber.
func (l *Ledger) InChamber(circuit string) float64 {
	if c := l.chambers[circuit]; c != nil {
		return share(c.old)
	}
	return 1
}

// AirIn is the share of air in a circuit's cylinder chamber: one that was put on dry.
func (l *Ledger) AirIn(circuit string) float64 {
	if c := l.chambers[circuit]; c != nil && c.volume > 0 {
		return share(c.air / c.volume)
	}
	return 0
}

// InReservoir is the share of old fluid in the tank a circuit draws from.
func (l *Ledger) InReservoir(circuit string) float64 {
	if t := l.tankOf[circuit]; t != nil {
		return share(t.old)
	}
	return 1
}

// Pushed says whether the last that moved at a wheel came in there.
func (l *Ledger) Pushed(wheel string) bool {
	w := l.wheels[wheel]
	return w != nil && w.pipe.way == backward
}

// Through is what has gone through a wheel, either way, cm³.
func (l *Ledger) Through(wheel string) float64 {
	if w := l.wheels[wheel]; w != nil {
		return w.through
	}
	return 0
}

// Poured is the fresh fluid filled into the reservoir so far, Over what spilled from it, cm³.
func (l *Ledger) Poured() float64 { return l.poured }

// Over is what has spilled over the brim, cm³.
func (l *Ledger) Over() float64 { return l.over }

// Dry are the circuits that have run dry.
func (l *Ledger) Dry() []string { return l.dry }

// Mean is the share of old fluid in all that the system holds.
func (l *Ledger) Mean() float64 {
	old, all := 0.0, 0.0
	for _, t := range l.tanks {
		old, all = old+t.level*t.old, all+t.level
	}
	for _, id := range l.circuits {
		c := l.chambers[id]
		old, all = old+c.volume*c.old+l.trunks[id].content, all+c.volume+l.trunks[id].volume
	}
	for _, id := range l.order {
		w := l.wheels[id]
		old, all = old+w.pipe.content+w.cavity.volume*w.cavity.old, all+w.pipe.volume+w.cavity.volume
	}
	if all <= 0 {
		return 1
	}
	return share(math.Max(0, old/all))
}

// Flush makes the whole reservoir and the cylinder fresh: a plan's start where nobody says how it stands.
func (l *Ledger) Flush() {
	for _, t := range l.tanks {
		l.out += t.level * t.old
		t.old = 0
	}
	l.NewCylinder(false)
}
