package sheet

import (
	"testing"

	"github.com/stretchr/testify/assert"
)

// What turns a line (UAX #9) is left out of paper; all else stays, signs beyond the basic plane as their code point.
func TestNothingTurnsALineOnPaper(t *testing.T) {
	assert.Equal(t, "Mara drof", printable("Mara \u202edrof"))
	assert.Equal(t, "ab", printable("\u2066a\u2069\u200eb\u200f"))
	assert.Equal(t, "ñandú – 12 µm [U+1F600]", printable("ñandú – 12 µm 😀"))
}
