package catalogue

import (
	"fmt"
	"slices"
	"strconv"
	"strings"

	"geminate/brake/match"
)

// column is one column of the table: its name, and how a unit gives and takes it.
type column struct {
	name string
	what string // for the page of formats
	get  func(*match.Unit) string
	set  func(*match.Unit, string) error
}

func findColumn(name string) *column {
	for i := range columns {
		if columns[i].name == name {
			return &columns[i]
		}
	}
	return nil
}

func text(name, what string, at func(*match.Unit) *string) column {
	return column{name, what, func(u *match.Unit) string { return *at(u) }, func(u *match.Unit, s string) error { *at(u) = s; return nil }}
}

func parse(s string) (float64, error) {
	x, err := strconv.ParseFloat(s, 64)
	if err != nil || x != x || x > 1e12 || x < -1e12 {
		return 0, fmt.Errorf("not a number")
	}
	return x, nil
}

func figure(name, what string, at func(*match.Unit) **float64) column {
	return column{
		name,
		what,
		func(u *match.Unit) string { return number(*at(u)) },
		func(u *match.Unit, s string) error {
			x, err := parse(s)
			*at(u) = &x
			return err
		},
	}
}

func plain(name, what string, at func(*match.Unit) *float64) column {
	return column{
		name,
		what,
		func(u *match.Unit) string {
			if *at(u) == 0 {
				return ""
			}
			return number(at(u))
		},
		func(u *match.Unit, s string) (err error) { *at(u), err = parse(s); return err },
	}
}

func whole(name, what string, at func(*match.Unit) *int) column {
	return column{
		name,
		what,
		func(u *match.Unit) string {
			if *at(u) == 0 {
				return ""
			}
			return strconv.Itoa(*at(u))
		},
		func(u *match.Unit, s string) (err error) {
			if *at(u), err = strconv.Atoi(s); err != nil {
				return fmt.Errorf("not a whole number")
			}
			return nil
		},
	}
}

// port is one of a port's four columns; the port is made when the first of them is filled.
func port(position, part, what string, at func(*match.Port) *string) column {
	find := func(u *match.Unit) *match.Port {
		if i := slices.IndexFunc(u.Ports, func(p match.Port) bool { return p.Position == position }); i >= 0 {
			return &u.Ports[i]
		}
		return nil
	}
	return column{
		"port_" + position + "_" + part,
		what,
		func(u *match.Unit) string {
			if p := find(u); p != nil {
				return *at(p)
			}
			return ""
		},
		func(u *match.Unit, s string) error {
			p := find(u)
			if p == nil {
				u.Ports = append(u.Ports, match.Port{Position: position})
				p = find(u)
			}
			*at(p) = s
			return nil
		},
	}
}

// of reaches into the booster's part, which is made when the first of its columns is filled.
func of(u *match.Unit) *match.BoosterSpec {
	if u.Booster == nil {
		u.Booster = &match.BoosterSpec{}
	}
	return u.Booster
}

// onlyBooster keeps a cylinder's row from growing an empty booster when it is written.
func onlyBooster(c column) column {
	get := c.get
	c.get = func(u *match.Unit) string {
		if u.Booster == nil {
			return ""
		}
		return get(u)
	}
	return c
}

