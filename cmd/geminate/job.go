package main

import (
	"io"
	"time"

	"github.com/spf13/cobra"

	"geminate/brake/job"
)

// readJob folds a job file of any version ever written; what it claims about a release is passed by.
func readJob(args []string) (*job.Job, error) {
	in, err := input(args, 0)
	if err != nil {
		return nil, err
	}
	defer func() { _ = in.Close() }()
	raw, err := io.ReadAll(io.LimitReader(in, job.MaxBytes+1))
	if err != nil {
		return nil, badInput{err}
	}
	file, err := job.ReadFile(raw, time.Now())
	if err != nil {
		return nil, badInput{err}
	}
	return job.Replay(file.ID, file.CreatedAt, file.Events), nil
}

func planCommand() *cobra.Command {
	return &cobra.Command{
		Use:   "plan [JOB]",
		Short: "Print the work plan of a job file",
		Args:  cobra.MaximumNArgs(1),
		RunE: func(_ *cobra.Command, args []string) error {
			j, err := readJob(args)
			if err != nil {
				return err
			}
			p, err := j.Plan()
			if err != nil {
				return badInput{err}
			}
			return print(p)
		},
	}
}

func verifyCommand() *cobra.Command {
	return &cobra.Command{
		Use:   "verify [JOB]",
		Short: "Judge a job file's release gate on its evidence alone",
		Args:  cobra.MaximumNArgs(1),
		RunE: func(_ *cobra.Command, args []string) error {
			j, err := readJob(args)
			if err != nil {
				return err
			}
			g, err := j.Gate()
			if err != nil {
				return badInput{err}
			}
			return print(g)
		},
	}
}
