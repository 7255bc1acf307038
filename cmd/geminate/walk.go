package main

import (
	"fmt"
	"os"

	"github.com/spf13/cobra"

	"geminate/ground/walk"
)

// errFound is a walk that found something: its result is printed, and the program says so.
var errFound = fmt.Errorf("the walk found a vehicle let go with a rule broken, or no way on")

func walkCommand() *cobra.Command {
	var acts int
	var seed uint64
	c := &cobra.Command{
		Use:   "walk",
		Short: "Walk over the account of the vehicle at random and hold it against rules of its own",
		Args:  cobra.NoArgs,
		RunE: func(*cobra.Command, []string) error {
			told := 0
			r, err := walk.Run(acts, seed, func(r walk.Result) {
				for _, found := range append(r.Unsafe[:len(r.Unsafe):len(r.Unsafe)], r.DeadEnds...)[min(told, len(r.Unsafe)+len(r.DeadEnds)):] {
					_, _ = fmt.Fprintln(os.Stderr, "\n"+found)
				}
				told = len(r.Unsafe) + len(r.DeadEnds)
				_, _ = fmt.Fprintf(os.Stderr, "\r%d of %d acts, %d let go, %d unsafe, %d dead ends ", r.Acts, acts, r.Passable,
					len(r.Unsafe), len(r.DeadEnds))
			})
			_, _ = fmt.Fprintln(os.Stderr)
			if err != nil {
				return err
			}
			if err := print(r); err != nil {
				return err
			}
			if len(r.Unsafe)+len(r.DeadEnds) > 0 {
				return errFound
			}
			return nil
		},
	}
	c.Flags().IntVar(&acts, "acts", 1_000_000, "how many")
	c.Flags().Uint64Var(&seed, "seed", 1, "where it begins; the same seed walks the same way")
	return c
}
