package job

import (
	"sync"

	"geminate/brake/ledger"
	"geminate/brake/match"
	"geminate/brake/system"
)

// A station's view asks for the fluid several times over, and running everything that was ever moved through the ledger is
// most of what a tap costs. So the last ledgers are kept, by what they hang on: the moves (a list is never changed in place,
// see State.moves), the system and the units on it. Whoever asks gets a copy.
type wetKey struct {
	moves         *ledger.Event
	n             int
	sys           *system.System
	unit, booster *match.Unit
	levels        bool
}

// wetMost ledgers are kept; then it starts again. The keys hold what they point to, so no address is used twice.
const wetMost = 32

var wet = struct {
	sync.Mutex
	kept map[wetKey]*ledger.Ledger
}{kept: map[wetKey]*ledger.Ledger{}}

// wetted gives the fluid as it is, whole or only what stands in the reservoir.
func (j *Job) wetted(levels bool, empty func(*system.System) *ledger.Ledger) *ledger.Ledger {
	k := wetKey{n: len(j.State.Moves), sys: j.Intake.System, levels: levels}
	if k.n > 0 {
		k.moves = &j.State.Moves[0]
	}
	k.unit, k.booster = j.unitsOn()
	wet.Lock()
	l := wet.kept[k]
	wet.Unlock()
	if l == nil {
		l = j.State.run(empty(j.Fitted()))
		wet.Lock()
		if len(wet.kept) >= wetMost {
			clear(wet.kept)
		}
		wet.kept[k] = l
		wet.Unlock()
	}
	return l.Clone()
}