// columns is the table, in the order it is written in. An empty cell is "not known".
var columns = slices.Concat([]column{
	text("id", "one of its own, up to 64 characters", func(u *match.Unit) *string { return &u.ID }),
	text("kind", "master_cylinder (also where empty), vacuum_booster, hydraulic_booster, electro_hydraulic_booster",
		func(u *match.Unit) *string { return &u.Kind }),
	text("maker", "", func(u *match.Unit) *string { return &u.Maker }),
	text("number", "as on the box", func(u *match.Unit) *string { return &u.Number }),
	text("condition", "new, rebuilt, used", func(u *match.Unit) *string { return &u.Condition }),
	{
		"bore",
		"as stamped: 15/16, 0.9375 or 23.81; written in mm",
		func(u *match.Unit) string { return number(u.BoreMM) },
		func(u *match.Unit, s string) error {
			b, err := match.ReadBore(s)
			u.BoreMM = &b.MM
			return err
		},
	},
	figure("stroke_mm", "of both pistons together", func(u *match.Unit) **float64 { return &u.StrokeMM }),
}, ports("front"), ports("rear"), []column{
	whole("studs", "on the cylinder's face", func(u *match.Unit) *int { return &u.Studs }),
	figure("stud_spacing_mm", "centre to centre", func(u *match.Unit) **float64 { return &u.StudSpacingMM }),
	figure("pocket_mm", "flange face to piston seat", func(u *match.Unit) **float64 { return &u.PocketMM }),
	text("face_seal", "o_ring, gasket, none", func(u *match.Unit) *string { return &u.FaceSeal }),
	text("sensor", "none, two_pin, three_pin", func(u *match.Unit) *string { return &u.Sensor }),
	text("connector", "keying of the sensor's plug, as seen", func(u *match.Unit) *string { return &u.Connector }),
	text("variant", "plain, abs", func(u *match.Unit) *string { return &u.Variant }),
	figure("residual_mpa", "0 for none", func(u *match.Unit) **float64 { return &u.ResidualMPA }),
	text("reservoir", "included, reuse, remote", func(u *match.Unit) *string { return &u.Reservoir }),
	{
		"remote_ports",
		"hose ports of the reservoir",
		func(u *match.Unit) string {
			if u.RemotePorts == nil {
				return ""
			}
			return strconv.Itoa(*u.RemotePorts)
		},
		func(u *match.Unit, s string) error {
			n, err := strconv.Atoi(s)
			u.RemotePorts = &n
			return err
		},
	},
	text("brakes", "disc, drum, disc_drum", func(u *match.Unit) *string { return &u.Brakes }),
	text("material", "", func(u *match.Unit) *string { return &u.Material }),
	{
		"contents",
		"item ids in the box, semicolons between",
		func(u *match.Unit) string { return strings.Join(u.Contents, ";") },
		func(u *match.Unit, s string) error {
			u.Contents = []string{}
			for _, x := range strings.Split(s, ";") {
				if x = strings.TrimSpace(x); x != "" {
					u.Contents = append(u.Contents, x)
				}
			}
			return nil
		},
	},
	plain("price", "", func(u *match.Unit) *float64 { return &u.Price }),
	plain("core", "charge for the old unit", func(u *match.Unit) *float64 { return &u.Core }),
	{
		"rebuildable",
		"yes, no",
		func(u *match.Unit) string {
			if u.Rebuildable == nil {
				return ""
			}
			return map[bool]string{true: "yes", false: "no"}[*u.Rebuildable]
		},
		func(u *match.Unit, s string) error {
			v := s == "yes"
			if !v && s != "no" {
				return fmt.Errorf("yes or no")
			}
			u.Rebuildable = &v
			return nil
		},
	},
	onlyBooster(whole("firewall_studs", "booster only", func(u *match.Unit) *int { return &of(u).FirewallStuds })),
	onlyBooster(
		figure("firewall_spacing_mm", "booster only, the wider pair", func(u *match.Unit) **float64 { return &of(u).FirewallSpacingMM }),
	),
	onlyBooster(
		figure("shell_mm", "booster only, outside diameter; hydraulic: length", func(u *match.Unit) **float64 { return &of(u).ShellMM }),
	),
	onlyBooster(text("rod_thread", "booster only", func(u *match.Unit) *string { return &of(u).RodThread })),
	onlyBooster(figure("protrusion_mm", "booster only, rod beyond its face", func(u *match.Unit) **float64 { return &of(u).ProtrusionMM })),
	onlyBooster(text("check_valve", "vacuum: left, right, top, none", func(u *match.Unit) *string { return &of(u).CheckValve })),
	onlyBooster(text("pressure_thread", "hydraulic", func(u *match.Unit) *string { return &of(u).PressureThread })),
	onlyBooster(figure("return_mm", "hydraulic, hose barb", func(u *match.Unit) **float64 { return &of(u).ReturnMM })),
	onlyBooster(figure("ratio", "booster only", func(u *match.Unit) **float64 { return &of(u).Ratio })),
	onlyBooster(figure("effective_area_mm2", "vacuum", func(u *match.Unit) **float64 { return &of(u).EffectiveAreaMM2 })),
	onlyBooster(figure("power_area_mm2", "hydraulic", func(u *match.Unit) **float64 { return &of(u).PowerAreaMM2 })),
})

func ports(position string) []column {
	return []column{
		port(position, "side", "left, right, below", func(p *match.Port) *string { return &p.Side }),
		port(position, "thread", "3/8-24, 7/16-24, 1/2-20, 9/16-18, M10x1, M12x1, M13x1.5",
			func(p *match.Port) *string { return &p.Thread }),
		port(position, "seat", "inverted_flare, bubble, banjo", func(p *match.Port) *string { return &p.Seat }),
		port(position, "circuit", "A, B", func(p *match.Port) *string { return &p.Circuit }),
	}
}

// Page is the table of columns for the docs.
func Page() string {
	var b strings.Builder
	b.WriteString("| column | holds |\n|---|---|\n")
	for _, c := range columns {
		fmt.Fprintf(&b, "| `%s` | %s |\n", c.name, c.what)
	}
	return b.String()
}
