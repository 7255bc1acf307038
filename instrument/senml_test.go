package instrument

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

var now = time.Date(2026, 11, 29, 12, 0, 0, 0, time.UTC)

// The examples of RFC 8428, section 5.1.
func TestExamplesOfTheRFC(t *testing.T) {
	// 5.1.1: a single data point.
	got, err := ReadPack([]byte(`[{"n":"urn:dev:ow:10e2073a01080063","u":"Cel","v":23.1}]`), now)
	require.NoError(t, err)
	assert.Equal(t, []Record{{Name: "urn:dev:ow:10e2073a01080063", Unit: "Cel", Value: 23.1, Figure: true, At: now, Relative: true}}, got)

	// 5.1.2: multiple data points, with base name, time, unit and version.
	got, err = ReadPack([]byte(`[
		{"bn":"urn:dev:ow:10e2073a0108006:","bt":1.276020076001e+09,"bu":"A","bver":5,"n":"voltage","u":"V","v":120.1},
		{"n":"current","t":-5,"v":1.2},{"n":"current","t":-4,"v":1.3},{"n":"current","t":-3,"v":1.4},{"n":"current","t":-2,"v":1.5},{"n":"current","t":-1,"v":1.6},{"n":"current","v":1.7}]`), now)
	require.NoError(t, err)
	require.Len(t, got, 7)
	assert.Equal(t, "urn:dev:ow:10e2073a0108006:voltage", got[0].Name)
	assert.Equal(t, "V", got[0].Unit)
	assert.Equal(t, "A", got[1].Unit)
	assert.InDelta(t, 1276020071.001, float64(got[1].At.UnixNano())/1e9, 1e-3)
	assert.InDelta(t, 1.7, got[6].Value, 1e-12)
	assert.False(t, got[6].Relative)

	// 5.1.4: values that are no numbers.
	got, err = ReadPack(
		[]byte(
			`[{"bn":"urn:dev:ow:10e2073a01080063:","n":"temp","u":"Cel","v":23.1},{"n":"label","vs":"Machine Room"},{"n":"open","vb":false},{"n":"nfc-reader","vd":"aGkgCg"}]`,
		),
		now,
	)
	require.NoError(t, err)
	require.Len(t, got, 4)
	assert.Equal(t, "Machine Room", got[1].Text)
	assert.False(t, *got[2].Bool)
}

func TestPacksThatAreNone(t *testing.T) {
	for _, bad := range []string{``, `{}`, `[1]`, `[{"v":1}]`, `[{"n":"x","v":"1"}]`, `[{"n":"x","v":1,"new_":3}]`, `[{"bver":99,"n":"x","v":1}]`, `[{"n":"x","bv":1e308,"v":1e308}]`} {
		_, err := ReadPack([]byte(bad), now)
		assert.Error(t, err, bad)
	}
	got, err := ReadPack([]byte(`[{"bn":"a"},{"n":"b","v":2,"bv":40}]`), now)
	require.NoError(t, err)
	assert.InDelta(t, 42, got[0].Value, 1e-12)
}

func TestAPackComesBack(t *testing.T) {
	at := []time.Time{now, now.Add(20 * time.Millisecond), now.Add(40 * time.Millisecond)}
	raw, err := WritePack("travel", "m", at, []float64{0.0701, 0.0702, 0.0704})
	require.NoError(t, err)
	got, err := ReadPack(raw, now.Add(time.Hour))
	require.NoError(t, err)
	require.Len(t, got, 3)
	assert.InDelta(t, 0.0704, got[2].Value, 1e-12)
	assert.InDelta(t, 0.04, got[2].At.Sub(now).Seconds(), 1e-5)
}
