package demo

import (
	"fmt"
	"math/rand/v2"
	"time"

	"geminate/brake/match"
	"geminate/instrument"
)

// makers of the demo catalogue; none of them exists.
var makers = []string{"Valkenried", "Orosten", "Tamberline", "Hennequist", "Ostrelune", "Kessandra", "Pellavine", "Dorrigan & Voss"}

// Catalogue makes n invented units, the same every time: cylinders of every common size and face, with now
// and then the small difference that makes a look-alike, and boosters of every kind.
func Catalogue(n int) []match.Unit {
	r := rand.New(rand.NewPCG(2026, 11))
	pick := func(list []string) string { return list[r.IntN(len(list))] }
	num := func(x float64) *float64 { return &x }
	whole := func(x int) *int { return &x }
	yes := func(x bool) *bool { return &x }
	out := make([]match.Unit, 0, n)
	for i := 0; len(out) < n; i++ {
		maker := makers[i%len(makers)]
		u := match.Unit{
			ID:        fmt.Sprintf("cat-%05d", i),
			Maker:     maker,
			Number:    fmt.Sprintf("%c%d-%03d", maker[0], 100+r.IntN(900), i%1000),
			Condition: pick([]string{"new", "new", "rebuilt"}),
			Contents: []string{
				"port_caps",
			},
			Ports:       []match.Port{},
			Price:       float64(70 + r.IntN(190)),
			Core:        float64(10 * r.IntN(5)),
			Rebuildable: yes(r.IntN(3) > 0),
		}
		if i%5 == 4 {
			booster(&u, r, num, pick)
			out = append(out, u)
			continue
		}
		b := match.StandardBores[3+r.IntN(9)]
		stroke := 30 + float64(r.IntN(12))
		metric := r.IntN(2) == 0
		threads, seat := []string{"3/8-24", "7/16-24"}, "inverted_flare"
		if metric {
			threads, seat = []string{"M10x1", "M12x1"}, "bubble"
		}
		side := pick([]string{"left", "left", "right"})
		u.BoreMM, u.StrokeMM = num(b.MM), num(stroke)
		u.Ports = []match.Port{
			{Position: "front", Side: side, Thread: threads[0], Seat: seat, Circuit: "B"},
			{Position: "rear", Side: side, Thread: threads[1], Seat: seat, Circuit: "A"},
		}
		u.Studs, u.StudSpacingMM, u.PocketMM = 2, num(
			[]float64{74, 80, 85, 85, 92, 98}[r.IntN(6)],
		), num(
			[]float64{8.6, 10.2, 12.4, 12.4, 14.1, 17.5}[r.IntN(6)],
		)
		u.FaceSeal, u.Sensor, u.Variant, u.Reservoir = pick(
			[]string{"o_ring", "o_ring", "gasket"},
		), pick(
			[]string{"two_pin", "two_pin", "three_pin"},
		), pick(
			[]string{"plain", "plain", "abs"},
		), pick(
			[]string{"included", "reuse"},
		)
		u.ResidualMPA, u.Brakes, u.Material, u.RemotePorts = num(
			0,
		), pick(
			[]string{"disc_drum", "disc_drum", "disc"},
		), pick(
			[]string{"aluminium", "iron"},
		), whole(
			0,
		)
		if u.Reservoir == "included" {
			u.Contents = append(u.Contents, "reservoir", "reservoir_grommets", "level_sensor")
		}
		out = append(out, u)
	}
	return out
}

func booster(u *match.Unit, r *rand.Rand, num func(float64) *float64, pick func([]string) string) {
	u.Price, u.Studs, u.StudSpacingMM, u.FaceSeal = u.Price+90, 2, num([]float64{80, 85, 85, 92}[r.IntN(4)]), "o_ring"
	b := &match.BoosterSpec{
		FirewallStuds:     4,
		FirewallSpacingMM: num([]float64{70, 76, 84, 95}[r.IntN(4)]),
		RodThread:         pick([]string{"M10x1.5", "3/8-24 rod"}),
		ProtrusionMM:      num(11 + float64(r.IntN(5))),
	}
	u.Booster = b
	if r.IntN(3) > 0 {
		u.Kind, u.Contents = match.VacuumBooster, []string{"check_valve", "check_valve_grommet", "firewall_gasket"}
		size := []struct{ shell, area, ratio float64 }{{205, 27500, 4.2}, {230, 38000, 5}, {255, 43000, 5.5}, {280, 62000, 6}}[r.IntN(4)]
		b.ShellMM, b.EffectiveAreaMM2, b.Ratio, b.CheckValve = num(
			size.shell,
		), num(
			size.area,
		), num(
			size.ratio,
		), pick(
			[]string{"left", "right", "top"},
		)
		return
	}
	u.Kind, u.Contents = match.HydraulicBooster, []string{"firewall_gasket", "pressure_o_rings"}
	b.ShellMM, b.PowerAreaMM2, b.Ratio, b.PressureThread, b.ReturnMM = num(
		215+10*float64(r.IntN(3)),
	), num(
		[]float64{1150, 1900}[r.IntN(2)],
	), num(
		[]float64{6, 7}[r.IntN(2)],
	), pick(
		[]string{"M16x1.5", "M18x1.5"},
	), num(
		9.5,
	)
}

// Counter is the demo shop's supplier: a third of a second slow, and silent once in eight times.
func Counter() *instrument.Counter {
	c := &instrument.Counter{Delay: 350 * time.Millisecond, FailRate: 0.12, Known: map[string]instrument.Offer{}}
	for i, u := range Units() {
		c.Known[u.Number] = instrument.Offer{
			Number:   u.Number,
			Stock:    (i + 2) % 4,
			LeadDays: i % 3,
			Price:    u.Price + float64(i%2)*4,
			Core:     u.Core,
		}
	}
	return c
}
