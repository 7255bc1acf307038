package catalogue

import (
	"bytes"
	"encoding/csv"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"geminate/brake/match"
)

// No cell of a table we write begins as a formula does, and reading it gives what was meant.
func TestCellsAreHarmlessAndComeBack(t *testing.T) {
	bore := 25.4
	var units []match.Unit
	for i, name := range []string{"=cmd|' /C calc'!A0", "+1+1", "-2+3", "@SUM(A1)", "'quoted", "'=both", "plain", "-5"} {
		units = append(units,
			match.Unit{ID: string(rune('a' + i)), Maker: name, Number: name, BoreMM: &bore, Ports: []match.Port{}, Contents: []string{}})
	}
	var b bytes.Buffer
	require.NoError(t, WriteCSV(&b, units))
	rows, err := csv.NewReader(bytes.NewReader(b.Bytes())).ReadAll()
	require.NoError(t, err)
	for _, row := range rows[1:] {
		for _, cell := range row {
			if cell != "" && cell != "-5" {
				assert.NotContains(t, "=+-@", cell[:1], cell)
			}
		}
	}
	back, err := Read(b.Bytes())
	require.NoError(t, err)
	for i := range units {
		assert.Equal(t, units[i].Maker, back[i].Maker)
		assert.Equal(t, units[i].Number, back[i].Number)
	}
}
