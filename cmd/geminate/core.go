package main

import (
	"encoding/json"
	"fmt"
	"io"
	"math"
	"os"
	"path/filepath"

	"github.com/spf13/cobra"

	"geminate/brake/bench"
	"geminate/brake/bleed"
	"geminate/brake/catalogue"
	"geminate/brake/diagnose"
	"geminate/brake/pedal"
	"geminate/brake/system"
	"geminate/brake/twin"
	"geminate/server"
)

// input opens the file named, or standard input where there is none or it is "-".
func input(args []string, at int) (io.ReadCloser, error) {
	if len(args) <= at || args[at] == "-" {
		return os.Stdin, nil
	}
	f, err := os.Open(args[at])
	if err != nil {
		return nil, badInput{err}
	}
	return f, nil
}

func readSystem(args []string) (*system.System, error) {
	in, err := input(args, 0)
	if err != nil {
		return nil, err
	}
	defer func() { _ = in.Close() }()
	return system.Read(in)
}

func print(v any) error {
	enc := json.NewEncoder(os.Stdout)
	enc.SetEscapeHTML(false)
	return enc.Encode(v)
}

func finite(name string, values ...float64) error {
	for _, v := range values {
		if math.IsNaN(v) || math.IsInf(v, 0) || v < 0 || v > 1e6 {
			return badInput{fmt.Errorf("--%s: %v is not a figure that can be used (0 to 1000000)", name, v)}
		}
	}
	return nil
}

func twinCommand() *cobra.Command {
	cmd := &cobra.Command{Use: "twin", Short: "Ask the twin of a system file"}
	var forces []float64
	var noAssist bool
	apply := &cobra.Command{
		Use:   "apply [SYSTEM]",
		Short: "Apply the pedal at one or more forces",
		Args:  cobra.MaximumNArgs(1),
		RunE: func(_ *cobra.Command, args []string) error {
			if err := finite("pedal-force", forces...); err != nil {
				return err
			}
			s, err := readSystem(args)
			if err != nil {
				return err
			}
			return print(map[string]any{"points": twin.New(s).Curve(forces, !noAssist)})
		},
	}
	apply.Flags().Float64SliceVar(&forces, "pedal-force", []float64{50, 100, 200, 300}, "pedal forces in N (at a trailer: at the coupler)")
	apply.Flags().BoolVar(&noAssist, "no-assist", false, "without assist")

	var force, seconds float64
	var samples int
	hold := &cobra.Command{
		Use:   "hold [SYSTEM]",
		Short: "Hold the pedal",
		Args:  cobra.MaximumNArgs(1),
		RunE: func(_ *cobra.Command, args []string) error {
			if err := finite("pedal-force", force); err != nil {
				return err
			}
			s, err := readSystem(args)
			if err != nil {
				return err
			}
			h, err := twin.New(s).Hold(force, seconds, samples, !noAssist)
			if err != nil {
				return badInput{err}
			}
			return print(h)
		},
	}
	hold.Flags().Float64Var(&force, "pedal-force", 200, "pedal force in N")
	hold.Flags().Float64Var(&seconds, "seconds", 60, "how long")
	hold.Flags().IntVar(&samples, "samples", 7, "how many evenly spaced samples")
	hold.Flags().BoolVar(&noAssist, "no-assist", false, "without assist")

	reserve := &cobra.Command{
		Use:   "reserve [SYSTEM]",
		Short: "Assisted applications after the engine stops",
		Args:  cobra.MaximumNArgs(1),
		RunE: func(_ *cobra.Command, args []string) error {
			s, err := readSystem(args)
			if err != nil {
				return err
			}
			return print(twin.New(s).Reserve())
		},
	}
	var circuit string
	var rise float64
	heat := &cobra.Command{
		Use:   "heat [SYSTEM]",
		Short: "Pressure in a circuit trapped behind a covered port as its fluid warms",
		Args:  cobra.MaximumNArgs(1),
		RunE: func(_ *cobra.Command, args []string) error {
			s, err := readSystem(args)
			if err != nil {
				return err
			}
			t, err := twin.New(s).TrappedHeat(circuit, rise)
			if err != nil {
				return badInput{err}
			}
			return print(t)
		},
	}
	heat.Flags().StringVar(&circuit, "circuit", "A", "the circuit trapped")
	heat.Flags().Float64Var(&rise, "rise-c", 40, "how much warmer its fluid gets")
	cmd.AddCommand(apply, hold, reserve, heat)
	return cmd
}

