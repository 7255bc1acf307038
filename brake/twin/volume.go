package twin

// Displacement is what the chambers have swept at an output force as a sound pedal would: the part
// that does not hang on pressure, and the part that does.
type Displacement struct {
	MeanMPA     float64 // mean of the chambers' pressures
	ConstantMM3 float64 // free play, gap, cutoffs and running clearance
	ElasticMM3  float64 // compliance, hoses, fluid and any air the system states
	Bottomed    bool
}

// Sweep returns the displacement at an output force in N, as if there were no floor.
func (m *Model) Sweep(outputN float64) Displacement {
	s := m.free(outputN, [2]float64{}, false)
	d := Displacement{ConstantMM3: m.area * (m.freePlay + m.gap)}
	swept := d.ConstantMM3
	for k := 0; k < m.n; k++ {
		c := &m.chambers[k]
		d.MeanMPA += s.p[k] / float64(m.n)
		d.ConstantMM3 += m.area * c.cutoff
		for i := range c.wheels {
			d.ConstantMM3 += c.wheels[i].clearanceMM3
		}
		swept += m.area * s.y[k]
		d.Bottomed = d.Bottomed || s.bottomed[k]
	}
	d.ElasticMM3 = swept - d.ConstantMM3
	return d
}

// AreaMM2 is the piston area of the master cylinder.
func (m *Model) AreaMM2() float64 { return m.area }

// PedalRatio is the lever ahead of the rod.
func (m *Model) PedalRatio() float64 { return m.ratio }

// Efficiency is the master cylinder's.
func (m *Model) Efficiency() float64 { return m.efficiency }

// AtmosphereMPA is the air's absolute pressure.
func (m *Model) AtmosphereMPA() float64 { return m.atmosphereMPA }

// FloorMM is where the pedal meets the floor, at the pad.
func (m *Model) FloorMM() float64 { return m.floor }

// TakeUpMPA is the pressure at which the last brake has taken up.
func (m *Model) TakeUpMPA() float64 {
	most := 0.0
	for i := range m.wheels {
		most = max(most, m.wheels[i].takeUp)
	}
	return most
}
