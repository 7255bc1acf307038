package photo

import "math"

// The little linear algebra there is, of fixed size: a library's would be a tenth of the core that browsers load. A
// test holds it against one.

// symmetric is a matrix of the parameters by themselves; lower its left half.
type symmetric [params][params]float64
type lower [params][params]float64

// cholesky splits a positive definite one into its lower half times that turned over; ok is false where it is not.
func (m *symmetric) cholesky() (l lower, ok bool) {
	for i := range params {
		for j := range i + 1 {
			sum := m[i][j]
			for k := range j {
				sum -= l[i][k] * l[j][k]
			}
			if i != j {
				l[i][j] = sum / l[j][j]
				continue
			}
			if !(sum > 0) {
				return l, false
			}
			l[i][i] = math.Sqrt(sum)
		}
	}
	return l, true
}

// solve gives x of m·x = b.
func (l *lower) solve(b [params]float64) (x [params]float64) {
	for i := range params {
		for k := range i {
			b[i] -= l[i][k] * b[k]
		}
		b[i] /= l[i][i]
	}
	for i := params - 1; i >= 0; i-- {
		x[i] = b[i]
		for k := i + 1; k < params; k++ {
			x[i] -= l[k][i] * x[k]
		}
		x[i] /= l[i][i]
	}
	return x
}

// eight solves eight equations (each with its right side last) by Gauss's elimination with the greatest pivot; ok is
// false where they have no one answer.
func eight(m [8][9]float64) (x [8]float64, ok bool) {
	for c := range 8 {
		best := c
		for r := c; r < 8; r++ {
			if math.Abs(m[r][c]) > math.Abs(m[best][c]) {
				best = r
			}
		}
		if !(math.Abs(m[best][c]) > 1e-9) {
			return x, false
		}
		m[c], m[best] = m[best], m[c]
		for r := c + 1; r < 8; r++ {
			f := m[r][c] / m[c][c]
			for k := c; k < 9; k++ {
				m[r][k] -= f * m[c][k]
			}
		}
	}
	for c := 7; c >= 0; c-- {
		x[c] = m[c][8]
		for k := c + 1; k < 8; k++ {
			x[c] -= m[c][k] * x[k]
		}
		x[c] /= m[c][c]
	}
	return x, true
}
