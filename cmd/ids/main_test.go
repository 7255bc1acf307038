package main

import (
	"os"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func TestTheListOfIDsHasNotDrifted(t *testing.T) {
	want, err := Source("../../brake", "../../ground")
	require.NoError(t, err)
	have, err := os.ReadFile("../../server/ids.go")
	require.NoError(t, err)
	assert.Equal(t, string(want), string(have), "run `make api`")
}
