package main

import (
	"context"
	"errors"
	"fmt"
	"os"
	"os/signal"
	"time"

	"github.com/google/uuid"
	"github.com/spf13/cobra"

	"geminate/brake/job"
	"geminate/internal/load"
	"geminate/server"
	"geminate/store"
)

func loadCommand() *cobra.Command {
	p := load.Plan{Name: "loadtablet", Word: "forty shops full of tablets", Seed: 1}
	shops, make := 1, false
	cmd := &cobra.Command{
		Use:   "load URL",
		Short: "Play shops full of tablets against a running Geminate and report latencies and losses",
		Long: `Play shops full of tablets against a running Geminate, with the rhythm of real work: strokes in bursts, pauses, photos, gaps
without the network, live streams. Every entry that was acknowledged is looked for in the logs at the end.

The shops load1, load2 … and an account in each are needed: --make makes them on the database of GEMINATE_DATA or GEMINATE_DSN,
beside the running server. Never against a shop that works: it writes jobs into it.`,
		Args: cobra.ExactArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error {
			if shops < 1 || shops > 2000 || p.Tablets < 1 || p.Tablets > 200 {
				return badInput{errors.New("--shops takes 1 to 2000, --tablets 1 to 200")}
			}
			p.Base = args[0]
			for n := range shops {
				p.Shops = append(p.Shops, fmt.Sprintf("load%d", n+1))
			}
			ctx, cancel := signal.NotifyContext(cmd.Context(), os.Interrupt)
			defer cancel()
			if make {
				if err := makeShops(ctx, &p); err != nil {
					return err
				}
			}
			out, err := load.Run(ctx, p)
			tell(out)
			if err == nil && (len(out.Lost) > 0 || len(out.Doubled) > 0) {
				err = errors.New("something acknowledged was lost or doubled")
			}
			return err
		},
	}
	cmd.Flags().IntVar(&shops, "shops", shops, "shops, load1 to loadN")
	cmd.Flags().IntVar(&p.Tablets, "tablets", 5, "tablets of each shop")
	cmd.Flags().DurationVar(&p.For, "for", time.Minute, "how long")
	cmd.Flags().Uint64Var(&p.Seed, "seed", p.Seed, "of the rhythm")
	cmd.Flags().BoolVar(&make, "make", false, "make the shops and their account first")
	return cmd
}

func makeShops(ctx context.Context, p *load.Plan) error {
	hash, err := server.HashPassword(p.Word, p.Name)
	if err != nil {
		return err
	}
	return onChain(ctx, func(chain *store.Chain) error {
		for _, code := range p.Shops {
			st, err := chain.Add(ctx, store.Code(code))
			if errors.Is(err, store.ErrShopHere) {
				st, err = chain.Shop(ctx, store.Code(code))
			}
			if err != nil {
				return err
			}
			err = st.AddUser(
				ctx,
				&store.User{
					ID:           uuid.NewString(),
					Name:         p.Name,
					Display:      "Load",
					Role:         job.Technician,
					PasswordHash: hash,
					Units:        "metric",
					Theme:        "day",
					CreatedAt:    time.Now().UTC(),
				},
			)
			if err != nil && !errors.Is(err, store.ErrTaken) {
				return err
			}
		}
		return nil
	})
}

func tell(r load.Report) {
	fmt.Printf("%d tablets, %s\n", r.Tablets, r.Took.Round(time.Second))
	for _, row := range []struct {
		what string
		t    load.Times
	}{{"stroke", r.Stroke}, {"reading, note, after a gap", r.Other}, {"photo", r.Photo}, {"job and bay read", r.Open}, {"live, to the other tablet", r.Live}} {
		fmt.Printf("%-28s %7d  p50 %6.0f  p95 %6.0f  p99 %6.0f  most %6.0f ms\n", row.what, row.t.N, row.t.P50, row.t.P95,
			row.t.P99, row.t.Most)
	}
	fmt.Printf("acknowledged %d, lost %d, doubled %d, not heard live %d\n", r.Acked, len(r.Lost), len(r.Doubled), r.Unheard)
	for status, n := range r.Statuses {
		fmt.Printf("answered %d: %d times\n", status, n)
	}
	for what, n := range r.Problems {
		fmt.Printf("%s: %d tablets\n", what, n)
	}
}
