package pedal

import "math"

// estimate is the air's posterior in figures: its mode, the 90 % highest-density interval that is told, and the low end
// of the wider one that "air" is said by, cm³.
type estimate struct{ mode, lo, hi, deep float64 }

// estimate fits. For a given booster loss everything is Gaussian in constant, compliance and air; the losses are
// weighed by how well each explains the readings. Air cannot be negative.
func (f *fit) estimate() (p estimate) {
	air := 0.0
	for range 4 { // the force gauge's weight hangs on the air, a little
		p = highestDensity(f.mixture(air))
		if math.Abs(p.mode-air) < 1e-4 {
			break
		}
		air = p.mode
	}
	return p
}

// component is the air's Gaussian at one booster loss: mean and standard deviation in mm³, and the
// logarithm of its weight.
type component struct{ mean, sd, logWeight float64 }

func (f *fit) mixture(airCM3 float64) []component {
	const n, reach = 60, 3.0
	out := make([]component, 0, n+1)
	for i := 0; i <= n; i++ {
		z := reach * (2*float64(i)/n - 1)
		c := f.gaussian(z*boosterLossN, airCM3)
		c.logWeight -= z * z / 2
		out = append(out, c)
	}
	return out
}

// gaussian solves the linear Gaussian problem at one booster loss in N: scaled deviations of constant
// and compliance, each with its prior, and the air in mm³ with its wide one.
func (f *fit) gaussian(lossN, airCM3 float64) component {
	var n normal
	logDet := 0.0
	for _, r := range f.rows {
		d := f.m.Sweep(math.Max(0, r.output+lossN))
		pa := f.m.AtmosphereMPA()
		sd := f.sigmaMM3(r, airCM3)
		n.add([unknowns]float64{f.b0 / sd, d.ElasticMM3 / sd, d.MeanMPA / (d.MeanMPA + pa) / sd}, (r.volume-f.b0-d.ElasticMM3)/sd)
		logDet += 2 * math.Log(sd)
	}
	n.add([unknowns]float64{1 / f.sdConstant()}, 0)
	n.add([unknowns]float64{0, 1 / f.sdCompliance()}, 0)
	n.add([unknowns]float64{0, 0, 1 / priorAirMM3}, 0)
	mean, sd, misfit, logDetNormal, ok := n.last()
	if !ok {
		return component{0, priorAirMM3, math.Inf(-1)}
	}
	return component{mean, sd, -misfit/2 - logDetNormal/2 - logDet/2}
}

// sigmaMM3 is a reading's accuracy as swept volume: the rule's, and the force gauge's through the
// slope of the curve there, air included.
func (f *fit) sigmaMM3(r row, airCM3 float64) float64 {
	const step = 5.0
	perN := f.m.Efficiency() / f.m.AreaMM2() * f.m.PedalRatio() // MPa per N at the pad, no assist
	up, down := f.m.Sweep(r.output+step), f.m.Sweep(math.Max(0, r.output-step))
	slope := 0.0 // mm³ per MPa
	if dp := up.MeanMPA - down.MeanMPA; dp > 0 {
		slope = (up.ElasticMM3 - down.ElasticMM3) / dp
	}
	p, pa := f.m.Sweep(r.output).MeanMPA, f.m.AtmosphereMPA()
	slope += airCM3 * 1000 * pa / ((p + pa) * (p + pa))
	return math.Hypot(f.m.AreaMM2()/f.m.PedalRatio()*r.ruleMM, slope*perN*r.gaugeN)
}

// highestDensity finds the mode and the 90 % highest-density interval, in cm³, of the mixture cut off
// below zero. The density is taken on a grid fine against the narrowest component; it has one hump, so
// the interval is what stands above one level.
func highestDensity(mix []component) estimate {
	best, most, narrow := math.Inf(-1), 0.0, math.Inf(1)
	for _, c := range mix {
		best = math.Max(best, c.logWeight)
		most = math.Max(most, c.mean+6*c.sd)
		narrow = math.Min(narrow, c.sd)
	}
	if most <= 0 {
		most = 6 * narrow
	}
	n := int(math.Min(20000, math.Max(2000, most/narrow*40)))
	step := most / float64(n)
	density := make([]float64, n+1)
	total, top, at := 0.0, 0.0, 0
	for _, c := range mix {
		c.addTo(density, step, best)
	}
	for i := range density {
		w := density[i]
		if i == 0 || i == n {
			w /= 2
		}
		total += w
		if density[i] > top {
			top, at = density[i], i
		}
	}
	// Grow the interval from the mode to the side that is denser.
	a, b := at, at
	got, told := density[at], [2]int{-1, -1}
	for got < insideAir*total && (a > 0 || b < n) {
		if told[0] < 0 && got >= inside*total {
			told = [2]int{a, b}
		}
		if b == n || (a > 0 && density[a-1] >= density[b+1]) {
			a--
			got += density[a]
		} else {
			b++
			got += density[b]
		}
	}
	if told[0] < 0 {
		told = [2]int{a, b}
	}
	cm3 := func(i int) float64 { return float64(i) * step / 1000 }
	return estimate{cm3(at), cm3(told[0]), cm3(told[1]), cm3(a)}
}

// addTo adds a component's density over a grid, relative to the heaviest weight. Beyond nine standard deviations it is
// nothing (e^−40). From one grid point to the next a bell curve goes on by a factor which itself goes on by a factor:
// the exponential is asked for anew often enough that rounding stays below one part in 10¹³.
func (c component) addTo(density []float64, step, best float64) {
	const far, anew = 9, 64
	from := max(0, int(math.Ceil((c.mean-far*c.sd)/step)))
	to := min(len(density)-1, int((c.mean+far*c.sd)/step))
	h := step / c.sd
	shrink := math.Exp(-h * h)
	for i := from; i <= to; i += anew {
		z := (float64(i)*step - c.mean) / c.sd
		d, next := math.Exp(c.logWeight-best-z*z/2)/c.sd, math.Exp(-h*(z+h/2))
		for k := i; k <= min(to, i+anew-1); k++ {
			density[k] += d
			d *= next
			next *= shrink
		}
	}
}

// further works out which reading would tell most: another force and travel pair, or else a known-good
// curve of this vehicle. A reading is judged as if it fell where the estimate says.
func (f *fit) further(air, clearCM3 float64) *Further {
	settles := func(g fit) (width float64, tells bool) {
		e := g.estimate()
		lo, hi := e.lo, e.hi
		return hi - lo, g.sure(air, e.deep) || g.baseline && hi <= clearCM3
	}
	best := Further{Kind: "reading"}
	width := math.Inf(1)
	for force := 100.0; force <= 500; force += 50 {
		o := f.m.OutputForceN(f.m.RodForceN(force), false)
		d := f.m.Sweep(o)
		if d.Bottomed || d.MeanMPA < f.m.TakeUpMPA() {
			continue
		}
		p := d.MeanMPA
		g := *f
		g.rows = append(append([]row{}, f.rows...),
			row{force, d.ConstantMM3 + d.ElasticMM3 + air*1000*p/(p+f.m.AtmosphereMPA()), o, gaugeN, ruleMM})
		if w, tells := settles(g); w < width {
			width, best = w, Further{"reading", force, tells}
		}
	}
	if best.Tells || f.baseline || len(f.rows) == 0 {
		return &best
	}
	g := *f
	g.baseline = true
	_, tells := settles(g)
	return &Further{Kind: "baseline", Tells: tells}
}
