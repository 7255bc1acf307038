package main

import (
	"fmt"
	"math"
	"slices"
	"strings"

	"geminate/brake/system"
	"geminate/ground/proving"
)

// wilson is the 95 % interval of a share, for 10 000. Source: Wilson 1927, from memory.
func wilson(n, of int) (low, high float64) {
	if of == 0 {
		return 0, 10000
	}
	const z = 1.96
	p, m := float64(n)/float64(of), float64(of)
	mid, half := p+z*z/(2*m), z*math.Sqrt(p*(1-p)/m+z*z/(4*m*m))
	return 10000 * math.Max(0, (mid-half)/(1+z*z/m)), 10000 * math.Min(1, (mid+half)/(1+z*z/m))
}

func perTen(n, of int) string {
	low, high := wilson(n, of)
	return fmt.Sprintf("%.0f (%.0f–%.0f)", 10000*float64(n)/float64(max(1, of)), low, high)
}

func eachJob(x float64, of int) string { return fmt.Sprintf("%.1f", x/float64(max(1, of))) }

// provePage is the report as a page.
func provePage(r *proving.Report) string {
	var b strings.Builder
	say := func(format string, a ...any) { fmt.Fprintf(&b, format+"\n", a...) }
	say("# The proving ground\n")
	say("Written by `geminate prove` (%d jobs of each technician, seed %d; likelihoods bent by %.2f as in the trial). Do not edit.\n",
		r.Options.Jobs, r.Options.Seed, r.Options.Off)
	say(`A simulated vehicle knows what hands did; programs work on it through the job's own commands, by what the job tells them, from
the complaint to the release and ninety days on. Every technician gets the same vehicles, every pattern in turn, with faults drawn
as the trial draws them. Rates of slips and consequences are assumptions (how-it-computes, section 14), all data is made up: what
is compared is ways of working, not the world.

- **careful** does what comes next and tells what was read.
- **hurried** ticks %.0f %% of the acts that ask for no figure without doing them, and tells %.0f %% of the readings as they should be; slips as the trade does.
- **slipping** slips as the trade does, and changes its mind before %.0f %% of its acts: undo, a step taken back, another method, school or unit; now and then its tablet has no network while a second pair of hands tells things, and the logs are merged.
- **paper** is the hurried one with a list of the same steps and checks, and nobody who holds one against the other. It does what a failed check says and looks at nothing again for it, bleeds once more a pedal that springs or sinks, and keeps a vehicle that sinks still; its minutes are of the hands alone.
`, 100*proving.Hurried.Skips, 100*proving.Hurried.Rounds, 100*proving.Slipping.Changes)
	say("## What came of them\n\nFor every 10 000 jobs, with the 95 %% interval.\n")
	head := "| |"
	line := "|---|"
	for _, w := range r.Options.Ways {
		head += " " + w.ID + " |"
		line += "---|"
	}
	say("%s\n%s", head, line)
	row := func(name string, cell func(*proving.Count) string) {
		out := "| " + name + " |"
		for _, w := range r.Options.Ways {
			out += " " + cell(r.ByWay[w.ID]) + " |"
		}
		say("%s", out)
	}
	row("jobs worked", func(c *proving.Count) string { return fmt.Sprint(c.Jobs) })
	row("**released unsafe**", func(c *proving.Count) string { return perTen(c.Unsafe, c.Jobs) })
	row("… by what hands left", func(c *proving.Count) string { return perTen(c.UnsafeHands, c.Jobs) })
	row("released", func(c *proving.Count) string { return perTen(c.Released, c.Jobs) })
	row("right at hand-over, of those released", func(c *proving.Count) string { return perTen(c.Right, c.Released) })
	row("parked with a reason", func(c *proving.Count) string { return perTen(c.Parked, c.Jobs) })
	row("… with nothing wrong any more", func(c *proving.Count) string { return perTen(c.ParkedClean, c.Jobs) })
	row("dead ends", func(c *proving.Count) string { return perTen(c.DeadEnds, c.Jobs) })
	row("back within ninety days, of those released", func(c *proving.Count) string { return perTen(c.Back, c.Released) })
	row("… by what hands left", func(c *proving.Count) string { return perTen(c.BackHands, c.Released) })
	row("units changed that were sound", func(c *proving.Count) string { return perTen(c.WrongUnits, c.Jobs) })
	row("jobs with a step for what is not there", func(c *proving.Count) string { return perTen(c.Needless, c.Jobs) })
	row("jets and shocks on the way", func(c *proving.Count) string { return perTen(c.Hurt, c.Jobs) })
	row("minutes a job", func(c *proving.Count) string { return eachJob(c.Minutes, c.Jobs) })
	row("litres poured a job (said it would take)", func(c *proving.Count) string {
		return fmt.Sprintf("%.2f (%.2f)", c.FluidCM3/1000/float64(max(1, c.Jobs)), c.NeedCM3/1000/float64(max(1, c.Jobs)))
	})
	row("taps a job", func(c *proving.Count) string { return eachJob(float64(c.Taps.All()), c.Jobs) })
	row("commands refused a job", func(c *proving.Count) string { return eachJob(float64(c.Refused), c.Jobs) })
	say("")
	proveKinds(r, say)
	proveReasons(r, say)
	proveEnds(r, say)
	proveAsks(r, say)
	return b.String()
}

