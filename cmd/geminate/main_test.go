package main

import (
	"io"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// Every command can be made, says what it does and shows its flags: a flag named before it is there panics here, not at
// somebody's start.
func TestEveryCommandCanBeMade(t *testing.T) {
	root := rootCommand()
	require.Greater(t, len(root.Commands()), 25)
	for _, c := range root.Commands() {
		assert.NotEmpty(t, c.Short, c.Name())
		c.SetOut(io.Discard)
		assert.NoError(t, c.Help(), c.Name())
	}
	root.SetArgs([]string{"trial", "--second", "--page", "x"})
	assert.ErrorContains(t, root.Execute(), "second page")
}
