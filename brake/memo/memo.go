// Package memo keeps answers of pure functions that are asked the same thing at every tap.
package memo

import "sync"

// Func gives f with its answers kept, most of them at once: when there are more, all are dropped and it starts
// again. f must be pure; K must hold everything its answer hangs on. Safe for use from several goroutines.
func Func[K comparable, V any](most int, f func(K) V) func(K) V {
	var mu sync.RWMutex
	kept := map[K]V{}
	return func(k K) V {
		mu.RLock()
		v, ok := kept[k]
		mu.RUnlock()
		if ok {
			return v
		}
		v = f(k)
		mu.Lock()
		if len(kept) >= most {
			clear(kept)
		}
		kept[k] = v
		mu.Unlock()
		return v
	}
}
