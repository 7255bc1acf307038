package main

import (
	"fmt"
	"strings"

	"geminate/ground/trial"
)

func percent(x float64) string { return fmt.Sprintf("%.1f %%", 100*x) }

func reached(ok bool) string {
	if ok {
		return "yes"
	}
	return "no"
}

// pageWriter writes a page of a trial, section by section.
type pageWriter struct{ strings.Builder }

func (b *pageWriter) say(format string, of ...any) { fmt.Fprintf(b, format, of...) }

func trialPage(reports, second []*trial.Report, dear *trial.Report, lessons []trial.Lesson) string {
	b := &pageWriter{}
	b.trialHead(reports[0])
	b.trialEngine(reports)
	b.trialOtherwise(reports)
	b.trialHandover(reports)
	b.trialSecond(second)
	b.trialAims(reports, dear)
	b.trialLearns(lessons)
	b.trialCalibration(reports[0])
	b.trialMisses(reports[0])
	b.say(
		"\nOne decision of the engine (all faults, all tests, two cores busy with the trial) took %d ms at the median and %d ms at the 95th percentile on the machine that made this page.\n",
		reports[0].DecisionP50.Milliseconds(),
		reports[0].DecisionP95.Milliseconds(),
	)
	return b.String()
}

func (b *pageWriter) trialHead(first *trial.Report) {
	b.say(`# The diagnosis on trial

Made by `+"`geminate trial --page docs/trial.md`"+` (`+"`make trial`"+`): %d vehicles for each distance, drawn from %d invented worlds each, seed %d.
A vehicle has none, one or two hidden faults drawn from the priors, or three where a cause has brought its effect, a complaint, an owner who tells most of it, a shop with most but not
all tools and one or two pairs of hands. The engine sees what a technician would and chooses each next test as the interface
proposes it, until it is settled; then the quick tests on the way, once, before anything is taken apart.

**The world is not the engine's table.** "Off" is the standard deviation of the natural logarithm of the factor by which every single
likelihood, every prior and every chance that one fault brings another is bent (0.5: a likelihood is commonly 1.6 times too large or too small, now and then three times). Besides, at
every distance, zero included: faint faults show up to a fifth less; every vehicle's clearances, compliances, hoses, lever and vacuum
differ from its pattern by 3 to 15 %%; forces, heights and pressures are read with errors; one reading in a hundred is plainly wrong; one
told sign in ten is only "I think so". Vehicles on which nothing to complain of would show are not brought in.

**Right** means the whole remedy someone who knows the faults would choose, by least cost, both faults of two included: a second fault that
shows nothing is missed by definition. **Started right** counts those as well whose proposal is part of it and holds nothing needless.
**Wrong unit** means a cylinder or booster replaced that had nothing wrong with it.
`, first.Options.Vehicles, first.Options.Worlds, first.Options.Seed)
}

func (b *pageWriter) trialEngine(reports []*trial.Report) {
	b.say(`
## The engine, and how it falls as the world differs

| off | right | started right | wrong unit | cured in one go | minutes | tests | opened the lines to test | calibration error, points | right with no / one / two faults |
|---|---|---|---|---|---|---|---|---|---|
`)
	for _, r := range reports {
		e := r.Engine
		b.say("| %.2f | %s | %s | %s | %s | %.1f | %.1f | %s | %.1f | %s / %s / %s |\n", r.Options.Off, percent(e.Right),
			percent(r.StartedRight), percent(e.WrongUnit), percent(e.Cured), e.Minutes, e.Tests, percent(e.Opened),
			100*r.CalibrationError, percent(r.RightByFaults[0]), percent(r.RightByFaults[1]), percent(r.RightByFaults[2]))
	}
}

func (b *pageWriter) trialOtherwise(reports []*trial.Report) {
	b.say(`
## The same vehicles, worked otherwise

The fixed order is look, hold, pump, assist, isolate (plugged ports, then the bleeders), with a push on a trailer's actuator and a steering
check where they belong. It is worked three ways: by the trade's rules of thumb, stopping at the first that fires; with this engine as judge,
stopping when it is settled; and to its end, with this engine's verdict on everything found. The last row fits the part the complaint names.

| off | way | right | wrong unit | cured in one go | minutes | tests | opened the lines to test |
|---|---|---|---|---|---|---|---|
`)
	for _, r := range reports {
		for _, w := range []struct {
			name string
			way  trial.Way
		}{{"**the engine**", r.Engine}, {"fixed order, rules of thumb", r.FixedByThumb}, {"fixed order, the engine judges", r.FixedJudged}, {"fixed order to its end, the engine judges", r.FixedWhole}, {"part by the common sign", r.CommonSign}} {
			b.say("| %.2f | %s | %s | %s | %s | %.1f | %.1f | %s |\n", r.Options.Off, w.name, percent(w.way.Right),
				percent(w.way.WrongUnit), percent(w.way.Cured), w.way.Minutes, w.way.Tests, percent(w.way.Opened))
		}
	}
}

