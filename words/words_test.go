package words

import (
	"regexp"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"

	"geminate/brake/bench"
	"geminate/brake/bleed"
	"geminate/brake/diagnose"
	"geminate/brake/job"
	"geminate/brake/match"
	"geminate/brake/plan"
	"geminate/brake/system"
	"geminate/brake/units"
	"geminate/brake/verify"
)

// Every id the core can say must have words, or someone reads an id on the screen.
func TestEveryIDHasWords(t *testing.T) {
	has := func(key string) { assert.True(t, In("en").Has(key), "no words for %s", key) }
	for _, p := range system.Patterns {
		has("pattern." + p.ID)
	}
	for _, f := range diagnose.Faults {
		has("fault_id." + f.ID)
		has("part." + f.Part)
	}
	for _, k := range diagnose.Kinds() {
		has("finding." + k.ID)
		for _, v := range k.Values {
			has("value." + v)
		}
	}
	for _, x := range diagnose.Tests {
		has("test." + x.ID)
		has("test_how." + x.ID)
		for _, g := range x.Gates {
			has("gate_step." + g)
		}
	}
	for _, g := range []string{"release_line_pressure", "isolate_high_voltage"} {
		has("gate_step." + g)
	}
	for _, g := range diagnose.Guides {
		for _, x := range g.Steps {
			has("guide." + x)
		}
		for _, x := range g.Cautions {
			has("guide_caution." + x)
		}
		for _, x := range g.Inputs {
			has("input." + x.ID)
		}
	}
	for _, o := range []diagnose.Origin{diagnose.Named, diagnose.Follows, diagnose.Guess, diagnose.Twin} {
		has("origin." + string(o))
	}
	for _, o := range []string{"electro_hydraulic", "modulator_routine", "modulator_may_take_air"} {
		has("obstacle." + o)
	}
	for _, x := range job.Tools {
		has("tool." + x)
	}
	for a := range diagnose.DefaultCosts().Parts {
		has("action." + a)
	}
	has("action.keep_testing")
	for _, c := range verify.Checks() {
		has("finding." + c)
	}
	for _, s := range job.Stations {
		has("station." + s)
	}
	for _, m := range bleed.Entries {
		has("method." + string(m.ID))
		for _, c := range m.Cautions {
			has("caution." + c)
		}
	}
	for _, o := range bleed.Orders {
		has("order." + string(o))
	}
	for _, x := range bleed.Purposes {
		has("purpose." + string(x))
	}
	for _, x := range bleed.TickedSteps {
		has("bleed_step." + string(x))
	}
	for _, x := range verify.Places {
		has("gate_place." + string(x))
	}
	for _, x := range []string{"modulator", "air", "clearance", "low", "rod", "sinks", "joints", "torque", "bleed", "fluid", "fit", "assist", "codes", "diagnose"} {
		has("back." + x)
	}
	for _, x := range job.LeftWhys {
		has("left_why." + string(x))
	}
	for _, x := range job.Went {
		has("went." + x)
	}
	for _, x := range bleed.CallWords() {
		if x != bleed.CallGoOn {
			has("call." + string(x))
			for _, who := range []bleed.Who{bleed.AtBleeder, bleed.InSeat} {
				has("call_do." + string(who) + "." + string(x))
			}
		}
		if x != bleed.CallIdle {
			has("call_say." + string(x))
		}
	}
	for _, p := range system.Patterns {
		s := p.Build()
		for _, o := range bleed.Offers(&s, bleed.Options{Method: bleed.Pedal, TemperatureC: -20, OldFraction: 0.1, StrokeMM: 13, Order: bleed.Longest}, bleed.Means{Hands: 1, Tools: []string{}}) {
			if o.Why != "" {
				has(o.Why)
			}
		}
	}
	for _, v := range []match.Verdict{match.Same, match.FitsWith, match.ChangesPedal, match.Unknown, match.DoesNotFit} {
		has("verdict." + string(v))
		has("unit_verdict." + string(v))
	}
	assert.Equal(t, bench.Port("top"), bench.Top)
	for _, p := range system.Patterns {
		s := p.Build()
		for _, sc := range match.Scopes(&s) {
			has("scope." + string(sc))
			all := []plan.Feature{}
			for _, why := range plan.AskWhys() {
				has(why)
			}
			for _, f := range plan.Features {
				if f.Can(&s) {
					all = append(all, f.ID)
				}
			}
			for _, c := range planSchools(&s, sc) {
				pl, err := plan.Make(&s, plan.Choices{Scope: sc, Schools: c, Present: &all})
				assert.NoError(t, err)
				for _, st := range pl.Steps {
					has("step." + st.ID)
					if st.Gate {
						has("gate_short." + st.ID)
					}
					for _, x := range st.SingleUse {
						has("item." + x)
					}
					has("phase." + string(st.Phase))
					for _, c := range st.Cautions {
						has("caution." + c)
					}
					for _, x := range st.Tools {
						has("tool." + x)
					}
				}
			}
			for _, i := range match.Kit(&s, sc, &match.Unit{FaceSeal: "o_ring"}, nil, nil) {
				has("item." + i.ID)
				has("how." + i.How)
				has(i.Why)
			}
		}
		for _, i := range verify.Judge(verify.Input{System: &s, Opened: true, NoUnit: true, PlanLeft: 1, OpenWheels: []string{"x"}}).Items {
			has("finding." + i.ID)
			has(i.Code)
		}
	}
}

