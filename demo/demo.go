// Package demo holds the made-up shop of demo mode: people, vehicles, units and jobs. None of them
// exists.
package demo

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"time"

	"github.com/google/uuid"

	"geminate/brake/job"
	"geminate/brake/match"
	"geminate/brake/plan"
	"geminate/brake/stand"
	"geminate/brake/system"
	"geminate/server"
	"geminate/store"
)

// Accounts are offered on the sign-in page of demo mode.
var Accounts = []server.DemoAccount{
	{Name: "mara", Display: "Mara Oduya", Role: job.Technician},
	{Name: "piet", Display: "Piet Lindqvarn", Role: job.Lead},
	{Name: "sunny", Display: "Sunny Aruel", Role: job.Trainee},
}

func f(x float64) *float64 { return &x }

func ports(frontThread, frontSeat, side, rearThread string) []match.Port {
	return []match.Port{
		{Position: "front", Side: side, Thread: frontThread, Seat: frontSeat, Circuit: "B"},
		{Position: "rear", Side: side, Thread: rearThread, Seat: frontSeat, Circuit: "A"},
	}
}

// OldPickupUnit is what the demo pickup has now, measured.
func OldPickupUnit() match.Unit {
	return match.Unit{
		ID:            "old",
		Maker:         "",
		Number:        "",
		BoreMM:        f(26.9875),
		StrokeMM:      f(38),
		Ports:         ports("3/8-24", "inverted_flare", "left", "7/16-24"),
		StudSpacingMM: f(85),
		Studs:         2,
		PocketMM:      f(12.4),
		FaceSeal:      "o_ring",
		Sensor:        "two_pin",
		Variant:       "plain",
		ResidualMPA:   f(0),
		Reservoir:     "included",
		Brakes:        "disc_drum",
		Contents:      []string{},
	}
}

// Units are the shelf.
func Units() []match.Unit {
	base := func(id, maker, number string, change func(*match.Unit)) match.Unit {
		u := OldPickupUnit()
		u.ID, u.Maker, u.Number, u.Condition = id, maker, number, "new"
		u.Contents = []string{"reservoir", "level_sensor", "reservoir_grommets", "port_caps"}
		u.Price, u.Core = 148, 30
		change(&u)
		return u
	}
	return []match.Unit{
		base("vk-1063", "Valkenried", "VK 1063", func(*match.Unit) {}),
		base("vk-1063-m", "Valkenried", "VK 1063 M", func(u *match.Unit) { // the look-alike: one small letter apart
			u.Variant, u.Price = "abs", 156
		}),
		base("oro-88", "Orosten", "88-270", func(u *match.Unit) {
			u.Ports = ports("M10x1", "bubble", "left", "M12x1")
			u.PocketMM, u.Sensor, u.Price = f(13.6), "three_pin", 112
		}),
		base("tam-118", "Tamberline", "T118", func(u *match.Unit) {
			u.BoreMM, u.StrokeMM, u.Price = f(28.575), f(38), 139
			u.Contents = []string{"level_sensor", "port_caps"}
			u.Reservoir = "reuse"
		}),
		base("vk-1063-r", "Valkenried", "VK 1063 R", func(u *match.Unit) {
			u.Condition, u.Price, u.Contents = "rebuilt", 84, []string{"port_caps"}
			u.Reservoir = "reuse"
			u.ResidualMPA = nil
		}),
		base("bru-40", "Hennequist", "HQ 40 trailer", func(u *match.Unit) {
			u.BoreMM, u.StrokeMM = f(22.225), f(38)
			u.Ports = []match.Port{{Position: "rear", Side: "left", Thread: "1/2-20", Seat: "inverted_flare", Circuit: "A"}}
			u.StudSpacingMM, u.Studs, u.PocketMM, u.FaceSeal, u.Sensor = f(120.65), 2, f(8), "none", "none"
			u.ResidualMPA, u.Price, u.Contents, u.Brakes = f(0.07), 96, []string{"reservoir"}, "drum"
		}),
	}
}

// CatalogueSize is how many made-up units the demo's catalogue holds beside the shelf.
const CatalogueSize = 3000

