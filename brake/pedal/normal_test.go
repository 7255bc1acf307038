package pedal

import (
	"math"
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"gonum.org/v1/gonum/mat"
)

// The three unknowns solved by hand against a library's Cholesky factors, over rows as unlike as readings are.
func TestNormalEquationsAgainstALibrary(t *testing.T) {
	r := rand.New(rand.NewPCG(7, 11))
	compared := 0
	for range 500 {
		rows := 3 + r.IntN(9)
		x, y := mat.NewDense(rows, unknowns, nil), mat.NewVecDense(rows, nil)
		var n normal
		for i := range rows {
			row, told := [unknowns]float64{math.Exp(6 * r.NormFloat64()), r.NormFloat64() * 40, r.Float64()}, r.NormFloat64()*30
			if i < unknowns { // as the priors are
				row, told = [unknowns]float64{}, 0
				row[i] = math.Exp(r.NormFloat64() - 2)
			}
			x.SetRow(i, row[:])
			y.SetVec(i, told)
			n.add(row, told)
		}
		var lambda, cov mat.SymDense
		lambda.SymOuterK(1, x.T())
		var rhs, want mat.VecDense
		rhs.MulVec(x.T(), y)
		var chol mat.Cholesky
		require.True(t, chol.Factorize(&lambda))
		if chol.Cond() > 1e9 { // beyond it either loses what is compared here
			continue
		}
		compared++
		require.NoError(t, chol.SolveVecTo(&want, &rhs))
		require.NoError(t, chol.InverseTo(&cov))
		mean, sd, misfit, logDet, ok := n.last()
		require.True(t, ok)
		assert.InDelta(t, want.AtVec(2), mean, 1e-6*(1+math.Abs(want.AtVec(2))))
		assert.InEpsilon(t, math.Sqrt(cov.At(2, 2)), sd, 1e-6)
		assert.InDelta(t, mat.Dot(y, y)-mat.Dot(&rhs, &want), misfit, 1e-6*(1+mat.Dot(y, y)))
		assert.InDelta(t, chol.LogDet(), logDet, 1e-8*(1+math.Abs(logDet)))
	}
	assert.Greater(t, compared, 200)
	var flat normal
	flat.add([unknowns]float64{1, 1, 1}, 2)
	_, _, _, _, ok := flat.last()
	assert.False(t, ok, "nothing holds it: no figure is made up")
}
