package main

import (
	"fmt"
	"os"
	"runtime"

	"github.com/schollz/progressbar/v3"
	"github.com/spf13/cobra"

	"geminate/ground/trial"
)

func trialCommand() *cobra.Command {
	var vehicles, worlds int
	var off []float64
	var seed uint64
	var page string
	var learn int
	var second bool
	cmd := &cobra.Command{
		Use:   "trial",
		Short: "Let the diagnosis work on vehicles with hidden faults and report how it does",
		Args:  cobra.NoArgs,
		RunE: func(*cobra.Command, []string) error {
			if vehicles < 20 || vehicles > 1_000_000 || worlds < 1 || worlds > vehicles {
				return badInput{fmt.Errorf("--vehicles takes 20 to 1000000, --worlds 1 to as many as there are vehicles")}
			}
			if err := finite("off", off...); err != nil {
				return err
			}
			bar := progressbar.NewOptions(vehicles*len(off), progressbar.OptionSetWriter(os.Stderr),
				progressbar.OptionSetDescription("vehicles"), progressbar.OptionShowCount(),
				progressbar.OptionSetPredictTime(true), progressbar.OptionThrottle(200_000_000),
				progressbar.OptionClearOnFinish())
			var reports []*trial.Report
			for i, x := range off {
				r, err := trial.Run(
					trial.Options{Vehicles: vehicles, Worlds: worlds, Off: x, Seed: seed, Workers: runtime.NumCPU(), Second: second,
						Progress: func(done int) { _ = bar.Set(i*vehicles + done) }},
				)
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
			dear, err := trial.Run(
				trial.Options{
					Vehicles: max(20, vehicles/4),
					Worlds:   min(worlds, vehicles/4),
					Off:      off[0],
					Seed:     seed,
					Workers:  runtime.NumCPU(),
					Dear:     4,
				},
			)
			_ = bar.Finish()
			if err != nil {
				return err
			}
			var apart []*trial.Report
			for _, s := range []uint64{seed, seed + 1, seed + 2} {
				for _, x := range []float64{off[0], off[len(off)-1]} {
					r, err := trial.Run(
						trial.Options{
							Vehicles: max(20, vehicles/2),
							Worlds:   min(worlds, max(20, vehicles/2)),
							Off:      x,
							Seed:     s,
							Workers:  runtime.NumCPU(),
							Second:   true,
						},
					)
					if err != nil {
						return err
					}
					apart = append(apart, r)
				}
			}
			lessons, err := trial.Shops(1, seed, 6, learn, max(1, learn/3), max(20, vehicles/8))
			if err != nil {
				return err
			}
			return os.WriteFile(page, []byte(trialPage(reports, apart, dear, lessons)), 0o644)
		},
	}
	cmd.Flags().BoolVar(&second, "second", false, "draw from the second world, written apart from the engine's tables")
	cmd.Flags().IntVar(&vehicles, "vehicles", 2000, "vehicles for each distance")
	cmd.Flags().IntVar(&worlds, "worlds", 40, "worlds they are drawn from")
	cmd.Flags().
		Float64SliceVar(&off, "off", []float64{0, 0.3, 0.6, 1}, "how far the world's likelihoods lie from the engine's: standard deviation of the logarithm")
	cmd.Flags().Uint64Var(&seed, "seed", 1, "seed")
	cmd.Flags().IntVar(&learn, "learn", 300, "jobs each of six shops in a bent world is told of, for the page")
	cmd.Flags().StringVar(&page, "page", "", "write a page here instead of printing JSON")
	cmd.MarkFlagsMutuallyExclusive("second", "page") // the page has both
	return cmd
}
