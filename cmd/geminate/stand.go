package main

import (
	"maps"
	"slices"

	"github.com/spf13/cobra"

	"geminate/brake/stand"
)

// stood is the vehicle of a job file as it stands: what is not as found, where air may be, which steps stand.
type stood struct {
	Things []stand.Standing       `json:"things"`
	Wheels map[string]stand.Wheel `json:"wheels"`
	Dry    []string               `json:"dry"`
	Done   []string               `json:"done"`
	Left   []string               `json:"left"` // of the plan, in its order
}

func standCommand() *cobra.Command {
	return &cobra.Command{
		Use:   "stand [JOB]",
		Short: "Print how the vehicle of a job file stands: things, states, epochs, marks of air",
		Args:  cobra.MaximumNArgs(1),
		RunE: func(_ *cobra.Command, args []string) error {
			j, err := readJob(args)
			if err != nil {
				return err
			}
			v, err := j.Replace()
			if err != nil {
				return badInput{err}
			}
			out := stood{
				Things: v.Things,
				Wheels: j.State.Stand.Wheels,
				Dry:    slices.Sorted(maps.Keys(j.State.Dry)),
				Left:   v.Open,
				Done:   slices.Sorted(maps.Keys(j.Done())),
			}
			if out.Wheels == nil {
				out.Wheels = map[string]stand.Wheel{}
			}
			return print(out)
		},
	}
}
