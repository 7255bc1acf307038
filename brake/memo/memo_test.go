package memo

import (
	"sync"
	"sync/atomic"
	"testing"

	"github.com/stretchr/testify/assert"
)

func TestAskedOnceAndBounded(t *testing.T) {
	var asked atomic.Int64
	square := Func(4, func(k int) int { asked.Add(1); return k * k })
	for range 3 {
		assert.Equal(t, 9, square(3))
	}
	assert.EqualValues(t, 1, asked.Load())
	for k := range 5 {
		assert.Equal(t, k*k, square(k))
	}
	before := asked.Load()
	assert.Equal(t, 9, square(3), "dropped when there were too many, and right again")
	assert.Equal(t, before+1, asked.Load())
	var wait sync.WaitGroup
	for i := range 8 {
		wait.Go(func() { assert.Equal(t, i*i, square(i)) })
	}
	wait.Wait()
}
