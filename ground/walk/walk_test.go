package walk

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// Ten thousand acts at random: no vehicle is let go with a rule broken that is written apart from the account, and from
// wherever a walk has got to the plan leads to a release. A million: geminate walk --acts 1000000.
func TestTenThousandActs(t *testing.T) {
	for part := range uint64(2) {
		t.Run("", func(t *testing.T) {
			t.Parallel()
			r, err := Run(2_500, 1+part*10_000, nil)
			require.NoError(t, err)
			assert.Empty(t, r.Unsafe)
			assert.Empty(t, r.DeadEnds)
			assert.Positive(t, r.Passable, "some are let go")
			assert.Positive(t, r.Refused, "some acts are refused")
			assert.Greater(t, r.Finished, 12)
			t.Logf("%+v", r)
		})
	}
}
