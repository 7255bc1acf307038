package main

import (
	"fmt"
	"os"
	"runtime"
	"strings"

	"github.com/schollz/progressbar/v3"
	"github.com/spf13/cobra"

	"geminate/brake/trial"
)

func trialCommand() *cobra.Command {
	var vehicles, worlds int
	var off []float64
	var seed uint64
	var page string
	cmd := &cobra.Command{Use: "trial", Short: "Let the diagnosis work on vehicles with hidden faults and report how it does", Args: cobra.NoArgs, RunE: func(*cobra.Command, []string) error {
		if vehicles < 20 || vehicles > 1_000_000 || worlds < 1 || worlds > vehicles {
			return badInput{fmt.Errorf("--vehicles takes 20 to 1000000, --worlds 1 to as many as there are vehicles")}
		}
		if err := finite("off", off...); err != nil {
			return err
		}
		bar := progressbar.NewOptions(vehicles*len(off), progressbar.OptionSetWriter(os.Stderr), progressbar.OptionSetDescription("vehicles"),
			progressbar.OptionShowCount(), progressbar.OptionSetPredictTime(true), progressbar.OptionThrottle(200_000_000), progressbar.OptionClearOnFinish())
		var reports []*trial.Report
		for i, x := range off {
			r, err := trial.Run(trial.Options{Vehicles: vehicles, Worlds: worlds, Off: x, Seed: seed, Workers: runtime.NumCPU(),
				Progress: func(done int) { _ = bar.Set(i*vehicles + done) }})
			if err != nil {
				return err
			}
			reports = append(reports, r)
		}
		if page == "" {
			_ = bar.Finish()
			return print(reports)
		}
		// What dearer mistakes would bring, on a quarter of the vehicles.
		dear, err := trial.Run(trial.Options{Vehicles: max(20, vehicles/4), Worlds: min(worlds, vehicles/4), Off: off[0], Seed: seed, Workers: runtime.NumCPU(), Dear: 4})
		_ = bar.Finish()
		if err != nil {
			return err
		}
		return os.WriteFile(page, []byte(trialPage(reports, dear)), 0o644)
	}}
	cmd.Flags().IntVar(&vehicles, "vehicles", 2000, "vehicles for each distance")
	cmd.Flags().IntVar(&worlds, "worlds", 40, "worlds they are drawn from")
	cmd.Flags().Float64SliceVar(&off, "off", []float64{0, 0.3, 0.6, 1}, "how far the world's likelihoods lie from the engine's: standard deviation of the logarithm")
	cmd.Flags().Uint64Var(&seed, "seed", 1, "seed")
	cmd.Flags().StringVar(&page, "page", "", "write a page here instead of printing JSON")
	return cmd
}

func percent(x float64) string { return fmt.Sprintf("%.1f %%", 100*x) }