// LoadWith fills an empty database with the demo shop, with a catalogue of so many units and so many jobs of the years
// before; one that has accounts already is left alone.
func LoadWith(ctx context.Context, st *store.Store, now time.Time, units, years int) error {
	n, err := st.Users(ctx)
	if err != nil || n > 0 {
		return err
	}
	for _, a := range Accounts {
		// No password opens these accounts: they come in by the click demo mode offers.
		u := &store.User{
			ID:           "demo-" + a.Name,
			Name:         a.Name,
			Display:      a.Display,
			Role:         a.Role,
			PasswordHash: "none",
			Units:        "metric",
			Theme:        "day",
			CreatedAt:    now.UTC(),
		}
		if err := st.AddUser(ctx, u); err != nil && !errors.Is(err, store.ErrTaken) {
			return err
		}
	}
	if err := st.PutUnits(ctx, append(Units(), HydraulicUnit())); err != nil {
		return err
	}
	if err := st.ImportUnits(ctx, Catalogue(units), nil); err != nil {
		return err
	}
	if err := loadHistory(ctx, st, years, now); err != nil {
		return err
	}
	jobs, err := Jobs(now)
	if err != nil {
		return err
	}
	for i := range jobs {
		if err := st.AddJob(ctx, jobs[i].Job, jobs[i].Events, nil); err != nil {
			return fmt.Errorf("demo job: %w", err)
		}
	}
	return nil
}

// Jobs are the jobs in the demo bay: the pickup whose pedal sinks, a booster job, a trailer.
func Jobs(now time.Time) ([]*job.Book, error) {
	trailer, err := start(
		now.Add(-30*time.Hour),
		"trailer-surge",
		job.Intake{Customer: "Hollin Farm", Vehicle: "Tandem stock trailer", Plate: "TR 4-118", DistanceKM: 0,
			Complaint: "Brakes do nothing since it stood out over the winter."},
		nil,
		finding{"brakes.weak", `"all"`},
		finding{"history.since", `["stood_outdoors"]`},
	)
	if err != nil {
		return nil, err
	}
	saloon, err := start(
		now.Add(-5*time.Hour),
		"car-front-rear-vacuum",
		job.Intake{
			Customer:      "R. Teasdell",
			Vehicle:       "Marrow 1.8 saloon",
			Plate:         "KX 61 PLD",
			DistanceKM:    148300,
			LastServiceAt: "2024-10-02",
			LastServiceKM: 121000,
			Complaint:     "Hard pedal, hiss under the dash when braking, worst first thing in the morning.",
		},
		func(c *job.Choices) { c.Scope = match.BoosterAside },
		finding{
			"pedal.hard",
			`"always"`,
		},
		finding{"sound.rush_of_air", `"cold_only"`},
		finding{"vacuum.at_hose_kpa", `64`},
		finding{"assist.pedal_falls_on_start", `"no"`},
	)
	if err != nil {
		return nil, err
	}
	pickup, err := start(
		now.Add(-40*time.Minute),
		"pickup-front-rear-vacuum",
		job.Intake{Customer: "J. Arkwell, Stonefold Dairy", Vehicle: "Corrigan half-ton pickup", Plate: "8TK 2204", DistanceKM: 212400,
			LastServiceAt: "2023-05-11", LastServiceKM: 171000, DoneBefore: "Pads and drums last year. Topped up never.",
			Complaint: "At the lights the pedal slowly sinks under my foot. Fluid is full.", Hands: 2,
			Tools: &[]string{"vacuum_gauge", "line_plugs", "pedal_force_gauge", "depth_gauge", "water_tester"}},
		func(c *job.Choices) {
			old := OldPickupUnit()
			c.Old = &old
		},
	)
	if err != nil {
		return nil, err
	}
	diesel, err := midBooster(now.Add(-3 * time.Hour))
	if err != nil {
		return nil, err
	}
	return []*job.Book{trailer, saloon, diesel, pickup}, nil
}