func diagnoseCommand() *cobra.Command {
	var costs string
	cmd := &cobra.Command{
		Use:   "diagnose [CASE]",
		Short: "Rank the faults of a case file and say what to do next",
		Args:  cobra.MaximumNArgs(1),
		RunE: func(_ *cobra.Command, args []string) error {
			in, err := input(args, 0)
			if err != nil {
				return err
			}
			defer func() { _ = in.Close() }()
			c, err := diagnose.ReadCase(in)
			if err != nil {
				return err
			}
			shop := diagnose.DefaultCosts()
			if costs != "" {
				data, err := os.ReadFile(costs)
				if err != nil {
					return badInput{err}
				}
				if shop, err = diagnose.ReadCosts(data); err != nil {
					return err
				}
			}
			r, err := diagnose.Run(c, shop)
			if err != nil {
				return err
			}
			return print(r)
		},
	}
	cmd.Flags().StringVar(&costs, "costs", "", "the shop's costs (JSON); what it leaves out keeps its default")
	return cmd
}

func pushrodCommand() *cobra.Command {
	var pocket, gasket, protrusion, pitch, target, ratio, cutoff float64
	cmd := &cobra.Command{
		Use:   "pushrod",
		Short: "Work a pushrod gap out of two depths",
		Args:  cobra.NoArgs,
		RunE: func(*cobra.Command, []string) error {
			p, err := twin.PushrodGap(pocket, gasket, protrusion, pitch, target, ratio, cutoff)
			if err != nil {
				return badInput{err}
			}
			return print(p)
		},
	}
	f := cmd.Flags()
	f.Float64Var(&pocket, "pocket-mm", 0, "flange face to piston seat")
	f.Float64Var(&gasket, "gasket-mm", 0, "gasket between the units")
	f.Float64Var(&protrusion, "protrusion-mm", 0, "rod beyond the booster's face")
	f.Float64Var(&pitch, "pitch-mm", 1, "thread pitch of the rod's end")
	f.Float64Var(&target, "target-mm", 0.25, "gap wanted")
	f.Float64Var(&ratio, "pedal-ratio", 4, "pedal ratio")
	f.Float64Var(&cutoff, "cutoff-mm", math.NaN(), "travel at which the compensating port closes")
	_ = cmd.MarkFlagRequired("pocket-mm")
	_ = cmd.MarkFlagRequired("protrusion-mm")
	return cmd
}

func benchCommand() *cobra.Command {
	var c bench.Chamber
	var port string
	var tilt, stroke float64
	var strokes int
	var fast bool
	cmd := &cobra.Command{
		Use:   "bench",
		Short: "Air left in a chamber on the bench, stroke by stroke",
		Args:  cobra.NoArgs,
		RunE: func(*cobra.Command, []string) error {
			c.Port = bench.Port(port)
			r, err := c.Bleed(tilt, stroke, strokes, fast)
			if err != nil {
				return badInput{err}
			}
			return print(r)
		},
	}
	f := cmd.Flags()
	f.Float64Var(&c.BoreMM, "bore-mm", 0, "bore")
	f.Float64Var(&c.LengthMM, "length-mm", 0, "chamber ahead of the piston at rest")
	f.Float64Var(&c.PortMM, "port-mm", 0, "front edge of the outlet behind the front wall")
	f.StringVar(&port, "port", "top", "top or side")
	f.Float64Var(&tilt, "tilt-deg", 0, "nose up positive")
	f.Float64Var(&stroke, "stroke-mm", 25, "stroke")
	f.IntVar(&strokes, "strokes", 15, "how many")
	f.BoolVar(&fast, "fast", false, "fast strokes: the foam is drawn back in")
	_ = cmd.MarkFlagRequired("bore-mm")
	_ = cmd.MarkFlagRequired("length-mm")
	return cmd
}

