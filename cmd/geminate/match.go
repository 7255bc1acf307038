package main

import (
	"io"

	"github.com/spf13/cobra"

	"geminate/brake/catalogue"
	"geminate/brake/job"
)

func matchCommand() *cobra.Command {
	var units string
	cmd := &cobra.Command{
		Use:   "match [CASE]",
		Short: "Hold candidate units against the old one, with the pedal each would give and all to have in hand",
		Long:  "CASE is a geminate.case/1 file with old_unit, candidates, scope and bottle besides. Without an old_unit the vehicle's own figures stand in, and the points to be measured are said so.",
		Args:  cobra.MaximumNArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error {
			in, err := input(args, 0)
			if err != nil {
				return err
			}
			defer func() { _ = in.Close() }()
			c, err := job.ReadMatchCase(in)
			if err != nil {
				return err
			}
			if units != "" {
				f, err := input([]string{units}, 0)
				if err != nil {
					return err
				}
				defer func() { _ = f.Close() }()
				data, err := io.ReadAll(io.LimitReader(f, catalogue.MaxBytes+1))
				if err != nil {
					return badInput{err}
				}
				more, err := catalogue.Read(data)
				if err != nil {
					return badInput{err}
				}
				c.Candidates = append(c.Candidates, more...)
			}
			v, err := c.Match(cmd.Context())
			if err != nil {
				return err
			}
			return print(v)
		},
	}
	cmd.Flags().StringVar(&units, "units", "", "a file of units (CSV or JSON) to take as candidates besides")
	return cmd
}