// HydraulicUnit is the booster that goes onto the demo's diesel pickup.
func HydraulicUnit() match.Unit {
	return match.Unit{
		ID:            "kes-h5",
		Kind:          match.HydraulicBooster,
		Maker:         "Kessandra",
		Number:        "KH 5-20",
		Condition:     "rebuilt",
		Ports:         []match.Port{},
		StudSpacingMM: f(85),
		Studs:         2,
		FaceSeal:      "o_ring",
		Contents:      []string{"firewall_gasket", "pressure_o_rings"},
		Price:         265,
		Core:          80,
		Booster: &match.BoosterSpec{
			FirewallStuds:     4,
			FirewallSpacingMM: f(84),
			ShellMM:           f(225),
			PowerAreaMM2:      f(1150),
			Ratio:             f(6),
			PressureThread:    "M16x1.5",
			ReturnMM:          f(9.5),
			RodThread:         "M10x1.5",
		},
	}
}

// midBooster is a job that stands in the middle of the work: the booster is out and the small parts lie in their order.
func midBooster(at time.Time) (*job.Book, error) {
	unit := HydraulicUnit()
	b, err := start(
		at,
		"pickup-hydraulic",
		job.Intake{
			Customer:      "Ellerby Haulage",
			Vehicle:       "Tarn diesel pickup",
			Plate:         "9KE 4471",
			DistanceKM:    301200,
			LastServiceAt: "2024-03-20",
			LastServiceKM: 262000,
			Complaint:     "Booster groans at every stop and weeps at the firewall; pedal hard when parking.",
			Hands:         2,
		},
		func(c *job.Choices) {
			c.Scope, c.Booster = match.BoosterAside, &unit
			c.Joint = &job.JointSetup{
				Present: &[]plan.Feature{
					plan.SecondBattery,
					plan.LevelSensor,
					plan.ReturnSnap,
					plan.RodCoupler,
					plan.LampSwitch,
					plan.PressurePlate,
				},
			}
		},
		finding{"pedal.hard", `"first_applies"`},
	)
	if err != nil {
		return nil, err
	}
	view, err := b.Job.Replace()
	if err != nil {
		return nil, err
	}
	tell := func(k job.Kind, body any) error {
		at = at.Add(2 * time.Minute)
		return b.Tell(teller, at.Add(30*time.Minute), uuid.NewString(), k, body)
	}
	for _, s := range view.Plan.Steps {
		if s.Phase == plan.SetRod {
			break
		}
		if s.ID == "strip.pedal_end" {
			for _, part := range []string{"spring_clip", "washer", "lamp_switch"} {
				if err := tell(job.KindPartOff, job.PartOff{Place: stand.AtPedal, Part: part}); err != nil {
					return nil, err
				}
			}
		}
		if err := tell(job.KindTick, job.Ticked{Step: s.ID, Compared: compared(view, s.ID)}); err != nil {
			return nil, err
		}
	}
	return b, tell(job.KindNote, job.Noted{Step: "strip.pressure_lines", Text: "Return hose is hard as wood: new one ordered."})
}

// compared are the points held side by side at the step that asks for them.
func compared(v *job.ReplaceView, step string) []string {
	if step != "prepare.compare_on_bench" {
		return nil
	}
	return v.Unmeasured
}

type finding struct{ id, value string }

// teller is who opened the demo's jobs and took their first readings.
var teller = job.Actor{ID: "demo-mara", Name: "Mara Oduya", Role: job.Technician}

// start opens a job at a moment and tells what was found, one reading a minute.
func start(at time.Time, pattern string, in job.Intake, choose func(*job.Choices), found ...finding) (*job.Book, error) {
	at = at.UTC().Truncate(time.Millisecond)
	s, err := system.FromPattern(pattern)
	if err != nil {
		return nil, err
	}
	in.Pattern, in.System, in.Hands = pattern, s, max(1, in.Hands)
	c := job.DefaultChoices(s)
	if choose != nil {
		choose(&c)
	}
	b, err := job.OpenBook(teller, at, job.Opening{ID: uuid.NewString(), EventID: uuid.NewString(), Intake: in, Choices: &c})
	if err != nil {
		return nil, err
	}
	for _, f := range found {
		at = at.Add(time.Minute)
		err := b.Tell(teller, at, uuid.NewString(), job.KindFinding,
			job.FindingMade{Phase: job.PhaseDiagnose, Finding: f.id, Value: json.RawMessage(f.value)})
		if err != nil {
			return nil, err
		}
	}
	return b, nil
}
