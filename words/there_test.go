package words

import (
	"regexp"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"geminate/brake/bleed"
	"geminate/brake/diagnose"
	"geminate/brake/job"
	"geminate/brake/match"
	"geminate/brake/plan"
	"geminate/brake/system"
)

// speak are the words by which a text speaks of a thing; where a vehicle has no such thing nothing that it is shown has
// them.
var speak = map[system.Trait]*regexp.Regexp{
	system.HasFoot:         regexp.MustCompile(`(?i)\b(foot|feet|pedal|seat)\b`),
	system.HasHood:         regexp.MustCompile(`(?i)\b(hood|cabin|cowl|firewall|carpet|steering)\b`),
	system.HasParkingBrake: regexp.MustCompile(`(?i)\bparking brake\b`),
	system.HasBrakes:       regexp.MustCompile(`(?i)\b(brakes|caliper|pads|shoes|wheels?)\b`),
	system.HasCoupler:      regexp.MustCompile(`(?i)\b(the coupler|trailer|breakaway)\b`),
	system.HasClutch:       regexp.MustCompile(`(?i)\bclutch\b`),
	system.HasBooster:      regexp.MustCompile(`(?i)\b(booster|assist)\b`),
	system.HasVacuum:       regexp.MustCompile(`(?i)\b(diaphragm|check valve)\b`),
	system.HasSteering:     regexp.MustCompile(`(?i)\b(steering side|power steering)\b`),
	system.HasModulator:    regexp.MustCompile(`(?i)\bmodulator\b`),
}

// everywhere are texts of the page that are shown of any vehicle, with a word in them that not every vehicle has the
// thing of.
var everywhere = []string{
	"ui.wheel",
	"ui.all_bled",
	"ui.which_wheels",
	"ui.only_these",
	"ui.all_wheels",
	"ui.steps_left",
	"ui.pedal_after",
	"ui.travel_at",
	"ui.schematic",
	"ui.system",
	"ui.pattern",
	"ui.last_service",
	"ui.plot_pedal",
	"ui.force",
	"ui.travel",
	"ui.lost_opening",
	"ui.drain_note",
	"ui.drain_first",
	"ui.poured_wrong_note",
	"ui.ran_dry",
	"ui.opened_note",
	"ui.wheel_head",
	"ui.performance",
	"ui.perf_foot",
	"ui.perf_travel",
	"ui.face",
	"ui.twin_foot",
	"ui.hands_2",
	"ui.maker_order",
	"ui.which_wheel",
	"ui.firm_how",
	"ui.firm_travel",
	"ui.pump_how",
	"ui.hold_start",
	"ui.hold_end",
	"ui.sink_is",
	"ui.bubbles_stuck",
	"sheet.title",
	"sheet.curve",
	"waits.wheel",
	"gate.bleed.ok",
	"gate.bleed.undone",
	"caution.safety",
	"caution.no_driving",
	"verdict.changes_pedal",
	"unit_verdict.changes_pedal",
	"clock.hold",
	"clock.wheel",
	"gate_place.wheels",
	"gate_place.engine_off",
	"match.bore.larger",
	"match.bore.smaller",
	"method_why.too_slow",
	"ui.cutaway",
	"ui.pedal_gains",
}

var named = regexp.MustCompile(`\{\w+\}`)

// shown gathers the keys of what a vehicle is shown: signs and their values, faults, steps, cautions, parts, ways to
// bleed, the gate.
func shown(t *testing.T, pattern string) map[string]bool {
	t.Helper()
	keys := map[string]bool{}
	add := func(begins string, ids ...string) {
		for _, id := range ids {
			keys[begins+id] = true
		}
	}
	s, err := system.FromPattern(pattern)
	require.NoError(t, err)
	for _, k := range diagnose.Kinds() {
		if !diagnose.SignShows(s, k.ID) {
			continue
		}
		add("finding.", k.ID)
		add("where.", string(k.Where))
		for _, v := range diagnose.ValuesOf(s, k.Values) {
			add("value.", v)
		}
	}
	for _, f := range diagnose.Faults {
		if diagnose.CanHave(s, f.ID) {
			add("fault_id.", f.ID)
		}
	}
	for _, scope := range match.Scopes(s) {
		add("scope.", string(scope))
		c := job.DefaultChoices(s)
		c.Scope = scope
		b, err := job.OpenBook(
			job.Actor{ID: "u", Name: "M", Role: job.Lead},
			time.Now(),
			job.Opening{
				ID:      "j",
				EventID: "o",
				Choices: &c,
				Intake:  job.Intake{Complaint: "-", Vehicle: "V", Pattern: pattern, System: s, Hands: 2},
			},
		)
		require.NoError(t, err)
		p, err := b.Plan()
		require.NoError(t, err)
		for _, st := range p.Steps {
			add("step.", st.ID)
			for _, c := range st.Cautions {
				add("caution.", c)
			}
		}
		for _, f := range plan.Here(s, nil, nil) {
			add("feature.", string(f))
		}
		m, err := b.Match(t.Context(), nil, time.Now())
		require.NoError(t, err)
		for _, i := range m.Kit {
			add("item.", i.ID)
		}
		v, err := b.Bleed()
		require.NoError(t, err)
		for _, o := range v.Offers {
			if o.Possible {
				add("method.", string(o.ID))
				add("caution.", o.Cautions...)
			}
		}
		for _, st := range v.Steps {
			if st.Wheel == "" {
				add("bleed_step.", string(st.ID))
			}
		}
		g, err := b.Gate()
		require.NoError(t, err)
		for _, i := range g.Items {
			add("finding.", i.ID)
			add("gate_short.", i.ID)
		}
	}
	if s.VehicleKind() != system.Trailer {
		for _, w := range bleed.CallWords() {
			add("call.", string(w))
			add("call_do.seat.", string(w))
			add("call_do.bleeder.", string(w))
		}
	}
	add("", everywhere...)
	return keys
}

// Found: a trailer was asked of its seat, its hood and its booster, a clutch of brakes that drag. Whatever a vehicle
// has not got, no text it is shown speaks of.
func TestNoTextSpeaksOfWhatIsNotThere(t *testing.T) {
	for _, pattern := range system.Patterns {
		s := pattern.Build()
		book := In("en").For(&s)
		for key := range shown(t, pattern.ID) {
			if !book.Has(key) {
				continue
			}
			for trait, words := range speak {
				if !s.Has(trait) {
					assert.NotRegexp(t, words, named.ReplaceAllString(book.T(key, nil), ""), "%s: %s", pattern.ID, key)
				}
			}
		}
	}
}