func (b *pageWriter) trialHandover(reports []*trial.Report) {
	b.say(`
## Worked until hand-over

The same vehicles again. What was decided is done, with what puts right whatever was measured and is not explained by it; then Verify is read from
the repaired vehicle: hold (of a trailer its actuator's), curve, assist, reserve, free play, joints, hoses, codes, wheels, a short drive, and whatever was complained of; then
the looks that are worth their time for what may still be there. What fails is read a second time; what fails twice is diagnosed anew, the work
done being known, and worked on, up to four rounds; a vehicle that is not let go by then is parked. **Right at hand-over**: let go, and nothing left that was there.
**Comeback**: let go with something left. Minutes are all of them: tests, repairs and Verify's 20 in each round. Every way of working is held to the same Verify.

| off | way | right at hand-over | comeback | unsafe let go | parked | wrong unit fitted | minutes in all | rounds |
|---|---|---|---|---|---|---|---|---|
`)
	for _, r := range reports {
		for _, w := range []struct {
			name string
			way  trial.Over
		}{{"**the engine**", r.EngineOver}, {"fixed order to its end, the engine judges", r.OrderOver}, {"fixed order, rules of thumb", r.ThumbOver}} {
			b.say("| %.2f | %s | %s | %s | %s | %s | %s | %.0f | %.2f |\n", r.Options.Off, w.name, percent(w.way.Right),
				percent(w.way.Comeback), percent(w.way.Unsafe), percent(w.way.Parked), percent(w.way.WrongUnit), w.way.Minutes,
				w.way.Rounds)
		}
	}
}

// trialSecond is the same work in the world that shares no table with the engine.
func (b *pageWriter) trialSecond(second []*trial.Report) {
	first := second[0]
	b.say(`
## In the second world

The vehicles above have the engine's own faults, where the engine looks for them and with the signs it expects. These have not: what goes wrong, where it sits, how bad
it commonly is, what it does to the fluid and what a hand then sees was written once more, from the vehicle (`+"`ground/mechanic`"+`), without the engine's tables; what
creeps up is mostly faint, and one vehicle in twenty has a trouble that the engine has no name for (a bearing that knocks the pads back, a load valve, a
clutch that drinks from the same tank, water in the drums). **Handed on**: work was done, the signs ask for the same again, and the diagnosis says that it is something it does not know;
that counts as right where it is so, and as wrong where it is not. %d vehicles for each distance and seed.

| seed | off | way | right at hand-over | comeback | unsafe let go | parked | handed on | wrong unit fitted | minutes in all |
|---|---|---|---|---|---|---|---|---|---|
`, first.Options.Vehicles)
	for _, r := range second {
		for _, w := range []struct {
			name string
			way  trial.Over
		}{{"**the engine**", r.EngineOver}, {"fixed order to its end, the engine judges", r.OrderOver}, {"fixed order, rules of thumb", r.ThumbOver}} {
			b.say(
				"| %d | %.2f | %s | %s | %s | %s | %s | %s | %s | %.0f |\n",
				r.Options.Seed,
				r.Options.Off,
				w.name,
				percent(w.way.Right),
				percent(
					w.way.Comeback,
				),
				percent(w.way.Unsafe),
				percent(w.way.Parked),
				percent(w.way.Told),
				percent(w.way.WrongUnit),
				w.way.Minutes,
			)
		}
	}
	b.say(
		"\nOf seed %d at distance %.2f, the commonest that were not right:\n\n| what it was | what was done | what came of it | n |\n|---|---|---|---|\n",
		first.Options.Seed,
		first.Options.Off,
	)
	for _, m := range first.OverMisses[:min(12, len(first.OverMisses))] {
		b.say("| %s | %s | %s | %d |\n", m.Truth, m.Did, m.Should, m.N)
	}
}