// planSchools are sets of answers that between them give every answer of every school.
func planSchools(s *system.System, scope match.Scope) (out []map[plan.School]string) {
	for i := range 4 {
		set := map[plan.School]string{}
		for _, e := range plan.Schools {
			if e.Asked(s, scope) {
				set[e.ID] = e.Answers[i%len(e.Answers)]
			}
		}
		out = append(out, set)
	}
	return out
}

func TestTheJointHasWords(t *testing.T) {
	has := func(k string) { t.Helper(); assert.Contains(t, In("en").table, k) }
	for _, f := range plan.Features {
		has("feature." + string(f.ID))
		has("place_at." + f.Place)
	}
	for _, e := range plan.Schools {
		has("school." + string(e.ID))
		for _, a := range e.Answers {
			has("school_answer." + string(e.ID) + "." + a)
			has("school_follows." + string(e.ID) + "." + a)
		}
	}
	for _, p := range job.SmallPlaces {
		has("small_place." + p)
	}
	for _, p := range job.SmallParts {
		has("small_part." + p)
	}
	for _, c := range job.Clocks() {
		has("clock." + string(c))
	}
	for _, v := range []units.TorqueVerdict{units.TorqueOK, units.TorqueLow, units.TorqueHigh, units.TorqueTwelveHigh, units.TorqueTwelveLow, units.TorqueInchAsNM, units.TorqueNMAsInch, units.TorqueFootAsNM, units.TorqueNMAsFoot} {
		has("torque." + string(v))
	}
}

// A placeholder left standing means the core and the words disagree on a name.
func TestPlaceholdersAreNames(t *testing.T) {
	name := regexp.MustCompile(`\{[a-z0-9_]+\}`)
	brace := regexp.MustCompile(`\{[^}]*\}`)
	for k, v := range In("en").table {
		for _, m := range brace.FindAllString(v, -1) {
			assert.True(t, name.MatchString(m), "%s: %s", k, m)
		}
		assert.NotRegexp(t, `[@|]`, v, "the web app's reader gives @ and | a meaning: "+k)
	}
}

func TestFiguresInAPersonsUnits(t *testing.T) {
	with := map[string]any{"travel_mm": 25.4, "pedal_force_n": 200.0, "low_mm": 1.0, "high_mm": 2.0}
	assert.Equal(t, "25.4 mm at 200 N: the twin expects 1.0 mm to 2.0 mm. Too long: air, clearance or bore.",
		In("en").Say("gate.readings.long", with, "metric"))
	assert.Contains(t, In("en").Say("gate.readings.long", with, "us"), "1.000 in at 45 lbf")
	assert.Contains(t, In("en").Say("gate.readings.long", with, "both"), "25.4 mm (1.000 in)")
	assert.Equal(t, "−0.25 mm", In("en").By("gap_mm", -0.25, "metric"))
	assert.Equal(t, "no.such.key", T("no.such.key", nil))
	assert.Equal(t, "$.a: is missing", Fault(system.Fault{Path: "$.a", Code: "fault.missing"}))
}

