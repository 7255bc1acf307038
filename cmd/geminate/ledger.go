package main

import (
	"github.com/spf13/cobra"

	"geminate/brake/ledger"
)

func ledgerCommand() *cobra.Command {
	return &cobra.Command{
		Use:   "ledger SYSTEM EVENTS",
		Short: "Follow old and new fluid through a system, event by event",
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
			events, err := ledger.Read(in)
			if err != nil {
				return badInput{err}
			}
			states, err := ledger.Run(s, events.Events)
			if err != nil {
				return badInput{err}
			}
			return print(struct {
				States []ledger.State `json:"states"`
			}{states})
		},
	}
}
