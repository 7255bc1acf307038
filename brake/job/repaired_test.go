package job

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"geminate/brake/match"
	"geminate/brake/plan"
	"geminate/brake/stand"
)

// A repair at a wheel says where and what; what the vehicle does not have, or nobody asked to bleed, is refused.
func TestARepairSaysWhereAndWhat(t *testing.T) {
	j := newJob(t, "pickup-front-rear-vacuum", match.Elsewhere)
	from, to, far := 0.9, 0.3, 61.0
	require.NoError(t, j.tell(mara, &RepairTold{Work: WorkAdjusted, At: "LR", FromMM: &from, ToMM: &to}))
	require.Len(t, j.State.Repairs, 1)
	assert.Equal(t, "Mara", j.State.Repairs[0].By)
	assert.ErrorContains(t, j.tell(mara, &RepairTold{Work: WorkAdjusted, At: "XX"}), "no_such_part")
	assert.ErrorContains(t, j.tell(mara, &RepairTold{Work: WorkAdjusted}), "no_such_part", "it has a place")
	assert.ErrorContains(t, j.tell(mara, &RepairTold{Work: WorkAdjusted, At: "LR", ToMM: &far}), "range")
	assert.ErrorContains(t, j.tell(mara, &RepairTold{Work: "painted", At: "LR"}), "enum")
	assert.ErrorContains(t, j.tell(mara, &RepairTold{Work: WorkCoupler}), "no_such_part", "a pickup has none")
	assert.ErrorContains(t, j.tell(mara, &RepairTold{Work: WorkCaliper, At: "LF"}), "repair_opens", "this job bleeds nothing")
	opened := newJob(t, "pickup-front-rear-vacuum", match.ElsewhereOpened)
	require.NoError(t, opened.tell(mara, &RepairTold{Work: WorkCaliper, At: "LF"}))
	require.NoError(t, opened.tell(mara, &RepairTold{Work: WorkLine, At: "A"}))
}

// Beside another job it is work: what was read of that place before proves nothing any more.
func TestARepairBesideThePlanIsWork(t *testing.T) {
	j := newJob(t, "pickup-front-rear-vacuum", match.CylinderOnly)
	before := j.account().Epochs[stand.RoadWheels]
	require.NoError(t, j.tell(mara, &RepairTold{Work: WorkPads, At: "LF"}))
	assert.NotEqual(t, before, j.account().Epochs[stand.RoadWheels])
	assert.Equal(t, j.Head, j.State.WorkSeq)
	calm := newJob(t, "pickup-front-rear-vacuum", match.Elsewhere)
	was := calm.State.WorkSeq
	require.NoError(t, calm.tell(mara, &RepairTold{Work: WorkPads, At: "LF"}))
	assert.Equal(t, was, calm.State.WorkSeq, "its own steps say when it was done")
}

// What can be told is offered, and nothing else; taken back it is gone.
func TestRepairsThatAreOffered(t *testing.T) {
	for pattern, want := range map[string][]RepairWork{"trailer-surge": {WorkCoupler, WorkShoes}, "clutch-hydraulic": {WorkRodSet}, "car-diagonal-vacuum": {WorkCheckValve, WorkSupply, WorkPads}} {
		j := newJob(t, pattern, match.Elsewhere)
		offered := map[RepairWork]RepairOffer{}
		for _, o := range j.repairOffers() {
			offered[o.Work] = o
			r := RepairTold{Work: o.Work}
			if len(o.At) > 0 {
				r.At = o.At[0]
			}
			assert.NoError(t, r.Check(j.Job), "%s: %s", pattern, o.Work)
		}
		for _, w := range want {
			assert.Contains(t, offered, w, pattern)
		}
		assert.NotContains(t, offered, WorkHose, "it opens the hydraulics")
	}
}

// What was opened is bled, whichever wheels were named and whenever it is told: before the step, after it, before or
// after the naming.
func TestARepairThatOpensIsBledThere(t *testing.T) {
	caliper := func(t *testing.T, j *testJob) {
		require.NoError(t, j.tell(mara, &RepairTold{Work: WorkCaliper, At: "LF"}))
	}
	names := func(t *testing.T, j *testJob) { j.choose(t, func(c *Choices) { c.Bleed.Wheels = []string{"RR"} }) }
	opens := func(t *testing.T, j *testJob) {
		j.doUntil(t, "elsewhere.opened")
		j.do(t, *mustPlan(t, j).Find("elsewhere.opened"))
	}
	type act = func(*testing.T, *testJob)
	for name, acts := range map[string][]act{
		"told, named, opened": {caliper, names, opens}, "told, opened, named": {caliper, opens, names}, "named, told, opened": {names, caliper, opens},
		"named, opened, told": {names, opens, caliper}, "opened, told, named": {opens, caliper, names}, "opened, named, told": {opens, names, caliper},
	} {
		t.Run(name, func(t *testing.T) {
			j := newJob(t, "pickup-front-rear-vacuum", match.ElsewhereOpened)
			for _, a := range acts {
				a(t, j)
			}
			open := mustBleed(t, j).OpenWheels
			assert.Contains(t, open, "LF", "its caliper was off")
			assert.Contains(t, open, "RR", "it was named")
			assert.NotContains(t, open, "RF", "nothing was open there")
		})
	}
	// A reservoir is ahead of all of them.
	j := newJob(t, "pickup-front-rear-vacuum", match.ElsewhereOpened)
	names(t, j)
	opens(t, j)
	require.NoError(t, j.tell(mara, &RepairTold{Work: WorkReservoir}))
	assert.Len(t, mustBleed(t, j).OpenWheels, 4)
}

func mustPlan(t *testing.T, j *testJob) *plan.Plan {
	t.Helper()
	p, err := j.Plan()
	require.NoError(t, err)
	return p
}