func trialPage(reports []*trial.Report, dear *trial.Report) string {
	var b strings.Builder
	first := reports[0]
	fmt.Fprintf(&b, `# The diagnosis on trial

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

## The engine, and how it falls as the world differs

| off | right | started right | wrong unit | cured in one go | minutes | tests | opened the lines to test | calibration error, points | right with no / one / two faults |
|---|---|---|---|---|---|---|---|---|---|
`, first.Options.Vehicles, first.Options.Worlds, first.Options.Seed)
	for _, r := range reports {
		e := r.Engine
		fmt.Fprintf(&b, "| %.2f | %s | %s | %s | %s | %.1f | %.1f | %s | %.1f | %s / %s / %s |\n", r.Options.Off, percent(e.Right), percent(r.StartedRight), percent(e.WrongUnit), percent(e.Cured), e.Minutes, e.Tests,
			percent(e.Opened), 100*r.CalibrationError, percent(r.RightByFaults[0]), percent(r.RightByFaults[1]), percent(r.RightByFaults[2]))
	}
	b.WriteString(`
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
			fmt.Fprintf(&b, "| %.2f | %s | %s | %s | %s | %.1f | %.1f | %s |\n", r.Options.Off, w.name, percent(w.way.Right), percent(w.way.WrongUnit), percent(w.way.Cured), w.way.Minutes, w.way.Tests, percent(w.way.Opened))
		}
	}
	b.WriteString(`
## Worked until hand-over

The same vehicles again. What was decided is done; then Verify is read from the repaired vehicle: hold, curve, assist, reserve, free play,
joints, codes, wheels, a short drive, and whatever was complained of. What fails is read a second time; what fails twice is diagnosed anew and
worked on, up to four rounds; a vehicle that is not let go by then is parked. **Right at hand-over**: let go, and nothing left that was there.
**Comeback**: let go with something left. Minutes are all of them: tests, repairs and ` + "Verify's" + ` 20 in each round.

| off | way | right at hand-over | comeback | unsafe let go | parked | wrong unit fitted | minutes in all | rounds |
|---|---|---|---|---|---|---|---|---|
`)
	for _, r := range reports {
		for _, w := range []struct {
			name string
			way  trial.Over
		}{{"**the engine**", r.EngineOver}, {"fixed order to its end, the engine judges", r.OrderOver}, {"fixed order, rules of thumb", r.ThumbOver}} {
			fmt.Fprintf(&b, "| %.2f | %s | %s | %s | %s | %s | %s | %.0f | %.2f |\n", r.Options.Off, w.name, percent(w.way.Right), percent(w.way.Comeback), percent(w.way.Unsafe), percent(w.way.Parked), percent(w.way.WrongUnit), w.way.Minutes, w.way.Rounds)
		}
	}
	last := reports[len(reports)-1]
	e, o := first.EngineOver, first.OrderOver
	fmt.Fprintf(&b, `
## Against the aims

| aim | reached | |
|---|---|---|
| right at hand-over at least 97 %% at off %.2f | %s | %s |
| and at least 93 %% at off %.2f | %s | %s |
| wrong unit at most 1 %% | %s | %s |
| at most 54 %% of the minutes of the fixed order worked the same way | %.0f of %.0f, %s | %s |
| nothing unsafe let go in any run | %s | %s |
| calibration error at most 3 points, over all probabilities stated | %.1f | %s |
| the same over those of 10 %% and more, where decisions are made | %.1f | %s |

Repairs and Verify themselves take most of the minutes, and every way of working pays them. With a comeback and an unsafe release
priced four times higher (%d of the vehicles) the engine was right at hand-over in %s and took %.0f minutes.

## Calibration at off %.2f

Every probability of at least 0.1 %% that the engine ended with, on every vehicle.

| stated | expected | observed | cases |
|---|---|---|---|
`, first.Options.Off, percent(e.Right), reached(e.Right >= 0.97), last.Options.Off, percent(last.EngineOver.Right), reached(last.EngineOver.Right >= 0.93),
		percent(e.WrongUnit), reached(e.WrongUnit <= 0.01), e.Minutes, o.Minutes, percent(e.Minutes/o.Minutes), reached(e.Minutes <= 0.54*o.Minutes),
		percent(e.Unsafe), reached(e.Unsafe == 0 && last.EngineOver.Unsafe == 0), 100*first.CalibrationError, reached(first.CalibrationError <= 0.03), 100*first.CalibrationErrorHigh, reached(first.CalibrationErrorHigh <= 0.03),
		dear.Options.Vehicles, percent(dear.EngineOver.Right), dear.EngineOver.Minutes, first.Options.Off)
	for _, c := range first.Calibration {
		fmt.Fprintf(&b, "| %.0f–%.0f %% | %s | %s | %d |\n", 100*c.From, 100*c.To, percent(c.Expected), percent(c.Observed), c.N)
	}
	for _, m := range []struct {
		title, head string
		list        []trial.Miss
	}{{"The ten commonest ways not to be right at hand-over", "| hidden | did | outcome | times |", first.OverMisses}, {"Sound units replaced on the way", "| hidden | did | outcome | times |", first.OverWrong},
		{"Where the first decision was not the whole remedy", "| hidden | did | should | times |", first.Misses}} {
		fmt.Fprintf(&b, "\n## %s\n\n%s\n|---|---|---|---|\n", m.title, m.head)
		for i, x := range m.list {
			if i < 10 {
				fmt.Fprintf(&b, "| %s | %s | %s | %d |\n", x.Truth, x.Did, x.Should, x.N)
			}
		}
	}
	b.WriteString(`
What would mend them: fluid.wet left, a water tester in every shop (it is drawn there nine times in ten only) or water read at Verify; a hose taken for a
wheel or a wheel for a hose, the wheel's bleeder cracked while it drags before the wheel is repaired; a hose that expands, watched by a second pair of hands; a
fault that stays quiet through Verify, a second reading on another day. Units replaced for nothing: a sink or a curve misread (one reading in a hundred is), which
a repeated reading would catch; two faults of which one looks like the unit. Minutes: repairs and Verify are the same in every way of working and are most of them.
`)
	fmt.Fprintf(&b, "\nOne decision of the engine (all faults, all tests, two cores busy with the trial) took %d ms at the median and %d ms at the 95th percentile on the machine that made this page.\n",
		first.DecisionP50.Milliseconds(), first.DecisionP95.Milliseconds())
	return b.String()
}

func reached(ok bool) string {
	if ok {
		return "yes"
	}
	return "no"
}
