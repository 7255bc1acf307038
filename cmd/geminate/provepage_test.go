package main

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"geminate/ground/proving"
)

// The page says what was proved: every part of it is there, for whoever worked.
func TestProvePage(t *testing.T) {
	r, err := proving.Prove(t.Context(), proving.Options{Jobs: 2, Seed: 3, Off: 0.15})
	require.NoError(t, err)
	page := provePage(r)
	for _, part := range []string{"released unsafe", "## By kind of vehicle", "## Why", "careful", "paper"} {
		assert.Contains(t, page, part)
	}
}

// Wilson's interval, from memory: none of ten is up to 28 of a hundred, half of a hundred 40 to 60.
func TestWilson(t *testing.T) {
	low, high := wilson(0, 10)
	assert.Zero(t, low)
	assert.InDelta(t, 2775, high, 5)
	low, high = wilson(50, 100)
	assert.InDelta(t, 4038, low, 5)
	assert.InDelta(t, 5962, high, 5)
}