func proveKinds(r *proving.Report, say func(string, ...any)) {
	say("## By kind of vehicle\n\nReleased unsafe for 10 000 jobs; parked; back within ninety days, of those released.\n")
	say("| pattern | technician | jobs | unsafe | parked | back |\n|---|---|---|---|---|---|")
	for _, p := range system.Patterns {
		for _, w := range r.Options.Ways {
			if c := r.ByKind[w.ID][p.ID]; c != nil {
				say("| %s | %s | %d | %s | %s | %s |", p.ID, w.ID, c.Jobs, perTen(c.Unsafe, c.Jobs), perTen(c.Parked, c.Jobs),
					perTen(c.Back, c.Released))
			}
		}
	}
	say("")
}

// mostReasons of a technician are shown.
const mostReasons = 14

func proveReasons(r *proving.Report, say func(string, ...any)) {
	say("## Why\n\nWhat the gate did not see, by how often it hurt: the slip or lie, and of what. Jobs counted, unsafe first.\n")
	for _, w := range r.Options.Ways {
		n := 0
		for _, x := range r.Reasons {
			if x.Way != w.ID || n >= mostReasons {
				continue
			}
			if n == 0 {
				say("### %s\n\n| slip or lie | of | unsafe | back |\n|---|---|---|---|", w.ID)
			}
			n++
			say("| %s | %s | %d | %d |", x.Slip, x.Of, x.Unsafe, x.Back)
		}
		if n > 0 {
			say("")
		}
	}
}

func proveEnds(r *proving.Report, say func(string, ...any)) {
	if len(r.Ends) == 0 {
		return
	}
	say("## Dead ends\n")
	list := []string{}
	for why := range r.Ends {
		list = append(list, why)
	}
	slices.SortFunc(list, func(a, b string) int {
		if r.Ends[a] != r.Ends[b] {
			return r.Ends[b] - r.Ends[a]
		}
		return strings.Compare(a, b)
	})
	for i, why := range list {
		if i == 20 {
			say("- and %d more", len(list)-i)
			break
		}
		if len(why) > 240 {
			why = why[:240] + "…"
		}
		say("- %d × %s", r.Ends[list[i]], strings.ReplaceAll(why, "|", "/"))
	}
	say("")
}

func proveAsks(r *proving.Report, say func(string, ...any)) {
	if len(r.Asks) == 0 {
		return
	}
	s := r.Swap
	say("## What each ask is worth\n")
	say(
		`A cylinder of a pickup changed with a helper, a cup passing inside: the careful technician takes %s taps (%s ticks, %s strokes, %s looks,
%s figures, %s readings of diagnosis and release, %s others) and %s minutes. Below, the same vehicles by the same hands that slip three times as often as the trade says, with one
thing nobody asks for and so nobody does: what more comes of it for 10 000 such jobs, and the minutes it takes. %d jobs each: a difference under some
%.0f is noise. What is for the technician's own sake (stored energy, chocks) shows on no vehicle and is not judged here.
`,
		eachJob(float64(s.Taps.All()), s.Jobs),
		eachJob(float64(s.Taps.Ticks), s.Jobs),
		eachJob(float64(s.Taps.Strokes), s.Jobs),
		eachJob(float64(s.Taps.Looks), s.Jobs),
		eachJob(float64(s.Taps.Figures), s.Jobs),
		eachJob(float64(s.Taps.Readings), s.Jobs),
		eachJob(float64(s.Taps.Other), s.Jobs),
		eachJob(s.Minutes, s.Jobs),
		r.Options.AskJobs,
		2*10000*math.Sqrt(0.05*0.95*2/float64(max(1, r.Options.AskJobs))),
	)
	say("| ask | kind | unsafe prevented | comebacks prevented | minutes |\n|---|---|---|---|---|")
	list := slices.Clone(r.Asks)
	slices.SortStableFunc(list, func(a, b proving.Ask) int {
		switch x, y := a.Unsafe+a.Back/10, b.Unsafe+b.Back/10; {
		case x > y:
			return -1
		case x < y:
			return 1
		}
		return 0
	})
	for _, a := range list {
		note := ""
		if a.Hand {
			note = " (own sake)"
		}
		say("| %s%s | %s | %.0f | %.0f | %.1f |", a.ID, note, a.Kind, a.Unsafe, a.Back, a.Minutes)
	}
}
