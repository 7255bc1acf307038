package job

import (
	"reflect"
	"slices"
	"sync"

	"geminate/brake/ledger"
	"geminate/brake/match"
	"geminate/brake/system"
)

// A station's view asks for the fluid several times over, and running everything that was ever moved through the ledger
// is most of what a tap costs. So the last ledgers are kept, with what they were made of: the moves, the system and the
// units on it, compared by what they say. More of the same is run onto what is kept, so that a stroke late in a log
// costs what the first did. Whoever asks gets a copy.

// wet is one kept ledger: as it is, and as it was before its last move, which the next stroke at the same wheel makes
// longer.
type wet struct {
	sys           *system.System
	unit, booster *match.Unit
	levels        bool
	moves         []ledger.Event
	now, before   *ledger.Ledger
	used          int64
}

// wetMost ledgers are kept; the one not asked for longest goes first. Two a job that is being worked at.
const wetMost = 128

var wets struct {
	sync.Mutex
	kept []*wet
	uses int64
}

// wetted gives the fluid as it is, whole or only what stands in the reservoir.
func (j *Job) wetted(levels bool, empty func(*system.System) *ledger.Ledger) *ledger.Ledger {
	want := wet{sys: j.Intake.System, levels: levels, moves: j.State.Moves}
	want.unit, want.booster = j.unitsOn()
	wets.Lock()
	defer wets.Unlock()
	wets.uses++
	var from *wet
	at := -1
	for _, w := range wets.kept {
		if n := w.leads(&want); n > at {
			from, at = w, n
		}
	}
	if from != nil && at == len(want.moves) && len(from.moves) == at {
		from.used = wets.uses
		return from.now.Clone()
	}
	var l *ledger.Ledger
	switch {
	case from == nil:
		l, at = empty(j.Fitted()), 0
	case at == len(from.moves):
		l = from.now.Clone()
	default:
		l = from.before.Clone()
	}
	for ; at < len(want.moves); at++ {
		if at == len(want.moves)-1 {
			want.before = l.Clone()
		}
		_ = l.Apply(want.moves[at]) // what a system that was changed since no longer has is passed over
	}
	want.now, want.used = l, wets.uses
	keepWet(from, &want)
	return l.Clone()
}

// keepWet puts a ledger in the place of the one it was made from, or of the one not asked for longest.
func keepWet(from, w *wet) {
	if from == nil && len(wets.kept) < wetMost {
		wets.kept = append(wets.kept, w)
		return
	}
	at := slices.Index(wets.kept, from)
	if from == nil {
		at = 0
		for i, k := range wets.kept {
			if k.used < wets.kept[at].used {
				at = i
			}
		}
	}
	wets.kept[at] = w
}

// leads gives how many of the moves wanted are in a kept ledger: all it has, all but its last, or -1 where it is of no
// use.
func (w *wet) leads(want *wet) int {
	n := len(w.moves)
	if w.levels != want.levels || n-1 > len(want.moves) {
		return -1
	}
	for i := range max(0, n-1) {
		if !sameMove(&w.moves[i], &want.moves[i]) {
			return -1
		}
	}
	if !same(w.sys, want.sys) || !same(w.unit, want.unit) || !same(w.booster, want.booster) {
		return -1
	}
	switch {
	case n == 0 || n <= len(want.moves) && sameMove(&w.moves[n-1], &want.moves[n-1]):
		return n
	case w.before == nil:
		return -1
	}
	return n - 1
}

func sameMove(a, b *ledger.Event) bool {
	return a.Kind == b.Kind && a.Fed == b.Fed && a.Dry == b.Dry && a.Wheel == b.Wheel && a.CM3 == b.CM3 && same(a.LeftCM3, b.LeftCM3) &&
		same(a.ToCM3, b.ToCM3)
}

func same[T any](a, b *T) bool { return a == b || a != nil && b != nil && reflect.DeepEqual(a, b) }
