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
	"geminate/brake/system"
	"geminate/server"
	"geminate/store"
)

// Accounts are offered on the sign-in page of demo mode.
var Accounts = []server.DemoAccount{
	{Name: "mara", Display: "Mara Oduya", Role: store.RoleTechnician},
	{Name: "piet", Display: "Piet Lindqvarn", Role: store.RoleLead},
	{Name: "sunny", Display: "Sunny Aruel", Role: store.RoleTrainee},
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
	return match.Unit{ID: "old", Maker: "", Number: "", BoreMM: f(26.9875), StrokeMM: f(38), Ports: ports("3/8-24", "inverted_flare", "left", "7/16-24"),
		StudSpacingMM: f(85), Studs: 2, PocketMM: f(12.4), FaceSeal: "o_ring", Sensor: "two_pin", Variant: "plain", ResidualMPA: f(0), Reservoir: "included", Brakes: "disc_drum", Contents: []string{}}
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
		base("bru-40", "Brunnwick", "BW 40 trailer", func(u *match.Unit) {
			u.BoreMM, u.StrokeMM = f(22.225), f(38)
			u.Ports = []match.Port{{Position: "rear", Side: "left", Thread: "1/2-20", Seat: "inverted_flare", Circuit: "A"}}
			u.StudSpacingMM, u.Studs, u.PocketMM, u.FaceSeal, u.Sensor = f(120.65), 2, f(8), "none", "none"
			u.ResidualMPA, u.Price, u.Contents, u.Brakes = f(0.07), 96, []string{"reservoir"}, "drum"
		}),
	}
}

// catalogueSize is how many made-up units the demo's catalogue holds beside the shelf.
const catalogueSize = 3000

// Load fills an empty database with the demo shop; one that has accounts already is left alone.
func Load(ctx context.Context, st *store.Store, now time.Time) error {
	return LoadWith(ctx, st, now, catalogueSize)
}

// LoadWith is Load with a catalogue of another size.
func LoadWith(ctx context.Context, st *store.Store, now time.Time, units int) error {
	n, err := st.Users(ctx)
	if err != nil || n > 0 {
		return err
	}
	for _, a := range Accounts {
		// A password no one knows: these accounts come in by the click demo mode offers.
		hash, err := server.HashPassword(uuid.NewString())
		if err != nil {
			return err
		}
		u := &store.User{ID: uuid.NewString(), Name: a.Name, Display: a.Display, Role: a.Role, PasswordHash: hash, Units: "metric", Theme: "day", CreatedAt: now.UTC()}
		if err := st.AddUser(ctx, u); err != nil && !errors.Is(err, store.ErrTaken) {
			return err
		}
	}
	if err := st.PutUnits(ctx, Units()); err != nil {
		return err
	}
	if err := st.ImportUnits(ctx, Catalogue(units), nil); err != nil {
		return err
	}
	jobs, err := Jobs(now)
	if err != nil {
		return err
	}
	for i := range jobs {
		if err := st.AddJob(ctx, &jobs[i]); err != nil {
			return fmt.Errorf("demo job: %w", err)
		}
	}
	return nil
}

// Jobs are the jobs in the demo bay: the pickup whose pedal sinks, a booster job, a trailer.
func Jobs(now time.Time) ([]job.Job, error) {
	now = now.UTC().Truncate(time.Millisecond)
	start := func(pattern string, in job.Intake, ago time.Duration) (job.Job, error) {
		s, err := system.FromPattern(pattern)
		if err != nil {
			return job.Job{}, err
		}
		in.Pattern, in.System, in.Hands = pattern, s, max(1, in.Hands)
		return job.Job{Format: job.Format, ID: uuid.NewString(), CreatedAt: now.Add(-ago), Intake: in, Choices: job.DefaultChoices(s), Events: []job.Event{}}, nil
	}
	find := func(j *job.Job, id, value string) {
		j.Events = append(j.Events, job.Event{ID: uuid.NewString(), Kind: job.KindFinding, At: j.CreatedAt.Add(time.Duration(len(j.Events)+1) * time.Minute), By: "Mara Oduya",
			Data: job.Data{Phase: job.PhaseDiagnose, Finding: id, Value: json.RawMessage(value)}})
	}
	trailer, err := start("trailer-surge", job.Intake{Customer: "Hollin Farm", Vehicle: "Tandem stock trailer", Plate: "TR 4-118", DistanceKM: 0,
		Complaint: "Brakes do nothing since it stood out over the winter."}, 30*time.Hour)
	if err != nil {
		return nil, err
	}
	find(&trailer, "brakes.weak", `"all"`)
	find(&trailer, "history.since", `["stood_outdoors"]`)

	saloon, err := start("car-front-rear-vacuum", job.Intake{Customer: "R. Teasdell", Vehicle: "Marrow 1.8 saloon", Plate: "KX 61 PLD", DistanceKM: 148300, LastServiceAt: "2024-10-02", LastServiceKM: 121000,
		Complaint: "Hard pedal, hiss under the dash when braking, worst first thing in the morning.", Hands: 1}, 5*time.Hour)
	if err != nil {
		return nil, err
	}
	find(&saloon, "pedal.hard", `"always"`)
	find(&saloon, "sound.rush_of_air", `"cold_only"`)
	find(&saloon, "vacuum.at_hose_kpa", `64`)
	find(&saloon, "assist.pedal_falls_on_start", `"no"`)
	saloon.Choices.Scope = match.BoosterAside

	pickup, err := start("pickup-front-rear-vacuum", job.Intake{Customer: "J. Arkwell, Stonefold Dairy", Vehicle: "Corrigan 150 half-ton pickup", Plate: "8TK 2204", DistanceKM: 212400,
		LastServiceAt: "2023-05-11", LastServiceKM: 171000, DoneBefore: "Pads and drums last year. Topped up never.",
		Complaint: "At the lights the pedal slowly sinks under my foot. Fluid is full.", Hands: 2,
		Tools: &[]string{"vacuum_gauge", "line_plugs", "pedal_force_gauge", "depth_gauge", "water_tester"}}, 40*time.Minute)
	if err != nil {
		return nil, err
	}
	old := OldPickupUnit()
	pickup.Choices.Old = &old
	return []job.Job{trailer, saloon, pickup}, nil
}
