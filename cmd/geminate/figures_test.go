package main

import (
	"os"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func TestPatternPageHasNotDrifted(t *testing.T) {
	got, err := os.ReadFile("../../docs/patterns.md")
	require.NoError(t, err)
	assert.Equal(t, patternPage(), string(got), "docs/patterns.md is stale: run make docs")
}
