package main

import (
	"os"

	"github.com/spf13/cobra"

	"geminate/internal/licences"
)

func licencesCommand() *cobra.Command {
	return &cobra.Command{
		Use:   "licences",
		Short: "Print the licence texts of everything this program is made of",
		Args:  cobra.NoArgs,
		RunE: func(*cobra.Command, []string) error {
			text, err := licences.Text()
			if err != nil {
				return err
			}
			_, err = os.Stdout.Write(text)
			return err
		},
	}
}
