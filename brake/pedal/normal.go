package pedal

import "math"

// unknowns are constant, compliance and air.
const unknowns = 3

// normal are the normal equations of a weighted linear fit of the three unknowns, gathered row by row. Three by three
// and positive definite by their priors: written out here, since a library of linear algebra is a twentieth of what the
// page loads of the core. The test holds it against that library.
type normal struct {
	lambda [unknowns][unknowns]float64
	rhs    [unknowns]float64
	yy     float64
}

// add takes a row and what was read for it, both in standard deviations.
func (n *normal) add(row [unknowns]float64, y float64) {
	for i, a := range row {
		for k, b := range row {
			n.lambda[i][k] += a * b
		}
		n.rhs[i] += a * y
	}
	n.yy += y * y
}

// last solves by Cholesky's factors, lambda = L·Lᵀ, and gives the last unknown's mean and standard deviation, the
// square of what the fit leaves unexplained and ln det(lambda). ok is false where lambda is not positive definite.
func (n *normal) last() (mean, sd, misfit, logDet float64, ok bool) {
	var l [unknowns][unknowns]float64
	var z [unknowns]float64 // L·z = rhs; then rhs·mean = z·z
	misfit = n.yy
	for i := range unknowns {
		for k := range i + 1 {
			sum := n.lambda[i][k]
			for m := range k {
				sum -= l[i][m] * l[k][m]
			}
			if k < i {
				l[i][k] = sum / l[k][k]
				continue
			}
			if !(sum > 0) || math.IsInf(sum, 1) {
				return 0, 0, 0, 0, false
			}
			l[i][i] = math.Sqrt(sum)
		}
		sum := n.rhs[i]
		for m := range i {
			sum -= l[i][m] * z[m]
		}
		z[i] = sum / l[i][i]
		misfit -= z[i] * z[i]
		logDet += 2 * math.Log(l[i][i])
	}
	end := l[unknowns-1][unknowns-1]
	return z[unknowns-1] / end, 1 / end, misfit, logDet, true
}
