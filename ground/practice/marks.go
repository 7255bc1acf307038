package practice

import (
	"math"
	"slices"

	"geminate/brake/diagnose"
	"geminate/brake/job"
	"geminate/brake/stand"
	"geminate/ground/proving"
	"geminate/ground/simulate"
)

// An exercise is marked by what was shown, known and done: what is told and was not done at the vehicle shows nothing.
// Every line is measured beside the engine's own way on the same vehicle. The rule is printed with every result (words:
// marks.*). All figures of it are choices of the project, from no source.

// MarkID names a line of the rule.
type MarkID string

// Lines of the rule.
const (
	MarkFound   MarkID = "found"   // what the tests that were done let one believe of what was wrong, when the work began
	MarkDecided MarkID = "decided" // no sound unit replaced
	MarkDone    MarkID = "done"    // right at hand-over, each act told one that was done
	MarkProven  MarkID = "proven"  // readings of the release check taken at the vehicle
	MarkSafe    MarkID = "safe"
	MarkMinutes MarkID = "minutes"
	MarkTests   MarkID = "tests"
)

// Mark is one line: what was got of how much, and what it was lost on, by ids there are words for.
type Mark struct {
	ID   MarkID   `json:"id"`
	Got  float64  `json:"got"`
	Of   float64  `json:"of"`
	Lost []string `json:"lost,omitempty"`
}

// Cap is why the whole is no more than so much.
type Cap string

// Caps.
const (
	CapStopped  Cap = "stopped"   // somebody would have been hurt
	CapNoWork   Cap = "no_work"   // nothing was done at the vehicle
	CapUnsafe   Cap = "unsafe"    // it was let go as it would hurt somebody
	CapNotFound Cap = "not_found" // worked with nothing found
)

const (
	marksFound, marksDecided, marksDone, marksProven, marksSafe, marksMinutes, marksTests = 20.0, 15.0, 30.0, 10.0, 15.0, 5.0, 5.0
	// Minutes and tests count whole up to a quarter more than the engine's own way and some, nothing from three times
	// as many.
	wholeUpTo, noneFrom      = 1.25, 3.0
	minutesGrace, testsGrace = 15.0, 2.0
	// Found counts whole from foundWhole of what the engine's own way believed, nothing under foundNone.
	foundNone, foundWhole = 0.25, 0.8
	// knewLeast is the belief under which the engine's own way is said not to have known.
	knewLeast = 0.02
	// The most with nothing done, with a vehicle let go that would hurt somebody, with work begun on nothing found.
	capNoWork, capUnsafe, capNotFound = 20.0, 30.0, 60.0
	// CertificateLeast is the mark from which a certificate is printed.
	CertificateLeast = 60.0
	// What a line loses for each thing that was told and not done, of the whole.
	eachUndone = 0.2
)

// shown is what a way showed: how far it knew what was wrong when the work began, what was told and not done.
type shown struct {
	knew   float64
	worked bool     // anything was done to find, prove or mend
	undone []string // steps that were told and not done
	unread []string // readings of the release check that were told and not taken
	read   int      // those that were taken
}

// shown judges one way by its log and its acts.
func (b *Bay) shown(j *job.Job, all []job.Event, did []proving.Done) (*shown, error) {
	out := &shown{}
	begun := len(did)
	steps, reads := map[string]bool{}, map[string]bool{}
	for i, d := range did {
		switch d.Do {
		case proving.DoStep:
			steps[d.ID] = true
		case proving.DoRead, proving.DoLook:
			reads[d.ID] = true
		case proving.DoTest:
			if t := diagnose.TestOf(d.ID); t != nil {
				for _, y := range t.Yields {
					reads[y] = true
				}
			}
		}
		out.worked = out.worked || d.Do != proving.DoEngine && d.Do != proving.DoPress
		if changes(d) { // what was read before it proves nothing of it
			clear(reads)
			begun = min(begun, i)
		}
	}
	head := int64(len(all)) // all that was told up to the first act of work
	if begun < len(did) {
		head = did[begun].Head
	}
	knew, err := b.knew(all, did[:begun], head)
	if err != nil {
		return nil, err
	}
	out.knew = knew
	before := map[string]bool{} // told by whoever had the job before
	for _, e := range all {
		if b.own != nil && len(b.Exercise.Slips) > 0 && e.Seq <= b.own.HalfHead {
			before[e.ID] = true
		}
	}
	for id, tick := range j.State.Ticks {
		if act := stand.Find(id); act != nil && !steps[id] && !before[tick.EventID] {
			out.undone = append(out.undone, id)
		}
	}
	for id, f := range j.State.Findings[job.PhaseVerify] {
		switch {
		case reads[id]:
			out.read++
		case len(b.Exercise.Slips) == 0 || b.own == nil || f.Seq > b.own.HalfHead:
			out.unread = append(out.unread, id)
		}
	}
	slices.Sort(out.undone)
	slices.Sort(out.unread)
	return out, nil
}

// changes says whether an act is work on what is thought to be wrong.
func changes(d proving.Done) bool {
	return d.Do == proving.DoUnit || d.Do == proving.DoMend || d.Do == proving.DoRepair || d.Do == proving.DoStroke ||
		d.Do == proving.DoDraw ||
		d.Do == proving.DoPush ||
		d.Do == proving.DoEmpty
}