var letters = regexp.MustCompile(`\p{L}{2,}`)

var filledIn = regexp.MustCompile(`\{(\w+)\}`)

// Every language says everything, with the same figures filled in, and nothing of it is left in English: what may be
// alike in two languages is named.
func TestEveryLanguageIsComplete(t *testing.T) {
	en := In("en")
	for _, lang := range Languages[1:] {
		alike := 0
		b := In(lang)
		if b.Of == Languages[0] {
			continue // says only what it says otherwise
		}
		assert.Len(t, b.table, len(en.table), lang)
		for key, text := range en.table {
			other, there := b.table[key]
			if !assert.True(t, there, "%s has no words for %s", lang, key) {
				continue
			}
			names := func(s string) []string {
				var out []string
				for _, m := range filledIn.FindAllStringSubmatch(s, -1) {
					out = append(out, m[1])
				}
				slices.Sort(out)
				return out
			}
			assert.Equal(t, names(text), names(other), "%s: %s", lang, key)
			assert.NotEmpty(t, strings.TrimSpace(other), "%s: %s", lang, key)
			bare := strings.TrimSpace(filledIn.ReplaceAllString(text, ""))
			if text == other && len(letters.FindAllString(bare, -1)) > 1 && !strings.HasPrefix(key, "units.") {
				t.Errorf("%s: %s is still English: %s", lang, key, text)
			}
			if text == other {
				alike++
			}
		}
		assert.Less(t, alike, 60, "too much of %s is alike to be translated", lang)
	}
}

// A way of speaking says only what it says otherwise, of keys its language has.
func TestAWayOfSpeakingSaysOnlyWhatIsOtherwise(t *testing.T) {
	ways := 0
	for _, b := range books {
		if b.Of == "" {
			continue
		}
		ways++
		var own map[string]string
		read(b.ID+".json", &own)
		assert.NotEmpty(t, own)
		for key, text := range own {
			base, there := books[b.Of].table[key]
			assert.True(t, there, "%s: %s is no key", b.ID, key)
			assert.NotEqual(t, base, text, "%s: %s is said no otherwise", b.ID, key)
		}
	}
	assert.Equal(t, 2, ways)
	assert.Equal(t, "Tyre radius", In("en-GB").T("field.vehicle.tire_radius_mm", nil))
	assert.Equal(t, "Latiguillo que se hincha", In("es-ES").T("fault_id.circuit.hose_expands", nil))
	assert.Equal(t, In("es").T("ui.store", nil), In("es-ES").T("ui.store", nil))
}

func TestAFigureAndADayAreWrittenAsTheLanguageHasThem(t *testing.T) {
	day := time.Date(2026, 1, 5, 9, 30, 0, 0, time.UTC)
	assert.Equal(t, "12.5 mm", In("en").By("travel_mm", 12.5, "metric"))
	assert.Equal(t, "12,5 mm", In("es").By("travel_mm", 12.5, "metric"))
	assert.Equal(t, "5 Jan 2026", In("en").Day(day))
	assert.Equal(t, "5 ene 2026", In("es").DayOf("2026-01-05"))
	assert.Equal(t, "soon", In("es").DayOf("soon"))
	assert.Equal(t, "5 Jan 2026 09:30 UTC", In("").Moment(day), "English where the language is not known")
}

func TestOneOfAThingAndTheNamesOfWheels(t *testing.T) {
	assert.Equal(t, "1 stroke", In("en").T("ui.n_strokes", map[string]any{"n": 1}))
	assert.Equal(t, "3 strokes", In("en").T("ui.n_strokes", map[string]any{"n": 3}))
	assert.Equal(t, "Rueda TD", In("es").T("ui.wheel", map[string]any{"id": "RR"}))
	assert.Equal(t, "DI, TI", In("es").Wheels("LF, LR"))
	assert.Equal(t, "REAR A", In("es").Wheels("REAR A"), "a wheel's id stands alone")
	assert.Equal(t, "LF", In("en").Wheels("LF"))
}