func bleedCommand() *cobra.Command {
	o := bleed.Options{}
	var method, order string
	cmd := &cobra.Command{
		Use:   "bleed [SYSTEM]",
		Short: "Plan the bleeding of a system",
		Args:  cobra.MaximumNArgs(1),
		RunE: func(_ *cobra.Command, args []string) error {
			s, err := readSystem(args)
			if err != nil {
				return err
			}
			o.Method, o.Order = bleed.Method(method), bleed.Order(order)
			p, err := bleed.Make(s, o)
			if err != nil {
				return badInput{err}
			}
			return print(p)
		},
	}
	f := cmd.Flags()
	f.StringVar(&method, "method", "pedal", "gravity, vacuum, pressure, pedal or reverse")
	f.Float64Var(&o.DriveKPA, "drive-kpa", 0, "vacuum at the bleeder or pressure at the reservoir")
	f.Float64Var(&o.HeadMM, "head-mm", 0, "reservoir above the bleeder, for gravity")
	f.Float64Var(&o.TemperatureC, "temperature-c", 20, "of the fluid")
	f.Float64Var(&o.OldFraction, "old-fraction", 0.1, "old fluid still leaving when a wheel counts as done")
	f.Float64Var(&o.StrokeMM, "stroke-mm", 15, "stroke of the open chamber")
	f.StringVar(&order, "order", "longest", "longest, circuit or listed")
	return cmd
}

func pedalCommand() *cobra.Command {
	return &cobra.Command{
		Use:   "pedal SYSTEM READINGS",
		Short: "Estimate the air left from force and travel readings, assist exhausted",
		Args:  cobra.ExactArgs(2),
		RunE: func(_ *cobra.Command, args []string) error {
			s, err := readSystem(args)
			if err != nil {
				return err
			}
			in, err := input(args, 1)
			if err != nil {
				return err
			}
			defer func() { _ = in.Close() }()
			r, err := pedal.Read(in)
			if err != nil {
				return err
			}
			out, err := pedal.Estimate(s, *r)
			if err != nil {
				return badInput{err}
			}
			return print(out)
		},
	}
}

func patternCommand() *cobra.Command {
	var all string
	var page bool
	cmd := &cobra.Command{
		Use:   "pattern [ID]",
		Short: "Print a pattern's system file, or write all of them into a folder",
		Args:  cobra.MaximumNArgs(1),
		RunE: func(_ *cobra.Command, args []string) error {
			if all != "" {
				for _, p := range system.Patterns {
					data, err := json.MarshalIndent(p.Build(), "", "  ")
					if err != nil {
						return err
					}
					if err := os.WriteFile(filepath.Join(all, p.ID+".json"), append(data, '\n'), 0o644); err != nil {
						return err
					}
				}
				return nil
			}
			if page {
				fmt.Print(patternPage())
				return nil
			}
			if len(args) == 0 {
				for _, p := range system.Patterns {
					fmt.Println(p.ID)
				}
				return nil
			}
			s, err := system.FromPattern(args[0])
			if err != nil {
				return badInput{err}
			}
			return print(s)
		},
	}
	cmd.Flags().BoolVar(&page, "page", false, "print the page of figures (docs/patterns.md)")
	cmd.Flags().StringVar(&all, "all", "", "folder to write every pattern into")
	return cmd
}

func schemaCommand() *cobra.Command {
	var ofUnits bool
	cmd := &cobra.Command{
		Use:   "schema",
		Short: "Print the JSON Schema of a system file, or of a file of units",
		Args:  cobra.NoArgs,
		RunE: func(*cobra.Command, []string) error {
			schema := system.Schema
			if ofUnits {
				schema = catalogue.Schema
			}
			data, err := schema()
			if err != nil {
				return err
			}
			_, err = os.Stdout.Write(append(data, '\n'))
			return err
		},
	}
	cmd.Flags().BoolVar(&ofUnits, "units", false, "of a file of units")
	return cmd
}

func openapiCommand() *cobra.Command {
	return &cobra.Command{
		Use:   "openapi",
		Short: "Print the API's description",
		Args:  cobra.NoArgs,
		RunE: func(*cobra.Command, []string) error {
			data, err := server.Description()
			if err != nil {
				return err
			}
			_, err = os.Stdout.Write(append(data, '\n'))
			return err
		},
	}
}