// knew is how far what was found at the vehicle, and what the owner said, let one believe what is wrong: of each fault
// that is there the chance of one in its part, the least of them. A reading that was told and never taken is left out.
func (b *Bay) knew(all []job.Event, did []proving.Done, head int64) (float64, error) {
	taken := map[string]bool{}
	for _, f := range b.body.Reports() {
		taken[f.ID] = true
	}
	for _, d := range did {
		switch d.Do {
		case proving.DoLook, proving.DoRead:
			taken[d.ID] = true
		case proving.DoTest:
			if t := diagnose.TestOf(d.ID); t != nil {
				for _, y := range t.Yields {
					taken[y] = true
				}
			}
		}
	}
	book := &job.Book{Job: job.Replay("knew", all[0].At, all[:1]), Events: slices.Clone(all[:1])}
	if err := book.Forward(all, max(1, head)); err != nil {
		return 0, err
	}
	c := book.Case()
	c.Findings = slices.DeleteFunc(c.Findings, func(f diagnose.Finding) bool {
		list := diagnose.ListOf(f.ID)
		return !taken[f.ID] && (list == "" || !taken[list])
	})
	r, err := diagnose.Run(c, diagnose.DefaultCosts())
	if err != nil {
		return 0, err
	}
	truth := b.body.Truth()
	if len(truth) == 0 {
		return r.Healthy, nil
	}
	least := 1.0
	for _, f := range truth {
		p := 0.0
		for _, x := range r.Faults {
			if x.At == f.At && samePart(x.ID, f.ID) {
				p += x.Probability
			}
		}
		least = min(least, p)
	}
	return least, nil
}

// samePart says whether two faults are in one part, so that one remedy is for both.
func samePart(a, b string) bool {
	if a == b {
		return true
	}
	for _, unit := range []string{proving.UnitCylinder, proving.UnitBooster} {
		if diagnose.In(a, unit) && diagnose.In(b, unit) {
			return true
		}
	}
	return false
}

// mark fills the lines in.
func (r *Result) mark(mine, theirs *shown) {
	on := func(ok bool) float64 {
		if ok {
			return 1
		}
		return 0
	}
	share := func(have, none, whole float64) float64 { return math.Max(0, math.Min(1, (have-none)/(whole-none))) }
	less := func(have, own, grace float64) float64 { return share(have, own*noneFrom+grace, own*wholeUpTo+grace) }
	found := on(r.Yours.Tests > 0) // where no test tells what it is, as the engine's own way shows, having tested is all there is
	if theirs.knew >= knewLeast {
		found = share(mine.knew/theirs.knew, foundNone, foundWhole)
	}
	if len(r.Slips) > 0 { // what somebody left is found by looking it over, and mended or not
		found = on(r.Right)
	}
	undone := beyond(mine.undone, theirs.undone)
	unread := beyond(mine.unread, theirs.unread)
	line := func(id MarkID, of, part float64, lost ...string) {
		r.Marks = append(r.Marks, Mark{ID: id, Got: math.Round(of * math.Max(0, part)), Of: of, Lost: lost})
	}
	line(MarkFound, marksFound, found*on(mine.worked))
	line(MarkDecided, marksDecided, on(len(r.Sound) == 0 && mine.worked), r.Sound...)
	line(MarkDone, marksDone, on(r.Right)*(1-eachUndone*float64(len(undone))), undone...)
	proven := 0.0
	if n := mine.read + len(unread); n > 0 && r.Released {
		proven = float64(mine.read) / float64(n)
	}
	line(MarkProven, marksProven, proven, unread...)
	hurts := slices.ContainsFunc(r.Ninety, func(l Line) bool { return l.Kind == string(simulate.Unsafe) })
	line(MarkSafe, marksSafe, on(mine.worked)*on(!r.Released || !hurts)*(1-float64(len(r.Unsafe))/2))
	// Nobody is quick at what is not done.
	line(MarkMinutes, marksMinutes, on(r.Right)*less(r.Yours.Minutes, r.Engine.Minutes, minutesGrace))
	line(MarkTests, marksTests, on(r.Right)*less(float64(r.Yours.Tests), float64(max(1, r.Engine.Tests)), testsGrace))
	for _, m := range r.Marks {
		r.Total += m.Got
	}
	most := func(c Cap, at float64) {
		if r.Total > at {
			r.Total, r.Capped = at, c
		}
	}
	if found == 0 {
		most(CapNotFound, capNotFound)
	}
	if r.Released && hurts {
		most(CapUnsafe, capUnsafe)
	}
	if !mine.worked {
		most(CapNoWork, capNoWork)
	}
	if r.Stopped != "" {
		r.Marks = slices.Clone(r.Marks)
		for i := range r.Marks {
			r.Marks[i].Got = 0
		}
		r.Total, r.Capped = 0, CapStopped
	}
	r.Certified = r.Total >= CertificateLeast
}

// beyond are those of mine that are not among the other's.
func beyond(mine, theirs []string) (out []string) {
	for _, id := range mine {
		if !slices.Contains(theirs, id) {
			out = append(out, id)
		}
	}
	return out
}
