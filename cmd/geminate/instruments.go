package main

import (
	"context"
	"errors"
	"fmt"
	"os"
	"os/signal"
	"strings"
	"sync"
	"syscall"
	"time"

	"github.com/spf13/cobra"

	"geminate/brake/trace"
	"geminate/brake/twin"
	"geminate/ground/practice"
	"geminate/instrument"
)

func instrumentsCommand() *cobra.Command {
	p := instrument.Play{HZ: 20, ForceN: 300, Noise: 1}
	var list []string
	var pattern string
	var seed uint64
	var lasts time.Duration
	cmd := &cobra.Command{
		Use:   "instruments --simulate",
		Short: "Play instruments at a simulated pedal, over MQTT or HTTP, to try everything without hardware",
		Long: `Play instruments at a simulated pedal: a foot goes down, holds for a minute and comes up, over and over. Each --instrument is
kind:id:secret, as the Shop page shows them once. The vehicle is that of free practice of a kind and a number.`,
		Args: cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error {
			if p.MQTT == "" && p.URL == "" && !p.Serial || len(list) == 0 {
				return badInput{
					errors.New("say where to (--mqtt host:port, --url http://… or --serial) and which (--instrument travel:ID:SECRET)"),
				}
			}
			bay, err := (&practice.Own{Pattern: pattern, Seed: seed}).Bay(nil, nil)
			if err != nil {
				return err
			}
			model := twin.New(bay.Real())
			pedal := func(forceN, seconds float64) float64 {
				return model.Travel(forceN, false) + model.SinkMM(forceN, seconds, false)
			}
			ctx, cancel := signal.NotifyContext(cmd.Context(), os.Interrupt, syscall.SIGTERM)
			defer cancel()
			if lasts > 0 {
				ctx, cancel = context.WithTimeout(ctx, lasts)
				defer cancel()
			}
			var all sync.WaitGroup
			errs := make([]error, len(list))
			for n, x := range list {
				parts := strings.SplitN(x, ":", 3)
				if p.Serial {
					parts = append(parts, "", "")[:3]
				}
				if len(parts) != 3 {
					return badInput{fmt.Errorf("--instrument %q: it is kind:id:secret", x)}
				}
				one := instrument.StandIn{Kind: trace.Kind(parts[0]), ID: parts[1], Secret: parts[2]}
				if p.Serial {
					path, send, closing, err := instrument.OnCable()
					if err != nil {
						return err
					}
					defer closing()
					cmd.Printf("%s %s\n", one.Kind, path)
					all.Go(func() { errs[n] = one.RunTo(ctx, p, pedal, uint64(n), send) })
					continue
				}
				all.Go(func() { errs[n] = one.Run(ctx, p, pedal, uint64(n)) })
			}
			all.Wait()
			return errors.Join(errs...)
		},
	}
	f := cmd.Flags()
	f.Bool("simulate", true, "play them (there is nothing else to do yet)")
	f.StringVar(&p.MQTT, "mqtt", "", "the broker, host:port")
	f.StringVar(&p.URL, "url", "", "the shop, http://host:port")
	f.BoolVar(&p.Serial, "serial", false, "lines on a pseudo-terminal each, whose path is printed; --instrument is the kind alone then")
	f.StringArrayVar(&list, "instrument", nil, "kind:id:secret; again for each")
	f.StringVar(&pattern, "pattern", "pickup-front-rear-vacuum", "the vehicle's kind")
	f.Uint64Var(&seed, "vehicle", 1, "its number, as in free practice")
	f.Float64Var(&p.HZ, "hz", p.HZ, "readings a second")
	f.Float64Var(&p.ForceN, "force", p.ForceN, "N of the foot")
	f.Float64Var(&p.Noise, "noise", p.Noise, "share of the usual noise")
	f.Float64Var(&p.Lose, "lose", 0, "share of readings lost on the way")
	f.Float64Var(&p.Double, "double", 0, "share told twice")
	f.Float64Var(&p.Drift, "drift", 0, "of the figure, a share an hour")
	f.BoolVar(&p.Wrong, "wrong-unit", false, "tell a unit that is not its own")
	f.DurationVar(&p.Dies, "battery", 0, "how long the battery lasts; 0 for good")
	f.DurationVar(&lasts, "for", 0, "how long; 0 until it is stopped")
	return cmd
}
