package job

import (
	"slices"

	"geminate/brake/diagnose"
	"geminate/brake/match"
)

// closedBy are findings of Verify that show a fact of the diagnosis gone, whoever put it right.
var closedBy = map[string]string{"wheel.check": "check.wheels_free"}

// unexplained are the facts the diagnosis found that the chosen work does not put right: carried to every later station
// until a reading there shows them gone.
func (j *Job) unexplained() []diagnose.Fact {
	c, _ := j.caseAndLeftOut()
	out, err := diagnose.Unexplained(c, match.ActsOf(j.scope()), nil)
	if err != nil || len(c.Findings) == 0 {
		return []diagnose.Fact{}
	}
	return slices.DeleteFunc(out, func(f diagnose.Fact) bool {
		now, read := j.State.Findings[PhaseVerify][closedBy[f.Finding]]
		return read && string(now.Value) == `"yes"`
	})
}