func (b *pageWriter) trialAims(reports []*trial.Report, dear *trial.Report) {
	first, last := reports[0], reports[len(reports)-1]
	e, f, o := first.EngineOver, last.EngineOver, first.OrderOver
	b.say("\n## Against the aims\n\n| aim | at off %.2f | | at off %.2f | |\n|---|---|---|---|---|\n", first.Options.Off, last.Options.Off)
	row := func(aim string, near, far, mostNear, mostFar float64, atLeast bool) {
		ok := func(x, aim float64) bool { return x <= aim == !atLeast || x == aim }
		b.say("| %s | %s | %s | %s | %s |\n", aim, percent(near), reached(ok(near, mostNear)), percent(far), reached(ok(far, mostFar)))
	}
	row("right at hand-over, at least 98.5 % and 97 %", e.Right, f.Right, 0.985, 0.97, true)
	row("unsafe let go, at most 0.2 % and 0.5 %", e.Unsafe, f.Unsafe, 0.002, 0.005, false)
	row("sound units replaced, at most 1 % and 2 %", e.WrongUnit, f.WrongUnit, 0.01, 0.02, false)
	row("of the fixed order's minutes, worked to the same standard, at most 78 %", e.Minutes/o.Minutes,
		f.Minutes/last.OrderOver.Minutes, 0.78, 0.78, false)
	row("calibration over probabilities of 10 % and more, at most 3 points", first.CalibrationErrorHigh,
		last.CalibrationErrorHigh, 0.03, 0.03, false)
	b.say(`
Repairs and Verify themselves take most of the minutes, and every way of working pays them. With a comeback and an unsafe release
priced four times higher (%d of the vehicles) the engine was right at hand-over in %s and took %.0f minutes.
`, dear.Options.Vehicles, percent(dear.EngineOver.Right), dear.EngineOver.Minutes)
}

// trialLearns is the course of shops that are told what it really was.
func (b *pageWriter) trialLearns(lessons []trial.Lesson) {
	b.say(`
## What a shop learns of its own world

Six shops, each in a world bent by 1.0, are told after every job what it really was (of two faults, one). After so many jobs each looks at the same vehicles, on none of
which it has worked. "Given to the truth" is the mean of the natural logarithm of the probability the diagnosis ends with for what is really wrong: the nearer to 0, the better.

| jobs told | right action | given to the truth |
|---|---|---|
`)
	for _, l := range lessons {
		b.say("| %d | %s | %.3f |\n", l.Jobs, percent(l.Right), l.Truth)
	}
}

func (b *pageWriter) trialCalibration(first *trial.Report) {
	b.say(
		"\n## Calibration at off %.2f\n\nEvery probability of at least 0.1 %% that the engine ended with, on every vehicle.\n\n| stated | expected | observed | cases |\n|---|---|---|---|\n",
		first.Options.Off,
	)
	for _, c := range first.Calibration {
		b.say("| %.0f–%.0f %% | %s | %s | %d |\n", 100*c.From, 100*c.To, percent(c.Expected), percent(c.Observed), c.N)
	}
}

func (b *pageWriter) trialMisses(first *trial.Report) {
	for _, m := range []struct {
		title, head string
		list        []trial.Miss
	}{{"The ten commonest ways not to be right at hand-over", "| hidden | did | outcome | times |", first.OverMisses}, {"Sound units replaced on the way", "| hidden | did | outcome | times |", first.OverWrong},
		{"Where the first decision was not the whole remedy", "| hidden | did | should | times |", first.Misses}} {
		b.say("\n## %s\n\n%s\n|---|---|---|---|\n", m.title, m.head)
		for i, x := range m.list {
			if i < 10 {
				b.say("| %s | %s | %s | %d |\n", x.Truth, x.Did, x.Should, x.N)
			}
		}
	}
	b.say(`
What would mend them: fluid.wet left, a water tester in every shop (it is drawn there nine times in ten only) or water read at Verify; a hose taken for a
wheel or a wheel for a hose, the wheel's bleeder cracked while it drags before the wheel is repaired; a hose that expands, watched by a second pair of hands; a
fault that stays quiet through Verify, a second reading on another day. Units replaced for nothing: a sink or a curve misread (one reading in a hundred is), which
a repeated reading would catch; two faults of which one looks like the unit. Minutes: repairs and Verify are the same in every way of working and are most of them.
`)
}
